using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Sheets;

/// <summary>A session in a week of several calendars.</summary>
/// <param name="Calendar">The calendar it stands on.</param>
/// <param name="Shown">The session as the viewer may see it.</param>
/// <param name="MayChange">Whether the viewer may move it.</param>
/// <param name="Teacher">Whose class it is; null for meetings.</param>
/// <param name="Students">Who is on the class list.</param>
public sealed record WeekSession(
    Calendar Calendar,
    ShownSession Shown,
    bool MayChange,
    PersonId? Teacher,
    ImmutableArray<PersonId> Students
)
{
    /// <summary>Whether it meets.</summary>
    public bool IsHeld => Shown.Session.IsHeld;
}

/// <summary>Two sessions that cannot both be gone to.</summary>
/// <param name="First">The one that starts first.</param>
/// <param name="Second">The other.</param>
/// <param name="Because">What they share: a teacher, a room, students.</param>
public sealed record Clash(WeekSession First, WeekSession Second, string Because);

/// <summary>A row of the week: a period, or what lies between and around periods.</summary>
/// <param name="Period">The period; null for a row of other times.</param>
/// <param name="Label">"3", or "other times".</param>
/// <param name="Days">For each column the sessions that begin in it.</param>
public sealed record WeekRow(BellPeriod? Period, string Label, ImmutableArray<ImmutableArray<WeekSession>> Days);

/// <summary>
/// A week by bells: rows are periods, columns days, several calendars over each other; what cannot both be is a clash.
/// </summary>
public sealed record WeekSheet(
    ImmutableArray<LocalDate> Days,
    ImmutableArray<WeekRow> Rows,
    ImmutableArray<Clash> Clashes
)
{
    /// <summary>Lays out the sessions of a week.</summary>
    /// <param name="start">The first day of the week.</param>
    /// <param name="school">The bells.</param>
    /// <param name="sessions">In order of their start.</param>
    /// <param name="names">The names of teachers.</param>
    public static WeekSheet Of(
        LocalDate start,
        SchoolTime school,
        IReadOnlyList<WeekSession> sessions,
        IReadOnlyDictionary<PersonId, string> names
    )
    {
        ImmutableArray<LocalDate> days =
        [
            .. Enumerable
                .Range(0, 7)
                .Select(start.PlusDays)
                .Where(day =>
                    day.DayOfWeek is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
                    || sessions.Any(one => one.Shown.Session.Days.Contains(day))
                ),
        ];
        var placed = sessions
            .SelectMany(one => one.Shown.Session.Days.Select(day => (one, day)))
            .ToLookup(one => (one.day, PeriodOf(one.one.Shown.Session, one.day, school)), one => one.one);
        var rows = school
            .Bells.Periods.Select(period => new WeekRow(
                period,
                period.Name,
                [.. days.Select(day => placed[(day, (string?)period.Name)].ToImmutableArray())]
            ))
            .ToList();
        if (days.Any(day => placed.Contains((day, null))))
            rows.Add(
                new WeekRow(
                    null,
                    "other times",
                    [.. days.Select(day => placed[(day, (string?)null)].ToImmutableArray())]
                )
            );
        return new WeekSheet(days, [.. rows], FindClashes(sessions, names));
    }

    // The period in which it begins; one that begins in a break or outside the bells has none.
    private static string? PeriodOf(Session session, LocalDate day, SchoolTime school) =>
        session.IsAllDay || day != session.Day
            ? null
            : school
                .BellsOn(session.Day)
                .Periods.FirstOrDefault(period =>
                    period.Start <= session.StartAtSchool.TimeOfDay && session.StartAtSchool.TimeOfDay < period.End
                )
                ?.Name;

    private static ImmutableArray<Clash> FindClashes(
        IReadOnlyList<WeekSession> sessions,
        IReadOnlyDictionary<PersonId, string> names
    )
    {
        var clashes = ImmutableArray.CreateBuilder<Clash>();
        var held = sessions.Where(one => one.IsHeld && !one.Shown.Session.IsAllDay).ToList();
        for (var at = 0; at < held.Count; at++)
        for (
            var next = at + 1;
            next < held.Count && held[next].Shown.Session.StartsAt < held[at].Shown.Session.EndsAt;
            next++
        )
            if (Shared(held[at], held[next], names) is { Count: > 0 } shared)
                clashes.Add(new Clash(held[at], held[next], Wording.List(shared)));
        return clashes.ToImmutable();
    }

    private static List<string> Shared(WeekSession one, WeekSession other, IReadOnlyDictionary<PersonId, string> names)
    {
        var shared = new List<string>();
        if (one.Teacher is { } teacher && teacher == other.Teacher)
            shared.Add(names.GetValueOrDefault(teacher, "the same teacher"));
        if (one.Shown.Place.Length > 0 && one.Shown.Place.Equals(other.Shown.Place, StringComparison.OrdinalIgnoreCase))
            shared.Add(one.Shown.Place);
        if (
            one.Calendar.Id != other.Calendar.Id
            && one.Students.Intersect(other.Students).Count() is > 0 and var students
        )
            shared.Add(Wording.Count(students, "student", "students"));
        return shared;
    }
}
