using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.Release;

namespace Glenfrost.Application.Trials.Release;

/// <summary>What prints say of where they let go, in words.</summary>
internal sealed class ReleaseWords : VerdictWords<ReleaseVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(ReleaseVerdict v) => v.Refusal is { } refusal
        ? new(refusal.Message)
        : new(Sentence(v)) { Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)] };

    private static string Sentence(ReleaseVerdict v) => v.Outcome switch
    {
        ReleaseOutcome.Fitted => $"{Say.N(v.ReleaseC!.Value)} °C. 19 of 20 next parts lie free there.",
        ReleaseOutcome.Working =>
            $"{Say.N(v.ReleaseC!.Value)} °C. A working value: {Say.N(ReleaseJudging.BelowLowestC)} °C below the lowest that {Say.Plural(v.Prints, "print")} " +
                $"{(v.Prints == 1 ? "was" : "were")} seen free at.",
        ReleaseOutcome.TooNear =>
            $"{Say.N(v.ReleaseC!.Value)} °C is too near the air around the part, {Say.N(v.From.SurroundingsC)} °C: no bed gets there in any bearable time.",
        _ when v.Prints == 0 => "No print is noted yet.",
        _ => "Nobody saw a part lie free yet: held and pulled say only that it lets go colder.",
    };

    private static IEnumerable<string> Reasons(ReleaseVerdict v)
    {
        if (v.Outcome == ReleaseOutcome.Fitted)
            yield return $"{Say.Plural(v.Prints, "print")} let go about {Say.N(v.MiddleC!.Value, 0)} °C, ± {Say.N(v.SpreadC!.Value, 1)} from print to print.";
        if (v.Minutes is { } minutes && v.ReleaseC is not null)
            yield return $"From {Say.N(v.From.BedC!.Value)} °C that takes {(v.Guessed ? "at least about"
                : "about")} {Words.Minutes((int)Math.Ceiling(minutes))}" +
                (v.Guessed ? ": no cooling of this bed was logged."
                    : $" with this bed's own cooling, {Say.N(v.CoolingConstantMinutes!.Value, 0)} min to a third.");
    }

    private static IEnumerable<string> Warnings(ReleaseVerdict v)
    {
        if (v.Crossing > 0)
            yield return $"{Say.Plural(v.Crossing,
                "print")} held colder than another lay free: they differ from print to print (adhesive, first layer), or one was misread.";
        if (v.From.MeasuredAirC is null && v.ReleaseC is not null)
            yield return $"Nobody measured the air around the part: {Say.N(v.From.SurroundingsC)} °C is taken for granted.";
        if (v.Outcome == ReleaseOutcome.TooNear)
            yield return "Nothing is kept. A cooler chamber, another surface or a release layer would let it go warmer.";
    }

    private static string? Next(ReleaseVerdict v) => v.Next?.Kind == "measure-more"
        ? v.LowestFreeC is null ? "Let the next one cool until it lies free, and note the bed."
            : $"Note {Say.Plural(ReleaseJudging.LeastFitted - v.Prints, "more print", "more prints")}: five are fitted."
        : null;

    private static IEnumerable<string> Arithmetic(ReleaseVerdict v)
    {
        foreach (var (p, i) in v.From.Prints.Select((p, i) => (p, i)).Where(x => x.p.FreeAtC is not null || x.p.Held is not null))
            yield return $"print {i + 1}: {(p.Held is { } held ? $"held at {Say.N(held)} °C, lets go colder; " : "")}" +
                (p.FreeAtC is { } free ? $"free at {Say.N(free)} °C, let go there or warmer" : "not seen free");
        if (v.Outcome == ReleaseOutcome.Working)
            yield return $"lowest seen free {Say.N(v.LowestFreeC!.Value)} °C less {Say.N(ReleaseJudging.BelowLowestC)} °C";
        if (v.Outcome == ReleaseOutcome.Fitted)
            yield return $"bounds fitted with the family's prior: middle {Say.N(v.MiddleC!.Value, 1)} °C, spread {Say.N(v.SpreadC!.Value,
                1)} °C; 95 % of the next lie free at " +
                $"{Say.N(v.ReleaseC!.Value)} °C";
        if (v.Minutes is { } m)
            yield return $"minutes = {Say.N(v.CoolingConstantMinutes!.Value,
                1)} × ln(({Say.N(v.From.BedC!.Value)} − {Say.N(v.From.SurroundingsC)}) ÷ ({Say.N(v.ReleaseC!.Value)} − " +
                $"{Say.N(v.From.SurroundingsC)})) = {Say.N(m)}{(v.Guessed ? ", the constant is a guess" : "")}";
        if (v.Prints == 0)
            yield return "no print is noted yet";
    }
}
