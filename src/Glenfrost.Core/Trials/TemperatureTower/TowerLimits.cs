using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Limits win: no section is hotter than the machine bears, none colder than it may extrude.</summary>
internal static class TowerLimits
{
    internal static void Check(TowerRequest r, List<FieldError> errors)
    {
        var cold = TowerPlanning.ColdLimit(r);
        var step = r.StepC is > 0 ? r.StepC.Value : 5;
        if (r.Limits?.Max is { } max && r.HottestC is { } hot && hot > max)
        {
            var floor = r.CoolestC is { } c && c < max ? c + decimal.Truncate((max - c) / step) * step : max;
            errors.Add(
                new(
                    "hottestC",
                    $"{TowerPlanning.N(hot)} °C is above this machine's limit of {TowerPlanning.N(max)} °C{Because(r)}. {TowerPlanning.N(floor)} °C would " +
                        $"be right.",
                    r.CoolestC < floor ? [new($"{TowerPlanning.N(floor)} °C at the bottom", TowerPlanning.Map(("hottestC", floor)))] : []));
        }

        if (r.CoolestC is { } cool && cool < cold)
        {
            var lowest = r.HottestC is { } h && h > cold ? h - decimal.Truncate((h - cold) / step) * step : cold;
            errors.Add(
                new(
                    "coolestC",
                    $"{TowerPlanning.N(cool)} °C is below the cold-extrusion limit of {TowerPlanning.N(cold)} °C: the printer would refuse to feed. " +
                        $"{TowerPlanning.N(lowest)} °C would be right.",
                    lowest < r.HottestC ? [new($"{TowerPlanning.N(lowest)} °C at the top", TowerPlanning.Map(("coolestC", lowest)))] : []));
        }
    }

    internal static List<string> Warnings(TowerRequest r)
    {
        var warnings = new List<string>();
        if (r.Advised?.Max is { } max && r.HottestC > max)
            warnings.Add($"{TowerPlanning.N(r.HottestC!.Value)} °C is above the advised {TowerPlanning.N(max)} °C. Advice, not a limit: allowed and marked.");
        if (r.Advised?.Min is { } min && r.CoolestC < min)
            warnings.Add($"{TowerPlanning.N(r.CoolestC!.Value)} °C is below the advised {TowerPlanning.N(min)} °C. Advice, not a limit: allowed and marked.");
        return warnings;
    }

    internal static string ContinuousWarning(TowerRequest r, int? minutes) =>
        $"{(minutes is { } m ? $"About {m} min" : "Some sections")} above {TowerPlanning.N(r.Limits!.ContinuousMax!.Value)} °C, the liner's continuous " +
            $"limit. An overheated PTFE liner gives off toxic gas: ventilate and stay with it.";

    private static string Because(TowerRequest r) => r.Limits?.MaxBecause is { } because ? $" ({because})" : "";
}
