using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Answer of a plan.</summary>
public sealed record TowerPlanAnswer(
    IReadOnlyList<TowerSection> Sections, int? LayersPerSection, int BaseLayers, int TotalLayers, decimal? HeightMm, decimal StepC, double? Slenderness,
    IReadOnlyList<TowerCheckpoint> Checkpoints, decimal WorstBoundaryErrorLayers, TrialEstimate Estimate, IReadOnlyList<PlanWarning> Warnings,
    IReadOnlyList<Settings.Offer> Offers);

/// <summary>Answer of an evaluation.</summary>
public sealed record TowerEvaluateAnswer(
    string Verdict, double? RecommendedTemperatureC, double? UncertaintyC, Band? Band, IReadOnlyList<double?> Desirability,
    IReadOnlyList<double?> WinProbability, IReadOnlyList<SectionVerdict> Sections, string Sentence, IReadOnlyList<string> Reasons,
    IReadOnlyList<string> Warnings, NextPrint? Next, IReadOnlyList<SettingValue> Settings, IReadOnlyList<string> CommonAspects, bool EdgeAtLimit, int Seed,
    string EngineVersion);

/// <summary>Reads a tower's plan and readings from JSON, as the API takes them.</summary>
public static class TowerInput
{
    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateBody(
        IReadOnlyList<EvaluateSection> Sections, Dictionary<string, double>? Weights, string? Preference, double? ScoreNoise,
        TemperatureRange? Limits, TemperatureRange? Advised, int? Seed);

    /// <summary>One section of the body.</summary>
    public sealed record EvaluateSection(
        double TemperatureC, string State, Dictionary<string, double>? Scores, double? ObservedC, IReadOnlyList<Dictionary<string, double>>? Repeats);

    internal static TowerRequest Request(JsonFields json)
    {
        var print = json.Object("print");
        var walls = print?.Number("walls");
        if (walls is { } w && Gcode.Writing.PrintChoices.WallsField.Check(w).Error is { } message)
            json.Refuse("print.walls", message);
        return new TowerRequest
        {
            HottestC = json.Number("hottestC"),
            CoolestC = json.Number("coolestC"),
            StepC = json.Number("stepC"),
            SectionHeightMm = json.Number("sectionHeightMm"),
            BaseHeightMm = json.Number("baseHeightMm"),
            LayerHeightMm = json.Number("layerHeightMm"),
            FirstLayerHeightMm = json.Number("firstLayerHeightMm"),
            TotalLayers = json.Number("totalLayers"),
            BaseLayers = json.Number("baseLayers"),
            Sections = json.Number("sections"),
            RoundByHeight = json.Flag("roundByHeight"),
            NozzleDiameterMm = json.Number("nozzleDiameterMm"),
            BedHeightMm = json.Number("bedHeightMm"),
            PieceDepthMm = json.Number("pieceDepthMm"),
            Brim = json.Flag("brim"),
            DensityGPerCm3 = json.Number("densityGPerCm3"),
            Limits = Range(json, "limits"),
            Advised = Range(json, "advised"),
            BridgeSpanMm = json.Number("bridgeSpanMm"),
            ReedGapMm = json.Number("reedGapMm"),
            SlabAngleDeg = json.Number("slabAngleDeg"),
            TextHeightMm = json.Number("textHeightMm"),
            Separate = json.Flag("separate"),
            WaitAtChanges = json.Flag("waitAtChanges"),
            Print = print is null
                ? null
                : new Gcode.Writing.PrintChoices(walls is null or > 6 ? 2 : (int)walls, print.Flag("outerFirst"), print.Flag("stadium")),
        };
    }

    internal static TowerVerdict? Evaluate(JsonFields json)
    {
        var sections = new List<SectionReading>();
        var origin = new List<int>();
        foreach (var (s, i) in (json.List("sections", true) ?? []).Select((s, i) => (s, i)))
        {
            var t = s.Number("temperatureC", true);
            var state = Enum.Parse<SectionState>(s.Word("state", ["judged", "failed", "lost"]) ?? "judged", true);
            var observed = (double?)s.Number("observedC");
            var repeats = s.List("repeats");
            var scores = s.Object("scores")?.Numbers() ?? [];
            if (scores.Count > 0 || repeats is not { Count: > 0 })
            {
                sections.Add(new((double)(t ?? 0), state, scores, observed));
                origin.Add(i);
            }

            foreach (var r in repeats ?? [])
            {
                sections.Add(new((double)(t ?? 0), state, (r.Object("scores") ?? r).Numbers(), observed));
                origin.Add(i);
            }
        }

        var readings = new TowerReadings
        {
            Sections = sections,
            Weights = json.Object("weights")?.Numbers(),
            Preference = Enum.Parse<Preference>(json.Word("preference", ["looks", "balanced", "strength"]) ?? "balanced", true),
            ScoreNoise = (double)(json.Number("scoreNoise") ?? 0.5m),
            Limits = Range(json, "limits"),
            Advised = Range(json, "advised"),
        };
        if (json.Number("seed") is { } seed)
        {
            if (seed < 0 || seed > int.MaxValue || seed != decimal.Truncate(seed))
                json.Refuse("seed", $"seed must be a whole number from 0 to {int.MaxValue}.");
            else
                readings = readings with { Seed = (int)seed };
        }

        if (json.Errors.Count == 0)
        {
            foreach (var e in TowerJudging.Check(readings))
                json.Refuse(OriginalField(e.Field, origin), e.Message);
        }

        return json.Errors.Count > 0 ? null : TowerJudging.Judge(readings) with { Rows = origin };
    }

    /// <summary>What the API answers: a row for each of the body's, whatever repeats it has.</summary>
    internal static TowerEvaluateAnswer AnswerOf(TowerVerdict v)
    {
        var rows = v.Rows.ToList();
        var first = Enumerable.Range(0, rows.Count == 0 ? 0 : rows.Max() + 1).Select(i => v.Sections[rows.IndexOf(i)]).ToList();
        return new(
            v.Verdict, v.RecommendedTemperatureC, v.UncertaintyC, v.Band, [.. first.Select(s => s.Desirability)], [.. first.Select(s => s.WinProbability)],
            first, v.Sentence, v.Reasons, v.Warnings, v.Next, v.Settings, v.CommonAspects, v.EdgeAtLimit, v.Seed, Trial.EngineVersion);
    }

    private static string OriginalField(string field, List<int> origin)
    {
        if (!field.StartsWith("sections[", StringComparison.Ordinal))
            return field;
        var end = field.IndexOf(']');
        return int.TryParse(field.AsSpan(9, end - 9), out var i) && i < origin.Count ? $"sections[{origin[i]}{field[end..]}" : field;
    }

    private static TemperatureRange? Range(JsonFields json, string name)
    {
        if (json.Object(name) is not { } o)
            return null;
        var range = new TemperatureRange(o.Number("min"), o.Number("max"), o.Number("continuousMax"));
        if (range is { Min: { } min, Max: { } max } && min > max)
            json.Refuse(name, $"{name}: the least ({min}) must not be above the most ({max}).");
        return range;
    }
}
