namespace Glenfrost.Core.Gcode.Motion;

/// <summary>What a machine's axes can do. Speeds in mm/s, accelerations in mm/s², per axis.</summary>
public sealed record MotionLimits
{
    /// <summary>Cautious values of a bed of about 200 mm, where nothing is known.</summary>
    public static MotionLimits Usual { get; } = new();

    /// <summary>Nothing limits but the accelerations of paths.</summary>
    public static MotionLimits Free { get; } = new()
    {
        MaxX = double.MaxValue,
        MaxY = double.MaxValue,
        MaxZ = double.MaxValue,
        MaxE = double.MaxValue,
        AccelerationX = double.MaxValue,
        AccelerationY = double.MaxValue,
        AccelerationZ = double.MaxValue,
        AccelerationE = double.MaxValue,
    };

    /// <summary>Fastest X, mm/s.</summary>
    public double MaxX { get; init; } = 300;
    /// <summary>Fastest Y, mm/s.</summary>
    public double MaxY { get; init; } = 300;
    /// <summary>Fastest Z, mm/s.</summary>
    public double MaxZ { get; init; } = 15;
    /// <summary>Fastest extruder, mm/s.</summary>
    public double MaxE { get; init; } = 80;
    /// <summary>Of X, mm/s².</summary>
    public double AccelerationX { get; init; } = 5000;
    /// <summary>Of Y, mm/s².</summary>
    public double AccelerationY { get; init; } = 5000;
    /// <summary>Of Z, mm/s².</summary>
    public double AccelerationZ { get; init; } = 300;
    /// <summary>Of the extruder, mm/s².</summary>
    public double AccelerationE { get; init; } = 8000;

    /// <summary>Of moves that extrude, as the file begins.</summary>
    public double Print { get; init; } = 1000;

    /// <summary>Of moves that don't.</summary>
    public double Travel { get; init; } = 1500;

    /// <summary>Of filament alone.</summary>
    public double Retract { get; init; } = 1500;

    /// <summary>How far a corner may stray, mm.</summary>
    public double JunctionDeviationMm { get; init; } = 0.02;

    /// <summary>Moves that the machine looks ahead; the more, the faster short segments run.</summary>
    public int LookAhead { get; init; } = 1024;

    /// <summary>Limits of a machine of which the fastest speed and acceleration are known.</summary>
    public static MotionLimits Of(double maxSpeedMmPerS, double maxAccelerationMmPerS2) => new()
    {
        MaxX = maxSpeedMmPerS,
        MaxY = maxSpeedMmPerS,
        AccelerationX = maxAccelerationMmPerS2,
        AccelerationY = maxAccelerationMmPerS2,
        Print = Math.Min(Usual.Print, maxAccelerationMmPerS2),
        Travel = Math.Min(Usual.Travel, maxAccelerationMmPerS2),
    };

    /// <summary>The deviation that lets a right-angled corner be taken at this speed: δ = v²·(√2 − 1)/a.</summary>
    /// <param name="cornerMmPerS">mm/s.</param>
    /// <param name="acceleration">mm/s².</param>
    public static double DeviationOfCorner(double cornerMmPerS, double acceleration) =>
        cornerMmPerS * cornerMmPerS * (Math.Sqrt(2) - 1) / Math.Max(1, acceleration);
}
