using Glenfrost.Core.Filaments;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>The trim of a spool, as it stands.</summary>
/// <param name="Spool">The spool.</param>
/// <param name="Percent">Flow against the profile's multiplier, %.</param>
/// <param name="Doubt">What speaks against it.</param>
public sealed record SpoolTrimmed(Spool Spool, double Percent, TrimDoubt Doubt)
{
    /// <summary>False where the multiplier was found anew since: it is a share of another one.</summary>
    public bool IsApplied => Doubt != TrimDoubt.FoundAnew;

    /// <summary>What speaks against it, in a sentence; null for nothing.</summary>
    public string? DoubtSays => SaysOf(Doubt);

    /// <summary>What speaks against a trim, in a sentence; null for nothing.</summary>
    public static string? SaysOf(TrimDoubt doubt) => doubt switch
    {
        TrimDoubt.Old => $"It was found more than {SpoolTrim.OldDays} days ago: a quick check tells whether it still holds.",
        TrimDoubt.DriedSince => "The spool was dried since: a quick check tells whether it still holds.",
        TrimDoubt.FoundAnew => "The multiplier was found anew since, and it is not laid over that one: find it again, or take it off.",
        _ => null,
    };
}
