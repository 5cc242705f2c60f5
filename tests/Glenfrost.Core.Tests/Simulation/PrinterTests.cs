using System.Globalization;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Core.Tests.Simulation;

public class PrinterTests
{
    private static readonly PrinterSpec Spec = new() { Name = "Dunnock 180", BedXMm = 180, BedYMm = 180, HeightMm = 180, HeaterMaxC = 260 };

    private static string Last(IReadOnlyList<string> answers) => answers[^1];

    private static SimulatedPrinter Hot(PrinterSpec? spec = null, Faults? faults = null)
    {
        var p = new SimulatedPrinter(spec ?? Spec, faults);
        foreach (var line in new[] { "G28", "M109 S210", "G90", "M83" })
            p.Receive(line);
        return p;
    }

    [Fact]
    public void Every_line_is_answered_with_ok_and_what_was_asked()
    {
        var p = new SimulatedPrinter(Spec);
        Assert.Equal("ok", Last(p.Receive("G28 ; home")));
        Assert.Equal("ok", Last(p.Receive("")));
        Assert.StartsWith("T:20.0 /0.0 B:20.0 /0.0", p.Receive("M105")[0]);
        Assert.Contains("MACHINE_TYPE:Dunnock 180", p.Receive("M115")[0]);
        p.Receive("G1 X10 Y20 Z0.5 F6000");
        Assert.StartsWith("X:10.00 Y:20.00 Z:0.50", p.Receive("M114")[0]);
        Assert.Contains("not known here", p.Receive("M4711")[0]);
    }

    [Fact]
    public void A_garbled_line_is_asked_for_again_and_a_line_out_of_turn_too()
    {
        var p = new SimulatedPrinter(Spec);
        p.Receive("M110 N0");
        Assert.Equal(["ok"], p.Receive(CommandLine.WithChecksum(1, "G28")));
        var good = CommandLine.WithChecksum(2, "G1 X10 F3000");
        Assert.Equal("Resend: 2", p.Receive(good.Replace("X10", "X18"))[1]);
        Assert.Equal("Resend: 2", p.Receive(CommandLine.WithChecksum(3, "G1 X20"))[1]);
        Assert.Equal("Resend: 2", p.Receive("N2 G1 X10")[1]);
        Assert.Equal(["ok"], p.Receive(good));
        Assert.StartsWith("X:10.00", p.Receive("M114")[0]);
    }

    [Theory]
    [InlineData("N3 T0", 57)]
    [InlineData("N4 G92 E0", 67)]
    public void The_checksum_is_the_exclusive_or_of_all_bytes(string line, int sum)
    {
        // Worked by hand from the bytes of the line.
        Assert.Equal(sum, line.Aggregate(0, (a, c) => a ^ c));
        Assert.EndsWith($"*{sum}", CommandLine.WithChecksum(int.Parse(line[1..2], CultureInfo.InvariantCulture), line[3..]));
    }

    [Fact]
    public void M112_stops_all_until_it_is_started_anew()
    {
        var p = Hot();
        Assert.Equal("ok", Last(p.Receive("M112")));
        Assert.Equal(0, p.TargetC);
        Assert.StartsWith("Error:stopped by M112", p.Receive("G1 X50 F3000")[0]);
        var c = p.DisplayC;
        p.Rest(60);
        Assert.True(p.DisplayC < c);
        p.Receive("M999");
        Assert.Equal(["ok"], p.Receive("G1 X50 F3000"));
    }

    [Fact]
    public void Settings_are_volatile_until_they_are_stored()
    {
        var p = new SimulatedPrinter(Spec);
        p.Receive("M92 E101.5");
        Assert.Contains(p.Receive("M503"), l => l.Contains("M92 E101.5"));
        p.Receive("M501");
        Assert.Equal(96, p.Settings.StepsPerMm);
        p.Receive("M92 E101.5");
        p.Receive("M500");
        p.Receive("M92 E90");
        p.Receive("M501");
        Assert.Equal(101.5, p.Settings.StepsPerMm);
        // Switched off and on: what was stored is there.
        Assert.Equal(101.5, new SimulatedPrinter(Spec, null, p.Stored).Settings.StepsPerMm);
        p.Receive("M502");
        Assert.Equal(96, p.Settings.StepsPerMm);
        Assert.Equal(101.5, p.Stored.StepsPerMm);
    }

    [Fact]
    public void The_bed_at_the_end_is_as_cool_as_the_file_itself_let_it_become()
    {
        double End(params string[] last)
        {
            var p = new SimulatedPrinter(Spec);
            foreach (var line in new[] { "G28", "M190 S60", "M109 S210", "G90", "M83", "G1 Z0.2 F600", "G1 X50 E2 F1200" }.Concat(last))
                p.Receive(line);
            return p.Finish().BedEndC!.Value;
        }

        Assert.InRange(End("M140 S0"), 58, 60.5);
        Assert.InRange(End("M140 S45", "G4 S900", "M140 S0"), 44.5, 46);
    }

    [Fact]
    public void Times_of_moves_worked_by_hand()
    {
        // 100 mm at 50 mm/s with 1000 mm/s²: up and down take 0.05 s each over 1.25 mm, 97.5 mm at 50 mm/s take 1.95 s.
        Assert.Equal(2.05, Seconds("G1 X100 F3000"), 3);
        // 1 mm never reaches 50 mm/s: twice the square root of 1/1000.
        Assert.Equal(2 * Math.Sqrt(0.001), Seconds("G1 X1 F3000"), 4);
        // Straight on there is no stop between two moves.
        Assert.Equal(2.05, Seconds("G1 X40 F3000", "G1 X100"), 3);
        // Back on itself there is a whole one.
        Assert.Equal(2 * 1.05, Seconds("G1 X50 F3000", "G1 X0"), 3);
        // A right angle is taken at √(a·δ·(cos 45°)/(1 − cos 45°)) = √(1000·0.02·2.41421) = 6.949 mm/s: each leg gains 6.949 mm/s of speed and (6.949²/2000 =
        // 0.02414) mm of ramp.
        var leg = (50 - 6.949) / 1000 + 0.05 + (50 - 1.25 - (2500 - 6.949 * 6.949) / 2000) / 50;
        Assert.Equal(2 * leg, Seconds("G1 X50 F3000", "G1 Y50"), 3);
    }

    private static double Seconds(params string[] moves)
    {
        var p = new SimulatedPrinter(Spec with { Factory = new PrinterSettings { Travel = 1000, MaxX = 1000, MaxY = 1000 } });
        foreach (var line in new[] { "G28", "G90" })
            p.Receive(line);
        var from = p.ClockS;
        foreach (var m in moves)
            p.Receive(m);
        p.Receive("M400");
        return p.ClockS - from;
    }

    [Fact]
    public void Overrides_limits_and_dwells_count()
    {
        Assert.Equal(4.025, Seconds("M220 S50", "G1 X100 F3000"), 3);
        Assert.Equal(10.01, Seconds("M203 X10", "G1 X100 F3000"), 2);
        Assert.Equal(3.5, Seconds("G4 S3", "G4 P500"), 6);
    }

    [Fact]
    public void A_cold_nozzle_moves_and_feeds_nothing()
    {
        var p = new SimulatedPrinter(Spec);
        foreach (var line in new[] { "G28", "G90", "M83", "M104 S165", "G1 Z0.2 F600", "G1 X50 E5 F1200" })
            p.Receive(line);
        Assert.Contains("echo:too cold to feed, the extruder stands still", p.Receive("M400"));
        Assert.StartsWith("X:50.00", p.Receive("M114")[0]);
        Assert.Empty(p.Finish().Layers);
    }

    [Fact]
    public void Heaters_rise_with_their_own_pace_and_waiting_says_so()
    {
        var p = new SimulatedPrinter(Spec);
        var said = p.Receive("M109 S210");
        Assert.True(said.Count(l => l.StartsWith("T:", StringComparison.Ordinal)) > 20);
        Assert.Contains("echo:busy: processing", said);
        Assert.InRange(p.ClockS, 70, 140);
        Assert.InRange(p.DisplayC, 209, 211);
        // M109 S does not wait for cooling, R does.
        var at = p.ClockS;
        p.Receive("M109 S180");
        Assert.InRange(p.ClockS - at, 0, 2);
        p.Receive("M109 R180");
        Assert.InRange(p.DisplayC, 179, 181.1);
        // Off, it cools toward the room and never below it.
        p.Receive("M104 S0");
        p.Rest(36000);
        Assert.InRange(p.DisplayC, 19.99, 20.1);
    }

    [Fact]
    public void Retraction_is_paid_back_before_plastic_comes()
    {
        var p = Hot();
        foreach (var line in new[] { "G1 Z0.2 F600", "G1 X50 E2 F1200", "G1 E-1 F1800", "G1 X80 F6000", "G1 E1 F1800", "G1 X130 E2 F1200" })
            p.Receive(line);
        Assert.Equal(4, p.Finish().FedMm, 6);
    }

    [Fact]
    public void Inches_arcs_and_named_places()
    {
        var p = Hot();
        p.Receive("G20");
        p.Receive("G1 X2 F100");
        p.Receive("G21");
        Assert.StartsWith("X:50.80", p.Receive("M114")[0]);
        p.Receive("G92 X0");
        p.Receive("G1 X10 F3000");
        Assert.StartsWith("X:10.00", p.Receive("M114")[0]);
        // A whole circle of 20 mm radius is 125.66 mm long.
        p.Receive("G1 X60 Y60");
        p.Receive("M400");
        p.Receive("G92 X0 Y0");
        var from = p.ClockS;
        p.Receive("G2 X0 Y0 I20 J0 F600");
        p.Receive("M400");
        Assert.InRange(p.ClockS - from, 12.5, 12.8);
    }

    /// <summary>Ten square layers.</summary>
    private static IEnumerable<string> Block(int layers = 10)
    {
        yield return "M109 S210";
        yield return "G28";
        yield return "G90";
        yield return "M83";
        for (var i = 1; i <= layers; i++)
        {
            yield return string.Create(CultureInfo.InvariantCulture, $"G1 X20 Y20 Z{0.2 * i:0.0} F6000");
            foreach (var to in new[] { "X60 Y20", "X60 Y60", "X20 Y60", "X20 Y20" })
                yield return $"G1 {to} E1.4 F1800";
        }

        yield return "M400";
    }

    private static SimulatedBench Bench => new(Spec, HiddenMaterial.Draw("PLA", 1), HiddenMachine.Draw(2), 3);

    [Fact]
    public void Faults_happen_at_their_height_and_leave_their_trace()
    {
        var whole = Bench.Print(Block()).Trace;
        Assert.Equal(10, whole.Layers.Count);
        Assert.Null(whole.EndedBecause);
        Assert.Equal(5, Bench.Print(Block(), new() { KnockedAtMm = 1.2 }).Trace.Layers.Count(l => l.ZMm < 1.19));
        Assert.True(Bench.Print(Block(), new() { KnockedAtMm = 1.2 }).Trace.Layers.Count < 7);
        Assert.Contains("mains", Bench.Print(Block(), new() { PowerCutAtMm = 1 }).Trace.EndedBecause);
        Assert.Contains("runaway", Bench.Print(Block(400), new() { RunawayAtMm = 1 }).Trace.EndedBecause);
        Assert.Contains("line to the printer", Bench.Print(Block(), new() { LostConnectionAtMm = 1 }).Trace.EndedBecause);
        var tangled = Bench.Print(Block(), new() { TangleAtMm = 1 });
        Assert.True(tangled.Trace.Layers[^1].Starved);
        Assert.True(tangled.Piece().Look(1.2, 2).Failed);
        Assert.False(tangled.Piece().Look(0, 0.8).Failed);
        Assert.True(tangled.Piece().MassG < Bench.Print(Block()).Piece().MassG * 0.75);
        Assert.True(Bench.Print(Block(), new() { SlipAtMm = 1 }).Piece().Look(1.2, 2).Starved > Bench.Print(Block()).Piece().Look(1.2, 2).Starved + 0.1);
        Assert.True(Bench.Print(Block(), new() { BlockedAtMm = 1 }).Piece().Look(1.2, 2).Starved > Bench.Print(Block()).Piece().Look(1.2, 2).Starved);
    }

    [Fact]
    public void Garbled_lines_cost_resends_and_nothing_else()
    {
        var printer = new SimulatedPrinter(Spec, new() { GarbleEvery = 7 });
        var sender = new LineSender(printer);
        sender.Begin();
        foreach (var line in Block())
            sender.Send(line);
        Assert.True(sender.Resent >= 5);
        var (garbled, whole) = (Bench.Take(printer.Finish()).ToBytes(), Bench.Print(Block()).ToBytes());
        Assert.Equal(whole, garbled);
    }

    [Fact]
    public void A_seed_fixes_everything_and_another_seed_changes_it()
    {
        Assert.Equal(Bench.Print(Block()).ToBytes(), Bench.Print(Block()).ToBytes());
        Assert.Equal(HiddenMaterial.Draw("PETG", 5), HiddenMaterial.Draw("PETG", 5));
        Assert.NotEqual(HiddenMaterial.Draw("PETG", 5).CentreC, HiddenMaterial.Draw("PETG", 6).CentreC);
        Assert.NotEqual(HiddenMachine.Draw(5).FeedRatio, HiddenMachine.Draw(6).FeedRatio);
    }

    [Fact]
    public void Bad_lines_of_every_kind_are_answered_and_break_nothing()
    {
        var p = Hot();
        foreach (var line in new[]
            {
                "G1 Xnan Y", "G1 X1e400", "*", "N", "N99999999999999999999 G1*3", "G2", "G1 E1e9", "M104 Sinf", "T99", "T-1", "M92 E-5",
                "(((",
                "SET_PRESSURE_ADVANCE ADVANCE=", "\0\u0001", new string('X', 10000), "G4 S-5", "M220 S0", "g1x10y10", "M109 S9999",
            })
            Assert.Equal("ok", Last(p.Receive(line)));
        Assert.Null(p.Halted);
        Assert.StartsWith("X:", p.Receive("M114")[0]);
        Assert.InRange(p.TargetC, 0, Spec.HeaterMaxC);
    }

    [Fact]
    public void It_stands_on_its_own()
    {
        var names = typeof(SimulatedPrinter).Assembly.GetReferencedAssemblies().Select(a => a.Name!).ToList();
        Assert.DoesNotContain(names, n => n.StartsWith("Glenfrost", StringComparison.Ordinal));
    }
}
