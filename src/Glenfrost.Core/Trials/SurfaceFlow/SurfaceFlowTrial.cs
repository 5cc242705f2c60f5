using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.SurfaceFlow;

/// <summary>Surface flow: the multiplier from one long strip, read along it by eye and thumb.</summary>
public sealed class SurfaceFlowTrial : Trial
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
    public override IEnumerable<string> SetAside(ITrialPlan plan) => ["extrusionMultiplier", "patches", "stepPercent"];

    /// <inheritdoc/>
    public override string Purpose => "Multiplier from a strip whose flow changes in steps, read along it by eye and thumb.";

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>
    {
        ["nozzleTemperatureC"] = PlanField.Number("Nozzle temperature", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
        ["extrusionMultiplier"] = PlanField.Number("Extrusion multiplier", "", 0.3m, 1.5m, "beyond that the feed or the width is wrong, not the flow"),
        ["patches"] = PlanField.Number("Steps", "", 3, 11, "fewer show no best, more don't fit a bed", true, true),
        ["stepPercent"] = PlanField.Number("Step", "%", 0.5m, 8, "finer can't be felt, coarser is no flow any more"),
        ["stepMm"] = PlanField.Number("Length of a step", "mm", 10, 60, "shorter leaves no room for a thumb"),
        ["widthMm"] = PlanField.Number("Width", "mm", 8, 60, "narrower is all edge"),
        ["layers"] = PlanField.Number("Layers", "", 4, 30, "two carry the strip, and two above are the least that shows", true, true),
        ["layerHeightMm"] = PlanField.Number("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
    };

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        return PlanValues.Of(new SurfaceRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            ExtrusionMultiplier = (decimal)Math.Round(c.Settings?.ExtrusionMultiplier ?? 1, 3),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3),
            StepMm = Math.Min(22, Math.Floor(((decimal)(c.Machine?.BedXMm ?? 220) - 20) / 7)),
        });
    }

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((SurfacePlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<SurfaceRequest>();
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
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
            return new(null, errors);
        var changes = Enumerable.Range(0, (int)r.Patches).Select(i => (i - ((int)r.Patches - 1) / 2) * r.StepPercent).ToList();
        var volume = (double)(r.Patches * r.StepMm * r.WidthMm * r.Layers * r.LayerHeightMm);
        return new(
            new SurfacePlanV1
            {
                Request = r, ChangesPercent = changes, Estimate = new((int)Math.Ceiling(volume / 4 / 60), Math.Round(volume * 1.24 / 1000, 1), 0),
                Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC), .. PieceFields.OverrideAdvice(c), .. PieceFields.DiameterAdvice(c)],
            },
            []);
    }

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<SurfacePlanV1>(json);

    /// <inheritdoc/>
    public override IReadOnlyList<Piece> Pieces(ITrialPlan plan)
    {
        var (p, r) = ((SurfacePlanV1)plan, ((SurfacePlanV1)plan).Request);
        return
        [
            FlowStrip.Build(
                new(
                    [.. p.ChangesPercent.Select(c => (double)(1 + c / 100))], p.ChangesPercent.Count / 2, (double)r.StepMm, (double)r.WidthMm, (int)r.Layers,
                    (double)r.LayerHeightMm)),
        ];
    }

    /// <inheritdoc/>
    public override (ITrialPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(ITrialPlan plan, PlanContext c)
    {
        var (p, r) = ((SurfacePlanV1)plan, ((SurfacePlanV1)plan).Request);
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(plan), Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"surface flow, {c.Subject}",
                    $"strip of {p.ChangesPercent.Count} steps from left to right: " +
                        $"{string.Join(", ", p.ChangesPercent.Select(x => Say.N(r.ExtrusionMultiplier * (1 + x / 100), 3)))}; the tab marks the middle",
                ],
            },
            c.Machine!, c.Settings! with { ExtrusionMultiplier = (double)r.ExtrusionMultiplier });
        return job is null
            ? (plan, null, [.. errors.Select(e => e.Field == "pieceDepthMm" ? e with { Field = "stepMm", Offers = [] } : e)])
            : (p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    public override int FirstLook(ITrialPlan plan) => plan.TotalLayers;

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) =>
        $"{Say.N(((SurfacePlanV1)plan).Request.ExtrusionMultiplier, 3)} by {Say.N(((SurfacePlanV1)plan).Request.StepPercent)}";

    /// <inheritdoc/>
    public override string Extent(ITrialPlan plan) => Say.Plural(plan.Parts.Count, "step");

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) => "one strip";

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan) =>
        new(
            [
                .. ((SurfacePlanV1)plan).ChangesPercent.Select(
                    (c, i) => new GridRow(i, SurfacePlanV1.Label(c), Say.N(((SurfacePlanV1)plan).Request.ExtrusionMultiplier * (1 + c / 100), 3))),
            ],
            [
                new(Eye, "Eye", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "by eye: gaps, dull or torn lines", Anchors = ScoreAnchors.Eye },
                new(Thumb, "Thumb", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "by thumb: ridges, rough", Anchors = ScoreAnchors.Thumb },
            ])
        { RowHead = "Step" };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Eye or Thumb;

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext c)
    {
        var p = (SurfacePlanV1)plan;
        return SurfaceJudging.Judge(
            new SurfaceReadings
            {
                ExtrusionMultiplier = (double)p.Request.ExtrusionMultiplier, Patches =
                [
                    .. p.ChangesPercent.Select(
                        (x, i) => new SurfacePatch((double)x, [.. new[] { readings.Value(i, Eye), readings.Value(i, Thumb) }.OfType<double>()])),
                ],
                ScoreNoise = c.ScoreNoise,
            });
    }

    /// <inheritdoc/>
    public override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict)
    {
        var v = (SurfaceVerdict)verdict;
        var points = v.ChangesPercent.Select((c, i) => (c, v.Means[i])).Where(x => x.Item2 is not null)
            .Select(x => new ChartPoint(x.c, x.Item2!.Value, null, null, v.EqualsPercent.Contains(x.c) ? "best" : "")).ToList();
        return points.Count == 0
            ? null
            : new("change of flow, %", "mean score, 0–4", points)
            {
                Band = v.EqualsPercent.Count > 0 && v.Verdict != "edge" ? (v.EqualsPercent[0], v.EqualsPercent[^1]) : null,
                Line = [.. points.Select(p => (p.X, p.Y))], Chosen = v.ChangePercent, WholeX = true, Summary = v.Sentence,
            };
    }

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(SurfaceRequest), typeof(SurfacePlanV1), typeof(EvaluateBody), typeof(SurfaceVerdict));

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateBody(double ExtrusionMultiplier, IReadOnlyList<EvaluatePatch> Patches, double? ScoreNoise);

    /// <summary>A patch of the body: one score, or several.</summary>
    public sealed record EvaluatePatch(double ChangePercent, double? Score, IReadOnlyList<double>? Scores);

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        var readings = new SurfaceReadings
        {
            ExtrusionMultiplier = (double)(door.Number("extrusionMultiplier", true) ?? 1),
            Patches =
            [
                .. (door.List("patches", true) ?? []).Select(x => new SurfacePatch(
                    (double)(x.Number("changePercent", true) ?? 0),
                    x.Number("score") is { } s ? [(double)s] : [.. x.Values("scores", false).Select(v => (double)v)])),
            ],
            ScoreNoise = (double)(door.Number("scoreNoise") ?? 0.5m),
        };
        if (door.Errors.Count == 0)
            door.Take(SurfaceJudging.Check(readings));
        return door.Errors.Count > 0 ? null : SurfaceJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"extrusionMultiplier": 0.98, "patches": [{"changePercent": -3, "score": 1}, {"changePercent": -2, "score": 2},""" +
            """ {"changePercent": -1, "score": 4}, {"changePercent": 0, "score": 3}, {"changePercent": 1, "score": 2}, {"changePercent": 2,""" +
            """ "score": 1}, {"changePercent": 3, "score": 1}]}""";
}
