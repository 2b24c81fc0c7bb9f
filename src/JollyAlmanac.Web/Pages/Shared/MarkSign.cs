using JollyAlmanac.Core.Calendars;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>
/// Draws a calendar's mark: <c>&lt;mark-sign of="calendar.Mark" size="16" /&gt;</c>. It is decoration: a name stands beside it.
/// </summary>
[HtmlTargetElement("mark-sign", TagStructure = TagStructure.WithoutEndTag)]
public sealed class MarkSign : TagHelper
{
    /// <summary>The mark.</summary>
    public Mark Of { get; set; }

    /// <summary>Width and height in CSS pixels.</summary>
    public int Size { get; set; } = 16;

    /// <summary>The shape's outline in a box of 16 by 16.</summary>
    public static string PathOf(MarkShape shape) => shape switch
    {
        MarkShape.Disc => "M8 1a7 7 0 1 0 0 14A7 7 0 0 0 8 1z",
        MarkShape.Triangle => "M8 1l7 14H1z",
        MarkShape.Frame => "M1.5 1.5h13v13h-13zM5 5v6h6V5z",
        MarkShape.Diamond => "M8 .5L15.5 8 8 15.5.5 8z",
        MarkShape.Ring => "M8 1a7 7 0 1 0 0 14A7 7 0 0 0 8 1zm0 3.4a3.6 3.6 0 1 1 0 7.2 3.6 3.6 0 0 1 0-7.2z",
        MarkShape.Cross => "M5.5 1h5v4.5H15v5h-4.5V15h-5v-4.5H1v-5h4.5z",
        MarkShape.Star => "M8 .6l2.2 4.9 5.3.6-3.9 3.6 1 5.3L8 12.4 3.4 15l1-5.3L.5 6.1l5.3-.6z",
        MarkShape.Moon => "M10.8 1.2A7 7 0 1 0 15 11a6 6 0 0 1-4.2-9.8z",
        MarkShape.Hexagon => "M4.2 1.4h7.6L15.6 8l-3.8 6.6H4.2L.4 8z",
        MarkShape.Bars => "M2 1h4.6v14H2zM9.4 1H14v14H9.4z",
        MarkShape.Chevron => "M8 2.2l7.4 8.2-2.9 2.9L8 8.2l-4.5 5.1-2.9-2.9z",
        MarkShape.Drop => "M8 .5c3.2 4.1 5.3 6.5 5.3 9.3a5.3 5.3 0 0 1-10.6 0C2.7 7 4.8 4.6 8 .5z",
        _ => throw new InvalidOperationException("A shape without an outline."),
    };

    /// <summary>The same as a string, for where many of them stand on one page.</summary>
    public static string Draw(Mark mark, int size) =>
        $"<svg class=\"mark mark-{mark.Colour.ToString().ToLowerInvariant()}\" width=\"{size}\" height=\"{size}\" viewBox=\"0 0 16 16\" aria-hidden=\"true\"><path fill-rule=\"evenodd\" d=\"{PathOf(mark.Shape)}\"/></svg>";

    /// <inheritdoc />
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "svg";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", $"mark mark-{Of.Colour.ToString().ToLowerInvariant()}");
        output.Attributes.SetAttribute("width", Size);
        output.Attributes.SetAttribute("height", Size);
        output.Attributes.SetAttribute("viewBox", "0 0 16 16");
        output.Attributes.SetAttribute("aria-hidden", "true");
        output.Content.SetHtmlContent($"<path fill-rule=\"evenodd\" d=\"{PathOf(Of.Shape)}\"/>");
    }
}
