using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FanSteps;

namespace Glenfrost.Application.Trials.FanSteps;

/// <summary>What a fan sweep says, in words.</summary>
internal sealed class FanWords : VerdictWords<FanVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(FanVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static string Sentence(FanVerdict v)
    {
        if (v.Outcome == FanOutcome.Insufficient)
            return "Not to be told yet: three sections or more with a bridge or an overhang scored.";
        if (v.Outcome == FanOutcome.NotFan)
            return "No fan reads 2 or better, or all are alike and none is good: it is not the fan.";
        var fan = $"{Say.N(v.FanPercent!.Value)} %.";
        return v.Outcome switch
        {
            FanOutcome.Edge when v.AtMost => $"{fan} The most that was tried is the best: more may be better.",
            FanOutcome.Edge => $"{fan} The least that was tried is as good as more: less may do.",
            FanOutcome.Noise => $"{fan} The choice is open: the scores scatter too much for it.",
            _ => v.AsGood.Count > 1
                ? $"{fan} As good, within half a score, as up to {Say.N(v.AsGood.Max())} %: the least of them is taken."
                : $"{fan} It stands alone.",
        };
    }

    private static IEnumerable<string> Reasons(FanVerdict v) =>
        v.FanPercent is null ? [] : BondWords.Of(v.Fans, " %", v.Bond, v.Forces, f => v.From.Points.Where(p => p.FanPercent == f).Sum(p => p.Forces.Count),
            ": what the fan is turned down is won there.");

    private static IEnumerable<string> Warnings(FanVerdict v)
    {
        if (v.FanPercent is 0)
            yield return "0 means bridges too: they were laid without fan here, and are kept so.";
        else if (v.FanPercent is not null)
            yield return "Bridges had the same fan: it is kept for both.";
        if (v.Bond.Any(b => b is not null))
            yield return "A bond by hand is a first look: pegs that are broken blind say how much.";
    }

    private static string? Next(FanVerdict v)
    {
        if (v.Next is not { } next)
            return null;
        if (next.Kind == "guide")
            return "Look at nozzle temperature, speed and layer time first.";
        var cost = next is { Minutes: > 0 and var m } ? $" for {(next.Grams is { } g ? $"{Say.N(g, 0)} g and " : "")}{Words.Minutes(m)}" : "";
        if (next.Kind == "edge")
            return $"Go on from {Say.N(next.Values!["fanFromPercent"])} to {Say.N(next.Values["fanToPercent"])} %{cost}.";
        return $"Print the same again{cost}: equal fans are repeats.";
    }

    private static IEnumerable<string> Arithmetic(FanVerdict v)
    {
        for (var i = 0; i < v.Fans.Count; i++)
        {
            yield return $"fan {Say.N(v.Fans[i])} %: bridge and overhang {Say.N(v.Looks[i])} ± {Say.N(v.Halves[i])}" +
                (i < v.Curve.Count ? $", curve {Say.N(v.Curve[i])}" : "") + (v.Bond[i] is { } bond ? $", bond by hand {Say.N(bond)}" : "");
        }

        yield return $"one peak fitted to the means; the least fan within {Say.N(v.From.Margin)} of the best; a section with a 0, or below " +
            $"{Say.N(LeastLevel.Usable)}, is never offered";
    }
}
