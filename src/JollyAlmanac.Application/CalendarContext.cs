using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>A calendar as one viewer stands to it.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Grants">Its grants.</param>
/// <param name="Level">The viewer's level on it.</param>
internal sealed record CalendarContext(School School, Calendar Calendar, IReadOnlyList<Grant> Grants, AccessLevel Level)
{
    /// <summary>The setting, or null where there is no such calendar or the viewer may not know of it.</summary>
    /// <param name="stores">What is stored.</param>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="recalledAt">When somebody may bring it back: then one that was deleted less than a month before is found, too.</param>
    /// <param name="past">One that is put away is there for those who had a part in it.</param>
    public static CalendarContext? Find(
        Stores stores,
        Viewer viewer,
        Slug slug,
        Instant? recalledAt = null,
        bool past = false
    )
    {
        if (stores.School.Find() is not { } school || stores.Calendars.Find(slug) is not { } calendar)
            return null;
        if (calendar.DeletedAt is { } deleted && (recalledAt is not { } now || deleted + Calendar.Recall <= now))
            return null;
        var grants = stores.Calendars.GrantsOf(calendar.Id);
        var level = AccessRules.LevelOf(viewer, grants);
        // One that is put away is there for its managers alone.
        return
            level == AccessLevel.None
            || (!calendar.IsInUse && level < AccessLevel.Manager && !(past && HadPart(viewer, grants)))
            ? null
            : new CalendarContext(school, calendar, grants, level);
    }

    /// <summary>Whether somebody was named on a calendar, or is in a group that was.</summary>
    internal static bool HadPart(Viewer viewer, IReadOnlyList<Grant> grants) =>
        viewer.Person is not null
        && grants.Any(grant =>
            grant.To is Grantee.OnePerson or Grantee.OneGroup && AccessRules.Reaches(grant.To, viewer)
        );

    /// <summary>The calendars in use on which the viewer has a part and may do the deed to everything, by title.</summary>
    public static List<Calendar> CalendarsFor(Stores stores, Viewer viewer, Permission permission)
    {
        var worked = stores.Calendars.InUse(stores.Calendars.WorkedBy(viewer));
        var grants = stores.Calendars.GrantsFor(viewer, [.. worked.Select(calendar => calendar.Id)]);
        return
        [
            .. worked.Where(calendar => AccessRules.May(permission, AccessRules.LevelOf(viewer, grants[calendar.Id]))),
        ];
    }

    /// <summary>Whether the viewer may do the deed; on a calendar that is put away, only look and bring it back.</summary>
    public bool May(Permission permission, bool own = false) =>
        (
            Calendar.IsInUse
            || permission
                is Permission.SeeTimes
                    or Permission.SeeOutline
                    or Permission.SeeDetails
                    or Permission.SeeHistory
                    or Permission.ChangeCalendar
        ) && AccessRules.May(permission, Level, own);
}
