using System.Globalization;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>
/// Sends what waits in the outbox. A letter's text is made when it goes, so that what was withdrawn meanwhile never does, and no token
/// stands in the database. One that fails is tried again after a while, and given up after two days.
/// </summary>
public sealed class Post(
    AlmanacDatabase database,
    IClock clock,
    Secrets secrets,
    SessionLetters sessions,
    IMailCarrier carrier,
    AlmanacAddress address
)
{
    // Two days in all: a server that is down over a weekend's night is waited for.
    private static readonly Duration[] Pauses =
    [
        Duration.FromMinutes(1),
        Duration.FromMinutes(5),
        Duration.FromMinutes(15),
        Duration.FromHours(1),
        Duration.FromHours(3),
        Duration.FromHours(6),
        Duration.FromHours(12),
        Duration.FromHours(24),
    ];

    private static readonly Duration Lease = Duration.FromMinutes(5);

    /// <summary>Sends all letters that are due.</summary>
    /// <returns>How many went.</returns>
    public async Task<int> Send(CancellationToken cancellation = default)
    {
        for (var sent = 0; ; )
        {
            var now = clock.GetCurrentInstant();
            // Another process that serves takes another one.
            if (
                database.Read(stores => stores.Letters.NextDue()) is not { } due
                || due > now
                || database.Write(stores => stores.Letters.Take(now, now + Lease), taken => taken is not null)
                    is not { } letter
            )
                return sent;
            if (database.Read(stores => ComposeFor(stores, letter, now)) is not { } composed)
            {
                Store(stores => stores.Letters.NotNeeded(letter.Id, now));
                continue;
            }

            try
            {
                await carrier.Carry(composed, cancellation);
                Store(stores => stores.Letters.Sent(letter.Id, clock.GetCurrentInstant()));
                sent++;
            }
            catch (MailCarrierException failure)
            {
                var again =
                    failure.IsFinal || letter.Tries > Pauses.Length ? (Instant?)null : now + Pauses[letter.Tries - 1];
                Store(stores => stores.Letters.Failed(letter.Id, failure.Message, again, now));
            }
        }
    }

    private void Store(Action<Stores> write) =>
        database.Write(
            stores =>
            {
                write(stores);
                return true;
            },
            kept => kept
        );

    // As the one who gets it reads times and dates.
    private Letter? ComposeFor(Stores stores, QueuedLetter letter, Instant now)
    {
        var before = CultureInfo.CurrentCulture;
        CultureInfo.CurrentCulture = SchoolQuery.Culture(stores, letter.To);
        try
        {
            return Compose(stores, letter, now);
        }
        finally
        {
            CultureInfo.CurrentCulture = before;
        }
    }

    private Letter? Compose(Stores stores, QueuedLetter letter, Instant now)
    {
        if (
            stores.People.Get(letter.To) is not { EndedAt: null, Email: { } email } to
            || stores.School.Find() is not { } school
        )
            return null;
        var root = address.Root();
        LetterSessions? carried = null;
        LetterFile? file = null;
        var written = letter.Kind switch
        {
            LetterKind.Sessions => sessions.Compose(stores, letter, to, school, now) is var (subject, text, own)
            && (carried = own) is not null
                ? (subject, text)
                : null,
            LetterKind.Invitation or LetterKind.Reset => Entry(stores, letter, to, school, root, now),
            LetterKind.WrongCodes => (
                "Somebody knows your password",
                $"Somebody gave your password at the sign-in of {school.Name} on {Wording.WithWeekday(letter.MadeAt.InZone(school.Time.Zone).Date)}, and then wrong codes, until further ones were refused. If it was not you, choose another password under “Your account”, and end the sign-ins you do not know:\n{new Uri(root, "account")}"
            ),
            LetterKind.AccessAsked => Asked(stores, letter, to, root),
            LetterKind.LinkDue => LinkLetters.Compose(stores, letter, to, school, root, now),
            LetterKind.ToBeDone => DueLetters.Compose(stores, letter, to, school, root, now),
            LetterKind.Reminder => Reminders.Compose(stores, letter, to, school, root, now),
            LetterKind.Copy => GiveCopy.Compose(stores, letter, to, school, root, now) is var (subject, text, copy)
            && (file = copy) is not null
                ? (subject, text)
                : null,
            LetterKind.AccessGiven => Given(stores, letter, to, root),
            LetterKind.SeveralGiven => Given(stores, letter, to, root) is null
                ? null
                : (
                    "You have access to further calendars",
                    $"Several calendars are shared with you, {stores.Calendars.Get(new Core.Calendars.CalendarId(letter.About)).Title} among them. All that you may see are here:\n\n{new Uri(root, "calendars")}"
                ),
            LetterKind.Notice => About(stores, letter, to, school, root, now),
            _ => Answered(stores, letter, to, root),
        };
        // A copy may go to somebody whom the school does not know.
        var other = letter.Kind == LetterKind.Copy ? stores.Copies.Find(letter.About)?.Address : null;
        return written is not var (about, says)
            ? null
            : new Letter(
                $"letter.{letter.Id}@{root.Host}",
                other?.Value ?? to.Name,
                (other ?? email).Value,
                about,
                $"{(other is null ? to.Name : "Hello")},\n\n{says}\n\nThe almanac of {school.Name}\n{root}\n",
                now,
                carried,
                file
            );
    }

    private (string Subject, string Text)? Entry(
        Stores stores,
        QueuedLetter letter,
        Person to,
        Core.Terms.School school,
        Uri root,
        Instant now
    )
    {
        if (
            stores.Invitations.Get(letter.About) is not { } invitation
            || invitation.Person != to.Id
            || !invitation.IsOpen(now)
        )
            return null;
        var until = invitation.EndsAt.InZone(school.Time.Zone).LocalDateTime;
        var way = new Uri(root, $"welcome/{secrets.TokenOfInvitation(invitation.Id, invitation.Generation)}");
        var by = invitation.MadeBy is { } person
            ? stores.People.NamesOf([person]).GetValueOrDefault(person, school.Name)
            : school.Name;
        var lasts =
            $"It works once, until {Wording.WithWeekday(until.Date)}, {Wording.Of(until.TimeOfDay)} ({Wording.Place(school.Time.Zone)} time).";
        return invitation.Purpose == InvitationPurpose.Join
            ? (
                $"Your way into the almanac of {school.Name}",
                $"{by} invites you to the almanac of {school.Name}: the sessions, materials and join links of your classes.\n\nChoose a password here:\n{way}\n\n{lasts}"
            )
            : (
                $"A new password for the almanac of {school.Name}",
                $"Somebody, most likely you, asked for a new password. Choose one here:\n{way}\n\n{lasts}\nIf it was not you, leave it: nothing changes."
            );
    }

    private static (string Subject, string Text)? Asked(Stores stores, QueuedLetter letter, Person to, Uri root)
    {
        if (stores.Requests.Find(letter.About) is not { AnsweredAt: null } request)
            return null;
        var calendar = stores.Calendars.Get(request.Calendar);
        // Who keeps it no longer is not told of it.
        if (
            !calendar.IsInUse
            || !AccessRules.May(
                Permission.ChangeCalendar,
                AccessRules.LevelOf(stores.People.ViewerOf(to.Id), [.. stores.Calendars.GrantsOf(calendar.Id)])
            )
        )
            return null;
        var who = stores.People.NamesOf([request.Person]).GetValueOrDefault(request.Person, "Somebody");
        var why = request.Why.Length > 0 ? $"\n\n“{request.Why}”" : "";
        return (
            $"{who} asks for access to {calendar.Title}",
            $"{who} would like to see {calendar.Title}: {AccessPhrases.NameOf(request.Level)}.{why}\n\nSay yes or no here:\n{new Uri(root, $"calendars/{calendar.Slug}/sharing")}"
        );
    }

    // A notice as its reader may see it when it goes; what is down or over by then goes no more.
    private (string Subject, string Text)? About(
        Stores stores,
        QueuedLetter letter,
        Person to,
        Core.Terms.School school,
        Uri root,
        Instant now
    )
    {
        if (EditNotices.ShownTo(stores, new NoticeId(letter.About), to.Id, now) is not var (shown, calendar))
            return null;
        var says = new List<string> { shown.Notice.Whole };
        if (shown.About is { Session: var session } about)
            says.Add(
                $"{about.Title}: {Wording.WithWeekday(session.Day)}, {SayBack.Span(session)}{(about.State.Length > 0 ? $", {about.State}" : "")}{(about.Place.Length > 0 ? $", {about.Place}" : "")}"
            );
        if (shown.Join is { } join)
            says.Add($"Join, once the door is open:\n{join.At(root)}");
        if (shown.Material is { } material)
            says.Add(
                $"{material.Title}:\n{(material.Content is Core.Materials.MaterialContent.Link link ? link.Address : new Uri(root, $"m/{material.Key}"))}"
            );
        says.Add(
            $"Please say that you have seen it:\n{new Uri(root, $"n/{letter.About}/{to.Id.Value}/{secrets.TokenOfNotice(letter.About, to.Id.Value)}")}"
        );
        return ($"{calendar.Title}: {shown.Notice.Heading}", string.Join("\n\n", says));
    }

    // As it is when the letter goes: what was ended by then is told to nobody.
    private static (string Subject, string Text)? Given(Stores stores, QueuedLetter letter, Person to, Uri root)
    {
        var calendar = stores.Calendars.Get(new Core.Calendars.CalendarId(letter.About));
        var grants = stores.Calendars.GrantsOf(calendar.Id);
        if (
            !calendar.IsInUse
            || grants.FirstOrDefault(grant => grant.To is Grantee.OnePerson one && one.Person == to.Id) is not { } grant
        )
            return null;
        var where = new Uri(
            root,
            grant.Level >= AccessLevel.Contributor ? $"calendars/{calendar.Slug}" : $"c/{calendar.Slug}"
        );
        return (
            $"You have access to {calendar.Title}",
            $"{calendar.Title} is shared with you. Your access{(grant.Until is { } until ? $", until {Wording.WithYear(until)}" : "")}: {AccessPhrases.NameOf(grant.Level)} ({AccessPhrases.MeaningOf(grant.Level)}).\n\n{where}"
        );
    }

    private static (string Subject, string Text)? Answered(Stores stores, QueuedLetter letter, Person to, Uri root)
    {
        if (stores.Requests.Find(letter.About) is not { AnsweredAt: not null } request || request.Person != to.Id)
            return null;
        var calendar = stores.Calendars.Get(request.Calendar);
        return request.Given == AccessLevel.None
            // What it is called is not told to who may not see it.
            ? (
                "Your request for access",
                "You asked for access to a calendar. Its keepers said no this time; you can ask them why."
            )
            : (
                $"You have access to {calendar.Title}",
                $"You asked for access to {calendar.Title}, and have it: {AccessPhrases.NameOf(request.Given)}.\n\n{new Uri(root, $"calendars/{calendar.Slug}")}"
            );
    }
}
