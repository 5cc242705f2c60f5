using Glenfrost.Core.Equipment;
using System.Text;
using CsCheck;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>What files are found to be, against what they were written to be.</summary>
public class InspectionTests
{
    private static readonly double Area = Math.PI / 4 * 1.75 * 1.75;

    private static FileFacts Inspect(SlicedFile file, InspectionRequest? request = null) => ReadingTests.Inspect(file.ToBytes(), request);

    private static Oddity? Odd(FileFacts f, string key) => Oddities.Of(f).FirstOrDefault(o => o.Key == key);

    [Fact]
    public void A_small_file_worked_by_hand()
    {
        // 20 mm with 0.665 mm of 1.75 mm filament: 1.5995 mm³, 0.07998 mm² over 0.2 mm: 0.39988 mm wide. At 30 mm/s: 2.4 mm³/s, 0.6667 s, and with 1000 mm/s²
        // 0.03 s more.
        var f = ReadingTests.Inspect(
            "M104 S205\nM109 S205\nM140 S55\nG28\nG90\nM83\nM106 S127.5\nG0 Z0.2 F600\nG4 P0\nG1 X20 E0.665 F1800\nG1 E-1 F2400\nG0 Z0.4 F600\nG1 E1 " +
                "F2400\nG1 X0 E0.665 F1800\nM104 S0\nM140 S0\n"
        );
        Assert.Equal(2, f.Layers.Count);
        Assert.Equal([0.2, 0.4], f.Layers.Select(l => Math.Round(l.Z, 6)));
        Assert.All(f.Layers, l => Assert.Equal(0.2, l.Thickness, 6));
        Assert.Equal(0.665 * 2, f.FilamentMm, 9);
        Assert.Equal(0.665 * 2 * Area / 1000 * 1.24, f.Grams, 9);
        Assert.Equal(0.665 * Area / 20 / 0.2, f.Layers[0].MeanWidth, 9);
        Assert.Equal(0.665 * Area / 20 * 30, f.MaxFlow, 9);
        Assert.Equal((205, 205, 50, 50), (f.Layers[1].NozzleMin, f.Layers[1].NozzleMax, f.Layers[1].FanMin, f.Layers[1].FanMax));
        Assert.Equal((1, 1.0), (f.Retraction.Count, Math.Round(f.Retraction.Usual, 6)));
        // 2 × (20/30 + 30/1000) s of lines; 1 mm at 40 mm/s and 1500 mm/s² is too short for 40: 2√(1/1500) s, twice; Z: 0.2 mm at 10 mm/s and 300 mm/s² peaks
        // at √60, 2√(0.2/300) s, twice.
        Assert.Equal(2 * (20 / 30.0 + 0.03) + 4 * Math.Sqrt(1 / 1500.0) + 4 * Math.Sqrt(0.2 / 300), f.Seconds, 6);
        Assert.DoesNotContain(Oddities.Of(f), o => o.Weight != Weight.Note);
    }

    [Fact]
    public void Layers_volumes_and_lengths_are_what_was_written() =>
        Gen.Select(Gen.Int[3, 25], Gen.Double[0.08, 0.32], Gen.Bool, Gen.Bool, Gen.Bool, Gen.Int[1, 3])
            .Sample(
                (layers, height, relative, arcs, prime, objects) =>
                {
                    height = Math.Round(height, 2);
                    var file = new SlicedFile
                    {
                        Layers = layers, LayerHeight = height, FirstLayerHeight = 0.24, RelativeE = relative, Arcs = arcs, Prime = prime, Objects = objects,
                    };
                    var f = Inspect(file);
                    var model = f.Model.ToList();
                    Assert.Equal(layers * objects, model.Count);
                    Assert.Equal(objects, f.Objects);
                    for (var i = 0; i < model.Count; i++)
                    {
                        var n = i % layers;
                        Assert.Equal(0.24 + n * height, model[i].Z, 3);
                        Assert.Equal(n == 0 ? 0.24 : height, model[i].Thickness, 3);
                        Assert.Equal(file.Laid[i] * Area, model[i].Volume, 1e-6 * 1000);
                        Assert.Equal(0.45, model[i].MeanWidth, 0.004);
                    }

                    // Each mm of filament is somewhere: in the model, in the priming line or fed while standing.
                    Assert.Equal(f.FilamentMm * Area, model.Sum(l => l.Volume) + f.PrimingVolume + f.Layers.Where(l => l.Priming).Sum(l => l.Volume) + f.StandingVolume, 6);
                    Assert.Equal(prime ? file.Primed * Area : 0, f.PrimingVolume + f.Layers.Where(l => l.Priming).Sum(l => l.Volume), 4);
                    Assert.Equal(f.Seconds, f.Chart.Slices().Sum(s => s.Seconds), 6);
                    Assert.Equal(f.Volume - f.StandingVolume, f.Chart.Slices().Sum(s => s.Mean * s.Seconds), 3);
                    Assert.Equal(f.ExtrudeSeconds, f.Flow.Total, 6);
                    Assert.Equal(f.Seconds, f.ExtrudeSeconds + f.TravelSeconds + f.DwellSeconds, 6);
                }, iter: 30);

    [Fact]
    public void A_spiral_has_a_layer_a_turn()
    {
        var f = Inspect(new SlicedFile { Layers = 40, Spiral = true, Fill = false, Sides = 30 });
        var model = f.Model.ToList();
        Assert.InRange(model.Count, 39, 41);
        Assert.All(model.Skip(3).SkipLast(1), l => Assert.Equal(0.2, l.Thickness, 3));
        Assert.All(model.Skip(3).SkipLast(1), l => Assert.InRange(l.Volume, 8.1, 8.9));
        // Without any flat layer the turns of the path tell.
        var text = new StringBuilder("M104 S210\nM109 S210\nG28\nM83\nG1 X20 Y0 Z0 F6000\n");
        for (var i = 1; i <= 36 * 12; i++)
            text.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"G1 X{20 * Math.Cos(i * Math.PI / 18):0.###} Y{20 * Math.Sin(i * Math.PI / 18):0.###} Z{i * 0.25 / 36:0.####} E0.13 F1500\n");
        var turns = ReadingTests.Inspect(text.ToString()).Layers;
        Assert.InRange(turns.Count, 11, 13);
        Assert.All(turns.SkipLast(1), l => Assert.Equal(0.25, l.Thickness, 0.02));
    }

    [Fact]
    public void Hops_supports_and_changing_heights_are_told_apart()
    {
        // Heights 0.3, 0.5, 0.6, 0.85; back to 0.5 for a while; travel at 5 mm; a support between 0.6 and 0.85 printed after it.
        var f = ReadingTests.Inspect(
            "M104 S200\nM109 S200\nG28\nM83\nG1 Z0.3 F600\nG1 X30 E1 F1800\nG1 Z5\nG1 X0\nG1 Z0.5\nG1 X30 E0.7\nG1 Z0.6\nG1 X0 E0.4\nG1 Z0.5\nG1 X10 " +
                "E0.2\nG1 Z0.85\nG1 X30 E1\nG1 Z0.7\nG1 X0 E0.4\nM104 S0\n"
        );
        Assert.Equal([0.3, 0.5, 0.6, 0.85, 0.7], f.Layers.Select(l => Math.Round(l.Z, 3)));
        Assert.Equal([0.3, 0.2, 0.1, 0.25, 0.1], f.Layers.Select(l => Math.Round(l.Thickness, 3)));
        Assert.Equal(0.9 * Area, f.Layers[1].Volume, 6);
        Assert.Equal(1, f.Objects);
    }

    [Fact]
    public void Times_add_up_and_fall_with_acceleration() =>
        Gen.Select(Gen.Double[300, 5000], Gen.Double[1.2, 3], Gen.Int[6, 60])
            .Sample(
                (a, more, sides) =>
                {
                    var file = new SlicedFile { Layers = 4, Sides = sides }.ToBytes();
                    double Time(double acceleration, int look = 1024) =>
                        ReadingTests.Inspect(file, new() { Motion = MotionLimits.Usual with { Print = acceleration, Travel = acceleration, LookAhead = look } })
                            .Seconds;
                    var f = ReadingTests.Inspect(file, new() { Motion = MotionLimits.Usual with { Print = a, Travel = a } });
                    var asked = ReadingTests.Inspect(file, new() { Motion = null }).Seconds;
                    Assert.Equal(f.Seconds, f.Layers.Sum(l => l.Seconds) + f.Chart.Slices().TakeWhile(s => s.Layer < 0).Sum(s => s.Seconds), 0.35);
                    Assert.True(Time(a * more) < f.Seconds);
                    Assert.True(f.Seconds > asked * 0.999);
                    // A machine that sees less ahead is never faster.
                    Assert.True(Time(a, 8) >= f.Seconds - 1e-6);
                },
                iter: 20);

    [Fact]
    public void A_bounded_look_ahead_gives_the_same_as_an_unbounded_one()
    {
        var random = new Random(3);
        var moves = Enumerable.Range(0, 6000).Select(_ => (X: random.NextDouble() * 4 - 2, Y: random.NextDouble() * 4 - 2, F: 20 + random.NextDouble() * 150))
            .ToList();
        double Time(int look)
        {
            var sum = new Sum();
            var p = new MotionPlanner<byte>(MotionLimits.Free with { Print = 1500, Travel = 1500, LookAhead = look }, sum);
            foreach (var (x, y, speed) in moves)
                p.Add(x, y, 0, Math.Sqrt(x * x + y * y), 0.1, speed, 0);
            p.Stop();
            return sum.Seconds;
        }

        Assert.Equal(Time(10_000), Time(256), 6);
        Assert.True(Time(4) > Time(10_000));
    }

    private sealed class Sum : IMoveTimes<byte>
    {
        public double Seconds { get; private set; }

        public void Timed(ref readonly byte tag, double seconds, double peak) => Seconds += seconds;
    }

    [Fact]
    public void What_the_file_says_about_the_machine_is_heard()
    {
        double Time(string start, MotionLimits? limits = null) =>
            Inspect(new SlicedFile { Layers = 3, ExtraStart = start }, new() { Motion = limits ?? MotionLimits.Usual }).Seconds;
        var usual = Time("");
        Assert.True(Time("M204 P300 T300") > usual * 1.1);
        Assert.Equal(Time("M204 P300 T300"), Time("SET_VELOCITY_LIMIT ACCEL=300"), 6);
        Assert.True(Time("M203 X20 Y20") > usual * 1.3);
        Assert.Equal(Time("M203 X25 Y25"), Time("M203 X1500 Y1500"), 6);
        Assert.True(Time("M205 X2 Y2") > Time("M205 X20 Y20"));
        // A file can't make a machine faster than it is.
        Assert.Equal(Time("M204 P900 T900", MotionLimits.Of(200, 900)), Time("M204 P9000 T9000", MotionLimits.Of(200, 900)), 6);
        Assert.Equal(usual + 2.5, Time("G4 P2500"), 6);
        Assert.Equal(usual + 2.5, Time("G4 S2.5"), 6);
    }

    [Fact]
    public void Features_retractions_hops_and_the_place_of_the_fastest_flow()
    {
        var f = Inspect(new SlicedFile { Layers = 6, FillSpeed = 90 });
        Assert.Equal(["inner wall", "outer wall", "solid fill"], f.Features.Select(x => x.Name).Order());
        Assert.InRange(f.Features.Sum(x => x.Length), f.Model.Sum(l => l.Length) - 61, f.Model.Sum(l => l.Length) + 1);
        Assert.Equal((0.8, 35), (Math.Round(f.Retraction.Usual, 4), Math.Floor(f.Retraction.Speed.Mode)));
        Assert.Equal(0.205, f.Retraction.Hop.Mode, 3);
        Assert.Equal(90 * 0.45 * 0.2, f.MaxFlow, 0.02);
        Assert.True(f.MaxFlowLayer > 0 && f.MaxFlowLine > 0);
        Assert.True(f.Flow.Quantile(0.5) < f.Flow.Quantile(0.95) && f.Flow.Quantile(0.95) <= f.MaxFlow + 0.1);
        Assert.Equal(0.45, f.Width.Quantile(0.5), 0.011);
        // Other words for a feature, and other marks.
        Assert.Equal("infill", new FeatureNames().Of("; TYPE: Infill"u8));
        Assert.Equal("overhang", new FeatureNames().Of(";type=overhang\r"u8));
        Assert.Null(new FeatureNames().Of("; typewriter"u8));
        Assert.Null(new FeatureNames().Of("; feature "u8));
    }

    [Fact]
    public void A_usual_file_has_nothing_odd() => Assert.Empty(Oddities.Of(Inspect(new SlicedFile(), new() { Machine = Machines.Dunnock, FlowLimit = 15 })));

    public static TheoryData<string, SlicedFile, InspectionRequest?> OddFiles => new()
    {
        { "flow-override", new SlicedFile { ExtraStart = "M221 S95" }, null },
        { "speed-override", new SlicedFile { ExtraStart = "M220 S80" }, null },
        { "temperature-above-limit", new SlicedFile { NozzleC = 299 }, new() { Machine = Machines.Dunnock } },
        { "temperature-twice", new SlicedFile { Before = n => n == 7 ? "M104 S215\nM104 S225" : "" }, null },
        { "cold-extrusion", new SlicedFile { NozzleC = 120 }, null },
        { "beside-bed", new SlicedFile { Radius = 70 }, new() { Machine = Machines.Dunnock } },
        { "flow-above-limit", new SlicedFile { FillSpeed = 100 }, new() { FlowLimit = 6 } },
        { "crowded", new SlicedFile { Sides = 6000, WallSpeed = 120, Layers = 4 }, null },
        { "thick-first-layer", new SlicedFile { FirstLayerHeight = 0.35 }, null },
        { "feature-order", new SlicedFile { FillFirst = n => n == 9 }, null },
        { "slowed", new SlicedFile { Slow = n => n > 14 ? 0.5 : 1 }, null },
        { "e-mode-mixed", new SlicedFile { Before = n => n == 5 ? "M83\nM82" : "" }, null },
        { "e-jump", new SlicedFile { Before = n => n == 5 ? "M83" : "", ResetsE = false }, null },
        { "tower-without-steps", new SlicedFile { Title = "temperature tower" }, null },
        { "steps-left-on", new SlicedFile { Before = n => n % 5 == 0 ? $"M104 S{240 - n}" : "" }, null },
        { "no-retraction", new SlicedFile { Retraction = 0, Layers = 8 }, null },
        { "unreadable", new SlicedFile { Before = n => n == 3 ? "G1 X1.2.3" : "" }, null },
        { "nozzle-left-on", new SlicedFile { Before = n => n == 20 ? "M104 T1 S180" : "" }, null },
        { "g90-after-m83", new SlicedFile { RelativeE = true, ExtraStart = "G90" }, null },
        { "flow-clipped", new SlicedFile { Layers = 60, Slow = n => Math.Min(1, 0.3 + n * 0.015) }, null },
        { "flow-held-back", new SlicedFile { Layers = 60, Radius = 4, Fill = false, Sides = 4, Slow = n => 0.4 + n * 0.08 }, null },
    };

    [Theory]
    [MemberData(nameof(OddFiles))]
    public void What_is_odd_is_found_with_its_line(string key, SlicedFile file, InspectionRequest? request)
    {
        var bytes = file.ToBytes();
        var f = ReadingTests.Inspect(bytes, request);
        var all = Oddities.Of(f);
        var odd = all.FirstOrDefault(o => o.Key == key);
        Assert.True(odd is not null, $"found only: {string.Join(", ", all.Select(o => o.Key))}");
        Assert.True(odd.Line > 0 || key is "tower-without-steps" or "no-retraction");
        Assert.InRange(odd.Line, 0, f.Lines);
        Assert.DoesNotContain("NaN", odd.Text, StringComparison.Ordinal);
        if (key is "flow-override" or "speed-override" or "unreadable" or "temperature-twice")
        {
            var line = Encoding.UTF8.GetString(bytes).Split('\n')[odd.Line - 1];
            Assert.Contains(
                key switch
                {
                    "flow-override" => "M221",
                    "speed-override" => "M220",
                    "unreadable" => "1.2.3",
                    _ => "M104 S225",
                },
                line, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void Slowing_down_is_reckoned_in_seconds()
    {
        // Rings of two walls, 40 mm/s outside and 60 inside; layers above the 14th at half speed.
        var file = new SlicedFile { Fill = false, Slow = n => n > 14 ? 0.5 : 1, Sides = 180 };
        var slow = SlowDowns.Of(Inspect(file))!;
        var walls = 2 * Math.PI * 15 / 40 + 2 * Math.PI * (15 - 0.45) / 60;
        Assert.Equal(6, slow.Layers);
        Assert.Equal(6 * walls, slow.CostS, 6 * walls * 0.02);
        Assert.Equal(0.5, slow.SlowestShare, 2);
        Assert.Equal(2 * walls, slow.MinimumS, 0.6);
        // A longer minimum costs more, and one of 15 s slows every layer but the first.
        Assert.Equal(slow.Others.OrderBy(o => o.MinimumS), slow.Others.OrderBy(o => o.ChangeS));
        Assert.Equal(19, slow.Others.Single(o => o.MinimumS == 15).Layers);
        Assert.Null(SlowDowns.Of(Inspect(new SlicedFile())));
    }

    [Fact]
    public void Our_own_towers_are_understood()
    {
        var f = ReadingTests.Inspect(
            Machines.Text(Machines.Job(Machines.Tower(Machines.Whimbrel), Machines.Whimbrel).Job),
            new() { Name = "temperature tower", Machine = Machines.Whimbrel });
        Assert.Equal(0, f.UnreadLines);
        Assert.Null(Odd(f, "tower-without-steps"));
        Assert.Contains(f.Features, x => x.Name == "outer wall");
        Assert.All(Oddities.Of(f), o => Assert.NotEqual(Weight.Wrong, o.Weight));
    }

    [Theory]
    [InlineData(4)]
    [InlineData(5.2)]
    [InlineData(8)]
    public void What_is_above_a_limit_is_the_same_wherever_it_is_said(double limit)
    {
        var asked = Inspect(new SlicedFile(), new() { FlowLimit = limit });
        var effect = FlowEffect.Of(asked, limit);
        Assert.Equal((asked.SecondsAbove, asked.Model.Count(l => l.SecondsAbove > 0)), (effect.SecondsAbove, effect.Above.Count));
        // A limit that was typed beside the kept one is counted alike, to the width of a class.
        var beside = FlowEffect.Of(Inspect(new SlicedFile()), limit);
        Assert.Equal(effect.Above.Count, beside.Above.Count);
        Assert.Equal(effect.SecondsAbove, beside.SecondsAbove, 0.05 * asked.Seconds);
        Assert.Equal(beside.Above.Count > 0, beside.SecondsAbove > 0);
    }
}
