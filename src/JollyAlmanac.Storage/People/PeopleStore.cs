using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>What signing in needs to know of a person.</summary>
/// <param name="Person">The person.</param>
/// <param name="PasswordHash">Null where they have no password and cannot sign in with one.</param>
/// <param name="Stamp">Changes when every sign-in of the person must end.</param>
/// <param name="Factor">The number that the key of their second factor is made from; 0 where none was begun.</param>
/// <param name="HasFactor">Their second factor is asked for.</param>
/// <param name="FactorStep">The last step of time whose code was used; none before it counts.</param>
public sealed record Credentials(
    Person Person,
    string? PasswordHash,
    string Stamp,
    int Factor = 0,
    bool HasFactor = false,
    long FactorStep = 0
);

/// <summary>People.</summary>
public sealed class PeopleStore
{
    private const string Columns =
        "select p.id, p.name, p.email, p.role, p.password_hash as PasswordHash, p.stamp, p.ended_at as EndedAt, p.version, p.factor, p.factor_since as FactorSince, p.factor_step as FactorStep from people p";

    // By what stands behind the last space of a name, as lists of a school do; the index people_by_last_name is of the same words.
    private const string ByName = "replace(p.name, rtrim(p.name, replace(p.name, ' ', '')), ''), p.name, p.id";

    private const string IsStaff = "role in ('coordinator', 'teacher')";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal PeopleStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Adds a person.</summary>
    /// <param name="name">Their name.</param>
    /// <param name="email">Their address; null for none.</param>
    /// <param name="role">What they are.</param>
    /// <param name="passwordHash">Null where they cannot sign in yet.</param>
    /// <param name="stamp">See <see cref="Credentials"/>.</param>
    /// <param name="now">When.</param>
    /// <param name="source">What a list knows them by; empty for none.</param>
    public PersonId Add(
        string name,
        EmailAddress? email,
        SchoolRole role,
        string? passwordHash,
        string stamp,
        Instant now,
        string source = ""
    )
    {
        var id = connection.ExecuteScalar<long>(
            """
            insert into people (name, email, role, password_hash, stamp, made_at, source)
            values (@name, @email, @role, @passwordHash, @stamp, @at, nullif(@source, '')) returning id
            """,
            new
            {
                name,
                email = email?.Value,
                role = Stored.Text(role),
                passwordHash,
                stamp,
                at = now.ToUnixTimeMilliseconds(),
                source,
            }
        );
        WriteWords(id, name, email);
        return new(id);
    }

    /// <summary>Changes a person's facts, if they still have the expected version.</summary>
    /// <returns>False where somebody else was faster.</returns>
    public bool Change(
        PersonId id,
        string name,
        EmailAddress? email,
        SchoolRole role,
        int expectedVersion,
        string? source = null
    )
    {
        var changed =
            connection.Execute(
                """
                update people set name = @name, email = @email, role = @role, version = version + 1,
                    source = case when @source is null then source else nullif(@source, '') end
                where id = @id and version = @expectedVersion and erased_at is null
                """,
                new
                {
                    id = id.Value,
                    name,
                    email = email?.Value,
                    role = Stored.Text(role),
                    expectedVersion,
                    source,
                }
            ) == 1;
        if (changed)
            WriteWords(id.Value, name, email);
        return changed;
    }

    /// <summary>Notes that somebody has left, or is back; a new stamp ends all their sign-ins.</summary>
    public bool SetEnd(PersonId id, Instant? at, string stamp, int expectedVersion) =>
        connection.Execute(
            "update people set ended_at = @at, stamp = @stamp, version = version + 1 where id = @id and version = @expectedVersion and erased_at is null",
            new
            {
                id = id.Value,
                at = at?.ToUnixTimeMilliseconds(),
                stamp,
                expectedVersion,
            }
        ) == 1;

    /// <summary>Gives somebody a password; a new stamp ends all their sign-ins.</summary>
    public void SetPassword(PersonId id, string? hash, string stamp) =>
        connection.Execute(
            "update people set password_hash = @hash, stamp = @stamp where id = @id",
            new
            {
                id = id.Value,
                hash,
                stamp,
            }
        );

    /// <summary>Ends all sign-ins of somebody.</summary>
    public void SetStamp(PersonId id, string stamp) =>
        connection.Execute("update people set stamp = @stamp where id = @id", new { id = id.Value, stamp });

    /// <summary>Takes away all that says who somebody was: what they did stays, by nobody in particular.</summary>
    public void Erase(PersonId id, string called, string stamp, Instant now)
    {
        connection.Execute(
            """
            update people set name = @called, email = null, password_hash = null, stamp = @stamp, source = null, factor = 0,
                factor_since = null, version = version + 1, ended_at = ifnull(ended_at, @at), erased_at = @at where id = @id;
            delete from person_words where person_id = @id;
            delete from group_members where person_id = @id;
            delete from grants where person_id = @id;
            delete from sign_ins where person_id = @id;
            delete from invitations where person_id = @id;
            delete from recovery_codes where person_id = @id;
            delete from join_hosts where person_id = @id;
            delete from access_requests where person_id = @id;
            delete from person_requests where made_by = @id;
            delete from absences where person_id = @id;
            delete from letters where person_id = @id;
            delete from mailings where person_id = @id;
            delete from mailed_series where person_id = @id;
            delete from own_feeds where person_id = @id;
            delete from reminders where person_id = @id;
            delete from reminded where person_id = @id;
            delete from notices_seen where person_id = @id;
            delete from free_links where person_id = @id;
            delete from done_materials where person_id = @id;
            delete from bring_ins where made_by = @id;
            delete from fetched_files where fetched_by = @id;
            """,
            new
            {
                id = id.Value,
                called,
                stamp,
                at = now.ToUnixTimeMilliseconds(),
            }
        );
    }

    /// <summary>Whether somebody was erased.</summary>
    public bool IsErased(PersonId id) =>
        connection.ExecuteScalar<long>(
            "select count(*) from people where id = @id and erased_at is not null",
            new { id = id.Value }
        ) > 0;

    /// <summary>What signing in with that address needs; null where nobody who is here has it.</summary>
    public Credentials? FindByEmail(EmailAddress email) =>
        Credential("where p.email = @email and p.ended_at is null", new { email = email.Value });

    /// <summary>The part behind the @ of the addresses of all who are here, where it is one; null where there are several, or none.</summary>
    public string? OnlyDomain() =>
        connection
            .Query<string>(
                "select distinct lower(substr(email, instr(email, '@') + 1)) from people where email is not null and ended_at is null limit 2"
            )
            .AsList()
            is [var only]
            ? only
            : null;

    /// <summary>What checking a sign-in of that person needs; null where they have left.</summary>
    public Credentials? Find(PersonId id) =>
        Credential("where p.id = @id and p.ended_at is null", new { id = id.Value });

    /// <summary>A person, also one who has left; null where there is none, or they were erased.</summary>
    public Person? Get(PersonId id) =>
        Credential("where p.id = @id and p.erased_at is null", new { id = id.Value })?.Person;

    /// <summary>Somebody of that address, also one who has left; null for nobody.</summary>
    public Person? Addressed(EmailAddress email) =>
        Credential("where p.email = @email", new { email = email.Value })?.Person;

    /// <summary>Whose family somebody is, by name; those who have left are not among them.</summary>
    public IReadOnlyList<PersonId> ChildrenOf(PersonId family) =>
        [
            .. connection
                .Query<long>(
                    $"select p.id from families f join people p on p.id = f.child_id where f.family_id = @id and p.ended_at is null order by {ByName}",
                    new { id = family.Value }
                )
                .Select(id => new PersonId(id)),
        ];

    /// <summary>Sets whose family somebody is.</summary>
    public void SetChildren(PersonId family, IReadOnlyCollection<PersonId> children)
    {
        connection.Execute("delete from families where family_id = @id", new { id = family.Value });
        connection.Execute(
            "insert into families (family_id, child_id) values (@family, @child)",
            children.Select(child => new { family = family.Value, child = child.Value })
        );
    }

    /// <summary>
    /// Since when what somebody sees on their own page is new to them: their last look before this one. Null for their first.
    /// </summary>
    public Instant? NewSince(PersonId person) =>
        connection.ExecuteScalar<long?>("select since from own_looks where person_id = @id", new { id = person.Value })
            is { } since
            ? Stored.At(since)
            : null;

    /// <summary>When somebody last looked at their own page; null for never.</summary>
    public Instant? LookedAt(PersonId person) =>
        connection.ExecuteScalar<long?>(
            "select looked_at from own_looks where person_id = @id",
            new { id = person.Value }
        )
            is { } at
            ? Stored.At(at)
            : null;

    /// <summary>Notes that somebody looks at their own page. Looks that follow each other closely are one.</summary>
    /// <param name="person">Who.</param>
    /// <param name="now">When.</param>
    /// <param name="one">Looks so close to each other are one.</param>
    public void Looks(PersonId person, Instant now, Duration one) =>
        connection.Execute(
            """
            insert into own_looks (person_id, since, looked_at) values (@id, null, @now)
            on conflict (person_id) do update set since = case when @now - looked_at > @one then looked_at else since end, looked_at = @now
            """,
            new
            {
                id = person.Value,
                now = now.ToUnixTimeMilliseconds(),
                one = (long)one.TotalMilliseconds,
            }
        );

    /// <summary>Notes that somebody signed in.</summary>
    public void NoteSignIn(PersonId id, Instant now) =>
        connection.Execute(
            "update people set last_sign_in_at = @at where id = @id",
            new { id = id.Value, at = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>The people of those addresses who are here, by address, letters' case apart.</summary>
    public IReadOnlyDictionary<EmailAddress, PersonId> FindByEmails(IReadOnlyCollection<EmailAddress> emails) =>
        connection
            .Query<(string Email, long Id)>(
                "select email, id from people where email in @emails and ended_at is null",
                new { emails = emails.Select(email => email.Value) }
            )
            .ToDictionary(row => new EmailAddress(row.Email), row => new PersonId(row.Id));

    /// <summary>The e-mail addresses of people.</summary>
    public IReadOnlyList<string> EmailsOf(IReadOnlyCollection<PersonId> people) =>
        connection
            .Query<string>(
                "select email from people where id in @ids and email is not null order by email",
                new { ids = people.Select(person => person.Value).ToArray() }
            )
            .AsList();

    /// <summary>The school's coordinators who are here.</summary>
    public IReadOnlyList<PersonId> Coordinators() =>
        [
            .. connection
                .Query<long>("select id from people where role = 'coordinator' and ended_at is null order by id")
                .Select(id => new PersonId(id)),
        ];

    /// <summary>The person as a viewer, with their groups and those that these are in; who has left is a visitor.</summary>
    public Viewer ViewerOf(PersonId id)
    {
        if (Find(id) is not { } found)
            return Viewer.Visitor;
        var viewer = new Viewer(id, found.Person.Role, GroupsOf([id]));
        if (found.Person.Role != SchoolRole.Family)
            return viewer;
        var children = ChildrenOf(id);
        return viewer with { Children = children.ToHashSet(), GroupsOfChildren = GroupsOf(children) };
    }

    private HashSet<GroupId> GroupsOf(IReadOnlyCollection<PersonId> people) =>
        connection
            .Query<long>(
                """
                with recursive mine (id) as (select group_id from group_members where person_id in @ids
                    union select g.group_id from group_groups g join mine on g.child_id = mine.id)
                select id from mine
                """,
                new { ids = people.Select(id => id.Value).ToArray() }
            )
            .Select(group => new GroupId(group))
            .ToHashSet();

    /// <summary>The families of people, by name; those who have left are not among them.</summary>
    public IReadOnlyList<Person> FamiliesOf(IReadOnlyCollection<PersonId> children) =>
        Read(
            connection.Query<PersonRow>(
                $"{Columns} where p.ended_at is null and p.id in (select family_id from families where child_id in @ids) order by {ByName}",
                new { ids = children.Select(person => person.Value).ToArray() }
            )
        );

    /// <summary>The names of people.</summary>
    public IReadOnlyDictionary<PersonId, string> NamesOf(IReadOnlyCollection<PersonId> people) =>
        connection
            .Query<(long Id, string Name)>(
                "select id, name from people where id in @ids",
                new { ids = people.Select(person => person.Value).ToArray() }
            )
            .ToDictionary(row => new PersonId(row.Id), row => row.Name);

    /// <summary>These people, by name; those who have left, too.</summary>
    public IReadOnlyList<Person> Of(IReadOnlyCollection<PersonId> people) =>
        Read(
            connection.Query<PersonRow>(
                $"{Columns} where p.id in @ids order by {ByName}",
                new { ids = people.Select(person => person.Value).ToArray() }
            )
        );

    /// <summary>Those who have not left, by name.</summary>
    public IReadOnlyList<Person> Present(int most) =>
        Read(
            connection.Query<PersonRow>(
                $"{Columns} where p.ended_at is null order by {ByName} limit @most",
                new { most }
            )
        );

    /// <summary>Which of these have signed in before.</summary>
    public IReadOnlySet<PersonId> HaveCome(IReadOnlyCollection<PersonId> people) =>
        connection
            .Query<long>(
                "select id from people where id in @ids and last_sign_in_at is not null",
                new { ids = people.Select(person => person.Value).ToArray() }
            )
            .Select(id => new PersonId(id))
            .ToHashSet();

    /// <summary>How somebody reads times and dates: by twelve hours, the month first; null for the school's way.</summary>
    public (bool? TwelveHours, bool? MonthFirst) WritingOf(PersonId person) =>
        connection.QuerySingleOrDefault<(long? Twelve, long? Month)>(
            "select twelve_hours, month_first from people where id = @id",
            new { id = person.Value }
        )
            is var (twelve, month)
            ? (twelve is null ? null : twelve == 1, month is null ? null : month == 1)
            : default;

    /// <summary>Sets how somebody reads times and dates; null for the school's way.</summary>
    public void SetWriting(PersonId person, bool? twelveHours, bool? monthFirst) =>
        connection.Execute(
            "update people set twelve_hours = @twelveHours, month_first = @monthFirst where id = @id",
            new
            {
                id = person.Value,
                twelveHours,
                monthFirst,
            }
        );

    /// <summary>Which of these are here.</summary>
    public IReadOnlySet<PersonId> Here(IReadOnlyCollection<PersonId> people) =>
        connection
            .Query<long>(
                "select id from people where id in @ids and ended_at is null",
                new { ids = people.Select(person => person.Value).ToArray() }
            )
            .Select(id => new PersonId(id))
            .ToHashSet();

    /// <summary>Those who work at the school, with what they may reach.</summary>
    /// <param name="among">Only these groups matter.</param>
    public IReadOnlyList<(Person Person, Viewer Viewer)> Staff(IReadOnlyCollection<GroupId> among)
    {
        var groups = connection
            .Query<(long Person, long Group)>(
                """
                with recursive below (top, id) as (select id, id from groups where id in @ids
                    union select below.top, g.child_id from group_groups g join below on g.group_id = below.id)
                select m.person_id, below.top from below join group_members m on m.group_id = below.id
                """,
                new { ids = among.Select(group => group.Value).ToArray() }
            )
            .ToLookup(row => row.Person, row => new GroupId(row.Group));
        return
        [
            .. Read(
                    connection.Query<PersonRow>($"{Columns} where p.{IsStaff} and p.ended_at is null order by {ByName}")
                )
                .Select(person => (person, new Viewer(person.Id, person.Role, groups[person.Id.Value].ToHashSet()))),
        ];
    }

    /// <summary>People who are here by the first letters of their names' words, in any order; by name.</summary>
    /// <param name="typed">As typed; nothing is found by nothing.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<Person> Find(string typed, int most)
    {
        var (where, values) = Filter(typed, [], null, left: false);
        values.Add("most", most);
        return NameWords.Of(typed).Count == 0
            ? []
            : Read(connection.Query<PersonRow>($"{Columns} {where} order by {ByName} limit @most", values));
    }

    /// <summary>People with how they come in, by name.</summary>
    /// <param name="typed">The first letters of their names' words; empty for everybody.</param>
    /// <param name="roles">Only those of these roles; empty for all.</param>
    /// <param name="group">Only those who are in that group by name; null for all.</param>
    /// <param name="left">Those who have left, in place of those who are here.</param>
    /// <param name="now">When.</param>
    /// <param name="skip">How many to leave out.</param>
    /// <param name="most">The most that are given.</param>
    public IReadOnlyList<PersonWithEntry> Page(
        string typed,
        IReadOnlyCollection<SchoolRole> roles,
        GroupId? group,
        bool left,
        Instant now,
        int skip,
        int most
    )
    {
        var (where, values) = Filter(typed, roles, group, left);
        values.Add("now", now.ToUnixTimeMilliseconds());
        values.Add("skip", skip);
        values.Add("most", most);
        return Entries($"{where} order by {ByName} limit @most offset @skip", values);
    }

    /// <summary>How many these are.</summary>
    public int Count(string typed, IReadOnlyCollection<SchoolRole> roles, GroupId? group, bool left)
    {
        var (where, values) = Filter(typed, roles, group, left);
        return (int)connection.ExecuteScalar<long>($"select count(*) from people p {where}", values);
    }

    /// <summary>How many there are of each role who are here, and how many have left.</summary>
    public (IReadOnlyDictionary<SchoolRole, int> Here, int Left) Counts()
    {
        var found = connection
            .Query<(string Role, long Here, long Gone)>(
                """
                select role, sum(ended_at is null), sum(ended_at is not null) from people where erased_at is null group by role
                """
            )
            .ToList();
        // Those whose role cannot be read are counted nowhere.
        var roles = Enum.GetValues<SchoolRole>().ToDictionary(Stored.Text);
        return (
            found.Where(row => roles.ContainsKey(row.Role)).ToDictionary(row => roles[row.Role], row => (int)row.Here),
            (int)found.Sum(row => row.Gone)
        );
    }

    /// <summary>Whether the school knows more than one person.</summary>
    public bool AreSeveral() =>
        connection.ExecuteScalar<long>("select exists (select 1 from people where id > 1)") == 1;

    /// <summary>A person with how they come in; null where there is none, or they were erased.</summary>
    public PersonWithEntry? Entry(PersonId id, Instant now)
    {
        var values = new DynamicParameters();
        values.Add("id", id.Value);
        values.Add("now", now.ToUnixTimeMilliseconds());
        return Entries("where p.id = @id and p.erased_at is null", values).SingleOrDefault();
    }

    /// <summary>Everybody, to hold a list beside; those who have left, too.</summary>
    public IReadOnlyList<KnownPerson> Known() =>
        rows.All(
            connection.Query<(long Id, string Name, string? Email, string Role, string Source, long Left)>(
                "select id, name, email, role, ifnull(source, ''), ended_at is not null from people where erased_at is null"
            ),
            row => new KnownPerson(
                new PersonId(row.Id),
                row.Name,
                AddressOf(row.Email),
                Stored.As<SchoolRole>(row.Role),
                row.Source,
                row.Left == 1
            ),
            row => (UnreadableKind.Person, row.Id, null, row.Name)
        );

    /// <summary>The addresses of those who work or learn here, to know where that is.</summary>
    public IReadOnlyList<EmailAddress> HomeAddresses() =>
        [
            .. connection
                .Query<string>($"select email from people where {IsStaff} and email is not null and ended_at is null")
                .Select(email => new EmailAddress(email)),
        ];

    /// <summary>Begins a second factor, or ends it.</summary>
    /// <param name="id">Whose.</param>
    /// <param name="factor">The number its key is made from; 0 for none.</param>
    /// <param name="since">Since when it is asked for; null while it is only begun.</param>
    /// <param name="step">The step of time whose code was used last.</param>
    public void SetFactor(PersonId id, int factor, Instant? since, long step) =>
        connection.Execute(
            "update people set factor = @factor, factor_since = @since, factor_step = @step where id = @id",
            new
            {
                id = id.Value,
                factor,
                since = since?.ToUnixTimeMilliseconds(),
                step,
            }
        );

    /// <summary>Uses a code's step of time, once.</summary>
    /// <returns>False where it was used, or a later one.</returns>
    public bool UseFactorStep(PersonId id, long step) =>
        connection.Execute(
            "update people set factor_step = @step where id = @id and factor_step < @step",
            new { id = id.Value, step }
        ) == 1;

    /// <summary>Keeps the recovery codes of somebody in place of those before.</summary>
    public void SetRecoveryCodes(PersonId id, IEnumerable<byte[]> hashes)
    {
        connection.Execute("delete from recovery_codes where person_id = @id", new { id = id.Value });
        connection.Execute(
            "insert into recovery_codes (person_id, code_hash) values (@id, @hash)",
            hashes.Select(hash => new { id = id.Value, hash })
        );
    }

    /// <summary>Uses a recovery code, once.</summary>
    public bool UseRecoveryCode(PersonId id, byte[] hash) =>
        connection.Execute(
            "delete from recovery_codes where person_id = @id and code_hash = @hash",
            new { id = id.Value, hash }
        ) == 1;

    /// <summary>How many recovery codes somebody has left.</summary>
    public int RecoveryCodes(PersonId id) =>
        (int)
            connection.ExecuteScalar<long>(
                "select count(*) from recovery_codes where person_id = @id",
                new { id = id.Value }
            );

    /// <summary>Whether somebody, or a group, cannot be found by their name: they came without it, from an older almanac.</summary>
    internal bool HasUnfound() =>
        connection.ExecuteScalar<long>(
            """
            select exists (select 1 from people p where p.erased_at is null
                    and not exists (select 1 from person_words w where w.person_id = p.id))
                or exists (select 1 from groups g where not exists (select 1 from group_words w where w.group_id = g.id))
            """
        ) == 1;

    /// <summary>Writes the words of those who have none.</summary>
    internal bool WriteWords()
    {
        foreach (
            var (id, name, email) in connection
                .Query<(long, string, string?)>(
                    "select id, name, email from people p where not exists (select 1 from person_words w where w.person_id = p.id)"
                )
                .ToList()
        )
            WriteWords(id, name, AddressOf(email));
        foreach (
            var (id, name) in connection
                .Query<(long, string)>(
                    "select id, name from groups g where not exists (select 1 from group_words w where w.group_id = g.id)"
                )
                .ToList()
        )
            GroupStore.WriteWords(connection, id, name);
        return true;
    }

    // What stands before the @ of the address counts, too: some are known by it.
    private void WriteWords(long id, string name, EmailAddress? email)
    {
        connection.Execute("delete from person_words where person_id = @id", new { id });
        connection.Execute(
            "insert or ignore into person_words (word, person_id) values (@word, @id)",
            NameWords
                .Of(name)
                .Concat(NameWords.Of(email?.LocalPart ?? ""))
                .DefaultIfEmpty("?")
                .Select(word => new { word, id })
        );
    }

    private static (string Where, DynamicParameters Values) Filter(
        string typed,
        IReadOnlyCollection<SchoolRole> roles,
        GroupId? group,
        bool left
    )
    {
        var words = NameWords.Of(typed).OrderByDescending(word => word.Length).ToList();
        var values = Words(words);
        var where = $"where p.erased_at is null and p.ended_at is {(left ? "not " : "")}null";
        if (typed.Contains('@', StringComparison.Ordinal))
        {
            // The beginning of an address.
            where += " and p.email >= @mail and p.email < @mailEnd";
            values.Add("mail", typed.Trim());
            values.Add("mailEnd", typed.Trim() + "\U0010FFFF");
        }
        else if (words.Count > 0)
            where += $" and {Worded(words.Count)}";
        if (roles.Count > 0)
        {
            where += " and p.role in @roles";
            values.Add("roles", roles.Select(Stored.Text).ToArray());
        }

        if (group is { } id)
        {
            where += " and p.id in (select person_id from group_members where group_id = @group)";
            values.Add("group", id.Value);
        }

        return (where, values);
    }

    // The longest word leads: there are fewest of it. Up to what sorts behind all that begin with it.
    private static string Worded(int count) =>
        "p.id in (select person_id from person_words where word >= @word0 and word < @end0)"
        + string.Concat(
            Enumerable
                .Range(1, count - 1)
                .Select(at =>
                    $" and exists (select 1 from person_words w where w.person_id = p.id and w.word >= @word{at} and w.word < @end{at})"
                )
        );

    private static DynamicParameters Words(List<string> words)
    {
        var values = new DynamicParameters();
        foreach (var (at, word) in words.Index())
        {
            values.Add($"word{at}", word);
            values.Add($"end{at}", word + "\U0010FFFF");
        }

        return values;
    }

    private List<PersonWithEntry> Entries(string where, DynamicParameters values) =>
        rows.All(
            connection.Query<EntryRow>(
                $"""
                select p.id, p.name, p.email, p.role, p.ended_at as EndedAt, p.version, p.password_hash is not null as Enters,
                    p.last_sign_in_at as SignedIn, p.source,
                    (select max(i.ends_at) from invitations i where i.person_id = p.id and i.purpose = 'join' and i.used_at is null
                        and i.withdrawn_at is null and i.ends_at > @now) as Invited
                from people p {where}
                """,
                values
            ),
            row => new PersonWithEntry(
                ToPerson(row.Id, row.Name, AddressOf(row.Email), row.Role, row.EndedAt, row.Version),
                row.Enters == 1,
                row.SignedIn is { } at ? Stored.At(at) : null,
                row.Invited is { } until ? Stored.At(until) : null,
                row.Source ?? ""
            ),
            row => (UnreadableKind.Person, row.Id, null, row.Name)
        );

    private Credentials? Credential(string where, object values) =>
        rows.All(
                connection.Query<PersonRow>($"{Columns} {where}", values),
                row => new Credentials(
                    ToPerson(row),
                    row.PasswordHash,
                    row.Stamp,
                    (int)row.Factor,
                    row.FactorSince is not null,
                    row.FactorStep
                ),
                Named
            )
            .SingleOrDefault();

    private List<Person> Read(IEnumerable<PersonRow> found) => rows.All(found, ToPerson, Named);

    private static Person ToPerson(PersonRow row) =>
        ToPerson(row.Id, row.Name, AddressOf(row.Email), row.Role, row.EndedAt, row.Version);

    private static EmailAddress? AddressOf(string? email) => email is null ? null : new EmailAddress(email);

    // Whose role cannot be read may do nothing.
    private static Person ToPerson(
        long id,
        string name,
        EmailAddress? email,
        string role,
        long? endedAt,
        long version
    ) =>
        new(new PersonId(id), name, email, Stored.As<SchoolRole>(role))
        {
            EndedAt = endedAt is { } at ? Stored.At(at) : null,
            Version = (int)version,
        };

    private static (UnreadableKind, long, Core.Calendars.CalendarId?, string) Named(PersonRow row) =>
        (UnreadableKind.Person, row.Id, null, row.Name);

    private sealed record PersonRow(
        long Id,
        string Name,
        string? Email,
        string Role,
        string? PasswordHash,
        string Stamp,
        long? EndedAt,
        long Version,
        long Factor,
        long? FactorSince,
        long FactorStep
    );

    // With properties, as what is computed has no type where there is no row.
    private sealed class EntryRow
    {
        public long Id { get; init; }
        public string Name { get; init; } = "";
        public string? Email { get; init; }
        public string Role { get; init; } = "";
        public long? EndedAt { get; init; }
        public long Version { get; init; }
        public long Enters { get; init; }
        public long? SignedIn { get; init; }
        public string? Source { get; init; }
        public long? Invited { get; init; }
    }
}
