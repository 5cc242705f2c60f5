using Glenfrost.Core.Filaments;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class DetailModel(WorkContext work, FilamentBook filaments) : WorkPage(work)
{
    private FilamentView view = null!;

    public Filament F => view.Filament;

    public IReadOnlyList<Pairing> Pairings => view.Pairings;

    public IReadOnlyDictionary<Guid, ProfileView> Latest => view.Profiles;

    /// <summary>Humidity that was logged, %RH; null where nobody did.</summary>
    public double? Humidity => view.HumidityPercent;

    /// <summary>True where two sources name ranges that share nothing.</summary>
    public bool Contradiction
    {
        get
        {
            var spans = F.Sources.Where(s => s.RemovedAt is null).Select(s => new Span(s.NozzleMinC, s.NozzleMaxC)).ToList();
            return spans.Any(a => spans.Any(b => a.Contradicts(b)));
        }
    }

    /// <summary>Price per cm³: foaming and heavy filaments compare by volume.</summary>
    public decimal? PerCm3 =>
        F is { PriceMinor: { } p, NetMassUg: > 0, SolidDensityGPerCm3: { } d } ? p / 100m / ((decimal)F.NetMassUg / 1_000_000m / (decimal)d) : null;

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await filaments.ViewAsync(id) is not { } found)
            return NotFound();
        view = found;
        return Page();
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (await filaments.RemoveAsync(id) is not { } f)
            return NotFound();
        Tell($"{f.Name} is removed. Its pairings and runs stay.", "filament", f.Id);
        return Redirect("/filaments");
    }
}
