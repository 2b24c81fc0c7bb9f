using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Mail;

/// <summary>What somebody answers to sessions that came by mail; the words of PARTSTAT (RFC 5545 §3.2.12).</summary>
public enum MailAnswer
{
    /// <summary>They come.</summary>
    Accepted,

    /// <summary>They do not come.</summary>
    Declined,

    /// <summary>They do not know yet.</summary>
    Tentative,
}

/// <summary>Somebody gets a calendar's sessions by e-mail.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Person">Who.</param>
/// <param name="Since">Since when.</param>
public sealed record Mailing(CalendarId Calendar, PersonId Person, Instant Since);

/// <summary>What one person was sent of a series.</summary>
/// <param name="Id">Its id; 0 for one that is not kept yet.</param>
/// <param name="Series">The series.</param>
/// <param name="Person">Whom it was sent to.</param>
/// <param name="Title">What it was called to them.</param>
/// <param name="Sequence">Rises with each change of times, and with a cancellation (RFC 5546 §2.1.4).</param>
/// <param name="Times">A hash of when its sessions are.</param>
/// <param name="Content">A hash of all that was sent.</param>
/// <param name="EndsAt">When its last session ends.</param>
/// <param name="CancelledAt">When it was taken back; null while it stands.</param>
public sealed record MailedSeries(
    long Id,
    SeriesId Series,
    PersonId Person,
    string Title,
    int Sequence,
    string Times,
    string Content,
    Instant EndsAt,
    Instant? CancelledAt
);

/// <summary>An answer that came back.</summary>
/// <param name="Mailed">To what.</param>
/// <param name="Session">Empty for the whole series; for one session its RECURRENCE-ID, e.g. 20261102T080000.</param>
/// <param name="Answer">The answer.</param>
/// <param name="Sequence">Which version of it they had.</param>
/// <param name="At">When they answered, by their own clock.</param>
public sealed record MailedAnswer(long Mailed, string Session, MailAnswer Answer, int Sequence, Instant At);
