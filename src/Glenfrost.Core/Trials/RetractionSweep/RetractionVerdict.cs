using System.Text.Json.Serialization;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>What a sweep or a pair says.</summary>
public enum RetractionOutcome
{
    /// <summary>Too little is read.</summary>
    Insufficient,

    /// <summary>A value, and hardly more than a score can be lost by it.</summary>
    Clear,

    /// <summary>The advised value is an end of what was tried.</summary>
    Edge,

    /// <summary>A value, but another one may be better by more than a score.</summary>
    Noise,

    /// <summary>No value gives a usable piece, or all are poor and alike.</summary>
    NotRetraction,

    /// <summary>A pair: on, or dried, is better.</summary>
    Helps,

    /// <summary>A pair: on, or dried, is worse.</summary>
    Worse,

    /// <summary>A pair: both alike.</summary>
    NoDifference,

    /// <summary>A pair: both unusable.</summary>
    BothFailed,
}

/// <summary>What a sweep warns of.</summary>
public enum RetractionCaution
{
    /// <summary>Gaps after travel at some values.</summary>
    Gaps,

    /// <summary>Longer than is usual for the drive.</summary>
    Long,

    /// <summary>As long as the machine allows: the range can't grow.</summary>
    AtMost,

    /// <summary>Colder until it stops is a trap.</summary>
    Colder,

    /// <summary>The readings rise, fall and rise again: no curve with one peak goes through them.</summary>
    TwoPeaks,

    /// <summary>What was measured on the damp spool before is suspect.</summary>
    WasDamp,

    /// <summary>Strings alone do not settle it: another trial does.</summary>
    StringsAlone,

    /// <summary>Drying is not the only thing that can have changed in between.</summary>
    ElseChanged,
}

/// <summary>A value as it was read.</summary>
/// <param name="At">The factor's value.</param>
/// <param name="SpeedMmPerS">Retraction speed, where lengths were swept at several.</param>
/// <param name="Mean">Mean score.</param>
/// <param name="StandardError">Of it.</param>
/// <param name="Count">Readings.</param>
/// <param name="Gaps">Gaps after travel, mean; above 0 rules the value out.</param>
/// <param name="Behind">Mean with what may stand behind scores at an end of the scale.</param>
public sealed record SweepCell(double At, double SpeedMmPerS, double Mean, double StandardError, int Count, double Gaps, double Behind);

/// <summary>What is printed next: values of the same factor.</summary>
/// <param name="From">First.</param>
/// <param name="To">Last.</param>
/// <param name="Step">Step, at least 0.05.</param>
public sealed record SweepRange(double From, double To, double Step);

/// <summary>The verdict on a sweep, or on a pair of retraction off and on or of a spool before and after drying.</summary>
public sealed record RetractionVerdict : TrialVerdict<RetractionOutcome>
{
    /// <summary>The word of a pair whose two prints string alike.</summary>
    public static string NoDifference { get; } = WordOf(RetractionOutcome.NoDifference);

    /// <summary>Factor that was swept; on-off or dryness for a pair.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>Values of the factor, in order.</summary>
    public IReadOnlyList<double> Values { get; init; } = [];

    /// <summary>Mean score at each.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>Half of the 95 % interval of each mean.</summary>
    public IReadOnlyList<double?> Halves { get; init; } = [];

    /// <summary>The curve with one peak through them, scores; empty for a pair. Values with gaps after travel are not on it: null.</summary>
    public IReadOnlyList<double?> Curve { get; init; } = [];

    /// <summary>Values behind the best by no more than the margin, by the curve, whose own reading is usable.</summary>
    public IReadOnlyList<double> AsGood { get; init; } = [];

    /// <summary>Values with gaps after travel: too long.</summary>
    public IReadOnlyList<double> TooLong { get; init; } = [];

    /// <summary>The smallest value that is as good as the best, or about so, where colder or less starves the part the
    /// largest; null where none is proposed.</summary>
    public double? Value { get; init; }

    /// <summary>Retraction, mm; null where none is proposed.</summary>
    public double? LengthMm { get; init; }

    /// <summary>Speed, mm/s; null where none is proposed.</summary>
    public double? SpeedMmPerS { get; init; }

    /// <summary>True where at most the margin is lost in 19 of 20: not only that it can't be told from the best.</summary>
    public bool Shown { get; init; }

    /// <summary>Where the next print tells most; null where nothing is left to tell.</summary>
    public BracketPlan? NextPlaces { get; init; }

    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public RetractionReadings From { get; init; } = new();

    /// <summary>Each value as it was read, those of a pair in their order.</summary>
    [JsonIgnore]
    public IReadOnlyList<SweepCell> Cells { get; init; } = [];

    /// <summary>The highest value by the curve; null where nothing is proposed.</summary>
    [JsonIgnore]
    public SweepCell? Best { get; init; }

    /// <summary>The advised value as it was read; null where nothing is proposed.</summary>
    [JsonIgnore]
    public SweepCell? At { get; init; }

    /// <summary>The next value on the side that is rather taken: the next smaller one, where the largest is taken the next
    /// larger; null where none was tried.</summary>
    [JsonIgnore]
    public SweepCell? Shorter { get; init; }

    /// <summary>True where that next value is shown to be worse (95 %).</summary>
    [JsonIgnore]
    public bool ShorterIsWorse { get; init; }

    /// <summary>True where the advised value is the last that was tried on the other side, and those beyond it may be better.</summary>
    [JsonIgnore]
    public bool AtTop { get; init; }

    /// <summary>True where no value does better than another.</summary>
    [JsonIgnore]
    public bool Alike { get; init; }

    /// <summary>What is printed next; null where nothing of the kind is.</summary>
    [JsonIgnore]
    public SweepRange? NextRange { get; init; }

    /// <summary>What it warns of.</summary>
    [JsonIgnore]
    public IReadOnlyList<RetractionCaution> Cautions { get; init; } = [];

    /// <summary>By how much the second of a pair is better, scores; its standard error.</summary>
    [JsonIgnore]
    public (double Gain, double StandardError) Pair { get; init; }

    /// <summary>Values that were read, where they are too few.</summary>
    [JsonIgnore]
    public int ValuesRead { get; init; }
}
