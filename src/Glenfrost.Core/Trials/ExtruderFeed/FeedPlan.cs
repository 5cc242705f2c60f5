using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>What a tester asks of a feed measurement. Lengths of filament in mm.</summary>
public sealed record FeedRequest
{
    /// <summary>Steps per mm that are tried; null where the printer counts a rotation distance.</summary>
    public decimal? StepsPerMm { get; init; }

    /// <summary>Rotation distance that is tried, mm a turn; null where the printer counts steps.</summary>
    public decimal? RotationDistanceMm { get; init; }

    /// <summary>The mark's distance above the entry.</summary>
    public decimal MarkMm { get; init; } = 120;

    /// <summary>What the printer is told to feed.</summary>
    public decimal CommandedMm { get; init; } = 100;

    /// <summary>Fed before, so that nothing slack is left.</summary>
    public decimal PrimeMm { get; init; } = 10;

    /// <summary>How fast, mm of filament a minute: slow enough that nothing slips for want of melting.</summary>
    public decimal FeedMmPerMin { get; init; } = 80;

    /// <summary>Repeats at the same steps.</summary>
    public decimal Repeats { get; init; } = 3;

    /// <summary>Hot nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Smallest step of ruler and marker, mm.</summary>
    public decimal ResolutionMm { get; init; } = 0.5m;

    /// <summary>How far the mean may be off, mm; 0.5 for each 100 where it is not given.</summary>
    public decimal? ToleranceMm { get; init; }

    /// <summary>True where it is the check of a value that a run before it gave.</summary>
    public bool Check { get; init; }
}

/// <summary>A feed measurement that can be done. Version 2 of the stored form: fields are only added.</summary>
public sealed record FeedPlan : ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    public int Version => StoredPlan.Version;

    /// <summary>What was asked.</summary>
    public required FeedRequest Request { get; init; }

    /// <summary>Value that stood on the toolhead when it was planned: steps per mm, or rotation distance, mm; null where none was entered.</summary>
    public decimal? Standing { get; init; }

    /// <summary>Marked, but allowed.</summary>
    public IReadOnlyList<PlanWarning> Warnings { get; init; } = [];

    /// <summary>Changes that would make it better.</summary>
    [NotStored]
    public IReadOnlyList<Offer> Offers { get; init; } = [];

    /// <summary>True where the file sets the tried value itself, since another one stands on the printer.</summary>
    [JsonIgnore]
    public bool SetsValue => Standing is { } s && s != (Request.StepsPerMm ?? Request.RotationDistanceMm);

    [JsonIgnore]
    IReadOnlyList<PlanPart> ITrialPlan.Parts => [.. Enumerable.Range(0, (int)Request.Repeats).Select(i => new PlanPart(i, $"repeat {i + 1}"))];

    [JsonIgnore]
    string ITrialPlan.Summary =>
        $"{Say.N(Request.CommandedMm)} mm each, marked at {Say.N(Request.MarkMm)}, at " +
            $"{(Request.StepsPerMm is { } s ? $"{Say.N(s)} steps per mm" : $"a rotation distance of {Say.N(Request.RotationDistanceMm ?? 0, 3)} mm")}" +
            $"{(Request.Check ? ", a check" : "")}";

    [JsonIgnore]
    TrialEstimate ITrialPlan.Estimate =>
        new(
            (int)Math.Ceiling(Request.Repeats * (4 + (Request.CommandedMm + Request.PrimeMm) / Request.FeedMmPerMin)),
            (double)(Request.Repeats * (Request.CommandedMm + Request.PrimeMm)) * 2.405 * 1.24 / 1000, 0);

    [JsonIgnore]
    int ITrialPlan.TotalLayers => 0;

    [JsonIgnore]
    int? ITrialPlan.LayersPerPiece => null;

    [JsonIgnore]
    IReadOnlyList<PlanCheckpoint> ITrialPlan.Checkpoints => [];

    [JsonIgnore]
    string ITrialPlan.CheckpointHead => "";

    [JsonIgnore]
    bool ITrialPlan.WritesFile => true;

    [JsonIgnore]
    double ITrialPlan.HottestC => (double)Request.NozzleTemperatureC;

    [JsonIgnore]
    double ITrialPlan.CoolestC => (double)Request.NozzleTemperatureC;
}
