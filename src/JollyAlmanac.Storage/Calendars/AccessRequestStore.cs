using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>Who asks for access.</summary>
public sealed class AccessRequestStore
{
    private const string Columns =
        "select id, calendar_id as CalendarRef, person_id as PersonRef, level, why, made_at as MadeAt, answered_at as AnsweredAt, given from access_requests";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal AccessRequestStore(SqliteConnection connection, RowReader rows)
    {
        (this.connection, this.rows) = (connection, rows);
        OfPeople = new(connection, rows);
    }

    /// <summary>Whom keepers of calendars ask the coordinators to add.</summary>
    public PersonRequestStore OfPeople { get; }

    /// <summary>Keeps a request; one of the same person that still waits says this from now on.</summary>
    /// <param name="calendar">Which calendar.</param>
    /// <param name="person">Who asks.</param>
    /// <param name="level">For which level.</param>
    /// <param name="why">In their words.</param>
    /// <param name="now">When.</param>
    /// <param name="isNew">None waited before.</param>
    public AccessRequest Add(
        CalendarId calendar,
        PersonId person,
        AccessLevel level,
        string why,
        Instant now,
        out bool isNew
    )
    {
        var waiting = connection.QuerySingleOrDefault<long?>(
            "select id from access_requests where calendar_id = @calendar and person_id = @person and answered_at is null",
            new { calendar = calendar.Value, person = person.Value }
        );
        isNew = waiting is null;
        if (waiting is { } old)
        {
            connection.Execute(
                "update access_requests set level = @level, why = @why, made_at = @now where id = @old",
                new
                {
                    old,
                    level = Stored.Text(level),
                    why,
                    now = now.ToUnixTimeMilliseconds(),
                }
            );
            return Find(old)!;
        }

        var id = connection.ExecuteScalar<long>(
            """
            insert into access_requests (calendar_id, person_id, level, why, made_at) values (@calendar, @person, @level, @why, @now)
            returning id
            """,
            new
            {
                calendar = calendar.Value,
                person = person.Value,
                level = Stored.Text(level),
                why,
                now = now.ToUnixTimeMilliseconds(),
            }
        );
        return Find(id)!;
    }

    /// <summary>A request; null where there is none.</summary>
    public AccessRequest? Find(long id) => Read("where id = @id", new { id }).SingleOrDefault();

    /// <summary>Those that wait on a calendar, the oldest first.</summary>
    public IReadOnlyList<AccessRequest> WaitingOn(CalendarId calendar) =>
        Read("where calendar_id = @id and answered_at is null order by id", new { id = calendar.Value });

    /// <summary>Those that wait anywhere, the oldest first.</summary>
    public IReadOnlyList<AccessRequest> Waiting(int most) =>
        Read("where answered_at is null order by id limit @most", new { most });

    /// <summary>How many of a person wait.</summary>
    public int WaitingOf(PersonId person) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from access_requests where person_id = @id and answered_at is null",
                new { id = person.Value }
            );

    /// <summary>Answers a request, once.</summary>
    public bool Answer(long id, PersonId by, AccessLevel given, Instant now) =>
        connection.Execute(
            "update access_requests set answered_at = @now, answered_by = @by, given = @given where id = @id and answered_at is null",
            new
            {
                id,
                by = by.Value,
                now = now.ToUnixTimeMilliseconds(),
                given = given == AccessLevel.None ? null : Stored.Text(given),
            }
        ) == 1;

    private List<AccessRequest> Read(string where, object values) =>
        rows.All(
            connection.Query<RequestRow>($"{Columns} {where}", values),
            row => new AccessRequest(
                row.Id,
                new CalendarId(row.CalendarRef),
                new PersonId(row.PersonRef),
                Stored.As<AccessLevel>(row.Level),
                row.Why,
                Stored.At(row.MadeAt),
                row.AnsweredAt is { } at ? Stored.At(at) : null,
                row.Given is null ? AccessLevel.None : Stored.As<AccessLevel>(row.Given)
            ),
            row => (UnreadableKind.Grant, 0, new CalendarId(row.CalendarRef), "who asks for access")
        );

    private sealed record RequestRow(
        long Id,
        long CalendarRef,
        long PersonRef,
        string Level,
        string Why,
        long MadeAt,
        long? AnsweredAt,
        string? Given
    );
}
