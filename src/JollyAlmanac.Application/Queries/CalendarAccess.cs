using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Queries;

/// <summary>A calendar as a viewer stands to it; what stands on it is read when it is asked for.</summary>
internal sealed record CalendarAccess(Calendar Calendar, AccessLevel Level, Lazy<CalendarFacts> Read, bool IsOwn)
{
    public CalendarFacts Facts => Read.Value;

    /// <summary>The viewer's own calendars: granted by name, or as a member of a class list.</summary>
    public static List<CalendarAccess> Own(Stores stores, Viewer viewer) =>
        Of(stores, viewer, stores.Calendars.InUse(stores.Calendars.OwnOf(viewer))).FindAll(one => one.IsOwn);

    /// <summary>Those of some calendars that somebody may see.</summary>
    public static List<CalendarAccess> Of(Stores stores, Viewer viewer, IReadOnlyList<Calendar> calendars)
    {
        var grants = stores.Calendars.GrantsFor(viewer, [.. calendars.Select(calendar => calendar.Id)]);
        var lists = stores.Groups.ClassLists([
            .. grants
                .SelectMany(group => group)
                .Select(grant => grant.To)
                .OfType<Grantee.OneGroup>()
                .Select(to => to.Group)
                .Distinct(),
        ]);
        return
        [
            .. calendars
                .Select(calendar => new CalendarAccess(
                    calendar,
                    AccessRules.LevelOf(viewer, grants[calendar.Id]),
                    new Lazy<CalendarFacts>(() => CalendarFacts.Read(stores, calendar.Id)),
                    AccessRules.IsOwn(viewer, grants[calendar.Id], lists)
                ))
                .Where(one => one.Level > AccessLevel.None),
        ];
    }

    /// <summary>
    /// A viewer's own calendars; of a family member also those of their children that they may see, or those of one child alone.
    /// </summary>
    public static List<CalendarAccess> OwnOf(Stores stores, Viewer viewer, PersonId? child)
    {
        var own = Own(stores, viewer);
        if (child is not { } only || !viewer.Children.Contains(only))
            return own;
        var theirs = stores.Calendars.OwnOf(stores.People.ViewerOf(only)).ToHashSet();
        return own.FindAll(one => theirs.Contains(one.Calendar.Id));
    }
}
