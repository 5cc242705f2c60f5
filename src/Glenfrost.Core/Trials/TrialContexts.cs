using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials;

/// <summary>What a plan is proposed from: the machine, the settings in force, what is measured of the spool.</summary>
public sealed record PlanContext
{
    /// <summary>True where the filament packs in the path: by its family, or as it was measured on this pairing.</summary>
    public bool Soft => MeasuredSoft || Family?.Name == "TPU";

    /// <summary>True where a compression was measured on this pairing.</summary>
    public bool MeasuredSoft { get; init; }

    /// <summary>The machine; null over the API where none was described.</summary>
    public Machine? Machine { get; init; }

    /// <summary>Settings in force; null with the machine.</summary>
    public PrintSettings? Settings { get; init; }

    /// <summary>Settings kept in the profile, by key.</summary>
    public IReadOnlyDictionary<string, double> Kept { get; init; } = new Dictionary<string, double>();

    /// <summary>95 % half-widths of kept settings, by key; those that nobody knows are missing.</summary>
    public IReadOnlyDictionary<string, double> KeptHalf { get; init; } = new Dictionary<string, double>();

    /// <summary>Read runs of this trial on the same subject, the oldest first; only for a trial whose plan leans on them.</summary>
    public IReadOnlyList<EarlierRun> Earlier { get; init; } = [];

    /// <summary>Read checks of the rig on any subject, the oldest first: a rig is its owner's, not a pairing's. Only for a trial that breaks on one.</summary>
    public IReadOnlyList<EarlierRun> RigChecks { get; init; } = [];

    /// <summary>Family of the filament; null where it is not known.</summary>
    public Filaments.Family? Family { get; init; }

    /// <summary>What the spool's diameter readings say; null where nobody measured.</summary>
    public Filaments.DiameterSummary? Diameter { get; init; }

    /// <summary>Label's or family's range of nozzle temperatures.</summary>
    public Filaments.Span? AdvisedC { get; init; }

    /// <summary>Steps per mm now; null where the toolhead has a rotation distance or nothing was entered.</summary>
    public double? StepsPerMm { get; init; }

    /// <summary>Rotation distance now, mm.</summary>
    public double? RotationDistanceMm { get; init; }

    /// <summary>Solid density, g/cm³; null where it is not known.</summary>
    public double? DensityGPerCm3 { get; init; }

    /// <summary>What is known of the spool's dryness, with advice; null where nothing is.</summary>
    public Filaments.DrynessAdvice? Dryness { get; init; }

    /// <summary>Where pieces and lines are remembered from one plan to the next; nowhere unless who plans says so.</summary>
    public PieceMemory Memory { get; init; } = PieceMemory.None;

    /// <summary>The file of somebody's own that is to be printed; null where there is none.</summary>
    public Gcode.Inspection.OwnFile? OwnFile { get; init; }

    /// <summary>What the pairing's profile is for.</summary>
    public string Use { get; init; } = "balanced";

    /// <summary>Filament and toolhead in words.</summary>
    public string Subject { get; init; } = "";

    /// <summary>A temperature to print at: the kept one, else the middle of the advice, within what the hotend bears for long; °C.</summary>
    public double NozzleC =>
        Kept.TryGetValue("nozzleTemperatureC", out var t) ? Math.Clamp(t, Machine?.Limits.MinC ?? 170, Machine?.Limits.MaxC ?? 300)
        : Math.Clamp(AdvisedC?.Middle ?? 210, Machine?.Limits.MinC ?? 170, Machine?.Limits.ProposedMaxC ?? 300);
}

/// <summary>A run that was read before.</summary>
/// <param name="Plan">Its plan.</param>
/// <param name="Readings">Its readings.</param>
/// <param name="Name">Trial, number and day, as help beside a field names it.</param>
public sealed record EarlierRun(ITrialPlan Plan, RunReadings Readings, string Name)
{
    /// <summary>Its number.</summary>
    public int Number { get; init; }
}

/// <summary>A plan, or the fields at which it is refused.</summary>
public sealed record PlanResult(ITrialPlan? Plan, IReadOnlyList<FieldError> Errors)
{
    /// <summary>A refusal.</summary>
    public static PlanResult Refused(params FieldError[] errors) => new(null, errors);
}

/// <summary>How a verdict is to be made, besides the readings.</summary>
public sealed record JudgeContext
{
    /// <summary>The machine's limits, °C.</summary>
    public HotendLimits? Limits { get; init; }

    /// <summary>Label's or family's range, °C.</summary>
    public Filaments.Span? AdvisedC { get; init; }

    /// <summary>What the pairing's profile is for.</summary>
    public string Use { get; init; } = "balanced";

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>Seed of what is drawn.</summary>
    public int Seed { get; init; }

    /// <summary>Dialect of the printer.</summary>
    public string Dialect { get; init; } = "m900";

    /// <summary>Solid density of the filament, g/cm³; null where it is not known.</summary>
    public double? DensityGPerCm3 { get; init; }

    /// <summary>Values that are known good in daily use.</summary>
    public IReadOnlyList<Trials.KnownGoodValue> Practice { get; init; } = [];

    /// <summary>Earlier runs that are judged along, newest first.</summary>
    public IReadOnlyList<(ITrialPlan Plan, RunReadings Readings)> Earlier { get; init; } = [];
}
