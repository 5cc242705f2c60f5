using Glenfrost.Core.Settings;
namespace Glenfrost.Core.Trials.FlexCompression;

/// <summary>What a tester asks of a compression measurement. Lengths in mm.</summary>
public sealed record FlexRequest
{
    /// <summary>Pieces of each kind.</summary>
    public decimal Pieces { get; init; } = 4;

    /// <summary>Length of the blocked stub.</summary>
    public decimal StubLengthMm { get; init; } = 40;

    /// <summary>From the gear to the melt; null where nobody measured it: then the stub stands for it.</summary>
    public decimal? PathLengthMm { get; init; }

    /// <summary>Speed of the filament, mm/min.</summary>
    public decimal FeedMmPerMin { get; init; } = 60;

    /// <summary>Smallest step of the calliper.</summary>
    public decimal ResolutionMm { get; init; } = 0.05m;
}

/// <summary>A compression measurement. Version 2 of the stored form: fields are only added.</summary>
public sealed record FlexPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required FlexRequest Request { get; init; }

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf => [.. Enumerable.Range(0, (int)Request.Pieces).Select(i => new PlanPart(i, $"pieces {i + 1}"))];

    /// <inheritdoc/>
    protected override string InWords =>
        $"{Say.N(Request.Pieces)} pieces by hand and as many driven, in a blocked stub of {Say.N(Request.StubLengthMm)} mm, hotend off";

    /// <inheritdoc/>
    protected override double NozzleC => 0;
}
