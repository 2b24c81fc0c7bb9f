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
    /// <example>
    /// <code>
    /// Repeat.Weekly([IsoDayOfWeek.Monday], 2, IsoDayOfWeek.Monday).Rule.Interval // 2
    /// </code>
    /// </example>
    public static ByRule Weekly(IEnumerable<IsoDayOfWeek> days, int everyWeeks, IsoDayOfWeek weekStart) =>
        new(
            new RecurrenceRule
            {
                Frequency = Frequency.Weekly,
                Interval = everyWeeks,
                WeekStart = weekStart,
                Days = [.. days.Distinct().Order().Select(day => new WeekdayPlace(0, day))],
            }
        );

    /// <summary>The weekdays of a plain weekly rule, Monday first; empty for anything else.</summary>
    public ImmutableArray<IsoDayOfWeek> WeeklyDays =>
        this
            is ByRule
            {
                Rule:
                { Frequency: Frequency.Weekly, Months.IsEmpty: true, Positions.IsEmpty: true, Days.IsEmpty: false } rule
            }
            ? [.. rule.Days.Select(day => day.Day)]
            : [];
}

/// <summary>When on a day a session meets.</summary>
public abstract record SessionTime
{
    private SessionTime() { }

    /// <summary>By the wall clock, half open.</summary>
    /// <param name="Start">The start.</param>
    /// <param name="End">The end.</param>
    /// <param name="Nights">How many days later the end is: 0 on the same day, at most <see cref="MostDays"/>.</param>
    public sealed record Clock(LocalTime Start, LocalTime End, int Nights = 0) : SessionTime;

    /// <summary>In a named period of the bell schedule, whatever times that has on the day.</summary>
    public sealed record InPeriod(string Period) : SessionTime;

    /// <summary>The whole day, or so many: dates, not midnight somewhere.</summary>
    public sealed record AllDay(int Days = 1) : SessionTime;

    /// <summary>The most days that one session takes: a school's long holidays are an entry like others.</summary>
    public const int MostDays = 100;

    /// <summary>Why it can be no session's time, in a sentence without its subject; null where it can.</summary>
    /// <example>
    /// <code>
    /// new SessionTime.Clock(new LocalTime(9, 0), new LocalTime(8, 0)).Impossible() // it ends before it begins
    /// </code>
    /// </example>
    public string? Impossible() =>
        this switch
        {
            Clock { Nights: 0 } clock when clock.End <= clock.Start => "it ends before it begins",
            Clock { Nights: < 0 or > MostDays } or AllDay { Days: < 1 or > MostDays } =>
                $"it takes more than {MostDays} days, or less than one",
            _ => null,
        };

    /// <summary>Start and length in minutes by those bells; null where they have no such period.</summary>
    public (LocalTime Start, int Minutes)? On(BellSchedule bells) =>
        this switch
        {
            Clock clock => (clock.Start, clock.Nights * 24 * 60 + MinutesBetween(clock.Start, clock.End)),
            InPeriod named when bells.Find(named.Period) is { } period => (
                period.Start,
                MinutesBetween(period.Start, period.End)
            ),
            AllDay whole => (LocalTime.Midnight, whole.Days * 24 * 60),
            _ => null,
        };

    private static int MinutesBetween(LocalTime start, LocalTime end) =>
        (int)((end.TickOfDay - start.TickOfDay) / NodaConstants.TicksPerMinute);
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
/// <param name="Day">The day, by the clock of the pattern's zone.</param>
/// <param name="Time">The time.</param>
/// <param name="Original">
/// What it is known by for ever, whatever becomes of its day, its time or the bells: a start as it was when it was added, with
/// seconds from 1 up, which no session of a pattern has. See <see cref="Named"/>.
/// </param>
public sealed record ExtraSession(LocalDate Day, SessionTime Time, LocalDateTime Original)
{
    /// <summary>
    /// Extra sessions with their names: those that were there keep theirs (found by day and time, else by the day alone, where
    /// that is clear), new ones get one that no other has.
    /// </summary>
    /// <param name="wanted">The days and times.</param>
    /// <param name="known">Those that were there.</param>
    /// <param name="bells">The regular bells, for a first start to be named by.</param>
    public static ImmutableArray<ExtraSession> Named(
        IEnumerable<(LocalDate Day, SessionTime Time)> wanted,
        ImmutableArray<ExtraSession> known,
        BellSchedule bells
    )
    {
        var left = known.ToList();
        var named = new List<(LocalDate Day, SessionTime Time, LocalDateTime? Original)>();
        foreach (var (day, time) in wanted)
            named.Add((day, time, Take(one => one.Day == day && one.Time == time)));
        for (var at = 0; at < named.Count; at++)
        {
            var (day, time, original) = named[at];
            if (original is null && named.Count(one => one.Day == day) == 1 && left.Count(one => one.Day == day) == 1)
                named[at] = (day, time, Take(one => one.Day == day));
        }

        var used = named
            .Select(one => one.Original)
            .Concat(known.Select(one => (LocalDateTime?)one.Original))
            .ToHashSet();
        for (var at = 0; at < named.Count; at++)
        {
            if (named[at].Original is not null)
                continue;
            var original = named[at].Day + (named[at].Time.On(bells)?.Start ?? LocalTime.Midnight).PlusSeconds(1);
            while (!used.Add(original))
                original = original.Second == 59 ? original.PlusMinutes(1).PlusSeconds(-58) : original.PlusSeconds(1);
            named[at] = (named[at].Day, named[at].Time, original);
        }

        return
        [
            .. named
                .Select(one => new ExtraSession(one.Day, one.Time, one.Original!.Value))
                .OrderBy(one => one.Day)
                .ThenBy(one => one.Original),
        ];

        LocalDateTime? Take(Predicate<ExtraSession> which)
        {
            if (left.FindIndex(which) is not (>= 0 and var at))
                return null;
            var original = left[at].Original;
            left.RemoveAt(at);
            return original;
        }
    }
}

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

    /// <summary>Dates that the pattern gives and that are left out of it (EXDATE), in order; what is there without them is told.</summary>
    public ImmutableArray<LocalDate> Without { get; init; } = [];

    /// <summary>The most of them.</summary>
    public const int MostWithout = 500;

    /// <summary>It happens once and no more: a series of one.</summary>
    public bool IsOnce => Repeat is Repeat.OnDates { Dates.Length: 1 } && Extra.IsEmpty;

    /// <summary>The most extra sessions.</summary>
    public const int MostExtra = 100;

    /// <summary>
    /// Why no planning can be made of it, in a sentence without its subject ("its first day lies in the year 9998"); null where
    /// all is well. What forms give is always well; what is read from elsewhere is asked before it is planned.
    /// </summary>
    public string? Unplannable()
    {
        if (!IsNear(From))
            return $"its first day lies in the year {From.Year}";
        if (Extent is Extent.Until until && (!IsNear(until.Day) || Period.DaysBetween(From, until.Day) > LongestDays))
            return "it reaches farther than ten years";
        if (Extent is Extent.Held { Sessions: < 1 or > MostHeldSessions })
            return $"its number of sessions is not from 1 to {MostHeldSessions}";
        if (Extra.Length > MostExtra || Extra.Any(extra => !IsNear(extra.Day)))
            return "its extra sessions are too many or too far away";
        if (
            Extra.DistinctBy(extra => extra.Original).Count() < Extra.Length
            || Extra.Any(extra => !SessionKey.IsExtra(extra.Original))
        )
            return "its extra sessions cannot be told apart";
        if (!Enum.IsDefined(NoClass))
            return "what becomes of it on no-class days is not known";
        foreach (var time in Extra.Select(extra => extra.Time).Append(Time))
            if (time.Impossible() is { } reason)
                return reason;
        if (Without.Length > MostWithout)
            return "the dates left out of it are too many";
        return Repeat switch
        {
            Repeat.OnDates { Dates: { IsEmpty: true } or { Length: > MostHeldSessions } } =>
                $"its dates are none, or more than {MostHeldSessions}",
            Repeat.OnDates listed when listed.Dates.Any(day => !IsNear(day)) => "one of its dates lies too far away",
            Repeat.OnDates listed when listed.Dates.Zip(listed.Dates.Skip(1)).Any(pair => pair.First >= pair.Second) =>
                "its dates are not in order",
            Repeat.OnCycleDays { Names: { IsEmpty: true } or { Length: > 40 } } =>
                "its cycle days are none, or too many",
            Repeat.ByRule { Rule: var rule }
                when rule.Frequency < Frequency.Daily
                    || !rule.Hours.IsEmpty
                    || !rule.Minutes.IsEmpty
                    || !rule.Seconds.IsEmpty => "its rule names times of day",
            Repeat.ByRule { Rule: { Count: not null } or { Until: not null } } => "its rule names an end of its own",
            _ => null,
        };

        static bool IsNear(LocalDate day) => day.Year is >= 1950 and <= 2160;
    }
}
