namespace Glenfrost.Core.Equipment;

/// <summary>The printer and toolhead that a file is written for. Lengths in mm.</summary>
public sealed record Machine
{
    /// <summary>As it is called.</summary>
    public string Name { get; init; } = "printer";
    /// <summary>What stands around it: none, draught shield, improvised, closed or heated; null where nobody said.</summary>
    public string? Enclosure { get; init; }
    /// <summary>Key of its G-code dialect.</summary>
    public string Dialect { get; init; } = "m900";
    /// <summary>Width of the bed, mm.</summary>
    public double BedXMm { get; init; } = 220;
    /// <summary>Depth of the bed, mm.</summary>
    public double BedYMm { get; init; } = 220;
    /// <summary>Highest piece, mm.</summary>
    public double HeightMm { get; init; } = 240;

    /// <summary>True where x and y are 0 in the middle of the bed, not at its front left corner.</summary>
    public bool OriginInMiddle { get; init; }
    /// <summary>What the bed reaches, °C.</summary>
    public double BedMaxC { get; init; } = 100;
    /// <summary>What the chamber reaches, °C; 0 without a heater.</summary>
    public double ChamberMaxC { get; init; }
    /// <summary>Speed limit, mm/s.</summary>
    public double MaxSpeedMmPerS { get; init; } = 150;
    /// <summary>Acceleration limit, mm/s².</summary>
    public double MaxAccelerationMmPerS2 { get; init; } = 1500;
    /// <summary>Nozzle, mm.</summary>
    public double NozzleDiameterMm { get; init; } = 0.4;
    /// <summary>True where a long tube lies between drive and hotend.</summary>
    public bool LongTube { get; init; }
    /// <summary>What the hotend bears.</summary>
    public required HotendLimits Limits { get; init; }

    /// <summary>Number of this toolhead, from 0.</summary>
    public int Tool { get; init; }

    /// <summary>Toolheads on the printer.</summary>
    public int Tools { get; init; } = 1;

    /// <summary>True where the printer is fed with lengths since the last move; false for lengths since the last reset.</summary>
    public bool RelativeE { get; init; } = true;

    /// <summary>Start code with placeholders; null for the dialect's own.</summary>
    public string? StartCode { get; init; }

    /// <summary>End code with placeholders; null for the dialect's own.</summary>
    public string? EndCode { get; init; }

    /// <summary>Free distance that the toolhead needs around the nozzle beside a finished piece, mm.</summary>
    public double ClearanceMm { get; init; } = 40;

    /// <summary>Height of a piece that passes below whatever carries the toolhead, mm.</summary>
    public double GantryHeightMm { get; init; } = 25;
}
