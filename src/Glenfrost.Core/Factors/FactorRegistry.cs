using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Factors;

/// <summary>How the values of a factor are told apart.</summary>
public enum FactorKind
{
    /// <summary>By how much they differ.</summary>
    Number,

    /// <summary>By the word, whatever the case of its letters.</summary>
    Word,

    /// <summary>By the thing itself, whatever it is called.</summary>
    Thing,
}

/// <summary>What a factor belongs to.</summary>
public enum FactorGroup
{
    /// <summary>A setting of the dictionary.</summary>
    Setting,

    /// <summary>Kind, sizes and place of the piece.</summary>
    Piece,

    /// <summary>The spool and its dryness.</summary>
    Spool,

    /// <summary>Room, chamber, humidity, what stood around the part.</summary>
    Surroundings,

    /// <summary>Parts of the printer.</summary>
    Machine,

    /// <summary>Firmware, slicer, file.</summary>
    Software,

    /// <summary>Who and what read it.</summary>
    Reading,
}

/// <summary>What decides whether a factor can be in a run.</summary>
/// <param name="Family">Family of the filament; null where it is not known, or where the run is of a machine.</param>
/// <param name="Enclosure">none, draught shield, improvised, closed or heated; null where nobody said.</param>
/// <param name="OwnFile">True where Glenfrost wrote the file.</param>
/// <param name="Prints">True where a piece is printed onto the bed.</param>
public sealed record FactorSituation(Family? Family, string? Enclosure, bool OwnFile, bool Prints = true)
{
    /// <summary>True for families whose corners lift and whose layers part without warm surroundings.</summary>
    public bool ShrinksMuch => Family?.Shrinks == Shrinkage.Much;

    /// <summary>True where the part stands in air of its own.</summary>
    public bool Enclosed => Enclosure is not (null or "" or "none" or "draught shield");
}

/// <summary>One thing that can differ between two runs.</summary>
/// <param name="Key">Fixed word.</param>
/// <param name="Label">As it is called within a sentence.</param>
/// <param name="Unit">Unit of its numbers; empty for words and things.</param>
/// <param name="Kind">How values are told apart.</param>
/// <param name="Group">What it belongs to.</param>
/// <param name="Tolerance">Numbers that lie less than this apart are the same, in the unit; 0 where every difference counts.</param>
public sealed record FactorDefinition(string Key, string Label, string Unit, FactorKind Kind, FactorGroup Group, double Tolerance = 0)
{
    /// <summary>Decimals in which its numbers are shown.</summary>
    public int Digits { get; init; } = 2;

    /// <summary>True for what every run has, so that a run which does not say it leaves it unknown.</summary>
    public bool Always { get; init; }

    /// <summary>True where silence about it is ignorance; a setting or measure that not every print has may be none of this one's.</summary>
    public bool IsOwed => Always || Group is not (FactorGroup.Setting or FactorGroup.Piece);

    /// <summary>False where it cannot be in such a run.</summary>
    public Func<FactorSituation, bool> AppliesTo { get; init; } = _ => true;
}

/// <summary>
/// Every factor: settings of the dictionary, and what a run stands in besides. Measures of a piece are defined by its trial, under keys that begin with <see
/// cref="PiecePrefix"/>.
/// </summary>
public static class FactorRegistry
{
    // What no print is without.
    private static readonly HashSet<string> EveryPrint =
    [
        "nozzleTemperatureC", "bedTemperatureC", "extrusionMultiplier", "lineWidthMm", "layerHeightMm", "retractionLengthMm", "retractionSpeedMmPerS",
        "travelSpeedMmPerS", "accelerationMmPerS2", "fanPercent", "minLayerTimeS", "outerWallSpeedMmPerS", "innerWallSpeedMmPerS",
        "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC", "firstLayerSpeedMmPerS",
    ];

    /// <summary>Begins the keys of a piece's own measures.</summary>
    public const string PiecePrefix = "piece.";

    /// <summary>Begins the keys of fitted parts; the slot or change of the part history follows.</summary>
    public const string PartPrefix = "part.";

    /// <summary>Fixed keys that are named in code.</summary>
    public const string Spool = "spool",
        Dryness = "dryness", HoursOpen = "hoursOpen", RoomC = "roomC", RoomEndC = "roomEndC", ChamberC = "chamberC", ChamberEndC = "chamberEndC",
        HumidityPercent = "humidityPercent", Enclosure = "enclosure", Surface = "surface", Nozzle = "nozzleSpec", Feed = "feed", Firmware = "firmware",
        Slicer = "slicer", Place = "place", File = "file", Person = "person", Instrument = "instrument", PieceKind = "piece.kind",
        WidthModel = "piece.widthModel", FlowOverride = "flowOverridePercent",
        FirmwareRetraction = "retractionByFirmware";

    /// <summary>Slots and changes of the part history that are factors: what was fitted last in each.</summary>
    public static IReadOnlyList<string> PartSlots { get; } =
    [
        .. AgeingRules.All.Where(r => r.Reach is "toolhead" or "printer" && r.Change is not ("room" or "slicer" or "enclosure" or "firmware"))
            .Select(r => r.Change),
    ];

    /// <summary>All factors but the measures of pieces.</summary>
    public static IReadOnlyList<FactorDefinition> All { get; } =
    [
        new(PieceKind, "piece", "", FactorKind.Word, FactorGroup.Piece),
        new(WidthModel, "a line's cross-section", "", FactorKind.Word, FactorGroup.Piece),
        new(Place, "place and neighbours on the plate", "", FactorKind.Word, FactorGroup.Piece) { AppliesTo = s => s.Prints },
        new(Spool, "spool", "", FactorKind.Thing, FactorGroup.Spool) { AppliesTo = s => s.Family is not null },
        new(Dryness, "dryness", "", FactorKind.Word, FactorGroup.Spool) { AppliesTo = s => s.Family is not null },
        new(HoursOpen, "hours open", "h", FactorKind.Number, FactorGroup.Spool, 12) { Digits = 0, AppliesTo = s => s.Family is not null },
        new(RoomC, "room", "°C", FactorKind.Number, FactorGroup.Surroundings, 2) { Digits = 1 },
        new(RoomEndC, "room at the end", "°C", FactorKind.Number, FactorGroup.Surroundings, 2) { Digits = 1 },
        new(ChamberC, "chamber", "°C", FactorKind.Number, FactorGroup.Surroundings, 4) { Digits = 1, AppliesTo = HasChamber },
        new(ChamberEndC, "chamber at the end", "°C", FactorKind.Number, FactorGroup.Surroundings, 4) { Digits = 1, AppliesTo = HasChamber },
        new(HumidityPercent, "humidity", "%RH", FactorKind.Number, FactorGroup.Surroundings, 15) { Digits = 0 },
        new(Enclosure, "enclosure", "", FactorKind.Word, FactorGroup.Surroundings) { AppliesTo = s => s.Prints },
        new(Surface, "bed surface", "", FactorKind.Word, FactorGroup.Machine) { AppliesTo = s => s.Prints },
        new(Nozzle, "nozzle", "", FactorKind.Word, FactorGroup.Machine),
        new(Feed, "extruder feed", "", FactorKind.Number, FactorGroup.Machine, 1e-4) { Digits = 3 },
        .. PartSlots.Select(s => new FactorDefinition(
            PartPrefix + s, (PartSlot.Find(s)?.Label ?? AgeingRules.Find(s)!.Label).InSentence(), "", FactorKind.Thing, FactorGroup.Machine)),
        new(FlowOverride, "flow override in the file", "%", FactorKind.Number, FactorGroup.Setting, 0.5) { Digits = 0 },
        new(FirmwareRetraction, "retraction by firmware", "", FactorKind.Word, FactorGroup.Setting),
        new(Firmware, "firmware", "", FactorKind.Word, FactorGroup.Software),
        new(Slicer, "slicer", "", FactorKind.Word, FactorGroup.Software) { AppliesTo = s => !s.OwnFile },
        new(File, "file", "", FactorKind.Thing, FactorGroup.Software),
        new(Person, "person", "", FactorKind.Thing, FactorGroup.Reading),
        new(Instrument, "instrument", "", FactorKind.Thing, FactorGroup.Reading),
        .. SettingRegistry.All.Select(OfSetting),
    ];

    private static readonly Dictionary<string, FactorDefinition> ByKey = All.ToDictionary(d => d.Key);

    /// <summary>A measure of a piece that neither registry nor trial defines: without unit or tolerance, under its own name.</summary>
    /// <param name="key">With or without <see cref="PiecePrefix"/>.</param>
    /// <param name="kind">Number where it is one.</param>
    public static FactorDefinition OfPiece(string key, FactorKind kind) =>
        new(key, key.StartsWith(PiecePrefix, StringComparison.Ordinal) ? key[PiecePrefix.Length..] : key, "", kind, FactorGroup.Piece);

    /// <summary>The factor of a key; null where there is none, as for measures of pieces.</summary>
    public static FactorDefinition? Find(string key) => ByKey.GetValueOrDefault(key);

    private static bool HasChamber(FactorSituation s) => s.Prints && s.Enclosed && s.ShrinksMuch;

    /// <summary>A setting: numbers differ from half of the last digit on that is shown.</summary>
    private static FactorDefinition OfSetting(SettingDefinition d) =>
        new(
            d.Key, d.Label.InSentence(), d.Quantity.Unit, d.Words is null ? FactorKind.Number : FactorKind.Word, FactorGroup.Setting,
            0.5 * Math.Pow(10, -d.Digits) + 1e-9)
        {
            Digits = d.Digits, Always = EveryPrint.Contains(d.Key),
            AppliesTo = d.Key == "nozzleTemperatureC" ? _ => true : s => s.Prints,
        };
}
