using Glenfrost.Core.Settings;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FoamingFlow;

namespace Glenfrost.Core.Tests.Trials;

public class FoamingTests
{
    private static FoamStep At(double t, double m, double wall, bool stable = true) => new(t, m, [wall - 0.005, wall + 0.005, wall, wall], null, null, stable);

    private static readonly FoamStep[] Curve = [At(210, 1, 0.5025), At(230, 1, 0.81), At(250, 1, 0.825), At(260, 1, 0.745)];

    private static FoamReadings Of(params FoamStep[] steps) => new() { ReferenceWidthMm = 0.45, Steps = steps };

    [Fact]
    public void Temperature_and_multiplier_worked_by_hand()
    {
        // Expansions 1.117, 1.8, 1.833, 1.656: within 4 % of the greatest from 1.76 on, so 230 °C. 0.45 ÷ (0.45 × 1.8) = 0.5556; 1.24 ÷ 1.8 = 0.689 g/cm³, 44 %
        // lighter.
        var v = FoamingJudging.Judge(Of(Curve));
        Assert.Equal("suggest", v.Verdict);
        Assert.Equal(230, v.ChosenTemperatureC);
        Assert.Equal([1.1167, 1.8, 1.8333, 1.6556], v.Expansion.Select(e => Math.Round(e.Expansion!.Value, 4)));
        Assert.Equal(0.556, v.SuggestedMultiplier);
        Assert.Equal(0.6889, v.PredictedDensityGPerCm3!.Value, 3);
        Assert.Equal(44.4, v.MassSavingPercent!.Value, 1);
        Assert.Equal("check-piece", v.Next!.Kind);
        // The first layer is reckoned for it: as warm as the rest, since cooler it foams less and starves at this multiplier.
        Assert.Equal(["extrusionMultiplier", "nozzleTemperatureC", "firstLayerNozzleTemperatureC"], v.Settings.Select(s => s.Key));
        Assert.Equal(230, v.Settings[2].Value);
        Assert.All(v.Expansion, e => Assert.True(e.Uncertainty > 0));
    }

    [Fact]
    public void The_hottest_printed_is_an_edge_unless_a_limit_forbids_more()
    {
        var rising = Of(At(210, 1, 0.5), At(220, 1, 0.6), At(230, 1, 0.75));
        Assert.Equal("edge", FoamingJudging.Judge(rising).Verdict);
        Assert.Equal("suggest", FoamingJudging.Judge(rising with { MaxC = 230 }).Verdict);
        // A step above the limit never is chosen, however much it foams.
        Assert.Equal(220, FoamingJudging.Judge(Of(At(210, 1, 0.5), At(220, 1, 0.78), At(230, 1, 0.8)) with { MaxC = 225 }).ChosenTemperatureC);
    }

    [Fact]
    public void A_check_piece_within_tolerance_settles_it_and_one_off_adjusts()
    {
        var settled = FoamingJudging.Judge(Of([.. Curve, At(230, 0.556, 0.452)]));
        Assert.Equal("settled", settled.Verdict);
        Assert.Equal(0.556, settled.SuggestedMultiplier);
        Assert.Null(settled.Next);
        // Less flow foams more: the check piece is 0.49, so the expansion there is 0.49 ÷ (0.45 × 0.556) = 1.958 and the multiplier 0.511.
        var off = FoamingJudging.Judge(Of([.. Curve, At(230, 0.556, 0.49)]));
        Assert.Equal("adjust", off.Verdict);
        Assert.Equal(0.511, off.SuggestedMultiplier!.Value, 3);
    }

    [Fact]
    public void No_suggestion_goes_below_what_turned_to_blobs()
    {
        var v = FoamingJudging.Judge(Of([.. Curve, At(230, 0.7, 0.6), new(230, 0.58, [], null, null, false)]));
        Assert.Equal("bounded", v.Verdict);
        Assert.Equal(0.7, v.SuggestedMultiplier);
        Assert.Equal(0.7, v.LowestStableMultiplier);
        Assert.Equal("between", v.Next!.Kind);
        Assert.InRange((double)v.Next.Values!["leastMultiplier"], 0.58, 0.7);
        Assert.True(v.PredictedWallMm > 0.5);
    }

    [Fact]
    public void Between_what_choked_and_what_ran_steadily_nothing_is_offered_untried()
    {
        // At 0.6 the wall is 0.55 mm: expansion 2.037, and 0.45 mm want 0.491, which lies between blobs at 0.42 and steady at 0.6.
        var v = FoamingJudging.Judge(Of([.. Curve, At(230, 0.6, 0.55), new(230, 0.42, [], null, null, false)]));
        Assert.Equal("bounded", v.Verdict);
        Assert.Equal((0.42, 0.6), (v.HighestBlobsMultiplier, v.LowestStableMultiplier));
        Assert.Equal(0.6, v.Settings[0].Value);
        Assert.Equal(0.491, v.Numbers!.Wish, 0.001);
        Assert.Equal("between", v.Next!.Kind);
        Assert.Equal(0.491, (double)v.Next.Values!["leastMultiplier"], 3);
        // For its class: wherever blobs and steady lie, and however it foams, what is offered was tried or lies outside the choke.
        Gen.Select(Gen.Double[0.3, 0.9], Gen.Double[0.01, 0.3], Gen.Double[1.2, 2.5]).Sample((steady, gap, expansion) =>
        {
            var (low, high) = (Math.Round(steady - gap, 3), Math.Round(steady, 3));
            var any = FoamingJudging.Judge(
                Of(At(210, 1, 0.46), At(230, 1, 0.45 * expansion), At(250, 1, 0.44 * expansion), At(230, high, 0.45 * expansion * high), new(230, low, [], null,
                    null, false)));
            if (any.Settings.FirstOrDefault(s => s.Key == "extrusionMultiplier") is { } offered)
                Assert.True(offered.Value >= high - 1e-9, $"{offered.Value} between {low} and {high}");
        });
    }

    [Fact]
    public void A_speed_that_would_be_slowed_is_refused_with_one_that_would_not()
    {
        var trial = new FoamingFlowTrial();
        FieldError At(decimal speed) => Assert.Single(
            trial.Plan(trial.Propose(Context).With(new Dictionary<string, decimal> { ["speedMmPerS"] = speed }), Context).Errors);
        Assert.Contains("this machine's limit", At((decimal)Context.Machine!.MaxSpeedMmPerS + 1).Message);
        // A line of 0.44 × 0.2 mm at 8 mm³/s: 90.9 mm/s.
        var slowed = At(95);
        Assert.Contains("the limit in force is 8", slowed.Message);
        Assert.Equal(90, slowed.Offers[0].Changes["speedMmPerS"]);
        Assert.NotNull(trial.Plan(trial.Propose(Context).With(slowed.Offers[0].Changes), Context).Plan);
    }

    [Fact]
    public void Mass_and_volume_tell_the_density_better_than_callipers()
    {
        var weighed = new FoamStep(230, 1, [0.81, 0.81, 0.81, 0.8], 1.302, 2.0);
        var v = FoamingJudging.Judge(Of(At(210, 1, 0.5), weighed, At(250, 1, 0.7)));
        Assert.Equal(0.651, v.PredictedDensityGPerCm3!.Value, 3);
        Assert.Contains(FoamingJudging.Check(Of(new FoamStep(230, 1, [0.8], 1.3, null))), e => e.Field == "steps[0].volumeCm3");
    }

    [Fact]
    public void A_density_that_cannot_be_reached_is_said() =>
        Assert.Equal([FoamCaution.TooLight], FoamingJudging.Judge(Of(Curve) with { TargetDensityGPerCm3 = 0.4 }).Cautions);

    [Fact]
    public void The_unit_of_length_does_not_matter() =>
        Gen.Double[0.5, 2]
            .Sample(k =>
            {
                var a = FoamingJudging.Judge(Of(Curve));
                var b = FoamingJudging.Judge(
                    new FoamReadings
                    {
                        ReferenceWidthMm = 0.45 * k, ResolutionMm = 0.01 * k,
                        Steps = [.. Curve.Select(s => s with { WallsMm = [.. s.WallsMm.Select(w => w * k)] })],
                    });
                Assert.Equal((a.Verdict, a.SuggestedMultiplier, a.ChosenTemperatureC), (b.Verdict, b.SuggestedMultiplier, b.ChosenTemperatureC));
            });

    [Fact]
    public void The_uncertainty_of_the_reference_counts()
    {
        var exact = FoamingJudging.Judge(Of(Curve));
        var vague = FoamingJudging.Judge(Of(Curve) with { ReferenceUncertaintyMm = 0.02 });
        Assert.True(vague.SuggestedUncertainty > exact.SuggestedUncertainty * 1.5);
    }

    private static PlanContext Context =>
        new()
        {
            Machine = Machines.Whimbrel, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Whimbrel, Family.Find("foaming PLA")),
            Family = Family.Find("foaming PLA"), AdvisedC = Family.Find("foaming PLA")!.NozzleC,
        };

    [Fact]
    public void Sections_of_the_file_have_their_temperature_and_all_one_speed()
    {
        var trial = new FoamingFlowTrial();
        var (made, job, errors) = trial.Make(trial.Plan(trial.Propose(Context), Context).Plan!, Context);
        Assert.Empty(errors);
        var plan = (FoamingPlan)made;
        var file = new PrintedFile(Machines.Text(job!));
        Assert.Empty(GcodeGuard.Check(new StringReader(Machines.Text(job!)), job!.Machine));
        var walls = file.Steps.Where(s => s.Feature == "outer wall" && s.Fed > 0 && s.Length > 0.01 && s.Layer > 1).ToList();
        Assert.Equal([25.0 * 60], walls.Select(s => Math.Round(s.MmPerMin)).Distinct());
        foreach (var (step, i) in plan.Steps.Select((s, i) => (s, i)))
            Assert.Equal((double)step.TemperatureC, walls.Last(s => s.Layer == (i + 1) * plan.SectionLayers).SetC);
    }

    [Fact]
    public void Multipliers_change_the_plastic_of_their_section_in_proportion()
    {
        var trial = new FoamingFlowTrial();
        var values = trial.InMode(FoamingFlowTrial.MultiplierMode, trial.Propose(Context), Context)
            .With(new Dictionary<string, decimal> { ["mostMultiplier"] = 0.8m, ["leastMultiplier"] = 0.5m, ["multiplierStep"] = 0.15m });
        var (made, job, errors) = trial.Make(trial.Plan(values, Context).Plan!, Context);
        Assert.Empty(errors);
        var plan = (FoamingPlan)made;
        Assert.Equal([0.8m, 0.65m, 0.5m], plan.Steps.Select(s => s.Multiplier));
        var walls = new PrintedFile(Machines.Text(job!)).Steps.Where(s => s.Feature == "outer wall" && s.Fed > 0 && s.Length > 0.01 && s.Layer > 1).ToList();
        double Of(int section) =>
            walls.Where(s => s.Layer > section * plan.SectionLayers + 4 && s.Layer < (section + 1) * plan.SectionLayers).ToList() is var x
                ? x.Sum(s => s.Fed) / x.Sum(s => s.Length)
                : 0;
        Assert.Equal(0.65 / 0.8, Of(1) / Of(0), 3);
        Assert.Equal(0.5 / 0.8, Of(2) / Of(0), 3);
    }

    [Theory]
    [InlineData("stepC", 7, "stepC")]
    [InlineData("coolestC", 280, "coolestC")]
    [InlineData("hottestC", 320, "hottestC")]
    [InlineData("sectionHeightMm", 8.1, "sectionHeightMm")]
    public void Plans_that_do_not_fit_are_refused(string field, double value, string at)
    {
        var trial = new FoamingFlowTrial();
        Assert.Contains(trial.Plan(trial.Propose(Context).With(new Dictionary<string, decimal> { [field] = (decimal)value }), Context).Errors, e =>
            e.Field == at);
    }
}
