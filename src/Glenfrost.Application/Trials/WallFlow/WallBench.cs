using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WallFlow;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.WallFlow;

/// <summary>Reads the walls of a square on the simulated bench with a calliper, side by side at each of its heights.</summary>
public sealed class WallBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => WallFlowTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (WallPlan)plan;
        yield return new(0, CellAspects.Mass, "scale", new Scale(piece.Seed, 0.1).Weigh(piece.MassG));
        var calliper = new Calliper(piece.Seed);
        for (var side = 0; side < MarkedWall.Sides.Count; side++)
        {
            foreach (var (h, i) in p.HeightsMm.Select((h, i) => (h, i)))
            {
                if (piece.WallMm((double)h - 0.8, (double)h + 0.4, side * 10 + i) is { } mm)
                    yield return new(side, $"{WallFlowTrial.Wall}{i + 1}", "calliper", calliper.Measure(mm));
            }
        }
    }
}
