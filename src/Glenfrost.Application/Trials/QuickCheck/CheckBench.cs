using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.QuickCheck;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.QuickCheck;

/// <summary>Reads a quick check on the simulated bench: the whole on the scale, walls with a calliper, strings by eye, band by band.</summary>
public sealed class CheckBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => QuickCheckTrial.Word;

    private static PieceLook Look(SimulatedPiece piece, ITrialPlan plan, int section) =>
        plan.Parts[section] is { FromZMm: { } from, ToZMm: { } to } ? piece.Look(from, to) : new();

    /// <inheritdoc/>
    public override PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => Look(piece, plan, section);

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        yield return new(0, CellAspects.Mass, "scale", new Scale(piece.Seed, 0.1).Weigh(piece.MassG));
        var (calliper, eyes) = (new Calliper(piece.Seed), new Eyes(eyesSeed));
        foreach (var part in plan.Parts.Where(p => states[p.Index] != SectionState.Lost))
        {
            var middle = ((part.FromZMm ?? 0) + (part.ToZMm ?? 0)) / 2;
            for (var side = 0; side < QuickCheckTrial.Sides.Count; side++)
            {
                if (piece.WallMm(middle - 0.6, middle + 0.6, side * 10 + part.Index) is { } mm)
                    yield return new(part.Index, $"{QuickCheckTrial.Wall}{side + 1}", "calliper", calliper.Measure(mm));
            }

            if (eyes.Score(Look(piece, plan, part.Index), QuickCheckTrial.Strings, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index) is { } shown)
                yield return new(part.Index, QuickCheckTrial.Strings, "eyes", shown);
        }
    }
}
