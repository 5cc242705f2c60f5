using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using System.Globalization;
using System.Text.Json;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.WallFlow;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;

namespace Glenfrost.Bench;

/// <summary>
/// Recovery of what is measured: steps of the extruder, multiplier of a wall, multiplier and expansion of foam. Files are planned and written by Glenfrost,
/// printed on the simulated
/// printer, read as the application reads them, judged by Glenfrost and, beside it, by the plain procedure: one reading, taken as it is.
/// </summary>
public static class MeasuredRecovery
{
    /// <summary>Kinds that can be run.</summary>
    public static IReadOnlyList<string> Kinds { get; } = [ExtruderFeedTrial.Word, WallFlowTrial.Word, FoamingFlowTrial.Word];

    private const double SteppedAt = 93;

    /// <summary>What a procedure said of one hidden case.</summary>
    /// <param name="ErrorPercent">Of its value against the hidden one; null where it gave none.</param>
    /// <param name="Within">True where the hidden value lies in its interval; null where it gave none.</param>
    /// <param name="Needless">True where its value is further off than the one that stood.</param>
    /// <param name="Also">A second error in per cent: the expansion's.</param>
    private sealed record Answer(string Name, string Word, double? ErrorPercent, bool? Within, bool Worse, int Prints, double? Also = null);

    /// <summary>Runs the seeds of a kind and prints what came of them.</summary>
    public static void Run(string kind, int from, int to, bool json)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var cases = new List<Answer>[to - from + 1];
        Parallel.For(from, to + 1, new ParallelOptions { MaxDegreeOfParallelism = Environment.ProcessorCount }, seed => cases[seed - from] = kind switch
        {
            ExtruderFeedTrial.Word => [.. Feed(seed)],
            WallFlowTrial.Word => [.. Wall(seed)],
            FoamingFlowTrial.Word => [.. Foam(seed)],
            _ => throw new ArgumentException($"--trials is one of temperature-tower, {string.Join(", ", Kinds)}"),
        });
        var rows = cases[0].Select(a => a.Name).Select(name =>
        {
            var all = cases.Select(c => c.First(a => a.Name == name)).ToList();
            var errors = all.Where(a => a.ErrorPercent is not null).Select(a => a.ErrorPercent!.Value).Order().ToList();
            var also = all.Where(a => a.Also is not null).Select(a => a.Also!.Value).Order().ToList();
            return new
            {
                procedure = name,
                answered = errors.Count,
                medianErrorPercent = Recovery.At(errors, 0.5),
                p95ErrorPercent = Recovery.At(errors, 0.95),
                within = all.Count(a => a.Within is true),
                intervals = all.Count(a => a.Within is not null),
                worse = all.Count(a => a.Worse),
                prints = all.Average(a => a.Prints),
                expansionMedianPercent = also.Count == 0 ? (double?)null : Recovery.At(also, 0.5),
                expansionP95Percent = also.Count == 0 ? (double?)null : Recovery.At(also, 0.95),
                words = all.GroupBy(a => a.Word).OrderByDescending(g => g.Count()).ToDictionary(g => g.Key, g => g.Count()),
            };
        }).ToList();
        if (json)
        {
            Console.WriteLine(JsonSerializer.Serialize(new { trial = kind, seeds = new { from, to }, rows }));
            return;
        }

        Console.WriteLine(
            string.Create(CultureInfo.InvariantCulture, $"{kind}, {cases.Length} hidden cases, seeds {from} to {to}, {clock.Elapsed.TotalSeconds:0} s"));
        Console.WriteLine($"{"",-44} {"answers",8} {"median",8} {"95 %",8} {"in its",7} {"worse",9} {"prints",7} {"expansion: median",18} {"95 %",7}");
        Console.WriteLine($"{"",-44} {"",8} {"% off",8} {"% off",8} {"±",7} {"",9} {"",7} {"% off",18} {"% off",7}");
        foreach (var r in rows)
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{r.procedure,-44} {r.answered,8} {r.medianErrorPercent,8:0.00} {r.p95ErrorPercent,8:0.00} " +
                        $"{(r.intervals == 0 ? "–" : $"{(double)r.within / r.intervals:0%}"),7} {r.worse,9} {r.prints,7:0.00} " +
                        $"{(r.expansionMedianPercent is { } m ? $"{m:0.00}" : "–"),18} {(r.expansionP95Percent is { } p ? $"{p:0.00}" : "–"),7}   " +
                        $"{string.Join(", ", r.words.Select(w => $"{w.Key} {w.Value}"))}"
                ));
    }

    /// <summary>A hidden place: a printer, its hidden toolhead, its hidden filament.</summary>
    internal sealed record Place(Machine Machine, PrinterSpec Spec, HiddenMachine Hidden, HiddenMaterial Material, string Label, int Seed)
    {
        public int Prints { get; private set; }

        public static Place Of(int seed, string family, string label)
        {
            var (machine, spec, tube, enclosure) = Recovery.Machines[seed % Recovery.Machines.Count];
            return new(
                machine, spec, HiddenMachine.Draw(Chance.Hash($"recovery {label} machine {seed}"), 0.4, false, tube, enclosure),
                HiddenMaterial.Draw(family, Chance.Hash($"recovery {label} material {seed}")), label, seed);
        }

        /// <summary>The next piece: it has a scatter of its own.</summary>
        public SimulatedPiece Print(string text, double feedRatio = double.NaN)
        {
            var hidden = double.IsNaN(feedRatio) ? Hidden : Hidden with { FeedRatio = feedRatio };
            return new(
                new SimulatedBench(Spec, Material, hidden, 1).Print(text.Split('\n')).Trace, Material, hidden,
                Chance.Hash($"recovery {Label} piece {Seed} {Prints++}"));
        }
    }

    internal static (ITrialPlan Plan, SimulatedPiece Piece) Print(Trial trial, PlanValues values, PlanContext c, Place place, double feedRatio = double.NaN)
    {
        var planned = trial.Plan(values, c);
        if (planned.Plan is { } fed && trial.Lines(fed, c)?.Lines is { } lines)
            return (fed, place.Print(string.Join('\n', lines), feedRatio));
        var (plan, job, errors) = trial.Make(planned.Plan ?? throw new InvalidOperationException(string.Join(" ", planned.Errors.Select(e => e.Message))), c);
        var text = new StringWriter(CultureInfo.InvariantCulture);
        GcodeWriter.Write(job ?? throw new InvalidOperationException(string.Join(" ", errors.Select(e => e.Message))), new("bench", DateTime.UnixEpoch), text);
        return (plan, place.Print(text.ToString(), feedRatio));
    }

    internal static RunReadings Read(Trial trial, ITrialPlan plan, SimulatedPiece piece) =>
        new(
            SimulatedTrial.Of(trial.Kind).Readings(piece, plan, trial.States(plan, new RunReadings(new Dictionary<(int, string), CellReading>())), piece.Seed)
                .ToDictionary(
                    r => (r.Section, r.Aspect),
                    r =>
                        r.Word is { } w
                            ? new CellReading(null, w)
                            : new CellReading(r.Shown.Value, r.Shown.Value.ToString(CultureInfo.InvariantCulture), r.Shown.Resolution)));

    private static double Off(double said, double truth) => 100 * Math.Abs(said / truth - 1);

    private static IEnumerable<Answer> Feed(int seed)
    {
        var trial = new ExtruderFeedTrial();
        var place = Place.Of(seed, "PLA", "feed");
        // What is hidden: the steps at which the gear brings what is asked, over many feeds.
        (FeedVerdict Verdict, double Truth, RunReadings Read, FeedPlan Plan) At(double steps)
        {
            // The tester has stored the value that is tried.
            var c = new PlanContext { Machine = place.Machine, StepsPerMm = steps };
            var values = trial.Propose(c);
            var (plan, piece) = Print(trial, values, c, place, place.Hidden.FeedRatio * steps / SteppedAt);
            var fed = piece.Trace.Free.MaxBy(f => f.AskedMm)!;
            var mean = Enumerable.Range(1000, 400).Average(i => piece.FedMm(fed, i));
            var read = Read(trial, plan, piece);
            return ((FeedVerdict)trial.Judge(plan, read, new()), steps * fed.AskedMm / mean, read, (FeedPlan)plan);
        }

        var (first, truth, cells, planned) = At(SteppedAt);
        var stood = Off(SteppedAt, truth);
        var one = cells.Value(0, ExtruderFeedTrial.Remaining) is { } left
            ? SteppedAt * (double)planned.Request.CommandedMm / ((double)planned.Request.MarkMm - left)
            : (double?)null;
        yield return new("plain, one feed, taken as it is", "plain", one is { } v ? Off(v, truth) : null, null, one is { } o && Off(o, truth) > stood, 1);
        double? Value(FeedVerdict f) => f.Verdict is "adjust" or "within-tolerance" ? f.NewStepsPerMm : null;
        bool? Within(FeedVerdict f, double t) => f is { NewStepsPerMm: { } n, NewUncertainty: { } u } ? Math.Abs(n - t) <= u : null;
        // Within tolerance what stands is left standing.
        double Stands(FeedVerdict f, double at) => f.Verdict == "within-tolerance" ? at : f.NewStepsPerMm!.Value;
        yield return new(
            "Glenfrost, three repeats", first.Verdict, Value(first) is null ? null : Off(Stands(first, SteppedAt), truth), Within(first, truth),
            first.Verdict == "adjust" && Off(first.NewStepsPerMm!.Value, truth) > stood, 1);
        var (last, at, prints) = (first, SteppedAt, 1);
        while (last.Verdict == "adjust" && prints < 4)
        {
            at = last.NewStepsPerMm!.Value;
            last = At(at).Verdict;
            prints++;
        }

        yield return new(
            "Glenfrost, kept after its check run", last.Verdict, last.Verdict == "within-tolerance" ? Off(at, truth) : null, Within(last, truth),
            last.Verdict == "within-tolerance" && Off(at, truth) > stood + 1e-9, prints);
    }

    internal static PrintSettings Settings(Place p, string family) =>
        PrintSettings.From(new Dictionary<string, double>(), p.Machine, Family.Find(family)) with { FilamentDiameterMm = Math.Round(p.Material.DiameterMm, 2) };

    private static IEnumerable<Answer> Wall(int seed)
    {
        var trial = new WallFlowTrial();
        string[] families = ["PLA", "PETG", "ASA", "PLA", "PP"];
        var family = families[seed % families.Length];
        var place = Place.Of(seed, family, "wall");
        (WallVerdict Verdict, double Truth, RunReadings Read, WallPlan Plan) At(double multiplier, bool check)
        {
            var c = new PlanContext
            {
                Machine = place.Machine, Settings = Settings(place, family), Family = Family.Find(family), AdvisedC = Family.Find(family)!.NozzleC,
            };
            var values = trial.Propose(c).With(new Dictionary<string, decimal> { ["extrusionMultiplier"] = (decimal)multiplier });
            values["check"] = check;
            var (plan, piece) = Print(trial, values, c, place);
            var p = (WallPlan)plan;
            // What is hidden: the multiplier at which the line is as wide as it is meant, without scatter or hand.
            var line = p.HeightsMm.Average(h => piece.Look((double)h - 0.8, (double)h + 0.4).LineMm);
            var read = Read(trial, plan, piece);
            return ((WallVerdict)trial.Judge(plan, read, new()), multiplier * (double)p.Request.TargetWidthMm / line, read, p);
        }

        var (first, truth, cells, planned) = At(1, false);
        var stood = Off(1, truth);
        var one = cells.Value(0, $"{WallFlowTrial.Wall}1") is { } wall ? Math.Round((double)planned.Request.TargetWidthMm / wall, 3) : (double?)null;
        yield return new("plain, one reading, taken as it is", "plain", one is { } v ? Off(v, truth) : null, null, one is { } o && Off(o, truth) > stood, 1);
        bool? Within(WallVerdict w, double t) => w is { NewExtrusionMultiplier: { } n, NewUncertainty: { } u } ? Math.Abs(n - t) <= u : null;
        double Stands(WallVerdict w, double at) => w.Verdict == "keep" ? at : w.NewExtrusionMultiplier!.Value;
        yield return new(
            "Glenfrost, readings per side and height", first.Verdict, first.Verdict is "keep" or "adjust" ? Off(Stands(first, 1), truth) : null,
            Within(first, truth), first.Verdict == "adjust" && Off(first.NewExtrusionMultiplier!.Value, truth) > stood, 1);
        yield return new(
            "Glenfrost, its value whatever the word", "value", Off(first.NewExtrusionMultiplier!.Value, truth), null,
            Off(first.NewExtrusionMultiplier!.Value, truth) > stood, 1);
        var (last, at, prints) = (first, 1.0, 1);
        while (last.Verdict == "adjust" && prints < 4)
        {
            at = last.NewExtrusionMultiplier!.Value;
            (last, _, _, _) = At(at, true);
            prints++;
        }

        yield return new(
            "Glenfrost, kept after its check piece", last.Verdict, last.Verdict == "keep" ? Off(at, truth) : null, Within(last, truth),
            last.Verdict == "keep" && Off(at, truth) > stood + 1e-9, prints);
    }

    private static IEnumerable<Answer> Foam(int seed)
    {
        const string Foaming = "foaming PLA";
        var trial = new FoamingFlowTrial();
        var place = Place.Of(seed, Foaming, "foam");
        // The feed is settled before foam is measured.
        place = place with { Hidden = place.Hidden with { FeedRatio = 1 } };
        var c = new PlanContext
        {
            Machine = place.Machine, Settings = Settings(place, Foaming), Family = Family.Find(Foaming), AdvisedC = Family.Find(Foaming)!.NozzleC,
        };
        var (plan, piece) = Print(trial, trial.Propose(c), c, place);
        var p = (FoamingPlan)plan;
        var read = Read(trial, plan, piece);
        var target = (double)p.Request.TargetWidthMm;
        var first = (FoamVerdict)trial.Judge(plan, read, new() { Limits = place.Machine.Limits });
        var prints = 1;
        // Prints one wall: what it is in truth, and what is read of it.
        (double LineMm, double Expansion, ITrialPlan Plan, RunReadings Read) At(double temperature, double multiplier)
        {
            var values = trial.Propose(c)
                .With(
                    new Dictionary<string, decimal>
                    {
                        ["nozzleTemperatureC"] = (decimal)temperature, ["mostMultiplier"] = (decimal)multiplier, ["leastMultiplier"] = (decimal)multiplier,
                    });
            values["mode"] = FoamingFlowTrial.MultiplierMode;
            var (checkPlan, checkPiece) = Print(trial, values, c, place);
            var part = checkPlan.Parts[0];
            var look = checkPiece.Look(part.FromZMm!.Value + 0.35 * (part.ToZMm!.Value - part.FromZMm.Value), part.ToZMm.Value);
            return (look.LineMm, look.Expansion, checkPlan, Read(trial, checkPlan, checkPiece));
        }

        // What is hidden at a temperature: the multiplier that lays the wanted line, found by printing again and again; nobody at the bench has that patience.
        double Truth(double temperature)
        {
            var m = 0.6;
            for (var i = 0; i < 5; i++)
                m = Math.Clamp(m * target / At(temperature, Math.Round(m, 3)).LineMm, 0.1, 1.5);
            return m;
        }

        double Expansion(double temperature)
        {
            var part = plan.Parts.First(x => (double)p.Steps[x.Index].TemperatureC == temperature);
            return piece.Look(part.FromZMm!.Value + 0.35 * (part.ToZMm!.Value - part.FromZMm.Value), part.ToZMm.Value).Expansion;
        }

        var thickest = p.Steps.Select((s, i) => (C: (double)s.TemperatureC, Wall: read.Value(i, $"{FoamingFlowTrial.Wall}1"))).Where(x => x.Wall is not null)
            .MaxBy(x => x.Wall);
        yield return new(
            "plain, one reading a step, thickest wins", "plain", thickest.Wall is { } w ? Off(Math.Round(target / w, 3), Truth(thickest.C)) : null, null, false,
            1, thickest.Wall is { } e ? Off(e / target, Expansion(thickest.C)) : null);
        // Where the hottest foams most and hotter may be printed, that is what it asks for.
        var (curves, range) = (new List<(ITrialPlan Plan, RunReadings Read)> { (plan, read) }, first);
        while (range.Verdict == "edge" && range.Next?.Values is { } wider && curves.Count < 3 && trial.Plan(trial.Propose(c).With(wider), c).Plan is not null)
        {
            var (further, taller) = Print(trial, trial.Propose(c).With(wider), c, place);
            var seen = Read(trial, further, taller);
            range = (FoamVerdict)trial.Judge(further, seen, new() { Limits = place.Machine.Limits, Earlier = curves });
            curves.Add((further, seen));
            (plan, p, piece, prints) = (further, (FoamingPlan)further, taller, prints + 1);
        }

        first = range;
        if (first.ChosenTemperatureC is not { } chosen || first.SuggestedMultiplier is not { } suggested)
        {
            yield return new("Glenfrost, the curve", first.Verdict, null, null, false, prints);
            yield return new("Glenfrost, with its check piece", first.Verdict, null, null, false, prints);
            yield break;
        }

        var truth = Truth(chosen);
        var expanded = first.Expansion.First(x => x.TemperatureC == chosen).Expansion!.Value;
        bool? Within(FoamVerdict f) => f is { SuggestedMultiplier: { } n, SuggestedUncertainty: { } u } ? Math.Abs(n - truth) <= u : null;
        yield return new("Glenfrost, the curve", first.Verdict, Off(suggested, truth), Within(first), false, prints, Off(expanded, Expansion(chosen)));
        var earlier = curves;
        var last = first;
        while (last.Verdict is "suggest" or "adjust" && prints < 7)
        {
            var next = At(chosen, last.SuggestedMultiplier!.Value);
            prints++;
            last = (FoamVerdict)trial.Judge(next.Plan, next.Read, new() { Limits = place.Machine.Limits, Earlier = earlier });
            earlier.Add((next.Plan, next.Read));
        }

        yield return new(
            "Glenfrost, with its check piece", last.Verdict, last.SuggestedMultiplier is { } s ? Off(s, truth) : null, Within(last), false, prints, null);
    }
}
