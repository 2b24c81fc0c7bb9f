using System.Text.Json;
using Dapper;
using JollyAlmanac.Core.Calendars;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>What an event of a file became.</summary>
/// <param name="Series">The series.</param>
/// <param name="Uid">The event's UID in its file.</param>
/// <param name="Hash">Of the event as the file had it.</param>
/// <param name="Made">The series as the file alone had it, as a <see cref="SeriesState"/> in JSON.</param>
/// <param name="Kept">What the almanac has no place for, as an iCalendar document; empty for nothing.</param>
/// <param name="Attached">What the file attached, each by a key of its own.</param>
public sealed record Import(
    SeriesId Series,
    string Uid,
    string Hash,
    string Made,
    string Kept,
    IReadOnlySet<string> Attached
)
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
            catch (JsonException)
            {
                return null;
            }
        }
    }
}

/// <summary>What came of files, and since which line of the history.</summary>
public sealed class ImportStore
{
    private const string Columns = "series_id, uid, hash, made, kept, attached";

    // A file that comes every night and says something else each time is undone a few times at most.
    private const int MostTimes = 20;

    private readonly SqliteConnection connection;

    internal ImportStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>All that came to a calendar by files and stands so, also what was taken off since.</summary>
    public IReadOnlyList<Import> Of(CalendarId calendar) =>
        [
            .. connection
                .Query<(long Series, string Uid, string Hash, string Made, string Kept, string Attached)>(
                    $"""
                    select {Columns} from imports as one where calendar_id = @id and is_none = 0
                        and line_id = (select max(line_id) from imports where series_id = one.series_id)
                    """,
                    new { id = calendar.Value }
                )
                .Select(row => new Import(
                    new SeriesId(row.Series),
                    row.Uid,
                    row.Hash,
                    row.Made,
                    row.Kept,
                    Keys(row.Attached)
                )),
        ];

    // What cannot be read is nothing: at worst something that was removed comes back.
    private static HashSet<string> Keys(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<HashSet<string>>(json) ?? [];
        }
        catch (JsonException)
        {
            return [];
        }
    }

    /// <summary>Keeps what an event became.</summary>
    /// <param name="calendar">The calendar.</param>
    /// <param name="import">What it became.</param>
    /// <param name="line">The line of the history that tells it.</param>
    public void Set(CalendarId calendar, Import import, long line)
    {
        connection.Execute(
            $"""
            delete from imports where calendar_id = @calendar and uid = @uid and series_id <> @series;
            insert into imports ({Columns}, calendar_id, line_id) values (@series, @uid, @hash, @made, @kept, @attached, @calendar, @line);
            """,
            new
            {
                series = import.Series.Value,
                calendar = calendar.Value,
                line,
                uid = import.Uid,
                hash = import.Hash,
                made = import.Made,
                kept = import.Kept,
                attached = JsonSerializer.Serialize(import.Attached),
            }
        );
        Forget(import.Series);
    }

    /// <summary>Moves what files said of a series to another calendar.</summary>
    public void MoveAll(SeriesId series, CalendarId calendar) =>
        connection.Execute(
            "update imports set calendar_id = @calendar where series_id = @series",
            new { series = series.Value, calendar = calendar.Value }
        );

    /// <summary>Lets what files said of a series be again what they had said by an earlier line of the history.</summary>
    /// <param name="series">The series; nothing where none came by a file.</param>
    /// <param name="by">The last line that counts.</param>
    /// <param name="line">The line that tells of going back.</param>
    public void UndoTo(SeriesId series, long by, long line)
    {
        connection.Execute(
            $"""
            insert into imports ({Columns}, calendar_id, line_id, is_none)
                select {Columns}, calendar_id, @line, is_none or line_id > @by from imports where series_id = @series
                order by line_id > @by, case when line_id > @by then line_id else -line_id end limit 1
            """,
            new
            {
                series = series.Value,
                by,
                line,
            }
        );
        Forget(series);
    }

    private void Forget(SeriesId series) =>
        connection.Execute(
            """
            delete from imports where series_id = @series and line_id not in
                (select line_id from imports where series_id = @series order by line_id desc limit @MostTimes)
            """,
            new { series = series.Value, MostTimes }
        );
}
