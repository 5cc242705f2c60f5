using Glenfrost.Application.Exchange;
using Glenfrost.Storage.Exchange;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Exchange;

/// <summary>Addresses under which runs, profiles, pairings, tables and the whole archive go out.</summary>
public static class ExportEndpoints
{
    private const string Text = "text/plain; charset=utf-8";

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/schema/archive-1.json", () =>
                Results.File(Path.Combine(AppContext.BaseDirectory, "docs", "archive-1.schema.json"), "application/schema+json"))
            .ExcludeFromDescription();
        app.MapGet("/export/archive.{kind:regex(^(json|zip)$)}", (string kind, Exports exports) => FileAsync(exports, kind, Selection.Whole(), null, "archive"))
            .ExcludeFromDescription();
        app.MapGet("/export/tables/{name}.csv", TableAsync).ExcludeFromDescription();
        app.MapGet("/pairings/{id:guid}/pairing.{kind:regex(^(json|zip)$)}", (Guid id, string kind, Exports exports) =>
                ScopeAsync(exports, "pairing", id, kind))
            .ExcludeFromDescription();
        app.MapGet("/pairings/{id:guid}/profile.json", (Guid id, Exports exports) => ScopeAsync(exports, "profile", id, "json")).ExcludeFromDescription();
        app.MapGet("/pairings/{id:guid}/profile.csv", async (Guid id, Exports exports) =>
                await exports.ProfileCsvAsync(id) is { } csv ? Results.File(csv, "text/csv", "profile.csv") : Results.NotFound())
            .ExcludeFromDescription();
        app.MapGet("/pairings/{id:guid}/profile.txt", async (Guid id, string? tier, Exports exports) =>
                await exports.ProfileTextAsync(id, tier) is { } text ? Results.Text(text, Text) : Results.NotFound())
            .ExcludeFromDescription();
        app.MapGet("/runs/{id:guid}/run.{kind:regex(^(json|zip)$)}", (Guid id, string kind, Exports exports) => ScopeAsync(exports, "run", id, kind))
            .ExcludeFromDescription();
        app.MapGet("/runs/{id:guid}/readings.csv", async (Guid id, Exports exports) =>
                await exports.ReadingsCsvAsync(id) is { } csv ? Results.File(csv, "text/csv", "readings.csv") : Results.NotFound())
            .ExcludeFromDescription();
        app.MapGet("/runs/{id:guid}/run.txt", async (Guid id, Exports exports) =>
                await exports.RunTextAsync(id) is { } text ? Results.Text(text, Text) : Results.NotFound())
            .ExcludeFromDescription();
    }

    private static async Task<IResult> ScopeAsync(Exports exports, string scope, Guid id, string kind) =>
        await exports.SelectAsync(scope, id) is { } selection
            ? await FileAsync(exports, kind, selection, scope == "run" ? null : id, scope)
            : Results.NotFound();

    private static async Task<IResult> FileAsync(Exports exports, string kind, Selection selection, Guid? profileOf, string name) => kind == "zip"
        ? Results.File(await exports.ZipAsync(selection, profileOf), "application/zip", $"glenfrost-{name}.zip")
        : Results.File(await exports.JsonAsync(selection, profileOf), "application/json", $"glenfrost-{name}.json");

    private static async Task<IResult> TableAsync(string name, Exports exports)
    {
        if (ArchiveTables.Find(name) is not { } table)
            return Results.NotFound();
        var to = new MemoryStream();
        await exports.TableAsync(table, Selection.Whole(), to);
        return Results.File(to.ToArray(), "text/csv", $"{name}.csv");
    }
}
