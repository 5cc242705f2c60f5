using Glenfrost.Core.Settings;
using System.Text.Json.Serialization;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.QuickCheck;

/// <summary>What a tester asks of a quick check. Lengths in mm.</summary>
public sealed record QuickCheckRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Side of the square of single walls, outside.</summary>
    public decimal WallMm { get; init; } = 30;

    /// <summary>Height of walls and posts above their plate.</summary>
    public decimal HeightMm { get; init; } = 12;

    /// <summary>Clear distance between the posts.</summary>
    public decimal PostGapMm { get; init; } = 18;

    /// <summary>Bands in which walls and strings are read.</summary>
    public decimal Bands { get; init; } = 2;

    /// <summary>Wall of the kept run, mean; null where nobody knows it.</summary>
    public decimal? KeptWallMm { get; init; }

    /// <summary>95 % half-width of it; null where nobody knows it.</summary>
    public decimal? KeptWallHalfMm { get; init; }

    /// <summary>Strings of the kept run's piece, mean score; null where nobody looked.</summary>
    public decimal? KeptStrings { get; init; }

    /// <summary>How many scores that mean is of.</summary>
    public decimal KeptScores { get; init; } = 1;

    /// <summary>Smallest difference of the wall that matters, %.</summary>
    public decimal TolerancePercent { get; init; } = 3;
}

/// <summary>A quick check that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record QuickCheckPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required QuickCheckRequest Request { get; init; }

    /// <summary>Width of the line that the walls are laid with, mm.</summary>
    public double LineWidthMm { get; init; } = 0.44;

    /// <summary>Nozzle that posts and plate are scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Layers of the plate under walls and posts.</summary>
    public int PlateLayers { get; init; } = 3;

    /// <summary>Measures of the piece.</summary>
    [JsonIgnore]
    public CheckPieceSize Size => new((double)Request.WallMm, (double)Request.HeightMm, (double)Request.PostGapMm, (double)Request.LayerHeightMm);

    private int WallLayers => (int)Math.Ceiling(Request.HeightMm / Request.LayerHeightMm);

    /// <summary>Layers of a band above the plate: from, and behind the last.</summary>
    private (int From, int To) Band(int i) =>
        (PlateLayers + (int)Math.Round(WallLayers * i / Request.Bands), PlateLayers + (int)Math.Round(WallLayers * (i + 1) / Request.Bands));

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
    [
        .. Enumerable.Range(0, (int)Request.Bands).Select(i =>
        {
            var ((from, to), layer) = (Band(i), (double)Request.LayerHeightMm);
            return new PlanPart(
                i, $"at {Say.N((from + to) / 2.0 * layer, 1)} mm", from + 1, to, from * layer, to * layer, (double)Request.NozzleTemperatureC);
        }),
    ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"a square of single walls, {Say.N(Request.WallMm)} mm, and two posts {Say.N(Request.PostGapMm)} mm apart, at {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => PlateLayers + WallLayers;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf => [new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C", "all of it")];
}
