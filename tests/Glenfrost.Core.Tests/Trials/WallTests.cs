using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Core.Tests.Trials;

public class WallTests
{
    private static readonly double[] Six = [0.48, 0.47, 0.48, 0.49, 0.48, 0.47];

    [Fact]
    public void A_multiplier_worked_by_hand_in_both_models()
    {
        // Mean 0.47833: 0.45 ÷ 0.47833 = 0.94077. c = 0.2(1 − π/4) = 0.04292: 0.40708 ÷ 0.43541 = 0.93493.
        var v = WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = Six, LayerHeightMm = 0.2 });
        Assert.Equal("adjust", v.Verdict);
        Assert.Equal(0.941, v.NewExtrusionMultiplier);
        Assert.Equal(0.9408, v.RectangularMultiplier);
        Assert.Equal(0.9349, v.StadiumMultiplier);
        // s = 0.0075277, u² = s²/6 + 0.01²/12, u = 0.0042164.
        Assert.Equal(0.00422, v.StandardErrorMm!.Value, 5);
        Assert.Equal("check-piece", v.Next!.Kind);
        Assert.Equal("extrusionMultiplier", Assert.Single(v.Settings).Key);
        Assert.Equal(
            0.935, WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = Six, LayerHeightMm = 0.2, Area = BeadModel.Stadium })
                .NewExtrusionMultiplier);
    }

    [Fact]
    public void Two_lines_stand_less_than_twice_as_wide_in_stadium_beads()
    {
        // 2 × 0.45 − 0.04292 = 0.85708 mm.
        var v = WallJudging.Judge(
            new WallReadings { TargetWidthMm = 0.45, Walls = 2, ReadingsMm = [0.857, 0.857, 0.858, 0.856], LayerHeightMm = 0.2, Area = BeadModel.Stadium });
        Assert.Equal(0.8571, v.ExpectedMm);
        Assert.Equal("keep", v.Verdict);
        Assert.Equal(0.9, WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, Walls = 2, ReadingsMm = [0.9, 0.9, 0.9, 0.9] }).ExpectedMm);
    }

    [Fact]
    public void An_override_that_goes_again_is_not_corrected_twice()
    {
        // Printed with 95 % left: 0.4275 mm are right, and the multiplier stands.
        var goes = WallJudging.Judge(
            new WallReadings { TargetWidthMm = 0.45, ReadingsMm = [0.427, 0.428, 0.427, 0.428], ResidualFlowPercent = 95, ResidualFlowStays = false });
        Assert.Equal(0.4275, goes.ExpectedMm);
        Assert.Equal("keep", goes.Verdict);
        Assert.Equal([WallCaution.OverrideGoes], goes.Cautions);
        var stays = WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = [0.427, 0.428, 0.427, 0.428], ResidualFlowPercent = 95 });
        Assert.Equal(1.053, stays.NewExtrusionMultiplier!.Value, 3);
    }

    [Fact]
    public void The_file_says_what_it_expects_not_the_memory()
    {
        // 0.03742 mm of 1.75 filament a millimetre: × 2.40528 ÷ 0.2 = 0.45 mm, at multiplier 1.
        var feed = 0.45 * 0.2 / (Math.PI * 1.75 * 1.75 / 4);
        var v = WallJudging.Judge(
            new WallReadings
            {
                TargetWidthMm = 0.5, ReadingsMm = [0.45, 0.45, 0.45, 0.45], LayerHeightMm = 0.2, FeedPerMm = feed, FilamentDiameterMm = 1.75,
                MeasuredDiameterMm = 1.70,
            });
        Assert.Equal(0.45, v.ExpectedMm, 4);
        Assert.Equal("keep", v.Verdict);
        Assert.Equal([WallCaution.OtherDiameter], v.Cautions);
    }

    [Theory]
    [InlineData("keep", 0.45, 0.45, 0.451, 0.45, 0.449, 0.45)]
    [InlineData("measure-more", 0.44, 0.46, 0.45, 0.44, 0.47, 0.45)]
    [InlineData("measure-more", 0.45, 0.45, 0.45)]
    [InlineData("unsteady", 0.36, 0.52, 0.45, 0.4, 0.5, 0.39)]
    public void Equal_is_shown_and_a_wide_interval_means_measure_more(string word, params double[] read)
    {
        var v = WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = read });
        Assert.Equal(word, v.Verdict);
        if (word == "measure-more")
            Assert.NotNull(v.NeededReadings);
        Assert.Equal(word is "keep", v.Advised);
    }

    [Fact]
    public void An_outlier_is_marked_and_still_counted()
    {
        var v = WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = [0.45, 0.45, 0.46, 0.45, 0.62, 0.45] });
        Assert.Equal([false, false, false, false, true, false], v.Outliers);
        Assert.Equal(0.48, v.MeanMm!.Value, 3);
        Assert.Equal([WallCaution.Outliers], v.Cautions);
    }

    [Fact]
    public void A_change_beyond_flow_is_asked_about() =>
        Assert.Equal(
            [WallCaution.LargeChange], WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = [0.6, 0.6, 0.61, 0.6] }).Cautions);

    [Fact]
    public void Printed_with_the_new_multiplier_a_wall_of_either_model_has_its_width() =>
        Gen.Select(Gen.Double[0.36, 0.8], Gen.Double[0.1, 0.3], Gen.Double[0.85, 1.15], Gen.Bool)
            .Sample(
                (target, h, real, stadium) =>
                {
                    var area = stadium ? BeadModel.Stadium : BeadModel.Rectangular;
                    // real: share of plastic that comes at multiplier 1.
                    double Wall(double multiplier) => Bead.Width(area, Bead.Spacing(area, target, h) * multiplier * real, h);
                    var first = WallJudging.Judge(
                        new WallReadings
                        {
                            TargetWidthMm = target, ReadingsMm = [.. Enumerable.Repeat(Wall(1), 5)], LayerHeightMm = h, Area = area, ResolutionMm = 0.0001,
                        });
                    // The multiplier is kept to three decimals.
                    Assert.InRange(Wall(first.NewExtrusionMultiplier!.Value) - target, -0.001, 0.001);
                });

    [Fact]
    public void A_thicker_wall_never_gives_more_flow() => Gen.Select(Gen.Double[0.3, 0.6], Gen.Double[0.0, 0.1]).Sample((w, more) =>
    {
        double Of(double x) => WallJudging.Judge(new WallReadings { TargetWidthMm = 0.45, ReadingsMm = [x, x, x, x] }).NewExtrusionMultiplier!.Value;
        Assert.True(Of(w + more) <= Of(w));
    });

    private static (WallPlan Plan, PieceJob Job) Job(PlanContext c, params (string, decimal)[] changes)
    {
        var trial = new WallFlowTrial();
        var plan = trial.Plan(trial.Propose(c).With(changes.ToDictionary(x => x.Item1, x => x.Item2)), c).Plan!;
        var (made, job, errors) = trial.Make(plan, c);
        Assert.Empty(errors);
        return ((WallPlan)made, job!);
    }

    private static PlanContext Context(Machine m, double diameter = 1.75) =>
        new()
        {
            Memory = TestMemory.Shared, Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, Family.Find("PLA")) with { FilamentDiameterMm = diameter },
            Family = Family.Find("PLA"), AdvisedC = Family.Find("PLA")!.NozzleC,
        };

    [Theory]
    [InlineData(1.75)]
    [InlineData(1.71)]
    public void The_written_file_feeds_what_its_width_wants(double diameter)
    {
        var (plan, job) = Job(Context(Machines.Dunnock, diameter), ("extrusionMultiplier", 0.97m));
        // Read back by other code: fed over length in the walls above the brim's layer.
        var file = new PrintedFile(Machines.Text(job));
        var walls = file.Steps.Where(s => s.Feature == "outer wall" && s.Fed > 0 && s.Length > 0.01 && s.Layer > 1).ToList();
        var width = walls.Sum(s => s.Fed) / walls.Sum(s => s.Length) * Math.PI * diameter * diameter / 4 / 0.2 / 0.97;
        Assert.Equal((double)plan.Request.TargetWidthMm, width, 2);
        Assert.Equal(plan.FeedPerMm!.Value, walls.Sum(s => s.Fed) / walls.Sum(s => s.Length), 4);
        Assert.Equal(80, plan.Layers);
        Assert.Empty(GcodeGuard.Check(new StringReader(Machines.Text(job)), job.Machine));
    }

    [Fact]
    public void Each_side_carries_as_many_bumps_as_its_number_where_it_is_read()
    {
        var (plan, job) = Job(Context(Machines.Dunnock));
        var piece = job.Request.Pieces[0];
        var at = (int)Math.Round((double)plan.HeightsMm[0] / 0.2);
        var wall = piece.Layers[at - 1].Walls[0].Centre.Coordinates;
        var side = (double)plan.Request.SideMm;
        Assert.Equal(1, wall.Count(c => c.Y < -0.3));
        Assert.Equal(2, wall.Count(c => c.X > side + 0.3));
        Assert.Equal(3, wall.Count(c => c.Y > side + 0.3));
        Assert.Equal(4, wall.Count(c => c.X < -0.3));
        Assert.DoesNotContain(piece.Layers[at + 6].Walls[0].Centre.Coordinates, c => c.X < -0.3 || c.Y < -0.3);
    }

    [Fact]
    public void An_override_in_the_start_code_is_found_and_asked_about()
    {
        var c = Context(Machines.Dunnock with { StartCode = "G28\nM221 S95 ; less\nM190 S{bedTemperatureC}" });
        Assert.Equal(95, FlowOverride.In(c.Machine));
        Assert.Null(FlowOverride.In(Machines.Dunnock with { StartCode = "M221 S95\nM221 S100" }));
        var trial = new WallFlowTrial();
        Assert.Equal("override", Assert.Single(trial.Plan(trial.Propose(c), c).Errors).Field);
        var values = trial.Propose(c);
        values["override"] = "goes";
        Assert.NotNull(trial.Plan(values, c).Plan);
    }

    [Theory]
    [InlineData("layerHeightMm", 0.4, "layerHeightMm")]
    [InlineData("targetWidthMm", 1.2, "targetWidthMm")]
    [InlineData("heightMm", 16.1, "heightMm")]
    [InlineData("nozzleTemperatureC", 260, "nozzleTemperatureC")]
    public void What_the_nozzle_or_the_limits_refuse_is_refused_at_its_field(string field, double value, string at)
    {
        var trial = new WallFlowTrial();
        var c = Context(Machines.Dunnock);
        Assert.Contains(trial.Plan(trial.Propose(c).With(new Dictionary<string, decimal> { [field] = (decimal)value }), c).Errors, e => e.Field == at);
    }
}
