using NodaTime;

namespace JollyAlmanac.Core.People;

/// <summary>A person with how they come in.</summary>
/// <param name="Person">The person.</param>
/// <param name="HasPassword">They have a password.</param>
/// <param name="LastSignInAt">When they signed in last; null for never.</param>
/// <param name="InvitedUntil">Until when an invitation of theirs is open; null for none.</param>
/// <param name="Source">What a list knows them by; empty for none.</param>
public sealed record PersonWithEntry(
    Person Person,
    bool HasPassword,
    Instant? LastSignInAt,
    Instant? InvitedUntil,
    string Source
);
