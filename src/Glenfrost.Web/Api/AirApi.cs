using Glenfrost.Application;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Web.Api;

/// <summary>Air around a print as an instrument posts it: room and chamber of a run at its start and end, and the room's own log.</summary>
public static class AirApi
{
    /// <summary>Air of a run, for the description only.</summary>
    /// <param name="Moment">start or end of the print.</param>
    /// <param name="RoomC">Air of the room, °C.</param>
    /// <param name="ChamberC">Air around the part, °C.</param>
    /// <param name="HumidityPercent">Relative humidity of the room, %; at the start only.</param>
    public sealed record Body(string Moment, double? RoomC, double? ChamberC, double? HumidityPercent);

    /// <summary>Air of the room, for the description only.</summary>
    /// <param name="TemperatureC">°C.</param>
    /// <param name="HumidityPercent">Relative humidity, %; left out where it is not read.</param>
    /// <param name="Key">Made by the device, 1 to 80 characters: the same key is logged once, so that a lost answer may be asked for again.</param>
    public sealed record RoomBody(double TemperatureC, double? HumidityPercent, string Key);

    /// <summary>How many conditions were noted; those that stood so already are not noted again.</summary>
    public sealed record Answer(int Noted);

    /// <summary>What was logged; the same where the key was known.</summary>
    public sealed record RoomAnswer(string Status, string Text);

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/v1/runs/{id:guid}/air", (Delegate)OfRunAsync).WithName("postAir").WithTags("readings").DisableAntiforgery()
            .WithSummary("Notes room and chamber of a run at its start or end; needs a device's token as Bearer. Posted twice it stands once")
            .Accepts<Body>("application/json").Produces<Answer>().ProducesProblem(400).ProducesProblem(401).ProducesProblem(404).ProducesProblem(409)
            .ProducesProblem(415).ProducesValidationProblem(422);
        app.MapPost("/api/v1/room", (Delegate)OfRoomAsync).WithName("postRoom").WithTags("readings").DisableAntiforgery()
            .WithSummary("Logs the room; needs a device's token as Bearer. Idempotent by key")
            .Accepts<RoomBody>("application/json").Produces<RoomAnswer>().Produces<RoomAnswer>(201).ProducesProblem(400).ProducesProblem(401)
            .ProducesProblem(415).ProducesValidationProblem(422);
    }

    private static async Task<IResult> OfRunAsync(Guid id, HttpContext context, TrialRuns runs, PrintReports reports)
    {
        var (json, problem) = await TrialApi.OpenAsync(context);
        if (json is null)
            return problem!;
        var ends = json.Word("moment", ["start", "end"], true) == "end";
        var values = new Dictionary<string, FactorValue>();
        void Take(string field, string factor, Quantity quantity)
        {
            if (Number(json, field, quantity) is { } n)
                values[factor] = FactorValue.Of(n, FactorSource.Instrument);
        }

        Take("roomC", ends ? FactorRegistry.RoomEndC : FactorRegistry.RoomC, RecordFields.RoomC);
        Take("chamberC", ends ? FactorRegistry.ChamberEndC : FactorRegistry.ChamberC, RecordFields.ChamberAirC);
        if (ends && json.Number("humidityPercent") is not null)
            json.Refuse("humidityPercent", "Humidity is noted at the start: leave it out at the end.");
        Take("humidityPercent", FactorRegistry.HumidityPercent, RecordFields.HumidityPercent);
        if (json.Errors.Count == 0 && values.Count == 0)
            json.Refuse("roomC", "Nothing was measured: roomC, chamberC or humidityPercent would be right.");
        if (json.Errors.Count > 0)
            return TrialApi.Refused(json.Errors);
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return Results.Problem("There is no such run, or it was removed.", statusCode: 404, title: "Not here");
        if (v.Run.Stage is RunStages.Decided or RunStages.Left)
            return Results.Problem("This run is decided; undo that on its page before its conditions change.", statusCode: 409, title: "Not open");
        return Results.Json(new Answer(await reports.ConditionsAsync(v, values)), Json.Options);
    }

    private static async Task<IResult> OfRoomAsync(HttpContext context, RoomBook room)
    {
        var (json, problem) = await TrialApi.OpenAsync(context);
        if (json is null)
            return problem!;
        var key = json.Text("key", 80);
        if (string.IsNullOrWhiteSpace(key))
            json.Refuse("key", "key is missing: a text of 1 to 80 characters that this entry alone carries, so that it is logged once.");
        var temperature = Number(json, "temperatureC", RecordFields.RoomC, true);
        var humidity = Number(json, "humidityPercent", RecordFields.HumidityPercent);
        if (json.Errors.Count > 0)
            return TrialApi.Refused(json.Errors);
        var (text, isNew) = await room.LogOnceAsync(key!, temperature!.Value, humidity);
        return Results.Json(new RoomAnswer(isNew ? "saved" : "same", text), Json.Options, statusCode: isNew ? 201 : 200);
    }

    private static double? Number(JsonFields json, string field, Quantity quantity, bool required = false)
    {
        if (json.Number(field, required) is not { } n)
            return null;
        if (quantity.Check(n).Error is { } message)
            json.Refuse(field, message);
        return (double)n;
    }
}
