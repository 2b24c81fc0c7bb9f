using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;

namespace JollyAlmanac.Application.Calendars;

/// <summary>Who may see a class page without being named.</summary>
public enum OpenTo
{
    /// <summary>Whoever has the address.</summary>
    Anyone,

    /// <summary>Everybody who is signed in.</summary>
    Everyone,

    /// <summary>Only people and groups that are named.</summary>
    Named,
}

/// <summary>What the calendar form says, as typed.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Kind">class, department or school.</param>
/// <param name="Department">The slug of its department; empty for none.</param>
/// <param name="Description">A few words for its class page.</param>
/// <param name="Colour">The mark's colour.</param>
/// <param name="Shape">The mark's shape.</param>
/// <param name="OpenTo">Who may see it.</param>
/// <param name="Version">The version the form was made from; 0 for a new calendar.</param>
/// <param name="Named">The e-mail addresses of people who see it in full, a line each; null leaves them as they are.</param>
/// <param name="CoordinatorsManage">For a new calendar: the school's coordinators are managers of it, too.</param>
/// <param name="CloseLinks">Its join links are for people of the class alone, too.</param>
public sealed record CalendarInput(
    string? Title,
    CalendarKind Kind,
    string? Department,
    string? Description,
    MarkColour Colour,
    MarkShape Shape,
    OpenTo OpenTo,
    int Version = 0,
    string? Named = null,
    bool CoordinatorsManage = false,
    bool CloseLinks = false
)
{
    /// <summary>The day from which it is seen by its people, ISO; empty for at once; null leaves it as it is.</summary>
    public string? Opens { get; init; }

    /// <summary>Whom to ask where something does not work; null leaves it as it is.</summary>
    public string? Contact { get; init; }

    /// <summary>
    /// For a new calendar: the slug of one that it is to be like; empty for none. Who works on that one and sees it by name does on this,
    /// but for those on its class lists.
    /// </summary>
    public string? Like { get; init; } = "";

    internal const int MostNamed = 500;

    internal const int LongestTitle = 120;

    internal static IEnumerable<Grantee> OpenGrantees { get; } = [new Grantee.Anyone(), new Grantee.Everyone()];

    internal static OpenTo OpenToOf(IEnumerable<Grant> grants)
    {
        var open = grants.Select(grant => grant.To).ToHashSet();
        return open.Contains(new Grantee.Anyone()) ? OpenTo.Anyone
            : open.Contains(new Grantee.Everyone()) ? OpenTo.Everyone
            : OpenTo.Named;
    }
}
