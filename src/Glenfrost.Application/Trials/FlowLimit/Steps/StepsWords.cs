using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Application.Trials.FlowLimit.Steps;

/// <summary>What a stepped speed says, in words.</summary>
internal sealed class StepsWords : VerdictWords<SteppedFlowVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(SteppedFlowVerdict v)
    {
        if (v.From is not { } r)
            return Untold(v.Ladder);
        var told = v.Outcome switch
        {
            FlowOutcome.NoneGood => NoneGood(r),
            FlowOutcome.NotReached => NotReached(v, r),
            _ => Limit(v, r),
        };
        return told with
        {
            Reasons = v.Ladder.Taken > 0
                ?
                [
                    .. told.Reasons,
                    $"{Say.Plural(v.Ladder.Taken, "step")} below {(v.Ladder.Taken == 1 ? "was not read and is" : "were not read and are")} taken as good.",
                ]
                : told.Reasons,
            Warnings = [.. told.Warnings, .. FlowWords.Laid(v)],
        };
    }

    private static Wording Untold(StepsLadder ladder) =>
        ladder is { SaidGood: { } good, SaidBad: { } bad }
            ? new($"Step {good} is said to be the last good one, and step {bad} below it is {ladder.Word}: one of the two is read wrong.")
        : ladder.LostAboveFlowMm3PerS is { } flow
            ? new($"Good up to {Say.N(flow, 1)} mm³/s; what came above is lost, not failed.")
            {
                Reasons = ["Missing is not zero: a tube that was knocked over says nothing of the steps above."],
            }
        : new("Nothing is read yet.");

    private static Wording NoneGood(StepsReadings r) =>
        new($"Not even the start at {Say.N(r.Speed(0))} mm/s, {Say.N(r.Flow(0), 1)} mm³/s, came out well.")
        {
            Reasons = ["A limit below the slowest step is no flow limit yet: a slower start, or the nozzle first."],
            Next = "Start at half of that speed, with the nozzle checked.",
        };

    private static Wording NotReached(SteppedFlowVerdict v, StepsReadings r)
    {
        var speed = r.Speed(r.LastGoodStep);
        return new($"At least {Say.N(r.Flow(r.LastGoodStep), 1)} mm³/s: all steps up to {Say.N(speed)} mm/s came out well.")
        {
            Reasons = ["The fault was not reached, so there is no limit yet. What is known good may be used."],
            Next = $"Go on from there: a start at {Say.N(Math.Floor(speed))} mm/s.",
            Arithmetic = Arithmetic(v, r),
        };
    }

    private static Wording Limit(SteppedFlowVerdict v, StepsReadings r)
    {
        var (flow, above) = (r.Flow(r.LastGoodStep), r.Flow(r.LastGoodStep + 1));
        var brings = v.NextPlaces is { } p
            ? $": {Say.Plural(p.Places.Count, "flow")} bring it from ± {Say.N(p.HalfNow, 1)} to about ± {Say.N(p.HalfThen, 1)}" : "";
        return new(
            $"{Say.N(v.RecommendedFlowMm3PerS!.Value, 1)} mm³/s. {Say.N(flow, 1)} came out well, {Say.N(above, 1)} did not{FlowWords.Heard(r.Fault)}; " +
                $"{FlowWords.Below(r.MarginPercent, " the last good one")}.")
        {
            Reasons = [$"The limit lies between {Say.N(flow, 2)} and {Say.N(above, 2)} mm³/s: a step is as fine as this way tells."],
            Warnings = (above - flow) / flow > 0.2
                ? [$"One step is {Say.N(100 * (above - flow) / flow)} % of flow: a finer way inside the bracket tells more."] : [],
            Next = $"Weighed samples from {Say.N(Math.Floor(flow * 10) / 10, 1)} to {Say.N(Math.Ceiling(above * 10) / 10, 1)} mm³/s settle it inside the " +
                $"bracket{brings}.",
            Arithmetic = [.. Arithmetic(v, r), FlowWords.Less(v)],
        };
    }

    private static IReadOnlyList<string> Arithmetic(SteppedFlowVerdict v, StepsReadings r)
    {
        var (step, start, speed) = (r.LastGoodStep, Say.N(r.StartSpeedMmPerS), r.Speed(r.LastGoodStep));
        var rise =
            r.IncreasePercent is not { } p ? $"{start} + {step} × {Say.N(r.IncreaseMmPerS!.Value)}"
            : r.Compounding ? $"{start} × {Say.N(1 + p / 100, 3)}^{step}"
            : $"{start} × (1 + {step} × {Say.N(p)} ÷ 100)";
        return
        [
            $"speed of step {step} = {rise} = {Say.N(speed)} mm/s",
            $"area, {(r.Area == "stadium" ? "half-round ends: (w − h)·h + π(h ÷ 2)²" : "rectangle: w × h")} = {Say.N(v.AreaMm2, 4)} mm²",
            $"flow = {Say.N(speed)} × {Say.N(v.AreaMm2, 4)}{Overrides.Times(v.OverridePercent, v.OverrideAnswer)} = {Say.N(r.Flow(step), 2)} mm³/s",
        ];
    }
}
