using System.Net;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>One thing leads on each page, and what does not lead is folded with its values in sight.</summary>
public class CalmTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<List<Guid>> Pairings() => site.WithDb(db => db.Pairings.Where(p => p.RemovedAt == null).OrderBy(p => p.Id).Select(p => p.Id).ToListAsync());

    [Fact]
    public async Task A_pairing_says_one_thing_first_and_its_route_once()
    {
        foreach (var id in await Pairings())
        {
            await v.Go($"/pairings/{id}");
            var main = v.Page.QuerySelector("main")!;
            Assert.True(main.QuerySelectorAll(".btn.go").Length <= 1, v.Path);
            Assert.Equal("Next", main.QuerySelector("section")!.GetAttribute("aria-label"));
            Assert.NotEqual("", v.Text(".next p b"));
            Assert.Single(main.QuerySelectorAll(".waypoints"));
            // What was found stands large; what it only starts from is folded, with its values in the fold's own line.
            var starting = main.QuerySelectorAll(".profile > details").FirstOrDefault(d => d.QuerySelector("summary")!.TextContent.Contains("starting value"));
            Assert.All(main.QuerySelectorAll(".vals li"), li => Assert.Contains(li.QuerySelector(".state")!.TextContent, new[] { "confirmed", "provisional",
                "doubtful" }));
            foreach (var row in starting?.QuerySelectorAll("tbody tr") ?? Enumerable.Empty<IElement>())
                Assert.Contains(row.QuerySelector("td")!.TextContent.Trim().Split(' ', '\n')[0], starting!.QuerySelector("summary")!.TextContent);
            // An address of a value leads to one place only.
            Assert.All(main.QuerySelectorAll("[id]").GroupBy(e => e.Id), g => Assert.Single(g));
        }
    }

    [Fact]
    public async Task A_printer_leads_with_what_is_open_on_it_and_folds_what_is_fitted()
    {
        var p = await site.WithDb(db => db.Printers.Include(x => x.Toolheads).FirstAsync(x => x.Name == "Whimbrel 300"));
        await v.Go($"/printers/{p.Id}");
        var lead = v.Page.QuerySelector("main section.lead")!;
        Assert.Contains("3 checks were not done yet", lead.TextContent);
        Assert.EndsWith("/checks", Assert.Single(v.Page.QuerySelectorAll("main .btn.go")).GetAttribute("href"));
        Assert.Contains("not done yet: ", v.Text(".block .facts"));
        Assert.Contains("296 °C", v.Text(".figures"));
        bool Folded() => !v.Page.QuerySelector("details:has([name=description])")!.HasAttribute("open");
        Assert.True(Folded());
        // Looked at or refused, its fields are open and nothing else leads.
        await v.Press("form.tight", "?handler=Preview", ("slot", "extruder"), ("description", "a harder gear"));
        Assert.False(Folded());
        Assert.Null(v.Page.QuerySelector("section.lead"));
        Assert.Equal("Fit it", Assert.Single(v.Page.QuerySelectorAll("main .btn.go")).TextContent);
        await v.Submit("form.tight", ("description", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.False(Folded());
        // A gear makes the feed doubtful: that is what is done next, before any check.
        await v.Submit("form.tight", ("description", "a harder gear"));
        lead = v.Page.QuerySelector("main section.lead")!;
        Assert.Contains("The feed is doubtful", lead.TextContent);
        Assert.Equal($"/toolheads/{p.Toolheads[0].Id}/extruder-feed", lead.QuerySelector("a.btn.go")!.GetAttribute("href"));
        // Of two toolheads each thing says of which; what was found wanting stands before what nobody looked at yet.
        var two = await site.WithDb(db => db.Printers.FirstAsync(x => x.Name == "Ptarmigan 350"));
        await v.Go($"/printers/{two.Id}");
        Assert.Contains("Idler grip on left: look again.", v.Text("section.lead"));
        Assert.Contains("10 checks were not done yet", v.Text("section.lead"));
    }

    [Fact]
    public async Task Beside_each_other_what_differs_from_the_first_run_stands_out()
    {
        var parts = await site.WithDb(db => db.Runs.Where(r => r.Kind == "part" && r.Pairing!.Filament!.Line == "Heath").OrderBy(r => r.Id).Take(3).Select(r => r.Id)
            .ToListAsync());
        await v.Go($"/runs/compare?{string.Join("&", parts.Select(p => $"id={p}"))}");
        Assert.Equal("concluded", v.Page.QuerySelector("main section")!.Id);
        // The runs are the heads of the columns, once.
        Assert.Equal(3, v.Page.QuerySelectorAll("#differs thead a[href^='/runs/']:not([href*=compare])").Length);
        foreach (var row in v.Page.QuerySelectorAll("#differs > form > .scroll tbody tr"))
        {
            var cells = row.QuerySelectorAll("td").Select(c => (Text: c.TextContent.Trim().Split('(')[0].Trim(), Class: c.ClassName ?? "")).ToList();
            Assert.Equal("", cells[0].Class);
            Assert.All(cells.Skip(1).Where(c => c.Class.Length > 0), c => Assert.Equal(c.Text == cells[0].Text ? "same" : "other", c.Class));
        }

        Assert.NotEmpty(v.Page.QuerySelectorAll("#differs td.other"));
        Assert.NotEmpty(v.Page.QuerySelectorAll("#differs td.same"));
    }

    [Fact]
    public async Task While_reading_nothing_stands_open_below_the_grid_until_it_is_asked_for_or_refused()
    {
        var run = await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed));
        await v.Go($"/runs/{run.Id}");
        Assert.Equal(2, v.Page.QuerySelectorAll("#reading .under details.part").Length);
        Assert.Empty(v.Page.QuerySelectorAll("#reading .under details[open]"));
        Assert.Contains("not noted: place and neighbours", v.Text("#reading .under summary"));
        // What was found stands in sight all the same.
        Assert.Contains("lintel sags", v.Text("#findings > ul"));
        await v.Submit("#conditions form", ("roomC", "warm"));
        Assert.Contains("Conditions", Assert.Single(v.Page.QuerySelectorAll("#reading .under details[open]")).QuerySelector("summary")!.TextContent);
        await v.Submit("#findings details form[action$='Finding']", ("tag", ""), ("findingText", "it hums"));
        Assert.Contains("Note a finding", Assert.Single(v.Page.QuerySelectorAll("#reading .under details[open]")).QuerySelector("summary")!.TextContent);
        Assert.Equal("it hums", v.Value("findingText"));
    }

    [Fact]
    public async Task A_shelf_is_registered_and_paired_one_press_a_filament()
    {
        var head = await site.WithDb(db => db.Toolheads.FirstAsync(t => t.Printer!.Name == "Whimbrel 300"));
        await v.Go("/filaments/new");
        // Nothing is ticked that nobody said.
        Assert.Empty(v.Page.QuerySelectorAll<IHtmlInputElement>("input[type=checkbox]").Where(b => b.IsChecked).Select(b => b.Name));
        var said = new[] { ("maker", "Ninepin"), ("family", "PETG"), ("s0.nozzleMin", "222"), ("s0.nozzleMax", "228") };
        // A refusal keeps the ticks.
        await v.Submit("form.sheet", [.. said, ("line", ""), ($"pair-{head.Id}", "1")]);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.True(v.Page.QuerySelector<IHtmlInputElement>($"input[name='pair-{head.Id}']")!.IsChecked);
        await v.Submit("form.sheet", ("line", "Scree"), ("next", "1"));
        Assert.Contains("Ninepin Scree is registered and paired with Whimbrel 300", v.Text("main"));
        // The next of the shelf: maker, family and toolhead are taken over, what its own label says is not.
        Assert.Equal(
            ("Ninepin", "PETG", "", ""),
            (v.Value("maker"), v.Page.QuerySelector<IHtmlSelectElement>("select[name=family]")!.Value, v.Value("line"), v.Value("s0.nozzleMin")));
        Assert.Equal([$"pair-{head.Id}"], v.Page.QuerySelectorAll<IHtmlInputElement>("input[type=checkbox]").Where(b => b.IsChecked).Select(b => b.Name));
        await v.Submit("form.sheet", ("line", "Talus"));
        Assert.StartsWith("/filaments/", v.Path);
        var pairings = await site.WithDb(db => db.Pairings.Include(p => p.Filament).Where(p => p.Filament!.Maker == "Ninepin" && p.ToolheadId == head.Id
            && (p.Filament.Line == "Scree" || p.Filament.Line == "Talus")).ToListAsync());
        Assert.Equal(2, pairings.Count);
        // Its profile starts from its own label, not from the family alone.
        await v.Go($"/pairings/{pairings.Single(p => p.Filament!.Line == "Scree").Id}");
        Assert.Contains("225 °C", v.Text("main"));
        // A filament that stands is only saved.
        await v.Go($"/filaments/{pairings[0].FilamentId}/edit");
        Assert.Empty(v.Page.QuerySelectorAll("input[type=checkbox]"));
    }

    [Fact]
    public async Task A_file_opens_at_what_is_odd_and_a_refusal_opens_its_own_part()
    {
        var file = await site.WithDb(db => db.GcodeFiles.FirstAsync(f => f.Name == "gauge-ring.gcode"));
        string Open() => Assert.Single(v.Page.QuerySelectorAll("details.part[open]")).QuerySelector("b")!.TextContent;
        await v.Go($"/gcode/{file.Id}");
        Assert.Equal("What is odd", Open());
        // One after the other, also without script: they share a name.
        Assert.All(v.Page.QuerySelectorAll("details.part"), d => Assert.Equal("room", d.GetAttribute("name")));
        Assert.Single(v.Page.QuerySelectorAll("main .btn.go:not(details .btn)"));
        await v.Submit("#trim", ("flowPercent", "900"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("Mend", Open());
        await v.Go($"/gcode/{file.Id}");
        await v.Submit("#step-form", ("from", "900"), ("to", "1"), ("by", "1"), ("section", "2"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("Step by height", Open());
        await v.Go($"/gcode/{file.Id}?limit=3");
        Assert.Equal("Flow limit", Open());
        // What a layer is asked stands in words, one of them asked already; no menu of colourings.
        var asked = v.Page.QuerySelectorAll<IHtmlInputElement>("input[name=ask]").ToList();
        Assert.Equal(6, asked.Count);
        Assert.Equal("flow", Assert.Single(asked, a => a.IsChecked).Value);
        Assert.NotEmpty(v.Page.QuerySelectorAll(".gheights text"));
    }

    [Theory]
    [InlineData(0.2, 36)]
    [InlineData(0.25, 174)]
    [InlineData(0.3, 1200)]
    public void Heights_beside_the_strip_are_round_few_and_in_order(double layerMm, int layers)
    {
        var g = new System.Text.StringBuilder("M104 S200\nG90\nM83\n");
        for (var i = 1; i <= layers; i++)
            g.Append(System.Globalization.CultureInfo.InvariantCulture,
                $"G0 Z{i * layerMm:0.###} F600\nG0 X0 Y0 F6000\nG1 X40 Y0 E2 F1800\nG1 X40 Y40 E2 F1800\n");
        var facts = Inspector.Inspect(new MemoryStream(System.Text.Encoding.ASCII.GetBytes(g.ToString())), new() { Name = "x.gcode" });
        var marks = HeightMarks.Of(facts);
        Assert.InRange(marks.Count, 3, 10);
        Assert.Equal(marks.OrderBy(m => m.Z), marks);
        Assert.Equal(marks.OrderBy(m => m.Share), marks);
        Assert.All(marks, m => Assert.InRange(m.Share, 0, 1));
        // Each layer takes as long as any: a height stands where the layer that reaches it ends.
        Assert.All(marks, m => Assert.Equal(Math.Ceiling(m.Z / layerMm - 1e-6) / layers, m.Share, 0.02));
        var step = marks[0].Z;
        Assert.All(marks, m => Assert.Equal(0, m.Z / step % 1, 9));
    }

    [Fact]
    public async Task Every_plan_shows_few_fields_first_and_no_file_as_decoration()
    {
        var heath = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"));
        foreach (var trial in TrialCatalogue.All.Where(t => t.Subject == TrialSubject.Pairing))
        {
            await v.Go($"/pairings/{heath.Id}/{trial.Kind}");
            Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
            Assert.True(v.Page.QuerySelectorAll("#plan > fieldset").Length <= 3, trial.Kind);
            Assert.Single(v.Page.QuerySelectorAll("main .btn.go"));
            Assert.All(v.Page.QuerySelectorAll("#preview pre"), pre => Assert.NotNull(pre.Closest("details:not([open])")));
            foreach (var fold in v.Page.QuerySelectorAll("#plan > details.group"))
            {
                // A value that is folded away can be read in the fold's line, and nothing that must be typed is in there.
                var said = fold.QuerySelector("summary")!.TextContent;
                foreach (var field in fold.QuerySelectorAll<IHtmlInputElement>("input[inputmode]").Where(f => f.Value.Length > 0))
                    Assert.Contains(field.Value, said);
                Assert.All(
                    fold.QuerySelectorAll<IHtmlInputElement>("input[required]"), f => Assert.True(f.Value.Length > 0 || fold.HasAttribute("open"), f.Name));
            }
        }

        // In each of its modes: what the mode itself proposes is nothing unusual.
        foreach (var mode in new[] { "lines", "corners" })
        {
            await v.Go($"/pairings/{heath.Id}/pressure-advance?mode={mode}");
            Assert.Empty(v.Page.QuerySelectorAll("#plan > details.group[open]"));
        }

        // Refused in a fold, it stands open.
        await v.Go($"/pairings/{heath.Id}/pressure-advance");
        Assert.NotNull(v.Page.QuerySelector("[name=lineMm]")!.Closest("details:not([open])"));
        await v.Submit("#plan", ("lineMm", "5"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.NotNull(v.Page.QuerySelector("[name=lineMm]")!.Closest("details[open]"));
    }

    [Fact]
    public async Task A_cut_is_told_by_letters_and_chosen_by_its_height()
    {
        var heath = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180"));
        foreach (var kind in new[] { "temperature-tower", "retraction-sweep", "fan-steps" })
        {
            await v.Go($"/pairings/{heath.Id}/{kind}");
            // Letters of the margin and of the words below it are the same ones.
            var margin = v.Page.QuerySelectorAll(".layer-view text").Select(t => t.TextContent).Order().ToList();
            Assert.Equal(v.Page.QuerySelectorAll(".path-key b").Select(b => b.TextContent).Order(), margin);
            Assert.NotEmpty(margin);
            Assert.Empty(v.Page.QuerySelectorAll("#preview input[type=range]"));
            // What the drawing says of its heights is what the file has.
            Assert.NotNull(v.Page.QuerySelector("#elevation svg[data-elevation]"));
            var heights = v.Page.QuerySelector("#touch")!.GetAttribute("data-heights")!;
            var (first, each) = heights.Split(' ').Select(h => double.Parse(h, System.Globalization.CultureInfo.InvariantCulture)).ToArray() is [var a, var b]
                ? (a, b) : default;
            var layers = int.Parse(v.Page.QuerySelector("#layer")!.GetAttribute("max")!, System.Globalization.CultureInfo.InvariantCulture);
            foreach (var n in new[] { 1, 2, layers / 2, layers })
            {
                await v.Press("#plan", "?handler=Preview", ("layer", $"{n}"));
                Assert.Contains($"z {Words.N(first + (n - 1) * each, 2)} mm", v.Text("#layer-view"));
            }
        }

        Assert.Equal(Enum.GetValues<PathRole>().Length - 1,
            Enum.GetValues<PathRole>().Where(r => r != PathRole.Travel).Select(LayerView.Letter).Distinct().Count());
    }

    [Fact]
    public async Task A_printer_is_made_of_six_facts_and_says_what_the_rest_stands_at()
    {
        await v.Go("/printers/new");
        var open = v.Page.QuerySelectorAll("form.sheet input:not([type=hidden]), form.sheet select, form.sheet textarea").Where(f => f.Closest("details")
            is null);
        Assert.InRange(open.Count(), 7, 9);
        Assert.Contains("heater 260 °C", v.Text("details.group"));
        Assert.Empty(v.Page.QuerySelectorAll("details.group[open]"));
        // What is refused is never hidden in a fold.
        await v.Submit("form.sheet", ("name", "Dotterel 220"), ("maxSpeed", "fast"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.NotNull(v.Page.QuerySelector("[name=maxSpeed]")!.Closest("details[open]"));
        await v.Submit("form.sheet", ("maxSpeed", "180"));
        Assert.StartsWith("/printers/", v.Path);
        var made = await site.WithDb(db => db.Printers.Include(p => p.Toolheads).FirstAsync(p => p.Name == "Dotterel 220"));
        Assert.Equal((180, 1500, 260, "brass"), (made.MaxSpeedMmPerS, made.MaxAccelerationMmPerS2, made.Toolheads[0].HeaterMaxC,
            made.Toolheads[0].NozzleMaterial));
    }
}

/// <summary>From an empty bench to a tower that can be printed.</summary>
public class FirstDayTests(EmptyApp site) : IClassFixture<EmptyApp>
{
    [Fact]
    public async Task Three_things_and_a_tower_stands_ready()
    {
        var v = site.Visit();
        await v.Go("/");
        Assert.Equal("/start", Assert.Single(v.Page.QuerySelectorAll("main .btn.go")).GetAttribute("href"));
        await v.Go("/start");
        // Nothing is taken for said that nobody said.
        Assert.All(v.Page.QuerySelectorAll<IHtmlSelectElement>("form.first-day select"), s => Assert.Equal("", s.Value));
        Assert.All(v.Page.QuerySelectorAll<IHtmlInputElement>("form.first-day input:not([type=hidden])"), i => Assert.Equal("", i.Value));
        (string, string)[] said =
        [
            ("name", "Dotterel 220"), ("bedXMm", "220"), ("bedYMm", "220"), ("heightMm", "240"), ("dialect", "m900"), ("bedReachesC", "100"),
            ("nozzleDiameterMm", "0,4"), ("liner", "ptfe"), ("drive", "direct"), ("maker", "Brackenfell"), ("line", "Heath"), ("family", "PLA"),
            ("nozzleMin", "190"), ("nozzleMax", "230"), ("bedMin", "50"), ("bedMax", "60"), ("use", "balanced"),
        ];
        foreach (var (name, wrong) in new[] { ("liner", ""), ("dialect", ""), ("use", ""), ("bedXMm", "wide"), ("nozzleMax", "100"), ("line", "") })
        {
            await v.Go("/start");
            await v.Submit("form.first-day", [.. said.Select(s => s.Item1 == name ? (name, wrong) : s)]);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
            Assert.NotEqual("", v.Text(name == "nozzleMax" && wrong == "100" ? "#err-nozzleMax" : $"#err-{name}"));
            Assert.Equal("Dotterel 220", v.Value("name"));
        }

        Assert.Equal(0, await site.WithDb(db => db.Printers.CountAsync()));
        await v.Submit("form.first-day", said);
        Assert.Matches("^/pairings/[0-9a-f-]{36}/temperature-tower$", v.Path);
        Assert.Equal(("230", "190"), (v.Value("hottestC"), v.Value("coolestC")));
        await v.Submit("#plan");
        v.Planned();
        // The second filament is paired with the printer that is here.
        await v.Go("/start");
        Assert.NotEqual("", (v.Page.QuerySelector("[name=toolhead]") as IHtmlSelectElement)!.Value);
        await v.Submit("form.first-day", ("maker", "Ninepin"), ("line", "Tarn"), ("family", "PETG"), ("use", "strength"));
        Assert.EndsWith("/temperature-tower", v.Path);
        Assert.Equal(1, await site.WithDb(db => db.Printers.CountAsync()));
        Assert.Equal(2, await site.WithDb(db => db.Pairings.CountAsync()));
        // The same once more is told, and nothing is made twice.
        await v.Go("/start");
        await v.Submit("form.first-day", ("maker", "Ninepin"), ("line", "Tarn"), ("family", "PETG"), ("use", "strength"));
        Assert.Contains("registered already", v.Text("#err-line"));
    }
}
