using Glenfrost.Application.Exchange;
using Glenfrost.Storage;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Glenfrost.Web.Exchange;

/// <summary>Takes in a file to be looked at; nothing changes before its preview is agreed to.</summary>
public static class ImportEndpoints
{
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/import", async (HttpContext context, DataPlace place, Imports imports, ITempDataDictionaryFactory told) =>
            {
                using var upload = await Upload.ReadAsync(context, place, Imports.MostBytes, 1);
                var error = upload.Error ?? (upload.Files.Count == 0 ? "No file was chosen. A zip or JSON of Glenfrost or a CSV table would be right." : null);
                if (error is null)
                {
                    var (draft, wrong) = await imports.KeepAsync(upload.Files[0]);
                    if (draft is not null)
                    {
                        upload.Files.Clear();
                        return Results.LocalRedirect(draft.Kind == "table" ? $"/import/{draft.Id}/notes" : $"/import/{draft.Id}");
                    }

                    error = wrong;
                }

                var temp = told.GetTempData(context);
                temp["refused"] = error;
                temp.Save();
                return Results.LocalRedirect("/exchange");
            }).DisableAntiforgery().ExcludeFromDescription();
}
