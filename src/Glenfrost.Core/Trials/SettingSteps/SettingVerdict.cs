using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <summary>A value as it was scored.</summary>
/// <param name="Value">In the setting's unit.</param>
/// <param name="Looks">Scores of how it looks, 0–4.</param>
public sealed record SettingPoint(double Value, IReadOnlyList<double> Looks);

/// <summary>What a setting in steps is judged from.</summary>
public sealed record SettingReadings
{
    /// <summary>Word of the setting.</summary>
    public string Factor { get; init; } = "outer-speed";

    /// <summary>wall or cones.</summary>
    public string Piece { get; init; } = SettingTrial.Wall;

    /// <summary>Sections or cones, in any order; equal values are repeats.</summary>
    public IReadOnlyList<SettingPoint> Points { get; init; } = [];

    /// <summary>So far behind the best is about as good, scores.</summary>
    public double Margin { get; init; } = 0.5;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>What is in force; null where nobody knows.</summary>
    public double? InForce { get; init; }

    /// <summary>What the machine bears; null where nobody said.</summary>
    public Filaments.Span? Limits { get; init; }
}

/// <summary>What a setting in steps says.</summary>
public enum SettingOutcome
{
    /// <summary>A value about as good as the best is taken, and little is lost by it.</summary>
    Clear,

    /// <summary>The choice is open: too much may be lost.</summary>
    Noise,

    /// <summary>It lies at the end of what was tried.</summary>
    Edge,

    /// <summary>All alike and none good: it is not this setting.</summary>
    NotIt,

    /// <summary>Too few are scored.</summary>
    Insufficient,
}

/// <summary>The verdict on a setting in steps.</summary>
public sealed record SettingVerdict : TrialVerdict<SettingOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public SettingReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Word of the setting.</summary>
    public string Factor { get; init; } = "outer-speed";

    /// <summary>The value that is taken, in the setting's unit; null where none is.</summary>
    public double? Value { get; init; }

    /// <summary>Values that look about as good as the best, the smallest first.</summary>
    public IReadOnlyList<double> AsGood { get; init; } = [];

    /// <summary>Values that were scored, the smallest first.</summary>
    public IReadOnlyList<double> Values { get; init; } = [];

    /// <summary>Mean score at each.</summary>
    public IReadOnlyList<double> Looks { get; init; } = [];

    /// <summary>95 % half-width of each.</summary>
    public IReadOnlyList<double> Halves { get; init; } = [];

    /// <summary>The curve with one peak at each.</summary>
    public IReadOnlyList<double> Curve { get; init; } = [];

    /// <summary>True where the value is the last that was tried on the side that is rather taken: more of it may do as well.</summary>
    public bool MoreMayDo { get; init; }
}
