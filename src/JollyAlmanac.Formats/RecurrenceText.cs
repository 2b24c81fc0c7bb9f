using System.Globalization;
using JollyAlmanac.Core.Recurrence;
using NodaTime.Text;

namespace JollyAlmanac.Formats;

/// <summary>Moments of recurrence as ISO 8601 text, in and out: "2026-09-14", "2026-09-14T08:00", "2026-09-14T11:00:00Z".</summary>
public static class RecurrenceText
{
    private static readonly LocalDateTimePattern[] Times =
    [
        .. new[] { "uuuu-MM-dd'T'HH:mm:ss", "uuuu-MM-dd'T'HH:mm", "uuuuMMdd'T'HHmmss" }.Select(
            LocalDateTimePattern.CreateWithInvariantCulture
        ),
    ];

    private static readonly LocalDatePattern[] Dates =
    [
        LocalDatePattern.Iso,
        LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd"),
    ];

    /// <summary>
    /// Reads a date, a local time, a time in UTC or one with an offset (which then is told in UTC); null for anything else.
    /// </summary>
    /// <example>
    /// <code>
    /// RecurrenceText.Read("2026-11-02T08:00:00-04:00")!.Value.Time // 11/02/2026 12:00:00
    /// RecurrenceText.Read("soon") // null
    /// </code>
    /// </example>
    public static RuleMoment? Read(string text)
    {
        if (OffsetDateTimePattern.ExtendedIso.Parse(text) is { Success: true, Value: var zoned } && !text.EndsWith('Z'))
            return new RuleMoment(zoned.InFixedZone().ToInstant().InUtc().LocalDateTime, IsDate: false, IsUtc: true);
        foreach (var pattern in Dates)
            if (pattern.Parse(text) is { Success: true, Value: var date })
                return new RuleMoment(date.AtMidnight(), IsDate: true, IsUtc: false);
        var isUtc = text.EndsWith('Z');
        foreach (var pattern in Times)
            if (pattern.Parse(isUtc ? text[..^1] : text) is { Success: true, Value: var time })
                return new RuleMoment(time, IsDate: false, isUtc);
        return null;
    }

    /// <summary>"2026-11-02T08:00:00-04:00", or without the offset for a time by any clock, or "2026-11-02" for a date.</summary>
    public static string Write(Occurrence occurrence, RecurrenceStart start)
    {
        var local = occurrence.Local;
        if (start.IsDate)
            return LocalDatePattern.Iso.Format(local.Date);
        var text = local.ToString("uuuu-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);
        if (start.Zone is null)
            return text;
        var seconds = Math.Abs(occurrence.Offset.Seconds);
        var rest = seconds % 60 == 0 ? "" : string.Create(CultureInfo.InvariantCulture, $":{seconds % 60:00}");
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{text}{(occurrence.Offset.Seconds < 0 ? '-' : '+')}{seconds / 3600:00}:{seconds / 60 % 60:00}{rest}"
        );
    }
}
