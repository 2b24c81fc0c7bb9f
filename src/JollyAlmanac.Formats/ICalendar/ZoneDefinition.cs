using System.Globalization;
using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// A VTIMEZONE (RFC 5545 §3.6.5) that is exact for a stretch of time: every clock change in it stands there by its date,
/// so that zones whose changes follow no yearly rule (Casablanca) come out right, too.
/// </summary>
public static class ZoneDefinition
{
    /// <summary>The definition for all local times from <paramref name="from"/> to <paramref name="to"/>.</summary>
    public static Component Of(DateTimeZone zone, Instant from, Instant to)
    {
        var definition = new Component("VTIMEZONE");
        definition.Add("TZID", zone.Id);
        // An observance for each change: readers differ on RDATE within one.
        foreach (var interval in zone.GetZoneIntervals(from, to))
        {
            var before = OffsetBefore(zone, interval);
            var part = new Component(interval.Savings == Offset.Zero ? "STANDARD" : "DAYLIGHT");
            // The onset is told in the local time that was in force before it (§3.6.5).
            part.Add("DTSTART", Onset(interval, before));
            part.Add("TZOFFSETFROM", OffsetText(before));
            part.Add("TZOFFSETTO", OffsetText(interval.WallOffset));
            part.Add("TZNAME", ContentLine.Text(interval.Name));
            definition.Add(part);
        }

        return definition;
    }

    private static Offset OffsetBefore(DateTimeZone zone, ZoneInterval interval) =>
        interval.HasStart ? zone.GetUtcOffset(interval.Start - Duration.Epsilon) : interval.WallOffset;

    private static string Onset(ZoneInterval interval, Offset before) =>
        (
            interval.HasStart ? interval.Start.WithOffset(before).LocalDateTime : new LocalDateTime(1970, 1, 1, 0, 0)
        ).ToString("uuuuMMdd'T'HHmmss", CultureInfo.InvariantCulture);

    private static string OffsetText(Offset offset)
    {
        var seconds = Math.Abs(offset.Seconds);
        var text = string.Create(
            CultureInfo.InvariantCulture,
            $"{(offset.Seconds < 0 ? '-' : '+')}{seconds / 3600:00}{seconds / 60 % 60:00}"
        );
        return seconds % 60 == 0 ? text : text + (seconds % 60).ToString("00", CultureInfo.InvariantCulture);
    }
}
