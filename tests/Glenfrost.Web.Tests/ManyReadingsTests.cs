using System.Text.Json;
using Glenfrost.Application;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>Readings that come as one: all of them or none, each through the same door as a single one.</summary>
public class ManyReadingsTests(TestApp site) : IClassFixture<TestApp>
{
    private async Task<(string? Why, List<Reading> Stored)> Store(params IReadOnlyList<CellEntry> entries)
    {
        await using var scope = site.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<Storage.GlenfrostDb>();
        var run = await db.Runs.OrderBy(r => r.CreatedAt).FirstAsync(r => r.Stage == RunStages.Planned && r.Kind == "temperature-tower");
        var why = await scope.ServiceProvider.GetRequiredService<ReadingStore>().StoreAllAsync(run, entries, TimeSpan.FromSeconds(3));
        return (why, await site.WithDb(d => d.Readings.AsNoTracking().Where(r => r.RunId == run.Id).OrderBy(r => r.At).ToListAsync()));
    }

    private static CellEntry Cell(int section, string aspect, string text) => new(Guid.CreateVersion7().ToString(), section, aspect, text, null, null);

    [Fact]
    public async Task All_of_them_are_stored_or_none()
    {
        var (score, none) = await Store(Cell(0, "bridge", "3"), Cell(0, "strings", "7"));
        Assert.StartsWith("strings of section 0: ", score);
        Assert.Empty(none);
        Assert.StartsWith("bridge of section 99: Section 99 is not part", (await Store(Cell(99, "bridge", "3"))).Why);
        Assert.StartsWith("hue of section 0: ", (await Store(Cell(0, "hue", "3"))).Why);
        Assert.Equal("bridge of section 1 is read twice.", (await Store(Cell(1, "bridge", "3"), Cell(1, "bridge", "4"))).Why);
        Assert.StartsWith("massG of section 1: The mass is that of the whole piece", (await Store(Cell(1, CellAspects.Mass, "12"))).Why);

        var (why, stored) = await Store(Cell(0, "bridge", "3"), Cell(0, "strings", "2"), Cell(1, CellAspects.State, "failed"));
        Assert.Null(why);
        Assert.Equal([3.0, 2.0, null], stored.Select(r => r.Value));
        Assert.Equal(TimeSpan.FromSeconds(6), stored[2].At - stored[0].At);
        Assert.All(stored, r => Assert.NotNull(r.PersonId));
        Assert.Contains(
            await site.WithDb(d => d.Log.Where(l => l.Link == $"/runs/{stored[0].RunId}").Select(l => l.Text).ToListAsync()),
            t => t.StartsWith("3 readings on temperature tower", StringComparison.Ordinal));
        // What is read is read: what comes as one never goes over it.
        Assert.Equal("The run is read already.", (await Store(Cell(2, "bridge", "4"))).Why);
    }

    [Fact]
    public async Task A_spool_that_was_opened_since_the_last_run_is_named_beside_the_one_that_it_was_printed_from()
    {
        await using var scope = site.Services.CreateAsyncScope();
        var (reports, runs) = (scope.ServiceProvider.GetRequiredService<PrintReports>(), scope.ServiceProvider.GetRequiredService<TrialRuns>());
        var db = scope.ServiceProvider.GetRequiredService<Storage.GlenfrostDb>();
        var run = await db.Runs.AsNoTracking().Include(r => r.Pairing)
            .Where(r => r.Pairing!.Filament!.Line == "Heath" && r.World == Worlds.Real).OrderByDescending(r => r.PrintedAt ?? DateTime.MinValue).FirstAsync();
        async Task<string> Offered() => (await reports.OffersAsync((await runs.LoadAsync(run.Id))!)).First(o => o.Factor.Key == FactorRegistry.Spool).From;
        var before = await Offered();
        db.Spools.Add(
            new Spool { FilamentId = run.Pairing!.FilamentId, Name = "H-31", OpenedAt = (run.PrintedAt ?? DateTime.UtcNow).AddDays(2), ChangedAt = DateTime.UtcNow });
        await db.SaveChangesAsync();
        Assert.DoesNotContain("H-31", before, StringComparison.Ordinal);
        Assert.EndsWith("; H-31 was opened since", await Offered());
    }

    [Fact]
    public void Foam_is_priced_by_the_litre_and_for_a_part_beside_the_same_filament_without_foam()
    {
        var trial = new FoamingFlowTrial();
        var v = (FoamVerdict)trial.Evaluate(new(JsonDocument.Parse(trial.Example).RootElement))!;
        Assert.NotNull(v.PredictedDensityGPerCm3);
        var price = FoamPrice.Of(new(40, "EUR"), v)!;
        // 40 a kilogram: a litre of 0.5 kg costs 20, a part of 30 cm³ a thirty-third of it.
        Assert.Equal(Math.Round(40 * v.PredictedDensityGPerCm3!.Value, 2), price.PerLitre);
        Assert.Equal(Math.Round(40 * v.From.SolidDensityGPerCm3, 2), price.SolidPerLitre);
        Assert.Equal(Math.Round(price.PerLitre * 0.03, 2), price.PerPart);
        Assert.True(price.PerPart < price.SolidPerPart);
        Assert.Null(FoamPrice.Of(null, v));
        Assert.Null(FoamPrice.Of(new(40, "EUR"), v with { PredictedDensityGPerCm3 = null }));
    }
}
