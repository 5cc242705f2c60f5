using System.Globalization;

namespace Glenfrost.Simulation.Printer;

/// <summary>One line as it reached the printer: its command word, its parameters, and number and checksum where it had them.</summary>
public sealed class CommandLine
{
    private readonly List<(char Letter, double Value)> words = [];

    /// <summary>Command, for example G1 or M104; a macro's name; empty for a line without one.</summary>
    public string Command { get; private init; } = "";

    /// <summary>Line number (N); null where there is none.</summary>
    public long? Number { get; private init; }

    /// <summary>True where a checksum stood there and does not fit.</summary>
    public bool Garbled { get; private init; }

    /// <summary>True where a checksum stood there.</summary>
    public bool Checked { get; private init; }

    /// <summary>Parameters of a macro by name, capital letters.</summary>
    public IReadOnlyDictionary<string, double> Named { get; private init; } = new Dictionary<string, double>();

    /// <summary>A parameter; null where it is missing or no number.</summary>
    public double? this[char letter]
    {
        get
        {
            foreach (var (l, v) in words)
            {
                if (l == letter)
                    return v;
            }

            return null;
        }
    }

    /// <summary>True where the letter stands there, with or without a number.</summary>
    public bool Has(char letter) => words.Any(w => w.Letter == letter);

    /// <summary>Reads a line; never throws.</summary>
    public static CommandLine Read(string line)
    {
        var text = line;
        var number = (long?)null;
        var (isChecked, garbled) = (false, false);
        var star = text.LastIndexOf('*');
        var semicolon = text.IndexOf(';');
        if (star >= 0 && (semicolon < 0 || star < semicolon) && text.TrimStart().StartsWith('N'))
        {
            byte sum = 0;
            for (var i = 0; i < star; i++)
                sum ^= (byte)text[i];
            isChecked = true;
            garbled = !byte.TryParse(text.AsSpan(star + 1).Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var given) || given != sum;
            text = text[..star];
        }

        if (semicolon >= 0 && semicolon < text.Length)
            text = text[..semicolon];
        while (text.IndexOf('(') is >= 0 and var open)
            text = text[..open] + (text.IndexOf(')', open) is > 0 and var shut ? text[(shut + 1)..] : "");
        text = text.Trim();
        if (text.Length > 0 && text[0] is 'N' or 'n')
        {
            var end = 1;
            while (end < text.Length && char.IsAsciiDigit(text[end]))
                end++;
            if (end > 1)
            {
                number = long.TryParse(text.AsSpan(1, end - 1), NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : null;
                text = text[end..].TrimStart();
            }
        }

        var command = Name(text, out var at);
        if (command.Contains('_'))
            return new CommandLine { Command = command, Number = number, Checked = isChecked, Garbled = garbled, Named = Pairs(text[at..]) };
        var read = new CommandLine { Command = command, Number = number, Checked = isChecked, Garbled = garbled };
        if (command is not ("M117" or "M118"))
            read.Words(text, at);
        return read;
    }

    /// <summary>The checksum that a numbered line carries behind its star: all bytes before it, exclusive-or.</summary>
    public static string WithChecksum(long number, string line)
    {
        var text = string.Create(CultureInfo.InvariantCulture, $"N{number} {line}");
        byte sum = 0;
        foreach (var c in text)
            sum ^= (byte)c;
        return string.Create(CultureInfo.InvariantCulture, $"{text}*{sum}");
    }

    private static string Name(string text, out int at)
    {
        at = 0;
        if (text.Length == 0)
            return "";
        if (char.ToUpperInvariant(text[0]) is 'G' or 'M' or 'T' && text.Length > 1 && (char.IsAsciiDigit(text[1]) || text[1] == ' '))
        {
            at = 1;
            while (at < text.Length && text[at] == ' ')
                at++;
            var from = at;
            while (at < text.Length && (char.IsAsciiDigit(text[at]) || (text[at] == '.' && at > from)))
                at++;
            var digits = text[from..at].TrimStart('0');
            return char.ToUpperInvariant(text[0]) + (digits.Length == 0 ? "0" : digits.StartsWith('.') ? "0" + digits : digits);
        }

        while (at < text.Length && !char.IsWhiteSpace(text[at]))
            at++;
        return text[..at].ToUpperInvariant();
    }

    private static Dictionary<string, double> Pairs(string text)
    {
        var pairs = new Dictionary<string, double>();
        foreach (var part in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var cut = part.IndexOf('=');
            if (cut > 0 && double.TryParse(part.AsSpan(cut + 1), NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v))
                pairs[part[..cut].ToUpperInvariant()] = v;
        }

        return pairs;
    }

    private void Words(string text, int at)
    {
        while (at < text.Length)
        {
            var c = char.ToUpperInvariant(text[at++]);
            if (!char.IsAsciiLetter(c))
                continue;
            var from = at;
            while (from < text.Length && text[from] == ' ')
                from++;
            var end = from;
            while (end < text.Length && (char.IsAsciiDigit(text[end]) || text[end] is '.' || (text[end] is '-' or '+' && end == from)))
                end++;
            if (double.TryParse(text.AsSpan(from, end - from), NumberStyles.Float, CultureInfo.InvariantCulture, out var v))
            {
                words.Add((c, v));
                at = end;
            }
            else
            {
                words.Add((c, double.NaN));
            }
        }
    }
}
