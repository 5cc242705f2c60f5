namespace Glenfrost.Storage.Records;

/// <summary>Something that runs on its own for a while, with a checkpoint: a print on the simulated printer, a reading with simulated instruments.</summary>
public sealed class Job : Record
{
    /// <summary>print or read.</summary>
    public required string Kind { get; set; }
    /// <summary>The run that it works for.</summary>
    public Guid RunId { get; set; }

    /// <summary>Printer that it keeps busy; null where none is.</summary>
    public Guid? PrinterId { get; set; }

    /// <summary>One of <see cref="JobStates"/>.</summary>
    public required string State { get; set; }
    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedAt { get; set; }
    /// <summary>When it last changed, UTC.</summary>
    public DateTime ChangedAt { get; set; }
    /// <summary>When it ended, UTC; null while it goes on.</summary>
    public DateTime? EndedAt { get; set; }
    /// <summary>Who did it; null where nobody was named.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>Times real time.</summary>
    public double Speed { get; set; } = 1;

    /// <summary>Fixes everything that is random in it.</summary>
    public long Seed { get; set; }

    /// <summary>What was asked besides: faults.</summary>
    public string? OptionsJson { get; set; }

    /// <summary>Checkpoint: lines of the file that were taken, layer of the plan that was reached, its height, seconds on the printer's own clock.</summary>
    public long Line { get; set; }
    /// <summary>Layer that is printed, from 1.</summary>
    public int Layer { get; set; }
    /// <summary>Height of the nozzle, mm.</summary>
    public double ZMm { get; set; }
    /// <summary>Seconds of the printer's own clock since the first move.</summary>
    public double ClockS { get; set; }

    /// <summary>Foreseen by the file, and by the file and what is known of this printer, seconds.</summary>
    public double? PredictedS { get; set; }
    /// <summary>Whole duration as it is estimated now, s; null before it is known.</summary>
    public double? ReestimatedS { get; set; }

    /// <summary>How it ended, in words; null while it runs.</summary>
    public string? Outcome { get; set; }
}

/// <summary>The states of a job, as stored.</summary>
public static class JobStates
{
    /// <summary>It goes on.</summary>
    public const string Running = "running";
    /// <summary>It waits until somebody lets it go on.</summary>
    public const string Paused = "paused";
    /// <summary>It came to its end.</summary>
    public const string Done = "done";
    /// <summary>Somebody stopped it.</summary>
    public const string Stopped = "stopped";
    /// <summary>It broke off by itself.</summary>
    public const string Failed = "failed";

    /// <summary>The server went down under it.</summary>
    public const string Interrupted = "interrupted";

    /// <summary>All of them.</summary>
    public static IReadOnlyList<string> All { get; } = [Running, Paused, Done, Stopped, Failed, Interrupted];
}
