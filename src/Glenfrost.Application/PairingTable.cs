using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One field of the table of pairings.</summary>
/// <param name="Head">The toolhead of its column.</param>
/// <param name="Pairing">The pairing that fits the nozzle as it is; null where there is none.</param>
/// <param name="Stones">How far its profile is; null where there is no pairing.</param>
/// <param name="Temperature">Its nozzle temperature; null where none is kept.</param>
/// <param name="Flow">Its flow limit in words; null where none is known.</param>
/// <param name="Why">Why a stone is doubtful; null where none is.</param>
/// <param name="More">Further pairings with other nozzles.</param>
public sealed record PairingCell(
    Toolhead Head, Pairing? Pairing, IReadOnlyList<Stone>? Stones, ProfileSetting? Temperature, string? Flow, string? Why, int More);

/// <summary>One filament with its fields.</summary>
/// <param name="Filament">The filament.</param>
/// <param name="Colours">How many colours it has.</param>
/// <param name="Cells">One for each toolhead.</param>
public sealed record PairingRow(Filament Filament, int Colours, IReadOnlyList<PairingCell> Cells);

/// <summary>The table of pairings of one world.</summary>
/// <param name="Heads">Its columns.</param>
/// <param name="Rows">Its rows.</param>
/// <param name="Profiled">Pairings with a temperature that rests on a run.</param>
/// <param name="Doubtful">Pairings with a doubtful stone.</param>
/// <param name="UnderWay">Pairings with an open run.</param>
/// <param name="Practised">Pairings of the practice world.</param>
public sealed record PairingTableView(
    IReadOnlyList<Toolhead> Heads, IReadOnlyList<PairingRow> Rows, int Profiled, int Doubtful, int UnderWay, int Practised);

/// <summary>Filaments over toolheads.</summary>
public sealed class PairingTable(WorkContext work)
{
    // What the table shows of each profile: its stones, and nothing else.
    private static readonly string[] Keys = [.. ProfileProgress.Keys];

    /// <summary>The table of a world.</summary>
    /// <param name="world">real or practice.</param>
    /// <param name="onlyDoubtful">True for filaments with something doubtful only.</param>
    public async Task<PairingTableView> ViewAsync(string world, bool onlyDoubtful)
    {
        var db = work.Db;
        var heads = await db.Toolheads.AsNoTracking().Include(t => t.Printer)
            .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == world).OrderBy(t => t.Printer!.Name).ThenBy(t => t.Name)
            .ToListAsync();
        var filaments = await db.Filaments.AsNoTracking().Include(f => f.Variants).Where(f => f.RemovedAt == null).OrderBy(f => f.Maker).ThenBy(f => f.Line)
            .ToListAsync();
        var pairings = await db.Pairings.AsNoTracking().Include(p => p.Variant).Where(p => p.RemovedAt == null && p.World == world).ToListAsync();
        var practised = await db.Pairings.CountAsync(p => p.RemovedAt == null && p.World == Worlds.Practice);
        var latest = await db.ProfilesAsync(null, Keys);
        var parts = await db.Parts.AsNoTracking().Where(p => p.RemovedAt == null).ToListAsync();
        string[] open = [RunStages.Planned, RunStages.Printed, RunStages.Read];
        var underWay = await db.Runs.Where(r => open.Contains(r.Stage) && r.RemovedAt == null && r.World == world && r.PairingId != null)
            .Select(r => r.PairingId).Distinct().CountAsync();
        var byCell = pairings.ToLookup(p => (p.FilamentId, p.ToolheadId));
        var all = filaments.Select(f => new PairingRow(
            f, f.Variants.Count(v => v.RemovedAt is null), [.. heads.Select(h => CellOf(f, h, [.. byCell[(f.Id, h.Id)]], latest, parts))])).ToList();
        var cells = all.SelectMany(r => r.Cells).ToList();
        return new(
            heads,
            [
                .. all.Where(r => world != Worlds.Practice || r.Cells.Any(c => c.Pairing is not null))
                    .Where(r => !onlyDoubtful || r.Cells.Any(c => c.Why is not null)),
            ],
            cells.Count(c => c.Temperature is { State: SettingState.Confirmed or SettingState.Provisional }), cells.Count(c => c.Why is not null), underWay,
            practised);
    }

    private static PairingCell CellOf(Filament f, Toolhead head, List<Pairing> here, Dictionary<Guid, ProfileView> latest, List<Part> parts)
    {
        // The pairing that fits the nozzle as it is stands in front; others are counted.
        var p = here.OrderByDescending(x => x.NozzleDiameterMm == head.NozzleDiameterMm && x.NozzleFlow == head.NozzleFlow).ThenBy(x => x.VariantId is not null)
            .ThenBy(x => x.Id).FirstOrDefault();
        if (p is null)
            return new(head, null, null, null, null, null, 0);
        p.Filament = f;
        p.Toolhead = head;
        var settings = latest.GetValueOrDefault(p.Id)?.Settings ?? [];
        var (machine, machineWhy) = Facts.MachineStone(head, parts);
        var stones = ProfileProgress.Of(settings, machine, machineWhy);
        return new(
            head, p, stones, settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC"),
            settings.FirstOrDefault(s => s.Key == "maxVolumetricFlowMm3PerS") is { } limit ? Words.Value(limit) : null,
            stones.FirstOrDefault(s => s.State == StoneState.Doubtful)?.Why, here.Count - 1);
    }
}
