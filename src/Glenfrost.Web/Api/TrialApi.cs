using Microsoft.OpenApi;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.TestPieces;
using System.Text.Json;
using System.Text.Json.Serialization;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.OpenApi;

namespace Glenfrost.Web.Api;

/// <summary>
/// The computation of every trial over JSON, without any stored data. Indexes are 0-based, layers count from 1, `uncertainty` is the 95 % half-width.
/// </summary>
public static class TrialApi
{
    private static readonly JsonSerializerOptions Answer = new(Json.Options)
    {
        // Warnings are stored as kinds and answered in words; the first converter that fits is taken.
        Converters = { new SaidWarningConverter(), new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.Never,
    };

    /// <summary>Body of a file, for the description only: the fields of the trial's plan stand beside these.</summary>
    public sealed record GcodeBody(MachineEndpoints.Body Machine, Dictionary<string, double>? Settings, string? Family);

    public static void Describe(OpenApiOptions options)
    {
        options.AddSchemaTransformer((schema, context, _) =>
        {
            // Its converter answers a sentence; the describer cannot see that.
            if (context.JsonTypeInfo.ElementType == typeof(PlanWarning))
                schema.Items = new OpenApiSchema { Type = JsonSchemaType.String };
            return Task.CompletedTask;
        });
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info.Title = "Glenfrost";
                document.Info.Version = "v1";
                document.Info.Description =
                    "The computation of trials. Temperatures in °C, lengths in mm, masses in g, times in s unless the name says otherwise. Section indexes " +
                        "count from 0, layers from 1. Bad input is answered with 422 and problem details keyed by field. Fields are only added.";
                return Task.CompletedTask;
            });
    }

    public static void Map(IEndpointRouteBuilder app)
    {
        foreach (var trial in TrialCatalogue.All)
        {
            var name = string.Concat(trial.Kind.Split('-').Select(w => char.ToUpperInvariant(w[0]) + w[1..]));
            var (planBody, planAnswer, evaluateBody, evaluateAnswer) = trial.ApiTypes;
            var group = app.MapGroup($"/api/v1/trials/{trial.Kind}").WithTags(trial.Kind).DisableAntiforgery();
            Task<IResult> Plan(HttpContext context) => PlanAsync(trial, context);
            Task<IResult> Gcode(HttpContext context, TimeProvider clock, Pieces pieces) => GcodeAsync(trial, context, clock, pieces);
            Task<IResult> Evaluate(HttpContext context) => EvaluateAsync(trial, context);
            group.MapPost("/plan", (Delegate)Plan).WithName($"plan{name}").WithSummary($"The plan of {Words.Lower(trial.Name)}. {trial.Purpose}")
                .Accepts(planBody, "application/json").Produces(200, planAnswer).ProducesProblem(400).ProducesProblem(415).ProducesValidationProblem(422);
            group.MapPost("/gcode", (Delegate)Gcode).WithName($"write{name}")
                .WithSummary(
                    "Its G-code, for a machine described in the request, with settings by key of the settings dictionary; the plan's fields stand beside them")
                .Accepts<GcodeBody>("application/json").Produces<string>(200, "text/x.gcode").ProducesProblem(400).ProducesProblem(415)
                .ProducesValidationProblem(422);
            group.MapPost("/evaluate", (Delegate)Evaluate).WithName($"evaluate{name}").WithSummary("The verdict on its readings")
                .Accepts(evaluateBody, "application/json").Produces(200, evaluateAnswer).ProducesProblem(400).ProducesProblem(415)
                .ProducesValidationProblem(422);
        }
    }

    private static async Task<IResult> PlanAsync(Trial trial, HttpContext context)
    {
        var (json, problem) = await OpenAsync(context);
        if (json is null)
            return problem!;
        var plan = PlanOf(trial, json, ContextOf(trial, json, false, context.RequestAborted), out var refused);
        return plan is null ? refused! : Results.Json(trial.PlanAnswer(plan), Answer);
    }

    /// <summary>The file for a machine that is described in the request.</summary>
    private static async Task<IResult> GcodeAsync(Trial trial, HttpContext context, TimeProvider clock, Pieces pieces)
    {
        var (json, problem) = await OpenAsync(context);
        if (json is null)
            return problem!;
        var c = ContextOf(trial, json, true, context.RequestAborted);
        var plan = PlanOf(trial, json, c, out var refused);
        if (plan is null)
            return refused!;
        if (!plan.WritesFile)
            return RefusedFields([trial.NoFile]);
        var (_, file, misfits) = pieces.Make(trial, plan, c);
        if (file is null)
            return RefusedFields(misfits);
        using var to = new StringWriter(System.Globalization.CultureInfo.InvariantCulture);
        if (file.Job is { } job)
            GcodeWriter.Write(job, new(Trial.EngineVersion, clock.GetUtcNow().UtcDateTime), to);
        foreach (var line in file.Lines ?? [])
            to.Write(line + "\n");
        if (FileRefusedException.Of(to.ToString(), file.Machine) is { } left)
            return RefusedFields(left.Errors);

        return Results.Text(to.ToString(), "text/x.gcode", System.Text.Encoding.ASCII);
    }

    private static async Task<IResult> EvaluateAsync(Trial trial, HttpContext context)
    {
        var (json, problem) = await OpenAsync(context);
        if (json is null)
            return problem!;
        return trial.Evaluate(json) is not { } verdict || json.Errors.Count > 0 ? Refused(json.Errors)
            : Results.Json(trial.EvaluateAnswer(Application.Trials.VerdictWords.Tell(verdict)), Answer);
    }

    private static ITrialPlan? PlanOf(Trial trial, JsonFields json, PlanContext c, out IResult? refused)
    {
        var (plan, errors) = trial.PlanFrom(json, c);
        refused = json.Errors.Count > 0 ? Refused(json.Errors) : plan is null ? RefusedFields(errors) : null;
        return refused is null ? plan : null;
    }

    /// <summary>Machine, settings and family of a request, or what stands where nothing is said.</summary>
    private static PlanContext ContextOf(Trial trial, JsonFields json, bool needed, CancellationToken left)
    {
        var machine = MachineEndpoints.Read(
            json.Object("machine"), trial is Core.Trials.TemperatureTower.TemperatureTowerTrial ? json.Number("nozzleDiameterMm") : null);
        var kept = json.Object("settings")?.Numbers() ?? [];
        foreach (var (key, value) in kept)
        {
            if (Core.Settings.SettingRegistry.Find(key) is not { } setting)
                json.Refuse($"settings.{key}", $"{key} is not a key of the settings dictionary, for example nozzleTemperatureC or retractionLengthMm.");
            else if (setting.Quantity.Check((decimal)value).Error is { } message)
                json.Refuse($"settings.{key}", message);
        }

        var family = Core.Filaments.Family.Find(json.Word("family", [.. Core.Filaments.Family.All.Select(f => f.Name)]));
        if (needed && machine is null && json.Errors.Count == 0)
            json.Refuse("machine", "machine is missing: name, dialect, bedXMm, bedYMm, heightMm, limits and more as in the description.");
        return new()
        {
            // A machine that is refused in part is none: the plan's own fields are checked all the same.
            Machine = json.Errors.Count > 0 ? null : machine,
            Settings = machine is null || json.Errors.Count > 0 ? null : PrintSettings.From(kept, machine, family),
            Kept = kept,
            Family = family,
            Memory = new LeavingMemory(Core.TestPieces.PieceMemory.None, left),
            AdvisedC = json.Object("advised") is { } a ? new((double?)a.Number("min"), (double?)a.Number("max")) : family?.NozzleC,
            Subject = "over the API",
        };
    }

    /// <summary>Reads a JSON body; what is no JSON is answered.</summary>
    internal static async Task<(JsonFields? Door, IResult? Problem)> OpenAsync(HttpContext context)
    {
        if (!context.Request.HasJsonContentType())
            return (null, Results.Problem("Send JSON with the content type application/json.", statusCode: 415, title: "Not JSON"));
        try
        {
            var document = await JsonDocument.ParseAsync(context.Request.Body, new JsonDocumentOptions { MaxDepth = 32 });
            if (document.RootElement.ValueKind != JsonValueKind.Object)
                return (null, Refused(new() { [""] = ["The body must be a JSON object."] }));
            return NoText(document.RootElement, "") is { } field
                ? (null, Refused(new() { [field] = ["This holds half of a character, or bytes that are no UTF-8: text in UTF-8 would be right."] }))
                : (new JsonFields(document.RootElement), null);
        }
        catch (JsonException e)
        {
            return (
                null,
                Results.Problem(
                    $"The body is not JSON that can be read: line {e.LineNumber + 1}, byte {e.BytePositionInLine + 1}.", statusCode: 400, title: "Not JSON"));
        }
        catch (BadHttpRequestException e)
        {
            return (
                null, Results.Problem("The body is larger than 2 MB; a plan or an evaluation needs far less.", statusCode: e.StatusCode, title: "Too large"));
        }
    }

    /// <summary>The path of the first text that can't be read as one, names of fields included; null where all can.</summary>
    private static string? NoText(JsonElement e, string path)
    {
        try
        {
            switch (e.ValueKind)
            {
                case JsonValueKind.String:
                    e.GetString();
                    return null;
                case JsonValueKind.Array:
                    var i = 0;
                    foreach (var x in e.EnumerateArray())
                    {
                        if (NoText(x, $"{path}[{i++}]") is { } wrong)
                            return wrong;
                    }

                    return null;
                case JsonValueKind.Object:
                    foreach (var p in e.EnumerateObject())
                    {
                        if (NoText(p.Value, path.Length == 0 ? p.Name : $"{path}.{p.Name}") is { } wrong)
                            return wrong;
                    }

                    return null;
                default:
                    return null;
            }
        }
        catch (InvalidOperationException)
        {
            return path;
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
