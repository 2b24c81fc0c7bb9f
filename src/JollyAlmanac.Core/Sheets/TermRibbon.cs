using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Sheets;

/// <summary>One class day in the ribbon.</summary>
/// <param name="Date">The day.</param>
/// <param name="Sessions">How many sessions meet on it.</param>
/// <param name="Off">No class, or outside the term.</param>
public sealed record RibbonDay(LocalDate Date, int Sessions, bool Off);

/// <summary>One week in the ribbon.</summary>
/// <param name="Number">Its number in the term.</param>
/// <param name="Start">Its first day.</param>
/// <param name="Days">Its class days.</param>
/// <param name="IsPast">It is over.</param>
/// <param name="IsNow">Today lies in it.</param>
public sealed record RibbonWeek(int Number, LocalDate Start, ImmutableArray<RibbonDay> Days, bool IsPast, bool IsNow);

/// <summary>
/// A term in one line: a cell a week, in each the load of its days. It runs along the top of every page.
/// </summary>
public sealed record TermRibbon(Term Term, ImmutableArray<RibbonWeek> Weeks, LocalDate Today)
{
    /// <summary>The most sessions on one day, at least 1, to scale by.</summary>
    public int Busiest { get; } = Math.Max(1, Weeks.SelectMany(week => week.Days).Max(day => day.Sessions));

    /// <summary>The week that today lies in, or null.</summary>
    public RibbonWeek? Now { get; } = Weeks.FirstOrDefault(week => week.IsNow);

    /// <summary>Counts the held sessions of the plans on each day of the term.</summary>
    public static TermRibbon Of(Term term, SchoolTime school, IEnumerable<Plan> plans, LocalDate today)
    {
        var counts = plans
            .SelectMany(plan => plan.Held)
            .SelectMany(session => session.Days)
            .CountBy(day => day)
            .ToDictionary();
        var begins = plans.SelectMany(plan => plan.Held).Select(session => session.Day).ToHashSet();
        return new TermRibbon(
            term,
            [
                .. school
                    .WeeksOf(term)
                    .Select(week => new RibbonWeek(
                        week.Number,
                        week.Start,
                        [
                            .. Enumerable
                                .Range(0, 7)
                                .Select(offset => week.Start.PlusDays(offset))
                                .Where(day =>
                                    day.DayOfWeek is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
                                    || begins.Contains(day)
                                )
                                .Select(day => new RibbonDay(
                                    day,
                                    counts.GetValueOrDefault(day),
                                    school.NoClassOn(day) is not null || !term.Holds(day)
                                )),
                        ],
                        week.Start.PlusWeeks(1) <= today,
                        week.Start <= today && today < week.Start.PlusWeeks(1)
                    )),
            ],
            today
        );
    }
}
