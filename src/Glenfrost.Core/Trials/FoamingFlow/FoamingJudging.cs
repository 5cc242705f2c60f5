using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FoamingFlow;

/// <summary>One step: a section at a temperature and a multiplier, with what was read of it.</summary>
/// <param name="TemperatureC">Nozzle, °C.</param>
/// <param name="ExtrusionMultiplier">Multiplier that it was printed with.</param>
/// <param name="WallsMm">Thickness of its wall, one or more readings, mm.</param>
/// <param name="MassG">Mass of a piece cut from it, g; null where nobody weighed.</param>
/// <param name="VolumeCm3">Volume of that piece, cm³.</param>
/// <param name="Stable">False where extrusion turned to blobs.</param>
public sealed record FoamStep(
    double TemperatureC, double ExtrusionMultiplier, IReadOnlyList<double> WallsMm, double? MassG = null, double? VolumeCm3 = null, bool Stable = true);

/// <summary>Readings of foaming walls and how to judge them.</summary>
public sealed record FoamReadings
{
    /// <summary>Wall where it does not foam, at the full multiplier, mm.</summary>
    public double ReferenceWidthMm { get; init; }

    /// <summary>95 % half-width of the reference, mm; 0 where it is exact.</summary>
    public double ReferenceUncertaintyMm { get; init; }

    /// <summary>Wall that is wanted, mm; null: the reference's.</summary>
    public double? TargetWidthMm { get; init; }

    /// <summary>The full multiplier: what does not foam is right with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Solid density, g/cm³.</summary>
    public double SolidDensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Density that is wanted, g/cm³; null where the lightest is.</summary>
    public double? TargetDensityGPerCm3 { get; init; }

    /// <summary>Steps in any order.</summary>
    public IReadOnlyList<FoamStep> Steps { get; init; } = [];

    /// <summary>Smallest step of the calliper, mm.</summary>
    public double ResolutionMm { get; init; } = 0.01;

    /// <summary>Hottest that may be printed, °C; null where it is not known.</summary>
    public double? MaxC { get; init; }

    /// <summary>How far the check piece may be off, %.</summary>
    public double TolerancePercent { get; init; } = 6;
}

/// <summary>Expansion at one step.</summary>
/// <param name="TemperatureC">°C.</param>
/// <param name="ExtrusionMultiplier">Multiplier.</param>
/// <param name="WallMm">Mean wall, mm.</param>
/// <param name="Expansion">Volume laid over volume fed: wall × full multiplier ÷ (reference × multiplier).</param>
/// <param name="Uncertainty">95 % half-width of it; null for a single reading.</param>
/// <param name="DensityGPerCm3">Solid over expansion, or from mass and volume where given.</param>
/// <param name="Weighed">True where density came from mass and volume.</param>
/// <param name="Stable">False where extrusion turned to blobs.</param>
public sealed record Expanded(
    double TemperatureC, double ExtrusionMultiplier, double? WallMm, double? Expansion, double? Uncertainty, double? DensityGPerCm3, bool Weighed, bool Stable);

/// <summary>The verdict on foaming walls: suggest, bounded, settled, adjust, edge, measure-more or insufficient.</summary>
public sealed record FoamVerdict : TrialVerdict
{
    /// <summary>Chosen temperature, °C; null where none is.</summary>
    public double? ChosenTemperatureC { get; init; }

    /// <summary>Expansion of each step in the order of temperature and multiplier.</summary>
    public IReadOnlyList<Expanded> Expansion { get; init; } = [];

    /// <summary>Suggested multiplier, three decimals.</summary>
    public double? SuggestedMultiplier { get; init; }

    /// <summary>95 % half-width of it.</summary>
    public double? SuggestedUncertainty { get; init; }

    /// <summary>Lowest multiplier that was seen stable at the chosen temperature; the suggestion goes no lower.</summary>
    public double? LowestStableMultiplier { get; init; }

    /// <summary>Highest multiplier below it that turned to blobs at the chosen temperature; null where none did. Between the two it chokes.</summary>
    public double? HighestBlobsMultiplier { get; init; }

    /// <summary>Wall at the suggestion, mm.</summary>
    public double? PredictedWallMm { get; init; }

    /// <summary>Density at the suggestion, g/cm³.</summary>
    public double? PredictedDensityGPerCm3 { get; init; }

    /// <summary>Mass saved against a solid part of the same shape, %.</summary>
    public double? MassSavingPercent { get; init; }
}

/// <summary>
/// Multiplier of foaming filament from single walls at a fixed speed. Expansion at the full multiplier is wall over reference; the lowest temperature that is
/// not inferior to the
/// greatest expansion is chosen, and the multiplier is target ÷ (reference × expansion). Less flow stays longer in the melt, so the expansion shifts: a check
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
    public static FoamVerdict Judge(FoamReadings r)
    {
        var target = r.TargetWidthMm ?? r.ReferenceWidthMm;
        var groups = r.Steps.GroupBy(s => (s.TemperatureC, s.ExtrusionMultiplier)).OrderBy(g => g.Key.TemperatureC)
            .ThenByDescending(g => g.Key.ExtrusionMultiplier).ToList();
        var list = groups.Select(g => Of(g.Key.TemperatureC, g.Key.ExtrusionMultiplier, [.. g], r)).ToList();
        var arithmetic = list.Where(e => e.Expansion is not null)
            .Select(e =>
                $"{Say.N(e.TemperatureC)} °C at {Say.N(e.ExtrusionMultiplier, 3)}: {Say.N(e.WallMm!.Value, 3)} × {Say.N(r.ExtrusionMultiplier, 3)} ÷ " +
                    $"({Say.N(r.ReferenceWidthMm, 3)} × {Say.N(e.ExtrusionMultiplier, 3)}) = " +
                    $"{Say.N(e.Expansion!.Value, 3)}{(e.Uncertainty is { } u ? $" ± {Say.N(u, 3)}" : "")}{(e.Stable ? "" : ", blobs")}"
            ).ToList();
        var basis = new FoamVerdict { Verdict = "insufficient", Sentence = "Nothing is read yet.", Expansion = list, Arithmetic = arithmetic, Advised = false };
        var usable = list.Where(e => e.Stable && e.Expansion is not null).ToList();
        if (usable.Count == 0)
        {
            return list.Any(e => !e.Stable)
                ? basis with
                {
                    Sentence = "Every step that was read turned to blobs: hotter foams no better here.",
                    Next = new(
                        "cooler", "A cooler range, or more flow.", FoamingFlowTrial.Word,
                        new Dictionary<string, decimal> { ["hottestC"] = (decimal)(list.Min(e => e.TemperatureC) - 10) }),
                }
                : basis;
        }

        // The curve over temperature is that of the greatest multiplier printed; steps at lower ones belong to the multiplier.
        var full = usable.Max(e => e.ExtrusionMultiplier);
        var curve = usable.Where(e => Math.Abs(e.ExtrusionMultiplier - full) < 1e-9).ToList();
        var greatest = curve.MaxBy(e => e.Expansion!.Value)!;
        var equals = curve.Where(e => e.Expansion >= greatest.Expansion * (1 - EqualShare) && (r.MaxC is not { } most || e.TemperatureC <= most))
            .OrderBy(e => e.TemperatureC).ToList();
        if (equals.Count == 0)
            return basis with
            {
                Sentence = $"Nothing foams enough below the limit of {Say.N(r.MaxC!.Value)} °C.",
                Reasons = [$"The greatest expansion, {Say.N(greatest.Expansion!.Value)}, was at {Say.N(greatest.TemperatureC)} °C."],
            };
        var chosen = equals[0];
        var warnings = new List<string>();
        if (curve.Count > 1 && Distinct(curve) == false)
            warnings.Add("The steps differ by less than their readings scatter: more readings a step would tell more than a finer step.");
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
                Verdict = "edge",
                Sentence = $"{Say.N(hottest)} °C foams most, {Say.N(greatest.Expansion!.Value)} times, and is the hottest printed: it may foam more beyond.",
                Warnings = warnings,
                Next = new(
                    "edge", $"Temperatures from {Say.N(less)} to {Say.N(more)} °C.", FoamingFlowTrial.Word,
                    new Dictionary<string, decimal> { ["hottestC"] = (decimal)more, ["coolestC"] = (decimal)less, ["stepC"] = (decimal)step }),
                ChosenTemperatureC = hottest,
            };
        }

        if (r.TargetDensityGPerCm3 is { } wanted && r.SolidDensityGPerCm3 / wanted > greatest.Expansion * 1.02)
            warnings.Add(
                $"A density of {Say.N(wanted)} g/cm³ needs an expansion of {Say.N(r.SolidDensityGPerCm3 / wanted)}; the most here is " +
                    $"{Say.N(greatest.Expansion!.Value)}."
            );
        return AtChosen(basis with { Warnings = warnings }, r, target, list, usable, chosen, equals, greatest);
    }

    private static FoamVerdict AtChosen(
        FoamVerdict basis, FoamReadings r, double target, List<Expanded> list, List<Expanded> usable, Expanded chosen, List<Expanded> equals, Expanded greatest)
    {
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
        var value = Math.Round(bounded ? lowestStable : Math.Clamp(wish, 0.1, 1.5), 3);
        var wall = r.ReferenceWidthMm * expansion * value / r.ExtrusionMultiplier;
        var density = nearest.Weighed ? nearest.DensityGPerCm3!.Value : r.SolidDensityGPerCm3 / expansion;
        var tolerance = r.TolerancePercent / 100 * target;
        var readingHalf = nearest.Uncertainty is { } nu ? nu / expansion * nearest.WallMm!.Value : double.PositiveInfinity;
        var settled = tried && Math.Abs(nearest.WallMm!.Value - target) + readingHalf <= tolerance;
        var off = tried && Math.Abs(nearest.WallMm!.Value - target) > readingHalf;
        var between = choked ? Math.Round(wish, 3) : bounded ? Math.Round((lowestStable + unstableBelow) / 2, 3) : double.NaN;
        var word =
            bounded ? "bounded"
            : settled ? "settled"
            : !double.IsFinite(readingHalf) ? "measure-more"
            : tried && !off ? "measure-more"
            : tried ? "adjust"
            : "suggest";
        if (word == "settled")
            value = Math.Round(nearest.ExtrusionMultiplier, 3);
        var reasons = new List<string>
        {
            equals.Count > 1
                ? $"{Say.N(chosen.TemperatureC)} °C is the lowest that is not inferior to the greatest expansion ({Say.N(greatest.Expansion!.Value)} at " +
                    $"{Say.N(greatest.TemperatureC)} °C): cooler strings and oozes less."
                : $"{Say.N(chosen.TemperatureC)} °C foams most: {Say.N(greatest.Expansion!.Value)} times.",
        };
        if (bounded)
            reasons.Add(
                $"A wall of {Say.N(target, 2)} mm would want {Say.N(wish, 3)}, but it chokes between {Say.N(unstableBelow, 3)}, which turned to blobs, and " +
                    $"{Say.N(lowestStable, 3)}, the lowest seen steady."
            );
        reasons.Add(
            $"The first layer is laid at {Say.N(chosen.TemperatureC)} °C too: cooler it would foam less and starve at {Say.N(value, 3)}, hotter it would " +
                "swell.");
        var belongs = wall > target * 1.02 ? $" Walls come out {Say.N(wall, 2)} mm: slice with that line width." : "";
        return basis with
        {
            Verdict = word,
            Sentence = word switch
            {
                "settled" =>
                    $"{Say.N(value, 3)} at {Say.N(chosen.TemperatureC)} °C. The wall measures {Say.N(nearest.WallMm!.Value, 3)} mm, within " +
                        $"{Say.N(r.TolerancePercent)} % of {Say.N(target, 3)}: {Say.N(density, 2)} g/cm³.",
                "bounded" => $"{Say.N(value, 3)} at {Say.N(chosen.TemperatureC)} °C, the lowest that ran steadily.{belongs}",
                "measure-more" => double.IsFinite(readingHalf)
                    ? $"{Say.N(nearest.WallMm!.Value, 3)} ± {Say.N(readingHalf, 3)} mm where {Say.N(target, 3)} are wanted: not to be told yet."
                    : "One reading a step: its scatter is not known. Four sides would tell.",
                "adjust" =>
                    $"{Say.N(value, 3)} at {Say.N(chosen.TemperatureC)} °C: at {Say.N(nearest.ExtrusionMultiplier, 3)} the wall is " +
                        $"{Say.N(nearest.WallMm!.Value, 3)} mm where {Say.N(target, 3)} are wanted.",
                _ =>
                    $"{Say.N(value, 3)} at {Say.N(chosen.TemperatureC)} °C. It foams {Say.N(expansion, 2)} times: {Say.N(density, 2)} g/cm³, " +
                        $"{Say.N(100 * (1 - density / r.SolidDensityGPerCm3), 0)} % lighter.",
            },
            Reasons = reasons,
            Next = word switch
            {
                "settled" => null,
                "measure-more" => new("measure-more", "Read all four sides of the step, or print it again."),
                "bounded" when lowestStable - unstableBelow > 0.03 && lowestStable - between > 0.005 => new(
                    "between", $"Try {Say.N(between, 3)} first: between what ran steadily and what turned to blobs.", FoamingFlowTrial.Word,
                    Values(chosen, between + 0.03, between, 0.03m))
                { Words = Multipliers },
                "bounded" => null,
                _ => new(
                    "check-piece",
                    $"A check piece at {Say.N(value, 3)} and {Say.N(chosen.TemperatureC)} °C: less flow stays longer in the melt, so the expansion shifts.",
                    FoamingFlowTrial.Word, Values(chosen, value + (tried ? 0 : 0.1), value, tried ? 0.05m : 0.1m))
                { Words = Multipliers },
            },
            Settings = word is "measure-more"
                ? []
                :
                [
                    new("extrusionMultiplier", value, half is { } h ? Math.Round(h, 4) : 0), new("nozzleTemperatureC", chosen.TemperatureC, 0),
                    // A first layer that is cooler foams less and starves at this multiplier; a hotter one swells.
                    new("firstLayerNozzleTemperatureC", chosen.TemperatureC, 0),
                ],
            Proves = word == "settled",
            Advised = word is "settled" or "suggest" or "adjust" or "bounded",
            ChosenTemperatureC = chosen.TemperatureC,
            SuggestedMultiplier = value,
            SuggestedUncertainty = half is { } x ? Math.Round(x, 4) : null,
            LowestStableMultiplier = lowestStable,
            HighestBlobsMultiplier = double.IsNaN(unstableBelow) ? null : unstableBelow,
            PredictedWallMm = Math.Round(wall, 4),
            PredictedDensityGPerCm3 = Math.Round(density, 4),
            MassSavingPercent = Math.Round(100 * (1 - density / r.SolidDensityGPerCm3), 1),
            Arithmetic =
            [
                .. basis.Arithmetic,
                $"multiplier: {Say.N(r.ExtrusionMultiplier, 3)} × {Say.N(target, 3)} ÷ ({Say.N(r.ReferenceWidthMm, 3)} × {Say.N(expansion, 3)}) = " +
                    $"{Say.N(wish, 3)}",
                nearest.Weighed
                    ? $"density from mass and volume: {Say.N(density, 3)} g/cm³"
                    : $"density: {Say.N(r.SolidDensityGPerCm3, 3)} ÷ {Say.N(expansion, 3)} = {Say.N(density, 3)} g/cm³; callipers ride the rough peaks, " +
                        $"mass and volume tell better",
            ],
        };
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
