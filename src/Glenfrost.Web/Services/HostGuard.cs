using Glenfrost.Web.Devices;

namespace Glenfrost.Web.Services;

/// <summary>
/// First in line: answers only to names that are its own (a foreign page could point its own name at this address), and sends the headers that keep scripts and
/// styles to the application's own files, with refusals too. Who may what is the next one's affair.
/// </summary>
public sealed class HostGuard(RequestDelegate next, Reach reach)
{
    public async Task InvokeAsync(HttpContext context, Caller caller)
    {
        caller.Left = context.RequestAborted;
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy =
            "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; form-action 'self'; " +
                "frame-ancestors 'none'; base-uri 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Cross-Origin-Resource-Policy"] = "same-origin";
        if (!reach.Hosts.Contains(context.Request.Host.Host))
        {
            await RefuseAsync(
                context, StatusCodes.Status400BadRequest, reach.Lan
                    ? $"Glenfrost answers only to {string.Join(", ", reach.Hosts)}. This request came under another name; nothing was done. Start it with " +
                        $"--host NAME to add one."
                    : "Glenfrost answers only to localhost, 127.0.0.1 and [::1]. This request came under another name; nothing was done. Open the address " +
                        "that was printed at the start."
            );
            return;
        }

        if (HttpMethods.IsTrace(context.Request.Method) || HttpMethods.IsConnect(context.Request.Method))
        {
            await RefuseAsync(context, StatusCodes.Status405MethodNotAllowed, "This way of asking is not taken here; nothing was done.");
            return;
        }

        // What changes something, or costs something, is taken from our own pages, and from what is no browser at all.
        if (!HttpMethods.IsGet(context.Request.Method) && !HttpMethods.IsHead(context.Request.Method) && IsForeign(context.Request))
        {
            await RefuseAsync(
                context, StatusCodes.Status403Forbidden,
                "This was sent by a page of another website, so nothing was done. Open Glenfrost's own page and do it there.");
            return;
        }

        if (Guid.TryParse(context.Request.Cookies[Caller.PersonCookie], out var person))
            caller.PersonId = person;
        await next(context);
    }

    /// <summary>True where a browser says that another website's page sent it.</summary>
    private static bool IsForeign(HttpRequest request) =>
        request.Headers.Origin.ToString() is { Length: > 0 } origin
        && !(Uri.TryCreate(origin, UriKind.Absolute, out var from) && string.Equals(from.Authority, request.Host.Value, StringComparison.OrdinalIgnoreCase));

    /// <summary>Refuses in one line of plain text.</summary>
    internal static Task RefuseAsync(HttpContext context, int status, string text)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/plain; charset=utf-8";
        return context.Response.WriteAsync(text + "\n");
    }
}
