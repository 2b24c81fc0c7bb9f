using System.Net;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Web.Serving;

/// <summary>What embeds are called, how large they are, and the snippet that puts one on a website.</summary>
internal static class EmbedWords
{
    /// <summary>"what comes next".</summary>
    public static string Of(EmbedShape shape) =>
        shape switch
        {
            EmbedShape.Term => "the term",
            EmbedShape.Week => "this week",
            EmbedShape.Next => "the next session",
            EmbedShape.Button => "a button",
            EmbedShape.Notices => "the notices",
            EmbedShape.Materials => "the materials",
            _ => "what comes next",
        };

    /// <summary>Width and height in CSS pixels that it is made for.</summary>
    public static (int Width, int Height) SizeOf(EmbedShape shape) =>
        shape switch
        {
            EmbedShape.Term => (720, 640),
            EmbedShape.Week => (560, 420),
            EmbedShape.Next => (360, 300),
            EmbedShape.Button => (300, 140),
            EmbedShape.Notices => (360, 400),
            EmbedShape.Materials => (360, 480),
            _ => (360, 840),
        };

    /// <summary>The HTML to paste; it works without a script.</summary>
    /// <param name="root">Where the almanac is reached.</param>
    /// <param name="token">The embed's token.</param>
    /// <param name="publication">The embed.</param>
    /// <param name="calendar">Its calendar.</param>
    /// <param name="wide">Its width; null for the one it is made for.</param>
    /// <param name="high">Its height; null for the one it is made for.</param>
    public static string Snippet(
        Uri root,
        FeedToken token,
        Publication publication,
        Calendar calendar,
        int? wide = null,
        int? high = null
    )
    {
        var (width, height) = SizeOf(publication.Options.Shape);
        (width, height) = (wide ?? width, high ?? height);
        var title =
            publication.Options.Title.Length > 0
                ? publication.Options.Title
                : $"{calendar.Title}: {Of(publication.Options.Shape)}";
        return $"<iframe src=\"{root}embed/{token}\" title=\"{WebUtility.HtmlEncode(title)}\" width=\"{width}\" height=\"{height}\" loading=\"lazy\" style=\"border:0;max-width:100%\"></iframe>";
    }
}
