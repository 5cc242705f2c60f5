using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.LayerTime;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Core.Trials.SettingSteps;

/// <summary>A setting that may be stepped on a wall or on cones.</summary>
/// <param name="Word">Fixed word.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Unit">mm, mm/s, °C, s or %; empty for a ratio.</param>
/// <param name="Least">Smallest value that is taken.</param>
/// <param name="Most">Largest.</param>
/// <param name="Fine">Smallest step that anybody sees.</param>
/// <param name="Larger">True where the largest value that looks about as good is taken: faster, wider or warmer at no loss; else the smallest.</param>
/// <param name="OnCones">True where a cone shows it.</param>
/// <param name="OnWall">True where a wall shows it.</param>
/// <param name="SettledBy">Kind of trial that settles the setting, since looks are not all that it moves; null where this one does.</param>
public sealed record SteppedSetting(
    string Word, string Label, string Key, string Unit, decimal Least, decimal Most, decimal Fine, bool Larger, bool OnCones, bool OnWall, string? SettledBy)
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<SteppedSetting> All { get; } =
    [
        new("outer-speed", "Outer wall speed", "outerWallSpeedMmPerS", "mm/s", 1, 1000, 5, true, false, true, null),
        new("inner-speed", "Inner wall speed", "innerWallSpeedMmPerS", "mm/s", 1, 1000, 5, true, false, true, null),
        new("width", "Line width", "lineWidthMm", "mm", 0.1m, 3, 0.01m, true, true, true, null),
        new("temperature", "Temperature", "nozzleTemperatureC", "°C", 150, 500, 2, true, true, true, TemperatureTowerTrial.Word),
        new("fan", "Fan", "fanPercent", "%", 0, 100, 5, false, true, true, FanTrial.Word),
        new("layer-time", "Least layer time", "minLayerTimeS", "s", 1, 120, 0.5m, false, true, false, LayerTimeTrial.Word),
        new("multiplier", "Multiplier", "extrusionMultiplier", "", 0.5m, 1.5m, 0.01m, true, true, true, WallFlowTrial.Word),
    ];

    /// <summary>That of a word; the first where it is unknown.</summary>
    public static SteppedSetting Of(string word) => All.FirstOrDefault(f => f.Word == word) ?? All[0];

    /// <summary>Which of the values that look about as good is taken, in a word.</summary>
    public string Taken => Word switch
    {
        "outer-speed" or "inner-speed" => "fastest",
        "width" => "widest",
        "temperature" => "warmest",
        "layer-time" => "shortest",
        _ => Larger ? "largest" : "least",
    };

    /// <summary>A value with its unit.</summary>
    public string Said(double value) => $"{Say.N(value, 3)} {Unit}".TrimEnd();

    /// <summary>True where a piece of that word shows it.</summary>
    public bool Shows(string piece) => piece == SettingTrial.Cones ? OnCones : OnWall;
}
