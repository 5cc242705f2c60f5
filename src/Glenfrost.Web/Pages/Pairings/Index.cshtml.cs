using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Pairings;

internal sealed class IndexModel(Bench bench) : BenchPage(bench)
{
    /// <summary>One field of the table.</summary>
    public sealed record Cell(Toolhead Head, Pairing? Pairing, IReadOnlyList<Stone>? Stones, ProfileSetting? Temperature, string? Flow, string? Why, int More);

    /// <summary>One filament with its cells.</summary>
    public sealed record Row(Filament Filament, int Colours, IReadOnlyList<Cell> Cells);

    // What the table shows of each profile: its stones, and nothing else.
    private static readonly string[] Keys = [.. Cairn.Keys];

    public List<Toolhead> Heads { get; private set; } = [];

    public List<Row> Rows { get; private set; } = [];

    public int Profiled { get; private set; }

    public int Doubtful { get; private set; }

    public int UnderWay { get; private set; }

    [FromQuery(Name = "only")]
    public string? Only { get; set; }

    public bool OnlyDoubtful => Only == "doubtful";

    /// <summary>real, or practice for the simulated twins.</summary>
    [FromQuery(Name = "world")]
    public string? Asked { get; set; }

    public string World => Asked == Worlds.Practice ? Worlds.Practice : Worlds.Real;

    /// <summary>Pairings of the practice world.</summary>
    public int Practised { get; private set; }

    public async Task OnGetAsync()
    {
        Heads = await Db.Toolheads.AsNoTracking().Include(t => t.Printer)
            .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == World).OrderBy(t => t.Printer!.Name).ThenBy(t => t.Name)
            .ToListAsync();
        var filaments = await Db.Filaments.AsNoTracking().Include(f => f.Variants).Where(f => f.RemovedAt == null).OrderBy(f => f.Maker).ThenBy(f => f.Line)
            .ToListAsync();
        var pairings = await Db.Pairings.AsNoTracking().Include(p => p.Variant).Where(p => p.RemovedAt == null && p.World == World).ToListAsync();
        Practised = await Db.Pairings.CountAsync(p => p.RemovedAt == null && p.World == Worlds.Practice);
        var latest = await Db.ProfilesAsync(null, Keys);
        var parts = await Db.Parts.AsNoTracking().Where(p => p.RemovedAt == null).ToListAsync();
        string[] open = [RunStages.Planned, RunStages.Printed, RunStages.Read];
        UnderWay = await Db.Runs.Where(r => open.Contains(r.Stage) && r.RemovedAt == null && r.World == World && r.PairingId != null).Select(r => r.PairingId)
            .Distinct().CountAsync();
        var byCell = pairings.ToLookup(p => (p.FilamentId, p.ToolheadId));
        foreach (var f in filaments)
        {
            var cells = Heads.Select(h => CellOf(f, h, [.. byCell[(f.Id, h.Id)]], latest, parts)).ToList();
            if (World == Worlds.Practice && cells.All(c => c.Pairing is null))
                continue;
            if (!OnlyDoubtful || cells.Any(c => c.Why is not null))
                Rows.Add(new(f, f.Variants.Count(v => v.RemovedAt is null), cells));
        }
    }

    private Cell CellOf(Filament f, Toolhead head, List<Pairing> here, Dictionary<Guid, ProfileView> latest, List<Part> parts)
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
        var stones = Cairn.Of(settings, machine, machineWhy);
        var t = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC");
        var why = stones.FirstOrDefault(s => s.State == StoneState.Doubtful)?.Why;
        if (t is { State: SettingState.Confirmed or SettingState.Provisional })
            Profiled++;
        if (why is not null)
            Doubtful++;
        return new(
            head, p, stones, t, settings.FirstOrDefault(s => s.Key == "maxVolumetricFlowMm3PerS") is { } limit ? Words.Value(limit) : null, why, here.Count - 1
        );
    }
}
