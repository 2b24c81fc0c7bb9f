using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>How far a room reaches before its provider ends it.</summary>
public abstract record LinkReach
{
    private LinkReach() { }

    /// <summary>No limit is known.</summary>
    public sealed record Unlimited : LinkReach;

    /// <summary>Up to a day, with it.</summary>
    public sealed record Until(LocalDate Day) : LinkReach;

    /// <summary>So many days from when the room was put there.</summary>
    public sealed record Days(int Count) : LinkReach;

    /// <summary>So many sessions from when the room was put there.</summary>
    public sealed record Sessions(int Count) : LinkReach;
}
