using Glenfrost.Core.Profiles;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What a run's page says of where it stands, beside the words of its verdict.</summary>
public static class RunWords
{
    /// <summary>A decision's value in words.</summary>
    public static string Shown(Decision d) =>
        d.SettingKey is null or "nozzleTemperatureC" ? $"{Words.N(d.Value)} °C" : MachineBook.InWords(d.SettingKey, d.Value ?? 0);

    /// <summary>A proposed value in words, with the others that go with it.</summary>
    public static string Shown(SettingValue x) => x.Key == "nozzleTemperatureC" ? $"{Words.N(x.Value)} °C" : MachineBook.InWords(x.Key, x.Value, x.Uncertainty);

    /// <summary>The uncertainty of a proposed value with the digits of that value, beginning with ±; empty for none.</summary>
    public static string Half(SettingValue x) =>
        SettingRegistry.Find(x.Key) is { } d ? d.HalfText(x.Uncertainty) is { Length: > 0 } half ? $" ± {half}" : ""
        : x.Uncertainty > 0 ? $" ± {Words.N(x.Uncertainty, 3)}" : "";

    /// <summary>The verdict so far in a line, with what is still to be read.</summary>
    public static string SoFar(TrialRunView v)
    {
        var left = v.Empty.GroupBy(e => e.Aspect)
            .Select(g => $"{g.Count()} for {(v.Grid.Column(g.Key) is { } c
                ? c.Kind == CellKind.Number ? Words.Lower(c.Lead ?? c.Quantity!.Name) : c.Lead ?? g.Key : g.Key)}").ToList();
        // Where numbers are read beside scores, all of it is read.
        var scored = v.Grid.Columns.Where(c => c.Kind != CellKind.Word && c.Wanted).All(c => c.Kind == CellKind.Score);
        return $"{v.Verdict.Sentence} " +
            (left.Count > 0 ? $"Still to {(scored ? "score" : "read")}: {string.Join(", ", left)}." : $"All is {(scored ? "scored" : "read")}.");
    }

    /// <summary>Spool, room and what else was noted, in a line; what is unknown and asked for is said.</summary>
    /// <param name="v">The run.</param>
    /// <param name="asked">Factors that are asked for it.</param>
    public static string Conditions(TrialRunView v, IReadOnlyList<string> asked)
    {
        var shown = asked
            .Where(k => k is not (FactorRegistry.Surface or FactorRegistry.Enclosure or FactorRegistry.Place)
                && v.Factors[k] is { Applies: true } x && (x.Number is not null || x.Text is { Length: > 0 }))
            .Select(k => $"{FactorRegistry.Find(k)!.Label} {FactorWords.Value(FactorRegistry.Find(k)!, v.Factors[k])}").ToList();
        var missing = asked
            .Where(k => v.Factors[k] is null && k is not (FactorRegistry.RoomEndC or FactorRegistry.ChamberEndC or FactorRegistry.HumidityPercent))
            .Select(k => FactorRegistry.Find(k)!.Label).ToList();
        return $"{(shown.Count == 0 ? "conditions not noted yet" : string.Join(" · ", shown))}" +
            $"{(missing.Count > 0 && shown.Count > 0 ? $" · not noted: {string.Join(", ", missing)}" : "")}";
    }

    /// <summary>What a decision was, in a line, with what today's rules say where they say otherwise.</summary>
    /// <param name="v">The run.</param>
    /// <param name="decision">What was decided; null for nothing yet.</param>
    /// <param name="main">The setting that the verdict proposes first.</param>
    public static string Decided(TrialRunView v, Decision? decision, SettingValue? main) => decision switch
    {
        // What it says stands once, large, right below.
        null => v.Trial.Decides(v.Plan) ? "not decided yet" : "",
        { Choice: "left" } d => $"left without keeping, {Words.ShortDay(d.At)}",
        { Choice: DecisionChoices.Passed or DecisionChoices.Failed } d =>
            $"{Said(v, d.Choice == DecisionChoices.Passed)}, {Words.ShortDay(d.At)}",
        { } d =>
            $"kept {Shown(d)}{(d.Choice == "own choice" ? " as own choice" : "")}, {Words.ShortDay(d.At)}" +
                (main is { } m && d.Choice == "kept" && d.SettingKey == m.Key && m.Value != d.Value ? $"; today's rules say {Words.N(m.Value, 3)}" : ""),
    };

    /// <summary>What a run says of an area without a setting: a check is set beside another one, a piece passes by itself.</summary>
    public static string Said(TrialRunView v, bool passed) => passed ? "passed" : v.Verdict is ZonedVerdict ? "not passed" : "shown worse";

    /// <summary>What keeping a finding makes of the evidence, said before; empty for none.</summary>
    /// <param name="v">The run.</param>
    /// <param name="finding">What it says of an area; null for nothing.</param>
    /// <param name="shown">Settings of the areas that it shows, and what becomes of each.</param>
    public static string WouldBe(TrialRunView v, AreaFinding? finding, IReadOnlyList<ShownSetting> shown) => finding switch
    {
        null => "",
        { Passed: true, Shows.Count: > 0 } f => $"{AgeingRules.Area(f.Area).Label}: passed. {Becomes(shown)}",
        { Passed: true } f => $"{AgeingRules.Area(f.Area).Label}: passed{(f.OfSpool && v.Factors[FactorRegistry.Spool]?.Text is { } name ?
            $". What was kept holds for spool {name}, and its runs are taken together with earlier ones." : ".")}",
        { Doubts.Count: 0 } f => $"{AgeingRules.Area(f.Area).Label}: not passed. Nothing becomes doubtful by itself: what to suspect stands below.",
        { } f => $"Doubtful with it: {string.Join(" and ", f.Doubts.Select(a => AgeingRules.Area(a).Label))}.",
    };

    /// <summary>What a piece that passed makes of the settings that it shows.</summary>
    private static string Becomes(IReadOnlyList<ShownSetting> shown)
    {
        var confirmed = shown.Where(s => s.Why == NotConfirmed.No).Select(s => $"{SettingRegistry.Get(s.Setting.Key).Label} {Words.Value(s.Setting)}").ToList();
        var left = shown.Where(s => s.Why != NotConfirmed.No).Select(Stays).ToList();
        return (confirmed.Count > 0 ? $"Confirmed with it: {Say.List(confirmed)}." : "What it shows rests on nothing that it could confirm.")
            + (left.Count > 0 ? $" {string.Join(" ", left)}" : "");
    }

    private static string Stays(ShownSetting s)
    {
        var label = SettingRegistry.Get(s.Setting.Key).Label;
        return s.Why switch
        {
            NotConfirmed.Doubtful => $"{label} stays doubtful{(s.Setting.StateWhy is { } why ? $" ({why})" : "")}.",
            NotConfirmed.OtherValue => $"{label} stays as it is: the piece was printed with {Words.Value(s.Setting.Key, s.PrintedWith!.Value)}.",
            NotConfirmed.NotRecorded => $"{label} stays as it is: nobody knows what the piece was printed with.",
            _ => $"{label} stays as it is: it is known to {s.Setting.HalfText} only, and the piece passes on either side of it.",
        };
    }
}
