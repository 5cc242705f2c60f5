using Glenfrost.Core.Statistics;
using System.Net;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

public class DoorTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    [Theory]
    [InlineData("/")]
    [InlineData("/pairings")]
    [InlineData("/pairings?only=doubtful")]
    [InlineData("/pairings/new")]
    [InlineData("/filaments")]
    [InlineData("/filaments/new")]
    [InlineData("/printers")]
    [InlineData("/printers/new")]
    [InlineData("/log")]
    [InlineData("/log?kind=run&q=tower")]
    [InlineData("/room")]
    [InlineData("/preferences")]
    [InlineData("/find?q=heath")]
    [InlineData("/find?handler=List&q=dunnock")]
    [InlineData("/compare")]
    public async Task Every_page_answers_without_inline_script_or_style(string path)
    {
        await v.Go(path);
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Empty(v.Page.QuerySelectorAll("[style], style, script:not([src]), [onclick]"));
        Assert.Contains("script-src 'self'", v.Last.Headers.GetValues("Content-Security-Policy").Single());
    }

    [Theory]
    [InlineData("/filaments/00000000-0000-0000-0000-000000000000")]
    [InlineData("/pairings/00000000-0000-0000-0000-000000000000")]
    [InlineData("/pairings/00000000-0000-0000-0000-000000000000/temperature-tower")]
    [InlineData("/runs/00000000-0000-0000-0000-000000000000")]
    [InlineData("/runs/not-an-id")]
    [InlineData("/spools/new")]
    [InlineData("/nowhere")]
    public async Task Unknown_addresses_say_so(string path)
    {
        await v.Go(path);
        Assert.Equal(HttpStatusCode.NotFound, v.Last.StatusCode);
        Assert.Equal("Not here", v.Text("h1"));
    }

    [Fact]
    public async Task A_foreign_host_name_is_turned_away()
    {
        var request = new HttpRequestMessage(HttpMethod.Get, "/");
        request.Headers.Host = "rebound.example";
        var reply = await v.Client.SendAsync(request);
        Assert.Equal(HttpStatusCode.BadRequest, reply.StatusCode);
        Assert.Contains("answers only to localhost", await reply.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task A_form_without_its_ticket_shows_what_was_typed_and_saves_nothing()
    {
        var before = await site.WithDb(db => db.Filaments.CountAsync());
        var reply = await v.Client.PostAsync(
            "/filaments/new", new FormUrlEncodedContent([new("maker", "Nimbleby"), new("line", "Quartz"), new("family", "PLA")]));
        var html = await reply.Content.ReadAsStringAsync();
        Assert.Equal(HttpStatusCode.BadRequest, reply.StatusCode);
        Assert.Contains("Nimbleby", html);
        Assert.Contains("Nothing was saved", html);
        Assert.Equal(before, await site.WithDb(db => db.Filaments.CountAsync()));
    }

    [Fact]
    public async Task A_stale_form_says_so_keeps_what_was_typed_and_takes_the_second_save()
    {
        var id = (await site.WithDb(db => db.Filaments.FirstAsync(f => f.Line == "Tarn"))).Id;
        var other = site.Visit();
        await v.Go($"/filaments/{id}/edit");
        await other.Go($"/filaments/{id}/edit");
        await other.Submit("form.sheet", ("notes", "theirs"));
        await v.Submit("form.sheet", ("notes", "mine"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Contains("in another tab", v.Text("#notice"));
        Assert.Contains("Now saved as: theirs", v.Text("#err-notes"));
        Assert.Equal("mine", v.Page.QuerySelector("textarea[name=notes]")!.TextContent.Trim());
        await v.Submit("form.sheet");
        Assert.Equal("mine", (await site.WithDb(db => db.Filaments.FirstAsync(f => f.Id == id))).Notes);
    }

    [Theory]
    [InlineData("diameterMm", "1.75 m", "1750 mm")]
    [InlineData("diameterMm", "", "empty")]
    [InlineData("diameterMm", "-1.75", "is not between")]
    [InlineData("densityGPerCm3", "1240 kg/m³", "1.24 g/cm³")]
    [InlineData("s0.nozzleMin", "2100", "Did you mean 210?")]
    [InlineData("s0.nozzleMax", "190", "Swap them")]
    [InlineData("maker", "", "empty")]
    [InlineData("currency", "EURO", "at most 3")]
    [InlineData("family", "cheese", "Choose family")]
    [InlineData("price", "12x", "not a unit")]
    public async Task Wrong_input_is_named_at_its_field_and_nothing_typed_is_lost(string field, string typed, string part)
    {
        await v.Go("/filaments/new");
        await v.Submit(
            "form.sheet", ("maker", "Nimbleby"), ("line", "Line " + field), ("s0.nozzleMin", "200"), ("s0.nozzleMax", "220"), ("notes", "kept"), (field, typed)
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(part, v.Text($"[id='err-{field}']"));
        Assert.Contains("kept", v.Page.QuerySelector("textarea[name=notes]")!.TextContent);
    }

    [Fact]
    public async Task Huge_text_is_refused_and_given_back_whole()
    {
        await v.Go("/filaments/new");
        var huge = new string('x', 200_000);
        await v.Submit("form.sheet", ("maker", huge), ("line", "L"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(huge, v.Value("maker"));
    }

    [Fact]
    public async Task Every_form_survives_garbage()
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Read))).Id;
        var pairing = (await site.WithDb(db => db.Pairings.FirstAsync())).Id;
        var printer = (await site.WithDb(db => db.Printers.FirstAsync())).Id;
        var spool = (await site.WithDb(db => db.Spools.FirstAsync())).Id;
        string[] pages =
        [
            $"/runs/{run}", $"/pairings/{pairing}", $"/pairings/{pairing}/temperature-tower", $"/pairings/{pairing}/temperature-tower?mode=own",
            $"/printers/{printer}", $"/printers/{printer}/edit", $"/spools/{spool}", $"/spools/{spool}/edit", "/pairings/new", "/room", "/preferences",
        ];
        foreach (var page in pages)
        {
            await v.Go(page);
            Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
            var forms = v.Page.QuerySelectorAll("form[method=post]")
                .Select(f =>
                    (
                        f.GetAttribute("action") ?? "",
                        f.QuerySelectorAll("[name]").Select(i => i.GetAttribute("name")!).Where(n => n != "__RequestVerificationToken").Distinct().ToList()))
                .Where(f => !f.Item1.Contains("Remove") && !f.Item1.Contains("undo") && !f.Item1.Contains("Pin")).ToList();
            foreach (var (action, fields) in forms)
            {
                foreach (var garbage in new[] { "", "<b>'\";--", "-1e999", "１２", new string('9', 5000) })
                {
                    await v.Go(page);
                    var form = v.Page.QuerySelectorAll("form[method=post]").FirstOrDefault(f => (f.GetAttribute("action") ?? "") == action);
                    if (form is null)
                        continue;
                    form.Id = "target";
                    await v.Press("#target", action, [.. fields.Select(f => (f, garbage))]);
                    Assert.True((int)v.Last.StatusCode < 500, $"{page} {action} with {garbage[..Math.Min(10, garbage.Length)]}: {(int)v.Last.StatusCode}");
                }
            }
        }
    }

    [Fact]
    public async Task A_removal_offers_undo_and_undo_brings_it_back()
    {
        var id = (await site.WithDb(db => db.Spools.FirstAsync(s => s.Name == "C-01"))).Id;
        await v.Go($"/spools/{id}");
        await v.Submit("form.quiet");
        Assert.Contains("C-01 is removed", v.Text(".told"));
        await v.Submit("form[action='/undo']");
        Assert.Equal($"/spools/{id}", v.Path);
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }

    [Fact]
    public async Task A_spool_in_a_dry_box_hardly_ages_its_hours_of_drying_are_the_same_everywhere_and_a_new_one_is_no_old_one()
    {
        var old = await site.WithDb(db => db.Spools.Include(s => s.Filament).FirstAsync(s => s.Filament!.Family == "PLA" && s.World == Worlds.Real));
        await site.WithDb(async db =>
        {
            var spool = await db.Spools.Include(s => s.Dryings).FirstAsync(s => s.Id == old.Id);
            spool.OpenedAt = DateTime.UtcNow.AddDays(-60);
            spool.Dryings.ForEach(d => d.RemovedAt = DateTime.UtcNow);
            return await db.SaveChangesAsync();
        });
        await v.Go($"/spools/{old.Id}");
        Assert.Contains("Damp: open for 60 days", v.Text(".dryness"));
        var hours = System.Text.RegularExpressions.Regex.Match(v.Text(".dryness"), @"Dry it for ([\d.]+) h at (\d+) °C");
        await v.Go("/");
        Assert.Contains($"{hours.Groups[1].Value} h at {hours.Groups[2].Value} °C", v.Text("main"));
        await v.Go($"/spools/{old.Id}");
        await v.Submit("form[action$='Lie']", ("place", "dry-box"), ("placeAt", DateTime.UtcNow.AddDays(-59).ToString("yyyy-MM-dd")));
        Assert.Contains("Where it lies: in a dry box", v.Text("#lies"));
        Assert.Contains("of it in shelter", v.Text("main"));
        Assert.DoesNotContain("Damp", v.Text(".dryness"));
        await v.Submit("form[action$='Remove']");
        Assert.Contains("Where it lies: open in the room", v.Text("#lies"));
        await v.Submit("form[action='/undo']");
        await v.Go($"/spools/{old.Id}");
        Assert.Contains("Where it lies: in a dry box", v.Text("#lies"));
    }

    [Fact]
    public async Task Fitting_a_part_says_before_what_it_makes_doubtful_and_undo_puts_it_back()
    {
        var printer = await site.WithDb(db => db.Printers.FirstAsync(p => p.Name == "Whimbrel 300"));
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Sill" && p.Toolhead!.PrinterId == printer.Id));
        await v.Go($"/printers/{printer.Id}");
        await v.Press("form.tight", "?handler=Preview", ("slot", "nozzle"), ("description", "0.4 steel"));
        Assert.Contains("makes doubtful", v.Text(".notice"));
        Assert.Contains("nozzle temperature", v.Text(".notice"));
        await v.Submit("form.tight", ("fitNozzleMm", "0.4"), ("fitNozzleFlow", "standard"), ("fitNozzleMaterial", "hardened steel"));
        async Task<string> State() =>
            (
                await new Func<Task<string>>(async () =>
                {
                    await v.Go($"/pairings/{pairing.Id}");
                    return v.Text("#nozzleTemperatureC .state");
                })());
        await v.Go($"/pairings/{pairing.Id}");
        Assert.Equal("doubtful", v.Text("#nozzleTemperatureC .state"));
        await v.Go($"/printers/{printer.Id}");
        var part = await site.WithDb(db => db.Parts.OrderByDescending(p => p.Id).FirstAsync());
        await v.Press("form.tight", "/undo", ("what", $"part:{part.Id}"));
        Assert.Equal("provisional", await State());
    }

    [Fact]
    public async Task A_new_pairing_proposes_the_most_alike_and_says_why()
    {
        var f = await site.WithDb(db => db.Filaments.FirstAsync(x => x.Line == "Tarn"));
        var t = await site.WithDb(db => db.Toolheads.FirstAsync(x => x.Name == "left"));
        await v.Go($"/pairings/new?filament={f.Id}&toolhead={t.Id}");
        Assert.Contains("Copy of Ninepin Tarn on Whimbrel 300", v.Text("form.sheet"));
        Assert.Contains("The most alike: same product", v.Text("form.sheet"));
        await v.Submit("form.sheet");
        Assert.Contains("copied from Ninepin Tarn on Whimbrel 300", v.Text("#nozzleTemperatureC"));
        Assert.Contains("inherited", v.Text("#nozzleTemperatureC .state"));
        Assert.DoesNotContain("confirmed", v.Text(".profile"));
    }

    [Fact]
    public async Task The_demo_covers_what_it_promises()
    {
        await v.Go("/pairings");
        Assert.Equal(7, v.Page.QuerySelectorAll("#pairings tbody tr").Length);
        var runs = await site.WithDb(db =>
            db.Runs.AsNoTracking().Include(r => r.Readings).Include(r => r.Pairing!.Filament!.Sources).Include(r => r.Pairing!.Toolhead!.Printer)
                .Where(r => r.Kind == "temperature-tower")
                .ToListAsync());
        var views = runs.Select(r =>
                TrialRuns.View(Core.Trials.TrialCatalogue.Get(r.Kind), r, r.Pairing, r.Pairing!.Toolhead!, new Dictionary<Guid, Core.Statistics.ScoreNoise>()))
            .ToList();
        foreach (var verdict in new[] { "clear", "band", "edge" })
            Assert.Contains(views, x => x.Verdict.Verdict == verdict);
        // Each that advises says what is lost by it.
        Assert.All(views.Where(x => x.Verdict.Settings.Count > 0), x => Assert.InRange(x.Verdict.Loss!.P95, x.Verdict.Loss.Expected, 4));
        Assert.Contains(views, x => x.Run.EndedAtLayer is not null && x.States.Contains(Core.Trials.SectionState.Lost));
        Assert.Contains(views, x => x.States[^1] == Core.Trials.SectionState.Failed);
        Assert.Contains(views, x => x.Run.Stage == RunStages.Printed && x.Empty.Count > 0);
        var heath = await site.WithDb(db =>
            db.Settings.Where(s =>
                    s.Key == "nozzleTemperatureC"
                    && db.Revisions.Any(r => r.Id == s.RevisionId && db.Pairings.Any(p => p.Id == r.PairingId && p.Filament!.Line == "Heath")))
                .Select(s => s.Value).Distinct()
                .ToListAsync());
        Assert.True(heath.Count > 2);
    }

    [Fact]
    public async Task The_log_exports_as_csv_that_no_table_program_runs()
    {
        // A line that a table program would run, with all that could end its field.
        await site.WithDb(async db =>
        {
            db.Log.Add(new() { At = DateTime.UtcNow, Kind = "run", Text = "=HYPERLINK(\"x\",1), \"two\"\nlines" });
            db.Log.Add(new() { At = DateTime.UtcNow, Kind = "run", Text = "+1" });
            return await db.SaveChangesAsync();
        });
        var csv = await v.Client.GetStringAsync("/log?handler=Csv&kind=run");
        Assert.StartsWith("atUtc,kind,text,person,link,undone", csv.TrimStart('\uFEFF'));
        using var reader = CsvHelper.CsvReader.FromText(csv.TrimStart('\uFEFF'), new());
        reader.ReadHeader();
        var rows = new List<(string Kind, string Text)>();
        while (reader.Read())
            rows.Add((reader.GetString(1), reader.GetString(2)));
        Assert.True(rows.Count > 10);
        Assert.All(rows, r => Assert.Equal("run", r.Kind));
        Assert.All(rows, r => Assert.DoesNotMatch(@"^[=+\-@\t\r]", r.Text));
        Assert.Contains(rows, r => r.Text == "'=HYPERLINK(\"x\",1), \"two\"\nlines");
        Assert.Contains(rows, r => r.Text == "'+1");
    }

    [Fact]
    public async Task A_profile_exports_as_json_and_as_text()
    {
        var id = (await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath"))).Id;
        var json = System.Text.Json.JsonDocument.Parse(await v.Client.GetStringAsync($"/pairings/{id}/profile.json")).RootElement;
        Assert.Equal(("glenfrost-archive", "profile"), (json.GetProperty("format").GetString(), json.GetProperty("scope").GetString()));
        Assert.Contains(json.GetProperty("readable").GetProperty("settings").EnumerateArray(), s => s.GetProperty("key").GetString() == "nozzleTemperatureC");
        Assert.Contains("Nozzle temperature", await v.Client.GetStringAsync($"/pairings/{id}/profile.txt"));
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/pairings/{id}/profile.exe")).StatusCode);
    }
}
