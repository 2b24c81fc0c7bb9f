using NodaTime;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>When the time is taken, and nothing else: a VFREEBUSY (RFC 5545 §3.6.4), made of what a feed says.</summary>
public static class BusyDocument
{
    /// <summary>The document, with CRLF line ends.</summary>
    /// <param name="feed">A feed's VCALENDAR.</param>
    /// <param name="zone">Whose clock whole days are by.</param>
    public static string Of(Component feed, DateTimeZone zone)
    {
        var file = new ICalendarFile([feed], [], false);
        Instant At(FileTime time) => time.Zone is null ? (time with { Zone = zone }).At : time.At;
        var taken = new List<(Instant Start, Instant End)>();
        foreach (
            var (start, end) in ICalendarSessions
                .Of(file, null, null, null)
                .Sessions.Where(session =>
                    session.Status != "CANCELLED" && session.Part.Find("TRANSP")?.Value != "TRANSPARENT"
                )
                .Select(session => (At(session.Start), At(session.End)))
                .Where(one => one.Item2 > one.Item1)
                .OrderBy(one => one.Item1)
        )
        {
            // Periods that touch are one (§3.8.2.6 wants them in order; who reads it wants them apart).
            if (taken.Count > 0 && start <= taken[^1].End)
                taken[^1] = (taken[^1].Start, Instant.Max(taken[^1].End, end));
            else
                taken.Add((start, end));
        }

        var document = new Component("VCALENDAR");
        document.Add("VERSION", "2.0");
        document.Add("PRODID", "-//Jolly Almanac//Busy 1//EN");
        document.Add("METHOD", "PUBLISH");
        var busy = new Component("VFREEBUSY");
        var changed = feed.Find("LAST-MODIFIED")?.Value ?? "19700101T000000Z";
        busy.Add("UID", $"busy-{changed}@jolly-almanac");
        busy.Add("DTSTAMP", changed);
        if (taken.Count > 0)
        {
            busy.Add("DTSTART", FeedDocument.Utc(taken[0].Start));
            busy.Add("DTEND", FeedDocument.Utc(taken.Max(one => one.End)));
        }

        foreach (var (start, end) in taken)
            busy.Add("FREEBUSY", $"{FeedDocument.Utc(start)}/{FeedDocument.Utc(end)}", ("FBTYPE", "BUSY"));
        document.Add(busy);
        return document.ToString();
    }
}
