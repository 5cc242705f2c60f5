namespace Glenfrost.Core.Settings;

/// <summary>Number fields of filaments, spools, printers, toolheads and runs: unit, range and the reason for it.</summary>
public static class BenchFields
{
    public static Quantity FilamentDiameterMm { get; } = new("Diameter", "mm", 1m, 4m, "filament is sold as 1.75 or 2.85 mm");
    public static Quantity DensityGPerCm3 { get; } = new("Solid density", "g/cm³", 0.5m, 8m, "plastics lie near 1, metal-filled ones below 8");
    public static Quantity Price { get; } = new("Price", "", 0m, 5000m, "price of one spool");
    public static Quantity NetMassG { get; } = new("Net mass", "g", 10m, 20000m, "filament without its reel");
    public static Quantity NozzleC { get; } = new("Nozzle temperature", "°C", 150m, 500m, "below 150 nothing melts, above 500 no hotend works");
    public static Quantity BedC { get; } = new("Bed temperature", "°C", 0m, 160m, "beds are not heated further");
    public static Quantity DryingC { get; } = new("Drying temperature", "°C", 20m, 120m, "keep below the softening point");
    public static Quantity DryingHours { get; } = new("Drying time", "h", 0.5m, 96m, "less does nothing, longer than four days helps nothing");
    public static Quantity SpoolMassG { get; } = new("Mass", "g", 1m, 30000m, "filament and reel together");
    public static Quantity ReelMassG { get; } = new("Reel", "g", 5m, 5000m, "the empty reel");
    public static Quantity BedLengthMm { get; } = new("Bed", "mm", 40m, 3000m, "side of the printable area");
    public static Quantity HeightMm { get; } = new("Height", "mm", 20m, 2000m, "free height above the bed");
    public static Quantity ChamberC { get; } = new("Chamber", "°C", 0m, 120m, "0 where it is not heated", AcceptsFahrenheit: true);
    public static Quantity ChamberAirC { get; } = new("Chamber", "°C", -20m, 120m, "air around a part, as a thermometer reads it", AcceptsFahrenheit: true);
    public static Quantity SpeedMmPerS { get; } = new("Speed limit", "mm/s", 5m, 2000m, "per second, not per minute");
    public static Quantity AccelerationMmPerS2 { get; } = new("Acceleration limit", "mm/s²", 50m, 100000m, "slower never gets there, faster skips");
    public static Quantity ColdExtrusionC { get; } = new("Cold-extrusion limit", "°C", 100m, 300m, "below it the printer refuses to feed");
    public static Quantity ScrewStepMm { get; } = new("Full step of the screw", "mm", 0.001m, 0.5m, "0.04 mm is usual");
    public static Quantity ClearanceMm { get; } =
        new("Room beside the nozzle", "mm", 2m, 200m, "half the width of the toolhead, and more where it is lopsided");
    public static Quantity GantryHeightMm { get; } =
        new("Height below the carrier", "mm", 1m, 1000m, "from the nozzle's tip to the lowest part that passes over the bed");
    public static Quantity TubeLengthMm { get; } = new("Tube length", "mm", 20m, 3000m, "from extruder to hotend");
    public static Quantity StepsPerMm { get; } = new("Steps per mm", "", 10m, 5000m, "usual extruders have 80 to 900");
    public static Quantity RotationDistanceMm { get; } = new("Rotation distance", "mm", 0.5m, 60m, "filament fed by one turn");
    public static Quantity HeaterMaxC { get; } = new("Heater limit", "°C", 180m, 550m, "what heater, thermistor and firmware bear");
    public static Quantity LinerC { get; } = new("Liner limit", "°C", 180m, 550m, "as its maker says");
    public static Quantity OvershootC { get; } = new("Heater overshoot", "°C", 0m, 40m, "seen when heating; more needs tuning first");
    public static Quantity NozzleDiameterMm { get; } = new("Nozzle diameter", "mm", 0.1m, 2m, "nozzles lie between 0.1 and 2 mm");
    public static Quantity RoomC { get; } = new("Room temperature", "°C", -20m, 60m, "a bench is neither a freezer nor an oven", AcceptsFahrenheit: true);
    public static Quantity HumidityPercent { get; } = new("Humidity", "%", 0m, 100m, "relative humidity");
    public static Quantity Layer { get; } = new("Layer", "", 1m, 20000m, "layers count from 1", true);
    public static Quantity WholePieces { get; } = new("Whole pieces", "", 0m, 100m, "pieces are counted in the order of printing", true);
    public static Quantity PrintMinutes { get; } = new("Duration", "min", 1m, 20000m, "minutes of printing");
    public static Quantity PieceMassG { get; } = new("Mass of the piece", "g", 0.1m, 5000m, "weighed or from the slicer");
    public static Quantity Score { get; } = new("Score", "", 0m, 4m, "0 is unusable, 4 is clean", true);
    public static Quantity ObservedC { get; } = new("Display", "°C", 0m, 600m, "what the printer's display showed");
    public static Quantity DryerMaxC { get; } = new("Dryer limit", "°C", 30m, 150m, "what it reaches");
}
