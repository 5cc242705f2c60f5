using System.Net;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>Labels for what a run leaves on the bench.</summary>
public class LabelTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Run> RunOf(string kind) => site.WithDb(db => db.Runs.AsNoTracking().Where(r => r.Kind == kind && r.RemovedAt == null && r.World == Worlds.Real)
        .OrderBy(r => r.CreatedAt).FirstAsync());

    [Fact]
    public async Task Each_cup_has_its_number_its_flow_and_room_for_two_masses()
    {
        var run = await RunOf("flow-limit-weighed");
        await v.Go($"/runs/{run.Id}/labels");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        var tags = v.Page.QuerySelectorAll(".tag");
        using var plan = System.Text.Json.JsonDocument.Parse(run.PlanJson);
        var repeats = plan.RootElement.GetProperty("request").GetProperty("repeats").GetInt32();
        Assert.True(tags.Length > 3 && tags.Length % repeats == 0);
        Assert.Equal(Enumerable.Range(1, tags.Length).Select(i => $"Sample {i}"), tags.Select(t => t.QuerySelector("b")!.TextContent));
        Assert.All(tags, t =>
        {
            Assert.Contains("mm³/s", t.TextContent);
            Assert.Contains("________ g", t.TextContent);
            Assert.NotNull(t.QuerySelector("svg path"));
        });
        await v.Go($"/runs/{run.Id}/labels?size=label38");
        Assert.NotEmpty(v.Page.QuerySelectorAll(".tag.label38"));
    }

    [Fact]
    public async Task What_is_broken_blind_has_its_number_and_nothing_that_tells_its_group()
    {
        var run = await RunOf("layer-bond");
        await v.Go($"/runs/{run.Id}/labels");
        var tags = v.Page.QuerySelectorAll(".tag");
        Assert.NotEmpty(tags);
        Assert.All(tags, t => Assert.DoesNotContain("°C", t.TextContent));
        Assert.Equal(tags.Length, tags.Select(t => t.QuerySelector("b")!.TextContent).Distinct().Count());
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/runs/{Guid.NewGuid()}/labels", TestContext.Current.CancellationToken)).StatusCode);
    }
}
