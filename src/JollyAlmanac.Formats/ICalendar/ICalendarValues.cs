using System.Globalization;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>A time as a file has it: a date, a time by any clock, or a time in a zone.</summary>
/// <param name="Time">The local time; midnight for a date.</param>
/// <param name="IsDate">A date.</param>
/// <param name="Zone">The zone, UTC for a time with a Z; null for a date and for a time by any clock.</param>
public readonly record struct FileTime(LocalDateTime Time, bool IsDate, DateTimeZone? Zone)
{
    /// <summary>The instant, after RFC 5545 §3.3.5; for what has no zone as if it were UTC, to compare with its like.</summary>
    public Instant At => WallClock.InstantOf(Time, Zone ?? DateTimeZone.Utc);

    /// <summary>The same for a rule that starts in a zone, where it stands in that zone or in UTC.</summary>
    public RuleMoment For(DateTimeZone? start) =>
        IsDate ? new RuleMoment(Time, IsDate: true, IsUtc: false)
        : start is null || Zone is null || Zone.Equals(start) ? new RuleMoment(Time, IsDate: false, IsUtc: false)
        : new RuleMoment(At.InUtc().LocalDateTime, IsDate: false, IsUtc: true);
}

/// <summary>A duration of RFC 5545 §3.3.6: days go by the calendar, hours by the clock.</summary>
/// <param name="Days">Days, weeks among them.</param>
/// <param name="Seconds">What is below a day.</param>
public readonly record struct FileDuration(int Days, long Seconds);

/// <summary>Reads values of RFC 5545 §3.3, leniently where practice is.</summary>
public static class ICalendarValues
{
    private static readonly LocalDatePattern Date = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");
    private static readonly LocalDateTimePattern Local = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuuMMdd'T'HHmmss"
    );
    private static readonly LocalDateTimePattern NoSeconds = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuuMMdd'T'HHmm"
    );

    /// <summary>A date or a time; null for what is none. A 60th second is the 59th.</summary>
    /// <param name="value">The value, one of a list at most.</param>
    /// <param name="zone">Of its TZID; null where it has none.</param>
    /// <example>
    /// <code>
    /// ICalendarValues.Time("20261014T095000", zone)?.At // 2026-10-14T12:50:00Z
    /// ICalendarValues.Time("20261314", null) // null
    /// </code>
    /// </example>
    public static FileTime? Time(string value, DateTimeZone? zone)
    {
        value = value.Trim();
        if (Date.Parse(value) is { Success: true, Value: var day })
            return InYears(new FileTime(day.AtMidnight(), true, null));
        var isUtc = value.EndsWith('Z') || value.EndsWith('z');
        var text = (isUtc ? value[..^1] : value).ToUpperInvariant();
        if (text.Length == 15 && text.EndsWith("60", StringComparison.Ordinal))
            text = text[..13] + "59";
        var found = Local.Parse(text);
        if (!found.Success)
            found = NoSeconds.Parse(text);
        return found.Success ? InYears(new FileTime(found.Value, false, isUtc ? DateTimeZone.Utc : zone)) : null;
    }

    // Beyond these no calendar goes, and sums stay within what dates can be.
    private static FileTime? InYears(FileTime time) => time.Time.Year is >= 1 and <= 9000 ? time : null;

    /// <summary>A duration; null for what is none.</summary>
    public static FileDuration? Duration(string value)
    {
        var text = value.Trim().ToUpperInvariant();
        var sign = text.StartsWith('-') ? -1 : 1;
        text = text.TrimStart('+', '-');
        if (text.Length < 2 || text[0] != 'P')
            return null;
        var (days, seconds, number, isTime, any) = (0L, 0L, 0L, false, false);
        var digits = 0;
        foreach (var letter in text.AsSpan(1))
        {
            if (char.IsAsciiDigit(letter))
            {
                if (++digits > 9)
                    return null;
                number = number * 10 + (letter - '0');
                continue;
            }

            if (letter == 'T')
            {
                if (isTime || digits > 0)
                    return null;
                isTime = true;
                continue;
            }

            if (digits == 0)
                return null;
            switch (letter, isTime)
            {
                case ('W', false):
                    days += number * 7;
                    break;
                case ('D', false):
                    days += number;
                    break;
                case ('H', true):
                    seconds += number * 3600;
                    break;
                case ('M', true):
                    seconds += number * 60;
                    break;
                case ('S', true):
                    seconds += number;
                    break;
                default:
                    return null;
            }

            (number, digits, any) = (0, 0, true);
        }

        return any && digits == 0 && days < 366_000 && seconds < 366_000L * 86_400
            ? new FileDuration((int)(sign * days), sign * seconds)
            : null;
    }

    /// <summary>What begins then and lasts so long ends here: days by the calendar, then the rest by the clock.</summary>
    public static FileTime Plus(FileTime start, FileDuration length)
    {
        var day = start with { Time = start.Time.PlusDays(length.Days) };
        if (length.Seconds == 0)
            return day;
        if (start.Zone is null)
            return day with { Time = day.Time.PlusSeconds(length.Seconds) };
        return day with
        {
            Time = (day.At + NodaTime.Duration.FromSeconds(length.Seconds)).InZone(start.Zone).LocalDateTime,
        };
    }

    /// <summary>The values of a list, split at its commas.</summary>
    public static IEnumerable<string> List(ContentLine line) =>
        line.Value.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    /// <summary>The offset "-0400" or "+013015"; null for what is none.</summary>
    /// <example>
    /// <code>
    /// ICalendarValues.OffsetOf("-0400") // -04
    /// </code>
    /// </example>
    public static Offset? OffsetOf(string value)
    {
        var text = value.Trim();
        if (text.Length is not (5 or 7) || text[0] is not ('+' or '-') || !text.AsSpan(1).ContainsOnlyDigits())
            return null;
        int Two(int at) => int.Parse(text.AsSpan(at, 2), CultureInfo.InvariantCulture);
        var seconds = Two(1) * 3600 + Two(3) * 60 + (text.Length == 7 ? Two(5) : 0);
        return Two(3) > 59 || seconds > 18 * 3600 ? null : Offset.FromSeconds(text[0] == '-' ? -seconds : seconds);
    }

    private static bool ContainsOnlyDigits(this ReadOnlySpan<char> text) => text.IndexOfAnyExceptInRange('0', '9') < 0;
}
