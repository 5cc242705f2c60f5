using Glenfrost.Core.Evidence;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Appends events to what is known of a pairing, and writes what their fold says beside them. The caller saves; inside the gate only.</summary>
public sealed class EvidenceBook(WorkContext work)
{
    /// <summary>An event of a setting.</summary>
    public EvidenceEntry Of(Guid pairing, string key, EvidenceKind kind, Guid cause, string? text = null) =>
        OfArea(pairing, EvidenceAreas.Of(key), kind, cause, text, key);

    /// <summary>An event of an area.</summary>
    public EvidenceEntry OfArea(Guid pairing, string area, EvidenceKind kind, Guid cause, string? text = null, string? key = null) =>
        new() { Id = EventIds.Next(work.Now), PairingId = pairing, Area = area, Key = key, Kind = kind, CauseId = cause, At = work.Now, Text = text };

    /// <summary>Adds events of one pairing.</summary>
    public async Task RecordAsync(Guid pairing, IReadOnlyCollection<EvidenceEntry> events)
    {
        if (events.Count == 0)
            return;
        var person = (await work.PersonAsync()).Id;
        var newest = await work.Db.Evidence.Where(e => e.PairingId == pairing).MaxAsync(e => (DateTime?)e.At) ?? DateTime.MinValue;
        foreach (var e in events)
        {
            e.PersonId = person;
            // What is recorded later stands later, whatever a clock that was set back in between says.
            if (e.At < newest)
                e.At = newest.AddMilliseconds(1);
        }

        work.Db.Evidence.AddRange(events);
        await ProjectAsync(pairing);
    }

    /// <summary>What is known of a pairing, events that wait to be saved included.</summary>
    public async Task<IReadOnlyList<EvidenceEvent>> EventsAsync(Guid pairing)
    {
        var stored = await work.Db.Evidence.AsNoTracking().Where(e => e.PairingId == pairing).ToListAsync();
        var waiting = work.Db.ChangeTracker.Entries<EvidenceEntry>().Where(e => e.State == EntityState.Added && e.Entity.PairingId == pairing)
            .Select(e => e.Entity);
        return [.. stored.Concat(waiting).Select(e => e.ToCore())];
    }

    /// <summary>States as the projection has them, areas without a setting included.</summary>
    public async Task<IReadOnlyList<EvidenceItem>> ItemsAsync(Guid pairing) =>
        [
            .. (await work.Db.Standings.AsNoTracking().Where(s => s.PairingId == pairing).ToListAsync()).Select(s => new EvidenceItem(
                s.Area, s.Key, s.AtC, s.State, s.Why, s.RunId, s.At)),
        ];

    /// <summary>Writes the projection of a pairing anew.</summary>
    public async Task ProjectAsync(Guid pairing)
    {
        var db = work.Db;
        foreach (var added in db.ChangeTracker.Entries<EvidenceStanding>().Where(e => e.State == EntityState.Added && e.Entity.PairingId == pairing).ToList())
            added.State = EntityState.Detached;
        db.Standings.RemoveRange(await db.Standings.Where(s => s.PairingId == pairing).ToListAsync());
        db.Standings.AddRange(
            EvidenceFold.States(await EventsAsync(pairing))
                .Select(i => new EvidenceStanding
                {
                    PairingId = pairing, Area = i.Area, Key = i.Key, AtC = i.AtC, State = i.State, Why = i.Why, RunId = i.RunId, At = i.At,
                }));
    }

    /// <summary>
    /// Makes settings of a pairing doubtful, as far as they are evidence or doubtful already: a second doubt outlasts the undoing of the first.
    /// </summary>
    public async Task DoubtAsync(Guid pairing, IEnumerable<string> keys, Guid cause, string why) =>
        await RecordAsync(pairing, [.. keys.Select(k => Of(pairing, k, EvidenceKind.Doubted, cause, why))]);

    /// <summary>True where what a cause said counts on some pairing: it was not taken back since.</summary>
    public async Task<bool> IsInForceAsync(Guid cause)
    {
        var said = await work.Db.Evidence.AsNoTracking().Where(e => e.CauseId == cause).Select(e => new { e.PairingId, e.Kind, e.At }).ToListAsync();
        return said.GroupBy(e => e.PairingId).Any(g => g.MaxBy(e => e.At)!.Kind != EvidenceKind.Withdrawn);
    }

    /// <summary>Takes a cause back on every pairing that it touched.</summary>
    /// <returns>The pairings.</returns>
    public async Task<IReadOnlyList<Guid>> WithdrawAsync(Guid cause)
    {
        var touched = await work.Db.Evidence.AsNoTracking().Where(e => e.CauseId == cause).GroupBy(e => e.PairingId)
            .Select(g => new
            {
                g.Key, Last = g.Max(e => e.At), Taken = g.Where(e => e.Kind == EvidenceKind.Withdrawn).Max(e => (DateTime?)e.At),
            }).ToListAsync();
        var list = touched.Where(t => t.Taken is null || t.Taken < t.Last).Select(t => t.Key).ToList();
        foreach (var pairing in list)
            await RecordAsync(pairing, [OfArea(pairing, EvidenceAreas.Other, EvidenceKind.Withdrawn, cause)]);
        return list;
    }

    /// <summary>Spools that a quick check on a pairing found like the kept run's.</summary>
    public async Task<IReadOnlySet<Guid>> CheckedSpoolsAsync(Guid pairing) =>
        EvidenceOf.CheckedSpools([
            .. (
                await work.Db.Evidence.AsNoTracking().Where(e => e.PairingId == pairing && (e.Area == "quick-check" || e.Kind == EvidenceKind.Withdrawn))
                    .ToListAsync()).Select(e => e.ToCore()),
        ]);
}

/// <summary>What events say besides states.</summary>
public static class EvidenceOf
{
    /// <summary>Spools whose last quick check that was not taken back passed.</summary>
    public static IReadOnlySet<Guid> CheckedSpools(IReadOnlyList<EvidenceEvent> events)
    {
        var withdrawn = events.Where(e => e.Kind == EvidenceKind.Withdrawn).Select(e => e.CauseId).ToHashSet();
        return events.Where(e => e.SpoolId is not null && e.Area == "quick-check" && !withdrawn.Contains(e.CauseId)).GroupBy(e => e.SpoolId!.Value)
            .Where(g => g.MaxBy(e => e.At)!.Kind == EvidenceKind.Passed).Select(g => g.Key).ToHashSet();
    }
}
