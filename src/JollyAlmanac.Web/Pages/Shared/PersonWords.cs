using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>How people are spoken of on pages.</summary>
public static class PersonWords
{
    /// <summary>"teacher".</summary>
    public static string One(SchoolRole role) =>
        role switch
        {
            SchoolRole.Coordinator => "coordinator",
            SchoolRole.Teacher => "teacher",
            SchoolRole.Student => "student",
            SchoolRole.Family => "family",
            _ => "guest",
        };

    /// <summary>"teachers".</summary>
    public static string Many(SchoolRole role) => role == SchoolRole.Family ? "families" : One(role) + "s";

    /// <summary>"class list".</summary>
    public static string Kind(GroupKind kind) =>
        kind switch
        {
            GroupKind.ClassList => "class list",
            GroupKind.Section => "section of a class",
            GroupKind.Department => "department",
            _ => "staff and others",
        };

    /// <summary>How somebody comes in, or why not.</summary>
    public static string Entry(PersonWithEntry one, Func<Instant, string> day) =>
        one switch
        {
            { Person.EndedAt: { } left } => $"left on {day(left)}",
            { LastSignInAt: { } last } => $"last on {day(last)}",
            { HasPassword: true } => "may, and has not yet",
            { InvitedUntil: { } until } => $"invited until {day(until)}",
            { Person.Email: null } => "no address",
            _ => "not invited",
        };

    /// <summary>Whether an invitation can go to somebody.</summary>
    public static bool CanBeInvited(PersonWithEntry one) =>
        one is { HasPassword: false, Person: { EndedAt: null, Email: not null } };
}
