using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Flow limit by a rising spiral: the height at which the wall first fails is a flow.</summary>
public sealed class FlowRisingTrial : TubeTrial<RisingRequest, RisingPlan, RisingFlowVerdict>
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
    protected override IEnumerable<string> SetAside(RisingPlan plan) => ["startFlowMm3PerS", "topFlowMm3PerS", "riseHeightMm", "maxVolumetricFlowMm3PerS"];

    /// <inheritdoc/>
    protected override string? FoundWith(RisingPlan plan, string key) =>
        $"{Say.N(plan.Request.LayerHeightMm, 3)} × {Say.N(plan.Request.LineWidthMm, 3)} mm, {plan.Request.Area}";

    /// <inheritdoc/>
    public override string Purpose => "Flow limit from a spiral whose flow rises with height: one print, one height to measure.";

    private const string TheRise = "The rise";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.StartFlowMm3PerS, "Flow where it begins", "mm³/s", 0.2m, 200, "3 to 8 is usual", "Good for sure.", TheRise),
        Number(r => r.TopFlowMm3PerS, "Flow at the top", "mm³/s", 0.5m, 200, "above what you hope for", "Above what you hope for.", TheRise),
        Number(r => r.RiseHeightMm, "Height of the rise", "mm", 5, 200, "the taller, the finer it tells", "The taller, the finer it tells.", TheRise),
        .. LineFields(),
    ];

    /// <inheritdoc/>
    protected override RisingRequest Proposal(PlanContext c)
    {
        var (height, width, diameter, top) = Tubes.Line(c);
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)height,
            LineWidthMm = (decimal)width,
            DiameterMm = diameter,
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            StartFlowMm3PerS = (decimal)Math.Round(top / 4, 1),
            TopFlowMm3PerS = (decimal)Math.Floor(top),
        };
    }

    /// <inheritdoc/>
    protected override RisingRequest RequestOf(RisingPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<RisingPlan> Plan(RisingRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, r.LineWidthMm, lineField: "lineWidthMm");
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        var above = Math.Min(4 * r.StartFlowMm3PerS, Fields["topFlowMm3PerS"].Quantity!.Max);
        if (r.TopFlowMm3PerS <= r.StartFlowMm3PerS)
            errors.Add(
                new(
                    "topFlowMm3PerS",
                    $"The top, {Say.N(r.TopFlowMm3PerS)} mm³/s, must lie above the start, {Say.N(r.StartFlowMm3PerS)}: " +
                        (above > r.StartFlowMm3PerS ? $"{Say.N(above)} would be right." : "a lower start would be right."),
                    [new($"{Say.N(above)} mm³/s", new Dictionary<string, decimal> { ["topFlowMm3PerS"] = above })]));
        if (errors.Count > 0)
            return errors;
        var top = r.Turns * (double)r.LayerHeightMm;
        var rise = ((double)r.TopFlowMm3PerS - (double)r.StartFlowMm3PerS) / top;
        var mean = (double)(r.StartFlowMm3PerS + r.TopFlowMm3PerS) / 2;
        var plan = new RisingPlan
        {
            Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, FlowPerMm = Math.Round(rise, 6), TopHeightMm = Math.Round(top, 4),
            Estimate = Tubes.Rough((double)r.DiameterMm, r.Turns, mean / Flows.AreaMm2(r.Area, (double)r.LineWidthMm, (double)r.LayerHeightMm), mean),
        };
        List<PlanWarning> warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)];
        if (rise * 0.5 > 0.06 * (double)r.TopFlowMm3PerS)
            warnings.Add(new(PlanWarningKind.CoarseRise, rise * 0.5));
        if (c.Machine is not { } m || c.Settings is not { } s)
            return plan with { Warnings = warnings };
        var tube = Shape(plan);
        tube.Check(errors, m, "topFlowMm3PerS");
        if (errors.Count > 0)
            return errors;
        var (_, estimate, wrong) = Write(plan, c);
        if (wrong.Count > 0)
            return wrong.ToList();
        return plan with
        {
            Estimate = estimate,
            Reached = tube.Reaches(m, s),
            ReachableSpeedMmPerS = Math.Floor(TubeShape.Fastest((double)r.DiameterMm, m)),
            Warnings = warnings,
        };
    }

    private static TubeShape Shape(RisingPlan p)
    {
        var r = p.Request;
        var area = Flows.AreaMm2(r.Area, (double)r.LineWidthMm, (double)r.LayerHeightMm);
        return new((double)r.DiameterMm, (double)r.LayerHeightMm, (double)r.LineWidthMm, r.Area, (double)r.NozzleTemperatureC, r.Turns, up =>
            p.FlowAt(up) / area);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(RisingPlan p, PlanContext c)
    {
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
    public override string? Faults(ITrialPlan plan) => ((RisingPlan)plan).Request.LayerHeightMm <= 0 ? "plan has no layer height" : base.Faults(plan);

    /// <inheritdoc/>
    protected override string Extent(RisingPlan plan) => $"{Say.N(plan.TopHeightMm, 0)} mm of rise";

    /// <inheritdoc/>
    protected override string Basis(RisingPlan plan) => $"one spiral at {Say.N(plan.Request.NozzleTemperatureC)} °C";

    private const string NoneFailed = "none up to the top";

    /// <inheritdoc/>
    public override ReadingGrid Grid(RisingPlan plan) =>
        new(
            [new GridRow(0, "First fault")],
            [
                new(FlowTrial.Fault, "Seen or heard", CellKind.Word, true)
                {
                    Words = ["", NoneFailed, .. Flows.Faults.Skip(1)], Lead = "what was seen or heard",
                },
                new(Height, "Height, mm", CellKind.Number)
                {
                    Quantity = new(
                        "Height of the first fault", "mm", 0, (decimal)Math.Round(plan.TopHeightMm, 2), "from where the rise begins to its top"),
                    Resolution = 0.5, Digits = 2,
                    Plausible = (1, plan.TopHeightMm),
                },
                new(Sure, "± mm", CellKind.Number, false)
                {
                    Quantity = new("How surely", "mm", 0, 50, "0.5 is usual"), Resolution = 0.1, Digits = 2, Lead = "how surely it is read",
                },
            ])
        { RowHead = "Reading", ManyColumns = true };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Height or Sure or FlowTrial.Fault;

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings) =>
        base.Waiting(plan, readings).Where(c => c.Aspect != Height || readings.Text(0, FlowTrial.Fault) != NoneFailed);

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(RisingPlan plan, RunReadings readings) =>
        readings.Value(0, Height) is { } h
            ? new Dictionary<int, string> { [0] = $"{Say.N(plan.FlowAt(h) * plan.Request.FlowFactor, 1)} mm³/s there" }
            : new Dictionary<int, string>();

    /// <inheritdoc/>
    public override RisingFlowVerdict Judge(RisingPlan p, RunReadings readings, JudgeContext context)
    {
        var (r, fault, height) = (p.Request, readings.Text(0, FlowTrial.Fault), readings.Value(0, Height));
        var none = fault == NoneFailed;
        if (height is null && !none)
            return new() { Outcome = FlowOutcome.Insufficient, WithoutHeight = fault, Advised = false };
        // A spiral that ended early without a fault says nothing above its end.
        var top = readings.EndedAtLayer is { } layer ? Math.Max(0.1, (layer - TubeShape.BaseLayers) * (double)r.LayerHeightMm) : p.TopHeightMm;
        var input = new RisingReadings
        {
            StartFlowMm3PerS = (double)r.StartFlowMm3PerS * r.FlowFactor,
            FlowPerMm = p.FlowPerMm * r.FlowFactor,
            FailHeightMm = none ? null : height,
            HeightUncertaintyMm = readings.Value(0, Sure) ?? readings.Resolution([Height], 0.5),
            TopHeightMm = none ? top : Math.Max(top, height ?? 0),
            MarginPercent = (double)r.MarginPercent,
            Fault = none ? "" : fault,
            Area = r.Area,
            NozzleMm = p.NozzleMm,
        };
        return RisingJudging.Check(input) is [var refusal, ..]
            ? new() { Outcome = FlowOutcome.Insufficient, Refusal = refusal, Advised = false }
            : Under(RisingJudging.Judge(input), r.ResidualFlowPercent, r.Override);
    }

    /// <inheritdoc/>
    protected override string FileWords(RisingPlan plan) => $"{Say.N(plan.Request.NozzleTemperatureC, 0)} rising";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(RisingReadings);

    /// <inheritdoc/>
    protected override RisingFlowVerdict? Answer(JsonFields json)
    {
        var (percent, answer) = FlowOverride.Read(json);
        var factor = FlowOverride.Factor(percent, answer);
        var r = new RisingReadings
        {
            StartFlowMm3PerS = (double)(json.Number("startFlowMm3PerS", true) ?? 5),
            FlowPerMm = (double)(json.Number("flowPerMm", true) ?? 0.3m),
            FailHeightMm = (double?)json.Number("failHeightMm"),
            HeightUncertaintyMm = (double)(json.Number("heightUncertaintyMm") ?? 0.5m),
            TopHeightMm = (double?)json.Number("topHeightMm"),
            MarginPercent = (double)(json.Number("marginPercent") ?? 10),
            Area = json.Word("area", Flows.Areas) ?? "rectangular",
            NozzleMm = (double)(json.Number("nozzleDiameterMm") ?? 0.4m),
        };
        var practice = Flows.Practice(json);
        if (json.Errors.Count == 0)
            json.Take(RisingJudging.Check(r));
        r = r with { StartFlowMm3PerS = r.StartFlowMm3PerS * factor, FlowPerMm = r.FlowPerMm * factor };
        return json.Errors.Count > 0 ? null : Under(RisingJudging.Judge(r), percent, answer, practice);
    }

    /// <inheritdoc/>
    public override string Example => """{"startFlowMm3PerS": 4, "flowPerMm": 0.3, "failHeightMm": 31.5, "heightUncertaintyMm": 0.5, "topHeightMm": 40}""";
}
