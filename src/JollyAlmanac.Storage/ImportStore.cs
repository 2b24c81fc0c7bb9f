using Dapper;
using JollyAlmanac.Core.Calendars;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>What an event of a file became.</summary>
/// <param name="Series">The series.</param>
/// <param name="Uid">The event's UID in its file.</param>
/// <param name="Hash">Of the event as the file had it.</param>
/// <param name="Made">The series as the file alone had it, as a <see cref="SeriesState"/> in JSON.</param>
/// <param name="Kept">What the almanac has no place for, as an iCalendar document; empty for nothing.</param>
public sealed record Import(SeriesId Series, string Uid, string Hash, string Made, string Kept)
{
    /// <summary>The series as it was made; null where that cannot be read.</summary>
    public SeriesState? State
    {
        get
        {
            try
            {
                return SeriesState.Read(Made) is [var one] ? one : null;
            }
            catch (System.Text.Json.JsonException)
            {
                return null;
            }
        }
    }
}

/// <summary>What came of files.</summary>
public sealed class ImportStore
{
    private readonly SqliteConnection connection;

    internal ImportStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>All that came to a calendar by files, also what was taken off since.</summary>
    public IReadOnlyList<Import> Of(CalendarId calendar) =>
        [.. connection.Query<(long Series, string Uid, string Hash, string Made, string Kept)>(
            "select series_id, uid, hash, made, kept from imports where calendar_id = @id", new { id = calendar.Value })
            .Select(row => new Import(new SeriesId(row.Series), row.Uid, row.Hash, row.Made, row.Kept))];

    /// <summary>Keeps what an event became, in place of what it became before.</summary>
    public void Set(CalendarId calendar, Import import) => connection.Execute(
        """
        delete from imports where calendar_id = @calendar and uid = @uid and series_id <> @series;
        insert into imports (series_id, calendar_id, uid, hash, made, kept) values (@series, @calendar, @uid, @hash, @made, @kept)
            on conflict (series_id) do update set uid = @uid, hash = @hash, made = @made, kept = @kept;
        """,
        new { series = import.Series.Value, calendar = calendar.Value, uid = import.Uid, hash = import.Hash, made = import.Made,
            kept = import.Kept });
}
