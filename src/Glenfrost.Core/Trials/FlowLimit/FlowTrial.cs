using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What is read in every way of measuring a flow limit.</summary>
public static class FlowTrial
{
    /// <summary>What was seen or heard, by part.</summary>
    public const string Fault = "fault";

    /// <summary>True for a word that ends a run: nothing above it is printed.</summary>
    public static bool Ends(string fault) => fault is "clicking" or "grinding" or "nothing came";
}

/// <summary>What the three ways of measuring a flow limit have in common as trials.</summary>
/// <typeparam name="TRequest">What a tester asks.</typeparam>
/// <typeparam name="TPlan">Its plans.</typeparam>
/// <typeparam name="TVerdict">Its verdicts.</typeparam>
public abstract class FlowTrial<TRequest, TPlan, TVerdict> : Trial<TRequest, TPlan, TVerdict>
    where TRequest : class, new()
    where TPlan : class, ITrialPlan
    where TVerdict : FlowVerdict
{
    /// <inheritdoc/>
    public sealed override IReadOnlyList<string> Settles => [Flows.Key];

    /// <inheritdoc/>
    public sealed override IReadOnlyList<string> Areas => ["flow-limit"];

    /// <inheritdoc/>
    public sealed override bool AsksDryness => true;

    /// <inheritdoc/>
    public sealed override IReadOnlyList<string> Cautions => Flows.Cautions;

    /// <inheritdoc/>
    public sealed override string DecidingTrial => Kind == FlowStepsTrial.Word ? FlowWeighedTrial.Word : FlowStepsTrial.Word;

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => FlowOverride.IsShown(field, context);

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => FlowOverride.HelpOf(field, context) ?? base.HelpOf(field, context);

    /// <summary>A verdict with what a left-over flow override means for it: its next print as a file counts in which it is still in force.</summary>
    /// <param name="verdict">Judged by flows as real prints count them.</param>
    /// <param name="percent">What is left in force, %.</param>
    /// <param name="answer">Whether it stays.</param>
    /// <param name="practice">Values known good in practice that were sent with the readings.</param>
    protected static TVerdict Under(TVerdict verdict, decimal percent, string answer, IReadOnlyList<KnownGoodValue>? practice = null) =>
        verdict with
        {
            OverridePercent = percent,
            OverrideAnswer = answer,
            Next = FlowOverride.InFile(verdict.Next, percent, answer),
            KnownGood = practice ?? verdict.KnownGood,
        };

    /// <summary>Lines of the file, or the refusals of its own code.</summary>
    protected abstract (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(TPlan plan, PlanContext c);

    /// <inheritdoc/>
    protected sealed override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(TPlan plan, PlanContext context) =>
        Write(plan, context) is var (lines, _, errors) ? (lines, errors) : null;
}
