using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Glenfrost.Web.Rights;

/// <summary>
/// Who may what: each address with the policy that it is under, and the handlers of pages that ask for more than their page. An address that is not listed
/// keeps the application from starting.
/// </summary>
public static class RightsTable
{
    /// <summary>The bench's own machine alone.</summary>
    public const string BenchOnly = "BenchOnly";

    /// <summary>The bench, and tablets and phones that were let in.</summary>
    public const string Device = "Device";

    /// <summary>Instruments with a token of their own.</summary>
    public const string Token = "Token";

    /// <summary>Whoever reaches the address: what a device needs before it is let in.</summary>
    public const string Anybody = "Anybody";

    /// <summary>Claim of the bench's own machine.</summary>
    public const string BenchClaim = "glenfrost:bench";

    /// <summary>Claim of a tablet or phone: its id.</summary>
    public const string DeviceClaim = "glenfrost:device";

    /// <summary>Claim of an instrument: its id.</summary>
    public const string TokenClaim = "glenfrost:token";

    private const string ForAnybody = """
        device
        pin
        health
        problem
        """;

    private const string ForTokens = """
        api/v1/runs/{id:guid}/open
        api/v1/runs/{id:guid}/readings
        api/v1/runs/{id:guid}/air
        api/v1/runs/{id:guid}/cooling
        api/v1/room
        """;

    // The whole archive out and in, and what a stranger with a tablet in hand should not do.
    private const string ForTheBench = """
        export/archive.{kind:regex(^(json|zip)$)}
        export/tables/{name}.csv
        import
        import/{id:guid}
        import/{id:guid}/notes
        """;

    private const string ForDevices = """

        blame
        compare
        find
        ledger
        log
        dryers
        preferences
        room
        undo
        bench/empty
        devices
        docs/devices
        exchange
        filaments
        filaments/new
        filaments/{id:guid}
        filaments/{id:guid}/edit
        filaments/{id:guid}/report
        gcode
        gcode/files
        gcode/{id:guid}
        gcode/{id:guid}/file
        gcode/{id:guid}/facts.json
        gcode/{id:guid}/moves
        gcode/{id:guid}/layers.csv
        guides
        guides/{key}
        schedule
        pairings
        pairings/new
        pairings/{id:guid}
        pairings/{id:guid}/card
        pairings/{id:guid}/change
        pairings/{id:guid}/{kind:trial}
        pairings/{id:guid}/pairing.{kind:regex(^(json|zip)$)}
        pairings/{id:guid}/profile.json
        pairings/{id:guid}/profile.csv
        pairings/{id:guid}/profile.txt
        api/v1/pairings/{id:guid}/route
        api/v1/runs/compare
        api/v1/pairings/compare
        api/v1/filaments/{id:guid}/report
        photos/{id:guid}/{size:regex(^(large|small)$)}
        printers
        printers/new
        printers/{id:guid}
        printers/{id:guid}/edit
        printers/{id:guid}/checks
        printers/{id:guid}/pulse
        runs/compare
        runs/{id:guid}
        runs/{id:guid}/again
        runs/{id:guid}/code
        runs/{id:guid}/made-with
        runs/{id:guid}/photos
        runs/{id:guid}/photos/add
        runs/{id:guid}/files/{fileId:guid}
        runs/{id:guid}/piece.{kind:regex(^(stl|3mf)$)}
        runs/{id:guid}/readings.csv
        runs/{id:guid}/run.{kind:regex(^(json|zip)$)}
        runs/{id:guid}/run.txt
        runs/{id:guid}/labels
        runs/{id:guid}/sheet
        runs/{id:guid}/simulated
        schema/archive-1.json
        sittings
        sittings/{id:guid}
        spools/new
        start
        spools/{id:guid}
        spools/{id:guid}/edit
        spools/{id:guid}/label
        toolheads/new
        toolheads/{id:guid}/edit
        toolheads/{id:guid}/{kind:trial}
        openapi/{documentName}.json
        api/v1/gcode/inspect
        api/v1/gcode/step
        api/v1/trials/*
        """;

    /// <summary>Addresses with their policy: routes as they are written, without the first slash. A star stands for all that begins so.</summary>
    public static IReadOnlyDictionary<string, string> Addresses { get; } =
        new[] { (ForAnybody, Anybody), (ForTokens, Token), (ForTheBench, BenchOnly), (ForDevices, Device) }
            .SelectMany(p => p.Item1.Split('\n').Select(a => (Address: a.Trim(), Policy: p.Item2)))
            .ToDictionary(p => p.Address, p => p.Policy, StringComparer.OrdinalIgnoreCase);

    /// <summary>Handlers that are the bench's, though a tablet may open their page.</summary>
    public static IReadOnlySet<(string Page, string Handler)> BenchHandlers { get; } = new HashSet<(string, string)>
    {
        ("/Devices/Index", "Token"),
        ("/Devices/Index", "Withdraw"),
        ("/Preferences", "Pin"),
    };

    /// <summary>The policy of an address; null where none is stated.</summary>
    public static string? Of(string route)
    {
        var plain = route.Trim('/');
        return Addresses.TryGetValue(plain, out var policy)
            ? policy
            : Addresses.FirstOrDefault(a => a.Key.EndsWith('*') && plain.StartsWith(a.Key[..^1], StringComparison.OrdinalIgnoreCase)).Value;
    }

    /// <summary>Adds the policies to the framework.</summary>
    public static void AddPolicies(AuthorizationOptions o)
    {
        o.AddPolicy(BenchOnly, p => p.RequireClaim(BenchClaim));
        o.AddPolicy(Device, p => p.RequireAssertion(c => c.User.HasClaim(x => x.Type is BenchClaim or DeviceClaim)));
        o.AddPolicy(Token, p => p.RequireClaim(TokenClaim));
        o.AddPolicy(Anybody, p => p.RequireAssertion(_ => true));
        // What has no address, or not in the form that was sent, tells a stranger nothing either.
        o.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build();
    }

    /// <summary>Puts an endpoint under its policy.</summary>
    /// <exception cref="InvalidOperationException">None is stated for its address.</exception>
    public static void Apply(EndpointBuilder endpoint)
    {
        if (endpoint is not RouteEndpointBuilder route)
            return;
        var policy = Of(route.RoutePattern.RawText ?? "")
            ?? throw new InvalidOperationException($"The table of rights has no line for /{route.RoutePattern.RawText?.TrimStart('/')}.");
        endpoint.Metadata.Add(policy == Anybody ? new AllowAnonymousAttribute() : new AuthorizeAttribute(policy));
    }
}

/// <summary>Keeps handlers of pages that are the bench's from tablets, and forms from pages that take none of that name.</summary>
internal sealed class BenchHandlerFilter : IAsyncPageFilter
{
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    public Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        if (context.HandlerMethod?.Name is { } handler
            && RightsTable.BenchHandlers.Contains((context.ActionDescriptor.ViewEnginePath, handler))
            && !context.HttpContext.User.HasClaim(c => c.Type == RightsTable.BenchClaim))
        {
            context.Result = new Microsoft.AspNetCore.Mvc.ForbidResult();
            return Task.CompletedTask;
        }

        // The framework would draw the page without ever having filled it.
        if (context.HandlerMethod is null && !HttpMethods.IsGet(context.HttpContext.Request.Method) && !HttpMethods.IsHead(context.HttpContext.Request.Method))
        {
            context.Result = new Microsoft.AspNetCore.Mvc.StatusCodeResult(StatusCodes.Status405MethodNotAllowed);
            return Task.CompletedTask;
        }

        return next();
    }
}
