using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Access;

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
public sealed record Grant(CalendarId Calendar, Grantee To, AccessLevel Level)
{
    /// <summary>The last day it holds, by the school's clock; null where it holds until somebody ends it.</summary>
    public LocalDate? Until { get; init; }

    /// <summary>It gives nothing yet: the calendar has not opened, and who has no more than this does not work on it.</summary>
    public bool AwaitsOpening { get; init; }

    /// <summary>The grants as they will hold once the calendar has opened.</summary>
    public static IEnumerable<Grant> OnceOpen(IEnumerable<Grant> grants) =>
        grants.Select(grant => grant with { AwaitsOpening = false });
}
