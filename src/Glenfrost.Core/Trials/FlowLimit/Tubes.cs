using Glenfrost.Core.Equipment;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What both tubes propose.</summary>
internal static class Tubes
{
    /// <summary>A diameter that fits the bed.</summary>
    internal static decimal Diameter(PlanContext c) =>
        c.Machine is { } m ? Math.Clamp(Math.Floor((decimal)Math.Min(m.BedXMm, m.BedYMm - 16) - 30), 20, 100) : 80;

    /// <summary>
    /// A line that carries much flow at little speed, a tube that fits, and the flow that is reached at most: about twice what stands as flow limit.
    /// </summary>
    internal static (double HeightMm, double WidthMm, decimal DiameterMm, double TopMm3PerS) Line(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var (height, width, diameter) = (Math.Round(nozzle * 0.75, 2), Math.Round(nozzle * 1.5, 2), Diameter(c));
        var guess = (c.Settings?.MaxFlowMm3PerS ?? 8 * nozzle / 0.4) * (c.Kept.ContainsKey(Flows.Key) ? 1.8 : 2.4);
        return (height, width, diameter, Math.Min(guess, c.Machine is { } m ? TubeShape.Fastest((double)diameter, m) * height * width : guess));
    }

    /// <summary>Minutes and grams where there is no machine yet.</summary>
    internal static TrialEstimate Rough(double diameterMm, int turns, double speed, double flow)
    {
        var seconds = Math.PI * diameterMm * (turns + 12) / Math.Max(1, speed);
        return new((int)Math.Ceiling(seconds / 60), Math.Round(seconds * flow * 1.24 / 1000, 1), 0);
    }
}
