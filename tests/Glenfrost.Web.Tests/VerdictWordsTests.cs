using System.Text.Json;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.SurfaceFlow;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Trials.Verification;

namespace Glenfrost.Web.Tests;

/// <summary>Sentences that testers read, from verdicts that are codes: a few of each trial, with their numbers.</summary>
public class VerdictWordsTests
{
    private static SectionReading At(double t, params double[] scores) =>
        new(t, SectionState.Judged, Aspects.All.Zip(scores).Where(p => p.Second >= 0).ToDictionary(p => p.First, p => p.Second));

    private static TrialVerdict Tower(TowerReadings readings) => VerdictWords.Tell(TowerJudging.Judge(readings));

    [Fact]
    public void A_tower_says_what_to_use_what_may_be_lost_and_whether_another_is_worth_it()
    {
        var alike = Tower(new() { Sections = [.. Enumerable.Range(0, 9).Select(i => At(230 - 5 * i, 3, 3, 3, 3, 3))] });
        Assert.StartsWith("210 °C. Any from 190 to 230 will do", alike.Sentence);
        Assert.DoesNotContain("alone", alike.Sentence);
        Assert.Contains("not worth it", alike.Next!.Text);
        var clear = Tower(new()
        {
            Sections = [At(225, 1, 2, 1, 2), At(220, 2, 2, 2, 2), At(215, 4, 4, 4, 4), At(210, 2, 2, 2, 2), At(205, 1, 1, 2, 1)], Cost = new(110, 22, 0),
        });
        Assert.StartsWith("215 °C. It stands alone", clear.Sentence);
        Assert.Contains("for 22 g and 1 h 50: not worth it", clear.Next!.Text);
        var noise = Tower(new() { Sections = [At(250, 0.5), At(230, 4), At(210, 4), At(190, 0.5)], ScoreNoise = 1 });
        Assert.Contains(" and ", noise.Sentence);
        Assert.Contains("would gain about", noise.Next!.Text);
    }

    [Fact]
    public void A_tower_says_its_limits_its_gaps_and_how_each_number_came_about()
    {
        var edge = Tower(new() { Sections = [At(230, 4, 4, 4, 4), At(225, 3, 3, 2, 2), At(220, 2, 2, 2, 2)], Limits = new(170, 232, null, "PTFE liner") });
        Assert.Contains(edge.Reasons, r => r.Contains("232 °C (PTFE liner)"));
        Assert.Contains("hotter is not open", edge.Next!.Text);
        var gap = Tower(new() { Sections = [At(220, 3, 3, 3, 1), At(215, 4, 4, 4), At(210, 3, 3, 4, 4)] });
        Assert.Contains(gap.Warnings, w => w.StartsWith("Surface is left out: 215", StringComparison.Ordinal));
        Assert.Equal("(3/4 · 3/4 · 3/4)^(1/3) = 0.750", ((TowerVerdict)gap).Sections[0].Arithmetic);
        var display = Tower(new() { Sections = [At(225, 2, 2, 2, 2), At(220, 4, 4, 4, 4) with { ObservedC = 216 }, At(210, 2, 2, 2, 2)] });
        Assert.Contains(display.Warnings, w => w.Contains("showed 216"));
        Assert.Contains("one aspect at a time", Tower(new() { Sections = [At(220), At(215)] }).Next!.Text);
    }

    /// <summary>The sums of a clip come out with the digits that they show.</summary>
    [Theory]
    [InlineData(8.24, "bore: 8.24 less 8.2 as drawn = +0.04 mm")]
    [InlineData(8.16, "bore: 8.16 less 8.2 as drawn = −0.04 mm")]
    [InlineData(8.202, "bore: 8.2 less 8.2 as drawn = 0 mm")]
    public void A_clip_sets_out_its_bore_with_the_digits_of_a_calliper(double bore, string said)
    {
        var clip = VerdictWords.Tell(VerificationJudging.Judge(new()
        {
            Piece = VerificationTrial.Clip, Zones = [new("all of it", 4)], Fit = new() { RodMm = 8, BoreMm = bore, BoreAtBedMm = 8.1, GapMm = 0.1, Snap = 4 },
        }));
        Assert.Contains(said, clip.Arithmetic);
    }

    [Fact]
    public void Weighed_samples_name_the_scale_the_full_mass_and_what_was_left_out()
    {
        var readings = new WeighedReadings
        {
            StartFlowMm3PerS = 4, StepMm3PerS = 2, MassesG = [[0.895], [0.896], [0.4], [0.895], [0.88], [0.853], [0.81], [0.752]], ScaleResolutionG = 0.05,
            ExtrudedLengthMm = 250, FilamentDiameterMm = 1.75, DensityGPerCm3 = 1.24,
        };
        var told = VerdictWords.Tell(WeighedJudging.Judge(readings));
        Assert.Contains(told.Warnings, w => w.Contains("too coarse"));
        Assert.Contains(told.Warnings, w => w.Contains("look at the feed"));
        var tangle = VerdictWords.Tell(
            WeighedJudging.Judge(readings with { ScaleResolutionG = 0.001, Failed = new Dictionary<int, string> { [2] = "tangle" } }));
        Assert.Contains(tangle.Reasons, r => r.Contains("8 mm³/s is left out: tangle"));
        var both = VerdictWords.Tell(WeighedJudging.Judge(readings) with
        {
            NozzleTemperatureC = 200,
            Other = WeighedJudging.Judge(readings) with { NozzleTemperatureC = 215 },
        });
        Assert.Contains(both.Reasons, r => r.StartsWith("At 215 °C", StringComparison.Ordinal));
        Assert.NotEmpty(((WeighedFlowVerdict)both).Other!.Sentence);
    }

    [Fact]
    public void A_ladder_says_what_was_taken_as_good_and_where_it_contradicts_itself()
    {
        var taken = StepsJudging.Judge(new() { StartSpeedMmPerS = 40, IncreasePercent = 25, LastGoodStep = 4 }) with { Ladder = new() { Taken = 2 } };
        Assert.Contains(VerdictWords.Tell(taken).Reasons, r => r.Contains("2 steps below were not read and are taken as good"));
        var torn = new SteppedFlowVerdict { Outcome = FlowOutcome.Insufficient, Ladder = new() { SaidGood = 2, SaidBad = 1, Word = "gaps" } };
        Assert.Contains("one of the two is read wrong", VerdictWords.Tell(torn).Sentence);
    }

    [Fact]
    public void Feed_foam_strip_and_patches_say_their_cautions()
    {
        var feed = VerdictWords.Tell(FeedJudging.Judge(new()
        {
            StepsPerMm = 93, Readings = [new(120, 45), new(120, 45), new(120, null, null, true)],
        }));
        Assert.Contains(feed.Warnings, w => w.Contains("more than 120 mm"));
        Assert.Contains(feed.Warnings, w => w.Contains("microsteps"));
        FoamStep Wall(double t, double multiplier, double mm) => new(t, multiplier, [mm, mm, mm, mm]);
        var foam = VerdictWords.Tell(FoamingJudging.Judge(new()
        {
            ReferenceWidthMm = 0.45, TargetDensityGPerCm3 = 0.4,
            Steps = [Wall(210, 1, 0.5), Wall(230, 1, 0.81), Wall(250, 1, 0.7), Wall(230, 0.6, 0.55), new(230, 0.42, [], null, null, false)],
        }));
        Assert.Contains(foam.Reasons, r => r.Contains("chokes between 0.42"));
        Assert.Contains(foam.Warnings, w => w.Contains("needs an expansion of 3.1"));
        var strip = VerdictWords.Tell(SurfaceJudging.Judge(new()
        {
            Patches = [.. Enumerable.Range(-3, 7).Select(i => new SurfacePatch(i, [i == 0 ? 1 : 0.5]))],
        }));
        Assert.StartsWith("No step reads 2 or better", strip.Sentence);
        var patches = VerdictWords.Tell(FirstLayerJudging.Judge(new()
        {
            Patches = [.. Enumerable.Range(-3, 7).Select(i => new OffsetPatch(
                i * 0.02, new Dictionary<string, double> { ["gaps"] = i == 0 ? 1 : 0.5, ["grip"] = 1 }, new Dictionary<string, double>()))],
        }));
        Assert.StartsWith("No patch reads 2 or better", patches.Sentence);
    }

    [Fact]
    public void The_next_print_is_proposed_as_its_own_file_counts_under_an_override()
    {
        // 19.6 mm³/s in the file are 9.8 in real prints at 50 %: a spiral counts twice that again, weighed samples flow in full.
        static TrialVerdict Of(string kind, string json) => TrialCatalogue.Get(kind).Evaluate(new(JsonDocument.Parse(json).RootElement))!;
        var rising = (RisingFlowVerdict)Of(
            "flow-limit-rising",
            """
            {"startFlowMm3PerS": 4, "flowPerMm": 0.3, "failHeightMm": 52, "topHeightMm": 60, "residualFlowPercent": 50, "residualFlowStays": false}
            """);
        Assert.Equal(9.8, rising.LimitFlowMm3PerS!.Value, 3);
        Assert.Equal(12m, rising.Next!.Values!["startFlowMm3PerS"]);
        var steps = (SteppedFlowVerdict)Of(
            "flow-limit-steps",
            """
            {"startSpeedMmPerS": 40, "increasePercent": 25, "lastGoodStep": 4, "layerHeightMm": 0.2, "lineWidthMm": 0.45, "residualFlowPercent": 50,
             "residualFlowStays": false}
            """);
        Assert.Equal(3.6, steps.LimitFlowMm3PerS!.Value, 3);
        Assert.Equal(1m, steps.Next!.Values!["startFlowMm3PerS"]);
    }

    [Fact]
    public void A_flow_override_that_goes_or_stays_is_said_beside_the_value()
    {
        static TrialVerdict Told(string answer) => VerdictWords.Tell(SurfaceJudging.Judge(new()
        {
            ExtrusionMultiplier = 0.98, ResidualFlowPercent = 94, Override = answer,
            Patches = [.. new double[] { 1, 2, 4, 3, 2, 1, 1 }.Select((s, i) => new SurfacePatch(i - 3, [s]))],
        }));
        Assert.Contains(Told(FlowOverride.Goes).Warnings, w => w.Contains("reckoned without it, × 0.94"));
        Assert.Contains(Told(FlowOverride.Stays).Warnings, w => w.Contains("stays in real prints"));
        Assert.StartsWith("0.913", Told(FlowOverride.Goes).Sentence);
        Assert.StartsWith("0.971", Told(FlowOverride.Stays).Sentence);
    }

    [Theory]
    [InlineData("m900", "M500 stores every other value", "it beats the stored value")]
    [InlineData("macro", "Goes into the extruder's part of the configuration file", "it beats the file")]
    public void Each_way_to_make_a_feed_last_says_what_it_overwrites(string dialect, string store, string code)
    {
        var turns = dialect == "macro";
        var told = (FeedVerdict)VerdictWords.Tell(FeedJudging.Judge(new()
        {
            StepsPerMm = turns ? null : 96.4, RotationDistanceMm = turns ? 21.848 : null, Readings = [new(120, 23), new(120, 23.5), new(120, 23)],
            Dialect = dialect,
        }));
        Assert.Equal(["until-restart", "store", "start-code"], told.Commands.Select(c => c.Way));
        Assert.Equal("Holds until the printer restarts; nothing else changes.", told.Commands[0].Note);
        Assert.StartsWith(store, told.Commands[1].Note);
        Assert.Contains("Note bed mesh and nozzle offset first.", told.Commands[1].Note);
        Assert.Contains(code, told.Commands[2].Note);
    }

    [Fact]
    public void A_value_in_the_form_that_a_dialect_does_not_take_is_entered_by_hand()
    {
        var told = (FeedVerdict)VerdictWords.Tell(FeedJudging.Judge(new()
        {
            StepsPerMm = 96.4, Readings = [new(120, 23), new(120, 23.5), new(120, 23)], Dialect = "macro",
        }));
        var command = Assert.Single(told.Commands);
        Assert.Equal("by-hand", command.Way);
        Assert.Contains("takes the other form of the value", command.Note);
    }

    private static TrialVerdict Said(string kind, string json) =>
        VerdictWords.Tell(TrialCatalogue.Get(kind).Evaluate(new(JsonDocument.Parse(json).RootElement))!);

    private static string Pegs(string label, string more, params double[] forces) =>
        $$"""{"label": "{{label}}"{{more}}, "pieces": [{{string.Join(", ", forces.Select((f, i) => FormattableString.Invariant(
            $$"""{"force": {{f}}, "plate": {{1 + i % 2}}}""")))}}]}""";

    [Fact]
    public void Broken_pegs_say_who_is_weaker_by_how_much_and_what_comes_before_going_hotter()
    {
        string At(int c, double f) => Pegs($"{c} °C", $", \"temperatureC\": {c}", f * 0.97, f * 1.02, f * 0.99, f * 1.03);
        var rise = Said("layer-bond", $"{{\"groups\": [{At(230, 200)}, {At(240, 250)}, {At(250, 252)}, {At(260, 255)}]}}");
        Assert.StartsWith("From 240 °C up nothing is told apart; 230 °C is weaker.", rise.Sentence);
        Assert.Contains(rise.Reasons, r => r.Contains("% per 10 °C"));
        Assert.Contains(rise.Reasons, r => r.StartsWith("Scatter ", StringComparison.Ordinal));
        string Crossed(int c, int fan, double f) => Pegs($"{c}/{fan}", $", \"temperatureC\": {c}, \"fanPercent\": {fan}", f * 0.97, f * 1.02, f * 0.99,
            f * 1.03);
        var fan = Said("layer-bond", $"{{\"groups\": [{Crossed(230, 40, 290)}, {Crossed(230, 100, 100)}, {Crossed(240, 40, 310)}, {Crossed(240, 100, 108)}]}}");
        Assert.Contains(fan.Reasons, r => r.StartsWith("2.9 times as strong at 40 % fan than at 100", StringComparison.Ordinal));
        Assert.StartsWith("Turn the fan down before you go hotter", fan.Next!.Text);
        var clamps = Said(
            "layer-bond",
            """{"groups": [{"label": "a", "pieces": [{"force": 20}, {"force": 21}, {"force": 22}]}, {"label": "b", "pieces": [{"force": 30, "mode": "clamp"},""" +
                """ {"force": 30, "mode": "slip"}, {"force": 28, "mode": "unbroken"}]}]}""");
        Assert.Contains(clamps.Warnings, w => w.Contains("3 of 6 pegs") && w.Contains("the rig wants mending first"));
        Assert.Contains(clamps.Warnings, w => w.StartsWith("b: no layer parted. It held at least", StringComparison.Ordinal));
        Assert.StartsWith("Mend the clamps", clamps.Next!.Text);
        Assert.Equal(
            "Luck alone does this 1 time in 6: too few pegs for a verdict by hand.",
            Said("layer-bond", """{"ranks": [{"label": "a", "rank": 1}, {"label": "b", "rank": 2}, {"label": "c", "rank": 3}], "expected": ["a", "b", "c"]}""").Sentence);
    }

    [Fact]
    public void Plates_and_releases_say_what_they_show_and_what_they_must_not()
    {
        static string Plate(string arm, int pair, double mm, double room, double cooled) => FormattableString.Invariant(
            $$"""
            {"arm": "{{arm}}", "pair": {{pair}}, "roomC": {{room}}, "lifts": [{"moment": "cooled", "mm": {{cooled}}}, {"moment": "released", "mm": {{mm}}}]}
            """);
        string Pairs(double warmer, double cooled) => string.Join(
            ", ", Enumerable.Range(1, 4).SelectMany(n => new[] { Plate("without", n, 1.1 + 0.1 * n, 19, cooled), Plate("with", n, 0.3 + 0.05 * n, 19 + warmer,
                cooled / 3) }));
        var holds = Said("warp-pairs", $"{{\"difference\": \"brim\", \"parts\": [{Pairs(0, 1.0)}]}}");
        Assert.Matches(@"^−0\.\d+ mm \(−[01]\.\d+ to −0\.\d+\)\. The brim keeps corners down, taken off, in 4 pairs\.$", holds.Sentence);
        Assert.Contains(holds.Reasons, r => r.Contains("1 time in 8, and could never say less than 1 in 8"));
        Assert.StartsWith("Not to be laid to the brim: the room was 5 °C warmer",
            Said("warp-pairs", $"{{\"difference\": \"brim\", \"parts\": [{Pairs(5, 1.0)}]}}").Sentence);
        Assert.StartsWith("Cool it down in steps", Said("warp-pairs", $"{{\"difference\": \"brim\", \"parts\": [{Pairs(0, 0.1)}]}}").Next!.Text);
        var few = Said("release", """{"prints": [{"freeAtC": 62}, {"freeAtC": 58}, {"freeAtC": 55}], "bedC": 100, "surroundingsC": 25}""");
        Assert.StartsWith("50 °C. A working value: 5 °C below the lowest that 3 prints were seen free at.", few.Sentence);
        Assert.Contains(few.Reasons, r => r.Contains("at least about") && r.Contains("no cooling of this bed was logged"));
        Assert.StartsWith("Note 2 more prints", few.Next!.Text);
        Assert.Contains("too near the air", Said("release", """{"prints": [{"freeAtC": 32}], "surroundingsC": 26}""").Sentence);
        Assert.Contains(
            Said("release", """{"prints": [{"freeAtC": 60}, {"heldAtC": 52}], "surroundingsC": 20}""").Warnings, w => w.StartsWith("1 print held colder", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("[1, 2, 4, 4, 4]", "40 %. As good, within half a score, as up to 100 %: the least of them is taken.")]
    [InlineData("[1, 1, 2, 2, 3]", "100 %.")]
    [InlineData("[4, 4, 4, 3, 2]", "0 %. As good, within half a score, as up to 40 %")]
    [InlineData("[1, 1, 1, 1, 1]", "No fan reads 2 or better")]
    public void A_fan_sweep_says_the_least_that_will_do(string scores, string begins)
    {
        var points = JsonSerializer.Deserialize<double[]>(scores)!.Zip([0, 20, 40, 70, 100])
            .Select(x => new { fanPercent = x.Second, bridge = x.First, overhang = x.First, bond = 4 - x.Second / 40.0 });
        var v = Said("fan-steps", JsonSerializer.Serialize(new { points, scoreNoise = 0.2 }));
        Assert.StartsWith(begins, v.Sentence);
        if (v.Settings.Count == 0)
            return;
        Assert.Contains(v.Reasons, r => r.Contains("what the fan is turned down is won there"));
        Assert.Contains(v.Warnings, w => w.Contains(v.Settings[0].Value == 0 ? "0 means bridges too" : "Bridges had the same fan"));
    }

    [Theory]
    [InlineData("[1, 2, 4, 4, 4]", "8 s. As good, within half a score, as up to 12 s: the shortest of them is taken.", "20 % less")]
    [InlineData("[1, 1, 2, 2, 3]", "12 s. The longest that was tried is the best", "20 % more")]
    [InlineData("[4, 4, 4, 3, 2]", "4 s. The shortest that was tried is as good as longer", "60 % less")]
    [InlineData("[1, 1, 1, 1, 1]", "No time reads 2 or better", "")]
    public void A_column_says_the_shortest_layer_time_that_will_do_and_what_it_saves(string scores, string begins, string saved)
    {
        var points = JsonSerializer.Deserialize<double[]>(scores)!.Zip([4, 6, 8, 10, 12])
            .Select(x => new { seconds = x.Second, corners = x.First, walls = x.First, bond = 4 - x.Second / 12.0 });
        var v = Said("layer-time", JsonSerializer.Serialize(new { points, scoreNoise = 0.2, inForceS = 10 }));
        Assert.StartsWith(begins, v.Sentence);
        if (v.Settings.Count == 0)
            return;
        Assert.Contains(v.Reasons, r => r.Contains(saved, StringComparison.Ordinal));
        Assert.Contains(v.Reasons, r => r.Contains("not the one below which the fan goes up", StringComparison.Ordinal));
        Assert.Contains(v.Reasons, r => r.Contains("a layer that is still warm takes the next one better", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("fan-steps", "fanPercent", "bridge", 50, 20, "60 % less: what the fan is turned down is won there")]
    [InlineData("layer-time", "seconds", "corners", 50, 20, "60 % less: a layer that is still warm takes the next one better")]
    [InlineData("fan-steps", "fanPercent", "bridge", 50, 45, "10 % less: so few pulls show nothing below 30 %")]
    [InlineData("layer-time", "seconds", "corners", 30, 40, "33 % more: so few pulls show nothing below 42 %")]
    [InlineData("fan-steps", "fanPercent", "bridge", 50, 34, "32 % less: what the fan is turned down is won there")]
    [InlineData("layer-time", "seconds", "corners", 20, 50, "150 % more.")]
    public void What_a_rig_pulled_off_a_piece_is_said_with_what_one_pull_each_can_show(
        string kind, string level, string aspect, double first, double last, string said)
    {
        var points = new[] { 4, 6, 8, 10, 12 }.Select((x, i) => new Dictionary<string, double>
        {
            [level] = x, [aspect] = i < 2 ? 1 : 4, ["bond"] = 2, ["forceN"] = i == 0 ? first : i == 4 ? last : 30,
        });
        var v = Said(kind, JsonSerializer.Serialize(new { points, scoreNoise = 0.2 }));
        var reason = Assert.Single(v.Reasons, r => r.StartsWith("Bond", StringComparison.Ordinal));
        Assert.StartsWith("Bond by the rig: ", reason);
        Assert.Contains(said, reason);
    }
}
