using System.Net;
using System.Security.Claims;
using System.Text.Encodings.Web;
using Glenfrost.Application.Devices;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Api;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
using Microsoft.Extensions.Options;

namespace Glenfrost.Web.Rights;

/// <summary>
/// Who asks: the bench's own machine, a tablet or phone with its cookie, or an instrument with its token. What each may do stands in <see cref="RightsTable"/>.
/// </summary>
internal sealed class CallerScheme(
    IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory log, UrlEncoder encoder, Reach reach, Caller caller, DeviceBook devices, BenchPin pin)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, log, encoder)
{
    public const string Name = "door";

    // What a proxy adds: whoever it came from, it was not this machine's own browser.
    private static readonly string[] Forwarding =
        ["Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Forwarded-Server", "X-Real-IP", "X-Client-IP", "Via", "CF-Connecting-IP",
            "True-Client-IP"];

    private string? refusal;

    /// <summary>True where a request came through a proxy, which hides from where.</summary>
    public static bool IsForwarded(HttpRequest request) => Forwarding.Any(h => request.Headers.ContainsKey(h));

    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var forwarded = IsForwarded(Request);
        if (forwarded && !reach.Proxied)
        {
            refusal = "This request came through a proxy, so nobody knows from where; nothing was done. Start Glenfrost with --proxy NAME, the name " +
                "under which the proxy is reached, and let each device in by its code.";
            return AuthenticateResult.NoResult();
        }

        if (Request.Headers.Authorization.ToString() is var header && header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase))
        {
            if (await devices.FindAsync(header[7..].Trim(), DeviceKinds.Readings) is { WithdrawnAt: null } instrument)
            {
                (caller.DeviceId, caller.PersonId) = (instrument.Id, instrument.PersonId);
                await devices.SeenAsync(instrument);
                return As(RightsTable.TokenClaim, instrument.Id);
            }
        }

        var remote = Context.Connection.RemoteIpAddress;
        if (!forwarded && (remote is null || IPAddress.IsLoopback(remote)))
        {
            if (pin.IsSet && !pin.Knows(Request))
                return AuthenticateResult.NoResult();
            return As(RightsTable.BenchClaim, null);
        }

        var device = Request.Cookies[DeviceBook.Cookie] is { } token ? await devices.FindAsync(token, DeviceKinds.Pages) : null;
        if (device is { WithdrawnAt: null } && !devices.IsIdle(device))
        {
            (caller.DeviceId, caller.PersonId) = (device.Id, device.PersonId);
            await devices.SeenAsync(device);
            return As(RightsTable.DeviceClaim, device.Id);
        }

        refusal = device switch
        {
            null => "This device is not known at the bench; nothing was done. Open /device on it and type the code that the console shows.",
            { WithdrawnAt: { } at } => $"This device was withdrawn on {at:yyyy-MM-dd HH:mm} UTC; nothing was done. Open /device on it and type a new code.",
            _ => $"This device was away for more than {DeviceBook.IdleTime.TotalDays:0} days; nothing was done. Open /device on it and type a new code.",
        };
        return AuthenticateResult.NoResult();
    }

    /// <summary>An instrument's address asks for its token, whoever else is known.</summary>
    private async Task<bool> AskedForTokenAsync()
    {
        if (Context.GetEndpoint()?.Metadata.GetMetadata<IAuthorizeData>()?.Policy != RightsTable.Token || (IsForwarded(Request) && !reach.Proxied))
            return false;
        await (await ReadingApi.UnknownAsync(Context, devices)).ExecuteAsync(Context);
        return true;
    }

    protected override async Task HandleForbiddenAsync(AuthenticationProperties properties)
    {
        if (!await AskedForTokenAsync())
            await base.HandleForbiddenAsync(properties);
    }

    protected override async Task HandleChallengeAsync(AuthenticationProperties properties)
    {
        if (await AskedForTokenAsync())
            return;
        var path = Request.Path.Value ?? "/";
        var remote = Context.Connection.RemoteIpAddress;
        var atBench = !IsForwarded(Request) && (remote is null || IPAddress.IsLoopback(remote));
        var page = HttpMethods.IsGet(Request.Method) && !path.StartsWith("/api/", StringComparison.Ordinal);
        if (page && atBench && pin.IsSet)
            Response.Redirect($"/pin?to={Uri.EscapeDataString(path + Request.QueryString)}");
        else if (page && !atBench && reach.Lan && (reach.Proxied || !IsForwarded(Request)))
            Response.Redirect($"/device?to={Uri.EscapeDataString(path + Request.QueryString)}");
        else
            await Services.HostGuard.RefuseAsync(
                Context, StatusCodes.Status401Unauthorized,
                refusal ?? (atBench ? "This bench asks for its PIN; nothing was done. Open /pin and type it." : "This device is not known at the bench."));
    }

    private static AuthenticateResult As(string claim, Guid? device)
    {
        var identity = new ClaimsIdentity([new Claim(claim, device?.ToString() ?? "here")], Name);
        return AuthenticateResult.Success(new(new ClaimsPrincipal(identity), Name));
    }
}
