using System.Globalization;
using Glenfrost.Simulation.Pieces;
using SkiaSharp;

namespace Glenfrost.Simulation.Pictures;

/// <summary>
/// A drawn picture of one stile of a tower on a bench, with the faults that it has: strings between the reeds, a lintel that sags, a flare whose rim curls,
/// rough or starved walls, layers that part. Good enough to score by eye; what it shows is physical, not a score.
/// </summary>
public static class SectionPicture
{
    private const int Width = 960, Height = 720;

    /// <summary>Pixels for a millimetre; faults are drawn somewhat larger than they are, as a lens would show them.</summary>
    private const double Scale = 34;

    /// <summary>Draws a section.</summary>
    /// <param name="look">What it is like.</param>
    /// <param name="seed">Light, angle and the course of each string.</param>
    /// <returns>A PNG of 960 × 720.</returns>
    public static byte[] Png(PieceLook look, ulong seed)
    {
        var chance = new Chance(seed).Of("picture");
        using var surface = SKSurface.Create(new SKImageInfo(Width, Height));
        var c = surface.Canvas;
        c.Clear(new SKColor(0xC9, 0xC6, 0xBC));
        using (var bench = Fill(0xA8, 0xA2, 0x94))
            c.DrawRect(0, 560, Width, 160, bench);
        c.Translate(480, 360);
        c.RotateDegrees((float)chance.Between(-1.6, 1.6));
        c.Scale((float)chance.Between(0.97, 1.03));
        c.Translate(-480, -360);
        if (look.Layers > 0)
            new Drawing(c, look, chance).All();
        using var pixels = surface.PeekPixels();
        // It goes one step and is made a photo there: written fast counts for more than small.
        using var data = pixels.Encode(new SKPngEncoderOptions(SKPngEncoderFilterFlags.Sub, 1));
        return data!.ToArray();
    }

    private static SKPaint Fill(byte r, byte g, byte b) => new() { Color = new SKColor(r, g, b), IsAntialias = true };

    private sealed class Drawing(SKCanvas c, PieceLook look, Chance chance)
    {
        private readonly double sag = Math.Min(4.5, look.SagMm) * Scale, curl = Math.Min(2.5, look.CurlMm) * Scale * 1.6;
        private readonly double rough = Math.Min(0.3, look.RoughMm) * Scale * 2.6;

        public void All()
        {
            var light = (byte)(0xB4 + chance.Between(0, 18));
            using var body = Fill(light, (byte)(light - 12), (byte)(light - 40));
            using var dark = Fill(0x8A, 0x80, 0x6A);
            using var edge = Pen(0x4A453A, 2);
            void Shape(string path, SKPaint with)
            {
                using var p = SKPath.ParseSvgPathData(path);
                c.DrawPath(p, with);
                c.DrawPath(p, edge);
            }

            // Posts, flare, reeds and wall, as the stile stands; walls waver as rough as they are.
            Shape(Post(170, 290), body);
            Shape(Post(640, 720), body);
            Shape("M170 590C120 560 105 430 105 370S120 180 170 150Z", dark);
            var rim = FormattableString.Invariant($"{852 - curl * 0.5:0.0} {300 - curl:0.0}");
            Shape(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"M720 540L826 355Q{846 - curl * 0.2:0.0} {322 - curl * 0.3:0.0} {rim}" +
                        $"L{838 - curl * 0.6:0.0} {262 - curl:0.0}Q790 {250 - curl * 0.4:0.0} 720 250Z"),
                body);
            using (var flute = Pen(0x5F5848, 1.4f, 130))
            {
                Line(string.Create(CultureInfo.InvariantCulture, $"M720 540L774 {352 - curl * 0.2:0.0}V{252 - curl * 0.3:0.0}"), flute);
                Line(string.Create(CultureInfo.InvariantCulture, $"M720 540L806 {354 - curl * 0.2:0.0}L{808:0} {256 - curl * 0.5:0.0}"), flute);
            }

            Shape("M370 590V300H410V590ZM540 590V300H580V590Z", body);
            Shape(FormattableString.Invariant($"M290 150H640V200Q465 {200 + 2 * sag:0.0} 290 200Z"), body);
            LooseStrands();
            Layers();
            Starved();
            Parted();
            Strings();
        }

        private string Post(double left, double right)
        {
            var text = new System.Text.StringBuilder();
            for (var y = 590; y >= 150; y -= 22)
                text.Append(FormattableString.Invariant($"{(y == 590 ? 'M' : 'L')}{left + chance.Normal(0, rough * 0.25):0.0} {y}"));
            for (var y = 150; y <= 590; y += 22)
                text.Append(FormattableString.Invariant($"L{right + chance.Normal(0, rough * 0.25):0.0} {y}"));
            return text.Append('Z').ToString();
        }

        /// <summary>Strands that hang below a lintel that sags much.</summary>
        private void LooseStrands()
        {
            using var strand = Pen(0x6E6652, 3);
            for (var i = 0; i < Math.Min(9, (int)(look.SagMm * 3.5)); i++)
            {
                var x = chance.Between(320, 560);
                var dip = 200 + sag + chance.Between(0, sag);
                Line(FormattableString.Invariant($"M{x - 24:0} {200 + sag * 0.8:0}Q{x:0} {dip + 14:0} {x + 24:0} {200 + sag * 0.8:0}"), strand);
            }
        }

        private void Layers()
        {
            using var line = Pen(0x5F5848, 1.4f, 130);
            for (var y = 158; y < 588; y += 9)
            {
                foreach (var (from, to) in new[] { (172, 288), (642, 718) })
                {
                    var text = new System.Text.StringBuilder(FormattableString.Invariant($"M{from} {y + chance.Normal(0, rough * 0.5):0.0}"));
                    for (var x = from + 12; x <= to; x += 12)
                        text.Append(FormattableString.Invariant($"L{x} {y + chance.Normal(0, rough * 0.5):0.0}"));
                    Line(text.ToString(), line);
                }
            }

            // Where plastic ran or dragged, beads stand out.
            using var bead = Fill(0x9A, 0x90, 0x78);
            for (var i = 0; i < Math.Min(40, (int)(look.RoughMm * 180)); i++)
                c.DrawCircle((float)chance.Between(176, 284), (float)chance.Between(160, 580), (float)(1.5 + rough * chance.Between(0.1, 0.35)), bead);
        }

        /// <summary>Holes and thin lines where little plastic came.</summary>
        private void Starved()
        {
            using var hole = Fill(0xC9, 0xC6, 0xBC);
            for (var i = 0; i < Math.Min(70, (int)(look.Starved * 150)); i++)
                c.DrawRect((float)chance.Between(176, 262), (float)(158 + 9 * (int)chance.Between(0, 47)), (float)chance.Between(8, 40), 5, hole);
            for (var i = 0; i < Math.Min(12, (int)(look.StartGapMm * 8)); i++)
                c.DrawRect(642, (float)(158 + 9 * (int)chance.Between(0, 47)), (float)(look.StartGapMm * Scale), 6, hole);
        }

        /// <summary>Seams between layers that hold little.</summary>
        private void Parted()
        {
            var weak = Math.Max(0, 0.75 - look.Bond);
            using var crack = Pen(0x2A2822, (float)(1.5 + 5 * weak));
            for (var i = 0; i < Math.Min(7, (int)(weak * 11)); i++)
            {
                var y = 200 + 9 * (int)chance.Between(0, 38);
                var to = 640 + 80 * Math.Min(1, 0.35 + weak);
                Line(FormattableString.Invariant($"M640 {y}L{to:0} {y + chance.Normal(0, 2):0.0}"), crack);
            }
        }

        private void Strings()
        {
            using var hair = Pen(0x6E6652, (float)Math.Clamp(look.StringMm * 14, 0.9, 4), 220);
            for (var i = 0; i < Math.Min(60, look.Strings); i++)
            {
                var (from, to) = chance.Uniform() < 0.6 ? (410, 540) : chance.Uniform() < 0.5 ? (290, 370) : (580, 640);
                var (y, dip) = (chance.Between(308, 575), chance.Between(3, 26));
                Line(FormattableString.Invariant($"M{from} {y:0}Q{(from + to) / 2} {y + dip:0} {to} {y + chance.Between(-12, 12):0}"), hair);
            }
        }

        private void Line(string path, SKPaint pen)
        {
            using var p = SKPath.ParseSvgPathData(path);
            c.DrawPath(p, pen);
        }

        private static SKPaint Pen(uint rgb, float width, byte alpha = 255) => new()
        {
            Color = new SKColor((byte)(rgb >> 16), (byte)(rgb >> 8), (byte)rgb, alpha),
            StrokeWidth = width,
            IsAntialias = true,
            Style = SKPaintStyle.Stroke,
        };
    }
}
