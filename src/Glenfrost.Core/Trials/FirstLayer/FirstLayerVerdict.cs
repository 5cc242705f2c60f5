using System.Text.Json.Serialization;

namespace Glenfrost.Core.Trials.FirstLayer;

/// <summary>A patch as it was read.</summary>
/// <param name="ChangeMm">Nozzle offset against the present one, mm; below 0 is nearer to the bed.</param>
/// <param name="Scores">gaps, ridges and grip in the middle of the bed, 0–4.</param>
/// <param name="Corners">Place to one score, 0–4.</param>
public sealed record OffsetPatch(double ChangeMm, IReadOnlyDictionary<string, double> Scores, IReadOnlyDictionary<string, double> Corners);

/// <summary>Readings of first-layer patches and how to judge them.</summary>
public sealed record FirstLayerReadings
{
    /// <summary>Nozzle offset that the printer had, mm.</summary>
    public double OffsetMm { get; init; }

    /// <summary>Patches in any order.</summary>
    public IReadOnlyList<OffsetPatch> Patches { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;
}

/// <summary>The best of a corner.</summary>
/// <param name="Place">Where.</param>
/// <param name="ChangeMm">Best change there, mm; null where too little was read.</param>
/// <param name="TiltMm">Against the middle, mm; below 0 the bed lies lower there.</param>
/// <param name="Told">True where it differs from the middle by more than the scores can hide.</param>
public sealed record CornerBest(string Place, double? ChangeMm, double? TiltMm, bool Told);

/// <summary>What first-layer patches say.</summary>
public enum FirstLayerOutcome
{
    /// <summary>Too little is read, or every patch was called unusable.</summary>
    Insufficient,

    /// <summary>One offset lies best, or a few alike.</summary>
    Clear,

    /// <summary>Too many can't be told apart.</summary>
    Noise,

    /// <summary>The best is the last of the row: it may lie beyond.</summary>
    Edge,

    /// <summary>A corner wants another offset than the middle: the bed does not lie parallel.</summary>
    Uneven,

    /// <summary>No patch reads as good enough to be kept.</summary>
    NoneGood,
}

/// <summary>The numbers between readings and verdict, for the words.</summary>
/// <param name="Best">Index of the best patch.</param>
/// <param name="BestScore">gaps, ridges and grip of it together, 0–4.</param>
/// <param name="ApartMm">Changes that can't be told from the best and don't lie beside it, mm.</param>
/// <param name="Separation">Difference of two means that chance exceeds in one of twenty.</param>
/// <param name="StepMm">Mean step, mm.</param>
/// <param name="OffsetMm">Offset that the best change makes, mm, three decimals.</param>
public sealed record FirstLayerNumbers(int Best, double BestScore, IReadOnlyList<double> ApartMm, double Separation, double StepMm, double OffsetMm);

/// <summary>The verdict on first-layer patches.</summary>
public sealed record FirstLayerVerdict : TrialVerdict<FirstLayerOutcome>
{
    /// <summary>What it was judged from, its patches in the order of their change.</summary>
    [JsonIgnore]
    public FirstLayerReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where nothing is the best.</summary>
    [JsonIgnore]
    public FirstLayerNumbers? Numbers { get; init; }

    /// <summary>New nozzle offset, mm; null where none is proposed.</summary>
    public double? NewOffsetMm { get; init; }

    /// <summary>Best change, mm.</summary>
    public double? ChangeMm { get; init; }

    /// <summary>Changes that are as good as the best, mm.</summary>
    public IReadOnlyList<double> EqualsMm { get; init; } = [];

    /// <summary>Changes in their order, mm.</summary>
    public IReadOnlyList<double> ChangesMm { get; init; } = [];

    /// <summary>gaps, ridges and grip together, 0–4, in that order; null where not read.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>The corners.</summary>
    public IReadOnlyList<CornerBest> Corners { get; init; } = [];
}
