using System.Security.Cryptography;
using System.Text;
using CsvHelper;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Exchange;

/// <summary>What was chosen and mended so far; kept with the table, so that nothing typed is lost.</summary>
public sealed record NotesState
{
    /// <summary>The setting that each column is, in the order of the columns; null for one that is left out.</summary>
    public List<string?> Mapping { get; init; } = [];

    /// <summary>How days are written in it.</summary>
    public DayForm Days { get; init; }

    /// <summary>Mended cells: row, then column.</summary>
    public Dictionary<int, Dictionary<int, string>> Mended { get; init; } = [];
}

/// <summary>A table as it was read.</summary>
public sealed record NotesTable(IReadOnlyList<string> Headers, IReadOnlyList<string[]> Rows);

/// <summary>A row and how it stands.</summary>
/// <param name="Number">Row of the table, from 0.</param>
/// <param name="Cells">Its cells, mended ones in place.</param>
/// <param name="Note">Understood; null where it fails.</param>
/// <param name="Errors">By column.</param>
/// <param name="Key">By which it is known again.</param>
/// <param name="Known">True where it stands here already, or earlier in the table.</param>
public sealed record NotesRow(int Number, string[] Cells, OldNote? Note, IReadOnlyDictionary<int, string> Errors, string Key, bool Known);

/// <summary>Takes a table of old notes in: values into profiles where nothing better stands, every row as a finding that keeps its words.</summary>
public sealed class NotesImport(WorkContext work, Profiles profiles, Imports imports)
{
    private const int MostRows = 20_000;

    private const int MostColumns = 80;

    private const long MostBytes = 20_000_000;

    private static readonly CsvReaderOptions Options = new()
    {
        FieldCountMismatch = CsvFieldCountHandling.Allow, MissingField = CsvMissingFieldHandling.ReturnEmpty, MalformedData = CsvMalformedDataHandling.Recover,
    };

    /// <summary>Reads the table.</summary>
    /// <exception cref="InvalidDataException">It can't be read; the message says why.</exception>
    public NotesTable Read(ImportDraft draft)
    {
        var bytes = new FileInfo(imports.PathOf(draft.Id, "sent")).Length;
        if (bytes > MostBytes)
            throw new InvalidDataException($"The table has {Words.Size(bytes)}; at most {Words.Size(MostBytes)} are read. Send it in parts.");
        var raw = File.ReadAllBytes(imports.PathOf(draft.Id, "sent"));
        try
        {
            using var csv = CsvReader.FromText(TextOf(raw), Options);
            csv.ReadHeader();
            var headers = csv.Headers.ToArray();
            if (headers.Length is < 2 or > MostColumns)
                throw new InvalidDataException(
                    $"The table has {Words.Plural(headers.Length, "column")}; between 2 and {MostColumns} would be right: a first row of names, and " +
                        $"columns parted by comma, semicolon or tab."
                );
            var rows = new List<string[]>();
            while (csv.Read())
            {
                if (rows.Count == MostRows)
                    throw new InvalidDataException($"The table has more than {MostRows} rows. Send it in parts.");
                var cells = Enumerable.Range(0, headers.Length).Select(i => i < csv.FieldCount ? csv.GetString(i) : "").ToArray();
                if (cells.Any(c => c.Trim().Length > 0))
                    rows.Add(cells);
            }

            return rows.Count == 0 ? throw new InvalidDataException("The table has no row below its names.") : new(headers, rows);
        }
        catch (Exception e)
            when (e is FormatException or ArgumentException or InvalidOperationException or IOException && e is not InvalidDataException
                || e.GetType().Namespace == "CsvHelper")
        {
            throw new InvalidDataException($"The table can't be read: {(e.Message.Length > 200 ? e.Message[..200] + "…" : e.Message)}");
        }
    }

    /// <summary>What was chosen so far, or a guess from the column names.</summary>
    public NotesState StateOf(ImportDraft draft, NotesTable table)
    {
        var path = imports.PathOf(draft.Id, "notes.json");
        if (File.Exists(path))
        {
            var state = Json.Read<NotesState>(File.ReadAllText(path));
            if (state.Mapping.Count == table.Headers.Count)
                return state;
        }

        var mapping = OldNotes.Guess(table.Headers).ToList();
        var days = mapping.IndexOf(OldNotes.Date);
        var samples = days < 0 ? [] : table.Rows.Select(r => r[days].Trim()).Where(t => t.Length > 0).Take(50).ToList();
        return new() { Mapping = mapping, Days = samples.Count > 0 && samples.All(s => !s.Contains('-')) ? DayForm.DayFirst : DayForm.YearFirst };
    }

    /// <summary>Keeps how a table is to be read, beside its draft.</summary>
    public void Save(ImportDraft draft, NotesState state) => Disk.Write(imports.PathOf(draft.Id, "notes.json"), Json.Write(state));

    /// <summary>Reads every row against what is registered here.</summary>
    public async Task<List<NotesRow>> RowsAsync(NotesTable table, NotesState state)
    {
        var filaments = (await work.Db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).ToListAsync()).Select(f => new Named(f.Id, [f.Name, f.Line]))
            .ToList();
        var heads = (
            await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer)
                .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == Worlds.Real)
                .ToListAsync())
            .Select(t => (Head: t, Limits: Facts.LimitsOf(t)))
            .Select(t => new NamedToolhead(t.Head.Id, [t.Head.FullName, t.Head.Printer!.Name], t.Limits.MinC, t.Limits.MaxC, t.Head.Printer.BedMaxC)).ToList();
        var rows = table
            .Rows.Select(
                (r, i) =>
                {
                    var cells = r.ToArray();
                    foreach (var (column, text) in state.Mended.GetValueOrDefault(i) ?? [])
                    {
                        if (column >= 0 && column < cells.Length)
                            cells[column] = text;
                    }

                    var (note, errors) = OldNotes.Read(cells, state.Mapping, state.Days, filaments, heads, work.Now);
                    return new NotesRow(i, cells, note, errors, note is null ? "" : KeyOf(note), false);
                }).ToList();
        var standing = (await work.Db.Findings.AsNoTracking().Where(f => f.Key.StartsWith("note-")).Select(f => f.Key).ToListAsync()).ToHashSet();
        return [.. rows.Select(r => r.Note is null || standing.Add(r.Key) ? r : r with { Known = true })];
    }

    /// <summary>Takes the rows in that are understood and not here yet; the others wait with the table.</summary>
    /// <returns>How many notes came in, how many values they put into profiles, how many pairings were made.</returns>
    public async Task<(int Notes, int Values, int Pairings)> TakeAsync(ImportDraft draft, NotesTable table, NotesState state)
    {
        await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            await using var transaction = await work.Db.Database.BeginTransactionAsync();
            var person = (await work.PersonAsync()).Id;
            var (notes, values, made) = (0, 0, 0);
            var cause = Guid.CreateVersion7();
            var fresh = (await RowsAsync(table, state)).Where(r => r.Note is not null && !r.Known).ToList();
            foreach (var group in fresh.GroupBy(r => (r.Note!.FilamentId, r.Note.ToolheadId)))
            {
                var (pairing, isNew) = await PairingAsync(group.Key.FilamentId, group.Key.ToolheadId);
                made += isNew ? 1 : 0;
                List<ProfileSetting> settings = [.. (await profiles.LatestAsync(pairing.Id))?.Rows ?? []];
                var changed = 0;
                // Later notes come last and stand.
                foreach (var row in group.OrderBy(r => r.Note!.Date ?? DateTime.MinValue).ThenBy(r => r.Number))
                {
                    var note = row.Note!;
                    changed += note.Settings.Count(x => ProfileRules.TakeOldNote(settings, x.Key, x.Value, note.Date is { } d ? Words.Day(d) : null));
                    work.Db.Findings.Add(
                        new Finding
                        {
                            Key = row.Key, PairingId = pairing.Id, Tag = note.Tag ?? "old note", Text = TextOf(note), At = note.Date ?? work.Now,
                            PersonId = person,
                        });
                    notes++;
                }

                if (changed > 0)
                    await profiles.NotesAsync(pairing.Id, settings, $"Old notes: {draft.Name}", cause);
                values += changed;
                await work.Db.SaveChangesAsync();
            }

            if (notes > 0)
                await work.LogAsync(
                    "import",
                    $"{draft.Name}: {Words.Plural(notes, "old note")} taken in, {Words.Plural(values, "value")} into " +
                        $"profiles{(made > 0 ? $", {Words.Plural(made, "pairing")} made" : "")}",
                    "/exchange", values > 0 ? $"cause:{cause}" : null);
            await work.Db.SaveChangesAsync();
            await transaction.CommitAsync();
            return (notes, values, made);
        });
    }

    private static string TextOf(OldNote note)
    {
        var parts = note
            .Settings.Select(s => $"{SettingRegistry.Get(s.Key).Label.InSentence()} {Words.Setting(s.Key, s.Value)} {Words.Unit(s.Key)}".TrimEnd())
            .ToList();
        if (note.Note is not null)
            parts.Add(note.Note);
        return string.Join(" · ", parts);
    }

    private async Task<(Pairing Pairing, bool IsNew)> PairingAsync(Guid filamentId, Guid toolheadId)
    {
        var head = await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstAsync(t => t.Id == toolheadId);
        var standing = await work.Db.Pairings.AsNoTracking()
            .Where(p =>
                p.FilamentId == filamentId
                && p.ToolheadId == toolheadId
                && p.RemovedAt == null
                && p.World == Worlds.Real
                && p.NozzleDiameterMm == head.NozzleDiameterMm
                && p.NozzleFlow == head.NozzleFlow)
            .OrderBy(p => p.VariantId != null).ThenBy(p => p.CreatedAt).FirstOrDefaultAsync();
        if (standing is not null)
            return (standing, false);
        var filament = await work.Db.Filaments.AsNoTracking().Include(f => f.Sources).FirstAsync(f => f.Id == filamentId);
        var fresh = new Pairing
        {
            FilamentId = filamentId, ToolheadId = toolheadId, NozzleDiameterMm = head.NozzleDiameterMm, NozzleFlow = head.NozzleFlow, CreatedAt = work.Now,
            ChangedAt = work.Now, Filament = filament, Toolhead = head,
        };
        var settings = Profiles.Starting(fresh, []);
        (fresh.Filament, fresh.Toolhead) = (null, null);
        work.Db.Pairings.Add(fresh);
        await profiles.BeginAsync(fresh, settings, "Started from label and family");
        await work.Db.SaveChangesAsync();
        return (fresh, true);
    }

    private static string KeyOf(OldNote n)
    {
        var text =
            $"{n.FilamentId}|{n.ToolheadId}|{n.Date:yyyy-MM-dd}|{string.Join(';', n.Settings.OrderBy(s => s.Key, StringComparer.Ordinal).Select(s => FormattableString.Invariant($"{s.Key}={s.Value:R}")))}|{n.Tag}|{n.Note}";
        return "note-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..40];
    }

    /// <summary>Text by its mark, as UTF-8 where it is that, else as Latin-1, which old table programs write.</summary>
    private static string TextOf(byte[] raw)
    {
        if (raw.AsSpan().StartsWith(new byte[] { 0xFF, 0xFE }))
            return Encoding.Unicode.GetString(raw, 2, raw.Length - 2);
        if (raw.AsSpan().StartsWith(new byte[] { 0xFE, 0xFF }))
            return Encoding.BigEndianUnicode.GetString(raw, 2, raw.Length - 2);
        try
        {
            return new UTF8Encoding(false, true).GetString(raw).TrimStart('\uFEFF');
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(raw);
        }
    }
}
