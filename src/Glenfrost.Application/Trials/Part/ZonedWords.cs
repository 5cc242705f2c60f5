using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Application.Trials.Part;

/// <summary>What is said alike of every piece that is looked at zone by zone.</summary>
internal static class ZonedWords
{
    /// <summary>What came of the zones, in a sentence.</summary>
    public static string Sentence(ZonedVerdict v)
    {
        var zones = v.From.Zones;
        var asked = Say.N(v.From.TargetScore, 1);
        return v.Outcome switch
        {
            PartOutcome.Passed when zones.Count == 1 => $"Passed: {Say.N(zones[0].Score!.Value, 1)} where {asked} was asked.",
            PartOutcome.Passed => $"Passed: each of {zones.Count} zones reaches {asked}, the least {Say.N(zones.Min(z => z.Score!.Value), 1)}.",
            PartOutcome.NotPassed when v.FailedAtLayer is { } layer => $"Not passed: it failed at layer {layer}{In(v, layer)}.",
            PartOutcome.NotPassed => $"Not passed: {Say.List(v.Short.Select(i => Short(zones[i])))}, where {asked} was asked.",
            _ when v.Unread.Count == zones.Count => "Nothing is read yet.",
            _ when v.Unread.Count > 0 => $"Not to be told yet: {Say.List(v.Unread.Select(i => zones[i].Label))} " +
                $"{(v.Unread.Count == 1 ? "is" : "are")} not read.",
            _ => "Not to be told: what was lost says nothing, and the rest reaches what was asked.",
        };
    }

    private static string In(ZonedVerdict v, int layer) =>
        v.From.Zones.Count > 1 && v.From.Zones.FirstOrDefault(z => z.FailedAtLayer == layer) is { Label.Length: > 0 } zone ? $", in {zone.Label}" : "";

    private static string Short(PartZone z) => z.State == SectionState.Failed ? $"{z.Label} failed" : $"{z.Label} has {Say.N(z.Score ?? 0, 1)}";

    /// <summary>What was seen, and what reached what was asked all the same.</summary>
    public static IEnumerable<string> Reasons(ZonedVerdict v)
    {
        if (v.Defects.Count > 0)
            yield return $"Seen: {Say.List(v.Defects)}.";
        if (v is { Outcome: PartOutcome.NotPassed, FailedAtLayer: not null }
            && v.Short.Where(i => v.From.Zones[i].FailedAtLayer is null).Select(i => Short(v.From.Zones[i])).ToList() is { Count: > 0 } also)
            yield return $"Short too: {Say.List(also)}.";
        if (v.Outcome == PartOutcome.NotPassed && v.Short.Count > 0 && v.Short.Count < v.From.Zones.Count
            && v.From.Zones.Count(z => z.Score >= v.From.TargetScore) is > 0 and var good)
            yield return $"{Say.Plural(good, "zone reaches", "zones reach")} what was asked.";
    }

    /// <summary>What lies close to what was asked, and what nobody ticked.</summary>
    public static IEnumerable<string> Warnings(ZonedVerdict v)
    {
        if (v.Close.Count > 0 && v.Outcome != PartOutcome.Insufficient)
            yield return $"{Say.List(v.Close.Select(i => v.From.Zones[i].Label)).AtHead()} " +
                $"{(v.Close.Count == 1 ? "lies" : "lie")} within one score's scatter " +
                $"({Say.N(v.From.ScoreNoise, 1)}) of what was asked: another look may say otherwise.";
        if (v.Outcome == PartOutcome.NotPassed && v.Short.Count > 0 && v.Defects.Count == 0)
            yield return "Nothing was ticked as seen: without that nothing is suspected.";
    }

    /// <summary>Zone by zone.</summary>
    public static IEnumerable<string> Arithmetic(ZonedVerdict v)
    {
        yield return $"asked of each zone: {Say.N(v.From.TargetScore, 2)}";
        foreach (var z in v.From.Zones)
            yield return $"{z.Label}: " + (z.FailedAtLayer is { } layer ? $"failed at layer {layer}, not passed whatever its score"
                : z.State == SectionState.Failed ? "failed, not passed whatever its score"
                : z.State == SectionState.Lost ? "lost, says nothing"
                : z.Score is { } s ? $"{Say.N(s, 2)}, {(s < v.From.TargetScore - 1e-9 ? "less than asked" : "reached")}"
                : "not read");
    }
}
