using Glenfrost.Core.Gcode.Writing;
using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>A range of temperatures, °C; either end may be open.</summary>
public sealed record TemperatureRange(decimal? Min = null, decimal? Max = null, decimal? ContinuousMax = null, [property: NotStored] string? MaxBecause = null);

/// <summary>What a tester asks of a temperature tower. Lengths in mm, temperatures in °C; missing values are refused at their field.</summary>
/// <remarks>
/// Either Glenfrost's own piece (<see cref="SectionHeightMm"/>, <see cref="BaseHeightMm"/>) or somebody's own model
/// (<see cref="TotalLayers"/>, <see cref="BaseLayers"/>, <see cref="Sections"/>).
/// </remarks>
public sealed record TowerRequest
{
    /// <summary>Temperature of the lowest section, °C.</summary>
    public decimal? HottestC { get; init; }

    /// <summary>Temperature of the topmost section, °C.</summary>
    public decimal? CoolestC { get; init; }

    /// <summary>Difference between neighbours, °C, 1–20.</summary>
    public decimal? StepC { get; init; }

    /// <summary>Height of one section, mm.</summary>
    public decimal? SectionHeightMm { get; init; }

    /// <summary>Height of the base below the first section, first layer included, mm.</summary>
    public decimal? BaseHeightMm { get; init; }

    /// <summary>Layer height, mm.</summary>
    public decimal? LayerHeightMm { get; init; }

    /// <summary>Height of the first layer, mm.</summary>
    public decimal? FirstLayerHeightMm { get; init; }

    /// <summary>Layers of somebody's own model, base included.</summary>
    public decimal? TotalLayers { get; init; }

    /// <summary>Layers of its base.</summary>
    public decimal? BaseLayers { get; init; }

    /// <summary>Number of sections of somebody's own model.</summary>
    public decimal? Sections { get; init; }

    /// <summary>True where boundaries may be rounded to their nearest layer (own model only).</summary>
    public bool RoundByHeight { get; init; }

    /// <summary>Nozzle diameter, mm; 0.4 where not given.</summary>
    public decimal? NozzleDiameterMm { get; init; }

    /// <summary>Free height above the bed, mm; not judged where not given.</summary>
    public decimal? BedHeightMm { get; init; }

    /// <summary>Depth of the piece, mm; by the nozzle where not given.</summary>
    public decimal? PieceDepthMm { get; init; }

    /// <summary>True where a brim holds the piece.</summary>
    public bool Brim { get; init; }

    /// <summary>Distance of the posts, mm: the free span of the bridge; by the nozzle where not given.</summary>
    public decimal? BridgeSpanMm { get; init; }

    /// <summary>Clear distance between the reeds, mm; 8 where not given.</summary>
    public decimal? ReedGapMm { get; init; }

    /// <summary>Lean of the flare from the upright, degrees; 45 where not given.</summary>
    public decimal? SlabAngleDeg { get; init; }

    /// <summary>Height of the section's number, mm; by the nozzle where not given.</summary>
    public decimal? TextHeightMm { get; init; }

    /// <summary>True for separate equal pieces on one plate, printed one after another, instead of one tower.</summary>
    [AddedLater]
    public bool Separate { get; init; }

    /// <summary>Walls and bead model; the usual ones where not given.</summary>
    public Gcode.Writing.PrintChoices? Print { get; init; }

    /// <summary>True where the print waits at each change until the nozzle is there.</summary>
    [AddedLater]
    public bool WaitAtChanges { get; init; }

    /// <summary>The machine's limits: no plan goes beyond them.</summary>
    public TemperatureRange? Limits { get; init; }

    /// <summary>Advice of label or family: allowed beyond, and marked.</summary>
    public TemperatureRange? Advised { get; init; }

    /// <summary>Density for grams, g/cm³; 1.24 where not given.</summary>
    public decimal? DensityGPerCm3 { get; init; }

    /// <summary>True for somebody's own model.</summary>
    public bool IsOwnModel => TotalLayers is not null || BaseLayers is not null || Sections is not null;
}

/// <summary>One section of a planned tower.</summary>
/// <param name="Index">From 0, lowest first.</param>
/// <param name="TemperatureC">Nozzle temperature, °C.</param>
/// <param name="FromZMm">Lower edge above the bed, mm; null where the layer height is not known.</param>
/// <param name="ToZMm">Upper edge, mm; null where the layer height is not known.</param>
/// <param name="FirstLayer">First layer, counted from 1.</param>
/// <param name="LastLayer">Last layer.</param>
public sealed record TowerSection(int Index, decimal TemperatureC, decimal? FromZMm, decimal? ToZMm, int FirstLayer, int LastLayer);

/// <summary>What the printer's display should show from a layer on.</summary>
/// <param name="Layer">Layer, counted from 1.</param>
/// <param name="ZMm">Height at which this layer begins, mm; null where the layer height is not known.</param>
/// <param name="TemperatureC">Nozzle temperature on the display, °C.</param>
/// <param name="SectionIndex">Section that begins here; the base belongs to section 0.</param>
/// <param name="IsChange">False for the start of the print, true for each change.</param>
/// <param name="AtSeconds">Seconds after the first move; null where there is no file.</param>
/// <param name="Piece">Piece of the plate, from 0; null for one tower.</param>
public sealed record TowerCheckpoint(
    int Layer, decimal? ZMm, decimal TemperatureC, int SectionIndex, bool IsChange, double? AtSeconds = null, int? Piece = null);

/// <summary>A tower that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record TowerPlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required TowerRequest Request { get; init; }

    /// <summary>Sections, lowest and hottest first.</summary>
    public required IReadOnlyList<TowerSection> Sections { get; init; }

    /// <summary>Layers in a section; null where boundaries were rounded by height.</summary>
    public int? LayersPerSection { get; init; }

    /// <summary>Layers of the base.</summary>
    public int BaseLayers { get; init; }

    /// <summary>All layers.</summary>
    public int TotalLayers { get; init; }

    /// <summary>Height of the piece, mm; null where the layer height is not known.</summary>
    public decimal? HeightMm { get; init; }

    /// <summary>Layers at the bottom of each section that the heater's lag spoils; null where there is no file.</summary>
    public IReadOnlyList<int>? LagLayers { get; init; }

    /// <summary>Difference between neighbours, °C.</summary>
    public decimal StepC { get; init; }

    /// <summary>Height over the smallest side of the footprint; null for somebody's own model.</summary>
    public double? Slenderness { get; init; }

    /// <summary>Checkpoint table.</summary>
    public required IReadOnlyList<TowerCheckpoint> Checkpoints { get; init; }

    /// <summary>Largest distance of a boundary from its exact height, in layers; 0 where none was rounded.</summary>
    public decimal WorstBoundaryErrorLayers { get; init; }

    /// <summary>Rough time and mass.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Form of its stiles, null for the first: two towers of different forms are no repeats, whatever was asked.</summary>
    public int? StileForm { get; init; }

    /// <summary>Name of somebody's own sliced file that is stepped for it; null where there is none.</summary>
    public string? OwnFileName { get; init; }

    /// <inheritdoc/>
    string? ITrialPlan.OwnFile => OwnFileName;

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make the tower better, for example two towers instead of a slender one.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>Parts in the order of printing; separate pieces each with all of their layers.</summary>
    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts =>
        [
            .. Sections.Select(s => new PlanPart(
                s.Index, $"{Say.N(s.TemperatureC, 1)} °C", LayersPerPiece is { } n ? s.Index * n + 1 : s.FirstLayer,
                LayersPerPiece is { } m ? (s.Index + 1) * m : s.LastLayer, (double?)s.FromZMm, (double?)s.ToZMm, (double)s.TemperatureC)),
        ];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        $"{Say.Plural(Sections.Count, "section")}, {Say.N(Sections[0].TemperatureC)} → {Say.N(Sections[^1].TemperatureC)} °C by {Say.N(StepC)}, " +
            $"{(Request.Separate ? "separate pieces, hottest first" : "hottest at the bottom")} · " +
            $"{(Request.LayerHeightMm is { } lh ? $"{Say.N(lh)} mm layers, " : "")}{(LayersPerSection is { } per ? $"{per} a section" : "rounded by height")}";

    /// <summary>Layers of each separate piece; null for one tower.</summary>
    [JsonIgnore]
    public int? LayersPerPiece => Request.Separate ? Math.Max(1, TotalLayers / Sections.Count) : null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints =>
        [
            .. Checkpoints.Select(c => new PlanCheckpoint(
                c.Layer, (double?)c.ZMm, Say.N(c.TemperatureC), c.IsChange ? $"{c.SectionIndex + 1}" : "base and 1", c.AtSeconds, c.Piece)),
        ];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => "Display, °C";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => !Request.IsOwnModel;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Sections.Max(s => s.TemperatureC);

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Sections.Min(s => s.TemperatureC);
}

/// <summary>A plan, or the fields at which it is refused.</summary>
public sealed record TowerPlanResult(TowerPlan? Plan, IReadOnlyList<FieldError> Errors);
