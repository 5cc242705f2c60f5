using System.Globalization;
using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.FanSteps;

/// <summary>What a tester asks of a fan sweep. Fan in %, lengths in mm.</summary>
public sealed record FanRequest
{
    /// <summary>Empty for our tower, own for somebody's own model.</summary>
    [AddedLater]
    public string Mode { get; init; } = "";

    /// <summary>Least fan, at the top.</summary>
    public decimal FanFromPercent { get; init; }

    /// <summary>Most fan, at the bottom.</summary>
    public decimal FanToPercent { get; init; } = 100;

    /// <summary>From section to section.</summary>
    public decimal FanStepPercent { get; init; } = 20;

    /// <summary>So far behind the best is about as good, scores.</summary>
    public decimal Margin { get; init; } = 0.5m;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Height of a section.</summary>
    public decimal SectionHeightMm { get; init; } = 8;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Layers of somebody's own model; null for our tower.</summary>
    public decimal? TotalLayers { get; init; }

    /// <summary>Its layers below the first section.</summary>
    public decimal? BaseLayers { get; init; }

    /// <summary>Thickness of its first layer; null for that of the others.</summary>
    public decimal? FirstLayerHeightMm { get; init; }
}

/// <summary>A fan sweep that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record FanPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required FanRequest Request { get; init; }

    /// <summary>The file of somebody's own that is stepped for it; null for none.</summary>
    public string? OwnFileName { get; init; }

    /// <inheritdoc/>
    protected override string? OwnFileOf => OwnFileName;

    /// <inheritdoc/>
    protected override bool MakesFile => !IsOwn;

    /// <summary>True on somebody's own model.</summary>
    internal bool IsOwn => Request.Mode == FanTrial.Own;

    /// <summary>Sections of somebody's own model; null for our tower.</summary>
    internal OwnModel? Model =>
        IsOwn ? OwnModel.Of(Request.TotalLayers, Request.BaseLayers, Fans.Count, Request.LayerHeightMm, Request.FirstLayerHeightMm) : null;

    /// <summary>Form of its stiles, null for the first: two towers of different forms are no repeats, whatever was asked.</summary>
    public int? StileForm { get; init; }

    /// <summary>Nozzle that its stiles are scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Fan of each section, %, from the bottom up: the most first, so that what droops spoils only what is above it.</summary>
    [JsonIgnore]
    public IReadOnlyList<double> Fans
    {
        get
        {
            var r = Request;
            var count = r.FanStepPercent <= 0 || r.FanToPercent < r.FanFromPercent ? 1
                : 1 + (int)Math.Min(40, Math.Floor((r.FanToPercent - r.FanFromPercent) / r.FanStepPercent));
            return [.. Enumerable.Range(0, count).Select(i => (double)(r.FanFromPercent + (count - 1 - i) * r.FanStepPercent))];
        }
    }

    /// <summary>Measures of a section.</summary>
    [JsonIgnore]
    public Stile Stile => new(NozzleMm, Each * (double)Request.LayerHeightMm, Stile.StandardDepthMm(NozzleMm));

    private int Each => Math.Max(1, (int)Math.Round(Request.SectionHeightMm / Request.LayerHeightMm));

    /// <summary>Its layers.</summary>
    [JsonIgnore]
    public TowerLayers Layers => new(
        Fans.Count, Each, Math.Max(3, (int)Math.Round(1 / Request.LayerHeightMm)), (double)Request.LayerHeightMm, (double)Request.LayerHeightMm);

    /// <summary>The tower, each section with its own fan, its base with the lowest one's.</summary>
    public Piece Piece(PieceMemory memory) => memory.Once($"fan steps/{Stile}/{Layers}/{string.Join(',', Fans.Select(f => f.ToString("R",
        CultureInfo.InvariantCulture)))}", 200, () =>
    {
        var tower = TowerOfStiles.Build(Stile, Layers, memory);
        return tower with { Name = "Fan in steps", Layers = [.. tower.Layers.Select(l => l with { FanPercent = Fans[l.Section ?? 0] })] };
    });

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            if (Model is { } own)
                return own.Parts(i => $"{Say.N(Fans[i])} %", NozzleC);
            var l = Layers;
            return
            [
                .. Fans.Select((f, i) =>
                {
                    var first = l.BaseLayers + i * l.LayersPerSection + 1;
                    return new PlanPart(i, $"{Say.N(f)} %", first, first + l.LayersPerSection - 1, l.Top(first - 1), l.Top(first + l.LayersPerSection - 1));
                }),
            ];
        }
    }

    /// <inheritdoc/>
    protected override string InWords =>
        $"fan {Say.N(Request.FanToPercent)} % at the bottom to {Say.N(Fans[^1])} % at the top by {Say.N(Request.FanStepPercent)}, " +
            $"{(IsOwn ? "your own model, " : "bridges too, ")}{Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => Model is { } own ? own.TotalLayers : Layers.Total;

    /// <inheritdoc/>
    protected override string ChecksHead => "Fan";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [.. PartsOf.Select(p => new PlanCheckpoint(p.FirstLayer, p.FromZMm, p.Label, $"section {p.Index + 1}"))];
}
