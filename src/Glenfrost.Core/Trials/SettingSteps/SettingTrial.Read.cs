using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <content>What is read and judged, and what the API takes of it.</content>
public sealed partial class SettingTrial
{
    /// <inheritdoc/>
    public override ReadingGrid Grid(SettingPlan plan)
    {
        IReadOnlyList<GridRow> rows = [.. ((ITrialPlan)plan).Parts.Select(p => new GridRow(p.Index, p.Label))];
        return new(
            plan.IsCones ? rows : [.. rows.Reverse()],
            [
                plan.IsCones
                    ? new GridColumn(Tip, "tip", CellKind.Score) { Anchors = ScoreAnchors.Tip }
                    : new GridColumn(Corners, "corners", CellKind.Score) { Anchors = ScoreAnchors.Corners },
                new GridColumn(Walls, plan.IsCones ? "flank" : "walls", CellKind.Score) { Anchors = ScoreAnchors.Walls },
                new GridColumn(CellAspects.State, "There?", CellKind.Word, false) { Words = ReadingGrid.States, Lead = "what became of it" },
            ])
        { RowHead = plan.IsCones ? "Cone" : "Section" };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Corners or Tip or Walls;

    private IEnumerable<SettingPoint> Points(SettingPlan p, RunReadings read)
    {
        var states = States(p, read);
        for (var i = 0; i < p.Values.Count; i++)
        {
            if (states[i] == SectionState.Lost)
                continue;
            double[] looks = states[i] == SectionState.Failed ? [0]
                : [.. new[] { p.IsCones ? Tip : Corners, Walls }.Select(a => read.Value(i, a)).OfType<double>()];
            if (looks.Length > 0)
                yield return new(p.Values[i], looks);
        }
    }

    /// <inheritdoc/>
    public override SettingVerdict Judge(SettingPlan plan, RunReadings readings, JudgeContext context)
    {
        List<SettingPoint> points = [.. Points(plan, readings)];
        foreach (var (before, read) in context.Earlier)
        {
            // The same setting on the same piece: a tip and a corner are scored by other things.
            if (before is SettingPlan q && q.Request.Factor == plan.Request.Factor && q.IsCones == plan.IsCones
                && (q.Request.NozzleTemperatureC == plan.Request.NozzleTemperatureC || plan.Request.Factor == "temperature"))
                points.AddRange(Points(q, read));
        }

        var from = new SettingReadings
        {
            Factor = plan.Request.Factor, Piece = plan.Request.Mode, Points = points, Margin = (double)plan.Request.Margin, ScoreNoise = context.ScoreNoise,
            InForce = plan.InForce, Limits = plan.Limits,
        };
        if (points.Select(p => p.Value).Distinct().Count() < Fewest)
            return new() { Outcome = SettingOutcome.Insufficient, From = from, Factor = from.Factor, Advised = false };
        var v = SettingJudging.Judge(from);
        return v is { Next: { Trial: Word, Values: { } range } next }
            ? v with
            {
                Next = next.Costing(
                    plan.Estimate, (double)(Math.Floor((range["to"] - range["from"]) / range["step"] + 0.0001m) + 1) / Math.Max(1, plan.Values.Count)),
            }
            : v;
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(SettingPlan plan, SettingVerdict v)
    {
        if (v.Values.Count == 0)
            return null;
        var f = plan.Factor;
        return new(
            f.Label + (f.Unit.Length > 0 ? $", {f.Unit}" : ""), "mean score, 0–4",
            [
                .. v.Values.Select((t, i) => new ChartPoint(
                    t, v.Looks[i], Math.Max(0, v.Looks[i] - v.Halves[i]), Math.Min(4, v.Looks[i] + v.Halves[i]), v.AsGood.Contains(t) ? "best" : "")),
            ])
        {
            Line = v.Curve.Count == v.Values.Count ? [.. v.Values.Zip(v.Curve)] : [],
            Band = v.AsGood.Count > 0 ? (v.AsGood.Min(), v.AsGood.Max()) : null,
            Chosen = v.Value,
            WholeX = v.Values.Count < 12 && v.Values.All(t => t == Math.Floor(t)),
            Summary = v.Sentence,
        };
    }

    /// <inheritdoc/>
    protected override string? FoundWith(SettingPlan plan, string key) =>
        $"{Say.N(plan.Request.NozzleTemperatureC)} °C, layers of {Say.N(plan.Request.LayerHeightMm, 3)} mm, {(plan.IsCones ? "cones" : "a wall")}";

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(Body);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record Body(string Factor, string? Piece, IReadOnlyList<BodyPoint> Points, double? Margin, double? ScoreNoise, double? InForce);

    /// <summary>A section or a cone of the body.</summary>
    public sealed record BodyPoint(double Value, double? Corners, double? Tip, double? Walls);

    /// <inheritdoc/>
    protected override SettingVerdict? Answer(JsonFields json)
    {
        static IEnumerable<double> One(decimal? v) => v is { } d ? [(double)d] : [];
        var factor = json.Word("factor", [.. SteppedSetting.All.Select(f => f.Word)]) ?? SteppedSetting.All[0].Word;
        var readings = new SettingReadings
        {
            Factor = factor,
            Piece = json.Word("piece", [Wall, Cones]) ?? (SteppedSetting.Of(factor).OnWall ? Wall : Cones),
            Points =
            [
                .. (json.List("points", true) ?? []).Select(p => new SettingPoint(
                    (double)(p.Number("value", true) ?? 0), [.. One(p.Number("corners")), .. One(p.Number("tip")), .. One(p.Number("walls"))])),
            ],
            Margin = (double)(json.Number("margin") ?? 0.5m),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            InForce = (double?)json.Number("inForce"),
        };
        if (json.Errors.Count == 0)
            json.Take(SettingJudging.Check(readings));
        return json.Errors.Count > 0 ? null : SettingJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"factor": "outer-speed", "points": [{"value": 30, "corners": 4, "walls": 4}, {"value": 45, "corners": 4, "walls": 4},""" +
            """ {"value": 60, "corners": 4, "walls": 3}, {"value": 75, "corners": 2, "walls": 2}, {"value": 90, "corners": 1, "walls": 1}], "inForce": 40}""";
}
