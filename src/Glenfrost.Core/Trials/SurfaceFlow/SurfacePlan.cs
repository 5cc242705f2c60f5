using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>What a tester asks of a flow strip. Lengths in mm.</summary>
public sealed record SurfaceRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Multiplier of the middle step.</summary>
    public decimal ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Steps, an odd number.</summary>
    public decimal Patches { get; init; } = 7;

    /// <summary>Difference between neighbours, %.</summary>
    public decimal StepPercent { get; init; } = 4;

    /// <summary>Length of a step.</summary>
    public decimal StepMm { get; init; } = 22;

    /// <summary>Across.</summary>
    public decimal WidthMm { get; init; } = 18;

    /// <summary>Layers.</summary>
    public decimal Layers { get; init; } = 7;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    [AddedLater]
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";
}

/// <summary>A flow strip that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record SurfacePlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required SurfaceRequest Request { get; init; }

    /// <summary>Change of each step from left to right, %.</summary>
    public required IReadOnlyList<decimal> ChangesPercent { get; init; }

    /// <summary>Time, mass, cost.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>A change as it is called.</summary>
    public static string Label(decimal change) => change == 0 ? "middle" : $"{Say.Signed((double)change, 2)} %";

    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts =>
        [
            .. ChangesPercent.Select(
                (c, i) =>
                    new PlanPart(i, Label(c), 1, (int)Request.Layers, 0, (double)(Request.Layers * Request.LayerHeightMm), (double)Request.NozzleTemperatureC)),
        ];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        $"a strip of {ChangesPercent.Count} steps, {Say.Signed((double)ChangesPercent[0], 2)} to {Say.Signed((double)ChangesPercent[^1], 2)} % around " +
            $"{Say.N(Request.ExtrusionMultiplier, 3)}, {Say.N(Request.NozzleTemperatureC)} °C";

    [JsonIgnore]
    int ITrialPlan.TotalLayers => (int)Request.Layers;

    [JsonIgnore]
    int? ITrialPlan.LayersPerPiece => null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints =>
        [
            new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C", "all of it"),
            new(
                TestPieces.StripSize.BaseLayers + 1, (double)(TestPieces.StripSize.BaseLayers * Request.LayerHeightMm),
                $"{Say.N(Request.NozzleTemperatureC)} °C", "flow steps begin"),
        ];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => "Display";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => true;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Request.NozzleTemperatureC;

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Request.NozzleTemperatureC;
}
