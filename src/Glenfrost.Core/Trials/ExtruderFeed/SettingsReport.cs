using System.Globalization;
using System.Text.RegularExpressions;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>What a printer's settings report says of its extruder and heater.</summary>
/// <param name="StepsPerMm">Steps per mm of the asked toolhead; null where it says none.</param>
/// <param name="RotationDistanceMm">Rotation distance, mm; null where it says none.</param>
/// <param name="Pid">P, I and D of the nozzle's heater; null where it says none.</param>
/// <param name="OffsetMm">Nozzle or probe offset in z, mm; null where it says none.</param>
/// <param name="PressureAdvanceS">Pressure advance, s; null where it says none.</param>
public sealed record SettingsReport(
    double? StepsPerMm, double? RotationDistanceMm, (double P, double I, double D)? Pid, double? OffsetMm, double? PressureAdvanceS)
{
    /// <summary>Longer texts are no report.</summary>
    public const int MostCharacters = 100_000;

    private static readonly Regex Word = new(@"(?<![A-Z])(?<l>[A-Z])\s*(?<n>[-+]?\d+(\.\d+)?)", RegexOptions.CultureInvariant);

    /// <summary>
    /// Reads a pasted report: lines with M92, M301, M851 or M206 and M900 or M572, with or without "echo:" before them; or a configuration file's
    /// "rotation_distance: 7.71". The last word on a thing counts, as it does for the printer.
    /// </summary>
    /// <param name="text">As pasted.</param>
    /// <param name="tool">Toolhead, from 0: where several report their steps (T1 on the line, or E24:420.00:417.50), this one's is taken.</param>
    public static SettingsReport Read(string text, int tool = 0)
    {
        double? steps = null, rotation = null, offset = null, advance = null;
        (double, double, double)? pid = null;
        var inExtruder = true;
        foreach (var raw in text.Split('\n').Take(5000))
        {
            var line = raw.Trim();
            if (line.StartsWith('['))
                inExtruder = line == (tool == 0 ? "[extruder]" : $"[extruder{tool}]");
            var at = line.IndexOf(';');
            var code = (
                at >= 0 && !line.Contains("M92", StringComparison.Ordinal) ? line[..at]
                : at > 0 ? line[..at]
                : line).Replace("echo:", "", StringComparison.OrdinalIgnoreCase).Trim().ToUpperInvariant();
            if (inExtruder && code.Split(':', '=') is [var name, var value, ..] && name.Trim() == "ROTATION_DISTANCE" && Number(value) is { } mm)
                rotation = mm;
            var command = Regex.Match(code, @"^\s*(M\d+)\b");
            if (!command.Success)
                continue;
            var rest = code[(command.Index + command.Length)..];
            var words = Word.Matches(rest).GroupBy(m => m.Groups["l"].Value[0])
                .ToDictionary(g => g.Key, g => double.Parse(g.Last().Groups["n"].Value, CultureInfo.InvariantCulture));
            if (words.TryGetValue('T', out var t) && (int)t != tool)
                continue;
            switch (command.Groups[1].Value)
            {
                case "M92" when Regex.Match(rest, @"E\s*([\d.]+(?::[\d.]+)+)") is { Success: true } several:
                    steps = several.Groups[1].Value.Split(':').ElementAtOrDefault(tool) is { } own ? Number(own) : steps;
                    break;
                case "M92" when words.TryGetValue('E', out var e):
                    steps = e;
                    break;
                case "M301" when words.TryGetValue('P', out var p) && words.TryGetValue('I', out var i) && words.TryGetValue('D', out var d):
                    if (!words.TryGetValue('E', out var head) || (int)head == tool)
                        pid = (p, i, d);
                    break;
                case "M851" or "M206" when words.TryGetValue('Z', out var z):
                    offset = z;
                    break;
                case "M900" when words.TryGetValue('K', out var k):
                    advance = k;
                    break;
                case "M572" when words.TryGetValue('S', out var s):
                    advance = s;
                    break;
            }
        }

        return new(steps, rotation, pid, offset, advance);
    }

    private static double? Number(string text) =>
        double.TryParse(text.Trim().Split(' ', '#', ';')[0], NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v : null;
}
