namespace Glenfrost.Core.Settings;

/// <summary>How a setting is rounded when it is kept: toward the nearest, or down where up would be unsafe.</summary>
public enum Rounding
{
    /// <summary>To the nearest shown digit.</summary>
    Nearest,

    /// <summary>Down: flow limits and speeds.</summary>
    Down,
}

/// <summary>One entry of the settings dictionary. Keys are fixed: files and the API use them.</summary>
/// <param name="Key">Fixed key, camelCase with its unit.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="Digits">Decimals shown and kept.</param>
/// <param name="Rounding">Direction of rounding.</param>
/// <param name="Quantity">Unit, range and reason.</param>
/// <param name="Help">What it means, and other words in use for it.</param>
public sealed record SettingDefinition(string Key, string Label, int Digits, Rounding Rounding, Quantity Quantity, string Help)
{
    /// <summary>Words that it takes where it is no number, the usual ones first; an empty list for any words; null for a number.</summary>
    public IReadOnlyList<string>? Words { get; init; }

    /// <summary>Reads what was typed for it.</summary>
    /// <param name="text">A number with or without its unit, or a word.</param>
    /// <returns>The number (0 for a word) and the word, or what is wrong and what would be right.</returns>
    public (double Value, string? Word, string? Error) Read(string? text)
    {
        if (Words is null)
        {
            var number = Quantity.Parse(text);
            return number.Error is null ? (Round((double)number.Value!.Value), null, null) : (0, null, number.Error);
        }

        var word = (text ?? "").Trim();
        if (word.Length == 0)
            return (0, null, Words.Count > 0 ? $"{Label} is empty: {string.Join(", ", Words)} would be right." : $"{Label} is empty. {Help}");
        if (word.Length > MostCharacters || word.Any(char.IsControl))
            return (0, null, $"{Label} takes one line of at most {MostCharacters} characters.");
        var known = Words.FirstOrDefault(w => string.Equals(w, word, StringComparison.OrdinalIgnoreCase));
        return Words.Count > 0 && known is null ? (0, null, $"\"{word}\" is none of {string.Join(", ", Words)}.") : (0, known ?? word, null);
    }

    private const int MostCharacters = 80;

    /// <summary>Rounds a value to the digits and direction of this setting.</summary>
    public double Round(double value)
    {
        var scale = Math.Pow(10, Digits);
        return Rounding == Rounding.Down
            ? Math.Floor(value * scale + 1e-9) / scale
            : Math.Round(value, Digits);
    }

    /// <summary>
    /// Decimals of a value that is known to an uncertainty: as many as that supports (its first two digits) and never fewer than it needs to be right within a
    /// tenth. K 0.0375 ± 0.0013 has four, a retraction of 4 ± 1.75 mm one. What is rounded down keeps its own.
    /// </summary>
    /// <param name="uncertainty">95 % half-width in the setting's unit; null or 0 for none.</param>
    public int DigitsAt(double? uncertainty)
    {
        if (uncertainty is not > 0 || Rounding == Rounding.Down)
            return Digits;
        var supported = Supported(uncertainty.Value);
        var digits = Math.Min(Digits, supported);
        while (digits < supported && Math.Abs(Math.Round(uncertainty.Value, digits) / uncertainty.Value - 1) > 0.1)
            digits++;
        return digits;
    }

    /// <summary>Decimals at which an uncertainty has two significant digits, 0 to 6: 0.0013 has four.</summary>
    /// <param name="uncertainty">95 % half-width in the setting's unit, above 0.</param>
    public static int Supported(double uncertainty) => Math.Clamp(1 - (int)Math.Floor(Math.Log10(uncertainty)), 0, 6);

    /// <summary>Rounds a value to the digits that its uncertainty supports.</summary>
    public double Round(double value, double? uncertainty) =>
        DigitsAt(uncertainty) is var digits && digits == Digits ? Round(value) : Math.Round(value, digits, MidpointRounding.AwayFromZero);

    /// <summary>The value as text with this setting's decimals, without the unit.</summary>
    public string Text(double value) => Fixed(Round(value), Digits);

    /// <summary>The value as text with the decimals that its uncertainty supports, without the unit.</summary>
    public string Text(double value, double? uncertainty) => Fixed(Round(value, uncertainty), DigitsAt(uncertainty));

    /// <summary>An uncertainty as text, with the decimals of its value; empty for none.</summary>
    public string HalfText(double? uncertainty) =>
        uncertainty is > 0 and var half ? Fixed(Math.Round(half, DigitsAt(half), MidpointRounding.AwayFromZero), DigitsAt(half)) : "";

    private static string Fixed(double value, int digits) =>
        value.ToString(digits == 0 ? "0" : "0." + new string('0', digits), System.Globalization.CultureInfo.InvariantCulture);
}

/// <summary>The settings dictionary: every key a profile may hold.</summary>
public static class SettingRegistry
{
    /// <summary>All definitions in the order in which a profile shows them.</summary>
    public static IReadOnlyList<SettingDefinition> All { get; } =
    [
        Temperature("nozzleTemperatureC", "Nozzle temperature", 150, 500, "Print temperature after the first layer."),
        Temperature("firstLayerNozzleTemperatureC", "Nozzle, first layer", 150, 500, "Often a few degrees above the print temperature, for grip."),
        Temperature("standbyNozzleTemperatureC", "Nozzle, standby", 0, 500, "An idle toolhead's temperature; also: idle, parked."),
        Temperature("bedTemperatureC", "Bed", 0, 160, "After the first layer."),
        Temperature("firstLayerBedTemperatureC", "Bed, first layer", 0, 160, "While the first layer goes down."),
        Temperature("releaseBedTemperatureC", "Bed, release", 0, 160, "Where a part lets go by itself."),
        Temperature("chamberTemperatureC", "Chamber", -20, 120, "Aimed at, where there is a choice."),
        new(
            "extrusionMultiplier", "Extrusion multiplier", 3, Rounding.Nearest,
            new("Extrusion multiplier", "", 0.3m, 1.5m, "beyond that the feed or the width is wrong, not the flow"),
            "Flow ratio; programs that show flow in per cent mean this times 100."),
        Length("filamentDiameterMm", "Filament diameter", 2, 1m, 4m, "The measured mean, not the label's."),
        Length("lineWidthMm", "Line width", 2, 0.1m, 3m, "Extrusion width; the evidence holds for this width."),
        Length("layerHeightMm", "Layer height", 2, 0.02m, 1.5m, "The evidence holds for this height."),
        new(
            "maxVolumetricFlowMm3PerS", "Flow limit", 1, Rounding.Down,
            new("Flow limit", "mm³/s", 0.5m, 200m, "below it nothing prints, above it no hotend melts"),
            "Maximum volumetric speed, flow cap; kept with its temperature and nozzle."),
        Length("retractionLengthMm", "Retraction length", 2, 0m, 15m, "Filament pulled back before a travel."),
        Speed("retractionSpeedMmPerS", "Retraction speed", 1, 200, "Speed of pulling back, at the filament."),
        Speed("unretractSpeedMmPerS", "Unretract speed", 1, 200, "Speed of pushing forward again; also: deretraction, prime speed."),
        Length("retractExtraMm", "Extra on restart", 3, -1m, 1m, "Added after a travel; negative takes away."),
        Length("wipeMm", "Wipe", 1, 0m, 20m, "Distance moved over the part while retracting."),
        Length("coastMm", "Coast", 2, 0m, 10m, "Path at the end of a line that is printed by pressure alone."),
        Length("zHopMm", "Z hop", 2, 0m, 5m, "Lift during travel."),
        Speed("travelSpeedMmPerS", "Travel speed", 5, 1000, "Moves without extrusion."),
        new(
            "pressureAdvance", "Pressure advance", 3, Rounding.Nearest, new("Pressure advance", "s", 0m, 3m, "above it the unit is another one"),
            "Linear-advance factor, K; the dialect is noted with it."),
        new(
            "accelerationMmPerS2", "Acceleration", 0, Rounding.Down, new("Acceleration", "mm/s²", 50m, 100000m, "slower never gets there, faster skips"),
            "Of prints; pressure advance and ringing belong to it."),
        Percent("fanPercent", "Fan", "Part cooling in the regular layers."),
        Percent("fanMinPercent", "Fan, least", "Part cooling on long layers."),
        Percent("bridgeFanPercent", "Fan, bridges", "Part cooling over gaps."),
        new(
            "fanFirstLayers", "Layers without fan", 0, Rounding.Nearest,
            new("Layers without fan", "layers", 0m, 50m, "later the fan is what holds the shape", true), "Layers at the bottom that the fan leaves alone."),
        Time("minLayerTimeS", "Least layer time", "The print slows so that no layer is shorter."),
        Time(
            "fanRampLayerTimeS", "Fan ramp layer time",
            "Below this layer time the fan goes up. Not the same as the least layer time, and easily mistaken for it."),
        Speed("minPrintSpeedMmPerS", "Slowest print speed", 1, 200, "As far down as slowing may go."),
        Speed("outerWallSpeedMmPerS", "Outer wall speed", 1, 1000, "The visible wall."),
        Speed("innerWallSpeedMmPerS", "Inner wall speed", 1, 1000, "Walls behind it."),
        Speed("fillSpeedMmPerS", "Fill speed", 1, 1000, "Sparse and solid fill."),
        Speed("bridgeSpeedMmPerS", "Bridge speed", 1, 500, "Lines over a gap."),
        Speed("firstLayerSpeedMmPerS", "First layer speed", 1, 300, "Slow grips better."),
        new(
            "nozzleOffsetMm", "Nozzle offset", 3, Rounding.Nearest, new("Nozzle offset", "mm", -5m, 5m, "more than that is a levelling fault"),
            "First-layer offset, live offset."),
        Length("brimWidthMm", "Brim", 1, 0m, 50m, "A rim that holds corners down."),
        Word("draughtShield", "Draught shield", "A wall around the part, printed or put up; also: wind shield.", "no", "yes"),
        Word("adhesive", "Adhesive", "What lies between bed and part, to grip or to release: none, stick, spray, release layer, or your own words."),
        Word("coolDown", "Cool-down", "Bed temperatures after the print with their minutes, for example 90 °C 10 min, 70 °C 10 min."),
        Temperature("dryingTemperatureC", "Drying temperature", 20, 120, "Below the softening point."),
        new(
            "dryingHours", "Drying time", 1, Rounding.Nearest, new("Drying time", "h", 0m, 96m, "longer than four days helps nothing"),
            "At the drying temperature."),
    ];

    /// <summary>The value of a setting as text: its word, or its number with the setting's decimals.</summary>
    public static string Text(string key, double value, string? word, double? uncertainty = null) =>
        word ?? Find(key)?.Text(value, uncertainty) ?? Say.N(value, 3);

    private static readonly Dictionary<string, SettingDefinition> ByKey = All.ToDictionary(d => d.Key);

    /// <summary>The definition of a key.</summary>
    /// <exception cref="KeyNotFoundException">The key is not in the dictionary.</exception>
    public static SettingDefinition Get(string key) => ByKey[key];

    /// <summary>The definition of a key, or null where the dictionary has none.</summary>
    public static SettingDefinition? Find(string? key) => key is not null && ByKey.TryGetValue(key, out var d) ? d : null;

    private static SettingDefinition Temperature(string key, string label, decimal min, decimal max, string help) =>
        new(key, label, 0, Rounding.Nearest, new(label, "°C", min, max, "no filament or bed is run outside it"), help);

    private static SettingDefinition Length(string key, string label, int digits, decimal min, decimal max, string help) =>
        new(key, label, digits, Rounding.Nearest, new(label, "mm", min, max, "a value outside it is a slip of unit or decimal sign"), help);

    private static SettingDefinition Speed(string key, string label, decimal min, decimal max, string help) =>
        new(key, label, 0, Rounding.Down, new(label, "mm/s", min, max, "speeds are in mm per second, not per minute"), help);

    private static SettingDefinition Percent(string key, string label, string help) =>
        new(key, label, 0, Rounding.Nearest, new(label, "%", 0m, 100m, "a fan turns between standstill and full"), help);

    private static SettingDefinition Word(string key, string label, string help, params string[] words) =>
        new(key, label, 0, Rounding.Nearest, new(label, "", 0m, 0m, "it is said in words"), help) { Words = words };

    private static SettingDefinition Time(string key, string label, string help) =>
        new(key, label, 1, Rounding.Nearest, new(label, "s", 0m, 600m, "ten minutes a layer is a standstill"), help);
}
