using System.Text.Json;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Simulated;

/// <summary>What the simulated bench says of a tower of the demo's year: scores by section, minutes and grams.</summary>
/// <param name="Scores">Temperature in words to its scores in the order of the aspects, or "failed".</param>
/// <param name="Minutes">Of printing.</param>
/// <param name="MassG">On the scale.</param>
public sealed record DemoTower(IReadOnlyDictionary<string, object> Scores, int Minutes, double MassG);

/// <summary>
/// The towers of the demo's year were printed and read on the simulated bench; what came of it stands in the demo's files, so that it can be read there. This
/// does it again: the same names give the same hidden filament, the same seed the same scatter.
/// </summary>
public static class DemoBench
{
    /// <summary>Prints and reads a run of any trial: cells by section and aspect, as the demo's files have them.</summary>
    public static IReadOnlyDictionary<string, Dictionary<string, object>> Read(
        Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, string text, JsonElement e, int tools)
    {
        var room = e.GetProperty("room");
        var piece = BenchOf
            .For(
                p, head, tools, (ulong)e.GetProperty("bench").GetInt32(),
                new(null, null, room[0].GetDouble(), e.TryGetProperty("openHours", out var open) ? open.GetDouble() : 0, room[1].GetDouble()))
            .Print(text.Split('\n')).Piece();
        var grid = trial.Grid(plan);
        return SimulatedTrial.Of(trial.Kind).Readings(piece, plan, [.. plan.Parts.Select(_ => SectionState.Judged)], Chance.Hash("eyes of Isla"))
            .Where(r => grid.Column(r.Aspect) is not null).GroupBy(r => r.Section).OrderBy(g => g.Key)
            .ToDictionary(
                g => g.Key.ToString(System.Globalization.CultureInfo.InvariantCulture),
                g => g.ToDictionary(r => r.Aspect, r => (object?)r.Word ?? r.Shown.Value));
    }

    /// <summary>Prints and reads a tower.</summary>
    /// <param name="p">The pairing.</param>
    /// <param name="plan">Its plan.</param>
    /// <param name="job">Its file's job.</param>
    /// <param name="text">Its file.</param>
    /// <param name="e">The event of the year: its seed and room.</param>
    /// <param name="tools">Toolheads on the printer.</param>
    public static DemoTower Print(Pairing p, TowerPlan plan, PieceJob job, string text, JsonElement e, int tools)
    {
        var seed = (ulong)e.GetProperty("bench").GetInt32();
        var room = e.GetProperty("room");
        var piece = BenchOf.For(p, p.Toolhead!, tools, seed, new(null, null, room[0].GetDouble(), 0, room[1].GetDouble())).Print(text.Split('\n')).Piece();
        var states = plan.Sections.Select(_ => SectionState.Judged).ToList();
        var read = SimulatedTrial.Of(TemperatureTowerTrial.Word).Readings(piece, plan, states, Chance.Hash("eyes of Isla")).ToList();
        var scores = plan.Sections.ToDictionary(
            s => Words.N(s.TemperatureC),
            s =>
                read.Any(r => r.Section == s.Index && r.Aspect == CellAspects.State)
                    ? (object)"failed"
                    : Aspects.All.Select(a => read.FirstOrDefault(r => r.Section == s.Index && r.Aspect == a)?.Shown.Value).ToArray());
        return new(scores, (int)Math.Round(piece.Trace.PrintSeconds / 60), Math.Round(piece.MassG, 1));
    }
}
