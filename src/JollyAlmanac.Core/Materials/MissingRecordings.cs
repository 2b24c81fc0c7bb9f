using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>Which sessions were held and have no recording yet, where the others before them have.</summary>
public static class MissingRecordings
{
    /// <summary>So long after it ended a session is asked for its recording.</summary>
    public static readonly Duration Behind = Duration.FromDays(14);

    // So many that are over tell what a class is used to.
    private const int Before = 6;

    /// <summary>The sessions that ended within <see cref="Behind"/> and have none, where at least two, and half of the last ones, have.</summary>
    /// <param name="plan">The sessions of a series.</param>
    /// <param name="materials">The calendar's materials.</param>
    /// <param name="now">When.</param>
    public static ImmutableArray<Session> Of(Plan plan, MaterialsOf materials, Instant now)
    {
        var over = plan.Held.Where(session => session.EndsAt <= now).TakeLast(Before).ToList();
        bool Has(Session session) =>
            materials.For(session).Any(one => one is { ForSession: not null, IsRecording: true });
        var have = over.Count(Has);
        return have < 2 || have * 2 < over.Count
            ? []
            : [.. over.Where(session => session.EndsAt > now - Behind && !Has(session))];
    }
}
