using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>What somebody did to a door by hand; it ends by itself.</summary>
/// <param name="IsOpen">Held open, or held shut.</param>
/// <param name="From">Since when.</param>
/// <param name="Until">Until when, not with it; the far end of time for "until somebody opens it".</param>
/// <param name="Session">The session it was done for; null for none.</param>
public sealed record ManualOverride(bool IsOpen, Instant From, Instant Until, SessionKey? Session);
