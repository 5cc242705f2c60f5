using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Runtime.Intrinsics.X86;
using System.Text;

namespace Glenfrost.Core.Gcode.Reading;

/// <summary>What a line is.</summary>
public enum LineKind
{
    /// <summary>Nothing, or only white space.</summary>
    Blank,

    /// <summary>Only a comment.</summary>
    Comment,

    /// <summary>A letter with a number, then words: G1 X10 E0.5.</summary>
    Command,

    /// <summary>A command that is a whole word: SET_PRESSURE_ADVANCE ADVANCE=0.05.</summary>
    Macro,

    /// <summary>Something that no printer would understand.</summary>
    Unreadable,
}

/// <summary>
/// The words of one line, read from bytes without allocation and used again for the next one. Numbers are plain decimals: an exponent is not one,
/// since in G-code E is a letter of its own; such a line is unreadable, as are X1.2.3, a letter twice and NUL bytes.
/// </summary>
public sealed partial class GcodeWords
{
    private static readonly double[] Tens = [1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18];

    private readonly double[] values = new double[32];
    private readonly int[] starts = new int[32];
    private readonly int[] ends = new int[32];

    /// <summary>What the line is.</summary>
    public LineKind Kind { get; private set; }

    /// <summary>Letter and number of the command as one value, see <see cref="Codes"/>; 0 where there is none.</summary>
    public int Code { get; private set; }

    /// <summary>Letters that came with a number, A in the lowest bit.</summary>
    public uint Numbers { get; private set; }

    /// <summary>Letters that came without one, as in G28 X.</summary>
    public uint Flags { get; private set; }

    /// <summary>Where in the line the comment begins; its length where there is none.</summary>
    public int CommentAt { get; private set; }

    /// <summary>Length of the line.</summary>
    public int Length { get; private set; }

    /// <summary>Where the checksum's star stands; -1 without one.</summary>
    public int ChecksumAt { get; private set; }

    /// <summary>What is wrong with an unreadable line.</summary>
    public string? Wrong { get; private set; }

    /// <summary>Where the name of a macro begins.</summary>
    public int NameFrom { get; private set; }

    /// <summary>Where the name of a macro ends.</summary>
    public int NameTo { get; private set; }

    /// <summary>Mask of a letter.</summary>
    public static uint Bit(char letter) => 1u << (letter - 'A');

    /// <summary>True where the letter came with a number.</summary>
    public bool Has(char letter) => (Numbers & Bit(letter)) != 0;

    /// <summary>The number behind a letter; only where <see cref="Has"/> says so.</summary>
    public double this[char letter] => values[letter - 'A'];

    /// <summary>The number behind a letter; null where there is none.</summary>
    public double? Of(char letter) => Has(letter) ? values[letter - 'A'] : null;

    /// <summary>Where the number behind a letter stands in the line.</summary>
    public (int From, int To) PlaceOf(char letter) => (starts[letter - 'A'], ends[letter - 'A']);

    /// <summary>Reads one line.</summary>
    /// <param name="line">The line. Its line feed must stand within <paramref name="most"/>, and 32 bytes behind that must be readable.</param>
    /// <param name="most">Bytes from there in which a line feed stands.</param>
    /// <returns>Length of the line without its line feed.</returns>
    public int Read(ref byte line, int most)
    {
        (CommentAt, ChecksumAt, Wrong) = (-1, -1, null);
        var head = Unsafe.ReadUnaligned<uint>(ref line) & 0xFFFFFF;
        if (BitConverter.IsLittleEndian && head is ('G' | '1' << 8 | ' ' << 16) or ('G' | '0' << 8 | ' ' << 16))
        {
            // Nine of ten lines begin like this.
            Kind = LineKind.Command;
            Code = Codes.G0 | (int)((head >> 8 & 0xFF) - '0');
            Words(ref line, 3, most, true);
        }
        else
        {
            (Numbers, Flags, Code) = (0, 0, 0);
            Start(ref line, most);
        }

        if (CommentAt < 0)
            CommentAt = Length;
        return Length;
    }

    private void Start(ref byte line, int most)
    {
        ref var s = ref line;
        var i = 0;
        while (s.At(i) is (byte)' ' or (byte)'\t')
            i++;
        int c = s.At(i);
        if ((c | 0x20) == 'n' && Digit(s.At(i + 1)))
        {
            i++;
            while (Digit(s.At(i)))
                i++;
            while (s.At(i) is (byte)' ' or (byte)'\t')
                i++;
            c = s.At(i);
        }

        var lower = (uint)((c | 0x20) - 'a');
        if (lower >= 26)
        {
            Length = End(ref s, i, most);
            NoCommand(ref s, i, Length);
            return;
        }

        var spaced = s.At(i + 1) == ' ';
        if (!Digit(s.At(spaced ? i + 2 : i + 1)))
        {
            Length = End(ref s, i, most);
            Name(ref s, i, Length);
            return;
        }

        var upper = c < 'a';
        i += spaced ? 2 : 1;
        var number = 0;
        while (Digit(c = s.At(i)))
        {
            number = Math.Min(number * 10 + (c - '0'), 9_999);
            i++;
        }

        if (c == '.' && Digit(s.At(i + 1)))
        {
            // G92.1 and the like are commands of their own.
            number = Math.Min(10_000 + number * 10 + (s.At(i + 1) - '0'), 60_000);
            i += 2;
        }

        Kind = LineKind.Command;
        Code = (int)((lower + 'A') << 16) | number;
        Words(ref s, i, most, upper);
    }

    private static int End(ref byte s, int i, int most) => i + MemoryMarshal.CreateReadOnlySpan(ref s.Ref(i), most - i).IndexOf((byte)'\n');

    /// <summary>A macro's name, in capitals.</summary>
    public string Name(ReadOnlySpan<byte> line) => Encoding.Latin1.GetString(line[NameFrom..Math.Min(NameTo, NameFrom + 60)]).ToUpperInvariant();

    /// <summary>A number of a macro: KEY=number, in any case; null where it does not stand there.</summary>
    public double? Parameter(ReadOnlySpan<byte> line, string key)
    {
        var text = Encoding.Latin1.GetString(line[NameTo..Math.Min(line.Length, Math.Min(CommentAt, NameTo + 400))]);
        foreach (var part in text.Split([' ', '\t', '\r'], StringSplitOptions.RemoveEmptyEntries))
        {
            var at = part.IndexOf('=');
            if (at > 0
                && part.AsSpan(0, at).Equals(key, StringComparison.OrdinalIgnoreCase)
                && double.TryParse(
                    part.AsSpan(at + 1), System.Globalization.NumberStyles.AllowDecimalPoint | System.Globalization.NumberStyles.AllowLeadingSign,
                    System.Globalization.CultureInfo.InvariantCulture, out var v))
                return v;
        }

        return null;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static bool Digit(int c) => (uint)(c - '0') <= 9;

    private void Words(ref byte s, int i, int most, bool upper)
    {
        ref var value = ref MemoryMarshal.GetArrayDataReference(values);
        ref var start = ref MemoryMarshal.GetArrayDataReference(starts);
        ref var end = ref MemoryMarshal.GetArrayDataReference(ends);
        ref var tens = ref MemoryMarshal.GetArrayDataReference(Tens);
        ref var align = ref MemoryMarshal.GetArrayDataReference(Aligned);
        uint numbers = 0, flags = 0;
        while (true)
        {
            int c = s.At(i);
            if (c <= ' ')
            {
                if (c == '\n')
                    break;
                if (c == 0)
                {
                    Bad("a NUL byte stands in it");
                    break;
                }

                i++;
                continue;
            }

            var letter = (uint)((c | 0x20) - 'a');
            if (letter >= 26)
            {
                if (c == ';')
                {
                    CommentAt = i;
                    break;
                }

                if (c == '*')
                {
                    ChecksumAt = i++;
                    while (Digit(s.At(i)))
                        i++;
                    continue;
                }

                if (c == '(')
                {
                    while (s.At(i) is not ((byte)')' or (byte)'\n'))
                        i++;
                    if (s.At(i) == ')')
                        i++;
                    continue;
                }

                if (numbers == 0 && flags == 0)
                {
                    // Text behind a command, as in M117 or M118: not for us.
                    break;
                }

                Bad("something stands in it that is neither a letter nor a number");
                break;
            }

            i++;
            var bit = 1u << (int)letter;
            var negative = false;
            c = s.At(i);
            if (c == ' ')
            {
                var j = i;
                while (s.At(j) == ' ')
                    j++;
                if (Digit(s.At(j)) || (s.At(j) is (byte)'-' or (byte)'.' && (Digit(s.At(j + 1)) || s.At(j + 1) == '.')))
                {
                    i = j;
                    c = s.At(i);
                }
            }

            Unsafe.Add(ref start, letter) = i;
            if (c == '-')
            {
                negative = true;
                c = s.At(++i);
            }
            else if (c == '+')
            {
                c = s.At(++i);
            }

            var first = i;
            long m;
            int fraction, digits;
            var text = Vector128.LoadUnsafe(ref s, (nuint)i);
            var each = text - Vector128.Create((byte)'0');
            var isDigit = Vector128.Equals(Vector128.Min(each, Vector128.Create((byte)9)), each).ExtractMostSignificantBits();
            var isPoint = Vector128.Equals(text, Vector128.Create((byte)'.')).ExtractMostSignificantBits();
            var all = BitOperations.TrailingZeroCount(~(isDigit | isPoint));
            var points = isPoint & ((1u << all) - 1);
            if (Sse41.IsSupported && all < 16 && (points & (points - 1)) == 0)
            {
                // Sixteen bytes at once: their digits are moved to the right without the point, then neighbours are added by tens, hundreds and ten-thousands;
                // no branch depends on how long the number is.
                var point = points == 0 ? all : BitOperations.TrailingZeroCount(points);
                var aligned = Ssse3.Shuffle(each, Vector128.LoadUnsafe(ref align, (nuint)((all * 16 + point) * 16)));
                var two = Ssse3.MultiplyAddAdjacent(aligned, Vector128.Create(10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1));
                var four = Sse2.MultiplyAddAdjacent(two, Vector128.Create(100, 1, 100, 1, 100, 1, 100, 1));
                var eight = Sse2.MultiplyAddAdjacent(
                    Sse41.PackUnsignedSaturate(four, four).AsInt16(), Vector128.Create(10000, 1, 10000, 1, 10000, 1, 10000, 1));
                m = eight.GetElement(0) * 100_000_000L + eight.GetElement(1);
                fraction = points == 0 ? 0 : all - point - 1;
                digits = points == 0 ? all : all - 1;
                i += all;
            }
            else
            {
                var slow = Slowly(ref s, i);
                if (slow.TwoPoints)
                {
                    Bad("a number has two points");
                    break;
                }

                (m, fraction, digits, i) = (slow.Whole, slow.Fraction, slow.Digits, slow.Next);
            }

            c = s.At(i);
            if ((uint)(digits - 1) >= 16 | digits - fraction > 7 | ((numbers | flags) & bit) != 0 | (c | 0x20) == 'e')
            {
                if (digits == 0 && i == first && !negative)
                {
                    flags |= bit;
                    continue;
                }

                var odd = Odd(ref s, first, i, digits, ((numbers | flags) & bit) != 0, letter, upper);
                if (odd.Wrong is not null)
                {
                    Bad(odd.Wrong);
                    break;
                }

                (m, fraction) = (odd.Whole, odd.Fraction);
            }

            var v = m / Unsafe.Add(ref tens, fraction);
            Unsafe.Add(ref value, letter) = negative ? -v : v;
            Unsafe.Add(ref end, letter) = i;
            numbers |= bit;
        }

        (Numbers, Flags) = (numbers, flags);
        Length = s.At(i) == '\n' ? i : End(ref s, i, most);
    }

    private readonly record struct OddNumber(string? Wrong, long Whole, int Fraction);

    /// <summary>What is wrong with an odd number, or the number where nothing is.</summary>
    private static OddNumber Odd(ref byte s, int first, int i, int digits, bool twice, uint letter, bool upper)
    {
        if (digits == 0)
            return new("a sign or a point stands without digits", 0, 0);
        if (twice)
            return new(letter == 'E' - 'A' ? "E stands twice, or a number has an exponent" : "a letter stands twice", 0, 0);
        if ((s.At(i) | 0x20) == 'e' && Exponent(ref s, i, upper))
            return new("a number has an exponent: printers read E as the extruder", 0, 0);
        var text = MemoryMarshal.CreateReadOnlySpan(ref s.Ref(first), i - first);
        var point = text.IndexOf((byte)'.');
        if (point < 0)
            point = text.Length;
        // Behind the seventeenth digit nothing matters.
        var whole = text[..point].TrimStart((byte)'0');
        if (whole.Length > 7)
            return new("a number is beyond every machine", 0, 0);
        long m = 0;
        foreach (var b in whole)
            m = m * 10 + (b - '0');
        var fraction = 0;
        for (var k = point + 1; k < text.Length && fraction < 10; k++, fraction++)
            m = m * 10 + (text[k] - '0');
        return new(null, m, fraction);
    }

    private readonly record struct PlainNumber(long Whole, int Fraction, int Digits, int Next, bool TwoPoints);

    /// <summary>Digits with at most one point, byte by byte: what is longer than sixteen bytes, and machines without the instructions.</summary>
    private static PlainNumber Slowly(ref byte s, int i)
    {
        var first = i;
        long m = 0;
        uint d;
        while ((d = (uint)(s.At(i) - '0')) <= 9)
        {
            m = unchecked(m * 10 + d);
            i++;
        }

        var digits = i - first;
        if (s.At(i) != '.')
            return new(m, 0, digits, i, false);
        var f = ++i;
        while ((d = (uint)(s.At(i) - '0')) <= 9)
        {
            m = unchecked(m * 10 + d);
            i++;
        }

        var fraction = i - f;
        return new(m, fraction, digits + fraction, i, s.At(i) == '.');
    }

    /// <summary>
    /// For each length and place of the point (the length itself for none), where each of sixteen right-aligned digits comes from; 128 and more for none.
    /// </summary>
    private static readonly byte[] Aligned = AlignedTable();

    private static byte[] AlignedTable()
    {
        var table = new byte[17 * 16 * 16];
        Array.Fill(table, (byte)0x80);
        for (var length = 0; length < 16; length++)
        {
            for (var point = 0; point <= length && point < 16; point++)
            {
                var to = 15;
                for (var i = length - 1; i >= 0; i--)
                {
                    if (i != point)
                        table[(length * 16 + point) * 16 + to--] = (byte)i;
                }
            }
        }

        return table;
    }
}

internal static class Bytes
{
    /// <summary>The byte at a distance; the caller knows that it is there, or that a line feed stands before it.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    internal static byte At(this ref byte s, int i) => Unsafe.Add(ref s, i);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    internal static ref byte Ref(this ref byte s, int i) => ref Unsafe.Add(ref s, i);
}
