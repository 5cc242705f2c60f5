using Glenfrost.Core.Statistics;
using CsCheck;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;

namespace Glenfrost.Core.Tests.Trials;

public class FeedTests
{
    private static FeedReadings Of(double steps, params double[] left) =>
        new() { StepsPerMm = steps, Readings = [.. left.Select(x => new FeedReading(120, x))] };

    [Fact]
    public void New_steps_worked_by_hand()
    {
        // Delivered 97, 96.5, 97: mean 96.8333; 93 × 100 ÷ 96.8333 = 96.0413.
        var v = FeedJudging.Judge(Of(93, 23, 23.5, 23));
        Assert.Equal("adjust", v.Verdict);
        Assert.Equal([97, 96.5, 97], v.DeliveredMm.Select(d => d!.Value));
        Assert.Equal(96.833, v.MeanDeliveredMm);
        Assert.Equal(96.04, v.NewStepsPerMm);
        // Range 0.5 over the mean: 0.516 %.
        Assert.Equal(0.52, v.SpreadPercent);
        Assert.Equal(96.04m, v.Next!.Values!["stepsPerMm"]);
        Assert.Equal("1", v.Next.Words!["check"]);
    }

    [Fact]
    public void A_rotation_distance_goes_the_other_way_round()
    {
        // 21.848 × 96.8333 ÷ 100 = 21.1562.
        var v = FeedJudging.Judge(new FeedReadings { RotationDistanceMm = 21.848, Readings = [new(120, 23), new(120, 23.5), new(120, 23)], Dialect = "macro" });
        Assert.Equal(21.156, v.NewRotationDistanceMm);
        Assert.Null(v.NewStepsPerMm);
        Assert.Equal(["until-restart", "store", "start-code"], v.Commands.Select(c => c.Way));
        Assert.Contains("DISTANCE=21.156", v.Commands[0].Text);
        Assert.Equal("rotation_distance: 21.156", v.Commands[1].Text);
    }

    [Fact]
    public void Uncertainty_counts_scatter_and_the_rulers_step()
    {
        // s of 97, 96.5, 97 is 0.28868; u² = 0.08333/3 + 0.25/12 = 0.02778 + 0.02083, u = 0.22048; ν = u⁴ ÷ ((s²/n)²/2) = 6.125; t = 2.4357.
        var m = Measured.Of([97, 96.5, 97], 0.5);
        Assert.Equal(0.22048, m.StandardError, 4);
        Assert.InRange(m.HalfWidth, 0.530, 0.545);
    }

    [Theory]
    [InlineData(20.5, "within-tolerance")]
    [InlineData(19.5, "within-tolerance")]
    [InlineData(20.6, "adjust")]
    public void The_mean_within_half_a_millimetre_in_a_hundred_stands(double left, string word) =>
        Assert.Equal(word, FeedJudging.Judge(Of(96.4, left, left, left)).Verdict);

    [Fact]
    public void Readings_apart_by_more_than_ruler_and_marker_make_are_unsteady_and_give_no_value()
    {
        var v = FeedJudging.Judge(Of(96.4, 21, 24.5, 22));
        Assert.Equal("unsteady", v.Verdict);
        Assert.False(v.Advised);
        Assert.Empty(v.Commands);
        Assert.Equal("slip-or-skip", v.Next!.Guide);
        // A coarse ruler alone makes as much: 3.31 × 2 × √(2/12) = 2.7 mm.
        Assert.NotEqual("unsteady", FeedJudging.Judge(Of(96.4, 20, 22, 21) with { ResolutionMm = 2 }).Verdict);
        Assert.Equal(0.6757, FeedJudging.RulerRangeMm(3, 0.5), 3);
    }

    [Fact]
    public void A_mark_that_went_in_is_more_than_and_asks_for_a_longer_one()
    {
        var v = FeedJudging.Judge(new FeedReadings { StepsPerMm = 93, Readings = [new(120, null, null, true)] });
        Assert.Equal("insufficient", v.Verdict);
        Assert.Equal("longer-mark", v.Next!.Kind);
        Assert.True(v.Next.Values!["markMm"] > 120);
        var mixed = FeedJudging.Judge(new FeedReadings { StepsPerMm = 93, Readings = [new(120, 1), new(120, 1), new(120, null, null, true)] });
        Assert.Contains(FeedCaution.MarksWentIn, mixed.Cautions);
    }

    [Fact]
    public void Readings_at_other_steps_are_brought_to_the_tried_ones()
    {
        // 95 mm at 95 steps is 93 mm at 93.
        var v = FeedJudging.Judge(new FeedReadings { StepsPerMm = 93, Readings = [new(120, 25, 95), new(120, 27)] });
        Assert.Equal(93, v.MeanDeliveredMm!.Value, 6);
    }

    [Fact]
    public void A_large_change_asks_for_unit_gear_and_microsteps() =>
        Assert.Contains(FeedCaution.LargeChange, FeedJudging.Judge(Of(93, 45, 45, 45)).Cautions);

    [Theory]
    [InlineData(121, "readings[0].remainingMm", "backwards")]
    [InlineData(120, "readings[0].remainingMm", "Nothing was fed")]
    [InlineData(-1, "readings[0].remainingMm", "below 0")]
    public void Impossible_readings_are_refused_at_their_field(double left, string field, string says)
    {
        var e = Assert.Single(FeedJudging.Check(Of(93, left)));
        Assert.Equal(field, e.Field);
        Assert.Contains(says, e.Message);
    }

    [Fact]
    public void One_value_is_asked_not_two_and_not_none()
    {
        Assert.Equal("stepsPerMm", Assert.Single(FeedJudging.Check(new FeedReadings { Readings = [new(120, 20)] })).Field);
        Assert.Equal(
            "stepsPerMm", Assert.Single(FeedJudging.Check(new FeedReadings { StepsPerMm = 93, RotationDistanceMm = 7, Readings = [new(120, 20)] }))
                .Field);
    }

    [Fact]
    public void Fed_at_the_new_value_a_steady_extruder_is_within_tolerance() =>
        Gen.Select(Gen.Double[50, 900], Gen.Double[0.92, 1.08])
            .Sample(
                (steps, gear) =>
                {
                    // What is delivered is in proportion to the steps.
                    var left = 220 - 100 * gear;
                    var first = FeedJudging.Judge(new FeedReadings { StepsPerMm = steps, Readings = [new(220, left), new(220, left), new(220, left)] });
                    var value = first.NewStepsPerMm!.Value;
                    var then = 220 - 100 * gear * value / steps;
                    Assert.Equal(
                        "within-tolerance",
                        FeedJudging.Judge(new FeedReadings { StepsPerMm = value, Readings = [new(220, then), new(220, then), new(220, then)] }).Verdict);
                });

    [Theory]
    [InlineData("echo:  M92 X80.00 Y80.00 Z400.00 E93.00\necho:  M301 P21.70 I1.52 D77.60", 0, 93.0)]
    [InlineData("M92 X80 Y80 Z400 E415.00:417.50", 1, 417.5)]
    [InlineData("M92 T0 E411.00\nM92 T1 E408.20", 1, 408.2)]
    [InlineData("M92 E93 ; as it was\nM92 E96.04 ; stored", 0, 96.04)]
    public void A_settings_report_says_the_steps(string text, int tool, double steps) => Assert.Equal(steps, SettingsReport.Read(text, tool).StepsPerMm);

    [Fact]
    public void A_report_says_heater_and_offset_too_and_nonsense_says_nothing()
    {
        var r = SettingsReport.Read("echo:Home offset:\necho: M851 X0.00 Y0.00 Z-1.35\necho: M301 P21.70 I1.52 D77.60");
        Assert.Equal((21.7, 1.52, 77.6), r.Pid);
        Assert.Equal(-1.35, r.OffsetMm);
        Assert.Equal(7.71, SettingsReport.Read("[extruder]\nrotation_distance: 7.71 # measured\n[heater_bed]\nrotation_distance: 3").RotationDistanceMm);
        Assert.Equal(new SettingsReport(null, null, null, null, null), SettingsReport.Read("Zwölf Boxkämpfer jagen"));
    }

    [Theory]
    [InlineData("Dunnock 180")]
    [InlineData("Whimbrel 300")]
    [InlineData("Ptarmigan 350 right")]
    public void The_file_heats_first_feeds_slowly_and_passes_the_guard(string name)
    {
        var m = new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan }.First(x => x.Name == name);
        var trial = new ExtruderFeedTrial();
        var c = new PlanContext { Machine = m, StepsPerMm = 96.4 };
        var plan = trial.Plan(trial.Propose(c).With(new Dictionary<string, decimal> { ["stepsPerMm"] = 95.6m }), c).Plan!;
        var lines = ExtruderFeedTrial.Lines((FeedPlan)plan, m);
        Assert.Empty(GcodeGuard.Check(new StringReader(string.Join('\n', lines)), m));
        var file = new PrintedFile(string.Join('\n', lines));
        Assert.Equal([10, 100], file.Steps.Where(s => s.Fed > 0).Select(s => s.Fed));
        Assert.All(file.Steps.Where(s => s.Fed > 0), s => Assert.InRange(s.MmPerMin, 20, 100));
        Assert.True(lines.ToList().FindIndex(l => l.StartsWith("M109", StringComparison.Ordinal)) < lines.ToList().FindIndex(l => l.Contains("E100")));
        Assert.Equal(m.Tools > 1, lines.Contains($"T{m.Tool}"));
        // A value other than the standing one is set for this file only, in the dialect's way.
        Assert.Equal(m.Dialect != "macro", lines.Any(l => l.StartsWith("M92 E95.6", StringComparison.Ordinal)));
        Assert.DoesNotContain(lines, l => l.StartsWith("M500", StringComparison.Ordinal));
    }

    [Fact]
    public void Cold_feeding_and_a_mark_that_would_go_in_are_refused()
    {
        var trial = new ExtruderFeedTrial();
        var c = new PlanContext { Machine = Machines.Dunnock, StepsPerMm = 96.4 };
        var values = trial.Propose(c);
        Assert.Equal(
            "nozzleTemperatureC", Assert.Single(trial.Plan(values.With(new Dictionary<string, decimal> { ["nozzleTemperatureC"] = 160 }), c).Errors).Field);
        Assert.Contains("above", Assert.Single(trial.Plan(values.With(new Dictionary<string, decimal> { ["nozzleTemperatureC"] = 250 }), c).Errors).Message);
        var short_ = Assert.Single(trial.Plan(values.With(new Dictionary<string, decimal> { ["markMm"] = 105 }), c).Errors);
        Assert.Equal(120, Assert.Single(short_.Offers).Changes["markMm"]);
    }

    [Fact]
    public void What_was_found_at_the_old_feed_is_carried_over_in_proportion()
    {
        ProfileSetting S(string key, double v, SettingState state = SettingState.Confirmed) => new(key, v, null, SettingOrigin.Run, "run", state);
        ProfileSetting[] profile =
        [
            S("extrusionMultiplier", 0.978), S("retractionLengthMm", 4.6), S("maxVolumetricFlowMm3PerS", 9.5), S("pressureAdvance", 0.62),
            S("nozzleTemperatureC", 214), S("zHopMm", 0.2, SettingState.Start),
        ];
        // 96.4 → 95.6 steps: × 1.008368. 0.978 → 0.9862; 4.6 → 4.638; 9.5 → 9.579, rounded down.
        var ratio = FeedCarryOver.Ratio(96.4, 95.6, false);
        Assert.Equal(1.008368, ratio, 6);
        var carried = FeedCarryOver.Of(profile, ratio).ToDictionary(c => c.Key, c => c.After);
        Assert.Equal(0.986, carried["extrusionMultiplier"]);
        Assert.Equal(4.64, carried["retractionLengthMm"], 2);
        Assert.Equal(9.5, carried["maxVolumetricFlowMm3PerS"]);
        Assert.Equal(0.62, carried["pressureAdvance"]);
        Assert.DoesNotContain("nozzleTemperatureC", carried.Keys);
        var applied = FeedCarryOver.Apply(profile, ratio, "carried over");
        Assert.Equal(SettingState.Provisional, applied.First(s => s.Key == "extrusionMultiplier").State);
        Assert.Equal(SettingState.Confirmed, applied.First(s => s.Key == "nozzleTemperatureC").State);
        // A rotation distance goes the other way round: a longer turn feeds more.
        Assert.Equal(21.0 / 21.848, FeedCarryOver.Ratio(21.848, 21.0, true), 9);
        // There and back is where it was.
        Assert.Equal(1, FeedCarryOver.Ratio(93, 96, false) * FeedCarryOver.Ratio(96, 93, false), 12);
    }
}
