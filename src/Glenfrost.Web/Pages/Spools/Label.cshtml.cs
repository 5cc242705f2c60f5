using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Spools;

internal sealed class LabelModel(WorkContext work, SpoolBook spools, FilamentBook filaments, Reach reach) : WorkPage(work)
{
    public Spool S { get; private set; } = null!;

    public string Nozzle { get; private set; } = "";

    /// <summary>Temperatures that were found, by machine.</summary>
    public IReadOnlyList<(Pairing Pairing, ProfileSetting Nozzle)> Found { get; private set; } = [];

    public QrPath Code { get; private set; } = null!;

    /// <summary>What the code opens.</summary>
    public string Address { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        var s = await spools.ForLabelAsync(id);
        if (s is null)
            return NotFound();
        S = s;
        var (span, _) = Facts.NozzleRange(s.Filament!);
        Nozzle = span is null ? "–" : $"{Words.N(span.Min, 0)}–{Words.N(span.Max, 0)} °C";
        Found = await filaments.FoundAsync(s.FilamentId, s.VariantId);
        Address = reach.AddressOf(Request, $"/spools/{id}");
        Code = QrPath.Of(Address);
        return Page();
    }
}
