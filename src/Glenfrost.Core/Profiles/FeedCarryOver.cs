namespace Glenfrost.Core.Profiles;

/// <summary>A value as a new feed would have it.</summary>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Before">As it stands.</param>
/// <param name="After">As it is carried over.</param>
public sealed record Carried(string Key, double Before, double After);

/// <summary>
/// Values that were found at the old feed, brought to the new one: multiplier, retraction length and nominal flow limit change by S0/S1, since the printer then
/// moves that much more or less for the same number; K stays as it is, for it is a time. Offered as provisional, with one check run.
/// </summary>
public static class FeedCarryOver
{
    private static readonly string[] Scaled = ["extrusionMultiplier", "retractionLengthMm", "maxVolumetricFlowMm3PerS"];
    private static readonly string[] Kept = ["pressureAdvance"];

    /// <summary>S0/S1 of steps per mm; a rotation distance goes the other way round.</summary>
    public static double Ratio(double before, double after, bool isRotationDistance) => isRotationDistance ? after / before : before / after;

    /// <summary>What a profile's measured values become; starting values and copies are left alone.</summary>
    public static IReadOnlyList<Carried> Of(IEnumerable<ProfileSetting> settings, double ratio) => [.. settings
        .Where(s => s.IsEvidence && (Scaled.Contains(s.Key) || Kept.Contains(s.Key)))
        .Select(s => new Carried(s.Key, s.Value, Scaled.Contains(s.Key) ? Settings.SettingRegistry.Get(s.Key).Round(s.Value * ratio) : s.Value))];

    /// <summary>True for a setting whose state a carry changes: what is scaled, and what stands as it was and was doubted.</summary>
    public static bool Touches(ProfileSetting s) => s.IsEvidence && (Scaled.Contains(s.Key) || (Kept.Contains(s.Key) && s.State == SettingState.Doubtful));

    /// <summary>A profile with its values carried over: provisional, never confirmed.</summary>
    public static IReadOnlyList<ProfileSetting> Apply(IEnumerable<ProfileSetting> settings, double ratio, string why) =>
        [
            .. settings.Select(s =>
                !s.IsEvidence ? s
                : Scaled.Contains(s.Key)
                    ? s with
                    {
                        Value = Settings.SettingRegistry.Get(s.Key).Round(s.Value * ratio), State = SettingState.Provisional,
                        StateWhy = $"{why}: one check run confirms it",
                    }
                : Kept.Contains(s.Key) && s.State == SettingState.Doubtful ? s with { State = SettingState.Provisional, StateWhy = $"{why}: as it was" }
                : s),
        ];
}
