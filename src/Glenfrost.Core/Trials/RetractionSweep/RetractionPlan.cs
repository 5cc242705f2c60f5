using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>How much a way of printing a sweep costs.</summary>
/// <param name="Way">In words.</param>
/// <param name="Minutes">Of printing.</param>
/// <param name="Walks">Walks to the printer.</param>
/// <param name="Chosen">True for the chosen one.</param>
public sealed record SweepWay(string Way, int Minutes, int Walks, bool Chosen);

/// <summary>A sweep that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record RetractionPlan : PlanRecord, ITrialPlan
{
    /// <summary>What was asked.</summary>
    public required RetractionRequest Request { get; init; }

    /// <summary>direct or long-tube.</summary>
    public string Drive { get; init; } = "direct";

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Value of each part.</summary>
    public required IReadOnlyList<decimal> Values { get; init; }

    /// <summary>What each way costs; empty without a machine.</summary>
    public IReadOnlyList<SweepWay> Ways { get; init; } = [];

    /// <summary>The file of somebody's own that is stepped for it; null for none.</summary>
    public string? OwnFileName { get; init; }

    /// <inheritdoc/>
    protected override string? OwnFileOf => OwnFileName;

    /// <inheritdoc/>
    protected override bool MakesFile => !IsOwn;

    /// <summary>True on somebody's own model.</summary>
    internal bool IsOwn => Request.Mode == RetractionTrial.Own;

    /// <summary>True for soft filament.</summary>
    public bool Soft { get; init; }

    /// <summary>Multiplier in force, that a swept one is reckoned against.</summary>
    [AddedLater]
    public double Multiplier { get; init; } = 1;

    /// <summary>Range of the factor that the machine bears; null where nobody said.</summary>
    public Filaments.Span? Limits { get; init; }

    /// <summary>True where a factor of that word goes from part to part.</summary>
    internal bool Sweeps(string factor) => Request.Factor == factor && Request.Mode is RetractionTrial.Tower or RetractionTrial.Plate;

    /// <summary>Measures of its reeds.</summary>
    internal ReedSize Size =>
        new(
            (double)Request.PostMm, (double)Request.NarrowGapMm, (double)Request.WideGapMm,
            Math.Max(1, (int)Math.Round(Request.SectionHeightMm / Request.LayerHeightMm)), (double)Request.LayerHeightMm, NozzleMm,
            (int)Request.Rows);

    /// <summary>True for one piece by height.</summary>
    internal bool ByHeight => Request.Mode == RetractionTrial.Tower || IsOwn;

    private string Unit => SweepFactor.Of(Request.Factor).Unit;

    private string LabelOf(int i) => Request.Mode switch
    {
        RetractionTrial.Dried => (i < Values.Count / 2 ? "as it was" : "dried") + (Values.Count > 2 ? $", {i % (Values.Count / 2) + 1}" : ""),
        RetractionTrial.OnOff => (Values[i] == 0 ? "off" : $"on, {Say.N(Values[i])} mm") + (Values.Count > 2 ? $", {i / 2 + 1}" : ""),
        _ => $"{Say.N(Values[i])} {Unit}".TrimEnd() + (Values.Count(v => v == Values[i]) > 1 ? $", {Values.Take(i + 1).Count(v => v == Values[i])}" : ""),
    };

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            if (Request.Model is { } own)
                return own.Parts(LabelOf, NozzleC);
            var (pad, each, h) = (Size.PadLayers, Size.SectionLayers, (double)Request.LayerHeightMm);
            return [.. Values.Select((_, i) => ByHeight
                ? new PlanPart(i, LabelOf(i), pad + i * each + 1, pad + (i + 1) * each, (pad + i * each) * h, (pad + (i + 1) * each) * h, CelsiusOf(i))
                // Pieces of a dried pair are one file, run twice: the second half are the same layers again.
                : new PlanPart(i, LabelOf(i), Place(i) * (pad + each) + 1, (Place(i) + 1) * (pad + each), pad * h, (pad + each) * h, CelsiusOf(i)))];
        }
    }

    /// <summary>By its value; of a dried pair the wet one has more.</summary>
    double ITrialPlan.MuchOf(int part) => Request.Mode == RetractionTrial.Dried ? part < Values.Count / 2 ? 1 : 0
        : Values.Max() is var most && Values.Min() is var least && most > least ? (double)((Values[part] - least) / (most - least)) : 0.5;

    private double CelsiusOf(int i) => Sweeps("temperature") ? (double)Values[i] : (double)Request.NozzleTemperatureC;

    private int Place(int i) => Request.Mode == RetractionTrial.Dried ? i % (Values.Count / 2) : i;

    /// <summary>Pieces of the plate.</summary>
    internal int PlatePieces => ByHeight ? 1 : Request.Mode == RetractionTrial.Dried ? Values.Count / 2 : Values.Count;

    /// <summary>Pieces of the plate in words.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string InPieces => Say.Plural(PlatePieces, "piece");

    /// <inheritdoc/>
    protected override string InWords =>
        Request.Mode switch
        {
            RetractionTrial.Dried =>
                $"the same {Say.Plural(PlatePieces, "piece")} printed twice, before and after drying, {Say.N(Request.NozzleTemperatureC)} °C",
            RetractionTrial.OnOff =>
                $"retraction off and on ({Say.N(Request.RetractionLengthMm)} mm), {Say.N(Request.NozzleTemperatureC)} °C",
            _ =>
                $"{SweepFactor.Of(Request.Factor).Label.InSentence()} {Say.N(Values[0])} to {Say.N(Values[^1])}" +
                    $"{(Unit.Length > 0 ? " " : "")}{Unit} by {Say.N(Request.Step)}, " +
                    $"{(IsOwn ? "your own model, by height" : ByHeight ? "one piece by height" : $"{Say.Plural(PlatePieces, "small piece")} on one plate")}, " +
                    $"{(IsOwn ? "" : $"gaps {Say.N(Request.NarrowGapMm)} and {Say.N(Request.WideGapMm)} mm")}" +
                    (Sweeps("temperature") ? "" : $"{(IsOwn ? "" : ", ")}{Say.N(Request.NozzleTemperatureC)} °C"),
        };

    /// <inheritdoc/>
    protected override double NozzleC => CelsiusOf(0);

    /// <inheritdoc/>
    protected override int LayersOf => Request.Model is { } own ? own.TotalLayers
        : ByHeight ? Size.PadLayers + Values.Count * Size.SectionLayers : PlatePieces * (Size.PadLayers + Size.SectionLayers);

    /// <inheritdoc/>
    protected override int? EachLayers => PlatePieces > 1 ? Size.PadLayers + Size.SectionLayers : null;

    /// <inheritdoc/>
    protected override string ChecksHead => "Retraction";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [
            .. PartsOf.Take(ByHeight ? Values.Count : PlatePieces)
                .Select(p => new PlanCheckpoint(
                    ByHeight ? p.FirstLayer : Size.PadLayers + 1, p.FromZMm, p.Label, ByHeight ? $"section {p.Index + 1}" : $"piece {p.Index + 1}", null,
                    ByHeight || PlatePieces == 1 ? null : p.Index)),
        ];
}
