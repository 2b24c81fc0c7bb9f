using System.Globalization;
using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Publishing;

/// <summary>What the form of a notice says, as typed.</summary>
/// <param name="Text">The text.</param>
/// <param name="First">The first day, ISO; empty for today.</param>
/// <param name="Last">The last day, ISO.</param>
/// <param name="Session">The key of the session it is about; empty for none.</param>
/// <param name="EndsWithSession">It comes down when the session is over.</param>
/// <param name="ShowsJoin">With the session's short join address.</param>
/// <param name="Material">The id of a material; empty for none.</param>
/// <param name="Only">The only ones it is for, as <see cref="AudienceInput"/> has them.</param>
/// <param name="OnlyOthers">E-mail addresses of others it is for.</param>
/// <param name="ByMail">It goes by mail as well.</param>
/// <param name="Version">The version the form was made from; 0 for a new one.</param>
public sealed record NoticeInput(
    string? Text = "",
    string? First = "",
    string? Last = "",
    string? Session = "",
    bool EndsWithSession = false,
    bool ShowsJoin = false,
    string? Material = "",
    IReadOnlyList<string>? Only = null,
    string? OnlyOthers = "",
    bool ByMail = false,
    int Version = 0
)
{
    /// <summary>What stands above the text; empty for nothing.</summary>
    public string? Headline { get; init; } = "";

    /// <summary>The id of a join link whose short address stands in it; empty for none.</summary>
    public string? Link { get; init; } = "";

    /// <summary>The form of a notice.</summary>
    public static NoticeInput Of(Notice notice) =>
        new(
            notice.Text,
            LocalDatePattern.Iso.Format(notice.First),
            LocalDatePattern.Iso.Format(notice.Last),
            notice.About?.ToString() ?? "",
            notice.EndsWithSession,
            notice.ShowsJoin,
            notice.Material?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            AudienceInput.TicksOf(notice.OnlyFor),
            "",
            false,
            notice.Version
        )
        {
            Headline = notice.Headline,
            Link = notice.Link?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
        };
}

/// <summary>Somebody whom a notice is for.</summary>
/// <param name="Name">Their name.</param>
/// <param name="At">When they saw it; null where they have not.</param>
/// <param name="ByMail">They said so from a letter.</param>
/// <param name="HasAddress">They have an e-mail address.</param>
public sealed record NoticeReader(string Name, Instant? At, bool ByMail, bool HasAddress);

/// <summary>How many a notice goes to, before it does.</summary>
/// <param name="People">How many are named on the calendar, or read along for a child, and see it.</param>
/// <param name="WithoutAddress">The names of those of them who have no e-mail address.</param>
/// <param name="AlsoStrangers">Whoever opens the class page sees it, too.</param>
public sealed record NoticeReach(int People, IReadOnlyList<string> WithoutAddress, bool AlsoStrangers)
{
    /// <summary>How many it goes to by e-mail.</summary>
    public int ByMail => People - WithoutAddress.Count;
}

/// <summary>A notice for those who keep it.</summary>
/// <param name="Notice">The notice.</param>
/// <param name="State">"up", "ahead", "over" or "down".</param>
/// <param name="For">Whom it is for, in words; empty for all.</param>
/// <param name="About">Its session; null for none.</param>
/// <param name="Readers">Whom it is for by name, who has not seen it first; empty for one that is over.</param>
/// <param name="RemindedAt">When those who had not were last written to; null for never.</param>
public sealed record NoticeItem(
    Notice Notice,
    string State,
    string For,
    Session? About,
    IReadOnlyList<NoticeReader> Readers,
    Instant? RemindedAt
)
{
    /// <summary>How many it goes to, as it is; null where it is over or taken down.</summary>
    public NoticeReach? Reach { get; init; }

    /// <summary>How many have seen it.</summary>
    public int Seen => Readers.Count(reader => reader.At is not null);
}

/// <summary>The notices of a calendar, for those who keep them.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">When.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Notices">Its notices, the newest first.</param>
/// <param name="Sessions">The sessions to choose from: of the last two days, and the next.</param>
/// <param name="Materials">The materials to choose from.</param>
/// <param name="Some">Whom one can be for alone.</param>
/// <param name="Texts">The texts that the school keeps.</param>
public sealed record NoticesView(
    School School,
    Instant Now,
    Calendar Calendar,
    IReadOnlyList<NoticeItem> Notices,
    IReadOnlyList<Session> Sessions,
    IReadOnlyList<Material> Materials,
    AudienceChoices Some,
    IReadOnlyList<(long Id, string Name, string Text)> Texts
)
{
    /// <summary>How many a notice for all goes to.</summary>
    public required NoticeReach Reach { get; init; }

    /// <summary>The join links that series of the calendar use.</summary>
    public IReadOnlyList<JoinLink> Links { get; init; } = [];

    /// <summary>A notice about the series that was asked for, to begin with; null for none, and for a private one.</summary>
    public NoticeInput? About { get; init; }
}

/// <summary>Puts notices up, changes them and takes them down; notes who has seen them.</summary>
public sealed class EditNotices(Gate gate, AlmanacDatabase database, IClock clock, Secrets secrets)
{
    private const int MostShown = 30;

    // Whoever was written to today is left in peace.
    private static readonly Duration RemindEvery = Duration.FromHours(20);

    /// <summary>All that is kept of a calendar's notices.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="about">A series that a new notice is to tell of; null for none.</param>
    public Outcome<NoticesView> View(Viewer viewer, Slug slug, SeriesId? about = null) =>
        gate.Read<NoticesView>(Operation.SeeNotices, viewer, slug, at =>
        {
            var (stores, school) = (at.Stores, at.School);
            var facts = CalendarFacts.Read(stores, at.Calendar.Id);
            var plans = facts.Plans(school.Time);
            var notices = stores.Notices.Last(at.Calendar.Id, MostShown);
            var some = AudienceReader.Choices(stores, at.Context.Grants, notices.Select(notice => notice.OnlyFor));
            var people = new Lazy<IReadOnlyList<Reader>>(() => ReadersOf(at));
            var since = at.Now - Duration.FromDays(2);
            return new Outcome<NoticesView>.Done(
                new NoticesView(
                    school,
                    at.Now,
                    at.Calendar,
                    [.. notices.Select(notice => Kept(at, notice, plans, some, people))],
                    [
                        .. plans
                            .SelectMany(plan => plan.Sessions)
                            .Where(session => session.IsVisible && session.EndsAt > since)
                            .OrderBy(session => session.StartsAt)
                            .Take(40),
                    ],
                    [
                        .. facts
                            .Materials.DistinctBy(material => material.Title)
                            .OrderByDescending(material => material.Id.Value)
                            .Take(60),
                    ],
                    some,
                    stores.Notices.Texts()
                )
                {
                    Reach = ReachOf(at, people.Value, null),
                    Links = stores.JoinLinks.UsedOn(at.Calendar.Id),
                    About = plans.FirstOrDefault(plan => plan.Of.Id == about) is { Of.IsPrivate: false } told
                        ? new NoticeInput(
                            SayBack.Sentence(told, school.Time, at.Calendar.Title),
                            Only: AudienceInput.TicksOf(told.Of.OnlyFor)
                        )
                        {
                            Link = told.Of.JoinLink?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
                        }
                        : null,
                }
            );
        });

    private static NoticeItem Kept(
        AtCalendar at,
        Notice notice,
        IReadOnlyList<Plan> plans,
        AudienceChoices some,
        Lazy<IReadOnlyList<Reader>> people
    )
    {
        var about = notice.About is { } key ? plans.FirstOrDefault(plan => plan.Of.Id == key.Series)?.Find(key) : null;
        // One that is over before the calendar opens is never seen.
        var isMissed = notice.LastUp(about) < at.Calendar.OpensOn;
        if (!isMissed)
            notice = notice.NotBefore(at.Calendar.OpensOn);
        var zone = at.School.Time.Zone;
        var state =
            notice.WithdrawnAt is not null ? "down"
            : isMissed ? "over"
            : notice.IsAhead(at.Now, zone) ? "ahead"
            : notice.IsUp(at.Now, zone, about) ? "up"
            : "over";
        List<NoticeReader> readers = [];
        if (state is "up")
        {
            var seen = at.Stores.Notices.Seen(notice.Id);
            readers =
            [
                .. people
                    .Value.Where(reader => reader.IsFor(notice.OnlyFor, notice.Calendar))
                    .Select(reader => reader.Person)
                    .Select(person =>
                        seen.TryGetValue(person.Id, out var saw)
                            ? new NoticeReader(person.Name, saw.At, saw.ByMail, person.Email is not null)
                            : new NoticeReader(person.Name, null, false, person.Email is not null)
                    )
                    .OrderBy(reader => reader.At is not null)
                    .ThenBy(reader => reader.Name, StringComparer.OrdinalIgnoreCase),
            ];
        }

        return new NoticeItem(
            notice,
            state,
            some.InWords(notice.OnlyFor),
            about,
            readers,
            at.Stores.Notices.LastLetter(notice.Id)
        )
        {
            Reach = state is "up" or "ahead" ? ReachOf(at, people.Value, notice.OnlyFor) : null,
        };
    }

    /// <summary>How many a notice would go to, as its form stands.</summary>
    /// <param name="viewer">Who asks.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="input">The form; only whom it is for is read.</param>
    public Outcome<NoticeReach> Reach(Viewer viewer, Slug slug, NoticeInput input) =>
        gate.Read<NoticeReach>(Operation.SeeNotices, viewer, slug, at =>
        {
            var entry = new FormReader();
            var only = AudienceReader.Read(
                entry,
                "Only",
                new AudienceInput(input.Only, input.OnlyOthers),
                at.Stores,
                at.Context.Grants,
                null
            );
            return entry.IsGood
                ? new Outcome<NoticeReach>.Done(ReachOf(at, ReadersOf(at), only))
                : new Outcome<NoticeReach>.Refused(entry.Problems);
        });

    private static NoticeReach ReachOf(AtCalendar at, IReadOnlyList<Reader> readers, Audience? only)
    {
        var people = readers
            .Where(reader => reader.IsFor(only, at.Calendar.Id))
            .Select(reader => reader.Person)
            .ToList();
        return new NoticeReach(
            people.Count,
            [.. people.Where(person => person.Email is null).Select(person => person.Name).Order()],
            only is null
                && AccessRules.May(
                    Permission.SeeDetails,
                    AccessRules.LevelOf(Viewer.Visitor, Grant.OnceOpen(at.Context.Grants))
                )
        );
    }

    // Before the calendar opens: those who will see it then.
    private static List<Reader> ReadersOf(AtCalendar at) =>
        Reader.Of(at.Stores, [.. Grant.OnceOpen(at.Context.Grants)]);

    /// <summary>Puts a notice up, or changes it.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The notice; null for a new one.</param>
    /// <param name="input">The form.</param>
    public Outcome<Notice> Put(Viewer viewer, Slug slug, NoticeId? id, NoticeInput input) =>
        gate.Write<Notice>(id is null ? Operation.PutNoticeUp : Operation.ChangeNotice, viewer, slug, at =>
        {
            var stored = id is { } known ? at.Stores.Notices.Find(known) : null;
            if (
                id is not null
                && (stored is null || stored.Calendar != at.Calendar.Id || stored.WithdrawnAt is not null)
            )
                return new Outcome<Notice>.NotFound();
            return Put(at, stored, input, null);
        });

    /// <summary>Puts a notice up, or changes it, within an act that was let in.</summary>
    /// <param name="at">The act.</param>
    /// <param name="stored">The notice as it is stored; null for a new one.</param>
    /// <param name="input">The form.</param>
    /// <param name="written">Who is written to already, and is not again; null for nobody.</param>
    internal static Outcome<Notice> Put(AtCalendar at, Notice? stored, NoticeInput input, HashSet<PersonId>? written)
    {
        var entry = new FormReader();
        if (Read(entry, at, input, stored) is not { } notice)
            return new Outcome<Notice>.Refused(entry.Problems);
        if (stored is null)
            notice = at.Stores.Notices.Add(notice);
        else if (!at.Stores.Notices.Change(notice, input.Version))
            return at.Stale<Notice>(HistorySubject.Notice, stored.Id.Value);
        if (input.ByMail)
            Write(
                at,
                notice,
                [
                    .. AllOf(at, notice)
                        .Where(person => written is null || (person.Email is not null && written.Add(person.Id))),
                ]
            );
        at.Note(
            HistorySubject.Notice,
            notice.Id.Value,
            $"{(stored is null ? "put up" : "changed")} a notice for {Wording.Days(notice.First, notice.Last)}{(input.ByMail ? ", by e-mail as well" : "")}",
            null,
            JsonSerializer.Serialize(input)
        );
        return new Outcome<Notice>.Done(notice);
    }

    private static Notice? Read(FormReader entry, AtCalendar at, NoticeInput input, Notice? stored)
    {
        var headline = entry.Line("Headline", input.Headline, "The headline", Notice.LongestHeadline, needed: false);
        var text = entry.Lines("Text", input.Text, "The notice", Notice.Longest);
        if (text.Length == 0 && !entry.Has("Text"))
            entry.Wrong("Text", "The notice says nothing yet. Write what people should know.");
        var first = string.IsNullOrWhiteSpace(input.First)
            ? at.Today
            : entry.Day("First", input.First, "The first day");
        var last = entry.Day("Last", input.Last, "The last day");
        if (last < first)
            entry.Wrong("Last", "The last day is before the first.");
        if (at.Calendar.OpensOn is { } opens && last < opens)
            entry.Wrong(
                "Last",
                $"The calendar opens on {Wording.WithWeekday(opens)}; before, nobody would see the notice. Choose that day or a later one."
            );
        if (last < at.Today && last != stored?.Last)
            entry.Wrong("Last", "The last day is over already. Choose today or a later one.");
        if (first is { } from && last is { } to && Period.DaysBetween(from, to) > 400)
            entry.Wrong(
                "Last",
                "A notice is up for 400 days at most. What stays longer belongs to the calendar’s description."
            );
        Session? about = null;
        if (!string.IsNullOrEmpty(input.Session))
        {
            about = SessionKey.TryRead(input.Session, out var key)
                ? CalendarFacts
                    .Read(at.Stores, at.Calendar.Id)
                    .Plans(at.School.Time)
                    .FirstOrDefault(plan => plan.Of.Id == key.Series)
                    ?.Find(key)
                : null;
            if (about is null)
                entry.Wrong("Session", "That session is not on this calendar any more. Choose another, or none.");
        }

        if (about is null && string.IsNullOrEmpty(input.Session) && (input.EndsWithSession || input.ShowsJoin))
            entry.Wrong("Session", "Choose the session whose end or join address is meant, or a join link below.");
        JoinLinkId? link = null;
        if (!string.IsNullOrEmpty(input.Link))
        {
            link = at
                .Stores.JoinLinks.UsedOn(at.Calendar.Id)
                .FirstOrDefault(one => one.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Link)
                ?.Id;
            if (link is null)
                entry.Wrong("Link", "That join link is not used on this calendar any more. Choose another, or none.");
        }

        MaterialId? material = null;
        if (!string.IsNullOrEmpty(input.Material))
        {
            material = at
                .Stores.Materials.Of(at.Calendar.Id)
                .FirstOrDefault(one => one.Id.Value.ToString(CultureInfo.InvariantCulture) == input.Material)
                ?.Id;
            if (material is null)
                entry.Wrong("Material", "That material is not on this calendar any more. Choose another, or none.");
        }

        var only = AudienceReader.Read(
            entry,
            "Only",
            new AudienceInput(input.Only, input.OnlyOthers),
            at.Stores,
            at.Context.Grants,
            stored?.OnlyFor
        );
        return !entry.IsGood
            ? null
            : new Notice(
                stored?.Id ?? default,
                at.Calendar.Id,
                text,
                first!.Value,
                last!.Value,
                stored?.Version ?? 1,
                stored?.MadeBy ?? at.Person,
                stored?.MadeAt ?? at.Now,
                at.Now
            )
            {
                Headline = headline,
                OnlyFor = only,
                About = about?.Key,
                EndsWithSession = input.EndsWithSession,
                ShowsJoin = input.ShowsJoin,
                Link = link,
                Material = material,
            };
    }

    /// <summary>Takes a notice down at once, or puts it up again.</summary>
    public Outcome<Notice> SetDown(Viewer viewer, Slug slug, NoticeId id, bool down, int version) =>
        gate.Write<Notice>(Operation.TakeNoticeDown, viewer, slug, at => SetDown(at, id, down, version));

    /// <summary>Takes a notice down, or puts it up again, within an act that was let in.</summary>
    internal static Outcome<Notice> SetDown(AtCalendar at, NoticeId id, bool down, int version)
    {
        if (at.Stores.Notices.Find(id) is not { } notice || notice.Calendar != at.Calendar.Id)
            return new Outcome<Notice>.NotFound();
        if (!at.Stores.Notices.SetDown(id, down, version, at.Now))
            return at.Stale<Notice>(HistorySubject.Notice, id.Value);
        at.Note(
            HistorySubject.Notice,
            id.Value,
            $"{(down ? "took down" : "put up again")} the notice of {Wording.Days(notice.First, notice.Last)}"
        );
        return new Outcome<Notice>.Done(at.Stores.Notices.Find(id)!);
    }

    /// <summary>Writes to those who have not seen a notice that is up.</summary>
    /// <returns>How many are written to.</returns>
    public Outcome<int> Remind(Viewer viewer, Slug slug, NoticeId id) =>
        gate.Write<int>(Operation.RemindOfNotice, viewer, slug, at =>
        {
            if (at.Stores.Notices.Find(id) is not { } notice || notice.Calendar != at.Calendar.Id)
                return new Outcome<int>.NotFound();
            if (!IsUp(at, notice))
                return Outcome.Because<int>("", "It is not up, so there is nothing to remind of.");
            if (at.Stores.Notices.LastLetter(id) is { } last && at.Now - last < RemindEvery)
                return Outcome.Because<int>("", "They were written to within the last day. Wait until tomorrow.");
            var seen = at.Stores.Notices.Seen(id);
            var left = AllOf(at, notice).Where(person => !seen.ContainsKey(person.Id)).ToList();
            Write(at, notice, left);
            var count = left.Count(person => person.Email is not null);
            if (count == 0)
                return Outcome.Because<int>("", "Whoever has not seen it has no e-mail address here.");
            at.Note(
                HistorySubject.Notice,
                id.Value,
                $"reminded {Wording.Count(count, "person", "people")} of a notice"
            );
            return new Outcome<int>.Done(count);
        });

    /// <summary>Keeps a text of the school for notices to begin with.</summary>
    public Outcome<string> KeepText(Viewer viewer, string? name, string? text) =>
        gate.Write<string>(Operation.KeepNoticeTexts, viewer, at =>
        {
            var entry = new FormReader();
            var called = entry.Line("TextName", name, "The name", 60, needed: true);
            var says = entry.Lines("TextBody", text, "The text", Notice.Longest);
            if (says.Length == 0)
                entry.Wrong("TextBody", "The text is missing. Write it.");
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            at.Stores.Notices.KeepText(called, says);
            at.Note(HistorySubject.School, 1, $"kept the notice text {called}");
            return new Outcome<string>.Done(called);
        });

    /// <summary>Forgets a text of the school.</summary>
    public Outcome<bool> RemoveText(Viewer viewer, long id) => gate.Write<bool>(Operation.KeepNoticeTexts, viewer, at =>
        {
            if (
                at.Stores.Notices.Texts().FirstOrDefault(one => one.Id == id) is not { Name: { } name }
                || !at.Stores.Notices.RemoveText(id)
            )
                return new Outcome<bool>.NotFound();
            at.Note(HistorySubject.School, 1, $"removed the notice text {name}");
            return new Outcome<bool>.Done(true);
        });

    /// <summary>Notes that somebody was shown notices on a page; nobody who looks as somebody else.</summary>
    public void Saw(Viewer viewer, IEnumerable<ShownNotice> shown)
    {
        if (viewer.Person is not { } person || viewer.LookedAtBy is not null)
            return;
        List<NoticeId> ids = [.. shown.Select(one => one.Notice.Id)];
        if (ids.Count == 0)
            return;
        var known = database.Read(stores => stores.Notices.SeenBy(person, ids));
        if (ids.TrueForAll(known.Contains))
            return;
        database.Write(
            stores =>
            {
                foreach (var id in ids.Where(id => !known.Contains(id)))
                    stores.Notices.Saw(id, person, clock.GetCurrentInstant(), byMail: false);
                return true;
            },
            kept => kept
        );
    }

    /// <summary>A notice as a letter's link leads to it, for the one person it was sent to; null for a link that is none (any
    /// more).</summary>
    /// <param name="id">The notice.</param>
    /// <param name="person">The person.</param>
    /// <param name="token">From the address.</param>
    public (ShownNotice Shown, Calendar Calendar, bool HasSeen)? FromLetter(long id, long person, string token) =>
        database.Read(stores =>
            FromLetter(stores, id, person, token) is var (shown, calendar)
                ? (shown, calendar, stores.Notices.SeenBy(new PersonId(person), [shown.Notice.Id]).Count > 0)
                : ((ShownNotice, Calendar, bool)?)null
        );

    /// <summary>Notes that somebody says, from a letter, that they have seen its notice.</summary>
    /// <returns>The calendar's slug; null for a link that is none (any more).</returns>
    public Slug? SawLetter(long id, long person, string token) =>
        database.Write<Slug?>(
            stores =>
            {
                if (FromLetter(stores, id, person, token) is not var (shown, calendar))
                    return null;
                stores.Notices.Saw(shown.Notice.Id, new PersonId(person), clock.GetCurrentInstant(), byMail: true);
                return calendar.Slug;
            },
            slug => slug is not null
        );

    private (ShownNotice Shown, Calendar Calendar)? FromLetter(Stores stores, long id, long person, string token)
    {
        if (token.Length != TokenText.Length || !Secrets.IsSame(token, secrets.TokenOfNotice(id, person)))
            return null;
        return ShownTo(stores, new NoticeId(id), new PersonId(person), clock.GetCurrentInstant());
    }

    /// <summary>A notice that is up, as one person may see it; null where it is not, or they may not.</summary>
    internal static (ShownNotice Shown, Calendar Calendar)? ShownTo(
        Stores stores,
        NoticeId id,
        PersonId person,
        Instant now
    )
    {
        if (stores.Notices.Find(id) is not { } notice || stores.School.Find() is not { } school)
            return null;
        var calendar = stores.Calendars.Get(notice.Calendar);
        if (!calendar.IsInUse)
            return null;
        var viewer = stores.People.ViewerOf(person);
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(calendar.Id));
        return
            CalendarFacts
                .Read(stores, calendar.Id)
                .NoticesFor(school.Time, level, ShowChoices.SignedIn, viewer, now)
                .FirstOrDefault(one => one.Notice.Id == id)
                is { } shown
            ? (shown, calendar)
            : null;
    }

    internal static bool IsUp(AtCalendar at, Notice notice)
    {
        var about = notice.About is { } key
            ? CalendarFacts
                .Read(at.Stores, at.Calendar.Id)
                .Plans(at.School.Time)
                .FirstOrDefault(plan => plan.Of.Id == key.Series)
                ?.Find(key)
            : null;
        return notice.NotBefore(at.Calendar.OpensOn).IsUp(at.Now, at.School.Time.Zone, about);
    }

    private static List<Person> AllOf(AtCalendar at, Notice notice) =>
        [
            .. ReadersOf(at)
                .Where(reader => reader.IsFor(notice.OnlyFor, notice.Calendar))
                .Select(reader => reader.Person),
        ];

    // One that is to go up later goes then, early in the morning.
    private static void Write(AtCalendar at, Notice notice, IReadOnlyList<Person> people)
    {
        var first = notice.NotBefore(at.Calendar.OpensOn).First;
        var morning = WallClock.InstantOf(first + new LocalTime(6, 30), at.School.Time.Zone);
        foreach (var person in people.Where(person => person.Email is not null))
            at.Stores.Letters.Add(LetterKind.Notice, person.Id, notice.Id.Value, at.Now, Instant.Max(at.Now, morning));
    }
}
