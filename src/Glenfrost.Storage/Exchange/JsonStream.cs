using System.Text.Json;

namespace Glenfrost.Storage.Exchange;

/// <summary>
/// A JSON document read from a stream, token by token or a value at a time: never more of it stands in memory than the value that is looked at.
/// </summary>
/// <param name="from">The document in UTF-8, with or without a byte order mark.</param>
/// <param name="mostBytes">Most bytes of all of it.</param>
internal sealed class JsonStream(Stream from, long mostBytes)
{
    /// <summary>Most bytes of one value.</summary>
    private const int MostOfAValue = 16_000_000;

    private byte[] buffer = new byte[1 << 16];

    private int start;

    private int end;

    private long read;

    private bool last;

    /// <summary>Where in the document the value that <see cref="NextOfList"/> gave last begins, bytes.</summary>
    public long ValueOffset { get; private set; }

    /// <summary>Its length, bytes.</summary>
    public int ValueLength { get; private set; }

    private JsonReaderState state = new(new JsonReaderOptions { MaxDepth = 64 });

    /// <summary>The next token's kind; null at the end.</summary>
    /// <exception cref="JsonException">It is no JSON.</exception>
    /// <exception cref="InvalidDataException">It is larger than it may be.</exception>
    public JsonTokenType? Next() => Next(out _);

    /// <summary>The next token's kind, with its text where it is a name, a text or a number.</summary>
    public JsonTokenType? Next(out string? text)
    {
        while (true)
        {
            var reader = new Utf8JsonReader(buffer.AsSpan(start, end - start), last, state);
            if (reader.Read())
            {
                text = reader.TokenType switch
                {
                    JsonTokenType.PropertyName or JsonTokenType.String => Text(ref reader),
                    JsonTokenType.Number => System.Text.Encoding.ASCII.GetString(reader.HasValueSequence ? [] : reader.ValueSpan),
                    _ => null,
                };
                Take(ref reader);
                return reader.TokenType;
            }

            text = null;
            if (last)
                return null;
            Fill();
        }
    }

    /// <summary>The next value of a list, whole; null where the list ends here.</summary>
    public JsonDocument? NextOfList()
    {
        while (true)
        {
            var reader = new Utf8JsonReader(buffer.AsSpan(start, end - start), last, state);
            if (reader.Read())
            {
                if (reader.TokenType == JsonTokenType.EndArray)
                {
                    Take(ref reader);
                    return null;
                }

                var begin = reader.TokenStartIndex;
                if (JsonDocument.TryParseValue(ref reader, out var value))
                {
                    (ValueOffset, ValueLength) = (read - end + start + begin, (int)(reader.BytesConsumed - begin));
                    Take(ref reader);
                    return value;
                }
            }

            if (last)
                throw new JsonException(null, null, 0, end);
            Fill();
        }
    }

    /// <summary>Goes past the next value, whatever it is and however large.</summary>
    public void Skip() => Skip(0);

    /// <summary>Goes past the rest of a list or object that has begun.</summary>
    public void SkipRest() => Skip(1);

    private void Skip(int depth)
    {
        do
        {
            depth += Next() switch
            {
                JsonTokenType.StartArray or JsonTokenType.StartObject => 1,
                JsonTokenType.EndArray or JsonTokenType.EndObject => -1,
                null => throw new JsonException(null, null, 0, end),
                _ => 0,
            };
        }
        while (depth > 0);
    }

    private static string? Text(ref Utf8JsonReader reader)
    {
        try
        {
            return reader.GetString();
        }
        catch (InvalidOperationException)
        {
            // Half a character: no name or text of ours.
            return "";
        }
    }

    private void Take(ref Utf8JsonReader reader)
    {
        start += (int)reader.BytesConsumed;
        state = reader.CurrentState;
    }

    private void Fill()
    {
        var held = end - start;
        if (held > 0 && start > 0)
            Buffer.BlockCopy(buffer, start, buffer, 0, held);
        (start, end) = (0, held);
        if (end == buffer.Length)
        {
            if (buffer.Length >= MostOfAValue)
                throw new InvalidDataException(
                    $"A single value of it has more than {MostOfAValue / 1_000_000} MB; it was not read further, and nothing was changed.");
            Array.Resize(ref buffer, buffer.Length * 2);
        }

        var n = from.Read(buffer, end, buffer.Length - end);
        if (read == 0 && n >= 3 && buffer.AsSpan(0, 3).SequenceEqual((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
            start = 3;
        read += n;
        last = n == 0;
        end += n;
        if (read > mostBytes)
            throw new InvalidDataException($"It grows beyond {mostBytes / 1_000_000} MB while it is read; it was not read further, and nothing was changed.");
    }
}
