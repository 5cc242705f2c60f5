using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>The file of a row: lines or corners side by side, each with its factor and its number.</summary>
internal static class KRow
{
    private const double NumberMm = 12;

    /// <summary>Width and depth of the row with its numbers, mm.</summary>
    internal static (double Width, double Depth) Size(PressureRequest r) => r.Mode == PressureTrial.Corners
        ? ((double)r.LineMm * 1.42 + (double)r.SpacingMm * (double)(r.Count - 1) + 2 * NumberMm, (double)r.LineMm * 1.42 + NumberMm)
        : ((double)r.LineMm + NumberMm + 4, (double)(r.Count * r.SpacingMm));

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
                if (r.Mode == PressureTrial.Corners)
                    Corner(f, r, x0 + i * (double)r.SpacingMm, y0, z, area);
                else
                    OneLine(f, r, x0, y0 + i * (double)r.SpacingMm, z, area);
                if (layer > 1)
                    continue;
                // Numbers are written without pressure advance of the row's last one: slow enough not to matter.
                if (r.Mode == PressureTrial.Corners)
                {
                    if (i % 2 == 0)
                        Number(f, i, x0 + i * (double)r.SpacingMm - 1, y0 + (double)r.LineMm * 1.42 + 2, z, area, slow, s.LineWidthMm);
                }
                else
                {
                    Number(f, i, x0 + (double)r.LineMm + 4, y0 + i * (double)r.SpacingMm - 1.2, z, area, slow, s.LineWidthMm);
                }
            }
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
        var l = (double)r.LineMm;
        f.Go(x, y, z);
        f.To(x + l / 4, y, z, area, (double)r.SlowMmPerS);
        f.To(x + 3 * l / 4, y, z, area, (double)r.FastMmPerS);
        f.To(x + l, y, z, area, (double)r.SlowMmPerS);
    }

    private static void Corner(PatternFile f, PressureRequest r, double x, double y, double z, double area)
    {
        // Two legs at a right angle: the speed breaks at the corner and rises again.
        var d = (double)r.LineMm * 0.7071;
        f.Go(x, y, z);
        f.To(x + d, y + d, z, area, (double)r.FastMmPerS);
        f.To(x, y + 2 * d, z, area, (double)r.FastMmPerS);
    }

    /// <summary>Strokes of a digit in a box of 1 by 2.</summary>
    private static readonly (double X, double Y)[][] Strokes =
    [
        [(0, 0), (1, 0), (1, 2), (0, 2), (0, 0)],
        [(0.5, 0), (0.5, 2)],
        [(0, 2), (1, 2), (1, 1), (0, 1), (0, 0), (1, 0)],
        [(0, 2), (1, 2), (1, 1), (0.2, 1), (1, 1), (1, 0), (0, 0)],
        [(0, 2), (0, 1), (1, 1), (1, 2), (1, 0)],
        [(1, 2), (0, 2), (0, 1), (1, 1), (1, 0), (0, 0)],
        [(1, 2), (0, 2), (0, 0), (1, 0), (1, 1), (0, 1)],
        [(0, 2), (1, 2), (1, 0)],
        [(0, 1), (0, 2), (1, 2), (1, 0), (0, 0), (0, 1), (1, 1)],
        [(1, 0), (1, 2), (0, 2), (0, 1), (1, 1)],
    ];

    private static void Number(PatternFile f, int n, double x, double y, double z, double area, double speed, double width)
    {
        var size = Math.Max(1.2, 3 * width);
        foreach (var digit in n.ToString(System.Globalization.CultureInfo.InvariantCulture))
        {
            var stroke = Strokes[digit - '0'];
            f.Go(x + stroke[0].X * size, y + stroke[0].Y * size, z);
            foreach (var (px, py) in stroke.Skip(1))
                f.To(x + px * size, y + py * size, z, 0.8 * area, Math.Min(speed, 20));
            x += 1.9 * size;
        }
    }
}
