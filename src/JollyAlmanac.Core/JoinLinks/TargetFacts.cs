using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>What keepers may know of a target without getting the way in.</summary>
/// <param name="Host">The host behind it, e.g. "rooms.example".</param>
/// <param name="Room">The provider's number of the room; empty where no provider made it.</param>
/// <param name="Provider">The provider's name; empty for a room that was pasted.</param>
/// <param name="SetAt">When it was put there.</param>
/// <param name="Count">How many the link has had, with this one.</param>
/// <param name="HasMeetingId">It has a meeting id.</param>
/// <param name="HasPasscode">It has a passcode of its own.</param>
/// <param name="HasPasscodeInside">Its address carries a passcode.</param>
/// <param name="HasDialIn">It has telephone numbers.</param>
/// <param name="TestedAt">When it was tested; null where it has not been.</param>
/// <param name="TestSaid">What the test found; empty where all was well.</param>
public sealed record TargetFacts(
    string Host,
    string Room,
    string Provider,
    Instant SetAt,
    int Count,
    bool HasMeetingId,
    bool HasPasscode,
    bool HasPasscodeInside,
    bool HasDialIn,
    Instant? TestedAt,
    string TestSaid
);
