using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Text;
using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>Hand fixes as rewrites, moves of a layer, and sections read off a model.</summary>
public class FixTests
{
    private static (string[] Lines, FileFacts Facts, Fix Fix) Mend(SlicedFile file, FixRequest request)
    {
        var bytes = file.ToBytes();
        var (fix, errors) = FixPlanning.Plan(request, ReadingTests.Inspect(bytes), () => new MemoryStream(bytes));
        Assert.True(fix is not null, string.Join("; ", errors.Select(e => e.Message)));
        var to = new MemoryStream();
        fix.Write(() => new MemoryStream(bytes), to);
        return (Encoding.Latin1.GetString(to.ToArray()).Split('\n'), ReadingTests.Inspect(to.ToArray()), fix);
    }

    private static string Refused(SlicedFile file, FixRequest request, string field)
    {
        var bytes = file.ToBytes();
        var (fix, errors) = FixPlanning.Plan(
            request, ReadingTests.Inspect(bytes, new() { Machine = Machines.Dunnock }), () => new MemoryStream(bytes), Machines.Dunnock);
        Assert.Null(fix);
        return errors.Single(e => e.Field == field).Message;
    }

    [Fact]
    public void A_left_over_override_is_dropped_and_can_be_read_still()
    {
        var (lines, facts, _) = Mend(new SlicedFile { ExtraStart = "M221 S95 ; old" }, new() { Key = "flow-override" });
        Assert.Contains("; glenfrost off: M221 S95 ; old", lines);
        Assert.DoesNotContain(Oddities.Of(facts), o => o.Key == "flow-override");
        Assert.Equal(ReadingTests.Inspect(new SlicedFile().ToBytes()).Volume, facts.Volume, 6);
        Assert.Contains("no flow override", Refused(new SlicedFile(), new() { Key = "flow-override" }, ""), StringComparison.Ordinal);
    }

    [Fact]
    public void A_temperature_is_corrected_in_its_own_line_only()
    {
        var file = new SlicedFile { NozzleC = 299 };
        var before = Encoding.UTF8.GetString(file.ToBytes()).Split('\n');
        var at = Array.IndexOf(before, "M109 S299");
        var (lines, _, _) = Mend(file, new() { Key = "temperature", Line = at + 1, TemperatureC = 212.5m });
        Assert.Equal("M109 S212.5", lines[at]);
        Assert.Equal(before.Where((_, i) => i != at), lines.Where((_, i) => i != at));
        Assert.Contains(
            "on Dunnock 180", Refused(file, new() { Key = "temperature", Line = at + 1, TemperatureC = 290 }, "temperatureC"), StringComparison.Ordinal);
        Assert.Contains("sets no temperature", Refused(file, new() { Key = "temperature", Line = 1, TemperatureC = 210 }, "line"), StringComparison.Ordinal);
    }

    [Fact]
    public void Another_minimum_layer_time_gives_layers_of_that_time()
    {
        // Rings that take about 4 s, slowed to twice that above the 14th layer.
        var file = new SlicedFile { Fill = false, Slow = n => n > 14 ? 0.5 : 1, Sides = 180 };
        var was = ReadingTests.Inspect(file.ToBytes());
        var quick = Mend(file, new() { Key = "layer-time", MinimumS = 0 }).Facts;
        Assert.Null(SlowDowns.Of(quick));
        Assert.Equal(SlowDowns.Of(was)!.CostS, was.Seconds - quick.Seconds, 1.5);
        Assert.Equal(was.Volume, quick.Volume, 6);
        var slow = Mend(file, new() { Key = "layer-time", MinimumS = 12 });
        Assert.All(slow.Facts.Model.Skip(1).SkipLast(1), l => Assert.Equal(12, l.Seconds, 0.35));
        Assert.Equal(was.Model.First().Seconds, slow.Facts.Model.First().Seconds, 0.1);
        Assert.Contains("nothing would change", Refused(new SlicedFile(), new() { Key = "layer-time", MinimumS = 1 }, "minimumS"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("m900", "G4 S30")]
    [InlineData("macro", "G4 P30000")]
    public void A_cool_down_goes_by_steps_and_holds_in_the_printer_s_own_unit(string dialect, string dwell)
    {
        var (lines, facts, fix) = Mend(new SlicedFile { BedC = 60 }, new() { Key = "cool-down", ToC = 40, StepC = 8, HoldMinutes = 1.25m, Dialect = dialect });
        var code = lines.Select(l => l.Split(" ; ")[0].Trim()).ToList();
        // 20 °C in three equal steps of at most 8, 75 s each, in waits of at most 30 s; the file's own switching off comes out.
        Assert.Equal(
            [
                "M104 S0", "M107", "M140 S53.3", dwell, dwell, dwell.Replace("30", "15", StringComparison.Ordinal), "M140 S46.7", dwell, dwell,
                dwell.Replace("30", "15", StringComparison.Ordinal), "M140 S40", dwell, dwell, dwell.Replace("30", "15", StringComparison.Ordinal), "M140 S0",
            ],
            code.Skip(code.LastIndexOf("M104 S0")).Where(l => l.Length > 0 && !l.StartsWith("G0", StringComparison.Ordinal) && l != "G90"));
        Assert.Contains("; glenfrost off: M140 S0", lines);
        Assert.Equal(225, facts.DwellSeconds, 6);
        Assert.Contains("at least 3.75 min", fix.Title, StringComparison.Ordinal);
        Assert.Contains(lines, l => l.StartsWith("G0 Z9", StringComparison.Ordinal));
        Assert.Equal((0, 0), (facts.End.Bed, facts.End.Nozzle));
    }

    private static string[] EndCode(string code) => code.Split('\n');

    [Theory]
    [InlineData("M140 S55\nG4 S600\nM140 S48\nG4 S600\nM140 S42\nG4 S600\nM140 S0", 3, 30)]
    [InlineData("M190 R55\nG4 P600000\nM190 R45\nG4 P600000\nM140 S0", 2, 20)]
    [InlineData("M140 S57\nM140 S54\nM190 S50\nM140 S45\nG4 S1200", 4, 20)]
    [InlineData("G4 S300\nM190 S50\nG4 S300\nM140 S0\nM84", 1, 10)]
    public void A_ramp_by_hand_of_any_shape_is_replaced_as_a_whole(string code, int steps, double minutes)
    {
        var file = new SlicedFile { BedC = 60, EndCode = code };
        var ramp = HandRamp.Of(ReadingTests.Inspect(file.ToBytes()))!;
        Assert.Equal((steps, minutes), (ramp.StepsC.Count, ramp.Minutes));
        Assert.Contains(Oddities.Of(ReadingTests.Inspect(file.ToBytes())), o => o.Key == "hand-ramp" && o.Line == ramp.FirstLine);
        var (lines, facts, fix) = Mend(file, new() { Key = "cool-down", ToC = 40, StepC = 5, HoldMinutes = 10, Dialect = "m900" });
        // Four steps of ten minutes are all that is waited for, and none of the hand's lines is in force.
        Assert.Equal(2400, facts.DwellSeconds, 6);
        Assert.All(EndCode(code).Where(l => !l.StartsWith("M84", StringComparison.Ordinal)), l => Assert.Contains("; glenfrost off: " + l, lines));
        Assert.Contains("switched off as a whole", string.Join(" ", fix.Notes), StringComparison.Ordinal);
        Assert.Equal([55, 50, 45, 40, 0], facts.Settings.Where(s => s.Kind == SettingKind.Bed && s.Line > facts.LastExtrudeLine).Select(s => s.Value));
        Assert.DoesNotContain(Oddities.Of(facts), o => o.Key == "hand-ramp");
    }

    [Fact]
    public void A_ramp_with_a_macro_in_it_is_refused_as_a_whole() =>
        Assert.Contains(
            "COOL_GENTLY in line",
            Refused(
                new SlicedFile { BedC = 60, EndCode = "M140 S55\nCOOL_GENTLY STEP=5\nM140 S0" },
                new() { Key = "cool-down", ToC = 40, StepC = 5, HoldMinutes = 3, Dialect = "m900" }, ""),
            StringComparison.Ordinal);

    [Fact]
    public void What_is_lifted_is_lifted_while_the_motors_hold_and_never_down()
    {
        var ask = new FixRequest { Key = "cool-down", ToC = 40, StepC = 5, HoldMinutes = 3, Dialect = "m900" };
        var lines = Mend(new SlicedFile { EndCode = "M84" }, ask).Lines;
        Assert.True(Array.FindIndex(lines, l => l.StartsWith("G0 Z9", StringComparison.Ordinal)) < Array.IndexOf(lines, "M84"));
        Assert.True(Array.FindLastIndex(lines, l => l.StartsWith("M140 S0 ; glenfrost", StringComparison.Ordinal)) < Array.IndexOf(lines, "M84"));
        // Homed to the top, or lifted already: its place is not known, or high enough.
        foreach (var code in new[] { "G28\nM84", "G0 Z60 F600\nM84", "G20\nM84" })
            Assert.DoesNotContain(
                Mend(new SlicedFile { EndCode = code }, ask).Lines, l => l.StartsWith("G0 Z", StringComparison.Ordinal) && l.Contains("cool-down"));
        // Beside the part, on a printer whose bed is known, unless it stands there already.
        string[] OnDunnock(string code)
        {
            var bytes = new SlicedFile { EndCode = code }.ToBytes();
            var facts = ReadingTests.Inspect(bytes, new() { Machine = Machines.Dunnock });
            var fix = FixPlanning.Plan(ask, facts, () => new MemoryStream(bytes), Machines.Dunnock).Fix!;
            var to = new MemoryStream();
            fix.Write(() => new MemoryStream(bytes), to);
            return Encoding.Latin1.GetString(to.ToArray()).Split('\n');
        }

        Assert.Contains(OnDunnock("M84"), l => l.StartsWith("G0 X178 Y178 F3000", StringComparison.Ordinal));
        Assert.DoesNotContain(OnDunnock("G0 X0 Y170\nM84"), l => l.Contains("beside the part"));
        // An end code that counts from where it is: what is added here counts from zero, lifted or not.
        var relative = OnDunnock("G91\nG0 Z20 F600\nM84");
        var parked = Array.FindIndex(relative, l => l.Contains("beside the part"));
        Assert.Contains(relative[..parked], l => l.StartsWith("G90 ; glenfrost", StringComparison.Ordinal));
    }

    [Fact]
    public void A_cool_down_that_never_ends_is_refused()
    {
        var ask = new FixRequest { Key = "cool-down", ToC = 25, StepC = 5, HoldMinutes = 3, Dialect = "m900" };
        Assert.Contains("may never be reached", Refused(new SlicedFile(), ask, "toC"), StringComparison.Ordinal);
        Assert.Contains("47 °C or more", Refused(new SlicedFile(), ask with { ToC = 44, SurroundingsC = 42 }, "toC"), StringComparison.Ordinal);
        Assert.Contains("not below", Refused(new SlicedFile(), ask with { ToC = 70 }, "toC"), StringComparison.Ordinal);
        Assert.Contains("hours", Refused(new SlicedFile(), ask with { ToC = 31, StepC = 1, HoldMinutes = 120 }, "holdMinutes"), StringComparison.Ordinal);
        Assert.Contains("milliseconds", Refused(new SlicedFile(), ask with { ToC = 40, Dialect = null }, "dialect"), StringComparison.Ordinal);
        Assert.Contains("no bed temperature", Refused(new SlicedFile { BedC = 0 }, ask with { ToC = 40 }, ""), StringComparison.Ordinal);
    }

    [Fact]
    public void Moves_of_a_layer_are_those_of_the_file()
    {
        foreach (var file in new[] { new SlicedFile { Layers = 8 }, new SlicedFile { Layers = 8, Arcs = true, RelativeE = true } })
        {
            var bytes = file.ToBytes();
            var f = ReadingTests.Inspect(bytes);
            var layer = f.Model.ElementAt(4);
            var m = LayerMoves.Read(new MemoryStream(bytes), f, layer.Index, layer.Index);
            Assert.All(m.Layer, l => Assert.Equal(layer.Index, l));
            var laid = Enumerable.Range(0, m.X.Count).Where(i => m.Flow[i] > 0).ToList();
            Assert.Equal(
                layer.Volume,
                laid.Sum(i =>
                    (double)m.Flow[i]
                    / m.Speed[i]
                    * Math.Sqrt(Square(m.X[i] - (i > 0 ? m.X[i - 1] : m.StartX)) + Square(m.Y[i] - (i > 0 ? m.Y[i - 1] : m.StartY)))),
                layer.Volume * (file.Arcs ? 0.002 : 1e-4));
            Assert.Contains(laid, i => f.Features[m.Feature[i]].Name == "outer wall");
            Assert.Equal(layer.FirstLine, m.Line[0]);
            Assert.Equal(laid.Max(i => m.Flow[i]), layer.MaxFlowAsked, 1e-3);
            // Several layers at once are the same moves.
            Assert.Equal(
                LayerMoves.Read(new MemoryStream(bytes), f, 2, 3).X.Concat(LayerMoves.Read(new MemoryStream(bytes), f, 4, 4).X),
                LayerMoves.Read(new MemoryStream(bytes), f, 2, 4).X);
        }

        static double Square(double v) => v * v;
    }

    [Fact]
    public void Sections_are_read_off_a_model_that_repeats()
    {
        var repeats = Repeats.Of(
            ReadingTests.Inspect(new SlicedFile { Layers = 90, Fill = false, Prime = false, Notch = n => n <= 6 ? 1.2 : (n - 7) % 12 < 3 ? 0.85 : 1 }.ToBytes())
        );
        Assert.Equal((6, 12, 7, 1.2, 2.4), (repeats!.BaseLayers, repeats.SectionLayers, repeats.Sections, repeats.BaseMm, repeats.SectionMm));
        Assert.Null(Repeats.Of(ReadingTests.Inspect(new SlicedFile { Layers = 60 }.ToBytes())));
        Assert.Null(Repeats.Of(ReadingTests.Inspect(new SlicedFile { Layers = 60, Notch = n => 1 - n * 0.01 }.ToBytes())));
    }
    public static TheoryData<double, double, double, int> Pitches => new()
    {
        { 0.2, 0.8, 7.44, 7 }, { 0.2, 0.8, 7.44, 12 }, { 0.24, 0.96, 7.44, 9 }, { 0.12, 0.84, 7.44, 6 }, { 0.2, 1.2, 2.4, 7 }, { 0.2, 0, 8, 9 },
        { 0.25, 1, 6.3, 8 }, { 0.16, 0.8, 5.5, 10 },
    };

    [Theory]
    [MemberData(nameof(Pitches))]
    public void A_pitch_that_is_no_whole_number_of_layers_is_measured_over_all_sections(double layer, double foot, double pitch, int sections)
    {
        // Sliced as a slicer does: each layer shows what is at its middle; the top is a whole layer.
        var count = (int)Math.Round((foot + sections * pitch) / layer);
        double Notch(int n)
        {
            var z = (n - 0.5) * layer;
            if (z < foot)
                return 1.2;
            var within = (z - foot) % pitch / pitch;
            return within < 0.2 ? 0.8 : within is > 0.5 and < 0.7 ? 0.9 : 1;
        }

        var r = Repeats.Of(ReadingTests.Inspect(new SlicedFile
        {
            Layers = count, LayerHeight = layer, FirstLayerHeight = layer, Fill = false, Prime = false, Notch = Notch,
        }.ToBytes()))!;
        Assert.Equal(sections, r.Sections);
        Assert.InRange(r.SectionMm, pitch - 0.5 * layer / sections - 0.01, pitch + 0.5 * layer / sections + 0.01);
        // The last boundary is within a layer of where it is.
        Assert.InRange(r.BaseMm + (sections - 1) * r.SectionMm, foot + (sections - 1) * pitch - layer, foot + (sections - 1) * pitch + layer);
        Assert.Equal(Math.Abs(pitch / layer - Math.Round(pitch / layer)) < 1e-6, r.Whole);
    }

    [Fact]
    public void The_layer_heights_at_which_a_section_comes_out_whole_are_named()
    {
        var r = new Repeats(4, 37, 7, 0.8, 7.44) { LayerHeightMm = 0.2 };
        Assert.Equal(37.2, r.LayersPerSection);
        Assert.False(r.Whole);
        Assert.Equal([(0.24, 31), (0.12, 62), (0.08, 93)], r.Fitting);
        Assert.True(new Repeats(4, 31, 7, 0.96, 7.44) { LayerHeightMm = 0.24 }.Whole);
    }
}
