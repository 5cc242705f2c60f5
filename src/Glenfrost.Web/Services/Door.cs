using System.Net;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;

namespace Glenfrost.Web.Services;

/// <summary>
/// First in line: answers only to names that are its own (a foreign page could point its own name at this address), sends the headers that keep
/// scripts and styles to the application's own files, and lets other machines of the network in only with a device's token.
/// </summary>
public sealed class Door(RequestDelegate next, Reach reach)
{
    // What a device may fetch before it has typed the code: the page for it and what that page is drawn with. Readings carry a token of their own.
    private static readonly string[] Open = ["/device", "/lib/", "/js/", "/ridge.svg", "/health", "/api/v1/runs/"];

    public async Task InvokeAsync(HttpContext context, Caller caller, DeviceBook devices)
    {
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

        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy =
            "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; form-action 'self'; " +
                "frame-ancestors 'none'; base-uri 'none'";
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        if (Guid.TryParse(context.Request.Cookies[Caller.PersonCookie], out var person))
            caller.PersonId = person;
        var remote = context.Connection.RemoteIpAddress;
        if (remote is not null && !IPAddress.IsLoopback(remote) && !await LetInAsync(context, caller, devices))
            return;
        await next(context);
    }

    private static async Task<bool> LetInAsync(HttpContext context, Caller caller, DeviceBook devices)
    {
        var path = context.Request.Path.Value ?? "/";
        var device = context.Request.Cookies[DeviceBook.Cookie] is { } token ? await devices.FindAsync(token, DeviceKinds.Pages) : null;
        if (device is { WithdrawnAt: null })
        {
            (caller.DeviceId, caller.PersonId) = (device.Id, device.PersonId);
            await devices.SeenAsync(device);
            return true;
        }

        if (Open.Any(o => path == o || (o.EndsWith('/') && path.StartsWith(o, StringComparison.Ordinal))))
            return true;
        if (HttpMethods.IsGet(context.Request.Method) && !path.StartsWith("/api/", StringComparison.Ordinal))
            context.Response.Redirect($"/device?to={Uri.EscapeDataString(path + context.Request.QueryString)}");
        else
            await RefuseAsync(context, StatusCodes.Status401Unauthorized, device is null
                ? "This device is not known at the bench; nothing was done. Open /device on it and type the code that the console shows."
                : $"This device was withdrawn on {device.WithdrawnAt:yyyy-MM-dd HH:mm} UTC; nothing was done. Open /device on it and type a new code.");
        return false;
    }

    private static Task RefuseAsync(HttpContext context, int status, string text)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/plain; charset=utf-8";
        return context.Response.WriteAsync(text + "\n");
    }
}
