using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FirstLayer;

/// <summary>A patch as it was read.</summary>
/// <param name="ChangeMm">Nozzle offset against the present one, mm; below 0 is nearer to the bed.</param>
/// <param name="Scores">gaps, ridges and grip in the middle of the bed, 0–4.</param>
/// <param name="Corners">Place to one score, 0–4.</param>
public sealed record OffsetPatch(double ChangeMm, IReadOnlyDictionary<string, double> Scores, IReadOnlyDictionary<string, double> Corners);

/// <summary>Readings of first-layer patches and how to judge them.</summary>
public sealed record FirstLayerReadings
{
    /// <summary>Nozzle offset that the printer had, mm.</summary>
    public double OffsetMm { get; init; }

    /// <summary>Patches in any order.</summary>
    public IReadOnlyList<OffsetPatch> Patches { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;
}

/// <summary>The best of a corner.</summary>
/// <param name="Place">Where.</param>
/// <param name="ChangeMm">Best change there, mm; null where too little was read.</param>
/// <param name="TiltMm">Against the middle, mm; below 0 the bed lies lower there.</param>
/// <param name="Told">True where it differs from the middle by more than the scores can hide.</param>
public sealed record CornerBest(string Place, double? ChangeMm, double? TiltMm, bool Told);

/// <summary>The verdict on first-layer patches: clear, noise, edge, uneven or insufficient.</summary>
public sealed record FirstLayerVerdict : TrialVerdict
{
    /// <summary>New nozzle offset, mm; null where none is proposed.</summary>
    public double? NewOffsetMm { get; init; }

    /// <summary>Best change, mm.</summary>
    public double? ChangeMm { get; init; }

    /// <summary>Changes that are as good as the best, mm.</summary>
    public IReadOnlyList<double> EqualsMm { get; init; } = [];

    /// <summary>Changes in their order, mm.</summary>
    public IReadOnlyList<double> ChangesMm { get; init; } = [];

    /// <summary>gaps, ridges and grip together, 0–4, in that order; null where not read.</summary>
    public IReadOnlyList<double?> Means { get; init; } = [];

    /// <summary>The corners.</summary>
    public IReadOnlyList<CornerBest> Corners { get; init; } = [];
}

/// <summary>
/// Nozzle offset from patches: gaps, ridges and grip are put together as a geometric mean, so that one that is unusable spoils the patch. The corners are
/// judged against the
/// middle: a bed that does not lie parallel wants another offset at each place.
/// </summary>
public static class FirstLayerJudging
{
    /// <summary>What is scored in the middle.</summary>
    public static IReadOnlyList<string> Aspects { get; } = ["gaps", "ridges", "grip"];

    /// <summary>The corners, as they are called.</summary>
    public static IReadOnlyList<string> Corners { get; } = [.. TestPieces.OffsetPatches.Places.Skip(1)];

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FirstLayerReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.OffsetMm is >= -5 and <= 5))
            errors.Add(new("offsetMm", $"{Say.N(r.OffsetMm, 3)} mm is outside −5 to 5 mm: more than that is a levelling fault."));
        if (r.Patches.Count < 3)
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
    public static FirstLayerVerdict Judge(FirstLayerReadings r)
    {
        var patches = r.Patches.OrderBy(p => p.ChangeMm).ToList();
        // The geometric mean of n scores scatters like their mean where they are alike: n scores for one step.
        double? Together(OffsetPatch p) => p.Scores.Count == 0 ? null : 4 * Math.Pow(p.Scores.Values.Aggregate(1.0, (a, s) => a * s / 4), 1.0 / p.Scores.Count);
        double?[] means = [.. patches.Select(Together)];
        var v = StepsVerdict.Of(
            [.. patches.Select((p, i) => new ScoredStep(p.ChangeMm, means[i] is { } m ? [.. Enumerable.Repeat(m, p.Scores.Count)] : []))],
            r.ScoreNoise);
        var basis = new FirstLayerVerdict
        {
            Verdict = "insufficient", Sentence = "", ChangesMm = [.. patches.Select(p => p.ChangeMm)],
            Means = [.. means.Select(m => m is { } x ? (double?)Math.Round(x, 3) : null)], Advised = false,
        };
        if (v.Best < 0)
        {
            var read = means.Count(m => m is not null);
            return read < 3
                ? basis with
                {
                    Sentence = read == 0 ? "Nothing is read yet." : $"{Say.Plural(read, "patch", "patches")} read in the middle: three are the least.",
                }
                : basis with
                {
                    Sentence = "No patch holds: that is no matter of the offset.",
                    Reasons = ["Every one was called unusable in gaps, ridges or grip. Bed, dirt, temperature and level come first."],
                    Next = new("guide", "Find out why the first layer does not hold.") { Guide = "first-layer" },
                };
        }

        var step = patches.Zip(patches.Skip(1), (a, b) => b.ChangeMm - a.ChangeMm).DefaultIfEmpty(0.02).Average();
        var corners = Corners.Select(c => Corner(c, patches, r.ScoreNoise, v)).ToList();
        var uneven = corners.Where(c => c.Told).ToList();
        var word = v.Word is "clear" or "noise" && uneven.Count > 0 ? "uneven" : v.Word;
        var change = Math.Round(v.Value, 3);
        var offset = Math.Round(r.OffsetMm + change, 3);
        var equals = Enumerable.Range(v.From, v.To - v.From + 1).Select(i => patches[i].ChangeMm).ToList();
        string Mm(double c) => c == 0 ? "the present offset" : $"{Say.Signed(c, 3)} mm";
        return basis with
        {
            Verdict = word,
            Sentence = word switch
            {
                "edge" =>
                    $"{Mm(patches[v.Best].ChangeMm)} is the best, and the {(v.Best == 0 ? "lowest" : "highest")} of the patches: the best may lie beyond.",
                "uneven" =>
                    $"The bed does not lie parallel: {Say.List(uneven.Select(c => $"{c.Place} wants {Say.Signed(c.TiltMm!.Value, 2)} mm against the middle"))}.",
                "noise" =>
                    $"{Say.N(offset, 3)} mm, but {Say.List(equals.Concat(v.Apart.Select(i => patches[i].ChangeMm)).Order().Select(Mm))} can't be told apart.",
                _ =>
                    $"{Say.N(offset, 3)} mm. {(equals.Count == 1 ? $"{Mm(equals[0])} lies best" : $"{Mm(equals[0])} to {Mm(equals[^1])} lie alike; this is their middle")}.",
            },
            Reasons =
            [
                $"Best {Say.N(v.Best >= 0 ? means[v.Best]!.Value : 0)} of 4 for gaps, ridges and grip together; what lies within {Say.N(v.Separation)} of " +
                    $"it is not told apart.",
            ],
            Next = word switch
            {
                "edge" => new(
                    "edge", $"Patches around {Say.N(offset, 3)} mm, by {Say.N(step, 3)} again.", FirstLayerTrial.Word,
                    new Dictionary<string, decimal> { ["nozzleOffsetMm"] = (decimal)offset, ["stepMm"] = (decimal)Math.Round(step, 3) }),
                "uneven" => new("guide", "Level the bed, or renew its mesh, then print the patches again.") { Guide = "first-layer" },
                "noise" => new(
                    "print", $"Patches around {Say.N(offset, 3)} mm, in steps of {Say.N(2 * step, 3)}: farther apart, they are told apart.",
                    FirstLayerTrial.Word,
                    new Dictionary<string, decimal> { ["nozzleOffsetMm"] = (decimal)offset, ["stepMm"] = (decimal)Math.Round(2 * step, 3) }),
                _ => null,
            },
            Settings = [new("nozzleOffsetMm", offset, Math.Round(v.HalfWidth, 4))],
            Advised = word is "clear" or "noise",
            NewOffsetMm = offset,
            ChangeMm = change,
            EqualsMm = equals,
            Corners = corners,
            Arithmetic =
            [
                .. patches.Select(
                    (p, i) =>
                        $"{Mm(p.ChangeMm)}: {(p.Scores.Count == 0 ? "not read" : $"{string.Join(", ", p.Scores.Select(s => $"{s.Key} {Say.N(s.Value)}"))}; together {Say.N(means[i]!.Value)}")}"
                ),
                $"told apart from {Say.N(v.Separation)} on: 1.645 × noise {Say.N(r.ScoreNoise)} × √(2 ÷ scores a patch)",
                $"{Say.N(r.OffsetMm, 3)} {(change < 0 ? "−" : "+")} {Say.N(Math.Abs(change), 3)} = {Say.N(offset, 3)} mm",
                .. corners.Where(c => c.ChangeMm is not null)
                    .Select(c =>
                        $"{c.Place}: best at {Mm(c.ChangeMm!.Value)}, {Say.Signed(c.TiltMm!.Value, 3)} mm against the " +
                            $"middle{(c.Told ? "" : ", within what scores can hide")}"
                    ),
            ],
        };
    }

    private static CornerBest Corner(string place, List<OffsetPatch> patches, double noise, StepsVerdict middle)
    {
        var steps = patches.Select(p => new ScoredStep(p.ChangeMm, p.Corners.TryGetValue(place, out var s) ? [s] : [])).ToList();
        if (steps.Count(s => s.Scores.Count > 0) < 3)
            return new(place, null, null, false);
        var v = StepsVerdict.Of(steps, noise);
        if (v.Best < 0)
            return new(place, null, null, false);
        var tilt = v.Value - middle.Value;
        // Equals of the corner and of the middle that do not meet: the two places want different offsets.
        var told = steps[v.To].At < patches[middle.From].ChangeMm - 1e-9 || steps[v.From].At > patches[middle.To].ChangeMm + 1e-9;
        return new(place, Math.Round(v.Value, 3), Math.Round(tilt, 3), told);
    }
}
