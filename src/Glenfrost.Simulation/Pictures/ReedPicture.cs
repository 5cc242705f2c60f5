using System.Globalization;
using SkiaSharp;

namespace Glenfrost.Simulation.Pictures;

/// <summary>What a drawn picture of two reeds shows. Lengths in mm.</summary>
/// <param name="GapMm">Clear gap.</param>
/// <param name="PostMm">Diameter of a reed.</param>
/// <param name="Strings">Strings between them.</param>
public sealed record ReedView(double GapMm, double PostMm, int Strings)
{
    /// <summary>Turned by, °.</summary>
    public double TiltDeg { get; init; }

    /// <summary>Blur, px; 0 is sharp.</summary>
    public double BlurPx { get; init; }

    /// <summary>Noise of the camera, standard deviation of a grey value 0–255.</summary>
    public double Noise { get; init; } = 2;

    /// <summary>How much darker the right edge is than the left, share of the light.</summary>
    public double Uneven { get; init; } = 0.1;

    /// <summary>Thickness of a string, px.</summary>
    public double StringPx { get; init; } = 2.2;
}

/// <summary>A drawn picture, and where its reeds are.</summary>
/// <param name="Bytes">PNG.</param>
/// <param name="Left">Middle of the left reed, px.</param>
/// <param name="Right">Middle of the right reed, px.</param>
/// <param name="Strings">Strings that were drawn.</param>
/// <param name="Coverage">Share of the gap's height that a string crosses, 0–1: by string, not by its sag.</param>
public sealed record DrawnReeds(byte[] Bytes, (double X, double Y) Left, (double X, double Y) Right, int Strings, double Coverage);

/// <summary>Two reeds before a plain ground with a known number of strings between them, tilted, blurred, noisy and unevenly lit as asked.</summary>
public static class ReedPicture
{
    private const int Width = 960, Height = 720, Scale = 30;

    /// <summary>Height of the reeds in the picture, px.</summary>
    public const int ReedPx = 420;

    /// <summary>Draws it.</summary>
    public static DrawnReeds Png(ReedView view, ulong seed)
    {
        var chance = new Chance(seed).Of("reeds");
        using var surface = SKSurface.Create(new SKImageInfo(Width, Height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        var c = surface.Canvas;
        c.Clear(new SKColor(0xC4, 0xC0, 0xB4));
        var (gap, post) = (Math.Min(view.GapMm * Scale, 620), view.PostMm * Scale);
        c.Save();
        c.RotateDegrees((float)view.TiltDeg, Width / 2f, Height / 2f);
        var (l, r) = (Width / 2.0 - gap / 2, Width / 2.0 + gap / 2);
        var (top, foot) = (Height / 2.0 - ReedPx / 2.0, Height / 2.0 + ReedPx / 2.0);
        using (var body = new SKPaint { Color = new SKColor(0x6E, 0x5A, 0x86), IsAntialias = true })
        using (var shade = new SKPaint { Color = new SKColor(0x5C, 0x4A, 0x72), IsAntialias = true })
        using (var layer = new SKPaint { Color = new SKColor(0x54, 0x44, 0x68, 150), StrokeWidth = 1.2f, IsAntialias = true })
        {
            foreach (var x in new[] { l - post, r })
            {
                c.DrawRect((float)x, (float)top, (float)post, ReedPx + 60, body);
                c.DrawRect((float)(x + post * 0.72), (float)top, (float)(post * 0.28), ReedPx + 60, shade);
                for (var y = top; y < foot + 60; y += 6)
                    c.DrawLine((float)x, (float)y, (float)(x + post), (float)y, layer);
            }
        }

        // Strings do not lie upon each other: each has its own place of the height.
        var places = Enumerable.Range(0, Math.Max(1, view.Strings)).Select(i => top + 14 + (ReedPx - 40) * (i + 0.5) / Math.Max(1, view.Strings)).ToList();
        var room = (ReedPx - 40) / Math.Max(1.0, view.Strings);
        using (
            var pen = new SKPaint { Color = new SKColor(0x5E, 0x4C, 0x74), StrokeWidth = (float)view.StringPx, IsAntialias = true, Style = SKPaintStyle.Stroke }
        )
        {
            for (var i = 0; i < view.Strings; i++)
            {
                var y = places[i] + chance.Between(-0.2, 0.2) * room;
                using var path = SKPath.ParseSvgPathData(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"M{l - 1:0.0} {y:0.0}Q{(l + r) / 2:0.0} {y + Math.Min(room * 0.5, chance.Between(1, 9)):0.0} {r + 1:0.0} " +
                            $"{y + chance.Between(-0.15, 0.15) * Math.Min(room, 16):0.0}"
                    ));
                c.DrawPath(path, pen);
            }
        }

        c.Restore();
        using var drawn = surface.Snapshot();
        using var bitmap = Finish(drawn, view, chance);
        using var image = SKImage.FromBitmap(bitmap);
        using var data = image.Encode(SKEncodedImageFormat.Png, 90);
        (double, double) Turned(double x, double y)
        {
            var (sin, cos) = Math.SinCos(view.TiltDeg * Math.PI / 180);
            return (Width / 2.0 + (x - Width / 2.0) * cos - (y - Height / 2.0) * sin, Height / 2.0 + (x - Width / 2.0) * sin + (y - Height / 2.0) * cos);
        }

        return new(
            data.ToArray(), Turned(l - post / 2, Height / 2.0), Turned(r + post / 2, Height / 2.0), view.Strings,
            Math.Min(1, view.Strings * view.StringPx / ReedPx));
    }

    /// <summary>What a lens, a sensor and a lamp make of it.</summary>
    private static SKBitmap Finish(SKImage image, ReedView view, Chance chance)
    {
        using var surface = SKSurface.Create(new SKImageInfo(Width, Height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        using var paint = new SKPaint { ImageFilter = view.BlurPx > 0 ? SKImageFilter.CreateBlur((float)view.BlurPx, (float)view.BlurPx) : null };
        surface.Canvas.DrawImage(image, 0, 0, SKSamplingOptions.Default, paint);
        using var snap = surface.Snapshot();
        var bitmap = SKBitmap.FromImage(snap);
        var noise = chance.Of("noise");
        var pixels = bitmap.Pixels;
        for (var i = 0; i < pixels.Length; i++)
        {
            var light = 1 - view.Uneven * (i % Width / (double)Width - 0.3) - 0.4 * view.Uneven * (i / Width / (double)Height - 0.5);
            // A sum of four even draws is near enough to a normal one, and cheap.
            var n = (noise.Uniform() + noise.Uniform() + noise.Uniform() + noise.Uniform() - 2) * Math.Sqrt(3) * view.Noise;
            byte At(byte v) => (byte)Math.Clamp(v * light + n, 0, 255);
            pixels[i] = new SKColor(At(pixels[i].Red), At(pixels[i].Green), At(pixels[i].Blue));
        }

        bitmap.Pixels = pixels;
        return bitmap;
    }
}
