using Glenfrost.Core.Equipment;
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

    /// <summary>Copied from another pairing, not tried here: never evidence.</summary>
    Inherited,

    /// <summary>One run, or own choice.</summary>
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
    string Key, double Value, double? Uncertainty, SettingOrigin Origin, string OriginText, SettingState State, string? StateWhy = null, Guid? RunId = null)
{
    /// <summary>The word of a setting that is no number; null for numbers.</summary>
    public string? Word { get; init; }

    /// <summary>Nozzle temperature that it was found at, °C; null where it has no such condition.</summary>
    public double? AtC { get; init; }

    /// <summary>What else it was found with, in words: width model, speeds; null for nothing.</summary>
    public string? FoundWith { get; init; }

    /// <summary>The nozzle temperature in force for which none is known, °C: this one was found elsewhere. Null where it stands.</summary>
    public double? NotKnownAtC { get; init; }

    /// <summary>The value as text, without its unit.</summary>
    public string ValueText => Settings.SettingRegistry.Text(Key, Value, Word, Uncertainty);

    /// <summary>Its uncertainty as text, beginning with ±; empty for none.</summary>
    public string HalfText => Settings.SettingRegistry.Find(Key)?.HalfText(Uncertainty) is { Length: > 0 } half ? $"± {half}" : "";

    /// <summary>True where it is evidence of its own: more than a starting value or a copy.</summary>
    public bool IsEvidence => State is SettingState.Provisional or SettingState.Confirmed or SettingState.Doubtful;
}

/// <summary>The rules by which settings enter a profile.</summary>
public static class ProfileRules
{
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
        settings.Add(
            new(
                key, value, null, SettingOrigin.Typed, day is null ? OldNotesText : $"{OldNotesText}, {day}", SettingState.Provisional,
                "from old notes, not tried since"));
        return true;
    }

    /// <summary>The settings of another pairing as a starting point: inherited, with their source named. Starting values of the other stay at home.</summary>
    /// <param name="from">The other pairing's settings.</param>
    /// <param name="name">Its name in words.</param>
    /// <param name="maxNozzleC">This machine's limit, °C: what lies above it is brought down.</param>
    /// <param name="travel">How the two machines differ.</param>
    public static IReadOnlyList<ProfileSetting> Inherit(IEnumerable<ProfileSetting> from, string name, double maxNozzleC, CopyReach travel) =>
        [.. from.Where(s => s.NotKnownAtC is null && travel.Takes(s.Key)).Select(s =>
        {
            var isNozzle = s.Key is "nozzleTemperatureC" or "firstLayerNozzleTemperatureC" or "standbyNozzleTemperatureC";
            var value = isNozzle ? Math.Min(s.Value, maxNozzleC) : s.Value;
            return s with
            {
                Value = value,
                Uncertainty = null,
                Origin = SettingOrigin.Inherited,
                OriginText = $"copied from {name}",
                State = s.State == SettingState.Start ? SettingState.Start : SettingState.Inherited,
                StateWhy = value < s.Value ? "brought down to this machine's limit" : "not tried here",
                RunId = null,
                AtC = null,
                FoundWith = null,
            };
        })];
}

/// <summary>What a copy of a profile takes along.</summary>
/// <param name="SamePrinter">True on the same printer.</param>
/// <param name="SamePath">True where drive, nozzle and type of hotend are the same.</param>
public sealed record CopyReach(bool SamePrinter, bool SamePath)
{
    private static readonly HashSet<string> OfThePath =
    [
        "retractionLengthMm", "retractionSpeedMmPerS", "unretractSpeedMmPerS", "retractExtraMm", "wipeMm", "coastMm", "pressureAdvance",
        "maxVolumetricFlowMm3PerS",
    ];

    /// <summary>
    /// True for a setting that goes along: strings, pressure advance and flow limit never travel to another drive, nozzle or hotend type, an offset never to
    /// another bed.
    /// </summary>
    public bool Takes(string key) => (SamePath || !OfThePath.Contains(key)) && (SamePrinter || key != "nozzleOffsetMm");
}
