namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>A layer that asks for more flow than a limit.</summary>
/// <param name="Index">From 0, in the order of the file.</param>
/// <param name="ZMm">Height of the nozzle.</param>
/// <param name="MaxFlowMm3PerS">Its fastest flow.</param>
/// <param name="Line">Line of the file where it is reached.</param>
public sealed record LayerAbove(int Index, double ZMm, double MaxFlowMm3PerS, int Line);

/// <summary>What a flow limit does to a file.</summary>
/// <param name="LimitMm3PerS">The limit.</param>
/// <param name="Above">Layers above it.</param>
/// <param name="SecondsAbove">Time that is printed above it, s.</param>
/// <param name="CostSeconds">Time that keeping it costs, s.</param>
/// <param name="SavesSeconds">Time that it would save where the file is held lower, s; at most, since acceleration takes its part.</param>
/// <param name="CapMm3PerS">Flow that the file seems to be held to, mm³/s.</param>
public sealed record FlowEffect(
    double LimitMm3PerS, IReadOnlyList<LayerAbove> Above, double SecondsAbove, double CostSeconds, double SavesSeconds, double CapMm3PerS)
{
    /// <summary>What is within this of a limit counts as at it.</summary>
    public const double Within = 0.005;

    /// <summary>
    /// Reckons from the histogram of flow over time: what is printed at a flow q above the limit L for t seconds takes t·q/L then. What runs at the file's own
    /// cap (the flow that one
    /// part in fifty of its time exceeds, and all within 4 % below it) could run at the limit instead, t·cap/L.
    /// </summary>
    public static FlowEffect Of(FileFacts f, double limit)
    {
        var above = f.Layers.Where(l => !l.Priming && l.MaxFlow > limit * (1 + Within))
            .Select(l => new LayerAbove(l.Index, l.Z, Math.Round(l.MaxFlow, 3), l.MaxFlowLine)).ToList();
        var cap = f.Flow.Total > 0 ? f.Flow.Quantile(0.98) : 0;
        var (over, cost, saves) = (0.0, 0.0, 0.0);
        for (var i = 0; i < f.Flow.Weights.Count; i++)
        {
            var (seconds, flow) = (f.Flow.Weights[i], (i + 0.5) * f.Flow.Width);
            if (seconds <= 0)
                continue;
            if (flow > limit * (1 + Within))
                cost += seconds * (flow / limit - 1);
            else if (cap > 0 && cap < limit && flow >= 0.96 * cap)
                saves += seconds * (1 - flow / limit);
        }

        // Counted as the layers are: by the fastest that a move gets, and the very number that the file was inspected for.
        for (var i = 0; i < f.PeakFlow.Weights.Count; i++)
            over += (i + 0.5) * f.PeakFlow.Width > limit * (1 + Within) ? f.PeakFlow.Weights[i] : 0;
        if (f.Request.FlowLimit == limit)
            over = f.SecondsAbove;
        return new(limit, above, over, cost, saves, cap);
    }
}
