using Glenfrost.Samples;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>The pairing's cool-down: kept in the profile, a tick on every file, in it or left out of it, and on the sheet only where no file can hold it.</summary>
public class CoolDownTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private async Task Keep(Guid pairing, string key, string value)
    {
        await v.Go($"/pairings/{pairing}");
        await v.Submit("form[action$='Type']", ("key", key), ("value", value), ("reason", "large plates lifted at a corner"));
        Assert.True(v.Last.IsSuccessStatusCode, string.Join(" ", v.Page.QuerySelectorAll(".err").Select(e => e.TextContent)));
    }

    private async Task<(Run Run, string Text)> Taken()
    {
        var id = v.Planned();
        var run = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Files).FirstAsync(r => r.Id == id));
        var file = run.Files.Where(f => f.Kind == "gcode" && f.RetiredAt is null).MaxBy(f => f.CreatedAt)!;
        using var reply = await v.Client.GetAsync($"/runs/{id}/files/{file.Id}");
        return (run, await reply.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task It_is_in_each_file_until_its_tick_is_taken_off_and_the_run_remembers_that()
    {
        var pairing = await site.PairingAsync("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Null(v.Page.QuerySelector("input[name=cool]"));
        await v.Submit("#plan");
        var (plain, none) = await Taken();
        Assert.DoesNotContain("cool-down", none);
        await Keep(pairing, "coolDown", "5 °C every 6 min to 40 °C");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.True(v.Page.QuerySelector("input[name=cool]")!.HasAttribute("checked"));
        await v.Submit("#plan");
        var (ramped, text) = await Taken();
        Assert.Contains("; glenfrost cool-down begins:", text);
        Assert.Equal(3, text.Split('\n').Count(l => l.StartsWith("M140 S", StringComparison.Ordinal) && l.Contains("cool-down") && !l.Contains("bed off")));
        // Three steps of six minutes are eighteen minutes more, and are foreseen.
        Assert.Equal(18, ramped.ForeseenMinutes - plain.ForeseenMinutes);
        Assert.Null(ramped.LeftToCool);
        await v.Go($"/runs/{ramped.Id}");
        await v.Go($"/runs/{ramped.Id}/sheet");
        Assert.DoesNotContain("cool-down", v.Page.QuerySelector(".by-hand")?.TextContent ?? "", StringComparison.OrdinalIgnoreCase);
        // Taken off, and opened again as it was left.
        await v.Go($"/pairings/{pairing}/temperature-tower?run={ramped.Id}");
        ((AngleSharp.Html.Dom.IHtmlInputElement)v.Page.QuerySelector("input[name=cool]")!).IsChecked = false;
        await v.Submit("#plan");
        var (left, without) = await Taken();
        Assert.Equal(ramped.Id, left.Id);
        Assert.DoesNotContain("cool-down", without);
        Assert.True(left.LeftToCool);
        Assert.Equal(plain.ForeseenMinutes, left.ForeseenMinutes);
        await v.Go($"/pairings/{pairing}/temperature-tower?run={left.Id}");
        Assert.False(v.Page.QuerySelector("input[name=cool]")!.HasAttribute("checked"));
        Assert.Contains("left out of this file", v.Text(".in-force"));
        // Any other trial's file has it as well; the one that asks where parts let go by themselves has not.
        await v.Go($"/pairings/{pairing}/wall-flow");
        await v.Submit("#plan");
        Assert.Contains("glenfrost cool-down", (await Taken()).Text);
        await v.Go($"/pairings/{pairing}/release");
        Assert.Null(v.Page.QuerySelector("input[name=cool]"));
    }

    [Fact]
    public async Task What_no_file_can_hold_stays_on_the_sheet_with_the_reason_and_to_release_waits_for_a_release_temperature()
    {
        var pairing = await site.PairingAsync("Sill", "Whimbrel 300");
        await Keep(pairing, "coolDown", "leave the door shut for an hour");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Null(v.Page.QuerySelector("input[name=cool]"));
        Assert.Contains("by hand: it is said in words that no file can hold", v.Text(".in-force"));
        await Keep(pairing, "coolDown", "to release");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.Contains("no release temperature is kept", v.Text(".in-force"));
        await Keep(pairing, "releaseBedTemperatureC", "45");
        await v.Go($"/pairings/{pairing}/temperature-tower");
        Assert.NotNull(v.Page.QuerySelector("input[name=cool]"));
        Assert.Contains("to 45 °C in", v.Text("#plan"));
    }

    [Fact]
    public async Task The_tick_stands_where_the_file_has_it_and_nowhere_else()
    {
        var pairing = await site.PairingAsync("Heath", "Dunnock 180");
        await Keep(pairing, "coolDown", "50 °C 3 min, 40 °C 3 min");
        var with = new List<string>();
        foreach (var trial in Core.Trials.TrialCatalogue.All.Where(t => t.Subject == Core.Trials.TrialSubject.Pairing && t.Suits("PLA")))
        {
            await v.Go($"/pairings/{pairing}/{trial.Kind}");
            var ticked = v.Page.QuerySelector("input[name=cool]") is not null;
            await v.Submit("#plan");
            if (v.Last.StatusCode != System.Net.HttpStatusCode.OK)
                continue;
            var id = v.Planned();
            var file = await site.WithDb(db => db.RunFiles.AsNoTracking().FirstOrDefaultAsync(f => f.RunId == id && f.Kind == "gcode"));
            var cools = file is not null && (await v.Client.GetStringAsync($"/runs/{id}/files/{file.Id}")).Contains("glenfrost cool-down", StringComparison.Ordinal);
            Assert.True(cools == ticked, $"{trial.Kind}: the page {(ticked ? "has" : "lacks")} the tick, its file {(cools ? "cools" : "does not")}");
            if (cools)
                with.Add(trial.Kind);
        }

        Assert.True(with.Count >= 8, string.Join(", ", with));
        Assert.DoesNotContain(with, k => k is "release" or "part" or "flow-limit-weighed");
        // A plate whose arm is left to cool has none, the other arm has.
        foreach (var (arm, has) in new[] { ("without", false), ("with", true) })
        {
            await v.Go($"/pairings/{pairing}/warp-pairs");
            await v.Submit("#plan", ("difference", "ramp"), ("arm", arm));
            Assert.Equal(has, (await Taken()).Text.Contains("glenfrost cool-down", StringComparison.Ordinal));
        }
    }

    private async Task<Guid> DropAsync(string name, Guid? pairing, double bedC = 60)
    {
        await v.Go("/gcode");
        using var form = new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new StringContent($"{pairing}"), "pairing" },
            { new ByteArrayContent(new SlicedFile { Layers = 20, BedC = bedC, Title = name }.ToBytes()), "file", name },
        };
        await v.Take(await v.Client.PostAsync("/gcode/files", form));
        return Guid.Parse(v.Path[7..43]);
    }

    private async Task<string> TextOf(string madeFrom)
    {
        var id = await site.WithDb(db => db.GcodeFiles.AsNoTracking().Where(f => f.FromId != null && f.Name.StartsWith(madeFrom)).Select(f => f.Id).SingleAsync());
        return await v.Client.GetStringAsync($"/gcode/{id}/file");
    }

    [Fact]
    public async Task Several_files_get_the_cool_down_of_their_pairings_at_once_and_one_that_has_none_says_why()
    {
        var pairing = await site.PairingAsync("Plain", "Whimbrel 300");
        var (a, b, c) = (await DropAsync("first.gcode", pairing), await DropAsync("second.gcode", pairing, 70), await DropAsync("stray.gcode", null));
        await v.Go("/gcode");
        await v.Submit("#cool");
        Assert.Contains("Tick the files first", v.Text(".notice"));
        async Task Cool(params Guid[] files)
        {
            await v.Go("/gcode");
            foreach (var box in v.Page.QuerySelectorAll("input[name=cool]").Cast<AngleSharp.Html.Dom.IHtmlInputElement>())
                box.IsChecked = files.Contains(Guid.Parse(box.Value));
            await v.Submit("#cool");
        }

        await Cool(a, b, c);
        Assert.Contains("Nothing is written", v.Text(".notice"));
        Assert.Contains("keeps neither a cool-down nor where its parts let go", v.Text(".notice"));
        Assert.Equal(3, v.Page.QuerySelectorAll("input[name=cool][checked]").Length);
        await Keep(pairing, "coolDown", "55 °C 4 min, 42.5 °C 6 min");
        await Cool(a, b, c);
        Assert.Contains("2 files are written", v.Text(".told"));
        Assert.Contains("stray.gcode: no pairing is said", v.Text(".told"));
        foreach (var name in new[] { "first", "second" })
        {
            var beds = (await TextOf(name)).Split('\n').Where(l => l.Contains("glenfrost cool-down: ", StringComparison.Ordinal) && l.StartsWith("M140", StringComparison.Ordinal))
                .Select(l => l.Split(' ')[1]);
            Assert.Equal(["S55", "S42.5", "S0"], beds);
        }

        // One by one it is a press as well, beside one's own values; what came stays.
        var single = await DropAsync("third.gcode", pairing);
        await v.Go($"/gcode/{single}");
        Assert.Contains("55 °C 4 min, 42.5 °C 6 min", v.Text("form:has([value='cool-down'])"));
        await v.Submit("form:has([value='cool-down'])", ("ramp", "pairing"));
        Assert.Contains("S42.5", await TextOf("third"));
        var cold = await DropAsync("cold.gcode", pairing, 50);
        await v.Go($"/gcode/{cold}");
        Assert.Contains("no file can hold: the bed has 50 °C", v.Text("form:has([value='cool-down'])"));
    }
}
