using System.Collections.Immutable;
using System.Globalization;
using System.Net;
using System.Text;
using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Formats.Drawing;

/// <summary>Where a text stands to its point.</summary>
public enum Anchor
{
    /// <summary>It begins there.</summary>
    Start,

    /// <summary>Its middle is there.</summary>
    Middle,

    /// <summary>It ends there.</summary>
    End,
}

/// <summary>One thing of a drawing. Lengths are points (1/72 inch) from the left upper corner; colours are #rrggbb.</summary>
public abstract record Stroke
{
    private Stroke() { }

    /// <summary>A line of text, its baseline at <paramref name="Y"/>.</summary>
    public sealed record Text(
        double X,
        double Y,
        double Size,
        string Words,
        bool IsBold = false,
        string Colour = Ink,
        Anchor Anchor = Anchor.Start
    ) : Stroke;

    /// <summary>A line.</summary>
    public sealed record Line(double X1, double Y1, double X2, double Y2, string Colour = Rule, double Width = 0.6)
        : Stroke;

    /// <summary>A filled box.</summary>
    public sealed record Box(double X, double Y, double Width, double Height, string Fill) : Stroke;

    /// <summary>A calendar's mark in a square.</summary>
    public sealed record Shape(double X, double Y, double Size, Mark Mark, string Fill) : Stroke;

    /// <summary>The colour of text.</summary>
    public const string Ink = "#12302a";

    /// <summary>The colour of what stands back.</summary>
    public const string Soft = "#48625b";

    /// <summary>The colour of hairlines.</summary>
    public const string Rule = "#9fb2ac";
}

/// <summary>
/// A page or a picture as it was laid out, once for whatever it is given out as: SVG, PNG and PDF are of the same strokes, so they agree.
/// </summary>
/// <param name="Width">In points.</param>
/// <param name="Height">In points.</param>
/// <param name="Title">What it is called, for those who cannot see it.</param>
/// <param name="Strokes">What is on it, in order.</param>
/// <param name="Paper">Its ground.</param>
public sealed record Drawing(
    double Width,
    double Height,
    string Title,
    ImmutableArray<Stroke> Strokes,
    string Paper = "#ffffff"
)
{
    /// <summary>As SVG: text is text, of the width that it was laid out with.</summary>
    /// <param name="fonts">What measures it.</param>
    public string ToSvg(DrawingFonts fonts)
    {
        var svg = new StringBuilder();
        svg.Append(
            CultureInfo.InvariantCulture,
            $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Width:0.##} {Height:0.##}\" width=\"{Width:0.##}\" height=\"{Height:0.##}\" role=\"img\" font-family=\"'Atkinson Hyperlegible Next', 'DejaVu Sans Condensed', sans-serif\"><title>{Escaped(Title)}</title><rect width=\"100%\" height=\"100%\" fill=\"{Paper}\"/>"
        );
        foreach (var stroke in Strokes)
        {
            switch (stroke)
            {
                case Stroke.Box box:
                    svg.Append(
                        CultureInfo.InvariantCulture,
                        $"<rect x=\"{box.X:0.##}\" y=\"{box.Y:0.##}\" width=\"{box.Width:0.##}\" height=\"{box.Height:0.##}\" fill=\"{box.Fill}\"/>"
                    );
                    break;
                case Stroke.Shape shape:
                    svg.Append(
                        CultureInfo.InvariantCulture,
                        $"<path transform=\"translate({shape.X:0.##} {shape.Y:0.##}) scale({shape.Size / 16:0.####})\" fill-rule=\"evenodd\" fill=\"{shape.Fill}\" d=\"{shape.Mark.Outline}\"/>"
                    );
                    break;
                case Stroke.Line line:
                    svg.Append(
                        CultureInfo.InvariantCulture,
                        $"<path d=\"M{line.X1:0.##} {line.Y1:0.##}L{line.X2:0.##} {line.Y2:0.##}\" stroke=\"{line.Colour}\" stroke-width=\"{line.Width:0.##}\"/>"
                    );
                    break;
                case Stroke.Text { Words.Length: > 0 } text:
                    var width = fonts.Width(text.Words, text.Size, text.IsBold);
                    var anchor = text.Anchor switch
                    {
                        Anchor.Middle => " text-anchor=\"middle\"",
                        Anchor.End => " text-anchor=\"end\"",
                        _ => "",
                    };
                    svg.Append(
                        CultureInfo.InvariantCulture,
                        $"<text x=\"{text.X:0.##}\" y=\"{text.Y:0.##}\" font-size=\"{text.Size:0.##}\" fill=\"{text.Colour}\"{anchor}{(text.IsBold ? " font-weight=\"700\"" : "")} textLength=\"{width:0.##}\" lengthAdjust=\"spacingAndGlyphs\">{Escaped(text.Words)}</text>"
                    );
                    break;
            }
        }

        return svg.Append("</svg>").ToString();
    }

    private static string Escaped(string text) => WebUtility.HtmlEncode(text);
}
