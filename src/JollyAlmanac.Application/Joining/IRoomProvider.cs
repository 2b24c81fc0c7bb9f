using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>A room that a provider made.</summary>
/// <param name="Key">What the provider knows it by.</param>
/// <param name="Address">The address at which people enter. A provider may sign it anew each time it is asked.</param>
/// <param name="MeetingId">What people type by hand; empty for none.</param>
/// <param name="Passcode">The passcode that goes with it; empty for none.</param>
/// <param name="DialIn">Telephone numbers.</param>
public sealed record MadeRoom(
    string Key,
    Uri Address,
    string MeetingId,
    string Passcode,
    ImmutableArray<string> DialIn
);

/// <summary>What goes on in a room now.</summary>
/// <param name="IsOn">A host is there and the meeting has begun.</param>
/// <param name="Inside">How many people are in it, hosts too.</param>
/// <param name="Waiting">How many wait to be let in.</param>
public sealed record RoomNow(bool IsOn, int Inside, int Waiting);

/// <summary>
/// A service that has online rooms. The almanac decides when its door is open; the room itself belongs to the provider:
/// who waits, who is let in, what is recorded. Implement it for a real service with its programming interface; what the
/// service tells by itself (a meeting has ended, a recording is ready) goes to <see cref="IRoomNews"/>, from a webhook or by
/// asking from time to time.
/// <list type="bullet">
/// <item>All calls may come at any time and from several threads, and never while the almanac writes: a slow service holds up nobody
/// else.</item>
/// <item>A call that takes longer than <see cref="RoomProviders.Patience"/> is given up, and its cancellation asked for.</item>
/// <item>Keys are the provider's; the almanac stores them and gives them back. They are no secrets, addresses are.</item>
/// <item>A call that fails throws <see cref="RoomProviderException"/> with a sentence for people; nothing is changed then.</item>
/// </list>
/// </summary>
public interface IRoomProvider
{
    /// <summary>What people call it.</summary>
    string Name { get; }

    /// <summary>How many days its rooms reach; null without a limit.</summary>
    int? ReachDays { get; }

    /// <summary>Makes a room.</summary>
    /// <param name="name">What it is for, for the provider's own lists.</param>
    /// <param name="cancellation">Asked for where nobody waits for the room any more.</param>
    Task<MadeRoom> Make(string name, CancellationToken cancellation);

    /// <summary>The address at which people enter now; null where there is no such room (any more).</summary>
    Task<Uri?> EntranceOf(string key, CancellationToken cancellation);

    /// <summary>The address at which that host enters now and may let others in; null where there is no such room (any more).</summary>
    Task<Uri?> HostEntranceOf(string key, string host, CancellationToken cancellation);

    /// <summary>What goes on in a room.</summary>
    Task<RoomNow> Now(string key, CancellationToken cancellation);

    /// <summary>Ends what goes on in a room and lets nobody in any more. Nothing happens where there is no such room.</summary>
    Task Retire(string key, CancellationToken cancellation);
}

/// <summary>A provider could not do what it was asked; the message is for people.</summary>
public sealed class RoomProviderException(string message) : Exception(message);

/// <summary>Somebody who was in a meeting.</summary>
/// <param name="Name">As they gave it at the room's door.</param>
/// <param name="Entered">When they were first let in.</param>
/// <param name="Minutes">How long they were inside, in all.</param>
public sealed record Attendee(string Name, Instant Entered, int Minutes);

/// <summary>What was recorded of a meeting.</summary>
/// <param name="FileName">With an ending that tells its kind.</param>
/// <param name="Length">In bytes.</param>
/// <param name="Open">Opens its bytes.</param>
public sealed record RoomRecording(string FileName, long Length, Func<Stream> Open);

/// <summary>A meeting that has ended.</summary>
/// <param name="Room">The room's key.</param>
/// <param name="Started">When it began.</param>
/// <param name="Ended">When it ended.</param>
/// <param name="People">Who was there.</param>
/// <param name="Recording">What was recorded, or null.</param>
public sealed record EndedMeeting(
    string Room,
    Instant Started,
    Instant Ended,
    IReadOnlyList<Attendee> People,
    RoomRecording? Recording
);

/// <summary>Where a provider's news arrive.</summary>
public interface IRoomNews
{
    /// <summary>A meeting has ended in a room.</summary>
    void MeetingEnded(EndedMeeting meeting);
}
