using System.Text.Json.Serialization;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Masses of equal lengths that were extruded at rising flow.</summary>
public sealed record WeighedReadings
{
    /// <summary>Flow of the first sample, mm³/s.</summary>
    public double StartFlowMm3PerS { get; init; } = 2;

    /// <summary>Rise from sample to sample, mm³/s.</summary>
    public double StepMm3PerS { get; init; } = 2;

    /// <summary>Masses of each sample, g, one or several; empty where it was not weighed.</summary>
    public IReadOnlyList<IReadOnlyList<double>> MassesG { get; init; } = [];

    /// <summary>Smallest step of the scale, g.</summary>
    public double ScaleResolutionG { get; init; } = 0.01;

    /// <summary>Loss that is accepted, %.</summary>
    public double RecommendLossPercent { get; init; } = 5;

    /// <summary>Loss that is the limit, %.</summary>
    public double LimitLossPercent { get; init; } = 10;

    /// <summary>Margin below the accepted loss, %.</summary>
    public double MarginPercent { get; init; } = (double)FlowWeighedTrial.FreeAirMargin;

    /// <summary>Filament commanded for each sample, mm; null where nobody said.</summary>
    public double? ExtrudedLengthMm { get; init; }

    /// <summary>Its diameter, mm.</summary>
    public double? FilamentDiameterMm { get; init; }

    /// <summary>Its density, g/cm³.</summary>
    public double? DensityGPerCm3 { get; init; }

    /// <summary>Samples that failed otherwise, by index, with the reason: kept, and left out.</summary>
    public IReadOnlyDictionary<int, string> Failed { get; init; } = new Dictionary<int, string>();

    /// <summary>First sample at which clicking or grinding was heard; null for none.</summary>
    public int? ClickedAt { get; init; }

    /// <summary>Area model of the table of speeds.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>Nozzle, mm, for the table of speeds.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Fixes what is drawn.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>Flow of a sample, mm³/s.</summary>
    public double Flow(int i) => StartFlowMm3PerS + i * StepMm3PerS;
}

/// <summary>A sample that counts, for the words. Masses in g.</summary>
/// <param name="FlowMm3PerS">Its flow.</param>
/// <param name="MassesG">As they were weighed.</param>
/// <param name="MeanG">Their mean.</param>
/// <param name="FittedLossPercent">Loss on the fitted curve, %.</param>
public sealed record WeighedSample(double FlowMm3PerS, IReadOnlyList<double> MassesG, double MeanG, double FittedLossPercent);

/// <summary>The numbers between readings and verdict, for the words.</summary>
/// <param name="Samples">Samples that count, in the order of their flow.</param>
/// <param name="Full">How many of them are at full mass.</param>
/// <param name="FullG">Full mass, not rounded.</param>
/// <param name="EachG">Scatter of one mass.</param>
/// <param name="ScaleG">Mass that the scale is judged by.</param>
/// <param name="AsPlanned">True where the full mass is that of the commanded length.</param>
/// <param name="DipsMm3PerS">Flows of samples that are lighter than both neighbours by more than chance.</param>
public sealed record WeighedNumbers(
    IReadOnlyList<WeighedSample> Samples, int Full, double FullG, double EachG, double ScaleG, bool AsPlanned, IReadOnlyList<double> DipsMm3PerS)
{
    /// <summary>Flow at the accepted loss, not rounded; null where it was not reached.</summary>
    public double? AtMm3PerS { get; init; }
}

/// <summary>The verdict on weighed samples.</summary>
public sealed record WeighedFlowVerdict : FlowVerdict
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public WeighedReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where too little is weighed.</summary>
    [JsonIgnore]
    public WeighedNumbers? Numbers { get; init; }

    /// <summary>Flow of each sample, mm³/s.</summary>
    public IReadOnlyList<double> FlowsMm3PerS { get; init; } = [];

    /// <summary>Loss of each sample against the fitted full mass, %; null where it does not count.</summary>
    public IReadOnlyList<double?> LossPercent { get; init; } = [];

    /// <summary>The fitted loss, which never falls; null where a sample does not count.</summary>
    public IReadOnlyList<double?> FittedLossPercent { get; init; } = [];

    /// <summary>Full mass, g.</summary>
    public double? FullMassG { get; init; }

    /// <summary>Last flow with the full mass, mm³/s.</summary>
    public double? OnsetFlowMm3PerS { get; init; }

    /// <summary>Flow at the accepted loss, mm³/s.</summary>
    public double? RecommendLossFlowMm3PerS { get; init; }

    /// <summary>95 % interval of the flow at the accepted loss.</summary>
    public FlowBracket? RecommendInterval { get; init; }

    /// <summary>95 % interval of the flow at the limit loss.</summary>
    public FlowBracket? LimitInterval { get; init; }

    /// <summary>95 % interval of the onset.</summary>
    public FlowBracket? OnsetInterval { get; init; }

    /// <summary>True where the scale tells the loss within one point.</summary>
    public bool ScaleAdequate { get; init; }

    /// <summary>How surely one loss is known, ± points, for the scale alone.</summary>
    public double? LossUncertaintyPoints { get; init; }

    /// <summary>Length of sample that would do, mm.</summary>
    public double? NeededLengthMm { get; init; }

    /// <summary>Mass that the commanded length should have, g; null where length, diameter or density is not known.</summary>
    public double? ExpectedMassG { get; init; }

    /// <summary>The same samples at another temperature; never averaged with these. Null for none.</summary>
    public WeighedFlowVerdict? Other { get; init; }

    /// <summary>Nozzle temperature, °C; null where nobody said.</summary>
    public double? NozzleTemperatureC { get; init; }
}
