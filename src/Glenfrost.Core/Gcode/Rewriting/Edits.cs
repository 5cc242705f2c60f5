using System.Globalization;
using System.Text;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Rewriting;

/// <summary>Words by which our own lines are known again in a file.</summary>
public static class Marks
{
    /// <summary>Ends or begins a line that was added.</summary>
    public const string Added = "; glenfrost ";

    /// <summary>Stands before a line that was switched off; the line itself follows.</summary>
    public const string Off = "; glenfrost off: ";
}

/// <summary>Bytes of a file that are replaced by others; none of them for an insertion.</summary>
/// <param name="Offset">First byte.</param>
/// <param name="Length">How many bytes go.</param>
/// <param name="Text">What comes instead, a byte a character (Latin-1): bytes of the file go through unchanged.</param>
public sealed record FileEdit(long Offset, int Length, string Text);

/// <summary>What a move becomes. Lengths in mm of filament, speeds in mm/s; numbers that are given back as they came leave the line as it was.</summary>
/// <param name="E">Filament fed by the move.</param>
/// <param name="Feed">Speed of the move.</param>
public readonly record struct MoveChange(double E, double Feed);

/// <summary>Decides what becomes of moves. Called for each move in order.</summary>
public interface IMoveEdit
{
    /// <summary>Offset before which nothing is asked.</summary>
    long From { get; }

    /// <summary>What becomes of a move.</summary>
    MoveChange Change(ref readonly GcodeMove move, MachineState state);
}

/// <summary>
/// Writes a file anew with some edits; every other byte stays. Where moves change, only the numbers behind E and F in their lines do: absolute E goes on from
/// the changed totals until the next G92, a changed speed is taken back where the next move inherits it, and checksums are made good.
/// </summary>
public static class EditedFile
{
    /// <summary>Writes the edited file.</summary>
    /// <param name="from">The file, from its first byte.</param>
    /// <param name="to">Where it goes.</param>
    /// <param name="edits">In order of their offsets, not overlapping.</param>
    /// <param name="moves">Changes of moves; null for none.</param>
    /// <param name="stop">Asked every 256 KiB.</param>
    public static void Write(Stream from, Stream to, IReadOnlyList<FileEdit> edits, IMoveEdit? moves = null, CancellationToken stop = default)
    {
        if (moves is null)
        {
            Splice(from, to, edits, stop);
            return;
        }

        using var behind = new WriteBehind(to, Rewriter.BlockSize);
        var sink = new Rewriter(behind, edits, moves);
        new GcodeInterpreter(sink).Run(from, stop: stop);
        sink.End();
    }

    private static void Splice(Stream from, Stream to, IReadOnlyList<FileEdit> edits, CancellationToken stop)
    {
        var buffer = new byte[256 * 1024];
        long at = 0;
        foreach (var edit in edits)
        {
            Copy(edit.Offset - at, to);
            to.Write(Encoding.Latin1.GetBytes(edit.Text));
            Copy(edit.Length, Stream.Null);
            at = edit.Offset + edit.Length;
        }

        Copy(long.MaxValue, to);

        void Copy(long bytes, Stream target)
        {
            while (bytes > 0)
            {
                stop.ThrowIfCancellationRequested();
                var n = from.Read(buffer, 0, (int)Math.Min(bytes, buffer.Length));
                if (n <= 0)
                    return;
                target.Write(buffer, 0, n);
                bytes -= n;
            }
        }
    }

    private sealed class Rewriter(WriteBehind to, IReadOnlyList<FileEdit> edits, IMoveEdit moves) : GcodeSink
    {
        public const int BlockSize = 512 * 1024;

        private byte[] buffer = to.Take();
        private int filled, edit;
        private long offset, seen;
        private double totalE, owed, feed = -1;
        private bool moved, active;
        private MoveChange wanted;
        private double oldE, oldTotal, oldFeed, unit;
        private bool relative;

        public override bool WantsBytes => true;

        public override void Move(ref readonly GcodeMove m, MachineState s)
        {
            if (!active)
            {
                active = m.Offset >= moves.From;
                if (!active)
                {
                    totalE = s.E;
                    return;
                }

                // Until here both files have run alike.
                (totalE, feed) = (s.E - m.E, feed < 0 ? s.Feed : feed);
            }

            var asked = m with { Feed = s.Feed };
            wanted = moves.Change(in asked, s);
            (moved, oldE, oldTotal, oldFeed, unit, relative) = (true, m.E, s.E, s.Feed, s.Unit, s.RelativeE);
        }

        public override void Command(GcodeWords words, ReadOnlySpan<byte> text, MachineState s, int number, long at)
        {
            if (words.Kind == LineKind.Command && words.Code == Codes.G92 && (words.Has('E') || words.Numbers == 0))
                (totalE, owed) = (s.E, 0);
        }

        public override void Whole(ReadOnlySpan<byte> bytes, GcodeWords words)
        {
            while (edit < edits.Count && edits[edit].Offset <= offset)
            {
                var e = edits[edit++];
                Put(Encoding.Latin1.GetBytes(e.Text));
                seen = Math.Max(seen, e.Offset + e.Length);
            }

            // An edit may take away the beginning of a line.
            var skip = (int)Math.Clamp(seen - offset, 0, bytes.Length);
            offset += bytes.Length;
            var isMove = moved;
            moved = false;
            if (skip > 0)
                Put(bytes[skip..]);
            else if (isMove)
                Changed(bytes, words);
            else
                Plain(bytes, words);
        }

        private void Plain(ReadOnlySpan<byte> bytes, GcodeWords words)
        {
            if (active && words.Kind == LineKind.Command && words.Code is Codes.G0 or Codes.G1 && words.Has('F'))
                feed = -1;
            Put(bytes);
        }

        private void Changed(ReadOnlySpan<byte> bytes, GcodeWords words)
        {
            var hasE = words.Has('E');
            var newE = double.NaN;
            if (hasE)
            {
                var digits = Math.Max(5, Decimals(bytes, words.PlaceOf('E')));
                totalE += wanted.E;
                if (relative)
                {
                    if (wanted.E != oldE || Math.Abs(owed) > 1e-9)
                    {
                        owed += wanted.E;
                        newE = Math.Round(owed / unit, digits);
                        owed -= newE * unit;
                        if (Math.Abs(newE * unit - oldE) < 1e-9)
                            newE = double.NaN;
                    }
                }
                else if (Math.Abs(totalE - oldTotal) > 1e-7)
                {
                    newE = Math.Round(totalE / unit, digits);
                }
                else
                {
                    totalE = oldTotal;
                }
            }

            var newF = double.NaN;
            if (words.Has('F'))
            {
                if (wanted.Feed != oldFeed)
                    newF = wanted.Feed;
                feed = wanted.Feed;
            }
            else if (feed >= 0 && Math.Abs(wanted.Feed - feed) > 1e-9)
            {
                newF = wanted.Feed;
                feed = wanted.Feed;
            }
            else if (feed < 0)
            {
                feed = oldFeed;
                if (wanted.Feed != oldFeed)
                    newF = feed = wanted.Feed;
            }

            if (double.IsNaN(newE) && double.IsNaN(newF) || bytes.Length > 4000)
            {
                Put(bytes);
                return;
            }

            Rewrite(bytes, words, newE, newF);
        }

        private void Rewrite(ReadOnlySpan<byte> bytes, GcodeWords words, double newE, double newF)
        {
            // Places count from behind a byte order mark.
            var shift = bytes.Length - words.Length - (bytes[^1] == '\n' ? 1 : 0);
            var (e, f) = (
                double.IsNaN(newE) ? (From: int.MaxValue, To: 0) : words.PlaceOf('E'),
                double.IsNaN(newF) || !words.Has('F') ? (From: int.MaxValue, To: 0) : words.PlaceOf('F'));
            if (words.ChecksumAt >= 0 && (e.To > words.ChecksumAt || f.To > words.ChecksumAt))
            {
                // Words behind the checksum are nobody's.
                Put(bytes);
                return;
            }

            if (bytes.Length + 64 > buffer.Length - filled)
                Next();

            var begin = filled;
            var at = 0;
            if (e.From < f.From)
                Number(bytes, e, newE, -1, shift, ref at);
            if (f.From != int.MaxValue)
                Number(bytes, f, newF * 60 / unit, 3, shift, ref at);
            if (e.From > f.From && e.From != int.MaxValue)
                Number(bytes, e, newE, -1, shift, ref at);
            if (!double.IsNaN(newF) && !words.Has('F'))
            {
                // Behind the last word, before checksum, comment and line end.
                var stop = (words.ChecksumAt >= 0 ? words.ChecksumAt : words.CommentAt) + shift;
                while (stop > at && bytes[stop - 1] is (byte)' ' or (byte)'\t' or (byte)'\r' or (byte)'\n')
                    stop--;
                Copy(bytes[at..stop]);
                Copy(" F"u8);
                filled += Decimal(newF * 60 / unit, 3, buffer.AsSpan(filled));
                at = stop;
            }

            if (words.ChecksumAt >= 0)
            {
                Copy(bytes[at..(words.ChecksumAt + shift)]);
                var sum = 0;
                for (var i = begin; i < filled; i++)
                    sum ^= buffer[i];
                buffer[filled++] = (byte)'*';
                filled += Decimal(sum, 0, buffer.AsSpan(filled));
                at = words.ChecksumAt + shift + 1;
                while (at < bytes.Length && bytes[at] is >= (byte)'0' and <= (byte)'9')
                    at++;
            }

            Copy(bytes[at..]);
        }

        /// <summary>Copies up to a number and writes another one instead.</summary>
        private void Number(ReadOnlySpan<byte> bytes, (int From, int To) place, double value, int digits, int shift, ref int at)
        {
            Copy(bytes[at..(place.From + shift)]);
            filled += Decimal(value, digits >= 0 ? digits : Math.Max(5, Decimals(bytes, place)), buffer.AsSpan(filled));
            at = place.To + shift;
        }

        private void Copy(ReadOnlySpan<byte> part)
        {
            part.CopyTo(buffer.AsSpan(filled));
            filled += part.Length;
        }

        private static readonly double[] Scales = [1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9];

        /// <summary>Writes a number with at most so many decimals, without trailing zeros.</summary>
        private static int Decimal(double value, int digits, Span<byte> to)
        {
            var whole = (long)Math.Round(value * Scales[digits]);
            var n = 0;
            if (whole < 0)
            {
                to[n++] = (byte)'-';
                whole = -whole;
            }

            var scale = (long)Scales[digits];
            var (before, behind) = (whole / scale, whole % scale);
            before.TryFormat(to[n..], out var written, default, CultureInfo.InvariantCulture);
            n += written;
            if (behind == 0)
                return n;
            to[n++] = (byte)'.';
            while (behind % 10 == 0)
            {
                behind /= 10;
                digits--;
            }

            for (var i = digits - 1; i >= 0; i--)
            {
                to[n + i] = (byte)('0' + behind % 10);
                behind /= 10;
            }

            return n + digits;
        }

        private static int Decimals(ReadOnlySpan<byte> bytes, (int From, int To) place)
        {
            var point = bytes[Math.Min(place.From, bytes.Length)..Math.Min(place.To, bytes.Length)].IndexOf((byte)'.');
            return point < 0 ? 0 : Math.Min(9, place.To - place.From - point - 1);
        }

        private void Put(ReadOnlySpan<byte> bytes)
        {
            // A line, and an edit, may be longer than a block.
            while (bytes.Length > buffer.Length - filled)
            {
                var part = buffer.Length - filled;
                Copy(bytes[..part]);
                bytes = bytes[part..];
                Next();
            }

            Copy(bytes);
        }

        private void Next()
        {
            to.Give(buffer, filled);
            (buffer, filled) = (to.Take(), 0);
        }

        public void End()
        {
            while (edit < edits.Count)
                Put(Encoding.Latin1.GetBytes(edits[edit++].Text));
            to.Give(buffer, filled);
            to.End();
        }
    }
}
