using System.Net;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>A part that is fitted changes what the printer says of itself everywhere, and what plans are made for; undo takes it back.</summary>
public class FittedPartTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Printer> PrinterOf(string name) => site.WithDb(db => db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Name == name));

    private async Task FitAsync(Printer p, params (string, string)[] typed)
    {
        await v.Go($"/printers/{p.Id}");
        await v.Submit("form.tight", typed);
    }

    private async Task UndoAsync()
    {
        var part = await site.WithDb(db => db.Parts.OrderByDescending(p => p.Id).FirstAsync());
        await v.Press("form.tight", "/undo", ("what", $"part:{part.Id}"));
    }

    [Theory]
    [InlineData("nozzle", "fitNozzleMm fitNozzleFlow fitNozzleMaterial")]
    [InlineData("hotend", "fitLiner fitHeaterMaxC")]
    [InlineData("heater", "fitHeaterMaxC")]
    [InlineData("enclosure", "fitEnclosure")]
    public async Task What_a_part_changes_is_asked_with_it_and_nothing_typed_is_lost(string slot, string asked)
    {
        var p = await PrinterOf("Whimbrel 300");
        var parts = await site.WithDb(db => db.Parts.CountAsync());
        await FitAsync(p, ("slot", slot), ("description", "another one"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        foreach (var field in asked.Split(' '))
            Assert.NotEqual("", v.Text($"#err-{field}"));
        Assert.Equal("another one", v.Value("description"));
        Assert.Equal(parts, await site.WithDb(db => db.Parts.CountAsync()));
    }

    [Fact]
    public async Task A_wider_nozzle_stands_everywhere_the_old_pairings_say_so_and_undo_takes_it_back()
    {
        var p = await PrinterOf("Whimbrel 300");
        var before = Assert.Single(p.Toolheads);
        await FitAsync(
            p, ("slot", "nozzle"), ("description", "0.6 hardened"), ("fitNozzleMm", "0.6"), ("fitNozzleFlow", "standard"),
            ("fitNozzleMaterial", "hardened steel"));
        Assert.Contains("0.6 mm standard, hardened steel", v.Text("main"));
        await v.Go("/printers");
        Assert.Contains("0.6 standard, hardened steel", v.Text("main"));
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(x => x.ToolheadId == before.Id && x.Filament!.Line == "Sill"));
        foreach (var page in new[] { "", "/temperature-tower", "/retraction-sweep" })
        {
            await v.Go($"/pairings/{pairing.Id}{page}");
            Assert.Contains("carries a 0.6 mm standard nozzle now; this pairing is of 0.4", v.Text("main"));
        }

        // A new pairing is of the nozzle that is fitted, and planned for it.
        await v.Go($"/pairings/{pairing.Id}");
        await v.Go(v.Page.QuerySelector("p.warn a[href^='/pairings/new']")!.GetAttribute("href")!);
        await v.Submit("form.sheet");
        Assert.StartsWith("/pairings/", v.Path);
        Assert.DoesNotContain("carries a", v.Text("main"));
        await v.Go($"{v.Path}/temperature-tower");
        Assert.Equal("0.28", v.Value("layerHeightMm"));
        await v.Go($"/printers/{p.Id}");
        await UndoAsync();
        var after = Assert.Single((await PrinterOf("Whimbrel 300")).Toolheads);
        Assert.Equal(
            (before.NozzleDiameterMm, before.NozzleFlow, before.NozzleMaterial, before.NozzleMaxC),
            (after.NozzleDiameterMm, after.NozzleFlow, after.NozzleMaterial, after.NozzleMaxC));
    }

    [Fact]
    public async Task Another_hotend_brings_its_limits_and_what_nobody_tried_is_planned_within_them()
    {
        var p = await PrinterOf("Whimbrel 300");
        var pairing = await site.WithDb(db => db.Pairings.FirstAsync(x => x.Toolhead!.PrinterId == p.Id && x.Filament!.Line == "Tarn"));
        await v.Go($"/pairings/{pairing.Id}/temperature-tower");
        Assert.True(int.Parse(v.Value("hottestC")) > 230);
        await FitAsync(p, ("slot", "hotend"), ("description", "the old lined one"), ("fitLiner", "ptfe"), ("fitHeaterMaxC", "260"));
        Assert.Contains("PTFE", v.Text("main"));
        await v.Go($"/pairings/{pairing.Id}/temperature-tower");
        Assert.True(int.Parse(v.Value("hottestC")) <= 230);
        await v.Go($"/pairings/{pairing.Id}/first-layer");
        Assert.True(int.Parse(v.Value("nozzleTemperatureC")) <= 230);
        await v.Go($"/printers/{p.Id}");
        await UndoAsync();
        Assert.Equal("metal", (await PrinterOf("Whimbrel 300")).Toolheads[0].Liner);
    }

    [Fact]
    public async Task Enclosure_bed_and_firmware_stand_on_the_printer_an_older_one_changes_nothing_and_what_was_edited_since_stays()
    {
        var p = await PrinterOf("Dunnock 180");
        await FitAsync(p, ("slot", "enclosure"), ("description", "a box of boards"), ("fitEnclosure", "closed"));
        Assert.Contains("enclosure: closed", v.Text(".head"));
        await FitAsync(p, ("slot", "enclosure"), ("description", "a card screen"), ("fitEnclosure", "draught shield"), ("fittedAt", "2026-01-05"));
        Assert.Contains("enclosure: closed", v.Text(".head"));
        await FitAsync(p, ("slot", "bed"), ("description", "ribbed glass"));
        Assert.Contains("ribbed glass, up to", v.Text("main"));
        await FitAsync(p, ("slot", "firmware"), ("description", "Tarnfirm 9"));
        Assert.Contains("Tarnfirm 9", v.Text(".head"));
        await site.WithDb(db => db.Printers.Where(x => x.Id == p.Id).ExecuteUpdateAsync(s => s.SetProperty(x => x.Firmware, "Tarnfirm 10")));
        await UndoAsync();
        Assert.Contains("was changed since and stays", v.Text(".told"));
        Assert.Equal("Tarnfirm 10", (await PrinterOf("Dunnock 180")).Firmware);
    }
}
