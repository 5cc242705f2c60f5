using CsCheck;
using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>A curve through scores: what it says is lost, and what another print would gain.</summary>
public class ScoreCurveTests
{
    private static ScoreCurve Of(double[] scores, double se, double step = 1, double from = 1) =>
        ScoreCurve.Through([.. scores.Select((s, i) => new ScoredPlace(from + i * step, s, se))], [.. scores.Select((_, i) => from + i * step)]);

    [Fact]
    public void A_peak_is_a_peak()
    {
        var curve = Of([0, 1, 2, 2.5, 4, 4, 2, 1], 0.35);
        var best = curve.Least(Enumerable.Range(0, 8));
        Assert.InRange(curve.At[best], 5, 6);
        Assert.True(curve.LossAt(best).Expected < 0.3, $"{curve.LossAt(best)}");
        // 8 mm was read as 1: it lies far behind, and no rule about more being better lifts it.
        Assert.InRange(curve.LossAt(7).Expected, 2, 3.5);
        Assert.InRange(curve.LossAt(0).Expected, 3, 4);
    }

    [Theory]
    [InlineData(3, 0.5, 9)]
    [InlineData(3, 0.2, 9)]
    [InlineData(4, 0.35, 5)]
    [InlineData(2.5, 0.35, 7)]
    public void Equal_sections_lose_about_nothing(double score, double se, int count)
    {
        var curve = Of([.. Enumerable.Repeat(score, count)], se);
        for (var i = 0; i < count; i++)
        {
            var loss = curve.LossAt(i);
            Assert.True(loss.Expected < 0.15 && loss.P95 < 0.75 && loss.Expected <= loss.P95, $"{i}: {loss}");
        }

        // The middle loses least, and well below what drawing the scores anew would make of it (0.13 and 0.48 at half a score).
        Assert.InRange(curve.LossAt(count / 2).Expected, 0, 0.1);
    }

    [Fact]
    public void Scale_and_shift_of_the_factor_change_nothing_and_the_same_seed_is_the_same_answer() =>
        Gen.Select(Gen.Double[0, 4].Array[6], Gen.Double[0.1, 40], Gen.Double[-50, 50]).Sample(
            (scores, step, from) =>
            {
                var (a, b) = (Of(scores, 0.4), Of(scores, 0.4, step, from));
                for (var i = 0; i < 6; i++)
                    Assert.Equal(a.LossAt(i).Expected, b.LossAt(i).Expected, 6);
            },
            iter: 30);

    [Fact]
    public void Two_peaks_are_no_curve_of_one_and_the_dip_alone_decides()
    {
        Assert.True(ScoreCurve.HasOnePeak([0, 1, 3, 4, 3.9, 2]));
        Assert.True(ScoreCurve.HasOnePeak([4, 3, 2]));
        Assert.True(ScoreCurve.HasOnePeak([3, 3.1, 3, 3.1]));
        Assert.False(ScoreCurve.HasOnePeak([3, 2, 3]));
        Assert.False(Of([4, 0, 4, 0, 4], 0.1).OnePeak);
        Assert.True(Of([1, 2, 4, 3, 2], 0.3).OnePeak);
    }

    /// <summary>A hidden curve: a bump, a rise to a plateau, a cliff after it, or nearly flat.</summary>
    private static Func<double, double> Truth(MersenneTwister random)
    {
        double U(double a, double b) => a + (b - a) * random.NextDouble();
        var (top, at, width, kind) = (U(2.5, 4), U(0.1, 0.9), U(0.15, 0.8), random.Next(4));
        return kind switch
        {
            0 => x => top * Math.Exp(-0.5 * Math.Pow((x - at) / width, 2)),
            1 => x => top * (1 - Math.Exp(-x / (0.3 * width))),
            2 => x => top * (1 - Math.Exp(-x / (0.3 * width))) * (1 - 0.6 * Math.Pow(x, 3)),
            _ => x => top - 0.3 * x * width,
        };
    }

    [Theory]
    [InlineData(7, 0.35)]
    [InlineData(9, 0.2)]
    [InlineData(7, 1.0)]
    public void The_loss_holds_the_truth_as_often_as_it_says_and_the_promised_gain_comes(int count, double se)
    {
        const int Truths = 200;
        var random = new MersenneTwister(11);
        var (held, promised, came, expected, lost) = (0, 0.0, 0.0, 0.0, 0.0);
        for (var t = 0; t < Truths; t++)
        {
            var truth = Truth(random);
            var x = Enumerable.Range(0, count).Select(i => i / (count - 1.0)).ToArray();
            double[] Read() => [.. x.Select(v => Math.Clamp(truth(v) + Normal.Sample(random, 0, se), 0, 4))];
            var all = Enumerable.Range(0, count).ToList();
            var first = Read();
            var curve = ScoreCurve.Through([.. x.Select((v, i) => new ScoredPlace(v, ScoreCurve.Behind(first[i], se), se))], x, t + 1);
            var chosen = curve.Least(all);
            var best = x.Max(truth);
            var (loss, real) = (curve.LossAt(chosen), best - truth(x[chosen]));
            held += real <= loss.P95 + 1e-9 ? 1 : 0;
            (expected, lost) = (expected + loss.Expected, lost + real);
            promised += curve.GainOf(all, se, all);
            var second = Read();
            double Both(int i) => (ScoreCurve.Behind(first[i], se) + ScoreCurve.Behind(second[i], se)) / 2;
            var both = ScoreCurve.Through([.. x.Select((v, i) => new ScoredPlace(v, Both(i), se / Math.Sqrt(2)))], x, t + 1);
            came += truth(x[both.Least(all)]) - truth(x[chosen]);
        }

        Assert.InRange(held / (double)Truths, 0.92, 0.985);
        Assert.True(lost / Truths <= expected / Truths + 0.03, $"lost {lost / Truths}, expected {expected / Truths}");
        Assert.True(Math.Abs(promised - came) / Truths < 0.04, $"promised {promised / Truths}, came {came / Truths}");
    }
}
