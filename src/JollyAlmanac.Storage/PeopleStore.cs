using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>What signing in needs to know of a person.</summary>
/// <param name="Person">The person.</param>
/// <param name="PasswordHash">Null where they have no password and cannot sign in.</param>
/// <param name="Stamp">Changes when every sign-in of the person must end.</param>
public sealed record Credentials(Person Person, string? PasswordHash, string Stamp);

/// <summary>People and groups.</summary>
public sealed class PeopleStore
{
    private readonly SqliteConnection connection;

    internal PeopleStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Adds a person.</summary>
    public PersonId Add(string name, string email, SchoolRole role, string? passwordHash, string stamp, Instant now) => new(connection.ExecuteScalar<long>(
        "insert into people (name, email, role, password_hash, stamp, made_at) values (@name, @email, @role, @passwordHash, @stamp, @at) returning id",
        new { name, email, role = Stored.Text(role), passwordHash, stamp, at = now.ToUnixTimeMilliseconds() }));

    /// <summary>What signing in with that address needs; null where nobody has it.</summary>
    public Credentials? FindByEmail(string email) => Credential("where email = @email", new { email });

    /// <summary>What checking a sign-in of that person needs.</summary>
    public Credentials? Find(PersonId id) => Credential("where id = @id", new { id = id.Value });

    /// <summary>Notes that somebody signed in.</summary>
    public void NoteSignIn(PersonId id, Instant now) =>
        connection.Execute("update people set last_sign_in_at = @at where id = @id", new { id = id.Value, at = now.ToUnixTimeMilliseconds() });

    /// <summary>The person as a viewer, with their groups.</summary>
    public Viewer ViewerOf(PersonId id)
    {
        if (Find(id) is not { } found) return Viewer.Visitor;
        var groups = connection.Query<long>("select group_id from group_members where person_id = @id", new { id = id.Value });
        return new Viewer(id, found.Person.Role, groups.Select(group => new GroupId(group)).ToHashSet());
    }

    /// <summary>Adds a group.</summary>
    public GroupId AddGroup(string name, GroupKind kind) => new(connection.ExecuteScalar<long>(
        "insert into groups (name, kind) values (@name, @kind) returning id", new { name, kind = Stored.Text(kind) }));

    /// <summary>Puts people into a group.</summary>
    public void AddMembers(GroupId group, IEnumerable<PersonId> people) => connection.Execute(
        "insert or ignore into group_members (group_id, person_id) values (@group, @person)",
        people.Select(person => new { group = group.Value, person = person.Value }));

    /// <summary>The groups that are class lists.</summary>
    public IReadOnlySet<GroupId> ClassLists() =>
        connection.Query<long>("select id from groups where kind = 'classlist'").Select(id => new GroupId(id)).ToHashSet();

    /// <summary>Who is in which of these groups.</summary>
    public ILookup<GroupId, PersonId> MembersOf(IReadOnlyCollection<GroupId> groups) =>
        connection.Query<(long Group, long Person)>("select group_id, person_id from group_members where group_id in @ids", new { ids = groups.Select(group => group.Value).ToArray() })
            .ToLookup(row => new GroupId(row.Group), row => new PersonId(row.Person));

    /// <summary>The names of people.</summary>
    public IReadOnlyDictionary<PersonId, string> NamesOf(IReadOnlyCollection<PersonId> people) =>
        connection.Query<(long Id, string Name)>("select id, name from people where id in @ids", new { ids = people.Select(person => person.Value).ToArray() })
            .ToDictionary(row => new PersonId(row.Id), row => row.Name);

    /// <summary>Those who work at the school, with what they may reach.</summary>
    public IReadOnlyList<(Person Person, Viewer Viewer)> Staff()
    {
        var groups = connection.Query<(long Person, long Group)>("select person_id, group_id from group_members").ToLookup(row => row.Person, row => new GroupId(row.Group));
        return [.. connection.Query<PersonRow>("select id, name, email, role, password_hash as PasswordHash, stamp from people where role in ('coordinator', 'teacher') order by name")
            .Select(row => (new Person(new PersonId(row.Id), row.Name, row.Email, Stored.As<SchoolRole>(row.Role)), new Viewer(new PersonId(row.Id), Stored.As<SchoolRole>(row.Role), groups[row.Id].ToHashSet())))];
    }

    private Credentials? Credential(string where, object values)
    {
        var row = connection.QuerySingleOrDefault<PersonRow>($"select id, name, email, role, password_hash as PasswordHash, stamp from people {where}", values);
        return row is null
            ? null
            : new Credentials(new Person(new PersonId(row.Id), row.Name, row.Email, Stored.As<SchoolRole>(row.Role)), row.PasswordHash, row.Stamp);
    }

    private sealed record PersonRow(long Id, string Name, string Email, string Role, string? PasswordHash, string Stamp);
}
