using System.Collections.Immutable;
using JollyAlmanac.Core.JoinLinks;

namespace JollyAlmanac.Core.Findings;

/// <summary>How much a finding matters.</summary>
public enum Severity
{
    /// <summary>Something will go wrong.</summary>
    MustFix,

    /// <summary>Something may go wrong.</summary>
    ShouldFix,

    /// <summary>Good to know.</summary>
    WorthKnowing,
}

/// <summary>What was noticed.</summary>
public enum FindingKind
{
    /// <summary>A door opens while another session is still in the room.</summary>
    WindowsOverlap,

    /// <summary>Classes share a link that have neither teacher nor department in common.</summary>
    ClassesApart,

    /// <summary>The room ends before its sessions do.</summary>
    ReachesTooShort,

    /// <summary>The room's passcode is older than the school allows, or soon will be.</summary>
    OldPasscode,

    /// <summary>A passcode or the room's address stands where anyone can read it.</summary>
    SecretInPublic,

    /// <summary>A class uses somebody's personal room.</summary>
    PersonalRoom,

    /// <summary>Nobody tested the link since its room was changed.</summary>
    Untested,

    /// <summary>A class's series that uses the link has no end.</summary>
    WithoutEnd,

    /// <summary>Classes that one teacher or department keeps share a link.</summary>
    ClassesTogether,

    /// <summary>A door is always open, though its sessions have times.</summary>
    AlwaysOpen,

    /// <summary>A group follows another within ten minutes, in the same room.</summary>
    FollowsClosely,

    /// <summary>A series of the link's calendar meets without a link, while others there have this one.</summary>
    WithoutLink,
}

/// <summary>What a remedy does.</summary>
public enum RemedyKind
{
    /// <summary>The link opens fewer minutes before each session.</summary>
    OpenLater,

    /// <summary>One session opens fewer minutes before.</summary>
    OpenSessionLater,

    /// <summary>Each session gets a room of its own.</summary>
    RenewAfterEach,

    /// <summary>A series gets a new link with a room of its own.</summary>
    OwnLink,

    /// <summary>The classes belong together.</summary>
    SharedOnPurpose,

    /// <summary>Another room takes the place of this one.</summary>
    Renew,

    /// <summary>The secret is taken out of a text.</summary>
    TakeOut,

    /// <summary>It is no personal room after all.</summary>
    NotPersonal,

    /// <summary>The link is tested.</summary>
    Test,

    /// <summary>A series ends with the term.</summary>
    EndWithTerm,

    /// <summary>The door opens around sessions alone.</summary>
    OpenAround,

    /// <summary>A series takes the link.</summary>
    TakeLink,
}

/// <summary>One click that mends what was found.</summary>
/// <param name="Kind">What it does.</param>
/// <param name="Label">The words on the button.</param>
/// <param name="Says">What it changes, in one sentence.</param>
/// <param name="Series">The series it is about, where it is about one.</param>
/// <param name="Session">The session it is about, where it is about one.</param>
/// <param name="Minutes">The lead it sets, in minutes.</param>
public sealed record Remedy(
    RemedyKind Kind,
    string Label,
    string Says,
    SeriesId? Series = null,
    SessionKey? Session = null,
    int Minutes = 0
)
{
    /// <summary>Tells it from the other remedies of its link.</summary>
    public string Key => FormattableString.Invariant($"{Kind} {Series?.Value} {Session} {Minutes}");
}

/// <summary>Something the almanac noticed about a link.</summary>
/// <param name="Kind">What.</param>
/// <param name="Severity">How much it matters.</param>
/// <param name="Link">The link.</param>
/// <param name="Title">In a few words.</param>
/// <param name="Why">In a sentence.</param>
/// <param name="Remedies">The best one first; empty where only people can mend it.</param>
public sealed record Finding(
    FindingKind Kind,
    Severity Severity,
    JoinLinkId Link,
    string Title,
    string Why,
    ImmutableArray<Remedy> Remedies
);
