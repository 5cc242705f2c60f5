namespace Glenfrost.Core.Profiles;

/// <summary>What a name of a preset may be made of; each empty where it is not known.</summary>
/// <param name="Printer">Printer and toolhead.</param>
/// <param name="Maker">Of the filament.</param>
/// <param name="Line">Name of the product.</param>
/// <param name="Colour">The colour variant.</param>
/// <param name="Nozzle">Diameter and kind.</param>
/// <param name="Use">What the pairing is for.</param>
/// <param name="Revision">Number of the profile's revision.</param>
/// <param name="Tier">Name of the variant; empty for the profile itself.</param>
public sealed record PresetParts(string Printer, string Maker, string Line, string Colour, string Nozzle, string Use, int Revision, string Tier = "");

/// <summary>Names of presets from a pattern, so that the tester knows which preset holds what.</summary>
public static class PresetName
{
    /// <summary>The pattern that is proposed.</summary>
    public const string Usual = "{line} {colour} {printer} {nozzle} {tier} r{revision}";

    /// <summary>Most characters of a pattern.</summary>
    public const int Longest = 120;

    /// <summary>The words that a pattern may hold in braces.</summary>
    public static IReadOnlyList<string> Words { get; } = ["printer", "maker", "line", "colour", "nozzle", "use", "tier", "revision"];

    /// <summary>What is wrong with a pattern; null where nothing is.</summary>
    public static string? Fault(string pattern)
    {
        if (pattern.Trim().Length == 0)
            return $"The pattern is empty: {Usual} would be right.";
        if (pattern.Length > Longest)
            return $"The pattern has {pattern.Length} characters: {Longest} at most.";
        for (var at = 0; (at = pattern.IndexOfAny(['{', '}'], at)) >= 0; at++)
        {
            var end = pattern[at] == '{' ? pattern.IndexOf('}', at) : -1;
            if (end < 0)
                return "A brace stands alone: {line} would be right.";
            if (!Words.Contains(pattern[(at + 1)..end]))
                return $"{{{pattern[(at + 1)..end]}}} is no word of it: {string.Join(", ", Words.Select(w => $"{{{w}}}"))} are.";
            at = end;
        }

        return null;
    }

    /// <summary>The name by a pattern: what is not known is left out, and no two spaces stand together.</summary>
    /// <param name="pattern">Without fault.</param>
    /// <param name="parts">What it is made of.</param>
    public static string Of(string pattern, PresetParts parts)
    {
        var name = pattern.Replace("{printer}", parts.Printer).Replace("{maker}", parts.Maker).Replace("{line}", parts.Line).Replace("{colour}", parts.Colour)
            .Replace("{nozzle}", parts.Nozzle).Replace("{use}", parts.Use).Replace("{tier}", parts.Tier)
            .Replace("{revision}", parts.Revision.ToString(System.Globalization.CultureInfo.InvariantCulture));
        return string.Join(' ', name.Split(' ', StringSplitOptions.RemoveEmptyEntries));
    }
}
