using Glenfrost.Core.Evidence;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One thing to do.</summary>
public sealed record TodayRow(string Kind, string Title, string Where, string Reason, string Cost, string Action, string Link);

/// <summary>A print that runs now.</summary>
public sealed record RunningPrint(string Printer, string What, int Done, int Parts, string Text, string Link);

/// <summary>What to do now, in the order: a hot machine, a piece not read, a verdict not decided, the next print, dry, doubtful.</summary>
public sealed record TodayList(IReadOnlyList<TodayRow> Rows, IReadOnlyList<RunningPrint> Running, int KeptThisWeek, double GramsThisWeek, int PiecesThisWeek);

/// <summary>Puts the day together.</summary>
public sealed class Today(WorkContext work, TrialRuns trials, PairingRoutes pairingRoutes, Glenfrost.Application.Simulated.PrintJobs jobs)
{
    /// <summary>What waits to be done, the most pressing first.</summary>
    public async Task<TodayList> ListAsync(int most = 12)
    {
        var db = work.Db;
        var now = work.Now;
        var rows = new List<TodayRow>();
        var running = new List<RunningPrint>();
        string[] open = [RunStages.Planned, RunStages.Printed, RunStages.Read];
        var runs = await db.Runs.AsNoTracking().Where(r => open.Contains(r.Stage) && r.RemovedAt == null && r.World == Worlds.Real)
            .OrderByDescending(r => r.CreatedAt).Take(60).ToListAsync();
        var all = await db.Pairings.AsNoTracking().Where(p => p.RemovedAt == null && p.World == Worlds.Real).Select(p => new { p.Id, p.CreatedAt })
            .ToListAsync();
        var standings = db.Standings.AsNoTracking().Where(s => s.Key != null && s.State == EvidenceState.Doubtful);
        var doubtfulOnes = (await standings.Select(s => s.PairingId).Distinct().ToListAsync()).ToHashSet();
        var busy = runs.Where(r => r.PairingId != null).Select(r => r.PairingId!.Value).ToHashSet();
        // Pairings where nothing waits, the doubtful and the newest first; not more of them than the day has rows. Only what is spoken of is opened whole.
        var newest = all.Where(p => !busy.Contains(p.Id)).OrderByDescending(p => doubtfulOnes.Contains(p.Id)).ThenByDescending(p => p.CreatedAt).Take(2 * most)
            .Select(p => p.Id).ToList();
        var doubted = all.Where(p => doubtfulOnes.Contains(p.Id)).Take(most).Select(p => p.Id).ToList();
        var known = (await standings.Where(s => doubted.Contains(s.PairingId)).ToListAsync()).ToLookup(s => s.PairingId);
        Guid[] spokenOf = [.. busy.Union(newest).Union(doubted)];
        var pairings = await db.Pairings.AsNoTracking().Full().Where(p => spokenOf.Contains(p.Id) && p.RemovedAt == null && p.World == Worlds.Real)
            .ToDictionaryAsync(p => p.Id);
        var headIds = runs.Where(r => r.ToolheadId != null).Select(r => r.ToolheadId!.Value).Distinct().ToList();
        var heads =
            headIds.Count == 0
                ? []
                : await db.Toolheads.AsNoTracking().Include(t => t.Printer).Where(t => headIds.Contains(t.Id) && t.RemovedAt == null)
                    .ToDictionaryAsync(t => t.Id);
        runs =
        [
            .. runs.Where(r =>
                TrialCatalogue.Find(r.Kind) is not null && (r.PairingId is { } p ? pairings.ContainsKey(p) : r.ToolheadId is { } h && heads.ContainsKey(h))),
        ];
        Pairing? PairingOf(Run r) => r.PairingId is { } p ? pairings[p] : null;
        Toolhead HeadOf(Run r) => PairingOf(r)?.Toolhead ?? heads[r.ToolheadId!.Value];
        string NameOf(Run r) => PairingOf(r) is { } p ? Facts.NameOf(p) : HeadOf(r).FullName;
        Task<TrialRunView> ViewOf(Run r) => trials.ViewAsync(r, PairingOf(r), HeadOf(r));
        // Readings only of those whose row speaks of them.
        var read = runs.Where(r => r.Stage == RunStages.Printed).Take(most).Concat(runs.Where(r => r.Stage == RunStages.Read).Take(most))
            .ToDictionary(r => r.Id);
        foreach (var reading in await db.Readings.AsNoTracking().Where(r => read.Keys.Contains(r.RunId)).ToListAsync())
            read[reading.RunId].Readings.Add(reading);
        foreach (var run in runs.Where(r => r.Stage == RunStages.Planned && r.PrintStartedAt is not null))
        {
            var gone = (int)(now - run.PrintStartedAt!.Value).TotalMinutes;
            var foreseen = run.ForeseenMinutes ?? 120;
            running.Add(
                new(
                    HeadOf(run).FullName, $"{TrialCatalogue.Get(run.Kind).Name}{(PairingOf(run) is { } p ? $", {Facts.FilamentName(p)}" : "")}",
                    Math.Min(16, gone * 16 / Math.Max(1, foreseen)), 16, gone < foreseen
                        ? $"about {Words.Minutes(foreseen - gone)} left of {Words.Minutes(foreseen)}"
                        : $"should be done since {Words.Minutes(gone - foreseen)}",
                    $"/runs/{run.Id}#print"));
            if (gone >= foreseen)
                rows.Add(
                    new(
                        "Stand by", TrialCatalogue.Get(run.Kind).Name, NameOf(run),
                        "It should be done: say how it ended, and let the bed cool before you take it off.", "1 min", "It ended", $"/runs/{run.Id}#print"));
        }

        foreach (var live in jobs.Prints)
        {
            var print = live.Now();
            running.Add(
                new(
                    live.Bench.Spec.Name, $"{live.Trial.Name}, {print.State}", print.Layers == 0 ? 0 : print.Layer * 16 / print.Layers, 16,
                    $"layer {print.Layer} of {print.Layers}", $"/runs/{live.Job.RunId}#print"));
        }

        foreach (var run in runs.Where(r => r.Stage == RunStages.Printed).Take(most))
        {
            var v = await ViewOf(run);
            var scored = v.ReadCount;
            var byScore = v.Grid.Columns.Any(c => c.Kind == CellKind.Score);
            rows.Add(
                new(
                    "Read", v.Trial.Name, v.Name, scored == 0
                        ? $"{(v.Plan.TotalLayers == 0 ? "Begun" : "Printed")} {Words.Ago(run.PrintedAt ?? run.CreatedAt, now)}, nothing " +
                            $"{(byScore ? "scored" : "read")} yet."
                        : $"{Words.Plural(v.Empty.Count, byScore ? "score" : "reading")} left; the verdict waits for {(v.Empty.Count == 1 ? "it" : "them")}.",
                    $"{Math.Max(1, (int)Math.Ceiling(v.Empty.Count * 0.15))} min", scored == 0 ? "Read" : "Read on", $"/runs/{run.Id}#read"));
        }

        foreach (var run in runs.Where(r => r.Stage == RunStages.Read).Take(most))
        {
            var v = await ViewOf(run);
            rows.Add(new("Decide", v.Trial.Name, v.Name, v.Verdict.Sentence, "1 min", "Decide", $"/runs/{run.Id}#judge"));
        }

        foreach (var run in runs.Where(r => r.Stage == RunStages.Planned && r.PrintStartedAt is null))
        {
            rows.Add(
                new(
                    "Print", $"{TrialCatalogue.Get(run.Kind).Name} {run.Number}", NameOf(run), "Planned; take the file and the sheet to the printer.",
                    Cost(run.ForeseenMinutes, run.MassUg), "Print", $"/runs/{run.Id}#print"));
        }

        // What comes next of them: the same answer as on their own pages.
        var idle = newest.Where(pairings.ContainsKey).Select(i => pairings[i]).ToList();
        var routes = (await pairingRoutes.OfManyAsync(idle)).Select((r, i) => (idle[i].Id, Route: r)).ToDictionary(x => x.Id, x => x.Route);
        var wet = new List<(string Spool, TodayRow Row)>();
        foreach (var p in idle.Where(p => !doubtfulOnes.Contains(p.Id)))
        {
            if (rows.Count(r => r.Action is "Plan" or "Check") >= most)
                break;
            var (route, next) = (routes[p.Id], routes[p.Id].Next());
            // Of one toolhead's feed, and of one printer's checks, one row.
            if (route.Route.Next.Step is not { } step || rows.Any(r => r.Link == next.Link))
                continue;
            if (route.Route.Next.Move is RouteMove.Plan or RouteMove.Again)
                rows.Add(new("Print", route.NameOf(step), Facts.NameOf(p), next.Why, CostOf(step, p), "Plan", next.Link!));
            else if (route.Route.Next.Move is RouteMove.Check)
                rows.Add(new("Check", route.NameOf(step), Facts.NameOf(p), next.Why, CostOf(step, p), "Check", next.Link!));
            else if (route.Route.Next.Move is RouteMove.Dry)
                wet.Add((next.Link!, new("Dry", next.Title, Facts.NameOf(p), next.Why, CostOf(step, p), "Log drying", $"{next.Link}#drying")));
        }

        var room = await work.RoomAsync();
        var dryers = await db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync();
        double? dryerMaxC = dryers.Count > 0 ? dryers.Max() : null;
        var spools = await db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings)
            .Include(s => s.Stays).Include(s => s.Weighings).AsSplitQuery()
            .Where(s => s.RemovedAt == null && s.OpenedAt != null && s.World == Worlds.Real).ToListAsync();
        foreach (var s in spools)
        {
            var (hours, left, _) = Facts.Dryness(s, s.Filament!.Family, room?.HumidityPercent ?? Core.Filaments.DrynessFacts.UsualHumidityPercent, now);
            if (left is not < 0)
                continue;
            var f = Core.Filaments.Family.Find(s.Filament.Family)!;
            // Hours of drying come from one place: what dryer and reel bear is in them.
            var advice = Facts.Advise(s, room?.HumidityPercent, dryerMaxC, now);
            var (c, h) = (advice.TemperatureC, advice.Hours);
            rows.Add(
                new(
                    "Dry", $"{s.Filament.Name}, spool {s.Name}", "",
                    $"Open for {Span(hours!.Value)} at {Words.Humidity(room?.HumidityPercent)}; {s.Filament.Family} bears about " +
                        $"{Span(f.OpenHours * 50 / (room?.HumidityPercent ?? Core.Filaments.DrynessFacts.UsualHumidityPercent))}.",
                    $"{Words.N(h, 1)} h at {Words.N(c, 0)} °C", "Log drying", $"/spools/{s.Id}#drying"));
        }

        foreach (var (printer, days, every) in await PulseBook.DueAsync(work))
            rows.Add(
                new(
                    "Check", "Reference piece", printer.Name,
                    $"{(days is { } d ? $"Last printed {Words.Plural(d, "day")} ago" : "None printed yet")}; every {Words.Plural(every, "day")} was asked for.",
                    "15 min", "Check", $"/printers/{printer.Id}/pulse"));

        // A spool that a route wants dry and that the shelf does not speak of yet.
        rows.AddRange(wet.DistinctBy(w => w.Spool).Where(w => rows.All(r => r.Link != w.Row.Link)).Select(w => w.Row));
        foreach (var p in doubted.Where(pairings.ContainsKey).Select(i => pairings[i]))
        {
            var doubtful = known[p.Id].DistinctBy(s => s.Key).ToList();
            var labels = doubtful
                .Select((s, i) => Core.Settings.SettingRegistry.Find(s.Key)?.Label is not { } label ? s.Key! : i == 0 ? label : label.ToLowerInvariant())
                .ToList();
            var route = routes.GetValueOrDefault(p.Id);
            var step = route?.Route.Next is { Move: RouteMove.Plan or RouteMove.Again or RouteMove.Check or RouteMove.Dry, Step: { } first } ? first : null;
            var action = step?.Kind switch { StepKind.Station => "Plan", StepKind.Check => "Check", StepKind.Dry => "Dry", _ => "Open" };
            rows.Add(
                new(
                    "Doubtful", string.Join(", ", labels.Take(3)) + (labels.Count > 3 ? $" and {labels.Count - 3} more" : ""), Facts.NameOf(p),
                    Capital(doubtful[0].Why ?? "something changed since") + ".", step is null ? "–" : CostOf(step, p), action,
                    step is null ? $"/pairings/{p.Id}" : route!.LinkOf(step)!));
        }

        var week = now.AddDays(-7);
        var kept = await db.Decisions.CountAsync(d =>
            d.At > week && d.UndoneAt == null && d.RevisionId != null && db.Runs.Any(r => r.Id == d.RunId && r.World == Worlds.Real));
        var pieces = await db.Runs.AsNoTracking().Where(r => r.PrintedAt > week && r.RemovedAt == null && r.World == Worlds.Real).Select(r => r.MassUg)
            .ToListAsync();
        return new(Shorten(rows, most), running, kept, pieces.Sum(m => (m ?? 0) / 1e6), pieces.Count);
    }

    /// <summary>The day in at most <paramref name="most"/> rows: the longest kind gives way first, so that no kind of work hides another.</summary>
    private static List<TodayRow> Shorten(List<TodayRow> rows, int most)
    {
        while (rows.Count > most)
            rows.Remove(rows.GroupBy(r => r.Kind).OrderByDescending(g => g.Count()).First().Last());
        return rows;
    }

    private static string CostOf(RouteStep step, Pairing p) => step.Kind == StepKind.Check ? "–" :
        (step.Cost ?? PairingRoutes.CostOf(TrialCatalogue.Get(step.Trials[0]), p)) is { } c ? Cost(c.Minutes, (long)(c.Grams * 1e6)) : "–";

    private static string Cost(int? minutes, long? massUg) =>
        string.Join(
            " · ",
            new[] { minutes is > 0 ? Words.Minutes(minutes) : null, massUg is > 0 ? Words.G(massUg) : null }.Where(x => x is not null).DefaultIfEmpty("–"));

    private static string Span(double hours) => hours < 48 ? $"{Words.N(hours, 0)} h" : $"{Words.N(hours / 24, 0)} days";

    private static string Capital(string s) => s.Length == 0 ? s : char.ToUpperInvariant(s[0]) + s[1..];
}
