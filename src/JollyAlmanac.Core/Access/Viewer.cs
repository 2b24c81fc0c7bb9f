using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Access;

/// <summary>Somebody looking: a signed-in person with their groups, or a visitor.</summary>
/// <param name="Person">Null for a visitor who is not signed in.</param>
/// <param name="Role">What the person is at the school; null for a visitor.</param>
/// <param name="Groups">The groups the person is in, and those that these are in.</param>
public sealed record Viewer(PersonId? Person, SchoolRole? Role, IReadOnlySet<GroupId> Groups)
{
    /// <summary>A visitor who is not signed in.</summary>
    public static Viewer Visitor { get; } = new(null, null, new HashSet<GroupId>());

    /// <summary>
    /// Who really looks, where somebody looks as this viewer: nothing can be done then, and nobody sees more than they may see
    /// themselves, but a coordinator. Null where the viewer looks themselves.
    /// </summary>
    public Viewer? LookedAtBy { get; init; }

    /// <summary>The children whose family this is; empty for anybody else. What reaches a child reaches its family, to look at.</summary>
    public IReadOnlySet<PersonId> Children { get; init; } = new HashSet<PersonId>();

    /// <summary>The groups that the children are in, and those that these are in.</summary>
    public IReadOnlySet<GroupId> GroupsOfChildren { get; init; } = new HashSet<GroupId>();

    /// <summary>
    /// The levels of <see cref="LookedAtBy"/> on the calendars that they work on, contributor and above; empty where the viewer looks
    /// themselves. What is one person's alone (a private entry, what is only for some) is shown to who may see it without being them.
    /// </summary>
    public IReadOnlyDictionary<CalendarId, AccessLevel> LookerWorksOn { get; init; } =
        new Dictionary<CalendarId, AccessLevel>();
}
