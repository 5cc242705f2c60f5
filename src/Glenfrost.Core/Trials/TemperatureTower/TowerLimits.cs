using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

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
                    $"{Say.N(hot, 3)} °C is above this machine's limit of {Say.N(max, 3)} °C{Because(r)}. {Say.N(floor, 3)} °C would " +
                        $"be right.",
                    r.CoolestC < floor ? [new($"{Say.N(floor, 3)} °C at the bottom", TowerPlanning.Map(("hottestC", floor)))] : []));
        }

        if (r.CoolestC is { } cool && cool < cold)
        {
            var lowest = r.HottestC is { } h && h > cold ? h - decimal.Truncate((h - cold) / step) * step : cold;
            errors.Add(
                new(
                    "coolestC",
                    $"{Say.N(cool, 3)} °C is below the cold-extrusion limit of {Say.N(cold, 3)} °C: the printer would refuse to feed. " +
                        $"{Say.N(lowest, 3)} °C would be right.",
                    lowest < r.HottestC ? [new($"{Say.N(lowest, 3)} °C at the top", TowerPlanning.Map(("coolestC", lowest)))] : []));
        }
    }

    internal static List<PlanWarning> Warnings(TowerRequest r)
    {
        var warnings = new List<PlanWarning>();
        if (r.Advised?.Max is { } max && r.HottestC > max)
            warnings.Add(new(PlanWarningKind.AboveAdvised, (double)r.HottestC!.Value, (double)max));
        if (r.Advised?.Min is { } min && r.CoolestC < min)
            warnings.Add(new(PlanWarningKind.BelowAdvised, (double)r.CoolestC!.Value, (double)min));
        return warnings;
    }

    internal static PlanWarning ContinuousWarning(TowerRequest r, int? minutes) =>
        new(PlanWarningKind.SectionsAboveContinuous, [(double)r.Limits!.ContinuousMax!.Value, .. minutes is { } m ? [(double)m] : Array.Empty<double>()]);

    private static string Because(TowerRequest r) => r.Limits?.MaxBecause is { } because ? $" ({because})" : "";
}
