using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FoamingFlow;

namespace Glenfrost.Application.Trials.FoamingFlow;

/// <summary>What foaming walls say, in words.</summary>
internal sealed class FoamWords : VerdictWords<FoamVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(FoamVerdict v)
    {
        if (v.Refusal is { } refusal)
            return new(refusal.Message);
        var r = v.From;
        var told = v switch
        {
            { Numbers: { } n } => AtChosen(v, n),
            { Greatest: null } when v.Expansion.Any(e => !e.Stable) =>
                new("Every step that was read turned to blobs: hotter foams no better here.") { Next = "A cooler range, or more flow." },
            { Greatest: null } => new("Nothing is read yet."),
            { Outcome: FoamOutcome.Edge, Greatest: { } g } =>
                new(
                    $"{Say.N(g.TemperatureC)} °C foams most, {Say.N(g.Expansion!.Value)} times, and is the hottest printed: it may foam more beyond.")
                { Next = $"Temperatures from {Say.N(v.Next!.Values!["coolestC"])} to {Say.N(v.Next.Values["hottestC"])} °C." },
            { Greatest: { } g } => new($"Nothing foams enough below the limit of {Say.N(r.MaxC!.Value)} °C.")
            {
                Reasons = [$"The greatest expansion, {Say.N(g.Expansion!.Value)}, was at {Say.N(g.TemperatureC)} °C."],
            },
        };
        return told with
        {
            Warnings = [.. v.Cautions.Select(c => Caution(c, v)), .. Overrides.Said(r.ResidualFlowPercent, r.Override)],
            Arithmetic = [.. Expansions(v), .. told.Arithmetic],
        };
    }

    private static IEnumerable<string> Expansions(FoamVerdict v) => v.Expansion.Where(e => e.Expansion is not null)
        .Select(e =>
            $"{Say.N(e.TemperatureC)} °C at {Say.N(e.ExtrusionMultiplier, 3)}: {Say.N(e.WallMm!.Value, 3)} × {Say.N(v.From.ExtrusionMultiplier, 3)} ÷ " +
                $"({Say.N(v.From.ReferenceWidthMm, 3)} × {Say.N(e.ExtrusionMultiplier, 3)}) = " +
                $"{Say.N(e.Expansion!.Value, 3)}{(e.Uncertainty is { } u ? $" ± {Say.N(u, 3)}" : "")}{(e.Stable ? "" : ", blobs")}");

    private static Wording AtChosen(FoamVerdict v, FoamNumbers n) => new(Sentence(v, n))
    {
        Reasons = [.. Reasons(v, n)], Next = Next(v, n), Arithmetic = Arithmetic(v, n),
    };

    private static string Sentence(FoamVerdict v, FoamNumbers n)
    {
        var (value, wall, target) = (Say.N(v.SuggestedMultiplier!.Value, 3), Say.N(n.Nearest.WallMm!.Value, 3), Say.N(n.TargetMm, 3));
        var at = $"{value} at {Say.N(n.Chosen.TemperatureC)} °C";
        var slice = n.WallMm > n.TargetMm * 1.02 ? $" Walls come out {Say.N(n.WallMm, 2)} mm: slice with that line width." : "";
        return v.Outcome switch
        {
            FoamOutcome.Settled =>
                $"{at}. The wall measures {wall} mm, within {Say.N(v.From.TolerancePercent)} % of {target}: {Say.N(n.DensityGPerCm3, 2)} g/cm³.",
            FoamOutcome.Bounded => $"{at}, the lowest that ran steadily.{slice}",
            FoamOutcome.MeasureMore => double.IsFinite(n.ReadingHalfMm)
                ? $"{wall} ± {Say.N(n.ReadingHalfMm, 3)} mm where {target} are wanted: not to be told yet."
                : "One reading a step: its scatter is not known. Four sides would tell.",
            FoamOutcome.Adjust => $"{at}: at {Say.N(n.Nearest.ExtrusionMultiplier, 3)} the wall is {wall} mm where {target} are wanted.",
            _ =>
                $"{at}. It foams {Say.N(n.Nearest.Expansion!.Value, 2)} times: {Say.N(n.DensityGPerCm3, 2)} g/cm³, " +
                    $"{Say.N(100 * (1 - n.DensityGPerCm3 / v.From.SolidDensityGPerCm3), 0)} % lighter.",
        };
    }

    private static IEnumerable<string> Reasons(FoamVerdict v, FoamNumbers n)
    {
        var (at, most) = (Say.N(n.Chosen.TemperatureC), Say.N(v.Greatest!.Expansion!.Value));
        yield return n.Alike > 1 && n.Chosen.TemperatureC < v.Greatest.TemperatureC - 0.5
            ? $"{at} °C is the lowest that is not inferior to the greatest expansion ({most} at {Say.N(v.Greatest.TemperatureC)} °C): cooler strings and " +
                "oozes less."
            : $"{at} °C foams most: {most} times.";
        if (v.Outcome == FoamOutcome.Bounded)
            yield return $"A wall of {Say.N(n.TargetMm, 2)} mm would want {Say.N(n.Wish, 3)}, but it chokes between {Say.N(v.HighestBlobsMultiplier!.Value, 3)}, " +
                $"which turned to blobs, and {Say.N(v.LowestStableMultiplier!.Value, 3)}, the lowest seen steady.";
        yield return $"The first layer is laid at {at} °C too: cooler it would foam less and starve at {Say.N(v.SuggestedMultiplier!.Value, 3)}, hotter it " +
            "would swell.";
    }

    private static string? Next(FoamVerdict v, FoamNumbers n) => v.Next?.Kind switch
    {
        "measure-more" => "Read all four sides of the step, or print it again.",
        "between" => $"Try {Say.N(n.Between, 3)} first: between what ran steadily and what turned to blobs.",
        "check-piece" =>
            $"A check piece at {Say.N(v.SuggestedMultiplier!.Value, 3)} and {Say.N(n.Chosen.TemperatureC)} °C: less flow stays longer in the melt, so the " +
                "expansion shifts.",
        _ => null,
    };

    private static string Caution(FoamCaution caution, FoamVerdict v)
    {
        var r = v.From;
        return caution switch
        {
            FoamCaution.IndistinctSteps =>
                "The steps differ by less than their readings scatter: more readings a step would tell more than a finer step.",
            FoamCaution.TooLight =>
                $"A density of {Say.N(r.TargetDensityGPerCm3!.Value)} g/cm³ needs an expansion of " +
                    $"{Say.N(r.SolidDensityGPerCm3 / r.TargetDensityGPerCm3.Value)}; the most here is {Say.N(v.Greatest!.Expansion!.Value)}.",
            _ =>
                $"The file counts with filament of {Say.N(r.FileDiameterMm!.Value, 3)} mm; this spool measures {Say.N(r.MeasuredDiameterMm!.Value, 3)}: part " +
                    "of the expansion is diameter. Put the measured one in the profile first.",
        };
    }

    private static IReadOnlyList<string> Arithmetic(FoamVerdict v, FoamNumbers n)
    {
        var (r, expansion) = (v.From, Say.N(n.Nearest.Expansion!.Value, 3));
        return
        [
            $"multiplier: {Say.N(r.ExtrusionMultiplier, 3)} × {Say.N(n.TargetMm, 3)} ÷ ({Say.N(r.ReferenceWidthMm, 3)} × {expansion}) = {Say.N(n.Wish, 3)}",
            n.Nearest.Weighed
                ? $"density from mass and volume: {Say.N(n.DensityGPerCm3, 3)} g/cm³"
                : $"density: {Say.N(r.SolidDensityGPerCm3, 3)} ÷ {expansion} = {Say.N(n.DensityGPerCm3, 3)} g/cm³; callipers ride the rough peaks, mass and " +
                    "volume tell better",
        ];
    }
}
