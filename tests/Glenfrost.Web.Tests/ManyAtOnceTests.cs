using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>Many writers, large bodies, drawings and files that are not what they should be.</summary>
public class ManyAtOnceTests(TestApp site) : IClassFixture<TestApp>
{
    private async Task<(Guid Run, string Ticket, HttpClient Client)> OpenAsync()
    {
        var v = site.Visit();
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed))).Id;
        await v.Go($"/runs/{run}");
        return (run, v.Value("__RequestVerificationToken"), v.Client);
    }

    private static async Task<(HttpStatusCode Code, JsonElement Body)> Post(
        HttpClient client, Guid run, string ticket, string key, int section, string aspect, string text)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}?handler=Reading")
        {
            Content = new FormUrlEncodedContent([new("key", key), new("section", section.ToString()), new("aspect", aspect), new("text", text)]),
        };
        request.Headers.Add("X-Ticket", ticket);
        var reply = await client.SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    [Fact]
    public async Task Readings_from_many_hands_at_once_are_all_kept()
    {
        var (run, ticket, client) = await OpenAsync();
        var before = await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run));
        var replies = await Task.WhenAll(Enumerable.Range(0, 9).Select(s => Post(client, run, ticket, $"many-{s}", s, "bond", (s % 5).ToString())));
        Assert.All(replies, r => Assert.Equal(HttpStatusCode.OK, r.Code));
        Assert.Equal(before + 9, await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run)));
    }

    [Fact]
    public async Task Three_hundred_who_ask_while_one_saves_get_the_same_answer_and_none_is_turned_away()
    {
        var (run, ticket, client) = await OpenAsync();
        Task<HttpResponseMessage> Ask() => client.GetAsync($"/runs/{run}?handler=Since&seen=0&stage=printed");
        var asked = Enumerable.Range(0, 150).Select(_ => Ask()).ToList();
        var saved = await Post(client, run, ticket, "among-askers", 4, "observedC", "231");
        var later = Enumerable.Range(0, 150).Select(_ => Ask()).ToList();
        Assert.Equal(HttpStatusCode.OK, saved.Code);
        Assert.All(await Task.WhenAll(asked), r => Assert.Equal(HttpStatusCode.OK, r.StatusCode));
        // Whoever asks after the save sees it: what is remembered is good until the next write and no longer.
        var texts = await Task.WhenAll((await Task.WhenAll(later)).Select(r => r.Content.ReadAsStringAsync()));
        var id = saved.Body.GetProperty("id").GetString()!;
        Assert.Contains(id, Assert.Single(texts.Distinct()));
    }

    [Fact]
    public async Task Whoever_waits_for_an_answer_whose_asker_has_left_looks_for_himself()
    {
        var (pulse, first) = (new RunPulse(new WriteGate()), new TaskCompletionSource<int>());
        var run = Guid.NewGuid();
        var left = pulse.OfAsync(run, () => first.Task);
        var waiting = pulse.OfAsync(run, () => Task.FromResult(7));
        first.SetException(new OperationCanceledException());
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => left);
        Assert.Equal(7, await waiting);
        Assert.Equal(8, await pulse.OfAsync(run, () => Task.FromResult(8)));
        // Remembered now, and another kind of answer beside it.
        Assert.Equal((8, "x"), (await pulse.OfAsync(run, () => Task.FromResult(9)), await pulse.OfAsync(run, () => Task.FromResult("x"))));
    }

    [Fact]
    public async Task One_key_sent_ten_times_at_once_is_one_reading()
    {
        var (run, ticket, client) = await OpenAsync();
        var replies = await Task.WhenAll(Enumerable.Range(0, 10).Select(_ => Post(client, run, ticket, "hammered", 2, "observedC", "221")));
        Assert.All(replies, r => Assert.Equal(HttpStatusCode.OK, r.Code));
        Assert.Single(replies.Select(r => r.Body.GetProperty("id").GetGuid()).Distinct());
        Assert.Equal(1, await site.WithDb(db => db.Readings.CountAsync(r => r.Key == "hammered")));
    }

    [Fact]
    public async Task Ten_different_scores_for_one_cell_leave_one_standing_and_tell_the_others()
    {
        var (run, ticket, client) = await OpenAsync();
        var replies = await Task.WhenAll(Enumerable.Range(0, 10).Select(i => Post(client, run, ticket, $"race-{i}", 3, "observedC", (210 + i).ToString())));
        Assert.Single(replies, r => r.Code == HttpStatusCode.OK);
        Assert.All(replies.Where(r => r.Code != HttpStatusCode.OK), r => Assert.Equal("conflict", r.Body.GetProperty("status").GetString()));
        Assert.Equal(1, await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run && r.Section == 3 && r.Aspect == "observedC")));
    }

    [Fact]
    public async Task A_form_of_three_megabytes_is_no_server_error()
    {
        var v = site.Visit();
        await v.Go("/filaments/new");
        await v.Submit("form.sheet", ("notes", new string('x', 3_000_000)));
        Assert.InRange((int)v.Last.StatusCode, 400, 499);
        Assert.DoesNotContain("Exception", v.Text("body"));
    }

    [Theory]
    [InlineData("multipart/form-data; boundary=x")]
    [InlineData("application/x-www-form-urlencoded")]
    [InlineData("text/plain")]
    [InlineData("application/json")]
    public async Task A_broken_body_is_no_server_error(string type)
    {
        var content = new ByteArrayContent(Encoding.UTF8.GetBytes("--x\r\n\0%%%"));
        content.Headers.TryAddWithoutValidation("Content-Type", type);
        var reply = await site.CreateClient().PostAsync("/filaments/new", content);
        Assert.InRange((int)reply.StatusCode, 400, 499);
    }

    [Fact]
    public async Task The_plan_over_the_api_is_the_plan_on_the_page()
    {
        var p = await site.WithDb(db =>
            db.Pairings.AsNoTracking().Full().FirstAsync(x => x.Filament!.Line == "Heath" && x.Toolhead!.Printer!.Name == "Dunnock 180"));
        var request = TemperatureTowerTrial.ProposeRequest(Pieces.LightContext(p));
        var reply = await site.CreateClient()
            .PostAsync("/api/v1/trials/temperature-tower/plan", new StringContent(Json.Write(request), Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
        var body = await reply.Content.ReadFromJsonAsync<JsonElement>();
        var plan = TowerPlanning.Plan(request).Plan!;
        Assert.Equal(
            plan.Sections.Select(s => s.FirstLayer), body.GetProperty("sections").EnumerateArray().Select(s => s.GetProperty("firstLayer").GetInt32()));
        var v = site.Visit();
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        Assert.Equal($"{plan.Sections.Count} sections", v.Text("#preview .big"));
        Assert.Equal(plan.Sections.Count, v.Page.QuerySelectorAll("#preview svg .strong").Length);
    }

    [Fact]
    public async Task A_demo_file_that_is_broken_is_named()
    {
        var folder = Path.Combine(site.Folder, "broken");
        Directory.CreateDirectory(folder);
        await File.WriteAllTextAsync(Path.Combine(folder, "filaments.json"), "[{");
        var place = new DataPlace(Path.Combine(folder, "place"));
        await using var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
        await place.MigrateAsync(db);
        var error = await Assert.ThrowsAsync<InvalidDataException>(() => new DemoLoader(db, new WriteGate(), TimeProvider.System, place).LoadAsync(folder));
        Assert.Contains("filaments.json", error.Message);
    }

    [Fact]
    public void Ticks_are_round_and_cover_the_range()
    {
        Assert.Equal([190, 200, 210, 220, 230], Svg.Ticks(190, 230, 4));
        Assert.Equal([0, 0.5, 1], Svg.Ticks(0, 1, 2));
        Assert.Equal(50, Svg.Map(5, 0, 10, 0, 100));
        Assert.Equal(("#3E7F9B", "#D9D2BE", "#C2512E"), (Svg.Ramp(0), Svg.Ramp(0.5), Svg.Ramp(1)));
        Assert.Equal(Svg.Ramp(1), Svg.Ramp(7));
    }

    [Theory]
    [InlineData(null, "–")]
    [InlineData(45, "45 min")]
    [InlineData(120, "2 h")]
    [InlineData(131, "2 h 11")]
    public void Durations_are_said_as_people_say_them(int? minutes, string text) => Assert.Equal(text, Words.Minutes(minutes));
}
