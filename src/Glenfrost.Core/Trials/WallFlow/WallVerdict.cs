using System.Text.Json.Serialization;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.WallFlow;

/// <summary>Readings of a wall and how to judge them. Widths in mm.</summary>
public sealed record WallReadings
{
    /// <summary>Multiplier that it was printed with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Width of one line as the slicer means it.</summary>
    public double TargetWidthMm { get; init; }

    /// <summary>Lines side by side in the wall.</summary>
    public int Walls { get; init; } = 1;

    /// <summary>Readings.</summary>
    public IReadOnlyList<double> ReadingsMm { get; init; } = [];

    /// <summary>Smallest step of the calliper.</summary>
    public double ResolutionMm { get; init; } = 0.01;

    /// <summary>How far the wall may be off, %.</summary>
    public double TolerancePercent { get; init; } = 2;

    /// <summary>Layer height; null where it is not known.</summary>
    public double? LayerHeightMm { get; init; }

    /// <summary>Model of a line's cross-section.</summary>
    public BeadModel Area { get; init; } = BeadModel.Rectangular;

    /// <summary>What a flow override in the start code leaves, %.</summary>
    public double ResidualFlowPercent { get; init; } = 100;

    /// <summary>True where the override is there in real prints too.</summary>
    public bool ResidualFlowStays { get; init; } = true;

    /// <summary>
    /// Filament fed for each mm of line, mm, as the file says; with <see cref="FilamentDiameterMm"/> and the layer height it overrules the target.
    /// </summary>
    public double? FeedPerMm { get; init; }

    /// <summary>Filament diameter that the file counts with, mm.</summary>
    public double? FilamentDiameterMm { get; init; }

    /// <summary>Measured mean diameter of the filament, mm.</summary>
    public double? MeasuredDiameterMm { get; init; }
}

/// <summary>What a wall says.</summary>
public enum WallOutcome
{
    /// <summary>The multiplier stands: the wall's interval lies within the tolerance.</summary>
    Keep,

    /// <summary>The wall is shown to be off: another multiplier.</summary>
    Adjust,

    /// <summary>Not to be told yet.</summary>
    MeasureMore,

    /// <summary>The wall differs from place to place more than a sound one.</summary>
    Unsteady,
}

/// <summary>What a wall warns of.</summary>
public enum WallCaution
{
    /// <summary>The file counts with another filament diameter than was measured.</summary>
    OtherDiameter,

    /// <summary>A flow override is there in real prints too.</summary>
    OverrideStays,

    /// <summary>A flow override is not there in real prints.</summary>
    OverrideGoes,

    /// <summary>Readings stand apart from the others.</summary>
    Outliers,

    /// <summary>The change is more than flow.</summary>
    LargeChange,

    /// <summary>The multiplier is none that can be kept.</summary>
    NoMultiplier,
}

/// <summary>The numbers between readings and verdict, for the arithmetic. Widths in mm.</summary>
/// <param name="TargetMm">Width of one line: asked for, or as the file's own plastic makes it.</param>
/// <param name="LineMm">The same with what an override leaves, by rectangular beads.</param>
/// <param name="RoundLineMm">The same by beads with round ends.</param>
/// <param name="RoundEndsMm">What round ends take off, h(1 − π/4).</param>
/// <param name="ToleranceMm">How far the wall may be off.</param>
/// <param name="Mean">Mean, scatter and interval of the readings; null where nothing is read.</param>
/// <param name="Rectangular">Multiplier by rectangular beads, not rounded; null where nothing is read.</param>
/// <param name="BeadMm">Width of one bead of the wall read, by round ends; null where nothing is read.</param>
/// <param name="Stadium">Multiplier by beads with round ends; null where it can't be told.</param>
/// <param name="HalfWidth">95 % half-width of the multiplier; null where one reading leaves it open.</param>
public sealed record WallNumbers(
    double TargetMm, double LineMm, double RoundLineMm, double RoundEndsMm, double ToleranceMm, Measured? Mean = null, double? Rectangular = null,
    double? BeadMm = null, double? Stadium = null, double? HalfWidth = null)
{
    /// <summary>Change of the multiplier, %.</summary>
    public double ChangePercent { get; init; }
}

/// <summary>The verdict on a wall.</summary>
public sealed record WallVerdict : TrialVerdict<WallOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public WallReadings From { get; init; } = new();

    /// <summary>The numbers on the way; null where the readings were refused.</summary>
    [JsonIgnore]
    public WallNumbers? Numbers { get; init; }

    /// <summary>What it warns of.</summary>
    [JsonIgnore]
    public IReadOnlyList<WallCaution> Cautions { get; init; } = [];

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>New multiplier, three decimals, by the area model asked for; null where nothing is read.</summary>
    public double? NewExtrusionMultiplier { get; init; }

    /// <summary>95 % half-width of it.</summary>
    public double? NewUncertainty { get; init; }

    /// <summary>The same by rectangular beads.</summary>
    public double? RectangularMultiplier { get; init; }

    /// <summary>The same by beads with round ends; null where the layer height is not known.</summary>
    public double? StadiumMultiplier { get; init; }

    /// <summary>Mean wall, mm.</summary>
    public double? MeanMm { get; init; }

    /// <summary>Standard uncertainty of the mean, calliper's step counted, mm.</summary>
    public double? StandardErrorMm { get; init; }

    /// <summary>95 % half-width of the mean, mm.</summary>
    public double? HalfWidthMm { get; init; }

    /// <summary>What the wall should measure, mm.</summary>
    public double ExpectedMm { get; init; }

    /// <summary>The readings, in their order, mm.</summary>
    public IReadOnlyList<double> ReadMm { get; init; } = [];

    /// <summary>Readings that stand apart, in their order: marked, not dropped.</summary>
    public IReadOnlyList<bool> Outliers { get; init; } = [];

    /// <summary>Readings still needed to tell; null where that is not the matter.</summary>
    public int? NeededReadings { get; init; }
}
