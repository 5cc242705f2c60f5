using Glenfrost.Core.Settings;
using static Glenfrost.Core.Trials.TemperatureTower.TowerPlanning;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>The counting form for somebody's own model: total layers, base layers, sections.</summary>
internal static class OwnModelTower
{
    /// <summary>Fills in whichever of coolest and step was left out.</summary>
    internal static TowerRequest Complete(TowerRequest r)
    {
        if (r is not { HottestC: { } hot, Sections: { } sections })
            return r;
        if (r.CoolestC is null && r.StepC is { } step)
            return r with { CoolestC = hot - (sections - 1) * step };
        if (r.StepC is null && r.CoolestC is { } cool && hot > cool)
            return r with { StepC = (hot - cool) / (sections - 1) };
        return r;
    }

    internal static TowerPlanResult Plan(TowerRequest r, List<FieldError> errors)
    {
        var total = r.TotalLayers!.Value;
        var baseLayers = r.BaseLayers!.Value;
        var sections = r.Sections!.Value;
        if (r is { HottestC: { } hot, CoolestC: { } cool, StepC: { } step } && hot > cool && errors.Count == 0 && (hot - cool) / step + 1 != sections)
            errors.Add(
                new(
                    "stepC", $"{Say.N(hot, 3)} to {Say.N(cool, 3)} °C by {Say.N(step, 3)} is {Say.N((hot - cool) / step + 1, 3)} sections, not " +
                    $"{Say.N(sections, 3)}.",
                    [
                        .. (
                            hot - (sections - 1) * step >= ColdLimit(r)
                                ? new[] { new Offer($"down to {Say.N(hot - (sections - 1) * step, 3)} °C", Map(("coolestC", hot - (sections - 1) * step))) }
                                : []),
                        .. (
                            (hot - cool) % (sections - 1) == 0
                                ? new[] { new Offer($"steps of {Say.N((hot - cool) / (sections - 1), 3)} °C", Map(("stepC", (hot - cool) / (sections - 1)))) }
                                : []),
                    ]));
        var body = total - baseLayers;
        if (body < sections)
        {
            errors.Add(
                new(
                    "totalLayers",
                    $"{Say.N(total, 3)} layers less {Say.N(baseLayers, 3)} of base leave {Say.N(Math.Max(0, body), 3)} for {Say.N(sections, 3)} " +
                    $"sections: at least one layer each is " +
                        $"needed."
                ));
            return new(null, errors);
        }

        var remainder = body % sections;
        var per = decimal.Truncate(body / sections);
        if (remainder != 0 && !r.RoundByHeight)
            errors.Add(
                new(
                    "totalLayers",
                    $"{Say.N(body, 3)} layers in {Say.N(sections, 3)} sections are {Say.N(per, 3)} each with {Say.N(remainder, 3)} left over. " +
                    $"Counted at {Say.N(per, 3)} a section the top " +
                        $"would be {Say.N(remainder, 3)} layers{Mm(r, remainder)} off.",
                    Offers(r, total, baseLayers, sections, body, remainder, per)));
        if (errors.Count > 0)
            return new(null, errors);
        return new(Build(r, (int)total, (int)baseLayers, (int)sections), []);
    }

    private static IReadOnlyList<Offer> Offers(
        TowerRequest r, decimal total, decimal baseLayers, decimal sections, decimal body, decimal remainder, decimal per)
    {
        var worst = WorstError((int)body, (int)sections);
        var offers = new List<Offer>
        {
            new("round each boundary to its nearest layer", Map(("roundByHeight", 1)), $"at worst {Say.N(worst, 3)} of a layer{Mm(r, worst)} off; " +
                $"never adds up"),
            new($"base of {Say.N(baseLayers + remainder, 3)} layers, {Say.N(per, 3)} a section", Map(("baseLayers", baseLayers + remainder))),
        };
        if (TowerFields.All["totalLayers"].Check(total - remainder).Error is null)
            offers.Add(new($"a model of {Say.N(total - remainder, 3)} layers", Map(("totalLayers", total - remainder))));
        return offers;
    }

    private static decimal WorstError(int body, int sections) =>
        Enumerable.Range(1, sections - 1).Max(i => Math.Abs(Boundary(i, body, sections) - (decimal)i * body / sections));

    private static int Boundary(int i, int body, int sections) =>
        (int)Math.Round((decimal)i * body / sections, MidpointRounding.AwayFromZero);

    private static TowerPlan Build(TowerRequest r, int total, int baseLayers, int count)
    {
        var body = total - baseLayers;
        decimal? Z(int layersBelow) => r is { LayerHeightMm: { } layer, FirstLayerHeightMm: { } first }
            ? layersBelow == 0 ? 0 : first + (layersBelow - 1) * layer
            : null;
        var sections = Enumerable.Range(0, count).Select(i =>
        {
            var from = baseLayers + Boundary(i, body, count);
            var to = baseLayers + Boundary(i + 1, body, count);
            return new TowerSection(i, r.HottestC!.Value - i * r.StepC!.Value, Z(from), Z(to), from + 1, to);
        }).ToList();
        var warnings = TowerLimits.Warnings(r);
        if (r.Limits?.ContinuousMax is { } limit && r.HottestC > limit)
            warnings.Add(TowerLimits.ContinuousWarning(r, null));
        return new TowerPlan
        {
            Request = r,
            Sections = sections,
            LayersPerSection = body % count == 0 ? body / count : null,
            BaseLayers = baseLayers,
            TotalLayers = total,
            HeightMm = Z(total),
            StepC = r.StepC!.Value,
            Checkpoints = Checkpoints(sections),
            WorstBoundaryErrorLayers = body % count == 0 ? 0 : WorstError(body, count),
            Estimate = new(0, null, 0),
            Warnings = warnings,
        };
    }

    private static string Mm(TowerRequest r, decimal layers) => r.LayerHeightMm is { } h ? $" ({Say.N(layers * h, 3)} mm)" : "";
}
