using System.Globalization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>
/// From a tester's wish to sections, layers and checkpoints. Hottest at the bottom, since a nozzle that blocks when too
/// cool spoils only what is above; the base is printed at the hottest value. Decimal arithmetic, so that whole layers are exact.
/// </summary>
public static class TowerPlanning
{
    /// <summary>Height over depth from which a tower is called slender.</summary>
    public const double SlenderFrom = 8;

    /// <summary>Share of the nozzle diameter that a layer may be high.</summary>
    public const decimal LayerReach = 0.8m;

    /// <summary>Plans a tower, or says at which fields it can't be planned and what would fit.</summary>
    public static TowerPlanResult Plan(TowerRequest request)
    {
        var errors = new List<FieldError>();
        CheckRanges(request, errors);
        if (errors.Count > 0)
            return new(null, errors);
        var r = request.IsOwnModel ? OwnModelTower.Complete(request) : request;
        TowerLimits.Check(r, errors);
        var count = SectionCount(r, errors);
        if (r.IsOwnModel)
            return OwnModelTower.Plan(r, errors);
        var layers = OwnPieceLayers(r, errors);
        if (count is null || layers is null || errors.Count > 0)
            return new(null, errors);
        return Build(r, count.Value, layers.Value.Base, layers.Value.PerSection, errors);
    }

    private static void CheckRanges(TowerRequest r, List<FieldError> errors)
    {
        var values = new (string Field, decimal? Value, bool Needed)[]
        {
            ("hottestC", r.HottestC, true),
            ("coolestC", r.CoolestC, !r.IsOwnModel || r.StepC is null),
            ("stepC", r.StepC, !r.IsOwnModel || r.CoolestC is null),
            ("sectionHeightMm", r.SectionHeightMm, !r.IsOwnModel),
            ("baseHeightMm", r.BaseHeightMm, !r.IsOwnModel),
            ("layerHeightMm", r.LayerHeightMm, !r.IsOwnModel),
            ("firstLayerHeightMm", r.FirstLayerHeightMm, !r.IsOwnModel),
            ("totalLayers", r.TotalLayers, r.IsOwnModel),
            ("baseLayers", r.BaseLayers, r.IsOwnModel),
            ("sections", r.Sections, r.IsOwnModel),
            ("nozzleDiameterMm", r.NozzleDiameterMm, false),
            ("bedHeightMm", r.BedHeightMm, false),
            ("pieceDepthMm", r.PieceDepthMm, false),
            ("densityGPerCm3", r.DensityGPerCm3, false),
            ("bridgeSpanMm", r.BridgeSpanMm, false),
            ("reedGapMm", r.ReedGapMm, false),
            ("slabAngleDeg", r.SlabAngleDeg, false),
            ("textHeightMm", r.TextHeightMm, false),
        };
        foreach (var (field, value, needed) in values)
        {
            var quantity = TowerFields.All[field];
            if (value is null && needed)
                errors.Add(new(field, quantity.Parse("").Error!));
            else if (value is { } v && quantity.Check(v).Error is { } message)
                errors.Add(new(field, message));
        }
    }

    private static int? SectionCount(TowerRequest r, List<FieldError> errors)
    {
        if (r is not { HottestC: { } hot, CoolestC: { } cool, StepC: { } step })
            return null;
        if (hot <= cool)
        {
            errors.Add(new("hottestC", $"The hottest section ({Say.N(hot, 3)} °C) must be hotter than the coolest ({Say.N(cool, 3)} °C).",
                hot < cool ? [new($"{Say.N(cool, 3)} down to {Say.N(hot, 3)} °C", Map(("hottestC", cool), ("coolestC", hot)))] : []));
            return null;
        }

        var steps = (hot - cool) / step;
        if (steps == decimal.Truncate(steps))
        {
            if (steps + 1 > 60)
            {
                errors.Add(new("stepC", $"{Say.N(steps + 1, 3)} sections are more than a tower holds (60). A coarser step or a narrower range would " +
                    $"be right."));
                return null;
            }

            return (int)steps + 1;
        }

        errors.Add(new("stepC",
            $"{Say.N(hot, 3)} to {Say.N(cool, 3)} °C by {Say.N(step, 3)} ends {Say.N((hot - cool) % step, 3)} °C short of the range. Take a range " +
            $"or a step that comes out even.",
            TowerOffers.ForRange(r, hot, cool, step)));
        return null;
    }

    private static (int Base, int PerSection)? OwnPieceLayers(TowerRequest r, List<FieldError> errors)
    {
        var nozzle = r.NozzleDiameterMm ?? 0.4m;
        var before = errors.Count;
        if (r.LayerHeightMm is { } lh && lh > nozzle * LayerReach)
            errors.Add(new("layerHeightMm", $"{Say.N(lh, 3)} mm is more than a {Say.N(nozzle, 3)} mm nozzle lays: at most {Say.N(nozzle * LayerReach, 3)} mm.",
                TowerOffers.LayerHeights(r).Take(3).ToList()));
        if (r.FirstLayerHeightMm is { } fl && fl > nozzle)
            errors.Add(new("firstLayerHeightMm", $"{Say.N(fl, 3)} mm is more than a {Say.N(nozzle, 3)} mm nozzle presses down: at most " +
                $"{Say.N(nozzle, 3)} mm."));
        if (errors.Count > before)
            return null;
        var layer = r.LayerHeightMm!.Value;
        var first = r.FirstLayerHeightMm!.Value;
        var baseHeight = r.BaseHeightMm!.Value;
        var section = r.SectionHeightMm!.Value;
        var perSection = section / layer;
        if (perSection != decimal.Truncate(perSection))
            errors.Add(
                new(
                    "sectionHeightMm",
                    $"{Say.N(section, 3)} mm is {Say.Plural((int)perSection, "layer")} of {Say.N(layer, 3)} mm with " +
                    $"{Say.N(section % layer, 3)} mm left over. Sections must " +
                        $"be whole layers.",
                    TowerOffers.ForSectionHeight(r)));
        if (baseHeight < first)
            errors.Add(new("baseHeightMm", $"The base holds the first layer: at least {Say.N(first, 3)} mm.", TowerOffers.ForBase(r)));
        else if ((baseHeight - first) % layer != 0)
            errors.Add(
                new(
                    "baseHeightMm",
                    $"{Say.N(baseHeight, 3)} mm is a first layer of {Say.N(first, 3)} and " +
                    $"{Say.Plural((int)((baseHeight - first) / layer), "layer")} of {Say.N(layer, 3)} mm " +
                        $"with {Say.N((baseHeight - first) % layer, 3)} mm left over. The base must be whole layers.",
                    TowerOffers.ForBase(r)));
        return errors.Count > before ? null : (1 + (int)((baseHeight - first) / layer), (int)perSection);
    }

    private static TowerPlanResult Build(TowerRequest r, int count, int baseLayers, int perSection, List<FieldError> errors)
    {
        var section = r.SectionHeightMm!.Value;
        var baseHeight = r.BaseHeightMm!.Value;
        var height = baseHeight + (r.Separate ? 1 : count) * section;
        var stile = TowerPiece.StileOf(r);
        errors.AddRange(stile.Check((double)r.LayerHeightMm!.Value));
        if (errors.Count > 0)
            return new(null, errors);
        var depth = stile.DepthMm;
        if (r.BedHeightMm is { } bed && height > bed)
        {
            errors.Add(new("sectionHeightMm", $"{count} sections stand {Say.N(height, 3)} mm tall; the printer has {Say.N(bed, 3)} mm above the bed.",
                TowerOffers.ForHeight(r, count, bed)));
            return new(null, errors);
        }

        var sections = Enumerable.Range(0, count).Select(i =>
        {
            // Separate pieces all begin at the bed.
            var below = r.Separate ? 0 : i;
            return new TowerSection(i, r.HottestC!.Value - i * r.StepC!.Value, baseHeight + below * section, baseHeight + (below + 1) * section,
                baseLayers + below * perSection + 1, baseLayers + (below + 1) * perSection);
        }).ToList();
        var slender = (double)height / depth;
        var warnings = TowerLimits.Warnings(r);
        IReadOnlyList<Offer> offers = [];
        if (slender > SlenderFrom && !r.Separate)
        {
            warnings.Add(new(PlanWarningKind.Slender, (double)height, depth, slender, SlenderFrom, r.Brim ? 1 : 0));
            offers = TowerOffers.ForSlenderness(r, count, (double)height);
        }

        var estimate = Estimate(r, sections, (double)baseHeight, stile);
        if (estimate.MinutesAboveContinuousLimit > 0)
            warnings.Add(TowerLimits.ContinuousWarning(r, estimate.MinutesAboveContinuousLimit));
        return new(
            new TowerPlan
            {
                StileForm = Stile.Form, Request = r, Sections = sections, LayersPerSection = perSection, BaseLayers = baseLayers,
                TotalLayers = (r.Separate ? count : 1) * baseLayers + count * perSection, HeightMm = height, StepC = r.StepC!.Value, Slenderness = slender,
                Checkpoints = r.Separate
                    ? [.. sections.Select(x => new TowerCheckpoint(1, 0, x.TemperatureC, x.Index, x.Index > 0, null, x.Index))]
                    : Checkpoints(sections),
                Estimate = estimate, Warnings = warnings, Offers = offers,
            },
            []);
    }

    /// <summary>The checkpoint table of sections: the start of the print, then each change.</summary>
    public static IReadOnlyList<TowerCheckpoint> Checkpoints(IReadOnlyList<TowerSection> sections) =>
        sections.Select(s => s.Index == 0
            ? new TowerCheckpoint(1, s.FromZMm is null ? null : 0, s.TemperatureC, 0, false)
            : new TowerCheckpoint(s.FirstLayer, s.FromZMm, s.TemperatureC, s.Index, true)).ToList();

    /// <summary>
    /// Rough time and mass: solid volume at 4 mm³/s for a 0.4 mm nozzle (more by its area), no layer under 10 s, 3 s of travel a layer. <see
    /// cref="TowerPiece"/> puts the file's own figures in its place.
    /// </summary>
    private static TrialEstimate Estimate(TowerRequest r, IReadOnlyList<TowerSection> sections, double baseHeight, Stile stile)
    {
        var layer = (double)r.LayerHeightMm!.Value;
        var flow = 4 * Math.Pow(stile.Scale, 2);
        double Seconds(double volume, double height) => height / layer * (Math.Max(10, volume / (height / layer) / flow) + 3);
        var sectionSeconds = Seconds(stile.SectionVolumeMm3, stile.SectionHeightMm);
        var baseSeconds = Seconds(stile.BaseVolumeMm3(baseHeight), baseHeight);
        var bases = r.Separate ? sections.Count : 1;
        var total = bases * baseSeconds + sections.Count * sectionSeconds;
        var above = r.Limits?.ContinuousMax is { } limit
            ? sections.Count(s => s.TemperatureC > limit) * sectionSeconds + (sections[0].TemperatureC > limit ? baseSeconds : 0)
            : 0;
        var volume = bases * stile.BaseVolumeMm3(baseHeight) + sections.Count * stile.SectionVolumeMm3;
        return new((int)Math.Ceiling(total / 60), Math.Round(volume / 1000 * (double)(r.DensityGPerCm3 ?? 1.24m), 1), (int)Math.Ceiling(above / 60));
    }

    internal static IReadOnlyDictionary<string, decimal> Map(params (string Field, decimal Value)[] changes) =>
        changes.ToDictionary(c => c.Field, c => c.Value);


    /// <summary>The machine's cold-extrusion limit for a request, °C.</summary>
    internal static decimal ColdLimit(TowerRequest r) => r.Limits?.Min ?? (decimal)HotendLimits.ColdExtrusionC;
}
