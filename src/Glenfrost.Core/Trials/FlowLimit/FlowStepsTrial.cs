using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>What a tester asks of a stepped speed. Lengths in mm, speeds in mm/s.</summary>
public sealed record StepsRequest
{
    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Speed of the first step.</summary>
    public decimal StartSpeedMmPerS { get; init; } = 40;

    /// <summary>Rise of each step, %; 0 where mm/s are given.</summary>
    public decimal IncreasePercent { get; init; } = 20;

    /// <summary>True for per cent of the step before, false for per cent of the start.</summary>
    public bool Compounding { get; init; }

    /// <summary>Rise of each step, mm/s; 0 where per cent are given.</summary>
    public decimal IncreaseMmPerS { get; init; }

    /// <summary>Steps.</summary>
    public decimal Steps { get; init; } = 8;

    /// <summary>Height of a step.</summary>
    public decimal StepHeightMm { get; init; } = 3;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Line width.</summary>
    public decimal LineWidthMm { get; init; } = 0.44m;

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

    /// <summary>The readings that its steps are reckoned by.</summary>
    internal StepsReadings Readings => new()
    {
        StartSpeedMmPerS = (double)StartSpeedMmPerS,
        IncreasePercent = IncreaseMmPerS > 0 ? null : (double)IncreasePercent,
        IncreaseMmPerS = IncreaseMmPerS > 0 ? (double)IncreaseMmPerS : null,
        Compounding = Compounding,
        Steps = (int)Steps,
        LayerHeightMm = (double)LayerHeightMm,
        LineWidthMm = (double)LineWidthMm,
        Area = Area,
        MarginPercent = (double)MarginPercent,
    };

    /// <summary>Turns of a step.</summary>
    internal int TurnsEach => Math.Max(1, (int)Math.Round(StepHeightMm / LayerHeightMm));
}

/// <summary>A stepped speed that can be printed. Version 1 of the stored plan: fields are only added.</summary>
public sealed record StepsPlanV1 : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required StepsRequest Request { get; init; }

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Speed of each step, mm/s.</summary>
    public required IReadOnlyList<double> SpeedsMmPerS { get; init; }

    /// <summary>Flow of each step, mm³/s.</summary>
    public required IReadOnlyList<double> FlowsMm3PerS { get; init; }

    /// <summary>What lets its fastest part be reached; empty without a machine.</summary>
    public string Reached { get; init; } = "";

    /// <summary>Fastest speed that acceleration lets the circle be run at, mm/s; null without a machine.</summary>
    public double? ReachableSpeedMmPerS { get; init; }

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [
            .. FlowsMm3PerS.Select(
                (q, i) =>
                    new PlanPart(
                        i, $"step {i}, {Say.N(q, 1)} mm³/s", TubeShape.BaseLayers + i * Request.TurnsEach + 1,
                        TubeShape.BaseLayers + (i + 1) * Request.TurnsEach, (double)Request.LayerHeightMm * (TubeShape.BaseLayers + i * Request.TurnsEach),
                        (double)Request.LayerHeightMm * (TubeShape.BaseLayers + (i + 1) * Request.TurnsEach), (double)Request.NozzleTemperatureC)),
        ];

    /// <inheritdoc/>
    protected override string InWords =>
        $"{Say.N(SpeedsMmPerS[0], 0)} to {Say.N(SpeedsMmPerS[^1], 0)} mm/s, {Say.N(FlowsMm3PerS[0], 1)} to {Say.N(FlowsMm3PerS[^1], 1)} mm³/s, " +
            $"{Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => TubeShape.BaseLayers + (int)Request.Steps * Request.TurnsEach;

    /// <inheritdoc/>
    protected override string ChecksHead => "Speed";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf =>
        [.. PartsOf.Select(p => new PlanCheckpoint(p.FirstLayer, p.FromZMm, $"{Say.N(SpeedsMmPerS[p.Index], 0)} mm/s", $"step {p.Index}"))];
}

/// <summary>Flow limit by stepped speed: a round wall whose speed rises in steps; the last step that came out well tells.</summary>
public sealed class FlowStepsTrial : FlowTrial
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
    public override IReadOnlyList<string> Areas => ["flow-limit"];

    /// <inheritdoc/>
    public override IEnumerable<string> SetAside(ITrialPlan plan) =>
        ["startSpeedMmPerS", "increasePercent", "compounding", "increaseMmPerS", "steps", "maxVolumetricFlowMm3PerS"];

    /// <inheritdoc/>
    public override string? FoundWith(ITrialPlan plan, string key) =>
        ((StepsPlanV1)plan).Request is var r ? $"{Say.N(r.LayerHeightMm, 3)} × {Say.N(r.LineWidthMm, 3)} mm, {r.Area}" : null;

    /// <inheritdoc/>
    public override string Purpose =>
        "Flow limit from a round wall printed faster step by step: a print, not free air; coarse, and the one that settles a doubt.";

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>(Flows.SharedFields)
    {
        ["startSpeedMmPerS"] = PlanField.Number("Start", "mm/s", 1, 1000, "per second, not per minute"),
        ["increasePercent"] = PlanField.Number("Rise", "%", 0, 200, "of the start, or of the step before; 0 where mm/s are given", false),
        ["compounding"] = PlanField.Tick,
        ["increaseMmPerS"] = PlanField.Number("Rise in mm/s", "mm/s", 0, 500, "in place of per cent", false),
        ["steps"] = PlanField.Number("Steps", "", 2, 40, "one tells nothing, more than 40 stand too tall", true, true),
        ["stepHeightMm"] = PlanField.Number("Height of a step", "mm", 0.5m, 20, "lower can't be told apart"),
        ["layerHeightMm"] = PlanField.Number("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["lineWidthMm"] = PlanField.Number("Line width", "mm", 0.1m, 3, "0.6 to 2 times the nozzle"),
        ["area"] = PlanField.OneOf("rectangular", "stadium"),
        ["diameterMm"] = PlanField.Number("Diameter", "mm", 20, 400, "a small circle can't be run fast"),
    };

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c)
    {
        var (height, width, diameter, top) = Tubes.Line(c);
        var area = height * width;
        var start = Math.Max(5, Math.Floor(top / area / 5));
        return PlanValues.Of(new StepsRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)height,
            LineWidthMm = (decimal)width,
            DiameterMm = diameter,
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
            StartSpeedMmPerS = (decimal)start,
            Steps = 10,
            IncreasePercent = (decimal)Math.Max(5, Math.Floor((top / area / start - 1) / 9 * 100)),
        });
    }

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((StepsPlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult PlanFrom(JsonDoor door, PlanContext context)
    {
        var values = door.Fields(Fields, Propose(context));
        // mm/s that were sent stand in place of the proposed per cent.
        if (door.Number("increaseMmPerS") is > 0 && door.Number("increasePercent") is null)
            values["increasePercent"] = 0m;
        return door.Errors.Count > 0 ? new(null, []) : Plan(values, context);
    }

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<StepsRequest>();
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
            return new(null, errors);
        var steps = r.Readings;
        var plan = new StepsPlanV1
        {
            Request = r,
            NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            SpeedsMmPerS = [.. Enumerable.Range(0, (int)r.Steps).Select(i => Math.Round(steps.Speed(i), 3))],
            FlowsMm3PerS = [.. Enumerable.Range(0, (int)r.Steps).Select(i => Math.Round(steps.Flow(i), 3))],
            Estimate = Tubes.Rough((double)r.DiameterMm, (int)r.Steps * r.TurnsEach, steps.Speed((int)r.Steps / 2), steps.Flow((int)r.Steps / 2)),
        };
        if (c.Machine is not { } m || c.Settings is not { } s)
            return new(plan with { Warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)] }, []);
        var tube = Shape(plan);
        tube.Check(errors, m, "steps");
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
                    Warnings = [.. Flows.Advice(c, r.NozzleTemperatureC, r.SpoolState)],
                },
                []);
    }

    private static TubeShape Shape(StepsPlanV1 p)
    {
        var (r, each) = (p.Request, p.Request.TurnsEach * (double)p.Request.LayerHeightMm);
        return new((double)r.DiameterMm, (double)r.LayerHeightMm, (double)r.LineWidthMm, r.Area, (double)r.NozzleTemperatureC, (int)r.Steps * r.TurnsEach, up =>
            p.SpeedsMmPerS[Math.Clamp((int)Math.Floor(up / each + 1e-9), 0, p.SpeedsMmPerS.Count - 1)]);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(ITrialPlan plan, PlanContext c)
    {
        var p = (StepsPlanV1)plan;
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
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<StepsPlanV1>(json);

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) => ((StepsPlanV1)plan).Request.LayerHeightMm <= 0 ? "plan has no layer height" : base.Faults(plan);

    /// <inheritdoc/>
    public override string Extent(ITrialPlan plan) => Say.Plural(plan.Parts.Count, "step");

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) => $"one tube at {Say.N(plan.HottestC)} °C";

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan) =>
        new(
            [
                .. ((StepsPlanV1)plan)
                    .SpeedsMmPerS.Select((v, i) => new GridRow(i, $"{i}: {Say.N(((StepsPlanV1)plan).FlowsMm3PerS[i], 1)} mm³/s", $"{Say.N(v, 0)} mm/s"))
                    .Reverse(),
            ],
            [new(Fault, "How it came out", CellKind.Word, true) { Words = [Flows.Faults[0], LastGood, .. Flows.Faults.Skip(1)], Lead = "how it came out" }])
        { RowHead = "Step" };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect == Fault;

    /// <summary>The word that reads the whole ladder: this step came out well, and the one above it did not.</summary>
    public const string LastGood = "last good";

    /// <summary>What each step is read as: those below one that came out well are taken as good.</summary>
    private static (List<string> Words, List<int> Taken) Ladder(ITrialPlan plan, RunReadings readings)
    {
        var words = plan.Parts.Select(x => readings.Text(x.Index, Fault)).ToList();
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
    public override IReadOnlyDictionary<int, string> RowNotes(ITrialPlan plan, RunReadings readings) =>
        Ladder(plan, readings).Taken.ToDictionary(i => i, _ => "taken as good");

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings)
    {
        // A fault, or the last good step, ends the ladder; below a good one nothing need be read.
        var (words, _) = Ladder(plan, readings);
        return words.Exists(w => w is not ("" or "good"))
            ? []
            : base.Waiting(plan, readings).Where(c => words[c.Section].Length == 0).OrderBy(c => c.Section);
    }

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context)
    {
        var p = (StepsPlanV1)plan;
        var states = States(plan, readings);
        var (words, taken) = Ladder(plan, readings);
        if (words.TrueForAll(w => w.Length == 0))
            return new SteppedFlowVerdict { Verdict = "insufficient", Sentence = "Nothing is read yet.", Advised = false };
        var bad = words.FindIndex(w => w is not ("" or "good" or LastGood));
        var last = words.FindLastIndex(w => w == LastGood);
        if (bad >= 0 && last > bad)
            return new SteppedFlowVerdict
            {
                Verdict = "insufficient",
                Sentence = $"Step {last} is said to be the last good one, and step {bad} below it is {words[bad]}: one of the two is read wrong.",
                Advised = false,
            };
        var good = last >= 0 ? last : bad >= 0 ? bad - 1 : words.FindLastIndex(w => w == "good");
        if (bad < 0 && last < 0 && states.Any(s => s == SectionState.Lost))
            return new SteppedFlowVerdict
            {
                Verdict = "insufficient", Sentence = $"Good up to {Say.N(p.FlowsMm3PerS[good] * p.Request.FlowFactor, 1)} mm³/s; what came above is lost, not failed.",
                Reasons = ["Missing is not zero: a tube that was knocked over says nothing of the steps above."], Advised = false,
            };
        var v = StepsJudging.Judge(
            p.Request.Readings with
            {
                LastGoodStep = good,
                Steps = bad < 0 && last < 0 && good < words.Count - 1 ? good + 1 : words.Count,
                Fault = bad >= 0 ? words[bad] : "",
                NozzleMm = p.NozzleMm,
                FlowFactor = p.Request.FlowFactor,
            });
        if (taken.Count > 0)
            v = v with { Reasons = [.. v.Reasons, $"{Say.Plural(taken.Count, "step")} below was not read and is taken as good."] };
        return Beside(v, context.Practice, (p.Request.ResidualFlowPercent, p.Request.Override));
    }

    /// <inheritdoc/>
    public override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict) => null;

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) => $"{Say.N(plan.HottestC, 0)} steps";

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(StepsRequest), typeof(StepsPlanV1), typeof(StepsReadings), typeof(SteppedFlowVerdict));

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        var r = new StepsReadings
        {
            StartSpeedMmPerS = (double)(door.Number("startSpeedMmPerS", true) ?? 40),
            IncreasePercent = (double?)door.Number("increasePercent"),
            Compounding = door.Flag("compounding"),
            IncreaseMmPerS = (double?)door.Number("increaseMmPerS"),
            LastGoodStep = door.Number("lastGoodStep", true) is null ? 0 : door.Whole("lastGoodStep", -1, 200) ?? 0,
            Steps = door.Whole("steps", 1, 201),
            LayerHeightMm = (double)(door.Number("layerHeightMm", true) ?? 0.2m),
            LineWidthMm = (double)(door.Number("lineWidthMm", true) ?? 0.44m),
            Area = door.Word("area", Flows.Areas) ?? "rectangular",
            MarginPercent = (double)(door.Number("marginPercent") ?? 10),
            NozzleMm = (double)(door.Number("nozzleDiameterMm") ?? 0.4m),
        };
        var (practice, left) = (Flows.Practice(door), FlowOverride.Read(door));
        r = r with { FlowFactor = FlowOverride.Factor(left.Percent, left.Answer) };
        if (door.Errors.Count == 0)
            door.Take(StepsJudging.Check(r));
        return door.Errors.Count > 0 ? null : Beside(StepsJudging.Judge(r), practice is null ? [] : [practice], left);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"startSpeedMmPerS": 40, "increasePercent": 25, "compounding": false, "lastGoodStep": 4, "layerHeightMm": 0.2, "lineWidthMm": 0.45,""" +
            """ "area": "rectangular"}""";
}

/// <summary>What both tubes propose.</summary>
internal static class Tubes
{
    /// <summary>A diameter that fits the bed.</summary>
    internal static decimal Diameter(PlanContext c) =>
        c.Machine is { } m ? Math.Clamp(Math.Floor((decimal)Math.Min(m.BedXMm, m.BedYMm - 16) - 30), 20, 100) : 80;

    /// <summary>
    /// A line that carries much flow at little speed, a tube that fits, and the flow that is reached at most: about twice what stands as flow limit.
    /// </summary>
    internal static (double HeightMm, double WidthMm, decimal DiameterMm, double TopMm3PerS) Line(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var (height, width, diameter) = (Math.Round(nozzle * 0.75, 2), Math.Round(nozzle * 1.5, 2), Diameter(c));
        var guess = (c.Settings?.MaxFlowMm3PerS ?? 8 * nozzle / 0.4) * (c.Kept.ContainsKey(Flows.Key) ? 1.8 : 2.4);
        return (height, width, diameter, Math.Min(guess, c.Machine is { } m ? TubeShape.Fastest((double)diameter, m) * height * width : guess));
    }

    /// <summary>Minutes and grams where there is no machine yet.</summary>
    internal static TrialEstimate Rough(double diameterMm, int turns, double speed, double flow)
    {
        var seconds = Math.PI * diameterMm * (turns + 12) / Math.Max(1, speed);
        return new((int)Math.Ceiling(seconds / 60), Math.Round(seconds * flow * 1.24 / 1000, 1), 0);
    }
}
