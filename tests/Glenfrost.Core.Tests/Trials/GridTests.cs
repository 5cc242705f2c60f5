using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FlexCompression;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>What is typed into a cell of the reading grid.</summary>
public class GridTests
{
    private static readonly PlanContext Context = new()
    {
        Machine = Machines.Dunnock, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Dunnock, null),
    };

    private static (Trial Trial, ITrialPlan Plan) Planned(Trial trial, params (string, decimal)[] changes) =>
        (trial, trial.Plan(trial.Propose(Context).With(changes.ToDictionary(c => c.Item1, c => c.Item2)), Context).Plan!);

    private static readonly (Trial Trial, ITrialPlan Plan) Wall = Planned(new WallFlowTrial());

    [Theory]
    [InlineData("0.45", 0.45, "0.45")]
    [InlineData("0,450 mm", 0.45, "0.45")]
    [InlineData(" .45 ", 0.45, "0.45")]
    public void A_number_is_taken_with_comma_or_point_and_unit(string typed, double value, string text)
    {
        var (v, t, error) = Wall.Trial.Grid(Wall.Plan).Parse("wallMm.1", typed);
        Assert.Null(error);
        Assert.Equal((value, text), (v!.Value, t));
    }

    [Theory]
    [InlineData("wallMm.1", "12")]
    [InlineData("wallMm.1", "0.45 g")]
    [InlineData("wallMm.1", "thin")]
    [InlineData("bridge", "3")]
    public void What_can_be_no_reading_is_said(string aspect, string typed) => Assert.NotNull(Wall.Trial.Grid(Wall.Plan).Parse(aspect, typed).Error);

    public static TheoryData<string, string, string> Excluded =>
        new()
        {
            { FlowRisingTrial.Word, FlowRisingTrial.Height, "1.01 top" }, { ExtruderFeedTrial.Word, ExtruderFeedTrial.Remaining, "1.01 mark" },
            { FlowWeighedTrial.Word, FlowWeighedTrial.Mass + "1", "2.1 mass" }, { WallFlowTrial.Word, "wallMm.1", "5.1 width" },
            { FoamingFlowTrial.Word, "wallMm.1", "8.1 width" }, { FlexTrial.Word, FlexTrial.Hand, "3.1 stub" },
            { PressureTrial.Word, PressureTrial.Best, "1.01 rows" },
        };

    /// <summary>A height above the spiral's top, more left to the mark than the mark: what a plan excludes is refused at the cell.</summary>
    [Theory]
    [MemberData(nameof(Excluded))]
    public void What_its_plan_excludes_is_refused_at_the_cell(string kind, string aspect, string beyond)
    {
        var context = Context with { Family = Filaments.Family.Find(kind == FlexTrial.Word ? "TPU" : "PLA"), AdvisedC = new(190, 220) };
        var trial = TrialCatalogue.Get(kind);
        var result = trial.Plan(
            kind == ExtruderFeedTrial.Word ? trial.Propose(context).With(new Dictionary<string, decimal> { ["stepsPerMm"] = 95 }) : trial.Propose(context),
            context);
        Assert.True(result.Plan is not null, string.Join(" ", result.Errors.Select(e => $"{e.Field}: {e.Message}")));
        var plan = result.Plan;
        double Of(string what) => what switch
        {
            "top" => ((RisingPlan)plan).TopHeightMm,
            "mark" => (double)((FeedPlan)plan).Request.MarkMm,
            "mass" => ((WeighedPlan)plan).ExpectedMassG,
            "stub" => (double)((FlexPlan)plan).Request.StubLengthMm,
            "rows" => ((PressurePlan)plan).Ks.Count,
            _ => plan is FoamingPlan f ? (double)f.Request.TargetWidthMm : (double)((WallPlan)plan).Request.TargetWidthMm,
        };
        var (times, of) = (double.Parse(beyond.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture), Of(beyond.Split(' ')[1]));
        string N(double v) => v.ToString("0.####", System.Globalization.CultureInfo.InvariantCulture);
        var refused = trial.Grid(plan).Parse(aspect, N(times * of));
        Assert.True(refused.Error is { Length: > 0 }, $"{N(times * of)} was taken");
        // The message says what would be right, and nothing that the plan allows is refused.
        Assert.Contains("between", refused.Error, StringComparison.Ordinal);
        Assert.Null(trial.Grid(plan).Parse(aspect, N(0.9 * of * (of > 0 && aspect == PressureTrial.Best ? 0.5 : 1))).Error);
    }

    [Fact]
    public void A_missing_one_and_an_emptied_cell_are_no_numbers()
    {
        Assert.Equal((null, "m", null), Wall.Trial.Grid(Wall.Plan).Parse("wallMm.1", "M"));
        Assert.Equal((null, "", null), Wall.Trial.Grid(Wall.Plan).Parse("wallMm.1", " "));
    }

    [Fact]
    public void A_wall_waits_for_its_planned_places_side_by_side_and_takes_more()
    {
        var grid = Wall.Trial.Grid(Wall.Plan);
        Assert.Equal(16, grid.Wanted.Count());
        Assert.Equal([(0, "wallMm.1"), (0, "wallMm.2")], grid.Wanted.Take(2));
        Assert.Equal(6, grid.Columns.Count);
        var cells = grid.Rows.SelectMany(r => grid.Columns.Select(c => (r.Section, c.Aspect))).ToDictionary(c => c, _ => new CellReading(0.44, "0.44", 0.01));
        Assert.Equal(24, ((WallVerdict)Wall.Trial.Judge(Wall.Plan, new RunReadings(cells), new())).ReadMm.Count);
        Assert.Contains("4.4 is outside", Wall.Trial.Question(Wall.Plan, 0, "wallMm.1", 4.4));
        Assert.Null(Wall.Trial.Question(Wall.Plan, 0, "wallMm.1", 0.44));
    }

    [Fact]
    public void The_proposed_tolerance_is_what_its_readings_tell_and_a_narrower_one_is_warned_of()
    {
        Assert.Equal(4, ((WallPlan)Wall.Plan).Request.TolerancePercent);
        Assert.DoesNotContain(Wall.Plan.Warnings, w => w.Kind == PlanWarningKind.FineTolerance);
        Assert.Contains(Planned(new WallFlowTrial(), ("tolerancePercent", 1.5m)).Plan.Warnings, w =>
            w.Kind == PlanWarningKind.FineTolerance && w.Numbers[0] == 16);
        Assert.True(WallJudging.UsualHalfPercent(0.44, 24) < WallJudging.UsualHalfPercent(0.44, 16));
        Assert.Equal(WallJudging.UsualHalfPercent(0.44, 16) / 2, WallJudging.UsualHalfPercent(0.88, 16), 9);
    }

    [Theory]
    [InlineData(0.5, 0.5, 3)]
    [InlineData(0.6, 0.5, 4)]
    [InlineData(0.7, 0.5, 3)]
    public void A_check_of_foam_stands_as_often_as_its_mean_needs(double most, double least, int sections)
    {
        var trial = new FoamingFlowTrial();
        var values = trial.Propose(Context)
            .With(new Dictionary<string, decimal> { ["mostMultiplier"] = (decimal)most, ["leastMultiplier"] = (decimal)least, ["multiplierStep"] = 0.1m });
        values["mode"] = FoamingFlowTrial.MultiplierMode;
        Assert.Equal(sections, trial.Plan(values, Context).Plan!.Parts.Count);
    }

    [Fact]
    public void A_wider_range_that_foam_asks_for_can_be_planned()
    {
        var steps = new[] { 210.0, 220, 230, 240 }.Select(t => new FoamStep(t, 1, [0.4 + (t - 200) / 100, 0.41 + (t - 200) / 100])).ToList();
        foreach (var limit in new[] { 245.0, 247, 252, 280 })
        {
            var v = FoamingJudging.Judge(new() { ReferenceWidthMm = 0.44, Steps = steps, MaxC = limit });
            Assert.Equal("edge", v.Verdict);
            var next = v.Next!.Values!;
            Assert.True((double)next["hottestC"] <= limit && next["hottestC"] > 240);
            Assert.Equal(0, (next["hottestC"] - next["coolestC"]) % next["stepC"]);
        }

        // Nearer to the limit than a step is worth, the range is at its end.
        Assert.Equal("suggest", FoamingJudging.Judge(new() { ReferenceWidthMm = 0.44, Steps = steps, MaxC = 243 }).Verdict);
    }
}
