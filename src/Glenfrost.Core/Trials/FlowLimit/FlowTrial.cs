using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What the three ways of measuring a flow limit have in common as trials.</summary>
public abstract class FlowTrial : Trial
{
    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [Flows.Key];

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions => Flows.Cautions;

    /// <summary>What was seen or heard, by part.</summary>
    public const string Fault = "fault";

    /// <summary>True for a word that ends a run: nothing above it is printed.</summary>
    public static bool Ends(string fault) => fault is "clicking" or "grinding" or "nothing came";

    /// <summary>A verdict with what practice says beside it.</summary>
    protected static FlowVerdict Beside(FlowVerdict v, IReadOnlyList<Trials.PracticeValue> practice) =>
        (FlowVerdict)Trials.Practice.Beside(v, practice, v is SteppedFlowVerdict ? FlowWeighedTrial.Word : FlowStepsTrial.Word, v.MarginPercent);

    /// <summary>Lines of the file, or the refusals of its own code.</summary>
    protected abstract (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(ITrialPlan plan, PlanContext c);

    /// <inheritdoc/>
    public override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) =>
        Write(plan, context) is var (lines, _, errors) ? (lines, errors) : null;
}
