using System.Globalization;
using System.Net.Http.Headers;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WarpPairs;
using Glenfrost.Samples;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A part of one's own instead of the plate: its file kept with each print, two slicings of it where what differs stands in the file.</summary>
public class OwnWarpTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private async Task Drop(SlicedFile sliced, string name)
    {
        var content = new MultipartFormDataContent();
        foreach (var hidden in v.Page.QuerySelectorAll("#drop-file input[type=hidden]"))
            content.Add(new StringContent(hidden.GetAttribute("value")!), hidden.GetAttribute("name")!);
        var file = new ByteArrayContent(sliced.ToBytes());
        file.Headers.ContentType = new MediaTypeHeaderValue("text/plain");
        content.Add(file, "file", name);
        await v.Take(await v.Client.PostAsync("/gcode/files", content));
        Assert.Contains("mode=own&file=", v.Path);
    }

    /// <summary>Plans as the page stands, prints in air of 21 °C and reads the same lift at all places.</summary>
    private async Task<(Guid Run, WarpPlan Plan)> Printed(double lift, params (string, string)[] fields)
    {
        await v.Submit("#plan", fields);
        var run = v.Planned();
        await v.Submit("form[action$='Printed']");
        await v.Go($"/runs/{run}?open=read");
        await v.Submit("form[action$='Conditions']", ("roomC", "21"), ("roomEndC", "21"), ("chamberC", "22"), ("chamberEndC", "23"));
        await v.Go($"/runs/{run}?open=read");
        await v.Submit("#scores", [.. from i in Enumerable.Range(0, 5) from m in new[] { "cooled", "released" }
            select ($"c.{i}.lift.{m}", (lift + 0.05 * (i % 2)).ToString(CultureInfo.InvariantCulture))]);
        await v.Submit("form[action$='Finish']");
        var json = await site.WithDb(db => db.Runs.AsNoTracking().Where(r => r.Id == run).Select(r => r.PlanJson).FirstAsync());
        return (run, (WarpPlan)TrialCatalogue.Get(WarpTrial.Word).ReadPlan(json));
    }

    [Fact]
    public async Task A_part_of_ones_own_is_printed_in_pairs_from_one_file_or_from_two_slicings_of_it()
    {
        var pairing = await site.PairingAsync("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{pairing}/warp-pairs");
        Assert.Equal("A part of my own", v.Page.QuerySelector("a.btn[href*='mode=own']")!.TextContent);
        await v.Go($"/pairings/{pairing}/warp-pairs?mode=own");
        Assert.NotNull(v.Page.QuerySelector("[name=lengthMm]"));
        // What only our plate has is not asked of a part.
        Assert.Null(v.Page.QuerySelector("[name=endMm]"));
        await Drop(new SlicedFile { Layers = 30, NozzleC = 215, LayerHeight = 0.25, Radius = 25 }, "tray.gcode");
        var read = (v.Value("nozzleTemperatureC"), v.Value("layerHeightMm"), v.Value("lengthMm"));
        Assert.Equal(("215", "0.25"), (read.Item1, read.Item2));
        Assert.InRange(double.Parse(read.Item3, CultureInfo.InvariantCulture), 49, 51);
        var (first, plan) = await Printed(1.2, ("difference", "brim"), ("arm", "without"), ("pair", "1"), ("lengthMm", "120"));
        Assert.Equal(("tray.gcode", 30), (plan.FileName, ((ITrialPlan)plan).TotalLayers));
        Assert.False(((ITrialPlan)plan).WritesFile);
        Assert.Equal(1, await site.WithDb(db => db.RunFiles.CountAsync(f => f.RunId == first && f.Name == "tray.gcode" && f.RetiredAt == null)));
        // Its fellow differs in its file: the same one again is asked about, the other slicing is taken beside it.
        await v.Go($"/pairings/{pairing}/warp-pairs?after={first}");
        Assert.Equal(("with", "1", "120"), (((AngleSharp.Html.Dom.IHtmlSelectElement)v.Page.QuerySelector("[name=arm]")!).Value, v.Value("pair"), v.Value("lengthMm")));
        Assert.Contains("tray.gcode", v.Text("#drop-file"));
        Assert.Contains("The other arm was printed from tray.gcode too", v.Text("#preview"));
        await Drop(new SlicedFile { Layers = 30, NozzleC = 215, LayerHeight = 0.25, Radius = 25, Title = "tray with a brim" }, "tray-brim.gcode");
        Assert.DoesNotContain("The other arm was printed", v.Text("#preview"));
        var (second, with) = await Printed(0.4, ("difference", "brim"), ("arm", "with"), ("pair", "1"), ("lengthMm", "120"));
        Assert.Equal("tray-brim.gcode", with.FileName);
        await v.Go($"/runs/{second}");
        if (v.Page.QuerySelector("form[action$='Remember']") is not null)
            await v.Submit("form[action$='Remember']");
        Assert.DoesNotContain("Not taken together", v.Text("main"));
        Assert.Contains("Judged together with run", v.Text("main"));
        // A plate of ours is another piece.
        Assert.False(((ITrialPlan)with).IsOfSamePiece(with with { FileName = null, Request = with.Request with { Mode = "" } }));
        Assert.False(((ITrialPlan)with).IsOfSamePiece(plan with { Request = plan.Request with { Arm = "with" } }));
    }

    [Fact]
    public async Task A_part_whose_file_lies_elsewhere_is_planned_all_the_same()
    {
        await v.Go($"/pairings/{await site.PairingAsync("Sill", "Whimbrel 300")}/warp-pairs?mode=own");
        // How long the part is nobody said: our plate's length is not taken for it.
        Assert.Equal("", v.Value("lengthMm"));
        await v.Submit("#plan", ("difference", "enclosure"));
        Assert.NotEqual("", v.Text("#err-lengthMm"));
        await v.Submit("#plan", ("difference", "enclosure"), ("lengthMm", "180"));
        var run = v.Planned();
        Assert.Contains("own part, 180 mm long", v.Text("main"));
        Assert.Equal(0, await site.WithDb(db => db.RunFiles.CountAsync(f => f.RunId == run && f.Kind == "gcode")));
        await v.Go($"/runs/{run}/sheet");
        Assert.True(v.Last.IsSuccessStatusCode);
    }
}
