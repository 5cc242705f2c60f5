using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <summary>
/// The value of a setting that is rather had (faster, wider, warmer, less wind, less waiting) among those that look about as good as the best on a curve with
/// one peak.
/// </summary>
public static class SettingJudging
{
    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(SettingReadings r)
    {
        var f = SteppedSetting.Of(r.Factor);
        return
        [
            .. f.Shows(r.Piece) ? Array.Empty<FieldError>() : [NotShown(f, "piece")],
            .. LeastLevel.Check(
                Levels(r, false), r.Margin, r.ScoreNoise, $"a {f.Taken} {f.Label.InSentence()}", r.Piece == SettingTrial.Cones ? "tip" : "corners",
                r.Piece == SettingTrial.Cones ? "its tip or its flank" : "its corners or its walls",
                v => v >= (double)f.Least && v <= (double)f.Most ? null
                    : ("value", $"{f.Said(v)} is no {f.Label.InSentence()}: {Say.N(f.Least)} to {f.Said((double)f.Most)} would be right.")),
        ];
    }

    /// <summary>Why a piece does not show a setting.</summary>
    internal static FieldError NotShown(SteppedSetting f, string field) => f.Word == "layer-time"
        ? new(field, "A wall takes longer than any least layer time: cones, or a column of layer times, would show it.")
        : new(field, $"A cone is slowed to its least layer time, whatever its {f.Label.InSentence()}: a wall would show it.");

    // Where more is rather had, values turn their sign: the least of these is the largest.
    private static IReadOnlyList<ScoredLevel> Levels(SettingReadings r, bool turned) =>
        [.. r.Points.Select(p => new ScoredLevel(turned ? -p.Value : p.Value, p.Looks, []))];

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static SettingVerdict Judge(SettingReadings r)
    {
        var f = SteppedSetting.Of(r.Factor);
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = SettingOutcome.Insufficient, From = r, Factor = f.Word, Refusal = refusal, Advised = false };
        var l = LeastLevel.Of(Levels(r, f.Larger), r.Margin, r.ScoreNoise);
        IReadOnlyList<T> Upward<T>(IEnumerable<T> list) => f.Larger ? [.. list.Reverse()] : [.. list];
        double Of(double level) => f.Larger ? -level : level;
        var basis = new SettingVerdict
        {
            Outcome = SettingOutcome.Insufficient, From = r, Factor = f.Word, Advised = false, Values = Upward(l.Levels.Select(Of)), Looks = Upward(l.Looks),
            Halves = Upward(l.Halves), Curve = Upward(l.Curve),
        };
        if (l.IsNotIt)
            return basis with { Outcome = SettingOutcome.NotIt };
        if (l.Chosen is not { } chosen)
            return basis;
        var (at, step) = (Of(l.Levels[chosen]), Math.Abs(l.Step));
        // What lies beyond an end that the machine or the setting has is nothing that may do.
        var (least, most) = (Math.Max((double)f.Least, r.Limits?.Min ?? double.MinValue), Math.Min((double)f.Most, r.Limits?.Max ?? double.MaxValue));
        bool Beyond(bool upward) => upward ? at < most - 1e-9 : at > least + 1e-9;
        var (moreMayDo, lessIsBetter) = (chosen == 0 && Beyond(f.Larger), chosen == l.Levels.Count - 1 && Beyond(!f.Larger));
        var outcome = moreMayDo || lessIsBetter ? SettingOutcome.Edge : l.IsClear ? SettingOutcome.Clear : SettingOutcome.Noise;
        var upward = moreMayDo == f.Larger;
        var (from, to) = outcome != SettingOutcome.Edge ? (basis.Values[0], basis.Values[^1])
            : upward ? (at, Math.Min(most, at + 4 * step)) : (Math.Max(least, at - 4 * step), at);
        // Near an end of what may be there is room for less than a step: three values all the same.
        var by = outcome != SettingOutcome.Edge ? step : Math.Max(Math.Min((double)f.Fine, step), Math.Min(step, (to - from) / 2));
        if (to - from < 2 * by - 1e-9)
            (from, to) = upward ? (to - 2 * by, to) : (from, from + 2 * by);
        return basis with
        {
            Outcome = outcome,
            Value = at,
            AsGood = [.. l.Good.Select(i => Of(l.Levels[i])).Order()],
            MoreMayDo = moreMayDo,
            // What looks say of it is told; that it is the one to print with is another trial's to say.
            Advised = outcome == SettingOutcome.Clear && f.SettledBy is null,
            Settings = f.SettledBy is null ? [new(f.Key, at, Math.Round(l.Half, 3))] : [],
            Next = outcome == SettingOutcome.Clear
                ? f.SettledBy is { } trial ? new("settle", "", trial, new Dictionary<string, decimal>()) : null
                : new(outcome == SettingOutcome.Edge ? "edge" : "repeat", "", SettingTrial.Word, new Dictionary<string, decimal>
                {
                    ["from"] = (decimal)Math.Round(from, 3), ["to"] = (decimal)Math.Round(to, 3), ["step"] = (decimal)Math.Round(by, 3),
                })
                {
                    Words = new Dictionary<string, string> { ["mode"] = r.Piece, ["factor"] = f.Word },
                },
        };
    }
}
