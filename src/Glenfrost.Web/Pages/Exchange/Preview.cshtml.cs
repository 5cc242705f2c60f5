using Glenfrost.Storage.Exchange;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Exchange;

/// <summary>What an archive would change here, and the agreement to it.</summary>
internal sealed class PreviewModel(WorkContext work, Imports imports) : WorkPage(work)
{
    public const int MostShown = 200;

    public ImportDraft Draft { get; private set; } = null!;

    public ImportPreview? Preview { get; private set; }

    /// <summary>Different rows that were ticked.</summary>
    public HashSet<Guid> Ticked { get; private set; } = [];

    public static string Short(string s) => s.Length == 0 ? "–" : s.Length > 120 ? s[..120] + "…" : s;

    public static string NameOf(DifferentRow d) => d.Row switch
    {
        Filament f => f.Name,
        Spool s => $"spool {s.Name}",
        Printer p => p.Name,
        Toolhead t => t.Name.Length > 0 ? $"toolhead {t.Name}" : "toolhead",
        Person p => p.Name,
        Run r => $"tower {r.Number}",
        Finding f => f.Tag,
        _ => d.Table.Label,
    };

    /// <summary>Tables in which something would change or can't be taken; the others stand here already.</summary>
    public static Func<ArchiveTable, bool> Moves(ImportPlan plan) =>
        t => plan.New.GetValueOrDefault(t)?.Count > 0 || plan.DifferentBy.ContainsKey(t) || plan.Bad.Any(b => b.Table == t.Name);

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await imports.FindAsync(id) is not { } draft)
            return NotFound();
        if (draft.Kind == "table")
            return Redirect($"/import/{id}/notes");
        Draft = draft;
        return await ShowAsync();
    }

    public async Task<IActionResult> OnPostTakeAsync(Guid id, Guid[] take)
    {
        if (await imports.FindAsync(id) is not { Kind: not "table" } draft)
            return NotFound();
        Draft = draft;
        Ticked = [.. take];
        try
        {
            Tell(await imports.ApplyAsync(draft, Ticked));
            return Redirect("/exchange");
        }
        catch (InvalidDataException e)
        {
            Form.Notice = e.Message;
            await ShowAsync();
            return Refused();
        }
    }

    public IActionResult OnPostDrop(Guid id)
    {
        imports.Drop(id);
        Tell("Dropped. Nothing was changed.");
        return Redirect("/exchange");
    }

    private async Task<IActionResult> ShowAsync()
    {
        try
        {
            Preview = await imports.PreviewAsync(Draft);
            return Page();
        }
        catch (InvalidDataException e)
        {
            Form.Notice ??= e.Message + (e.Message.Contains("Nothing was changed", StringComparison.Ordinal) ? "" : " Nothing was changed.");
            return Refused();
        }
    }
}
