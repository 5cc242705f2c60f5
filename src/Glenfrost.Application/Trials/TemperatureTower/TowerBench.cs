using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.TemperatureTower;

/// <summary>Reads a tower on the simulated bench: the whole on the scale, the display of each section, then aspect by aspect.</summary>
public sealed class TowerBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => TemperatureTowerTrial.Word;

    /// <summary>What a section of a tower is like on a printed piece.</summary>
    public static PieceLook Look(SimulatedPiece piece, TowerPlan plan, int section)
    {
        var s = plan.Sections[section];
        if (s is not { FromZMm: { } from, ToZMm: { } to })
            return new PieceLook();
        if (!plan.Request.Separate)
            return piece.Look((double)from, (double)to);
        // Separate pieces each stand on a base of their own.
        var height = (double)(plan.Request.SectionHeightMm ?? to - from);
        var foot = (double)(plan.Request.BaseHeightMm ?? 0);
        return piece.Look(foot, foot + height, section);
    }

    /// <inheritdoc/>
    public override PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => Look(piece, (TowerPlan)plan, section);

    /// <inheritdoc/>
    public override bool Followed(SimulatedPiece piece, ITrialPlan plan) =>
        ((TowerPlan)plan).Sections.All(s =>
            Look(piece, (TowerPlan)plan, s.Index) is var l && (l.Layers == 0 || Math.Abs(l.DisplayC - (double)s.TemperatureC) < 3));

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var tower = (TowerPlan)plan;
        yield return new(0, CellAspects.Mass, "scale", new Scale(piece.Seed, 0.1).Weigh(piece.MassG));
        var eyes = new Eyes(eyesSeed);
        var standing = tower.Sections.Reverse().Where(s => states[s.Index] != SectionState.Lost).Select(s => (s.Index, Look: Look(piece, tower, s.Index)))
            .Where(s => s.Look.Layers > 0).ToList();
        foreach (var (i, look) in standing)
            yield return new(i, CellAspects.Observed, "display", new(Math.Round(look.DisplayC), "°C", 1));
        foreach (var (i, _) in standing.Where(s => s.Look.Failed))
            yield return new(i, CellAspects.State, "eyes", new(0, "", 1), "failed");
        foreach (var aspect in Aspects.All)
        {
            foreach (var (i, look) in standing.Where(s => !s.Look.Failed))
            {
                if (eyes.Score(look, aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + i) is { } shown)
                    yield return new(i, aspect, "eyes", shown);
            }
        }
    }
}
