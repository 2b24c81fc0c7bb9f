using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Application.People;

/// <summary>A person to add; without a password they cannot sign in yet.</summary>
public sealed record NewPerson(string Name, string Email, SchoolRole Role, string? Password = null);

/// <summary>Adds people and groups. For coordinators.</summary>
public sealed class AddPeople(Gate gate, Passwords passwords)
{
    /// <summary>Adds people, all or none of them.</summary>
    public Outcome<IReadOnlyList<PersonId>> Do(Viewer viewer, IReadOnlyList<NewPerson> people)
    {
        // Passwords are hashed before the write lock is taken, and for nobody who may not add people.
        var allowed = gate.Read<bool>(Operation.AddPeople, viewer, _ => new Outcome<bool>.Done(true));
        if (!allowed.IsDone)
            return allowed.Select<IReadOnlyList<PersonId>>(_ => []);
        var entry = new FormReader();
        var read = people
            .Select(person =>
            {
                var (name, email) = PersonFields.Read(entry, person.Name, person.Email, person.Password, "");
                return (person, name, email);
            })
            .ToList();
        if (!entry.IsGood)
            return new Outcome<IReadOnlyList<PersonId>>.Refused(entry.Problems);
        var hashes = people.Select(person => person.Password is null ? null : passwords.Hash(person.Password)).ToList();
        return gate.Write<IReadOnlyList<PersonId>>(Operation.AddPeople, viewer, at =>
        {
            var stores = at.Stores;
            var ids = new List<PersonId>();
            foreach (var ((person, name, email), hash) in read.Zip(hashes))
            {
                if (stores.People.Addressed(email!.Value) is not null)
                    return new Outcome<IReadOnlyList<PersonId>>.Refused([
                        new Problem("Email", $"Somebody with the address {email} is here already."),
                    ]);
                ids.Add(stores.People.Add(name, email, person.Role, hash, Secrets.NewStamp(), at.Now));
                at.Note(HistorySubject.Person, ids[^1].Value, $"added {name}");
            }

            return new Outcome<IReadOnlyList<PersonId>>.Done(ids);
        });
    }

    /// <summary>Adds a group with its members.</summary>
    public Outcome<GroupId> AddGroup(
        Viewer viewer,
        string name,
        GroupKind kind,
        IReadOnlyCollection<PersonId> members
    ) => gate.Write<GroupId>(Operation.AddGroup, viewer, at =>
        {
            if (at.Stores.Groups.Named(name) is not null)
                return Outcome.Because<GroupId>("Name", $"There is a group called {name} already.");
            var group = at.Stores.Groups.Add(name, kind);
            at.Stores.Groups.AddMembers(group, members);
            at.Note(HistorySubject.Group, group.Value, $"made the group {name} of {members.Count}");
            return new Outcome<GroupId>.Done(group);
        });
}
