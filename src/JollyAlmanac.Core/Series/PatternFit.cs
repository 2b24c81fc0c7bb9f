using System.Collections.Immutable;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>One session as another calendar has it, in the local time of its series.</summary>
/// <param name="Id">Where the series has it: its RECURRENCE-ID (RFC 5545 §3.8.4.4).</param>
/// <param name="Start">When it starts.</param>
/// <param name="End">When it ends, after its start; of a date the day after the last.</param>
/// <param name="IsAllDay">It is a date, or several.</param>
/// <param name="IsCancelled">It is told, but does not meet.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Place">Its place.</param>
/// <param name="Note">What is said of it alone.</param>
public sealed record ForeignSession(
    LocalDateTime Id,
    LocalDateTime Start,
    LocalDateTime End,
    bool IsAllDay,
    bool IsCancelled,
    string Title,
    string Place,
    string Note
);

/// <summary>A series as another calendar has it: its sessions one by one, and the rule they came from.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Place">Its place.</param>
/// <param name="Zone">Whose clock its times are by.</param>
/// <param name="Rule">The rule, where it has one alone.</param>
/// <param name="IsOpen">The rule has no end: the sessions are those of its first years.</param>
/// <param name="Sessions">One at least, in order of their <see cref="ForeignSession.Id"/>, none twice.</param>
public sealed record ForeignSeries(
    string Title,
    string Place,
    DateTimeZone Zone,
    RecurrenceRule? Rule,
    bool IsOpen,
    ImmutableArray<ForeignSession> Sessions
);

/// <summary>
/// Finds a meeting pattern, with changes, that means exactly the sessions that another calendar has. It is tried out: what is given
/// back was planned, and nothing in it differs.
/// </summary>
public static class PatternFit
{
    /// <summary>The pattern and the changes; null where the almanac cannot hold such a series.</summary>
    /// <param name="given">The sessions.</param>
    /// <param name="school">The school's time: a session at a period's time becomes the period's.</param>
    /// <param name="known">Extra sessions that the series had: they keep their names.</param>
    /// <remarks>
    /// Its sessions meet whatever the school's no-class days are, as they do where they come from. A rule is kept where one gives them,
    /// else the dates are listed; of two ways to say the time the one with fewer changes is taken.
    /// </remarks>
    public static (MeetingPattern Pattern, ImmutableArray<Change> Changes)? Of(
        ForeignSeries given,
        SchoolTime school,
        ImmutableArray<ExtraSession> known
    )
    {
        foreach (var isRuled in new[] { true, false })
        {
            (MeetingPattern Pattern, ImmutableArray<Change> Changes)? best = null;
            foreach (var time in Times(given, school))
                if (
                    Patterned(given, time, isRuled, school, known) is { } pattern
                    && Fitted(given, pattern, school) is { } changes
                    && (best is not { } other || changes.Length < other.Changes.Length)
                )
                    best = (pattern, changes);
            if (best is not null)
                return best;
        }

        return null;
    }

    // A period that rings at the very time first, then the time itself.
    private static IEnumerable<SessionTime> Times(ForeignSeries given, SchoolTime school)
    {
        var usual = given
            .Sessions.Where(session => session.Start == session.Id)
            .GroupBy(TimeOf)
            .OrderByDescending(same => same.Count())
            .FirstOrDefault()
            ?.Key
            ?? TimeOf(given.Sessions[0]);
        if (
            usual is SessionTime.Clock { Nights: 0 } clock
            && given.Zone.Equals(school.Zone)
            && school.Bells.Periods.FirstOrDefault(period => period.Start == clock.Start && period.End == clock.End)
                is { } period
        )
            yield return new SessionTime.InPeriod(period.Name);
        yield return usual;
    }

    private static SessionTime TimeOf(ForeignSession session)
    {
        var days = Period.DaysBetween(session.Start.Date, session.End.Date);
        return session.IsAllDay
            ? new SessionTime.AllDay(days)
            : new SessionTime.Clock(session.Start.TimeOfDay, session.End.TimeOfDay, days);
    }

    private static MeetingPattern? Patterned(
        ForeignSeries given,
        SessionTime time,
        bool isRuled,
        SchoolTime school,
        ImmutableArray<ExtraSession> known
    )
    {
        if (time.On(school.Bells) is not var (regular, _))
            return null;
        var (first, last) = (given.Sessions[0].Id.Date, given.Sessions[^1].Id.Date);
        Repeat repeat;
        ImmutableArray<LocalDate> dates,
            without = [];
        var atRegular = given
            .Sessions.Where(session => session.Id.TimeOfDay == regular)
            .Select(session => session.Id.Date)
            .ToHashSet();
        if (isRuled)
        {
            if (given.Rule is not { Frequency: >= Frequency.Daily } rule || atRegular.Count < 2)
                return null;
            repeat = new Repeat.ByRule(
                rule with
                {
                    Count = null,
                    Until = null,
                    Hours = [],
                    Minutes = [],
                    Seconds = [],
                }
            );
            var ruled = new MeetingPattern(repeat, time, given.Zone, first, new Extent.Until(last));
            if (ruled.Unplannable() is not null)
                return null;
            dates = [.. Planner.DatesOf(ruled, school)];
            without = [.. dates.Where(date => !atRegular.Contains(date))];
            // What leaves out more than it gives is no rule.
            if (without.Length > dates.Length / 2)
                return null;
        }
        else
        {
            // Each date once; where none is at the usual time, its first session makes the date and the rest stand beside it.
            dates = [.. (atRegular.Count > 0 ? atRegular : [first]).Order()];
            repeat = new Repeat.OnDates(dates);
        }

        var planned = dates.Except(without).ToHashSet();
        var beside = given
            .Sessions.Where(session => session.Id.TimeOfDay != regular || !planned.Remove(session.Id.Date))
            .ToList();
        if (atRegular.Count == 0)
            beside.RemoveAt(0);
        var extra = ExtraSession.Named(
            beside.Select(session => (session.Id.Date, ExtraTime(session))),
            known,
            school.Bells
        );
        var pattern = new MeetingPattern(
            repeat,
            time,
            given.Zone,
            isRuled ? first : dates[0],
            isRuled && !given.IsOpen ? new Extent.Until(last) : new Extent.Open()
        )
        {
            NoClass = NoClassPolicy.MeetAnyway,
            Extra = extra,
            Without = without,
        };
        return pattern.Unplannable() is null ? pattern : null;
    }

    // An extra session stands where the series has it; one that was moved from there is changed.
    private static SessionTime ExtraTime(ForeignSession session)
    {
        var minutes = (int)Period.Between(session.Start, session.End, PeriodUnits.Minutes).Minutes;
        return TimeOf(session with { Start = session.Id, End = session.Id.PlusMinutes(minutes) });
    }

    private static ImmutableArray<Change>? Fitted(ForeignSeries given, MeetingPattern pattern, SchoolTime school)
    {
        var bare = Draft(given, pattern, []);
        var plan = Planner.PlanOf(bare, school);
        var left = new Dictionary<LocalDate, Session>();
        foreach (var session in plan.Sessions.Where(session => !session.IsExtra))
            left[session.Original.Date] = session;
        var beside = plan.Sessions.Where(session => session.IsExtra).ToList();
        var regular = pattern.Time.On(school.Bells)!.Value.Start;
        var isAny = !given.Sessions.Any(session => session.Id.TimeOfDay == regular);
        var changes = ImmutableArray.CreateBuilder<Change>();
        var expected = new Dictionary<LocalDateTime, ForeignSession>();
        foreach (var one in given.Sessions)
        {
            Session? session;
            if (
                (one.Id.TimeOfDay == regular || (isAny && one == given.Sessions[0]))
                && left.Remove(one.Id.Date, out session)
            ) { }
            else if (
                beside.FindIndex(extra => extra.Planned == one.Id.Date && (extra.Start == one.Id || extra.IsAllDay))
                is >= 0
                    and var at
            )
            {
                session = beside[at];
                beside.RemoveAt(at);
            }
            else if (given.IsOpen && plan.Sessions.Length > 0 && one.Id > plan.Sessions[^1].Original)
            {
                // Without an end, a plan is made as far as the school's terms are known.
                continue;
            }
            else
            {
                return null;
            }

            expected[session.Original] = one;
            if (ChangeOf(session, one, given, school) is { IsEmpty: false } change)
                changes.Add(change);
        }

        ImmutableArray<Change> all = [.. changes.OrderBy(change => change.Original)];
        return Means(all.IsEmpty ? plan : Planner.PlanOf(bare with { Changes = all }, school), expected) ? all : null;
    }

    private static Change ChangeOf(Session session, ForeignSession one, ForeignSeries given, SchoolTime school)
    {
        var isMoved = session.Start != one.Start || session.End != one.End || session.IsAllDay != one.IsAllDay;
        return new Change(
            session.Original,
            one.IsCancelled ? SessionStatus.Cancelled
                : session.LeftOut is not null
                || (session.Of.Pattern.NoClass != NoClassPolicy.MeetAnyway && !school.IsClassDay(one.Start.Date))
                    ? SessionStatus.Held
                : SessionStatus.AsPlanned,
            one.Start.Date != session.Start.Date ? one.Start.Date : null,
            isMoved && TimeOf(session) != TimeOf(one) ? TimeOf(one) : null,
            one.Title != given.Title ? one.Title : null,
            one.Place != given.Place ? one.Place : null,
            one.Note
        );
    }

    private static SessionTime TimeOf(Session session) =>
        TimeOf(new ForeignSession(default, session.Start, session.End, session.IsAllDay, false, "", "", ""));

    // Told are those alone that were given, each as it was given.
    private static bool Means(Plan plan, Dictionary<LocalDateTime, ForeignSession> expected) =>
        plan.Loose.IsEmpty
        && plan.Sessions.Count(session => session.IsVisible) == expected.Count
        && plan.Sessions.Where(session => session.IsVisible)
            .All(session =>
                expected.TryGetValue(session.Original, out var one)
                && (
                    session.Start,
                    session.End,
                    session.IsAllDay,
                    session.IsCancelled,
                    session.Title,
                    session.Place,
                    session.Note
                ) == (one.Start, one.End, one.IsAllDay, one.IsCancelled, one.Title, one.Place, one.Note)
            );

    private static Series Draft(ForeignSeries given, MeetingPattern pattern, ImmutableArray<Change> changes) =>
        new(default, default, "", given.Title, "", given.Place, pattern, null, default, 1, default, default)
        {
            Changes = changes,
        };
}
