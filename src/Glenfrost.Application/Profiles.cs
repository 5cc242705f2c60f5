using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Writes profile revisions. Every change of a value is a new revision; nothing is overwritten. States are the evidence's.</summary>
public sealed class Profiles(WorkContext work)
{
    private readonly EvidenceBook evidence = new(work);

    /// <summary>The profile of a pairing as it stands; null before its first revision.</summary>
    public Task<ProfileView?> LatestAsync(Guid pairingId) => work.Db.ProfileAsync(pairingId);

    /// <summary>The first settings of a new pairing.</summary>
    public static IReadOnlyList<ProfileSetting> Starting(Pairing p, IReadOnlyCollection<SpoolDiameter> measured)
    {
        var (span, fromLabel) = Facts.NozzleRange(p.Filament!);
        var diameter = DiameterSummary.Of([.. measured.Where(d => d.RemovedAt is null).Select(d => new DiameterReading(d.Place, d.Direction, d.Mm))]);
        return StartingProfile.Of(
            new(
                Family.Find(p.Filament!.Family), fromLabel ? span : null, Facts.BedRange(p.Filament), diameter?.MeanMm ?? p.Filament.DiameterMm,
                diameter is not null, Facts.LimitsOf(p.Toolhead!), p.Toolhead!.Printer!.BedMaxC, p.NozzleDiameterMm, p.Toolhead.Drive == "long-tube")
            {
                LabelDryingC = p.Filament.DryingC, LabelDryingHours = p.Filament.DryingHours,
            });
    }

    /// <summary>
    /// The first settings of a pairing that starts from another one's profile: what travels is inherited, what belongs to the machine itself (widths, layer
    /// height) or cannot travel is
    /// the label's and family's.
    /// </summary>
    /// <param name="own">What label, family and machine say.</param>
    /// <param name="from">The other profile.</param>
    /// <param name="to">The new pairing, with toolhead and printer.</param>
    /// <param name="source">The other pairing, with toolhead and printer.</param>
    public static IReadOnlyList<ProfileSetting> Copied(IReadOnlyList<ProfileSetting> own, ProfileView from, Pairing to, Pairing source)
    {
        var (a, b) = (to.Toolhead!, source.Toolhead!);
        var reach = new CopyReach(
            a.PrinterId == b.PrinterId,
            a.Drive == b.Drive && a.Liner == b.Liner && to.NozzleDiameterMm == source.NozzleDiameterMm && to.NozzleFlow == source.NozzleFlow);
        var inherited = ProfileRules.Inherit(from.Settings, Facts.NameOf(source), Facts.LimitsOf(a).MaxC, reach)
            .Where(i => own.FirstOrDefault(o => o.Key == i.Key) is not { Origin: SettingOrigin.Machine } || (reach.SamePath && i.Key == "retractionLengthMm"))
            .ToList();
        return [.. inherited, .. own.Where(o => inherited.All(i => i.Key != o.Key))];
    }

    /// <summary>Adds a pairing's first revision, with the evidence that a copy is: inherited, nothing more.</summary>
    public async Task<ProfileRevision> BeginAsync(Pairing pairing, IReadOnlyList<ProfileSetting> settings, string why)
    {
        var revision = await AddRevisionAsync(pairing, settings, why);
        await evidence.RecordAsync(
            pairing.Id,
            [
                .. settings.Where(s => s.State == SettingState.Inherited)
                    .Select(s => evidence.Of(pairing.Id, s.Key, EvidenceKind.Inherited, revision.Id, s.StateWhy)),
            ]);
        return revision;
    }

    /// <summary>Adds a revision to the context; the caller saves. Must run alone, so that numbers are not given twice.</summary>
    public async Task<ProfileRevision> AddRevisionAsync(
        Guid pairingId, IEnumerable<ProfileSetting> settings, string why, Guid? runId = null, Guid? causeId = null, Guid? undoesId = null) =>
        await AddRevisionAsync(
            work.Db.Pairings.Local.FirstOrDefault(p => p.Id == pairingId) ?? await work.Db.Pairings.FirstAsync(p => p.Id == pairingId), settings, why, runId,
            causeId, undoesId);

    private async Task<ProfileRevision> AddRevisionAsync(
        Pairing pairing, IEnumerable<ProfileSetting> settings, string why, Guid? runId = null, Guid? causeId = null, Guid? undoesId = null)
    {
        var last = await work.Db.Revisions.Where(r => r.PairingId == pairing.Id).MaxAsync(r => (int?)r.Number) ?? 0;
        var revision = new ProfileRevision
        {
            PairingId = pairing.Id,
            Number = last + 1,
            At = work.Now,
            PersonId = (await work.PersonAsync()).Id,
            Why = why,
            RunId = runId,
            CauseId = causeId,
            UndoesId = undoesId,
            Settings = [.. settings.Select(SettingRow.From)],
        };
        work.Db.Revisions.Add(revision);
        pairing.NewestRevisionId = revision.Id;
        return revision;
    }

    /// <summary>Puts typed values in a profile, as own choice, with what their moves make doubtful.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="typed">Values, the state left to the evidence.</param>
    /// <param name="why">The reason that stands with the revision.</param>
    /// <param name="passed">The part that passed with them and confirms them; null for an own choice.</param>
    public async Task<ProfileRevision> TypeAsync(Guid pairing, IReadOnlyList<ProfileSetting> typed, string why, string? passed = null)
    {
        var now = await LatestAsync(pairing);
        IReadOnlyList<ProfileSetting> rows = now?.Rows ?? [];
        var moved = typed
            .SelectMany(x =>
                now?[x.Key] is { State: not SettingState.Start } before && x.Word is null
                    ? AgeingRules.AfterKept(x.Key, before.Value, x.Value).Where(t => !t.OnOthers)
                    : [])
            .ToList();
        foreach (var x in typed)
            rows = [.. rows.Where(r => r.Key != x.Key), x];
        var revision = await AddRevisionAsync(pairing, rows, why);
        await evidence.RecordAsync(
            pairing,
            [
                .. typed.Select(x => Valued(evidence.Of(pairing, x.Key, EvidenceKind.OwnChoice, revision.Id, x.StateWhy ?? "own choice"), x)),
                .. passed is null ? [] : typed.Select(x => evidence.Of(pairing, x.Key, EvidenceKind.Confirmed, revision.Id, passed)),
                .. moved.SelectMany(t =>
                    t.Keys.Where(k => typed.All(x => x.Key != k)).Select(k => evidence.Of(pairing, k, EvidenceKind.Doubted, revision.Id, t.Why))),
            ]);
        return revision;
    }

    /// <summary>Puts values from old notes in a profile; those that changed are provisional, as somebody else's word.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="settings">The whole profile with the notes' values, their reasons as state.</param>
    /// <param name="why">The reason that stands with the revision.</param>
    /// <param name="cause">What takes it back.</param>
    public async Task NotesAsync(Guid pairing, IReadOnlyList<ProfileSetting> settings, string why, Guid cause)
    {
        var before = (await LatestAsync(pairing))?.Rows ?? [];
        await AddRevisionAsync(pairing, settings, why, causeId: cause);
        await evidence.RecordAsync(
            pairing,
            [
                .. settings.Where(s => !before.Any(b => ProfileHistory.SameValue(b, s)))
                    .Select(s => Valued(evidence.Of(pairing, s.Key, EvidenceKind.OwnChoice, cause, s.StateWhy), s)),
            ]);
    }

    /// <summary>An event with the value that it is of.</summary>
    public static EvidenceEntry Valued(EvidenceEntry e, ProfileSetting s)
    {
        (e.Number, e.Uncertainty, e.AtC, e.RunId) = (s.Word is null ? s.Value : null, s.Uncertainty, s.AtC, s.RunId);
        return e;
    }

    /// <summary>What a change would make doubtful, by pairing, so that it can be said before.</summary>
    public Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys)>> FittingTouchesAsync(Guid printerId, Guid? toolheadId, string slot) =>
        ChangeTouchesAsync(new Part { PrinterId = printerId, ToolheadId = toolheadId, Slot = slot, Description = "" });

    /// <summary>The same for a change with its reach: a printer, a toolhead, a pairing, or a filament on it.</summary>
    /// <param name="change">The change.</param>
    /// <param name="doubtfulToo">True where what is doubtful already is named too.</param>
    public async Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys)>> ChangeTouchesAsync(Part change, bool doubtfulToo = false)
    {
        var keys = AgeingRules.AfterFitting(change.Slot);
        var (printer, head, pairing, filament) = (change.PrinterId, change.ToolheadId, change.PairingId, change.FilamentId);
        var pairings = await work.Db.Pairings.AsNoTracking().Full()
            .Where(p =>
                p.RemovedAt == null
                && p.Toolhead!.PrinterId == printer
                && (head == null || p.ToolheadId == head)
                && (pairing == null || p.Id == pairing)
                && (filament == null || p.FilamentId == filament))
            .ToListAsync();
        var latest = await work.Db.ProfilesAsync([.. pairings.Select(p => p.Id)], keys);
        return [.. pairings.Select(p => (p, (IReadOnlyList<string>)(latest.GetValueOrDefault(p.Id)?.Rows
            .Where(s => s.State is SettingState.Provisional or SettingState.Confirmed || (doubtfulToo && s.State == SettingState.Doubtful))
            .Select(s => s.Key).Distinct().ToList() ?? []))).Where(x => x.Item2.Count > 0)];
    }

    /// <summary>
    /// Records a change, a fitted part or another one: history, what the machine says of itself since, and a doubt on each profile that leans on it.
    /// </summary>
    /// <param name="part">The part or change.</param>
    /// <param name="name">What it is of, in words.</param>
    /// <param name="says">What the machine says since; null where the part changes nothing of it.</param>
    /// <returns>How many profiles it makes doubtful.</returns>
    public async Task<int> FitAsync(Part part, string name, MachineFacts? says = null)
    {
        await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var touched = await FitWithinAsync(part, name, says);
            await work.Db.SaveChangesAsync();
            return touched;
        });
    }

    /// <summary>The same inside a write that is under way; the caller saves.</summary>
    internal async Task<int> FitWithinAsync(Part part, string name, MachineFacts? says = null)
    {
        var label = PartSlot.Find(part.Slot)?.Label ?? AgeingRules.Find(part.Slot)!.Label;
        var why = $"{Words.Lower(label)}{(PartSlot.Find(part.Slot) is null ? "," : " changed")} {Words.Day(part.FittedAt)}";
        var touched = (await ChangeTouchesAsync(part)).Count;
        await ChangeMachineAsync(part, says);
        work.Db.Parts.Add(part);
        foreach (var (pairing, keys) in await ChangeTouchesAsync(part, true))
            await evidence.DoubtAsync(pairing.Id, keys, part.Id, why);
        await work.LogAsync(
            "printer",
            $"{label}{(PartSlot.Find(part.Slot) is null ? "" : " fitted")} on {name}: " +
                $"{part.Description}{(touched > 0 ? $"; {Words.Plural(touched, "profile")} doubtful" : "")}",
            $"/printers/{part.PrinterId}", $"part:{part.Id}");
        return touched;
    }

    /// <summary>Lets the machine say what a part changed of it, unless a later one stands in that place already.</summary>
    private async Task ChangeMachineAsync(Part part, MachineFacts? says)
    {
        if (says is null || await work.Db.Parts.AnyAsync(x =>
            x.PrinterId == part.PrinterId && x.ToolheadId == part.ToolheadId && x.Slot == part.Slot && x.RemovedAt == null && x.FittedAt > part.FittedAt))
            return;
        var printer = await work.Db.Printers.FirstAsync(x => x.Id == part.PrinterId);
        var head = await work.Db.Toolheads.FirstOrDefaultAsync(x => x.Id == part.ToolheadId);
        if (FittedParts.Of(part.Slot, printer, head) is not { } before)
            return;
        FittedParts.Put(part.Slot, says, printer, head);
        var after = FittedParts.Of(part.Slot, printer, head)!;
        if (after == before)
            return;
        part.ChangedJson = Json.Write(new FittedChange(before, after));
        work.Touch(printer);
        if (head is not null)
            work.Touch(head);
    }

    /// <summary>Lets the machine say again what it said before a part was fitted, where nothing changed it since. False where it stays.</summary>
    public async Task<bool> UnchangeMachineAsync(Part part)
    {
        if (part.ChangedJson is null)
            return true;
        var printer = await work.Db.Printers.FirstAsync(x => x.Id == part.PrinterId);
        var head = await work.Db.Toolheads.FirstOrDefaultAsync(x => x.Id == part.ToolheadId);
        var change = Json.Read<FittedChange>(part.ChangedJson);
        if (FittedParts.Of(part.Slot, printer, head) != change.After)
            return false;
        FittedParts.Put(part.Slot, change.Before, printer, head);
        work.Touch(printer);
        if (head is not null)
            work.Touch(head);
        return true;
    }

    /// <summary>
    /// Takes back what a cause (a decision, a part, a table of notes) did to profiles. Values: every other change of the history is made again, so that undoing
    /// an older one keeps a newer
    /// one. States: its events count no more.
    /// </summary>
    public async Task UndoCauseAsync(Guid causeId, string why)
    {
        foreach (var revision in await work.Db.Revisions.AsNoTracking().Where(r => r.CauseId == causeId && r.UndoesId == null).ToListAsync())
        {
            var all = await work.Db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.PairingId == revision.PairingId).ToListAsync();
            var undone = all.Where(r => r.UndoesId is not null).Select(r => all.FirstOrDefault(x => x.Id == r.UndoesId)?.CauseId).OfType<Guid>().Append(causeId)
                .ToHashSet();
            var steps = all.Select(r => new RevisionStep(
                r.Number, r.CauseId, r.UndoesId is not null, [.. r.Settings.Select(s => s.ToCore(SettingState.Start, null))]));
            await AddRevisionAsync(revision.PairingId, ProfileHistory.Without(steps, undone), why, causeId: causeId, undoesId: revision.Id);
        }

        await evidence.WithdrawAsync(causeId);
    }

    /// <summary>A label of settings in a sentence.</summary>
    public static string Labels(IEnumerable<string> keys) => string.Join(", ", keys.Select(k => SettingRegistry.Find(k)?.Label.InSentence() ?? k));
}
