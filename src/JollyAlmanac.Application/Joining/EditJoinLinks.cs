using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;

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
/// <param name="Some">Whom it can be for alone.</param>
public sealed record JoinLinkItem(
    Calendar Calendar,
    JoinLink Link,
    IReadOnlyList<string> Users,
    IReadOnlyList<PastTarget> Past,
    IReadOnlyList<Person> MayHost,
    IReadOnlyList<string> Checklist,
    string? Provider,
    IReadOnlyList<Calendar> Calendars,
    AudienceChoices Some
);

/// <summary>Makes and changes join links.</summary>
public sealed class EditJoinLinks(Gate gate, AlmanacDatabase database, RoomProviders rooms)
{
    /// <summary>The most rooms that are listed of the past.</summary>
    public const int MostPast = 30;

    /// <summary>A form for a new link on a calendar; the first that the viewer keeps, where none is named.</summary>
    public Outcome<JoinLinkItem> Begin(Viewer viewer, Slug? slug) =>
        database.Read<Outcome<JoinLinkItem>>(stores =>
        {
            var kept = CalendarContext.CalendarsFor(stores, viewer, Permission.KeepJoinLinks);
            var calendar = slug is null ? kept.FirstOrDefault() : kept.FirstOrDefault(one => one.Slug == slug);
            if (calendar is null)
                return kept.Count == 0 ? new Outcome<JoinLinkItem>.NotAllowed() : new Outcome<JoinLinkItem>.NotFound();
            var grants = stores.Calendars.GrantsOf(calendar.Id);
            return new Outcome<JoinLinkItem>.Done(
                new JoinLinkItem(
                    calendar,
                    Fresh(stores, calendar.Id, "", grants),
                    [],
                    [],
                    MayHost(stores, grants),
                    stores.JoinLinks.ChecklistOf(calendar.Id),
                    rooms.Provider?.Name,
                    kept,
                    AudienceReader.Choices(stores, grants, [])
                )
            );
        });

    /// <summary>A link for somebody who may change it.</summary>
    public Outcome<JoinLinkItem> Open(Viewer viewer, JoinCode code) =>
        gate.Read<JoinLinkItem>(Operation.ChangeJoinLink, viewer, code, at => new Outcome<JoinLinkItem>.Done(
            new JoinLinkItem(
                at.Door.Owner,
                at.Link,
                at.Door.TitlesFor(viewer),
                at.Stores.JoinLinks.Past(at.Link.Id, MostPast),
                MayHost(at.Stores, at.Door.Grants),
                at.Stores.JoinLinks.ChecklistOf(at.Link.Calendar),
                rooms.Provider?.Name,
                [],
                AudienceReader.Choices(at.Stores, at.Door.Grants, [at.Link.OnlyFor])
            )
        ));

    /// <summary>Adds a link to a calendar.</summary>
    public async Task<Outcome<JoinLink>> Add(
        Viewer viewer,
        Slug slug,
        LinkInput input,
        CancellationToken cancellation = default
    )
    {
        // No room is made for somebody who may not keep it.
        var allowed = gate.Read<string>(Operation.AddJoinLink, viewer, slug, at => new Outcome<string>.Done(
            at.Calendar.ShortTitle
        ));
        if (allowed is not Outcome<string>.Done { Value: var title })
            return allowed.Then<JoinLink>(_ => new Outcome<JoinLink>.NotFound());
        // Without a name of its own a link is called as its calendar is.
        if (string.IsNullOrWhiteSpace(input.Name))
            input = input with { Name = title };
        return await WithRoom(
            input,
            needed: true,
            (target, entry) => gate.Write<JoinLink>(Operation.AddJoinLink, viewer, slug, at =>
                {
                    var stores = at.Stores;
                    var link = LinkReader.Read(
                        entry,
                        input,
                        Fresh(stores, at.Calendar.Id, input.Name ?? "", at.Context.Grants),
                        Ids(MayHost(stores, at.Context.Grants)),
                        stores.JoinLinks.ChecklistOf(at.Calendar.Id),
                        rooms.Provider is not null
                    );
                    link = WithOnly(entry, input, link, stores, at.Context.Grants);
                    var turn = LinkReader.ReadTurn(entry, input.Room);
                    if (string.IsNullOrWhiteSpace(input.Code))
                        link = link with { Code = stores.JoinLinks.FreeCode(link.Name) };
                    else if (!entry.Has("Code") && stores.JoinLinks.IsTaken(link.Code))
                        entry.Wrong("Code", Taken(link.Code));
                    if (!entry.IsGood || target is null)
                        return new Outcome<JoinLink>.Refused(entry.Problems);
                    var made = Make(at, link, target);
                    if (turn is { Count: > 0 })
                        stores.JoinLinks.SetRoomsInTurn(made.Id, turn, at.Now);
                    return new Outcome<JoinLink>.Done(stores.JoinLinks.Get(made.Id));
                }),
            cancellation
        );
    }

    /// <summary>Changes a link and, where a room is named, puts it behind the short address, which stays.</summary>
    public async Task<Outcome<JoinLink>> Change(
        Viewer viewer,
        JoinCode code,
        LinkInput input,
        CancellationToken cancellation = default
    )
    {
        var allowed = gate.Read<bool>(Operation.ChangeJoinLink, viewer, code, _ => new Outcome<bool>.Done(true));
        if (!allowed.IsDone)
            return allowed.Then<JoinLink>(_ => new Outcome<JoinLink>.NotFound());
        return await WithRoom(
            input,
            needed: false,
            (target, entry) => gate.Write<JoinLink>(Operation.ChangeJoinLink, viewer, code, at =>
                {
                    var stores = at.Stores;
                    var link = LinkReader.Read(
                        entry,
                        input,
                        at.Link,
                        Ids(MayHost(stores, at.Door.Grants)),
                        stores.JoinLinks.ChecklistOf(at.Link.Calendar),
                        rooms.Provider is not null
                    );
                    link = WithOnly(entry, input, link, stores, at.Door.Grants);
                    var turn = LinkReader.ReadTurn(entry, input.Room);
                    if (
                        link.Code != at.Link.Code
                        && !entry.Has("Code")
                        && stores.JoinLinks.IsTaken(link.Code)
                        && stores.JoinLinks.Find(link.Code)?.Id != link.Id
                    )
                        entry.Wrong("Code", Taken(link.Code));
                    if (!entry.IsGood)
                        return new Outcome<JoinLink>.Refused(entry.Problems);
                    if (at.Link.Version != input.Version)
                        return at.Stale<JoinLink>();
                    var stored = at.Store(
                        link,
                        target is not null ? $"replaced what is behind the join link {link.Name}"
                            : turn is null ? $"changed the join link {link.Name}"
                            : turn.Count == 0 ? $"let one room stand behind the join link {link.Name} again"
                            : $"put {Wording.Count(turn.Count + 1, "room", "rooms")} in turn behind the join link {link.Name}",
                        target
                    );
                    if (!stored.IsDone || turn is null)
                        return stored;
                    stores.JoinLinks.SetRoomsInTurn(link.Id, turn, at.Now);
                    return new Outcome<JoinLink>.Done(stores.JoinLinks.Get(link.Id));
                }),
            cancellation
        );
    }

    /// <summary>Withdraws a link, or puts it back. Its short address is kept for it in either case.</summary>
    public Outcome<JoinLink> SetWithdrawn(Viewer viewer, JoinCode code, bool withdrawn, int version) =>
        gate.Write<JoinLink>(
            withdrawn ? Operation.WithdrawJoinLink : Operation.PutBackJoinLink,
            viewer,
            code,
            version,
            at => SetWithdrawn(at, withdrawn)
        );

    /// <summary>Withdraws a link, or puts it back, within an act that was let in.</summary>
    internal static Outcome<JoinLink> SetWithdrawn(AtLink at, bool withdrawn) =>
        at.Store(
            at.Link with
            {
                WithdrawnAt = withdrawn ? at.Link.WithdrawnAt ?? at.Now : null,
                Hand = null,
            },
            withdrawn ? $"turned off the join link {at.Link.Name}" : $"put the join link {at.Link.Name} back"
        );

    /// <summary>
    /// Puts another room of the provider behind a link; where sessions have rooms of their own, behind the one that is on.
    /// </summary>
    /// <param name="viewer">Who.</param>
    /// <param name="code">The link.</param>
    /// <param name="sure">Renew it though people are inside; without, they are told of first.</param>
    /// <param name="version">The version that the form was made from.</param>
    /// <param name="cancellation">Ends the waiting for the provider.</param>
    public async Task<Outcome<JoinLink>> Renew(
        Viewer viewer,
        JoinCode code,
        bool sure,
        int version,
        CancellationToken cancellation = default
    )
    {
        var found = gate.Read<(string, Session?, JoinTarget?)>(Operation.RenewJoinLink, viewer, code, at =>
        {
            var on =
                at.Link.RenewsAfterEach && at.Door.Schedule.At(at.Now) is { Session.IsHeld: true } now
                    ? now.Session
                    : null;
            // For a session that has no room of its own yet there is no old one: the standing room is for the others.
            var hasOld =
                on is null || (at.Stores.JoinLinks.HasOwnRoom(at.Link.Id, on.Key, out var isClosed) && !isClosed);
            return new Outcome<(string, Session?, JoinTarget?)>.Done(
                (at.Link.Name, on, hasOld ? at.Stores.JoinLinks.TargetOf(at.Link.Id, on?.Key) : null)
            );
        });
        if (found is not Outcome<(string, Session?, JoinTarget?)>.Done { Value: var (name, session, old) })
            return found.Then<JoinLink>(_ => new Outcome<JoinLink>.NotFound());
        if (rooms.Provider is not { } provider)
            return Outcome.Because<JoinLink>(
                "",
                "There is no provider here that makes rooms. Change the link and paste another address."
            );
        try
        {
            var inside =
                old?.Provider == provider.Name
                    ? await rooms.Ask(provider, (one, ends) => one.Now(old.Room, ends), cancellation)
                    : new RoomNow(false, 0, 0);
            var people = inside.Inside + inside.Waiting;
            if (people > 0 && !sure)
                return Outcome.Because<JoinLink>(
                    "Sure",
                    $"{Wording.Capital(Wording.Count(people, "person is", "people are"))} in the room now. They stay where they are; whoever comes after the renewal enters the new room. Replace it all the same?"
                );
            var outcome = await rooms.WithRoom(
                name,
                "",
                target =>
                    gate.Write<JoinLink>(Operation.RenewJoinLink, viewer, code, version, at =>
                        at.Store(
                            at.Link with
                            {
                                Reach = session is null ? rooms.Reach : at.Link.Reach,
                                IsPersonal = session is not null && at.Link.IsPersonal,
                            },
                            $"renewed the room behind the join link {at.Link.Name}",
                            target,
                            session
                        )
                    ),
                cancellation
            );
            if (outcome.IsDone && people == 0 && old?.Provider == provider.Name)
                await rooms.Retire(provider, old.Room, cancellation);
            return outcome;
        }
        catch (RoomProviderException failure)
        {
            return Outcome.Because<JoinLink>("", failure.Message);
        }
    }

    /// <summary>Puts another checklist for rooms in the school's place.</summary>
    public Outcome<int> SetChecklist(Viewer viewer, string? lines) =>
        gate.Write<int>(Operation.SetRoomChecklist, viewer, at =>
        {
            var entry = new FormReader();
            var names = LinkReader.ReadChecklist(entry, lines);
            if (!entry.IsGood)
                return new Outcome<int>.Refused(entry.Problems);
            at.Stores.JoinLinks.SetChecklist(names);
            at.Note(
                HistorySubject.School,
                1,
                $"set the room checklist to {Wording.Count(names.Count, "line", "lines")}"
            );
            return new Outcome<int>.Done(names.Count);
        });

    /// <summary>Makes a link on the calendar of an act, with a line of history of its own.</summary>
    internal static JoinLink Make(AtCalendar at, string name, JoinTarget target, LinkReach reach) =>
        Make(
            at,
            Fresh(at.Stores, at.Calendar.Id, name, at.Context.Grants) with
            {
                Code = at.Stores.JoinLinks.FreeCode(name),
                Reach = reach,
            },
            target
        );

    internal static JoinLink Make(AtCalendar at, JoinLink link, JoinTarget target)
    {
        var made = at.Stores.JoinLinks.Add(link, target, at.Person, at.Now);
        (at with { Operation = Operation.AddJoinLink }).Note(
            HistorySubject.JoinLink,
            made.Id.Value,
            $"made the join link {made.Name}"
        );
        return made;
    }

    /// <summary>
    /// A link as it begins: its id, code and target come when it is kept. It lets nobody in who may not open the calendar.
    /// </summary>
    internal static JoinLink Fresh(Stores stores, CalendarId calendar, string name, IEnumerable<Grant> grants)
    {
        var defaults = stores.School.DefaultsOn(stores.Calendars.Get(calendar));
        var open = CalendarInput.OpenToOf(grants) switch
        {
            OpenTo.Anyone => EntryAudience.Anyone,
            OpenTo.Everyone => EntryAudience.School,
            _ => EntryAudience.PeopleOfTheCalendar,
        };
        return new JoinLink(default, calendar, name, default, 0)
        {
            Entry = defaults.LinkEntry,
            Audience = defaults.LinkAudience is { } chosen && chosen > open ? chosen : open,
            // How rooms of the calendar are set goes on with the next one.
            Ticked = stores.JoinLinks.Of(calendar).MaxBy(link => link.Id.Value)?.Ticked ?? [],
            Target = new TargetFacts("", "", "", default, 0, false, false, false, false, null, ""),
        };
    }

    // The room that the form names, or one that the provider makes.
    private async Task<Outcome<T>> WithRoom<T>(
        LinkInput input,
        bool needed,
        Func<JoinTarget?, FormReader, Outcome<T>> keep,
        CancellationToken cancellation
    )
    {
        var entry = new FormReader();
        if (input.Room.MakeRoom)
            return await rooms.WithRoom(
                string.IsNullOrWhiteSpace(input.Name) ? "A room" : input.Name.Trim(),
                "MakeRoom",
                made => keep(made, entry),
                cancellation
            );
        var typed = LinkReader.ReadTarget(entry, input.Room);
        if (typed is null && needed && !entry.Has("Address"))
            entry.Wrong(
                "Address",
                "The room's address is missing. Paste it, or let a room be made where that is offered."
            );
        return keep(typed, entry);
    }

    private static List<Person> MayHost(Stores stores, IEnumerable<Grant> grants)
    {
        // A host can be named before the calendar opens.
        var given = Grant.OnceOpen(grants).ToList();
        return
        [
            .. stores
                .People.Staff([.. given.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group)])
                .Where(one => AccessRules.LevelOf(one.Viewer, given) is >= AccessLevel.Full and < AccessLevel.Editor)
                .Select(one => one.Person),
        ];
    }

    // A door for some lets nobody in whom it cannot know.
    private static JoinLink WithOnly(
        FormReader entry,
        LinkInput input,
        JoinLink link,
        Stores stores,
        IReadOnlyList<Grant> grants
    )
    {
        var only = AudienceReader.Read(
            entry,
            "Only",
            new AudienceInput(input.Audience.Only, input.Audience.OnlyOthers),
            stores,
            grants,
            link.OnlyFor
        );
        if (only is not null && link.Audience == EntryAudience.Anyone)
            entry.Wrong(
                "Only",
                "A door that is open to anyone is not for some only. Choose above that those who enter sign in."
            );
        return link with { OnlyFor = only };
    }

    private static HashSet<PersonId> Ids(IEnumerable<Person> people) => [.. people.Select(person => person.Id)];

    private static string Taken(JoinCode code) =>
        $"{code.Path} is taken, or was once. A short address is never given out twice; choose another.";
}
