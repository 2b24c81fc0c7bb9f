using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Publishing;

/// <summary>Frozen copies that go by mail.</summary>
public sealed class CopyStore
{
    private readonly SqliteConnection connection;

    internal CopyStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Keeps a copy until its letters have gone, and after.</summary>
    /// <returns>Its id.</returns>
    public long Add(CalendarCopy copy) =>
        connection.ExecuteScalar<long>(
            """
            insert into copies (calendar_id, level, first_day, last_day, says, made_by, made_at, address)
            values (@calendar, @level, @first, @last, @says, @by, @at, @address) returning id
            """,
            new
            {
                calendar = copy.Calendar.Value,
                level = Stored.Text(copy.Level),
                first = Stored.Text(copy.First),
                last = Stored.Text(copy.Last),
                says = copy.Says,
                by = copy.MadeBy.Value,
                at = copy.MadeAt.ToUnixTimeMilliseconds(),
                address = copy.Address?.Value ?? "",
            }
        );

    /// <summary>How many copies of somebody's went to addresses outside the school since then.</summary>
    public int SentOutside(PersonId person, Instant since) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from copies where made_by = @id and address <> '' and made_at >= @since",
                new { id = person.Value, since = since.ToUnixTimeMilliseconds() }
            );

    /// <summary>A copy; null where there is none, or it cannot be read: then it does not go.</summary>
    public CalendarCopy? Find(long id)
    {
        if (
            connection.QuerySingleOrDefault<Row>(
                "select calendar_id as CalendarRef, level, first_day as First, last_day as Last, says, made_by as MadeBy, made_at as MadeAt, address from copies where id = @id",
                new { id }
            )
            is not { } row
        )
            return null;
        try
        {
            return new CalendarCopy(
                new CalendarId(row.CalendarRef),
                Stored.As<AccessLevel>(row.Level),
                Stored.Day(row.First),
                Stored.Day(row.Last),
                row.Says,
                new PersonId(row.MadeBy),
                Stored.At(row.MadeAt)
            )
            {
                Address = row.Address.Length > 0 ? new EmailAddress(row.Address) : null,
            };
        }
        catch (FormatException)
        {
            return null;
        }
    }

    private sealed record Row(
        long CalendarRef,
        string Level,
        string First,
        string Last,
        string Says,
        long MadeBy,
        long MadeAt,
        string Address
    );
}
