using Glenfrost.Core.Settings;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Glenfrost.Core.Gcode.Dialects;

/// <summary>Names in braces that stand for numbers in a printer's start and end code, for example {bedTemperatureC}. Two braces stand for one.</summary>
public static partial class Placeholders
{
    /// <summary>Every name with what it stands for.</summary>
    public static IReadOnlyList<(string Name, string Help)> All { get; } =
    [
        ("nozzleTemperatureC", "nozzle at the start of the print"),
        ("firstLayerNozzleTemperatureC", "the same: the first layer's"),
        ("bedTemperatureC", "bed after the first layer"),
        ("firstLayerBedTemperatureC", "bed for the first layer"),
        ("chamberTemperatureC", "chamber, 0 where none is aimed at"),
        ("tool", "number of the toolhead, from 0"),
        ("nozzleDiameterMm", "nozzle"),
        ("filamentDiameterMm", "filament"),
        ("layerHeightMm", "layer height"),
        ("firstLayerHeightMm", "first layer"),
        ("totalLayers", "layers of the piece"),
        ("pieceHeightMm", "height of the piece"),
        ("bedXMm", "width of the bed"),
        ("bedYMm", "depth of the bed"),
        ("heightMm", "free height above the bed"),
        ("acceleration", "acceleration of the print, mm/s²"),
    ];

    /// <summary>Says which name is unknown and which ones there are; null where all are known.</summary>
    public static string? Check(string? code)
    {
        foreach (Match m in Braces().Matches(code ?? ""))
        {
            if (m.Value is "{{" or "}}")
                continue;
            if (!m.Groups["name"].Success)
                return m.Value[0] == '{'
                    ? $"\"{Short(m.Value)}\" opens a brace that holds no name. A placeholder is a name in braces, for example {{bedTemperatureC}}; two " +
                        $"braces, {{{{, write one."
                    : "A closing brace has no opening one. Two braces, }}, write one.";
            var name = m.Groups["name"].Value;
            if (All.All(p => p.Name != name))
                return $"{{{Short(name)}}} is not a placeholder that Glenfrost knows.{Guess(name)} " +
                    $"Known: {string.Join(", ", All.Select(p => p.Name))}. Two braces, {{{{, write one.";
        }

        return null;
    }

    /// <summary>Fills the names.</summary>
    /// <exception cref="ArgumentException">A name is unknown; <see cref="Check"/> says it in words.</exception>
    public static string Fill(string code, IReadOnlyDictionary<string, double> values)
    {
        if (Check(code) is { } wrong)
            throw new ArgumentException(wrong, nameof(code));
        return Braces().Replace(code.ReplaceLineEndings("\n"), m => m.Value switch
        {
            "{{" => "{",
            "}}" => "}",
            _ => Say.N(values[m.Groups["name"].Value], 4),
        });
    }

    /// <summary>The values for a machine, settings and a piece.</summary>
    public static IReadOnlyDictionary<string, double> Values(
        Machine m, PrintSettings s, double startC, double layerMm, double firstLayerMm, int layers, double pieceMm) =>
        new Dictionary<string, double>
        {
            ["nozzleTemperatureC"] = startC, ["firstLayerNozzleTemperatureC"] = startC, ["bedTemperatureC"] = s.BedTemperatureC,
            ["firstLayerBedTemperatureC"] = s.FirstLayerBedTemperatureC, ["chamberTemperatureC"] = s.ChamberTemperatureC ?? 0, ["tool"] = m.Tool,
            ["nozzleDiameterMm"] = m.NozzleDiameterMm, ["filamentDiameterMm"] = s.FilamentDiameterMm, ["layerHeightMm"] = layerMm,
            ["firstLayerHeightMm"] = firstLayerMm, ["totalLayers"] = layers, ["pieceHeightMm"] = pieceMm, ["bedXMm"] = m.BedXMm, ["bedYMm"] = m.BedYMm,
            ["heightMm"] = m.HeightMm, ["acceleration"] = s.AccelerationMmPerS2,
        };

    /// <summary>What was probably meant. A size is never guessed where a temperature may be meant; of several that begin alike, all are said.</summary>
    private static string Guess(string name)
    {
        string Bare(string s) => s.Replace("_", "", StringComparison.Ordinal).ToLowerInvariant();
        var typed = Bare(name);
        var all = All.Select(p => (p.Name, Bare: Bare(p.Name))).ToList();
        var begun = all.Where(p => p.Bare.StartsWith(typed, StringComparison.Ordinal)).OrderBy(p => NearWords.Edits(typed, p.Bare)).ToList();
        if (begun.Exists(p => Temperature(p.Bare)))
            begun.RemoveAll(p => !Temperature(p.Bare));
        if (begun.Count > 1)
            return $" Did you mean {string.Join(" or ", begun.Take(4).Select(p => $"{{{p.Name}}}"))}?";
        var nearest = begun.Count > 0
            ? begun[0].Name
            : all.Where(p => typed.StartsWith(p.Bare, StringComparison.Ordinal)
                    || (typed.Split("temp")[0] is { Length: > 2 } head && typed.Contains("temp", StringComparison.Ordinal) && Temperature(p.Bare)
                        && p.Bare.Contains(head, StringComparison.Ordinal))
                    || NearWords.Edits(typed, p.Bare) <= Math.Min(3, typed.Length / 3))
                .OrderBy(p => NearWords.Edits(typed, p.Bare)).Select(p => p.Name).FirstOrDefault();
        return nearest is null ? "" : $" Did you mean {{{nearest}}}?";

        static bool Temperature(string bare) => bare.Contains("temperature", StringComparison.Ordinal);
    }

    private static string Short(string s) => s.Length > 40 ? s[..40] + "…" : s;

    [GeneratedRegex(@"\{\{|\}\}|\{(?<name>[A-Za-z_][A-Za-z0-9_]*)\}|\{[^{}\n]{0,40}\}?|\}", RegexOptions.CultureInvariant)]
    private static partial Regex Braces();
}
