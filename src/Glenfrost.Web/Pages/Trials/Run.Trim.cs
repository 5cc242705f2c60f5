using Glenfrost.Core.Filaments;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <content>What a run says of its one spool, where that runs otherwise than its filament.</content>
internal sealed partial class RunModel
{
    /// <summary>The trim that this run shows of its spool; null where it shows none.</summary>
    public Task<(Spool Spool, TrimFound Found)?> TrimShownAsync() => spoolBook.TrimShownAsync(V);

    public async Task<IActionResult> OnPostTrimAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (await TrimShownAsync() is not var (spool, found) || Words.N(found.Percent, 2) != Form["shown"])
        {
            Form.Notice = "The readings or the profile changed meanwhile: look at the verdict again before you keep it.";
            return RefusedHere(409);
        }

        if (await spoolBook.TrimAsync(spool, Math.Round(found.Percent, 1), V.Called, V.Run.Id) is not { } said)
            return NotFound();
        Tell($"{said}. The profile stays as it is.");
        return Redirect($"/runs/{id}#judge");
    }
}
