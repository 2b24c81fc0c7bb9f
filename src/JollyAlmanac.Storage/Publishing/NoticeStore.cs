using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Publishing;

/// <summary>Notices, who has seen them, and the texts that a school keeps for them.</summary>
public sealed class NoticeStore
{
    private const string Columns = """
        select id, calendar_id as CalendarRef, headline, text, first_day as First, last_day as Last, only_for as OnlyFor, session, ends_with as EndsWith,
            shows_join as ShowsJoin, link_id as LinkRef, material_id as MaterialRef, version, made_by as MadeBy, made_at as MadeAt, changed_at as ChangedAt,
            withdrawn_at as WithdrawnAt
        from notices
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal NoticeStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>The notices of a calendar that were not taken down, the newest first.</summary>
    public IReadOnlyList<Notice> Of(CalendarId calendar) =>
        Query(
            "where calendar_id = @id and withdrawn_at is null order by first_day desc, id desc",
            new { id = calendar.Value }
        );

    /// <summary>The last notices of a calendar, those that were taken down, too; the newest first.</summary>
    public IReadOnlyList<Notice> Last(CalendarId calendar, int most) =>
        Query(
            "where calendar_id = @id order by first_day desc, id desc limit @most",
            new { id = calendar.Value, most }
        );

    /// <summary>A notice; null where there is none.</summary>
    public Notice? Find(NoticeId id) => Query("where id = @id", new { id = id.Value }).SingleOrDefault();

    /// <summary>Adds a notice; its id is given here.</summary>
    public Notice Add(Notice notice) =>
        notice with
        {
            Version = 1,
            Id = new NoticeId(
                connection.ExecuteScalar<long>(
                    """
                    insert into notices (calendar_id, headline, text, first_day, last_day, only_for, session, ends_with, shows_join, link_id, material_id, made_by,
                        made_at, changed_at)
                    values (@calendar, @headline, @text, @first, @last, @only, @session, @endsWith, @showsJoin, @link, @material, @madeBy, @madeAt, @changedAt)
                    returning id
                    """,
                    Values(notice)
                )
            ),
        };

    /// <summary>Changes a notice that still has the expected version.</summary>
    public bool Change(Notice notice, int expectedVersion) =>
        connection.Execute(
            """
            update notices set headline = @headline, text = @text, first_day = @first, last_day = @last, only_for = @only, session = @session, ends_with = @endsWith,
                shows_join = @showsJoin, link_id = @link, material_id = @material, version = version + 1, changed_at = @changedAt
            where id = @id and version = @expectedVersion and withdrawn_at is null
            """,
            Values(notice, expectedVersion)
        ) == 1;

    /// <summary>Takes a notice down, or puts it up again, where it still has the expected version.</summary>
    public bool SetDown(NoticeId id, bool down, int expectedVersion, Instant now) =>
        connection.Execute(
            $"update notices set withdrawn_at = @down, version = version + 1, changed_at = @at where id = @id and version = @expectedVersion and withdrawn_at is {(down ? "null" : "not null")}",
            new
            {
                id = id.Value,
                down = down ? (long?)now.ToUnixTimeMilliseconds() : null,
                at = now.ToUnixTimeMilliseconds(),
                expectedVersion,
            }
        ) == 1;

    /// <summary>Which of these somebody has seen.</summary>
    public IReadOnlySet<NoticeId> SeenBy(PersonId person, IReadOnlyCollection<NoticeId> notices) =>
        notices.Count == 0
            ? new HashSet<NoticeId>()
            : connection
                .Query<long>(
                    "select notice_id from notices_seen where person_id = @person and notice_id in @notices",
                    new { person = person.Value, notices = notices.Select(notice => notice.Value).ToArray() }
                )
                .Select(id => new NoticeId(id))
                .ToHashSet();

    /// <summary>Who has seen a notice, and when.</summary>
    public IReadOnlyDictionary<PersonId, (Instant At, bool ByMail)> Seen(NoticeId notice) =>
        connection
            .Query<(long Person, long At, long ByMail)>(
                "select person_id, at, by_mail from notices_seen where notice_id = @id",
                new { id = notice.Value }
            )
            .ToDictionary(row => new PersonId(row.Person), row => (Stored.At(row.At), row.ByMail == 1));

    /// <summary>Notes that somebody has seen a notice; the first time counts.</summary>
    public void Saw(NoticeId notice, PersonId person, Instant now, bool byMail) =>
        connection.Execute(
            """
            insert into notices_seen (notice_id, person_id, at, by_mail) select @notice, @person, @at, @byMail
                where exists (select 1 from notices where id = @notice) on conflict do nothing
            """,
            new
            {
                notice = notice.Value,
                person = person.Value,
                at = now.ToUnixTimeMilliseconds(),
                byMail,
            }
        );

    /// <summary>When somebody was last written to about a notice; null for never.</summary>
    public Instant? LastLetter(NoticeId notice) =>
        connection.ExecuteScalar<long?>(
            "select max(made_at) from letters where kind = 'notice' and about_id = @id",
            new { id = notice.Value }
        )
            is { } at
            ? Stored.At(at)
            : null;

    /// <summary>The texts that the school keeps, by name.</summary>
    public IReadOnlyList<(long Id, string Name, string Text)> Texts() =>
        [
            .. connection.Query<(long Id, string Name, string Text)>(
                "select id, name, text from notice_texts order by name collate nocase"
            ),
        ];

    /// <summary>The notices that somebody has seen, and when; the last first.</summary>
    public IReadOnlyList<(string Text, Instant At)> SeenBy(PersonId person, int most) =>
        [
            .. connection
                .Query<(string Text, long At)>(
                    "select text, at from notices_seen join notices on id = notice_id where person_id = @person order by at desc limit @most",
                    new { person = person.Value, most }
                )
                .Select(row => (row.Text, Stored.At(row.At))),
        ];

    /// <summary>Keeps a text under a name, in place of another of that name.</summary>
    public void KeepText(string name, string text) =>
        connection.Execute(
            "insert into notice_texts (name, text) values (@name, @text) on conflict (name) do update set text = @text",
            new { name, text }
        );

    /// <summary>Forgets a text.</summary>
    public bool RemoveText(long id) => connection.Execute("delete from notice_texts where id = @id", new { id }) == 1;

    private List<Notice> Query(string where, object values) =>
        rows.All(
            connection.Query<Row>($"{Columns} {where}", values),
            row => row.ToNotice(),
            row => (UnreadableKind.Notice, row.Id, new CalendarId(row.CalendarRef), "a notice")
        );

    private static object Values(Notice notice, int expectedVersion = 0) =>
        new
        {
            id = notice.Id.Value,
            calendar = notice.Calendar.Value,
            headline = notice.Headline,
            text = notice.Text,
            first = Stored.Text(notice.First),
            last = Stored.Text(notice.Last),
            only = Stored.Text(notice.OnlyFor),
            session = notice.About?.ToString(),
            endsWith = notice.EndsWithSession,
            showsJoin = notice.ShowsJoin,
            link = notice.Link?.Value,
            material = notice.Material?.Value,
            madeBy = notice.MadeBy.Value,
            madeAt = notice.MadeAt.ToUnixTimeMilliseconds(),
            changedAt = notice.ChangedAt.ToUnixTimeMilliseconds(),
            expectedVersion,
        };

    private sealed record Row(
        long Id,
        long CalendarRef,
        string Headline,
        string Text,
        string First,
        string Last,
        string? OnlyFor,
        string? Session,
        long EndsWith,
        long ShowsJoin,
        long? LinkRef,
        long? MaterialRef,
        long Version,
        long MadeBy,
        long MadeAt,
        long ChangedAt,
        long? WithdrawnAt
    )
    {
        public Notice ToNotice() =>
            new(
                new NoticeId(Id),
                new CalendarId(CalendarRef),
                Text,
                Stored.Day(First),
                Stored.Day(Last),
                (int)Version,
                new PersonId(MadeBy),
                Stored.At(MadeAt),
                Stored.At(ChangedAt)
            )
            {
                Headline = Headline,
                OnlyFor = Stored.Only(OnlyFor),
                About =
                    Session is null ? null
                    : SessionKey.TryRead(Session, out var key) ? key
                    : throw new FormatException($"“{Session}” is no session"),
                EndsWithSession = EndsWith == 1,
                ShowsJoin = ShowsJoin == 1,
                Link = LinkRef is { } link ? new Core.JoinLinks.JoinLinkId(link) : null,
                Material = MaterialRef is { } material ? new MaterialId(material) : null,
                WithdrawnAt = WithdrawnAt is { } at ? Stored.At(at) : null,
            };
    }
}
