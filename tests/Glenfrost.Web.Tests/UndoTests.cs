using System.Net;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>What is taken back, and what a second tab sees of it.</summary>
public class UndoTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Pairing> PairingOf(string line, string head) => site.WithDb(async db =>
        (await db.Pairings.AsNoTracking().Full().ToListAsync()).First(p => p.Filament!.Line == line && p.Toolhead!.FullName == head));

    private async Task<ProfileSetting> Setting(Guid pairing, string key) =>
        (await site.WithDb(db => db.ProfileAsync(pairing)))![key]!;

    [Fact]
    public async Task Undoing_a_keep_after_a_later_change_takes_back_only_what_the_keep_did()
    {
        var p = await PairingOf("Skein 95", "Whimbrel 300");
        var decision = await site.WithDb(db => db.Decisions.FirstAsync(d => db.Runs.Any(r => r.Id == d.RunId && r.PairingId == p.Id)));
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Type']", ("key", "pressureAdvance"), ("value", "0.08"), ("reason", "corners bulge"));
        await v.Go($"/runs/{decision.RunId}");
        await v.Submit("form[action='/undo']");
        Assert.Contains("no longer kept", v.Text(".told"));
        Assert.Equal(SettingState.Start, (await Setting(p.Id, "nozzleTemperatureC")).State);
        Assert.Equal(0.08, (await Setting(p.Id, "pressureAdvance")).Value);
        Assert.NotNull((await site.WithDb(db => db.Decisions.FirstAsync(d => d.Id == decision.Id))).UndoneAt);
        Assert.Equal(RunStages.Read, (await site.WithDb(db => db.Runs.FirstAsync(r => r.Id == decision.RunId))).Stage);
    }

    [Fact]
    public async Task Undo_is_done_once_and_unknown_things_are_not_undone()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        var decision = await site.WithDb(db => db.Decisions.FirstAsync(d => db.Runs.Any(r => r.Id == d.RunId && r.PairingId == p.Id)));
        await v.Go($"/runs/{decision.RunId}");
        var other = site.Visit();
        await other.Go($"/runs/{decision.RunId}");
        await v.Submit("form[action='/undo']");
        var revisions = await site.WithDb(db => db.Revisions.CountAsync(r => r.PairingId == p.Id));
        await other.Submit("form[action='/undo']");
        Assert.Equal(HttpStatusCode.NotFound, other.Last.StatusCode);
        Assert.Equal(revisions, await site.WithDb(db => db.Revisions.CountAsync(r => r.PairingId == p.Id)));
        await v.Go("/preferences");
        await v.Press("main form", "/undo", ("what", $"moon:{Guid.NewGuid()}"));
        Assert.Equal(HttpStatusCode.NotFound, v.Last.StatusCode);
        await v.Go("/preferences");
        await v.Press("main form", "/undo", ("what", "filament"));
        Assert.Equal(HttpStatusCode.NotFound, v.Last.StatusCode);
    }

    [Fact]
    public async Task A_removed_filament_leaves_its_pairings_and_comes_back_whole()
    {
        var f = await site.WithDb(db => db.Filaments.FirstAsync(x => x.Line == "Plain"));
        await v.Go($"/filaments/{f.Id}");
        await v.Submit("form.quiet");
        Assert.Contains("is removed", v.Text(".told"));
        await v.Go("/pairings");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.DoesNotContain("Cold Ash Plain", v.Text("#pairings"));
        var pairing = await PairingOf("Plain", "Whimbrel 300");
        await v.Go($"/pairings/{pairing.Id}");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        await v.Go("/preferences");
        await v.Press("main form", "/undo", ("what", $"filament:{f.Id}"));
        Assert.Equal($"/filaments/{f.Id}", v.Path);
        Assert.Contains("P-14", v.Text("main"));
    }

    [Fact]
    public async Task A_removed_pairing_comes_back_with_its_profile()
    {
        var p = await PairingOf("Cairn CF", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Remove']");
        Assert.Contains("pairing is removed", v.Text(".told"));
        await v.Submit("form[action='/undo']");
        Assert.Equal($"/pairings/{p.Id}", v.Path);
        Assert.Contains("starting value", v.Text("#nozzleTemperatureC"));
    }

    [Fact]
    public async Task Revisions_say_what_changed_between_them_and_are_never_edited()
    {
        var p = await PairingOf("Heath", "Whimbrel 300");
        var before = await site.WithDb(db =>
            db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.PairingId == p.Id).OrderBy(r => r.Number).ToListAsync());
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Type']", ("key", "extrusionMultiplier"), ("value", "0,951"), ("reason", "gauge rings"));
        Assert.Contains("extrusion multiplier 0.964 → 0.951", v.Text(".revs"));
        Assert.Contains("typed: gauge rings", v.Text("#extrusionMultiplier"));
        var after = await site.WithDb(db =>
            db.Revisions.AsNoTracking().Include(r => r.Settings).Where(r => r.PairingId == p.Id).OrderBy(r => r.Number).ToListAsync());
        Assert.Equal(before.Count + 1, after.Count);
        foreach (var (a, b) in before.Zip(after))
            Assert.Equal(
                a.Settings.Select(s => s.ToCore(SettingState.Start, null)).OrderBy(s => s.Key),
                b.Settings.Select(s => s.ToCore(SettingState.Start, null)).OrderBy(s => s.Key));
    }

    [Theory]
    [InlineData("printers", "notes")]
    [InlineData("toolheads", "partFan")]
    [InlineData("spools", "stored")]
    public async Task Every_edit_form_knows_a_stale_one(string kind, string field)
    {
        var id = kind switch
        {
            "printers" => (await site.WithDb(db => db.Printers.FirstAsync())).Id,
            "toolheads" => (await site.WithDb(db => db.Toolheads.FirstAsync())).Id,
            _ => (await site.WithDb(db => db.Spools.FirstAsync())).Id,
        };
        var other = site.Visit();
        await v.Go($"/{kind}/{id}/edit");
        await other.Go($"/{kind}/{id}/edit");
        await other.Submit("form.sheet", (field, "theirs"));
        await v.Submit("form.sheet", (field, "mine"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("theirs", v.Text($"#err-{field}"));
        Assert.Contains("mine", v.Page.QuerySelector($"[name={field}]")!.OuterHtml);
        await v.Submit("form.sheet");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }

    [Fact]
    public async Task Conditions_that_changed_in_another_tab_are_not_overwritten_unseen()
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed))).Id;
        var other = site.Visit();
        await v.Go($"/runs/{run}");
        await other.Go($"/runs/{run}");
        await other.Submit("form[action*='Conditions']", ("slicer", "theirs 1.0"));
        await v.Submit("form[action*='Conditions']", ("slicer", "mine 2.0"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("theirs 1.0", v.Text("#err-slicer"));
        Assert.Equal("mine 2.0", v.Value("slicer"));
        await v.Submit("form[action*='Conditions']");
        Assert.Contains("mine 2.0", v.Text(".conds"));
    }

    [Fact]
    public async Task Every_removal_can_be_taken_back_from_the_log_long_after()
    {
        var heath = await PairingOf("Heath", "Dunnock 180");
        var photo = await site.WithDb(db => db.Photos.FirstAsync(p => db.Runs.Any(r => r.Id == p.RunId && r.PairingId == heath.Id)));
        var finding = await site.WithDb(db => db.Findings.FirstAsync(f => f.RunId == photo.RunId));
        var printer = heath.Toolhead!.PrinterId;
        async Task Remove(string page, string form, params (string, string)[] typed)
        {
            await v.Go(page);
            await v.Submit(form, typed);
            Assert.True(v.Last.IsSuccessStatusCode, page);
        }

        await Remove($"/runs/{photo.RunId}/photos?c={photo.Id}", "form[action*='Remove']");
        await Remove($"/runs/{photo.RunId}?open=read", "form[action*='RemoveFinding']", ("finding", finding.Id.ToString()));
        await Remove($"/runs/{photo.RunId}", "form[action$='=Remove']");
        await Remove($"/pairings/{heath.Id}", "form[action$='=Remove']");
        await Remove($"/filaments/{heath.FilamentId}", "form[action*='Remove']");
        await Remove($"/printers/{printer}", "form[action$='=Remove']");
        Assert.NotNull((await site.WithDb(db => db.Printers.FirstAsync(p => p.Id == printer))).RemovedAt);
        var undone = await site.WithDb(db => db.Log.CountAsync(l => l.UndoneAt != null));
        var offered = await site.WithDb(db => db.Log.CountAsync(l => l.Undo != null && l.UndoneAt == null));
        for (var n = 0; n < 6; n++)
        {
            await v.Go("/log");
            await v.Submit(".undo-line");
            Assert.Contains("back", v.Text(".told"));
        }

        await v.Go("/log");
        Assert.Equal(offered - 6, await site.WithDb(db => db.Log.CountAsync(l => l.Undo != null && l.UndoneAt == null)));
        Assert.Equal(undone + 6, await site.WithDb(db => db.Log.CountAsync(l => l.UndoneAt != null)));
        Assert.True(v.Page.QuerySelectorAll(".log s").Length >= 6);
        Assert.Null((await site.WithDb(db => db.Photos.FirstAsync(p => p.Id == photo.Id))).RemovedAt);
        Assert.Null((await site.WithDb(db => db.Findings.FirstAsync(p => p.Id == finding.Id))).RemovedAt);
        Assert.Null((await site.WithDb(db => db.Runs.FirstAsync(p => p.Id == photo.RunId))).RemovedAt);
        Assert.Null((await site.WithDb(db => db.Pairings.FirstAsync(p => p.Id == heath.Id))).RemovedAt);
        Assert.Null((await site.WithDb(db => db.Filaments.FirstAsync(p => p.Id == heath.FilamentId))).RemovedAt);
        Assert.Null((await site.WithDb(db => db.Printers.FirstAsync(p => p.Id == printer))).RemovedAt);
    }

    [Fact]
    public async Task The_log_is_filtered_by_day_and_kind_and_pages_through_without_a_gap()
    {
        var all = await site.WithDb(db => db.Log.OrderByDescending(l => l.At).ThenByDescending(l => l.Id).Select(l => l.Text).ToListAsync());
        var seen = new List<string>();
        for (var next = "/log"; next is not null; next = v.Page.QuerySelector("main a[href*='before=']")?.GetAttribute("href"))
        {
            await v.Go(next);
            seen.AddRange(v.Page.QuerySelectorAll(".log li > span:nth-of-type(2)").Select(e => e.QuerySelector("a, s")?.TextContent ?? e.TextContent.Trim()));
        }

        Assert.Equal(all.Count, seen.Count);
        var day = DateTime.UtcNow.Date.AddDays(-318);
        await v.Go($"/log?kind=finding&from={day:yyyy-MM-dd}&to={day:yyyy-MM-dd}");
        Assert.Equal(3, v.Page.QuerySelectorAll(".log li").Length);
        Assert.Contains("strings: reeds joined by hairs", v.Text(".log"));
        var text = await v.Client.GetStringAsync($"/log?handler=Text&kind=finding&from={day:yyyy-MM-dd}&to={day:yyyy-MM-dd}");
        Assert.StartsWith($"{day:yyyy-MM-dd}", text);
        await v.Go("/log?from=yesterday");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("not a day", v.Text("#err-from"));
        Assert.True(v.Page.QuerySelectorAll(".log li").Length > 10);
    }
}
