using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Temperature tower: the nozzle temperature from sections printed hottest to coolest and scored by eye.</summary>
public sealed partial class TemperatureTowerTrial : Trial<TowerForm, TowerPlan, TowerVerdict>, IStepsOwnFile
{
    /// <summary>Its kind.</summary>
    public const string Word = "temperature-tower";

    /// <summary>Mode for somebody's own model.</summary>
    public const string Own = "own";

    private static readonly string[] OwnOnly = ["totalLayers", "baseLayers", "sections", "roundByHeight"];
    private static readonly string[] PieceOnly =
    [
        "sectionHeightMm", "baseHeightMm", "pieceDepthMm", "bridgeSpanMm", "reedGapMm", "slabAngleDeg", "textHeightMm", "brim", "arrangement", "waitAtChanges",
        "walls", "wallOrder", "bead",
    ];

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Temperature tower";

    /// <inheritdoc/>
    public override string Noun => "tower";

    /// <inheritdoc/>
    public override string PageFolder => "TemperatureTower";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["nozzleTemperatureC"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["temperature"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["bridges"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(TowerPlan plan) => ["hottestC", "coolestC", "stepC", "nozzleTemperatureC", "totalLayers", "sections"];

    /// <inheritdoc/>
    public override string Purpose => "Nozzle temperature: it moves viscosity, and with it flow, strings and the flow limit. Settle it first.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => ["", Own];

    private const string Temperatures = "Temperatures", ThePiece = "The piece", Model = "Your model";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.HottestC, TowerFields.All["hottestC"], "", Temperatures),
        Number(r => r.CoolestC, TowerFields.All["coolestC"], "", Temperatures),
        Number(r => r.StepC, TowerFields.All["stepC"], "5 is usual; 2 for a second look.", Temperatures),
        Number(r => r.TotalLayers, TowerFields.All["totalLayers"], "Layers count from 1.", Model),
        Number(r => r.BaseLayers, TowerFields.All["baseLayers"], "Below the first section.", Model),
        Number(r => r.Sections, TowerFields.All["sections"], "", Model),
        Tick(r => r.RoundByHeight, "Round each boundary to its nearest layer", "", Model),
        Number(r => r.SectionHeightMm, TowerFields.All["sectionHeightMm"], "Whole layers.", ThePiece),
        Number(r => r.BaseHeightMm, TowerFields.All["baseHeightMm"], "First layer included; printed at the hottest value.", ThePiece),
        Number(r => r.LayerHeightMm, TowerFields.All["layerHeightMm"], "", ThePiece),
        Number(r => r.FirstLayerHeightMm, TowerFields.All["firstLayerHeightMm"], "", ThePiece),
        Number(r => r.PieceDepthMm, TowerFields.All["pieceDepthMm"], "Empty: by the nozzle.", ThePiece),
        Number(r => r.BridgeSpanMm, TowerFields.All["bridgeSpanMm"], "The bridge's span. Empty: by the nozzle.", ThePiece),
        Number(r => r.ReedGapMm, TowerFields.All["reedGapMm"], "Empty: 8.", ThePiece),
        Number(r => r.SlabAngleDeg, TowerFields.All["slabAngleDeg"], "From the upright. Empty: 45.", ThePiece),
        Number(r => r.TextHeightMm, TowerFields.All["textHeightMm"], "Empty: by the section.", ThePiece),
        Tick(r => r.Brim, "With a brim", "", ThePiece),
        OneOf(r => r.Arrangement, "Printed as", "", ThePiece, ("", "one tower"), ("separate", "separate pieces")),
        Tick(r => r.WaitAtChanges, "Wait at each change", "Beside the piece, until the nozzle is there.", ThePiece),
        Number(r => r.Walls, PrintChoices.WallsField, "", ThePiece),
        OneOf(r => r.WallOrder, "Order of walls", "", ThePiece, ("", "inner walls first"), ("outer", "outer wall first")),
        OneOf(r => r.Bead, "Bead model", "", ThePiece, ("", "rectangle, width × height"), ("stadium", "with half-round ends")),
    ];

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => !(mode == Own ? PieceOnly : OwnOnly).Contains(f));

    /// <inheritdoc/>
    public override bool IsNeeded(string field, string mode) => mode == Own
        ? field is "hottestC" or "coolestC" or "stepC" or "totalLayers" or "baseLayers" or "sections"
        : field is "hottestC" or "coolestC" or "stepC" or "layerHeightMm" or "firstLayerHeightMm" or "sectionHeightMm" or "baseHeightMm";

    /// <summary>A tower as it is most likely wanted: the advice clipped by the machine's limits, whole steps, measures by the nozzle.</summary>
    public static TowerRequest ProposeRequest(PlanContext c)
    {
        var (least, most) = (c.Machine?.Limits.MinC ?? HotendLimits.ColdExtrusionC, c.Machine?.Limits.ProposedMaxC ?? 300);
        decimal hot = (decimal)Math.Min(c.AdvisedC?.Max ?? 230, most), cool = (decimal)Math.Max(c.AdvisedC?.Min ?? 190, least);
        const decimal step = 5;
        hot = Math.Floor(hot);
        cool = Math.Ceiling(cool);
        if (hot - cool < 2 * step)
            cool = Math.Max((decimal)least, hot - 4 * step);
        cool = hot - Math.Floor((hot - cool) / step) * step;
        var nozzle = (decimal)(c.Machine?.NozzleDiameterMm ?? 0.4);
        var layer = Math.Max(0.04m, Math.Floor(nozzle / 2 / 0.04m) * 0.04m);
        return With(c, new TowerRequest
        {
            HottestC = hot,
            CoolestC = cool,
            StepC = step,
            LayerHeightMm = layer,
            FirstLayerHeightMm = layer,
            SectionHeightMm = layer * Math.Ceiling(10m * Math.Max(1, nozzle / 0.4m) / layer),
            BaseHeightMm = layer * Math.Max(2, Math.Round(1.2m / layer)),
        });
    }

    /// <summary>Adds the machine's limits, the advice and sizes to a request.</summary>
    private static TowerRequest With(PlanContext c, TowerRequest r) => c.Machine is not { } m ? r : r with
    {
        NozzleDiameterMm = (decimal)m.NozzleDiameterMm,
        BedHeightMm = (decimal)m.HeightMm,
        DensityGPerCm3 = (decimal?)c.DensityGPerCm3 ?? r.DensityGPerCm3,
        Limits = RangeOf(m.Limits),
        Advised = c.AdvisedC is { } span ? new((decimal?)span.Min, (decimal?)span.Max) : r.Advised,
    };

    /// <summary>A machine's limits as a request has them.</summary>
    public static TemperatureRange RangeOf(HotendLimits l) => new((decimal)l.MinC, (decimal)l.MaxC, (decimal?)l.ContinuousMaxC, l.MaxBecause);

    /// <inheritdoc/>
    protected override TowerForm Proposal(PlanContext c) => FormOf(ProposeRequest(c));

    /// <inheritdoc/>
    protected override TowerForm RequestOf(TowerPlan plan) => FormOf(plan.Request);

    private static TowerForm FormOf(TowerRequest r) => new()
    {
        Mode = r.IsOwnModel ? Own : "",
        HottestC = r.HottestC,
        CoolestC = r.CoolestC,
        StepC = r.StepC,
        SectionHeightMm = r.SectionHeightMm,
        BaseHeightMm = r.BaseHeightMm,
        LayerHeightMm = r.LayerHeightMm,
        FirstLayerHeightMm = r.FirstLayerHeightMm,
        TotalLayers = r.TotalLayers,
        BaseLayers = r.BaseLayers,
        Sections = r.Sections,
        RoundByHeight = r.RoundByHeight,
        PieceDepthMm = r.PieceDepthMm,
        BridgeSpanMm = r.BridgeSpanMm,
        ReedGapMm = r.ReedGapMm,
        SlabAngleDeg = r.SlabAngleDeg,
        TextHeightMm = r.TextHeightMm,
        Brim = r.Brim,
        Arrangement = r.Separate ? "separate" : "",
        WaitAtChanges = r.WaitAtChanges,
        Walls = (r.Print ?? new PrintChoices()).Walls,
        WallOrder = r.Print?.OuterFirst == true ? "outer" : "",
        Bead = r.Print?.Stadium == true ? "stadium" : "",
    };

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext c)
    {
        var v = values.With(null);
        v["mode"] = mode;
        if (mode == Own && v.Number("hottestC") is { } hot && v.Number("coolestC") is { } cool && v.Number("stepC") is { } step && step > 0)
        {
            v.TryAdd("sections", Math.Floor((hot - cool) / step) + 1);
            v.TryAdd("baseLayers", 6m);
        }
        else if (mode != Own)
        {
            foreach (var (key, value) in Propose(c).Where(x => x.Key is "sectionHeightMm" or "baseHeightMm" or "layerHeightMm" or "firstLayerHeightMm"))
                v.TryAdd(key, value);
        }

        return v;
    }

    /// <inheritdoc/>
    public override Planned<TowerPlan> Plan(TowerForm f, PlanContext c)
    {
        var own = f.Mode == Own;
        decimal? Piece(decimal? v) => own ? null : v;
        decimal? Model(decimal? v) => own ? v : null;
        var (plan, errors) = TowerPlanning.Plan(With(c, new TowerRequest
        {
            HottestC = f.HottestC,
            CoolestC = f.CoolestC,
            StepC = f.StepC,
            LayerHeightMm = f.LayerHeightMm,
            FirstLayerHeightMm = f.FirstLayerHeightMm,
            SectionHeightMm = Piece(f.SectionHeightMm),
            BaseHeightMm = Piece(f.BaseHeightMm),
            PieceDepthMm = Piece(f.PieceDepthMm),
            TotalLayers = Model(f.TotalLayers),
            BaseLayers = Model(f.BaseLayers),
            Sections = Model(f.Sections),
            Brim = f.Brim,
            RoundByHeight = f.RoundByHeight,
            BridgeSpanMm = Piece(f.BridgeSpanMm),
            ReedGapMm = Piece(f.ReedGapMm),
            SlabAngleDeg = Piece(f.SlabAngleDeg),
            TextHeightMm = Piece(f.TextHeightMm),
            Separate = !own && f.Arrangement == "separate",
            WaitAtChanges = !own && f.WaitAtChanges,
            Print = own ? null : new((int)(f.Walls ?? 2), f.WallOrder == "outer", f.Bead == "stadium"),
        }));
        return new(plan, errors);
    }

    /// <inheritdoc/>
    public override PlanResult PlanFrom(JsonFields json, PlanContext c)
    {
        var request = TowerInput.Request(json);
        if (json.Errors.Count > 0)
            return new(null, []);
        var (plan, errors) = TowerPlanning.Plan(
            c.Machine is { } m
                ? request with
                {
                    Limits = new((decimal)m.Limits.MinC, (decimal)m.Limits.MaxC),
                    NozzleDiameterMm = (decimal)m.NozzleDiameterMm,
                    BedHeightMm = (decimal)m.HeightMm,
                }
                : request);
        return new(plan, errors);
    }

    /// <inheritdoc/>
    public override FieldError NoFile =>
        new("totalLayers", "Glenfrost writes files of its own piece: sectionHeightMm, baseHeightMm, layerHeightMm and firstLayerHeightMm would be right.");

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan p)
    {
        var plan = (TowerPlan)p;
        if (plan.Request is null
            || plan.Sections is not { Count: > 0 and <= 200 }
            || plan.Checkpoints is null
            || plan.Estimate is null
            || plan.Warnings is null
            || plan.Offers is null)
            return "plan lacks its request, sections, checkpoints or estimate";
        if (plan.Sections.Where((s, i) => s is null || s.Index != i || s.FirstLayer < 1 || s.LastLayer < s.FirstLayer || s.TemperatureC is < 0 or > 600).Any()
            || plan.TotalLayers < plan.Sections.Count)
            return "plan has sections out of order; they count from 0, lowest first, with layers from 1";
        return plan.Checkpoints.Any(c => c is null || c.SectionIndex < 0 || c.SectionIndex >= plan.Sections.Count)
            ? "plan has checkpoints outside its sections"
            : null;
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(TowerPlan plan) =>
        new(
            [.. plan.Sections.Reverse().Select(s => new GridRow(s.Index, $"{Say.N(s.TemperatureC, 1)} °C", $"{s.Index + 1}"))],
            [
                .. Aspects.All.Select(a => new GridColumn(a, char.ToUpperInvariant(a[0]) + a[1..], CellKind.Score)
                {
                    Resolution = 1, Digits = 2, Anchors = Aspects.Anchors[a],
                }),
                new(CellAspects.Observed, "Display, °C", CellKind.Number, false)
                {
                    Quantity = RecordFields.ObservedC, Resolution = 1, Digits = 2, Lead = "seen on the display",
                },
                new(CellAspects.State, "Section is", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
            ])
        { ManyColumns = true };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => Aspects.All.Contains(aspect) || aspect == CellAspects.Observed;

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value)
    {
        var planned = (double)((TowerPlan)plan).Sections[section].TemperatureC;
        return aspect == CellAspects.Observed && Math.Abs(value - planned) > 15
            ? $"The display showed {Say.N(value)} °C where {Say.N(planned)} was planned: is that so?"
            : null;
    }

    /// <summary>The readings of a run, section by section.</summary>
    public static IReadOnlyList<SectionReading> SectionsOf(ITrialPlan plan, RunReadings readings, IReadOnlyList<SectionState> states) =>
        [
            .. ((TowerPlan)plan).Sections.Select(s => new SectionReading(
                (double)s.TemperatureC, states[s.Index],
                Aspects.All.Where(a => readings.Value(s.Index, a) is not null).ToDictionary(a => a, a => readings.Value(s.Index, a)!.Value),
                readings.Value(s.Index, CellAspects.Observed))),
        ];

    /// <inheritdoc/>
    protected override string Basis(TowerPlan plan) => "one run, printed slowly";

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    protected override string? OlderFormOf(ITrialPlan plan) => plan is TowerPlan { Request.IsOwnModel: false } p ? Stile.OlderForm(p.StileForm) : null;

    /// <inheritdoc/>
    public override TowerVerdict Judge(TowerPlan plan, RunReadings readings, JudgeContext c) =>
        TowerJudging.Judge(
            new TowerReadings
            {
                Sections =
                [
                    .. SectionsOf(plan, readings, States(plan, readings)),
                    .. c.Earlier.SelectMany(e => SectionsOf(e.Plan, e.Readings, States(e.Plan, e.Readings))),
                ],
                Preference = Aspects.PreferenceFor(c.Use), Weights = Aspects.WeightsFor(c.Use), Seed = c.Seed, ScoreNoise = c.ScoreNoise,
                Limits = c.Limits is { } l ? RangeOf(l) : null, Advised = plan.Request.Advised,
                Cost = plan.Estimate,
            });

    /// <inheritdoc/>
    protected override Made<TowerPlan> Make(TowerPlan tower, PlanContext c)
    {
        if (tower.Request.IsOwnModel)
            return new(tower, null, []);
        var (job, errors) = TowerPiece.Make(tower, c.Machine!, c.Settings!, c.Subject, c.Memory);
        return job is null ? new(tower, null, errors) : new(TowerPiece.WithFile(tower, job), job, errors);
    }

    /// <inheritdoc/>
    protected override int FirstLook(TowerPlan p) =>
        // The first look goes to the first bridge over the window: the layer that tells most.
        p.LayersPerSection is not { } per
            ? 1
            : p.BaseLayers + per - TowerOfStiles.LintelLayers(TowerPiece.StileOf(p.Request), TowerPiece.LayersOf(p)) + 1;

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(TowerPlan plan, PieceMemory memory) =>
        plan.Request.IsOwnModel ? [] : TowerPiece.PiecesOf(plan, memory);

    /// <inheritdoc/>
    protected override string FileWords(TowerPlan plan) => $"{Say.N(plan.Request.HottestC ?? 0, 0)} {Say.N(plan.Request.CoolestC ?? 0, 0)}";

    /// <inheritdoc/>
    protected override Type PlanBody => typeof(TowerRequest);

    /// <inheritdoc/>
    protected override Type PlanAnswerType => typeof(TowerPlanAnswer);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(TowerInput.EvaluateBody);

    /// <inheritdoc/>
    protected override Type EvaluateAnswerType => typeof(TowerEvaluateAnswer);

    /// <inheritdoc/>
    public override object EvaluateAnswer(TrialVerdict told) => TowerInput.AnswerOf((TowerVerdict)told);

    /// <inheritdoc/>
    public override object PlanAnswer(ITrialPlan p)
    {
        var plan = (TowerPlan)p;
        return new TowerPlanAnswer(
            plan.Sections, plan.LayersPerSection, plan.BaseLayers, plan.TotalLayers, plan.HeightMm, plan.StepC, plan.Slenderness, plan.Checkpoints,
            plan.WorstBoundaryErrorLayers, plan.Estimate, plan.Warnings, plan.Offers);
    }

    /// <inheritdoc/>
    public override IReadOnlyList<PlanPart> SheetParts(ITrialPlan plan) =>
        [
            .. ((TowerPlan)plan).Sections.Select(s => new PlanPart(
                s.Index, $"{Say.N(s.TemperatureC, 1)} °C", s.FirstLayer, s.LastLayer, (double?)s.FromZMm, (double?)s.ToZMm, (double)s.TemperatureC)),
        ];

    /// <inheritdoc/>
    public override IReadOnlyList<(string Name, IReadOnlyList<double?> Values)> Figures(ITrialPlan plan, TrialVerdict verdict) =>
        [("desirability", [.. ((TowerVerdict)verdict).Sections.Select(s => s.Desirability)])];

    /// <inheritdoc/>
    protected override TowerVerdict? Answer(JsonFields json) => TowerInput.Evaluate(json);

    /// <inheritdoc/>
    public override string Example =>
        """{"sections": [{"temperatureC": 230, "state": "judged", "scores": {"bridge": 1, "strings": 0}}, {"temperatureC": 220,""" +
            """ "state": "judged", "scores": {"bridge": 3, "strings": 2}}, {"temperatureC": 210, "state": "judged", "scores": {"bridge": 4,""" +
            """ "strings": 4}}, {"temperatureC": 200, "state": "judged", "scores": {"bridge": 2, "strings": 4}}, {"temperatureC": 190, "state": "failed"}]}""";

    /// <inheritdoc/>
    public override string PlanExample =>
        """{"hottestC": 230, "coolestC": 190, "stepC": 5, "sectionHeightMm": 10, "baseHeightMm": 1.2, "layerHeightMm": 0.2, "firstLayerHeightMm": 0.2}""";
}
