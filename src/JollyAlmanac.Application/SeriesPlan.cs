using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application;

/// <summary>The plan of one series by itself, numbered on from the series that it carries on.</summary>
internal static class SeriesPlan
{
    // A series that is split each week of a year has so many before it.
    private const int MostBefore = 60;

    /// <summary>The plan.</summary>
    public static Plan Of(Stores stores, Series series, SchoolTime school)
    {
        var chain = new List<Plan> { Planner.PlanOf(series, school) };
        while (
            chain.Count <= MostBefore
            && chain[^1].Of.Follows is { } follows
            && stores.Series.Find(follows) is { } before
        )
            chain.Add(Planner.PlanOf(before, school));
        var plan = chain[^1];
        for (var at = chain.Count - 2; at >= 0; at--)
            plan = chain[at].NumberedFrom(plan.NextNumber);
        return plan;
    }
}
