namespace Glenfrost.Core.Settings;

/// <summary>Number fields of filaments, spools, printers, toolheads and runs: unit, range and the reason for it.</summary>
public static class RecordFields
{
    /// <summary>Diameter, mm: filament is sold as 1.75 or 2.85 mm.</summary>
    public static Quantity FilamentDiameterMm { get; } = new("Diameter", "mm", 1m, 4m, "filament is sold as 1.75 or 2.85 mm");
    /// <summary>Solid density, g/cm³: plastics lie near 1, metal-filled ones below 8.</summary>
    public static Quantity DensityGPerCm3 { get; } = new("Solid density", "g/cm³", 0.5m, 8m, "plastics lie near 1, metal-filled ones below 8");
    /// <summary>Price: price of one spool.</summary>
    public static Quantity Price { get; } = new("Price", "", 0m, 5000m, "price of one spool");
    /// <summary>Net mass, g: filament without its reel.</summary>
    public static Quantity NetMassG { get; } = new("Net mass", "g", 10m, 20000m, "filament without its reel");
    /// <summary>Nozzle temperature, °C: below 150 nothing melts, above 500 no hotend works.</summary>
    public static Quantity NozzleC { get; } = new("Nozzle temperature", "°C", 150m, 500m, "below 150 nothing melts, above 500 no hotend works");
    /// <summary>Bed temperature, °C: beds are not heated further.</summary>
    public static Quantity BedC { get; } = new("Bed temperature", "°C", 0m, 160m, "beds are not heated further");
    /// <summary>Drying temperature, °C: keep below the softening point.</summary>
    public static Quantity DryingC { get; } = new("Drying temperature", "°C", 20m, 120m, "keep below the softening point");
    /// <summary>Drying time, h: less does nothing, longer than four days helps nothing.</summary>
    public static Quantity DryingHours { get; } = new("Drying time", "h", 0.5m, 96m, "less does nothing, longer than four days helps nothing");
    /// <summary>Mass, g: filament and reel together.</summary>
    public static Quantity SpoolMassG { get; } = new("Mass", "g", 1m, 30000m, "filament and reel together");
    /// <summary>Reel, g: the empty reel.</summary>
    public static Quantity ReelMassG { get; } = new("Reel", "g", 5m, 5000m, "the empty reel");
    /// <summary>Bed, mm: side of the printable area.</summary>
    public static Quantity BedLengthMm { get; } = new("Bed", "mm", 40m, 3000m, "side of the printable area");
    /// <summary>Height, mm: free height above the bed.</summary>
    public static Quantity HeightMm { get; } = new("Height", "mm", 20m, 2000m, "free height above the bed");
    /// <summary>Chamber, °C: 0 where it is not heated.</summary>
    public static Quantity ChamberC { get; } = new("Chamber", "°C", 0m, 120m, "0 where it is not heated", AcceptsFahrenheit: true);
    /// <summary>Chamber, °C: air around a part, as a thermometer reads it.</summary>
    public static Quantity ChamberAirC { get; } = new("Chamber", "°C", -20m, 120m, "air around a part, as a thermometer reads it", AcceptsFahrenheit: true);
    /// <summary>Speed limit, mm/s: per second, not per minute.</summary>
    public static Quantity SpeedMmPerS { get; } = new("Speed limit", "mm/s", 5m, 2000m, "per second, not per minute");
    /// <summary>Acceleration limit, mm/s²: slower never gets there, faster skips.</summary>
    public static Quantity AccelerationMmPerS2 { get; } = new("Acceleration limit", "mm/s²", 50m, 100000m, "slower never gets there, faster skips");
    /// <summary>Cold-extrusion limit, °C: below it the printer refuses to feed.</summary>
    public static Quantity ColdExtrusionC { get; } = new("Cold-extrusion limit", "°C", 100m, 300m, "below it the printer refuses to feed");
    /// <summary>Full step of the screw, mm: 0.04 mm is usual.</summary>
    public static Quantity ScrewStepMm { get; } = new("Full step of the screw", "mm", 0.001m, 0.5m, "0.04 mm is usual");
    /// <summary>Room beside the nozzle, mm: half the width of the toolhead, and more where it is lopsided.</summary>
    public static Quantity ClearanceMm { get; } =
        new("Room beside the nozzle", "mm", 2m, 200m, "half the width of the toolhead, and more where it is lopsided");
    /// <summary>Height below the carrier, mm: from the nozzle's tip to the lowest part that passes over the bed.</summary>
    public static Quantity GantryHeightMm { get; } =
        new("Height below the carrier", "mm", 1m, 1000m, "from the nozzle's tip to the lowest part that passes over the bed");
    /// <summary>Tube length, mm: from extruder to hotend.</summary>
    public static Quantity TubeLengthMm { get; } = new("Tube length", "mm", 20m, 3000m, "from extruder to hotend");
    /// <summary>Steps per mm: usual extruders have 80 to 900.</summary>
    public static Quantity StepsPerMm { get; } = new("Steps per mm", "", 10m, 5000m, "usual extruders have 80 to 900");
    /// <summary>Rotation distance, mm: filament fed by one turn.</summary>
    public static Quantity RotationDistanceMm { get; } = new("Rotation distance", "mm", 0.5m, 60m, "filament fed by one turn");
    /// <summary>Heater limit, °C: what heater, thermistor and firmware bear.</summary>
    public static Quantity HeaterMaxC { get; } = new("Heater limit", "°C", 180m, 550m, "what heater, thermistor and firmware bear");
    /// <summary>Liner limit, °C: as its maker says.</summary>
    public static Quantity LinerC { get; } = new("Liner limit", "°C", 180m, 550m, "as its maker says");
    /// <summary>Power, W: mean of a whole print by a plug that measures, nozzle and bed together.</summary>
    public static Quantity PowerW { get; } = new("Power", "W", 5m, 5000m, "mean of a whole print by a plug that measures: nozzle, bed and motors together");
    /// <summary>What a dryer reaches, °C.</summary>
    public static Quantity DryerC { get; } = new("Reaches", "°C", 35m, 200m, "dryers reach 45 to 120", AcceptsFahrenheit: true);
    /// <summary>What a dryer draws, W: mean over hours by a plug that measures.</summary>
    public static Quantity DryerW { get; } = new("Draws", "W", 5m, 3000m, "mean over hours by a plug that measures; its heater switches on and off");
    /// <summary>Price of a kilowatt hour, in the filaments' currency.</summary>
    public static Quantity KwhPrice { get; } = new("Price of a kilowatt hour", "", 0m, 10m, "in the currency of your filaments, for example 0.32");
    /// <summary>Heater overshoot, °C: seen when heating; more needs tuning first.</summary>
    public static Quantity OvershootC { get; } = new("Heater overshoot", "°C", 0m, 40m, "seen when heating; more needs tuning first");
    /// <summary>Nozzle diameter, mm: nozzles lie between 0.1 and 2 mm.</summary>
    public static Quantity NozzleDiameterMm { get; } = new("Nozzle diameter", "mm", 0.1m, 2m, "nozzles lie between 0.1 and 2 mm");
    /// <summary>Room temperature, °C: a bench is neither a freezer nor an oven.</summary>
    public static Quantity RoomC { get; } = new("Room temperature", "°C", -20m, 60m, "a bench is neither a freezer nor an oven", AcceptsFahrenheit: true);
    /// <summary>Humidity, %: relative humidity.</summary>
    public static Quantity HumidityPercent { get; } = new("Humidity", "%", 0m, 100m, "relative humidity");
    /// <summary>Layer: layers count from 1.</summary>
    public static Quantity Layer { get; } = new("Layer", "", 1m, 20000m, "layers count from 1", true);
    /// <summary>Whole pieces: pieces are counted in the order of printing.</summary>
    public static Quantity WholePieces { get; } = new("Whole pieces", "", 0m, 100m, "pieces are counted in the order of printing", true);
    /// <summary>Duration, min: minutes of printing.</summary>
    public static Quantity PrintMinutes { get; } = new("Duration", "min", 1m, 20000m, "minutes of printing");
    /// <summary>Mass of the piece, g: weighed or from the slicer.</summary>
    public static Quantity PieceMassG { get; } = new("Mass of the piece", "g", 0.1m, 5000m, "weighed or from the slicer");
    /// <summary>Score: 0 is unusable, 4 is clean.</summary>
    public static Quantity Score { get; } = new("Score", "", 0m, 4m, "0 is unusable, 4 is clean", true);
    /// <summary>Display, °C: what the printer's display showed.</summary>
    public static Quantity ObservedC { get; } = new("Display", "°C", 0m, 600m, "what the printer's display showed");
    /// <summary>Dryer limit, °C: what it reaches.</summary>
    public static Quantity DryerMaxC { get; } = new("Dryer limit", "°C", 30m, 150m, "what it reaches");
}
