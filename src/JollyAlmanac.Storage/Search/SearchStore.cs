using System.Text.Json;
using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage.Search;

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
    public IReadOnlyList<(MaterialId Id, CalendarId Calendar)> Materials(
        IReadOnlyList<string> words,
        IEnumerable<CalendarId> calendars,
        int most
    ) =>
        [
            .. Find("found_materials", "materials", "8.0, 3.0, 5.0, 1.0", words, calendars, most)
                .Select(row => (new MaterialId(row.Id), new CalendarId(row.Calendar))),
        ];

    /// <summary>Series on those calendars that have all of the words, in what single sessions are called, too; the best first.</summary>
    /// <param name="words">The words, letters and digits alone.</param>
    /// <param name="calendars">The calendars.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<(SeriesId Id, CalendarId Calendar)> Series(
        IReadOnlyList<string> words,
        IEnumerable<CalendarId> calendars,
        int most
    ) =>
        [
            .. Find("found_series", "series", "8.0, 2.0, 3.0, 4.0", words, calendars, most)
                .Select(row => (new SeriesId(row.Id), new CalendarId(row.Calendar))),
        ];

    // Of so many and more, to weigh each against the others costs more than it tells: then those that are called so come first, and the
    // newest of them.
    private const int Few = 2_000;

    private IReadOnlyList<(long Id, long Calendar)> Find(
        string words,
        string of,
        string weights,
        IReadOnlyList<string> looked,
        IEnumerable<CalendarId> calendars,
        int most
    )
    {
        if (looked.Count == 0)
            return [];
        var match = Match(looked);
        var asked = new
        {
            match,
            called = $"title : ({match})",
            calendars = Json(calendars),
            most,
            first = most * 4,
        };
        IReadOnlyList<(long Id, long Calendar)> Ask(string found, string order) =>
            connection
                .Query<(long Id, long Calendar)>(
                    $"""
                    select one.id, one.calendar_id from ({found}) f join {of} one on one.id = f.id
                    where one.calendar_id in (select value from json_each(@calendars)) and one.deleted_at is null order by {order} limit @most
                    """,
                    asked
                )
                .AsList();
        bool Has(int count, string which) =>
            connection.ExecuteScalar<long>(
                $"select count(*) from (select 1 from {words} where {words} match {which} limit {count})",
                asked
            ) == count;
        if (!Has(Few, "@match"))
            return Ask(
                $"select rowid as id, bm25({words}, {weights}) as rank from {words} where {words} match @match",
                "f.rank, one.id desc"
            );
        var all = new List<(long Id, long Calendar)>();
        foreach (var which in new[] { "@called", "@match" })
        {
            var newest = Ask(
                $"select rowid as id from {words} where {words} match {which} order by rowid desc limit @first",
                "one.id desc"
            );
            // Where those were not enough of this reader's, all are looked at; where there are no more, so many there are.
            if (newest.Count < most && Has(asked.first, which))
                newest = Ask($"select rowid as id from {words} where {words} match {which}", "one.id desc");
            all.AddRange(newest.Except(all));
            if (all.Count >= most)
                break;
        }

        return all.Count > most ? all[..most] : all;
    }

    // Each in quotes: nothing that is typed means anything to the engine.
    private static string Match(IEnumerable<string> words) =>
        string.Join(" AND ", words.Select(word => $"\"{word}\"*"));

    private static string Json(IEnumerable<CalendarId> calendars) =>
        JsonSerializer.Serialize(calendars.Select(one => one.Value));
}
