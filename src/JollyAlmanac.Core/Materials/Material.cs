using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
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
/// A file or a link on a calendar, on a series for all of its sessions, or on one session.
/// </summary>
/// <param name="Id">Its id.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Series">The series it belongs to; null for the whole calendar.</param>
/// <param name="ForSession">The original local start of the one session it is for; null for every session.</param>
/// <param name="Key">128 random bits in its address, so that an address cannot be guessed.</param>
/// <param name="Title">What people read.</param>
/// <param name="Content">The file or the link.</param>
/// <param name="Audience">Who may open it.</param>
public sealed record Material(
    MaterialId Id,
    CalendarId Calendar,
    SeriesId? Series,
    LocalDateTime? ForSession,
    MaterialKey Key,
    string Title,
    MaterialContent Content,
    MaterialAudience Audience
)
{
    /// <summary>The only ones it is for; null for all that <see cref="Audience"/> says.</summary>
    public Audience? OnlyFor { get; init; }

    /// <summary>It is what was recorded of its session.</summary>
    public bool IsRecording { get; init; }

    /// <summary>What its keepers say of it, in Markdown; may be empty.</summary>
    public string Note { get; init; } = "";

    /// <summary>Where it stands among those beside it, lowest first.</summary>
    public int Position { get; init; }

    /// <summary>When it is given.</summary>
    public Release Release { get; init; } = Release.Now;

    /// <summary>The last day, by the school's clock, that it is given on; null for no last day.</summary>
    public LocalDate? LastDay { get; init; }

    /// <summary>By when it is to be done; null where nothing is to be done.</summary>
    public Due? Due { get; init; }

    /// <summary>The heading that it stands under among those for the whole class or every session; empty for none.</summary>
    public string Heading { get; init; } = "";

    /// <summary>Counts what was done to it.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Which of its contents this is, from 1: each that was replaced is kept.</summary>
    public int Edition { get; init; } = 1;

    /// <summary>When it came.</summary>
    public Instant MadeAt { get; init; }

    /// <summary>It is not given now, and shown to whoever may change it alone. Set where it is shown.</summary>
    public bool IsHeldBack { get; init; }

    /// <summary>Whether it is for this session: of its calendar, for all sessions, those of its series, or for this one.</summary>
    public bool BelongsTo(Session session) =>
        Calendar == session.Of.Calendar
        && (Series is not { } of || (of == session.Of.Id && (ForSession is not { } only || session.IsKnownBy(only))));

    /// <summary>Whether those it is for have it.</summary>
    /// <param name="session">The session that it is for, or is shown with; null where there is none.</param>
    /// <param name="now">When.</param>
    /// <param name="school">The school's zone.</param>
    public bool IsReleased(Session? session, Instant now, DateTimeZone school) =>
        Release.Moment(ForSession is null ? null : session, school) is { } from
        && from <= now
        && !(Ends(school) is { } ends && ends <= now);

    /// <summary>When it is given no more; null for never.</summary>
    public Instant? Ends(DateTimeZone school) =>
        LastDay is { } last ? WallClock.InstantOf(last.PlusDays(1).AtMidnight(), school) : null;
}
