using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Runtime.Intrinsics.X86;
using System.Text;

namespace Glenfrost.Core.Gcode.Reading;

/// <content>Exponents, names, and what can't be read.</content>
public sealed partial class GcodeWords
{
    private static bool Exponent(ref byte s, int i, bool upper)
    {
        int c = s.At(i + 1);
        if (upper && s.At(i) == 'e' && (Digit(c) || c is '-' or '+'))
            return true;
        return c is '-' or '+' && s.At(i + 2) == '0' && Digit(s.At(i + 3)) && s.At(i + 4) != '.';
    }

    /// <summary>Commands that mean nothing here may be written by other rules: text for a display, names of files.</summary>
    private void Bad(string wrong)
    {
        if (Code
            is Codes.G0
                or Codes.G1
                or Codes.G2
                or Codes.G3
                or Codes.G92
                or Codes.M104
                or Codes.M109
                or Codes.M140
                or Codes.M190
                or Codes.M106
                or Codes.M220
                or Codes.M221
                or Codes.M572
                or Codes.M900)
            (Kind, Wrong) = (LineKind.Unreadable, wrong);
    }


    private void NoCommand(ref byte s, int i, int length)
    {
        var c = s.At(i);
        if (i >= length || c == '\r' && i + 1 >= length)
        {
            Kind = LineKind.Blank;
        }
        else if (c is (byte)';' or (byte)'(')
        {
            (Kind, CommentAt) = (LineKind.Comment, i);
        }
        else if (c == '%' && i + 2 >= length)
        {
            Kind = LineKind.Blank;
        }
        else
        {
            (Kind, Wrong) = (LineKind.Unreadable, c is 0 ? "a NUL byte stands in it" : "it begins with no letter");
        }
    }

    private void Name(ref byte s, int i, int length)
    {
        NameFrom = i;
        while (i < length
            && s.At(i) is var c
            && (c is >= (byte)'A' and <= (byte)'Z' or >= (byte)'a' and <= (byte)'z' or (byte)'_' or >= (byte)'0' and <= (byte)'9'))
            i++;
        NameTo = i;
        if (i - NameFrom < 2 || i < length && s.At(i) is not ((byte)' ' or (byte)'\t' or (byte)'\r' or (byte)';' or (byte)'('))
        {
            (Kind, Wrong) = (LineKind.Unreadable, "it is neither a letter with a number nor the name of a macro");
            return;
        }

        var comment = MemoryMarshal.CreateReadOnlySpan(ref s.Ref(i), length - i).IndexOf((byte)';');
        CommentAt = comment < 0 ? length : i + comment;
        Kind = LineKind.Macro;
    }
}
