using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Keeping;
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
    private readonly RowReader rows;

    internal PeopleStore(SqliteConnection connection, RowReader rows) => (this.connection, this.rows) = (connection, rows);

    /// <summary>Adds a person.</summary>
    public PersonId Add(string name, string email, SchoolRole role, string? passwordHash, string stamp, Instant now) =>
        new(connection.ExecuteScalar<long>(
        "insert into people (name, email, role, password_hash, stamp, made_at) values (@name, @email, @role, @passwordHash, @stamp, @at) returning id",
        new { name, email, role = Stored.Text(role), passwordHash, stamp, at = now.ToUnixTimeMilliseconds() }));

    /// <summary>What signing in with that address needs; null where nobody has it.</summary>
    public Credentials? FindByEmail(string email) => Credential("where email = @email", new { email });

    /// <summary>What checking a sign-in of that person needs.</summary>
    public Credentials? Find(PersonId id) => Credential("where id = @id", new { id = id.Value });

    /// <summary>Notes that somebody signed in.</summary>
    public void NoteSignIn(PersonId id, Instant now) =>
        connection.Execute("update people set last_sign_in_at = @at where id = @id",
            new { id = id.Value, at = now.ToUnixTimeMilliseconds() });

    /// <summary>Keeps a sign-in until it ends, and forgets those that have ended.</summary>
    public void AddSignIn(PersonId id, byte[] tokenHash, Instant ends, Instant now)
    {
        connection.Execute("delete from sign_ins where ends_at <= @now", new { now = now.ToUnixTimeMilliseconds() });
        connection.Execute("insert into sign_ins (token_hash, person_id, ends_at) values (@tokenHash, @id, @ends)",
            new { tokenHash, id = id.Value, ends = ends.ToUnixTimeMilliseconds() });
    }

    /// <summary>Whether a sign-in of that person is still good.</summary>
    public bool HasSignIn(PersonId id, byte[] tokenHash, Instant now) =>
        connection.ExecuteScalar<long>("select count(*) from sign_ins where token_hash = @tokenHash and person_id = @id and ends_at > @now",
            new { tokenHash, id = id.Value, now = now.ToUnixTimeMilliseconds() }) == 1;

    /// <summary>Ends a sign-in.</summary>
    public void EndSignIn(byte[] tokenHash) => connection.Execute("delete from sign_ins where token_hash = @tokenHash", new { tokenHash });

    /// <summary>The name of a group; null where there is none.</summary>
    public string? NameOf(GroupId group) =>
        connection.QuerySingleOrDefault<string>("select name from groups where id = @id", new { id = group.Value });

    /// <summary>The people of those addresses, by address, letters' case apart.</summary>
    public IReadOnlyDictionary<string, PersonId> FindByEmails(IReadOnlyCollection<string> emails) =>
        connection.Query<(string Email, long Id)>("select email, id from people where email in @emails", new { emails })
            .ToDictionary(row => row.Email, row => new PersonId(row.Id), StringComparer.OrdinalIgnoreCase);

    /// <summary>The e-mail addresses of people.</summary>
    public IReadOnlyList<string> EmailsOf(IReadOnlyCollection<PersonId> people) =>
        connection.Query<string>("select email from people where id in @ids order by email",
            new { ids = people.Select(person => person.Value).ToArray() }).AsList();

    /// <summary>The school's coordinators.</summary>
    public IReadOnlyList<PersonId> Coordinators() =>
        [.. connection.Query<long>("select id from people where role = 'coordinator' order by id").Select(id => new PersonId(id))];

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

    /// <summary>Those of these groups that are class lists.</summary>
    public IReadOnlySet<GroupId> ClassLists(IReadOnlyCollection<GroupId> among) =>
        connection.Query<long>("select id from groups where kind = 'classlist' and id in @ids",
            new { ids = among.Select(group => group.Value).ToArray() }).Select(id => new GroupId(id)).ToHashSet();

    /// <summary>Who is in which of these groups.</summary>
    public ILookup<GroupId, PersonId> MembersOf(IReadOnlyCollection<GroupId> groups) =>
        connection.Query<(long Group, long Person)>("select group_id, person_id from group_members where group_id in @ids",
            new { ids = groups.Select(group => group.Value).ToArray() })
            .ToLookup(row => new GroupId(row.Group), row => new PersonId(row.Person));

    /// <summary>The names of people.</summary>
    public IReadOnlyDictionary<PersonId, string> NamesOf(IReadOnlyCollection<PersonId> people) =>
        connection.Query<(long Id, string Name)>("select id, name from people where id in @ids",
            new { ids = people.Select(person => person.Value).ToArray() })
            .ToDictionary(row => new PersonId(row.Id), row => row.Name);

    /// <summary>Those who work at the school, with what they may reach.</summary>
    /// <param name="among">Only these groups matter.</param>
    public IReadOnlyList<(Person Person, Viewer Viewer)> Staff(IReadOnlyCollection<GroupId> among)
    {
        var groups = connection.Query<(long Person, long Group)>("select person_id, group_id from group_members where group_id in @ids",
            new { ids = among.Select(group => group.Value).ToArray() }).ToLookup(row => row.Person, row => new GroupId(row.Group));
        return [.. connection.Query<PersonRow>(
            "select id, name, email, role, password_hash as PasswordHash, stamp from people where role in ('coordinator', 'teacher') order by name")
            .Select(row => (ToPerson(row), new Viewer(new PersonId(row.Id), Stored.As<SchoolRole>(row.Role), groups[row.Id].ToHashSet())))];
    }

    private Credentials? Credential(string where, object values)
    {
        var found =
            connection.Query<PersonRow>($"select id, name, email, role, password_hash as PasswordHash, stamp from people {where}", values);
        return rows.All(found, row => new Credentials(ToPerson(row), row.PasswordHash, row.Stamp), Named).SingleOrDefault();
    }

    // Whose role cannot be read may do nothing.
    private static Person ToPerson(PersonRow row) => new(new PersonId(row.Id), row.Name, row.Email, Stored.As<SchoolRole>(row.Role));

    private static (UnreadableKind, long, Core.Calendars.CalendarId?, string) Named(PersonRow row) =>
        (UnreadableKind.Person, row.Id, null, row.Name);

    private sealed record PersonRow(long Id, string Name, string Email, string Role, string? PasswordHash, string Stamp);
}
