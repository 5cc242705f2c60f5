using Glenfrost.Core.Profiles;
using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Exchange;

/// <summary>A table of old notes: columns mapped, rows checked, what fails mended in place, the rest taken in.</summary>
internal sealed class NotesModel(WorkContext work, Imports imports, NotesImport notes) : WorkPage(work)
{
    /// <summary>Failing rows shown at once.</summary>
    public const int MostShown = 50;

    public ImportDraft Draft { get; private set; } = null!;

    public NotesTable? Table { get; private set; }

    public NotesState State { get; private set; } = new();

    public List<NotesRow> Rows { get; private set; } = [];

    public IReadOnlyList<string> MappingErrors { get; private set; } = [];

    public IEnumerable<NotesRow> Failing => Rows.Where(r => r.Note is null);

    public int Fresh => Rows.Count(r => r.Note is not null && !r.Known);

    public int Known => Rows.Count(r => r.Known);

    public static IReadOnlyList<(DayForm Form, string Label)> DayForms { get; } =
    [(DayForm.YearFirst, "2025-03-31"), (DayForm.DayFirst, "31.3.2025"), (DayForm.MonthFirst, "3/31/2025")];

    /// <summary>Columns that mean something, in the order of the table.</summary>
    public IEnumerable<int> Used => Enumerable.Range(0, State.Mapping.Count).Where(i => State.Mapping[i] is not null);

    public async Task<IActionResult> OnGetAsync(Guid id) => await LoadAsync(id) ? await ShowAsync() : NotFound();

    public async Task<IActionResult> OnPostMapAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (Table is not null)
        {
            var targets = OldNotes.Targets.Select(t => t.Key).ToHashSet();
            State = State with
            {
                Mapping = [.. Enumerable.Range(0, Table.Headers.Count).Select(i => Form[$"m.{i}"] is { Length: > 0 } t && targets.Contains(t) ? t : null)],
                Days = Enum.TryParse<DayForm>(Form["days"], out var days) ? days : DayForm.YearFirst,
            };
            notes.Save(Draft, State);
        }

        return await ShowAsync(true);
    }

    public async Task<IActionResult> OnPostMendAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        Mend();
        return await ShowAsync(true);
    }

    public async Task<IActionResult> OnPostTakeAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        Mend();
        if (Table is null || OldNotes.Check(State.Mapping).Count > 0)
            return await ShowAsync(true);
        var (taken, values, pairings) = await notes.TakeAsync(Draft, Table, State);
        var left = (await notes.RowsAsync(Table, State)).Count(r => r.Note is null);
        Tell(
            $"{Words.Plural(taken, "old note")} taken in, {Words.Plural(values, "value")} into profiles" +
                $"{(pairings > 0 ? $", {Words.Plural(pairings, "pairing")} made" : "")}." +
                $"{(left > 0 ? $" {Words.Plural(left, "row")} still {(left == 1 ? "waits" : "wait")} to be mended." : "")}"
        );
        if (left > 0)
            return Redirect($"/import/{id}/notes");
        imports.Drop(id);
        return Redirect("/exchange");
    }

    public IActionResult OnPostDrop(Guid id)
    {
        imports.Drop(id);
        Tell("Dropped. Nothing more was changed.");
        return Redirect("/exchange");
    }

    private void Mend()
    {
        var mended = State.Mended.ToDictionary(r => r.Key, r => new Dictionary<int, string>(r.Value));
        foreach (var (name, text) in Form.Values.Where(v => v.Key.StartsWith("r.", StringComparison.Ordinal)))
        {
            if (name.Split('.') is not [_, var r, var c]
                || !int.TryParse(r, out var row)
                || !int.TryParse(c, out var column)
                || Table is null
                || row < 0
                || row >= Table.Rows.Count
                || column < 0
                || column >= Table.Headers.Count
                || text.Length > 2000)
                continue;
            if (!mended.TryGetValue(row, out var cells))
                mended[row] = cells = [];
            if (text == Table.Rows[row][column])
                cells.Remove(column);
            else
                cells[column] = text;
        }

        State = State with { Mended = mended };
        if (Table is not null)
            notes.Save(Draft, State);
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await imports.FindAsync(id) is not { Kind: "table" } draft)
            return false;
        Draft = draft;
        try
        {
            Table = notes.Read(draft);
            State = notes.StateOf(draft, Table);
        }
        catch (InvalidDataException e)
        {
            Form.Notice = e.Message + " Nothing was changed.";
        }

        return true;
    }

    private async Task<IActionResult> ShowAsync(bool posted = false)
    {
        if (Table is null)
        {
            Form.Notice ??= "The table can't be read. Nothing was changed.";
            return Refused();
        }

        MappingErrors = [.. OldNotes.Check(State.Mapping).Select(e => e.Message)];
        if (MappingErrors.Count == 0)
            Rows = await notes.RowsAsync(Table, State);
        if (posted)
            Response.StatusCode = MappingErrors.Count > 0 || Failing.Any() ? StatusCodes.Status422UnprocessableEntity : StatusCodes.Status200OK;
        return Page();
    }
}
