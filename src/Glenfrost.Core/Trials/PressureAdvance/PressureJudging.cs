using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>Pressure advance: k = start + best × step.</summary>
public static class PressureJudging
{
    /// <summary>A step finer than this share of K tells nothing more by eye.</summary>
    public const double FineShare = 0.1;

    /// <summary>A step finer than this tells nothing more by eye, s.</summary>
    public const double FineK = 0.002;

    /// <summary>A line that was read below this is not offered, scores.</summary>
    public const double Usable = 2;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double Open = 1;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(PressureReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.StartK is >= 0 and <= 3))
            errors.Add(new("startK", $"{Say.N(r.StartK, 4)} is no factor: 0 to 3 s would be right; below 0.2 for a direct drive."));
        if (!(r.StepK is > 0 and <= 1))
            errors.Add(new("stepK", $"{Say.N(r.StepK, 4)} is no step: above 0 to 1 s would be right."));
        if (r.Count is < 3 or > 60)
            errors.Add(new("count", $"{r.Count} can't show a best: 3 to 60 would be right."));
        if (r.Best is null == (r.Scores.Count == 0))
            errors.Add(new("best", "The best one, or scores of all: one of best and scores would be right."));
        if (r.Best is { } b && (!(b >= 0 && b <= r.Count - 1) || Math.Abs(b * 2 - Math.Round(b * 2)) > 1e-9))
            errors.Add(new("best", $"{Say.N(b)} is none of them: 0 to {r.Count - 1}, halves where it lies between two."));
        if (r.Scores.Count > 0 && r.Scores.Count != r.Count)
            errors.Add(new("scores", $"{r.Scores.Count} scores for {r.Count}: one each would be right, null where one is missing."));
        if (r.Scores.Any(s => s is { } v && !(v is >= 0 and <= 4)))
            errors.Add(new("scores", "A score is 0 (unusable) to 4 (clean)."));
        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>A factor above this is a long tube's, s.</summary>
    public const double LongTubeK = 0.25;

    /// <summary>Fewer scores show no best.</summary>
    public const int LeastScores = 3;

    /// <summary>The best of a row before it is a factor.</summary>
    private readonly record struct Found(double Best, double Half, PressureOutcome Outcome, int Read = 0, ScoreLoss? Loss = null, double? Gain = null);

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static PressureVerdict Judge(PressureReadings r)
    {
        var basis = new PressureVerdict
        {
            Outcome = PressureOutcome.Insufficient, From = r, Scores = r.Scores, Advised = false,
            Ks = [.. Enumerable.Range(0, r.Count).Select(i => Math.Round(r.StartK + i * r.StepK, 6))],
        };
        if ((r.Best is { } named ? Named(r, named) : Scored(r, basis.Ks)) is not { } found)
            return basis;
        var digits = SettingDefinition.Supported(found.Half);
        var half = Math.Round(found.Half, digits, MidpointRounding.AwayFromZero);
        var k = Math.Round(r.StartK + found.Best * r.StepK, Math.Max(4, digits));
        var outcome = found.Outcome == PressureOutcome.Clear && r.StepK > FineK + 1e-9 && r.StepK > FineShare * k + 1e-9
            ? PressureOutcome.Finer : found.Outcome;
        var next = Following(r, outcome, found.Best, k);
        return basis with
        {
            Outcome = outcome,
            Numbers = new(found.Best, found.Half / r.StepK, found.Read, found.Gain),
            Next = next is null
                ? null
                : new(
                    outcome == PressureOutcome.Noise ? "print" : TrialVerdict<PressureOutcome>.WordOf(outcome), "", PressureTrial.Word,
                    new Dictionary<string, decimal> { ["startK"] = (decimal)next.StartK, ["stepK"] = (decimal)next.StepK, ["count"] = next.Count })
                { Gain = found.Gain is { } g ? Math.Round(g, 3) : null },
            Loss = found.Loss is { } loss ? new(Math.Round(loss.Expected, 3), Math.Round(loss.P95, 3)) : null,
            K = k,
            UncertaintyK = half,
            NextRange = next,
            Commands = [.. Dialect.All.Select(d => new KCommand(d.Key, d.PressureAdvance(k)))],
            FoundAt = r.FoundAt,
            Settings = [new("pressureAdvance", k, half)],
            Advised = outcome is PressureOutcome.Clear or PressureOutcome.Finer,
        };
    }

    /// <summary>The best as it was named: a line of its own, or half way between two.</summary>
    private static Found Named(PressureReadings r, double best) => new(
        best, r.StepK / (best == Math.Floor(best) ? 2 : 4),
        best <= 0 && r.StartK > 1e-9 || best >= r.Count - 1 ? PressureOutcome.Edge : PressureOutcome.Clear);

    /// <summary>The best by scores; null where they show none that can be used.</summary>
    private static Found? Scored(PressureReadings r, IReadOnlyList<double> ks)
    {
        var read = ks.Select((k, i) => (K: k, Index: i, Score: r.Scores[i])).Where(x => x.Score is not null).ToList();
        var usable = read.Where(x => x.Score >= Usable).ToList();
        if (read.Count < LeastScores || usable.Count == 0)
            return null;
        // On lines and half way between them. What was read as unusable is not offered, whatever its neighbours say: the nearest that can be used is.
        double Take(double x)
        {
            var number = Math.Round((x - r.StartK) / r.StepK * 2) / 2;
            var nearest = read.MinBy(y => Math.Abs(y.Index - number));
            return r.StartK + r.StepK * (nearest.Score < Usable ? usable.MinBy(y => Math.Abs(y.Index - number)).Index : number);
        }

        var peak = ScorePeak.Of([.. read.Select(x => (x.K, x.Score!.Value))], r.StepK, r.ScoreNoise, Take);
        var best = Math.Round((peak.At - r.StartK) / r.StepK * 2) / 2;
        return new(
            best, Math.Max(peak.HalfWidth, r.StepK / 4),
            // An end is no best while the row may go on there.
            best <= 0.5 && r.StartK > 1e-9 || best >= r.Count - 1.5 ? PressureOutcome.Edge
            : peak.Loss.P95 > Open ? PressureOutcome.Noise
            : PressureOutcome.Clear,
            read.Count, peak.Loss, peak.Gain);
    }

    private static KRange? Following(PressureReadings r, PressureOutcome outcome, double best, double k)
    {
        var fine = Math.Max(FineK / 2, Math.Round(r.StepK / 5, 4));
        return outcome switch
        {
            PressureOutcome.Edge => best <= 0.5
                ? new(Math.Round(Math.Max(0, k - (r.Count - 2) * r.StepK), 4), r.StepK, r.Count)
                : new(Math.Round(Math.Max(0, k - r.StepK), 4), r.StepK, r.Count),
            PressureOutcome.Finer => new(Math.Round(Math.Max(0, k - 5 * fine), 4), fine, 11),
            PressureOutcome.Noise => new(Math.Round(Math.Max(0, k - 5 * Math.Max(fine, r.StepK / 2)), 4), Math.Max(fine, Math.Round(r.StepK / 2, 4)), 11),
            _ => null,
        };
    }
}
