using System.Net;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>Which reel is on which machine: a run takes it, and one of another filament is asked about before it is printed.</summary>
public class LoadedSpoolTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Guid> Spool(string name) => site.WithDb(db => db.Spools.Where(s => s.Name == name).Select(s => s.Id).FirstAsync());

    private Task<Toolhead> Dunnock() => site.WithDb(db => db.Toolheads.AsNoTracking().Include(t => t.Printer)
        .FirstAsync(t => t.Printer!.Name == "Dunnock 180" && t.Printer.World == Worlds.Real));

    private async Task Load(Guid spool, Guid head)
    {
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action*='handler=Load']", ("head", head.ToString()), ("loadedAt", ""));
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }

    [Fact]
    public async Task A_spool_is_on_one_machine_and_a_machine_has_one_spool()
    {
        var (one, other, head) = (await Spool("H-07"), await Spool("H-09"), await Dunnock());
        await Load(one, head.Id);
        Assert.Contains("On a machine: Dunnock 180", v.Text("#loaded"));
        await v.Go($"/printers/{head.PrinterId}");
        Assert.NotNull(v.Page.QuerySelector($"dd a[href='/spools/{one}']"));
        await Load(other, head.Id);
        Assert.Contains("H-07 is off it", v.Text(".told"));
        await v.Go($"/spools/{one}");
        Assert.Contains("On a machine: none", v.Text("#loaded"));
        var second = await site.WithDb(db => db.Toolheads.AsNoTracking().FirstAsync(t => t.Printer!.Name == "Whimbrel 300" && t.Printer.World == Worlds.Real));
        await Load(other, second.Id);
        Assert.Null((await Dunnock()).LoadedSpoolId);
        await v.Submit("form[action*='handler=Unload']");
        Assert.Contains("is off Whimbrel 300", v.Text(".told"));
        Assert.False(await site.WithDb(db => db.Toolheads.AnyAsync(t => t.LoadedSpoolId == one || t.LoadedSpoolId == other)));
        // What was done stands in the log.
        await v.Go("/log");
        Assert.Contains("Spool H-09 is loaded on Whimbrel 300", v.Text("main"));
    }

    [Fact]
    public async Task A_run_of_its_filament_is_offered_it_and_one_of_another_is_asked_about()
    {
        var (heath, head) = (await Spool("H-07"), await Dunnock());
        var sill = await site.WithDb(db => db.Spools.Where(s => s.Filament!.Line == "Sill" && s.World == Worlds.Real && s.RemovedAt == null).FirstAsync());
        var pairing = await site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.ToolheadId == head.Id && p.World == Worlds.Real)
            .Select(p => p.Id).FirstAsync());
        await v.Go($"/pairings/{pairing}/quick-check");
        await v.Submit("#plan");
        var run = $"/runs/{v.Planned()}";
        await v.Go(run);
        Assert.Null(v.Page.QuerySelector("#loaded"));
        await Load(sill.Id, head.Id);
        await v.Go(run);
        Assert.Contains($"Spool {sill.Name} of Brackenfell Sill is on Dunnock 180, and this run is of Brackenfell Heath", v.Text("#loaded"));
        await Load(heath, head.Id);
        await v.Go(run);
        Assert.Contains("Loaded: spool H-07", v.Text("#loaded"));
        Assert.Contains("loaded on Dunnock 180 since", v.Text("main"));
        // Taken off again, for the other tests of this class.
        await v.Go($"/spools/{heath}");
        await v.Submit("form[action*='handler=Unload']");
    }

    [Theory]
    [InlineData("", "")]
    [InlineData("not-an-id", "")]
    [InlineData("00000000-0000-0000-0000-000000000001", "")]
    [InlineData(null, "next year")]
    public async Task What_is_no_toolhead_or_no_day_is_told_at_its_field(string? head, string at)
    {
        var spool = await Spool("P-14");
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action*='handler=Load']", ("head", head ?? (await Dunnock()).Id.ToString()), ("loadedAt", at));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.False(await site.WithDb(db => db.Toolheads.AnyAsync(t => t.LoadedSpoolId == spool)));
    }
}
