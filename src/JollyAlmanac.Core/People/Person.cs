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
}

/// <summary>What a group stands for.</summary>
public enum GroupKind
{
    /// <summary>The students of a class: its calendars are theirs.</summary>
    ClassList,
    /// <summary>Colleagues who look after calendars that are not their own.</summary>
    Staff,
}

/// <summary>Somebody who may sign in.</summary>
public sealed record Person(PersonId Id, string Name, string Email, SchoolRole Role)
{
    /// <summary>One or two letters for a small badge: "OM".</summary>
    public string Initials
    {
        get
        {
            var words = Name.Split(' ', StringSplitOptions.RemoveEmptyEntries);
            return words.Length == 0 ? "?"
                : string.Concat(new[] { words[0], words[^1] }.Distinct().Select(word => char.ToUpperInvariant(word[0])));
        }
    }
}
