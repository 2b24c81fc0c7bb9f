using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Queries;

/// <summary>Finds where a new entry is likely to go.</summary>
public sealed class NewEntryQuery(AlmanacDatabase database)
{
    /// <summary>
    /// The calendar to begin a new entry on: the one that the viewer last put something on, else one of their own, else any that they may add
    /// to. Null where there is none.
    /// </summary>
    public Slug? CalendarFor(Viewer viewer) =>
        viewer.Person is not { } person
            ? null
            : database.Read(stores =>
            {
                var calendars = CalendarContext.CalendarsFor(stores, viewer, Permission.AddSeries);
                var last = stores.Series.LastOf(person);
                return calendars
                    .OrderByDescending(calendar => calendar.Id == last)
                    .ThenByDescending(calendar => calendar.Owner == person)
                    .ThenBy(calendar => calendar.Title, StringComparer.OrdinalIgnoreCase)
                    .Select(calendar => (Slug?)calendar.Slug)
                    .FirstOrDefault();
            });
}
