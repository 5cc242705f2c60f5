using System.Net;
using Glenfrost.Application;
using Glenfrost.Core.Factors;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A file of somebody's own from the G-code room to a run that is read, suspected, counted and paid for.</summary>
public class PartRunTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Run> RunOf(Guid id) => site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Files).Include(r => r.Readings).Include(r => r.Findings)
        .FirstAsync(r => r.Id == id));

    private async Task<GcodeFile> Ring() => await site.WithDb(db => db.GcodeFiles.AsNoTracking().FirstAsync(f => f.Name == "gauge-ring.gcode" && f.PairingId != null));

    private async Task<Guid> PlannedAsync()
    {
        var ring = await Ring();
        await v.Go($"/gcode/{ring.Id}");
        var link = v.Page.QuerySelectorAll("a.btn").Single(a => a.TextContent == "Print this as a run").GetAttribute("href")!;
        Assert.Equal($"/pairings/{ring.PairingId}/part?file={ring.Id}", link);
        await v.Go(link);
        await v.Submit("#plan");
        return v.Planned();
    }

    private async Task PrintedAsync(Guid run)
    {
        await v.Submit("form[action*='handler=Printed']", ("outcome", "whole"));
        Assert.Equal(RunStages.Printed, (await RunOf(run)).Stage);
    }

    private async Task ReadAsync(Guid run, int section, string aspect, string text)
    {
        await v.Go($"/runs/{run}?open=read");
        await v.Press("form[method=post]", $"/runs/{run}?handler=Reading", ("key", Guid.NewGuid().ToString()), ("section", $"{section}"), ("aspect", aspect),
            ("text", text));
        Assert.True(v.Last.IsSuccessStatusCode, await v.Last.Content.ReadAsStringAsync(TestContext.Current.CancellationToken));
    }

    [Fact]
    public async Task A_file_of_the_room_becomes_a_run_with_its_own_values_and_the_same_content()
    {
        var ring = await Ring();
        await v.Go($"/pairings/{ring.PairingId}/part?file={ring.Id}");
        // Nothing is typed twice: what the file says stands in the form, and the drawing shows its zones.
        Assert.Equal("210", v.Value("nozzleTemperatureC"));
        Assert.NotEqual("40", v.Value("heightMm"));
        Assert.Contains("gauge-ring.gcode is kept with the run", v.Text("#preview"));
        await v.Submit("#plan", ("zone1Mm", "999"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("is not below the top", v.Text("#err-zone1Mm"));
        Assert.Equal(("999", ring.Id.ToString()), (v.Value("zone1Mm"), v.Value("file")));
        await v.Submit("#plan", ("zone1Mm", "3"));
        var id = v.Planned();
        var run = await RunOf(id);
        var file = Assert.Single(run.Files);
        Assert.Equal((ring.Sha256, ring.Name, "part"), (file.Sha256, file.Name, run.Kind));
        Assert.True(run.ForeseenMinutes > 0 && run.MassUg > 0);
        using var content = await v.Client.GetAsync($"/runs/{id}/files/{file.Id}", TestContext.Current.CancellationToken);
        using var kept = await v.Client.GetAsync($"/gcode/{ring.Id}/file?as=came", TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.OK, content.StatusCode);
        // Other zones, the same file.
        await v.Go($"/pairings/{ring.PairingId}/part?run={id}");
        Assert.Equal("3", v.Value("zone1Mm"));
        await v.Submit("#plan", ("zone1Mm", "4"));
        var again = await RunOf(id);
        Assert.Equal(("4", ring.Sha256), (System.Text.Json.JsonDocument.Parse(again.PlanJson).RootElement.GetProperty("request").GetProperty("zone1Mm").ToString(),
            Assert.Single(again.Files, f => f.RetiredAt is null).Sha256));
        // Printed again: the new run has the file too.
        await v.Go($"/pairings/{ring.PairingId}/part?after={id}");
        await v.Submit("#plan");
        Assert.Equal(ring.Sha256, Assert.Single((await RunOf(v.Planned())).Files).Sha256);
        // A file that is gone by the time the plan is taken is said, once.
        await v.Go($"/pairings/{ring.PairingId}/part?file={ring.Id}");
        await v.Submit("#plan", ("file", Guid.NewGuid().ToString()));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("is not there any more", v.Text("main"));
        Assert.Equal("", v.Value("file"));
        await v.Submit("#plan");
        Assert.Empty((await RunOf(v.Planned())).Files);
        // Without a file nobody has said yet how high it is; then it is planned, and says that no file is kept.
        foreach (var link in new[] { "", $"?file={Guid.NewGuid()}" })
        {
            await v.Go($"/pairings/{ring.PairingId}/part{link}");
            Assert.Equal("", v.Value("heightMm"));
            await v.Submit("#plan");
            Assert.NotEqual("", v.Text("#err-heightMm"));
        }

        await v.Submit("#plan", ("heightMm", "40"), ("file", ""));
        await v.Go($"/runs/{v.Planned()}/sheet");
        Assert.Contains("No file is kept with it", v.Text("main"));
    }

    [Fact]
    public async Task What_did_not_pass_has_suspects_in_the_order_of_the_record_and_its_settings_come_off_the_file()
    {
        var id = await PlannedAsync();
        await PrintedAsync(id);
        var parts = (await RunOf(id)).PlanJson;
        await v.Go($"/runs/{id}?open=read");
        var zones = v.Page.QuerySelectorAll("table.scores tbody tr").Length;
        Assert.True(zones >= 1, parts);
        for (var i = 0; i < zones; i++)
            await ReadAsync(id, i, "part", i == 0 ? "2" : "4");
        await ReadAsync(id, 0, "defect.1", "strings");
        await ReadAsync(id, 0, "failedAtLayer", "9");
        await v.Go($"/runs/{id}?open=read");
        await v.Press("form[method=post]", $"/runs/{id}?handler=Finish");
        await v.Go($"/runs/{id}");
        Assert.Contains("Not passed: it failed at layer 9", v.Text("#verdict"));
        // It settles nothing: nobody has to leave it.
        Assert.Equal(RunStages.Left, (await RunOf(id)).Stage);
        var rows = v.Page.QuerySelectorAll("#suspects tbody tr").Select(r => r.TextContent).ToList();
        Assert.Contains(rows, r => r.Contains("Retraction length", StringComparison.Ordinal));
        Assert.All(v.Page.QuerySelectorAll("#suspects td:last-child a"), a => Assert.StartsWith("/", a.GetAttribute("href")));
        // A value from an old notebook was never measured by a run: it is not ruled out, though it is confirmed.
        Assert.Contains(rows, r => r.Contains("Retraction length", StringComparison.Ordinal) && r.Contains("no run here measured it", StringComparison.Ordinal));
        Assert.All(v.Page.QuerySelectorAll("#suspects tr.soft"), r => Assert.NotNull(r.QuerySelector("td a[href^='/runs/']")));
        // What is confirmed stands last.
        var confirmed = rows.FindIndex(r => r.Contains("ruled out", StringComparison.Ordinal));
        Assert.True(confirmed < 0 || rows.Skip(confirmed).All(r => r.Contains("ruled out", StringComparison.Ordinal)), string.Join("\n", rows));
        var factors = FactorSet.Read((await RunOf(id)).FactorsJson!);
        Assert.Equal(FactorSource.File, factors.Values["file"].Source);
        Assert.True(factors.Values.Count(f => f.Value.Source == FactorSource.File || f.Value.Proven) > 5);
        await v.Go($"/ledger?id={(await RunOf(id)).PairingId}");
        Assert.Contains("Own part", v.Text("main"));
    }

    [Fact]
    public async Task Repeats_are_one_press_each_and_a_good_part_is_paid_for_with_the_bad_ones()
    {
        var id = await PlannedAsync();
        await v.Press("form[method=post]", $"/runs/{id}?handler=Tally", ("good", "1"), ("key", "early"), ("tallyWhy", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Go($"/runs/{id}");
        await PrintedAsync(id);
        await v.Go($"/runs/{id}");
        for (var i = 0; i < 10; i++)
        {
            // The line was slow, and the press was sent twice.
            for (var sent = 0; sent < (i == 3 ? 2 : 1); sent++)
                await v.Press("form[method=post]", $"/runs/{id}?handler=Tally", ("good", i < 8 ? "1" : "0"), ("key", $"{id}-{i}"), ("tallyWhy", i == 9 ? "came off" : ""));
        }

        await v.Go($"/runs/{id}");
        Assert.Contains("8 of 10 good (49 to 94 %", v.Text("#tally"));
        Assert.Contains("EUR a good part", v.Text("#tally"));
        Assert.Contains("electricity", v.Text("#tally"));
        Assert.Contains("not good: came off", v.Text("#tally"));
        // Presses are no findings of the piece.
        Assert.DoesNotContain("good print", v.Text("#findings"));
        var last = (await RunOf(id)).Findings.Single(f => f.Text == "came off");
        await v.Press("form[method=post]", $"/runs/{id}?handler=Untally", ("press", last.Id.ToString()));
        await v.Go($"/runs/{id}");
        Assert.Contains("8 of 9 good", v.Text("#tally"));
        await v.Press("form[method=post]", $"/runs/{id}?handler=Tally", ("good", "perhaps"), ("key", "x"), ("tallyWhy", new string('a', 300)));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(9, (await RunOf(id)).Findings.Count(f => f.RemovedAt is null));
        // Two presses before the page was drawn anew come under one key, and are two prints; each of them sent again is not another one.
        foreach (var (good, why) in new[] { ("1", ""), ("0", "split"), ("0", "split"), ("1", "") })
            await v.Press("form[method=post]", $"/runs/{id}?handler=Tally", ("good", good), ("key", $"{id}-fast"), ("tallyWhy", why));
        await v.Go($"/runs/{id}");
        Assert.Contains("9 of 11 good", v.Text("#tally"));
        // Beside another slicing of it: what each took and cost, and which is cheaper only where the intervals lie apart.
        var other = await PlannedAsync();
        await v.Go($"/runs/{other}");
        await PrintedAsync(other);
        for (var i = 0; i < 12; i++)
        {
            await v.Go($"/runs/{other}");
            await v.Press("form[method=post]", $"/runs/{other}?handler=Tally", ("good", i < 2 ? "1" : "0"), ("key", $"{other}-{i}"), ("tallyWhy", ""));
            if (i == 1)
            {
                await v.Go($"/runs/compare?id={id}&id={other}");
                Assert.Contains("not told yet", v.Text("#costs"));
            }
        }

        await v.Go($"/runs/compare?id={id}&id={other}");
        Assert.Matches(@"printed again\s*9 of 11 good\s*2 of 12 good", v.Text("#costs"));
        Assert.Contains("A good part costs least as run", v.Text("#costs"));
        await v.Go($"/runs/{id}");
        Assert.Contains("not good: split", v.Text("#tally"));
    }

    [Fact]
    public async Task An_own_file_goes_to_the_simulated_printer_as_it_is()
    {
        var ring = await Ring();
        var id = await PlannedAsync();
        await v.Press("form[method=post]", $"/runs/{id}/simulated?handler=Try");
        var twin = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Files).FirstOrDefaultAsync(r => r.LinkedRunId == id && r.LinkKind == "simulates"));
        Assert.Equal((Worlds.Practice, ring.Sha256), (twin!.World, Assert.Single(twin.Files).Sha256));
    }
}
