using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.FirstLayer;

/// <summary>First layer: the nozzle offset from patches in the middle of the bed and in its corners.</summary>
public sealed class FirstLayerTrial : Trial<FirstLayerRequest, FirstLayerPlan, FirstLayerVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "first-layer";

    /// <summary>Begins the aspect of a corner's score: corner.front-left.</summary>
    public const string Corner = "corner.";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "First layer";

    /// <inheritdoc/>
    public override string Noun => "set of patches";

    /// <inheritdoc/>
    public override string PageFolder => "FirstLayer";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["nozzleOffsetMm", "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC", "firstLayerSpeedMmPerS"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["first-layer"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> NotPartOfIt => ["layerHeightMm", "nozzleTemperatureC", "bedTemperatureC", "fanPercent"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(FirstLayerPlan plan) => ["nozzleOffsetMm", "stepMm", "count", "corners"];

    /// <inheritdoc/>
    public override string? FactorOf(string field) => field switch
    {
        "nozzleTemperatureC" => "firstLayerNozzleTemperatureC",
        "bedTemperatureC" => "firstLayerBedTemperatureC",
        "speedMmPerS" => "firstLayerSpeedMmPerS",
        _ => base.FactorOf(field),
    };

    /// <inheritdoc/>
    public override string Purpose => "Nozzle offset from patches, scored by touch and eye in the middle of the bed and in its corners.";

    private const string Offsets = "Offsets", Belongs = "What belongs to it";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.NozzleOffsetMm, "Present offset", "mm", -5, 5, "more than that is a levelling fault",
            "As the printer has it: live offset, baby step. Below 0 is nearer to the bed. It is not touched: each patch is laid at its own height.", Offsets),
        Number(
            r => r.StepMm, "Step", "mm", 0.01m, 0.1m, "finer than a screw moves, or coarser than a first layer bears",
            "0.02 is usual; 0.04 where all look alike.", Offsets),
        Number(
            r => r.Count, "Offsets", "", 3, 11, "fewer show no best, more don't fit a bed", "An odd number around the present one.", Offsets, whole: true),
        Number(r => r.PatchMm, "Patch", "mm", 8, 30, "smaller can't be felt, larger wastes filament", "", Offsets),
        Number(
            r => r.FirstLayerHeightMm, "First layer", "mm", 0.08m, 1.2m, "thinner than a bed is flat, or thicker than a nozzle lays", "", Offsets),
        Tick(r => r.Corners, "In the corners too", "They show whether the bed lies parallel.", Offsets),
        Number(
            r => r.NozzleTemperatureC, "Nozzle, first layer", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "", Belongs),
        Number(r => r.BedTemperatureC, "Bed, first layer", "°C", 0, 200, "no bed is run outside it", "", Belongs),
        Number(
            r => r.SpeedMmPerS, "First-layer speed", "mm/s", 1, 300, "slow grips better; speeds are in mm per second", "Slow grips better.", Belongs),
        OneOf(
            r => r.Adhesive, "On the bed", "A bonded part can tear glass or coating: a release layer is a factor too.", Belongs, ("none", "nothing"),
            ("grip", "something for grip"), ("release", "a release layer")),
    ];

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) =>
        field == "bedTemperatureC" && context.Machine is { } m ? $"This bed reaches {Say.N(m.BedMaxC)} °C." : base.HelpOf(field, context);

    /// <inheritdoc/>
    protected override FirstLayerRequest Proposal(PlanContext c)
    {
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        var corners = new FirstLayerRequest { PatchMm = nozzle > 0.5 ? 16 : 12 };
        var fits = c.Machine is not { } m || OffsetPatches.Fits(new(new double[7], 0.2, (double)corners.PatchMm, m.BedXMm, m.BedYMm, true));
        return corners with
        {
            NozzleOffsetMm = (decimal)Math.Round(c.Kept.GetValueOrDefault("nozzleOffsetMm"), 3),
            StepMm = nozzle > 0.5 ? 0.03m : 0.02m,
            FirstLayerHeightMm = (decimal)Math.Round(Math.Max(0.2, nozzle / 2), 2),
            NozzleTemperatureC = (decimal)Math.Round(c.Kept.TryGetValue("firstLayerNozzleTemperatureC", out var t) ? t : c.NozzleC),
            BedTemperatureC = (decimal)Math.Round(c.Settings?.FirstLayerBedTemperatureC ?? c.Family?.BedC.Middle ?? 0),
            SpeedMmPerS = (decimal)Math.Round(c.Settings?.FirstLayerSpeedMmPerS ?? 20),
            Corners = fits,
        };
    }

    /// <inheritdoc/>
    protected override FirstLayerRequest RequestOf(FirstLayerPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<FirstLayerPlan> Plan(FirstLayerRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Temperature(errors, c, r.NozzleTemperatureC, "nozzleTemperatureC");
        if (c.Machine is { } bed && (double)r.BedTemperatureC > bed.BedMaxC)
            errors.Add(
                new(
                    "bedTemperatureC", $"{Say.N(r.BedTemperatureC)} °C is above what this bed reaches, {Say.N(bed.BedMaxC)} °C.",
                    [new($"{Say.N(bed.BedMaxC)} °C", new Dictionary<string, decimal> { ["bedTemperatureC"] = (decimal)bed.BedMaxC })]));
        if (c.Machine is { } n && (double)r.FirstLayerHeightMm > 0.8 * n.NozzleDiameterMm)
            errors.Add(
                new(
                    "firstLayerHeightMm",
                    $"{Say.N(r.FirstLayerHeightMm, 3)} mm is more than a {Say.N(n.NozzleDiameterMm)} mm nozzle lays: at most " +
                        $"{Say.N(0.8 * n.NozzleDiameterMm, 3)} mm."
                ));
        if (r.Count % 2 == 0)
            errors.Add(
                new(
                    "count", $"{Say.N(r.Count)} offsets leave out the present one: {Say.N(r.Count + 1)} would be right.",
                    [new($"{Say.N(r.Count + 1)} offsets", new Dictionary<string, decimal> { ["count"] = r.Count + 1 })]));
        var half = (r.Count - 1) / 2 * r.StepMm;
        if (r.FirstLayerHeightMm - half < 0.05m)
            errors.Add(
                new(
                    "stepMm",
                    $"The lowest patch would be {Say.N(r.FirstLayerHeightMm - half, 3)} mm above the bed: the nozzle would scrape it. At least 0.05 mm " +
                        $"must be left."
                ));
        var changes = Enumerable.Range(0, (int)r.Count).Select(i => (i - ((int)r.Count - 1) / 2) * r.StepMm).ToList();
        var plan = new FirstLayerPlan
        {
            Request = r, ChangesMm = changes, BedXMm = c.Machine?.BedXMm ?? 220, BedYMm = c.Machine?.BedYMm ?? 220, Estimate = new(1, null, 0),
        };
        if (!OffsetPatches.Fits(plan.Size))
            errors.Add(
                new(
                    "patchMm",
                    $"{Say.N(r.Count)} patches of {Say.N(r.PatchMm)} mm {(r.Corners ? "in the middle and in four corners " : "")}don't fit on a bed of " +
                        $"{Say.N(plan.BedXMm)} × {Say.N(plan.BedYMm)} mm: smaller or fewer ones{(r.Corners ? ", or the middle alone" : "")} would be right.",
                    r.PatchMm > 8 ? [new("patches of 8 mm", new Dictionary<string, decimal> { ["patchMm"] = 8 })] : []));
        if (errors.Count > 0)
            return errors;
        var groups = r.Corners ? 5 : 1;
        var volume = (double)(groups * r.Count * r.PatchMm * r.PatchMm * r.FirstLayerHeightMm);
        return plan with
        {
            Estimate = new((int)Math.Ceiling(volume / 1.5 / 60 + 2), Math.Round(volume * 1.24 / 1000, 1), 0),
            Warnings = [.. Warnings(r, c)],
        };
    }

    private static IEnumerable<PlanWarning> Warnings(FirstLayerRequest r, PlanContext c)
    {
        foreach (var advice in PieceFields.Advice(c, r.NozzleTemperatureC))
            yield return advice;
        if (c.Kept.TryGetValue("nozzleTemperatureC", out var print) && (double)r.NozzleTemperatureC < print)
            yield return new(PlanWarningKind.ColderThanPrint, (double)r.NozzleTemperatureC, print);
        if (r.Adhesive == "grip")
            yield return new(PlanWarningKind.GripAdhesive);
        else if (r.Adhesive != "none")
            yield return new(PlanWarningKind.ReleaseLayer);
    }

    /// <inheritdoc/>
    protected override Made<FirstLayerPlan> Make(FirstLayerPlan p, PlanContext c)
    {
        var r = p.Request;
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = [OffsetPatches.Build(p.Size, c.Memory)], Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"first layer, {c.Subject}",
                    $"patches at nozzle offsets of {string.Join(", ", p.ChangesMm.Select(x => Say.N(r.NozzleOffsetMm + x, 3)))} mm, the lowest first; the " +
                        $"cut corner marks the present one",
                    "a live offset of the printer is not touched: the height of each layer makes the difference",
                ],
            },
            c.Machine!, c.Settings! with
            {
                FirstLayerBedTemperatureC = (double)r.BedTemperatureC,
                BedTemperatureC = (double)r.BedTemperatureC,
                FirstLayerSpeedMmPerS = (double)r.SpeedMmPerS,
                FanFirstLayers = 99,
                BrimWidthMm = 0,
                SkirtLoops = 0,
                SkirtGapMm = 0,
                MinLayerTimeS = 0,
                ZHopMm = Math.Max(0.3, c.Settings!.ZHopMm),
            }, c.Memory);
        return job is null
            ? new(p, null, [.. errors.Select(e => e.Field == "pieceDepthMm" ? e with { Field = "patchMm", Offers = [] } : e)])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. p.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(FirstLayerPlan plan) => plan.ChangesMm.Count / 2 + 1;

    /// <inheritdoc/>
    protected override string FileWords(FirstLayerPlan plan) => $"offset {Say.N(plan.Request.NozzleOffsetMm, 3)}";

    /// <inheritdoc/>
    protected override string Extent(FirstLayerPlan plan) => Say.Plural(plan.ChangesMm.Count, "offset");

    /// <inheritdoc/>
    protected override string Basis(FirstLayerPlan plan) => "one set of patches";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions => ["Stand by: the lowest patches may scrape. Stop where the nozzle drags on the bed."];

    /// <summary>The aspect of a corner.</summary>
    public static string Of(string corner) => Corner + corner.Replace(' ', '-');

    /// <inheritdoc/>
    public override ReadingGrid Grid(FirstLayerPlan p)
    {
        return new(
            [.. p.ChangesMm.Select((c, i) => new GridRow(i, FirstLayerPlan.Label(c), $"{Say.N(p.Request.NozzleOffsetMm + c, 3)}"))],
            [
                new("gaps", "Gaps", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "gaps between lines, by eye", Anchors = ScoreAnchors.Gaps },
                new("ridges", "Ridges", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "ridges, by thumb", Anchors = ScoreAnchors.Ridges },
                new("grip", "Grip", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "how it holds", Anchors = ScoreAnchors.Grip }, .. p.Request.Corners
                    ? FirstLayerJudging.Corners.Select(c => new GridColumn(Of(c), char.ToUpperInvariant(c[0]) + c[1..], CellKind.Score)
                    {
                        Resolution = 1, Digits = 2, Lead = $"{c} corner, all together", Anchors = ScoreAnchors.Corner,
                    })
                    : [],
            ])
        { RowHead = "Offset", ManyColumns = true };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => FirstLayerJudging.Aspects.Contains(aspect) || FirstLayerJudging.Corners.Any(c => Of(c) == aspect);

    /// <inheritdoc/>
    public override FirstLayerVerdict Judge(FirstLayerPlan p, RunReadings readings, JudgeContext c)
    {
        var r = p.Request;
        var v = FirstLayerJudging.Judge(new FirstLayerReadings
        {
            OffsetMm = (double)r.NozzleOffsetMm,
            ScoreNoise = c.ScoreNoise,
            Patches = [.. p.ChangesMm.Select((x, i) => new OffsetPatch((double)x,
                FirstLayerJudging.Aspects.Where(a => readings.Value(i, a) is not null).ToDictionary(a => a, a => readings.Value(i, a)!.Value),
                FirstLayerJudging.Corners.Where(k => readings.Value(i, Of(k)) is not null).ToDictionary(k => k, k => readings.Value(i, Of(k))!.Value)))],
        });
        // What it was printed with belongs to it.
        return v.Settings.Count == 0
            ? v
            : v with
            {
                Settings =
                [
                    .. v.Settings,
                    new("firstLayerNozzleTemperatureC", (double)r.NozzleTemperatureC, 0), new("firstLayerBedTemperatureC", (double)r.BedTemperatureC, 0),
                    new("firstLayerSpeedMmPerS", (double)r.SpeedMmPerS, 0),
                ],
            };
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(FirstLayerPlan plan, FirstLayerVerdict v)
    {
        var points = v.ChangesMm.Select((c, i) => (c, v.Means[i])).Where(x => x.Item2 is not null)
            .Select(x => new ChartPoint(x.c, x.Item2!.Value, null, null, v.EqualsMm.Contains(x.c) ? "best" : "")).ToList();
        return points.Count == 0
            ? null
            : new("offset against the present one, mm", "gaps, ridges, grip together, 0–4", points)
            {
                Band = v.EqualsMm.Count > 0 && v.Outcome is not (FirstLayerOutcome.Edge or FirstLayerOutcome.NoneGood)
                    ? (v.EqualsMm[0], v.EqualsMm[^1]) : null,
                Line = [.. points.Select(p => (p.X, p.Y))],
                Chosen = v.NewOffsetMm is null ? null : v.ChangeMm, WholeX = true, Summary = v.Sentence,
            };
    }

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateRequest(double OffsetMm, IReadOnlyList<EvaluatePatch> Patches, double? ScoreNoise);

    /// <summary>A patch of the body; corners by place: front left, front right, back left, back right.</summary>
    public sealed record EvaluatePatch(double ChangeMm, Dictionary<string, double>? Scores, Dictionary<string, double>? Corners);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(EvaluateRequest);

    /// <inheritdoc/>
    protected override FirstLayerVerdict? Answer(JsonFields json)
    {
        var readings = new FirstLayerReadings
        {
            OffsetMm = (double)(json.Number("offsetMm", true) ?? 0),
            Patches =
            [
                .. (json.List("patches", true) ?? []).Select(x => new OffsetPatch(
                    (double)(x.Number("changeMm", true) ?? 0), x.Object("scores")?.Numbers() ?? [], x.Object("corners")?.Numbers() ?? [])),
            ],
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
        };
        if (json.Errors.Count == 0)
            json.Take(FirstLayerJudging.Check(readings));
        return json.Errors.Count > 0 ? null : FirstLayerJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"offsetMm": -0.1, "patches": [{"changeMm": -0.04, "scores": {"gaps": 4, "ridges": 1, "grip": 4}}, {"changeMm": -0.02,""" +
            """ "scores": {"gaps": 4, "ridges": 3, "grip": 4}}, {"changeMm": 0, "scores": {"gaps": 4, "ridges": 4, "grip": 4}}, {"changeMm": 0.02,""" +
            """ "scores": {"gaps": 2, "ridges": 4, "grip": 3}}, {"changeMm": 0.04, "scores": {"gaps": 1, "ridges": 4, "grip": 1}}]}""";
}
