using Glenfrost.Web.Drawing;
using System.IO.Compression;
using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text.Json;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>From a plan to a file on the pages: preview, refusals at the field, the kept file, models, the quick check.</summary>
public class PieceTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Pairing> PairingOf(string line, string printer) =>
        site.WithDb(db => db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Filament!.Line == line && p.Toolhead!.Printer!.Name == printer));

    private async Task<string> Plan(Pairing p, params (string, string)[] typed)
    {
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", typed);
        return v.Path.Split('#')[0];
    }

    [Fact]
    public async Task What_the_profile_asks_for_stands_in_force_and_what_no_file_holds_stands_on_the_sheet()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        foreach (var (key, value) in new[] { ("adhesive", "release layer"), ("releaseBedTemperatureC", "36"), ("brimWidthMm", "5") })
        {
            await v.Go($"/pairings/{p.Id}");
            await v.Submit("form[action$='Type']", ("key", key), ("value", value), ("reason", "as the sheet asks"));
        }

        var run = await Plan(p, ("hottestC", "220"), ("coolestC", "210"));
        v.Planned();
        await v.Go(run + "/sheet");
        Assert.Contains("adhesive release layer", v.Text(".by-hand"));
        Assert.Contains("bed, release 36 °C", v.Text(".by-hand"));
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        Assert.Matches(@"Brim\s*5(\.0)? mm\s*profile", v.Text(".in-force"));
        Assert.Matches(@"Adhesive\s*release layer\s*profile; by hand, no file holds it", v.Text(".in-force"));
        // What was asked for is in the file that is kept.
        await v.Go(run);
        var bytes = await (await v.Client.GetAsync(v.Page.QuerySelector(".files a")!.GetAttribute("href")!)).Content.ReadAsStringAsync();
        Assert.Contains("; brim", bytes);
    }

    [Fact]
    public async Task A_taken_plan_has_its_file_kept_by_hash_and_handed_out_unchanged()
    {
        var run = await Plan(await PairingOf("Heath", "Dunnock 180"), ("hottestC", "220"), ("coolestC", "210"));
        v.Planned();
        var link = v.Page.QuerySelector(".files a")!.GetAttribute("href")!;
        var reply = await v.Client.GetAsync(link);
        Assert.Equal("text/x.gcode", reply.Content.Headers.ContentType!.MediaType);
        Assert.StartsWith("tower-heath-dunnock-180-220-210-run-", reply.Content.Headers.ContentDisposition!.FileName);
        var bytes = await reply.Content.ReadAsByteArrayAsync();
        var hash = Convert.ToHexStringLower(SHA256.HashData(bytes));
        Assert.Contains(hash[..12], v.Text(".files"));
        var file = await site.WithDb(db => db.RunFiles.AsNoTracking().FirstAsync(f => f.Sha256 == hash));
        Assert.Equal(bytes.Length, file.Bytes);
        Assert.True(File.Exists(Path.Combine(site.Folder, "files", hash[..2], hash)));
        var text = System.Text.Encoding.ASCII.GetString(bytes);
        Assert.Contains("; plan: temperature tower, Brackenfell Heath on Dunnock 180, nozzle 0.4 standard", text);
        Assert.Contains("M104 S215 ; section 2 from layer", text);
        // The table gains times, and the sheet has them too.
        Assert.StartsWith("0:00:00", v.Page.QuerySelector(".print-stage tbody tr")!.TextContent.Trim());
        Assert.Matches(@"\d h|\d+ min", v.Text("#plan"));
        await v.Go(run + "/sheet");
        Assert.Contains(hash[..12], v.Text(".sheet-head"));
        Assert.Contains("What the display should show", v.Text("h2"));
        // Range requests and an unknown file.
        var part = new HttpRequestMessage(HttpMethod.Get, link);
        part.Headers.Range = new(0, 9);
        Assert.Equal("; Glenfros", await (await v.Client.SendAsync(part)).Content.ReadAsStringAsync());
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"{run}/files/{Guid.NewGuid()}")).StatusCode);
    }

    [Fact]
    public async Task Planning_again_brings_a_new_file_and_keeps_the_old_one()
    {
        var run = await Plan(await PairingOf("Heath", "Dunnock 180"), ("hottestC", "220"), ("coolestC", "210"));
        var id = Guid.Parse(run[6..]);
        await v.Go((v.Page.QuerySelector("#plan a") as AngleSharp.Html.Dom.IHtmlAnchorElement)!.PathName + $"?run={id}");
        await v.Submit("#plan", ("coolestC", "205"));
        var files = await site.WithDb(db => db.RunFiles.AsNoTracking().Where(f => f.RunId == id).OrderBy(f => f.CreatedAt).ToListAsync());
        Assert.Equal(2, files.Count);
        Assert.EndsWith(files[1].Id.ToString(), v.Page.QuerySelector(".files a")!.GetAttribute("href"));
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync($"{run}/files/{files[0].Id}")).StatusCode);
    }

    [Fact]
    public async Task A_file_above_the_limit_of_parts_fitted_since_is_not_handed_out_until_it_was_printed()
    {
        var p = await PairingOf("Plain", "Whimbrel 300");
        var run = await Plan(p, ("hottestC", "230"), ("coolestC", "220"));
        var link = await FileOf(run);
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync(link)).StatusCode);
        await site.WithDb(db => db.Toolheads.Where(t => t.Id == p.ToolheadId).ExecuteUpdateAsync(s => s.SetProperty(t => t.NozzleMaxC, 225)));
        await v.Go(run);
        Assert.Contains("heats to 230 °C", v.Text(".print-stage .warn"));
        Assert.Empty(v.Page.QuerySelectorAll(".files a"));
        Assert.Equal(HttpStatusCode.Conflict, (await v.Client.GetAsync(link)).StatusCode);
        await v.Submit("form[action$='Printed']");
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync(link)).StatusCode);
        await site.WithDb(db => db.Toolheads.Where(t => t.Id == p.ToolheadId).ExecuteUpdateAsync(s => s.SetProperty(t => t.NozzleMaxC, (double?)null)));
    }

    [Theory]
    [InlineData("reedGapMm", "0.3", "run into one")]
    [InlineData("bridgeSpanMm", "8", "no room for two reeds")]
    [InlineData("slabAngleDeg", "85", "between 20 and 70")]
    [InlineData("textHeightMm", "30", "can't be told")]
    [InlineData("layerHeightMm", "0.36", "at most 0.32 mm")]
    [InlineData("pieceDepthMm", "0", "between 4 and 80")]
    [InlineData("walls", "9", "between 1 and 6")]
    [InlineData("stepC", "1", "than the printer has|the printer has 180 mm")]
    public async Task What_can_not_be_printed_is_said_at_its_field_and_nothing_typed_is_lost(string field, string value, string says)
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", (field, value));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(says.Split('|')[^1], v.Page.QuerySelectorAll(".err").Select(e => e.TextContent).First(t => t.Trim().Length > 0));
        Assert.Equal(value, v.Value(field));
        Assert.Empty(v.Page.QuerySelectorAll("#layer-view"));
    }

    [Fact]
    public async Task An_offer_beside_a_refused_gap_mends_it()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Press("#plan", "?handler=Preview", ("reedGapMm", "0.3"));
        var offer = v.Page.QuerySelector("#err-reedGapMm button")!.GetAttribute("value")!;
        await v.Press("#plan", "?handler=Offer", ("offer", offer));
        Assert.Equal("2", v.Value("reedGapMm"));
        Assert.NotEmpty(v.Page.QuerySelectorAll("#layer-view svg"));
    }

    [Fact]
    public async Task The_preview_shows_any_layer_with_its_lines_told_apart()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        Assert.Contains("bridge", v.Text(".path-key"));
        Assert.NotEmpty(v.Page.QuerySelectorAll(".layer-view path.span"));
        Assert.NotEmpty(v.Page.QuerySelectorAll(".layer-view path.travel"));
        Assert.Contains("do not score", v.Text("#elevation"));
        await v.Press("#plan", "?handler=Preview", ("layer", "3"));
        Assert.Contains("Layer 3", v.Text("#layer-view"));
        Assert.Contains("base", v.Text("#layer-view"));
        Assert.Empty(v.Page.QuerySelectorAll(".layer-view path.span"));
        // Beyond the last layer is the last one.
        await v.Press("#plan", "?handler=Preview", ("layer", "99999"));
        Assert.Contains("section 9", v.Text("#layer-view"));
        Assert.Contains("top fill", v.Text(".path-key"));
    }

    [Fact]
    public async Task Separate_pieces_are_counted_where_they_ended()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        var run = await Plan(p, ("hottestC", "220"), ("coolestC", "210"), ("arrangement", "separate"));
        Assert.Contains("Pieces that stand whole", v.Text("#print ~ .stage-body"));
        await v.Submit("form[action$='Printed']", ("outcome", "ended early"), ("endedAtLayer", "3"));
        Assert.Contains("fewer stand whole", v.Text("#err-endedAtLayer"));
        await v.Submit("form[action$='Printed']", ("outcome", "ended early"), ("endedAtLayer", "2"));
        Assert.Contains("ended after piece 2", v.Text("#print"));
        var lost = v.Page.QuerySelectorAll("tr.lost").Select(r => r.GetAttribute("data-section")).ToList();
        Assert.Equal(["2"], lost);
        await v.Go(run + "/sheet");
        // Each piece is labelled by what it differs by.
        Assert.Equal(["1 · 220 °C", "2 · 215 °C", "3 · 210 °C"], v.Page.QuerySelectorAll(".plate-view text").Select(t => t.TextContent.Trim()));
        // What the display shows, and the boxes for what is read.
        Assert.Equal([3, 3], v.Page.QuerySelectorAll(".sheet-body tbody").Select(b => b.QuerySelectorAll("tr").Length));
        Assert.Contains("piece 3 of 3", await (await v.Client.GetAsync((await FileOf(run)))).Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Small_pieces_on_a_plate_are_labelled_by_their_value_on_the_map_and_on_the_sheet()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/retraction-sweep?mode=plate");
        await v.Submit("#plan", ("from", "0.4"), ("to", "1.2"), ("step", "0.4"));
        v.Planned();
        await v.Go(v.Path.Split('#')[0] + "/sheet");
        Assert.Equal(["1 · 0.4 mm", "2 · 0.8 mm", "3 · 1.2 mm"], v.Page.QuerySelectorAll(".plate-view text").Select(t => t.TextContent.Trim()));
    }

    [Fact]
    public async Task Pieces_of_one_value_have_one_colour_and_the_help_speaks_of_what_is_swept()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/retraction-sweep?mode=plate");
        Assert.Contains("On a long tube: usually", v.Text("#help-to"));
        await v.Submit("#plan", ("from", "0.4"), ("to", "0.8"), ("step", "0.4"), ("repeats", "2"), ("rows", "1"));
        v.Planned();
        await v.Go(v.Path.Split('#')[0] + "/sheet");
        var colours = v.Page.QuerySelectorAll(".plate-view .edge.hair").Select(r => r.GetAttribute("fill")).ToList();
        var labels = v.Page.QuerySelectorAll(".plate-view text").Select(t => t.TextContent.Split('·')[1].Split(',')[0].Trim()).ToList();
        Assert.Equal(4, colours.Count);
        Assert.Equal(2, colours.Zip(labels).Distinct().Count());
        Assert.Equal(Svg.Ramp(0), colours[labels.IndexOf("0.4 mm")]);
        Assert.Equal(Svg.Ramp(1), colours[labels.IndexOf("0.8 mm")]);
        await v.Go($"/pairings/{p.Id}/retraction-sweep?mode=plate&factor=fan");
        Assert.Equal("Usually 0 to 100 % here.", v.Text("#help-to"));
    }

    private async Task<string> FileOf(string run)
    {
        var id = Guid.Parse(run[6..]);
        return $"{run}/files/{(await site.WithDb(db => db.RunFiles.FirstAsync(f => f.RunId == id))).Id}";
    }

    [Fact]
    public async Task Start_code_with_an_unknown_placeholder_is_refused_on_the_printer_and_told_in_the_plan()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        var printer = p.Toolhead!.PrinterId;
        await v.Go($"/printers/{printer}/edit");
        await v.Submit("form.sheet", ("startCode", "G28\nM109 S{nozzle_temp}"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("{nozzleTemperatureC}", v.Text("#err-startCode"));
        // One that was stored by an earlier version stops the plan, and says where to mend it.
        await site.WithDb(db => db.Printers.Where(x => x.Id == printer).ExecuteUpdateAsync(s => s.SetProperty(x => x.StartCode, "M109 S{oldName}")));
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        Assert.Contains("{oldName} is not a placeholder", v.Text("#err-startCode"));
        Assert.Equal($"/printers/{printer}/edit", v.Page.QuerySelector("#err-startCode a")!.GetAttribute("href"));
        await v.Submit("#plan");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Go($"/printers/{printer}/edit");
        await v.Submit(
            "form.sheet", ("startCode", "G28\nM109 S{nozzleTemperatureC}"), ("origin", "middle"), ("feedMode", "absolute"), ("clearanceMm", "35"),
            ("gantryHeightMm", "40"));
        Assert.StartsWith($"/printers/{printer}", v.Path);
        var run = await Plan(p, ("hottestC", "240"), ("coolestC", "230"));
        var text = await (await v.Client.GetAsync(await FileOf(run))).Content.ReadAsStringAsync();
        Assert.Contains("\nM82\n", text);
        Assert.Contains("G0 X-140 Y-145 F", text);
        Assert.DoesNotContain("{", text);
        await site.WithDb(db =>
            db.Printers.Where(x => x.Id == printer).ExecuteUpdateAsync(s => s.SetProperty(x => x.OriginInMiddle, false).SetProperty(x => x.AbsoluteE, false)));
    }

    [Fact]
    public async Task The_piece_is_handed_out_as_stl_and_3mf()
    {
        var run = await Plan(await PairingOf("Heath", "Dunnock 180"), ("hottestC", "220"), ("coolestC", "215"));
        var stl = await v.Client.GetAsync(run + "/piece.stl");
        var bytes = await stl.Content.ReadAsByteArrayAsync();
        Assert.Equal("model/stl", stl.Content.Headers.ContentType!.MediaType);
        Assert.Equal(84 + 50 * BitConverter.ToInt32(bytes, 80), bytes.Length);
        using var zip = new ZipArchive(new MemoryStream(await v.Client.GetByteArrayAsync(run + "/piece.3mf")));
        Assert.Equal(["[Content_Types].xml", "_rels/.rels", "3D/3dmodel.model"], zip.Entries.Select(e => e.FullName));
        var model = System.Xml.Linq.XDocument.Load(zip.GetEntry("3D/3dmodel.model")!.Open());
        Assert.Equal("millimeter", model.Root!.Attribute("unit")!.Value);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync(run + "/piece.obj")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/runs/{Guid.NewGuid()}/piece.stl")).StatusCode);
    }

    [Fact]
    public async Task A_run_planned_before_files_were_written_makes_its_file()
    {
        var run = await Plan(await PairingOf("Heath", "Dunnock 180"), ("hottestC", "220"), ("coolestC", "210"));
        var id = Guid.Parse(run[6..]);
        await site.WithDb(db => db.RunFiles.Where(f => f.RunId == id).ExecuteDeleteAsync());
        await v.Go(run);
        await v.Submit("form[action$='MakeFile']");
        Assert.Contains("The file is ready", v.Text(".told"));
        Assert.NotEmpty(v.Page.QuerySelectorAll(".files a"));
    }

    [Fact]
    public async Task The_quick_check_comes_as_file_and_refuses_what_does_not_fit()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/quick-check");
        Assert.Matches(@"\d+ min", v.Text("#preview"));
        await v.Submit("#plan");
        var file = await v.Client.GetAsync(v.Page.QuerySelector(".files a")!.GetAttribute("href"));
        Assert.Contains("; piece: Quick check", await file.Content.ReadAsStringAsync());
        foreach (var (field, value, says) in new[]
            {
                ("nozzleTemperatureC", "245", "above this machine's limit"), ("postGapMm", "2", "between 4 and 60"), ("wallMm", "200", "between 15 and 120"),
                ("layerHeightMm", "0.5", "at most 0.32 mm"), ("heightMm", "tall", "is not a number"),
            })
        {
            await v.Go($"/pairings/{p.Id}/quick-check");
            await v.Submit("#plan", (field, value));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
            Assert.Contains(says, v.Text($"#err-{field}"));
            Assert.Equal(value, v.Value(field));
        }

        var spool = await site.WithDb(db => db.Spools.AsNoTracking().FirstAsync(s => s.FilamentId == p.FilamentId && s.RemovedAt == null));
        await v.Go($"/spools/{spool.Id}");
        Assert.NotEmpty(v.Page.QuerySelectorAll($"a[href='/pairings/{p.Id}/quick-check']"));
    }

    private static object Body(object? machine = null, string? start = null, decimal hot = 220, int walls = 2) => new
    {
        hottestC = hot,
        coolestC = 210,
        stepC = 5,
        sectionHeightMm = 6,
        baseHeightMm = 0.8,
        layerHeightMm = 0.2,
        firstLayerHeightMm = 0.2,
        machine = machine ?? new { name = "Bench", dialect = "m572", bedXMm = 200, bedYMm = 200, heightMm = 200, nozzleMaxC = 260, startCode = start },
        settings = new Dictionary<string, double> { ["retractionLengthMm"] = 1.2, ["pressureAdvance"] = 0.05 },
        family = "PETG",
        print = new { walls },
    };

    [Fact]
    public async Task The_file_is_written_over_the_api()
    {
        var reply = await v.Client.PostAsJsonAsync("/api/v1/trials/temperature-tower/gcode", Body());
        Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
        var text = await reply.Content.ReadAsStringAsync();
        Assert.Contains("M572 S0.05", text);
        Assert.Contains("G1 E-1.2 F", text);
        async Task<JsonElement> Errors(object body)
        {
            var bad = await v.Client.PostAsJsonAsync("/api/v1/trials/temperature-tower/gcode", body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, bad.StatusCode);
            return (await bad.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors");
        }

        Assert.Contains("limit of 260", (await Errors(Body(hot: 270))).GetProperty("hottestC")[0].GetString());
        Assert.Contains("{bed} is not a placeholder", (await Errors(Body(start: "M190 S{bed}"))).GetProperty("startCode")[0].GetString());
        Assert.Contains("is missing", (
                await Errors(Body(new { name = "x", bedYMm = 200, heightMm = 200, nozzleMaxC = 260 }))).GetProperty("machine.bedXMm")[0].GetString());
        Assert.Contains("between 1 and 6", (await Errors(Body(walls: 12))).GetProperty("print.walls")[0].GetString());
    }
}
