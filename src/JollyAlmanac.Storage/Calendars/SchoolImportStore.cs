using Dapper;
using JollyAlmanac.Core.Calendars;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>A series that a file of the school was taken in to.</summary>
/// <param name="Series">The series.</param>
/// <param name="Said">What the file said of it.</param>
/// <param name="Version">The version that it had then.</param>
/// <param name="IsTakenOff">Somebody has taken it off since.</param>
public sealed record ImportedMeeting(SeriesId Series, string Said, int Version, bool IsTakenOff = false);

/// <summary>What files of the whole school said when they were last taken in.</summary>
public sealed class SchoolImportStore
{
    private readonly SqliteConnection connection;

    internal SchoolImportStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>The calendars that classes of files became, those that are put away or deleted too, by what the files know them by.</summary>
    public IReadOnlyDictionary<string, CalendarId> Classes() =>
        connection
            .Query<(string Source, long Calendar)>("select source, calendar_id from imported_classes")
            .ToDictionary(row => row.Source, row => new CalendarId(row.Calendar));

    /// <summary>The series that files were taken in to, by their class.</summary>
    public ILookup<string, ImportedMeeting> Meetings() =>
        connection
            .Query<(string Source, long Series, string Said, long Version, long IsOff)>(
                """
                select i.source, i.series_id, i.said, i.version, s.deleted_at is not null
                from imported_meetings i join series s on s.id = i.series_id order by i.series_id
                """
            )
            .ToLookup(
                row => row.Source,
                row => new ImportedMeeting(new SeriesId(row.Series), row.Said, (int)row.Version, row.IsOff == 1)
            );

    /// <summary>Notes which calendar a class became.</summary>
    public void SetClass(string source, CalendarId calendar) =>
        connection.Execute(
            "insert into imported_classes (source, calendar_id) values (@source, @id) on conflict do update set calendar_id = excluded.calendar_id",
            new { source, id = calendar.Value }
        );

    /// <summary>Notes what was said of a series.</summary>
    public void SetMeeting(string source, ImportedMeeting meeting) =>
        connection.Execute(
            """
            insert into imported_meetings (series_id, source, said, version) values (@id, @source, @said, @version)
                on conflict do update set source = excluded.source, said = excluded.said, version = excluded.version
            """,
            new
            {
                id = meeting.Series.Value,
                source,
                said = meeting.Said,
                version = meeting.Version,
            }
        );

    /// <summary>Forgets what was said of a series.</summary>
    public void Forget(SeriesId series) =>
        connection.Execute("delete from imported_meetings where series_id = @id", new { id = series.Value });

    /// <summary>Forgets which calendar a class became.</summary>
    public void Forget(CalendarId calendar) =>
        connection.Execute("delete from imported_classes where calendar_id = @id", new { id = calendar.Value });
}
