using Glenfrost.Core.Statistics;
using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <summary>What a tester asks of foaming walls. Lengths in mm.</summary>
public sealed record FoamingRequest
{
    /// <summary>temperatures, or multipliers at one temperature.</summary>
    public string Mode { get; init; } = FoamingFlowTrial.TemperatureMode;

    /// <summary>Temperature of the lowest section, °C.</summary>
    public decimal HottestC { get; init; } = 250;

    /// <summary>Temperature of the topmost section, °C.</summary>
    public decimal CoolestC { get; init; } = 200;

    /// <summary>Step, °C.</summary>
    public decimal StepC { get; init; } = 10;

    /// <summary>The full multiplier: right where it does not foam.</summary>
    public decimal ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Nozzle for multipliers, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 230;

    /// <summary>Greatest multiplier, at the bottom.</summary>
    public decimal MostMultiplier { get; init; } = 0.7m;

    /// <summary>Least multiplier, at the top.</summary>
    public decimal LeastMultiplier { get; init; } = 0.5m;

    /// <summary>Between neighbours.</summary>
    public decimal MultiplierStep { get; init; } = 0.1m;

    /// <summary>Line width that is wanted.</summary>
    public decimal TargetWidthMm { get; init; } = 0.44m;

    /// <summary>Wall where it does not foam; null: the sliced line.</summary>
    public decimal? ReferenceWidthMm { get; init; }

    /// <summary>Density that is wanted, g/cm³.</summary>
    public decimal? TargetDensityGPerCm3 { get; init; }

    /// <summary>Fixed speed, mm/s.</summary>
    public decimal SpeedMmPerS { get; init; } = 25;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Side of the square.</summary>
    public decimal SideMm { get; init; } = 35;

    /// <summary>Height of a section.</summary>
    public decimal SectionHeightMm { get; init; } = 8;

    /// <summary>True with a brim.</summary>
    public bool Brim { get; init; } = true;

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    [AddedLater]
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>What a multiplier of the file is in real prints.</summary>
    internal double FlowFactor => FlowOverride.Factor(ResidualFlowPercent, Override);
}

/// <summary>A step of a plan.</summary>
/// <param name="TemperatureC">Nozzle, °C.</param>
/// <param name="Multiplier">Multiplier.</param>
public sealed record PlannedFoam(decimal TemperatureC, decimal Multiplier);

/// <summary>Foaming walls that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record FoamingPlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required FoamingRequest Request { get; init; }

    /// <summary>Steps, lowest first.</summary>
    public required IReadOnlyList<PlannedFoam> Steps { get; init; }

    /// <summary>Layers of a section.</summary>
    public int SectionLayers { get; init; }

    /// <summary>Nozzle that the piece is scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Seconds after the first move at which each section begins; null where there is no file.</summary>
    public IReadOnlyList<double>? StartSeconds { get; init; }

    /// <summary>Filament diameter that the file counts with, and the spool's measured one, mm; null where not known.</summary>
    public double? FileDiameterMm { get; init; }

    /// <summary>Measured mean diameter of the spool, mm.</summary>
    public double? MeasuredDiameterMm { get; init; }

    /// <summary>Time, mass, cost.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>True where temperatures are the steps.</summary>
    [JsonIgnore]
    public bool ByTemperature => Request.Mode == FoamingFlowTrial.TemperatureMode;

    /// <summary>A step as it is called.</summary>
    public string Label(PlannedFoam s) => ByTemperature ? $"{Say.N(s.TemperatureC)} °C" : $"× {Say.N(s.Multiplier, 3)}";

    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts =>
        [
            .. Steps.Select(
                (s, i) =>
                    new PlanPart(
                        i, Label(s), i * SectionLayers + 1, (i + 1) * SectionLayers, (double)(i * SectionLayers * Request.LayerHeightMm),
                        (double)((i + 1) * SectionLayers * Request.LayerHeightMm), (double)s.TemperatureC)),
        ];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        ByTemperature
            ? $"{Say.N(Steps[0].TemperatureC)} → {Say.N(Steps[^1].TemperatureC)} °C by {Say.N(Request.StepC)} at multiplier " +
                $"{Say.N(Request.ExtrusionMultiplier, 3)}, all at {Say.N(Request.SpeedMmPerS)} mm/s"
            : $"at {Say.N(Request.NozzleTemperatureC)} °C, multiplier " +
                $"{Say.N(Steps[0].Multiplier, 3)}{(Steps.Count > 1 ? $" → {Say.N(Steps[^1].Multiplier, 3)}" : "")}, all at {Say.N(Request.SpeedMmPerS)} mm/s";

    [JsonIgnore]
    int ITrialPlan.TotalLayers => SectionLayers * Steps.Count;

    [JsonIgnore]
    int? ITrialPlan.LayersPerPiece => null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints =>
        [
            .. Steps.Select(
                (s, i) =>
                    new PlanCheckpoint(
                        i * SectionLayers + 1, (double)(i * SectionLayers * Request.LayerHeightMm),
                        $"{Say.N(s.TemperatureC)} °C{(ByTemperature ? "" : $", × {Say.N(s.Multiplier, 3)}")}", $"{i + 1}", StartSeconds?.ElementAtOrDefault(i))
            ),
        ];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => ByTemperature ? "Display" : "Display, flow";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => true;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Steps.Max(s => s.TemperatureC);

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Steps.Min(s => s.TemperatureC);
}
