using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Sheets;

/// <summary>
/// A session on a rail: in which lane it lies, where several meet at once, and when its door is open (its wing), where it has one.
/// </summary>
public sealed record RailSession(
    ShownSession Shown,
    LocalTime Start,
    LocalTime End,
    int Lane,
    (LocalTime Opens, LocalTime Shuts)? Wing
);

/// <summary>
/// A day drawn by the school's bells: periods wide, breaks thin, sessions on them in as few lanes as keep them apart.
/// </summary>
/// <param name="From">Where the rail begins.</param>
/// <param name="To">Where it ends.</param>
/// <param name="Periods">The bell periods.</param>
/// <param name="Sessions">By start.</param>
/// <param name="Lanes">At least one.</param>
public sealed record BellRail(
    LocalTime From,
    LocalTime To,
    ImmutableArray<BellPeriod> Periods,
    ImmutableArray<RailSession> Sessions,
    int Lanes
)
{
    private const int Rim = 10;

    /// <summary>Lays out the sessions of one day, which are in order of their start.</summary>
    /// <param name="sessions">The sessions.</param>
    /// <param name="bells">The bells of the day.</param>
    /// <param name="zone">The school's zone.</param>
    /// <param name="windowOf">When a session's door is open; null where it has none.</param>
    public static BellRail Of(
        IReadOnlyList<ShownSession> sessions,
        BellSchedule bells,
        DateTimeZone zone,
        Func<Session, EntryWindow?> windowOf
    )
    {
        var lanes = new List<LocalTime>();
        var placed = ImmutableArray.CreateBuilder<RailSession>();
        foreach (var shown in sessions)
        {
            var (start, end) = (shown.Session.StartAtSchool.TimeOfDay, shown.Session.EndAtSchool.TimeOfDay);
            var lane = lanes.FindIndex(free => free <= start);
            if (lane < 0)
            {
                lane = lanes.Count;
                lanes.Add(end);
            }

            lanes[lane] = end;
            placed.Add(
                new RailSession(
                    shown,
                    start,
                    end,
                    lane,
                    windowOf(shown.Session) is { } window ? Wing(window, shown.Session.StartAtSchool.Date, zone) : null
                )
            );
        }

        var (from, to) = Span(
            bells,
            placed.SelectMany(one =>
                one.Wing is { } wing ? [(one.Start, one.End), (wing.Opens, wing.Shuts)] : new[] { (one.Start, one.End) }
            )
        );
        return new BellRail(from, to, bells.Periods, placed.ToImmutable(), Math.Max(1, lanes.Count));
    }

    /// <summary>
    /// The axis of a day on which these windows and their sessions are drawn; windows that last all day do not stretch it.
    /// </summary>
    public static BellRail Around(IEnumerable<EntryWindow> windows, BellSchedule bells, DateTimeZone zone)
    {
        var (from, to) = Span(
            bells,
            windows
                .Where(window => !window.Session.IsAllDay && window.Shuts - window.Opens < Duration.FromHours(20))
                .SelectMany(window =>
                    new[]
                    {
                        (window.Session.StartAtSchool.TimeOfDay, window.Session.EndAtSchool.TimeOfDay),
                        Wing(window, window.Session.StartAtSchool.Date, zone),
                    }
                )
        );
        return new BellRail(from, to, bells.Periods, [], 1);
    }

    /// <summary>A window by the school's clock, cut to its day.</summary>
    public static (LocalTime Opens, LocalTime Shuts) Wing(EntryWindow window, LocalDate day, DateTimeZone zone)
    {
        var (opens, shuts) = (window.Opens.InZone(zone).LocalDateTime, window.Shuts.InZone(zone).LocalDateTime);
        return (
            opens.Date < day ? LocalTime.Midnight : opens.TimeOfDay,
            shuts.Date > day ? LocalTime.MaxValue : shuts.TimeOfDay
        );
    }

    private static (LocalTime From, LocalTime To) Span(
        BellSchedule bells,
        IEnumerable<(LocalTime From, LocalTime To)> spans
    )
    {
        var all = bells.Periods.Select(period => (From: period.Start, To: period.End)).Concat(spans).ToList();
        var (first, last) =
            all.Count == 0
                ? (new LocalTime(8, 0), new LocalTime(16, 0))
                : (all.Min(span => span.From), all.Max(span => span.To));
        return (Shift(first, -Rim), Shift(last, Rim));
    }

    /// <summary>Where a time lies along the rail: 0 at its begin, 1 at its end; outside, beyond these.</summary>
    public double Along(LocalTime time) => (double)(time.TickOfDay - From.TickOfDay) / (To.TickOfDay - From.TickOfDay);

    // The rim stays within the day.
    private static LocalTime Shift(LocalTime time, int minutes) =>
        LocalTime.FromMinutesSinceMidnight(Math.Clamp(time.Hour * 60 + time.Minute + minutes, 0, 24 * 60 - 1));
}
