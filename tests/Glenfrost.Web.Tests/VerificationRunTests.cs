using System.Net;
using Glenfrost.Core.Evidence;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>Verification prints as their pages carry them: proposed last, passed or not, what they confirm, taken back.</summary>
public class VerificationRunTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    /// <summary>A pairing with all but its temperature confirmed, and nothing begun that would come first.</summary>
    private Task<Pairing> Plain() => site.WithDb(async db =>
    {
        var p = (await db.Pairings.AsNoTracking().Full().ToListAsync()).First(p =>
            p.Filament!.Line == "Plain" && p.Toolhead!.FullName == "Whimbrel 300" && p.World == Worlds.Real);
        await db.Runs.Where(r => r.PairingId == p.Id && r.Stage != RunStages.Decided && r.Stage != RunStages.Left)
            .ExecuteUpdateAsync(s => s.SetProperty(r => r.RemovedAt, DateTime.UtcNow));
        // Nobody ever noted how its heater was tuned: that holds nothing up.
        await db.Checks.Where(c => c.PrinterId == p.Toolhead!.PrinterId).ExecuteDeleteAsync();
        return p;
    });

    private Task<EvidenceState?> StateOf(Guid pairing, string area, string? key = null) => site.WithDb(async db =>
        (await db.Standings.AsNoTracking().FirstOrDefaultAsync(s => s.PairingId == pairing && s.Area == area && s.Key == key))?.State);

    private async Task<Guid> Printed(string address, params (string, string)[] typed)
    {
        await v.Go(address);
        await v.Submit("#plan", typed);
        var run = v.Planned();
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Printed']", ("as", "last"));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        return run;
    }

    private async Task<Guid> Vane(Guid pairing, double worst = 4, params (string, string)[] typed)
    {
        var run = await Printed($"/pairings/{pairing}/verification", [("targetScore", "3"), .. typed]);
        await v.Submit(
            "#scores",
            [
                .. Enumerable.Range(0, 7).Select(i => ($"c.{i}.part", i == 6 ? $"{worst}" : "4")),
                .. worst < 3 ? [("c.6.failedAtLayer", "205"), ("c.6.defect.1", "strings")] : Array.Empty<(string, string)>(),
            ]);
        await v.Submit("#finish-form");
        return run;
    }

    [Fact]
    public async Task It_is_the_last_step_confirms_what_it_was_printed_with_and_is_taken_back()
    {
        var p = await Plain();
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("Verification print", v.Text(".lead h2, .lead h3, .lead"));
        Assert.Equal(EvidenceState.Provisional, await StateOf(p.Id, "temperature", "nozzleTemperatureC"));
        // Another temperature than the kept one speaks for that one, and it is said before anything is kept.
        var hotter = $"{int.Parse(await Proposed(p.Id), System.Globalization.CultureInfo.InvariantCulture) + 6}";
        await Vane(p.Id, 4, ("nozzleTemperatureC", hotter));
        Assert.Contains($"the piece was printed with {hotter} °C", v.Text(".judge-stage aside"));
        await v.Submit("form[action$='Say']");
        Assert.Equal(EvidenceState.Provisional, await StateOf(p.Id, "temperature", "nozzleTemperatureC"));
        await v.Submit("form[action='/undo']");
        Assert.True(await StateOf(p.Id, "verification") is null or EvidenceState.Open);
        // At the kept one it confirms it.
        var run = await Vane(p.Id);
        Assert.Contains("Passed: each of 7 zones reaches 3", v.Text("#verdict"));
        Assert.Contains("Confirmed with it: Nozzle temperature", v.Text(".judge-stage aside"));
        Assert.Contains("no more", v.Text(".judge-stage"));
        await v.Submit("form[action$='Say']");
        Assert.Equal(EvidenceState.Confirmed, await StateOf(p.Id, "temperature", "nozzleTemperatureC"));
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("passed with it", v.Text("#nozzleTemperatureC"));
        Assert.DoesNotContain("Verification print", v.Text(".lead"));
        // Its zones are what is good enough, too.
        Assert.Contains("28 of 28 points", v.Text("#goal"));
        await v.Go($"/runs/{run}");
        await v.Submit("form[action='/undo']");
        Assert.Equal(EvidenceState.Provisional, await StateOf(p.Id, "temperature", "nozzleTemperatureC"));
        // One that fails makes nothing doubtful by itself; its suspects stand with it, and the route sends there.
        run = await Vane(p.Id, 1);
        Assert.Contains("Not passed: it failed at layer 205, in spire", v.Text("#verdict"));
        Assert.Contains("Nothing becomes doubtful by itself", v.Text(".judge-stage aside"));
        Assert.Contains("Retraction length", v.Text("#suspects"));
        await v.Submit("form[action$='Say']");
        Assert.Contains("not passed", v.Text(".judge-stage aside"));
        Assert.Equal(EvidenceState.Provisional, await StateOf(p.Id, "temperature", "nozzleTemperatureC"));
        // The two that were undone wait for nobody any more.
        await Plain();
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("did not pass", v.Text(".lead"));
        Assert.Equal($"/runs/{run}#suspects", v.Page.QuerySelector(".lead a.btn")!.GetAttribute("href"));
        await v.Go($"/runs/{run}");
        await v.Submit("form[action='/undo']");
    }

    private async Task<string> Proposed(Guid pairing)
    {
        await v.Go($"/pairings/{pairing}/verification");
        return v.Value("nozzleTemperatureC");
    }

    [Fact]
    public async Task A_clip_is_measured_and_what_is_wrong_is_said_where_it_is_typed()
    {
        var p = await Plain();
        await v.Go($"/pairings/{p.Id}/verification?mode=clip");
        await v.Submit("#plan", ("rodMm", "1"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("is not between 3 and 60 mm", v.Text("#err-rodMm"));
        Assert.Equal("1", v.Value("rodMm"));
        var run = await Printed($"/pairings/{p.Id}/verification?mode=clip", ("targetScore", "3"), ("rodMm", "8"), ("clearanceMm", "0.2"));
        await v.Submit("#scores", ("c.0.rodMm", "8.02"), ("c.0.boreMm", "80"), ("c.0.snap", "4"), ("c.0.part", "4"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("near what it was made for", v.Text("main"));
        await v.Go($"/runs/{run}?open=read");
        await v.Submit("#scores", ("c.0.rodMm", "8.02"), ("c.0.boreMm", "7.95"), ("c.0.snap", "4"), ("c.0.part", "4"));
        await v.Submit("#finish-form");
        Assert.Contains("Not passed: -0.07 mm of play where 0.2 ± 0.15 was asked", v.Text("#verdict").Replace('−', '-'));
        Assert.Contains("poor fit", v.Text(".judge-stage"));
        Assert.Contains("Extrusion multiplier", v.Text("#suspects"));
        // Both pieces are offered as shapes too.
        foreach (var format in new[] { "stl", "3mf" })
        {
            using var shape = await v.Client.GetAsync($"/runs/{run}/piece.{format}", TestContext.Current.CancellationToken);
            Assert.Equal(HttpStatusCode.OK, shape.StatusCode);
        }
    }

    [Fact]
    public async Task It_can_be_left_out_of_the_route_and_taken_up_again()
    {
        var p = await Plain();
        await v.Go($"/pairings/{p.Id}");
        await v.Press("main form", $"/pairings/{p.Id}?handler=Step", ("step", "verification"), ("what", "skipped"), ("stepWhy", "parts tell enough"));
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("parts tell enough", v.Text(".waypoints"));
        Assert.DoesNotContain("Verification print", v.Text(".lead"));
        await v.Press("main form", $"/pairings/{p.Id}?handler=Step", ("step", "verification"), ("what", "resumed"));
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("Verification print", v.Text(".lead"));
    }
}
