using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.SurfaceFlow;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.SurfaceFlow;

/// <summary>Reads a flow strip on the simulated bench: along it by eye, then along it by thumb.</summary>
public sealed class StripBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => SurfaceFlowTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (SurfacePlan)plan;
        var (eyes, step) = (new Eyes(eyesSeed), (double)p.Request.StepMm);
        foreach (var aspect in new[] { SurfaceFlowTrial.Eye, SurfaceFlowTrial.Thumb })
        {
            for (var i = 0; i < p.ChangesPercent.Count; i++)
            {
                if (piece.FillOf(i * step + 2, (i + 1) * step - 2) is { } fill)
                    yield return new(
                        i, aspect, "eyes",
                        eyes.Score(Eyes.SurfaceQuality(fill, aspect == SurfaceFlowTrial.Thumb), aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + i));
            }
        }
    }
}
