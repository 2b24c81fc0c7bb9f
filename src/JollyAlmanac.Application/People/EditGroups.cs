using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Application.People;

/// <summary>A group with who is in it.</summary>
/// <param name="Group">The group.</param>
/// <param name="Members">Those who are in it by name, by name.</param>
/// <param name="Holds">The groups it holds.</param>
/// <param name="Within">The groups it is in.</param>
/// <param name="Calendars">The titles of the calendars it was given access to.</param>
/// <param name="Others">Groups that could be put into it.</param>
/// <param name="IsOfRole">It holds whoever has a role: nobody is put into it or taken out by hand.</param>
public sealed record GroupPage(
    Group Group,
    IReadOnlyList<Person> Members,
    IReadOnlyList<Group> Holds,
    IReadOnlyList<Group> Within,
    IReadOnlyList<(Slug Slug, string Title, AccessLevel Level)> Calendars,
    IReadOnlyList<Group> Others,
    bool IsOfRole
);

/// <summary>Keeps groups and who is in them. For coordinators.</summary>
public sealed class EditGroups(Gate gate)
{
    private const string OfRole =
        "Whoever has the role is in this group, and nobody else. Change the role of a person, at People.";

    /// <summary>All groups, by name.</summary>
    public Outcome<IReadOnlyList<Group>> All(Viewer viewer) =>
        gate.Read<IReadOnlyList<Group>>(Operation.SeePeople, viewer, at => new Outcome<IReadOnlyList<Group>>.Done(
            at.Stores.Groups.All()
        ));

    /// <summary>A group.</summary>
    public Outcome<GroupPage> Open(Viewer viewer, GroupId id) => gate.Read<GroupPage>(Operation.SeePeople, viewer, at =>
        {
            var stores = at.Stores;
            if (stores.Groups.Find(id) is not { } group)
                return new Outcome<GroupPage>.NotFound();
            var (holds, within) = (stores.Groups.Holds(), stores.Groups.Within());
            return new Outcome<GroupPage>.Done(
                new GroupPage(
                    group,
                    stores.People.Of(stores.Groups.NamedIn(id)),
                    stores.Groups.Of([.. holds[id]]),
                    stores.Groups.Of([.. within[id]]),
                    [
                        .. stores
                            .Calendars.GrantsToGroup(id)
                            .Select(grant => (stores.Calendars.Get(grant.Calendar), grant.Level))
                            .Where(one => one.Item1.IsInUse)
                            .Select(one => (one.Item1.Slug, one.Item1.Title, one.Level)),
                    ],
                    [
                        .. stores
                            .Groups.All()
                            .Where(other =>
                                other.Id != id
                                && !holds[id].Contains(other.Id)
                                && !GroupCircle.Closes(id, other.Id, holds)
                            ),
                    ],
                    stores.Groups.IsOfRole(id)
                )
            );
        });

    /// <summary>Changes a group's name and kind.</summary>
    public Outcome<GroupId> Change(Viewer viewer, GroupId id, string? name, GroupKind kind, int version) =>
        gate.Write<GroupId>(Operation.ChangeGroup, viewer, at =>
        {
            if (at.Stores.Groups.Find(id) is not { } group)
                return new Outcome<GroupId>.NotFound();
            var entry = new FormReader();
            var called = entry.Line("Name", name, "The name", RosterPlan.LongestName, needed: true);
            if (!Enum.IsDefined(kind))
                entry.Wrong("Kind", "Choose what the group stands for.");
            if (called.Length > 0 && at.Stores.Groups.Named(called) is { } other && other != id)
                entry.Wrong("Name", $"There is a group called {called} already.");
            if (!entry.IsGood)
                return new Outcome<GroupId>.Refused(entry.Problems);
            if (!at.Stores.Groups.Change(id, called, kind, version))
                return new Outcome<GroupId>.Stale(null);
            at.Note(
                HistorySubject.Group,
                id.Value,
                $"changed the group {group.Name}{(called == group.Name ? "" : $", now {called}")}"
            );
            return new Outcome<GroupId>.Done(id);
        });

    /// <summary>Puts people into a group: addresses of people the school knows, as one has them.</summary>
    /// <returns>How many came in.</returns>
    public Outcome<int> AddMembers(Viewer viewer, GroupId id, string? text) =>
        gate.Write<int>(Operation.ChangeGroup, viewer, at =>
        {
            if (at.Stores.Groups.Find(id) is not { } group)
                return new Outcome<int>.NotFound();
            if (at.Stores.Groups.IsOfRole(id))
                return Outcome.Because<int>("People", OfRole);
            var entry = new FormReader();
            var list = AddressList.Read(entry.Bounded("People", text, "The list of people", 50_000));
            foreach (var problem in list.Problems)
                entry.Wrong("People", problem.Sentence);
            var people = at.Stores.People.FindByEmails([.. list.People.Select(one => one.Address).Take(2000)]);
            foreach (var one in list.People.Where(one => !people.ContainsKey(one.Address)))
                entry.Wrong(
                    "People",
                    $"Nobody at the school has the address {Wording.Quote(one.Address.Value)}. Bring them in first, or look how it is written."
                );
            if (list.People.Length == 0 && entry.IsGood)
                entry.Wrong("People", "Write the e-mail addresses of those who come in.");
            if (!entry.IsGood)
                return new Outcome<int>.Refused(entry.Problems);
            var before = at.Stores.Groups.NamedIn(id).ToHashSet();
            var fresh = people.Values.Distinct().Where(one => !before.Contains(one)).ToList();
            at.Stores.Groups.AddMembers(id, fresh);
            if (fresh.Count > 0)
                at.Note(
                    HistorySubject.Group,
                    id.Value,
                    $"put {Wording.Count(fresh.Count, "person", "people")} into {group.Name}"
                );
            return new Outcome<int>.Done(fresh.Count);
        });

    /// <summary>Takes somebody out of a group.</summary>
    public Outcome<int> RemoveMember(Viewer viewer, GroupId id, PersonId person) =>
        gate.Write<int>(Operation.ChangeGroup, viewer, at =>
        {
            if (at.Stores.Groups.IsOfRole(id))
                return Outcome.Because<int>("People", OfRole);
            if (at.Stores.Groups.Find(id) is not { } group || at.Stores.Groups.RemoveMembers(id, [person]) == 0)
                return new Outcome<int>.NotFound();
            var name = at.Stores.People.NamesOf([person]).GetValueOrDefault(person, "somebody");
            at.Note(HistorySubject.Group, id.Value, $"took {name} out of {group.Name}", named: [person]);
            return new Outcome<int>.Done(1);
        });

    /// <summary>Puts a group into another.</summary>
    public Outcome<int> AddGroup(Viewer viewer, GroupId id, GroupId held) =>
        gate.Write<int>(Operation.ChangeGroup, viewer, at =>
        {
            if (at.Stores.Groups.Find(id) is not { } group || at.Stores.Groups.Find(held) is not { } other)
                return new Outcome<int>.NotFound();
            if (at.Stores.Groups.IsOfRole(id))
                return Outcome.Because<int>("Group", OfRole);
            if (GroupCircle.Closes(id, held, at.Stores.Groups.Holds()))
                return Outcome.Because<int>(
                    "Group",
                    $"{other.Name} holds {group.Name} already, so {group.Name} cannot hold it: that would be a circle."
                );
            at.Stores.Groups.AddGroup(id, held);
            at.Note(HistorySubject.Group, id.Value, $"put the group {other.Name} into {group.Name}");
            return new Outcome<int>.Done(1);
        });

    /// <summary>Takes a group out of another.</summary>
    public Outcome<int> RemoveGroup(Viewer viewer, GroupId id, GroupId held) =>
        gate.Write<int>(Operation.ChangeGroup, viewer, at =>
        {
            if (
                at.Stores.Groups.Find(id) is not { } group
                || at.Stores.Groups.Find(held) is not { } other
                || !at.Stores.Groups.RemoveGroup(id, held)
            )
                return new Outcome<int>.NotFound();
            at.Note(HistorySubject.Group, id.Value, $"took the group {other.Name} out of {group.Name}");
            return new Outcome<int>.Done(1);
        });

    /// <summary>Takes a group away, where nothing is left without a manager by it.</summary>
    public Outcome<string> Remove(Viewer viewer, GroupId id, string? name) =>
        gate.Write<string>(Operation.ChangeGroup, viewer, at =>
        {
            if (at.Stores.Groups.Find(id) is not { } group)
                return new Outcome<string>.NotFound();
            if (!string.Equals(name?.Trim(), group.Name, StringComparison.OrdinalIgnoreCase))
                return Outcome.Because<string>(
                    "RemoveName",
                    $"Write the group’s name, {group.Name}, to take it away. Nothing was changed."
                );
            if (at.Stores.Groups.IsOfRole(id))
                return Outcome.Because<string>("RemoveName", OfRole);
            if (at.Stores.Groups.CountOnlyFor(id) is > 0 and var things)
                return Outcome.Because<string>(
                    "RemoveName",
                    $"{Wording.Count(things, "entry, material or link is", "entries, materials or links are")} only for {group.Name}. Give {(things == 1 ? "it" : "them")} to others first."
                );
            foreach (var grant in at.Stores.Calendars.GrantsToGroup(id))
            {
                var calendar = at.Stores.Calendars.Get(grant.Calendar);
                var left = at.Stores.Calendars.GrantsOf(grant.Calendar).Where(one => one.To != grant.To).ToList();
                if (
                    grant.Level == AccessLevel.Manager
                    && calendar.DeletedAt is null
                    && !EditPeople.Managed(at.Stores, left)
                )
                    return Outcome.Because<string>(
                        "RemoveName",
                        $"Nobody else manages {calendar.Title}. Make somebody its manager first."
                    );
                at.Stores.History.Add(
                    at.Now,
                    at.Person,
                    grant.Calendar,
                    HistorySubject.Calendar,
                    grant.Calendar.Value,
                    at.Operation.Name,
                    $"took the group {group.Name} away, which had the level {AccessPhrases.NameOf(grant.Level)}",
                    null,
                    null
                );
            }

            at.Stores.Groups.Remove(id);
            at.Note(HistorySubject.Group, id.Value, $"took the group {group.Name} away");
            return new Outcome<string>.Done(group.Name);
        });
}
