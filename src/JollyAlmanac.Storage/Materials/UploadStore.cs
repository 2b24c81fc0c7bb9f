using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Materials;

/// <summary>Files on their way in, and those that nothing refers to any more.</summary>
public sealed class UploadStore
{
    private readonly SqliteConnection connection;

    internal UploadStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Begins one; its id is given here.</summary>
    public UploadedFile Add(UploadedFile upload, Instant now) =>
        upload with
        {
            Id = connection.ExecuteScalar<long>(
                """
                insert into uploads (key, person_id, calendar_id, file_name, size, touched_at)
                values (@key, @person, @calendar, @name, @size, @at) returning id
                """,
                new
                {
                    key = upload.Key.Value,
                    person = upload.Person.Value,
                    calendar = upload.Calendar.Value,
                    name = upload.Name,
                    size = upload.Size,
                    at = now.ToUnixTimeMilliseconds(),
                }
            ),
        };

    /// <summary>The one of that key; null where there is none.</summary>
    public UploadedFile? Find(UploadKey key) =>
        connection
            .QuerySingleOrDefault<UploadRow>($"{Columns} from uploads where key = @key", new { key = key.Value })
            ?.ToUpload();

    /// <summary>What one is found by beside its name.</summary>
    public string WordsOf(UploadKey key) =>
        connection.ExecuteScalar<string?>("select words from uploads where key = @key", new { key = key.Value }) ?? "";

    /// <summary>How many somebody has under way, and the bytes they will have.</summary>
    public (int Count, long Bytes) Of(PersonId person) =>
        connection.QuerySingle<(long, long)>(
            "select count(*), coalesce(sum(size), 0) from uploads where person_id = @id",
            new { id = person.Value }
        )
            is var (count, bytes)
            ? ((int)count, bytes)
            : default;

    /// <summary>All that are under way, whoever sends them.</summary>
    public IReadOnlyList<UploadedFile> UnderWay() =>
        [.. connection.Query<UploadRow>($"{Columns} from uploads").Select(row => row.ToUpload())];

    private const string Columns =
        "select id, key, person_id as PersonRef, calendar_id as CalendarRef, file_name as FileName, size, content_hash as ContentHash, media_type as MediaType";

    /// <summary>Notes that more of it came.</summary>
    public void Touch(UploadKey key, Instant now) =>
        connection.Execute(
            "update uploads set touched_at = @at where key = @key",
            new { key = key.Value, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>Notes that all of it came and that it is taken, and what it is found by.</summary>
    public void Taken(UploadKey key, MaterialContent.StoredFile file, string words, Instant now) =>
        connection.Execute(
            "update uploads set content_hash = @hash, media_type = @type, words = @words, touched_at = @at where key = @key",
            new
            {
                key = key.Value,
                hash = file.Hash,
                type = file.MediaType,
                words,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Ends one: it is attached, or was not taken.</summary>
    public void End(UploadKey key) =>
        connection.Execute("delete from uploads where key = @key", new { key = key.Value });

    /// <summary>Ends those that nobody carried on since then.</summary>
    /// <returns>Their keys.</returns>
    public IReadOnlyList<string> EndOld(Instant before) =>
        [
            .. connection.Query<string>(
                "delete from uploads where touched_at < @at returning key",
                new { at = before.ToUnixTimeMilliseconds() }
            ),
        ];

    /// <summary>The hashes of some files whose words are still to be read.</summary>
    public IReadOnlyList<string> Unread() =>
        [.. connection.Query<string>("select content_hash from unread_files limit 20")];

    /// <summary>Keeps the words that were read in a file, for all materials that are it.</summary>
    public void Read(string hash, string words) =>
        connection.Execute(
            """
            delete from unread_files where content_hash = @hash;
            update materials set words = @words where content_hash = @hash and media_type not glob 'text/*' and words is not @words;
            """,
            new { hash, words }
        );

    /// <summary>Since when nothing has referred to files, as it was noted.</summary>
    public IReadOnlyDictionary<string, Instant> Unused() =>
        connection
            .Query<(string Hash, long Since)>("select content_hash, since from unused_files")
            .ToDictionary(row => row.Hash, row => Stored.At(row.Since));

    /// <summary>Notes that nothing refers to a file, since when; null where something does again, or it is gone.</summary>
    public void Unused(string hash, Instant? since)
    {
        if (since is { } at)
            connection.Execute(
                "insert or ignore into unused_files (content_hash, since) values (@hash, @at)",
                new { hash, at = at.ToUnixTimeMilliseconds() }
            );
        else
            connection.Execute("delete from unused_files where content_hash = @hash", new { hash });
    }

    private sealed record UploadRow(
        long Id,
        string Key,
        long PersonRef,
        long CalendarRef,
        string FileName,
        long Size,
        string? ContentHash,
        string? MediaType
    )
    {
        public UploadedFile ToUpload() =>
            new(
                Id,
                new UploadKey(Key),
                new PersonId(PersonRef),
                new CalendarId(CalendarRef),
                FileName,
                Size,
                ContentHash is null ? null : new MaterialContent.StoredFile(ContentHash, FileName, MediaType!, Size)
            );
    }
}
