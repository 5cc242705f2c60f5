using Glenfrost.Core.Settings;
namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>What a tester asks of a row. Lengths in mm, speeds in mm/s, factors in s.</summary>
public sealed record PressureRequest
{
    /// <summary>lines or corners.</summary>
    public string Mode { get; init; } = PressureTrial.Lines1;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Factor of the first one.</summary>
    public decimal StartK { get; init; }

    /// <summary>Step.</summary>
    public decimal StepK { get; init; } = 0.005m;

    /// <summary>How many.</summary>
    public decimal Count { get; init; } = 17;

    /// <summary>Slow speed.</summary>
    public decimal SlowMmPerS { get; init; } = 20;

    /// <summary>Fast speed.</summary>
    public decimal FastMmPerS { get; init; } = 80;

    /// <summary>Acceleration, mm/s².</summary>
    public decimal AccelerationMmPerS2 { get; init; } = 1000;

    /// <summary>Length of a line, or of a corner's legs.</summary>
    public decimal LineMm { get; init; } = 80;

    /// <summary>Distance between neighbours.</summary>
    public decimal SpacingMm { get; init; } = 5;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Layers; more than one make corners stand.</summary>
    public decimal Layers { get; init; } = 1;

    /// <summary>best or scores: what is waited for.</summary>
    public string ReadBy { get; init; } = "best";
}

/// <summary>A row that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record PressurePlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required PressureRequest Request { get; init; }

    /// <summary>Factors in the order of the row, s.</summary>
    public required IReadOnlyList<decimal> Ks { get; init; }

    /// <summary>direct or long-tube; null where nobody said.</summary>
    public string? Drive { get; init; }

    /// <summary>Dialect that it is written in.</summary>
    public string Dialect { get; init; } = "m900";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        Request.ReadBy == "scores"
            ? [.. Ks.Select((_, i) => new PlanPart(i, $"number {i}", NozzleC: NozzleC))]
            : [new PlanPart(0, "the row", NozzleC: NozzleC)];

    /// <inheritdoc/>
    protected override string InWords =>
        $"counted, K {Say.N(Ks[0], 4)} to {Say.N(Ks[^1], 4)} by {Say.N(Request.StepK, 4)}, {Say.N(Request.SlowMmPerS)} to {Say.N(Request.FastMmPerS)} " +
            $"mm/s at {Say.N(Request.AccelerationMmPerS2)} mm/s², {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => (int)Request.Layers;

    /// <summary>What a factor of it is found at.</summary>
    internal FoundAt FoundAt =>
        new((double)Request.NozzleTemperatureC, (double)Request.SlowMmPerS, (double)Request.FastMmPerS, (double)Request.AccelerationMmPerS2);
}
