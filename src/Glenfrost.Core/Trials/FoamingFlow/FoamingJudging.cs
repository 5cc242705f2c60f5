using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <summary>
/// Multiplier of foaming filament from single walls at a fixed speed. Expansion at the full multiplier is wall over reference; the lowest temperature that is
/// not inferior to
/// the greatest expansion is chosen, and the multiplier is target ÷ (reference × expansion). Less flow stays longer in the melt, so the expansion shifts: a check
/// piece always follows.
/// </summary>
public static class FoamingJudging
{
    /// <summary>How much less expansion counts as equal to the greatest, as a share of it.</summary>
    public const double EqualShare = 0.04;

    /// <summary>Finest step over temperature worth a print, °C: nearer to its limit than this a range is at its end.</summary>
    public const double LeastStepC = 5;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FoamReadings r)
    {
        var errors = new List<FieldError>();
        void Within(string field, double v, double least, double most, string why)
        {
            if (!(v >= least && v <= most))
                errors.Add(new(field, $"{Say.N(v, 3)} is outside {Say.N(least, 3)} to {Say.N(most, 3)}: {why}."));
        }

        Within("referenceWidthMm", r.ReferenceWidthMm, 0.1, 5, "the wall where it does not foam, for example 0.45 mm");
        if (r.TargetWidthMm is { } t)
            Within("targetWidthMm", t, 0.1, 5, "no nozzle lays such a line");
        Within("extrusionMultiplier", r.ExtrusionMultiplier, 0.3, 1.5, "the multiplier that is right where it does not foam");
        Within("solidDensityGPerCm3", r.SolidDensityGPerCm3, 0.5, 3, "no filament is lighter or heavier when solid");
        if (r.TargetDensityGPerCm3 is { } d)
            Within("targetDensityGPerCm3", d, 0.2, r.SolidDensityGPerCm3, "between light foam and the solid");
        Within("resolutionMm", r.ResolutionMm, 0.0001, 1, "the smallest step of the calliper");
        foreach (var (s, i) in r.Steps.Select((s, i) => (s, i)))
        {
            Within($"steps[{i}].temperatureC", s.TemperatureC, 150, 500, "no filament is printed outside it");
            Within($"steps[{i}].extrusionMultiplier", s.ExtrusionMultiplier, 0.1, 1.5, "below a tenth nothing sticks together");
            foreach (var w in s.WallsMm)
                Within($"steps[{i}].wallMm", w, 0.05, 10, "a wall of one line in mm, for example 0.78");
            if (s.MassG is null != s.VolumeCm3 is null)
                errors.Add(new($"steps[{i}].{(s.MassG is null ? "massG" : "volumeCm3")}", "Mass and volume go together: the density is their ratio."));
            if (s.MassG is { } g)
                Within($"steps[{i}].massG", g, 0.001, 1000, "the mass of a piece cut from the step");
            if (s.VolumeCm3 is { } v)
                Within($"steps[{i}].volumeCm3", v, 0.001, 1000, "its volume in cm³");
        }

        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static FoamVerdict Judge(FoamReadings readings)
    {
        var v = Reckon(readings.InRealPrints());
        var caution = readings is { MeasuredDiameterMm: { } real, FileDiameterMm: { } file } && Math.Abs(real * real / (file * file) - 1) > OtherDiameter;
        return v with
        {
            Cautions = caution ? [.. v.Cautions, FoamCaution.OtherDiameter] : v.Cautions,
            Next = FlowOverride.InFile(v.Next, readings.ResidualFlowPercent, readings.Override),
        };
    }

    /// <summary>A diameter that makes this share more or less plastic is another one.</summary>
    private const double OtherDiameter = 0.005;

    private static FoamVerdict Reckon(FoamReadings r)
    {
        var groups = r.Steps.GroupBy(s => (s.TemperatureC, s.ExtrusionMultiplier)).OrderBy(g => g.Key.TemperatureC)
            .ThenByDescending(g => g.Key.ExtrusionMultiplier).ToList();
        var list = groups.Select(g => Of(g.Key.TemperatureC, g.Key.ExtrusionMultiplier, [.. g], r)).ToList();
        var basis = new FoamVerdict { Outcome = FoamOutcome.Insufficient, From = r, Expansion = list, Advised = false };
        var usable = list.Where(e => e.Stable && e.Expansion is not null).ToList();
        if (usable.Count == 0)
            return list.Any(e => !e.Stable)
                ? basis with
                {
                    Next = new(
                        "cooler", "", FoamingFlowTrial.Word, new Dictionary<string, decimal> { ["hottestC"] = (decimal)(list.Min(e => e.TemperatureC) - 10) }),
                }
                : basis;
        // The curve over temperature is that of the greatest multiplier printed; steps at lower ones belong to the multiplier.
        var full = usable.Max(e => e.ExtrusionMultiplier);
        var curve = usable.Where(e => Math.Abs(e.ExtrusionMultiplier - full) < 1e-9).ToList();
        var greatest = curve.MaxBy(e => e.Expansion!.Value)!;
        basis = basis with { Greatest = greatest };
        var equals = curve.Where(e => e.Expansion >= greatest.Expansion * (1 - EqualShare) && (r.MaxC is not { } most || e.TemperatureC <= most))
            .OrderBy(e => e.TemperatureC).ToList();
        if (equals.Count == 0)
            return basis;
        if (curve.Count > 1 && !Distinct(curve))
            basis = basis with { Cautions = [FoamCaution.IndistinctSteps] };
        var hottest = curve.Max(e => e.TemperatureC);
        if (curve.Count > 1
            && greatest.TemperatureC == hottest
            && (r.MaxC is not { } limit || hottest <= limit - LeastStepC)
            && !list.Any(e => !e.Stable && e.TemperatureC > hottest)
            && equals.Count < 2)
        {
            // Two steps beyond and one back, of a step that the limit leaves room for.
            var step = (r.MaxC ?? 500) - hottest >= 10 ? 10 : LeastStepC;
            var (more, less) = (hottest + step * Math.Min(2, Math.Floor(((r.MaxC ?? 500) - hottest) / step)), hottest - step);
            return basis with
            {
                Outcome = FoamOutcome.Edge,
                Next = new(
                    "edge", "", FoamingFlowTrial.Word,
                    new Dictionary<string, decimal> { ["hottestC"] = (decimal)more, ["coolestC"] = (decimal)less, ["stepC"] = (decimal)step }),
                ChosenTemperatureC = hottest,
            };
        }

        if (r.TargetDensityGPerCm3 is { } wanted && r.SolidDensityGPerCm3 / wanted > greatest.Expansion * 1.02)
            basis = basis with { Cautions = [.. basis.Cautions, FoamCaution.TooLight] };
        return AtChosen(basis, r, list, usable, equals);
    }

    private static FoamVerdict AtChosen(FoamVerdict basis, FoamReadings r, List<Expanded> list, List<Expanded> usable, List<Expanded> equals)
    {
        var (target, chosen) = (r.TargetWidthMm ?? r.ReferenceWidthMm, equals[0]);
        var here = usable.Where(e => Math.Abs(e.TemperatureC - chosen.TemperatureC) < 0.5).OrderBy(e => e.ExtrusionMultiplier).ToList();
        // The step nearest to the target tells the expansion best: less flow foams a little differently.
        var nearest = here.MinBy(e => Math.Abs(e.WallMm!.Value - target))!;
        var expansion = nearest.Expansion!.Value;
        var wish = r.ExtrusionMultiplier * target / (r.ReferenceWidthMm * expansion);
        double? half = nearest.Uncertainty is { } u ? wish * u / expansion : null;
        var lowestStable = here.Min(e => e.ExtrusionMultiplier);
        var unstableBelow = list.Where(e => !e.Stable && Math.Abs(e.TemperatureC - chosen.TemperatureC) < 0.5 && e.ExtrusionMultiplier < lowestStable)
            .Select(e => e.ExtrusionMultiplier).DefaultIfEmpty(double.NaN).Max();
        var tried = here.Count > 1 || here[0].ExtrusionMultiplier < r.ExtrusionMultiplier - 1e-9;
        // Between what turned to blobs and what ran steadily lies the choke: nothing there is offered before it was tried.
        var choked = !double.IsNaN(unstableBelow) && wish > unstableBelow + 1e-9 && wish < lowestStable - 1e-9;
        var bounded = choked || (!double.IsNaN(unstableBelow) && wish <= unstableBelow + 1e-9);
        var readingHalf = nearest.Uncertainty is { } nu ? nu / expansion * nearest.WallMm!.Value : double.PositiveInfinity;
        var outcome = Outcome(r, target, nearest, bounded, tried, readingHalf);
        var value = outcome == FoamOutcome.Settled
            ? Math.Round(nearest.ExtrusionMultiplier, 3) : Math.Round(bounded ? lowestStable : Math.Clamp(wish, 0.1, 1.5), 3);
        var density = nearest.Weighed ? nearest.DensityGPerCm3!.Value : r.SolidDensityGPerCm3 / expansion;
        var n = new FoamNumbers(
            chosen, nearest, equals.Count, target, wish, r.ReferenceWidthMm * expansion * value / r.ExtrusionMultiplier, density, readingHalf,
            choked ? Math.Round(wish, 3) : bounded ? Math.Round((lowestStable + unstableBelow) / 2, 3) : double.NaN);
        return basis with
        {
            Outcome = outcome,
            Numbers = n,
            Next = outcome switch
            {
                FoamOutcome.MeasureMore => new("measure-more", ""),
                FoamOutcome.Bounded when lowestStable - unstableBelow > 0.03 && lowestStable - n.Between > 0.005 =>
                    new("between", "", FoamingFlowTrial.Word, Values(chosen, n.Between + 0.03, n.Between, 0.03m)) { Words = Multipliers },
                FoamOutcome.Settled or FoamOutcome.Bounded => null,
                _ => new("check-piece", "", FoamingFlowTrial.Word, Values(chosen, value + (tried ? 0 : 0.1), value, tried ? 0.05m : 0.1m))
                {
                    Words = Multipliers,
                },
            },
            Settings = outcome == FoamOutcome.MeasureMore
                ? []
                :
                [
                    new("extrusionMultiplier", value, half is { } h ? Math.Round(h, 4) : 0), new("nozzleTemperatureC", chosen.TemperatureC, 0),
                    // A first layer that is cooler foams less and starves at this multiplier; a hotter one swells.
                    new("firstLayerNozzleTemperatureC", chosen.TemperatureC, 0),
                ],
            Proves = outcome == FoamOutcome.Settled,
            Advised = outcome != FoamOutcome.MeasureMore,
            ChosenTemperatureC = chosen.TemperatureC,
            SuggestedMultiplier = value,
            SuggestedUncertainty = half is { } x ? Math.Round(x, 4) : null,
            LowestStableMultiplier = lowestStable,
            HighestBlobsMultiplier = double.IsNaN(unstableBelow) ? null : unstableBelow,
            PredictedWallMm = Math.Round(n.WallMm, 4),
            PredictedDensityGPerCm3 = Math.Round(density, 4),
            MassSavingPercent = Math.Round(100 * (1 - density / r.SolidDensityGPerCm3), 1),
        };
    }

    private static FoamOutcome Outcome(FoamReadings r, double target, Expanded nearest, bool bounded, bool tried, double readingHalf)
    {
        var off = Math.Abs(nearest.WallMm!.Value - target);
        return bounded ? FoamOutcome.Bounded
            : tried && off + readingHalf <= r.TolerancePercent / 100 * target ? FoamOutcome.Settled
            : !double.IsFinite(readingHalf) || (tried && off <= readingHalf) ? FoamOutcome.MeasureMore
            : tried ? FoamOutcome.Adjust
            : FoamOutcome.Suggest;
    }

    private static readonly Dictionary<string, string> Multipliers = new() { ["mode"] = FoamingFlowTrial.MultiplierMode };

    private static Dictionary<string, decimal> Values(Expanded chosen, double most, double least, decimal step) => new()
    {
        ["nozzleTemperatureC"] = (decimal)chosen.TemperatureC,
        ["mostMultiplier"] = (decimal)Math.Round(Math.Min(1.5, most), 3),
        ["leastMultiplier"] = (decimal)Math.Round(Math.Max(0.1, least), 3),
        ["multiplierStep"] = step,
    };

    private static Expanded Of(double t, double multiplier, List<FoamStep> steps, FoamReadings r)
    {
        var m = Measured.Of([.. steps.SelectMany(s => s.WallsMm)], r.ResolutionMm);
        var stable = steps.All(s => s.Stable);
        if (m.Count == 0)
            return new(t, multiplier, null, null, null, null, false, stable);
        var factor = r.ExtrusionMultiplier / (r.ReferenceWidthMm * multiplier);
        var e = m.Mean * factor;
        // Both widths count: relative uncertainties add in squares.
        double? u = double.IsFinite(m.HalfWidth)
            ? e * Math.Sqrt(Math.Pow(m.HalfWidth / m.Mean, 2) + Math.Pow(r.ReferenceUncertaintyMm / r.ReferenceWidthMm, 2))
            : null;
        var weighed = steps.FirstOrDefault(s => s is { MassG: not null, VolumeCm3: > 0 });
        return new(t, multiplier, m.Mean, e, u, weighed is { MassG: { } g, VolumeCm3: { } v } ? g / v : r.SolidDensityGPerCm3 / e, weighed is not null, stable);
    }

    private static bool Distinct(List<Expanded> curve)
    {
        var (top, low) = (curve.MaxBy(e => e.Expansion)!, curve.MinBy(e => e.Expansion)!);
        return top.Expansion - low.Expansion > (top.Uncertainty ?? 0) + (low.Uncertainty ?? 0);
    }
}
