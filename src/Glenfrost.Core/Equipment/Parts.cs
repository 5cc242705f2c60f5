namespace Glenfrost.Core.Equipment;

/// <summary>A place on a printer or toolhead where a part is fitted and can be exchanged.</summary>
/// <param name="Key">Stored word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="OnToolhead">True for parts of a toolhead, false for parts of the whole printer.</param>
public sealed record PartSlot(string Key, string Label, bool OnToolhead)
{
    /// <summary>All places, in the order in which a filament passes them.</summary>
    public static IReadOnlyList<PartSlot> All { get; } =
    [
        new("extruder", "Extruder gear, idler or motor", true),
        new("tube", "Tube from extruder to hotend", true),
        new("hotend", "Hotend", true),
        new("heater", "Heater", true),
        new("thermistor", "Thermistor", true),
        new("nozzle", "Nozzle", true),
        new("fan", "Part fan or duct", true),
        new("bed", "Bed surface", false),
        new("enclosure", "Enclosure", false),
        new("firmware", "Firmware", false),
    ];

    /// <summary>The slot of that key, or null.</summary>
    public static PartSlot? Find(string? key) => All.FirstOrDefault(s => s.Key == key);
}
