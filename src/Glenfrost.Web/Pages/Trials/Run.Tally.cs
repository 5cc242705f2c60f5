using Glenfrost.Application.Trials;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <content>Repeats of a part: one press each.</content>
internal sealed partial class RunModel
{
    /// <summary>How many prints of this part were good, and what one costs.</summary>
    public async Task<Tally> TallyAsync() => await tally.OfAsync(V, await densities.OfAsync(V));

    public async Task<IActionResult> OnPostTallyAsync(Guid id)
    {
        if (!await LoadAsync(id) || !V.Trial.TakesOwnFile)
            return NotFound();
        ReadForm();
        var why = Form.Text("tallyWhy", "What was wrong", 200);
        if (V.Run.Stage == RunStages.Planned)
            Form.Refuse("tallyWhy", "Say first how this print ended; then its repeats are counted.");
        if (Form["good"] is not ("0" or "1"))
            Form.Refuse("good", "Good or not good?");
        if (!Form.IsGood)
            return Refused();
        await tally.PressAsync(V, Form["good"] == "1", why, Form["key"]);
        Tell(Form["good"] == "1" ? "Counted as good." : "Counted as not good.");
        return Redirect($"/runs/{id}#tally");
    }

    public async Task<IActionResult> OnPostUntallyAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var gone = Form.Id("press", "a print") is { } press && await tally.TakeBackAsync(V, press);
        Tell(gone ? "That print is not counted any more." : "That print is not there.");
        return Redirect($"/runs/{id}#tally");
    }
}
