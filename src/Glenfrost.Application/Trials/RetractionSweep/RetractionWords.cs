using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Application.Trials.RetractionSweep;

/// <summary>What a sweep or a pair says, in words.</summary>
internal sealed class RetractionWords : VerdictWords<RetractionVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(RetractionVerdict v) =>
        v.Outcome switch
        {
            RetractionOutcome.Insufficient => new(TooLittle(v)),
            RetractionOutcome.Helps or RetractionOutcome.Worse or RetractionOutcome.NoDifference or RetractionOutcome.BothFailed => Pair(v),
            RetractionOutcome.Noise when v.Factor is "dryness" or "on-off" => Pair(v),
            _ => Sweep(v),
        };

    private static string TooLittle(RetractionVerdict v) => v.Factor is "dryness" or "on-off"
        ? v.ValuesRead == 0 ? "Nothing is read yet." : "One of the two is not read yet."
        : v.Cells.Count > 0 ? "All points have the same value: nothing to compare."
        : v.ValuesRead == 0 ? "Nothing is read yet." : $"{Say.Plural(v.ValuesRead, "value")} read: three are the least.";

    private static string Value(RetractionVerdict v, double at) => $"{Say.N(at)} {SweepFactor.Of(v.Factor).Unit}".TrimEnd();

    private static string Score(double score) => Say.N(score, 1);

    private static Wording Sweep(RetractionVerdict v)
    {
        var arithmetic = Arithmetic(v);
        if (v is not { At: { } at, Best: { } best, Loss: { } loss })
            return new($"No {SweepFactor.Of(v.Factor).Label.InSentence()} helps: the best scores {Score(v.Best!.Mean)} of 4" +
                $"{(v.Alike ? ", and all are about as bad" : "")}.")
            {
                Reasons =
                [
                    "Strings that stay whatever is set come from somewhere else: nozzle, moisture, temperature, wipe and coast, travel speed, an idle " +
                        "toolhead, in that order.",
                ],
                Warnings = [.. v.Cautions.Select(c => Caution(c, v))],
                Next = "Find out where the strings come from.",
                Arithmetic = arithmetic,
            };
        return new(Sentence(v, at, best, loss.P95))
        {
            Reasons = [Reason(v, at, best)], Warnings = [.. v.Cautions.Select(c => Caution(c, v))], Next = Next(v, at), Arithmetic = arithmetic,
        };
    }

    private static string Sentence(RetractionVerdict v, SweepCell at, SweepCell best, double lost)
    {
        var value = $"{Value(v, at.At)}{(v.SpeedMmPerS is { } speed && v.Factor == "length" ? $" at {Say.N(speed)} mm/s" : "")}";
        var behind = Behind(lost);
        var f = SweepFactor.Of(v.Factor);
        return v.Outcome switch
        {
            RetractionOutcome.Edge when v.AtTop => $"{value} is the best, and the end of the range: the best may lie beyond.",
            RetractionOutcome.Edge => $"{value} is about as clean as the best, and the {f.Taken} that was tried: {(f.Larger ? "more" : "less")} may do.",
            RetractionOutcome.Noise => $"{value} so far, but {Value(v, best.At == at.At ? v.Shorter?.At ?? at.At : best.At)} may be better: {behind}.",
            _ when v.Alike => $"{value}. Any of those tried will do: {behind}.",
            _ when at.At <= 1e-9 && !f.Larger => $"{value}. As clean as the best without it: {behind}.",
            _ => $"{value}. The {f.Taken} that is about as good as the best: {behind}" +
                $"{(v.Shorter is not { } s ? "" : v.ShorterIsWorse ? $"; {Value(v, s.At)} is worse" : $"; {Value(v, s.At)} is likely worse")}.",
        };
    }

    private static string Behind(double lost) => lost < 0.05 ? "about nothing is lost" : $"at most {Score(lost)} of a score behind it (19 in 20)";

    private static string Reason(RetractionVerdict v, SweepCell at, SweepCell best)
    {
        var others = v.AsGood.Where(x => x != at.At).ToList();
        var read = best.At == at.At ? $"{Value(v, at.At)} was read as {Score(at.Mean)} of 4, the highest by the curve"
            : $"{Value(v, at.At)} was read as {Score(at.Mean)} of 4; highest by the curve is {Value(v, best.At)}, read as {Score(best.Mean)}";
        var alike = others.Count == 0 ? "Nothing else is" : $"{Say.List([.. others.Select(x => Value(v, x))])} {(others.Count == 1 ? "is" : "are")}";
        return $"{read}. {alike} within {Say.N(v.From.Margin)} of it; on the average {Say.N(v.Loss!.Expected)} of a score is lost.";
    }

    private static string Next(RetractionVerdict v, SweepCell at)
    {
        var f = SweepFactor.Of(v.Factor);
        if (v.Next!.Kind == "settle")
            return f.SettledBy switch
            {
                TemperatureTowerTrial.Word => "A tower settles the temperature: bridges, overhangs and bond go with it.",
                FanTrial.Word => "The least fan settles it: bridges, overhangs and bond go with it.",
                _ => "A wall settles the multiplier: fewer strings by starving is no gain.",
            };
        var range = v.NextRange!;
        var gain = v.Next.Gain is { } g ? $" {Worth(g, v.Next)}" : "";
        return v.Next.Kind switch
        {
            "edge" when v.AtTop => $"Go on from {Value(v, at.At)} {(f.Larger ? "downward" : "upward")}: the best may lie beyond.",
            "edge" => f.Larger ? $"Go above {Value(v, at.At)}: more may be as clean." : $"Go below {Value(v, at.At)}: less may be as clean.",
            "bracket" when v.NextPlaces is { } place =>
                $"{Say.Plural(place.Places.Count, "value")} between {Value(v, v.Shorter!.At)} and {Value(v, at.At)} " +
                    $"({Say.List([.. place.Places.Select(p => Say.N(p))])}) would bring ± {Say.N(place.HalfNow)} to about ± {Say.N(place.HalfThen)} " +
                    $"{SweepFactor.Of(v.Factor).Unit}; a plain grid needs {place.GridPieces} pieces for as much.",
            _ when v.Outcome == RetractionOutcome.Noise =>
                $"{Value(v, range.From)} and {Value(v, range.To)} once more on one plate, twice each.{gain}",
            _ => $"{Value(v, at.At)} again on one plate, beside its neighbours, confirms it.{gain}",
        };
    }

    /// <summary>What another print would gain, what it costs, and whether that is worth it.</summary>
    private static string Worth(double gain, TrialNext next)
    {
        var cost = next is { Minutes: { } minutes }
            ? $" for {(next.Grams is { } grams ? $"{Say.N(grams, 0)} g and " : "")}{Words.Minutes(minutes)}" : "";
        return gain < 0.005 ? $"It would gain next to nothing{cost}: for the value alone not worth it."
            : gain < TrialNext.SmallGain ? $"It would gain about {Say.N(gain)} of a score{cost}: for the value alone not worth it."
            : $"It would gain about {Say.N(gain, 1)} of a score{cost}.";
    }

    private static string Caution(RetractionCaution caution, RetractionVerdict v)
    {
        var drive = v.From.Drive == "long-tube" ? "long tube" : "direct drive";
        return caution switch
        {
            RetractionCaution.Gaps =>
                $"Gaps after travel at {Say.List([.. v.TooLong.Select(x => Value(v, x))])}: too much is pulled back. Longer is not better; it clogs, too.",
            RetractionCaution.Long =>
                $"{Value(v, v.At!.At)} is longer than the {Say.N((v.From.Advised ?? RetractionJudging.Advisory(v.From.Drive)).Max!.Value)} mm that is usual " +
                    $"for a {drive}. " +
                    (v.From.Soft ? "Soft filament may need more than that." : "Is the nozzle clean and the filament dry? Long retraction clogs."),
            RetractionCaution.AtMost => $"{Value(v, v.At!.At)} is the most for this machine: the range is not extended.",
            RetractionCaution.Colder => "Colder until it stops is a trap: the part goes weak and starved before the strings are gone.",
            RetractionCaution.TwoPeaks =>
                "The scores fall and rise again: no curve with one peak goes through them. Is a row swapped, or did a piece go wrong? Look at those again.",
            RetractionCaution.StringsAlone => v.Factor switch
            {
                "temperature" => "Strings alone do not settle a temperature: colder until they stop is a trap, the part goes weak before they are gone.",
                "fan" => "Strings alone do not settle the fan: more of it costs bond.",
                _ => "Strings alone do not settle the multiplier: starved lines string less, too.",
            },
            RetractionCaution.WasDamp => "What was measured on this spool before is suspect: strings, flow limit and bond.",
            _ => "Drying makes no strings. Something else changed in between: temperature, nozzle, the retraction itself, or the two halves are swapped.",
        };
    }

    private static Wording Pair(RetractionVerdict v)
    {
        var (dried, gain, u) = (v.Factor == "dryness", v.Pair.Gain, v.Pair.StandardError);
        var (a, b) = (v.Cells[0], v.Cells[1]);
        var (was, now) = dried ? ("as it was", "dried") : ("off", "on");
        return new(v.Outcome switch
        {
            RetractionOutcome.Helps when dried => $"The spool was damp: dried it strings less by {Score(gain)} of 4.",
            RetractionOutcome.Helps => $"Retraction helps: {Score(gain)} of 4 better than without.",
            RetractionOutcome.Worse when dried => $"Dried it strings more, by {Score(-gain)} of 4: that is no work of drying.",
            RetractionOutcome.Worse => $"With retraction it is worse, by {Score(-gain)} of 4: this length does harm.",
            RetractionOutcome.BothFailed =>
                $"Both are unusable ({Score(a.Mean)} and {Score(b.Mean)} of 4): {(dried ? "drying" : "this retraction")} does not mend it.",
            RetractionOutcome.NoDifference when dried => "Drying changed nothing: the spool was dry enough for strings.",
            RetractionOutcome.NoDifference => "On and off string alike: this length does not help.",
            _ => $"{(dried ? "Dried" : "On")} is {(gain >= 0 ? "better" : "worse")} by {Score(Math.Abs(gain))} of 4, within what scores scatter.",
        })
        {
            Reasons =
            [
                $"{char.ToUpperInvariant(was[0])}{was[1..]} {Score(a.Mean)}, {now} {Score(b.Mean)}; told apart from {Say.N(1.645 * u)} on.",
            ],
            Warnings = [.. v.Cautions.Select(c => Caution(c, v))],
            Next = v.Outcome switch
            {
                RetractionOutcome.Helps when dried => "Keep it dry, and sweep the retraction on the dried spool.",
                RetractionOutcome.Helps => "Sweep the length, and keep the shortest that is about as good.",
                RetractionOutcome.Worse when dried => "The pair once more, with nothing else changed.",
                RetractionOutcome.Worse => "Sweep the length from nothing up: a shorter one may help.",
                RetractionOutcome.Noise =>
                    $"{Say.Plural(RetractionJudging.NeededPairs(v.From.ScoreNoise), "more reading")} of each would tell a difference of half a score.",
                RetractionOutcome.NoDifference when dried => null,
                _ => "Find out where the strings come from.",
            },
            Arithmetic =
            [
                $"{was}: mean {Say.N(a.Mean)} from {a.Count}, {now}: mean {Say.N(b.Mean)} from {b.Count}",
                $"difference {Say.Signed(gain, 2)}, standard error {Say.N(u)}; one-sided 95 %: {Say.N(1.645 * u)}",
            ],
        };
    }

    private static IReadOnlyList<string> Arithmetic(RetractionVerdict v)
    {
        var speeds = v.Cells.Select(c => c.SpeedMmPerS).Distinct().Count() > 1;
        return
        [
            .. v.Cells.Select(c =>
                $"{Value(v, c.At)}{(speeds ? $" at {Say.N(c.SpeedMmPerS)} mm/s" : "")}: mean {Say.N(c.Mean)} ± {Say.N(1.96 * c.StandardError)} from " +
                    $"{Say.Plural(c.Count, "reading")}{(c.Gaps > 0 ? ", gaps after travel" : "")}{(c.Mean < RetractionJudging.Usable ? ", not offered" : "")}"),
            "a smooth curve with one peak through them: " +
                string.Join(", ", v.Values.Zip(v.Curve).Where(x => x.Second is not null).Select(x => $"{Value(v, x.First)} {Say.N(x.Second!.Value)}")),
            .. v.Loss is { } loss
                ? (string[])
                [
                    $"what {Value(v, v.At!.At)} lies behind the best of a curve, over {Core.Statistics.ScoreCurve.Draws} curves that might be the true one: " +
                        $"{Say.N(loss.Expected)} on the average, at most {Say.N(loss.P95)} in 19 of 20",
                ]
                : [],
        ];
    }
}
