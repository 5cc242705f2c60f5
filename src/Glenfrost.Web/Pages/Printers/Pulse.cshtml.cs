using Glenfrost.Core.Equipment;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Printers;

/// <summary>The reference piece of a printer: is the machine as it was?</summary>
internal sealed class PulseModel(WorkContext work, PulseBook book, PrinterBook printers) : WorkPage(work)
{
    public PulseView V { get; private set; } = null!;

    public IReadOnlyList<KeyValuePair<string, string>> Pairings { get; private set; } = [];

    /// <summary>Where the next piece is planned: the same again.</summary>
    public string PlanLink => $"/pairings/{V.Pairing!.Id}/{PulseBook.Kind}{(V.Runs is [var newest, ..] ? $"?after={newest.Id}" : "")}";

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Form.Put("pairing", V.Pairing?.Id.ToString());
        Form.Put("every", (double?)V.Pulse?.EveryDays);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var pairing = Form.Id("pairing", "what it is printed with", true);
        if (pairing is not null && Pairings.All(p => p.Key != pairing.ToString()))
            Form.Refuse("pairing", "Choose a pairing of this printer.");
        var every = (int?)Form.Number("every", new("Every", "days", 1, OwnCheck.MostDays, "ten years at most", true));
        if (!Form.IsGood)
            return Refused();
        await printers.SetPulseAsync(id, new(pairing!.Value, every));
        Tell("The reference piece is chosen: always the same piece, of the same spool, kept dry.");
        return Redirect($"/printers/{id}/pulse");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await book.OfAsync(id) is not { } v)
            return false;
        (V, Pairings) = (v, await book.PairingsAsync(id));
        return true;
    }
}
