using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>A room that is, or was, behind a link, as keepers may know it.</summary>
/// <param name="Host">The host.</param>
/// <param name="Room">The provider's number; empty for one that was pasted.</param>
/// <param name="SetAt">Since when.</param>
/// <param name="By">Who put it there.</param>
/// <param name="Session">The original start of the one session it is for; null for all.</param>
public sealed record PastTarget(string Host, string Room, Instant SetAt, string By, LocalDateTime? Session);
