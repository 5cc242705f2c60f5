using CsCheck;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>Dialects, placeholders, the clock of moves, the last gate, and small files to read.</summary>
public class GcodeTests
{
    [Fact]
    public void A_straight_move_worked_by_hand()
    {
        // 100 mm at 50 mm/s with 1000 mm/s²: 0.05 s up and down over 1.25 mm each, 97.5 mm at full speed: 0.05 + 1.95 + 0.05.
        var clock = new MotionClock(1000);
        clock.Add(100, 0, 0, 3, 50);
        clock.Stop();
        Assert.Equal(2.05, clock.Seconds, 9);
        // Too short to reach 50 mm/s: 0.9 mm peaks at √(1000 × 0.9) = 30 mm/s, 0.06 s.
        clock = new MotionClock(1000);
        clock.Add(0.9, 0, 0, 0, 50);
        clock.Stop();
        Assert.Equal(0.06, clock.Seconds, 9);
    }

    [Fact]
    public void A_clock_that_is_started_anew_knows_nothing_of_what_it_timed_before()
    {
        var clock = new MotionClock(1000);
        clock.Add(100, 0, 0, 3, 50);
        clock.Add(0, 40, 0, 3, 90);
        clock.Restart();
        Assert.Equal(0, clock.Seconds);
        clock.Add(100, 0, 0, 3, 50);
        clock.Stop();
        Assert.Equal(2.05, clock.Seconds, 9);
    }

    [Fact]
    public void A_straight_line_in_pieces_takes_as_long_as_in_one()
    {
        var clock = new MotionClock(1000);
        for (var i = 0; i < 100; i++)
            clock.Add(1, 0, 0, 0.03, 50);
        clock.Stop();
        Assert.Equal(2.05, clock.Seconds, 6);
    }

    [Fact]
    public void Corners_cost_time_the_sharper_the_more()
    {
        double Time(double degrees)
        {
            var clock = new MotionClock(1000);
            clock.Add(20, 0, 0, 0, 60);
            clock.Add(20 * Math.Cos(degrees * Math.PI / 180), 20 * Math.Sin(degrees * Math.PI / 180), 0, 0, 60);
            clock.Stop();
            return clock.Seconds;
        }

        Assert.True(Time(0) < Time(45) && Time(45) < Time(90) && Time(90) < Time(179));
        // Turning back stops: twice 20 mm from stop to stop, 0.06 + 16.4/60 + 0.06 each.
        Assert.Equal(2 * (0.12 + 16.4 / 60), Time(180), 3);
    }

    [Fact]
    public void Time_grows_with_length_and_falls_with_speed_and_acceleration() =>
        Gen.Select(Gen.Double[0.1, 200], Gen.Double[5, 300], Gen.Double[200, 9000])
            .Sample(
                (length, speed, a) =>
                {
                    double Time(double l, double v, double acc)
                    {
                        var clock = new MotionClock(acc);
                        clock.Add(l, 0, 0, 0, v);
                        clock.Add(0, l, 0, 0, v);
                        clock.Stop();
                        return clock.Seconds;
                    }

                    var t = Time(length, speed, a);
                    Assert.True(t >= 2 * length / speed);
                    Assert.True(Time(length * 1.1, speed, a) > t);
                    Assert.True(Time(length, speed * 1.1, a) <= t + 1e-9);
                    Assert.True(Time(length, speed, a * 1.1) <= t + 1e-9);
                });

    [Fact]
    public void Feeding_alone_stops_the_axes()
    {
        var clock = new MotionClock(1000);
        clock.Add(10, 0, 0, 0, 50);
        clock.Add(0, 0, 0, -0.8, 30);
        clock.Stop();
        // 10 mm: 0.1 + 7.5/50; 0.8 mm of filament: peaks at √800 = 28.3 mm/s, 2 × 0.0283 s.
        Assert.Equal(0.25 + 2 * Math.Sqrt(0.8 / 1000), clock.Seconds, 6);
    }

    [Theory]
    [InlineData("M190 S{bedTemperatureC}\nM109 S{nozzleTemperatureC}", null)]
    [InlineData("SET x={{{tool}}}", null)]
    [InlineData("M190 S{bed_temperature}", "Did you mean {bedTemperatureC}?")]
    [InlineData("M109 S{nozzleTemperature}", "Did you mean {nozzleTemperatureC}?")]
    [InlineData("M190 S{bed}", "Did you mean {bedTemperatureC}?")]
    [InlineData("M190 S{bed_temp}", "Did you mean {bedTemperatureC}?")]
    [InlineData("M109 S{first_layer}", "Did you mean {firstLayerBedTemperatureC} or {firstLayerNozzleTemperatureC}?")]
    [InlineData("G1 X{bed_x}", "Did you mean {bedXMm}?")]
    [InlineData("M109 S{temp}", "Glenfrost knows. Known:")]
    [InlineData("M109 S{first_layer_temperature}", "is not a placeholder")]
    [InlineData("M109 S{xyzzy}", "Known: nozzleTemperatureC")]
    [InlineData("M109 S{200", "opens a brace")]
    [InlineData("M109 S200}", "closing brace")]
    public void Placeholders_are_filled_and_unknown_ones_refused(string code, string? says)
    {
        var wrong = Placeholders.Check(code);
        if (says is null)
            Assert.Null(wrong);
        else
            Assert.Contains(says, wrong);
    }

    [Fact]
    public void Every_placeholder_has_a_value()
    {
        var values = Placeholders.Values(Machines.Dunnock, Machines.Settings(Machines.Dunnock), 215, 0.2, 0.24, 50, 10);
        Assert.All(Placeholders.All, p => Assert.Contains(p.Name, values.Keys));
        Assert.Equal("M109 S215 {x} 0.24", Placeholders.Fill("M109 S{nozzleTemperatureC} {{x}} {firstLayerHeightMm}", values));
    }

    [Fact]
    public void Dialects_differ_where_printers_do()
    {
        var (a, b, c) = (Dialect.Of("m900"), Dialect.Of("m572"), Dialect.Of("macro"));
        Assert.Equal(["M900 K0.045", "M572 S0.045", "SET_PRESSURE_ADVANCE ADVANCE=0.045"], new[] { a, b, c }.Select(d => d.PressureAdvance(0.045)));
        Assert.Equal(["G4 S1.5", "G4 S1.5", "G4 P1500"], new[] { a, b, c }.Select(d => d.Dwell(1.5)));
        Assert.Equal("M92 E408.25", a.StepsPerMm!(408.25));
        Assert.Null(c.StepsPerMm);
        Assert.Null(c.WaitForCoolingBed);
        Assert.Equal("M190 R40", b.WaitForCoolingBed!(40));
    }

    [Theory]
    [InlineData("M109 S260", "above the nozzle's limit of 237")]
    [InlineData("m104 s250 ; hot", "above the nozzle's limit")]
    [InlineData("M190 S{bedTemperatureC}\nM140 S95", "line 2, M140 S95: sets 95 °C, above the bed's limit of 90")]
    [InlineData("PRINT_START BED_TEMP=95", "line 1, PRINT_START BED_TEMP=95: sets 95 °C, above the bed's limit of 90")]
    public void Start_code_above_a_limit_is_refused(string code, string says)
    {
        var m = Machines.Dunnock with { StartCode = code };
        var (job, errors) = PieceJob.Make(new JobRequest { Pieces = [Block()], Temperatures = [new(0, 1, 210, "all")] }, m, Machines.Settings(m));
        Assert.Null(job);
        Assert.Equal("startCode", Assert.Single(errors).Field);
        Assert.Contains(says, errors[0].Message);
    }

    [Theory]
    // Written by somebody else: no comment of ours says where printing begins.
    [InlineData("M104 S210\nG28\nM83\nG1 X20 Y20 Z0.2\nG1 X60 E2\nG1 X900 F3000\nG1 X60 Y30 E2", "moves to 900, 20, beside the bed")]
    [InlineData("M104 S210\nG28\nM83\nG1 X900", "moves to 900")]
    [InlineData("M104 S210\nG28\nM83\nG1 X60 Y20 Z0.2 E2\nG91\nG1 X200\nG1 X-200\nG90\nG1 X30 E1", "moves to 260, 20")]
    [InlineData("M104 S210\nG28\nM83\nG1 X10 Y90 Z0.2 E2\nG2 X10 Y10 I0 J-40 E3", "")]
    [InlineData("M104 S210\nG28\nM83\nG1 X10 Y90 Z0.2 E2\nG3 X10 Y10 I0 J-40 E3\nG1 X30 E1", "beside the bed")]
    [InlineData("M104 S210\nG28\nG20\nM83\nG1 X2 Y2 Z0.01 E0.1\nG1 X8 E0.1\nG1 X2 E0.1", "moves to 203.2")]
    [InlineData("SET_HEATER_TEMPERATURE HEATER=extruder TARGET=400", "sets 400 °C, above the nozzle's limit")]
    [InlineData("SET_HEATER_TEMPERATURE HEATER=heater_bed TARGET=120", "above the bed's limit")]
    [InlineData("PRINT_START NOZZLE_TEMP=400 BED=60", "sets 400 °C, above the nozzle's limit")]
    [InlineData("PRINT_START EXTRUDER=210 BED_TEMP=130", "sets 130 °C, above the bed's limit")]
    [InlineData("PRINT_START EXTRUDER=210 BED_TEMP=60", "")]
    [InlineData("M104 S90\nG28\nM83\nG1 X20 Y20 Z0.2 E2", "extrudes at 90 °C")]
    // Purged beside the bed before, parked beside it after: that is the machine's own.
    [InlineData("M104 S210\nG28\nM83\nG1 X-8 Y20 Z0.3\nG1 Y90 E9\nG1 X20 Y20 Z0.2\nG1 X60 E2\nG1 X-8 Y200", "")]
    [InlineData("M104 S210\nG28\nM83\nG1 X20 Y20 Z0.2\nG1 X60 E2\nG1 X-8\nG1 X20 Y30\nG1 X60 E2", "moves to -8, 20, beside the bed")]
    public void A_file_of_somebody_else_is_judged_by_what_it_does(string file, string says)
    {
        var wrong = string.Join("; ", GcodeGuard.Check(new StringReader(file), Machines.Dunnock));
        if (says.Length == 0)
            Assert.Equal("", wrong);
        else
            Assert.Contains(says, wrong);
    }

    [Fact]
    public void The_last_gate_sees_what_leaves_a_limit()
    {
        string Wrong(string line) =>
            string.Join("; ", GcodeGuard.Check(new StringReader($"M104 S210\n; print begins\nM83\n{line}\n; print ends\nG28"), Machines.Dunnock));
        Assert.Equal("", Wrong("G1 X10 Y10 Z0.2 E1"));
        Assert.Contains("beside the bed", Wrong("G1 X181 E1"));
        Assert.Contains("beside the bed", Wrong("G0 Y-0.5"));
        Assert.Contains("beyond the height", Wrong("G0 Z181"));
        Assert.Contains("extrudes at 150", Wrong("M104 S150\nG1 X10 E1"));
        Assert.Contains("above the nozzle's limit", Wrong("M109 S238"));
        Assert.Contains("line 5", Wrong("G0 X1\nG0 X500"));
    }

    [Fact]
    public void Temperatures_beyond_a_limit_are_refused_whoever_asks()
    {
        foreach (var c in new[] { 238.0, 169 })
        {
            var (job, errors) = PieceJob.Make(
                new JobRequest { Pieces = [Block()], Temperatures = [new(0, 1, 210, "a"), new(0, 2, c, "b")] }, Machines.Dunnock,
                Machines.Settings(Machines.Dunnock));
            Assert.Null(job);
            Assert.Contains("limits, 170 to 237", Assert.Single(errors).Message);
        }
    }

    /// <summary>A block of two layers: small enough to read.</summary>
    private static Piece Block()
    {
        var islands = new Islands();
        var block = islands.Of(Plane.Rectangle(0, 0, 6, 3));
        return new Piece { Name = "Block", Layers = [new(1, 0.3, 0.3, null, block, []), new(2, 0.6, 0.3, 0, block, [])] };
    }

    [Theory]
    [InlineData("dunnock")]
    [InlineData("ptarmigan")]
    [InlineData("whimbrel")]
    public void Golden_files(string printer)
    {
        var m = printer switch
        {
            "dunnock" => Machines.Dunnock,
            "ptarmigan" => Machines.Ptarmigan,
            _ => Machines.Whimbrel,
        };
        var s = Machines.Settings(m, printer == "whimbrel" ? "ABS" : "PETG") with
        {
            PressureAdvance = printer == "dunnock" ? null : 0.04,
            ChamberTemperatureC = printer == "whimbrel" ? 40 : null,
            SkirtLoops = 1,
        };
        var request = new JobRequest
        {
            Pieces = [Block()], Temperatures = [new(0, 1, 235, "base"), new(0, 2, 230, "section 1")], PlanLines = ["a block of two layers"],
            WaitAtChanges = printer == "ptarmigan",
        };
        var (job, errors) = PieceJob.Make(request, m, s);
        Assert.Empty(errors);
        var path = Path.Combine(AppContext.BaseDirectory, "golden", $"block-{printer}.gcode");
        var text = Machines.Text(job!);
        if (Environment.GetEnvironmentVariable("GLENFROST_GOLDEN") is { Length: > 0 } folder)
            File.WriteAllText(Path.Combine(folder, $"block-{printer}.gcode"), text);
        Assert.Equal(File.ReadAllText(path).ReplaceLineEndings("\n"), text);
    }

    [Fact]
    public void Numbers_are_written_short_and_never_too_fast()
    {
        Span<char> to = stackalloc char[32];
        string Text(double v, int digits, Span<char> at) => at[..GcodeWriter.Fixed(v, digits, at)].ToString();
        Assert.Equal("12.5", Text(12.5, 3, to));
        Assert.Equal("-0.00021", Text(-0.00021, 5, to));
        Assert.Equal("0", Text(0.0001, 3, to));
        Assert.Equal("100", Text(100, 3, to));
        Assert.Equal("10.001", Text(10.0006, 3, to));
    }
}
