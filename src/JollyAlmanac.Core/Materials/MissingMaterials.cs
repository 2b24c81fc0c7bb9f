using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>Which sessions to come have no material of their own where the others around them do.</summary>
public static class MissingMaterials
{
    /// <summary>So far ahead a session is asked for its material.</summary>
    public static readonly Duration Ahead = Duration.FromDays(14);

    // The last ones that are over tell, with those ahead, what a class is used to.
    private const int Before = 4;

    /// <summary>The sessions within <see cref="Ahead"/> that have none, where at least two, and half of those around them, have.</summary>
    /// <param name="plan">The sessions of a series.</param>
    /// <param name="materials">The calendar's materials.</param>
    /// <param name="now">When.</param>
    public static ImmutableArray<Session> Of(Plan plan, MaterialsOf materials, Instant now)
    {
        var around = plan
            .Held.Where(session => session.EndsAt <= now)
            .TakeLast(Before)
            .Concat(plan.Held.Where(session => session.EndsAt > now && session.StartsAt <= now + Ahead))
            .ToList();
        bool Has(Session session) =>
            materials.For(session).Any(one => one is { ForSession: not null, IsRecording: false });
        var have = around.Count(Has);
        return have < 2 || have * 2 < around.Count
            ? []
            : [.. around.Where(session => session.EndsAt > now && !Has(session))];
    }
}
