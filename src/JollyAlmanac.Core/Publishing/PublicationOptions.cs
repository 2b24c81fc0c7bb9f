using JollyAlmanac.Core.Calendars;
using NodaTime;

namespace JollyAlmanac.Core.Publishing;

/// <summary>Which calendars a feed tells beside its own.</summary>
public enum PublicationScope
{
    /// <summary>None, or those that were chosen by name.</summary>
    Calendar,

    /// <summary>The classes of its department.</summary>
    Department,

    /// <summary>All of the school.</summary>
    School,

    /// <summary>Those that a group has access to.</summary>
    Group,
}

/// <summary>What an embed is.</summary>
public enum EmbedShape
{
    /// <summary>What comes next, by days.</summary>
    Agenda,

    /// <summary>The term, a row a week.</summary>
    Term,

    /// <summary>This week, by the bells.</summary>
    Week,

    /// <summary>The next session, and how its door stands.</summary>
    Next,

    /// <summary>A button that leads to the door.</summary>
    Button,

    /// <summary>The notices.</summary>
    Notices,

    /// <summary>What is to be done, and the materials for every session.</summary>
    Materials,
}

/// <summary>How a feed tells what is to be done.</summary>
public enum TaskForm
{
    /// <summary>As an entry on its day, which every program shows.</summary>
    Entries,

    /// <summary>As a task (VTODO of RFC 5545 §3.6.2), which programs that keep lists of tasks show there.</summary>
    Tasks,

    /// <summary>Not at all.</summary>
    None,
}

/// <summary>What stands beside the button of an embed.</summary>
public enum EmbedIcon
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>The mark of its calendar.</summary>
    Mark,

    /// <summary>A door.</summary>
    Door,

    /// <summary>A screen.</summary>
    Screen,
}

/// <summary>How an embed looks.</summary>
public enum EmbedLook
{
    /// <summary>Light or dark, as the reader's own machine has it.</summary>
    AsReader,

    /// <summary>Light.</summary>
    Light,

    /// <summary>Dark.</summary>
    Dark,
}

/// <summary>What else an outlet shows, and how. What is not chosen is as usual.</summary>
public sealed record PublicationOptions
{
    /// <summary>A feed reminds so many minutes before each session; null for not at all.</summary>
    public int? Reminder { get; init; }

    /// <summary>Cancelled sessions are left away, where they are else told as cancelled.</summary>
    public bool DropsCancelled { get; init; }

    /// <summary>How a feed tells what is to be done.</summary>
    public TaskForm Tasks { get; init; }

    /// <summary>Only sessions that ended so many days ago at most; null for all.</summary>
    public int? DaysBack { get; init; }

    /// <summary>Only sessions that begin within so many days; null for all.</summary>
    public int? DaysAhead { get; init; }

    /// <summary>What readers see it called; empty for the calendar's own title.</summary>
    public string Title { get; init; } = "";

    /// <summary>Its colour; null for the calendar's own.</summary>
    public MarkColour? Colour { get; init; }

    /// <summary>What an embed is.</summary>
    public EmbedShape Shape { get; init; }

    /// <summary>How an embed looks.</summary>
    public EmbedLook Look { get; init; }

    /// <summary>The text of an embed is larger than usual.</summary>
    public bool IsLarge { get; init; }

    /// <summary>What an embed's button says; empty for the usual.</summary>
    public string Button { get; init; } = "";

    /// <summary>What stands beside an embed's button.</summary>
    public EmbedIcon Icon { get; init; }

    /// <summary>A line above what an embed shows; empty for none.</summary>
    public string Welcome { get; init; } = "";

    /// <summary>The most characters of <see cref="Welcome"/>.</summary>
    public const int LongestWelcome = 200;

    /// <summary>The id of a material of the calendar that is the picture above an embed; null for none.</summary>
    public long? Picture { get; init; }

    /// <summary>So many sessions at most are told by days; null for the usual.</summary>
    public int? Count { get; init; }

    /// <summary>How many sessions an embed tells where nobody chose.</summary>
    public const int UsualCount = 7;

    /// <summary>The most sessions that an embed tells.</summary>
    public const int MostCount = 40;

    /// <summary>The IANA zone that an embed tells times in; empty for the school's.</summary>
    public string Zone { get; init; } = "";

    /// <summary>The reminder that is common practice, in minutes.</summary>
    public const int UsualReminder = 15;

    /// <summary>The longest before a session that a reminder comes: a week, in minutes.</summary>
    public const int LongestReminder = 7 * 24 * 60;

    /// <summary>The farthest that <see cref="DaysBack"/> and <see cref="DaysAhead"/> reach.</summary>
    public const int MostDays = 3660;

    /// <summary>What it shows depends on the day.</summary>
    public bool IsByTheDay => DaysBack is not null || DaysAhead is not null;

    /// <summary>The days whose sessions it tells, the second exclusive; a null one is no bound.</summary>
    public (LocalDate? From, LocalDate? To) DaysOn(LocalDate today) =>
        (
            DaysBack is { } back ? today.PlusDays(-back) : null,
            DaysAhead is { } ahead ? today.PlusDays(ahead + 1) : null
        );
}

/// <summary>A site that showed an embed.</summary>
/// <param name="Site">Its origin.</param>
/// <param name="First">When first.</param>
/// <param name="Last">When last, to the hour.</param>
public sealed record ShownOn(string Site, Instant First, Instant Last);

/// <summary>One time that a feed was asked for.</summary>
/// <param name="At">When.</param>
/// <param name="Program">By which kind of program, for people: "a phone".</param>
/// <param name="Status">What it was answered: 200, or 304 where it had what is so.</param>
/// <param name="Bytes">How much it was sent.</param>
public sealed record Fetch(Instant At, string Program, int Status, long Bytes);

/// <summary>Somebody's own feed of all that is theirs.</summary>
/// <param name="Person">Whose.</param>
/// <param name="Generation">Rises when the address is renewed.</param>
/// <param name="Options">What it shows, and how.</param>
/// <param name="Version">Rises with each change.</param>
/// <param name="LastFetchedAt">When a reader last asked for it, to the minute; null for never.</param>
public sealed record OwnFeed(
    People.PersonId Person,
    int Generation,
    PublicationOptions Options,
    int Version,
    Instant? LastFetchedAt
);
