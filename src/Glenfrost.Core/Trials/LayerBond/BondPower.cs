using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>What a rig can see before anything is printed. Scatter is the standard deviation of log force, as a share.</summary>
public static class BondPower
{
    private const double Beyond = 0.05, Power = 0.8;

    /// <summary>Most pegs a group that are proposed.</summary>
    public const int MostPieces = 60;

    /// <summary>Difference of a planned pair that is shown in 80 of 100 runs, %.</summary>
    /// <param name="scatter">Of one peg, as a share.</param>
    /// <param name="each">Pegs a group.</param>
    /// <param name="freedom">Degrees of freedom of the pooled scatter, from 1.</param>
    public static double PairPercent(double scatter, double each, double freedom)
    {
        var t = new StudentT(0, 1, Math.Max(1, freedom));
        return Percent((t.InverseCumulativeDistribution(1 - Beyond / 2) + t.InverseCumulativeDistribution(Power)) * scatter * Math.Sqrt(2 / each));
    }

    /// <summary>Difference of any of several groups against the best that was seen, shown in 80 of 100 runs, %.</summary>
    /// <param name="scatter">Of one peg, as a share.</param>
    /// <param name="each">Pegs a group.</param>
    /// <param name="groups">From 2.</param>
    /// <param name="freedom">Degrees of freedom of the pooled scatter, from 1.</param>
    public static double AnyPercent(double scatter, double each, int groups, double freedom)
    {
        var t = new StudentT(0, 1, Math.Max(1, freedom));
        var range = StudentisedRange.Critical(Beyond, groups, Math.Max(1, freedom)) / Math.Sqrt(2);
        return Percent((range + t.InverseCumulativeDistribution(Power)) * scatter * Math.Sqrt(2 / each));
    }

    /// <summary>Least pegs a group that show a planned pair's difference; null where more than <see cref="MostPieces"/> would be needed.</summary>
    /// <param name="percent">The difference, %.</param>
    /// <param name="scatter">Of one peg, as a share.</param>
    /// <param name="groups">Groups that the scatter is pooled over.</param>
    public static int? Needed(double percent, double scatter, int groups)
    {
        for (var n = 3; n <= MostPieces; n++)
        {
            if (PairPercent(scatter, n, groups * (n - 1)) <= percent)
                return n;
        }

        return null;
    }

    internal static double Percent(double log) => 100 * (Math.Exp(log) - 1);
}
