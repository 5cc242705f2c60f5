using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Costs;

/// <summary>What a machine draws and what that costs.</summary>
/// <param name="PowerW">Mean of a whole print, W: nozzle, bed, chamber, fans and motors together; null where nobody measured or typed it.</param>
/// <param name="MinorPerKwh">Price of a kilowatt hour, in minor units of the currency; null where nobody typed it.</param>
public sealed record Electricity(double? PowerW, double? MinorPerKwh)
{
    /// <summary>Nothing is known of it.</summary>
    public static Electricity Unknown { get; } = new(null, null);

    /// <summary>True where both are known.</summary>
    public bool IsKnown => PowerW is not null && MinorPerKwh is not null;

    /// <summary>What a print of so many minutes draws, in minor units; null where power or price is not known.</summary>
    public double? MinorOf(double minutes) => PowerW / 1000 * minutes / 60 * MinorPerKwh;
}

/// <summary>What one print of a part costs, in minor units of the currency.</summary>
/// <param name="FilamentMinor">Filament with brim and purge; null where the price or the mass is not known.</param>
/// <param name="PrintingMinor">Electricity of the print; null where it is not known.</param>
/// <param name="DryingMinor">Electricity of drying the spool, the part's share; 0 where it was not dried.</param>
public sealed record PrintCost(double? FilamentMinor, double? PrintingMinor, double DryingMinor = 0)
{
    /// <summary>All that is known, together; null where not even the filament is.</summary>
    public double? SumMinor => FilamentMinor + (PrintingMinor ?? 0) + DryingMinor;

    /// <summary>What a print costs.</summary>
    /// <param name="grams">Filament, g, with brim and purge.</param>
    /// <param name="minorPerGram">Its price; null where nobody knows.</param>
    /// <param name="minutes">Of printing, with heating up.</param>
    /// <param name="machine">What the machine draws.</param>
    /// <param name="dryingPerGram">What drying adds to a gram, see <see cref="DryingCost"/>; null for nothing.</param>
    public static PrintCost Of(double? grams, double? minorPerGram, double? minutes, Electricity machine, double? dryingPerGram = null) =>
        new(grams * minorPerGram, minutes is { } m ? machine.MinorOf(m) : null, (grams * dryingPerGram) ?? 0);
}

/// <summary>What drying costs.</summary>
public static class DryingCost
{
    /// <summary>A drying's electricity shared by the grams that a reel holds, in minor units a gram; null where power, price or mass is not known, or the
    /// hours are below 0.</summary>
    /// <param name="hours">How long it was dried, h.</param>
    /// <param name="dryer">What the dryer draws.</param>
    /// <param name="reelG">Filament on a full reel, g.</param>
    public static double? MinorPerGram(double hours, Electricity dryer, double? reelG) =>
        reelG is > 0 && hours >= 0 ? dryer.MinorOf(60 * hours) / reelG : null;
}

/// <summary>What a good part costs once those are counted that fail.</summary>
/// <param name="PrintMinor">What one print costs, in minor units.</param>
/// <param name="Good">Prints that were good.</param>
/// <param name="Printed">All of them.</param>
public sealed record GoodPartCost(double PrintMinor, int Good, int Printed)
{
    /// <summary>A good part, in minor units: each carries its share of those that failed; null where none was good, or none was printed.</summary>
    public double? EachMinor => Good > 0 ? PrintMinor * Printed / Good : null;

    /// <summary>The 95 % interval of that, from Wilson's interval of the share (Wilson 1927); null where none was printed. An open end is infinite.</summary>
    public (double LowMinor, double HighMinor)? Between
    {
        get
        {
            if (Printed == 0)
                return null;
            var (low, high) = Wilson.Interval(Good, Printed);
            return (PrintMinor / high, low > 0 ? PrintMinor / low : double.PositiveInfinity);
        }
    }
}
