using Glenfrost.Core.Statistics;
using Glenfrost.Core.Settings;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>
/// From scores to a verdict. Lost sections are taken out before anything is computed; failed ones and those with a 0 are
/// vetoed; the others compare by a weighted geometric mean over the aspects that all of them have.
/// </summary>
public static partial class TowerJudging
{
    /// <summary>How much worse than the best a section may be and still count as good, in scores of 0–4.</summary>
    public const double MarginScores = 0.75;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double OpenScores = 0.75;

    /// <summary>Confidence asked of "better" and of "as good".</summary>
    public const double Confidence = 0.95;

    private sealed record Group(double TemperatureC, IReadOnlyList<SectionReading> Repeats, bool Failed, bool Vetoed, IReadOnlyList<double[]> Scores)
    {
        public double Desirability { get; init; }

        public double[] Draws { get; init; } = [];

        public double Win { get; set; }

        public bool Contends => !Failed && !Vetoed;
    }

    /// <summary>Checks readings at the door.</summary>
    public static IReadOnlyList<FieldError> Check(TowerReadings readings)
    {
        var errors = new List<FieldError>();
        if (readings.Sections.Count is 0 or > 200)
            errors.Add(new("sections", $"{readings.Sections.Count} sections given; between 1 and 200 would be right."));
        for (var i = 0; i < readings.Sections.Count; i++)
        {
            var s = readings.Sections[i];
            if (s.TemperatureC is not (>= 0 and <= 600))
                errors.Add(new($"sections[{i}].temperatureC", $"{s.TemperatureC} is outside 0 to 600 °C."));
            if (s.ObservedC is { } o && o is not (>= 0 and <= 600))
                errors.Add(new($"sections[{i}].observedC", $"{o} is outside 0 to 600 °C."));
            foreach (var (aspect, score) in s.Scores)
            {
                if (!Aspects.All.Contains(aspect))
                    errors.Add(
                        new($"sections[{i}].scores.{aspect}", $"\"{aspect}\" is not an aspect. One of {string.Join(", ", Aspects.All)} would be right."));
                else if (score is not (>= 0 and <= ScoreBootstrap.MaxScore))
                    errors.Add(new($"sections[{i}].scores.{aspect}", $"{score} is not a score: 0 (unusable) to 4 (clean) would be right."));
            }
        }

        foreach (var (aspect, weight) in readings.Weights ?? new Dictionary<string, double>())
        {
            if (!Aspects.All.Contains(aspect))
                errors.Add(new($"weights.{aspect}", $"\"{aspect}\" is not an aspect. One of {string.Join(", ", Aspects.All)} would be right."));
            else if (weight is not (>= 0 and <= 100))
                errors.Add(new($"weights.{aspect}", $"{weight} is not a weight: 0 (ignored) to 100 would be right."));
        }

        if (readings.Weights is { Count: > 0 } w && w.Values.All(v => v == 0))
            errors.Add(new("weights", "All weights are 0: nothing would be judged. At least one above 0 would be right."));
        if (readings.ScoreNoise is not (>= 0 and <= 2))
            errors.Add(new("scoreNoise", $"{readings.ScoreNoise} is outside 0 to 2 scores; 0.5 is usual."));
        if (readings.Limits is { Min: { } min, Max: { } max } && min >= max)
            errors.Add(new("limits", $"The least ({min}) must be below the most ({max})."));
        return errors;
    }

    /// <summary>Judges a tower. Readings must have passed <see cref="Check"/>.</summary>
    public static TowerVerdict Judge(TowerReadings readings)
    {
        var weights = Aspects.All.ToDictionary(a => a, a => readings.Weights is null ? 1 : readings.Weights.GetValueOrDefault(a, 0));
        var present = readings.Sections.Where(s => s.State != SectionState.Lost).ToList();
        var read = present.Where(s => s.State == SectionState.Judged && s.Scores.Count > 0).ToList();
        var common = Aspects.All.Where(a => weights[a] > 0 && read.Count > 0 && read.All(s => s.Scores.ContainsKey(a))).ToList();
        var w = common.Select(a => weights[a]).ToArray();

        var groups = present
            .Where(s => s.State == SectionState.Failed || s.Scores.Count > 0)
            .GroupBy(At)
            .OrderByDescending(g => g.Key)
            .Select(g => new Group(
                g.Key, [.. g], g.Any(s => s.State == SectionState.Failed),
                g.Any(s => s.Scores.Any(x => x.Value <= 0 && weights[x.Key] > 0)),
                [.. g.Where(s => s.State == SectionState.Judged).Select(s => common.Select(a => s.Scores[a]).ToArray())]))
            .Select(g => g with { Desirability = g.Contends && common.Count > 0 ? g.Scores.Average(s => ScoreBootstrap.Desirability(s, w)) : 0 })
            .ToList();
        var contenders = groups.Where(g => g.Contends && common.Count > 0).ToList();
        var draws = ScoreBootstrap.Draw([.. contenders.Select(c => c.Scores)], w, readings.ScoreNoise, readings.Seed);
        contenders = contenders.Select((c, i) => c with { Draws = draws[i] }).ToList();
        CountWins(contenders);
        groups = groups.Select(g => contenders.FirstOrDefault(c => c.TemperatureC == g.TemperatureC) ?? g).ToList();

        var sections = readings.Sections.Select(s => Describe(s, groups, common)).ToList();
        var warnings = CommonWarnings(readings, read, common, weights);
        var unread = present.Count(s => s.State == SectionState.Judged && s.Scores.Count == 0);
        var basis = new TowerVerdict
        {
            Outcome = TowerOutcome.Insufficient, From = readings, Cautions = warnings, Sections = sections, CommonAspects = common, Seed = readings.Seed,
            Unread = unread,
        };
        return Lacking(contenders, common, unread, groups.Count) is { } lack
            ? basis with { Lack = lack, Next = WithinLimits(NextFor(lack, contenders), readings) }
            : Decide(basis, groups, contenders);
    }

    private static TowerVerdict Decide(TowerVerdict basis, List<Group> groups, List<Group> contenders)
    {
        var (readings, common) = (basis.From, basis.CommonAspects);
        // Ties go to the contender nearest the middle of the tied ones: an end of the range is not a best while an inner section equals it.
        var top = contenders.Max(c => c.Desirability);
        var tied = contenders.Where(c => top - c.Desirability < 1e-12).ToList();
        var best = tied[tied.Count / 2];
        var step = groups.Zip(groups.Skip(1), (a, b) => a.TemperatureC - b.TemperatureC).DefaultIfEmpty(5).Median();
        var band = BandAround(best, groups);
        var others = contenders.Where(c => c != best).ToList();
        var unseparated = others.Where(c => Beats(best, c) < Confidence).OrderByDescending(c => c.Win).ToList();
        var outside = unseparated.Where(c => !band.Contains(c)).ToList();
        var index = groups.IndexOf(best);
        var atHotEnd = index == 0;
        var atCoolEnd = index == groups.Count - 1;

        var outcome = unseparated.Count == 0 ? TowerOutcome.Clear
            : band.Count >= 2 && outside.All(c => Adjacent(groups, band, c) || c.Win < 0.1) ? TowerOutcome.Band
            : TowerOutcome.Noise;
        var told = outcome != TowerOutcome.Noise;
        var edge = atHotEnd || atCoolEnd;
        var from = band.Min(g => g.TemperatureC);
        var to = band.Max(g => g.TemperatureC);
        var value = Pick(readings.Preference, from, to);
        var curve = Curve(readings, groups, common);
        // The middle of the band, unless the curve through all sections says otherwise by more than its own scatter; sections that scored all alike leave the
        // middle.
        var alike = band.Max(g => g.Desirability) - band.Min(g => g.Desirability) < 1e-9;
        var fromCurve = false;
        if (curve is not null
            && readings.Preference == Preference.Balanced
            && !(alike && band.Count > 1)
            && outcome != TowerOutcome.Clear
            && Math.Abs(curve.BestC - value) > curve.SdC)
        {
            var open = told ? [] : unseparated;
            value = Math.Round(Math.Clamp(curve.BestC, open.Select(g => g.TemperatureC).Append(from).Min(), open.Select(g => g.TemperatureC).Append(to).Max()));
            fromCurve = true;
        }

        if (edge)
        {
            outcome = TowerOutcome.Edge;
            value = best.TemperatureC;
            fromCurve = false;
        }

        // A limit never rounds up, and no advice goes beyond one.
        if (readings.Limits?.Max is { } max)
            value = Math.Min(value, Math.Floor((double)max));
        if (readings.Limits?.Min is { } min)
            value = Math.Max(value, Math.Ceiling((double)min));
        var loss = TowerLoss.Of(readings, [.. groups.Select(g => (g.TemperatureC, (IReadOnlyList<double[]>)g.Scores, g.Failed))], common, value);
        // Neighbours that can't be told apart are no question where hardly anything is lost by either.
        if (outcome == TowerOutcome.Noise && loss.At.P95 <= OpenScores)
            outcome = TowerOutcome.Band;
        var uncertainty = curve is null ? Uncertainty(contenders, value, step)
            : Math.Max(Math.Max(1, step / 2), Math.Ceiling(Math.Max(Math.Abs(value - curve.LowC), Math.Abs(curve.HighC - value))));
        // What stands alone is known to a step.
        if (outcome == TowerOutcome.Clear && uncertainty > Math.Max(step, 5) + 1e-9)
            outcome = TowerOutcome.Band;
        var (next, closed) = edge
            ? EdgeNext(readings, best, step, atHotEnd)
            : (Next(outcome, groups, best, unseparated, outside, band, step, readings), null);
        return basis with
        {
            Outcome = outcome,
            RecommendedTemperatureC = value,
            UncertaintyC = uncertainty,
            Band = new(from, to),
            Numbers = new(
                best.TemperatureC, (outside.FirstOrDefault() ?? unseparated.FirstOrDefault())?.TemperatureC, band.Count, band.Count == groups.Count, atHotEnd,
                loss.At),
            Loss = new(Math.Round(loss.At.Expected, 3), Math.Round(loss.At.P95, 3)),
            Because =
            [
                .. Reasons(groups, common, best, unseparated, band),
                .. fromCurve
                    ? [new TowerRemark(TowerRemarkKind.Curve, Math.Round(curve!.BestC), Math.Round(curve.LowC), Math.Round(curve.HighC))]
                    : Array.Empty<TowerRemark>(),
                .. closed is null ? [] : (TowerRemark[])[closed],
            ],
            Cautions = [.. basis.Cautions, .. Cautions(basis, groups, contenders, band, best, edge, value)],
            Next = Worth(WithinLimits(next, readings), loss.GainOfAnother, readings, groups.Count),
            EdgeAtLimit = closed is not null,
            Settings = [new("nozzleTemperatureC", value, uncertainty)],
        };
    }

    private static IEnumerable<TowerRemark> Cautions(
        TowerVerdict basis, List<Group> groups, List<Group> contenders, List<Group> band, Group best, bool edge, double value)
    {
        var readings = basis.From;
        if (basis.Unread > 0)
            yield return new(TowerRemarkKind.Unread) { Count = basis.Unread };
        if (!edge && band[0] == groups[0])
            yield return new(TowerRemarkKind.BandReachesHot);
        else if (!edge && band[^1] == groups[^1])
            yield return new(TowerRemarkKind.BandReachesCool);
        if (StringsAlone(contenders, basis.CommonAspects, readings, best) is { } strings)
            yield return strings;
        if (readings.Preference == Preference.Strength)
            yield return new(TowerRemarkKind.Strength);
        if (readings.Advised is { } advised && ((advised.Max is { } max && value > (double)max) || (advised.Min is { } min && value < (double)min)))
            yield return new(TowerRemarkKind.OutsideAdvice, value);
    }

    /// <summary>The best by the curve through all that was read; null where too little was.</summary>
    private static CurveBest? Curve(TowerReadings readings, List<Group> groups, IReadOnlyList<string> common)
    {
        var read = groups.SelectMany(g => g.Scores.Select(s => (g.TemperatureC, Scores: s))).ToList();
        var weights = common.Select(a => readings.Weights is null ? 1 : readings.Weights.GetValueOrDefault(a, 0)).ToArray();
        return TowerCurve.Best([.. read.Select(r => r.TemperatureC)], [.. read.Select(r => r.Scores)], weights, readings.ScoreNoise, readings.Seed);
    }

    private static double At(SectionReading s) => s.ObservedC ?? s.TemperatureC;

    private static void CountWins(List<Group> contenders)
    {
        if (contenders.Count == 0)
            return;
        for (var k = 0; k < ScoreBootstrap.Draws; k++)
        {
            var top = 0.0;
            foreach (var c in contenders)
                top = Math.Max(top, c.Draws[k]);
            var winners = 0;
            foreach (var c in contenders)
                winners += c.Draws[k] >= top - 1e-12 ? 1 : 0;
            foreach (var c in contenders)
                c.Win += c.Draws[k] >= top - 1e-12 ? 1.0 / winners / ScoreBootstrap.Draws : 0;
        }
    }

    private static double Beats(Group a, Group b)
    {
        double wins = 0;
        for (var k = 0; k < a.Draws.Length; k++)
            wins += a.Draws[k] > b.Draws[k] + 1e-12 ? 1 : a.Draws[k] > b.Draws[k] - 1e-12 ? 0.5 : 0;
        return wins / a.Draws.Length;
    }

    private static bool AsGood(Group candidate, Group best)
    {
        if (!candidate.Contends)
            return false;
        var differences = new double[candidate.Draws.Length];
        for (var k = 0; k < differences.Length; k++)
            differences[k] = ScoreBootstrap.MaxScore * (candidate.Draws[k] - best.Draws[k]);
        return differences.Quantile(1 - Confidence) > -MarginScores;
    }

    private static List<Group> BandAround(Group best, List<Group> groups)
    {
        var at = groups.IndexOf(best);
        int hot = at, cool = at;
        while (hot > 0 && AsGood(groups[hot - 1], best))
            hot--;
        while (cool < groups.Count - 1 && AsGood(groups[cool + 1], best))
            cool++;
        return groups[hot..(cool + 1)];
    }

    private static bool Adjacent(List<Group> groups, List<Group> band, Group c)
    {
        var i = groups.IndexOf(c);
        return i == groups.IndexOf(band[0]) - 1 || i == groups.IndexOf(band[^1]) + 1;
    }

    private static double Pick(Preference preference, double from, double to)
    {
        var part = preference switch { Preference.Looks => 0.25, Preference.Strength => 0.75, _ => 0.5 };
        return Math.Ceiling(from + part * (to - from) - 0.5 - 1e-9);
    }

    private static double Uncertainty(List<Group> contenders, double value, double step)
    {
        // Too few temperatures for a curve: the interval of the winner's temperature over the draws, and half a step since nothing between two sections was
        // printed.
        var ordered = contenders.OrderBy(c => c.TemperatureC).ToList();
        double Quantile(double q)
        {
            double sum = 0;
            foreach (var c in ordered)
            {
                sum += c.Win;
                if (sum >= q - 1e-9)
                    return c.TemperatureC;
            }

            return ordered[^1].TemperatureC;
        }

        var half = Math.Max(Math.Abs(value - Quantile(0.025)), Math.Abs(Quantile(0.975) - value));
        return Math.Max(1, Math.Ceiling(Math.Max(half, step / 2)));
    }
}
