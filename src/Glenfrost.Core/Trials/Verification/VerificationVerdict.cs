using System.Text.Json.Serialization;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Core.Trials.Verification;

/// <summary>What was measured on a gauge clip. Lengths in mm; null where nobody measured.</summary>
public sealed record ClipFit
{
    /// <summary>Rod that it is to hold, measured.</summary>
    public double? RodMm { get; init; }

    /// <summary>Bore above its foot layers, from side to side.</summary>
    public double? BoreMm { get; init; }

    /// <summary>Bore in the lowest millimetre.</summary>
    public double? BoreAtBedMm { get; init; }

    /// <summary>Largest gap under an end of its foot.</summary>
    public double? GapMm { get; init; }

    /// <summary>How it snaps onto the rod, 0–4.</summary>
    public double? Snap { get; init; }

    /// <summary>Bore as drawn.</summary>
    public double DrawnBoreMm { get; init; } = 8.2;

    /// <summary>Play that was asked for: the clearance.</summary>
    public double ClearanceMm { get; init; } = 0.2;

    /// <summary>How far the play may be off.</summary>
    public double ToleranceMm { get; init; } = 0.15;

    /// <summary>Largest gap that passes for flat.</summary>
    public double MostGapMm { get; init; } = 0.3;
}

/// <summary>Readings of a verification piece.</summary>
public sealed record VerificationReadings
{
    /// <summary>vane or clip.</summary>
    public string Piece { get; init; } = VerificationTrial.Vane;

    /// <summary>Its zones from the bed up.</summary>
    public required IReadOnlyList<PartZone> Zones { get; init; }

    /// <summary>Score that each zone is to reach, 0–4.</summary>
    public double TargetScore { get; init; } = 3;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = Statistics.ScoreNoise.Default;

    /// <summary>What was measured; only of a clip.</summary>
    public ClipFit? Fit { get; init; }
}

/// <summary>What of a clip is not as it was asked for.</summary>
public enum ClipFault
{
    /// <summary>The rod is held too tight.</summary>
    Tight,

    /// <summary>The rod is held too loosely.</summary>
    Loose,

    /// <summary>The bore is narrower at the bed.</summary>
    NarrowAtBed,

    /// <summary>An end of the foot is lifted.</summary>
    Lifted,

    /// <summary>It does not snap as it should.</summary>
    Snap,
}

/// <summary>What of a clip is still to be measured.</summary>
public enum ClipMissing
{
    /// <summary>The rod.</summary>
    Rod,

    /// <summary>The bore above its foot layers.</summary>
    Bore,

    /// <summary>How it snaps.</summary>
    Snap,
}

/// <summary>The verdict on a verification piece.</summary>
public sealed record VerificationVerdict : ZonedVerdict
{
    /// <summary>vane or clip.</summary>
    public string Piece { get; init; } = VerificationTrial.Vane;

    /// <summary>What was measured of a clip; null for a vane.</summary>
    [JsonIgnore]
    public ClipFit? Fit { get; init; }

    /// <summary>Bore less rod, mm; null where one of them is not measured.</summary>
    public double? PlayMm { get; init; }

    /// <summary>Measured bore less the drawn one, mm: what the print made of it, whatever the rod is.</summary>
    public double? BoreOffMm { get; init; }

    /// <summary>What of a clip is not as it was asked for.</summary>
    public IReadOnlyList<ClipFault> Faults { get; init; } = [];

    /// <summary>What of a clip is still to be measured.</summary>
    public IReadOnlyList<ClipMissing> Missing { get; init; } = [];

    /// <summary>True where the play lies so near its limit that another measurement may put it on the other side.</summary>
    public bool FitClose { get; init; }

    /// <summary>True where the play is off though the bore is as drawn: the rod is another one than was planned for.</summary>
    public bool RodIsOff { get; init; }

    /// <summary>Areas of evidence that it shows good; empty unless it passed.</summary>
    public IReadOnlyList<string> Shows { get; init; } = [];
}
