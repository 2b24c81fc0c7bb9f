using Ganss.Xss;
using Markdig;
using Microsoft.AspNetCore.Html;

namespace JollyAlmanac.Web.Serving;

/// <summary>Markdown as HTML that cannot do anything: no markup of its own is taken, and what comes out is sanitised.</summary>
public static class MarkdownText
{
    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().DisableHtml().UsePipeTables().UseEmphasisExtras()
        .UseAutoLinks().UseSoftlineBreakAsHardlineBreak().Build();

    // Elements that say how a text is built, and links; no pictures, which would tell another site who reads.
    private static readonly HtmlSanitizer Sanitizer = new(new HtmlSanitizerOptions
    {
        AllowedTags = new HashSet<string>(StringComparer.OrdinalIgnoreCase)
        {
            "p", "br", "strong", "em", "del", "sub", "sup", "mark", "ul", "ol", "li", "blockquote", "code", "pre", "h2", "h3", "h4", "h5", "h6", "hr",
            "a", "table", "thead", "tbody", "tr", "th", "td",
        },
        AllowedAttributes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "href", "start" },
        AllowedSchemes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "http", "https", "mailto" },
        UriAttributes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "href" },
    });

    static MarkdownText() => Sanitizer.PostProcessNode += (_, node) =>
    {
        // What leads elsewhere does not tell from where, and gives no hold on this page.
        if (node.Node is AngleSharp.Html.Dom.IHtmlAnchorElement link) link.SetAttribute("rel", "noopener noreferrer nofollow");
    };

    /// <summary>The text as HTML. Its headings begin below those of the page.</summary>
    public static IHtmlContent Of(string markdown)
    {
        var document = Markdown.Parse(markdown, Pipeline);
        foreach (var heading in document.OfType<Markdig.Syntax.HeadingBlock>()) heading.Level = Math.Min(6, heading.Level + 1);
        return new HtmlString(Sanitizer.Sanitize(document.ToHtml(Pipeline)));
    }
}
