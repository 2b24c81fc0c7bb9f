using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Files;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Materials;

/// <summary>Materials. The bytes of files are in the <see cref="FileVault"/>.</summary>
public sealed class MaterialStore
{
    private const string Columns = """
        m.id, m.calendar_id as CalendarRef, m.series_id as SeriesRef, m.session_start as SessionStart, m.key, m.title, m.note, m.address,
            m.content_hash as ContentHash, m.file_name as FileName, m.media_type as MediaType, m.size, m.audience, m.only_for as OnlyFor,
            m.is_recording as IsRecording, m.position, m.release, m.last_day as LastDay, m.due, m.heading, m.version, m.edition, m.made_at as MadeAt
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal MaterialStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>The materials on a calendar, oldest first.</summary>
    public IReadOnlyList<Material> Of(CalendarId calendar) =>
        Read(
            connection.Query<MaterialRow>(
                $"select {Columns} from materials m where m.calendar_id = @id and m.deleted_at is null order by m.id",
                new { id = calendar.Value }
            )
        );

    /// <summary>How many materials are on a calendar.</summary>
    public int CountOf(CalendarId calendar) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from materials where calendar_id = @id and deleted_at is null",
                new { id = calendar.Value }
            );

    /// <summary>The material of that key, unless it or its series was taken off.</summary>
    public Material? Find(MaterialKey key) =>
        Read(
                connection.Query<MaterialRow>(
                    $"""
                    select {Columns} from materials m join calendars c on c.id = m.calendar_id left join series s on s.id = m.series_id
                    where m.key = @key and m.deleted_at is null and s.deleted_at is null and c.deleted_at is null
                    """,
                    new { key = key.Value }
                )
            )
            .SingleOrDefault();

    /// <summary>Whether there was a material of that key that is taken off, or whose series or calendar is gone.</summary>
    public bool WasThere(MaterialKey key) =>
        connection.ExecuteScalar<bool>(
            """
            select exists (select 1 from materials m join calendars c on c.id = m.calendar_id left join series s on s.id = m.series_id
                where m.key = @key and coalesce(m.deleted_at, s.deleted_at, c.deleted_at) is not null)
            """,
            new { key = key.Value }
        );

    /// <summary>The material of that id, also where it is taken off.</summary>
    public (Material Material, bool IsTakenOff)? FindAny(MaterialId id) =>
        Read(
                connection.Query<MaterialRow>(
                    $"select {Columns} from materials m where m.id = @id",
                    new { id = id.Value }
                )
            )
            .SingleOrDefault()
            is { } material
            ? (
                material,
                connection.ExecuteScalar<bool>(
                    "select deleted_at is not null from materials where id = @id",
                    new { id = id.Value }
                )
            )
            : null;

    private List<Material> Read(IEnumerable<MaterialRow> found) =>
        rows.All(
            found,
            row => row.ToMaterial(),
            row => (UnreadableKind.Material, row.Id, new CalendarId(row.CalendarRef), row.Title)
        );

    /// <summary>Adds a material after those beside it; its id is given here.</summary>
    /// <param name="material">The material.</param>
    /// <param name="by">Who.</param>
    /// <param name="now">When.</param>
    /// <param name="words">What it is found by beside its names; may be empty.</param>
    public Material Add(Material material, PersonId by, Instant now, string words = "")
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into materials (calendar_id, series_id, session_start, key, title, note, address, content_hash, file_name, media_type, size,
                audience, only_for, is_recording, position, release, last_day, due, heading, words, made_by, made_at)
            values (@calendar, @series, @session, @key, @title, @note, @address, @hash, @fileName, @mediaType, @size, @audience, @only,
                @recording,
                coalesce((select max(position) + 1 from materials where calendar_id = @calendar and series_id is @series
                    and session_start is @session and deleted_at is null), 0),
                @release, @lastDay, @due, @heading, @words, @by, @at) returning id
            """,
            Values(material, words, by, now)
        );
        return material with { Id = new MaterialId(id), MadeAt = now };
    }

    /// <summary>Keeps a changed material, taken off or not, where it still has the expected version, which then rises by one.</summary>
    /// <param name="material">The material as it is to be.</param>
    /// <param name="takenOff">Whether it is taken off then.</param>
    /// <param name="expectedVersion">Its version before.</param>
    /// <param name="now">When.</param>
    public bool Change(Material material, bool takenOff, int expectedVersion, Instant now)
    {
        var values = Values(material, "", default, now);
        values.Add("id", material.Id.Value);
        values.Add("expected", expectedVersion);
        values.Add("position", material.Position);
        values.Add("edition", material.Edition);
        values.Add("takenOff", takenOff);
        return connection.Execute(
                """
                update materials set calendar_id = @calendar, series_id = @series, session_start = @session, title = @title, note = @note,
                    address = @address, content_hash = @hash, file_name = @fileName, media_type = @mediaType, size = @size, audience = @audience,
                    only_for = @only, is_recording = @recording, position = @position, release = @release, last_day = @lastDay, due = @due,
                    heading = @heading, edition = @edition,
                    deleted_at = case when @takenOff then coalesce(deleted_at, @at) end, version = version + 1
                where id = @id and version = @expected
                """,
                values
            ) == 1;
    }

    /// <summary>Keeps what a material is before it is replaced, and what its next content is found by.</summary>
    public void Replace(Material before, string words, PersonId by, Instant now)
    {
        var file = before.Content as MaterialContent.StoredFile;
        connection.Execute(
            """
            insert or replace into editions (material_id, edition, address, content_hash, file_name, media_type, size, replaced_by, replaced_at)
            values (@id, @edition, @address, @hash, @fileName, @mediaType, @size, @by, @at);
            update materials set words = @words where id = @id;
            """,
            new
            {
                id = before.Id.Value,
                edition = before.Edition,
                address = (before.Content as MaterialContent.Link)?.Address.AbsoluteUri,
                hash = file?.Hash,
                fileName = file?.Name,
                mediaType = file?.MediaType,
                size = file?.Size,
                by = by.Value,
                at = now.ToUnixTimeMilliseconds(),
                words,
            }
        );
    }

    /// <summary>What a material is found by beside its names.</summary>
    public string WordsOf(MaterialId id) =>
        connection.ExecuteScalar<string?>("select words from materials where id = @id", new { id = id.Value }) ?? "";

    /// <summary>What a material was before, the newest first.</summary>
    public IReadOnlyList<Edition> EditionsOf(MaterialId id) =>
        [
            .. connection
                .Query<EditionRow>(
                    """
                    select e.edition, e.address, e.content_hash as ContentHash, e.file_name as FileName, e.media_type as MediaType, e.size,
                        p.name as Who, e.replaced_at as At
                    from editions e join people p on p.id = e.replaced_by where e.material_id = @id order by e.edition desc
                    """,
                    new { id = id.Value }
                )
                .Select(row => new Edition(
                    (int)row.Edition,
                    Content(row.Address, row.ContentHash, row.FileName, row.MediaType, row.Size),
                    row.Who,
                    Stored.At(row.At)
                )),
        ];

    /// <summary>How many earlier contents each material of a calendar has; those without are not in it.</summary>
    public IReadOnlyDictionary<MaterialId, int> EditionsOn(CalendarId calendar) =>
        connection
            .Query<(long Id, long Count)>(
                "select m.id, count(*) from materials m join editions e on e.material_id = m.id where m.calendar_id = @id group by m.id",
                new { id = calendar.Value }
            )
            .ToDictionary(row => new MaterialId(row.Id), row => (int)row.Count);

    /// <summary>Takes materials off a series; those of other series are left alone.</summary>
    public int Remove(SeriesId series, IReadOnlyCollection<MaterialId> materials, Instant now) =>
        connection.Execute(
            """
            update materials set deleted_at = @at, version = version + 1 where series_id = @series and deleted_at is null and id in @ids
            """,
            new
            {
                series = series.Value,
                ids = materials.Select(material => material.Value).ToArray(),
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Puts one back that was taken off.</summary>
    public void PutBack(MaterialId material) =>
        connection.Execute(
            "update materials set deleted_at = null, version = version + 1 where id = @id and deleted_at is not null",
            new { id = material.Value }
        );

    /// <summary>Hangs a material on a series, and there on one session or on all.</summary>
    public void Move(MaterialId material, SeriesId series, LocalDateTime? session) =>
        connection.Execute(
            "update materials set series_id = @series, session_start = @session where id = @id",
            new
            {
                id = material.Value,
                series = series.Value,
                session = session is { } start ? Stored.Text(start) : null,
            }
        );

    /// <summary>Moves all materials of a series to another calendar, those that were taken off, too.</summary>
    public void MoveAll(SeriesId series, CalendarId calendar) =>
        connection.Execute(
            "update materials set calendar_id = @calendar where series_id = @series",
            new { series = series.Value, calendar = calendar.Value }
        );

    /// <summary>Puts materials in an order.</summary>
    public void Order(IReadOnlyList<MaterialId> order)
    {
        for (var position = 0; position < order.Count; position++)
            connection.Execute(
                "update materials set position = @position, version = version + 1 where id = @id and position <> @position",
                new { position, id = order[position].Value }
            );
    }

    /// <summary>The materials that somebody marked as done. The mark is theirs alone: nothing else reads it.</summary>
    public IReadOnlySet<MaterialId> DoneBy(PersonId person) =>
        connection
            .Query<long>("select material_id from done_materials where person_id = @id", new { id = person.Value })
            .Select(id => new MaterialId(id))
            .ToHashSet();

    /// <summary>Marks a material as done for somebody, or takes that back.</summary>
    public void MarkDone(PersonId person, MaterialId material, bool done, Instant now) =>
        connection.Execute(
            done
                ? "insert or ignore into done_materials (person_id, material_id, done_at) values (@person, @material, @at)"
                : "delete from done_materials where person_id = @person and material_id = @material",
            new
            {
                person = person.Value,
                material = material.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>The bytes of the files that a calendar's materials and what they were before refer to, each file once.</summary>
    public long BytesOf(CalendarId calendar) =>
        connection.ExecuteScalar<long>(
            """
            select coalesce(sum(size), 0) from (
                select content_hash, max(size) as size from materials where calendar_id = @id and deleted_at is null and content_hash is not null
                    group by content_hash
                union select e.content_hash, max(e.size) from editions e join materials m on m.id = e.material_id
                    where m.calendar_id = @id and m.deleted_at is null and e.content_hash is not null group by e.content_hash)
            """,
            new { id = calendar.Value }
        );

    /// <summary>The bytes of all files that are referred to, each once; also of those taken off, while they can come back.</summary>
    public long BytesInAll() =>
        connection.ExecuteScalar<long>(
            """
            select coalesce(sum(size), 0) from (select content_hash, max(size) as size from (
                select content_hash, size from materials where content_hash is not null
                union all select content_hash, size from editions where content_hash is not null
                union all select content_hash, size from uploads where content_hash is not null) group by content_hash)
            """
        );

    /// <summary>Whether anything refers to a file.</summary>
    public bool Refers(string hash) =>
        connection.ExecuteScalar<bool>(
            """
            select exists (select 1 from materials where content_hash = @hash) or exists (select 1 from editions where content_hash = @hash)
                or exists (select 1 from uploads where content_hash = @hash)
            """,
            new { hash }
        );

    /// <summary>Ends materials that were taken off before then: nothing refers to their files any more.</summary>
    /// <returns>How many.</returns>
    public int Forget(Instant before) =>
        connection.Execute(
            """
            update notices set material_id = null where material_id in (select id from materials where deleted_at < @at);
            delete from materials where deleted_at < @at;
            """,
            new { at = before.ToUnixTimeMilliseconds() }
        );

    private static DynamicParameters Values(Material material, string words, PersonId by, Instant now)
    {
        var file = material.Content as MaterialContent.StoredFile;
        return new DynamicParameters(
            new
            {
                calendar = material.Calendar.Value,
                series = material.Series?.Value,
                session = material.ForSession is { } session ? Stored.Text(session) : null,
                key = material.Key.Value,
                title = material.Title,
                note = material.Note,
                address = (material.Content as MaterialContent.Link)?.Address.AbsoluteUri,
                hash = file?.Hash,
                fileName = file?.Name,
                mediaType = file?.MediaType,
                size = file?.Size,
                audience = material.Audience == MaterialAudience.Anyone ? "anyone" : "people",
                only = Stored.Text(material.OnlyFor),
                recording = material.IsRecording,
                release = Stored.Text(material.Release),
                lastDay = material.LastDay is { } last ? Stored.Text(last) : null,
                due = Stored.Text(material.Due),
                heading = material.Heading,
                words,
                by = by.Value,
                at = now.ToUnixTimeMilliseconds(),
            }
        );
    }

    private static MaterialContent Content(string? address, string? hash, string? name, string? type, long? size) =>
        address is not null
            ? new MaterialContent.Link(new Uri(address))
            : new MaterialContent.StoredFile(
                // It becomes a path: nothing but a hash may.
                hash is { Length: 64 }
                && hash.All(char.IsAsciiHexDigitLower)
                    ? hash
                    : throw new FormatException($"“{hash}” is no hash of a file"),
                name!,
                type!,
                size!.Value
            );

    private sealed record EditionRow(
        long Edition,
        string? Address,
        string? ContentHash,
        string? FileName,
        string? MediaType,
        long? Size,
        string Who,
        long At
    );

    private sealed record MaterialRow(
        long Id,
        long CalendarRef,
        long? SeriesRef,
        string? SessionStart,
        string Key,
        string Title,
        string Note,
        string? Address,
        string? ContentHash,
        string? FileName,
        string? MediaType,
        long? Size,
        string Audience,
        string? OnlyFor,
        long IsRecording,
        long Position,
        string Release,
        string? LastDay,
        string? Due,
        string Heading,
        long Version,
        long Edition,
        long MadeAt
    )
    {
        public Material ToMaterial() =>
            new(
                new MaterialId(Id),
                new CalendarId(CalendarRef),
                SeriesRef is { } series ? new SeriesId(series) : null,
                SessionStart is null ? null : Stored.Original(SessionStart),
                new MaterialKey(Key),
                Title,
                Content(Address, ContentHash, FileName, MediaType, Size),
                Audience switch
                {
                    "anyone" => MaterialAudience.Anyone,
                    "people" => MaterialAudience.PeopleOfTheCalendar,
                    _ => throw new FormatException($"“{Audience}” is nobody who may open it"),
                }
            )
            {
                IsRecording = IsRecording == 1,
                OnlyFor = Stored.Only(OnlyFor),
                Note = Note,
                Position = (int)Position,
                Release = Stored.ReleaseOf(Release),
                LastDay = LastDay is null ? null : Stored.Day(LastDay),
                Due = Stored.DueOf(Due),
                Heading = Heading,
                Version = (int)Version,
                Edition = (int)Edition,
                MadeAt = Stored.At(MadeAt),
            };
    }
}
