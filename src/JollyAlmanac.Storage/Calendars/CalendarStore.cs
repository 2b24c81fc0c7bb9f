using System.Text.Json;
using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Calendars;

/// <summary>Calendars and their grants.</summary>
public sealed class CalendarStore
{
    private const string Columns =
        "id, kind, department_id as DepartmentId, title, slug, description, mark_colour as MarkColour, mark_shape as MarkShape, zone, owner_id as OwnerId, version, revision, changed_at as ChangedAt, put_away_at as PutAwayAt, deleted_at as DeletedAt, shows_list as ShowsList, opens_on as OpensOn, contact";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;
    private readonly CachedReads cached;

    internal CalendarStore(SqliteConnection connection, RowReader rows, CachedReads cached) =>
        (this.connection, this.rows, this.cached) = (connection, rows, cached);

    /// <summary>All calendars in use: the school's, departments, classes; by title.</summary>
    public IReadOnlyList<Calendar> All() => Query("where put_away_at is null and deleted_at is null");

    /// <summary>Every calendar, those put away and deleted too.</summary>
    public IReadOnlyList<Calendar> Every() => Query("");

    /// <summary>The calendar of that slug, or null; put away and deleted ones, too.</summary>
    public Calendar? Find(Slug slug) => Query("where slug = @slug", new { slug = slug.Value }).SingleOrDefault();

    /// <summary>The calendar of that id.</summary>
    public Calendar Get(CalendarId id) => Query("where id = @id", new { id = id.Value }).Single();

    /// <summary>How many calendars in use there are beside one: of its department, where it is one, else of the school.</summary>
    public int CountBeside(CalendarId id, bool isDepartment) =>
        (int)
            connection.ExecuteScalar<long>(
                $"select count(*) from calendars where id <> @id and put_away_at is null and deleted_at is null{(isDepartment ? " and department_id = @id" : "")}",
                new { id = id.Value }
            );

    /// <summary>The first of these, the school's and departments before classes, by title.</summary>
    public IReadOnlyList<Calendar> Beside(CalendarId id, bool isDepartment, int most) =>
        Query(
            $"where id <> @id and put_away_at is null and deleted_at is null{(isDepartment ? " and department_id = @id" : "")}",
            new { id = id.Value, most },
            "limit @most"
        );

    /// <summary>These calendars, where they are in use: the school's, departments, classes; by title.</summary>
    public IReadOnlyList<Calendar> InUse(IReadOnlyCollection<CalendarId> ids) =>
        ids.Count == 0
            ? []
            : Query(
                "where id in @ids and put_away_at is null and deleted_at is null",
                new { ids = ids.Select(id => id.Value).ToArray() }
            );

    /// <summary>The calendars of those slugs that are in use.</summary>
    public IReadOnlyList<Calendar> InUse(IReadOnlyCollection<Slug> slugs) =>
        slugs.Count == 0
            ? []
            : Query(
                "where slug in @slugs and put_away_at is null and deleted_at is null",
                new { slugs = slugs.Select(slug => slug.Value) }
            );

    /// <summary>How a calendar stands: rises with each change of what stands on it, of itself, and of who may see it.</summary>
    public long StateVersionOf(CalendarId id) =>
        connection.ExecuteScalar<long?>("select standing from calendars where id = @id", new { id = id.Value }) ?? 0;

    /// <summary>
    /// How all that a class page shows stands: the calendar, the links that its series are joined by and its own, and the school's
    /// time. The same text means the same page to the same reader at the same moment. Null where there is no such calendar.
    /// </summary>
    public string? StateVersionOf(Slug slug) =>
        connection.QuerySingleOrDefault<string>(
            """
            select s.standing || ' ' || c.standing || ' ' || ifnull((select group_concat(l.id || '.' || l.standing) from join_links l
                where l.calendar_id = c.id or l.id in (select link_id from series_links where calendar_id = c.id)), '')
            from calendars c cross join school s where c.slug = @slug
            """,
            new { slug = slug.Value }
        );

    /// <summary>
    /// The calendars that are granted to the viewer by name, or as a member of a class list; those put away and deleted, too.
    /// </summary>
    public IReadOnlyList<CalendarId> OwnOf(Viewer viewer) =>
        viewer.Person is null
            ? []
            : Ids(
                """
                select calendar_id from grants where person_id in @people
                union select calendar_id from grants where group_id in (select id from groups where kind in ('classlist', 'section') and id in @allGroups)
                """,
                viewer
            );

    /// <summary>
    /// The calendars that the viewer may have a part in: granted by name, through a group, or to everybody with more than looking.
    /// </summary>
    public IReadOnlyList<CalendarId> WorkedBy(Viewer viewer) =>
        viewer.Person is null
            ? []
            : Ids(
                """
                select calendar_id from grants where person_id = @person
                union select calendar_id from grants where group_id in @groups
                union select calendar_id from grants where grantee in ('everyone', 'anyone') and level in ('contributor', 'editor', 'manager')
                """,
                viewer
            );

    private List<CalendarId> Ids(string sql, Viewer viewer) =>
        [.. connection.Query<long>(sql, Values(viewer)).Select(id => new CalendarId(id))];

    // Calendars in use that a viewer may know of. A grant that cannot be read is among them until it is looked at.
    private const string Reached =
        """
            put_away_at is null and deleted_at is null and (
                id in (select calendar_id from grants where person_id in @people)
                or id in (select calendar_id from grants where group_id in @allGroups)
                or id in (select calendar_id from grants where grantee in ('everyone', 'anyone') and (grantee = 'anyone'
                    or @person is not null)))
            """ + WorkedBeforeItOpens;

    // One that has not opened is there for those who work on it.
    private const string WorkedBeforeItOpens = """
         and (opens_on is null or exists (select 1 from grants w where w.calendar_id = calendars.id
            and w.level in ('contributor', 'editor', 'manager') and (w.person_id = @person or w.group_id in @groups
                or (w.grantee in ('everyone', 'anyone') and @person is not null))))
        """;

    // The same, asked of each calendar: where there are few to ask, or a few are enough.
    private const string ReachedEach =
        """
            put_away_at is null and deleted_at is null and exists (select 1 from grants g where g.calendar_id = calendars.id
                and (g.grantee = 'anyone' or (@person is not null and (g.grantee = 'everyone' or g.person_id in @people
                    or g.group_id in @allGroups))))
            """ + WorkedBeforeItOpens;

    /// <summary>How many calendars in use the viewer may know of, by department; the default id for those without one.</summary>
    public IReadOnlyDictionary<CalendarId, int> CountReached(Viewer viewer) =>
        connection
            .Query<(long? Department, long Count)>(
                $"select case kind when 'department' then id else department_id end as department, count(*) from calendars where {Reached} group by 1",
                Values(viewer)
            )
            .ToDictionary(row => new CalendarId(row.Department ?? 0), row => (int)row.Count);

    /// <summary>Whether the viewer may know of more calendars in use than so many.</summary>
    public bool ReachesMoreThan(Viewer viewer, int count) =>
        connection.ExecuteScalar<long>(
            $"select count(*) from (select 1 from calendars where {ReachedEach} limit @limit)",
            Values(viewer, limit: count + 1)
        ) > count;

    /// <summary>Calendars in use that the viewer may know of, by title.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="department">Only those of a department and itself; the default id for those without one; null for all.</param>
    /// <param name="words">Only those whose title holds this, letters' case apart, or the name of who teaches them where anyone sees them in
    /// full; empty for all.</param>
    /// <param name="skip">How many to leave out.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<Calendar> ReachedBy(Viewer viewer, CalendarId? department, string words, int skip, int most) =>
        Query(
            $"where {Reached} {WhereWithin(department)} {WhereFound(words)}",
            Values(viewer, department?.Value, Like(words), most, skip),
            "limit @limit offset @skip"
        );

    /// <summary>Calendars in use on which the viewer is editor or manager, by title.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="department">As <see cref="ReachedBy"/> has it.</param>
    /// <param name="words">Only those whose title holds this, letters' case apart; empty for all.</param>
    /// <param name="managers">Only those that one of these people owns or manages by name; null for all.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<Calendar> EditedBy(
        Viewer viewer,
        CalendarId? department,
        string words,
        IReadOnlyCollection<PersonId>? managers,
        int most
    )
    {
        var kept = managers is null
            ? ""
            : """
                and (owner_id in @managers
                  or id in (select calendar_id from grants where level = 'manager' and person_id in @managers))
                """;
        var values = new DynamicParameters(Values(viewer, department?.Value, Like(words), most));
        values.Add("managers", managers?.Select(person => person.Value).ToArray() ?? []);
        return Query(
            $"""
            where put_away_at is null and deleted_at is null and id in (select calendar_id from grants
                where level in ('editor', 'manager') and (person_id = @person or group_id in @groups
                    or grantee in ('everyone', 'anyone')))
            {WhereWithin(department)} {WhereTitled(words)} {kept}
            """,
            values,
            "limit @limit"
        );
    }

    private static string WhereWithin(CalendarId? department) =>
        department is not { } id ? ""
        : id == default ? "and department_id is null and kind <> 'department'"
        : "and (department_id = @department or id = @department)";

    private static string WhereTitled(string words) => words.Length == 0 ? "" : "and title like @words escape '!'";

    // Who teaches a class stands on its page for whoever sees it in full; where that is anyone, it is found by their name, too.
    private static string WhereFound(string words) =>
        words.Length == 0
            ? ""
            : """
                and (title like @words escape '!'
                  or (owner_id in (select id from people where ended_at is null and name like @words escape '!')
                      and id in (select calendar_id from grants where grantee = 'anyone' and level not in ('busy', 'outline'))))
                """;

    private static string Like(string words) =>
        $"%{words.Replace("!", "!!", StringComparison.Ordinal).Replace("%", "!%", StringComparison.Ordinal).Replace("_", "!_", StringComparison.Ordinal)}%";

    /// <summary>All calendars in use that the viewer may know of. A grant that cannot be read is among them until it is looked
    /// at.</summary>
    public IReadOnlyList<CalendarId> IdsReachedBy(Viewer viewer) =>
        Ids($"select id from calendars where {Reached}", viewer);

    /// <summary>Departments in use that the viewer may know of, by title.</summary>
    public IReadOnlyList<Calendar> DepartmentsReachedBy(Viewer viewer, int most) =>
        Query($"where kind = 'department' and {ReachedEach}", Values(viewer, limit: most), "limit @limit");

    private static object Values(
        Viewer viewer,
        long? department = null,
        string words = "",
        int limit = 0,
        int skip = 0
    ) =>
        new
        {
            person = viewer.Person?.Value,
            groups = viewer.Groups.Select(group => group.Value).ToArray(),
            // A family reaches what its children reach.
            people = viewer
                .Children.Append(viewer.Person ?? default)
                .Where(id => id != default)
                .Select(id => id.Value)
                .ToArray(),
            allGroups = viewer.Groups.Union(viewer.GroupsOfChildren).Select(group => group.Value).ToArray(),
            department,
            words,
            limit,
            skip,
        };

    /// <summary>Calendars that are put away or deleted and granted to the viewer.</summary>
    public IReadOnlyList<Calendar> NotInUse(Viewer viewer) =>
        Query(
            """
            where (put_away_at is not null or deleted_at is not null) and (
                id in (select calendar_id from grants where person_id in @people)
                    or id in (select calendar_id from grants where group_id in @allGroups)
                or id in (select calendar_id from grants where grantee in ('everyone', 'anyone')))
            """,
            Values(viewer)
        );

    /// <summary>The calendars in use that are the whole school's, by title, at most so many.</summary>
    public IReadOnlyList<Calendar> OfSchool(int most) =>
        Query(
            "where kind = 'school' and put_away_at is null and deleted_at is null and opens_on is null",
            new { most },
            "limit @most"
        );

    /// <summary>A calendar by its id, in use or not; null where there is none, as one that was erased.</summary>
    public Calendar? FindById(CalendarId id) => Query("where id = @id", new { id = id.Value }).SingleOrDefault();

    /// <summary>The calendars in use that have a title, letters' case apart.</summary>
    public IReadOnlyList<Calendar> Titled(string title) =>
        Query("where title = @title collate nocase and put_away_at is null and deleted_at is null", new { title });

    /// <summary>The marks of the latest calendars in use, at most so many; one that cannot be read is left out.</summary>
    public IReadOnlyList<Mark> LatestMarks(int most) =>
        [
            .. connection
                .Query<(string Colour, string Shape)>(
                    "select mark_colour, mark_shape from calendars where put_away_at is null and deleted_at is null order by id desc limit @most",
                    new { most }
                )
                .Where(row =>
                    Enum.TryParse<MarkColour>(row.Colour, ignoreCase: true, out _)
                    && Enum.TryParse<MarkShape>(row.Shape, ignoreCase: true, out _)
                )
                .Select(row => new Mark(
                    Enum.Parse<MarkColour>(row.Colour, ignoreCase: true),
                    Enum.Parse<MarkShape>(row.Shape, ignoreCase: true)
                )),
        ];

    /// <summary>Puts a calendar away, deletes it, or brings it back, if it still has the expected version.</summary>
    public bool SetUse(CalendarId id, Instant? putAwayAt, Instant? deletedAt, int expectedVersion, Instant now) =>
        connection.Execute(
            """
            update calendars set put_away_at = @away, deleted_at = @deleted, version = version + 1, revision = revision + 1, changed_at = @at
            where id = @id and version = @expectedVersion
            """,
            new
            {
                id = id.Value,
                expectedVersion,
                away = putAwayAt?.ToUnixTimeMilliseconds(),
                deleted = deletedAt?.ToUnixTimeMilliseconds(),
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    private List<Calendar> Query(string where, object? values = null, string limit = "") =>
        [
            .. connection
                .Query<CalendarRow>(
                    $"select {Columns} from calendars {where} order by case kind when 'school' then 0 when 'department' then 1 else 2 end, title {limit}",
                    values
                )
                .Select(ToCalendar),
        ];

    // What stands beside a calendar is never lost with one of its columns: a sign, a kind or a zone that cannot be read has a plain one in
    // its place.
    private Calendar ToCalendar(CalendarRow row)
    {
        (UnreadableKind, long, CalendarId?, string) What() =>
            (UnreadableKind.Calendar, row.Id, new CalendarId(row.Id), row.Title);
        return new Calendar(
            new CalendarId(row.Id),
            rows.Or(() => Stored.As<CalendarKind>(row.Kind), CalendarKind.Class, What),
            row.DepartmentId is { } department ? new CalendarId(department) : null,
            row.Title,
            new Slug(row.Slug),
            row.Description,
            new Mark(
                rows.Or(() => Stored.As<MarkColour>(row.MarkColour), MarkColour.Slate, What),
                rows.Or(() => Stored.As<MarkShape>(row.MarkShape), MarkShape.Disc, What)
            ),
            rows.Or<DateTimeZone?>(() => Stored.Zone(row.Zone), null, What) ?? SchoolZone(),
            new PersonId(row.OwnerId),
            (int)row.Version,
            (int)row.Revision,
            Stored.At(row.ChangedAt)
        )
        {
            ArchivedAt = row.PutAwayAt is { } away ? Stored.At(away) : null,
            DeletedAt = row.DeletedAt is { } deleted ? Stored.At(deleted) : null,
            ShowsList = row.ShowsList == 1,
            // One that cannot be read opens on no day: nothing is shown before somebody has looked at it.
            OpensOn = row.OpensOn is { } opens ? rows.Or(() => Stored.Day(opens), LocalDate.MaxIsoValue, What) : null,
            Contact = row.Contact,
        };
    }

    private DateTimeZone? schoolZone;

    private DateTimeZone SchoolZone() =>
        schoolZone ??=
            connection.QuerySingleOrDefault<string>("select zone from school") is { } id
            && DateTimeZoneProviders.Tzdb.GetZoneOrNull(id) is { } zone
                ? zone
                : DateTimeZone.Utc;

    /// <summary>Adds a calendar, at version and revision 1; its id and counters are given here.</summary>
    public Calendar Add(Calendar calendar)
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into calendars (kind, department_id, title, slug, description, mark_colour, mark_shape, zone, owner_id, shows_list, contact,
                opens_on, version, revision, changed_at)
            values (@kind, @department, @title, @slug, @description, @colour, @shape, @zone, @owner, @shows, @contact, @opens, 1, 1, @at) returning id
            """,
            Values(calendar)
        );
        return calendar with { Id = new CalendarId(id), Version = 1, Revision = 1 };
    }

    /// <summary>Changes a calendar's own facts, if it still has the expected version. The slug stays.</summary>
    /// <returns>False where somebody else was faster; nothing is changed then.</returns>
    public bool Change(Calendar calendar, int expectedVersion) =>
        connection.Execute(
            """
            update calendars set kind = @kind, department_id = @department, title = @title, description = @description, mark_colour = @colour,
                mark_shape = @shape, opens_on = @opens, contact = @contact, version = version + 1, revision = revision + 1, changed_at = @at
            where id = @id and version = @expectedVersion
            """,
            Values(calendar, expectedVersion)
        ) == 1;

    /// <summary>Notes that something on the calendar has changed, so that everything published from it is made anew.</summary>
    public void Touch(CalendarId id, Instant now) =>
        connection.Execute(
            "update calendars set revision = revision + 1, changed_at = @at where id = @id",
            new { id = id.Value, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>The grants of a calendar.</summary>
    public IReadOnlyList<Grant> GrantsOf(CalendarId id) =>
        [.. Grants("where calendar_id = @id", new { id = id.Value })];

    /// <summary>The grants of calendars.</summary>
    public ILookup<CalendarId, Grant> GrantsOf(IReadOnlyCollection<CalendarId> ids) =>
        Grants("where calendar_id in (select value from json_each(@ids))", new { ids = Json(ids) })
            .ToLookup(grant => grant.Calendar);

    /// <summary>Those grants of calendars that reach a viewer, or who looks as them: all that their level hangs on.</summary>
    public ILookup<CalendarId, Grant> GrantsFor(Viewer viewer, IReadOnlyCollection<CalendarId> ids)
    {
        // Found by their calendars: the plus keeps the other indexes out, by which all of the school's would be looked at.
        Viewer[] who = viewer.LookedAtBy is { } looker ? [viewer, looker] : [viewer];
        var asked = new
        {
            ids = Json(ids),
            people = JsonSerializer.Serialize(
                who.Select(one => one.Person)
                    .OfType<PersonId>()
                    .Concat(who.SelectMany(one => one.Children))
                    .Select(id => id.Value)
                    .Order()
            ),
            groups = JsonSerializer.Serialize(
                who.SelectMany(one => one.Groups.Concat(one.GroupsOfChildren)).Select(id => id.Value).Distinct().Order()
            ),
        };
        return cached.GetOrCreate<ILookup<CalendarId, Grant>>(
            asked,
            connection.ExecuteScalar<long>("select access from school"),
            () =>
                Grants(
                        """
                        where calendar_id in (select value from json_each(@ids)) and (+grantee in ('everyone', 'anyone')
                            or +person_id in (select value from json_each(@people)) or +group_id in (select value from json_each(@groups)))
                        """,
                        asked
                    )
                    .ToLookup(grant => grant.Calendar),
            found => asked.ids.Length / 100 + found.Sum(grants => grants.Count())
        );
    }

    // One value for them all: hundreds of parameters cost more than what they ask for.
    private static string Json(IEnumerable<CalendarId> ids) => JsonSerializer.Serialize(ids.Select(id => id.Value));

    /// <summary>Gives a level, in place of what the same grantee had.</summary>
    /// <param name="grant">Who has which level from now on.</param>
    /// <param name="by">Who gives it; null where that is nobody in particular.</param>
    public void Set(Grant grant, PersonId? by = null)
    {
        Remove(grant.Calendar, grant.To);
        connection.Execute(
            """
            insert into grants (calendar_id, grantee, person_id, group_id, level, until, given_by)
            values (@calendar, @grantee, @person, @group, @level, @until, @by)
            """,
            Values(
                grant.Calendar,
                grant.To,
                Stored.Text(grant.Level),
                grant.Until is { } until ? Stored.Text(until) : null,
                by?.Value
            )
        );
    }

    // What is no day is left for somebody who can read it.
    private const string IsOver = "until < @today and until glob '[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]'";

    /// <summary>Whether a grant ends before that day: it has held for the last time.</summary>
    public bool HasEnded(LocalDate today) =>
        connection.ExecuteScalar<long>(
            $"select exists (select 1 from grants where {IsOver})",
            new { today = Stored.Text(today) }
        ) == 1;

    /// <summary>Takes away the grants that end before that day.</summary>
    /// <returns>Them, with who gave each; the calendar's owner where that is not known.</returns>
    public IReadOnlyList<(Grant Grant, PersonId By)> TakeEnded(LocalDate today)
    {
        var values = new { today = Stored.Text(today) };
        var by = connection
            .Query<(long Calendar, string Grantee, long? Person, long? Group, long By)>(
                $"""
                select g.calendar_id, g.grantee, g.person_id, g.group_id, ifnull(g.given_by, c.owner_id)
                from grants g join calendars c on c.id = g.calendar_id where {IsOver}
                """,
                values
            )
            .ToDictionary(row => (row.Calendar, row.Person, row.Group, row.Grantee), row => new PersonId(row.By));
        List<Grant> ended = [.. Grants($"where {IsOver}", values)];
        connection.Execute($"delete from grants where {IsOver}", values);
        return
        [
            .. ended.Select(grant =>
                (
                    grant,
                    by[
                        (
                            grant.Calendar.Value,
                            (grant.To as Grantee.OnePerson)?.Person.Value,
                            (grant.To as Grantee.OneGroup)?.Group.Value,
                            NameOf(grant.To)
                        )
                    ]
                )
            ),
        ];
    }

    /// <summary>Whether a calendar is to open on that day, or was before.</summary>
    public bool HasToOpen(LocalDate today) =>
        connection.ExecuteScalar<long>(
            "select exists (select 1 from calendars where opens_on <= @today)",
            new { today = Stored.Text(today) }
        ) == 1;

    /// <summary>Opens the calendars whose day has come.</summary>
    /// <returns>Them, open.</returns>
    public IReadOnlyList<Calendar> OpenDue(LocalDate today, Instant now)
    {
        var due = connection
            .Query<long>("select id from calendars where opens_on <= @today", new { today = Stored.Text(today) })
            .ToList();
        foreach (var id in due)
            connection.Execute(
                "update calendars set opens_on = null, version = version + 1, revision = revision + 1, changed_at = @at where id = @id",
                new { id, at = now.ToUnixTimeMilliseconds() }
            );
        return [.. due.Select(id => Get(new CalendarId(id)))];
    }

    /// <summary>The grants that name a person.</summary>
    public IReadOnlyList<Grant> GrantsTo(PersonId person) =>
        [.. Grants("where person_id = @id", new { id = person.Value })];

    /// <summary>The grants to a group.</summary>
    public IReadOnlyList<Grant> GrantsToGroup(GroupId group) =>
        [.. Grants("where group_id = @id", new { id = group.Value })];

    /// <summary>Gives a calendar another owner, who answers for it from now on.</summary>
    public void SetOwner(CalendarId id, PersonId owner, Instant now) =>
        connection.Execute(
            "update calendars set owner_id = @owner, version = version + 1, revision = revision + 1, changed_at = @now where id = @id",
            new
            {
                id = id.Value,
                owner = owner.Value,
                now = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>The calendars that somebody answers for, those put away, too.</summary>
    public IReadOnlyList<Calendar> OwnedBy(PersonId person) =>
        Query("where owner_id = @id and deleted_at is null", new { id = person.Value });

    /// <summary>Shows the class list to those who are on it, or no longer, if the calendar still has the expected version.</summary>
    public bool SetShowsList(CalendarId id, bool shows, int expectedVersion, Instant now) =>
        connection.Execute(
            """
            update calendars set shows_list = @shows, version = version + 1, revision = revision + 1, changed_at = @now
            where id = @id and version = @expectedVersion
            """,
            new
            {
                id = id.Value,
                shows,
                expectedVersion,
                now = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Takes away what a grantee had.</summary>
    public void Remove(CalendarId calendar, Grantee from) =>
        connection.Execute(
            "delete from grants where calendar_id = @calendar and grantee = @grantee and person_id is @person and group_id is @group",
            Values(calendar, from, "")
        );

    private static string NameOf(Grantee to) =>
        to switch
        {
            Grantee.OnePerson => "person",
            Grantee.OneGroup => "group",
            Grantee.Everyone => "everyone",
            _ => "anyone",
        };

    private static object Values(
        CalendarId calendar,
        Grantee to,
        string level,
        string? until = null,
        long? by = null
    ) =>
        new
        {
            until,
            by,
            calendar = calendar.Value,
            grantee = NameOf(to),
            person = (to as Grantee.OnePerson)?.Person.Value,
            group = (to as Grantee.OneGroup)?.Group.Value,
            level,
        };

    private static object Values(Calendar calendar, int expectedVersion = 0) =>
        new
        {
            id = calendar.Id.Value,
            kind = Stored.Text(calendar.Kind),
            department = calendar.Department?.Value,
            shows = calendar.ShowsList,
            opens = calendar.OpensOn is { } day ? Stored.Text(day) : null,
            title = calendar.Title,
            slug = calendar.Slug.Value,
            description = calendar.Description,
            contact = calendar.Contact,
            colour = Stored.Text(calendar.Mark.Colour),
            shape = Stored.Text(calendar.Mark.Shape),
            zone = calendar.Zone.Id,
            owner = calendar.Owner.Value,
            at = calendar.ChangedAt.ToUnixTimeMilliseconds(),
            expectedVersion,
        };

    private IEnumerable<Grant> Grants(string where, object? values)
    {
        var unopened = connection.Query<long>("select id from calendars where opens_on is not null").ToHashSet();
        return Read(where, values)
            .Select(grant =>
                grant.Level < AccessLevel.Contributor && unopened.Contains(grant.Calendar.Value)
                    ? grant with
                    {
                        AwaitsOpening = true,
                    }
                    : grant
            );
    }

    private IEnumerable<Grant> Read(string where, object? values) =>
        connection
            .Query<(long Calendar, string Grantee, long? Person, long? Group, string Level, string? Until)>(
                $"select calendar_id, grantee, person_id, group_id, level, until from grants {where}",
                values
            )
            .Select(row =>
                rows.Or<Grant?>(
                    () => ToGrant(row),
                    null,
                    () => (UnreadableKind.Grant, 0, new CalendarId(row.Calendar), "who may see it")
                )
            )
            .OfType<Grant>();

    // One that cannot be read gives nobody anything.
    private static Grant ToGrant(
        (long Calendar, string Grantee, long? Person, long? Group, string Level, string? Until) row
    ) =>
        new(
            new CalendarId(row.Calendar),
            row switch
            {
                { Grantee: "person", Person: { } person } => new Grantee.OnePerson(new PersonId(person)),
                { Grantee: "group", Group: { } group } => new Grantee.OneGroup(new GroupId(group)),
                { Grantee: "everyone" } => new Grantee.Everyone(),
                { Grantee: "anyone" } => new Grantee.Anyone(),
                _ => throw new FormatException($"“{row.Grantee}” is nobody that can be given access"),
            },
            Stored.As<AccessLevel>(row.Level)
        )
        {
            Until = row.Until is null ? null : Stored.Day(row.Until),
        };

    private sealed record CalendarRow(
        long Id,
        string Kind,
        long? DepartmentId,
        string Title,
        string Slug,
        string Description,
        string MarkColour,
        string MarkShape,
        string Zone,
        long OwnerId,
        long Version,
        long Revision,
        long ChangedAt,
        long? PutAwayAt,
        long? DeletedAt,
        long ShowsList,
        string? OpensOn,
        string Contact
    );
}
