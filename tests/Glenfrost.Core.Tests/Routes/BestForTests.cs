using Glenfrost.Core.Routes;

namespace Glenfrost.Core.Tests.Routes;

/// <summary>What several pairings are best for.</summary>
public class BestForTests
{
    private static BestForAnswer Ask(BestForQuestion question, params BestForEntry[] entries) => BestForAnswer.Of(question, entries);

    [Fact]
    public void Those_that_differ_by_less_than_both_are_uncertain_are_not_told_apart()
    {
        // √(0.3² + 0.4²) = 0.5: 3.5 and 3.0 differ by just that, 2.9 by more.
        var answer = Ask(BestForQuestion.Looks, new(2.9, 0.4), new(3.5, 0.3), new(3.0, 0.4));
        Assert.Equal([1, 2], answer.Best);
        Assert.Equal([0], answer.Behind);
        Assert.False(answer.IsSettled);
        Assert.True(Ask(BestForQuestion.Looks, new(2.9, 0.4), new(3.5, 0.3)).IsSettled);
    }

    [Fact]
    public void Of_costs_the_least_is_best()
    {
        var answer = Ask(BestForQuestion.Cheapest, new(2.7, 0.05), new(2.5, 0.05));
        Assert.Equal((1, 0), (Assert.Single(answer.Best), Assert.Single(answer.Behind)));
    }

    [Fact]
    public void What_is_missing_or_ruled_out_takes_no_part_and_keeps_the_answer_open()
    {
        var answer = Ask(BestForQuestion.FastestAtLooks, new(24, 1, RuledOut: "its looks are 2"), new(9, 1), new(null, 0, "never measured"));
        Assert.Equal([1], answer.Best);
        Assert.Empty(answer.Behind);
        Assert.False(answer.IsSettled);
        Assert.Empty(Ask(BestForQuestion.Strongest, new BestForEntry(null), new BestForEntry(null)).Best);
    }

    [Fact]
    public void The_order_of_asking_changes_nothing_and_a_third_never_joins_two_that_are_apart()
    {
        var random = new Random(5);
        for (var i = 0; i < 500; i++)
        {
            var entries = Enumerable.Range(0, 4).Select(_ => new BestForEntry(random.NextDouble() * 4, random.NextDouble())).ToArray();
            var answer = Ask(BestForQuestion.Looks, entries);
            var turned = Ask(BestForQuestion.Looks, [.. entries.Reverse()]);
            Assert.Equal(answer.Best.Select(b => entries[b].Value), turned.Best.Select(b => entries[3 - b].Value));
            Assert.Equal(4, answer.Best.Count + answer.Behind.Count);
            Assert.Equal(entries.Max(e => e.Value), entries[answer.Best[0]].Value);
            // Two that are told apart stay so when a third one that is behind is left out.
            if (answer.Behind is [var last, ..])
                Assert.Equal(
                    answer.Best.Select(b => entries[b].Value),
                    Ask(BestForQuestion.Looks, [.. entries.Where((_, k) => k != last)]).Best.Select(b => entries.Where((_, k) => k != last).ElementAt(b).Value));
        }
    }
}
