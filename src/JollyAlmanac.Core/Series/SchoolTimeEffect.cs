using System.Collections.Immutable;
using JollyAlmanac.Core.Terms;

namespace JollyAlmanac.Core.Series;

/// <summary>What an edit of the school's time does to one series.</summary>
/// <param name="Series">The series.</param>
/// <param name="What">What becomes of its sessions.</param>
/// <param name="FallsShort">It does not reach its number of sessions within its term any more.</param>
public sealed record SeriesEffect(Series Series, Consequences What, bool FallsShort);

/// <summary>
/// What an edit of the school's time does over all series, counted before it is saved.
/// </summary>
/// <param name="Series">The series to which something happens.</param>
/// <param name="Of">How many series were looked at.</param>
public sealed record SchoolTimeEffect(ImmutableArray<SeriesEffect> Series, int Of)
{
    /// <summary>Plans every series by the time before and after, and compares: twice the planning of all that is given.</summary>
    /// <param name="before">The school's time as it is stored.</param>
    /// <param name="after">As it would be. Terms are the same where their id is, whatever they are called.</param>
    /// <param name="series">The series to look at, of any calendars.</param>
    /// <returns>Those series alone to which something happens.</returns>
    public static SchoolTimeEffect Between(SchoolTime before, SchoolTime after, IReadOnlyCollection<Series> series)
    {
        var effects = ImmutableArray.CreateBuilder<SeriesEffect>();
        foreach (var one in series)
        {
            var (old, fresh) = (Planner.PlanOf(one, before), Planner.PlanOf(one, after));
            if (IsSame(old, fresh))
                continue;
            var what = Consequences.Between([old], [fresh]);
            var fallsShort = ReachesNumber(old, before) && !ReachesNumber(fresh, after);
            if (!what.IsNothing || fallsShort)
                effects.Add(new SeriesEffect(one, what, fallsShort));
        }

        return new SchoolTimeEffect(effects.ToImmutable(), series.Count);
    }

    /// <summary>"37 sessions of 14 series are left out; 3 series no longer reach their number of sessions within the term."</summary>
    public string InWords
    {
        get
        {
            if (Series.IsEmpty)
                return Of == 0
                    ? "There is no series yet that this could touch."
                    : $"Nothing changes for any of the {Wording.Count(Of, "series", "series")}.";
            var parts = new List<string>();
            Add(
                parts,
                Series.Sum(one => one.What.Gone.Length),
                Series.Count(one => !one.What.Gone.IsEmpty),
                "is left out",
                "are left out"
            );
            var byHand = Series.Sum(one =>
                one.What.Gone.Count(session => session.IsExtra || session.Change?.Day is not null)
            );
            if (byHand > 0)
                parts[^1] += $", {byHand} of them put there by hand";
            Add(
                parts,
                Series.Sum(one => one.What.New.Length),
                Series.Count(one => !one.What.New.IsEmpty),
                "comes in",
                "come in"
            );
            Add(
                parts,
                Series.Sum(one => one.What.Moved.Length),
                Series.Count(one => !one.What.Moved.IsEmpty),
                "moves",
                "move"
            );
            var shorter = Series.Count(one => one.FallsShort);
            if (shorter > 0)
                parts.Add(
                    $"{shorter} series no longer {(shorter == 1 ? "reaches its" : "reach their")} number of sessions within the term"
                );
            var loose = Series.Sum(one => one.What.Loose);
            if (loose > 0)
                parts.Add(
                    $"{Wording.Count(loose, "change made by hand loses its session", "changes made by hand lose their sessions")}"
                );
            return string.Join("; ", parts) + ".";
        }
    }

    private static void Add(List<string> parts, int sessions, int series, string one, string many)
    {
        if (sessions > 0)
            parts.Add(
                $"{Wording.Count(sessions, "session", "sessions")} of {Wording.Count(series, "series", "series")} {(sessions == 1 ? one : many)}"
            );
    }

    // Nearly all series are untouched by an edit; this tells so without making anything.
    private static bool IsSame(Plan before, Plan after)
    {
        if (before.Sessions.Length != after.Sessions.Length || before.Loose.Length != after.Loose.Length)
            return false;
        for (var at = 0; at < before.Sessions.Length; at++)
        {
            var (old, fresh) = (before.Sessions[at], after.Sessions[at]);
            if (
                old.Original != fresh.Original
                || old.Start != fresh.Start
                || old.End != fresh.End
                || old.IsHeld != fresh.IsHeld
            )
                return false;
        }

        return true;
    }

    private static bool ReachesNumber(Plan plan, SchoolTime school) =>
        plan.Of.Pattern.Extent is not Extent.Held held
        || plan.First is not { } first
        || school.TermOn(first) is not { } term
        || plan.Held.Count(session => !session.IsExtra && term.Holds(session.Day)) >= held.Sessions;
}
