using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A setting in steps on its pages: what is chosen fits the fields, what is kept stands in the profile, what looks do not settle goes to its trial.</summary>
public class SettingStepsPageTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private string Factor => ((AngleSharp.Html.Dom.IHtmlSelectElement)v.Page.QuerySelector("[name=factor]")!).Value!;

    private async Task<Guid> Read(params (int Section, int First, int Walls)[] scores)
    {
        var run = v.Planned();
        await v.Submit("form[action$='Printed']");
        await v.Go($"/runs/{run}?open=read");
        var first = v.Page.QuerySelector("[name='c.0.tip']") is null ? "corners" : "tip";
        await v.Submit("#scores", [.. scores.SelectMany(s => new[] { ($"c.{s.Section}.{first}", $"{s.First}"), ($"c.{s.Section}.walls", $"{s.Walls}") })]);
        await v.Submit("form[action$='Finish']");
        return run;
    }

    [Fact]
    public async Task The_fastest_wall_that_looks_as_good_is_kept_and_stands_in_the_profile_with_its_run()
    {
        var pairing = await site.PairingAsync("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{pairing}/setting-steps");
        Assert.Equal("outer-speed", Factor);
        Assert.Equal("mm/s", v.Text("#plan .field:has([name=from]) .unit").Trim());
        await v.Submit("#plan", ("from", "30"), ("to", "90"), ("step", "15"));
        var run = await Read((0, 4, 4), (1, 4, 4), (2, 4, 4), (3, 2, 2), (4, 1, 1));
        Assert.StartsWith("60 mm/s As good, within half a score, as from 30 mm/s on: the fastest of them is taken.", v.Text("#verdict").Trim());
        Assert.Contains("such lines are laid in", v.Text("main"));
        await v.Submit("form[action$='Keep']");
        var kept = await site.WithDb(db => db.Settings.AsNoTracking()
            .Where(s => s.Key == "outerWallSpeedMmPerS" && s.RunId == run).OrderByDescending(s => s.Id).FirstAsync());
        Assert.Equal(60, kept.Value);
        await v.Go($"/pairings/{pairing}");
        Assert.Contains("Outer wall speed", v.Text("main"));
        // The next plan of it goes on from what is kept.
        await v.Go($"/pairings/{pairing}/setting-steps");
        Assert.Equal(("30", "110", "20"), (v.Value("from"), v.Value("to"), v.Value("step")));
    }

    [Fact]
    public async Task Another_setting_brings_its_own_range_and_unit_and_what_looks_do_not_settle_opens_its_trial()
    {
        var pairing = await site.PairingAsync("Plain", "Whimbrel 300");
        await v.Go($"/pairings/{pairing}/setting-steps?mode=cones");
        Assert.Equal(("layer-time", "4", "12", "2"), (Factor, v.Value("from"), v.Value("to"), v.Value("step")));
        Assert.Equal("s", v.Text("#plan .field:has([name=from]) .unit").Trim());
        Assert.Null(v.Page.QuerySelector("[name=lengthMm]"));
        await v.Go($"/pairings/{pairing}/setting-steps?mode=cones&factor=fan");
        await v.Submit("#plan", ("from", "0"), ("to", "100"), ("step", "25"));
        await Read((0, 1, 2), (1, 2, 3), (2, 4, 4), (3, 4, 4), (4, 4, 4));
        Assert.StartsWith("50 % As good", v.Text("#verdict").Trim());
        Assert.Null(v.Page.QuerySelector("form[action$='Keep']"));
        var settles = v.Page.QuerySelector(".judge-stage a.btn[href*='/fan-steps']");
        Assert.NotNull(settles);
        await v.Go(settles.GetAttribute("href")!);
        Assert.Equal("", string.Concat(v.Page.QuerySelectorAll("#plan .err:not([hidden])").Select(e => e.TextContent.Trim())));
    }

    [Fact]
    public async Task Every_trial_that_suits_a_pairing_is_reached_from_its_page()
    {
        var pairing = await site.PairingAsync("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{pairing}");
        var links = v.Page.QuerySelectorAll($"a[href^='/pairings/{pairing}/']").Select(a => a.GetAttribute("href")!.Split('/', '?')[3]).ToHashSet();
        var missing = Core.Trials.TrialCatalogue.All
            .Where(t => t.Subject == Core.Trials.TrialSubject.Pairing && !t.IsOnRoute && !t.TakesOwnFile && t.Suits("PLA")).Select(t => t.Kind)
            .Where(kind => !links.Contains(kind)).ToList();
        Assert.Equal([], missing);
    }

    [Fact]
    public async Task What_a_piece_does_not_show_is_refused_at_its_field_and_nothing_typed_is_lost()
    {
        var pairing = await site.PairingAsync("Heath", "Dunnock 180");
        await v.Go($"/pairings/{pairing}/setting-steps");
        await v.Submit("#plan", ("factor", "layer-time"), ("from", "4"), ("to", "12"), ("step", "2"), ("sectionHeightMm", "9"));
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("cones", v.Text("#err-factor"));
        Assert.Equal(("4", "12", "9"), (v.Value("from"), v.Value("to"), v.Value("sectionHeightMm")));
        await v.Submit("#plan", ("factor", "outer-speed"), ("from", "20"), ("to", "400"), ("step", "76"));
        Assert.Contains("mm/s", v.Text("#err-to"));
        // What is no number is said as that, and stays.
        await v.Submit("#plan", ("to", "soon"));
        Assert.Equal("soon", v.Value("to"));
        Assert.Contains("number", v.Text("#err-to"), StringComparison.OrdinalIgnoreCase);
    }
}
