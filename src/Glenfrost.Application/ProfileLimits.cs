using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>
/// What a machine, a bed, a dryer or a reel does not bear: values beyond it are refused where they are typed. Advice of label and family is no limit.
/// </summary>
public static class ProfileLimits
{
    /// <summary>What is wrong with a value on a machine; null where nothing is.</summary>
    /// <param name="key">Key of the settings dictionary.</param>
    /// <param name="value">In its unit.</param>
    /// <param name="p">The pairing, with toolhead and printer.</param>
    /// <param name="dryerMaxC">What the hottest dryer reaches; null where there is none.</param>
    public static string? Wrong(string key, double value, Pairing p, double? dryerMaxC)
    {
        var (printer, limits) = (p.Toolhead!.Printer!, Facts.LimitsOf(p.Toolhead!));
        string Above(string what, double most, string unit) => $"{Words.N(value)} {unit} is above {what}, {Words.N(most)} {unit}.";
        return key switch
        {
            "nozzleTemperatureC" or "firstLayerNozzleTemperatureC" when value > limits.MaxC =>
                $"{Words.N(value)} °C is above this machine's limit of {Words.N(limits.MaxC)} °C ({limits.MaxBecause}).",
            "nozzleTemperatureC" or "firstLayerNozzleTemperatureC" when value < limits.MinC =>
                $"{Words.N(value)} °C is below the cold-extrusion limit of {Words.N(limits.MinC)} °C.",
            "standbyNozzleTemperatureC" when value > limits.MaxC =>
                $"{Words.N(value)} °C is above this machine's limit of {Words.N(limits.MaxC)} °C ({limits.MaxBecause}).",
            "bedTemperatureC" or "firstLayerBedTemperatureC" or "releaseBedTemperatureC" when value > printer.BedMaxC => Above(
                "what this bed reaches", printer.BedMaxC, "°C"),
            "chamberTemperatureC" when printer.ChamberMaxC <= 0 =>
                $"{printer.Name} has no heated chamber. Where it has one, say on its page how warm it gets; a chamber that only warms up by itself is " +
                    $"noted with each run.",
            "chamberTemperatureC" when value > printer.ChamberMaxC => Above("what this chamber reaches", printer.ChamberMaxC, "°C"),
            "dryingTemperatureC" when dryerMaxC is { } dryer && value > dryer => Above("what your dryer reaches", dryer, "°C"),
            "dryingTemperatureC" when ReelMax(p) is { } reel && value > reel => Above("what its reel bears", reel, "°C"),
            "accelerationMmPerS2" when value > printer.MaxAccelerationMmPerS2 => Above("this machine's limit", printer.MaxAccelerationMmPerS2, "mm/s²"),
            "retractionSpeedMmPerS" or "unretractSpeedMmPerS" => null,
            _ when key.EndsWith("SpeedMmPerS", StringComparison.Ordinal) && value > printer.MaxSpeedMmPerS => Above(
                "this machine's limit", printer.MaxSpeedMmPerS, "mm/s"),
            "lineWidthMm" when value > 2.5 * p.NozzleDiameterMm =>
                $"A line of {Words.N(value)} mm is more than two and a half times the {Words.N(p.NozzleDiameterMm)} mm nozzle: no nozzle lays it.",
            "layerHeightMm" when value > p.NozzleDiameterMm =>
                $"A layer of {Words.N(value)} mm is higher than the nozzle is wide, {Words.N(p.NozzleDiameterMm)} mm.",
            _ => null,
        };
    }

    /// <summary>What the most sensitive reel of the filament bears, °C; null where nobody said.</summary>
    private static double? ReelMax(Pairing p) => p.Filament?.Spools.Where(s => s.RemovedAt is null).Min(s => s.ReelMaxC);
}
