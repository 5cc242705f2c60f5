using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of a rising spiral. Lengths in mm, flows in mm³/s.</summary>
public sealed record RisingRequest : TubeRequest
{
    /// <summary>Flow where the rise begins.</summary>
    public decimal StartFlowMm3PerS { get; init; } = 4;

    /// <summary>Flow at the top.</summary>
    public decimal TopFlowMm3PerS { get; init; } = 16;

    /// <summary>Height of the rise.</summary>
    public decimal RiseHeightMm { get; init; } = 40;

    /// <summary>Thick lines: the more they carry at the same speed.</summary>
    public RisingRequest() => (LayerHeightMm, LineWidthMm) = (0.25m, 0.5m);

    /// <summary>Turns of the spiral.</summary>
    internal int Turns => Math.Max(1, (int)Math.Round(RiseHeightMm / LayerHeightMm));
}

/// <summary>A rising spiral that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record RisingPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required RisingRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Rise for each mm of height, mm³/s.</summary>
    public required double FlowPerMm { get; init; }

    /// <summary>Height of the rise as it is printed, in whole turns, mm.</summary>
    public required double TopHeightMm { get; init; }

    /// <summary>What lets its fastest part be reached; empty without a machine.</summary>
    public PlanWarning Reached { get; init; } = PlanWarning.None;

    /// <summary>Fastest speed that acceleration lets the circle be run at, mm/s; null without a machine.</summary>
    public double? ReachableSpeedMmPerS { get; init; }

    /// <summary>Flow at a height of the rise, mm³/s.</summary>
    public double FlowAt(double heightMm) => (double)Request.StartFlowMm3PerS + FlowPerMm * heightMm;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [
            new(
                0, "the rise", TubeShape.BaseLayers + 1, LayersOf, TubeShape.BaseLayers * (double)Request.LayerHeightMm,
                TubeShape.BaseLayers * (double)Request.LayerHeightMm + TopHeightMm, NozzleC),
        ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"a spiral of {Say.N(TopHeightMm, 1)} mm whose flow rises from {Say.N(Request.StartFlowMm3PerS)} to {Say.N(Request.TopFlowMm3PerS)} mm³/s, " +
            $"{Say.N(FlowPerMm, 3)} for each mm, {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => TubeShape.BaseLayers + Request.Turns;

    /// <inheritdoc/>
    protected override string ChecksHead => "Flow";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [
            .. Enumerable.Range(0, 9).Select(i => (int)Math.Round(i * Request.Turns / 8.0))
                .Select(t => new PlanCheckpoint(
                    TubeShape.BaseLayers + Math.Max(1, t), (TubeShape.BaseLayers + t) * (double)Request.LayerHeightMm,
                    $"{Say.N(FlowAt(t * (double)Request.LayerHeightMm), 1)} mm³/s", $"height {Say.N(t * (double)Request.LayerHeightMm, 1)} mm of the rise")),
        ];
}
