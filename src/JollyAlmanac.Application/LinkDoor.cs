using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>A link with its windows and the calendars that use it.</summary>
/// <param name="School">The school.</param>
/// <param name="Link">The link.</param>
/// <param name="Owner">The calendar it belongs to.</param>
/// <param name="Grants">Who may see that calendar.</param>
/// <param name="Users">The calendars whose series use it, with who may see them.</param>
/// <param name="Series">The series that use it.</param>
/// <param name="Schedule">Its windows.</param>
internal sealed record LinkDoor(
    School School,
    JoinLink Link,
    Calendar Owner,
    IReadOnlyList<Grant> Grants,
    IReadOnlyList<(Calendar Calendar, IReadOnlyList<Grant> Grants)> Users,
    IReadOnlyList<Series> Series,
    DoorSchedule Schedule
)
{
    /// <summary>When a host first came to a session, of a link that is held for its host; null for any other link.</summary>
    public Func<Session, Instant?>? HostCame { get; init; }

    /// <summary>A link as it is now. Kept while it stands the same.</summary>
    public static LinkDoor Read(Stores stores, School school, JoinLinkId id) =>
        Read(stores, school, id, stores.JoinLinks.StateVersionOf(id));

    /// <summary>A link as it is now.</summary>
    /// <param name="stores">The stores.</param>
    /// <param name="school">The school.</param>
    /// <param name="id">The link.</param>
    /// <param name="state">How it stands, read in this same reading.</param>
    public static LinkDoor Read(Stores stores, School school, JoinLinkId id, JoinLinkState state) =>
        stores.Cached.GetOrCreate(
            id,
            state,
            () =>
            {
                var link = stores.JoinLinks.Get(id);
                var users = stores.Calendars.InUse(stores.JoinLinks.CalendarsUsing(id));
                var owner = users.FirstOrDefault(calendar => calendar.Id == link.Calendar)
                    ?? stores.Calendars.Get(link.Calendar);
                var grants = stores.Calendars.GrantsOf([
                    .. users.Select(calendar => calendar.Id).Append(owner.Id).Distinct(),
                ]);
                var plans = users
                    .SelectMany(calendar => CalendarFacts.Read(stores, calendar.Id).Plans(school.Time))
                    .Where(plan => plan.Of.JoinLink == id || plan.Of.Changes.Any(change => change.Link == id))
                    .OrderBy(plan => plan.Of.Id.Value)
                    .ToList();
                // The links of a calendar that is deleted lead nowhere; they come back with it.
                if (owner.DeletedAt is { } deleted)
                    link = link with { WithdrawnAt = link.WithdrawnAt ?? deleted };
                var opens = users.ToDictionary(calendar => calendar.Id, calendar => calendar.OpensOn);
                var arrivals = link.IsHeldForHost ? stores.JoinLinks.HostArrivals(id) : null;
                Func<Session, Instant?>? came = arrivals is null
                    ? null
                    : session => arrivals.TryGetValue(session.Key, out var at) ? at : null;
                var meeting = plans.Select(plan => plan.Of.Calendar).ToHashSet();
                return new LinkDoor(
                    school,
                    link,
                    owner,
                    [.. grants[owner.Id]],
                    [
                        .. users
                            .Where(calendar => meeting.Contains(calendar.Id))
                            .Select(calendar => (calendar, (IReadOnlyList<Grant>)[.. grants[calendar.Id]])),
                    ],
                    [.. plans.Select(plan => plan.Of)],
                    new DoorSchedule(
                        // Before a calendar opens, its doors stay shut; who works them enters at any time.
                        owner.OpensOn
                            is not null
                        && link.Entry is EntryRule.Always or EntryRule.Hours
                            ? link with
                            {
                                Entry = new EntryRule.AllDay(),
                            }
                            : link,
                        plans
                            .SelectMany(plan => plan.Sessions)
                            .Where(session =>
                                session.JoinLink == id
                                && (opens.GetValueOrDefault(session.Of.Calendar) is not { } day || session.Day >= day)
                            ),
                        school.Time.Zone,
                        school.Time.IsClassDay,
                        came
                    )
                )
                {
                    HostCame = came,
                };
            },
            door => door.Schedule.Held.Count() + 10
        );

    /// <summary>The links of these calendars, those that their series are joined by, and those whose host somebody is.</summary>
    public static IReadOnlyList<LinkDoor> Worked(
        Stores stores,
        School school,
        PersonId person,
        IReadOnlyCollection<CalendarId> calendars
    ) => [.. stores.JoinLinks.Worked(person, calendars).Select(id => Read(stores, school, id))];

    /// <summary>The links that some series are joined by.</summary>
    public static IReadOnlyList<JoinLink> UsedOn(Stores stores, IReadOnlyList<Series> series)
    {
        var used = series.SelectMany(one => one.Changes.Select(change => change.Link).Append(one.JoinLink)).ToHashSet();
        return stores.JoinLinks.Of([.. used.OfType<JoinLinkId>()]);
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
        foreach (
            var id in after.Changes.Select(change => change.Link).Append(after.JoinLink).OfType<JoinLinkId>().Distinct()
        )
        {
            HashSet<(NodaTime.Instant, NodaTime.Instant, EntryRule?)> Windows(Series? series) =>
                series is null
                    ? []
                    :
                    [
                        .. Planner
                            .PlanOf(series, school.Time)
                            .Held.Where(session => session.JoinLink == id)
                            .Select(session => (session.StartsAt, session.EndsAt, session.Change?.Entry)),
                    ];
            if (Windows(after).IsSubsetOf(Windows(before)))
                continue;
            var door = Read(stores, school, id);
            if (!door.MayHost(viewer))
                return $"It would open the door of {door.Link.Name} at other times, and that is for those who keep that join link to decide. Ask an editor of {door.Owner.Title}, or choose no join link.";
        }

        return null;
    }

    /// <summary>The viewer's level on the link's own calendar.</summary>
    public AccessLevel LevelOf(Viewer viewer) => AccessRules.LevelOf(viewer, Grants);

    /// <summary>The viewer may change the link.</summary>
    public bool MayKeep(Viewer viewer) => AccessRules.May(Permission.KeepJoinLinks, LevelOf(viewer));

    /// <summary>The viewer may work the door: keepers, and hosts who can see one of its calendars in full.</summary>
    public bool MayHost(Viewer viewer) =>
        Hosts(viewer) && (viewer.LookedAtBy is not { Role: not SchoolRole.Coordinator } looker || Hosts(looker));

    private bool Hosts(Viewer viewer) =>
        viewer.Person is { } person
        && AccessRules.May(
            Permission.WorkDoor,
            Highest(viewer),
            own: Link.Hosts.Contains(person)
                || Users.Any(user => AccessRules.LevelOf(viewer, user.Grants) >= AccessLevel.Editor)
        );

    /// <summary>The viewer's highest level on the link's calendars.</summary>
    public AccessLevel Highest(Viewer viewer)
    {
        var highest = LevelOf(viewer);
        foreach (var (_, grants) in Users)
            if (AccessRules.LevelOf(viewer, grants) is var level && level > highest)
                highest = level;
        return highest;
    }

    /// <summary>The viewer's level on the calendar of a session.</summary>
    public AccessLevel LevelOn(Session session, Viewer viewer) =>
        AccessRules.LevelOf(viewer, Users.First(user => user.Calendar.Id == session.Of.Calendar).Grants);

    /// <summary>
    /// Whether a viewer who works the door is told what a series is called: not of a private one, and one for some only, where their
    /// level on its calendar would not tell them either.
    /// </summary>
    public bool Tells(Series series, Viewer viewer) =>
        series.IsForAll
        || (
            Users.Where(user => user.Calendar.Id == series.Calendar).Select(user => user.Grants).FirstOrDefault()
                is { } grants
            && AccessRules.May(
                Permission.SeeOutline,
                Redaction.LevelOn(series, AccessRules.LevelOf(viewer, grants), viewer)
            )
        );

    /// <summary>A session as a viewer who works the door sees it: where they are not told what it is, only when.</summary>
    public Session Told(Session session, Viewer viewer)
    {
        if (Tells(session.Of, viewer))
            return session;
        var bare = session.OnlyItsTime();
        return bare with { Original = session.Original, Of = bare.Of with { Title = "Busy" } };
    }

    /// <summary>What a session is called in the history of the link, which others read than may read the session.</summary>
    public static string NameOf(Session session) => session.Of.IsForAll ? session.Title : "a private entry";

    /// <summary>What the series that use the link are called, each name once, as far as the viewer is told.</summary>
    public IReadOnlyList<string> TitlesFor(Viewer viewer) =>
        [.. Series.Where(series => Tells(series, viewer)).Select(series => series.Title).Distinct()];

    /// <summary>The calendar of a session.</summary>
    public Calendar CalendarOf(Session session) =>
        Users.First(user => user.Calendar.Id == session.Of.Calendar).Calendar;
}
