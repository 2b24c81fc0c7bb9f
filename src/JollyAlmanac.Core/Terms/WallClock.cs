using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Core.Terms;

/// <summary>
/// From what a wall clock says to an instant, as RFC 5545 §3.3.5 has it: a time that the clocks skip takes the offset
/// from before the gap (2:30 becomes 3:30), a time that comes twice is the first of the two.
/// </summary>
public static class WallClock
{
    private static readonly ZoneLocalMappingResolver Rule = Resolvers.CreateMappingResolver(
        Resolvers.ReturnEarlier,
        Resolvers.ReturnForwardShifted
    );

    /// <summary>The zoned moment at which a wall clock in <paramref name="zone"/> shows <paramref name="local"/>.</summary>
    /// <example>
    /// <code>
    /// WallClock.At(new LocalDateTime(2026, 10, 14, 9, 50), zone).Offset // -03
    /// </code>
    /// </example>
    public static ZonedDateTime At(LocalDateTime local, DateTimeZone zone) => zone.ResolveLocal(local, Rule);

    /// <summary>The instant at which a wall clock in <paramref name="zone"/> shows <paramref name="local"/>.</summary>
    /// <remarks>
    /// In America/Halifax, 8 Mar 2026 has no 2:30: it gives the instant of 3:30. 1 Nov 2026 has 1:30 twice: it gives the first. So two
    /// different local times may give one instant, and a session there may be shorter or longer than its times say.
    /// </remarks>
    /// <example>
    /// <code>
    /// WallClock.InstantOf(new LocalDateTime(2026, 3, 8, 2, 30), zone) // 2026-03-08T06:30:00Z
    /// WallClock.InstantOf(new LocalDateTime(2026, 11, 1, 1, 30), zone) // 2026-11-01T04:30:00Z
    /// </code>
    /// </example>
    public static Instant InstantOf(LocalDateTime local, DateTimeZone zone) => At(local, zone).ToInstant();
}
