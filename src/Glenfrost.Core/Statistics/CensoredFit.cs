using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;

namespace Glenfrost.Core.Statistics;

/// <summary>A value, or a bound below it.</summary>
/// <param name="Y">The value, or what it is at least.</param>
/// <param name="AtLeast">True for a bound.</param>
public readonly record struct BoundedValue(double Y, bool AtLeast);

/// <summary>
/// A linear model with normal scatter where some values are known as "at least this" only: maximum likelihood by the EM algorithm (Aitkin 1981), its scatter
/// corrected for the degrees of freedom that the coefficients take (uncorrected it is 0.87 of the truth at eight groups of four).
/// </summary>
/// <param name="Coefficients">In the order of the design's columns.</param>
/// <param name="Scatter">Standard deviation of one value, corrected.</param>
/// <param name="Freedom">Values that are no bounds, less the coefficients; at least 1.</param>
/// <param name="Covariance">Of the coefficients, with the corrected scatter in it.</param>
public sealed record CensoredFit(Vector<double> Coefficients, double Scatter, double Freedom, Matrix<double> Covariance)
{
    private const int MostTurns = 500;

    /// <summary>Fits. Null where the values that are no bounds are not more than the columns, or the columns say the same twice.</summary>
    /// <param name="design">A row for each value.</param>
    /// <param name="values">As many as rows.</param>
    public static CensoredFit? Of(Matrix<double> design, IReadOnlyList<BoundedValue> values)
    {
        var known = values.Count(v => !v.AtLeast);
        if (known <= design.ColumnCount || design.Rank() < design.ColumnCount)
            return null;
        var y = Vector<double>.Build.DenseOfEnumerable(values.Select(v => v.Y));
        var solve = (design.TransposeThisAndMultiply(design)).Cholesky();
        Vector<double> Fit(Vector<double> wanted) => solve.Solve(design.TransposeThisAndMultiply(wanted));
        var b = Fit(y);
        var sigma = Math.Max(1e-6, Math.Sqrt((y - design * b).PointwisePower(2).Sum() / values.Count));
        for (var turn = 0; turn < MostTurns; turn++)
        {
            var mean = design * b;
            var filled = y.Clone();
            var extra = 0.0;
            for (var i = 0; i < values.Count; i++)
            {
                if (!values[i].AtLeast)
                    continue;
                var z = (values[i].Y - mean[i]) / sigma;
                var h = Hazard(z);
                filled[i] = mean[i] + sigma * h;
                extra += sigma * sigma * Math.Max(0, 1 + z * h - h * h);
            }

            var next = Fit(filled);
            var scatter = Math.Max(1e-6, Math.Sqrt(((filled - design * next).PointwisePower(2).Sum() + extra) / values.Count));
            var moved = Math.Max((next - b).AbsoluteMaximum(), Math.Abs(scatter - sigma));
            (b, sigma) = (next, scatter);
            if (moved < 1e-9)
                break;
        }

        var freedom = known - design.ColumnCount;
        // Bounds say part of what values say: the scatter's correction counts them by that part.
        var fitted = design * b;
        var weights = values.Select((v, i) => v.AtLeast ? Math.Clamp(Weight((v.Y - fitted[i]) / sigma), 0, 1) : 1).ToArray();
        var all = weights.Sum();
        sigma *= Math.Sqrt(all / Math.Max(1, all - design.ColumnCount));
        var information = design.TransposeThisAndMultiply(Matrix<double>.Build.DenseOfDiagonalArray(weights) * design);
        return new(b, sigma, Math.Max(1, freedom), information.Inverse() * (sigma * sigma));
    }

    /// <summary>Least mean that bounds alone leave likely, by a one-sided 95 % likelihood bound.</summary>
    /// <param name="bounds">What each value is at least.</param>
    /// <param name="scatter">Standard deviation of one value.</param>
    public static double LeastMean(IReadOnlyList<double> bounds, double scatter)
    {
        // The likelihood of bounds rises with the mean up to 1: the bound is where its logarithm has fallen by half of χ²'s 90 % point.
        const double Fall = 1.3528;
        double Log(double mean) => bounds.Sum(y => Math.Log(Math.Max(1e-300, 1 - Normal.CDF(0, 1, (y - mean) / scatter))));
        var (low, high) = (bounds.Min() - 8 * scatter, bounds.Max() + 8 * scatter);
        for (var i = 0; i < 80; i++)
        {
            var middle = (low + high) / 2;
            (low, high) = Log(middle) < -Fall ? (middle, high) : (low, middle);
        }

        return high;
    }

    /// <summary>φ over the upper tail of Φ.</summary>
    private static double Hazard(double z) => z > 30 ? z + 1 / z : Normal.PDF(0, 1, z) / Math.Max(1e-300, 1 - Normal.CDF(0, 1, z));

    private static double Weight(double z) => Hazard(z) * (Hazard(z) - z);
}
