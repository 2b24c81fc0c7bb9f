using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Queries;

/// <summary>How far setting up has come, on the calendars that somebody manages.</summary>
/// <param name="School">The school.</param>
/// <param name="First">The first class calendar, else any but the school's own; null for none.</param>
/// <param name="Series">How many series meet on them.</param>
/// <param name="IsPublished">One of them has a feed or an embed.</param>
/// <param name="HasPeople">The school knows others than its first coordinator.</param>
public sealed record SetUpView(School School, Calendar? First, int Series, bool IsPublished, bool HasPeople);

/// <summary>Reads the steps of setting up.</summary>
public sealed class SetUpQuery(AlmanacDatabase database)
{
    /// <summary>How far setting up has come for a viewer.</summary>
    public SetUpView? Read(Viewer viewer) =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var managed = CalendarContext.CalendarsFor(stores, viewer, Permission.ChangeCalendar);
            CalendarId[] ids = [.. managed.Select(calendar => calendar.Id)];
            // The calendar of the whole school comes with the first run; what counts is one that somebody made.
            return new SetUpView(
                school,
                managed.Find(calendar => calendar.Kind == CalendarKind.Class)
                    ?? managed.Find(calendar => calendar.Kind != CalendarKind.School),
                stores.Series.CountOn(ids),
                stores.Publications.AnyOn(ids),
                stores.People.AreSeveral()
            );
        });
}
