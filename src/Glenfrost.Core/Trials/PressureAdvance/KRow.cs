using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>
/// The file of a row: lines or crooks side by side, each with its factor. A line goes slow, fast, slow, then fast into a corner and stops there: the change of
/// speed and the corner are two witnesses of one pressure. A crook is three right angles at speed. They are counted with a thumb: a bar every fifth, and so
/// many notches beyond it; marks before and behind the row say where the speed changes.
/// </summary>
public static class KRow
{
    /// <summary>Room for bar and notches before each, mm.</summary>
    public const double CountMm = 13;

    /// <summary>Way at speed before the corner at a line's end, and from there to the stop, mm; the second one shorter where neighbours are near.</summary>
    public const double HookMm = 8, StopMm = 2.8;

    /// <summary>Lines that a bar stands for.</summary>
    public const int BarEvery = 5;

    /// <summary>Width and depth of the row with what counts it, mm.</summary>
    public static (double Width, double Depth) Size(PressureRequest r) => r.Mode == PressureTrial.Corners
        ? ((double)r.LineMm + (double)r.SpacingMm * (double)(r.Count - 1) + CountMm, (double)r.LineMm + (double)r.SpacingMm * (double)(r.Count - 1))
        : ((double)r.LineMm + CountMm + HookMm, (double)(r.Count * r.SpacingMm) + 8);

    /// <summary>From a line's corner to its stop, mm.</summary>
    public static double StopOf(PressureRequest r) => Math.Min(StopMm, 0.6 * (double)r.SpacingMm);

    /// <summary>Where each begins within the row, mm, from its lower left.</summary>
    /// <param name="r">The row.</param>
    /// <param name="i">Its number, from 0.</param>
    public static (double X, double Y) At(PressureRequest r, int i) => r.Mode == PressureTrial.Corners
        ? (CountMm + i * (double)r.SpacingMm, ((double)r.Count - 1 - i) * (double)r.SpacingMm)
        : (CountMm, 4 + i * (double)r.SpacingMm);

    /// <summary>What counts one, relative to where it begins, mm: a bar for each fifth, else the notches beyond the last bar.</summary>
    /// <param name="i">Its number, from 0.</param>
    public static IReadOnlyList<(double X0, double Y0, double X1, double Y1)> Count(int i) => i % BarEvery == 0
        ? [(-CountMm + 2, 0, -3, 0)]
        : [.. Enumerable.Range(0, i % BarEvery).Select(k => (-3.5 - 2.2 * k, -1.2, -3.5 - 2.2 * k, 1.2))];

    /// <summary>Lines of the file, or the refusals of its own code.</summary>
    internal static (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(PressurePlan p, PlanContext c)
    {
        var (r, m, s) = (p.Request, c.Machine!, c.Settings! with { AccelerationMmPerS2 = (double)p.Request.AccelerationMmPerS2 });
        var h = (double)r.LayerHeightMm;
        var (f, errors) = PatternFile.Begin(
            m, s, (double)r.NozzleTemperatureC,
            [$"pressure advance, {c.Subject}", ((ITrialPlan)p).Summary, $"factors: {string.Join(", ", p.Ks.Select((k, i) => $"{i} = {Say.N(k, 4)}"))}"], h,
            h * (double)r.Layers);
        if (f is null)
            return (null, new(0, null, 0), errors);
        var area = s.SpacingMm(h) * h;
        f.Fan(0);
        f.Prime(h, area);
        var (w, d) = Size(r);
        var (x0, y0) = ((m.BedXMm - w) / 2, Math.Max(12, (m.BedYMm - d) / 2));
        var slow = (double)r.SlowMmPerS;
        for (var layer = 1; layer <= (int)r.Layers; layer++)
        {
            var z = Math.Round(layer * h, 4);
            f.Comment($"layer {layer}, z {Say.N(z, 3)}");
            if (layer == 2)
                f.Fan(s.FanPercent);
            foreach (var (k, i) in p.Ks.Select((k, i) => (k, i)))
            {
                f.Line($"{f.Dialect.PressureAdvance((double)k)} ; number {i}");
                var (x, y) = At(r, i) is var at ? (x0 + at.X, y0 + at.Y) : default;
                if (r.Mode == PressureTrial.Corners)
                    Crook(f, r, x, y, z, area);
                else
                    OneLine(f, r, x, y, z, area);
                // What counts is laid with the factor of its line: slow enough not to matter.
                foreach (var (fromX, fromY, toX, toY) in layer == 1 ? Count(i) : [])
                    Stroke(f, x + fromX, y + fromY, x + toX, y + toY, z, area, slow);
            }

            if (layer > 1 || r.Mode == PressureTrial.Corners)
                continue;
            var (first, l) = (x0 + CountMm, (double)r.LineMm);
            foreach (var (at, front) in new[] { (first + l / 4, true), (first + 3 * l / 4, true), (first + 3 * l / 4, false), (first + l / 4, false) })
                Stroke(f, at, front ? y0 : y0 + d - 2, at, front ? y0 + 2 : y0 + d, z, area, slow);
        }

        f.Line($"{f.Dialect.PressureAdvance(s.PressureAdvance ?? 0)} ; as before");
        var mass = f.FeedMm * f.FilamentAreaMm2 / 1000 * s.DensityGPerCm3;
        var lines = f.End();
        return (
            lines,
            new((int)Math.Ceiling(f.Seconds / 60), Math.Round(mass, 1), 0, true, s.PriceMinorPerKg is { } price ? Math.Round(price * mass / 1000) : null), []);
    }

    private static void OneLine(PatternFile f, PressureRequest r, double x, double y, double z, double area)
    {
        var (l, slow, fast) = ((double)r.LineMm, (double)r.SlowMmPerS, (double)r.FastMmPerS);
        f.Go(x, y, z);
        f.To(x + l / 4, y, z, area, slow);
        f.To(x + 3 * l / 4, y, z, area, fast);
        f.To(x + l, y, z, area, slow);
        // The second witness: a corner at speed, and a stop.
        f.To(x + l + HookMm, y, z, area, fast);
        f.To(x + l + HookMm, y + StopOf(r), z, area, fast);
    }

    private static void Crook(PatternFile f, PressureRequest r, double x, double y, double z, double area)
    {
        // Four legs at right angles, like a stair: the speed breaks at three corners and rises again.
        var (leg, fast) = ((double)r.LineMm / 2, (double)r.FastMmPerS);
        f.Go(x, y, z);
        f.To(x + leg, y, z, area, fast);
        f.To(x + leg, y + leg, z, area, fast);
        f.To(x + 2 * leg, y + leg, z, area, fast);
        f.To(x + 2 * leg, y + 2 * leg, z, area, fast);
    }

    private static void Stroke(PatternFile f, double x0, double y0, double x1, double y1, double z, double area, double slow)
    {
        f.Go(x0, y0, z);
        f.To(x1, y1, z, 0.9 * area, Math.Min(slow, 20));
    }
}
