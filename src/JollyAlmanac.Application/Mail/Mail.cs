using JollyAlmanac.Core.Mail;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>A letter as it goes out.</summary>
/// <param name="MessageId">The same each time it is tried, so that a reader knows it again: "letter.12@almanac.skerry.example".</param>
/// <param name="ToName">For whom.</param>
/// <param name="ToAddress">Their e-mail address.</param>
/// <param name="Subject">One line.</param>
/// <param name="Text">Plain text.</param>
/// <param name="At">When.</param>
/// <param name="Sessions">Sessions that a calendar program takes in; null for a letter without.</param>
/// <param name="File">A calendar file that is attached; null for none.</param>
public sealed record Letter(
    string MessageId,
    string ToName,
    string ToAddress,
    string Subject,
    string Text,
    Instant At,
    LetterSessions? Sessions = null,
    LetterFile? File = null
);

/// <summary>Sessions in a letter (RFC 6047).</summary>
/// <param name="Method">REQUEST or CANCEL.</param>
/// <param name="Calendar">The iCalendar document.</param>
public sealed record LetterSessions(string Method, string Calendar);

/// <summary>A letter that came in.</summary>
/// <param name="Key">What its mailbox knows it by.</param>
/// <param name="From">The address that it comes from, as the mail server that took it has vouched (RFC 8601); empty where it has not,
/// or the letter says none.</param>
/// <param name="Calendars">The iCalendar documents in it.</param>
public sealed record IncomingLetter(string Key, string From, IReadOnlyList<byte[]> Calendars);

/// <summary>Where answers come in: a mailbox of the school's, or the stand-in, a folder that letters are put into.</summary>
public interface IMailbox
{
    /// <summary>The letters that have come, the oldest first; at most a hundred.</summary>
    Task<IReadOnlyList<IncomingLetter>> Fetch(CancellationToken cancellation);

    /// <summary>Puts a letter away that was read.</summary>
    /// <param name="letter">The letter.</param>
    /// <param name="isUnderstood">It was an answer; else somebody may want to look at it.</param>
    /// <param name="cancellation">Ends the waiting.</param>
    Task Archive(IncomingLetter letter, bool isUnderstood, CancellationToken cancellation);
}

/// <summary>Carries letters: a server of the school's, or the stand-in that puts them into a folder.</summary>
public interface IMailCarrier
{
    /// <summary>Carries a letter. Called by one at a time, and never within a reading or writing.</summary>
    /// <param name="letter">The letter.</param>
    /// <param name="cancellation">Ends the waiting.</param>
    /// <exception cref="MailCarrierException">It could not.</exception>
    Task Carry(Letter letter, CancellationToken cancellation);
}

/// <summary>A letter could not be carried.</summary>
/// <param name="message">Why, for people; without what the letter says.</param>
/// <param name="isFinal">Trying again would not help: the address is refused.</param>
public sealed class MailCarrierException(string message, bool isFinal = false) : Exception(message)
{
    /// <summary>Trying again would not help.</summary>
    public bool IsFinal => isFinal;
}

/// <summary>Where the almanac is reached, for addresses in letters.</summary>
/// <param name="Root">Ends in "/".</param>
/// <param name="Mail">The address that letters come from, and answers go to.</param>
public sealed record AlmanacAddress(Func<Uri> Root, string Mail);
