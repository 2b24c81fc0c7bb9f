using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>Calendars and their grants.</summary>
public sealed class CalendarStore
{
    private const string Columns = "id, kind, department_id as DepartmentId, title, slug, description, mark_colour as MarkColour, mark_shape as MarkShape, zone, owner_id as OwnerId, version, revision, changed_at as ChangedAt, put_away_at as PutAwayAt, deleted_at as DeletedAt";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal CalendarStore(SqliteConnection connection, RowReader rows) => (this.connection, this.rows) = (connection, rows);

    /// <summary>All calendars in use: the school's, departments, classes; by title.</summary>
    public IReadOnlyList<Calendar> All() => Query("where put_away_at is null and deleted_at is null");

    /// <summary>All calendars, those put away and deleted too.</summary>
    public IReadOnlyList<Calendar> Everything() => Query("");

    /// <summary>The calendar of that slug, or null; put away and deleted ones, too.</summary>
    public Calendar? Find(string slug) => Query("where slug = @slug", new { slug }).SingleOrDefault();

    /// <summary>The calendar of that id.</summary>
    public Calendar Get(CalendarId id) => Query("where id = @id", new { id = id.Value }).Single();

    /// <summary>Puts a calendar away, deletes it, or brings it back, if it still has the expected version.</summary>
    public bool SetUse(CalendarId id, Instant? putAwayAt, Instant? deletedAt, int expectedVersion, Instant now) => connection.Execute(
        """
        update calendars set put_away_at = @away, deleted_at = @deleted, version = version + 1, revision = revision + 1, changed_at = @at
        where id = @id and version = @expectedVersion
        """,
        new { id = id.Value, expectedVersion, away = putAwayAt?.ToUnixTimeMilliseconds(), deleted = deletedAt?.ToUnixTimeMilliseconds(), at = now.ToUnixTimeMilliseconds() }) == 1;

    private List<Calendar> Query(string where, object? values = null) =>
        [.. connection.Query<CalendarRow>($"select {Columns} from calendars {where} order by case kind when 'school' then 0 when 'department' then 1 else 2 end, title", values).Select(ToCalendar)];

    // What stands beside a calendar is never lost with one of its columns: a sign, a kind or a zone that cannot be read has a plain one in its place.
    private Calendar ToCalendar(CalendarRow row)
    {
        (UnreadableKind, long, CalendarId?, string) What() => (UnreadableKind.Calendar, row.Id, new CalendarId(row.Id), row.Title);
        return new Calendar(
            new CalendarId(row.Id), rows.Or(() => Stored.As<CalendarKind>(row.Kind), CalendarKind.Class, What), row.DepartmentId is { } department ? new CalendarId(department) : null,
            row.Title, row.Slug, row.Description,
            new Mark(rows.Or(() => Stored.As<MarkColour>(row.MarkColour), MarkColour.Slate, What), rows.Or(() => Stored.As<MarkShape>(row.MarkShape), MarkShape.Disc, What)),
            rows.Or<DateTimeZone?>(() => Stored.Zone(row.Zone), null, What) ?? SchoolZone(), new PersonId(row.OwnerId), (int)row.Version, (int)row.Revision, Stored.At(row.ChangedAt))
        {
            PutAwayAt = row.PutAwayAt is { } away ? Stored.At(away) : null,
            DeletedAt = row.DeletedAt is { } deleted ? Stored.At(deleted) : null,
        };
    }

    private DateTimeZone? schoolZone;

    private DateTimeZone SchoolZone() => schoolZone ??= connection.QuerySingleOrDefault<string>("select zone from school") is { } id && DateTimeZoneProviders.Tzdb.GetZoneOrNull(id) is { } zone ? zone : DateTimeZone.Utc;

    /// <summary>Adds a calendar, at version and revision 1; its id and counters are given here.</summary>
    public Calendar Add(Calendar calendar)
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into calendars (kind, department_id, title, slug, description, mark_colour, mark_shape, zone, owner_id, version, revision, changed_at)
            values (@kind, @department, @title, @slug, @description, @colour, @shape, @zone, @owner, 1, 1, @at) returning id
            """,
            Values(calendar));
        return calendar with { Id = new CalendarId(id), Version = 1, Revision = 1 };
    }

    /// <summary>Changes a calendar's own facts, if it still has the expected version. The slug stays.</summary>
    /// <returns>False where somebody else was faster; nothing is changed then.</returns>
    public bool Change(Calendar calendar, int expectedVersion) => connection.Execute(
        """
        update calendars set kind = @kind, department_id = @department, title = @title, description = @description, mark_colour = @colour,
            mark_shape = @shape, version = version + 1, revision = revision + 1, changed_at = @at
        where id = @id and version = @expectedVersion
        """,
        Values(calendar, expectedVersion)) == 1;

    /// <summary>Notes that something on the calendar has changed, so that everything published from it is made anew.</summary>
    public void Touch(CalendarId id, Instant now) => connection.Execute(
        "update calendars set revision = revision + 1, changed_at = @at where id = @id", new { id = id.Value, at = now.ToUnixTimeMilliseconds() });

    /// <summary>The grants of a calendar.</summary>
    public IReadOnlyList<Grant> GrantsOf(CalendarId id) => [.. Grants("where calendar_id = @id", new { id = id.Value })];

    /// <summary>All grants of all calendars.</summary>
    public ILookup<CalendarId, Grant> AllGrants() => Grants("", null).ToLookup(grant => grant.Calendar);

    /// <summary>Gives a level, in place of what the same grantee had.</summary>
    public void Set(Grant grant)
    {
        Remove(grant.Calendar, grant.To);
        connection.Execute(
            "insert into grants (calendar_id, grantee, person_id, group_id, level) values (@calendar, @grantee, @person, @group, @level)",
            Values(grant.Calendar, grant.To, Stored.Text(grant.Level)));
    }

    /// <summary>Takes away what a grantee had.</summary>
    public void Remove(CalendarId calendar, Grantee from) => connection.Execute(
        "delete from grants where calendar_id = @calendar and grantee = @grantee and person_id is @person and group_id is @group",
        Values(calendar, from, ""));

    private static object Values(CalendarId calendar, Grantee to, string level) => new
    {
        calendar = calendar.Value,
        grantee = to switch { Grantee.OnePerson => "person", Grantee.OneGroup => "group", Grantee.Everyone => "everyone", _ => "anyone" },
        person = (to as Grantee.OnePerson)?.Person.Value,
        group = (to as Grantee.OneGroup)?.Group.Value,
        level,
    };

    private static object Values(Calendar calendar, int expectedVersion = 0) => new
    {
        id = calendar.Id.Value,
        kind = Stored.Text(calendar.Kind),
        department = calendar.Department?.Value,
        title = calendar.Title,
        slug = calendar.Slug,
        description = calendar.Description,
        colour = Stored.Text(calendar.Mark.Colour),
        shape = Stored.Text(calendar.Mark.Shape),
        zone = calendar.Zone.Id,
        owner = calendar.Owner.Value,
        at = calendar.ChangedAt.ToUnixTimeMilliseconds(),
        expectedVersion,
    };

    private IEnumerable<Grant> Grants(string where, object? values) => connection
        .Query<(long Calendar, string Grantee, long? Person, long? Group, string Level)>($"select calendar_id, grantee, person_id, group_id, level from grants {where}", values)
        .Select(row => rows.Or<Grant?>(() => ToGrant(row), null, () => (UnreadableKind.Grant, 0, new CalendarId(row.Calendar), "who may see it"))).OfType<Grant>();

    // One that cannot be read gives nobody anything.
    private static Grant ToGrant((long Calendar, string Grantee, long? Person, long? Group, string Level) row) => new(
        new CalendarId(row.Calendar),
        row switch
        {
            { Grantee: "person", Person: { } person } => new Grantee.OnePerson(new PersonId(person)),
            { Grantee: "group", Group: { } group } => new Grantee.OneGroup(new GroupId(group)),
            { Grantee: "everyone" } => new Grantee.Everyone(),
            { Grantee: "anyone" } => new Grantee.Anyone(),
            _ => throw new FormatException($"“{row.Grantee}” is nobody that can be given access"),
        },
        Stored.As<AccessLevel>(row.Level));

    private sealed record CalendarRow(
        long Id, string Kind, long? DepartmentId, string Title, string Slug, string Description, string MarkColour, string MarkShape,
        string Zone, long OwnerId, long Version, long Revision, long ChangedAt, long? PutAwayAt, long? DeletedAt);
}
