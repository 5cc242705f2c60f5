using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.WallFlow;

/// <summary>Wall flow: the multiplier from the thickness of a single wall.</summary>
public sealed class WallFlowTrial : Trial<WallRequest, WallPlan, WallVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "wall-flow";

    /// <summary>Begins the aspect of a wall's thickness: wallMm.1 at the lowest marks.</summary>
    public const string Wall = "wallMm.";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Wall flow";

    /// <inheritdoc/>
    public override string Noun => "piece";

    /// <inheritdoc/>
    public override string PageFolder => "WallFlow";

    /// <inheritdoc/>
    public override bool Suits(string family) => !family.StartsWith("foaming", StringComparison.Ordinal);

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["extrusionMultiplier"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["flow"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(WallPlan plan) => ["extrusionMultiplier"];

    /// <inheritdoc/>
    protected override string? FoundWith(WallPlan plan, string key) =>
        key == "extrusionMultiplier" ? $"{plan.Request.Area} beads, {Say.N(plan.Request.LayerHeightMm, 3)} mm layers" : null;

    /// <inheritdoc/>
    public override string Purpose => "Multiplier from the thickness of a single wall, read with a calliper.";

    private const string TheWall = "The wall", ThePiece = "The piece";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.TargetWidthMm, "Line width", "mm", 0.1m, 3m, "no nozzle lays such a line", "From the profile: as the slicer will lay it.", TheWall),
        Number(
            r => r.ExtrusionMultiplier, "Extrusion multiplier", "", 0.3m, 1.5m, "beyond that the feed or the width is wrong, not the flow",
            "As it stands now; flow in per cent ÷ 100.", TheWall),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", TheWall),
        Number(
            r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's, unless another one is held: flow belongs to its temperature.", TheWall),
        Number(
            r => r.TolerancePercent, "Tolerance", "%", 0.5m, 10, "finer can't be measured, coarser keeps anything",
            "How far the wall may be off and still be right. Proposed: what that many readings can tell of a wall this thin.", TheWall),
        OneOf(
            r => r.Area, "Area model", "As your slicer reckons a line. Both are shown; the check piece settles which.", TheWall,
            ("rectangular", "rectangle"), ("stadium", "half-round ends")),
        Number(
            r => r.ResidualFlowPercent, "Flow override in the start code", "%", 10, 300, "what an override leaves, 100 for none", "", TheWall, false),
        OneOf(
            r => r.Override, "In real prints it", "Correcting in both places would correct twice.", TheWall, FlowOverride.Answers),
        Number(r => r.SideMm, "Side", "mm", 20, 150, "shorter gives the calliper no straight, longer wastes filament", "", ThePiece),
        Number(
            r => r.HeightMm, "Height", "mm", 5, 60, "lower can't be measured between two fingers, higher tells nothing more", "Whole layers.", ThePiece),
        Number(
            r => r.ReadingHeights, "Heights to read", "", 1, 4, "four sides at each; one is the least",
            "Four sides at each. The more places, the narrower the tolerance that can be told.", ThePiece, whole: true),
        Tick(r => r.Brim, "With a brim", "", ThePiece),
        Tick(r => r.Check, "A check of a multiplier just found", "", ThePiece),
    ];

    /// <inheritdoc/>
    public override bool IsShown(string field, PlanContext context) => FlowOverride.IsShown(field, context);

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) =>
        field switch
        {
            "layerHeightMm" when context.Machine is { } m => $"At most {Say.N(m.NozzleDiameterMm * 0.8)} mm with this nozzle.",
            "targetWidthMm" when context.Diameter is { } d =>
                $"{base.HelpOf(field, context)} This spool measures {Say.N(d.MeanMm, 3)} mm, spread {Say.N(d.SpreadMm, 3)}.",
            _ => FlowOverride.HelpOf(field, context) ?? base.HelpOf(field, context),
        };

    /// <inheritdoc/>
    protected override WallRequest Proposal(PlanContext c)
    {
        var (nozzle, scale) = (c.Machine?.NozzleDiameterMm ?? 0.4, (c.Machine?.NozzleDiameterMm ?? 0.4) / 0.4);
        var proposal = new WallRequest
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
            ExtrusionMultiplier = (decimal)Math.Round(c.Settings?.ExtrusionMultiplier ?? 1, 3),
            TargetWidthMm = (decimal)Math.Round(c.Settings?.LineWidthMm ?? nozzle * 1.1, 3),
            LayerHeightMm = (decimal)Math.Round(c.Kept.TryGetValue("layerHeightMm", out var h) ? h : nozzle / 2, 3),
            SideMm = (decimal)Math.Max(40, Math.Round(30 * scale)),
            ResidualFlowPercent = (decimal)(FlowOverride.In(c.Machine) ?? 100),
        };
        var layer = proposal.LayerHeightMm;
        return proposal with { TolerancePercent = Told(proposal), HeightMm = layer > 0 ? Math.Round(proposal.HeightMm / layer) * layer : proposal.HeightMm };
    }

    /// <inheritdoc/>
    protected override WallRequest RequestOf(WallPlan plan) => plan.Request;

    /// <summary>
    /// The narrowest tolerance, %, at which as many readings as these nearly always tell keep from adjust: twice their usual interval, up to the next half.
    /// </summary>
    private static decimal Told(WallRequest r) =>
        Math.Max(2, Math.Ceiling((decimal)(2 * WallJudging.UsualHalfPercent((double)r.TargetWidthMm, 4 * (int)r.ReadingHeights)) * 2) / 2);

    /// <inheritdoc/>
    public override Planned<WallPlan> Plan(WallRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, r.TargetWidthMm);
        FlowOverride.Ask(errors, c, r.Override);
        var (left, answer) = FlowOverride.Settled(c, r.ResidualFlowPercent, r.Override);
        r = r with { ResidualFlowPercent = left, Override = answer };
        var layers = (int)Math.Round(r.HeightMm / r.LayerHeightMm);
        if (r.HeightMm % r.LayerHeightMm != 0)
        {
            var whole = layers * r.LayerHeightMm;
            errors.Add(
                new(
                    "heightMm", $"{Say.N(r.HeightMm)} mm is no whole number of layers of {Say.N(r.LayerHeightMm, 3)} mm. {Say.N(whole, 3)} mm would be right.",
                    [new($"{Say.N(whole, 3)} mm", new Dictionary<string, decimal> { ["heightMm"] = whole })]));
        }

        if (errors.Count > 0)
            return errors;
        var heights = Enumerable.Range(1, (int)r.ReadingHeights)
            .Select(i =>
                Math.Round(r.HeightMm * (0.25m + 0.55m * (r.ReadingHeights == 1 ? 0.5m : (i - 1) / (r.ReadingHeights - 1))) / r.LayerHeightMm) * r.LayerHeightMm
            ).ToList();
        return new WallPlan
        {
            Request = r, Layers = layers, HeightsMm = heights,
            Estimate = new(
                (int)Math.Ceiling((double)(4 * r.SideMm) * layers / 30 / 60),
                Math.Round((double)(4 * r.SideMm * r.TargetWidthMm * r.HeightMm) * 1.24 / 1000, 1), 0),
            MeasuredDiameterMm = c.Diameter?.MeanMm,
            Warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC), .. PieceFields.DiameterAdvice(c), .. Narrow(r)],
        };
    }

    private static IEnumerable<PlanWarning> Narrow(WallRequest r)
    {
        var half = WallJudging.UsualHalfPercent((double)r.TargetWidthMm, 4 * (int)r.ReadingHeights);
        if (half >= (double)r.TolerancePercent)
            yield return new(
                PlanWarningKind.FineTolerance, (double)(4 * r.ReadingHeights), (double)r.TargetWidthMm, half, (double)r.TolerancePercent,
                Math.Ceiling(4 * half) / 2);
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<Piece> Pieces(WallPlan p, PieceMemory memory)
    {
        var r = p.Request;
        var marks = p.HeightsMm.SelectMany(h => new[] { (int)Math.Round(h / r.LayerHeightMm), (int)Math.Round(h / r.LayerHeightMm) + 1 }).ToList();
        return [MarkedWall.Build(new((double)r.SideMm, (double)r.LayerHeightMm, [p.Layers], (double)r.TargetWidthMm, p.NozzleMm, marks), "Marked wall", [], memory)];
    }

    /// <inheritdoc/>
    protected override Made<WallPlan> Make(WallPlan plan, PlanContext c)
    {
        var p = plan with { NozzleMm = c.Machine!.NozzleDiameterMm };
        var r = p.Request;
        var s = c.Settings! with
        {
            LineWidthMm = (double)r.TargetWidthMm,
            ExtrusionMultiplier = (double)r.ExtrusionMultiplier,
            Bead = r.Area == "stadium" ? BeadModel.Stadium : BeadModel.Rectangular,
            Walls = 1,
            BrimWidthMm = r.Brim ? Math.Max(4, c.Settings!.BrimWidthMm) : 0,
        };
        var (job, errors) = PieceJob.Make(
            new JobRequest
            {
                Pieces = Pieces(p, c.Memory), Temperatures = [new(0, 1, (double)r.NozzleTemperatureC, "all of it")], PlanLines =
                [
                    $"wall flow, {c.Subject}",
                    $"square of single walls, {Say.N(r.SideMm)} mm, wall {Say.N(r.TargetWidthMm, 3)} mm at multiplier {Say.N(r.ExtrusionMultiplier, 3)}, " +
                        $"read at {string.Join(" and ", p.HeightsMm.Select(h => Say.N(h)))} mm",
                ],
            },
            c.Machine!, s, c.Memory);
        if (job is null)
            return new(plan, null, [.. errors.Select(PieceFields.At)]);
        var (feed, length) = LaidIn(job);
        return new(p with
        {
            FeedPerMm = feed / length,
            FileDiameterMm = s.FilamentDiameterMm,
            Estimate = PieceFields.EstimateOf(job),
            Warnings = [.. plan.Warnings, .. job.Warnings],
            Offers = [.. plan.Offers, .. PieceFields.Roomier(job, "sideMm", "a side", r.SideMm, 150)],
        }, job, []);
    }

    /// <summary>Filament fed and length laid in the walls of a job, mm: the file's own figures.</summary>
    public static (double FeedMm, double LengthMm) LaidIn(PieceJob job)
    {
        var (feed, length, x, y) = (0.0, 0.0, double.NaN, double.NaN);
        foreach (var layer in job.Layers)
        {
            foreach (var m in layer.Moves)
            {
                if (m is { Kind: MoveKind.Extrude, Role: PathRole.OuterWall })
                {
                    feed += m.E;
                    length += Math.Sqrt((m.X - x) * (m.X - x) + (m.Y - y) * (m.Y - y));
                }

                if (m.Kind is not (MoveKind.Fan or MoveKind.Wait))
                    (x, y) = (m.X, m.Y);
            }
        }

        return (feed, length);
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(WallPlan p)
    {
        var width = (double)p.Request.TargetWidthMm;
        return new([.. ((ITrialPlan)p).Parts.Select(x => new GridRow(x.Index, x.Label, Say.Plural(x.Index + 1, "bump")))],
            [.. p.HeightsMm.Select((h, i) => Column(i + 1, $"at {Say.N(h)} mm", true, width)),
                .. Enumerable.Range(p.HeightsMm.Count + 1, More).Select(i => Column(i, i == p.HeightsMm.Count + 1 ? "between" : "and again", false, width))])
        { Across = true, RowHead = "Side", ManyColumns = p.HeightsMm.Count + More > 4 };
    }

    /// <summary>Places of each side beside the planned ones, for a verdict that asks for more.</summary>
    public const int More = 2;

    private static GridColumn Column(int n, string label, bool wanted, double width) =>
        new($"{Wall}{n}", label, CellKind.Number, wanted)
        {
            Quantity = new("Wall", "mm", 0.05m, Math.Round((decimal)(5 * width), 2), "a wall of one line"),
            Resolution = 0.01, Digits = 3, Plausible = (0.6 * width, 1.5 * width),
            Lead = $"wall {label}",
        };

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override string Extent(WallPlan plan) => Say.Plural(plan.HeightsMm.Count * 4, "place");

    /// <inheritdoc/>
    protected override string Basis(WallPlan plan) => plan.Request.Check ? "one run and its check piece" : "one wall, no check piece yet";

    /// <inheritdoc/>
    protected override int FirstLook(WallPlan plan) => (int)Math.Round(plan.HeightsMm[0] / plan.Request.LayerHeightMm);

    /// <inheritdoc/>
    protected override string FileWords(WallPlan plan) => $"{Say.N(plan.Request.TargetWidthMm)} at {Say.N(plan.Request.ExtrusionMultiplier, 3)}";

    /// <inheritdoc/>
    protected override IReadOnlyCollection<(int Section, string Aspect)> Apart(WallPlan plan, WallVerdict verdict, RunReadings readings)
    {
        var outliers = verdict.Outliers;
        return [.. Read(readings, Grid(plan)).Where((_, i) => i < outliers.Count && outliers[i]).Select(x => (x.Section, x.Aspect))];
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(WallPlan plan, WallVerdict verdict) =>
        verdict is { ReadMm.Count: > 0 } v
            ? new("Reading", "Wall, mm", [.. v.ReadMm.Select((mm, i) => new ChartPoint(i + 1, mm, null, null, v.Outliers[i] ? "out" : ""))])
            {
                Good = (
                    v.ExpectedMm * (1 - (double)plan.Request.TolerancePercent / 100),
                    v.ExpectedMm * (1 + (double)plan.Request.TolerancePercent / 100)),
                Line = v is { MeanMm: { } mean } ? [(0.5, mean), (v.ReadMm.Count + 0.5, mean)] : [], WholeX = true, Summary = verdict.Sentence,
            }
            : null;

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) =>
        aspect.StartsWith(Wall, StringComparison.Ordinal)
        && int.TryParse(aspect.AsSpan(Wall.Length), System.Globalization.CultureInfo.InvariantCulture, out var n)
        && n is >= 1 and <= 9;

    /// <summary>The readings in the order of the grid: which cell each number stands in.</summary>
    public static IReadOnlyList<(int Section, string Aspect, double Mm)> Read(RunReadings readings, ReadingGrid grid) =>
        [
            .. grid.Rows.SelectMany(row => grid.Columns.Select(c => (row.Section, c.Aspect, Value: readings.Value(row.Section, c.Aspect))))
                .Where(c => c.Value is not null).Select(c => (c.Section, c.Aspect, c.Value!.Value)),
        ];

    /// <inheritdoc/>
    public override WallVerdict Judge(WallPlan p, RunReadings readings, JudgeContext c)
    {
        var (r, grid) = (p.Request, Grid(p));
        return WallJudging.Judge(new()
        {
            ExtrusionMultiplier = (double)r.ExtrusionMultiplier,
            TargetWidthMm = (double)r.TargetWidthMm,
            ReadingsMm = [.. Read(readings, grid).Select(x => x.Mm)],
            ResolutionMm = readings.Resolution([.. grid.Columns.Select(x => x.Aspect)], 0.01),
            TolerancePercent = (double)r.TolerancePercent,
            LayerHeightMm = (double)r.LayerHeightMm,
            Area = r.Area == "stadium" ? BeadModel.Stadium : BeadModel.Rectangular,
            ResidualFlowPercent = (double)r.ResidualFlowPercent,
            ResidualFlowStays = r.Override != FlowOverride.Goes,
            FeedPerMm = p.FeedPerMm,
            FilamentDiameterMm = p.FileDiameterMm,
            MeasuredDiameterMm = p.MeasuredDiameterMm,
        });
    }

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(WallPlan plan, RunReadings readings)
    {
        var read = Read(readings, Grid(plan));
        var m = Measured(read, readings, plan);
        return read.Select((x, i) => (x, i)).GroupBy(x => x.x.Section)
            .ToDictionary(g => g.Key, g => $"mean {Say.N(g.Average(x => x.x.Mm), 3)} mm{(g.Any(x => m[x.i]) ? ", one stands apart" : "")}");
    }

    private IReadOnlyList<bool> Measured(IReadOnlyList<(int, string, double Mm)> read, RunReadings readings, WallPlan plan) =>
        Statistics.Measured.Of([.. read.Select(x => x.Mm)], readings.Resolution([.. Grid(plan).Columns.Select(x => x.Aspect)], 0.01)).Outliers;

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(WallReadings);

    /// <inheritdoc/>
    protected override WallVerdict? Answer(JsonFields json)
    {
        var readings = new WallReadings
        {
            ExtrusionMultiplier = (double)(json.Number("extrusionMultiplier", true) ?? 1),
            TargetWidthMm = (double)(json.Number("targetWidthMm", true) ?? 0),
            Walls = json.Whole("walls", 1, 6) ?? 1,
            ReadingsMm = [.. json.Values("readingsMm").Select(v => (double)v)],
            ResolutionMm = (double)(json.Number("resolutionMm") ?? 0.01m),
            TolerancePercent = (double)(json.Number("tolerancePercent") ?? 2),
            LayerHeightMm = (double?)json.Number("layerHeightMm"),
            Area = json.Word("area", ["rectangular", "stadium"]) == "stadium" ? BeadModel.Stadium : BeadModel.Rectangular,
            ResidualFlowPercent = (double)(json.Number("residualFlowPercent") ?? 100),
            ResidualFlowStays = json.FlagOr("residualFlowStays", true),
            FeedPerMm = (double?)json.Number("feedPerMm"),
            FilamentDiameterMm = (double?)json.Number("filamentDiameterMm"),
            MeasuredDiameterMm = (double?)json.Number("measuredDiameterMm"),
        };
        if (json.Errors.Count == 0)
            json.Take(WallJudging.Check(readings));
        return json.Errors.Count > 0 ? null : WallJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"extrusionMultiplier": 1, "targetWidthMm": 0.45, "readingsMm": [0.48, 0.47, 0.48, 0.49, 0.48, 0.47], "layerHeightMm": 0.2}""";
}
