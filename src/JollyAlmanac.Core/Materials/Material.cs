using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>Knows one material in the data.</summary>
public readonly record struct MaterialId(long Value);

/// <summary>Who may open a material.</summary>
public enum MaterialAudience
{
    /// <summary>Whoever sees the page, signed in or not.</summary>
    Anyone,
    /// <summary>People who are signed in and see the calendar in full.</summary>
    PeopleOfTheCalendar,
}

/// <summary>What a material is.</summary>
public abstract record MaterialContent
{
    private MaterialContent() { }

    /// <summary>A page elsewhere, http or https.</summary>
    public sealed record Link(Uri Address) : MaterialContent;

    /// <summary>A file kept here.</summary>
    /// <param name="Hash">SHA-256 of its bytes, lower-case hex: its name in the vault.</param>
    /// <param name="Name">The name to save it under.</param>
    /// <param name="MediaType">Its type as the almanac found it, never as a browser claimed.</param>
    /// <param name="Size">In bytes.</param>
    public sealed record StoredFile(string Hash, string Name, string MediaType, long Size) : MaterialContent;
}

/// <summary>
/// A file or a link on a series, for all of its sessions or for one.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Series">The series it belongs to.</param>
/// <param name="ForSession">The original local start of the one session it is for; null for every session.</param>
/// <param name="Key">128 random bits in its address, so that an address cannot be guessed.</param>
/// <param name="Title">What people read.</param>
/// <param name="Content">The file or the link.</param>
/// <param name="Audience">Who may open it.</param>
public sealed record Material(
    MaterialId Id,
    CalendarId Calendar,
    SeriesId Series,
    LocalDateTime? ForSession,
    string Key,
    string Title,
    MaterialContent Content,
    MaterialAudience Audience)
{
    /// <summary>The only ones it is for; null for all that <see cref="Audience"/> says.</summary>
    public OnlyFor? OnlyFor { get; init; }

    /// <summary>It is what was recorded of its session.</summary>
    public bool IsRecording { get; init; }

    /// <summary>Whether it is for this session: of its series, and for all sessions or for this one.</summary>
    public bool BelongsTo(Session session) =>
        Series == session.Of.Id && (ForSession is not { } only || session.IsKnownBy(only));
}
