using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Sheets;

/// <summary>One day of a term sheet.</summary>
/// <param name="Date">The day.</param>
/// <param name="InTerm">False for days of the first and last week that lie outside the term.</param>
/// <param name="NoClass">The no-class day it is, or null.</param>
/// <param name="CycleDay">Its name in the day cycle, or null.</param>
/// <param name="Sessions">The sessions that meet on it or are cancelled, as the viewer may see them, by start.</param>
/// <param name="Away">Sessions that the pattern has on it and that meet elsewhere, or that its no-class day takes out.</param>
/// <param name="Shortened">The name of its bells where they are not the regular ones.</param>
public sealed record SheetDay(
    LocalDate Date,
    bool InTerm,
    NoClassDay? NoClass,
    string? CycleDay,
    ImmutableArray<ShownSession> Sessions,
    ImmutableArray<ShownSession> Away,
    string? Shortened
);

/// <summary>One week of a term sheet, with what it adds up to.</summary>
public sealed record SheetWeek(int Number, ImmutableArray<SheetDay> Days, int Sessions, int Minutes);

/// <summary>What the sessions of a term add up to.</summary>
/// <param name="Dates">Dates in the patterns.</param>
/// <param name="LeftOut">Of these, taken out by no-class days.</param>
/// <param name="Cancelled">Of these, cancelled by hand.</param>
/// <param name="Sessions">Held in all, past and to come.</param>
/// <param name="Held">Of these, over by now.</param>
/// <param name="Minutes">With the class, in all.</param>
public sealed record Ledger(int Dates, int LeftOut, int Cancelled, int Sessions, int Held, int Minutes);

/// <summary>
/// A term of a calendar on one sheet: rows are weeks, columns days.
/// </summary>
public sealed record TermSheet(
    Term Term,
    ImmutableArray<IsoDayOfWeek> Columns,
    ImmutableArray<SheetWeek> Weeks,
    Ledger Ledger
)
{
    /// <summary>Lays out what <paramref name="show"/> lets be seen of the plans in the term.</summary>
    /// <param name="term">The term.</param>
    /// <param name="school">The school's time.</param>
    /// <param name="plans">The plans of the calendar's series.</param>
    /// <param name="show">The redaction for the viewer.</param>
    /// <param name="now">What counts as held by now: sessions that have ended, with those that end at this instant.</param>
    /// <returns>
    /// A row a week, with empty cells. Sessions outside the term are not on it, however near; one that was moved out of
    /// it leaves a mark where it was. The ledger counts what lies in the term alone.
    /// Columns are Monday to Friday, and the week's other days where something lies on them.
    /// </returns>
    public static TermSheet Of(
        Term term,
        SchoolTime school,
        IEnumerable<Plan> plans,
        Func<Session, ShownSession?> show,
        Instant now
    )
    {
        var sessions = plans
            .SelectMany(plan => plan.Sessions)
            .Where(session =>
                (session.Day <= term.Last && term.First <= session.LastDay) || term.Holds(session.PlannedAtSchool)
            )
            .ToList();
        var shown = sessions
            .Where(session => session.IsVisible)
            .Select(show)
            .OfType<ShownSession>()
            .OrderBy(one => one.Session.StartAtSchool)
            .ThenBy(one => one.Session.Of.Id.Value)
            .SelectMany(one => one.Session.Days.Select(day => (day, one)))
            .ToLookup(one => one.day, one => one.one);
        var away = sessions
            .Where(session => session.LeftOut is not null || session.Start.Date != session.Planned)
            .Select(show)
            .OfType<ShownSession>()
            .Where(one => !one.IsBusyOnly)
            .ToLookup(one => one.Session.PlannedAtSchool);
        // The week's order is the school's; a weekend day has a column only where something meets on it.
        var columns = Enumerable
            .Range(0, 7)
            .Select(offset => (IsoDayOfWeek)(((int)school.FirstDayOfWeek - 1 + offset) % 7 + 1))
            .Where(day =>
                day is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
                || shown.Any(group => group.Key.DayOfWeek == day && group.Any(one => one.Session.Day == group.Key))
            )
            .ToImmutableArray();
        var weeks = school
            .WeeksOf(term)
            .Select(week =>
            {
                var days = Enumerable
                    .Range(0, 7)
                    .Select(offset => week.Start.PlusDays(offset))
                    .Where(day => columns.Contains(day.DayOfWeek))
                    .Select(day => new SheetDay(
                        day,
                        term.Holds(day),
                        school.NoClassOn(day),
                        school.CycleDayOn(day),
                        [.. shown[day]],
                        [.. away[day]],
                        school.ShortenedOn(day)?.Name
                    ))
                    .ToImmutableArray();
                var inWeek = days.SelectMany(day => day.Sessions.Where(one => one.Session.Day == day.Date))
                    .Where(one => one.Session.IsHeld)
                    .ToList();
                return new SheetWeek(week.Number, days, inWeek.Count, inWeek.Sum(one => one.Session.Minutes));
            });
        var inTerm = sessions.Where(session => term.Holds(session.Day)).ToList();
        var held = inTerm.Where(session => session.IsHeld).ToList();
        var cancelled = inTerm.Count(session => session.IsCancelled);
        return new TermSheet(
            term,
            columns,
            [.. weeks],
            new Ledger(
                inTerm.Count,
                inTerm.Count - held.Count - cancelled,
                cancelled,
                held.Count,
                held.Count(session => session.EndsAt <= now),
                held.Sum(session => session.Minutes)
            )
        );
    }
}
