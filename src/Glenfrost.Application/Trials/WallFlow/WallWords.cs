using Glenfrost.Core.Settings;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Application.Trials.WallFlow;

/// <summary>What a wall says, in words.</summary>
internal sealed class WallWords : VerdictWords<WallVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(WallVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        var warnings = v.Cautions.Select(c => Caution(c, v)).ToList();
        if (v.Numbers is not { Mean: { } m, Rectangular: { } rectangular } n)
            return new("Nothing is read yet.") { Warnings = warnings, Arithmetic = [.. FromFile(v)] };
        return new(Sentence(v, m.Mean, m.HalfWidth))
        {
            Reasons = [Reason(v, n)], Warnings = warnings, Next = Next(v), Arithmetic = Arithmetic(v, n, rectangular),
        };
    }

    private static string Sentence(WallVerdict v, double mean, double half)
    {
        var (r, expected) = (v.From, Say.N(v.ExpectedMm, 3));
        return v.Outcome switch
        {
            WallOutcome.Unsteady => $"The wall differs by {Say.N(100 * v.Numbers!.Mean!.Sd / mean, 1)} % from place to place: that is no multiplier.",
            WallOutcome.Keep =>
                $"{Say.N(r.ExtrusionMultiplier, 3)} stands. The wall measures {Say.N(mean, 3)} ± {Say.N(half, 3)} mm, within " +
                    $"{Say.N(r.TolerancePercent, 1)} % of {expected}.",
            WallOutcome.Adjust =>
                $"{Say.N(v.NewExtrusionMultiplier!.Value, 3)}{(v.Numbers!.HalfWidth is { } h ? $" ± {Say.N(h, 3)}" : "")}. The wall measures " +
                    $"{Say.N(mean, 3)} mm where {expected} are meant.",
            _ => $"Not to be told yet: {Say.N(mean, 3)}{(double.IsFinite(half) ? $" ± {Say.N(half, 3)}" : "")} mm where {expected} are meant.",
        };
    }

    private static string Reason(WallVerdict v, WallNumbers n)
    {
        var (m, expected) = (n.Mean!, v.ExpectedMm);
        return v.Outcome switch
        {
            WallOutcome.Unsteady =>
                "Readings scatter more than the calliper and more than a sound wall. Look at the filament's diameter, a slipping gear, a worn or " +
                    "half-blocked nozzle, and at where the jaws sat.",
            WallOutcome.Keep =>
                $"Its 95 % interval, {Say.N(m.Low, 3)} to {Say.N(m.High, 3)} mm, lies inside {Say.N(expected - n.ToleranceMm, 3)} to " +
                    $"{Say.N(expected + n.ToleranceMm, 3)}.{OtherModel(v, n)}",
            WallOutcome.Adjust =>
                $"{Say.Signed(100 * (m.Mean / expected - 1))} % off, more than its uncertainty of {Say.N(100 * m.HalfWidth / expected, 1)} %." +
                    OtherModel(v, n),
            _ when m.Count < WallJudging.LeastReadings =>
                $"{Say.Plural(m.Count, "reading")}; {WallJudging.LeastReadings} away from seam and corners are the least.",
            _ =>
                $"The interval, {Say.N(m.Low, 3)} to {Say.N(m.High, 3)} mm, holds the width that is meant and reaches beyond the tolerance: a wide interval " +
                    "is no proof that they are equal.",
        };
    }

    /// <summary>What the other model of a line's cross-section says, where it differs by a digit that is shown.</summary>
    private static string OtherModel(WallVerdict v, WallNumbers n) =>
        n.Stadium is not { } round || Math.Abs(round - n.Rectangular!.Value) < 0.0015 ? ""
        : v.From.Area == BeadModel.Stadium
            ? $" By rectangular beads it would be {Say.N(n.Rectangular!.Value, 3)}: what the two differ by, a check piece settles."
        : $" By beads with round ends it would be {Say.N(round, 3)}: what the two differ by, a check piece settles.";

    private static string? Next(WallVerdict v)
    {
        var n = v.Numbers!;
        return v.Outcome switch
        {
            WallOutcome.Adjust =>
                $"A check piece at {Say.N(v.NewExtrusionMultiplier!.Value, 3)}: " +
                    $"{(Math.Abs(n.ChangePercent) > 100 * (n.HalfWidth ?? 0) / v.NewExtrusionMultiplier.Value ? "the change is above its noise, and " : "")}" +
                    "only a second wall proves it.",
            WallOutcome.MeasureMore when v.NeededReadings is { } needed && needed > n.Mean!.Count =>
                $"Read {Say.Plural(needed - n.Mean.Count, "more place", "more places")}: with about {needed} the answer is likely.",
            WallOutcome.MeasureMore => "A finer calliper, or a thicker wall of two lines: this one's step is as coarse as the tolerance.",
            WallOutcome.Unsteady => "Find out whether the feed slips or skips, then print the wall again.",
            _ => null,
        };
    }

    private static string Caution(WallCaution caution, WallVerdict v)
    {
        var r = v.From;
        switch (caution)
        {
            case WallCaution.OtherDiameter:
                var (counted, real) = (r.FilamentDiameterMm!.Value, r.MeasuredDiameterMm!.Value);
                return $"The file counts with filament of {Say.N(counted, 3)} mm; this spool measures {Say.N(real, 3)}: " +
                    $"{Say.Signed(100 * (real * real / (counted * counted) - 1))} % plastic. The multiplier found makes up for it and holds for this " +
                    "spool: put the measured diameter in the profile first, then the multiplier stays with the next spool.";
            case WallCaution.OverrideStays:
                return $"The override of {Say.N(r.ResidualFlowPercent, 1)} % stays in real prints, so the multiplier counts with it. Take it out one " +
                    "day, and the multiplier is wrong by it.";
            case WallCaution.OverrideGoes:
                return $"The override of {Say.N(r.ResidualFlowPercent, 1)} % is not there in real prints: {Say.N(v.ExpectedMm, 3)} mm are expected of this " +
                    "piece. Correcting in both places would correct twice.";
            case WallCaution.Outliers:
                var apart = r.ReadingsMm.Where((_, i) => v.Outliers[i]).Select(mm => Say.N(mm, 3)).ToList();
                return $"{Say.Plural(apart.Count, "reading")} {(apart.Count == 1 ? "stands" : "stand")} apart from the others " +
                    $"({string.Join(", ", apart)} mm): marked and still counted. A seam, a blob, a jaw on a mark? Read it again, or say why it is left out.";
            case WallCaution.LargeChange:
                return $"A change of {Say.N(Math.Abs(v.Numbers!.ChangePercent), 1)} % is more than flow: is the feed measured? Is " +
                    $"{Say.N(v.Numbers.TargetMm, 3)} mm the width that was sliced? Is there a flow override in the start code?";
            default:
                return "A multiplier below 0.3 or above 1.5 is none: it can't be kept.";
        }
    }

    private static IEnumerable<string> FromFile(WallVerdict v)
    {
        if (v is { From: { FeedPerMm: { } feed, FilamentDiameterMm: { } d, LayerHeightMm: { } height } r, Numbers: { } n })
            yield return $"the file feeds {Say.N(feed, 5)} mm for each mm of wall: × π × {Say.N(d, 3)}²/4 ÷ {Say.N(height, 3)} mm layer ÷ multiplier " +
                $"{Say.N(r.ExtrusionMultiplier, 3)}{(r.Area == BeadModel.Stadium ? " + round ends" : "")} = {Say.N(n.TargetMm, 3)} mm";
    }

    private static IReadOnlyList<string> Arithmetic(WallVerdict v, WallNumbers n, double rectangular)
    {
        var (r, m, multiplier) = (v.From, n.Mean!, Say.N(v.From.ExtrusionMultiplier, 3));
        var left = !r.ResidualFlowStays && r.ResidualFlowPercent != 100 ? $", with {Say.N(r.ResidualFlowPercent, 1)} % left by the override" : "";
        return
        [
            .. FromFile(v),
            $"mean of {m.Count} readings {Say.N(m.Mean, 4)} mm, scatter {Say.N(m.Sd, 4)} mm, calliper's step {Say.N(r.ResolutionMm, 4)} mm",
            double.IsFinite(m.HalfWidth)
                ? $"u² = s²/n + r²/12, u = {Say.N(m.StandardError, 4)} mm, so ± {Say.N(m.HalfWidth, 4)} mm at 95 %"
                : "one reading: its scatter is not known",
            $"expected {Say.N(v.ExpectedMm, 4)} mm{(r.Walls > 1 ? $" for {r.Walls} lines" : "")}{left}",
            $"rectangular: {multiplier} × {Say.N(r.Walls * n.LineMm, 4)} ÷ {Say.N(m.Mean, 4)} = {Say.N(rectangular, 4)}",
            .. n.Stadium is { } round
                ? (string[])
                [
                    $"round ends: c = h(1 − π/4) = {Say.N(n.RoundEndsMm, 4)} mm, {multiplier} × ({Say.N(n.RoundLineMm, 4)} − " +
                        $"{Say.N(n.RoundEndsMm, 4)}) ÷ ({Say.N(n.BeadMm!.Value, 4)} − {Say.N(n.RoundEndsMm, 4)}) = {Say.N(round, 4)}",
                ]
                : [],
        ];
    }
}
