using Glenfrost.Core.Ageing;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

/// <summary>A change that concerns one pairing: spool, colour, product, slicer, room, damp. It says what it makes doubtful before it is recorded.</summary>
internal sealed class ChangeModel(WorkContext work, PairingBook pairings, Glenfrost.Application.Profiles profiles) : WorkPage(work)
{
    public Pairing P { get; private set; } = null!;

    public IReadOnlyList<string>? Touches { get; private set; }

    public IReadOnlyList<Part> History { get; private set; } = [];

    public AgeingRule? Rule => AgeingRules.Find(Form["change"]);

    public static IEnumerable<KeyValuePair<string, string>> Choices { get; } =
    [
        .. AgeingRules.All.Where(r => r.Reach is "spool" or "filament" or "pairing" || r.Change is "slicer" or "room" or "nozzle-size")
            .Select(r => KeyValuePair.Create(r.Change, r.Label)),
    ];

    public async Task<IActionResult> OnGetAsync(Guid id, string? change)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Form["change"] = AgeingRules.Find(change)?.Change ?? "spool";
        return Page();
    }

    public async Task<IActionResult> OnPostPreviewAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var change = Form.Choice("change", "what changed", [.. Choices.Select(c => c.Key)]);
        if (!Form.IsGood)
            return Refused();
        Touches = (await profiles.ChangeTouchesAsync(Of(change, ""))).SelectMany(t => t.Keys).ToList();
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var change = Form.Choice("change", "what changed", [.. Choices.Select(c => c.Key)]);
        var description = Form.Text("description", "What it is now", 120, true);
        var at = Form.Date("at", "Since", Work.Now) ?? Work.Now;
        if (!Form.IsGood)
            return Refused();
        var part = Of(change, description!);
        (part.FittedAt, part.PersonId) = (at, (await Work.PersonAsync()).Id);
        var n = await profiles.FitAsync(part, Facts.NameOf(P));
        Tell($"Recorded. {(n == 0 ? "No kept value leans on it." : "What it makes doubtful is marked.")}", "part", part.Id);
        return Redirect($"/pairings/{id}");
    }

    private Part Of(string change, string description) =>
        new()
        {
            PrinterId = P.Toolhead!.PrinterId, ToolheadId = P.ToolheadId, PairingId = P.Id, Slot = change, Description = description, FittedAt = Work.Now,
        };

    private async Task<bool> LoadAsync(Guid id)
    {
        P = (await pairings.FindAsync(id))!;
        if (P is null)
            return false;
        History = await pairings.ChangesAsync(id);
        return true;
    }
}
