using Glenfrost.Application.Gcode;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A file of somebody's own that a run is planned from: what it is, and the row that keeps it.</summary>
/// <param name="Facts">What was read off it.</param>
/// <param name="File">As a run keeps it: by its hash.</param>
public sealed record OwnFileOfRun(OwnFile Facts, RunFile File);

/// <summary>Files of somebody's own on their way into runs: from the G-code room, or from a run that is printed again.</summary>
public sealed class OwnFiles(WorkContext work, GcodeRoom room)
{
    /// <summary>The file that a plan is made from; null where none is named, it is gone, or it lays nothing.</summary>
    /// <param name="pairing">What it is printed on: its limits and filament count.</param>
    /// <param name="file">A file of the G-code room; null for none.</param>
    /// <param name="run">Else a run whose own file it is; null for none.</param>
    public async Task<OwnFileOfRun?> FindAsync(Guid pairing, Guid? file, Guid? run)
    {
        var (name, hash, bytes) = ("", "", 0L);
        if (file is not null && await room.WithContentAsync(file.Value) is { RemovedAt: null } kept)
            (name, hash, bytes) = (kept.Name, kept.Sha256, kept.Bytes);
        else if (run is not null && await work.Db.Runs.AsNoTracking().Include(r => r.Files).FirstOrDefaultAsync(r => r.Id == run && r.PairingId == pairing)
            is { } of && TrialCatalogue.Find(of.Kind) is { } trial && trial.Modes.Any(trial.PrintsOwnFile)
            && trial.ReadPlan(of.PlanJson) is { HasOwnFile: true } plan && Pieces.StandingFile(of, plan) is { } stands)
            (name, hash, bytes) = (stands.Name, stands.Sha256, stands.Bytes);
        if (hash.Length == 0)
            return null;
        try
        {
            var facts = (await room.InspectAsync(new() { Name = name, Sha256 = hash, Bytes = bytes, PairingId = pairing }, work.Left)).Facts;
            return OwnFile.Of(facts) is { } own ? new(own, new() { Kind = "gcode", Name = name, Sha256 = hash, Bytes = bytes }) : null;
        }
        catch (FileNotFoundException)
        {
            return null;
        }
    }

    /// <summary>A file of the room that a trial is to step; null where none is named, or it is gone.</summary>
    /// <param name="pairing">What it is printed on: its limits count.</param>
    /// <param name="file">A file of the G-code room; null for none.</param>
    public async Task<InspectedFile?> ToStepAsync(Guid pairing, Guid? file)
    {
        if (file is null || await room.WithContentAsync(file.Value) is not { RemovedAt: null } kept)
            return null;
        var read = await room.InspectAsync(
            new() { Id = kept.Id, Name = kept.Name, Sha256 = kept.Sha256, Bytes = kept.Bytes, At = kept.At, PairingId = pairing }, work.Left);
        return read.Facts.Empty ? null : read;
    }

    /// <summary>The file that a run's own was stepped from; null where it has none, or that is gone.</summary>
    public async Task<Guid?> SteppedFromAsync(Guid run) =>
        await work.Db.RunFiles.AsNoTracking().Where(f => f.RunId == run && f.Kind == "gcode" && f.RetiredAt == null)
            .Join(work.Db.GcodeFiles.AsNoTracking().Where(g => g.RemovedAt == null && g.FromId != null), f => f.Sha256, g => g.Sha256, (f, g) => g)
            .OrderByDescending(g => g.At).Select(g => g.FromId).FirstOrDefaultAsync();

    /// <summary>A plan with the file that is stepped for it, or why the two do not go together, at the plan's own fields.</summary>
    public static (ITrialPlan? Plan, IReadOnlyList<Core.Settings.FieldError> Errors) Fit(IStepsOwnFile trial, ITrialPlan plan, InspectedFile file)
    {
        var (_, wrong) = StepPlanning.Plan(trial.StepsOf(plan), file.Facts, file.Machine);
        IReadOnlyList<Core.Settings.FieldError> errors =
            [.. wrong.Select(w => w with { Field = trial.FieldOf(w.Field), Offers = [] }), .. trial.Against(plan, file.Facts)];
        return errors.Count > 0
            ? (null, errors)
            : (trial.With(plan, file.Facts, file.File.Name), []);
    }

    /// <summary>Steps a file for a run, proven as in the room.</summary>
    /// <returns>What is kept with the run, or why it was not written.</returns>
    public async Task<(RunFile? File, IReadOnlyList<Core.Settings.FieldError> Errors)> StepAsync(InspectedFile file, StepRequest request)
    {
        var (made, errors) = await room.StepAsync(file, request);
        return made is null ? (null, errors) : (new() { Kind = "gcode", Name = made.Name, Sha256 = made.Sha256, Bytes = made.Bytes }, []);
    }
}
