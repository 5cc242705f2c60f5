using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Writes profile revisions. Every change is a new revision; nothing is overwritten.</summary>
public sealed class Profiles(Bench bench)
{
    /// <summary>The newest revision of a pairing with its settings.</summary>
    public Task<ProfileRevision?> LatestAsync(Guid pairingId) => bench.Db.Revisions.AsNoTracking().Include(r => r.Settings)
        .Where(r => r.PairingId == pairingId).OrderByDescending(r => r.Number).FirstOrDefaultAsync();

    /// <summary>The first settings of a new pairing.</summary>
    public static IReadOnlyList<ProfileSetting> Starting(Pairing p, IReadOnlyCollection<SpoolDiameter> measured)
    {
        var (span, fromLabel) = Facts.NozzleRange(p.Filament!);
        var diameter = DiameterSummary.Of([.. measured.Where(d => d.RemovedAt is null).Select(d => new DiameterReading(d.Place, d.Direction, d.Mm))]);
        return StartingProfile.Of(new(
            Family.Find(p.Filament!.Family), fromLabel ? span : null, Facts.BedRange(p.Filament), diameter?.MeanMm ?? p.Filament.DiameterMm, diameter is not null,
            Facts.LimitsOf(p.Toolhead!), p.Toolhead!.Printer!.BedMaxC, p.NozzleDiameterMm, p.Toolhead.Drive == "long-tube"));
    }

    /// <summary>Adds a revision to the context; the caller saves. Must run alone, so that numbers are not given twice.</summary>
    public async Task<ProfileRevision> AddRevisionAsync(Guid pairingId, IEnumerable<ProfileSetting> settings, string why, Guid? runId = null, Guid? causeId = null, Guid? undoesId = null)
    {
        var last = await bench.Db.Revisions.Where(r => r.PairingId == pairingId).MaxAsync(r => (int?)r.Number) ?? 0;
        var revision = new ProfileRevision
        {
            PairingId = pairingId,
            Number = last + 1,
            At = bench.Now,
            PersonId = (await bench.PersonAsync()).Id,
            Why = why,
            RunId = runId,
            CauseId = causeId,
            UndoesId = undoesId,
            Settings = [.. settings.Select(SettingRow.From)],
        };
        bench.Db.Revisions.Add(revision);
        return revision;
    }

    /// <summary>What a change would make doubtful, by pairing, so that it can be said before.</summary>
    public Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys)>> FittingTouchesAsync(Guid printerId, Guid? toolheadId, string slot) => ChangeTouchesAsync(new Part { PrinterId = printerId, ToolheadId = toolheadId, Slot = slot, Description = "" });

    /// <summary>The same for a change with its reach: a printer, a toolhead, a pairing, or a filament on it.</summary>
    public async Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys)>> ChangeTouchesAsync(Part change)
    {
        var keys = AgeingRules.AfterFitting(change.Slot);
        var (printer, head, pairing, filament) = (change.PrinterId, change.ToolheadId, change.PairingId, change.FilamentId);
        var pairings = await bench.Db.Pairings.AsNoTracking().Full()
            .Where(p => p.RemovedAt == null && p.Toolhead!.PrinterId == printer && (head == null || p.ToolheadId == head) && (pairing == null || p.Id == pairing) && (filament == null || p.FilamentId == filament)).ToListAsync();
        var latest = await bench.Db.LatestRevisionsAsync([.. pairings.Select(p => p.Id)]);
        return [.. pairings.Select(p => (p, (IReadOnlyList<string>)(latest.GetValueOrDefault(p.Id)?.Settings
            .Where(s => keys.Contains(s.Key) && s.State is (SettingState.Provisional or SettingState.Confirmed))
            .Select(s => s.Key).ToList() ?? []))).Where(x => x.Item2.Count > 0)];
    }

    /// <summary>Records a change, a fitted part or another one: history, and a revision for each profile that leans on it.</summary>
    public async Task<int> FitAsync(Part part, string name)
    {
        var touched = await ChangeTouchesAsync(part);
        await bench.PersonAsync();
        var label = PartSlot.Find(part.Slot)?.Label ?? AgeingRules.Find(part.Slot)!.Label;
        var why = $"{Words.Lower(label)}{(PartSlot.Find(part.Slot) is null ? "," : " changed")} {Words.ShortDay(part.FittedAt)}";
        return await bench.AloneAsync(async () =>
        {
            bench.Db.Parts.Add(part);
            foreach (var (pairing, keys) in touched)
            {
                var latest = await LatestAsync(pairing.Id);
                await AddRevisionAsync(pairing.Id, ProfileRules.MarkDoubtful(latest!.Settings.Select(s => s.ToCore()), [.. keys], why), $"Doubtful: {why}", causeId: part.Id);
            }

            await bench.LogAsync("printer", $"{label}{(PartSlot.Find(part.Slot) is null ? "" : " fitted")} on {name}: {part.Description}{(touched.Count > 0 ? $"; {Words.Plural(touched.Count, "profile")} doubtful" : "")}", $"/printers/{part.PrinterId}", $"part:{part.Id}");
            await bench.Db.SaveChangesAsync();
            return touched.Count;
        });
    }

    /// <summary>
    /// Takes back what a cause (a decision, a part) did to profiles: where nothing came after, the revision before it stands again;
    /// otherwise only the settings that it changed are put back.
    /// </summary>
    public async Task UndoCauseAsync(Guid causeId, string why)
    {
        var caused = await bench.Db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.CauseId == causeId && r.UndoesId == null).ToListAsync();
        foreach (var revision in caused)
        {
            var before = await bench.Db.Revisions.AsNoTracking().Include(r => r.Settings)
                .FirstOrDefaultAsync(r => r.PairingId == revision.PairingId && r.Number == revision.Number - 1);
            var latest = await LatestAsync(revision.PairingId);
            if (latest is null)
                continue;
            var was = before?.Settings.ToDictionary(s => s.Key, s => s.ToCore()) ?? [];
            var did = revision.Settings.ToDictionary(s => s.Key, s => s.ToCore());
            var now = latest.Settings.Select(s => s.ToCore())
                .Where(s => s != did.GetValueOrDefault(s.Key) || was.ContainsKey(s.Key))
                .Select(s => s == did.GetValueOrDefault(s.Key) && was.TryGetValue(s.Key, out var old) ? old : s);
            await AddRevisionAsync(revision.PairingId, now, why, causeId: causeId, undoesId: revision.Id);
        }
    }
}
