using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>What a tester asks of a sweep. Lengths in mm, speeds in mm/s.</summary>
public sealed record RetractionRequest
{
    /// <summary>tower, plate, on-off or dried-pair.</summary>
    public string Mode { get; init; } = RetractionTrial.Tower;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>length, speed, wipe, coast, hop or travel.</summary>
    public string Factor { get; init; } = "length";

    /// <summary>First value of the factor.</summary>
    public decimal From { get; init; }

    /// <summary>Last value of the factor.</summary>
    public decimal To { get; init; } = 1.6m;

    /// <summary>Step of the factor.</summary>
    public decimal Step { get; init; } = 0.2m;

    /// <summary>Retraction where another factor is swept, and of the pairs.</summary>
    public decimal RetractionLengthMm { get; init; } = 0.8m;

    /// <summary>Its speed.</summary>
    public decimal RetractionSpeedMmPerS { get; init; } = 30;

    /// <summary>Diameter of a reed.</summary>
    public decimal PostMm { get; init; } = 4;

    /// <summary>Narrow gap.</summary>
    public decimal NarrowGapMm { get; init; } = 10;

    /// <summary>Wide gap.</summary>
    public decimal WideGapMm { get; init; } = 20;

    /// <summary>Height of a section, or of a small piece.</summary>
    public decimal SectionHeightMm { get; init; } = 4;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Pieces at each value; towers are repeated as runs.</summary>
    public decimal Repeats { get; init; } = 1;

    /// <summary>scores or counts: what is waited for.</summary>
    public string ReadBy { get; init; } = "scores";

    /// <summary>By how much a value may fall behind the best, scores.</summary>
    public decimal Margin { get; init; } = 0.5m;

    /// <summary>State of the spool.</summary>
    public string SpoolState { get; init; } = "as logged";

    /// <summary>Values in order.</summary>
    internal IReadOnlyList<decimal> Values =>
        Step <= 0 || To < From ? [] : [.. Enumerable.Range(0, (int)Math.Min(200, Math.Floor((To - From) / Step + 0.0001m)) + 1).Select(i => From + i * Step)];
}

/// <summary>How much a way of printing a sweep costs.</summary>
/// <param name="Way">In words.</param>
/// <param name="Minutes">Of printing.</param>
/// <param name="Walks">Walks to the printer.</param>
/// <param name="Chosen">True for the chosen one.</param>
public sealed record SweepWay(string Way, int Minutes, int Walks, bool Chosen);

/// <summary>A sweep that can be printed. Version 1 of the stored plan: fields are only added.</summary>
public sealed record RetractionPlanV1 : PlanRecord
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

    /// <summary>True for soft filament.</summary>
    public bool Soft { get; init; }

    /// <summary>Measures of its reeds.</summary>
    internal ReedSize Size =>
        new(
            (double)Request.PostMm, (double)Request.NarrowGapMm, (double)Request.WideGapMm,
            Math.Max(1, (int)Math.Round(Request.SectionHeightMm / Request.LayerHeightMm)), (double)Request.LayerHeightMm, NozzleMm);

    /// <summary>True for one piece by height.</summary>
    internal bool ByHeight => Request.Mode == RetractionTrial.Tower;

    private string Unit => SweepFactor.Of(Request.Factor).Unit;

    private string LabelOf(int i) => Request.Mode switch
    {
        RetractionTrial.Dried => (i < Values.Count / 2 ? "as it was" : "dried") + (Values.Count > 2 ? $", {i % (Values.Count / 2) + 1}" : ""),
        RetractionTrial.OnOff => (Values[i] == 0 ? "off" : $"on, {Say.N(Values[i])} mm") + (Values.Count > 2 ? $", {i / 2 + 1}" : ""),
        _ => $"{Say.N(Values[i])} {Unit}" + (Values.Count(v => v == Values[i]) > 1 ? $", {Values.Take(i + 1).Count(v => v == Values[i])}" : ""),
    };

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf
    {
        get
        {
            var (pad, each, h) = (Size.PadLayers, Size.SectionLayers, (double)Request.LayerHeightMm);
            return [.. Values.Select((_, i) => ByHeight
                ? new PlanPart(i, LabelOf(i), pad + i * each + 1, pad + (i + 1) * each, (pad + i * each) * h, (pad + (i + 1) * each) * h, NozzleC)
                // Pieces of a dried pair are one file, run twice: the second half are the same layers again.
                : new PlanPart(i, LabelOf(i), Place(i) * (pad + each) + 1, (Place(i) + 1) * (pad + each), pad * h, (pad + each) * h, NozzleC))];
        }
    }

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
                $"{Say.Plural(PlatePieces, "piece")}, retraction off and on ({Say.N(Request.RetractionLengthMm)} mm), {Say.N(Request.NozzleTemperatureC)} °C",
            _ =>
                $"{SweepFactor.Of(Request.Factor).Label.ToLowerInvariant()} {Say.N(Values[0])} to {Say.N(Values[^1])} {Unit} by {Say.N(Request.Step)}, " +
                    $"{(ByHeight ? "one piece by height" : $"{Say.Plural(PlatePieces, "small piece")} on one plate")}, gaps {Say.N(Request.NarrowGapMm)} " +
                    $"and {Say.N(Request.WideGapMm)} mm, {Say.N(Request.NozzleTemperatureC)} °C",
        };

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => ByHeight ? Size.PadLayers + Values.Count * Size.SectionLayers : PlatePieces * (Size.PadLayers + Size.SectionLayers);

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

/// <summary>Retraction and strings: the shortest retraction that is as clean as the best, and what else travels do.</summary>
public sealed class RetractionTrial : Trial
{
    /// <summary>Its kind.</summary>
    public const string Word = "retraction-sweep";

    /// <summary>One piece by height.</summary>
    public const string Tower = "tower";

    /// <summary>Small pieces on one plate.</summary>
    public const string Plate = "plate";

    /// <summary>Retraction off and on.</summary>
    public const string OnOff = "on-off";

    /// <summary>The same before and after drying.</summary>
    public const string Dried = "dried-pair";

    /// <summary>Aspects of scores: of the narrow gap and of the wide one.</summary>
    public const string Narrow = "narrow", Wide = "wide";

    /// <summary>Aspects of counts.</summary>
    public const string NarrowCount = "strings.narrow", WideCount = "strings.wide";

    /// <summary>Gaps after travel.</summary>
    public const string Gaps = "gaps";

    /// <summary>Strings as a photo showed them.</summary>
    public const string Photo = "strings.photo";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Retraction";

    /// <inheritdoc/>
    public override string Noun => "row of reeds";

    /// <inheritdoc/>
    public override string PageFolder => "RetractionSweep";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["retractionLengthMm", "retractionSpeedMmPerS", "wipeMm", "coastMm", "zHopMm", "travelSpeedMmPerS"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["strings"];

    /// <inheritdoc/>
    public override IEnumerable<string> SetAside(ITrialPlan plan) =>
        [
            .. new[] { "from", "to", "step" },
            .. ((RetractionPlanV1)plan).Request.Mode is Tower or Plate && SweepFactor.Of(((RetractionPlanV1)plan).Request.Factor).Key is { } swept
                ? new[] { swept }
                : [],
        ];

    /// <inheritdoc/>
    public override string Purpose =>
        "Retraction from strings between thin reeds: the shortest that is as clean as the best. Wipe, coast, hop and travel speed, one at a time.";

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
        ["Fine hairs come off with a little warm air, small and moving, away from anything that burns; nothing flammable near."];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Tower, Plate, OnOff, Dried];

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>
    {
        ["nozzleTemperatureC"] = PlanField.Number("Nozzle temperature", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
        ["factor"] = PlanField.OneOf([.. SweepFactor.All.Select(f => f.Word)]),
        ["from"] = PlanField.Number("From", "", 0, 1000, "lengths in mm, speeds in mm/s"),
        ["to"] = PlanField.Number("To", "", 0, 1000, "lengths in mm, speeds in mm/s"),
        ["step"] = PlanField.Number("Step", "", 0.05m, 200, "lengths in mm, speeds in mm/s"),
        ["retractionLengthMm"] = PlanField.Number("Retraction", "mm", 0, 15, "a value outside it is a slip of unit or decimal sign"),
        ["retractionSpeedMmPerS"] = PlanField.Number("Retraction speed", "mm/s", 1, 200, "per second, not per minute"),
        ["postMm"] = PlanField.Number("Reed", "mm", 2, 10, "3 to 5: wide ones hide fine strings"),
        ["narrowGapMm"] = PlanField.Number("Narrow gap", "mm", 4, 40, "8 to 25 shows strings"),
        ["wideGapMm"] = PlanField.Number("Wide gap", "mm", 4, 60, "8 to 25 shows strings"),
        ["sectionHeightMm"] = PlanField.Number("Height of a section", "mm", 1, 20, "lower shows too few strings"),
        ["layerHeightMm"] = PlanField.Number("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["repeats"] = PlanField.Number("Pieces at each value", "", 1, 6, "a tower is repeated as a run", true, true),
        ["readBy"] = PlanField.OneOf("scores", "counts"),
        ["margin"] = PlanField.Number("Margin", "scores", 0.1m, 2, "0.5 is usual"),
        ["spoolState"] = PlanField.OneOf("as logged", "dried just now", "not known"),
    };

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode)
    {
        var pair = mode is OnOff or Dried;
        return Fields.Keys.Where(f => !(pair && f is "factor" or "from" or "to" or "step" or "margin") && !(mode == Tower && f == "repeats"));
    }

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        if (mode is OnOff or Dried && values.Number("repeats") is null or 1)
            copy["repeats"] = 2m;
        return copy;
    }

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c)
    {
        var tube = c.Machine?.LongTube == true;
        return PlanValues.Of(new RetractionRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            From = tube ? 1 : 0,
            To = tube ? 6 : c.Family?.Name == "TPU" ? 2.4m : 1.6m,
            Step = tube ? 0.5m : c.Family?.Name == "TPU" ? 0.3m : 0.2m,
            RetractionLengthMm = (decimal)Math.Round(c.Settings?.RetractionLengthMm ?? 0.8, 2),
            RetractionSpeedMmPerS = (decimal)Math.Round(c.Settings?.RetractionSpeedMmPerS ?? 30),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
            PostMm = (decimal)Math.Round(4 * Math.Max(1, (c.Machine?.NozzleDiameterMm ?? 0.4) / 0.4), 1),
        });
    }

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((RetractionPlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<RetractionRequest>();
        var errors = new List<FieldError>();
        var f = SweepFactor.Of(r.Factor);
        var pair = r.Mode is OnOff or Dried;
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        var drive = c.Machine?.LongTube == true ? "long-tube" : "direct";
        var most = (decimal)RetractionJudging.MostMm(drive);
        var longest = !pair && f.Word == "length" ? r.To : r.RetractionLengthMm;
        if (longest > most)
        {
            var field = !pair && f.Word == "length" ? "to" : "retractionLengthMm";
            errors.Add(
                new(
                    field,
                    $"{Say.N(longest)} mm is more than a {(drive == "long-tube" ? "long tube" : "direct drive")} bears: at most {Say.N(most)} mm. Beyond " +
                        $"it the melt is drawn into the cold zone and clogs.",
                    [new($"{Say.N(most)} mm", new Dictionary<string, decimal> { [field] = most })]));
        }

        if (!pair)
        {
            if (r.To <= r.From)
                errors.Add(new("to", $"The range ends at {Say.N(r.To)} and begins at {Say.N(r.From)}: an end above the beginning would be right."));
            else if (r.Values.Count is < 3 && r.Repeats < 2 || r.Values.Count < 2)
                errors.Add(
                    new(
                        "step", $"{Say.Plural(r.Values.Count, "value")} can't show a shortest: a smaller step would be right.",
                        [
                            new(
                                $"by {Say.N((r.To - r.From) / 6, 2)}",
                                new Dictionary<string, decimal> { ["step"] = Math.Max(0.05m, Math.Round((r.To - r.From) / 6, 2)) }),
                        ]));
            else if (r.Values.Count > 24)
                errors.Add(
                    new(
                        "step", $"{r.Values.Count} values stand too tall and take hours: {Say.N(Math.Ceiling((r.To - r.From) / 12 * 20) / 20)} would be right.",
                        [
                            new(
                                $"by {Say.N(Math.Ceiling((r.To - r.From) / 12 * 20) / 20)}",
                                new Dictionary<string, decimal> { ["step"] = Math.Ceiling((r.To - r.From) / 12 * 20) / 20 }),
                        ]));
            if (f.Unit == "mm/s" && r.From < 1)
                errors.Add(new("from", $"{Say.N(r.From)} mm/s is no speed: from 1 up."));
            if (f.Word is "wipe" or "coast" or "hop" && r.To > 10)
                errors.Add(new("to", $"{Say.N(r.To)} mm is more than any reed is round: at most 10 mm."));
            if (f.Word == "travel" && c.Machine is { } fast && r.To > (decimal)fast.MaxSpeedMmPerS)
                errors.Add(
                    new(
                        "to", $"{fast.Name} travels at most at {Say.N(fast.MaxSpeedMmPerS)} mm/s.",
                        [new($"{Say.N(fast.MaxSpeedMmPerS)} mm/s", new Dictionary<string, decimal> { ["to"] = (decimal)fast.MaxSpeedMmPerS })]));
            if (f.Word == "coast" && r.To * 2 > r.PostMm * 3)
                errors.Add(
                    new(
                        "to",
                        $"A coast of {Say.N(r.To)} mm is half of the way around a reed of {Say.N(r.PostMm)} mm: at most " +
                            $"{Say.N(Math.Floor(r.PostMm * 15) / 10)} mm."
                    ));
        }

        if (pair && r.Mode == OnOff && r.RetractionLengthMm <= 0)
            errors.Add(
                new(
                    "retractionLengthMm", "On needs a length: the drive's usual one would be right.",
                    [
                        new(
                            $"{(drive == "long-tube" ? 4 : 0.8m)} mm",
                            new Dictionary<string, decimal> { ["retractionLengthMm"] = drive == "long-tube" ? 4 : 0.8m }),
                    ]));
        if (r.WideGapMm < r.NarrowGapMm)
            errors.Add(
                new("wideGapMm", $"The wide gap, {Say.N(r.WideGapMm)} mm, is narrower than the narrow one: {Say.N(2 * r.NarrowGapMm)} mm would be right."));
        if (c.Machine is { } machine && r.PostMm < 6 * (decimal)machine.NozzleDiameterMm)
            errors.Add(
                new(
                    "postMm",
                    $"A reed of {Say.N(r.PostMm)} mm has no room for two walls of a {Say.N(machine.NozzleDiameterMm)} mm nozzle: " +
                        $"{Say.N(8 * machine.NozzleDiameterMm)} mm would be right.",
                    [new($"{Say.N(8 * machine.NozzleDiameterMm)} mm", new Dictionary<string, decimal> { ["postMm"] = 8 * (decimal)machine.NozzleDiameterMm })])
            );
        if (errors.Count > 0)
            return new(null, errors);
        IReadOnlyList<decimal> parts = r.Mode switch
        {
            OnOff => [.. Enumerable.Range(0, (int)r.Repeats).SelectMany(_ => new[] { 0m, r.RetractionLengthMm })],
            Dried => [.. Enumerable.Repeat(r.RetractionLengthMm, 2 * (int)r.Repeats)],
            Plate => [.. Enumerable.Range(0, (int)r.Repeats).SelectMany(_ => r.Values)],
            _ => r.Values,
        };
        List<string> warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)];
        if (c.Dryness is { DryFirst: true } dry && r.SpoolState != "dried just now" && r.Mode != Dried)
            warnings.Add($"Dry first: {dry.Sentence} Damp filament strings whatever the retraction.");
        var advisory = RetractionJudging.Advisory(drive);
        if (!pair && f.Word == "length" && r.To > (decimal)advisory.Max!.Value)
            warnings.Add(
                $"Above {Say.N(advisory.Max!.Value)} mm is longer than usual for a " +
                    $"{(drive == "long-tube" ? "long tube" : "direct drive")}{(c.Family?.Name == "TPU" ? "; soft filament may need more than that" : "")}: " +
                    $"watch for gaps after travel, they are a reading."
            );
        if (r.PostMm > 5)
            warnings.Add("Reeds wider than 5 mm hide fine strings.");
        var plan = new RetractionPlanV1
        {
            Request = r, Drive = drive, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, Values = parts, Soft = c.Family?.Name == "TPU",
            Estimate = new(1, null, 0), Warnings = warnings,
        };
        var layers = ((ITrialPlan)plan).TotalLayers * (r.Mode == Dried ? 2 : 1);
        return new(
            plan with
            {
                Estimate = new(
                    (int)Math.Ceiling(layers * 8 / 60.0),
                    Math.Round(layers * 3 * Math.PI * Math.Pow((double)r.PostMm / 2, 2) * (double)r.LayerHeightMm * 1.24 / 1000, 1), 0),
            },
            []);
    }

    private static TravelWay Way(RetractionRequest r, decimal value)
    {
        var (length, speed, v) = ((double)r.RetractionLengthMm, (double)r.RetractionSpeedMmPerS, (double)value);
        var fixedWay = new TravelWay(length, speed);
        return r.Mode is OnOff ? fixedWay with { LengthMm = v } : r.Mode is Dried ? fixedWay : r.Factor switch
        {
            "speed" => fixedWay with { SpeedMmPerS = v },
            "wipe" => fixedWay with { WipeMm = v },
            "coast" => fixedWay with { CoastMm = v },
            "hop" => fixedWay with { HopMm = v },
            "travel" => fixedWay with { TravelMmPerS = v },
            _ => fixedWay with { LengthMm = v },
        };
    }

    private static IReadOnlyList<Piece> PiecesOf(RetractionPlanV1 p, bool byHeight) => byHeight
        ? [Reeds.Build(p.Size, [.. p.Values.Select(v => Way(p.Request, v))])]
        : [.. p.Values.Take(p.ByHeight ? p.Values.Count : p.PlatePieces).Select((v, i) => Reeds.Build(p.Size, [Way(p.Request, v)], i + 1))];

    /// <inheritdoc/>
    public override IReadOnlyList<Piece> Pieces(ITrialPlan plan) => PiecesOf((RetractionPlanV1)plan, ((RetractionPlanV1)plan).ByHeight);

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<RetractionPlanV1>(json);

    /// <inheritdoc/>
    public override (ITrialPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(ITrialPlan plan, PlanContext context)
    {
        var p = (RetractionPlanV1)plan;
        (PieceJob? Job, IReadOnlyList<FieldError> Errors) Job(IReadOnlyList<Piece> pieces) =>
            PieceJob.Make(
                new JobRequest
                {
                    Pieces = pieces, Temperatures = [new(0, 1, (double)p.Request.NozzleTemperatureC, "all of it")], PlanLines =
                    [
                        $"retraction, {context.Subject}", ((ITrialPlan)p).Summary,
                        $"from {(p.ByHeight ? "the bottom up" : "piece 1 on; teeth in the front edge count them")}: " +
                            $"{string.Join(", ", ((ITrialPlan)p).Parts.Take(p.ByHeight ? p.Values.Count : p.PlatePieces).Select(x => x.Label))}",
                    ],
                },
                context.Machine!, context.Settings!);
        var (job, errors) = Job(Pieces(p));
        if (job is null)
            return (
                plan, null,
                [
                    .. errors.Select(e =>
                        e.Field switch
                        {
                            "pieceDepthMm" => e with { Field = "wideGapMm", Offers = [] },
                            "coolestC" => e with
                            {
                                Field = "repeats",
                                Message = e.Message.Replace(
                                    "Fewer sections or one tower", "Fewer values, fewer repeats or one piece by height", StringComparison.Ordinal),
                            },
                            _ => e,
                        }),
                ]);
        List<SweepWay> ways = [];
        if (p.Request.Mode is Tower or Plate && p.Request.Repeats == 1)
        {
            // Both ways are made, so that what they cost is counted, not guessed.
            var tower = p.ByHeight ? job : Job(PiecesOf(p, true)).Job;
            var plate = p.ByHeight ? Job(PiecesOf(p, false)).Job : job;
            var single = Job([.. PiecesOf(p, false).Take(1)]).Job;
            if (tower is not null)
                ways.Add(new("one piece by height", tower.Minutes, 1, p.ByHeight));
            if (plate is not null)
                ways.Add(new("small pieces on one plate", plate.Minutes, 1, !p.ByHeight));
            if (single is not null)
                ways.Add(new("small pieces, one print each", single.Minutes * p.Values.Count, p.Values.Count, false));
        }

        var estimate = PieceFields.EstimateOf(job);
        if (p.Request.Mode == Dried)
            estimate = estimate with { Minutes = 2 * estimate.Minutes, MassG = 2 * estimate.MassG, CostMinor = 2 * estimate.CostMinor };
        return (p with { Estimate = estimate, Ways = ways, Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    public override int FirstLook(ITrialPlan plan) => ((RetractionPlanV1)plan).Size.PadLayers + 2;

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) => $"{((RetractionPlanV1)plan).Request.Factor} {Say.N(plan.HottestC, 0)}";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (RetractionPlanV1)plan;
        return p.Request.LayerHeightMm <= 0 ? "plan has no layer height"
            : p.Request.Mode is Dried or OnOff && (p.Values.Count < 2 || p.Values.Count % 2 != 0) ? "plan of pairs does not hold pairs" : base.Faults(plan);
    }

    /// <inheritdoc/>
    public override string Extent(ITrialPlan plan) => Say.Plural(plan.Parts.Count, ((RetractionPlanV1)plan).ByHeight ? "section" : "piece");

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) =>
        $"one {(((RetractionPlanV1)plan).ByHeight ? "tower of reeds" : "plate of reeds")} at {Say.N(plan.HottestC)} °C";

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan)
    {
        var p = (RetractionPlanV1)plan;
        var scores = p.Request.ReadBy != "counts";
        Quantity strings = new("Strings", "", 0, 10000, "counted in the gap", true);
        IReadOnlyList<GridRow> rows = [.. plan.Parts.Select(x => new GridRow(x.Index, x.Label))];
        return new(
            p.ByHeight ? [.. rows.Reverse()] : rows,
            [
                .. scores
                    ? new GridColumn[]
                    {
                        new(Narrow, $"{Say.N(p.Request.NarrowGapMm)} mm gap", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "narrow gap" },
                        new(Wide, $"{Say.N(p.Request.WideGapMm)} mm gap", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "wide gap" },
                    }
                    :
                    [
                        new(NarrowCount, $"{Say.N(p.Request.NarrowGapMm)} mm gap", CellKind.Number)
                        {
                            Quantity = strings, Resolution = 1, Digits = 0, Lead = "strings in the narrow gap",
                        },
                        new(WideCount, $"{Say.N(p.Request.WideGapMm)} mm gap", CellKind.Number)
                        {
                            Quantity = strings, Resolution = 1, Digits = 0, Lead = "strings in the wide gap",
                        },
                    ],
                new(Gaps, "After travel", CellKind.Word, false) { Words = ["full", "gaps"], Lead = "gaps after travel" },
                new(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
            ])
        { RowHead = p.ByHeight ? "Section" : "Piece" };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Narrow or Wide or NarrowCount or WideCount or Gaps or Photo;

    private static IEnumerable<RetractionPoint> Points(RetractionPlanV1 p, RunReadings readings, IReadOnlyList<SectionState> states)
    {
        for (var i = 0; i < p.Values.Count; i++)
        {
            if (states[i] == SectionState.Lost)
                continue;
            // A section that the nozzle failed to print is a failure: it counts as unusable.
            double[] scores = states[i] == SectionState.Failed ? [0] : [.. new[] { readings.Value(i, Narrow), readings.Value(i, Wide) }.OfType<double>()];
            double[] strings =
                states[i] == SectionState.Failed || scores.Length > 0 && p.Request.ReadBy != "counts"
                    ? []
                    : [.. new[] { readings.Value(i, NarrowCount), readings.Value(i, WideCount) }.OfType<double>()];
            if (strings.Length > 0)
                scores = p.Request.ReadBy == "counts" ? [] : scores;
            if (scores.Length + strings.Length == 0)
                continue;
            var (r, v) = (p.Request, (double)p.Values[i]);
            yield return new(
                r.Factor == "length" || r.Mode == OnOff ? v : (double)r.RetractionLengthMm,
                r.Factor == "speed" && r.Mode is Tower or Plate ? v : (double)r.RetractionSpeedMmPerS, scores, strings,
                readings.Text(i, Gaps) == "gaps" ? 1 : 0, v);
        }
    }

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context)
    {
        var p = (RetractionPlanV1)plan;
        var states = States(plan, readings);
        if (p.Request.Mode is OnOff or Dried)
            return JudgePair(p, readings, states, context);
        var points = Points(p, readings, states).ToList();
        // Runs that follow under the same conditions are repeats, where they swept the same factor.
        foreach (var (before, read) in context.Earlier)
        {
            if (before is RetractionPlanV1 q
                && q.Request.Factor == p.Request.Factor
                && q.Request.Mode is Tower or Plate
                && q.Request.NozzleTemperatureC == p.Request.NozzleTemperatureC)
                points.AddRange(Points(q, read, States(q, read)));
        }

        var read1 = points.Select(x => x.Value).Distinct().Count();
        if (read1 < 2 || (read1 < 3 && p.Values.Distinct().Count() > 2))
            return new RetractionVerdict
            {
                Verdict = "insufficient", Sentence = read1 == 0 ? "Nothing is read yet." : $"{Say.Plural(read1, "value")} read: three are the least.",
                Factor = p.Request.Factor, Advised = false,
            };
        var v = RetractionJudging.Judge(
            new()
            {
                Drive = p.Drive, Factor = p.Request.Factor, Points = points, Margin = (double)p.Request.Margin, ScoreNoise = context.ScoreNoise, Soft = p.Soft,
                NozzleTemperatureC = plan.HottestC,
            });
        return Trials.Practice.Beside(v, context.Practice, Word);
    }

    private static RetractionVerdict JudgePair(RetractionPlanV1 p, RunReadings readings, IReadOnlyList<SectionState> states, JudgeContext context)
    {
        var dried = p.Request.Mode == Dried;
        RetractionPoint Of(Func<int, bool> group)
        {
            var (scores, strings) = (new List<double>(), new List<double>());
            for (var i = 0; i < p.Values.Count; i++)
            {
                if (!group(i) || states[i] == SectionState.Lost)
                    continue;
                if (p.Request.ReadBy == "counts")
                    strings.AddRange(new[] { readings.Value(i, NarrowCount), readings.Value(i, WideCount) }.OfType<double>());
                else
                    scores.AddRange(new[] { readings.Value(i, Narrow), readings.Value(i, Wide) }.OfType<double>());
            }

            return new(0, 30, scores, strings);
        }

        var (first, second) = dried
            ? (Of(i => i < p.Values.Count / 2), Of(i => i >= p.Values.Count / 2))
            : (Of(i => p.Values[i] == 0), Of(i => p.Values[i] != 0));
        return first.Scores.Count + first.Strings.Count == 0 || second.Scores.Count + second.Strings.Count == 0
            ? new()
            {
                Verdict = "insufficient", Sentence =
                    first.Scores.Count + first.Strings.Count + second.Scores.Count + second.Strings.Count == 0
                        ? "Nothing is read yet."
                        : "One of the two is not read yet.",
                Factor = dried ? "dryness" : "on-off", Advised = false,
            }
            : RetractionJudging.Pair(first, second, context.ScoreNoise, dried);
    }

    /// <inheritdoc/>
    public override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict)
    {
        var v = (RetractionVerdict)verdict;
        if (v.Values.Count == 0)
            return null;
        var f = SweepFactor.Of(v.Factor);
        var pair = v.Factor is "dryness" or "on-off";
        return new(
            pair
                ? v.Factor == "dryness"
                    ? "0 as it was, 1 dried"
                    : "0 off, 1 on"
                : $"{f.Label.ToLowerInvariant()}, {f.Unit}",
            "mean score, 0–4",
            [
                .. v.Values.Select(
                    (x, i) =>
                        new ChartPoint(
                            x, v.Means[i]!.Value, Math.Max(0, v.Means[i]!.Value - v.Halves[i]!.Value), Math.Min(4, v.Means[i]!.Value + v.Halves[i]!.Value),
                            v.TooLong.Contains(x) ? "out"
                                : v.AsGood.Contains(x) ? "best"
                                : "",
                            v.TooLong.Contains(x) ? "gaps" : "")),
            ])
        {
            Line = [.. v.Values.Select((x, i) => (x, v.Means[i]!.Value))],
            Band = v.AsGood.Count > 0 && v.Verdict is "clear" or "noise" ? (v.AsGood.Min(), v.AsGood.Max()) : null,
            Chosen = v.Value,
            WholeX = v.Values.Count < 14,
            Summary = v.Sentence,
        };
    }

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateBody(string Drive, IReadOnlyList<EvaluatePoint> Points, double? Margin, string? Factor, double? ScoreNoise);

    /// <summary>A point of the body.</summary>
    public sealed record EvaluatePoint(double LengthMm, double SpeedMmPerS, double? Score, double? Strings, double? Gaps, int? Repeat, double? Value);

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(RetractionRequest), typeof(RetractionPlanV1), typeof(EvaluateBody), typeof(RetractionVerdict));

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        static IReadOnlyList<double> One(decimal? v) => v is { } d ? [(double)d] : [];
        var points = (door.List("points", true) ?? [])
            .Select(x => new RetractionPoint(
                (double)(x.Number("lengthMm") ?? 0), (double)(x.Number("speedMmPerS") ?? 30), One(x.Number("score")), One(x.Number("strings")), x.Gaps("gaps"),
                (double?)x.Number("value")))
            .ToList();
        var word = door.Word("factor", [.. SweepFactor.All.Select(f => f.Word)])
            ?? (
                points.Select(p => p.LengthMm).Distinct().Count() > 1 ? "length"
                : points.Select(p => p.SpeedMmPerS).Distinct().Count() > 1 ? "speed"
                : "length");
        var limits = door.Object("limits");
        var advised = door.Object("advised");
        var r = new RetractionReadings
        {
            Drive = door.Word("drive", ["direct", "long-tube"]) ?? "direct",
            Factor = word,
            Points = points,
            Margin = (double)(door.Number("margin") ?? 0.5m),
            ScoreNoise = (double)(door.Number("scoreNoise") ?? 0.5m),
            Limits = limits is null ? null : new((double?)limits.Number("min"), (double?)limits.Number("max")),
            Advised = advised is null ? null : new((double?)advised.Number("min"), (double?)advised.Number("max")),
        };
        var known = door.Number("knownGoodLengthMm");
        if (door.Errors.Count == 0)
            door.Take(RetractionJudging.Check(r));
        return door.Errors.Count > 0
            ? null
            : Trials.Practice.Beside(RetractionJudging.Judge(r), known is { } k ? [new("retractionLengthMm", (double)k, null, "practice")] : [], Word);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"drive": "direct", "points": [{"lengthMm": 0, "speedMmPerS": 30, "score": 0}, {"lengthMm": 0.4, "speedMmPerS": 30, "score": 1},""" +
            """ {"lengthMm": 0.8, "speedMmPerS": 30, "score": 4}, {"lengthMm": 1.2, "speedMmPerS": 30, "score": 4}, {"lengthMm": 1.6,""" +
            """ "speedMmPerS": 30, "score": 4}], "margin": 0.5}""";
}
