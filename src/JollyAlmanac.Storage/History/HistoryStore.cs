using System.Text.RegularExpressions;
using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.History;

/// <summary>Who did what, when.</summary>
public sealed class HistoryStore
{
    private readonly SqliteConnection connection;

    internal HistoryStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Writes a line, in the same transaction as the change.</summary>
    /// <returns>Its id; later lines have higher ones.</returns>
    /// <param name="at">When.</param>
    /// <param name="by">Who did it.</param>
    /// <param name="calendar">The calendar it is told of; null for the school.</param>
    /// <param name="subject">What kind of thing was changed.</param>
    /// <param name="subjectId">Its id.</param>
    /// <param name="act">The act.</param>
    /// <param name="summary">What was done, after the person's name.</param>
    /// <param name="before">How it was, as JSON; null where that is not kept.</param>
    /// <param name="after">How it is.</param>
    /// <param name="named">Whom the summary names.</param>
    public long Add(
        Instant at,
        PersonId by,
        CalendarId? calendar,
        HistorySubject subject,
        long subjectId,
        string act,
        string summary,
        string? before,
        string? after,
        IEnumerable<PersonId>? named = null
    )
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into history (at, person_id, calendar_id, subject, subject_id, act, summary, before, after)
            values (@at, @by, @calendar, @subject, @subjectId, @act, @summary, @before, @after)
            returning id
            """,
            new
            {
                at = at.ToUnixTimeMilliseconds(),
                by = by.Value,
                calendar = calendar?.Value,
                subject = Stored.Text(subject),
                subjectId,
                act,
                summary,
                before,
                after,
            }
        );
        foreach (var person in named?.Distinct() ?? [])
            connection.Execute(
                "insert into history_people (history_id, person_id) values (@id, @person)",
                new { id, person = person.Value }
            );
        return id;
    }

    /// <summary>The last lines of a calendar, newest first.</summary>
    /// <param name="calendar">The calendar.</param>
    /// <param name="most">The most that are given.</param>
    /// <param name="before">Lines before that one.</param>
    /// <param name="hidesFrom">
    /// Lines about private series that this person did not add, and about materials that are given later than at once, are left out, as are
    /// the lines that undid them; null to leave out none.
    /// </param>
    public IReadOnlyList<HistoryLine> Last(
        CalendarId calendar,
        int most,
        long before = long.MaxValue,
        PersonId? hidesFrom = null
    ) =>
        [
            .. connection
                .Query<HistoryRow>(
                    $"""
                    {Columns} left join history told on told.id = case when h.act = 'Undo' and h.subject = 'calendar' then h.subject_id else h.id end
                        left join materials m on told.subject = 'material' and m.id = told.subject_id
                        left join series s on s.id = case told.subject when 'series' then told.subject_id when 'material' then m.series_id end
                    where h.calendar_id = @id and h.id < @before and (@reader is null or h.person_id = @reader
                        or (ifnull(s.is_private, 0) = 0 or s.made_by = @reader) and (told.subject <> 'material' or s.made_by = @reader or m.release = 'now'))
                    order by h.id desc limit @most
                    """,
                    new
                    {
                        id = calendar.Value,
                        most,
                        before,
                        reader = hidesFrom?.Value,
                    }
                )
                .Select(row => row.ToLine()),
        ];

    /// <summary>What somebody did, newest first.</summary>
    public IReadOnlyList<HistoryLine> By(PersonId person, int most) =>
        [
            .. connection
                .Query<HistoryRow>(
                    $"{Columns} where h.person_id = @id order by h.id desc limit @most",
                    new { id = person.Value, most }
                )
                .Select(row => row.ToLine()),
        ];

    /// <summary>Lines of the whole school, newest first, with the calendar each is about; null for the school itself.</summary>
    /// <param name="by">Only what that person did; null for all.</param>
    /// <param name="about">Only lines about that; null for all.</param>
    /// <param name="words">Only lines that hold this, letters' case apart; empty for all.</param>
    /// <param name="before">Lines before that one.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<(HistoryLine Line, string? Calendar)> OfSchool(
        PersonId? by,
        HistorySubject? about,
        string words,
        long before,
        int most
    )
    {
        var where =
            "where h.id < @before"
            + (by is null ? "" : " and h.person_id = @by")
            + (about is null ? "" : " and h.subject = @about")
            + (words.Length == 0 ? "" : " and instr(lower(h.summary), lower(@words)) > 0");
        var values = new
        {
            before,
            by = by?.Value,
            about = about is { } subject ? Stored.Text(subject) : null,
            words,
            most,
        };
        var titles = connection
            .Query<(long Id, string Title)>(
                $"select h.id, c.title from history h join calendars c on c.id = h.calendar_id {where} order by h.id desc limit @most",
                values
            )
            .ToDictionary(row => row.Id, row => row.Title);
        return
        [
            .. connection
                .Query<HistoryRow>($"{Columns} {where} order by h.id desc limit @most", values)
                .Select(row => (row.ToLine(), titles.GetValueOrDefault(row.Id))),
        ];
    }

    /// <summary>Those who did something, by name.</summary>
    public IReadOnlyList<(PersonId Id, string Name)> Doers() =>
        [
            .. connection
                .Query<(long Id, string Name)>(
                    "select id, name from people p where exists (select 1 from history h where h.person_id = p.id) order by name"
                )
                .Select(row => (new PersonId(row.Id), row.Name)),
        ];

    /// <summary>
    /// Puts another name in the place of somebody's who is erased, in the lines that are about them or name them, and no address.
    /// </summary>
    /// <param name="person">Who.</param>
    /// <param name="name">What they are called; what they were called before, the lines tell.</param>
    /// <param name="email">Their address; null for none.</param>
    /// <param name="instead">What stands in its place.</param>
    public void Forget(PersonId person, string name, EmailAddress? email, string instead)
    {
        var id = person.Value;
        const string Called = ", in place of ";
        List<string> names =
        [
            name,
            .. connection
                .Query<string>(
                    "select summary from history where subject = 'person' and subject_id = @id and summary like 'is called %' || @Called || '%'",
                    new { id, Called }
                )
                .Select(said => said[(said.LastIndexOf(Called, StringComparison.Ordinal) + Called.Length)..]),
        ];
        // As a whole word: "An" is not a part of "Anneke".
        var pattern =
            $@"(?<![\p{{L}}\p{{N}}])(?:{string.Join('|', names.Where(name => name.Length > 0).OrderByDescending(name => name.Length).Select(Regex.Escape))})(?![\p{{L}}\p{{N}}])";
        foreach (
            var (line, summary) in connection
                .Query<(long, string)>(
                    """
                    select id, summary from history where subject = 'person' and subject_id = @id
                    union select h.id, h.summary from history h join history_people p on p.history_id = h.id where p.person_id = @id
                    """,
                    new { id }
                )
                .ToList()
        )
            connection.Execute(
                "update history set summary = @said where id = @line",
                new
                {
                    line,
                    said = Regex.Replace(summary, pattern, instead.Replace("$", "$$", StringComparison.Ordinal)),
                }
            );
        connection.Execute(
            """
            update history set before = null, after = null where subject = 'person' and subject_id = @id;
            update history set before = replace(before, @quoted, '""'), after = replace(after, @quoted, '""')
                where @email <> '' and (instr(before, @quoted) > 0 or instr(after, @quoted) > 0);
            update attendance set name = @instead where name in @names;
            delete from bring_ins;
            delete from history_people where person_id = @id;
            """,
            new
            {
                id,
                names,
                email = email?.Value ?? "",
                quoted = $"\"{email}\"",
                instead,
            }
        );
    }

    /// <summary>The last change of series that a person made on a calendar and that is not undone yet, or null.</summary>
    public HistoryLine? LastToUndo(CalendarId calendar, PersonId person) =>
        connection
            .QuerySingleOrDefault<HistoryRow>(
                $"""
                {Columns} where h.calendar_id = @calendar and h.person_id = @person and h.before is not null and h.subject in ('series', 'material')
                    and not exists (select 1 from history u where u.calendar_id = h.calendar_id and u.act = 'Undo' and u.subject_id = h.id)
                order by h.id desc limit 1
                """,
                new { calendar = calendar.Value, person = person.Value }
            )
            ?.ToLine();

    /// <summary>The last line of an act that somebody, or anybody, did, with how it was before; null where there is none.</summary>
    /// <param name="act">The act's name.</param>
    /// <param name="person">Who; null for anybody.</param>
    public (HistoryLine Line, string Before)? LastOf(string act, PersonId? person)
    {
        var line = connection.QuerySingleOrDefault<HistoryRow>(
            $"{Columns} where h.act = @act and h.before is not null and (@person is null or h.person_id = @person) order by h.id desc limit 1",
            new { act, person = person?.Value }
        );
        return line is null
            ? null
            : (
                line.ToLine(),
                connection.ExecuteScalar<string>("select before from history where id = @id", new { id = line.Id })!
            );
    }

    /// <summary>How things were before what somebody did by one act at one moment, by the id of each.</summary>
    public IReadOnlyList<(long Subject, string Before)> BeforeOf(string act, PersonId person, Instant at) =>
        [
            .. connection.Query<(long Subject, string Before)>(
                "select subject_id, before from history where act = @act and person_id = @person and at = @at and before is not null order by id",
                new
                {
                    act,
                    person = person.Value,
                    at = at.ToUnixTimeMilliseconds(),
                }
            ),
        ];

    /// <summary>Whether somebody did an act after that line.</summary>
    public bool IsAfter(string act, PersonId person, long line) =>
        connection.ExecuteScalar<long>(
            "select exists (select 1 from history where act = @act and person_id = @person and id > @line)",
            new
            {
                act,
                person = person.Value,
                line,
            }
        ) == 1;

    /// <summary>What somebody did by one act at one moment, over all calendars, and has not undone: the calendar, the line and the series
    /// of each.</summary>
    public IReadOnlyList<(CalendarId Calendar, long Line, SeriesId Series, string Summary)> DoneAt(
        string act,
        PersonId person,
        Instant at
    ) =>
        [
            .. connection
                .Query<(long Calendar, long Line, long Series, string Summary)>(
                    """
                    select h.calendar_id, h.id, h.subject_id, h.summary from history h where h.act = @act and h.person_id = @person and h.at = @at
                        and h.subject = 'series' and not exists (select 1 from history u where u.calendar_id = h.calendar_id and u.act = 'Undo'
                        and u.subject_id = h.id) order by h.id
                    """,
                    new
                    {
                        act,
                        person = person.Value,
                        at = at.ToUnixTimeMilliseconds(),
                    }
                )
                .Select(row => (new CalendarId(row.Calendar), row.Line, new SeriesId(row.Series), row.Summary)),
        ];

    /// <summary>The states before and after a change of series, or null where there is no such line on the calendar.</summary>
    public (HistoryLine Line, IReadOnlyList<SeriesState> Before, IReadOnlyList<SeriesState> After)? States(
        CalendarId calendar,
        long id
    )
    {
        var line = connection.QuerySingleOrDefault<HistoryRow>(
            $"{Columns} where h.calendar_id = @calendar and h.id = @id and h.before is not null and h.subject = 'series'",
            new { calendar = calendar.Value, id }
        );
        if (line is null)
            return null;
        var (before, after) = connection.QuerySingle<(string, string)>(
            "select before, after from history where id = @id",
            new { id }
        );
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
    public (IReadOnlyList<MaterialState> Before, IReadOnlyList<MaterialState> After)? MaterialStates(
        CalendarId calendar,
        long id
    )
    {
        var found = connection.QuerySingleOrDefault<(string Before, string After)?>(
            "select before, after from history where calendar_id = @calendar and id = @id and before is not null and subject = 'material'",
            new { calendar = calendar.Value, id }
        );
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
    public bool CameAfter(SeriesId series, CalendarId calendar, long line) =>
        connection.ExecuteScalar<long?>(
            """
            select min(h.id) from history h, json_each(case when json_valid(h.after) then h.after else '[]' end) state
            where h.calendar_id = @calendar and h.subject = 'series' and h.after is not null and json_type(state.value) = 'object'
                and json_extract(state.value, '$.id') = @series
            """,
            new { calendar = calendar.Value, series = series.Value }
        ) > line;

    /// <summary>The newest line about one thing, or null.</summary>
    public HistoryLine? Newest(HistorySubject subject, CalendarId calendar, long subjectId) =>
        connection
            .QuerySingleOrDefault<HistoryRow>(
                $"""
                {Columns}
                where h.calendar_id = @calendar and h.subject = @subject and h.subject_id = @subjectId order by h.id desc limit 1
                """,
                new
                {
                    calendar = calendar.Value,
                    subject = Stored.Text(subject),
                    subjectId,
                }
            )
            ?.ToLine();

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
            new(
                Stored.At(At),
                Who,
                Enum.TryParse<HistorySubject>(Subject, ignoreCase: true, out var subject)
                    ? subject
                    : HistorySubject.School,
                SubjectId,
                Act,
                Summary,
                Id,
                CanRestore == 1 && Subject == "series"
            );
    }
}
