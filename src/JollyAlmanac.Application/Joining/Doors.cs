using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.JoinLinks;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Joining;

/// <summary>Whether a visitor may pass a door while it is open.</summary>
public enum EntryDecision
{
    /// <summary>They may.</summary>
    Free,

    /// <summary>They may once they sign in, or give the entry word where there is one.</summary>
    AskSignIn,

    /// <summary>They are signed in, but the link is not for them.</summary>
    NotForYou,
}

/// <summary>Who stands at a door.</summary>
/// <param name="Viewer">Who they are.</param>
/// <param name="Word">The proof that they gave the entry word before; null for none.</param>
public sealed record AtDoor(Viewer Viewer, string? Word = null);

/// <summary>A session as a door speaks of it.</summary>
/// <param name="Session">Where it lies in time.</param>
/// <param name="Title">What it is called, as far as the visitor may know; else its calendar's title.</param>
/// <param name="Number">Its number, as far as the visitor may know.</param>
/// <param name="Place">Its place, as far as the visitor may know.</param>
/// <param name="Note">A note for it, as far as the visitor may know.</param>
/// <param name="Window">When the door is open for it.</param>
public sealed record DoorSession(
    Session Session,
    string Title,
    int? Number,
    string Place,
    string Note,
    EntryWindow Window
)
{
    /// <summary>It is not certain yet that it takes place, as far as the visitor may know.</summary>
    public bool IsTentative { get; init; }
}

/// <summary>What stands at a short address.</summary>
/// <param name="School">The school.</param>
/// <param name="Calendar">The calendar whose look it has: that of the session, else the link's own.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Link">What it shows of the link.</param>
/// <param name="Door">The state of the door.</param>
/// <param name="Sessions">The sessions that the state is about.</param>
/// <param name="Entry">Whether the visitor may pass.</param>
/// <param name="Recorded">What was recorded today and is over; null for nothing.</param>
public sealed record ShortAddress(
    School School,
    Calendar Calendar,
    Instant Now,
    LinkAtDoor Link,
    Door Door,
    SessionsAtDoor Sessions,
    EntryAtDoor Entry,
    RecordedAtDoor? Recorded
);

/// <summary>What a door shows of its link.</summary>
/// <param name="Code">The short address.</param>
/// <param name="Name">What the link is called.</param>
/// <param name="Title">What the class is called, as far as the visitor may know: of a calendar that they may not see, only its link or
/// its school.</param>
/// <param name="LeadsStraightIn">An open door leads straight into the room.</param>
/// <param name="Details">Meeting id, passcode and telephone numbers, where the door is open and the link shows them; else null.</param>
public sealed record LinkAtDoor(
    JoinCode Code,
    string Name,
    string Title,
    bool LeadsStraightIn,
    JoinTarget? Details = null
)
{
    /// <summary>Its hours, where its door is open on class days; else null.</summary>
    public EntryRule.Hours? Hours { get; init; }

    /// <summary>What to do, for whoever enters; empty where the visitor may not know.</summary>
    public string WhatToDo { get; init; } = "";

    /// <summary>Whom to ask where something does not work; empty where the visitor may not know.</summary>
    public string Contact { get; init; } = "";

    /// <summary>How many wait for a host, as far as is known; for hosts.</summary>
    public int Waiting { get; init; }
}

/// <summary>The sessions of a door.</summary>
/// <param name="About">The session that the state is about; null for none.</param>
/// <param name="Open">The sessions that one may enter, several where they overlap.</param>
/// <param name="Next">The next session; null for none.</param>
public sealed record SessionsAtDoor(DoorSession? About, ImmutableArray<DoorSession> Open, DoorSession? Next);

/// <summary>Whether a visitor may pass a door, and by what.</summary>
/// <param name="Decision">Whether they may pass.</param>
/// <param name="HasWord">An entry word opens it as well.</param>
/// <param name="MayHost">They may enter at any time.</param>
/// <param name="IsForSchool">Whoever signs in may pass.</param>
/// <param name="IsGuest">They have a guest link.</param>
/// <param name="IsHidden">Nothing is told of when it is open: they may neither pass nor see its calendar.</param>
public sealed record EntryAtDoor(
    EntryDecision Decision,
    bool HasWord,
    bool MayHost,
    bool IsForSchool,
    bool IsGuest,
    bool IsHidden
);

/// <summary>A session of today that was recorded, and is over.</summary>
/// <param name="Session">The session.</param>
/// <param name="Recordings">What was recorded of it, as far as the visitor may open it.</param>
public sealed record RecordedAtDoor(DoorSession Session, ImmutableArray<Material> Recordings)
{
    /// <summary>There is a recording that asks for a sign-in.</summary>
    public bool AsksForSignIn => Recordings.IsEmpty;
}

/// <summary>What came of going through a door.</summary>
public abstract record EntryResult
{
    private EntryResult() { }

    /// <summary>Through, to that address.</summary>
    public sealed record Through(Uri To) : EntryResult;

    /// <summary>Not now, or not for them; the door's page says why.</summary>
    public sealed record Shut : EntryResult;

    /// <summary>The provider could not; the message is for people.</summary>
    public sealed record Failed(string Message) : EntryResult;
}

/// <summary>
/// Answers at short addresses. What is read of a link holds while it stands the same, so that most answers touch no file.
/// </summary>
public sealed class Doors(AlmanacDatabase database, IClock clock, Secrets secrets, RoomProviders rooms) : IDisposable
{
    private const int MostKnown = 2_000;
    private readonly WaitingPeople waiting = new();

    private Instant Now => clock.GetCurrentInstant();

    private readonly EpochCache<string, KnownDoor> known = new(database.Epoch, MostKnown);

    /// <inheritdoc />
    public void Dispose() => known.Dispose();

    /// <summary>
    /// What stands at a short address; null where nothing does. Where its details are shown, a room that is not there yet is made.
    /// </summary>
    public async Task<ShortAddress?> At(JoinCode code, AtDoor visitor, CancellationToken cancellation = default) =>
        Find(code) is { } door
            ? await WithDetails(Show(door, door.Schedule, visitor, isGuest: false), door, visitor, cancellation)
            : null;

    /// <summary>The same without the details of the room, for a page that shows only whether the door is open.</summary>
    internal ShortAddress? Glance(JoinCode code, AtDoor visitor) =>
        Find(code) is { } door ? Show(door, door.Schedule, visitor, isGuest: false) : null;

    /// <summary>Whether a link stands at a short address.</summary>
    public bool StandsAt(JoinCode code) => Find(code) is not null;

    /// <summary>What stands at a guest link: the door of its one session; null where nothing does.</summary>
    public async Task<ShortAddress?> AtGuest(string token, Viewer viewer, CancellationToken cancellation = default) =>
        Guest(token) is var (door, schedule, _)
            ? await WithDetails(
                Show(door, schedule, new AtDoor(viewer), isGuest: true),
                door,
                new AtDoor(viewer),
                cancellation
            )
            : null;

    /// <summary>
    /// When the answer at a short address to somebody unknown may change by itself, and what it depends on: the same text means the
    /// same page. Null where nothing stands there or the answer depends on who asks.
    /// </summary>
    public string? StateVersionOf(JoinCode code)
    {
        if (
            Known(code)
            is not { Door: { Link: { Audience: EntryAudience.Anyone, OnlyFor: null } } door, State: var state }
        )
            return null;
        var now = clock.GetCurrentInstant();
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{state.StateVersion} {state.School} {now.ToUnixTimeSeconds() / 60} {door.Schedule.At(now).Changes?.ToUnixTimeMilliseconds()}"
        );
    }

    /// <summary>Goes through a door, where it is open and the visitor may.</summary>
    /// <param name="code">The short address.</param>
    /// <param name="visitor">Who.</param>
    /// <param name="session">The key of the session to enter, where several are open; null for the one it is about.</param>
    /// <param name="cancellation">Ends the waiting for the provider.</param>
    public async Task<EntryResult?> Enter(
        JoinCode code,
        AtDoor visitor,
        SessionKey? session,
        CancellationToken cancellation = default
    ) =>
        Find(code) is { } door
            ? await Enter(door, door.Schedule, visitor, session, isGuest: false, cancellation)
            : null;

    /// <summary>Goes through the door of a guest link.</summary>
    public async Task<EntryResult?> EnterAsGuest(
        string token,
        Viewer viewer,
        CancellationToken cancellation = default
    ) =>
        Guest(token) is var (door, schedule, isHost)
            ? await Enter(door, schedule, new AtDoor(viewer), null, isGuest: true, cancellation, isHost)
            : null;

    /// <summary>Enters as host, at any time.</summary>
    /// <param name="code">The short address.</param>
    /// <param name="viewer">Who.</param>
    /// <param name="session">The key of the session; null for the one the door is about.</param>
    /// <param name="name">The host's name, for the room.</param>
    /// <param name="mayMake">A session's own room that is not there yet is made; else null is given where it is to be made first.</param>
    /// <param name="cancellation">Ends the waiting for the provider.</param>
    public async Task<Outcome<Uri?>> EnterAsHost(
        JoinCode code,
        Viewer viewer,
        SessionKey? session,
        string name,
        bool mayMake,
        CancellationToken cancellation = default
    )
    {
        if (Find(code) is not { } door || door.Highest(viewer) == AccessLevel.None)
            return new Outcome<Uri?>.NotFound();
        if (!door.MayHost(viewer) || viewer.LookedAtBy is not null)
            return new Outcome<Uri?>.NotAllowed();
        if (door.Link.CannotBeRead is not null)
            return new Outcome<Uri?>.Refused([
                new Problem("", "The link cannot be read as it is stored. Open it under Join links and save it anew."),
            ]);
        if (door.Link.WithdrawnAt is not null)
            return new Outcome<Uri?>.Refused([
                new Problem("", "The link is turned off. Put it back under Join links first."),
            ]);
        var chosen = door.Schedule.Held.FirstOrDefault(one => session is { } key && one.IsKnownBy(key))
            ?? door.Schedule.At(clock.GetCurrentInstant()) switch
            {
                { Session.IsHeld: true } at => at.Session,
                var at => at.Next,
            };
        try
        {
            if (!mayMake && (IsToBeMade(door, chosen) || IsAwaited(door, chosen)))
                return new Outcome<Uri?>.Done(null);
            var target = await TargetOf(door, chosen, cancellation);
            var entrance = rooms.Of(target.Provider) is { } provider
                ? await rooms.Ask(provider, (one, ends) => one.HostEntranceOf(target.Room, name, ends), cancellation)
                : null;
            NoteHost(door, chosen, viewer.Person!.Value);
            return new Outcome<Uri?>.Done(entrance ?? target.Address);
        }
        catch (RoomProviderException failure)
        {
            return new Outcome<Uri?>.Refused([new Problem("", failure.Message)]);
        }
    }

    /// <summary>Notes that somebody waits at a door for a host, until they have not been heard of for a while.</summary>
    /// <param name="at">The door as they see it.</param>
    /// <param name="token">What their page calls itself; nothing else is known of them.</param>
    public void Waits(ShortAddress at, string token)
    {
        if (at is { Door.State: DoorState.WaitsForHost, Entry: { Decision: EntryDecision.Free, MayHost: false } })
            waiting.Note(at.Link.Code, token, at.Now);
    }

    // A host who goes in opens the door to the class: the first of a session, once.
    private void NoteHost(LinkDoor door, Session? session, PersonId by)
    {
        if (!IsAwaited(door, session))
            return;
        database.Write(
            stores =>
            {
                if (!stores.JoinLinks.AddHostArrival(door.Link.Id, session!.Key, Now))
                    return false;
                stores.History.Add(
                    Now,
                    by,
                    door.Link.Calendar,
                    HistorySubject.JoinLink,
                    door.Link.Id.Value,
                    nameof(NoteHost),
                    $"let the class in by {door.Link.Name} as a host came, {Wording.WithWeekday(session.Day)}",
                    null,
                    null
                );
                return true;
            },
            kept => kept
        );
    }

    // Of a session that goes on, or whose door would be open: one may look for a later one's room beforehand without opening its door.
    private bool IsAwaited(LinkDoor door, Session? session) =>
        session is not null
        && door.HostCame is { } came
        && came(session) is null
        && EntryWindow.Of(door.Link, session) is var window
        && window.Opens <= Now
        && Now < window.Ends;

    /// <summary>
    /// The proof that somebody gave the right entry word, to be kept in a cookie; null where it was wrong or the link asks for none.
    /// </summary>
    public string? ProofOf(JoinCode code, string word)
    {
        if (Find(code) is not { Link.EntryWord.Length: > 0 } door)
            return null;
        var (given, right) = (
            Encoding.UTF8.GetBytes(word.Trim().ToLowerInvariant()),
            Encoding.UTF8.GetBytes(door.Link.EntryWord.ToLowerInvariant())
        );
        return CryptographicOperations.FixedTimeEquals(SHA256.HashData(given), SHA256.HashData(right))
            ? secrets.ProofOf(door.Link)
            : null;
    }

    /// <summary>How many wait and are inside the room of a session; null where no provider tells.</summary>
    internal async Task<RoomNow?> RoomOf(LinkDoor door, Session session, CancellationToken cancellation)
    {
        // Those who wait at the almanac's own door, where it is held for the host.
        if (door.HostCame is not null)
            return IsAwaited(door, session) ? new RoomNow(false, 0, waiting.Count(door.Link.Code, Now)) : null;
        if (rooms.Provider is not { } provider)
            return null;
        var target = database.Read(stores =>
            stores.JoinLinks.TargetOf(door.Link.Id, door.Link.RenewsAfterEach ? session.Key : null)
        );
        try
        {
            return target.Provider == provider.Name
                ? await rooms.Ask(provider, (one, ends) => one.Now(target.Room, ends), cancellation)
                : null;
        }
        catch (RoomProviderException)
        {
            // The page stands without the counts.
            return null;
        }
    }

    internal LinkDoor? Find(JoinCode code) => Known(code)?.Door;

    private sealed record KnownDoor(JoinLinkState State, LinkDoor Door);

    // A link that did not change keeps its door, whatever else was written.
    private KnownDoor? Known(JoinCode code) => known.Get(code.Value, Instant.MinValue, before => database.Read(stores =>
                stores.JoinLinks.StateVersionOf(code) is not { } at ? null
                : before is not null && before.State == at ? before
                : stores.School.Find() is { } school
                    ? new KnownDoor(at, LinkDoor.Read(stores, school, new JoinLinkId(at.Id), at))
                : null
            )
                is { } door
                ? (door, Instant.MaxValue, 1)
                : null);

    private (LinkDoor Door, DoorSchedule Schedule, bool IsHost)? Guest(string token)
    {
        if (token.Length != TokenText.Length)
            return null;
        var found = database.Read(stores =>
            stores.JoinLinks.FindGuest(Secrets.HashOf(token)) is { IsRevoked: false } one
                ? ((GuestLink Guest, JoinCode Code)?)(one, stores.JoinLinks.Get(one.Link).Code)
                : null
        );
        if (found is not var (guest, code) || Find(code) is not { } door)
            return null;
        // The door of those sessions alone; what others the link has is not the guest's to know.
        var sessions = door
            .Series.Where(series => series.Id == guest.Session.Series)
            .SelectMany(series => Planner.PlanOf(series, door.School.Time).Sessions)
            .Where(guest.IsFor);
        return (
            door,
            new DoorSchedule(
                door.Link with
                {
                    Entry = door.Link.Entry is EntryRule.Always or EntryRule.Hours
                        ? new EntryRule.AllDay()
                        : door.Link.Entry,
                },
                sessions,
                door.School.Time.Zone,
                hostCame: door.HostCame
            ),
            guest.IsHost
        );
    }

    private async Task<EntryResult> Enter(
        LinkDoor door,
        DoorSchedule schedule,
        AtDoor visitor,
        SessionKey? session,
        bool isGuest,
        CancellationToken cancellation,
        bool isHost = false
    )
    {
        var at = schedule.At(clock.GetCurrentInstant());
        // Who looks as somebody else sees the door, and does not go through it. A guest who leads the session comes before the class.
        if (
            !(
                at.IsOpen
                || (
                    isHost && at.State is (DoorState.OpensLater or DoorState.ShutToLateComers or DoorState.WaitsForHost)
                )
            )
            || DecisionOf(door, visitor, isGuest) != EntryDecision.Free
            || visitor.Viewer.LookedAtBy is not null
        )
            return new EntryResult.Shut();
        var chosen = session is null
            ? at.Session
            : at.Open.Select(window => window.Session).FirstOrDefault(one => one.IsKnownBy(session.Value));
        if (session is not null && chosen is null)
            return new EntryResult.Shut();
        try
        {
            var target = await TargetOf(door, chosen, cancellation);
            var entrance = rooms.Of(target.Provider) is { } provider
                ? await rooms.Ask(
                    provider,
                    (one, ends) =>
                        isHost ? one.HostEntranceOf(target.Room, GuestHost, ends) : one.EntranceOf(target.Room, ends),
                    cancellation
                )
                : null;
            if (isHost)
                NoteHost(door, chosen, door.Owner.Owner);
            return new EntryResult.Through(entrance ?? target.Address);
        }
        catch (RoomProviderException failure)
        {
            return new EntryResult.Failed(failure.Message);
        }
    }

    // What a room calls a host who has no account here.
    private const string GuestHost = "Guest";

    private bool GivesRooms(LinkDoor door, Session? session) =>
        door.Link.RenewsAfterEach && session is not null && rooms.Provider is not null;

    private bool IsToBeMade(LinkDoor door, Session? session) =>
        GivesRooms(door, session) && database.Read(stores => OwnRoom(stores, door.Link, session!)) is null;

    // With renewal, each session has a room of its own: it is made when the first one comes, host or visitor.
    private async Task<JoinTarget> TargetOf(LinkDoor door, Session? session, CancellationToken cancellation)
    {
        var link = door.Link;
        if (!GivesRooms(door, session))
        {
            if (link.RoomsInTurn.Length > 0 && session is not null)
                return Readable(
                    database.Read(stores => OwnRoom(stores, link, session))
                        ?? database.Write(
                            stores =>
                                OwnRoom(stores, link, session)
                                ?? stores.JoinLinks.TakeTurn(
                                    link.Id,
                                    session.Key,
                                    door.Owner.Owner,
                                    clock.GetCurrentInstant()
                                ),
                            _ => true
                        )
                );
            var shared = database.Read(stores => stores.JoinLinks.TargetOf(link.Id));
            return Readable(shared);
        }
        if (database.Read(stores => OwnRoom(stores, link, session!)) is { } there)
            return there;
        var target = await rooms.Make(
            rooms.Provider!,
            $"{link.Name}, {Wording.WithWeekday(session!.Day)}",
            cancellation
        );
        var kept = database.Write(
            stores =>
            {
                if (OwnRoom(stores, link, session!) is { } faster)
                    return faster;
                stores.JoinLinks.AddTarget(link.Id, target, door.Owner.Owner, clock.GetCurrentInstant(), session!.Key);
                return target;
            },
            _ => true
        );
        // Two came at once: the room that lost is not needed.
        if (kept.Room != target.Room)
            await rooms.Retire(rooms.Provider!, target.Room, cancellation);
        return kept;
    }

    private static JoinTarget Readable(JoinTarget target) =>
        target.IsReadable
            ? target
            : throw new RoomProviderException(
                "The address of the room cannot be read as it is stored. Whoever keeps the link can paste it again under Join links."
            );

    private static JoinTarget? OwnRoom(Stores stores, JoinLink link, Session session) =>
        stores.JoinLinks.HasOwnRoom(link.Id, session.Key, out var isClosed) && !isClosed
            ? stores.JoinLinks.TargetOf(link.Id, session.Key)
            : null;

    private EntryDecision DecisionOf(LinkDoor door, AtDoor visitor, bool isGuest)
    {
        if (
            isGuest
            || door.MayHost(visitor.Viewer)
            || AccessRules.Passes(
                door.Link.Audience,
                door.Link.OnlyFor,
                visitor.Viewer,
                door.Highest(visitor.Viewer),
                door.Link.Calendar
            )
        )
            return EntryDecision.Free;
        if (
            visitor.Word is { } proof
            && door.Link.EntryWord.Length > 0
            && CryptographicOperations.FixedTimeEquals(
                Encoding.UTF8.GetBytes(proof),
                Encoding.UTF8.GetBytes(secrets.ProofOf(door.Link))
            )
        )
            return EntryDecision.Free;
        return visitor.Viewer.Person is null || door.Link.EntryWord.Length > 0
            ? EntryDecision.AskSignIn
            : EntryDecision.NotForYou;
    }

    private ShortAddress Show(LinkDoor door, DoorSchedule schedule, AtDoor visitor, bool isGuest)
    {
        var now = clock.GetCurrentInstant();
        var (at, entryDecision) = (schedule.At(now), DecisionOf(door, visitor, isGuest));
        // Who may not see a calendar reads what the link is called once they pass its door, and before that nothing of it.
        string Called(AccessLevel level, Calendar calendar) =>
            isGuest || level > AccessLevel.None ? calendar.Title
            : entryDecision == EntryDecision.Free ? door.Link.Name
            : $"A class of {door.School.Name}";
        string TitleOf(Session? session) =>
            session is null
                ? Called(door.LevelOf(visitor.Viewer), door.Owner)
                : Called(door.LevelOn(session, visitor.Viewer), door.CalendarOf(session));
        DoorSession? About(Session? session) =>
            session is null ? null : Told(door, visitor.Viewer, session, isGuest, TitleOf(session));
        var subject = at.Session ?? at.Next;
        var isHidden =
            entryDecision != EntryDecision.Free
            && (subject is null ? door.LevelOf(visitor.Viewer) : door.LevelOn(subject, visitor.Viewer))
                == AccessLevel.None;
        // What was recorded takes the place of the way in: of the session that has ended today, or whose meeting a host has ended.
        var over = at.State is DoorState.ShutByHand && at.Session is { } ended ? ended : schedule.LastOver(now);
        var recordings = over is null
            ? []
            : database
                .Read(stores => stores.Materials.Of(over.Of.Calendar))
                .Where(material =>
                    material.IsRecording
                    && material.ForSession is not null
                    && material.BelongsTo(over)
                    && material.IsReleased(over, now, door.School.Time.Zone)
                )
                .ToList();
        var open = over is null
            ? []
            : Redaction
                .Show(
                    over,
                    door.LevelOn(over, visitor.Viewer),
                    visitor.Viewer.Person is null ? ShowChoices.Anyone : ShowChoices.SignedIn,
                    new MaterialsAt(new MaterialsOf(recordings), now, door.School.Time.Zone),
                    null,
                    visitor.Viewer
                )
                ?.Materials
                ?? [];
        return new ShortAddress(
            door.School,
            subject is null ? door.Owner : door.CalendarOf(subject),
            now,
            new LinkAtDoor(door.Link.Code, door.Link.Name, TitleOf(subject), !door.Link.ShowsDetails)
            {
                Hours = door.Link.Entry as EntryRule.Hours,
                WhatToDo = isHidden ? "" : door.Link.WhatToDo,
                Contact = isHidden ? "" : (subject is null ? door.Owner : door.CalendarOf(subject)).Contact,
                Waiting = !isGuest && door.MayHost(visitor.Viewer) ? waiting.Count(door.Link.Code, now) : 0,
            },
            at,
            new SessionsAtDoor(
                About(at.Session),
                [.. at.Open.Select(window => About(window.Session)!)],
                About(at.Next)
            ),
            new EntryAtDoor(
                entryDecision,
                door.Link.EntryWord.Length > 0 && entryDecision == EntryDecision.AskSignIn,
                !isGuest && door.MayHost(visitor.Viewer),
                door.Link.Audience == EntryAudience.School,
                isGuest,
                isHidden
            ),
            recordings.Count > 0 ? new RecordedAtDoor(About(over)!, open) : null
        );
    }

    private async Task<ShortAddress> WithDetails(
        ShortAddress at,
        LinkDoor door,
        AtDoor visitor,
        CancellationToken cancellation
    )
    {
        if (
            !at.Door.IsOpen
            || at.Entry.Decision != EntryDecision.Free
            || !door.Link.ShowsDetails
            || visitor.Viewer.LookedAtBy is not null
        )
            return at;
        try
        {
            return at with { Link = at.Link with { Details = await TargetOf(door, at.Door.Session, cancellation) } };
        }
        catch (RoomProviderException)
        {
            // The page stands without them where the provider cannot make the room; going in says why.
            return at;
        }
    }

    // Through the one redaction, as a page of the calendar would show it; to a guest as to somebody who may see outlines.
    private static DoorSession Told(LinkDoor door, Viewer viewer, Session session, bool isGuest, string called)
    {
        var level = door.LevelOn(session, viewer);
        var shown = Redaction.Show(
            session,
            isGuest && level < AccessLevel.Outline ? AccessLevel.Outline : level,
            ShowChoices.SignedIn,
            MaterialsAt.None,
            null,
            viewer
        );
        var window = door.Schedule.WindowOf(session);
        return shown is null or { IsBusyOnly: true }
            ? new DoorSession(session, called, null, "", "", window)
            : new DoorSession(session, shown.Title, shown.Number, shown.Place, shown.Note, window)
            {
                IsTentative = session.IsTentative,
            };
    }
}
