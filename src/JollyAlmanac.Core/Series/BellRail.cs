using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>A session on a rail: in which lane it lies, where several meet at once.</summary>
public sealed record RailSession(ShownSession Shown, LocalTime Start, LocalTime End, int Lane);

/// <summary>
/// A day drawn by the school's bells: periods wide, breaks thin, sessions on them in as few lanes as keep them apart.
/// </summary>
/// <param name="From">Where the rail begins.</param>
/// <param name="To">Where it ends.</param>
/// <param name="Periods">The bell periods.</param>
/// <param name="Sessions">By start.</param>
/// <param name="Lanes">At least one.</param>
public sealed record BellRail(LocalTime From, LocalTime To, ImmutableArray<BellPeriod> Periods, ImmutableArray<RailSession> Sessions, int Lanes)
{
    private const int Rim = 10;

    /// <summary>Lays out the sessions of one day, which are in order of their start.</summary>
    public static BellRail Of(IReadOnlyList<ShownSession> sessions, BellSchedule bells)
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
            placed.Add(new RailSession(shown, start, end, lane));
        }

        LocalTime[] starts = [.. bells.Periods.Select(period => period.Start), .. placed.Select(one => one.Start)];
        LocalTime[] ends = [.. bells.Periods.Select(period => period.End), .. placed.Select(one => one.End)];
        var (first, last) = starts.Length == 0 ? (new LocalTime(8, 0), new LocalTime(16, 0)) : (starts.Min(), ends.Max());
        return new BellRail(Shift(first, -Rim), Shift(last, Rim), bells.Periods, placed.ToImmutable(), Math.Max(1, lanes.Count));
    }

    /// <summary>Where a time lies along the rail: 0 at its begin, 1 at its end; outside, beyond these.</summary>
    public double Along(LocalTime time) => (double)(time.TickOfDay - From.TickOfDay) / (To.TickOfDay - From.TickOfDay);

    // The rim stays within the day.
    private static LocalTime Shift(LocalTime time, int minutes) =>
        LocalTime.FromMinutesSinceMidnight(Math.Clamp(time.Hour * 60 + time.Minute + minutes, 0, 24 * 60 - 1));
}
