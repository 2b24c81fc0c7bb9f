using System.Collections.Immutable;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>A shown session with the calendar it stands on.</summary>
public sealed record OnCalendar(Calendar Calendar, ShownSession Shown)
{
    /// <summary>The viewer may attach materials to it.</summary>
    public bool MayAttach { get; init; }
}

/// <summary>The door of a session on the day's page.</summary>
/// <param name="Code">The short address.</param>
/// <param name="Version">The link's version, for what is done to the door.</param>
/// <param name="Window">When the door is open for the session.</param>
/// <param name="Door">The state of the door now.</param>
/// <param name="MayHost">The viewer works the door.</param>
/// <param name="Room">Who is there; null where no provider tells, or not today.</param>
/// <param name="CanRenew">A provider made the room and can make another.</param>
public sealed record CardDoor(
    JoinCode Code,
    int Version,
    EntryWindow Window,
    Door Door,
    bool MayHost,
    RoomNow? Room,
    bool CanRenew
)
{
    /// <summary>The state of the door is about this session.</summary>
    public bool IsAbout => Window.Session.IsSameAs(Door.Session);
}

/// <summary>A person's day.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Day">The day.</param>
/// <param name="Sessions">By start.</param>
/// <param name="Rail">The same, laid out by bells.</param>
/// <param name="Next">The first session after the day, where the day has none left; else null.</param>
/// <param name="OwnOnly">Whether only the person's own calendars are taken in.</param>
/// <param name="HasMore">Whether there are calendars that are not the person's own.</param>
/// <param name="MaySetUp">Whether the person may make calendars.</param>
public sealed record DayView(
    School School,
    Instant Now,
    LocalDate Day,
    ImmutableArray<OnCalendar> Sessions,
    BellRail Rail,
    OnCalendar? Next,
    bool OwnOnly,
    bool HasMore,
    bool MaySetUp
)
{
    /// <summary>Held, and no recording yet, where the others before them have one: what the person may attach to, the last first.</summary>
    public IReadOnlyList<OnCalendar> NotRecorded { get; init; } = [];

    /// <summary>The person may add to one of these calendars.</summary>
    public bool MayAdd { get; init; }

    /// <summary>Not all that are open to the person could be taken in.</summary>
    public bool IsCut { get; init; }

    /// <summary>What is held in the week after the day, by its start; empty where the day itself is full.</summary>
    public IReadOnlyList<OnCalendar> Ahead { get; init; } = [];

    /// <summary>The doors of the sessions that have one.</summary>
    public IReadOnlyDictionary<Session, CardDoor> Doors { get; init; } = new Dictionary<Session, CardDoor>();

    /// <summary>The notices that are up on these calendars, the newest first.</summary>
    public IReadOnlyList<(Calendar Calendar, ShownNotice Shown)> Notices { get; init; } = [];

    /// <summary>What there is to notice about the links of these calendars, for those who keep them.</summary>
    public IReadOnlyList<NotedFinding> Findings { get; init; } = [];

    /// <summary>What cannot be read as it is stored, of what the person looks after.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>Reads somebody’s day.</summary>
public sealed class DayQuery(
    AlmanacDatabase database,
    IClock clock,
    Doors doors,
    Switchboard switchboard,
    RoomProviders rooms
)
{
    /// <summary>The most calendars that one day or week is laid out over.</summary>
    public const int MostLaid = 60;

    /// <summary>A person's day.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="day">The day; null for today.</param>
    /// <param name="ownOnly">Leave out calendars that are not the person's own; else the first <see cref="MostLaid"/> that are open to them
    /// are taken in.</param>
    /// <param name="child">Only calendars that are that child's, too; null for all.</param>
    /// <param name="cancellation">Ends the waiting for the provider of rooms.</param>
    public async Task<DayView?> Read(
        Viewer viewer,
        LocalDate? day,
        bool ownOnly,
        PersonId? child = null,
        CancellationToken cancellation = default
    )
    {
        if (ReadDay(viewer, day, ownOnly, child) is not { } view)
            return null;
        if (view.Day != view.Now.InZone(view.School.Time.Zone).Date)
            return view;
        // Who waits and who is inside is asked of the provider once the reading is over, for all cards at once: a slow one is waited
        // for once, not once a card.
        var cards = await Task.WhenAll(
            view.Doors.Select(async one =>
                (
                    Session: one.Key,
                    Card: one.Value with
                    {
                        Room =
                            one.Value.MayHost && doors.Find(one.Value.Code) is { } door
                                ? await doors.RoomOf(door, one.Key, cancellation)
                                : null,
                    }
                )
            )
        );
        var asked = new Dictionary<Session, CardDoor>(ReferenceEqualityComparer.Instance);
        foreach (var (session, card) in cards)
            asked[session] = card;
        return view with { Doors = asked };
    }

    /// <summary>A day with more sessions than these fills a page by itself.</summary>
    private const int ShortDay = 3;

    private DayView? ReadDay(Viewer viewer, LocalDate? day, bool ownOnly, PersonId? child) =>
        database.Read(stores =>
        {
            if (stores.School.Find() is not { } school)
                return null;
            var now = clock.GetCurrentInstant();
            var date = day ?? now.InZone(school.Time.Zone).Date;
            var own = CalendarAccess.OwnOf(stores, viewer, child);
            var hasMore = stores.Calendars.ReachesMoreThan(viewer, own.Count);
            if (!ownOnly)
                own =
                [
                    .. own,
                    .. CalendarAccess
                        .Of(stores, viewer, stores.Calendars.ReachedBy(viewer, null, "", 0, MostLaid))
                        .ExceptBy(own.Select(one => one.Calendar.Id), one => one.Calendar.Id),
                ];
            Func<Session, ShownSession?> Show(CalendarAccess one) =>
                one.Facts.For(school.Time, now, one.Level, ShowChoices.Working, viewer);
            bool MayChange(CalendarAccess one, Series of) =>
                AccessRules.May(
                    Permission.ChangeSeries,
                    Redaction.LevelOn(of, one.Level, viewer),
                    AccessRules.IsMaker(of.MadeBy, of.Calendar, viewer)
                );
            var all = own.SelectMany(one =>
                    one.Facts.PlansFor(school.Time, one.Level, viewer)
                        .SelectMany(plan => plan.Sessions)
                        .Where(session => session.IsVisible && session.LastDay >= date)
                        .Select(session =>
                            (one.Calendar, Session: session, Show: Show(one), MayAttach: MayChange(one, session.Of))
                        )
                )
                .OrderBy(one => one.Session.StartsAt)
                .ToList();
            var sessions = all.Where(one => one.Session.Day <= date)
                .Select(one => (one.Calendar, one.MayAttach, Shown: one.Show(one.Session)))
                .Where(one => one.Shown is not null)
                .Select(one => new OnCalendar(one.Calendar, one.Shown!) { MayAttach = one.MayAttach })
                .ToImmutableArray();
            var later = all.FirstOrDefault(one =>
                one.Session.IsHeld && one.Session.Day > date && one.Session.StartsAt > now
            );
            var next =
                sessions.Any(one => one.Shown.Session.IsHeld && one.Shown.Session.EndsAt > now) || later.Show is null
                    ? null
                    : new OnCalendar(later.Calendar, later.Show(later.Session)!);
            var cards = CardDoors(viewer, sessions, now);
            var rail = BellRail.Of(
                [
                    .. sessions
                        .Select(one => one.Shown)
                        .Where(shown => shown.Session.IsHeld && !shown.Session.IsAllDay && shown.Session.Day == date),
                ],
                school.Time.BellsOn(date),
                school.Time.Zone,
                session => cards.TryGetValue(session, out var door) ? door.Window : null
            );
            var keeps = AccessRules.MayAtSchool(Permission.MakeCalendar, viewer.Role);
            var findings =
                keeps && viewer.Person is { } person
                    ? switchboard.Notice(
                        stores,
                        LinkDoor
                            .Worked(stores, school, person, [.. own.Select(one => one.Calendar.Id)])
                            .Where(door => door.MayKeep(viewer)),
                        now
                    )
                    : [];
            return new DayView(school, now, date, sessions, rail, next, ownOnly, hasMore, keeps)
            {
                Notices =
                    date != now.InZone(school.Time.Zone).Date
                        ? []
                        :
                        [
                            .. own.SelectMany(one =>
                                    one.Facts.NoticesFor(school.Time, one.Level, ShowChoices.SignedIn, viewer, now)
                                        .Select(shown => (one.Calendar, Shown: shown))
                                )
                                .OrderByDescending(one => one.Shown.Notice.ChangedAt),
                        ],
                Ahead =
                    sessions.Length > ShortDay
                        ? []
                        :
                        [
                            .. all.Where(one =>
                                    one.Session.IsHeld && one.Session.Day > date && one.Session.Day <= date.PlusDays(7)
                                )
                                .Take(30)
                                .Select(one => (one.Calendar, Shown: one.Show(one.Session)))
                                .Where(one => one.Shown is not null)
                                .Select(one => new OnCalendar(one.Calendar, one.Shown!)),
                        ],
                NotRecorded =
                [
                    .. own.Where(one => one.IsOwn || !ownOnly)
                        .SelectMany(one =>
                            one.Facts.PlansFor(school.Time, one.Level, viewer)
                                .Where(plan => MayChange(one, plan.Of))
                                .SelectMany(plan => MissingRecordings.Of(plan, one.Facts.MaterialsOf, now))
                                .Select(session => (one.Calendar, Shown: Show(one)(session)))
                        )
                        .Where(one => one.Shown is not null)
                        .OrderByDescending(one => one.Shown!.Session.EndsAt)
                        .Take(5)
                        .Select(one => new OnCalendar(one.Calendar, one.Shown!) { MayAttach = true }),
                ],
                MayAdd = own.Exists(one => AccessRules.May(Permission.AddSeries, one.Level)),
                Doors = cards,
                Findings = findings,
                IsCut = !ownOnly && stores.Calendars.ReachesMoreThan(viewer, MostLaid),
                Unreadable = keeps
                    ?
                    [
                        .. stores.Unreadable.Where(one =>
                            viewer.Role == SchoolRole.Coordinator
                            || own.Exists(mine =>
                                mine.Calendar.Id == one.Calendar && mine.Level >= AccessLevel.Contributor
                            )
                        ),
                    ]
                    : [],
            };
        });

    private Dictionary<Session, CardDoor> CardDoors(Viewer viewer, IEnumerable<OnCalendar> sessions, Instant now)
    {
        var cards = new Dictionary<Session, CardDoor>(ReferenceEqualityComparer.Instance);
        foreach (var (_, shown) in sessions)
        {
            if (shown.Join is not { } code || !shown.Session.IsHeld || doors.Find(code) is not { } door)
                continue;
            var mayHost = door.MayHost(viewer);
            cards[shown.Session] = new CardDoor(
                code,
                door.Link.Version,
                door.Schedule.WindowOf(shown.Session),
                door.Schedule.At(now),
                mayHost,
                null,
                rooms.Provider is not null && door.Link.Target.Provider == rooms.Provider.Name
            );
        }

        return cards;
    }
}
