using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Routes of pairings: the one place that pages and the API ask what comes next.</summary>
public sealed class PairingRoutes(WorkContext work, PairingBook pairings, Pieces pieces)
{
    /// <summary>The route of a pairing; null where there is no such pairing.</summary>
    public async Task<PairingRoute?> OfAsync(Guid id) => await pairings.ViewAsync(id) is { } record ? await OfAsync(record) : null;

    /// <summary>The route of a pairing that was loaded.</summary>
    public async Task<PairingRoute> OfAsync(PairingRecord record)
    {
        var p = record.Pairing;
        var settings = record.Revisions.FirstOrDefault() is { } newest ? ProfileViews.Of(newest, record.Known).Settings : [];
        var gains = await VerdictGains.OfAsync(work.Db, [p.Id]);
        return Of(p, settings, record.Known, p.Toolhead!.Printer!, await pieces.SpoolInUseAsync(p), gains, t => CostOf(t, p));
    }

    /// <summary>Routes of many pairings at once, in the same order: what each would be by itself, without the costs.</summary>
    /// <param name="of">With filament, toolhead and printer; their runs are loaded here.</param>
    public async Task<IReadOnlyList<PairingRoute>> OfManyAsync(IReadOnlyList<Pairing> of)
    {
        var db = work.Db;
        var (ids, filaments) = (of.Select(p => p.Id).ToList(), of.Select(p => p.FilamentId).Distinct().ToList());
        var heads = of.Select(p => p.Toolhead!.PrinterId).Distinct().ToList();
        var profiles = await db.ProfilesAsync(ids, [.. RouteMap.Stations.Select(s => s.SettingKey).OfType<string>()]);
        var standings = (await db.Standings.AsNoTracking().Where(s => ids.Contains(s.PairingId)).ToListAsync()).ToLookup(s => s.PairingId);
        var runs = (await db.Runs.AsNoTracking().Where(r => r.PairingId != null && ids.Contains(r.PairingId.Value))
            .Select(r => new Run
            {
                Id = r.Id, PairingId = r.PairingId, Kind = r.Kind, PlanJson = r.Kind == LayerBondTrial.Word ? r.PlanJson : "",
                Number = r.Number, Stage = r.Stage, CreatedAt = r.CreatedAt,
                PrintedAt = r.PrintedAt, RemovedAt = r.RemovedAt, DecidedAt = r.DecidedAt,
            }).ToListAsync()).ToLookup(r => r.PairingId!.Value);
        var printers = await db.Printers.AsNoTracking().Include(p => p.Parts).Where(p => heads.Contains(p.Id)).ToDictionaryAsync(p => p.Id);
        // The last check of each kind stands: years of earlier ones are not opened.
        foreach (var check in await db.LastChecksAsync(heads))
            printers[check.PrinterId].Checks.Add(check);
        var spools = (await db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings).Include(s => s.Stays).Include(s => s.Weighings)
            .AsSplitQuery().Where(s => filaments.Contains(s.FilamentId) && s.RemovedAt == null).ToListAsync()).ToLookup(s => s.FilamentId);
        // What comes next asks it of the tower alone, and only where its value rests on one run.
        var resting = ids.Where(i => profiles.GetValueOrDefault(i)?["nozzleTemperatureC"] is { State: SettingState.Provisional }).ToList();
        var gains = await VerdictGains.OfAsync(db, resting, [TrialCatalogue.TemperatureTower]);
        var room = await work.RoomAsync();
        var dryers = await db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync();
        double? dryerMaxC = dryers.Count > 0 ? dryers.Max() : null;
        return
        [
            .. of.Select(p =>
            {
                p.Runs = [.. runs[p.Id]];
                var spool = Pieces.InUse(spools[p.FilamentId].Where(s => s.World == p.World), p);
                return Of(
                    p, profiles.GetValueOrDefault(p.Id)?.Settings ?? [], [.. standings[p.Id]], printers[p.Toolhead!.PrinterId],
                    spool is null ? null : (spool, Facts.Advise(spool, room?.HumidityPercent, dryerMaxC, work.Now)), gains, null);
            }),
        ];
    }

    private PairingRoute Of(
        Pairing p, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<EvidenceStanding> known, Printer printer, (Spool, DrynessAdvice)? spool,
        ILookup<Guid, (string Kind, double Gain)> gains, Func<Trial, StepCost?>? cost)
    {
        var (machine, why) = Facts.MachineStone(p.Toolhead!, printer.Parts);
        var nozzle = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC")?.Value;
        return PairingRoute.Of(
            p, settings, known, new(machine, why)
            {
                // The feed is a station of its own.
                Checks = [.. MachineBook.Standings(p.Toolhead!, printer.Checks, printer.Parts, nozzle, work.Now).Where(c => c.Kind.Key != "feed")],
                Spool = spool,
                Gains = gains[p.Id].ToDictionary(g => g.Kind, g => g.Gain),
                Cost = cost,
            });
    }

    /// <summary>Says in which order a pairing is profiled; what is done stays done.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="route">Word of a school, or keys of stations with commas.</param>
    public async Task SetAsync(Guid pairing, string route)
    {
        await work.AloneAsync(async () =>
        {
            var p = await work.Db.Pairings.FirstAsync(x => x.Id == pairing);
            var (school, _) = RouteMap.Read(route);
            p.RouteBefore = p.Route ?? "";
            p.Route = school == RouteSchool.MachineFirst ? null : school == RouteSchool.Own ? string.Join(',', RouteMap.Whole(route.Split(','))) : route;
            await work.LogAsync("profile", $"Route: {RouteWords.Of(school)}", $"/pairings/{pairing}", $"route:{pairing}");
            return await work.Db.SaveChangesAsync();
        });
    }

    /// <summary>What the usual plan of a trial costs, roughly; null where none can be proposed.</summary>
    public static StepCost? CostOf(Trial trial, Pairing p)
    {
        var context = Pieces.LightContext(p);
        if (trial.Plan(trial.Propose(context), context).Plan?.Estimate is not { } estimate)
            return null;
        var grams = estimate.MassG ?? 0;
        return new(estimate.Minutes, grams, Facts.PrintCost(p, grams, estimate.Minutes).SumMinor, 1);
    }
}
