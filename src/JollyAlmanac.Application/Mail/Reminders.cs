using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>
/// Reminds those who asked for it by mail, some minutes before each session that they may see; whoever works its door, before that opens.
/// </summary>
public sealed class Reminders(AlmanacDatabase database, IClock clock)
{
    private readonly Pace pace = new(Duration.FromSeconds(30));

    /// <summary>Writes the letters that are due, at most twice a minute. A session that is on already reminds nobody.</summary>
    public void Look(CancellationToken cancellation = default)
    {
        var now = clock.GetCurrentInstant();
        if (!pace.IsDue(now))
            return;
        // Nothing is written where nothing is due.
        var due = database.Read(stores =>
            stores.School.Find() is { } school ? Due(stores, school, now, cancellation) : []
        );
        if (due.Count == 0)
            return;
        database.Write(
            stores =>
            {
                stores.Mailings.ForgetReminded(now - Duration.FromDays(2));
                foreach (var (session, person, startsAt) in due)
                    if (stores.Mailings.Remind(session, person, startsAt) is { } id)
                        stores.Letters.Add(LetterKind.Reminder, person, id, now);
                return true;
            },
            kept => kept
        );
    }

    private static List<(SessionKey Session, PersonId Person, Instant StartsAt)> Due(
        Stores stores,
        School school,
        Instant now,
        CancellationToken cancellation
    )
    {
        var due = new List<(SessionKey, PersonId, Instant)>();
        foreach (var readers in stores.Mailings.Reminders())
        {
            if (cancellation.IsCancellationRequested)
                break;
            // Who works the door is reminded before it opens, which is as long before the start as a door can.
            var farthest = now + Duration.FromMinutes(readers.Max(reader => reader.Minutes) + EntryRule.MostMinutes);
            var facts = CalendarFacts.Read(stores, readers.Key);
            Instant Opens(Session session) =>
                (session.Change?.Entry ?? facts.WayInto(session)?.Entry) is EntryRule.Around around
                && facts.WayInto(session) is not null
                    ? EntryWindow.Of(around, session).Opens
                    : session.StartsAt;
            var sessions = facts
                .Plans(school.Time)
                .SelectMany(plan => plan.Held)
                .Where(session => !session.IsAllDay && session.StartsAt > now && session.StartsAt <= farthest)
                .ToList();
            if (sessions.Count == 0)
                continue;
            var hosts = stores
                .Calendars.GrantsOf(readers.Key)
                .Where(grant => grant.Level >= AccessLevel.Editor)
                .Select(grant => grant.To)
                .OfType<Grantee.OnePerson>()
                .Select(to => to.Person)
                .ToHashSet();
            due.AddRange(
                readers.SelectMany(reader =>
                    sessions
                        .Where(session =>
                            (hosts.Contains(reader.Person) ? Opens(session) : session.StartsAt)
                            <= now + Duration.FromMinutes(reader.Minutes)
                        )
                        .Select(session => (session.Key, reader.Person, session.StartsAt))
                )
            );
        }

        return due;
    }

    /// <summary>The letter as it goes; null where its session is on, moved or gone by then, or no longer theirs to see.</summary>
    internal static (string Subject, string Text)? Compose(
        Stores stores,
        QueuedLetter letter,
        Person to,
        School school,
        Uri root,
        Instant now
    )
    {
        if (
            stores.Mailings.Reminded(letter.About) is not var (key, person, startsAt)
            || person != to.Id
            || startsAt <= now
            || stores.Series.Find(key.Series) is not { } series
        )
            return null;
        var calendar = stores.Calendars.Get(series.Calendar);
        if (!calendar.IsInUse || stores.Mailings.ReminderOf(calendar.Id, person) is null)
            return null;
        var viewer = stores.People.ViewerOf(person);
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(calendar.Id));
        var facts = CalendarFacts.Read(stores, calendar.Id);
        if (
            facts.Plans(school.Time).FirstOrDefault(plan => plan.Of.Id == series.Id)?.Find(key)
                is not { IsHeld: true } session
            || session.StartsAt != startsAt
            || facts.For(school.Time, now, level, ShowChoices.SignedIn, viewer)(session)
                is not { IsBusyOnly: false } shown
        )
            return null;
        var says = new List<string>
        {
            $"{shown.Title} starts {Wording.Until(startsAt - now)}: {Wording.WithWeekday(session.Day)}, {SayBack.Span(session)}{(shown.Place.Length > 0 ? $", {shown.Place}" : "")}.",
        };
        if (shown.Note.Length > 0)
            says.Add(shown.Note);
        if (shown.Join is { } join)
            says.Add($"Join, once the door is open:\n{join.At(root)}");
        foreach (var material in shown.Materials.Where(material => material.ForSession is not null))
            says.Add(
                $"{material.Title}:\n{(material.Content is Core.Materials.MaterialContent.Link link ? link.Address : new Uri(root, $"m/{material.Key}"))}"
            );
        says.AddRange(
            LetterHelp.Of(shown.Join is { } code ? stores.JoinLinks.Find(code) : null, calendar, school, level)
        );
        says.Add($"To get no more of these:\n{new Uri(root, $"calendars/{calendar.Slug}/by-mail")}");
        return ($"{shown.Title}, {Wording.Of(session.StartAtSchool.TimeOfDay)}", string.Join("\n\n", says));
    }
}
