namespace Glenfrost.Core.Filaments;

/// <summary>How much a family shrinks while it cools.</summary>
public enum Shrinkage
{
    /// <summary>Little.</summary>
    Little,

    /// <summary>Some.</summary>
    Some,

    /// <summary>Much: corners lift and layers part without warm surroundings.</summary>
    Much,
}

/// <summary>A closed range of numbers; either end may be unknown.</summary>
public sealed record Span(double? Min, double? Max)
{
    /// <summary>Middle of the range, or the one end that is known.</summary>
    public double? Middle => Min is { } a && Max is { } b ? (a + b) / 2 : Min ?? Max;

    /// <summary>The smallest range that holds all the given ones; null where none says anything.</summary>
    public static Span? Union(IEnumerable<Span> spans)
    {
        var list = spans.ToList();
        var ends = list.SelectMany(s => new[] { s.Min, s.Max }).OfType<double>().ToList();
        return ends.Count == 0 ? null : new Span(ends.Min(), ends.Max());
    }

    /// <summary>True where two ranges both say something and do not overlap at all.</summary>
    public bool Contradicts(Span other) =>
        (Max is { } m && other.Min is { } n && m < n) || (Min is { } a && other.Max is { } b && a > b);
}

/// <summary>Cautious starting values of a filament family; the maker's label and data sheet overrule them.</summary>
/// <param name="Name">Family name as the trade uses it.</param>
/// <param name="DensityGPerCm3">Solid density.</param>
/// <param name="NozzleC">Nozzle range.</param>
/// <param name="BedC">Bed range.</param>
/// <param name="FanPercent">Part-fan range, 0–100.</param>
/// <param name="DryingC">Drying temperature.</param>
/// <param name="DryingHours">Drying time.</param>
/// <param name="OpenHours">Hours a spool tolerates lying open at 50 %RH.</param>
/// <param name="Shrinks">How much it shrinks.</param>
public sealed record Family(
    string Name, double DensityGPerCm3, Span NozzleC, Span BedC, Span FanPercent, double DryingC, double DryingHours, double OpenHours, Shrinkage Shrinks)
{
    /// <summary>The families that Glenfrost has starting values for.</summary>
    public static IReadOnlyList<Family> All { get; } =
    [
        new("PLA", 1.24, new(190, 220), new(50, 60), new(100, 100), 45, 6, 300, Shrinkage.Little),
        new("foaming PLA", 1.24, new(195, 260), new(50, 60), new(0, 50), 45, 6, 150, Shrinkage.Little),
        new("PETG", 1.27, new(225, 250), new(70, 85), new(30, 60), 65, 6, 72, Shrinkage.Some),
        new("PCTG", 1.23, new(245, 270), new(75, 85), new(30, 50), 65, 6, 72, Shrinkage.Some),
        new("ABS", 1.04, new(230, 255), new(95, 110), new(0, 20), 75, 5, 150, Shrinkage.Much),
        new("ASA", 1.07, new(235, 260), new(95, 110), new(0, 30), 80, 5, 150, Shrinkage.Much),
        new("TPU", 1.21, new(205, 235), new(35, 60), new(30, 60), 55, 8, 24, Shrinkage.Little),
        new("PA", 1.12, new(245, 275), new(80, 100), new(0, 30), 80, 12, 8, Shrinkage.Much),
        new("PC", 1.20, new(260, 300), new(100, 115), new(0, 20), 90, 8, 24, Shrinkage.Much),
        new("PP", 0.90, new(215, 240), new(70, 95), new(0, 30), 60, 4, 500, Shrinkage.Much),
    ];

    /// <summary>The family of that name, or null for one that is not in the table.</summary>
    public static Family? Find(string? name) =>
        All.FirstOrDefault(f => string.Equals(f.Name, name?.Trim(), StringComparison.OrdinalIgnoreCase));

    /// <summary>
    /// Hours that a spool may still lie open. Moisture uptake is taken as proportional to relative humidity,
    /// so the tolerance at 50 %RH is scaled by 50/RH.
    /// </summary>
    /// <param name="openHours">Hours open since it was last dry.</param>
    /// <param name="humidityPercent">Relative humidity of the room, 1–100.</param>
    public double OpenHoursLeft(double openHours, double humidityPercent) =>
        OpenHours * 50 / Math.Clamp(humidityPercent, 1, 100) - openHours;
}
