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
}
