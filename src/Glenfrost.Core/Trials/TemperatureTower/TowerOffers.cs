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
                offers.Add(new($"{Say.N(h, 3)} to {Say.N(c, 3)} °C by {Say.N(step, 3)}, {Say.N((h - c) / step + 1, 3)} " +
                    $"sections", Map(("hottestC", h), ("coolestC", c))));
        }

        Range(hot, hot - (floor + 1) * step);
        if (floor >= 1)
            Range(hot, hot - floor * step);
        Range(cool + (floor + 1) * step, cool);
        offers.AddRange(Enumerable.Range(1, 20).Select(s => (decimal)s)
            .Where(s => (hot - cool) % s == 0 && (hot - cool) / s <= 59)
            .OrderBy(s => Math.Abs(s - step)).Take(2)
            .Select(s => new Offer($"steps of {Say.N(s, 3)} °C, {Say.N((hot - cool) / s + 1, 3)} sections", Map(("stepC", s)))));
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
                return new Offer($"{Say.N(h, 3)} mm layers, {Say.N(section / h, 3)} a section" + (b != r.BaseHeightMm ? $", base {Say.N(b, 3)} mm" : ""),
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
            .Select(h => new Offer($"{Say.N(h, 3)} mm a section, {Say.Plural((int)(h / layer), "layer")}", Map(("sectionHeightMm", h))));
        return [.. LayerHeights(r).Take(2), .. heights];
    }

    internal static IReadOnlyList<Offer> ForBase(TowerRequest r)
    {
        var layer = r.LayerHeightMm!.Value;
        var first = r.FirstLayerHeightMm!.Value;
        var n = Math.Max(0, decimal.Truncate((r.BaseHeightMm!.Value - first) / layer));
        return new[] { first + n * layer, first + (n + 1) * layer }
            .Where(b => b != r.BaseHeightMm && TowerFields.All["baseHeightMm"].Check(b).Error is null)
            .Select(b => new Offer($"base {Say.N(b, 3)} mm, {Say.Plural((int)(1 + (b - first) / layer), "layer")}", Map(("baseHeightMm", b)))).ToList();
    }

    internal static IReadOnlyList<Offer> ForHeight(TowerRequest r, int count, decimal bed)
    {
        var layer = r.LayerHeightMm!.Value;
        var height = decimal.Truncate((bed - r.BaseHeightMm!.Value) / count / layer) * layer;
        var offers = new List<Offer>();
        if (TowerFields.All["sectionHeightMm"].Check(height).Error is null)
            offers.Add(new($"{Say.N(height, 3)} mm a section", Map(("sectionHeightMm", height))));
        var fits = decimal.Truncate((bed - r.BaseHeightMm!.Value) / r.SectionHeightMm!.Value);
        if (fits >= 2)
        {
            var cool = r.HottestC!.Value - (fits - 1) * r.StepC!.Value;
            offers.Add(new($"the hotter {Say.N(fits, 3)} sections, {Say.N(r.HottestC!.Value, 3)} to {Say.N(cool, 3)} " +
                $"°C", Map(("coolestC", cool)), "the rest as a second tower"));
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
                    $"two towers: first {Say.N(r.HottestC!.Value, 3)} to {Say.N(middle, 3)} °C", Map(("coolestC", middle)),
                    $"then {Say.N(middle, 3)} to {Say.N(r.CoolestC!.Value, 3)} °C; they share {Say.N(middle, 3)}, so that they can be compared"));
            offers.Add(new($"two towers: first {Say.N(middle, 3)} to {Say.N(r.CoolestC!.Value, 3)} °C", Map(("hottestC", middle))));
        }

        var depth = (decimal)Math.Ceiling(height / SlenderFrom);
        if (TowerFields.All["pieceDepthMm"].Check(depth).Error is null)
            offers.Add(
                new(
                    $"a piece {Say.N(depth, 3)} mm deep", Map(("pieceDepthMm", depth)),
                    $"{Say.N(Math.Round(depth / (decimal)Stile.StandardDepthMm((double)(r.NozzleDiameterMm ?? 0.4m)) * 100 - 100), 3)} % more filament"));
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
