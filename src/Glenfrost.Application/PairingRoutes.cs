using Glenfrost.Core.Routes;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Routes of pairings: the one place that pages and the API ask what comes next.</summary>
public sealed class PairingRoutes(Bench bench, PairingBook pairings, Pieces pieces)
{
    /// <summary>The route of a pairing; null where there is no such pairing.</summary>
    public async Task<PairingRoute?> OfAsync(Guid id) => await pairings.ViewAsync(id) is { } record ? await OfAsync(record) : null;

    /// <summary>The route of a pairing that was loaded.</summary>
    public async Task<PairingRoute> OfAsync(PairingRecord record)
    {
        var p = record.Pairing;
        var settings = record.Revisions.FirstOrDefault() is { } newest ? ProfileViews.Of(newest, record.Known).Settings : [];
        var (machine, why) = Facts.MachineStone(p.Toolhead!, p.Toolhead!.Printer!.Parts);
        var nozzle = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC")?.Value;
        return PairingRoute.Of(
            p, settings, record.Known, new(machine, why)
            {
                // The feed is a station of its own.
                Checks = [.. MachineBook.Standings(p.Toolhead, p.Toolhead.Printer.Checks, p.Toolhead.Printer.Parts, nozzle, bench.Now)
                    .Where(c => c.Kind.Key != "feed")],
                Spool = await pieces.SpoolInUseAsync(p),
                Cost = t => CostOf(t, p),
            });
    }

    /// <summary>Says in which order a pairing is profiled; what is done stays done.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="route">Word of a school, or keys of stations with commas.</param>
    public async Task SetAsync(Guid pairing, string route)
    {
        await bench.AloneAsync(async () =>
        {
            var p = await bench.Db.Pairings.FirstAsync(x => x.Id == pairing);
            var (school, _) = RouteMap.Read(route);
            p.Route = school == RouteSchool.MachineFirst ? null : school == RouteSchool.Own ? string.Join(',', RouteMap.Whole(route.Split(','))) : route;
            await bench.LogAsync("profile", $"Route: {RouteWords.Of(school)}", $"/pairings/{pairing}");
            return await bench.Db.SaveChangesAsync();
        });
    }

    /// <summary>What the usual plan of a trial costs, roughly; null where none can be proposed.</summary>
    private static StepCost? CostOf(Trial trial, Pairing p)
    {
        var context = Pieces.LightContext(p);
        if (trial.Plan(trial.Propose(context), context).Plan?.Estimate is not { } estimate)
            return null;
        var grams = estimate.MassG ?? 0;
        return new(
            estimate.Minutes, grams, p.Filament is { PriceMinor: { } price, NetMassUg: > 0 and var net } ? price / (net / 1e6) * grams : null, 1);
    }
}
