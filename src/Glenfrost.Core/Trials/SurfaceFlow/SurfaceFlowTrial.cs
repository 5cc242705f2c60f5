using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>Surface flow: the multiplier from one long strip, read along it by eye and thumb.</summary>
public sealed class SurfaceFlowTrial : Trial<SurfaceRequest, SurfacePlan, SurfaceVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "surface-flow";

    /// <summary>Scored by eye: gaps between lines.</summary>
    public const string Eye = "eye";

    /// <summary>Scored by thumb: ridges.</summary>
    public const string Thumb = "thumb";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Surface flow";

    /// <inheritdoc/>
    public override string Noun => "strip";

    /// <inheritdoc/>
    public override string PageFolder => "SurfaceFlow";

    /// <inheritdoc/>
    public override bool Suits(string family) => !family.StartsWith("foaming", StringComparison.Ordinal);

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["extrusionMultiplier"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["flow", "top-surface"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(SurfacePlan plan) => ["extrusionMultiplier", "patches", "stepPercent"];

    /// <inheritdoc/>
    public override string Purpose => "Multiplier from a strip whose flow changes in steps, read along it by eye and thumb.";

    private const string TheSteps = "The steps", TheStrip = "The strip";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.ExtrusionMultiplier, "Extrusion multiplier", "", 0.3m, 1.5m, "beyond that the feed or the width is wrong, not the flow",
            "Of the middle, as it stands now; flow in per cent ÷ 100. A tab marks the middle.", TheSteps),
        Number(
            r => r.StepPercent, "Step", "%", 0.5m, 8, "finer can't be felt, coarser is no flow any more",
            "4 for a coarse strip, 1 for a fine one. Notches in the front edge part the steps.", TheSteps),
        Number(
            r => r.Patches, "Steps", "", 3, 11, "fewer show no best, more don't fit a bed", "An odd number: the middle is the present flow.", TheSteps,
            whole: true),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's, unless another one is held: flow belongs to its temperature.", TheSteps),
        Number(
            r => r.ResidualFlowPercent, "Flow override in the start code", "%", 10, 300, "what an override leaves, 100 for none", "", TheSteps, false),
        OneOf(
            r => r.Override, "In real prints it", "Correcting in both places would correct twice.", TheSteps, FlowOverride.Answers),
        Number(r => r.StepMm, "Length of a step", "mm", 10, 60, "shorter leaves no room for a thumb", "A thumb wide.", TheStrip),
        Number(r => r.WidthMm, "Width", "mm", 8, 60, "narrower is all edge", "", TheStrip),
        Number(
            r => r.Layers, "Layers", "", 4, 30, "two carry the strip, and two above are the least that shows",
            "Two carry the strip; above them the flow changes.", TheStrip, whole: true),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheStrip),
    ];

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => FlowOverride.IsShown(field, context);

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => FlowOverride.HelpOf(field, context) ?? base.HelpOf(field, context);

    /// <inheritdoc/>
    protected override SurfaceRequest Proposal(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            ExtrusionMultiplier = (decimal)Math.Round(c.Settings?.ExtrusionMultiplier ?? 1, 3),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3),
            StepMm = Math.Min(22, Math.Floor(((decimal)(c.Machine?.BedXMm ?? 220) - 20) / 7)),
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
        };
    }

    /// <inheritdoc/>
    protected override SurfaceRequest RequestOf(SurfacePlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<SurfacePlan> Plan(SurfaceRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        if (r.Patches % 2 == 0)
            errors.Add(
                new(
                    "patches", $"{Say.N(r.Patches)} steps have no middle: {Say.N(r.Patches + 1)} would be right.",
                    [new($"{Say.N(r.Patches + 1)} steps", new Dictionary<string, decimal> { ["patches"] = r.Patches + 1 })]));
        var half = (r.Patches - 1) / 2 * r.StepPercent;
        if (r.ExtrusionMultiplier * (1 - half / 100) < 0.3m || r.ExtrusionMultiplier * (1 + half / 100) > 1.5m)
            errors.Add(
                new(
                    "stepPercent",
                    $"The ends of the strip would be at {Say.N(r.ExtrusionMultiplier * (1 - half / 100), 3)} and " +
                        $"{Say.N(r.ExtrusionMultiplier * (1 + half / 100), 3)}: outside 0.3 to 1.5, where the feed is wrong, not the flow."
                ));
        if (c.Machine is { } m && r.Patches * r.StepMm > (decimal)m.BedXMm - 12)
        {
            var fits = Math.Floor(((decimal)m.BedXMm - 12) / r.Patches);
            errors.Add(
                new(
                    "stepMm",
                    $"{Say.N(r.Patches)} steps of {Say.N(r.StepMm)} mm are longer than the bed of {m.Name}, {Say.N(m.BedXMm)} mm. {Say.N(fits)} mm would fit.",
                    fits >= 10 ? [new($"{Say.N(fits)} mm a step", new Dictionary<string, decimal> { ["stepMm"] = fits })] : []));
        }

        if (errors.Count > 0)
            return errors;
        var volume = (double)(r.Patches * r.StepMm * r.WidthMm * r.Layers * r.LayerHeightMm);
        return new SurfacePlan
        {
            Request = r,
            ChangesPercent = [.. Enumerable.Range(0, (int)r.Patches).Select(i => (i - ((int)r.Patches - 1) / 2) * r.StepPercent)],
            Estimate = new((int)Math.Ceiling(volume / 4 / 60), Math.Round(volume * 1.24 / 1000, 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC), .. PieceFields.DiameterAdvice(c)],
        };
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(SurfacePlan p, PieceMemory memory) =>
    [
        FlowStrip.Build(
            new(
                [.. p.ChangesPercent.Select(c => (double)(1 + c / 100))], p.ChangesPercent.Count / 2, (double)p.Request.StepMm, (double)p.Request.WidthMm,
                (int)p.Request.Layers, (double)p.Request.LayerHeightMm), memory),
    ];

    /// <inheritdoc/>
    protected override Made<SurfacePlan> Make(SurfacePlan p, PlanContext c)
    {
        var r = p.Request;
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"surface flow, {c.Subject}",
                    $"strip of {p.ChangesPercent.Count} steps from left to right: " +
                        $"{string.Join(", ", p.ChangesPercent.Select(x => Say.N(r.ExtrusionMultiplier * (1 + x / 100), 3)))}; the tab marks the middle",
                ],
            },
            c.Machine!, c.Settings! with { ExtrusionMultiplier = (double)r.ExtrusionMultiplier }, c.Memory);
        return job is null
            ? new(p, null, [.. errors.Select(e => e.Field == "pieceDepthMm" ? e with { Field = "stepMm", Offers = [] } : e)])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. p.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(SurfacePlan plan) => (int)plan.Request.Layers;

    /// <inheritdoc/>
    protected override string FileWords(SurfacePlan plan) => $"{Say.N(plan.Request.ExtrusionMultiplier, 3)} by {Say.N(plan.Request.StepPercent)}";

    /// <inheritdoc/>
    protected override string Extent(SurfacePlan plan) => Say.Plural(plan.ChangesPercent.Count, "step");

    /// <inheritdoc/>
    protected override string Basis(SurfacePlan plan) => "one strip";

    /// <inheritdoc/>
    public override ReadingGrid Grid(SurfacePlan plan) =>
        new(
            [
                .. plan.ChangesPercent.Select(
                    (c, i) => new GridRow(i, SurfacePlan.Label(c), Say.N(plan.Request.ExtrusionMultiplier * (1 + c / 100), 3))),
            ],
            [
                new(Eye, "Eye", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "by eye: gaps, dull or torn lines", Anchors = ScoreAnchors.Eye },
                new(Thumb, "Thumb", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "by thumb: ridges, rough", Anchors = ScoreAnchors.Thumb },
            ])
        { RowHead = "Step" };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Eye or Thumb;

    /// <inheritdoc/>
    public override SurfaceVerdict Judge(SurfacePlan p, RunReadings readings, JudgeContext c) => SurfaceJudging.Judge(new()
    {
        ExtrusionMultiplier = (double)p.Request.ExtrusionMultiplier,
        Patches =
        [
            .. p.ChangesPercent.Select(
                (x, i) => new SurfacePatch((double)x, [.. new[] { readings.Value(i, Eye), readings.Value(i, Thumb) }.OfType<double>()])),
        ],
        ScoreNoise = c.ScoreNoise,
        ResidualFlowPercent = p.Request.ResidualFlowPercent,
        Override = p.Request.Override,
    });

    /// <inheritdoc/>
    protected override TrialChart? Chart(SurfacePlan plan, SurfaceVerdict v)
    {
        var points = v.ChangesPercent.Zip(v.Means).Where(x => x.Second is not null)
            .Select(x => new ChartPoint(x.First, x.Second!.Value, null, null, v.EqualsPercent.Contains(x.First) ? "best" : "")).ToList();
        return points.Count == 0
            ? null
            : new("change of flow, %", "mean score, 0–4", points)
            {
                Band = v.EqualsPercent.Count > 0 && v.Outcome is not (SurfaceOutcome.Edge or SurfaceOutcome.NoneGood)
                    ? (v.EqualsPercent[0], v.EqualsPercent[^1]) : null,
                Line = [.. points.Select(p => (p.X, p.Y))], Chosen = v.NewExtrusionMultiplier is null ? null : v.ChangePercent, WholeX = true,
                Summary = v.Sentence,
            };
    }

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateRequest(
        double ExtrusionMultiplier, IReadOnlyList<EvaluatePatch> Patches, double? ScoreNoise, double? ResidualFlowPercent, bool? ResidualFlowStays);

    /// <summary>A patch of the body: one score, or several.</summary>
    public sealed record EvaluatePatch(double ChangePercent, double? Score, IReadOnlyList<double>? Scores);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(EvaluateRequest);

    /// <inheritdoc/>
    protected override SurfaceVerdict? Answer(JsonFields json)
    {
        var (percent, answer) = FlowOverride.Read(json);
        var readings = new SurfaceReadings
        {
            ExtrusionMultiplier = (double)(json.Number("extrusionMultiplier", true) ?? 1),
            Patches =
            [
                .. (json.List("patches", true) ?? []).Select(x => new SurfacePatch(
                    (double)(x.Number("changePercent", true) ?? 0),
                    x.Number("score") is { } s ? [(double)s] : [.. x.Values("scores", false).Select(v => (double)v)])),
            ],
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            ResidualFlowPercent = percent,
            Override = answer,
        };
        if (json.Errors.Count == 0)
            json.Take(SurfaceJudging.Check(readings));
        return json.Errors.Count > 0 ? null : SurfaceJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"extrusionMultiplier": 0.98, "patches": [{"changePercent": -3, "score": 1}, {"changePercent": -2, "score": 2},""" +
            """ {"changePercent": -1, "score": 4}, {"changePercent": 0, "score": 3}, {"changePercent": 1, "score": 2}, {"changePercent": 2,""" +
            """ "score": 1}, {"changePercent": 3, "score": 1}]}""";
}
