using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.QuickCheck;

/// <summary>Quick check: whether a new spool or colour still agrees with what was kept, from one wall and two posts.</summary>
public sealed class QuickCheckTrial : Trial<QuickCheckRequest, QuickCheckPlan, QuickCheckVerdict>
{
    /// <summary>Its kind, and its area of evidence.</summary>
    public const string Word = "quick-check";

    /// <summary>Begins the aspect of a wall: wallMm.1 at the front.</summary>
    public const string Wall = "wallMm.";

    /// <summary>Aspect of the strings between the posts.</summary>
    public const string Strings = "strings";

    /// <summary>The sides in the order in which they are read, as they stand seen from the front.</summary>
    public static IReadOnlyList<string> Sides => ["front", "right", "back", "left"];

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Quick check";

    /// <inheritdoc/>
    public override string Noun => "piece";

    /// <inheritdoc/>
    public override string PageFolder => "QuickCheck";

    /// <inheritdoc/>
    public override bool Suits(string family) => !family.StartsWith("foaming", StringComparison.Ordinal);

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => [Word];

    /// <inheritdoc/>
    public override IReadOnlyList<string> AlsoLeansOn => ["flow", "strings"];

    /// <inheritdoc/>
    public override bool AsksDryness => true;

    /// <inheritdoc/>
    public override bool AsksFlow => true;

    /// <inheritdoc/>
    public override bool LooksBack => true;

    /// <inheritdoc/>
    public override string Purpose => "A new spool or colour beside the kept run: one wall and two posts, a quarter of an hour.";

    private const string ThePiece = "The piece", TheKeptRun = "The kept run, to set it beside";

    /// <summary>Longer walls waste filament, mm.</summary>
    private const decimal MostWallMm = 120;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's, unless another one is held.", ThePiece),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", ThePiece),
        Number(
            r => r.WallMm, "Side of the walls", "mm", 15, MostWallMm, "shorter gives the calliper no straight, longer wastes filament", "Outside; one line thick.",
            ThePiece),
        Number(r => r.HeightMm, "Height", "mm", 4, 60, "lower can't be measured between two fingers, higher tells nothing more", "Above the plate.", ThePiece),
        Number(r => r.PostGapMm, "Between the posts", "mm", 4, 60, "strings show between 8 and 25 mm", "Where strings would show.", ThePiece),
        Number(
            r => r.Bands, "Bands to read", "", 1, 3, "four walls and one look at the strings in each",
            "Four walls and one look at the strings in each. The more, the less slips through.", ThePiece, whole: true),
        Number(
            r => r.TolerancePercent, "Wall may differ by", "%", 0.5m, 20, "finer can't be measured, coarser passes anything",
            "0.03 mm of filament are 3 % of flow: two sound spools differ as much.", ThePiece),
        Number(r => r.KeptWallMm, "Its wall", "mm", 0.05m, 20, "a wall of one line", "", TheKeptRun, false),
        Number(
            r => r.KeptWallHalfMm, "Known to ±", "mm", 0, 5, "how well the kept wall is known", "95 %. Empty: the kept wall is taken as exact.", TheKeptRun,
            false),
        Number(
            r => r.KeptStrings, "Its strings", "", 0, 4, "0 is unusable, 4 is clean",
            "Score of its piece, looked at now beside this one. Empty: strings are not compared, and this piece is what later ones are set beside.", TheKeptRun,
            false),
        Number(
            r => r.KeptScores, "From so many scores", "", 1, 100, "how many scores the kept mean is of", "One look is one score.", TheKeptRun, whole: true),
    ];

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) =>
        field switch
        {
            "layerHeightMm" when context.Machine is { } m => $"At most {Say.N(m.NozzleDiameterMm * 0.8)} mm with this nozzle.",
            "keptWallMm" => Reference(context, Proposal(context)) is { } kept
                ? $"From the first quick check that was made like this one: {kept.Name}."
                : context.KeptHalf.ContainsKey("extrusionMultiplier")
                    ? "No quick check was made like this one yet: the line that the kept multiplier should lay."
                    : "No quick check was made like this one yet, and no multiplier is kept from a run: measure the kept piece, or leave it empty.",
            _ => base.HelpOf(field, context),
        };

    /// <summary>What describes the kept run says how this one is judged, not how it is made.</summary>
    public override string? FactorOf(string field) => field.StartsWith("kept", StringComparison.Ordinal) || field == "bands" ? null : base.FactorOf(field);

    /// <summary>The first quick check of the pairing that was made as this one is to be: later ones are no reference, or a slow drift would pass.</summary>
    private static EarlierRun? Reference(PlanContext c, QuickCheckRequest r) => c.Earlier.FirstOrDefault(e =>
        e.Plan is QuickCheckPlan p && p.Request.NozzleTemperatureC == r.NozzleTemperatureC && p.Request.LayerHeightMm == r.LayerHeightMm
        && p.Request.PostGapMm == r.PostGapMm && Math.Abs(p.LineWidthMm - Width(c)) < 0.005
        && Walls(p, e.Readings).Count >= QuickCheckJudging.LeastWalls && Scores(p, e.Readings).Count > 0);

    private static double Width(PlanContext c) => c.Settings?.LineWidthMm ?? (c.Machine?.NozzleDiameterMm ?? 0.4) * 1.1;

    private static IReadOnlyList<double> Walls(QuickCheckPlan p, RunReadings readings) =>
        [.. from band in Enumerable.Range(0, (int)p.Request.Bands) from side in Enumerable.Range(1, Sides.Count)
            let mm = readings.Value(band, $"{Wall}{side}") where mm is not null select mm.Value];

    private static IReadOnlyList<double> Scores(QuickCheckPlan p, RunReadings readings) =>
        [.. Enumerable.Range(0, (int)p.Request.Bands).Select(band => readings.Value(band, Strings)).OfType<double>()];

    /// <inheritdoc/>
    protected override QuickCheckRequest Proposal(PlanContext c)
    {
        var size = new CheckPieceSize();
        var width = Width(c);
        var r = new QuickCheckRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : (c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 3),
            WallMm = (decimal)size.WallMm,
            HeightMm = (decimal)size.HeightMm,
            PostGapMm = (decimal)size.PostGapMm,
        };
        if (Reference(c, r) is { Plan: QuickCheckPlan p } before)
        {
            var (wall, scores) = (Measured.Of(Walls(p, before.Readings), 0.01), Scores(p, before.Readings));
            return r with
            {
                KeptWallMm = (decimal)Math.Round(wall.Mean, 4),
                KeptWallHalfMm = (decimal)Math.Round(wall.HalfWidth, 4),
                KeptStrings = (decimal)Math.Round(scores.Average(), 2),
                KeptScores = scores.Count,
            };
        }

        // A multiplier that nobody measured promises no wall: then the field stays empty.
        return c.KeptHalf.TryGetValue("extrusionMultiplier", out var half) && c.Kept.TryGetValue("extrusionMultiplier", out var multiplier)
            ? r with { KeptWallMm = (decimal)Math.Round(width, 3), KeptWallHalfMm = (decimal)Math.Round(width * half / multiplier, 4) }
            : r;
    }

    /// <summary>It goes from spool to spool on purpose.</summary>
    protected override IEnumerable<string> SetAside(QuickCheckPlan plan) => [FactorRegistry.Spool];

    /// <inheritdoc/>
    protected override QuickCheckRequest RequestOf(QuickCheckPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<QuickCheckPlan> Plan(QuickCheckRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (r.HeightMm < 10 * r.LayerHeightMm * r.Bands)
            errors.Add(new("heightMm", $"{Say.N(r.HeightMm)} mm are fewer than ten layers a band: at least {Say.N(10 * r.LayerHeightMm * r.Bands, 1)} mm."));
        if (errors.Count > 0)
            return errors;
        var plan = new QuickCheckPlan
        {
            Request = r,
            LineWidthMm = Width(c),
            NozzleMm = c.Machine?.NozzleDiameterMm ?? 0.4,
            PlateLayers = CheckPiece.PlateLayers((double)r.LayerHeightMm, c.Machine?.NozzleDiameterMm ?? 0.4),
            Estimate = new((int)Math.Ceiling((double)(4 * r.WallMm * r.HeightMm / r.LayerHeightMm) / 25 / 60) + 4, Math.Round((double)r.WallMm * 0.15, 1), 0),
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)],
        };
        return plan;
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(QuickCheckPlan plan, PieceMemory memory) =>
        [CheckPiece.Build(plan.Size, new() { LineWidthMm = plan.LineWidthMm, NozzleDiameterMm = plan.NozzleMm }, memory)];

    /// <inheritdoc/>
    protected override Made<QuickCheckPlan> Make(QuickCheckPlan plan, PlanContext c)
    {
        if (CheckPiece.Check(plan.Size, c.Settings!) is { Count: > 0 } wrong)
            return new(plan, null, wrong);
        var r = plan.Request;
        var p = plan with { LineWidthMm = c.Settings!.LineWidthMm, NozzleMm = c.Machine!.NozzleDiameterMm };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"quick check, {c.Subject}",
                    $"walls of one line, {Say.N(r.WallMm)} mm outside, posts {Say.N(r.PostGapMm)} mm apart, {Say.N(r.LayerHeightMm)} mm layers",
                ],
            },
            c.Machine, c.Settings, c.Memory);
        return job is null
            ? new(plan, null, [.. errors.Select(e => e.Field == "pieceDepthMm" ? e with { Field = "wallMm" } : PieceFields.At(e))])
            : new(
                p with
                {
                    Estimate = PieceFields.EstimateOf(job),
                    Warnings = [.. plan.Warnings, .. job.Warnings],
                    Offers = [.. plan.Offers, .. PieceFields.Roomier(job, "wallMm", "walls", r.WallMm, MostWallMm)],
                },
                job, []);
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(QuickCheckPlan plan)
    {
        var wall = new Quantity("Wall", "mm", 0.05m, Math.Round((decimal)(5 * plan.LineWidthMm), 2), "a wall of one line");
        var plausible = (0.6 * plan.LineWidthMm, 1.5 * plan.LineWidthMm);
        return new(
            [.. ((ITrialPlan)plan).Parts.Select(p => new GridRow(p.Index, p.Label))],
            [
                .. Sides.Select((side, i) => new GridColumn($"{Wall}{i + 1}", side, CellKind.Number)
                {
                    Quantity = wall, Resolution = 0.01, Digits = 3, Plausible = plausible, Lead = $"wall at the {side}",
                }),
                new GridColumn(Strings, "strings", CellKind.Score) { Anchors = ScoreAnchors.Strings },
            ])
        {
            Across = true, RowHead = "Band",
        };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect == Strings || aspect is [.. Wall, >= '1' and <= '4'];

    /// <inheritdoc/>
    protected override string Extent(QuickCheckPlan plan) => Say.Plural((int)plan.Request.Bands, "band");

    /// <inheritdoc/>
    public override QuickCheckVerdict Judge(QuickCheckPlan plan, RunReadings readings, JudgeContext c)
    {
        var r = plan.Request;
        return QuickCheckJudging.Judge(new()
        {
            WallMm = Walls(plan, readings),
            Strings = Scores(plan, readings),
            KeptWallMm = (double?)r.KeptWallMm,
            KeptWallHalfMm = (double?)r.KeptWallHalfMm,
            KeptStrings = (double?)r.KeptStrings,
            KeptScores = (int)r.KeptScores,
            TolerancePercent = (double)r.TolerancePercent,
            ResolutionMm = readings.Resolution([.. Sides.Select((_, i) => $"{Wall}{i + 1}")], 0.01),
            ScoreNoise = c.ScoreNoise,
        });
    }

    /// <inheritdoc/>
    protected override AreaFinding? Finding(QuickCheckVerdict verdict) => verdict.Outcome switch
    {
        QuickCheckOutcome.Passed => new(Word, true, [], true),
        QuickCheckOutcome.Differs => new(Word, false, verdict.Doubts, true),
        _ => null,
    };

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(QuickCheckReadings);

    /// <inheritdoc/>
    protected override QuickCheckVerdict? Answer(JsonFields json)
    {
        var readings = new QuickCheckReadings
        {
            WallMm = [.. json.Values("wallMm").Select(v => (double)v)],
            Strings = [.. json.Values("strings").Select(v => (double)v)],
            KeptWallMm = (double?)json.Number("keptWallMm"),
            KeptWallHalfMm = (double?)json.Number("keptWallHalfMm"),
            KeptStrings = (double?)json.Number("keptStrings"),
            KeptScores = json.Whole("keptScores", 1, 100) ?? 1,
            TolerancePercent = (double)(json.Number("tolerancePercent") ?? 3),
            ResolutionMm = (double)(json.Number("resolutionMm") ?? 0.01m),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
        };
        if (json.Errors.Count == 0)
            json.Take(QuickCheckJudging.Check(readings));
        return json.Errors.Count > 0 ? null : QuickCheckJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"wallMm": [0.45, 0.44, 0.45, 0.46], "strings": [3], "keptWallMm": 0.447, "keptWallHalfMm": 0.006, "keptStrings": 3.5, "keptScores": 2}""";
}
