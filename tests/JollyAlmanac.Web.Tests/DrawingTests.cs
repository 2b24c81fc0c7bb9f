using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.Drawing;
using Microsoft.AspNetCore.Hosting;
using Microsoft.Extensions.DependencyInjection;
using SkiaSharp;

namespace JollyAlmanac.Web.Tests;

/// <summary>What is drawn for paper: in the product's letters where they have them, in others where not, from right to left where a
/// script is.</summary>
public sealed class DrawingTests : IClassFixture<DemoServer>
{
    private static readonly Lock Reading = new();
    private static DrawingFonts? read;

    public DrawingTests(DemoServer server)
    {
        var files = server.Services.GetRequiredService<IWebHostEnvironment>().WebRootFileProvider;
        byte[] Font(string name)
        {
            using var stream = files.GetFileInfo($"lib/{name}.ttf").CreateReadStream();
            using var bytes = new MemoryStream();
            stream.CopyTo(bytes);
            return bytes.ToArray();
        }

        lock (Reading)
            read ??= new DrawingFonts(
                new FontFiles(Font("atkinson-hyperlegible-next-400"), Font("atkinson-hyperlegible-next-700")),
                new FontFiles(Font("dejavu-sans-condensed"), Font("dejavu-sans-condensed-bold"))
            );
    }

    private static DrawingFonts Fonts => read!;

    private static Drawing Of(params Stroke[] strokes) => new(300, 60, "A drawing", [.. strokes]);

    // Letters of the Arabic script join: beside each other they are other glyphs than alone, and narrower together (Unicode 16, §9.2).
    [Fact]
    public void Text_from_right_to_left_is_shaped()
    {
        const string Word = "سلام";
        var apart = Word.Sum(letter => Fonts.Width(letter.ToString(), 20, false));
        Assert.True(Fonts.Width(Word, 20, false) < apart * 0.9);
        // Within a line from the left it stands where it was written, and what follows it does so, too.
        var (before, all) = (Fonts.Width("Biology ", 20, false), Fonts.Width($"Biology {Word} 9A", 20, false));
        Assert.Equal(before + Fonts.Width(Word, 20, false) + Fonts.Width(" 9A", 20, false), all, 3);
    }

    [Theory]
    [InlineData("Tidepool Biology 9A")]
    [InlineData("Ελληνικά")] // not in the first font
    [InlineData("Říční škola")]
    public void A_sheet_is_read_by_other_programs_as_it_was_written(string words)
    {
        var pdf = Fonts.ToPdf(
            "A sheet",
            new DateTime(2026, 10, 14, 12, 0, 0, DateTimeKind.Utc),
            Of(new Stroke.Text(10, 40, 18, words))
        );
        using var bytes = new MemoryStream(pdf);
        Assert.Equal(words, PdfText.Of(bytes, 1000));
    }

    // The mark is a shape and no box: a ring leaves its middle, a triangle its upper corners free.
    [Theory]
    [InlineData(MarkShape.Disc, true, false)]
    [InlineData(MarkShape.Ring, false, false)]
    [InlineData(MarkShape.Triangle, true, false)]
    [InlineData(MarkShape.Frame, false, true)]
    public void A_mark_is_drawn_with_its_shape(MarkShape shape, bool inTheMiddle, bool inTheCorner)
    {
        var mark = new Mark(MarkColour.Beet, shape);
        var drawing = Of(new Stroke.Shape(0, 0, 48, mark, mark.Hex));
        using var picture = SKBitmap.Decode(Fonts.ToPng(drawing, scale: 1));
        bool IsFilled(int x, int y) => picture.GetPixel(x, y) == SKColor.Parse(mark.Hex);
        Assert.Equal((inTheMiddle, inTheCorner), (IsFilled(24, 24), IsFilled(6, 6)));
        Assert.Contains(mark.Outline, drawing.ToSvg(Fonts), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(Anchor.Start, 10, true)]
    [InlineData(Anchor.End, 290, false)]
    public void A_text_begins_or_ends_at_its_point(Anchor anchor, double x, bool isLeft)
    {
        using var picture = SKBitmap.Decode(
            Fonts.ToPng(Of(new Stroke.Text(x, 40, 18, "MMM", true, Stroke.Ink, anchor)), scale: 1)
        );
        bool Any(int from, int to) =>
            Enumerable
                .Range(from, to - from)
                .Any(column => Enumerable.Range(0, 60).Any(row => picture.GetPixel(column, row) != SKColors.White));
        Assert.Equal((isLeft, !isLeft), (Any(0, 100), Any(200, 300)));
        Assert.False(Any(isLeft ? 0 : 292, isLeft ? 9 : 300));
    }
}
