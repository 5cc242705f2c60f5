using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of a stepped speed. Lengths in mm, speeds in mm/s.</summary>
public sealed record StepsRequest : TubeRequest
{
    /// <summary>Speed of the first step.</summary>
    public decimal StartSpeedMmPerS { get; init; } = 40;

    /// <summary>Rise of each step, %; 0 where mm/s are given.</summary>
    public decimal IncreasePercent { get; init; } = 20;

    /// <summary>True for per cent of the step before, false for per cent of the start.</summary>
    public bool Compounding { get; init; }

    /// <summary>Rise of each step, mm/s; 0 where per cent are given.</summary>
    public decimal IncreaseMmPerS { get; init; }

    /// <summary>Steps.</summary>
    public decimal Steps { get; init; } = 8;

    /// <summary>Height of a step.</summary>
    public decimal StepHeightMm { get; init; } = 3;

    /// <summary>The readings that its steps are reckoned by.</summary>
    internal StepsReadings Readings => new()
    {
        StartSpeedMmPerS = (double)StartSpeedMmPerS,
        IncreasePercent = IncreaseMmPerS > 0 ? null : (double)IncreasePercent,
        IncreaseMmPerS = IncreaseMmPerS > 0 ? (double)IncreaseMmPerS : null,
        Compounding = Compounding,
        Steps = (int)Steps,
        LayerHeightMm = (double)LayerHeightMm,
        LineWidthMm = (double)LineWidthMm,
        Area = Area,
        MarginPercent = (double)MarginPercent,
    };

    /// <summary>Turns of a step.</summary>
    internal int TurnsEach => Math.Max(1, (int)Math.Round(StepHeightMm / LayerHeightMm));
}

/// <summary>A stepped speed that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record StepsPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required StepsRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Speed of each step, mm/s.</summary>
    public required IReadOnlyList<double> SpeedsMmPerS { get; init; }

    /// <summary>Flow of each step, mm³/s.</summary>
    public required IReadOnlyList<double> FlowsMm3PerS { get; init; }

    /// <summary>What lets its fastest part be reached; empty without a machine.</summary>
    public PlanWarning Reached { get; init; } = PlanWarning.None;

    /// <summary>Fastest speed that acceleration lets the circle be run at, mm/s; null without a machine.</summary>
    public double? ReachableSpeedMmPerS { get; init; }

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [
            .. FlowsMm3PerS.Select(
                (q, i) =>
                    new PlanPart(
                        i, $"step {i}, {Say.N(q, 1)} mm³/s", TubeShape.BaseLayers + i * Request.TurnsEach + 1,
                        TubeShape.BaseLayers + (i + 1) * Request.TurnsEach, (double)Request.LayerHeightMm * (TubeShape.BaseLayers + i * Request.TurnsEach),
                        (double)Request.LayerHeightMm * (TubeShape.BaseLayers + (i + 1) * Request.TurnsEach), (double)Request.NozzleTemperatureC)),
        ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"{Say.N(SpeedsMmPerS[0], 0)} to {Say.N(SpeedsMmPerS[^1], 0)} mm/s, {Say.N(FlowsMm3PerS[0], 1)} to {Say.N(FlowsMm3PerS[^1], 1)} mm³/s, " +
            $"{Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => TubeShape.BaseLayers + (int)Request.Steps * Request.TurnsEach;

    /// <inheritdoc/>
    protected override string ChecksHead => "Speed";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [.. PartsOf.Select(p => new PlanCheckpoint(p.FirstLayer, p.FromZMm, $"{Say.N(SpeedsMmPerS[p.Index], 0)} mm/s", $"step {p.Index}"))];
}
