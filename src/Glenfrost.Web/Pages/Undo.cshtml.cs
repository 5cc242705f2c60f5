using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Takes back a removal, a fitted part or a kept value.</summary>
internal sealed class UndoModel(WorkContext work, UndoChange undo) : WorkPage(work)
{
    public IActionResult OnGet() => Redirect("/");

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        if (Form["what"].Split(':') is not [var kind, var text] || !Guid.TryParse(text, out var id))
            return NotFound();
        // Whoever holds a tablet does not let one in again that the bench showed out.
        if (kind == "device" && !User.HasClaim(c => c.Type == Rights.RightsTable.BenchClaim))
            return Forbid();
        try
        {
            var (said, link) = await undo.TakeBackAsync(kind, id);
            if (said is null)
                return NotFound();
            Tell(said);
            return Redirect(link ?? Back(Form["back"]));
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Somebody changed it in the same moment; nothing was taken back. Look at it, then try again.");
            return Redirect(Back(Form["back"]));
        }
    }
}
