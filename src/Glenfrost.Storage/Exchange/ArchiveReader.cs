using System.Globalization;
using System.Text.Json;
using Glenfrost.Storage.Records;

namespace Glenfrost.Storage.Exchange;

/// <summary>A row of an archive that can't be taken.</summary>
/// <param name="Table">Its table.</param>
/// <param name="Place">Its place in the table, from 0.</param>
/// <param name="Id">Its id where it has one.</param>
/// <param name="Why">What is wrong and what would be right.</param>
public sealed record BadRow(string Table, int Place, Guid? Id, string Why);

/// <summary>A row of an archive that can be taken: where it stands in the document.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Offset">Where it begins, bytes.</param>
/// <param name="Length">Its length, bytes.</param>
public readonly record struct RowPlace(Guid Id, long Offset, int Length);

/// <summary>An archive as it was read: what it says of itself, and where its rows stand. The rows themselves are read again where they are wanted.</summary>
public sealed class Archive
{
    /// <summary>What was taken out: all, pairing, run …</summary>
    public string Scope { get; set; } = "";

    /// <summary>What it is called.</summary>
    public string Title { get; set; } = "";

    /// <summary>When it was taken out, as it stands in the file.</summary>
    public string ExportedAt { get; set; } = "";

    /// <summary>Rows that can be taken, by table.</summary>
    public Dictionary<ArchiveTable, List<RowPlace>> Rows { get; } = [];

    /// <summary>Rows that can't be taken.</summary>
    public List<BadRow> Bad { get; } = [];

    /// <summary>Tables and fields that this version does not know; they are left out.</summary>
    public SortedSet<string> Unknown { get; } = new(StringComparer.Ordinal);

    /// <summary>Rows that were looked at, good and bad.</summary>
    internal int Seen { get; set; }

    /// <summary>Notes what is not known, as far as anybody would read it.</summary>
    internal void NotKnown(string name)
    {
        if (Unknown.Count < MostUnknown)
            Unknown.Add(name);
    }

    private const int MostUnknown = 200;
}

/// <summary>Reads an archive; each field is checked against its column.</summary>
public static class ArchiveReader
{
    private const int LongestText = 200_000;

    private const int MostBad = 500;

    /// <summary>Most rows of all tables together.</summary>
    private const int MostRows = 3_000_000;

    /// <summary>Reads a document from a stream, a row at a time.</summary>
    /// <param name="json">The document.</param>
    /// <param name="rule">What is wrong with a record beyond the types of its fields; null where nothing is.</param>
    /// <param name="mostBytes">Most bytes that are read of it.</param>
    /// <exception cref="InvalidDataException">It is no archive, or one of a newer version; the message says what would be right.</exception>
    public static Archive Read(Stream json, Func<Record, string?> rule, long mostBytes = long.MaxValue)
    {
        try
        {
            return Read(new JsonStream(json, mostBytes), rule);
        }
        catch (JsonException e)
        {
            throw new InvalidDataException(
                $"The JSON can't be read to its end: line {e.LineNumber + 1}, byte {e.BytePositionInLine + 1}. It may be half a file: export it once more.");
        }
    }

    private static Archive Read(JsonStream json, Func<Record, string?> rule)
    {
        var (texts, version, rows) = (new Dictionary<string, string>(), (int?)null, (Archive?)null);
        var first = json.Next();
        if (first == JsonTokenType.StartObject)
        {
            while (json.Next(out var name) is JsonTokenType.PropertyName)
            {
                switch (name)
                {
                    case "format" or "scope" or "title" or "exportedAt":
                        if (OneOf(json, out var text) is JsonTokenType.String)
                            texts.TryAdd(name, text!);
                        if (name == "format")
                            CheckFormat(texts);
                        break;
                    case "version":
                        version ??= OneOf(json, out var number) is JsonTokenType.Number
                            && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var v) && v >= 1 ? v : 0;
                        CheckVersion(version);
                        break;
                    case "rows" when rows is null:
                        rows = ReadRows(json, rule);
                        break;
                    default:
                        json.Skip();
                        break;
                }
            }
        }
        else if (first == JsonTokenType.StartArray)
        {
            // Read to its end all the same: half a file is told as half a file.
            while (json.NextOfList() is { } value)
                value.Dispose();
        }

        CheckFormat(texts);
        CheckVersion(version);
        if (rows is null)
            throw new InvalidDataException("The archive has no \"rows\": an object of tables would be right.");
        while (json.Next() is not null)
        {
        }

        (rows.Scope, rows.Title, rows.ExportedAt) = (
            Short(texts.GetValueOrDefault("scope", "archive")), Short(texts.GetValueOrDefault("title", "")), Short(texts.GetValueOrDefault("exportedAt", "")));
        return rows;
    }

    private static void CheckFormat(Dictionary<string, string> texts)
    {
        if (!texts.TryGetValue("format", out var format))
            throw new InvalidDataException($"This JSON is no archive of Glenfrost: it does not say \"format\": \"{ArchiveWriter.Format}\".");
        if (format != ArchiveWriter.Format)
            throw new InvalidDataException($"This JSON calls itself \"{Short(format)}\"; an archive of Glenfrost says \"{ArchiveWriter.Format}\".");
    }

    private static void CheckVersion(int? version)
    {
        if (version is null or < 1)
            throw new InvalidDataException("The archive does not say its version; a whole number from 1 would be right.");
        if (version > ArchiveWriter.Version)
            throw new InvalidDataException(
                $"This archive was written by a newer Glenfrost (version {version} of the form; this one reads up to {ArchiveWriter.Version}). Update " +
                    $"Glenfrost first."
            );
    }

    /// <summary>A value of one token with its text; of a list or object its kind alone, and all of it is passed.</summary>
    private static JsonTokenType? OneOf(JsonStream json, out string? text)
    {
        var kind = json.Next(out text);
        if (kind is JsonTokenType.StartObject or JsonTokenType.StartArray)
            json.SkipRest();
        return kind;
    }

    private static Archive ReadRows(JsonStream json, Func<Record, string?> rule)
    {
        if (OneOfObject(json) is false)
            throw new InvalidDataException("The archive has no \"rows\": an object of tables would be right.");
        var archive = new Archive();
        while (json.Next(out var name) is JsonTokenType.PropertyName)
        {
            if (ArchiveTables.Find(name!) is not { } table)
            {
                archive.NotKnown(Short(name!));
                json.Skip();
            }
            else if (json.Next() is not JsonTokenType.StartArray)
            {
                throw new InvalidDataException($"rows.{table.Name} must be a list of rows.");
            }
            else
            {
                ReadTable(archive, table, json, rule);
            }
        }

        return archive;
    }

    private static bool OneOfObject(JsonStream json)
    {
        var kind = json.Next();
        if (kind is JsonTokenType.StartArray)
            json.SkipRest();
        return kind is JsonTokenType.StartObject;
    }

    private static void ReadTable(Archive archive, ArchiveTable table, JsonStream json, Func<Record, string?> rule)
    {
        var columns = table.Columns.ToDictionary(c => c.Name);
        var rows = archive.Rows[table] = [];
        var ids = new HashSet<Guid>();
        var place = -1;
        while (json.NextOfList() is { } document)
        {
            using var _ = document;
            var e = document.RootElement;
            place++;
            if (++archive.Seen > MostRows)
                throw new InvalidDataException($"The archive holds more than {MostRows:N0} rows; it was not read further, and nothing was changed.");
            Guid? id =
                e.ValueKind == JsonValueKind.Object && e.TryGetProperty("id", out var i) && i.ValueKind == JsonValueKind.String && i.TryGetGuid(out var g)
                    ? g
                    : null;
            string? why;
            Record? record = null;
            if (e.ValueKind != JsonValueKind.Object)
                why = "a row must be an object";
            else if (id is null || id == Guid.Empty)
                why = "id is missing: a UUID would be right";
            else if (!ids.Add(id.Value))
                why = "this id stands twice in the table";
            else
                (record, why) = ReadRow(archive, table, columns, e);
            try
            {
                why ??= rule(record!);
            }
            catch (Exception fault) when (fault is not OutOfMemoryException)
            {
                // Whatever a rule stumbles over is this row's fault and nobody else's.
                why = $"it can't be read: {Short(fault.Message)}";
            }

            if (why is null)
                rows.Add(new(id!.Value, json.ValueOffset, json.ValueLength));
            else if (archive.Bad.Count < MostBad)
                archive.Bad.Add(new(table.Name, place, id, why));
        }
    }

    /// <summary>Rows of a document that were found good, read again.</summary>
    /// <param name="document">The document; it can be read at any place.</param>
    /// <param name="table">Their table.</param>
    /// <param name="places">Where they stand.</param>
    /// <exception cref="InvalidDataException">Something else stands there now.</exception>
    public static List<Record> RowsAt(Stream document, ArchiveTable table, IEnumerable<RowPlace> places)
    {
        var columns = table.Columns.ToDictionary(c => c.Name);
        var (known, list, buffer) = (new Archive(), new List<Record>(), Array.Empty<byte>());
        foreach (var place in places)
        {
            if (buffer.Length < place.Length)
                buffer = new byte[Math.Max(place.Length, 1 << 14)];
            document.Position = place.Offset;
            document.ReadExactly(buffer, 0, place.Length);
            using var row = JsonDocument.Parse(buffer.AsMemory(0, place.Length));
            list.Add(ReadRow(known, table, columns, row.RootElement).Record ?? throw new InvalidDataException("The archive changed while it was read."));
        }

        return list;
    }

    private static (Record? Record, string? Why) ReadRow(Archive archive, ArchiveTable table, Dictionary<string, Column> columns, JsonElement e)
    {
        try
        {
            return Fields(archive, table, columns, e);
        }
        catch (InvalidOperationException)
        {
            return (null, "it holds half of a character, or bytes that are no UTF-8: text in UTF-8 would be right");
        }
    }

    private static (Record? Record, string? Why) Fields(Archive archive, ArchiveTable table, Dictionary<string, Column> columns, JsonElement e)
    {
        var record = table.New();
        var seen = new HashSet<string>();
        foreach (var field in e.EnumerateObject())
        {
            if (!columns.TryGetValue(field.Name, out var column))
            {
                archive.NotKnown($"{table.Name}.{Short(field.Name)}");
                continue;
            }

            if (!seen.Add(field.Name))
                return (null, $"{field.Name} stands twice");
            if (field.Value.ValueKind == JsonValueKind.Null)
            {
                if (!column.Nullable)
                    return (null, $"{field.Name} is empty: {What(column)} would be right");
                column.Property.SetValue(record, null);
                continue;
            }

            if (!TryValue(column, field.Value, out var value))
                return (null, $"{field.Name} is {Short(field.Value.GetRawText())}: {What(column)} would be right");
            column.Property.SetValue(record, value);
        }

        // What a record fills by itself (an id, a default) may stand; what it has not must be there.
        return columns.Values.FirstOrDefault(c => !c.Nullable && !seen.Contains(c.Name)) is { } missing
            ? (null, $"{missing.Name} is missing: {What(missing)} would be right")
            : (record, null);
    }

    private static bool TryValue(Column column, JsonElement e, out object? value)
    {
        value = null;
        switch (column.Kind)
        {
            case ColumnKind.Json:
                value = JsonSerializer.Serialize(e);
                return ((string)value).Length <= LongestText * 10;
            case ColumnKind.Id when e.ValueKind == JsonValueKind.String && e.TryGetGuid(out var g):
                value = g;
                return true;
            case ColumnKind.Time
                when e.ValueKind == JsonValueKind.String
                    && DateTime.TryParse(
                        e.GetString(), CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var t)
                    && t.Year is > 1970 and < 9000:
                value = new DateTime(t.Ticks / TimeSpan.TicksPerMillisecond * TimeSpan.TicksPerMillisecond, DateTimeKind.Utc);
                return true;
            case ColumnKind.Flag when e.ValueKind is JsonValueKind.True or JsonValueKind.False:
                value = e.GetBoolean();
                return true;
            case ColumnKind.Whole when e.ValueKind == JsonValueKind.Number && column.Type == typeof(int) && e.TryGetInt32(out var i):
                value = i;
                return true;
            case ColumnKind.Whole when e.ValueKind == JsonValueKind.Number && column.Type == typeof(long) && e.TryGetInt64(out var l):
                value = l;
                return true;
            case ColumnKind.Number when e.ValueKind == JsonValueKind.Number && e.TryGetDouble(out var d) && double.IsFinite(d):
                value = d;
                return true;
            case ColumnKind.Word
                when e.ValueKind == JsonValueKind.String
                    && e.GetString() is { Length: > 0 } w
                    && Enum.GetNames(column.Type).FirstOrDefault(n => char.ToLowerInvariant(n[0]) + n[1..] == w) is { } name:
                value = Enum.Parse(column.Type, name);
                return true;
            case ColumnKind.Text when e.ValueKind == JsonValueKind.String && e.GetString() is { } s && s.Length <= LongestText && !s.Contains('\0'):
                value = s;
                return true;
            default:
                return false;
        }
    }

    private static string What(Column c) => c.Kind switch
    {
        ColumnKind.Id => "a UUID",
        ColumnKind.Time => "a UTC time like 2026-11-23T09:00:00.000Z",
        ColumnKind.Flag => "true or false",
        ColumnKind.Whole => "a whole number",
        ColumnKind.Number => "a number",
        ColumnKind.Word => string.Join(", ", Enum.GetNames(c.Type).Select(n => char.ToLowerInvariant(n[0]) + n[1..])),
        ColumnKind.Json => "a JSON value",
        _ => "a text",
    };

    private static string Short(string s) => s.Length > 80 ? s[..80] + "…" : s;
}
