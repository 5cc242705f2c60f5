using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.QuickCheck;

/// <summary>Readings of a quick check and what they are set beside. Widths in mm.</summary>
public sealed record QuickCheckReadings
{
    /// <summary>Walls of this piece.</summary>
    public IReadOnlyList<double> WallMm { get; init; } = [];

    /// <summary>Scores of its strings, 0–4.</summary>
    public IReadOnlyList<double> Strings { get; init; } = [];

    /// <summary>Wall of the kept run; null where nobody knows it.</summary>
    public double? KeptWallMm { get; init; }

    /// <summary>95 % half-width of it; null where nobody knows it.</summary>
    public double? KeptWallHalfMm { get; init; }

    /// <summary>Strings of the kept run, mean score; null where nobody looked.</summary>
    public double? KeptStrings { get; init; }

    /// <summary>How many scores that mean is of.</summary>
    public int KeptScores { get; init; } = 1;

    /// <summary>Smallest difference of the wall that matters, %.</summary>
    public double TolerancePercent { get; init; } = 3;

    /// <summary>Smallest step of the calliper.</summary>
    public double ResolutionMm { get; init; } = 0.01;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;
}

/// <summary>What a quick check says.</summary>
public enum QuickCheckOutcome
{
    /// <summary>Neither wall nor strings are shown worse than the kept run's.</summary>
    Passed,

    /// <summary>One of them, or both, are.</summary>
    Differs,

    /// <summary>There is nothing to set it beside: it is the piece that later ones are set beside.</summary>
    Baseline,

    /// <summary>Too little is read.</summary>
    MeasureMore,
}

/// <summary>The verdict on a quick check.</summary>
public sealed record QuickCheckVerdict : TrialVerdict<QuickCheckOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public QuickCheckReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Mean wall, mm; null where nothing is read.</summary>
    public double? WallMm { get; init; }

    /// <summary>95 % half-width of it, mm; null where one reading leaves it open.</summary>
    public double? WallHalfMm { get; init; }

    /// <summary>How much thicker the wall is than the kept one, %; null where one of them is not known.</summary>
    public double? WallChangePercent { get; init; }

    /// <summary>95 % half-width of that, %.</summary>
    public double? WallChangeHalfPercent { get; init; }

    /// <summary>True where the wall is shown to differ by more than matters.</summary>
    public bool WallDiffers { get; init; }

    /// <summary>Mean score of the strings; null where nobody looked.</summary>
    public double? StringsScore { get; init; }

    /// <summary>By how many scores the strings are worse than the kept run's; null where one of them is not known.</summary>
    public double? StringsDrop { get; init; }

    /// <summary>Drop from which on strings are called worse, scores: 19 of 20 equal pieces stay below it.</summary>
    public double? StringsDropNeeded { get; init; }

    /// <summary>True where the strings are shown worse.</summary>
    public bool StringsWorse { get; init; }

    /// <summary>True change of the wall that one piece in three would not show, %; null where the wall is not compared.</summary>
    public double? SlipsWallPercent { get; init; }

    /// <summary>True drop of the strings that one piece in three would not show, scores; null where they are not compared.</summary>
    public double? SlipsStrings { get; init; }

    /// <summary>Areas that become doubtful with it; empty where it passed.</summary>
    public IReadOnlyList<string> Doubts { get; init; } = [];
}
