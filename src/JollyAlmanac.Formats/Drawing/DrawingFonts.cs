using System.Globalization;
using SkiaSharp;
using SkiaSharp.HarfBuzz;

namespace JollyAlmanac.Formats.Drawing;

/// <summary>A font's letters: the plain ones and the bold.</summary>
/// <param name="Plain">A TrueType font.</param>
/// <param name="Bold">The same in bold.</param>
public sealed record FontFiles(byte[] Plain, byte[] Bold);

/// <summary>
/// The letters that drawings are made with: measures text, and gives drawings out as PNG and PDF. What the first font has no letters for is
/// written in the other, which knows more languages; text from right to left is shaped (HarfBuzz).
/// </summary>
public sealed class DrawingFonts : IDisposable
{
    private readonly SKTypeface[] faces;
    private readonly SKShaper[] shapers;

    /// <summary>Reads the letters.</summary>
    /// <param name="own">The font that texts are written in where it has all their letters.</param>
    /// <param name="wide">The font for all others.</param>
    public DrawingFonts(FontFiles own, FontFiles wide)
    {
        faces =
        [
            .. new[] { own.Plain, own.Bold, wide.Plain, wide.Bold }.Select(bytes =>
                SKTypeface.FromStream(new MemoryStream(bytes)) ?? throw new FormatException("A font cannot be read.")
            ),
        ];
        shapers = [.. faces.Select(face => new SKShaper(face))];
    }

    // A piece of a line that is written in one direction, in one font.
    private readonly record struct Run(string Words, int Face, bool IsShaped, float Width);

    /// <summary>How wide a text is, in points.</summary>
    public double Width(string text, double size, bool isBold) => Runs(text, size, isBold).Sum(run => run.Width);

    /// <summary>A text cut to a width, with an ellipsis where something was cut.</summary>
    public string Fit(string text, double size, bool isBold, double width)
    {
        if (Width(text, size, isBold) <= width)
            return text;
        for (var length = text.Length - 1; length > 0; length--)
        {
            if (char.IsHighSurrogate(text[length - 1]))
                continue;
            var cut = text[..length].TrimEnd() + "…";
            if (Width(cut, size, isBold) <= width)
                return cut;
        }

        return "";
    }

    /// <summary>A text in lines of a width at most, broken between words where that can be.</summary>
    public IEnumerable<string> Lines(string text, double size, bool isBold, double width)
    {
        foreach (var paragraph in text.Split('\n'))
        {
            var line = "";
            foreach (var word in paragraph.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                var longer = line.Length == 0 ? word : $"{line} {word}";
                if (Width(longer, size, isBold) <= width)
                {
                    line = longer;
                    continue;
                }

                if (line.Length > 0)
                    yield return line;
                line = Fit(word, size, isBold, width);
            }

            yield return line;
        }
    }

    /// <summary>As PNG.</summary>
    /// <param name="drawing">The drawing.</param>
    /// <param name="scale">Dots a point.</param>
    public byte[] ToPng(Drawing drawing, float scale = 2)
    {
        using var bitmap = new SKBitmap(
            (int)Math.Ceiling(drawing.Width * scale),
            (int)Math.Ceiling(drawing.Height * scale)
        );
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColor.Parse(drawing.Paper));
        canvas.Scale(scale);
        Draw(canvas, drawing);
        using var pixels = bitmap.PeekPixels();
        using var data = pixels.Encode(new SKPngEncoderOptions(SKPngEncoderFilterFlags.AllFilters, 9));
        return data!.ToArray();
    }

    /// <summary>As a PDF of one page for each drawing.</summary>
    /// <param name="title">What the document is called.</param>
    /// <param name="madeAt">When it was made, UTC.</param>
    /// <param name="drawings">The pages.</param>
    public byte[] ToPdf(string title, DateTime madeAt, params ReadOnlySpan<Drawing> drawings)
    {
        using var stream = new MemoryStream();
        var about = new SKDocumentPdfMetadata
        {
            Title = title,
            Creator = "Jolly Almanac",
            Producer = "Jolly Almanac",
            Creation = madeAt,
            Modified = madeAt,
            RasterDpi = SKDocumentPdfMetadata.DefaultRasterDpi,
            EncodingQuality = SKDocumentPdfMetadata.DefaultEncodingQuality,
        };
        using (var document = SKDocument.CreatePdf(stream, about))
        {
            foreach (var drawing in drawings)
            {
                Draw(document.BeginPage((float)drawing.Width, (float)drawing.Height), drawing);
                document.EndPage();
            }

            document.Close();
        }

        return stream.ToArray();
    }

    private void Draw(SKCanvas canvas, Drawing drawing)
    {
        using var paint = new SKPaint { IsAntialias = true };
        foreach (var stroke in drawing.Strokes)
        {
            switch (stroke)
            {
                case Stroke.Box box:
                    paint.Color = SKColor.Parse(box.Fill);
                    paint.Style = SKPaintStyle.Fill;
                    canvas.DrawRect((float)box.X, (float)box.Y, (float)box.Width, (float)box.Height, paint);
                    break;
                case Stroke.Shape shape:
                    paint.Color = SKColor.Parse(shape.Fill);
                    paint.Style = SKPaintStyle.Fill;
                    using (var path = SKPath.ParseSvgPathData(shape.Mark.Outline))
                    {
                        path.FillType = SKPathFillType.EvenOdd;
                        canvas.Save();
                        canvas.Translate((float)shape.X, (float)shape.Y);
                        canvas.Scale((float)shape.Size / 16);
                        canvas.DrawPath(path, paint);
                        canvas.Restore();
                    }

                    break;
                case Stroke.Line line:
                    paint.Color = SKColor.Parse(line.Colour);
                    paint.StrokeWidth = (float)line.Width;
                    paint.Style = SKPaintStyle.Stroke;
                    canvas.DrawLine((float)line.X1, (float)line.Y1, (float)line.X2, (float)line.Y2, paint);
                    break;
                case Stroke.Text { Words.Length: > 0 } text:
                    paint.Color = SKColor.Parse(text.Colour);
                    paint.Style = SKPaintStyle.Fill;
                    Write(canvas, text, paint);
                    break;
            }
        }
    }

    private void Write(SKCanvas canvas, Stroke.Text text, SKPaint paint)
    {
        var runs = Runs(text.Words, text.Size, text.IsBold);
        var width = runs.Sum(run => run.Width);
        var x =
            (float)text.X
            - text.Anchor switch
            {
                Anchor.Middle => width / 2,
                Anchor.End => width,
                _ => 0,
            };
        foreach (var run in runs)
        {
            using var font = FontOf(run.Face, text.Size);
            if (run.IsShaped)
                canvas.DrawShapedText(shapers[run.Face], run.Words, x, (float)text.Y, SKTextAlign.Left, font, paint);
            else
                canvas.DrawText(run.Words, x, (float)text.Y, SKTextAlign.Left, font, paint);
            x += run.Width;
        }
    }

    // The lines of a sheet run from left to right; what is from right to left stands within them, in pieces (Unicode, annex 9, for a
    // paragraph of level 0, without numbers in them).
    private List<Run> Runs(string text, double size, bool isBold)
    {
        var runs = new List<Run>();
        for (var from = 0; from < text.Length; )
        {
            var isBack = IsFromRight(text, from);
            var (to, last) = (from, from);
            for (; to < text.Length; to += char.IsSurrogatePair(text, to) ? 2 : 1)
            {
                if (IsFromRight(text, to) == isBack)
                    last = to + (char.IsSurrogatePair(text, to) ? 2 : 1);
                else if (!isBack || !IsNeutral(text, to))
                    break;
            }

            // Blanks between two words from the right are theirs; at the end of them, they are not.
            to = isBack ? last : to;
            var words = text[from..to];
            var face = (HasAll(words, isBold) ? 0 : 2) + (isBold ? 1 : 0);
            using var font = FontOf(face, size);
            var width = isBack ? shapers[face].Shape(words, font).Width : font.MeasureText(words);
            runs.Add(new Run(words, face, isBack, width));
            from = to;
        }

        return runs;
    }

    // Measured as it is drawn, at any scale: without the rounding to dots of a screen.
    private SKFont FontOf(int face, double size) =>
        new(faces[face], (float)size)
        {
            Subpixel = true,
            LinearMetrics = true,
            Hinting = SKFontHinting.None,
        };

    private bool HasAll(string words, bool isBold)
    {
        using var font = new SKFont(faces[isBold ? 1 : 0]);
        return font.ContainsGlyphs(words);
    }

    // The blocks of scripts that are written from right to left (Unicode 16, roadmap of the BMP: Hebrew to Arabic Extended-A, and their
    // presentation forms).
    private static bool IsFromRight(string text, int at) =>
        char.ConvertToUtf32(text, at)
            is >= 0x590
                and <= 0x8FF
                or >= 0xFB1D
                and <= 0xFDFF
                or >= 0xFE70
                and <= 0xFEFF
                or >= 0x10800
                and <= 0x10FFF
                or >= 0x1E800
                and <= 0x1EFFF;

    private static bool IsNeutral(string text, int at) =>
        CharUnicodeInfo.GetUnicodeCategory(text, at)
            is UnicodeCategory.SpaceSeparator
                or UnicodeCategory.NonSpacingMark
                or UnicodeCategory.DashPunctuation
                or UnicodeCategory.OtherPunctuation;

    /// <inheritdoc />
    public void Dispose()
    {
        foreach (var shaper in shapers)
            shaper.Dispose();
        foreach (var face in faces)
            face.Dispose();
    }
}
