using System.Text;
using System.Text.RegularExpressions;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Release;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>A bed that cools in steps behind a print: how a profile says it, and what the files of all trials do.</summary>
public class BedRampTests
{
    [Theory]
    [InlineData("90 °C 10 min, 70 °C 10 min", "90:10 70:10")]
    [InlineData("100 C for 5 minutes; 80 °C 2.5 min;60 20 min", "100:5 80:2.5 60:20")]
    [InlineData("5 °C every 3 min to 85 °C", "95:3 90:3 85:3")]
    [InlineData("10 per 4 min down to 75", "91.7:4 83.3:4 75:4")]
    [InlineData("to release", "95:3 90:3 85:3 80:3 75:3 70:3 65:3 60:3 55:3 50:3")]
    [InlineData("In steps to the release temperature", "95:3 90:3 85:3 80:3 75:3 70:3 65:3 60:3 55:3 50:3")]
    public void Each_way_of_saying_it_is_read(string text, string steps)
    {
        var (read, why) = BedRamp.Read(text, 100, 22, 50);
        Assert.Null(why);
        Assert.Equal(steps, string.Join(' ', read!.Select(s => FormattableString.Invariant($"{s.C}:{s.Minutes}"))));
    }

    [Theory]
    [InlineData("leave the door shut for an hour", 22, 50, "in words that no file can hold")]
    [InlineData("70 °C 10 min, 90 °C 10 min", 22, 50, "do not fall")]
    [InlineData("110 °C 10 min", 22, 50, "nothing to cool down from")]
    [InlineData("60 °C 10 min, 40 °C 5 min", 38, 50, "may never be reached: the air has 38 °C")]
    [InlineData("to release", 22, null, "no release temperature")]
    [InlineData("60 °C 3000 min", 22, 50, "more than a day")]
    [InlineData("60 °C 0 min", 22, 50, "no time")]
    [InlineData("5 °C every 3 min to 120 °C", 22, 50, "nothing to cool down from")]
    [InlineData("0 °C every 3 min to 50 °C", 22, 50, "nothing to cool down from")]
    public void What_no_file_can_hold_says_why_and_stays_by_hand(string text, double airC, int? releaseC, string why)
    {
        var (read, said) = BedRamp.Read(text, 100, airC, releaseC);
        Assert.Null(read);
        Assert.Contains(why, said);
    }

    [Fact]
    public void Nothing_kept_is_nothing() => Assert.Equal((null, null), BedRamp.Read(" ", 100, 22, 50));

    private static PlanContext Context(Machine m, IReadOnlyList<RampStep>? ramp)
    {
        var family = Family.Find("PLA")!;
        return new()
        {
            Memory = TestMemory.Shared, Machine = m, Settings = Machines.Settings(m) with { BedTemperatureC = 60, CoolDown = ramp }, Family = family,
            AdvisedC = new(190, 220), StepsPerMm = 400, Subject = "any",
        };
    }

    private static readonly RampStep[] Ramp = [new(52, 4), new(45.5, 7.25), new(35, 12)];

    public static TheoryData<string, int> OnMachines =>
        [.. WrittenFileTests.WithPieces.SelectMany(k => Enumerable.Range(0, 3).Select(i => (k.Data, i)))];

    [Theory]
    [MemberData(nameof(OnMachines))]
    public void Behind_every_piece_the_bed_falls_through_its_steps_for_their_time_the_nozzle_never_goes_down_and_the_bed_is_off_at_last(string kind, int machine)
    {
        var m = new[] { Machines.Dunnock, Machines.Ptarmigan, Machines.Whimbrel }[machine];
        var trial = TrialCatalogue.Get(kind);
        PieceJob? Job(IReadOnlyList<RampStep>? ramp)
        {
            var c = Context(m, ramp);
            return trial.Plan(trial.Propose(c), c).Plan is { WritesFile: true } plan ? trial.Make(plan, c).Job : null;
        }

        if (Job(Ramp) is not { } with || Job(null) is not { } without)
            return;
        var text = Machines.Text(with);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        var facts = Inspector.Inspect(new MemoryStream(Encoding.ASCII.GetBytes(text)), new() { Name = "a.gcode" });
        var plain = Inspector.Inspect(new MemoryStream(Encoding.ASCII.GetBytes(Machines.Text(without))), new() { Name = "a.gcode" });
        if (kind == ReleaseTrial.Word)
        {
            // It asks at what temperature parts let go by themselves.
            Assert.Equal(0, facts.CoolDownLine);
            return;
        }

        Assert.True(facts.CoolDownLine > facts.LastExtrudeLine);
        Assert.Empty(facts.Unread);
        // By another reader than what wrote it: the bed's lines, and how long is waited.
        var bed = facts.Settings.Where(s => s.Line > facts.LastExtrudeLine && s.Kind == SettingKind.Bed).Select(s => s.Value).ToList();
        Assert.Equal([52, 45.5, 35, 0], bed.Take(4));
        Assert.All(bed.Skip(4), b => Assert.Equal(0, b));
        Assert.Equal((4 + 7.25 + 12) * 60, facts.DwellSeconds - plain.DwellSeconds, 0.5);
        Assert.All(facts.Dwells.Where(d => d.Line > facts.LastExtrudeLine), d => Assert.InRange(d.Seconds, 0, 30));
        Assert.Equal(Math.Ceiling((with.Seconds + 23.25 * 60) / 60), with.Minutes);
        Assert.Equal(without.Seconds, with.Seconds);
        // Before the motors are let go, and never downwards.
        if (facts.MotorsOff.Count > 0)
            Assert.True(facts.MotorsOff[0].Line > facts.CoolDownLine);
        var (last, z) = (0, facts.Layers.Max(l => l.Z));
        foreach (var line in text.Split('\n').Skip(facts.LastExtrudeLine))
        {
            last++;
            if (Regex.Match(line, @"^G[01] .*Z(?<z>[0-9.]+)") is not { Success: true } move)
                continue;
            var to = double.Parse(move.Groups["z"].ValueSpan, System.Globalization.CultureInfo.InvariantCulture);
            Assert.True(to >= z - 1e-6, $"line {last}: {line}");
            z = to;
        }
    }

    [Fact]
    public void What_is_no_piece_cools_down_too_where_it_lies_on_the_bed_and_its_minutes_are_foreseen()
    {
        var with = new List<string>();
        foreach (var trial in TrialCatalogue.All.Where(t => t.Subject == TrialSubject.Pairing && t.Suits("PLA")))
        {
            (IReadOnlyList<string>? Lines, int Minutes) Of(IReadOnlyList<RampStep>? ramp)
            {
                var c = Context(Machines.Whimbrel, ramp);
                return trial.Plan(trial.Propose(c), c).Plan is { WritesFile: true } plan ? (trial.Lines(plan, c)?.Lines, plan.Estimate.Minutes) : default;
            }

            if (Of(Ramp) is not ({ } lines, var minutes) || !lines.Any(l => l.StartsWith(BedRamp.Mark, StringComparison.Ordinal)))
                continue;
            with.Add(trial.Kind);
            Assert.InRange(minutes - Of(null).Minutes, 23, 24);
        }

        Assert.Contains("pressure-advance", with);
        Assert.Contains("flow-limit-rising", with);
        Assert.DoesNotContain("flow-limit-weighed", with);
    }

    [Fact]
    public void A_run_knows_that_its_bed_cooled_in_steps()
    {
        var s = Machines.Settings(Machines.Dunnock);
        Assert.Equal("52 °C 4 min, 45.5 °C 7.25 min, 35 °C 12 min", Core.Factors.PrintFactors.Of(s with { CoolDown = Ramp })["coolDown"].Text);
        Assert.Equal("none", Core.Factors.PrintFactors.Of(s)["coolDown"].Text);
    }

    [Fact]
    public void A_ramp_moves_nothing_else_of_a_file()
    {
        string[] Body(IReadOnlyList<RampStep>? ramp) =>
            [.. Machines.Text(Machines.Job(Machines.Tower(Machines.Dunnock), Machines.Dunnock, Machines.Settings(Machines.Dunnock) with { CoolDown = ramp }).Job).Split('\n')];
        var (with, without) = (Body(Ramp), Body(null));
        var added = with.Where(l => l.Contains("glenfrost cool-down", StringComparison.Ordinal) || l.Contains("glenfrost cool-down begins", StringComparison.Ordinal)).ToList();
        Assert.Equal(without.Length + added.Count, with.Length);
        var minutes = new Regex(@"\d+ min");
        Assert.Equal(without.Select(l => minutes.Replace(l, "")), with.Where(l => !added.Contains(l)).Select(l => minutes.Replace(l, "")));
    }
}
