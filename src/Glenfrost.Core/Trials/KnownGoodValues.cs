using System.Globalization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials;

/// <summary>A value that is known to print well in daily use: a reading too.</summary>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Value">In the key's unit.</param>
/// <param name="AtC">Nozzle temperature at which it does, °C; null where nobody said.</param>
/// <param name="Who">Who says so, and when.</param>
public sealed record KnownGoodValue(string Key, double Value, double? AtC, string Who);

/// <summary>Practice beside test results. Where they contradict each other, it is said, with the test that decides.</summary>
public static class KnownGoodValues
{
    /// <summary>Word for what is next where practice and test contradict each other.</summary>
    public const string DecidingTest = "deciding-test";

    /// <summary>Keys for which a known good value can be set beside a test.</summary>
    public static IReadOnlyList<string> Keys { get; } =
    ["maxVolumetricFlowMm3PerS", "retractionLengthMm", "pressureAdvance", "nozzleTemperatureC", "extrusionMultiplier"];

    /// <summary>What practice says of a proposed value.</summary>
    /// <param name="tested">What the test proposes, with its 95 % half-width.</param>
    /// <param name="known">Known good values of any key.</param>
    /// <param name="marginPercent">Margin that the proposed value already holds below what was measured, %.</param>
    /// <returns>A sentence, and the test that decides where the two contradict each other (null where they agree); null where practice says nothing of that
    /// key.</returns>
    public static (string Sentence, string? Decides)? Of(SettingValue tested, IEnumerable<KnownGoodValue> known, double marginPercent = 0)
    {
        var same = known.Where(k => k.Key == tested.Key).ToList();
        if (same.Count == 0 || SettingRegistry.Find(tested.Key) is not { } definition)
            return null;
        string WithUnit(double v) => Say.N(v, 3) + (definition.Quantity.Unit.Length > 0 ? " " + definition.Quantity.Unit : "");
        // A flow limit contradicts only from below what prints; a retraction only where shorter already does.
        var telling = tested.Key switch
        {
            "maxVolumetricFlowMm3PerS" => same.MaxBy(k => k.Value)!,
            "retractionLengthMm" => same.MinBy(k => k.Value)!,
            _ => same[0],
        };
        var measured = tested.Key == "maxVolumetricFlowMm3PerS" ? Math.Round(tested.Value / (1 - Math.Min(0.9, marginPercent / 100)), 1) : tested.Value;
        var contradicts = tested.Key switch
        {
            "maxVolumetricFlowMm3PerS" => telling.Value > measured + tested.Uncertainty + 1e-9,
            "retractionLengthMm" => telling.Value < measured - Math.Max(tested.Uncertainty, 0.05) - 1e-9,
            _ => Math.Abs(telling.Value - measured) > Math.Max(tested.Uncertainty, definition.Digits == 0 ? 1 : Math.Pow(10, -definition.Digits)) + 1e-9,
        };
        var at = telling.AtC is { } c ? $" at {Say.N(c, 1)} °C" : "";
        var decides = contradicts ? Decides(tested.Key, WithUnit(telling.Value)) : null;
        return (
            contradicts
                ? $"Practice says otherwise: {WithUnit(telling.Value)}{at} prints well ({telling.Who}), the test says " +
                    $"{WithUnit(measured)}{(tested.Uncertainty > 0 ? $" ± {WithUnit(tested.Uncertainty)}" : "")}. {decides}"
                : $"Known good in practice: {WithUnit(telling.Value)}{at} ({telling.Who}); the test agrees.",
            decides);
    }

    /// <summary>The test that decides between practice and test.</summary>
    private static string Decides(string key, string value) =>
        key switch
        {
            "maxVolumetricFlowMm3PerS" =>
                $"Print a wall at {value} by stepped speed and cut it: free-air extrusion is not printing, and temperature or spool may differ.",
            "retractionLengthMm" => $"Print the two lengths once more on one plate, {value} and the proposed one.",
            "pressureAdvance" => $"Print corners at both, {value} and the proposed one.",
            _ => $"Print the verification part at both, {value} and the proposed one.",
        };

    /// <summary>A verdict with what practice says beside it; where they contradict each other, it is warned of, and what decides is what is next.</summary>
    public static TrialVerdict Beside(TrialVerdict verdict, IReadOnlyList<KnownGoodValue> known, string? decidingTrial, double marginPercent = 0)
    {
        if (verdict.BesidePractice || known.Count == 0 || verdict.Settings.Count == 0 || Of(verdict.Settings[0], known, marginPercent) is not { } said)
            return verdict;
        verdict = verdict with { BesidePractice = true };
        if (said.Decides is not { } decides)
            return verdict with { Reasons = [.. verdict.Reasons, said.Sentence] };
        return verdict with
        {
            Warnings = [said.Sentence, .. verdict.Warnings],
            Next = new(DecidingTest, decides, decidingTrial, decidingTrial is null ? null : new Dictionary<string, decimal>()),
            Proves = false,
        };
    }
}
