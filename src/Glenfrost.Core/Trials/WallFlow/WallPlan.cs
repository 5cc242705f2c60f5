using Glenfrost.Core.Statistics;
using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.WallFlow;

/// <summary>What a tester asks of a wall flow trial. Lengths in mm.</summary>
public sealed record WallRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Multiplier that it is printed with.</summary>
    public decimal ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Line width that the wall should have.</summary>
    public decimal TargetWidthMm { get; init; } = 0.44m;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Side of the square, outside.</summary>
    public decimal SideMm { get; init; } = 40;

    /// <summary>Height.</summary>
    public decimal HeightMm { get; init; } = 16;

    /// <summary>Heights at which each side is read.</summary>
    public decimal ReadingHeights { get; init; } = 4;

    /// <summary>How far the wall may be off, %.</summary>
    public decimal TolerancePercent { get; init; } = 2;

    /// <summary>rectangular or stadium.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    [AddedLater]
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints too; empty while it was not asked.</summary>
    public string Override { get; init; } = "";

    /// <summary>True with a brim.</summary>
    public bool Brim { get; init; } = true;

    /// <summary>True where it is the check of a multiplier that a run before it gave.</summary>
    public bool Check { get; init; }
}

/// <summary>A wall flow trial that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record WallPlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required WallRequest Request { get; init; }

    /// <summary>Layers.</summary>
    public int Layers { get; init; }

    /// <summary>Nozzle that the piece is scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Heights at which each side is read, mm; marks stand there.</summary>
    public IReadOnlyList<decimal> HeightsMm { get; init; } = [];

    /// <summary>Filament that the file feeds for each mm of wall, mm; null where there is no file.</summary>
    public double? FeedPerMm { get; init; }

    /// <summary>Filament diameter that the file counts with, mm.</summary>
    public double? FileDiameterMm { get; init; }

    /// <summary>Measured mean diameter of the spool, mm; null where nobody measured.</summary>
    public double? MeasuredDiameterMm { get; init; }

    /// <summary>Time, mass, cost.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts =>
        [
            .. TestPieces.MarkedWall.Sides.Select(
                (s, i) => new PlanPart(i, s, 1, Layers, 0, (double)(Layers * Request.LayerHeightMm), (double)Request.NozzleTemperatureC)),
        ];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        $"a square of single walls, {Say.N(Request.SideMm)} mm, for a wall of {Say.N(Request.TargetWidthMm)} mm at multiplier " +
            $"{Say.N(Request.ExtrusionMultiplier, 3)}, {Say.N(Request.NozzleTemperatureC)} °C{(Request.Check ? ", a check" : "")}";

    [JsonIgnore]
    int ITrialPlan.TotalLayers => Layers;

    [JsonIgnore]
    int? ITrialPlan.LayersPerPiece => null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints => [new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C", "all of it")];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => "Display";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => true;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Request.NozzleTemperatureC;

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Request.NozzleTemperatureC;
}
