using Dapper;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>Who is away, and when.</summary>
public sealed class AbsenceStore
{
    private const string Columns = "select a.id, a.person_id as PersonRef, a.first, a.last, a.reason from absences a";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal AbsenceStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Adds an absence.</summary>
    /// <returns>Its number.</returns>
    public long Add(PersonId person, LocalDate first, LocalDate last, string reason, PersonId by, Instant now) =>
        connection.ExecuteScalar<long>(
            """
            insert into absences (person_id, first, last, reason, made_by, made_at) values (@person, @first, @last, @reason, @by, @now)
            returning id
            """,
            new
            {
                person = person.Value,
                first = Stored.Text(first),
                last = Stored.Text(last),
                reason,
                by = by.Value,
                now = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>A person's absences that end on that day or later, the earliest first.</summary>
    public IReadOnlyList<Absence> Of(PersonId person, LocalDate from) =>
        Read(
            "where a.person_id = @person and a.last >= @from order by a.first, a.id",
            new { person = person.Value, from = Stored.Text(from) }
        );

    /// <summary>Absences on any of the days from one to another, of people who are here, the earliest first.</summary>
    /// <param name="first">The first day.</param>
    /// <param name="last">The last day.</param>
    /// <param name="most">How many at most.</param>
    public IReadOnlyList<Absence> On(LocalDate first, LocalDate last, int most) =>
        Read(
            """
            join people p on p.id = a.person_id and p.ended_at is null
            where a.last >= @first and a.first <= @last order by a.first, a.id limit @most
            """,
            new
            {
                first = Stored.Text(first),
                last = Stored.Text(last),
                most,
            }
        );

    /// <summary>Removes an absence of a person; false where there is none of theirs with that number.</summary>
    public bool Remove(PersonId person, long id) =>
        connection.Execute(
            "delete from absences where id = @id and person_id = @person",
            new { id, person = person.Value }
        ) == 1;

    private List<Absence> Read(string where, object values) =>
        rows.All(
            connection.Query<Row>($"{Columns} {where}", values),
            row => new Absence(
                row.Id,
                new PersonId(row.PersonRef),
                Stored.Day(row.First),
                Stored.Day(row.Last),
                row.Reason
            ),
            row => (UnreadableKind.Person, row.PersonRef, null, "an absence")
        );

    private sealed record Row(long Id, long PersonRef, string First, string Last, string Reason);
}
