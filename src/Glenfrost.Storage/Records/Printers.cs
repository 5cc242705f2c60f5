namespace Glenfrost.Storage.Records;

/// <summary>A machine.</summary>
public sealed class Printer : EditableRecord
{
    /// <summary>As testers call it; unique among those that stand.</summary>
    public required string Name { get; set; }
    /// <summary>Who made it, as the tester wrote it; null where nobody said.</summary>
    public string? Maker { get; set; }
    /// <summary>real or practice; nothing mixes the two.</summary>
    public string World { get; set; } = Worlds.Real;

    /// <summary>Dialect word: see <see cref="Core.Gcode.Dialects.Dialect"/>.</summary>
    public string Dialect { get; set; } = Core.Gcode.Dialects.Dialect.All[0].Key;
    /// <summary>Width of the bed, mm.</summary>
    public double BedXMm { get; set; } = 220;
    /// <summary>Depth of the bed, mm.</summary>
    public double BedYMm { get; set; } = 220;
    /// <summary>Highest piece, mm.</summary>
    public double HeightMm { get; set; } = 240;
    /// <summary>What lies on the bed, in words; null where nobody said.</summary>
    public string? BedSurface { get; set; }
    /// <summary>What the bed reaches, °C.</summary>
    public double BedMaxC { get; set; } = 100;
    /// <summary>none, draught shield, improvised, closed or heated.</summary>
    public string Enclosure { get; set; } = "none";
    /// <summary>What a chamber heater reaches, °C; 0 without one.</summary>
    public double ChamberMaxC { get; set; }
    /// <summary>Speed limit of X and Y, mm/s.</summary>
    public double MaxSpeedMmPerS { get; set; } = 150;
    /// <summary>Acceleration limit of X and Y, mm/s².</summary>
    public double MaxAccelerationMmPerS2 { get; set; } = 1500;
    /// <summary>Coldest nozzle at which the firmware extrudes, °C; null for the usual one.</summary>
    public double? ColdExtrusionC { get; set; }
    /// <summary>Full step of the Z screw, mm; layer heights are best its multiples.</summary>
    public double ScrewStepMm { get; set; } = 0.04;
    /// <summary>Name and version, in words; null where nobody said.</summary>
    public string? Firmware { get; set; }
    /// <summary>True where x and y are 0 in the middle of the bed.</summary>
    public bool OriginInMiddle { get; set; }

    /// <summary>True where files feed by lengths since the last reset (M82), false for lengths since the last move (M83).</summary>
    public bool AbsoluteE { get; set; }

    /// <summary>Room that the toolhead needs around the nozzle beside a finished piece, mm.</summary>
    public double ClearanceMm { get; set; } = 40;

    /// <summary>Height of a piece that passes below whatever carries the toolhead, mm.</summary>
    public double GantryHeightMm { get; set; } = 25;
    /// <summary>G-code before the piece; null for the dialect's own.</summary>
    public string? StartCode { get; set; }
    /// <summary>G-code after the piece; null for the dialect's own.</summary>
    public string? EndCode { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Notes { get; set; }
    /// <summary>What it draws, mean of a whole print, W; null where nobody measured or typed it.</summary>
    public double? PowerW { get; set; }
    /// <summary>What a kilowatt hour costs there, in minor units of the filaments' currency; null where nobody typed it.</summary>
    public double? MinorPerKwh { get; set; }
    /// <summary>Checks that the tester added, as JSON; null for none.</summary>
    public string? OwnChecksJson { get; set; }
    /// <summary>Firmware and slicer as they were used together, as JSON; null for none.</summary>
    public string? VersionsJson { get; set; }
    /// <summary>Its reference piece, as JSON; null where none was chosen.</summary>
    public string? PulseJson { get; set; }
    /// <summary>Its toolheads; loaded where it was asked for.</summary>
    public List<Toolhead> Toolheads { get; set; } = [];
    /// <summary>Its part history; loaded where it was asked for.</summary>
    public List<Part> Parts { get; set; } = [];
    /// <summary>Its checks; loaded where it was asked for.</summary>
    public List<MachineCheck> Checks { get; set; } = [];
}

/// <summary>Extruder, hotend, nozzle and part fan.</summary>
public sealed class Toolhead : EditableRecord
{
    /// <summary>The printer that it is on.</summary>
    public Guid PrinterId { get; set; }
    /// <summary>The same; loaded where it was asked for.</summary>
    public Printer? Printer { get; set; }

    /// <summary>Empty on a printer with one toolhead.</summary>
    public string Name { get; set; } = "";

    /// <summary>direct or long-tube.</summary>
    public string Drive { get; set; } = "direct";
    /// <summary>Length of the feed tube, mm; null for a direct drive.</summary>
    public double? TubeLengthMm { get; set; }
    /// <summary>Extruder steps per mm of filament; null where a rotation distance stands in its place.</summary>
    public double? StepsPerMm { get; set; }
    /// <summary>Filament per turn of the extruder motor, mm; null where steps stand in its place.</summary>
    public double? RotationDistanceMm { get; set; }
    /// <summary>When the feed was last found right, UTC; null where it never was.</summary>
    public DateTime? FeedCheckedAt { get; set; }

    /// <summary>Steps per mm, or rotation distance, that stood before a run changed it for the first time; null where none did.</summary>
    public double? FirstFeedValue { get; set; }

    /// <summary>ptfe or metal.</summary>
    public string Liner { get; set; } = "ptfe";
    /// <summary>What the heater reaches, °C.</summary>
    public double HeaterMaxC { get; set; } = 260;
    /// <summary>What the liner bears for hours, °C; null for the usual of its kind.</summary>
    public double? LinerContinuousC { get; set; }
    /// <summary>What the liner never bears, °C; null for the usual of its kind.</summary>
    public double? LinerHardC { get; set; }
    /// <summary>How far the heater shoots over, °C.</summary>
    public double OvershootC { get; set; } = 3;
    /// <summary>Of the nozzle that is fitted, mm.</summary>
    public double NozzleDiameterMm { get; set; } = 0.4;
    /// <summary>brass, hardened steel … in words.</summary>
    public string NozzleMaterial { get; set; } = "brass";

    /// <summary>standard or high-flow.</summary>
    public string NozzleFlow { get; set; } = "standard";
    /// <summary>What the nozzle bears, °C; null for no limit of its own.</summary>
    public double? NozzleMaxC { get; set; }
    /// <summary>The fan, in words; null where nobody said.</summary>
    public string? PartFan { get; set; }
    /// <summary>The spool that is loaded; null for none, or where nobody said.</summary>
    public Guid? LoadedSpoolId { get; set; }
    /// <summary>Since when, UTC; null for none.</summary>
    public DateTime? LoadedAt { get; set; }

    /// <summary>Printer and toolhead, as it is called everywhere. Needs <see cref="Printer"/> loaded.</summary>
    public string FullName => Name.Length > 0 ? $"{Printer?.Name} {Name}" : Printer?.Name ?? "";
}

/// <summary>What was fitted or changed when.</summary>
public sealed class Part : Record
{
    /// <summary>The printer that it is of.</summary>
    public Guid PrinterId { get; set; }
    /// <summary>The toolhead that it is of; null for all of the printer.</summary>
    public Guid? ToolheadId { get; set; }

    /// <summary>The pairing or the filament that a change is limited to; null where it reaches all of the printer or toolhead.</summary>
    public Guid? PairingId { get; set; }
    /// <summary>The filament that the change is of; null for the machine itself.</summary>
    public Guid? FilamentId { get; set; }

    /// <summary>Change of an ageing rule.</summary>
    public required string Slot { get; set; }
    /// <summary>What was fitted or changed.</summary>
    public required string Description { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime FittedAt { get; set; }
    /// <summary>The reason in words; null where none was asked.</summary>
    public string? Why { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
    /// <summary>What the machine said of itself before and says since, as JSON; null where the part changed nothing of it.</summary>
    public string? ChangedJson { get; set; }
}

/// <summary>A short dated check of a machine with its values; where it is of the feed, also the history of its value.</summary>
public sealed class MachineCheck : Record
{
    /// <summary>The printer that it is of.</summary>
    public Guid PrinterId { get; set; }
    /// <summary>The toolhead that it is of; null for all of the printer.</summary>
    public Guid? ToolheadId { get; set; }

    /// <summary>Kind of check, see <see cref="Core.Equipment.CheckKind"/>.</summary>
    public required string Kind { get; set; }
    /// <summary>When, UTC.</summary>
    public DateTime At { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>Numbers by name.</summary>
    public required string ValuesJson { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }

    /// <summary>True where it was found in order.</summary>
    public bool Passed { get; set; } = true;

    /// <summary>The run that it came from, and the decision; null where it was typed.</summary>
    public Guid? RunId { get; set; }
    /// <summary>The decision that kept its value; null for a check by hand.</summary>
    public Guid? DecisionId { get; set; }
    /// <summary>When it was removed, UTC; null while it stands.</summary>
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A calliper, scale or pull rig.</summary>
public sealed class Instrument : EditableRecord
{
    /// <summary>As testers call it.</summary>
    public required string Name { get; set; }
    /// <summary>scale, calliper, display, eyes, rig or other.</summary>
    public required string Kind { get; set; }

    /// <summary>True for a stand-in: what it read is simulated, and says so wherever it is shown.</summary>
    public bool Simulated { get; set; }
    /// <summary>As it was from when on; the highest number is now.</summary>
    public List<InstrumentRevision> Revisions { get; set; } = [];
}

/// <summary>An instrument as it was from a day on; data of two revisions are not mixed without saying.</summary>
public sealed class InstrumentRevision : Record
{
    /// <summary>The instrument.</summary>
    public Guid InstrumentId { get; set; }
    /// <summary>From 1.</summary>
    public int Number { get; set; }
    /// <summary>From when on, UTC.</summary>
    public DateTime FromAt { get; set; }
    /// <summary>Smallest step, in the unit.</summary>
    public double Resolution { get; set; }
    /// <summary>g, mm, °C, N; empty for scores.</summary>
    public required string Unit { get; set; }
    /// <summary>In the tester's words; null for none.</summary>
    public string? Note { get; set; }
}

