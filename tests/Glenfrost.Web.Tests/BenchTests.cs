using System.Net;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>What testers meet around the journey: stages, limits, decisions, Today, find, compare.</summary>
public class BenchTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Pairing> PairingOf(string line, string printer) =>
        site.WithDb(db => db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Filament!.Line == line && p.Toolhead!.Printer!.Name == printer));

    private async Task<string> NewRun(Pairing p, params (string, string)[] typed)
    {
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", typed);
        v.Planned();
        return v.Path.Split('#')[0];
    }

    private async Task ReadAndFinish(string run, int best, int sections, int aspects = 5)
    {
        await v.Go(run);
        await v.Submit("form[action$='Printed']");
        string[] names = ["bridge", "overhang", "strings", "surface", "bond"];
        await v.Submit(
            "#scores",
            [.. from s in Enumerable.Range(0, sections) from a in names.Take(aspects) select ($"c.{s}.{a}", Math.Max(1, 4 - 2 * Math.Abs(s - best)).ToString())]
        );
        await v.Submit("form[action$='Finish']");
    }

    [Fact]
    public async Task Today_puts_the_unread_piece_first_then_decisions_prints_checks_drying_and_doubt()
    {
        await v.Go("/");
        Assert.StartsWith("Read:", v.Text(".lead .w"));
        var kinds = v.Page.QuerySelectorAll(".todo .k").Select(k => k.TextContent).ToList();
        string[] order = ["Read", "Decide", "Print", "Check", "Dry", "Doubtful"];
        Assert.Equal(kinds.OrderBy(k => Array.IndexOf(order, k)), kinds);
        foreach (var kind in order.Skip(1))
            Assert.Contains(kind, kinds);
        Assert.Contains("TPU bears about", v.Text("main"));
    }

    [Fact]
    public async Task Thirteen_planned_prints_hide_neither_doubt_nor_a_decision()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        for (var i = 0; i < 13; i++)
            await NewRun(p);
        await v.Go("/");
        var kinds = v.Page.QuerySelectorAll(".todo .k").Select(k => k.TextContent).ToList();
        Assert.True(kinds.Count <= 12);
        foreach (var kind in (string[])["Decide", "Print", "Dry", "Doubtful"])
            Assert.Contains(kind, kinds);
    }

    [Fact]
    public async Task A_running_print_stands_on_today_and_asks_for_a_person_when_it_is_due()
    {
        var run = await NewRun(await PairingOf("Sill", "Whimbrel 300"));
        await v.Submit("form[action$='Start']");
        Assert.Contains("printing since", v.Text("#print"));
        await v.Go("/");
        Assert.Contains("left of", v.Text(".side"));
        site.Clock.Ahead = TimeSpan.FromHours(9);
        await v.Go("/");
        site.Clock.Ahead = TimeSpan.Zero;
        Assert.StartsWith("Stand by:", v.Text(".lead .w"));
        await v.Go(run);
        await v.Submit("form.quiet");
        Assert.Contains("The run is removed", v.Text(".told"));
        await v.Submit("form[action='/undo']");
        Assert.Equal(run, v.Path.Split('#')[0]);
    }

    [Fact]
    public async Task Two_runs_that_agree_confirm_and_a_move_of_more_than_four_degrees_casts_doubt()
    {
        var p = await PairingOf("Sill", "Whimbrel 300");
        async Task<string> State(string key)
        {
            await v.Go($"/pairings/{p.Id}");
            return v.Text($"#{key} .state");
        }

        Assert.Equal("provisional", await State("nozzleTemperatureC"));
        // A tower whose best section is the value that was kept before.
        var kept = double.Parse(v.Text("#nozzleTemperatureC b"), System.Globalization.CultureInfo.InvariantCulture);
        var run = await NewRun(p, ("hottestC", $"{kept + 8}"), ("coolestC", $"{kept - 8}"), ("stepC", "4"));
        await ReadAndFinish(run, 2, 5);
        Assert.Contains("repeated: two runs agree", v.Text(".judge-stage aside"));
        await v.Submit("form[action$='Keep']");
        Assert.Equal("confirmed", await State("nozzleTemperatureC"));
        Assert.Equal("confirmed", await State("retractionLengthMm"));
        await v.Submit("form[action$='Type']", ("key", "nozzleTemperatureC"), ("value", "225"), ("reason", "faster now"));
        Assert.Equal("doubtful", await State("retractionLengthMm"));
        Assert.Equal("doubtful", await State("maxVolumetricFlowMm3PerS"));
        Assert.Contains($"moved from {kept} to 225", v.Text("#retractionLengthMm"));
    }

    [Fact]
    public async Task A_kept_nozzle_temperature_takes_first_layer_and_bed_along_as_ticked_and_undo_takes_all_back()
    {
        var p = await PairingOf("Tarn", "Whimbrel 300");
        async Task<(string First, string Bed, string State)> Profile()
        {
            await v.Go($"/pairings/{p.Id}");
            return (v.Text("#firstLayerNozzleTemperatureC b"), v.Text("#bedTemperatureC b"), v.Text("#firstLayerNozzleTemperatureC .state"));
        }

        var before = await Profile();
        Assert.Equal("starting value", before.State);
        var run = await NewRun(p);
        await ReadAndFinish(run, 3, 5);
        var advised = v.Text(".judge-stage form[action$='Keep'] button").Split(' ')[1];
        Assert.Contains("5 °C above it", v.Text(".beside"));
        Assert.Contains("as it was printed", v.Text(".beside"));
        await v.Submit("form[action$='Keep']", ("beside.bedTemperatureC", ""), ("beside.firstLayerBedTemperatureC", ""));
        Assert.Contains("is in the profile", v.Text(".told"));
        var after = await Profile();
        Assert.Equal(int.Parse(advised) + 5, int.Parse(after.First));
        Assert.Equal("provisional", after.State);
        Assert.Contains("not tried by itself", v.Text("#firstLayerNozzleTemperatureC"));
        Assert.Equal(before.Bed, after.Bed);
        Assert.Contains("starting value", v.Text("#bedTemperatureC"));
        // The first layer's own trial is still open: nothing of it was printed.
        await v.Go(run);
        await v.Submit("form[action='/undo']");
        Assert.Equal(before, await Profile());
    }

    [Fact]
    public async Task A_first_layer_colder_than_the_print_is_never_silent()
    {
        var p = await PairingOf("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}");
        Assert.DoesNotContain("colder than the print", v.Text("main"));
        await v.Submit(
            "form[action$='Type']", ("key", "nozzleTemperatureC"), ("value", "235"), ("key2", "firstLayerNozzleTemperatureC"), ("value2", "220"),
            ("reason", "as on the other machine"));
        Assert.Contains("220 °C, colder than the print at 235 °C", v.Text(".told"));
        Assert.Contains("colder than the print at 235 °C", v.Text("section .warn"));
        await v.Go($"/pairings/{p.Id}/first-layer");
        Assert.Equal("220", v.Value("nozzleTemperatureC"));
        Assert.Contains("colder than the print at 235 °C", v.Text("main"));
    }

    [Fact]
    public async Task Many_values_are_typed_with_one_reason_and_none_of_them_where_one_is_wrong()
    {
        var p = await PairingOf("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}");
        (string, string)[] typed =
        [
            ("key", "bedTemperatureC"), ("value", "55"), ("key2", "fanPercent"), ("value2", "70"), ("key4", "adhesive"), ("value4", "glue stick"),
            ("reason", "from the cold room"),
        ];
        await v.Submit("form[action$='Type']", [.. typed, ("value3", "12")]);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("Say which setting 12 is of", v.Text("#err-key3"));
        Assert.Equal("70", v.Value("value2"));
        await v.Submit("form[action$='Type']", ("value3", "40"), ("key3", "bedTemperatureC"));
        Assert.Contains("stands above already", v.Text("#err-key3"));
        var revisions = await site.WithDb(db => db.Revisions.CountAsync(r => r.PairingId == p.Id));
        await v.Submit("form[action$='Type']", ("value3", ""), ("key3", ""));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        foreach (var (key, value) in new[] { ("bedTemperatureC", "55"), ("fanPercent", "70"), ("adhesive", "glue stick") })
        {
            Assert.Contains(value, v.Text($"#{key}"));
            Assert.Contains("typed: from the cold room", v.Text($"#{key}"));
        }

        Assert.Equal(revisions + 1, await site.WithDb(db => db.Revisions.CountAsync(r => r.PairingId == p.Id)));
    }

    [Fact]
    public async Task The_edge_of_the_range_offers_a_wider_tower_and_no_keep()
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.EndedAtLayer != null))).Id;
        await v.Go($"/runs/{run}");
        Assert.Contains("at the cool end", v.Text("#verdict"));
        Assert.Null(v.Page.QuerySelector("form[action$='Keep']"));
        var link = v.Page.QuerySelector(".judge-stage aside a.btn.go")!.GetAttribute("href")!;
        await v.Go(link);
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Equal("210", v.Value("hottestC"));
        Assert.Equal("190", v.Value("coolestC"));
    }

    [Fact]
    public async Task What_was_shown_must_still_be_the_verdict_when_it_is_kept()
    {
        var p = await PairingOf("Tarn", "Whimbrel 300");
        var run = await NewRun(p);
        await ReadAndFinish(run, 2, 5);
        await v.Submit("form[action$='Keep']", ("shown", "999"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("not 999", v.Text("#notice"));
        await v.Go(run);
        await v.Submit("form[action$='Leave']");
        Assert.Contains("left as it is", v.Text(".told"));
        Assert.Contains("left without keeping", v.Text("#judge"));
    }

    [Fact]
    public async Task A_change_after_the_decision_is_said_and_the_old_verdict_stays()
    {
        var p = await PairingOf("Cairn CF", "Whimbrel 300");
        var run = await NewRun(p);
        await ReadAndFinish(run, 2, 5);
        await v.Submit("form[action$='Keep']");
        var before = await site.WithDb(db => db.Decisions.OrderByDescending(d => d.At).FirstAsync());
        await v.Go(run + "?open=read");
        await v.Submit("#scores", ("c.2.bridge", "1"), ("why", "cracked after cooling"));
        await v.Go(run);
        Assert.Contains("changed since the decision", v.Text("#read"));
        Assert.Contains("Today's verdict", v.Text(".judge-stage aside"));
        Assert.Equal(before.VerdictJson, (await site.WithDb(db => db.Decisions.FirstAsync(d => d.Id == before.Id))).VerdictJson);
    }

    [Fact]
    public async Task A_printed_plan_stands_and_planning_anew_makes_a_new_run()
    {
        var p = await PairingOf("Float", "Whimbrel 300");
        var run = await NewRun(p, ("layerHeightMm", "0.16"), ("firstLayerHeightMm", "0.2"), ("sectionHeightMm", "9.6"), ("baseHeightMm", "1.16"));
        var id = run.Split('/')[^1];
        await v.Go($"/pairings/{p.Id}/temperature-tower?run={id}");
        var other = site.Visit();
        await other.Go(run);
        await other.Submit("form[action$='Printed']");
        await v.Submit("#plan", ("sectionHeightMm", "8"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("its plan stands", v.Text("#notice"));
        Assert.Equal("8", v.Value("sectionHeightMm"));
        await v.Submit("#plan");
        Assert.NotEqual(run, v.Path.Split('#')[0]);
        Assert.Equal(Guid.Parse(id), (await site.WithDb(db => db.Runs.OrderByDescending(r => r.Id).FirstAsync())).LinkedRunId);
        await other.Go($"/pairings/{p.Id}/temperature-tower?run={id}");
        Assert.Contains("after=", other.Path);
    }

    [Fact]
    public async Task Somebodys_own_model_is_counted_and_rounded_by_height()
    {
        var p = await PairingOf("Heath", "Whimbrel 300");
        await v.Go($"/pairings/{p.Id}/temperature-tower?mode=own");
        await v.Submit("#plan", ("totalLayers", "460"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("left over", v.Text("#err-totalLayers"));
        await v.Press("#plan", "?handler=Offer", ("offer", v.Page.QuerySelector("#err-totalLayers button")!.GetAttribute("value")!));
        Assert.Contains("rounded by height", v.Text("#preview"));
        await v.Submit("#plan");
        v.Planned();
        Assert.Contains("rounded by height", v.Text("#plan"));
        await v.Go(v.Path.Split('#')[0] + "/sheet");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }

    [Theory]
    [InlineData("hottestC", "240", "limit of 237")]
    [InlineData("coolestC", "160", "cold-extrusion")]
    [InlineData("hottestC", "2100 °C", "Did you mean 210?")]
    [InlineData("layerHeightMm", "0.2 m", "200 mm")]
    [InlineData("layerHeightMm", "0,36", "more than a 0.4 mm nozzle lays")]
    [InlineData("stepC", "-5", "not between 1 and 20")]
    [InlineData("sectionHeightMm", "30", "180 mm above the bed")]
    public async Task Limits_hold_in_the_plan_and_what_was_typed_stays(string field, string typed, string part)
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}/temperature-tower");
        await v.Submit("#plan", (field, typed));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(part, v.Text($"#err-{field}"));
        Assert.Equal(typed, v.Value(field));
    }

    [Theory]
    [InlineData("nozzleTemperatureC", "300", "limit of 237")]
    [InlineData("nozzleTemperatureC", "160", "cold-extrusion")]
    [InlineData("bedTemperatureC", "110", "this bed reaches")]
    [InlineData("extrusionMultiplier", "97", "not between 0.3 and 1.5")]
    public async Task A_typed_value_is_checked_against_the_machine(string key, string value, string part)
    {
        var p = await PairingOf("Heath", "Dunnock 180");
        await v.Go($"/pairings/{p.Id}");
        await v.Submit("form[action$='Type']", ("key", key), ("value", value), ("reason", "because"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(part, v.Text("#err-value"));
    }

    [Theory]
    [InlineData("ended early", "", "empty")]
    [InlineData("ended early", "99999", "is not between 1 and 20000")]
    [InlineData("ended early", "5000", "early end lies below")]
    [InlineData("whole", "200", "ended nowhere early")]
    public async Task How_it_ended_is_checked(string outcome, string layer, string part)
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Planned && r.Number == 2))).Id;
        await v.Go($"/runs/{run}");
        await v.Submit("form[action$='Printed']", ("outcome", outcome), ("endedAtLayer", layer));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(part, v.Text("#err-endedAtLayer"));
    }

    [Fact]
    public async Task A_finding_sent_twice_is_stored_once_and_can_be_taken_back()
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed && r.Number == 1))).Id;
        await v.Go($"/runs/{run}");
        for (var i = 0; i < 2; i++)
        {
            await v.Go($"/runs/{run}");
            await v.Submit("form[action$='=Finding']", ("findingKey", "twice"), ("tag", "clicking"), ("section", "8"));
        }

        Assert.Equal(1, await site.WithDb(db => db.Findings.CountAsync(f => f.Key == "twice")));
        await v.Submit("form.inl");
        Assert.Contains("is removed", v.Text(".told"));
        await v.Submit("form[action='/undo']");
        Assert.Contains("is back", v.Text(".told"));
    }

    [Fact]
    public async Task Find_knows_every_kind_and_jumps_to_a_single_hit()
    {
        foreach (var (words, kind) in new[]
            {
                ("heath", "filament"), ("H-07", "spool"), ("dunnock", "printer"), ("heath whimbrel", "pairing"), ("tower heath", "run"),
            })
        {
            var html = await v.Client.GetStringAsync($"/find?handler=List&q={words}");
            Assert.Contains($">{kind}<", html);
        }

        await v.Go("/find?q=T-03");
        Assert.StartsWith("/spools/", v.Path);
        await v.Go("/find?q=zzz%25_'");
        Assert.Contains("Nothing by that name", v.Text("main"));
    }

    [Fact]
    public async Task Compare_marks_only_differences_that_beat_the_noise()
    {
        var a = await PairingOf("Heath", "Dunnock 180");
        var b = await PairingOf("Sill", "Dunnock 180");
        await v.Go($"/compare?id={a.Id}&id={b.Id}");
        var row = v.Page.QuerySelectorAll("tbody tr").First(r => r.TextContent.Contains("Nozzle temperature"));
        Assert.Contains("differs", row.TextContent);
        var flow = v.Page.QuerySelectorAll("tbody tr").First(r => r.TextContent.Contains("Extrusion multiplier"));
        Assert.DoesNotContain("differs", flow.TextContent);
    }

    [Fact]
    public async Task The_room_takes_fahrenheit_and_stands_in_the_bar()
    {
        await v.Go("/room");
        await v.Submit("main form.inrow", ("roomC", "50 °F"), ("humidityPercent", "61,5"));
        Assert.Contains("10 °C · 62 %RH", v.Text(".room summary"));
        await v.Go("/room");
        await v.Submit("main form.inrow", ("roomC", "210"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("neither a freezer nor an oven", v.Text("#err-roomC"));
    }

    [Fact]
    public async Task The_log_filters_and_pages()
    {
        await v.Go("/log?kind=printer");
        Assert.All(v.Page.QuerySelectorAll(".log .sub"), k => Assert.Equal("printer", k.TextContent));
        await v.Go("/log?q=100%25");
        Assert.Contains("Nothing fits this filter", v.Text("main"));
        await v.Go("/log?before=999999999999999999999");
        Assert.True((int)v.Last.StatusCode < 500);
    }

    [Fact]
    public async Task A_spool_that_is_weighed_lighter_than_its_reel_is_refused_and_removals_undo()
    {
        var spool = (await site.WithDb(db => db.Spools.FirstAsync(s => s.Name == "H-07"))).Id;
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action$='Weigh']", ("massG", "100"));
        Assert.Contains("less than the empty reel", v.Text("#err-massG"));
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action$='Remove']:has(input[value^='weighing'])");
        Assert.Contains("Not weighed yet", v.Text("main"));
        await v.Submit("form[action='/undo']");
        Assert.Contains("422 g left", v.Text("main"));
        await v.Go($"/spools/{spool}/label");
        Assert.NotNull(v.Page.QuerySelector("svg path"));
    }

    [Fact]
    public async Task Inherited_profiles_keep_the_machines_own_widths()
    {
        var from = await PairingOf("Heath", "Dunnock 180");
        var right = await site.WithDb(db => db.Toolheads.FirstAsync(t => t.Name == "right"));
        var plain = await site.WithDb(db => db.Filaments.FirstAsync(f => f.Line == "Plain"));
        await v.Go($"/pairings/new?filament={plain.Id}&toolhead={right.Id}");
        await v.Submit("form.sheet", ("start", from.Id.ToString()));
        Assert.Contains("0.30", v.Text("#layerHeightMm"));
        Assert.Contains("0.66", v.Text("#lineWidthMm"));
        // A retraction of a long tube says nothing of a direct drive.
        Assert.DoesNotContain("copied from", v.Text("#retractionLengthMm"));
        Assert.Contains("copied from", v.Text("#nozzleTemperatureC"));
        var settings = (await site.WithDb(db => db.ProfileAsync(Guid.Parse(v.Path.Split('/')[^1]))))!;
        Assert.All(settings.Settings, s => Assert.True(s.State is SettingState.Start or SettingState.Inherited, s.Key));
        Assert.DoesNotContain(settings.Settings, s => s.Key is "pressureAdvance" or "maxVolumetricFlowMm3PerS" or "nozzleOffsetMm");
        // Inherited lays no stone: the cairn of all pairings shows it as copied.
        var address = v.Path;
        await v.Go("/pairings");
        Assert.NotEmpty(v.Page.QuerySelectorAll($".cell:has(a[href='{address}']) .cairn .stone.inherited"));
    }

    [Fact]
    public async Task A_toolhead_needs_one_way_to_say_its_feed_and_a_name_of_its_own()
    {
        var printer = await site.WithDb(db => db.Printers.FirstAsync(p => p.Name == "Ptarmigan 350"));
        await v.Go($"/toolheads/new?printer={printer.Id}");
        await v.Submit("form.sheet", ("headName", "third"), ("stepsPerMm", "400"), ("rotationDistanceMm", "20"));
        Assert.Contains("Either steps per mm or rotation distance", v.Text("#err-rotationDistanceMm"));
        await v.Submit("form.sheet", ("headName", "left"), ("stepsPerMm", "400"), ("rotationDistanceMm", ""));
        Assert.Contains("toolhead of that name", v.Text("#err-headName"));
    }
}
