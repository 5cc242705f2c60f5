using Glenfrost.Core.Statistics;
using Glenfrost.Core.Equipment;
namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Which end of the good band a tester wants.</summary>
public enum Preference
{
    /// <summary>Cooler part: clean surfaces and fine detail.</summary>
    Looks,

    /// <summary>The middle.</summary>
    Balanced,

    /// <summary>Hotter part; proposed only, unproven without a bond test.</summary>
    Strength,
}

/// <summary>The aspects under which a section is scored, 0 (unusable) to 4 (clean).</summary>
public static class Aspects
{
    /// <summary>Fixed names in the order of the table.</summary>
    public static IReadOnlyList<string> All { get; } = ["bridge", "overhang", "strings", "surface", "bond"];

    /// <summary>What the scores of each look like.</summary>
    public static IReadOnlyDictionary<string, ScoreAnchors> Anchors { get; } = new Dictionary<string, ScoreAnchors>
    {
        ["bridge"] = ScoreAnchors.Bridge, ["overhang"] = ScoreAnchors.Overhang, ["strings"] = ScoreAnchors.Strings, ["surface"] = ScoreAnchors.Surface,
        ["bond"] = ScoreAnchors.Bond,
    };

    /// <summary>Weights that a pairing's use suggests; a verdict without a use weighs all alike.</summary>
    public static IReadOnlyDictionary<string, double> WeightsFor(string? use) => use switch
    {
        "looks" => Weights(1, 1, 1, 2, 0.5),
        "fine detail" => Weights(1.5, 1.5, 1.5, 1, 0.5),
        "strength" => Weights(0.75, 0.75, 0.5, 0.75, 2),
        "speed" => Weights(1, 1, 0.75, 1, 1.25),
        _ => Weights(1, 1, 1, 1, 1),
    };

    /// <summary>The preference that a pairing's use suggests.</summary>
    public static Preference PreferenceFor(string? use) => use switch
    {
        "looks" or "fine detail" => Preference.Looks,
        "strength" => Preference.Strength,
        _ => Preference.Balanced,
    };

    private static Dictionary<string, double> Weights(params double[] w) => All.Zip(w).ToDictionary(p => p.First, p => p.Second);
}

/// <summary>The readings of one section.</summary>
/// <param name="TemperatureC">Planned nozzle temperature, °C.</param>
/// <param name="State">What became of it.</param>
/// <param name="Scores">Aspect to score, 0–4; aspects that were not judged are missing.</param>
/// <param name="ObservedC">What the printer's display showed, °C.</param>
public sealed record SectionReading(double TemperatureC, SectionState State, IReadOnlyDictionary<string, double> Scores, double? ObservedC = null);

/// <summary>Readings of a tower and how to judge them.</summary>
public sealed record TowerReadings
{
    /// <summary>Sections in any order; the same temperature twice is a repeat.</summary>
    public required IReadOnlyList<SectionReading> Sections { get; init; }

    /// <summary>Weight by aspect; null weighs all alike.</summary>
    public IReadOnlyDictionary<string, double>? Weights { get; init; }

    /// <summary>Which part of the good band to take.</summary>
    public Preference Preference { get; init; } = Preference.Balanced;

    /// <summary>What a tower like the one that is judged costs; null where nobody said.</summary>
    public TrialEstimate? Cost { get; init; }

    /// <summary>Standard deviation of one score of this person, in scores; 0.5 until it is learned.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>Machine limits, °C.</summary>
    public TemperatureRange? Limits { get; init; }

    /// <summary>Label or family advice, °C.</summary>
    public TemperatureRange? Advised { get; init; }

    /// <summary>Seed of the bootstrap.</summary>
    public int Seed { get; init; } = 20260101;
}
