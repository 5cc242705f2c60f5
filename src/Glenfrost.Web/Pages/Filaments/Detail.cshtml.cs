using Glenfrost.Core.Filaments;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class DetailModel(Bench bench) : BenchPage(bench)
{
    public Filament F { get; private set; } = null!;

    public List<Pairing> Pairings { get; private set; } = [];

    public Dictionary<Guid, ProfileView> Latest { get; private set; } = [];

    /// <summary>Humidity that was logged, %RH; null where nobody did.</summary>
    public double? Humidity { get; private set; }

    public bool Contradiction { get; private set; }

    /// <summary>Price per cm³: foaming and heavy filaments compare by volume.</summary>
    public decimal? PerCm3 =>
        F is { PriceMinor: { } p, NetMassUg: > 0, SolidDensityGPerCm3: { } d } ? p / 100m / ((decimal)F.NetMassUg / 1_000_000m / (decimal)d) : null;

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        var f = await Db.Filaments.AsNoTracking().Include(x => x.Sources).Include(x => x.Variants).Include(x => x.Spools.Where(s => s.World == Worlds.Real))
                .ThenInclude(s => s.Dryings)
            .AsSplitQuery()
            .FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (f is null)
            return NotFound();
        F = f;
        Humidity = (await Bench.RoomAsync())?.HumidityPercent;
        var spans = f.Sources.Where(s => s.RemovedAt is null).Select(s => new Span(s.NozzleMinC, s.NozzleMaxC)).ToList();
        Contradiction = spans.Any(a => spans.Any(b => a.Contradicts(b)));
        Pairings = await Db.Pairings.AsNoTracking().Full().Where(p => p.FilamentId == id && p.RemovedAt == null && p.World == Worlds.Real).ToListAsync();
        Latest = await Db.ProfilesAsync([.. Pairings.Select(p => p.Id)]);
        return Page();
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        var f = await Db.Filaments.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (f is null)
            return NotFound();
        f.RemovedAt = Bench.Now;
        Bench.Touch(f);
        await Bench.LogAsync("filament", $"{f.Name} removed", null, $"filament:{f.Id}");
        await Bench.SaveAsync();
        Tell($"{f.Name} is removed. Its pairings and runs stay.", "filament", f.Id);
        return Redirect("/filaments");
    }
}
