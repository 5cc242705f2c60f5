using MathNet.Numerics;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Integration;
using MathNet.Numerics.Interpolation;
using MathNet.Numerics.RootFinding;

namespace Glenfrost.Core.Statistics;

/// <summary>
/// The range of several means that are truly equal, in units of their standard error: what the greatest of all differences may be by chance alone. A difference
/// against the best that was seen is held against it, since the best was chosen after the fact (Tukey 1953).
/// </summary>
public static class StudentisedRange
{
    private const int Order = 32;

    /// <summary>Beyond it a known scatter leaves nothing, and the table ends.</summary>
    private const double Most = 16, Step = 0.1;

    /// <summary>Share of ranges below <paramref name="q"/> among <paramref name="groups"/> equal means.</summary>
    /// <param name="q">Range over the standard error of one mean; 0 or more.</param>
    /// <param name="groups">From 2.</param>
    /// <param name="freedom">Degrees of freedom of the scatter; from 1, infinite where it is known.</param>
    public static double Below(double q, int groups, double freedom) => Distribution(groups, freedom)(q);

    /// <summary>The range that only a share <paramref name="beyond"/> of equal groups goes beyond.</summary>
    /// <param name="beyond">0.05 is usual.</param>
    /// <param name="groups">From 2.</param>
    /// <param name="freedom">Degrees of freedom of the scatter, from 1.</param>
    public static double Critical(double beyond, int groups, double freedom)
    {
        var below = Distribution(groups, freedom);
        return Brent.FindRoot(q => below(q) - (1 - beyond), 0.01, freedom < 2 ? 400 : 60, 1e-7, 200);
    }

    private static Func<double, double> Distribution(int groups, double freedom)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(groups, 2);
        ArgumentOutOfRangeException.ThrowIfLessThan(freedom, 1);
        // Where the scatter is known: k ∫ φ(z) (Φ(z) − Φ(z − q))^(k−1) dz, once for every q that is asked for, and smooth between.
        var at = Generate.LinearRange(0, Step, Most);
        var known = CubicSpline.InterpolateNaturalSorted(at, [.. at.Select(q => Known(q, groups))]);
        double Of(double q) => q <= 0 ? 0 : q >= Most ? 1 : Math.Clamp(known.Interpolate(q), 0, 1);
        if (freedom > 5000)
            return Of;
        // s²·ν is χ² with ν degrees of freedom: the range is weighed over what the scatter may have been.
        var scatter = new ChiSquared(freedom);
        var (from, to) = (Math.Sqrt(scatter.InverseCumulativeDistribution(1e-10) / freedom), Math.Sqrt(scatter.InverseCumulativeDistribution(1
            - 1e-10) / freedom));
        return q => q <= 0 ? 0 : Math.Clamp(Pieces(s => 2 * freedom * s * scatter.Density(freedom * s * s) * Of(q * s), from, to, 4), 0, 1);
    }

    private static double Known(double q, int groups) =>
        groups * Pieces(
            z => Normal.PDF(0, 1, z) * Math.Pow(Math.Max(0, Normal.CDF(0, 1, z) - Normal.CDF(0, 1, z - q)), groups - 1), -8, 8, 2);

    private static double Pieces(Func<double, double> f, double from, double to, int pieces) =>
        Enumerable.Range(0, pieces).Sum(i => GaussLegendreRule.Integrate(f, from + (to - from) * i / pieces, from + (to - from) * (i + 1) / pieces, Order));
}
