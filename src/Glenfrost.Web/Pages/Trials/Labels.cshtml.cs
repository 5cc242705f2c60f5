using Glenfrost.Core.Trials;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>Labels for what a run leaves on the bench: cups, samples, pieces.</summary>
internal sealed class LabelsModel(WorkContext work, TrialRuns runs, Reach reach) : WorkPage(work)
{
    public TrialRunView V { get; private set; } = null!;

    public IReadOnlyList<PieceTag> Tags => V.Trial.Tags(V.Plan);

    public QrPath Code { get; private set; } = null!;

    /// <summary>What the code opens.</summary>
    public string Address { get; private set; } = "";

    /// <summary>Filament and machine, as short as a label needs.</summary>
    public string Whose => V.Pairing is { } p ? $"{p.Filament!.Line} on {V.Toolhead.FullName}" : V.Toolhead.FullName;

    /// <summary>Sizes of common label printers.</summary>
    public static IReadOnlyList<KeyValuePair<string, string>> Sizes { get; } = [new("label62", "label 62 × 29 mm"), new("label38", "label 38 × 21 mm")];

    public async Task<IActionResult> OnGetAsync(Guid id, string? size)
    {
        if (await runs.LoadAsync(id) is not { } v)
            return NotFound();
        V = v;
        Form["size"] = Sizes.Any(s => s.Key == size) ? size! : Sizes[0].Key;
        Address = reach.AddressOf(Request, $"/runs/{id}?open=read");
        Code = QrPath.Of(Address);
        return Page();
    }
}
