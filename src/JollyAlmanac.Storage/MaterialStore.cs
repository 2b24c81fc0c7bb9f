using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Keeping;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>Materials. The bytes of files are in the <see cref="FileVault"/>.</summary>
public sealed class MaterialStore
{
    private const string Select =
        """
        select m.id, m.calendar_id as CalendarRef, m.series_id as SeriesRef, m.session_start as SessionStart, m.key, m.title, m.address,
            m.content_hash as ContentHash, m.file_name as FileName, m.media_type as MediaType, m.size, m.audience, m.only_for as OnlyFor,
                m.is_recording as IsRecording
        from materials m
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal MaterialStore(SqliteConnection connection, RowReader rows) => (this.connection, this.rows) = (connection, rows);

    /// <summary>The materials on a calendar, oldest first.</summary>
    public IReadOnlyList<Material> Of(CalendarId calendar) =>
        Read(connection.Query<MaterialRow>($"{Select} where m.calendar_id = @id and m.deleted_at is null order by m.id",
            new { id = calendar.Value }));

    /// <summary>The material of that key, unless it or its series was taken off.</summary>
    public Material? Find(string key) => Read(connection.Query<MaterialRow>(
        $"{Select} join series s on s.id = m.series_id join calendars c on c.id = m.calendar_id where m.key = @key and m.deleted_at is null and s.deleted_at is null and c.put_away_at is null and c.deleted_at is null", new { key })).SingleOrDefault();

    private List<Material> Read(IEnumerable<MaterialRow> found) =>
        rows.All(found, row => row.ToMaterial(), row => (UnreadableKind.Material, row.Id, new CalendarId(row.CalendarRef), row.Title));

    /// <summary>Adds a material; its id is given here.</summary>
    public Material Add(Material material, PersonId by, Instant now)
    {
        var file = material.Content as MaterialContent.StoredFile;
        var id = connection.ExecuteScalar<long>(
            """
            insert into materials (calendar_id, series_id, session_start, key, title, address, content_hash, file_name, media_type, size,
                audience, only_for, is_recording, made_by, made_at)
            values (@calendar, @series, @session, @key, @title, @address, @hash, @fileName, @mediaType, @size, @audience, @only, @recording, @by,
                @at) returning id
            """,
            new
            {
                calendar = material.Calendar.Value,
                series = material.Series.Value,
                session = material.ForSession is { } session ? Stored.Text(session) : null,
                key = material.Key,
                title = material.Title,
                address = (material.Content as MaterialContent.Link)?.Address.AbsoluteUri,
                hash = file?.Hash,
                fileName = file?.Name,
                mediaType = file?.MediaType,
                size = file?.Size,
                audience = material.Audience == MaterialAudience.Anyone ? "anyone" : "people",
                only = Stored.Text(material.OnlyFor),
                recording = material.IsRecording,
                by = by.Value,
                at = now.ToUnixTimeMilliseconds(),
            });
        return material with { Id = new MaterialId(id) };
    }

    /// <summary>Takes materials off a series; those of other series are left alone.</summary>
    public int TakeOff(SeriesId series, IReadOnlyCollection<MaterialId> materials, Instant now) => connection.Execute(
        "update materials set deleted_at = @at where series_id = @series and deleted_at is null and id in @ids",
        new { series = series.Value, ids = materials.Select(material => material.Value).ToArray(), at = now.ToUnixTimeMilliseconds() });

    /// <summary>Hangs a material on a series, and there on one session or on all.</summary>
    public void Move(MaterialId material, SeriesId series, LocalDateTime? session) => connection.Execute(
        "update materials set series_id = @series, session_start = @session where id = @id",
        new { id = material.Value, series = series.Value, session = session is { } start ? Stored.Text(start) : null });

    private sealed record MaterialRow(
        long Id, long CalendarRef, long SeriesRef, string? SessionStart, string Key, string Title, string? Address,
        string? ContentHash, string? FileName, string? MediaType, long? Size, string Audience, string? OnlyFor, long IsRecording)
    {
        public Material ToMaterial() => new(
            new MaterialId(Id),
            new CalendarId(CalendarRef),
            new SeriesId(SeriesRef),
            SessionStart is null ? null : Stored.Original(SessionStart),
            Key,
            Title,
            Address is not null ? new MaterialContent.Link(new Uri(Address))
            : new MaterialContent.StoredFile(ContentHash!, FileName!, MediaType!, Size!.Value),
            Audience switch { "anyone" => MaterialAudience.Anyone, "people" => MaterialAudience.PeopleOfTheCalendar, _ =>
            throw new FormatException($"“{Audience}” is nobody who may open it") }) { IsRecording = IsRecording == 1,
                OnlyFor = Stored.Only(OnlyFor) };
    }
}
