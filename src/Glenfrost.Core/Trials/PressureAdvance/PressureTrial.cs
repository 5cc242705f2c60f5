using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>Pressure advance from counted lines or crooks, one factor each.</summary>
public sealed class PressureTrial : Trial<PressureRequest, PressurePlan, PressureVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "pressure-advance";

    /// <summary>Lines slow, fast, slow.</summary>
    public const string Lines1 = "lines";

    /// <summary>Corners.</summary>
    public const string Corners = "corners";

    /// <summary>Score of one.</summary>
    public const string Score = "even";

    /// <summary>The best one; stands at part 0.</summary>
    public const string Best = "best";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Pressure advance";

    /// <inheritdoc/>
    public override string Noun => "row";

    /// <inheritdoc/>
    public override string PageFolder => "PressureAdvance";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["pressureAdvance"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["pressure"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(PressurePlan plan) => ["startK", "stepK", "count", "pressureAdvance"];

    /// <inheritdoc/>
    protected override string? FoundWith(PressurePlan plan, string key) =>
        $"{Say.N(plan.Request.SlowMmPerS)} to {Say.N(plan.Request.FastMmPerS)} mm/s, {Say.N(plan.Request.AccelerationMmPerS2)} mm/s²";

    /// <inheritdoc/>
    public override string Purpose =>
        "Pressure advance from counted lines that go slow, fast, slow and end in a corner, or from crooks of three corners: the evenest one tells.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Lines1, Corners];

    /// <inheritdoc/>
    public override string DecidingTrial => Word;

    private const string TheRow = "The row", FoundAtHead = "What it is found at", Measures = "Measures";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(r => r.StartK, "First factor", "s", 0, 3, "0 for a first look", "", TheRow),
        Number(r => r.StepK, "Step", "s", 0.0005m, 1, "0.005 for a direct drive, 0.05 for a long tube", "", TheRow),
        Number(r => r.Count, "How many", "", 3, 60, "fewer show no best, more don't fit a bed", "", TheRow, whole: true),
        OneOf(r => r.ReadBy, "Read by", "", TheRow, ("best", "best number"), ("scores", "a score each")),
        Number(r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works",
            "The profile's, unless another one is held.", FoundAtHead),
        Number(r => r.SlowMmPerS, "Slow", "mm/s", 5, 300, "per second, not per minute", "", FoundAtHead),
        Number(r => r.FastMmPerS, "Fast", "mm/s", 10, 1000, "as fast as you print", "As fast as you print.", FoundAtHead),
        Number(r => r.AccelerationMmPerS2, "Acceleration", "mm/s²", 100, 50000, "as you print", "", FoundAtHead),
        Number(r => r.LineMm, "Length", "mm", 20, 300, "long enough to be fast in the middle", "Of a line; of a crook's four legs, two of them.", Measures),
        Number(r => r.SpacingMm, "Between neighbours", "mm", 3, 20, "closer can't be told apart", "", Measures),
        Number(r => r.LayerHeightMm, "Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays", "", Measures),
        Number(r => r.Layers, "Layers", "", 1, 10, "corners show better on three", "", Measures, whole: true),
    ];

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => (field, context.Machine) switch
    {
        ("startK", { LongTube: true }) => "A long tube's lies between 0.2 and 1.",
        ("startK", not null) => "A direct drive's lies below 0.1.",
        ("stepK", { } m) => $"Written as {Dialect.Of(m.Dialect).PressureAdvance(0.04)} for this printer.",
        ("accelerationMmPerS2", { } m) => $"At most {Say.N(m.MaxAccelerationMmPerS2)} here.",
        _ => base.HelpOf(field, context),
    };

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        (copy["lineMm"], copy["spacingMm"], copy["layers"]) = mode == Corners ? (30m, 4m, 3m) : (80m, 5m, 1m);
        if (context.Machine is { } m)
            copy["lineMm"] = Math.Min((decimal)copy["lineMm"], (decimal)Math.Floor(m.BedXMm - 60));
        return copy;
    }

    /// <inheritdoc/>
    protected override PressureRequest Proposal(PlanContext c)
    {
        var tube = c.Machine?.LongTube == true;
        var fast = (decimal)
            Math.Floor(
                Math.Min(c.Machine?.MaxSpeedMmPerS ?? 120, Math.Min(120, (c.Settings?.MaxFlowMm3PerS ?? 8) / ((c.Settings?.LineWidthMm ?? 0.44) * 0.2))));
        return new()
        {
            NozzleTemperatureC = (decimal)Math.Round(c.NozzleC), StepK = tube ? 0.06m : 0.005m, FastMmPerS = Math.Max(30, fast),
            // Soft filament is printed slowly: the slow part is half of the fast one at most.
            SlowMmPerS = Math.Min(20, Math.Floor(Math.Max(30, fast) / 2)),
            AccelerationMmPerS2 = (decimal)Math.Min(1500, c.Machine?.MaxAccelerationMmPerS2 ?? 1000),
            LayerHeightMm = (decimal)Math.Round((c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 2),
        };
    }

    /// <inheritdoc/>
    protected override PressureRequest RequestOf(PressurePlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<PressurePlan> Plan(PressureRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        var plain = Math.Min(4 * r.SlowMmPerS, Math.Min(Fields["fastMmPerS"].Quantity!.Max, (decimal)(c.Machine?.MaxSpeedMmPerS ?? 1000)));
        if (r.FastMmPerS < 2 * r.SlowMmPerS)
            errors.Add(
                new(
                    "fastMmPerS",
                    $"{Say.N(r.FastMmPerS)} mm/s is less than twice the slow {Say.N(r.SlowMmPerS)}: the change must be plain. " +
                        (plain >= 2 * r.SlowMmPerS ? $"{Say.N(plain)} would be right." : "A slower slow part would be right."),
                    [new($"{Say.N(plain)} mm/s", new Dictionary<string, decimal> { ["fastMmPerS"] = plain })]));
        if (r.StartK + (r.Count - 1) * r.StepK > 3)
            errors.Add(new("stepK", $"The last one would be {Say.N(r.StartK + (r.Count - 1) * r.StepK, 3)} s: above 3 the unit is another one."));
        if (c.Machine is { } m)
        {
            if ((double)r.FastMmPerS > m.MaxSpeedMmPerS)
                errors.Add(
                    new(
                        "fastMmPerS", $"{m.Name} runs at most at {Say.N(m.MaxSpeedMmPerS)} mm/s.",
                        [new($"{Say.N(m.MaxSpeedMmPerS)} mm/s", new Dictionary<string, decimal> { ["fastMmPerS"] = (decimal)m.MaxSpeedMmPerS })]));
            if ((double)r.AccelerationMmPerS2 > m.MaxAccelerationMmPerS2)
                errors.Add(
                    new(
                        "accelerationMmPerS2", $"{m.Name} accelerates at most with {Say.N(m.MaxAccelerationMmPerS2)} mm/s².",
                        [
                            new(
                                $"{Say.N(m.MaxAccelerationMmPerS2)} mm/s²",
                                new Dictionary<string, decimal> { ["accelerationMmPerS2"] = (decimal)m.MaxAccelerationMmPerS2 }),
                        ]));
            errors.AddRange(Room(r, m));
        }

        if (errors.Count > 0)
            return errors;
        List<PlanWarning> warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)];
        // v² = 2·a·s on the way up and down: the middle must be reached.
        var way = 2 * ((double)(r.FastMmPerS * r.FastMmPerS) - (double)(r.SlowMmPerS * r.SlowMmPerS)) / (2 * (double)r.AccelerationMmPerS2);
        if (r.Mode == Lines1 && way > 0.8 * (double)r.LineMm / 2)
            warnings.Add(new(PlanWarningKind.ShortLines, (double)r.LineMm / 2, way));
        if (c.Settings is { } s && (double)r.FastMmPerS * s.LineWidthMm * (double)r.LayerHeightMm > s.MaxFlowMm3PerS + 1e-6)
            warnings.Add(new(PlanWarningKind.FastPartStarved, (double)r.FastMmPerS * s.LineWidthMm * (double)r.LayerHeightMm, s.MaxFlowMm3PerS));
        var plan = new PressurePlan
        {
            Request = r, Ks = [.. Enumerable.Range(0, (int)r.Count).Select(i => r.StartK + i * r.StepK)], Dialect = c.Machine?.Dialect ?? "m900",
            Drive = c.Machine is { } head
                ? head.LongTube
                    ? "long-tube"
                    : "direct"
                : null,
            Estimate = new(
                (int)Math.Ceiling((double)(r.Count * r.LineMm * r.Layers / r.SlowMmPerS) / 60 * 1.3),
                Math.Round((double)(r.Count * r.LineMm * r.Layers * r.LayerHeightMm) * 0.44 * 1.24 / 1000, 1), 0),
            Warnings = warnings,
        };
        if (c.Machine is null || c.Settings is null)
            return plan;
        var (_, estimate, wrong) = KRow.Write(plan, c);
        return wrong.Count > 0 ? wrong.ToList() : plan with { Estimate = estimate };
    }

    /// <summary>What keeps the row from lying on the bed, with what would: a shorter line where that alone helps, else fewer of them.</summary>
    private IEnumerable<FieldError> Room(PressureRequest r, Machine m)
    {
        double Wide(PressureRequest x) => KRow.Size(x).Width + 12 - m.BedXMm;
        double Deep(PressureRequest x) => KRow.Size(x).Depth + 20 - m.BedYMm;
        if (Wide(r) <= 0 && Deep(r) <= 0)
            yield break;
        var (w, d) = KRow.Size(r);
        var shorter = r with { LineMm = Math.Floor(r.LineMm - (decimal)Math.Max(Wide(r), r.Mode == Corners ? Deep(r) : 0)) };
        if (shorter.LineMm >= Fields["lineMm"].Quantity!.Min && Deep(shorter) <= 0)
        {
            yield return new(
                "lineMm", $"The row is {Say.N(w, 0)} mm wide with what counts it, and {Say.N(d,
                    0)} mm deep; {m.Name} has {Say.N(m.BedXMm)} by {Say.N(m.BedYMm)}.",
                [new($"{Say.N(shorter.LineMm)} mm", new Dictionary<string, decimal> { ["lineMm"] = shorter.LineMm })]);
            yield break;
        }

        var fits = (int)r.Count;
        while (fits >= 3 && (Wide(r with { Count = fits }) > 0 || Deep(r with { Count = fits }) > 0))
            fits--;
        yield return new(
            "count", $"{Say.N(r.Count)} of them are {Say.N(w, 0)} mm wide and {Say.N(d, 0)} mm deep; {m.Name} has {Say.N(m.BedXMm)} by {Say.N(m.BedYMm)}. " +
                (fits >= 3 ? $"{fits} would fit." : "Shorter lines would be right."),
            fits >= 3 ? [new($"{fits} of them", new Dictionary<string, decimal> { ["count"] = fits })] : []);
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(PressurePlan plan, PlanContext context) =>
        KRow.Write(plan, context) is var (lines, _, errors) ? (lines, errors) : null;

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) =>
        ((PressurePlan)plan).Ks.Count is 0 or > 200 ? "plan has no lines, or more than 200" : base.Faults(plan);

    /// <inheritdoc/>
    protected override string Extent(PressurePlan plan) => $"{plan.Ks.Count} {plan.Request.Mode}";

    /// <inheritdoc/>
    protected override string Basis(PressurePlan plan)
    {
        var r = plan.Request;
        return $"one row at {Say.N(r.NozzleTemperatureC)} °C, {Say.N(r.SlowMmPerS)} to {Say.N(r.FastMmPerS)} mm/s, {Say.N(r.AccelerationMmPerS2)} mm/s²";
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(PressurePlan p)
    {
        if (p.Request.ReadBy != "scores")
            return new(
                [new GridRow(0, "Best one", $"0 to {p.Ks.Count - 1}, halves allowed")],
                [
                    new(Best, "Its number", CellKind.Number)
                    {
                        Quantity = new("The best one", "", 0, p.Ks.Count - 1, "its number; 7.5 lies between 7 and 8"), Resolution = 0.5, Digits = 1,
                        Lead = "number of the best one",
                    },
                ])
            { RowHead = "Row" };
        IReadOnlyList<GridRow> rows = [.. p.Ks.Select((k, i) => new GridRow(i, $"{i}", $"K {Say.N(k, 4)}"))];
        return new(
            p.Request.Mode == Lines1 ? [.. rows.Reverse()] : rows,
            [new(Score, "Even?", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "how even it is", Anchors = ScoreAnchors.Even }])
        { RowHead = "Number" };
    }

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(PressurePlan p, RunReadings readings)
    {
        return p.Request.ReadBy == "scores" ? p.Ks.Select((k, i) => (k, i)).ToDictionary(x => x.i, x => $"K {Say.N(x.k, 4)}")
            : readings.Value(0, Best) is { } best
                ? new Dictionary<int, string> { [0] = $"K {Say.N((double)p.Request.StartK + best * (double)p.Request.StepK, 4)}" }
            : new Dictionary<int, string>();
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Score or Best;

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value) =>
        aspect == Best && Math.Abs(value * 2 - Math.Round(value * 2)) > 1e-9
            ? "Halves are as fine as that is read: 7 or 7.5."
            : base.Question(plan, section, aspect, value);

    /// <inheritdoc/>
    public override PressureVerdict Judge(PressurePlan p, RunReadings readings, JudgeContext context)
    {
        var best = readings.Value(0, Best);
        var scores = p.Ks.Select((_, i) => readings.Value(i, Score)).ToList();
        if (best is null && scores.All(s => s is null))
            return new() { Outcome = PressureOutcome.Insufficient, Advised = false };
        var input = new PressureReadings
        {
            StartK = (double)p.Request.StartK, StepK = (double)p.Request.StepK, Count = p.Ks.Count, Best = best is { } b ? Math.Round(b * 2) / 2 : null,
            Scores = best is null ? scores : [], ScoreNoise = context.ScoreNoise, FoundAt = p.FoundAt, Drive = p.Drive,
        };
        if (PressureJudging.Check(input) is [var refusal, ..])
            return new() { Outcome = PressureOutcome.Insufficient, Refusal = refusal, Advised = false };
        var verdict = PressureJudging.Judge(input);
        // What the next row costs is its share of this one, which is like it.
        return verdict is { Next: { } next, NextRange: { } range }
            ? verdict with { Next = next.Costing(p.Estimate, range.Count / (double)p.Ks.Count) } : verdict;
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(PressurePlan plan, PressureVerdict v)
    {
        var points = v.Ks.Zip(v.Scores.Count > 0 ? v.Scores : []).Where(x => x.Second is not null)
            .Select(x => new ChartPoint(
                x.First, x.Second!.Value, null, null, v.K is { } k && Math.Abs(x.First - k) <= (v.UncertaintyK ?? 0) + 1e-9 ? "best" : ""))
            .ToList();
        return points.Count == 0
            ? null
            : new("K, s", "score, 0–4", points)
            {
                Line = [.. points.Select(p => (p.X, p.Y))], Chosen = v.K, Summary = v.Sentence,
            };
    }

    /// <inheritdoc/>
    protected override string FileWords(PressurePlan plan) => $"{plan.Request.Mode} {Say.N(plan.Request.NozzleTemperatureC, 0)}";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(PressureReadings);

    /// <inheritdoc/>
    protected override PressureVerdict? Answer(JsonFields json)
    {
        var at = json.Object("foundAt");
        var scores = json.Rows("scores", false);
        var r = new PressureReadings
        {
            StartK = (double)(json.Number("startK", true) ?? 0),
            StepK = (double)(json.Number("stepK", true) ?? 0.01m),
            Count = json.Whole("count", 1, 1000) ?? scores.Count,
            Best = (double?)json.Number("best"),
            Scores = [.. scores.Select(s => s.Count > 0 ? s.Average() : (double?)null)],
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            Drive = json.Word("drive", ["direct", "long-tube"]),
            FoundAt = at is null
                ? null
                : new(
                    (double)(at.Number("nozzleTemperatureC") ?? 0), (double)(at.Number("slowMmPerS") ?? 0), (double)(at.Number("fastMmPerS") ?? 0),
                    (double)(at.Number("accelerationMmPerS2") ?? 0)),
        };
        if (json.Errors.Count == 0)
            json.Take(PressureJudging.Check(r));
        return json.Errors.Count > 0 ? null : PressureJudging.Judge(r);
    }

    /// <inheritdoc/>
    public override string Example => """{"startK": 0, "stepK": 0.005, "count": 17, "best": 7.5}""";
}
