using System.Globalization;
using JollyAlmanac.Core.Access;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>
/// The sign of an access level, a stair of six steps: <c>&lt;level-stair of="level" /&gt;</c>. Its name stands beside it.
/// </summary>
[HtmlTargetElement("level-stair", TagStructure = TagStructure.WithoutEndTag)]
public sealed class LevelStair : TagHelper
{
    /// <summary>The level.</summary>
    public AccessLevel Of { get; set; }

    /// <inheritdoc />
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        output.TagName = "svg";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "stair");
        output.Attributes.SetAttribute("width", 32);
        output.Attributes.SetAttribute("height", 18);
        output.Attributes.SetAttribute("viewBox", "0 0 32 18");
        output.Attributes.SetAttribute("aria-hidden", "true");
        var steps = Enumerable
            .Range(1, 6)
            .Select(step =>
            {
                var height = 3 + step * 2.4;
                return string.Create(
                    CultureInfo.InvariantCulture,
                    $"<rect class=\"{(step <= (int)Of ? "on" : "off")}\" x=\"{(step - 1) * 5.4:0.#}\" y=\"{18 - height:0.#}\" width=\"4\" height=\"{height:0.#}\"/>"
                );
            });
        output.Content.SetHtmlContent(string.Concat(steps));
    }
}
