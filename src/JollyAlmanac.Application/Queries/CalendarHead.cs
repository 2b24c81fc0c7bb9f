using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Application.Queries;

/// <summary>What stands over every page of a calendar.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Department">Its department; null for none.</param>
/// <param name="Level">What the viewer may do on it.</param>
/// <param name="Materials">How many materials it has; 0 for who does not keep any.</param>
/// <param name="NoticesUp">How many of its notices are up; 0 for who does not keep them.</param>
/// <param name="Asking">How many ask for access; 0 for who does not answer them.</param>
public sealed record CalendarHead(
    Calendar Calendar,
    Calendar? Department,
    AccessLevel Level,
    int Materials,
    int NoticesUp,
    int Asking
);

/// <summary>Reads the head that all pages of a calendar share.</summary>
public sealed class CalendarHeadQuery(Gate gate)
{
    /// <summary>The head of a calendar's pages; null where the viewer may not open its term sheet.</summary>
    public CalendarHead? Read(Viewer viewer, Slug slug) =>
        gate.Read<CalendarHead>(Operation.SeeTermSheet, viewer, slug, at =>
        {
            var (calendar, level, stores) = (at.Calendar, at.Context.Level, at.Stores);
            return new Outcome<CalendarHead>.Done(
                new CalendarHead(
                    calendar,
                    TermSheetQuery.DepartmentFor(stores, viewer, calendar),
                    level,
                    AccessRules.May(Permission.AddSeries, level) ? stores.Materials.CountOf(calendar.Id) : 0,
                    AccessRules.May(Permission.KeepNotices, level)
                        ? stores.Notices.Of(calendar.Id).Count(one => EditNotices.IsUp(at, one))
                        : 0,
                    AccessRules.May(Permission.Publish, level) ? stores.Requests.WaitingOn(calendar.Id).Count : 0
                )
            );
        }).OrNone;
}
