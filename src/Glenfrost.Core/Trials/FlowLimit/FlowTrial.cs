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

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => FlowOverride.IsShown(field, context);

    /// <inheritdoc/>
    public override string HelpOf(string field, PlanContext context) => FlowOverride.HelpOf(field, context) ?? base.HelpOf(field, context);

    /// <summary>What was seen or heard, by part.</summary>
    public const string Fault = "fault";

    /// <summary>True for a word that ends a run: nothing above it is printed.</summary>
    public static bool Ends(string fault) => fault is "clicking" or "grinding" or "nothing came";

    /// <summary>A verdict with what a left-over flow override means for it and what practice says beside it.</summary>
    protected static FlowVerdict Beside(
        FlowVerdict v, IReadOnlyList<Trials.PracticeValue> practice, (decimal Percent, string Answer) left)
    {
        var (said, factor) = v is WeighedFlowVerdict
            ? (FlowOverride.SaidFree(left.Percent, left.Answer), FlowOverride.FreeFactor(left.Percent, left.Answer))
            : (FlowOverride.Said(left.Percent, left.Answer), FlowOverride.Factor(left.Percent, left.Answer));
        return (FlowVerdict)Trials.Practice.Beside(
            v with { Warnings = [.. v.Warnings, .. said], Next = FlowOverride.InFile(v.Next, factor) },
            practice, v is SteppedFlowVerdict ? FlowWeighedTrial.Word : FlowStepsTrial.Word, v.MarginPercent);
    }

    /// <summary>Lines of the file, or the refusals of its own code.</summary>
    protected abstract (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(ITrialPlan plan, PlanContext c);

    /// <inheritdoc/>
    public override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) =>
        Write(plan, context) is var (lines, _, errors) ? (lines, errors) : null;
}
