using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Joining;

/// <summary>A link with its windows and the calendars that use it.</summary>
/// <param name="School">The school.</param>
/// <param name="Link">The link.</param>
/// <param name="Owner">The calendar it belongs to.</param>
/// <param name="Grants">Who may see that calendar.</param>
/// <param name="Users">The calendars whose series use it, with who may see them.</param>
/// <param name="Series">The series that use it.</param>
/// <param name="Schedule">Its windows.</param>
internal sealed record LinkDoor(
    School School, JoinLink Link, Calendar Owner, IReadOnlyList<Grant> Grants, IReadOnlyList<(Calendar Calendar, IReadOnlyList<Grant> Grants)> Users, IReadOnlyList<Series> Series, DoorSchedule Schedule)
{
    /// <summary>One link, read by itself.</summary>
    public static LinkDoor Read(Stores stores, School school, JoinLink link)
    {
        var series = stores.Series.Of(link.Id);
        return Of(school, link, series, series.SelectMany(one => Planner.PlanOf(one, school.Time).Sessions), stores.Calendars.Get, id => stores.Calendars.GrantsOf(id));
    }

    /// <summary>Every link, in a few queries.</summary>
    public static IReadOnlyList<LinkDoor> ReadAll(Stores stores, School school)
    {
        var links = stores.JoinLinks.All();
        var calendars = stores.Calendars.Everything().ToDictionary(calendar => calendar.Id);
        var grants = stores.Calendars.AllGrants();
        var sessions = stores.Series.All().SelectMany(group => group)
            .Where(series => series.JoinLink is not null || series.Changes.Any(change => change.Link is not null))
            .SelectMany(series => Planner.PlanOf(series, school.Time).Sessions).ToLookup(session => session.JoinLink);
        return [.. links.Select(link => Of(school, link, [.. sessions[link.Id].Select(session => session.Of).Distinct()], sessions[link.Id], id => calendars[id], id => [.. grants[id]]))];
    }

    /// <summary>The links that some series are joined by.</summary>
    public static IReadOnlyList<JoinLink> UsedOn(Stores stores, IReadOnlyList<Series> series)
    {
        var used = series.SelectMany(one => one.Changes.Select(change => change.Link).Append(one.JoinLink)).ToHashSet();
        return stores.JoinLinks.Of([.. used.OfType<JoinLinkId>()]);
    }

    private static LinkDoor Of(School school, JoinLink link, IReadOnlyList<Series> series, IEnumerable<Session> sessions, Func<CalendarId, Calendar> calendar, Func<CalendarId, IReadOnlyList<Grant>> grants)
    {
        var owner = calendar(link.Calendar);
        // The links of a calendar that is deleted lead nowhere; they come back with it.
        if (owner.DeletedAt is { } deleted) link = link with { WithdrawnAt = link.WithdrawnAt ?? deleted };
        return new LinkDoor(
            school, link, owner, grants(link.Calendar), [.. series.Select(one => one.Calendar).Distinct().Select(id => (calendar(id), grants(id)))], series,
            new DoorSchedule(link, sessions.Where(session => session.JoinLink == link.Id), school.Time.Zone));
    }

    /// <summary>
    /// Why a series may not be saved so by that viewer, where it would open a door that is not theirs to open: what a door does is
    /// decided by those who work it, whatever series or session it comes through. Null where it opens nothing that it did not open before.
    /// </summary>
    /// <param name="stores">The stores.</param>
    /// <param name="school">The school.</param>
    /// <param name="viewer">Who saves.</param>
    /// <param name="before">The series as it is stored; null for a new one.</param>
    /// <param name="after">The series as it would be.</param>
    public static string? Opens(Stores stores, School school, Viewer viewer, Series? before, Series after)
    {
        foreach (var id in after.Changes.Select(change => change.Link).Append(after.JoinLink).OfType<JoinLinkId>().Distinct())
        {
            HashSet<(NodaTime.Instant, NodaTime.Instant, EntryRule?)> Windows(Series? series) => series is null ? []
                : [.. Planner.PlanOf(series, school.Time).Held.Where(session => session.JoinLink == id).Select(session => (session.StartsAt, session.EndsAt, session.Change?.Entry))];
            if (Windows(after).IsSubsetOf(Windows(before))) continue;
            var door = Read(stores, school, stores.JoinLinks.Get(id));
            if (!door.MayHost(viewer))
                return $"It would open the door of {door.Link.Name} at other times, and that is for those who keep that join link to decide. Ask an editor of {door.Owner.Title}, or choose no join link.";
        }

        return null;
    }

    /// <summary>The viewer's level on the link's own calendar.</summary>
    public AccessLevel LevelOf(Viewer viewer) => AccessRules.LevelOf(viewer, Grants);

    /// <summary>The viewer may change the link.</summary>
    public bool MayKeep(Viewer viewer) => AccessRules.May(Deed.KeepJoinLinks, LevelOf(viewer));

    /// <summary>The viewer may work the door: keepers, and hosts who can see one of its calendars in full.</summary>
    public bool MayHost(Viewer viewer) => viewer.Person is { } person
        && AccessRules.May(Deed.WorkDoor, Highest(viewer), own: Link.Hosts.Contains(person) || Users.Any(user => AccessRules.LevelOf(viewer, user.Grants) >= AccessLevel.Editor));

    /// <summary>The viewer's highest level on the link's calendars.</summary>
    public AccessLevel Highest(Viewer viewer)
    {
        var highest = LevelOf(viewer);
        foreach (var (_, grants) in Users)
            if (AccessRules.LevelOf(viewer, grants) is var level && level > highest) highest = level;
        return highest;
    }

    /// <summary>The viewer's level on the calendar of a session.</summary>
    public AccessLevel LevelOn(Session session, Viewer viewer) => AccessRules.LevelOf(viewer, Users.First(user => user.Calendar.Id == session.Of.Calendar).Grants);

    /// <summary>The calendar of a session.</summary>
    public Calendar CalendarOf(Session session) => Users.First(user => user.Calendar.Id == session.Of.Calendar).Calendar;
}
