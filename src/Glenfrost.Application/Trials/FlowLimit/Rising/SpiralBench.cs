using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Trials.FlowLimit.Steps;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FlowLimit.Rising;

/// <summary>Looks up a rising spiral on the simulated bench until its wall fails, and measures how high that is.</summary>
public sealed class SpiralBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => FlowRisingTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (RisingPlan)plan;
        var layer = (double)p.Request.LayerHeightMm;
        var start = TubeShape.BaseLayers * layer;
        var seen = TubeBench.Seen + new Chance(eyesSeed).Of("thin walls").Normal(0, 0.012);
        for (var up = layer; up <= p.TopHeightMm + 1e-6; up += layer)
        {
            var look = piece.Look(start + up - layer, start + up);
            if (look.Layers == 0)
                break;
            if (!look.Clicks && look.Starved < seen)
                continue;
            var read = Math.Max(0, Math.Round((up + new Chance(piece.Seed).Of("fail height").Normal(0, 0.35)) * 2) / 2);
            yield return new(0, FlowTrial.Fault, "eyes", new(0, "", 1), look.Clicks ? "clicking" : "thin wall");
            yield return new(0, FlowRisingTrial.Height, "calliper", new(Math.Min(read, p.TopHeightMm), "mm", 0.5));
            yield break;
        }

        yield return new(0, FlowTrial.Fault, "eyes", new(0, "", 1), "none up to the top");
    }
}
