using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.FoamingFlow;

/// <summary>Reads foaming walls on the simulated bench with a calliper, section by section; where the strand tore it says blobs.</summary>
public sealed class FoamBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => FoamingFlowTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var parts = plan.Parts;
        var calliper = new Calliper(piece.Seed, 0.02);
        foreach (var part in parts.Reverse().Where(p => states[p.Index] != SectionState.Lost))
        {
            // The lower third still follows the step before; the jaws sit above it.
            var (from, to) = (part.FromZMm!.Value + (part.ToZMm!.Value - part.FromZMm.Value) * 0.35, part.ToZMm.Value);
            if (piece.TornIn(from, to))
            {
                yield return new(part.Index, FoamingFlowTrial.Ran, "eyes", new(0, "", 1), "blobs");
                continue;
            }

            for (var side = 0; side < MarkedWall.Sides.Count; side++)
            {
                if (piece.WallMm(from, to, part.Index * 10 + side) is { } mm)
                    yield return new(part.Index, $"{FoamingFlowTrial.Wall}{side + 1}", "calliper", calliper.Measure(mm));
            }
        }
    }
}
