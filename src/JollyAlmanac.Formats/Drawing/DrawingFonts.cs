using PdfSharp.Drawing;
using PdfSharp.Fonts;
using PdfSharp.Pdf;
using SkiaSharp;

namespace JollyAlmanac.Formats.Drawing;

/// <summary>The letters that drawings are made with: measures text, and gives drawings out as PNG and PDF.</summary>
public sealed class DrawingFonts : IDisposable
{
    private const string Family = "Almanac";

    // The library for PDF asks one resolver for all; what it is first given stays.
    private static readonly Lock Resolving = new();

    private readonly SKTypeface plain;
    private readonly SKTypeface bold;
    private readonly byte[] plainBytes;
    private readonly byte[] boldBytes;

    /// <summary>Reads the letters.</summary>
    /// <param name="plain">A TrueType font.</param>
    /// <param name="bold">The same in bold.</param>
    public DrawingFonts(byte[] plain, byte[] bold)
    {
        (plainBytes, boldBytes) = (plain, bold);
        this.plain = SKTypeface.FromStream(new MemoryStream(plain)) ?? throw new FormatException("The font cannot be read.");
        this.bold = SKTypeface.FromStream(new MemoryStream(bold)) ?? throw new FormatException("The bold font cannot be read.");
    }

    /// <summary>How wide a text is, in points.</summary>
    public double Width(string text, double size, bool isBold)
    {
        using var font = new SKFont(isBold ? bold : plain, (float)size);
        return font.MeasureText(text);
    }

    /// <summary>A text cut to a width, with an ellipsis where something was cut.</summary>
    public string Fit(string text, double size, bool isBold, double width)
    {
        if (Width(text, size, isBold) <= width) return text;
        for (var length = text.Length - 1; length > 0; length--)
        {
            if (char.IsHighSurrogate(text[length - 1])) continue;
            var cut = text[..length].TrimEnd() + "…";
            if (Width(cut, size, isBold) <= width) return cut;
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

                if (line.Length > 0) yield return line;
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
        using var bitmap = new SKBitmap((int)Math.Ceiling(drawing.Width * scale), (int)Math.Ceiling(drawing.Height * scale));
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColor.Parse(drawing.Paper));
        canvas.Scale(scale);
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
                case Stroke.Line line:
                    paint.Color = SKColor.Parse(line.Colour);
                    paint.StrokeWidth = (float)line.Width;
                    paint.Style = SKPaintStyle.Stroke;
                    canvas.DrawLine((float)line.X1, (float)line.Y1, (float)line.X2, (float)line.Y2, paint);
                    break;
                case Stroke.Text text:
                    paint.Color = SKColor.Parse(text.Colour);
                    paint.Style = SKPaintStyle.Fill;
                    using (var font = new SKFont(text.IsBold ? bold : plain, (float)text.Size))
                        canvas.DrawText(text.Words, (float)text.X, (float)text.Y, text.Anchor switch
                        {
                            Anchor.Middle => SKTextAlign.Center, Anchor.End => SKTextAlign.Right, _ => SKTextAlign.Left,
                        }, font, paint);
                    break;
            }
        }

        using var data = bitmap.Encode(SKEncodedImageFormat.Png, 90);
        return data.ToArray();
    }

    /// <summary>As a PDF of one page for each drawing.</summary>
    /// <param name="title">What the document is called.</param>
    /// <param name="madeAt">When it was made, UTC.</param>
    /// <param name="drawings">The pages.</param>
    public byte[] ToPdf(string title, DateTime madeAt, params ReadOnlySpan<Drawing> drawings)
    {
        lock (Resolving) GlobalFontSettings.FontResolver ??= new Resolver(plainBytes, boldBytes);
        using var document = new PdfDocument();
        document.Info.Title = title;
        document.Info.Creator = "Jolly Almanac";
        document.Info.CreationDate = madeAt;
        document.Language = "en";
        foreach (var drawing in drawings)
        {
            var page = document.AddPage();
            (page.Width, page.Height) = (XUnit.FromPoint(drawing.Width), XUnit.FromPoint(drawing.Height));
            using var canvas = XGraphics.FromPdfPage(page);
            foreach (var stroke in drawing.Strokes) Draw(canvas, stroke);
        }

        using var stream = new MemoryStream();
        document.Save(stream, closeStream: false);
        return stream.ToArray();
    }

    private static void Draw(XGraphics canvas, Stroke stroke)
    {
        switch (stroke)
        {
            case Stroke.Box box:
                canvas.DrawRectangle(new XSolidBrush(Colour(box.Fill)), box.X, box.Y, box.Width, box.Height);
                break;
            case Stroke.Line line:
                canvas.DrawLine(new XPen(Colour(line.Colour), line.Width), line.X1, line.Y1, line.X2, line.Y2);
                break;
            case Stroke.Text { Words.Length: > 0 } text:
                var font = new XFont(Family, text.Size, text.IsBold ? XFontStyleEx.Bold : XFontStyleEx.Regular);
                var format = new XStringFormat
                {
                    LineAlignment = XLineAlignment.BaseLine, Alignment = text.Anchor switch
                    {
                        Anchor.Middle => XStringAlignment.Center, Anchor.End => XStringAlignment.Far, _ => XStringAlignment.Near,
                    },
                };
                canvas.DrawString(text.Words, font, new XSolidBrush(Colour(text.Colour)), text.X, text.Y, format);
                break;
        }
    }

    private static XColor Colour(string hex) => XColor.FromArgb(Convert.ToInt32(hex[1..3], 16), Convert.ToInt32(hex[3..5], 16),
        Convert.ToInt32(hex[5..7], 16));

    /// <inheritdoc />
    public void Dispose()
    {
        plain.Dispose();
        bold.Dispose();
    }

    private sealed class Resolver(byte[] plain, byte[] bold) : IFontResolver
    {
        public byte[] GetFont(string faceName) => faceName == "bold" ? bold : plain;

        public FontResolverInfo ResolveTypeface(string familyName, bool isBold, bool isItalic) => new(isBold ? "bold" : "plain");
    }
}
