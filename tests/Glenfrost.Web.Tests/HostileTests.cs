using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Glenfrost.Application;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What comes in and is not as it should be: told at its place, stored nowhere, and never an answer of 500.</summary>
public class HostileTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Task<Run> HalfRead() =>
        site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed, Stop));

    private async Task<string> Token()
    {
        await v.Go("/devices");
        await v.Submit("form[action*='Token']", ("name", $"scale {Guid.NewGuid():N}"[..20]), ("person", "Ruan"));
        return v.Text(".token");
    }

    private async Task<(int Code, string Body)> Post(string path, string json, string? token = null, string type = "application/json") =>
        await Post(path, Encoding.UTF8.GetBytes(json), token, type);

    private async Task<(int Code, string Body)> Post(string path, byte[] body, string? token = null, string type = "application/json")
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = new ByteArrayContent(body) };
        request.Content.Headers.ContentType = new(type);
        if (token is not null)
            request.Headers.Authorization = new("Bearer", token);
        using var answer = await v.Client.SendAsync(request, Stop);
        return ((int)answer.StatusCode, await answer.Content.ReadAsStringAsync(Stop));
    }

    [Fact]
    public async Task A_reason_for_an_empty_cell_a_correction_without_its_cell_and_an_instrument_without_a_name_are_told_at_once()
    {
        var (run, token) = ((await HalfRead()).Id, await Token());
        var path = $"/api/v1/runs/{run}/readings";
        var watch = Stopwatch.StartNew();
        var some = (await site.WithDb(db => db.Readings.Where(r => r.RunId == run).Select(r => r.Id).FirstAsync(Stop))).ToString();
        foreach (var (json, field) in new[]
            {
                ($$"""{"key":"s1","value":3,"supersedes":"{{some}}"}""", "section"),
                ($$"""{"key":"s2","value":3,"aspect":"bond","supersedes":"{{some}}"}""", "section"),
                ("""{"key":"i1","value":3,"instrument":""}""", "instrument"), ("""{"key":"i2","value":3,"instrument":"   "}""", "instrument"),
            })
        {
            var (code, body) = await Post(path, json, token);
            Assert.Equal((json, 422), (json, code));
            Assert.True(JsonDocument.Parse(body).RootElement.GetProperty("errors").TryGetProperty(field, out _), body);
        }

        // Three hundred turns of a correction that names no cell took seconds.
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20));
        var (whyCode, whyBody) = await Post(path, """{"key":"w1","value":3,"section":1,"aspect":"bond","why":"it looked better by daylight"}""", token);
        Assert.True(whyCode is 201 or 200, whyBody);
        await v.Go("/log");
        Assert.Contains("empty became 3, because it looked better by daylight", v.Text("main"));
    }

    [Fact]
    public async Task Half_characters_and_bytes_that_are_no_text_are_told_at_their_field_at_every_door_of_json()
    {
        var (run, token) = ((await HalfRead()).Id, await Token());
        var before = await site.WithDb(db => db.Readings.CountAsync(Stop));
        byte[] Bad(string json) => [.. Encoding.UTF8.GetBytes(json).SelectMany(b => b == (byte)'~' ? new byte[] { 0xC3, 0x28 } : [b])];
        foreach (var path in TrialCatalogue.All.SelectMany(t => new[] { "plan", "gcode", "evaluate" }.Select(x => $"/api/v1/trials/{t.Kind}/{x}"))
            .Append($"/api/v1/runs/{run}/readings"))
        {
            foreach (var (body, field) in new[]
                {
                    (Bad("""{"key":"\ud800","value":3}"""), "key"), (Bad("""{"a":["x","\udfff"]}"""), "a[1]"), (Bad("""{"key":"~","value":3}"""), "key"),
                    (Bad("""{"m":{"name":"~"}}"""), "m.name"),
                })
            {
                var (code, answer) = await Post(path, body, path.EndsWith("readings", StringComparison.Ordinal) ? token : null);
                // A parser that refuses the bytes themselves says where.
                Assert.True(code is 422 or 400, $"{path} answered {code}");
                if (code == 422)
                    Assert.True(JsonDocument.Parse(answer).RootElement.GetProperty("errors").TryGetProperty(field, out _), $"{path}: {answer}");
            }
        }

        Assert.Equal(before, await site.WithDb(db => db.Readings.CountAsync(Stop)));
    }

    [Fact]
    public async Task Whatever_stands_in_a_field_of_the_api_it_answers_with_the_field_and_never_with_500()
    {
        var random = new Random(20261129);
        string[] values =
        [
            "null", "true", "-1", "0", "1e308", "-1e-300", "0.1", "99999999999999999999", "\"\"", "\"12 mm\"", "\"\\u0000\"", "[]", "{}", "[[]]",
            "[null]", "[1,\"x\"]", "{\"a\":1}", $"\"{new string('x', 3000)}\"", "[" + string.Join(',', Enumerable.Repeat("1", 1200)) + "]",
        ];
        foreach (var trial in TrialCatalogue.All)
        {
            var names = trial.Fields.Keys
                .Concat(["machine", "settings", "mode", "readings", "plan", "scores", "groups", "masses", "family", "advised", "values"]).ToList();
            for (var turn = 0; turn < 60; turn++)
            {
                var body = "{" + string.Join(',', Enumerable.Range(0, 1 + random.Next(5)).Select(_ => names[random.Next(names.Count)]).Distinct()
                    .Select(n => $"\"{n}\":{values[random.Next(values.Length)]}")) + "}";
                var path = $"/api/v1/trials/{trial.Kind}/{new[] { "plan", "evaluate", "gcode" }[turn % 3]}";
                var (code, answer) = await Post(path, body);
                Assert.True(code is 200 or 400 or 422, $"{path} with {body[..Math.Min(200, body.Length)]} answered {code}: {answer}");
            }
        }
    }

    [Fact]
    public async Task Another_websites_page_changes_nothing_here_and_reads_no_file_at_our_cost()
    {
        foreach (var (origin, taken) in new[]
            {
                ("http://evil.example", false), ("null", false), ("http://localhost:9", false), ("https://localhost", true), ("http://localhost", true),
                (null, true),
            })
        {
            foreach (var path in new[] { "/api/v1/gcode/inspect", "/api/v1/gcode/step", "/api/v1/trials/temperature-tower/plan", "/room", "/import", "/pin" })
            {
                using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = new StringContent("G1 X1\n", Encoding.ASCII, "text/plain") };
                if (origin is not null)
                    request.Headers.TryAddWithoutValidation("Origin", origin);
                using var answer = await v.Client.SendAsync(request, Stop);
                Assert.True(answer.StatusCode == HttpStatusCode.Forbidden != taken, $"{path} from {origin} answered {(int)answer.StatusCode}");
                if (!taken)
                    Assert.Contains("another website", await answer.Content.ReadAsStringAsync(Stop));
            }
        }
    }

    [Theory]
    [InlineData("api/v1/gcode/inspect", "files at once")]
    [InlineData("api/v1/gcode/step", "files at once")]
    [InlineData("health", "health at once")]
    public void What_costs_much_is_done_a_few_at_a_time(string route, string limit)
    {
        _ = site.Services;
        var endpoint = site.Services.GetRequiredService<Microsoft.AspNetCore.Routing.EndpointDataSource>().Endpoints
            .OfType<Microsoft.AspNetCore.Routing.RouteEndpoint>().First(e => e.RoutePattern.RawText!.Trim('/') == route);
        Assert.Equal(limit, endpoint.Metadata.GetMetadata<Microsoft.AspNetCore.RateLimiting.EnableRateLimitingAttribute>()?.PolicyName);
    }

    [Fact]
    public async Task A_form_that_does_not_begin_with_its_ticket_is_not_read_and_its_fields_have_a_sum()
    {
        async Task<HttpResponseMessage> Send(bool ticketFirst, int fields, int length)
        {
            await v.Go("/gcode");
            var ticket = v.Value("__RequestVerificationToken");
            var form = new MultipartFormDataContent();
            if (ticketFirst)
                form.Add(new StringContent(ticket), "__RequestVerificationToken");
            for (var i = 0; i < fields; i++)
                form.Add(new StringContent(new string('x', length)), $"f{i}");
            if (!ticketFirst)
                form.Add(new StringContent(ticket), "__RequestVerificationToken");
            form.Add(new ByteArrayContent("G1 X1\n"u8.ToArray()), "file", "a.gcode");
            return await v.Client.PostAsync("/gcode/files", form, Stop);
        }

        var before = await site.WithDb(db => db.GcodeFiles.CountAsync(Stop));
        foreach (var (first, fields, length) in new[] { (false, 1, 1), (true, 101, 1), (true, 5, 99_000), (true, 1, 100_001), (false, 500, 99_000) })
        {
            using var answer = await Send(first, fields, length);
            await v.Take(answer);
            Assert.Equal("/gcode", v.Path);
            Assert.Contains(first ? "Nothing was stored" : "ticket is missing", v.Text("main"));
        }

        Assert.Equal(before, await site.WithDb(db => db.GcodeFiles.CountAsync(Stop)));
    }

    [Fact]
    public async Task A_form_that_a_page_does_not_take_is_told_so_and_never_a_fault()
    {
        await v.Go("/gcode");
        var ticket = v.Value("__RequestVerificationToken");
        var (run, pairing) = ((await HalfRead()).Id, (await HalfRead()).PairingId);
        string[] pages = ["/", "/pairings", "/filaments", "/printers", "/log", "/room", "/guides", "/gcode", "/exchange", "/sittings", $"/runs/{run}", $"/pairings/{pairing}"];
        foreach (var page in pages)
        {
            foreach (var handler in new[] { "Nothing", "Nowhere", "%00" })
            {
                using var answer = await v.Client.PostAsync(
                    $"{page}?handler={handler}", new FormUrlEncodedContent(new Dictionary<string, string> { ["__RequestVerificationToken"] = ticket }), Stop);
                Assert.True((int)answer.StatusCode < 500, $"{page}?handler={handler} answered {(int)answer.StatusCode}");
                if (page is "/" or "/log" or "/guides")
                    Assert.Equal((page, HttpStatusCode.MethodNotAllowed), (page, answer.StatusCode));
            }
        }
    }

    [Fact]
    public async Task An_address_to_go_back_to_is_of_this_application_and_of_letters_that_a_header_may_hold()
    {
        await v.Go("/filaments");
        foreach (var (back, to) in new[] { ("/log?kind=run", "/log"), ("/log?,\u202e", "/"), ("/a\r\nX: 1", "/"), ("//evil.example", "/"), ("", "/"), ("/ä", "/") })
        {
            var id = await site.WithDb(async db =>
            {
                var f = new Finding
                {
                    Key = Guid.NewGuid().ToString(), Tag = "blobs", At = DateTime.UtcNow, PersonId = (await db.People.FirstAsync(Stop)).Id,
                    PairingId = (await db.Pairings.FirstAsync(Stop)).Id, RemovedAt = DateTime.UtcNow,
                };
                db.Findings.Add(f);
                await db.SaveChangesAsync(Stop);
                return f.Id;
            });
            await v.Go("/filaments/new");
            await v.Press("form[method=post]", "/undo", ("what", $"finding:{id}"), ("back", System.Text.RegularExpressions.Regex.Unescape(back)));
            Assert.True(v.Last.IsSuccessStatusCode, $"{back}: {(int)v.Last.StatusCode}");
            if (to != "/")
                Assert.True(v.Path.StartsWith(to, StringComparison.Ordinal) || v.Path.StartsWith("/pairings/", StringComparison.Ordinal), v.Path);
        }
    }

    [Fact]
    public async Task A_file_whose_content_is_gone_is_not_here_at_any_of_its_addresses()
    {
        var file = await site.WithDb(async db =>
        {
            var row = new GcodeFile
            {
                Name = "lost.gcode", Sha256 = new string('0', 64), Bytes = 9, At = DateTime.UtcNow, PersonId = (await db.People.FirstAsync(Stop)).Id,
            };
            db.GcodeFiles.Add(row);
            await db.SaveChangesAsync(Stop);
            return row.Id;
        });
        foreach (var part in new[] { "layers.csv", "facts.json", "moves?from=0&to=1" })
        {
            using var answer = await v.Client.GetAsync($"/gcode/{file}/{part}", Stop);
            Assert.Equal((part, HttpStatusCode.NotFound), (part, answer.StatusCode));
        }

        await v.Go($"/gcode/{file}");
        Assert.Contains("missing from the data folder", v.Text("main"));
        using var content = await v.Client.GetAsync($"/gcode/{file}/file", Stop);
        Assert.Equal(HttpStatusCode.NotFound, content.StatusCode);
        Assert.Contains("missing from the data folder", await content.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Work_stops_when_the_visitor_has_left()
    {
        using var left = new CancellationTokenSource();
        var asked = 0;
        var memory = new LeavingMemory(new Counting(() => asked++), left.Token);
        Assert.Equal(3, memory.Once("a", 1, () => 3));
        left.Cancel();
        Assert.Throws<OperationCanceledException>(() => memory.Once("b", 1, () => 4));
        Assert.Equal(1, asked);

        // A piece asks between its layers: it stops amid them, and what was half made is nobody's answer.
        var trial = TrialCatalogue.Get("temperature-tower");
        using var soon = new CancellationTokenSource();
        var (laid, late) = (0, 0);
        var hands = new System.Collections.Concurrent.ConcurrentDictionary<int, bool>();
        await using var scope = site.Services.CreateAsyncScope();
        var run = (await scope.ServiceProvider.GetRequiredService<TrialRuns>().LoadAsync((await HalfRead()).Id))!;
        var c = await scope.ServiceProvider.GetRequiredService<Pieces>().ContextAsync(trial, run.Pairing, run.Toolhead) with
        {
            Memory = new LeavingMemory(
                new Counting(() =>
                {
                    hands[Environment.CurrentManagedThreadId] = true;
                    if (soon.IsCancellationRequested)
                        Interlocked.Increment(ref late);
                    if (Interlocked.Increment(ref laid) == 20)
                        soon.Cancel();
                }), soon.Token),
        };
        Assert.True(run.Plan.TotalLayers > 40);
        Assert.Throws<OperationCanceledException>(() => trial.Make(run.Plan, c));
        // Each hand may be amid one when it is told; how many were laid before it was told is for the machine to say.
        Assert.True(laid >= 20);
        Assert.InRange(late, 0, hands.Count);
    }

    /// <summary>Remembers nothing and counts who asks.</summary>
    private sealed class Counting(Action asked) : Core.TestPieces.PieceMemory
    {
        public override T Once<T>(object key, int weight, Func<T> make)
        {
            asked();
            return make();
        }
    }

    [Fact]
    public async Task A_run_whose_page_can_not_be_drawn_says_so_goes_out_and_is_removed()
    {
        v.MayBreak = true;
        var run = await site.WithDb(async db =>
        {
            var whole = await db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed, Stop);
            var broken = new Run
            {
                Kind = whole.Kind, Number = 900, PairingId = whole.PairingId, World = whole.World, CreatedAt = whole.CreatedAt, ChangedAt = whole.ChangedAt,
                Stage = RunStages.Planned, PlanVersion = 2, PlanJson = """{"version":2,"request":null,"sections":null}""",
            };
            db.Runs.Add(broken);
            await db.SaveChangesAsync(Stop);
            return broken.Id;
        });
        await v.Go($"/runs/{run}");
        Assert.Equal(HttpStatusCode.InternalServerError, v.Last.StatusCode);
        Assert.Contains("can't be drawn", v.Text("h1"));
        using var json = await v.Client.GetAsync($"/runs/{run}/run.json", Stop);
        Assert.Equal(HttpStatusCode.OK, json.StatusCode);
        Assert.Contains(run.ToString(), await json.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
        await v.Submit("form[action*='RemoveUnread']");
        Assert.Equal("/", v.Path);
        await v.Go("/log");
        Assert.Contains("900 removed: its page could not be drawn", v.Text("main"));
        Assert.NotNull((await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Id == run, Stop))).RemovedAt);
    }

    [Fact]
    public async Task An_archive_with_one_number_changed_tells_the_row_and_takes_the_others_and_ours_comes_in_whole()
    {
        using var other = new EmptyApp();
        var w = other.Visit();
        var archive = JsonNode.Parse(await v.Client.GetStringAsync("/export/archive.json", Stop))!;
        async Task<string> Preview(JsonNode document)
        {
            await w.Go("/exchange");
            var form = new MultipartFormDataContent
            {
                { new StringContent(w.Value("__RequestVerificationToken")), "__RequestVerificationToken" },
                { new ByteArrayContent(Encoding.UTF8.GetBytes(document.ToJsonString())), "file", "changed.json" },
            };
            await w.Take(await w.Client.PostAsync("/import", form, Stop));
            Assert.Equal(HttpStatusCode.OK, w.Last.StatusCode);
            return w.Text("main");
        }

        // What other tests of this class put in to break it is none of the demo's.
        var broken = archive["rows"]!["runs"]!.AsArray().Where(r => (int?)r!["number"] == 900).ToList();
        broken.ForEach(r => archive["rows"]!["runs"]!.AsArray().Remove(r));
        // Every run of the demo's year is taken as it is.
        Assert.DoesNotContain("can't be taken", await Preview(archive));
        await w.Submit("form[action*='Drop']");
        var runs = archive["rows"]!["runs"]!.AsArray();
        var tower = runs.First(r => (string?)r!["kind"] == "temperature-tower" && r["plan"]!["layersPerSection"] is not null)!;
        foreach (var (change, said) in new (Action<JsonNode>, string)[]
            {
                (p => p["totalLayers"] = 1_000_000_000, "plan.totalLayers is beyond"),
                (p => p["layersPerSection"] = 900_000, "plan.layersPerSection is beyond"),
                (p => p["request"] = null, "plan.request is missing"), (p => p["request"]!["stepC"] = 4000, "plan:"),
                (p => p["sections"]!.AsArray()[0] = null, "plan"),
            })
        {
            var plan = tower["plan"]!.DeepClone();
            change(plan);
            var changed = archive.DeepClone();
            changed["rows"]!["runs"]!.AsArray().First(r => (string?)r!["id"] == (string?)tower["id"])!["plan"] = plan;
            Assert.Contains(said, await Preview(changed), StringComparison.Ordinal);
            await w.Submit("form[action*='Drop']");
        }
    }

    [Fact]
    public async Task A_thousand_who_ask_are_answered_from_memory_and_hear_of_the_next_reading()
    {
        var run = (await HalfRead()).Id;
        var asked = 0;
        var pulse = new RunPulse(new());
        Task<(string, int)?> Look()
        {
            Interlocked.Increment(ref asked);
            return Task.FromResult<(string, int)?>(("printed", 7));
        }

        await Task.WhenAll(Enumerable.Range(0, 1000).Select(_ => Task.Run(() => pulse.OfAsync(run, Look), Stop)));
        Assert.Equal(1, asked);
        // A look that failed is not remembered.
        await Assert.ThrowsAsync<InvalidOperationException>(() => pulse.OfAsync<int>(Guid.NewGuid(), () => throw new InvalidOperationException()));
        await v.Go($"/runs/{run}");
        var seen = await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run, Stop));
        using var still = await v.Client.GetAsync($"/runs/{run}?handler=Since&seen={seen}&stage=printed", Stop);
        Assert.Equal(HttpStatusCode.NoContent, still.StatusCode);
        await v.Press("form[method=post]", $"/runs/{run}?handler=Reading", ("key", $"p{seen}"), ("section", "2"), ("aspect", "bond"), ("text", "2"));
        Assert.True(v.Last.IsSuccessStatusCode);
        using var news = await v.Client.GetAsync($"/runs/{run}?handler=Since&seen={seen}&stage=printed", Stop);
        Assert.Equal(HttpStatusCode.OK, news.StatusCode);
    }
}
