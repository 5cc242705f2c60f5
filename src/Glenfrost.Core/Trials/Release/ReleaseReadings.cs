using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.Release;

/// <summary>A print as it let go, or did not: bounds, not values.</summary>
/// <param name="FreeAtC">Bed at which it lay free: it let go there or warmer, °C. Null where nobody saw it free.</param>
/// <param name="HeldAtC">Bed at which it still held: it lets go colder, °C. Null where nobody tried.</param>
/// <param name="PulledAtC">Bed at which it was pulled off by force: it held there, °C. Null where nobody did.</param>
public sealed record ReleasePrint(double? FreeAtC, double? HeldAtC = null, double? PulledAtC = null)
{
    /// <summary>Coldest bed at which it is known to have held, °C; null for none.</summary>
    [JsonIgnore]
    public double? Held => HeldAtC is null ? PulledAtC : PulledAtC is null ? HeldAtC : Math.Min(HeldAtC.Value, PulledAtC.Value);
}

/// <summary>One logged cooling of a bed.</summary>
/// <param name="FromC">Bed as it was switched off, °C.</param>
/// <param name="ToC">Bed at the end, °C.</param>
/// <param name="Minutes">Between the two.</param>
public sealed record BedCooling(double FromC, double ToC, double Minutes)
{
    /// <summary>
    /// Minutes in which the bed loses all but 1/e of what it is above the room (Newton's law of cooling); null where the numbers say none.
    /// </summary>
    /// <param name="roomC">Air around it.</param>
    public double? ConstantMinutes(double roomC) =>
        FromC > ToC && ToC > roomC + 0.5 && Minutes > 0 ? Minutes / Math.Log((FromC - roomC) / (ToC - roomC)) : null;
}

/// <summary>What a release temperature is judged from.</summary>
public sealed record ReleaseReadings
{
    /// <summary>Prints, the oldest first.</summary>
    public IReadOnlyList<ReleasePrint> Prints { get; init; } = [];

    /// <summary>Middle of the bed's usual range for the family, °C; null where it is not known.</summary>
    public double? FamilyBedC { get; init; }

    /// <summary>Bed while it prints, °C; null where nobody said: then nothing is said of minutes.</summary>
    public double? BedC { get; init; }

    /// <summary>Air around the part as it was measured, the chamber's, else the room's, °C; null where nobody did.</summary>
    public double? MeasuredAirC { get; init; }

    /// <summary>The same, or what is taken for granted, °C.</summary>
    [JsonIgnore]
    public double SurroundingsC => MeasuredAirC ?? ReleasePlan.UsualRoomC;

    /// <summary>A logged cooling of this bed; null where there is none.</summary>
    public BedCooling? Cooling { get; init; }

    /// <summary>Constants of the same bed, minutes, each from a log; their middle counts before <see cref="Cooling"/>.</summary>
    public IReadOnlyList<double> LoggedMinutes { get; init; } = [];

    /// <summary>The bed's own cooling constant, minutes; null where nothing was logged.</summary>
    [JsonIgnore]
    public double? OwnMinutes => LoggedMinutes.Count > 0 ? MathNet.Numerics.Statistics.Statistics.Median(LoggedMinutes) : Cooling?.ConstantMinutes(SurroundingsC);
}

/// <summary>What prints say of where they let go.</summary>
public enum ReleaseOutcome
{
    /// <summary>Nobody saw one free.</summary>
    Insufficient,

    /// <summary>Fewer than five: the lowest seen free, less 5 °C.</summary>
    Working,

    /// <summary>From five on: where 19 of 20 next parts are free.</summary>
    Fitted,

    /// <summary>It lies within 5 °C of the air around the part: no bed gets there in any bearable time.</summary>
    TooNear,
}

/// <summary>The verdict on a release temperature.</summary>
public sealed record ReleaseVerdict : TrialVerdict<ReleaseOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public ReleaseReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Bed at which a part is let go, °C; null where it can't be said.</summary>
    public double? ReleaseC { get; init; }

    /// <summary>Middle of where parts let go, °C; null below five prints.</summary>
    public double? MiddleC { get; init; }

    /// <summary>Spread from print to print, °C; null below five prints.</summary>
    public double? SpreadC { get; init; }

    /// <summary>Lowest bed at which one was seen free, °C.</summary>
    public double? LowestFreeC { get; init; }

    /// <summary>Prints that say something.</summary>
    public int Prints { get; init; }

    /// <summary>Prints that were held colder than another lay free: they differ from print to print, or somebody misread.</summary>
    public int Crossing { get; init; }

    /// <summary>Minutes from printing to release, the bed left to itself.</summary>
    public double? Minutes { get; init; }

    /// <summary>The bed's own cooling constant, minutes.</summary>
    public double? CoolingConstantMinutes { get; init; }

    /// <summary>True where no cooling of this bed was logged: its constant is a guess.</summary>
    public bool Guessed { get; init; }
}
