using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Equipment;

/// <summary>A whole print: what its file foresaw and what it took, minutes.</summary>
public readonly record struct PrintTimes(double ForeseenMinutes, double ActualMinutes);

/// <summary>
/// How much longer a printer takes than its files foresee, learned from its own prints. Ratios are averaged as logarithms, with one print at 1 put beside
/// them, so that a single print moves the estimate half way only.
/// </summary>
/// <param name="Ratio">Actual over foreseen for the next print.</param>
/// <param name="Spread">95 % of next prints lie within a factor of 1 ± this.</param>
/// <param name="Prints">Prints that it was learned from.</param>
public sealed record PrinterPace(double Ratio, double Spread, int Prints)
{
    /// <summary>What is taken while nothing is known: as foreseen, within a fifth.</summary>
    public static PrinterPace Unknown { get; } = new(1, 0.2, 0);

    private const double LeastScatter = 0.02;

    /// <summary>Learns from whole prints of one printer in one world; times beyond half and double are taken for slips.</summary>
    public static PrinterPace Learn(IEnumerable<PrintTimes> prints)
    {
        var logs = prints.Where(p => p is { ForeseenMinutes: > 0, ActualMinutes: > 0 }).Select(p => Math.Log(p.ActualMinutes / p.ForeseenMinutes))
            .Where(l => Math.Abs(l) <= Math.Log(2)).ToList();
        if (logs.Count == 0)
            return Unknown;
        var mean = logs.Sum() / (logs.Count + 1);
        // About the shrunken mean, and the print at 1 counts as a deviation too: few prints leave a wide interval.
        var s = Math.Max(LeastScatter, Math.Sqrt((logs.Sum(l => (l - mean) * (l - mean)) + mean * mean) / logs.Count));
        var t = StudentT.InvCDF(0, 1, logs.Count, 0.975);
        return new(Math.Exp(mean), Math.Min(Unknown.Spread, Math.Exp(t * s * Math.Sqrt(1 + 1.0 / (logs.Count + 1))) - 1), logs.Count);
    }

    /// <summary>What a print is likely to take here.</summary>
    /// <param name="foreseen">By its file; any unit of time.</param>
    public double Of(double foreseen) => foreseen * Ratio;

    /// <summary>A print that is under way: what its remainder is likely to take, given how it went so far.</summary>
    /// <param name="foreseen">By its file, s.</param>
    /// <param name="foreseenSoFar">Of it what is printed by now, s.</param>
    /// <param name="elapsed">What that took, s.</param>
    /// <returns>All of the print, s.</returns>
    public double Reestimate(double foreseen, double foreseenSoFar, double elapsed)
    {
        if (foreseenSoFar <= 0 || foreseen <= 0)
            return Of(foreseen);
        // The further it is, the more its own pace counts.
        var share = Math.Clamp(foreseenSoFar / foreseen, 0, 1);
        var own = elapsed / foreseenSoFar;
        return elapsed + (foreseen - Math.Min(foreseen, foreseenSoFar)) * (share * own + (1 - share) * Ratio);
    }
}
