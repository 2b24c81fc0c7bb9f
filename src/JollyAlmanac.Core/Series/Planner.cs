using System.Collections.Immutable;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>
/// All sessions of a series, held and not, in order.
/// </summary>
/// <param name="Of">The series.</param>
/// <param name="Sessions">In order of their start.</param>
/// <param name="Loose">Changes whose session the pattern does not give (any more).</param>
public sealed record Plan(Series Of, ImmutableArray<Session> Sessions, ImmutableArray<Change> Loose)
{
    /// <summary>The sessions that are held.</summary>
    public IEnumerable<Session> Held => Sessions.Where(session => session.IsHeld);

    /// <summary>The sessions that a no-class day takes out.</summary>
    public IEnumerable<Session> LeftOut =>
        Sessions.Where(session => session.LeftOut is not null && !session.IsCancelled);

    /// <summary>The sessions that a person cancelled.</summary>
    public IEnumerable<Session> Cancelled => Sessions.Where(session => session.IsCancelled);

    /// <summary>How many sessions are held.</summary>
    public int HeldCount { get; } = Sessions.Count(session => session.IsHeld);

    /// <summary>Minutes with the class, over all held sessions.</summary>
    public int Minutes { get; } = Sessions.Where(session => session.IsHeld).Sum(session => session.Minutes);

    /// <summary>The number that comes after its last one.</summary>
    public int NextNumber => (Sessions.FirstOrDefault(session => session.IsHeld)?.Number ?? Of.FirstNumber) + HeldCount;

    /// <summary>The same plan, its held sessions numbered from there on.</summary>
    public Plan NumberedFrom(int first)
    {
        if (HeldCount == 0 || Sessions.First(session => session.IsHeld).Number == first)
            return this;
        var number = first;
        return this with
        {
            Sessions = [.. Sessions.Select(session => session.IsHeld ? session with { Number = number++ } : session)],
        };
    }

    /// <summary>The first date of the pattern, or null where it gives none.</summary>
    public LocalDate? First { get; init; }

    /// <summary>The first date of the pattern differs from the day that was stated ("from Wed", but it meets on Mondays).</summary>
    public bool StartsLaterThanStated => First is { } first && first != Of.Pattern.From;

    /// <summary>The session known by that original start, or null.</summary>
    public Session? Find(SessionKey key) => key.Series == Of.Id ? Find(key.Original) : null;

    /// <summary>The session known by that original start, or null.</summary>
    /// <param name="original">
    /// Where it lay before anybody moved it, never where it is now. Of a session of the pattern only the date counts, so that bells may
    /// change; an extra one's name carries seconds and must be the same to the second.
    /// </param>
    public Session? Find(LocalDateTime original) =>
        Sessions.FirstOrDefault(session => session.Original == original)
        ?? Sessions.FirstOrDefault(session => session.IsKnownBy(original));
}

/// <summary>
/// The one planner: what a series and the school's time make of each other. Term sheet, class page, feed and embed all
/// show what comes out here.
/// </summary>
public static class Planner
{
    private const int FarthestMove = 7;

    /// <summary>
    /// The whole plan of a series. A series whose term or period is not known (any more) has no sessions. A number of held sessions
    /// is reached whatever takes dates out: no-class days, shortened days without the period, moves that find no day. One that a
    /// person cancels is counted all the same.
    /// </summary>
    /// <param name="series">The series with its changes. Its pattern must be plannable (<see cref="MeetingPattern.Unplannable"/>).</param>
    /// <param name="school">The school's time: its terms, no-class days, bells, cycle and zone.</param>
    /// <returns>
    /// All sessions: held, cancelled and left out, in order of their start. Only held ones have a number. A change whose session the
    /// pattern does not give is loose and makes none.
    /// </returns>
    /// <example>
    /// <c>PlanOf(series, school).Sessions.Count()</c> counts no-class days, too; what is taught is <c>HeldCount</c>.
    /// </example>
    public static Plan PlanOf(Series series, SchoolTime school)
    {
        var pattern = series.Pattern;
        var sessions = new List<Session>();
        var changes = new ChangesAtHand(series.Changes);
        // What the pattern gives by itself; an extra session at the same time counts once, as an RDATE does.
        var given = pattern.Extra.IsEmpty ? null : new HashSet<LocalDateTime>();
        LocalDate? first = null;
        if (pattern.Time.On(school.Bells) is var (regular, minutes))
        {
            var most =
                pattern.Extent is Extent.Held held && pattern.Repeat is not Repeat.OnDates
                    ? held.Sessions
                    : int.MaxValue;
            var planned = 0;
            var taken = new HashSet<LocalDate>();
            foreach (
                var day in pattern.NoClass == NoClassPolicy.NextClassDay
                    ? Ahead(DatesOf(pattern, school), taken)
                    : DatesOf(pattern, school)
            )
            {
                first ??= day;
                var session = On(series, school, day, regular, minutes, taken);
                if (session.LeftOut is null)
                    given?.Add(session.Start);
                if (changes.Of(session) is { } change)
                    session = Changed(session, change, school);
                if (session.LeftOut is null)
                    planned++;
                sessions.Add(session);
                if (planned == most)
                    break;
            }
        }

        foreach (var extra in pattern.Extra)
        {
            if (
                Beside(series, school, extra) is not { } session
                || (session.LeftOut is null && !given!.Add(session.Start))
            )
                continue;
            sessions.Add(changes.Of(session) is { } change ? Changed(session, change, school) : session);
        }

        Sort(sessions);
        var number = series.FirstNumber;
        for (var at = 0; at < sessions.Count; at++)
            if (sessions[at].IsHeld)
                sessions[at] = sessions[at] with { Number = number++ };
        if (!pattern.Zone.Equals(school.Zone))
            for (var at = 0; at < sessions.Count; at++)
                sessions[at] = sessions[at] with { School = school.Zone };
        return new Plan(series, [.. sessions], changes.Left) { First = first };
    }

    /// <summary>
    /// The dates of the pattern in order and lazily, before no-class days; for a number of held sessions, as far as ten years.
    /// </summary>
    /// <returns>Dates by the clock of the pattern's own zone; the school's date may be the one before or after.</returns>
    public static IEnumerable<LocalDate> DatesOf(MeetingPattern pattern, SchoolTime school)
    {
        var last = LastDay(pattern, school);
        switch (pattern.Repeat)
        {
            case Repeat.OnDates listed:
                return listed.Dates;
            case Repeat.OnCycleDays cycle:
                return school
                    .CycleDays(pattern.From, last)
                    .Where(day => cycle.Names.Contains(day.Name))
                    .Select(day => day.Date);
            case Repeat.ByRule { Rule: var rule }:
                // Where the stated day does not match, the rule starts on the first that does, and its intervals count from there.
                var stated = RecurrenceStart.OnDay(pattern.From);
                var first = pattern.From;
                if (rule.Interval > 1)
                {
                    using var plain = new RecurrenceSet(rule with { Interval = 1 }, stated).All().GetEnumerator();
                    if (!plain.MoveNext())
                        return [];
                    first = plain.Current.Date;
                }

                return new RecurrenceSet(rule, RecurrenceStart.OnDay(first))
                    .Between(null, last.PlusDays(1).AtMidnight())
                    .Select(one => one.Date);
            default:
                throw new InvalidOperationException("A repeat that nobody planned for.");
        }
    }

    private static LocalDate LastDay(MeetingPattern pattern, SchoolTime school) =>
        pattern.Extent switch
        {
            Extent.Until until => until.Day,
            Extent.WithTerm with => school.Find(with.Term)?.Last ?? pattern.From.PlusDays(-1),
            Extent.Held => pattern.From.PlusDays(MeetingPattern.LongestDays),
            Extent.Open => school.Terms.IsEmpty
                ? pattern.From.PlusYears(1)
                : LocalDate.Max(pattern.From.PlusYears(1), school.Terms[^1].Last),
            _ => throw new InvalidOperationException("An extent that nobody planned for."),
        };

    // Dates as they come, with those of the next days known beforehand: what a no-class day moves must find another.
    private static IEnumerable<LocalDate> Ahead(IEnumerable<LocalDate> dates, HashSet<LocalDate> known)
    {
        var waiting = new Queue<LocalDate>();
        foreach (var date in dates)
        {
            known.Add(date);
            while (waiting.Count > 0 && waiting.Peek().PlusDays(FarthestMove) < date)
                yield return waiting.Dequeue();
            waiting.Enqueue(date);
        }

        while (waiting.Count > 0)
            yield return waiting.Dequeue();
    }

    // By how many days the school's date differs from the series' own at that time: another clock may be a day ahead.
    private static int DaysToSchool(MeetingPattern pattern, SchoolTime school, LocalDateTime start) =>
        pattern.Time is SessionTime.AllDay || pattern.Zone.Equals(school.Zone)
            ? 0
            : Period.DaysBetween(start.Date, WallClock.InstantOf(start, pattern.Zone).InZone(school.Zone).Date);

    private static Session On(
        Series series,
        SchoolTime school,
        LocalDate day,
        LocalTime regular,
        int minutes,
        HashSet<LocalDate> taken
    )
    {
        var pattern = series.Pattern;
        var original = day + regular;
        var apart = DaysToSchool(pattern, school, original);
        var meets = day;
        NoClassDay? leftOut = null;
        if (pattern.Without.Contains(day))
            leftOut = new NoClassDay(day, day, "left out", NoClassKind.Holiday);
        else if (pattern.NoClass != NoClassPolicy.MeetAnyway && school.NoClassOn(day.PlusDays(apart)) is { } noClass)
        {
            if (pattern.NoClass == NoClassPolicy.NextClassDay && NextFreeDay(school, day, apart, taken) is { } next)
                meets = next;
            else
                leftOut = noClass;
        }

        var (start, length) = (regular, minutes);
        if (pattern.Time is SessionTime.InPeriod named && school.ShortenedOn(meets.PlusDays(apart)) is { } shortened)
        {
            if (named.On(shortened) is var (own, ownLength))
                (start, length) = (own, ownLength);
            else
                leftOut ??= NoPeriod(day, named, shortened);
        }

        return new Session(series, original, meets + start, End(meets, start, length), null, leftOut)
        {
            IsAllDay = pattern.Time is SessionTime.AllDay,
        };
    }

    private static NoClassDay? NoClassOn(MeetingPattern pattern, SchoolTime school, LocalDate day, LocalTime time) =>
        pattern.NoClass == NoClassPolicy.MeetAnyway
            ? null
            : school.NoClassOn(day.PlusDays(DaysToSchool(pattern, school, day + time)));

    // An extra session meets on a holiday, for which somebody chose it, and not in bad weather, which nobody chose; its bells must have its
    // period. Null where no bells have it.
    private static Session? Beside(Series series, SchoolTime school, ExtraSession extra)
    {
        var bells = school.BellsOn(extra.Day);
        if ((extra.Time.On(bells) ?? extra.Time.On(school.Bells)) is not var (start, minutes))
            return null;
        var leftOut =
            extra.Time is SessionTime.InPeriod named && named.On(bells) is null ? NoPeriod(extra.Day, named, bells)
            : NoClassOn(series.Pattern, school, extra.Day, start) is { Kind: NoClassKind.Weather } weather ? weather
            : null;
        return new Session(series, extra.Original, extra.Day + start, End(extra.Day, start, minutes), null, leftOut)
        {
            IsAllDay = extra.Time is SessionTime.AllDay,
        };
    }

    private static NoClassDay NoPeriod(LocalDate day, SessionTime.InPeriod named, BellSchedule bells) =>
        new(day, day, $"no period {named.Period} on {bells.Name}", NoClassKind.Holiday);

    private static LocalDate? NextFreeDay(SchoolTime school, LocalDate day, int apart, HashSet<LocalDate> taken)
    {
        for (var next = day.PlusDays(1); next <= day.PlusDays(FarthestMove); next = next.PlusDays(1))
            if (school.IsClassDay(next.PlusDays(apart)) && taken.Add(next))
                return next;
        return null;
    }

    private static Session Changed(Session session, Change change, SchoolTime school)
    {
        // A day without class takes out whatever stands on it, however it came there, unless somebody said that it meets all the same.
        var leftOut =
            change.Status == SessionStatus.Held ? null
            : change.Day is { } moved ? NoClassOn(session.Of.Pattern, school, moved, session.Start.TimeOfDay)
            : session.LeftOut;
        if (change.Day is null && change.Time is null)
            return session with { Change = change, LeftOut = leftOut };
        var day = change.Day ?? session.Start.Date;
        var time = change.Time
            ?? (
                session.IsExtra
                    ? session.Of.Pattern.Extra.First(extra => extra.Original == session.Original).Time
                    : session.Of.Pattern.Time
            );
        var (start, minutes) = time.On(school.BellsOn(day))
            ?? time.On(school.Bells)
            ?? (session.Start.TimeOfDay, session.Minutes);
        return session with
        {
            Change = change,
            LeftOut = leftOut,
            Start = day + start,
            End = End(day, start, minutes),
            IsAllDay = time is SessionTime.AllDay,
        };
    }

    // The changes of a series, each taken by the one session it is for; what is left has none.
    private sealed class ChangesAtHand(ImmutableArray<Change> changes)
    {
        private readonly List<Change> left = [.. changes];

        public ImmutableArray<Change> Left => [.. left];

        public Change? Of(Session session)
        {
            if (left.Count == 0)
                return null;
            var found = -1;
            for (var at = 0; at < left.Count; at++)
            {
                if (left[at].Original == session.Original)
                {
                    found = at;
                    break;
                }
                if (found < 0 && session.IsKnownBy(left[at].Original))
                    found = at;
            }

            if (found < 0)
                return null;
            var change = left[found];
            left.RemoveAt(found);
            return change;
        }
    }

    private static LocalDateTime End(LocalDate day, LocalTime start, int minutes) => (day + start).PlusMinutes(minutes);

    // Nearly always in order already; then it costs one pass.
    private static void Sort(List<Session> sessions)
    {
        for (var at = 1; at < sessions.Count; at++)
        {
            if (sessions[at - 1].Start <= sessions[at].Start)
                continue;
            var sorted = sessions.OrderBy(session => session.Start).ThenBy(session => session.Original).ToList();
            sessions.Clear();
            sessions.AddRange(sorted);
            return;
        }
    }
}
