using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.FanSteps;

/// <summary>
/// The least fan that is about as good as the best on a curve with one peak: too little lets bridges sag and edges curl, too much lifts edges too and takes
/// from
/// the bond, which is why less is better where it looks the same. A fan whose own looks are below <see cref="Usable"/>, or 0 anywhere, is never offered.
/// </summary>
public static class FanJudging
{
    /// <summary>A fan that was read below this is not offered, scores.</summary>
    public const double Usable = 2;

    /// <summary>Where all are alike and the best is below this, the fan is not the matter, scores.</summary>
    public const double Poor = 2.5;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double Open = 1;

    private const double LeastNoise = 0.05;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FanReadings r)
    {
        var errors = new List<FieldError>();
        if (r.Points.Count < 3)
            errors.Add(new("points", $"{Say.Plural(r.Points.Count, "section")} can't show a least fan: three or more would be right."));
        if (r.Points.Count > 200)
            errors.Add(new("points", $"{r.Points.Count} sections: at most 200."));
        foreach (var (p, i) in r.Points.Select((p, i) => (p, i)))
        {
            if (!(p.FanPercent is >= 0 and <= 100))
                errors.Add(new($"points[{i}].fanPercent", $"{Say.N(p.FanPercent)} % is no fan: 0 to 100 would be right."));
            if (p.Looks.Count == 0)
                errors.Add(new($"points[{i}].bridge", "A section needs a score of its bridge or its overhang, 0–4."));
            if (p.Looks.Concat(p.Bond).Any(s => !(s is >= 0 and <= 4)))
                errors.Add(new($"points[{i}].bridge", "A score is 0 (unusable) to 4 (clean)."));
        }

        if (!(r.Margin is > 0 and <= 2))
            errors.Add(new("margin", $"A margin of {Say.N(r.Margin)} scores is none: above 0 to 2 would be right, 0.5 is usual."));
        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static FanVerdict Judge(FanReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = FanOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        var cells = r.Points.GroupBy(p => p.FanPercent).OrderBy(g => g.Key).Select(g =>
        {
            // Whole scores hide up to half of one: their step scatters too, by a twelfth of its square.
            var looks = g.SelectMany(p => p.Looks).ToList();
            var sd = Math.Sqrt(Math.Pow(Math.Max(LeastNoise, r.ScoreNoise), 2) + (looks.All(s => s == Math.Floor(s)) ? 1 / 12.0 : 0));
            var bond = g.SelectMany(p => p.Bond).ToList();
            return (
                Fan: g.Key, Mean: looks.Average(), Error: sd / Math.Sqrt(looks.Count), Behind: looks.Average(s => ScoreCurve.Behind(s, sd)),
                Worst: looks.Min(), Bond: bond.Count > 0 ? bond.Average() : (double?)null);
        }).ToList();
        var basis = new FanVerdict
        {
            Outcome = FanOutcome.Insufficient, From = r, Advised = false, Fans = [.. cells.Select(c => c.Fan)],
            Looks = [.. cells.Select(c => Math.Round(c.Mean, 3))], Halves = [.. cells.Select(c => Math.Round(1.96 * c.Error, 3))],
            Bond = [.. cells.Select(c => c.Bond is { } b ? Math.Round(b, 3) : (double?)null)],
        };
        if (cells.Count < 3)
            return basis;
        var curve = ScoreCurve.Through([.. cells.Select(c => new ScoredPlace(c.Fan, c.Behind, c.Error))], [.. cells.Select(c => c.Fan)]);
        basis = basis with { Curve = [.. Enumerable.Range(0, cells.Count).Select(i => Math.Round(curve.Mean[i], 3))] };
        var offered = Enumerable.Range(0, cells.Count).Where(i => cells[i].Mean >= Usable && cells[i].Worst > 0).ToList();
        var alike = Enumerable.Range(0, cells.Count).All(i => curve.LossAt(i).Expected < r.Margin);
        if (offered.Count == 0 || (alike && cells.Max(c => c.Mean) < Poor))
            return basis with { Outcome = FanOutcome.NotFan, Next = new("guide", "") { Guide = "sagging-bridges" } };
        var best = curve.Least(offered);
        var good = offered.Where(i => curve.Mean[i] >= curve.Mean[best] - r.Margin - 1e-9).ToList();
        var chosen = good.MinBy(i => cells[i].Fan);
        var (at, loss) = (cells[chosen].Fan, curve.LossAt(chosen));
        var step = (cells[^1].Fan - cells[0].Fan) / (cells.Count - 1);
        var (atMost, atLeast) = (chosen == cells.Count - 1 && at < 100 - 1e-9, chosen == 0 && at > 1e-9);
        var outcome = atMost || atLeast ? FanOutcome.Edge : loss.P95 <= Open ? FanOutcome.Clear : FanOutcome.Noise;
        var apart = curve.FirstWithin([.. Enumerable.Range(0, cells.Count)], r.Margin).Select(x => Math.Abs(x - at)).Order().ToList();
        var half = Math.Min(100, apart[(int)Math.Ceiling(0.95 * apart.Count) - 1] + step / 2);
        var (from, to) = atMost ? (at, Math.Min(100, at + 4 * step)) : atLeast ? (Math.Max(0, at - 4 * step), at) : (cells[0].Fan, cells[^1].Fan);
        return basis with
        {
            Outcome = outcome,
            FanPercent = at,
            AsGood = [.. good.Select(i => cells[i].Fan)],
            AtMost = atMost,
            Advised = outcome == FanOutcome.Clear,
            // Bridges were laid with the same fan: what is kept says so, or a bridge fan of its own would stand beside it.
            Settings = [new("fanPercent", at, Math.Round(half, 1)), new("bridgeFanPercent", at, Math.Round(half, 1))],
            // What may be lost, and what another tower would gain, held too seldom against hidden curves that fall steeply: it is not said.
            Next = outcome == FanOutcome.Clear ? null : new(outcome == FanOutcome.Edge ? "edge" : "repeat", "", FanTrial.Word, new Dictionary<string, decimal>
            {
                ["fanFromPercent"] = (decimal)Math.Round(from), ["fanToPercent"] = (decimal)Math.Round(to),
                ["fanStepPercent"] = (decimal)Math.Max(5, Math.Round(outcome == FanOutcome.Edge ? (to - from) / 4 : step)),
            }),
        };
    }
}
