namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>
/// Sections that a model shows by itself: the same again and again, above a base. The pitch is measured in mm over all of them, not in layers of one: a pitch
/// of 7.44 mm in layers of 0.2 mm has sections of 37, 37, 37, 37 and 38 layers, and counting 37 for all is two millimetres off at the tenth.
/// </summary>
/// <param name="BaseLayers">Layers beneath the first section.</param>
/// <param name="SectionLayers">Layers of a section, to the nearest whole one.</param>
/// <param name="Sections">How many.</param>
/// <param name="BaseMm">Height of the base, mm.</param>
/// <param name="SectionMm">Pitch: height of a section, mm.</param>
public sealed record Repeats(int BaseLayers, int SectionLayers, int Sections, double BaseMm, double SectionMm)
{
    /// <summary>Usual layer height of the file, mm.</summary>
    public double LayerHeightMm { get; init; } = double.NaN;

    /// <summary>Layers of a section, as many as they really are; a fraction where the pitch is no whole number of them.</summary>
    public double LayersPerSection => LayerHeightMm > 0 ? Math.Round(SectionMm / LayerHeightMm, 3) : SectionLayers;

    /// <summary>True where a section is a whole number of layers.</summary>
    public bool Whole => IsWhole(SectionMm, LayerHeightMm);

    /// <summary>Layer heights in whole steps of a usual lead screw (0.04 mm), 0.08 to 0.4 mm, at which a section is whole; each with its layers.</summary>
    public IReadOnlyList<(double HeightMm, int Layers)> Fitting =>
        [
            .. Enumerable.Range(2, 9).Select(i => Math.Round(i * 0.04, 2)).Where(h => IsWhole(SectionMm, h))
                .Select(h => (h, (int)Math.Round(SectionMm / h))).Reverse(),
        ];

    private static bool IsWhole(double pitch, double height) => height > 0 && Math.Abs(pitch / height - Math.Round(pitch / height)) * height < 0.004;

    /// <summary>Layers that are looked at, from the bottom of the first object.</summary>
    private const int Most = 5000;

    /// <summary>Looks for the shortest pitch at which the layers repeat to the top of the first object.</summary>
    /// <returns>Null where nothing repeats, as in a plain block.</returns>
    public static Repeats? Of(FileFacts f)
    {
        var layers = f.Model.TakeWhile(l => l.Object == 0).Take(Most).ToList();
        var n = layers.Count;
        if (n < 12)
            return null;
        var v = layers.Select(l => l.Volume / Math.Max(l.Thickness, 1e-6)).ToArray();
        // The first layer is often thicker and wider: it says nothing of what repeats.
        var mean = v.Skip(1).Average();
        if (mean <= 0 || v.Skip(1).Average(x => Math.Abs(x - mean)) < 0.02 * mean)
            return null;
        var height = layers.Select(l => l.Thickness).Order().ElementAt(n / 2);
        var top = layers[^1].Z;
        // Shortest first: what repeats every second section repeats in each pair, too.
        for (var lag = 4; lag <= n / 3; lag++)
        {
            if (Apart(v, lag, n) is not { } rough || rough >= Alike)
                continue;
            // Long sections are alike a layer or two before they fall on each other: on to where they do.
            while (lag < n / 3 && Apart(v, lag + 1, n) is { } nearer && nearer < rough)
                (rough, lag) = (nearer, lag + 1);
            var pitch = Refined(v, lag, n) * height;
            var whole = Math.Round(pitch / height) * height;
            // A whole number of layers where it comes out as one within what a layer tells over all sections.
            if (Math.Abs(pitch - whole) * (n * height / pitch) < height)
                pitch = whole;
            pitch = Math.Round(pitch, 2);
            // Half a layer more is a section still: its top is rounded to a layer, too.
            var sections = (int)Math.Floor((top + height / 2) / pitch);
            if (sections < 2)
                return null;
            var bottom = Math.Max(0, top - sections * pitch);
            var below = bottom < height / 2 ? 0 : layers.Count(l => l.Z <= bottom + height / 2);
            var own = v.Skip(below).ToArray();
            if (own.Average(x => Math.Abs(x - own.Average())) <= 0.02 * own.Average())
                continue;
            return new(below, (int)Math.Round(pitch / height), sections, below == 0 ? 0 : Math.Round(bottom, 2), pitch)
            {
                LayerHeightMm = Math.Round(height, 4),
            };
        }

        return null;
    }

    /// <summary>Difference of layers a lag apart that still counts as the same, as a share of their scatter.</summary>
    private const double Alike = 0.15;

    /// <summary>How far layers a lag apart differ, as a share of how far layers differ at all; each may lie one layer off, as a boundary is rounded.</summary>
    /// <returns>Null where too few are left to compare.</returns>
    private static double? Apart(double[] v, double lag, int n)
    {
        var from = Math.Max(1, n - (int)Math.Floor(Math.Floor(n / lag) * lag));
        var (sum, count, middle) = (0.0, 0, 0.0);
        for (var i = from; i < n; i++)
            middle += v[i] / (n - from);
        var own = 0.0;
        for (var i = from; i < n; i++)
            own += Math.Abs(v[i] - middle) / (n - from);
        if (own <= 0.02 * middle)
            return null;
        for (var i = from; i + lag < n - 1; i++)
        {
            var at = i + lag;
            var (low, high) = ((int)Math.Floor(at), (int)Math.Ceiling(at));
            sum += Math.Min(Math.Abs(v[i] - v[low]), Math.Abs(v[i] - v[high]));
            count++;
        }

        return count == 0 ? null : sum / count / own;
    }

    /// <summary>The lag in layers, with its fraction: the one at which the farthest sections still fall on each other.</summary>
    private static double Refined(double[] v, int lag, int n)
    {
        var (best, width) = ((double)lag, 1.0);
        for (var k = 1; (k + 1) * best < n - 4; k++)
        {
            // At k sections a layer's doubt is a k-th of a layer of the pitch.
            var steps = Enumerable.Range(-8, 17).Select(i => best + i * width / 8).Where(p => p * k < n - 4).ToList();
            var tried = steps.ConvertAll(p => (P: p, D: Exact(v, p * k, n)));
            var least = tried.Min(t => t.D);
            best = tried.Where(t => t.D <= least + 1e-9).Average(t => t.P);
            width = 1.0 / (k + 1);
        }

        // Then all distances at once: where each section meets every other one best.
        var fine = Enumerable.Range(-20, 41).Select(i => best + i * width / 20).ToList();
        var sums = fine.ConvertAll(p =>
        {
            var each = Enumerable.Range(1, (int)((n - 4) / p)).Select(k => Exact(v, p * k, n)).Where(d => d < double.MaxValue).ToList();
            return (P: p, D: each.Count == 0 ? 0 : each.Average());
        });
        var lowest = sums.Min(t => t.D);
        var spread = sums.Max(t => t.D) - lowest;
        // The middle of the valley, not its deepest point: at whole layers nothing is interpolated, and that pulls.
        var valley = sums.Where(t => t.D <= lowest + 0.25 * spread).ToList();
        return valley.Sum(t => t.P * (lowest + 0.25 * spread - t.D + 1e-12)) / valley.Sum(t => lowest + 0.25 * spread - t.D + 1e-12);
    }

    /// <summary>How far layers a lag apart differ where none may lie off: between two layers the nearer one counts by its share.</summary>
    private static double Exact(double[] v, double lag, int n)
    {
        var (sum, count) = (0.0, 0);
        for (var i = Math.Max(1, n % Math.Max(1, (int)lag)); i + lag < n - 1; i++)
        {
            var at = i + lag;
            var low = (int)Math.Floor(at);
            sum += Math.Abs(v[i] - (v[low] * (1 - (at - low)) + v[low + 1] * (at - low)));
            count++;
        }

        return count == 0 ? double.MaxValue : sum / count;
    }
}
