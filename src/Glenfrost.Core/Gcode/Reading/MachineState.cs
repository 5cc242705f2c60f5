namespace Glenfrost.Core.Gcode.Reading;

/// <summary>What a machine would know at a line of a file. Lengths in mm, speeds in mm/s, temperatures in °C, whatever the file's own units are.</summary>
public sealed class MachineState
{
    /// <summary>Most toolheads that are told apart.</summary>
    public const int MostTools = 16;

    /// <summary>Where the nozzle is, in the machine's own coordinates.</summary>
    public double X, Y, Z;

    /// <summary>What the file's coordinates are ahead of the machine's (G92).</summary>
    public double OffsetX, OffsetY, OffsetZ;

    /// <summary>The extruder's register, in mm (or mm³ where <see cref="VolumetricE"/>), as absolute numbers count it.</summary>
    public double E;

    /// <summary>Speed asked for, mm/s, before <see cref="SpeedPercent"/>.</summary>
    public double Feed;

    /// <summary>Axes, and E, count from where they are.</summary>
    public bool RelativeXyz, RelativeE;

    /// <summary>M82 or M83 was said; before that, E follows G90 and G91.</summary>
    public bool EModeSaid;

    /// <summary>mm per unit of the file: 1, or 25.4 after G20.</summary>
    public double Unit = 1;

    /// <summary>E counts mm³ (M200 D).</summary>
    public bool VolumetricE;

    /// <summary>Toolhead in use.</summary>
    public int Tool;

    /// <summary>Nozzle temperatures set, per toolhead; NaN before any.</summary>
    public double[] Nozzles = [.. Enumerable.Repeat(double.NaN, MostTools)];

    /// <summary>Bed and chamber as set; NaN before any.</summary>
    public double Bed = double.NaN, Chamber = double.NaN;

    /// <summary>Part-cooling fan, 0 to 100 %.</summary>
    public double Fan;

    /// <summary>Overrides of flow (M221) and speed (M220), %.</summary>
    public double FlowPercent = 100, SpeedPercent = 100;

    /// <summary>Pressure advance as set, s; NaN before any.</summary>
    public double PressureAdvance = double.NaN;

    /// <summary>Firmware retraction is pulled back (G10).</summary>
    public bool Retracted;

    /// <summary>Firmware retraction as set by M207 or SET_RETRACTION, mm and mm/s; NaN before any.</summary>
    public double RetractLength = double.NaN, RetractSpeed = double.NaN;

    /// <summary>Nozzle temperature of the toolhead in use; NaN before any.</summary>
    public double Nozzle => Nozzles[Tool];

    /// <summary>A copy that further lines don't touch.</summary>
    public MachineState Copy()
    {
        var copy = (MachineState)MemberwiseClone();
        copy.Nozzles = (double[])Nozzles.Clone();
        return copy;
    }
}

/// <summary>One G0, G1, G2 or G3 that moves or feeds, in machine coordinates.</summary>
public struct GcodeMove
{
    /// <summary>From and to, mm.</summary>
    public double X0, Y0, Z0, X1, Y1, Z1;

    /// <summary>Filament fed, mm (mm³ where the file counts that), overrides of flow not counted in.</summary>
    public double E;

    /// <summary>mm/s along the path, or of the filament where nothing else moves; with the speed override.</summary>
    public double Feed;

    /// <summary>Length of the path, mm; 0 where only filament moves.</summary>
    public double Length;

    /// <summary>Centre of an arc; only where <see cref="Arc"/> is not 0.</summary>
    public double CentreX, CentreY;

    /// <summary>Angle of an arc, rad, counterclockwise positive; 0 for a straight move.</summary>
    public double Arc;

    /// <summary>Offset of the line's first byte.</summary>
    public long Offset;

    /// <summary>Number of the line in the file, from 1.</summary>
    public int Line;
}
