using Glenfrost.Application.Simulated;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.SettingSteps;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Application.Trials.SettingSteps;

/// <summary>Scores a pointed wall, or cones, on the simulated bench.</summary>
public sealed class SettingBench : SimulatedTrial
{
    /// <summary>What of a cone is called its tip, mm.</summary>
    public const double TipMm = 5;

    /// <inheritdoc/>
    public override string Kind => SettingTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (SettingPlan)plan;
        var eyes = new Eyes(eyesSeed);
        foreach (var aspect in new[] { p.IsCones ? SettingTrial.Tip : SettingTrial.Corners, SettingTrial.Walls })
        {
            foreach (var part in plan.Parts.Where(x => states[x.Index] == SectionState.Judged))
            {
                var (from, to) = (part.FromZMm ?? 0, part.ToZMm ?? 0);
                // A tip is the last of a cone, its flank what is below.
                var edge = Math.Max(from, to - TipMm);
                var look = !p.IsCones ? piece.Look(from, to)
                    : aspect == SettingTrial.Tip ? piece.Look(edge, to, part.Index) : piece.Look(from, edge, part.Index);
                if (eyes.Score(look, aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index) is { } shown)
                    yield return new(part.Index, aspect, "eyes", shown);
            }
        }
    }
}
