using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>Multiplier from a strip read step by step: new = old × (1 + change/100), of the best step or the middle of equals.</summary>
public static class SurfaceJudging
{
    /// <summary>Steps of the two strips, per cent.</summary>
    public const double CoarsePercent = 4, FinePercent = 1;

    /// <summary>Fewer steps show no best.</summary>
    public const int LeastSteps = 3;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(SurfaceReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.ExtrusionMultiplier is >= 0.3 and <= 1.5))
            errors.Add(
                new(
                    "extrusionMultiplier", $"{Say.N(r.ExtrusionMultiplier, 3)} is outside 0.3 to 1.5: beyond that the feed or the width is wrong, not the flow."
                ));
        if (r.Patches.Count < LeastSteps)
            errors.Add(new("patches", $"{Say.Plural(r.Patches.Count, "patch", "patches")} can't show a best: at least three would be right."));
        foreach (var (p, i) in r.Patches.Select((p, i) => (p, i)))
        {
            if (!(p.ChangePercent is >= -40 and <= 40))
                errors.Add(new($"patches[{i}].changePercent", $"{Say.N(p.ChangePercent)} % is outside −40 to 40 %."));
            if (p.Scores.Any(s => !(s is >= 0 and <= 4)))
                errors.Add(new($"patches[{i}].score", "A score is 0 (unusable) to 4 (clean)."));
            if (r.Patches.Take(i).Any(q => Math.Abs(q.ChangePercent - p.ChangePercent) < 1e-9))
                errors.Add(new($"patches[{i}].changePercent", $"{Say.N(p.ChangePercent)} % stands twice: give both scores to one patch."));
        }

        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static SurfaceVerdict Judge(SurfaceReadings readings)
    {
        var r = readings with { Patches = [.. readings.Patches.OrderBy(p => p.ChangePercent)] };
        var patches = r.Patches;
        var v = StepsVerdict.Of([.. patches.Select(p => new ScoredStep(p.ChangePercent, p.Scores))], r.ScoreNoise);
        var step = patches.Zip(patches.Skip(1), (a, b) => b.ChangePercent - a.ChangePercent).DefaultIfEmpty(1).Average();
        var basis = new SurfaceVerdict
        {
            Outcome = SurfaceOutcome.Insufficient,
            From = r,
            Means = [.. patches.Select(p => p.Scores.Count == 0 ? (double?)null : Math.Round(p.Scores.Average(), 3))],
            ChangesPercent = [.. patches.Select(p => p.ChangePercent)],
            Advised = false,
        };
        if (v.Best < 0)
            return patches.Count(p => p.Scores.Count > 0) < LeastSteps ? basis : basis with { Next = new("guide", "") { Guide = "first-layer" } };
        var n = new SurfaceNumbers(
            v.Best, [.. v.Apart.Select(i => patches[i].ChangePercent)], v.Separation, step,
            Math.Round(r.ExtrusionMultiplier * r.FlowFactor * (1 + v.Value / 100), 3), r.ExtrusionMultiplier * r.FlowFactor * v.HalfWidth / 100, v.Value);
        var coarse = step > 1.5 * FinePercent;
        var outcome = v.Word switch
        {
            "edge" => SurfaceOutcome.Edge,
            "none-good" => SurfaceOutcome.NoneGood,
            "noise" => SurfaceOutcome.Noise,
            _ => coarse ? SurfaceOutcome.Finer : SurfaceOutcome.Clear,
        };
        var next = n.OutOfRange ? null : Following(outcome, n, coarse, r.FlowFactor);
        // What reads below the least good score is never offered, not even as an own choice.
        var offered = !n.OutOfRange && basis.Means[v.Best] >= StepsVerdict.LeastGood;
        return basis with
        {
            Outcome = outcome,
            Numbers = n,
            Next = outcome == SurfaceOutcome.NoneGood ? new("guide", "") { Guide = "first-layer" }
                : next is null ? null
                : new(
                    outcome == SurfaceOutcome.Noise ? "print" : TrialVerdict<SurfaceOutcome>.WordOf(outcome), "", SurfaceFlowTrial.Word,
                    new Dictionary<string, decimal>
                    {
                        ["extrusionMultiplier"] = (decimal)next.ExtrusionMultiplier, ["stepPercent"] = (decimal)next.StepPercent,
                    }),
            Settings = offered ? [new("extrusionMultiplier", n.Value, Math.Round(n.HalfWidth, 4))] : [],
            Advised = offered && outcome is SurfaceOutcome.Clear or SurfaceOutcome.Finer or SurfaceOutcome.Noise,
            NewExtrusionMultiplier = offered ? n.Value : null,
            ChangePercent = Math.Round(v.Value, 3),
            NextRange = next,
            EqualsPercent = [.. Enumerable.Range(v.From, v.To - v.From + 1).Select(i => patches[i].ChangePercent)],
        };
    }

    /// <summary>The strip that tells more; its middle as the file counts it.</summary>
    private static NextStrip? Following(SurfaceOutcome outcome, SurfaceNumbers n, bool coarse, double factor)
    {
        NextStrip By(double step) => new(Math.Round(n.Value / factor, 3), step, -3 * step, 3 * step);
        return outcome switch
        {
            SurfaceOutcome.Edge => By(n.StepPercent),
            SurfaceOutcome.Finer => By(FinePercent),
            SurfaceOutcome.Noise => By(coarse ? n.StepPercent / 2 : n.StepPercent),
            _ => null,
        };
    }
}
