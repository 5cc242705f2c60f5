using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.FanSteps;

/// <summary>Scores bridges, overhangs and the bond of a fan tower on the simulated bench.</summary>
public sealed class FanBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => FanTrial.Word;

    private static PieceLook Look(SimulatedPiece piece, ITrialPlan plan, int section) =>
        plan.Parts[section] is { FromZMm: { } from, ToZMm: { } to } ? piece.Look(from, to) : new();

    /// <inheritdoc/>
    public override PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => Look(piece, plan, section);

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var eyes = new Eyes(eyesSeed);
        foreach (var aspect in new[] { FanTrial.Bridge, FanTrial.Overhang, FanTrial.Bond })
        {
            foreach (var part in plan.Parts.Where(p => states[p.Index] == SectionState.Judged))
            {
                if (eyes.Score(Look(piece, plan, part.Index), aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index) is { } shown)
                    yield return new(part.Index, aspect, "eyes", shown);
            }
        }
    }
}
