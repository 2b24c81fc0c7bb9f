using Dapper;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>Links by which people show when they are free.</summary>
public sealed class FreeLinkStore
{
    private const string Columns =
        "select id, person_id as Person, first, last, day_from as DayFrom, day_to as DayTo from free_links";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal FreeLinkStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Adds one; its token's hash follows, as the token is made of its id.</summary>
    public long Add(FreeLink link, Instant now) =>
        connection.ExecuteScalar<long>(
            """
            insert into free_links (person_id, token_hash, first, last, day_from, day_to, made_at)
            values (@person, randomblob(32), @first, @last, @from, @to, @at) returning id
            """,
            new
            {
                person = link.Person.Value,
                first = Stored.Text(link.First),
                last = Stored.Text(link.Last),
                from = Stored.Text(link.From),
                to = Stored.Text(link.To),
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Keeps the hash of a link's token.</summary>
    public void SetToken(long id, byte[] hash) =>
        connection.Execute("update free_links set token_hash = @hash where id = @id", new { id, hash });

    /// <summary>The one whose token hashes to this and that has not ended; null for none.</summary>
    public FreeLink? Find(byte[] hash, LocalDate today) =>
        Query(
                "where token_hash = @hash and ended_at is null and last >= @today",
                new { hash, today = Stored.Text(today) }
            )
            .SingleOrDefault();

    /// <summary>Somebody's that have not ended, the newest first.</summary>
    public IReadOnlyList<FreeLink> Of(PersonId person, LocalDate today) =>
        Query(
            "where person_id = @person and ended_at is null and last >= @today order by id desc",
            new { person = person.Value, today = Stored.Text(today) }
        );

    /// <summary>Ends one of somebody's; false where there is none of theirs.</summary>
    public bool End(PersonId person, long id, Instant now) =>
        connection.Execute(
            "update free_links set ended_at = @at where id = @id and person_id = @person and ended_at is null",
            new
            {
                id,
                person = person.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    private List<FreeLink> Query(string where, object values) =>
        rows.All(
            connection.Query<Row>($"{Columns} {where}", values),
            row => new FreeLink(
                row.Id,
                new PersonId(row.Person),
                Stored.Day(row.First),
                Stored.Day(row.Last),
                Stored.Time(row.DayFrom),
                Stored.Time(row.DayTo)
            ),
            row => (UnreadableKind.GuestLink, row.Id, null, "a link to free times")
        );

    private sealed record Row(long Id, long Person, string First, string Last, string DayFrom, string DayTo);
}
