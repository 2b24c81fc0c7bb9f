using System.Collections.Immutable;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>
/// An entry that repeats by a meeting pattern. Its sessions are computed, never stored.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar it stands on.</param>
/// <param name="Uid">Its name in iCalendar for ever, worldwide (RFC 5545 §3.8.4.7).</param>
/// <param name="Title">What people read everywhere.</param>
/// <param name="Description">Plain text, may be empty.</param>
/// <param name="Place">A room or place, may be empty.</param>
/// <param name="Pattern">When it meets.</param>
/// <param name="JoinLink">The link its sessions are joined by, if any.</param>
/// <param name="MadeBy">Who added it: a contributor may change their own.</param>
/// <param name="Version">Rises by one with each change of it or of one of its sessions; 1 when new.</param>
/// <param name="MadeAt">When it was added.</param>
/// <param name="ChangedAt">When it was last changed.</param>
public sealed record Series(
    SeriesId Id,
    CalendarId Calendar,
    string Uid,
    string Title,
    string Description,
    string Place,
    MeetingPattern Pattern,
    JoinLinkId? JoinLink,
    PersonId MadeBy,
    int Version,
    Instant MadeAt,
    Instant ChangedAt
)
{
    /// <summary>What its sessions are counted as ("Voyage": Voyage 1, 2, 3); empty where numbers stay out of titles.</summary>
    public string NumberLabel { get; init; } = "";

    /// <summary>The number of its first held session: over 1 where it carries another series on.</summary>
    public int FirstNumber { get; init; } = 1;

    /// <summary>For others than who added it, and those who may change everything, only its times.</summary>
    public bool IsPrivate { get; init; }

    /// <summary>The only ones it is for; null for all who see the calendar.</summary>
    public Audience? OnlyFor { get; init; }

    /// <summary>It is not certain yet that it takes place (RFC 5545 §3.8.1.11, TENTATIVE).</summary>
    public bool IsTentative { get; init; }

    /// <summary>Whoever may see the calendar's outline may know of it.</summary>
    public bool IsForAll => !IsPrivate && OnlyFor is null;

    /// <summary>The series that it carries on, from "this and later".</summary>
    public SeriesId? Follows { get; init; }

    /// <summary>What was done to single sessions, by their original start.</summary>
    public ImmutableArray<Change> Changes { get; init; } = [];
}
