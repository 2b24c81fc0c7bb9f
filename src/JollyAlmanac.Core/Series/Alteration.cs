using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>How far a change reaches.</summary>
public enum ChangeScope
{
    /// <summary>This session.</summary>
    This,

    /// <summary>This and every later one: the old series ends, a new one carries it on.</summary>
    Later,

    /// <summary>Every session of the series.</summary>
    Every,
}

/// <summary>How a session is joined; null for the series' link, and for the link's rule.</summary>
public sealed record SessionDoor(JoinLinkId? Link, EntryRule? Entry);

/// <summary>What a person wants of a session; null for what stays.</summary>
/// <param name="Meets">False cancels, true brings back.</param>
/// <param name="Day">The day to move to.</param>
/// <param name="Time">The time to move to.</param>
/// <param name="Title">Another title; empty for the series' own.</param>
/// <param name="Place">Another place.</param>
/// <param name="Note">A note; empty takes it off. Only for one session.</param>
/// <param name="Door">How it is joined.</param>
/// <param name="IsTentative">Whether it is not certain yet.</param>
public sealed record SessionEdit(
    bool? Meets = null,
    LocalDate? Day = null,
    SessionTime? Time = null,
    string? Title = null,
    string? Place = null,
    string? Note = null,
    SessionDoor? Door = null,
    bool? IsTentative = null
)
{
    /// <summary>It moves the session.</summary>
    public bool Moves => Day is not null || Time is not null;
}

/// <summary>A series after an alteration.</summary>
/// <param name="Kept">The series; null where all of it goes.</param>
/// <param name="Split">The new series that carries it on; null where there is none.</param>
/// <param name="SplitFrom">Sessions from this original date belong to the new series.</param>
/// <param name="ShiftDays">By how many days sessions of <paramref name="ShiftedWeekday"/> move, so that what hangs on them moves along; 0
/// for none.</param>
/// <param name="ShiftedWeekday">The weekday that moves.</param>
public sealed record Altered(
    Series? Kept,
    Series? Split = null,
    LocalDate? SplitFrom = null,
    int ShiftDays = 0,
    IsoDayOfWeek ShiftedWeekday = IsoDayOfWeek.None
)
{
    /// <summary>Where something known by an original start is to be found now.</summary>
    public LocalDateTime Shift(LocalDateTime original) =>
        ShiftDays != 0
        && !SessionKey.IsExtra(original)
        && original.DayOfWeek == ShiftedWeekday
        && (SplitFrom is not { } from || original.Date >= from)
            ? original.PlusDays(ShiftDays)
            : original;
}

/// <summary>
/// Changes a series by what a person wants of one of its sessions: for this one, for this and later, for every one.
/// </summary>
/// <example>Moving Wed 14 Oct, 9:50 to Thu, "this and later", ends the old series on Tue 13 Oct; the new one meets on Thursdays instead of
/// Wednesdays.</example>
public static class Alteration
{
    /// <summary>The series after the alteration, or the reason why it cannot be.</summary>
    /// <param name="plan">The plan of the series as it is stored.</param>
    /// <param name="session">One of its sessions.</param>
    /// <param name="edit">What is wanted; parts that are null stay as they are.</param>
    /// <param name="scope">How far it reaches. "Later" takes in the session itself.</param>
    /// <returns>
    /// What to keep in place of the series, and the part that is split off: either may be missing, not both. Nothing is stored here, and
    /// whether somebody may do it, and whether it opens a door, is not asked here.
    /// </returns>
    /// <param name="school">The school's time: what is moved to a day without class meets there, and where no-class days move sessions on,
    /// they stay where the whole series had them.</param>
    public static (Altered? Altered, string? Reason) Of(
        Plan plan,
        Session session,
        SessionEdit edit,
        ChangeScope scope,
        SchoolTime school
    )
    {
        if (scope == ChangeScope.This)
            return (new Altered(OfThis(plan.Of, session, edit, isAlone: true, school)), null);
        if (edit.Note is not null)
            return (
                null,
                "A note is for one session. What holds for all of them belongs into the text about the series."
            );
        if (edit.Door?.Entry is not null)
            return (
                null,
                "A door of its own is for one session. What holds for all of them is the rule of the join link."
            );
        if (session.IsExtra)
            return (null, "It stands beside the pattern, so there is no later one of its kind. Change this one alone.");
        if (edit.Meets == true)
            return (null, "Bring sessions back one by one: each has its own reason to be left out.");
        var isWhole =
            scope == ChangeScope.Every || !plan.Sessions.Any(one => one.Original.Date < session.Original.Date);
        if (!isWhole)
            return Later(plan, session, edit, school);
        if (edit.Meets == false)
            return (new Altered(null), null);
        var (whole, shift, wrong) = Reshaped(plan.Of, session, edit);
        return (whole is null ? null : new Altered(whole, null, null, shift, session.Original.DayOfWeek), wrong);
    }

    /// <summary>The series with several of its sessions cancelled, or brought back.</summary>
    /// <param name="series">The series.</param>
    /// <param name="sessions">Sessions of its plan; those of another series would be taken for loose changes.</param>
    /// <param name="meets">True to bring back what a person left out; no-class days go on taking out what they take.</param>
    public static Series OfAll(Series series, IEnumerable<Session> sessions, bool meets) =>
        sessions.Aggregate(series, (altered, session) =>
            OfThis(altered, session, new SessionEdit(Meets: meets), isAlone: false)
        );

    private static Series OfThis(
        Series series,
        Session session,
        SessionEdit edit,
        bool isAlone,
        SchoolTime? school = null
    )
    {
        var before = session.Change ?? new Change(session.Original);
        var isOffByItself = session.LeftOut is not null || before.Status == SessionStatus.Held;
        var change = before with
        {
            Original = session.Original,
            Status = edit.Meets switch
            {
                false => SessionStatus.Cancelled,
                // Brought back by itself it meets, whatever the day is; of a range, the school's days go on taking out what they take.
                true => isOffByItself && (isAlone || before.Status != SessionStatus.Cancelled)
                    ? SessionStatus.Held
                    : SessionStatus.AsPlanned,
                // Who moves it to a day without class means it to meet there; one that is declared later takes it out again.
                null when edit.Day is { } to && before.Status != SessionStatus.Cancelled && school is not null =>
                    school.NoClassOn(to) is null ? SessionStatus.AsPlanned : SessionStatus.Held,
                null => before.Status,
            },
            Day = edit.Day is { } day
                ? day == session.Planned && session.LeftOut is null && !IsPushed(session)
                    ? null
                    : day
                : before.Day,
            Time = edit.Time is { } time
                ? time == session.OwnTime
                    ? null
                    : time
                : before.Time,
            Title = edit.Title is { } title
                ? title.Length == 0 || title == series.Title
                    ? null
                    : title
                : before.Title,
            Place = edit.Place is { } place
                ? place == series.Place
                    ? null
                    : place
                : before.Place,
            Note = edit.Note ?? before.Note,
            Link = edit.Door is { } door ? (door.Link == series.JoinLink ? null : door.Link) : before.Link,
            Entry = edit.Door is null ? before.Entry : edit.Door.Entry,
            IsTentative = edit.IsTentative is { } tentative
                ? tentative == series.IsTentative
                    ? null
                    : tentative
                : before.IsTentative,
        };
        var others = series.Changes.Where(one => !ReferenceEquals(one, session.Change));
        return series with
        {
            Changes = [.. (change.IsEmpty ? others : others.Append(change)).OrderBy(one => one.Original)],
        };
    }

    // A no-class day moves it by itself, so that its own date would not be where it stays.
    private static bool IsPushed(Session session) =>
        session.Change?.Day is null && session.Start.Date != session.Planned;

    private static (Series? Series, int ShiftDays, string? Reason) Reshaped(
        Series series,
        Session session,
        SessionEdit edit
    )
    {
        var pattern = series.Pattern;
        if (edit.Time is { } time)
            pattern = pattern with { Time = time };
        var shift = edit.Day is { } day ? Period.DaysBetween(session.Original.Date, day) : 0;
        if (shift != 0)
        {
            if (series.Pattern.IsOnce)
                pattern = pattern with { Repeat = new Repeat.OnDates([edit.Day!.Value]), From = edit.Day!.Value };
            else if (
                pattern.Repeat.WeeklyDays is { IsEmpty: false } weekdays
                && pattern.Repeat is Repeat.ByRule { Rule: var rule }
            )
            {
                var (from, to) = (session.Original.DayOfWeek, edit.Day!.Value.DayOfWeek);
                var weekOf = (LocalDate date) => date.PlusDays(-(((int)date.DayOfWeek - (int)rule.WeekStart + 7) % 7));
                if (weekOf(edit.Day.Value) != weekOf(session.Original.Date))
                    return (
                        null,
                        0,
                        "Another week is for one session alone; for several, choose another day of the same week."
                    );
                if (weekdays.Contains(to))
                    return (
                        null,
                        0,
                        $"The series meets on {Wording.Brief(to)} already. Move this session alone, or choose another day."
                    );
                pattern = pattern with
                {
                    Repeat = Repeat.Weekly(
                        weekdays.Select(one => one == from ? to : one),
                        rule.Interval,
                        rule.WeekStart
                    ),
                };
                // The first of them may now lie before the first day; no other weekday comes in with it.
                var first =
                    edit.Day.Value < pattern.From
                    && weekOf(pattern.From) == weekOf(edit.Day.Value)
                    && session.Original.Date >= pattern.From
                        ? edit.Day.Value
                        : pattern.From;
                if (
                    first < pattern.From
                    && !weekdays.Any(one =>
                        one != from
                        && weekOf(first).PlusDays(((int)one - (int)rule.WeekStart + 7) % 7) is var at
                        && first <= at
                        && at < pattern.From
                    )
                )
                    pattern = pattern with { From = first };
            }
            else
                return (
                    null,
                    0,
                    "Its pattern is no list of weekdays, so only one session can be moved to another day. Change the pattern in the composer."
                );
        }

        var altered = new Altered(null, ShiftDays: shift, ShiftedWeekday: session.Original.DayOfWeek);
        return (
            series with
            {
                Pattern = pattern,
                Title = edit.Title is { Length: > 0 } title ? title : series.Title,
                Place = edit.Place ?? series.Place,
                JoinLink = edit.Door?.Link ?? series.JoinLink,
                IsTentative = edit.IsTentative ?? series.IsTentative,
                Changes =
                [
                    .. series
                        .Changes.Select(change =>
                            change with
                            {
                                Original = altered.Shift(change.Original),
                                // What holds for all of them holds for those that differed, too.
                                IsTentative = edit.IsTentative is null ? change.IsTentative : null,
                            }
                        )
                        .Where(change => !change.IsEmpty),
                ],
            },
            shift,
            null
        );
    }

    // A half does not know the days of the other, to which a no-class day may have moved one of its sessions: each stays where the whole
    // had it.
    private static Series Pinned(Series half, Plan whole, SchoolTime school)
    {
        if (half.Pattern.NoClass != NoClassPolicy.NextClassDay)
            return half;
        foreach (var session in Planner.PlanOf(half, school).Sessions)
        {
            if (
                session.IsExtra
                || session.Change is not null
                || whole.Find(session.Original) is not { } was
                || (was.Start.Date == session.Start.Date && was.LeftOut is null == session.LeftOut is null)
            )
                continue;
            half = was.LeftOut is null
                ? half with
                {
                    Changes =
                    [
                        .. half
                            .Changes.Append(new Change(session.Original) { Day = was.Start.Date })
                            .OrderBy(one => one.Original),
                    ],
                }
                : half with
                {
                    Pattern = half.Pattern with
                    {
                        Without = [.. half.Pattern.Without.Append(session.Original.Date).Order()],
                    },
                };
        }

        return half;
    }

    private static (Altered?, string?) Later(Plan plan, Session session, SessionEdit edit, SchoolTime school)
    {
        var series = plan.Of;
        // Moved to an earlier weekday, the new series begins there: what the old one has between belongs to it, too, so that
        // sessions stay in order and none is counted twice.
        var from = edit.Day is { } to && to < session.Original.Date ? to : session.Original.Date;
        var head = series.Pattern with
        {
            Repeat = series.Pattern.Repeat is Repeat.OnDates listed
                ? new Repeat.OnDates([.. listed.Dates.Where(date => date < from)])
                : series.Pattern.Repeat,
            Extent = new Extent.Until(from.PlusDays(-1)),
            Extra = [.. series.Pattern.Extra.Where(extra => extra.Day < from)],
        };
        var kept = series with
        {
            Pattern = head,
            Changes = [.. series.Changes.Where(change => !IsFrom(change.Original))],
        };
        kept = Pinned(kept, plan, school);
        if (edit.Meets == false)
            return (new Altered(kept), null);
        var tail = series with
        {
            Pattern = series.Pattern with
            {
                From = from,
                Repeat = series.Pattern.Repeat is Repeat.OnDates dates
                    ? new Repeat.OnDates([.. dates.Dates.Where(date => date >= from)])
                    : series.Pattern.Repeat,
                Extent = series.Pattern.Extent is Extent.Held held
                    ? new Extent.Held(
                        Math.Max(
                            1,
                            held.Sessions
                                - plan.Sessions.Count(one =>
                                    !one.IsExtra && one.LeftOut is null && one.Original.Date < from
                                )
                        )
                    )
                    : series.Pattern.Extent,
                Extra = [.. series.Pattern.Extra.Where(extra => extra.Day >= from)],
            },
            Changes = [.. series.Changes.Where(change => IsFrom(change.Original))],
            FirstNumber = series.FirstNumber + plan.Sessions.Count(one => one.IsHeld && !IsFrom(one.Original)),
            Follows = series.Id,
        };
        var (split, shift, reason) = Reshaped(tail, session, edit);
        if (split is not null && !edit.Moves)
            split = Pinned(split, plan, school);
        return split is null
            ? (null, reason)
            : (new Altered(kept, split, from, shift, session.Original.DayOfWeek), null);

        // An extra session goes where its day lies, whatever it is known by.
        bool IsFrom(LocalDateTime original) =>
            (series.Pattern.Extra.FirstOrDefault(extra => extra.Original == original)?.Day ?? original.Date) >= from;
    }
}
