using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>An edit of a printer that ages what was measured, as fitting a part does.</summary>
/// <param name="Slot">Place of the part, or kind of the change.</param>
/// <param name="Before">What stood there.</param>
/// <param name="Now">What stands there now.</param>
/// <param name="Facts">What the machine said and says of itself.</param>
public sealed record AgeingEdit(string Slot, string Before, string Now, FittedChange Facts)
{
    /// <summary>The edits between two states: firmware, bed surface, enclosure. What was not said before is no change, nor is what is said no more.</summary>
    public static IReadOnlyList<AgeingEdit> Of(Printer was, Printer now)
    {
        var said = new (string Slot, string? Before, string? Now)[]
        {
            ("firmware", was.Firmware, now.Firmware), ("bed", was.BedSurface, now.BedSurface), ("enclosure", was.Enclosure, now.Enclosure),
        };
        return
        [
            .. said.Where(s => s.Before is { Length: > 0 } && s.Now is { Length: > 0 } && s.Before != s.Now).Select(s => new AgeingEdit(
                s.Slot, s.Before!, s.Now!, new(FittedParts.Of(s.Slot, was, null)!, FittedParts.Of(s.Slot, now, null)!))),
        ];
    }
}
