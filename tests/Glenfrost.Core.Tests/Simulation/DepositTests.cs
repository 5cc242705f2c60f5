using System.Globalization;
using CsCheck;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Core.Tests.Simulation;

/// <summary>What the printer notes of its own lines, worked by hand: bridges, overhangs, gaps, objects, flows.</summary>
public class DepositTests
{
    private static readonly PrinterSpec Spec = new() { Name = "Dunnock 180", BedXMm = 180, BedYMm = 180, HeightMm = 180, HeaterMaxC = 260 };

    // 0.44 mm wide and 0.2 mm high: 0.088 mm³ a mm, in filament of 2.4053 mm² 0.03659 mm a mm.
    private static string Line(double x, double y, double from) =>
        string.Create(CultureInfo.InvariantCulture, $"G1 X{x:0.###} Y{y:0.###} E{0.03659 * Math.Abs(from):0.#####} F1500");

    private static IEnumerable<string> Head => ["M109 S210", "G28", "G90", "M83", "M106 S255"];

    private static PrintTrace Print(IEnumerable<string> lines)
    {
        var p = new SimulatedPrinter(Spec);
        foreach (var line in Head.Concat(lines))
            p.Receive(line);
        return p.Finish();
    }

    /// <summary>Two posts, five lines thick, some mm apart, for some layers.</summary>
    private static IEnumerable<string> Posts(double apart, int layers, double retract = 0)
    {
        for (var n = 1; n <= layers; n++)
        {
            foreach (var x in new[] { 20.0, 20 + 2.2 + apart })
            {
                if (retract > 0)
                    yield return string.Create(CultureInfo.InvariantCulture, $"G1 E-{retract} F1800");
                yield return string.Create(CultureInfo.InvariantCulture, $"G0 X{x} Y20 Z{0.2 * n:0.0} F6000");
                if (retract > 0)
                    yield return string.Create(CultureInfo.InvariantCulture, $"G1 E{retract} F1800");
                for (var k = 0; k < 5; k++)
                {
                    yield return Line(x + 0.22 + 0.44 * k, k % 2 == 0 ? 26 : 20, 6);
                    if (k < 4)
                        yield return Line(x + 0.22 + 0.44 * (k + 1), k % 2 == 0 ? 26 : 20, 0.44);
                }
            }
        }
    }

    [Theory]
    [InlineData(8)]
    [InlineData(15)]
    [InlineData(30)]
    public void A_line_over_a_gap_is_a_free_span_as_long_as_the_gap(double apart)
    {
        var trace = Print([.. Posts(apart, 10), "G0 X20 Y23 Z2.2 F6000", Line(20 + 4.4 + apart, 23, apart + 4.4)]);
        var span = Assert.Single(trace.Layers[^1].Spans);
        Assert.InRange(span.LengthMm, apart - 1, apart + 1);
        Assert.Equal(1, span.Fan);
        Assert.InRange(span.DisplayC, 208, 211);
        Assert.All(trace.Layers.SkipLast(1), l => Assert.Empty(l.Spans));
    }

    [Fact]
    public void A_travel_over_a_gap_is_a_crossing_with_what_was_drawn_back()
    {
        var trace = Print(Posts(10, 6, 1.5));
        // There straight, back aslant over the same gap.
        foreach (var c in trace.Layers.Skip(1).SelectMany(l => l.Crossings))
        {
            Assert.InRange(c.GapMm, 8.5, 12);
            Assert.Equal(1.5, c.RetractedMm);
            Assert.True(c.Seconds > 0.05);
        }

        Assert.InRange(trace.Layers.Sum(l => l.Crossings.Sum(c => c.Count)), 9, 12);
        Assert.All(Print(Posts(10, 6)).Layers.SelectMany(l => l.Crossings), c => Assert.Equal(0, c.RetractedMm));
        // More drawn back, fewer strings; none at all where nothing lies between.
        SimulatedPiece Piece(double retract) => new(Print(Posts(10, 40, retract)), HiddenMaterial.Draw("PETG", 2), HiddenMachine.Draw(3), 4);
        Assert.True(Piece(0).Look(0, 8).StringsPer10Mm > 2 * Piece(0.8).Look(0, 8).StringsPer10Mm);
        Assert.True(Piece(0).Look(0, 8).Strings > Piece(0.8).Look(0, 8).Strings);
    }

    [Fact]
    public void A_wall_that_leans_out_hangs_over_by_its_step()
    {
        IEnumerable<string> Wall(double step)
        {
            for (var n = 1; n <= 20; n++)
            {
                yield return string.Create(CultureInfo.InvariantCulture, $"G0 X{20 + step * n:0.###} Y20 Z{0.2 * n:0.0} F6000");
                yield return Line(20 + step * n, 60, 40);
            }
        }

        Assert.Equal(0, Print(Wall(0)).Layers.Skip(1).Sum(l => l.OverhangMm));
        var leaning = Print(Wall(0.25)).Layers.Skip(2).ToList();
        Assert.All(leaning, l => Assert.InRange(l.OverhangMm, 35, 41));
        Assert.All(leaning, l => Assert.InRange(l.Unsupported, 0.3, 0.7));
    }

    [Fact]
    public void Flow_length_and_feed_are_those_of_the_lines()
    {
        var trace = Print(["G0 X20 Y20 Z0.2 F6000", Line(120, 20, 100), Line(120, 120, 100)]);
        var l = Assert.Single(trace.Layers);
        Assert.Equal(200, l.PathMm, 3);
        Assert.Equal(7.318, l.FedMm, 3);
        // 25 mm/s of 0.088 mm² are 2.2 mm³/s: the bin from 2 to 2.5.
        Assert.Equal(0.088 * 200, l.FlowMm3[4], 1);
        Assert.InRange(l.MeanFlow, 2, 2.5);
        Assert.Equal((20, 120, 20, 120), ((int)l.MinX, (int)l.MaxX, (int)l.MinY, (int)l.MaxY));
    }

    [Fact]
    public void Pieces_printed_one_after_another_are_objects_of_their_own()
    {
        var m = Machines.Whimbrel;
        var (plan, job) = Machines.Job(Machines.Tower(m) with { Separate = true }, m);
        var bench = new SimulatedBench(
            Spec with { BedXMm = 300, BedYMm = 300, HeightMm = 320, OriginInMiddle = true, HeaterMaxC = 300, BedMaxC = 120, WaitsForCooling = true },
            HiddenMaterial.Draw("PLA", 1), HiddenMachine.Draw(2), 3);
        var piece = bench.Print(Machines.Text(job).Split('\n')).Piece();
        Assert.Equal(plan.Sections.Count, piece.Trace.Layers.Select(l => l.Object).Distinct().Count());
        var per = plan.TotalLayers / plan.Sections.Count;
        foreach (var s in plan.Sections)
        {
            Assert.Equal(per, piece.Trace.Layers.Count(l => l.Object == s.Index));
            Assert.InRange(piece.Look(1, 6, s.Index).DisplayC, (double)s.TemperatureC - 2, (double)s.TemperatureC + 2);
        }
    }

    [Fact]
    public void What_is_written_with_its_checksum_is_read_as_it_was() =>
        Gen.Select(Gen.Long[0, 1_000_000], Gen.Double[-200, 200], Gen.Double[0, 50], Gen.Int[1, 20])
            .Sample(
                (n, x, e, at) =>
                {
                    var line = string.Create(CultureInfo.InvariantCulture, $"G1 X{x:0.###} E{e:0.#####} F1800");
                    var read = CommandLine.Read(CommandLine.WithChecksum(n, line));
                    Assert.False(read.Garbled);
                    Assert.Equal((n, "G1"), (read.Number!.Value, read.Command));
                    Assert.Equal(double.Parse(x.ToString("0.###", CultureInfo.InvariantCulture), CultureInfo.InvariantCulture), read['X']);
                    // One changed byte is always noticed.
                    var text = CommandLine.WithChecksum(n, line).ToCharArray();
                    text[at % (text.Length - 5)] ^= (char)1;
                    Assert.True(CommandLine.Read(new string(text)) is { Garbled: true } or { Number: null } or { Checked: false } || text[0] != 'N');
                },
                iter: 300);

    [Fact]
    public void A_heater_comes_near_its_target_and_stays_there() => Gen.Select(Gen.Double[120, 300], Gen.Double[0.01, 30]).Sample((target, step) =>
    {
        var h = new Heater(20, 2.6, 130, 4) { TargetC = target };
        var last = 20.0;
        for (var t = 0.0; t < 400; t += step)
        {
            h.Pass(step);
            Assert.True(h.C >= last - 1e-9 && h.C <= target + 1e-9);
            Assert.True(h.C - last <= 2.6 * step + 1e-9);
            last = h.C;
        }

        Assert.InRange(h.C, target - 1, target);
        h.TargetC = 0;
        h.Pass(130);
        // One time constant later a little more than a third of the distance is left.
        Assert.InRange((h.C - 20) / (target - 20), 0.35, 0.40);
    }, iter: 60);

    [Fact]
    public void Steps_that_are_set_anew_feed_more_or_less()
    {
        double Fed(string before) => Print([before, "G0 X20 Y20 Z0.2 F6000", Line(120, 20, 100)]).FedMm;
        Assert.Equal(1.05, Fed("M92 E100.8") / Fed("M92 E96"), 6);
        Assert.Equal(0.9, Fed("M221 S90") / Fed("M221 S100"), 6);
    }

    [Fact]
    public void A_scale_and_a_calliper_read_a_piece_near_what_it_is()
    {
        var piece = new SimulatedPiece(Print(Posts(10, 40)), HiddenMaterial.Draw("PLA", 2), HiddenMachine.Draw(3), 4);
        Assert.InRange(new Scale(1, 0.001).Weigh(piece.MassG).Value, piece.MassG * 0.98, piece.MassG * 1.02);
        Assert.InRange(new Calliper(1).Measure(piece.HeightMm()).Value, 7.95, 8.05);
        // Solid lines of 0.44 mm: what is fed is what stands, but for the hidden diameter and feed.
        Assert.InRange(piece.Look(0, 8).LineMm, 0.41, 0.47);
    }
}
