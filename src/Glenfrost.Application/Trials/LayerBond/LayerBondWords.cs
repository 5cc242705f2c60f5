using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.LayerBond;

namespace Glenfrost.Application.Trials.LayerBond;

/// <summary>What broken pegs say, in words.</summary>
internal sealed class LayerBondWords : VerdictWords<BondVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(BondVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static string Sentence(BondVerdict v) => v.Outcome switch
    {
        BondOutcome.RigKnown => $"{Say.N(v.ScatterPercent!.Value, 1)} % scatter. This rig shows a planned pair of four pegs each from " +
            $"{Say.N(v.DetectablePercent!.Value, 0)} % on.",
        BondOutcome.Insufficient when v.LeftToBreak > 0 => $"{Say.Plural(v.LeftToBreak, "peg")} left to break: nothing is told before the last one.",
        BondOutcome.Insufficient => v.RankOdds is { } odds
            ? $"{Capital(Luck(odds.P))}: too few pegs for a verdict by hand."
            : v.Groups.Sum(g => g.N) == 0 ? "No peg is broken yet."
            : v.Groups.Any(g => g.N < BondJudging.LeastPieces)
                ? $"Not to be told yet: three pegs of each group are the least, {Say.List([.. v.Groups.Where(g => g.N < 3).Select(g =>
                    $"{g.Label} has {g.N}")])}."
                : "Not to be told yet: pegs are left to break.",
        _ when v.RankOdds is { } odds => v.Outcome == BondOutcome.Noise
            ? $"Nothing is told apart by hand: {Luck(odds.P)}."
            : $"{v.Strongest} was hardest to break. {Capital(Luck(odds.P))}.",
        BondOutcome.Separable => $"{Strong(v)}; {Say.List(v.Weaker)} {(v.Weaker.Count == 1 ? "is" : "are")} weaker.",
        BondOutcome.Trend => v.TrendPercentPer10C is { } t
            ? $"Hotter holds {(t.Value > 0 ? "more" : "less")}: {Trend(t)}. No two groups are told apart by themselves."
            : $"{Capital(EffectSays(v.Effects.First(e => e.Shown), v))}. No two groups are told apart by themselves.",
        _ => $"Nothing is told apart: {v.Groups.Count} groups, the strongest seen is {v.Strongest}.",
    };

    /// <summary>The groups that may be the strongest: from a temperature up where they are the hottest, else by name.</summary>
    private static string Strong(BondVerdict v)
    {
        if (v.NotRuledOut.Count == 1)
            return $"{v.NotRuledOut[0]} is the strongest";
        var open = v.Groups.Where(g => v.NotRuledOut.Contains(g.Label)).ToList();
        var hottest = v.Groups.All(g => g.TemperatureC is not null && g.FanPercent == v.Groups[0].FanPercent) && open.Min(g => g.TemperatureC) is { } from
            && v.Groups.Where(g => g.TemperatureC >= from).All(open.Contains) ? from : (double?)null;
        return hottest is { } c ? $"From {Say.N(c)} °C up nothing is told apart" : $"{Say.List(v.NotRuledOut)} are not told apart";
    }

    private static IEnumerable<string> Reasons(BondVerdict v)
    {
        if (v.Outcome == BondOutcome.RigKnown)
        {
            foreach (var e in v.Effects)
            {
                var what = e.Factor == "pulling-speed" ? "Pulled briskly" : "Seated by eye";
                yield return $"{what} it reads {Say.Signed(e.Percent)} % ({Say.Signed(e.Low, 0)} to {Say.Signed(e.High, 0)})" +
                    (e.Shown ? ": keep to one way." : ": not shown to matter.");
            }

            if (v.NeededPieces is { } n)
                yield return $"{Say.N(v.From.SmallestUsefulPercent)} % takes {n} pegs of each.";
            yield break;
        }

        if (v.Outcome == BondOutcome.Insufficient || v.RankOdds is not null)
        {
            if (v.RankOdds is { } odds)
                yield return $"Luck alone: {Say.N(100 * odds.P, odds.P < 0.1 ? 1 : 0)} of 100 orders say as much or more"
                    + (odds.Exact ? "." : ", drawn 200,000 times.");
            yield break;
        }

        if (v.Effects is [var fan, var temperature])
        {
            yield return $"{Capital(EffectSays(fan, v))}.";
            yield return $"{Capital(EffectSays(temperature, v))}.";
            if (v.EffectsMeet)
                yield return "The two depend on each other: read the pairs, not the averages.";
        }

        if (v.TrendPercentPer10C is { } t && v.Outcome != BondOutcome.Trend)
            yield return $"{Trend(t)}.";
        if (v.DropAboveC is { } drop)
            yield return $"Above {Say.N(drop)} °C it is shown to hold less again.";
        yield return $"Scatter {Say.N(v.ScatterPercent!.Value, 1)} %.";
        if (v.DetectableOfAllPercent is { } any && v.Outcome != BondOutcome.Separable)
            yield return $"So many pegs show a planned pair from {Say.N(v.DetectablePercent!.Value, 0)} % on, any group against the best from {Say.N(any,
                0)} %.";
        if (v.Own is { } own)
            yield return v.Weaker.Contains(own) ? $"The profile's own, {own}, is shown weaker than the strongest."
                : $"The profile's own, {own}, is not shown weaker.";
    }

    private static string Trend(BondPercent t) =>
        $"{Say.Signed(t.Value, 0)} % per 10 °C ({Say.N(t.Low, 0)} to {Say.N(t.High, 0)})";

    private static string EffectSays(BondEffect e, BondVerdict v)
    {
        var unit = e.Factor == "fan" ? "% fan" : "°C";
        var size = e.Percent >= 100 ? $"{Say.N(1 + e.Percent / 100, 1)} times as strong" : $"{Say.N(e.Percent, 0)} % stronger";
        return e.Shown ? $"{size} at {Say.N(e.To)} {unit} than at {Say.N(e.From)} ({Say.N(e.Low, 0)} to {Say.N(e.High, 0)} %)"
            : $"{(e.Factor == "fan" ? "the fan" : "the temperature")} is not shown to matter ({Say.N(e.Low, 0)} to {Say.N(e.High, 0)} %)";
    }

    private static IEnumerable<string> Warnings(BondVerdict v)
    {
        var (pieces, bounds) = (v.Groups.Sum(g => g.N), v.Groups.Sum(g => g.Censored));
        if (v.Groups.Any(g => g.GeometricMean is not null) && bounds > 0)
        {
            yield return bounds > BondJudging.ManyBounds * pieces
                ? $"{bounds} of {Say.Plural(pieces,
                    "peg")} gave way in the clamp or not at all: they count as \"held at least this\", and the rig wants mending first."
                : $"{bounds} of {Say.Plural(pieces, "peg")} gave way in the clamp or not at all: counted as \"held at least this\", neither zero nor left out.";
        }

        if (v.From.BreaksNotSaid > 0)
            yield return $"Of {Say.Plural(v.From.BreaksNotSaid, "peg")} nobody said where it broke: a parted layer is taken for granted.";
        foreach (var g in v.Groups.Where(g => g.GeometricMean is null && g.N > 0 && g.Low > 0))
            yield return $"{g.Label}: no layer parted. It held at least {Say.N(g.Low, 1)} {v.From.Unit}, and is not ruled out.";
        if (v.Plates == 1 && v.Outcome is not (BondOutcome.Insufficient or BondOutcome.RigKnown) && v.RankOdds is null)
            yield return "One plate is one print: pegs beside each other share its luck, which this scatter does not have in it.";
        if (v.Plates == 0 && v.Groups.Any(g => g.GeometricMean is not null))
            yield return "Nobody said which plate the pegs are of: two plates or more are taken for granted.";
        if (v is { RankOdds: not null, Outcome: BondOutcome.Trend or BondOutcome.Separable })
            yield return "By hand it says which holds more, not by how much.";
    }

    private static string? Next(BondVerdict v) => v.Next?.Kind switch
    {
        "measure-more" when v.From.RigCheck => "Break the rest; six equal pegs are the least that say what the rig scatters.",
        "measure-more" => "Break the rest in the order of the sheet, and say of each where it broke.",
        "mend-rig" => "Mend the clamps, then check the rig with eight equal pegs.",
        "second-plate" => $"Print the next plate of it, in its own order{Cost(v)}.",
        "fan-first" => "Turn the fan down before you go hotter: go through the fan at the cooler temperature.",
        "more-pieces" when v.RankOdds is not null => "Rank more pegs of each together, off one plate, or borrow a rig: ranks of two plates are not one order.",
        "more-pieces" => v.NeededPieces is { } n
            ? $"{n} pegs of each would show {Say.N(v.From.SmallestUsefulPercent)} %{Cost(v)}. Where {Say.N(v.DetectablePercent!.Value,
                0)} % are not worth that, use what " +
                "looks best."
            : $"More than {BondPower.MostPieces} pegs of each would be needed for {Say.N(v.From.SmallestUsefulPercent)} %: use what looks best.",
        _ => null,
    };

    private static string Cost(BondVerdict v) => v.Next is { Minutes: > 0 and var m } next
        ? $", {(next.Grams is { } g ? $"{Say.N(g, 0)} g and " : "")}{Words.Minutes(m)}" : "";

    private static IEnumerable<string> Arithmetic(BondVerdict v)
    {
        foreach (var g in v.Groups)
        {
            yield return g.GeometricMean is { } mean
                ? $"{g.Label}: {Say.Plural(g.N, "peg")}{(g.Censored > 0 ? $", {g.Censored} held at least" : "")}; geometric mean {Say.N(mean,
                    2)} {v.From.Unit} " +
                    $"({Say.N(g.Low, 2)} to {Say.N(g.High!.Value, 2)}){(g.MPa is { } mPa ? $", {Say.N(mPa, 1)} MPa" : "")}"
                : $"{g.Label}: {Say.Plural(g.N, "peg")}{(g.Low > 0 ? $", at least {Say.N(g.Low, 2)} {v.From.Unit} (one-sided 95 %)" : "")}";
        }

        if (v.ScatterPercent is { } s)
            yield return $"scatter of log force, one for all groups{(v.Plates > 1 ? $", {v.Plates} plates as blocks" : "")}: {Say.N(s, 2)} %, " +
                $"{Say.N(v.DegreesOfFreedom!.Value, 1)} degrees of freedom" +
                (v.From is { RigScatterPercent: { } rig, RigCheck: false } ? $", the rig's {Say.N(rig, 1)} % with {Say.N(v.From.RigFreedom)} of them in it"
                    : "");
        foreach (var c in v.Contrasts.Take(28))
            yield return $"{c.To} ÷ {c.From}: {Say.Signed(c.Percent)} % ({Say.Signed(c.Low)} to {Say.Signed(c.High)})";
        if (v.Strongest is not null && v.RankOdds is null && v.Groups.Count > 1)
            yield return "weaker is what lies further below the strongest seen than the range of as many equal groups goes in 95 of 100 runs " +
                "(studentised range)";
        if (v.RankOdds is { } odds)
            yield return $"permutations of the ranks: p = {Say.N(odds.P, 4)}, at best {Say.N(odds.Floor, 4)}{(odds.Exact ? ", all of them counted" : "")}";
        if (v.NeededPieces is { } n)
            yield return $"{n} pegs of each show {Say.N(v.From.SmallestUsefulPercent)} % of a planned pair in 80 of 100 runs";
    }

    private static string Luck(double p) => p >= 0.5 ? "luck alone does this more often than not"
        : $"luck alone does this 1 time in {Say.N(Math.Round(1 / p))}";

    private static string Capital(string text) => $"{char.ToUpperInvariant(text[0])}{text[1..]}";
}
