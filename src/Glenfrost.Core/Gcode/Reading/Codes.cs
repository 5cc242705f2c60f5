namespace Glenfrost.Core.Gcode.Reading;

/// <summary>Commands as one value: letter in the upper, number in the lower sixteen bits.</summary>
public static class Codes
{
    /// <summary>A word as one number: letter above, number below.</summary>
    public const int G0 = 'G' << 16,
        G1 = G0 | 1, G2 = G0 | 2, G3 = G0 | 3, G4 = G0 | 4, G10 = G0 | 10, G11 = G0 | 11, G20 = G0 | 20, G21 = G0 | 21, G28 = G0 | 28, G29 = G0 | 29,
        G90 = G0 | 90, G91 = G0 | 91,
        G92 = G0 | 92;

    /// <summary>A word as one number: letter above, number below.</summary>
    public const int M0 = 'M' << 16,
        M18 = M0 | 18, M84 = M0 | 84,
        M82 = M0 | 82, M83 = M0 | 83, M104 = M0 | 104, M106 = M0 | 106, M107 = M0 | 107, M109 = M0 | 109, M117 = M0 | 117, M140 = M0 | 140, M141 = M0 | 141,
        M190 = M0 | 190, M191 = M0 | 191, M200 = M0 | 200, M201 = M0 | 201, M203 = M0 | 203, M204 = M0 | 204, M205 = M0 | 205, M207 = M0 | 207, M208 = M0 | 208,
        M220 = M0 | 220, M221 = M0 | 221, M400 = M0 | 400, M566 = M0 | 566, M572 = M0 | 572, M600 = M0 | 600,
        M900 = M0 | 900;

    /// <summary>Letter of a code, as a code with number 0.</summary>
    public const int LetterMask = 0x7F << 16, T = 'T' << 16;

    /// <summary>A code as it is written: G1, M104.</summary>
    public static string Text(int code)
    {
        var number = code & 0xFFFF;
        return number >= 10_000 ? $"{(char)(code >> 16)}{(number - 10_000) / 10}.{(number - 10_000) % 10}" : $"{(char)(code >> 16)}{number}";
    }
}
