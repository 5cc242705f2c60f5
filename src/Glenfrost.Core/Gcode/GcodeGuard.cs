using Glenfrost.Core.Equipment;
using System.Globalization;

namespace Glenfrost.Core.Gcode;

/// <summary>Reads a finished file line by line and says where it leaves the machine's limits. The last gate before a file is handed out.</summary>
public static class GcodeGuard
{
    /// <summary>The comment that names the exception to the cold-extrusion guard.</summary>
    public const string RigComment = "; rig test, hotend off: cold filament is driven on purpose";

    /// <summary>A temperature in start or end code above a limit, in words; null where there is none.</summary>
    public static string? Temperatures(string code, Machine m)
    {
        foreach (var (line, number) in code.Split('\n').Select((l, i) => (l, i + 1)))
        {
            var words = Words(line);
            if (TooHot(words, m) is { } text)
                return $"line {number}, {line.Trim()}: {text}";
        }

        return null;
    }

    /// <summary>
    /// Checks a whole file: temperatures, extrusion while cold, moves beside the bed or above the height. Start code up to <c>; print begins</c> may move where
    /// it likes, since it knows its own machine.
    /// </summary>
    /// <returns>What is wrong, with its line; empty where nothing is. At most ten.</returns>
    public static IReadOnlyList<string> Check(TextReader file, Machine m)
    {
        var wrong = new List<string>();
        double x = 0, y = 0, z = 0, set = 0;
        var (relative, ours, number, eAt) = (false, false, 0, 0.0);
        var rig = false;
        var (minX, minY) = m.OriginInMiddle ? (-m.BedXMm / 2, -m.BedYMm / 2) : (0, 0);
        while (file.ReadLine() is { } line && wrong.Count < 10)
        {
            number++;
            if (line.StartsWith("; print begins", StringComparison.Ordinal))
                ours = true;
            else if (line.StartsWith("; print ends", StringComparison.Ordinal))
                ours = false;
            else if (line == RigComment)
                rig = true;
            if (line.Length == 0 || line[0] == ';')
                continue;
            var words = Words(line);
            // The one exception to cold extrusion is a rig test that heats nothing.
            if (rig && words.Command is "M104" or "M109" or "M140" or "M190" && (words.Of('S') ?? words.Of('R')) > 0)
                wrong.Add($"line {number}: heats, in a rig test with the hotend off");
            if (!rig && words.Command == "M302" && (words.Of('P') > 0 || words.Of('S') is { } cold && cold < m.Limits.MinC))
                wrong.Add($"line {number}: lets cold filament be fed");
            if (TooHot(words, m) is { } hot)
                wrong.Add($"line {number}: {hot}");
            switch (words.Command)
            {
                case "M82":
                    relative = false;
                    break;
                case "M83":
                    relative = true;
                    break;
                case "M104" or "M109":
                    if (words.Of('T') is not { } t || (int)t == m.Tool)
                        set = words.Of('S') ?? words.Of('R') ?? set;
                    break;
                case "G92":
                    eAt = words.Of('E') ?? eAt;
                    break;
                case "G0" or "G1":
                    (x, y, z) = (words.Of('X') ?? x, words.Of('Y') ?? y, words.Of('Z') ?? z);
                    var fed = words.Of('E') is { } e ? relative ? e : e - eAt : 0;
                    eAt += fed;
                    if (!ours)
                        break;
                    if (fed > 0 && set < m.Limits.MinC)
                        wrong.Add($"line {number}: extrudes at {N(set)} °C, below the cold-extrusion limit of {N(m.Limits.MinC)} °C");
                    if (x < minX - 1e-6 || y < minY - 1e-6 || x > minX + m.BedXMm + 1e-6 || y > minY + m.BedYMm + 1e-6)
                        wrong.Add($"line {number}: moves to {N(x)}, {N(y)}, beside the bed");
                    if (z > m.HeightMm + 1e-6 || z < 0)
                        wrong.Add($"line {number}: moves to {N(z)} mm, beyond the height of {N(m.HeightMm)} mm");
                    break;
            }
        }

        return wrong;
    }

    private static string? TooHot(GcodeWords words, Machine m)
    {
        var value = words.Of('S') ?? words.Of('R');
        var (limit, what) = words.Command switch
        {
            "M104" or "M109" => (m.Limits.MaxC, $"the nozzle's limit of {N(m.Limits.MaxC)} °C ({m.Limits.MaxBecause})"),
            "M140" or "M190" => (m.BedMaxC, $"the bed's limit of {N(m.BedMaxC)} °C"),
            "M141" or "M191" => (m.ChamberMaxC, $"the chamber's limit of {N(m.ChamberMaxC)} °C"),
            _ => (double.MaxValue, ""),
        };
        return value > limit ? $"sets {N(value.Value)} °C, above {what}" : null;
    }

    private readonly record struct GcodeWords(string Command, string Rest)
    {
        /// <summary>The number behind a letter; null where it does not stand there.</summary>
        public double? Of(char letter)
        {
            for (var i = 0; i < Rest.Length; i++)
            {
                if (char.ToUpperInvariant(Rest[i]) != letter || (i > 0 && char.IsLetter(Rest[i - 1])))
                    continue;
                var end = i + 1;
                while (end < Rest.Length && (char.IsDigit(Rest[end]) || Rest[end] is '.' or '-' or '+'))
                    end++;
                if (double.TryParse(Rest.AsSpan(i + 1, end - i - 1), NumberStyles.Float, CultureInfo.InvariantCulture, out var v))
                    return v;
            }

            return null;
        }
    }

    private static GcodeWords Words(string line)
    {
        var end = line.IndexOf(';');
        var code = (end < 0 ? line : line[..end]).Trim();
        if (code.Length < 2 || !char.IsLetter(code[0]))
            return new("", "");
        var i = 1;
        while (i < code.Length && (char.IsDigit(code[i]) || code[i] == ' ' && i == 1))
            i++;
        var digits = code[1..i].Trim().TrimStart('0');
        return new(char.ToUpperInvariant(code[0]) + (digits.Length == 0 ? "0" : digits), code[i..]);
    }

    private static string N(double v) => v.ToString("0.##", CultureInfo.InvariantCulture);
}
