using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>
/// Judges broken pegs: one scatter in log force for all groups, plates as blocks, and pegs that gave way in the clamp as "held at least this". Which group is
/// weaker is said by the range of all groups (<see cref="StudentisedRange"/>), since the best is known only after the break.
/// </summary>
public static class BondJudging
{
    /// <summary>Newtons in a kilogram-force.</summary>
    public const double NewtonPerKgf = 9.80665;

    /// <summary>Share of pegs that held "at least" above which the rig wants mending.</summary>
    public const double ManyBounds = 0.2;

    /// <summary>Fewest pegs of a group that are judged.</summary>
    public const int LeastPieces = 3;

    private const double Beyond = 0.05;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(BondReadings r)
    {
        var errors = new List<FieldError>();
        if (r.Groups.Count == 0 && r.Ranks.Count == 0)
            errors.Add(new("groups", "Groups with forces, or ranks of a break by hand, would be right."));
        if (r.Groups.Count > 24)
            errors.Add(new("groups", $"{r.Groups.Count} groups are more than anybody breaks: at most 24."));
        foreach (var (g, i) in r.Groups.Select((g, i) => (g, i)))
        {
            if (g.Label.Length == 0)
                errors.Add(new($"groups[{i}].label", "A group without a name: its temperature, for example \"230 °C\"."));
            else if (r.Groups.Take(i).Any(o => o.Label == g.Label))
                errors.Add(new($"groups[{i}].label", $"{g.Label} stands twice: put its pegs into one group."));
            if (g.TemperatureC is { } t && !(t >= 100 && t <= 600))
                errors.Add(new($"groups[{i}].temperatureC", $"{Say.N(t)} °C is no nozzle: 150 to 500 would be right."));
            if (g.FanPercent is { } f && !(f >= 0 && f <= 100))
                errors.Add(new($"groups[{i}].fanPercent", $"{Say.N(f)} % is no fan: 0 to 100 would be right."));
            foreach (var (p, k) in g.Pieces.Select((p, k) => (p, k)).Where(p => !(p.p.Force > 0 && p.p.Force <= 100_000)))
                errors.Add(
                    new(
                        $"groups[{i}].pieces[{k}].force",
                        $"{Say.N(p.Force, 3)} is no force: one above 0, at most 100 000 {r.Unit}. A peg that slipped at once is left out."));
        }

        if (r.Reference is { } reference && r.Groups.All(g => g.Label != reference))
            errors.Add(new("reference", $"\"{reference}\" is none of the groups: {Say.List([.. r.Groups.Take(6).Select(g => g.Label)])} would be right."));
        if (r.Ranks.FirstOrDefault(x => !(x.Rank >= 1 && x.Rank <= Math.Max(1, r.Ranks.Count))) is { } odd)
            errors.Add(new("ranks", $"{Say.N(odd.Rank)} is no rank among {r.Ranks.Count} pegs: 1 broke most easily."));
        if (r.Expected.Count > 0 && r.Ranks.Any(x => !r.Expected.Contains(x.Label)))
            errors.Add(new("expected", "Every group of the ranks has its place in the expected order, the weakest first."));
        Within(errors, "smallestUsefulPercent", r.SmallestUsefulPercent, 1, 500, "15 is usual");
        Within(errors, "rigScatterPercent", r.RigScatterPercent, 1, 80, "10 to 15 is usual");
        Within(errors, "rigDegreesOfFreedom", r.RigFreedom, 1, 1000, "eight equal pegs give 7");
        Within(errors, "areaMm2", r.AreaMm2, 0.1, 10_000, "the section that parts");
        Within(errors, "bending.spanMm", r.Bending?.SpanMm, 1, 1000, "between the supports");
        Within(errors, "bending.widthMm", r.Bending?.WidthMm, 0.5, 200, "the section that parts");
        Within(errors, "bending.thicknessMm", r.Bending?.ThicknessMm, 0.5, 200, "the section that parts, in the direction of the force");
        return errors;
    }

    private static void Within(List<FieldError> errors, string field, double? v, double least, double most, string why)
    {
        if (v is { } x && !(x >= least && x <= most))
            errors.Add(new(field, $"{Say.N(x, 3)} is outside {Say.N(least)} to {Say.N(most)}: {why}."));
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static BondVerdict Judge(BondReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = BondOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        if (r.Ranks.Count > 0)
            return Ranked(r);
        var few = r.Groups.Any(g => g.Pieces.Count < LeastPieces);
        var v = new BondVerdict
        {
            Outcome = BondOutcome.Insufficient, From = r, Advised = false,
            Plates = r.Groups.SelectMany(g => g.Pieces).Select(p => p.Plate).OfType<int>().Distinct().Count(),
            Groups = [.. r.Groups.Select(g => Bare(g))],
        };
        if (Pooled(r) is not { } fit)
            return v with { Next = new("measure-more", "") };
        v = WithGroups(v, r, fit);
        if (r.RigCheck)
            return r.Groups.Sum(g => g.Pieces.Count) < 6 ? v with { Next = new("measure-more", "") } : WithRig(v, r, fit);
        if (few || r.Groups.Count < 2)
            return v with { Next = new("measure-more", "") };
        v = WithEffects(WithTrend(WithWeaker(v, r, fit), r, fit), r, fit);
        var outcome = v.Weaker.Count > 0 ? BondOutcome.Separable
            : v.TrendPercentPer10C is { } trend && (trend.Low > 0 || trend.High < 0) || v.Effects.Any(e => e.Shown) ? BondOutcome.Trend
            : BondOutcome.Noise;
        // One plate is one print: what lies between plates is not in its scatter.
        return Next(v with { Outcome = outcome, Advised = true, Proves = v.Plates > 1 }, fit);
    }

    private static BondGroupResult Bare(BondGroup g) =>
        new(g.Label, g.Pieces.Count, g.Pieces.Count(p => p.Mode != BondMode.Layer), null, 0, null) { TemperatureC = g.TemperatureC, FanPercent = g.FanPercent };

    /// <summary>The groups' log means with one scatter.</summary>
    /// <param name="Fit">Columns are the groups that have a break, then plates.</param>
    /// <param name="Column">Column of each group; −1 for one of bounds only.</param>
    /// <param name="Scatter">Of one peg, log.</param>
    /// <param name="Freedom">Of it.</param>
    private sealed record Pool(CensoredFit Fit, int[] Column, double Scatter, double Freedom)
    {
        /// <summary>Variance of a mean, with the pooled scatter.</summary>
        public double Variance(int a) => Fit.Covariance[a, a] * Rescale;

        /// <summary>Variance of a difference of two means.</summary>
        public double Variance(int a, int b) => (Fit.Covariance[a, a] + Fit.Covariance[b, b] - 2 * Fit.Covariance[a, b]) * Rescale;

        public double Rescale => Scatter * Scatter / (Fit.Scatter * Fit.Scatter);

        public double T => new StudentT(0, 1, Freedom).InverseCumulativeDistribution(0.975);
    }

    private static Pool? Pooled(BondReadings r)
    {
        var column = new int[r.Groups.Count];
        var next = 0;
        for (var g = 0; g < column.Length; g++)
            column[g] = r.Groups[g].Pieces.Any(p => p.Mode == BondMode.Layer) ? next++ : -1;
        if (next == 0)
            return null;
        var pieces = r.Groups.SelectMany((g, i) => g.Pieces.Select(p => (p, At: column[i]))).Where(x => x.At >= 0).ToList();
        if (Fit(pieces.Select(x => x.p), x => [.. Enumerable.Range(0, next).Select(c => pieces[x].At == c ? 1.0 : 0)]) is not { } fit)
            return null;
        // What the rig's own check said counts by how well it is known.
        var (s2, df) = (fit.Scatter * fit.Scatter, fit.Freedom);
        if (r.RigScatterPercent is { } rig)
            (s2, df) = ((df * s2 + r.RigFreedom * Math.Pow(rig / 100, 2)) / (df + r.RigFreedom), df + r.RigFreedom);
        return new(fit, column, Math.Sqrt(s2), df);
    }

    /// <summary>Fits log forces by some columns and, where they were printed on more than one plate, by plates that sum to nothing.</summary>
    private static CensoredFit? Fit(IEnumerable<BondPiece> all, Func<int, double[]> columns)
    {
        var pieces = all.ToList();
        var plates = pieces.All(p => p.Plate is not null) ? pieces.Select(p => p.Plate!.Value).Distinct().Order().ToList() : [];
        double[] Plate(BondPiece p) => [.. plates.SkipLast(1).Select(x => p.Plate == x ? 1.0 : p.Plate == plates[^1] ? -1 : 0)];
        var rows = pieces.Select((p, i) => columns(i).Concat(plates.Count > 1 ? Plate(p) : []).ToArray()).ToList();
        BoundedValue[] values = [.. pieces.Select(p => new BoundedValue(Math.Log(p.Force), p.Mode != BondMode.Layer))];
        return CensoredFit.Of(Matrix<double>.Build.DenseOfRowArrays(rows), values)
            // Groups that stand on one plate each can't be told from their plates: then the plates are left out.
            ?? (plates.Count > 1 ? CensoredFit.Of(Matrix<double>.Build.DenseOfRowArrays(rows.Select((_, i) => columns(i))), values) : null);
    }

    private static BondVerdict WithGroups(BondVerdict v, BondReadings r, Pool fit)
    {
        var groups = new List<BondGroupResult>();
        foreach (var (g, i) in r.Groups.Select((g, i) => (g, i)))
        {
            var bare = Bare(g);
            if (fit.Column[i] is var c && c < 0)
            {
                groups.Add(g.Pieces.Count == 0 ? bare : bare with
                {
                    Low = Digits(Math.Exp(CensoredFit.LeastMean([.. g.Pieces.Select(p => Math.Log(p.Force))], fit.Scatter))),
                });
                continue;
            }

            var (mean, half) = (fit.Fit.Coefficients[c], fit.T * Math.Sqrt(fit.Variance(c)));
            groups.Add(bare with
            {
                GeometricMean = Digits(Math.Exp(mean)),
                Low = Digits(Math.Exp(mean - half)),
                High = Digits(Math.Exp(mean + half)),
                MPa = MPa(r, Math.Exp(mean)),
            });
        }

        var each = 1 / r.Groups.Average(g => 1.0 / Math.Max(1, g.Pieces.Count));
        return v with
        {
            Groups = groups,
            ScatterPercent = Math.Round(100 * fit.Scatter, 2),
            DegreesOfFreedom = Math.Round(fit.Freedom, 1),
            DetectablePercent = Math.Round(BondPower.PairPercent(fit.Scatter, each, fit.Freedom), 1),
            DetectableOfAllPercent = r.Groups.Count < 2 ? null : Math.Round(BondPower.AnyPercent(fit.Scatter, each, r.Groups.Count, fit.Freedom), 1),
            NeededPieces = BondPower.Needed(r.SmallestUsefulPercent, fit.Scatter, Math.Max(2, r.Groups.Count)),
        };
    }

    private static BondVerdict WithWeaker(BondVerdict v, BondReadings r, Pool fit)
    {
        double Mean(int g) => fit.Fit.Coefficients[fit.Column[g]];
        List<int> known = [.. Enumerable.Range(0, r.Groups.Count).Where(g => fit.Column[g] >= 0)];
        var best = known.MaxBy(Mean);
        // A group that is known to hold at least more than the best mean leaves the best open.
        var critical = r.Groups.Count < 2 ? 0 : StudentisedRange.Critical(Beyond, r.Groups.Count, fit.Freedom) / Math.Sqrt(2);
        bool IsWeaker(int g) => g != best && Mean(best) - Mean(g) > critical * Math.Sqrt(fit.Variance(fit.Column[best], fit.Column[g]));
        HashSet<int> weaker = [.. known.Where(IsWeaker)];
        IEnumerable<(int From, int To)> pairs = r.Reference is { } reference
            ? known.Where(g => r.Groups[g].Label != reference).Select(g => (known.FirstOrDefault(k => r.Groups[k].Label == reference, -1),
                g)).Where(p => p.Item1 >= 0)
            : known.SelectMany((a, i) => known.Skip(i + 1).Select(b => (a, b)));
        return v with
        {
            Strongest = r.Groups[best].Label,
            Weaker = [.. weaker.Order().Select(g => r.Groups[g].Label)],
            NotRuledOut = [.. r.Groups.Where((_, g) => !weaker.Contains(g)).Select(g => g.Label)],
            Contrasts = [.. pairs.Take(300).Select(p =>
            {
                var (d, half) = (Mean(p.To) - Mean(p.From), fit.T * Math.Sqrt(fit.Variance(fit.Column[p.From], fit.Column[p.To])));
                return new BondContrast(
                    r.Groups[p.From].Label, r.Groups[p.To].Label, P(d), P(d - half), P(d + half));
            })],
        };
    }

    /// <summary>Percent of a log ratio, rounded.</summary>
    private static double P(double log) => Math.Round(BondPower.Percent(log), 1);

    private static BondVerdict WithTrend(BondVerdict v, BondReadings r, Pool fit)
    {
        List<int> known = [.. Enumerable.Range(0, r.Groups.Count).Where(g => fit.Column[g] >= 0 && r.Groups[g].TemperatureC is not null)];
        if (known.Select(g => r.Groups[g].TemperatureC).Distinct().Count() < 3 || known.Select(g => r.Groups[g].FanPercent).Distinct().Count() > 1)
            return v;
        known = [.. known.OrderBy(g => r.Groups[g].TemperatureC)];
        double C(int g) => r.Groups[g].TemperatureC!.Value;
        var means = known.Select(g => fit.Fit.Coefficients[fit.Column[g]]).ToList();
        var (curve, _) = OnePeak(means, [.. known.Select(g => (double)r.Groups[g].Pieces.Count)]);
        // A drop after the peak is one only where a hotter group is shown weaker than the strongest.
        var peak = known[means.IndexOf(means.Max())];
        double? drop = known.Any(g => C(g) > C(peak) && v.Weaker.Contains(r.Groups[g].Label)) ? C(peak) : null;
        List<int> rise = [.. known.Where(g => drop is null || C(g) <= drop)];
        v = v with
        {
            DropAboveC = drop,
            Curve = [.. known.Zip(curve).Select(x => new BondAt(C(x.First), Digits(Math.Exp(x.Second))))],
        };
        if (rise.Count < 2)
            return v;
        var pieces = rise.SelectMany(g => r.Groups[g].Pieces.Select(p => (p, C: C(g)))).ToList();
        if (Fit(pieces.Select(x => x.p), i => [1, (pieces[i].C - 200) / 10]) is not { } line)
            return v;
        var (slope, half) = (line.Coefficients[1], fit.T * Math.Sqrt(line.Covariance[1, 1]) * fit.Scatter / line.Scatter);
        return v with { TrendPercentPer10C = new(P(slope), P(slope - half), P(slope + half)) };
    }

    /// <summary>The rise and fall that fits best, by least squares.</summary>
    public static (IReadOnlyList<double> Fitted, int Peak) OnePeak(IReadOnlyList<double> y, IReadOnlyList<double> weights)
    {
        (IReadOnlyList<double> Fitted, int Peak, double Off) best = ([], 0, double.PositiveInfinity);
        for (var peak = 0; peak < y.Count; peak++)
        {
            double[] Rising(int count) =>
                [.. Isotonic.Falling([.. y.Take(count).Reverse()], [.. weights.Take(count).Reverse()]).Reverse()];
            var rise = Rising(peak + 1);
            var fall = Isotonic.Falling([.. y.Skip(peak)], [.. weights.Skip(peak)]);
            double[] fitted = [.. rise.Take(peak), Math.Max(rise[peak], fall[0]), .. fall.Skip(1)];
            var off = fitted.Select((f, i) => weights[i] * (f - y[i]) * (f - y[i])).Sum();
            if (off < best.Off - 1e-12)
                best = (fitted, peak, off);
        }

        return (best.Fitted, best.Peak);
    }

    private static BondVerdict WithEffects(BondVerdict v, BondReadings r, Pool fit)
    {
        List<BondGroup> known = [.. r.Groups.Where((g, i) => fit.Column[i] >= 0 && g is { TemperatureC: not null, FanPercent: not null })];
        var temperatures = known.Select(g => g.TemperatureC!.Value).Distinct().Order().ToList();
        var fans = known.Select(g => g.FanPercent!.Value).Distinct().Order().ToList();
        if (temperatures.Count < 2 || fans.Count < 2)
            return v;
        var pieces = known.SelectMany(g => g.Pieces.Select(p => (p, g))).ToList();
        double Warm(BondGroup g) => (g.TemperatureC!.Value - temperatures[0]) / (temperatures[^1] - temperatures[0]) - 0.5;
        double Still(BondGroup g) => (fans[^1] - g.FanPercent!.Value) / (fans[^1] - fans[0]) - 0.5;
        if (Fit(pieces.Select(x => x.p), i => [1, Warm(pieces[i].g), Still(pieces[i].g), Warm(pieces[i].g) * Still(pieces[i].g)]) is not { } both)
            return v;
        double Half(int i) => fit.T * Math.Sqrt(both.Covariance[i, i]) * fit.Scatter / both.Scatter;
        BondEffect Effect(string factor, double from, double to, int i) => both.Coefficients[i] >= 0
            ? new(factor, from, to, P(both.Coefficients[i]), P(both.Coefficients[i] - Half(i)), P(both.Coefficients[i] + Half(i)))
            : new(factor, to, from, P(-both.Coefficients[i]), P(-both.Coefficients[i] - Half(i)), P(-both.Coefficients[i] + Half(i)));
        return v with
        {
            Effects = [Effect("fan", fans[^1], fans[0], 2), Effect("temperature", temperatures[0], temperatures[^1], 1)],
            EffectsMeet = Math.Abs(both.Coefficients[3]) > Half(3),
        };
    }

    /// <summary>What the rig's two usual causes do, and the scatter that is left.</summary>
    private static BondVerdict WithRig(BondVerdict v, BondReadings r, Pool fit)
    {
        var pieces = r.Groups.SelectMany(g => g.Pieces.Select(p => (p, g))).ToList();
        v = v with { Outcome = BondOutcome.RigKnown, Proves = false, DetectableOfAllPercent = null };
        if (Fit(pieces.Select(x => x.p), i => [1, pieces[i].g.Brisk ? 0.5 : -0.5, pieces[i].g.Anew ? 0.5 : -0.5]) is not { } two)
            return v;
        var t = new StudentT(0, 1, two.Freedom).InverseCumulativeDistribution(0.975);
        BondEffect Effect(string factor, int i) =>
            new(factor, 0, 1, P(two.Coefficients[i]), P(two.Coefficients[i] - t * Math.Sqrt(two.Covariance[i, i])),
                P(two.Coefficients[i] + t * Math.Sqrt(two.Covariance[i, i])));
        return v with
        {
            ScatterPercent = Math.Round(100 * two.Scatter, 2),
            DegreesOfFreedom = two.Freedom,
            Effects = [Effect("pulling-speed", 1), Effect("alignment", 2)],
            DetectablePercent = Math.Round(BondPower.PairPercent(two.Scatter, 4, 24), 1),
            NeededPieces = BondPower.Needed(r.SmallestUsefulPercent, two.Scatter, 4),
        };
    }

    private static BondVerdict Next(BondVerdict v, Pool fit)
    {
        var pieces = v.Groups.Sum(g => g.N);
        var bounds = v.Groups.Sum(g => g.Censored);
        if (bounds > ManyBounds * pieces)
            return v with
            {
                Next = new("mend-rig", "", LayerBondTrial.Word, new Dictionary<string, decimal>())
                {
                    Words = new Dictionary<string,
                string>
                    { ["mode"] = LayerBondTrial.RigCheck }
                }
            };
        if (v.Plates == 1)
            return v with { Next = new("second-plate", "", LayerBondTrial.Word) };
        if (v.Effects is [{ Factor: "fan", Shown: true } fan, var hotter] && fan.Percent > hotter.Percent && fan.To < fan.From)
        {
            return v with
            {
                Next = new(
                    "fan-first", "", LayerBondTrial.Word,
                    new Dictionary<string, decimal>
                    {
                        ["fanFromPercent"] = 0, ["fanToPercent"] = (decimal)fan.To,
                        ["nozzleTemperatureC"] = (decimal)hotter.From
                    })
                {
                    Words = new Dictionary<string, string> { ["mode"] = LayerBondTrial.Fan },
                },
            };
        }

        if (v.Outcome is BondOutcome.Noise or BondOutcome.Trend && v.NeededPieces is { } needed && needed > v.Groups.Min(g => g.N))
            return v with { Next = new("more-pieces", "", LayerBondTrial.Word) };
        return v;
    }

    private static BondVerdict Ranked(BondReadings r)
    {
        var labels = r.Expected.Count > 0 ? r.Expected.Where(l => r.Ranks.Any(x => x.Label == l)).ToList() : [.. r.Ranks.Select(x => x.Label).Distinct()];
        var v = new BondVerdict
        {
            Outcome = BondOutcome.Insufficient, From = r, Advised = false,
            Groups = [.. labels.Select(l => new BondGroupResult(l, r.Ranks.Count(x => x.Label == l), 0, null, 0, null))],
        };
        if (labels.Count < 2)
            return v with { Next = new("measure-more", "") };
        var odds = RankOdds.Of([.. r.Ranks.Select(x => x.Rank)], [.. r.Ranks.Select(x => labels.IndexOf(x.Label))], r.Expected.Count > 0);
        double Mean(string l) => r.Ranks.Where(x => x.Label == l).Average(x => x.Rank);
        var shown = odds.P <= Beyond;
        return v with
        {
            RankOdds = odds,
            Strongest = labels.MaxBy(Mean),
            // Ranks say that the order is no luck, not which neighbours differ.
            NotRuledOut = labels,
            Outcome = odds.Floor > Beyond ? BondOutcome.Insufficient : !shown ? BondOutcome.Noise : r.Expected.Count > 0 ? BondOutcome.Trend
                : BondOutcome.Separable,
            Advised = shown,
            Proves = false,
            Next = shown ? null : new("more-pieces", "", LayerBondTrial.Word),
        };
    }

    /// <summary>Stress at a force; null where the section is not known.</summary>
    private static double? MPa(BondReadings r, double force)
    {
        var n = r.Unit == "kgf" ? force * NewtonPerKgf : force;
        // Bending over two supports: 3 F L / (2 b t²).
        return r.Bending is { } b ? Digits(1.5 * n * b.SpanMm / (b.WidthMm * b.ThicknessMm * b.ThicknessMm)) : r.AreaMm2 is { } area ? Digits(n / area) : null;
    }

    /// <summary>Four significant digits.</summary>
    private static double Digits(double v) => v <= 0 || !double.IsFinite(v) ? v : Math.Round(v, Math.Clamp(3 - (int)Math.Floor(Math.Log10(v)), 0, 6));
}
