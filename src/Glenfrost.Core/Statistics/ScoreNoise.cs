using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Statistics;

/// <summary>How far a person's score of one thing strays from another score of the same thing.</summary>
/// <param name="Sd">Standard deviation of one score, in scores.</param>
/// <param name="Low">Lower end of its 95 % interval.</param>
/// <param name="High">Upper end of its 95 % interval.</param>
/// <param name="Pairs">Things scored twice.</param>
/// <param name="Same">How many got the same score.</param>
/// <param name="OneApart">How many moved by one score.</param>
/// <param name="Shift">Mean of later minus first score: being stricter throughout is no noise.</param>
public sealed record ScoreNoise(double Sd, double Low, double High, int Pairs, int Same, int OneApart, double Shift)
{
    /// <summary>Standard deviation taken until a person has scored anything twice, in scores.</summary>
    public const double Default = 0.5;

    /// <summary>Whole scores can't show less than their own rounding, 1/√12.</summary>
    public static readonly double Least = 1 / Math.Sqrt(12);

    /// <summary>Most that is believed, in scores.</summary>
    public const double Most = 2;

    /// <summary>How many pairs the default counts as: a few pairs move it little, thirty settle it.</summary>
    private const double PriorPairs = 8;

    /// <summary>Nothing scored twice yet.</summary>
    public static ScoreNoise Unlearned { get; } = Learn([]);

    /// <summary>
    /// Learns from scores given twice. Within a sitting the difference of two scores of the same thing has twice the variance of one; its mean is
    /// taken out, so that a stricter day does not count as noise. The variances of all sittings are pooled with a scaled inverse chi-square prior
    /// around <see cref="Default"/> (Gelman et al., Bayesian Data Analysis, § 2.6).
    /// </summary>
    /// <param name="sittings">Per sitting its pairs of first and later score, 0–4.</param>
    public static ScoreNoise Learn(IEnumerable<IReadOnlyList<(double First, double Again)>> sittings)
    {
        double sum = PriorPairs * Default * Default, freedom = PriorPairs, shift = 0;
        int pairs = 0, same = 0, one = 0;
        foreach (var sitting in sittings.Where(s => s.Count > 0))
        {
            var differences = sitting.Select(p => p.Again - p.First).ToList();
            var mean = differences.Average();
            sum += differences.Sum(d => (d - mean) * (d - mean)) / 2;
            freedom += differences.Count - 1;
            pairs += differences.Count;
            same += differences.Count(d => d == 0);
            one += differences.Count(d => Math.Abs(d) == 1);
            shift += differences.Sum();
        }

        var chi = new ChiSquared(freedom);
        return new(
            Bound(Math.Sqrt(sum / freedom)), Bound(Math.Sqrt(sum / chi.InverseCumulativeDistribution(0.975))),
            Bound(Math.Sqrt(sum / chi.InverseCumulativeDistribution(0.025))), pairs, same, one, pairs == 0 ? 0 : shift / pairs);
    }

    /// <summary>How much steadier scores of one kind of sitting are than those of another.</summary>
    /// <param name="Sd">Standard deviation of one score in sittings of the kind, without the default.</param>
    /// <param name="Other">The same in the others.</param>
    /// <param name="Pairs">Pairs of the kind.</param>
    /// <param name="OtherPairs">Pairs of the others.</param>
    /// <param name="Low">Lower end of the 95 % interval of <paramref name="Sd"/> over <paramref name="Other"/>.</param>
    /// <param name="High">Its upper end.</param>
    public sealed record Comparison(double Sd, double Other, int Pairs, int OtherPairs, double Low, double High)
    {
        /// <summary>True where the interval leaves out that both are alike.</summary>
        public bool Told => High < 1 || Low > 1;
    }

    /// <summary>
    /// Sets sittings of one kind beside others: the ratio of their variances follows an F distribution with the freedom of each. Null where either has fewer
    /// than <see cref="LeastPairs"/> pairs. Rounding to whole scores counts as 1/√12 on either side, so that two steady kinds are not called apart by it.
    /// </summary>
    public static Comparison? Compare(
        IEnumerable<IReadOnlyList<(double First, double Again)>> kind, IEnumerable<IReadOnlyList<(double First, double Again)>> others)
    {
        var (a, b) = (Variance(kind), Variance(others));
        if (a.Pairs < LeastPairs || b.Pairs < LeastPairs)
            return null;
        var (va, vb) = (Math.Max(a.Variance, Least * Least), Math.Max(b.Variance, Least * Least));
        var f = new FisherSnedecor(a.Freedom, b.Freedom);
        return new(
            Math.Sqrt(va), Math.Sqrt(vb), a.Pairs, b.Pairs, Math.Sqrt(va / vb / f.InverseCumulativeDistribution(0.975)),
            Math.Sqrt(va / vb / f.InverseCumulativeDistribution(0.025)));
    }

    /// <summary>Fewer pairs on either side tell nothing.</summary>
    public const int LeastPairs = 10;

    private static (double Variance, double Freedom, int Pairs) Variance(IEnumerable<IReadOnlyList<(double First, double Again)>> sittings)
    {
        double sum = 0, freedom = 0;
        var pairs = 0;
        foreach (var sitting in sittings.Where(s => s.Count > 1))
        {
            var differences = sitting.Select(p => p.Again - p.First).ToList();
            var mean = differences.Average();
            sum += differences.Sum(d => (d - mean) * (d - mean)) / 2;
            freedom += differences.Count - 1;
            pairs += differences.Count;
        }

        return (freedom > 0 ? sum / freedom : 0, freedom, pairs);
    }

    /// <summary>Noise of a table that several people scored: their variances weighed by how many scores each gave.</summary>
    public static double Together(IEnumerable<(double Sd, int Scores)> people)
    {
        double sum = 0;
        var n = 0;
        foreach (var (sd, scores) in people)
        {
            sum += sd * sd * scores;
            n += scores;
        }

        return n == 0 ? Default : Math.Sqrt(sum / n);
    }

    private static double Bound(double sd) => Math.Clamp(sd, Least, Most);
}
