namespace Glenfrost.Web.Services;

/// <summary>
/// First in line: answers only to loopback names (a foreign page could point its own name at this address), and sends
/// the headers that keep scripts and styles to the application's own files.
/// </summary>
public sealed class Door(RequestDelegate next)
{
    private static readonly HashSet<string> Hosts = new(StringComparer.OrdinalIgnoreCase) { "localhost", "127.0.0.1", "[::1]" };

    public async Task InvokeAsync(HttpContext context)
    {
        if (!Hosts.Contains(context.Request.Host.Host))
        {
            context.Response.StatusCode = StatusCodes.Status400BadRequest;
            context.Response.ContentType = "text/plain; charset=utf-8";
            await context.Response.WriteAsync("Glenfrost answers only to localhost, 127.0.0.1 and [::1]. This request came under another name; nothing was done. Open the address that was printed at the start.\n");
            return;
        }

        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        await next(context);
    }
}
