using System.Net;
using System.Text.Json;
using Glenfrost.Application;
using Glenfrost.Core.Factors;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>A hunt: its ledger, runs side by side, and when it is good enough.</summary>
public class HuntTests(TestApp site) : IClassFixture<TestApp>
{
    [Fact]
    public async Task Pairings_side_by_side_say_what_each_is_best_for_what_is_missing_and_draw_what_was_measured_alike()
    {
        var v = site.Visit();
        var ids = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.World == Worlds.Real && p.RemovedAt == null)
            .OrderBy(p => p.CreatedAt).Select(p => p.Id).ToListAsync());
        Assert.True(ids.Count >= 3);
        await v.Go($"/compare?{string.Join("&", ids.Take(4).Select(i => $"id={i}"))}");
        var said = v.Text("[aria-label='Best for']");
        foreach (var question in Enum.GetValues<Core.Routes.BestForQuestion>())
            Assert.Contains(BestForWords.Of(question), said, StringComparison.Ordinal);
        // Nobody broke a bar: no tower's bond claims strength.
        Assert.Contains("Nothing that was measured answers this", said, StringComparison.Ordinal);
        Assert.Contains("Whimbrel 300 (about 24 mm³/s)", said, StringComparison.Ordinal);
        var drawn = v.Page.QuerySelector("[aria-label='Temperature tower'] svg")!;
        Assert.Contains("at 205", drawn.GetAttribute("aria-label"), StringComparison.Ordinal);
        Assert.True(v.Page.QuerySelectorAll("[aria-label='Temperature tower'] path.curve").Length >= 2);
        // What is the same everywhere is folded, what differs stands.
        Assert.Contains("same on all", v.Text("[aria-label=Settings] details summary"));
        Assert.NotEmpty(v.Page.QuerySelectorAll("[aria-label=Settings] td a[href^='/runs/']"));
        await v.Go($"/compare?beside={ids[0]}");
        Assert.Contains(ids[0].ToString(), v.Page.QuerySelector("main p.sub a")!.GetAttribute("href"), StringComparison.Ordinal);

        var api = System.Text.Json.JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/pairings/compare?ids={ids[0]},{ids[1]}")).RootElement;
        var fastest = api.GetProperty("bestFor").EnumerateArray().Single(b => b.GetProperty("question").GetString() == "fastestAtLooks");
        Assert.Equal(2, fastest.GetProperty("known").GetArrayLength());
        Assert.False(string.IsNullOrEmpty(fastest.GetProperty("sentence").GetString()));
        Assert.Equal(422, (int)(await v.Client.GetAsync($"/api/v1/pairings/compare?ids={ids[0]}")).StatusCode);
        Assert.Equal(422, (int)(await v.Client.GetAsync("/api/v1/pairings/compare?ids=x,y")).StatusCode);
        Assert.Equal(404, (int)(await v.Client.GetAsync($"/api/v1/pairings/compare?ids={ids[0]},{Guid.NewGuid()}")).StatusCode);
        await v.Go($"/compare?id={Guid.NewGuid()}&id={ids[0]}");
        Assert.Contains("Mark two to four pairings", v.Text("main"));
    }

    private readonly Visitor v = site.Visit();

    private Task<Guid> Heath() => site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180")
        .Select(p => p.Id).FirstAsync());

    private Task<List<Run>> Runs(Guid pairing, string kind) => site.WithDb(db => db.Runs.AsNoTracking()
        .Where(r => r.PairingId == pairing && r.Kind == kind && r.RemovedAt == null && r.Stage != RunStages.Planned).OrderBy(r => r.Number).ToListAsync());

    [Fact]
    public async Task The_ledger_holds_each_run_try_and_file_with_what_differed_and_what_it_did()
    {
        var id = await Heath();
        await v.Go($"/ledger?id={id}");
        var (runs, tries, files) = await site.WithDb(async db => (
            await db.Runs.CountAsync(r => r.RemovedAt == null && (r.PairingId == id || (r.Kind == "extruder-feed" && r.Stage != RunStages.Planned
                && r.World == Worlds.Real && db.Toolheads.Any(t => t.Id == r.ToolheadId && t.Printer!.Name == "Dunnock 180")))),
            await db.Findings.CountAsync(f => f.PairingId == id && f.RemovedAt == null && f.Tag.StartsWith("tried: ")),
            await db.GcodeFiles.CountAsync(f => f.PairingId == id && f.RemovedAt == null)));
        Assert.True(runs > 5 && tries > 0 && files > 0);
        Assert.Equal(runs + tries + files, v.Page.QuerySelectorAll("table.ledger tbody tr").Length);
        Assert.Contains("changed the answer", v.Text(".lead-text"));
        var feeds = v.Page.QuerySelectorAll("table.ledger tbody tr").Count(r => r.TextContent.Contains("Extruder feed"));
        // No row of a run without factor and answer.
        foreach (var row in v.Page.QuerySelectorAll("table.ledger tbody tr"))
        {
            Assert.NotEqual("", row.QuerySelector("th small")?.TextContent.Trim() ?? "");
            Assert.NotEqual("", row.Children[4].TextContent.Trim());
        }

        var tower = v.Page.QuerySelectorAll("table.ledger tbody tr").First(r => r.TextContent.Contains("Temperature tower 2"));
        Assert.Contains("kept 214 °C", tower.TextContent);
        Assert.Contains("confirmed it", tower.TextContent);
        await v.Go($"/pairings/{id}");
        Assert.Equal(Math.Min(20, runs + tries + files - feeds), v.Page.QuerySelectorAll("table.ledger tbody tr").Length);
    }

    [Fact]
    public async Task It_is_filtered_sorted_and_taken_out_and_several_pairings_make_one()
    {
        var id = await Heath();
        await v.Go($"/ledger?id={id}&kind=temperature-tower");
        Assert.All(v.Page.QuerySelectorAll("table.ledger tbody th a"), a => Assert.StartsWith("Temperature tower", a.TextContent));
        await v.Go($"/ledger?id={id}&kind=decided");
        Assert.All(v.Page.QuerySelectorAll("table.ledger tbody tr"), r => Assert.Contains("changed it", r.TextContent));
        await v.Go($"/ledger?id={id}&q=no+such+words");
        Assert.Contains("Nothing fits", v.Text(".empty"));
        await v.Go($"/ledger?id={id}&sort=-minutes");
        Assert.Equal("descending", v.Page.QuerySelectorAll("th[aria-sort]").Single(t => t.GetAttribute("aria-sort")!.Length > 0).GetAttribute("aria-sort"));
        var csv = await v.Client.GetStringAsync($"/ledger?id={id}&sort=minutes&handler=Csv");
        var minutes = csv.Split('\n').Skip(1).Where(l => l.Contains("/runs/")).Count();
        Assert.Equal(
            await site.WithDb(db => db.Runs.CountAsync(r => r.PairingId == id && r.RemovedAt == null)) + csv.Split('\n').Count(l => l.Contains("Extruder feed")), minutes);
        var other = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Sill").Select(p => p.Id).FirstAsync());
        await v.Go($"/ledger?id={id}&id={other}");
        Assert.Contains("Sill", v.Text("table.ledger"));
        Assert.Contains("Heath", v.Text("table.ledger"));
        foreach (var wrong in new[] { "", $"?id={Guid.NewGuid()}", $"?id={id}&id={Guid.NewGuid()}" })
            Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync("/ledger" + wrong)).StatusCode);
    }

    [Theory]
    [InlineData("{}")]
    [InlineData("{\"version\":2,\"sections\":null,\"parts\":7}")]
    [InlineData("not json")]
    public async Task A_run_that_cannot_be_drawn_keeps_nobody_from_the_others(string plan)
    {
        var id = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Plain" && p.Toolhead!.Printer!.Name == "Whimbrel 300")
            .Select(p => p.Id).FirstAsync());
        var made = new List<Guid>();
        foreach (var kind in new[] { "temperature-tower", "quick-check" })
        {
            var run = new Run
            {
                Kind = kind, PairingId = id, PlanJson = plan, Number = 500, Stage = RunStages.Read, CreatedAt = DateTime.UtcNow, PrintedAt = DateTime.UtcNow,
                ReadAt = DateTime.UtcNow,
            };
            made.Add(run.Id);
            await site.WithDb(db =>
            {
                db.Runs.Add(run);
                return db.SaveChangesAsync();
            });
        }

        // Through the gate, so that nothing remembered is shown.
        await v.Go($"/pairings/{id}");
        await v.Submit("form[action*='Tried']", ("tried", $"another {plan.Length}"), ("outcome", "no difference"));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Contains("can't be read", v.Text("table.ledger"));
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync($"/ledger?id={id}")).StatusCode);
        await site.WithDb(db => db.Runs.Where(r => made.Contains(r.Id)).ExecuteDeleteAsync());
    }

    [Fact]
    public async Task What_was_measured_of_the_toolhead_meanwhile_stands_in_the_ledger_and_costs_the_hunt_nothing()
    {
        var p = await site.WithDb(db => db.Pairings.AsNoTracking().Where(p => p.World == Worlds.Real && p.RemovedAt == null
            && db.Runs.Any(r => r.PairingId == null && r.ToolheadId == p.ToolheadId && r.RemovedAt == null && r.PrintedAt != null)
            && db.Runs.Any(r => r.PairingId == p.Id && r.RemovedAt == null && r.PrintedAt != null)).OrderBy(p => p.Id).FirstAsync());
        await v.Go($"/ledger?id={p.Id}");
        var feed = v.Page.QuerySelectorAll("table.ledger tr").First(r => r.TextContent.Contains("Extruder feed"));
        Assert.Contains("/runs/", feed.InnerHtml);
        await using var scope = site.Services.CreateAsyncScope();
        var ledger = await scope.ServiceProvider.GetRequiredService<LedgerBook>().OfAsync([p.Id]);
        var machine = ledger!.Rows.Where(r => r.IsOfMachine).ToList();
        Assert.NotEmpty(machine);
        Assert.Empty(ledger.Tried.Intersect(machine));
        Assert.Equal(ledger.Rows.Except(machine).Where(r => r.Printed).Sum(r => r.Minutes ?? 0), ledger.Minutes);
    }

    [Fact]
    public async Task A_reading_that_comes_is_in_the_ledger_at_once()
    {
        var id = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Sill").Select(p => p.Id).FirstAsync());
        await v.Go($"/pairings/{id}");
        await v.Submit("form[action*='Tried']", ("tried", "a brim of 5 mm"), ("outcome", "helped"));
        await v.Go($"/ledger?id={id}");
        Assert.Contains("a brim of 5 mm", v.Text("table.ledger"));
    }

    [Fact]
    public async Task Two_runs_side_by_side_say_what_differs_what_was_read_and_what_may_be_concluded()
    {
        var towers = await Runs(await Heath(), "temperature-tower");
        await v.Go($"/runs/compare?id={towers[1].Id}");
        Assert.Contains($"/runs/{towers[0].Id}".Split('/')[^1], v.Page.QuerySelector("#with")!.InnerHtml);
        await v.Go($"/runs/compare?id={towers[1].Id}&id={towers[0].Id}");
        Assert.Contains("Room", v.Text("#differs"));
        // What each goes through on purpose stands with its ends.
        var swept = v.Page.QuerySelectorAll("#differs tr").First(r => r.TextContent.Contains("swept on purpose"));
        var ends = towers.Take(2).Reverse().Select(t => Glenfrost.Core.Trials.TrialCatalogue.Get(t.Kind).ReadPlan(t.PlanJson).Parts)
            .Select(p => $"{p.Min(x => x.NozzleC):0.#} to {p.Max(x => x.NozzleC):0.#}");
        Assert.All(ends, e => Assert.Contains(e, swept.TextContent));
        Assert.Contains("Room +3.5 °C", v.Text("#concluded"));
        Assert.Equal(5, v.Page.QuerySelectorAll("figure.aspect").Length);
        using var api = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/runs/compare?ids={towers[1].Id},{towers[0].Id}"));
        Assert.Contains(api.RootElement.GetProperty("differs").EnumerateArray(), d => d.GetProperty("key").GetString() == "roomC");
        Assert.Equal(5, api.RootElement.GetProperty("read").GetArrayLength());
        Assert.Equal("unknownBeside", api.RootElement.GetProperty("mayBeConcluded")[0].GetProperty("conclusion").GetString());
    }

    [Fact]
    public async Task What_somebody_still_knows_is_noted_where_it_is_missed_and_the_conclusion_follows()
    {
        var towers = await Runs(await Heath(), "temperature-tower");
        var address = $"/runs/compare?id={towers[1].Id}&id={towers[0].Id}";
        await v.Go(address);
        await v.Submit("form[method=post][action*='compare']", ("fanPercent-0", "lots"), ("fanPercent-1", "40"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("lots", v.Value("fanPercent-0"));
        Assert.Equal("40", v.Value("fanPercent-1"));
        await v.Submit("form[method=post][action*='compare']", ("fanPercent-0", "100"), ("fanPercent-1", "40"));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Contains("100", v.Page.QuerySelectorAll("#differs tr").First(r => r.TextContent.Contains("Fan")).TextContent);
        Assert.Contains("changed", v.Text("#concluded"));
        // Two things differ now: one print would separate them, and its plan holds what is taken back.
        var plan = v.Page.QuerySelector("#concluded a.btn")!;
        Assert.Contains("fan", plan.TextContent);
        Assert.Contains($"after={towers[1].Id}", plan.GetAttribute("href"));
        await v.Go(plan.GetAttribute("href")!);
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        // The other tests of this class look at the same two: what was typed here goes again.
        Guid[] both = [towers[0].Id, towers[1].Id];
        await site.WithDb(db => db.FactorEntries.Where(e => both.Contains(e.RunId) && e.Factor == "fanPercent" && e.Source == FactorSource.Typed).ExecuteDeleteAsync());
    }

    [Theory]
    [InlineData("", "names 0")]
    [InlineData("what", "ids[0]")]
    [InlineData("{0},{0}", "names 1")]
    [InlineData("{0},{1},{2},{3},{4}", "names 5")]
    public async Task Ids_that_are_none_are_said_at_the_field(string ids, string said)
    {
        var made = Enumerable.Range(0, 5).Select(_ => (object)Guid.NewGuid()).ToArray();
        var reply = await v.Client.GetAsync("/api/v1/runs/compare?ids=" + string.Format(ids, made));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.Contains(said, await reply.Content.ReadAsStringAsync());
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/api/v1/runs/compare?ids={Guid.NewGuid()},{Guid.NewGuid()}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/runs/compare?id={Guid.NewGuid()}")).StatusCode);
    }

    [Fact]
    public async Task What_is_good_enough_is_said_checked_reached_and_taken_back()
    {
        var id = await Heath();
        await v.Go($"/pairings/{id}");
        Assert.Contains("Spent", v.Text("#goal"));
        Assert.Contains("for looks", v.Text("#goal"));
        await v.Submit("form[action*='handler=Goal']", ("target0", "score.bridge"), ("atLeast0", "9"), ("times", "1"), ("grams", "none"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(("9", "none"), (v.Value("atLeast0"), v.Value("grams")));
        await v.Submit("form[action*='handler=Goal']", ("target0", "score.bridge"), ("atLeast0", "2"), ("times", "1"), ("grams", "10"));
        Assert.Contains("Stop: it is good enough", v.Text("#goal"));
        // Said once: over the budget, until somebody has read it.
        Assert.Contains("over the budget of 10 g", v.Text("#goal"));
        await v.Submit("form[action*='handler=Over']");
        Assert.DoesNotContain("over the budget", v.Text("#goal"));
        await v.Go($"/pairings/{id}");
        Assert.DoesNotContain("over the budget", v.Text("#goal"));
        await v.Go("/log?kind=profile");
        await v.Submit(".undo-line");
        await v.Go($"/pairings/{id}");
        Assert.Contains("for looks", v.Text("#goal"));
    }

    [Theory]
    [InlineData("Go on only for strings (2.5). The best next print may gain 0.2.", "Go on only for strings (2.5).")]
    [InlineData("Stop: another print would gain 0.01 of a score.", "Stop:")]
    [InlineData("Reached once", "Reached once")]
    public void What_leads_an_advice_ends_with_its_sentence_and_not_at_a_decimal_point(string advice, string lead) =>
        Assert.Equal(lead, advice[..GoalWords.LeadOf(advice)]);

    [Fact]
    public async Task A_changed_order_of_work_is_taken_back()
    {
        var id = await Heath();
        await v.Go($"/pairings/{id}");
        await v.Submit("form[action*='School']", ("school", "speed-first"));
        Assert.Equal("speed-first", await site.WithDb(db => db.Pairings.Where(p => p.Id == id).Select(p => p.Route).FirstAsync()));
        await v.Submit("form[action='/undo']");
        Assert.Null(await site.WithDb(db => db.Pairings.Where(p => p.Id == id).Select(p => p.Route).FirstAsync()));
    }

    [Fact]
    public async Task What_a_verdict_says_that_another_print_gains_stands_on_the_route()
    {
        await using var scope = site.Services.CreateAsyncScope();
        var routes = scope.ServiceProvider.GetRequiredService<PairingRoutes>();
        var id = await Heath();
        var decided = await site.WithDb(db => db.Decisions.Where(d => d.UndoneAt == null && db.Runs.Any(r =>
            r.Id == d.RunId && r.PairingId == id && r.Kind == "temperature-tower")).OrderByDescending(d => d.At).Select(d => d.VerdictJson).FirstAsync());
        using var json = JsonDocument.Parse(decided);
        double? said = json.RootElement.GetProperty("next") is { ValueKind: JsonValueKind.Object } next && next.TryGetProperty("gain", out var g)
            && g.ValueKind == JsonValueKind.Number ? g.GetDouble() : null;
        Assert.NotNull(said);
        Assert.Equal(said, (await routes.OfAsync(id))!.Route.Steps.First(s => s.Key == "temperature").Gain);
    }
}
