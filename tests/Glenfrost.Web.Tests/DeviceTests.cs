using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Glenfrost.Web.Tests;

/// <summary>The bench open to a network: requests that carry the header come from the tablet's address.</summary>
public sealed class LanApp : TestApp
{
    public const string Remote = "X-Test-Remote";

    private sealed class FromElsewhere : IStartupFilter
    {
        public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) => app =>
        {
            app.Use((context, go) =>
            {
                if (context.Request.Headers[Remote].Count > 0)
                    context.Connection.RemoteIpAddress = IPAddress.Parse(context.Request.Headers[Remote].ToString());
                return go();
            });
            next(app);
        };
    }

    protected override IHost CreateHost(IHostBuilder builder)
    {
        builder.ConfigureHostConfiguration(c =>
            c.AddInMemoryCollection(new Dictionary<string, string?> { ["lan"] = "yes", ["port"] = "5099", ["host"] = "hut.example" }));
        return base.CreateHost(builder);
    }

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        base.ConfigureWebHost(builder);
        builder.ConfigureServices(s => s.AddTransient<IStartupFilter, FromElsewhere>());
    }

    public string Code => Services.GetRequiredService<Reach>().Code();

    /// <summary>Somebody on another machine of the network.</summary>
    public Visitor Tablet(string address = "192.0.2.44")
    {
        var visitor = Visit();
        visitor.Client.DefaultRequestHeaders.Add(Remote, address);
        visitor.Client.DefaultRequestHeaders.Host = "hut.example";
        return visitor;
    }
}

public class DeviceTests(LanApp site) : IClassFixture<LanApp>
{
    private readonly Visitor bench = site.Visit();

    private Task<Run> HalfRead() => site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed));

    private async Task<Visitor> LetIn(string name, string person = "Isla")
    {
        var tablet = site.Tablet();
        await tablet.Go("/");
        await tablet.Submit("form.narrow", ("code", site.Code.ToLowerInvariant().Replace("-", " ")), ("name", name), ("person", person));
        return tablet;
    }

    private async Task<string> Token(string name = "scale")
    {
        await bench.Go("/devices");
        await bench.Submit("form[action*='Token']", ("name", name), ("person", "Ruan"));
        return bench.Text(".token");
    }

    private async Task<(HttpStatusCode Code, JsonElement Body)> Post(Guid run, string? token, object body, HttpClient? client = null)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/runs/{run}/readings") { Content = JsonContent.Create(body) };
        if (token is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        var reply = await (client ?? bench.Client).SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    private async Task<(HttpStatusCode Code, JsonElement Body)> PostTo(string path, string? token, object body)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = JsonContent.Create(body) };
        if (token is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
        var reply = await bench.Client.SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    [Fact]
    public async Task A_logged_cooling_is_fitted_stands_in_the_grid_of_a_release_and_makes_its_minutes_no_guess()
    {
        var token = await Token("bed log");
        await bench.Go($"/pairings/{await site.PairingAsync("Heath", "Whimbrel 300")}/release");
        await bench.Submit("#plan", ("bedC", "60"), ("surroundingsC", ""));
        var run = bench.Planned();
        await bench.Submit("form[action*='handler=Printed']", ("outcome", "whole"));
        object Log(string key, double? airC = 22, double scale = 1) =>
            new { key, airC, log = Enumerable.Range(0, 12).Select(k => new { minute = 5.0 * k, bedC = 22 + scale * 60 * Math.Exp(-5.0 * k / 30) }) };
        var posted = await PostTo($"/api/v1/runs/{run}/cooling", token, Log("c-1"));
        Assert.Equal((HttpStatusCode.Created, "30"), (posted.Code, posted.Body.GetProperty("text").GetString()));
        Assert.Equal((0, "coolingMinutes"), (posted.Body.GetProperty("section").GetInt32(), posted.Body.GetProperty("aspect").GetString()));
        Assert.Equal(HttpStatusCode.OK, (await PostTo($"/api/v1/runs/{run}/cooling", token, Log("c-1"))).Code);
        // The next one goes to the next print.
        Assert.Equal(1, (await PostTo($"/api/v1/runs/{run}/cooling", token, Log("c-2"))).Body.GetProperty("section").GetInt32());
        foreach (var (body, field) in new (object, string)[]
            {
                (Log(""), "key"), (new { key = "x" }, "log"), (Log("x", null), "airC"), (Log("x", 400), "airC"), (Log("x", 22, 0.05), "log"),
                (new { key = "x", airC = 22, log = new[] { new { minute = 0, bedC = 900 }, new { minute = 5, bedC = 80 }, new { minute = 9, bedC = 60 } } }, "log[0].bedC"),
            })
        {
            var refused = await PostTo($"/api/v1/runs/{run}/cooling", token, body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.Code);
            Assert.True(refused.Body.GetProperty("errors").TryGetProperty(field, out _), $"{field}: {refused.Body}");
        }

        var tower = (await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed))).Id;
        Assert.Equal(HttpStatusCode.Conflict, (await PostTo($"/api/v1/runs/{tower}/cooling", token, Log("x"))).Code);
        Assert.Equal(HttpStatusCode.NotFound, (await PostTo($"/api/v1/runs/{Guid.NewGuid()}/cooling", token, Log("x"))).Code);
        Assert.Equal(HttpStatusCode.Unauthorized, (await PostTo($"/api/v1/runs/{run}/cooling", null, Log("x"))).Code);
        // On the page it is a cell like another one, and the verdict reckons with it.
        await bench.Go($"/runs/{run}");
        Assert.Equal("30", bench.Value("c.0.coolingMinutes"));
        await bench.Submit("#scores", ("c.0.freeC", "45"), ("c.1.freeC", "44"), ("c.2.freeC", "46"));
        await bench.Submit("form[action$='Finish']");
        Assert.Contains("with this bed's own cooling, 30 min to a third", bench.Text(".judge-stage"));
    }

    [Fact]
    public async Task An_instrument_notes_the_air_at_the_start_and_the_end_of_a_print_and_what_it_noted_stands_over_the_rooms_log()
    {
        var token = await Token("air");
        await bench.Go($"/pairings/{await site.PairingAsync("Heath", "Whimbrel 300")}/layer-time");
        await bench.Submit("#plan");
        var run = bench.Planned();
        // Before anybody has said how the print ended: the start is noted as it starts.
        var start = await PostTo($"/api/v1/runs/{run}/air", token, new { moment = "start", roomC = 23.5, chamberC = 41, humidityPercent = 44 });
        Assert.Equal((HttpStatusCode.OK, 3), (start.Code, start.Body.GetProperty("noted").GetInt32()));
        // A lost answer is asked for again, and changes nothing.
        Assert.Equal(0, (await PostTo($"/api/v1/runs/{run}/air", token, new { moment = "start", roomC = 23.5, chamberC = 41 })).Body.GetProperty("noted").GetInt32());
        await bench.Go($"/runs/{run}");
        await bench.Submit("form[action*='handler=Printed']", ("outcome", "whole"));
        Assert.Equal(2, (await PostTo($"/api/v1/runs/{run}/air", token, new { moment = "end", roomC = 24, chamberC = 46.5 })).Body.GetProperty("noted").GetInt32());
        await bench.Go($"/runs/{run}/made-with");
        var page = bench.Text("main");
        Assert.Contains("23.5", page);
        Assert.Contains("46.5", page);
        var entries = await site.WithDb(db => db.FactorEntries.AsNoTracking().Where(e => e.RunId == run).ToListAsync());
        Assert.All(entries, e => Assert.Equal(Core.Factors.FactorSource.Instrument, e.Source));
        Assert.Equal(5, entries.Count);
        foreach (var (body, field) in new (object, string)[]
            {
                (new { roomC = 21 }, "moment"), (new { moment = "noon", roomC = 21 }, "moment"), (new { moment = "start" }, "roomC"),
                (new { moment = "start", roomC = 900 }, "roomC"), (new { moment = "end", chamberC = -300 }, "chamberC"),
                (new { moment = "end", roomC = 20, humidityPercent = 40 }, "humidityPercent"), (new { moment = "start", humidityPercent = 130 }, "humidityPercent"),
            })
        {
            var refused = await PostTo($"/api/v1/runs/{run}/air", token, body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.Code);
            Assert.True(refused.Body.GetProperty("errors").TryGetProperty(field, out _), $"{field}: {refused.Body}");
        }

        var decided = (await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Stage == RunStages.Decided))).Id;
        Assert.Equal(HttpStatusCode.Conflict, (await PostTo($"/api/v1/runs/{decided}/air", token, new { moment = "end", roomC = 20 })).Code);
        Assert.Equal(HttpStatusCode.NotFound, (await PostTo($"/api/v1/runs/{Guid.NewGuid()}/air", token, new { moment = "end", roomC = 20 })).Code);
        Assert.Equal(HttpStatusCode.Unauthorized, (await PostTo($"/api/v1/runs/{run}/air", null, new { moment = "end", roomC = 20 })).Code);
    }

    [Fact]
    public async Task The_rooms_log_takes_what_an_instrument_posts_once_for_each_key()
    {
        var (token, other) = (await Token("hygrometer"), await Token("second hygrometer"));
        var before = await site.WithDb(db => db.Room.CountAsync());
        var first = await PostTo("/api/v1/room", token, new { temperatureC = 20.5, humidityPercent = 47, key = "h-1" });
        Assert.Equal((HttpStatusCode.Created, "20.5 °C, 47 %RH"), (first.Code, first.Body.GetProperty("text").GetString()));
        var again = await PostTo("/api/v1/room", token, new { temperatureC = 20.5, humidityPercent = 47, key = "h-1" });
        Assert.Equal((HttpStatusCode.OK, "same"), (again.Code, again.Body.GetProperty("status").GetString()));
        // Another device's keys are its own.
        Assert.Equal(HttpStatusCode.Created, (await PostTo("/api/v1/room", other, new { temperatureC = 19, key = "h-1" })).Code);
        Assert.Equal(before + 2, await site.WithDb(db => db.Room.CountAsync()));
        await bench.Go("/room");
        Assert.Contains("20.5", bench.Text("main"));
        foreach (var (body, field) in new (object, string)[]
            {
                (new { temperatureC = 20 }, "key"), (new { key = "h-2" }, "temperatureC"), (new { key = "h-2", temperatureC = 95 }, "temperatureC"),
                (new { key = "h-2", temperatureC = 20, humidityPercent = -1 }, "humidityPercent"),
            })
        {
            var refused = await PostTo("/api/v1/room", token, body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.Code);
            Assert.True(refused.Body.GetProperty("errors").TryGetProperty(field, out _), $"{field}: {refused.Body}");
        }

        Assert.Equal(HttpStatusCode.Unauthorized, (await PostTo("/api/v1/room", null, new { temperatureC = 20, key = "h-3" })).Code);
        // Asked again before the answer came: one of them is stored, and none is told of a fault.
        var all = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => PostTo("/api/v1/room", token, new { temperatureC = 21, key = "h-4" })));
        Assert.All(all, a => Assert.True(a.Code is HttpStatusCode.OK or HttpStatusCode.Created, $"{a.Code} {a.Body}"));
        Assert.Equal(before + 3, await site.WithDb(db => db.Room.CountAsync()));
    }

    [Fact]
    public async Task A_tablet_types_the_code_once_and_lands_where_it_wanted_to()
    {
        var run = (await HalfRead()).Id;
        var tablet = site.Tablet();
        await tablet.Go($"/runs/{run}");
        Assert.StartsWith("/device?to=", tablet.Path);
        Assert.DoesNotContain(site.Code, tablet.Page.DocumentElement.OuterHtml);
        await tablet.Submit("form.narrow", ("code", "WRONG-42"), ("name", "tablet"), ("person", "Ruan"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, tablet.Last.StatusCode);
        Assert.Contains("not the code on the console", tablet.Text("#err-code"));
        Assert.Equal("tablet", tablet.Value("name"));
        var code = site.Code;
        await tablet.Submit("form.narrow", ("code", code), ("name", "tablet"), ("person", "Ruan"));
        Assert.Equal($"/runs/{run}", tablet.Path);
        await tablet.Go("/");
        Assert.Equal(HttpStatusCode.OK, tablet.Last.StatusCode);
        Assert.Equal("/", tablet.Path);
        // Used up: the next device needs the next code.
        var phone = site.Tablet("192.0.2.45");
        await phone.Go("/");
        await phone.Submit("form.narrow", ("code", code), ("name", "phone"), ("person", "Ruan"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, phone.Last.StatusCode);
    }

    [Fact]
    public async Task Without_the_code_nothing_is_reached_and_foreign_names_are_refused()
    {
        var tablet = site.Tablet();
        foreach (var path in new[] { "/", "/pairings", "/export/archive.zip", "/photos/" + Guid.NewGuid() + "/large", "/devices", "/openapi/v1.json" })
        {
            await tablet.Go(path);
            Assert.StartsWith("/device", tablet.Path);
        }

        var write = await tablet.Client.PostAsync("/room", new FormUrlEncodedContent(new Dictionary<string, string> { ["roomC"] = "20" }));
        Assert.Equal(HttpStatusCode.Unauthorized, write.StatusCode);
        Assert.Contains("type the code", await write.Content.ReadAsStringAsync());
        tablet.Client.DefaultRequestHeaders.Host = "evil.example";
        var foreign = await tablet.Client.GetAsync("/device");
        Assert.Equal(HttpStatusCode.BadRequest, foreign.StatusCode);
        Assert.Contains("hut.example", await foreign.Content.ReadAsStringAsync());
        await bench.Go("/devices");
        Assert.Equal(site.Code, bench.Text(".device-code"));
        Assert.Contains("http://hut.example:5099", bench.Page.Body!.TextContent);
    }

    [Fact]
    public async Task Wrong_codes_make_their_sender_wait_and_keep_nobody_else_out()
    {
        var stranger = site.Tablet("192.0.2.99");
        await stranger.Go("/device");
        var code = site.Code;
        for (var i = 0; i < 6; i++)
            await stranger.Submit("form.narrow", ("code", "ABCD-9999"), ("name", "x"), ("person", "y"));
        Assert.Contains("wait ", stranger.Text("#err-code"));
        // Not even the right one is taken from there now; from elsewhere it is, and it is the same one.
        await stranger.Submit("form.narrow", ("code", code), ("name", "x"), ("person", "y"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, stranger.Last.StatusCode);
        Assert.Equal(code, site.Code);
        var friend = site.Tablet("192.0.2.98");
        await friend.Go("/device");
        await friend.Submit("form.narrow", ("code", code), ("name", "friend's phone"), ("person", "Isla"));
        Assert.Equal("/", friend.Path);
    }

    [Fact]
    public async Task Who_was_not_let_in_is_told_nobodys_name_and_a_device_that_was_away_for_a_month_types_a_code_again()
    {
        var names = await site.WithDb(db => db.People.Select(p => p.Name).ToListAsync());
        var stranger = site.Tablet("192.0.2.97");
        await stranger.Go("/device");
        Assert.All(names.Where(n => n.Length > 2), n => Assert.DoesNotContain(n, stranger.Page.DocumentElement.OuterHtml, StringComparison.Ordinal));
        Assert.Equal("", stranger.Value("person"));
        var tablet = await LetIn("summer tablet");
        Assert.Equal("/", tablet.Path);
        await site.WithDb(db => db.Devices.Where(d => d.Name == "summer tablet")
            .ExecuteUpdateAsync(s => s.SetProperty(d => d.LastSeenAt, DateTime.UtcNow.AddDays(-29))));
        await tablet.Go("/");
        Assert.Equal("/", tablet.Path);
        await site.WithDb(db => db.Devices.Where(d => d.Name == "summer tablet")
            .ExecuteUpdateAsync(s => s.SetProperty(d => d.LastSeenAt, DateTime.UtcNow.AddDays(-31))));
        await tablet.Go("/");
        Assert.StartsWith("/device", tablet.Path, StringComparison.Ordinal);
        var write = await tablet.Client.PostAsync("/room", null, TestContext.Current.CancellationToken);
        Assert.Contains("away for more than 30 days", await write.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task A_withdrawn_tablet_is_told_and_an_undo_lets_it_in_again()
    {
        var tablet = await LetIn("lost tablet");
        Assert.Equal("/", tablet.Path);
        await bench.Go("/devices");
        var id = (await site.WithDb(db => db.Devices.FirstAsync(d => d.Name == "lost tablet"))).Id;
        await bench.Submit("form[action*='Withdraw']", ("device", id.ToString()));
        await tablet.Go("/");
        Assert.Contains("This device was withdrawn", tablet.Text(".lead-text"));
        Assert.Equal(HttpStatusCode.Unauthorized, (await tablet.Client.PostAsync("/room", null)).StatusCode);
        await bench.Submit(".told form");
        await tablet.Go("/");
        Assert.Equal("/", tablet.Path);
        var log = await site.WithDb(db => db.Log.Where(l => l.Kind == "device").Select(l => l.Text).ToListAsync());
        Assert.Contains("lost tablet was withdrawn", log);
        Assert.Contains("Undone: The device is back.", log);
    }

    [Fact]
    public async Task Withdrawing_a_tablet_names_the_tokens_that_it_may_have_made()
    {
        await Token("older scale");
        await LetIn("tablet that made some");
        await Token("rig by the door");
        await bench.Go("/devices");
        var id = (await site.WithDb(db => db.Devices.FirstAsync(d => d.Name == "tablet that made some"))).Id;
        await bench.Submit("form[action*='Withdraw']", ("device", id.ToString()));
        var told = bench.Text(".told");
        Assert.Contains("Tokens made since it was let in still stand", told);
        Assert.Contains("rig by the door", told);
        Assert.DoesNotContain("older scale", told);
        var rig = (await site.WithDb(db => db.Devices.FirstAsync(d => d.Name == "rig by the door"))).Id;
        await bench.Submit("form[action*='Withdraw']", ("device", rig.ToString()));
        Assert.DoesNotContain("still stand", bench.Text(".told"));
    }

    [Fact]
    public async Task What_is_read_on_a_tablet_carries_its_person_and_its_device_and_shows_elsewhere()
    {
        var run = (await HalfRead()).Id;
        var tablet = await LetIn("reading tablet", "Ruan");
        await tablet.Go($"/runs/{run}");
        var seen = await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run));
        Assert.Equal(HttpStatusCode.NoContent, (await bench.Client.GetAsync($"/runs/{run}?handler=Since&seen={seen}&stage=printed")).StatusCode);
        var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}?handler=Reading")
        {
            Content = new FormUrlEncodedContent(
                new Dictionary<string, string> { ["key"] = "tab-1", ["section"] = "1", ["aspect"] = "observedC", ["text"] = "224" }),
        };
        request.Headers.Add("X-Ticket", tablet.Value("__RequestVerificationToken"));
        Assert.Equal(HttpStatusCode.OK, (await tablet.Client.SendAsync(request)).StatusCode);
        var now = await bench.Client.GetFromJsonAsync<JsonElement>($"/runs/{run}?handler=Since&seen={seen}&stage=printed");
        var cell = now.GetProperty("cells").EnumerateArray()
            .Single(c => c.GetProperty("section").GetInt32() == 1 && c.GetProperty("aspect").GetString() == "observedC");
        Assert.Equal(("224", "Ruan"), (cell.GetProperty("text").GetString(), cell.GetProperty("who").GetString()));
        var reading = await site.WithDb(db => db.Readings.FirstAsync(r => r.Key == "tab-1"));
        Assert.Equal("reading tablet", (await site.WithDb(db => db.Devices.FirstAsync(d => d.Id == reading.DeviceId))).Name);
        await bench.Go("/log?kind=reading");
        Assert.Contains("Ruan", bench.Text(".log"));
    }

    [Fact]
    public async Task Posted_readings_go_to_the_next_open_cell_once()
    {
        var (run, token) = ((await HalfRead()).Id, await Token());
        var first = await Post(run, token, new { key = "s1", value = 2 });
        Assert.Equal(
            (HttpStatusCode.Created, "saved", "overhang"),
            (first.Code, first.Body.GetProperty("status").GetString(), first.Body.GetProperty("aspect").GetString()));
        var again = await Post(run, token, new { key = "s1", value = 2 });
        Assert.Equal(
            (HttpStatusCode.OK, "same", first.Body.GetProperty("id").GetGuid()),
            (again.Code, again.Body.GetProperty("status").GetString(), again.Body.GetProperty("id").GetGuid()));
        var second = await Post(run, token, new { key = "s2", text = "3" });
        Assert.Equal(first.Body.GetProperty("next").GetProperty("section").GetInt32(), second.Body.GetProperty("section").GetInt32());
        var display = await Post(run, token, new { key = "s3", text = "191,5 °C", aspect = "observedC" });
        Assert.Equal((8, "191.5"), (display.Body.GetProperty("section").GetInt32(), display.Body.GetProperty("text").GetString()));
        Assert.Equal(7, (await Post(run, token, new { key = "s4", value = 196, aspect = "observedC" })).Body.GetProperty("section").GetInt32());
        var reading = await site.WithDb(db => db.Readings.FirstAsync(r => r.Key == "s1"));
        Assert.Equal("Ruan", (await site.WithDb(db => db.People.FirstAsync(p => p.Id == reading.PersonId))).Name);

        // Ten devices at once: ten cells, none twice, none lost.
        var open = (await Post(run, token, new { key = "s4", value = 1 })).Body.GetProperty("open").GetInt32();
        var many = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => Post(run, token, new { key = $"p{i}", value = 3 })));
        Assert.All(many, m => Assert.Equal(HttpStatusCode.Created, m.Code));
        Assert.Equal(8, many.Select(m => (m.Body.GetProperty("section").GetInt32(), m.Body.GetProperty("aspect").GetString())).Distinct().Count());
        Assert.Equal(open - 8, many.Min(m => m.Body.GetProperty("open").GetInt32()));
    }

    [Fact]
    public async Task A_bad_reading_is_told_by_field_and_stored_nowhere()
    {
        var (run, token) = ((await HalfRead()).Id, await Token("bad scale"));
        var before = await site.WithDb(db => db.Readings.CountAsync());
        foreach (var (body, field) in new (object, string)[]
            {
                (new { value = 3 }, "key"), (new { key = "x" }, "value"), (new { key = "x", value = 9 }, "value"), (new { key = "x", text = "soft" }, "text"),
                (new { key = "x", value = 3, aspect = "taste" }, "aspect"), (new { key = "x", value = 3, section = 1 }, "aspect"),
                (new { key = "x", value = 3, section = 1.5, aspect = "bond" }, "section"),
                (new { key = "x", value = 3, section = 90, aspect = "bond" }, "value"), (new { key = "x", text = "lost", aspect = "state" }, "section"),
                (new { key = new string('k', 81), value = 3 }, "key"), (new { key = "x", value = "3" }, "value"),
                (new { key = "x", value = 3, supersedes = "me" }, "supersedes"),
            })
        {
            var (code, answer) = await Post(run, token, body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, code);
            Assert.True(answer.GetProperty("errors").TryGetProperty(field, out _), $"{field}: {answer}");
        }

        var filled = await Post(run, token, new { key = "x", value = 3, section = 0, aspect = "bridge" });
        Assert.Equal(HttpStatusCode.Conflict, filled.Code);
        Assert.True(filled.Body.TryGetProperty("standing", out _));
        Assert.Equal(HttpStatusCode.NotFound, (await Post(Guid.NewGuid(), token, new { key = "x", value = 3 })).Code);
        var planned = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Planned))).Id;
        Assert.Contains("not printed yet", (await Post(planned, token, new { key = "x", value = 3 })).Body.GetProperty("detail").GetString());
        var decided = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Decided))).Id;
        Assert.Contains("decided", (await Post(decided, token, new { key = "x", value = 3 })).Body.GetProperty("detail").GetString());
        var text = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/runs/{run}/readings")
        {
            Content = new StringContent("{\"key\":\"x\"}", Encoding.UTF8, "text/plain"),
        };
        text.Headers.Authorization = new("Bearer", token);
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await bench.Client.SendAsync(text)).StatusCode);
        Assert.Equal(before, await site.WithDb(db => db.Readings.CountAsync()));
    }

    [Fact]
    public async Task A_stolen_guessed_or_withdrawn_token_posts_nothing()
    {
        var (run, token) = ((await HalfRead()).Id, await Token("withdrawn scale"));
        var before = await site.WithDb(db => db.Readings.CountAsync());
        foreach (var bad in new[] { null, "", "gfr_" + new string('0', 48), token[..^1] + (token[^1] == '0' ? '1' : '0') })
            Assert.Equal(HttpStatusCode.Unauthorized, (await Post(run, bad, new { key = "y", value = 3 })).Code);
        // A tablet's cookie opens pages only, a device's token posts only.
        var tablet = await LetIn("cookie thief");
        var cookie = (await site.WithDb(db => db.Devices.FirstAsync(d => d.Name == "cookie thief"))).TokenHash;
        Assert.Equal(HttpStatusCode.Unauthorized, (await Post(run, cookie, new { key = "y", value = 3 })).Code);
        var thief = site.Tablet("192.0.2.66");
        thief.Client.DefaultRequestHeaders.Add("Cookie", $"{DeviceBook.Cookie}={token}");
        await thief.Go("/");
        Assert.StartsWith("/device", thief.Path);
        var id = (await site.WithDb(db => db.Devices.FirstAsync(d => d.Name == "withdrawn scale"))).Id;
        await bench.Go("/devices");
        await bench.Submit("form[action*='Withdraw']", ("device", id.ToString()));
        var gone = await Post(run, token, new { key = "y", value = 3 });
        Assert.Equal(HttpStatusCode.Unauthorized, gone.Code);
        Assert.Contains("was withdrawn", gone.Body.GetProperty("detail").GetString());
        Assert.Equal(before, await site.WithDb(db => db.Readings.CountAsync()));
        Assert.DoesNotContain(token, (await site.WithDb(db => db.Devices.Select(d => d.TokenHash).ToListAsync())));
        Assert.DoesNotContain("tokenHash", await bench.Client.GetStringAsync("/export/archive.json"));
    }

    [Fact]
    public async Task Two_people_score_one_run_and_are_told_by_name()
    {
        var run = (await HalfRead()).Id;
        var tablet = await LetIn("second reader", "Morag");
        await tablet.Go($"/runs/{run}");
        async Task<JsonElement> Put(Visitor by, string key, string text)
        {
            var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}?handler=Reading")
            {
                Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["key"] = key, ["section"] = "0", ["aspect"] = "bond", ["text"] = text }),
            };
            request.Headers.Add("X-Ticket", by.Value("__RequestVerificationToken"));
            return await (await by.Client.SendAsync(request)).Content.ReadFromJsonAsync<JsonElement>();
        }

        await bench.Go($"/runs/{run}");
        Assert.Equal("saved", (await Put(tablet, "m-1", "2")).GetProperty("status").GetString());
        var told = await Put(bench, "b-1", "4");
        Assert.Equal("conflict", told.GetProperty("status").GetString());
        Assert.StartsWith("Morag put 2 here", told.GetProperty("message").GetString());
    }

    [Fact]
    public async Task Who_works_here_changes_by_name_and_is_renamed_only_where_it_is_meant()
    {
        using var site = new EmptyApp();
        var (here, there) = (site.Visit(), site.Visit());
        async Task Be(Visitor v, string name, bool other = false)
        {
            await v.Go("/preferences");
            await v.Submit("main form", [("person", name), .. other ? new[] { ("other", "1") } : []]);
        }

        async Task<string> Who(Visitor v)
        {
            await v.Go("/preferences");
            return v.Value("person");
        }

        await Be(here, "Isla");
        await Be(there, "Ruan", true);
        Assert.Equal(("Isla", "Ruan"), (await Who(here), await Who(there)));
        await Be(there, "isla");
        Assert.Equal("Isla", await Who(there));
        await Be(there, "Ruan");
        await Be(there, "Ruan Bell");
        Assert.Equal(("Isla", "Ruan Bell"), (await Who(here), await Who(there)));
        Assert.Equal(["Isla", "Ruan Bell"], await site.WithDb(db => db.People.OrderBy(p => p.Name).Select(p => p.Name).ToListAsync()));
    }

    [Fact]
    public async Task Codes_to_open_a_spool_or_a_run_carry_the_address_of_the_network()
    {
        var spool = (await site.WithDb(db => db.Spools.FirstAsync())).Id;
        await bench.Go($"/spools/{spool}/label");
        Assert.Contains($"http://hut.example:5099/spools/{spool}", bench.Page.Body!.TextContent);
        var run = (await HalfRead()).Id;
        await bench.Go($"/runs/{run}/code");
        Assert.Contains($"http://hut.example:5099/runs/{run}", bench.Page.Body!.TextContent);
        Assert.True(bench.Page.QuerySelector("path")!.GetAttribute("d")!.Length > 500);
    }

    [Fact]
    public void The_script_in_the_docs_has_ten_lines_and_is_the_one_that_ships()
    {
        var script = File.ReadAllText(Path.Combine(TestApp.Root, "docs/post-readings.mjs"));
        Assert.InRange(script.Trim().Split('\n').Length, 1, 11);
        Assert.Contains(script, File.ReadAllText(Path.Combine(TestApp.Root, "docs/devices.md")));
    }
}
