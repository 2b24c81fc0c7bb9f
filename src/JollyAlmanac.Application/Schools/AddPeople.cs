using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Schools;

/// <summary>A person to add; without a password they cannot sign in yet.</summary>
public sealed record NewPerson(string Name, string Email, SchoolRole Role, string? Password = null);

/// <summary>Adds people and groups. For coordinators.</summary>
public sealed class AddPeople(AlmanacDatabase database, IClock clock, Passwords passwords)
{
    /// <summary>Adds people, all or none of them.</summary>
    public Outcome<IReadOnlyList<PersonId>> Do(Viewer viewer, IReadOnlyList<NewPerson> people)
    {
        if (viewer is not { Role: SchoolRole.Coordinator, Person: { } by }) return new Outcome<IReadOnlyList<PersonId>>.NotAllowed();
        var entry = new Entry();
        foreach (var person in people) PeopleEntry.Read(entry, person.Name, person.Email, person.Password, "");
        if (!entry.IsGood) return new Outcome<IReadOnlyList<PersonId>>.Refused(entry.Problems);
        var hashes = people.Select(person => person.Password is null ? null : passwords.Hash(person.Password)).ToList();
        return database.Write<Outcome<IReadOnlyList<PersonId>>>(stores =>
        {
            var now = clock.GetCurrentInstant();
            var ids = new List<PersonId>();
            foreach (var (person, hash) in people.Zip(hashes))
            {
                if (stores.People.FindByEmail(person.Email) is not null)
                    return new Outcome<IReadOnlyList<PersonId>>.Refused([new Problem("Email", $"Somebody with the address {person.Email} is here already.")]);
                ids.Add(stores.People.Add(person.Name, person.Email, person.Role, hash, Guid.NewGuid().ToString("N"), now));
                stores.History.Add(now, by, null, HistorySubject.Person, ids[^1].Value, "AddPeople", $"added {person.Name}", null, null);
            }

            return new Outcome<IReadOnlyList<PersonId>>.Done(ids);
        }, outcome => outcome.IsDone);
    }

    /// <summary>Adds a group with its members.</summary>
    public Outcome<GroupId> AddGroup(Viewer viewer, string name, GroupKind kind, IReadOnlyCollection<PersonId> members) =>
        database.Write<Outcome<GroupId>>(stores =>
        {
            if (viewer is not { Role: SchoolRole.Coordinator, Person: { } by }) return new Outcome<GroupId>.NotAllowed();
            var group = stores.People.AddGroup(name, kind);
            stores.People.AddMembers(group, members);
            stores.History.Add(clock.GetCurrentInstant(), by, null, HistorySubject.Group, group.Value, "AddGroup", $"made the group {name} of {members.Count}", null, null);
            return new Outcome<GroupId>.Done(group);
        }, outcome => outcome.IsDone);
}
