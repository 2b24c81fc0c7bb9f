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
