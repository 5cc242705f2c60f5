namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>A section, or a small piece, as it was read.</summary>
/// <param name="LengthMm">Retraction.</param>
/// <param name="SpeedMmPerS">Its speed.</param>
/// <param name="Scores">One or several, 0–4, for example one a gap.</param>
/// <param name="Strings">Counted strings, one or several.</param>
/// <param name="Gaps">Gaps after travel, counted; 0 for none.</param>
/// <param name="Value">Value of another factor; null where length or speed is the factor.</param>
public sealed record RetractionPoint(
    double LengthMm, double SpeedMmPerS, IReadOnlyList<double> Scores, IReadOnlyList<double> Strings, double Gaps = 0, double? Value = null);

/// <summary>Readings of a sweep and how to judge them.</summary>
public sealed record RetractionReadings
{
    /// <summary>direct or long-tube.</summary>
    public string Drive { get; init; } = "direct";

    /// <summary>length, speed, wipe, coast, hop, travel, temperature, fan or multiplier.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>Sections and pieces in any order; equal ones are repeats.</summary>
    public IReadOnlyList<RetractionPoint> Points { get; init; } = [];

    /// <summary>By how much a value may fall behind the best, scores.</summary>
    public double Margin { get; init; } = 0.5;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>Range that the machine allows; null where nobody said.</summary>
    public Filaments.Span? Limits { get; init; }

    /// <summary>Range that is advised; null for that of the drive.</summary>
    public Filaments.Span? Advised { get; init; }

    /// <summary>True for soft filament, which packs in the path.</summary>
    public bool Soft { get; init; }

}
