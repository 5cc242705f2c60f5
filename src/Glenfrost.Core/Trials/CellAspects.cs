namespace Glenfrost.Core.Trials;

/// <summary>What a reading of any run may be of, besides the aspects of its trial.</summary>
public static class CellAspects
{
    /// <summary>What the printer's display showed, °C.</summary>
    public const string Observed = "observedC";

    /// <summary>What became of a section: judged, failed or lost.</summary>
    public const string State = "state";

    /// <summary>The whole piece on a scale, g; stands at section 0.</summary>
    public const string Mass = "massG";

    /// <summary>
    /// Begins the aspect of something that was noticed while it printed: its value is the height, mm; the word behind it is what was noticed, and a number
    /// tells several apart.
    /// </summary>
    public const string Stamp = "stamp.";

    /// <summary>What may be noticed while a watched run prints.</summary>
    public static IReadOnlyList<string> Noticed { get; } = ["clicking", "blobs", "gaps", "grinding", "strings", "other"];

    /// <summary>True for an aspect that a reading of any trial may have.</summary>
    public static bool IsOfHouse(string aspect) => aspect is State or Mass || IsStamp(aspect);

    /// <summary>True for something noticed: <c>stamp.clicking</c>, <c>stamp.clicking.2</c>.</summary>
    public static bool IsStamp(string aspect) =>
        aspect.StartsWith(Stamp, StringComparison.Ordinal)
        && aspect.Split('.') is var parts
        && parts.Length is 2 or 3
        && Noticed.Contains(parts[1])
        && (parts.Length == 2 || (int.TryParse(parts[2], System.Globalization.CultureInfo.InvariantCulture, out var n) && n is > 1 and < 1000));

    /// <summary>What a stamp is of.</summary>
    public static string NoticedIn(string stamp) => stamp.Split('.')[1];
}
