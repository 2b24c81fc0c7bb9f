using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Publishing;

/// <summary>
/// How an outlet stands: by its calendar, which stands otherwise with each change of the outlet, too, and by the school's time.
/// </summary>
/// <param name="Id">The outlet.</param>
/// <param name="Calendar">Its calendar.</param>
/// <param name="StateVersion">How the calendar stands.</param>
/// <param name="School">How the school's time stands.</param>
/// <param name="LastFetchedAt">When a reader asked for it last, in Unix milliseconds; not a part of how it stands.</param>
/// <param name="Scope">Which calendars it tells beside its own.</param>
/// <param name="Options">What else it shows.</param>
/// <param name="Others">Calendars that were chosen beside its own.</param>
public sealed record PublicationState(
    long Id,
    long Calendar,
    long StateVersion,
    long School,
    long? LastFetchedAt,
    string Scope,
    string Options,
    string Others
)
{
    /// <summary>It tells further calendars, too, or depends on the day: what is here does not say all of how it stands.</summary>
    public bool IsMore =>
        Scope != "calendar" || Others.Length > 0 || Options.Contains("days", StringComparison.Ordinal);
}

/// <summary>Feeds and embeds.</summary>
public sealed class PublicationStore
{
    private const string Columns = """
        id, kind, calendar_id as CalendarRef, name, level, descriptions, materials, join_links as JoinLinks, sites, generation, version,
        made_by as MadeBy, last_fetched_at as LastFetchedAt, offered, options, scope, group_id as GroupRef, paused_at as PausedAt, others
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal PublicationStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>The outlets of a calendar that are not revoked, oldest first.</summary>
    public IReadOnlyList<Publication> Of(CalendarId calendar) =>
        Query("where calendar_id = @id and revoked_at is null order by id", new { id = calendar.Value });

    /// <summary>Those of calendars in use that are not revoked, by the calendar's title.</summary>
    /// <param name="show">Which of them.</param>
    /// <param name="idle">A feed that nobody asked for since then is idle.</param>
    /// <param name="limit">The most that are given.</param>
    /// <param name="skip">How many of the first are passed over.</param>
    public IReadOnlyList<Publication> OfSchool(PublicationFilter show, Instant idle, int limit, int skip) =>
        Query(
            $"""
        where {Lives} and {show switch
        {
            PublicationFilter.Feeds => "kind = 'feed'", PublicationFilter.Embeds => "kind = 'embed'", PublicationFilter.Idle => IsIdle,
            PublicationFilter.Paused => "paused_at is not null", _ => "true",
        }} order by (select title from calendars where id = outlets.calendar_id) collate nocase, id limit @limit offset @skip
        """,
            new
            {
                idle = idle.ToUnixTimeMilliseconds(),
                limit,
                skip,
            }
        );

    private const string Lives =
        "revoked_at is null and calendar_id in (select id from calendars where put_away_at is null and deleted_at is null)";

    private const string IsIdle = "kind = 'feed' and paused_at is null and ifnull(last_fetched_at, made_at) < @idle";

    /// <summary>How much a school publishes.</summary>
    /// <param name="idle">A feed that nobody asked for since then is idle.</param>
    /// <param name="today">The school's date.</param>
    public PublishedCounts Counts(Instant idle, LocalDate today) =>
        connection.QuerySingle<PublishedCounts>(
            $"""
            select ifnull(sum(kind = 'feed'), 0) as Feeds, ifnull(sum(kind = 'embed'), 0) as Embeds, ifnull(sum({IsIdle}), 0) as Idle,
                ifnull(sum(paused_at is not null), 0) as Paused,
                (select count(distinct calendar_id) from grants join calendars on calendars.id = calendar_id where grantee = 'anyone'
                    and put_away_at is null and deleted_at is null) as OpenToAnyone,
                (select count(*) from own_feeds) as OwnFeeds,
                (select count(*) from notices where withdrawn_at is null and first_day <= @today and last_day >= @today) as Notices,
                (select count(*) from mailings) as ByMail
            from outlets where {Lives}
            """,
            new { idle = idle.ToUnixTimeMilliseconds(), today = Stored.Text(today) }
        );

    /// <summary>Whether any of these calendars has an outlet that is not revoked.</summary>
    public bool AnyOn(IReadOnlyCollection<CalendarId> calendars) =>
        connection.ExecuteScalar<long>(
            "select exists (select 1 from outlets where calendar_id in @ids and revoked_at is null)",
            new { ids = calendars.Select(id => id.Value).ToArray() }
        ) == 1;

    /// <summary>The outlet of that id, unless revoked.</summary>
    public Publication? Find(PublicationId id) =>
        Query("where id = @id and revoked_at is null", new { id = id.Value }).SingleOrDefault();

    /// <summary>The outlet whose token hashes to this, unless revoked.</summary>
    public Publication? Find(PublicationKind kind, byte[] tokenHash) =>
        Query(
                "where token_hash = @tokenHash and kind = @kind and revoked_at is null",
                new { tokenHash, kind = Stored.Text(kind) }
            )
            .SingleOrDefault();

    /// <summary>How the outlet stands whose token hashes to this; null where there is none, or it was revoked.</summary>
    public PublicationState? StateVersionOf(PublicationKind kind, byte[] tokenHash) =>
        connection.QuerySingleOrDefault<PublicationState>(
            """
            select o.id, c.id as Calendar, c.standing as StateVersion, s.standing as School, o.last_fetched_at as LastFetchedAt,
                o.scope, o.options, o.others
            from outlets o join calendars c on c.id = o.calendar_id cross join school s where o.token_hash = @tokenHash and o.kind = @kind
                and o.revoked_at is null
            """,
            new { tokenHash, kind = Stored.Text(kind) }
        );

    /// <summary>How many that still stand somebody made.</summary>
    public int MadeBy(PersonId person) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from outlets where made_by = @id and revoked_at is null",
                new { id = person.Value }
            );

    /// <summary>Gives on what somebody made and still stands.</summary>
    public IReadOnlyList<(CalendarId Calendar, string Name, long Id)> GiveOn(PersonId from, PersonId to) =>
        [
            .. connection
                .Query<(long Calendar, string Name, long Id)>(
                    "update outlets set made_by = @to where made_by = @from and revoked_at is null returning calendar_id, name, id",
                    new { from = from.Value, to = to.Value }
                )
                .Select(row => (new CalendarId(row.Calendar), row.Name, row.Id)),
        ];

    /// <summary>Adds an outlet; its id is given here, and its token's hash asked for, because the token is made of the id.</summary>
    public Publication Add(Publication publication, Func<Publication, byte[]> tokenHashOf, Instant now)
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into outlets (kind, calendar_id, name, level, descriptions, materials, join_links, sites, generation, token_hash,
                version, made_by, made_at, changed_at, offered, options, scope, group_id, others)
            values (@kind, @calendar, @name, @level, @descriptions, @materials, @joinLinks, @sites, 1, randomblob(32), 1, @madeBy, @at,
                @at, @offered, @options, @scope, @group, @others) returning id
            """,
            Values(publication, now)
        );
        var made = publication with { Id = new PublicationId(id), Generation = 1, Version = 1 };
        SetToken(made, tokenHashOf(made));
        return made;
    }

    /// <summary>Changes what an outlet is called and shows, if it still has the expected version.</summary>
    public bool Change(Publication publication, int expectedVersion, Instant now) =>
        connection.Execute(
            """
            update outlets set name = @name, level = @level, descriptions = @descriptions, materials = @materials, join_links = @joinLinks,
                sites = @sites, options = @options, scope = @scope, group_id = @group, others = @others, offered = @offered, made_by = @madeBy,
                version = version + 1, changed_at = @at
            where id = @id and version = @expectedVersion and revoked_at is null
            """,
            Values(publication, now, expectedVersion)
        ) == 1;

    /// <summary>Lets an outlet show nothing for a while, or go on, if it still has the expected version.</summary>
    public bool Pause(PublicationId id, bool paused, int expectedVersion, Instant now) =>
        connection.Execute(
            "update outlets set paused_at = @paused, version = version + 1, changed_at = @at where id = @id and version = @expectedVersion and revoked_at is null",
            new
            {
                id = id.Value,
                paused = paused ? (long?)now.ToUnixTimeMilliseconds() : null,
                expectedVersion,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>The last times that it was asked for, newest first.</summary>
    public IReadOnlyList<Fetch> FetchesOf(PublicationId id, int most) =>
        [
            .. connection
                .Query<(long At, string Program, long Status, long Bytes)>(
                    "select at, program, status, bytes from fetches where outlet_id = @id order by id desc limit @most",
                    new { id = id.Value, most }
                )
                .Select(row => new Fetch(Stored.At(row.At), row.Program, (int)row.Status, row.Bytes)),
        ];

    private const int MostFetches = 20;

    /// <summary>Gives the outlet its next address, if it still has the expected version. The old address is dead.</summary>
    public Publication? Renew(
        Publication publication,
        int expectedVersion,
        Func<Publication, byte[]> tokenHashOf,
        Instant now
    )
    {
        var changed = connection.Execute(
            """
            update outlets set generation = generation + 1, version = version + 1, changed_at = @at, last_fetched_at = null
            where id = @id and version = @expectedVersion and revoked_at is null
            """,
            Values(publication, now, expectedVersion)
        );
        if (changed == 0 || Find(publication.Id) is not { } renewed)
            return null;
        SetToken(renewed, tokenHashOf(renewed));
        return renewed;
    }

    /// <summary>Ends the outlet for good, if it still has the expected version.</summary>
    public bool Revoke(Publication publication, int expectedVersion, Instant now) =>
        connection.Execute(
            "update outlets set revoked_at = @at, version = version + 1 where id = @id and version = @expectedVersion and revoked_at is null",
            Values(publication, now, expectedVersion)
        ) == 1;

    /// <summary>Notes that a reader asked for it.</summary>
    public void NoteFetch(PublicationId id, Fetch fetch) =>
        connection.Execute(
            """
            update outlets set last_fetched_at = @at where id = @id;
            insert into fetches (outlet_id, at, program, status, bytes) select @id, @at, @program, @status, @bytes
                where exists (select 1 from outlets where id = @id);
            delete from fetches where outlet_id = @id and id <= (select id from fetches where outlet_id = @id order by id desc limit 1 offset @most);
            """,
            new
            {
                id = id.Value,
                at = fetch.At.ToUnixTimeMilliseconds(),
                program = fetch.Program,
                status = fetch.Status,
                bytes = fetch.Bytes,
                most = MostFetches,
            }
        );

    /// <summary>Notes that an embed is shown on a site.</summary>
    public void NoteShown(PublicationId id, string site, Instant now) =>
        connection.Execute(
            """
            insert into embed_sites (outlet_id, site, first_at, last_at) select @id, @site, @at, @at where exists (select 1 from outlets where id = @id)
                on conflict do update set last_at = max(last_at, excluded.last_at)
            """,
            new
            {
                id = id.Value,
                site,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Where an embed was shown, the latest first.</summary>
    public IReadOnlyList<ShownOn> ShownOn(PublicationId id) =>
        [
            .. connection
                .Query<(string Site, long First, long Last)>(
                    "select site, first_at, last_at from embed_sites where outlet_id = @id order by last_at desc",
                    new { id = id.Value }
                )
                .Select(row => new ShownOn(row.Site, Stored.At(row.First), Stored.At(row.Last))),
        ];

    private void SetToken(Publication publication, byte[] hash) =>
        connection.Execute(
            "update outlets set token_hash = @hash where id = @id",
            new { id = publication.Id.Value, hash }
        );

    private List<Publication> Query(string where, object values) =>
        rows.All(
            connection.Query<PublicationRow>($"select {Columns} from outlets {where}", values),
            row => row.ToOutlet(),
            row => (UnreadableKind.Outlet, row.Id, new CalendarId(row.CalendarRef), row.Name)
        );

    /// <summary>Ends an outlet that cannot be read, for good.</summary>
    public bool RevokeUnreadable(PublicationId id, CalendarId calendar, Instant now) =>
        connection.Execute(
            "update outlets set revoked_at = @at, version = version + 1 where id = @id and calendar_id = @calendar and revoked_at is null",
            new
            {
                id = id.Value,
                calendar = calendar.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Offers a feed on its class page, or no longer, if it still has the expected version.</summary>
    public bool Offer(PublicationId id, bool offered, int expectedVersion, Instant now) =>
        connection.Execute(
            "update outlets set offered = @offered, version = version + 1, changed_at = @at where id = @id and version = @expectedVersion and revoked_at is null",
            new
            {
                id = id.Value,
                offered,
                expectedVersion,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    private static object Values(Publication publication, Instant now, int expectedVersion = 0) =>
        new
        {
            id = publication.Id.Value,
            kind = Stored.Text(publication.Kind),
            calendar = publication.Calendar.Value,
            name = publication.Name,
            level = Stored.Text(publication.Level),
            descriptions = publication.Choices.Descriptions,
            materials = publication.Choices.Materials,
            joinLinks = publication.Choices.JoinLinks,
            sites = string.Join(' ', publication.Sites.Select(site => site.Value)),
            madeBy = publication.MadeBy.Value,
            offered = publication.IsOffered,
            options = OptionsText.Of(publication.Options),
            scope = Stored.Text(publication.Scope),
            group = publication.Group?.Value,
            others = string.Join(' ', publication.Others.Select(other => other.Value)),
            at = now.ToUnixTimeMilliseconds(),
            expectedVersion,
        };

    private sealed record PublicationRow(
        long Id,
        string Kind,
        long CalendarRef,
        string Name,
        string Level,
        long Descriptions,
        long Materials,
        long JoinLinks,
        string Sites,
        long Generation,
        long Version,
        long MadeBy,
        long? LastFetchedAt,
        long Offered,
        string Options,
        string Scope,
        long? GroupRef,
        long? PausedAt,
        string Others
    )
    {
        public Publication ToOutlet() =>
            new(
                new PublicationId(Id),
                Stored.As<PublicationKind>(Kind),
                new CalendarId(CalendarRef),
                Name,
                Stored.As<AccessLevel>(Level) is var level
                && level is AccessLevel.Busy or AccessLevel.Outline or AccessLevel.Full
                    ? level
                    : throw new FormatException($"“{Level}” is more than an address may show"),
                new ShowChoices(Descriptions == 1, Materials == 1, JoinLinks == 1, Public: true),
                [.. Sites.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(site => new SiteOrigin(site))],
                (int)Generation,
                (int)Version,
                new PersonId(MadeBy),
                LastFetchedAt is { } fetched ? Stored.At(fetched) : null
            )
            {
                IsOffered = Offered == 1,
                Options = OptionsText.Parse(Options),
                Scope = Stored.As<PublicationScope>(Scope),
                Group = GroupRef is { } group ? new GroupId(group) : null,
                PausedAt = PausedAt is { } paused ? Stored.At(paused) : null,
                Others =
                [
                    .. Others
                        .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                        .Select(id => new CalendarId(
                            long.Parse(id, System.Globalization.CultureInfo.InvariantCulture)
                        )),
                ],
            };
    }
}
