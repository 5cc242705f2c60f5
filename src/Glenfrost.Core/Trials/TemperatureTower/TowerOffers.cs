using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using static Glenfrost.Core.Trials.TemperatureTower.TowerPlanning;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Offers that fit: each one, applied, settles the field at which it stands.</summary>
internal static class TowerOffers
{
    /// <summary>Steps of a usual lead screw, mm: layer heights that are multiples of it fall on full steps.</summary>
    private const decimal ScrewStepMm = 0.04m;

    internal static IReadOnlyList<Offer> ForRange(TowerRequest r, decimal hot, decimal cool, decimal step)
    {
        var offers = new List<Offer>();
        var floor = decimal.Truncate((hot - cool) / step);
        var max = r.Limits?.Max ?? 500;
        void Range(decimal h, decimal c)
        {
            if (h > c && h <= max && c >= ColdLimit(r))
                offers.Add(new($"{N(h)} to {N(c)} °C by {N(step)}, {N((h - c) / step + 1)} sections", Map(("hottestC", h), ("coolestC", c))));
        }

        Range(hot, hot - (floor + 1) * step);
        if (floor >= 1)
            Range(hot, hot - floor * step);
        Range(cool + (floor + 1) * step, cool);
        offers.AddRange(Enumerable.Range(1, 20).Select(s => (decimal)s)
            .Where(s => (hot - cool) % s == 0 && (hot - cool) / s <= 59)
            .OrderBy(s => Math.Abs(s - step)).Take(2)
            .Select(s => new Offer($"steps of {N(s)} °C, {N((hot - cool) / s + 1)} sections", Map(("stepC", s)))));
        return offers;
    }

    /// <summary>Layer heights that divide the section, full screw steps first; the base is brought along.</summary>
    internal static IEnumerable<Offer> LayerHeights(TowerRequest r)
    {
        var reach = (r.NozzleDiameterMm ?? 0.4m) * LayerReach;
        var wanted = Math.Min(r.LayerHeightMm!.Value, reach);
        var section = r.SectionHeightMm!.Value;
        var hundredths = Enumerable.Range(4, 117).Select(i => i / 100m);
        return hundredths
            .Where(h => h <= reach && h >= wanted / 2 && h != r.LayerHeightMm && section % h == 0)
            .OrderBy(h => h % ScrewStepMm == 0 ? 0 : 1).ThenBy(h => Math.Abs(h - wanted))
            .Select(h =>
            {
                var changes = new List<(string, decimal)> { ("layerHeightMm", h) };
                var b = NearestBase(r, h);
                if (b != r.BaseHeightMm)
                    changes.Add(("baseHeightMm", b));
                return new Offer($"{N(h)} mm layers, {N(section / h)} a section" + (b != r.BaseHeightMm ? $", base {N(b)} mm" : ""),
                    Map([.. changes]), h % ScrewStepMm == 0 ? "full steps of a usual lead screw" : null);
            });
    }

    internal static IReadOnlyList<Offer> ForSectionHeight(TowerRequest r)
    {
        var layer = r.LayerHeightMm!.Value;
        var quantity = TowerFields.All["sectionHeightMm"];
        var floor = decimal.Truncate(r.SectionHeightMm!.Value / layer);
        var heights = new[] { floor * layer, (floor + 1) * layer }
            .Where(h => quantity.Check(h).Error is null)
            .Select(h => new Offer($"{N(h)} mm a section, {N(h / layer)} layers", Map(("sectionHeightMm", h))));
        return [.. LayerHeights(r).Take(2), .. heights];
    }

    internal static IReadOnlyList<Offer> ForBase(TowerRequest r)
    {
        var layer = r.LayerHeightMm!.Value;
        var first = r.FirstLayerHeightMm!.Value;
        var n = Math.Max(0, decimal.Truncate((r.BaseHeightMm!.Value - first) / layer));
        return new[] { first + n * layer, first + (n + 1) * layer }
            .Where(b => b != r.BaseHeightMm && TowerFields.All["baseHeightMm"].Check(b).Error is null)
            .Select(b => new Offer($"base {N(b)} mm, {N(1 + (b - first) / layer)} layers", Map(("baseHeightMm", b)))).ToList();
    }

    internal static IReadOnlyList<Offer> ForHeight(TowerRequest r, int count, decimal bed)
    {
        var layer = r.LayerHeightMm!.Value;
        var height = decimal.Truncate((bed - r.BaseHeightMm!.Value) / count / layer) * layer;
        var offers = new List<Offer>();
        if (TowerFields.All["sectionHeightMm"].Check(height).Error is null)
            offers.Add(new($"{N(height)} mm a section", Map(("sectionHeightMm", height))));
        var fits = decimal.Truncate((bed - r.BaseHeightMm!.Value) / r.SectionHeightMm!.Value);
        if (fits >= 2)
        {
            var cool = r.HottestC!.Value - (fits - 1) * r.StepC!.Value;
            offers.Add(new($"the hotter {N(fits)} sections, {N(r.HottestC!.Value)} to {N(cool)} °C", Map(("coolestC", cool)), "the rest as a second tower"));
        }

        return offers;
    }

    internal static IReadOnlyList<Offer> ForSlenderness(TowerRequest r, int count, double height)
    {
        var offers = new List<Offer>();
        if (count >= 4)
        {
            var middle = r.HottestC!.Value - (count / 2) * r.StepC!.Value;
            offers.Add(
                new(
                    $"two towers: first {N(r.HottestC!.Value)} to {N(middle)} °C", Map(("coolestC", middle)),
                    $"then {N(middle)} to {N(r.CoolestC!.Value)} °C; they share {N(middle)}, so that they can be compared"));
            offers.Add(new($"two towers: first {N(middle)} to {N(r.CoolestC!.Value)} °C", Map(("hottestC", middle))));
        }

        var depth = (decimal)Math.Ceiling(height / SlenderFrom);
        if (TowerFields.All["pieceDepthMm"].Check(depth).Error is null)
            offers.Add(
                new(
                    $"a piece {N(depth)} mm deep", Map(("pieceDepthMm", depth)),
                    $"{N(Math.Round(depth / (decimal)Stile.StandardDepthMm((double)(r.NozzleDiameterMm ?? 0.4m)) * 100 - 100))} % more filament"));
        if (!r.Brim)
            offers.Add(new("a brim", Map(("brim", 1))));
        return offers;
    }

    private static decimal NearestBase(TowerRequest r, decimal layer)
    {
        var first = r.FirstLayerHeightMm!.Value;
        var n = Math.Max(0, Math.Round((r.BaseHeightMm!.Value - first) / layer));
        return first + n * layer;
    }
}
