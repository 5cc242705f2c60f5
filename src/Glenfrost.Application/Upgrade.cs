using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>
/// Brings what earlier versions and their archives kept into the form of today: events of evidence from the states that stood in revisions, the history of
/// machine values from checks, factors
/// of runs from plan, file and conditions. It makes nothing doubtful, unconfirmed or differently judged. Each step is done pairing by pairing, toolhead by
/// toolhead, run by run, so that a killed
/// one is taken up where it stood.
/// </summary>
public sealed class Upgrade(GlenfrostDb db, WriteGate gate, TimeProvider clock, DataPlace place)
{
    private readonly WorkContext work = new(db, gate, clock);

    /// <summary>What pages need at once: evidence and machine values. Quick; done before the first page is served, and after each import.</summary>
    public async Task RecordsAsync()
    {
        // An earlier version refused a photo of section -1 and stored it all the same: it shows the whole piece.
        if (await db.Photos.AnyAsync(p => p.Section < 0))
            await work.AloneAsync(() => db.Photos.Where(p => p.Section < 0).ExecuteUpdateAsync(s => s.SetProperty(p => p.Section, (int?)null)));
        var newest = await db.Revisions.GroupBy(r => r.PairingId).Select(g => new { g.Key, Number = g.Max(r => r.Number) })
            .Join(db.Revisions, g => new { PairingId = g.Key, g.Number }, r => new { r.PairingId, r.Number }, (g, r) => new { g.Key, r.Id })
            .Join(db.Pairings, x => x.Key, p => p.Id, (x, p) => new { x.Key, x.Id, p.NewestRevisionId })
            .Where(x => x.NewestRevisionId == null || x.NewestRevisionId != x.Id).ToListAsync();
        if (newest.Count > 0)
        {
            await work.AloneAsync(async () =>
            {
                await using var transaction = await db.Database.BeginTransactionAsync();
                foreach (var x in newest)
                    await db.Pairings.Where(p => p.Id == x.Key).ExecuteUpdateAsync(s => s.SetProperty(p => p.NewestRevisionId, x.Id));
                await transaction.CommitAsync();
                return 0;
            });
        }

        var bare = await db.Pairings.AsNoTracking()
            .Where(p =>
                p.NewestRevisionId != null
                && !db.Evidence.Any(e => e.PairingId == p.Id)
                && db.Settings.Any(s => s.State != null && db.Revisions.Any(r => r.Id == s.RevisionId && r.PairingId == p.Id)))
            .Select(p => p.Id).ToListAsync();
        foreach (var pairing in bare)
            await work.AloneAsync(() => EvidenceAsync(pairing));
        // An archive brings events without their projection.
        var unprojected = await db.Pairings.AsNoTracking().Where(p => db.Evidence.Any(e => e.PairingId == p.Id) && !db.Standings.Any(s => s.PairingId == p.Id))
            .Select(p => p.Id).ToListAsync();
        foreach (var pairing in unprojected)
        {
            await work.AloneAsync(async () =>
            {
                db.ChangeTracker.Clear();
                await new EvidenceBook(work).ProjectAsync(pairing);
                return await db.SaveChangesAsync();
            });
        }

        foreach (var head in await db.Toolheads.AsNoTracking()
                .Where(t => (t.StepsPerMm != null || t.RotationDistanceMm != null) && !db.MachineValues.Any(v => v.ToolheadId == t.Id))
                .ToListAsync())
            await work.AloneAsync(() => MachineValuesAsync(head));
        db.ChangeTracker.Clear();
    }

    /// <summary>Fills the factors of some runs that have none, oldest first.</summary>
    /// <returns>How many were filled; 0 when nothing is left.</returns>
    public async Task<int> FactorsAsync(int most, CancellationToken stop = default)
    {
        var factors = new FactorBook(work, place);
        var runs = await db.Runs.AsNoTracking().Include(r => r.Files).Where(r => r.FactorsJson == null).OrderBy(r => r.Id).Take(most).ToListAsync(stop);
        foreach (var run in runs)
        {
            stop.ThrowIfCancellationRequested();
            var json = await FilledAsync(factors, run);
            await work.AloneAsync(() =>
                db.Runs.Where(r => r.Id == run.Id && r.FactorsJson == null)
                    .ExecuteUpdateAsync(s => s.SetProperty(r => r.FactorsJson, json), CancellationToken.None));
        }

        return runs.Count;
    }

    private async Task<string> FilledAsync(FactorBook factors, Run run)
    {
        var pairing = run.PairingId is { } p ? await db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(x => x.Id == p) : null;
        var head = pairing?.Toolhead ?? await db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == run.ToolheadId);
        // A run that no page can show is not asked again and again.
        if (head is null || TrialCatalogue.Find(run.Kind) is not { } trial)
            return new FactorSet { Filled = true }.ToJson();
        return (await factors.FillAsync(run, trial, trial.ReadPlan(run.PlanJson), pairing, head)).ToJson();
    }

    /// <summary>Events of a pairing from the states in its revisions; the fold of them gives the states that stood, by construction.</summary>
    private async Task<int> EvidenceAsync(Guid pairing)
    {
        var revisions = await db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.PairingId == pairing).OrderBy(r => r.Number).ToListAsync();
        var events = new List<EvidenceEntry>();
        var before = new Dictionary<string, SettingRow>();
        var withdrawn = new HashSet<Guid>();
        foreach (var r in revisions)
        {
            if (r.UndoesId is { } undone)
            {
                var cause = revisions.FirstOrDefault(x => x.Id == undone) is { } taken ? taken.CauseId ?? taken.Id : r.CauseId ?? undone;
                if (withdrawn.Add(cause))
                    events.Add(Of(r, EvidenceAreas.Other, null, EvidenceKind.Withdrawn, cause));
            }
            else
            {
                foreach (var s in r.Settings.Where(s => s.State is not null && Changed(before.GetValueOrDefault(s.Key), s)))
                    events.Add(FromRow(r, before.GetValueOrDefault(s.Key), s));
            }

            before = r.Settings.GroupBy(s => s.Key).ToDictionary(g => g.Key, g => g.Last());
        }

        // Whatever an odd history folds to, what stood stands.
        var last = revisions[^1];
        var folded = EvidenceFold.States(events.Select(e => e.ToCore())).ToDictionary(i => (i.Key, i.AtC));
        foreach (var s in last.Settings.Where(s => s.State is not null))
        {
            var item = folded.GetValueOrDefault((s.Key, (double?)null));
            var stood = StateOf(s);
            if ((item?.State ?? EvidenceState.Open) == stood && (stood is EvidenceState.Open || item?.Why == s.StateWhy))
                continue;
            var e = Of(last, EvidenceAreas.Of(s.Key), s, EvidenceKind.Stood, Guid.CreateVersion7());
            (e.State, e.Text, e.At) = (stood, s.StateWhy, last.At.AddMilliseconds(1));
            events.Add(e);
        }

        db.ChangeTracker.Clear();
        db.Evidence.AddRange(events);
        await new EvidenceBook(work).ProjectAsync(pairing);
        return await db.SaveChangesAsync();
    }

    private static bool Changed(SettingRow? was, SettingRow now) => was is null ? now.State != SettingState.Start
        : was.State != now.State || was.Value != now.Value || was.RunId != now.RunId || was.StateWhy != now.StateWhy;

    /// <summary>The state of a stored row: a copy that nobody tried was called provisional and is inherited.</summary>
    private static EvidenceState StateOf(SettingRow s) => s.State switch
    {
        SettingState.Provisional when s.Origin == SettingOrigin.Inherited => EvidenceState.Inherited,
        SettingState.Inherited => EvidenceState.Inherited,
        SettingState.Provisional => EvidenceState.Provisional,
        SettingState.Confirmed => EvidenceState.Confirmed,
        SettingState.Doubtful => EvidenceState.Doubtful,
        _ => EvidenceState.Open,
    };

    private static EvidenceEntry FromRow(ProfileRevision r, SettingRow? was, SettingRow s)
    {
        var cause = r.CauseId ?? r.Id;
        var state = StateOf(s);
        if (state == EvidenceState.Doubtful && was is not null && (StateOf(was) is EvidenceState.Provisional or EvidenceState.Confirmed))
            return Of(r, EvidenceAreas.Of(s.Key), s, EvidenceKind.Doubted, cause);
        if (state == EvidenceState.Inherited)
            return Of(r, EvidenceAreas.Of(s.Key), s, EvidenceKind.Inherited, cause);
        var e = Of(r, EvidenceAreas.Of(s.Key), s, EvidenceKind.Stood, cause);
        e.State = state;
        return e;
    }

    private static EvidenceEntry Of(ProfileRevision r, string area, SettingRow? s, EvidenceKind kind, Guid cause) => new()
    {
        Id = EventIds.Next(r.At),
        PairingId = r.PairingId,
        Area = area,
        Key = s?.Key,
        Kind = kind,
        RevisionId = r.Id,
        CauseId = cause,
        At = r.At,
        PersonId = r.PersonId,
        RunId = kind == EvidenceKind.Withdrawn ? null : s?.RunId,
        Number = kind == EvidenceKind.Stood ? s?.Value : null,
        Uncertainty = kind == EvidenceKind.Stood ? s?.Uncertainty : null,
        Text = s?.StateWhy,
    };

    /// <summary>The history of a toolhead's feed from the checks that kept it; what the toolhead says today stands, by construction.</summary>
    private async Task<int> MachineValuesAsync(Toolhead head)
    {
        var key = head.RotationDistanceMm is null ? "stepsPerMm" : "rotationDistanceMm";
        var checks = await db.Checks.AsNoTracking().Where(c => c.ToolheadId == head.Id && c.Kind == "feed" && c.DecisionId != null && c.RemovedAt == null)
            .OrderBy(c => c.At).ToListAsync();
        var decisions = checks.Select(c => c.DecisionId!.Value).ToList();
        var keys = await db.Decisions.AsNoTracking().Where(d => decisions.Contains(d.Id)).ToDictionaryAsync(d => d.Id, d => d.SettingKey);
        var rows = new List<MachineValue>();
        void Add(DateTime at, string of, double? number, DateTime? provenAt, Guid cause, Guid? run, Guid? person) =>
            rows.Add(
                new MachineValue
                {
                    Id = EventIds.Next(at), ToolheadId = head.Id, Key = of, Number = number, ProvenAt = provenAt, CauseId = cause, RunId = run, At = at,
                    PersonId = person,
                });
        foreach (var c in checks)
        {
            var values = Json.Read<Dictionary<string, double>>(c.ValuesJson);
            var of = keys.GetValueOrDefault(c.DecisionId!.Value) ?? key;
            if (rows.Count == 0)
                Add(
                    c.At.AddMilliseconds(-1), of, values.TryGetValue("before", out var b) ? b : null,
                    values.TryGetValue("checkedBefore", out var ms) ? DateTimeOffset.FromUnixTimeMilliseconds((long)ms).UtcDateTime : null,
                    Guid.CreateVersion7(), null, null);
            Add(c.At, of, values.GetValueOrDefault("value"), c.At, c.DecisionId.Value, c.RunId, c.PersonId);
        }

        var number = head.StepsPerMm ?? head.RotationDistanceMm;
        var standing = MachineValueFold.Standing(rows.Select(v => new MachineValueEvent(v.Id, v.At, v.CauseId, v.Key, v.Number, v.ProvenAt)));
        if (standing is null || standing.Key != key || standing.Number != number || standing.ProvenAt != head.FeedCheckedAt)
            Add(
                rows.Count == 0 ? head.FeedCheckedAt ?? head.ChangedAt : rows[^1].At.AddMilliseconds(1), key, number, head.FeedCheckedAt, Guid.CreateVersion7(),
                null, null);
        db.MachineValues.AddRange(rows);
        return await db.SaveChangesAsync();
    }
}
