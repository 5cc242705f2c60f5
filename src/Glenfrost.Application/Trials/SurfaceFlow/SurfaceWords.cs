using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.SurfaceFlow;

namespace Glenfrost.Application.Trials.SurfaceFlow;

/// <summary>What a flow strip says, in words.</summary>
internal sealed class SurfaceWords : VerdictWords<SurfaceVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(SurfaceVerdict v)
    {
        if (v.Numbers is not { } n)
        {
            var read = v.Means.Count(m => m is not null);
            return read < SurfaceJudging.LeastSteps
                ? new(read == 0 ? "Nothing is read yet." : $"{Say.Plural(read, "step")} read: three are the least.")
                : new("Every step was called unusable: that is no flow.")
                {
                    Reasons = ["Where no step is fit, look at the nozzle, the temperature and the layer height first."],
                    Next = "Find out what spoils the surface before the flow is set.",
                };
        }

        var r = v.From;
        return new(Sentence(v, n))
        {
            Reasons =
            [
                $"Best mean score {Say.N(v.Means[n.Best]!.Value)} of 4; what lies within {Say.N(n.Separation)} of it is not told apart with a score noise of " +
                    $"{Say.N(r.ScoreNoise)}.",
            ],
            Warnings = [.. Warnings(v, n), .. Overrides.Said(r.ResidualFlowPercent, r.Override)],
            Next = v.NextRange is { } next ? Next(v, next)
                : v.Outcome == SurfaceOutcome.NoneGood ? "Find out what spoils the surface before the flow is set: nozzle, temperature, layer height."
                : null,
            Arithmetic = Arithmetic(v, n),
        };
    }

    private static string Change(double percent) => percent == 0 ? "the present flow" : $"{Say.Signed(percent)} %";

    private static string Sentence(SurfaceVerdict v, SurfaceNumbers n)
    {
        var equals = v.EqualsPercent;
        return v.Outcome switch
        {
            SurfaceOutcome.Edge => $"{Capital(Change(v.ChangesPercent[n.Best]))} is the best, and the last of the strip: the best may lie beyond.",
            SurfaceOutcome.NoneGood =>
                $"No step reads {Say.N(StepsVerdict.LeastGood)} or better: the best, {Change(v.ChangesPercent[n.Best])}, reads " +
                    $"{Say.N(v.Means[n.Best]!.Value)}. That is not the flow alone.",
            SurfaceOutcome.Noise =>
                $"{Say.N(n.Value, 3)}, but {Say.List(equals.Concat(n.ApartPercent).Order().Select(Change))} can't be told apart.",
            SurfaceOutcome.Finer => $"{Say.N(n.Value, 3)} on a coarse strip: a finer one tells within a per cent.",
            _ =>
                $"{Say.N(n.Value, 3)} ± {Say.N(n.HalfWidth, 3)}. " +
                    (equals.Count == 1 ? $"{Capital(Change(equals[0]))} reads best."
                        : $"{Capital(Change(equals[0]))} to {Change(equals[^1])} read alike; this is their middle."),
        };
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    private static IEnumerable<string> Warnings(SurfaceVerdict v, SurfaceNumbers n)
    {
        if (n.OutOfRange)
            yield return "A multiplier below 0.3 or above 1.5 is none: look at the feed and the line width.";
        else if (Math.Abs(n.ChangePercent) > 15)
            yield return $"A change of {Say.N(Math.Abs(n.ChangePercent), 1)} % is more than flow: is the feed measured?";
    }

    private static string Next(SurfaceVerdict v, NextStrip next)
    {
        var (middle, step) = (Say.N(next.ExtrusionMultiplier, 3), Say.N(next.StepPercent));
        return v.Outcome switch
        {
            SurfaceOutcome.Edge => $"A strip around {middle}, by {step} % again.",
            SurfaceOutcome.Noise => $"A strip around {middle} by {step} %: read it in another light, before you look at this one again.",
            _ => $"A fine strip around {middle}, by {step} %.",
        };
    }

    private static IReadOnlyList<string> Arithmetic(SurfaceVerdict v, SurfaceNumbers n)
    {
        var r = v.From;
        return
        [
            .. r.Patches.Select((p, i) => $"{Change(p.ChangePercent)}: {Read(p, v.Means[i])}"),
            $"told apart from {Say.N(n.Separation)} on: 1.645 × noise {Say.N(r.ScoreNoise)} × √(2 ÷ scores a step); below " +
                $"{Say.N(StepsVerdict.LeastGood)} none is offered",
            $"{Say.N(r.ExtrusionMultiplier, 3)} × (1 + {Say.N(n.ChangePercent, 2)} ÷ 100){Overrides.Times(r.ResidualFlowPercent, r.Override)} = " +
                Say.N(n.Value, 3),
        ];
    }

    private static string Read(SurfacePatch p, double? mean) =>
        p.Scores.Count == 0 ? "not read"
        : $"{string.Join(" and ", p.Scores.Select(s => Say.N(s)))}, mean {Say.N(mean!.Value)}{(p.Scores.Any(s => s <= 0) ? ", a 0 vetoes" : "")}";
}
