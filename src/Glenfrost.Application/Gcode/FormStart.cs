using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;

namespace Glenfrost.Application.Gcode;

/// <summary>What the forms of a file begin with: heights read off the file, temperatures of the pairing's filament, a ramp for its bed.</summary>
/// <param name="Step">Sections; null where nothing is extruded.</param>
/// <param name="FlowLimit">Flow limit of the pairing's profile, mm³/s; null where none is known.</param>
/// <param name="MinimumS">Least layer time that the file shows, s; 0 where it shows none.</param>
/// <param name="BedC">The bed while it prints, °C; 0 where the file never sets it.</param>
/// <param name="Cooling">What a cool-down goes by.</param>
public sealed record FormStart(StepRequest? Step, double? FlowLimit, double MinimumS, double BedC, CoolingOfFile Cooling)
{
    /// <summary>Step of a ramp, °C.</summary>
    public const double StepC = 5;

    /// <summary>How long a ramp holds each step, min.</summary>
    public const double HoldMinutes = 3;

    /// <summary>Where nothing says what releases a part, a ramp ends no colder than this, °C.</summary>
    private const double LeastEndC = 40;

    /// <summary>Hottest that a file is stepped to where no machine is known, °C.</summary>
    private const double NoMachineC = 500;

    /// <summary>Where a ramp ends, °C: where the part lets go, else a little above what is around it.</summary>
    public double ToC => Cooling.ReleaseC ?? Math.Max(LeastEndC, Math.Ceiling(Cooling.SurroundingsC + CoolDown.AboveSurroundingsC));

    /// <summary>Reads it off a file and what it is looked at for.</summary>
    /// <param name="file">The file.</param>
    /// <param name="repeats">Its own sections; null where it shows none.</param>
    /// <param name="slow">Its slowed layers; null where it shows none.</param>
    /// <param name="cooling">What a cool-down of it goes by.</param>
    public static FormStart Of(InspectedFile file, Repeats? repeats, SlowDowns? slow, CoolingOfFile cooling)
    {
        var f = file.Facts;
        if (f.Empty)
            return new(null, null, 0, 0, cooling);
        (double, double)? range =
            file.Pairing?.Filament is { } filament && Facts.NozzleRange(filament).Span is { Min: { } min, Max: { } max }
                ? ((double)min, Math.Min((double)max, file.Machine?.Limits.MaxC ?? NoMachineC))
                : null;
        var minimum = slow is { } s && !double.IsNaN(s.MinimumS) ? Math.Round(s.MinimumS) : 0;
        return new(StepPlanning.Suggest(f, repeats, range), f.Request.FlowLimit, minimum, f.BedC, cooling);
    }

    /// <summary>The ramp of values as typed, °C and min; null where they make none.</summary>
    public CoolDown? Ramp(decimal? toC, decimal? stepC, decimal? holdMinutes) =>
        CoolDown.Of(BedC, toC ?? 0, stepC ?? (decimal)StepC, holdMinutes ?? (decimal)HoldMinutes, Cooling.SurroundingsC).Ramp;
}
