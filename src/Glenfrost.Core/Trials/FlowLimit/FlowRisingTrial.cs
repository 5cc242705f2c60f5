using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of a rising spiral. Lengths in mm, flows in mm³/s.</summary>
public sealed record RisingRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Flow where the rise begins.</summary>
    public decimal StartFlowMm3PerS { get; init; } = 4;

    /// <summary>Flow at the top.</summary>
    public decimal TopFlowMm3PerS { get; init; } = 16;

    /// <summary>Height of the rise.</summary>
    public decimal RiseHeightMm { get; init; } = 40;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.25m;

    /// <summary>Line width.</summary>
    public decimal LineWidthMm { get; init; } = 0.5m;

    /// <summary>rectangular or stadium.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>Diameter of the tube.</summary>
    public decimal DiameterMm { get; init; } = 80;

    /// <summary>Margin, %.</summary>
    public decimal MarginPercent { get; init; } = 10;

    /// <summary>State of the spool.</summary>
    public string SpoolState { get; init; } = "as logged";

    /// <summary>What a flow override in the start code leaves, %; 100 for none.</summary>
    public decimal ResidualFlowPercent { get; init; } = 100;

    /// <summary>stays or goes: whether that override is there in real prints; empty where there is none.</summary>
    public string Override { get; init; } = "";

    /// <summary>What a figure of flow in the file is in real prints.</summary>
    internal double FlowFactor => FlowOverride.Factor(ResidualFlowPercent, Override);

    /// <summary>Turns of the spiral.</summary>
    internal int Turns => Math.Max(1, (int)Math.Round(RiseHeightMm / LayerHeightMm));
}

/// <summary>A rising spiral that can be printed. Version 1 of the stored plan: fields are only added.</summary>
public sealed record RisingPlanV1 : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required RisingRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Rise for each mm of height, mm³/s.</summary>
    public required double FlowPerMm { get; init; }

    /// <summary>Height of the rise as it is printed, in whole turns, mm.</summary>
    public required double TopHeightMm { get; init; }

    /// <summary>What lets its fastest part be reached; empty without a machine.</summary>
    public string Reached { get; init; } = "";

    /// <summary>Fastest speed that acceleration lets the circle be run at, mm/s; null without a machine.</summary>
    public double? ReachableSpeedMmPerS { get; init; }

    /// <summary>Flow at a height of the rise, mm³/s.</summary>
    public double FlowAt(double heightMm) => (double)Request.StartFlowMm3PerS + FlowPerMm * heightMm;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [
            new(
                0, "the rise", TubeShape.BaseLayers + 1, LayersOf, TubeShape.BaseLayers * (double)Request.LayerHeightMm,
                TubeShape.BaseLayers * (double)Request.LayerHeightMm + TopHeightMm, NozzleC),
        ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"a spiral of {Say.N(TopHeightMm, 1)} mm whose flow rises from {Say.N(Request.StartFlowMm3PerS)} to {Say.N(Request.TopFlowMm3PerS)} mm³/s, " +
            $"{Say.N(FlowPerMm, 3)} for each mm, {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => TubeShape.BaseLayers + Request.Turns;

    /// <inheritdoc/>
    protected override string ChecksHead => "Flow";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [
            .. Enumerable.Range(0, 9).Select(i => (int)Math.Round(i * Request.Turns / 8.0))
                .Select(t => new PlanCheckpoint(
                    TubeShape.BaseLayers + Math.Max(1, t), (TubeShape.BaseLayers + t) * (double)Request.LayerHeightMm,
                    $"{Say.N(FlowAt(t * (double)Request.LayerHeightMm), 1)} mm³/s", $"height {Say.N(t * (double)Request.LayerHeightMm, 1)} mm of the rise")),
        ];
}

/// <summary>Flow limit by a rising spiral: the height at which the wall first fails is a flow.</summary>
public sealed class FlowRisingTrial : FlowTrial
{
    /// <summary>Its kind.</summary>
    public const string Word = "flow-limit-rising";

    /// <summary>Height of the first fault.</summary>
    public const string Height = "failHeightMm";

    /// <summary>How surely.</summary>
    public const string Sure = "heightUncertaintyMm";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Flow limit by a rising spiral";

    /// <inheritdoc/>
    public override string Noun => "spiral";

    /// <inheritdoc/>
    public override string PageFolder => "FlowLimit/Rising";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["flow-limit"];

    /// <inheritdoc/>
    public override IEnumerable<string> SetAside(ITrialPlan plan) => ["startFlowMm3PerS", "topFlowMm3PerS", "riseHeightMm", "maxVolumetricFlowMm3PerS"];

    /// <inheritdoc/>
    public override string? FoundWith(ITrialPlan plan, string key) =>
        ((RisingPlanV1)plan).Request is var r ? $"{Say.N(r.LayerHeightMm, 3)} × {Say.N(r.LineWidthMm, 3)} mm, {r.Area}" : null;

    /// <inheritdoc/>
    public override string Purpose => "Flow limit from a spiral whose flow rises with height: one print, one height to measure.";

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>(Flows.SharedFields)
    {
        ["startFlowMm3PerS"] = PlanField.Number("Flow where the rise begins", "mm³/s", 0.2m, 200, "3 to 8 is usual"),
        ["topFlowMm3PerS"] = PlanField.Number("Flow at the top", "mm³/s", 0.5m, 200, "above what you hope for"),
        ["riseHeightMm"] = PlanField.Number("Height of the rise", "mm", 5, 200, "the taller, the finer it tells"),
        ["layerHeightMm"] = PlanField.Number("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["lineWidthMm"] = PlanField.Number("Line width", "mm", 0.1m, 3, "0.6 to 2 times the nozzle"),
        ["area"] = PlanField.OneOf("rectangular", "stadium"),
        ["diameterMm"] = PlanField.Number("Diameter", "mm", 20, 400, "a small circle can't be run fast"),
    };

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c)
    {
        var (height, width, diameter, top) = Tubes.Line(c);
        return PlanValues.Of(new RisingRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)height,
            LineWidthMm = (decimal)width,
            DiameterMm = diameter,
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            StartFlowMm3PerS = (decimal)Math.Round(top / 4, 1),
            TopFlowMm3PerS = (decimal)Math.Floor(top),
        });
    }

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((RisingPlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<RisingRequest>();
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, r.LineWidthMm, lineField: "lineWidthMm");
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        if (r.TopFlowMm3PerS <= r.StartFlowMm3PerS)
            errors.Add(
                new(
                    "topFlowMm3PerS",
                    $"The top, {Say.N(r.TopFlowMm3PerS)} mm³/s, must lie above the start, {Say.N(r.StartFlowMm3PerS)}: {Say.N(4 * r.StartFlowMm3PerS)} " +
                        $"would be right.",
                    [new($"{Say.N(4 * r.StartFlowMm3PerS)} mm³/s", new Dictionary<string, decimal> { ["topFlowMm3PerS"] = 4 * r.StartFlowMm3PerS })]));
        if (errors.Count > 0)
            return new(null, errors);
        var top = r.Turns * (double)r.LayerHeightMm;
        var rise = ((double)r.TopFlowMm3PerS - (double)r.StartFlowMm3PerS) / top;
        var mean = (double)(r.StartFlowMm3PerS + r.TopFlowMm3PerS) / 2;
        var plan = new RisingPlanV1
        {
            Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, FlowPerMm = Math.Round(rise, 6), TopHeightMm = Math.Round(top, 4),
            Estimate = Tubes.Rough((double)r.DiameterMm, r.Turns, mean / Flows.AreaMm2(r.Area, (double)r.LineWidthMm, (double)r.LayerHeightMm), mean),
        };
        List<string> warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)];
        if (rise * 0.5 > 0.06 * (double)r.TopFlowMm3PerS)
            warnings.Add($"Half a millimetre of height is {Say.N(rise * 0.5, 2)} mm³/s: a taller rise, or a narrower range, tells finer.");
        if (c.Machine is not { } m || c.Settings is not { } s)
            return new(plan with { Warnings = warnings }, []);
        var tube = Shape(plan);
        tube.Check(errors, m, "topFlowMm3PerS");
        if (errors.Count > 0)
            return new(null, errors);
        var (_, estimate, wrong) = Write(plan, c);
        return wrong.Count > 0
            ? new(null, wrong)
            : new(
                plan with
                {
                    Estimate = estimate,
                    Reached = tube.Reaches(m, s),
                    ReachableSpeedMmPerS = Math.Floor(TubeShape.Fastest((double)r.DiameterMm, m)),
                    Warnings = warnings,
                },
                []);
    }

    private static TubeShape Shape(RisingPlanV1 p)
    {
        var r = p.Request;
        var area = Flows.AreaMm2(r.Area, (double)r.LineWidthMm, (double)r.LayerHeightMm);
        return new((double)r.DiameterMm, (double)r.LayerHeightMm, (double)r.LineWidthMm, r.Area, (double)r.NozzleTemperatureC, r.Turns, up =>
            p.FlowAt(up) / area);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(ITrialPlan plan, PlanContext c)
    {
        var p = (RisingPlanV1)plan;
        return Shape(p)
            .Write(
                c,
                [
                    $"flow limit by a rising spiral, {c.Subject}",
                    $"flow {Say.N(p.Request.StartFlowMm3PerS)} to {Say.N(p.Request.TopFlowMm3PerS)} mm3/s over {Say.N(p.TopHeightMm, 2)} mm, " +
                        $"{Say.N(p.FlowPerMm, 4)} mm3/s for each mm",
                    "stand by; stop at clicking or grinding and measure the height from where the spiral begins",
                ],
                up =>
                    Math.Abs(up / 5 - Math.Round(up / 5)) * 5 < (double)p.Request.LayerHeightMm / 2
                        ? $"{Say.N(p.FlowAt(up), 2)} mm3/s at {Say.N(up, 2)} mm of the rise"
                        : null);
    }

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<RisingPlanV1>(json);

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) => ((RisingPlanV1)plan).Request.LayerHeightMm <= 0 ? "plan has no layer height" : base.Faults(plan);

    /// <inheritdoc/>
    public override string Extent(ITrialPlan plan) => $"{Say.N(((RisingPlanV1)plan).TopHeightMm, 0)} mm of rise";

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) => $"one spiral at {Say.N(plan.HottestC)} °C";

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan) =>
        new(
            [new GridRow(0, "First fault")],
            [
                new(Fault, "Seen or heard", CellKind.Word, true)
                {
                    Words = ["", "none up to the top", .. Flows.Faults.Skip(1)], Lead = "what was seen or heard",
                },
                new(Height, "Height, mm", CellKind.Number)
                {
                    Quantity = new(
                        "Height of the first fault", "mm", 0, (decimal)Math.Round(((RisingPlanV1)plan).TopHeightMm, 2),
                        "from where the rise begins to its top"),
                    Resolution = 0.5, Digits = 2,
                    Plausible = (1, ((RisingPlanV1)plan).TopHeightMm),
                },
                new(Sure, "± mm", CellKind.Number, false)
                {
                    Quantity = new("How surely", "mm", 0, 50, "0.5 is usual"), Resolution = 0.1, Digits = 2, Lead = "how surely it is read",
                },
            ])
        { RowHead = "Reading", ManyColumns = true };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Height or Sure or Fault;

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings) =>
        base.Waiting(plan, readings).Where(c => c.Aspect != Height || readings.Text(0, Fault) != "none up to the top");

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    public override IReadOnlyDictionary<int, string> RowNotes(ITrialPlan plan, RunReadings readings) =>
        readings.Value(0, Height) is { } h
            ? new Dictionary<int, string> { [0] = $"{Say.N(((RisingPlanV1)plan).FlowAt(h) * ((RisingPlanV1)plan).Request.FlowFactor, 1)} mm³/s there" }
            : new Dictionary<int, string>();

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context)
    {
        var p = (RisingPlanV1)plan;
        var (fault, height) = (readings.Text(0, Fault), readings.Value(0, Height));
        if (height is null && fault != "none up to the top")
            return new RisingFlowVerdict
            {
                Verdict = "insufficient",
                Sentence = fault.Length > 0 ? $"{char.ToUpperInvariant(fault[0])}{fault[1..]}: at which height?" : "Nothing is read yet.", Advised = false,
            };
        // A spiral that ended early without a fault says nothing above its end.
        var top = readings.EndedAtLayer is { } layer ? Math.Max(0.1, (layer - TubeShape.BaseLayers) * (double)p.Request.LayerHeightMm) : p.TopHeightMm;
        var input = new RisingReadings
        {
            StartFlowMm3PerS = (double)p.Request.StartFlowMm3PerS * p.Request.FlowFactor,
            FlowPerMm = p.FlowPerMm * p.Request.FlowFactor,
            FailHeightMm = fault == "none up to the top" ? null : height,
            HeightUncertaintyMm = readings.Value(0, Sure) ?? readings.Resolution([Height], 0.5),
            TopHeightMm = fault == "none up to the top" ? top : Math.Max(top, height ?? 0),
            MarginPercent = (double)p.Request.MarginPercent,
            Fault = fault == "none up to the top" ? "" : fault,
            Area = p.Request.Area,
            NozzleMm = p.NozzleMm,
        };
        return RisingJudging.Check(input) is { Count: > 0 } wrong
            ? new RisingFlowVerdict { Verdict = "insufficient", Sentence = wrong[0].Message, Advised = false }
            : Beside(RisingJudging.Judge(input), context.Practice, (p.Request.ResidualFlowPercent, p.Request.Override));
    }

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) => $"{Say.N(plan.HottestC, 0)} rising";

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(RisingRequest), typeof(RisingPlanV1), typeof(RisingReadings), typeof(RisingFlowVerdict));

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        var r = new RisingReadings
        {
            StartFlowMm3PerS = (double)(door.Number("startFlowMm3PerS", true) ?? 5),
            FlowPerMm = (double)(door.Number("flowPerMm", true) ?? 0.3m),
            FailHeightMm = (double?)door.Number("failHeightMm"),
            HeightUncertaintyMm = (double)(door.Number("heightUncertaintyMm") ?? 0.5m),
            TopHeightMm = (double?)door.Number("topHeightMm"),
            MarginPercent = (double)(door.Number("marginPercent") ?? 10),
            Area = door.Word("area", Flows.Areas) ?? "rectangular",
            NozzleMm = (double)(door.Number("nozzleDiameterMm") ?? 0.4m),
        };
        var (practice, left) = (Flows.Practice(door), FlowOverride.Read(door));
        var factor = FlowOverride.Factor(left.Percent, left.Answer);
        if (door.Errors.Count == 0)
            door.Take(RisingJudging.Check(r));
        r = r with { StartFlowMm3PerS = r.StartFlowMm3PerS * factor, FlowPerMm = r.FlowPerMm * factor };
        return door.Errors.Count > 0 ? null : Beside(RisingJudging.Judge(r), practice is null ? [] : [practice], left);
    }

    /// <inheritdoc/>
    public override string Example => """{"startFlowMm3PerS": 4, "flowPerMm": 0.3, "failHeightMm": 31.5, "heightUncertaintyMm": 0.5, "topHeightMm": 40}""";
}
