using System.Net;
using Glenfrost.Application;
using Glenfrost.Core.Equipment;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What a tester adds to a machine: own checks, versions that were used together, its reference piece.</summary>
public class MachineTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    private Task<Printer> Dunnock() => site.WithDb(db => db.Printers.AsNoTracking().FirstAsync(p => p.Name == "Dunnock 180"));

    private Task<Guid> Heath() => site.WithDb(db => db.Pairings.Where(p => p.Filament!.Line == "Heath" && p.Toolhead!.Printer!.Name == "Dunnock 180")
        .Select(p => p.Id).FirstAsync());

    private Task<Core.Evidence.EvidenceState> TemperatureOf(Guid pairing) => site.WithDb(db => db.Standings.AsNoTracking()
        .Where(s => s.PairingId == pairing && s.Key == "nozzleTemperatureC").Select(s => s.State).FirstAsync());

    [Fact]
    public async Task An_own_check_found_wanting_makes_doubtful_what_was_said_of_it_and_in_order_again_it_does_not()
    {
        var (p, pairing) = (await Dunnock(), await Heath());
        var page = $"/printers/{p.Id}/checks";
        await v.Go(page);
        await v.Submit("form[action*='handler=Own']", ("ownLabel", ""), ("ownEvery", "often"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal("often", v.Value("ownEvery"));
        await v.Submit("form[action*='handler=Own']", ("ownLabel", "Belt of the feeder"), ("ownHow", "No play."), ("ownEvery", "60"), ("ownArea0", "temperature"));
        Assert.Contains("not done yet", v.Text("#own-beltofthefeeder"));
        var before = await TemperatureOf(pairing);
        Assert.NotEqual(Core.Evidence.EvidenceState.Doubtful, before);
        await v.Submit("#own-beltofthefeeder details form", ("bad", "1"), ("note", "slack"));
        Assert.Contains("found wanting", v.Text("#own-beltofthefeeder"));
        Assert.Equal(Core.Evidence.EvidenceState.Doubtful, await TemperatureOf(pairing));
        // The route asks for it, and the pairing says why it is doubtful.
        await v.Go($"/pairings/{pairing}");
        Assert.Contains("Belt of the feeder", v.Text(".waypoints"));
        await v.Go(page);
        // Noted a second time by mistake: undo takes that one back, and the doubt of the first stays.
        await v.Submit("#own-beltofthefeeder details form", ("bad", "1"), ("note", "by mistake"));
        await v.Submit("form[action='/undo']");
        Assert.DoesNotContain("by mistake", v.Text("main"));
        Assert.Equal(Core.Evidence.EvidenceState.Doubtful, await TemperatureOf(pairing));
        await v.Submit("#own-beltofthefeeder details form", ("note", "tightened"));
        Assert.Equal(before, await TemperatureOf(pairing));
        // In order by mistake: undo brings the doubt back that it had lifted, and undoing the undo lifts it again.
        await v.Submit("form[action='/undo']");
        Assert.Equal(Core.Evidence.EvidenceState.Doubtful, await TemperatureOf(pairing));
        await v.Go(page);
        await v.Submit("#own-beltofthefeeder details form", ("note", "tightened"));
        Assert.Equal(before, await TemperatureOf(pairing));
        await v.Submit("#own-beltofthefeeder form[action*='OwnOut']");
        Assert.Null(v.Page.QuerySelector("#own-beltofthefeeder"));
        Assert.Contains("tightened", v.Text("main"));
    }

    [Fact]
    public async Task A_reference_piece_that_is_due_stands_on_today()
    {
        var (p, pairing) = (await Dunnock(), await Heath());
        await using var scope = site.Services.CreateAsyncScope();
        var printers = scope.ServiceProvider.GetRequiredService<PrinterBook>();
        async Task<TodayRow?> Row() => (await scope.ServiceProvider.GetRequiredService<Today>().ListAsync(200)).Rows
            .SingleOrDefault(r => r.Title == "Reference piece");
        Assert.Null(await Row());
        await site.WithDb(db => db.Printers.Where(x => x.Id == p.Id).ExecuteUpdateAsync(s => s.SetProperty(
            x => x.PulseJson, Json.Write(new PulseOf(pairing, 30)))));
        var last = await site.WithDb(db => db.Runs.Where(r => r.PairingId == pairing && r.Kind == "quick-check" && r.RemovedAt == null).MaxAsync(r => r.PrintedAt));
        var row = await Row();
        if (last >= DateTime.UtcNow.AddDays(-30))
            Assert.Null(row);
        else
            Assert.Equal((p.Name, $"/printers/{p.Id}/pulse"), (row!.Where, row.Link));
        site.Clock.Ahead = TimeSpan.FromDays(45);
        Assert.Contains("every 30 days", (await Row())!.Reason);
        site.Clock.Ahead = TimeSpan.Zero;
        await site.WithDb(db => db.Printers.Where(x => x.Id == p.Id).ExecuteUpdateAsync(s => s.SetProperty(x => x.PulseJson, (string?)null)));
    }

    [Fact]
    public async Task What_a_printer_draws_is_typed_checked_and_counted_in_what_prints_cost()
    {
        var (p, pairing) = (await Dunnock(), await Heath());
        await using var scope = site.Services.CreateAsyncScope();
        async Task<double> MoneyOf() => System.Text.Json.JsonDocument.Parse(await v.Client.GetStringAsync($"/api/v1/pairings/{pairing}/route")).RootElement
            .GetProperty("steps").EnumerateArray().Where(s => s.TryGetProperty("costs", out _)).Select(s => s.GetProperty("costs"))
            .Sum(c => c.GetProperty("moneyMinor").GetDouble());
        await v.Go($"/printers/{p.Id}/edit");
        Assert.Equal(("95", "0.32"), (v.Value("powerW"), v.Value("kwhPrice")));
        await v.Submit("form.sheet", ("powerW", "1 MW"), ("kwhPrice", "-1"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Equal(("1 MW", "-1"), (v.Value("powerW"), v.Value("kwhPrice")));
        var with = await MoneyOf();
        await v.Go($"/printers/{p.Id}/edit");
        await v.Submit("form.sheet", ("powerW", ""), ("kwhPrice", "0.32"));
        var without = await MoneyOf();
        Assert.True(with > without, $"{with} {without}");
        await v.Go($"/printers/{p.Id}/edit");
        await v.Submit("form.sheet", ("powerW", "95"), ("kwhPrice", "0.32"));
        Assert.Equal(with, await MoneyOf(), 6);
    }

    [Fact]
    public async Task A_pair_of_versions_is_kept_with_its_day_and_what_differs_is_a_change_of_the_machine()
    {
        var p = await Dunnock();
        await v.Go($"/printers/{p.Id}");
        await v.Submit("form.sheet[action*='handler=Version']", ("verFirmware", ""), ("verAt", "someday"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Submit("form.sheet[action*='handler=Version']", ("verFirmware", "4.1"), ("verSlicer", "2.0"), ("verAt", "2026-02-01"), ("verStable", "yes"));
        Assert.Contains("4.1 with 2.0", v.Text("main"));
        var parts = await site.WithDb(db => db.Parts.CountAsync(x => x.PrinterId == p.Id && x.Slot == "firmware"));
        await v.Submit("form.sheet[action*='handler=Version']", ("verFirmware", "4.2"), ("verSlicer", "2.0"), ("verStable", ""));
        Assert.Contains("doubtful", v.Text(".told"));
        Assert.Equal(parts + 1, await site.WithDb(db => db.Parts.CountAsync(x => x.PrinterId == p.Id && x.Slot == "firmware")));
        Assert.Equal("4.2", (await Dunnock()).Firmware);
        var pairs = PrinterBook.VersionsOf(await Dunnock());
        Assert.Equal("4.1", VersionPair.InUse(pairs, new DateTime(2026, 5, 1, 0, 0, 0, DateTimeKind.Utc))!.Firmware);
        Assert.Null(VersionPair.InUse(pairs, new DateTime(2026, 1, 1, 0, 0, 0, DateTimeKind.Utc)));
        // A run says which pair it was made with.
        var run = await site.WithDb(db => db.Runs.Where(r => r.Pairing!.Toolhead!.PrinterId == p.Id && r.PrintedAt > new DateTime(2026, 4, 1) && r.RemovedAt == null)
            .Select(r => r.Id).FirstAsync());
        await v.Go($"/runs/{run}/made-with");
        Assert.Contains("4.1 with 2.0, stable together", v.Text("main"));
        await v.Go($"/printers/{p.Id}");
        await v.Submit("form[action*='handler=VersionOut']");
        Assert.Single(PrinterBook.VersionsOf(await Dunnock()));
    }

    [Fact]
    public async Task The_reference_piece_tells_a_machine_that_changed_from_one_that_did_not()
    {
        var (p, pairing) = (await Dunnock(), await Heath());
        await v.Go($"/printers/{p.Id}/pulse");
        Assert.Contains("No reference piece", v.Text("#says"));
        await v.Submit("main form.sheet", ("pairing", Guid.NewGuid().ToString()), ("every", "0"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        await v.Submit("main form.sheet", ("pairing", pairing.ToString()), ("every", "30"));
        Assert.Contains("limits need 5", v.Text("#says"));
        var like = await site.WithDb(db => db.Runs.AsNoTracking().Include(r => r.Readings)
            .FirstAsync(r => r.PairingId == pairing && r.Kind == "quick-check" && r.ReadAt != null));
        async Task Print(int number, DateTime at, double by, double more = 0) => await site.WithDb(db =>
        {
            var run = new Run
            {
                Kind = like.Kind, PairingId = pairing, PlanJson = like.PlanJson, PlanVersion = like.PlanVersion, Number = number, Stage = RunStages.Left,
                CreatedAt = at, PrintedAt = at, ReadAt = at, FactorsJson = like.FactorsJson, MassUg = (like.MassUg ?? 6_200_000) + (long)(more * 1e6),
            };
            db.Runs.Add(run);
            db.Readings.AddRange(like.Readings.Where(r => r.SupersedesId == null && r.Value != null).Select(r => new Reading
            {
                RunId = run.Id, Key = Guid.NewGuid().ToString(), Section = r.Section, Aspect = r.Aspect, At = at,
                Value = r.Aspect.StartsWith("wall", StringComparison.Ordinal) ? r.Value + by : r.Value, Entered = "as read",
            }));
            return db.SaveChangesAsync();
        });
        var day = DateTime.UtcNow;
        for (var i = 0; i < 6; i++)
            await Print(60 + i, day.AddMinutes(i), i % 2 * 0.004, i % 2 * 0.02);
        await v.Go($"/printers/{p.Id}/pulse");
        Assert.Contains("as it was", v.Text("#says"));
        Assert.Contains("a wall would have to differ by", v.Text("#says"));
        await site.WithDb(db =>
        {
            db.Parts.Add(new Part { PrinterId = p.Id, Slot = "extruder", Description = "new idler", FittedAt = day.AddMinutes(7) });
            return db.SaveChangesAsync();
        });
        await Print(70, day.AddMinutes(8), 0.08);
        await v.Go($"/printers/{p.Id}/pulse");
        Assert.Contains("has changed: wall", v.Text("#says"));
        Assert.Contains("new idler", v.Text("#says"));
        Assert.Equal(["Wall", "Strings", "Mass"], v.Page.QuerySelectorAll("figure.pulse figcaption").Select(c => c.TextContent.Split(':', ',')[0]));
        // Weighed far lighter with walls as they were: what comes out has changed all the same.
        await site.WithDb(db => db.Runs.Where(r => r.PairingId == pairing && r.Number == 70).ExecuteDeleteAsync());
        await Print(71, day.AddMinutes(9), 0.002, -0.9);
        await v.Go($"/printers/{p.Id}/pulse");
        Assert.Contains("has changed: mass", v.Text("#says"));
    }

    [Fact]
    public async Task The_same_is_printed_again_on_another_pairing_with_all_else_held_and_stands_as_a_row_of_what_is_to_blame()
    {
        var pairing = await Heath();
        var run = await site.WithDb(db => db.Runs.AsNoTracking().Where(r => r.PairingId == pairing && r.Kind == "quick-check" && r.PrintedAt != null)
            .FirstAsync());
        await v.Go($"/runs/{run.Id}/again");
        var on = v.Page.QuerySelectorAll("table.list tbody tr").First(r => r.TextContent.Contains("Heath on Whimbrel"));
        Assert.Contains("printer", on.TextContent);
        await v.Go(on.QuerySelector("a.btn")!.GetAttribute("href")!);
        Assert.Contains("The same as", v.Text("#like"));
        await using var scope = site.Services.CreateAsyncScope();
        var factors = (await scope.ServiceProvider.GetRequiredService<SameAgain>().OfAsync(run.Id))!;
        var held = HeldSettings.Of(factors);
        await v.Submit("#plan");
        var made = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.LinkedRunId == run.Id && r.LinkKind == SameAgain.Link));
        Assert.NotEqual(pairing, made.PairingId);
        // What was held is what the new plan's factors say.
        var planned = Core.Factors.FactorSet.Read(made.FactorsJson!);
        foreach (var (key, value) in held.Values.Where(h => planned[h.Key]?.Number is not null && h.Key is "fanPercent" or "outerWallSpeedMmPerS"))
            Assert.Equal(value, planned[key]!.Number!.Value, 6);
        // Planned anew, it holds what it held.
        await v.Go($"/pairings/{made.PairingId}/quick-check?run={made.Id}");
        Assert.Contains("The same as", v.Text("#like"));
        await v.Submit("#plan");
        var anew = Core.Factors.FactorSet.Read((await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Id == made.Id))).FactorsJson!);
        Assert.NotEmpty(anew.Values);
        Assert.Equal(planned.Values.Select(f => (f.Key, f.Value.Number)), anew.Values.Select(f => (f.Key, f.Value.Number)));
        await v.Go($"/blame?run={run.Id}");
        Assert.Contains("Heath", v.Value("filament0"));
        Assert.Equal(("0", "1"), (v.Value("passed0"), v.Value("tried0")));
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/runs/{Guid.NewGuid()}/again")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/pairings/{made.PairingId}/wall-flow?like={run.Id}")).StatusCode);
    }
}
