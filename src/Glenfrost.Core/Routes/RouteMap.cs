using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;

namespace Glenfrost.Core.Routes;

/// <summary>In which order a pairing is profiled.</summary>
public enum RouteSchool
{
    /// <summary>Machine, feed and first layer before the temperature: the default.</summary>
    MachineFirst,

    /// <summary>The temperature at once, on a machine that is trusted.</summary>
    TemperatureFirst,

    /// <summary>Pressure advance, flow and flow limit at the label's middle temperature, looks afterwards: for production.</summary>
    SpeedFirst,

    /// <summary>The tester's own.</summary>
    Own,
}

/// <summary>Why a station comes after another one.</summary>
public enum RouteReason
{
    /// <summary>A feed error shows up as a false flow value on every material.</summary>
    FeedFalsifiesFlow,

    /// <summary>What a sample weighs is what the feed delivers.</summary>
    FeedFalsifiesLimit,

    /// <summary>Strings belong to their temperature: lowered until they vanish, it leaves the part starved.</summary>
    StringsBelongToTemperature,

    /// <summary>A piece at the kept profile shows whether its values hold together.</summary>
    ShowsThemTogether,

    /// <summary>Which temperature bonds best is asked beside the one that looks best: without it nothing is there to compare with.</summary>
    BondBesideTemperature,
}

/// <summary>That a station leans on another one.</summary>
/// <param name="On">Key of the other.</param>
/// <param name="Reason">Why.</param>
public sealed record Leaning(string On, RouteReason Reason);

/// <summary>An area of evidence that a route passes.</summary>
/// <param name="Key">Its key, as the ageing rules name it; feed for the extruder's.</param>
/// <param name="Trials">Kinds of trials that settle it, the usual one first: one of them is enough.</param>
/// <param name="SettingKey">The setting that says how far it is; null for the machine's, and for the verification.</param>
/// <param name="LeansOn">What must be settled before, in every school.</param>
public sealed record Station(string Key, IReadOnlyList<string> Trials, string? SettingKey, IReadOnlyList<Leaning> LeansOn)
{
    /// <summary>The use that it is there for; null for all.</summary>
    public string? OnlyFor { get; init; }

    /// <summary>True where the tester may leave it out: all but the machine's.</summary>
    public bool CanBeLeftOut => SettingKey is not null || Key is RouteMap.Bond or RouteMap.Verification;
}

/// <summary>Stations, schools and what leans on what.</summary>
public static class RouteMap
{
    /// <summary>Key of the last station: a piece at the kept profile, which settles no value and confirms several.</summary>
    public const string Verification = "verification";

    /// <summary>Key of the layers' bond: evidence without a setting of its own, on which strength as a use leans.</summary>
    public const string Bond = LayerBondTrial.Bond;

    /// <summary>Stations whose values such a piece confirms.</summary>
    public static IReadOnlyList<string> Verified { get; } = ["temperature", "strings", "pressure"];

    /// <summary>Stations in the default order.</summary>
    public static IReadOnlyList<Station> Stations { get; } =
    [
        new("feed", ["extruder-feed"], null, []),
        new("first-layer", ["first-layer"], "nozzleOffsetMm", []),
        new("temperature", ["temperature-tower"], "nozzleTemperatureC", []),
        new("flow", ["foaming-flow", "wall-flow", "surface-flow"], "extrusionMultiplier", [new("feed", RouteReason.FeedFalsifiesFlow)]),
        new("strings", ["flex-compression", "retraction-sweep"], "retractionLengthMm", [new("temperature", RouteReason.StringsBelongToTemperature)]),
        new("pressure", ["pressure-advance"], "pressureAdvance", []),
        new(
            "flow-limit", ["flow-limit-weighed", "flow-limit-rising", "flow-limit-steps"], "maxVolumetricFlowMm3PerS",
            [new("feed", RouteReason.FeedFalsifiesLimit)]),
        new(Bond, [LayerBondTrial.Word], null, [new("temperature", RouteReason.BondBesideTemperature)]) { OnlyFor = "strength" },
        new(Verification, [Trials.Verification.VerificationTrial.Word], null, []),
    ];

    /// <summary>The stations of a family and a use, each with the trials that suit it; one that nothing suits is none of them.</summary>
    /// <param name="family">Name of a family.</param>
    /// <param name="use">What the pairing is for; null where nobody said.</param>
    public static IReadOnlyList<Station> Of(string family, string? use = null) =>
        [.. Stations.Where(s => s.OnlyFor is null || (s.OnlyFor == use && s.Trials.Any(t => TrialCatalogue.Get(t).Suits(family))))
            .Select(s => s with { Trials = [.. s.Trials.Where(t => TrialCatalogue.Get(t).Suits(family))] })];

    /// <summary>Words of the schools that have one.</summary>
    public static IReadOnlyDictionary<string, RouteSchool> Schools { get; } = new Dictionary<string, RouteSchool>
    {
        ["machine-first"] = RouteSchool.MachineFirst, ["temperature-first"] = RouteSchool.TemperatureFirst, ["speed-first"] = RouteSchool.SpeedFirst,
    };

    /// <summary>What is stored of a pairing's route: the word of a school, or keys with commas.</summary>
    /// <param name="stored">As stored; null for the default.</param>
    public static (RouteSchool School, IReadOnlyList<string> Order) Read(string? stored) =>
        string.IsNullOrWhiteSpace(stored) ? (RouteSchool.MachineFirst, [])
        : Schools.TryGetValue(stored, out var school) ? (school, [])
        : (RouteSchool.Own, stored.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries));

    /// <summary>Keys of the stations in the order of a school; what leans on something comes after it in each.</summary>
    public static IReadOnlyList<string> Order(RouteSchool school) => school switch
    {
        RouteSchool.TemperatureFirst => ["temperature", "feed", "first-layer", "flow", "strings", "pressure", "flow-limit", Bond, Verification],
        RouteSchool.SpeedFirst => ["feed", "first-layer", "pressure", "flow", "flow-limit", "temperature", "strings", Bond, Verification],
        _ => [.. Stations.Select(s => s.Key)],
    };

    /// <summary>The first of some keys that names no station; null where each does.</summary>
    public static string? Unknown(IEnumerable<string> keys) => keys.FirstOrDefault(k => Stations.All(s => s.Key != k));

    /// <summary>
    /// An own order made whole: what it does not name follows in the default order, what is named twice or unknown is left out, and a station that leans on a
    /// later one waits for it.
    /// </summary>
    /// <param name="wanted">Keys as the tester put them.</param>
    public static IReadOnlyList<string> Whole(IEnumerable<string> wanted)
    {
        var all = Stations.ToDictionary(s => s.Key);
        List<string> left = [.. wanted.Concat(all.Keys).Where(all.ContainsKey).Distinct()];
        var order = new List<string>();
        while (left.Count > 0)
        {
            // Leanings form no circle, so one of those that are left always may come.
            var next = left.First(k => all[k].LeansOn.All(l => order.Contains(l.On)));
            order.Add(next);
            left.Remove(next);
        }

        return order;
    }
}
