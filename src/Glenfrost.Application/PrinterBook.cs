using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Printers with their toolheads, parts and checks.</summary>
public sealed class PrinterBook(WorkContext work, MachineBook machines, Profiles profiles)
{
    /// <summary>All printers with their toolheads, practised ones last.</summary>
    public Task<List<Printer>> ListAsync() =>
        work.Db.Printers.AsNoTracking().Where(p => p.RemovedAt == null).Include(p => p.Toolheads).OrderBy(p => p.World == Worlds.Practice)
            .ThenBy(p => p.Name).ToListAsync();

    /// <summary>A printer with toolheads, parts and checks; null where there is none.</summary>
    public Task<Printer?> ViewAsync(Guid id) =>
        work.Db.Printers.AsNoTracking().Include(x => x.Toolheads).Include(x => x.Parts).Include(x => x.Checks).AsSplitQuery()
            .FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>A printer to be edited; null where there is none.</summary>
    public async Task<Printer?> ToEditAsync(Guid? id) =>
        id is null ? null : await work.Db.Printers.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>A toolhead to be edited; null where there is none.</summary>
    public async Task<Toolhead?> HeadToEditAsync(Guid? id) =>
        id is null ? null : await work.Db.Toolheads.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>A printer as it stands, not to be edited; null where there is none.</summary>
    public async Task<Printer?> FindAsync(Guid? id) =>
        id is null ? null : await work.Db.Printers.AsNoTracking().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>True where another printer has that name.</summary>
    public Task<bool> IsTakenAsync(string name, Guid? except) =>
        work.Db.Printers.AnyAsync(x => x.Name == name && x.RemovedAt == null && x.Id != except);

    /// <summary>True where another toolhead of the printer has that name.</summary>
    public Task<bool> IsHeadTakenAsync(Guid printer, string name, Guid? except) =>
        work.Db.Toolheads.AnyAsync(x => x.PrinterId == printer && x.RemovedAt == null && x.Id != except && x.Name == name);

    /// <summary>Adds a printer with its first toolhead.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task AddAsync(Printer p, Toolhead head)
    {
        p.ChangedAt = head.ChangedAt = work.Now;
        head.PrinterId = p.Id;
        work.Db.AddRange(p, head);
        await machines.TypedAsync(head, null);
        await work.LogAsync("printer", $"{p.Name} added", $"/printers/{p.Id}");
        await work.SaveAsync();
    }

    /// <summary>What an edit makes doubtful, in a sentence, so that it can be said before.</summary>
    public async Task<string> ToldAsync(Guid printer, AgeingEdit edit)
    {
        var touched = await profiles.FittingTouchesAsync(printer, null, edit.Slot);
        var keys = touched.Count == 0
            ? "no kept value leans on it"
            : string.Join(
                "; ",
                touched.Select(t => $"{Facts.NameOf(t.Pairing)}: {string.Join(", ", t.Keys.Select(k => SettingRegistry.Get(k).Label.InSentence()))}"));
        var rule = AgeingRules.Find(edit.Slot)!;
        return $"{rule.Reason} It makes doubtful: {rule.InWords} ({keys}).";
    }

    /// <summary>Saves an edited printer with the doubts that its edits bring, all or nothing.</summary>
    /// <param name="p">The printer; tracked.</param>
    /// <param name="typed">What it is to say of itself.</param>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task SaveAsync(Printer p, Printer typed)
    {
        var edits = AgeingEdit.Of(p, typed);
        var person = (await work.PersonAsync()).Id;
        await work.AloneAsync(async () =>
        {
            (p.Name, p.Maker, p.Enclosure, p.ChamberMaxC, p.Firmware, p.Dialect) = (
                typed.Name, typed.Maker, typed.Enclosure, typed.ChamberMaxC, typed.Firmware, typed.Dialect);
            (p.BedXMm, p.BedYMm, p.HeightMm, p.BedSurface, p.BedMaxC) = (typed.BedXMm, typed.BedYMm, typed.HeightMm, typed.BedSurface, typed.BedMaxC);
            (p.MaxSpeedMmPerS, p.MaxAccelerationMmPerS2, p.ColdExtrusionC, p.ScrewStepMm) = (
                typed.MaxSpeedMmPerS, typed.MaxAccelerationMmPerS2, typed.ColdExtrusionC, typed.ScrewStepMm);
            (p.OriginInMiddle, p.AbsoluteE, p.ClearanceMm, p.GantryHeightMm) = (typed.OriginInMiddle, typed.AbsoluteE, typed.ClearanceMm, typed.GantryHeightMm);
            (p.PowerW, p.MinorPerKwh) = (typed.PowerW, typed.MinorPerKwh);
            (p.StartCode, p.EndCode, p.Notes) = (typed.StartCode, typed.EndCode, typed.Notes);
            work.Touch(p);
            await work.LogAsync("printer", $"{p.Name} edited", $"/printers/{p.Id}");
            foreach (var e in edits)
                await profiles.FitWithinAsync(
                    new Part
                    {
                        PrinterId = p.Id, Slot = e.Slot, Description = e.Now, FittedAt = work.Now, Why = $"before: {e.Before}", PersonId = person,
                        ChangedJson = Json.Write(e.Facts),
                    },
                    p.Name);
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>Saves a toolhead; what was typed of its feed goes into the machine's history.</summary>
    /// <param name="t">The toolhead.</param>
    /// <param name="of">Its printer.</param>
    /// <param name="before">Its feed as it stood; null for a new toolhead.</param>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task SaveAsync(Toolhead t, Printer of, Toolhead? before)
    {
        if (before is null)
        {
            t.PrinterId = of.Id;
            t.ChangedAt = work.Now;
            work.Db.Add(t);
        }
        else
        {
            work.Touch(t);
        }

        await machines.TypedAsync(t, before);
        await work.LogAsync("printer", $"Toolhead {t.Name} of {of.Name} {(before is null ? "added" : "edited")}", $"/printers/{of.Id}");
        await work.SaveAsync();
    }

    /// <summary>Takes a part out of the history; what it made doubtful stays so. Null where there is none.</summary>
    public async Task<Part?> RemovePartAsync(Guid printer, Guid? id)
    {
        var part = await work.Db.Parts.FirstOrDefaultAsync(x => x.Id == id && x.PrinterId == printer && x.RemovedAt == null);
        if (part is null)
            return null;
        part.RemovedAt = work.Now;
        await work.LogAsync("printer", $"Part removed from the history: {part.Description}", $"/printers/{printer}", $"parthistory:{part.Id}");
        await work.SaveAsync();
        return part;
    }

    /// <summary>Removes a printer; its pairings and runs stay. Null where there is none.</summary>
    public async Task<Printer?> RemoveAsync(Guid id)
    {
        if (await ToEditAsync(id) is not { } p)
            return null;
        p.RemovedAt = work.Now;
        work.Touch(p);
        await work.LogAsync("printer", $"{p.Name} removed", null, $"printer:{p.Id}");
        await work.SaveAsync();
        return p;
    }

    /// <summary>The temperature that most profiles of a toolhead print at, °C; what is usual within its limit where there is none.</summary>
    public async Task<double> UsualTemperatureAsync(Toolhead head)
    {
        var pairings = await work.Db.Pairings.AsNoTracking().Where(p => p.ToolheadId == head.Id && p.RemovedAt == null).Select(p => p.Id).ToListAsync();
        var kept = await work.Db.ProfilesAsync(pairings);
        return kept.Values.SelectMany(r => r.Settings).Where(s => s.Key == "nozzleTemperatureC").Select(s => s.Value).Order().ToList()
            is { Count: > 0 } temperatures
            ? Math.Round(temperatures[temperatures.Count / 2])
            : Math.Min(210, Facts.LimitsOf(head).ProposedMaxC);
    }

    /// <summary>Notes a check.</summary>
    /// <param name="p">The printer.</param>
    /// <param name="head">The toolhead that was looked at.</param>
    /// <param name="kind">What was checked.</param>
    /// <param name="values">Its values by name.</param>
    /// <param name="inWords">The values in words, for the log.</param>
    /// <param name="note">What was noted; null for nothing.</param>
    /// <param name="passed">True where it is in order.</param>
    public async Task<MachineCheck> CheckAsync(
        Printer p, Toolhead head, CheckKind kind, IReadOnlyDictionary<string, double> values, Func<MachineCheck, string> inWords, string? note, bool passed)
    {
        var check = new MachineCheck
        {
            PrinterId = p.Id, ToolheadId = kind.OnToolhead ? head.Id : null, Kind = kind.Key, At = work.Now, PersonId = (await work.PersonAsync()).Id,
            ValuesJson = Json.Write(values), Note = note, Passed = passed,
        };
        if (kind.IsOwn)
            return await OwnAsync(p, kind, check);
        work.Db.Checks.Add(check);
        await work.LogAsync(
            "printer",
            $"{kind.Label} checked on {(kind.OnToolhead ? head.FullName : p.Name)}: {(passed ? "in order" : "wanting")}{inWords(check)}" +
                $"{(note is null ? "" : $", {note}")}",
            $"/printers/{p.Id}/checks", $"check:{check.Id}");
        await work.SaveAsync();
        return check;
    }

    /// <summary>Notes an own check: found wanting, it makes doubtful what was said of it; found in order again, that counts no more.</summary>
    private Task<MachineCheck> OwnAsync(Printer p, CheckKind kind, MachineCheck check) => work.AloneAsync(async () =>
    {
        work.Db.Checks.Add(check);
        var doubtful = await OwnCheckDoubts.RefreshAsync(work, p, kind);
        await work.LogAsync(
            "printer", $"{kind.Label} checked on {p.Name}: {(check.Passed ? "in order" : "wanting")}{(check.Note is null ? "" : $", {check.Note}")}" +
                $"{(doubtful > 0 ? $"; {Words.Plural(doubtful, "profile")} doubtful" : "")}", $"/printers/{p.Id}/checks", $"check:{check.Id}");
        await work.Db.SaveChangesAsync();
        return check;
    });

    /// <summary>Adds an own check, or changes the one of that name.</summary>
    /// <param name="id">The printer.</param>
    /// <param name="own">Checked.</param>
    public Task AddOwnAsync(Guid id, OwnCheck own) => NoteAsync(
        id, p => p.OwnChecksJson = Json.Write(MachineBook.OwnOf(p).Where(o => o.Key != own.Key).Append(own)), p => $"Check of {p.Name} added: {own.Label}");

    /// <summary>Takes an own check out; what was noted of it stays in the history. False where there is none.</summary>
    public async Task<bool> RemoveOwnAsync(Guid id, string key)
    {
        if (await ToEditAsync(id) is not { } of || MachineBook.OwnOf(of).FirstOrDefault(o => o.Key == key) is not { } own)
            return false;
        await NoteAsync(
            id, p => p.OwnChecksJson = MachineBook.OwnOf(p).Where(o => o.Key != key).ToList() is { Count: > 0 } left ? Json.Write(left) : null,
            p => $"Check of {p.Name} taken out: {own.Label}");
        return true;
    }

    /// <summary>Firmware and slicer of a printer as they were used together, the newest first.</summary>
    public static IReadOnlyList<VersionPair> VersionsOf(Printer p) =>
        p.VersionsJson is { } json ? [.. Json.Read<List<VersionPair>>(json).OrderByDescending(v => v.At)] : [];

    /// <summary>
    /// Notes a pair of firmware and slicer, or changes the one of that day. What differs from the pair before is a change of the machine with its doubts, all
    /// or nothing; of the past nothing is made doubtful again, since what was measured later stands on a newer pair.
    /// </summary>
    /// <param name="id">The printer.</param>
    /// <param name="pair">Checked.</param>
    /// <returns>How many profiles it makes doubtful.</returns>
    public async Task<int> AddVersionAsync(Guid id, VersionPair pair)
    {
        var person = (await work.PersonAsync()).Id;
        return await work.AloneAsync(async () =>
        {
            var p = await work.Db.Printers.FirstAsync(x => x.Id == id);
            var pairs = VersionsOf(p);
            var before = pairs.Any(v => v.At > pair.At) ? null : VersionPair.InUse(pairs, pair.At);
            p.VersionsJson = Json.Write(pairs.Where(v => v.At != pair.At).Append(pair).OrderByDescending(v => v.At).Take(VersionPair.Most));
            await work.LogAsync(
                "printer", $"{p.Name}: {pair.Firmware}{(pair.Slicer is null ? "" : $" with {pair.Slicer}")} from {Words.Day(pair.At)}", $"/printers/{id}");
            var doubtful = 0;
            Part Of(string slot, string now, string? was) =>
                new() { PrinterId = id, Slot = slot, Description = now, FittedAt = pair.At, Why = $"before: {was ?? "none"}", PersonId = person };
            if (before is not null && pair.Firmware != before.Firmware)
                doubtful += await profiles.FitWithinAsync(
                    Of("firmware", pair.Firmware, before.Firmware), p.Name, new MachineFacts { Firmware = pair.Firmware });
            if (before is not null && pair.Slicer is { } slicer && slicer != before.Slicer)
                doubtful += await profiles.FitWithinAsync(Of("slicer", slicer, before.Slicer), p.Name);
            await work.Db.SaveChangesAsync();
            return doubtful;
        });
    }

    /// <summary>Takes a pair out of the list.</summary>
    public Task RemoveVersionAsync(Guid id, DateTime at) => NoteAsync(
        id, p => p.VersionsJson = VersionsOf(p).Where(v => v.At != at).ToList() is { Count: > 0 } left ? Json.Write(left) : null,
        p => $"{p.Name}: versions of {Words.Day(at)} taken out");

    /// <summary>Says what the reference piece of a printer is printed with.</summary>
    public Task SetPulseAsync(Guid id, PulseOf? pulse) => NoteAsync(
        id, p => p.PulseJson = pulse is null ? null : Json.Write(pulse), p => $"Reference piece of {p.Name} {(pulse is null ? "given up" : "chosen")}");

    private Task NoteAsync(Guid id, Action<Printer> change, Func<Printer, string> said) => work.AloneAsync(async () =>
    {
        var p = await work.Db.Printers.FirstAsync(x => x.Id == id);
        change(p);
        await work.LogAsync("printer", said(p), $"/printers/{id}");
        return await work.Db.SaveChangesAsync();
    });

    /// <summary>The own check that a note is of, with its printer; null where it is none of the tester's own.</summary>
    internal static async Task<(Printer Printer, CheckKind Kind)?> KindAsync(WorkContext work, MachineCheck check) =>
        check.Kind.StartsWith(OwnCheck.Prefix, StringComparison.Ordinal)
        && await work.Db.Printers.AsNoTracking().FirstOrDefaultAsync(p => p.Id == check.PrinterId) is { } of
        && MachineBook.OwnOf(of).FirstOrDefault(o => o.Kind.Key == check.Kind) is { } own
            ? (of, own.Kind)
            : null;

    /// <summary>Removes a check that was typed; null where there is none.</summary>
    public async Task<MachineCheck?> RemoveCheckAsync(Guid printer, Guid? id)
    {
        var check = await work.Db.Checks.FirstOrDefaultAsync(c => c.Id == id && c.PrinterId == printer && c.RemovedAt == null && c.RunId == null);
        if (check is null)
            return null;
        check.RemovedAt = work.Now;
        // What it made doubtful goes with it, and what it lifted comes back.
        if (await KindAsync(work, check) is var (of, kind))
            await OwnCheckDoubts.RefreshAsync(work, of, kind);
        else
            await new EvidenceBook(work).WithdrawAsync(check.Id);
        await work.LogAsync("printer", $"Check removed: {CheckKind.Find(check.Kind)?.Label ?? check.Kind[OwnCheck.Prefix.Length..]}",
            $"/printers/{printer}/checks", $"check:{check.Id}");
        await work.SaveAsync();
        return check;
    }
}
