using CsCheck;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials.LayerBond;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Statistics;

/// <summary>Values and bounds in one fit, ranks and their luck, one rise and one fall.</summary>
public class BoundTests
{
    private static Matrix<double> Groups(int groups, int each) =>
        Matrix<double>.Build.Dense(groups * each, groups, (r, c) => r / each == c ? 1 : 0);

    [Fact]
    public void Without_bounds_it_is_least_squares() => Gen.Int[0, 100_000].Sample(seed =>
    {
        var random = new MersenneTwister(seed, false);
        double[] y = [.. Enumerable.Range(0, 12).Select(i => i / 4 + Normal.Sample(random, 0, 0.3))];
        var fit = CensoredFit.Of(Groups(3, 4), [.. y.Select(v => new BoundedValue(v, false))])!;
        for (var g = 0; g < 3; g++)
            Assert.Equal(y.Skip(4 * g).Take(4).Average(), fit.Coefficients[g], 8);
        var within = Enumerable.Range(0, 3).Sum(g => y.Skip(4 * g).Take(4).Sum(v => Math.Pow(v - y.Skip(4 * g).Take(4).Average(), 2)));
        Assert.Equal(Math.Sqrt(within / 9), fit.Scatter, 6);
        Assert.Equal(9, fit.Freedom);
        Assert.Equal(fit.Scatter * fit.Scatter / 4, fit.Covariance[1, 1], 8);
    }, iter: 20);

    [Fact]
    public void A_bound_never_lowers_a_mean_and_a_shift_shifts_all() => Gen.Int[0, 100_000].Sample(seed =>
    {
        var random = new MersenneTwister(seed, false);
        BoundedValue[] values = [.. Enumerable.Range(0, 12).Select(i => new BoundedValue(3 + Normal.Sample(random, 0, 0.2), i % 5 == 4))];
        var fit = CensoredFit.Of(Groups(3, 4), values)!;
        var known = CensoredFit.Of(Groups(3, 4), [.. values.Select(v => v with { AtLeast = false })])!;
        for (var g = 0; g < 3; g++)
            Assert.True(fit.Coefficients[g] >= known.Coefficients[g] - 1e-6);
        var moved = CensoredFit.Of(Groups(3, 4), [.. values.Select(v => v with { Y = v.Y + 5 })])!;
        Assert.Equal(fit.Coefficients[1] + 5, moved.Coefficients[1], 5);
        Assert.Equal(fit.Scatter, moved.Scatter, 5);
    }, iter: 30);

    [Fact]
    public void What_can_t_be_fitted_is_not()
    {
        Assert.Null(CensoredFit.Of(Groups(3, 1), [new(1, false), new(2, false), new(3, false)]));
        Assert.Null(CensoredFit.Of(Groups(2, 2), [new(1, true), new(2, true), new(3, true), new(4, true)]));
        // Two columns that say the same.
        Assert.Null(CensoredFit.Of(Matrix<double>.Build.Dense(6, 2, 1), [.. Enumerable.Range(0, 6).Select(i => new BoundedValue(i, false))]));
    }

    // One piece that held at least y: 1 − Φ((y − m)/σ) falls to e^−1.3528 = 0.2585 at m = y − 0.648 σ.
    [Fact]
    public void Bounds_alone_leave_a_least_mean()
    {
        Assert.Equal(10 - 0.648 * 2, CensoredFit.LeastMean([10], 2), 2);
        Assert.True(CensoredFit.LeastMean([10, 10, 10], 2) > CensoredFit.LeastMean([10], 2));
        Assert.True(CensoredFit.LeastMean([10, 12], 2) > CensoredFit.LeastMean([10, 10], 2));
    }

    [Theory]
    // Two and two, as apart as they can be: 2 of 6 ways, either may be the harder one.
    [InlineData(new double[] { 1, 2, 3, 4 }, new[] { 0, 0, 1, 1 }, false, 2.0 / 6)]
    [InlineData(new double[] { 1, 2, 3, 4 }, new[] { 0, 0, 1, 1 }, true, 1.0 / 6)]
    [InlineData(new double[] { 4, 3, 2, 1 }, new[] { 0, 0, 1, 1 }, true, 1)]
    [InlineData(new double[] { 2, 2, 2, 2 }, new[] { 0, 1, 0, 1 }, true, 1)]
    public void Ranks_are_counted_over_every_way_they_could_have_fallen(double[] ranks, int[] group, bool ordered, double p)
    {
        var odds = RankOdds.Of(ranks, group, ordered);
        Assert.Equal(p, odds.P, 9);
        Assert.True(odds.Exact);
        Assert.True(odds.Floor <= odds.P);
    }

    [Fact]
    public void Many_ranks_are_drawn_and_agree_with_what_is_counted()
    {
        int[] group = [.. Enumerable.Range(0, 24).Select(i => i / 8)];
        double[] ranks = [.. BlindOrder.Of(Enumerable.Range(1, 24), 5).Select(x => (double)x)];
        var odds = RankOdds.Of(ranks, group, false);
        Assert.False(odds.Exact);
        Assert.InRange(odds.P, 0.01, 1);
        Assert.True(RankOdds.Of([.. Enumerable.Range(1, 24).Select(x => (double)x)], group, true).P < 1e-4);
    }

    [Fact]
    public void One_rise_and_one_fall_keep_the_whole_and_leave_what_has_a_peak() => Gen.Int[0, 1000].Array[2, 9].Sample(drawn =>
    {
        double[] y = [.. drawn.Select(d => d / 100.0)];
        double[] even = [.. y.Select(_ => 1.0)];
        var (fitted, peak) = BondJudging.OnePeak(y, even);
        for (var i = 1; i < fitted.Count; i++)
            Assert.True(i <= peak ? fitted[i] >= fitted[i - 1] - 1e-9 : fitted[i] <= fitted[i - 1] + 1e-9);
        // Fitted again nothing moves, and one that has a peak already is its own fit.
        var again = BondJudging.OnePeak([.. fitted], even).Fitted;
        for (var i = 0; i < fitted.Count; i++)
            Assert.Equal(fitted[i], again[i], 6);
        double[] hill = [.. y.Order().Concat(y.OrderDescending().Skip(1))];
        var own = BondJudging.OnePeak(hill, [.. hill.Select(_ => 1.0)]).Fitted;
        for (var i = 0; i < hill.Length; i++)
            Assert.Equal(hill[i], own[i], 6);
    });
}
