using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerTime;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.LayerTime;

/// <summary>Scores corners, walls and the bond of a column of layer times on the simulated bench.</summary>
public sealed class LayerTimeBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => LayerTimeTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var eyes = new Eyes(eyesSeed);
        foreach (var aspect in new[] { LayerTimeTrial.Corners, LayerTimeTrial.Walls, LayerTimeTrial.Bond })
        {
            foreach (var part in plan.Parts.Where(p => states[p.Index] == SectionState.Judged))
            {
                var look = piece.Look(part.FromZMm ?? 0, part.ToZMm ?? 0);
                if (eyes.Score(look, aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index) is { } shown)
                    yield return new(part.Index, aspect, "eyes", shown);
            }
        }
    }
}
