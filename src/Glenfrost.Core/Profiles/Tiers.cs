using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Profiles;

/// <summary>A value that a tier has of its own.</summary>
/// <param name="Key">Of the settings dictionary; a number.</param>
/// <param name="Value">In its unit.</param>
public sealed record TierValue(string Key, double Value);

/// <summary>A named variant of a profile: good, fast, strong. What it does not say is the profile's.</summary>
/// <param name="Name">As the tester calls it.</param>
/// <param name="Values">What it has of its own, each key once.</param>
public sealed record Tier(string Name, IReadOnlyList<TierValue> Values);

/// <summary>The tiers of a pairing as they are stored.</summary>
public sealed record TierList
{
    /// <summary>Most tiers of a pairing, values of a tier, characters of a name.</summary>
    public const int MostTiers = 6, MostValues = 12, LongestName = 24;

    /// <summary>The tiers, in the order in which they were made.</summary>
    public IReadOnlyList<Tier> Tiers { get; init; } = [];

    /// <summary>What stood before, for taking it back; null where nothing did.</summary>
    public TierList? Before { get; init; }

    /// <summary>The tier of that name; null where there is none.</summary>
    public Tier? Find(string? name) => Tiers.FirstOrDefault(t => string.Equals(t.Name, name, StringComparison.OrdinalIgnoreCase));

    /// <summary>What is wrong with a list that came from elsewhere; null where nothing is.</summary>
    public string? Fault() =>
        Tiers.Count > MostTiers ? $"has {Tiers.Count} tiers; at most {MostTiers} would be right"
        : Tiers.Any(t => t is null || string.IsNullOrWhiteSpace(t.Name) || t.Name.Length > LongestName)
            ? $"has a name that is empty, or longer than {LongestName}"
        : Tiers.DistinctBy(t => t.Name.ToUpperInvariant()).Count() < Tiers.Count ? "has two tiers of one name"
        : Tiers.FirstOrDefault(t => t.Values is null || t.Values.Count > MostValues || t.Values.DistinctBy(v => v.Key).Count() < t.Values.Count) is { } crowded
            ? $"\"{crowded.Name}\" has a value twice, or more than {MostValues}"
        : Tiers.SelectMany(t => t.Values).FirstOrDefault(v => !IsTaken(v)) is { } bad
            ? $"\"{bad.Key}\" is no setting with a number, or {bad.Value} is none of its values"
        : Before is { Before: not null } ? "is longer than any that is written here"
        : Before?.Fault();

    private static bool IsTaken(TierValue v) =>
        SettingRegistry.Find(v.Key) is { Words: null } d && double.IsFinite(v.Value)
        && Math.Abs(v.Value) < 1e12 && d.Quantity.Check((decimal)v.Value).Error is null;

    /// <summary>The list with a value of a tier, which is made where there is none of that name.</summary>
    public TierList With(string name, TierValue value) => Changed([
        .. Find(name) is { } tier ? Tiers.Select(t => t == tier ? t with { Values = [.. t.Values.Where(v => v.Key != value.Key), value] } : t)
            : Tiers.Append(new(name.Trim(), [value])),
    ]);

    /// <summary>The list without a value of a tier; a tier that has none left is gone.</summary>
    /// <param name="name">Of the tier.</param>
    /// <param name="key">Of the value; null for all of the tier.</param>
    public TierList Without(string name, string? key) => Changed([
        .. Tiers.Select(t => t == Find(name) ? t with { Values = [.. t.Values.Where(v => key is not null && v.Key != key)] } : t)
            .Where(t => t.Values.Count > 0),
    ]);

    private TierList Changed(IReadOnlyList<Tier> to) => new() { Tiers = to, Before = this with { Before = null } };
}

/// <summary>What is to be said of a tier.</summary>
public enum TierRemarkKind
{
    /// <summary>A value was found at another nozzle temperature than the tier's.</summary>
    NotKnownThere,

    /// <summary>A speed asks for more than the flow limit at this temperature.</summary>
    AboveFlowLimit,

    /// <summary>A value lies outside what the run that settled it shows.</summary>
    OutsideFound,
}

/// <summary>A remark on a tier.</summary>
/// <param name="Kind">What.</param>
/// <param name="Key">Setting that it is of.</param>
/// <param name="Value">Of the tier: temperature, flow in mm³/s, or the value itself.</param>
/// <param name="Beside">What it is set beside: temperature that it was found at, the limit, the kept value.</param>
/// <param name="Half">95 % half-width of the kept value; null where it is none of it.</param>
public sealed record TierRemark(TierRemarkKind Kind, string Key, double Value, double Beside, double? Half = null);

/// <summary>A profile as a tier makes it: one body of evidence, and what the tier has of its own.</summary>
public static class Tiers
{
    private static readonly string[] Printed = ["outerWallSpeedMmPerS", "innerWallSpeedMmPerS", "fillSpeedMmPerS"];

    /// <summary>
    /// The values in force: the tier's own are nobody's measurement, unless they are the profile's; those that belong to a temperature are
    /// taken for the tier's.
    /// </summary>
    /// <param name="rows">All rows of the profile.</param>
    /// <param name="tier">The tier.</param>
    public static IReadOnlyList<ProfileSetting> Over(IReadOnlyList<ProfileSetting> rows, Tier tier)
    {
        var now = ConditionedValues.InForce(rows);
        var own = tier.Values.Where(v => now.FirstOrDefault(s => s.Key == v.Key) is not { Word: null } s || Math.Abs(s.Value - v.Value) > 1e-9).ToList();
        return ConditionedValues.InForce([
            .. rows.Where(r => own.All(v => v.Key != r.Key)),
            .. own.Select(v => new ProfileSetting(v.Key, v.Value, null, SettingOrigin.Typed, $"tier {tier.Name}", SettingState.Start, "of this tier")),
        ]);
    }

    /// <summary>What is to be said of a tier: what nobody found at its temperature, speeds above its flow limit, values outside what was found.</summary>
    /// <param name="rows">All rows of the profile.</param>
    /// <param name="tier">The tier.</param>
    /// <param name="nozzleMm">Nozzle, for lines and layers that nobody said.</param>
    public static IReadOnlyList<TierRemark> Of(IReadOnlyList<ProfileSetting> rows, Tier tier, double nozzleMm)
    {
        var (kept, over) = (ConditionedValues.InForce(rows), Over(rows, tier));
        double? At(string key) => over.FirstOrDefault(s => s.Key == key)?.Value;
        var remarks = new List<TierRemark>();
        foreach (var v in tier.Values)
        {
            if (kept.FirstOrDefault(s => s.Key == v.Key) is { IsEvidence: true, Uncertainty: { } half } found && Math.Abs(v.Value - found.Value) > half + 1e-9)
                remarks.Add(new(TierRemarkKind.OutsideFound, v.Key, v.Value, found.Value, half));
        }

        if (At("nozzleTemperatureC") is { } c)
            remarks.AddRange(
                over.Where(s => s is { IsEvidence: true, NotKnownAtC: not null, AtC: not null })
                    .Select(s => new TierRemark(TierRemarkKind.NotKnownThere, s.Key, c, s.AtC!.Value)));
        var limit = over.FirstOrDefault(s => s.Key == "maxVolumetricFlowMm3PerS");
        if (limit is { NotKnownAtC: null })
        {
            var area = Bead.Area(BeadModel.Stadium, At("lineWidthMm") ?? 1.1 * nozzleMm, At("layerHeightMm") ?? nozzleMm / 2);
            foreach (var key in Printed)
            {
                // One that the profile has already is the profile's matter.
                if (At(key) is { } speed && speed * area > limit.Value + 1e-9
                    && tier.Values.Any(v => v.Key == key || v.Key is "layerHeightMm" or "lineWidthMm"))
                    remarks.Add(new(TierRemarkKind.AboveFlowLimit, key, Math.Round(speed * area, 2), limit.Value));
            }
        }

        return remarks;
    }
}
