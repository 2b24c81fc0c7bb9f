using System.Security.Cryptography;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.People;

/// <summary>A page of the people of the school.</summary>
/// <param name="People">A page of them, by name.</param>
/// <param name="Total">How many they are.</param>
/// <param name="Here">How many there are of each role.</param>
/// <param name="Left">How many have left.</param>
/// <param name="Group">The name of the group whose people are shown alone; null for none.</param>
/// <param name="Waiting">How many letters wait.</param>
public sealed record PeoplePage(
    IReadOnlyList<PersonWithEntry> People,
    int Total,
    IReadOnlyDictionary<SchoolRole, int> Here,
    int Left,
    string? Group,
    int Waiting
)
{
    /// <summary>How many stand on a page.</summary>
    public const int Size = 50;
}

/// <summary>Whom to show.</summary>
/// <param name="Find">The first letters of names' words; empty for everybody.</param>
/// <param name="Roles">Only those of these roles; empty for all.</param>
/// <param name="Group">Only those who are in that group by name.</param>
/// <param name="Left">Those who have left.</param>
/// <param name="Number">The page, from 1.</param>
public sealed record PeopleFilter(
    string Find = "",
    IReadOnlyList<SchoolRole>? Roles = null,
    GroupId? Group = null,
    bool Left = false,
    int Number = 1
);

/// <summary>A calendar that somebody has a part in.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">Their level, by all that reaches them.</param>
/// <param name="IsOwner">They answer for it.</param>
/// <param name="IsLastManager">Nobody but they manages it.</param>
public sealed record PartOf(Calendar Calendar, AccessLevel Level, bool IsOwner, bool IsLastManager);

/// <summary>One person of the school, with all they have a part in.</summary>
/// <param name="Entry">The person.</param>
/// <param name="Groups">The groups they are in by name.</param>
/// <param name="Parts">The calendars that name them, or that they answer for.</param>
/// <param name="Hosts">The join links they are host of.</param>
/// <param name="Outlets">How many feeds and embeds they made that still stand.</param>
/// <param name="HasFactor">They have a second factor.</param>
/// <param name="WhyStays">Why they cannot leave now; null where they can.</param>
/// <param name="Heirs">Who can take over what they leave: those who work here, by name.</param>
public sealed record PersonPage(
    PersonWithEntry Entry,
    IReadOnlyList<Group> Groups,
    IReadOnlyList<PartOf> Parts,
    IReadOnlyList<JoinLink> Hosts,
    int Outlets,
    bool HasFactor,
    string? WhyStays,
    IReadOnlyList<Person> Heirs
)
{
    /// <summary>Whose family they are.</summary>
    public IReadOnlyList<Person> Children { get; init; } = [];

    /// <summary>When they are away, from today on, the earliest first.</summary>
    public IReadOnlyList<Absence> Absences { get; init; } = [];

    /// <summary>There is something to be given on when they leave.</summary>
    public bool LeavesSomething => EditPeople.LeavesSomething(Parts, Hosts.Count, Outlets);
}

/// <summary>What the form of a person says, as typed.</summary>
/// <param name="Name">Their name.</param>
/// <param name="Email">Their address; may be empty.</param>
/// <param name="Role">What they are.</param>
/// <param name="Version">The version the form was made from; 0 for somebody new.</param>
public sealed record PersonInput(string? Name, string? Email, SchoolRole Role, int Version = 0);

/// <summary>Keeps the people of the school. For coordinators.</summary>
public sealed class EditPeople(Gate gate, Passwords passwords)
{
    /// <summary>People, a page of them.</summary>
    public Outcome<PeoplePage> Page(Viewer viewer, PeopleFilter filter) =>
        gate.Read<PeoplePage>(Operation.SeePeople, viewer, at =>
        {
            var roles = filter.Roles ?? [];
            var (here, left) = at.Stores.People.Counts();
            return new Outcome<PeoplePage>.Done(
                new PeoplePage(
                    at.Stores.People.Page(
                        filter.Find,
                        roles,
                        filter.Group,
                        filter.Left,
                        at.Now,
                        (Math.Clamp(filter.Number, 1, 10_000) - 1) * PeoplePage.Size,
                        PeoplePage.Size
                    ),
                    at.Stores.People.Count(filter.Find, roles, filter.Group, filter.Left),
                    here,
                    left,
                    filter.Group is { } group ? at.Stores.Groups.NameOf(group) : null,
                    at.Stores.Letters.Waiting()
                )
            );
        });

    /// <summary>People and groups by the first letters of their names, for who works here.</summary>
    public Outcome<(IReadOnlyList<Person> People, IReadOnlyList<Group> Groups)> Find(
        Viewer viewer,
        string typed,
        int most
    ) =>
        gate.Read<(IReadOnlyList<Person>, IReadOnlyList<Group>)>(Operation.FindPeople, viewer, at => new Outcome<(
            IReadOnlyList<Person>,
            IReadOnlyList<Group>
        )>.Done(
            (
                typed.Length > 100 ? [] : at.Stores.People.Find(typed, most),
                typed.Length > 100 ? [] : at.Stores.Groups.Find(typed, most)
            )
        ));

    /// <summary>One person.</summary>
    public Outcome<PersonPage> Open(Viewer viewer, PersonId id) =>
        gate.Read<PersonPage>(Operation.SeePeople, viewer, at =>
        {
            var stores = at.Stores;
            if (stores.People.Entry(id, at.Now) is not { } entry)
                return new Outcome<PersonPage>.NotFound();
            var parts = PartsOf(stores, id);
            return new Outcome<PersonPage>.Done(
                new PersonPage(
                    entry,
                    stores.Groups.Of(stores.Groups.Direct(id)),
                    parts,
                    stores.JoinLinks.HostedBy(id),
                    stores.Publications.MadeBy(id),
                    stores.People.Find(id)?.HasFactor ?? false,
                    WhyStays(stores, entry.Person),
                    [.. stores.People.Staff([]).Select(one => one.Person).Where(one => one.Id != id)]
                )
                {
                    Children = stores.People.Of(stores.People.ChildrenOf(id)),
                    Absences = stores.Absences.Of(id, at.Today),
                }
            );
        });

    /// <summary>Adds somebody.</summary>
    public Outcome<PersonId> Add(Viewer viewer, PersonInput input) =>
        gate.Write<PersonId>(Operation.AddPeople, viewer, at =>
        {
            var (name, email, problems) = Read(at.Stores, input, null);
            if (problems.Count > 0)
                return new Outcome<PersonId>.Refused(problems);
            var id = at.Stores.People.Add(name, email, input.Role, null, Secrets.NewStamp(), at.Now);
            at.Note(HistorySubject.Person, id.Value, $"added {name}");
            return new Outcome<PersonId>.Done(id);
        });

    /// <summary>Changes somebody's name, address or role.</summary>
    public Outcome<Person> Change(Viewer viewer, PersonId id, PersonInput input) =>
        gate.Write<Person>(Operation.ChangePerson, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { } person)
                return new Outcome<Person>.NotFound();
            var (name, email, problems) = Read(at.Stores, input, person);
            if (problems.Count > 0)
                return new Outcome<Person>.Refused(problems);
            if (
                person.Role == SchoolRole.Coordinator
                && input.Role != SchoolRole.Coordinator
                && IsLastCoordinator(at.Stores, id)
            )
                return Outcome.Because<Person>(
                    "Role",
                    $"{person.Name} is the only coordinator. Make somebody else one first."
                );
            if (!at.Stores.People.Change(id, name, email, input.Role, input.Version))
                return new Outcome<Person>.Stale(null);
            // An address is a way in: what was sent to the one before is worth nothing now.
            if (email != person.Email)
            {
                at.Stores.Invitations.Withdraw(id, InvitationPurpose.Join, at.Now);
                at.Stores.Invitations.Withdraw(id, InvitationPurpose.Reset, at.Now);
            }

            var what = new List<string>();
            if (name != person.Name)
                what.Add($"is called {name}");
            if (email?.Value != person.Email?.Value)
                what.Add(email is not null ? $"has the address {email}" : "has no address");
            if (input.Role != person.Role)
                what.Add($"is {input.Role.ToString().ToLowerInvariant()}");
            if (what.Count > 0)
                at.Note(HistorySubject.Person, id.Value, $"changed {person.Name}: {Wording.List(what)}");
            return new Outcome<Person>.Done(at.Stores.People.Get(id)!);
        });

    /// <summary>Sets whose family somebody is: their own page is then laid out by child. It gives access to nothing.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="id">The family member.</param>
    /// <param name="children">The students' addresses, any separators; empty for none.</param>
    public Outcome<int> SetChildren(Viewer viewer, PersonId id, string? children) =>
        gate.Write<int>(Operation.SetChildren, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { EndedAt: null, Role: SchoolRole.Family } family)
                return new Outcome<int>.NotFound();
            var entry = new FormReader();
            var list = AddressList.Read(entry.Lines("Children", children, "The list of children", 2000));
            foreach (var (_, sentence) in list.Problems)
                entry.Wrong("Children", sentence);
            var found = new List<Person>();
            foreach (var named in list.People)
                if (at.Stores.People.FindByEmail(named.Address)?.Person is { Role: SchoolRole.Student } child)
                    found.Add(child);
                else
                    entry.Wrong(
                        "Children",
                        $"{Wording.Quote(named.Address.Value)} is no student of the school. Look under People for the address."
                    );
            if (found.Count > MostChildren)
                entry.Wrong("Children", $"These are {found.Count} children; there may be {MostChildren}.");
            if (!entry.IsGood)
                return new Outcome<int>.Refused(entry.Problems);
            var ids = found.Select(child => child.Id).Distinct().ToList();
            if (ids.ToHashSet().SetEquals(at.Stores.People.ChildrenOf(id)))
                return new Outcome<int>.Done(ids.Count);
            at.Stores.People.SetChildren(id, ids);
            at.Note(
                HistorySubject.Person,
                id.Value,
                ids.Count == 0
                    ? $"noted no children of {family.Name}"
                    : $"noted whose family {family.Name} is: {Wording.List([.. found.Select(child => child.Name)])}",
                named: ids
            );
            return new Outcome<int>.Done(ids.Count);
        });

    // More than any family has.
    private const int MostChildren = 20;

    /// <summary>
    /// Notes that somebody has left: they reach nothing from now on, and can be brought back. What they answered for, hosted and
    /// published goes to somebody else, so that nothing goes dead or stays alive unseen.
    /// </summary>
    /// <param name="viewer">Who says so.</param>
    /// <param name="id">Who has left.</param>
    /// <param name="version">The version that was looked at.</param>
    /// <param name="heir">Who takes over; null where there is nothing to take over.</param>
    public Outcome<Person> End(Viewer viewer, PersonId id, int version, PersonId? heir) =>
        gate.Write<Person>(Operation.EndPerson, viewer, at =>
        {
            var stores = at.Stores;
            if (stores.People.Get(id) is not { EndedAt: null } person)
                return new Outcome<Person>.NotFound();
            if (WhyStays(stores, person) is { } reason)
                return Outcome.Because<Person>("", reason);
            var parts = PartsOf(stores, id);
            var hosts = stores.JoinLinks.HostedBy(id);
            var leaves = LeavesSomething(parts, hosts.Count, stores.Publications.MadeBy(id));
            var next =
                heir is { } named
                && named != id
                && stores.People.Find(named) is { Person: { Role: SchoolRole.Coordinator or SchoolRole.Teacher } one }
                    ? one
                    : null;
            if (leaves && next is null)
                return Outcome.Because<Person>(
                    "Heir",
                    $"Choose who takes over what {person.Name} leaves: somebody who works here."
                );
            if (!Depart(stores, id, version, at.Now))
                return new Outcome<Person>.Stale(null);
            if (next is not null)
                GiveOn(at, person, next, parts, hosts);
            at.Note(HistorySubject.Person, id.Value, $"noted that {person.Name} has left");
            return new Outcome<Person>.Done(stores.People.Get(id)!);
        });

    /// <summary>Whether somebody keeps a thing that is to be given on before they go.</summary>
    internal static bool LeavesSomething(Stores stores, PersonId id) =>
        LeavesSomething(PartsOf(stores, id), stores.JoinLinks.HostedBy(id).Count, stores.Publications.MadeBy(id));

    /// <summary>The same of what is read already: their parts, how many links they host, how many feeds and embeds they made.</summary>
    internal static bool LeavesSomething(IReadOnlyList<PartOf> parts, int hosts, int outlets) =>
        parts.Any(part => part.IsOwner || part.IsLastManager) || hosts > 0 || outlets > 0;

    /// <summary>Ends somebody's account: their sign-ins, and the ways in that are still on the way to them.</summary>
    /// <returns>False where they changed since that version.</returns>
    internal static bool Depart(Stores stores, PersonId id, int version, Instant now)
    {
        if (!stores.People.SetEnd(id, now, Secrets.NewStamp(), version))
            return false;
        stores.SignIns.EndAll(id, null);
        stores.Invitations.Withdraw(id, InvitationPurpose.Join, now);
        stores.Invitations.Withdraw(id, InvitationPurpose.Reset, now);
        return true;
    }

    /// <summary>Brings somebody back who has left: what names them reaches them again; what was given on stays where it is.</summary>
    public Outcome<Person> BringBack(Viewer viewer, PersonId id, int version) =>
        gate.Write<Person>(Operation.BringBackPerson, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { EndedAt: not null } person)
                return new Outcome<Person>.NotFound();
            if (!at.Stores.People.SetEnd(id, null, Secrets.NewStamp(), version))
                return new Outcome<Person>.Stale(null);
            at.Note(HistorySubject.Person, id.Value, $"brought {person.Name} back");
            return new Outcome<Person>.Done(at.Stores.People.Get(id)!);
        });

    /// <summary>
    /// Gives somebody a first password, where no letter reaches them: it is shown once, to be told by word of mouth. One they have, and
    /// their second factor, end by it.
    /// </summary>
    public Outcome<string> GivePassword(Viewer viewer, PersonId id)
    {
        var password = string.Join(
            '-',
            Enumerable.Range(0, 4).Select(_ => RandomNumberGenerator.GetString("34679cdfghjkmnpqrtwx", 4))
        );
        var hash = passwords.Hash(password);
        return gate.Write<string>(Operation.GivePassword, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { EndedAt: null } person)
                return new Outcome<string>.NotFound();
            if (id == at.Person)
                return Outcome.Because<string>("", "Change your own password on your account’s page.");
            if (person.Email is null)
                return Outcome.Because<string>(
                    "",
                    $"{person.Name} has no e-mail address to sign in with. Add one first."
                );
            at.Stores.People.SetPassword(id, hash, Secrets.NewStamp());
            at.Stores.SignIns.EndAll(id, null);
            Accounts.End(at.Stores, id);
            at.Stores.Invitations.Withdraw(id, InvitationPurpose.Join, at.Now);
            at.Note(HistorySubject.Person, id.Value, $"gave {person.Name} a new password");
            return new Outcome<string>.Done(password);
        });
    }

    /// <summary>
    /// Erases somebody who has left: name, address, memberships, grants. What they did stays in the history, by nobody in particular.
    /// It cannot be taken back.
    /// </summary>
    public Outcome<string> Erase(Viewer viewer, PersonId id, string? name) =>
        gate.Write<string>(Operation.ErasePerson, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { EndedAt: not null } person)
                return new Outcome<string>.NotFound();
            if (!string.Equals(name?.Trim(), person.Name, StringComparison.OrdinalIgnoreCase))
                return Outcome.Because<string>(
                    "EraseName",
                    $"Write the name, {person.Name}, to erase all that is kept of them. Nothing was erased."
                );
            at.Stores.People.Erase(id, $"Somebody who left ({id.Value})", Secrets.NewStamp(), at.Now);
            at.Stores.History.Forget(id, person.Name, person.Email, $"somebody who left ({id.Value})");
            at.Note(HistorySubject.Person, id.Value, "erased all that was kept of somebody who left");
            return new Outcome<string>.Done(person.Name);
        });

    /// <summary>All that is kept of one person, as JSON that people can read.</summary>
    public Outcome<string> Export(Viewer viewer, PersonId id) =>
        gate.Write<string>(Operation.ExportPerson, viewer, at =>
        {
            var stores = at.Stores;
            if (stores.People.Entry(id, at.Now) is not { } entry)
                return new Outcome<string>.NotFound();
            var titles = PartsOf(stores, id);
            at.Note(HistorySubject.Person, id.Value, $"exported what is kept of {entry.Person.Name}");
            return new Outcome<string>.Done(
                System.Text.Json.JsonSerializer.Serialize(
                    new
                    {
                        name = entry.Person.Name,
                        email = entry.Person.Email,
                        role = entry.Person.Role.ToString().ToLowerInvariant(),
                        knownToListsBy = entry.Source,
                        lastSignIn = entry.LastSignInAt?.ToString(),
                        hasLeftSince = entry.Person.EndedAt?.ToString(),
                        groups = stores.Groups.Of(stores.Groups.Direct(id)).Select(group => group.Name),
                        calendars = titles.Select(part => new
                        {
                            title = part.Calendar.Title,
                            level = AccessPhrases.NameOf(part.Level),
                            answersForIt = part.IsOwner,
                        }),
                        hostsJoinLinks = stores.JoinLinks.HostedBy(id).Select(link => link.Name),
                        signedIn = stores
                            .SignIns.Of(id, at.Now)
                            .Select(one => new { since = one.MadeAt?.ToString(), browser = one.Browser }),
                        getsSessionsByMailOf = stores
                            .Calendars.InUse([.. stores.Mailings.Of(id).Select(mailing => mailing.Calendar)])
                            .Select(calendar => calendar.Title),
                        ownFeedLastReadAt = stores.OwnFeeds.Of(id) is { } feed
                            ? feed.LastFetchedAt?.ToString() ?? "not yet"
                            : null,
                        familyOf = stores.People.Of(stores.People.ChildrenOf(id)).Select(child => child.Name),
                        away = stores
                            .Absences.Of(id, LocalDate.MinIsoValue)
                            .Select(one => new
                            {
                                from = one.First.ToString("uuuu-MM-dd", null),
                                to = one.Last.ToString("uuuu-MM-dd", null),
                                why = one.Reason,
                            }),
                        lastLookAtOwnPage = stores.People.LookedAt(id)?.ToString(),
                        filesUnderWay = stores.Uploads.Of(id).Count,
                        noticesSeen = stores
                            .Notices.SeenBy(id, 1_000)
                            .Select(seen => new { at = seen.At.ToString(), notice = seen.Text }),
                        did = stores
                            .History.By(id, 10_000)
                            .Select(line => new { at = line.At.ToString(), what = line.Summary }),
                    },
                    Readable
                )
            );
        });

    private static readonly System.Text.Json.JsonSerializerOptions Readable = new()
    {
        WriteIndented = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static void GiveOn(
        AtSchool at,
        Person person,
        Person next,
        IReadOnlyList<PartOf> parts,
        IReadOnlyList<JoinLink> hosts
    )
    {
        var stores = at.Stores;
        foreach (var part in parts.Where(part => part.IsOwner || part.IsLastManager))
        {
            var id = part.Calendar.Id;
            if (part.IsOwner)
                stores.Calendars.SetOwner(id, next.Id, at.Now);
            stores.Calendars.Set(new Grant(id, new Grantee.OnePerson(next.Id), AccessLevel.Manager), at.Person);
            stores.History.Add(
                at.Now,
                at.Person,
                id,
                HistorySubject.Calendar,
                id.Value,
                at.Operation.Name,
                $"handed {part.Calendar.Title} over from {person.Name} to {next.Name}",
                null,
                null,
                [person.Id, next.Id]
            );
        }

        foreach (var link in hosts)
        {
            stores.JoinLinks.ChangeHost(link.Id, person.Id, next.Id);
            stores.History.Add(
                at.Now,
                at.Person,
                link.Calendar,
                HistorySubject.JoinLink,
                link.Id.Value,
                at.Operation.Name,
                $"made {next.Name} host of {link.Name} in place of {person.Name}",
                null,
                null,
                [person.Id, next.Id]
            );
        }

        foreach (var (calendar, name, id) in stores.Publications.GiveOn(person.Id, next.Id))
            stores.History.Add(
                at.Now,
                at.Person,
                calendar,
                HistorySubject.Outlet,
                id,
                at.Operation.Name,
                $"gave {name} on from {person.Name} to {next.Name}",
                null,
                null,
                [person.Id, next.Id]
            );
    }

    private static string? WhyStays(Stores stores, Person person) =>
        person.EndedAt is null && person.Role == SchoolRole.Coordinator && IsLastCoordinator(stores, person.Id)
            ? $"{person.Name} is the only coordinator. Make somebody else one first, or nobody could keep the school."
            : null;

    private static bool IsLastCoordinator(Stores stores, PersonId id) =>
        stores.People.Coordinators().All(one => one == id);

    private static List<PartOf> PartsOf(Stores stores, PersonId id)
    {
        var owned = stores.Calendars.OwnedBy(id).ToList();
        var named = stores
            .Calendars.GrantsTo(id)
            .Select(grant => grant.Calendar)
            .Distinct()
            .Where(one => owned.TrueForAll(other => other.Id != one))
            .Select(stores.Calendars.Get)
            .Where(one => one.DeletedAt is null);
        var viewer = stores.People.ViewerOf(id);
        return
        [
            .. owned
                .Concat(named)
                .OrderBy(one => one.Title, StringComparer.OrdinalIgnoreCase)
                .Select(calendar =>
                {
                    var grants = stores.Calendars.GrantsOf(calendar.Id);
                    return new PartOf(
                        calendar,
                        AccessRules.LevelOf(viewer, grants),
                        calendar.Owner == id,
                        grants.Any(grant =>
                            grant is { Level: AccessLevel.Manager, To: Grantee.OnePerson one } && one.Person == id
                        )
                            && !Managed(
                                stores,
                                [.. grants.Where(grant => grant.To is not Grantee.OnePerson one || one.Person != id)]
                            )
                    );
                }),
        ];
    }

    internal static bool Managed(Stores stores, IReadOnlyCollection<Grant> grants)
    {
        var people = stores.People.Here([
            .. grants.Select(grant => grant.To).OfType<Grantee.OnePerson>().Select(to => to.Person),
        ]);
        var members = stores.Groups.MembersOf([
            .. grants.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group),
        ]);
        return AccessPhrases.HasManager(grants, people.Contains, group => members[group].Any());
    }

    private static (string Name, EmailAddress? Email, IReadOnlyList<Problem> Problems) Read(
        Stores stores,
        PersonInput input,
        Person? now
    )
    {
        var entry = new FormReader();
        var (name, email) = PersonFields.Read(
            entry,
            input.Name,
            input.Email,
            null,
            "",
            needsEmail: input.Role == SchoolRole.Coordinator
        );
        if (!Enum.IsDefined(input.Role))
            entry.Wrong("Role", "Choose what they are at the school.");
        if (email is { } address && stores.People.Addressed(address) is { } other && other.Id != now?.Id)
            entry.Wrong(
                "Email",
                $"{email} is the address of {other.Name}{(other.EndedAt is null ? "" : ", who has left and can be brought back")}."
            );
        return (name, email, entry.Problems);
    }
}
