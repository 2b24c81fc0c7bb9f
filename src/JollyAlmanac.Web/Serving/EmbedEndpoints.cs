using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;

namespace JollyAlmanac.Web.Serving;

/// <summary>What an embed is for places that take no frame, and how an editor finds it (oEmbed).</summary>
public static class EmbedEndpoints
{
    /// <summary>Maps them.</summary>
    public static void MapEmbeds(this WebApplication app)
    {
        app.MapGet(
            "/embed/{token:token}/plain",
            (FeedToken token, ReadEmbed readEmbed, RequestContext requestContext) =>
                Found(token, readEmbed, requestContext, panel =>
                    Results.Text(Plain(panel, requestContext.Root), "text/html", Encoding.UTF8)
                )
        );
        app.MapGet("/oembed", OEmbed);
    }

    private static IResult Found(
        FeedToken token,
        ReadEmbed readEmbed,
        RequestContext requestContext,
        Func<EmbedPanel, IResult> answer
    )
    {
        if (readEmbed.Do(token) is { } panel)
            return answer(panel);
        return Results.NotFound();
    }

    // https://oembed.com (the format of 2008 that editors of websites share): "rich", JSON alone.
    private static IResult OEmbed(
        string? url,
        int? maxwidth,
        int? maxheight,
        string? format,
        ReadEmbed readEmbed,
        RequestContext requestContext,
        GuessLimiter guard
    )
    {
        if (format is not (null or "json"))
            return Results.StatusCode(StatusCodes.Status501NotImplemented);
        var begin = $"{requestContext.Root}embed/";
        if (
            url is null
            || !url.StartsWith(begin, StringComparison.Ordinal)
            || !FeedToken.TryParse(url[begin.Length..].Split('?', '#', '/')[0], null, out var token)
        )
            return Results.NotFound();
        return Found(token, readEmbed, requestContext, panel =>
        {
            var (width, height) = EmbedWords.SizeOf(panel.Outlet.Options.Shape);
            var (wide, high) = (
                Math.Min(width, Math.Max(1, maxwidth ?? width)),
                Math.Min(height, Math.Max(1, maxheight ?? height))
            );
            return Results.Json(
                new
                {
                    version = "1.0",
                    type = "rich",
                    title = panel.Title,
                    provider_name = panel.School.Name,
                    provider_url = requestContext.Root.AbsoluteUri,
                    cache_age = 3600,
                    width = wide,
                    height = high,
                    html = EmbedWords.Snippet(requestContext.Root, token, panel.Outlet, panel.Calendar, wide, high),
                },
                new JsonSerializerOptions(JsonSerializerDefaults.Web)
            );
        });
    }

    /// <summary>The sessions to come as HTML without styles and scripts, with the day it was made.</summary>
    public static string Plain(EmbedPanel panel, Uri root)
    {
        static string Text(string text) => WebUtility.HtmlEncode(text);
        var html = new StringBuilder(
            "<!doctype html>\n<html lang=\"en\">\n<head><meta charset=\"utf-8\"><meta name=\"robots\" content=\"noindex\"><title>"
        )
            .Append(Text(panel.Title))
            .Append("</title></head>\n<body>\n<h2>")
            .Append(Text(panel.Title))
            .Append("</h2>\n");
        foreach (var notice in panel.Notices)
            html.Append("<p>").Append(Text(notice.Notice.Whole).ReplaceLineEndings("<br>")).Append("</p>\n");
        var sessions = panel
            .Coming.Concat(panel.Term?.Weeks.SelectMany(week => week.Days).SelectMany(day => day.Sessions) ?? [])
            .Concat(
                panel
                    .Week?.Rows.SelectMany(row => row.Days)
                    .SelectMany(day => day)
                    .Select(one => one.Shown)
                    .OrderBy(one => one.Session.StartsAt)
                    ?? Enumerable.Empty<Core.Access.ShownSession>()
            )
            .ToList();
        if (sessions.Count > 0)
        {
            html.Append("<ul>\n");
            foreach (var shown in sessions)
            {
                var session = shown.Session;
                var start = session.IsAllDay ? session.Start : session.StartsAt.InZone(panel.Zone).LocalDateTime;
                var span = session.IsAllDay
                    ? SayBack.Span(session)
                    : Wording.Span(start.TimeOfDay, session.EndsAt.InZone(panel.Zone).TimeOfDay);
                html.Append(
                    CultureInfo.InvariantCulture,
                    $"<li>{Wording.WithWeekday(start.Date)}, {Text(span)}: {Text(shown.Title)}"
                );
                if (shown.State.Length > 0)
                    html.Append(CultureInfo.InvariantCulture, $" ({shown.State})");
                if (shown.Place.Length > 0)
                    html.Append(", ").Append(Text(shown.Place));
                if (shown.Note.Length > 0)
                    html.Append(" – ").Append(Text(shown.Note));
                if (shown.Join is { } join && session.IsHeld)
                    html.Append(
                        CultureInfo.InvariantCulture,
                        $" <a href=\"{Text(join.At(root).AbsoluteUri)}\">{Text(panel.Outlet.Options.Button is { Length: > 0 } says ? says : "Join")}</a>"
                    );
                html.Append("</li>\n");
            }

            html.Append("</ul>\n");
        }
        else if (panel.Notices.Count == 0)
        {
            html.Append("<p>Nothing is coming up.</p>\n");
        }

        var made = panel.Now.InZone(panel.School.Time.Zone).Date;
        return html.Append(
                CultureInfo.InvariantCulture,
                $"<p><small>{Text(panel.School.Name)}, {Text(panel.Zone.Id)} time. As of {Wording.WithYear(made)}; a copy of this does not follow changes, <a href=\"{Text($"{root}c/{panel.Calendar.Slug}")}\">the class page</a> does.</small></p>\n</body>\n</html>\n"
            )
            .ToString();
    }
}
