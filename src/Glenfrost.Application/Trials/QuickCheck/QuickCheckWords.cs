using Glenfrost.Core.Settings;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.QuickCheck;

namespace Glenfrost.Application.Trials.QuickCheck;

/// <summary>What a quick check says, in words.</summary>
internal sealed class QuickCheckWords : VerdictWords<QuickCheckVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(QuickCheckVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        return new(Sentence(v))
        {
            Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Next = Next(v), Arithmetic = [.. Arithmetic(v)],
        };
    }

    private static string Sentence(QuickCheckVerdict v) => v.Outcome switch
    {
        QuickCheckOutcome.Passed => $"Passed. {Capital(WallSays(v))}, {StringsSay(v)}: neither is shown worse than the kept run's.",
        QuickCheckOutcome.Differs => $"Differs. {Capital(Say.List(Differing(v)))}: {Areas(v)} {(v.Doubts.Count == 1 ? "is" : "are")} doubtful for this spool.",
        QuickCheckOutcome.Baseline =>
            $"Nothing to set it beside. {Capital(WallSays(v))}, {StringsSay(v)}: this is the piece that later ones are set beside.",
        _ when v is { WallMm: null, StringsScore: null } => "Nothing is read yet.",
        _ => $"Not to be told yet: {Missing(v)}.",
    };

    private static string Missing(QuickCheckVerdict v)
    {
        var walls = QuickCheckJudging.LeastWalls - v.From.WallMm.Count;
        return Say.List([
            .. walls > 0 ? [$"{Say.Plural(walls, "wall")} of the least four"] : (string[])[],
            .. v.StringsScore is null ? ["a look at the strings"] : (string[])[],
        ]) + (walls > 1 || (walls > 0 && v.StringsScore is null) ? " are missing" : " is missing");
    }

    private static string WallSays(QuickCheckVerdict v) =>
        $"wall {Say.N(v.WallMm!.Value, 3)} mm{(v.WallChangePercent is { } c ? $" ({Say.Signed(c)} ± {Say.N(v.WallChangeHalfPercent!.Value, 1)} %)" : "")}";

    private static string StringsSay(QuickCheckVerdict v) =>
        $"strings {Say.N(v.StringsScore!.Value, 1)}{(v.From.KeptStrings is { } kept ? $" beside {Say.N(kept, 1)}" : "")}";

    private static IEnumerable<string> Differing(QuickCheckVerdict v)
    {
        if (v.WallDiffers)
            yield return $"the wall is {Say.N(Math.Abs(v.WallChangePercent!.Value), 1)} % {(v.WallChangePercent > 0 ? "thicker" : "thinner")}";
        if (v.StringsWorse)
            yield return $"the strings are {Scores(v.StringsDrop!.Value)} worse";
    }

    private static string Areas(QuickCheckVerdict v) => Say.List(v.Doubts.Select(a => AgeingRules.Area(a).Label));

    private static IEnumerable<string> Reasons(QuickCheckVerdict v)
    {
        if (v.Outcome == QuickCheckOutcome.MeasureMore)
            yield break;
        if (v.WallChangePercent is not null)
            yield return v.WallDiffers
                ? $"The wall's change leaves zero out and is more than the {Say.N(v.From.TolerancePercent, 1)} % that may differ."
                : $"The wall would be called different from {Say.N(Math.Max(v.WallChangeHalfPercent!.Value, v.From.TolerancePercent), 1)} % on.";
        if (v.StringsDropNeeded is { } needed)
            yield return v.StringsWorse
                ? $"19 of 20 equal pieces drop by less than {Scores(needed)}."
                : $"Strings would be called worse from a drop of {Scores(needed)} on.";
        var slips = Say.List([
            .. v is { SlipsWallPercent: { } wall, WallDiffers: false } ? [$"a true change of the wall by {Say.N(wall, 1)} %"] : (string[])[],
            .. v is { SlipsStrings: { } strings, StringsWorse: false } ? [$"a true drop of the strings by {Scores(strings)}"] : (string[])[],
        ]);
        if (slips.Length > 0)
            yield return $"What slips through: {slips} would pass one time in three.";
    }

    private static IEnumerable<string> Warnings(QuickCheckVerdict v)
    {
        if (v.Outcome == QuickCheckOutcome.MeasureMore)
            yield break;
        if (v.From is { KeptWallMm: not null, KeptWallHalfMm: null })
            yield return "How well the kept wall is known was not said: it was taken as exact.";
        if (v.From.KeptStrings is null)
            yield return "Strings stand beside nothing: score the kept run's piece and put it in the plan of the next one, or let this one be the first.";
        if (v.From.KeptWallMm is null)
            yield return "The wall stands beside nothing: nobody said how thick the kept run's is.";
        if (v.StringsDrop is < 0 and var better && -better > v.StringsDropNeeded)
            yield return $"Strings are {Scores(-better)} better than the kept run's: drier, or looked at milder?";
    }

    private static string? Next(QuickCheckVerdict v) => v.Outcome switch
    {
        QuickCheckOutcome.MeasureMore => $"Read it to the end: {Missing(v)}.",
        QuickCheckOutcome.Differs when v.WallDiffers => "Measure the flow of this spool; a wall that is too thick strings too, so strings come after it.",
        QuickCheckOutcome.Differs => "Dry the spool where it may be damp, then sweep the retraction on it.",
        _ => null,
    };

    private static IEnumerable<string> Arithmetic(QuickCheckVerdict v)
    {
        var r = v.From;
        if (v is { WallMm: { } mean })
            yield return $"mean of {Say.Plural(r.WallMm.Count, "wall")} {Say.N(mean, 4)} mm{(v.WallHalfMm is { } h ? $" ± {Say.N(h, 4)}" : "")}, " +
                $"calliper's step {Say.N(r.ResolutionMm, 4)} mm";
        if (v is { WallChangePercent: { } change } && r.KeptWallMm is { } kept)
            yield return $"change = {Say.N(v.WallMm!.Value, 4)} ÷ {Say.N(kept, 4)} − 1 = {Say.Signed(change, 2)} %; its 95 % half-width from this piece, the " +
                $"kept one (± {Say.N(r.KeptWallHalfMm ?? 0, 4)} mm) and {Say.N(QuickCheckJudging.PieceToPiecePercent, 1)} % from piece to piece: " +
                $"{Say.N(v.WallChangeHalfPercent!.Value, 2)} %";
        if (v is { StringsScore: { } score })
            yield return $"mean of {Say.Plural(r.Strings.Count, "score")} of strings {Say.N(score)}";
        if (v is { StringsDrop: { } drop, StringsDropNeeded: { } needed })
            yield return $"drop = {Say.N(r.KeptStrings!.Value)} − {Say.N(v.StringsScore!.Value)} = {Say.Signed(drop, 2)}; called worse from 1.645 × " +
                $"{Say.N(r.ScoreNoise)} × √(1/{r.Strings.Count} + 1/{r.KeptScores}) = {Say.N(needed)} on";
        if (v.Outcome == QuickCheckOutcome.MeasureMore && v is { WallMm: null, StringsScore: null })
            yield return "nothing is read yet";
    }

    private static string Scores(double v) => $"{Say.N(v, 1)} {(Say.N(v, 1) == "1" ? "score" : "scores")}";

    private static string Capital(string text) => $"{char.ToUpperInvariant(text[0])}{text[1..]}";
}
