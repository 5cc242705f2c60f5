using Glenfrost.Core.Statistics;
using CsCheck;
using Glenfrost.Core.Evidence;

namespace Glenfrost.Core.Tests.Evidence;

public class ScoreNoiseTests
{
    [Fact]
    public void Nothing_scored_twice_leaves_the_default()
    {
        Assert.Equal(0.5, ScoreNoise.Unlearned.Sd, 12);
        Assert.Equal(0, ScoreNoise.Unlearned.Pairs);
    }

    [Fact]
    public void A_sitting_worked_by_hand()
    {
        // Differences 0, 0, 1, -1: mean 0, sum of squares 2, half of it 1. Prior 8 × 0.25 = 2. (2 + 1) / (8 + 3) = 0.2727, root 0.5222.
        var n = ScoreNoise.Learn([[(3, 3), (4, 4), (2, 3), (4, 3)]]);
        Assert.Equal(0.5222, n.Sd, 4);
        Assert.Equal((4, 2, 2, 0.0), (n.Pairs, n.Same, n.OneApart, n.Shift));
        // 3 / χ²(0.975; 11) = 3 / 21.920 and 3 / χ²(0.025; 11) = 3 / 3.816, from printed tables.
        Assert.Equal(Math.Sqrt(3 / 21.920), n.Low, 3);
        Assert.Equal(Math.Sqrt(3 / 3.816), n.High, 3);
    }

    [Fact]
    public void Being_stricter_throughout_is_no_noise()
    {
        var strict = ScoreNoise.Learn([Enumerable.Repeat((3.0, 2.0), 40).ToList()]);
        var same = ScoreNoise.Learn([Enumerable.Repeat((3.0, 3.0), 40).ToList()]);
        Assert.Equal(same.Sd, strict.Sd, 12);
        Assert.Equal(-1, strict.Shift, 12);
    }

    [Fact]
    public void A_steady_hand_comes_down_to_rounding_and_a_wild_one_goes_up()
    {
        Assert.Equal(ScoreNoise.Least, ScoreNoise.Learn([Enumerable.Repeat((3.0, 3.0), 400).ToList()]).Sd, 6);
        var wild = Enumerable.Range(0, 60).Select(i => (2.0, i % 2 == 0 ? 0.0 : 4.0)).ToList();
        Assert.InRange(ScoreNoise.Learn([wild]).Sd, 1.2, 1.5);
    }

    [Fact]
    public void A_known_noise_is_found_again() =>
        Gen.Select(Gen.Double[0.35, 1.2], Gen.Int[1, 1_000_000]).Sample((sd, seed) =>
        {
            var random = new Random(seed);
            double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
            var sittings = Enumerable.Range(0, 8).Select(_ => Enumerable.Range(0, 60).Select(_ => (2 + sd * Normal(), 2 + sd * Normal())).ToList());
            Assert.InRange(ScoreNoise.Learn(sittings).Sd, sd * 0.84, sd * 1.16);
        }, iter: 60);

    [Fact]
    public void People_together_are_weighed_by_their_scores()
    {
        Assert.Equal(0.5, ScoreNoise.Together([]));
        Assert.Equal(Math.Sqrt((0.16 * 30 + 1.0 * 10) / 40), ScoreNoise.Together([(0.4, 30), (1.0, 10)]), 12);
    }

    [Fact]
    public void A_shuffle_keeps_all_and_hangs_on_its_seed() =>
        Gen.Select(Gen.Int[0, 40], Gen.Int[1, 10_000]).Sample((n, seed) =>
        {
            var order = BlindOrder.Of(Enumerable.Range(0, n), seed);
            Assert.Equal(Enumerable.Range(0, n), order.Order());
            Assert.Equal(order, BlindOrder.Of(Enumerable.Range(0, n), seed));
        }, iter: 200);

    [Fact]
    public void Each_place_is_as_likely()
    {
        var first = Enumerable.Range(1, 4000).GroupBy(seed => BlindOrder.Of(Enumerable.Range(0, 4), seed)[0]).ToDictionary(g => g.Key, g => g.Count());
        Assert.All(first.Values, n => Assert.InRange(n, 850, 1150));
    }

    private static IReadOnlyList<(double, double)> Sitting(params double[] moved) => [.. moved.Select(m => (2.0, 2 + m))];

    [Fact]
    public void Two_kinds_of_sittings_worked_by_hand()
    {
        // Eleven differences each, mean 0. With photos: two of 1 and two of −1, sum 4, half 2, over 10 is 0.2. Without: eight of ± 2 and 0, sum 32, half 16, 1.6.
        var with = Sitting(0, 0, 0, 0, 0, 0, 0, 1, 1, -1, -1);
        var without = Sitting(0, 0, 0, 2, -2, 2, -2, 2, -2, 2, -2);
        var c = ScoreNoise.Compare([with], [without])!;
        Assert.Equal((Math.Sqrt(0.2), Math.Sqrt(1.6)), (c.Sd, c.Other));
        Assert.Equal((11, 11), (c.Pairs, c.OtherPairs));
        // F(0.975; 10, 10) = 3.717 from printed tables; its reciprocal is F(0.025).
        Assert.Equal(Math.Sqrt(0.125 / 3.717), c.Low, 3);
        Assert.Equal(Math.Sqrt(0.125 * 3.717), c.High, 3);
        Assert.True(c.Told);
        // The other way round it is the reciprocal.
        var back = ScoreNoise.Compare([without], [with])!;
        Assert.Equal(1 / c.High, back.Low, 9);
    }

    [Fact]
    public void Few_pairs_tell_nothing_and_steady_hands_are_not_called_apart_by_rounding()
    {
        var ten = Sitting(0, 0, 0, 0, 0, 0, 0, 0, 0, 0);
        Assert.Null(ScoreNoise.Compare([ten], [Sitting(0, 1, -1, 0, 0, 1, 0, 0, 0)]));
        Assert.Null(ScoreNoise.Compare([], [ten]));
        var c = ScoreNoise.Compare([ten], [ten])!;
        Assert.Equal((ScoreNoise.Least, ScoreNoise.Least), (c.Sd, c.Other));
        Assert.False(c.Told);
    }

    [Fact]
    public void Kinds_that_are_alike_are_called_apart_in_one_of_twenty()
    {
        var random = new Random(41);
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        IReadOnlyList<(double, double)> Some(double sd) => [.. Enumerable.Range(0, 14).Select(_ => (2 + sd * Normal(), 2 + sd * Normal()))];
        var alike = Enumerable.Range(0, 2000).Count(_ => ScoreNoise.Compare([Some(0.8), Some(0.8)], [Some(0.8), Some(0.8)])!.Told);
        Assert.InRange(alike, 60, 140);
        var halved = Enumerable.Range(0, 500).Count(_ => ScoreNoise.Compare([Some(0.4), Some(0.4)], [Some(0.8), Some(0.8)])!.Told);
        Assert.True(halved > 400, $"{halved} of 500");
    }
}
