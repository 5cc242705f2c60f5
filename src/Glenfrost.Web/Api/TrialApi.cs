using System.Text.Json;
using System.Text.Json.Serialization;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.OpenApi;

namespace Glenfrost.Web.Api;

/// <summary>The computation of trials over JSON, without any stored data. Indexes are 0-based, layers count from 1, `uncertainty` is the 95 % half-width.</summary>
public static class TrialApi
{
    private static readonly JsonSerializerOptions Answer = new(Json.Options) { DefaultIgnoreCondition = JsonIgnoreCondition.Never };

    /// <summary>Answer of a plan.</summary>
    public sealed record PlanAnswer(
        IReadOnlyList<TowerSection> Sections, int? LayersPerSection, int BaseLayers, int TotalLayers, decimal? HeightMm, decimal StepC, double? Slenderness,
        IReadOnlyList<TowerCheckpoint> Checkpoints, decimal WorstBoundaryErrorLayers, TowerEstimate Estimate, IReadOnlyList<string> Warnings,
        IReadOnlyList<Core.Settings.Offer> Offers);

    /// <summary>Answer of an evaluation.</summary>
    public sealed record EvaluateAnswer(
        string Verdict, double? RecommendedTemperatureC, double? UncertaintyC, Band? Band, IReadOnlyList<double?> Desirability, IReadOnlyList<double?> WinProbability,
        IReadOnlyList<SectionVerdict> Sections, string Sentence, IReadOnlyList<string> Reasons, IReadOnlyList<string> Warnings, NextPrint? Next,
        IReadOnlyList<SettingValue> Settings, IReadOnlyList<string> CommonAspects, bool EdgeAtLimit, int Seed, string EngineVersion);

    /// <summary>Body of a file, for the description only: the fields of a plan beside it.</summary>
    public sealed record GcodeBody(MachineDoor.Body Machine, Dictionary<string, double>? Settings, string? Family, PrintChoices? Print,
        decimal HottestC, decimal CoolestC, decimal StepC, decimal SectionHeightMm, decimal BaseHeightMm, decimal LayerHeightMm, decimal FirstLayerHeightMm, bool Separate, bool WaitAtChanges);

    /// <summary>Body of an evaluation, for the description only.</summary>
    public sealed record EvaluateBody(
        IReadOnlyList<EvaluateSection> Sections, Dictionary<string, double>? Weights, string? Preference, double? ScoreNoise,
        TemperatureRange? Limits, TemperatureRange? Advised, int? Seed);

    /// <summary>One section of the body.</summary>
    public sealed record EvaluateSection(
        double TemperatureC, string State, Dictionary<string, double>? Scores, double? ObservedC, IReadOnlyList<Dictionary<string, double>>? Repeats);

    public static void Describe(OpenApiOptions options) => options.AddDocumentTransformer((document, _, _) =>
    {
        document.Info.Title = "Glenfrost";
        document.Info.Version = "v1";
        document.Info.Description = "The computation of trials. Temperatures in °C, lengths in mm, masses in g, times in s unless the name says otherwise. Section indexes count from 0, layers from 1. Bad input is answered with 422 and problem details keyed by field. Fields are only added.";
        return Task.CompletedTask;
    });

    public static void Map(IEndpointRouteBuilder app)
    {
        var tower = app.MapGroup("/api/v1/trials/temperature-tower").WithTags("temperature-tower").DisableAntiforgery();
        tower.MapPost("/plan", (Delegate)PlanAsync).WithName("planTemperatureTower")
            .WithSummary("Sections, layers and checkpoints of a temperature tower, hottest at the bottom")
            .Accepts<TowerRequest>("application/json").Produces<PlanAnswer>().ProducesProblem(400).ProducesProblem(415).ProducesValidationProblem(422);
        tower.MapPost("/gcode", (Delegate)GcodeAsync).WithName("writeTemperatureTower")
            .WithSummary("The G-code of Glenfrost's own tower for a machine described in the request, with settings by key of the settings dictionary")
            .Accepts<GcodeBody>("application/json").Produces<string>(200, "text/x.gcode").ProducesProblem(400).ProducesProblem(415).ProducesValidationProblem(422);
        tower.MapPost("/evaluate", (Delegate)EvaluateAsync).WithName("evaluateTemperatureTower")
            .WithSummary("The verdict on the readings of a temperature tower")
            .Accepts<EvaluateBody>("application/json").Produces<EvaluateAnswer>().ProducesProblem(400).ProducesProblem(415).ProducesValidationProblem(422);
    }

    private static async Task<IResult> PlanAsync(HttpContext context)
    {
        var (door, problem) = await OpenAsync(context);
        if (door is null)
            return problem!;
        var request = Request(door);
        if (door.Errors.Count > 0)
            return Refused(door.Errors);
        var (plan, errors) = TowerPlanning.Plan(request);
        if (plan is null)
            return RefusedFields(errors);
        return Results.Json(new PlanAnswer(plan.Sections, plan.LayersPerSection, plan.BaseLayers, plan.TotalLayers, plan.HeightMm, plan.StepC, plan.Slenderness,
            plan.Checkpoints, plan.WorstBoundaryErrorLayers, plan.Estimate, plan.Warnings, plan.Offers), Answer);
    }

    /// <summary>The file of Glenfrost's own piece for a machine that is described in the request.</summary>
    private static async Task<IResult> GcodeAsync(HttpContext context, TimeProvider clock)
    {
        var (door, problem) = await OpenAsync(context);
        if (door is null)
            return problem!;
        var request = Request(door);
        var machine = MachineDoor.Read(door.Object("machine"), request);
        var kept = door.Object("settings")?.Numbers() ?? [];
        foreach (var (key, value) in kept)
        {
            if (Core.Settings.SettingRegistry.Find(key) is not { } setting)
                door.Refuse($"settings.{key}", $"{key} is not a key of the settings dictionary, for example nozzleTemperatureC or retractionLengthMm.");
            else if (setting.Quantity.Check((decimal)value).Error is { } message)
                door.Refuse($"settings.{key}", message);
        }

        var family = door.Word("family", [.. Core.Filaments.Family.All.Select(f => f.Name)]);
        if (request.IsOwnModel)
            door.Refuse("totalLayers", "Glenfrost writes files of its own piece: sectionHeightMm, baseHeightMm, layerHeightMm and firstLayerHeightMm would be right.");
        if (machine is null && door.Errors.Count == 0)
            door.Refuse("machine", "machine is missing: name, dialect, bedXMm, bedYMm, heightMm, limits and more as in the description.");
        if (door.Errors.Count > 0)
            return Refused(door.Errors);
        var (plan, errors) = TowerPlanning.Plan(request with { Limits = new((decimal)machine!.Limits.MinC, (decimal)machine.Limits.MaxC), NozzleDiameterMm = (decimal)machine.NozzleDiameterMm, BedHeightMm = (decimal)machine.HeightMm });
        if (plan is null)
            return RefusedFields(errors);
        var (job, misfits) = TowerPiece.Make(plan, machine, PrintSettings.From(kept, machine, Core.Filaments.Family.Find(family)), "over the API");
        if (job is null)
            return RefusedFields(misfits);
        var to = new StringWriter(System.Globalization.CultureInfo.InvariantCulture);
        GcodeWriter.Write(job, new(TowerRuns.EngineVersion, clock.GetUtcNow().UtcDateTime), to);
        return Results.Text(to.ToString(), "text/x.gcode", System.Text.Encoding.ASCII);
    }

    private static TowerRequest Request(JsonDoor door)
    {
        var print = door.Object("print");
        var walls = print?.Number("walls");
        if (walls is { } w && PrintChoices.WallsField.Check(w).Error is { } message)
            door.Refuse("print.walls", message);
        return new TowerRequest
        {
            HottestC = door.Number("hottestC"),
            CoolestC = door.Number("coolestC"),
            StepC = door.Number("stepC"),
            SectionHeightMm = door.Number("sectionHeightMm"),
            BaseHeightMm = door.Number("baseHeightMm"),
            LayerHeightMm = door.Number("layerHeightMm"),
            FirstLayerHeightMm = door.Number("firstLayerHeightMm"),
            TotalLayers = door.Number("totalLayers"),
            BaseLayers = door.Number("baseLayers"),
            Sections = door.Number("sections"),
            RoundByHeight = door.Flag("roundByHeight"),
            NozzleDiameterMm = door.Number("nozzleDiameterMm"),
            BedHeightMm = door.Number("bedHeightMm"),
            PieceDepthMm = door.Number("pieceDepthMm"),
            Brim = door.Flag("brim"),
            DensityGPerCm3 = door.Number("densityGPerCm3"),
            Limits = Range(door, "limits"),
            Advised = Range(door, "advised"),
            BridgeSpanMm = door.Number("bridgeSpanMm"),
            ReedGapMm = door.Number("reedGapMm"),
            SlabAngleDeg = door.Number("slabAngleDeg"),
            TextHeightMm = door.Number("textHeightMm"),
            Separate = door.Flag("separate"),
            WaitAtChanges = door.Flag("waitAtChanges"),
            Print = print is null ? null : new(walls is null or > 6 ? 2 : (int)walls, print.Flag("outerFirst"), print.Flag("stadium")),
        };
    }

    private static async Task<IResult> EvaluateAsync(HttpContext context)
    {
        var (door, problem) = await OpenAsync(context);
        if (door is null)
            return problem!;
        var sections = new List<SectionReading>();
        var origin = new List<int>();
        foreach (var (s, i) in (door.List("sections", true) ?? []).Select((s, i) => (s, i)))
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
            Weights = door.Object("weights")?.Numbers(),
            Preference = Enum.Parse<Preference>(door.Word("preference", ["looks", "balanced", "strength"]) ?? "balanced", true),
            ScoreNoise = (double)(door.Number("scoreNoise") ?? 0.5m),
            Limits = Range(door, "limits"),
            Advised = Range(door, "advised"),
        };
        if (door.Number("seed") is { } seed)
        {
            if (seed < 0 || seed > int.MaxValue || seed != decimal.Truncate(seed))
                door.Refuse("seed", $"seed must be a whole number from 0 to {int.MaxValue}.");
            else
                readings = readings with { Seed = (int)seed };
        }

        if (door.Errors.Count == 0)
        {
            foreach (var e in TowerJudging.Check(readings))
                door.Refuse(OriginalField(e.Field, origin), e.Message);
        }

        if (door.Errors.Count > 0)
            return Refused(door.Errors);
        var v = TowerJudging.Judge(readings);
        var first = Enumerable.Range(0, origin.Count == 0 ? 0 : origin.Max() + 1).Select(i => v.Sections[origin.IndexOf(i)]).ToList();
        return Results.Json(new EvaluateAnswer(v.Verdict, v.RecommendedTemperatureC, v.UncertaintyC, v.Band, [.. first.Select(s => s.Desirability)], [.. first.Select(s => s.WinProbability)],
            first, v.Sentence, v.Reasons, v.Warnings, v.Next, v.Settings, v.CommonAspects, v.EdgeAtLimit, v.Seed, TowerRuns.EngineVersion), Answer);
    }

    private static string OriginalField(string field, List<int> origin)
    {
        if (!field.StartsWith("sections[", StringComparison.Ordinal))
            return field;
        var end = field.IndexOf(']');
        return int.TryParse(field.AsSpan(9, end - 9), out var i) && i < origin.Count ? $"sections[{origin[i]}{field[end..]}" : field;
    }

    private static TemperatureRange? Range(JsonDoor door, string name)
    {
        if (door.Object(name) is not { } o)
            return null;
        var range = new TemperatureRange(o.Number("min"), o.Number("max"), o.Number("continuousMax"));
        if (range is { Min: { } min, Max: { } max } && min > max)
            door.Refuse(name, $"{name}: the least ({min}) must not be above the most ({max}).");
        return range;
    }

    /// <summary>Reads a JSON body; what is no JSON is answered.</summary>
    internal static async Task<(JsonDoor? Door, IResult? Problem)> OpenAsync(HttpContext context)
    {
        if (!context.Request.HasJsonContentType())
            return (null, Results.Problem("Send JSON with the content type application/json.", statusCode: 415, title: "Not JSON"));
        try
        {
            var document = await JsonDocument.ParseAsync(context.Request.Body, new JsonDocumentOptions { MaxDepth = 32 });
            return document.RootElement.ValueKind == JsonValueKind.Object
                ? (new JsonDoor(document.RootElement), null)
                : (null, Refused(new() { [""] = ["The body must be a JSON object."] }));
        }
        catch (JsonException e)
        {
            return (null, Results.Problem($"The body is not JSON that can be read: line {e.LineNumber + 1}, byte {e.BytePositionInLine + 1}.", statusCode: 400, title: "Not JSON"));
        }
        catch (BadHttpRequestException e)
        {
            return (null, Results.Problem("The body is larger than 2 MB; a plan or an evaluation needs far less.", statusCode: e.StatusCode, title: "Too large"));
        }
    }

    private static IResult RefusedFields(IReadOnlyList<Core.Settings.FieldError> errors) =>
        Refused(errors.GroupBy(e => e.Field).ToDictionary(g => g.Key, g => g.Select(e => e.Message).ToList()),
            errors.Where(e => e.Offers.Count > 0).GroupBy(e => e.Field).ToDictionary(g => g.Key, g => g.First().Offers));

    /// <summary>422 with messages by field.</summary>
    internal static IResult Refused(Dictionary<string, List<string>> errors, Dictionary<string, IReadOnlyList<Core.Settings.Offer>>? offers = null) =>
        Results.ValidationProblem(errors.ToDictionary(e => e.Key, e => e.Value.ToArray()), statusCode: 422,
            title: errors.Count == 1 ? "One field needs another look" : $"{errors.Count} fields need another look",
            extensions: offers is { Count: > 0 } ? new Dictionary<string, object?> { ["offers"] = offers } : null);
}
