using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Bench;

/// <summary>
/// The recovery benchmark: hidden filaments on hidden toolheads, towers as Glenfrost plans and writes them, printed and read on the simulated bench, judged by
/// Glenfrost and by
/// the plain procedure on the very same readings. Nothing of the verdict's rules is known to the bench, and nothing of the hidden truth to the verdict.
/// </summary>
public static class Recovery
{
    /// <summary>One hidden case and what each procedure made of it.</summary>
    private sealed record Case(int Seed, string Subject, double TruthC, IReadOnlyList<Answer> Answers);

    /// <summary>What a procedure said, and what it cost.</summary>
    /// <param name="Name">Procedure.</param>
    /// <param name="Word">Verdict; "plain" for none.</param>
    /// <param name="C">Recommended, °C; null for nothing.</param>
    /// <param name="Half">Its 95 % half-width, °C.</param>
    /// <param name="Wrong">True where it called one section clearly the best and another printed one was better in truth.</param>
    /// <param name="Regret">How much less good it is than the hidden best, in scores of 0–4 over all aspects.</param>
    private sealed record Answer(string Name, string Word, double? C, double? Half, bool Wrong, double Regret, int Towers, double Grams, double Hours)
    {
        /// <summary>What it really lies behind the best within what was printed, scores, and what was said of that; null where nothing was.</summary>
        public (double Real, Glenfrost.Core.Statistics.ScoreLoss Said)? Lost { get; init; }
    }

    private static readonly (string Family, int Machine)[] Subjects =
        [("PLA", 0), ("PLA", 1), ("PLA", 2), ("PETG", 1), ("PETG", 2), ("PCTG", 1), ("ASA", 1), ("ABS", 1), ("TPU", 2), ("PA", 1), ("PP", 2), ("PLA", 0)];

    /// <summary>Printers of the bench with what their hidden toolheads are drawn from.</summary>
    internal static IReadOnlyList<(Machine Machine, PrinterSpec Spec, double? TubeMm, string Enclosure)> Machines { get; } =
    [
        Make("Dunnock 180", 180, 120, 1200, HotendLimits.Of(HotendLiner.PtfeLined, 260, null, null, null, 3, null), "m900", 420, "none", 90),
        Make("Whimbrel 300", 300, 350, 8000, HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 4, null), "macro", null, "closed", 120),
        Make("Ptarmigan 350", 350, 200, 3000, HotendLimits.Of(HotendLiner.AllMetal, 285, null, null, null, 3, null), "m572", null, "none", 110),
    ];

    private static readonly ConcurrentDictionary<string, Lazy<(PrintTrace Trace, TowerPlan Plan, double Grams, double Hours)>> Printed = new();

    private static (Machine, PrinterSpec, double?, string) Make(
        string name, double bed, double speed, double acceleration, HotendLimits limits, string dialect, double? tube, string enclosure, double bedMax) =>
        (
            new Machine
            {
                Name = name, Dialect = dialect, BedXMm = bed, BedYMm = bed, HeightMm = bed, BedMaxC = bedMax, MaxSpeedMmPerS = speed,
                MaxAccelerationMmPerS2 = acceleration, LongTube = tube is not null, Limits = limits,
            },
            new PrinterSpec
            {
                Name = name, BedXMm = bed, BedYMm = bed, HeightMm = bed, BedMaxC = bedMax, HeaterMaxC = 300, WaitsForCooling = dialect == "macro",
                Factory = new PrinterSettings
                {
                    MaxX = speed, MaxY = speed, AccelerationX = acceleration, AccelerationY = acceleration, Print = Math.Min(1000, acceleration),
                    Travel = Math.Min(1500, acceleration),
                },
            },
            tube, enclosure);

    /// <summary>How fast a nine-section tower is printed at full speed, against reading its file with times and layers.</summary>
    public static void Speed(int rounds)
    {
        var (m, spec, _, _) = Machines[0];
        var plan = TowerPlanning.Plan(Request(m, 230, 190, 5)).Plan!;
        var job = TowerPiece.Make(plan, m, PrintSettings.From(new Dictionary<string, double>(), m, Family.Find("PLA")), "bench").Job!;
        var to = new StringWriter(CultureInfo.InvariantCulture);
        GcodeWriter.Write(job, new("bench", DateTime.UnixEpoch), to);
        var (lines, bytes) = (to.ToString().Split('\n'), System.Text.Encoding.ASCII.GetBytes(to.ToString()));
        var bench = new SimulatedBench(spec, HiddenMaterial.Draw("PLA", 1), HiddenMachine.Draw(1), 1);
        var (printed, read) = (new List<double>(), new List<double>());
        for (var i = 0; i < rounds + 2; i++)
        {
            var clock = System.Diagnostics.Stopwatch.StartNew();
            var piece = bench.Print(lines);
            var p = clock.Elapsed.TotalMilliseconds;
            clock.Restart();
            var facts = Core.Gcode.Inspection.Inspector.Inspect(
                new MemoryStream(bytes), new() { Motion = Core.Gcode.Motion.MotionLimits.Of(m.MaxSpeedMmPerS, m.MaxAccelerationMmPerS2) });
            if (i < 2)
                continue;
            (printed, read) = ([.. printed, p], [.. read, clock.Elapsed.TotalMilliseconds]);
            if (i == rounds + 1)
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"nine-section tower on the simulated printer: {At([.. printed.Order()], 0.5):0} ms for {piece.Trace.PrintSeconds / 3600:0.0} h of " +
                            $"its own time, {At([.. printed.Order()], 0.5) / At([.. read.Order()], 0.5):0.0} times reading the file with its times " +
                            $"({At([.. read.Order()], 0.5):0} ms); clocks differ by {100 * Math.Abs(piece.Trace.PrintSeconds / facts.Seconds - 1):0.00} %"
                    ));
        }
    }

    /// <summary>Runs the seeds and prints what came of them.</summary>
    public static void Run(int from, int to, bool json)
    {
        var cases = new Case[to - from + 1];
        var clock = System.Diagnostics.Stopwatch.StartNew();
        Parallel.For(from, to + 1, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, seed => cases[seed - from] = One(seed));
        var names = cases[0].Answers.Select(a => a.Name).ToList();
        var rows = names.Select(name =>
        {
            var all = cases.Select(c => (Case: c, A: c.Answers.First(a => a.Name == name))).ToList();
            var errors = all.Where(x => x.A.C is not null).Select(x => Math.Abs(x.A.C!.Value - x.Case.TruthC)).Order().ToList();
            var clear = all.Count(x => x.A.Word == "clear");
            return new
            {
                procedure = name,
                answered = errors.Count,
                medianErrorC = At(errors, 0.5),
                p95ErrorC = At(errors, 0.95),
                meanRegretScores = all.Average(x => x.A.Regret),
                p95RegretScores = At([.. all.Select(x => x.A.Regret).Order()], 0.95),
                clear,
                clearWrong = all.Count(x => x.A is { Word: "clear", Wrong: true }),
                withinItsInterval = all.Count(x => x.A is { C: { } c, Half: { } h } && Math.Abs(c - x.Case.TruthC) <= h),
                meanHalf = all.Average(x => x.A.Half ?? 0),
                towers = all.Average(x => x.A.Towers),
                grams = all.Average(x => x.A.Grams),
                hours = all.Average(x => x.A.Hours),
                words = all.GroupBy(x => x.A.Word).OrderByDescending(g => g.Count()).ToDictionary(g => g.Key, g => g.Count()),
            };
        }).ToList();
        if (json)
        {
            Console.WriteLine(JsonSerializer.Serialize(new { trial = "temperature-tower", seeds = new { from, to }, rows }));
            return;
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"temperature tower, {cases.Length} hidden filaments on three toolheads, seeds {from} to {to}, {clock.Elapsed.TotalSeconds:0} s"));
        Console.WriteLine(
            $"{"",-44} {"answers",8} {"median",8} {"95 %",8} {"regret",8} {"95 %",8} {"clear",7} {"wrong",6} {"in its",7} {"mean",6} " +
                $"{"towers",7} {"g",7} {"h",6}"
        );
        Console.WriteLine($"{"",-44} {"",8} {"°C off",8} {"°C off",8} {"score",8} {"score",8} {"",7} {"",6} {"±",7} {"± °C",6}");
        foreach (var r in rows)
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{r.procedure,-44} {r.answered,8} {r.medianErrorC,8:0.0} {r.p95ErrorC,8:0.0} {r.meanRegretScores,8:0.000} " +
                        $"{r.p95RegretScores,8:0.00} {r.clear,7} {r.clearWrong,6} {(double)r.withinItsInterval / Math.Max(1, r.answered),7:0%} " +
                        $"{r.meanHalf,6:0.0} {r.towers,7:0.00} {r.grams,7:0} {r.hours,6:0.0}   " +
                        $"{string.Join(", ", r.words.Select(w => $"{w.Key} {w.Value}"))}"
                ));
        foreach (var name in cases[0].Answers.Select(a => a.Name))
        {
            var lost = cases.Select(c => c.Answers.First(a => a.Name == name).Lost).Where(x => x is not null).Select(x => x!.Value).ToList();
            if (lost.Count > 0)
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{name}: says {lost.Count} times what is lost, is right at 95 % in " +
                            $"{lost.Count(x => x.Real <= x.Said.P95 + 1e-9) / (double)lost.Count:0.0%}; " +
                            $"lost {lost.Average(x => x.Real):0.000} of a score on the average, expected {lost.Average(x => x.Said.Expected):0.000}"
                    ));
        }

    }

    private static Case One(int seed)
    {
        var (family, at) = Subjects[seed % Subjects.Length];
        var (machine, spec, tube, enclosure) = Machines[at];
        var material = HiddenMaterial.Draw(family, Chance.Hash($"recovery material {seed}"));
        var hidden = HiddenMachine.Draw(Chance.Hash($"recovery machine {seed}"), 0.4, false, tube, enclosure);
        var eyes = new Eyes(Chance.Hash($"recovery eyes {seed}"));
        var range = Family.Find(family)!.NozzleC;
        var hot = Math.Floor(Math.Min(range.Max!.Value, machine.Limits.MaxC));
        var first = Request(machine, (decimal)hot, (decimal)(hot - Math.Floor((hot - Math.Ceiling(range.Min!.Value)) / 5) * 5), 5);
        var (trace, plan, grams, hours) = Print(at, family, first);
        var piece = new SimulatedPiece(trace, material, hidden, Chance.Hash($"recovery piece {seed}"));
        double Good(double c) =>
            Enumerable.Range(0, plan.Sections.Count)
                .Average(i => Eyes.Overall(piece.Truth((double)plan.Sections[i].FromZMm!, (double)plan.Sections[i].ToZMm!, c)));
        var grid = Enumerable.Range(0, 400).Select(i => 170 + i * 0.5)
            .Where(c => c >= machine.Limits.MinC && c <= machine.Limits.MaxC && Math.Abs(c - (double)(first.HottestC + first.CoolestC)! / 2) < 50).ToList();
        var mid = plan.Sections[plan.Sections.Count / 2];
        var truth = grid.MaxBy(c => Eyes.Overall(piece.Truth((double)mid.FromZMm!, (double)mid.ToZMm!, c)));
        var best = Good(truth);
        double Regret(double? c) => c is { } v ? 4 * Math.Max(0, best - Good(v)) : 4 * best;

        var scores = Read(piece, plan, eyes, 0);
        var answers = new List<Answer>();
        void Plain(string name, List<SectionReading> read, int towers)
        {
            var sums = read.Where(s => s.State == SectionState.Judged).GroupBy(s => s.TemperatureC)
                .Select(g => (C: g.Key, Sum: g.Average(s => s.Scores.Values.Sum()))).OrderByDescending(x => x.C).ToList();
            double? c = null;
            if (sums.Count > 0)
            {
                var tied = sums.Where(x => x.Sum >= sums.Max(y => y.Sum) - 1e-9).ToList();
                c = tied[tied.Count / 2].C;
            }

            answers.Add(new(name, "plain", c, null, false, Regret(c), towers, towers * grams, towers * hours));
        }

        Answer Said(string name, List<SectionReading> read, int towers, double g, double h, out TowerVerdict verdict)
        {
            verdict = TowerJudging.Judge(new() { Sections = read, Seed = seed, Limits = first.Limits });
            var c = verdict.RecommendedTemperatureC;
            var wrong =
                verdict.Verdict == "clear"
                && read.Select(s => s.TemperatureC).Distinct().MaxBy(Good) != read.Select(s => s.TemperatureC).Distinct().MinBy(t => Math.Abs(t - c!.Value));
            var (low, high) = (read.Min(s => s.TemperatureC), read.Max(s => s.TemperatureC));
            return new(name, verdict.Verdict, c, verdict.UncertaintyC, wrong, Regret(c), towers, g, h)
            {
                Lost = verdict.Loss is { } loss && c is { } v ? (4 * Math.Max(0, grid.Where(x => x >= low && x <= high).Max(Good) - Good(v)), loss) : null,
            };
        }

        Plain("plain, one tower: highest sum wins", scores, 1);
        answers.Add(Said("Glenfrost, one tower", scores, 1, grams, hours, out var v1));
        var again = new SimulatedPiece(trace, material, hidden, Chance.Hash($"recovery second piece {seed}"));
        Plain("plain, the same tower twice", [.. scores, .. Read(again, plan, eyes, 1)], 2);
        // What the verdict asks for next; where it asks for nothing that it would print as a tower, it stops.
        var next = v1.Next is { HottestC: { } nh, CoolestC: { } nc, StepC: { } ns } ? Request(machine, (decimal)nh, (decimal)nc, (decimal)ns) : null;
        if (next is not null && TowerPlanning.Plan(next).Plan is not null)
        {
            var (trace2, plan2, g2, h2) = Print(at, family, next);
            var second = Read(new SimulatedPiece(trace2, material, hidden, Chance.Hash($"recovery next piece {seed}")), plan2, eyes, 2);
            answers.Add(Said("Glenfrost, what it asks next, judged alone", second, 2, grams + g2, hours + h2, out _));
            answers.Add(Said("Glenfrost, what it asks next, both together", [.. scores, .. second], 2, grams + g2, hours + h2, out _));
        }
        else
        {
            answers.Add(answers[1] with { Name = "Glenfrost, what it asks next, judged alone" });
            answers.Add(answers[1] with { Name = "Glenfrost, what it asks next, both together" });
        }

        return new(seed, $"{family} on {machine.Name}", truth, answers);
    }

    private static TowerRequest Request(Machine m, decimal hot, decimal cool, decimal step) => new()
    {
        HottestC = hot,
        CoolestC = cool,
        StepC = step,
        LayerHeightMm = 0.2m,
        FirstLayerHeightMm = 0.2m,
        SectionHeightMm = 10,
        BaseHeightMm = 1.2m,
        NozzleDiameterMm = 0.4m,
        BedHeightMm = (decimal)m.HeightMm,
        Limits = new((decimal)m.Limits.MinC, (decimal)m.Limits.MaxC),
    };

    /// <summary>Plans, writes and prints a tower: the same file on the same printer is printed once, since what differs is the filament.</summary>
    private static (PrintTrace Trace, TowerPlan Plan, double Grams, double Hours) Print(int machine, string family, TowerRequest request) =>
        Printed.GetOrAdd($"{machine}/{family}/{request.HottestC}/{request.CoolestC}/{request.StepC}", _ => new(() =>
        {
            var (m, spec, _, _) = Machines[machine];
            var plan = TowerPlanning.Plan(request).Plan ?? throw new InvalidOperationException("the tower can't be planned");
            var settings = PrintSettings.From(new Dictionary<string, double>(), m, Family.Find(family));
            var (job, errors) = TowerPiece.Make(plan, m, settings, "recovery");
            if (job is null)
                throw new InvalidOperationException(string.Join(" ", errors.Select(e => e.Message)));
            var text = new StringWriter(CultureInfo.InvariantCulture);
            GcodeWriter.Write(job, new("bench", DateTime.UnixEpoch), text);
            var bench = new SimulatedBench(spec, HiddenMaterial.Draw(family, 1), HiddenMachine.Draw(1), 1);
            var piece = bench.Print(text.ToString().Split('\n'));
            return (piece.Trace, plan, job.MassG, piece.Trace.TotalSeconds / 3600);
        })).Value;

    private static List<SectionReading> Read(SimulatedPiece piece, TowerPlan plan, Eyes eyes, int look) =>
        [
            .. plan.Sections.Select(s =>
            {
                var part = piece.Look((double)s.FromZMm!, (double)s.ToZMm!);
                return part.Failed
                    ? new SectionReading((double)s.TemperatureC, SectionState.Failed, new Dictionary<string, double>())
                    : new SectionReading(
                        (double)s.TemperatureC, SectionState.Judged,
                        Eyes.Aspects.ToDictionary(a => a, a => eyes.Score(part, a, (int)(s.TemperatureC * 10), look)!.Value));
            }),
        ];

    /// <summary>Quantile of sorted values; NaN for none.</summary>
    internal static double At(List<double> sorted, double q) =>
        sorted.Count == 0 ? double.NaN : sorted[(int)Math.Min(sorted.Count - 1, Math.Floor(q * sorted.Count))];
}
