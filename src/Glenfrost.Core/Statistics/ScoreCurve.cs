using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Statistics;

/// <summary>A value of a factor as it was scored.</summary>
/// <param name="At">The value, any unit.</param>
/// <param name="Mean">Mean of its scores, 0–4; those at an end of the scale by <see cref="ScoreCurve.Behind"/>.</param>
/// <param name="StandardError">Of that mean, scores, above 0.</param>
public readonly record struct ScoredPlace(double At, double Mean, double StandardError);

/// <summary>How far a choice lies behind the best there is, in scores.</summary>
/// <param name="Expected">On the average.</param>
/// <param name="P95">At most so much in 19 of 20.</param>
public sealed record ScoreLoss(double Expected, double P95);

/// <summary>
/// What scores say of the curve behind them: a smooth curve with one peak, as a cloud of curves that might be the true one. A Gaussian process (Rasmussen and
/// Williams 2006, ch. 2 and 5) with a Matérn 3/2 covariance; how much and how fast the curve moves is not chosen but weighed over a grid by how likely each
/// makes the readings; curves with two peaks are left out. Losses come from those curves and not from readings drawn anew: that would count the noise twice.
/// </summary>
public sealed class ScoreCurve
{
    /// <summary>Curves that are drawn.</summary>
    public const int Draws = 2000;

    /// <summary>A dip between two peaks up to this, in scores, is no second peak.</summary>
    public const double Dip = 0.15;

    private const double Top = 4, Level = 2.5, LevelSd = 1.5;

    /// <summary>Fewer curves with one peak than this, and the readings contradict it: then all curves count.</summary>
    private const int LeastCurves = 100;

    private static readonly double[] Heights = [0.05, 0.3, 0.8, 1.5, 2.5], Lengths = [0.12, 0.25, 0.5, 1, 2];

    private readonly double[][] curves;
    private readonly double[] best;

    private ScoreCurve(IReadOnlyList<double> at, double[][] curves, bool onePeak)
    {
        (At, this.curves, OnePeak) = (at, curves, onePeak);
        best = [.. curves.Select(c => c.Max())];
        Mean = [.. Enumerable.Range(0, at.Count).Select(i => curves.Average(c => c[i]))];
    }

    /// <summary>Values at which the curve is known.</summary>
    public IReadOnlyList<double> At { get; }

    /// <summary>The curve itself, scores: the mean of all that might be true.</summary>
    public IReadOnlyList<double> Mean { get; }

    /// <summary>False where hardly any curve with one peak goes through the readings.</summary>
    public bool OnePeak { get; }

    /// <summary>Lays the curve through readings.</summary>
    /// <param name="read">Values with their scores; at least one. Equal values are put together before.</param>
    /// <param name="at">Values at which it is asked, in order.</param>
    /// <param name="seed">Fixes the draws.</param>
    /// <exception cref="ArgumentException">Nothing was read, or a standard error is not above 0.</exception>
    public static ScoreCurve Through(IReadOnlyList<ScoredPlace> read, IReadOnlyList<double> at, int seed = 1)
    {
        if (read.Count == 0 || at.Count == 0 || read.Any(p => !(p.StandardError > 0)))
            throw new ArgumentException("At least one reading with a standard error above 0 is needed.", nameof(read));
        var (low, high) = (Math.Min(at.Min(), read.Min(p => p.At)), Math.Max(at.Max(), read.Max(p => p.At)));
        var range = high > low ? high - low : 1;
        var x = read.Select(p => (p.At - low) / range).ToArray();
        var g = at.Select(a => (a - low) / range).ToArray();
        var y = Vector<double>.Build.Dense(read.Count, i => read[i].Mean - Level);
        var noise = Matrix<double>.Build.DenseOfDiagonalArray([.. read.Select(p => p.StandardError * p.StandardError)]);
        var models = (from height in Heights from length in Lengths select Model(height, length)).ToList();
        var most = models.Max(m => m.Likelihood);
        var weights = models.ConvertAll(m => Math.Exp(m.Likelihood - most));
        var sum = weights.Sum();
        var random = new MersenneTwister(seed, false);
        List<double[]> all = [], one = [];
        foreach (var (model, weight) in models.Zip(weights))
        {
            var n = (int)Math.Round(Draws * weight / sum);
            if (n == 0)
                continue;
            var (mean, root) = model.Posterior();
            var normals = new double[g.Length];
            for (var k = 0; k < n; k++)
            {
                Normal.Samples(random, normals, 0, 1);
                var drawn = (mean + root * Vector<double>.Build.Dense(normals)).Select(f => Math.Clamp(f + Level, 0, Top)).ToArray();
                all.Add(drawn);
                if (HasOnePeak(drawn))
                    one.Add(drawn);
            }
        }

        var onePeak = one.Count >= LeastCurves;
        return new([.. at], [.. onePeak ? one : all], onePeak);

        (double Likelihood, Func<(Vector<double> Mean, Matrix<double> Root)> Posterior) Model(double height, double length)
        {
            Matrix<double> K(double[] a, double[] b) =>
                Matrix<double>.Build.Dense(a.Length, b.Length, (i, j) => LevelSd * LevelSd + height * height * Matern(Math.Abs(a[i] - b[j]) / length));
            var chol = (K(x, x) + noise).Cholesky();
            var alpha = chol.Solve(y);
            return (-0.5 * (y * alpha) - 0.5 * chol.DeterminantLn, () =>
            {
                var across = K(x, g);
                var mean = across.TransposeThisAndMultiply(alpha);
                var cov = K(g, g) - across.TransposeThisAndMultiply(chol.Solve(across));
                var jitter = Matrix<double>.Build.DenseDiagonal(g.Length, g.Length, 1e-6);
                return (mean, (0.5 * (cov + cov.Transpose()) + jitter).Cholesky().Factor);
            }
            );
        }
    }

    /// <summary>Combines curves of several aspects, drawn at the same values, into one by how they are weighed together.</summary>
    /// <param name="aspects">One curve for each aspect.</param>
    /// <param name="together">From a score for each aspect to one of 0–4.</param>
    /// <exception cref="ArgumentException">No aspect, or curves over other values.</exception>
    public static ScoreCurve Together(IReadOnlyList<ScoreCurve> aspects, Func<IReadOnlyList<double>, double> together)
    {
        if (aspects.Count == 0 || aspects.Any(a => !a.At.SequenceEqual(aspects[0].At)))
            throw new ArgumentException("Curves over the same values are needed.", nameof(aspects));
        var n = aspects.Min(a => a.curves.Length);
        var scores = new double[aspects.Count];
        var curves = new double[n][];
        // Curves lie in the order of the models that made them: spread evenly, each aspect's in an order of its own.
        var orders = aspects.Select((a, i) => new MersenneTwister(i + 1, false).NextInt32s(n, 0, a.curves.Length)).ToArray();
        for (var k = 0; k < n; k++)
        {
            curves[k] = new double[aspects[0].At.Count];
            for (var p = 0; p < curves[k].Length; p++)
            {
                for (var a = 0; a < scores.Length; a++)
                    scores[a] = aspects[a].curves[orders[a][k]][p];
                curves[k][p] = together(scores);
            }
        }

        return new(aspects[0].At, curves, aspects.All(a => a.OnePeak));
    }

    /// <summary>Curves that know nothing of each other as one choice: the places of the first, then those of the next.</summary>
    /// <param name="rows">At least one.</param>
    /// <exception cref="ArgumentException">No curve.</exception>
    public static ScoreCurve SideBySide(IReadOnlyList<ScoreCurve> rows)
    {
        if (rows.Count == 0)
            throw new ArgumentException("At least one curve is needed.", nameof(rows));
        if (rows.Count == 1)
            return rows[0];
        var n = rows.Min(r => r.curves.Length);
        var orders = rows.Select((r, i) => new MersenneTwister(i + 1, false).NextInt32s(n, 0, r.curves.Length)).ToArray();
        return new(
            [.. rows.SelectMany(r => r.At)],
            [.. Enumerable.Range(0, n).Select(k => rows.SelectMany((r, i) => r.curves[orders[i][k]]).ToArray())], rows.All(r => r.OnePeak));
    }

    /// <summary>Share of the curves in which one place stands above another, 0–1.</summary>
    public double Above(int place, int other) => curves.Count(c => c[place] > c[other] + 1e-9) / (double)curves.Length;

    /// <summary>What is lost by choosing a value.</summary>
    /// <param name="place">Index into <see cref="At"/>.</param>
    public ScoreLoss LossAt(int place)
    {
        var losses = curves.Select((c, k) => best[k] - c[place]).Order().ToArray();
        var mean = losses.Average();
        // Where hardly any curve loses much, the average may lie beyond the 95 %: less is never promised than is expected.
        return new(mean, Math.Max(mean, losses[(int)Math.Ceiling(0.95 * losses.Length) - 1]));
    }

    /// <summary>Where each curve is highest, the middle of what is as high; one value for each curve.</summary>
    public IReadOnlyList<double> Peaks() => [.. curves.Select((c, k) => Enumerable.Range(0, c.Length).Where(i => c[i] >= best[k] - 1e-9).Average(i => At[i]))];

    /// <summary>Where each curve first comes within a margin of its best, among places in order: the values, one for each curve.</summary>
    /// <param name="among">Indices into <see cref="At"/> in the order of their values; not empty.</param>
    /// <param name="margin">Scores.</param>
    public IReadOnlyList<double> FirstWithin(IReadOnlyList<int> among, double margin) =>
        [.. curves.Select(c => At[among.First(i => c[i] >= among.Max(j => c[j]) - margin - 1e-9)])];

    /// <summary>The value of least expected loss, as an index into <see cref="At"/>.</summary>
    /// <param name="among">Indices that may be chosen; not empty.</param>
    public int Least(IEnumerable<int> among) => among.MinBy(i => -Mean[i]);

    /// <summary>
    /// What further readings would gain on the average, in scores: how much better the choice after them is than today's (expected value of sample
    /// information; Raiffa and Schlaifer 1961), with the curves taken as normally distributed around their mean.
    /// </summary>
    /// <param name="places">Indices into <see cref="At"/> that are read again.</param>
    /// <param name="standardError">Of each new reading, scores, above 0.</param>
    /// <param name="among">Indices that may be chosen.</param>
    public double GainOf(IReadOnlyList<int> places, double standardError, IReadOnlyList<int> among)
    {
        if (places.Count == 0 || among.Count < 2)
            return 0;
        Matrix<double> Cov(IReadOnlyList<int> a, IReadOnlyList<int> b) => Matrix<double>.Build.Dense(
            a.Count, b.Count, (i, j) => curves.Average(c => (c[a[i]] - Mean[a[i]]) * (c[b[j]] - Mean[b[j]])));
        var seen = Cov(places, places) + Matrix<double>.Build.DenseDiagonal(places.Count, places.Count, standardError * standardError);
        var across = Cov(places, among);
        var change = across.TransposeThisAndMultiply(seen.Cholesky().Solve(across));
        var root = (0.5 * (change + change.Transpose()) + Matrix<double>.Build.DenseDiagonal(among.Count, among.Count, 1e-9)).Cholesky().Factor;
        var random = new MersenneTwister(7, false);
        var now = among.Max(i => Mean[i]);
        var normals = new double[among.Count];
        var then = 0.0;
        for (var k = 0; k < Draws; k++)
        {
            Normal.Samples(random, normals, 0, 1);
            var moved = root * Vector<double>.Build.Dense(normals);
            // Mirrored draws in pairs: what is the same for both cancels.
            then += (among.Select((i, j) => Mean[i] + moved[j]).Max() + among.Select((i, j) => Mean[i] - moved[j]).Max()) / 2;
        }

        return Math.Max(0, then / Draws - now);
    }

    /// <summary>
    /// What stands behind a reading at an end of the scale: that and beyond, on the average by the mean of a half-normal distribution, √(2/π) of its
    /// scatter. A row of clean ones is then as clean as it looks, and not each a little worse.
    /// </summary>
    /// <param name="score">0–4.</param>
    /// <param name="sd">Standard deviation of that reading, scores.</param>
    public static double Behind(double score, double sd) =>
        score >= Top ? Top + Math.Sqrt(2 / Math.PI) * sd : score <= 0 ? -Math.Sqrt(2 / Math.PI) * sd : score;

    private static double Matern(double d) => (1 + Math.Sqrt(3) * d) * Math.Exp(-Math.Sqrt(3) * d);

    /// <summary>True where a curve rises to one peak and falls from it, dips of less than <see cref="Dip"/> aside.</summary>
    internal static bool HasOnePeak(IReadOnlyList<double> curve)
    {
        // A second peak is a point that both sides rise above by more than a dip.
        var left = new double[curve.Count];
        for (var i = 0; i < curve.Count; i++)
            left[i] = Math.Max(curve[i], i == 0 ? 0 : left[i - 1]);
        var right = 0.0;
        for (var i = curve.Count - 1; i >= 0; i--)
        {
            right = Math.Max(right, curve[i]);
            if (Math.Min(left[i], right) - curve[i] > Dip)
                return false;
        }

        return true;
    }
}
