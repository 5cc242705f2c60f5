using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Text.Json;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Bench;

/// <summary>
/// Recovery of what strings, pressure and flow limit find, beside the plain procedures: the first clean post wins, the line that reads best in a coarse row is
/// taken, the first sample
/// above the loss is the limit, the height or the step that failed is taken as it is. The same prints, the same readings, the same seeds.
/// </summary>
public static class StringsRecovery
{
    /// <summary>Kinds that can be run.</summary>
    public static IReadOnlyList<string> Kinds { get; } =
    [RetractionTrial.Word, PressureTrial.Word, FlowStepsTrial.Word, FlowRisingTrial.Word, FlowWeighedTrial.Word];

    /// <summary>What a procedure said of one hidden case, and what it cost.</summary>
    /// <param name="Error">Of its value: mm for retraction, % for the others; null where it gave none.</param>
    /// <param name="Clear">True where it called its value good to keep.</param>
    /// <param name="Wrong">True where it did so and the value is not: see <see cref="Asked"/>.</param>
    /// <param name="Within">True where the hidden value lies in its interval; null where it gave none.</param>
    private sealed record Answer(string Name, string Word, double? Error, bool Clear, bool Wrong, bool? Within, int Prints, double Grams, double Hours)
    {
        /// <summary>What its value really lies behind the best, scores, and what it said of that; null where it said nothing.</summary>
        public (double Real, Glenfrost.Core.Statistics.ScoreLoss Said)? Lost { get; init; }
    }

    /// <summary>What counts as wrong, in words.</summary>
    private static string Asked(string kind) => kind switch
    {
        RetractionTrial.Word => "wrong: kept, and it strings more than 0.75 of 4 worse than the best length",
        PressureTrial.Word => "wrong: kept, and more than 15 % and 0.004 s off",
        _ => "wrong: kept, and in a print more than 5 % of the plastic is missing at the recommended flow",
    };

    /// <summary>Runs the seeds of a kind and prints what came of them.</summary>
    public static void Run(string kind, int from, int to, bool json)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var cases = new List<Answer>[to - from + 1];
        Parallel.For(from, to + 1, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, seed => cases[seed - from] = kind switch
        {
            RetractionTrial.Word => [.. Retraction(seed)],
            PressureTrial.Word => [.. Pressure(seed)],
            FlowStepsTrial.Word => [.. Steps(seed)],
            FlowRisingTrial.Word => [.. Rising(seed)],
            _ => [.. Weighed(seed)],
        });
        var rows = cases[0].Select(a => a.Name).Select(name =>
        {
            var all = cases.Select(c => c.First(a => a.Name == name)).ToList();
            var errors = all.Where(a => a.Error is not null).Select(a => Math.Abs(a.Error!.Value)).Order().ToList();
            return new
            {
                procedure = name,
                answered = errors.Count,
                median = Recovery.At(errors, 0.5),
                p95 = Recovery.At(errors, 0.95),
                clear = all.Count(a => a.Clear),
                clearWrong = all.Count(a => a is { Clear: true, Wrong: true }),
                within = all.Count(a => a.Within is true),
                intervals = all.Count(a => a.Within is not null),
                lost = all.Where(a => a.Lost is not null).Select(a => a.Lost!.Value).ToList() is { Count: > 0 } l
                    ? new
                    {
                        said = l.Count, held = l.Count(x => x.Real <= x.Said.P95 + 1e-9) / (double)l.Count, real = l.Average(x => x.Real),
                        expected = l.Average(x => x.Said.Expected),
                    }
                    : null,
                pieces = all.Average(a => a.Prints),
                grams = all.Average(a => a.Grams),
                hours = all.Average(a => a.Hours),
                words = all.GroupBy(a => a.Word).OrderByDescending(g => g.Count()).ToDictionary(g => g.Key, g => g.Count()),
            };
        }).ToList();
        if (json)
        {
            Console.WriteLine(JsonSerializer.Serialize(new { trial = kind, seeds = new { from, to }, rows }));
            return;
        }

        var unit = kind == RetractionTrial.Word ? "mm" : "%";
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture, $"{kind}, {cases.Length} hidden cases, seeds {from} to {to}, {clock.Elapsed.TotalSeconds:0} s; {Asked(kind)}"));
        Console.WriteLine($"{"",-44} {"answers",8} {"median",8} {"95 %",8} {"kept",6} {"wrong",6} {"in its",7} {"prints",7} {"g",7} {"h",6}");
        Console.WriteLine($"{"",-44} {"",8} {unit + " off",8} {unit + " off",8} {"",6} {"",6} {"±",7}");
        foreach (var r in rows)
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{r.procedure,-44} {r.answered,8} {r.median,8:0.00} {r.p95,8:0.00} {r.clear,6} {r.clearWrong,6} " +
                        $"{(r.intervals == 0 ? "–" : $"{(double)r.within / r.intervals:0%}"),7} {r.pieces,7:0.00} {r.grams,7:0.0} {r.hours,6:0.0}   " +
                        $"{string.Join(", ", r.words.Select(w => $"{w.Key} {w.Value}"))}"
                ));
        foreach (var r in rows.Where(r => r.lost is not null))
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{r.procedure}: says {r.lost!.said} times what is lost, is right at 95 % in {r.lost.held:0.0%}; lost {r.lost.real:0.000} of a score on " +
                        $"the average, expected {r.lost.expected:0.000}"
                ));
    }

    private static readonly string[] Families = ["PLA", "PETG", "ASA", "PLA", "PCTG"];

    private static (MeasuredRecovery.Place Place, PlanContext Context) Setting(int seed, string label)
    {
        var family = Families[seed % Families.Length];
        var place = MeasuredRecovery.Place.Of(seed, family, label);
        // Feed and flow are settled before: § 2 and § 6 of the order of work.
        place = place with { Hidden = place.Hidden with { FeedRatio = 1 / (place.Material.DiameterMm * place.Material.DiameterMm) * 1.75 * 1.75 } };
        var f = Family.Find(family)!;
        var at = Math.Min(f.NozzleC.Middle!.Value, place.Machine.Limits.MaxC);
        var kept = new Dictionary<string, double> { ["nozzleTemperatureC"] = Math.Round(at) };
        return (
            place, new PlanContext
            {
                Machine = place.Machine, Settings = MeasuredRecovery.Settings(place, family) with { FilamentDiameterMm = 1.75 }, Kept = kept, Family = f,
                AdvisedC = f.NozzleC, DensityGPerCm3 = Math.Round(place.Material.DensityGPerCm3, 2),
            });
    }

    private static (double Grams, double Hours) Cost(ITrialPlan p) => (p.Estimate.MassG ?? 0, p.Estimate.Minutes / 60.0);

    private static PlanValues Next(Trial trial, PlanContext c, TrialNext next, PlanValues before)
    {
        var values = before.With(next.Values);
        foreach (var (k, w) in next.Words ?? new Dictionary<string, string>())
            values[k] = w;
        if (values.Word("mode") is { Length: > 0 } mode && trial.Modes.Contains(mode))
            values = trial.InMode(mode, values, c).With(next.Values);
        return values;
    }

    private static IEnumerable<Answer> Retraction(int seed)
    {
        var trial = new RetractionTrial();
        var (place, c) = Setting(seed, "retraction");
        var laws = new Laws(place.Material, place.Hidden);
        var values = trial.Propose(c);
        // What is hidden: how clean both gaps are at a length, had nobody's eye a habit or a scatter.
        double Quality(double length)
        {
            var (left, worth) = laws.Travelled(c.Settings!.WipeMm, 0, 0, (double)values.Number("retractionSpeedMmPerS")!.Value);
            var melt = laws.MeltC(c.NozzleC, 0.8);
            return new[] { 12.0, 22.0 }.Average(gap =>
                    Eyes.StringsQuality(1 - Math.Pow(1 - laws.StringChance(melt, length * worth, gap, gap / c.Settings.TravelSpeedMmPerS), left))
                ) - (laws.StartGapMm(length) > 0.25 ? 4 : 0);
        }

        var grid = Enumerable.Range(0, 241).Select(i => i * 0.05).Where(l => l <= RetractionJudging.MostMm(place.Machine.LongTube ? "long-tube" : "direct"))
            .ToList();
        var best = grid.Max(Quality);
        var truth = grid.First(l => Quality(l) >= best - 0.5);
        bool Wrong(double value) => Quality(value) < best - 0.75;
        var earlier = new List<(ITrialPlan Plan, RunReadings Readings)>();
        double grams = 0, hours = 0;
        (RetractionVerdict Verdict, RetractionPlan Plan, RunReadings Read) Go(PlanValues v)
        {
            var (plan, piece) = MeasuredRecovery.Print(trial, v, c, place);
            var read = MeasuredRecovery.Read(trial, plan, piece);
            var verdict = (RetractionVerdict)trial.Judge(plan, read, new() { Earlier = [.. earlier] });
            earlier.Insert(0, (plan, read));
            var (g, h) = Cost(plan);
            (grams, hours) = (grams + g, hours + h);
            return (verdict, (RetractionPlan)plan, read);
        }

        var (first, p, cells) = Go(values);
        double? Mean(int i) =>
            new[] { cells.Value(i, RetractionTrial.Narrow), cells.Value(i, RetractionTrial.Wide) }.OfType<double>().ToList() is { Count: > 0 } s
                ? s.Average()
                : null;
        var scored = p.Values.Select((x, i) => (Length: (double)x, Mean: Mean(i))).Where(x => x.Mean is not null).ToList();
        var plain = scored.FirstOrDefault(x => x.Mean >= 3.5) is { Mean: not null } clean ? clean.Length : scored.MaxBy(x => x.Mean).Length;
        yield return new("plain, the first clean post wins", "plain", plain - truth, true, Wrong(plain), null, 1, grams, hours);
        Answer Said(string name, RetractionVerdict v, int prints) =>
            new(
                name, v.Verdict, v.Value is { } x ? x - truth : null, v.Advised, v.Value is { } y && Wrong(y),
                v is { Advised: true, Value: { } z } ? Math.Abs(z - truth) <= v.Settings[0].Uncertainty + 0.05 : null, prints, grams, hours)
            {
                // The best of those that were tried: between them nobody looked.
                Lost = v is { Loss: { } loss, Value: { } w } ? (v.Values.Max(Quality) - Quality(w), loss) : null,
            };
        yield return Said("Glenfrost, one tower", first, 1);
        var (last, prints, at) = (first, 1, values);
        while (!last.Advised && last.Next is { Trial: RetractionTrial.Word, Values: not null } next && prints < 4)
        {
            at = Next(trial, c, next, values);
            if (trial.Plan(at, c).Plan is null)
                break;
            last = Go(at).Verdict;
            prints++;
        }

        yield return Said("Glenfrost, until it is clear, at most four", last, prints);
    }

    private static IEnumerable<Answer> Pressure(int seed)
    {
        var trial = new PressureTrial();
        var (place, c) = Setting(seed, "pressure");
        var truth = place.Hidden.PressureAdvanceS;
        var values = trial.Propose(c);
        double grams = 0, hours = 0;
        PressureVerdict Go(PlanValues v)
        {
            var (plan, piece) = MeasuredRecovery.Print(trial, v, c, place);
            var (g, h) = Cost(plan);
            (grams, hours) = (grams + g, hours + h);
            return (PressureVerdict)trial.Judge(plan, MeasuredRecovery.Read(trial, plan, piece), new());
        }

        bool Wrong(double k) => Math.Abs(k / truth - 1) > 0.15 && Math.Abs(k - truth) > 0.004;
        var first = Go(values);
        var scored = values.With(null);
        scored["readBy"] = "scores";
        var (laws, change) = (new Laws(place.Material, place.Hidden), (double)(values.Number("fastMmPerS") - values.Number("slowMmPerS"))!.Value);
        double Quality(double k) => 4 * Math.Exp(-Math.Pow(laws.Uneven(k, change), 1.3));
        Answer Said(string name, string word, PressureVerdict v, bool kept, int prints) =>
            new(
                name, word, v.K is { } k ? 100 * (k / truth - 1) : null, kept, v.K is { } x && Wrong(x),
                kept && v is { K: { } y, UncertaintyK: { } u } && word != "plain" ? Math.Abs(y - truth) <= u : null, prints, grams, hours)
            {
                Lost = v is { Loss: { } loss, K: { } z }
                    ? (v.Ks.SelectMany(k => new[] { k, k + (v.Ks[1] - v.Ks[0]) / 2 }).Max(Quality) - Quality(z), loss)
                    : null,
            };
        yield return Said("plain, the best of one coarse row", "plain", first, true, 1);
        yield return Said("Glenfrost, one row", first.Verdict, first, first.Advised, 1);
        var row = Go(scored);
        yield return Said("Glenfrost, one scored row", row.Verdict, row, row.Advised, 1);
        var (last, prints) = (first, 1);
        while (last.Next is { Trial: PressureTrial.Word, Values: { } next } && prints < 4 && trial.Plan(values.With(next), c).Plan is not null)
        {
            last = Go(values.With(next));
            prints++;
        }

        yield return Said("Glenfrost, until nothing finer is asked", last.Verdict, last, last.Advised, prints);
    }

    /// <summary>Share of the plastic that is missing in a print at a flow, against what is missing when it prints slowly.</summary>
    private static double Missing(MeasuredRecovery.Place place, PlanContext c, double flow, bool free = false)
    {
        var laws = new Laws(place.Material, place.Hidden);
        return laws.Loss(flow, c.NozzleC, free: free) - laws.Loss(2, c.NozzleC, free: free);
    }

    private static double FlowAt(MeasuredRecovery.Place place, PlanContext c, double missing, bool free = false) =>
        Enumerable.Range(10, 2000).Select(i => i * 0.05).FirstOrDefault(q => Missing(place, c, q, free) >= missing);

    private static IEnumerable<Answer> Flow<T>(
        int seed, string label, Trial trial, double missing, bool free, Func<T, double?> basis, Func<T, RunReadings, ITrialPlan, double?> plain,
        string plainName, Func<PlanValues, PlanValues>? with = null)
        where T : FlowVerdict
    {
        var (place, c) = Setting(seed, label);
        var truth = FlowAt(place, c, missing, free);
        var values = trial.Propose(c);
        values = with is null ? values : with(values);
        double grams = 0, hours = 0;
        (T Verdict, RunReadings Read, ITrialPlan Plan) Go(PlanValues v)
        {
            var (plan, piece) = MeasuredRecovery.Print(trial, v, c, place);
            var (g, h) = Cost(plan);
            (grams, hours) = (grams + g, hours + h);
            var read = MeasuredRecovery.Read(trial, plan, piece);
            return ((T)trial.Judge(plan, read, new() { Seed = seed }), read, plan);
        }

        // In a print that much is missing at a recommended flow: 5 % is what may be.
        bool Wrong(double flow) => Missing(place, c, flow) > 0.05;
        var first = Go(values);
        var taken = plain(first.Verdict, first.Read, first.Plan);
        yield return new(
            plainName, "plain", taken is { } t ? 100 * (t / truth - 1) : null, taken is not null, taken is { } x && Wrong(x), null, 1, grams, hours);
        Answer Said(string name, T v, int prints) =>
            new(
                name, v.Verdict, basis(v) is { } b ? 100 * (b / truth - 1) : null, v.Advised, v.RecommendedFlowMm3PerS is { } r && Wrong(r),
                v is { Advised: true, Bracket: { } i } ? truth >= i.From - 1e-9 && truth <= i.To + 1e-9 : null, prints, grams, hours);
        yield return Said("Glenfrost, one print", first.Verdict, 1);
        var (last, prints) = (first.Verdict, 1);
        // On from a range that was too low or too high, and once inside the bracket where that is proposed.
        while (prints < 3
            && last.Next is { Values: { Count: > 0 } next } follow
            && follow.Trial == trial.Kind
            && (!last.Advised || prints == 1)
            && trial.Plan(values.With(next), c).Plan is not null)
        {
            last = Go(values.With(next)).Verdict;
            prints++;
        }

        yield return Said("Glenfrost, with what it asks for next", last, prints);
    }

    private static IEnumerable<Answer> Steps(int seed) =>
        Flow<SteppedFlowVerdict>(
            seed, "steps", new FlowStepsTrial(), 0.08, false,
            v => v.FlowMm3PerS,
            (v, _, _) => v.FlowMm3PerS,
            "plain, the last good step as it is");

    private static IEnumerable<Answer> Rising(int seed) =>
        Flow<RisingFlowVerdict>(
            seed, "rising", new FlowRisingTrial(), 0.08, false,
            v => v.LimitFlowMm3PerS,
            (v, _, _) => v.LimitFlowMm3PerS,
            "plain, the height that failed as it is");

    private static IEnumerable<Answer> Weighed(int seed) =>
        Flow<WeighedFlowVerdict>(
            seed, "weighed", new FlowWeighedTrial(), 0.05, true,
            v => v.RecommendLossFlowMm3PerS,
            (_, read, plan) =>
            {
                // The first sample is full; the first one that lacks more than 5 % of it is the limit.
                var p = (WeighedPlan)plan;
                var full = read.Value(0, FlowWeighedTrial.Mass + "1");
                for (var i = 1; i < p.FlowsMm3PerS.Count; i++)
                {
                    if (read.Value(i, FlowWeighedTrial.Mass + "1") is { } g && full is { } f && g < 0.95 * f)
                        return p.FlowsMm3PerS[i];
                }

                return null;
            }, "plain, the first sample above the loss");
}
