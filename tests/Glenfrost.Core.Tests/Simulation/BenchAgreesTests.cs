using System.Globalization;
using System.Text;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Gcode.Watching;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Samples;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Core.Tests.Simulation;

/// <summary>The simulated printer runs what Glenfrost wrote, knowing nothing of it: what it finds must be what was meant.</summary>
public class BenchAgreesTests
{
    private static SimulatedBench Bench(Machine m, double nozzle = 0.4) => new(new PrinterSpec
    {
        Name = m.Name,
        BedXMm = m.BedXMm,
        BedYMm = m.BedYMm,
        HeightMm = m.HeightMm,
        OriginInMiddle = m.OriginInMiddle,
        HeaterMaxC = 300,
        BedMaxC = 120,
        NozzleMm = nozzle,
        Tools = m.Tools,
        WaitsForCooling = m.Dialect == "macro",
        Factory = new PrinterSettings
        {
            MaxX = m.MaxSpeedMmPerS,
            MaxY = m.MaxSpeedMmPerS,
            AccelerationX = m.MaxAccelerationMmPerS2,
            AccelerationY = m.MaxAccelerationMmPerS2,
            Print = Math.Min(1000, m.MaxAccelerationMmPerS2),
            Travel = Math.Min(1500, m.MaxAccelerationMmPerS2),
        },
    }, HiddenMaterial.Draw("PLA", 11), HiddenMachine.Draw(12, nozzle, false, m.LongTube ? 420 : null), 13);

    private static double Foreseen(string text, Machine m) =>
        Inspector
            .Inspect(
                new MemoryStream(Encoding.ASCII.GetBytes(text)), new InspectionRequest { Motion = MotionLimits.Of(m.MaxSpeedMmPerS, m.MaxAccelerationMmPerS2) })
            .Seconds;

    public static TheoryData<string> Printers => ["Dunnock 180", "Whimbrel 300", "Ptarmigan 350 right"];

    private static Machine Of(string name) => new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan }.First(m => m.Name == name);

    [Theory]
    [MemberData(nameof(Printers))]
    public void A_written_tower_is_printed_as_planned_and_both_clocks_agree(string name)
    {
        var m = Of(name);
        var (plan, job) = Machines.Job(Machines.Tower(m, 225, 205, 5, 0.2m, 8), m);
        var text = Machines.Text(job);
        var trace = Bench(m, m.NozzleDiameterMm).Print(text.Split('\n')).Trace;
        Assert.Null(trace.EndedBecause);
        Assert.Equal(plan.TotalLayers, trace.Layers.Count);
        Assert.Equal((double)plan.HeightMm!, trace.Layers[^1].ZMm, 3);
        Assert.InRange(trace.FedMm / job.FeedMm, 0.995, 1.005);
        Assert.InRange(trace.PrintSeconds / job.Seconds, 0.97, 1.03);
        Assert.InRange(trace.PrintSeconds / Foreseen(text, m), 0.97, 1.03);
        foreach (var s in plan.Sections)
        {
            // The display is there once the heater's lag is over.
            var layers = trace.Layers.Where(l => l.Number > s.FirstLayer + (plan.LagLayers?[s.Index] ?? 0) && l.Number <= s.LastLayer).ToList();
            Assert.All(layers, l => Assert.InRange(l.DisplayC, (double)s.TemperatureC - 1.5, (double)s.TemperatureC + 1.5));
        }

        // Each section has its bridge, its overhang and its gaps, and nothing else hangs free.
        foreach (var s in plan.Sections)
        {
            var layers = trace.Layers.Where(l => l.Number >= s.FirstLayer && l.Number <= s.LastLayer).ToList();
            Assert.Contains(layers, l => l.Spans.Any(x => x.LengthMm > 12));
            Assert.True(layers.Sum(l => l.OverhangMm) > 50);
            Assert.True(layers.Sum(l => l.Crossings.Where(c => c.GapMm is > 7 and < 9).Sum(c => c.Count)) > 10);
        }
    }

    [Fact]
    public void Both_clocks_agree_on_files_that_slicing_programs_wrote()
    {
        foreach (var (file, m) in new[]
            {
                (new SlicedFile { Layers = 12 }, Machines.Dunnock), (new SlicedFile { Layers = 8, Sides = 180, RelativeE = true }, Machines.Dunnock),
                (new SlicedFile { Layers = 8, Arcs = true }, Machines.Ptarmigan with { Tools = 1 }),
                (new SlicedFile { Layers = 10, Spiral = true, Fill = false }, Machines.Dunnock),
                (new SlicedFile { Layers = 8, Inches = true, FirmwareRetraction = true }, Machines.Dunnock),
            })
        {
            var text = Written(file);
            var trace = Bench(m).Print(text.Split('\n')).Trace;
            var facts = Inspector.Inspect(
                new MemoryStream(Encoding.ASCII.GetBytes(text)), new InspectionRequest { Motion = MotionLimits.Of(m.MaxSpeedMmPerS, m.MaxAccelerationMmPerS2) }
            );
            Assert.InRange(trace.PrintSeconds / (facts.Seconds - facts.DwellSeconds), 0.97, 1.03);
        }
    }

    private static string Written(SlicedFile file)
    {
        var to = new MemoryStream();
        file.Write(to);
        return Encoding.ASCII.GetString(to.ToArray());
    }

    /// <summary>How far apart the best and the worst section are, over all aspects.</summary>
    private static double Spread(SimulatedPiece piece, TowerPlan plan)
    {
        var all = plan.Sections.Select(s => Eyes.Overall(piece.Look((double)s.FromZMm!, (double)s.ToZMm!))).ToList();
        return all.Max() - all.Min();
    }

    [Fact]
    public void A_file_that_forgets_to_change_the_temperature_gives_sections_that_all_look_alike()
    {
        var m = Machines.Dunnock;
        var (plan, job) = Machines.Job(Machines.Tower(m, 225, 195, 10, 0.2m, 8), m);
        var lines = Machines.Text(job).Split('\n');
        // The first temperatures stay; the changes on the way are forgotten.
        var begins = Array.FindIndex(lines, l => l.StartsWith("; print begins", StringComparison.Ordinal));
        Assert.True(begins > 0);
        var flat = lines.Where((l, i) => i < begins || !l.StartsWith("M104", StringComparison.Ordinal) || l.StartsWith("M104 S0", StringComparison.Ordinal))
            .ToList();
        Assert.True(lines.Length - flat.Count >= plan.Sections.Count - 1);
        var (stepped, forgotten) = (Bench(m).Print(lines).Piece(), Bench(m).Print(flat).Piece());
        Assert.True(Spread(stepped, plan) > 0.15);
        Assert.True(Spread(forgotten, plan) < 0.02);
        // And so do the readings: what is left is the scatter of the eyes.
        var eyes = new Eyes(4);
        double Reading(SimulatedPiece p, int i) =>
            Eyes.Aspects.Sum(a =>
                Enumerable.Range(0, 40).Average(k => eyes.Score(p.Look((double)plan.Sections[i].FromZMm!, (double)plan.Sections[i].ToZMm!), a, i, k)!.Value));
        var read = plan.Sections.Select(s => Reading(forgotten, s.Index)).ToList();
        Assert.True(read.Max() - read.Min() < 1);
        var steppedRead = plan.Sections.Select(s => Reading(stepped, s.Index)).ToList();
        Assert.True(steppedRead.Max() - steppedRead.Min() > 2);
    }

    [Fact]
    public void A_file_that_was_stepped_by_height_is_printed_stepped()
    {
        var source = Written(new SlicedFile { Layers = 40, NozzleC = 215 });
        var facts = Inspector.Inspect(new MemoryStream(Encoding.ASCII.GetBytes(source)), new InspectionRequest());
        var plan = StepPlanning.Plan(new StepRequest { What = "temperature", From = 215, To = 195, By = 10, BaseLayers = 10, SectionLayers = 10 }, facts).Plan!;
        var to = new MemoryStream();
        Stepper.Write(() => new MemoryStream(Encoding.ASCII.GetBytes(source)), facts, plan, to);
        var trace = Bench(Machines.Dunnock).Print(Encoding.ASCII.GetString(to.ToArray()).Split('\n')).Trace;
        foreach (var (from, c) in new[] { (16, 215), (26, 205), (36, 195) })
            Assert.InRange(trace.Layers[from].DisplayC, c - 2, c + 2);
    }

    [Fact]
    public void A_pace_is_learned_from_prints_and_one_print_moves_it_half_way()
    {
        Assert.Equal(1, PrinterPace.Learn([]).Ratio);
        // ln 1.1 shared with one print at 1: √1.1 = 1.0488.
        Assert.Equal(Math.Sqrt(1.1), PrinterPace.Learn([new(100, 110)]).Ratio, 9);
        var many = PrinterPace.Learn(Enumerable.Range(0, 20).Select(_ => new PrintTimes(100, 110)));
        Assert.Equal(Math.Pow(1.1, 20.0 / 21), many.Ratio, 9);
        Assert.True(many.Spread < PrinterPace.Learn([new(100, 110)]).Spread);
        // A slip of the pen (11 hours for one) teaches nothing.
        Assert.Equal(many, PrinterPace.Learn(Enumerable.Range(0, 20).Select(_ => new PrintTimes(100, 110)).Append(new(60, 660))));
        // Half way, at 1.2 times so far and 1.1 known: the rest is taken at 1.15.
        Assert.Equal(60 + 50 * 1.15, new PrinterPace(1.1, 0.05, 3).Reestimate(100, 50, 60), 9);
        Assert.Equal(110, new PrinterPace(1.1, 0.05, 3).Reestimate(100, 0, 0), 9);
        Assert.Equal(120, new PrinterPace(1.1, 0.05, 3).Reestimate(100, 100, 120), 9);
    }

    [Fact]
    public void A_stamp_says_where_it_was_and_how_surely()
    {
        // Ten layers of 20 s, 0.2 mm each, flow rising by 0.5.
        var layers = Enumerable.Range(0, 10).Select(i => new TimedLayer(i + 1, 0.2 * (i + 1), 0.2, 20 * i, 20, 3 + 0.5 * i)).ToList();
        var exact = new PrinterPace(1, 0, 5);
        // Pressed at 70.8 s; the event was 0.8 s before: 70 s, layer 4 from 60 to 80 s.
        var n = FileClock.At(layers, 70.8, exact)!;
        Assert.Equal((4, 4, 4), (n.Layer, n.FirstLayer, n.LastLayer));
        Assert.Equal(70, n.AtS, 9);
        Assert.Equal(0.8, n.ZMm, 9);
        Assert.Equal(0.1, n.ZUncertaintyMm, 9);
        Assert.Equal(4.5, n.FlowMm3PerS, 9);
        // Right after a change of layers both may be meant.
        Assert.Equal(
            (4, 3, 4), (FileClock.At(layers, 61, exact)!.Layer, FileClock.At(layers, 61, exact)!.FirstLayer, FileClock.At(layers, 61, exact)!.LastLayer));
        // A printer that takes a tenth longer was at 63.6 s of the file; half known, it may be two layers.
        var slow = FileClock.At(layers, 70.8, new PrinterPace(1.1, 0.2, 2))!;
        Assert.Equal(70 / 1.1, slow.AtS, 6);
        Assert.True(slow.LastLayer > slow.FirstLayer && slow.ZUncertaintyMm > 0.19 && slow.FlowUncertainty > 0);
        Assert.Null(FileClock.At(layers, -1, exact));
        Assert.Null(FileClock.At(layers, 300, exact));
        Assert.Null(FileClock.At([], 5, exact));
        // At 300 times its own pace a second of reaction is five minutes.
        Assert.Equal(
            (1, 10), (FileClock.At(layers, 150, exact, 0.8 * 300, 0.6 * 300)!.FirstLayer, FileClock.At(layers, 150, exact, 0.8 * 300, 0.6 * 300)!.LastLayer));
    }

    [Fact]
    public void The_curve_finds_the_top_of_a_parabola_and_narrows_with_repeats()
    {
        double[] t = [230, 225, 220, 215, 210, 205, 200, 195];
        // 4 − ((T − 212)/12)²: a parabola, so that the local fit is exact and its top is 212.
        var scores = t.Select(x => new[] { 4 - Math.Pow((x - 212) / 12, 2) }).ToList();
        var best = TowerCurve.Best(t, scores, [1], 0.5, 7)!;
        Assert.Equal(212, best.BestC, 9);
        Assert.InRange(best.LowC, 195, 212);
        Assert.InRange(best.HighC, 212, 230);
        var twice = TowerCurve.Best([.. t, .. t, .. t], [.. scores, .. scores, .. scores], [1], 0.5, 7)!;
        Assert.Equal(212, twice.BestC, 9);
        Assert.True(twice.SdC < best.SdC);
        Assert.Equal(best, TowerCurve.Best(t, scores, [1], 0.5, 7));
        Assert.Null(TowerCurve.Best(t[..4], scores[..4], [1], 0.5, 7));
        Assert.True(TowerCurve.Best(t, scores, [1], 0.1, 7)!.SdC < best.SdC);
    }

    [Fact]
    public void The_curve_moves_the_value_only_where_it_says_more_than_its_scatter()
    {
        SectionReading At(double t, params double[] s) => new(t, SectionState.Judged, Aspects.All.Zip(s).ToDictionary(p => p.First, p => p.Second));
        // Three alike in the middle: the middle, whatever the shoulders say.
        var alike = TowerJudging.Judge(
            new()
            {
                Sections =
                [
                    At(230, 1, 1, 0.5, 1, 2), At(225, 1, 1, 1, 1, 2), At(220, 4, 4, 4, 4, 4), At(215, 4, 4, 4, 4, 4), At(210, 4, 4, 4, 4, 4),
                    At(205, 3, 3, 3, 3, 3), At(200, 2, 3, 3, 3, 2),
                ],
            });
        Assert.Equal(215, alike.RecommendedTemperatureC);
        // A lucky section far from where all others point: the curve says so, and its reason is given.
        var lucky = TowerJudging.Judge(
            new()
            {
                Sections =
                [
                    At(230, 3, 4, 3, 4, 4), At(225, 3, 3, 3, 3, 4), At(220, 3, 3, 3, 4, 4), At(215, 3, 4, 3, 4, 4), At(210, 4, 3, 4, 3, 4),
                    At(205, 4, 4, 3, 4, 4), At(200, 4, 4, 4, 4, 3), At(195, 3, 4, 4, 4, 3), At(190, 3, 3, 4, 3, 3),
                ],
            });
        Assert.InRange(lucky.RecommendedTemperatureC!.Value, 200, 215);
        Assert.True(lucky.UncertaintyC >= 2.5);
    }

    [Fact]
    public void A_piece_survives_its_file()
    {
        var m = Machines.Dunnock;
        var (plan, job) = Machines.Job(Machines.Tower(m), m);
        var piece = Bench(m).Print(Machines.Text(job).Split('\n'));
        var again = PieceFile.Read(new MemoryStream(piece.ToBytes()));
        Assert.Equal(piece.Piece().Look(1, 7), again.Piece().Look(1, 7));
        Assert.InRange(again.Piece().MassG / job.MassG, 0.9, 1.1);
        Assert.Equal((double)plan.HeightMm!, again.Piece().HeightMm(), 3);
        Assert.Equal(0, again.Piece().Look(500, 600).Layers);
        foreach (var bad in new[] { "", "{}", "[1]", "{\"trace\":null}", "nonsense" })
            Assert.Throws<InvalidDataException>(() => PieceFile.Read(new MemoryStream(Encoding.UTF8.GetBytes(bad))));
    }
}
