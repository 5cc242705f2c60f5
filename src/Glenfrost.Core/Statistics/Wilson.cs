using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Statistics;

/// <summary>
/// Wilson's interval of a share (E. B. Wilson, Probable inference, the law of succession, and statistical inference, 1927): it holds at few prints, too, and
/// never leaves 0 to 1.
/// </summary>
public static class Wilson
{
    private static readonly double Z = Normal.InvCDF(0, 1, 0.975);

    /// <summary>The 95 % interval of the share that so many of all were.</summary>
    /// <param name="counted">Those that count, 0 to <paramref name="of"/>.</param>
    /// <param name="of">All, at least 1.</param>
    /// <returns>Lower and upper end, 0–1.</returns>
    /// <exception cref="ArgumentOutOfRangeException">There is none, or more count than there are.</exception>
    public static (double Low, double High) Interval(int counted, int of)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(of, 1);
        ArgumentOutOfRangeException.ThrowIfNegative(counted);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(counted, of);
        var (p, n, z2) = ((double)counted / of, (double)of, Z * Z);
        var (middle, half) = (p + z2 / (2 * n), Z * Math.Sqrt(p * (1 - p) / n + z2 / (4 * n * n)));
        // At the ends the formula gives 0 and 1 but for rounding.
        return (counted == 0 ? 0 : (middle - half) / (1 + z2 / n), counted == of ? 1 : (middle + half) / (1 + z2 / n));
    }
}
