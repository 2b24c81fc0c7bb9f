using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>A letter as it goes out.</summary>
/// <param name="MessageId">The same each time it is tried, so that a reader knows it again: "letter.12@almanac.skerry.example".</param>
/// <param name="ToName">For whom.</param>
/// <param name="ToAddress">Their e-mail address.</param>
/// <param name="Subject">One line.</param>
/// <param name="Text">Plain text.</param>
/// <param name="At">When.</param>
public sealed record Letter(string MessageId, string ToName, string ToAddress, string Subject, string Text, Instant At);

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
public sealed record AlmanacAddress(Func<Uri> Root);
