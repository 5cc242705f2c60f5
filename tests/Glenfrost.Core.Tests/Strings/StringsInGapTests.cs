using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Simulation.Pictures;
using SkiaSharp;

namespace Glenfrost.Core.Tests.Strings;

/// <summary>Pictures drawn by the simulation with a known number of strings, measured by the core that knows nothing of how they are drawn.</summary>
public class StringsInGapTests
{
    private static (StringsSeen? Seen, string? Refused) Measure(ReedView view, ulong seed, double offX = 0, double offY = 0)
    {
        var drawn = ReedPicture.Png(view, seed);
        var picture = Grey(drawn.Bytes);
        return StringsInGap.Measure(picture, (drawn.Left.X + offX, drawn.Left.Y + offY), (drawn.Right.X - offX, drawn.Right.Y + offY));
    }

    private static GreyPicture Grey(byte[] png)
    {
        using var bitmap = SKBitmap.Decode(png);
        return new(bitmap.Width, bitmap.Height, [.. bitmap.Pixels.Select(p => (byte)((p.Red * 299 + p.Green * 587 + p.Blue * 114) / 1000))]);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(3)]
    [InlineData(7)]
    [InlineData(14)]
    [InlineData(24)]
    public void A_plain_picture_is_counted(int strings)
    {
        for (var seed = 1UL; seed <= 2; seed++)
        {
            var (seen, refused) = Measure(new(10, 4, strings), seed);
            Assert.Null(refused);
            Assert.InRange(seen!.Count, strings - Math.Max(0, strings / 12), strings + Math.Max(0, strings / 12));
            Assert.InRange(strings, seen.Low - 1, seen.High + 1);
            Assert.True(seen.Confidence > 0.6, $"{strings} strings: confidence {seen.Confidence}");
        }
    }

    [Theory]
    [InlineData(8, 0, 2, 0.1)]
    [InlineData(-11, 0, 2, 0.1)]
    [InlineData(0, 1.6, 2, 0.1)]
    [InlineData(0, 0, 9, 0.1)]
    [InlineData(0, 0, 2, 0.55)]
    [InlineData(6, 1.2, 6, 0.4)]
    public void Tilt_blur_noise_and_uneven_light_change_little(double tilt, double blur, double noise, double uneven)
    {
        foreach (var strings in new[] { 0, 4, 10 })
        {
            for (var seed = 11UL; seed <= 12; seed++)
            {
                var (seen, refused) = Measure(new(10, 4, strings) { TiltDeg = tilt, BlurPx = blur, Noise = noise, Uneven = uneven }, seed);
                Assert.True(refused is null, refused);
                Assert.True(Math.Abs(seen!.Count - strings) <= (strings == 0 ? 0 : 1), $"{strings} strings, seed {seed}: {seen.Sentence}");
            }
        }
    }

    [Fact]
    public void Clicks_need_not_hit_the_middle_and_may_come_in_either_order()
    {
        var drawn = ReedPicture.Png(new(10, 4, 6), 3);
        var picture = Grey(drawn.Bytes);
        var one = StringsInGap.Measure(picture, (drawn.Left.X + 15, drawn.Left.Y - 40), (drawn.Right.X - 20, drawn.Right.Y - 40)).Seen!;
        var other = StringsInGap.Measure(picture, (drawn.Right.X - 20, drawn.Right.Y - 40), (drawn.Left.X + 15, drawn.Left.Y - 40)).Seen!;
        Assert.Equal(6, one.Count);
        Assert.Equal(one, other);
    }

    [Fact]
    public void More_strings_cover_more_and_more_noise_is_less_sure()
    {
        var coverage = new[] { 0, 4, 9, 18 }.Select(n => Measure(new(10, 4, n), 5).Seen!.CoveragePercent).ToList();
        Assert.Equal(coverage.Order(), coverage);
        Assert.Equal(0, coverage[0]);
        Assert.InRange(coverage[2], 2, 16);
        var sure = Measure(new(10, 4, 8), 5).Seen!.Confidence;
        var noisy = Measure(new(10, 4, 8) { Noise = 30, StringPx = 1.2, BlurPx = 1.5 }, 5).Seen!.Confidence;
        Assert.True(noisy < sure, $"{noisy} is not below {sure}");
    }

    [Fact]
    public void What_is_no_gap_is_refused_with_what_would_be_right()
    {
        var drawn = ReedPicture.Png(new(10, 4, 6), 3);
        var picture = Grey(drawn.Bytes);
        Assert.Contains("two different reeds", StringsInGap.Measure(picture, drawn.Left, (drawn.Left.X + 5, drawn.Left.Y)).Refused);
        Assert.Contains("beside the picture", StringsInGap.Measure(picture, (-5, 10), drawn.Right).Refused);
        Assert.Contains("no edge", StringsInGap.Measure(picture, (460, 60), (520, 60)).Refused);
        Assert.NotNull(StringsInGap.Measure(picture, drawn.Left, (drawn.Left.X + 40, drawn.Left.Y + 60)).Refused);
        Assert.NotNull(StringsInGap.Measure(new(1, 1, [7]), (0, 0), (0, 0)).Refused);
    }
}
