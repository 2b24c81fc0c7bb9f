using System.Text.Json;
using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>
/// What is found by its words, accents and letters' case apart, each by its beginning (SQLite's FTS5). What is found may still not be the
/// reader's to see: that is asked before anything is shown or counted.
/// </summary>
public sealed class SearchStore
{
    private readonly SqliteConnection connection;

    internal SearchStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Materials on those calendars that have all of the words, the best first.</summary>
    /// <param name="words">The words, letters and digits alone.</param>
    /// <param name="calendars">The calendars.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<(MaterialId Id, CalendarId Calendar)> Materials(IReadOnlyList<string> words,
        IEnumerable<CalendarId> calendars, int most) =>
        words.Count == 0 ? [] : [.. connection.Query<(long Id, long Calendar)>(
            """
            select m.id, m.calendar_id from found_materials f join materials m on m.id = f.rowid
            where found_materials match @match and m.calendar_id in (select value from json_each(@calendars)) and m.deleted_at is null
            order by bm25(found_materials, 8.0, 3.0, 5.0, 1.0), m.id desc limit @most
            """, new { match = Match(words), calendars = Json(calendars), most })
            .Select(row => (new MaterialId(row.Id), new CalendarId(row.Calendar)))];

    /// <summary>Series on those calendars that have all of the words, in what single sessions are called, too; the best first.</summary>
    /// <param name="words">The words, letters and digits alone.</param>
    /// <param name="calendars">The calendars.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<(SeriesId Id, CalendarId Calendar)> Series(IReadOnlyList<string> words, IEnumerable<CalendarId> calendars,
        int most) =>
        words.Count == 0 ? [] : [.. connection.Query<(long Id, long Calendar)>(
            """
            select s.id, s.calendar_id from found_series f join series s on s.id = f.rowid
            where found_series match @match and s.calendar_id in (select value from json_each(@calendars)) and s.deleted_at is null
            order by bm25(found_series, 8.0, 2.0, 3.0, 4.0), s.id desc limit @most
            """, new { match = Match(words), calendars = Json(calendars), most })
            .Select(row => (new SeriesId(row.Id), new CalendarId(row.Calendar)))];

    // Each in quotes: nothing that is typed means anything to the engine.
    private static string Match(IEnumerable<string> words) => string.Join(" AND ", words.Select(word => $"\"{word}\"*"));

    private static string Json(IEnumerable<CalendarId> calendars) => JsonSerializer.Serialize(calendars.Select(one => one.Value));
}
