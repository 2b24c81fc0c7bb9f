using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.JoinLinks;

/// <summary>A guest link: through a door for one session, or for those of its series from that one to a day.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Link">The join link.</param>
/// <param name="Session">Its session, or its first.</param>
/// <param name="MadeAt">When it was made.</param>
/// <param name="IsRevoked">Somebody ended it before its time.</param>
/// <param name="IsHost">Whoever has it enters as host.</param>
public sealed record GuestLink(
    long Id,
    JoinLinkId Link,
    SessionKey Session,
    Instant MadeAt,
    bool IsRevoked,
    bool IsHost
)
{
    /// <summary>The last day of its sessions, of the same series; null for one session.</summary>
    public LocalDate? Until { get; init; }

    /// <summary>Whether it lets in to that session.</summary>
    public bool IsFor(Core.Series.Session session) =>
        session.IsKnownBy(Session)
        || (
            Until is { } last
            && session.Of.Id == Session.Series
            && session.Original.Date >= Session.Original.Date
            && session.Day <= last
        );
}

/// <summary>A room of one session that its provider may end.</summary>
public sealed record SessionRoom(long Id, JoinLinkId Link, SessionKey Session, string Room);

/// <summary>
/// How a link stands: two numbers that rise with each change of it, of the calendars that use it, and of the school's time.
/// </summary>
public sealed record JoinLinkState(long Id, long StateVersion, long School);

/// <summary>Join links, their doors, and what is behind them.</summary>
public sealed class JoinLinkStore
{
    // The facts of the newest target that is not one session's own; the address itself is not among them.
    private const string Select = """
        select l.id, l.calendar_id as CalendarId, l.name, l.code, l.version, l.entry, l.audience, l.only_for as OnlyFor, l.entry_word as EntryWord,
            l.shows_details as ShowsDetails,
            l.renews, l.reach, l.is_personal as IsPersonal, l.is_shared as IsShared, l.waits_for_host as WaitsForHost, l.what_to_do as WhatToDo, l.notes, l.ticked, l.withdrawn_at as WithdrawnAt,
                l.hand, l.ends_at as EndsAt,
            t.host, t.room, t.provider, t.set_at as SetAt, t.meeting_id <> '' as HasMeetingId, t.passcode <> '' as HasPasscode,
                t.passcode_inside as PasscodeInside, t.dial_in <> '[]' as HasDialIn,
            t.tested_at as TestedAt, t.test_said as TestSaid,
            (select count(*) from join_targets c where c.link_id = l.id) as Targets,
            (select group_concat(h.person_id) from join_hosts h where h.link_id = l.id) as Hosts,
            (select json_group_array(r.host) from rooms_in_turn r where r.link_id = l.id) as RoomsInTurn
        from join_links l join join_targets t on t.id = (select max(n.id) from join_targets n where n.link_id = l.id
            and n.series_id is null)
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal JoinLinkStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>The links of a calendar by name, those withdrawn too.</summary>
    public IReadOnlyList<JoinLink> Of(CalendarId calendar) =>
        Query("where l.calendar_id = @id", new { id = calendar.Value });

    /// <summary>The links that end by themselves and have not.</summary>
    public IReadOnlyList<JoinLink> Ending() => Query("where l.ends_at is not null and l.withdrawn_at is null", null);

    /// <summary>The links in use that may end: whose room does not last for good, or all, where passcodes end.</summary>
    public IReadOnlyList<JoinLinkId> MayEnd(bool passcodesEnd) =>
        [
            .. connection
                .Query<long>(
                    "select id from join_links where withdrawn_at is null and (reach <> @unlimited or @passcodesEnd)",
                    new { unlimited = DoorText.Write(new LinkReach.Unlimited()), passcodesEnd }
                )
                .Select(id => new JoinLinkId(id)),
        ];

    /// <summary>Some links that several series of calendars in use are joined by: there alone two groups can meet.</summary>
    public IReadOnlyList<JoinLinkId> Shared(int most) =>
        [
            .. connection
                .Query<long>(
                    """
                    select join_link_id from series s join calendars c on c.id = s.calendar_id
                    where join_link_id is not null and s.deleted_at is null and c.put_away_at is null and c.deleted_at is null
                    group by join_link_id having count(*) > 1 limit @most
                    """,
                    new { most }
                )
                .Select(id => new JoinLinkId(id)),
        ];

    /// <summary>The links that series of a calendar are joined by and that lead somewhere, whosever they are.</summary>
    public IReadOnlyList<JoinLink> UsedOn(CalendarId calendar) =>
        Query(
            "where l.withdrawn_at is null and l.id in (select link_id from series_links where calendar_id = @id)",
            new { id = calendar.Value }
        );

    /// <summary>All links by name, those withdrawn too.</summary>
    public IReadOnlyList<JoinLink> All() => Query("", null);

    /// <summary>The links of those ids by name, those withdrawn too.</summary>
    public IReadOnlyList<JoinLink> Of(IReadOnlyCollection<JoinLinkId> ids) =>
        ids.Count == 0 ? [] : Query("where l.id in @ids", new { ids = ids.Select(id => id.Value).ToArray() });

    /// <summary>The link of that id.</summary>
    public JoinLink Get(JoinLinkId id) => Query("where l.id = @id", new { id = id.Value }).Single();

    /// <summary>The link of that short address, also of an older one, or null.</summary>
    public JoinLink? Find(JoinCode code) =>
        Query("where l.id = (select c.link_id from join_codes c where c.code = @code)", new { code = code.Value })
            .SingleOrDefault();

    /// <summary>
    /// The ways in by the links that the series of a calendar are joined by, with the short addresses in use. Of one for whom it cannot be
    /// read there is none.
    /// </summary>
    public IReadOnlyDictionary<JoinLinkId, JoinWay> WaysOn(CalendarId calendar) =>
        rows.All(
                connection.Query<(long Id, string Name, string Code, string? Only, string Entry)>(
                    "select id, name, code, only_for, entry from join_links where id in (select link_id from series_links where calendar_id = @id)",
                    new { id = calendar.Value }
                ),
                row =>
                    (
                        Id: new JoinLinkId(row.Id),
                        Way: new JoinWay(
                            new JoinCode(row.Code),
                            Stored.Only(row.Only),
                            rows.Or<EntryRule?>(
                                () => DoorText.ReadEntry(row.Entry),
                                null,
                                () => (UnreadableKind.JoinLink, row.Id, calendar, row.Name)
                            )
                        )
                    ),
                row => (UnreadableKind.JoinLink, row.Id, calendar, row.Name)
            )
            .ToDictionary(one => one.Id, one => one.Way);

    /// <summary>The calendars whose series are, or were, joined by a link, as a whole or in one session.</summary>
    public IReadOnlyList<CalendarId> CalendarsUsing(JoinLinkId id) =>
        [
            .. connection
                .Query<long>("select distinct calendar_id from series_links where link_id = @id", new { id = id.Value })
                .Select(one => new CalendarId(one)),
        ];

    /// <summary>Whether there is such a link, withdrawn or not.</summary>
    public bool Exists(JoinLinkId id) =>
        connection.ExecuteScalar<long>("select count(*) from join_links where id = @id", new { id = id.Value }) == 1;

    /// <summary>How the link of a short address stands, also of an older one; null where nothing stands there.</summary>
    public JoinLinkState? StateVersionOf(JoinCode code) =>
        connection.QuerySingleOrDefault<JoinLinkState>(
            "select l.id, l.standing as StateVersion, s.standing as School from join_codes c join join_links l on l.id = c.link_id cross join school s where c.code = @code",
            new { code = code.Value }
        );

    /// <summary>How a link stands.</summary>
    public JoinLinkState StateVersionOf(JoinLinkId id) =>
        connection.QuerySingle<JoinLinkState>(
            "select l.id, l.standing as StateVersion, s.standing as School from join_links l cross join school s where l.id = @id",
            new { id = id.Value }
        );

    /// <summary>
    /// The links that somebody may work with, but for rooms that were opened for a while and have ended: those of calendars named for them, those whose host they are, and those that series of these
    /// calendars are joined by.
    /// </summary>
    public IReadOnlyList<JoinLinkId> Worked(PersonId person, IReadOnlyCollection<CalendarId> calendars) =>
        [
            .. connection
                .Query<long>(
                    """
                    select id from join_links where calendar_id in @ids and (ends_at is null or withdrawn_at is null)
                    union select link_id from series_links where calendar_id in @ids
                    union select link_id from join_hosts where person_id = @person
                    """,
                    new { person = person.Value, ids = calendars.Select(id => id.Value).ToArray() }
                )
                .Select(id => new JoinLinkId(id)),
        ];

    /// <summary>The links whose host somebody is.</summary>
    public IReadOnlyList<JoinLink> HostedBy(PersonId person) =>
        Of([
            .. connection
                .Query<long>("select link_id from join_hosts where person_id = @id", new { id = person.Value })
                .Select(id => new JoinLinkId(id)),
        ]);

    /// <summary>Makes somebody host of a link.</summary>
    public void AddHost(JoinLinkId link, PersonId person) =>
        connection.Execute(
            "insert or ignore into join_hosts (link_id, person_id) values (@link, @person)",
            new { link = link.Value, person = person.Value }
        );

    /// <summary>Takes a host away from a link.</summary>
    public void RemoveHost(JoinLinkId link, PersonId person) =>
        connection.Execute(
            "delete from join_hosts where link_id = @link and person_id = @person",
            new { link = link.Value, person = person.Value }
        );

    /// <summary>Makes somebody host of a link in place of somebody else.</summary>
    public void ChangeHost(JoinLinkId link, PersonId from, PersonId to)
    {
        RemoveHost(link, from);
        AddHost(link, to);
    }

    /// <summary>Whether a code was ever given out.</summary>
    public bool IsTaken(JoinCode code) =>
        connection.ExecuteScalar<long>("select count(*) from join_codes where code = @code", new { code = code.Value })
        > 0;

    /// <summary>
    /// What a link leads to: the session's own room, where it has one, else the room of all. Read only to lead somebody there.
    /// </summary>
    public JoinTarget TargetOf(JoinLinkId id, SessionKey? session = null)
    {
        var own = session is not { } key
            ? null
            : connection.QuerySingleOrDefault<TargetRow>(
                $"{TargetColumns} where link_id = @id and series_id = @series and original = @original and closed_at is null order by id desc limit 1",
                new
                {
                    id = id.Value,
                    series = key.Series.Value,
                    original = Stored.Text(key.Original),
                }
            );
        return (
            own
            ?? connection.QuerySingle<TargetRow>(
                $"{TargetColumns} where link_id = @id and series_id is null order by id desc limit 1",
                new { id = id.Value }
            )
        ).ToTarget(rows);
    }

    /// <summary>
    /// What must not stand where anyone can read it: address, meeting id and passcode of what each of these links leads to: its standing
    /// room, and the rooms of single sessions that are open. Read only to compare.
    /// </summary>
    public ILookup<JoinLinkId, string> Secrets(IReadOnlyCollection<JoinLinkId> links) =>
        connection
            .Query<(long Link, string Address, string MeetingId, string Passcode)>(
                """
                select link_id, address, meeting_id, passcode from join_targets
                where link_id in @ids and (id in (select max(id) from join_targets where link_id in @ids
                    and series_id is null group by link_id) or (series_id is not null and closed_at is null))
                union select link_id, address, '', '' from rooms_in_turn where link_id in @ids
                """,
                new { ids = links.Select(link => link.Value).ToArray() }
            )
            .SelectMany(row =>
                new[] { row.Address, row.MeetingId, row.Passcode }
                    .Where(text => text.Length > 0)
                    .Select(text => (Link: new JoinLinkId(row.Link), text))
            )
            .ToLookup(one => one.Link, one => one.text);

    /// <summary>Whether a session has a room of its own, open or closed.</summary>
    public bool HasOwnRoom(JoinLinkId id, SessionKey session, out bool isClosed)
    {
        var closed = connection
            .Query<long?>(
                """
                select closed_at from join_targets where link_id = @id and series_id = @series and original = @original
                order by id desc limit 1
                """,
                new
                {
                    id = id.Value,
                    series = session.Series.Value,
                    original = Stored.Text(session.Original),
                }
            )
            .AsList();
        isClosed = closed is [not null, ..];
        return closed.Count > 0;
    }

    /// <summary>The rooms a link has had, newest first.</summary>
    public IReadOnlyList<PastTarget> Past(JoinLinkId id, int most) =>
        [
            .. connection
                .Query<PastRow>(
                    "select t.host, t.room, t.set_at as SetAt, p.name as ByName, t.original from join_targets t join people p on p.id = t.set_by where t.link_id = @id order by t.id desc limit @most",
                    new { id = id.Value, most }
                )
                .Select(row => new PastTarget(
                    row.Host,
                    row.Room,
                    Stored.At(row.SetAt),
                    row.ByName,
                    row.Original is null ? null : Stored.Original(row.Original)
                )),
        ];

    /// <summary>Adds a link; its code must be free, its id is given here.</summary>
    public JoinLink Add(JoinLink link, JoinTarget target, PersonId by, Instant now)
    {
        var id = connection.ExecuteScalar<long>(
            "insert into join_links (calendar_id, name, code, version, made_by, made_at, changed_at) values (@calendar, @name, @code, 0, @by, @at, @at) returning id",
            new
            {
                calendar = link.Calendar.Value,
                name = link.Name,
                code = link.Code.Value,
                by = by.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        );
        connection.Execute(
            "insert into join_codes (code, link_id) values (@code, @id)",
            new { code = link.Code.Value, id }
        );
        AddTarget(new JoinLinkId(id), target, by, now);
        // Its own facts come as its first change, which makes its version 1.
        Change(link with { Id = new JoinLinkId(id) }, 0, now);
        return Get(new JoinLinkId(id));
    }

    /// <summary>A code that was never given out, for a link of that name.</summary>
    public JoinCode FreeCode(string name)
    {
        JoinCode code;
        do code = JoinCode.New(name);
        while (IsTaken(code));
        return code;
    }

    /// <summary>
    /// Changes a link if it still has the expected version, which then rises by one. Another code is added to those that lead to it.
    /// </summary>
    public bool Change(JoinLink link, int expectedVersion, Instant now)
    {
        var changed =
            connection.Execute(
                """
                update join_links set name = @name, code = @code, entry = @entry, audience = @audience, only_for = @only, entry_word = @word,
                    shows_details = @details, renews = @renews, reach = @reach,
                    is_personal = @personal, is_shared = @shared, waits_for_host = @waits, what_to_do = @whatToDo, notes = @notes, ticked = @ticked, withdrawn_at = @withdrawn, hand = @hand, ends_at = @ends,
                        version = version + 1, changed_at = @at
                where id = @id and version = @expectedVersion
                """,
                new
                {
                    id = link.Id.Value,
                    name = link.Name,
                    code = link.Code.Value,
                    entry = DoorText.Write(link.Entry),
                    audience = Stored.Text(link.Audience),
                    only = Stored.Text(link.OnlyFor),
                    word = link.EntryWord,
                    details = link.ShowsDetails,
                    renews = link.RenewsAfterEach,
                    reach = DoorText.Write(link.Reach),
                    personal = link.IsPersonal,
                    shared = link.IsSharedOnPurpose,
                    waits = link.WaitsForHost,
                    whatToDo = link.WhatToDo,
                    notes = link.Notes,
                    ticked = DoorText.Write(link.Ticked),
                    withdrawn = link.WithdrawnAt?.ToUnixTimeMilliseconds(),
                    hand = DoorText.Write(link.Hand),
                    ends = link.EndsAt?.ToUnixTimeMilliseconds(),
                    expectedVersion,
                    at = now.ToUnixTimeMilliseconds(),
                }
            ) == 1;
        if (!changed)
            return false;
        connection.Execute(
            "insert or ignore into join_codes (code, link_id) values (@code, @id)",
            new { code = link.Code.Value, id = link.Id.Value }
        );
        connection.Execute("delete from join_hosts where link_id = @id", new { id = link.Id.Value });
        connection.Execute(
            "insert into join_hosts (link_id, person_id) values (@id, @person)",
            link.Hosts.Select(person => new { id = link.Id.Value, person = person.Value })
        );
        return true;
    }

    /// <summary>Lets go who was in a room before then.</summary>
    /// <returns>Of how many it was known.</returns>
    public int ForgetAttendance(Instant before) =>
        connection.Execute(
            "delete from attendance where entered < @before",
            new { before = before.ToUnixTimeMilliseconds() }
        );

    /// <summary>Whether it is known of anybody who was in a room before then.</summary>
    public bool KnowsAttendance(Instant before) =>
        connection.ExecuteScalar<long>(
            "select exists (select 1 from attendance where entered < @before)",
            new { before = before.ToUnixTimeMilliseconds() }
        ) == 1;

    /// <summary>Puts other rooms in turn behind a link, in place of those there are. Sessions that are on take their turn anew.</summary>
    public void SetRoomsInTurn(JoinLinkId id, IReadOnlyList<JoinTarget> rooms, Instant now)
    {
        connection.Execute("delete from rooms_in_turn where link_id = @id", new { id = id.Value });
        connection.Execute(
            "insert into rooms_in_turn (link_id, position, address, host) values (@id, @position, @address, @host)",
            rooms.Select(
                (room, at) =>
                    new
                    {
                        id = id.Value,
                        position = at + 1,
                        address = room.Address.AbsoluteUri,
                        host = room.Address.IdnHost,
                    }
            )
        );
        EndTurns(id, now);
    }

    /// <summary>Gives a session the room after the one that a session had last, and keeps it for that session.</summary>
    public JoinTarget TakeTurn(JoinLinkId id, SessionKey session, PersonId by, Instant now)
    {
        var last = connection.ExecuteScalar<long?>(
            "select turn from join_targets where link_id = @id and turn is not null order by id desc limit 1",
            new { id = id.Value }
        );
        var count = connection.ExecuteScalar<long>(
            "select count(*) from rooms_in_turn where link_id = @id",
            new { id = id.Value }
        );
        var turn = last is { } before ? (before + 1) % (count + 1) : 0;
        var address = connection.ExecuteScalar<string?>(
            "select address from rooms_in_turn where link_id = @id and position = @turn",
            new { id = id.Value, turn }
        );
        AddTarget(
            id,
            address is null
                ? TargetOf(id)
                : new JoinTarget(WebAddress.TryRead(address, out var uri) ? uri : JoinTarget.Nowhere),
            by,
            now,
            session,
            (int)turn
        );
        return TargetOf(id, session);
    }

    private void EndTurns(JoinLinkId id, Instant now) =>
        connection.Execute(
            "update join_targets set closed_at = @at where link_id = @id and turn is not null and closed_at is null",
            new { id = id.Value, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>Puts another room behind a link, or behind one session of it; the old one stays in the history.</summary>
    /// <param name="id">The link.</param>
    /// <param name="target">The room.</param>
    /// <param name="by">Who.</param>
    /// <param name="now">When.</param>
    /// <param name="session">The one session that it is for; null for all.</param>
    /// <param name="turn">Which of the rooms that take turns it is; null for none.</param>
    public void AddTarget(
        JoinLinkId id,
        JoinTarget target,
        PersonId by,
        Instant now,
        SessionKey? session = null,
        int? turn = null
    )
    {
        if (session is null)
            EndTurns(id, now);
        connection.Execute(
            """
            insert into join_targets (link_id, address, host, set_by, set_at, meeting_id, passcode, passcode_inside, dial_in, provider, room,
                series_id, original, tested_at, turn)
            values (@id, @address, @host, @by, @at, @meetingId, @passcode, @inside, @dialIn, @provider, @room, @series, @original, @tested,
                @turn)
            """,
            new
            {
                id = id.Value,
                address = target.Address.AbsoluteUri,
                host = target.Address.IdnHost,
                by = by.Value,
                at = now.ToUnixTimeMilliseconds(),
                meetingId = target.MeetingId,
                passcode = target.Passcode,
                inside = target.PasscodeInside is not null,
                dialIn = DoorText.Write(target.DialIn),
                provider = target.Provider,
                room = target.Room,
                series = session?.Series.Value,
                original = session is { } key ? Stored.Text(key.Original) : null,
                // A room that a provider has just made needs no test.
                tested = target.Provider.Length > 0 ? (long?)now.ToUnixTimeMilliseconds() : null,
                turn,
            }
        );
    }

    /// <summary>Notes a test of the room behind a link.</summary>
    public void NoteTest(JoinLinkId id, Instant now, string said) =>
        connection.Execute(
            "update join_targets set tested_at = @at, test_said = @said where id = (select max(id) from join_targets where link_id = @id and series_id is null)",
            new
            {
                id = id.Value,
                at = now.ToUnixTimeMilliseconds(),
                said,
            }
        );

    /// <summary>The sessions' own rooms that are not closed yet.</summary>
    public IReadOnlyList<SessionRoom> OpenSessionRooms() =>
        [
            .. connection
                .Query<(long Id, long Link, long Series, string Original, string Room)>(
                    "select id, link_id, series_id, original, room from join_targets where series_id is not null and closed_at is null and room <> ''"
                )
                .Select(row => new SessionRoom(
                    row.Id,
                    new JoinLinkId(row.Link),
                    new SessionKey(new SeriesId(row.Series), Stored.Original(row.Original)),
                    row.Room
                )),
        ];

    /// <summary>Notes that a session's own room is closed.</summary>
    public void CloseRoom(long id, Instant now) =>
        connection.Execute(
            "update join_targets set closed_at = @at where id = @id",
            new { id, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>The link, and the session where it has the room for itself, that a provider's room belongs to; null where none.</summary>
    public (JoinLinkId Link, SessionKey? Session, long Target)? OfRoom(string room)
    {
        var row = connection
            .Query<(long Id, long Link, long? Series, string? Original)>(
                "select id, link_id, series_id, original from join_targets where room = @room order by id desc limit 1",
                new { room }
            )
            .ToList();
        return row.Count == 0
            ? null
            : (
                new JoinLinkId(row[0].Link),
                row[0] is { Series: { } series, Original: { } original }
                    ? new SessionKey(new SeriesId(series), Stored.Original(original))
                    : null,
                row[0].Id
            );
    }

    /// <summary>Adds a guest link; its token's hash follows, as the token is made of its id.</summary>
    /// <param name="link">The join link.</param>
    /// <param name="session">Its session, or its first.</param>
    /// <param name="isHost">Whoever has it enters as host.</param>
    /// <param name="until">The last day of its sessions; null for the one.</param>
    /// <param name="by">Who makes it.</param>
    /// <param name="now">When.</param>
    public long AddGuest(
        JoinLinkId link,
        SessionKey session,
        bool isHost,
        LocalDate? until,
        PersonId by,
        Instant now
    ) =>
        connection.ExecuteScalar<long>(
            "insert into guest_links (link_id, series_id, original, token_hash, made_by, made_at, is_host, until) values (@link, @series, @original, randomblob(32), @by, @at, @isHost, @until) returning id",
            new
            {
                link = link.Value,
                series = session.Series.Value,
                original = Stored.Text(session.Original),
                by = by.Value,
                isHost,
                until = until is { } day ? Stored.Text(day) : null,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Keeps the hash of a guest link's token.</summary>
    public void SetGuestToken(long id, byte[] hash) =>
        connection.Execute("update guest_links set token_hash = @hash where id = @id", new { id, hash });

    /// <summary>The guest link of that token's hash, or null.</summary>
    public GuestLink? FindGuest(byte[] hash) => Guests("token_hash = @hash", new { hash }).SingleOrDefault();

    /// <summary>The guest links of a link, newest first.</summary>
    public IReadOnlyList<GuestLink> GuestsOf(JoinLinkId link) =>
        Guests("link_id = @id order by id desc", new { id = link.Value });

    /// <summary>Ends a guest link.</summary>
    public bool RevokeGuest(JoinLinkId link, long id, Instant now) =>
        connection.Execute(
            "update guest_links set revoked_at = @at where id = @id and link_id = @link and revoked_at is null",
            new
            {
                id,
                link = link.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>The school's checklist for rooms, in order.</summary>
    public IReadOnlyList<string> Checklist() =>
        connection.Query<string>("select name from room_checks order by position").AsList();

    /// <summary>The checklist for rooms of a calendar: that of its department, where that has one of its own; else the school's.</summary>
    public IReadOnlyList<string> ChecklistOf(CalendarId calendar)
    {
        var own = connection
            .Query<string>(
                """
                select d.name from department_checks d join calendars c on d.calendar_id = ifnull(c.department_id, c.id)
                where c.id = @id order by d.position
                """,
                new { id = calendar.Value }
            )
            .AsList();
        return own.Count > 0 ? own : Checklist();
    }

    /// <summary>Puts another checklist in its place.</summary>
    public void SetChecklist(IReadOnlyList<string> lines)
    {
        connection.Execute("delete from room_checks");
        connection.Execute(
            "insert into room_checks (position, name) values (@position, @name)",
            lines.Select((name, position) => new { position, name })
        );
    }

    /// <summary>A department's own checklist for rooms; empty where the school's holds.</summary>
    public IReadOnlyList<string> OwnChecklist(CalendarId department) =>
        connection
            .Query<string>(
                "select name from department_checks where calendar_id = @id order by position",
                new { id = department.Value }
            )
            .AsList();

    /// <summary>Gives a department a checklist for rooms of its own; empty for the school's.</summary>
    public void SetOwnChecklist(CalendarId department, IReadOnlyList<string> lines)
    {
        connection.Execute("delete from department_checks where calendar_id = @id", new { id = department.Value });
        connection.Execute(
            "insert into department_checks (calendar_id, position, name) values (@id, @position, @name)",
            lines.Select(
                (name, position) =>
                    new
                    {
                        id = department.Value,
                        position,
                        name,
                    }
            )
        );
    }

    /// <summary>When a host first came to each session by a link; sessions to which none has come are not in it.</summary>
    public IReadOnlyDictionary<SessionKey, Instant> HostArrivals(JoinLinkId id) =>
        rows.All(
                connection.Query<(long Series, string Original, long At)>(
                    "select series_id, original, arrived_at from host_arrivals where link_id = @id",
                    new { id = id.Value }
                ),
                row =>
                    (
                        Session: new SessionKey(new SeriesId(row.Series), Stored.Original(row.Original)),
                        At: Stored.At(row.At)
                    ),
                // Its door stays held.
                row => (UnreadableKind.JoinLink, id.Value, null, "when a host came")
            )
            .DistinctBy(one => one.Session)
            .ToDictionary(one => one.Session, one => one.At);

    /// <summary>Notes that a host came to a session, and lets go of those that are long over.</summary>
    /// <returns>False where one has come before.</returns>
    public bool AddHostArrival(JoinLinkId id, SessionKey session, Instant now)
    {
        connection.Execute(
            "delete from host_arrivals where link_id = @id and arrived_at < @old",
            new { id = id.Value, old = (now - Duration.FromDays(30)).ToUnixTimeMilliseconds() }
        );
        return connection.Execute(
                "insert or ignore into host_arrivals (link_id, series_id, original, arrived_at) values (@id, @series, @original, @at)",
                new
                {
                    id = id.Value,
                    series = session.Series.Value,
                    original = Stored.Text(session.Original),
                    at = now.ToUnixTimeMilliseconds(),
                }
            ) == 1;
    }

    /// <summary>Notes who was in a session's room.</summary>
    public void AddAttendance(SessionKey session, IEnumerable<(string Name, Instant Entered, int Minutes)> people) =>
        connection.Execute(
            "insert into attendance (series_id, original, name, entered, minutes) values (@series, @original, @name, @entered, @minutes)",
            people.Select(one => new
            {
                series = session.Series.Value,
                original = Stored.Text(session.Original),
                name = one.Name,
                entered = one.Entered.ToUnixTimeMilliseconds(),
                minutes = one.Minutes,
            })
        );

    /// <summary>Who was in a session's room, by when they entered.</summary>
    public IReadOnlyList<(string Name, Instant Entered, int Minutes)> Attendance(SessionKey session) =>
        [
            .. connection
                .Query<(string Name, long Entered, long Minutes)>(
                    "select name, entered, minutes from attendance where series_id = @series and original = @original order by entered, id",
                    new { series = session.Series.Value, original = Stored.Text(session.Original) }
                )
                .Select(row => (row.Name, Stored.At(row.Entered), (int)row.Minutes)),
        ];

    /// <summary>The names of those who were in the rooms of sessions; sessions of which nothing was told are not in it.</summary>
    public IReadOnlyDictionary<SessionKey, List<string>> AttendanceOf(IReadOnlyCollection<SessionKey> sessions)
    {
        var asked = sessions
            .GroupBy(session => session.Series)
            .Select(group => (Series: group.Key, Starts: group.ToDictionary(session => Stored.Text(session.Original))));
        var found = new Dictionary<SessionKey, List<string>>();
        foreach (var (series, starts) in asked)
        foreach (
            var (original, name) in connection.Query<(string Original, string Name)>(
                "select original, name from attendance where series_id = @series and original in (select value from json_each(@starts))",
                new { series = series.Value, starts = System.Text.Json.JsonSerializer.Serialize(starts.Keys) }
            )
        )
        {
            if (!found.TryGetValue(starts[original], out var names))
                found[starts[original]] = names = [];
            names.Add(name);
        }

        return found;
    }

    private List<JoinLink> Query(string where, object? values) =>
        [.. connection.Query<LinkRow>($"{Select} {where} order by l.name, l.id", values).Select(ToLink)];

    private List<GuestLink> Guests(string where, object values) =>
        [
            .. connection
                .Query<(
                    long Id,
                    long Link,
                    long Series,
                    string Original,
                    long MadeAt,
                    long? RevokedAt,
                    long IsHost,
                    string? Until
                )>(
                    $"select id, link_id, series_id, original, made_at, revoked_at, is_host, until from guest_links where {where}",
                    values
                )
                .Select(row =>
                    rows.Or<GuestLink?>(
                        () =>
                            new GuestLink(
                                row.Id,
                                new JoinLinkId(row.Link),
                                new SessionKey(new SeriesId(row.Series), Stored.Original(row.Original)),
                                Stored.At(row.MadeAt),
                                row.RevokedAt is not null,
                                row.IsHost == 1
                            )
                            {
                                Until = row.Until is { } until ? Stored.Day(until) : null,
                            },
                        null,
                        () => (UnreadableKind.GuestLink, row.Id, null, "a guest link")
                    )
                )
                .OfType<GuestLink>(),
        ];

    private const string TargetColumns =
        "select address, meeting_id as MeetingId, passcode, dial_in as DialIn, provider, room from join_targets";

    private sealed record TargetRow(
        string Address,
        string MeetingId,
        string Passcode,
        string DialIn,
        string Provider,
        string Room
    )
    {
        public JoinTarget ToTarget(RowReader rows) =>
            new(WebAddress.TryRead(Address, out var address) ? address : JoinTarget.Nowhere)
            {
                MeetingId = MeetingId,
                Passcode = Passcode,
                DialIn =
                [
                    .. rows.Or(
                        () => DoorText.ReadLines(DialIn),
                        [],
                        () => (UnreadableKind.JoinLink, 0, null, "telephone numbers")
                    ),
                ],
                Provider = Provider,
                Room = Room,
            };
    }

    private sealed record PastRow(string Host, string Room, long SetAt, string ByName, string? Original);

    // A class, not a positional record: SQLite tells no type for columns that are computed, and Dapper then finds no constructor.
    private sealed class LinkRow
    {
        public long Id { get; init; }
        public long CalendarId { get; init; }
        public string Name { get; init; } = "";
        public string Code { get; init; } = "";
        public long Version { get; init; }
        public string Entry { get; init; } = "";
        public string Audience { get; init; } = "";
        public string? OnlyFor { get; init; }
        public string EntryWord { get; init; } = "";
        public long ShowsDetails { get; init; }
        public long Renews { get; init; }
        public string Reach { get; init; } = "";
        public long IsPersonal { get; init; }
        public long IsShared { get; init; }
        public string Notes { get; init; } = "";
        public string Ticked { get; init; } = "";
        public long? WithdrawnAt { get; init; }
        public string? Hand { get; init; }
        public long WaitsForHost { get; init; }
        public string WhatToDo { get; init; } = "";
        public long? EndsAt { get; init; }
        public string Host { get; init; } = "";
        public string Room { get; init; } = "";
        public string Provider { get; init; } = "";
        public long SetAt { get; init; }
        public long HasMeetingId { get; init; }
        public long HasPasscode { get; init; }
        public long PasscodeInside { get; init; }
        public long HasDialIn { get; init; }
        public long? TestedAt { get; init; }
        public string TestSaid { get; init; } = "";
        public long Targets { get; init; }
        public string? Hosts { get; init; }
        public string RoomsInTurn { get; init; } = "[]";
    }

    // One that cannot be read keeps its door shut: nothing of its rule, its audience or a hand on it is made up.
    private JoinLink ToLink(LinkRow row)
    {
        var link = new JoinLink(
            new JoinLinkId(row.Id),
            new CalendarId(row.CalendarId),
            row.Name,
            new JoinCode(row.Code),
            (int)row.Version
        )
        {
            EntryWord = row.EntryWord,
            ShowsDetails = row.ShowsDetails == 1,
            RenewsAfterEach = row.Renews == 1,
            IsPersonal = row.IsPersonal == 1,
            IsSharedOnPurpose = row.IsShared == 1,
            WaitsForHost = row.WaitsForHost == 1,
            WhatToDo = row.WhatToDo,
            WithdrawnAt = row.WithdrawnAt is { } at ? Stored.At(at) : null,
            EndsAt = row.EndsAt is { } ends ? Stored.At(ends) : null,
            RoomsInTurn = [.. DoorText.ReadLines(row.RoomsInTurn)],
            Target = new TargetFacts(
                row.Host,
                row.Room,
                row.Provider,
                Stored.At(row.SetAt),
                (int)row.Targets,
                row.HasMeetingId == 1,
                row.HasPasscode == 1,
                row.PasscodeInside == 1,
                row.HasDialIn == 1,
                row.TestedAt is { } tested ? Stored.At(tested) : null,
                row.TestSaid
            ),
            Hosts = row.Hosts is null
                ? []
                :
                [
                    .. row
                        .Hosts.Split(',')
                        .Select(id => new PersonId(long.Parse(id, System.Globalization.CultureInfo.InvariantCulture))),
                ],
            Notes = row.Notes,
            Audience = EntryAudience.PeopleOfTheCalendar,
        };
        var read = rows.Or<JoinLink?>(
            () =>
                link with
                {
                    Entry = DoorText.ReadEntry(row.Entry),
                    Audience = Stored.As<EntryAudience>(row.Audience),
                    OnlyFor = Stored.Only(row.OnlyFor),
                    Reach = DoorText.ReadReach(row.Reach),
                    Hand = DoorText.ReadHand(row.Hand),
                    Ticked = [.. DoorText.ReadLines(row.Ticked)],
                },
            null,
            () => (UnreadableKind.JoinLink, row.Id, link.Calendar, row.Name)
        );
        return read
            ?? link with
            {
                CannotBeRead = rows.Found.LastOrDefault(one =>
                    one.Kind == UnreadableKind.JoinLink && one.Id == row.Id
                )?.Reason
                    ?? "its row is not what it should be",
            };
    }
}
