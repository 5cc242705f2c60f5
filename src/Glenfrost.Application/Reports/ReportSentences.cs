using Glenfrost.Core.Filaments;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Reports;

/// <summary>A report's sentences.</summary>
public static class ReportSentences
{
    /// <summary>What was measured for a use, machine by machine.</summary>
    public static string Suits(SuitedFor of, IReadOnlyList<(string Letter, Suitability Said)> on)
    {
        var what = of switch
        {
            SuitedFor.Looks => "Parts that are looked at",
            SuitedFor.Unsupported => "Overhangs and bridges without support",
            SuitedFor.OpenShapes => "Spires and open shapes",
            SuitedFor.LargeAndFast => "Large parts, printed fast",
            _ => "Real parts",
        };
        string Value(Suitability s) => of switch
        {
            SuitedFor.LargeAndFast => $"{Words.N(s.Value, 1)} mm³/s",
            SuitedFor.RealParts => s.Value == 1 ? "all passed" : s.Value == 0 ? "none passed" : $"{Words.N(100 * s.Value, 0)} % passed",
            _ => $"{Words.N(s.Value, 1)} of 4",
        };
        var how = on.GroupBy(x => x.Said.How).OrderBy(g => g.Key).Select(g => $"{How(of, g.Key)} on {string.Join(" and ", g.Select(x =>
            $"{x.Letter} ({Value(x.Said)})"))}");
        return $"{what}: {string.Join("; ", how)}.";
    }

    private static string How(SuitedFor of, SuitedHow how) => (of, how) switch
    {
        (SuitedFor.LargeAndFast, SuitedHow.Somewhat) => "at a usual pace",
        (SuitedFor.LargeAndFast, SuitedHow.Poorly) => "slowly",
        (SuitedFor.RealParts, SuitedHow.Somewhat) => "some",
        (_, SuitedHow.Well) => "well",
        (_, SuitedHow.Somewhat) => "with trimming",
        _ => "not as printed",
    };

    /// <summary>A temperature that was found, against the label's range.</summary>
    public static string? AgainstLabel(Span? label, double? foundC) => (label, foundC) switch
    {
        ({ Min: { } min }, { } t) when t < min => $"{Words.N(min - t, 0)} °C below the label",
        ({ Max: { } max }, { } t) when t > max => $"{Words.N(t - max, 0)} °C above the label",
        ({ } span, { }) when span.Min is not null || span.Max is not null => "within the label",
        _ => null,
    };

    /// <summary>What came of a part.</summary>
    public static string Outcome(ZonedVerdict v) => v switch
    {
        { Outcome: PartOutcome.Passed } => "passed",
        { FailedAtLayer: { } layer } => $"failed at layer {layer}",
        { Outcome: PartOutcome.NotPassed } => "short of what was asked",
        _ => "not read yet",
    };

    /// <summary>What one good part costs, between the ends of its interval; null where nobody knows, or none was good.</summary>
    public static string? Cost(Tally t)
    {
        if (t.Print.SumMinor is not { } sum || t.Printed == 0 || new Core.Costs.GoodPartCost(sum, t.Good, t.Printed) is not { EachMinor: { } each } cost)
            return null;
        var (low, high) = cost.Between!.Value;
        return FormattableString.Invariant($"{each / 100:0.00} {t.Currency} a good part ({low / 100:0.00} to {high / 100:0.00}), {t.Good} of {t.Printed} good");
    }

    /// <summary>How one drive differs from another, as far as both were tried.</summary>
    public static string? Drives(IReadOnlyList<(string Letter, Toolhead Head, double RetractionMm)> found)
    {
        var by = found.GroupBy(f => f.Head.Drive).ToDictionary(g => g.Key, g => g.Select(f => $"{Words.N(f.RetractionMm)} mm on {f.Letter}").ToList());
        if (by.Count == 0)
            return null;
        return $"Retraction: {string.Join("; ", by.Select(d => $"{(d.Key == "direct" ? "direct drive" : "long tube")} {string.Join(", ", d.Value)}"))}.";
    }

    /// <summary>A share that is hot for its liner.</summary>
    public static string? Liner(string letter, double? foundC, Toolhead head) =>
        foundC is { } t && Facts.LimitsOf(head).ContinuousMaxC is { } bears && t > bears
            ? $"{Words.N(t, 0)} °C on {letter} is above the {Words.N(bears, 0)} °C that this liner bears for hours: fumes, and the liner ages."
            : null;

    /// <summary>What is doubtful on a machine; null where nothing is.</summary>
    public static string? Doubtful(string letter, IReadOnlyList<string> labels) => labels.Count == 0
        ? null
        : $"Doubtful on {letter} since something changed: {string.Join(", ", labels.Select(l => l.ToLowerInvariant()))}.";

    /// <summary>What the family is known for, with the usual cautions.</summary>
    public static IEnumerable<string> Family(Filament f)
    {
        if (Core.Filaments.Family.Find(f.Family) is not { } family)
            yield break;
        if (family.OpenHours <= 100)
            yield return $"Takes up water: about {Words.N(family.OpenHours, 0)} h in the open at 50 %RH; dry at " +
                $"{Words.N(f.DryingC ?? family.DryingC, 0)} °C for {Words.N(f.DryingHours ?? family.DryingHours, 0)} h.";
        if (family.Shrinks == Shrinkage.Much)
            yield return "Shrinks much: a brim, no draught, warm surroundings.";
        if (family.Name is "ABS" or "ASA" or "PC")
            yield return $"Hot {family.Name} gives off fumes and fine particles, more than others: ventilate.";
    }

    /// <summary>An area that nobody measured.</summary>
    public static string NotTested(string settingKey) => SettingRegistry.Find(settingKey)?.Label is { } label ? label.ToLowerInvariant() : settingKey;
}
