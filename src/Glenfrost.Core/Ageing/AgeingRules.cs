namespace Glenfrost.Core.Ageing;

/// <summary>What a change makes doubtful, as keys of the settings dictionary. Evidence ages by parts, spool and the profile's own changes.</summary>
public static class AgeingRules
{
    private static readonly string[] Temperature = ["nozzleTemperatureC"];
    private static readonly string[] Flow = ["extrusionMultiplier"];
    private static readonly string[] Strings = ["retractionLengthMm", "retractionSpeedMmPerS"];
    private static readonly string[] Pressure = ["pressureAdvance"];
    private static readonly string[] FlowLimit = ["maxVolumetricFlowMm3PerS"];
    private static readonly string[] FirstLayer = ["nozzleOffsetMm", "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC"];
    private static readonly string[] Cooling = ["fanPercent", "bridgeFanPercent"];

    /// <summary>Keys that become doubtful when a part is fitted in a slot.</summary>
    /// <param name="slot">Key of a <see cref="Equipment.PartSlot"/>.</param>
    public static IReadOnlyList<string> AfterFitting(string slot) => slot switch
    {
        "nozzle" => [.. Temperature, .. FlowLimit, .. Strings, .. Pressure, .. FirstLayer],
        "hotend" or "heater" or "thermistor" => [.. Temperature, .. FlowLimit, .. Strings, .. Pressure],
        "fan" => [.. Temperature, .. Cooling],
        "extruder" => [.. Flow, .. Strings, .. Pressure, .. FlowLimit],
        "tube" => [.. Strings, .. Pressure, .. FlowLimit],
        "bed" => FirstLayer,
        "enclosure" => [.. FirstLayer],
        "firmware" => [.. Pressure, "nozzleOffsetMm"],
        _ => [],
    };

    /// <summary>True where fitting a part also makes the toolhead's feed calibration doubtful.</summary>
    public static bool MakesFeedDoubtful(string slot) => slot is "extruder" or "firmware" or "tube";

    /// <summary>How far the kept nozzle temperature may move before what was measured at it is doubtful, °C.</summary>
    public const double TemperatureMoveC = 4;

    /// <summary>Keys that become doubtful when the kept nozzle temperature moves.</summary>
    /// <param name="fromC">Value kept until now, °C; null where there was none.</param>
    /// <param name="toC">New value, °C.</param>
    public static IReadOnlyList<string> AfterTemperature(double? fromC, double toC) =>
        fromC is { } from && Math.Abs(toC - from) > TemperatureMoveC ? [.. Flow, .. Strings, .. Pressure, .. FlowLimit] : [];
}
