namespace Glenfrost.Core.Trials;

/// <summary>A kind of trial: its fixed word, its name, the page folder and the setting that it settles.</summary>
public sealed record TrialKind(string Kind, string Name, string PageFolder, string SettingKey);

/// <summary>Every trial that Glenfrost carries out. A new trial is one line here, one folder in the core and one page.</summary>
public static class TrialCatalogue
{
    /// <summary>The kind of a temperature tower.</summary>
    public const string TemperatureTower = "temperature-tower";

    /// <summary>All kinds.</summary>
    public static IReadOnlyList<TrialKind> All { get; } =
    [
        new(TemperatureTower, "Temperature tower", "TemperatureTower", "nozzleTemperatureC"),
    ];

    /// <summary>The kind of that word, or null.</summary>
    public static TrialKind? Find(string? kind) => All.FirstOrDefault(k => k.Kind == kind);
}
