using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>A feed as a table, and as busy times alone: made of what the feed says, so that neither can tell more.</summary>
internal static class FeedTable
{
    private static readonly ImmutableArray<(string Name, Func<FileSession, string> Of)> Columns =
    [
        ("start", session => TextOf(session.Start)),
        ("end", session => TextOf(session.End)),
        ("title", session => session.Summary),
        ("place", session => Line(session.Part, "LOCATION")),
        ("status", session => session.Status.ToLowerInvariant()),
        ("description", session => Line(session.Part, "DESCRIPTION")),
    ];

    /// <summary>A row a session, in order; times by the clock each is written in, with its offset from UTC.</summary>
    public static byte[] Of(ICalendarFile feed) =>
        CsvTable.Write(
            [.. Columns.Select(column => column.Name)],
            ICalendarSessions
                .Of(feed, null, null, null)
                .Sessions.Select(IReadOnlyList<string> (session) => [.. Columns.Select(column => column.Of(session))])
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
