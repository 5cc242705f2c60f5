using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Flow limit by stepped speed: a round wall whose speed rises in steps; the last step that came out well tells.</summary>
public sealed class FlowStepsTrial : TubeTrial<StepsRequest, StepsPlan, SteppedFlowVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "flow-limit-steps";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Flow limit by steps";

    /// <inheritdoc/>
    public override string Noun => "tube";

    /// <inheritdoc/>
    public override string PageFolder => "FlowLimit/Steps";

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(StepsPlan plan) =>
        ["startSpeedMmPerS", "increasePercent", "compounding", "increaseMmPerS", "steps", "maxVolumetricFlowMm3PerS"];

    /// <inheritdoc/>
    protected override string? FoundWith(StepsPlan plan, string key) =>
        $"{Say.N(plan.Request.LayerHeightMm, 3)} × {Say.N(plan.Request.LineWidthMm, 3)} mm, {plan.Request.Area}";

    /// <inheritdoc/>
    public override string Purpose =>
        "Flow limit from a round wall printed faster step by step: a print, not free air; coarse, and the one that settles a doubt.";

    private const string TheSteps = "The steps";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.StartSpeedMmPerS, "Start", "mm/s", 1, 1000, "per second, not per minute", "Slow enough to be good for sure.", TheSteps),
        Number(
            r => r.IncreasePercent, "Rise", "%", 0, 200, "of the start, or of the step before; 0 where mm/s are given",
            "Of the start each time; 0 where mm/s are given.", TheSteps, false),
        Number(r => r.IncreaseMmPerS, "Rise in mm/s", "mm/s", 0, 500, "in place of per cent", "In place of per cent.", TheSteps, false),
        Number(r => r.Steps, "Steps", "", 2, 40, "one tells nothing, more than 40 stand too tall", "", TheSteps, whole: true),
        Number(r => r.StepHeightMm, "Height of a step", "mm", 0.5m, 20, "lower can't be told apart", "", TheSteps),
        Tick(r => r.Compounding, "Per cent of the step before, not of the start", "", TheSteps),
        .. LineFields(),
    ];

    /// <inheritdoc/>
    protected override StepsRequest Proposal(PlanContext c)
    {
        var (height, width, diameter, top) = Tubes.Line(c);
        var area = height * width;
        var start = Math.Max(5, Math.Floor(top / area / 5));
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)height,
            LineWidthMm = (decimal)width,
            DiameterMm = diameter,
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            StartSpeedMmPerS = (decimal)start,
            Steps = 10,
            IncreasePercent = (decimal)Math.Max(5, Math.Floor((top / area / start - 1) / 9 * 100)),
        };
    }

    /// <inheritdoc/>
    protected override StepsRequest RequestOf(StepsPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override PlanResult PlanFrom(JsonFields json, PlanContext context)
    {
        var values = json.Fields(Fields, Propose(context));
        // mm/s that were sent stand in place of the proposed per cent.
        if (json.Number("increaseMmPerS") is > 0 && json.Number("increasePercent") is null)
            values["increasePercent"] = 0m;
        return json.Errors.Count > 0 ? new(null, []) : Plan(values, context);
    }

    /// <inheritdoc/>
    public override Planned<StepsPlan> Plan(StepsRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, r.LineWidthMm, lineField: "lineWidthMm");
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        if (r.IncreasePercent > 0 && r.IncreaseMmPerS > 0)
            errors.Add(new("increaseMmPerS", "A rise is given in per cent or in mm/s, not in both: 0 in one of them."));
        else if (r.IncreasePercent <= 0 && r.IncreaseMmPerS <= 0)
            errors.Add(
                new(
                    "increasePercent", "Without a rise all steps are alike: 10 to 25 % would be right.",
                    [new("20 %", new Dictionary<string, decimal> { ["increasePercent"] = 20 })]));
        if (r.StepHeightMm < 3 * r.LayerHeightMm)
            errors.Add(
                new(
                    "stepHeightMm", $"A step of {Say.N(r.StepHeightMm)} mm has fewer than three layers: {Say.N(5 * r.LayerHeightMm)} mm would be right.",
                    [new($"{Say.N(5 * r.LayerHeightMm)} mm", new Dictionary<string, decimal> { ["stepHeightMm"] = 5 * r.LayerHeightMm })]));
        if (errors.Count > 0)
            return errors;
        var steps = r.Readings;
        var plan = new StepsPlan
        {
            Request = r,
            NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            SpeedsMmPerS = [.. Enumerable.Range(0, (int)r.Steps).Select(i => Math.Round(steps.Speed(i), 3))],
            FlowsMm3PerS = [.. Enumerable.Range(0, (int)r.Steps).Select(i => Math.Round(steps.Flow(i), 3))],
            Estimate = Tubes.Rough((double)r.DiameterMm, (int)r.Steps * r.TurnsEach, steps.Speed((int)r.Steps / 2), steps.Flow((int)r.Steps / 2)),
        };
        if (c.Machine is not { } m || c.Settings is not { } s)
            return plan with { Warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)] };
        var tube = Shape(plan);
        tube.Check(errors, m, "steps");
        // No line is wide enough where speeds are given: what helps is to end before them.
        var reached = plan.SpeedsMmPerS.Count(v => v <= TubeShape.Fastest((double)r.DiameterMm, m));
        errors =
        [
            .. errors.Select(e => e.Field != "steps" ? e
                : e with { Offers = reached >= 2 ? [new($"{reached} steps", new Dictionary<string, decimal> { ["steps"] = reached })] : [] }),
        ];
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
            Warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)],
        };
    }

    private static TubeShape Shape(StepsPlan p)
    {
        var (r, each) = (p.Request, p.Request.TurnsEach * (double)p.Request.LayerHeightMm);
        return new((double)r.DiameterMm, (double)r.LayerHeightMm, (double)r.LineWidthMm, r.Area, (double)r.NozzleTemperatureC, (int)r.Steps * r.TurnsEach, up =>
            p.SpeedsMmPerS[Math.Clamp((int)Math.Floor(up / each + 1e-9), 0, p.SpeedsMmPerS.Count - 1)]);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(StepsPlan p, PlanContext c)
    {
        var each = p.Request.TurnsEach * (double)p.Request.LayerHeightMm;
        return Shape(p)
            .Write(
                c,
                [
                    $"flow limit by stepped speed, {c.Subject}",
                    $"speeds: {string.Join(", ", p.SpeedsMmPerS.Select(v => Say.N(v, 1)))} mm/s; flows: " +
                        $"{string.Join(", ", p.FlowsMm3PerS.Select(v => Say.N(v, 2)))} mm3/s",
                    "stand by; stop at clicking or grinding and note the step",
                ],
                up =>
                    Math.Abs(up / each - Math.Round(up / each)) < 1e-6
                        ? $"step {(int)Math.Round(up / each)}: {Say.N(p.SpeedsMmPerS[(int)Math.Round(up / each)], 1)} mm/s, " +
                            $"{Say.N(p.FlowsMm3PerS[(int)Math.Round(up / each)], 2)} mm3/s"
                        : null);
    }

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) => ((StepsPlan)plan).Request.LayerHeightMm <= 0 ? "plan has no layer height" : base.Faults(plan);

    /// <inheritdoc/>
    protected override string Extent(StepsPlan plan) => Say.Plural(plan.SpeedsMmPerS.Count, "step");

    /// <inheritdoc/>
    protected override string Basis(StepsPlan plan) => $"one tube at {Say.N(plan.Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    public override ReadingGrid Grid(StepsPlan plan) =>
        new(
            [
                .. plan.SpeedsMmPerS.Select((v, i) => new GridRow(i, $"{i}: {Say.N(plan.FlowsMm3PerS[i], 1)} mm³/s", $"{Say.N(v, 0)} mm/s")).Reverse(),
            ],
            [
                new(FlowTrial.Fault, "How it came out", CellKind.Word, true)
                {
                    Words = [Flows.Faults[0], LastGood, .. Flows.Faults.Skip(1)], Lead = "how it came out",
                },
            ])
        { RowHead = "Step" };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect == FlowTrial.Fault;

    /// <summary>The word that reads the whole ladder: this step came out well, and the one above it did not.</summary>
    public const string LastGood = "last good";

    /// <summary>What each step is read as: those below one that came out well are taken as good.</summary>
    private static (List<string> Words, List<int> Taken) Ladder(StepsPlan plan, RunReadings readings)
    {
        var words = plan.SpeedsMmPerS.Select((_, i) => readings.Text(i, FlowTrial.Fault)).ToList();
        var top = words.FindLastIndex(w => w is "good" or LastGood);
        var bad = words.FindIndex(w => w is not ("" or "good" or LastGood));
        // Above a fault nothing is taken, whatever stands higher up.
        var taken = Enumerable.Range(0, bad >= 0 ? bad : Math.Max(top, 0)).Where(i => words[i].Length == 0).ToList();
        foreach (var i in taken)
            words[i] = "good";
        return (words, taken);
    }

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(StepsPlan plan, RunReadings readings) =>
        Ladder(plan, readings).Taken.ToDictionary(i => i, _ => "taken as good");

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings)
    {
        // A fault, or the last good step, ends the ladder; below a good one nothing need be read.
        var (words, _) = Ladder((StepsPlan)plan, readings);
        return words.Exists(w => w is not ("" or "good"))
            ? []
            : base.Waiting(plan, readings).Where(c => words[c.Section].Length == 0).OrderBy(c => c.Section);
    }

    /// <inheritdoc/>
    public override SteppedFlowVerdict Judge(StepsPlan p, RunReadings readings, JudgeContext context)
    {
        var r = p.Request;
        var (words, taken) = Ladder(p, readings);
        SteppedFlowVerdict Untold(StepsLadder ladder) => new() { Outcome = FlowOutcome.Insufficient, Ladder = ladder, Advised = false };
        if (words.TrueForAll(w => w.Length == 0))
            return Untold(new());
        var bad = words.FindIndex(w => w is not ("" or "good" or LastGood));
        var last = words.FindLastIndex(w => w == LastGood);
        if (bad >= 0 && last > bad)
            return Untold(new() { SaidGood = last, SaidBad = bad, Word = words[bad] });
        var good = last >= 0 ? last : bad >= 0 ? bad - 1 : words.FindLastIndex(w => w == "good");
        // Missing is not zero: a tube that was knocked over says nothing of the steps above.
        if (bad < 0 && last < 0 && States(p, readings).Any(s => s == SectionState.Lost))
            return Untold(new() { LostAboveFlowMm3PerS = p.FlowsMm3PerS[good] * r.FlowFactor });
        var v = StepsJudging.Judge(r.Readings with
        {
            LastGoodStep = good,
            Steps = bad < 0 && last < 0 && good < words.Count - 1 ? good + 1 : words.Count,
            Fault = bad >= 0 ? words[bad] : "",
            NozzleMm = p.NozzleMm,
            FlowFactor = r.FlowFactor,
        });
        return Under(v with { Ladder = new() { Taken = taken.Count } }, r.ResidualFlowPercent, r.Override);
    }

    /// <inheritdoc/>
    protected override string FileWords(StepsPlan plan) => $"{Say.N(plan.Request.NozzleTemperatureC, 0)} steps";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(StepsReadings);

    /// <inheritdoc/>
    protected override SteppedFlowVerdict? Answer(JsonFields json)
    {
        var (percent, answer) = FlowOverride.Read(json);
        var factor = FlowOverride.Factor(percent, answer);
        var r = new StepsReadings
        {
            StartSpeedMmPerS = (double)(json.Number("startSpeedMmPerS", true) ?? 40),
            IncreasePercent = (double?)json.Number("increasePercent"),
            Compounding = json.Flag("compounding"),
            IncreaseMmPerS = (double?)json.Number("increaseMmPerS"),
            LastGoodStep = json.Number("lastGoodStep", true) is null ? 0 : json.Whole("lastGoodStep", -1, 200) ?? 0,
            Steps = json.Whole("steps", 1, 201),
            LayerHeightMm = (double)(json.Number("layerHeightMm", true) ?? 0.2m),
            LineWidthMm = (double)(json.Number("lineWidthMm", true) ?? 0.44m),
            Area = json.Word("area", Flows.Areas) ?? "rectangular",
            MarginPercent = (double)(json.Number("marginPercent") ?? 10),
            NozzleMm = (double)(json.Number("nozzleDiameterMm") ?? 0.4m),
            FlowFactor = factor,
        };
        var practice = Flows.Practice(json);
        if (json.Errors.Count == 0)
            json.Take(StepsJudging.Check(r));
        return json.Errors.Count > 0 ? null : Under(StepsJudging.Judge(r), percent, answer, practice);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"startSpeedMmPerS": 40, "increasePercent": 25, "compounding": false, "lastGoodStep": 4, "layerHeightMm": 0.2, "lineWidthMm": 0.45,""" +
            """ "area": "rectangular"}""";
}
