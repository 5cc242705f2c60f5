namespace Glenfrost.Core.Profiles;

/// <summary>Where a setting came from.</summary>
public enum SettingOrigin
{
    /// <summary>The family's cautious starting value.</summary>
    Family,

    /// <summary>The maker's label or data sheet.</summary>
    Label,

    /// <summary>The machine as it stands (nozzle, drive).</summary>
    Machine,

    /// <summary>A run of a trial.</summary>
    Run,

    /// <summary>Typed by hand, with a reason.</summary>
    Typed,

    /// <summary>Another pairing's profile.</summary>
    Inherited,
}

/// <summary>How far a setting can be trusted.</summary>
public enum SettingState
{
    /// <summary>A starting value: nobody has tried it here.</summary>
    Start,

    /// <summary>One run, own choice, or inherited.</summary>
    Provisional,

    /// <summary>Repeated, or passed the verification print.</summary>
    Confirmed,

    /// <summary>Something changed since.</summary>
    Doubtful,
}

/// <summary>One setting of a profile. Every number knows where it came from.</summary>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Value">Value in the key's unit.</param>
/// <param name="Uncertainty">95 % half-width in the key's unit; null where none is known.</param>
/// <param name="Origin">Where it came from.</param>
/// <param name="OriginText">The same in words, for example "label, reel".</param>
/// <param name="State">How far it can be trusted.</param>
/// <param name="StateWhy">Why it is doubtful or provisional; may be null.</param>
/// <param name="RunId">The run it came from.</param>
public sealed record ProfileSetting(
    string Key, double Value, double? Uncertainty, SettingOrigin Origin, string OriginText, SettingState State, string? StateWhy = null, Guid? RunId = null);

/// <summary>The rules by which settings enter a profile.</summary>
public static class ProfileRules
{
    /// <summary>How near a repeated value must be to confirm the one kept before, in the key's unit, where no uncertainty is known.</summary>
    private const double SameTemperatureC = 4;

    /// <summary>The same for values that are no temperatures, as a share of the value.</summary>
    private const double SameShare = 0.02;

    /// <summary>
    /// The state of a value that is kept from a run: confirmed where an earlier run gave the same within the joint uncertainty,
    /// else provisional. An own choice is always provisional.
    /// </summary>
    public static (SettingState State, string Why) StateOfKept(ProfileSetting? before, double value, double? uncertainty, Guid runId, bool ownChoice, string basis = "one run, printed slowly")
    {
        if (ownChoice)
            return (SettingState.Provisional, "own choice");
        if (before is { Origin: SettingOrigin.Run, RunId: { } earlier, State: not SettingState.Doubtful } && earlier != runId)
        {
            var otherwise = before.Key.EndsWith("TemperatureC", StringComparison.Ordinal) ? SameTemperatureC : SameShare * Math.Abs(before.Value);
            var joint = Math.Sqrt(Math.Pow(before.Uncertainty ?? otherwise, 2) + Math.Pow(uncertainty ?? otherwise, 2));
            if (Math.Abs(before.Value - value) <= joint)
                return (SettingState.Confirmed, "repeated: two runs agree");
        }

        return (SettingState.Provisional, basis);
    }

    private const string OldNotesText = "old notes";

    /// <summary>
    /// Puts a value from old notes into a profile where nothing better stands: over nothing, a starting value or an older note. What a run, a person or
    /// another profile put there stays.
    /// </summary>
    /// <param name="settings">The profile; changed where the value is taken.</param>
    /// <param name="key">Key of the settings dictionary.</param>
    /// <param name="value">In the key's unit.</param>
    /// <param name="day">Day of the note in words; null where it has none.</param>
    /// <returns>True where the value was taken.</returns>
    public static bool TakeOldNote(List<ProfileSetting> settings, string key, double value, string? day)
    {
        var stands = settings.FirstOrDefault(s => s.Key == key);
        if (stands is not null && stands.State != SettingState.Start && !stands.OriginText.StartsWith(OldNotesText, StringComparison.Ordinal))
            return false;
        settings.RemoveAll(s => s.Key == key);
        settings.Add(new(key, value, null, SettingOrigin.Typed, day is null ? OldNotesText : $"{OldNotesText}, {day}", SettingState.Provisional, "from old notes, not tried since"));
        return true;
    }

    /// <summary>Marks settings doubtful; starting values stay what they are.</summary>
    public static IReadOnlyList<ProfileSetting> MarkDoubtful(IEnumerable<ProfileSetting> settings, IReadOnlyCollection<string> keys, string why) =>
        settings.Select(s => keys.Contains(s.Key) && s.State is (SettingState.Provisional or SettingState.Confirmed)
            ? s with { State = SettingState.Doubtful, StateWhy = why }
            : s).ToList();

    /// <summary>The settings of another pairing as a starting point: at most provisional, with their source named.</summary>
    /// <param name="from">The other pairing's settings.</param>
    /// <param name="name">Its name in words.</param>
    /// <param name="maxNozzleC">This machine's limit, °C: what lies above it is brought down.</param>
    public static IReadOnlyList<ProfileSetting> Inherit(IEnumerable<ProfileSetting> from, string name, double maxNozzleC) =>
        from.Select(s =>
        {
            var isNozzle = s.Key is "nozzleTemperatureC" or "firstLayerNozzleTemperatureC" or "standbyNozzleTemperatureC";
            var value = isNozzle ? Math.Min(s.Value, maxNozzleC) : s.Value;
            return s with
            {
                Value = value,
                Origin = SettingOrigin.Inherited,
                OriginText = $"copied from {name}",
                State = s.State == SettingState.Start ? SettingState.Start : SettingState.Provisional,
                StateWhy = value < s.Value ? "brought down to this machine's limit" : "inherited, not tried here",
                RunId = null,
            };
        }).ToList();
}
