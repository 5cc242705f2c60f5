using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FirstLayer;

namespace Glenfrost.Application.Trials.FirstLayer;

/// <summary>What first-layer patches say, in words.</summary>
internal sealed class FirstLayerWords : VerdictWords<FirstLayerVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(FirstLayerVerdict v)
    {
        if (v.Numbers is not { } n)
        {
            var read = v.Means.Count(m => m is not null);
            return read < FirstLayerJudging.LeastPatches
                ? new(read == 0 ? "Nothing is read yet." : $"{Say.Plural(read, "patch", "patches")} read in the middle: three are the least.")
                : new("No patch holds: that is no matter of the offset.")
                {
                    Reasons = ["Every one was called unusable in gaps, ridges or grip. Bed, dirt, temperature and level come first."],
                    Next = "Find out why the first layer does not hold.",
                };
        }

        return new(Sentence(v, n))
        {
            Reasons =
            [
                $"Best {Say.N(n.BestScore)} of 4 for gaps, ridges and grip together; what lies within {Say.N(n.Separation)} of it is not told apart.",
            ],
            Next = Next(v, n),
            Arithmetic = Arithmetic(v, n),
        };
    }

    private static string Mm(double change) => change == 0 ? "the present offset" : $"{Say.Signed(change, 3)} mm";

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    private static string Sentence(FirstLayerVerdict v, FirstLayerNumbers n)
    {
        var (equals, best) = (v.EqualsMm, v.ChangesMm[n.Best]);
        return v.Outcome switch
        {
            FirstLayerOutcome.Edge =>
                $"{Capital(Mm(best))} is the best, and the {(n.Best == 0 ? "lowest" : "highest")} of the patches: the best may lie beyond.",
            FirstLayerOutcome.NoneGood =>
                $"No patch reads {Say.N(StepsVerdict.LeastGood)} or better: the best, {Mm(best)}, reads {Say.N(n.BestScore)}. That is not the offset alone.",
            FirstLayerOutcome.Uneven => $"The bed does not lie parallel: {Say.List(v.Corners.Where(c => c.Told).Select(Corner))}.",
            FirstLayerOutcome.Noise => $"{Say.N(n.OffsetMm, 3)} mm, but {Say.List(equals.Concat(n.ApartMm).Order().Select(Mm))} can't be told apart.",
            _ =>
                $"{Say.N(n.OffsetMm, 3)} mm. " +
                    (equals.Count == 1 ? $"{Capital(Mm(equals[0]))} lies best."
                        : $"{Capital(Mm(equals[0]))} to {Mm(equals[^1])} lie alike; this is their middle."),
        };
    }

    private static string Corner(CornerBest c) => $"{c.Place} wants {Say.Signed(c.TiltMm!.Value, 2)} mm against the middle";

    private static string? Next(FirstLayerVerdict v, FirstLayerNumbers n) => v.Outcome switch
    {
        FirstLayerOutcome.Edge => $"Patches around {Say.N(n.OffsetMm, 3)} mm, by {Say.N(n.StepMm, 3)} again.",
        FirstLayerOutcome.Uneven => "Level the bed, or renew its mesh, then print the patches again.",
        FirstLayerOutcome.NoneGood => "Find out what spoils the first layer: bed, dirt, temperature and level come before the offset.",
        FirstLayerOutcome.Noise =>
            $"Patches around {Say.N(n.OffsetMm, 3)} mm, in steps of {Say.N(2 * n.StepMm, 3)}: farther apart, they are told apart.",
        _ => null,
    };

    private static IReadOnlyList<string> Arithmetic(FirstLayerVerdict v, FirstLayerNumbers n)
    {
        var (r, change) = (v.From, v.ChangeMm!.Value);
        return
        [
            .. r.Patches.Select((p, i) => $"{Mm(p.ChangeMm)}: {Read(p, v.Means[i])}"),
            $"told apart from {Say.N(n.Separation)} on: 1.645 × noise {Say.N(r.ScoreNoise)} × √(2 ÷ scores a patch); below " +
                $"{Say.N(StepsVerdict.LeastGood)} none is offered",
            $"{Say.N(r.OffsetMm, 3)} {(change < 0 ? "−" : "+")} {Say.N(Math.Abs(change), 3)} = {Say.N(n.OffsetMm, 3)} mm",
            .. v.Corners.Where(c => c.ChangeMm is not null)
                .Select(c =>
                    $"{c.Place}: best at {Mm(c.ChangeMm!.Value)}, {Say.Signed(c.TiltMm!.Value, 3)} mm against the " +
                        $"middle{(c.Told ? "" : ", within what scores can hide")}"),
        ];
    }

    private static string Read(OffsetPatch p, double? together) =>
        p.Scores.Count == 0 ? "not read" : $"{string.Join(", ", p.Scores.Select(s => $"{s.Key} {Say.N(s.Value)}"))}; together {Say.N(together!.Value)}";
}
