using Glenfrost.Core.Statistics;
using System.Globalization;
using Glenfrost.Core.Evidence;
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

        var sections = readings.Sections.Select(s => Describe(s, groups, common, weights)).ToList();
        var warnings = CommonWarnings(readings, read, common, weights);
        var unread = present.Count(s => s.State == SectionState.Judged && s.Scores.Count == 0);
        if (Insufficient(contenders, common, unread, groups.Count) is { } why)
        {
            return new TowerVerdict
            {
                Verdict = "insufficient",
                Sentence = why.Sentence,
                Reasons = [why.Reason],
                Warnings = warnings,
                Next = WithinLimits(why.Next, readings),
                Sections = sections,
                CommonAspects = common,
                Seed = readings.Seed,
            };
        }

        return Decide(readings, groups, contenders, sections, common, warnings, unread);
    }

    private static TowerVerdict Decide(
        TowerReadings readings, List<Group> groups, List<Group> contenders, List<SectionVerdict> sections, List<string> common, List<string> warnings,
        int unread)
    {
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

        var word = unseparated.Count == 0 ? "clear"
            : band.Count >= 2 && outside.All(c => Adjacent(groups, band, c) || c.Win < 0.1) ? "band"
            : "noise";
        var told = word != "noise";
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
            && word != "clear"
            && Math.Abs(curve.BestC - value) > curve.SdC)
        {
            var open = told ? [] : unseparated;
            value = Math.Round(Math.Clamp(curve.BestC, open.Select(g => g.TemperatureC).Append(from).Min(), open.Select(g => g.TemperatureC).Append(to).Max()));
            fromCurve = true;
        }

        if (edge)
        {
            word = "edge";
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
        if (word == "noise" && loss.At.P95 <= OpenScores)
            word = "band";
        var uncertainty = curve is null ? Uncertainty(contenders, value, step)
            : Math.Max(Math.Max(1, step / 2), Math.Ceiling(Math.Max(Math.Abs(value - curve.LowC), Math.Abs(curve.HighC - value))));
        var reasons = Reasons(groups, common, best, unseparated, band);
        if (fromCurve)
            reasons.Add(
                $"The curve through all sections is highest at {T(Math.Round(curve!.BestC))} °C, {T(Math.Round(curve.LowC))} to " +
                    $"{T(Math.Round(curve.HighC))} at 95 %; that counts more than the middle of the band."
            );
        // What stands alone is known to a step.
        if (word == "clear" && uncertainty > Math.Max(step, 5) + 1e-9)
            word = "band";
        if (unread > 0)
            warnings.Add($"{unread} section{(unread == 1 ? " is" : "s are")} still to be read; the verdict may move.");
        if (!edge && (band[0] == groups[0] || band[^1] == groups[^1]))
            warnings.Add($"The good band reaches the {(band[0] == groups[0] ? "hot" : "cool")} end of what was printed; it may go on beyond.");
        StringsAlone(contenders, common, readings, best, warnings);
        if (readings.Preference == Preference.Strength)
            warnings.Add("Hotter for strength is unproven without a bond test: bonding may peak and fall again, and the fan often matters more.");
        if (readings.Advised is { } advised && ((advised.Max is { } aMax && value > (double)aMax) || (advised.Min is { } aMin && value < (double)aMin)))
            warnings.Add($"{T(value)} °C is outside the advised range. Advice is not a limit; it is marked in the profile.");

        var (next, atLimit, limitReason) = edge
            ? EdgeNext(readings, best, step, atHotEnd)
            : (Next(word, groups, best, unseparated, outside, band, step, readings), false, null);
        if (limitReason is not null)
            reasons.Add(limitReason);
        return new TowerVerdict
        {
            Verdict = word,
            RecommendedTemperatureC = value,
            UncertaintyC = uncertainty,
            Band = new(from, to),
            Sentence = Sentence(word, value, band, best, unseparated, outside, atHotEnd, atLimit, loss.At, band.Count == groups.Count),
            Loss = new(Math.Round(loss.At.Expected, 3), Math.Round(loss.At.P95, 3)),
            Reasons = reasons,
            Warnings = warnings,
            Next = Worth(WithinLimits(next, readings), loss.GainOfAnother, readings, groups.Count),
            Sections = sections,
            CommonAspects = common,
            EdgeAtLimit = atLimit,
            Seed = readings.Seed,
            Settings = [new("nozzleTemperatureC", value, uncertainty)],
        };
    }

    /// <summary>The best by the curve through all that was read; null where too little was.</summary>
    private static CurveBest? Curve(TowerReadings readings, List<Group> groups, List<string> common)
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

    private static (string Sentence, string Reason, NextPrint Next)? Insufficient(List<Group> contenders, List<string> common, int unread, int groups)
    {
        if (groups == 0)
            return ("Nothing to judge yet.", "No section has a score.", new("print-again", "Score the sections, one aspect at a time."));
        if (common.Count == 0 && contenders.Count == 0 && unread == 0)
            return (
                "No temperature of this tower can be used.", "Every section that was printed failed.",
                new("print-again", "Check nozzle, dryness and extruder feed, then print the tower again."));
        if (common.Count == 0)
            return (
                "No aspect is scored on every section.", "Sections are compared only in the aspects that all of them have.",
                new("print-again", "Score one aspect down all sections first."));
        if (common.Count == 1 && common[0] == "strings")
            return (
                "Strings alone settle no temperature.",
                "Colder always strings less, until the part goes weak and starved. Score bridge, overhang or surface too.",
                new("print-again", "Score one more aspect down all sections."));
        return contenders.Count switch
        {
            0 => (
                "No temperature of this tower can be used.", "Every section failed or has a 0.",
                new("print-again", "Check nozzle, dryness and extruder feed, then print the tower again.")),
            1 => (
                $"Only {T(contenders[0].TemperatureC)} °C is usable so far.",
                unread > 0 ? $"{unread} sections are still to be read." : "One section alone has nothing to compare with.",
                new(
                    "finer-steps", $"Print finer steps around {T(contenders[0].TemperatureC)} °C.", contenders[0].TemperatureC + 4,
                    contenders[0].TemperatureC - 4, 2)),
            _ => null,
        };
    }

    private static List<string> CommonWarnings(TowerReadings readings, List<SectionReading> read, List<string> common, Dictionary<string, double> weights)
    {
        var warnings = new List<string>();
        foreach (var aspect in Aspects.All.Where(a => weights[a] > 0 && !common.Contains(a)))
        {
            var missing = read.Where(s => !s.Scores.ContainsKey(aspect)).ToList();
            if (missing.Count > 0 && missing.Count < read.Count)
                warnings.Add(
                    $"{Capital(aspect)} is left out: {string.Join(", ", missing.Select(s => T(s.TemperatureC)))} °C " +
                        $"{(missing.Count == 1 ? "has" : "have")} no score for it."
                );
        }

        foreach (var s in readings.Sections.Where(s => s.State != SectionState.Lost && s.ObservedC is { } o && Math.Abs(o - s.TemperatureC) > 2))
            warnings.Add($"The display showed {T(s.ObservedC!.Value)} °C where {T(s.TemperatureC)} was planned; judged at {T(s.ObservedC.Value)}.");
        return warnings;
    }

    private static void StringsAlone(List<Group> contenders, List<string> common, TowerReadings readings, Group best, List<string> warnings)
    {
        var at = common.IndexOf("strings");
        if (at < 0 || common.Count < 2)
            return;
        var weights = common.Where((_, i) => i != at).Select(a => readings.Weights?.GetValueOrDefault(a, 0) ?? 1).ToArray();
        var without = contenders.MaxBy(c => c.Scores.Average(s => ScoreBootstrap.Desirability([.. s.Where((_, i) => i != at)], weights)))!;
        if (without.TemperatureC > best.TemperatureC && Beats(best, without) < Confidence)
            warnings.Add(
                $"Only strings speak for {T(best.TemperatureC)} over {T(without.TemperatureC)} °C. Dryness and retraction come before lowering the temperature."
            );
    }

    private static List<string> Reasons(List<Group> groups, List<string> common, Group best, List<Group> unseparated, List<Group> band)
    {
        var reasons = new List<string>();
        var scored = groups.Where(g => g.Scores.Count > 0 && !g.Failed).ToList();
        double Mean(Group g, int a) => g.Scores.Average(s => s[a]);
        void Side(string word, Func<int, Group?> first)
        {
            var list = common.Select((name, a) => (name, a, at: first(a))).Where(x => x.at is not null)
                .Select(x => $"{x.name} {S(Mean(x.at!, x.a))} of 4 from {T(x.at!.TemperatureC)}").ToList();
            if (list.Count > 0)
                reasons.Add($"{word}: {string.Join(", ", list)}.");
        }

        Side("Hotter", a => scored.Where(g => g.TemperatureC > best.TemperatureC && Mean(g, a) <= 2).MinBy(g => g.TemperatureC));
        Side("Cooler", a => scored.Where(g => g.TemperatureC < best.TemperatureC && Mean(g, a) <= 2).MaxBy(g => g.TemperatureC));
        var failed = groups.Where(g => g.Failed).Select(g => T(g.TemperatureC)).ToList();
        if (failed.Count > 0)
            reasons.Add($"{string.Join(", ", failed)} failed to print.");
        var vetoed = groups.Where(g => !g.Failed && g.Vetoed).Select(g => T(g.TemperatureC)).ToList();
        if (vetoed.Count > 0)
            reasons.Add($"{string.Join(", ", vetoed)} has a 0: one 0 vetoes.");
        var pair = unseparated.FirstOrDefault();
        if (pair is not null)
            reasons.Add(
                $"{T(best.TemperatureC)} scores {S(4 * best.Desirability)}, {T(pair.TemperatureC)} scores {S(4 * pair.Desirability)} of 4 over all; " +
                    $"{P(Beats(best, pair))} that the first is really better."
            );
        else
            reasons.Add(
                $"{T(best.TemperatureC)} scores {S(4 * best.Desirability)} of 4 over all and beats every other section with more than {P(Confidence)}.");
        if (band.Count > 1)
            reasons.Add($"{T(band[^1].TemperatureC)} to {T(band[0].TemperatureC)} lie within {S(MarginScores)} score of the best, shown at {P(Confidence)}.");
        return reasons;
    }

    private static NextPrint? Next(
        string word, List<Group> groups, Group best, List<Group> unseparated, List<Group> outside, List<Group> band, double step, TowerReadings readings)
    {
        if (word != "noise")
            return new(
                "confirm",
                $"Confirm {(band.Count > 1 ? "it" : T(best.TemperatureC) + " °C")} at production flow and layer time, with the smallest feature you want.");
        var rival = outside.FirstOrDefault() ?? unseparated[0];
        var chance = ChanceAfterRepeat(best, rival);
        var hot = Math.Max(best.TemperatureC, rival.TemperatureC);
        var cool = Math.Min(best.TemperatureC, rival.TemperatureC);
        var between = hot - cool;
        if (between <= step + 1e-9 && step > 3)
        {
            var fine = 2.0;
            var top = Clip(hot + fine, readings);
            var count = Math.Floor((top - cool + fine) / fine);
            return new(
                "finer-steps",
                $"{T(best.TemperatureC)} and {T(rival.TemperatureC)} °C cannot be told apart. Print {T(top - count * fine)} to {T(top)} °C by 2 once.", top,
                top - count * fine, fine, chance);
        }

        return new(
            "repeat-pair", $"{T(best.TemperatureC)} and {T(rival.TemperatureC)} °C cannot be told apart. Print these two once more.", hot, cool,
            Math.Min(20, between), chance);
    }

    /// <summary>Chance that one repeat of both separates them, if the difference seen is the true one (normal approximation).</summary>
    private static double ChanceAfterRepeat(Group best, Group rival)
    {
        var d = best.Desirability - rival.Desirability;
        var sd = best.Draws.Zip(rival.Draws, (a, b) => a - b).StandardDeviation() / Math.Sqrt(2);
        return sd < 1e-9 ? 1 : Normal.CDF(0, 1, d / sd - Normal.InvCDF(0, 1, Confidence));
    }

    private static (NextPrint? Next, bool AtLimit, string? Reason) EdgeNext(TowerReadings readings, Group best, double step, bool atHotEnd)
    {
        var t = best.TemperatureC;
        if (atHotEnd)
        {
            var max = (double?)readings.Limits?.Max;
            var room = max is { } m ? Math.Floor((m - t) / step + 1e-9) : 3;
            if (room < 1)
                return (new("confirm", $"Confirm {T(t)} °C; hotter is not open to this machine."), true,
                    $"It can't be extended: the machine's limit is {T(max!.Value)} °C{(readings.Limits?.MaxBecause is { } b ? $" ({b})" : "")}.");
            var hottest = t + Math.Min(3, room) * step;
            return (
                new(
                    "extend-range",
                    $"Extend the range: print {T(t - step)} to {T(hottest)} °C by {T(step)}.{(max is null ? " Mind the machine's limit." : "")}", hottest,
                    t - step, step),
                false, null);
        }

        var min = (double)(readings.Limits?.Min ?? (decimal)Equipment.HotendLimits.ColdExtrusionC);
        var down = Math.Floor((t - min) / step + 1e-9);
        if (down < 1)
            return (
                new("confirm", $"Confirm {T(t)} °C; colder is not open to this machine."), true,
                $"It can't be extended: the cold-extrusion limit is {T(min)} °C.");
        var coolest = t - Math.Min(3, down) * step;
        return (new("extend-range", $"Extend the range: print {T(t + step)} to {T(coolest)} °C by {T(step)}.", t + step, coolest, step), false, null);
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
        var bottom = Math.Max(cool, min);
        var steps = Math.Floor((top - bottom) / step + 1e-9);
        return steps < 1
            ? new("confirm", $"Print the best again below the machine's limit of {T(max)} °C; part of what was read lies above it.")
            : next with
            {
                HottestC = top,
                CoolestC = top - steps * step,
                Text = $"Within the machine's limits, print {T(top - steps * step)} to {T(top)} °C by {T(step)}.",
            };
    }

    private static double Clip(double t, TowerReadings readings) =>
        readings.Limits?.Max is { } max ? Math.Min(t, (double)max) : t;

    private static string Sentence(
        string word, double value, List<Group> band, Group best, List<Group> unseparated, List<Group> outside, bool atHotEnd, bool atLimit, ScoreLoss loss,
        bool all) =>
        word switch
        {
            "clear" => $"{T(value)} °C. It stands alone: {Behind(loss)}.",
            "band" when all && band.Count > 2 => $"{T(value)} °C. Any from {T(band[^1].TemperatureC)} to {T(band[0].TemperatureC)} will do: {Behind(loss)}.",
            "band" when band.Count > 1 => $"{T(value)} °C. Good from {T(band[^1].TemperatureC)} to {T(band[0].TemperatureC)}: {Behind(loss)}.",
            "band" => $"{T(value)} °C: {Behind(loss)}.",
            "noise" =>
                $"{T(best.TemperatureC)} and {T((outside.FirstOrDefault() ?? unseparated[0]).TemperatureC)} °C cannot be told apart: {T(value)} °C is " +
                    $"{Behind(loss)}.",
            _ => atLimit
                ? $"{T(value)} °C is the best, at a limit of the machine."
                : $"{T(value)} °C is the best so far, but at the {(atHotEnd ? "hot" : "cool")} end of what was printed.",
        };

    private static string Behind(ScoreLoss loss) =>
        loss.P95 < 0.05 ? "about nothing is lost" : $"at most {S(Math.Round(loss.P95, 1))} of a score behind the best (19 in 20)";

    /// <summary>What another print would gain, and what it costs, where it is the same tower again.</summary>
    private static NextPrint? Worth(NextPrint? next, double gain, TowerReadings readings, int sections)
    {
        if (next is not { Kind: "confirm" or "repeat-pair" or "finer-steps" })
            return next;
        var again = next.HottestC is { } hot && next.CoolestC is { } cool && next.StepC is > 0 and var step ? (hot - cool) / step + 1 : sections;
        var costing = readings.Cost is { } cost ? (NextPrint)next.Costing(cost, again / sections) : next;
        var price = costing.Minutes is { } m
            ? $" for {(costing.Grams is { } g ? $"{S(Math.Round(g))} g and " : "")}{(m < 60 ? $"{m} min" : $"{m / 60} h {m % 60:00}")}" : "";
        var much = $"would gain {(gain < 0.005 ? "next to nothing" : $"about {S(gain)} of a score")}{price}";
        return costing with
        {
            Gain = Math.Round(gain, 3),
            Text = next.Kind != "confirm" ? $"{next.Text} It {much}."
                : $"{next.Text} Another tower {much}{(gain < TrialNext.SmallGain ? ": not worth it" : "")}.",
        };
    }

    private static SectionVerdict Describe(SectionReading s, List<Group> groups, List<string> common, Dictionary<string, double> weights)
    {
        if (s.State == SectionState.Lost)
            return new(s.TemperatureC, null, null, null, null, "lost", "lost: left out");
        var g = groups.FirstOrDefault(x => x.TemperatureC == At(s));
        // A repeat that nobody read yet says nothing, even where its twin is scored.
        if (g is null || (s.State == SectionState.Judged && s.Scores.Count == 0))
            return new(At(s), null, null, null, null, "unread", "not read yet");
        if (g.Failed)
            return new(g.TemperatureC, 0, 0, 0, 0, "failed", "failed to print: 0");
        if (g.Vetoed)
            return new(g.TemperatureC, 0, 0, 0, 0, "vetoed", $"{string.Join(", ", s.Scores.Where(x => x.Value <= 0).Select(x => x.Key))} is 0: vetoed");
        if (common.Count == 0)
            return new(g.TemperatureC, null, null, null, null, "judged", "no aspect in common");
        var sum = common.Sum(a => weights[a]);
        var product = string.Join(" · ", common.Select(a => weights[a] == 1 ? $"{S(s.Scores[a])}/4" : $"({S(s.Scores[a])}/4)^{S(weights[a])}"));
        var text =
            $"({product})^(1/{S(sum)}) = {g.Desirability.ToString("0.000", CultureInfo.InvariantCulture)}" +
                $"{(g.Repeats.Count > 1 ? $", mean of {g.Repeats.Count} repeats" : "")}";
        return new(g.TemperatureC, g.Desirability, g.Draws.Quantile(0.025), Math.Min(1, g.Draws.Quantile(0.975)), g.Win, "judged", text);
    }

    private static string T(double v) => v.ToString("0.#", CultureInfo.InvariantCulture);

    private static string S(double v) => v.ToString("0.##", CultureInfo.InvariantCulture);

    private static string P(double v) => (100 * v).ToString("0", CultureInfo.InvariantCulture) + " %";

    private static string Capital(string word) => char.ToUpperInvariant(word[0]) + word[1..];
}
