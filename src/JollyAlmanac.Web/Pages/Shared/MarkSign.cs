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

    /// <summary>The same as a string, for where many of them stand on one page.</summary>
    public static string Draw(Mark mark, int size) =>
        $"<svg class=\"mark mark-{mark.Colour.ToString().ToLowerInvariant()}\" width=\"{size}\" height=\"{size}\" viewBox=\"0 0 16 16\" aria-hidden=\"true\"><path fill-rule=\"evenodd\" d=\"{mark.Outline}\"/></svg>";

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
        output.Content.SetHtmlContent($"<path fill-rule=\"evenodd\" d=\"{Of.Outline}\"/>");
    }
}
