using System.Collections.Immutable;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Sheets;

/// <summary>Some time of one day, half open.</summary>
/// <param name="From">Its start.</param>
/// <param name="To">Its end, later than its start.</param>
public readonly record struct ClockSpan(LocalTime From, LocalTime To);

/// <summary>When somebody is busy and when they are free, on one day within some hours.</summary>
/// <param name="Day">The day.</param>
/// <param name="Busy">When they are busy, in order and apart.</param>
/// <param name="Free">When they are free for <see cref="FreeTimes.Shortest"/> or longer, in order and apart.</param>
public sealed record DayTimes(LocalDate Day, ImmutableArray<ClockSpan> Busy, ImmutableArray<ClockSpan> Free)
{
    /// <summary>"Thu 15 Oct: free 8:00–8:55, 9:45–15:15".</summary>
    public string InWords =>
        $"{Wording.WithWeekday(Day)}: {(Free.IsEmpty ? "not free" : $"free {string.Join(", ", Free.Select(one => Wording.Span(one.From, one.To)))}")}";
}

/// <summary>Works out when somebody is free.</summary>
public static class FreeTimes
{
    /// <summary>Less than this between two sessions is no free time.</summary>
    public static readonly Duration Shortest = Duration.FromMinutes(15);

    /// <summary>The days from one to another, Saturdays and Sundays left away.</summary>
    /// <param name="taken">When they are busy: half open, in any order, overlapping or not. Back to back is no gap.</param>
    /// <param name="first">The first day.</param>
    /// <param name="last">The last day.</param>
    /// <param name="hours">The hours of each day that are looked at, by the clock of the zone.</param>
    /// <param name="zone">The zone.</param>
    public static IReadOnlyList<DayTimes> Of(
        IEnumerable<Interval> taken,
        LocalDate first,
        LocalDate last,
        ClockSpan hours,
        DateTimeZone zone
    )
    {
        var all = taken.OrderBy(one => one.Start).ToList();
        var days = new List<DayTimes>();
        for (var day = first; day <= last; day = day.PlusDays(1))
        {
            if (day.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
                continue;
            var (from, to) = (WallClock.InstantOf(day + hours.From, zone), WallClock.InstantOf(day + hours.To, zone));
            var (busy, free) = (new List<Interval>(), ImmutableArray.CreateBuilder<ClockSpan>());
            var at = from;
            foreach (var one in all)
            {
                if (one.End <= from || one.Start >= to)
                    continue;
                var (start, end) = (Instant.Max(one.Start, from), Instant.Min(one.End, to));
                if (busy.Count > 0 && start <= busy[^1].End)
                    busy[^1] = new Interval(busy[^1].Start, Instant.Max(busy[^1].End, end));
                else
                    busy.Add(new Interval(start, end));
            }

            foreach (var one in busy)
            {
                if (one.Start - at >= Shortest)
                    free.Add(Clock(at, one.Start));
                at = one.End;
            }

            if (to - at >= Shortest)
                free.Add(Clock(at, to));
            days.Add(new DayTimes(day, [.. busy.Select(one => Clock(one.Start, one.End))], free.ToImmutable()));
        }

        return days;

        ClockSpan Clock(Instant start, Instant end) => new(start.InZone(zone).TimeOfDay, end.InZone(zone).TimeOfDay);
    }
}
