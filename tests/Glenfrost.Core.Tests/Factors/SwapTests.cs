using Glenfrost.Core.Factors;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>What is to blame: the exact test by hand, and the stories that it must tell apart.</summary>
public class SwapTests
{
    private static SwapRow Row(string filament, string printer, int passed, int tried, string slicer = "4.1", int leftOut = 0) =>
        new(new Dictionary<string, string> { ["filament"] = filament, ["printer"] = printer, ["slicer"] = slicer }, passed, tried, leftOut);

    [Theory]
    // Three that fail against three that pass: one way of twenty to draw the three good ones.
    [InlineData(0, 3, 3, 3, 1.0 / 20)]
    // Five that fail, one that passes: the good one is any of six.
    [InlineData(0, 5, 1, 1, 1.0 / 6)]
    // Tea that was tasted eight times, three of four told right: (4·4 + 1) of 70.
    [InlineData(1, 4, 3, 4, 17.0 / 70)]
    // No better: sure by luck.
    [InlineData(1, 2, 0, 2, 1)]
    [InlineData(0, 4, 0, 4, 1)]
    [InlineData(0, 0, 3, 3, 1)]
    // 0 of 10 against 6 of 8: C(6,6)·C(12,2) + 0 over C(18,8); two more can't come, since there are six good ones.
    [InlineData(0, 10, 6, 8, 66.0 / 43758)]
    public void Luck_alone_is_reckoned_exactly(int failingPassed, int failingTried, int passed, int tried, double expected) =>
        Assert.Equal(expected, SwapTest.ByLuck(failingPassed, failingTried, passed, tried), 12);

    [Fact]
    public void Holm_takes_the_smallest_for_all_and_never_falls()
    {
        Assert.Equal([0.03, 0.06, 0.06], SwapTest.Holm([0.01, 0.04, 0.03]).Select(p => Math.Round(p, 10)));
        Assert.Equal([1, 1], SwapTest.Holm([0.9, 0.8]));
        Assert.Empty(SwapTest.Holm([]));
    }

    [Fact]
    public void A_filament_that_is_to_blame()
    {
        var v = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 4), Row("Tarn", "Dunnock 180", 5, 5), Row("Heath", "Whimbrel 300", 0, 4)]);
        Assert.Equal(SwapOutcome.One, v.Outcome);
        Assert.Equal(["filament"], v.Blamed);
        Assert.Equal(["printer"], v.Acquitted);
        Assert.Equal(1.0 / 126, v.ByLuck[0], 12);
        Assert.Equal(2.0 / 126, v.ByLuckAdjusted[0], 12);
        Assert.Equal([1.0, 1.0], [v.ByLuck[1], v.ByLuckAdjusted[1]]);
        Assert.Null(v.Next);
    }

    [Fact]
    public void A_machine_that_is_to_blame_and_one_print_more_that_would_show_it()
    {
        // One of six by luck: one more that passes makes two of 21, three make one of 56, adjusted for the two rows.
        SwapRow[] rows = [Row("Heath", "Dunnock 180", 0, 5), Row("Heath", "Whimbrel 300", 1, 1), Row("Tarn", "Dunnock 180", 0, 2)];
        var v = SwapTest.Judge(rows);
        Assert.Equal(SwapOutcome.Luck, v.Outcome);
        Assert.Equal(["printer"], v.Blamed);
        Assert.Equal(1.0 / 6, v.ByLuck[0], 12);
        Assert.Equal((2, true), (v.Next!.Prints, v.Next.Again));
        Assert.Equal("Whimbrel 300", v.Next.Factors["printer"]);
        // What was proposed decides, where it passes.
        rows[1] = rows[1] with { Passed = 1 + v.Next.Prints, Tried = 1 + v.Next.Prints };
        Assert.Equal(SwapOutcome.One, SwapTest.Judge(rows).Outcome);
        // And one print fewer would not.
        rows[1] = rows[1] with { Passed = v.Next.Prints, Tried = v.Next.Prints };
        Assert.Equal(SwapOutcome.Luck, SwapTest.Judge(rows).Outcome);
    }

    [Fact]
    public void Two_causes_that_each_exchange_seems_to_cure_fail_only_together()
    {
        var v = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 6), Row("Tarn", "Dunnock 180", 6, 6), Row("Heath", "Whimbrel 300", 6, 6)]);
        Assert.Equal(SwapOutcome.Together, v.Outcome);
        Assert.Equal(["filament", "printer"], v.Blamed.Order());
    }

    [Fact]
    public void Two_that_fail_each_by_itself_are_cured_only_by_exchanging_both()
    {
        var v = SwapTest.Judge(
            [Row("Heath", "Dunnock 180", 0, 6), Row("Tarn", "Dunnock 180", 0, 4), Row("Heath", "Whimbrel 300", 0, 4), Row("Tarn", "Whimbrel 300", 6, 6)]);
        Assert.Equal(SwapOutcome.Several, v.Outcome);
        Assert.Equal(["filament", "printer"], v.Blamed.Order());
        Assert.Empty(v.Acquitted);
    }

    [Fact]
    public void Where_nothing_was_exchanged_alone_the_first_single_exchange_is_proposed()
    {
        var v = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 4), Row("Tarn", "Whimbrel 300", 4, 4)]);
        Assert.Equal(SwapOutcome.Insufficient, v.Outcome);
        Assert.Single(v.Next!.Changed);
        Assert.False(v.Next.Again);
        // One that failed once is not yet known to fail.
        var once = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 1)]);
        Assert.Equal((SwapOutcome.Insufficient, 2, 0), (once.Outcome, once.Next!.Prints, once.Next.Changed.Count));
        // Nothing that was exchanged is better: nothing more of it is proposed.
        var none = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 5), Row("Tarn", "Dunnock 180", 0, 5)]);
        Assert.Equal((SwapOutcome.Insufficient, null), (none.Outcome, none.Next));
        Assert.Equal(["filament"], none.Acquitted);
    }

    [Fact]
    public void The_failing_combination_printed_again_at_the_end_counts_to_it()
    {
        // Three of three against 0 of 2 is one way of ten; printed once more and failed again, one of twenty.
        SwapRow[] rows = [Row("Heath", "Dunnock 180", 0, 2), Row("Tarn", "Dunnock 180", 3, 3)];
        Assert.Equal(1.0 / 10, SwapTest.Judge(rows).ByLuck[0], 12);
        var again = SwapTest.Judge([.. rows, Row("heath", "Dunnock 180", 0, 1)]);
        Assert.Equal([1.0 / 20, 1], again.ByLuck.Select(p => Math.Round(p, 12)));
        Assert.Equal([1.0 / 20, 1], again.ByLuckAdjusted.Select(p => Math.Round(p, 12)));
        Assert.Equal(SwapOutcome.One, again.Outcome);
        // Printed again and passed, the failure is no longer sure.
        Assert.Equal(SwapOutcome.Luck, SwapTest.Judge([.. rows, Row("Heath", "Dunnock 180", 1, 1)]).Outcome);
    }

    [Fact]
    public void Rows_that_were_not_printed_yet_make_no_answer_weaker()
    {
        SwapRow[] rows = [Row("Heath", "Dunnock 180", 0, 3), Row("Tarn", "Dunnock 180", 3, 3)];
        var planned = SwapTest.Judge([.. rows, Row("Heath", "Whimbrel 300", 0, 0), Row("Heath", "Dunnock 180", 0, 0, "4.2")]);
        Assert.Equal(SwapOutcome.One, planned.Outcome);
        Assert.Equal([1.0 / 20, 1, 1], planned.ByLuckAdjusted.Select(p => Math.Round(p, 12)));
        Assert.Empty(planned.Acquitted);
    }

    [Fact]
    public void Beside_one_cure_another_that_passed_too_is_told_and_its_prints_decide()
    {
        SwapRow[] rows = [Row("Heath", "Dunnock 180", 0, 6), Row("Tarn", "Dunnock 180", 6, 6), Row("Heath", "Whimbrel 300", 1, 1)];
        var v = SwapTest.Judge(rows);
        Assert.Equal((SwapOutcome.One, "filament", "printer"), (v.Outcome, Assert.Single(v.Blamed), Assert.Single(v.Hopeful)));
        Assert.Equal("Whimbrel 300", v.Next!.Factors["printer"]);
        rows[2] = rows[2] with { Passed = 1 + v.Next.Prints, Tried = 1 + v.Next.Prints };
        var together = SwapTest.Judge(rows);
        Assert.Equal((SwapOutcome.Together, 0), (together.Outcome, together.Hopeful.Count));
        // Where it failed, it is no longer hopeful, and nothing more is to be printed.
        rows[2] = rows[2] with { Passed = 0, Tried = 3 };
        var one = SwapTest.Judge(rows);
        Assert.Equal((SwapOutcome.One, null), (one.Outcome, one.Next));
        Assert.Equal(["printer"], one.Acquitted);
    }

    [Fact]
    public void Failures_that_raised_the_suspicion_prove_nothing_and_blank_is_never_the_same()
    {
        var all = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 5), Row("Tarn", "Dunnock 180", 3, 3)]);
        var fewer = SwapTest.Judge([Row("Heath", "Dunnock 180", 0, 5, leftOut: 3), Row("Tarn", "Dunnock 180", 3, 3)]);
        Assert.Equal((SwapOutcome.One, SwapOutcome.Luck), (all.Outcome, fewer.Outcome));
        Assert.Equal(1.0 / 10, fewer.ByLuck[0], 12);
        var bare = new SwapRow(new Dictionary<string, string> { ["filament"] = "Tarn", ["printer"] = "Dunnock 180" }, 3, 3);
        Assert.Equal(["filament", "slicer"], SwapTest.Changed(Row("Heath", "Dunnock 180", 0, 5), bare));
    }

    [Fact]
    public void Two_alike_are_told_apart_in_at_most_one_of_twenty_and_more_passes_never_look_more_like_luck()
    {
        var (random, wrong) = (new Random(20261129), 0);
        const int turns = 4000;
        for (var i = 0; i < turns; i++)
        {
            var share = random.NextDouble() * 0.8;
            int Passed(int n) => Enumerable.Range(0, n).Count(_ => random.NextDouble() < share);
            var rows = new[] { Row("Heath", "Dunnock 180", Passed(6), 6), Row("Tarn", "Dunnock 180", Passed(5), 5), Row("Heath", "Whimbrel 300", Passed(5), 5) };
            wrong += SwapTest.Judge(rows).Outcome is SwapOutcome.One or SwapOutcome.Together or SwapOutcome.Several ? 1 : 0;
        }

        Assert.True(wrong <= turns / 20 + 3 * Math.Sqrt(turns / 20.0), $"{wrong} of {turns}");
        for (var n = 1; n <= 8; n++)
        {
            for (var k = 1; k <= n; k++)
                Assert.True(SwapTest.ByLuck(1, 6, k, n) <= SwapTest.ByLuck(1, 6, k - 1, n) + 1e-12);
        }
    }

    private static SwapRow At(string other, int passed, params int[] layers) =>
        new(new Dictionary<string, string> { ["filament"] = "Plain", ["other"] = other }, passed, passed + layers.Length, 0, layers);

    [Theory]
    // Four against four without a tie: the best of 70 ways; the best but one.
    [InlineData(new[] { 96, 102, 104, 118 }, new[] { 171, 180, 188, 204 }, 1.0 / 70)]
    [InlineData(new[] { 96, 102, 104, 175 }, new[] { 171, 180, 188, 204 }, 2.0 / 70)]
    // The other way round: nearly always.
    [InlineData(new[] { 171, 180 }, new[] { 96, 102 }, 1)]
    // All alike tells nothing.
    [InlineData(new[] { 50, 50, 50 }, new[] { 50, 50, 50 }, 1)]
    public void How_far_prints_came_is_compared_exactly(int[] failing, int[] exchanged, double expected) =>
        Assert.Equal(expected, SwapTest.ByLuck(At("a", 0, failing), At("b", 0, exchanged)), 12);

    [Fact]
    public void Where_all_failures_gave_up_alike_it_is_fishers_test()
    {
        for (var (tried, r) = (1, new Random(5)); tried <= 8; tried++)
        {
            var (a, b) = (r.Next(0, tried), r.Next(0, 7));
            var (failing, other) = (At("a", a, [.. Enumerable.Repeat(60, tried - a)]), At("b", b, [.. Enumerable.Repeat(60, 6 - b)]));
            Assert.Equal(SwapTest.ByLuck(a, tried, b, 6), SwapTest.ByLuck(failing, other), 10);
        }
    }

    [Fact]
    public void What_comes_further_and_still_fails_is_part_of_the_cause_and_one_layer_that_nobody_noted_brings_back_what_passed()
    {
        var v = SwapTest.Judge([At("open", 0, 96, 102, 104, 118), At("shut", 0, 171, 180, 188, 204)]);
        Assert.Equal((SwapOutcome.One, true), (v.Outcome, v.OnlyFurther));
        Assert.Equal(["other"], v.Blamed);
        var blind = SwapTest.Judge([At("open", 0, 96, 102, 104, 118), At("shut", 0, 171, 180, 188, 204) with { FailedAtLayers = [171, 180] }]);
        Assert.Equal((SwapOutcome.Insufficient, 1.0), (blind.Outcome, blind.ByLuck[0]));
        // The failing one once more at the end counts with its layers.
        var again = SwapTest.Judge([At("open", 0, 96, 102), At("shut", 0, 171, 180), At("open", 0, 104, 118)]);
        Assert.Equal(1.0 / 15, again.ByLuck[0], 12);
        // One that passed came further than all that failed, wherever they did.
        Assert.Equal(1.0 / 5, SwapTest.ByLuck(At("open", 0, 96, 102, 104, 9000), At("shut", 1)), 12);
    }

    [Fact]
    public void What_drifts_is_seen_at_the_failing_one_before_between_and_after()
    {
        var next = SwapTest.Judge([At("open", 0, 96, 102, 104, 118), At("shut", 1)]).Next!;
        Assert.Equal((2 * next.Prints) + 1, next.Order.Count);
        Assert.Equal(next.Prints, next.Order.Count(o => o));
        Assert.True(!next.Order[0] && !next.Order[^1] && next.Order.Zip(next.Order.Skip(1)).All(p => p.First != p.Second));
    }
}
