using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;

namespace Glenfrost.Core.Profiles;

/// <summary>Why a piece that passed does not confirm a setting of an area that it shows.</summary>
public enum NotConfirmed
{
    /// <summary>It does: nothing stands against it.</summary>
    No,

    /// <summary>Something changed since it was found: that is asked by its own trial.</summary>
    Doubtful,

    /// <summary>The piece was printed with another value.</summary>
    OtherValue,

    /// <summary>Nobody knows what the piece was printed with.</summary>
    NotRecorded,

    /// <summary>It is known so roughly that the piece passes on either side of it.</summary>
    TooRough,
}

/// <summary>A setting that rests on one run, or is doubtful, and what a piece that passed makes of it.</summary>
/// <param name="Setting">As the profile has it.</param>
/// <param name="Why">Why it is not confirmed; <see cref="NotConfirmed.No"/> where it is.</param>
/// <param name="PrintedWith">What the piece was printed with, in the key's unit; null where nobody knows.</param>
public sealed record ShownSetting(ProfileSetting Setting, NotConfirmed Why, double? PrintedWith);

/// <summary>
/// What a piece that passed at the kept profile confirms: settings that rest on one run, of the areas that it shows, where it was printed with the very value
/// and the value is known well enough to exclude something. Nothing else.
/// </summary>
public static class ShownSettings
{
    /// <summary>The settings of those areas that are not confirmed yet, and what becomes of each.</summary>
    /// <param name="areas">Areas that the piece shows.</param>
    /// <param name="profile">The profile as it stands.</param>
    /// <param name="printedWith">What the piece was really made with.</param>
    public static IReadOnlyList<ShownSetting> Of(IEnumerable<string> areas, IReadOnlyList<ProfileSetting> profile, FactorSet printedWith) =>
    [
        .. areas.SelectMany(a => AgeingRules.Area(a).Settings).Distinct()
            .SelectMany(k => profile.Where(s => s.Key == k && s is { State: SettingState.Provisional or SettingState.Doubtful, NotKnownAtC: null, Word: null }))
            .Select(s =>
            {
                var with = printedWith[s.Key]?.Number;
                return new ShownSetting(s, Why(s, with), with);
            }),
    ];

    private static NotConfirmed Why(ProfileSetting s, double? with) =>
        s.State == SettingState.Doubtful ? NotConfirmed.Doubtful
        : with is not { } x ? NotConfirmed.NotRecorded
        : Math.Abs(x - s.Value) > 1e-6 + 0.001 * Math.Abs(s.Value) ? NotConfirmed.OtherValue
        : s.Uncertainty is { } half && !EvidenceFold.Excludes(s.Key, s.Value, half) ? NotConfirmed.TooRough
        : NotConfirmed.No;
}
