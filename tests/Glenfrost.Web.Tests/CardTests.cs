using System.Net;
using Glenfrost.Application;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>The settings card: what is typed elsewhere, its name by a pattern, and which preset holds which revision.</summary>
public class CardTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Guid> Heath() => site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180")
        .Select(p => p.Id).FirstAsync());

    [Fact]
    public async Task It_holds_what_a_form_asks_and_says_what_nobody_measured()
    {
        var id = await Heath();
        await v.Go($"/pairings/{id}");
        Assert.NotNull(v.Page.QuerySelector($"a[href='/pairings/{id}/card']"));
        await v.Go($"/pairings/{id}/card");
        Assert.Contains("214 °C", v.Text(".card"));
        Assert.Contains("Retraction length", v.Text(".card"));
        Assert.Contains("Heath", v.Text(".card b"));
        Assert.Contains("not measured", v.Text(".card small"));
        Assert.Contains($"revision {await site.WithDb(db => db.Revisions.Where(r => r.PairingId == id).MaxAsync(r => r.Number))}", v.Text(".card small"));
        Assert.NotNull(v.Page.QuerySelector(".card svg path"));
        await v.Go($"/pairings/{id}/card?size=postcard&pattern={Uri.EscapeDataString("{maker} {line}")}");
        Assert.Equal("Brackenfell Heath", v.Text(".card.postcard b"));
        // The other machines' would be called the same.
        Assert.Contains("the same", v.Text("#same"));
        // The browser keeps the pattern.
        await v.Go($"/pairings/{id}/card");
        Assert.Equal("{maker} {line}", v.Value("pattern"));
    }

    [Theory]
    [InlineData("{hue}", "{hue} is no word of it")]
    [InlineData("{line", "A brace stands alone")]
    public async Task A_pattern_that_is_none_is_said_at_its_field_and_kept(string pattern, string says)
    {
        await v.Go($"/pairings/{await Heath()}/card?pattern={Uri.EscapeDataString(pattern)}");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(pattern, v.Value("pattern"));
        Assert.Contains(says, v.Page.Body!.TextContent);
    }

    [Fact]
    public async Task Where_a_revision_was_typed_is_noted_and_what_changed_since_is_said()
    {
        var id = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Sill" && p.World == Worlds.Real).Select(p => p.Id).FirstAsync());
        await v.Go($"/pairings/{id}/card");
        await v.Submit("form:has([name=where])", ("where", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Submit("form:has([name=where])", ("where", "the laptop in the hut"));
        Assert.Contains("the laptop in the hut", v.Text("#typed"));
        Assert.Contains("still what the profile says", v.Text("#typed"));
        var before = await site.WithDb(db => db.Findings.CountAsync(f => f.PairingId == id && f.Tag == PresetBook.Tag));
        Assert.Equal(1, before);
        // A known good value of practice it is not.
        await v.Go($"/pairings/{id}");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Contains("the laptop in the hut", v.Page.Body!.TextContent);
        Assert.DoesNotContain("profileRevision", v.Page.Body!.TextContent);
        var changed = "";
        await site.WithDb(db =>
        {
            var last = db.Revisions.Include(r => r.Settings).Where(r => r.PairingId == id).OrderByDescending(r => r.Number).First();
            changed = last.Settings.First(s => s.AtC == null && s.Word == null).Key;
            var next = new ProfileRevision
            {
                PairingId = id, Number = last.Number + 1, At = DateTime.UtcNow, Why = "typed",
                Settings = [.. last.Settings.Select(s => new SettingRow
                {
                    Key = s.Key, Value = s.Key == changed ? s.Value + 5 : s.Value, Uncertainty = s.Uncertainty, Origin = s.Origin, OriginText = s.OriginText,
                    State = s.State, AtC = s.AtC,
                })],
            };
            db.Revisions.Add(next);
            db.Pairings.First(p => p.Id == id).NewestRevisionId = next.Id;
            return db.SaveChangesAsync();
        });
        await v.Go($"/pairings/{id}/card");
        Assert.Contains($"since then changed: {Words.Lower(Glenfrost.Core.Settings.SettingRegistry.Get(changed).Label)}", v.Text("#typed"));
    }

    [Fact]
    public async Task A_spools_label_says_what_was_found_of_its_filament_the_surest_first()
    {
        var spool = await site.WithDb(db => db.Spools.Where(s => s.Name == "H-07").Select(s => s.Id).FirstAsync());
        await v.Go($"/spools/{spool}/label");
        var found = v.Page.QuerySelectorAll(".label p").Select(p => p.TextContent).Where(t => t.Contains("found on")).ToList();
        Assert.InRange(found.Count, 1, 3);
        Assert.Contains("214 °C found on Dunnock 180", found[0]);
        Assert.DoesNotContain("doubtful", found[0]);
        Assert.All(found.SkipWhile(t => !t.Contains("doubtful")), t => Assert.Contains("doubtful", t));
    }

    [Fact]
    public async Task Of_no_pairing_there_is_none() => Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/pairings/{Guid.NewGuid()}/card")).StatusCode);

    [Fact]
    public async Task A_tier_has_values_of_its_own_over_the_profile_says_what_nobody_found_and_is_taken_back()
    {
        var id = await Heath();
        const string Form = "form:has([name=tierValue])";
        await v.Go($"/pairings/{id}/card?pattern={Uri.EscapeDataString(PresetName.Usual)}");
        await v.Submit(Form, ("tierName", "fast"), ("tierKey", "nozzleTemperatureC"), ("tierValue", "900"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(("fast", "900"), (v.Value("tierName"), v.Value("tierValue")));
        await v.Submit(Form, ("tierValue", "245"));
        Assert.Contains("above this machine's limit", v.Text("#err-tierValue"));
        await v.Submit(Form, ("tierValue", "222"));
        Assert.Contains("222 °C", v.Text(".card"));
        Assert.Contains("fast", v.Text(".card b"));
        Assert.Contains("lies outside what was found, 214 °C ± 6", v.Page.Body!.TextContent);
        // The profile is as it was, on its card and on its page.
        await v.Go($"/pairings/{id}/card");
        Assert.Contains("214 °C", v.Text(".card"));
        Assert.DoesNotContain("fast", v.Text(".card b"));
        // A tier is one, however it is written; its values stand in the archive.
        await v.Submit(Form, ("tierName", "FAST"), ("tierKey", "outerWallSpeedMmPerS"), ("tierValue", "300"));
        var tiers = await site.WithDb(async db => TierBook.Of(await db.Pairings.AsNoTracking().FirstAsync(p => p.Id == id)));
        Assert.Equal(("fast", 2), (Assert.Single(tiers.Tiers).Name, tiers.Tiers[0].Values.Count));
        Assert.Contains("\"fast\"", await v.Client.GetStringAsync("/export/archive.json", TestContext.Current.CancellationToken));
        // A name that does not tell them apart is said.
        await v.Go($"/pairings/{id}/card?tier=fast&pattern={Uri.EscapeDataString("{line} {printer}")}");
        Assert.Contains("no tier", v.Text("#same-tier"));
        // Taken out value by value, and back again.
        await v.Go($"/pairings/{id}/card?tier=fast&pattern={Uri.EscapeDataString(PresetName.Usual)}");
        await v.Submit("#tiers form:has([name=tierKey][value=outerWallSpeedMmPerS])");
        Assert.DoesNotContain("outer wall", v.Text("#tiers li"));
        await v.Submit("form[action='/undo']");
        await v.Go($"/pairings/{id}/card");
        Assert.Contains("outer wall", v.Text("#tiers li"));
        // A tier that is gone is no fault: the profile stands.
        await v.Go($"/pairings/{id}/card?tier=slow");
        Assert.Contains("214 °C", v.Text(".card"));
    }

    [Fact]
    public async Task A_plan_begins_with_the_values_of_a_tier_and_says_so_wherever_the_run_is_shown()
    {
        var id = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Whimbrel 300"
            && p.World == Worlds.Real).Select(p => p.Id).FirstAsync());
        foreach (var (key, value) in new[] { ("nozzleTemperatureC", "219"), ("fanPercent", "35") })
        {
            await v.Go($"/pairings/{id}/card");
            await v.Submit("form:has([name=tierValue])", ("tierName", "tough"), ("tierKey", key), ("tierValue", value));
        }

        await v.Go($"/pairings/{id}/retraction-sweep");
        var usual = v.Value("nozzleTemperatureC");
        Assert.NotEqual("219", usual);
        Assert.Contains("the profile", v.Text("#tiers b"));
        var tough = v.Page.QuerySelectorAll("#tiers a").Single(a => a.TextContent == "tough").GetAttribute("href");
        await v.Go($"/pairings/{id}/retraction-sweep{tough}");
        Assert.Equal("219", v.Value("nozzleTemperatureC"));
        Assert.Equal("tough", v.Text("#tiers b"));
        Assert.Contains("tier tough", v.Text("#preview"));
        // A refusal keeps it, and what was typed.
        await v.Submit("#plan", ("postMm", "0"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(("tough", "0"), (v.Text("#tiers b"), v.Value("postMm")));
        await v.Submit("#plan", ("postMm", "4"));
        var run = v.Planned();
        Assert.Contains("tier tough", v.Text(".run-head"));
        var file = await site.WithDb(db => db.RunFiles.FirstAsync(f => f.RunId == run && f.Kind == "gcode"));
        var text = await v.Client.GetStringAsync($"/runs/{run}/files/{file.Id}");
        Assert.Matches("M104 S219|M109 S219|EXTRUDER TARGET=219", text);
        // Tried on the simulated printer it is the same: what the tier says of the fan stands in that file too.
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='handler=Try']");
        Assert.Contains("tier tough", v.Text(".run-head"));
        var twin = Guid.Parse(v.Path.Split('#')[0].Split('/')[2]);
        var tried = await site.WithDb(db => db.RunFiles.FirstAsync(f => f.RunId == twin && f.Kind == "gcode"));
        static string[] Fans(string g) =>
            [.. g.Split('\n').Where(l => l.StartsWith("M106", StringComparison.Ordinal)).Select(l => l.Split(';')[0].Trim()).Distinct()];
        Assert.Equal(Fans(text), Fans(await v.Client.GetStringAsync($"/runs/{twin}/files/{tried.Id}")));
        // Opened again it goes on with the tier; the profile's own values are one press away, and then the run is none of the tier's.
        await v.Go($"/pairings/{id}/retraction-sweep?run={run}");
        Assert.Equal("tough", v.Text("#tiers b"));
        await v.Go($"/pairings/{id}/retraction-sweep?run={run}&tier=");
        Assert.Equal("the profile", v.Text("#tiers b"));
        await v.Submit("#plan");
        Assert.DoesNotContain("tier tough", v.Text(".run-head"));
        // A tier that is gone, or never was, is told and not guessed.
        await v.Go($"/pairings/{id}/retraction-sweep?tier=swift");
        Assert.Contains("There is no tier \"swift\"", v.Text(".notice"));
        Assert.Equal(usual, v.Value("nozzleTemperatureC"));
        // What is typed elsewhere is there as text too.
        var profile = await v.Client.GetStringAsync($"/pairings/{id}/profile.txt?tier=tough");
        Assert.Contains(", tier tough", profile);
        // What other forms call it stands beneath each value.
        Assert.Matches(@"Extrusion multiplier.*\n    Flow ratio; programs that show flow in per cent", profile);
        Assert.Matches(@"Nozzle\D+219\b.*tier tough", profile);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/pairings/{id}/profile.txt?tier=swift")).StatusCode);
    }

    [Fact]
    public void A_tier_at_another_temperature_is_planned_with_what_was_found_there()
    {
        ProfileSetting Found(string key, double value, double? atC = null) =>
            new(key, value, null, SettingOrigin.Run, "a run", SettingState.Provisional, "one run") { AtC = atC };
        var profile = new ProfileView(
            Guid.NewGuid(), 1, DateTime.UtcNow,
            [Found("nozzleTemperatureC", 210), Found("maxVolumetricFlowMm3PerS", 9, 210), Found("maxVolumetricFlowMm3PerS", 14, 230), Found("fanPercent", 80)]);
        var held = HeldSettings.Of(new("fast", [new("nozzleTemperatureC", 230), new("fanPercent", 60)]), profile);
        Assert.Equal("tier fast", held.From);
        var over = held.Over(profile.ForPlanning);
        Assert.Equal((230, 14, 60), (over["nozzleTemperatureC"], over["maxVolumetricFlowMm3PerS"], over["fanPercent"]));
        // At the profile's own temperature nothing but the tier's own value changes.
        Assert.Equal(["fanPercent"], HeldSettings.Of(new("calm", [new("fanPercent", 60)]), profile).Values.Keys);
    }
}
