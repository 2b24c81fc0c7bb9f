using System.Collections.Immutable;

namespace JollyAlmanac.Core.People;

/// <summary>
/// Some of a calendar's people: what is only for them is not there for others who see the calendar, but for those who work on it. Where
/// there is none of these, a thing is for all.
/// </summary>
/// <param name="Groups">The groups: a section, a reading circle.</param>
/// <param name="People">Persons beside them.</param>
public sealed record Audience(ImmutableArray<GroupId> Groups, ImmutableArray<PersonId> People)
{
    /// <summary>Whether somebody is among them.</summary>
    /// <param name="person">Who; null for somebody unknown, who never is.</param>
    /// <param name="groups">The groups they are in, and those that these are in.</param>
    public bool Holds(PersonId? person, IReadOnlySet<GroupId> groups) =>
        person is { } one && (People.Contains(one) || Groups.Any(groups.Contains));

    /// <inheritdoc />
    public bool Equals(Audience? other) =>
        other is not null && Groups.SequenceEqual(other.Groups) && People.SequenceEqual(other.People);

    /// <inheritdoc />
    public override int GetHashCode() =>
        HashCode.Combine(Groups.Length, People.Length, Groups.FirstOrDefault(), People.FirstOrDefault());
}
