using Glenfrost.Core.Settings;
using System.Globalization;

namespace Glenfrost.Core.Ageing;

/// <summary>A piece of evidence that can age.</summary>
/// <param name="Key">Fixed word.</param>
/// <param name="Label">As it is called on pages.</param>
/// <param name="Settings">Keys of the settings dictionary that rest on it; empty where it is a check or is not kept as a value.</param>
/// <param name="Check">Kind of the dated check that it is; null for none.</param>
public sealed record AgeingArea(string Key, string Label, IReadOnlyList<string> Settings, string? Check = null);

/// <summary>What a change makes doubtful.</summary>
/// <param name="Change">Fixed word of the change.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Reach">toolhead, printer, pairing, filament or spool: how far it reaches.</param>
/// <param name="Areas">Keys of areas that become doubtful.</param>
/// <param name="Reason">Why, in words.</param>
public sealed record AgeingRule(string Change, string Label, string Reach, IReadOnlyList<string> Areas, string Reason)
{
    /// <summary>Settings that become doubtful.</summary>
    public IReadOnlyList<string> Settings { get; } = [.. Areas.SelectMany(a => AgeingRules.Area(a).Settings).Distinct()];

    /// <summary>Checks that become doubtful.</summary>
    public IReadOnlyList<string> Checks { get; } = [.. Areas.Select(a => AgeingRules.Area(a).Check).OfType<string>().Distinct()];

    /// <summary>All of it in words.</summary>
    public string InWords => string.Join(", ", Areas.Select(a => AgeingRules.Area(a).Label));
}

/// <summary>What a kept value that moves makes doubtful.</summary>
/// <param name="Keys">Keys of the settings dictionary.</param>
/// <param name="Why">In words, with the numbers.</param>
/// <param name="OnOthers">True where it concerns the other pairings of that toolhead, not this one.</param>
public sealed record Touch(IReadOnlyList<string> Keys, string Why, bool OnOthers = false);

/// <summary>
/// What a change makes doubtful. Evidence ages by parts, firmware, slicer, spool, colour, room, and by the profile's own changes: the rules are data.
/// </summary>
public static class AgeingRules
{
    private static readonly string[] Strings = ["retractionLengthMm", "retractionSpeedMmPerS", "unretractSpeedMmPerS", "retractExtraMm", "wipeMm", "coastMm"];

    /// <summary>Evidence that can age.</summary>
    public static IReadOnlyList<AgeingArea> Areas { get; } =
    [
        new("feed", "extruder feed", [], "feed"),
        new("pid", "heater tuning", [], "pid"),
        new("mesh", "bed mesh", [], "level"),
        new("first-layer", "first layer", ["nozzleOffsetMm", "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC", "firstLayerSpeedMmPerS"]),
        new("offset", "nozzle offset", ["nozzleOffsetMm"]),
        new("temperature", "temperature", ["nozzleTemperatureC"]),
        new("flow", "flow", ["extrusionMultiplier"]),
        new("strings", "retraction and strings", Strings),
        new("pressure", "pressure advance", ["pressureAdvance"]),
        new("flow-limit", "flow limit", ["maxVolumetricFlowMm3PerS"]),
        new("cooling", "cooling", ["fanPercent", "fanMinPercent", "bridgeFanPercent"]),
        new("bridges", "bridges and overhangs", ["bridgeFanPercent", "bridgeSpeedMmPerS"]),
        new("layer-time", "layer time", ["minLayerTimeS"]),
        new("lines", "wall speeds and line width", ["outerWallSpeedMmPerS", "innerWallSpeedMmPerS", "lineWidthMm"]),
        new("bond", "layer bond", []),
        new("warp", "warp", ["brimWidthMm", "bedTemperatureC"]),
        new("release", "release from the bed", ["releaseBedTemperatureC"]),
        new("top-surface", "top surface", []),
        new("verification", "verification print", []),
        new("quick-check", "quick check", []),
    ];

    /// <summary>The rules for changes that are recorded.</summary>
    public static IReadOnlyList<AgeingRule> All { get; }

    private static readonly Dictionary<string, AgeingArea> ByKey = Areas.ToDictionary(a => a.Key);

    static AgeingRules() =>
        All = [
            new(
                "nozzle-size", "Another nozzle diameter, line width or layer height", "toolhead",
                ["first-layer", "temperature", "flow", "strings", "pressure", "flow-limit", "cooling", "layer-time", "lines", "bond", "warp", "verification"],
                "Everything but the feed is measured in lines of the old size."),
            new("nozzle-off", "A nozzle taken off and put back", "toolhead", ["offset"], "It never sits at the same height again."),
            new(
                "nozzle", "Nozzle, another type or material", "toolhead", ["temperature", "flow-limit", "strings", "pressure", "bond", "first-layer", "pid"],
                "It melts, drags and heats in another way, and sits at another height."),
            new("nozzle-worn", "Nozzle worn by abrasive filament", "toolhead", ["flow-limit", "flow", "strings"], "The bore is wider and rounder than it was."),
            new(
                "hotend", "Hotend", "toolhead", ["temperature", "flow-limit", "strings", "pressure", "bond", "pid"],
                "Its melt zone and its sensor tell another temperature."),
            new(
                "heater", "Heater", "toolhead", ["temperature", "flow-limit", "strings", "pressure", "bond", "pid"],
                "It holds another temperature than the old one did."),
            new(
                "thermistor", "Thermistor", "toolhead", ["temperature", "flow-limit", "strings", "pressure", "bond", "pid"],
                "The same number on the display is another temperature."),
            new("fan", "Part fan or duct", "toolhead", ["temperature", "cooling", "bond", "warp", "pid"], "Bridges and overhangs were judged in the old wind."),
            new(
                "extruder", "Extruder gear, idler, motor or driver current", "toolhead", ["feed", "flow", "strings", "pressure", "flow-limit"],
                "A turn of the motor moves another length, and slips at another force."),
            new(
                "tube", "Tube between extruder and hotend", "toolhead", ["feed", "strings", "pressure", "flow-limit"],
                "Its play and friction are part of these values."),
            new("bed", "Bed surface", "printer", ["first-layer", "warp", "release"], "Parts grip another surface."),
            new("enclosure", "Enclosure", "printer", ["warp", "bond", "first-layer", "top-surface", "release"], "The air around the part has changed."),
            new(
                "firmware", "Firmware", "printer", ["feed", "pressure", "mesh", "offset", "pid"],
                "Defaults may be back, units may differ; stored mesh and offset may be gone."),
            new(
                "slicer", "Another slicer, or a new major version", "printer", ["verification", "flow", "strings", "layer-time", "lines"],
                "Width model, wipes and layer times are reckoned in another way."),
            new("room", "Room colder by 8 °C or more", "printer", ["warp", "bond", "first-layer", "top-surface", "release"], "Parts cool faster."),
            new("spool", "New spool, same product and colour", "spool", ["quick-check"], "A batch may differ: a quarter of an hour tells."),
            new(
                "colour", "New colour of the product", "filament", ["quick-check", "temperature"],
                "Pigment changes how it melts: a quick check, and the temperature at three values."),
            new(
                "product", "Another maker or product", "pairing",
                ["first-layer", "temperature", "flow", "strings", "pressure", "flow-limit", "cooling", "layer-time", "lines", "bond", "warp", "verification"],
                "All of the filament's own trials; the feed stays."),
            new(
                "damp", "Spool damp: open longer than its family tolerates", "spool", ["strings", "flow-limit", "bond"],
                "Dry it first; what was measured wet is suspect."),
        ];

    /// <summary>The area of a key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public static AgeingArea Area(string key) => ByKey[key];

    /// <summary>The rule of a change, or null.</summary>
    public static AgeingRule? Find(string? change) => All.FirstOrDefault(r => r.Change == change);

    /// <summary>Keys that become doubtful when a part is fitted in a slot, or another change is recorded.</summary>
    /// <param name="change">Change of a rule.</param>
    public static IReadOnlyList<string> AfterFitting(string change) => Find(change)?.Settings ?? [];

    /// <summary>True where a change also makes the toolhead's feed calibration doubtful.</summary>
    public static bool MakesFeedDoubtful(string change) => Find(change)?.Checks.Contains("feed") == true;

    /// <summary>True where a change makes a dated check doubtful.</summary>
    public static bool MakesDoubtful(string change, string check) => Find(change)?.Checks.Contains(check) == true;

    /// <summary>How far the kept nozzle temperature may move before what was measured at it is doubtful, °C.</summary>
    public const double TemperatureMoveC = 4;

    /// <summary>By how many per cent a kept multiplier may move before the others on its toolhead are doubtful.</summary>
    public const double MultiplierMovePercent = 3;

    /// <summary>How far a kept fan may move, per cent of full.</summary>
    public const double FanMovePercent = 5;

    private static readonly string[] AfterTemperatureKeys = [.. Of("flow", "strings", "pressure", "flow-limit")];

    /// <summary>Settings that a kept feed which moves makes doubtful, on every pairing of its toolhead: the flow.</summary>
    public static IReadOnlyList<string> AfterFeed { get; } = [.. Of("flow")];

    private static IEnumerable<string> Of(params string[] areas) => areas.SelectMany(a => Areas.First(x => x.Key == a).Settings);

    /// <summary>Keys that become doubtful when the kept nozzle temperature moves.</summary>
    /// <param name="fromC">Value kept until now, °C; null where there was none.</param>
    /// <param name="toC">New value, °C.</param>
    public static IReadOnlyList<string> AfterTemperature(double? fromC, double toC) =>
        fromC is { } from && Math.Abs(toC - from) > TemperatureMoveC ? AfterTemperatureKeys : [];

    /// <summary>What becomes doubtful when a kept value moves: the profile's own changes age its other values.</summary>
    /// <param name="key">Key of the settings dictionary.</param>
    /// <param name="from">Value kept until now; null where there was none, or only a starting value.</param>
    /// <param name="to">New value.</param>
    public static IReadOnlyList<Touch> AfterKept(string key, double? from, double to)
    {
        if (from is not { } before || before == to)
            return [];
        string Text(double v) => SettingRegistry.Text(key, v, null);
        var label = Settings.SettingRegistry.Find(key)?.Label.InSentence() ?? key;
        var unit = Settings.SettingRegistry.Find(key)?.Quantity.Unit ?? "";
        var moved = $"{label} moved from {Text(before)} to {Text(to)} {unit}".TrimEnd();
        var percent = before == 0 ? double.PositiveInfinity : 100 * Math.Abs(to / before - 1);
        return key switch
        {
            "nozzleTemperatureC" => AfterTemperature(before, to) is { Count: > 0 } keys ? [new(keys, moved)] : [],
            "extrusionMultiplier" => percent > MultiplierMovePercent
                ? [new([.. Of("flow")], $"{moved} on another filament of this toolhead: is it the feed?", true)]
                : [],
            "fanPercent" => Math.Abs(to - before) > FanMovePercent ? [new([.. Of("bridges", "warp")], moved)] : [],
            "lineWidthMm" or "layerHeightMm" => percent > 2 ? [new([.. Find("nozzle-size")!.Settings.Where(k => k != key)], moved)] : [],
            "outerWallSpeedMmPerS" or "innerWallSpeedMmPerS" or "fillSpeedMmPerS" => percent > 10 ? [new([.. Of("flow", "pressure", "strings")], moved)] : [],
            "filamentDiameterMm" => percent > 0.5 ? [new([.. Of("flow", "flow-limit")], moved)] : [],
            _ => [],
        };
    }
}
