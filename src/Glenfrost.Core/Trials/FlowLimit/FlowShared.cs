using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using System.Text.Json.Serialization;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Two flows between which the limit lies, mm³/s.</summary>
public sealed record FlowBracket(double From, double To);

/// <summary>Speeds that a flow allows at a layer height, mm/s, rounded down.</summary>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="SpeedsMmPerS">One for each width of the table.</param>
public sealed record SpeedRow(double LayerHeightMm, IReadOnlyList<double> SpeedsMmPerS);

/// <summary>Allowed speeds over layer height and line width, under one area model.</summary>
/// <param name="FlowMm3PerS">The flow that it is for.</param>
/// <param name="Area">rectangular or stadium.</param>
/// <param name="LineWidthsMm">Columns.</param>
/// <param name="Rows">Rows.</param>
public sealed record SpeedTable(double FlowMm3PerS, string Area, IReadOnlyList<double> LineWidthsMm, IReadOnlyList<SpeedRow> Rows);

/// <summary>What a measurement of a flow limit says.</summary>
public enum FlowOutcome
{
    /// <summary>Too little is read.</summary>
    Insufficient,

    /// <summary>The limit lies in a bracket.</summary>
    Limit,

    /// <summary>Nothing failed: the limit lies above.</summary>
    NotReached,

    /// <summary>Not even the start came out well.</summary>
    NoneGood,
}

/// <summary>The verdict on a flow limit, whichever way it was measured.</summary>
public abstract record FlowVerdict : TrialVerdict<FlowOutcome>
{
    /// <summary>The trial that decides where practice and this value contradict each other.</summary>
    [JsonIgnore]
    public sealed override string? DecidingTrial => this is SteppedFlowVerdict ? FlowWeighedTrial.Word : FlowStepsTrial.Word;

    /// <inheritdoc/>
    [JsonIgnore]
    public sealed override double PracticeMarginPercent => MarginPercent;

    /// <summary>What a flow override of the start code left in force, %; 100 for none.</summary>
    [JsonIgnore]
    public decimal OverridePercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    [JsonIgnore]
    public string OverrideAnswer { get; init; } = "";

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Commanded flow at the stated fault, mm³/s; null where none was reached.</summary>
    public double? LimitFlowMm3PerS { get; init; }

    /// <summary>That basis less the margin, rounded down to 0.1 mm³/s.</summary>
    public double? RecommendedFlowMm3PerS { get; init; }

    /// <summary>Where the limit lies, mm³/s.</summary>
    public FlowBracket? Bracket { get; init; }

    /// <summary>Margin below the basis, %.</summary>
    public double MarginPercent { get; init; }

    /// <summary>What the limit is the flow of, in words.</summary>
    public string Basis { get; init; } = "";

    /// <summary>Allowed speeds at the recommended flow; null where there is none.</summary>
    public SpeedTable? Speeds { get; init; }

    /// <summary>Where the next print tells most; null where nothing is left to tell.</summary>
    public BracketPlan? NextPlaces { get; init; }
}

/// <summary>What the three ways of measuring a flow limit share: areas, speeds, margin and rounding.</summary>
public static class Flows
{
    /// <summary>Keys of the area models.</summary>
    public static IReadOnlyList<string> Areas { get; } = ["rectangular", "stadium"];

    /// <summary>The same as a form offers them.</summary>
    internal static (string Word, string Label)[] AreaWords { get; } = [("rectangular", "rectangle: width × height"), ("stadium", "half-round ends")];

    /// <summary>What is known of the spool, as a form offers it.</summary>
    internal static (string Word, string Label)[] SpoolStates { get; } =
        [("as logged", "as its log says"), ("dried just now", "dried just now"), ("not known", "nobody knows")];

    /// <summary>The setting that all three settle.</summary>
    public const string Key = "maxVolumetricFlowMm3PerS";

    /// <summary>Cross-section of a line, mm²: w·h, or (w − h)·h + π(h/2)².</summary>
    public static double AreaMm2(string area, double widthMm, double heightMm) =>
        Bead.Area(area == "stadium" ? BeadModel.Stadium : BeadModel.Rectangular, widthMm, heightMm);

    /// <summary>Speed of the filament, mm/s, for a flow: flow ÷ (π d²/4).</summary>
    public static double FeedMmPerS(double flowMm3PerS, double filamentMm) => flowMm3PerS / (Math.PI * filamentMm * filamentMm / 4);

    /// <summary>A basis less a margin, rounded down to 0.1 mm³/s: flow limits never round up.</summary>
    public static double Recommended(double basisMm3PerS, double marginPercent) => Math.Floor(basisMm3PerS * (1 - marginPercent / 100) * 10 + 1e-6) / 10;

    /// <summary>Allowed speeds, rounded down to whole mm/s.</summary>
    /// <param name="flowMm3PerS">Flow.</param>
    /// <param name="area">Area model.</param>
    /// <param name="nozzleMm">Nozzle, which the usual heights and widths follow.</param>
    public static SpeedTable Table(double flowMm3PerS, string area, double nozzleMm)
    {
        double[] widths = [.. new[] { 0.9, 1.0, 1.1, 1.2, 1.5 }.Select(f => Math.Round(f * nozzleMm, 2))];
        double[] heights = [.. new[] { 0.25, 0.4, 0.5, 0.6, 0.7 }.Select(f => Math.Round(f * nozzleMm, 2))];
        return new(
            flowMm3PerS, area, widths, [.. heights.Select(h => new SpeedRow(h, [.. widths.Select(w => Math.Floor(flowMm3PerS / AreaMm2(area, w, h) + 1e-9))]))]
        );
    }

    /// <summary>Checks of line and margin that all share.</summary>
    internal static void CheckLine(List<FieldError> errors, double h, double w, string area, double margin)
    {
        if (!(h is >= 0.04 and <= 1.2))
            errors.Add(new("layerHeightMm", $"{Say.N(h, 3)} mm is no layer height: 0.04 to 1.2 mm would be right."));
        if (!(w is >= 0.1 and <= 3))
            errors.Add(new("lineWidthMm", $"{Say.N(w, 3)} mm is no line width: 0.1 to 3 mm would be right."));
        else if (w < h)
            errors.Add(new("lineWidthMm", $"A line of {Say.N(w, 3)} mm is narrower than its layer is high, {Say.N(h, 3)} mm: a wider line would be right."));
        if (!Areas.Contains(area))
            errors.Add(new("area", $"\"{area}\" is no area model: rectangular or stadium would be right."));
        CheckMargin(errors, margin);
    }

    /// <summary>Check of the margin.</summary>
    internal static void CheckMargin(List<FieldError> errors, double margin)
    {
        if (!(margin is >= 0 and <= 50))
            errors.Add(new("marginPercent", $"A margin of {Say.N(margin)} % is none: 0 to 50 would be right, 5 to 20 is usual."));
    }

    /// <summary>A known good value of practice, read at the API's door; null where none was sent.</summary>
    internal static IReadOnlyList<KnownGoodValue> Practice(JsonFields json)
    {
        if (json.Number("knownGoodFlowMm3PerS") is not { } v)
            return [];
        if (v is > 0 and <= 200)
            return [new(Key, (double)v, (double?)json.Number("knownGoodTemperatureC"), "practice")];
        json.Refuse("knownGoodFlowMm3PerS", $"{Say.N(v)} mm³/s is no flow that prints: 0 to 200 would be right.");
        return [];
    }

    /// <summary>The cautions of all three.</summary>
    internal static IReadOnlyList<string> Cautions { get; } =
    [
        "Stand by: this looks for the point where the extruder gives up. Stop at the first clicking or grinding; say at which step it was. That is the " +
            "reading.",
        "Nozzle burns, hot plastic gives off fumes: ventilate. A gear that went on grinding has filed the filament: cut the chewed end off before the next " +
            "print.",
    ];

    /// <summary>Words for what was heard or seen; the first one is good.</summary>
    internal static IReadOnlyList<string> Faults { get; } = ["good", "dull", "gaps", "thin wall", "clicking", "grinding", "nothing came"];

    /// <summary>What a plan says about temperature and dryness.</summary>
    internal static IEnumerable<PlanWarning> Advice(PlanContext c, decimal nozzleC, string spoolState)
    {
        foreach (var a in PieceFields.Advice(c, nozzleC))
            yield return a;
        if (c.Dryness is { DryFirst: true } d && spoolState != "dried just now")
            yield return new(PlanWarningKind.DryFirst, d.Numbers, [d.State, "flow"]);
        if (spoolState == "not known")
            yield return new(PlanWarningKind.DrynessUnknown);
    }
}
