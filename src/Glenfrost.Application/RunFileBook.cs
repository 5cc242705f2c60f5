using Glenfrost.Core.Gcode;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Whether a kept file of a run may be handed out.</summary>
public enum FileAnswer
{
    /// <summary>It may.</summary>
    Here,

    /// <summary>There is none.</summary>
    Missing,

    /// <summary>The run was planned anew; another file took its place.</summary>
    Replaced,

    /// <summary>It would leave a limit of today.</summary>
    Refused,
}

/// <summary>Hands out the kept files of runs.</summary>
public sealed class RunFileBook(WorkContext work, Pieces pieces)
{
    /// <summary>
    /// A kept file of a run, or why it is not handed out. What is still to be printed keeps today's limits, whoever wrote it and wherever it came from; what
    /// was printed is a record.
    /// </summary>
    public async Task<(FileAnswer Answer, RunFile? File, Stream? Content, string? Why)> TakeAsync(Guid runId, Guid fileId)
    {
        var file = await work.Db.RunFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == fileId && f.RunId == runId);
        var run = await work.Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == runId);
        if (file is null || run is null)
            return (FileAnswer.Missing, null, null, null);
        if (run.Stage == RunStages.Planned
            && file.Kind == "gcode"
            && (file.RetiredAt is not null
                || TrialCatalogue.Find(run.Kind)?.ReadPlan(run.PlanJson) is { WritesFile: false, HasOwnFile: false }))
            return (FileAnswer.Replaced, file, null, null);
        if (run.Stage == RunStages.Planned && await RefusedAsync(run, file) is { } refused)
            return (FileAnswer.Refused, file, null, refused);
        return pieces.Open(file) is { } content ? (FileAnswer.Here, file, content, null) : (FileAnswer.Missing, file, null, null);
    }

    private async Task<string?> RefusedAsync(Run run, RunFile file)
    {
        var pairing = run.PairingId is { } id ? await work.Db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Id == id) : null;
        if ((pairing?.Toolhead ?? await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == run.ToolheadId))
            is not { } head
            || TrialCatalogue.Find(run.Kind) is not { } trial)
            return null;
        if (trial.Refused(trial.ReadPlan(run.PlanJson), Facts.LimitsOf(head)) is { } refused)
            return refused;
        if (pieces.Open(file) is not { } content)
            return null;
        var machine = await pieces.MachineOfAsync(head, pairing?.NozzleDiameterMm);
        await using var stream = content;
        return GcodeGuard.Check(stream, machine) is { Count: > 0 } wrong
            ? $"This file leaves the limits of {machine.Name}: {string.Join("; ", wrong.Take(3))}. It was not handed out; " +
                (trial.ReadPlan(run.PlanJson).HasOwnFile
                ? "slice it anew for this machine."
                : $"plan the {trial.Noun} anew, then its file is made within them.")
            : null;
    }
}
