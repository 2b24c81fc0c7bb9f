using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>What somebody does to a door by hand.</summary>
public enum DoorDeed
{
    /// <summary>Open it, or keep it open to the end.</summary>
    Open,
    /// <summary>Shut it.</summary>
    Shut,
    /// <summary>Let it keep its rule again.</summary>
    ByRule,
}

/// <summary>A guest link as its keepers see it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Token">The last part of its address.</param>
/// <param name="Session">Its session; null where that is gone.</param>
/// <param name="IsOver">It has died: its session has ended, is gone, or somebody ended it.</param>
public sealed record KeptGuest(long Id, string Token, Session? Session, bool IsOver);

/// <summary>Works the door of a link: opens and shuts it by hand, lets guests in for one session.</summary>
public sealed class WorkDoor(AlmanacDatabase database, IClock clock, Secrets secrets, KeepLinks keepLinks)
{
    /// <summary>Opens, shuts, or lets go of a door.</summary>
    /// <returns>What is so now, in a sentence.</returns>
    public Outcome<string> Do(Viewer viewer, JoinCode code, DoorDeed deed, int version) => database.Write<Outcome<string>>(stores =>
    {
        if (KeepLinks.Find<string>(stores, viewer, code, Deed.WorkDoor, out var door) is { } refused) return refused;
        var now = clock.GetCurrentInstant();
        if (door.Link.CannotBeRead is not null) return new Outcome<string>.Refused([new Problem("", "The link cannot be read as it is stored, so its door is shut. Open it under Change and save it anew.")]);
        if (door.Link.WithdrawnAt is not null) return new Outcome<string>.Refused([new Problem("", "The link is withdrawn, so it has no door. Put it back first.")]);
        var hand = deed switch { DoorDeed.Open => door.Schedule.OpenedAt(now), DoorDeed.Shut => door.Schedule.ShutAt(now), _ => null };
        var (act, summary) = (hand, Until(hand, door.School)) switch
        {
            (null, _) => ("ReleaseDoor", $"let the door of {door.Link.Name} keep its rule again"),
            ({ IsOpen: true }, var until) => ("OpenDoor", $"opened the door of {door.Link.Name}{until}"),
            (_, var until) => ("ShutDoor", $"shut the door of {door.Link.Name}{until}"),
        };
        return keepLinks.Keep(stores, door, door.Link with { Hand = hand }, version, viewer.Person!.Value, act, summary).Select(_ => Wording.Capital(summary) + ".");
    }, outcome => outcome.IsDone);

    /// <summary>Makes a guest link for one session, the next one where none is named. It ends with its session.</summary>
    public Outcome<KeptGuest> MakeGuest(Viewer viewer, JoinCode code, SessionKey? session) => database.Write<Outcome<KeptGuest>>(stores =>
    {
        if (KeepLinks.Find<KeptGuest>(stores, viewer, code, Deed.WorkDoor, out var door) is { } refused) return refused;
        var now = clock.GetCurrentInstant();
        var coming = door.Schedule.Held.Where(one => one.EndsAt > now).ToList();
        var chosen = session is not { } key ? coming.FirstOrDefault() : coming.Find(one => one.IsKnownBy(key));
        if (chosen is null) return new Outcome<KeptGuest>.Refused([new Problem("Session", "There is no such session to come. Choose one from the list.")]);
        var id = stores.JoinLinks.AddGuest(door.Link.Id, chosen.Key, viewer.Person!.Value, now);
        var token = secrets.TokenOfGuest(id);
        stores.JoinLinks.SetGuestToken(id, Secrets.HashOf(token));
        KeepLinks.Note(stores, door.Link, viewer.Person.Value, now, "MakeGuestLink", $"made a guest link to {door.Link.Name} for {chosen.Title}, {Wording.WithWeekday(chosen.StartAtSchool.Date)}");
        return new Outcome<KeptGuest>.Done(new KeptGuest(id, token, chosen, false));
    }, outcome => outcome.IsDone);

    /// <summary>Ends a guest link before its time.</summary>
    public Outcome<bool> EndGuest(Viewer viewer, JoinCode code, long id) => database.Write<Outcome<bool>>(stores =>
    {
        if (KeepLinks.Find<bool>(stores, viewer, code, Deed.WorkDoor, out var door) is { } refused) return refused;
        var now = clock.GetCurrentInstant();
        if (!stores.JoinLinks.RevokeGuest(door.Link.Id, id, now)) return new Outcome<bool>.NotFound();
        KeepLinks.Note(stores, door.Link, viewer.Person!.Value, now, "EndGuestLink", $"ended a guest link to {door.Link.Name}");
        return new Outcome<bool>.Done(true);
    }, outcome => outcome.IsDone);

    internal IReadOnlyList<KeptGuest> GuestsOf(Stores stores, LinkDoor door, Instant now) => [.. stores.JoinLinks.GuestsOf(door.Link.Id).Select(guest =>
    {
        var session = door.Schedule.Held.FirstOrDefault(one => one.IsKnownBy(guest.Session));
        return new KeptGuest(guest.Id, secrets.TokenOfGuest(guest.Id), session, guest.IsRevoked || session is null || session.EndsAt <= now);
    })];

    private static string Until(DoorHand? hand, School school) =>
        hand is null ? "" : hand.Until == Instant.MaxValue ? "" : $" until {Wording.Of(hand.Until.InZone(school.Time.Zone).TimeOfDay)}";
}
