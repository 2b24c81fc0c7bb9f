using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Access;

/// <summary>How much somebody may see and do on a calendar, in order: each level holds all that stand before it.</summary>
public enum AccessLevel
{
    /// <summary>Nothing, not even that it exists.</summary>
    None,
    /// <summary>Times only, titled "Busy".</summary>
    Busy,
    /// <summary>Titles, times, places.</summary>
    Outline,
    /// <summary>Descriptions, materials, join links, notices.</summary>
    Full,
    /// <summary>Adds entries; changes and deletes their own.</summary>
    Contributor,
    /// <summary>Changes and deletes all entries, materials, links.</summary>
    Editor,
    /// <summary>Grants, feeds, embeds, publishing, deleting the calendar.</summary>
    Manager,
}

/// <summary>Whom a grant is for.</summary>
public abstract record Grantee
{
    private Grantee() { }

    /// <summary>One person.</summary>
    public sealed record OnePerson(PersonId Person) : Grantee;

    /// <summary>All members of a group.</summary>
    public sealed record OneGroup(GroupId Group) : Grantee;

    /// <summary>Everybody who is signed in.</summary>
    public sealed record Everyone : Grantee;

    /// <summary>Anybody, signed in or not.</summary>
    public sealed record Anyone : Grantee;
}

/// <summary>Who has which level on a calendar.</summary>
public sealed record Grant(CalendarId Calendar, Grantee To, AccessLevel Level);

/// <summary>Somebody looking: a signed-in person with their groups, or a visitor.</summary>
/// <param name="Person">Null for a visitor who is not signed in.</param>
/// <param name="Role">What the person is at the school; null for a visitor.</param>
/// <param name="Groups">The groups the person is in.</param>
public sealed record Viewer(PersonId? Person, SchoolRole? Role, IReadOnlySet<GroupId> Groups)
{
    /// <summary>A visitor who is not signed in.</summary>
    public static Viewer Visitor { get; } = new(null, null, new HashSet<GroupId>());
}
