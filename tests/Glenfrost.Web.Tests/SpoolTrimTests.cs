using System.Net;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A spool that runs otherwise than its filament: found by a wall or typed, kept with the spool, laid over the profile, aged with it.</summary>
public class SpoolTrimTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Spool> SpoolAsync(string name) => site.WithDb(db => db.Spools.AsNoTracking().FirstAsync(s => s.Name == name && s.World == Worlds.Real));

    /// <summary>Filament that the file of a tower feeds, mm.</summary>
    private async Task<double> FedAsync(Guid pairing)
    {
        await v.Go($"/pairings/{pairing}/temperature-tower");
        await v.Submit("#plan", ("hottestC", "215"), ("coolestC", "205"));
        var id = v.Planned();
        var file = await site.WithDb(db => db.RunFiles.AsNoTracking().Where(f => f.RunId == id && f.Kind == "gcode").Select(f => f.Id).FirstAsync());
        using var reply = await v.Client.GetAsync($"/runs/{id}/files/{file}");
        return Inspector.Inspect(new MemoryStream(await reply.Content.ReadAsByteArrayAsync()), new() { Name = "a.gcode", Motion = null }).FilamentMm;
    }

    private async Task<Guid> WallsAsync(Guid pairing, string mm, Guid? spool)
    {
        await v.Go($"/pairings/{pairing}/wall-flow");
        // What asks how much is to be laid has no trim in it.
        Assert.Null(v.Page.QuerySelector("#trim"));
        Assert.DoesNotContain("spool H-", v.Text(".in-force"));
        await v.Submit("#plan");
        var run = v.Planned();
        await v.Submit("form[action$='Printed']", ("outcome", "whole"));
        await v.Go($"/runs/{run}?open=read");
        if (spool is not null)
            await v.Submit("#conditions form", ("spool", spool.Value.ToString()));
        await v.Go($"/runs/{run}?open=read");
        // One of them reads a hundredth otherwise, as walls do.
        string Read(int s, int i) => i == 1 && s == 0 ? mm[..^1] + (char)(mm[^1] ^ 1) : mm;
        await v.Submit("#scores", [.. Enumerable.Range(0, 4).SelectMany(s => Enumerable.Range(1, 4).Select(i => ($"c.{s}.wallMm.{i}", Read(s, i))))]);
        await v.Submit("form[action$='Finish']");
        return run;
    }

    [Fact]
    public async Task What_a_wall_shows_of_one_spool_is_kept_with_it_and_laid_over_the_profile_until_the_multiplier_is_found_anew()
    {
        var (pairing, spool) = (await site.PairingAsync("Plain", "Dunnock 180"), await SpoolAsync("P-14"));
        await WallsAsync(pairing, "0.44", null);
        Assert.Null(v.Page.QuerySelector("#trim"));
        await v.Submit("form[action$='Keep']");
        var plain = await FedAsync(pairing);
        // The same filament on this spool: walls of 0.46 where 0.44 were planned.
        var run = await WallsAsync(pairing, "0.46", spool.Id);
        Assert.Matches(@"Spool P-14 ran at 95\.\d ± \d", v.Text("#trim"));
        await v.Press("form[method=post]", $"/runs/{run}?handler=Trim", ("shown", "80"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        await v.Go($"/runs/{run}");
        await v.Submit("#trim form");
        Assert.Contains("The profile stays as it is", v.Text(".told"));
        var kept = await SpoolAsync("P-14");
        Assert.Equal(run, kept.TrimRunId);
        Assert.InRange(kept.TrimPercent!.Value, 94.5, 96.8);
        await v.Go($"/spools/{spool.Id}");
        Assert.NotNull(v.Page.QuerySelector($"main a[href='/runs/{run}']"));
        // It is said in a plan, stands in force with its spool, and the file lays as much less.
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Contains("Spool P-14 runs at", v.Text("#trim"));
        Assert.Matches(@"Extrusion multiplier\s*0\.9\d+\s*profile; times 95\.\d+ %, spool P-14", v.Text(".in-force"));
        Assert.Equal(kept.TrimPercent.Value / 100, await FedAsync(pairing) / plain, 0.004);
        // Dried since: said, and still laid.
        await v.Go($"/spools/{spool.Id}");
        await v.Submit("form[action*='Drying']", ("dryC", "45"), ("dryH", "4"), ("dryNow", "yes"));
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Contains("dried since", v.Text("#trim"));
        Assert.Contains("the file lays it so", v.Text("#trim"));
        // Found anew: it is a share of another multiplier, and laid over none.
        await WallsAsync(pairing, "0.45", null);
        await v.Submit("form[action$='Keep']");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Contains("found anew since", v.Text("#trim"));
        Assert.DoesNotContain("spool P-14", v.Text(".in-force"));
    }

    [Fact]
    public async Task It_is_typed_with_a_reason_refused_at_its_field_and_taken_off()
    {
        var (pairing, spool) = (await site.PairingAsync("Sill", "Whimbrel 300"), await SpoolAsync("S-11"));
        await v.Go($"/spools/{spool.Id}");
        await v.Submit("form[action$='handler=Trim']", ("trimPercent", "60"), ("trimWhy", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.All(new[] { "trimPercent", "trimWhy" }, f => Assert.NotEqual("", v.Text($"#err-{f}")));
        Assert.Equal("60", v.Value("trimPercent"));
        var before = await FedAsync(pairing);
        await v.Go($"/spools/{spool.Id}");
        await v.Submit("form[action$='handler=Trim']", ("trimPercent", "103,5"), ("trimWhy", "thin by the calliper, 1.72 mm"));
        Assert.Contains("103.5 %", v.Text("main"));
        Assert.Contains("thin by the calliper", v.Text("main"));
        Assert.Equal(1.035, await FedAsync(pairing) / before, 0.004);
        // For a file of one's own it is offered, not filled in.
        await v.Go("/gcode");
        using (var form = new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new StringContent($"{pairing}"), "pairing" },
            { new ByteArrayContent(new Glenfrost.Samples.SlicedFile { Layers = 20 }.ToBytes()), "file", "thin.gcode" },
        })
            await v.Take(await v.Client.PostAsync("/gcode/files", form));
        Assert.Equal("", v.Value("flowPercent"));
        Assert.Contains("Spool S-11 runs at 103.5 %", v.Text("#spool-trim"));
        await v.Submit("#trim", ("spoolTrim", "yes"));
        Assert.Contains("Trimmed as a whole: flow 103.5 %", v.Text("main"));
        Assert.Null(v.Page.QuerySelector("#spool-trim"));
        await v.Go("/log");
        Assert.Contains("Spool S-11 runs at 103.5 % of its filament's flow", v.Text("main"));
        await v.Go($"/spools/{spool.Id}");
        await v.Submit("form[action$='handler=Untrim']");
        Assert.Contains("As its filament's", v.Text("main"));
        Assert.Equal(before, await FedAsync(pairing), 0.5);
    }
}
