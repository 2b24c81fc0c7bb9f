using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// A zone's wall clock over local seconds since 1970, that remembers the stretch of one offset it last looked at: nearly
/// every question falls into it, and asking the zone anew is what costs. For one thread.
/// </summary>
internal sealed class ZoneClock(DateTimeZone zone)
{
    private long localFrom = long.MaxValue;
    private long localTo = long.MinValue;
    private long instantFrom = long.MaxValue;
    private long instantTo = long.MinValue;
    private int localOffset;
    private int instantOffset;

    /// <summary>
    /// The moment at which the clock shows <paramref name="local"/>, as RFC 5545 §3.3.5 reads it: a skipped time takes the
    /// offset from before the gap and so is moved by it, a time that comes twice is the first.
    /// </summary>
    /// <returns>What the clock really shows then, and the offset in seconds.</returns>
    public (long Local, int Offset) Resolve(long local)
    {
        if (localFrom <= local && local < localTo)
            return (local, localOffset);
        var mapping = zone.MapLocal(LocalSeconds.ToLocal(local));
        if (mapping.Count == 0)
        {
            var (before, after) = (mapping.EarlyInterval.WallOffset.Seconds, mapping.LateInterval.WallOffset.Seconds);
            return (local - before + after, after);
        }

        var interval = mapping.EarlyInterval;
        localOffset = interval.WallOffset.Seconds;
        // A local time that the stretch before has, too, belongs to that one.
        localFrom = interval.HasStart
            ? interval.Start.ToUnixTimeSeconds()
                + Math.Max(localOffset, zone.GetUtcOffset(interval.Start - Duration.Epsilon).Seconds)
            : long.MinValue;
        localTo = interval.HasEnd ? interval.End.ToUnixTimeSeconds() + localOffset : long.MaxValue;
        return (local, localOffset);
    }

    /// <summary>The offset in seconds at an instant, in seconds since 1970.</summary>
    public int OffsetAt(long instant)
    {
        if (instant < instantFrom || instant >= instantTo)
        {
            ZoneInterval interval = zone.GetZoneInterval(Instant.FromUnixTimeSeconds(instant));
            instantOffset = interval.WallOffset.Seconds;
            instantFrom = interval.HasStart ? interval.Start.ToUnixTimeSeconds() : long.MinValue;
            instantTo = interval.HasEnd ? interval.End.ToUnixTimeSeconds() : long.MaxValue;
        }

        return instantOffset;
    }

    /// <summary>Where the stretch that the last <see cref="OffsetAt"/> looked at ends.</summary>
    public long StretchEnds => instantTo;
}

/// <summary>Local times as seconds since 1 Jan 1970, 0:00, by the same wall clock.</summary>
internal static class LocalSeconds
{
    public const int Day = 86_400;

    public static long Of(LocalDateTime time) =>
        CivilDay.Of(time.Year, time.Month, time.Day) * (long)Day
        + time.TimeOfDay.TickOfDay / NodaConstants.TicksPerSecond;

    public static int DayOf(long seconds) => (int)Math.DivRem(seconds, Day, out var rest) - (rest < 0 ? 1 : 0);

    public static LocalDateTime ToLocal(long seconds)
    {
        var day = DayOf(seconds);
        var (year, month, dayOfMonth) = CivilDay.Parts(day);
        return new LocalDate(year, month, dayOfMonth)
            + LocalTime.FromSecondsSinceMidnight((int)(seconds - day * (long)Day));
    }
}
