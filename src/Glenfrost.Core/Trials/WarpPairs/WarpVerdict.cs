using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.WarpPairs;

/// <summary>What pairs of plates say.</summary>
public enum WarpOutcome
{
    /// <summary>The two arms are told apart.</summary>
    Separable,

    /// <summary>They are not.</summary>
    Noise,

    /// <summary>Fewer than two whole pairs.</summary>
    Insufficient,

    /// <summary>Room or chamber differ between the arms too, or nobody knows them of all parts.</summary>
    NotAttributed,
}

/// <summary>When most of the lift came.</summary>
public enum WarpWhen
{
    /// <summary>Too little was measured.</summary>
    Unclear,

    /// <summary>At each moment a part of it.</summary>
    Spread,

    /// <summary>While it printed.</summary>
    During,

    /// <summary>While it cooled on the plate.</summary>
    Cooling,

    /// <summary>As it was taken off, or later.</summary>
    Release,
}

/// <summary>A pair that is left out.</summary>
/// <param name="Pair">From 1.</param>
/// <param name="What">room or chamber.</param>
/// <param name="DifferenceC">By how much it was warmer with than without, °C; null where nobody knows it of one of the two.</param>
public sealed record WarpLeftOut(int Pair, string What, double? DifferenceC);

/// <summary>What a moment shows, mm.</summary>
/// <param name="Moment">during, cooled, released or next-day.</param>
/// <param name="Pairs">Whole pairs that were measured at it.</param>
/// <param name="WithoutMm">Mean lift of the parts without.</param>
/// <param name="WithMm">Mean lift of the parts with.</param>
/// <param name="EffectMm">With less without; null for no whole pair.</param>
/// <param name="Low">95 % interval of it, lower end; null for fewer than two pairs.</param>
/// <param name="High">Upper end.</param>
public sealed record WarpMoment(string Moment, int Pairs, double? WithoutMm, double? WithMm, double? EffectMm, double? Low, double? High);

/// <summary>The verdict on pairs of plates.</summary>
public sealed record WarpVerdict : TrialVerdict<WarpOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public WarpReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Whole pairs.</summary>
    public int Pairs { get; init; }

    /// <summary>Moment that the effect is told at: the latest that two pairs have, the part released where they have it.</summary>
    public string? Moment { get; init; }

    /// <summary>With less without, mm, mean of the pairs; below 0 it lifts less. Null where it can't be said.</summary>
    public double? EffectMm { get; init; }

    /// <summary>95 % interval, lower end, mm.</summary>
    public double? Low { get; init; }

    /// <summary>Upper end, mm.</summary>
    public double? High { get; init; }

    /// <summary>Spread of the pairs' differences, mm; null for one pair.</summary>
    public double? SpreadMm { get; init; }

    /// <summary>Two-sided exact test: the share of ways to turn the pairs round that differ as much or more.</summary>
    public double? P { get; init; }

    /// <summary>The least share that so many pairs can have.</summary>
    public double? PFloor { get; init; }

    /// <summary>Every moment that was measured.</summary>
    public IReadOnlyList<WarpMoment> Moments { get; init; } = [];

    /// <summary>When most of the lift came, in the arm that lifts more.</summary>
    public WarpWhen When { get; init; }

    /// <summary>By how much the room was warmer with than without, °C, mean of the pairs that are compared; null where it is not known of all of
    /// them.</summary>
    public double? RoomDifferenceC { get; init; }

    /// <summary>By how much the chamber was warmer, °C; null where it is not known of all of them.</summary>
    public double? ChamberDifferenceC { get; init; }

    /// <summary>Pairs that are left out, since their two plates stood in different air or nobody knows it of one.</summary>
    public IReadOnlyList<WarpLeftOut> LeftOut { get; init; } = [];

    /// <summary>Pairs that would show the smallest difference that matters; null where it can't be said.</summary>
    public int? NeededPairs { get; init; }

    /// <summary>Arm that lifts less, as it was seen; null where nothing is known.</summary>
    public string? Better { get; init; }
}
