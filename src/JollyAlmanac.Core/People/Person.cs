using NodaTime;

namespace JollyAlmanac.Core.People;

/// <summary>Knows one person in the data.</summary>
public readonly record struct PersonId(long Value);

/// <summary>Knows one group in the data.</summary>
public readonly record struct GroupId(long Value);

/// <summary>What somebody is at the school.</summary>
public enum SchoolRole
{
    /// <summary>Keeps the school's time and helps everybody.</summary>
    Coordinator,

    /// <summary>Teaches.</summary>
    Teacher,

    /// <summary>Learns.</summary>
    Student,

    /// <summary>Family of a student.</summary>
    Family,

    /// <summary>Somebody of another place.</summary>
    Guest,
}

/// <summary>What a group stands for.</summary>
public enum GroupKind
{
    /// <summary>The students of a class: its calendars are theirs.</summary>
    ClassList,

    /// <summary>A part of a class: its calendars are theirs, too.</summary>
    Section,

    /// <summary>Those of a department.</summary>
    Department,

    /// <summary>Colleagues who look after calendars that are not their own.</summary>
    Staff,
}

/// <summary>Somebody the school knows; with a password, or a way in by another provider, they may sign in.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">As people say it, the first name first.</param>
/// <param name="Email">Their address; null where none is known.</param>
/// <param name="Role">What they are at the school.</param>
public sealed record Person(PersonId Id, string Name, EmailAddress? Email, SchoolRole Role)
{
    /// <summary>Since when they have left; null while they are here. Who has left reaches nothing, and can be brought back.</summary>
    public Instant? EndedAt { get; init; }

    /// <summary>Rises with each change of these facts.</summary>
    public int Version { get; init; } = 1;

    /// <summary>One or two letters for a small badge: "OM".</summary>
    public string Initials
    {
        get
        {
            var words = Name.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            return words.Length == 0
                ? "?"
                : string.Concat(
                    new[] { words[0], words[^1] }.Distinct().Select(word => char.ToUpperInvariant(word[0]))
                );
        }
    }
}
