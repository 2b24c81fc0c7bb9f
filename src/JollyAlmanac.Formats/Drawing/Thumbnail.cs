using SkiaSharp;

namespace JollyAlmanac.Formats.Drawing;

/// <summary>Small pictures of pictures.</summary>
public static class Thumbnail
{
    /// <summary>The most dots that a picture is unpacked with: what has more is refused, however small its file.</summary>
    public const long MostDots = 80_000_000;

    /// <summary>The longer side of a small picture, in dots.</summary>
    public const int Side = 480;

    /// <summary>The size of a picture as its head says; null for what is none.</summary>
    public static (int Width, int Height)? SizeOf(Stream picture)
    {
        using var head = new SKManagedStream(picture, disposeManagedStream: false);
        using var codec = SKCodec.Create(head);
        return codec is null ? null : (codec.Info.Width, codec.Info.Height);
    }

    // To be unpacked whole, as most formats are, it needs four bytes a dot.
    private const long MostUnpacked = 40_000_000;

    /// <summary>A small picture, as WebP, of a picture; null where it cannot be read or has too many dots. Only in a process that has an
    /// end in time and memory.</summary>
    /// <param name="picture">The file; can be read from any place.</param>
    public static byte[]? Of(Stream picture)
    {
        using var bytes = new SKManagedStream(picture, disposeManagedStream: false);
        using var codec = SKCodec.Create(bytes);
        if (codec is null || (long)codec.Info.Width * codec.Info.Height > MostDots)
            return null;
        var most = Math.Max(codec.Info.Width, codec.Info.Height);
        // Read smaller where the format can: a JPEG of a camera is never unpacked whole.
        var read = most > Side ? codec.GetScaledDimensions(Math.Min(1f, Side * 2f / most)) : codec.Info.Size;
        if ((long)read.Width * read.Height > MostUnpacked)
            return null;
        using var bitmap = new SKBitmap(
            new SKImageInfo(read.Width, read.Height, SKColorType.Rgba8888, SKAlphaType.Premul)
        );
        if (
            codec.GetPixels(bitmap.Info, bitmap.GetPixels())
            is not (SKCodecResult.Success or SKCodecResult.IncompleteInput)
        )
            return null;
        var scale = Math.Min(1f, (float)Side / Math.Max(bitmap.Width, bitmap.Height));
        using var small = bitmap.Resize(
            new SKImageInfo(Math.Max(1, (int)(bitmap.Width * scale)), Math.Max(1, (int)(bitmap.Height * scale))),
            new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear)
        );
        using var turned = Upright(small, codec.EncodedOrigin);
        using var image = SKImage.FromBitmap(turned);
        using var data = image.Encode(SKEncodedImageFormat.Webp, 78);
        return data.ToArray();
    }

    // As the camera was held; and without what else the camera noted, which a new file does not have.
    private static SKBitmap Upright(SKBitmap bitmap, SKEncodedOrigin origin)
    {
        var degrees = origin switch
        {
            SKEncodedOrigin.BottomRight => 180,
            SKEncodedOrigin.RightTop => 90,
            SKEncodedOrigin.LeftBottom => 270,
            _ => 0,
        };
        if (degrees == 0)
            return bitmap.Copy();
        var swaps = degrees != 180;
        var turned = new SKBitmap(swaps ? bitmap.Height : bitmap.Width, swaps ? bitmap.Width : bitmap.Height);
        using var canvas = new SKCanvas(turned);
        canvas.Translate(turned.Width / 2f, turned.Height / 2f);
        canvas.RotateDegrees(degrees);
        canvas.DrawBitmap(bitmap, -bitmap.Width / 2f, -bitmap.Height / 2f, new SKSamplingOptions(SKFilterMode.Linear));
        return turned;
    }
}
