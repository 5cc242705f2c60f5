using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Core.Trials.Verification;

/// <summary>
/// Verification print: a detailed piece, then a functional one, at the profile as it is kept. Where it passes, what it shows is confirmed; where it does
/// not, its defects open their suspects.
/// </summary>
public sealed class VerificationTrial : Trial<VerificationRequest, VerificationPlan, VerificationVerdict>
{
    /// <summary>Its kind, and its area of evidence.</summary>
    public const string Word = "verification";

    /// <summary>The detailed piece.</summary>
    public const string Vane = "vane";

    /// <summary>The functional piece.</summary>
    public const string Clip = "clip";

    /// <summary>Aspects of a clip: rod, bore, bore at the bed, gap under its foot, how it snaps.</summary>
    public const string Rod = "rodMm", Bore = "boreMm", BoreAtBed = "boreAtBedMm", Gap = "gapMm", Snap = "snap";

    private const string ThePiece = "The piece", TheClip = "What the clip is to hold", WhatIsAsked = "What is asked of it";

    private static readonly string[] OfClip = ["rodMm", "clearanceMm", "toleranceMm", "mostGapMm"];

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Verification print";

    /// <inheritdoc/>
    public override string Noun => "verification";

    /// <inheritdoc/>
    public override string PageFolder => "Verification";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <summary>The last station of every route.</summary>
    public override bool IsOnRoute => true;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [Word];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["temperature", "flow", "strings", "cooling"];

    /// <inheritdoc/>
    public override string Purpose =>
        "A detailed piece, then a clip that has to fit, at the profile as it is kept: what passes is confirmed, what does not says where to look.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Vane, Clip];

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => mode == Clip || !OfClip.Contains(f));

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's: a piece at another one says nothing of it.", ThePiece),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePiece),
        Number(
            r => r.RodMm, "Rod", "mm", 3, 60, "thinner ones a clip can't hold, thicker ones waste filament",
            "A drill's shank or a pin that lies at hand.", TheClip),
        Number(
            r => r.ClearanceMm, "Play", "mm", 0.05m, 1, "less never slides, more never holds", "How much wider the bore is drawn than the rod.", TheClip),
        Number(r => r.TargetScore, "Each zone is to reach", "", 0.5m, 4, "4 is clean, 2 passes just", "4 is clean, 2 passes just.", WhatIsAsked),
        Number(
            r => r.ToleranceMm, "Play may be off by", "mm", 0.05m, 0.5m, "finer than jaws tell in a printed bore, or coarser than a fit",
            "Inner jaws in a printed bore tell about 0.05 mm.", WhatIsAsked),
        Number(
            r => r.MostGapMm, "Its foot may lift by", "mm", 0.05m, 2, "finer can't be seen, coarser passes anything",
            "Under either end, by a feeler gauge.", WhatIsAsked),
    ];

    /// <summary>What is asked of it says how it is judged, not how it is made.</summary>
    public override string? FactorOf(string field) => field is "targetScore" or "mostGapMm" ? null : base.FactorOf(field);

    /// <inheritdoc/>
    protected override VerificationRequest Proposal(PlanContext c) => new()
    {
        NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
        LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
        TargetScore = PartTrial.TargetOf(c.Use),
        RodMm = (decimal)Math.Max(8, GaugeClip.LeastRodMm(c.Machine?.NozzleDiameterMm ?? 0.4)),
    };

    /// <inheritdoc/>
    protected override VerificationRequest RequestOf(VerificationPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<VerificationPlan> Plan(VerificationRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        var plan = new VerificationPlan
        {
            Request = r with { Mode = r.Mode ?? Vane },
            Estimate = new(0, null, 0),
            NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            LineWidthMm = c.Settings?.LineWidthMm ?? 1.1 * (c.Machine?.NozzleDiameterMm ?? 0.4),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
        if (plan.IsClip)
            errors.AddRange(GaugeClip.Check(plan.ClipSize));
        if (errors.Count > 0)
            return errors;
        // Roughly, before its file says it: a vane at 0.4 mm is 5.2 cm³ as it is laid.
        var volume = plan.IsClip
            ? GaugeClip.Outline(plan.ClipSize).Area * plan.ClipSize.HeightMm
            : 5200 * Math.Pow(plan.VaneSize.Scale, 3);
        return plan with { Estimate = new((int)Math.Ceiling(volume / 3 / 60) + 6, Math.Round(volume / 1000 * 1.2, 1), 0) };
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(VerificationPlan plan, PieceMemory memory) =>
        [plan.IsClip ? GaugeClip.Build(plan.ClipSize, memory) : SmallVane.Build(plan.VaneSize, memory)];

    /// <inheritdoc/>
    protected override Made<VerificationPlan> Make(VerificationPlan plan, PlanContext c)
    {
        var r = plan.Request;
        var p = plan with { LineWidthMm = c.Settings!.LineWidthMm, NozzleMm = c.Machine!.NozzleDiameterMm };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"verification, {c.Subject}",
                    p.IsClip ? $"gauge clip for a rod of {Say.N(r.RodMm, 2)} mm, bore {Say.N(p.ClipSize.BoreMm, 2)} mm, {Say.N(r.LayerHeightMm)} mm layers"
                        : $"small vane, {Say.N(p.VaneSize.HeightMm, 1)} mm high, {Say.N(r.LayerHeightMm)} mm layers",
                ],
            },
            c.Machine, c.Settings, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(e => e.Field is "pieceDepthMm" or "sectionHeightMm" or "lineWidthMm"
                ? e with { Field = p.IsClip ? "rodMm" : "layerHeightMm", Offers = [] }
                : e)])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (VerificationPlan)plan;
        return p.Request.Mode is not (Vane or Clip) ? "plan is of no verification piece"
            : p.Request.LayerHeightMm <= 0 || p.NozzleMm <= 0 || p.LineWidthMm <= 0 ? "plan has no layer height"
            : (p.IsClip ? p.ClipSize.HeightMm : p.VaneSize.HeightMm) / (double)p.Request.LayerHeightMm > PlanBounds.MostLayers ? "plan has too many layers"
            : base.Faults(plan);
    }

    /// <inheritdoc/>
    protected override string FileWords(VerificationPlan plan) => plan.IsClip ? $"gauge clip {Say.N(plan.Request.RodMm, 2)} mm" : "small vane";

    /// <inheritdoc/>
    public override ReadingGrid Grid(VerificationPlan plan)
    {
        var bore = (decimal)plan.ClipSize.BoreMm;
        Quantity Across(string name) => new(name, "mm", Math.Round(bore * 0.5m, 2), Math.Round(bore * 1.5m, 2), "near what it was made for");
        (double, double) Near(double mm) => (mm - 0.6, mm + 0.6);
        GridColumn[] fit =
        [
            new GridColumn(Rod, "rod", CellKind.Number)
            {
                Quantity = Across("Rod"), Resolution = 0.01, Digits = 2, Plausible = Near((double)plan.Request.RodMm), Lead = "rod, measured",
            },
            new GridColumn(Bore, "bore", CellKind.Number)
            {
                Quantity = Across("Bore"), Resolution = 0.01, Digits = 2, Plausible = Near((double)bore), Lead = "bore, from side to side",
            },
            new GridColumn(BoreAtBed, "bore at the bed", CellKind.Number, false)
            {
                Quantity = Across("Bore at the bed"), Resolution = 0.01, Digits = 2, Plausible = Near((double)bore), Lead = "bore in the lowest millimetre",
            },
            new GridColumn(Gap, "gap under it", CellKind.Number, false)
            {
                Quantity = new Quantity("Gap under its foot", "mm", 0, 20, "0 for none"), Resolution = 0.05, Digits = 2, Lead = "gap under an end of its foot",
            },
            new GridColumn(Snap, "snap", CellKind.Score) { Anchors = ScoreAnchors.Snap },
        ];
        return new(
            [.. ((ITrialPlan)plan).Parts.Reverse().Select(p => new GridRow(p.Index, p.Label, $"layers {p.FirstLayer} to {p.LastLayer}"))],
            // A clip is one zone: where it failed, and a second thing seen, its measures say.
            plan.IsClip ? [.. fit, .. ZoneCells.Columns(plan).Where(c => c.Aspect is not (PartTrial.FailedAt or $"{PartTrial.Defect}2"))]
                : ZoneCells.Columns(plan))
        {
            RowHead = "Zone", ManyColumns = true, Across = plan.IsClip,
        };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Rod or Bore or BoreAtBed or Gap or Snap || ZoneCells.IsAspect(aspect);

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value) =>
        ZoneCells.Elsewhere(plan, section, aspect, value) ?? base.Question(plan, section, aspect, value);

    /// <inheritdoc/>
    protected override string Extent(VerificationPlan plan) => plan.IsClip ? "gauge clip" : "small vane";

    /// <inheritdoc/>
    public override VerificationVerdict Judge(VerificationPlan plan, RunReadings readings, JudgeContext c)
    {
        var r = plan.Request;
        return VerificationJudging.Judge(new()
        {
            Piece = r.Mode ?? Vane,
            Zones = ZoneCells.Zones(plan, readings, States(plan, readings)),
            TargetScore = (double)r.TargetScore,
            ScoreNoise = c.ScoreNoise,
            Fit = !plan.IsClip ? null : new()
            {
                RodMm = readings.Value(0, Rod),
                BoreMm = readings.Value(0, Bore),
                BoreAtBedMm = readings.Value(0, BoreAtBed),
                GapMm = readings.Value(0, Gap),
                Snap = readings.Value(0, Snap),
                DrawnBoreMm = plan.ClipSize.BoreMm,
                ClearanceMm = (double)r.ClearanceMm,
                ToleranceMm = (double)r.ToleranceMm,
                MostGapMm = (double)r.MostGapMm,
            },
        });
    }

    /// <inheritdoc/>
    protected override AreaFinding? Finding(VerificationVerdict verdict) => verdict.Outcome switch
    {
        PartOutcome.Passed => new(Word, true, [], false) { Shows = verdict.Shows },
        // What it may be stands as suspects: nothing else becomes doubtful by itself.
        PartOutcome.NotPassed => new(Word, false, [], false),
        _ => null,
    };

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(VerificationReadings);

    /// <inheritdoc/>
    protected override VerificationVerdict? Answer(JsonFields json)
    {
        var piece = json.Word("piece", Modes.ToList()) ?? Vane;
        var usual = new ClipFit();
        ClipFit? Fit(JsonFields f) => new()
        {
            RodMm = (double?)f.Number("rodMm"), BoreMm = (double?)f.Number("boreMm"), BoreAtBedMm = (double?)f.Number("boreAtBedMm"),
            GapMm = (double?)f.Number("gapMm"), Snap = (double?)f.Number("snap"),
            DrawnBoreMm = (double?)f.Number("drawnBoreMm") ?? usual.DrawnBoreMm, ClearanceMm = (double?)f.Number("clearanceMm") ?? usual.ClearanceMm,
            ToleranceMm = (double?)f.Number("toleranceMm") ?? usual.ToleranceMm, MostGapMm = (double?)f.Number("mostGapMm") ?? usual.MostGapMm,
        };
        var readings = new VerificationReadings
        {
            Piece = piece,
            Zones = ZoneCells.From(json),
            TargetScore = (double)(json.Number("targetScore") ?? 3),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            Fit = piece == Clip ? json.Object("fit") is { } fit ? Fit(fit) : usual : null,
        };
        if (json.Errors.Count == 0)
            json.Take(VerificationJudging.Check(readings));
        return json.Errors.Count > 0 ? null : VerificationJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """
        {"piece": "clip", "zones": [{"label": "all of it", "score": 4}],
          "fit": {"rodMm": 8.02, "boreMm": 8.19, "boreAtBedMm": 8.1, "gapMm": 0.1, "snap": 4, "drawnBoreMm": 8.2, "clearanceMm": 0.2}}
        """;
}
