namespace Glenfrost.Simulation.Printer;

/// <summary>A printer as it stands on the bench. Lengths mm, speeds mm/s, temperatures °C.</summary>
public sealed record PrinterSpec
{
    /// <summary>As it answers.</summary>
    public string Name { get; init; } = "printer";
    /// <summary>Width of the bed, mm.</summary>
    public double BedXMm { get; init; } = 220;
    /// <summary>Depth of the bed, mm.</summary>
    public double BedYMm { get; init; } = 220;
    /// <summary>Highest piece, mm.</summary>
    public double HeightMm { get; init; } = 240;

    /// <summary>True where x and y are 0 in the middle of the bed.</summary>
    public bool OriginInMiddle { get; init; }
    /// <summary>What the heater reaches, °C.</summary>
    public double HeaterMaxC { get; init; } = 260;
    /// <summary>What the bed reaches, °C.</summary>
    public double BedMaxC { get; init; } = 100;
    /// <summary>Coldest nozzle at which it extrudes, °C.</summary>
    public double ColdExtrusionC { get; init; } = 170;
    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>As the maker calls the filament; the true one is hidden.</summary>
    public double FilamentMm { get; init; } = 1.75;
    /// <summary>Toolheads.</summary>
    public int Tools { get; init; } = 1;
    /// <summary>Air of the room, °C.</summary>
    public double RoomC { get; init; } = 20;

    /// <summary>True where waiting (M109 S, M190 S) also waits for cooling.</summary>
    public bool WaitsForCooling { get; init; }

    /// <summary>True where G4 P counts milliseconds and configuration comes as words with values.</summary>
    public bool TalksMacros { get; init; }

    /// <summary>What it begins with and falls back to on M502.</summary>
    public PrinterSettings Factory { get; init; } = new();
}

/// <summary>What a printer remembers: volatile until it is stored. Speeds mm/s, accelerations mm/s², per axis x, y, z, e.</summary>
public sealed record PrinterSettings
{
    /// <summary>Extruder steps per mm.</summary>
    public double StepsPerMm { get; init; } = 96;
    /// <summary>Fastest X, mm/s.</summary>
    public double MaxX { get; init; } = 150;
    /// <summary>Fastest Y, mm/s.</summary>
    public double MaxY { get; init; } = 150;
    /// <summary>Fastest Z, mm/s.</summary>
    public double MaxZ { get; init; } = 15;
    /// <summary>Fastest extruder, mm/s.</summary>
    public double MaxE { get; init; } = 80;
    /// <summary>Of X, mm/s².</summary>
    public double AccelerationX { get; init; } = 1500;
    /// <summary>Of Y, mm/s².</summary>
    public double AccelerationY { get; init; } = 1500;
    /// <summary>Of Z, mm/s².</summary>
    public double AccelerationZ { get; init; } = 300;
    /// <summary>Of the extruder, mm/s².</summary>
    public double AccelerationE { get; init; } = 8000;
    /// <summary>Of printing moves, mm/s².</summary>
    public double Print { get; init; } = 1000;
    /// <summary>Of travels, mm/s².</summary>
    public double Travel { get; init; } = 1500;
    /// <summary>Of retractions, mm/s².</summary>
    public double Retract { get; init; } = 1500;

    /// <summary>How far the nozzle may cut a corner, mm.</summary>
    public double CornerMm { get; init; } = 0.02;
    /// <summary>Pressure advance, s.</summary>
    public double PressureAdvanceS { get; init; }
    /// <summary>Retraction by firmware, mm.</summary>
    public double RetractionMm { get; init; } = 1;
    /// <summary>Retraction by firmware, mm/s.</summary>
    public double RetractionMmPerS { get; init; } = 35;
    /// <summary>Proportional part of the heater's control.</summary>
    public double PidP { get; init; } = 22;
    /// <summary>Integral part of the heater's control.</summary>
    public double PidI { get; init; } = 1.1;
    /// <summary>Differential part of the heater's control.</summary>
    public double PidD { get; init; } = 110;
}

/// <summary>What may go wrong, by switch. Heights in mm above the bed, times in seconds of the printer's own clock.</summary>
public sealed record Faults
{
    /// <summary>The nozzle's heater stays on from this height; the printer's protection stops it.</summary>
    public double? RunawayAtMm { get; init; }

    /// <summary>The spool jams: nothing is fed any more.</summary>
    public double? TangleAtMm { get; init; }

    /// <summary>The gear holds half as well from this height.</summary>
    public double? SlipAtMm { get; init; }

    /// <summary>Half of the nozzle is shut from this height.</summary>
    public double? BlockedAtMm { get; init; }

    /// <summary>The piece is knocked over; what follows is printed into the air.</summary>
    public double? KnockedAtMm { get; init; }

    /// <summary>The mains go: nothing answers any more.</summary>
    public double? PowerCutAtMm { get; init; }

    /// <summary>The line to the printer breaks once, at this height; the printer itself finishes what it has in its buffer.</summary>
    public double? LostConnectionAtMm { get; init; }

    /// <summary>Every n-th line arrives garbled; 0 for none.</summary>
    public int GarbleEvery { get; init; }

    /// <summary>Names of the switches, as commands and pages know them.</summary>
    public static IReadOnlyList<string> Names { get; } = ["runaway", "tangle", "slip", "blocked", "knocked", "power-cut", "lost-connection", "garbled"];

    /// <summary>Adds a fault by its name.</summary>
    /// <param name="name">One of <see cref="Names"/>.</param>
    /// <param name="at">mm; for garbled lines every how many.</param>
    /// <exception cref="ArgumentException">The name is none of them.</exception>
    public Faults With(string name, double at) => name switch
    {
        "runaway" => this with { RunawayAtMm = at },
        "tangle" => this with { TangleAtMm = at },
        "slip" => this with { SlipAtMm = at },
        "blocked" => this with { BlockedAtMm = at },
        "knocked" => this with { KnockedAtMm = at },
        "power-cut" => this with { PowerCutAtMm = at },
        "lost-connection" => this with { LostConnectionAtMm = at },
        "garbled" => this with { GarbleEvery = Math.Max(2, (int)at) },
        _ => throw new ArgumentException($"there is no fault \"{name}\": {string.Join(", ", Names)} would be right."),
    };
}
