using Dapper;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage.People;

/// <summary>Groups, and who is in them. A group may hold groups.</summary>
public sealed class GroupStore
{
    // What is joined to it is joined crosswise: from the groups to the people, never the other way.
    private const string Below = """
        with recursive below (top, id) as (select id, id from groups where id in @ids
            union select below.top, g.child_id from group_groups g join below on g.group_id = below.id)
        """;

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal GroupStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Adds a group.</summary>
    public GroupId Add(string name, GroupKind kind, string source = "")
    {
        var id = connection.ExecuteScalar<long>(
            "insert into groups (name, kind, source) values (@name, @kind, nullif(@source, '')) returning id",
            new
            {
                name,
                kind = Stored.Text(kind),
                source,
            }
        );
        WriteWords(connection, id, name);
        return new(id);
    }

    /// <summary>Changes a group's name and kind, if it still has the expected version.</summary>
    public bool Change(GroupId id, string name, GroupKind kind, int expectedVersion)
    {
        var changed =
            connection.Execute(
                "update groups set name = @name, kind = @kind, version = version + 1 where id = @id and version = @expectedVersion",
                new
                {
                    id = id.Value,
                    name,
                    kind = Stored.Text(kind),
                    expectedVersion,
                }
            ) == 1;
        if (changed)
            WriteWords(connection, id.Value, name);
        return changed;
    }

    /// <summary>Notes what a list knows a group by.</summary>
    public void SetSource(GroupId id, string source) =>
        connection.Execute("update groups set source = @source where id = @id", new { id = id.Value, source });

    /// <summary>How many entries, materials and links that are in use are only for a group, alone or with others.</summary>
    public int CountOnlyFor(GroupId id) =>
        (int)
            connection.ExecuteScalar<long>(
                """
                select (select count(*) from series where deleted_at is null and ' ' || only_for || ' ' like @token)
                    + (select count(*) from materials where deleted_at is null and ' ' || only_for || ' ' like @token)
                    + (select count(*) from join_links where withdrawn_at is null and ' ' || only_for || ' ' like @token)
                """,
                new { token = $"% g{id.Value} %" }
            );

    /// <summary>Takes a group away, with what it was given.</summary>
    public void Remove(GroupId id)
    {
        connection.Execute("delete from grants where group_id = @id", new { id = id.Value });
        connection.Execute("delete from groups where id = @id", new { id = id.Value });
    }

    /// <summary>The name of a group; null where there is none.</summary>
    public string? NameOf(GroupId group) =>
        connection.QuerySingleOrDefault<string>("select name from groups where id = @id", new { id = group.Value });

    /// <summary>The group of that name, letters' case apart; null where there is none.</summary>
    public GroupId? Named(string name) =>
        connection.QueryFirstOrDefault<long?>("select id from groups where name = @name collate nocase", new { name })
            is { } id
            ? new GroupId(id)
            : null;

    /// <summary>These groups, by name.</summary>
    public IReadOnlyList<Group> Of(IReadOnlyCollection<GroupId> groups) => Read("where g.id in @among", groups);

    /// <summary>A group; null where there is none.</summary>
    public Group? Find(GroupId id) => Of([id]).SingleOrDefault();

    /// <summary>All groups, by name.</summary>
    public IReadOnlyList<Group> All() =>
        Read("", [.. connection.Query<long>("select id from groups").Select(id => new GroupId(id))]);

    /// <summary>Groups by the first letters of their names' words.</summary>
    public IReadOnlyList<Group> Find(string typed, int most)
    {
        var words = NameWords.Of(typed);
        if (words.Count == 0)
            return [];
        var found = words
            .Select(word =>
                connection
                    .Query<long>(
                        "select distinct group_id from group_words where word >= @word and word < @end",
                        new { word, end = word + "\U0010FFFF" }
                    )
                    .ToHashSet()
            )
            .Aggregate(
                (one, other) =>
                {
                    one.IntersectWith(other);
                    return one;
                }
            );
        return [.. Of([.. found.Order().Take(200).Select(id => new GroupId(id))]).Take(most)];
    }

    /// <summary>Who is in a group by name.</summary>
    public IReadOnlyList<PersonId> NamedIn(GroupId group) =>
        [
            .. connection
                .Query<long>("select person_id from group_members where group_id = @id", new { id = group.Value })
                .Select(id => new PersonId(id)),
        ];

    /// <summary>The group that holds whoever has a role; null where there is none.</summary>
    public GroupId? OfRole(SchoolRole role) =>
        connection.ExecuteScalar<long?>(
            "select group_id from role_groups where role = @role",
            new { role = Stored.Text(role) }
        )
            is { } id
            ? new GroupId(id)
            : null;

    /// <summary>Makes a group that holds whoever has a role, now and later (migration 0019), and nobody else.</summary>
    public GroupId AddOfRole(SchoolRole role, string name)
    {
        var id = Add(name, GroupKind.Staff);
        connection.Execute(
            "insert into role_groups (role, group_id) values (@role, @id)",
            new { role = Stored.Text(role), id = id.Value }
        );
        return id;
    }

    /// <summary>Whether a group holds whoever has a role.</summary>
    public bool IsOfRole(GroupId id) =>
        connection.ExecuteScalar<long>("select count(*) from role_groups where group_id = @id", new { id = id.Value })
        > 0;

    /// <summary>Puts people into a group; not into one that a role fills.</summary>
    public void AddMembers(GroupId group, IEnumerable<PersonId> people) =>
        connection.Execute(
            """
            insert or ignore into group_members (group_id, person_id)
                select @group, @person where not exists (select 1 from role_groups where group_id = @group)
            """,
            people.Select(person => new { group = group.Value, person = person.Value })
        );

    /// <summary>Takes people out of a group; not out of one that a role fills.</summary>
    public int RemoveMembers(GroupId group, IEnumerable<PersonId> people) =>
        connection.Execute(
            """
            delete from group_members where group_id = @group and person_id = @person
                and not exists (select 1 from role_groups where group_id = @group)
            """,
            people.Select(person => new { group = group.Value, person = person.Value })
        );

    /// <summary>Puts a group into another.</summary>
    public void AddGroup(GroupId group, GroupId held) =>
        connection.Execute(
            "insert or ignore into group_groups (group_id, child_id) values (@group, @held)",
            new { group = group.Value, held = held.Value }
        );

    /// <summary>Takes a group out of another.</summary>
    public bool RemoveGroup(GroupId group, GroupId held) =>
        connection.Execute(
            "delete from group_groups where group_id = @group and child_id = @held",
            new { group = group.Value, held = held.Value }
        ) == 1;

    /// <summary>For a group, those it holds: all there are.</summary>
    public ILookup<GroupId, GroupId> Holds() =>
        connection
            .Query<(long Group, long Held)>("select group_id, child_id from group_groups")
            .ToLookup(row => new GroupId(row.Group), row => new GroupId(row.Held));

    /// <summary>For a group, those it is in: all there are.</summary>
    public ILookup<GroupId, GroupId> Within() =>
        connection
            .Query<(long Group, long Held)>("select group_id, child_id from group_groups")
            .ToLookup(row => new GroupId(row.Held), row => new GroupId(row.Group));

    /// <summary>The groups that somebody is in by name.</summary>
    public IReadOnlyList<GroupId> Direct(PersonId person) =>
        [
            .. connection
                .Query<long>("select group_id from group_members where person_id = @id", new { id = person.Value })
                .Select(id => new GroupId(id)),
        ];

    /// <summary>Those of these groups that are class lists, or sections of one.</summary>
    public IReadOnlySet<GroupId> ClassLists(IReadOnlyCollection<GroupId> among) =>
        connection
            .Query<long>(
                "select id from groups where kind in ('classlist', 'section') and id in @ids",
                new { ids = among.Select(group => group.Value).ToArray() }
            )
            .Select(id => new GroupId(id))
            .ToHashSet();

    /// <summary>Who is in which of these groups and is here, by name or through a group that it holds.</summary>
    public ILookup<GroupId, PersonId> MembersOf(IReadOnlyCollection<GroupId> groups) =>
        connection
            .Query<(long Group, long Person)>(
                $"""
                {Below}
                select distinct below.top, m.person_id from below cross join group_members m on m.group_id = below.id
                    cross join people p on p.id = m.person_id where p.ended_at is null
                """,
                new { ids = groups.Select(group => group.Value).ToArray() }
            )
            .ToLookup(row => new GroupId(row.Group), row => new PersonId(row.Person));

    /// <summary>These groups and those that they hold, at any depth; so many at most, these first.</summary>
    public IReadOnlyList<GroupId> WithHeld(IReadOnlyCollection<GroupId> groups, int most) =>
        [
            .. connection
                .Query<long>(
                    $"{Below} select id from below group by id order by max(below.top = below.id) desc, id limit @most",
                    new { ids = groups.Select(group => group.Value).ToArray(), most }
                )
                .Select(id => new GroupId(id)),
        ];

    /// <summary>Every group, to hold a list beside.</summary>
    public IReadOnlyList<KnownGroup> Known()
    {
        var members = connection
            .Query<(long Group, long Person)>("select group_id, person_id from group_members")
            .ToLookup(row => row.Group, row => new PersonId(row.Person));
        return
        [
            .. connection
                .Query<(long Id, string Name, string Source)>("select id, name, ifnull(source, '') from groups")
                .Select(row => new KnownGroup(new GroupId(row.Id), row.Name, row.Source, members[row.Id].ToHashSet())),
        ];
    }

    internal static void WriteWords(SqliteConnection connection, long id, string name)
    {
        connection.Execute("delete from group_words where group_id = @id", new { id });
        connection.Execute(
            "insert or ignore into group_words (word, group_id) values (@word, @id)",
            NameWords.Of(name).DefaultIfEmpty("?").Select(word => new { word, id })
        );
    }

    private List<Group> Read(string where, IReadOnlyCollection<GroupId> among)
    {
        var ids = among.Select(group => group.Value).ToArray();
        if (ids.Length == 0)
            return [];
        var people = connection
            .Query<(long Group, long People)>(
                $"""
                {Below}
                select below.top, count(distinct m.person_id) from below cross join group_members m on m.group_id = below.id
                    cross join people p on p.id = m.person_id where p.ended_at is null group by below.top
                """,
                new { ids }
            )
            .ToDictionary(row => row.Group, row => (int)row.People);
        return rows.All(
            connection.Query<(long Id, string Name, string Kind, long Version)>(
                $"select g.id, g.name, g.kind, g.version from groups g {where} order by g.name",
                new { among = ids }
            ),
            row => new Group(
                new GroupId(row.Id),
                row.Name,
                Stored.As<GroupKind>(row.Kind),
                (int)row.Version,
                people.GetValueOrDefault(row.Id)
            ),
            row => (UnreadableKind.Group, row.Id, null, row.Name)
        );
    }
}
