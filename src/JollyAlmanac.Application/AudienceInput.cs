using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application;

/// <summary>What a form says of the only ones that something is for.</summary>
/// <param name="Ticked">"g12" for a group, "p7" for a person; none with no <paramref name="Others"/> is for all.</param>
/// <param name="Others">E-mail addresses of others beside them, any separators.</param>
public sealed record AudienceInput(IReadOnlyList<string>? Ticked = null, string? Others = "")
{
    /// <summary>What is stored, as a form has it.</summary>
    public static IReadOnlyList<string>? TicksOf(Audience? only) =>
        only is null ? null : [.. only.Groups.Select(KeyOf), .. only.People.Select(KeyOf)];

    /// <summary>"g12".</summary>
    public static string KeyOf(GroupId group) => string.Create(CultureInfo.InvariantCulture, $"g{group.Value}");

    /// <summary>"p7".</summary>
    public static string KeyOf(PersonId person) => string.Create(CultureInfo.InvariantCulture, $"p{person.Value}");
}

/// <summary>Whom something on a calendar can be for.</summary>
/// <param name="Groups">The groups that it is granted to, and those that they hold.</param>
/// <param name="People">Those on its class list, where it is not too long to choose from, and whoever was chosen before.</param>
public sealed record AudienceChoices(IReadOnlyList<Group> Groups, IReadOnlyList<Person> People)
{
    /// <summary>The most people to choose from by a tick; more are named by their address.</summary>
    public const int MostPeople = 60;

    /// <summary>The most groups to choose from.</summary>
    public const int MostGroups = 40;

    /// <summary>"Section B and Teodor Quill": whom a thing is for; empty where it is for all.</summary>
    public string InWords(Audience? only) =>
        only is null ? ""
        : Wording.List([
            .. Groups.Where(group => only.Groups.Contains(group.Id)).Select(group => group.Name),
            .. People.Where(person => only.People.Contains(person.Id)).Select(person => person.Name),
        ])
            is { Length: > 0 } words
            ? words
        : "nobody who is here";
}

/// <summary>Reads for whom something is.</summary>
internal static class AudienceReader
{
    /// <summary>The most persons that something can be for by name.</summary>
    private const int MostNamed = 100;

    /// <summary>Whom something on a calendar can be for.</summary>
    /// <param name="stores">What is stored.</param>
    /// <param name="grants">Who has access to the calendar.</param>
    /// <param name="stored">For whom things on it are already.</param>
    public static AudienceChoices Choices(Stores stores, IEnumerable<Grant> grants, IEnumerable<Audience?> stored)
    {
        // Whoever works on the calendar has all of it anyway.
        var granted = grants
            .Where(grant => grant.Level < AccessLevel.Contributor)
            .Select(grant => grant.To)
            .OfType<Grantee.OneGroup>()
            .Select(to => to.Group)
            .ToList();
        var before = stored.OfType<Audience>().ToList();
        var groups = stores.Groups.Of([
            .. stores
                .Groups.WithHeld(granted, AudienceChoices.MostGroups)
                .Concat(before.SelectMany(one => one.Groups))
                .Distinct(),
        ]);
        var lists = groups.Where(group => group.Kind is GroupKind.ClassList && granted.Contains(group.Id)).ToList();
        var members =
            lists.Sum(list => list.People) <= AudienceChoices.MostPeople
                ? stores.Groups.MembersOf([.. lists.Select(list => list.Id)]).SelectMany(group => group)
                : [];
        // Sections and class lists are what it is mostly for.
        groups =
        [
            .. groups.OrderBy(group =>
                group.Kind switch
                {
                    GroupKind.Section => 0,
                    GroupKind.ClassList => 1,
                    _ => 2,
                }
            ),
        ];
        return new AudienceChoices(
            groups,
            stores.People.Of([.. members.Concat(before.SelectMany(one => one.People)).Distinct()])
        );
    }

    /// <summary>For whom a form says that something is; null for all. Only for those who see the calendar.</summary>
    /// <param name="entry">Takes what is wrong.</param>
    /// <param name="field">The form's field.</param>
    /// <param name="input">The form.</param>
    /// <param name="stores">What is stored.</param>
    /// <param name="grants">Who has access to the calendar.</param>
    /// <param name="stored">For whom it is as it is stored.</param>
    public static Audience? Read(
        FormReader entry,
        string field,
        AudienceInput input,
        Stores stores,
        IReadOnlyList<Grant> grants,
        Audience? stored
    )
    {
        var ticked = (input.Ticked ?? []).Distinct().ToList();
        var others = entry.Lines(field, input.Others, "The list of others", 4000);
        if (ticked.Count == 0 && others.Length == 0)
            return null;
        var choices = Choices(stores, grants, [stored]);
        var groups = choices
            .Groups.Where(group => ticked.Contains(AudienceInput.KeyOf(group.Id)))
            .Select(group => group.Id)
            .ToList();
        var people = choices
            .People.Where(person => ticked.Contains(AudienceInput.KeyOf(person.Id)))
            .Select(person => person.Id)
            .ToList();
        if (groups.Count + people.Count < ticked.Count)
            entry.Wrong(
                field,
                "Somebody who was ticked has no access to this calendar any more. Look at the list again."
            );
        var list = AddressList.Read(others);
        foreach (var (_, sentence) in list.Problems)
            entry.Wrong(field, sentence);
        foreach (var named in list.People)
        {
            // The same words for somebody who is not of the school: who is, is not to be found out here.
            if (
                stores.People.FindByEmail(named.Address)?.Person.Id is { } person
                && AccessRules.LevelOf(stores.People.ViewerOf(person), Grant.OnceOpen(grants)) > AccessLevel.None
            )
                people.Add(person);
            else
                entry.Wrong(
                    field,
                    $"{Wording.Quote(named.Address.Value)} does not see this calendar. Give access under Sharing first."
                );
        }

        if (people.Count > MostNamed)
            entry.Wrong(
                field,
                $"These are {people.Count} persons; there may be {MostNamed}. Make a group of them under People."
            );
        return entry.Has(field)
            ? stored
            : new Audience([.. groups.OrderBy(one => one.Value)], [.. people.Distinct().OrderBy(one => one.Value)]);
    }
}
