using CsvHelper;

namespace Glenfrost.Application.Exchange;

/// <summary>
/// Writes tables as CSV: UTF-8 with its mark, commas, a first row of names; texts that table programs would run as formulas are kept as text.
/// </summary>
public static class Tables
{
    private static readonly CsvWriterOptions Options = new() { Injection = CsvInjection.Escape, WriteByteOrderMark = true, NullValue = "" };

    /// <summary>Writes rows of plain values: text, numbers, times.</summary>
    public static void Write(Stream to, IReadOnlyList<string> names, IEnumerable<IReadOnlyList<object?>> rows)
    {
        using var csv = CsvWriter.Create(to, Options, true);
        csv.WriteHeader(names.ToArray());
        foreach (var row in rows)
        {
            foreach (var value in row)
                csv.WriteField(Plain(value));
            csv.EndRecord();
        }
    }

    /// <summary>The same as bytes.</summary>
    public static byte[] Bytes(IReadOnlyList<string> names, IEnumerable<IReadOnlyList<object?>> rows)
    {
        var to = new MemoryStream();
        Write(to, names, rows);
        return to.ToArray();
    }

    private static object? Plain(object? value) => value switch
    {
        DateTime t => DateTime.SpecifyKind(t, DateTimeKind.Utc).ToString("yyyy-MM-ddTHH:mm:ss.fffZ", System.Globalization.CultureInfo.InvariantCulture),
        bool b => b ? "true" : "false",
        Enum e => char.ToLowerInvariant(e.ToString()[0]) + e.ToString()[1..],
        Guid g => g.ToString(),
        _ => value,
    };
}
