namespace Glenfrost.Core.Profiles;

/// <summary>State of a stone.</summary>
public enum StoneState
{
    /// <summary>Nothing judged yet: outlined.</summary>
    Open,

    /// <summary>Copied, not tried here: outlined with a dot.</summary>
    Inherited,

    /// <summary>One run, or own choice.</summary>
    Provisional,

    /// <summary>Laid.</summary>
    Confirmed,

    /// <summary>Split.</summary>
    Doubtful,
}

/// <summary>One of the seven stones.</summary>
/// <param name="Name">machine, first layer, temperature, flow, strings, pressure or flow limit.</param>
/// <param name="SettingKey">The setting it stands for; null for the machine.</param>
/// <param name="State">Its state.</param>
/// <param name="Why">Why it is doubtful; may be null.</param>
public sealed record Stone(string Name, string? SettingKey, StoneState State, string? Why);

/// <summary>Seven fixed stones that show how far a pairing is profiled, from the ground up.</summary>
public static class ProfileProgress
{
    private static readonly (string Name, string Key)[] Order =
    [
        ("first layer", "nozzleOffsetMm"), ("temperature", "nozzleTemperatureC"), ("flow", "extrusionMultiplier"),
        ("strings", "retractionLengthMm"), ("pressure", "pressureAdvance"), ("flow limit", "maxVolumetricFlowMm3PerS"),
    ];

    /// <summary>Settings that stones stand for.</summary>
    public static IEnumerable<string> Keys => Order.Select(o => o.Key);

    /// <summary>The stones of a profile, from the ground up.</summary>
    public static IReadOnlyList<Stone> Of(IReadOnlyCollection<ProfileSetting> settings, StoneState machine, string? machineWhy) =>
    [
        new("machine", null, machine, machineWhy),
        .. Order.Select(o =>
        {
            var s = settings.FirstOrDefault(x => x.Key == o.Key);
            var state = s?.State switch
            {
                SettingState.Inherited => StoneState.Inherited,
                SettingState.Provisional => StoneState.Provisional,
                SettingState.Confirmed => StoneState.Confirmed,
                SettingState.Doubtful => StoneState.Doubtful,
                _ => StoneState.Open,
            };
            return new Stone(o.Name, o.Key, state, s?.State == SettingState.Doubtful ? s.StateWhy : null);
        }),
    ];
}
