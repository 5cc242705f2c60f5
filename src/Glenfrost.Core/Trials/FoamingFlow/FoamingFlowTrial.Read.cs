using Glenfrost.Core.Equipment;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <content>What is read and judged, and what the API takes of it.</content>
public sealed partial class FoamingFlowTrial
{
    /// <inheritdoc/>
    public override bool JudgesTogether => true;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
        [
            "Stop rule: when the strand breaks into blobs, stop the print; what stands is read, that section is \"blobs\".",
            "Foam gives off more fumes than solid filament: ventilate.",
        ];

    /// <inheritdoc/>
    public override ReadingGrid Grid(FoamingPlan p)
    {
        var width = (double)p.Request.TargetWidthMm;
        return new(
            [.. p.Steps.Select((s, i) => new GridRow(i, p.Label(s), $"{i + 1}")).Reverse()],
            [
                .. MarkedWall.Sides.Select(
                    (s, i) =>
                        new GridColumn($"{Wall}{i + 1}", char.ToUpperInvariant(s[0]) + s[1..], CellKind.Number)
                        {
                            Quantity = new("Wall", "mm", 0.05m, Math.Round((decimal)(8 * width), 2), "a wall of one line"), Resolution = 0.01, Digits = 3,
                            Plausible = (0.5 * width, 3.5 * width), Lead = $"wall, {s}",
                        }),
                new(Ran, "It ran", CellKind.Word, false) { Words = ["steady", "blobs"] }, new(CellAspects.Mass, "Mass, g", CellKind.Number, false)
                {
                    Quantity = new("Mass of a piece cut from it", "g", 0.001m, 1000, "a piece cut from this step"), Resolution = 0.01, Digits = 4,
                },
                new(Volume, "Volume, cm³", CellKind.Number, false)
                {
                    Quantity = new("Volume of that piece", "cm³", 0.001m, 1000, "the same piece: sides multiplied, or water"), Resolution = 0.01, Digits = 4,
                },
            ])
        { Across = true, ManyColumns = true };
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) =>
        aspect is Ran or Volume
        || (
            aspect.StartsWith(Wall, StringComparison.Ordinal)
            && int.TryParse(aspect.AsSpan(Wall.Length), System.Globalization.CultureInfo.InvariantCulture, out var n)
            && n is >= 1 and <= 9);

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings)
    {
        var states = States(plan, readings);
        return base.Waiting(plan, readings).Where(c => states[c.Section] == SectionState.Judged && readings.Text(c.Section, Ran) != "blobs");
    }

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(FoamingPlan p, RunReadings readings)
    {
        var reference = Reference(p);
        return p.Steps.Select((s, i) => (s, i, Walls: Walls(readings, i))).Where(x => x.Walls.Count > 0)
            .ToDictionary(
                x => x.i,
                x =>
                    $"{Say.N(x.Walls.Average() * (double)(p.Request.ExtrusionMultiplier / x.s.Multiplier) / reference, 2)} " +
                        $"times{(readings.Text(x.i, Ran) == "blobs" ? ", blobs" : "")}"
            );
    }

    private static List<double> Walls(RunReadings readings, int section) =>
        [.. Enumerable.Range(1, MarkedWall.Sides.Count).Select(k => readings.Value(section, $"{Wall}{k}")).OfType<double>()];

    private static double Reference(FoamingPlan p) => (double)(p.Request.ReferenceWidthMm ?? p.Request.TargetWidthMm);

    private IEnumerable<FoamStep> StepsOf(FoamingPlan p, RunReadings readings)
    {
        var states = States(p, readings);
        return p.Steps.Select((s, i) => (s, i))
            .Where(x => states[x.i] != SectionState.Lost && (Walls(readings, x.i).Count > 0 || readings.Text(x.i, Ran) == "blobs"))
            .Select(x => new FoamStep(
                (double)x.s.TemperatureC, (double)x.s.Multiplier, Walls(readings, x.i),
                readings.Value(x.i, Volume) is null ? null : readings.Value(x.i, CellAspects.Mass),
                readings.Value(x.i, CellAspects.Mass) is null ? null : readings.Value(x.i, Volume), readings.Text(x.i, Ran) != "blobs"));
    }

    /// <inheritdoc/>
    public override FoamVerdict Judge(FoamingPlan p, RunReadings readings, JudgeContext c)
    {
        var r = p.Request;
        // Steps of the runs that it follows belong to the same curve, at the same speed and layer; those under another override as this one's file counts.
        var before = c.Earlier.Select(e => (Plan: (FoamingPlan)e.Plan, e.Readings))
            .Where(e => e.Plan.Request is var q && q.SpeedMmPerS == r.SpeedMmPerS && q.LayerHeightMm == r.LayerHeightMm && q.TargetWidthMm == r.TargetWidthMm)
            .SelectMany(e => StepsOf(e.Plan, e.Readings)
                .Select(s => s with { ExtrusionMultiplier = s.ExtrusionMultiplier * e.Plan.Request.FlowFactor / r.FlowFactor }));
        var input = new FoamReadings
        {
            ReferenceWidthMm = Reference(p),
            TargetWidthMm = (double)r.TargetWidthMm,
            ExtrusionMultiplier = (double)r.ExtrusionMultiplier,
            SolidDensityGPerCm3 = c.DensityGPerCm3 ?? 1.24,
            TargetDensityGPerCm3 = (double?)r.TargetDensityGPerCm3,
            ResolutionMm = readings.Resolution([.. Enumerable.Range(1, MarkedWall.Sides.Count).Select(k => $"{Wall}{k}")], 0.01),
            MaxC = c.Limits?.MaxC,
            Steps = [.. StepsOf(p, readings), .. before],
            FileDiameterMm = p.FileDiameterMm,
            MeasuredDiameterMm = p.MeasuredDiameterMm,
            ResidualFlowPercent = r.ResidualFlowPercent,
            Override = r.Override,
        };
        return FoamingJudging.Check(input) is [var refusal, ..] ? new() { From = input, Refusal = refusal, Advised = false } : FoamingJudging.Judge(input);
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(FoamingPlan plan, FoamVerdict v)
    {
        var byTemperature = v.Expansion.Select(e => e.TemperatureC).Distinct().Count() > 1;
        var read = v.Expansion.Where(e => e.Expansion is not null).ToList();
        if (read.Count == 0)
            return null;
        var most = read.Max(e => e.ExtrusionMultiplier);
        var points = read.Select(e => new ChartPoint(
                byTemperature ? e.TemperatureC : e.ExtrusionMultiplier, e.Expansion!.Value, e.Expansion - e.Uncertainty, e.Expansion + e.Uncertainty,
                !e.Stable ? "out"
                    : byTemperature && e.TemperatureC == v.ChosenTemperatureC ? "best"
                    : "",
                !e.Stable ? "blobs"
                    : byTemperature && e.ExtrusionMultiplier < most ? $"× {Say.N(e.ExtrusionMultiplier, 2)}"
                    : ""))
            .ToList();
        return new(byTemperature ? "nozzle, °C" : "multiplier", "expansion", points)
        {
            Line =
            [
                .. read.Where(e => e.Stable && (!byTemperature || e.ExtrusionMultiplier == most))
                    .Select(e => (byTemperature ? e.TemperatureC : e.ExtrusionMultiplier, e.Expansion!.Value)).OrderBy(x => x.Item1),
            ],
            Chosen = byTemperature ? v.ChosenTemperatureC : v.SuggestedMultiplier,
            Summary = v.Sentence,
        };
    }

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateRequest(
        double ReferenceWidthMm, double? ReferenceUncertaintyMm, double? TargetWidthMm, double ExtrusionMultiplier, double SolidDensityGPerCm3,
        double? TargetDensityGPerCm3, IReadOnlyList<EvaluateStep> Steps, double? ResolutionMm, EvaluateLimits? Limits, double? ResidualFlowPercent,
        bool? ResidualFlowStays);

    /// <summary>A step of the body: one wall, or several.</summary>
    public sealed record EvaluateStep(
        double TemperatureC, double ExtrusionMultiplier, double? WallMm, IReadOnlyList<double>? WallsMm, double? MassG, double? VolumeCm3, bool Stable);

    /// <summary>Machine limits, °C.</summary>
    public sealed record EvaluateLimits(double? Min, double? Max);

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(EvaluateRequest);

    /// <inheritdoc/>
    protected override FoamVerdict? Answer(JsonFields json)
    {
        var (percent, answer) = FlowOverride.Read(json);
        var readings = new FoamReadings
        {
            ReferenceWidthMm = (double)(json.Number("referenceWidthMm", true) ?? 0),
            ReferenceUncertaintyMm = (double)(json.Number("referenceUncertaintyMm") ?? 0),
            TargetWidthMm = (double?)json.Number("targetWidthMm"),
            ExtrusionMultiplier = (double)(json.Number("extrusionMultiplier") ?? 1),
            SolidDensityGPerCm3 = (double)(json.Number("solidDensityGPerCm3") ?? 1.24m),
            TargetDensityGPerCm3 = (double?)json.Number("targetDensityGPerCm3"),
            ResolutionMm = (double)(json.Number("resolutionMm") ?? 0.01m),
            MaxC = (double?)json.Object("limits")?.Number("max"),
            ResidualFlowPercent = percent,
            Override = answer,
            Steps =
            [
                .. (json.List("steps", true) ?? []).Select(x => new FoamStep(
                    (double)(x.Number("temperatureC", true) ?? 0), (double)(x.Number("extrusionMultiplier", true) ?? 0),
                    x.Number("wallMm") is { } w ? [(double)w] : [.. x.Values("wallsMm", false).Select(v => (double)v)], (double?)x.Number("massG"),
                    (double?)x.Number("volumeCm3"), x.FlagOr("stable", true))),
            ],
        };
        if (json.Errors.Count == 0)
            json.Take(FoamingJudging.Check(readings));
        return json.Errors.Count > 0 ? null : FoamingJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string Example =>
        """{"referenceWidthMm": 0.45, "extrusionMultiplier": 1, "solidDensityGPerCm3": 1.24, "steps": [{"temperatureC": 210,""" +
            """ "extrusionMultiplier": 1, "wallsMm": [0.5, 0.51, 0.5, 0.5], "stable": true}, {"temperatureC": 230, "extrusionMultiplier": 1,""" +
            """ "wallsMm": [0.8, 0.82, 0.81, 0.81], "stable": true}, {"temperatureC": 250, "extrusionMultiplier": 1, "wallsMm": [0.82, 0.83, 0.82,""" +
            """ 0.83], "stable": true}, {"temperatureC": 260, "extrusionMultiplier": 1, "wallsMm": [0.74, 0.75, 0.74, 0.75], "stable": true}]}""";
}
