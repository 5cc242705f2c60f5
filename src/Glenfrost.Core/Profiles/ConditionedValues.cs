using Glenfrost.Core.Gcode.Writing;
using System.Globalization;
using Glenfrost.Core.Evidence;

namespace Glenfrost.Core.Profiles;

/// <summary>
/// Values that belong to the nozzle temperature at which they were found: flow limit, multiplier, K. A profile may hold several; one of them is in force, or
/// none is known for the
/// temperature in force.
/// </summary>
public static class ConditionedValues
{
    /// <summary>Keys of the settings dictionary whose values are found at a temperature.</summary>
    public static IReadOnlyList<string> Keys { get; } = ["extrusionMultiplier", "pressureAdvance", "maxVolumetricFlowMm3PerS"];

    /// <summary>
    /// One row for each key: of several by condition the nearest to the temperature in force; one that was found too far from it is marked as not known there.
    /// </summary>
    /// <param name="rows">All rows of a profile.</param>
    public static IReadOnlyList<ProfileSetting> InForce(IReadOnlyList<ProfileSetting> rows)
    {
        var nozzleC = rows.FirstOrDefault(r => r.Key == "nozzleTemperatureC")?.Value;
        return [.. rows.GroupBy(r => r.Key).Select(g => One([.. g], nozzleC))];
    }

    private static ProfileSetting One(IReadOnlyList<ProfileSetting> same, double? nozzleC)
    {
        if (nozzleC is not { } t)
            return same[^1];
        // A value without condition stands for any temperature, but one found here counts for more.
        var nearest = same.Where(s => s.AtC is not null).OrderBy(s => Math.Abs(s.AtC!.Value - t)).FirstOrDefault();
        if (nearest is not null && EvidenceFold.SameCondition(nearest.AtC, t))
            return nearest;
        return same.LastOrDefault(s => s.AtC is null) ?? nearest! with { NotKnownAtC = t };
    }

    /// <summary>Puts a value in: it takes the place of those found at the same temperature, and of those without one; others stay.</summary>
    public static IReadOnlyList<ProfileSetting> Put(IEnumerable<ProfileSetting> rows, ProfileSetting value) =>
        [.. rows.Where(r => r.Key != value.Key || !EvidenceFold.SameCondition(r.AtC, value.AtC)), value];

    /// <summary>
    /// Values to plan with, by key. A flow limit found hotter is left out, since melt flows less when it is colder; one found colder is kept, since it bears at
    /// least that.
    /// </summary>
    public static IReadOnlyDictionary<string, double> ForPlanning(IEnumerable<ProfileSetting> inForce) => inForce
        .Where(s => s.Word is null && !(s.Key == "maxVolumetricFlowMm3PerS" && s.NotKnownAtC is { } t && s.AtC > t)).ToDictionary(s => s.Key, s => s.Value);

    /// <summary>"Found at 235: 17; at 220 not known." Null where the value is of the temperature in force.</summary>
    public static string? Elsewhere(ProfileSetting s, Func<double, string> text) => s is { NotKnownAtC: { } t, AtC: { } found }
        ? string.Create(CultureInfo.InvariantCulture, $"found at {found:0.#}: {text(s.Value)}; at {t:0.#} not known") : null;
}
