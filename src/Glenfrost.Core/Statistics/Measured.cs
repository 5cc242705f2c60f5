using MathNet.Numerics.Distributions;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Statistics;

/// <summary>
/// What repeated measurements of one thing say. Scatter and the instrument's step are both counted: u² = s²/n + r²/12, the second part not divided by n,
/// since a step does not average out (GUM, type A and type B parts together). The 95 % interval is Student's t with the effective degrees of freedom of
/// Welch and Satterthwaite.
/// </summary>
/// <param name="Count">Values.</param>
/// <param name="Mean">In their unit; NaN where there is none.</param>
/// <param name="Sd">Standard deviation of one value; 0 for a single one.</param>
/// <param name="StandardError">u of the mean; infinite for a single value, whose scatter nobody knows.</param>
/// <param name="HalfWidth">Half of the 95 % interval; infinite for a single value.</param>
/// <param name="Outliers">One mark a value: more than 3.5 scaled median absolute deviations away. Marked, never dropped.</param>
public sealed record Measured(int Count, double Mean, double Sd, double StandardError, double HalfWidth, IReadOnlyList<bool> Outliers)
{
    /// <summary>From how many values on outliers are looked for.</summary>
    public const int OutliersFrom = 5;

    private const double Confidence = 0.975;

    /// <summary>Lower end of the 95 % interval.</summary>
    public double Low => Mean - HalfWidth;

    /// <summary>Upper end of the 95 % interval.</summary>
    public double High => Mean + HalfWidth;

    /// <summary>Summarises values.</summary>
    /// <param name="values">In one unit.</param>
    /// <param name="resolution">Smallest step of the instrument, same unit; 0 or more.</param>
    public static Measured Of(IReadOnlyList<double> values, double resolution)
    {
        if (values.Count == 0)
            return new(0, double.NaN, 0, double.PositiveInfinity, double.PositiveInfinity, []);
        if (values.Count == 1)
            return new(1, values[0], 0, double.PositiveInfinity, double.PositiveInfinity, [false]);
        var s = values.StandardDeviation();
        var (a, b) = (s * s / values.Count, resolution * resolution / 12);
        var u = Math.Sqrt(a + b);
        // All scatter, or none: at most a million, which is as good as a normal distribution.
        var freedom = a <= 0 ? 1e6 : Math.Min(1e6, (a + b) * (a + b) / (a * a / (values.Count - 1)));
        return new(values.Count, values.Mean(), s, u, u <= 0 ? 0 : u * StudentT.InvCDF(0, 1, freedom, Confidence), Mark(values, resolution));
    }

    /// <summary>
    /// How many values like these are needed until the 95 % interval is at most as wide as asked; at most 99. Null where the instrument's step alone is
    /// too coarse.
    /// </summary>
    /// <param name="halfWidth">Asked half width.</param>
    /// <param name="resolution">Smallest step of the instrument.</param>
    public int? NeededFor(double halfWidth, double resolution)
    {
        for (var n = Math.Max(2, Count); n <= 99; n++)
        {
            var (a, b) = (Sd * Sd / n, resolution * resolution / 12);
            var freedom = a <= 0 ? 1e6 : Math.Min(1e6, (a + b) * (a + b) / (a * a / (n - 1)));
            if (Math.Sqrt(a + b) * StudentT.InvCDF(0, 1, freedom, Confidence) <= halfWidth)
                return n;
        }

        return null;
    }

    private static bool[] Mark(IReadOnlyList<double> values, double resolution)
    {
        if (values.Count < OutliersFrom)
            return new bool[values.Count];
        var median = values.Median();
        // 1.4826 makes the median absolute deviation a standard deviation where values scatter normally.
        var mad = Math.Max(resolution, 1.4826 * values.Select(v => Math.Abs(v - median)).Median());
        return [.. values.Select(v => Math.Abs(v - median) > 3.5 * mad + 1e-12)];
    }
}
