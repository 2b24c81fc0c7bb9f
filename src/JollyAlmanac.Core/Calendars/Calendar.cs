using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Calendars;

/// <summary>Knows one calendar in the data.</summary>
public readonly record struct CalendarId(long Value);

/// <summary>Whom a calendar is for.</summary>
public enum CalendarKind
{
    /// <summary>One class, perhaps of several sections.</summary>
    Class,

    /// <summary>A department.</summary>
    Department,

    /// <summary>The whole school.</summary>
    School,
}

/// <summary>
/// A calendar of a class, a department, or the whole school.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">Whom it is for.</param>
/// <param name="Department">The department it belongs to, itself a calendar; null for none.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Slug">Its name in addresses: lower-case letters, digits and hyphens; unique.</param>
/// <param name="Description">Plain text, may be empty.</param>
/// <param name="Mark">Colour and shape.</param>
/// <param name="Zone">The zone its times are in.</param>
/// <param name="Owner">Who answers for it.</param>
/// <param name="Version">Rises with each change of the calendar's own facts.</param>
/// <param name="Revision">Rises with each change of anything on it: entries, links, materials.</param>
/// <param name="ChangedAt">When <paramref name="Revision"/> last rose.</param>
public sealed record Calendar(
    CalendarId Id,
    CalendarKind Kind,
    CalendarId? Department,
    string Title,
    Slug Slug,
    string Description,
    Mark Mark,
    DateTimeZone Zone,
    PersonId Owner,
    int Version,
    int Revision,
    Instant ChangedAt
)
{
    /// <summary>
    /// Since when it is put away: kept, but hidden from everybody but those who may bring it back; null while it is in use.
    /// </summary>
    public Instant? ArchivedAt { get; init; }

    /// <summary>Since when it is deleted; null while it is not. It can be brought back for <see cref="Recall"/>.</summary>
    public Instant? DeletedAt { get; init; }

    /// <summary>Who is on its class list is shown to those who are on it; else only to those who work on it.</summary>
    public bool ShowsList { get; init; }

    /// <summary>
    /// The day from which it is seen by those who do not work on it, by the school's clock; null where it is open.
    /// </summary>
    public LocalDate? OpensOn { get; init; }

    /// <summary>Whom to ask where something of it does not work; may be empty.</summary>
    public string Contact { get; init; } = "";

    /// <summary>The most characters of <see cref="Contact"/>.</summary>
    public const int LongestContact = 200;

    /// <summary>Its title as the name of a link, a feed or an embed of it: 80 characters of it at the most.</summary>
    public string ShortTitle => Title.Length <= 80 ? Title : Title[..80].TrimEnd();

    /// <summary>It is in use: neither put away nor deleted.</summary>
    public bool IsInUse => ArchivedAt is null && DeletedAt is null;

    /// <summary>How long one that is deleted can be brought back.</summary>
    public static readonly Duration Recall = Duration.FromDays(30);
}
