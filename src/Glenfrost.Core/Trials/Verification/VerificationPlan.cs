using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.Verification;

/// <summary>What is asked of a verification print. Lengths in mm.</summary>
public sealed record VerificationRequest
{
    /// <summary>vane for the detailed piece, clip for the functional one.</summary>
    public string? Mode { get; init; } = VerificationTrial.Vane;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Score that each zone is to reach, 0–4.</summary>
    public decimal TargetScore { get; init; } = 3;

    /// <summary>Diameter of the rod that the clip is made for.</summary>
    public decimal RodMm { get; init; } = 8;

    /// <summary>How much wider its bore is drawn than the rod.</summary>
    public decimal ClearanceMm { get; init; } = 0.2m;

    /// <summary>How far the play may be off.</summary>
    public decimal ToleranceMm { get; init; } = 0.15m;

    /// <summary>Largest gap under an end of the foot that still passes for flat.</summary>
    public decimal MostGapMm { get; init; } = 0.3m;
}

/// <summary>A verification print that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record VerificationPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required VerificationRequest Request { get; init; }

    /// <summary>Width of a line, mm.</summary>
    public double LineWidthMm { get; init; } = 0.44;

    /// <summary>Nozzle that the piece is scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>True for the gauge clip.</summary>
    [JsonIgnore]
    public bool IsClip => Request.Mode == VerificationTrial.Clip;

    /// <summary>Measures of the vane.</summary>
    [JsonIgnore]
    public VaneSize VaneSize => new(NozzleMm, LineWidthMm, (double)Request.LayerHeightMm);

    /// <summary>Measures of the clip.</summary>
    [JsonIgnore]
    public ClipSize ClipSize => new((double)Request.RodMm, (double)Request.ClearanceMm, NozzleMm, (double)Request.LayerHeightMm);

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        IsClip
            ? [new(0, "all of it", 1, ClipSize.Layers, 0, ClipSize.HeightMm, NozzleC)]
            : [.. VaneSize.Parts.Select((p, i) => new PlanPart(i, p.Label, Layer(p.FromMm) + 1, Layer(p.ToMm), p.FromMm, p.ToMm, NozzleC))];

    private int Layer(double mm) => (int)Math.Round(mm / (double)Request.LayerHeightMm);

    /// <inheritdoc/>
    protected override string InWords => IsClip
        ? $"a gauge clip for a rod of {Say.N(Request.RodMm, 2)} mm, {Say.N(Request.ClearanceMm, 2)} mm wider, at {Say.N(Request.NozzleTemperatureC)} °C"
        : $"a small vane, {Say.N(VaneSize.HeightMm, 1)} mm high in {Say.Plural(VaneSize.Parts.Count, "zone")}, at {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => IsClip ? ClipSize.Layers : VaneSize.Layers;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf => [new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C", "all of it")];
}
