using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

public class ReadingTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private async Task<Guid> HalfRead() =>
        (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed))).Id;

    private async Task<(HttpStatusCode Code, JsonElement Body)> Post(
        Guid run, int section, string aspect, string text, string? key = null, string? supersedes = null, string? why = null)
    {
        if (v.Last is null)
            await v.Go($"/runs/{run}");
        var ticket = v.Value("__RequestVerificationToken");
        var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}?handler=Reading")
        {
            Content = new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["key"] = key ?? Guid.NewGuid().ToString(), ["section"] = section.ToString(), ["aspect"] = aspect, ["text"] = text,
                    ["supersedes"] = supersedes ?? "", ["why"] = why ?? "",
                }),
        };
        request.Headers.Add("X-Ticket", ticket);
        var reply = await v.Client.SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    private static string Status((HttpStatusCode, JsonElement Body) r) => r.Body.GetProperty("status").GetString()!;

    [Fact]
    public async Task The_same_key_is_stored_once()
    {
        var run = await HalfRead();
        var key = Guid.NewGuid().ToString();
        var first = await Post(run, 0, "bond", "3", key);
        var again = await Post(run, 0, "bond", "3", key);
        Assert.Equal(("saved", "same"), (Status(first), Status(again)));
        Assert.Equal(first.Body.GetProperty("id").GetGuid(), again.Body.GetProperty("id").GetGuid());
        Assert.Equal(1, await site.WithDb(db => db.Readings.CountAsync(r => r.Key == key)));
    }

    [Fact]
    public async Task A_second_tab_is_told_what_stands_and_nothing_is_overwritten()
    {
        var run = await HalfRead();
        var mine = await Post(run, 1, "bond", "3");
        var theirs = await Post(run, 1, "bond", "2");
        Assert.Equal(HttpStatusCode.Conflict, theirs.Code);
        Assert.Equal("3", theirs.Body.GetProperty("text").GetString());
        var after = await Post(run, 1, "bond", "2", null, theirs.Body.GetProperty("id").GetString());
        Assert.Equal("saved", Status(after));
        Assert.Equal(2, await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run && r.Section == 1 && r.Aspect == "bond")));
        Assert.Equal(
            mine.Body.GetProperty("id").GetGuid(),
            (
                await site.WithDb(db => db.Readings.SingleAsync(r => r.RunId == run && r.Section == 1 && r.Aspect == "bond" && r.SupersedesId != null))
            ).SupersedesId);
    }

    [Fact]
    public async Task A_correction_after_a_minute_asks_why()
    {
        var run = await HalfRead();
        var first = await Post(run, 2, "bond", "3");
        site.Clock.Ahead = TimeSpan.FromMinutes(3);
        try
        {
            var id = first.Body.GetProperty("id").GetString();
            Assert.Equal("why", Status(await Post(run, 2, "bond", "4", null, id)));
            Assert.Equal("saved", Status(await Post(run, 2, "bond", "4", null, id, "looked again")));
            Assert.Equal(
                "looked again",
                (await site.WithDb(db => db.Readings.SingleAsync(r => r.RunId == run && r.Section == 2 && r.Aspect == "bond" && r.Value == 4))).Why);
        }
        finally
        {
            site.Clock.Ahead = TimeSpan.Zero;
        }
    }

    [Theory]
    [InlineData(0, "bond", "5")]
    [InlineData(0, "bond", "x")]
    [InlineData(0, "bond", "2.5")]
    [InlineData(0, "gloss", "3")]
    [InlineData(0, "state", "7")]
    [InlineData(99, "bond", "3")]
    [InlineData(-1, "bond", "3")]
    [InlineData(0, "observedC", "0.2 m")]
    [InlineData(0, "observedC", "9999")]
    public async Task What_is_no_reading_is_refused_with_a_reason(int section, string aspect, string text)
    {
        var reply = await Post(await HalfRead(), section, aspect, text);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.Code);
        Assert.NotEmpty(reply.Body.GetProperty("message").GetString()!);
    }

    [Fact]
    public async Task States_missing_marks_and_the_display_are_readings_too()
    {
        var run = await HalfRead();
        Assert.Equal("saved", Status(await Post(run, 8, "state", "failed")));
        Assert.Equal("saved", Status(await Post(run, 7, "bond", "m")));
        var odd = await Post(run, 3, "observedC", "250 °C");
        Assert.True(odd.Body.GetProperty("questioned").GetBoolean());
        await v.Go($"/runs/{run}");
        Assert.Equal("failed", v.Page.QuerySelector("tr[data-section='8']")!.ClassName);
    }

    [Fact]
    public async Task Emptying_a_cell_is_a_reading_and_typing_again_needs_no_reason()
    {
        var run = await HalfRead();
        var first = await Post(run, 5, "bond", "3");
        var empty = await Post(run, 5, "bond", "", null, first.Body.GetProperty("id").GetString());
        Assert.Equal("saved", Status(empty));
        site.Clock.Ahead = TimeSpan.FromMinutes(3);
        var again = await Post(run, 5, "bond", "2", null, empty.Body.GetProperty("id").GetString());
        site.Clock.Ahead = TimeSpan.Zero;
        Assert.Equal("saved", Status(again));
    }

    [Fact]
    public async Task A_refused_table_keeps_what_was_typed_and_saves_the_rest()
    {
        await v.Go($"/runs/{await HalfRead()}");
        await v.Submit("#scores", ("c.4.overhang", "4"), ("c.5.overhang", "9"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("9", v.Value("c.5.overhang"));
        Assert.Equal("4", v.Value("c.4.overhang"));
        Assert.Contains("1 reading saved, 1 not", v.Text("#notice"));
    }

    [Fact]
    public async Task A_reading_without_a_ticket_is_not_taken()
    {
        var reply = await site.CreateClient()
            .PostAsync($"/runs/{await HalfRead()}?handler=Reading", new FormUrlEncodedContent([new("key", "k"), new("text", "3")]));
        Assert.Equal(HttpStatusCode.BadRequest, reply.StatusCode);
    }

    [Fact]
    public async Task What_a_score_looks_like_stands_where_it_is_typed_and_on_the_sheet_whose_boxes_match_the_grid()
    {
        var runs = await site.WithDb(db => db.Runs.AsNoTracking().Where(r => r.RemovedAt == null && r.World == Worlds.Real).ToListAsync());
        foreach (var run in runs.GroupBy(r => r.Kind).Select(g => g.First()))
        {
            await v.Go($"/runs/{run.Id}?open=read");
            var heads = v.Page.QuerySelectorAll(".scores thead th").Select(h => h.TextContent.Trim()).TakeWhile(h => h is not ("So" or "Photo")).ToList();
            var scored = v.Page.QuerySelectorAll("input.score").Select(c => c.GetAttribute("data-aspect")!).Distinct().ToList();
            var told = v.Page.QuerySelectorAll(".scores thead th[title^='4: ']").Select(h => h.GetAttribute("data-aspect")!).ToList();
            // A score that the run does not wait for has its head told too, though the keys pass it by.
            Assert.Equal(scored.Count, told.Count);
            Assert.All(told.Where(a => !string.IsNullOrEmpty(a)), a => Assert.Contains(a, scored));
            Assert.Equal(scored.Count > 0, v.Page.QuerySelector("#anchors") is not null);
            await v.Go($"/runs/{run.Id}/sheet");
            var boxes = v.Page.QuerySelectorAll("table").Last(t => t.QuerySelector("td.write") is not null && t.QuerySelector("tbody th") is not null);
            Assert.Equal(heads, boxes.QuerySelectorAll("thead th").Select(h => h.TextContent.Trim()));
            Assert.Equal(scored.Count > 0, v.Page.QuerySelectorAll(".anchor").Length > 0);
        }
    }

    [Fact]
    public async Task A_word_that_nobody_chose_is_none()
    {
        var run = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "retraction-sweep" && r.RemovedAt == null));
        var stored = await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run.Id && r.Aspect == "gaps" && r.Section == 0));
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Equal(stored > 0, v.Page.QuerySelector("select[name='c.0.gaps'] option[selected]")?.GetAttribute("value") is { Length: > 0 });
        Assert.Equal("not looked at", v.Page.QuerySelector("select[name='c.0.gaps'] option")!.TextContent);
    }

    [Fact]
    public async Task A_column_that_was_read_the_wrong_way_round_is_asked_about_and_turned_with_its_history()
    {
        var pairing = await site.WithDb(db => db.Pairings.AsNoTracking().FirstAsync(p => p.World == Worlds.Real && p.RemovedAt == null));
        await v.Go($"/pairings/{pairing.Id}/temperature-tower");
        await v.Submit("#plan");
        var run = v.Planned();
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Printed']");
        await v.Go($"/runs/{run}?open=read");
        var sections = v.Page.QuerySelectorAll("select.statesel").Length;
        string[] clean = ["bridge", "overhang", "surface", "bond"];
        await v.Submit(
            "#scores",
            [.. Enumerable.Range(0, sections).SelectMany(i => clean.Select(a => ($"c.{i}.{a}", "4")).Append(($"c.{i}.strings", i == 0 ? "1" : "0")))]);
        await v.Go($"/runs/{run}?open=read");
        Assert.Contains("Strings: read the other way round?", v.Text(".ask-column"));
        await v.Submit(".ask-column");
        Assert.Equal("3", v.Page.QuerySelector("input[name='c.0.strings']")!.GetAttribute("value"));
        Assert.Equal("4", v.Page.QuerySelector("input[name='c.1.strings']")!.GetAttribute("value"));
        Assert.Null(v.Page.QuerySelector(".ask-column"));
        Assert.Equal(2 * sections, await site.WithDb(db => db.Readings.CountAsync(r => r.RunId == run && r.Aspect == "strings")));
    }

    [Fact]
    public async Task One_press_on_the_last_good_step_reads_the_ladder()
    {
        var pairing = await site.WithDb(db => db.Pairings.AsNoTracking().FirstAsync(p => p.World == Worlds.Real && p.RemovedAt == null));
        await v.Go($"/pairings/{pairing.Id}/flow-limit-steps");
        await v.Submit("#plan");
        var run = v.Planned();
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Printed']");
        await v.Go($"/runs/{run}?open=read");
        await v.Press(".ladder", $"/runs/{run}?handler=Readings", ("c.3.fault", "last good"));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        await v.Go($"/runs/{run}?open=read");
        Assert.Equal(["0", "1", "2"], v.Page.QuerySelectorAll("td.so").Where(c => c.TextContent.Contains("taken as good"))
            .Select(c => c.GetAttribute("data-note")!).Order());
        Assert.Equal("last good", v.Page.QuerySelector("select[name='c.3.fault'] option[selected]")!.GetAttribute("value"));
        // Nothing more is waited for: it can be finished as it stands.
        await v.Submit("form[action$='Finish']");
        Assert.Contains("taken as good", v.Text(".judge-stage"));
    }

    [Fact]
    public async Task The_same_try_that_helped_and_made_no_difference_is_pointed_out_with_date_and_link()
    {
        var pairing = await site.WithDb(db => db.Pairings.AsNoTracking().FirstAsync(p => p.World == Worlds.Real && p.RemovedAt == null));
        var runs = new List<Guid>();
        foreach (var (tried, outcome) in new[] { ("Dried it for 6 h", "helped"), ("dried it for 6h.", "no difference") })
        {
            await v.Go($"/pairings/{pairing.Id}/temperature-tower");
            await v.Submit("#plan");
            runs.Add(v.Planned());
            await v.Go($"/runs/{runs[^1]}");
            await v.Submit("form[action$='Printed']");
            await v.Go($"/runs/{runs[^1]}?open=read");
            await v.Submit("form[action$='Tried']", ("tried", tried), ("outcome2", outcome));
        }

        Assert.Contains("The same helped on", v.Text(".against"));
        Assert.Contains($"/runs/{runs[0]}", v.Page.QuerySelector(".against a")!.GetAttribute("href"));
        await v.Go($"/runs/{runs[0]}?open=read");
        Assert.Contains("The same made no difference on", v.Text(".against"));
        // The same outcome twice is no contradiction.
        await v.Submit("form[action$='Tried']", ("tried", "dried it for 6 H"), ("outcome2", "helped"));
        Assert.Equal(2, v.Page.QuerySelectorAll(".against").Length);
        await v.Go($"/pairings/{pairing.Id}");
        Assert.NotEmpty(v.Page.QuerySelectorAll(".against"));
    }
}
