using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>A calendar as one viewer stands to it.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Grants">Its grants.</param>
/// <param name="Level">The viewer's level on it.</param>
internal sealed record Setting(School School, Calendar Calendar, IReadOnlyList<Grant> Grants, AccessLevel Level)
{
    /// <summary>The setting, or null where there is no such calendar or the viewer may not know of it.</summary>
    public static Setting? Find(Stores stores, Viewer viewer, string slug)
    {
        if (stores.School.Find() is not { } school || stores.Calendars.Find(slug) is not { } calendar) return null;
        var grants = stores.Calendars.GrantsOf(calendar.Id);
        var level = AccessRules.LevelOf(viewer, grants);
        return level == AccessLevel.None ? null : new Setting(school, calendar, grants, level);
    }

    /// <summary>The school's date now.</summary>
    public LocalDate Today(IClock clock) => clock.GetCurrentInstant().InZone(School.Time.Zone).Date;

    public bool May(Deed deed, bool own = false) => AccessRules.May(deed, Level, own);
}
