using Glenfrost.Core.Gcode.Inspection;

namespace Glenfrost.Core.Gcode.Rewriting;

/// <summary>How a line changed.</summary>
public enum LineChange
{
    /// <summary>It was not there before.</summary>
    Added,

    /// <summary>It stands there still, switched off.</summary>
    Off,

    /// <summary>A move with another number behind E or F.</summary>
    Move,

    /// <summary>Anything else.</summary>
    Other,
}

/// <summary>A line that differs.</summary>
/// <param name="Change">How.</param>
/// <param name="LineBefore">Its number in the file before; that of the next line for an added one.</param>
/// <param name="LineAfter">Its number in the new file.</param>
/// <param name="Before">What stood there; null for an added one.</param>
/// <param name="After">What stands there.</param>
/// <param name="Lead">The line before it, unchanged; null where that one differs too.</param>
public sealed record ChangedLine(LineChange Change, int LineBefore, int LineAfter, string? Before, string After, string? Lead);

/// <summary>The lines in which two files differ, the second of which was made here from the first. Reads both once, in flat memory.</summary>
/// <param name="Added">Lines added.</param>
/// <param name="Off">Lines switched off.</param>
/// <param name="Moves">Moves with other amounts or speeds.</param>
/// <param name="Other">Anything else.</param>
/// <param name="Shown">The first of them.</param>
public sealed record LineDiff(int Added, int Off, int Moves, int Other, IReadOnlyList<ChangedLine> Shown)
{
    /// <summary>Most lines that are kept to be shown.</summary>
    public const int MostShown = 60;

    /// <summary>Compares two files.</summary>
    public static LineDiff Of(Func<Stream> before, Func<Stream> after, CancellationToken stop = default)
    {
        using var a = before();
        using var b = after();
        var (old, now) = (new Lines(a), new Lines(b));
        int added = 0, off = 0, moves = 0, other = 0;
        var shown = new List<ChangedLine>();
        string? lead = null;
        var hasOld = old.Next();
        while (now.Next())
        {
            if ((now.Number & 0xFFFF) == 0)
                stop.ThrowIfCancellationRequested();
            if (hasOld && old.Line.SequenceEqual(now.Line))
            {
                lead = null;
                hasOld = old.Next();
                continue;
            }

            var kind = Kind(hasOld, old, now);
            switch (kind)
            {
                case LineChange.Added:
                    added++;
                    break;
                case LineChange.Off:
                    off++;
                    break;
                case LineChange.Move:
                    moves++;
                    break;
                default:
                    other++;
                    break;
            }

            // Of thousands of moves a few are enough.
            if (shown.Count < MostShown && (kind != LineChange.Move || moves <= 12))
                shown.Add(new(kind, old.Number, now.Number, kind == LineChange.Added ? null : Text(old.Line), Text(now.Line), lead));
            if (kind != LineChange.Added)
                hasOld = hasOld && old.Next();
        }

        if (hasOld)
            other++;
        return new(added, off, moves, other, shown);
    }

    private static LineChange Kind(bool hasOld, Lines old, Lines now)
    {
        if (now.Line.StartsWith("; glenfrost off: "u8))
            return hasOld && now.Line.EndsWith(old.Line) ? LineChange.Off : LineChange.Other;
        if (hasOld && SameButForE(old.Line, now.Line))
            return LineChange.Move;
        return now.Line.IndexOf("; glenfrost "u8) >= 0 ? LineChange.Added : LineChange.Other;
    }

    /// <summary>True for two moves whose words are the same but for the numbers of E and F, a new F and the checksum.</summary>
    private static bool SameButForE(ReadOnlySpan<byte> a, ReadOnlySpan<byte> b)
    {
        if (a.EndsWith("\r"u8) != b.EndsWith("\r"u8))
            return false;
        int i = 0, j = 0;
        var move = false;
        while (true)
        {
            var (x, y) = (Next(a, ref i), Next(b, ref j));
            if (x != y)
                return false;
            if (x == 0)
                break;
            move |= x == 'G';
        }

        return move && a[i..].TrimEnd((byte)'\r').SequenceEqual(b[j..].TrimEnd((byte)'\r'));
    }

    /// <summary>The next byte that counts, as a capital: not white space, not E, F or a star with their numbers; 0 at the comment and at the end.</summary>
    private static byte Next(ReadOnlySpan<byte> line, ref int i)
    {
        while (i < line.Length)
        {
            var c = line[i];
            if (c == ';')
                return 0;
            i++;
            if (c <= ' ')
                continue;
            if (c is (byte)'E' or (byte)'e' or (byte)'F' or (byte)'f' or (byte)'*')
            {
                var number = i;
                while (number < line.Length && line[number] == ' ')
                    number++;
                var end = number;
                while (end < line.Length && line[end] is (>= (byte)'0' and <= (byte)'9') or (byte)'.' or (byte)'-' or (byte)'+')
                    end++;
                if (end > number)
                    i = end;
                continue;
            }

            return c is >= (byte)'a' and <= (byte)'z' ? (byte)(c - 32) : c;
        }

        return 0;
    }

    private static string Text(ReadOnlySpan<byte> line) => GcodeText.Of(line[..Math.Min(line.Length, 300)]);

    /// <summary>Lines of a stream; of a line that is too long, its parts.</summary>
    private sealed class Lines(Stream from)
    {
        private readonly byte[] buffer = new byte[256 * 1024];
        private int at, have, start, length;

        public int Number { get; private set; }

        /// <summary>Without its line feed.</summary>
        public ReadOnlySpan<byte> Line => buffer.AsSpan(start, length);

        public bool Next()
        {
            while (true)
            {
                var n = buffer.AsSpan(at, have - at).IndexOf((byte)'\n');
                if (n >= 0 || have - at == buffer.Length)
                {
                    (start, length) = (at, n >= 0 ? n : buffer.Length);
                    at += length + (n >= 0 ? 1 : 0);
                    Number++;
                    return true;
                }

                buffer.AsSpan(at, have - at).CopyTo(buffer);
                (have, at) = (have - at, 0);
                var read = from.Read(buffer, have, buffer.Length - have);
                if (read > 0)
                {
                    have += read;
                    continue;
                }

                if (have == 0)
                    return false;
                (start, length) = (0, have);
                at = have = 0;
                Number++;
                return true;
            }
        }
    }
}
