using System.Collections.Immutable;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Access;

/// <summary>Why somebody has the level they have: one grant that reaches them.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Through">For a grant to a group: the groups from the one they are in to the one it was given to; else empty.</param>
public sealed record AccessReason(Grant Grant, ImmutableArray<GroupId> Through);

/// <summary>What giving and ending access asks.</summary>
public static class AccessPhrases
{
    /// <summary>The levels that can be given, the highest first.</summary>
    public static ImmutableArray<AccessLevel> Levels { get; } =
    [
        AccessLevel.Manager,
        AccessLevel.Editor,
        AccessLevel.Contributor,
        AccessLevel.Full,
        AccessLevel.Outline,
        AccessLevel.Busy,
    ];

    /// <summary>The most that may be given to everyone of the school: what stands there is looked at, not kept, by all.</summary>
    public const AccessLevel MostForEveryone = AccessLevel.Contributor;

    /// <summary>The most that may be given to anyone, who need not even sign in.</summary>
    public const AccessLevel MostForAnyone = AccessLevel.Full;

    /// <summary>What a level is called.</summary>
    public static string NameOf(AccessLevel level) =>
        level == AccessLevel.None ? "nothing" : level.ToString().ToLowerInvariant();

    /// <summary>What somebody of that level may, in one line.</summary>
    public static string MeaningOf(AccessLevel level) =>
        level switch
        {
            AccessLevel.Manager => "gives access, publishes, deletes",
            AccessLevel.Editor => "changes everything, enters as host",
            AccessLevel.Contributor => "adds entries, changes its own",
            AccessLevel.Full => "sees details, materials, join links",
            AccessLevel.Outline => "sees titles, times and places",
            AccessLevel.Busy => "sees that the time is taken",
            _ => "does not see that it is there",
        };

    /// <summary>What somebody may now who was given that level: "Orla … on French 8".</summary>
    public static string GivenOf(AccessLevel level) =>
        level switch
        {
            AccessLevel.Manager => "may do everything",
            AccessLevel.Editor => "may change everything",
            AccessLevel.Contributor => "may add entries, and change their own,",
            AccessLevel.Full => "sees everything",
            AccessLevel.Outline => "sees titles, times and places",
            _ => "sees only that the time is taken",
        };

    /// <summary>Whether somebody of that level may give that one: managers alone, and nobody more than they have.</summary>
    /// <param name="own">Their level on the calendar.</param>
    /// <param name="given">The level to be given.</param>
    /// <example>
    /// <code>
    /// AccessPhrases.MayGive(AccessLevel.Manager, AccessLevel.Editor) // true
    /// AccessPhrases.MayGive(AccessLevel.Editor, AccessLevel.Outline) // false
    /// </code>
    /// </example>
    public static bool MayGive(AccessLevel own, AccessLevel given) =>
        own == AccessLevel.Manager && given is > AccessLevel.None && given <= own;

    /// <summary>Whether that level may be given to that grantee at all.</summary>
    public static bool Fits(Grantee to, AccessLevel level) =>
        to switch
        {
            Grantee.Anyone => level <= MostForAnyone,
            Grantee.Everyone => level <= MostForEveryone,
            _ => true,
        };

    /// <summary>
    /// Whether a calendar with these grants is left with somebody who manages it: a person who is here, or a group with one in it.
    /// A grant that ends by itself does not count.
    /// </summary>
    /// <param name="grants">The grants it would have.</param>
    /// <param name="isHere">Whether a person is here.</param>
    /// <param name="holdsSomebody">Whether a group holds somebody who is here.</param>
    public static bool HasManager(
        IEnumerable<Grant> grants,
        Predicate<PersonId> isHere,
        Predicate<GroupId> holdsSomebody
    ) =>
        grants.Any(grant =>
            grant is { Level: AccessLevel.Manager, Until: null }
            && grant.To switch
            {
                Grantee.OnePerson one => isHere(one.Person),
                Grantee.OneGroup group => holdsSomebody(group.Group),
                _ => false,
            }
        );

    /// <summary>The grants that reach a person, the highest first; among equals those by name before those by a group.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="grants">The calendar's grants.</param>
    /// <param name="within">For a group, those it is in.</param>
    /// <param name="direct">The groups the person is in by name.</param>
    public static ImmutableArray<AccessReason> Why(
        Viewer viewer,
        IEnumerable<Grant> grants,
        ILookup<GroupId, GroupId> within,
        IReadOnlyCollection<GroupId> direct
    ) =>
        [
            .. grants
                .Where(grant => AccessRules.Reaches(grant.To, viewer))
                .OrderByDescending(grant => grant.Level)
                .ThenBy(grant =>
                    grant.To switch
                    {
                        Grantee.OnePerson => 0,
                        Grantee.OneGroup => 1,
                        Grantee.Everyone => 2,
                        _ => 3,
                    }
                )
                .Select(grant => new AccessReason(
                    grant,
                    grant.To is Grantee.OneGroup to ? PathTo(to.Group, within, direct) : []
                )),
        ];

    // The shortest way up from one of the person's own groups.
    private static ImmutableArray<GroupId> PathTo(
        GroupId group,
        ILookup<GroupId, GroupId> within,
        IReadOnlyCollection<GroupId> direct
    )
    {
        var ways = new Queue<ImmutableArray<GroupId>>(direct.Select(one => ImmutableArray.Create(one)));
        var seen = direct.ToHashSet();
        while (ways.TryDequeue(out var way))
        {
            if (way[^1] == group)
                return way;
            foreach (var next in within[way[^1]])
                if (seen.Add(next))
                    ways.Enqueue(way.Add(next));
        }

        return [];
    }
}
