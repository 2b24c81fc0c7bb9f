using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Mail;

/// <summary>What a letter is about.</summary>
public enum LetterKind
{
    /// <summary>An invitation to sign in; about an invitation.</summary>
    Invitation,

    /// <summary>A new password; about an invitation.</summary>
    Reset,

    /// <summary>Somebody asks for access; about a request.</summary>
    AccessAsked,

    /// <summary>The answer to it; about a request.</summary>
    AccessAnswered,

    /// <summary>Sessions of a series, for a calendar of one's own; about what was sent of it.</summary>
    Sessions,

    /// <summary>A notice of a calendar; about the notice.</summary>
    Notice,

    /// <summary>A session that begins soon; about what somebody gets of a series.</summary>
    Reminder,

    /// <summary>A frozen copy of some days of a calendar; about the copy.</summary>
    Copy,

    /// <summary>Somebody was given access; about the calendar.</summary>
    AccessGiven,

    /// <summary>Somebody was given access to several calendars at once; about the first of them.</summary>
    SeveralGiven,

    /// <summary>Wrong codes of one's second factor were given with the right password; about the person.</summary>
    WrongCodes,

    /// <summary>A join link's room soon reaches no further; about the link.</summary>
    LinkDue,

    /// <summary>Something is to be done by tomorrow; about the material.</summary>
    ToBeDone,
}

/// <summary>A letter that is to go out, or went.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">What it is about.</param>
/// <param name="To">For whom.</param>
/// <param name="About">Which invitation or request.</param>
/// <param name="MadeAt">When it was written down.</param>
/// <param name="DueAt">When it is tried next.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="SentAt">When it went; null while it has not.</param>
/// <param name="GivenUpAt">When it was given up; null while it was not.</param>
/// <param name="Problem">Why the last try failed; empty for no reason.</param>
public sealed record QueuedLetter(
    long Id,
    LetterKind Kind,
    PersonId To,
    long About,
    Instant MadeAt,
    Instant DueAt,
    int Tries,
    Instant? SentAt,
    Instant? GivenUpAt,
    string Problem
);
