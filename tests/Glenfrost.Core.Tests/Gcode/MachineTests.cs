using Glenfrost.Core.Equipment;
using System.Text;
using CsCheck;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>What commands do to a machine, and how long its moves take by another arithmetic.</summary>
public class MachineTests
{
    private static FileFacts Run(string lines) => ReadingTests.Inspect("M104 S200\nM109 S200\nG28\nM83\nG0 Z0.2 F600\nG1 X20 E0.7 F1800\n" + lines);

    [Theory]
    [InlineData("M106 S255", 100)]
    [InlineData("M106 S51", 20)]
    [InlineData("M106 S0.35", 35)]
    [InlineData("M106", 100)]
    [InlineData("M106 P0 S102", 40)]
    [InlineData("M106 S255\nM106 P2 S10", 100)]
    [InlineData("M106 S255\nM107 P2", 100)]
    [InlineData("M106 S255\nM107", 0)]
    public void The_part_fan(string lines, double percent) => Assert.Equal(percent, Run(lines + "\n").End.Fan, 9);

    [Fact]
    public void Tools_have_temperatures_of_their_own()
    {
        var f = Run("M104 T1 S190\nT1\nG1 X0 E0.7\nM104 S185\nG10 P2 S170 R120\nT0\nG1 X20 E0.7\nM104 T1 S0\n");
        Assert.Equal((200, 0, 170), (f.End.Nozzles[0], f.End.Nozzles[1], f.End.Nozzles[2]));
        Assert.Equal((185, 1), f.Settings.Where(s => s.Kind == SettingKind.Nozzle && s.Value == 185).Select(s => (s.Value, s.Tool)).Single());
        Assert.Equal((190, 200), (f.Layers[0].NozzleMin, f.Layers[0].NozzleMax));
        Assert.Equal(0, f.Retraction.Firmware);
        Assert.Equal([1.0, 0.0], f.Settings.Where(s => s.Kind == SettingKind.Tool).Select(s => s.Value));
        // A tool number that no machine has does no harm.
        Assert.Equal(MachineState.MostTools - 1, Run("T99\n").End.Tool);
    }

    [Fact]
    public void Overrides_of_flow_and_speed_count()
    {
        var (plain, more) = (Run("G1 X0 E0.7\n"), Run("M221 S150\nM220 S50\nG1 X0 E0.7\n"));
        Assert.Equal(plain.Volume * 1.25, more.Volume, 9);
        Assert.True(more.Seconds > plain.Seconds + 0.6);
        Assert.Equal(plain.MaxFlow, more.MaxFlow, 9);
    }

    [Fact]
    public void E_can_count_volume()
    {
        var area = Math.PI / 4 * 1.75 * 1.75;
        var f = Run("M200 D1.75\nG1 X0 E1.6\nM200 D0\n");
        Assert.Equal(0.7 * area + 1.6, f.Volume, 9);
        Assert.Contains(Oddities.Of(f), o => o.Key == "volumetric");
    }

    [Fact]
    public void What_means_nothing_here_is_counted()
    {
        var f = Run("M73 P10 R99\nM73 P11 R98\nM115\nG29\nM600\nQ5\nMY_MACRO SPEED=5\nM117 On with it: 50%\n");
        Assert.Equal(["M115 1", "M73 2", "MY_MACRO 1", "Q5 1"], f.Unknown.Select(u => $"{u.Key} {u.Value}"));
        Assert.Equal((5, 0), (f.UnknownLines, f.UnreadLines));
        Assert.Contains(f.Settings, s => s.Kind == SettingKind.Pause);
        // Start macros may heat.
        var start = ReadingTests.Inspect("START BED=60 EXTRUDER=215\nM83\nG0 Z0.2 F600\nG1 X20 E0.7 F1800\nEND\n");
        Assert.Equal((215, 60), (start.End.Nozzle, start.End.Bed));
        Assert.DoesNotContain(Oddities.Of(start), o => o.Key is "temperature-never-set" or "cold-extrusion");
    }

    [Fact]
    public void Names_in_two_alphabets_and_a_small_picture()
    {
        var text =
            "; thumbnail begin 32x32 1234\n; iVBORw0KGgo=\n; thumbnail end\nM104 S200\nM109 S200\nM83\n; type: D\u00e9cor\nG0 Z0.2 F600\nG1 X20 E0.7 F1800\n";
        foreach (var encoding in new[] { Encoding.UTF8, Encoding.Latin1 })
        {
            var f = ReadingTests.Inspect(encoding.GetBytes(text));
            Assert.Equal(("d\u00e9cor", 1), (f.Features.Single().Name, f.Thumbnails));
        }
    }

    [Fact]
    public void Firmware_retraction_is_understood()
    {
        var f = Run("M207 S1.2 F2400\nG10\nG0 X0\nG11\nG1 X20 E0.7\nSET_RETRACTION RETRACT_LENGTH=0.5 RETRACT_SPEED=20\nG10\nG0 X0\nG11\n");
        Assert.Equal((2, 2), (f.Retraction.Count, f.Retraction.Firmware));
        Assert.Equal((0.5, 1.2, 20, 40), (f.Layers[0].RetractMin, f.Layers[0].RetractMax, f.Layers[0].RetractSpeedMin, f.Layers[0].RetractSpeedMax));
        Assert.Equal((0.5, 20), (f.End.RetractLength, f.End.RetractSpeed));
    }

    [Fact]
    public void Pressure_advance_in_three_dialects()
    {
        foreach (
            var line in new[] { "M900 K0.045", "M572 D0 S0.045", "SET_PRESSURE_ADVANCE ADVANCE=0.045", "set_pressure_advance extruder=a advance=0.045 ; x" })
            Assert.Equal(0.045, Run(line + "\n").End.PressureAdvance);
        Assert.True(double.IsNaN(Run("").End.PressureAdvance));
    }

    /// <summary>
    /// The same physics by another arithmetic: the path in steps of a hundredth of a millimetre, each with its own limit of speed, swept forth and back.
    /// </summary>
    [Fact]
    public void Times_agree_with_small_steps_along_the_path() =>
        Gen.Select(Gen.Int[2, 25], Gen.Double[400, 6000], Gen.Int[1, 1000])
            .Sample(
                (n, a, seed) =>
                {
                    var random = new Random(seed);
                    var moves = Enumerable.Range(0, n)
                        .Select(_ =>
                            (
                                X: Math.Round(random.NextDouble() * 20 - 10, 2), Y: Math.Round(random.NextDouble() * 20 - 10, 2),
                                F: 10 + random.NextDouble() * 190))
                        .Where(m => Math.Abs(m.X) + Math.Abs(m.Y) > 0.5).ToList();
                    const double Step = 0.01,
                        Deviation = 0.02;
                    var limits = new List<double>();
                    (double X, double Y) before = (0, 0);
                    foreach (var (x, y, f) in moves)
                    {
                        var length = Math.Sqrt(x * x + y * y);
                        (double X, double Y) now = (x / length, y / length);
                        if (limits.Count > 0)
                        {
                            var angle = Math.PI - Math.Acos(Math.Clamp(before.X * now.X + before.Y * now.Y, -1, 1));
                            var sin = Math.Sin(angle / 2);
                            limits[^1] = Math.Min(limits[^1], sin > 0.9999 ? f : Math.Min(f, Math.Sqrt(a * Deviation * sin / (1 - sin))));
                        }

                        limits.AddRange(Enumerable.Repeat(f, (int)Math.Round(length / Step)));
                        before = now;
                    }

                    var v = limits.ToArray();
                    v[^1] = 0;
                    var last = 0.0;
                    for (var i = 0; i < v.Length; i++)
                        last = v[i] = Math.Min(v[i], Math.Sqrt(last * last + 2 * a * Step));
                    last = 0;
                    for (var i = v.Length - 1; i >= 0; i--)
                        last = v[i] = Math.Min(v[i], Math.Sqrt(last * last + 2 * a * Step));
                    var seconds = 0.0;
                    last = 0;
                    foreach (var speed in v)
                    {
                        seconds += 2 * Step / Math.Max(last + speed, 1e-3);
                        last = speed;
                    }

                    var clock = new MotionClock(a, Deviation);
                    foreach (var (x, y, f) in moves)
                        clock.Add(x, y, 0, 0, f);
                    clock.Stop();
                    Assert.Equal(seconds, clock.Seconds, 0.02 * seconds + 0.03);
                }, iter: 120);

    [Fact]
    public void An_arc_takes_as_long_as_its_chords()
    {
        double Time(string moves) => Run(moves).Seconds;
        var chords = new StringBuilder();
        for (var i = 1; i <= 360; i++)
            chords.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"G1 X{20 - 10 + 10 * Math.Cos(i * Math.PI / 180):0.####} Y{10 * Math.Sin(i * Math.PI / 180):0.####} E0.0065 F1800\n");
        var arc = "G3 X0 Y0 I-10 J0 E1.17 F1800\nG3 X20 Y0 I10 J0 E1.17 F1800\n";
        Assert.Equal(Time(chords.ToString()), Time(arc), 0.15);
        Assert.Equal(Run(chords.ToString()).Volume, Run(arc).Volume, 0.01);
    }

    [Fact]
    public void Printers_of_pairings_set_the_limits()
    {
        var file = new SlicedFile { Layers = 4, WallSpeed = 200, FillSpeed = 200 }.ToBytes();
        double Time(double speed, double acceleration) => ReadingTests.Inspect(file, new() { Motion = MotionLimits.Of(speed, acceleration) }).Seconds;
        Assert.True(Time(50, 1000) > Time(100, 1000) && Time(100, 500) > Time(100, 1000));
        var f = ReadingTests.Inspect(file, new() { Machine = Machines.Dunnock, Motion = MotionLimits.Of(50, 1000), PriceMinorPerKg = 2400, Currency = "EUR" });
        // Two axes at 50 mm/s each make 71 on the slant.
        Assert.InRange(f.MaxFlow, 50 * 0.45 * 0.2, 50 * Math.Sqrt(2) * 0.45 * 0.2 * 1.01);
        Assert.Equal(f.Grams * 2.4, f.Cost!.Value, 9);
    }

    [Fact]
    public void Differences_are_named_by_their_kind()
    {
        LineDiff Diff(string a, string b) =>
            LineDiff.Of(() => new MemoryStream(Encoding.Latin1.GetBytes(a)), () => new MemoryStream(Encoding.Latin1.GetBytes(b)));
        var none = Diff("G1 X1\nG1 X2", "G1 X1\nG1 X2");
        Assert.Equal((0, 0, 0, 0), (none.Added, none.Off, none.Moves, none.Other));
        Assert.Equal(1, Diff("G1 X1 E2 F300 ; a\n", "G1 X1 E2.5 F100 ; a\n").Moves);
        Assert.Equal(1, Diff("g1x1e2\n", "g1x1e3 F9\n").Moves);
        Assert.Equal(1, Diff("N1 G1 X1 E2*7\n", "N1 G1 X1 E3*9\n").Moves);
        Assert.Equal(1, Diff("G1 X1 E2 ; a\n", "G1 X1 E3 ; b\n").Other);
        Assert.Equal(1, Diff("G1 X1 E2\n", "G1 X2 E2\n").Other);
        Assert.Equal(1, Diff("M104 S200\n", "M104 S210\n").Other);
        Assert.Equal(1, Diff("M104 S200\nG1 X1\n", "; glenfrost off: M104 S200\nG1 X1\n").Off);
        Assert.Equal(1, Diff("M104 S200\n", "; glenfrost off: M104 S201\n").Other);
        Assert.Equal(1, Diff("G1 X1\n", "M104 S9 ; glenfrost step\nG1 X1\n").Added);
        Assert.Equal(1, Diff("G1 X1\nG1 X2\n", "G1 X1\n").Other);
        Assert.Equal(1, Diff("G1 X1\r\n", "G1 X1\n").Other);
        var many = Diff(
            string.Concat(Enumerable.Range(0, 500).Select(i => $"G1 X{i} E1\n")), string.Concat(Enumerable.Range(0, 500).Select(i => $"G1 X{i} E2\n")));
        Assert.Equal((500, 12), (many.Moves, many.Shown.Count));
    }

    [Fact]
    public void The_chart_of_a_long_print_keeps_its_sums()
    {
        var chart = new FlowChart();
        var random = new Random(5);
        double seconds = 0, volume = 0;
        for (var i = 0; i < 60_000; i++)
        {
            var (s, v) = (random.NextDouble() * (i % 100 == 0 ? 20 : 0.4), random.NextDouble());
            chart.Add(s, v, v / Math.Max(s, 0.01), i / 100, i);
            (seconds, volume) = (seconds + s, volume + v);
        }

        var slices = chart.Slices();
        Assert.InRange(slices.Count, FlowChart.Most / 2, FlowChart.Most);
        Assert.Equal(seconds, slices.Sum(s => s.Seconds), 3);
        Assert.Equal(volume, slices.Sum(s => s.Mean * s.Seconds), 3);
        Assert.Equal(slices.Select(s => s.Line).Order(), slices.Select(s => s.Line));
        Assert.All(slices, s => Assert.True(s.Max >= s.Mean - 1e-9));
    }

    [Fact]
    public void Classes_give_quantiles()
    {
        var h = new Histogram(0.5, 10);
        Assert.True(double.IsNaN(h.Quantile(0.5)));
        h.Add(0.2, 1);
        h.Add(1.2, 2);
        h.Add(99, 1);
        Assert.Equal((4, 1.25), (h.Total, h.Mode));
        Assert.Equal(0.25, h.Quantile(0.125), 9);
        Assert.Equal(1.25, h.Quantile(0.5), 9);
        Assert.Equal([0, 0.5, 1.0], h.Shown().Take(3).Select(c => c.From));
    }
}
