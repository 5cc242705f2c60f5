using System.Collections.Concurrent;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Watching;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Glenfrost.Application.Simulated;

/// <summary>Where simulated prints and readings run, beside the pages: each is a job with a checkpoint, and one printer prints one thing at a time.</summary>
public sealed class PrintJobs(
    IServiceScopeFactory scopes, DataPlace place, TimeProvider clock, IConfiguration configuration, ILogger<PrintJobs> log) : BackgroundService
{
    private readonly ConcurrentDictionary<Guid, LivePrint> prints = new();
    private readonly ConcurrentDictionary<Guid, ReadingNow> readings = new();
    private readonly ConcurrentDictionary<Guid, Task> tasks = new();
    private readonly CancellationTokenSource down = new();

    /// <summary>Between two readings of the simulated instruments.</summary>
    public TimeSpan BetweenReadings { get; } = TimeSpan.FromMilliseconds(int.TryParse(configuration["reading-ms"], out var ms) ? Math.Clamp(ms, 0, 5000) : 140);

    /// <summary>The print of a run that runs now; null where none does.</summary>
    public LivePrint? PrintOf(Guid runId) => prints.Values.FirstOrDefault(p => p.Job.RunId == runId);

    /// <summary>The reading of a run that goes on now.</summary>
    public ReadingNow? ReadingOf(Guid runId) => readings.GetValueOrDefault(runId);

    /// <summary>All prints that run.</summary>
    public IReadOnlyCollection<LivePrint> Prints => [.. prints.Values];

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // What ran when the server went down does not run any more, and says so.
        await using var scope = scopes.CreateAsyncScope();
        await InterruptAsync(scope.ServiceProvider.GetRequiredService<WorkContext>());
    }

    /// <summary>Jobs that nobody works on are interrupted.</summary>
    private async Task InterruptAsync(WorkContext work)
    {
        string[] busy = [JobStates.Running, JobStates.Paused];
        var live = prints.Keys.ToList();
        foreach (var job in await work.Db.Jobs.Where(j => busy.Contains(j.State) && !live.Contains(j.Id)).ToListAsync())
        {
            (job.State, job.EndedAt, job.ChangedAt) = (JobStates.Interrupted, work.Now, work.Now);
            job.Outcome = job.Kind == "print" ? $"interrupted at layer {job.Layer}: the server went down" : "interrupted: the server went down";
            await work.LogAsync("run", $"Simulated {(job.Kind == "print" ? "print" : "reading")} {job.Outcome}", $"/runs/{job.RunId}");
        }

        await work.SaveAsync();
    }

    /// <summary>Begins a print.</summary>
    /// <param name="work">Of the one who asks.</param>
    /// <param name="v">The run; of the practice world, planned, with a file.</param>
    /// <param name="file">Its file.</param>
    /// <param name="speed">Times real time.</param>
    /// <param name="faults">Name and height of what goes wrong; null for nothing.</param>
    /// <returns>What is wrong; null where it runs.</returns>
    public async Task<string?> PrintAsync(WorkContext work, TrialRunView v, RunFile file, double speed, (string Name, double At)? faults)
    {
        if (v.Run.World != Worlds.Practice)
            return "Only runs of the practice world are printed on the simulated printer.";
        if (!place.Files.Exists(file.Sha256))
            return "The run's file is gone from the data folder. Change the plan, then a new one is written.";
        var printerId = v.Toolhead.PrinterId;
        await InterruptAsync(work);
        var layers = await FileLayersAsync(file, v);
        var pace = await new Paces(work.Db).OfAsync(printerId, v.Run.World);
        var predicted = layers.Count > 0 ? layers[^1].StartS + layers[^1].Seconds : (v.Run.ForeseenMinutes ?? 0) * 60.0;
        var job = new Job
        {
            Kind = "print",
            RunId = v.Run.Id,
            PrinterId = printerId,
            State = JobStates.Running,
            CreatedAt = work.Now,
            ChangedAt = work.Now,
            PersonId = (await work.PersonAsync()).Id,
            Speed = Math.Clamp(speed, 1, LivePrint.MostSpeed),
            Seed = v.Run.Seed,
            PredictedS = predicted,
            ReestimatedS = pace.Of(predicted),
        };
        var (open, humidity, room) = await SpoolAsync(work, v);
        var conditions = new BenchConditions(faults?.Name, faults?.At, room, open, humidity);
        job.OptionsJson = Json.Write(conditions);
        var tools = await work.Db.Toolheads.CountAsync(t => t.PrinterId == printerId && t.RemovedAt == null);
        try
        {
            string[] busy = [JobStates.Running, JobStates.Paused];
            var begun = await work.AloneAsync(async () =>
            {
                if (await work.Db.Jobs.AnyAsync(j => j.PrinterId == printerId && busy.Contains(j.State)))
                    return 0;
                work.Db.Jobs.Add(job);
                var run = await work.Db.Runs.FirstAsync(r => r.Id == v.Run.Id);
                run.PrintStartedAt = work.Now;
                run.ReestimatedMinutes = (int)Math.Ceiling(pace.Of(predicted) / 60);
                work.Touch(run);
                await work.LogAsync("run", $"{v.Title} {(v.Plan.TotalLayers == 0 ? "runs" : "prints")} on the simulated printer: {v.Name}", $"/runs/{run.Id}");
                return await work.Db.SaveChangesAsync();
            });
            if (begun == 0)
                return Busy(v);
        }
        catch (DbUpdateException e) when (e is not DbUpdateConcurrencyException)
        {
            // The database itself holds one print per printer.
            work.Db.ChangeTracker.Clear();
            return Busy(v);
        }

        var live = new LivePrint(
            job, BenchOf.For(v.Pairing, v.Toolhead, tools, unchecked((ulong)job.Seed), conditions), v.Plan, place.Files.PathOf(file.Sha256), conditions.Faults,
            pace, [.. layers.Select(l => l.StartS)])
        { Trial = v.Trial };
        prints[job.Id] = live;
        tasks[job.Id] = Task.Run(() => RunAsync(live));
        return null;
    }

    private static string Busy(TrialRunView v) => $"{v.Toolhead.FullName} prints something else now. Wait for it, or stop it.";

    /// <summary>A spool's openness, the room's humidity and temperature.</summary>
    private static async Task<(double OpenHours, double Humidity, double RoomC)> SpoolAsync(WorkContext work, TrialRunView v)
    {
        var room = await work.RoomAsync();
        var humidity = room?.HumidityPercent ?? Core.Filaments.DrynessFacts.UsualHumidityPercent;
        var spool = await work.Db.Spools.AsNoTracking().Include(s => s.Dryings).Include(s => s.Stays)
            .Where(s => v.Pairing != null && s.FilamentId == v.Pairing.FilamentId && s.RemovedAt == null && s.World == v.Run.World).OrderBy(s => s.Id)
            .FirstOrDefaultAsync();
        var hours = spool is null ? 0 : Facts.Dryness(spool, v.Pairing!.Filament!.Family, humidity, work.Now).Item1 ?? 0;
        return (Math.Min(hours, 2000), humidity, room?.TemperatureC ?? 20);
    }

    private async Task RunAsync(LivePrint live)
    {
        var job = live.Job;
        try
        {
            var piece = await live.RunAsync(() => CheckpointAsync(live), down.Token);
            await using var scope = scopes.CreateAsyncScope();
            await scope.ServiceProvider.GetRequiredService<SimulatedRuns>().TakeOffAsync(live, piece!);
        }
        catch (OperationCanceledException) when (down.IsCancellationRequested)
        {
            // The row stays as it is; the next start calls it interrupted.
        }
        catch (Exception e)
        {
            log.LogError(e, "a simulated print failed");
            await using var scope = scopes.CreateAsyncScope();
            await scope.ServiceProvider.GetRequiredService<SimulatedRuns>().FailAsync(job.Id, "failed inside Glenfrost; the server's log says why");
        }
        finally
        {
            prints.TryRemove(job.Id, out _);
            tasks.TryRemove(job.Id, out _);
        }
    }

    private async Task CheckpointAsync(LivePrint live)
    {
        await using var scope = scopes.CreateAsyncScope();
        var (db, gate) = (scope.ServiceProvider.GetRequiredService<GlenfrostDb>(), scope.ServiceProvider.GetRequiredService<WriteGate>());
        await gate.Through(() =>
            db.Jobs.Where(j => j.Id == live.Job.Id)
                .ExecuteUpdateAsync(s =>
                    s.SetProperty(j => j.Line, live.Line).SetProperty(j => j.Layer, live.Layer).SetProperty(j => j.ZMm, live.ZMm)
                        .SetProperty(j => j.ClockS, live.GoneS).SetProperty(j => j.Speed, live.Speed)
                        .SetProperty(j => j.State, live.Paused ? JobStates.Paused : JobStates.Running)
                        .SetProperty(j => j.ChangedAt, clock.GetUtcNow().UtcDateTime)));
    }

    /// <summary>Lets the simulated instruments read a printed piece, one value after another.</summary>
    /// <returns>What is wrong; null where it runs.</returns>
    public string? Read(Guid runId, Guid? personId)
    {
        var now = new ReadingNow();
        if (!readings.TryAdd(runId, now))
            return "The instruments read this piece already.";
        tasks[runId] = Task.Run(async () =>
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                scope.ServiceProvider.GetRequiredService<Caller>().PersonId = personId;
                await scope.ServiceProvider.GetRequiredService<SimulatedRuns>().ReadAsync(runId, now, BetweenReadings, down.Token);
            }
            catch (OperationCanceledException)
            {
                // What was read stands; the rest can be read again.
            }
            catch (Exception e)
            {
                log.LogError(e, "a simulated reading failed");
            }
            finally
            {
                readings.TryRemove(runId, out _);
                tasks.TryRemove(runId, out _);
            }
        });
        return null;
    }

    /// <summary>Layers of a run's file as its clock foresees them; read from the file itself.</summary>
    public async Task<IReadOnlyList<TimedLayer>> FileLayersAsync(RunFile file, TrialRunView v)
    {
        if (place.Files.Open(file.Sha256) is not { } content)
            return [];
        await using (content)
            return await Task.Run(() => FileLayers.Read(content, v.Toolhead, v.Pairing?.Filament));
    }

    /// <inheritdoc/>
    public override async Task StopAsync(CancellationToken cancellationToken)
    {
        await down.CancelAsync();
        await Task.WhenAny(Task.WhenAll(tasks.Values), Task.Delay(3000, cancellationToken));
        await base.StopAsync(cancellationToken);
    }
}

/// <summary>How far the simulated instruments are.</summary>
public sealed class ReadingNow
{
    private int done, all;

    /// <summary>Readings that are stored.</summary>
    public int Done => Volatile.Read(ref done);

    /// <summary>Readings that will be.</summary>
    public int All => Volatile.Read(ref all);

    /// <summary>Says how many there will be.</summary>
    public void Of(int count) => Volatile.Write(ref all, count);

    /// <summary>Counts one that is stored.</summary>
    public void One() => Interlocked.Increment(ref done);
}
