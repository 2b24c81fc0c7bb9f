using System.Collections.Immutable;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>On which dates a series meets, before no-class days and changes.</summary>
public abstract record Repeat
{
    private Repeat() { }

    /// <summary>By a recurrence rule of FREQ=DAILY to YEARLY, without an end and without times: these stand beside it.</summary>
    public sealed record ByRule(RecurrenceRule Rule) : Repeat;

    /// <summary>On these days of the school's cycle, which rotates over class days only.</summary>
    public sealed record OnCycleDays(ImmutableArray<string> Names) : Repeat;

    /// <summary>On the dates listed, in order; one of them makes a single event.</summary>
    public sealed record OnDates(ImmutableArray<LocalDate> Dates) : Repeat;

    /// <summary>Every N weeks on these weekdays.</summary>
    public static ByRule Weekly(IEnumerable<IsoDayOfWeek> days, int everyWeeks, IsoDayOfWeek weekStart) => new(new RecurrenceRule
    {
        Frequency = Frequency.Weekly, Interval = everyWeeks, WeekStart = weekStart,
        Days = [.. days.Distinct().Order().Select(day => new WeekdayPlace(0, day))],
    });

    /// <summary>The weekdays of a plain weekly rule, Monday first; empty for anything else.</summary>
    public ImmutableArray<IsoDayOfWeek> WeeklyDays =>
        this is ByRule { Rule: { Frequency: Frequency.Weekly, Months.IsEmpty: true, Positions.IsEmpty: true, Days.IsEmpty: false } rule } ? [.. rule.Days.Select(day => day.Day)] : [];
}

/// <summary>When on a day a session meets.</summary>
public abstract record SessionTime
{
    private SessionTime() { }

    /// <summary>By the wall clock, half open.</summary>
    public sealed record Clock(LocalTime Start, LocalTime End) : SessionTime;

    /// <summary>In a named period of the bell schedule, whatever times that has on the day.</summary>
    public sealed record InPeriod(string Period) : SessionTime;

    /// <summary>The whole day: a date, not midnight somewhere.</summary>
    public sealed record AllDay : SessionTime;

    /// <summary>Start and length in minutes by those bells; null where they have no such period.</summary>
    public (LocalTime Start, int Minutes)? On(BellSchedule bells) => this switch
    {
        Clock clock => (clock.Start, MinutesBetween(clock.Start, clock.End)),
        InPeriod named when bells.Find(named.Period) is { } period => (period.Start, MinutesBetween(period.Start, period.End)),
        AllDay => (LocalTime.Midnight, 24 * 60),
        _ => null,
    };

    private static int MinutesBetween(LocalTime start, LocalTime end) => (int)((end.TickOfDay - start.TickOfDay) / NodaConstants.TicksPerMinute);
}

/// <summary>How far a series reaches.</summary>
public abstract record Extent
{
    private Extent() { }

    /// <summary>To the last day of a term.</summary>
    public sealed record WithTerm(TermId Term) : Extent;

    /// <summary>To a day, inclusive.</summary>
    public sealed record Until(LocalDate Day) : Extent;

    /// <summary>Until so many sessions are held; a session that a no-class day takes out is not counted.</summary>
    public sealed record Held(int Sessions) : Extent;

    /// <summary>Without an end: planned as far as terms are known, a year at least.</summary>
    public sealed record Open : Extent;
}

/// <summary>What becomes of a session on a no-class day.</summary>
public enum NoClassPolicy
{
    /// <summary>It is left out.</summary>
    LeaveOut,
    /// <summary>It meets anyway.</summary>
    MeetAnyway,
    /// <summary>It moves to the next class day that the series does not meet on already, within a week; else it is left out.</summary>
    NextClassDay,
}

/// <summary>A session beside the pattern (RDATE).</summary>
public sealed record ExtraSession(LocalDate Day, SessionTime Time);

/// <summary>
/// When a series meets: on these dates, at this time, from a day, as far as its extent. Local times of
/// <paramref name="Zone"/>, so 9:00 stays 9:00 through daylight saving.
/// </summary>
/// <param name="Repeat">Rule, cycle days or listed dates.</param>
/// <param name="Time">Clock time, period or all day.</param>
/// <param name="Zone">The IANA zone of the clock.</param>
/// <param name="From">The stated first day; the first session is on the first matching day from there.</param>
/// <param name="Extent">Where it ends; without meaning for listed dates.</param>
public sealed record MeetingPattern(Repeat Repeat, SessionTime Time, DateTimeZone Zone, LocalDate From, Extent Extent)
{
    /// <summary>The longest a series by number of held sessions may be, and the most dates that may be listed.</summary>
    public const int MostHeldSessions = 500;

    /// <summary>The longest a series may reach, in days: ten years.</summary>
    public const int LongestDays = 3660;

    /// <summary>What becomes of sessions on no-class days.</summary>
    public NoClassPolicy NoClass { get; init; }

    /// <summary>Sessions beside the pattern, in order.</summary>
    public ImmutableArray<ExtraSession> Extra { get; init; } = [];

    /// <summary>It happens once and no more: a series of one.</summary>
    public bool IsOnce => Repeat is Repeat.OnDates { Dates.Length: 1 } && Extra.IsEmpty;
}
