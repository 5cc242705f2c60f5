using Glenfrost.Application.Devices;
using Glenfrost.Application.Exchange;
using Glenfrost.Application.Gcode;
using Glenfrost.Application.Photos;
using Glenfrost.Application.Simulated;
using Glenfrost.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Glenfrost.Application;

/// <summary>Puts the use cases together, and makes a data folder ready for them.</summary>
public static class ApplicationServices
{
    // One of each for a request; they share its database and its person.
    private static readonly Type[] OfARequest =
    [
        typeof(Caller), typeof(WorkContext), typeof(FilamentBook), typeof(SpoolBook), typeof(RoomBook), typeof(PeopleBook), typeof(DeviceBook),
        typeof(DeviceAccess), typeof(PrinterBook), typeof(MachineBook), typeof(PairingBook), typeof(PairingTable), typeof(NameSearch), typeof(LogBook),
        typeof(SittingBook), typeof(DiskProbe), typeof(Erasure),
        typeof(ScoreNoises), typeof(PhotoBook), typeof(AnchorBook), typeof(Instruments), typeof(Findings), typeof(Exports), typeof(Imports),
        typeof(NotesImport),
        typeof(Profiles),
        typeof(Pieces), typeof(GcodeRoom), typeof(FactorBook), typeof(EvidenceBook), typeof(AreaEvidence), typeof(TrialRuns), typeof(RunComparison),
        typeof(GuideRecord), typeof(NewestVerdicts), typeof(PlanRuns), typeof(RunFileBook), typeof(PrintReports), typeof(ReadingStore), typeof(Decisions),
            typeof(UndoChange),
        typeof(SideBySide), typeof(PairingRoutes), typeof(LedgerBook), typeof(RunsSideBySide),
        typeof(PairingsSideBySide), typeof(Reports.ReportBook), typeof(PresetBook), typeof(ScheduleBook),
        typeof(OwnFiles), typeof(PartSuspects), typeof(TallyBook), typeof(Trials.PartDensities),
        typeof(DryerBook), typeof(GoalBook), typeof(TierBook), typeof(PulseBook), typeof(SameAgain),
        typeof(RunBook), typeof(Upgrade), typeof(PracticeWorld), typeof(Paces), typeof(Stamps),
        typeof(SimulatedRuns), typeof(Today), typeof(DemoLoader),
    ];

    /// <summary>Adds all use cases over a data folder.</summary>
    /// <param name="services">Where they are added.</param>
    /// <param name="place">The data folder.</param>
    /// <param name="gcodeMb">Largest G-code file, MB, as it was typed; null for the usual one.</param>
    public static void AddApplication(this IServiceCollection services, DataPlace place, string? gcodeMb)
    {
        services.AddSingleton(place);
        services.AddSingleton<WriteGate>();
        services.AddSingleton<AnswerCache>();
        services.AddSingleton<SlipMinute>();
        services.AddSingleton<RunPulse>();
        services.AddSingleton<TimeProvider>(new SteadyClock(TimeProvider.System));
        services.AddDbContextPool<GlenfrostDb>(o => DataPlace.Configure(o, place.DatabasePath));
        services.AddSingleton(GcodeLimit.Of(gcodeMb));
        foreach (var type in OfARequest)
            services.AddScoped(type);
        services.AddSingleton<PrintJobs>();
        services.AddSingleton<IHostedService>(s => s.GetRequiredService<PrintJobs>());
    }

    /// <summary>Makes the data folder ready: brings its database to this version, fills what older ones lack, lays out the demo in an empty one.</summary>
    /// <param name="services">Of one scope.</param>
    /// <param name="demo">Folder of the demo's files; null for none.</param>
    public static async Task MakeReadyAsync(IServiceProvider services, string? demo)
    {
        var (db, place) = (services.GetRequiredService<GlenfrostDb>(), services.GetRequiredService<DataPlace>());
        await place.MigrateAsync(db);
        await services.GetRequiredService<Upgrade>().RecordsAsync();
        place.Sweep();
        if (demo is { Length: > 0 } && !await db.People.AnyAsync())
            await services.GetRequiredService<DemoLoader>().LoadAsync(demo);
    }

    /// <summary>Lays out the demo in a data folder, without a server.</summary>
    /// <param name="place">The data folder.</param>
    /// <param name="demo">Folder of the demo's files.</param>
    /// <param name="hear">Is handed the loader before it begins; null for nothing.</param>
    public static async Task LayOutDemoAsync(DataPlace place, string demo, Action<DemoLoader>? hear = null)
    {
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
        {
            await place.MigrateAsync(db);
            var loader = new DemoLoader(db, new WriteGate(), TimeProvider.System, place);
            hear?.Invoke(loader);
            await loader.LoadAsync(demo);
        }

        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
    }
}
