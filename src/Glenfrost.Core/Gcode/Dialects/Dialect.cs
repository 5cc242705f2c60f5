using Glenfrost.Core.Settings;
using System.Globalization;

namespace Glenfrost.Core.Gcode.Dialects;

/// <summary>
/// What differs between the G-code that printers understand, by what they understand and not by whose they are. All else is
/// common: G0/G1, G28, G90, G92, M82/M83, M104/M109, M106, M140/M190, T.
/// </summary>
public sealed record Dialect
{
    /// <summary>Fixed word.</summary>
    public required string Key { get; init; }

    /// <summary>What tells it apart, in words.</summary>
    public required string Label { get; init; }

    /// <summary>The command that sets pressure advance, as its label begins.</summary>
    public required string KCommand { get; init; }

    /// <summary>Sets pressure advance, s.</summary>
    public required Func<double, string> PressureAdvance { get; init; }

    /// <summary>Sets the acceleration of prints and travels, mm/s².</summary>
    public required Func<double, string> Acceleration { get; init; }

    /// <summary>Stands still for some seconds.</summary>
    public required Func<double, string> Dwell { get; init; }

    /// <summary>Sets firmware retraction: length in mm, speed in mm/s; null leaves one as it is.</summary>
    public Func<double?, double?, string> FirmwareRetraction { get; init; } =
        (mm, speed) => "M207" + (mm is { } l ? $" S{Say.N(l, 4)}" : "") + (speed is { } v ? $" F{Say.N(v * 60, 4)}" : "");

    /// <summary>Sets the extruder's steps per mm; null where they stand in a configuration file as a rotation distance.</summary>
    public Func<double, string>? StepsPerMm { get; init; }

    /// <summary>Sets the extruder's rotation distance, mm a turn; null where the printer counts steps.</summary>
    public Func<double, string>? RotationDistance { get; init; }

    /// <summary>Tunes the heater at a temperature, °C.</summary>
    public required Func<double, string> TuneHeater { get; init; }

    /// <summary>What keeps the values that a tuning found: P, I and D, with what it overwrites.</summary>
    public required Func<double, double, double, (string Text, string Note)> KeepTuning { get; init; }

    /// <summary>Waits for the nozzle, also while it cools, °C.</summary>
    public required Func<double, string> WaitForNozzle { get; init; }

    /// <summary>Waits for the bed, also while it cools, °C; null where waiting for cooling can't be relied on.</summary>
    public Func<double, string>? WaitForCoolingBed { get; init; }

    /// <summary>Stores volatile settings; null where a file is edited instead.</summary>
    public string? Store { get; init; }

    /// <summary>Lets cold filament be driven, or forbids it again: for a rig test with the hotend off, and for nothing else.</summary>
    public Func<bool, IReadOnlyList<string>> ColdFeed { get; init; } =
        allow => [allow ? "M302 P1 ; cold feed allowed for this rig test" : "M302 P0 ; forbidden again"];

    /// <summary>Sets the chamber, °C.</summary>
    public Func<double, string> Chamber { get; init; } = c => $"M141 S{Say.N(c, 4)}";

    /// <summary>Start code where the printer has none of its own; placeholders as in <see cref="Placeholders"/>.</summary>
    public string StartCode { get; init; } =
        "M140 S{firstLayerBedTemperatureC}\nM104 S{firstLayerNozzleTemperatureC}\nG28\nM190 S{firstLayerBedTemperatureC}\nM109 S{firstLayerNozzleTemperatureC}";

    /// <summary>End code where the printer has none of its own.</summary>
    public string EndCode { get; init; } = "M104 S0\nM140 S0\nM107\nG28 X0\nM84";

    /// <summary>All dialects.</summary>
    public static IReadOnlyList<Dialect> All { get; } =
    [
        new()
        {
            Key = "m900",
            KCommand = "M900 K",
            Label = "M900 K, M92 E steps, G4 S dwell",
            PressureAdvance = k => $"M900 K{Say.N(k, 4)}",
            Acceleration = a => $"M204 P{Say.N(a, 4)} T{Say.N(a, 4)}",
            Dwell = s => $"G4 S{Say.N(s, 4)}",
            StepsPerMm = n => $"M92 E{Say.N(n, 4)}",
            TuneHeater = c => $"M303 E0 S{Say.N(c, 4)} C8",
            KeepTuning = (p, i, d) =>
                ($"M301 P{Say.N(p, 4)} I{Say.N(i, 4)} D{Say.N(d, 4)}\nM500", "M500 stores every other value that is set now too. Note bed mesh and " +
                    "nozzle offset first."),
            WaitForNozzle = c => $"M109 R{Say.N(c, 4)}",
            WaitForCoolingBed = c => $"M190 R{Say.N(c, 4)}",
            Store = "M500",
        },
        new()
        {
            Key = "m572",
            KCommand = "M572 S",
            Label = "M572 S, M92 E steps, G4 S dwell",
            PressureAdvance = k => $"M572 S{Say.N(k, 4)}",
            Acceleration = a => $"M204 P{Say.N(a, 4)} T{Say.N(a, 4)}",
            Dwell = s => $"G4 S{Say.N(s, 4)}",
            StepsPerMm = n => $"M92 E{Say.N(n, 4)}",
            TuneHeater = c => $"M303 E0 S{Say.N(c, 4)} C8",
            KeepTuning = (p, i, d) =>
                ($"M301 P{Say.N(p, 4)} I{Say.N(i, 4)} D{Say.N(d, 4)}\nM500", "M500 stores every other value that is set now too. Note bed mesh and " +
                    "nozzle offset first."),
            WaitForNozzle = c => $"M109 R{Say.N(c, 4)}",
            WaitForCoolingBed = c => $"M190 R{Say.N(c, 4)}",
            Store = "M500",
        },
        new()
        {
            Key = "macro",
            KCommand = "SET_PRESSURE_ADVANCE",
            Label = "SET_PRESSURE_ADVANCE, rotation distance in a file, G4 P dwell",
            PressureAdvance = k => $"SET_PRESSURE_ADVANCE ADVANCE={Say.N(k, 4)}",
            Acceleration = a => $"SET_VELOCITY_LIMIT ACCEL={Say.N(a, 4)}",
            Dwell = s => $"G4 P{Say.N(s * 1000, 4)}",
            ColdFeed = allow =>
                [allow ? "; in the configuration file set min_extrude_temp: 0 for this rig test, and restart" : "; set min_extrude_temp back, and restart"],
            RotationDistance = mm => $"SET_EXTRUDER_ROTATION_DISTANCE EXTRUDER=extruder DISTANCE={Say.N(mm, 4)}",
            TuneHeater = c => $"PID_CALIBRATE HEATER=extruder TARGET={Say.N(c, 4)}",
            KeepTuning = (p, i, d) =>
                (
                    string.Create(CultureInfo.InvariantCulture, $"pid_kp: {p:0.###}\npid_ki: {i:0.###}\npid_kd: {d:0.###}"),
                    "Goes into the extruder's part of the configuration file; the printer restarts to read it. Note bed mesh and nozzle offset first."),
            WaitForNozzle = c => $"M109 S{Say.N(c, 4)}",
            FirmwareRetraction = (mm, speed) =>
                "SET_RETRACTION" + (mm is { } l ? $" RETRACT_LENGTH={Say.N(l, 4)}" : "") + (speed is { } v ? $" RETRACT_SPEED={Say.N(v, 4)} " +
                $"UNRETRACT_SPEED={Say.N(v, 4)}" : ""),
        },
    ];

    /// <summary>The dialect of that word; the first one where it is unknown.</summary>
    public static Dialect Of(string? key) => All.FirstOrDefault(d => d.Key == key) ?? All[0];

}
