using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of the line of a tube, whichever way its flow grows. Lengths in mm.</summary>
public abstract record TubeRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Line width.</summary>
    public decimal LineWidthMm { get; init; } = 0.44m;

    /// <summary>rectangular or stadium.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>Diameter of the tube.</summary>
    public decimal DiameterMm { get; init; } = 80;

    /// <summary>Margin, %.</summary>
    public decimal MarginPercent { get; init; } = 10;

    /// <summary>State of the spool.</summary>
    public string SpoolState { get; init; } = "as logged";

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    [AddedLater]
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>What a figure of flow in the file is in real prints.</summary>
    internal double FlowFactor => FlowOverride.Factor(ResidualFlowPercent, Override);
}

/// <summary>A trial of the flow limit by a tube that is laid faster and faster: its line, its cautions and its spool are asked once for all of them.</summary>
/// <typeparam name="TRequest">What a tester asks.</typeparam>
/// <typeparam name="TPlan">Record of its stored plans.</typeparam>
/// <typeparam name="TVerdict">Record of its verdicts.</typeparam>
public abstract class TubeTrial<TRequest, TPlan, TVerdict> : FlowTrial<TRequest, TPlan, TVerdict>
    where TRequest : TubeRequest, new()
    where TPlan : class, ITrialPlan
    where TVerdict : FlowVerdict
{
    private const string TheLine = "The line";

    /// <summary>The fields of the line, in the order in which they are asked.</summary>
    protected static IReadOnlyList<PlanField> LineFields() =>
    [
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheLine),
        Number(
            r => r.LineWidthMm, "Line width", "mm", 0.1m, 3, "0.6 to 2 times the nozzle", "Wider and higher carry more flow at less speed.", TheLine),
        OneOf(r => r.Area, "Area model", "As your slicer reckons a line.", TheLine, Flows.AreaWords),
        Number(r => r.DiameterMm, "Diameter of the tube", "mm", 20, 400, "a small circle can't be run fast", "A large circle is run faster.", TheLine),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "A limit belongs to its temperature.",
            TheLine),
        Number(r => r.MarginPercent, "Margin", "%", 0, 50, "5 to 20 is usual", "5 to 20 below what was found.", TheLine),
        OneOf(r => r.SpoolState, "The spool", "", TheLine, Flows.SpoolStates),
        Number(r => r.ResidualFlowPercent, "Flow override in the start code", "%", 10, 300, "what an override leaves, 100 for none", "", TheLine, false),
        OneOf(r => r.Override, "In real prints it", "Correcting in both places would correct twice.", TheLine, FlowOverride.Answers),
    ];
}
