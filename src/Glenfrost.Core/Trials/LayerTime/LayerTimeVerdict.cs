using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.LayerTime;

/// <summary>A least layer time as it was scored.</summary>
/// <param name="Seconds">Least layer time, s.</param>
/// <param name="Looks">Scores of corners and walls, 0–4.</param>
/// <param name="Bond">Scores of the bond, broken by hand, 0–4; empty where nobody broke it.</param>
public sealed record LayerTimePoint(double Seconds, IReadOnlyList<double> Looks, IReadOnlyList<double> Bond)
{
    /// <summary>Forces at which a layer parted in a rig, N; empty where nobody pulled it.</summary>
    public IReadOnlyList<double> Forces { get; init; } = [];
}

/// <summary>What a column of layer times is judged from.</summary>
public sealed record LayerTimeReadings
{
    /// <summary>Sections, in any order; equal times are repeats.</summary>
    public IReadOnlyList<LayerTimePoint> Points { get; init; } = [];

    /// <summary>So far behind the best is about as good, scores.</summary>
    public double Margin { get; init; } = 0.5;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>Least layer time in force, s; null where nobody knows.</summary>
    public double? InForceS { get; init; }
}

/// <summary>What a column of layer times says.</summary>
public enum LayerTimeOutcome
{
    /// <summary>The shortest time that is about as good as the best, and little is lost by it.</summary>
    Clear,

    /// <summary>The choice is open: too much may be lost.</summary>
    Noise,

    /// <summary>It lies at the end of what was tried.</summary>
    Edge,

    /// <summary>All alike and none good: it is not the layer time.</summary>
    NotTime,

    /// <summary>Too few sections are scored.</summary>
    Insufficient,
}

/// <summary>The verdict on a column of layer times.</summary>
public sealed record LayerTimeVerdict : TrialVerdict<LayerTimeOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public LayerTimeReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>The advised least layer time, s; null where none is.</summary>
    public double? Seconds { get; init; }

    /// <summary>Times about as good as the best, s.</summary>
    public IReadOnlyList<double> AsGood { get; init; } = [];

    /// <summary>Times that were scored, s, the shortest first.</summary>
    public IReadOnlyList<double> Times { get; init; } = [];

    /// <summary>Mean score of corners and walls at each.</summary>
    public IReadOnlyList<double> Looks { get; init; } = [];

    /// <summary>95 % half-width of each.</summary>
    public IReadOnlyList<double> Halves { get; init; } = [];

    /// <summary>The curve with one peak at each.</summary>
    public IReadOnlyList<double> Curve { get; init; } = [];

    /// <summary>Mean score of the bond at each; null where nobody broke it.</summary>
    public IReadOnlyList<double?> Bond { get; init; } = [];

    /// <summary>Force of the bond at each, N; null where no rig pulled it.</summary>
    public IReadOnlyList<double?> Forces { get; init; } = [];

    /// <summary>True where it is the longest that was tried and longer may be better; false where it is the shortest.</summary>
    public bool AtLongest { get; init; }

    /// <summary>
    /// What a part lasts whose every layer is slowed, against the least time that was in force, %: below 100 it is done sooner. Null where nothing is advised
    /// or nobody knows what was in force.
    /// </summary>
    public double? PercentOfBefore { get; init; }
}
