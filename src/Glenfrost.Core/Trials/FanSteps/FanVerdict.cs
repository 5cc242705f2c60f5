using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FanSteps;

/// <summary>A fan as it was scored.</summary>
/// <param name="FanPercent">Part fan, %.</param>
/// <param name="Looks">Scores of bridge and overhang, 0–4.</param>
/// <param name="Bond">Scores of the bond, broken by hand, 0–4; empty where nobody broke it.</param>
public sealed record FanPoint(double FanPercent, IReadOnlyList<double> Looks, IReadOnlyList<double> Bond)
{
    /// <summary>Forces at which a layer parted in a rig, N; empty where nobody pulled it.</summary>
    public IReadOnlyList<double> Forces { get; init; } = [];
}

/// <summary>What a fan sweep is judged from.</summary>
public sealed record FanReadings
{
    /// <summary>Sections, in any order; equal fans are repeats.</summary>
    public IReadOnlyList<FanPoint> Points { get; init; } = [];

    /// <summary>So far behind the best is about as good, scores.</summary>
    public double Margin { get; init; } = 0.5;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;
}

/// <summary>What a fan sweep says.</summary>
public enum FanOutcome
{
    /// <summary>The least fan that is about as good as the best, and little is lost by it.</summary>
    Clear,

    /// <summary>The choice is open: too much may be lost.</summary>
    Noise,

    /// <summary>It lies at the end of what was tried.</summary>
    Edge,

    /// <summary>All alike and none good: it is not the fan.</summary>
    NotFan,

    /// <summary>Too few sections are scored.</summary>
    Insufficient,
}

/// <summary>The verdict on a fan sweep.</summary>
public sealed record FanVerdict : TrialVerdict<FanOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public FanReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>The advised fan, %; null where none is.</summary>
    public double? FanPercent { get; init; }

    /// <summary>Fans about as good as the best, %.</summary>
    public IReadOnlyList<double> AsGood { get; init; } = [];

    /// <summary>Fans that were scored, %, the least first.</summary>
    public IReadOnlyList<double> Fans { get; init; } = [];

    /// <summary>Mean score of bridge and overhang at each.</summary>
    public IReadOnlyList<double> Looks { get; init; } = [];

    /// <summary>95 % half-width of each.</summary>
    public IReadOnlyList<double> Halves { get; init; } = [];

    /// <summary>The curve with one peak at each.</summary>
    public IReadOnlyList<double> Curve { get; init; } = [];

    /// <summary>Mean score of the bond at each; null where nobody broke it.</summary>
    public IReadOnlyList<double?> Bond { get; init; } = [];

    /// <summary>Force of the bond at each, N; null where no rig pulled it.</summary>
    public IReadOnlyList<double?> Forces { get; init; } = [];

    /// <summary>True where it is the most that was tried and more may be better; false where it is the least.</summary>
    public bool AtMost { get; init; }
}
