using System.Globalization;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>A feed as a table, and as busy times alone: made of what the feed says, so that neither can tell more.</summary>
internal static class FeedTable
{
    private static readonly string[] Columns = ["start", "end", "title", "place", "status", "description"];

    /// <summary>A row a session, in order; times by the clock each is written in, with its offset from UTC.</summary>
    public static byte[] Of(ICalendarFile feed) =>
        CsvTable.Write(
            Columns,
            ICalendarSessions
                .Of(feed, null, null, null)
                .Sessions.Select(session =>
                    (IReadOnlyList<string>)
                        [
                            TextOf(session.Start),
                            TextOf(session.End),
                            session.Summary,
                            Line(session.Part, "LOCATION"),
                            session.Status.ToLowerInvariant(),
                            Line(session.Part, "DESCRIPTION"),
                        ]
                )
        );

    /// <summary>When the time is taken.</summary>
    public static string BusyOf(ICalendarFile feed)
    {
        var calendar = feed.Calendars[0];
        var zone = calendar.Find("X-WR-TIMEZONE") is { } line
            ? DateTimeZoneProviders.Tzdb.GetZoneOrNull(line.Value)
            : null;
        return BusyDocument.Of(calendar, zone ?? DateTimeZone.Utc);
    }

    private static string Line(Component part, string name) =>
        part.Find(name) is { } line ? ContentLine.FromText(line.Value) : "";

    private static string TextOf(FileTime time) =>
        time.IsDate
            ? time.Time.Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)
            : time
                .At.InZone(time.Zone ?? DateTimeZone.Utc)
                .ToString("uuuu-MM-dd'T'HH:mm:sso<m>", CultureInfo.InvariantCulture);
}
