using Microsoft.AspNetCore.Hosting;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Glenfrost.Samples;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Gcode;
using Glenfrost.Web.Gcode;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>The G-code room: files come in, are looked at, stepped and mended; the API and the command line do the same.</summary>
public class GcodeRoomTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private async Task<string> Drop(byte[] bytes, string name = "ring.gcode", Guid? pairing = null)
    {
        await v.Go("/gcode");
        var ticket = v.Value("__RequestVerificationToken");
        var form = new MultipartFormDataContent
        {
            { new StringContent(ticket), "__RequestVerificationToken" }, { new StringContent(pairing?.ToString() ?? ""), "pairing" },
            { new ByteArrayContent(bytes), "file", name },
        };
        await v.Take(await v.Client.PostAsync("/gcode/files", form));
        return v.Path;
    }

    [Fact]
    public async Task A_file_is_erased_for_good_and_what_was_made_from_it_stays()
    {
        var text = new System.Text.StringBuilder("; erase me\nM140 S60\nM104 S210\nM109 S210\nG28\nM83\n");
        for (var layer = 1; layer <= 20; layer++)
            text.Append(FormattableString.Invariant($"G0 Z{layer * 0.2:0.0} F600\nG1 X40 E1.5 F1800\nG1 Y40 E1.5\nG1 X0 E1.5\nG1 Y0 E1.5\n"));
        var page = await Drop(System.Text.Encoding.ASCII.GetBytes(text.ToString()), "erase.gcode");
        var id = Guid.Parse(page[7..43]);
        var row = await site.WithDb(db => db.GcodeFiles.AsNoTracking().FirstAsync(f => f.Id == id));
        var file = Path.Combine(site.Folder, "files", row.Sha256[..2], row.Sha256);
        Assert.True(File.Exists(file));
        await v.Submit("form[action*='Erase']");
        Assert.Equal("/gcode", v.Path);
        Assert.Contains("erase.gcode is erased from this disk", v.Text(".told"));
        Assert.False(File.Exists(file));
        await v.Go(page);
        Assert.Equal(HttpStatusCode.NotFound, v.Last.StatusCode);
        await v.Go("/log");
        Assert.Contains("erase.gcode was erased for good", v.Text("main"));
    }

    private Task<Guid> Dunnock() =>
        site.WithDb(db => db.Pairings.Where(p => p.Toolhead!.Printer!.Name.StartsWith("Dunnock")).OrderBy(p => p.Id).Select(p => p.Id).FirstAsync());

    [Fact]
    public async Task A_dropped_file_says_what_it_is_and_what_is_odd()
    {
        var path = await Drop(new SlicedFile { ExtraStart = "M221 S95" }.ToBytes(), pairing: await Dunnock());
        Assert.StartsWith("/gcode/", path, StringComparison.Ordinal);
        var text = v.Text("body");
        Assert.Contains("20 layers; 30 × 30 × 4 mm", text, StringComparison.Ordinal);
        Assert.Contains("95 % flow override stands in the start code", v.Text("#odd"), StringComparison.Ordinal);
        Assert.Contains("flow limit", v.Text(".for-pairing"), StringComparison.Ordinal);
        Assert.NotNull(v.Page.QuerySelector("#bar[role=slider] svg path.mean"));
        // One click mends it; the file that came stays.
        await v.Submit("#odd form");
        Assert.Contains("Drop the flow override of 95 %", v.Text("body"), StringComparison.Ordinal);
        Assert.Contains("; glenfrost off: M221 S95", v.Text(".difft"), StringComparison.Ordinal);
        Assert.DoesNotContain("flow override stands", v.Text("#odd"), StringComparison.Ordinal);
        await v.Go(path);
        Assert.Contains("flow override stands", v.Text("#odd"), StringComparison.Ordinal);
        Assert.Contains("Made from this file", v.Text("body"), StringComparison.Ordinal);
        Assert.Contains("ring.gcode", (await v.Go("/log?kind=gcode")).Body!.TextContent, StringComparison.Ordinal);
        Assert.Equal("gcode", v.Page.QuerySelectorAll("#kind option").Single(o => o.HasAttribute("selected")).TextContent);
        // And it is found by its name.
        Assert.Contains("gauge-ring.gcode", (await v.Go("/find?handler=List&q=gauge-ring")).Body!.TextContent, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_file_is_stepped_read_back_and_handed_out()
    {
        var file = new SlicedFile { Layers = 90, Fill = false, Notch = n => n <= 6 ? 1.2 : (n - 7) % 12 < 3 ? 0.85 : 1, Title = "temperature tower" };
        var path = await Drop(file.ToBytes(), "tower.gcode");
        // Base and sections are read off the model.
        Assert.Equal(("1.2", "2.4"), (v.Value("base"), v.Value("section")));
        Assert.Contains("never changes", v.Text("#odd"), StringComparison.Ordinal);
        await v.Press("#step-form", "?handler=Sections", ("from", "230"), ("to", "210"), ("by", "5"), ("section", "2.5"));
        Assert.Contains("12.5 layers", v.Text("#sections"), StringComparison.Ordinal);
        await v.Go(path);
        await v.Press("#step-form", "?handler=Step", ("from", "230"), ("to", "200"), ("by", "5"));
        Assert.Contains("It does what was planned", v.Text(".proof"), StringComparison.Ordinal);
        Assert.Equal(7, v.Page.QuerySelectorAll(".proof tbody tr").Length);
        Assert.EndsWith("tower-temperature-230-200.gcode", v.Text("h1"), StringComparison.Ordinal);
        var stepped = await v.Client.GetStringAsync(v.Path + "/file");
        Assert.Contains("M104 S215 ; glenfrost step temperature 215, section 4 of 7, from z 8.4", stepped, StringComparison.Ordinal);
        Assert.Equal(
            Encoding.UTF8.GetString(file.ToBytes()), string.Join('\n', stepped.Split('\n').Where(l => !l.Contains("glenfrost", StringComparison.Ordinal))));
        // Stepping it once more is asked about, at its field, with everything kept.
        var again = v.Path;
        await v.Press("#step-form", "?handler=Step", ("what", "fan"), ("from", "0"), ("to", "60"), ("by", "10"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("stepped here before", v.Text("body"), StringComparison.Ordinal);
        Assert.Equal("60", v.Value("to"));
        await v.Press("#step-form", "?handler=Step", ("again", "1"));
        Assert.Contains("It does what was planned", v.Text(".proof"), StringComparison.Ordinal);
        Assert.NotEqual(again, v.Path);
    }

    [Fact]
    public async Task Wrong_input_is_said_at_its_field_and_kept()
    {
        var path = await Drop(new SlicedFile().ToBytes(), pairing: await Dunnock());
        foreach (var (field, typed, says) in new[]
            {
                ("from", "400", "above the limit of Dunnock 180"), ("by", "0", "above 0"), ("section", "9", "would hold"), ("by", "seven", "number"),
                ("base", "2000000", "5000"), ("what", "wings", "Choose what"),
            })
        {
            await v.Go(path);
            await v.Press("#step-form", "?handler=Step", ("from", "220"), ("to", "200"), ("by", "10"), ("section", "1"), (field, typed));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
            Assert.Contains(says, v.Text("body"), StringComparison.Ordinal);
            if (field != "what")
                Assert.Equal(typed, v.Value(field));
        }

        await v.Go(path);
        await v.Submit("#layer-time", ("minimumS", "-4"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Go(path);
        await v.Submit("#trim", ("nozzleBy", "90"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("90", v.Value("nozzleBy"));
        await v.Go(path);
        await v.Submit("#trim", ("flowPercent", "97"), ("nozzleBy", "5"), ("firstLayerStays", "yes"));
        Assert.Contains("Trimmed as a whole: nozzle +5 °C, flow 97 %", v.Text("body"), StringComparison.Ordinal);
        Assert.Contains("Read back: layers", v.Text("body"), StringComparison.Ordinal);
        await v.Go(path);
        await v.Submit("form:has([value='cool-down'])", ("toC", "12"));
        Assert.Contains("may never be reached", v.Text("body"), StringComparison.Ordinal);
        Assert.Equal("12", v.Value("toC"));
        // An offer fits.
        await v.Go(path);
        await v.Press("#step-form", "?handler=Step", ("from", "220"), ("to", "200"), ("by", "10"), ("section", "9"));
        await v.Press("#step-form", "?handler=Offer", ("offer", v.Page.QuerySelector("#sections .offer, .offers .offer")!.GetAttribute("value")!));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Equal("1.3", v.Value("section"));
    }

    [Theory]
    [InlineData("empty", "is empty")]
    [InlineData("zip", "is a zip")]
    [InlineData("binary", "is not text")]
    [InlineData("model", "is a model")]
    public async Task What_is_no_gcode_is_said_and_nothing_is_kept(string kind, string says)
    {
        byte[] bytes = kind switch
        {
            "empty" => [],
            "zip" => [(byte)'P', (byte)'K', 3, 4, 0, 0, 9],
            "binary" => [.. Enumerable.Range(0, 9000).Select(i => (byte)(i * 7))],
            _ => Encoding.ASCII.GetBytes("solid clip\nfacet normal 0 0 1\n"),
        };
        var before = await site.WithDb(db => db.GcodeFiles.CountAsync());
        Assert.Equal("/gcode", await Drop(bytes, "odd.gcode"));
        Assert.Contains(says, v.Text(".notice"), StringComparison.Ordinal);
        Assert.Equal(before, await site.WithDb(db => db.GcodeFiles.CountAsync()));
        using var api = new ByteArrayContent(bytes);
        var reply = await v.Client.PostAsync("/api/v1/gcode/inspect", api);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.DoesNotContain("Exception", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Text_that_prints_nothing_is_shown_as_that()
    {
        await Drop(Encoding.UTF8.GetBytes("just a letter to a friend\nabout the weather\n"), "../../evil.gcode");
        Assert.Contains("Nothing is extruded in this file", v.Text("body"), StringComparison.Ordinal);
        Assert.DoesNotContain("..", v.Text("h1"), StringComparison.Ordinal);
        foreach (var part in new[] { "/facts.json", "/layers.csv", "/file" })
            Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync(v.Path + part)).StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await v.Client.GetAsync(v.Path + "/moves?from=0&to=0")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/gcode/{Guid.NewGuid()}")).StatusCode);
    }

    [Fact]
    public async Task A_file_that_would_leave_its_printers_limits_is_handed_out_only_to_who_says_to_know_it()
    {
        var bytes = new SlicedFile { NozzleC = 299 }.ToBytes();
        var path = await Drop(bytes, "hot.gcode");
        // Looked at for no printer there is no limit to leave.
        Assert.Equal(bytes, await v.Client.GetByteArrayAsync(path + "/file"));
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"));
        await v.Go(path);
        await v.Press(".for-pairing", "?handler=Pairing", ("pairing", pairing.Id.ToString()));
        var held = await v.Client.GetAsync(path + "/file");
        Assert.Equal(HttpStatusCode.Conflict, held.StatusCode);
        Assert.Contains("299", await held.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        // A browser is led to the page that says why, and to the button that hands it out all the same.
        using var asked = new HttpRequestMessage(HttpMethod.Get, path + "/file");
        asked.Headers.Add("Accept", "text/html,application/xhtml+xml");
        var led = await v.Client.SendAsync(asked);
        await v.Go($"{path}?held=1");
        Assert.Contains("would leave the limits", v.Text("#held"), StringComparison.Ordinal);
        Assert.True(led.StatusCode is HttpStatusCode.Redirect or HttpStatusCode.OK);
        var link = v.Page.QuerySelector("#held a")!.GetAttribute("href")!;
        Assert.Equal(bytes, await v.Client.GetByteArrayAsync(link));
        await v.Go(path);
        Assert.Null(v.Page.QuerySelector("#held"));
        // One that keeps them goes as before.
        var cool = await Drop(new SlicedFile().ToBytes(), "cool.gcode");
        await v.Press(".for-pairing", "?handler=Pairing", ("pairing", pairing.Id.ToString()));
        Assert.Equal(HttpStatusCode.OK, (await v.Client.GetAsync(cool + "/file")).StatusCode);
    }

    [Fact]
    public async Task A_file_removed_comes_back()
    {
        var path = await Drop(new SlicedFile { Layers = 3 }.ToBytes(), "short-lived.gcode");
        await v.Go("/gcode");
        await v.Submit($"tr:has(a[href='{path}']) form");
        Assert.DoesNotContain($"href=\"{path}\"", v.Page.QuerySelector("main table")?.OuterHtml ?? "", StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync(path)).StatusCode);
        await v.Go("/gcode");
        await v.Go("/log?kind=gcode");
        await v.Submit("form:has([value^='gcode:'])");
        Assert.Equal(path, v.Path);
    }

    [Fact]
    public async Task Moves_and_facts_for_the_view_agree_with_each_other()
    {
        var path = await Drop(new SlicedFile { Layers = 6, Objects = 2 }.ToBytes(), pairing: await Dunnock());
        using var facts = JsonDocument.Parse(await v.Client.GetStringAsync(path + "/facts.json"));
        var layers = facts.RootElement.GetProperty("layers");
        Assert.Equal(13, layers.GetArrayLength());
        Assert.Equal(
            (0, 1, 6), (layers[0].GetProperty("number").GetInt32(), layers[1].GetProperty("number").GetInt32(), layers[6].GetProperty("number").GetInt32()));
        var bytes = await v.Client.GetByteArrayAsync(path + "/moves?from=1&to=2");
        var count = BitConverter.ToInt32(bytes, 0);
        Assert.Equal(16 + count * 48, bytes.Length);
        Assert.True(count > 200);
        var csv = await v.Client.GetStringAsync(path + "/layers.csv");
        Assert.Equal(14, csv.TrimEnd().Split('\n').Length);
    }

    [Fact]
    public async Task The_api_inspects_a_body_and_a_form_alike()
    {
        var bytes = new SlicedFile { Layers = 10 }.ToBytes();
        async Task<JsonElement> Ask(HttpContent content, string query = "")
        {
            var reply = await v.Client.PostAsync("/api/v1/gcode/inspect" + query, content);
            Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
            return JsonDocument.Parse(await reply.Content.ReadAsStringAsync()).RootElement;
        }

        var raw = await Ask(new ByteArrayContent(bytes) { Headers = { ContentType = new("text/x.gcode") } }, "?flowLimitMm3PerS=4&densityGPerCm3=1.27");
        var form = await Ask(new MultipartFormDataContent { { new ByteArrayContent(bytes), "file", "ring.gcode" } });
        Assert.Equal(raw.GetProperty("seconds").GetDouble(), form.GetProperty("seconds").GetDouble());
        Assert.Equal(11, raw.GetProperty("layers").GetArrayLength());
        Assert.True(raw.GetProperty("massG").GetDouble() > form.GetProperty("massG").GetDouble());
        Assert.Equal("flow-above-limit", raw.GetProperty("odd")[0].GetProperty("key").GetString());
        Assert.Equal("asked", (await Ask(new ByteArrayContent(bytes), "?time=false")).GetProperty("timeFrom").GetString());
        var wrong = await v.Client.PostAsync("/api/v1/gcode/inspect?accelerationMmPerS2=fast&densityGPerCm3=-1", new ByteArrayContent(bytes));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        Assert.Contains("densityGPerCm3", await wrong.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        var json = await v.Client.PostAsync("/api/v1/gcode/inspect", new StringContent("{}", Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, json.StatusCode);
        Assert.Contains("/api/v1/gcode/step", await v.Client.GetStringAsync("/openapi/v1.json"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_api_steps_a_file_and_proves_it()
    {
        var bytes = new SlicedFile { Layers = 40 }.ToBytes();
        Task<HttpResponseMessage> Ask(string plan, string query = "", bool withFile = true)
        {
            var form = new MultipartFormDataContent { { new StringContent(plan), "plan" } };
            if (withFile)
                form.Add(new ByteArrayContent(bytes), "file", "ring.gcode");
            return v.Client.PostAsync("/api/v1/gcode/step" + query, form);
        }

        const string Plan = """{"what":"flow","from":95,"to":105,"by":5,"baseMm":1,"sectionMm":2}""";
        var reply = await Ask(Plan);
        Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
        Assert.Contains("; glenfrost step flow 105, section 3 of 3", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        using var proof = JsonDocument.Parse(reply.Headers.GetValues("Glenfrost-Proof").Single());
        Assert.True(proof.RootElement.GetProperty("holds").GetBoolean());
        Assert.Equal(
            3,
            JsonDocument.Parse(await (await Ask(Plan, "?proof=only")).Content.ReadAsStringAsync()).RootElement.GetProperty("sections").GetArrayLength()
        );
        foreach (
            var (plan, says) in new[]
            {
                ("{", "not a JSON object"),
                ("[]", "not a JSON object"),
                ("""{"what":"wings","from":1,"to":2,"by":1}""", "not one of"),
                ("""{"what":"flow","from":95,"to":106,"by":5,"sectionMm":2}""", "whole number of steps"),
                ("""{"what":"flow","from":95,"to":105,"by":5,"sectionMm":20}""", "would hold"),
            }
        )
        {
            var refused = await Ask(plan);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
            Assert.Contains(says, await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }

        Assert.Contains("file is missing", await (await Ask(Plan, withFile: false)).Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await v.Client.PostAsync("/api/v1/gcode/step", new StringContent("x"))).StatusCode);
        Assert.Empty(Directory.EnumerateFiles(Path.Combine(site.Folder, "incoming")));
    }

    [Fact]
    public async Task Another_pairing_brings_other_limits()
    {
        var path = await Drop(new SlicedFile { NozzleC = 252, FillSpeed = 140 }.ToBytes(), "hot.gcode");
        Assert.DoesNotContain("above the nozzle's limit", v.Text("#odd"), StringComparison.Ordinal);
        var free = v.Text(".gsum b");
        await v.Submit(".for-pairing", ("pairing", (await Dunnock()).ToString()));
        Assert.Equal(path, v.Path);
        Assert.Contains("252 °C is above the nozzle's limit", v.Text("#odd"), StringComparison.Ordinal);
        Assert.Contains("faster than", v.Text("#odd"), StringComparison.Ordinal);
        Assert.NotNull(v.Page.QuerySelector("#bar line.limit"));
        Assert.NotEqual(free, v.Text(".gsum b"));
        Assert.NotEmpty(v.Page.QuerySelectorAll(".layers tr.above"));
        // The hot line is corrected where it stands, within the limit.
        await v.Submit("#odd form.inrow", ("temperatureC", "251"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("would be right on Dunnock 180", v.Text("#odd .err"), StringComparison.Ordinal);
        await v.Submit("#odd form.inrow", ("temperatureC", "215"));
        Assert.Contains("Set 215 °C instead of 252 °C", v.Text("body"), StringComparison.Ordinal);
        await v.Go(path);
        await v.Submit(".for-pairing", ("pairing", ""));
        Assert.DoesNotContain("above the nozzle's limit", v.Text("#odd"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_minimum_and_a_cool_down_are_written_with_their_difference()
    {
        var path = await Drop(new SlicedFile { Fill = false, Slow = n => n > 14 ? 0.5 : 1, Sides = 90 }.ToBytes(), "slow.gcode", await Dunnock());
        Assert.Contains("6 layers are slowed", v.Text("#layer-time"), StringComparison.Ordinal);
        await v.Submit("#layer-time", ("minimumS", "12"));
        Assert.Contains("Minimum layer time of 12 s", v.Text(".lead-text"), StringComparison.Ordinal);
        Assert.Matches(@"\d+ moves rewritten, 0 other", v.Text(".diff summary"));
        await v.Go(path);
        await v.Submit("form:has([value='cool-down'])", ("toC", "38"), ("stepC", "6"), ("holdMinutes", "2"));
        Assert.Contains("from 60 to 38 °C in 4 steps, at least 8 min", v.Text(".lead-text"), StringComparison.Ordinal);
        Assert.Contains("1 switched off", v.Text(".diff summary"), StringComparison.Ordinal);
        var text = await v.Client.GetStringAsync(v.Path + "/file");
        Assert.Contains("M140 S54.5 ; glenfrost cool-down: 54.5 C for 2 min", text, StringComparison.Ordinal);
        Assert.Equal(16, text.Split("G4 S30").Length - 1);
        Assert.Contains("What the end of this file sets the bed to", v.Text(".cooling"), StringComparison.Ordinal);
        // The same again would be a second one.
        await v.Submit("form:has([value='cool-down'])", ("toC", "38"));
        Assert.Contains("has a cool-down already", v.Text(".notice"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Slowed_layers_waits_and_a_ramp_by_hand_are_told_on_the_page_and_in_the_api()
    {
        var bytes = new SlicedFile
        {
            Fill = false, Sides = 90, Layers = 30, Notch = n => 1 + 0.3 * Math.Sin(n / 5.0), LeastLayerTime = 9, ExtraStart = "; least layer time: 9 s",
            EndCode = "M140 S50\nG4 P30\nM140 S42\nG4 S600\nM140 S0",
        }.ToBytes();
        using var content = new ByteArrayContent(bytes);
        var answer = await v.Client.PostAsync("/api/v1/gcode/inspect", new MultipartFormDataContent { { content, "file", "vase.gcode" } });
        var json = JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement;
        var slow = json.GetProperty("slowDown");
        Assert.Equal((9, 29), (slow.GetProperty("leastLayerTimeS").GetDouble(), slow.GetProperty("layers").GetInt32()));
        Assert.True(slow.GetProperty("statedInFile").GetBoolean());
        Assert.True(slow.GetProperty("costSeconds").GetDouble() > 10);
        var keys = json.GetProperty("odd").EnumerateArray().Select(o => o.GetProperty("key").GetString()).ToList();
        Assert.Contains("dwell-unit", keys);
        Assert.Contains("hand-ramp", keys);
        await Drop(bytes, "vase.gcode", await Dunnock());
        Assert.Contains("29 layers are slowed to the 9 s that the file states; that costs at least", v.Text("#layer-time"), StringComparison.Ordinal);
        Assert.Contains("lines", v.Text("#odd"), StringComparison.Ordinal);
        Assert.Contains("at least 10 min", v.Text(".cooling"), StringComparison.Ordinal);
        await v.Submit("form:has([value='cool-down'])", ("toC", "40"), ("stepC", "10"), ("holdMinutes", "5"));
        Assert.Contains("is switched off as a whole", v.Text(".lead-text"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Two_rewrites_of_one_file_never_share_a_name()
    {
        var path = await Drop(new SlicedFile { Fill = false, Slow = n => n > 14 ? 0.5 : 1, Sides = 60 }.ToBytes(), "twice.gcode", await Dunnock());
        var names = new List<string>();
        foreach (var minimum in new[] { "12", "14", "9" })
        {
            await v.Go(path);
            await v.Submit("#layer-time", ("minimumS", minimum));
            names.Add(v.Text("h1"));
        }

        Assert.Equal(["twice-layer-time.gcode", "twice-layer-time-2.gcode", "twice-layer-time-3.gcode"], names);
    }

    [Fact]
    public async Task Two_send_the_same_file_at_once_and_both_have_it()
    {
        var bytes = new SlicedFile { Layers = 30 }.ToBytes();
        var visitors = Enumerable.Range(0, 4).Select(_ => site.Visit()).ToList();
        var paths = await Task.WhenAll(
            visitors.Select(async x =>
            {
                await x.Go("/gcode");
                var form = new MultipartFormDataContent
                {
                    { new StringContent(x.Value("__RequestVerificationToken")), "__RequestVerificationToken" },
                    { new ByteArrayContent(bytes), "file", "same.gcode" },
                };
                await x.Take(await x.Client.PostAsync("/gcode/files", form));
                return x.Path;
            }));
        Assert.Equal(4, paths.Distinct().Count());
        Assert.All(visitors, x => Assert.True(x.Text(".gsum").Contains("30 layers", StringComparison.Ordinal), $"{x.Last.StatusCode} {x.Path}: " +
            $"{x.Text("main")}"));
        Assert.Single(await site.WithDb(db => db.GcodeFiles.Where(f => f.Name == "same.gcode").Select(f => f.Sha256).Distinct().ToListAsync()));
        // And four step them at once.
        await Task.WhenAll(visitors.Select(x => x.Press("#step-form", "?handler=Step", ("from", "220"), ("to", "200"), ("by", "10"), ("section", "2"))));
        Assert.All(visitors, x => Assert.Contains("It does what was planned", x.Text(".proof"), StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_file_whose_content_is_gone_says_so()
    {
        var path = await Drop(new SlicedFile { Layers = 3, Title = "soon gone" }.ToBytes(), "gone.gcode");
        var hash = await site.WithDb(db => db.GcodeFiles.Where(f => f.Name == "gone.gcode").Select(f => f.Sha256).FirstAsync());
        File.Delete(Path.Combine(site.Folder, "files", hash[..2], hash));
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync(path + "/file")).StatusCode);
        // What is remembered is shown still; looked at for another pairing it is missed, in words.
        await v.Go(path);
        await v.Submit(".for-pairing", ("pairing", (await Dunnock()).ToString()));
        Assert.Contains("missing from the data folder", v.Text(".notice"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Several_files_come_at_once_and_half_an_upload_leaves_nothing()
    {
        await v.Go("/gcode");
        var form = new MultipartFormDataContent { { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" } };
        foreach (var name in new[] { "first of two.gcode", "second of two.gcode" })
            form.Add(new ByteArrayContent(new SlicedFile { Layers = 3, Title = name }.ToBytes()), "file", name);
        await v.Take(await v.Client.PostAsync("/gcode/files", form));
        Assert.Equal("/gcode", v.Path);
        Assert.Contains("first of two.gcode", v.Text("main table"), StringComparison.Ordinal);
        Assert.Contains("second of two.gcode", v.Text("main table"), StringComparison.Ordinal);
        var before = await site.WithDb(db => db.GcodeFiles.CountAsync());
        var broken = new ByteArrayContent(
            Encoding.ASCII.GetBytes("--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"x.gcode\"\r\n\r\nG28\nG1 X")
        )
        { Headers = { ContentType = MediaTypeHeaderValue.Parse("multipart/form-data; boundary=b") } };
        await v.Take(await v.Client.PostAsync("/gcode/files", broken));
        Assert.Equal(before, await site.WithDb(db => db.GcodeFiles.CountAsync()));
        Assert.Empty(Directory.EnumerateFiles(Path.Combine(site.Folder, "incoming")));
    }

    [Fact]
    public void The_command_line_says_it_with_exit_codes()
    {
        var folder = Directory.CreateTempSubdirectory("glenfrost-cli-").FullName;
        try
        {
            var (ring, hot, outFile) = (Path.Combine(folder, "ring.gcode"), Path.Combine(folder, "cold.gcode"), Path.Combine(folder, "out.gcode"));
            File.WriteAllBytes(ring, new SlicedFile { Layers = 40 }.ToBytes());
            File.WriteAllBytes(hot, new SlicedFile { NozzleC = 90 }.ToBytes());
            (int Code, string Said, string Complained) Run(Func<string[], TextWriter, TextWriter, int> command, params string[] args)
            {
                var (say, complain) = (new StringWriter(), new StringWriter());
                return (command(args, say, complain), say.ToString(), complain.ToString());
            }

            var told = Run(GcodeCommands.Inspect, ring);
            Assert.Equal(0, told.Code);
            Assert.Contains("40 layers", told.Said, StringComparison.Ordinal);
            Assert.Equal(41, JsonDocument.Parse(Run(GcodeCommands.Inspect, ring, "--json").Said).RootElement.GetProperty("layers").GetArrayLength());
            Assert.Equal(1, Run(GcodeCommands.Inspect, hot).Code);
            Assert.Equal(2, Run(GcodeCommands.Inspect).Code);
            Assert.Equal(2, Run(GcodeCommands.Inspect, ring, "--density", "heavy").Code);
            Assert.Equal(3, Run(GcodeCommands.Inspect, Path.Combine(folder, "none")).Code);
            string[] plan = [ring, "--what", "temperature", "--from", "220", "--to", "200", "--by", "10", "--base", "1", "--section", "2"];
            var stepped = Run(GcodeCommands.Step, [.. plan, "-o", outFile]);
            Assert.Equal(0, stepped.Code);
            Assert.Contains("wanted     210  found          210  ok", stepped.Said, StringComparison.Ordinal);
            Assert.Contains("M104 S210 ; glenfrost step", File.ReadAllText(outFile), StringComparison.Ordinal);
            Assert.Equal(3, Run(GcodeCommands.Step, [.. plan, "-o", outFile]).Code);
            Assert.Equal(0, Run(GcodeCommands.Step, [.. plan, "-o", outFile, "--force", "--json"]).Code);
            Assert.Equal(2, Run(GcodeCommands.Step, plan).Code);
            Assert.Equal(2, Run(GcodeCommands.Step, [.. plan, "-o", ring]).Code);
            Assert.Equal(2, Run(GcodeCommands.Step, ring, "--what", "wings", "-o", outFile).Code);
            var high = Run(GcodeCommands.Step, ring, "--what", "fan", "--from", "0", "--to", "100", "--by", "10", "--section", "5", "-o", outFile, "--force");
            Assert.Equal(1, high.Code);
            Assert.Contains("would hold", high.Complained, StringComparison.Ordinal);
            Assert.Equal(3, Directory.GetFiles(folder).Length);
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    [Fact]
    public void The_limit_is_a_number_of_megabytes()
    {
        Assert.Equal(500_000_000, GcodeLimit.Of(null).MostBytes);
        Assert.Equal(2_000_000, GcodeLimit.Of("2").MostBytes);
        Assert.Throws<ArgumentException>(() => GcodeLimit.Of("lots"));
        Assert.Throws<ArgumentException>(() => GcodeLimit.Of("0"));
    }
}

/// <summary>The same with a limit of 1 MB.</summary>
public sealed class SmallApp : TestApp
{
    protected override bool WithDemo => false;

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        base.ConfigureWebHost(builder);
        builder.UseSetting("gcode-mb", "1");
    }
}

public class GcodeLimitTests(SmallApp site) : IClassFixture<SmallApp>
{
    [Fact]
    public async Task What_is_too_large_is_said_before_and_after()
    {
        var v = site.Visit();
        await v.Go("/gcode");
        Assert.Contains("At most 1 MB", v.Text("body"), StringComparison.Ordinal);
        var large = new byte[1_200_000];
        Array.Fill(large, (byte)';');
        var form = new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new ByteArrayContent(large), "file", "large.gcode" },
        };
        await v.Take(await v.Client.PostAsync("/gcode/files", form));
        Assert.Contains("at most 1 MB are taken", v.Text(".notice"), StringComparison.Ordinal);
        Assert.Contains("--gcode-mb", v.Text(".notice"), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, (await v.Client.PostAsync("/api/v1/gcode/inspect", new ByteArrayContent(large))).StatusCode);
        Assert.Equal(
            HttpStatusCode.RequestEntityTooLarge,
            (
                await v.Client.PostAsync(
                    "/api/v1/gcode/inspect", new StreamContent(new MemoryStream(large)) { Headers = { ContentType = new MediaTypeHeaderValue("text/plain") } })
            ).StatusCode);
        Assert.Equal(
            HttpStatusCode.RequestEntityTooLarge,
            (await v.Client.PostAsync("/api/v1/gcode/step", new MultipartFormDataContent { { new ByteArrayContent(large), "file", "large.gcode" } })).StatusCode
        );
        Assert.Equal(0, await site.WithDb(db => db.GcodeFiles.CountAsync()));
    }
}
