using Glenfrost.Core.Settings;
namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of weighed samples. Lengths of filament in mm, flows in mm³/s, masses in g.</summary>
public sealed record WeighedRequest
{
    /// <summary>Nozzle, °C: the pairing's own.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>A second temperature, °C, for example the top of the range; null for none.</summary>
    public decimal? SecondTemperatureC { get; init; }

    /// <summary>Flow of the first sample.</summary>
    public decimal StartFlowMm3PerS { get; init; } = 4;

    /// <summary>Rise from sample to sample.</summary>
    public decimal StepMm3PerS { get; init; } = 2;

    /// <summary>Samples.</summary>
    public decimal Samples { get; init; } = 10;

    /// <summary>Samples at each flow.</summary>
    public decimal Repeats { get; init; } = 1;

    /// <summary>Filament of a sample.</summary>
    public decimal ExtrudedLengthMm { get; init; } = 300;

    /// <summary>Smallest step of the scale.</summary>
    public decimal ScaleResolutionG { get; init; } = 0.01m;

    /// <summary>Loss that is accepted, %.</summary>
    public decimal RecommendLossPercent { get; init; } = 5;

    /// <summary>Loss that is the limit, %.</summary>
    public decimal LimitLossPercent { get; init; } = 10;

    /// <summary>Margin, %: what free air loses less than a print, and the usual 5.</summary>
    public decimal MarginPercent { get; init; } = FlowWeighedTrial.FreeAirMargin;

    /// <summary>Pause after each sample to cut it, s.</summary>
    public decimal PauseS { get; init; } = 20;

    /// <summary>State of the spool.</summary>
    public string SpoolState { get; init; } = "as logged";

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    [AddedLater]
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>What a figure of flow in the file is in real prints.</summary>
    internal double FlowFactor => FlowOverride.FreeFactor(ResidualFlowPercent, Override);
}

/// <summary>Weighed samples that can be extruded. Version 2 of the stored form: fields are only added.</summary>
public sealed record WeighedPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required WeighedRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Filament, mm.</summary>
    public double FilamentDiameterMm { get; init; } = 1.75;

    /// <summary>Density, g/cm³.</summary>
    public double DensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Flows in the order of extruding, mm³/s.</summary>
    public required IReadOnlyList<double> FlowsMm3PerS { get; init; }

    /// <summary>Mass that a whole sample should have, g.</summary>
    public double ExpectedMassG { get; init; }

    /// <summary>True where the scale tells the loss within a point.</summary>
    public bool ScaleAdequate { get; init; }

    /// <summary>How surely a loss will be known, ± points.</summary>
    public double LossUncertaintyPoints { get; init; }

    /// <summary>Length of sample that would do, mm.</summary>
    public double NeededLengthMm { get; init; }

    /// <summary>Temperatures in the order of extruding, °C.</summary>
    internal IReadOnlyList<decimal> Temperatures => Request.SecondTemperatureC is { } t ? [Request.NozzleTemperatureC, t] : [Request.NozzleTemperatureC];

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [
            .. Temperatures.SelectMany(
                (t, k) =>
                    FlowsMm3PerS.Select(
                        (q, i) =>
                            new PlanPart(
                                k * FlowsMm3PerS.Count + i, Temperatures.Count > 1 ? $"{Say.N(q, 1)} mm³/s, {Say.N(t)} °C" : $"{Say.N(q, 1)} mm³/s",
                                NozzleC: (double)t))),
        ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"each of {Say.N(Request.ExtrudedLengthMm)} mm{(Request.Repeats > 1 ? $", {Say.N(Request.Repeats)} at each flow" : "")}, " +
            $"{Say.N(FlowsMm3PerS[0], 1)} to {Say.N(FlowsMm3PerS[^1], 1)} mm³/s, {string.Join(" and ", Temperatures.Select(t => Say.N(t)))} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override double MostC => (double)Temperatures.Max();

    /// <inheritdoc/>
    protected override double LeastC => (double)Temperatures.Min();
}
