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
    private const string Columns = "id, kind, department_id as DepartmentId, title, slug, description, mark_colour as MarkColour, mark_shape as MarkShape, zone, owner_id as OwnerId, version, revision, changed_at as ChangedAt";

    private readonly SqliteConnection connection;

    internal CalendarStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>All calendars: the school's, departments, classes; by title.</summary>
    public IReadOnlyList<Calendar> All() =>
        [.. connection.Query<CalendarRow>($"select {Columns} from calendars order by case kind when 'school' then 0 when 'department' then 1 else 2 end, title").Select(row => row.ToCalendar())];

    /// <summary>The calendar of that slug, or null.</summary>
    public Calendar? Find(string slug) =>
        connection.QuerySingleOrDefault<CalendarRow>($"select {Columns} from calendars where slug = @slug", new { slug })?.ToCalendar();

    /// <summary>The calendar of that id.</summary>
    public Calendar Get(CalendarId id) =>
        connection.QuerySingle<CalendarRow>($"select {Columns} from calendars where id = @id", new { id = id.Value }).ToCalendar();

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
        .Select(row => new Grant(
            new CalendarId(row.Calendar),
            row.Grantee switch
            {
                "person" => new Grantee.OnePerson(new PersonId(row.Person!.Value)),
                "group" => new Grantee.OneGroup(new GroupId(row.Group!.Value)),
                "everyone" => new Grantee.Everyone(),
                _ => new Grantee.Anyone(),
            },
            Stored.As<AccessLevel>(row.Level)));

    private sealed record CalendarRow(
        long Id, string Kind, long? DepartmentId, string Title, string Slug, string Description, string MarkColour, string MarkShape,
        string Zone, long OwnerId, long Version, long Revision, long ChangedAt)
    {
        public Calendar ToCalendar() => new(
            new CalendarId(Id), Stored.As<CalendarKind>(Kind), DepartmentId is { } department ? new CalendarId(department) : null, Title, Slug, Description,
            new Mark(Stored.As<MarkColour>(MarkColour), Stored.As<MarkShape>(MarkShape)), Stored.Zone(Zone), new PersonId(OwnerId),
            (int)Version, (int)Revision, Stored.At(ChangedAt));
    }
}
