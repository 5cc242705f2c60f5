using Glenfrost.Application;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Simulation.Pictures;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What strings, pressure and flow limit bring to the pages beside their own: dryness, photos, practice, guides, a file's cost.</summary>
public class StringsAndFlowTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Pairing> PairingOf(string line, string printer) =>
        site.WithDb(db => db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Filament!.Line == line && p.Toolhead!.Printer!.Name == printer));

    private async Task<Guid> RunOf(string kind, string line, string printer)
    {
        var p = await PairingOf(line, printer);
        return await site.WithDb(db =>
            db.Runs.Where(r => r.PairingId == p.Id && r.Kind == kind && r.RemovedAt == null).OrderBy(r => r.Number).Select(r => r.Id).FirstAsync());
    }

    [Fact]
    public async Task A_photo_of_two_reeds_is_measured_by_two_clicks_and_stands_beside_the_own_score()
    {
        var run = await RunOf(RetractionTrial.Word, "Heath", "Dunnock 180");
        var drawn = ReedPicture.Png(new(10, 4, 5) { TiltDeg = 4, Noise = 4 }, 7);
        await v.Go($"/runs/{run}/photos");
        var form = new MultipartFormDataContent
        {
            { new StringContent(Guid.NewGuid().ToString()), "key" }, { new StringContent("6"), "section" },
            { new ByteArrayContent(drawn.Bytes), "photo", "reeds.png" },
        };
        var request = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}/photos/add") { Content = form };
        request.Headers.Add("X-Ticket", v.Value("__RequestVerificationToken"));
        request.Headers.Accept.Add(new("application/json"));
        Assert.True((await v.Client.SendAsync(request)).IsSuccessStatusCode);
        var photo = await site.WithDb(db =>
            db.Photos.Where(x => x.RunId == run && x.Section == 6).OrderByDescending(x => x.At).Select(x => x.Id).FirstAsync());
        await v.Go($"/runs/{run}/photos?c={photo}");
        string N(double x) => x.ToString("0", System.Globalization.CultureInfo.InvariantCulture);
        // Two points on one reed: refused with what would be right, and what was typed stays.
        await v.Submit("#measure", ("x1", N(drawn.Left.X)), ("y1", N(drawn.Left.Y)), ("x2", N(drawn.Left.X + 4)), ("y2", N(drawn.Left.Y)));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("two different reeds", v.Text("#err-x1"));
        Assert.Equal(N(drawn.Left.X), v.Value("x1"));
        await v.Submit("#measure", ("x1", "5000"), ("y1", "1"), ("x2", "2"), ("y2", "many"));
        Assert.NotEqual("", v.Text("#err-y2"));
        Assert.Equal("many", v.Value("y2"));
        await v.Submit("#measure", ("x1", N(drawn.Left.X)), ("y1", N(drawn.Left.Y)), ("x2", N(drawn.Right.X)), ("y2", N(drawn.Right.Y)));
        Assert.Contains("5 strings", v.Text(".measure-answer"));
        Assert.Contains("confidence", v.Text(".measure-answer"));
        Assert.Contains("By eye", v.Text(".measure-answer"));
        // The same two clicks again are one finding.
        await v.Submit("#measure", ("x1", N(drawn.Left.X)), ("y1", N(drawn.Left.Y)), ("x2", N(drawn.Right.X)), ("y2", N(drawn.Right.Y)));
        Assert.Equal(1, await site.WithDb(db => db.Findings.CountAsync(f => f.PhotoId == photo && f.Tag == "strings by photo")));
    }

    [Fact]
    public async Task A_value_known_good_in_practice_stands_beside_the_test_until_it_is_taken_back()
    {
        var p = await PairingOf("Plain", "Whimbrel 300");
        var run = await RunOf(FlowStepsTrial.Word, "Plain", "Whimbrel 300");
        await v.Go($"/runs/{run}");
        Assert.DoesNotContain("Practice says otherwise", v.Text(".judge-stage"));
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Known']", ("knownValue", "much"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.NotEqual("", v.Text("#err-knownValue"));
        Assert.Equal("much", v.Value("knownValue"));
        await v.Submit(
            "form[action$='Known']", ("knownKey", "maxVolumetricFlowMm3PerS"), ("knownValue", "33"), ("knownC", "205"), ("knownNote", "gauge rings, daily"));
        Assert.Contains("known good", v.Text("#findings"));
        Assert.Contains("33.0 mm³/s", v.Text("#findings").Replace("33 mm³/s", "33.0 mm³/s"));
        await v.Go($"/runs/{run}");
        Assert.Contains("Practice says otherwise: 33 mm³/s at 205 °C", v.Text(".judge-stage"));
        Assert.Contains("gauge rings", v.Text(".judge-stage"));
        // With its day, and a way to where it was noted.
        Assert.Contains("noted", v.Text(".judge-stage"));
        Assert.NotNull(v.Page.QuerySelector($".judge-stage a[href='/pairings/{p.Id}#findings']"));
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("#findings form[action$='RemoveFinding']");
        await v.Go($"/runs/{run}");
        Assert.DoesNotContain("Practice says otherwise", v.Text(".judge-stage"));
        Assert.Null(v.Page.QuerySelector(".judge-stage a[href$='#findings']"));
    }

    [Fact]
    public async Task Foam_says_what_a_litre_of_part_costs_beside_the_same_solid_where_the_reel_has_a_price()
    {
        var run = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Pairing!.Filament)
            .FirstAsync(r => r.Kind == "foaming-flow" && r.World == Worlds.Real && r.RemovedAt == null && r.Readings.Count > 0));
        var filament = run.Pairing!.Filament!;
        async Task<string> Found(long? price)
        {
            await site.WithDb(db => db.Filaments.Where(f => f.Id == filament.Id)
                .ExecuteUpdateAsync(s => s.SetProperty(f => f.PriceMinor, price).SetProperty(f => f.Currency, "EUR").SetProperty(f => f.NetMassUg, 750_000_000L)));
            await v.Go($"/runs/{run.Id}");
            return v.Text(".judge-stage");
        }

        try
        {
            // 30 EUR for 750 g are 40 EUR a kg: a litre of the solid weighs its density.
            var text = await Found(3000);
            var solid = filament.SolidDensityGPerCm3!.Value;
            Assert.Contains(FormattableString.Invariant($"solid it would be {Math.Round(40 * solid, 2):0.00} EUR"), text);
            Assert.Contains("A litre of part", text);
            Assert.DoesNotContain("A litre of part", await Found(null));
        }
        finally
        {
            await site.WithDb(db => db.Filaments.Where(f => f.Id == filament.Id).ExecuteUpdateAsync(s => s
                .SetProperty(f => f.PriceMinor, filament.PriceMinor).SetProperty(f => f.Currency, filament.Currency).SetProperty(f => f.NetMassUg, filament.NetMassUg)));
        }
    }

    [Fact]
    public async Task A_temperature_that_is_known_good_stands_beside_the_tower()
    {
        var p = await PairingOf("Heath", "Whimbrel 300");
        var run = await RunOf("temperature-tower", "Heath", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Known']", ("knownKey", "nozzleTemperatureC"), ("knownValue", "235"), ("knownNote", "rings. Daily"));
        await v.Go($"/runs/{run}");
        Assert.Contains("Practice says otherwise: 235 °C prints well (rings. Daily", v.Text(".judge-stage"));
        Assert.Contains("Print the verification part at both, 235 °C", v.Text(".judge-stage"));
    }

    [Fact]
    public async Task Strings_and_flow_limit_ask_for_the_spools_state_and_a_spool_that_still_loses_mass_dries_on()
    {
        var p = await PairingOf("Skein 95", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        Assert.Contains("Dry the spool first", v.Text("#dryness"));
        Assert.Contains("55 °C", v.Text("#dryness"));
        foreach (var kind in new[] { "flow-limit-steps", "flow-limit-rising", "flow-limit-weighed" })
        {
            await v.Go($"/pairings/{p.Id}/{kind}");
            Assert.NotEqual("", v.Text("#dryness"));
            Assert.NotNull(v.Page.QuerySelector("[name=spoolState]"));
        }

        await v.Go($"/pairings/{p.Id}/pressure-advance");
        Assert.Equal("", v.Text("#dryness"));
        var spool = await site.WithDb(db => db.Spools.Where(s => s.Name == "K-02").Select(s => s.Id).FirstAsync());
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action$='Drying']", ("dryC", "55"), ("dryH", "8"));
        await v.Submit("form[action$='Weigh']", ("massG", "742.0"), ("massAgoH", "1"));
        await v.Submit("form[action$='Weigh']", ("massG", "741.6"));
        Assert.Contains("still loses 0.4 g an hour: 2 hours more at 55 °C", v.Text(".dryness"));
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        Assert.Contains("still dries", v.Text("#dryness"));
        // What the reel bears holds the temperature down.
        await v.Go($"/spools/{spool}/edit");
        await v.Submit("form.sheet", ("reelMaxC", "45"));
        Assert.Contains("45 °C", v.Text(".dryness"));
        Assert.Contains("the reel bears 45", v.Text(".dryness"));
    }

    [Fact]
    public async Task The_strings_guide_is_ticked_from_what_the_record_rules_out()
    {
        var run = await RunOf(RetractionTrial.Word, "Heath", "Dunnock 180");
        await v.Go($"/guides/strings?run={run}");
        // Every cause stands there from the start, in the order in which it is asked, with what it would take.
        Assert.Equal(["nozzle", "dry", "level", "temperature"], v.Page.QuerySelectorAll(".causes > li").Take(4).Select(l => l.Id!["step-".Length..]));
        Assert.Equal("step", v.Page.QuerySelector("#step-nozzle")!.GetAttribute("aria-current"));
        Assert.Contains("Ruled out by the record", v.Text("#step-nozzle"));
        Assert.Contains("If so: dry it first", v.Text("#step-dry"));
        // The heater is tuned, but the feed is asked there too: nothing is ruled out by one of three.
        Assert.Contains("From the record: heater tuned", v.Text("#step-level"));
        Assert.DoesNotContain("uled out", v.Text("#step-level"));
        Assert.Contains("Ruled out by the record", v.Text("#step-temperature"));
        Assert.Contains("Bond by hand", v.Text("#step-temperature"));
        Assert.Matches("leaves it open|Ruled out by", v.Text("#step-retraction"));
        // Nozzle, dryness, level, temperature: colder until it stops is answered.
        await v.Go($"/guides/strings?a=1.1.2&run={run}");
        var colder = v.Page.QuerySelectorAll(".answers a").First(a => a.TextContent.Contains("colder")).GetAttribute("href")!;
        await v.Go("/guides/strings" + colder);
        Assert.Contains("Don't", v.Text("#now"));
        Assert.Contains("bond", v.Text("#now"));
        Assert.Equal("Likely: temperature. Ruled out: nozzle coated or leaking, damp, feed, first layer, heater.", v.Text("#likely").Replace("\n", " ").Trim());
        Assert.Contains("retraction", v.Text(".skipped").ToLowerInvariant());
        // What it ended in leaves a line in the diary; a note that is too long is told and stays.
        // How it went is nobody's but the tester's to say.
        Assert.Equal("", v.Page.QuerySelector("#did option[selected]")?.GetAttribute("value") ?? v.Page.QuerySelector("#did option")!.GetAttribute("value"));
        await v.Submit("#did", ("outcome", ""), ("note", "nothing chosen"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("nothing chosen", v.Value("note"));
        await v.Submit("#did", ("outcome", "helped"), ("note", new string('x', 201)));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(201, v.Value("note").Length);
        await v.Submit("#did", ("outcome", "no difference"), ("note", "Shields still had hairs."));
        Assert.Contains("stands in the diary", v.Text("main"));
        var pairing = (await PairingOf("Heath", "Dunnock 180")).Id;
        await v.Go($"/ledger?id={pairing}");
        var row = v.Page.QuerySelectorAll("table.ledger tr").First(r => r.TextContent.Contains("Shields still had hairs."));
        Assert.Contains("Strings", row.TextContent);
        Assert.Contains("made no difference", row.TextContent);
    }

    [Fact]
    public async Task A_sweep_whose_factor_is_changed_gets_that_factors_range_and_keeps_one_that_was_asked_for()
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        Assert.Equal(("1", "6"), (v.Value("from"), v.Value("to")));
        var choice = v.Page.QuerySelector("select[name=factor]")!;
        Assert.Contains("refit=1", choice.GetAttribute("hx-post"));
        await v.Press("#plan", $"/pairings/{p.Id}/retraction-sweep?handler=Preview&refit=1", ("factor", "travel"));
        Assert.Equal(("60", "120", "10"), (v.Value("from"), v.Value("to"), v.Value("step")));
        Assert.Equal("", string.Concat(v.Page.QuerySelectorAll(".err:not([hidden])").Select(e => e.TextContent)));
        await v.Press("#plan", $"/pairings/{p.Id}/retraction-sweep?handler=Preview", ("to", "90"));
        Assert.Equal(("60", "90"), (v.Value("from"), v.Value("to")));
        await v.Go($"/pairings/{p.Id}/retraction-sweep?factor=hop");
        Assert.Equal(("0", "0.6"), (v.Value("from"), v.Value("to")));
        await v.Go($"/pairings/{p.Id}/retraction-sweep?factor=hop&to=0.4");
        Assert.Equal(("0", "0.4"), (v.Value("from"), v.Value("to")));
    }

    [Fact]
    public async Task A_value_that_somebody_chose_rules_nothing_out_nor_does_one_that_is_doubtful()
    {
        var p = await PairingOf("Sill", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        await v.Submit("#plan");
        var guide = $"/guides/strings?run={v.Planned()}";
        await v.Go(guide);
        Assert.Contains("Ruled out by the record", v.Text("#step-temperature"));
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Type']", ("key", "nozzleTemperatureC"), ("value", "205"), ("reason", "looks better to me"));
        Assert.Equal("provisional", v.Text("#nozzleTemperatureC .state"));
        await v.Go(guide);
        Assert.Contains("The record leaves it open", v.Text("#step-temperature"));
        Assert.Contains("own choice", v.Text("#step-temperature"));
        await using (var scope = site.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<AreaEvidence>().SayAsync(p, "verification", "failed", "it leans", null, ["temperature"]);
        await v.Go(guide);
        Assert.Contains("The record leaves it open", v.Text("#step-temperature"));
        Assert.Contains("doubtful", v.Text("#step-temperature"));
    }

    [Fact]
    public async Task Where_nobody_looked_at_bond_the_guide_says_that_it_is_not_measured()
    {
        async Task<string> Ticks(string line, string printer)
        {
            var p = await PairingOf(line, printer);
            await v.Go($"/pairings/{p.Id}/retraction-sweep");
            await v.Submit("#plan");
            v.Planned();
            await v.Go($"/guides/strings?run={v.Path.Split('#')[0].Split('/')[^1]}");
            return v.Text("#step-temperature");
        }

        Assert.Contains("Bond not measured", await Ticks("Skein 95", "Ptarmigan 350"));
        // A tower was read, but the kept temperature is a copy: bond is told, nothing is ruled out.
        var copied = await Ticks("Plain", "Dunnock 180");
        Assert.Contains("Bond by hand: 4 of 4 at 215", copied);
        Assert.Contains("The record leaves it open", copied);
    }

    [Fact]
    public async Task A_real_file_says_which_layers_lie_above_a_limit_and_what_it_costs()
    {
        var file = await site.WithDb(db => db.GcodeFiles.Where(f => f.RemovedAt == null).Select(f => f.Id).FirstAsync());
        await v.Go($"/gcode/{file}?limit=2");
        Assert.Contains("above 2 mm³/s", v.Text("#flow-limit"));
        Assert.Contains("costs about", v.Text("#flow-limit"));
        await v.Go($"/gcode/{file}?limit=150");
        Assert.Contains("No layer is above 150 mm³/s", v.Text("#flow-limit"));
        await v.Go($"/gcode/{file}?limit=fast");
        Assert.NotEqual("", v.Text("#err-limit"));
        Assert.Equal("fast", v.Value("limit"));
    }

    [Fact]
    public async Task A_sweep_says_what_each_way_costs_and_goes_from_plan_to_profile()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        Assert.Equal(["1", "1"], v.Page.QuerySelectorAll(".sweep-ways tr td:last-child").Take(2).Select(t => t.TextContent));
        await v.Submit("#plan", ("from", "0"), ("to", "1.2"), ("step", "0.4"));
        v.Planned();
        var run = v.Path.Split('#')[0];
        await v.Submit("form[action$='Printed']");
        await v.Submit(
            "#scores", [.. Enumerable.Range(0, 4).SelectMany(i => new[] { "narrow", "wide" }.Select(a => ($"c.{i}.{a}", new[] { "0", "1", "4", "4" }[i])))]);
        await v.Submit("form[action$='Finish']");
        Assert.Contains("0.8 mm", v.Text("#verdict"));
        Assert.Contains("Where the next piece tells most", v.Text(".judge-stage"));
        await v.Submit("form[action$='Keep']");
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("0.80", v.Text("#retractionLengthMm"));
        await v.Go(run);
        await v.Submit("form[action='/undo']");
        await v.Go($"/pairings/{p.Id}");
        Assert.DoesNotContain("0.80", v.Text("#retractionLengthMm"));
    }

    [Fact]
    public async Task An_own_choice_is_made_for_the_factor_that_was_swept()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}/retraction-sweep");
        await v.Submit("#plan", ("factor", "wipe"), ("from", "0"), ("to", "3"), ("step", "1"));
        await v.Submit("form[action$='Printed']");
        await v.Submit("#scores", [.. Enumerable.Range(0, 4).Select(i => ($"c.{i}.narrow", new[] { "1", "2", "4", "4" }[i]))]);
        await v.Submit("form[action$='Finish']");
        await v.Submit("form[action$='Own']", ("ownValue", "1"), ("ownWhy", "the slicer has whole mm only"));
        await v.Go($"/pairings/{p.Id}");
        Assert.Contains("own choice", v.Text("#wipeMm"));
    }

    [Fact]
    public async Task Weighed_samples_are_typed_by_a_scale_and_the_limit_is_kept_with_what_it_makes_of_speeds()
    {
        var p = await PairingOf("Plain", "Ptarmigan 350");
        await v.Go($"/pairings/{p.Id}/flow-limit-weighed");
        Assert.Contains("scale is fine enough", v.Text("#scale-said"));
        await v.Submit("#plan", ("startFlowMm3PerS", "4"), ("stepMm3PerS", "2"), ("samples", "8"), ("scaleResolutionG", "0.001"));
        var run = v.Path.Split('#')[0];
        await v.Submit("form[action$='Printed']");
        await v.Submit(
            "#scores", [.. new[] { "0,895 g", "0.896", "0.894", "0.895", "0.88", "0.853", "0.81", "0.752" }.Select((m, i) => ($"c.{i}.sampleG.1", m))]);
        Assert.Contains("% lost", v.Text("#scores"));
        await v.Submit("form[action$='Finish']");
        Assert.Contains("mm³/s", v.Text("#verdict"));
        Assert.NotNull(v.Page.QuerySelector("table.speeds"));
        Assert.NotNull(v.Page.QuerySelector("svg.chart .level"));
        await v.Submit("form[action$='Keep']");
        Assert.Contains(
            "flow limit", await site.WithDb(db => db.Log.OrderByDescending(l => l.At).ThenByDescending(l => l.Id).Select(l => l.Text).FirstAsync()),
            StringComparison.OrdinalIgnoreCase);
        Assert.Equal(run, v.Path.Split('#')[0]);
    }

    [Theory]
    [InlineData("flow-limit-weighed", """{"startFlowMm3PerS":4,"stepMm3PerS":2,"massesG":[0.9,0.9,"x",0.8],"scaleResolutionG":0.01}""", "massesG[2]")]
    [InlineData("flow-limit-weighed", """{"startFlowMm3PerS":4,"stepMm3PerS":2,"massesG":[0.9]}""", "massesG")]
    [InlineData(
        "flow-limit-steps",
        """{"startSpeedMmPerS":40,"increasePercent":20,"increaseMmPerS":5,"lastGoodStep":2,"layerHeightMm":0.2,"lineWidthMm":0.45}""",
        "increasePercent"
    )]
    [InlineData(
        "flow-limit-steps",
        """{"startSpeedMmPerS":40,"increasePercent":20,"lastGoodStep":1.5,"layerHeightMm":0.2,"lineWidthMm":0.45}""",
        "lastGoodStep"
    )]
    [InlineData("flow-limit-rising", """{"startFlowMm3PerS":4,"flowPerMm":0.3,"failHeightMm":50,"topHeightMm":40}""", "failHeightMm")]
    [InlineData("pressure-advance", """{"startK":0,"stepK":0.005,"count":9,"best":9.5}""", "best")]
    [InlineData(
        "retraction-sweep",
        """{"drive":"sideways","points":[{"lengthMm":1,"speedMmPerS":30,"score":3},{"lengthMm":2,"speedMmPerS":30,"score":9}]}""",
        "drive"
    )]
    [InlineData("flex-compression", """{"handLengthsMm":[40,41,"long"],"drivenLengthsMm":[42,42,42]}""", "handLengthsMm[2]")]
    [InlineData("flow-limit-steps", """{"machine":{"name":"x"},"lastGoodStep":1}""", "startSpeedMmPerS")]
    public async Task Bad_readings_over_the_api_are_answered_by_field(string kind, string body, string field)
    {
        var reply = await v.Client.PostAsync($"/api/v1/trials/{kind}/evaluate", new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.True(
            (await reply.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors").TryGetProperty(field, out _), await reply.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_machine_that_is_described_in_part_is_refused_at_its_fields()
    {
        foreach (var kind in Core.Trials.TrialCatalogue.All.Select(t => t.Kind))
        {
            var reply = await v.Client.PostAsync(
                $"/api/v1/trials/{kind}/plan",
                new StringContent("""{"machine":{"name":"x"}}""", System.Text.Encoding.UTF8, "application/json")
            );
            Assert.Equal((kind, HttpStatusCode.UnprocessableEntity), (kind, reply.StatusCode));
            Assert.True((await reply.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors").TryGetProperty("machine.bedXMm", out _), kind);
        }
    }
}
