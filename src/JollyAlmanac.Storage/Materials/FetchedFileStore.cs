using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Materials;

/// <summary>A file that was fetched by its address.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Address">Absolute; may be a key, so it is for few.</param>
/// <param name="ETag">What its host knows this state by; empty for nothing.</param>
/// <param name="LastModified">When it was changed, as its host says; empty for nothing.</param>
/// <param name="By">Who fetched it first.</param>
/// <param name="FetchedAt">When it was asked for last.</param>
/// <param name="ChangedAt">Since when it is as it is.</param>
public sealed record FetchedRow(
    long Id,
    string Address,
    string ETag,
    string LastModified,
    PersonId By,
    Instant FetchedAt,
    Instant ChangedAt
);

/// <summary>Files that were fetched by their address.</summary>
public sealed class FetchedFileStore
{
    // What is larger is fetched anew each time.
    private const int LargestKept = 2 * 1024 * 1024;

    private readonly SqliteConnection connection;

    internal FetchedFileStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Those of a calendar, or of the school's time where null; the last fetched first.</summary>
    public IReadOnlyList<FetchedRow> Of(CalendarId? calendar) =>
        [
            .. connection
                .Query<(
                    long Id,
                    string Address,
                    string ETag,
                    string LastModified,
                    long By,
                    long FetchedAt,
                    long ChangedAt
                )>(
                    """
                    select id, address, etag, last_modified, fetched_by, fetched_at, changed_at from fetched_files
                    where ifnull(calendar_id, 0) = @id order by fetched_at desc, id desc
                    """,
                    new { id = calendar?.Value ?? 0 }
                )
                .Select(row => new FetchedRow(
                    row.Id,
                    row.Address,
                    row.ETag,
                    row.LastModified,
                    new PersonId(row.By),
                    Stored.At(row.FetchedAt),
                    Stored.At(row.ChangedAt)
                )),
        ];

    /// <summary>What a file was the last time.</summary>
    public byte[] ContentOf(long id) =>
        connection.ExecuteScalar<byte[]>("select content from fetched_files where id = @id", new { id }) ?? [];

    /// <summary>Keeps a file, in place of what it was before.</summary>
    public void Set(
        CalendarId? calendar,
        string address,
        string etag,
        string lastModified,
        byte[] content,
        PersonId by,
        Instant now,
        Instant changedAt
    ) =>
        connection.Execute(
            """
            insert into fetched_files (calendar_id, address, etag, last_modified, content, fetched_by, fetched_at, changed_at)
                values (@calendar, @address, @etag, @lastModified, @content, @by, @now, @changedAt)
                on conflict (ifnull(calendar_id, 0), address) do update set etag = @etag, last_modified = @lastModified, content = @content,
                    fetched_at = @now, changed_at = @changedAt
            """,
            new
            {
                calendar = calendar?.Value,
                address,
                etag = content.Length > LargestKept ? "" : etag,
                lastModified = content.Length > LargestKept ? "" : lastModified,
                content = content.Length > LargestKept ? [] : content,
                by = by.Value,
                now = now.ToUnixTimeMilliseconds(),
                changedAt = changedAt.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Forgets one.</summary>
    public void Remove(long id) => connection.Execute("delete from fetched_files where id = @id", new { id });
}
