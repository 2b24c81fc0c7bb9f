using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>What somebody does to a door by hand.</summary>
public enum DoorOperation
{
    /// <summary>Open it, or keep it open to the end.</summary>
    Open,

    /// <summary>Shut it.</summary>
    Shut,

    /// <summary>Let it back to its usual times.</summary>
    ByRule,
}

/// <summary>A guest link as its keepers see it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Token">The last part of its address.</param>
/// <param name="Session">Its session, of several the next one; null where that is gone.</param>
/// <param name="IsOver">It has died: its session has ended, is gone, or somebody ended it.</param>
/// <param name="IsHost">Whoever has it enters as host.</param>
public sealed record GuestLinkItem(long Id, string Token, Session? Session, bool IsOver, bool IsHost)
{
    /// <summary>The last of its sessions, where it is for several; else null.</summary>
    public Session? Last { get; init; }
}

/// <summary>Works the door of a link: opens and shuts it by hand, lets guests in for one session.</summary>
public sealed class OperateDoor(Gate gate, Secrets secrets)
{
    /// <summary>The most days that a guest comes for: a school year.</summary>
    public const int MostGuestDays = 366;

    /// <summary>Opens, shuts, or lets go of a door.</summary>
    /// <returns>What is so now, in a sentence.</returns>
    public Outcome<string> Do(Viewer viewer, JoinCode code, DoorOperation deed, int version)
    {
        var operation = deed switch
        {
            DoorOperation.Open => Operation.OpenDoor,
            DoorOperation.Shut => Operation.ShutDoor,
            _ => Operation.ReleaseDoor,
        };
        return gate.Write<string>(operation, viewer, code, version, at =>
        {
            if (at.Link.CannotBeRead is not null)
                return Outcome.Because<string>(
                    "",
                    "The link cannot be read as it is stored, so its door is closed. Open it under Edit join link and save it anew."
                );
            if (at.Link.WithdrawnAt is not null)
                return Outcome.Because<string>("", "The link is turned off, so it has no door. Put it back first.");
            var hand = deed switch
            {
                DoorOperation.Open => at.Door.Schedule.OpenedAt(at.Now),
                DoorOperation.Shut => at.Door.Schedule.ShutAt(at.Now),
                _ => null,
            };
            var summary = hand switch
            {
                null => $"put the door of {at.Link.Name} back to its usual times",
                { IsOpen: true } => $"opened the door of {at.Link.Name}{Until(hand, at.School)}",
                _ => $"closed the door of {at.Link.Name}{Until(hand, at.School)}",
            };
            // What is open by its rule already needs no hand.
            return (hand is null ? at with { Operation = Operation.ReleaseDoor } : at)
                .Store(at.Link with { Hand = hand }, summary)
                .Select(_ => Wording.Capital(summary) + ".");
        });
    }

    /// <summary>
    /// Makes a guest link for one session, the next one where none is named, or for those of its series until a day. It ends with them.
    /// </summary>
    /// <param name="viewer">Who.</param>
    /// <param name="code">The link.</param>
    /// <param name="session">The session; null for the next.</param>
    /// <param name="isHost">The guest leads the session: they enter as host, also before the class does, and let others in.</param>
    /// <param name="until">The last day of further sessions of the same series, ISO; empty for the one.</param>
    public Outcome<GuestLinkItem> MakeGuest(
        Viewer viewer,
        JoinCode code,
        SessionKey? session,
        bool isHost = false,
        string? until = ""
    ) => gate.Write<GuestLinkItem>(Operation.MakeGuestLink, viewer, code, at =>
        {
            var coming = at.Door.Schedule.Held.Where(one => one.EndsAt > at.Now).ToList();
            var chosen = session is not { } key ? coming.FirstOrDefault() : coming.Find(one => one.IsKnownBy(key));
            if (chosen is null)
                return Outcome.Because<GuestLinkItem>(
                    "Session",
                    "There is no such session to come. Choose one from the list."
                );
            var entry = new FormReader();
            var last = string.IsNullOrWhiteSpace(until) ? null : entry.Day("Until", until, "The last day");
            if (last < chosen.Day)
                entry.Wrong(
                    "Until",
                    "The last day is before the session. Choose a later one, or leave it empty for one session."
                );
            if (last > chosen.Day.PlusDays(MostGuestDays))
                entry.Wrong(
                    "Until",
                    $"A guest comes for {MostGuestDays} days at most. Choose an earlier day; make another link then."
                );
            if (!entry.IsGood)
                return new Outcome<GuestLinkItem>.Refused(entry.Problems);
            var id = at.Stores.JoinLinks.AddGuest(at.Link.Id, chosen.Key, isHost, last, at.Person, at.Now);
            var token = secrets.TokenOfGuest(id);
            at.Stores.JoinLinks.SetGuestToken(id, Secrets.HashOf(token));
            at.Note(
                $"made a guest link{(isHost ? " for a host" : "")} to {at.Link.Name} for {LinkDoor.NameOf(chosen)}, {Wording.WithWeekday(chosen.StartAtSchool.Date)}{(last is { } day ? $", and all until {Wording.WithWeekday(day)}" : "")}"
            );
            return new Outcome<GuestLinkItem>.Done(GuestsOf(at.Stores, at.Door, at.Now).First(one => one.Id == id));
        });

    /// <summary>Ends a guest link before its time.</summary>
    public Outcome<bool> EndGuest(Viewer viewer, JoinCode code, long id) =>
        gate.Write<bool>(Operation.EndGuestLink, viewer, code, at =>
        {
            if (!at.Stores.JoinLinks.RevokeGuest(at.Link.Id, id, at.Now))
                return new Outcome<bool>.NotFound();
            at.Note($"ended a guest link to {at.Link.Name}");
            return new Outcome<bool>.Done(true);
        });

    internal IReadOnlyList<GuestLinkItem> GuestsOf(Stores stores, LinkDoor door, Instant now) =>
        [
            .. stores
                .JoinLinks.GuestsOf(door.Link.Id)
                .Select(guest =>
                {
                    var sessions = door.Schedule.Held.Where(guest.IsFor).ToList();
                    var next = sessions.Find(one => one.EndsAt > now);
                    return new GuestLinkItem(
                        guest.Id,
                        secrets.TokenOfGuest(guest.Id),
                        next ?? sessions.LastOrDefault(),
                        guest.IsRevoked || next is null,
                        guest.IsHost
                    )
                    {
                        Last = sessions.Count > 1 ? sessions[^1] : null,
                    };
                }),
        ];

    private static string Until(ManualOverride hand, School school) =>
        hand.Until == Instant.MaxValue ? "" : $" until {Wording.Of(hand.Until.InZone(school.Time.Zone).TimeOfDay)}";
}
