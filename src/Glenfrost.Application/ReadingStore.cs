using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>How storing a reading ended.</summary>
/// <param name="Status">saved, same, conflict, why or refused.</param>
/// <param name="Id">The reading that stands in the cell now.</param>
/// <param name="Text">Its text.</param>
/// <param name="Message">What to tell; null where nothing is.</param>
/// <param name="Questioned">Saved all the same, but implausible.</param>
public sealed record ReadingOutcome(string Status, Guid? Id, string Text, string? Message, bool Questioned = false);

/// <summary>What is posted for one cell.</summary>
/// <param name="Key">Made by the client; stored once.</param>
/// <param name="Section">From 0, lowest first.</param>
/// <param name="Aspect">Aspect, observedC or state.</param>
/// <param name="Text">As typed.</param>
/// <param name="Supersedes">The reading that stood in the cell when it was typed.</param>
/// <param name="Why">Reason of a later correction.</param>
/// <param name="OpenOnly">True where the cell was chosen because it was open: the same value of somebody else is no answer then.</param>
public sealed record CellEntry(string Key, int Section, string Aspect, string Text, Guid? Supersedes, string? Why, bool OpenOnly = false)
{
    /// <summary>The instrument that read it, as it was; null for eyes and hands of the person.</summary>
    public Guid? InstrumentRevisionId { get; init; }

    /// <summary>The instrument's resolution; null for the usual one of the aspect.</summary>
    public double? Resolution { get; init; }
}

/// <summary>Stores readings, one cell at a time.</summary>
public sealed class ReadingStore(WorkContext work, SlipMinute slips)
{
    /// <summary>
    /// Stores one reading. The same key is stored once; a cell that changed meanwhile is a conflict and nothing is written;
    /// a correction after a minute asks why.
    /// </summary>
    public async Task<ReadingOutcome> StoreAsync(Guid runId, CellEntry entry)
    {
        var person = await work.PersonAsync();
        // The cell and its grid: nothing of the run that a reading does not need.
        var run = await work.Db.Runs.AsNoTracking().Where(r => r.Id == runId && r.RemovedAt == null)
            .Select(r => new { r.Kind, r.Number, r.PlanJson, r.PairingId, r.ToolheadId }).FirstOrDefaultAsync();
        if (run is null)
            return new("refused", null, "", "This run is not there any more. What you typed is still in the field.");
        var trial = TrialCatalogue.Get(run.Kind);
        var plan = trial.ReadPlan(run.PlanJson);
        var (parts, grid) = (plan.Parts, trial.Grid(plan));
        var (value, text, error) = Check(trial, parts, grid, entry);
        if (error is not null)
            return new("refused", null, "", error);
        return await work.AloneAsync(async () =>
        {
            var readings = await work.Db.Readings.AsNoTracking()
                .Where(r => r.RunId == runId && (r.Key == entry.Key || (r.Section == entry.Section && r.Aspect == entry.Aspect))).ToListAsync();
            if (readings.FirstOrDefault(r => r.Key == entry.Key) is { } already)
                return new ReadingOutcome("same", already.Id, already.Entered, null);
            var superseded = readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
            var standing = readings.FirstOrDefault(r => !superseded.Contains(r.Id));
            if (standing is not null && standing.Entered == text && !entry.OpenOnly)
                return new ReadingOutcome("same", standing.Id, text, null);
            if (standing?.Id != entry.Supersedes && !(standing is { Entered: "" }))
                return standing is null
                    ? new ReadingOutcome("conflict", null, "", "This cell was emptied meanwhile.")
                    : new ReadingOutcome(
                        "conflict", standing.Id, standing.Entered,
                        $"{(standing.PersonId != person.Id && await work.Db.People.Where(p => p.Id == standing.PersonId).Select(p => p.Name).FirstOrDefaultAsync() is { } other ? other : "Another tab")} put {Show(standing.Entered)} here at {Words.TimeIn(standing.At)}. Yours is still in the field: Enter puts it in its place."
                    );
            var slip = standing is not null && slips.Holds(standing.Id) && work.Now - standing.At <= SlipMinute.Lasts;
            if (standing is { Entered: not "" } && !slip && string.IsNullOrWhiteSpace(entry.Why))
                return new ReadingOutcome(
                    "why", standing.Id, standing.Entered,
                    $"{Show(standing.Entered)} was read {Words.Ago(standing.At, work.Now)} at {Words.TimeIn(standing.At)}. Why is it {Show(text)} now?");
            var reading = Row(runId, person.Id, grid, entry, value, text);
            reading.SupersedesId = standing?.Id;
            reading.Why = string.IsNullOrWhiteSpace(entry.Why) ? null : entry.Why.Trim();
            work.Db.Readings.Add(reading);
            // The scale speaks of the whole piece: what the run says of its mass is the newest weighing.
            if (entry.Aspect == CellAspects.Mass && grid.Column(CellAspects.Mass) is null && value is { } grams)
                (await work.Db.Runs.FirstAsync(r => r.Id == runId)).MassUg = (long)Math.Round(grams * 1e6);
            var link = $"/runs/{runId}";
            if (reading.Why is not null)
                await work.LogAsync(
                    "reading",
                    $"{trial.Name} {run.Number}, {Where(parts, entry)}: {Show(standing?.Entered ?? "")} became {Show(text)}, because {reading.Why} · " +
                        $"{await NameOfAsync(run.PairingId, run.ToolheadId)}",
                    link);
            else
                await LogAsync(runId, trial, run.Number, run.PairingId, run.ToolheadId, 1);
            await work.Db.SaveChangesAsync();
            slips.Mark(reading.Id);
            var odd = value is { } o ? trial.Question(plan, entry.Section, entry.Aspect, o) : null;
            return new ReadingOutcome("saved", reading.Id, text, odd is null ? null : $"Saved. {odd}", odd is not null);
        });
    }

    /// <summary>
    /// Stores the readings of a run that nobody read yet, all or none: what came as one, from a file or a replay. Each passes the same door as a single one.
    /// </summary>
    /// <param name="run">Tracked; its stage is left as it is.</param>
    /// <param name="entries">At most one for each cell, in the order in which they were read.</param>
    /// <param name="every">How long each took: their times stand so far apart, the first one now.</param>
    /// <returns>Why none is stored; null where all are.</returns>
    public async Task<string?> StoreAllAsync(Run run, IReadOnlyList<CellEntry> entries, TimeSpan every)
    {
        var person = (await work.PersonAsync()).Id;
        var trial = TrialCatalogue.Get(run.Kind);
        var plan = trial.ReadPlan(run.PlanJson);
        var (parts, grid) = (plan.Parts, trial.Grid(plan));
        var rows = new List<Reading>();
        foreach (var entry in entries)
        {
            var (value, text, error) = Check(trial, parts, grid, entry);
            if (error is not null)
                return $"{entry.Aspect} of section {entry.Section}: {error}";
            rows.Add(Row(run.Id, person, grid, entry, value, text));
            rows[^1].At = rows[0].At + every * (rows.Count - 1);
        }

        if (rows.GroupBy(r => (r.Section, r.Aspect)).FirstOrDefault(g => g.Count() > 1)?.Key is { } twice)
            return $"{twice.Aspect} of section {twice.Section} is read twice.";
        return await work.AloneAsync(async () =>
        {
            if (await work.Db.Readings.AnyAsync(r => r.RunId == run.Id))
                return "The run is read already.";
            work.Db.Readings.AddRange(rows);
            if (rows.FirstOrDefault(r => r.Aspect == CellAspects.Mass && grid.Column(CellAspects.Mass) is null)?.Value is { } grams)
                run.MassUg = (long)Math.Round(grams * 1e6);
            await LogAsync(run.Id, trial, run.Number, run.PairingId, run.ToolheadId, rows.Count);
            await work.Db.SaveChangesAsync();
            return (string?)null;
        });
    }

    private Reading Row(Guid runId, Guid person, ReadingGrid grid, CellEntry entry, double? value, string text) => new()
    {
        RunId = runId,
        Key = entry.Key,
        Section = entry.Section,
        Aspect = entry.Aspect,
        Value = value,
        Entered = text,
        At = work.Now,
        PersonId = person,
        DeviceId = work.DeviceId,
        Resolution = entry.Resolution ?? (grid.Column(entry.Aspect) is { } column ? column.Resolution : entry.Aspect == CellAspects.Mass ? 0.1 : null),
        InstrumentRevisionId = entry.InstrumentRevisionId,
    };

    private Task LogAsync(Guid runId, Trial trial, int number, Guid? pairing, Guid? toolhead, int count) => work.LogCountAsync(
        "reading", $"/runs/{runId}", count, n => Words.Plural(n, "reading"),
        async () => $" on {Words.Lower(trial.Name)} {number}: {await NameOfAsync(pairing, toolhead)}");

    private static (double? Value, string Text, string? Error) Check(Trial trial, IReadOnlyList<PlanPart> parts, ReadingGrid grid, CellEntry entry) =>
        entry.Section < 0 || entry.Section >= parts.Count
            ? (null, "", $"Section {entry.Section} is not part of this {trial.Noun}: 0 to {parts.Count - 1} would be right.")
        : entry.Aspect == CellAspects.Mass && grid.Column(CellAspects.Mass) is null && entry.Section != 0
            ? (null, "", "The mass is that of the whole piece: section 0 would be right.")
        : entry.Key.Length is 0 or > 80 ? (null, "", "The entry has no key of 1 to 80 characters.")
        : entry.Why is { Length: > 400 } ? (null, "", "The reason is longer than 400 characters.")
        : ParseCell(grid, entry.Aspect, entry.Text);

    private static string Show(string text) => text switch { "" => "empty", "m" => "missing", _ => text };

    private static (double? Value, string Text, string? Error) ParseCell(ReadingGrid grid, string aspect, string typed)
    {
        if (aspect == CellAspects.State && grid.Column(aspect) is not null)
        {
            var word = typed.Trim().ToLowerInvariant();
            return ReadingGrid.States.Contains(word) ? (null, word, null) : (null, "", "A section is judged, failed or lost.");
        }

        if (aspect == CellAspects.Mass && grid.Column(aspect) is null)
        {
            var text = typed.Trim().ToLowerInvariant();
            var weighed = RecordFields.PieceMassG.Parse(text);
            return text.Length == 0 ? (null, "", null)
                : weighed.Error is null ? ((double)weighed.Value!.Value, Words.N(weighed.Value, 4), null)
                : (null, "", weighed.Error);
        }

        return grid.Parse(aspect, typed);
    }

    private async Task<string> NameOfAsync(Guid? pairing, Guid? toolhead) =>
        pairing is { } id
            ? Facts.NameOf(
                await work.Db.Pairings.AsNoTracking().Include(p => p.Filament).Include(p => p.Variant).Include(p => p.Toolhead!.Printer)
                    .FirstAsync(p => p.Id == id))
            : (await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == toolhead))?.FullName ?? "";

    private static string Where(IReadOnlyList<PlanPart> parts, CellEntry entry) =>
        $"{(entry.Aspect == CellAspects.Observed ? "display" : entry.Aspect)} at {parts[entry.Section].Label}";
}
