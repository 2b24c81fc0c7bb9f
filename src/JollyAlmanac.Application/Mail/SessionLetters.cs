using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>
/// Sessions by e-mail: holds what somebody was sent of a calendar beside what they may see of it now, and writes a letter for each series
/// that differs. Whatever changed it, an edit, bells, a no-class day or their own access, is found the same way.
/// </summary>
public sealed class SessionLetters(AlmanacDatabase database, IClock clock, AlmanacAddress address)
{
    // So many are looked at in one writing, so that nobody waits for long.
    private const int AtOnce = 20;

    // Who moves five sessions in a row sends one letter, not five.
    private static readonly Duration Quiet = Duration.FromMinutes(2);

    private (long Epoch, LocalDate Day)? looked;

    /// <summary>Looks at all that may have changed since the last look.</summary>
    public void Look(CancellationToken cancellation = default)
    {
        var epoch = database.Epoch();
        if (database.Read(stores => stores.School.Find()) is not { } school)
            return;
        var day = clock.GetCurrentInstant().InZone(school.Time.Zone).Date;
        if (looked == (epoch, day))
            return;
        while (
            !cancellation.IsCancellationRequested && database.Read(stores => stores.Mailings.ToLookAt(day, 1)).Count > 0
        )
            database.Write(stores => LookAtSome(stores, day), kept => kept);
        looked = (epoch, day);
    }

    private bool LookAtSome(Stores stores, LocalDate day)
    {
        foreach (var mailing in stores.Mailings.ToLookAt(day, AtOnce))
        {
            Settle(stores, mailing.Calendar, mailing.Person, clock.GetCurrentInstant());
            stores.Mailings.Looked(mailing.Calendar, mailing.Person, day);
        }

        return true;
    }

    /// <summary>
    /// Writes the letters that somebody is owed about a calendar: of series that are new to them, changed, or no longer theirs to see.
    /// What is over is not taken back.
    /// </summary>
    internal static void Settle(Stores stores, CalendarId id, PersonId person, Instant now)
    {
        var sent = stores.Mailings.SentOf(id, person).ToDictionary(one => one.Series);
        foreach (var (series, content, ends) in Owed(stores, id, person, now))
        {
            var (times, all) = SeriesLetter.HashesOf(content);
            sent.Remove(series.Id, out var before);
            if (before is null ? ends <= now : before is { CancelledAt: null } && before.Content == all)
                continue;
            var isMoved = before is not null && (before.Times != times || before.CancelledAt is not null);
            var kept = new MailedSeries(
                before?.Id ?? 0,
                series.Id,
                person,
                content.Entries[0].Shown.Title,
                before is null ? 0 : before.Sequence + (isMoved ? 1 : 0),
                times,
                all,
                ends,
                null
            );
            Write(stores, kept, now, before is null ? now : now + Quiet);
        }

        foreach (var gone in sent.Values.Where(one => one.CancelledAt is null))
            if (gone.EndsAt > now)
                Write(stores, gone with { Sequence = gone.Sequence + 1, CancelledAt = now }, now, now + Quiet);
    }

    // Each series that somebody gets of a calendar, as they may see it, with the end of its last session.
    private static IEnumerable<(Series Series, FeedContent Content, Instant Ends)> Owed(
        Stores stores,
        CalendarId id,
        PersonId person,
        Instant now
    )
    {
        var calendar = stores.Calendars.Get(id);
        if (
            !stores.Mailings.Has(id, person)
            || !calendar.IsInUse
            || stores.School.Find() is not { } school
            || stores.People.Get(person) is not { EndedAt: null, Email: not null }
        )
            yield break;
        var viewer = stores.People.ViewerOf(person);
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(id));
        var facts = CalendarFacts.Read(stores, id);
        foreach (var plan in facts.PlansFor(school.Time, level, viewer))
            if (
                Content(facts, plan, calendar, school, level, viewer, new Uri("https://almanac.invalid/"), now) is
                { } content
            )
                yield return (plan.Of, content, plan.Sessions.Max(session => session.EndsAt));
    }

    private static FeedContent? Content(
        CalendarFacts facts,
        Plan plan,
        Calendar calendar,
        School school,
        AccessLevel level,
        Viewer viewer,
        Uri root,
        Instant now
    )
    {
        // That somebody is busy is nothing to be invited to.
        if (!AccessRules.May(Permission.SeeOutline, Redaction.LevelOn(plan.Of, level, viewer)) || !plan.Held.Any())
            return null;
        var all = facts.MaterialsAt(school.Time, now);
        var forAll = all.ForEvery;
        // A session that is cancelled is left out: a letter that tells of sessions tells of those that are.
        ShownSession? Show(Session session, Core.Materials.MaterialsAt materials) =>
            session.IsCancelled
                ? null
                : Redaction.Show(session, level, ShowChoices.SignedIn, materials, facts.WayInto(session), viewer);
        var entry = FeedEntry.Of(
            plan,
            school.Time,
            session => Show(session, forAll)!,
            session => Show(session, all),
            facts.HasOwnMaterials,
            null
        );
        return new FeedContent(calendar.Title, calendar, school.Revision, school.ChangedAt, [entry], root);
    }

    private static void Write(Stores stores, MailedSeries mailed, Instant now, Instant due)
    {
        var id = stores.Mailings.Store(mailed);
        // The one that waits says what is so when it goes.
        if (!stores.Letters.Waits(LetterKind.Sessions, id))
            stores.Letters.Add(LetterKind.Sessions, mailed.Person, id, now, due);
    }

    /// <summary>The letter as it goes; null where there is nothing to say any more.</summary>
    internal (string Subject, string Text, LetterSessions Sessions)? Compose(
        Stores stores,
        QueuedLetter letter,
        Person to,
        School school,
        Instant now
    )
    {
        if (
            stores.Mailings.Find(letter.About) is not { } mailed
            || mailed.Person != to.Id
            || to.Email is not { } email
            || stores.Series.Find(mailed.Series, alsoTakenOff: true) is not { } series
        )
            return null;
        var calendar = stores.Calendars.Get(series.Calendar);
        var answer =
            stores.Mailings.AnswerTo(mailed.Id, "") is { } given && given.Sequence == mailed.Sequence
                ? given.Answer.ToString().ToUpperInvariant()
                : SeriesLetter.NoAnswer;
        var itip = new SeriesLetter(
            address.Mail,
            $"The almanac of {school.Name}",
            email.Value,
            to.Name,
            mailed.Sequence,
            now,
            answer
        );
        var hasGone = stores.Letters.HasGone(LetterKind.Sessions, mailed.Id, letter.Id);
        if (mailed.CancelledAt is not null)
            return hasGone
                ? (
                    $"{mailed.Title}: taken out of your calendar",
                    $"{mailed.Title} is not, or no longer, yours to come to. Your calendar program takes its sessions out by itself.",
                    new LetterSessions(SeriesLetter.Cancel, itip.TakeBack(series.Uid, mailed.Title))
                )
                : null;
        var viewer = stores.People.ViewerOf(to.Id);
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(calendar.Id));
        var facts = CalendarFacts.Read(stores, calendar.Id);
        // What changed since it was looked at is looked at again soon, and told then.
        if (
            !calendar.IsInUse
            || facts.PlansFor(school.Time, level, viewer).FirstOrDefault(one => one.Of.Id == series.Id) is not { } plan
            || Content(facts, plan, calendar, school, level, viewer, address.Root(), now) is not { } content
        )
            return null;
        var title = content.Entries[0].Shown.Title;
        var help = LetterHelp.Of(
            content.Entries[0].Shown.Join is { } code ? stores.JoinLinks.Find(code) : null,
            calendar,
            school,
            level
        );
        return (
            hasGone ? $"Changed: {title}" : title,
            $"{SayBack.Sentence(plan, school.Time, calendar.Title)}\n\n{(hasGone ? "Something of it has changed" : "These are its sessions")}, for a calendar of your own. Your answer, yes, no or perhaps, goes to those who keep the calendar.{string.Concat(help.Select(says => "\n\n" + says))}\n\nTo get no more of these letters:\n{new Uri(address.Root(), $"calendars/{calendar.Slug}/by-mail")}",
            new LetterSessions(SeriesLetter.Request, itip.Tell(content))
        );
    }
}
