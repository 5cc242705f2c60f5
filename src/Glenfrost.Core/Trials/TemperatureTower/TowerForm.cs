namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>
/// What the plan page asks of a tower: the fields of a <see cref="TowerRequest"/> that a tester fills in. Limits, advice and sizes come from the machine and
/// the filament.
/// </summary>
public sealed record TowerForm
{
    /// <summary>Empty for Glenfrost's own piece, own for somebody's own model.</summary>
    public string Mode { get; init; } = "";

    /// <summary>Temperature of the lowest section, °C.</summary>
    public decimal? HottestC { get; init; }

    /// <summary>Temperature of the topmost section, °C.</summary>
    public decimal? CoolestC { get; init; }

    /// <summary>Difference between neighbours, °C.</summary>
    public decimal? StepC { get; init; }

    /// <summary>Height of one section, mm.</summary>
    public decimal? SectionHeightMm { get; init; }

    /// <summary>Height of the base, first layer included, mm.</summary>
    public decimal? BaseHeightMm { get; init; }

    /// <summary>Layer height, mm.</summary>
    public decimal? LayerHeightMm { get; init; }

    /// <summary>Height of the first layer, mm.</summary>
    public decimal? FirstLayerHeightMm { get; init; }

    /// <summary>Layers of an own model, base included.</summary>
    public decimal? TotalLayers { get; init; }

    /// <summary>Layers of its base.</summary>
    public decimal? BaseLayers { get; init; }

    /// <summary>Sections of it.</summary>
    public decimal? Sections { get; init; }

    /// <summary>True where its boundaries may be rounded to their nearest layer.</summary>
    public bool RoundByHeight { get; init; }

    /// <summary>Depth of the piece, mm.</summary>
    public decimal? PieceDepthMm { get; init; }

    /// <summary>Distance of the posts, mm.</summary>
    public decimal? BridgeSpanMm { get; init; }

    /// <summary>Clear distance between the reeds, mm.</summary>
    public decimal? ReedGapMm { get; init; }

    /// <summary>Lean of the flare from the upright, degrees.</summary>
    public decimal? SlabAngleDeg { get; init; }

    /// <summary>Height of the section's number, mm.</summary>
    public decimal? TextHeightMm { get; init; }

    /// <summary>True where a brim holds the piece.</summary>
    public bool Brim { get; init; }

    /// <summary>Empty for one tower, separate for separate pieces.</summary>
    public string Arrangement { get; init; } = "";

    /// <summary>True where the print waits at each change.</summary>
    public bool WaitAtChanges { get; init; }

    /// <summary>Walls.</summary>
    public decimal? Walls { get; init; }

    /// <summary>Empty for inner walls first, outer for the outer wall first.</summary>
    public string WallOrder { get; init; } = "";

    /// <summary>Empty for rectangular beads, stadium for half-round ends.</summary>
    public string Bead { get; init; } = "";
}
