using System.Globalization;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Glenfrost.Web.Services;

/// <summary>Base of all pages: what they work with, the form as typed, and how a form is refused, stale or undone.</summary>
public abstract class WorkPage(WorkContext work) : PageModel
{
    public WorkContext Work => work;

    /// <summary>The form as typed.</summary>
    public FormState Form { get; set; } = new();

    /// <summary>Takes over what was posted.</summary>
    protected void ReadForm() => Form = FormState.From(Request.Form);

    /// <summary>An address of this application that was sent along, to go back to; the start where it is none, or holds what no header may.</summary>
    protected string Back(string? to) => Url.IsLocalUrl(to) && to!.All(c => c is > ' ' and <= '~') ? to : "/";

    /// <summary>Shows the page again with what was typed and what is wrong with it.</summary>
    protected IActionResult Refused(int status = StatusCodes.Status422UnprocessableEntity)
    {
        Response.StatusCode = status;
        if (Form.Notice is null && Form.Errors.Count > 0)
            Form.Notice =
                Form.Errors.Count == 1
                    ? "One field needs another look. Nothing you typed was lost."
                    : $"{Form.Errors.Count} fields need another look. Nothing you typed was lost.";
        return Page();
    }

    /// <summary>
    /// True where the form was made from an older state of the record. The form then shows again with what was typed, says
    /// what stands there now, and a second save is taken.
    /// </summary>
    protected bool IsStale(EditableRecord record, IReadOnlyDictionary<string, string> standing)
    {
        edited = record;
        if (!int.TryParse(Form["version"], out var version) || version == record.Version)
            return false;
        var differing = standing.Where(s => s.Value.Replace("\r\n", "\n").Trim() != Form[s.Key].Replace("\r\n", "\n").Trim()).ToList();
        Form.Notice =
            $"Somebody saved this at {Words.TimeIn(record.ChangedAt)} in another tab, after you opened it. What you typed is still here. Save again to put " +
                $"yours in place.";
        foreach (var (field, value) in differing)
            Form.Errors[field] = value.Length == 0 ? "Empty now in the saved version." : $"Now saved as: {(value.Length > 200 ? value[..200] + "…" : value)}";
        Form["version"] = record.Version.ToString();
        return true;
    }

    /// <summary>Tells what was done, with an undo where there is one.</summary>
    protected void Tell(string text, string? undoKind = null, Guid? undoId = null)
    {
        TempData["told"] = text;
        if (undoKind is not null)
            TempData["undo"] = $"{undoKind}:{undoId}";
    }

    /// <summary>Saves; a save that lost a race is told apart.</summary>
    /// <returns>False where another tab saved the same record in this moment.</returns>
    protected Task<bool> TrySaveAsync() => TryAsync(() => work.SaveAsync());

    /// <summary>Does a write; one that lost a race is told apart.</summary>
    /// <returns>False where another tab saved the same record in this moment.</returns>
    protected async Task<bool> TryAsync(Func<Task> write)
    {
        try
        {
            await write();
            return true;
        }
        catch (ChangedMeanwhileException)
        {
            await TellOfRaceAsync();
            return false;
        }
    }

    /// <summary>Says that a save lost a race; the form stands on what the other one saved, so that saving again puts this one in place.</summary>
    protected async Task TellOfRaceAsync()
    {
        Form.Notice =
            "Somebody saved this in another tab in the same moment. What you typed is still here: open the page again to see theirs, or save again.";
        if (edited is not null && Form["version"].Length > 0 && await work.VersionNowAsync(edited) is { } now)
            Form["version"] = now.ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>The record that the form is about, once it was asked whether it is the one that was opened.</summary>
    private EditableRecord? edited;
}
