using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Application.Mail;

/// <summary>What somebody answered to one series.</summary>
/// <param name="Sent">What they were sent, and what it is called.</param>
/// <param name="Answers">Their answers, that about the whole series first.</param>
public sealed record SeriesAnswers(MailedSeries Sent, IReadOnlyList<MailedAnswer> Answers);

/// <summary>Somebody who gets the sessions, for those who keep the calendar.</summary>
/// <param name="Name">Who.</param>
/// <param name="Mailing">Since when.</param>
/// <param name="Series">What they were sent and what they answered.</param>
public sealed record MailReader(string Name, Mailing Mailing, IReadOnlyList<SeriesAnswers> Series);

/// <summary>The page of a calendar's sessions by e-mail.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Address">The viewer's address; null where they have none.</param>
/// <param name="Gets">They get the sessions.</param>
/// <param name="Own">What they were sent and answered.</param>
/// <param name="Readers">Everybody who gets them; null where the viewer may not know.</param>
public sealed record ByMailView(
    Calendar Calendar,
    EmailAddress? Address,
    bool Gets,
    IReadOnlyList<SeriesAnswers> Own,
    IReadOnlyList<MailReader>? Readers
)
{
    /// <summary>How many minutes before each session they are reminded; null for not at all.</summary>
    public int? Reminder { get; init; }
}

/// <summary>Sessions by e-mail, into a calendar of one's own: everybody chooses for themselves.</summary>
public sealed class SessionsByMail(Gate gate)
{
    /// <summary>How it stands.</summary>
    public Outcome<ByMailView> View(Viewer viewer, Slug slug) =>
        gate.Read<ByMailView>(Operation.SeeSessionsByMail, viewer, slug, at =>
        {
            var stores = at.Stores;
            var answers = stores.Mailings.AnswersOn(at.Calendar.Id).ToLookup(answer => answer.Mailed);
            var sent = stores
                .Mailings.SentOf(at.Calendar.Id)
                .Where(one => one.CancelledAt is null)
                .ToLookup(one => one.Person);
            IReadOnlyList<SeriesAnswers> Of(PersonId person) =>
                [.. sent[person].Select(one => new SeriesAnswers(one, [.. answers[one.Id]]))];
            List<MailReader>? readers = null;
            if (at.Context.May(Permission.ChangeCalendar))
            {
                var mailings = stores.Mailings.Of(at.Calendar.Id);
                var names = stores.People.NamesOf([.. mailings.Select(mailing => mailing.Person)]);
                readers =
                [
                    .. mailings
                        .Select(mailing => new MailReader(
                            names.GetValueOrDefault(mailing.Person, "somebody"),
                            mailing,
                            Of(mailing.Person)
                        ))
                        .OrderBy(reader => reader.Name, StringComparer.OrdinalIgnoreCase),
                ];
            }

            return new Outcome<ByMailView>.Done(
                new ByMailView(
                    at.Calendar,
                    stores.People.Get(at.Person)?.Email,
                    stores.Mailings.Has(at.Calendar.Id, at.Person),
                    Of(at.Person),
                    readers
                )
                {
                    Reminder = stores.Mailings.ReminderOf(at.Calendar.Id, at.Person),
                }
            );
        });

    /// <summary>Somebody gets a calendar's sessions from now on.</summary>
    public Outcome<EmailAddress> Begin(Viewer viewer, Slug slug) =>
        gate.Write<EmailAddress>(Operation.GetSessionsByMail, viewer, slug, at =>
        {
            if (at.Stores.People.Get(at.Person) is not { Email: { } email })
                return Outcome.Because<EmailAddress>(
                    "",
                    "The school knows no e-mail address of yours. A coordinator can add one."
                );
            if (!at.Stores.Mailings.Add(at.Calendar.Id, at.Person, at.Now))
                return new Outcome<EmailAddress>.Done(email);
            SessionLetters.Settle(at.Stores, at.Calendar.Id, at.Person, at.Now);
            at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, "chose to get its sessions by e-mail");
            return new Outcome<EmailAddress>.Done(email);
        });

    /// <summary>Somebody is reminded by e-mail before each session, or no longer.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="minutes">Minutes before; empty for not at all.</param>
    public Outcome<int?> Remind(Viewer viewer, Slug slug, string? minutes) =>
        gate.Write<int?>(Operation.GetReminders, viewer, slug, at =>
        {
            var entry = new FormReader();
            int? before = string.IsNullOrWhiteSpace(minutes)
                ? null
                : entry.Number("Minutes", minutes.Trim(), "The minutes before", 1, PublicationOptions.LongestReminder);
            if (before is not null && at.Stores.People.Get(at.Person) is not { Email: not null })
                entry.Wrong("", "The school knows no e-mail address of yours. A coordinator can add one.");
            if (!entry.IsGood)
                return new Outcome<int?>.Refused(entry.Problems);
            if (at.Stores.Mailings.ReminderOf(at.Calendar.Id, at.Person) == before)
                return new Outcome<int?>.Done(before);
            at.Stores.Mailings.SetReminder(at.Calendar.Id, at.Person, before);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                before is null
                    ? "chose to be reminded by e-mail no longer"
                    : $"chose to be reminded by e-mail {before} minutes before"
            );
            return new Outcome<int?>.Done(before);
        });

    /// <summary>Somebody gets them no longer; those to come are taken out of their own calendar.</summary>
    public Outcome<bool> End(Viewer viewer, Slug slug) =>
        gate.Write<bool>(Operation.GetSessionsByMail, viewer, slug, at =>
        {
            if (!at.Stores.Mailings.Remove(at.Calendar.Id, at.Person))
                return new Outcome<bool>.Done(false);
            SessionLetters.Settle(at.Stores, at.Calendar.Id, at.Person, at.Now);
            at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, "chose to get its sessions by e-mail no longer");
            return new Outcome<bool>.Done(true);
        });
}
