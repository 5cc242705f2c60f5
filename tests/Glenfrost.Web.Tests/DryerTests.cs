using System.Net;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>Dryers: added, changed, removed and brought back, chosen where a drying is logged, and paid for by what is printed.</summary>
public class DryerTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Dryer> Called(string name) => site.WithDb(db => db.Dryers.AsNoTracking().FirstAsync(d => d.Name == name));

    private async Task Add(string name, string most, string draws)
    {
        await v.Go("/dryers");
        await v.Submit("form[action='/dryers']", ("name", name), ("maxC", most), ("powerW", draws));
    }

    [Fact]
    public async Task A_dryer_is_added_changed_removed_and_brought_back()
    {
        await v.Go("/preferences");
        Assert.NotNull(v.Page.QuerySelector("a[href='/dryers']"));
        // What is wrong is said at its field, and nothing that was typed is lost.
        await Add("", "500", "9000");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.All(new[] { "name", "maxC", "powerW" }, f => Assert.NotEqual("", v.Text($"#err-{f}")));
        Assert.Equal(("500", "9000"), (v.Value("maxC"), v.Value("powerW")));
        await Add("Left bay", "70", "");
        Assert.Contains("already", v.Text("#err-name"));
        await Add("Tall box", "70", "120");
        Assert.Contains("120 W", v.Text("main"));
        var box = await Called("Tall box");
        await v.Go($"/dryers?edit={box.Id}");
        Assert.Equal(("Tall box", "70", "120"), (v.Value("name"), v.Value("maxC"), v.Value("powerW")));
        // Another tab saved it meanwhile: told, and what was typed stands.
        await site.WithDb(db => db.Dryers.Where(d => d.Id == box.Id).ExecuteUpdateAsync(s => s.SetProperty(d => d.Version, d => d.Version + 1)));
        await v.Submit("form[action='/dryers']", ("maxC", "75"));
        Assert.Equal(HttpStatusCode.Conflict, v.Last.StatusCode);
        Assert.Equal("75", v.Value("maxC"));
        await v.Submit("form[action='/dryers']");
        Assert.Equal(75, (await Called("Tall box")).MaxC);
        await v.Submit($"form[action*='Remove']:has(input[value='{box.Id}'])");
        Assert.Contains("is removed", v.Text(".told"));
        Assert.NotNull((await Called("Tall box")).RemovedAt);
        await v.Submit("form[action='/undo']");
        Assert.Null((await Called("Tall box")).RemovedAt);
        await v.Go($"/dryers?edit={Guid.NewGuid()}");
        Assert.Equal("", v.Value("name"));
    }

    [Fact]
    public async Task What_is_printed_carries_its_share_of_the_drying()
    {
        await Add("Small oven", "80", "100");
        var oven = await Called("Small oven");
        // The part that the demo printed, from a spool that is said now.
        var run = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Pairing!.Filament).Include(r => r.Pairing!.Toolhead!.Printer)
            .Where(r => r.Kind == "part" && r.Files.Any()).OrderByDescending(r => r.Number).FirstAsync());
        var spool = await site.WithDb(db => db.Spools.Where(s => s.FilamentId == run.Pairing!.FilamentId && s.RemovedAt == null && s.World == Worlds.Real)
            .Select(s => s.Id).FirstAsync());
        // It was dried in the demo as well; the newest drying before the print counts.
        var before = run.PrintedAt!.Value.AddDays(-9);
        await site.WithDb(db => db.Dryings.Where(d => d.SpoolId == spool).ExecuteUpdateAsync(s => s.SetProperty(d => d.StartAt, before)));
        await v.Go($"/runs/{run.Id}?open=read");
        await v.Submit("#conditions form", ("spool", spool.ToString()));
        await site.WithDb(db => db.Printers.Where(p => p.Id == run.Pairing!.Toolhead!.PrinterId)
            .ExecuteUpdateAsync(s => s.SetProperty(p => p.PowerW, 90.0).SetProperty(p => p.MinorPerKwh, 40.0)));
        // An oven that does not reach what is typed did not dry at it.
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action*='Drying']", ("dryC", "95"), ("dryH", "10"), ("dryIn", oven.Id.ToString()));
        Assert.Contains("reaches 80 °C", v.Text("#err-dryIn"));
        await v.Submit("form[action*='Drying']", ("dryC", "45"), ("dryIn", Guid.NewGuid().ToString()));
        Assert.NotEqual("", v.Text("#err-dryIn"));
        await v.Submit("form[action*='Drying']", ("dryIn", oven.Id.ToString()), ("dryAt", run.PrintedAt!.Value.AddDays(-1).ToString("yyyy-MM-dd",
            System.Globalization.CultureInfo.InvariantCulture)));
        Assert.True(v.Last.IsSuccessStatusCode, string.Join(" ", v.Page.QuerySelectorAll(".err").Select(e => e.TextContent)));
        Assert.Contains("Small oven", v.Text("table.list"));
        var noted = await site.WithDb(db => db.Dryings.AsNoTracking().Where(d => d.DryerId == oven.Id).SingleAsync());
        Assert.Equal((45.0, 10.0), (noted.TemperatureC, noted.Hours));
        // By hand: 100 W for 10 h are 1 kWh, shared by the 1,000 g of a reel: of 5.3 g at 40 cent 0.2 cent, at 40 EUR 0.21 EUR.
        await v.Go($"/runs/{run.Id}");
        Assert.Contains(", drying under 0.01; ", v.Text("#tally"));
        Assert.Contains("EUR a cm³ of plastic.", v.Text("#tally"));
        var spent = (await Spent(run.Pairing!))!.Value;
        await site.WithDb(db => db.Printers.Where(p => p.Id == run.Pairing!.Toolhead!.PrinterId)
            .ExecuteUpdateAsync(s => s.SetProperty(p => p.MinorPerKwh, 4000.0)));
        var grams = run.MassUg is { } mass ? mass / 1e6 : Core.Trials.TrialCatalogue.Get("part").ReadPlan(run.PlanJson).Estimate.MassG!.Value;
        await v.Go($"/runs/{run.Id}");
        var share = 4000 * grams / (run.Pairing!.Filament!.NetMassUg!.Value / 1e6) / 100;
        Assert.Contains(FormattableString.Invariant($", drying {share:0.00} EUR"), v.Text("#tally"));
        // A newer one of which nobody said where takes its place: what it drew is not known.
        await v.Go($"/spools/{spool}");
        await v.Submit("form[action*='Drying']", ("dryC", "45"), ("dryH", "5"), ("dryAt", run.PrintedAt!.Value.ToString("yyyy-MM-dd",
            System.Globalization.CultureInfo.InvariantCulture)));
        var newer = await site.WithDb(db => db.Dryings.Where(d => d.SpoolId == spool && d.DryerId == null).ExecuteUpdateAsync(s => s.SetProperty(
            d => d.StartAt, run.PrintedAt!.Value.AddHours(-2))));
        Assert.Equal(1, newer);
        await v.Go($"/runs/{run.Id}");
        Assert.DoesNotContain("drying", v.Text("#tally"));
        await site.WithDb(db => db.Dryings.Where(d => d.SpoolId == spool && d.DryerId == null).ExecuteDeleteAsync());
        // What the hunt cost carries it too.
        Assert.True((await Spent(run.Pairing!))!.Value > spent);
    }

    private Task<double?> Spent(Pairing p) => site.WithDb(async db =>
    {
        var work = new WorkContext(db, new Storage.WriteGate(), TimeProvider.System);
        var full = await db.Pairings.AsNoTracking().Include(x => x.Filament).Include(x => x.Toolhead!.Printer).FirstAsync(x => x.Id == p.Id);
        return (await new GoalBook(work, new ScoreNoises(db), new AnswerCache(), new Storage.WriteGate(), new DryerBook(work)).SpentAsync(full)).MoneyMinor;
    });
}
