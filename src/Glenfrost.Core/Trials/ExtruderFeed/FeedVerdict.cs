using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>One repeat. Lengths in mm.</summary>
/// <param name="MarkMm">Where the mark was above the entry.</param>
/// <param name="RemainingMm">What was left to the mark; null where the mark went in.</param>
/// <param name="StepsPerMm">Steps (or rotation distance) at which it was fed, where they were others.</param>
/// <param name="MarkGone">True where the mark went in: more than the mark was fed.</param>
public sealed record FeedReading(double MarkMm, double? RemainingMm, double? StepsPerMm = null, bool MarkGone = false);

/// <summary>Readings of a feed measurement and how to judge them.</summary>
public sealed record FeedReadings
{
    /// <summary>Steps per mm at which it was fed; or <see cref="RotationDistanceMm"/>.</summary>
    public double? StepsPerMm { get; init; }

    /// <summary>Rotation distance at which it was fed, mm.</summary>
    public double? RotationDistanceMm { get; init; }

    /// <summary>What the printer was told to feed, mm.</summary>
    public double CommandedMm { get; init; } = 100;

    /// <summary>The repeats.</summary>
    public IReadOnlyList<FeedReading> Readings { get; init; } = [];

    /// <summary>Smallest step of ruler and marker, mm.</summary>
    public double ResolutionMm { get; init; } = 0.5;

    /// <summary>How far the mean may be off, mm; 0.5 for each 100 where it is not given.</summary>
    public double? ToleranceMm { get; init; }

    /// <summary>Dialect for the commands.</summary>
    public string Dialect { get; init; } = "m900";
}

/// <summary>A way to make a value last.</summary>
/// <param name="Way">until-restart, store or start-code.</param>
/// <param name="Text">What to send or write.</param>
/// <param name="Note">What it overwrites or leaves, in words; empty until the verdict is told.</param>
public sealed record FeedCommand(string Way, string Text, string Note = "");

/// <summary>What a feed measurement says.</summary>
public enum FeedOutcome
{
    /// <summary>Nothing is measured: nothing read, or every mark went in.</summary>
    Insufficient,

    /// <summary>The repeats differ by more than ruler and marker make: no value mends that.</summary>
    Unsteady,

    /// <summary>The value stands.</summary>
    WithinTolerance,

    /// <summary>Another value.</summary>
    Adjust,
}

/// <summary>What a feed measurement warns of.</summary>
public enum FeedCaution
{
    /// <summary>Marks went in: the mean leaves them out.</summary>
    MarksWentIn,

    /// <summary>The change is no wear.</summary>
    LargeChange,

    /// <summary>Too few repeats to tell slip from a wrong value.</summary>
    FewRepeats,
}

/// <summary>The numbers between readings and verdict, for the words. Lengths in mm.</summary>
/// <param name="Tried">Value at which it was fed, steps per mm or mm a turn.</param>
/// <param name="Mean">Mean, scatter and interval of what was delivered.</param>
/// <param name="LeastMm">Least delivered.</param>
/// <param name="MostMm">Most delivered.</param>
/// <param name="RulerMm">Range that ruler and marker alone would stay within in 95 of 100 cases.</param>
/// <param name="ToleranceMm">How far the mean may be off.</param>
/// <param name="Value">New value.</param>
public sealed record FeedNumbers(double Tried, Measured Mean, double LeastMm, double MostMm, double RulerMm, double ToleranceMm, double Value)
{
    /// <summary>Range of what was delivered.</summary>
    public double RangeMm => MostMm - LeastMm;

    /// <summary>Range over the mean, %.</summary>
    public double SpreadPercent => 100 * RangeMm / Mean.Mean;

    /// <summary>Change of the value, %.</summary>
    public double ChangePercent => 100 * (Value / Tried - 1);
}

/// <summary>The verdict on a feed measurement.</summary>
public sealed record FeedVerdict : TrialVerdict<FeedOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public FeedReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where nothing was measured.</summary>
    [JsonIgnore]
    public FeedNumbers? Numbers { get; init; }

    /// <summary>What it warns of.</summary>
    [JsonIgnore]
    public IReadOnlyList<FeedCaution> Cautions { get; init; } = [];

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Delivered by each repeat, mm, at the value tried; null where the mark went in.</summary>
    public IReadOnlyList<double?> DeliveredMm { get; init; } = [];

    /// <summary>Mean, mm; null where nothing was read.</summary>
    public double? MeanDeliveredMm { get; init; }

    /// <summary>95 % half-width of the mean, mm; null for a single reading.</summary>
    public double? UncertaintyMm { get; init; }

    /// <summary>Range over mean, per cent.</summary>
    public double? SpreadPercent { get; init; }

    /// <summary>New steps per mm, two decimals; null where the printer counts a rotation distance.</summary>
    public double? NewStepsPerMm { get; init; }

    /// <summary>New rotation distance, mm, three decimals; null where the printer counts steps.</summary>
    public double? NewRotationDistanceMm { get; init; }

    /// <summary>95 % half-width of the new value, in its unit.</summary>
    public double? NewUncertainty { get; init; }

    /// <summary>Ways to make the value last, in the printer's dialect.</summary>
    public IReadOnlyList<FeedCommand> Commands { get; init; } = [];
}
