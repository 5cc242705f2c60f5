using Glenfrost.Core.Evidence;
using Glenfrost.Core.Routes;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>The evenings ahead, from the routes of all pairings: the same planner as the pairing's page, Today and the API.</summary>
public sealed class ScheduleBook(WorkContext work, PairingRoutes routes, AnswerCache answers, WriteGate gate)
{
    /// <summary>Most pairings that are laid out: more would fill more evenings than anybody plans.</summary>
    public const int MostPairings = 24;

    /// <summary>Minutes at the desk for a piece that is read, or a verdict that is decided.</summary>
    private const int DeskMinutes = 15;

    /// <summary>Minutes of a print of which nobody knows how long it takes.</summary>
    private const int UnknownMinutes = 90;

    private static readonly TimeSpan Remembered = TimeSpan.FromMinutes(10);

    /// <summary>The evenings ahead.</summary>
    /// <param name="eveningMinutes">Length of each.</param>
    /// <param name="evenings">How many.</param>
    public async Task<(Schedule Schedule, int More)> OfAsync(int eveningMinutes, int evenings)
    {
        var key = $"ways {gate.Writes} {work.Now.Date:yyyyMMdd}";
        if (!answers.TryGet(key, out (IReadOnlyList<ScheduleWay> Ways, int More)? known))
            known = answers.Put<(IReadOnlyList<ScheduleWay> Ways, int More)?>(key, 20, await WaysAsync(), Remembered);
        return (Schedule.Of(known!.Value.Ways, eveningMinutes, evenings), known.Value.More);
    }

    private async Task<(IReadOnlyList<ScheduleWay> Ways, int More)> WaysAsync()
    {
        var db = work.Db;
        string[] open = [RunStages.Planned, RunStages.Printed, RunStages.Read];
        var waiting = await db.Runs.Where(r => r.PairingId != null && r.RemovedAt == null && open.Contains(r.Stage)).Select(r => r.PairingId!.Value).Distinct()
            .ToListAsync();
        var doubtful = await db.Standings.Where(s => s.Key != null && s.State == EvidenceState.Doubtful).Select(s => s.PairingId).Distinct().ToListAsync();
        var ids = await db.Pairings.Where(p => p.RemovedAt == null && p.World == Worlds.Real).Select(p => new { p.Id, p.CreatedAt }).ToListAsync();
        // What waits for somebody first, then what is doubtful, then the newest.
        var order = ids.OrderByDescending(p => waiting.Contains(p.Id)).ThenByDescending(p => doubtful.Contains(p.Id)).ThenByDescending(p => p.CreatedAt)
            .Select(p => p.Id).ToList();
        var ways = new List<ScheduleWay>();
        foreach (var id in order.Take(MostPairings))
        {
            if (await db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id) is { } p && await routes.OfAsync(id) is { } route
                && ItemsOf(p, route) is { Count: > 0 } items)
                ways.Add(new(Facts.NameOf(p), items));
        }

        return (ways, Math.Max(0, order.Count - MostPairings));
    }

    /// <summary>What comes next, and what the route still wants after it.</summary>
    private static List<ScheduleItem> ItemsOf(Pairing p, PairingRoute route)
    {
        var printer = p.Toolhead!.Printer!.Name;
        var (next, items) = (route.Next(), new List<ScheduleItem>());
        var (move, at, run) = route.Route.Next;
        ScheduleItem Step(RouteStep s) => new(
            route.NameOf(s), s.Cost?.Minutes ?? (s.Kind == StepKind.Station ? UnknownMinutes : DeskMinutes), s.Kind == StepKind.Station ? printer : null,
            route.LinkOf(s), s.Kind == StepKind.Station ? null : $"{route.LinkOf(s)} {s.Key}");
        if (run is not null)
            items.Add(
                new(
                    next.Title, move == RouteMove.Print ? route.Route.Steps.FirstOrDefault(s => s.Trials.Contains(run.Kind))?.Cost?.Minutes ?? UnknownMinutes
                        : DeskMinutes, move == RouteMove.Print ? printer : null, next.Link));
        // The trial of the run that waits is not planned beside it.
        items.AddRange(route.Route.Steps.Where(s => s.Wanted && (run is null || !s.Trials.Contains(run.Kind))).Select(Step));
        if (move == RouteMove.Confirm && at is not null)
            items.Add(Step(at));
        return items;
    }
}
