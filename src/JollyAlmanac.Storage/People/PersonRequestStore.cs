using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>Whom keepers of calendars ask the coordinators to add to the school.</summary>
public sealed class PersonRequestStore
{
    private const string Columns =
        "select id, calendar_id as CalendarRef, email, level, until, made_by as MadeBy, made_at as MadeAt from person_requests";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal PersonRequestStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Keeps a request; one for the same address and calendar that still waits says this from now on.</summary>
    public void Add(
        CalendarId calendar,
        EmailAddress email,
        AccessLevel level,
        LocalDate? until,
        PersonId by,
        Instant now
    ) =>
        connection.Execute(
            """
            insert into person_requests (calendar_id, email, level, until, made_by, made_at) values (@calendar, @email, @level, @until, @by, @now)
            on conflict (calendar_id, email) do update set level = @level, until = @until, made_by = @by,
                made_at = @now
            """,
            new
            {
                calendar = calendar.Value,
                email = email.Value,
                level = Stored.Text(level),
                until = until is { } day ? Stored.Text(day) : null,
                by = by.Value,
                now = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>A request that waits; null where there is none.</summary>
    public PersonRequest? Waiting(long id) => Read("where id = @id", new { id }).SingleOrDefault();

    /// <summary>Those that wait, the oldest first.</summary>
    public IReadOnlyList<PersonRequest> Waiting() => Read("order by id limit 200", new { });

    /// <summary>How many of a person's wait.</summary>
    public int WaitingOf(PersonId person) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from person_requests where made_by = @id",
                new { id = person.Value }
            );

    /// <summary>How many wait.</summary>
    public int Count() => (int)connection.ExecuteScalar<long>("select count(*) from person_requests");

    /// <summary>Takes a request away that was answered: nothing of somebody who was not added stays.</summary>
    public bool Remove(long id) => connection.Execute("delete from person_requests where id = @id", new { id }) == 1;

    private List<PersonRequest> Read(string where, object values) =>
        rows.All(
            connection.Query<Row>($"{Columns} {where}", values),
            row => new PersonRequest(
                row.Id,
                new CalendarId(row.CalendarRef),
                new EmailAddress(row.Email),
                Stored.As<AccessLevel>(row.Level),
                row.Until is null ? null : Stored.Day(row.Until),
                new PersonId(row.MadeBy),
                Stored.At(row.MadeAt)
            ),
            row => (UnreadableKind.Grant, 0, new CalendarId(row.CalendarRef), "who is to be added")
        );

    private sealed record Row(
        long Id,
        long CalendarRef,
        string Email,
        string Level,
        string? Until,
        long MadeBy,
        long MadeAt
    );
}
