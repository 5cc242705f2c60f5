using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <content>What is read and judged, and what the API takes of it.</content>
public sealed partial class RetractionTrial
{
    /// <inheritdoc/>
    protected override string FileWords(RetractionPlan plan) => $"{plan.Request.Factor} {Say.N(((ITrialPlan)plan).Parts[0].NozzleC ?? 0, 0)}";

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan)
    {
        var p = (RetractionPlan)plan;
        return p.Request.LayerHeightMm <= 0 ? "plan has no layer height"
            : p.IsOwn && (OwnModel.Faults(p.Request.Model).Any() || p.Request.TotalLayers > PlanBounds.MostLayers) ? "plan does not say its model's layers"
            : p.Request.Mode is Dried or OnOff && (p.Values.Count < 2 || p.Values.Count % 2 != 0) ? "plan of pairs does not hold pairs" : base.Faults(plan);
    }

    /// <inheritdoc/>
    protected override string Extent(RetractionPlan plan) => Say.Plural(plan.Values.Count, plan.ByHeight ? "section" : "piece");

    /// <inheritdoc/>
    protected override string Basis(RetractionPlan plan) =>
        $"one {(plan.IsOwn ? "model of one's own" : plan.ByHeight ? "tower of reeds" : "plate of reeds")}" +
            $"{(plan.Sweeps("temperature") ? "" : $" at {Say.N(plan.Request.NozzleTemperatureC)} °C")}";

    /// <inheritdoc/>
    public override ReadingGrid Grid(RetractionPlan p)
    {
        ITrialPlan plan = p;
        var scores = p.Request.ReadBy != "counts";
        Quantity strings = new("Strings", "", 0, 10000, "counted in the gap", true);
        // Of a model of one's own nobody but the tester knows its gaps: strings are read as they hang.
        if (p.IsOwn)
            return new(
                [.. plan.Parts.Select(x => new GridRow(x.Index, x.Label)).Reverse()],
                [
                    scores
                        ? new(Narrow, "strings", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "strings", Anchors = ScoreAnchors.Gap }
                        : new(NarrowCount, "strings", CellKind.Number) { Quantity = strings, Resolution = 1, Digits = 0, Lead = "strings" },
                    new(Gaps, "After travel", CellKind.Word, false) { Words = ["full", "gaps"], Lead = "gaps after travel" },
                    new(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
                ])
            { RowHead = "Section" };
        IReadOnlyList<GridRow> rows = [.. plan.Parts.Select(x => new GridRow(x.Index, x.Label))];
        return new(
            p.ByHeight ? [.. rows.Reverse()] : rows,
            [
                .. scores
                    ? new GridColumn[]
                    {
                        new(Narrow, $"{Say.N(p.Request.NarrowGapMm)} mm gap", CellKind.Score)
                        {
                            Resolution = 1, Digits = 2, Lead = "narrow gap", Anchors = ScoreAnchors.Gap,
                        },
                        new(Wide, $"{Say.N(p.Request.WideGapMm)} mm gap", CellKind.Score)
                        {
                            Resolution = 1, Digits = 2, Lead = "wide gap", Anchors = ScoreAnchors.Gap,
                        },
                    }
                    :
                    [
                        new(NarrowCount, $"{Say.N(p.Request.NarrowGapMm)} mm gap", CellKind.Number)
                        {
                            Quantity = strings, Resolution = 1, Digits = 0, Lead = "strings in the narrow gap",
                        },
                        new(WideCount, $"{Say.N(p.Request.WideGapMm)} mm gap", CellKind.Number)
                        {
                            Quantity = strings, Resolution = 1, Digits = 0, Lead = "strings in the wide gap",
                        },
                    ],
                new(Gaps, "After travel", CellKind.Word, false) { Words = ["full", "gaps"], Lead = "gaps after travel" },
                new(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
            ])
        { RowHead = p.ByHeight ? "Section" : "Piece" };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Narrow or Wide or NarrowCount or WideCount or Gaps or Photo;

    /// <summary>Parts that say something: scored, counted, or failed to print.</summary>
    private static IEnumerable<int> Printed(RetractionPlan p, RunReadings readings, IReadOnlyList<SectionState> states) =>
        Enumerable.Range(0, p.Values.Count).Where(i => states[i] != SectionState.Lost && PointOf(p, readings, states, i) is not null);

    private static IEnumerable<RetractionPoint> Points(RetractionPlan p, RunReadings readings, IReadOnlyList<SectionState> states) =>
        Printed(p, readings, states).Select(i => PointOf(p, readings, states, i)!);

    private static RetractionPoint? PointOf(RetractionPlan p, RunReadings readings, IReadOnlyList<SectionState> states, int i)
    {
        // A section that the nozzle failed to print is a failure: it counts as unusable, whatever was typed for it.
        var (failed, counts) = (states[i] == SectionState.Failed, p.Request.ReadBy == "counts");
        double[] Read(string narrow, string wide) => [.. new[] { readings.Value(i, narrow), readings.Value(i, wide) }.OfType<double>()];
        (double[] scores, double[] strings) = (failed ? [0] : Read(Narrow, Wide), failed ? [] : Read(NarrowCount, WideCount));
        if (scores.Length > 0 && strings.Length > 0)
            (scores, strings) = (counts ? [] : scores, counts ? strings : []);
        if (scores.Length + strings.Length == 0)
            return null;
        var (r, v) = (p.Request, (double)p.Values[i]);
        return new(
            r.Factor == "length" || r.Mode == OnOff ? v : (double)r.RetractionLengthMm,
            r.Factor == "speed" && r.Mode is Tower or Plate or Own ? v : (double)r.RetractionSpeedMmPerS, scores, strings,
            readings.Text(i, Gaps) == "gaps" ? 1 : 0, v);
    }

    /// <inheritdoc/>
    public override string DecidingTrial => Word;

    /// <inheritdoc/>
    public override RetractionVerdict Judge(RetractionPlan p, RunReadings readings, JudgeContext context)
    {
        var states = States(p, readings);
        if (p.Request.Mode is OnOff or Dried)
            return JudgePair(p, readings, states, context);
        var points = Points(p, readings, states).ToList();
        // Runs that follow under the same conditions are repeats, where they swept the same factor.
        foreach (var (before, read) in context.Earlier)
        {
            if (before is RetractionPlan q
                && q.Request.Factor == p.Request.Factor
                && q.Request.Mode is Tower or Plate or Own
                && (q.Request.NozzleTemperatureC == p.Request.NozzleTemperatureC || p.Sweeps("temperature")))
                points.AddRange(Points(q, read, States(q, read)));
        }

        var values = points.Select(x => x.Value).Distinct().Count();
        if (values < 2 || (values < 3 && p.Values.Distinct().Count() > 2))
            return new() { Outcome = RetractionOutcome.Insufficient, ValuesRead = values, Factor = p.Request.Factor, Advised = false };
        var v = RetractionJudging.Judge(
            new()
            {
                Drive = p.Drive, Factor = p.Request.Factor, Points = points, Margin = (double)p.Request.Margin, ScoreNoise = context.ScoreNoise, Soft = p.Soft,
                Limits = p.Limits,
            });
        // What the next print costs is its share of this one, which is like it.
        return v is { Next: { } next, NextRange: { } range }
            ? v with
            {
                Next = next.Costing(
                    p.Estimate, (Math.Floor((range.To - range.From) / range.Step + 1e-6) + 1) * (next.Kind == "repeat" ? 2 : 1) / p.Values.Count),
            }
            : v;
    }

    private static RetractionVerdict JudgePair(RetractionPlan p, RunReadings readings, IReadOnlyList<SectionState> states, JudgeContext context)
    {
        var dried = p.Request.Mode == Dried;
        RetractionPoint Of(Func<int, bool> group)
        {
            // A piece that failed to print is unusable, whatever was scored on what is left of it; a lost one says nothing.
            var points = Points(p, readings, states).Zip(Printed(p, readings, states)).Where(x => group(x.Second)).Select(x => x.First).ToList();
            return new(0, 30, [.. points.SelectMany(x => x.Scores)], [.. points.SelectMany(x => x.Strings)]);
        }

        var (first, second) = dried
            ? (Of(i => i < p.Values.Count / 2), Of(i => i >= p.Values.Count / 2))
            : (Of(i => p.Values[i] == 0), Of(i => p.Values[i] != 0));
        var read = new[] { first, second }.Count(x => x.Scores.Count + x.Strings.Count > 0);
        return read < 2
            ? new() { Outcome = RetractionOutcome.Insufficient, ValuesRead = read, Factor = dried ? "dryness" : "on-off", Advised = false }
            : RetractionJudging.Pair(first, second, context.ScoreNoise, dried);
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(RetractionPlan plan, RetractionVerdict v)
    {
        if (v.Values.Count == 0)
            return null;
        var f = SweepFactor.Of(v.Factor);
        var pair = v.Factor is "dryness" or "on-off";
        var x = pair ? v.Factor == "dryness" ? "0 as it was, 1 dried" : "0 off, 1 on" : $"{f.Label.InSentence()}{(f.Unit.Length > 0 ? $", {f.Unit}" : "")}";
        return new(
            x, "mean score, 0–4",
            [
                .. v.Values.Select((at, i) => new ChartPoint(
                    at, v.Means[i]!.Value, Math.Max(0, v.Means[i]!.Value - v.Halves[i]!.Value), Math.Min(4, v.Means[i]!.Value + v.Halves[i]!.Value),
                    v.TooLong.Contains(at) ? "out" : v.AsGood.Contains(at) ? "best" : "", v.TooLong.Contains(at) ? "gaps" : "")),
            ])
        {
            Line = pair
                ? [.. v.Values.Select((at, i) => (at, v.Means[i]!.Value))]
                : [.. v.Values.Select((at, i) => (at, Y: v.Curve[i])).Where(p => p.Y is not null).Select(p => (p.at, p.Y!.Value))],
            Band = v.AsGood.Count > 0 && v.Outcome is RetractionOutcome.Clear or RetractionOutcome.Noise ? (v.AsGood.Min(), v.AsGood.Max()) : null,
            Chosen = v.Value,
            WholeX = v.Values.Count < 14,
            Summary = v.Sentence,
        };
    }

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(string Drive, IReadOnlyList<EvaluatePoint> Points, double? Margin, string? Factor, double? ScoreNoise);

    /// <summary>A point of the body.</summary>
    public sealed record EvaluatePoint(double LengthMm, double SpeedMmPerS, double? Score, double? Strings, double? Gaps, int? Repeat, double? Value);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <inheritdoc/>
    protected override RetractionVerdict? Answer(JsonFields json)
    {
        static IReadOnlyList<double> One(decimal? v) => v is { } d ? [(double)d] : [];
        var points = (json.List("points", true) ?? [])
            .Select(x => new RetractionPoint(
                (double)(x.Number("lengthMm") ?? 0), (double)(x.Number("speedMmPerS") ?? 30), One(x.Number("score")), One(x.Number("strings")), x.Gaps("gaps"),
                (double?)x.Number("value")))
            .ToList();
        var word = json.Word("factor", [.. SweepFactor.All.Select(f => f.Word)])
            ?? (
                points.Select(p => p.LengthMm).Distinct().Count() > 1 ? "length"
                : points.Select(p => p.SpeedMmPerS).Distinct().Count() > 1 ? "speed"
                : "length");
        var limits = json.Object("limits");
        var advised = json.Object("advised");
        var r = new RetractionReadings
        {
            Drive = json.Word("drive", ["direct", "long-tube"]) ?? "direct",
            Factor = word,
            Points = points,
            Margin = (double)(json.Number("margin") ?? 0.5m),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            Limits = limits is null ? null : new((double?)limits.Number("min"), (double?)limits.Number("max")),
            Advised = advised is null ? null : new((double?)advised.Number("min"), (double?)advised.Number("max")),
        };
        var known = json.Number("knownGoodLengthMm");
        if (json.Errors.Count == 0)
            json.Take(RetractionJudging.Check(r));
        return json.Errors.Count > 0
            ? null
            : RetractionJudging.Judge(r) with { KnownGood = known is { } k ? [new("retractionLengthMm", (double)k, null, "practice")] : [] };
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"drive": "direct", "points": [{"lengthMm": 0, "speedMmPerS": 30, "score": 0}, {"lengthMm": 0.4, "speedMmPerS": 30, "score": 1},""" +
            """ {"lengthMm": 0.8, "speedMmPerS": 30, "score": 4}, {"lengthMm": 1.2, "speedMmPerS": 30, "score": 4}, {"lengthMm": 1.6,""" +
            """ "speedMmPerS": 30, "score": 4}], "margin": 0.5}""";
}
