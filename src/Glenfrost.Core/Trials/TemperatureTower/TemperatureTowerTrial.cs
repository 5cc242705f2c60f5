using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Temperature tower: the nozzle temperature from sections printed hottest to coolest and scored by eye.</summary>
public sealed class TemperatureTowerTrial : Trial
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
    public override IEnumerable<string> SetAside(ITrialPlan plan) => ["hottestC", "coolestC", "stepC", "nozzleTemperatureC", "totalLayers", "sections"];

    /// <inheritdoc/>
    public override string Purpose => "Nozzle temperature: it moves viscosity, and with it flow, strings and the flow limit. Settle it first.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => ["", Own];

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } =
        new[]
        {
            "hottestC", "coolestC", "stepC", "sectionHeightMm", "baseHeightMm", "layerHeightMm", "firstLayerHeightMm", "totalLayers", "baseLayers", "sections",
            "pieceDepthMm", "bridgeSpanMm", "reedGapMm", "slabAngleDeg", "textHeightMm",
        }
            .Select(f => KeyValuePair.Create(f, new PlanField(TowerFields.All[f], null, false)))
            .Concat([
                KeyValuePair.Create("roundByHeight", PlanField.Tick), KeyValuePair.Create("brim", PlanField.Tick),
                KeyValuePair.Create("arrangement", PlanField.OneOf("", "separate")), KeyValuePair.Create("waitAtChanges", PlanField.Tick),
                KeyValuePair.Create("walls", new PlanField(PrintChoices.WallsField, null, false)),
                KeyValuePair.Create("wallOrder", PlanField.OneOf("", "outer")), KeyValuePair.Create("bead", PlanField.OneOf("", "stadium")),
            ]).ToDictionary();

    /// <inheritdoc/>
    public override IEnumerable<string> Asked(string mode) => Fields.Keys.Where(f => !(mode == Own ? PieceOnly : OwnOnly).Contains(f));

    /// <inheritdoc/>
    public override bool IsNeeded(string field, string mode) => mode == Own
        ? field is "hottestC" or "coolestC" or "stepC" or "totalLayers" or "baseLayers" or "sections"
        : field is "hottestC" or "coolestC" or "stepC" or "layerHeightMm" or "firstLayerHeightMm" or "sectionHeightMm" or "baseHeightMm";

    /// <summary>A tower as it is most likely wanted: the advice clipped by the machine's limits, whole steps, measures by the nozzle.</summary>
    public static TowerRequest ProposeRequest(PlanContext c)
    {
        var limits = c.Machine!.Limits;
        decimal hot = (decimal)Math.Min(c.AdvisedC?.Max ?? 230, limits.ProposedMaxC), cool = (decimal)Math.Max(c.AdvisedC?.Min ?? 190, limits.MinC);
        const decimal step = 5;
        hot = Math.Floor(hot);
        cool = Math.Ceiling(cool);
        if (hot - cool < 2 * step)
            cool = Math.Max((decimal)limits.MinC, hot - 4 * step);
        cool = hot - Math.Floor((hot - cool) / step) * step;
        var nozzle = (decimal)c.Machine.NozzleDiameterMm;
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
    public override PlanValues Propose(PlanContext c) => ValuesOf(ProposeRequest(c));

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => ValuesOf(((TowerPlanV1)plan).Request);

    private static PlanValues ValuesOf(TowerRequest r)
    {
        var v = PlanValues.Of(r);
        if (r.IsOwnModel)
            v["mode"] = Own;
        if (r.Separate)
            v["arrangement"] = "separate";
        v["walls"] = (decimal)(r.Print?.Walls ?? new PrintChoices().Walls);
        if (r.Print?.OuterFirst == true)
            v["wallOrder"] = "outer";
        if (r.Print?.Stadium == true)
            v["bead"] = "stadium";
        return v;
    }

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
    public override PlanResult Plan(PlanValues v, PlanContext c)
    {
        var own = v.Word("mode") == Own;
        decimal? Of(string name) => Asked(own ? Own : "").Contains(name) ? v.Number(name) : null;
        var (plan, errors) = TowerPlanning.Plan(With(c, new TowerRequest
        {
            HottestC = Of("hottestC"),
            CoolestC = Of("coolestC"),
            StepC = Of("stepC"),
            LayerHeightMm = Of("layerHeightMm"),
            FirstLayerHeightMm = Of("firstLayerHeightMm"),
            SectionHeightMm = Of("sectionHeightMm"),
            BaseHeightMm = Of("baseHeightMm"),
            PieceDepthMm = Of("pieceDepthMm"),
            TotalLayers = Of("totalLayers"),
            BaseLayers = Of("baseLayers"),
            Sections = Of("sections"),
            Brim = v.Flag("brim"),
            RoundByHeight = v.Flag("roundByHeight"),
            BridgeSpanMm = Of("bridgeSpanMm"),
            ReedGapMm = Of("reedGapMm"),
            SlabAngleDeg = Of("slabAngleDeg"),
            TextHeightMm = Of("textHeightMm"),
            Separate = !own && v.Word("arrangement") == "separate",
            WaitAtChanges = !own && v.Flag("waitAtChanges"),
            Print = own ? null : new((int)(Of("walls") ?? 2), v.Word("wallOrder") == "outer", v.Word("bead") == "stadium"),
        }));
        return new(plan, errors);
    }

    /// <inheritdoc/>
    public override PlanResult PlanFrom(JsonDoor door, PlanContext c)
    {
        var request = TowerDoor.Request(door);
        if (door.Errors.Count > 0)
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
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<TowerPlanV1>(json);

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan p)
    {
        var plan = (TowerPlanV1)p;
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
    public override ReadingGrid Grid(ITrialPlan plan) =>
        new(
            [.. ((TowerPlanV1)plan).Sections.Reverse().Select(s => new GridRow(s.Index, $"{Say.N(s.TemperatureC, 1)} °C", $"{s.Index + 1}"))],
            [
                .. Aspects.All.Select(a => new GridColumn(a, char.ToUpperInvariant(a[0]) + a[1..], CellKind.Score)
                {
                    Resolution = 1, Digits = 2, Anchors = Aspects.Anchors[a],
                }),
                new(CellAspects.Observed, "Display, °C", CellKind.Number, false)
                {
                    Quantity = BenchFields.ObservedC, Resolution = 1, Digits = 2, Lead = "seen on the display",
                },
                new(CellAspects.State, "Section is", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
            ])
        { ManyColumns = true };

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => Aspects.All.Contains(aspect) || aspect == CellAspects.Observed;

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value)
    {
        var planned = (double)((TowerPlanV1)plan).Sections[section].TemperatureC;
        return aspect == CellAspects.Observed && Math.Abs(value - planned) > 15
            ? $"The display showed {Say.N(value)} °C where {Say.N(planned)} was planned: is that so?"
            : null;
    }

    /// <summary>The readings of a run, section by section.</summary>
    public static IReadOnlyList<SectionReading> SectionsOf(ITrialPlan plan, RunReadings readings, IReadOnlyList<SectionState> states) =>
        [
            .. ((TowerPlanV1)plan).Sections.Select(s => new SectionReading(
                (double)s.TemperatureC, states[s.Index],
                Aspects.All.Where(a => readings.Value(s.Index, a) is not null).ToDictionary(a => a, a => readings.Value(s.Index, a)!.Value),
                readings.Value(s.Index, CellAspects.Observed))),
        ];

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan) => "one run, printed slowly";

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext c) =>
        TowerJudging.Judge(
            new TowerReadings
            {
                Sections =
                [
                    .. SectionsOf(plan, readings, States(plan, readings)),
                    .. c.Earlier.SelectMany(e => SectionsOf(e.Plan, e.Readings, States(e.Plan, e.Readings))),
                ],
                Preference = Aspects.PreferenceFor(c.Use), Weights = Aspects.WeightsFor(c.Use), Seed = c.Seed, ScoreNoise = c.ScoreNoise,
                Limits = c.Limits is { } l ? RangeOf(l) : null, Advised = ((TowerPlanV1)plan).Request.Advised,
                Cost = plan.Estimate,
            });

    /// <inheritdoc/>
    public override (ITrialPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(ITrialPlan plan, PlanContext c)
    {
        var tower = (TowerPlanV1)plan;
        if (tower.Request.IsOwnModel)
            return (plan, null, []);
        var (job, errors) = TowerPiece.Make(tower, c.Machine!, c.Settings!, c.Subject);
        return job is null ? (plan, null, errors) : (TowerPiece.WithFile(tower, job), job, errors);
    }

    /// <inheritdoc/>
    public override int FirstLook(ITrialPlan plan)
    {
        // The first look goes to the first bridge over the window: the layer that tells most.
        var p = (TowerPlanV1)plan;
        return p.LayersPerSection is not { } per
            ? 1
            : p.BaseLayers + per - TowerOfStiles.LintelLayers(TowerPiece.StileOf(p.Request), TowerPiece.LayersOf(p)) + 1;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<Piece> Pieces(ITrialPlan plan) => ((TowerPlanV1)plan).Request.IsOwnModel ? [] : TowerPiece.PiecesOf((TowerPlanV1)plan);

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) =>
        $"{Say.N(((TowerPlanV1)plan).Request.HottestC ?? 0, 0)} {Say.N(((TowerPlanV1)plan).Request.CoolestC ?? 0, 0)}";

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(TowerRequest), typeof(TowerPlanAnswer), typeof(TowerDoor.EvaluateBody), typeof(TowerEvaluateAnswer));

    /// <inheritdoc/>
    public override object PlanAnswer(ITrialPlan p)
    {
        var plan = (TowerPlanV1)p;
        return new TowerPlanAnswer(
            plan.Sections, plan.LayersPerSection, plan.BaseLayers, plan.TotalLayers, plan.HeightMm, plan.StepC, plan.Slenderness, plan.Checkpoints,
            plan.WorstBoundaryErrorLayers, plan.Estimate, plan.Warnings, plan.Offers);
    }

    /// <inheritdoc/>
    public override IReadOnlyList<PlanPart> SheetParts(ITrialPlan plan) =>
        [
            .. ((TowerPlanV1)plan).Sections.Select(s => new PlanPart(
                s.Index, $"{Say.N(s.TemperatureC, 1)} °C", s.FirstLayer, s.LastLayer, (double?)s.FromZMm, (double?)s.ToZMm, (double)s.TemperatureC)),
        ];

    /// <inheritdoc/>
    public override IReadOnlyList<(string Name, IReadOnlyList<double?> Values)> Figures(ITrialPlan plan, TrialVerdict verdict) =>
        [("desirability", [.. ((TowerVerdict)verdict).Sections.Select(s => s.Desirability)])];

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door) => TowerDoor.Evaluate(door);

    /// <inheritdoc/>
    public override string Example =>
        """{"sections": [{"temperatureC": 230, "state": "judged", "scores": {"bridge": 1, "strings": 0}}, {"temperatureC": 220,""" +
            """ "state": "judged", "scores": {"bridge": 3, "strings": 2}}, {"temperatureC": 210, "state": "judged", "scores": {"bridge": 4,""" +
            """ "strings": 4}}, {"temperatureC": 200, "state": "judged", "scores": {"bridge": 2, "strings": 4}}, {"temperatureC": 190, "state": "failed"}]}""";

    /// <inheritdoc/>
    public override string PlanExample =>
        """{"hottestC": 230, "coolestC": 190, "stepC": 5, "sectionHeightMm": 10, "baseHeightMm": 1.2, "layerHeightMm": 0.2, "firstLayerHeightMm": 0.2}""";
}
