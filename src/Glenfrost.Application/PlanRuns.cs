using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Plans runs, and plans them anew while nothing is printed.</summary>
public sealed class PlanRuns(WorkContext work, Pieces pieces)
{
    /// <summary>What a trial is planned for: the pairing with its toolhead, or the toolhead; nulls where it is not there.</summary>
    public async Task<(Pairing? Pairing, Toolhead? Head)> SubjectAsync(Trial trial, Guid id)
    {
        if (trial.Subject == TrialSubject.Toolhead)
            return (null, await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == id && t.RemovedAt == null));
        var pairing = await work.Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null);
        return (pairing, pairing?.Toolhead);
    }

    /// <summary>A run of a trial on a subject, to be planned anew or repeated; null where there is none.</summary>
    /// <param name="trial">The trial.</param>
    /// <param name="p">The pairing; null for a trial of a toolhead.</param>
    /// <param name="head">The toolhead.</param>
    /// <param name="id">The run.</param>
    public Task<Run?> OfSubjectAsync(Trial trial, Pairing? p, Toolhead head, Guid? id)
    {
        var (kind, pairing, toolhead) = (trial.Kind, p?.Id, head.Id);
        return pairing is null
            ? work.Db.Runs.FirstOrDefaultAsync(r => r.Id == id && r.Kind == kind && r.ToolheadId == toolhead)
            : work.Db.Runs.FirstOrDefaultAsync(r => r.Id == id && r.Kind == kind && r.PairingId == pairing);
    }

    /// <summary>Checks of the machine that a trial leans on and that are missing, bad or doubtful: of a toolhead's trial, nozzle and grip alone.</summary>
    /// <param name="trial">The trial.</param>
    /// <param name="head">The toolhead, with its printer.</param>
    /// <param name="context">Settings in force: what it prints at.</param>
    public async Task<IReadOnlyList<Core.Equipment.CheckStanding>> WantingAsync(Trial trial, Toolhead head, PlanContext context)
    {
        var ofHead = trial.Subject == TrialSubject.Toolhead;
        var standings = MachineBook.Standings(
            head, await work.Db.Checks.AsNoTracking().Where(x => x.PrinterId == head.PrinterId).ToListAsync(),
            await work.Db.Parts.AsNoTracking().Where(x => x.PrinterId == head.PrinterId).ToListAsync(), ofHead ? null : context.NozzleC, work.Now);
        return [.. standings.Where(c => c.State != "good" && (ofHead ? c.Kind.Key is "nozzle" or "grip" : c.Kind.Key is not "versions"))];
    }

    /// <summary>A file that lies by its hash already, as a run's own.</summary>
    private RunFile OwnRow(Run run, RunFile own, Guid person) => new()
    {
        RunId = run.Id, Kind = "gcode", Name = own.Name, Sha256 = own.Sha256, Bytes = own.Bytes, CreatedAt = work.Now, PersonId = person,
    };

    /// <summary>A file of somebody's own, held while its row is written; null where there is none.</summary>
    /// <exception cref="ChangedMeanwhileException">It was erased in this moment: nothing is stored that names what is gone.</exception>
    private Stream? Standing(RunFile? own) => own is null
        ? null
        : pieces.Open(own) ?? throw new ChangedMeanwhileException(new FileNotFoundException($"{own.Name} is not there any more."));

    /// <summary>Stores a plan as a new run, with its file where there is one.</summary>
    /// <param name="own">Somebody's own file, kept by its hash, that is printed in place of one of ours; null for none.</param>
    /// <param name="tier">Name of the tier whose values it is planned with; null for the profile's own.</param>
    /// <param name="leftToCool">True where the pairing's cool-down is left out of its file.</param>
    public async Task<Run> CreateAsync(
        Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, TrialFile? file = null, Guid? linkedRunId = null, string linkKind = "follows",
        RunFile? own = null, string? tier = null, bool leftToCool = false)
    {
        var person = await work.PersonAsync();
        var draft = FactorBook.Draft(trial, plan, file).ToJson();
        // The file is written before the gate: nothing large is done inside it.
        var stored = file is null ? null : pieces.Store(file);
        return await work.AloneAsync(async () =>
        {
            using var there = Standing(own);
            var number = await (p is null ? work.Db.Runs.Where(r => r.ToolheadId == head.Id) : work.Db.Runs.Where(r => r.PairingId == p.Id))
                .Where(r => r.Kind == trial.Kind).MaxAsync(r => (int?)r.Number)
                ?? 0;
            var run = new Run
            {
                Kind = trial.Kind,
                Number = number + 1,
                PairingId = p?.Id,
                ToolheadId = p is null ? head.Id : null,
                World = p?.World ?? head.Printer!.World,
                CreatedAt = work.Now,
                ChangedAt = work.Now,
                PersonId = person.Id,
                PlanVersion = StoredPlan.Version,
                PlanJson = StoredPlan.Write(plan),
                LinkedRunId = linkedRunId,
                LinkKind = linkedRunId is null ? null : linkKind,
                Tier = tier,
                LeftToCool = leftToCool ? true : null,
                ForeseenMinutes = plan.Estimate.Minutes > 0 ? plan.Estimate.Minutes : null,
                MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null,
                FactorsJson = draft,
            };
            run.Seed = Math.Abs(BitConverter.ToInt32(run.Id.ToByteArray(), 12));
            work.Db.Runs.Add(run);
            if (stored is not null)
                work.Db.RunFiles.Add(pieces.Row(run, stored, TrialRuns.FileName(trial, p, head, plan, run.Number), work.Now, person.Id));
            if (own is not null)
                work.Db.RunFiles.Add(OwnRow(run, own, person.Id));
            await work.LogAsync(
                "run", $"{trial.Name} {run.Number} planned: {(p is null ? head.FullName : Facts.NameOf(p))}, {trial.Extent(plan)}", $"/runs/{run.Id}");
            await work.Db.SaveChangesAsync();
            return run;
        });
    }

    /// <summary>
    /// Puts another plan in place of a planned run's, with the settings in force now. Its file comes with it; where the new plan has none (somebody's own
    /// model), the old one is handed out no
    /// more. The caller has checked that the run is planned and its form not stale.
    /// </summary>
    /// <param name="run">Tracked.</param>
    /// <param name="trial">Its trial.</param>
    /// <param name="p">Its pairing; null where it is of a toolhead.</param>
    /// <param name="head">What it is printed on.</param>
    /// <param name="plan">The new plan.</param>
    /// <param name="file">Its file; null where it has none.</param>
    /// <param name="own">A file of somebody's own that was stepped for it; null for none.</param>
    /// <param name="tier">Name of the tier whose values it is planned with; null for the profile's own.</param>
    /// <param name="leftToCool">True where the pairing's cool-down is left out of its file.</param>
    /// <exception cref="ChangedMeanwhileException">Another tab changed the run in the same moment; nothing is written.</exception>
    public async Task ReplanAsync(Run run, Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, TrialFile? file, RunFile? own = null, string? tier = null,
        bool leftToCool = false)
    {
        // A file of somebody's own stays with the run where the plan only says how it is read; one that was stepped anew takes its place.
        var stays = plan.HasOwnFile && own is null;
        var person = (await work.PersonAsync()).Id;
        var stored = file is null ? null : pieces.Store(file);
        await work.AloneAsync(async () =>
        {
            using var there = Standing(own);
            run.PlanVersion = StoredPlan.Version;
            run.PlanJson = StoredPlan.Write(plan);
            run.FactorsJson = FactorBook.Draft(trial, plan, file).ToJson();
            run.SettingsJson = null;
            run.Tier = tier;
            run.LeftToCool = leftToCool ? true : null;
            run.ForeseenMinutes = plan.Estimate.Minutes > 0 ? plan.Estimate.Minutes : null;
            run.MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null;
            // A newer file takes the place of an older one; where there is none, the older one must not be printed by mistake.
            foreach (var old in stored is not null || stays
                    ? []
                    : await work.Db.RunFiles.Where(f => f.RunId == run.Id && f.Kind == "gcode" && f.RetiredAt == null).ToListAsync())
                old.RetiredAt = work.Now;
            if (own is not null)
                work.Db.RunFiles.Add(OwnRow(run, own, person));
            if (stored is not null)
                work.Db.RunFiles.Add(pieces.Row(run, stored, TrialRuns.FileName(trial, p, head, plan, run.Number), work.Now, person));
            work.Touch(run);
            await work.LogAsync("run", $"{trial.Name} {run.Number} planned anew: {(p is null ? head.FullName : Facts.NameOf(p))}", $"/runs/{run.Id}");
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>Makes the file of a run that was planned before files were written, with the file's own times and masses.</summary>
    /// <param name="v">The run; tracked.</param>
    /// <returns>What keeps it from being made; empty where it is there.</returns>
    public async Task<IReadOnlyList<Core.Settings.FieldError>> MakeFileAsync(TrialRunView v)
    {
        var (plan, file, errors) = await pieces.MakeAsync(
            v.Trial, v.Plan, v.Pairing, v.Toolhead, v.Run.LeftToCool == true ? HeldSettings.Nothing with { LeftToCool = true } : null);
        if (file is null)
            return errors.Count > 0 ? errors : [v.Trial.NoFile];
        WrittenFile stored;
        try
        {
            stored = pieces.Store(file);
        }
        catch (FileRefusedException e)
        {
            return e.Errors;
        }

        var person = (await work.PersonAsync()).Id;
        await work.AloneAsync(async () =>
        {
            work.Db.RunFiles.Add(pieces.Row(v.Run, stored, TrialRuns.FileName(v.Trial, v.Pairing, v.Toolhead, plan, v.Run.Number), work.Now, person));
            v.Run.PlanVersion = StoredPlan.Version;
            v.Run.PlanJson = StoredPlan.Write(plan);
            v.Run.FactorsJson = FactorBook.Draft(v.Trial, plan, file).ToJson();
            v.Run.ForeseenMinutes = plan.Estimate.Minutes;
            v.Run.MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null;
            work.Touch(v.Run);
            await work.LogAsync("run", $"G-code of {v.Called} made: {v.Name}", $"/runs/{v.Run.Id}");
            return await work.Db.SaveChangesAsync();
        });
        return [];
    }
}
