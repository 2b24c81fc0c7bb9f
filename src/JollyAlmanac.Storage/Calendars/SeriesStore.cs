using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>A series as it was read.</summary>
/// <param name="Series">The series.</param>
/// <param name="StateVersion">How it stood then: a number that the database raises with each change of it.</param>
/// <param name="IsWhole">All of it could be read.</param>
public sealed record ReadSeries(Series Series, long StateVersion, bool IsWhole);

/// <summary>Series, each with the changes of its sessions.</summary>
public sealed class SeriesStore
{
    private const string Columns = """
        id, calendar_id as CalendarId, uid, title, description, place, pattern, number_label as NumberLabel, first_number as FirstNumber,
        follows_id as FollowsId, join_link_id as JoinLinkId, made_by as MadeBy, version, made_at as MadeAt, changed_at as ChangedAt,
        is_private as IsPrivate, only_for as OnlyFor, is_tentative as IsTentative, standing as StateVersion
        """;

    // Where more than that changed, all of a calendar's are read in one go.
    private const int MostApart = 200;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal SeriesStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>The calendar that somebody put a series on last; null for none that is left.</summary>
    public CalendarId? LastOf(PersonId person) =>
        connection.ExecuteScalar<long?>(
            "select calendar_id from series where made_by = @id and deleted_at is null order by made_at desc, id desc limit 1",
            new { id = person.Value }
        )
            is { } calendar
            ? new CalendarId(calendar)
            : null;

    /// <summary>The series of a calendar that are not taken off, oldest first.</summary>
    public IReadOnlyList<Series> Of(CalendarId calendar) =>
        Query("calendar_id = @id and deleted_at is null", new { id = calendar.Value });

    /// <summary>The same, reading anew only those that stand otherwise than they did.</summary>
    /// <param name="calendar">The calendar.</param>
    /// <param name="before">What was read of it before.</param>
    public IReadOnlyList<ReadSeries> Of(CalendarId calendar, IReadOnlyList<ReadSeries> before)
    {
        if (before.Count == 0)
            return Read("calendar_id = @id and deleted_at is null", new { id = calendar.Value });
        var known = before
            .Where(one => one.IsWhole)
            .ToDictionary(one => (one.Series.Id.Value, one.Series.Uid, one.StateVersion));
        var stored = connection
            .Query<(long Id, string Uid, long StateVersion)>(
                "select id, uid, standing from series where calendar_id = @id and deleted_at is null order by id",
                new { id = calendar.Value }
            )
            .AsList();
        var ids = stored.Where(row => !known.ContainsKey(row)).Select(row => row.Id).ToList();
        if (ids.Count > MostApart)
            return Of(calendar, []);
        var read = (ids.Count == 0 ? [] : Read("id in @ids", new { ids })).ToDictionary(one => one.Series.Id.Value);
        return
        [
            .. stored
                .Select(row => known.GetValueOrDefault(row) ?? read.GetValueOrDefault(row.Id))
                .OfType<ReadSeries>(),
        ];
    }

    // Those of calendars that are put away or deleted meet nowhere.
    private const string InUse =
        "deleted_at is null and exists (select 1 from calendars c where c.id = series.calendar_id and c.put_away_at is null and c.deleted_at is null)";

    /// <summary>The series of all calendars in use that are not taken off.</summary>
    public ILookup<CalendarId, Series> All() => Query(InUse, null).ToLookup(series => series.Calendar);

    /// <summary>The calendars on which a session of these days was changed by hand.</summary>
    /// <param name="first">The first day.</param>
    /// <param name="last">The last day, with it.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<CalendarId> ChangedOn(LocalDate first, LocalDate last, int most) =>
        [
            .. connection
                .Query<long>(
                    """
                    select distinct s.calendar_id from changes c join series s on s.id = c.series_id
                    where s.deleted_at is null and (c.day between @first and @last or substr(c.original, 1, 10) between @first and @last)
                    order by s.calendar_id limit @most
                    """,
                    new
                    {
                        first = Stored.Text(first),
                        last = Stored.Text(last),
                        most,
                    }
                )
                .Select(id => new CalendarId(id)),
        ];

    /// <summary>The series of all calendars in use that meet in a place, letters' case apart, and are not taken off.</summary>
    public IReadOnlyList<Series> InPlace(string place) =>
        Query($"place = @place collate nocase and {InUse}", new { place });

    /// <summary>How many series there are on these calendars that are not taken off.</summary>
    public int CountOn(IReadOnlyCollection<CalendarId> calendars) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from series where calendar_id in @ids and deleted_at is null",
                new { ids = calendars.Select(id => id.Value).ToArray() }
            );

    /// <summary>The series of that id, or null; one that is taken off only where asked for.</summary>
    public Series? Find(SeriesId id, bool alsoTakenOff = false) =>
        Query(alsoTakenOff ? "id = @id" : "id = @id and deleted_at is null", new { id = id.Value }).SingleOrDefault();

    /// <summary>
    /// A series as it stands in plain columns, whatever its pattern is: on no day, to be taken off or put back to an earlier state.
    /// Null where there is none.
    /// </summary>
    public Series? FindBare(SeriesId id) =>
        connection.QuerySingleOrDefault<SeriesRow>(
            $"select {Columns} from series where id = @id",
            new { id = id.Value }
        )
            is { } row
            ? (row with { OnlyFor = null }).ToSeries(Nowhere)
            : null;

    private static readonly MeetingPattern Nowhere = new(
        new Repeat.OnDates([new LocalDate(2000, 1, 1)]),
        new SessionTime.AllDay(),
        DateTimeZone.Utc,
        new LocalDate(2000, 1, 1),
        new Extent.Open()
    );

    /// <summary>The series that carry a series on and are not taken off: they lose or get back what they follow.</summary>
    public int TouchFollowers(SeriesId id, Instant now) =>
        connection.Execute(
            "update series set version = version + 1, changed_at = @at where follows_id = @id and deleted_at is null",
            new { id = id.Value, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>Whether any series anywhere has that name in iCalendar.</summary>
    public bool HasUid(string uid) =>
        connection.ExecuteScalar<long>("select exists (select 1 from series where uid = @uid)", new { uid }) == 1;

    /// <summary>The series of a calendar that were taken off, by their names in iCalendar.</summary>
    public IReadOnlyDictionary<string, SeriesId> TakenOff(CalendarId calendar) =>
        connection
            .Query<(string Uid, long Id)>(
                "select uid, id from series where calendar_id = @id and deleted_at is not null",
                new { id = calendar.Value }
            )
            .ToDictionary(row => row.Uid, row => new SeriesId(row.Id));

    /// <summary>Whether a series is taken off.</summary>
    public bool IsTakenOff(SeriesId id) =>
        connection.ExecuteScalar<long?>("select deleted_at from series where id = @id", new { id = id.Value })
            is not null;

    /// <summary>Adds a series; its id is given here, its version is 1.</summary>
    public Series Add(Series series)
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into series (calendar_id, uid, title, description, place, pattern, term_id, number_label, first_number, follows_id,
                join_link_id, made_by, version, made_at, changed_at, is_private, only_for, is_tentative)
            values (@calendar, @uid, @title, @description, @place, @pattern, @term, @label, @first, @follows, @link, @madeBy, 1, @madeAt,
                @changedAt, @private, @only, @tentative) returning id
            """,
            Values(series)
        );
        var added = series with { Id = new SeriesId(id), Version = 1 };
        AddChanges(added);
        return added;
    }

    /// <summary>Changes a series and its sessions' changes if it still has the expected version, which then rises by one.</summary>
    /// <returns>False where somebody else was faster or it was taken off; nothing is changed then.</returns>
    public bool Change(Series series, int expectedVersion)
    {
        var changed =
            connection.Execute(
                """
                update series set title = @title, description = @description, place = @place, pattern = @pattern, term_id = @term,
                    number_label = @label, is_private = @private, only_for = @only, is_tentative = @tentative,
                    first_number = @first, follows_id = @follows, join_link_id = @link, version = version + 1, changed_at = @changedAt
                where id = @id and version = @expectedVersion and deleted_at is null
                """,
                Values(series, expectedVersion)
            ) == 1;
        if (!changed)
            return false;
        // What cannot be read stays where it is, for somebody who can.
        var stored = connection
            .Query<ChangeRow>(ChangeColumns + " where series_id = @id", new { id = series.Id.Value })
            .AsList();
        var readable = rows.All(stored, row => row.ToChange(), row => Named(row, series.Calendar, series.Title))
            .Select(change => Stored.Text(change.Original))
            .ToHashSet();
        var kept = stored.Select(row => row.Original).Where(original => !readable.Contains(original)).ToHashSet();
        connection.Execute(
            "delete from changes where series_id = @id and original in @readable",
            new { id = series.Id.Value, readable }
        );
        AddChanges(
            series with
            {
                Changes = [.. series.Changes.Where(change => !kept.Contains(Stored.Text(change.Original)))],
            }
        );
        if (stored.Count > 0 || series.Changes.Length > 0)
            FindByChanges(series.Id);
        return true;
    }

    /// <summary>Moves a series to another calendar, if it still has the expected version, which then rises by one.</summary>
    public bool MoveTo(SeriesId id, CalendarId calendar, int expectedVersion, Instant now) =>
        connection.Execute(
            """
            update series set calendar_id = @calendar, version = version + 1, changed_at = @at
            where id = @id and version = @expectedVersion and deleted_at is null
            """,
            new
            {
                id = id.Value,
                calendar = calendar.Value,
                expectedVersion,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Takes a series off, or brings it back, if it still has the expected version, which then rises by one.</summary>
    public bool SetTakenOff(SeriesId id, bool takenOff, int expectedVersion, Instant now) =>
        connection.Execute(
            $"""
            update series set deleted_at = @deleted, version = version + 1, changed_at = @at
            where id = @id and version = @expectedVersion and deleted_at is {(takenOff ? "null" : "not null")}
            """,
            new
            {
                id = id.Value,
                expectedVersion,
                at = now.ToUnixTimeMilliseconds(),
                deleted = takenOff ? (long?)now.ToUnixTimeMilliseconds() : null,
            }
        ) == 1;

    // What single sessions are called, and what is noted of them, is found by its words, too.
    private void FindByChanges(SeriesId id) =>
        connection.Execute(
            """
            update found_series set words = coalesce((select group_concat(coalesce(c.title, '') || ' ' || coalesce(c.place, '') || ' ' || c.note, ' ')
                from changes c where c.series_id = @id), '') where rowid = @id
            """,
            new { id = id.Value }
        );

    private void AddChanges(Series series)
    {
        if (series.Changes.IsEmpty)
            return;
        connection.Execute(
            "insert into changes (series_id, original, standing, day, time, title, place, note, link_id, entry, is_tentative) values (@series, @original, @standing, @day, @time, @title, @place, @note, @link, @entry, @tentative)",
            series
                .Changes.Select(change => (change, text: ChangeText.Of(change)))
                .Select(one => new
                {
                    series = series.Id.Value,
                    original = one.text.Original,
                    standing = Stored.Text(one.change.Status),
                    day = one.text.Day,
                    time = one.text.Time,
                    title = one.text.Title,
                    place = one.text.Place,
                    note = one.text.Note,
                    link = one.text.Link,
                    entry = one.text.Entry,
                    tentative = one.text.Tentative,
                })
        );
    }

    private List<Series> Query(string where, object? values) => [.. Read(where, values).Select(one => one.Series)];

    private List<ReadSeries> Read(string where, object? values)
    {
        var found = connection
            .Query<SeriesRow>($"select {Columns} from series where {where} order by id", values)
            .AsList();
        if (found.Count == 0)
            return [];
        var changes = connection
            .Query<ChangeRow>(
                $"{ChangeColumns} where series_id in (select id from series where {where}) order by series_id, original",
                values
            )
            .ToLookup(row => row.SeriesId);
        return rows.All(
            found,
            row =>
            {
                var own = rows.All(
                    changes[row.Id],
                    change => change.ToChange(),
                    change => Named(change, new CalendarId(row.CalendarId), row.Title)
                );
                return new ReadSeries(
                    row.ToSeries(PatternText.Parse(row.Pattern).ToPattern()) with
                    {
                        Changes = [.. own],
                    },
                    row.StateVersion,
                    own.Count == changes[row.Id].Count()
                );
            },
            row => (UnreadableKind.Series, row.Id, new CalendarId(row.CalendarId), row.Title)
        );
    }

    private const string ChangeColumns =
        "select series_id as SeriesId, original, standing, day, time, title, place, note, link_id as Link, entry, is_tentative as IsTentative from changes";

    private static (UnreadableKind, long, CalendarId?, string) Named(
        ChangeRow row,
        CalendarId calendar,
        string title
    ) => (UnreadableKind.Change, row.SeriesId, calendar, $"{title}, {row.Original}");

    private static object Values(Series series, int expectedVersion = 0) =>
        new
        {
            id = series.Id.Value,
            calendar = series.Calendar.Value,
            uid = series.Uid,
            title = series.Title,
            description = series.Description,
            place = series.Place,
            pattern = PatternText.Of(series.Pattern).ToString(),
            term = (series.Pattern.Extent as Extent.WithTerm)?.Term.Value,
            label = series.NumberLabel,
            @private = series.IsPrivate,
            only = Stored.Text(series.OnlyFor),
            tentative = series.IsTentative,
            first = series.FirstNumber,
            follows = series.Follows?.Value,
            link = series.JoinLink?.Value,
            madeBy = series.MadeBy.Value,
            madeAt = series.MadeAt.ToUnixTimeMilliseconds(),
            changedAt = series.ChangedAt.ToUnixTimeMilliseconds(),
            expectedVersion,
        };

    private sealed record ChangeRow(
        long SeriesId,
        string Original,
        string Standing,
        string? Day,
        string? Time,
        string? Title,
        string? Place,
        string Note,
        long? Link,
        string? Entry,
        long? IsTentative
    )
    {
        public Change ToChange() =>
            new ChangeText(
                Original,
                Stored.As<SessionStatus>(Standing),
                Day,
                Time,
                Title,
                Place,
                Note,
                Link,
                Entry,
                IsTentative is { } tentative ? tentative == 1 : null
            ).ToChange();
    }

    private sealed record SeriesRow(
        long Id,
        long CalendarId,
        string Uid,
        string Title,
        string Description,
        string Place,
        string Pattern,
        string NumberLabel,
        long FirstNumber,
        long? FollowsId,
        long? JoinLinkId,
        long MadeBy,
        long Version,
        long MadeAt,
        long ChangedAt,
        long IsPrivate,
        string? OnlyFor,
        long IsTentative,
        long StateVersion
    )
    {
        public Series ToSeries(MeetingPattern pattern) =>
            new(
                new SeriesId(Id),
                new CalendarId(CalendarId),
                Uid,
                Title,
                Description,
                Place,
                pattern,
                JoinLinkId is { } link ? new JoinLinkId(link) : null,
                new PersonId(MadeBy),
                (int)Version,
                Stored.At(MadeAt),
                Stored.At(ChangedAt)
            )
            {
                NumberLabel = NumberLabel,
                IsPrivate = IsPrivate == 1,
                IsTentative = IsTentative == 1,
                OnlyFor = Stored.Only(OnlyFor),
                FirstNumber = (int)FirstNumber,
                Follows = FollowsId is { } follows ? new SeriesId(follows) : null,
            };
    }
}
