using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;

namespace Glenfrost.Application;

/// <summary>Settings that are laid over a profile's: held as they were in a run while something else is exchanged, or those of a tier.</summary>
/// <param name="From">Where they come from, as the settings in force say it.</param>
/// <param name="Values">By key of the settings dictionary, in its units.</param>
public sealed record HeldSettings(string From, IReadOnlyDictionary<string, double> Values)
{
    /// <summary>The profile as it is.</summary>
    public static HeldSettings Nothing { get; } = new("", new Dictionary<string, double>());

    /// <summary>True where the bed's cool-down is left out of this one file.</summary>
    public bool LeftToCool { get; init; }

    // What belongs to the reel itself is exchanged with it.
    private static readonly HashSet<string> OfTheReel = ["filamentDiameterMm", "dryingTemperatureC", "dryingTimeH"];

    /// <summary>What a run was really made with, as far as it is known: what it swept is its plan's, not held.</summary>
    public static HeldSettings Of(TrialRunView v) => new(
        $"held as in {(v.Pairing is null ? v.Called : $"{v.Called} on {v.Name}")}",
        v.Factors.Values.Where(f => f.Value is { Applies: true, Number: not null } && SettingRegistry.Find(f.Key) is { Words: null }
            && !OfTheReel.Contains(f.Key) && !v.Factors.Swept.Contains(f.Key)).ToDictionary(f => f.Key, f => f.Value.Number!.Value));

    /// <summary>What a tier makes otherwise than the profile: its own values, and what was found at its temperature.</summary>
    /// <param name="tier">The tier.</param>
    /// <param name="profile">The profile that it is of; null before its first revision.</param>
    public static HeldSettings Of(Tier tier, ProfileView? profile)
    {
        var own = tier.Values.ToDictionary(v => v.Key, v => v.Value);
        if (profile is not null)
        {
            var made = new ProfileView(profile.RevisionId, profile.Number, profile.At, Tiers.Over(profile.Rows, tier)).ForPlanning;
            foreach (var (key, value) in made.Where(v => !profile.ForPlanning.TryGetValue(v.Key, out var now) || Math.Abs(now - v.Value) > 1e-9))
                own[key] = value;
        }

        return new($"tier {tier.Name}", own);
    }

    /// <summary>Laid over what a profile says.</summary>
    public IReadOnlyDictionary<string, double> Over(IReadOnlyDictionary<string, double> profile) =>
        profile.Where(p => !Values.ContainsKey(p.Key)).Concat(Values).ToDictionary(p => p.Key, p => p.Value);
}
