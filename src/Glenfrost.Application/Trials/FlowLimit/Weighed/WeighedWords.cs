using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Application.Trials.FlowLimit.Weighed;

/// <summary>What weighed samples say, in words.</summary>
internal sealed class WeighedWords : VerdictWords<WeighedFlowVerdict>
{
    /// <inheritdoc/>
    protected override WeighedFlowVerdict WithInner(WeighedFlowVerdict v) => v.Other is { } other ? v with { Other = (WeighedFlowVerdict)Tell(other) } : v;

    /// <inheritdoc/>
    protected override Wording Word(WeighedFlowVerdict v)
    {
        var told = v.Numbers is { } n ? Curve(v, n) : TooFew(v);
        if (v.Other is not { } other)
            return told;
        return told with
        {
            Reasons = [.. told.Reasons, Compared(v, other)],
            Arithmetic = other.Arithmetic.Count == 0 ? told.Arithmetic
                : [$"at {Say.N(v.NozzleTemperatureC ?? 0)} °C:", .. told.Arithmetic, $"at {Say.N(other.NozzleTemperatureC ?? 0)} °C:", .. other.Arithmetic],
        };
    }

    private static Wording TooFew(WeighedFlowVerdict v)
    {
        var counted = v.From.MassesG.Where((m, i) => m.Count > 0 && !v.From.Failed.ContainsKey(i)).Count();
        return new($"{(counted == 0 ? "Nothing is weighed yet" : Say.Plural(counted, "sample") + " weighed")}: {WeighedJudging.Least} are the least.");
    }

    private static string Compared(WeighedFlowVerdict v, WeighedFlowVerdict other)
    {
        var at = Say.N(other.NozzleTemperatureC ?? 0);
        if (v.RecommendLossFlowMm3PerS is not { } a || other.RecommendLossFlowMm3PerS is not { } b)
            return $"At {at} °C: {other.Sentence}";
        var within = v.RecommendInterval is { } i && other.RecommendInterval is { } j && i.From <= j.To && j.From <= i.To;
        return $"At {at} °C {Say.N(v.From.RecommendLossPercent)} % are lost at {Say.N(b, 1)} mm³/s in place of {Say.N(a, 1)}" +
            $"{(within ? ": within their scatter" : $", {Say.Signed(100 * (b / a - 1), 0)} %")}. The two are never averaged.";
    }

    private static Wording Curve(WeighedFlowVerdict v, WeighedNumbers n)
    {
        var r = v.From;
        var left = r.Failed.Where(f => f.Key >= 0 && f.Key < r.MassesG.Count).Select(f => $"{Say.N(r.Flow(f.Key), 1)} mm³/s is left out: {f.Value}.");
        var basis = new Wording("")
        {
            Warnings = [.. Warnings(v, n), .. Overrides.SaidFree(v.OverridePercent, v.OverrideAnswer)], Arithmetic = Arithmetic(v, n),
        };
        if (n.AtMm3PerS is not { } at)
            return basis with
            {
                Sentence = $"At least {Say.N(n.Samples[^1].FlowMm3PerS, 1)} mm³/s: the loss reached {Say.N(n.Samples[^1].FittedLossPercent, 1)} %, not " +
                    $"{Say.N(r.RecommendLossPercent)}.",
                Reasons = ["Without the loss there is no limit yet: only what still came out is known.", .. left],
                Next = $"Go on from {Say.N(Math.Floor(0.8 * n.Samples[^1].FlowMm3PerS))} mm³/s.",
            };
        var interval = v.RecommendInterval is { } low ? $" ({Say.N(low.From, 1)} to {Say.N(low.To, 1)})" : "";
        var limit = v.LimitFlowMm3PerS is { } l ? $", {Say.N(r.LimitLossPercent)} % lost at {Say.N(l, 1)}" : $"; {Say.N(r.LimitLossPercent)} % were not reached";
        return basis with
        {
            Sentence = $"{Say.N(v.RecommendedFlowMm3PerS!.Value, 1)} mm³/s. {Say.N(r.RecommendLossPercent)} % are lost at {Say.N(at, 1)}{interval}; " +
                $"{FlowWords.Below(r.MarginPercent)}.",
            Reasons =
            [
                $"Full mass up to {Say.N(v.OnsetFlowMm3PerS!.Value, 1)} mm³/s{limit}. In free air less is lost than in a print: a wall at this flow confirms " +
                    "it.",
                .. left,
            ],
            Next = Next(v),
            Arithmetic =
            [
                .. basis.Arithmetic,
                $"{Say.N(r.RecommendLossPercent)} % between {Say.N(n.Samples.Select(s => s.FlowMm3PerS).LastOrDefault(f => f <= at), 1)} and " +
                    $"{Say.N(n.Samples.Select(s => s.FlowMm3PerS).FirstOrDefault(f => f >= at), 1)}: {Say.N(at, 2)} mm³/s",
                FlowWords.Less(v),
            ],
        };
    }

    private static string? Next(WeighedFlowVerdict v) => v switch
    {
        { ScaleAdequate: false } => $"Samples of {Say.N(v.NeededLengthMm!.Value)} mm, or a finer scale.",
        { NextPlaces: { } g } =>
            $"{Say.Plural(g.Places.Count, "sample")} at {Say.List(g.Places.Select(p => Say.N(p, 1)))} mm³/s bring ± {Say.N(g.HalfNow, 1)} to about ± " +
                $"{Say.N(g.HalfThen, 1)}; the plain grid needs {g.GridPieces}.",
        _ => $"A wall at {Say.N(v.RecommendedFlowMm3PerS!.Value, 1)} mm³/s by stepped speed confirms it in a print.",
    };

    private static IEnumerable<string> Warnings(WeighedFlowVerdict v, WeighedNumbers n)
    {
        if (!v.ScaleAdequate)
            yield return $"The scale is too coarse: ± {Say.N(v.LossUncertaintyPoints!.Value, 1)} points of loss on samples of {Say.N(n.ScaleG, 3)} g. Samples " +
                $"of {Say.N(v.NeededLengthMm!.Value)} mm would do, or a finer scale.";
        if (v.ExpectedMassG is { } should && !n.AsPlanned)
            yield return $"The full mass is {Say.N(n.FullG, 3)} g, the commanded length should have {Say.N(should, 3)} g " +
                $"({Say.Signed(100 * (n.FullG / should - 1))} %): look at the feed, the diameter and the density. Losses are relative, so they stand.";
        if (n.DipsMm3PerS.Count > 0)
            yield return $"{Say.List(n.DipsMm3PerS.Select(f => Say.N(f, 1)))} mm³/s is lighter than both neighbours: a tangle, or a piece that was lost? " +
                "Exclude it with its reason, or weigh it again.";
        if (v.From.ClickedAt is { } click && click < v.FlowsMm3PerS.Count)
            yield return $"Clicking or grinding at {Say.N(v.FlowsMm3PerS[click], 1)} mm³/s ended the run: nothing above it is proposed.";
    }

    private static IReadOnlyList<string> Arithmetic(WeighedFlowVerdict v, WeighedNumbers n) =>
    [
        $"full mass m0 = mean of the first {n.Full} = {Say.N(n.FullG, 4)} g; how many is chosen by Akaike's criterion, scatter of one mass " +
            $"{Say.N(n.EachG, 4)} g",
        .. n.Samples.Select(s =>
            $"{Say.N(s.FlowMm3PerS, 1)} mm³/s: {string.Join(" and ", s.MassesG.Select(m => Say.N(m, 4)))} g" +
                $"{(s.MassesG.Count > 1 ? $", mean {Say.N(s.MeanG, 4)}" : "")}, loss {Say.N(100 * (1 - s.MeanG / n.FullG), 1)} %, fitted " +
                $"{Say.N(s.FittedLossPercent, 1)} %"),
    ];
}
