using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FanSteps;

/// <summary>
/// The least fan that is about as good as the best: too little lets bridges sag and edges curl, too much lifts edges too and takes from the bond.
/// </summary>
public static class FanJudging
{
    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FanReadings r) => LeastLevel.Check(
        Levels(r), r.Margin, r.ScoreNoise, "a least fan", "bridge", "its bridge or its overhang",
        fan => fan is >= 0 and <= 100 ? null : ("fanPercent", $"{Say.N(fan)} % is no fan: 0 to 100 would be right."));

    private static IReadOnlyList<ScoredLevel> Levels(FanReadings r) =>
        [.. r.Points.Select(p => new ScoredLevel(p.FanPercent, p.Looks, p.Bond) { Forces = p.Forces })];

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static FanVerdict Judge(FanReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = FanOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        var l = LeastLevel.Of(Levels(r), r.Margin, r.ScoreNoise);
        var basis = new FanVerdict
        {
            Outcome = FanOutcome.Insufficient, From = r, Advised = false, Fans = l.Levels, Looks = l.Looks, Halves = l.Halves, Bond = l.Bond, Curve = l.Curve,
            Forces = l.Forces,
        };
        if (l.IsNotIt)
            return basis with { Outcome = FanOutcome.NotFan, Next = new("guide", "") { Guide = "sagging-bridges" } };
        if (l.Chosen is not { } chosen)
            return basis;
        var (at, step) = (l.Levels[chosen], l.Step);
        var (atMost, atLeast) = (chosen == l.Levels.Count - 1 && at < 100 - 1e-9, chosen == 0 && at > 1e-9);
        var outcome = atMost || atLeast ? FanOutcome.Edge : l.IsClear ? FanOutcome.Clear : FanOutcome.Noise;
        var half = Math.Round(Math.Min(100, l.Half), 1);
        var (from, to) = atMost ? (at, Math.Min(100, at + 4 * step)) : atLeast ? (Math.Max(0, at - 4 * step), at) : (l.Levels[0], l.Levels[^1]);
        return basis with
        {
            Outcome = outcome,
            FanPercent = at,
            AsGood = [.. l.Good.Select(i => l.Levels[i])],
            AtMost = atMost,
            Advised = outcome == FanOutcome.Clear,
            // Bridges were laid with the same fan: what is kept says so, or a bridge fan of its own would stand beside it.
            Settings = [new("fanPercent", at, half), new("bridgeFanPercent", at, half)],
            Next = outcome == FanOutcome.Clear ? null : new(outcome == FanOutcome.Edge ? "edge" : "repeat", "", FanTrial.Word, new Dictionary<string, decimal>
            {
                ["fanFromPercent"] = (decimal)Math.Round(from), ["fanToPercent"] = (decimal)Math.Round(to),
                ["fanStepPercent"] = (decimal)Math.Max(5, Math.Round(outcome == FanOutcome.Edge ? (to - from) / 4 : step)),
            }),
        };
    }
}
