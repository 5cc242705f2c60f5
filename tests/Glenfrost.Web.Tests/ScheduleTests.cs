using System.Net;
using System.Text.Json;
using Glenfrost.Application;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>The evenings ahead: what comes next on each pairing's own page comes first here, and what is typed wrong is told at its field.</summary>
public class ScheduleTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    [Fact]
    public async Task Today_leads_to_the_evenings_ahead_which_ask_the_same_planner()
    {
        await v.Go("/");
        Assert.NotNull(v.Page.QuerySelector("a[href='/schedule']"));
        await v.Go("/schedule");
        var first = v.Page.QuerySelector(".evening")!;
        Assert.Contains("Evening 1", first.TextContent);
        Assert.NotNull(first.QuerySelector("a[href^='/runs/']"));
        // What the API calls next of a pairing is the first thing of its way.
        await using var scope = site.Services.CreateAsyncScope();
        var (schedule, _) = await scope.ServiceProvider.GetRequiredService<ScheduleBook>().OfAsync(1440, 30);
        var checkedNow = 0;
        foreach (var p in await site.WithDb(db => db.Pairings.AsNoTracking().Full().Where(p => p.World == Worlds.Real && p.RemovedAt == null).ToListAsync()))
        {
            var mine = schedule.Evenings.SelectMany(e => e).FirstOrDefault(x => x.Way == Facts.NameOf(p));
            using var said = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/pairings/{p.Id}/route"));
            if (mine is null || said.RootElement.GetProperty("next").GetProperty("move").GetString() is not ("print" or "read" or "decide"))
                continue;
            Assert.Equal(said.RootElement.GetProperty("next").GetProperty("link").GetString(), mine.Item.Link);
            checkedNow++;
        }

        Assert.True(checkedNow > 0);
    }

    [Fact]
    public async Task Shorter_evenings_hold_less_and_say_what_is_left()
    {
        await v.Go("/schedule?minutes=30&evenings=1");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Contains("more after that", v.Text("#left"));
        var few = v.Page.QuerySelectorAll(".evening tr").Length;
        await v.Go("/schedule?minutes=720&evenings=7");
        Assert.True(v.Page.QuerySelectorAll(".evening tr").Length > few);
    }

    [Fact]
    public async Task Prints_are_drawn_where_they_lie_in_an_evening_and_one_after_the_other_on_a_printer()
    {
        await v.Go("/schedule?minutes=300&evenings=7");
        static double Of(AngleSharp.Dom.IElement of, string name) => double.Parse(of.GetAttribute(name)!, System.Globalization.CultureInfo.InvariantCulture);
        var beside = 0;
        foreach (var evening in v.Page.QuerySelectorAll(".evening"))
        {
            var rows = evening.QuerySelectorAll("tr").Select(tr => (Where: tr.QuerySelector("th")!.TextContent, Bar: tr.QuerySelector(".lane rect")!, Row: tr)).ToList();
            Assert.All(rows, x =>
            {
                Assert.Equal("M0 9.5H300", x.Row.QuerySelector(".lane .axis")!.GetAttribute("d"));
                Assert.InRange(Of(x.Bar, "x") + Of(x.Bar, "width"), 2, 302);
                Assert.Equal(Of(x.Bar, "x") == 0, x.Row.TextContent.Contains("at once"));
            });
            foreach (var printer in rows.Where(x => x.Where is not ("desk" or "dryer")).GroupBy(x => x.Where))
            {
                var inTurn = printer.OrderBy(x => Of(x.Bar, "x")).ToList();
                beside += inTurn.Count - 1;
                Assert.All(inTurn.Zip(inTurn.Skip(1)), x => Assert.True(Of(x.First.Bar, "x") + Of(x.First.Bar, "width") <= Of(x.Second.Bar, "x")));
            }
        }

        Assert.True(beside > 0);
    }

    [Theory]
    [InlineData("minutes=29", "minutes", "29")]
    [InlineData("minutes=long", "minutes", "long")]
    [InlineData("evenings=0", "evenings", "0")]
    [InlineData("evenings=1.5", "evenings", "1.5")]
    [InlineData("minutes=", "minutes", "")]
    public async Task What_is_typed_wrong_is_told_at_its_field_and_kept(string query, string field, string typed)
    {
        await v.Go($"/schedule?{query}");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(typed, v.Value(field));
        Assert.NotNull(v.Page.QuerySelector($"input[name={field}][aria-invalid=true]"));
    }
}
