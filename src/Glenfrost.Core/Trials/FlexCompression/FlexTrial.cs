using Glenfrost.Core.Gcode;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.RetractionSweep;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Trials.FlexCompression;

/// <summary>Lengths of cut pieces, mm.</summary>
public sealed record FlexReadings
{
    /// <summary>Pushed by hand to the stop and cut flush.</summary>
    public IReadOnlyList<double> HandLengthsMm { get; init; } = [];

    /// <summary>Driven by the motor until it slipped and cut flush.</summary>
    public IReadOnlyList<double> DrivenLengthsMm { get; init; } = [];

    /// <summary>Smallest step of the calliper or ruler.</summary>
    public double ResolutionMm { get; init; } = 0.05;

    /// <summary>Length of the blocked stub; null where nobody said.</summary>
    public double? StubLengthMm { get; init; }

    /// <summary>Length from the gear to the nozzle's melt; null where nobody said.</summary>
    public double? PathLengthMm { get; init; }
}

/// <summary>The verdict on a compression: compression, no-compression, repeat or insufficient.</summary>
public sealed record FlexVerdict : TrialVerdict
{
    /// <summary>Mean driven less mean hand, mm; null where it can't be said.</summary>
    public double? CompressionMm { get; init; }

    /// <summary>Half of its 95 % interval, mm.</summary>
    public double? UncertaintyMm { get; init; }

    /// <summary>Compression as a share of the stub, %; null where its length is not known.</summary>
    public double? CompressionPercent { get; init; }

    /// <summary>Where a sweep begins, mm: a ceiling; null where there is none.</summary>
    public double? StartRetractionMm { get; init; }
}

/// <summary>Compression of soft filament from pieces cut off a blocked stub.</summary>
public static class FlexJudging
{
    /// <summary>Fewer of each tell no scatter.</summary>
    public const int Least = 3;

    /// <summary>Hand lengths farther apart are repeated first, mm.</summary>
    public const double HandApartMm = 0.3;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FlexReadings r)
    {
        var errors = new List<FieldError>();
        foreach (var (list, field) in new[] { (r.HandLengthsMm, "handLengthsMm"), (r.DrivenLengthsMm, "drivenLengthsMm") })
        {
            foreach (var (v, i) in list.Select((v, i) => (v, i)))
            {
                if (!(v is > 0 and <= 2000))
                    errors.Add(new($"{field}[{i}]", $"{Say.N(v)} mm is no cut piece: above 0 to 2,000 would be right."));
            }
        }

        if (!(r.ResolutionMm is > 0 and <= 5))
            errors.Add(new("resolutionMm", $"{Say.N(r.ResolutionMm, 3)} mm is no step: 0.01 for a calliper, 0.5 for a ruler."));
        if (r.StubLengthMm is { } s && !(s is >= 5 and <= 500))
            errors.Add(new("stubLengthMm", $"{Say.N(s)} mm is no stub: 5 to 500 would be right, 30 to 60 is usual."));
        if (r.PathLengthMm is { } p && !(p is >= 5 and <= 3000))
            errors.Add(new("pathLengthMm", $"{Say.N(p)} mm is no path: 5 to 3,000 would be right."));
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static FlexVerdict Judge(FlexReadings r)
    {
        var (hand, driven) = (r.HandLengthsMm, r.DrivenLengthsMm);
        if (hand.Count < Least || driven.Count < Least)
            return new()
            {
                Verdict = "insufficient", Sentence =
                    hand.Count + driven.Count == 0 ? "Nothing is read yet." : $"{hand.Count} by hand and {driven.Count} driven: three of each are the least.",
                Advised = false,
            };
        var spread = hand.Max() - hand.Min();
        if (spread > HandApartMm + 1e-9)
        {
            return new()
            {
                Verdict = "repeat",
                Sentence = $"The hand lengths are {Say.N(spread)} mm apart: repeat them first.",
                Reasons = [$"More than {Say.N(HandApartMm)} mm between pieces pushed by hand is cutting or stop, not compression."],
                Next = new("repeat", "Square the stub's stop, cut with a fresh blade held flat, and push each piece home with the same slow hand."),
                Advised = false,
            };
        }

        var (a, b) = (Measured.Of(hand, r.ResolutionMm), Measured.Of(driven, r.ResolutionMm));
        var compression = b.Mean - a.Mean;
        // Welch: both scatters, and the step of one instrument in both means.
        var (va, vb, step) = (a.Sd * a.Sd / a.Count, b.Sd * b.Sd / b.Count, r.ResolutionMm * r.ResolutionMm / 6);
        var u2 = va + vb + step;
        var freedom = va + vb <= 0 ? 1e6 : Math.Min(1e6, u2 * u2 / (va * va / (a.Count - 1) + vb * vb / (b.Count - 1)));
        var half = Math.Sqrt(u2) * StudentT.InvCDF(0, 1, freedom, 0.975);
        List<string> lines =
        [
            $"by hand {string.Join(", ", hand.Select(v => Say.N(v)))}: mean {Say.N(a.Mean, 3)} mm",
            $"driven {string.Join(", ", driven.Select(v => Say.N(v)))}: mean {Say.N(b.Mean, 3)} mm",
            $"compression = {Say.N(b.Mean, 3)} − {Say.N(a.Mean, 3)} = {Say.N(compression, 3)} mm ± {Say.N(half, 3)} (Welch, {Say.N(freedom, 1)} degrees of " +
                $"freedom, step {Say.N(r.ResolutionMm, 3)} mm)",
        ];
        var basis = new FlexVerdict
        {
            Verdict = "no-compression", Sentence = "", CompressionMm = Math.Round(compression, 4), UncertaintyMm = Math.Round(half, 4),
            CompressionPercent = r.StubLengthMm is { } stub ? Math.Round(100 * compression / stub, 2) : null, Arithmetic = lines,
        };
        if (compression - half <= 0)
        {
            return basis with
            {
                Sentence =
                    compression < 0
                        ? $"The driven pieces are shorter by {Say.N(-compression)} mm: no compression."
                        : $"{Say.N(compression)} mm ± {Say.N(half)}: no compression beyond the scatter.",
                Reasons = ["It does not pack in the path, or less than cutting and measuring scatter: the drive's usual retraction is where to begin."],
                Next = new("sweep", "Sweep the retraction over the drive's usual range.", RetractionTrial.Word, new Dictionary<string, decimal>()),
                Advised = false,
            };
        }

        var scaled = r is { StubLengthMm: { } s1, PathLengthMm: { } p1 } ? p1 / s1 : 1;
        var start = Math.Round(compression * scaled, 2);
        if (scaled != 1)
            lines.Add($"over the whole path: {Say.N(compression, 3)} × {Say.N(r.PathLengthMm!.Value)} ÷ {Say.N(r.StubLengthMm!.Value)} = {Say.N(start)} mm");
        return basis with
        {
            Verdict = "compression",
            Sentence =
                $"{Say.N(start)} mm is the ceiling. It packs {Say.N(compression)} ± {Say.N(half)} mm in the " +
                    $"stub{(scaled != 1 ? $", {Say.N(start)} over the whole path" : "")}: a sweep begins there and goes down; it is no retraction to keep.",
            Reasons = ["The force at which the gear slips is more than printing needs, so the true retraction lies below it."],
            Warnings = scaled == 1 ? ["Without the lengths of stub and path it is the stub's own compression: a longer path packs more."] : [],
            StartRetractionMm = start,
            Advised = false,
            Next = new(
                "sweep", $"Sweep the retraction downward from {Say.N(start)} mm.", RetractionTrial.Word, new Dictionary<string, decimal>
                {
                    ["from"] = Math.Round((decimal)start * 0.25m, 2), ["to"] = (decimal)start, ["step"] = Math.Max(0.05m, Math.Round((decimal)start / 8, 2)),
                })
            { Words = new Dictionary<string, string> { ["mode"] = RetractionTrial.Tower, ["factor"] = "length" } },
            Arithmetic = lines,
            Proves = false,
        };
    }
}

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

/// <summary>A compression measurement. Version 1 of the stored plan: fields are only added.</summary>
public sealed record FlexPlanV1 : PlanRecord
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

/// <summary>Compression of soft filament: how much it packs in the path, and where a sweep of retraction begins.</summary>
public sealed class FlexTrial : Trial
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
    public override IEnumerable<string> SetAside(ITrialPlan plan) => ["pieces"];

    /// <inheritdoc/>
    public override string Purpose =>
        "How much soft filament packs in the path, from pieces cut off a blocked stub: the ceiling where its retraction sweep begins.";

    /// <inheritdoc/>
    public override (string Print, string Measure, string Done) BenchWords =>
        (
            "take the sheet, the blocked stub and a fresh blade to the printer; the file runs once for each driven piece",
            "Push and cut by hand, then drive and cut; measure each piece after a minute's rest.", "the file runs once for each driven piece");

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>
    {
        ["pieces"] = PlanField.Number("Pieces of each", "", 3, 12, "three are the least that show scatter", true, true),
        ["stubLengthMm"] = PlanField.Number("Blocked stub", "mm", 5, 500, "30 to 60 is usual"),
        ["pathLengthMm"] = PlanField.Number("Path", "mm", 5, 3000, "from the gear to where it melts", false),
        ["feedMmPerMin"] = PlanField.Number("Feed speed", "mm/min", 10, 300, "slow, so that it slips and does not skip"),
        ["resolutionMm"] = PlanField.Number("Calliper", "mm", 0.005m, 2, "0.01 or 0.05 for a calliper, 0.5 for a ruler"),
    };

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c) => PlanValues.Of(new FlexRequest());

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((FlexPlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<FlexRequest>();
        if (r.PathLengthMm < r.StubLengthMm / 4)
            return PlanResult.Refused(
                new FieldError(
                    "pathLengthMm",
                    $"A path of {Say.N(r.PathLengthMm.Value)} mm is far shorter than the stub of {Say.N(r.StubLengthMm)}: measure from the gear to the heat " +
                        "break."));
        List<string> warnings = [];
        if (c.Family is { Name: not "TPU" } family)
            warnings.Add($"{family.Name} is stiff: it hardly packs. This is for soft filament.");
        if (r.StubLengthMm < 25)
            warnings.Add("A stub below 25 mm packs too little to be measured.");
        return new(
            new FlexPlanV1
            {
                Request = r, Estimate = new((int)(4 * r.Pieces), Math.Round((double)r.Pieces * 2 * ((double)r.StubLengthMm + 20) * 2.405 * 1.21 / 1000, 1), 0),
                Warnings = warnings,
            },
            []);
    }

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<FlexPlanV1>(json);

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
    public override string Extent(ITrialPlan plan) => $"{2 * plan.Parts.Count} cut pieces";

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) => "a blocked stub: a ceiling, not a print";

    /// <inheritdoc/>
    public override bool TellsOfTheMachine => false;

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan)
    {
        var r = ((FlexPlanV1)plan).Request;
        GridColumn Column(string aspect, string label, string name) =>
            new(aspect, label, CellKind.Number)
            {
                Quantity = new(name, "mm", 0, 3 * r.StubLengthMm, "a piece cut at the mouth of this stub"), Resolution = (double)r.ResolutionMm, Digits = 3,
                Plausible = (0.5 * (double)r.StubLengthMm, 2 * (double)r.StubLengthMm),
            };
        return new(
            [.. plan.Parts.Select(p => new GridRow(p.Index, $"{p.Index + 1}."))],
            [Column(Hand, "By hand, mm", "Pushed by hand"), Column(Driven, "Driven, mm", "Driven by the motor")])
        { RowHead = "Piece" };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Hand or Driven;

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context)
    {
        var r = ((FlexPlanV1)plan).Request;
        var input = new FlexReadings
        {
            HandLengthsMm = [.. plan.Parts.Select(p => readings.Value(p.Index, Hand)).OfType<double>()],
            DrivenLengthsMm = [.. plan.Parts.Select(p => readings.Value(p.Index, Driven)).OfType<double>()],
            ResolutionMm = readings.Resolution([Hand, Driven], (double)r.ResolutionMm),
            StubLengthMm = (double)r.StubLengthMm,
            PathLengthMm = (double?)r.PathLengthMm,
        };
        return FlexJudging.Check(input) is { Count: > 0 } wrong
            ? new FlexVerdict { Verdict = "insufficient", Sentence = wrong[0].Message, Advised = false }
            : Practice.Beside(FlexJudging.Judge(input), context.Practice, RetractionTrial.Word);
    }

    /// <inheritdoc/>
    public override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict) => null;

    /// <inheritdoc/>
    public override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) =>
        (RigLines(plan, context), []);

    private static IReadOnlyList<string> RigLines(ITrialPlan plan, PlanContext context)
    {
        var (r, m) = (((FlexPlanV1)plan).Request, context.Machine!);
        static string N(decimal v) => v.ToString("0.###", System.Globalization.CultureInfo.InvariantCulture);
        List<string> lines =
        [
            $"; compression of soft filament, {m.Name}: run it once for each of the {N(r.Pieces)} driven pieces",
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
            lines.Add($"G1 E5 F{N(r.FeedMmPerMin)}");
        lines.Add("M400");
        lines.AddRange(d.ColdFeed(false));
        lines.Add("; now cut flush at the stub's mouth, take the piece out, let it lie for a minute, measure it");
        return lines;
    }

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(FlexRequest), typeof(FlexPlanV1), typeof(FlexReadings), typeof(FlexVerdict));

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        var r = new FlexReadings
        {
            HandLengthsMm = [.. door.Values("handLengthsMm").Select(v => (double)v)],
            DrivenLengthsMm = [.. door.Values("drivenLengthsMm").Select(v => (double)v)],
            ResolutionMm = (double)(door.Number("resolutionMm") ?? 0.05m),
            StubLengthMm = (double?)door.Number("stubLengthMm"),
            PathLengthMm = (double?)door.Number("pathLengthMm"),
        };
        if (door.Errors.Count == 0)
            door.Take(FlexJudging.Check(r));
        return door.Errors.Count > 0 ? null : FlexJudging.Judge(r);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"handLengthsMm": [40.1, 40.0, 40.2], "drivenLengthsMm": [41.6, 41.8, 41.5], "resolutionMm": 0.05, "stubLengthMm": 40, "pathLengthMm": 60}""";
}
