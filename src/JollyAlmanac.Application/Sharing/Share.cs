using System.Collections.Immutable;
using JollyAlmanac.Application.People;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Sharing;

/// <summary>Who has access, and why.</summary>
/// <param name="Key">Knows the grantee on the page: "person 5", "group 4", "everyone", "anyone".</param>
/// <param name="Name">Who.</param>
/// <param name="Email">For a person: their address; null for others, and where none is known.</param>
/// <param name="Why">"made it, hosts its link"; "24 students, hidden from each other".</param>
/// <param name="Until">The last day it holds; null where it holds until somebody ends it.</param>
/// <param name="Group">For a group: it.</param>
/// <param name="IsSelf">It is the viewer.</param>
/// <param name="HasCome">For a person: they have signed in before, or need not.</param>
public sealed record ShareLine(
    string Key,
    string Name,
    EmailAddress? Email,
    string Why,
    LocalDate? Until,
    Group? Group,
    bool IsSelf,
    bool HasCome
);

/// <summary>One level of a calendar: who has it, and the session as they see it.</summary>
/// <param name="Level">The level.</param>
/// <param name="Lines">Who has it, the first few.</param>
/// <param name="More">How many more there are.</param>
/// <param name="Slip">The session as that level sees it; null where there is none to show, or nothing to see.</param>
public sealed record ShareStep(AccessLevel Level, IReadOnlyList<ShareLine> Lines, int More, ShownSession? Slip);

/// <summary>Somebody who asks for access.</summary>
/// <param name="Request">What they ask for.</param>
/// <param name="Name">Who.</param>
public sealed record PendingRequest(AccessRequest Request, string Name);

/// <summary>Why one person sees a calendar as they do.</summary>
/// <param name="Key">Knows them on the page.</param>
/// <param name="Name">Who.</param>
/// <param name="Level">Their level.</param>
/// <param name="Reasons">Each grant that reaches them, in words, the highest first.</param>
public sealed record AccessExplanation(
    string Key,
    string Name,
    AccessLevel Level,
    IReadOnlyList<(AccessLevel Level, string Reason)> Reasons
);

/// <summary>The sharing page of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Steps">Its levels, the highest first; the last is "nothing".</param>
/// <param name="Session">The session that is shown as each level sees it; null where none is to come.</param>
/// <param name="Asking">Who asks for access.</param>
/// <param name="EndSoon">Access that ends within the next month.</param>
/// <param name="Lists">The class lists it is given to.</param>
/// <param name="Sessions">How many sessions are to come: they come to who is given access.</param>
/// <param name="TermEnds">The last day of the term that is on, to give access until then.</param>
/// <param name="Why">Whom somebody asked about; null for nobody.</param>
/// <param name="MayFindPeople">The viewer may find people by their name; else by their whole address.</param>
public sealed record SharingView(
    School School,
    Instant Now,
    Calendar Calendar,
    IReadOnlyList<ShareStep> Steps,
    ShownSession? Session,
    IReadOnlyList<PendingRequest> Asking,
    IReadOnlyList<ShareLine> EndSoon,
    IReadOnlyList<Group> Lists,
    int Sessions,
    LocalDate? TermEnds,
    AccessExplanation? Why,
    bool MayFindPeople
);

/// <summary>What the line that gives access says, as typed.</summary>
/// <param name="Who">A name, an address, "everyone" or "anyone"; or a key that the page knows.</param>
/// <param name="Level">The level: its name, or "cohost" for an editor who hosts its links, too.</param>
/// <param name="Until">The last day; empty for as long as nobody ends it.</param>
public sealed record GiveInput(string? Who, string? Level, string? Until = "");

/// <summary>What giving access did, to be said.</summary>
/// <param name="Key">Who has it.</param>
/// <param name="Said">In one sentence.</param>
public sealed record GrantedAccess(string Key, string Said);

/// <summary>Gives, ends and explains access to a calendar. For its managers.</summary>
public sealed class Share(Gate gate, AlmanacDatabase database)
{
    /// <summary>How many stand at one level until more are asked for.</summary>
    public const int Most = 40;

    private const int MostRequests = 20;

    /// <summary>The level of the form that is an editor who hosts the links, too.</summary>
    public const string CoHost = "cohost";

    /// <summary>Who has access to a calendar, why, and what they see.</summary>
    /// <param name="viewer">Who looks.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="who">Whom to explain: a key, a name or an address; null for nobody.</param>
    /// <param name="all">The level of which all are shown; null for none.</param>
    public Outcome<SharingView> View(Viewer viewer, Slug slug, string? who = null, AccessLevel? all = null) =>
        gate.Read<SharingView>(Operation.SeeSharing, viewer, slug, at =>
        {
            var (stores, grants) = (at.Stores, at.Context.Grants);
            var facts = CalendarFacts.Read(stores, at.Calendar.Id);
            var coming = facts
                .PlansFor(at.School.Time, AccessLevel.Full, null)
                .SelectMany(plan => plan.Held)
                .Where(session => session.EndsAt > at.Now)
                .OrderBy(session => session.StartsAt)
                .ToList();
            var next = coming.FirstOrDefault();
            var lines = Lines(at, grants);
            var steps = AccessPhrases
                .Levels.Append(AccessLevel.None)
                .Select(level =>
                {
                    var here = lines.Where(line => line.Level == level).Select(line => line.Line).ToList();
                    var most = all == level ? int.MaxValue : Most;
                    return new ShareStep(
                        level,
                        [.. here.Take(most)],
                        Math.Max(0, here.Count - most),
                        next is null ? null : facts.For(at.School.Time, at.Now, level, ShowChoices.SignedIn, null)(next)
                    );
                })
                .ToList();
            var month = at.Today.PlusDays(31);
            return new Outcome<SharingView>.Done(
                new SharingView(
                    at.School,
                    at.Now,
                    at.Calendar,
                    steps,
                    next is null
                        ? null
                        : facts.For(at.School.Time, at.Now, AccessLevel.Full, ShowChoices.SignedIn, null)(next),
                    [
                        .. stores
                            .Requests.WaitingOn(at.Calendar.Id)
                            .Select(request => (request, stores.People.Get(request.Person)))
                            .Where(one => one.Item2 is { EndedAt: null })
                            .Select(one => new PendingRequest(one.request, one.Item2!.Name)),
                    ],
                    [.. lines.Where(line => line.Line.Until <= month).Select(line => line.Line)],
                    [
                        .. lines
                            .Select(line => line.Line.Group)
                            .OfType<Group>()
                            .Where(group => group.Kind is GroupKind.ClassList or GroupKind.Section),
                    ],
                    coming.Count,
                    at.School.Time.TermOn(at.Today)?.Last,
                    string.IsNullOrWhiteSpace(who) ? null : Explain(at, who.Trim()),
                    AccessRules.MayAtSchool(Permission.FindPeople, viewer.Role)
                )
            );
        });

    /// <summary>Gives access, in place of what the same person or group had.</summary>
    public Outcome<GrantedAccess> Give(Viewer viewer, Slug slug, GiveInput input) =>
        gate.Write<GrantedAccess>(Operation.GiveAccess, viewer, slug, at => Give(at, input, tells: true));

    // None where it is no level.
    private static (AccessLevel Level, bool IsCoHost) LevelOf(GiveInput input) =>
        input.Level == CoHost
            ? (AccessLevel.Editor, true)
            : (AccessPhrases.Levels.FirstOrDefault(one => AccessPhrases.NameOf(one) == input.Level), false);

    /// <summary>Whether somebody has what would be given: the level, the last day, the links to host.</summary>
    internal static bool Has(AtCalendar at, Grantee to, GiveInput input)
    {
        var (level, isCoHost) = LevelOf(input);
        var until = (input.Until ?? "").Trim();
        return at.Context.Grants.Any(grant =>
                grant.To == to
                && grant.Level == level
                && (grant.Until is { } day ? LocalDatePattern.Iso.Format(day) : "") == until
            )
            && (
                !isCoHost
                || to is not Grantee.OnePerson one
                || at.Stores.JoinLinks.Of(at.Calendar.Id)
                    .All(link => link.LeadsNowhere || link.Hosts.Contains(one.Person))
            );
    }

    /// <summary>Gives access within an act that was let in.</summary>
    /// <param name="at">The act.</param>
    /// <param name="input">Who, and what.</param>
    /// <param name="tells">Who has more than before hears of it by letter.</param>
    internal static Outcome<GrantedAccess> Give(AtCalendar at, GiveInput input, bool tells)
    {
        var entry = new FormReader();
        var to = ReadWho(at, entry, input.Who ?? "");
        var (level, isCoHost) = LevelOf(input);
        if (level == AccessLevel.None)
            entry.Wrong("Level", "Choose what they may do from the list.");
        LocalDate? until = string.IsNullOrWhiteSpace(input.Until)
            ? null
            : entry.Day("Until", input.Until, "The last day");
        if (until < at.Today)
            entry.Wrong("Until", $"{Wording.WithYear(until.Value)} is over. Choose today or a later day.");
        if (!entry.IsGood || to is null)
            return new Outcome<GrantedAccess>.Refused(entry.Problems);
        if (!AccessPhrases.MayGive(at.Context.Level, level))
            return new Outcome<GrantedAccess>.NotAllowed();
        if (!AccessPhrases.Fits(to, level))
            return Outcome.Because<GrantedAccess>(
                "Level",
                to is Grantee.Anyone
                    ? "Anyone at all may see it at most: full, outline or busy. Who changes something is somebody you name."
                    : "Everyone of the school may add entries at most. Name those who may change or manage it."
            );
        if (Refusal(at, to, new Grant(at.Calendar.Id, to, level) { Until = until }) is { } reason)
            return Outcome.Because<GrantedAccess>("Who", reason);
        var before = at
            .Context.Grants.Where(grant => grant.To == to)
            .Select(grant => grant.Level)
            .DefaultIfEmpty(AccessLevel.None)
            .Max();
        var grantedAccess = Store(at, to, level, until, isCoHost);
        // Whoever is named hears of it; of a group nobody does, a class list would be a hundred letters.
        if (tells && to is Grantee.OnePerson one && one.Person != at.Person && level > before)
            at.Stores.Letters.Add(LetterKind.AccessGiven, one.Person, at.Calendar.Id.Value, at.Now);
        return grantedAccess;
    }

    /// <summary>Gives somebody a level on a calendar.</summary>
    /// <param name="viewer">A manager of it.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="to">Who.</param>
    /// <param name="level">The level.</param>
    /// <param name="until">The last day it holds; null for as long as nobody ends it.</param>
    public Outcome<GrantedAccess> Give(
        Viewer viewer,
        Slug slug,
        Grantee to,
        AccessLevel level,
        LocalDate? until = null
    ) => gate.Write<GrantedAccess>(Operation.GiveAccess, viewer, slug, at => !AccessPhrases.MayGive(
                at.Context.Level,
                level
            ) || !AccessPhrases.Fits(to, level)
                ? new Outcome<GrantedAccess>.NotAllowed()
            : Refusal(at, to, new Grant(at.Calendar.Id, to, level) { Until = until }) is { } reason
                ? Outcome.Because<GrantedAccess>("Who", reason)
            : Store(at, to, level, until, isCoHost: false));

    /// <summary>Ends what somebody has by name, or a group, or all.</summary>
    /// <param name="viewer">A manager of it.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="key">Who: "person 5", "group 4", "everyone", "anyone".</param>
    public Outcome<GrantedAccess> End(Viewer viewer, Slug slug, string? key) =>
        gate.Write<GrantedAccess>(Operation.EndAccess, viewer, slug, at =>
            GranteeOf(key ?? "") is { } to ? End(at, to) : new Outcome<GrantedAccess>.NotFound()
        );

    /// <summary>Ends within an act that was let in what somebody has of their own.</summary>
    internal static Outcome<GrantedAccess> End(AtCalendar at, Grantee to)
    {
        if (at.Context.Grants.FirstOrDefault(one => one.To == to) is not { } grant)
            return new Outcome<GrantedAccess>.NotFound();
        if (Refusal(at, to, null) is { } reason)
            return Outcome.Because<GrantedAccess>("", reason);
        at.Stores.Calendars.Remove(at.Calendar.Id, to);
        var who = NameOf(at.Stores, to);
        // A host works the door only while they see the calendar; being one of nothing is no good to anybody.
        if (to is Grantee.OnePerson one)
            foreach (var link in at.Stores.JoinLinks.Of(at.Calendar.Id).Where(link => link.Hosts.Contains(one.Person)))
                at.Stores.JoinLinks.RemoveHost(link.Id, one.Person);
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(
            HistorySubject.Calendar,
            at.Calendar.Id.Value,
            $"ended the access of {who}, which was {AccessPhrases.NameOf(grant.Level)}",
            named: Named(to)
        );
        var left = to is Grantee.OnePerson person
            ? AccessRules.LevelOf(
                at.Stores.People.ViewerOf(person.Person),
                at.Stores.Calendars.GrantsOf(at.Calendar.Id)
            )
            : AccessLevel.None;
        return new Outcome<GrantedAccess>.Done(
            new GrantedAccess(
                KeyOf(to),
                left == AccessLevel.None
                    ? $"{who} has no access of their own any more."
                    : $"{who} has no access of their own any more, but {AccessPhrases.NameOf(left)} through others."
            )
        );
    }

    /// <summary>Shows the class list to those who are on it, or no longer.</summary>
    public Outcome<Calendar> ShowList(Viewer viewer, Slug slug, bool shows, int version) =>
        gate.Write<Calendar>(Operation.ShowClassList, viewer, slug, version, at =>
        {
            if (!at.Stores.Calendars.SetShowsList(at.Calendar.Id, shows, version, at.Now))
                return at.Stale<Calendar>(HistorySubject.Calendar, at.Calendar.Id.Value);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                shows ? "showed the class list to those who are on it" : "hid the class list"
            );
            return new Outcome<Calendar>.Done(at.Stores.Calendars.Get(at.Calendar.Id));
        });

    /// <summary>Hands a calendar over: somebody else answers for it, and manages it.</summary>
    public Outcome<GrantedAccess> HandOver(Viewer viewer, Slug slug, string? who) =>
        gate.Write<GrantedAccess>(Operation.HandOver, viewer, slug, at =>
        {
            var entry = new FormReader();
            if (ReadWho(at, entry, who ?? "", "Heir") is not Grantee.OnePerson to)
            {
                if (entry.IsGood)
                    entry.Wrong("Heir", "Only one person can own a calendar. Write their name or address.");
                return new Outcome<GrantedAccess>.Refused(entry.Problems);
            }

            if (
                at.Stores.People.Find(to.Person)
                is not { Person: { Role: SchoolRole.Coordinator or SchoolRole.Teacher } person }
            )
                return Outcome.Because<GrantedAccess>("Heir", "The owner of a calendar works at the school.");
            if (to.Person == at.Calendar.Owner)
                return Outcome.Because<GrantedAccess>("Heir", $"{person.Name} owns it already.");
            at.Stores.Calendars.Set(new Grant(at.Calendar.Id, to, AccessLevel.Manager), at.Person);
            at.Stores.Calendars.SetOwner(at.Calendar.Id, to.Person, at.Now);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                $"transferred {at.Calendar.Title} to {person.Name}",
                named: [person.Id]
            );
            return new Outcome<GrantedAccess>.Done(
                new GrantedAccess(KeyOf(to), $"{person.Name} owns {at.Calendar.Title} from now on, and manages it.")
            );
        });

    /// <summary>
    /// Somebody asks the keepers of a calendar for access. Whether there is such a calendar, the answer does not tell.
    /// </summary>
    public Outcome<bool> Ask(Viewer viewer, Slug slug, AccessLevel level, string? why) =>
        gate.Write<bool>(Operation.AskForAccess, viewer, at =>
        {
            var entry = new FormReader();
            var words = entry.Line("Why", why, "What you write", 300, needed: false);
            if (
                level
                is not (
                    AccessLevel.Busy
                    or AccessLevel.Outline
                    or AccessLevel.Full
                    or AccessLevel.Contributor
                    or AccessLevel.Editor
                )
            )
                entry.Wrong("Level", "Choose what you would like to see from the list.");
            if (!entry.IsGood)
                return new Outcome<bool>.Refused(entry.Problems);
            if (at.Stores.Requests.WaitingOf(at.Person) >= MostRequests)
                return Outcome.Because<bool>("", "Many of your requests wait already. Let those be answered first.");
            if (
                at.Stores.Calendars.Find(slug) is { IsInUse: true } calendar
                && AccessRules.LevelOf(viewer, at.Stores.Calendars.GrantsOf(calendar.Id)) < level
            )
            {
                var request = at.Stores.Requests.Add(calendar.Id, at.Person, level, words, at.Now, out var isNew);
                foreach (var keeper in isNew ? Keepers(at.Stores, calendar) : [])
                    at.Stores.Letters.Add(LetterKind.AccessAsked, keeper, request.Id, at.Now);
                at.Stores.History.Add(
                    at.Now,
                    at.Person,
                    calendar.Id,
                    HistorySubject.Calendar,
                    calendar.Id.Value,
                    at.Operation.Name,
                    $"asked for access: {AccessPhrases.NameOf(level)}",
                    null,
                    null
                );
            }

            return new Outcome<bool>.Done(true);
        });

    /// <summary>Answers who asks.</summary>
    /// <param name="viewer">A manager.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="id">The request.</param>
    /// <param name="given">The level they get; none for a no.</param>
    public Outcome<GrantedAccess> Answer(Viewer viewer, Slug slug, long id, AccessLevel given) =>
        gate.Write<GrantedAccess>(Operation.AnswerRequest, viewer, slug, at =>
        {
            if (
                at.Stores.Requests.Find(id) is not { } request
                || request.Calendar != at.Calendar.Id
                || at.Stores.People.Get(request.Person) is not { EndedAt: null } person
            )
                return new Outcome<GrantedAccess>.NotFound();
            if (given > request.Level)
                return Outcome.Because<GrantedAccess>(
                    "",
                    $"{person.Name} did not ask for that much. Give it on the line below."
                );
            if (!at.Stores.Requests.Answer(id, at.Person, given, at.Now))
                return Outcome.Because<GrantedAccess>("", "Somebody answered that already.");
            at.Stores.Letters.Add(LetterKind.AccessAnswered, person.Id, id, at.Now);
            var to = new Grantee.OnePerson(person.Id);
            if (given == AccessLevel.None)
            {
                at.Note(
                    HistorySubject.Calendar,
                    at.Calendar.Id.Value,
                    $"said no to {person.Name}, who asked for access",
                    named: [person.Id]
                );
                return new Outcome<GrantedAccess>.Done(
                    new GrantedAccess(KeyOf(to), $"{person.Name} is told that it is a no.")
                );
            }

            // What they have by now, and is more, stays.
            return at.Context.Grants.Any(grant => grant.To == to && grant.Level >= given)
                ? new Outcome<GrantedAccess>.Done(new GrantedAccess(KeyOf(to), $"{person.Name} has that already."))
                : Store(at, to, given, null, isCoHost: false);
        });

    /// <summary>Who is on the class lists of a calendar, for those who work on it, and for its members where it is shown.</summary>
    public IReadOnlyList<(string List, IReadOnlyList<string> Names)>? ClassLists(Viewer viewer, Slug slug) =>
        database.Read<IReadOnlyList<(string, IReadOnlyList<string>)>?>(stores =>
        {
            if (
                CalendarContext.Find(stores, viewer, slug) is not { Calendar.IsInUse: true } calendarContext
                || viewer.Person is null
            )
                return null;
            var lists = stores
                .Groups.Of([
                    .. calendarContext
                        .Grants.Select(grant => grant.To)
                        .OfType<Grantee.OneGroup>()
                        .Select(to => to.Group),
                ])
                .Where(group => group.Kind is GroupKind.ClassList or GroupKind.Section)
                .ToList();
            var isMember = calendarContext.Calendar.ShowsList && lists.Exists(list => viewer.Groups.Contains(list.Id));
            if (!calendarContext.May(Permission.SeeClassList) && !isMember)
                return null;
            var members = stores.Groups.MembersOf([.. lists.Select(list => list.Id)]);
            return
            [
                .. lists
                    .Where(list => calendarContext.May(Permission.SeeClassList) || viewer.Groups.Contains(list.Id))
                    .Select(list =>
                        (
                            list.Name,
                            (IReadOnlyList<string>)
                                [
                                    .. stores
                                        .People.NamesOf([.. members[list.Id]])
                                        .Values.Order(StringComparer.OrdinalIgnoreCase),
                                ]
                        )
                    ),
            ];
        });

    /// <summary>
    /// Takes away access whose last day is over, and opens calendars whose day has come, with a line of history each. Asked on every request; it touches the database only once a
    /// day, by the school's clock.
    /// </summary>
    public void EndWhatIsOver(Instant now)
    {
        if (now.ToUnixTimeMilliseconds() < Volatile.Read(ref lookAgainAt))
            return;
        var school = database.Read(stores => stores.School.Find());
        if (school is null)
            return;
        var today = now.InZone(school.Time.Zone).Date;
        if (database.Read(stores => stores.Calendars.HasEnded(today)))
            database.Write(
                stores =>
                {
                    foreach (var (grant, by) in stores.Calendars.TakeEnded(today))
                    {
                        stores.Calendars.Touch(grant.Calendar, now);
                        stores.History.Add(
                            now,
                            by,
                            grant.Calendar,
                            HistorySubject.Calendar,
                            grant.Calendar.Value,
                            Operation.EndAccess.Name,
                            $"let the access of {NameOf(stores, grant.To)} end after {Wording.WithYear(grant.Until!.Value)}",
                            null,
                            null
                        );
                    }

                    return true;
                },
                kept => kept
            );
        if (database.Read(stores => stores.Calendars.HasToOpen(today)))
            database.Write(
                stores =>
                {
                    foreach (var calendar in stores.Calendars.OpenDue(today, now))
                        stores.History.Add(
                            now,
                            calendar.Owner,
                            calendar.Id,
                            HistorySubject.Calendar,
                            calendar.Id.Value,
                            Operation.ChangeCalendar.Name,
                            $"opened {calendar.Title}, as set before",
                            null,
                            null
                        );
                    return true;
                },
                kept => kept
            );
        if (
            database.Read(stores =>
                stores.School.Defaults().AttendanceDays is { } days
                && stores.JoinLinks.KnowsAttendance(now - Duration.FromDays(days))
            )
        )
            database.Write(
                stores =>
                    stores.People.Coordinators() is [var first, ..]
                        ? Schools.SetSchoolDefaults.Forget(stores, now, stores.School.Defaults(), first)
                        : 0,
                _ => true
            );
        Volatile.Write(
            ref lookAgainAt,
            today.PlusDays(1).AtStartOfDayInZone(school.Time.Zone).ToInstant().ToUnixTimeMilliseconds()
        );
    }

    // Milliseconds of the epoch; read and written by many requests at once.
    private long lookAgainAt = long.MinValue;

    /// <summary>What a key of the page stands for; null for none.</summary>
    internal static Grantee? GranteeOf(string key) =>
        key.Split(' ') switch
        {
            ["everyone"] => new Grantee.Everyone(),
            ["anyone"] => new Grantee.Anyone(),
            ["person", var text] when long.TryParse(text, out var id) => new Grantee.OnePerson(new PersonId(id)),
            ["group", var text] when long.TryParse(text, out var id) => new Grantee.OneGroup(new GroupId(id)),
            _ => null,
        };

    /// <summary>The key of a grantee on pages.</summary>
    public static string KeyOf(Grantee to) =>
        to switch
        {
            Grantee.OnePerson one => $"person {one.Person.Value}",
            Grantee.OneGroup group => $"group {group.Group.Value}",
            Grantee.Everyone => "everyone",
            _ => "anyone",
        };

    internal static PersonId[] Named(Grantee to) => to is Grantee.OnePerson one ? [one.Person] : [];

    internal static string NameOf(Stores stores, Grantee to) =>
        to switch
        {
            Grantee.OnePerson one => stores.People.NamesOf([one.Person]).GetValueOrDefault(one.Person, "somebody"),
            Grantee.OneGroup group => stores.Groups.NameOf(group.Group) ?? "a group",
            Grantee.Everyone => "everyone of the school",
            _ => "anyone",
        };

    private static IEnumerable<PersonId> Keepers(Stores stores, Calendar calendar)
    {
        var grants = stores.Calendars.GrantsOf(calendar.Id).Where(grant => grant.Level == AccessLevel.Manager).ToList();
        var members = stores.Groups.MembersOf([
            .. grants.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group),
        ]);
        return grants
            .Select(grant => grant.To)
            .OfType<Grantee.OnePerson>()
            .Select(to => to.Person)
            .Concat(members.SelectMany(group => group))
            .Distinct()
            .Take(20);
    }

    private static Outcome<GrantedAccess> Store(
        AtCalendar at,
        Grantee to,
        AccessLevel level,
        LocalDate? until,
        bool isCoHost
    )
    {
        var (stores, calendar) = (at.Stores, at.Calendar);
        stores.Calendars.Set(new Grant(calendar.Id, to, level) { Until = until }, at.Person);
        var hosted =
            isCoHost && to is Grantee.OnePerson person
                ? stores.JoinLinks.Of(calendar.Id).Where(link => !link.LeadsNowhere).ToList()
                : [];
        foreach (var link in hosted)
            stores.JoinLinks.AddHost(link.Id, ((Grantee.OnePerson)to).Person);
        stores.Calendars.Touch(calendar.Id, at.Now);
        var who = NameOf(stores, to);
        var ends = until is { } day ? $", until {Wording.WithWeekday(day)}" : "";
        at.Note(
            HistorySubject.Calendar,
            calendar.Id.Value,
            $"gave {who} the level {AccessPhrases.NameOf(level)}{ends}{(hosted.Count > 0 ? $", and made them host of {Wording.List([.. hosted.Select(link => link.Name)])}" : "")}",
            named: Named(to)
        );
        var pass =
            level == AccessLevel.Manager ? "They may give access to others." : "They cannot give access to others.";
        return new Outcome<GrantedAccess>.Done(
            new GrantedAccess(
                KeyOf(to),
                $"{Wording.Capital(who)} {AccessPhrases.GivenOf(level)} on {calendar.Title}{(hosted.Count > 0 ? " and enters its rooms as host" : "")}{ends}. {pass}"
            )
        );
    }

    // A calendar is never left with nobody who manages it, nor its owner without it.
    private static string? Refusal(AtCalendar at, Grantee to, Grant? instead)
    {
        var left = at.Context.Grants.Where(grant => grant.To != to).ToList();
        if (instead is not null)
            left.Add(instead);
        if (!EditPeople.Managed(at.Stores, left))
            return "Nobody else manages this calendar. Make somebody else its manager first, without an end.";
        if (
            to is Grantee.OnePerson one
            && one.Person == at.Calendar.Owner
            && instead is not { Level: AccessLevel.Manager, Until: null }
        )
            return "They own this calendar. Transfer it to somebody else first.";
        if (to is Grantee.OnePerson { } person && instead is not null && at.Stores.People.Find(person.Person) is null)
            return "They have left the school.";
        return to is Grantee.OneGroup group && at.Stores.Groups.NameOf(group.Group) is null
            ? "There is no such group any more."
            : null;
    }

    // A key of the page, an address, or the first letters of a name that one person or group alone has.
    internal static Grantee? ReadWho(AtCalendar at, FormReader entry, string text, string field = "Who")
    {
        text = entry.Line(field, text, "Who", 200, needed: true);
        if (text.Length == 0)
            return null;
        var mayFind = AccessRules.MayAtSchool(Permission.FindPeople, at.Viewer.Role);
        if (
            GranteeOf(text.ToLowerInvariant()) is { } to
            && (mayFind || at.Context.Grants.Any(grant => grant.To == to) || to is Grantee.Everyone or Grantee.Anyone)
        )
            return to;
        if (AddressList.Read(text).People is [var one])
        {
            if (at.Stores.People.FindByEmails([one.Address]) is { Count: 1 } found)
                return new Grantee.OnePerson(found.Values.Single());
            entry.Wrong(
                field,
                $"Nobody at the school has the address {Wording.Quote(one.Address.Value)}. Look how it is written; or ask the coordinators to add them, below."
            );
            return null;
        }

        if (!mayFind)
        {
            entry.Wrong(field, "Write the whole e-mail address of somebody of the school.");
            return null;
        }

        var (people, groups) = (at.Stores.People.Find(text, 6), at.Stores.Groups.Find(text, 6));
        var exact = groups.Where(group => group.Name.Equals(text, StringComparison.OrdinalIgnoreCase)).ToList();
        if (exact.Count == 1)
            return new Grantee.OneGroup(exact[0].Id);
        if (people.Count + groups.Count == 1)
            return people.Count == 1 ? new Grantee.OnePerson(people[0].Id) : new Grantee.OneGroup(groups[0].Id);
        entry.Wrong(
            field,
            people.Count + groups.Count == 0
                ? $"Nobody at the school is found by {Wording.Quote(text)}. Write the first letters of a name, or an e-mail address."
                : $"{Wording.Quote(text)} could be {Wording.List([.. people.Select(person => $"{person.Name} ({person.Email})").Concat(groups.Select(group => group.Name)).Take(6)])}. Write more of it, or the e-mail address."
        );
        return null;
    }

    private static List<(AccessLevel Level, ShareLine Line)> Lines(AtCalendar at, IReadOnlyList<Grant> grants)
    {
        var stores = at.Stores;
        var people = stores
            .People.Of([.. grants.Select(grant => grant.To).OfType<Grantee.OnePerson>().Select(to => to.Person)])
            .ToDictionary(person => person.Id);
        var groups = stores
            .Groups.Of([.. grants.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group)])
            .ToDictionary(group => group.Id);
        var come = stores.People.HaveCome(people.Keys);
        var hosts = stores
            .JoinLinks.Of(at.Calendar.Id)
            .Where(link => !link.LeadsNowhere)
            .SelectMany(link => link.Hosts)
            .ToHashSet();
        return
        [
            .. grants
                .Select(grant =>
                    (
                        grant.Level,
                        Line: grant.To switch
                        {
                            Grantee.OnePerson one when people.TryGetValue(one.Person, out var person) => new ShareLine(
                                KeyOf(grant.To),
                                person.Name,
                                person.Email,
                                WhyPerson(at, grant, person, hosts),
                                grant.Until,
                                null,
                                one.Person == at.Viewer.Person,
                                come.Contains(one.Person)
                            ),
                            Grantee.OneGroup to when groups.TryGetValue(to.Group, out var group) => new ShareLine(
                                KeyOf(grant.To),
                                group.Name,
                                null,
                                WhyGroup(at, group),
                                grant.Until,
                                group,
                                false,
                                true
                            ),
                            Grantee.Everyone => new ShareLine(
                                KeyOf(grant.To),
                                "Everyone of the school",
                                null,
                                "whoever signs in",
                                grant.Until,
                                null,
                                false,
                                true
                            ),
                            Grantee.Anyone => new ShareLine(
                                KeyOf(grant.To),
                                "Anyone",
                                null,
                                "whoever has its address, without a sign-in",
                                grant.Until,
                                null,
                                false,
                                true
                            ),
                            _ => null,
                        }
                    )
                )
                .Where(one => one.Line is not null)
                .Select(one => (one.Level, one.Line!))
                .OrderBy(one => one.Item2.Group is null ? 0 : 1)
                .ThenBy(one => one.Item2.Name, StringComparer.OrdinalIgnoreCase),
        ];
    }

    private static string WhyPerson(AtCalendar at, Grant grant, Person person, HashSet<PersonId> hosts)
    {
        var why = new List<string>();
        if (person.EndedAt is not null)
            why.Add("has left the school");
        if (person.Id == at.Calendar.Owner)
            why.Add("owner");
        if (hosts.Contains(person.Id))
            why.Add(grant.Level == AccessLevel.Editor ? "co-teacher, enters as host" : "hosts its link");
        if (why.Count == 0)
            why.Add(person.Role.ToString().ToLowerInvariant());
        return string.Join(", ", why);
    }

    private static string WhyGroup(AtCalendar at, Group group) =>
        group.Kind switch
        {
            GroupKind.ClassList or GroupKind.Section =>
                $"{Wording.Count(group.People, "student", "students")}, {(at.Calendar.ShowsList ? "who see who else is on it" : "hidden from each other")}",
            _ => Wording.Count(group.People, "person", "people"),
        };

    private static AccessExplanation? Explain(AtCalendar at, string who)
    {
        var entry = new FormReader();
        if (ReadWho(at, entry, who) is not Grantee.OnePerson one || at.Stores.People.Get(one.Person) is not { } person)
            return null;
        var viewer = at.Stores.People.ViewerOf(one.Person);
        var direct = at.Stores.Groups.Direct(one.Person);
        var reasons = AccessPhrases.Why(viewer, at.Context.Grants, at.Stores.Groups.Within(), direct);
        var names = at
            .Stores.Groups.Of([.. reasons.SelectMany(reason => reason.Through).Distinct()])
            .ToDictionary(group => group.Id, group => group.Name);
        return new AccessExplanation(
            KeyOf(one),
            person.Name,
            AccessRules.LevelOf(viewer, at.Context.Grants),
            [
                .. reasons.Select(reason =>
                    (
                        reason.Grant.Level,
                        (
                            reason.Grant.To switch
                            {
                                Grantee.OnePerson => "given by name",
                                Grantee.OneGroup =>
                                    $"through {string.Join(", which is in ", reason.Through.Select(group => names.GetValueOrDefault(group, "a group")))}",
                                Grantee.Everyone => "as everyone of the school",
                                _ => "as anyone",
                            }
                        ) + (reason.Grant.Until is { } until ? $", until {Wording.WithWeekday(until)}" : "")
                    )
                ),
            ]
        );
    }
}
