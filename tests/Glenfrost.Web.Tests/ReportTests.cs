using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Glenfrost.Application.Reports;
using Glenfrost.Core.Filaments;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>One page about a filament over its machines: what was found where, against the label, with the tester's words and what nobody tested.</summary>
public partial class ReportTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private static string Typed(Visitor v, string name) => v.Page.QuerySelector($"textarea[name={name}]")!.TextContent;

    private Task<Guid> Filament(string line) => site.WithDb(db => db.Filaments.Where(f => f.Line == line).Select(f => f.Id).FirstAsync());

    [Fact]
    public async Task It_says_what_was_found_on_each_machine_and_what_nobody_tested()
    {
        var id = await Filament("Heath");
        await v.Go($"/filaments/{id}");
        Assert.NotNull(v.Page.QuerySelector($"a[href='/filaments/{id}/report']"));
        await v.Go($"/filaments/{id}/report");
        var row = v.Page.QuerySelectorAll(".by-machine tbody tr").First(r => r.TextContent.Contains("Nozzle temperature"));
        Assert.Contains("label: 190–230 °C", row.TextContent);
        Assert.Contains("214 °C", row.TextContent);
        Assert.Contains("within the label", row.TextContent);
        Assert.Contains("long tube, PTFE-lined", v.Text(".by-machine thead"));
        Assert.Contains("strings", v.Text(".by-machine"));
        Assert.Contains("a good part", v.Text(".report"));
        Assert.Contains("8 of 10 good", v.Text(".report"));
        Assert.Contains("strength: no peg was broken", v.Text(".report"));
        Assert.Contains("Retraction: long tube", v.Text(".report"));
        // Starting values are none of what was found.
        using var said = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/filaments/{id}/report"));
        Assert.All(said.RootElement.GetProperty("machines").EnumerateArray().SelectMany(m => m.GetProperty("found").EnumerateArray()), f =>
            Assert.Contains(f.GetProperty("state").GetString(), new[] { "confirmed", "provisional", "doubtful" }));
    }

    [Fact]
    public async Task Words_are_kept_beside_the_numbers_and_none_that_was_typed_is_lost()
    {
        var id = await Filament("Sill");
        await v.Go($"/filaments/{id}/report");
        await v.Submit("form.sheet", ("summary", "Tough & clear <b>"), ("watch", new string('y', ReportNotes.Longest + 1)));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(ReportNotes.Longest + 1, Typed(v, "watch").Length);
        Assert.Equal("Tough & clear <b>", Typed(v, "summary"));
        await v.Submit("form.sheet", ("watch", "It strings."));
        Assert.Contains("Tough & clear <b>", v.Text(".summary"));
        Assert.Contains("It strings.", v.Text(".report"));
        // A second tab that was opened before is told, and keeps what it typed.
        var other = site.Visit();
        await other.Go($"/filaments/{id}/report");
        await v.Submit("form.sheet", ("summary", "Tough."));
        await other.Submit("form.sheet", ("summary", "Clear."));
        Assert.Equal(HttpStatusCode.Conflict, other.Last.StatusCode);
        Assert.Equal("Clear.", Typed(other, "summary"));
        Assert.Contains("Now saved as: Tough.", other.Page.Body!.TextContent);
        await v.Submit("form.sheet", ("summary", ""), ("watch", ""));
        Assert.Null(await site.WithDb(db => db.Filaments.Where(f => f.Id == id).Select(f => f.ReportJson).FirstAsync()));
    }

    [Fact]
    public async Task As_a_file_of_its_own_it_needs_nothing_else()
    {
        var reply = await v.Client.GetAsync($"/filaments/{await Filament("Heath")}/report?handler=File");
        Assert.Equal("brackenfell-heath-report.html", reply.Content.Headers.ContentDisposition!.FileName);
        var html = await reply.Content.ReadAsStringAsync();
        Assert.Contains("<style>", html);
        Assert.Contains("data:image/jpeg;base64,", html);
        Assert.DoesNotContain("<script", html);
        Assert.DoesNotContain("href=", html);
        Assert.All(Source().Matches(html), m => Assert.StartsWith("data:", m.Groups[1].Value));
        Assert.Contains("214 °C", WebUtility.HtmlDecode(html));
    }

    [Fact]
    public async Task Over_the_api_it_says_the_same()
    {
        var id = await Filament("Heath");
        using var said = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/filaments/{id}/report"));
        var machine = said.RootElement.GetProperty("machines").EnumerateArray().First(m => m.GetProperty("name").GetString() == "Dunnock 180");
        var nozzle = machine.GetProperty("found").EnumerateArray().First(f => f.GetProperty("key").GetString() == "nozzleTemperatureC");
        Assert.Equal((214, "confirmed"), (nozzle.GetProperty("value").GetDouble(), nozzle.GetProperty("state").GetString()));
        Assert.Equal((190, 230), (said.RootElement.GetProperty("labelMinC").GetInt32(), said.RootElement.GetProperty("labelMaxC").GetInt32()));
        Assert.Equal(2190, said.RootElement.GetProperty("minorPerKg").GetInt32());
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/api/v1/filaments/{Guid.NewGuid()}/report")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/filaments/{Guid.NewGuid()}/report")).StatusCode);
    }

    [Fact]
    public async Task Of_a_filament_that_nobody_tried_it_says_so()
    {
        var f = new Filament { Maker = "Ninepin", Line = "Untried", Family = "PLA", ChangedAt = DateTime.UtcNow };
        await site.WithDb(db =>
        {
            db.Add(f);
            return db.SaveChangesAsync();
        });
        await v.Go($"/filaments/{f.Id}/report");
        Assert.Contains("Nothing was measured of it", v.Text(".report"));
        Assert.Contains("a real part", v.Text(".report"));
        await site.WithDb(db => db.Filaments.Where(x => x.Id == f.Id).ExecuteDeleteAsync());
    }

    [Theory]
    [InlineData(190, 230, 214.0, "within the label")]
    [InlineData(190, 230, 236.0, "6 °C above the label")]
    [InlineData(190, 230, 186.0, "4 °C below the label")]
    [InlineData(null, null, 214.0, null)]
    [InlineData(190, 230, null, null)]
    public void A_temperature_is_set_against_the_label(int? min, int? max, double? found, string? says) =>
        Assert.Equal(says, ReportSentences.AgainstLabel(min is null ? null : new Span(min, max), found));

    [GeneratedRegex("src=\"([^\"]*)\"")]
    private static partial Regex Source();

    [Fact]
    public async Task What_a_second_tester_found_stands_beside_ones_own()
    {
        // The same filament on another bench: its rows have ids of their own, another printer and another person.
        var own = await Filament("Tarn");
        var pairing = await site.WithDb(db => db.Pairings.Where(p => p.FilamentId == own && p.World == Worlds.Real).Select(p => p.Id).FirstAsync());
        var sent = AnyId().Replace(await v.Client.GetStringAsync($"/pairings/{pairing}/pairing.json"), m => "9" + m.Value[1..])
            .Replace("Isla", "Rhona", StringComparison.Ordinal);
        sent = PrinterName().Replace(sent, "Snipe 250");
        await v.Go("/exchange");
        await v.Take(await v.Client.PostAsync("/import", new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" },
            { new ByteArrayContent(System.Text.Encoding.UTF8.GetBytes(sent)), "file", "rhona.json" },
        }));
        Assert.Contains("0 different", v.Text(".lead-text"));
        await v.Submit("form[action*='Take']");
        Assert.Contains("taken in", v.Text(".told"));
        await v.Go($"/filaments/{own}/report");
        // One's own comes first; of the other it says who found it, and on what.
        var heads = v.Page.QuerySelectorAll(".by-machine thead th").Skip(1).Select(h => h.TextContent).ToList();
        Assert.DoesNotContain("found by", heads[0]);
        Assert.Contains(heads, h => h.Contains("Snipe 250") && h.Contains("found by Rhona"));
        Assert.Contains("Isla, Rhona", v.Text(".rests"));
        using var said = JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/filaments/{own}/report"));
        Assert.Contains(said.RootElement.GetProperty("machines").EnumerateArray(), m => m.TryGetProperty("by", out var by) && by.GetString() == "Rhona");
        // From the other's side it is the other way round.
        var theirs = await site.WithDb(db => db.Filaments.Where(f => f.Line == "Tarn" && f.Id != own).Select(f => f.Id).SingleAsync());
        await v.Go($"/filaments/{theirs}/report");
        Assert.Contains("found by Isla", v.Text(".by-machine thead"));
    }

    [GeneratedRegex("[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}")]
    private static partial Regex AnyId();

    [GeneratedRegex("Ptarmigan 350|Whimbrel 300")]
    private static partial Regex PrinterName();
}
