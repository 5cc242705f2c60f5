using Glenfrost.Core.Equipment;

namespace Glenfrost.Core.Profiles;

/// <summary>A value that goes with a nozzle temperature: proposed with it, not tried by itself.</summary>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Value">In its unit.</param>
/// <param name="From">Where it is from, in words.</param>
public sealed record Companion(string Key, double Value, string From);

/// <summary>What belongs to a nozzle temperature besides itself: the first layer's, and the bed that it was found on.</summary>
public static class BesideNozzle
{
    /// <summary>How much warmer than the print a first layer is proposed, °C: a working value of the craft.</summary>
    public const double FirstLayerUpC = 5;

    /// <summary>The nozzle temperature that goes with the print.</summary>
    public const string Nozzle = "nozzleTemperatureC";

    /// <summary>The nozzle temperature of the first layer.</summary>
    public const string FirstLayer = "firstLayerNozzleTemperatureC";

    private static readonly string[] Beds = ["bedTemperatureC", "firstLayerBedTemperatureC"];

    /// <summary>
    /// What is proposed with a nozzle temperature that is about to be kept. What was tried on this pairing stays, unless its first layer would be colder
    /// than the print.
    /// </summary>
    /// <param name="nozzleC">The temperature to be kept, °C.</param>
    /// <param name="profile">The profile as it stands; empty for none.</param>
    /// <param name="printedBedC">Bed that the run was printed on, °C; null where it is not known or was not heated.</param>
    /// <param name="printedFirstBedC">The same for its first layer.</param>
    /// <param name="limits">The toolhead's limits.</param>
    /// <param name="bedMaxC">What the bed reaches, °C.</param>
    /// <param name="upC">How much warmer the first layer is, °C: 0 for what foams, since it would swell.</param>
    public static IReadOnlyList<Companion> Of(
        double nozzleC, IReadOnlyList<ProfileSetting> profile, double? printedBedC, double? printedFirstBedC, HotendLimits limits, double bedMaxC,
        double upC = FirstLayerUpC)
    {
        var found = new List<Companion>();
        ProfileSetting? Stands(string key) => profile.FirstOrDefault(s => s.Key == key);
        var first = Stands(FirstLayer);
        // The warmer first layer stays within what a liner bears for long, unless the print itself does not.
        var warm = Math.Max(nozzleC, Math.Min(nozzleC + upC, limits.ProposedMaxC));
        if ((first is not { IsEvidence: true } || first.Value < nozzleC) && first?.Value != warm)
            found.Add(new(FirstLayer, warm, warm > nozzleC ? $"{warm - nozzleC:0.#} °C above it" : "as warm as it"));
        foreach (var (key, printed) in Beds.Zip([printedBedC, printedFirstBedC ?? printedBedC]))
        {
            if (printed is { } bed and > 0 && bed <= bedMaxC && Stands(key) is not { IsEvidence: true })
                found.Add(new(key, bed, "as it was printed"));
        }

        return found;
    }

    /// <summary>True where a first layer is laid colder than the print: it grips worse, which is hardly ever meant.</summary>
    /// <param name="nozzleC">Nozzle of the print, °C.</param>
    /// <param name="firstLayerC">Nozzle of the first layer, °C; null where it has no value of its own.</param>
    public static bool FirstLayerIsColder(double? nozzleC, double? firstLayerC) => nozzleC is { } n && firstLayerC is { } f && f < n;
}
