using Glenfrost.Core.Ageing;

namespace Glenfrost.Core.Factors;

/// <summary>Which factors must be equal for two runs of a trial to be repeats.</summary>
/// <param name="Areas">Areas of evidence that the trial settles.</param>
/// <param name="SetAside">Factors that a sweep goes through, or that only say how it is read.</param>
/// <param name="Situation">Filament and printer.</param>
public sealed record PoolingRule(IReadOnlyList<string> Areas, IReadOnlyCollection<string> SetAside, FactorSituation Situation)
{
    // Settings of the first layer, of the bed and of what happens before or after the print: they matter to trials of those, not to a wall.
    private static readonly HashSet<string> FirstLayer =
    [
        "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC", "firstLayerSpeedMmPerS", "nozzleOffsetMm", "fanFirstLayers", "adhesive", "brimWidthMm",
        FactorRegistry.Surface,
    ];

    private static readonly HashSet<string> Around = ["bedTemperatureC", "draughtShield", FactorRegistry.Enclosure, "chamberTemperatureC"];

    private static readonly HashSet<string> Never =
    [
        FactorRegistry.Person, FactorRegistry.Instrument, FactorRegistry.File, FactorRegistry.HumidityPercent, FactorRegistry.HoursOpen,
        FactorRegistry.RoomEndC, FactorRegistry.ChamberEndC, "dryingTemperatureC", "dryingHours", "releaseBedTemperatureC", "standbyNozzleTemperatureC",
        "fanMinPercent", "fanRampLayerTimeS",
    ];

    private static readonly HashSet<string> WarmSurroundings = ["warp", "bond", "first-layer"];

    /// <summary>True where runs that differ in it, or of which nobody knows it, are no repeats.</summary>
    /// <param name="key">Key of a factor.</param>
    public bool Matters(string key)
    {
        if (SetAside.Contains(key) || Never.Contains(key))
            return false;
        if (FirstLayer.Contains(key))
            return Areas.Contains("first-layer") || Areas.Contains("warp");
        if (Around.Contains(key))
            return Situation.ShrinksMuch || Areas.Any(WarmSurroundings.Contains);
        // How the bed cools behind the print is part of a corner's lift, and of nothing that is read off its layers.
        if (key == "coolDown")
            return Areas.Contains("warp");
        if (key == FactorRegistry.RoomC)
            return Areas.Contains("warp") || (Situation.ShrinksMuch && !Situation.Enclosed);
        if (key == FactorRegistry.Firmware)
            return Areas.Contains("pressure") || Areas.Contains("feed");
        if (key.StartsWith(FactorRegistry.PartPrefix, StringComparison.Ordinal))
        {
            var change = key[FactorRegistry.PartPrefix.Length..];
            return change.StartsWith("nozzle", StringComparison.Ordinal) || AgeingRules.Find(change)?.Areas.Any(Areas.Contains) == true;
        }

        return true;
    }
}

/// <summary>Whether a run is judged together with another one.</summary>
/// <param name="Together">True where nothing that matters differs or is unknown.</param>
/// <param name="Because">What keeps them apart: differences first, then what is unknown.</param>
/// <param name="Listed">What differs and does not matter here.</param>
/// <param name="FromMemory">What somebody said to be probably the same.</param>
public sealed record PoolingAnswer(
    bool Together, IReadOnlyList<FactorDifference> Because, IReadOnlyList<FactorDifference> Listed, IReadOnlyList<FactorDifference> FromMemory);

/// <summary>
/// Repeats are pooled only where nothing that the trial names as mattering differs or is unknown. Each is compared with the run that is judged, never in a
/// chain.
/// </summary>
public static class Pooling
{
    /// <summary>Asks whether two runs are repeats.</summary>
    /// <param name="rule">What matters to their trial.</param>
    /// <param name="judged">The run that is judged.</param>
    /// <param name="other">A run before it.</param>
    /// <param name="define">Definitions of measures of pieces.</param>
    /// <param name="joined">True for spools that a quick check found alike.</param>
    public static PoolingAnswer Ask(
        PoolingRule rule, FactorSet judged, FactorSet other, Func<string, FactorDefinition?>? define = null, Func<Guid, Guid, bool>? joined = null)
    {
        var all = FactorComparison.Of(judged, other, define, joined);
        var told = all.Where(FoundWith.IsTold).ToList();
        var because = told.Where(d => d.State != Sameness.Same && (d.Turned is not null || rule.Matters(d.Factor.Key)))
            .OrderBy(d => d.State == Sameness.Unknown).ToList();
        return new(
            because.Count == 0, because, [.. told.Where(d => d.State == Sameness.Differs && !because.Contains(d))],
            [.. told.Where(d => d.FromMemory && rule.Matters(d.Factor.Key))]);
    }
}
