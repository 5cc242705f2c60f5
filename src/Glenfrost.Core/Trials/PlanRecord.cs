using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials;

/// <summary>What every stored plan has; a trial's own record adds what was asked. What the house asks of a plan is computed, not stored.</summary>
public abstract record PlanRecord : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>Time, mass, cost.</summary>
    public required TrialEstimate Estimate { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>Parts that are read.</summary>
    protected abstract IReadOnlyList<PlanPart> PartsOf { get; }

    /// <summary>The plan in one line.</summary>
    protected abstract string InWords { get; }

    /// <summary>Nozzle, °C.</summary>
    protected abstract double NozzleC { get; }

    /// <summary>Layers in the order of printing; 0 where no piece stands on the bed.</summary>
    protected virtual int LayersOf => 0;

    /// <summary>Layers of a piece of the plate; null for one piece.</summary>
    protected virtual int? EachLayers => null;

    /// <summary>What to check on the display.</summary>
    protected virtual IReadOnlyList<PlanCheckpoint> ChecksOf => [];

    /// <summary>Head of the column of what is shown.</summary>
    protected virtual string ChecksHead => "Display";

    /// <summary>Coolest nozzle that it extrudes at, °C.</summary>
    protected virtual double LeastC => NozzleC;

    /// <summary>Hottest nozzle that it asks for, °C.</summary>
    protected virtual double MostC => NozzleC;

    /// <summary>True where Glenfrost writes its file.</summary>
    protected virtual bool MakesFile => true;

    /// <summary>The file of somebody's own that it was made from; null for none.</summary>
    protected virtual string? OwnFileOf => null;

    IReadOnlyList<PlanPart> ITrialPlan.Parts => PartsOf;

    string ITrialPlan.Summary => InWords;

    int ITrialPlan.TotalLayers => LayersOf;

    int? ITrialPlan.LayersPerPiece => EachLayers;

    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints => ChecksOf;

    string ITrialPlan.CheckpointHead => ChecksHead;

    bool ITrialPlan.WritesFile => MakesFile;

    string? ITrialPlan.OwnFile => OwnFileOf;

    double ITrialPlan.HottestC => MostC;

    double ITrialPlan.CoolestC => LeastC;
}
