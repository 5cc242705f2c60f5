using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerTime;

namespace Glenfrost.Application.Trials.LayerTime;

/// <summary>What a column of layer times says, in words.</summary>
internal sealed class LayerTimeWords : VerdictWords<LayerTimeVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(LayerTimeVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static string Sentence(LayerTimeVerdict v)
    {
        if (v.Outcome == LayerTimeOutcome.Insufficient)
            return "Not to be told yet: three sections or more with corners or walls scored.";
        if (v.Outcome == LayerTimeOutcome.NotTime)
            return "No time reads 2 or better, or all are alike and none is good: it is not the layer time.";
        var time = $"{Say.N(v.Seconds!.Value)} s.";
        return v.Outcome switch
        {
            LayerTimeOutcome.Edge when v.AtLongest => $"{time} The longest that was tried is the best: longer may be better.",
            LayerTimeOutcome.Edge => $"{time} The shortest that was tried is as good as longer: shorter may do.",
            LayerTimeOutcome.Noise => $"{time} The choice is open: the scores scatter too much for it.",
            _ => v.AsGood.Count > 1
                ? $"{time} As good, within {(v.From.Margin == 0.5 ? "half a score" : $"{Say.N(v.From.Margin)} of a score")}, as up to " +
                    $"{Say.N(v.AsGood.Max())} s: the shortest of them is taken."
                : $"{time} It stands alone.",
        };
    }

    private static IEnumerable<string> Reasons(LayerTimeVerdict v)
    {
        if (v is { PercentOfBefore: { } share, From.InForceS: { } before })
        {
            yield return share == 100
                ? $"{Say.N(before)} s is in force already."
                : $"In force is {Say.N(before)} s: a part whose every layer is slowed takes {Say.N(Math.Abs(100 - share))} % " +
                    $"{(share < 100 ? "less" : "more")} time with {Say.N(v.Seconds!.Value)}.";
        }

        if (v.Settings.Count > 0)
            yield return NotTheFans;
        if (v.Seconds is null)
            yield break;
        var bond = BondWords.Of(
            v.Times, " s", v.Bond, v.Forces, t => v.From.Points.Where(p => p.Seconds == t).Sum(p => p.Forces.Count),
            ": a layer that is still warm takes the next one better.");
        foreach (var said in bond)
            yield return said;
    }

    /// <summary>Two settings look alike.</summary>
    private const string NotTheFans = "It is the time that the print slows down for, not the one below which the fan goes up.";

    private static IEnumerable<string> Warnings(LayerTimeVerdict v)
    {
        if (v.Seconds is not null)
            yield return "It holds for parts about as thin as the column, with this fan: thinner tips need longer, or a second part beside them.";
    }

    private static string? Next(LayerTimeVerdict v)
    {
        if (v.Outcome == LayerTimeOutcome.NotTime)
            return "Look at nozzle temperature and fan first.";
        if (v.Next is not { } next)
            return null;
        var cost = next is { Minutes: > 0 and var m } ? $" for {(next.Grams is { } g ? $"{Say.N(g, 0)} g and " : "")}{Words.Minutes(m)}" : "";
        return next.Kind == "edge"
            ? $"Go on from {Say.N(next.Values!["shortestS"])} to {Say.N(next.Values["longestS"])} s{cost}."
            : $"Print the same again{cost}: equal times are repeats.";
    }

    private static IEnumerable<string> Arithmetic(LayerTimeVerdict v)
    {
        for (var i = 0; i < v.Times.Count; i++)
        {
            yield return $"{Say.N(v.Times[i])} s: corners and walls {Say.N(v.Looks[i])} ± {Say.N(v.Halves[i])}" +
                (i < v.Curve.Count ? $", curve {Say.N(v.Curve[i])}" : "") + (v.Bond[i] is { } bond ? $", bond by hand {Say.N(bond)}" : "");
        }

        yield return $"one peak fitted to the means; the shortest time within {Say.N(v.From.Margin)} of the best; a section with a 0, or below " +
            $"{Say.N(LeastLevel.Usable)}, is never offered";
    }
}
