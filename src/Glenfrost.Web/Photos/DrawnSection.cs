using SkiaSharp;

namespace Glenfrost.Web.Photos;

/// <summary>
/// A made-up photo for the demo: one stile of a tower on a bench, with the faults that its scores tell of. It goes through the same door as a camera's.
/// </summary>
public static class DrawnSection
{
    private const int Width = 960, Height = 720;

    /// <summary>Draws a section.</summary>
    /// <param name="scores">Aspect to score, 0–4; a missing one is drawn clean.</param>
    /// <param name="seed">Light, angle and the course of each string.</param>
    /// <returns>A PNG.</returns>
    public static byte[] Png(IReadOnlyDictionary<string, double> scores, int seed)
    {
        var random = new Random(seed);
        double Fault(string aspect) => 4 - scores.GetValueOrDefault(aspect, 4);
        float Shake(double by) => (float)((random.NextDouble() - 0.5) * 2 * by);
        using var surface = SKSurface.Create(new SKImageInfo(Width, Height));
        var c = surface.Canvas;
        c.Clear(new SKColor(0xC9, 0xC6, 0xBC));
        using (var bench = Fill(0xA8, 0xA2, 0x94))
            c.DrawRect(0, 560, Width, 160, bench);
        c.Translate(480, 360);
        c.RotateDegrees(Shake(1.6));
        c.Scale(1 + Shake(0.03));
        c.Translate(-480, -360);
        var light = (byte)(0xB4 + random.Next(18));
        using var body = Fill(light, (byte)(light - 12), (byte)(light - 40));
        using var dark = Fill(0x8A, 0x80, 0x6A);
        using var line = new SKPaint { Color = new SKColor(0x5F, 0x58, 0x48, 130), StrokeWidth = 1.4f, IsAntialias = true, Style = SKPaintStyle.Stroke };
        using var edge = new SKPaint { Color = new SKColor(0x4A, 0x45, 0x3A), StrokeWidth = 2, IsAntialias = true, Style = SKPaintStyle.Stroke };
        void Shape(string path, SKPaint with)
        {
            using var p = SKPath.ParseSvgPathData(path);
            c.DrawPath(p, with);
            c.DrawPath(p, edge);
        }

        // Posts, slab, reeds and wall, as the stile stands; the lintel sags and the slab curls with their scores.
        Shape("M170 590V150H290V590Z", body);
        Shape("M640 590V150H720V590Z", body);
        Shape("M170 590C120 560 105 430 105 370S120 180 170 150Z", dark);
        var curl = (float)(Fault("overhang") * 11);
        Shape(FormattableString.Invariant($"M720 540L850 {300 - curl}L852 {255 - curl}Q800 {330 - curl / 2} 720 450Z"), body);
        Shape("M370 590V300H410V590ZM540 590V300H580V590Z", body);
        var sag = (float)(Fault("bridge") * 16);
        Shape(FormattableString.Invariant($"M290 150H640V200Q465 {200 + sag * 2} 290 200Z"), body);
        for (var y = 158; y < 588; y += 9)
        {
            var rough = Fault("surface") * 1.7;
            foreach (var (from, to) in new[] { (172, 288), (642, 718) })
            {
                using var layer = new SKPathBuilder();
                layer.MoveTo(from, y + Shake(rough));
                for (var x = from + 12; x <= to; x += 12)
                    layer.LineTo(x, y + Shake(rough));
                using var path = layer.Detach();
                c.DrawPath(path, line);
            }
        }

        using var hair = new SKPaint { Color = new SKColor(0x6E, 0x66, 0x52, 220), StrokeWidth = 1.3f, IsAntialias = true, Style = SKPaintStyle.Stroke };
        for (var i = 0; i < Fault("strings") * 7; i++)
        {
            var (y, dip) = (310 + random.Next(260), 6 + random.Next(26));
            using var path = SKPath.ParseSvgPathData(FormattableString.Invariant($"M410 {y}Q475 {y + dip} 540 {y + Shake(14)}"));
            c.DrawPath(path, hair);
        }

        for (var i = 0; i < Fault("bond"); i++)
            c.DrawLine(640, 240 + i * 95, 720, 240 + i * 95 + Shake(3), new SKPaint { Color = new SKColor(0x2A, 0x28, 0x22), StrokeWidth = 3.5f });
        using var image = surface.Snapshot();
        using var data = image.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }

    private static SKPaint Fill(byte r, byte g, byte b) => new() { Color = new SKColor(r, g, b), IsAntialias = true };
}
