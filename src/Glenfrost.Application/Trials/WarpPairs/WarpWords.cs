using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.WarpPairs;

namespace Glenfrost.Application.Trials.WarpPairs;

/// <summary>What pairs of plates say, in words.</summary>
internal sealed class WarpWords : VerdictWords<WarpVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(WarpVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static string The(WarpVerdict v) => v.From.Difference switch
    {
        "draught-shield" => "the draught shield",
        "brim" => "the brim",
        "fan" => "the other fan",
        "room" => "the warmer room",
        "ramp" => "cooling in steps",
        "removal" => "taking it off warm",
        "chamber" => "the warmer chamber",
        _ => "the enclosure",
    };

    private static string At(string? moment) => moment switch
    {
        "during" => "while it prints",
        "cooled" => "cooled on the plate",
        "next-day" => "on the next day",
        _ => "taken off",
    };

    private static string Sentence(WarpVerdict v) => v.Outcome switch
    {
        WarpOutcome.Separable =>
            $"{Say.Signed(v.EffectMm!.Value, 2)} mm ({Say.Signed(v.Low!.Value, 2)} to {Say.Signed(v.High!.Value, 2)}). {Capital(The(v))} " +
                $"{(v.EffectMm < 0 ? "keeps corners down" : "lifts corners")}, {At(v.Moment)}, in {Say.Plural(v.Pairs, "pair")}.",
        WarpOutcome.Noise =>
            $"{Say.Signed(v.EffectMm!.Value, 2)} mm ({Say.Signed(v.Low!.Value, 2)} to {Say.Signed(v.High!.Value, 2)}): {The(v)} is not shown to matter in " +
                $"{Say.Plural(v.Pairs, "pair")}.",
        WarpOutcome.NotAttributed => $"Not to be laid to {The(v)}: {Say.List([.. Besides(v)])}.",
        _ when v.From.Parts.Count == 0 => "Nothing is measured yet.",
        _ when v.Pairs == 1 => $"{Say.Signed(v.EffectMm!.Value, 2)} mm in one pair: {The(v)} is what differs, and one pair shows no effect yet.",
        _ => "One plate alone says nothing: print the other one of the pair.",
    };

    private static IEnumerable<string> Besides(WarpVerdict v) =>
        v.LeftOut.GroupBy(o => (o.What, Warmer: o.DifferenceC is { } c ? c > 0 : (bool?)null)).Select(g => g.Key.Warmer is { } warmer
            ? $"the {g.Key.What} was {Say.N(g.Average(o => Math.Abs(o.DifferenceC!.Value)), 1)} °C {(warmer ? "warmer" : "colder")} with it in pair " +
                Say.List([.. g.Select(o => $"{o.Pair}")])
            : $"nobody knows the {g.Key.What} of pair {Say.List([.. g.Select(o => $"{o.Pair}")])}");

    private static IEnumerable<string> Reasons(WarpVerdict v)
    {
        if (v.Outcome == WarpOutcome.Insufficient)
            yield break;
        if (v.Outcome == WarpOutcome.NotAttributed)
            yield return $"{Say.Signed(v.EffectMm!.Value, 2)} mm ({Say.Signed(v.Low!.Value, 2)} to {Say.Signed(v.High!.Value,
                2)}) is what all of that does together.";
        if (v.Moments.FirstOrDefault(m => m.Moment == v.Moment) is { WithoutMm: { } without, WithMm: { } with })
            yield return $"Corners lift {Say.N(without)} mm without and {Say.N(with)} mm with it.";
        yield return v.When switch
        {
            WarpWhen.Release => "Most of the lift came as it was taken off, or later: it was let go too warm.",
            WarpWhen.Cooling => "Most of the lift came while it cooled on the plate: cool it slower, in warmer air.",
            WarpWhen.During => "Most of the lift came while it printed: grip, brim and warm air help, a slower cool-down does not.",
            WarpWhen.Spread => "The lift came a part at each moment: warm, still air helps from the first layer on.",
            _ => "When the lift came is not told: measure while it prints, cooled and taken off.",
        };
        if (v.P is { } p && v.PFloor is { } floor)
            yield return $"{Say.Plural(v.Pairs, "pair")}: luck alone turns out so 1 time in {Say.N(Math.Round(1 / p))}, and could never say less than 1 in " +
                $"{Say.N(Math.Round(1 / floor))}.";
        if (v.RoomDifferenceC is { } room && v.Outcome != WarpOutcome.NotAttributed)
            yield return $"Room: {Say.Signed(room, 1)} °C with it" + (v.ChamberDifferenceC is { } chamber ? $", chamber {Say.Signed(chamber, 1)} °C." : ".");
    }

    private static IEnumerable<string> Warnings(WarpVerdict v)
    {
        if (v.Outcome is WarpOutcome.Insufficient or WarpOutcome.NotAttributed)
            yield break;
        if (v.LeftOut.Count > 0)
            yield return $"Left out: {Say.List([.. Besides(v)])}.";
        if (v.RoomDifferenceC is null)
            yield return "Nobody measured the room: a cold night lifts corners as well.";
        if (v.Pairs < 4 && v.Outcome == WarpOutcome.Separable)
            yield return "The interval leans on pairs that scatter evenly: so few of them can't show that. Six pairs would say it by themselves.";
    }

    private static string? Next(WarpVerdict v) => v.Next?.Kind switch
    {
        "measure-more" => $"Print the next plate: {(v.Next.Words?["arm"] == WarpJudging.With ? "with it" : "without it")}{Cost(v)}.",
        "more-pairs" => v.NeededPairs is { } n
            ? $"{n} pairs would show {Say.N(v.From.SmallestUsefulMm)} mm{Cost(v)}."
            : $"More than {WarpJudging.MostPairs} pairs would be needed for {Say.N(v.From.SmallestUsefulMm)} mm: it is not worth it.",
        "same-surroundings" => "Print a pair within a day, in the same room, and note room and chamber at start and end of both.",
        "cool-slower" => "Cool it down in steps before you warm the box: the bed let go too hot.",
        _ => null,
    };

    private static string Cost(WarpVerdict v) => v.Next is { Minutes: > 0 and var m } next
        ? $", {(next.Grams is { } g ? $"{Say.N(g, 0)} g and " : "")}{Words.Minutes(m)}" : "";

    private static IEnumerable<string> Arithmetic(WarpVerdict v)
    {
        foreach (var p in v.From.Parts)
        {
            var said = WarpPlaces.Moments.Select(m => (m, Mm: p.CornersAt(m))).Where(x => x.Mm is not null).Select(x => $"{x.m} {Say.N(x.Mm!.Value)}");
            yield return $"pair {p.Pair}, {p.Arm}: mean of its corners, mm: {string.Join(", ", said)}" +
                (p.Room is { } room ? $"; room {Say.N(room, 1)} °C" : "; room not known") + (p.Chamber is { } chamber ? $", chamber {Say.N(chamber, 1)} °C"
                    : "");
        }

        foreach (var m in v.Moments.Where(m => m.EffectMm is not null))
            yield return $"{m.Moment}: {Say.Plural(m.Pairs, "pair")}, with less without {Say.Signed(m.EffectMm!.Value, 2)} mm" +
                (m.Low is { } low ? $" ({Say.Signed(low, 2)} to {Say.Signed(m.High!.Value, 2)}), paired t" : "");
        if (v.SpreadMm is { } spread)
            yield return $"spread of the pairs' differences {Say.N(spread, 3)} mm" +
                (v.From.EarlierSpreadMm is not null ? ", pooled with earlier equal parts" : "") + $"; exact test p = {Say.N(v.P!.Value, 4)}, at best " +
                Say.N(v.PFloor!.Value, 4);
        if (v.From.Parts.Count == 0)
            yield return "nothing is measured yet";
    }

    private static string Capital(string text) => $"{char.ToUpperInvariant(text[0])}{text[1..]}";
}
