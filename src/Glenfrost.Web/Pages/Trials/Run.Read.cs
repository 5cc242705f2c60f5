using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <content>What is read, noted and found.</content>
internal sealed partial class RunModel
{
    public IEnumerable<KeyValuePair<string, string>> SectionChoices =>
        V.Grid.Rows.Select(r => KeyValuePair.Create(r.Section.ToString(), V.Parts[r.Section].Label)).Prepend(KeyValuePair.Create("", "the whole piece"));

    /// <summary>The instrument of a cell and its resolution; null where a person read it.</summary>
    public string? ReadWith(int section, string aspect) =>
        V.Cells.TryGetValue((section, aspect), out var r) && r.InstrumentRevisionId is { } id && Now.Instruments.TryGetValue(id, out var name)
            ? $"{name}, resolution {Words.N(r.Resolution, 3)}"
            : null;

    /// <summary>True for a number that stands apart from the others: marked, and counted all the same.</summary>
    public bool Marked(int section, string aspect) => V.Trial.Apart(V.Plan, V.Verdict, V.Readings).Contains((section, aspect));

    public async Task<IActionResult> OnPostConditionsAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var typed = ConditionsForm.Read(Form, V, Now.Asked, spools);
        foreach (var offer in Offers.Where(o => Form["take"] == o.Factor.Key || (Form["take"] == "all" && Form[o.Factor.Key].Trim().Length == 0)))
        {
            Form.Errors.Remove(offer.Factor.Key);
            typed[offer.Factor.Key] = offer.Value with { Source = FactorSource.Typed, Proven = false };
        }

        if (!Form.IsGood)
            return RefusedHere(openRead: true);
        var standing = new Forms.FormState();
        ConditionsForm.Fill(standing, V, Now.Asked);
        if (IsStale(V.Run, standing.Values))
            return RefusedHere(409, true);
        if (!await TryAsync(async () =>
        {
            Tell(await reports.ConditionsAsync(V, typed) == 0 ? "Nothing had changed." : "Conditions are saved.");
        }))
            return RefusedHere(409, true);

        return Redirect($"/runs/{id}?open=read#conditions");
    }

    /// <summary>Probably the same, from memory: what keeps this run and an earlier one apart only because nobody knows it.</summary>
    public async Task<IActionResult> OnPostRememberAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (Form.Id("other", "a run") is not { } other || await reports.RememberAsync(V, other) == 0)
            return NotFound();
        Tell("Noted as from memory; the verdict says so.");
        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>One reading from the page's script; the form's ticket comes in a header.</summary>
    public async Task<IActionResult> OnPostReadingAsync(Guid id)
    {
        ReadForm();
        if (!int.TryParse(Form["section"], out var section))
            return new JsonResult(new ReadingOutcome("refused", null, "", "The entry names no section."), Json.Options) { StatusCode = 422 };
        Guid? supersedes = Guid.TryParse(Form["supersedes"], out var g) ? g : null;
        var outcome = await store.StoreAsync(id, new(Form["key"], section, Form["aspect"], Form["text"], supersedes, Form["why"]));
        return new JsonResult(outcome, Json.Options) { StatusCode = outcome.Status switch { "saved" or "same" => 200, "refused" => 422, _ => 409 } };
    }

    /// <summary>The verdict so far, states and notes of rows: asked for apart, once nothing waits to be stored.</summary>
    public async Task<IActionResult> OnGetSoFarAsync(Guid id) =>
        await runs.LoadAsync(id) is not { } v
            ? NotFound()
            : new JsonResult(
                new
                {
                    Line = RunWords.SoFar(v), States = v.States.Select(s => s.ToString().ToLowerInvariant()), Notes = v.Trial.RowNotes(v.Plan, v.Readings),
                    Done = v.Empty.Count == 0,
                },
                Json.Options);

    /// <summary>
    /// What stands in the cells now, for a page that another device may have overtaken. Readings are never deleted, so their number tells whether
    /// anything came since.
    /// </summary>
    public async Task<IActionResult> OnGetSinceAsync(Guid id, int seen, string? stage)
    {
        if (await runs.SinceAsync(id) is not var (now, count))
            return NotFound();
        if (count == seen && now == stage)
            return StatusCode(StatusCodes.Status204NoContent);
        // After a save all who ask need the same: it is put together for the first of them.
        var standing = await runs.StandingAsync(id, async v =>
        {
            var people = await everybody.AllAsync();
            var read = await readWith.NamesAsync([.. v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct()]);
            return new Standing(Json.Write(
                new
                {
                    Seen = v.Run.Readings.Count, v.Run.Stage,
                    Cells = v.Cells.Select(c => new
                    {
                        c.Key.Section, c.Key.Aspect, Text = c.Value.Entered, c.Value.Id,
                        Who = c.Value.InstrumentRevisionId is { } by && read.TryGetValue(by, out var instrument)
                            ? instrument
                            : people.GetValueOrDefault(c.Value.PersonId ?? Guid.Empty),
                        At = Words.Time(c.Value.At),
                    }),
                    Line = RunWords.SoFar(v), States = v.States.Select(s => s.ToString().ToLowerInvariant()), Notes = v.Trial.RowNotes(v.Plan, v.Readings),
                    Done = v.Empty.Count == 0,
                }));
        });
        return Content(standing.Json, "application/json; charset=utf-8");
    }

    /// <summary>What stands in the cells of a run, as JSON.</summary>
    private sealed record Standing(string Json);

    /// <summary>A column that was scored the wrong way round: 0 becomes 4. Every cell keeps what stood before.</summary>
    public async Task<IActionResult> OnPostTurnAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (ScoreAnchors.Inverted(V.Grid, V.Readings).FirstOrDefault(c => c.Aspect == Form["aspect"]) is not { } column)
            return Redirect($"/runs/{id}?open=read");
        var turned = 0;
        foreach (var row in V.Grid.Rows)
        {
            if (V.Readings.Value(row.Section, column.Aspect) is not { } score)
                continue;
            var entry = new CellEntry(
                Guid.CreateVersion7().ToString(), row.Section, column.Aspect, Words.N(4 - score), V.ReadingId(row.Section, column.Aspect),
                "the column was read the other way round");
            turned += (await store.StoreAsync(id, entry)).Status is "saved" or "same" ? 1 : 0;
        }

        Tell($"{column.Label} is turned round in {Words.Plural(turned, "cell")}; what stood there is kept in the history of each.");
        return Redirect($"/runs/{id}?open=read");
    }

    /// <summary>The whole table at once, without script: only cells that differ are stored, each checked on its own.</summary>
    public async Task<IActionResult> OnPostReadingsAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var saved = 0;
        foreach (var (name, text) in Form.Values.Where(f => f.Key.StartsWith("c.", StringComparison.Ordinal)).ToList())
        {
            var parts = name.Split('.');
            if (parts.Length < 3 || !int.TryParse(parts[1], out var section) || section < 0 || section >= V.Parts.Count)
                continue;
            var named = string.Join('.', parts.Skip(2));
            var typed = text.Trim().ToLowerInvariant();
            if (typed == V.Text(section, named)
                || (named == CellAspects.State && typed == V.States[section].ToString().ToLowerInvariant()))
                continue;
            var aspect = named;
            if (typed == "f" && V.Grid.Column(aspect)?.Kind == CellKind.Score && V.Grid.Column(CellAspects.State) is not null)
                (aspect, typed) = ("state", "failed");
            Guid? was = Guid.TryParse(aspect == named ? Form[$"was.{section}.{aspect}"] : Form[$"was.{section}.state"], out var g) ? g : null;
            var outcome = await store.StoreAsync(id, new(Guid.CreateVersion7().ToString(), section, aspect, typed, was, Form["why"]));
            if (outcome.Status is "saved" or "same")
            {
                saved++;
                Form.Values.Remove(name);
            }
            else
            {
                Form.Refuse(name, outcome.Message ?? "Not saved.");
            }
        }

        if (!Form.IsGood)
        {
            await LoadAsync(id);
            Form.Notice =
                $"{Words.Plural(saved, "reading")} saved, {Form.Errors.Count} not: {string.Join(" ", Form.Errors.Values.Distinct().Take(3))} What you " +
                    $"typed is still in the cells.";
            return RefusedHere(openRead: true);
        }

        Tell(saved == 0 ? "Nothing had changed." : $"{Words.Plural(saved, "reading")} saved.");
        return Redirect($"/runs/{id}?open=read#read");
    }

    public async Task<IActionResult> OnPostFindingAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var tag = Form.Text("tag", "Now.Finding", 60, true);
        var text = Form.Text("findingText", "Note", 300);
        int? section = int.TryParse(Form["section"], out var i) && i >= 0 && i < V.Parts.Count ? i : null;
        return await NoteAsync(id, tag, text, section);
    }

    public async Task<IActionResult> OnPostTriedAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var what = Form.Text("tried", "What was tried", 300, true);
        var outcome = Form.Choice("outcome2", "How it went", FindingWords.OutcomeWords);
        return await NoteAsync(id, FindingWords.Tried(outcome), what, null);
    }

    private async Task<IActionResult> NoteAsync(Guid id, string? tag, string? text, int? section)
    {
        if (!Form.IsGood)
            return RefusedHere(openRead: true);
        var where = $"{V.Called}{(section is { } x ? $", {V.Parts[x].Label}" : "")}";
        await findings.AddAsync(Form["findingKey"], tag!, text, id, V.Pairing?.Id, section, null, where, $"/runs/{id}?open=read#findings");
        return Redirect($"/runs/{id}?open=read#findings");
    }

    public async Task<IActionResult> OnPostRemoveFindingAsync(Guid id)
    {
        ReadForm();
        if (Form.Id("finding", "a finding") is not { } findingId || await findings.RemoveAsync(findingId, f => f.RunId == id) is not { } f)
            return NotFound();
        Tell($"The finding \"{f.Tag}\" is removed.", "finding", f.Id);
        return Redirect($"/runs/{id}?open=read#findings");
    }

    public async Task<IActionResult> OnPostFinishAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage == RunStages.Printed)
        {
            // A page with script says how many readings it has seen stored: fewer here would be a verdict without them.
            ReadForm();
            if (int.TryParse(Form["unsent"], out var unsent) && unsent > 0)
            {
                Form.Notice =
                    $"{Words.Plural(unsent, "reading")} {(unsent == 1 ? "is" : "are")} not stored yet; nothing was judged. Leave the page open until " +
                        $"{(unsent == 1 ? "it is" : "they are")}, then finish.";
                return RefusedHere(409, true);
            }

            await OrTellAsync("changed", async () =>
            {
                await decisions.FinishAsync(V);
            });
        }

        return Redirect($"/runs/{id}#judge");
    }
}
