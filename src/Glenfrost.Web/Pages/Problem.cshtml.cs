using Glenfrost.Storage;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Glenfrost.Web.Pages;

/// <summary>What a person sees in place of a bare status: what happened, what was saved, what to do.</summary>
[IgnoreAntiforgeryToken]
internal sealed class ProblemModel(DiskTrouble trouble) : PageModel
{
    public string Head { get; private set; } = "";

    public string Text { get; private set; } = "";

    /// <summary>The run whose page was asked for and could not be drawn; null for another page.</summary>
    public Guid? Run { get; private set; }

    public List<(string Name, string Value)> Typed { get; private set; } = [];

    public Task<IActionResult> OnGetAsync(int? code) => ShowAsync(code);

    public Task<IActionResult> OnPostAsync(int? code) => ShowAsync(code);

    private async Task<IActionResult> ShowAsync(int? code)
    {
        var path = HttpContext.Features.Get<IStatusCodeReExecuteFeature>()?.OriginalPath
            ?? HttpContext.Features.Get<IExceptionHandlerPathFeature>()?.Path
            ?? "";
        var error = HttpContext.Features.Get<IExceptionHandlerPathFeature>()?.Error;
        var status = code ?? (error is BadHttpRequestException bad ? bad.StatusCode : error is null ? 404 : 500);
        (Head, Text) = status switch
        {
            400 => (
                "This form could not be taken",
                "Its ticket is missing or older than this browser's visit. Nothing was saved. Open the page again and send it once more."),
            403 => (
                "The bench's own",
                "This is done at the bench's own machine: letting devices in and out, tokens, the whole archive out and in, who works there. Nothing " +
                    "was changed."),
            404 => (
                "Not here", "Nothing stands at this address. It may have been removed: the Log says when, and a removal can be undone there right after it."),
            405 => ("Not this way", "This address takes forms only from its own page. Nothing was changed."),
            413 => ("Too large", "More than 2 MB was sent. Nothing was saved; a page's fields need far less."),
            415 => ("Not in this form", "The address takes another content type. Nothing was changed."),
            _ => (
                "Something went wrong here",
                "Glenfrost could not finish this. What was saved before is safe; the server's console says more. Go back and try once more."),
        };
        if (Disk.FaultOf(error) is { } fault)
        {
            trouble.Tell(fault);
            (status, Head, var shortly, Text) = DiskTrouble.Words(fault);
            Response.Headers[DiskTrouble.Header] = shortly;
        }

        if (status == 500 && path.Split('/') is ["", "runs", var run, ..] && Guid.TryParse(run, out var id))
        {
            Run = id;
            (Head, Text) = (
                "The page of this run can't be drawn",
                "Something in its plan or its readings is not as it should be. What is stored is safe. Take the run out to keep or mend " +
                    "it, or remove it; the server's console says more.");
        }

        if (path.StartsWith("/api/", StringComparison.Ordinal) || path.StartsWith("/openapi/", StringComparison.Ordinal))
            return new ObjectResult(
                new ProblemDetails { Status = status, Title = Head, Detail = Text })
            { StatusCode = status, ContentTypes = { "application/problem+json" } };
        Response.StatusCode = status;
        if (HttpMethods.IsPost(Request.Method) && Request.HasFormContentType)
        {
            try
            {
                var form = await Request.ReadFormAsync();
                Typed =
                [
                    .. form.Where(f => !f.Key.StartsWith("__", StringComparison.Ordinal) && f.Key != "version" && f.Value.ToString().Length > 0).Take(200)
                        .Select(f => (f.Key, f.Value.ToString())),
                ];
            }
            catch (Exception e) when (e is IOException or InvalidDataException or BadHttpRequestException)
            {
                Typed = [];
            }
        }

        return Page();
    }
}
