using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>A link on the switchboard.</summary>
/// <param name="Link">The link.</param>
/// <param name="Owner">Its calendar.</param>
/// <param name="Users">The calendars that use it.</param>
/// <param name="Door">The state of its door now.</param>
/// <param name="OnDay">Its windows on the day shown.</param>
/// <param name="LastDay">The last day the room can be used; null without a limit.</param>
/// <param name="MayKeep">The viewer may change it.</param>
public sealed record BoardRow(
    JoinLink Link,
    Calendar Owner,
    IReadOnlyList<Calendar> Users,
    Door Door,
    ImmutableArray<EntryWindow> OnDay,
    LocalDate? LastDay,
    bool MayKeep
);

/// <summary>The link that is chosen on the switchboard.</summary>
/// <param name="Row">Its row.</param>
/// <param name="Series">The titles of the series that use it, each with its calendar's title.</param>
/// <param name="Coming">Its next sessions, for guest links.</param>
/// <param name="Guests">Its guest links.</param>
/// <param name="Hosts">The names of its hosts.</param>
/// <param name="Checklist">The school's checklist for rooms.</param>
/// <param name="Past">The rooms it has had.</param>
public sealed record ChosenLink(
    BoardRow Row,
    IReadOnlyList<string> Series,
    IReadOnlyList<Session> Coming,
    IReadOnlyList<GuestLinkItem> Guests,
    IReadOnlyList<string> Hosts,
    IReadOnlyList<string> Checklist,
    IReadOnlyList<PastTarget> Past
);

/// <summary>A finding with the short address of its link.</summary>
public sealed record NotedFinding(JoinCode Code, int Version, Finding Finding);

/// <summary>All links that a person works with, on one axis of time.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Day">The day it shows.</param>
/// <param name="Axis">The day by bells.</param>
/// <param name="Rows">The links: those with a session on the day first, withdrawn ones last.</param>
/// <param name="Chosen">The link that is chosen; null where there is none.</param>
/// <param name="Findings">What there is to notice, the worst first.</param>
/// <param name="MayAdd">The viewer may add links.</param>
/// <param name="Provider">The provider's name, where there is one.</param>
public sealed record Board(
    School School,
    Instant Now,
    LocalDate Day,
    BellRail Axis,
    IReadOnlyList<BoardRow> Rows,
    ChosenLink? Chosen,
    IReadOnlyList<NotedFinding> Findings,
    bool MayAdd,
    string? Provider
)
{
    /// <summary>The links that cannot be read as they are stored, of those the viewer keeps.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>Reads the switchboard.</summary>
public sealed class Switchboard(AlmanacDatabase database, IClock clock, RoomProviders rooms, OperateDoor operateDoor)
{
    /// <summary>The switchboard of somebody who keeps or hosts links; null where they do neither, or not the link asked for.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="day">The day; null for today.</param>
    /// <param name="code">The link to choose; null for the one whose door is open, or opens next.</param>
    public Board? At(Viewer viewer, LocalDate? day, JoinCode? code) =>
        database.Read(stores =>
        {
            if (
                stores.School.Find() is not { } school
                || viewer.Person is not { } person
                || viewer.LookedAtBy is not null
            )
                return null;
            var now = clock.GetCurrentInstant();
            var date = day ?? now.InZone(school.Time.Zone).Date;
            var doors = LinkDoor
                .Worked(stores, school, person, stores.Calendars.WorkedBy(viewer))
                .Where(door => door.MayHost(viewer))
                .OrderBy(door => door.Link.Name, StringComparer.Ordinal)
                .ToList();
            var mayAdd = AccessRules.MayAtSchool(Permission.MakeCalendar, viewer.Role);
            if (doors.Count == 0 && !mayAdd)
                return null;
            var rows = doors
                .Select(door => (Door: door, Row: Row(door, viewer, now, date)))
                .OrderBy(one => one.Row.Link.WithdrawnAt is not null)
                .ThenBy(one => one.Row.OnDay.IsEmpty)
                .ThenBy(one => one.Row.OnDay.IsEmpty ? Instant.MinValue : one.Row.OnDay[0].Starts)
                .ToList();
            var asked = code is { } typed ? stores.JoinLinks.Find(typed)?.Id : null;
            // Without a choice, what matters most now: a door that is open, then the next to open.
            var chosen = code is null
                ? rows.OrderBy(one => one.Row.Link.WithdrawnAt is not null)
                    .ThenBy(one => one.Row.Door.Open.IsEmpty)
                    .ThenBy(one => one.Row.Door.State != DoorState.OpensLater)
                    .FirstOrDefault()
                : rows.FirstOrDefault(one => one.Row.Link.Id == asked);
            if (code is not null && chosen.Row is null)
                return null;
            var windows = rows.SelectMany(one => one.Row.OnDay).ToList();
            return new Board(
                school,
                now,
                date,
                BellRail.Around(windows, school.Time.BellsOn(date), school.Time.Zone),
                [.. rows.Select(one => one.Row)],
                chosen.Row is null ? null : Chosen(stores, viewer, chosen.Door, chosen.Row, now),
                Notice(stores, doors.Where(door => door.MayKeep(viewer)), now),
                mayAdd,
                rooms.Provider?.Name
            )
            {
                Unreadable =
                [
                    .. doors
                        .Where(door => door.MayKeep(viewer) && door.Link.CannotBeRead is not null)
                        .Select(door => new Unreadable(
                            UnreadableKind.JoinLink,
                            door.Link.Id.Value,
                            door.Owner.Id,
                            door.Link.Name,
                            door.Link.CannotBeRead!
                        )),
                ],
            };
        });

    /// <summary>What there is to notice about these links, the worst first.</summary>
    internal IReadOnlyList<NotedFinding> Notice(Stores stores, IEnumerable<LinkDoor> doors, Instant now)
    {
        var all = doors.ToList();
        var secrets = stores.JoinLinks.Secrets([.. all.Select(door => door.Link.Id)]);
        return
        [
            .. all.SelectMany(door =>
                    LinkFindings
                        .Of(Use(stores, door, now), [.. secrets[door.Link.Id]], now, door.School.Time.Zone)
                        .Select(finding => new NotedFinding(door.Link.Code, door.Link.Version, finding))
                )
                .OrderBy(noted => noted.Finding.Severity)
                .ThenBy(noted => noted.Finding.Kind),
        ];
    }

    // Who keeps a link is told what is written about entries that stand elsewhere, but not what a private one there is called.
    private static string Called(LinkDoor door, Series series) =>
        series.IsPrivate && series.Calendar != door.Owner.Id ? "a private entry" : series.Title;

    private LinkInUse Use(Stores stores, LinkDoor door, Instant now) =>
        new(
            door.Link,
            door.Schedule,
            [.. door.Users.Select(user => user.Calendar)],
            [
                .. door.Series.Select(series => new ReadText(
                    series.Id,
                    $"the text about {Called(door, series)}",
                    series.Description
                )),
                .. door.Series.SelectMany(series =>
                    series
                        .Changes.Where(change => change.Note.Length > 0)
                        .Select(change => new ReadText(series.Id, $"a note on {Called(door, series)}", change.Note))
                ),
                .. door.Series.SelectMany(series =>
                    CalendarFacts
                        .Read(stores, series.Calendar)
                        .Materials.Where(material => material.Series == series.Id)
                        .Select(material => new ReadText(
                            series.Id,
                            $"the material “{material.Title}” of {Called(door, series)}",
                            material.Content is MaterialContent.Link link ? link.Address.AbsoluteUri : ""
                        ))
                ),
            ],
            rooms.Provider is not null,
            door.School.Time.TermToShow(now.InZone(door.School.Time.Zone).Date)
        )
        {
            Unlinked = Unlinked(stores, door, now),
            PasscodeDays = door.School.PasscodeDays,
        };

    private static List<Series> Unlinked(Stores stores, LinkDoor door, Instant now)
    {
        var facts = CalendarFacts.Read(stores, door.Owner.Id);
        return !facts.LinksByUse.Take(1).Contains(door.Link.Id)
            ? []
            :
            [
                .. facts
                    .Plans(door.School.Time)
                    .Where(plan => plan.Of.JoinLink is null && plan.Held.Any(session => session.StartsAt > now))
                    .Select(plan => plan.Of),
            ];
    }

    private static BoardRow Row(LinkDoor door, Viewer viewer, Instant now, LocalDate date) =>
        new(
            door.Link,
            door.Owner,
            [.. door.Users.Select(user => user.Calendar)],
            door.Schedule.At(now),
            [
                .. door
                    .Schedule.Windows.Where(window => window.Session.StartAtSchool.Date == date)
                    .Select(window => window with { Session = door.Told(window.Session, viewer) }),
            ],
            door.Schedule.LastDay,
            door.MayKeep(viewer)
        );

    private ChosenLink Chosen(Stores stores, Viewer viewer, LinkDoor door, BoardRow row, Instant now)
    {
        var hosts = door.Link.Hosts.Append(door.Owner.Owner).Distinct().ToList();
        var names = stores.People.NamesOf(hosts);
        return new ChosenLink(
            row,
            door.TitlesFor(viewer),
            [
                .. door
                    .Schedule.Held.Where(session => session.EndsAt > now)
                    .Take(12)
                    .Select(session => door.Told(session, viewer)),
            ],
            operateDoor.GuestsOf(stores, door, now),
            [.. hosts.Select(host => names.GetValueOrDefault(host, "somebody"))],
            stores.JoinLinks.Checklist(),
            stores.JoinLinks.Past(door.Link.Id, 6)
        );
    }
}
