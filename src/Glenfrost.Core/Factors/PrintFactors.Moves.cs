using Glenfrost.Core.Gcode.Inspection;

namespace Glenfrost.Core.Factors;

/// <content>What the moves of a file tell of its settings.</content>
public static partial class PrintFactors
{
    /// <summary>Settings that are read off the moves, not off a line that sets them.</summary>
    private static readonly HashSet<string> OfMoves =
    [
        "outerWallSpeedMmPerS", "innerWallSpeedMmPerS", "fillSpeedMmPerS", "bridgeSpeedMmPerS", "firstLayerSpeedMmPerS", "travelSpeedMmPerS",
        "retractionSpeedMmPerS", "unretractSpeedMmPerS", "zHopMm", "lineWidthMm", "minLayerTimeS",
    ];

    /// <summary>
    /// Speeds as the fastest layer lays each feature, so that layers which are slowed to a least time hide nothing; travel, retraction and hop as most are;
    /// width as outer walls have it.
    /// </summary>
    private static IEnumerable<(string Key, double? Value)> Moves(FileFacts f, List<LayerFacts> model)
    {
        var above = model.Skip(1).ToList();
        var speeds = SlowDowns.FastestSpeeds(f, above);
        var laid = above.SelectMany(l => l.Features).Where(x => x.Length > 0).Select(x => x.Feature).ToHashSet();
        // Where a file calls two kinds of lines so and lays them at two speeds, neither is the setting's.
        foreach (var of in laid.Where(i => i >= 0).GroupBy(i => KeyOf(f.Features[i].Name)))
        {
            var asked = of.Select(i => speeds[i]).ToList();
            if (of.Key is { } key && asked.Max() - asked.Min() < 1)
                yield return (key, Math.Round(asked[0], 1));
        }

        // A first layer is of one speed in all that it lays, or it says nothing.
        var first = model[0].Features.Where(x => x.Asked > 0).Select(x => x.Length / x.Asked).ToList();
        if (first.Count > 0 && first.Max() - first.Min() < 1)
            yield return ("firstLayerSpeedMmPerS", Math.Round(first[0], 1));
        yield return ("travelSpeedMmPerS", Most(f.TravelSpeed));
        if (f.Retraction.Count > f.Retraction.Firmware)
        {
            yield return ("retractionSpeedMmPerS", f.Retraction.UsualSpeed);
            yield return ("unretractSpeedMmPerS", Most(f.Retraction.ReturnSpeed));
            // A lift to the next layer, pulled back, is no hop.
            var hop = Most(f.Retraction.Hop);
            var onlyLayers = hop is { } lift && f.Retraction.Hop.Total <= f.Layers.Count && model.Exists(l => Math.Abs(l.Thickness - lift) < 0.011);
            yield return ("zHopMm", hop is null || onlyLayers ? 0 : hop);
        }

        yield return ("lineWidthMm", Width(f, above));
        yield return ("minLayerTimeS", f.StatedLayerTimeS);
    }

    /// <summary>The setting of a feature's speed by what the file calls it; null where it is another one, or two could be meant.</summary>
    private static string? KeyOf(string name)
    {
        bool Has(string word) => name.Contains(word, StringComparison.OrdinalIgnoreCase);
        return Has("overhang") || Has("gap") ? null
            : Has("bridge") ? "bridgeSpeedMmPerS"
            : Has("wall") && (Has("outer") || Has("outside") || Has("external")) ? "outerWallSpeedMmPerS"
            : Has("wall") && (Has("inner") || Has("inside") || Has("internal")) ? "innerWallSpeedMmPerS"
            : name is "fill" or "infill" || (Has("fill") && (Has("sparse") || Has("solid"))) ? "fillSpeedMmPerS"
            : null;
    }

    /// <summary>Mean width of outer walls by what is laid in them, mm; null where the file does not name them.</summary>
    private static double? Width(FileFacts f, List<LayerFacts> layers)
    {
        var walls = layers.Where(l => l.Thickness > 0)
            .SelectMany(l => l.Features.Where(x => x.Feature >= 0 && KeyOf(f.Features[x.Feature].Name) == "outerWallSpeedMmPerS")
                .Select(x => (x.Length, Area: x.Volume / l.Thickness)))
            .ToList();
        var length = walls.Sum(w => w.Length);
        return length > 0 ? Math.Round(walls.Sum(w => w.Area) / length, 2) : null;
    }

    /// <summary>The value with the most weight, rounded to its class; null where there is none.</summary>
    private static double? Most(Histogram h)
    {
        var most = h.Weights.Max();
        return most <= 0 ? null : Math.Round(h.Weights.Select((w, i) => (w, i)).First(x => x.w == most).i * h.Width, 3);
    }
}
