using Glenfrost.Core.Equipment;
using Glenfrost.Core.Trials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Simulated;

/// <summary>What a run's page shows of the simulated bench.</summary>
public sealed record SimulatedView
{
    /// <summary>The run.</summary>
    public required TrialRunView V { get; init; }

    /// <summary>The print that goes on; null where none does.</summary>
    public PrintNow? Now { get; init; }

    /// <summary>The last print of this run that is over.</summary>
    public Job? Last { get; init; }

    /// <summary>How far the instruments are; null where they rest.</summary>
    public ReadingNow? Reading { get; init; }

    /// <summary>The strip of what was printed; null where nothing was.</summary>
    public IReadOnlyList<StripLayer>? Strip { get; init; }
    /// <summary>How the printer keeps to what its files foresee.</summary>
    public PrinterPace Pace { get; init; } = PrinterPace.Unknown;

    /// <summary>What the printer is busy with instead; null where it is free.</summary>
    public string? BusyWith { get; init; }

    /// <summary>The run that simulates this real one, and the real one that this simulates.</summary>
    public Guid? TwinId { get; init; }
    /// <summary>The real run that a practised one is of; null for a real one.</summary>
    public Guid? RealId { get; init; }

    /// <summary>True for a practised run.</summary>
    public bool IsPractice => V.Run.World == Worlds.Practice;

    /// <summary>True where there is a file to print.</summary>
    public bool HasFile => Pieces.StandingFile(V.Run, V.Plan) is not null;

    /// <summary>Speeds to choose from, times real time.</summary>
    public static IReadOnlyList<double> Speeds { get; } = [1, 10, 60, 300, 2000];

    /// <summary>Faults in words.</summary>
    public static IReadOnlyDictionary<string, string> FaultWords { get; } = new Dictionary<string, string>
    {
        ["knocked"] = "the tower is knocked over",
        ["tangle"] = "the spool tangles",
        ["slip"] = "the gear slips",
        ["blocked"] = "the nozzle is half blocked",
        ["runaway"] = "the heater runs away",
        ["power-cut"] = "the mains go",
        ["lost-connection"] = "the line to the printer breaks",
        ["garbled"] = "every n-th line arrives garbled",
    };

    /// <summary>Puts the view of a run together.</summary>
    public static async Task<SimulatedView> OfAsync(TrialRunView v, WorkContext work, PrintJobs jobs, Paces paces, SimulatedRuns simulated)
    {
        var (run, live) = (v.Run, jobs.PrintOf(v.Run.Id));
        var printerId = v.Toolhead.PrinterId;
        var view = new SimulatedView
        {
            V = v,
            Now = live?.Now(),
            Reading = jobs.ReadingOf(run.Id),
            Pace = await paces.OfAsync(printerId, run.World),
            TwinId =
                run.World == Worlds.Real
                    ? await work.Db.Runs.AsNoTracking().Where(r => r.LinkedRunId == run.Id && r.LinkKind == "simulates" && r.RemovedAt == null)
                        .OrderByDescending(r => r.CreatedAt).Select(r => (Guid?)r.Id).FirstOrDefaultAsync()
                    : null,
            RealId = run.LinkKind == "simulates" ? run.LinkedRunId : null,
        };
        if (!view.IsPractice)
            return view;
        var other = jobs.Prints.FirstOrDefault(p => p.Job.PrinterId == printerId && p.Job.RunId != run.Id);
        return view with
        {
            Last = await work.Db.Jobs.AsNoTracking().Where(j => j.RunId == run.Id && j.Kind == "print" && j.EndedAt != null).OrderByDescending(j => j.Id)
                .FirstOrDefaultAsync(),
            BusyWith = other is null ? null : $"/runs/{other.Job.RunId}",
            Strip = run.Stage == RunStages.Planned || simulated.PieceOf(run) is not { } piece ? null : StripOf(piece, v.Plan),
        };
    }

    private static IReadOnlyList<StripLayer> StripOf(SimulatedPiece piece, ITrialPlan plan)
    {
        var seen = piece.Trace.Layers;
        return [.. LivePrint.Planned(plan).Select((c, i) => new StripLayer(i + 1, c, i < seen.Count ? Math.Round(seen[i].DisplayC, 1) : null))];
    }
}
