using System.Collections.Immutable;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Looking;

/// <summary>A shown session with the calendar it stands on.</summary>
public sealed record OnCalendar(Calendar Calendar, ShownSession Shown);

/// <summary>The door of a session on the day's page.</summary>
/// <param name="Code">The short address.</param>
/// <param name="Version">The link's version, for what is done to the door.</param>
/// <param name="Window">When the door is open for the session.</param>
/// <param name="Door">The state of the door now.</param>
/// <param name="MayHost">The viewer works the door.</param>
/// <param name="Room">Who is there; null where no provider tells, or not today.</param>
/// <param name="CanRenew">A provider made the room and can make another.</param>
public sealed record CardDoor(JoinCode Code, int Version, EntryWindow Window, Door Door, bool MayHost, RoomNow? Room, bool CanRenew)
{
    /// <summary>The state of the door is about this session.</summary>
    public bool IsAbout => Window.Session.IsSameAs(Door.Session);
}

/// <summary>A person's day.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Day">The day.</param>
/// <param name="Sessions">By start.</param>
/// <param name="Rail">The same, laid out by bells.</param>
/// <param name="Next">The first session after the day, where the day has none left; else null.</param>
/// <param name="OwnOnly">Whether only the person's own calendars are taken in.</param>
/// <param name="HasMore">Whether there are calendars that are not the person's own.</param>
/// <param name="MaySetUp">Whether the person may make calendars.</param>
public sealed record DayView(
    School School, Instant Now, LocalDate Day, ImmutableArray<OnCalendar> Sessions, BellRail Rail, OnCalendar? Next, bool OwnOnly, bool HasMore, bool MaySetUp)
{
    /// <summary>The doors of the sessions that have one.</summary>
    public IReadOnlyDictionary<Session, CardDoor> Doors { get; init; } = new Dictionary<Session, CardDoor>();

    /// <summary>What there is to notice about the links of these calendars, for those who keep them.</summary>
    public IReadOnlyList<NotedFinding> Findings { get; init; } = [];

    /// <summary>What cannot be read as it is stored, of what the person looks after.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];
}

/// <summary>A calendar in the list of calendars.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The viewer's level.</param>
/// <param name="IsOwn">It is the viewer's own.</param>
/// <param name="Patterns">When its series meet, in words; empty where the viewer may not see it.</param>
/// <param name="Next">Its next session.</param>
/// <param name="HeldInTerm">How many sessions the term has.</param>
public sealed record CalendarLine(Calendar Calendar, AccessLevel Level, bool IsOwn, IReadOnlyList<string> Patterns, ShownSession? Next, int HeldInTerm);

/// <summary>The list of calendars.</summary>
public sealed record CalendarList(School School, Instant Now, IReadOnlyList<CalendarLine> Lines, bool MayMake)
{
    /// <summary>Those that are put away, or deleted and can be brought back, for their managers.</summary>
    public IReadOnlyList<Calendar> NotInUse { get; init; } = [];
}

/// <summary>A series on a term sheet, with what the viewer may do to it.</summary>
/// <param name="Series">The series.</param>
/// <param name="Sentence">What is true of it.</param>
/// <param name="HasLink">It has a join link that the viewer may see.</param>
/// <param name="MayChange">Whether the viewer may change it.</param>
/// <param name="Plan">Its plan: loose changes and the sessions to put them on.</param>
public sealed record SheetSeries(Series Series, string Sentence, bool HasLink, bool MayChange, Plan Plan);

/// <summary>The term sheet of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Department">Its department, or null.</param>
/// <param name="Level">The viewer's level.</param>
/// <param name="Sheet">The sheet; null while the school has no term.</param>
/// <param name="Series">Its series; empty where the viewer may not see titles.</param>
/// <param name="Links">The join links of its series.</param>
/// <param name="Last">Its last changes, for those who may change it.</param>
/// <param name="Feeds">How many feeds there are, for managers.</param>
/// <param name="Embeds">How many embeds.</param>
/// <param name="TakenOff">The series that was taken off last and can be brought back, or null.</param>
/// <param name="ToUndo">The viewer's own last change that can be undone, or null.</param>
public sealed record TermSheetView(
    School School, Instant Now, Calendar Calendar, Calendar? Department, AccessLevel Level, TermSheet? Sheet, IReadOnlyList<SheetSeries> Series,
    IReadOnlyList<JoinLink> Links, IReadOnlyList<HistoryLine> Last, int Feeds, int Embeds, Series? TakenOff, HistoryLine? ToUndo)
{
    /// <summary>What of it cannot be read as it is stored, for those who may change it.</summary>
    public IReadOnlyList<Unreadable> Unreadable { get; init; } = [];

    /// <summary>For each series that cannot be read, its version, to take it off by.</summary>
    public IReadOnlyDictionary<long, int> UnreadableVersions { get; init; } = new Dictionary<long, int>();
}

/// <summary>The history of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Lines">A page of it, newest first.</param>
/// <param name="HasMore">There are older lines.</param>
/// <param name="MayRestore">Whether the viewer may go back to earlier states.</param>
public sealed record CalendarHistory(School School, Calendar Calendar, IReadOnlyList<HistoryLine> Lines, bool HasMore, bool MayRestore)
{
    /// <summary>Lines on a page.</summary>
    public const int Page = 50;
}

/// <summary>A week over several calendars.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Start">The first day of the week.</param>
/// <param name="Calendars">The calendars to choose from.</param>
/// <param name="Chosen">The slugs of those that are laid over each other.</param>
/// <param name="Sheet">The sheet.</param>
public sealed record WeekView(School School, Instant Now, LocalDate Start, IReadOnlyList<Calendar> Calendars, IReadOnlyCollection<string> Chosen, WeekSheet Sheet);

/// <summary>The class page of a calendar.</summary>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="Level">The level it is shown at.</param>
/// <param name="MayKeep">The viewer may go back to its term sheet.</param>
/// <param name="Top">The session that is on, or the next one.</param>
/// <param name="Coming">The sessions after it.</param>
/// <param name="Past">The last few, newest first.</param>
/// <param name="Materials">All materials, in order of their sessions.</param>
public sealed record ClassPage(
    School School, Instant Now, Calendar Calendar, AccessLevel Level, bool MayKeep, ShownSession? Top, ImmutableArray<ShownSession> Coming,
    ImmutableArray<ShownSession> Past, ImmutableArray<Material> Materials)
{
    /// <summary>The door of the session at the top, where it has one that the viewer may see.</summary>
    public ShortAddress? Door { get; init; }

    /// <summary>Its rooms without fixed times, whose doors are open at any time.</summary>
    public IReadOnlyList<(JoinCode Code, string Name)> OpenRooms { get; init; } = [];

    /// <summary>The token of the feed that is offered to whoever may open this page; null where none is.</summary>
    public string? FeedToken { get; init; }
}

/// <summary>Reads what pages show. Whatever is read here went through <see cref="Redaction"/>.</summary>
public sealed class Look(AlmanacDatabase database, IClock clock, Doors doors, Switchboard switchboard, RoomProviders rooms, Secrets secrets)
{
    /// <summary>The school, or null before the first run.</summary>
    public School? AtSchool() => database.Read(stores => stores.School.Find());

    /// <summary>The ribbon of the term around today, over the viewer's own calendars or over one calendar; null without a term.</summary>
    public TermRibbon? AtRibbon(Viewer viewer, string? slug) => database.Read(stores =>
    {
        if (stores.School.Find() is not { } school) return null;
        var today = clock.GetCurrentInstant().InZone(school.Time.Zone).Date;
        if (school.Time.TermToShow(today) is not { } term) return null;
        var plans = slug is not null && Setting.Find(stores, viewer, slug) is { } setting
            ? CalendarFacts.Read(stores, setting.Calendar.Id).Plans(school.Time)
            : Own(stores, viewer, out _).SelectMany(own => own.Facts.Plans(school.Time));
        return TermRibbon.Of(term, school.Time, plans, today);
    });

    /// <summary>A person's day.</summary>
    /// <param name="viewer">The person.</param>
    /// <param name="day">The day; null for today.</param>
    /// <param name="ownOnly">Leave out calendars that are not the person's own.</param>
    public DayView? AtDay(Viewer viewer, LocalDate? day, bool ownOnly) => database.Read(stores =>
    {
        if (stores.School.Find() is not { } school) return null;
        var now = clock.GetCurrentInstant();
        var date = day ?? now.InZone(school.Time.Zone).Date;
        var own = Own(stores, viewer, out var hasMore, ownOnly);
        var all = own.SelectMany(one => one.Facts.Plans(school.Time).SelectMany(plan => plan.Sessions)
                .Where(session => session.IsTold && session.Day >= date)
                .Select(session => (one.Calendar, Session: session, Show: one.Facts.For(one.Level, ShowChoices.SignedIn))))
            .OrderBy(one => one.Session.StartsAt).ToList();
        var sessions = all.Where(one => one.Session.Day == date)
            .Select(one => (one.Calendar, Shown: one.Show(one.Session))).Where(one => one.Shown is not null)
            .Select(one => new OnCalendar(one.Calendar, one.Shown!)).ToImmutableArray();
        var later = all.FirstOrDefault(one => one.Session.IsHeld && one.Session.Day > date && one.Session.StartsAt > now);
        var next = sessions.Any(one => one.Shown.Session.IsHeld && one.Shown.Session.EndsAt > now) || later.Show is null ? null : new OnCalendar(later.Calendar, later.Show(later.Session)!);
        var cards = CardDoors(viewer, sessions, now, isToday: date == now.InZone(school.Time.Zone).Date);
        var rail = BellRail.Of([.. sessions.Select(one => one.Shown).Where(shown => shown.Session.IsHeld && !shown.Session.IsAllDay)], school.Time.BellsOn(date), school.Time.Zone,
            session => cards.TryGetValue(session, out var door) ? door.Window : null);
        var calendars = own.Select(one => one.Calendar.Id).ToHashSet();
        var findings = AccessRules.MayMakeCalendar(viewer.Role)
            ? switchboard.Notice(stores, doors.All().Where(door => door.MayKeep(viewer) && (calendars.Contains(door.Owner.Id) || door.Users.Any(user => calendars.Contains(user.Calendar.Id)))), now)
            : [];
        return new DayView(school, now, date, sessions, rail, next, ownOnly, hasMore, AccessRules.MayMakeCalendar(viewer.Role))
        {
            Doors = cards, Findings = findings,
            Unreadable = AccessRules.MayMakeCalendar(viewer.Role)
                ? [.. stores.Unreadable.Where(one => viewer.Role == SchoolRole.Coordinator || own.Exists(mine => mine.Calendar.Id == one.Calendar && mine.Level >= AccessLevel.Contributor))]
                : [],
        };
    });

    /// <summary>The calendars that the viewer may know of.</summary>
    public CalendarList? AtCalendars(Viewer viewer) => database.Read(stores =>
    {
        if (stores.School.Find() is not { } school) return null;
        var now = clock.GetCurrentInstant();
        var term = school.Time.TermToShow(now.InZone(school.Time.Zone).Date);
        var (grants, lists, facts) = (stores.Calendars.AllGrants(), stores.People.ClassLists(), CalendarFacts.ReadAll(stores));
        var lines = stores.Calendars.All()
            .Select(calendar => (calendar, level: AccessRules.LevelOf(viewer, grants[calendar.Id])))
            .Where(one => one.level > AccessLevel.None)
            .Select(one =>
            {
                var standing = facts(one.calendar.Id);
                var plans = standing.Plans(school.Time);
                var next = plans.SelectMany(plan => plan.Held).Where(session => session.EndsAt > now).OrderBy(session => session.StartsAt).FirstOrDefault();
                return new CalendarLine(
                    one.calendar,
                    one.level,
                    AccessRules.IsOwn(viewer, grants[one.calendar.Id], lists),
                    AccessRules.May(Deed.SeeOutline, one.level) ? [.. plans.Select(plan => SayBack.When(plan.Of.Pattern, school.Time))] : [],
                    next is null ? null : standing.For(one.level, ShowChoices.SignedIn)(next),
                    plans.SelectMany(plan => plan.Held).Count(session => term?.Holds(session.Day) ?? false));
            });
        return new CalendarList(school, now, [.. lines], AccessRules.MayMakeCalendar(viewer.Role))
        {
            NotInUse = [.. stores.Calendars.Everything().Where(calendar => !calendar.IsInUse && !(calendar.DeletedAt + Calendar.Recall <= now) && AccessRules.May(Deed.ChangeCalendar, AccessRules.LevelOf(viewer, grants[calendar.Id])))],
        };
    });

    /// <summary>The term sheet of a calendar, for somebody who is signed in.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="termId">The term; null for the one around today.</param>
    public TermSheetView? AtTermSheet(Viewer viewer, string slug, TermId? termId) => database.Read(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return null;
        var (school, calendar) = (setting.School, setting.Calendar);
        var now = clock.GetCurrentInstant();
        var term = termId is { } id ? school.Time.Find(id) : school.Time.TermToShow(now.InZone(school.Time.Zone).Date);
        var facts = CalendarFacts.Read(stores, calendar.Id);
        var plans = facts.Plans(school.Time);
        var sheet = term is null ? null : TermSheet.Of(term, school.Time, plans, facts.For(setting.Level, ShowChoices.SignedIn), now);
        var series = plans.Where(_ => setting.May(Deed.SeeOutline)).Select(plan => new SheetSeries(
            plan.Of,
            SayBack.Sentence(plan, school.Time, calendar.Title),
            setting.May(Deed.SeeDetails) && plan.Of.JoinLink is not null,
            setting.May(Deed.ChangeSeries, own: plan.Of.MadeBy == viewer.Person),
            plan)).ToList();
        var keeps = setting.Level >= AccessLevel.Contributor;
        var last = keeps ? stores.History.Last(calendar.Id, 5) : [];
        var outlets = setting.May(Deed.Publish) ? stores.Outlets.Of(calendar.Id).CountBy(outlet => outlet.Kind).ToDictionary() : [];
        var takenOff = last is [{ Act: "TakeOffSeries" } line, ..] ? stores.Series.Find(new SeriesId(line.SubjectId), alsoTakenOff: true) : null;
        List<Unreadable> unreadable = keeps ? [.. stores.Unreadable.Where(one => one.Calendar == calendar.Id && !(one.Kind == UnreadableKind.Series && stores.Series.IsTakenOff(new SeriesId(one.Id))))] : [];
        return new TermSheetView(
            school, now, calendar, DepartmentFor(stores, viewer, calendar), setting.Level, sheet, series,
            setting.May(Deed.SeeDetails) ? LinkDoor.UsedOn(stores, facts.Series) : [], last,
            outlets.GetValueOrDefault(Core.Publishing.OutletKind.Feed), outlets.GetValueOrDefault(Core.Publishing.OutletKind.Embed), takenOff,
            keeps && viewer.Person is { } person ? stores.History.LastToUndo(calendar.Id, person) : null)
        {
            Unreadable = unreadable,
            UnreadableVersions = unreadable.Where(one => one.Kind == UnreadableKind.Series).DistinctBy(one => one.Id).ToDictionary(one => one.Id, one => stores.Series.FindBare(new SeriesId(one.Id))?.Version ?? 0),
        };
    });

    // Its title is for those who may know of it.
    private static Calendar? DepartmentFor(Stores stores, Viewer viewer, Calendar calendar) =>
        calendar.Department is { } id && stores.Calendars.Get(id) is { IsInUse: true } department && AccessRules.May(Deed.SeeOutline, AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(id))) ? department : null;

    /// <summary>The history of a calendar, newest first; null for those who may not change anything on it.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="before">Lines before that one; null for the newest.</param>
    public CalendarHistory? AtHistory(Viewer viewer, string slug, long? before) => database.Read(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { Level: >= AccessLevel.Contributor } setting) return null;
        var lines = stores.History.Last(setting.Calendar.Id, CalendarHistory.Page + 1, before is > 0 ? before.Value : long.MaxValue);
        return new CalendarHistory(setting.School, setting.Calendar, [.. lines.Take(CalendarHistory.Page)], lines.Count > CalendarHistory.Page, setting.May(Deed.ChangeSeries));
    });

    /// <summary>A week over several calendars.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="day">A day of the week; null for today.</param>
    /// <param name="chosen">The slugs of the calendars; none for the viewer's own.</param>
    public WeekView? AtWeek(Viewer viewer, LocalDate? day, IReadOnlyCollection<string> chosen) => database.Read(stores =>
    {
        if (stores.School.Find() is not { } school) return null;
        var now = clock.GetCurrentInstant();
        var all = Own(stores, viewer, out _, ownOnly: false);
        var picked = all.Where(one => chosen.Count > 0 ? chosen.Contains(one.Calendar.Slug) : one.IsOwn).ToList();
        if (chosen.Count == 0 && picked.Count == 0) picked = all;
        var start = school.Time.WeekOf(day ?? now.InZone(school.Time.Zone).Date);
        var members = stores.People.MembersOf([.. picked.SelectMany(one => one.ClassLists).Distinct()]);
        var sessions = picked.SelectMany(one =>
        {
            var show = one.Facts.For(one.Level, ShowChoices.SignedIn);
            PersonId? teacher = one.Calendar.Kind == CalendarKind.Class ? one.Calendar.Owner : null;
            // Who is on a class list is for those who work with it.
            ImmutableArray<PersonId> students = one.Level < AccessLevel.Contributor ? [] : [.. one.ClassLists.SelectMany(list => members[list]).Distinct()];
            return one.Facts.Plans(school.Time).SelectMany(plan => plan.Sessions)
                .Where(session => session.IsTold && start <= session.Day && session.Day < start.PlusWeeks(1))
                .Select(show).OfType<ShownSession>()
                .Select(shown => new WeekSession(one.Calendar, shown, AccessRules.May(Deed.ChangeSeries, one.Level, own: shown.Session.Of.MadeBy == viewer.Person), teacher, students));
        }).OrderBy(one => one.Shown.Session.StartsAt).ToList();
        var names = stores.People.NamesOf([.. picked.Select(one => one.Calendar.Owner).Distinct()]);
        return new WeekView(school, now, start, [.. all.Select(one => one.Calendar)], [.. picked.Select(one => one.Calendar.Slug)], WeekSheet.Of(start, school.Time, sessions, names));
    });

    /// <summary>The class page of a calendar; null where it is not open to the viewer.</summary>
    /// <param name="viewer">The viewer.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="asVisitor">Show it as a visitor sees it who is not signed in. Where it is closed to them: as a student of the class.</param>
    public ClassPage? AtClassPage(Viewer viewer, string slug, bool asVisitor) => database.Read(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { Calendar.IsInUse: true } setting) return null;
        var now = clock.GetCurrentInstant();
        // Nobody gains by looking "as": the level can only fall.
        var visitors = AccessRules.LevelOf(Viewer.Visitor, setting.Grants);
        var isVisitor = viewer.Person is null || (asVisitor && visitors > AccessLevel.None);
        var level = isVisitor ? visitors : (AccessLevel)Math.Min((int)setting.Level, (int)AccessLevel.Full);
        var facts = CalendarFacts.Read(stores, setting.Calendar.Id);
        var show = facts.For(level, isVisitor ? ShowChoices.Anyone : ShowChoices.SignedIn);
        var sessions = facts.Plans(setting.School.Time).SelectMany(plan => plan.Sessions).Where(session => session.IsTold).OrderBy(session => session.StartsAt).ToList();
        var coming = sessions.Where(session => session.EndsAt > now).Take(9).Select(show).OfType<ShownSession>().ToList();
        var past = sessions.Where(session => session.IsHeld && session.EndsAt <= now).TakeLast(5).Reverse().Select(show).OfType<ShownSession>();
        var materials = sessions.Select(show).OfType<ShownSession>().SelectMany(shown => shown.Materials).Where(material => material.ForSession is null).DistinctBy(material => material.Id);
        return new ClassPage(
            setting.School, now, setting.Calendar, level, setting.Level >= AccessLevel.Contributor, coming.FirstOrDefault(), [.. coming.Skip(1)], [.. past], [.. materials])
        {
            OpenRooms = AccessRules.May(Deed.SeeDetails, level) ? [.. stores.JoinLinks.Of(setting.Calendar.Id).Where(link => link.Entry is EntryRule.Always && !link.LeadsNowhere).Select(link => (link.Code, link.Name))] : [],
            FeedToken = stores.Outlets.Of(setting.Calendar.Id).FirstOrDefault(outlet => outlet is { Kind: Core.Publishing.OutletKind.Feed, IsOffered: true } && outlet.Level <= level) is { } offered ? secrets.TokenOf(offered) : null,
            Door = coming.FirstOrDefault()?.Join is { } code ? doors.At(code, new AtDoor(isVisitor ? Viewer.Visitor : viewer)) : null,
        };
    });

    /// <summary>A material for a viewer; null where it is not theirs to open.</summary>
    public Material? AtMaterial(Viewer viewer, string key) => database.Read(stores =>
    {
        if (key.Length != Secrets.TokenLength || stores.Materials.Find(key) is not { } material) return null;
        if (material.Audience == MaterialAudience.Anyone) return material;
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(material.Calendar));
        return viewer.Person is not null && AccessRules.May(Deed.SeeDetails, level) ? material : null;
    });

    private Dictionary<Session, CardDoor> CardDoors(Viewer viewer, IEnumerable<OnCalendar> sessions, Instant now, bool isToday)
    {
        var cards = new Dictionary<Session, CardDoor>(ReferenceEqualityComparer.Instance);
        foreach (var (_, shown) in sessions)
        {
            if (shown.Join is not { } code || !shown.Session.IsHeld || doors.Find(code) is not { } door) continue;
            var mayHost = door.MayHost(viewer);
            cards[shown.Session] = new CardDoor(
                code, door.Link.Version, door.Link.WindowOf(shown.Session), door.Schedule.At(now), mayHost,
                mayHost && isToday ? doors.RoomOf(door, shown.Session) : null, rooms.Provider is not null && door.Link.Target.Provider == rooms.Provider.Name);
        }

        return cards;
    }

    private sealed record Standing(Calendar Calendar, AccessLevel Level, CalendarFacts Facts, bool IsOwn, ImmutableArray<GroupId> ClassLists);

    private static List<Standing> Own(Stores stores, Viewer viewer, out bool hasMore, bool ownOnly = true)
    {
        var (grants, lists, facts) = (stores.Calendars.AllGrants(), stores.People.ClassLists(), CalendarFacts.ReadAll(stores));
        var all = stores.Calendars.All().Select(calendar => (Calendar: calendar, Level: AccessRules.LevelOf(viewer, grants[calendar.Id])))
            .Where(one => one.Level > AccessLevel.None)
            .Select(one => new Standing(
                one.Calendar, one.Level, facts(one.Calendar.Id), AccessRules.IsOwn(viewer, grants[one.Calendar.Id], lists),
                [.. grants[one.Calendar.Id].Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group).Where(lists.Contains)])).ToList();
        var own = all.Where(one => one.IsOwn).ToList();
        hasMore = own.Count < all.Count;
        return ownOnly ? own : all;
    }
}
