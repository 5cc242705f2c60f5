using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <summary>One step: a section at a temperature and a multiplier, with what was read of it.</summary>
/// <param name="TemperatureC">Nozzle, °C.</param>
/// <param name="ExtrusionMultiplier">Multiplier that it was printed with.</param>
/// <param name="WallsMm">Thickness of its wall, one or more readings, mm.</param>
/// <param name="MassG">Mass of a piece cut from it, g; null where nobody weighed.</param>
/// <param name="VolumeCm3">Volume of that piece, cm³.</param>
/// <param name="Stable">False where extrusion turned to blobs.</param>
public sealed record FoamStep(
    double TemperatureC, double ExtrusionMultiplier, IReadOnlyList<double> WallsMm, double? MassG = null, double? VolumeCm3 = null, bool Stable = true);

/// <summary>Readings of foaming walls and how to judge them.</summary>
public sealed record FoamReadings
{
    /// <summary>Wall where it does not foam, at the full multiplier, mm.</summary>
    public double ReferenceWidthMm { get; init; }

    /// <summary>95 % half-width of the reference, mm; 0 where it is exact.</summary>
    public double ReferenceUncertaintyMm { get; init; }

    /// <summary>Wall that is wanted, mm; null: the reference's.</summary>
    public double? TargetWidthMm { get; init; }

    /// <summary>The full multiplier: what does not foam is right with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Solid density, g/cm³.</summary>
    public double SolidDensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Density that is wanted, g/cm³; null where the lightest is.</summary>
    public double? TargetDensityGPerCm3 { get; init; }

    /// <summary>Steps in any order.</summary>
    public IReadOnlyList<FoamStep> Steps { get; init; } = [];

    /// <summary>Smallest step of the calliper, mm.</summary>
    public double ResolutionMm { get; init; } = 0.01;

    /// <summary>Hottest that may be printed, °C; null where it is not known.</summary>
    public double? MaxC { get; init; }

    /// <summary>How far the check piece may be off, %.</summary>
    public double TolerancePercent { get; init; } = 6;

    /// <summary>Filament diameter that the file counts with, mm; null where not known.</summary>
    public double? FileDiameterMm { get; init; }

    /// <summary>Measured mean diameter of the spool, mm; null where not known.</summary>
    public double? MeasuredDiameterMm { get; init; }

    /// <summary>What a flow override of the start code left in force, %; 100 for none.</summary>
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>The same as real prints count multipliers, where they were printed under an override.</summary>
    internal FoamReadings InRealPrints()
    {
        var factor = FlowOverride.Factor(ResidualFlowPercent, Override);
        return factor == 1 ? this
            : this with
            {
                ExtrusionMultiplier = ExtrusionMultiplier * factor,
                Steps = [.. Steps.Select(s => s with { ExtrusionMultiplier = s.ExtrusionMultiplier * factor })],
            };
    }
}

/// <summary>Expansion at one step.</summary>
/// <param name="TemperatureC">°C.</param>
/// <param name="ExtrusionMultiplier">Multiplier.</param>
/// <param name="WallMm">Mean wall, mm.</param>
/// <param name="Expansion">Volume laid over volume fed: wall × full multiplier ÷ (reference × multiplier).</param>
/// <param name="Uncertainty">95 % half-width of it; null for a single reading.</param>
/// <param name="DensityGPerCm3">Solid over expansion, or from mass and volume where given.</param>
/// <param name="Weighed">True where density came from mass and volume.</param>
/// <param name="Stable">False where extrusion turned to blobs.</param>
public sealed record Expanded(
    double TemperatureC, double ExtrusionMultiplier, double? WallMm, double? Expansion, double? Uncertainty, double? DensityGPerCm3, bool Weighed, bool Stable);

/// <summary>What foaming walls say.</summary>
public enum FoamOutcome
{
    /// <summary>Nothing that ran is read, or nothing foams enough below the machine's limit.</summary>
    Insufficient,

    /// <summary>A multiplier, reckoned from the expansion at the full one: a check piece follows.</summary>
    Suggest,

    /// <summary>The wall would want less than what was seen steady: the lowest that ran.</summary>
    Bounded,

    /// <summary>The wall is as it is meant.</summary>
    Settled,

    /// <summary>Another multiplier than the one tried.</summary>
    Adjust,

    /// <summary>The hottest step foams most: it may foam more beyond.</summary>
    Edge,

    /// <summary>Not to be told yet.</summary>
    MeasureMore,
}

/// <summary>What foaming walls warn of.</summary>
public enum FoamCaution
{
    /// <summary>The steps differ by less than their readings scatter.</summary>
    IndistinctSteps,

    /// <summary>The wanted density needs more expansion than there is.</summary>
    TooLight,

    /// <summary>The file counts with another filament diameter than was measured.</summary>
    OtherDiameter,
}

/// <summary>The numbers at the chosen temperature, for the words. Widths in mm.</summary>
/// <param name="Chosen">Step of the curve that is chosen.</param>
/// <param name="Nearest">Step whose wall is nearest to the target: it tells the expansion.</param>
/// <param name="Alike">How many steps are not inferior to the greatest.</param>
/// <param name="TargetMm">Wall that is wanted.</param>
/// <param name="Wish">Multiplier that the target wants, not rounded and not bounded.</param>
/// <param name="WallMm">Wall at the suggestion.</param>
/// <param name="DensityGPerCm3">Density at the suggestion.</param>
/// <param name="ReadingHalfMm">95 % half-width of the nearest step's wall; infinite for one reading.</param>
/// <param name="Between">Multiplier worth a try between steady and blobs; not a number where there is none.</param>
public sealed record FoamNumbers(
    Expanded Chosen, Expanded Nearest, int Alike, double TargetMm, double Wish, double WallMm, double DensityGPerCm3, double ReadingHalfMm, double Between);

/// <summary>The verdict on foaming walls.</summary>
public sealed record FoamVerdict : TrialVerdict<FoamOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public FoamReadings From { get; init; } = new();

    /// <summary>Step that foams most of those that ran; null where none ran.</summary>
    [JsonIgnore]
    public Expanded? Greatest { get; init; }

    /// <summary>The numbers at the chosen temperature; null where none is chosen.</summary>
    [JsonIgnore]
    public FoamNumbers? Numbers { get; init; }

    /// <summary>What it warns of.</summary>
    [JsonIgnore]
    public IReadOnlyList<FoamCaution> Cautions { get; init; } = [];

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Chosen temperature, °C; null where none is.</summary>
    public double? ChosenTemperatureC { get; init; }

    /// <summary>Expansion of each step in the order of temperature and multiplier.</summary>
    public IReadOnlyList<Expanded> Expansion { get; init; } = [];

    /// <summary>Suggested multiplier, three decimals.</summary>
    public double? SuggestedMultiplier { get; init; }

    /// <summary>95 % half-width of it.</summary>
    public double? SuggestedUncertainty { get; init; }

    /// <summary>Lowest multiplier that was seen stable at the chosen temperature; the suggestion goes no lower.</summary>
    public double? LowestStableMultiplier { get; init; }

    /// <summary>Highest multiplier below it that turned to blobs at the chosen temperature; null where none did. Between the two it chokes.</summary>
    public double? HighestBlobsMultiplier { get; init; }

    /// <summary>Wall at the suggestion, mm.</summary>
    public double? PredictedWallMm { get; init; }

    /// <summary>Density at the suggestion, g/cm³.</summary>
    public double? PredictedDensityGPerCm3 { get; init; }

    /// <summary>Mass saved against a solid part of the same shape, %.</summary>
    public double? MassSavingPercent { get; init; }
}
