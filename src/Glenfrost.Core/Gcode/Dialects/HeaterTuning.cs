namespace Glenfrost.Core.Gcode.Dialects;

/// <summary>What a dialect says to tune a heater and to keep what was found.</summary>
public static class HeaterTuning
{
    /// <summary>The command that tunes a heater, in a dialect.</summary>
    /// <param name="dialect">Word of the dialect.</param>
    /// <param name="temperatureC">°C.</param>
    public static string TuneCommand(string dialect, double temperatureC) => Dialect.Of(dialect).TuneHeater(temperatureC);

    /// <summary>What keeps tuned values, and what that overwrites.</summary>
    public static (string Text, string Note) KeepCommand(string dialect, double p, double i, double d) => Dialect.Of(dialect).KeepTuning(p, i, d);
}
