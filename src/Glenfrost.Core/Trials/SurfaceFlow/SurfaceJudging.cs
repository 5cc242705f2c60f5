using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>A step of the strip as it was read.</summary>
/// <param name="ChangePercent">Flow against the present multiplier, per cent.</param>
/// <param name="Scores">By eye and by thumb, 0–4; empty where nobody read it.</param>
public sealed record SurfacePatch(double ChangePercent, IReadOnlyList<double> Scores);

/// <summary>Readings of a strip and how to judge them.</summary>
public sealed record SurfaceReadings
{
    /// <summary>Multiplier that the middle was printed with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Steps in any order.</summary>
    public IReadOnlyList<SurfacePatch> Patches { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = ScoreNoiseDefault;

    private const double ScoreNoiseDefault = 0.5;
}

/// <summary>The next strip.</summary>
/// <param name="ExtrusionMultiplier">Its middle.</param>
/// <param name="StepPercent">Its step, per cent.</param>
/// <param name="FromPercent">First step, per cent of the middle.</param>
/// <param name="ToPercent">Last step.</param>
public sealed record NextStrip(double ExtrusionMultiplier, double StepPercent, double FromPercent, double ToPercent);

/// <summary>The verdict on a strip: clear, finer, edge, noise or insufficient.</summary>
public sealed record SurfaceVerdict : TrialVerdict
{
    /// <summary>New multiplier, three decimals; null where none is proposed.</summary>
    public double? NewExtrusionMultiplier { get; init; }

    /// <summary>Best change, per cent.</summary>
    public double? ChangePercent { get; init; }

    /// <summary>The strip that would tell more; null where nothing is left to tell.</summary>
    public NextStrip? NextRange { get; init; }

    /// <summary>Mean score of each step in the order of its change; null where it was not read.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>Steps in that order, per cent.</summary>
    public IReadOnlyList<double> ChangesPercent { get; init; } = [];

    /// <summary>Changes that are as good as the best, per cent.</summary>
    public IReadOnlyList<double> EqualsPercent { get; init; } = [];
}

/// <summary>Multiplier from a strip read step by step: new = old × (1 + change/100), of the best step or the middle of equals.</summary>
public static class SurfaceJudging
{
    /// <summary>Steps of the two strips, per cent.</summary>
    public const double CoarsePercent = 4, FinePercent = 1;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(SurfaceReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.ExtrusionMultiplier is >= 0.3 and <= 1.5))
            errors.Add(
                new(
                    "extrusionMultiplier", $"{Say.N(r.ExtrusionMultiplier, 3)} is outside 0.3 to 1.5: beyond that the feed or the width is wrong, not the flow."
                ));
        if (r.Patches.Count < 3)
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
    public static SurfaceVerdict Judge(SurfaceReadings r)
    {
        var patches = r.Patches.OrderBy(p => p.ChangePercent).ToList();
        var v = StepsVerdict.Of([.. patches.Select(p => new ScoredStep(p.ChangePercent, p.Scores))], r.ScoreNoise);
        var step = patches.Zip(patches.Skip(1), (a, b) => b.ChangePercent - a.ChangePercent).DefaultIfEmpty(1).Average();
        double?[] means = [.. patches.Select(p => p.Scores.Count == 0 ? (double?)null : Math.Round(p.Scores.Average(), 3))];
        var basis = new SurfaceVerdict
        {
            Verdict = "insufficient", Sentence = "", Means = means, ChangesPercent = [.. patches.Select(p => p.ChangePercent)], Advised = false,
        };
        if (v.Best < 0)
        {
            var read = patches.Count(p => p.Scores.Count > 0);
            return read < 3
                ? basis with { Sentence = read == 0 ? "Nothing is read yet." : $"{Say.Plural(read, "step")} read: three are the least.", Next = null }
                : basis with
                {
                    Sentence = "Every step was called unusable: that is no flow.",
                    Reasons = ["Where no step is fit, look at the nozzle, the temperature and the layer height first."],
                    Next = new("guide", "Find out what spoils the surface before the flow is set.") { Guide = "first-layer" },
                };
        }

        var value = Math.Round(r.ExtrusionMultiplier * (1 + v.Value / 100), 3);
        var half = r.ExtrusionMultiplier * v.HalfWidth / 100;
        var coarse = step > 1.5 * FinePercent;
        var word = v.Word == "clear" && coarse ? "finer" : v.Word;
        var equals = Enumerable.Range(v.From, v.To - v.From + 1).Select(i => patches[i].ChangePercent).ToList();
        var limit = value is < 0.3 or > 1.5;
        var next = word switch
        {
            "edge" => new NextStrip(value, step, -3 * step, 3 * step),
            "finer" => new NextStrip(value, FinePercent, -3 * FinePercent, 3 * FinePercent),
            "noise" => new NextStrip(value, coarse ? step / 2 : step, -3 * (coarse ? step / 2 : step), 3 * (coarse ? step / 2 : step)),
            _ => null,
        };
        if (limit)
            next = null;
        string Change(double c) => c == 0 ? "the present flow" : $"{Say.Signed(c)} %";
        return basis with
        {
            Verdict = word,
            Sentence = word switch
            {
                "edge" => $"{Change(patches[v.Best].ChangePercent)} is the best, and the last of the strip: the best may lie beyond.",
                "noise" =>
                    $"{Say.N(value, 3)}, but {Say.List(equals.Concat(v.Apart.Select(i => patches[i].ChangePercent)).Order().Select(Change))} can't be told " +
                        $"apart.",
                "finer" => $"{Say.N(value, 3)} on a coarse strip: a finer one tells within a per cent.",
                _ =>
                    $"{Say.N(value, 3)} ± {Say.N(half, 3)}. {(equals.Count == 1 ? $"{Change(equals[0])} reads best" : $"{Change(equals[0])} to {Change(equals[^1])} read alike; this is their middle")}.",
            },
            Reasons =
            [
                $"Best mean score {Say.N(means[v.Best]!.Value)} of 4; what lies within {Say.N(v.Separation)} of it is not told apart with a score noise of " +
                    $"{Say.N(r.ScoreNoise)}.",
            ],
            Warnings =
                limit ? ["A multiplier below 0.3 or above 1.5 is none: look at the feed and the line width."]
                : Math.Abs(v.Value) > 15 ? [$"A change of {Say.N(Math.Abs(v.Value), 1)} % is more than flow: is the feed measured?"]
                : [],
            Next = next is null
                ? null
                : new(
                    word == "noise" ? "print" : word, word switch
                    {
                        "edge" => $"A strip around {Say.N(value, 3)}, by {Say.N(step)} % again.",
                        "noise" =>
                            $"A strip around {Say.N(value, 3)} by {Say.N(next.StepPercent)} %: read it in another light, before you look at this one again.",
                        _ => $"A fine strip around {Say.N(value, 3)}, by {Say.N(FinePercent)} %.",
                    },
                    SurfaceFlowTrial.Word,
                    new Dictionary<string, decimal> { ["extrusionMultiplier"] = (decimal)next.ExtrusionMultiplier, ["stepPercent"] = (decimal)next.StepPercent }
                ),
            Settings = limit ? [] : [new("extrusionMultiplier", value, Math.Round(half, 4))],
            Advised = word is "clear" or "finer" or "noise" && !limit,
            NewExtrusionMultiplier = limit ? null : value,
            ChangePercent = Math.Round(v.Value, 3),
            NextRange = next,
            EqualsPercent = equals,
            Arithmetic =
            [
                .. patches.Select(
                    (p, i) =>
                        $"{Change(p.ChangePercent)}: {(p.Scores.Count == 0 ? "not read" : $"{string.Join(" and ", p.Scores.Select(s => Say.N(s)))}, mean {Say.N(means[i]!.Value)}{(p.Scores.Any(s => s <= 0) ? ", a 0 vetoes" : "")}")}"
                ),
                $"told apart from {Say.N(v.Separation)} on: 1.645 × noise {Say.N(r.ScoreNoise)} × √(2 ÷ scores a step)",
                $"{Say.N(r.ExtrusionMultiplier, 3)} × (1 + {Say.N(v.Value, 2)} ÷ 100) = {Say.N(value, 3)}",
            ],
        };
    }
}
