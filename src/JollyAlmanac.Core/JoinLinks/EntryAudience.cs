namespace JollyAlmanac.Core.JoinLinks;

/// <summary>Who may enter by a link.</summary>
public enum EntryAudience
{
    /// <summary>Whoever has the short address.</summary>
    Anyone,

    /// <summary>Those who sign in, or know the link's entry word.</summary>
    School,

    /// <summary>Those who sign in and see the calendar in full, or know the entry word.</summary>
    PeopleOfTheCalendar,
}
