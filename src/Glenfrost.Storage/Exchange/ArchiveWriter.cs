using System.Globalization;
using System.Text.Json;
using Glenfrost.Storage.Records;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Storage.Exchange;

/// <summary>Writes an archive: one JSON document, row by row, in flat memory.</summary>
public static class ArchiveWriter
{
    /// <summary>What the document calls itself.</summary>
    public const string Format = "glenfrost-archive";

    /// <summary>Version of the document; a newer one is not read.</summary>
    public const int Version = 1;

    private const int FlushBytes = 1 << 16;

    /// <summary>Writes a selection as it stands in one moment.</summary>
    /// <param name="db">A context of its own.</param>
    /// <param name="selection">What goes out.</param>
    /// <param name="engine">Version of the application.</param>
    /// <param name="at">Now, UTC.</param>
    /// <param name="readable">A block for people and other programs that the import does not read; null for none.</param>
    /// <param name="to">Where it goes.</param>
    /// <param name="stop">Stops it.</param>
    /// <returns>Hashes of the files that the rows name.</returns>
    public static async Task<IReadOnlyCollection<string>> WriteAsync(
        GlenfrostDb db, Selection selection, string engine, DateTime at, Action<Utf8JsonWriter>? readable, Stream to, CancellationToken stop = default)
    {
        // One moment for all tables: a deferred transaction reads a snapshot and blocks no writer.
        await db.Database.OpenConnectionAsync(stop);
        await using var moment = ((SqliteConnection)db.Database.GetDbConnection()).BeginTransaction(deferred: true);
        await db.Database.UseTransactionAsync(moment, stop);
        try
        {
            return await WriteRowsAsync(db, selection, engine, at, readable, to, stop);
        }
        finally
        {
            await db.Database.UseTransactionAsync(null, CancellationToken.None);
            await moment.RollbackAsync(CancellationToken.None);
            await db.Database.CloseConnectionAsync();
        }
    }

    private static async Task<IReadOnlyCollection<string>> WriteRowsAsync(
        GlenfrostDb db, Selection selection, string engine, DateTime at, Action<Utf8JsonWriter>? readable, Stream to, CancellationToken stop)
    {
        var hashes = new SortedSet<string>(StringComparer.Ordinal);
        await using var json = new Utf8JsonWriter(to, new JsonWriterOptions { Indented = true, SkipValidation = false });
        json.WriteStartObject();
        json.WriteString("format", Format);
        json.WriteNumber("version", Version);
        json.WriteString("scope", selection.Scope);
        json.WriteString("title", selection.Title);
        json.WriteString("exportedAt", Time(at));
        json.WriteString("engine", engine);
        if (readable is not null)
        {
            json.WritePropertyName("readable");
            readable(json);
        }

        json.WriteStartObject("rows");
        foreach (var table in ArchiveTables.All)
        {
            json.WriteStartArray(table.Name);
            await foreach (var row in table.RowsAsync(db, selection).WithCancellation(stop))
            {
                WriteRow(json, table, row);
                foreach (var hash in HashesOf(row))
                    hashes.Add(hash);
                if (json.BytesPending > FlushBytes)
                    await json.FlushAsync(stop);
            }

            json.WriteEndArray();
        }

        json.WriteEndObject();
        json.WriteEndObject();
        return hashes;
    }

    /// <summary>Files that a row names.</summary>
    public static IEnumerable<string> HashesOf(Record row) => row switch
    {
        RunFile f => [f.Sha256],
        GcodeFile f => [f.Sha256],
        Photo p => [p.Sha256, p.SmallSha256],
        _ => [],
    };

    /// <summary>A time as it stands in JSON.</summary>
    public static string Time(DateTime t) => DateTime.SpecifyKind(t, DateTimeKind.Utc).ToString("yyyy-MM-ddTHH:mm:ss.fffZ", CultureInfo.InvariantCulture);

    /// <summary>A word of an enumeration as it stands in JSON.</summary>
    public static string Word(object value)
    {
        var name = value.ToString()!;
        return char.ToLowerInvariant(name[0]) + name[1..];
    }

    private static void WriteRow(Utf8JsonWriter json, ArchiveTable table, Record row)
    {
        json.WriteStartObject();
        foreach (var c in table.Columns)
        {
            var value = c.Property.GetValue(row);
            if (value is null)
                continue;
            json.WritePropertyName(c.Name);
            switch (value)
            {
                case string s when c.Kind == ColumnKind.Json:
                    WriteJson(json, s);
                    break;
                case string s:
                    json.WriteStringValue(s);
                    break;
                case Guid g:
                    json.WriteStringValue(g);
                    break;
                case DateTime t:
                    json.WriteStringValue(Time(t));
                    break;
                case bool b:
                    json.WriteBooleanValue(b);
                    break;
                case int i:
                    json.WriteNumberValue(i);
                    break;
                case long l:
                    json.WriteNumberValue(l);
                    break;
                case double d:
                    json.WriteNumberValue(d);
                    break;
                default:
                    json.WriteStringValue(Word(value));
                    break;
            }
        }

        json.WriteEndObject();
    }

    private static void WriteJson(Utf8JsonWriter json, string text)
    {
        using var document = JsonDocument.Parse(text);
        document.RootElement.WriteTo(json);
    }
}
