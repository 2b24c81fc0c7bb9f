using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>What a printed sheet of a calendar shows.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">When.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Term">The term around today; null where there is none.</param>
/// <param name="Week">This week.</param>
/// <param name="List">The sessions of the next month.</param>
public sealed record PrintSheet(
    School School,
    Instant Now,
    Calendar Calendar,
    TermSheet? Term,
    WeekSheet Week,
    IReadOnlyList<ShownSession> List
);

/// <summary>Reads a term sheet for paper.</summary>
public sealed class PrintSheetQuery(Gate gate)
{
    private const int ListDays = 31;

    /// <summary>
    /// What a printed sheet shows: never more than the class sees, as paper is passed on; null where the calendar is not open to the
    /// viewer.
    /// </summary>
    /// <param name="viewer">Who prints.</param>
    /// <param name="slug">The calendar.</param>
    public PrintSheet? Read(Viewer viewer, Slug slug) =>
        gate.Read<PrintSheet>(Operation.PrintCalendar, viewer, slug, at =>
        {
            var (stores, calendarContext, school) = (at.Stores, at.Context, at.School);
            if (!calendarContext.Calendar.IsInUse)
                return new Outcome<PrintSheet>.NotFound();
            // Who works on it prints what is for all; anybody else what is theirs to see.
            var level = (AccessLevel)Math.Min((int)calendarContext.Level, (int)AccessLevel.Full);
            var reader = calendarContext.Level >= AccessLevel.Contributor ? null : viewer;
            var facts = CalendarFacts.Read(stores, calendarContext.Calendar.Id);
            var show = facts.For(school.Time, at.Now, level, ShowChoices.Anyone, reader);
            var plans = facts.PlansFor(school.Time, level, reader);
            var sessions = plans
                .SelectMany(plan => plan.Sessions)
                .Where(session => session.IsVisible)
                .OrderBy(session => session.StartsAt)
                .ToList();
            var start = school.Time.WeekOf(at.Today);
            List<ShownSession> Between(LocalDate from, LocalDate to) =>
                [
                    .. sessions
                        .Where(session => from <= session.LastDay && session.Day < to)
                        .Select(show)
                        .OfType<ShownSession>(),
                ];
            return new Outcome<PrintSheet>.Done(
                new PrintSheet(
                    school,
                    at.Now,
                    calendarContext.Calendar,
                    school.Time.TermToShow(at.Today) is { } term
                        ? TermSheet.Of(term, school.Time, plans, show, at.Now)
                        : null,
                    WeekSheet.Of(
                        start,
                        school.Time,
                        [
                            .. Between(start, start.PlusWeeks(1))
                                .Select(shown => new WeekSession(calendarContext.Calendar, shown, false, null, [])),
                        ],
                        new Dictionary<PersonId, string>()
                    ),
                    Between(at.Today, at.Today.PlusDays(ListDays))
                )
            );
        }).OrNone;
}
