namespace Glenfrost.Core.Trials.WarpPairs;

/// <summary>A lift or bow as it was measured.</summary>
/// <param name="Place">front-left, front-right, back-right, back-left or middle.</param>
/// <param name="Moment">during, cooled, released or next-day.</param>
/// <param name="Mm">mm; 0 where a feeler finds nothing.</param>
public sealed record WarpLift(string Place, string Moment, double Mm);

/// <summary>A part: the unit of the comparison. Its corners are no repeats.</summary>
/// <param name="Arm">without or with.</param>
/// <param name="Pair">From 1.</param>
/// <param name="Lifts">What was measured.</param>
public sealed record WarpPart(string Arm, int Pair, IReadOnlyList<WarpLift> Lifts)
{
    /// <summary>Room, °C, at the start; null where nobody measured it.</summary>
    public double? RoomC { get; init; }

    /// <summary>Room at the end, °C.</summary>
    public double? RoomEndC { get; init; }

    /// <summary>Chamber at the start, °C.</summary>
    public double? ChamberC { get; init; }

    /// <summary>Chamber at the end, °C.</summary>
    public double? ChamberEndC { get; init; }

    /// <summary>Room over the print, °C; null where nobody measured it.</summary>
    public double? Room => Mean(RoomC, RoomEndC);

    /// <summary>Chamber over the print, °C; null where nobody measured it.</summary>
    public double? Chamber => Mean(ChamberC, ChamberEndC);

    /// <summary>Mean lift of its corners at a moment, mm; null where none was measured.</summary>
    public double? CornersAt(string moment) =>
        Lifts.Where(l => l.Moment == moment && l.Place != WarpPlaces.Middle).Select(l => (double?)l.Mm).Average();

    private static double? Mean(double? a, double? b) => a is null ? b : b is null ? a : (a + b) / 2;
}

/// <summary>Places and moments of a plate.</summary>
public static class WarpPlaces
{
    /// <summary>The middle: it bows, the corners lift.</summary>
    public const string Middle = "middle";

    /// <summary>Places as they are read, round the plate from the front left.</summary>
    public static IReadOnlyList<string> All { get; } = ["front-left", "front-right", "back-right", "back-left", Middle];

    /// <summary>Moments in their order.</summary>
    public static IReadOnlyList<string> Moments { get; } = ["during", "cooled", "released", "next-day"];
}

/// <summary>What warp is judged from.</summary>
public sealed record WarpReadings
{
    /// <summary>What differs between the arms.</summary>
    public string Difference { get; init; } = "enclosure";

    /// <summary>Parts in the order of printing.</summary>
    public IReadOnlyList<WarpPart> Parts { get; init; } = [];

    /// <summary>Smallest difference that matters, mm.</summary>
    public double SmallestUsefulMm { get; init; } = 0.3;

    /// <summary>Lift that a part may have, mm.</summary>
    public double TolerableMm { get; init; } = 0.5;

    /// <summary>Spread of pair differences of earlier equal parts, mm; null where there are none.</summary>
    public double? EarlierSpreadMm { get; init; }

    /// <summary>Degrees of freedom of it.</summary>
    public double EarlierFreedom { get; init; } = 3;
}
