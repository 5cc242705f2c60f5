using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Trials.FanSteps;

/// <summary>Fan in steps: the least part fan at which bridges and overhangs are about as good as they get.</summary>
public sealed partial class FanTrial : Trial<FanRequest, FanPlan, FanVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "fan-steps";

    /// <summary>Somebody's own model, its file stepped by height.</summary>
    public const string Own = "own";

    /// <summary>Aspects of looks, the bond by hand, and by a rig.</summary>
    public const string Bridge = "bridge", Overhang = "overhang", Bond = "bond", Force = "force";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Fan in steps";

    /// <inheritdoc/>
    public override string Noun => "fan tower";

    /// <inheritdoc/>
    public override string PageFolder => "FanSteps";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["fanPercent", "bridgeFanPercent"];

    /// <summary>It is done where looks or strength ask for it: no step of every route.</summary>
    public override bool IsOnRoute => false;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["cooling"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["temperature"];

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override string Purpose =>
        "The least part fan at which bridges and overhangs are about as good as they get: what the fan takes from the bond is saved.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => ["", Own];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions => BondBeside.Cautions;

    private const string TheFan = "The fan", ThePiece = "The piece", TheModel = "Your model";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.FanToPercent, "Most, at the bottom", "%", 0, 100, "0 is off, 100 all of it", "What droops without fan spoils only what is above it.",
            TheFan),
        Number(r => r.FanFromPercent, "Least, at the top", "%", 0, 100, "0 is off, 100 all of it", "Bridges are laid with the same: 0 means bridges too.",
            TheFan),
        Number(r => r.FanStepPercent, "Step", "%", 5, 100, "less changes nothing that anybody sees", "", TheFan),
        Number(r => r.Margin, "Margin", "scores", 0.1m, 2, "0.5 is usual", "So far behind the best is about as good: the lesser fan is taken.", TheFan),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's: what the fan does belongs to its temperature.", ThePiece),
        Number(r => r.SectionHeightMm, "Height of a section", "mm", 5, 30, "lower has no room for a bridge", "", ThePiece),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePiece),
        Number(r => r.TotalLayers, TowerFields.All["totalLayers"], "Layers count from 1.", TheModel),
        Number(r => r.BaseLayers, TowerFields.All["baseLayers"], "Below the first section.", TheModel),
        Number(r => r.FirstLayerHeightMm, TowerFields.All["firstLayerHeightMm"], "Empty: as the others.", TheModel),
    ];

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) =>
        Fields.Keys.Where(f => mode == Own ? f != "sectionHeightMm" : f is not ("totalLayers" or "baseLayers" or "firstLayerHeightMm"));

    /// <inheritdoc/>
    public override bool IsNeeded(string field, string mode) =>
        field is "totalLayers" or "baseLayers" ? mode == Own : field != "firstLayerHeightMm" && base.IsNeeded(field, mode);

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(FanPlan plan) =>
        ["fanFromPercent", "fanToPercent", "fanStepPercent", "fanPercent", "bridgeFanPercent"];

    /// <inheritdoc/>
    protected override FanRequest Proposal(PlanContext c)
    {
        // What the family bears, in steps that leave five or six sections.
        var most = (decimal)Math.Clamp(Math.Ceiling((c.Family?.FanPercent.Max ?? 100) / 10) * 10, 20, 100);
        var nozzle = c.Machine?.NozzleDiameterMm ?? 0.4;
        return new()
        {
            FanToPercent = most, FanStepPercent = most <= 40 ? 10 : 20,
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            SectionHeightMm = (decimal)Math.Round(8 * Math.Max(1, nozzle / 0.4), 1),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3),
        };
    }

    /// <inheritdoc/>
    protected override FanRequest RequestOf(FanPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<FanPlan> Plan(FanRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (r.FanToPercent <= r.FanFromPercent)
            errors.Add(new("fanToPercent", $"{Say.N(r.FanToPercent)} % is not above the least, {Say.N(r.FanFromPercent)} %."));
        if (errors.Count > 0)
            return errors;
        var plan = new FanPlan { StileForm = Stile.Form, Request = r, NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4, Estimate = new(0, null, 0) };
        var count = plan.Fans.Count;
        if (count is < 3 or > 11)
        {
            var step = Math.Max(5, Math.Round((r.FanToPercent - r.FanFromPercent) / 5));
            errors.Add(
                new(
                    "fanStepPercent", $"{Say.Plural(count, "section")} {(count < 3 ? "can't show a least fan" : "stand too tall")}: 3 to 11 would be right.",
                    r.FanToPercent - r.FanFromPercent >= 10
                        ? [new($"by {Say.N(step)} %", new Dictionary<string, decimal> { ["fanStepPercent"] = step })]
                        : []));
        }
        else if (plan.IsOwn)
        {
            errors.AddRange(OwnModel.Faults(plan.Model));
        }
        else if (plan.Stile.Check((double)r.LayerHeightMm) is [var low, ..])
        {
            errors.Add(new("sectionHeightMm", low.Message));
        }

        if (errors.Count > 0)
            return errors;
        if (plan.IsOwn)
            return plan with { Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)] };
        var volume = count * plan.Stile.SectionVolumeMm3 + plan.Stile.BaseVolumeMm3(1);
        return plan with
        {
            Estimate = new((int)Math.Ceiling(volume / 4 / 60) + 3, Math.Round(volume / 1000 * 1.2 * 0.6, 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(FanPlan plan, PieceMemory memory) => plan.IsOwn ? [] : [plan.Piece(memory)];

    /// <inheritdoc/>
    protected override Made<FanPlan> Make(FanPlan plan, PlanContext c)
    {
        if (plan.IsOwn)
            return new(plan, null, []);
        var p = plan with { NozzleMm = c.Machine!.NozzleDiameterMm };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)p.Request.NozzleTemperatureC, "all of it")],
                PlanLines = [$"fan in steps, {c.Subject}", $"fan {string.Join(", ", p.Fans.Select(f => Say.N(f)))} % from the bottom up, bridges too"],
            },
            c.Machine, c.Settings!, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(e => e.Field switch
            {
                "pieceDepthMm" => e with { Field = "sectionHeightMm", Offers = [] },
                "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
                _ => e with { Offers = [] },
            })])
            : new(p with { Estimate = PieceFields.EstimateOf(job), Warnings = [.. plan.Warnings, .. job.Warnings] }, job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(FanPlan plan) => plan.IsOwn ? 1 : Math.Min(plan.Layers.Total, plan.Layers.BaseLayers + 3);

    /// <inheritdoc/>
    protected override string FileWords(FanPlan plan) => $"fan {Say.N(plan.Request.FanToPercent)} to {Say.N(plan.Request.FanFromPercent)}";

    /// <inheritdoc/>
    protected override string Basis(FanPlan plan) => $"one {(plan.IsOwn ? "model of one's own" : "fan tower")} at {Say.N(plan.Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (FanPlan)plan;
        return p.Request.LayerHeightMm <= 0 || p.Request.SectionHeightMm <= 0 ? "plan has no layer height"
            : p.IsOwn && (OwnModel.Faults(p.Model).Any() || p.Request.TotalLayers > PlanBounds.MostLayers) ? "plan does not say its model's layers"
            : p.Request.SectionHeightMm / p.Request.LayerHeightMm * 41 > PlanBounds.MostLayers ? "plan has too many layers"
            : base.Faults(plan);
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(FanPlan plan) => new(
        [.. ((ITrialPlan)plan).Parts.Select(p => new GridRow(p.Index, p.Label)).Reverse()],
        [
            new GridColumn(Bridge, "bridge", CellKind.Score) { Anchors = ScoreAnchors.Bridge },
            new GridColumn(Overhang, "overhang", CellKind.Score) { Anchors = ScoreAnchors.Overhang },
            new GridColumn(Bond, "bond, by hand", CellKind.Score, false) { Anchors = ScoreAnchors.Bond },
            new GridColumn(Force, "bond, N", CellKind.Number, false) { Quantity = LeastLevel.ForceN, Resolution = 0.1, Digits = 2, Lead = "force" },
            new GridColumn(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
        ]);

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Bridge or Overhang or Bond or Force;

    private IEnumerable<FanPoint> Points(FanPlan p, RunReadings read)
    {
        var states = States(p, read);
        for (var i = 0; i < p.Fans.Count; i++)
        {
            if (states[i] == SectionState.Lost)
                continue;
            double[] Of(params string[] aspects) => [.. aspects.Select(a => read.Value(i, a)).OfType<double>()];
            var looks = states[i] == SectionState.Failed ? [0] : Of(Bridge, Overhang);
            if (looks.Length > 0)
                yield return new(p.Fans[i], looks, Of(Bond)) { Forces = [.. Of(Force).Where(n => n > 0)] };
        }
    }

    /// <inheritdoc/>
    protected override string? OlderFormOf(ITrialPlan plan) => plan is FanPlan { IsOwn: false } p ? Stile.OlderForm(p.StileForm) : null;

    /// <inheritdoc/>
    public override FanVerdict Judge(FanPlan plan, RunReadings readings, JudgeContext context)
    {
        List<FanPoint> points = [.. Points(plan, readings)];
        foreach (var (before, read) in context.Earlier)
        {
            if (before is FanPlan q && q.Request.NozzleTemperatureC == plan.Request.NozzleTemperatureC)
                points.AddRange(Points(q, read));
        }

        var from = new FanReadings { Points = points, Margin = (double)plan.Request.Margin, ScoreNoise = context.ScoreNoise };
        if (points.Select(p => p.FanPercent).Distinct().Count() < 3)
            return new() { Outcome = FanOutcome.Insufficient, From = from, Advised = false };
        var v = FanJudging.Judge(from);
        return v is { Next: { Trial: not null } next } ? v with { Next = next.Costing(plan.Estimate, 1) } : v;
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(FanPlan plan, FanVerdict v)
    {
        if (v.Fans.Count == 0)
            return null;
        var (bond, bondSaid) = BondBeside.Line(v.Fans, v.Bond, v.Forces);
        return new(
            "Part fan, %", "mean score, 0–4",
            [
                .. v.Fans.Select((f, i) => new ChartPoint(
                    f, v.Looks[i], Math.Max(0, v.Looks[i] - v.Halves[i]), Math.Min(4, v.Looks[i] + v.Halves[i]), v.AsGood.Contains(f) ? "best" : "")),
            ])
        {
            Line = v.Curve.Count == v.Fans.Count ? [.. v.Fans.Zip(v.Curve)] : [],
            // Looks and strength over one axis.
            OtherLine = bond,
            Legend = bond.Count > 1 ? ["diamonds and line: bridge and overhang", bondSaid] : [],
            Band = v.AsGood.Count > 0 ? (v.AsGood.Min(), v.AsGood.Max()) : null,
            Chosen = v.FanPercent,
            WholeX = v.Fans.Count < 12,
            Summary = v.Sentence,
        };
    }

    /// <inheritdoc/>
    protected override string? FoundWith(FanPlan plan, string key) => $"{Say.N(plan.Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(IReadOnlyList<BodyPoint> Points, double? Margin, double? ScoreNoise);

    /// <summary>A section of the body.</summary>
    public sealed record BodyPoint(double FanPercent, double? Bridge, double? Overhang, double? Bond, double? ForceN);

    /// <inheritdoc/>
    protected override FanVerdict? Answer(JsonFields json)
    {
        static IEnumerable<double> One(decimal? v) => v is { } d ? [(double)d] : [];
        var readings = new FanReadings
        {
            Points =
            [
                .. (json.List("points", true) ?? []).Select(p => new FanPoint(
                    (double)(p.Number("fanPercent", true) ?? 0), [.. One(p.Number("bridge")), .. One(p.Number("overhang"))], [.. One(p.Number("bond"))])
                {
                    Forces = [.. One(p.Number("forceN"))],
                }),
            ],
            Margin = (double)(json.Number("margin") ?? 0.5m),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
        };
        if (json.Errors.Count == 0)
            json.Take(FanJudging.Check(readings));
        return json.Errors.Count > 0 ? null : FanJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"points": [{"fanPercent": 0, "bridge": 1, "overhang": 1}, {"fanPercent": 25, "bridge": 2, "overhang": 3, "bond": 4},""" +
            """ {"fanPercent": 50, "bridge": 4, "overhang": 4, "bond": 3}, {"fanPercent": 75, "bridge": 4, "overhang": 4},""" +
            """ {"fanPercent": 100, "bridge": 4, "overhang": 3, "bond": 2}]}""";
}
