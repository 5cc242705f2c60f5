using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;

namespace Glenfrost.Application;

/// <summary>How far a trial of a pairing's route is.</summary>
public static class RouteStates
{
    /// <summary>It was printed and decided upon, and the value that it is for was not settled by it: it is proposed no more until something changes.</summary>
    public const string Tried = "tried";

    /// <summary>The state of a trial in a word: open, inherited, doubtful, provisional, settled or tried.</summary>
    /// <param name="trial">The trial.</param>
    /// <param name="setting">State of the value that it settles first; null where there is none.</param>
    /// <param name="machine">How the machine stands.</param>
    /// <param name="since">When the value became doubtful or was copied, UTC; null where that is not known.</param>
    /// <param name="decidedAt">When a run of the trial was last decided upon or left, UTC; null for never.</param>
    public static string Of(Trial trial, SettingState? setting, StoneState machine, DateTime? since, DateTime? decidedAt)
    {
        if (trial.Subject == TrialSubject.Toolhead)
            return machine switch { StoneState.Open => "open", StoneState.Doubtful => "doubtful", _ => "settled" };
        var state = setting switch
        {
            null or SettingState.Start => "open",
            SettingState.Inherited => "inherited",
            SettingState.Doubtful => "doubtful",
            SettingState.Confirmed => "settled",
            _ => "provisional",
        };
        // A copy or a starting value that stood before the run was not settled by it; neither was a doubt that the run did not take away.
        return state is "open" or "inherited" or "doubtful" && decidedAt is { } at && (since is not { } from || from <= at) ? Tried : state;
    }
}
