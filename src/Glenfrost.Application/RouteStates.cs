using Glenfrost.Core.Profiles;

namespace Glenfrost.Application;

/// <summary>Whether a trial of a route was tried in vain.</summary>
public static class RouteStates
{
    /// <summary>
    /// True where a trial was printed and decided upon, and the value that it is for was not settled by it: it is proposed no more until something changes. A
    /// copy or a starting value that stood before the run was not settled by it; neither was a doubt that the run did not take away.
    /// </summary>
    /// <param name="setting">State of the value that it settles first; null where there is none.</param>
    /// <param name="since">When the value became doubtful or was copied, UTC; null where that is not known.</param>
    /// <param name="decidedAt">When a run of the trial was last decided upon or left, UTC; null for never.</param>
    public static bool IsTried(SettingState? setting, DateTime? since, DateTime? decidedAt) =>
        setting is null or SettingState.Start or SettingState.Inherited or SettingState.Doubtful
        && decidedAt is { } at
        && (since is not { } from || from <= at);
}
