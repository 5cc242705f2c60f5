namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>What a tester asks of a sweep. Lengths in mm, speeds in mm/s.</summary>
public sealed record RetractionRequest
{
    /// <summary>tower, plate, own, on-off or dried-pair.</summary>
    public string Mode { get; init; } = RetractionTrial.Tower;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>length, speed, wipe, coast, hop, travel, temperature, fan or multiplier.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>First value of the factor.</summary>
    public decimal From { get; init; }

    /// <summary>Last value of the factor.</summary>
    public decimal To { get; init; } = 1.6m;

    /// <summary>Step of the factor.</summary>
    public decimal Step { get; init; } = 0.2m;

    /// <summary>Retraction where another factor is swept, and of the pairs.</summary>
    public decimal RetractionLengthMm { get; init; } = 0.8m;

    /// <summary>Its speed.</summary>
    public decimal RetractionSpeedMmPerS { get; init; } = 30;

    /// <summary>Diameter of a reed.</summary>
    public decimal PostMm { get; init; } = 4;

    /// <summary>Narrow gap.</summary>
    public decimal NarrowGapMm { get; init; } = 10;

    /// <summary>Wide gap.</summary>
    public decimal WideGapMm { get; init; } = 20;

    /// <summary>Rows of reeds that are printed together.</summary>
    [AddedLater]
    public decimal Rows { get; init; } = 1;

    /// <summary>Height of a section, or of a small piece.</summary>
    public decimal SectionHeightMm { get; init; } = 4;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Pieces at each value; towers are repeated as runs.</summary>
    public decimal Repeats { get; init; } = 1;

    /// <summary>scores or counts: what is waited for.</summary>
    public string ReadBy { get; init; } = "scores";

    /// <summary>By how much a value may fall behind the best, scores.</summary>
    public decimal Margin { get; init; } = 0.5m;

    /// <summary>State of the spool.</summary>
    public string SpoolState { get; init; } = "as logged";

    /// <summary>Layers of somebody's own model; null for ours.</summary>
    public decimal? TotalLayers { get; init; }

    /// <summary>Its layers below the first section.</summary>
    public decimal? BaseLayers { get; init; }

    /// <summary>Thickness of its first layer; null for that of the others.</summary>
    public decimal? FirstLayerHeightMm { get; init; }

    /// <summary>Sections of somebody's own model; null for a piece of ours, and while its layers are not said.</summary>
    internal OwnModel? Model => Mode == RetractionTrial.Own ? OwnModel.Of(TotalLayers, BaseLayers, Values.Count, LayerHeightMm, FirstLayerHeightMm) : null;

    /// <summary>Values in order.</summary>
    internal IReadOnlyList<decimal> Values =>
        Step <= 0 || To < From ? [] : [.. Enumerable.Range(0, (int)Math.Min(200, Math.Floor((To - From) / Step + 0.0001m)) + 1).Select(i => From + i * Step)];
}
