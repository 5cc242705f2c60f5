using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

/// <summary>Takes back a removal, a fitted part or a kept value.</summary>
public sealed class UndoModel(Bench bench, Profiles profiles, MachineBook machines) : BenchPage(bench)
{
    public IActionResult OnGet() => Redirect("/");

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var parts = Sheet["what"].Split(':');
        if (parts.Length != 2 || !Guid.TryParse(parts[1], out var id))
            return NotFound();
        await Bench.PersonAsync();
        var (said, link) = await Bench.AloneAsync(() => TakeBackAsync(parts[0], id));
        if (said is null)
            return NotFound();
        Tell(said);
        var back = Sheet["back"];
        return Redirect(link ?? (Url.IsLocalUrl(back) ? back : "/"));
    }

    private async Task<(string? Said, string? Link)> TakeBackAsync(string kind, Guid id)
    {
        (string, string?)? done = kind switch
        {
            "filament" => await BackAsync<Filament>(id, f => f.Name, $"/filaments/{id}"),
            "spool" => await BackAsync<Spool>(id, s => $"Spool {s.Name}", $"/spools/{id}"),
            "printer" => await BackAsync<Printer>(id, p => p.Name, $"/printers/{id}"),
            "pairing" => await BackAsync<Pairing>(id, _ => "The pairing", $"/pairings/{id}"),
            "run" => await BackAsync<Run>(id, r => $"{Core.Trials.TrialCatalogue.Find(r.Kind)?.Name} {r.Number}", $"/runs/{id}"),
            "drying" => await RowAsync(Db.Dryings, id, d => d.RemovedAt = null, "The drying entry", null),
            "weighing" => await RowAsync(Db.SpoolWeighings, id, d => d.RemovedAt = null, "The weighing", null),
            "parthistory" => await RowAsync(Db.Parts, id, d => d.RemovedAt = null, "The part", null),
            "finding" => await RowAsync(Db.Findings, id, d => d.RemovedAt = null, "The finding", null),
            "photo" => await RowAsync(Db.Photos, id, d => d.RemovedAt = null, "The photo", null),
            "gcode" => await RowAsync(Db.GcodeFiles, id, d => d.RemovedAt = null, "The file", $"/gcode/{id}"),
            "sitting" => await RowAsync(Db.Sittings, id, d => d.RemovedAt = null, "The sitting", "/sittings"),
            "device" => await RowAsync(Db.Devices, id, d => d.WithdrawnAt = null, "The device", "/devices"),
            "diameter" => await RowAsync(Db.SpoolDiameters, id, d => d.RemovedAt = null, "The diameter", null),
            "source" => await RowAsync(Db.FilamentSources, id, d => d.RemovedAt = null, "The source", null),
            "variant" => await RowAsync(Db.FilamentVariants, id, d => d.RemovedAt = null, "The colour", null),
            "part" => await PartAsync(id),
            "keep" => await KeepAsync(id),
            "check" => await RowAsync(Db.Checks, id, d => d.RemovedAt = null, "The check", null),
            "carry" => await CarryAsync(id),
            "cause" => await CauseAsync(id),
            _ => null,
        };
        if (done is not { } d)
            return (null, null);
        var undo = $"{kind}:{id}";
        await Db.Log.Where(l => l.Undo == undo && l.UndoneAt == null).ExecuteUpdateAsync(s => s.SetProperty(l => l.UndoneAt, Bench.Now));
        await Bench.LogAsync(LogKindOf(kind), $"Undone: {d.Item1}", d.Item2);
        await Db.SaveChangesAsync();
        return (d.Item1, d.Item2);
    }

    private static string LogKindOf(string kind) => kind switch
    {
        "keep" or "cause" => "profile",
        "drying" or "weighing" or "diameter" => "spool",
        "part" or "parthistory" or "check" => "printer",
        "carry" => "profile",
        "source" or "variant" => "filament",
        "sitting" => "photo",
        _ => kind,
    };

    private async Task<(string, string?)?> BackAsync<T>(Guid id, Func<T, string> name, string link)
        where T : EditableRecord
    {
        var r = await Db.Set<T>().FirstOrDefaultAsync(x => x.Id == id);
        if (r is null)
            return null;
        r.RemovedAt = null;
        Bench.Touch(r);
        return ($"{name(r)} is back.", link);
    }

    private static async Task<(string, string?)?> RowAsync<T>(DbSet<T> set, Guid id, Action<T> back, string name, string? link)
        where T : Record
    {
        var r = await set.FirstOrDefaultAsync(x => x.Id == id);
        if (r is null)
            return null;
        back(r);
        return ($"{name} is back.", link);
    }

    private async Task<(string, string?)?> PartAsync(Guid id)
    {
        var part = await Db.Parts.FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null);
        if (part is null)
            return null;
        part.RemovedAt = Bench.Now;
        await profiles.UndoCauseAsync(id, $"Undone: {part.Description} was not fitted");
        return ("The part is taken out again; what it made doubtful is as it was.", $"/printers/{part.PrinterId}");
    }

    private async Task<(string, string?)?> CauseAsync(Guid id)
    {
        if (!await Db.Revisions.AnyAsync(r => r.CauseId == id && r.UndoesId == null) || await Db.Revisions.AnyAsync(r => r.CauseId == id && r.UndoesId != null))
            return null;
        await profiles.UndoCauseAsync(id, "Undone: old notes");
        return ("The values from the notes are out of the profiles again; the notes themselves stay as findings.", "/pairings");
    }

    private async Task<(string, string?)?> KeepAsync(Guid id)
    {
        var decision = await Db.Decisions.FirstOrDefaultAsync(d => d.Id == id && d.UndoneAt == null);
        var run = decision is null ? null : await Db.Runs.FirstOrDefaultAsync(r => r.Id == decision.RunId);
        if (decision is null || run is null)
            return null;
        decision.UndoneAt = Bench.Now;
        run.Stage = RunStages.Read;
        run.DecidedAt = null;
        Bench.Touch(run);
        var shown = decision.SettingKey is { } key && decision.Value is { } value ? MachineBook.InWords(key, value) : "";
        if (run.PairingId is null)
            await machines.TakeBackFeedAsync(decision);
        else if (decision.RevisionId is not null)
            await profiles.UndoCauseAsync(id, $"Undone: {shown} is not kept");
        return (decision.Choice == "left" ? "The run is open for a decision again." : $"{char.ToUpperInvariant(shown[0])}{shown[1..]} is no longer kept; {(run.PairingId is null ? "the printer's value" : "the profile")} is as it was.", $"/runs/{run.Id}#judge");
    }

    private async Task<(string, string?)?> CarryAsync(Guid check)
    {
        if (!await Db.Checks.AnyAsync(c => c.Id == check) || !await Db.Revisions.AnyAsync(r => r.CauseId == check && r.UndoesId == null))
            return null;
        await profiles.UndoCauseAsync(check, "Undone: nothing is carried over");
        return ("What was carried over is as it was before.", null);
    }
}
