using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>The number fields of a tower plan: unit, range and reason, for pages and API alike.</summary>
public static class TowerFields
{
    /// <summary>All fields by their fixed names.</summary>
    public static IReadOnlyDictionary<string, Quantity> All { get; } = new Dictionary<string, Quantity>
    {
        ["hottestC"] = new("Hottest", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
        ["coolestC"] = new("Coolest", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
        ["stepC"] = new("Step", "°C", 1, 20, "finer than a heater holds, or coarser than a band is wide"),
        ["sectionHeightMm"] = new("Section height", "mm", 2, 60, "lower than a bridge needs, or taller than a tower bears"),
        ["baseHeightMm"] = new("Base height", "mm", 0.04m, 20, "at least the first layer, and no pedestal"),
        ["layerHeightMm"] = new("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["firstLayerHeightMm"] = new("First layer", "mm", 0.04m, 1.2m, "thinner than a bed is flat, or thicker than a nozzle lays"),
        ["totalLayers"] = new("Total layers", "", 3, 20000, "count them in the slicer's preview", true),
        ["baseLayers"] = new("Base layers", "", 0, 5000, "layers below the first section", true),
        ["sections"] = new("Sections", "", 2, 60, "one section compares nothing", true),
        ["nozzleDiameterMm"] = new("Nozzle", "mm", 0.1m, 2m, "no nozzle is finer or wider"),
        ["bedHeightMm"] = new("Height above the bed", "mm", 20m, 2000m, "the printer's free height"),
        ["pieceDepthMm"] = new("Depth of the piece", "mm", 4m, 80m, "thinner falls over, thicker wastes filament"),
        ["bridgeSpanMm"] = new("Between the posts", "mm", 0.1m, 60m, "beyond 60 mm every filament sags"),
        ["reedGapMm"] = new("Between the reeds", "mm", 0.1m, 40m, "strings show between 8 and 25 mm"),
        ["slabAngleDeg"] = new("Lean of the flare", "°", 20m, 70m, "upright it tells nothing, flatter it falls"),
        ["textHeightMm"] = new("Height of the notches", "mm", 0.5m, 40m, "smaller can't be told"),
        ["densityGPerCm3"] = new("Density", "g/cm³", 0.3m, 8m, "no filament is lighter or heavier"),
    };
}
