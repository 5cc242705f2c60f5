using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Api;

/// <summary>Readings posted by devices: a scale, a calliper on a small computer, a script. Each device has a token of its own.</summary>
public static class ReadingApi
{
    /// <summary>Body, for the description only.</summary>
    /// <param name="Key">Made by the device, 1 to 80 characters; the same key is stored once, so a lost answer may be asked for again.</param>
    /// <param name="Text">The reading as text, with comma or point and its unit where it has one; or <paramref name="Value"/>.</param>
    /// <param name="Value">The reading as a number.</param>
    /// <param name="Aspect">bridge, overhang, strings, surface, bond (0–4, m missing), observedC (°C), massG (g, the whole piece, section 0) or state (judged,
    /// failed, lost); the aspect of the next open cell where it is left out.</param>
    /// <param name="Section">From 0, lowest first; the next open one of that aspect where it is left out.</param>
    /// <param name="Supersedes">Id of the reading that it corrects.</param>
    /// <param name="Why">Why, for a correction after a minute.</param>
    /// <param name="Instrument">Name of the instrument; one that begins with "simulated" is a stand-in and marked as such. Made where it is new.</param>
    /// <param name="Resolution">Its smallest step, in the reading's unit; needs <paramref name="Instrument"/>.</param>
    /// <param name="Unit">N or kgf, of a force: stored in the run's own.</param>
    public sealed record Body(
        string Key, string? Text, double? Value, string? Aspect, int? Section, Guid? Supersedes, string? Why, string? Instrument, double? Resolution,
        string? Unit);

    /// <summary>What a run still waits for, and where its sections are on the piece.</summary>
    /// <param name="Stage">planned, printed, read, decided or left; readings are taken while it is printed or read.</param>
    /// <param name="Separate">True where each section is a piece of its own.</param>
    /// <param name="Sections">Lowest and hottest first.</param>
    /// <param name="Open">Open cells in the order in which they are read.</param>
    public sealed record OpenSheet(string Stage, string Kind, bool Separate, IReadOnlyList<SheetSection> Sections, IReadOnlyList<OpenCell> Open);

    /// <summary>A part of a run's piece.</summary>
    /// <param name="Index">From 0.</param>
    /// <param name="TemperatureC">Nozzle, °C; null where it is the piece's own.</param>
    /// <param name="Part">As it is called.</param>
    /// <param name="FromZMm">Lower edge, mm; null where it is not known.</param>
    /// <param name="ToZMm">Upper edge.</param>
    /// <param name="FirstLayer">From 1; 0 where it is not a matter of layers.</param>
    /// <param name="LastLayer">Last layer.</param>
    public sealed record SheetSection(int Index, double? TemperatureC, string Part, double? FromZMm, double? ToZMm, int FirstLayer, int LastLayer);

    /// <summary>A cell that waits for a reading.</summary>
    /// <param name="Section">From 0.</param>
    /// <param name="Aspect">What is read.</param>
    /// <param name="TemperatureC">Nozzle that the part was printed at, °C; null where it is of no part.</param>
    /// <param name="Part">As the part is called.</param>
    public sealed record OpenCell(int Section, string Aspect, double? TemperatureC, string Part);

    /// <summary>Answer: where the reading went and which cell is open next.</summary>
    public sealed record Answer(
        string Status, Guid Id, int Section, string Aspect, double? TemperatureC, string Part, string Text, bool Questioned, string? Message, OpenCell? Next,
        int Open);

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/api/v1/runs/{id:guid}/open", (Delegate)OpenAsync).WithName("openCells").WithTags("readings")
            .WithSummary("Sections of a run with their heights on the piece, and the cells that wait for a reading; needs a device's token as Bearer")
            .Produces<OpenSheet>().ProducesProblem(401).ProducesProblem(404);
        app.MapPost("/api/v1/runs/{id:guid}/readings", (Delegate)PostAsync).WithName("postReading").WithTags("readings").DisableAntiforgery()
            .WithSummary(
                "Stores one reading of a printed run; needs a device's token as Bearer. Idempotent by key; goes to the next open cell unless section and " +
                    "aspect are named"
            ).Accepts<Body>("application/json").Produces<Answer>().Produces<Answer>(201).ProducesProblem(400).ProducesProblem(401).ProducesProblem(404)
            .ProducesProblem(409).ProducesProblem(415).ProducesValidationProblem(422);
    }

    private static async Task<IResult> OpenAsync(Guid id, HttpContext context, DeviceBook devices, Caller caller, TrialRuns runs)
    {
        return await runs.LoadAsync(id) is not { Run.RemovedAt: null } v
            ? Gone()
            : Results.Json(
                new OpenSheet(
                    v.Run.Stage, v.Run.Kind, v.Plan.LayersPerPiece is not null,
                    [.. v.Trial.SheetParts(v.Plan).Select(p => new SheetSection(p.Index, p.NozzleC, p.Label, p.FromZMm, p.ToZMm, p.FirstLayer, p.LastLayer))],
                    [.. v.Empty.Select(c => new OpenCell(c.Section, c.Aspect, v.Parts[c.Section].NozzleC, v.Parts[c.Section].Label))]),
                Json.Options);
    }

    /// <summary>The unit of what is read: its column's own; g for a piece on the scale, °C for a display, none for a score.</summary>
    private static string UnitOf(ReadingGrid? grid, string? aspect) =>
        (aspect ?? grid?.Wanted.FirstOrDefault().Aspect) is { } of && grid?.Column(of) is { Kind: CellKind.Number, Quantity: { } q } ? q.Unit
        : aspect == CellAspects.Mass ? "g"
        : aspect == CellAspects.Observed ? "°C"
        : "";

    private static IResult Gone() => Results.Problem("There is no such run, or it was removed.", statusCode: 404, title: "Not here");

    /// <summary>What is said to who asks without a token that is good here.</summary>
    internal static async Task<IResult> UnknownAsync(HttpContext context, DeviceBook devices)
    {
        var header = context.Request.Headers.Authorization.ToString();
        var token = header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase) ? header[7..].Trim() : null;
        return Unknown(context, token is null
            ? "The request carries no token. Make one on the page Devices and send it as: Authorization: Bearer gfr_…"
            : await devices.FindAsync(token, DeviceKinds.Readings) is { WithdrawnAt: { } gone } device
                ? $"The token of {device.Name} was withdrawn on {gone:yyyy-MM-dd HH:mm} UTC. What it posted before stands; nothing new was stored."
                : "This token is not known here. Make one on the page Devices; a tablet's own token opens pages only.");
    }

    private static async Task<IResult> PostAsync(
        Guid id, HttpContext context, DeviceBook devices, Caller caller, TrialRuns runs, ReadingStore store, Instruments instruments)
    {
        var (json, problem) = await TrialApi.OpenAsync(context);
        if (json is null)
            return problem!;
        var key = json.Text("key", 80);
        var value = json.Number("value");
        var text = json.Text("text", 40) ?? (value is { } v ? Words.N(v, 6) : null);
        var aspect = json.Text("aspect", 40);
        var section = json.Whole("section", 0, 199);
        var why = json.Text("why", 400);
        Guid? supersedes = null;
        if (json.Text("supersedes", 40) is { } s)
        {
            if (Guid.TryParse(s, out var g))
                supersedes = g;
            else
                json.Refuse("supersedes", "supersedes must be the id of a reading.");
        }

        if (string.IsNullOrEmpty(key))
            json.Refuse("key", "key is missing: a text of 1 to 80 characters that this reading alone carries, so that it is stored once.");
        if (text is null)
            json.Refuse("value", "The reading is missing: value (a number) or text would be right.");
        var asked = (await runs.LoadAsync(id))?.Grid;
        if (aspect is not null && (CellAspects.IsStamp(aspect) || !(aspect == CellAspects.Mass || asked is null || asked.Column(aspect) is not null)))
            json.Refuse(
                "aspect",
                $"\"{aspect}\" is not an aspect: {string.Join(", ", asked!.Columns.Select(c => c.Aspect).Where(a => a != CellAspects.State).Append(CellAspects.Mass).Distinct())}{(asked.Column(CellAspects.State) is null ? "" : " or state")} would be right."
            );
        if (aspect == CellAspects.Mass && asked?.Column(CellAspects.Mass) is null)
            section ??= 0;
        if (json.Word("unit", ["N", "kgf"]) is { } unit && asked is not null)
        {
            var column = asked.Column(aspect ?? asked.Wanted.FirstOrDefault().Aspect ?? "")?.Quantity?.Unit;
            if (column is not ("N" or "kgf"))
                json.Refuse("unit", $"This reading is no force{(column is { Length: > 0 } ? $": it is in {column}" : "")}. Leave the unit out.");
            else if (value is { } force && column != unit)
            {
                // What a rig shows in the other unit is stored in the run's own.
                value = unit == "kgf" ? force * (decimal)BondJudging.NewtonPerKgf : force / (decimal)BondJudging.NewtonPerKgf;
                text = Words.N(value.Value, 3);
            }
        }

        var instrument = json.Text("instrument", 60);
        var resolution = json.Number("resolution");
        if (resolution is not null and not (> 0 and <= 1000))
            json.Refuse("resolution", "resolution must be above 0, in the reading's unit, for example 0.01.");
        if (resolution is not null && instrument is null)
            json.Refuse("instrument", "instrument is missing: a resolution belongs to one.");
        if (instrument is not null && string.IsNullOrWhiteSpace(instrument))
            json.Refuse("instrument", "instrument is empty: its name would be right, or nothing.");
        if (supersedes is not null && section is null)
            json.Refuse("section", "section is missing: a correction says which cell it is of.");
        if (section is not null && aspect is null)
            json.Refuse("aspect", "aspect is missing: a section alone names no cell.");
        if (aspect == "state" && section is null)
            json.Refuse("section", "section is missing: what became of a section is said of one section.");
        if (json.Errors.Count > 0)
            return TrialApi.Refused(json.Errors);

        Guid? revision = instrument is null
            ? null
            : await instruments.RevisionAsync(
                instrument, KindOf(instrument, aspect), (double?)resolution, UnitOf(asked, aspect),
                asked?.Column(aspect ?? asked.Wanted.FirstOrDefault().Aspect ?? "")?.Resolution ?? 1);
        return await StoreAsync(
            id, section, aspect,
            new(key!, text!, value is null ? "text" : "value", revision, instrument is null ? null : (double?)resolution, supersedes, why), runs, store);
    }

    /// <summary>A reading on its way to its cell.</summary>
    /// <param name="Field">Field of the request that a refusal of its text belongs to.</param>
    internal sealed record Post(
        string Key, string Text, string Field, Guid? Revision = null, double? Resolution = null, Guid? Supersedes = null, string? Why = null);

    /// <summary>Stores a reading in its cell, or in the next open one of an aspect where no section is named.</summary>
    internal static async Task<IResult> StoreAsync(Guid id, int? section, string? aspect, Post post, TrialRuns runs, ReadingStore store)
    {
        // Where another device fills the open cell in the same moment, the next one is taken.
        for (var turn = 0; turn < 300; turn++)
        {
            if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } view)
                return Gone();
            if (view.Run.Readings.FirstOrDefault(r => r.Key == post.Key) is { } already)
                return Said(view, 200, new("same", already.Id, already.Entered, null), already.Section, already.Aspect);
            if (view.Run.Stage is not (RunStages.Printed or RunStages.Read))
                return Results.Problem(
                    view.Run.Stage == RunStages.Planned
                        ? "This run is not printed yet: say on its page how the print ended, then post readings."
                        : "This run is decided; undo that on its page before new readings come in.",
                    statusCode: 409, title: "Not open for readings");
            var cell = section is { } at ? (Section: at, Aspect: aspect!) : OpenCells(view, aspect).FirstOrDefault((Section: -1, Aspect: ""));
            if (cell.Section == -1)
                return Results.Problem(
                    aspect is null
                        ? "Every cell is read. Name section and aspect, and in supersedes the reading that is corrected."
                        : $"Every section has its {aspect}. Name the section, and in supersedes the reading that is corrected.",
                    statusCode: 409, title: "No open cell");
            var outcome = await store.StoreAsync(
                id, new(post.Key, cell.Section, cell.Aspect, post.Text, post.Supersedes, post.Why, section is null)
                {
                    InstrumentRevisionId = post.Revision, Resolution = post.Resolution,
                });
            if (outcome.Status is "saved" or "same")
                return Said((await runs.LoadAsync(id))!, outcome.Status == "saved" ? 201 : 200, outcome, cell.Section, cell.Aspect);
            if (outcome.Status == "refused")
                return Results.ValidationProblem(new Dictionary<string, string[]> { [post.Field] = [outcome.Message!] }, statusCode: 422);
            if (section is not null)
                return Results.Problem(
                    outcome.Message, statusCode: 409, title: "The cell is filled",
                    extensions: new Dictionary<string, object?> { ["standing"] = outcome.Id, ["text"] = outcome.Text });
        }

        return Results.Problem("Other devices fill the cells faster than this one. Try again.", statusCode: 409, title: "Too busy");
    }

    private static IEnumerable<(int Section, string Aspect)> OpenCells(TrialRunView v, string? aspect) => aspect is null
        ? v.Empty
        : v.Grid.Rows.Where(r => v.States[r.Section] == SectionState.Judged && v.Text(r.Section, aspect) == "").Select(r => (r.Section, aspect));

    private static IResult Said(TrialRunView v, int status, ReadingOutcome outcome, int section, string aspect)
    {
        OpenCell? next =
            v.Empty.Count > 0 ? new(v.Empty[0].Section, v.Empty[0].Aspect, v.Parts[v.Empty[0].Section].NozzleC, v.Parts[v.Empty[0].Section].Label) : null;
        return Results.Json(
            new Answer(
                outcome.Status, outcome.Id!.Value, section, aspect, v.Parts[section].NozzleC, v.Parts[section].Label, outcome.Text, outcome.Questioned,
                outcome.Message, next, v.Empty.Count),
            Json.Options, statusCode: status);
    }

    private static string KindOf(string name, string? aspect) =>
        aspect switch
        {
            CellAspects.Mass => "scale",
            CellAspects.Observed => "display",
            _ => name.Contains("eyes", StringComparison.OrdinalIgnoreCase) ? "eyes" : "other",
        };

    private static IResult Unknown(HttpContext context, string text)
    {
        context.Response.Headers.WWWAuthenticate = "Bearer";
        return Results.Problem(text, statusCode: StatusCodes.Status401Unauthorized, title: "Token not taken");
    }
}
