namespace Glenfrost.Core.Trials.RetractionSweep;

/// <summary>What a factor of a sweep is.</summary>
/// <param name="Word">Fixed word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Unit">mm or mm/s.</param>
/// <param name="From">Usual least for a direct drive.</param>
/// <param name="To">Usual most.</param>
/// <param name="Step">Usual step.</param>
/// <param name="Fine">A width below which nothing is told apart.</param>
public sealed record SweepFactor(string Word, string Label, string Key, string Unit, decimal From, decimal To, decimal Step, double Fine)
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
    ];

    /// <summary>That of a word; the length where it is unknown.</summary>
    public static SweepFactor Of(string word) => All.FirstOrDefault(f => f.Word == word) ?? All[0];
}
