using JollyAlmanac.Application;
using Microsoft.AspNetCore.Razor.TagHelpers;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>
/// What is wrong with a field, beside it: <c>&lt;field-problem of="Title" among="Model.Problems" /&gt;</c>. Its id is
/// the field's with "-problem", for aria-describedby.
/// </summary>
[HtmlTargetElement("field-problem", TagStructure = TagStructure.WithoutEndTag)]
public sealed class FieldProblem : TagHelper
{
    /// <summary>The field's name.</summary>
    public string Of { get; set; } = "";

    /// <summary>The id of the field, where its name stands on the page in several forms; empty for the name.</summary>
    public string For { get; set; } = "";

    /// <summary>All that is wrong.</summary>
    public IReadOnlyList<Problem> Among { get; set; } = [];

    /// <inheritdoc />
    public override void Process(TagHelperContext context, TagHelperOutput output)
    {
        var id = (For.Length > 0 ? For : Of) + "-problem";
        var message = string.Join(' ', Among.Where(problem => problem.Field == Of).Select(problem => problem.Message));
        if (message.Length == 0)
        {
            // What a field names as its description is there, if empty: a name that leads nowhere is an error to screen readers.
            output.TagName = "span";
            output.TagMode = TagMode.StartTagAndEndTag;
            output.Attributes.SetAttribute("id", id);
            output.Attributes.SetAttribute("hidden", "hidden");
            return;
        }

        output.TagName = "p";
        output.TagMode = TagMode.StartTagAndEndTag;
        output.Attributes.SetAttribute("class", "field-problem");
        output.Attributes.SetAttribute("id", id);
        output.Content.SetContent(message);
    }
}
