using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.LayerTime;
using Glenfrost.Core.Trials.SettingSteps;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Application.Trials.SettingSteps;

/// <summary>What a setting in steps says, in words.</summary>
internal sealed class SettingWords : VerdictWords<SettingVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(SettingVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static SteppedSetting Of(SettingVerdict v) => SteppedSetting.Of(v.Factor);

    private static string Sentence(SettingVerdict v)
    {
        var f = Of(v);
        if (v.Outcome == SettingOutcome.Insufficient)
            return "Not to be told yet: three values or more have to be scored.";
        if (v.Outcome == SettingOutcome.NotIt)
            return $"No value reads 2 or better, or all are alike and none is good: it is not the {f.Label.InSentence()}.";
        var at = $"{f.Said(v.Value!.Value)}.";
        return v.Outcome switch
        {
            SettingOutcome.Edge when v.MoreMayDo => $"{at} The {f.Taken} that was tried looks as good as the best: {(f.Larger ? "more" : "less")} may do.",
            SettingOutcome.Edge => $"{at} The last that was tried is the best: {(f.Larger ? "less" : "more")} may be better.",
            SettingOutcome.Noise => $"{at} The choice is open: the scores scatter too much for it.",
            _ => v.AsGood.Count > 1
                ? $"{at} As good, within {(v.From.Margin == 0.5 ? "half a score" : $"{Say.N(v.From.Margin)} of a score")}, as " +
                    $"{(f.Larger ? "from" : "up to")} {f.Said(f.Larger ? v.AsGood.Min() : v.AsGood.Max())}{(f.Larger ? " on" : "")}: the {f.Taken} of " +
                    "them is taken."
                : $"{at} It stands alone.",
        };
    }

    private static IEnumerable<string> Reasons(SettingVerdict v)
    {
        var f = Of(v);
        if (v is not { Value: { } at, From.InForce: { } now } || now <= 0)
            yield break;
        yield return Math.Abs(at - now) < 1e-9 ? $"{f.Said(now)} is in force already."
            : $"In force is {f.Said(now)}" + (f.Unit == "mm/s"
                ? $": such lines are laid in {Say.N(100 * Math.Abs(1 - now / at), 0)} % {(at > now ? "less" : "more")} time."
                : f.Word == "width" ? $": a face takes {Say.N(100 * Math.Abs(1 - now / at), 0)} % {(at > now ? "fewer" : "more")} lines." : ".");
    }

    private static IEnumerable<string> Warnings(SettingVerdict v)
    {
        if (v.Value is null)
            yield break;
        yield return Of(v).Word switch
        {
            "outer-speed" or "inner-speed" =>
                "It holds for this printer, its acceleration and walls about as long: what stands on a wobbly table swings sooner.",
            "width" => "Flow, pressure advance and retraction were found at the old width: they are doubtful once another is kept.",
            _ => "Looks alone do not settle it: what it does to strength was not asked here.",
        };
    }

    private static string? Next(SettingVerdict v)
    {
        var f = Of(v);
        if (v.Outcome == SettingOutcome.NotIt)
            return "Look at nozzle temperature and flow first.";
        if (v.Next is not { } next)
            return null;
        if (next.Kind == "settle")
        {
            return f.SettledBy switch
            {
                TemperatureTowerTrial.Word => "A tower settles the temperature: bridges, overhangs and bond go with it.",
                FanTrial.Word => "The least fan settles it: bridges, overhangs and bond go with it.",
                LayerTimeTrial.Word => "A column of layer times settles it: a tip can't be slowed below the slowest speed.",
                _ => "A wall that is measured settles the multiplier.",
            };
        }

        var cost = next is { Minutes: > 0 and var m } ? $" for {(next.Grams is { } g ? $"{Say.N(g, 0)} g and " : "")}{Words.Minutes(m)}" : "";
        return next.Kind == "edge"
            ? $"Go on from {Say.N(next.Values!["from"], 3)} to {f.Said((double)next.Values["to"])}{cost}."
            : $"Print the same again{cost}: equal values are repeats.";
    }

    private static IEnumerable<string> Arithmetic(SettingVerdict v)
    {
        var (f, cones) = (Of(v), v.From.Piece == SettingTrial.Cones);
        for (var i = 0; i < v.Values.Count; i++)
        {
            yield return $"{f.Said(v.Values[i])}: {(cones ? "tip and flank" : "corners and walls")} {Say.N(v.Looks[i])} ± {Say.N(v.Halves[i])}" +
                (i < v.Curve.Count ? $", curve {Say.N(v.Curve[i])}" : "");
        }

        yield return $"one peak fitted to the means; the {f.Taken} within {Say.N(v.From.Margin)} of the best; what has a 0, or is below " +
            $"{Say.N(LeastLevel.Usable)}, is never offered";
    }
}
