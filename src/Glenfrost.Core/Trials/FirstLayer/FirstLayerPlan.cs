using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FirstLayer;

/// <summary>What a tester asks of first-layer patches. Lengths in mm.</summary>
public sealed record FirstLayerRequest
{
    /// <summary>Nozzle offset that the printer has now.</summary>
    public decimal NozzleOffsetMm { get; init; }

    /// <summary>Between neighbours.</summary>
    public decimal StepMm { get; init; } = 0.02m;

    /// <summary>Offsets, an odd number.</summary>
    public decimal Count { get; init; } = 7;

    /// <summary>Side of a patch.</summary>
    public decimal PatchMm { get; init; } = 12;

    /// <summary>First-layer height.</summary>
    public decimal FirstLayerHeightMm { get; init; } = 0.2m;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Bed, °C.</summary>
    public decimal BedTemperatureC { get; init; } = 60;

    /// <summary>First-layer speed, mm/s.</summary>
    public decimal SpeedMmPerS { get; init; } = 20;

    /// <summary>none, grip or release: what lies on the bed.</summary>
    public string Adhesive { get; init; } = "none";

    /// <summary>True with a group in each corner.</summary>
    public bool Corners { get; init; } = true;
}

/// <summary>First-layer patches that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record FirstLayerPlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required FirstLayerRequest Request { get; init; }

    /// <summary>Offsets against the present one, the lowest first, mm.</summary>
    public required IReadOnlyList<decimal> ChangesMm { get; init; }

    /// <summary>Bed, mm.</summary>
    public double BedXMm { get; init; } = 220;

    /// <summary>Bed, mm.</summary>
    public double BedYMm { get; init; } = 220;

    /// <summary>Time, mass, cost.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>A change as it is called.</summary>
    public static string Label(decimal change) => change == 0 ? "present" : $"{Say.Signed((double)change, 3)} mm";

    /// <summary>The patches' measures.</summary>
    [JsonIgnore]
    public TestPieces.PatchSize Size =>
        new([.. ChangesMm.Select(c => (double)c)], (double)Request.FirstLayerHeightMm, (double)Request.PatchMm, BedXMm, BedYMm, Request.Corners);

    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts =>
        [
            .. ChangesMm.Select(
                (c, i) => new PlanPart(i, Label(c), i + 1, i + 1, 0, (double)(Request.FirstLayerHeightMm + c), (double)Request.NozzleTemperatureC)),
        ];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        $"around {Say.N(Request.NozzleOffsetMm, 3)} mm by {Say.N(Request.StepMm, 3)}, " +
            $"{(Request.Corners ? "in the middle and in four corners" : "in the middle")} · nozzle {Say.N(Request.NozzleTemperatureC)}, bed " +
            $"{Say.N(Request.BedTemperatureC)} °C, {Say.N(Request.SpeedMmPerS)} mm/s";

    [JsonIgnore]
    int ITrialPlan.TotalLayers => ChangesMm.Count;

    [JsonIgnore]
    int? ITrialPlan.LayersPerPiece => null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints =>
        [
            .. ChangesMm.Select(
                (c, i) => new PlanCheckpoint(i + 1, (double)(Request.FirstLayerHeightMm + c), $"z {Say.N(Request.FirstLayerHeightMm + c, 3)}", Label(c))),
        ];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => "Display, z";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => true;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Request.NozzleTemperatureC;

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Request.NozzleTemperatureC;
}
