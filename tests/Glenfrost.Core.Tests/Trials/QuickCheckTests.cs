using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.QuickCheck;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>A new spool's piece beside the kept run's: worked by hand, and how often it errs.</summary>
public class QuickCheckTests
{
    private static readonly QuickCheckReadings Like = new()
    {
        WallMm = [0.44, 0.45, 0.44, 0.45], Strings = [3], KeptWallMm = 0.445, KeptWallHalfMm = 0.004, KeptStrings = 3,
    };

    [Fact]
    public void One_score_beside_one_at_half_a_score_of_noise_lets_a_drop_of_one_and_a_half_slip_through_one_time_in_three()
    {
        // σ = 0.5 · √2 = 0.707; called worse from 1.645 σ = 1.16 on; 1.163 + 0.431 · 0.707 = 1.47.
        var v = QuickCheckJudging.Judge(Like);
        Assert.Equal(QuickCheckOutcome.Passed, v.Outcome);
        Assert.Equal(1.163, v.StringsDropNeeded!.Value, 3);
        Assert.Equal(1.5, v.SlipsStrings);
        Assert.False(QuickCheckJudging.Judge(Like with { Strings = [2] }).StringsWorse);
        var worse = QuickCheckJudging.Judge(Like with { Strings = [1.5] });
        Assert.Equal((QuickCheckOutcome.Differs, true, false), (worse.Outcome, worse.StringsWorse, worse.WallDiffers));
        Assert.Equal(["strings"], worse.Doubts);
        Assert.Equal("retraction-sweep", worse.Next!.Trial);
        // A second look at each halves what slips through, over √2.
        Assert.Equal(1.0, QuickCheckJudging.Judge(Like with { Strings = [3, 3], KeptScores = 2 }).SlipsStrings);
    }

    [Fact]
    public void A_wall_differs_where_its_change_leaves_zero_out_and_is_more_than_matters()
    {
        // Four walls alternating by 0.01 about 0.445: s = 0.00577, u² = s²/4 + 0.01²/12, u = 0.00408; t on it 0.0112 mm, of the kept 0.004, of pieces 0.0044.
        var v = QuickCheckJudging.Judge(Like);
        Assert.Equal(0, v.WallChangePercent!.Value, 2);
        Assert.InRange(v.WallChangeHalfPercent!.Value, 2.0, 3.4);
        Assert.Equal(Math.Max(3, v.WallChangeHalfPercent.Value) + 0.431 / 1.96 * v.WallChangeHalfPercent.Value, v.SlipsWallPercent!.Value, 1);
        var thick = QuickCheckJudging.Judge(Like with { WallMm = [0.47, 0.48, 0.47, 0.48] });
        Assert.Equal((QuickCheckOutcome.Differs, "wall-flow"), (thick.Outcome, thick.Next!.Trial));
        Assert.Equal(["flow"], thick.Doubts);
        Assert.Equal(6.7, thick.WallChangePercent!.Value, 1);
        Assert.True(QuickCheckJudging.Judge(Like with { WallMm = [0.41, 0.42, 0.41, 0.42] }).WallDiffers);
        // Shown, and less than matters: it passes. More than matters, and not shown: it passes too, and says what slips through.
        var small = Enumerable.Repeat(0.453, 40).ToList();
        Assert.False(QuickCheckJudging.Judge(Like with { WallMm = small, ResolutionMm = 0.001, KeptWallHalfMm = 0 }).WallDiffers);
        Assert.False(QuickCheckJudging.Judge(Like with { WallMm = [0.40, 0.52, 0.44, 0.50] }).WallDiffers);
    }

    [Fact]
    public void Both_worse_names_both_and_flow_comes_first()
    {
        var v = QuickCheckJudging.Judge(Like with { WallMm = [0.48, 0.48, 0.48, 0.48], Strings = [0] });
        Assert.Equal(["flow", "strings"], v.Doubts);
        Assert.Equal("wall-flow", v.Next!.Trial);
    }

    [Theory]
    [InlineData(QuickCheckOutcome.MeasureMore, 3, 1, true, true)]
    [InlineData(QuickCheckOutcome.MeasureMore, 4, 0, true, true)]
    [InlineData(QuickCheckOutcome.Baseline, 4, 1, true, false)]
    [InlineData(QuickCheckOutcome.Baseline, 4, 1, false, true)]
    [InlineData(QuickCheckOutcome.Passed, 4, 1, true, true)]
    public void What_stands_beside_nothing_passes_nothing(QuickCheckOutcome outcome, int walls, int scores, bool keptWall, bool keptStrings)
    {
        var v = QuickCheckJudging.Judge(Like with
        {
            WallMm = [.. Like.WallMm.Take(walls)],
            Strings = [.. Like.Strings.Take(scores)],
            KeptWallMm = keptWall ? 0.445 : null,
            KeptStrings = keptStrings ? 3 : null,
        });
        Assert.Equal(outcome, v.Outcome);
        Assert.Equal(outcome == QuickCheckOutcome.Passed, new QuickCheckTrial().Finding((TrialVerdict)v) is { Passed: true });
    }

    [Fact]
    public void Equal_spools_are_called_worse_in_no_more_than_one_of_twenty_and_what_slips_through_slips_through_as_often_as_it_says()
    {
        // Drawn by the model itself, with another generator than any that the trial has: scores with noise, walls with scatter and a piece's own.
        var random = new Random(7);
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        QuickCheckVerdict Draw(double changePercent, double drop)
        {
            var wall = 0.445 * (1 + changePercent / 100) * (1 + QuickCheckJudging.PieceToPiecePercent / 100 * Normal());
            return QuickCheckJudging.Judge(Like with
            {
                WallMm = [.. Enumerable.Range(0, 8).Select(_ => Math.Round(wall + 0.008 * Normal(), 3))],
                ResolutionMm = 0.001,
                KeptWallMm = 0.445 + 0.002 * Normal(),
                KeptWallHalfMm = 0.00392,
                TolerancePercent = 0.5,
                // Far from either end of the scale, so that no score is cut off.
                Strings = [Math.Clamp(2 - drop + 0.5 * Normal(), 0, 4)],
                KeptStrings = Math.Clamp(2 + 0.5 * Normal(), 0, 4),
            });
        }

        var equal = Enumerable.Range(0, 4000).Select(_ => Draw(0, 0)).ToList();
        Assert.InRange(equal.Average(v => v.WallDiffers ? 1.0 : 0), 0.02, 0.065);
        Assert.InRange(equal.Average(v => v.StringsWorse ? 1.0 : 0), 0.035, 0.065);
        var slips = equal.Average(v => v.SlipsWallPercent!.Value);
        var changed = Enumerable.Range(0, 4000).Select(_ => Draw(slips, 1.47)).ToList();
        Assert.InRange(changed.Average(v => v.WallDiffers ? 0 : 1.0), 0.25, 0.42);
        Assert.InRange(changed.Average(v => v.StringsWorse ? 0 : 1.0), 0.28, 0.38);
    }

    [Theory]
    [InlineData("strings[0]", 5.0)]
    [InlineData("wallMm[1]", 45.0)]
    public void What_is_no_reading_is_said_at_its_field(string field, double value)
    {
        var r = field[0] == 's' ? Like with { Strings = [value] } : Like with { WallMm = [0.44, value, 0.44, 0.45] };
        Assert.Equal(field, QuickCheckJudging.Check(r)[0].Field);
        Assert.Equal(QuickCheckOutcome.MeasureMore, QuickCheckJudging.Judge(r).Outcome);
    }

    [Fact]
    public void The_first_piece_that_was_made_alike_is_what_later_ones_stand_beside()
    {
        var trial = new QuickCheckTrial();
        var context = new PlanContext();
        EarlierRun Run(string name, double wall, double strings, decimal nozzle = 210) =>
            new(
                trial.Plan(new QuickCheckRequest { NozzleTemperatureC = nozzle, KeptWallMm = 0.44m }, context).Plan!,
                new(new Dictionary<(int, string), CellReading>(
                    from band in Enumerable.Range(0, 2)
                    from cell in Enumerable.Range(1, 4).Select(i => ($"wallMm.{i}", wall)).Append(("strings", strings))
                    select KeyValuePair.Create((band, cell.Item1), new CellReading(cell.Item2, "")))),
                name);
        decimal? Kept(params EarlierRun[] earlier) => trial.Propose(context with { Earlier = earlier }).Number("keptStrings");
        Assert.Null(Kept());
        // Nor is a wall filled in that no kept multiplier stands for; one from a run brings its uncertainty along.
        Assert.Null(trial.Propose(context).Number("keptWallMm"));
        Assert.Null(trial.Propose(context with { Kept = new Dictionary<string, double> { ["extrusionMultiplier"] = 0.97 } }).Number("keptWallMm"));
        var measured = trial.Propose(
            context with
            {
                Kept = new Dictionary<string, double> { ["extrusionMultiplier"] = 0.97 },
                KeptHalf = new Dictionary<string, double> { ["extrusionMultiplier"] = 0.0097 },
            });
        Assert.Equal((0.44m, 0.0044m), (measured.Number("keptWallMm"), measured.Number("keptWallHalfMm")));
        // A slow drift must not pass from one to the next: it stays the first one.
        Assert.Equal(3.5m, Kept(Run("run 1", 0.45, 3.5), Run("run 2", 0.47, 2)));
        // One at another temperature is another piece.
        Assert.Equal(2m, Kept(Run("run 1", 0.45, 3.5, 230), Run("run 2", 0.47, 2)));
        var proposed = trial.Propose(context with { Earlier = [Run("run 1", 0.45, 3.5)] });
        Assert.Equal((0.45m, 2m), (proposed.Number("keptWallMm"), proposed.Number("keptScores")));
        Assert.True(proposed.Number("keptWallHalfMm") > 0);
    }
}
