using Glenfrost.Application.Photos;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Glenfrost.Web.Photos;

/// <summary>Takes photos in and hands them out.</summary>
public static class PhotoEndpoints
{
    private const int MostFiles = 20;

    public static void Map(IEndpointRouteBuilder app)
    {
        // The ticket is checked while the form is read as a stream.
        app.MapPost("/runs/{id:guid}/photos/add", AddAsync).DisableAntiforgery().ExcludeFromDescription();
        app.MapGet("/photos/{id:guid}/{size:regex(^(large|small)$)}", GetAsync).ExcludeFromDescription();
    }

    private static async Task<IResult> AddAsync(Guid id, HttpContext context, DataPlace place, PhotoBook photos, ITempDataDictionaryFactory told)
    {
        var run = await photos.RunAsync(id);
        using var upload = await Upload.ReadAsync(context, place, Pictures.MostBytes, MostFiles);
        var byScript = context.Request.Headers.Accept.ToString().Contains("application/json", StringComparison.Ordinal);
        var (added, refused) = (new List<Photo>(), new List<string>());
        var status = StatusCodes.Status200OK;
        if (run is null)
            (status, refused) = (StatusCodes.Status404NotFound, ["This run is not there any more; nothing was stored."]);
        else if (upload.Error is { } error)
            (status, refused) = (upload.Status, [error]);
        else
            (added, refused) = await photos.AddAllAsync(run, upload.Fields, upload.Files);
        if (status == StatusCodes.Status200OK && refused.Count > 0)
            status = upload.Files.Any(f => f.TooLarge) ? StatusCodes.Status413PayloadTooLarge : StatusCodes.Status422UnprocessableEntity;
        if (byScript)
            return Results.Json(new { photos = added.Select(p => new { p.Id, p.Section }), refused }, Json.Options, statusCode: status);
        var temp = told.GetTempData(context);
        if (refused.Count > 0)
            temp["refused"] = $"{string.Join(" ", refused.Take(5))}{(added.Count > 0 ? $" {Words.Plural(added.Count, "photo")} kept." : "")}";
        else
            temp["told"] = $"{Words.Plural(added.Count, "photo")} kept.";
        temp.Save();
        return Results.LocalRedirect($"/runs/{id}/photos");
    }

    private static async Task<IResult> GetAsync(Guid id, string size, PhotoBook photos, DataPlace place, HttpContext context)
    {
        var photo = await photos.FindAsync(id);
        var hash = size == "small" ? photo?.SmallSha256 : photo?.Sha256;
        if (hash is null || place.Files.Open(hash) is not { } content)
            return Results.NotFound();
        context.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return Results.File(content, "image/jpeg", null, photo!.At, new($"\"{hash}\""), enableRangeProcessing: true);
    }
}
