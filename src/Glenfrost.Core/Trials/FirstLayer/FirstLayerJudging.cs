using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.FirstLayer;

/// <summary>
/// Nozzle offset from patches: gaps, ridges and grip are put together as a geometric mean, so that one that is unusable spoils the patch. The corners are
/// judged against
/// the middle: a bed that does not lie parallel wants another offset at each place.
/// </summary>
public static class FirstLayerJudging
{
    /// <summary>What is scored in the middle.</summary>
    public static IReadOnlyList<string> Aspects { get; } = ["gaps", "ridges", "grip"];

    /// <summary>Fewer patches show no best.</summary>
    public const int LeastPatches = 3;

    /// <summary>The corners, as they are called.</summary>
    public static IReadOnlyList<string> Corners { get; } = [.. TestPieces.OffsetPatches.Places.Skip(1)];

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FirstLayerReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.OffsetMm is >= -5 and <= 5))
            errors.Add(new("offsetMm", $"{Say.N(r.OffsetMm, 3)} mm is outside −5 to 5 mm: more than that is a levelling fault."));
        if (r.Patches.Count < LeastPatches)
            errors.Add(new("patches", $"{Say.Plural(r.Patches.Count, "patch", "patches")} can't show a best: at least three would be right."));
        foreach (var (p, i) in r.Patches.Select((p, i) => (p, i)))
        {
            if (!(p.ChangeMm is >= -0.5 and <= 0.5))
                errors.Add(new($"patches[{i}].changeMm", $"{Say.N(p.ChangeMm, 3)} mm is outside −0.5 to 0.5 mm: steps of 0.02 are usual."));
            foreach (var (a, s) in p.Scores.Concat(p.Corners))
            {
                if (!Aspects.Contains(a) && !Corners.Contains(a))
                    errors.Add(new($"patches[{i}].scores.{a}", $"\"{a}\" is not scored here: {string.Join(", ", Aspects)} would be right."));
                if (!(s is >= 0 and <= 4))
                    errors.Add(new($"patches[{i}].scores.{a}", "A score is 0 (unusable) to 4 (clean)."));
            }

            if (r.Patches.Take(i).Any(q => Math.Abs(q.ChangeMm - p.ChangeMm) < 1e-9))
                errors.Add(new($"patches[{i}].changeMm", $"{Say.N(p.ChangeMm, 3)} mm stands twice."));
        }

        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static FirstLayerVerdict Judge(FirstLayerReadings readings)
    {
        var r = readings with { Patches = [.. readings.Patches.OrderBy(p => p.ChangeMm)] };
        var patches = r.Patches;
        double?[] means = [.. patches.Select(Together)];
        var steps = patches.Select((p, i) => new ScoredStep(p.ChangeMm, means[i] is { } m ? [.. Enumerable.Repeat(m, p.Scores.Count)] : [])).ToList();
        var v = StepsVerdict.Of(steps, r.ScoreNoise);
        var basis = new FirstLayerVerdict
        {
            Outcome = FirstLayerOutcome.Insufficient, From = r, ChangesMm = [.. patches.Select(p => p.ChangeMm)],
            Means = [.. means.Select(m => m is { } x ? (double?)Math.Round(x, 3) : null)], Advised = false,
        };
        if (v.Best < 0)
            return means.Count(m => m is not null) < LeastPatches ? basis : basis with { Next = Guide };
        var step = patches.Zip(patches.Skip(1), (a, b) => b.ChangeMm - a.ChangeMm).DefaultIfEmpty(0.02).Average();
        // Whether two places want different offsets is asked of chance alone, not of what may be kept.
        var middle = StepsVerdict.Of(steps, r.ScoreNoise, 0);
        var corners = Corners.Select(c => Corner(c, patches, r.ScoreNoise, middle)).ToList();
        var outcome = v.Word switch
        {
            "edge" => FirstLayerOutcome.Edge,
            "none-good" => FirstLayerOutcome.NoneGood,
            _ when corners.Exists(c => c.Told) => FirstLayerOutcome.Uneven,
            "noise" => FirstLayerOutcome.Noise,
            _ => FirstLayerOutcome.Clear,
        };
        var n = new FirstLayerNumbers(
            v.Best, means[v.Best]!.Value, [.. v.Apart.Select(i => patches[i].ChangeMm)], v.Separation, step,
            Math.Round(r.OffsetMm + Math.Round(v.Value, 3), 3));
        TrialNext Around(string kind, double by) => new(
            kind, "", FirstLayerTrial.Word,
            new Dictionary<string, decimal> { ["nozzleOffsetMm"] = (decimal)n.OffsetMm, ["stepMm"] = (decimal)Math.Round(by, 3) });
        // What reads below the least good score is never offered, not even as an own choice.
        var offered = n.BestScore >= StepsVerdict.LeastGood;
        return basis with
        {
            Outcome = outcome,
            Numbers = n,
            Next = outcome switch
            {
                FirstLayerOutcome.Edge => Around("edge", step),
                FirstLayerOutcome.Noise => Around("print", 2 * step),
                FirstLayerOutcome.Uneven or FirstLayerOutcome.NoneGood => Guide,
                _ => null,
            },
            Settings = offered ? [new("nozzleOffsetMm", n.OffsetMm, Math.Round(v.HalfWidth, 4))] : [],
            Advised = offered && outcome is FirstLayerOutcome.Clear or FirstLayerOutcome.Noise,
            NewOffsetMm = offered ? n.OffsetMm : null,
            ChangeMm = Math.Round(v.Value, 3),
            EqualsMm = [.. Enumerable.Range(v.From, v.To - v.From + 1).Select(i => patches[i].ChangeMm)],
            Corners = corners,
        };
    }

    private static TrialNext Guide { get; } = new("guide", "") { Guide = "first-layer" };

    /// <summary>
    /// Scores of a patch together: their geometric mean, which scatters like their mean where they are alike, so that n scores count for one step.
    /// </summary>
    private static double? Together(OffsetPatch p) =>
        p.Scores.Count == 0 ? null : 4 * Math.Pow(p.Scores.Values.Aggregate(1.0, (a, s) => a * s / 4), 1.0 / p.Scores.Count);

    private static CornerBest Corner(string place, IReadOnlyList<OffsetPatch> patches, double noise, StepsVerdict middle)
    {
        var steps = patches.Select(p => new ScoredStep(p.ChangeMm, p.Corners.TryGetValue(place, out var s) ? [s] : [])).ToList();
        if (steps.Count(s => s.Scores.Count > 0) < LeastPatches)
            return new(place, null, null, false);
        var v = StepsVerdict.Of(steps, noise, 0);
        if (v.Best < 0)
            return new(place, null, null, false);
        var tilt = v.Value - middle.Value;
        // Equals of the corner and of the middle that do not meet: the two places want different offsets.
        var told = steps[v.To].At < patches[middle.From].ChangeMm - 1e-9 || steps[v.From].At > patches[middle.To].ChangeMm + 1e-9;
        return new(place, Math.Round(v.Value, 3), Math.Round(tilt, 3), told);
    }
}
