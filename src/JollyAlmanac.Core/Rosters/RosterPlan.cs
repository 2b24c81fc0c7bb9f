using System.Collections.Immutable;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Rosters;

/// <summary>Somebody the school knows, as a list is held beside them.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Email">Their address; null for none.</param>
/// <param name="Role">What they are.</param>
/// <param name="Source">What an earlier list knew them by; empty for none.</param>
/// <param name="HasLeft">They have left.</param>
public sealed record KnownPerson(
    PersonId Id,
    string Name,
    EmailAddress? Email,
    SchoolRole Role,
    string Source,
    bool HasLeft
);

/// <summary>A group the school knows.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Source">What an earlier list knew it by; empty for none.</param>
/// <param name="Members">Who is in it by name.</param>
public sealed record KnownGroup(GroupId Id, string Name, string Source, IReadOnlySet<PersonId> Members);

/// <summary>What a list says of a person beside what is known of them.</summary>
public enum RosterNews
{
    /// <summary>Nobody knew them.</summary>
    New,

    /// <summary>Something of them is different.</summary>
    Changed,

    /// <summary>All of it is known.</summary>
    Same,
}

/// <summary>One person of a list, held beside those who are known.</summary>
/// <param name="Person">As the list has them.</param>
/// <param name="Known">Who that is; null for somebody new.</param>
/// <param name="News">What there is to do.</param>
/// <param name="Name">The name they will have.</param>
/// <param name="Email">The address they will have; null for none.</param>
/// <param name="Role">What they will be.</param>
/// <param name="What">What changes, for people; empty for nothing.</param>
public sealed record RosterLine(
    RosterPerson Person,
    KnownPerson? Known,
    RosterNews News,
    string Name,
    EmailAddress? Email,
    SchoolRole Role,
    string What
);

/// <summary>One group of a list, held beside those that are known.</summary>
/// <param name="Group">As the list has it.</param>
/// <param name="Known">Which that is; null for a new one.</param>
/// <param name="Added">Who comes into it: places in the plan's lines.</param>
/// <param name="Missing">Who is in it, and not on the list.</param>
public sealed record RosterGroupLine(
    RosterGroup Group,
    KnownGroup? Known,
    ImmutableArray<int> Added,
    ImmutableArray<PersonId> Missing
);

/// <summary>What a list leaves open.</summary>
/// <param name="Role">What those are of whom the list does not say it.</param>
/// <param name="HomeDomains">
/// The places of the internet that the school's addresses are at; whoever is new, has no role on the list and an address elsewhere is a
/// guest. Empty where that is not known.
/// </param>
/// <param name="Whole">For a list that adds: the groups it names are told of in full.</param>
public sealed record RosterChoices(SchoolRole Role, IReadOnlySet<string> HomeDomains, bool Whole = false);

/// <summary>
/// What taking a list in would do. Pure: the same list beside the same people gives the same plan, and beside those who are there once
/// it was taken in, a plan that does nothing.
/// </summary>
/// <param name="Lines">Each person of the list that is not refused.</param>
/// <param name="Groups">Each group.</param>
/// <param name="Gone">Whom an earlier list told of, who are here, and whom this whole list does not have. Nobody ends by this.</param>
/// <param name="Refused">The lines that are not taken in, and why.</param>
public sealed record RosterPlan(
    ImmutableArray<RosterLine> Lines,
    ImmutableArray<RosterGroupLine> Groups,
    ImmutableArray<KnownPerson> Gone,
    ImmutableArray<RefusedLine> Refused
)
{
    /// <summary>The longest name.</summary>
    public const int LongestName = 120;

    /// <summary>The longest id of a list.</summary>
    public const int LongestSource = 200;

    /// <summary>How many are of that news.</summary>
    public int Count(RosterNews news) => Lines.Count(line => line.News == news);

    /// <summary>There is nothing to do.</summary>
    public bool IsNothing =>
        Lines.All(line => line.News == RosterNews.Same)
        && Groups.All(group => group.Known is not null && group.Added.IsEmpty);

    /// <summary>Holds a list beside those who are known.</summary>
    /// <param name="roster">The list.</param>
    /// <param name="people">Everybody the school knows, those who have left, too.</param>
    /// <param name="groups">Every group.</param>
    /// <param name="choices">What the list leaves open.</param>
    public static RosterPlan Of(
        Roster roster,
        IReadOnlyCollection<KnownPerson> people,
        IReadOnlyCollection<KnownGroup> groups,
        RosterChoices choices
    )
    {
        var bySource = people
            .Where(one => one.Source.Length > 0)
            .ToDictionary(one => one.Source, StringComparer.Ordinal);
        var byEmail = people.Where(one => one.Email is not null).ToDictionary(one => one.Email!.Value);
        var lines = new List<RosterLine>();
        var refused = roster.Refused.ToList();
        var places = new Dictionary<int, int>();
        var taken = new HashSet<PersonId>();
        foreach (var (at, person) in roster.People.Index())
        {
            var named = bySource.GetValueOrDefault(person.Source);
            var addressed = person.Email is { } email ? byEmail.GetValueOrDefault(email) : null;
            var reason =
                named is not null && addressed is not null && named.Id != addressed.Id
                    ? $"The address {person.Email} is that of {addressed.Name} already."
                : named is null && addressed is { Source.Length: > 0 } && person.Source.Length > 0
                    ? $"The address {person.Email} is that of {addressed.Name}, whom an earlier list knew by another id."
                : (named ?? addressed) is { } twice && !taken.Add(twice.Id) ? $"{twice.Name} stands in the list twice."
                : null;
            if (reason is not null)
            {
                refused.Add(new RefusedLine("", person.Line, reason));
                continue;
            }

            places[at] = lines.Count;
            lines.Add(Beside(person, named ?? addressed, choices));
        }

        var groupLines = GroupLines(roster, groups, lines, places, choices);
        // Who comes into a group is changed by that.
        foreach (var place in groupLines.SelectMany(group => group.Added).Distinct())
            if (lines[place].News == RosterNews.Same)
            {
                var into = groupLines.Where(group => group.Added.Contains(place)).Select(group => group.Group.Name);
                lines[place] = lines[place] with
                {
                    News = RosterNews.Changed,
                    What = $"comes into {Wording.List([.. into])}",
                };
            }

        var here = lines.Select(line => line.Known?.Id).OfType<PersonId>().ToHashSet();
        var refusedSources = roster
            .People.Where((_, at) => !places.ContainsKey(at))
            .Select(person => person.Source)
            .ToHashSet();
        return new RosterPlan(
            [.. lines],
            groupLines,
            roster.IsWhole
                ?
                [
                    .. people.Where(one =>
                        one.Source.Length > 0
                        && !one.HasLeft
                        && !here.Contains(one.Id)
                        && !refusedSources.Contains(one.Source)
                    ),
                ]
                : [],
            [.. refused]
        );
    }

    private static RosterLine Beside(RosterPerson person, KnownPerson? known, RosterChoices choices)
    {
        if (known is null)
        {
            var isElsewhere =
                person.Role is null
                && choices.Role is not (SchoolRole.Family or SchoolRole.Guest)
                && choices.HomeDomains.Count > 0
                && !(person.Email is { } at && choices.HomeDomains.Contains(DomainOf(at)));
            return new RosterLine(
                person,
                null,
                RosterNews.New,
                person.Name.Length > 0 ? person.Name
                    : person.Email is { } address ? NameOf(address)
                    : "",
                person.Email,
                isElsewhere ? SchoolRole.Guest : person.Role ?? choices.Role,
                isElsewhere ? "has an address of another place, and comes as a guest" : ""
            );
        }

        // A list that knows people by ids keeps their names and addresses; one of addresses alone only says who they are.
        var keeps = person.Source.Length > 0;
        var name = keeps && person.Name.Length > 0 ? person.Name : known.Name;
        var email = keeps ? person.Email ?? known.Email : known.Email ?? person.Email;
        // Who keeps the school is not decided by a list.
        var role = keeps && person.Role is { } said && known.Role != SchoolRole.Coordinator ? said : known.Role;
        var what = new List<string>();
        if (known.HasLeft)
            what.Add("comes back");
        if (name != known.Name)
            what.Add($"is called {name} from now on");
        if (email != known.Email)
            what.Add($"has the address {email}");
        if (role != known.Role)
            what.Add($"is {role.ToString().ToLowerInvariant()} in place of {known.Role.ToString().ToLowerInvariant()}");
        if (keeps && known.Source != person.Source)
            what.Add("is known by the list’s id from now on");
        return new RosterLine(
            person,
            known,
            what.Count > 0 ? RosterNews.Changed : RosterNews.Same,
            name,
            email,
            role,
            Wording.List(what)
        );
    }

    private static ImmutableArray<RosterGroupLine> GroupLines(
        Roster roster,
        IReadOnlyCollection<KnownGroup> groups,
        List<RosterLine> lines,
        Dictionary<int, int> places,
        RosterChoices choices
    )
    {
        var bySource = groups
            .Where(one => one.Source.Length > 0)
            .ToDictionary(one => one.Source, StringComparer.Ordinal);
        var byName = groups.ToDictionary(one => one.Name, StringComparer.OrdinalIgnoreCase);
        return
        [
            .. roster.Groups.Select(group =>
            {
                var known =
                    group.Source.Length > 0
                        ? bySource.GetValueOrDefault(group.Source)
                            ?? (byName.GetValueOrDefault(group.Name) is { Source: "" } adopted ? adopted : null)
                        : byName.GetValueOrDefault(group.Name);
                var members = group.Members.Where(places.ContainsKey).Select(member => places[member]).ToList();
                var listed = members.Select(place => lines[place].Known?.Id).OfType<PersonId>().ToHashSet();
                return new RosterGroupLine(
                    group,
                    known,
                    [
                        .. members.Where(place =>
                            known is null || lines[place].Known is not { } one || !known.Members.Contains(one.Id)
                        ),
                    ],
                    known is not null && (roster.IsWhole || choices.Whole)
                        ? [.. known.Members.Where(one => !listed.Contains(one))]
                        : []
                );
            }),
        ];
    }

    /// <summary>The place of the internet that an address is at, by its last two labels: "skerry.example".</summary>
    /// <example>
    /// <code>
    /// RosterPlan.DomainOf(new EmailAddress("teodor@students.skerry.example")) // skerry.example
    /// </code>
    /// </example>
    public static string DomainOf(EmailAddress email) =>
        string.Join('.', email.Domain.ToLowerInvariant().Split('.').TakeLast(2));

    /// <summary>A name made of an address, where none is known: "Orla Marchbanks" of orla.marchbanks@skerry.example.</summary>
    /// <example>
    /// <code>
    /// RosterPlan.NameOf(new EmailAddress("orla.marchbanks@skerry.example")) // Orla Marchbanks
    /// </code>
    /// </example>
    public static string NameOf(EmailAddress email) =>
        email.LocalPart.Split(['.', '_', '-', '+'], StringSplitOptions.RemoveEmptyEntries) is { Length: > 0 } words
            ? string.Join(' ', words.Select(Wording.Capital))
            : email.Value;
}
