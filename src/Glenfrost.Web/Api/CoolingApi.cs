using Glenfrost.Application;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.Release;
using Glenfrost.Storage.Records;

namespace Glenfrost.Web.Api;

/// <summary>A bed's own cooling as a logger posts it: fitted here, and stored as a reading of a release run.</summary>
public static class CoolingApi
{
    /// <summary>A log, for the description only.</summary>
    /// <param name="Key">Made by the device, 1 to 80 characters: the same key is stored once.</param>
    /// <param name="Log">Bed as it cools, left to itself, in the order of time.</param>
    /// <param name="AirC">Air around the bed, °C; left out where the run's plan says it.</param>
    /// <param name="Section">Print that it belongs to, from 0; left out for the next one without a cooling.</param>
    public sealed record Body(string Key, IReadOnlyList<LoggedBed> Log, double? AirC, int? Section);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/v1/runs/{id:guid}/cooling", (Delegate)PostAsync).WithName("postCooling").WithTags("readings").DisableAntiforgery()
            .WithSummary(
                "Fits a bed's own cooling from a log and stores it as a reading of a release run, minutes to 1/e of what the bed is above the air; needs a " +
                    "device's token as Bearer. Idempotent by key")
            .Accepts<Body>("application/json").Produces<ReadingApi.Answer>().Produces<ReadingApi.Answer>(201).ProducesProblem(400).ProducesProblem(401)
            .ProducesProblem(404).ProducesProblem(409).ProducesProblem(415).ProducesValidationProblem(422);

    private static async Task<IResult> PostAsync(Guid id, HttpContext context, TrialRuns runs, ReadingStore store, Instruments instruments)
    {
        var (json, problem) = await TrialApi.OpenAsync(context);
        if (json is null)
            return problem!;
        var key = json.Text("key", 80);
        if (string.IsNullOrWhiteSpace(key))
            json.Refuse("key", "key is missing: a text of 1 to 80 characters that this log alone carries, so that it is stored once.");
        var section = json.Whole("section", 0, 199);
        var log = ReleaseTrial.LogOf(json);
        if (log is null && !json.Errors.ContainsKey("log"))
            json.Refuse("log", "log is missing: a list of minute and bedC would be right.");
        var air = json.Number("airC");
        if (air is not null and not (>= -20 and <= 120))
            json.Refuse("airC", $"{Words.N(air.Value)} °C is no air around a bed: -20 to 120 would be right.");
        if (json.Errors.Count > 0)
            return TrialApi.Refused(json.Errors);
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return Results.Problem("There is no such run, or it was removed.", statusCode: 404, title: "Not here");
        if (v.Plan is not ReleasePlan plan)
            return Results.Problem("A cooling belongs to a run of the trial release.", statusCode: 409, title: "Not of this run");
        if ((air ?? plan.Request.SurroundingsC) is not { } around)
            json.Refuse("airC", "airC is missing: neither the log nor the run's plan says what air was around the bed.");
        else if (CoolingLog.Constant(log!, (double)around) is (null, { } fault))
            json.Take([fault]);
        else
        {
            var minutes = CoolingLog.Constant(log!, (double)around).Minutes!.Value;
            var revision = await instruments.RevisionAsync("bed log", "other", 0.1, "min", 1);
            return await ReadingApi.StoreAsync(id, section, ReleaseTrial.Cooled, new(key!, Words.N(minutes, 1), "log", revision, 0.1), runs, store);
        }

        return TrialApi.Refused(json.Errors);
    }
}
