namespace Glenfrost.Storage.Records;

/// <summary>A machine.</summary>
public sealed class Printer : EditableRecord
{
    public required string Name { get; set; }
    public string? Maker { get; set; }
    public string World { get; set; } = Worlds.Real;

    /// <summary>Dialect word: see <see cref="Core.Gcode.Dialects.Dialect"/>.</summary>
    public string Dialect { get; set; } = Core.Gcode.Dialects.Dialect.All[0].Key;
    public double BedXMm { get; set; } = 220;
    public double BedYMm { get; set; } = 220;
    public double HeightMm { get; set; } = 240;
    public string? BedSurface { get; set; }
    public double BedMaxC { get; set; } = 100;
    public string Enclosure { get; set; } = "none";
    public double ChamberMaxC { get; set; }
    public double MaxSpeedMmPerS { get; set; } = 150;
    public double MaxAccelerationMmPerS2 { get; set; } = 1500;
    public double? ColdExtrusionC { get; set; }
    public double ScrewStepMm { get; set; } = 0.04;
    public string? Firmware { get; set; }
    /// <summary>True where x and y are 0 in the middle of the bed.</summary>
    public bool OriginInMiddle { get; set; }

    /// <summary>True where files feed by lengths since the last reset (M82), false for lengths since the last move (M83).</summary>
    public bool AbsoluteE { get; set; }

    /// <summary>Room that the toolhead needs around the nozzle beside a finished piece, mm.</summary>
    public double ClearanceMm { get; set; } = 40;

    /// <summary>Height of a piece that passes below whatever carries the toolhead, mm.</summary>
    public double GantryHeightMm { get; set; } = 25;
    public string? StartCode { get; set; }
    public string? EndCode { get; set; }
    public string? Notes { get; set; }
    public List<Toolhead> Toolheads { get; set; } = [];
    public List<Part> Parts { get; set; } = [];
    public List<MachineCheck> Checks { get; set; } = [];
}

/// <summary>Extruder, hotend, nozzle and part fan.</summary>
public sealed class Toolhead : EditableRecord
{
    public Guid PrinterId { get; set; }
    public Printer? Printer { get; set; }

    /// <summary>Empty on a printer with one toolhead.</summary>
    public string Name { get; set; } = "";

    /// <summary>direct or long-tube.</summary>
    public string Drive { get; set; } = "direct";
    public double? TubeLengthMm { get; set; }
    public double? StepsPerMm { get; set; }
    public double? RotationDistanceMm { get; set; }
    public DateTime? FeedCheckedAt { get; set; }

    /// <summary>Steps per mm, or rotation distance, that stood before a run changed it for the first time; null where none did.</summary>
    public double? FirstFeedValue { get; set; }

    /// <summary>ptfe or metal.</summary>
    public string Liner { get; set; } = "ptfe";
    public double HeaterMaxC { get; set; } = 260;
    public double? LinerContinuousC { get; set; }
    public double? LinerHardC { get; set; }
    public double OvershootC { get; set; } = 3;
    public double NozzleDiameterMm { get; set; } = 0.4;
    public string NozzleMaterial { get; set; } = "brass";

    /// <summary>standard or high-flow.</summary>
    public string NozzleFlow { get; set; } = "standard";
    public double? NozzleMaxC { get; set; }
    public string? PartFan { get; set; }

    /// <summary>Printer and toolhead, as it is called everywhere. Needs <see cref="Printer"/> loaded.</summary>
    public string FullName => Name.Length > 0 ? $"{Printer?.Name} {Name}" : Printer?.Name ?? "";
}

/// <summary>What was fitted or changed when.</summary>
public sealed class Part : Record
{
    public Guid PrinterId { get; set; }
    public Guid? ToolheadId { get; set; }

    /// <summary>The pairing or the filament that a change is limited to; null where it reaches all of the printer or toolhead.</summary>
    public Guid? PairingId { get; set; }
    public Guid? FilamentId { get; set; }

    /// <summary>Change of an ageing rule.</summary>
    public required string Slot { get; set; }
    public required string Description { get; set; }
    public DateTime FittedAt { get; set; }
    public string? Why { get; set; }
    public Guid? PersonId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A short dated check of a machine with its values; where it is of the feed, also the history of its value.</summary>
public sealed class MachineCheck : Record
{
    public Guid PrinterId { get; set; }
    public Guid? ToolheadId { get; set; }

    /// <summary>Kind of check, see <see cref="Core.Equipment.CheckKind"/>.</summary>
    public required string Kind { get; set; }
    public DateTime At { get; set; }
    public Guid? PersonId { get; set; }

    /// <summary>Numbers by name.</summary>
    public required string ValuesJson { get; set; }
    public string? Note { get; set; }

    /// <summary>True where it was found in order.</summary>
    public bool Passed { get; set; } = true;

    /// <summary>The run that it came from, and the decision; null where it was typed.</summary>
    public Guid? RunId { get; set; }
    public Guid? DecisionId { get; set; }
    public DateTime? RemovedAt { get; set; }
}

/// <summary>A calliper, scale or pull rig.</summary>
public sealed class Instrument : EditableRecord
{
    public required string Name { get; set; }
    public required string Kind { get; set; }

    /// <summary>True for a stand-in: what it read is simulated, and says so wherever it is shown.</summary>
    public bool Simulated { get; set; }
    public List<InstrumentRevision> Revisions { get; set; } = [];
}

/// <summary>An instrument as it was from a day on; data of two revisions are not mixed without saying.</summary>
public sealed class InstrumentRevision : Record
{
    public Guid InstrumentId { get; set; }
    public int Number { get; set; }
    public DateTime FromAt { get; set; }
    public double Resolution { get; set; }
    public required string Unit { get; set; }
    public string? Note { get; set; }
}

