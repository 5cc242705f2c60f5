using Glenfrost.Core.Ageing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Application.Trials.Part;

namespace Glenfrost.Application.Trials.Verification;

/// <summary>What a verification piece says, in words.</summary>
internal sealed class VerificationWords : VerdictWords<VerificationVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(VerificationVerdict v) => v.Refusal is { } refusal ? new(refusal.Message) : new(Sentence(v))
    {
        Reasons = [.. Reasons(v)], Warnings = [.. Warnings(v)], Arithmetic = [.. Arithmetic(v)],
        Next = v.Next is null ? null : "Detail is one half: a clip that has to fit a rod tells of flow and first layer.",
    };

    private static string Sentence(VerificationVerdict v)
    {
        if (v.Fit is not { } fit)
            return ZonedWords.Sentence(v);
        return v.Outcome switch
        {
            PartOutcome.Passed =>
                $"Passed: {Play(v)} of play on its rod where {Say.N(fit.ClearanceMm, 2)} was asked, and it snaps ({Say.N(fit.Snap!.Value, 1)}).",
            PartOutcome.NotPassed when v.Faults.Count > 0 => $"Not passed: {Say.List(v.Faults.Select(f => Fault(v, f)))}.",
            PartOutcome.Insufficient when v.Unread.Count == 0 && v.Missing.Count > 0 => $"Not to be told yet: {Say.List(v.Missing.Select(Missing))} " +
                $"{(v.Missing.Count == 1 ? "is" : "are")} missing.",
            _ => ZonedWords.Sentence(v),
        };
    }

    private static string Play(VerificationVerdict v) => $"{Say.N(v.PlayMm!.Value, 2)} mm";

    private static string Missing(ClipMissing m) => m switch
    {
        ClipMissing.Rod => "the rod, measured",
        ClipMissing.Bore => "the bore",
        _ => "how it snaps",
    };

    private static string Fault(VerificationVerdict v, ClipFault f) => f switch
    {
        ClipFault.Tight or ClipFault.Loose => $"{Play(v)} of play where {Say.N(v.Fit!.ClearanceMm, 2)} ± {Say.N(v.Fit.ToleranceMm, 2)} was asked",
        ClipFault.NarrowAtBed => $"the bore is {Say.N(v.Fit!.BoreMm!.Value - v.Fit.BoreAtBedMm!.Value, 2)} mm narrower at the bed",
        ClipFault.Lifted => $"its foot stands off by {Say.N(v.Fit!.GapMm!.Value, 2)} mm",
        _ => $"it snaps at {Say.N(v.Fit!.Snap!.Value, 1)} where {Say.N(v.From.TargetScore, 1)} was asked",
    };

    private static IEnumerable<string> Reasons(VerificationVerdict v)
    {
        if (v.BoreOffMm is { } off)
            yield return Math.Abs(off) < 0.005 ? "The bore came out as drawn."
                : $"The bore came out {Say.N(Math.Abs(off), 2)} mm {(off > 0 ? "wider" : "narrower")} than drawn.";
        foreach (var reason in ZonedWords.Reasons(v))
            yield return reason;
        if (v.Outcome == PartOutcome.Passed)
            yield return $"It shows {Say.List(v.Shows.Select(a => AgeingRules.Area(a).Label))}, and no more.";
    }

    private static IEnumerable<string> Warnings(VerificationVerdict v)
    {
        if (v.RodIsOff)
            yield return "The bore is as drawn: the rod is another one than was planned for. That is no fault of the print; plan it for this rod.";
        if (v.FitClose)
            yield return $"The play lies within {Say.N(VerificationJudging.JawsMm, 2)} mm of its limit, which is what jaws in a printed bore tell: " +
                "measure again, turned by a quarter.";
        if (v is { Outcome: PartOutcome.Passed, Fit: { } fit } && fit is { BoreAtBedMm: null } or { GapMm: null })
            yield return "Nobody measured the bore at the bed and the gap under its foot: of the first layer it says nothing.";
        foreach (var warning in ZonedWords.Warnings(v))
            yield return warning;
    }

    private static IEnumerable<string> Arithmetic(VerificationVerdict v)
    {
        if (v.Fit is { } fit)
        {
            if (v.PlayMm is { } play)
                yield return $"play: bore {Say.N(fit.BoreMm!.Value, 2)} less rod {Say.N(fit.RodMm!.Value, 2)} = {Say.N(play, 2)} mm; asked " +
                    $"{Say.N(fit.ClearanceMm, 2)} ± {Say.N(fit.ToleranceMm, 2)}";
            if (v.BoreOffMm is { } off)
                yield return $"bore: {Say.N(fit.BoreMm!.Value, 2)} less {Say.N(fit.DrawnBoreMm, 2)} as drawn = {Say.Signed(off, 2)} mm";
            if (fit is { BoreAtBedMm: { } bed, BoreMm: { } above })
                yield return $"at the bed: {Say.N(above, 2)} less {Say.N(bed, 2)} = {Say.N(above - bed, 2)} mm; more than " +
                    $"{Say.N(VerificationJudging.NarrowMm, 2)} is too much";
            if (fit.GapMm is { } gap)
                yield return $"gap under its foot: {Say.N(gap, 2)} mm; at most {Say.N(fit.MostGapMm, 2)}";
            if (fit.Snap is { } snap)
                yield return $"snap: {Say.N(snap, 1)}; asked {Say.N(v.From.TargetScore, 1)}";
        }

        foreach (var line in ZonedWords.Arithmetic(v))
            yield return line;
    }
}
