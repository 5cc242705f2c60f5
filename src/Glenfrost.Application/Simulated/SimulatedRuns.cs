using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Photos;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Simulated;

/// <summary>What becomes of a run that was printed on the simulated printer: its piece, its pictures, its readings.</summary>
public sealed class SimulatedRuns(
    WorkContext work, TrialRuns runs, ReadingStore store, PrintReports reports, PhotoBook photos, Application.Instruments instrumentBook, DataPlace place,
    AnswerCache answers)
{
    /// <summary>The kind of file that a simulated piece is kept as.</summary>
    public const string PieceKind = "piece";

    /// <summary>Takes the piece off the bed: stores it and says how the print ended.</summary>
    public async Task TakeOffAsync(LivePrint live, PieceFile piece)
    {
        if (await runs.LoadAsync(live.Job.RunId) is not { } v)
            return;
        var (job, plan) = (await work.Db.Jobs.FirstAsync(j => j.Id == live.Job.Id), v.Plan);
        (job.Line, job.Layer, job.ZMm, job.ClockS, job.EndedAt, job.ChangedAt, job.Speed) = (
            live.Line, live.Layer, live.ZMm, piece.Trace.PrintSeconds, work.Now, work.Now, live.Speed);
        var standing = StandingLayers(piece.Trace, plan);
        job.State =
            live.Stopped ? JobStates.Stopped
            : live.EndedBecause is not null ? JobStates.Failed
            : JobStates.Done;
        job.Outcome =
            live.EndedBecause is { } because ? $"ended at layer {live.Layer}: {because}"
            : piece.Trace.KnockedAtMm is { } z ? $"knocked over at {Words.N(z, 1)} mm"
            : "printed to its end";
        if (standing == 0)
        {
            // Nothing stands: the run can be printed again.
            v.Run.PrintStartedAt = null;
            await work.LogAsync("run", $"Simulated print of {v.Called} {job.Outcome}; nothing stands", $"/runs/{v.Run.Id}");
            await work.SaveAsync();
            return;
        }

        await StoreAsync(v, job, piece, standing);
        await PhotographAsync(v, piece.Piece());
    }

    /// <summary>Ends a job that could not be ended well.</summary>
    public async Task FailAsync(Guid jobId, string outcome)
    {
        work.Db.ChangeTracker.Clear();
        var job = await work.Db.Jobs.FirstAsync(j => j.Id == jobId);
        (job.State, job.Outcome, job.EndedAt, job.ChangedAt) = (JobStates.Failed, outcome, work.Now, work.Now);
        await work.SaveAsync();
    }

    /// <summary>A job of a run that the server went down under; null where there is none.</summary>
    public Task<Job?> InterruptedAsync(Guid run, Guid job) =>
        work.Db.Jobs.FirstOrDefaultAsync(j => j.Id == job && j.RunId == run && j.State == JobStates.Interrupted);

    /// <summary>
    /// Takes off what an interrupted print left standing. The same file, bench and seed give the same piece, so it is printed again up to the checkpoint in a
    /// second.
    /// </summary>
    /// <returns>What is wrong; null where it was taken off.</returns>
    public async Task<string?> TakeOffInterruptedAsync(TrialRunView v, Job job, RunFile file)
    {
        if (!place.Files.Exists(file.Sha256))
            return "The run's file is gone from the data folder: what stood can't be told any more.";
        var tools = await work.Db.Toolheads.CountAsync(t => t.PrinterId == v.Toolhead.PrinterId && t.RemovedAt == null);
        var conditions = job.OptionsJson is { } json ? Json.Read<BenchConditions>(json) : new(null, null, 20, 0, 50);
        var piece = await Task.Run(() =>
            BenchOf.For(v.Pairing, v.Toolhead, tools, unchecked((ulong)job.Seed), conditions)
                .Print(File.ReadLines(place.Files.PathOf(file.Sha256)), conditions.Faults, job.Line));
        piece.Trace.EndedBecause = job.Outcome;
        var standing = Math.Min(StandingLayers(piece.Trace, v.Plan), v.Plan.TotalLayers - 1);
        if (standing == 0)
            return "Nothing stood yet when it was interrupted. Print it anew.";
        await StoreAsync(v, job, piece, standing);
        await PhotographAsync(v, piece.Piece());
        return null;
    }

    private async Task StoreAsync(TrialRunView v, Job job, PieceFile piece, int standing)
    {
        var (run, plan) = (v.Run, v.Plan);
        var stored = place.Files.Put(to => to.Write(piece.ToBytes()));
        work.Db.RunFiles.Add(
            new RunFile
            {
                RunId = run.Id, Kind = PieceKind,
                Name = Glenfrost.Application.Pieces.FileName("json", "simulated-piece", v.Pairing?.Filament!.Line ?? v.Toolhead.FullName, $"run {run.Number}"),
                Sha256 = stored.Sha256, Bytes = stored.Bytes, CreatedAt = work.Now, PersonId = job.PersonId,
            });
        var whole = standing >= plan.TotalLayers;
        await work.LogAsync(
            "run", $"{v.Title} {(plan.TotalLayers == 0 ? "run" : "printed")} on the simulated printer, {job.Outcome}: {v.Name}", $"/runs/{run.Id}");
        await reports.ReportAsync(
            v,
            new(
                whole ? "whole" : "ended early", whole ? null : standing, Math.Max(1, (int)Math.Round(piece.Trace.PrintSeconds / 60)), null,
                SimulatedTrial.Of(run.Kind).Followed(piece.Piece(), plan)),
            await KnownAsync(v, job, piece.Piece()));
    }

    /// <summary>What a simulated bench knows of itself: its spool, which lies in a dry box, and the air that it was set to.</summary>
    private async Task<Dictionary<string, FactorValue>> KnownAsync(TrialRunView v, Job job, SimulatedPiece piece)
    {
        var known = new Dictionary<string, FactorValue>();
        var air = job.OptionsJson is { } json ? Json.Read<BenchConditions>(json) : new(null, null);
        var filament = v.Pairing?.FilamentId;
        if (await work.Db.Spools.AsNoTracking().Where(s => s.FilamentId == filament && s.World == Worlds.Practice && s.RemovedAt == null)
                .FirstOrDefaultAsync() is
            { } spool)
        {
            known[FactorRegistry.Spool] = FactorValue.Of(spool.Id, spool.Name, FactorSource.Instrument);
            known[FactorRegistry.Dryness] = FactorValue.Of(
                air.OpenHours <= (Core.Filaments.Family.Find(v.Pairing?.Filament!.Family)?.OpenHoursLeft(0, air.HumidityPercent) ?? 0) ? "dry" : "damp",
                FactorSource.Instrument);
            known[FactorRegistry.HoursOpen] = FactorValue.Of(air.OpenHours, FactorSource.Instrument);
        }

        if (FactorRegistry.Find(FactorRegistry.ChamberC)!.AppliesTo(FactorBook.Situation(v.Run, v.Pairing, v.Toolhead, v.Plan)))
        {
            // Taken as the print begins and as it ends.
            var bedC = piece.Trace.Layers.Count > 0 ? piece.Trace.Layers[0].BedC : air.RoomC;
            FactorValue Chamber(double seconds) => FactorValue.Of(
                Math.Round(piece.Laws.Machine.ChamberC(air.RoomC, bedC, HiddenMachine.HotBeforeS + seconds), 1), FactorSource.Instrument);
            known[FactorRegistry.ChamberC] = Chamber(0);
            known[FactorRegistry.ChamberEndC] = Chamber(piece.Trace.PrintSeconds);
        }

        known[FactorRegistry.HumidityPercent] = FactorValue.Of(air.HumidityPercent, FactorSource.Instrument);
        known[FactorRegistry.RoomC] = FactorValue.Of(air.RoomC, FactorSource.Instrument);
        known[FactorRegistry.RoomEndC] = FactorValue.Of(air.RoomC, FactorSource.Instrument);
        return known;
    }

    /// <summary>Layers of the plan that stand, in the plan's own count.</summary>
    private static int StandingLayers(PrintTrace trace, ITrialPlan plan)
    {
        if (plan.TotalLayers == 0)
            return trace.Free.Count > 0 || trace.Layers.Count > 0 ? 1 : 0;
        if (plan.LayersPerPiece is not { } per)
            return trace.Layers.Count(l => l.Object == 0);
        return trace.Layers.GroupBy(l => l.Object).Count(g => g.Count() >= per) * per;
    }

    /// <summary>The piece of a run; null where it was not printed here.</summary>
    public SimulatedPiece? PieceOf(Run run)
    {
        if (run.Files.Where(f => f.Kind == PieceKind).MaxBy(f => f.CreatedAt) is not { } file)
            return null;
        if (answers.TryGet($"piece {file.Sha256}", out SimulatedPiece? known))
            return known;
        if (place.Files.Open(file.Sha256) is not { } content)
            return null;
        using (content)
            return answers.Put($"piece {file.Sha256}", AnswerCache.Piece, PieceFile.Read(content).Piece());
    }

    /// <summary>Draws each standing section and puts the pictures with the run's photos, through the same door as a camera's.</summary>
    private async Task PhotographAsync(TrialRunView v, SimulatedPiece piece)
    {
        Directory.CreateDirectory(place.IncomingFolder);
        foreach (var s in v.Parts)
        {
            if (v.States[s.Index] == SectionState.Lost || SimulatedTrial.Of(v.Run.Kind).Photo(piece, v.Plan, s.Index) is not { } png)
                continue;
            var path = Path.Combine(place.IncomingFolder, $"{Guid.NewGuid():N}.part");
            await File.WriteAllBytesAsync(path, png);
            try
            {
                await photos.AddAsync(v.Run, s.Index, $"simulated-{v.Run.Id}-{s.Index}", new("photo", "section.png", path, 0, false));
            }
            finally
            {
                File.Delete(path);
            }
        }
    }

    /// <summary>Reads a piece, one value after another, as if somebody typed.</summary>
    public async Task ReadAsync(Guid runId, ReadingNow now, TimeSpan between, CancellationToken stop)
    {
        if (await runs.LoadAsync(runId) is not { } v || PieceOf(v.Run) is not { } piece)
            return;
        var list = SimulatedTrial.Of(v.Run.Kind).Readings(piece, v.Plan, v.States, EyesSeed(v))
            .Where(r => !v.Cells.TryGetValue((r.Section, r.Aspect), out var c) || c.Entered == "").ToList();
        now.Of(list.Count);
        var instruments = new Dictionary<string, Guid>();
        foreach (var (section, aspect, kind, shown, word) in list)
        {
            stop.ThrowIfCancellationRequested();
            if (!instruments.TryGetValue(kind, out var revision))
                instruments[kind] = revision = await instrumentBook.RevisionAsync($"simulated {kind}", kind, shown.Resolution, shown.Unit);
            var text = word ?? Words.N(shown.Value, 3);
            // The context is one for all; what it holds of one reading is not needed for the next.
            work.Db.ChangeTracker.Clear();
            await store.StoreAsync(
                runId, new($"simulated-{section}-{aspect}", section, aspect, text, null, null, true)
                {
                    InstrumentRevisionId = revision, Resolution = word is null ? shown.Resolution : null,
                });
            now.One();
            if (between > TimeSpan.Zero)
                await Task.Delay(between, stop);
        }
    }

    /// <summary>The same eyes look at all pieces of a pairing's printer world.</summary>
    public static ulong EyesSeed(TrialRunView v) => Chance.Hash($"eyes at {v.Toolhead.Printer!.Name}");
}
