using System.Net;
using System.Text;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A table of old notes: mapped, mended in place, taken in once.</summary>
public class NotesTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private const string Table = "Day;Printer;Material;Nozzle temp;Bed;Retraction;Remarks\r\n"
        + "31.3.2025;Dunnock 180;Tarn;228;85;4,5;\"went well; bed clean\"\r\n"
        + "2.4.2025;Dunnock;Tarn;226;85;4,5;\r\n"
        + "3.4.2025;Dunnock 180;Tern;225;85;;reel nearly empty\r\n"
        + "4.4.2025;Dunnock 180;Heath;209;;;kept at 209 then\r\n";

    private async Task Send(string table, Encoding? encoding = null)
    {
        await v.Go("/exchange");
        var form = new MultipartFormDataContent
        {
            { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" },
            { new ByteArrayContent([.. (encoding ?? Encoding.UTF8).GetPreamble(), .. (encoding ?? Encoding.UTF8).GetBytes(table)]), "file", "notebook.csv" },
        };
        await v.Take(await v.Client.PostAsync("/import", form));
    }

    [Fact]
    public async Task Old_notes_are_mapped_mended_and_taken_in_once()
    {
        await Send(Table);
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        Assert.Contains("2 rows new, 0 the same, 2 rows to mend", v.Text(".lead-text"));
        Assert.Contains("No printer or toolhead here is called \"Dunnock\". Nearest: Dunnock 180.", v.Text("body"));
        var page = v.Path;
        await v.Submit("form[action*='Mend']", ("r.1.1", "Dunnock 180"), ("r.2.2", "Turn"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains("3 rows new, 0 the same, 1 row to mend", v.Text(".lead-text"));
        // What was typed stands there when the page is opened again.
        await v.Go(page);
        Assert.Equal("Turn", v.Value("r.2.2"));
        // And is found again without its address.
        await v.Go("/exchange");
        var waiting = v.Page.QuerySelectorAll("main .plainlist a").Single(a => page.StartsWith(a.GetAttribute("href")!, StringComparison.Ordinal));
        await v.Go(waiting.GetAttribute("href")!);
        Assert.Equal("Turn", v.Value("r.2.2"));
        await v.Press("form[action*='Mend']", "?handler=Take");
        Assert.Contains("3 old notes taken in", v.Text(".told"));
        Assert.Contains("1 pairing made", v.Text(".told"));
        Assert.Contains("1 row still waits", v.Text(".told"));
        Assert.Contains("0 rows new, 3 the same, 1 row to mend", v.Text(".lead-text"));
        await v.Submit("form[action*='Mend']", ("r.2.2", "Tarn"));
        await v.Press("form[action*='Mend']", "?handler=Take");
        Assert.Equal("/exchange", v.Path);
        Assert.DoesNotContain(v.Page.QuerySelectorAll("main .plainlist a"), a => page.StartsWith(a.GetAttribute("href")!, StringComparison.Ordinal));

        var pairings = await site.WithDb(db => db.Pairings.AsNoTracking().Full().ToListAsync());
        var tarn = pairings.Single(p => p.Filament!.Line == "Tarn" && p.Toolhead!.FullName == "Dunnock 180");
        var settings = (await site.WithDb(db => db.ProfileAsync(tarn.Id)))!.Settings.ToDictionary(s => s.Key);
        // The latest of the notes stands, as provisional; 3 April came in last.
        Assert.Equal(
            (225, SettingState.Provisional, "old notes, 3 Apr 2025"),
            (settings["nozzleTemperatureC"].Value, settings["nozzleTemperatureC"].State, settings["nozzleTemperatureC"].OriginText));
        Assert.Equal(4.5, settings["retractionLengthMm"].Value);
        var heath = pairings.Single(p => p.Filament!.Line == "Heath" && p.Toolhead!.FullName == "Dunnock 180");
        Assert.Equal(SettingOrigin.Run, (await site.WithDb(db => db.ProfileAsync(heath.Id)))!["nozzleTemperatureC"]!.Origin);
        await v.Go($"/pairings/{heath.Id}");
        Assert.Contains("nozzle temperature 209 °C · kept at 209 then", v.Text("#findings"));

        await Send(Table);
        Assert.Contains("0 rows new, 2 the same, 2 rows to mend", v.Text(".lead-text"));

        await v.Go("/log?kind=import");
        await v.Submit(".undo-line");
        Assert.Contains("out of the profiles again", v.Text(".told"));
        Assert.True(await site.WithDb(db => db.Findings.CountAsync(f => f.PairingId == tarn.Id && f.RemovedAt == null)) >= 3);
    }

    [Fact]
    public async Task A_mapping_that_says_nothing_is_told_and_another_one_is_taken()
    {
        await Send("who,what,how hot\nHeath,Dunnock 180,\"210,5\"\n");
        Assert.Contains("No column is the filament", v.Text("body"));
        await v.Submit("form[action*='Map']", ("m.0", "filament"), ("m.1", "toolhead"), ("m.2", "moon"));
        Assert.Contains("No column is a setting", v.Text("body"));
        await v.Submit("form[action*='Map']", ("m.0", "filament"), ("m.1", "toolhead"), ("m.2", "nozzleTemperatureC"));
        Assert.Contains("1 row new", v.Text(".lead-text"));
        await v.Submit("form[action*='Drop']");
        Assert.Equal("/exchange", v.Path);
    }

    [Fact]
    public async Task Letters_of_an_old_table_program_are_read()
    {
        await Send("filament\tprinter\tnote\r\nHeath\tDunnock 180\tD\u00FCse s\u00E4ubern, 5 \u00B0 mehr\r\n", Encoding.Latin1);
        Assert.Contains("1 row new", v.Text(".lead-text"));
        Assert.Contains("D\u00FCse s\u00E4ubern, 5 \u00B0 mehr", v.Text("body"));
        await Send("filament,printer,note\r\nHeath,Dunnock 180,0.1 \u00B5m off\r\n", new UnicodeEncoding(false, true));
        Assert.Contains("1 row new", v.Text(".lead-text"));
        Assert.Contains("0.1 \u00B5m off", v.Text("body"));
    }

    [Theory]
    [InlineData("one column\r\nHeath\r\n", "1 column")]
    [InlineData("a,b,c\r\n", "no row below")]
    [InlineData("filament,printer,note\r\n\"Heath,Dunnock 180,never closed\r\nSill,Dunnock 180,x\r\n", "row")]
    public async Task A_table_that_is_none_is_told(string table, string says)
    {
        await Send(table);
        Assert.True((int)v.Last.StatusCode < 500);
        Assert.Contains(says, v.Page.QuerySelector("main")!.TextContent);
    }
}
