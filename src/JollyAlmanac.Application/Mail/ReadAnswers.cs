using System.Globalization;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Mail;

/// <summary>Reads the answers to sessions that were sent by e-mail: iTIP's REPLY (RFC 5546 §3.2.3).</summary>
public sealed class ReadAnswers(AlmanacDatabase database, IClock clock, IMailbox mailbox)
{
    // A calendar program's clock may be ahead of ours, but no year.
    private static readonly Duration Ahead = Duration.FromDays(1);

    /// <summary>Reads what has come in.</summary>
    /// <returns>How many letters held an answer.</returns>
    public async Task<int> Take(CancellationToken cancellation = default)
    {
        var understood = 0;
        foreach (var letter in await mailbox.Fetch(cancellation))
        {
            var isUnderstood = false;
            foreach (var calendar in letter.Calendars.SelectMany(bytes => ICalendarReader.Read(bytes).Calendars))
                if (calendar.Find("METHOD")?.Value.Trim().Equals("REPLY", StringComparison.OrdinalIgnoreCase) == true)
                    foreach (var part in calendar.Parts.Where(part => part.Name == "VEVENT"))
                        isUnderstood |= database.Write(stores => Store(stores, letter.From, part), kept => kept);
            await mailbox.Archive(letter, isUnderstood, cancellation);
            if (isUnderstood)
                understood++;
        }

        return understood;
    }

    // Only who was asked answers, from the address that was asked; an answer to what was never sent, or older than one that is here, is
    // none.
    private bool Store(Stores stores, string from, Component part)
    {
        if (
            part.Find("UID") is not { } uid
            || part.Find("ATTENDEE") is not { } attendee
            || !string.Equals(AddressOf(attendee.Value), from, StringComparison.OrdinalIgnoreCase)
            || AnswerOf(attendee.Parameter("PARTSTAT")) is not { } answer
            || !EmailAddress.TryParse(from, null, out var email)
            || stores.People.FindByEmail(email) is not { Person: { EndedAt: null } person }
            || stores.Mailings.Find(ContentLine.FromText(uid.Value.Trim()), person.Id)
                is not { CancelledAt: null } mailed
        )
            return false;
        var now = clock.GetCurrentInstant();
        var sequence = int.TryParse(
            part.Find("SEQUENCE")?.Value,
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var number
        )
            ? number
            : 0;
        var at =
            part.Find("DTSTAMP") is { } stamp
            && Stamp.Parse(stamp.Value.Trim()) is { Success: true, Value: var told }
            && told.InUtc().ToInstant() is var instant
            && instant <= now + Ahead
                ? instant
                : now;
        var session = part.Find("RECURRENCE-ID")?.Value.Trim() ?? "";
        // It is kept as it came, to be found again where it is a session's.
        if (sequence > mailed.Sequence || session.Length > 20 || !session.All(char.IsAsciiLetterOrDigit))
            return false;
        if (
            stores.Mailings.AnswerTo(mailed.Id, session) is { } before
            && (before.Sequence > sequence || (before.Sequence == sequence && before.At > at))
        )
            return false;
        stores.Mailings.Answer(new MailedAnswer(mailed.Id, session, answer, sequence, at));
        if (stores.Series.Find(mailed.Series, alsoTakenOff: true) is { } series)
            stores.History.Add(
                now,
                person.Id,
                series.Calendar,
                HistorySubject.Series,
                series.Id.Value,
                "AnswerByMail",
                $"answered {series.Title} by e-mail: {answer.ToString().ToLowerInvariant()}",
                null,
                null
            );
        return true;
    }

    // The other values of PARTSTAT are no answers.
    private static MailAnswer? AnswerOf(string? partstat) =>
        partstat?.ToUpperInvariant() switch
        {
            "ACCEPTED" => MailAnswer.Accepted,
            "DECLINED" => MailAnswer.Declined,
            "TENTATIVE" => MailAnswer.Tentative,
            _ => null,
        };

    private static string AddressOf(string value)
    {
        value = value.Trim();
        return value.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase)
            ? Uri.UnescapeDataString(value[7..])
            : value;
    }

    private static readonly LocalDateTimePattern Stamp = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuuMMdd'T'HHmmss'Z'"
    );
}
