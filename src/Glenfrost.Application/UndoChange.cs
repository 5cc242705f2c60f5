using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Takes back a removal, a fitted part, a kept value or whatever else the log offers to take back.</summary>
public sealed class UndoChange(WorkContext work, Profiles profiles, MachineBook machines, FactorBook factors, DataPlace place)
{
    /// <summary>Takes one thing back.</summary>
    /// <param name="kind">Word before the colon, as the log has it.</param>
    /// <param name="id">Id behind it.</param>
    /// <returns>What was done and where it is seen; nulls where there is nothing to take back.</returns>
    public async Task<(string? Said, string? Link)> TakeBackAsync(string kind, Guid id)
    {
        await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            // What was erased has no content to come back with.
            if (!await Erasure.CanComeBackAsync(work.Db, place.Files, kind, id) || await DoAsync(kind, id) is not { } done)
                return (null, null);
            var undo = $"{kind}:{id}";
            await work.Db.Log.Where(l => l.Undo == undo && l.UndoneAt == null).ExecuteUpdateAsync(s => s.SetProperty(l => l.UndoneAt, work.Now));
            await work.LogAsync(LogKindOf(kind), $"Undone: {done.Item1}", done.Item2);
            await work.Db.SaveChangesAsync();
            return ((string?, string?))(done.Item1, done.Item2);
        });
    }

    private async Task<(string, string?)?> DoAsync(string kind, Guid id) =>
        kind switch
        {
            "filament" => await BackAsync<Filament>(id, f => f.Name, $"/filaments/{id}"),
            "spool" => await BackAsync<Spool>(id, s => $"Spool {s.Name}", $"/spools/{id}"),
            "printer" => await BackAsync<Printer>(id, p => p.Name, $"/printers/{id}"),
            "pairing" => await BackAsync<Pairing>(id, _ => "The pairing", $"/pairings/{id}"),
            "run" => await BackAsync<Run>(id, r => $"{TrialCatalogue.Find(r.Kind)?.Name} {r.Number}", $"/runs/{id}"),
            "drying" => await RowAsync(work.Db.Dryings, id, d => d.RemovedAt = null, "The drying entry", null),
            "dryer" => await BackAsync<Dryer>(id, d => $"Dryer {d.Name}", "/dryers"),
            "stay" => await RowAsync(work.Db.SpoolStays, id, d => d.RemovedAt = null, "Where it lay", null),
            "weighing" => await RowAsync(work.Db.SpoolWeighings, id, d => d.RemovedAt = null, "The weighing", null),
            "parthistory" => await RowAsync(work.Db.Parts, id, d => d.RemovedAt = null, "The part", null),
            "finding" => await RowAsync(work.Db.Findings, id, d => d.RemovedAt = null, "The finding", null),
            "photo" => await RowAsync(work.Db.Photos, id, d => d.RemovedAt = null, "The photo", null),
            "gcode" => await RowAsync(work.Db.GcodeFiles, id, d => d.RemovedAt = null, "The file", $"/gcode/{id}"),
            "anchor" => await RowAsync(work.Db.AnchorPhotos, id, d => d.RemovedAt = work.Now, "The photo's standing for a score", null),
            "unanchor" => await RowAsync(work.Db.AnchorPhotos, id, d => d.RemovedAt = null, "The photo stands for its score again", null),
            "sitting" => await RowAsync(work.Db.Sittings, id, d => d.RemovedAt = null, "The sitting", "/sittings"),
            "device" => await RowAsync(work.Db.Devices, id, d => d.WithdrawnAt = null, "The device", "/devices"),
            "diameter" => await RowAsync(work.Db.SpoolDiameters, id, d => d.RemovedAt = null, "The diameter", null),
            "source" => await RowAsync(work.Db.FilamentSources, id, d => d.RemovedAt = null, "The source", null),
            "variant" => await RowAsync(work.Db.FilamentVariants, id, d => d.RemovedAt = null, "The colour", null),
            "part" => await PartAsync(id),
            "keep" => await KeepAsync(id),
            "check" => await CheckAsync(id),
            "carry" => await CarryAsync(id),
            "cause" => await CauseAsync(id),
            "route" => await RouteAsync(id),
            "goal" => await GoalAsync(id),
            "tiers" => await TiersAsync(id),
            "evidence" => (await new EvidenceBook(work).WithdrawAsync(id)) is [var pairing, ..]
                ? ("What was said of it counts no more.", $"/pairings/{pairing}")
                : null,
            _ => null,
        };

    private static string LogKindOf(string kind) => kind switch
    {
        "keep" or "cause" or "carry" or "evidence" or "route" or "goal" or "tiers" => "profile",
        "drying" or "dryer" or "stay" or "weighing" or "diameter" => "spool",
        "part" or "parthistory" or "check" => "printer",
        "source" or "variant" => "filament",
        "sitting" or "anchor" or "unanchor" => "photo",
        _ => kind,
    };

    private async Task<(string, string?)?> BackAsync<T>(Guid id, Func<T, string> name, string link)
        where T : EditableRecord
    {
        var r = await work.Db.Set<T>().FirstOrDefaultAsync(x => x.Id == id);
        if (r is null)
            return null;
        r.RemovedAt = null;
        work.Touch(r);
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
        var part = await work.Db.Parts.FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null);
        if (part is null)
            return null;
        part.RemovedAt = work.Now;
        await profiles.UndoCauseAsync(id, $"Undone: {part.Description} was not fitted");
        await factors.UnfitAsync(part);
        var back = await profiles.UnchangeMachineAsync(part);
        return (
            $"The part is taken out again; what it made doubtful is as it was.{(back ? "" : " What the machine says of itself was changed since and stays.")}",
            $"/printers/{part.PrinterId}");
    }

    private async Task<(string, string?)?> CauseAsync(Guid id)
    {
        if (!await work.Db.Revisions.AnyAsync(r => r.CauseId == id && r.UndoesId == null)
            || await work.Db.Revisions.AnyAsync(r => r.CauseId == id && r.UndoesId != null))
            return null;
        await profiles.UndoCauseAsync(id, "Undone: old notes");
        return ("The values from the notes are out of the profiles again; the notes themselves stay as findings.", "/pairings");
    }

    private async Task<(string, string?)?> KeepAsync(Guid id)
    {
        var decision = await work.Db.Decisions.FirstOrDefaultAsync(d => d.Id == id && d.UndoneAt == null);
        var run = decision is null ? null : await work.Db.Runs.FirstOrDefaultAsync(r => r.Id == decision.RunId);
        if (decision is null || run is null)
            return null;
        decision.UndoneAt = work.Now;
        // A value of another temperature decided nothing of the run.
        if (decision.Choice != DecisionChoices.Elsewhere)
            (run.Stage, run.DecidedAt) = (RunStages.Read, null);
        work.Touch(run);
        var shown = decision.SettingKey is { } key && decision.Value is { } value ? MachineBook.InWords(key, value) : "";
        if (run.PairingId is null)
            await machines.TakeBackFeedAsync(decision);
        else if (decision.RevisionId is not null)
            await profiles.UndoCauseAsync(id, $"Undone: {shown} is not kept");
        else if (decision.Choice is DecisionChoices.Passed or DecisionChoices.Failed)
            await new EvidenceBook(work).WithdrawAsync(id);
        return (
            shown.Length == 0
                ? "The run is open for a decision again."
                : $"{char.ToUpperInvariant(shown[0])}{shown[1..]} is no longer kept; {(run.PairingId is null ? "the printer's value" : "the profile")} is " +
                    $"as it was.",
            $"/runs/{run.Id}#judge");
    }

    /// <summary>A check that was noted goes, with what it made doubtful; one that was removed comes back.</summary>
    private async Task<(string, string?)?> CheckAsync(Guid id)
    {
        if (await work.Db.Checks.FirstOrDefaultAsync(c => c.Id == id) is not { } check)
            return null;
        var back = check.RemovedAt is not null;
        check.RemovedAt = back ? null : work.Now;
        if (await PrinterBook.KindAsync(work, check) is var (of, kind))
            await OwnCheckDoubts.RefreshAsync(work, of, kind);
        else if (!back)
            await new EvidenceBook(work).WithdrawAsync(id);
        return (back ? "The check is back." : "The check is not noted any more.", $"/printers/{check.PrinterId}/checks");
    }

    private async Task<(string, string?)?> RouteAsync(Guid id)
    {
        if (await work.Db.Pairings.FirstOrDefaultAsync(p => p.Id == id) is not { RouteBefore: { } before } p)
            return null;
        (p.Route, p.RouteBefore) = (before.Length == 0 ? null : before, p.Route ?? "");
        return ("The order of work is as it was before.", $"/pairings/{id}");
    }

    private async Task<(string, string?)?> GoalAsync(Guid id)
    {
        if (await work.Db.Pairings.FirstOrDefaultAsync(p => p.Id == id) is not { GoalJson: { } goal } p)
            return null;
        var stands = Json.Read<Core.Routes.Goal>(goal);
        p.GoalJson = Json.Write((stands.Before ?? new()) with { Before = stands with { Before = null } });
        return ("What is good enough is as it was before.", $"/pairings/{id}#goal");
    }

    private async Task<(string, string?)?> TiersAsync(Guid id)
    {
        if (await work.Db.Pairings.FirstOrDefaultAsync(p => p.Id == id) is not { TiersJson: not null } p)
            return null;
        var stands = TierBook.Of(p);
        p.TiersJson = Json.Write((stands.Before ?? new()) with { Before = stands with { Before = null } });
        return ("The tiers are as they were before.", $"/pairings/{id}/card#tiers");
    }

    private async Task<(string, string?)?> CarryAsync(Guid check)
    {
        if (!await work.Db.Checks.AnyAsync(c => c.Id == check) || !await work.Db.Revisions.AnyAsync(r => r.CauseId == check && r.UndoesId == null))
            return null;
        await profiles.UndoCauseAsync(check, "Undone: nothing is carried over");
        return ("What was carried over is as it was before.", null);
    }
}
