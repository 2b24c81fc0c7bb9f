using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Keeping;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>Who did what, when.</summary>
public sealed class HistoryStore
{
    private readonly SqliteConnection connection;

    internal HistoryStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Writes a line, in the same transaction as the change.</summary>
    /// <returns>Its id; later lines have higher ones.</returns>
    public long Add(Instant at, PersonId by, CalendarId? calendar, HistorySubject subject, long subjectId, string act, string summary,
        string? before, string? after) =>
        connection.ExecuteScalar<long>(
            """
            insert into history (at, person_id, calendar_id, subject, subject_id, act, summary, before, after)
            values (@at, @by, @calendar, @subject, @subjectId, @act, @summary, @before, @after)
            returning id
            """,
            new { at = at.ToUnixTimeMilliseconds(), by = by.Value, calendar = calendar?.Value, subject = Stored.Text(subject), subjectId,
            act, summary, before, after });

    /// <summary>The last lines of a calendar, newest first.</summary>
    /// <param name="calendar">The calendar.</param>
    /// <param name="most">The most that are given.</param>
    /// <param name="before">Lines before that one.</param>
    /// <param name="hidesFrom">Lines about private series that this person did not add are left out; null to leave out none.</param>
    public IReadOnlyList<HistoryLine> Last(CalendarId calendar, int most, long before = long.MaxValue, PersonId? hidesFrom = null) =>
        [.. connection.Query<HistoryRow>(
            $"""
            {Columns} where h.calendar_id = @id and h.id < @before and (@reader is null or not exists (
                select 1 from series s where s.is_private = 1 and s.made_by <> @reader and s.id = case h.subject when 'series' then h.subject_id
                    when 'material' then (select m.series_id from materials m where m.id = h.subject_id) end))
            order by h.id desc limit @most
            """,
            new { id = calendar.Value, most, before, reader = hidesFrom?.Value })
            .Select(row => row.ToLine())];

    /// <summary>What somebody did, newest first.</summary>
    public IReadOnlyList<HistoryLine> By(PersonId person, int most) =>
        [.. connection.Query<HistoryRow>($"{Columns} where h.person_id = @id order by h.id desc limit @most",
            new { id = person.Value, most })
            .Select(row => row.ToLine())];

    /// <summary>Lines of the whole school, newest first, with the calendar each is about; null for the school itself.</summary>
    /// <param name="by">Only what that person did; null for all.</param>
    /// <param name="about">Only lines about that; null for all.</param>
    /// <param name="words">Only lines that hold this, letters' case apart; empty for all.</param>
    /// <param name="before">Lines before that one.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<(HistoryLine Line, string? Calendar)> OfSchool(PersonId? by, HistorySubject? about, string words, long before,
        int most)
    {
        var where = "where h.id < @before" + (by is null ? "" : " and h.person_id = @by") + (about is null ? "" : " and h.subject = @about")
            + (words.Length == 0 ? "" : " and instr(lower(h.summary), lower(@words)) > 0");
        var values = new { before, by = by?.Value, about = about is { } subject ? Stored.Text(subject) : null, words, most };
        var titles = connection.Query<(long Id, string Title)>(
            $"select h.id, c.title from history h join calendars c on c.id = h.calendar_id {where} order by h.id desc limit @most", values)
            .ToDictionary(row => row.Id, row => row.Title);
        return [.. connection.Query<HistoryRow>($"{Columns} {where} order by h.id desc limit @most", values)
            .Select(row => (row.ToLine(), titles.GetValueOrDefault(row.Id)))];
    }

    /// <summary>Those who did something, by name.</summary>
    public IReadOnlyList<(PersonId Id, string Name)> Doers() =>
        [.. connection.Query<(long Id, string Name)>(
            "select id, name from people p where exists (select 1 from history h where h.person_id = p.id) order by name")
            .Select(row => (new PersonId(row.Id), row.Name))];

    /// <summary>
    /// Puts another name in the place of somebody's who is erased, wherever lines and attendance have it, and no address.
    /// </summary>
    public void Forget(PersonId person, string name, string email, string instead) => connection.Execute(
        """
        update history set summary = replace(summary, @name, @instead), before = null, after = null
            where subject = 'person' and subject_id = @id;
        update history set summary = replace(summary, @name, @instead) where subject <> 'series' and instr(summary, @name) > 0;
        update history set before = replace(before, @email, ''), after = replace(after, @email, '')
            where @email <> '' and (instr(before, @email) > 0 or instr(after, @email) > 0);
        update attendance set name = @instead where name = @name;
        delete from bring_ins;
        """,
        new { id = person.Value, name, email, instead });

    /// <summary>The last change of series that a person made on a calendar and that is not undone yet, or null.</summary>
    public HistoryLine? LastToUndo(CalendarId calendar, PersonId person) => connection.QuerySingleOrDefault<HistoryRow>(
        $"""
        {Columns} where h.calendar_id = @calendar and h.person_id = @person and h.before is not null and h.subject in ('series', 'material')
            and not exists (select 1 from history u where u.calendar_id = h.calendar_id and u.act = 'Undo' and u.subject_id = h.id)
        order by h.id desc limit 1
        """,
        new { calendar = calendar.Value, person = person.Value })?.ToLine();

    /// <summary>The states before and after a change of series, or null where there is no such line on the calendar.</summary>
    public (HistoryLine Line, IReadOnlyList<SeriesState> Before, IReadOnlyList<SeriesState> After)? States(CalendarId calendar, long id)
    {
        var line = connection.QuerySingleOrDefault<HistoryRow>(
            $"{Columns} where h.calendar_id = @calendar and h.id = @id and h.before is not null and h.subject = 'series'",
            new { calendar = calendar.Value, id });
        if (line is null) return null;
        var (before, after) = connection.QuerySingle<(string, string)>("select before, after from history where id = @id", new { id });
        try
        {
            return (line.ToLine(), SeriesState.Read(before), SeriesState.Read(after));
        }
        // What stands there cannot be read: there is no state to go back to.
        catch (System.Text.Json.JsonException)
        {
            return null;
        }
    }

    /// <summary>The states before and after a change of materials; null where there is no such line on the calendar.</summary>
    public (IReadOnlyList<MaterialState> Before, IReadOnlyList<MaterialState> After)? MaterialStates(CalendarId calendar, long id)
    {
        var found = connection.QuerySingleOrDefault<(string Before, string After)?>(
            "select before, after from history where calendar_id = @calendar and id = @id and before is not null and subject = 'material'",
            new { calendar = calendar.Value, id });
        try
        {
            return found is var (before, after) ? (MaterialState.Read(before), MaterialState.Read(after)) : null;
        }
        catch (System.Text.Json.JsonException)
        {
            return null;
        }
    }

    /// <summary>
    /// Whether a series first appears after a line of its calendar's history; by the order of the lines, as clocks are set.
    /// </summary>
    public bool CameAfter(SeriesId series, CalendarId calendar, long line) => connection.ExecuteScalar<long?>(
        """
        select min(h.id) from history h, json_each(case when json_valid(h.after) then h.after else '[]' end) state
        where h.calendar_id = @calendar and h.subject = 'series' and h.after is not null and json_type(state.value) = 'object'
            and json_extract(state.value, '$.id') = @series
        """,
        new { calendar = calendar.Value, series = series.Value }) > line;

    /// <summary>The newest line about one thing, or null.</summary>
    public HistoryLine? Newest(HistorySubject subject, CalendarId calendar, long subjectId) => connection.QuerySingleOrDefault<HistoryRow>(
        $"""
        {Columns}
        where h.calendar_id = @calendar and h.subject = @subject and h.subject_id = @subjectId order by h.id desc limit 1
        """,
        new { calendar = calendar.Value, subject = Stored.Text(subject), subjectId })?.ToLine();

    private const string Columns =
        "select h.at, p.name as Who, h.subject, h.subject_id as SubjectId, h.act, h.summary, h.id, h.before is not null as CanRestore from history h join people p on p.id = h.person_id";

    // With properties, as what is computed has no type where there is no row.
    private sealed class HistoryRow
    {
        public long At { get; init; }
        public string Who { get; init; } = "";
        public string Subject { get; init; } = "";
        public long SubjectId { get; init; }
        public string Act { get; init; } = "";
        public string Summary { get; init; } = "";
        public long Id { get; init; }
        public long CanRestore { get; init; }

        public HistoryLine ToLine() =>
            new(Stored.At(At), Who, Enum.TryParse<HistorySubject>(Subject, ignoreCase: true, out var subject) ? subject
            : HistorySubject.School, SubjectId, Act, Summary, Id, CanRestore == 1 && Subject == "series");
    }
}
