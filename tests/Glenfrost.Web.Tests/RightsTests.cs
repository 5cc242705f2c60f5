using System.Net;
using System.Text.RegularExpressions;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Rights;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Glenfrost.Web.Tests;

/// <summary>Who may what: every address against the table of rights, by what it answers and not only by what is written on it.</summary>
public partial class RightsTests(LanApp site) : IClassFixture<LanApp>
{
    private readonly Visitor bench = site.Visit();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [GeneratedRegex(@"\{[^{}]*(\{[^{}]*\}[^{}]*)*\}")]
    private static partial Regex Parameter();

    private List<(string Route, string Method, Endpoint Endpoint)> Endpoints()
    {
        // The host is built with its first client.
        _ = site.Services;
        return
        [
            .. site.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>()
                // Styles, scripts and fonts of the application itself.
                .Where(e => e.Metadata.GetMetadata<Microsoft.AspNetCore.StaticAssets.StaticAssetDescriptor>() is null)
                .Where(e => e.RoutePattern.RawText != "{**path:file}")
                .SelectMany(e => (e.Metadata.GetMetadata<IHttpMethodMetadata>()?.HttpMethods is { Count: > 0 } m ? m : ["GET", "POST"])
                    .Select(method => (e.RoutePattern.RawText!.Trim('/'), method, (Endpoint)e))),
        ];
    }

    private static string PathOf(string route) => "/" + Parameter().Replace(route, p => p.Value switch
    {
        var x when x.Contains("guid", StringComparison.Ordinal) => "019a2000-0000-7000-8000-000000000001",
        var x when x.Contains("json|zip", StringComparison.Ordinal) => "json",
        var x when x.Contains("stl|3mf", StringComparison.Ordinal) => "stl",
        var x when x.Contains("large|small", StringComparison.Ordinal) => "small",
        var x when x.Contains("trial", StringComparison.Ordinal) => "temperature-tower",
        "{documentName}" => "v1",
        "{name}" => "spools",
        _ => "strings",
    });

    private static async Task<HttpResponseMessage> Ask(HttpClient client, string method, string path) =>
        await client.SendAsync(new HttpRequestMessage(new HttpMethod(method), path), Stop);

    private HttpClient Plain(string? address)
    {
        var client = site.CreateClient(new() { AllowAutoRedirect = false });
        if (address is null)
            return client;
        client.DefaultRequestHeaders.Add(LanApp.Remote, address);
        client.DefaultRequestHeaders.Host = "hut.example";
        return client;
    }

    [Fact]
    public void Every_address_has_one_line_in_the_table_and_every_line_an_address()
    {
        var endpoints = Endpoints();
        Assert.True(endpoints.Count > 100);
        foreach (var (route, _, endpoint) in endpoints)
        {
            var stated = RightsTable.Of(route);
            Assert.True(stated is not null, $"/{route} stands in no line");
            var policies = endpoint.Metadata.GetOrderedMetadata<IAuthorizeData>().Select(a => a.Policy).Distinct().ToList();
            if (stated == RightsTable.Anybody)
                Assert.NotNull(endpoint.Metadata.GetMetadata<IAllowAnonymous>());
            else
                Assert.Equal((route, null, stated), (route, endpoint.Metadata.GetMetadata<IAllowAnonymous>(), Assert.Single(policies)));
        }

        var routes = endpoints.Select(e => e.Route).ToHashSet(StringComparer.OrdinalIgnoreCase);
        Assert.Equal([], RightsTable.Addresses.Keys.Where(a => !a.EndsWith('*') && !routes.Contains(a)).ToList());
    }

    [Fact]
    public async Task A_stranger_reaches_nothing_but_what_lets_a_device_in()
    {
        using var stranger = Plain("192.0.2.70");
        var before = await site.WithDb(db => db.Log.CountAsync(Stop));
        foreach (var (route, method, _) in Endpoints())
        {
            using var answer = await Ask(stranger, method, PathOf(route));
            var policy = RightsTable.Of(route);
            if (policy == RightsTable.Anybody)
                continue;
            var led = answer.StatusCode == HttpStatusCode.Found && answer.Headers.Location!.ToString().StartsWith("/device", StringComparison.Ordinal);
            Assert.True(led || answer.StatusCode == HttpStatusCode.Unauthorized, $"{method} /{route} answered {(int)answer.StatusCode}");
            Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
        }

        using var nowhere = await Ask(stranger, "GET", "/no/such/place");
        Assert.Equal(HttpStatusCode.Found, nowhere.StatusCode);
        Assert.Equal(before, await site.WithDb(db => db.Log.CountAsync(Stop)));
    }

    private async Task<(HttpClient Client, Visitor Tablet)> LetIn(string name, string address)
    {
        var tablet = site.Tablet(address);
        await tablet.Go("/device");
        await tablet.Submit("form.narrow", ("code", site.Code), ("name", name), ("person", "Isla"));
        Assert.Equal("/", tablet.Path);
        return (tablet.Client, tablet);
    }

    [Fact]
    public async Task A_tablet_opens_pages_and_is_refused_what_is_the_benchs_wherever_it_is_asked()
    {
        var (client, tablet) = await LetIn("rights tablet", "192.0.2.71");
        foreach (var (route, method, _) in Endpoints())
        {
            using var answer = await Ask(client, method, PathOf(route));
            var policy = RightsTable.Of(route);
            if (policy == RightsTable.BenchOnly)
                Assert.Equal((route, HttpStatusCode.Forbidden), (route, answer.StatusCode));
            else if (policy == RightsTable.Device)
                Assert.True((int)answer.StatusCode is not (401 or 403), $"{method} /{route} answered {(int)answer.StatusCode}");
            else if (policy == RightsTable.Token)
                Assert.Equal((route, HttpStatusCode.Unauthorized), (route, answer.StatusCode));
        }

        // Handlers of pages that it may open.
        await tablet.Go("/devices");
        Assert.Null(tablet.Page.QuerySelector("form[action*='Token']"));
        Assert.Null(tablet.Page.QuerySelector("form[action*='Withdraw']"));
        Task<int> Devices(string kind) => site.WithDb(db => db.Devices.CountAsync(d => d.Kind == kind, Stop));
        var (tokens, devices) = (await Devices(DeviceKinds.Readings), await Devices(DeviceKinds.Pages));
        var own = await site.WithDb(db => db.Devices.AsNoTracking().FirstAsync(d => d.Name == "rights tablet", Stop));
        foreach (var (path, fields) in new (string, (string, string)[])[]
            {
                ("/devices?handler=Token", [("name", "thief"), ("person", "x")]), ("/devices?handler=Withdraw", [("device", own.Id.ToString())]),
                ("/preferences?handler=Pin", [("pin", "4711"), ("pinAgain", "4711")]), ("/undo", [("what", $"device:{own.Id}")]),
            })
        {
            await tablet.Go("/devices");
            await tablet.Press("form[method=post]", path, fields);
            Assert.Equal((path, HttpStatusCode.Forbidden), (path, tablet.Last.StatusCode));
            Assert.Contains("The bench's own", tablet.Text("h1"));
        }

        Assert.Equal((tokens, devices), (await Devices(DeviceKinds.Readings), await Devices(DeviceKinds.Pages)));
        Assert.False(File.Exists(Path.Combine(site.Folder, "pin")));
        await tablet.Go("/exchange");
        Assert.Null(tablet.Page.QuerySelector("a[href*='archive.zip']"));

        // Nor does it become another person: not by the form, not by a cookie.
        await tablet.Go("/preferences");
        await tablet.Submit("main form", ("person", "Morag"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, tablet.Last.StatusCode);
        Assert.Contains("let it in anew for somebody else", tablet.Text("#err-person"));
        var bell = await site.WithDb(async db =>
        {
            var person = db.People.Add(new Person { Name = "Bell" }).Entity;
            await db.SaveChangesAsync(Stop);
            return person.Id;
        });
        using var disguised = new HttpRequestMessage(HttpMethod.Get, "/preferences");
        disguised.Headers.Add("Cookie", $"glenfrost-person={bell}");
        await tablet.Take(await client.SendAsync(disguised, Stop));
        Assert.NotEqual(HttpStatusCode.Forbidden, tablet.Last.StatusCode);
        var still = await site.WithDb(db => db.Devices.AsNoTracking().FirstAsync(d => d.Id == own.Id, Stop));
        Assert.Equal("Isla", (await site.WithDb(db => db.People.FirstAsync(p => p.Id == still.PersonId, Stop))).Name);
    }

    [Theory]
    [InlineData("X-Forwarded-For", "203.0.113.9")]
    [InlineData("Forwarded", "for=203.0.113.9")]
    [InlineData("X-Real-IP", "203.0.113.9")]
    [InlineData("Via", "1.1 somewhere")]
    [InlineData("X-Forwarded-Host", "bench.example")]
    public async Task What_a_proxy_of_this_machine_hands_on_is_remote_and_refused_until_it_is_named(string header, string value)
    {
        using var client = Plain(null);
        client.DefaultRequestHeaders.Add(header, value);
        foreach (var path in new[] { "/", "/export/archive.json", "/devices", "/api/v1/runs/019a2000-0000-7000-8000-000000000001/open", "/no/such/place" })
        {
            using var answer = await Ask(client, "GET", path);
            Assert.Equal((path, HttpStatusCode.Unauthorized), (path, answer.StatusCode));
            Assert.Contains("--proxy NAME", await answer.Content.ReadAsStringAsync(Stop));
        }

        // A right code opens nothing either: nobody named the proxy.
        using var code = await client.PostAsync("/device", new FormUrlEncodedContent([new("code", site.Code), new("name", "x"), new("person", "y")]), Stop);
        Assert.NotEqual(HttpStatusCode.Found, code.StatusCode);
    }

    /// <summary>The bench behind a proxy of its own machine, which was named.</summary>
    private sealed class ProxiedApp : TestApp
    {
        protected override IHost CreateHost(IHostBuilder builder)
        {
            builder.ConfigureHostConfiguration(c => c.AddInMemoryCollection(new Dictionary<string, string?> { ["proxy"] = "bench.example" }));
            return base.CreateHost(builder);
        }

        protected override bool WithDemo => false;
    }

    [Fact]
    public async Task Behind_a_named_proxy_each_device_types_the_code_and_the_bench_itself_types_none()
    {
        using var own = new ProxiedApp();
        using var through = own.CreateClient(new() { AllowAutoRedirect = false });
        through.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.9");
        through.DefaultRequestHeaders.Host = "bench.example";
        using (var led = await Ask(through, "GET", "/log"))
            Assert.StartsWith("/device?to=", led.Headers.Location!.ToString(), StringComparison.Ordinal);
        using (var refused = await Ask(through, "POST", "/room"))
            Assert.Equal(HttpStatusCode.Unauthorized, refused.StatusCode);
        var device = own.Visit();
        device.Client.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.9");
        device.Client.DefaultRequestHeaders.Host = "bench.example";
        await device.Go("/device");
        await device.Submit("form.narrow", ("code", own.Services.GetRequiredService<Reach>().Code()), ("name", "far tablet"), ("person", "Isla"));
        Assert.Equal("/", device.Path);
        // It is a device, and no bench.
        Assert.Equal(HttpStatusCode.Forbidden, (await device.Client.GetAsync("/export/archive.zip", Stop)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await own.Visit().Client.GetAsync("/export/archive.zip", Stop)).StatusCode);
        Assert.Throws<ArgumentException>(() => new Reach(TimeProvider.System).OpenThrough("no host !"));
    }

    [Fact]
    public async Task The_doors_own_refusals_carry_the_same_headers_as_every_page()
    {
        using var client = Plain(null);
        using var page = await Ask(client, "GET", "/");
        using var foreign = new HttpRequestMessage(HttpMethod.Get, "/");
        foreign.Headers.Host = "evil.example";
        using var refused = await client.SendAsync(foreign, Stop);
        Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
        using var traced = await Ask(client, "TRACE", "/");
        Assert.Equal(HttpStatusCode.MethodNotAllowed, traced.StatusCode);
        string[] headers =
        [
            "Content-Security-Policy", "X-Content-Type-Options", "Referrer-Policy", "Cross-Origin-Opener-Policy", "Cross-Origin-Resource-Policy",
        ];
        foreach (var header in headers)
        {
            var of = page.Headers.GetValues(header).Single();
            Assert.Equal((header, of), (header, refused.Headers.GetValues(header).Single()));
            Assert.Equal((header, of), (header, traced.Headers.GetValues(header).Single()));
        }
    }

    [Fact]
    public void Waits_grow_with_each_wrong_one_are_bounded_and_of_one_address_alone()
    {
        var clock = new TestClock();
        var attempts = new Attempts(clock);
        Assert.Equal([0, 0, 1, 2, 4, 8], Enumerable.Range(0, 6).Select(_ => attempts.Failed("a").TotalSeconds));
        Assert.NotNull(attempts.Wait("a"));
        Assert.Null(attempts.Wait("b"));
        for (var i = 0; i < 60; i++)
            attempts.Failed("a");
        Assert.Equal(Attempts.Longest, attempts.Failed("a"));
        clock.Ahead = Attempts.Longest + TimeSpan.FromSeconds(1);
        Assert.Null(attempts.Wait("a"));
        attempts.Passed("a");
        Assert.Equal(TimeSpan.Zero, attempts.Failed("a"));
        // As many strangers as like: a thousand are remembered.
        for (var i = 0; i < 3000; i++)
            attempts.Failed($"s{i}");
        Assert.Equal(TimeSpan.Zero, attempts.Failed("a"));
    }

    [Fact]
    public async Task A_bench_with_a_pin_asks_this_machines_browsers_once_slows_guessing_and_lets_it_be_changed_and_taken_away()
    {
        using var own = new EmptyApp();
        var (here, other) = (own.Visit(), own.Visit());
        await here.Go("/preferences");
        foreach (var (pin, again, field) in new[] { ("123", "123", "pin"), ("4711", "4712", "pinAgain") })
        {
            await here.Submit("form[action*='Pin']", ("pin", pin), ("pinAgain", again));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, here.Last.StatusCode);
            Assert.NotEqual("", here.Text($"#err-{field}"));
        }

        await here.Submit("form[action*='Pin']", ("pin", "4711 and ice"), ("pinAgain", "4711 and ice"));
        Assert.Equal("/preferences", here.Path);
        Assert.DoesNotContain("4711", await File.ReadAllTextAsync(Path.Combine(own.Folder, "pin"), Stop), StringComparison.Ordinal);
        await here.Go("/log");
        Assert.Equal("/log", here.Path);
        // Another browser of the machine is asked, and gets nothing before.
        await other.Go("/log");
        Assert.StartsWith("/pin?to=", other.Path, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.Unauthorized, (await other.Client.PostAsync("/room", null, Stop)).StatusCode);
        Assert.Equal(HttpStatusCode.Found, (await Ask(own.CreateClient(new() { AllowAutoRedirect = false }), "GET", "/export/archive.zip")).StatusCode);
        for (var i = 0; i < 4; i++)
            await other.Submit("form.narrow", ("pin", "0000"));
        Assert.Contains("wait ", other.Text("#err-pin"));
        own.Clock.Ahead = TimeSpan.FromMinutes(1);
        await other.Submit("form.narrow", ("pin", "4711 and ice"));
        Assert.Equal("/log", other.Path);
        // Changed: who knew the old one is asked again.
        await other.Go("/preferences");
        await other.Submit("form[action*='Pin']", ("pin", "another one"), ("pinAgain", "another one"));
        await here.Go("/log");
        Assert.StartsWith("/pin", here.Path, StringComparison.Ordinal);
        // After thirty days too.
        await other.Go("/log");
        Assert.Equal("/log", other.Path);
        own.Clock.Ahead = TimeSpan.FromDays(31);
        await other.Go("/log");
        Assert.StartsWith("/pin", other.Path, StringComparison.Ordinal);
        await other.Submit("form.narrow", ("pin", "another one"));
        await other.Go("/preferences");
        await other.Submit("form[action*='Pin']", ("pin", ""), ("pinAgain", ""));
        await own.Visit().Go("/");
        Assert.False(File.Exists(Path.Combine(own.Folder, "pin")));
    }
}
