using NodaTime;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>One time at which a recurring thing happens. Two numbers; what people read is made of them when asked for.</summary>
public readonly record struct Occurrence
{
    internal Occurrence(long localSeconds, int offsetSeconds) =>
        (LocalSeconds, OffsetSeconds) = (localSeconds, offsetSeconds);

    internal long LocalSeconds { get; }

    internal int OffsetSeconds { get; }

    /// <summary>What the wall clock shows.</summary>
    public LocalDateTime Local => Recurrence.LocalSeconds.ToLocal(LocalSeconds);

    /// <summary>The date.</summary>
    public LocalDate Date => Local.Date;

    /// <summary>The offset from UTC; zero for a time without a zone.</summary>
    public Offset Offset => Offset.FromSeconds(OffsetSeconds);

    /// <summary>The instant; for a time without a zone, as if it were UTC.</summary>
    public Instant At => Instant.FromUnixTimeSeconds(LocalSeconds - OffsetSeconds);
}

/// <summary>Where a recurring thing starts (DTSTART): a date, a time by any clock, or a time in a zone.</summary>
/// <param name="Time">The local time; midnight for a date.</param>
/// <param name="IsDate">An all-day entry: dates, not times.</param>
/// <param name="Zone">The zone; null for a date and for a time by any clock.</param>
public sealed record RecurrenceStart(LocalDateTime Time, bool IsDate, DateTimeZone? Zone)
{
    /// <summary>An all-day start.</summary>
    public static RecurrenceStart OnDay(LocalDate day) => new(day.AtMidnight(), true, null);

    /// <summary>A start by the clock of a zone, or by any clock.</summary>
    public static RecurrenceStart At(LocalDateTime time, DateTimeZone? zone) => new(time, false, zone);
}
