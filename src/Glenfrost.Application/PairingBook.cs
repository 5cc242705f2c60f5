using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A pairing with what its page shows: records as they stand, not yet judged.</summary>
/// <param name="Pairing">With filament, spools, toolhead, printer, parts, checks and the outlines of its runs.</param>
/// <param name="Revisions">Its newest profile revisions, newest first.</param>
/// <param name="Known">States of its evidence.</param>
/// <param name="Findings">Findings of it and of its runs, newest first.</param>
/// <param name="Doubts">Events that made settings doubtful or took that back, newest first.</param>
public sealed record PairingRecord(
    Pairing Pairing, IReadOnlyList<ProfileRevision> Revisions, IReadOnlyList<EvidenceStanding> Known, IReadOnlyList<Finding> Findings,
    IReadOnlyList<EvidenceEntry> Doubts);

/// <summary>Pairings: a filament on a toolhead, with its profile.</summary>
public sealed class PairingBook(WorkContext work, Profiles profiles, Findings findings)
{
    /// <summary>A pairing with filament, toolhead and printer; null where there is none.</summary>
    public Task<Pairing?> FindAsync(Guid id) => work.Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null);

    /// <summary>Real pairings by id with their names, in the order of those.</summary>
    public async Task<IReadOnlyList<KeyValuePair<string, string>>> NamesAsync() =>
        [
            .. (await work.Db.Pairings.AsNoTracking().Where(p => p.RemovedAt == null && p.World == Worlds.Real).Full().ToListAsync())
                .Select(p => new KeyValuePair<string, string>(p.Id.ToString(), Facts.NameOf(p))).OrderBy(p => p.Value, StringComparer.Ordinal),
        ];

    /// <summary>True for a real pairing that stands.</summary>
    public Task<bool> IsRealAsync(Guid id) => work.Db.Pairings.AnyAsync(p => p.Id == id && p.RemovedAt == null && p.World == Worlds.Real);

    /// <summary>Some pairings side by side with their newest profiles, in the order asked for; worlds never mix, the first one's counts.</summary>
    public async Task<IReadOnlyList<(Pairing Pairing, IReadOnlyDictionary<string, ProfileSetting> Settings)>> SideBySideAsync(IReadOnlyList<Guid> wanted)
    {
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && wanted.Contains(p.Id)).ToListAsync();
        var ordered = pairings.OrderBy(p => wanted.ToList().IndexOf(p.Id)).ToList();
        var latest = await work.Db.ProfilesAsync([.. wanted]);
        return
        [
            .. ordered.Where(p => p.World == ordered[0].World)
                .Select(p => (p, (IReadOnlyDictionary<string, ProfileSetting>)(latest.GetValueOrDefault(p.Id)?.Settings.ToDictionary(s => s.Key) ?? []))),
        ];
    }

    /// <summary>A pairing with those beside it: of its filament first, then of its toolhead, the newest first; at most <paramref name="most"/>.</summary>
    public async Task<IReadOnlyList<Guid>> BesideAsync(Guid id, int most)
    {
        var p = await work.Db.Pairings.AsNoTracking().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        return p is null ? [] :
        [
            id,
            .. await work.Db.Pairings.AsNoTracking()
                .Where(x => x.Id != id && x.RemovedAt == null && x.World == p.World
                    && (x.FilamentId == p.FilamentId || x.ToolheadId == p.ToolheadId))
                .OrderByDescending(x => x.FilamentId == p.FilamentId).ThenByDescending(x => x.CreatedAt).Take(most - 1).Select(x => x.Id).ToListAsync(),
        ];
    }

    /// <summary>What was recorded as changed on a pairing, newest first.</summary>
    public Task<List<Part>> ChangesAsync(Guid pairing) =>
        work.Db.Parts.AsNoTracking().Where(x => x.PairingId == pairing && x.RemovedAt == null).OrderByDescending(x => x.FittedAt).ToListAsync();

    /// <summary>What a new pairing may be made of: filaments with sources and colours, and real toolheads.</summary>
    public async Task<(List<Filament> Filaments, List<Toolhead> Heads)> ChoicesAsync() => (
        await work.Db.Filaments.AsNoTracking().Include(f => f.Sources).Include(f => f.Variants).AsSplitQuery().Where(f => f.RemovedAt == null)
            .OrderBy(f => f.Maker).ThenBy(f => f.Line).ToListAsync(),
        await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer)
            .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == Worlds.Real).OrderBy(t => t.Printer!.Name).ThenBy(t => t.Name)
            .ToListAsync());

    /// <summary>The pairing that is there already for the same filament, colour, toolhead and nozzle; null where there is none.</summary>
    public Task<Pairing?> SameAsync(Pairing p) =>
        work.Db.Pairings.AsNoTracking().FirstOrDefaultAsync(x =>
            x.RemovedAt == null
            && x.FilamentId == p.FilamentId
            && x.ToolheadId == p.ToolheadId
            && x.VariantId == p.VariantId
            && x.NozzleDiameterMm == p.NozzleDiameterMm
            && x.NozzleFlow == p.NozzleFlow);

    /// <summary>Real pairings of a family with their newest profiles: what a new one may start from.</summary>
    public async Task<(List<Pairing> Pairings, Dictionary<Guid, ProfileView> Latest)> OfFamilyAsync(string family)
    {
        var others = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.RemovedAt == null && p.Filament!.Family == family && p.World == Worlds.Real)
            .ToListAsync();
        return (others, await work.Db.ProfilesAsync([.. others.Select(o => o.Id)]));
    }

    /// <summary>What a pairing starts with from label and family.</summary>
    /// <param name="p">With filament and toolhead.</param>
    public async Task<IReadOnlyList<ProfileSetting>> FamilyStartAsync(Pairing p) =>
        Profiles.Starting(
            p,
            await work.Db.SpoolDiameters.AsNoTracking()
                .Where(d => work.Db.Spools.Any(s => s.Id == d.SpoolId && s.FilamentId == p.FilamentId && s.RemovedAt == null)).ToListAsync());

    /// <summary>Pairs a filament's whole line with a toolhead as it is fitted; the profile starts from label and family.</summary>
    /// <param name="f">With the sources that its label gave.</param>
    /// <param name="head">With its printer.</param>
    /// <param name="use">What it is for.</param>
    public async Task<Pairing> PairAsync(Filament f, Toolhead head, string use)
    {
        var p = new Pairing
        {
            FilamentId = f.Id, Filament = f, ToolheadId = head.Id, Toolhead = head, NozzleDiameterMm = head.NozzleDiameterMm, NozzleFlow = head.NozzleFlow,
            Use = use,
        };
        await AddAsync(p, await FamilyStartAsync(p), "Started from label and family");
        return p;
    }

    /// <summary>Pairs.</summary>
    /// <param name="p">With filament and toolhead; they are let go of.</param>
    /// <param name="settings">What its profile starts with.</param>
    /// <param name="why">Where that is from.</param>
    public async Task AddAsync(Pairing p, IReadOnlyList<ProfileSetting> settings, string why)
    {
        var name = Facts.NameOf(p);
        (p.Filament, p.Toolhead, p.Variant) = (null, null, null);
        p.CreatedAt = p.ChangedAt = work.Now;
        await work.PersonAsync();
        await work.AloneAsync(async () =>
        {
            work.Db.Pairings.Add(p);
            await profiles.BeginAsync(p, settings, why);
            await work.LogAsync("pairing", $"{name} paired: {char.ToLowerInvariant(why[0])}{why[1..]}", $"/pairings/{p.Id}");
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>Removes a pairing with its profile; its runs are kept. False where there is none.</summary>
    public async Task<bool> RemoveAsync(Guid id)
    {
        var p = await work.Db.Pairings.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (p is null)
            return false;
        p.RemovedAt = work.Now;
        work.Touch(p);
        await work.LogAsync("pairing", "A pairing was removed", null, $"pairing:{id}");
        await work.SaveAsync();
        return true;
    }

    /// <summary>Puts values that somebody typed into the profile, as own choice.</summary>
    /// <param name="p">The pairing, with filament and toolhead.</param>
    /// <param name="typed">The values, at most one of each setting.</param>
    /// <param name="reason">Why; stands for all of them.</param>
    /// <param name="passed">The part that passed with them and confirms them; null for an own choice.</param>
    public async Task TypeAsync(Pairing p, IReadOnlyList<ProfileSetting> typed, string reason, string? passed = null)
    {
        await work.PersonAsync();
        await work.AloneAsync(async () =>
        {
            var defined = typed.Select(t => (Value: t, Is: Core.Settings.SettingRegistry.Get(t.Key))).ToList();
            await profiles.TypeAsync(p.Id, typed, $"{string.Join(", ", defined.Select(d => d.Is.Label))} typed: {reason}", passed);
            await work.LogAsync(
                "profile", $"{string.Join(", ", defined.Select(d => $"{d.Is.Label} {d.Value.ValueText} {d.Is.Quantity.Unit}".TrimEnd()))} typed for " +
                    $"{Facts.NameOf(p)}: {reason}", $"/pairings/{p.Id}");
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>What the hottest dryer reaches, °C; null where there is none.</summary>
    public async Task<double?> DryerMaxAsync() =>
        (await work.Db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync()) is { Count: > 0 } dryers
            ? dryers.Max()
            : null;

    /// <summary>Removes a finding of a pairing or of one of its runs; null where there is none.</summary>
    public async Task<Finding?> RemoveFindingAsync(Guid id, Guid finding)
    {
        var runs = await work.Db.Runs.Where(r => r.PairingId == id).Select(r => r.Id).ToListAsync();
        return await findings.RemoveAsync(finding, f => f.PairingId == id || (f.RunId != null && runs.Contains(f.RunId.Value)));
    }

    /// <summary>Revisions that a page shows, and one more to tell what the last of them changed.</summary>
    private const int MostRevisions = 21;

    /// <summary>A pairing with what its page shows; null where there is none.</summary>
    public async Task<PairingRecord?> ViewAsync(Guid id)
    {
        var db = work.Db;
        var p = await db.Pairings.AsNoTracking().Full().Include(x => x.Filament!.Spools).Include(x => x.Toolhead!.Printer!.Parts)
            .AsSplitQuery().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (p is null)
            return null;
        p.Toolhead!.Printer!.Checks = await db.LastChecksAsync([p.Toolhead.PrinterId]);
        // What the list of runs shows; plans and factors stay where they are.
        p.Runs = await db.Runs.AsNoTracking().Where(r => r.PairingId == id)
            .Select(r => new Run
            {
                Id = r.Id, Kind = r.Kind, PlanJson = "", Number = r.Number, Stage = r.Stage, CreatedAt = r.CreatedAt, PrintedAt = r.PrintedAt,
                RemovedAt = r.RemovedAt, DecidedAt = r.DecidedAt,
            }).ToListAsync();
        var runs = p.Runs.Select(r => r.Id).ToList();
        return new(
            p,
            await db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.PairingId == id).OrderByDescending(r => r.Number).Take(MostRevisions)
                .ToListAsync(),
            await db.Standings.AsNoTracking().Where(s => s.PairingId == id).ToListAsync(),
            await db.Findings.AsNoTracking().Where(f => f.RemovedAt == null && (f.PairingId == id || (f.RunId != null && runs.Contains(f.RunId.Value))))
                .OrderByDescending(f => f.At).Take(200).ToListAsync(),
            await db.Evidence.AsNoTracking().Where(e => e.PairingId == id && (e.Kind == EvidenceKind.Doubted || e.Kind == EvidenceKind.Withdrawn))
                .OrderByDescending(e => e.At).Take(40).ToListAsync());
    }
}
