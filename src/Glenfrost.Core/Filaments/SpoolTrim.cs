using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Filaments;

/// <summary>How a spool runs against its filament, as a print showed it.</summary>
/// <param name="Percent">Flow that it wants, % of the profile's multiplier.</param>
/// <param name="HalfPercent">Half of the 95 % interval, %.</param>
public sealed record TrimFound(double Percent, double HalfPercent)
{
    /// <summary>True where it is told from no trim at all; within its interval the spool runs as its filament does.</summary>
    public bool Differs => Math.Abs(Percent - 100) > HalfPercent;

    /// <summary>False where it is so much that the multiplier is to be found anew.</summary>
    public bool IsTrim => (decimal)Percent >= SpoolTrim.Quantity.Min && (decimal)Percent <= SpoolTrim.Quantity.Max;
}

/// <summary>What speaks against a spool's trim.</summary>
public enum TrimDoubt
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>It was found long ago.</summary>
    Old,

    /// <summary>The spool was dried since: wet filament runs thinner, or foams.</summary>
    DriedSince,

    /// <summary>The multiplier that it is a share of was found anew since: it is not applied any more.</summary>
    FoundAnew,
}

/// <summary>
/// A spool's own trim of the flow: a reel that runs thicker or thinner than the one that the profile was found on. It belongs to the spool, is laid over the
/// profile's multiplier where that spool is printed from, and ages with it.
/// </summary>
public static class SpoolTrim
{
    /// <summary>What may be typed.</summary>
    public static Quantity Quantity { get; } = new("Flow of this spool", "%", 80, 120, "more is no trim: the multiplier is to be found anew");

    /// <summary>Older than so many days it wants a quick check.</summary>
    public const int OldDays = 120;

    /// <summary>The trim that a multiplier found on a spool asks for, beside the profile's.</summary>
    /// <param name="found">Multiplier as found on the spool.</param>
    /// <param name="half">Half of its 95 % interval.</param>
    /// <param name="kept">The profile's; above 0.</param>
    public static TrimFound OfMultiplier(double found, double half, double kept) => new(Math.Round(100 * found / kept, 2), Math.Round(100 * half / kept, 2));

    /// <summary>
    /// The trim that a changed wall asks for: a single wall of one line is as much wider as more is laid, so that one of +3 % wants 97.1 %.
    /// </summary>
    /// <param name="changePercent">Change of the wall against the kept one, %; above −100.</param>
    /// <param name="halfPercent">Half of its 95 % interval, %.</param>
    public static TrimFound OfWall(double changePercent, double halfPercent)
    {
        var share = 1 / (1 + changePercent / 100);
        return new(Math.Round(100 * share, 2), Math.Round(halfPercent * share * share, 2));
    }

    /// <summary>What speaks against a trim now.</summary>
    /// <param name="at">When it was found.</param>
    /// <param name="now">Now.</param>
    /// <param name="driedAt">Last drying of the spool; null where it was not dried.</param>
    /// <param name="multiplierAt">When the profile's multiplier was found by a run; null where none was.</param>
    public static TrimDoubt DoubtOf(DateTime at, DateTime now, DateTime? driedAt, DateTime? multiplierAt) =>
        multiplierAt > at ? TrimDoubt.FoundAnew : driedAt > at ? TrimDoubt.DriedSince : (now - at).TotalDays > OldDays ? TrimDoubt.Old : TrimDoubt.None;
}
