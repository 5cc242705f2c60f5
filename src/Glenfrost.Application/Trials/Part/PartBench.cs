using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.Part;

/// <summary>Reads somebody's own part on the simulated bench: the whole on the scale, each zone by eye.</summary>
public sealed class PartBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => PartTrial.Word;

    private static PieceLook Look(SimulatedPiece piece, ITrialPlan plan, int section) =>
        plan.Parts[section] is { FromZMm: { } from, ToZMm: { } to } ? piece.Look(from, to) : new();

    /// <inheritdoc/>
    public override PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => Look(piece, plan, section);

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        yield return new(0, CellAspects.Mass, "scale", new Scale(piece.Seed, 0.1).Weigh(piece.MassG));
        var eyes = new Eyes(eyesSeed);
        foreach (var part in plan.Parts.Where(p => states[p.Index] != SectionState.Lost))
        {
            var (look, place) = (Look(piece, plan, part.Index), unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index);
            string[] aspects = ["surface", "strings"];
            var scores = aspects.Select(a => (Aspect: a, Score: eyes.Score(look, a, place))).Where(x => x.Score is not null).ToList();
            if (scores.Count == 0)
                continue;
            // A part is as good as what is worst on it.
            yield return new(part.Index, PartTrial.Score, "eyes", scores.MinBy(x => x.Score!.Value).Score!);
        }
    }
}
