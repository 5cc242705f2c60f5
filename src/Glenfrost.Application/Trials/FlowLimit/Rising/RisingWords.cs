using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Application.Trials.FlowLimit.Rising;

/// <summary>What a rising spiral says, in words.</summary>
internal sealed class RisingWords : VerdictWords<RisingFlowVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(RisingFlowVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        if (v.From is not { } r)
            return new(v.WithoutHeight is { Length: > 0 } fault ? $"{char.ToUpperInvariant(fault[0])}{fault[1..]}: at which height?" : "Nothing is read yet.");
        var told = r.FailHeightMm is { } at ? Failed(v, r, at) : NotReached(v);
        return told with { Warnings = [.. told.Warnings, .. FlowWords.Laid(v)] };
    }

    private static Wording NotReached(RisingFlowVerdict v) =>
        new(
            v.TopFlowMm3PerS is { } reached
                ? $"At least {Say.N(Math.Floor(reached * 10) / 10, 1)} mm³/s: nothing failed up to the top."
                : "Nothing failed; how high the rise went was not said.")
        {
            Reasons = ["Without a fault there is no limit yet: only what was printed well is known."],
            Next = v.TopFlowMm3PerS is { } top ? $"A higher range, from {Say.N(Math.Floor(top * 0.8))} mm³/s." : null,
        };

    private static Wording Failed(RisingFlowVerdict v, RisingReadings r, double at)
    {
        var (limit, u) = (v.LimitFlowMm3PerS!.Value, v.UncertaintyMm3PerS!.Value);
        var early = v.Outcome == FlowOutcome.NoneGood;
        var (from, to) = (Math.Max(1, Math.Floor(0.7 * limit)), Math.Ceiling(1.2 * limit));
        return new(
            early
                ? $"It failed where the rise begins, at {Say.N(limit, 1)} mm³/s: start lower."
                : $"{Say.N(v.RecommendedFlowMm3PerS!.Value, 1)} mm³/s. The wall fails at {Say.N(at, 1)} mm, {Say.N(limit, 1)} ± {Say.N(u, 1)} " +
                    $"mm³/s{FlowWords.Heard(r.Fault)}; {FlowWords.Below(r.MarginPercent)}.")
        {
            Reasons = [$"{Say.N(r.StartFlowMm3PerS)} + {Say.N(r.FlowPerMm, 3)} × {Say.N(at, 1)} = {Say.N(limit, 2)} mm³/s."],
            Warnings = u > 0.1 * limit
                ? [$"± {Say.N(r.HeightUncertaintyMm)} mm of height are ± {Say.N(100 * u / limit)} % of flow: a gentler rise tells more."] : [],
            Next = early
                ? $"Start at {Say.N(Math.Max(1, Math.Floor(limit / 2)))} mm³/s."
                : $"A second spiral from {Say.N(from)} to {Say.N(to)} mm³/s, with a gentler rise, confirms it within about ± " +
                    $"{Say.N(RisingJudging.ThenWithin(from, to, r.HeightUncertaintyMm), 2)}.",
            Arithmetic =
            [
                $"flow at the fault = {Say.N(r.StartFlowMm3PerS, 2)} + {Say.N(r.FlowPerMm, 4)} × {Say.N(at, 2)} = {Say.N(limit, 3)} mm³/s",
                $"± {Say.N(r.FlowPerMm, 4)} × {Say.N(r.HeightUncertaintyMm, 2)} = ± {Say.N(u, 3)} mm³/s",
                .. early ? (string[])[] : [FlowWords.Less(v)],
            ],
        };
    }
}
