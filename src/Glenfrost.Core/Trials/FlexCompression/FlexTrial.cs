using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FlexCompression;

/// <summary>Compression of soft filament: how much it packs in the path, and where a sweep of retraction begins.</summary>
public sealed class FlexTrial : Trial<FlexRequest, FlexPlan, FlexVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "flex-compression";

    /// <summary>Aspects of the two lengths.</summary>
    public const string Hand = "handMm", Driven = "drivenMm";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Compression of soft filament";

    /// <inheritdoc/>
    public override string Noun => "set of pieces";

    /// <inheritdoc/>
    public override string PageFolder => "FlexCompression";

    /// <inheritdoc/>
    public override bool Suits(string family) => family == "TPU";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["retractionLengthMm"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["strings"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> NotPartOfIt => ["nozzleTemperatureC"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(FlexPlan plan) => ["pieces"];

    /// <inheritdoc/>
    public override string Purpose =>
        "How much soft filament packs in the path, from pieces cut off a blocked stub: the ceiling where its retraction sweep begins.";

    /// <inheritdoc/>
    public override (string Print, string Measure, string Done) BenchWords =>
        (
            "take the sheet, the blocked stub and a fresh blade to the printer; the file runs once for each driven piece",
            "Push and cut by hand, then drive and cut; measure each piece after a minute's rest.", "the file runs once for each driven piece");

    private const string TheStub = "The stub";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.StubLengthMm, "Blocked stub", "mm", 5, 500, "30 to 60 is usual",
            "A piece of the path's tube, closed at its far end with a screw. Hotend off and cold, or taken off: the file drives cold filament on purpose.",
            TheStub),
        Number(
            r => r.PathLengthMm, "Whole path", "mm", 5, 3000, "from the gear to where it melts",
            "From the gear to where it melts. Empty: the stub stands for it.", TheStub, false),
        Number(
            r => r.Pieces, "Pieces of each kind", "", 3, 12, "three are the least that show scatter", "Three are the least.", TheStub, whole: true),
        Number(r => r.FeedMmPerMin, "Feed speed", "mm/min", 10, 300, "slow, so that it slips and does not skip", "", TheStub),
        Number(r => r.ResolutionMm, "Calliper", "mm", 0.005m, 2, "0.01 or 0.05 for a calliper, 0.5 for a ruler", "", TheStub),
    ];

    /// <inheritdoc/>
    protected override FlexRequest Proposal(PlanContext c) => new();

    /// <inheritdoc/>
    protected override FlexRequest RequestOf(FlexPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<FlexPlan> Plan(FlexRequest r, PlanContext c)
    {
        if (r.PathLengthMm < r.StubLengthMm / 4)
            return new List<FieldError>
            {
                new(
                    "pathLengthMm",
                    $"A path of {Say.N(r.PathLengthMm.Value)} mm is far shorter than the stub of {Say.N(r.StubLengthMm)}: measure from the gear to the heat " +
                        "break."),
            };
        List<PlanWarning> warnings = [];
        if (c.Family is { Name: not "TPU" } family)
            warnings.Add(new(PlanWarningKind.StiffFilament, [], [family.Name]));
        if (r.StubLengthMm < 25)
            warnings.Add(new(PlanWarningKind.ShortStub));
        return new FlexPlan
        {
            Request = r, Estimate = new((int)(4 * r.Pieces), Math.Round((double)r.Pieces * 2 * ((double)r.StubLengthMm + 20) * 2.405 * 1.21 / 1000, 1), 0),
            Warnings = warnings,
        };
    }

    /// <inheritdoc/>
    public override string? Refused(ITrialPlan plan, Equipment.HotendLimits limits) => null;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
        [
            "Hotend off and cold, or taken off: nothing is heated in this test.",
            "Blades cut away from the hand. Keep fingers from gear and idler while the motor drives.",
            "A gear that slips files soft filament: clean it after the test, and cut the chewed end off.",
        ];

    /// <inheritdoc/>
    protected override string Extent(FlexPlan plan) => $"{2 * (int)plan.Request.Pieces} cut pieces";

    /// <inheritdoc/>
    protected override string Basis(FlexPlan plan) => "a blocked stub: a ceiling, not a print";

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override ReadingGrid Grid(FlexPlan plan)
    {
        var r = plan.Request;
        GridColumn Column(string aspect, string label, string name) =>
            new(aspect, label, CellKind.Number)
            {
                Quantity = new(name, "mm", 0, 3 * r.StubLengthMm, "a piece cut at the mouth of this stub"), Resolution = (double)r.ResolutionMm, Digits = 3,
                Plausible = (0.5 * (double)r.StubLengthMm, 2 * (double)r.StubLengthMm),
            };
        return new(
            [.. Enumerable.Range(0, (int)r.Pieces).Select(i => new GridRow(i, $"{i + 1}."))],
            [Column(Hand, "By hand, mm", "Pushed by hand"), Column(Driven, "Driven, mm", "Driven by the motor")])
        { RowHead = "Piece" };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Hand or Driven;

    /// <inheritdoc/>
    public override FlexVerdict Judge(FlexPlan plan, RunReadings readings, JudgeContext context)
    {
        var r = plan.Request;
        IReadOnlyList<double> Of(string aspect) => [.. Enumerable.Range(0, (int)r.Pieces).Select(i => readings.Value(i, aspect)).OfType<double>()];
        var input = new FlexReadings
        {
            HandLengthsMm = Of(Hand),
            DrivenLengthsMm = Of(Driven),
            ResolutionMm = readings.Resolution([Hand, Driven], (double)r.ResolutionMm),
            StubLengthMm = (double)r.StubLengthMm,
            PathLengthMm = (double?)r.PathLengthMm,
        };
        return FlexJudging.Check(input) is [var refusal, ..] ? new() { From = input, Refusal = refusal, Advised = false } : FlexJudging.Judge(input);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(FlexPlan plan, PlanContext context) =>
        (RigLines(plan.Request, context.Machine!), []);

    private static IReadOnlyList<string> RigLines(FlexRequest r, Machine m)
    {
        List<string> lines =
        [
            $"; compression of soft filament, {m.Name}: run it once for each of the {Say.N(r.Pieces, 3)} driven pieces",
            GcodeGuard.RigComment,
            "; stub blocked at its end, away from the hotend; nothing in this file heats",
            "; keep fingers from gear and idler; stop as soon as the gear slips",
        ];
        if (m.Tools > 1)
            lines.Add($"T{m.Tool}");
        var d = Dialect.Of(m.Dialect);
        lines.AddRange(d.ColdFeed(true));
        lines.AddRange(["M83", "G92 E0", d.Dwell(5), "; watch: it stops taking filament when it is full and the gear slips"]);
        // In steps, so that it can be stopped between them.
        var steps = (int)Math.Ceiling(r.StubLengthMm * 1.5m / 5);
        for (var i = 0; i < steps; i++)
            lines.Add($"G1 E5 F{Say.N(r.FeedMmPerMin, 3)}");
        lines.Add("M400");
        lines.AddRange(d.ColdFeed(false));
        lines.Add("; now cut flush at the stub's mouth, take the piece out, let it lie for a minute, measure it");
        return lines;
    }

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(FlexReadings);

    /// <inheritdoc/>
    protected override FlexVerdict? Answer(JsonFields json)
    {
        var r = new FlexReadings
        {
            HandLengthsMm = [.. json.Values("handLengthsMm").Select(v => (double)v)],
            DrivenLengthsMm = [.. json.Values("drivenLengthsMm").Select(v => (double)v)],
            ResolutionMm = (double)(json.Number("resolutionMm") ?? 0.05m),
            StubLengthMm = (double?)json.Number("stubLengthMm"),
            PathLengthMm = (double?)json.Number("pathLengthMm"),
        };
        if (json.Errors.Count == 0)
            json.Take(FlexJudging.Check(r));
        return json.Errors.Count > 0 ? null : FlexJudging.Judge(r);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"handLengthsMm": [40.1, 40.0, 40.2], "drivenLengthsMm": [41.6, 41.8, 41.5], "resolutionMm": 0.05, "stubLengthMm": 40, "pathLengthMm": 60}""";
}
