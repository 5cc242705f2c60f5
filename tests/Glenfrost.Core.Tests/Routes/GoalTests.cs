using Glenfrost.Core.Routes;

namespace Glenfrost.Core.Tests.Routes;

/// <summary>When it is good enough: by hand, and over many pieces.</summary>
public class GoalTests
{
    private static readonly Spent None = new(0, 0, 0, null);

    private static GoalPiece Piece(params (string Aspect, double Score)[] scores) =>
        new(Guid.NewGuid(), "temperature tower 1", scores.ToDictionary(s => s.Aspect, s => s.Score));

    private static GoalStanding Of(Goal goal, IReadOnlyList<GoalPiece> pieces, double? gain = null, Spent? spent = null, params (string Key, double Value)[] found) =>
        GoalStanding.Of(goal, "balanced", pieces, found.ToDictionary(f => f.Key, f => f.Value), spent ?? None, gain);

    [Fact]
    public void Nothing_scored_is_nothing_reached()
    {
        var s = Of(new(), []);
        Assert.Equal((GoalAdvice.NothingYet, (double?)null), (s.Advice, s.Points));
        Assert.Equal([new TargetStanding(new(Goal.EveryScore, 3), null, 0, false)], s.Targets);
    }

    [Fact]
    public void Twenty_one_of_twenty_four_is_the_sum_of_the_best_piece()
    {
        // By hand: 4 + 4 + 4 + 4 + 3 + 2 = 21 of 6 aspects by 4; the older piece misses 2 points of what is asked, this one 1.
        var newest = Piece(("bridge", 4), ("overhang", 2), ("strings", 4), ("surface", 4), ("bond", 4), ("detail", 3));
        var older = Piece(("bridge", 4), ("overhang", 2), ("strings", 2), ("surface", 4), ("bond", 4), ("detail", 4));
        var s = Of(new(), [newest, older]);
        Assert.Equal((21, 24, newest), (s.Points, s.MostPoints, s.Best));
        Assert.Equal([("overhang", 2d)], s.Short);
        Assert.Equal(GoalAdvice.GoOnFor, s.Advice);
    }

    [Theory]
    [InlineData(0.5, GoalAdvice.GoOnFor)]
    [InlineData(0.11, GoalAdvice.GoOnFor)]
    [InlineData(0.05, GoalAdvice.HardlyMore)]
    [InlineData(null, GoalAdvice.GoOnFor)]
    public void What_would_hardly_gain_is_not_printed_and_what_nobody_reckoned_is_no_reason_to_stop(double? gain, GoalAdvice advice) =>
        Assert.Equal(advice, Of(new(), [Piece(("bridge", 4), ("strings", 2.5))], gain).Advice);

    [Fact]
    public void Reached_once_where_twice_is_asked_is_printed_once_more()
    {
        var goal = new Goal { Times = 2 };
        var good = Piece(("bridge", 3), ("strings", 3));
        Assert.Equal(GoalAdvice.OnceMore, Of(goal, [good]).Advice);
        Assert.Equal(GoalAdvice.OnceMore, Of(goal, [Piece(("bridge", 3), ("strings", 2)), good]).Advice);
        Assert.Equal(GoalAdvice.Enough, Of(goal, [good, Piece(("bridge", 4), ("strings", 3.5))]).Advice);
    }

    [Fact]
    public void A_setting_is_reached_from_its_value_on_and_never_stopped_before_it()
    {
        var goal = new Goal { Targets = [new("maxVolumetricFlowMm3PerS", 12)] };
        Assert.Equal(GoalAdvice.NothingYet, Of(goal, []).Advice);
        Assert.Equal(GoalAdvice.GoOnFor, Of(goal, [], 0.01, null, ("maxVolumetricFlowMm3PerS", 11.9)).Advice);
        Assert.Equal(GoalAdvice.Enough, Of(goal, [], null, null, ("maxVolumetricFlowMm3PerS", 12)).Advice);
    }

    [Theory]
    [InlineData(11, 0, 0, false)]
    [InlineData(12, 0, 0, false)]
    [InlineData(13, 0, 0, true)]
    [InlineData(1, 601, 0, true)]
    [InlineData(1, 600, 0, false)]
    [InlineData(1, 1, 640.1, true)]
    public void A_budget_is_passed_by_what_lies_beyond_any_of_its_bounds(int pieces, int minutes, double grams, bool over) =>
        Assert.Equal(over, Of(new() { Pieces = 12, Hours = 10, Grams = 640 }, [], null, new(pieces, minutes, grams, null)).Over);

    [Fact]
    public void Over_many_pieces_more_points_never_make_it_worse_and_a_lower_aim_never_asks_for_more()
    {
        var random = new Random(11);
        for (var i = 0; i < 2000; i++)
        {
            (string, double)[] scores = [.. new[] { "bridge", "overhang", "strings" }.Select(a => (a, random.Next(0, 9) / 2.0))];
            var aim = random.Next(1, 9) / 2.0;
            var s = Of(new() { Targets = [new(Goal.EveryScore, aim)] }, [Piece(scores)]);
            var better = Of(new() { Targets = [new(Goal.EveryScore, aim)] }, [Piece([.. scores.Select(x => (x.Item1, Math.Min(4, x.Item2 + 0.5)))])]);
            var lower = Of(new() { Targets = [new(Goal.EveryScore, Math.Max(0.5, aim - 0.5))] }, [Piece(scores)]);
            Assert.Equal(scores.All(x => x.Item2 >= aim), s.Advice == GoalAdvice.Enough);
            Assert.True(better.Short.Count <= s.Short.Count && lower.Short.Count <= s.Short.Count);
            Assert.True(s.Advice != GoalAdvice.Enough || (better.Advice == GoalAdvice.Enough && lower.Advice == GoalAdvice.Enough));
        }
    }

    [Theory]
    [InlineData("{\"version\":2}", "version")]
    [InlineData("{\"targets\":[{\"key\":\"score\",\"atLeast\":9}]}", "score of 9")]
    [InlineData("{\"targets\":[{\"key\":\"wings\",\"atLeast\":1}]}", "no setting")]
    [InlineData("{\"times\":0}", "1 to 9")]
    [InlineData("{\"grams\":-1}", "budget")]
    [InlineData("{\"before\":{\"times\":40}}", "1 to 9")]
    [InlineData("{\"times\":2,\"grams\":500,\"targets\":[{\"key\":\"score.bridge\",\"atLeast\":3}]}", null)]
    public void A_goal_that_came_in_is_checked(string json, string? wrong)
    {
        var fault = System.Text.Json.JsonSerializer.Deserialize<Goal>(json, new System.Text.Json.JsonSerializerOptions(System.Text.Json.JsonSerializerDefaults.Web))!
            .Fault();
        if (wrong is null)
            Assert.Null(fault);
        else
            Assert.Contains(wrong, fault);
    }

    [Theory]
    [InlineData(null, null, 214.0, 6.0, HuntEffect.Changed)]
    [InlineData(214.0, 6.0, 220.0, 3.0, HuntEffect.Confirmed)]
    [InlineData(214.0, 3.0, 225.0, 3.0, HuntEffect.Changed)]
    [InlineData(214.0, 40.0, 214.0, 40.0, HuntEffect.None)]
    public void What_keeping_did_to_the_answer(double? before, double? beforeHalf, double kept, double half, HuntEffect effect) =>
        Assert.Equal(
            effect, HuntEffects.Of("nozzleTemperatureC", before is { } b ? new(b, beforeHalf, true) : null, new(kept, half, true)));

    [Fact]
    public void A_starting_value_that_turns_out_right_is_found_only_now() =>
        Assert.Equal(HuntEffect.Changed, HuntEffects.Of("nozzleTemperatureC", new(214, 3, false), new(214, 3, true)));
}
