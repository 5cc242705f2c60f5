using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.Release;

/// <summary>A bed as it was logged while it cooled.</summary>
/// <param name="Minute">Minutes since it was switched off, or since the log began.</param>
/// <param name="BedC">Bed, °C.</param>
public sealed record LoggedBed(double Minute, double BedC);

/// <summary>
/// A bed's own cooling from a log: an exponential towards the air (Newton's law of cooling), fitted by least squares in °C. What lies within
/// <see cref="AboveAirC"/> of the air says nothing of it and is left out.
/// </summary>
public static class CoolingLog
{
    /// <summary>Entries that a fit needs.</summary>
    public const int Least = 3;

    /// <summary>Entries that are read.</summary>
    public const int Most = 2000;

    /// <summary>So far the bed must fall within the log, °C.</summary>
    public const double LeastFallC = 10;

    /// <summary>So near the air nothing is told, °C.</summary>
    public const double AboveAirC = 2;

    /// <summary>Scatter about the fit beyond which it is no plain cooling, °C.</summary>
    public const double MostScatterC = 2;

    /// <summary>Minutes in which the bed loses all but 1/e of what it is above the air, or why the log says none, at its entry.</summary>
    /// <param name="log">In the order of time.</param>
    /// <param name="airC">Air around the bed, °C.</param>
    public static (double? Minutes, FieldError? Fault) Constant(IReadOnlyList<LoggedBed> log, double airC)
    {
        static (double?, FieldError?) No(string field, string message) => (null, new(field, message));
        if (log.Count is < Least or > Most)
            return No("log", $"{Say.Plural(log.Count, "entry", "entries")}: {Least} to {Most} would be right.");
        for (var i = 0; i < log.Count; i++)
        {
            if (!(log[i].Minute is >= 0 and <= 1500))
                return No($"log[{i}].minute", $"{Say.N(log[i].Minute)} is outside 0 to 1500 minutes.");
            if (!(log[i].BedC is >= 0 and <= 160))
                return No($"log[{i}].bedC", $"{Say.N(log[i].BedC)} °C is no bed: 0 to 160 would be right.");
            if (i > 0 && log[i].Minute <= log[i - 1].Minute)
                return No($"log[{i}].minute", $"{Say.N(log[i].Minute)} min does not come after {Say.N(log[i - 1].Minute)}: entries in the order of time would be right.");
            if (i > 0 && log[i].BedC > log[i - 1].BedC + MostScatterC)
                return No($"log[{i}].bedC", $"The bed rises to {Say.N(log[i].BedC)} °C: it was heated there. A log of a bed that is left to itself would be right.");
        }

        var told = log.Where(x => x.BedC > airC + AboveAirC).ToList();
        if (told.Count < Least || told[0].BedC - told[^1].BedC < LeastFallC)
            return No(
                "log", $"Above the air, {Say.N(airC)} °C, it falls by {Say.N(told.Count < 2 ? 0 : told[0].BedC - told[^1].BedC)} °C in " +
                    $"{Say.Plural(told.Count, "entry", "entries")}: {Say.N(LeastFallC)} °C in {Least} are the least.");
        // A straight line through the logarithms, each weighing as much as it does in °C.
        double sum = 0, t = 0, y = 0, tt = 0, ty = 0;
        foreach (var x in told)
        {
            var (above, minute) = (x.BedC - airC, x.Minute);
            var w = above * above;
            (sum, t, y, tt, ty) = (sum + w, t + w * minute, y + w * Math.Log(above), tt + w * minute * minute, ty + w * minute * Math.Log(above));
        }

        var slope = (sum * ty - t * y) / (sum * tt - t * t);
        var start = (y - slope * t) / sum;
        var scatter = Math.Sqrt(told.Sum(x => Math.Pow(x.BedC - airC - Math.Exp(start + slope * x.Minute), 2)) / (told.Count - 2));
        return scatter > MostScatterC
            ? No("log", $"It strays by {Say.N(scatter, 1)} °C from a plain cooling towards {Say.N(airC)} °C: was it heated or blown at, or is the air another?")
            : (-1 / slope, null);
    }
}
