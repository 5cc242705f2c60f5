using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Statistics;

/// <summary>A point of a control chart.</summary>
/// <param name="At">When, UTC.</param>
/// <param name="Value">In its unit.</param>
/// <param name="Outside">True where it lies beyond the limits of what was before it; null where too little was.</param>
public sealed record ControlPoint(DateTime At, double Value, bool? Outside);

/// <summary>
/// A chart of single values with the limits of its own history: mean ± 2.66 mean moving ranges, which is three standard deviations of what comes and goes by
/// itself (Shewhart 1931; ISO 7870-2); wider while few points tell little of it, so that the next one lies within in 99 of 100 (Student 1908, with 0.62
/// degrees of freedom a range). Each point is asked against those before it, so that a change is never part of the limits that it is held to.
/// </summary>
/// <param name="Points">The oldest first.</param>
/// <param name="Mean">Of the points within their limits; null for fewer than <see cref="Fewest"/>.</param>
/// <param name="Low">Lower limit for the next point.</param>
/// <param name="High">Upper limit.</param>
public sealed record ControlChart(IReadOnlyList<ControlPoint> Points, double? Mean, double? Low, double? High)
{
    /// <summary>Points that limits need: fewer tell no scatter.</summary>
    public const int Fewest = 4;

    private const double PerRange = 2.66;

    // Mean range of two values of a normal distribution, in its standard deviations.
    private const double RangeOfOne = 1.128;

    /// <summary>Draws one.</summary>
    /// <param name="values">In any order.</param>
    /// <param name="step">Smallest step of what reads it, in its unit: values that happen to agree scatter no less than that allows.</param>
    public static ControlChart Of(IEnumerable<(DateTime At, double Value)> values, double step)
    {
        var (points, inside) = (new List<ControlPoint>(), new List<double>());
        foreach (var (at, value) in values.OrderBy(v => v.At))
        {
            var limits = Limits(inside, step);
            bool? outside = limits is var (low, high) ? value < low || value > high : null;
            points.Add(new(at, value, outside));
            if (outside is not true)
                inside.Add(value);
        }

        return Limits(inside, step) is var (l, h) ? new(points, inside.Average(), l, h) : new(points, null, null, null);
    }

    private static (double Low, double High)? Limits(List<double> inside, double step)
    {
        if (inside.Count < Fewest)
            return null;
        var range = inside.Zip(inside.Skip(1), (a, b) => Math.Abs(a - b)).Average();
        // Two readings of one thing differ by a third of a step on the average when nothing differs but the rounding.
        var n = inside.Count;
        var known = StudentT.InvCDF(0, 1, 0.62 * (n - 1), 0.995) * Math.Sqrt(1 + 1.0 / n) / RangeOfOne;
        var half = Math.Max(PerRange, known) * Math.Max(range, step / 3);
        var mean = inside.Average();
        return (mean - half, mean + half);
    }
}
