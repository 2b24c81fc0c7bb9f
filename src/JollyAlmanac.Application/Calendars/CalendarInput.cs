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
public sealed record CalendarInput(
    string? Title, CalendarKind Kind, string? Department, string? Description, MarkColour Colour, MarkShape Shape, OpenTo OpenTo, int Version = 0)
{
    internal const int LongestTitle = 120;

    internal static IEnumerable<Grantee> OpenGrantees { get; } = [new Grantee.Anyone(), new Grantee.Everyone()];

    internal static OpenTo OpenToOf(IEnumerable<Grant> grants)
    {
        var open = grants.Select(grant => grant.To).ToHashSet();
        return open.Contains(new Grantee.Anyone()) ? OpenTo.Anyone : open.Contains(new Grantee.Everyone()) ? OpenTo.Everyone : OpenTo.Named;
    }
}
