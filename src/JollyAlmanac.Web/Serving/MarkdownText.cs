using Ganss.Xss;
using Markdig;
using Microsoft.AspNetCore.Html;
using Microsoft.Extensions.Caching.Memory;

namespace JollyAlmanac.Web.Serving;

/// <summary>Markdown as HTML that cannot do anything: no markup of its own is taken, and what comes out is sanitised.</summary>
public static class MarkdownText
{
    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder()
        .DisableHtml()
        .UsePipeTables()
        .UseEmphasisExtras()
        .UseAutoLinks()
        .UseSoftlineBreakAsHardlineBreak()
        .Build();

    // Elements that say how a text is built, and links; no pictures, which would tell another site who reads.
    private static readonly HtmlSanitizer Sanitizer = new(
        new HtmlSanitizerOptions
        {
            AllowedTags = new HashSet<string>(StringComparer.OrdinalIgnoreCase)
            {
                "p",
                "br",
                "strong",
                "em",
                "del",
                "sub",
                "sup",
                "mark",
                "ul",
                "ol",
                "li",
                "blockquote",
                "code",
                "pre",
                "h2",
                "h3",
                "h4",
                "h5",
                "h6",
                "hr",
                "a",
                "table",
                "thead",
                "tbody",
                "tr",
                "th",
                "td",
            },
            AllowedAttributes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "href", "start" },
            AllowedSchemes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "http", "https", "mailto" },
            UriAttributes = new HashSet<string>(StringComparer.OrdinalIgnoreCase) { "href" },
        }
    );

    static MarkdownText() =>
        Sanitizer.PostProcessNode += (_, node) =>
        {
            // What leads elsewhere does not tell from where, and gives no hold on this page.
            if (node.Node is AngleSharp.Html.Dom.IHtmlAnchorElement link)
                link.SetAttribute("rel", "noopener noreferrer nofollow");
        };

    /// <summary>
    /// The text as HTML. Its headings begin below those of the page. A text that is made to take time (thousands of brackets or marks,
    /// or nested quotes) is shown as it is written.
    /// </summary>
    public static IHtmlContent Of(string markdown)
    {
        if (Known.TryGetValue(markdown, out HtmlString? known))
            return known!;
        var html = IsSimple(markdown) ? Made(markdown) : Plain(markdown);
        return Known.Set(markdown, html, new MemoryCacheEntryOptions { Size = markdown.Length + html.Value!.Length });
    }

    private static HtmlString Made(string markdown)
    {
        try
        {
            var document = Markdown.Parse(markdown, Pipeline);
            foreach (var heading in document.OfType<Markdig.Syntax.HeadingBlock>())
                heading.Level = Math.Min(6, heading.Level + 1);
            return new HtmlString(Sanitizer.Sanitize(document.ToHtml(Pipeline)));
        }
        // Nested too deeply for it.
        catch (ArgumentException)
        {
            return Plain(markdown);
        }
    }

    private static HtmlString Plain(string markdown) => new($"<pre>{System.Net.WebUtility.HtmlEncode(markdown)}</pre>");

    // Brackets and marks of emphasis are looked at in pairs, which takes the square of their number.
    private static bool IsSimple(string markdown)
    {
        if (markdown.Length > MostLetters)
            return false;
        var (marks, nested) = (0, 0);
        foreach (var line in markdown.AsSpan().EnumerateLines())
        {
            nested = 0;
            foreach (var letter in line)
                if (letter is '>' || (letter is '-' or '+' or '*' && nested > 0))
                    nested++;
                else if (letter != ' ')
                    break;
            if (nested > MostNested)
                return false;
            marks +=
                line.Count('[')
                + line.Count('*') / 2
                + line.Count('_') / 2
                + line.Count('`') / 2
                + line.Count('~') / 2
                + line.Count('<') / 2;
            if (marks > MostMarks)
                return false;
        }

        return true;
    }

    private const int MostLetters = 100_000,
        MostMarks = 2_000,
        MostNested = 20;

    // Anybody may open a material that is for anyone, as often as they like.
    private static readonly MemoryCache Known = new(new MemoryCacheOptions { SizeLimit = 4_000_000 });
}
