using System.Collections.Immutable;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Doors;

/// <summary>What a visitor finds at a short address.</summary>
public enum DoorState
{
    /// <summary>The link is turned off.</summary>
    Withdrawn,

    /// <summary>One may enter.</summary>
    Open,

    /// <summary>It would be open, and opens once a host is in.</summary>
    WaitsForHost,

    /// <summary>A session of today is to come.</summary>
    OpensLater,

    /// <summary>The session goes on, the door is closed to late arrivals.</summary>
    ShutToLateComers,

    /// <summary>Somebody shut it by hand.</summary>
    ShutByHand,

    /// <summary>Today's last session has ended.</summary>
    Over,

    /// <summary>Today's session is cancelled.</summary>
    Cancelled,

    /// <summary>Nothing is scheduled today.</summary>
    NothingScheduled,
}

/// <summary>The state of a door at an instant.</summary>
/// <param name="State">What a visitor finds.</param>
/// <param name="Session">The session it is about: going on, cancelled, over, or next today; null where there is none.</param>
/// <param name="Open">The windows that are open; several where sessions overlap on one link.</param>
/// <param name="Next">The next held session after <paramref name="Session"/>.</param>
/// <param name="Changes">When the answer may change by itself; null for never.</param>
/// <param name="IsByHand">It is so because somebody opened or shut it by hand.</param>
public sealed record Door(
    DoorState State,
    Session? Session,
    ImmutableArray<EntryWindow> Open,
    Session? Next,
    Instant? Changes,
    bool IsByHand = false
)
{
    /// <summary>While it is open: when it shuts, over all windows that follow without a gap; null where it does not.</summary>
    public Instant? OpenUntil { get; init; }

    /// <summary>Whether one may enter.</summary>
    public bool IsOpen => State == DoorState.Open;
}

/// <summary>
/// All windows of a link, laid out once; then any instant is answered by one pass over them. A session that was moved or
/// cancelled after somebody held its door open takes that hand with it.
/// </summary>
public sealed class DoorSchedule
{
    private readonly EntryWindow[] windows;
    private readonly Session[] cancelled;
    private readonly DateTimeZone zone;
    private readonly JoinLink link;
    private readonly ManualOverride? hand;
    private readonly bool isAlways,
        isWithdrawn;
    private readonly Predicate<LocalDate> isClassDay;
    private readonly Func<Session, Instant?>? hostCame;

    /// <summary>Lays out the windows.</summary>
    /// <param name="link">The link.</param>
    /// <param name="sessions">All sessions that are joined by it, of every series, told or not, in any order.</param>
    /// <param name="zone">The school's zone: where its days begin.</param>
    /// <param name="hostCame">
    /// For a link that is held for its host: when one first came to a session, null where none has. Null where no door is held.
    /// </param>
    /// <param name="isClassDay">On which days a door with hours is open; null where it has none: on none.</param>
    public DoorSchedule(
        JoinLink link,
        IEnumerable<Session> sessions,
        DateTimeZone zone,
        Predicate<LocalDate>? isClassDay = null,
        Func<Session, Instant?>? hostCame = null
    )
    {
        this.hostCame = link.IsHeldForHost ? hostCame ?? (_ => null) : null;
        this.isClassDay = isClassDay ?? (_ => false);
        var told = sessions.Where(session => session.IsVisible).ToList();
        windows =
        [
            .. told.Where(session => session.IsHeld)
                .Select(session => WithHost(EntryWindow.Of(link, session)))
                .OrderBy(window => window.Starts)
                .ThenBy(window => window.Opens),
        ];
        cancelled = [.. told.Where(session => session.IsCancelled).OrderBy(session => session.StartsAt)];
        (this.link, this.zone) = (link, zone);
        (isAlways, isWithdrawn) = (link.Entry is EntryRule.Always, link.LeadsNowhere);
        hand = Bound(link.Hand);
    }

    // A class that waited for its host is not late: its minutes count from when the host came, and until then it may wait to the end.
    private EntryWindow WithHost(EntryWindow window)
    {
        if (hostCame is not { } came || window.Shuts >= window.Ends)
            return window;
        return came(window.Session) is not { } at ? window with { Shuts = window.Ends }
            : at <= window.Starts ? window
            : window with { Shuts = Instant.Min(at + (window.Shuts - window.Starts), window.Ends) };
    }

    /// <summary>The window of a session that is joined by the link.</summary>
    public EntryWindow WindowOf(Session session) => WithHost(EntryWindow.Of(link, session));

    /// <summary>The windows of held sessions, by start.</summary>
    public IReadOnlyList<EntryWindow> Windows => windows;

    /// <summary>
    /// The last day on which the room behind the link can be used; null without a limit, or while fewer sessions than the limit are
    /// planned.
    /// </summary>
    public LocalDate? LastDay =>
        link.Reach switch
        {
            LinkReach.Until until => until.Day,
            LinkReach.Days days => link.Target.SetAt.InZone(zone).Date.PlusDays(days.Count),
            LinkReach.Sessions sessions => Held.Where(session => session.EndsAt > link.Target.SetAt)
                .Skip(sessions.Count - 1)
                .Select(session => (LocalDate?)session.StartAtSchool.Date)
                .FirstOrDefault(),
            _ => null,
        };

    /// <summary>The last day on which the room's passcode is as young as the school wants it; null where that is no matter.</summary>
    /// <param name="days">How many days a passcode may be in use; null for as long as one likes.</param>
    /// <returns>Null also where there is no passcode, and where a provider makes the room and answers for it.</returns>
    public LocalDate? PasscodeLastDay(int? days) =>
        days is { } count
        && link.Target is { Provider.Length: 0 } target
        && (target.HasPasscode || target.HasPasscodeInside)
            ? target.SetAt.InZone(zone).Date.PlusDays(count)
            : null;

    /// <summary>The held sessions, by start.</summary>
    public IEnumerable<Session> Held => windows.Select(window => window.Session);

    /// <summary>The state at an instant, by one pass over the windows.</summary>
    /// <param name="now">Any instant, of the past or the future; "today" is its day in the school's zone.</param>
    /// <returns>
    /// The state, which holds up to, not with, <see cref="Door.Changes"/>. Windows are half open: at the very instant at which a door
    /// shuts it is shut. A withdrawn link is withdrawn whatever its windows say, and a hand goes before the rule.
    /// </returns>
    public Door At(Instant now)
    {
        if (isWithdrawn)
            return new Door(DoorState.Withdrawn, null, [], null, null);
        var opensNext = (Instant?)null;
        Session? on = null,
            next = null,
            over = null;
        ImmutableArray<EntryWindow>.Builder? open = null;
        EntryWindow? waits = null;
        Instant? shutsNext = null;
        foreach (ref readonly var window in windows.AsSpan())
        {
            if (window.Opens > now && (opensNext is null || window.Opens < opensNext))
                opensNext = window.Opens;
            if (window.Holds(now) && hostCame is not null && hostCame(window.Session) is null)
            {
                waits ??= window;
            }
            else if (window.Holds(now))
            {
                (open ??= ImmutableArray.CreateBuilder<EntryWindow>()).Add(window);
                if (shutsNext is null || window.Shuts < shutsNext)
                    shutsNext = window.Shuts;
            }

            if (window.Ends <= now)
                over = window.Session;
            else if (window.Opens <= now || window.Starts <= now)
                on ??= window.Session;
            else
                next ??= window.Session;
        }

        if (hand is not null && hand.From <= now && now < hand.Until)
            return hand.IsOpen
                ? new Door(
                    DoorState.Open,
                    on ?? next,
                    open?.ToImmutable() ?? [],
                    on is null ? Other(next) : next,
                    Min(hand.Until, opensNext),
                    IsByHand: true
                )
                {
                    OpenUntil = hand.Until == Instant.MaxValue ? null : ShutsFrom(hand.Until),
                }
                : new Door(
                    DoorState.ShutByHand,
                    on,
                    [],
                    next,
                    hand.Until == Instant.MaxValue ? null : hand.Until,
                    IsByHand: true
                );
        var hours = HoursAt(now);
        if (hours is { IsOpen: true, Changes: var closes } && (shutsNext is null || closes > shutsNext))
            shutsNext = closes;
        if (open is not null || isAlways || hours is { IsOpen: true })
            return new Door(
                DoorState.Open,
                open?[^1].Session ?? on,
                open?.ToImmutable() ?? [],
                next,
                Min(shutsNext, opensNext)
            )
            {
                OpenUntil = isAlways ? null : ShutsFrom(shutsNext!.Value),
            };
        opensNext = Min(opensNext, hours?.Changes);
        if (waits is { } held)
            return new Door(DoorState.WaitsForHost, held.Session, [], next, Min(held.Shuts, opensNext));
        if (on is not null)
            return new Door(DoorState.ShutToLateComers, on, [], next, Min(on.EndsAt, opensNext));
        return Quiet(now, next, over, opensNext);
    }

    // Whether a door with hours is open by them, and when that changes: at its next opening or shutting, or with the day.
    private (bool IsOpen, Instant Changes)? HoursAt(Instant now)
    {
        if (link.Entry is not EntryRule.Hours hours)
            return null;
        var today = now.InZone(zone).Date;
        var midnight = zone.AtStartOfDay(today.PlusDays(1)).ToInstant();
        if (!isClassDay(today))
            return (false, midnight);
        var (opens, shuts) = (
            WallClock.InstantOf(today + hours.From, zone),
            WallClock.InstantOf(today + hours.To, zone)
        );
        return now < opens ? (false, opens)
            : now < shuts ? (true, shuts)
            : (false, midnight);
    }

    // Where a window opens before the door would shut, the door shuts with it.
    private Instant ShutsFrom(Instant until)
    {
        foreach (ref readonly var window in windows.AsSpan())
            if (window.Opens <= until && window.Shuts > until)
                until = window.Shuts;
        return until;
    }

    /// <summary>The last held session that has ended on the day of an instant; null where there is none.</summary>
    public Session? LastOver(Instant now)
    {
        var dawn = zone.AtStartOfDay(now.InZone(zone).Date).ToInstant();
        return Array.FindLast(windows, window => window.Ends <= now && window.Ends > dawn).Session;
    }

    /// <summary>
    /// The hand that opens the door now: for the session of today until its window ends, or its end once it has begun; without one, for an
    /// hour.
    /// </summary>
    public ManualOverride OpenedAt(Instant now)
    {
        var subject = SubjectAt(now);
        if (subject is not { } window)
            return new ManualOverride(true, now, isAlways ? Instant.MaxValue : now + Duration.FromHours(1), null);
        return new ManualOverride(true, now, now < window.Opens ? window.Shuts : window.Ends, window.Session.Key);
    }

    /// <summary>The hand that shuts the door now: to the end of what is going on, but never over the opening of the next session.</summary>
    public ManualOverride ShutAt(Instant now)
    {
        if (isAlways)
            return new ManualOverride(false, now, Instant.MaxValue, null);
        var subject = SubjectAt(now);
        var until =
            subject is { } window ? Instant.Max(window.Ends, window.Shuts)
            : HoursAt(now) is { IsOpen: true, Changes: var closes } ? closes
            : now + Duration.FromHours(1);
        if (hand is { IsOpen: true } held && held.Until > until)
            until = held.Until;
        var next = windows
            .Where(one => one.Opens > now && !ReferenceEquals(one.Session, subject?.Session))
            .Select(one => (Instant?)one.Opens)
            .FirstOrDefault();
        return new ManualOverride(false, now, next is { } opens && opens < until ? opens : until, subject?.Session.Key);
    }

    // The session going on, or the next one of today.
    private EntryWindow? SubjectAt(Instant now)
    {
        var midnight = zone.AtStartOfDay(now.InZone(zone).Date.PlusDays(1)).ToInstant();
        foreach (var window in windows)
            if (window.Ends > now && window.Opens < midnight)
                return window;
        return null;
    }

    private Door Quiet(Instant now, Session? next, Session? over, Instant? opensNext)
    {
        var today = now.InZone(zone).Date;
        var (begins, ends) = (zone.AtStartOfDay(today).ToInstant(), zone.AtStartOfDay(today.PlusDays(1)).ToInstant());
        var off = Array.Find(cancelled, session => session.EndsAt > now && session.StartsAt < ends);
        if (off is not null && (next is null || off.StartsAt <= next.StartsAt))
            return new Door(DoorState.Cancelled, off, [], next, Min(Min(off.EndsAt, opensNext), ends));
        if (next is not null && next.StartsAt < ends)
            return new Door(DoorState.OpensLater, next, [], Other(next), opensNext);
        if (over is not null && over.EndsAt > begins)
            return new Door(DoorState.Over, over, [], next, Min(ends, opensNext));
        var told = next is null ? null : (Instant?)next.StartsAt;
        if (
            Array.Find(cancelled, session => session.StartsAt > now) is { } later
            && (told is null || later.StartsAt < told)
        )
            told = later.StartsAt;
        var dawn = told is { } starts ? zone.AtStartOfDay(starts.InZone(zone).Date).ToInstant() : (Instant?)null;
        return new Door(DoorState.NothingScheduled, null, [], next, Min(dawn, opensNext));
    }

    private Session? Other(Session? than)
    {
        var at = than is null ? -1 : Array.FindIndex(windows, window => ReferenceEquals(window.Session, than));
        return at < 0 || at + 1 >= windows.Length ? null : windows[at + 1].Session;
    }

    // Held open for a session that is gone or cancelled by now: void. For one that ends earlier now: until then.
    private ManualOverride? Bound(ManualOverride? given)
    {
        if (given is not { IsOpen: true, Session: { } key })
            return given;
        var window = Array.Find(windows, one => one.Session.IsKnownBy(key));
        return window.Session is null ? null : given with { Until = Instant.Min(given.Until, window.Ends) };
    }

    private static Instant? Min(Instant? one, Instant? other) =>
        one is null ? other
        : other is null ? one
        : Instant.Min(one.Value, other.Value);
}
