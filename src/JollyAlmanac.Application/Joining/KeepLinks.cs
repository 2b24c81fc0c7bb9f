using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>A join link as its keepers see it.</summary>
/// <param name="Calendar">Its calendar.</param>
/// <param name="Link">The link; for a new one, as it would begin.</param>
/// <param name="Users">The titles of the series that use it.</param>
/// <param name="Past">The rooms it has had, newest first.</param>
/// <param name="MayHost">People who can be made hosts: they work at the school, see the calendar in full, and are no editors of it.</param>
/// <param name="Checklist">The school's checklist for rooms.</param>
/// <param name="Provider">The provider's name, where there is one.</param>
/// <param name="Calendars">For a new link: the calendars to choose from.</param>
public sealed record KeptLink(
    Calendar Calendar, JoinLink Link, IReadOnlyList<string> Users, IReadOnlyList<PastTarget> Past, IReadOnlyList<Person> MayHost, IReadOnlyList<string> Checklist, string? Provider,
    IReadOnlyList<Calendar> Calendars);

/// <summary>Makes and changes join links.</summary>
public sealed class KeepLinks(AlmanacDatabase database, IClock clock, RoomProviders rooms)
{
    /// <summary>The most rooms that are listed of the past.</summary>
    public const int MostPast = 30;

    /// <summary>A form for a new link on a calendar; the first that the viewer keeps, where none is named.</summary>
    public Outcome<KeptLink> Begin(Viewer viewer, string? slug) => database.Read<Outcome<KeptLink>>(stores =>
    {
        var kept = Setting.CalendarsFor(stores, viewer, Deed.KeepJoinLinks);
        var calendar = string.IsNullOrEmpty(slug) ? kept.FirstOrDefault() : kept.FirstOrDefault(one => one.Slug == slug);
        if (calendar is null) return kept.Count == 0 ? new Outcome<KeptLink>.NotAllowed() : new Outcome<KeptLink>.NotFound();
        return new Outcome<KeptLink>.Done(new KeptLink(calendar, Fresh(calendar.Id, ""), [], [], MayHost(stores, stores.Calendars.GrantsOf(calendar.Id)), stores.JoinLinks.Checklist(), rooms.Provider?.Name, kept));
    });

    /// <summary>A link for somebody who may change it.</summary>
    public Outcome<KeptLink> Open(Viewer viewer, JoinCode code) => database.Read<Outcome<KeptLink>>(stores =>
    {
        var found = Find<KeptLink>(stores, viewer, code, Deed.KeepJoinLinks, out var door);
        return found ?? new Outcome<KeptLink>.Done(new KeptLink(
            door.Owner, door.Link, [.. door.Series.Select(series => series.Title).Distinct()], stores.JoinLinks.Past(door.Link.Id, MostPast),
            MayHost(stores, door.Grants), stores.JoinLinks.Checklist(), rooms.Provider?.Name, []));
    });

    /// <summary>Adds a link to a calendar.</summary>
    public Outcome<JoinLink> Add(Viewer viewer, string slug, LinkInput input)
    {
        var allowed = database.Read(stores => Setting.Find(stores, viewer, slug));
        if (allowed is null || viewer.Person is not { } person) return new Outcome<JoinLink>.NotFound();
        if (!allowed.May(Deed.KeepJoinLinks)) return new Outcome<JoinLink>.NotAllowed();
        // Without a name of its own a link is called as its calendar is.
        if (string.IsNullOrWhiteSpace(input.Name)) input = input with { Name = allowed.Calendar.Title.Length <= 80 ? allowed.Calendar.Title : allowed.Calendar.Title[..80].TrimEnd() };
        return WithRoom<JoinLink>(input, input.Name, needed: true, (target, entry) => database.Write<Outcome<JoinLink>>(stores =>
        {
            if (Setting.Find(stores, viewer, slug) is not { } setting || !setting.May(Deed.KeepJoinLinks)) return new Outcome<JoinLink>.NotFound();
            var link = LinkReader.Read(entry, input, Fresh(setting.Calendar.Id, input.Name ?? ""), Ids(MayHost(stores, setting.Grants)), stores.JoinLinks.Checklist(), rooms.Provider is not null);
            if (string.IsNullOrWhiteSpace(input.Code)) link = link with { Code = stores.JoinLinks.FreeCode(link.Name) };
            else if (!entry.Has("Code") && stores.JoinLinks.IsTaken(link.Code)) entry.Wrong("Code", Taken(link.Code));
            if (!entry.IsGood || target is null) return new Outcome<JoinLink>.Refused(entry.Problems);
            var now = clock.GetCurrentInstant();
            var added = stores.JoinLinks.Add(link, target, person, now);
            Note(stores, added, person, now, "AddJoinLink", $"made the join link {added.Name}");
            return new Outcome<JoinLink>.Done(added);
        }, outcome => outcome.IsDone));
    }

    /// <summary>Changes a link and, where a room is named, puts it behind the short address, which stays.</summary>
    public Outcome<JoinLink> Change(Viewer viewer, JoinCode code, LinkInput input)
    {
        var refusal = database.Read(stores => Find<JoinLink>(stores, viewer, code, Deed.KeepJoinLinks, out _));
        if (refusal is not null) return refusal;
        return WithRoom<JoinLink>(input, input.Name, needed: false, (target, entry) => database.Write<Outcome<JoinLink>>(stores =>
        {
            if (Find<JoinLink>(stores, viewer, code, Deed.KeepJoinLinks, out var door) is { } refused) return refused;
            var link = LinkReader.Read(entry, input, door.Link, Ids(MayHost(stores, door.Grants)), stores.JoinLinks.Checklist(), rooms.Provider is not null);
            if (link.Code != door.Link.Code && !entry.Has("Code") && stores.JoinLinks.IsTaken(link.Code) && stores.JoinLinks.Find(link.Code)?.Id != link.Id) entry.Wrong("Code", Taken(link.Code));
            if (!entry.IsGood) return new Outcome<JoinLink>.Refused(entry.Problems);
            return Keep(stores, door, link, input.Version, viewer.Person!.Value, "ChangeJoinLink",
                target is null ? $"changed the join link {link.Name}" : $"replaced what is behind the join link {link.Name}", target);
        }, outcome => outcome.IsDone));
    }

    /// <summary>Withdraws a link, or puts it back. Its short address is kept for it in either case.</summary>
    public Outcome<JoinLink> SetWithdrawn(Viewer viewer, JoinCode code, bool withdrawn, int version) => database.Write<Outcome<JoinLink>>(stores =>
    {
        if (Find<JoinLink>(stores, viewer, code, Deed.KeepJoinLinks, out var door) is { } refused) return refused;
        var at = withdrawn ? door.Link.WithdrawnAt ?? clock.GetCurrentInstant() : (Instant?)null;
        return Keep(stores, door, door.Link with { WithdrawnAt = at, Hand = null }, version, viewer.Person!.Value,
            withdrawn ? "WithdrawJoinLink" : "PutBackJoinLink", withdrawn ? $"withdrew the join link {door.Link.Name}" : $"put the join link {door.Link.Name} back");
    }, outcome => outcome.IsDone);

    /// <summary>
    /// Puts another room of the provider behind a link; where sessions have rooms of their own, behind the one that is on.
    /// </summary>
    /// <param name="viewer">Who.</param>
    /// <param name="code">The link.</param>
    /// <param name="sure">Renew it though people are inside; without, they are told of first.</param>
    /// <param name="version">The version that the form was made from.</param>
    public Outcome<JoinLink> Renew(Viewer viewer, JoinCode code, bool sure, int version)
    {
        if (database.Read(stores => (Refusal: Find<JoinLink>(stores, viewer, code, Deed.WorkDoor, out var door), Door: door)) is not (null, { } found)) return new Outcome<JoinLink>.NotFound();
        if (rooms.Provider is not { } provider) return new Outcome<JoinLink>.Refused([new Problem("", "There is no provider here that makes rooms. Change the link and paste another address.")]);
        var now = clock.GetCurrentInstant();
        var session = found.Link.RenewsAfterEach && found.Schedule.At(now) is { Session.IsHeld: true } at ? at.Session : null;
        // For a session that has no room of its own yet there is no old one: the standing room is for the others.
        var old = database.Read(stores => session is null || (stores.JoinLinks.HasOwnRoom(found.Link.Id, session.Key, out var isClosed) && !isClosed)
            ? stores.JoinLinks.TargetOf(found.Link.Id, session?.Key) : null);
        try
        {
            var inside = old?.Provider == provider.Name ? provider.Now(old.Room) : new RoomNow(false, 0, 0);
            var people = inside.Inside + inside.Waiting;
            if (people > 0 && !sure)
                return new Outcome<JoinLink>.Refused([new Problem("Sure", $"{Wording.Capital(Wording.Count(people, "person is", "people are"))} in the room now. They stay where they are; whoever comes after the renewal enters the new room. Renew it all the same?")]);
            var outcome = rooms.WithRoom(found.Link.Name, "", target => database.Write<Outcome<JoinLink>>(stores =>
            {
                if (Find<JoinLink>(stores, viewer, code, Deed.WorkDoor, out var door) is { } refused) return refused;
                return Keep(stores, door, door.Link with { Reach = session is null ? rooms.Reach : door.Link.Reach, IsPersonal = session is not null && door.Link.IsPersonal }, version, viewer.Person!.Value,
                    "RenewJoinLink", $"renewed the room behind the join link {door.Link.Name}", target, session);
            }, kept => kept.IsDone));
            if (outcome.IsDone && people == 0 && old?.Provider == provider.Name) provider.Retire(old.Room);
            return outcome;
        }
        catch (RoomProviderException failure)
        {
            return new Outcome<JoinLink>.Refused([new Problem("", failure.Message)]);
        }
    }

    /// <summary>Puts another checklist for rooms in the school's place.</summary>
    public Outcome<int> SetChecklist(Viewer viewer, string? lines) => database.Write<Outcome<int>>(stores =>
    {
        if (viewer.Role != SchoolRole.Coordinator || viewer.Person is not { } person) return new Outcome<int>.NotAllowed();
        var entry = new Entry();
        var names = entry.Lines("Checklist", lines, "The checklist", 2000).Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Distinct().ToList();
        if (names.Count > 20) entry.Wrong("Checklist", $"These are {names.Count} lines; a checklist may have 20.");
        if (names.FirstOrDefault(name => name.Length > 80) is { } longest) entry.Wrong("Checklist", $"“{longest[..40]}…” is longer than 80 characters. Shorten it.");
        if (!entry.IsGood) return new Outcome<int>.Refused(entry.Problems);
        stores.JoinLinks.SetChecklist(names);
        stores.History.Add(clock.GetCurrentInstant(), person, null, HistorySubject.School, 1, "SetRoomChecklist", $"set the room checklist to {Wording.Count(names.Count, "line", "lines")}", null, null);
        return new Outcome<int>.Done(names.Count);
    }, outcome => outcome.IsDone);

    /// <summary>The link of a code, for somebody who may do the deed on it.</summary>
    /// <returns>Null where all is well, else why not.</returns>
    internal static Outcome<T>? Find<T>(Stores stores, Viewer viewer, JoinCode code, Deed deed, out LinkDoor door)
    {
        door = null!;
        if (stores.School.Find() is not { } school || stores.JoinLinks.Find(code) is not { } link) return new Outcome<T>.NotFound();
        door = LinkDoor.Read(stores, school, link.Id);
        if (viewer.Person is null || door.Highest(viewer) == AccessLevel.None) return new Outcome<T>.NotFound();
        return (deed == Deed.WorkDoor ? door.MayHost(viewer) : door.MayKeep(viewer)) ? null : new Outcome<T>.NotAllowed();
    }

    /// <summary>Keeps a changed link with its history, where it still has the version.</summary>
    internal Outcome<JoinLink> Keep(Stores stores, LinkDoor door, JoinLink link, int version, PersonId person, string act, string summary, JoinTarget? target = null, Session? session = null)
    {
        var now = clock.GetCurrentInstant();
        if (!stores.JoinLinks.Change(link with { CannotBeRead = null }, version, now)) return new Outcome<JoinLink>.Stale(stores.History.Newest(HistorySubject.JoinLink, door.Owner.Id, link.Id.Value));
        if (target is not null) stores.JoinLinks.AddTarget(link.Id, target, person, now, session?.Key);
        // Feeds carry the short address, so a new one is news to every calendar that uses it.
        if (link.Code != door.Link.Code) foreach (var (calendar, _) in door.Users) stores.Calendars.Touch(calendar.Id, now);
        Note(stores, link, person, now, act, summary);
        return new Outcome<JoinLink>.Done(stores.JoinLinks.Get(link.Id));
    }

    internal static void Note(Stores stores, JoinLink link, PersonId person, Instant now, string act, string summary) =>
        stores.History.Add(now, person, link.Calendar, HistorySubject.JoinLink, link.Id.Value, act, summary, null, null);

    /// <summary>A link as it begins: its id, code and target come when it is kept.</summary>
    internal static JoinLink Fresh(CalendarId calendar, string name) =>
        new(default, calendar, name, default, 0) { Target = new TargetFacts("", "", "", default, 0, false, false, false, false, null, "") };

    // The room that the form names, or one that the provider makes.
    private Outcome<T> WithRoom<T>(LinkInput input, string? name, bool needed, Func<JoinTarget?, Entry, Outcome<T>> keep)
    {
        var entry = new Entry();
        if (input.MakeRoom) return rooms.WithRoom(string.IsNullOrWhiteSpace(name) ? "A room" : name.Trim(), "MakeRoom", made => keep(made, entry));
        var typed = LinkReader.ReadTarget(entry, input);
        if (typed is null && needed && !entry.Has("Address")) entry.Wrong("Address", "The room's address is missing. Paste it, or let a room be made where that is offered.");
        return keep(typed, entry);
    }

    private static List<Person> MayHost(Stores stores, IEnumerable<Grant> grants)
    {
        var given = grants.ToList();
        return [.. stores.People.Staff([.. given.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group)]).Where(one => AccessRules.LevelOf(one.Viewer, given) is >= AccessLevel.Full and < AccessLevel.Editor).Select(one => one.Person)];
    }

    private static HashSet<PersonId> Ids(IEnumerable<Person> people) => [.. people.Select(person => person.Id)];

    private static string Taken(JoinCode code) => $"{code.Path} is taken, or was once. A short address is never given out twice; choose another.";
}
