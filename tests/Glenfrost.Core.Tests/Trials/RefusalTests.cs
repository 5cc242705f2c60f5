using System.Text.RegularExpressions;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>What a plan is refused with: at a field that is asked, in one plain sentence, and what it offers is accepted there.</summary>
public partial class RefusalTests
{
    public static TheoryData<string> Kinds => [.. TrialCatalogue.All.Select(t => t.Kind)];

    private static PlanContext Context(Machine m, Trial trial)
    {
        var family = Family.Find(trial.Suits("PLA") ? "PLA" : trial.Suits("TPU") ? "TPU" : "foaming PLA")!;
        return new()
        {
            Memory = TestMemory.Shared, Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, family), Family = family,
            AdvisedC = family.NozzleC, StepsPerMm = 93, Subject = "any",
        };
    }

    /// <summary>Every field of every mode at the ends of its own range and between, the others as they are proposed.</summary>
    private static IEnumerable<(Machine M, PlanContext C, PlanValues Values, string Field)> Tried(Trial trial)
    {
        foreach (var m in new[] { Machines.Dunnock, Machines.Ptarmigan })
        {
            var c = Context(m, trial);
            foreach (var mode in trial.Modes)
            {
                var usual = trial.InMode(mode, trial.Propose(c), c);
                foreach (var name in trial.Asked(mode).Where(f => trial.Fields[f].Quantity is not null))
                {
                    var q = trial.Fields[name].Quantity!;
                    foreach (var share in new[] { 0m, 0.03m, 0.2m, 0.5m, 0.8m, 1m })
                    {
                        var v = Math.Round(q.Min + share * (q.Max - q.Min), 3);
                        yield return (m, c, usual.With(new Dictionary<string, decimal> { [name] = q.WholeNumber ? Math.Round(v) : v }), name);
                    }
                }
            }
        }
    }

    /// <summary>What the page leaves empty and asks for is no number of ours in a request either.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void What_only_the_tester_can_say_is_asked_for_in_a_request_as_on_the_page(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var c = Context(Machines.Ptarmigan, trial);
        foreach (var mode in trial.Modes)
        {
            var usual = trial.InMode(mode, trial.Propose(c), c);
            var missing = trial.Asked(mode).Where(f => trial.Fields[f].Quantity is not null && trial.IsNeeded(f, mode) && usual.Number(f) is null).ToList();
            var json = new JsonFields(System.Text.Json.JsonDocument.Parse(mode.Length == 0 ? "{}" : $$"""{"mode":"{{mode}}"}""").RootElement);
            var (plan, errors) = trial.PlanFrom(json, c);
            var refused = json.Errors.Keys.Concat(errors.Select(e => e.Field)).ToHashSet();
            Assert.True(plan is null || missing.Count == 0, $"{kind} {mode} was planned without {string.Join(", ", missing)}");
            if (kind != "temperature-tower")
                Assert.Empty(missing.Except(refused));
        }
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_refusal_stands_at_a_field_that_is_asked_and_says_one_plain_thing(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var said = new HashSet<string>();
        foreach (var (_, c, values, field) in Tried(trial))
        {
            foreach (var e in trial.Plan(values, c).Errors)
            {
                said.Add(e.Message);
                foreach (Match m in Right().Matches(e.Message))
                {
                    // A number that a sentence calls right passes at its own field.
                    if (trial.Fields.GetValueOrDefault(e.Field)?.Quantity is { } q && q.Parse(m.Groups[1].Value.Replace("−", "-")).Error is { } no)
                        Assert.Fail($"{e.Field}: {e.Message} But: {no}");
                }

                Assert.True(
                    trial.Fields.ContainsKey(e.Field) || e.Field is "startCode" or "endCode" or "lineWidthMm" or "bedTemperatureC",
                    $"{field}: {e.Field} is not asked: {e.Message}");
            }
        }

        foreach (var text in said)
        {
            Assert.Matches(@"^[\p{Lu}\d−±""].*\.$", text);
            Assert.DoesNotMatch(Odd(), text);
        }
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void What_a_refusal_offers_is_accepted_at_its_field(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var wrong = new SortedSet<string>();
        foreach (var (m, c, values, field) in Tried(trial))
        {
            foreach (var e in trial.Plan(values, c).Errors)
            {
                foreach (var offer in e.Offers)
                {
                    foreach (var (name, value) in offer.Changes.Where(x => trial.Fields.TryGetValue(x.Key, out var f) && f.Quantity is not null))
                    {
                        if (trial.Fields[name].Quantity!.Check(value).Error is { } refused)
                            wrong.Add($"{m.Name}, {field} {values.Number(field)}: {e.Message} offers {offer.Label}: {refused}");
                    }

                    var changed = values.With(null);
                    foreach (var (name, value) in offer.Changes)
                        changed[name] = trial.Fields.GetValueOrDefault(name) is { IsTick: true } ? value != 0 : value;
                    if (trial.Plan(changed, c).Errors.FirstOrDefault(x => x.Field == e.Field) is { } again)
                        wrong.Add($"{m.Name}, {field} {values.Number(field)}: {e.Message} offers {offer.Label}: {again.Message}");
                }
            }
        }

        Assert.True(wrong.Count == 0, string.Join(Environment.NewLine, wrong.Take(20)));
    }

    [GeneratedRegex(@"(?:^|[.:] )(−?-?[\d.]+) ?(?:mm|°C|%|mm/s|mm³/s)? (?:would be right|would fit)")]
    private static partial Regex Right();

    // Two blanks, a unit or a word twice, a number that is none, a sign before nothing.
    [GeneratedRegex(@"  |\b(mm|°C|%|mm/s|would be right) \1\b|NaN|∞|Infinity|\.\.|,,|\{|\}|  | −0\b")]
    private static partial Regex Odd();
}
