using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>What a factor of a sweep is.</summary>
/// <param name="Word">Fixed word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Unit">mm, mm/s, °C or %; empty for a ratio.</param>
/// <param name="From">Usual least for a direct drive.</param>
/// <param name="To">Usual most.</param>
/// <param name="Step">Usual step.</param>
/// <param name="Fine">A width below which nothing is told apart.</param>
/// <param name="Larger">True where the largest value that is about as clean is taken, and not the smallest: colder, or with less
/// plastic, a part goes weak.</param>
/// <param name="SettledBy">Kind of trial that settles the setting, since strings are not all that it moves; null where this one does.</param>
public sealed record SweepFactor(string Word, string Label, string Key, string Unit, decimal From, decimal To, decimal Step, double Fine,
    bool Larger = false, string? SettledBy = null)
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<SweepFactor> All { get; } =
    [
        new("length", "Retraction length", "retractionLengthMm", "mm", 0, 1.6m, 0.2m, 0.1),
        new("speed", "Retraction speed", "retractionSpeedMmPerS", "mm/s", 15, 60, 7.5m, 5),
        new("wipe", "Wipe", "wipeMm", "mm", 0, 3, 0.5m, 0.25),
        new("coast", "Coast", "coastMm", "mm", 0, 1, 0.2m, 0.1),
        new("hop", "Z hop", "zHopMm", "mm", 0, 0.6m, 0.1m, 0.1),
        new("travel", "Travel speed", "travelSpeedMmPerS", "mm/s", 60, 180, 20, 10),
        new("temperature", "Temperature", "nozzleTemperatureC", "°C", 195, 225, 5, 3, true, TemperatureTowerTrial.Word),
        new("fan", "Fan", "fanPercent", "%", 0, 100, 20, 10, SettledBy: FanTrial.Word),
        new("multiplier", "Multiplier", "extrusionMultiplier", "", 0.85m, 1.05m, 0.05m, 0.02, true, WallFlowTrial.Word),
    ];

    /// <summary>Which of the values that are about as good is taken, in a word.</summary>
    public string Taken => Word == "temperature" ? "warmest" : Larger ? "largest" : "smallest";

    /// <summary>That of a word; the length where it is unknown.</summary>
    public static SweepFactor Of(string word) => All.FirstOrDefault(f => f.Word == word) ?? All[0];
}
