using System.Globalization;
using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.LayerTime;

/// <summary>What a tester asks of a column of layer times. Times in s, lengths in mm.</summary>
public sealed record LayerTimeRequest
{
    /// <summary>Longest, at the bottom.</summary>
    public decimal LongestS { get; init; } = 12;

    /// <summary>Shortest, at the top.</summary>
    public decimal ShortestS { get; init; } = 4;

    /// <summary>From section to section.</summary>
    public decimal StepS { get; init; } = 2;

    /// <summary>So far behind the best is about as good, scores.</summary>
    public decimal Margin { get; init; } = 0.5m;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Height of a section.</summary>
    public decimal SectionHeightMm { get; init; } = 10;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;
}

/// <summary>A column of layer times that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record LayerTimePlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required LayerTimeRequest Request { get; init; }

    /// <summary>Side of the column, mm: so thin that the longest time can be held.</summary>
    public double SideMm { get; init; } = TimedColumn.LeastMm;

    /// <summary>Least layer time that was in force as it was planned, s; null where nobody knows.</summary>
    public double? InForceS { get; init; }

    /// <summary>Slowest that each section is laid at, mm/s; empty before its file was made.</summary>
    public IReadOnlyList<double> SpeedsMmPerS { get; init; } = [];

    /// <summary>Least layer time of each section, s, from the bottom up: the longest first, so that what is too hot spoils only what is above it.</summary>
    [JsonIgnore]
    public IReadOnlyList<double> Times
    {
        get
        {
            var r = Request;
            var count = r.StepS <= 0 || r.LongestS < r.ShortestS ? 1 : 1 + (int)Math.Min(40, Math.Floor((r.LongestS - r.ShortestS) / r.StepS));
            return [.. Enumerable.Range(0, count).Select(i => (double)(r.ShortestS + (count - 1 - i) * r.StepS))];
        }
    }

    private int Each => Math.Max(1, (int)Math.Round(Request.SectionHeightMm / Request.LayerHeightMm));

    /// <summary>Its measures.</summary>
    [JsonIgnore]
    public TimedColumn Column => new(SideMm, new(
        Times.Count, Each, Math.Max(3, (int)Math.Round(1 / Request.LayerHeightMm)), (double)Request.LayerHeightMm, (double)Request.LayerHeightMm));

    /// <summary>The column, each section with its own time, its foot with what the settings say.</summary>
    public Piece Piece(PieceMemory memory) => memory.Once(
        $"layer time/{Column}/{string.Join(',', Times.Select(t => t.ToString("R", CultureInfo.InvariantCulture)))}", 100, () => Column.Build(Times));

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            var l = Column.Layers;
            return
            [
                .. Times.Select((t, i) =>
                {
                    var first = l.BaseLayers + i * l.LayersPerSection + 1;
                    return new PlanPart(i, $"{Say.N(t)} s", first, first + l.LayersPerSection - 1, l.Top(first - 1), l.Top(first + l.LayersPerSection - 1));
                }),
            ];
        }
    }

    /// <inheritdoc/>
    protected override string InWords =>
        $"least layer time {Say.N(Times[0])} s at the bottom to {Say.N(Times[^1])} s at the top by {Say.N(Request.StepS)}, a column of " +
            $"{Say.N(SideMm)} mm, {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => Column.Layers.Total;

    /// <inheritdoc/>
    protected override string ChecksHead => "Layer time";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [.. PartsOf.Select(p => new PlanCheckpoint(p.FirstLayer, p.FromZMm, p.Label, $"section {p.Index + 1}"))];
}
