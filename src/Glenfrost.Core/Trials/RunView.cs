namespace Glenfrost.Core.Trials;

/// <summary>A run as its trial's partials need it: the plan, what is read, and the verdict once it is asked for.</summary>
/// <param name="Plan">The plan of the run.</param>
/// <param name="Readings">Its standing readings.</param>
/// <param name="Judged">The verdict, in words.</param>
public sealed record RunData(ITrialPlan Plan, RunReadings Readings, Lazy<TrialVerdict> Judged)
{
    /// <summary>The run, for forms that send a reading of their own; empty where it is none that is stored.</summary>
    public Guid RunId { get; init; }

    /// <summary>What its filament costs; null where nobody said.</summary>
    public FilamentPrice? Price { get; init; }

    /// <summary>The standing reading of each cell.</summary>
    public IReadOnlyDictionary<(int Section, string Aspect), Guid> ReadingIds { get; init; } = new Dictionary<(int, string), Guid>();
}

/// <summary>What a filament costs.</summary>
/// <param name="PerKg">In whole units of the currency.</param>
/// <param name="Currency">As the filament's page says it.</param>
public sealed record FilamentPrice(double PerKg, string Currency);

/// <summary>A run of any trial, for partials that serve them all.</summary>
public interface IRunView
{
    /// <summary>The trial.</summary>
    Trial Trial { get; }

    /// <summary>The plan.</summary>
    ITrialPlan Plan { get; }

    /// <summary>The verdict; judged when it is first asked for.</summary>
    TrialVerdict Verdict { get; }
}

/// <summary>A run of any trial on the typed contract.</summary>
/// <param name="Trial">The trial.</param>
/// <param name="Run">What is known of it.</param>
public abstract record RunView(Trial Trial, RunData Run) : IRunView
{
    ITrialPlan IRunView.Plan => Run.Plan;

    TrialVerdict IRunView.Verdict => Run.Judged.Value;

    /// <summary>What is read of it.</summary>
    public RunReadings Readings => Run.Readings;

    /// <summary>Rows and columns of readings.</summary>
    public ReadingGrid Grid => Trial.Grid(Run.Plan);

    /// <summary>The standing reading of a cell; null where it is empty.</summary>
    public Guid? ReadingId(int section, string aspect) => Run.ReadingIds.TryGetValue((section, aspect), out var id) ? id : null;

    /// <summary>What stands in a cell, as it was entered; empty where nothing does.</summary>
    public string Text(int section, string aspect) => Readings.Text(section, aspect);
}

/// <summary>A run with the plan and the verdict of its own trial.</summary>
/// <typeparam name="TPlan">Record of its plans.</typeparam>
/// <typeparam name="TVerdict">Record of its verdicts.</typeparam>
/// <param name="Trial">The trial.</param>
/// <param name="Run">What is known of the run.</param>
public sealed record RunView<TPlan, TVerdict>(Trial Trial, RunData Run) : RunView(Trial, Run)
    where TPlan : class, ITrialPlan
    where TVerdict : TrialVerdict
{
    /// <summary>The plan.</summary>
    public TPlan Plan => (TPlan)Run.Plan;

    /// <summary>The verdict; judged when it is first asked for.</summary>
    public TVerdict Verdict => (TVerdict)Run.Judged.Value;
}

/// <summary>A label for a cup, a sample or a piece.</summary>
/// <param name="Title">Its number, or what it is called.</param>
/// <param name="Sub">What else is known of it; may be empty.</param>
/// <param name="Write">Lines to be filled in by hand; may be empty.</param>
public sealed record PieceTag(string Title, string Sub, string Write = "");

/// <summary>What a run says of an area of evidence that has no setting.</summary>
/// <param name="Area">Key of the area.</param>
/// <param name="Passed">True where it is found good.</param>
/// <param name="Doubts">Areas whose settings become doubtful with it; empty where it passed.</param>
/// <param name="OfSpool">True where it holds for the spool that was printed from, so that one must be named; false where it holds for the product.</param>
public sealed record AreaFinding(string Area, bool Passed, IReadOnlyList<string> Doubts, bool OfSpool)
{
    /// <summary>Areas whose settings it shows good: those that rest on one run are confirmed with it. Empty where it shows none.</summary>
    public IReadOnlyList<string> Shows { get; init; } = [];
}
