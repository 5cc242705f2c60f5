using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>A step of the strip as it was read.</summary>
/// <param name="ChangePercent">Flow against the present multiplier, per cent.</param>
/// <param name="Scores">By eye and by thumb, 0–4; empty where nobody read it.</param>
public sealed record SurfacePatch(double ChangePercent, IReadOnlyList<double> Scores);

/// <summary>Readings of a strip and how to judge them.</summary>
public sealed record SurfaceReadings
{
    /// <summary>Multiplier that the middle was printed with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Steps in any order.</summary>
    public IReadOnlyList<SurfacePatch> Patches { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>What a flow override of the start code left in force, %; 100 for none.</summary>
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>What a multiplier of the file is in real prints.</summary>
    internal double FlowFactor => FlowOverride.Factor(ResidualFlowPercent, Override);
}

/// <summary>The next strip.</summary>
/// <param name="ExtrusionMultiplier">Its middle.</param>
/// <param name="StepPercent">Its step, per cent.</param>
/// <param name="FromPercent">First step, per cent of the middle.</param>
/// <param name="ToPercent">Last step.</param>
public sealed record NextStrip(double ExtrusionMultiplier, double StepPercent, double FromPercent, double ToPercent);

/// <summary>What a strip says.</summary>
public enum SurfaceOutcome
{
    /// <summary>Too little is read, or every step was called unusable.</summary>
    Insufficient,

    /// <summary>A fine strip has a best, or a few equals.</summary>
    Clear,

    /// <summary>A coarse strip has one: a fine strip around it tells more.</summary>
    Finer,

    /// <summary>The best is the last step: it may lie beyond.</summary>
    Edge,

    /// <summary>Too many steps can't be told apart.</summary>
    Noise,

    /// <summary>No step reads as good enough to be kept.</summary>
    NoneGood,
}

/// <summary>The numbers between readings and verdict, for the words.</summary>
/// <param name="Best">Index of the best step.</param>
/// <param name="ApartPercent">Steps that can't be told from the best and don't lie beside it, per cent.</param>
/// <param name="Separation">Difference of two means that chance exceeds in one of twenty.</param>
/// <param name="StepPercent">Mean step, per cent.</param>
/// <param name="Value">Multiplier at the best change, three decimals, as real prints take it.</param>
/// <param name="HalfWidth">Its 95 % half-width.</param>
/// <param name="ChangePercent">Change that it stands for, not rounded.</param>
public sealed record SurfaceNumbers(
    int Best, IReadOnlyList<double> ApartPercent, double Separation, double StepPercent, double Value, double HalfWidth, double ChangePercent)
{
    /// <summary>True where the value is no multiplier that can be kept.</summary>
    public bool OutOfRange => Value is < 0.3 or > 1.5;
}

/// <summary>The verdict on a strip.</summary>
public sealed record SurfaceVerdict : TrialVerdict<SurfaceOutcome>
{
    /// <summary>What it was judged from, its steps in the order of their change.</summary>
    [JsonIgnore]
    public SurfaceReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where nothing is the best.</summary>
    [JsonIgnore]
    public SurfaceNumbers? Numbers { get; init; }

    /// <summary>New multiplier, three decimals; null where none is proposed.</summary>
    public double? NewExtrusionMultiplier { get; init; }

    /// <summary>Best change, per cent.</summary>
    public double? ChangePercent { get; init; }

    /// <summary>The strip that would tell more; null where nothing is left to tell.</summary>
    public NextStrip? NextRange { get; init; }

    /// <summary>Mean score of each step in the order of its change; null where it was not read.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>Steps in that order, per cent.</summary>
    public IReadOnlyList<double> ChangesPercent { get; init; } = [];

    /// <summary>Changes that are as good as the best, per cent.</summary>
    public IReadOnlyList<double> EqualsPercent { get; init; } = [];
}
