using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.LayerTime;

/// <summary>Layer time in steps: the shortest least layer time at which a thin column keeps its corners and walls.</summary>
public sealed class LayerTimeTrial : Trial<LayerTimeRequest, LayerTimePlan, LayerTimeVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "layer-time";

    /// <summary>Aspects of looks, the bond by hand, and by a rig.</summary>
    public const string Corners = "corners", Walls = "walls", Bond = "bond", Force = "force";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Layer time in steps";

    /// <inheritdoc/>
    public override string Noun => "column";

    /// <inheritdoc/>
    public override string PageFolder => "LayerTime";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["minLayerTimeS"];

    /// <summary>It is done where small parts come out soft, or take too long: no step of every route.</summary>
    public override bool IsOnRoute => false;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["layer-time"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["temperature", "cooling"];

    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override string Purpose => "The shortest least layer time at which thin parts keep sharp corners and even walls: no minute more is waited for.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions => BondBeside.Cautions;

    private const string TheTimes = "The times", ThePiece = "The piece";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.LongestS, "Longest, at the bottom", "s", 1, 120, "below a second nothing is slowed, above two minutes the nozzle drips",
            "What is too hot spoils only what is above it.", TheTimes),
        Number(r => r.ShortestS, "Shortest, at the top", "s", 1, 120, "below a second nothing is slowed, above two minutes the nozzle drips",
            "A column thin enough for the longest lasts about a third of it unslowed: shorter is not to be had.", TheTimes),
        Number(r => r.StepS, "Step", "s", 0.5m, 30, "less changes nothing that anybody sees", "", TheTimes),
        Number(r => r.Margin, "Margin", "scores", 0.1m, 2, "0.5 is usual", "So far behind the best is about as good: the shorter time is taken.", TheTimes),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's: how fast a layer sets belongs to its temperature and its fan.", ThePiece),
        Number(r => r.SectionHeightMm, "Height of a section", "mm", 4, 30, "lower shows no wall", "", ThePiece),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePiece),
    ];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(LayerTimePlan plan) => ["longestS", "shortestS", "stepS", "minLayerTimeS"];

    /// <inheritdoc/>
    protected override LayerTimeRequest Proposal(PlanContext c)
    {
        // As wide a range as one column shows: from what it lasts unslowed to what it can be slowed to.
        var (s, usual) = (c.Settings ?? new PrintSettings(), new LayerTimeRequest());
        var height = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3);
        var column = new LayerTimePlan
        {
            Request = usual with { LayerHeightMm = height }, SideMm = TimedColumn.SideFor((double)usual.LongestS, s), Estimate = new(0, null, 0),
        }.Column;
        var least = Math.Ceiling((decimal)(1.04 * column.UnslowedS(s, c.Memory)) * 2) / 2;
        var shortest = Math.Clamp(least, 2, usual.LongestS - 2);
        var step = Math.Max(0.5m, Math.Floor((usual.LongestS - shortest) / 4 * 2) / 2);
        return new()
        {
            ShortestS = shortest, LongestS = shortest + 4 * step, StepS = step,
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = height,
        };
    }

    /// <inheritdoc/>
    protected override LayerTimeRequest RequestOf(LayerTimePlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<LayerTimePlan> Plan(LayerTimeRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (r.LongestS <= r.ShortestS)
            errors.Add(new("longestS", $"{Say.N(r.LongestS)} s is not above the shortest, {Say.N(r.ShortestS)} s."));
        if (errors.Count > 0)
            return errors;
        var s = c.Settings ?? new PrintSettings();
        var plan = new LayerTimePlan
        {
            Request = r, SideMm = TimedColumn.SideFor((double)r.LongestS, s), InForceS = c.Settings?.MinLayerTimeS, Estimate = new(0, null, 0),
        };
        var count = plan.Times.Count;
        if (count is < 3 or > 9)
        {
            var step = Math.Max(0.5m, Math.Round((r.LongestS - r.ShortestS) / 4, 1));
            errors.Add(new(
                "stepS", $"{Say.Plural(count, "section")} {(count < 3 ? "can't show a shortest time" : "stand too tall")}: 3 to 9 would be right.",
                r.LongestS - r.ShortestS >= 1 ? [new($"by {Say.N(step)} s", new Dictionary<string, decimal> { ["stepS"] = step })] : []));
        }

        var l = plan.Column.Layers;
        if (l.LayersPerSection < TimedColumn.GrooveLayers + 5)
            errors.Add(new("sectionHeightMm", $"{Say.Plural(l.LayersPerSection, "layer")} show no wall above the groove: ten or more would be right."));
        if (plan.SideMm >= TimedColumn.MostMm)
            errors.Add(new("longestS", $"A column that lasts {Say.N(r.LongestS)} s at {Say.N(s.MinPrintSpeedMmPerS)} mm/s would be no thin one."));
        else if (errors.Count == 0 && plan.Column.UnslowedS(s, c.Memory) is var unslowed && unslowed > 1.02 * (double)r.ShortestS)
            errors.Add(TooLong(r, unslowed, s));
        if (errors.Count > 0)
            return errors;
        var volume = count * plan.Column.SectionVolumeMm3 + plan.Column.FootVolumeMm3;
        return plan with
        {
            Estimate = new(
                (int)Math.Ceiling(plan.Times.Sum() * l.LayersPerSection / 60) + 3, Math.Round(volume / 1000 * (c.DensityGPerCm3 ?? 1.2), 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
    }

    /// <summary>A column that is thick enough for the longest time lasts longer than the shortest one without being slowed.</summary>
    private static FieldError TooLong(LayerTimeRequest r, double unslowedS, PrintSettings s)
    {
        var least = Math.Ceiling((decimal)unslowedS * 2) / 2;
        return new(
            "shortestS",
            $"A column that can be slowed to {Say.N(r.LongestS)} s at {Say.N(s.MinPrintSpeedMmPerS)} mm/s lasts {Say.N(unslowedS, 1)} s at the speeds in " +
                $"force: {Say.N(r.ShortestS)} s can't be tried with it.",
            least < r.LongestS - 1 ? [new($"from {Say.N(least)} s", new Dictionary<string, decimal> { ["shortestS"] = least })] : []);
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(LayerTimePlan plan, PieceMemory memory) => [plan.Piece(memory)];

    /// <inheritdoc/>
    protected override Made<LayerTimePlan> Make(LayerTimePlan plan, PlanContext c)
    {
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(plan, c.Memory), Temperatures = [new(0, 1, (double)plan.Request.NozzleTemperatureC, "all of it")],
                PlanLines =
                [
                    $"layer time in steps, {c.Subject}", $"least layer time {string.Join(", ", plan.Times.Select(t => Say.N(t)))} s from the bottom up",
                ],
            },
            c.Machine!, c.Settings!, c.Memory);
        if (job is null)
        {
            return new(plan, null, [.. errors.Select(e => e.Field switch
            {
                "pieceDepthMm" => e with { Field = "longestS", Offers = [] },
                "lineWidthMm" => e with { Field = "layerHeightMm", Offers = [] },
                _ => e with { Offers = [] },
            })]);
        }

        // What corners and travels take as well is known now: each section must be slowed, and be able to be.
        var timed = job.Layers.Where(l => l.LeastTimeS is not null).ToList();
        if (timed.Where(l => l.Slowed >= PieceJob.NotSlowed && l.Seconds > 1.03 * l.LeastTimeS).Select(l => (double?)l.Seconds).Max() is { } unslowed)
            return new(plan, null, [TooLong(plan.Request, unslowed, c.Settings!)]);
        if (timed.Find(l => l.TooShort && l.Seconds < 0.85 * l.LeastTimeS) is { } hasty)
        {
            return new(plan, null, [new(
                "longestS",
                $"Even at {Say.N(c.Settings!.MinPrintSpeedMmPerS)} mm/s a layer lasts {Say.N(hasty.Seconds, 1)} s and not {Say.N(hasty.LeastTimeS!.Value)}.")]);
        }

        return new(
            plan with
            {
                Estimate = PieceFields.EstimateOf(job),
                Warnings = [.. plan.Warnings, .. job.Warnings],
                SpeedsMmPerS = [.. timed.GroupBy(l => l.Section).OrderBy(g => g.Key).Select(g => Math.Round(g.Last().SlowestMmPerS ?? 0, 1))],
            },
            job, []);
    }

    /// <inheritdoc/>
    protected override int FirstLook(LayerTimePlan plan) => Math.Min(plan.Column.Layers.Total, plan.Column.Layers.BaseLayers + 3);

    /// <inheritdoc/>
    protected override string FileWords(LayerTimePlan plan) => $"layer time {Say.N(plan.Times[0])} to {Say.N(plan.Times[^1])} s";

    /// <inheritdoc/>
    protected override string Basis(LayerTimePlan plan) => $"one column at {Say.N(plan.Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (LayerTimePlan)plan;
        return p.Request.LayerHeightMm <= 0 || p.Request.SectionHeightMm <= 0 ? "plan has no layer height"
            : !(p.SideMm is >= TimedColumn.LeastMm and <= TimedColumn.MostMm) ? "plan has no column"
            : p.Request.SectionHeightMm / p.Request.LayerHeightMm * 41 > PlanBounds.MostLayers ? "plan has too many layers"
            : base.Faults(plan);
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(LayerTimePlan plan) => new(
        [.. ((ITrialPlan)plan).Parts.Select(p => new GridRow(p.Index, p.Label)).Reverse()],
        [
            new GridColumn(Corners, "corners", CellKind.Score) { Anchors = ScoreAnchors.Corners },
            new GridColumn(Walls, "walls", CellKind.Score) { Anchors = ScoreAnchors.Walls },
            new GridColumn(Bond, "bond, by hand", CellKind.Score, false) { Anchors = ScoreAnchors.Bond },
            new GridColumn(Force, "bond, N", CellKind.Number, false) { Quantity = LeastLevel.ForceN, Resolution = 0.1, Digits = 2, Lead = "force" },
            new GridColumn(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
        ]);

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Corners or Walls or Bond or Force;

    private IEnumerable<LayerTimePoint> Points(LayerTimePlan p, RunReadings read)
    {
        var states = States(p, read);
        for (var i = 0; i < p.Times.Count; i++)
        {
            if (states[i] == SectionState.Lost)
                continue;
            double[] Of(params string[] aspects) => [.. aspects.Select(a => read.Value(i, a)).OfType<double>()];
            var looks = states[i] == SectionState.Failed ? [0] : Of(Corners, Walls);
            if (looks.Length > 0)
                yield return new(p.Times[i], looks, Of(Bond)) { Forces = [.. Of(Force).Where(n => n > 0)] };
        }
    }

    /// <inheritdoc/>
    public override LayerTimeVerdict Judge(LayerTimePlan plan, RunReadings readings, JudgeContext context)
    {
        List<LayerTimePoint> points = [.. Points(plan, readings)];
        foreach (var (before, read) in context.Earlier)
        {
            if (before is LayerTimePlan q && q.Request.NozzleTemperatureC == plan.Request.NozzleTemperatureC)
                points.AddRange(Points(q, read));
        }

        var from = new LayerTimeReadings
        {
            Points = points, Margin = (double)plan.Request.Margin, ScoreNoise = context.ScoreNoise, InForceS = plan.InForceS is > 0 ? plan.InForceS : null,
        };
        if (points.Select(p => p.Seconds).Distinct().Count() < 3)
            return new() { Outcome = LayerTimeOutcome.Insufficient, From = from, Advised = false };
        var v = LayerTimeJudging.Judge(from);
        return v is { Next: { Trial: not null } next } ? v with { Next = next.Costing(plan.Estimate, 1) } : v;
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(LayerTimePlan plan, LayerTimeVerdict v)
    {
        if (v.Times.Count == 0)
            return null;
        var (bond, bondSaid) = BondBeside.Line(v.Times, v.Bond, v.Forces);
        return new(
            "Least layer time, s", "mean score, 0–4",
            [
                .. v.Times.Select((t, i) => new ChartPoint(
                    t, v.Looks[i], Math.Max(0, v.Looks[i] - v.Halves[i]), Math.Min(4, v.Looks[i] + v.Halves[i]), v.AsGood.Contains(t) ? "best" : "")),
            ])
        {
            Line = v.Curve.Count == v.Times.Count ? [.. v.Times.Zip(v.Curve)] : [],
            // Looks and strength over one axis.
            OtherLine = bond,
            Legend = bond.Count > 1 ? ["diamonds and line: corners and walls", bondSaid] : [],
            Band = v.AsGood.Count > 0 ? (v.AsGood.Min(), v.AsGood.Max()) : null,
            Chosen = v.Seconds,
            Summary = v.Sentence,
        };
    }

    /// <inheritdoc/>
    protected override string? FoundWith(LayerTimePlan plan, string key) =>
        $"{Say.N(plan.Request.NozzleTemperatureC)} °C, a column of {Say.N(plan.SideMm)} mm";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(IReadOnlyList<BodyPoint> Points, double? Margin, double? ScoreNoise, double? InForceS);

    /// <summary>A section of the body.</summary>
    public sealed record BodyPoint(double Seconds, double? Corners, double? Walls, double? Bond, double? ForceN);

    /// <inheritdoc/>
    protected override LayerTimeVerdict? Answer(JsonFields json)
    {
        static IEnumerable<double> One(decimal? v) => v is { } d ? [(double)d] : [];
        var readings = new LayerTimeReadings
        {
            Points =
            [
                .. (json.List("points", true) ?? []).Select(p => new LayerTimePoint(
                    (double)(p.Number("seconds", true) ?? 0), [.. One(p.Number("corners")), .. One(p.Number("walls"))], [.. One(p.Number("bond"))])
                {
                    Forces = [.. One(p.Number("forceN"))],
                }),
            ],
            Margin = (double)(json.Number("margin") ?? 0.5m),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            InForceS = (double?)json.Number("inForceS"),
        };
        if (json.Errors.Count == 0)
            json.Take(LayerTimeJudging.Check(readings));
        return json.Errors.Count > 0 ? null : LayerTimeJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"points": [{"seconds": 4, "corners": 1, "walls": 2}, {"seconds": 6, "corners": 3, "walls": 3}, {"seconds": 8, "corners": 4, "walls": 4},""" +
            """ {"seconds": 10, "corners": 4, "walls": 4}, {"seconds": 12, "corners": 4, "walls": 4}], "inForceS": 10}""";
}
