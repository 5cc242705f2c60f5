using Glenfrost.Core.Statistics;
using Glenfrost.Core.Settings;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>
/// From scores to a verdict. Lost sections are taken out before anything is computed; failed ones and those with a 0 are
/// vetoed; the others compare by a weighted geometric mean over the aspects that all of them have.
/// </summary>
public static class TowerJudging
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

    /// <summary>What is missing; null where something can be said.</summary>
    private static TowerLack? Lacking(List<Group> contenders, IReadOnlyList<string> common, int unread, int groups) =>
        groups == 0 ? TowerLack.Scores
        : common.Count == 0 && contenders.Count == 0 && unread == 0 ? TowerLack.AllFailed
        : common.Count == 0 ? TowerLack.CommonAspect
        : common is ["strings"] ? TowerLack.MoreThanStrings
        : contenders.Count switch { 0 => TowerLack.NoneUsable, 1 => TowerLack.Second, _ => null };

    private static NextPrint NextFor(TowerLack lack, List<Group> contenders) => lack switch
    {
        TowerLack.Scores => new("print-again", "") { Why = NextWhy.ScoreSections },
        TowerLack.CommonAspect => new("print-again", "") { Why = NextWhy.ScoreOneAspect },
        TowerLack.MoreThanStrings => new("print-again", "") { Why = NextWhy.ScoreOneMore },
        TowerLack.Second => new("finer-steps", "", contenders[0].TemperatureC + 4, contenders[0].TemperatureC - 4, 2)
        {
            Why = NextWhy.FinerAround, AboutC = contenders[0].TemperatureC,
        },
        _ => new("print-again", "") { Why = NextWhy.CheckMachine },
    };

    private static List<TowerRemark> CommonWarnings(
        TowerReadings readings, List<SectionReading> read, List<string> common, Dictionary<string, double> weights)
    {
        var warnings = new List<TowerRemark>();
        foreach (var aspect in Aspects.All.Where(a => weights[a] > 0 && !common.Contains(a)))
        {
            var missing = read.Where(s => !s.Scores.ContainsKey(aspect)).ToList();
            if (missing.Count > 0 && missing.Count < read.Count)
                warnings.Add(new(TowerRemarkKind.LeftOut, [.. missing.Select(s => s.TemperatureC)]) { Word = aspect });
        }

        foreach (var s in readings.Sections.Where(s => s.State != SectionState.Lost && s.ObservedC is { } o && Math.Abs(o - s.TemperatureC) > 2))
            warnings.Add(new(TowerRemarkKind.Display, s.ObservedC!.Value, s.TemperatureC));
        return warnings;
    }

    private static TowerRemark? StringsAlone(List<Group> contenders, IReadOnlyList<string> common, TowerReadings readings, Group best)
    {
        var at = common.ToList().IndexOf("strings");
        if (at < 0 || common.Count < 2)
            return null;
        var weights = common.Where((_, i) => i != at).Select(a => readings.Weights?.GetValueOrDefault(a, 0) ?? 1).ToArray();
        var without = contenders.MaxBy(c => c.Scores.Average(s => ScoreBootstrap.Desirability([.. s.Where((_, i) => i != at)], weights)))!;
        return without.TemperatureC > best.TemperatureC && Beats(best, without) < Confidence
            ? new(TowerRemarkKind.OnlyStrings, best.TemperatureC, without.TemperatureC) : null;
    }

    private static IEnumerable<TowerRemark> Reasons(
        List<Group> groups, IReadOnlyList<string> common, Group best, List<Group> unseparated, List<Group> band)
    {
        var scored = groups.Where(g => g.Scores.Count > 0 && !g.Failed).ToList();
        double Mean(Group g, int a) => g.Scores.Average(s => s[a]);
        TowerRemark Side(TowerRemarkKind kind, Func<int, Group?> first) => new(kind)
        {
            Aspects =
            [
                .. common.Select((name, a) => (name, a, at: first(a))).Where(x => x.at is not null)
                    .Select(x => new AspectAt(x.name, Mean(x.at!, x.a), x.at!.TemperatureC)),
            ],
        };
        TowerRemark[] sides =
        [
            Side(TowerRemarkKind.Hotter, a => scored.Where(g => g.TemperatureC > best.TemperatureC && Mean(g, a) <= 2).MinBy(g => g.TemperatureC)),
            Side(TowerRemarkKind.Cooler, a => scored.Where(g => g.TemperatureC < best.TemperatureC && Mean(g, a) <= 2).MaxBy(g => g.TemperatureC)),
        ];
        foreach (var side in sides.Where(x => x.Aspects.Count > 0))
            yield return side;
        var failed = groups.Where(g => g.Failed).Select(g => g.TemperatureC).ToList();
        if (failed.Count > 0)
            yield return new(TowerRemarkKind.Failed, failed);
        var vetoed = groups.Where(g => !g.Failed && g.Vetoed).Select(g => g.TemperatureC).ToList();
        if (vetoed.Count > 0)
            yield return new(TowerRemarkKind.Vetoed, vetoed);
        if (unseparated.FirstOrDefault() is { } pair)
            yield return new(TowerRemarkKind.Pair, best.TemperatureC, pair.TemperatureC)
            {
                Scores = [4 * best.Desirability, 4 * pair.Desirability, Beats(best, pair)],
            };
        else
            yield return new(TowerRemarkKind.BeatsAll, best.TemperatureC) { Scores = [4 * best.Desirability] };
        if (band.Count > 1)
            yield return new(TowerRemarkKind.Within, band[^1].TemperatureC, band[0].TemperatureC);
    }

    private static NextPrint Next(
        TowerOutcome outcome, List<Group> groups, Group best, List<Group> unseparated, List<Group> outside, List<Group> band, double step,
        TowerReadings readings)
    {
        if (outcome != TowerOutcome.Noise)
            return new("confirm", "") { Why = NextWhy.Production, AboutC = band.Count > 1 ? null : best.TemperatureC };
        var rival = outside.FirstOrDefault() ?? unseparated[0];
        var chance = ChanceAfterRepeat(best, rival);
        var hot = Math.Max(best.TemperatureC, rival.TemperatureC);
        var cool = Math.Min(best.TemperatureC, rival.TemperatureC);
        var between = hot - cool;
        if (between > step + 1e-9 || step <= 3)
            return new("repeat-pair", "", hot, cool, Math.Min(20, between), chance)
            {
                Why = NextWhy.Pair, AboutC = best.TemperatureC, RivalC = rival.TemperatureC,
            };
        const double Fine = 2;
        var top = Clip(hot + Fine, readings);
        var count = Math.Floor((top - cool + Fine) / Fine);
        return new("finer-steps", "", top, top - count * Fine, Fine, chance)
        {
            Why = NextWhy.FinerPair, AboutC = best.TemperatureC, RivalC = rival.TemperatureC,
        };
    }

    /// <summary>Chance that one repeat of both separates them, if the difference seen is the true one (normal approximation).</summary>
    private static double ChanceAfterRepeat(Group best, Group rival)
    {
        var d = best.Desirability - rival.Desirability;
        var sd = best.Draws.Zip(rival.Draws, (a, b) => a - b).StandardDeviation() / Math.Sqrt(2);
        return sd < 1e-9 ? 1 : Normal.CDF(0, 1, d / sd - Normal.InvCDF(0, 1, Confidence));
    }

    /// <summary>How a range goes on beyond its end; and the limit where it can't.</summary>
    private static (NextPrint Next, TowerRemark? Closed) EdgeNext(TowerReadings readings, Group best, double step, bool atHotEnd)
    {
        var t = best.TemperatureC;
        if (atHotEnd)
        {
            var max = (double?)readings.Limits?.Max;
            var room = max is { } m ? Math.Floor((m - t) / step + 1e-9) : 3;
            return room < 1
                ? (
                    new("confirm", "") { Why = NextWhy.HotterClosed, AboutC = t },
                    new(TowerRemarkKind.HotLimit, max!.Value) { Word = readings.Limits?.MaxBecause ?? "" })
                : (new("extend-range", "", t + Math.Min(3, room) * step, t - step, step) { Why = NextWhy.Extend, MindTheLimit = max is null }, null);
        }

        var min = (double)(readings.Limits?.Min ?? (decimal)Equipment.HotendLimits.ColdExtrusionC);
        var down = Math.Floor((t - min) / step + 1e-9);
        return down < 1
            ? (new("confirm", "") { Why = NextWhy.ColderClosed, AboutC = t }, new(TowerRemarkKind.ColdLimit, min))
            : (new("extend-range", "", t + step, t - Math.Min(3, down) * step, step) { Why = NextWhy.Extend }, null);
    }

    /// <summary>No proposal leaves the machine's limits: a range is cut at them in whole steps, and one that nothing is left of is dropped.</summary>
    private static NextPrint? WithinLimits(NextPrint? next, TowerReadings readings)
    {
        if (next is not { HottestC: { } hot, CoolestC: { } cool, StepC: { } step })
            return next;
        var max = (double)(readings.Limits?.Max ?? 600);
        var min = (double)(readings.Limits?.Min ?? (decimal)Equipment.HotendLimits.ColdExtrusionC);
        if (hot <= max && cool >= min)
            return next;
        var top = hot > max ? Math.Floor(max) : hot;
        var steps = Math.Floor((top - Math.Max(cool, min)) / step + 1e-9);
        return steps < 1
            ? new("confirm", "") { Why = NextWhy.BelowLimit, AboutC = max }
            : next with { HottestC = top, CoolestC = top - steps * step, Why = NextWhy.Clipped };
    }

    private static double Clip(double t, TowerReadings readings) =>
        readings.Limits?.Max is { } max ? Math.Min(t, (double)max) : t;

    /// <summary>What another print would gain, and what it costs, where it is the same tower again.</summary>
    private static NextPrint? Worth(NextPrint? next, double gain, TowerReadings readings, int sections)
    {
        if (next is not { Kind: "confirm" or "repeat-pair" or "finer-steps" })
            return next;
        var again = next.HottestC is { } hot && next.CoolestC is { } cool && next.StepC is > 0 and var step ? (hot - cool) / step + 1 : sections;
        var costing = readings.Cost is { } cost ? (NextPrint)next.Costing(cost, again / sections) : next;
        return costing with { Gain = Math.Round(gain, 3) };
    }

    private static SectionVerdict Describe(SectionReading s, List<Group> groups, List<string> common)
    {
        if (s.State == SectionState.Lost)
            return new(s.TemperatureC, null, null, null, null, "lost", "");
        var g = groups.FirstOrDefault(x => x.TemperatureC == At(s));
        // A repeat that nobody read yet says nothing, even where its twin is scored.
        if (g is null || (s.State == SectionState.Judged && s.Scores.Count == 0))
            return new(At(s), null, null, null, null, "unread", "");
        if (g.Failed || g.Vetoed)
            return new(g.TemperatureC, 0, 0, 0, 0, g.Failed ? "failed" : "vetoed", "");
        return common.Count == 0
            ? new(g.TemperatureC, null, null, null, null, "judged", "")
            : new(g.TemperatureC, g.Desirability, g.Draws.Quantile(0.025), Math.Min(1, g.Draws.Quantile(0.975)), g.Win, "judged", "");
    }
}
