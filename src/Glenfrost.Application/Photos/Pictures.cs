using Glenfrost.Core.Statistics;
using SkiaSharp;

namespace Glenfrost.Application.Photos;

/// <summary>A picture made ready to be kept.</summary>
/// <param name="Large">Upright JPEG, longest side at most 2,048 px, without the camera's metadata.</param>
/// <param name="Small">The same, at most 320 px.</param>
/// <param name="Width">Width of the large one, px.</param>
/// <param name="Height">Height of the large one, px.</param>
public sealed record ReadyPicture(byte[] Large, byte[] Small, int Width, int Height);

/// <summary>Turns what a camera sends into what is kept. Dimensions are checked before anything is decoded.</summary>
public static class Pictures
{
    /// <summary>Most pixels that are decoded.</summary>
    public const long MostPixels = 40_000_000;

    /// <summary>Longest side of the large picture, px.</summary>
    public const int LargePx = 2048;

    /// <summary>Longest side of the small picture, px.</summary>
    public const int SmallPx = 320;

    /// <summary>Most bytes of a file.</summary>
    public const long MostBytes = 40_000_000;

    // One picture of 40 million pixels takes 160 MB while it is decoded: one at a time.
    private static readonly SemaphoreSlim One = new(1, 1);

    /// <summary>Reads, turns, scales and writes a picture.</summary>
    /// <param name="path">File of unknown content.</param>
    /// <returns>The picture, or what is wrong with the file.</returns>
    public static async Task<(ReadyPicture? Picture, string? Error)> MakeAsync(string path, CancellationToken stop = default)
    {
        await One.WaitAsync(stop);
        try
        {
            return Make(path);
        }
        finally
        {
            One.Release();
        }
    }

    /// <summary>A kept picture in grey, at most <paramref name="longest"/> px; its scale against the kept one.</summary>
    public static (Core.Statistics.GreyPicture Picture, double Scale)? Grey(Stream kept, int longest = 1400)
    {
        using var whole = SKBitmap.Decode(kept);
        if (whole is null)
            return null;
        using var bitmap = Upright(whole, SKEncodedOrigin.TopLeft, longest);
        var pixels = bitmap.Pixels;
        var grey = new byte[pixels.Length];
        // Luma after ITU-R BT.601.
        for (var i = 0; i < grey.Length; i++)
            grey[i] = (byte)((pixels[i].Red * 299 + pixels[i].Green * 587 + pixels[i].Blue * 114) / 1000);
        return (new(bitmap.Width, bitmap.Height, grey), bitmap.Width / (double)whole.Width);
    }

    private static (ReadyPicture? Picture, string? Error) Make(string path)
    {
        var head = new byte[16];
        using (var file = File.OpenRead(path))
        {
            if (file.ReadAtLeast(head, head.Length, false) < head.Length)
                return (null, "This is no picture: the file is empty or cut off. A JPEG, PNG or WebP would be right.");
        }

        if (head.AsSpan(4, 4).SequenceEqual("ftyp"u8))
            return (
                null, "This picture is in a camera's own form (HEIF or AVIF). Set the camera to its most compatible form, or send it as JPEG, PNG or WebP.");
        using var codec = SKCodec.Create(path, out _);
        if (codec is null || codec.EncodedFormat is not (SKEncodedImageFormat.Jpeg or SKEncodedImageFormat.Png or SKEncodedImageFormat.Webp))
            return (null, "This is no picture that can be read. A JPEG, PNG or WebP would be right.");
        var info = codec.Info;
        if (info.Width < 16 || info.Height < 16)
            return (null, $"{info.Width} × {info.Height} pixels show nothing; a photo of at least 16 × 16 would be right.");
        if ((long)info.Width * info.Height > MostPixels)
            return (null, $"{info.Width} × {info.Height} pixels are too many: at most {MostPixels / 1_000_000} million. Take it with a smaller picture size.");
        // A JPEG can be decoded at a half, a quarter or an eighth, which is all that is needed of it.
        var part = codec.EncodedFormat == SKEncodedImageFormat.Jpeg
            ? new[] { 0.125f, 0.25f, 0.5f }.Select(codec.GetScaledDimensions).FirstOrDefault(d => Math.Max(d.Width, d.Height) >= LargePx) : default;
        var size = part.IsEmpty ? new SKSizeI(info.Width, info.Height) : part;
        using var decoded = new SKBitmap(new SKImageInfo(size.Width, size.Height, SKColorType.Rgba8888, SKAlphaType.Premul, SKColorSpace.CreateSrgb()));
        var result = codec.GetPixels(decoded.Info, decoded.GetPixels());
        if (result == SKCodecResult.IncompleteInput)
            return (null, "This picture ends in the middle. Send it again, or take it again.");
        if (result != SKCodecResult.Success)
            return (null, "This picture is damaged and can't be read. Send it again, or take it again.");
        using var large = Upright(decoded, codec.EncodedOrigin, LargePx);
        using var small = Upright(large, SKEncodedOrigin.TopLeft, SmallPx);
        return (new(Jpeg(large), Jpeg(small), large.Width, large.Height), null);
    }

    private static SKBitmap Upright(SKBitmap from, SKEncodedOrigin origin, int longest)
    {
        var turned = origin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var scale = Math.Min(1f, longest / (float)Math.Max(from.Width, from.Height));
        int w = Math.Max(1, (int)Math.Round(from.Width * scale)), h = Math.Max(1, (int)Math.Round(from.Height * scale));
        var to = new SKBitmap(new SKImageInfo(turned ? h : w, turned ? w : h, SKColorType.Rgba8888, SKAlphaType.Opaque, SKColorSpace.CreateSrgb()));
        using var canvas = new SKCanvas(to);
        canvas.Clear(SKColors.White);
        // Exif 2.32, tag 0x0112: where the first row and column of the stored picture belong.
        canvas.Concat(origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, h, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, h, -1, 0, w, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, w, 0, 0, 1),
            _ => SKMatrix.Identity,
        });
        using var image = SKImage.FromBitmap(from);
        canvas.DrawImage(image, SKRect.Create(w, h), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        canvas.Flush();
        return to;
    }

    private static byte[] Jpeg(SKBitmap picture)
    {
        using var data = picture.Encode(SKEncodedImageFormat.Jpeg, 85);
        return data.ToArray();
    }
}
