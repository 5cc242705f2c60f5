namespace Glenfrost.Core.Filaments;

/// <summary>Where a spool lies, as far as it counts for moisture.</summary>
public static class SpoolPlaces
{
    /// <summary>In the room, or in a box that is none for this.</summary>
    public const string Open = "open";

    /// <summary>In a dry box that is kept dry.</summary>
    public const string DryBox = "dry-box";

    /// <summary>Sealed with desiccant.</summary>
    public const string Sealed = "sealed";

    /// <summary>All of them, with their label.</summary>
    public static IReadOnlyList<(string Key, string Label)> All { get; } =
        [(Open, "open in the room"), (DryBox, "in a dry box"), (Sealed, "sealed with desiccant")];

    /// <summary>
    /// What an hour in shelter counts of one in the room: hardly anything, and not nothing, since boxes are opened and bags breathe. A working value, not
    /// measured here.
    /// </summary>
    public const double Sheltered = 0.05;

    /// <summary>Hours that count as open between two moments. Before the first stay a spool lies in the room.</summary>
    /// <param name="fromH">Since when it was dry, h on any clock.</param>
    /// <param name="toH">Until when, h; not before <paramref name="fromH"/>.</param>
    /// <param name="stays">Where it lay from a moment on, any order.</param>
    /// <returns>Hours that count, and those of them that passed in shelter, uncounted.</returns>
    public static (double OpenH, double ShelteredH) Hours(double fromH, double toH, IEnumerable<(double AtH, string Place)> stays)
    {
        double open = 0, sheltered = 0, at = fromH;
        var place = Open;
        foreach (var (stayAt, next) in stays.OrderBy(s => s.AtH).Append((toH, Open)))
        {
            var until = Math.Clamp(stayAt, at, Math.Max(at, toH));
            if (place == Open)
                open += until - at;
            else
                sheltered += until - at;
            (at, place) = (until, stayAt <= toH ? next : place);
        }

        return (open + Sheltered * sheltered, sheltered);
    }
}
