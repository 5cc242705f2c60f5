using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <summary>What a tester asks of a setting in steps. Lengths in mm; from, to and step in the setting's unit.</summary>
public sealed record SettingRequest
{
    /// <summary>wall or cones.</summary>
    public string Mode { get; init; } = SettingTrial.Wall;

    /// <summary>outer-speed, inner-speed, width, temperature, fan, layer-time or multiplier.</summary>
    public string Factor { get; init; } = "outer-speed";

    /// <summary>First value.</summary>
    public decimal From { get; init; } = 30;

    /// <summary>Last value.</summary>
    public decimal To { get; init; } = 90;

    /// <summary>Step.</summary>
    public decimal Step { get; init; } = 15;

    /// <summary>So far behind the best is about as good, scores.</summary>
    public decimal Margin { get; init; } = 0.5m;

    /// <summary>Nozzle, °C, where the temperature is not stepped.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Length of the wall.</summary>
    public decimal LengthMm { get; init; } = 40;

    /// <summary>Height of a section of it.</summary>
    public decimal SectionHeightMm { get; init; } = 8;

    /// <summary>Height of a cone.</summary>
    public decimal ConeHeightMm { get; init; } = 16;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Values in order.</summary>
    internal IReadOnlyList<decimal> Values =>
        Step <= 0 || To < From ? [] : [.. Enumerable.Range(0, (int)Math.Min(60, Math.Floor((To - From) / Step + 0.0001m)) + 1).Select(i => From + i * Step)];
}

/// <summary>A setting in steps that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record SettingPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required SettingRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Line width in force, mm: a wall is four of it thick.</summary>
    public double LineWidthMm { get; init; } = 0.44;

    /// <summary>Multiplier in force, that a stepped one is reckoned against.</summary>
    public double Multiplier { get; init; } = 1;

    /// <summary>What was in force of the setting as it was planned; null where nobody knows.</summary>
    public double? InForce { get; init; }

    /// <summary>Smallest and largest value that the machine bears; null where nobody said.</summary>
    public Filaments.Span? Limits { get; init; }

    /// <summary>The setting.</summary>
    [JsonIgnore]
    public SteppedSetting Factor => SteppedSetting.Of(Request.Factor);

    /// <summary>True for cones beside each other, false for a wall of sections.</summary>
    [JsonIgnore]
    public bool IsCones => Request.Mode == SettingTrial.Cones;

    /// <summary>Its values, of a wall from the bottom up.</summary>
    [JsonIgnore]
    public IReadOnlyList<double> Values => [.. Request.Values.Select(v => (double)v)];

    /// <summary>Measures of its wall.</summary>
    [JsonIgnore]
    public PointedWallSize WallSize => new((double)Request.LengthMm, LineWidthMm, new(
        Math.Max(1, Request.Values.Count), Math.Max(1, (int)Math.Round(Request.SectionHeightMm / Request.LayerHeightMm)),
        Math.Max(2, (int)Math.Round(0.8m / Request.LayerHeightMm)), (double)Request.LayerHeightMm, (double)Request.LayerHeightMm));

    /// <summary>Measures of its cones.</summary>
    [JsonIgnore]
    public TipConeSize ConeSize => new(
        Math.Round(14 * Math.Max(1, NozzleMm / 0.4), 1), Math.Round(10 * LineWidthMm, 2), (double)Request.ConeHeightMm,
        (double)Request.LayerHeightMm, NozzleMm);

    private LaidWith With(double v) => Request.Factor switch
    {
        "outer-speed" => new(Speeds: new(OuterMmPerS: v)),
        "inner-speed" => new(Speeds: new(InnerMmPerS: v)),
        "width" => new(LineWidthMm: v),
        "fan" => new(FanPercent: v),
        "layer-time" => new(LeastTimeS: v),
        "multiplier" => new(Flow: v / Multiplier),
        _ => new(),
    };

    /// <summary>Its pieces, each with its own value.</summary>
    internal IReadOnlyList<Piece> Pieces(PieceMemory memory) => IsCones
        ? [.. Values.Select((v, i) => TipCone.Build(ConeSize, With(v), i + 1, memory))]
        : [PointedWall.Build(WallSize, [.. Values.Select(With)], memory)];

    /// <summary>Temperatures of them: one for all, or where it is stepped that of each.</summary>
    internal IReadOnlyList<TemperatureFrom> Temperatures => Request.Factor != "temperature" ? [new(0, 1, (double)Request.NozzleTemperatureC, "all of it")]
        : IsCones ? [.. Values.Select((v, i) => new TemperatureFrom(i, 1, v, $"cone {i + 1}"))]
        : [.. Values.Select((v, i) => new TemperatureFrom(
            0, i == 0 ? 1 : WallSize.Layers.BaseLayers + i * WallSize.Layers.LayersPerSection + 1, v, $"section {i + 1}"))];

    private double CelsiusOf(int i) => Request.Factor == "temperature" && i < Values.Count ? Values[i] : (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            var (l, c) = (WallSize.Layers, ConeSize);
            return
            [
                .. Values.Select((v, i) => IsCones
                    ? new PlanPart(
                        i, Factor.Said(v), i * c.TotalLayers + 1, (i + 1) * c.TotalLayers, c.PadLayers * c.LayerHeightMm, c.TotalLayers * c.LayerHeightMm,
                        CelsiusOf(i))
                    : new PlanPart(
                        i, Factor.Said(v), l.BaseLayers + i * l.LayersPerSection + 1, l.BaseLayers + (i + 1) * l.LayersPerSection,
                        l.Top(l.BaseLayers + i * l.LayersPerSection), l.Top(l.BaseLayers + (i + 1) * l.LayersPerSection), CelsiusOf(i))),
            ];
        }
    }

    /// <inheritdoc/>
    protected override string InWords =>
        $"{Factor.Label.InSentence()} {Say.N(Request.From, 3)} to {Factor.Said(Values.Count > 0 ? Values[^1] : (double)Request.To)} by " +
            $"{Say.N(Request.Step, 3)}, " +
            (IsCones ? $"{Say.Plural(Values.Count, "cone")} one after another" : "one pointed wall, the first at the bottom") +
            (Request.Factor == "temperature" ? "" : $", {Say.N(Request.NozzleTemperatureC)} °C");

    /// <inheritdoc/>
    protected override double NozzleC => CelsiusOf(0);

    /// <inheritdoc/>
    protected override int LayersOf => IsCones ? Math.Max(1, Values.Count) * ConeSize.TotalLayers : WallSize.Layers.Total;

    /// <inheritdoc/>
    protected override int? EachLayers => IsCones && Values.Count > 1 ? ConeSize.TotalLayers : null;

    /// <inheritdoc/>
    protected override string ChecksHead => Factor.Label;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
    [
        .. PartsOf.Select(p => new PlanCheckpoint(
            IsCones ? ConeSize.PadLayers + 1 : p.FirstLayer, p.FromZMm, p.Label, IsCones ? $"cone {p.Index + 1}" : $"section {p.Index + 1}", null,
            IsCones && Values.Count > 1 ? p.Index : null)),
    ];
}
