using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Terms;

namespace JollyAlmanac.Application.Queries;

/// <summary>The history of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Lines">A page of it, newest first.</param>
/// <param name="HasMore">There are older lines.</param>
/// <param name="MayRestore">Whether the viewer may go back to earlier states.</param>
public sealed record CalendarHistory(
    School School,
    Calendar Calendar,
    IReadOnlyList<HistoryLine> Lines,
    bool HasMore,
    bool MayRestore
)
{
    /// <summary>Lines on a page.</summary>
    public const int Page = 50;
}

/// <summary>Reads what was done to a calendar.</summary>
public sealed class CalendarHistoryQuery(Gate gate)
{
    /// <summary>The history of a calendar, newest first; null for those who may not change anything on it.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="before">Lines before that one; null for the newest.</param>
    public CalendarHistory? Read(Viewer viewer, Slug slug, long? before) =>
        gate.Read<CalendarHistory>(Operation.SeeHistory, viewer, slug, at =>
        {
            var calendarContext = at.Context;
            var lines = at.Stores.History.Last(
                calendarContext.Calendar.Id,
                CalendarHistory.Page + 1,
                before is > 0 ? before.Value : long.MaxValue,
                at.HidesPrivateFrom
            );
            return new Outcome<CalendarHistory>.Done(
                new CalendarHistory(
                    calendarContext.School,
                    calendarContext.Calendar,
                    [.. lines.Take(CalendarHistory.Page)],
                    lines.Count > CalendarHistory.Page,
                    calendarContext.May(Permission.ChangeSeries)
                )
            );
        }).OrNone;
}
