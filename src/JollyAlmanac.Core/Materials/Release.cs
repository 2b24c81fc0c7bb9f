using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>When a material is given to those it is for.</summary>
public abstract record Release
{
    private Release() { }

    /// <summary>As soon as it is there.</summary>
    public sealed record AtOnce : Release;

    /// <summary>Not before somebody says so.</summary>
    public sealed record ByHand : Release;

    /// <summary>At a time by the school's clock.</summary>
    /// <param name="At">To the minute.</param>
    public sealed record From(LocalDateTime At) : Release;

    /// <summary>With its session, wherever that is moved to.</summary>
    /// <param name="AfterEnd">Counted from the session's end; else from its start.</param>
    /// <param name="Minutes">Minutes after that; before it where negative.</param>
    public sealed record WithSession(bool AfterEnd, int Minutes) : Release;

    /// <summary>As soon as it is there.</summary>
    public static Release Now { get; } = new AtOnce();

    /// <summary>From when on it is given; null where that is not said yet.</summary>
    /// <param name="session">The one session it is for; null for several.</param>
    /// <param name="school">The school's zone.</param>
    public Instant? Moment(Session? session, DateTimeZone school) =>
        this switch
        {
            AtOnce => Instant.MinValue,
            From from => WallClock.InstantOf(from.At, school),
            WithSession with when session is not null => (with.AfterEnd ? session.EndsAt : session.StartsAt)
                + Duration.FromMinutes(with.Minutes),
            _ => null,
        };
}
