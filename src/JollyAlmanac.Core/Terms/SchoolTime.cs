using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>A week of a term: its number (1 is the week of the term's first day) and the day it starts on.</summary>
public readonly record struct TermWeek(int Number, LocalDate Start);

/// <summary>
/// What the school says about time: zone, terms, no-class days, bells and day cycle. All planning asks this one object.
/// Immutable; made from what is stored, once for each reading of it.
/// </summary>
/// <example>new SchoolTime(zone, IsoDayOfWeek.Monday, terms, noClassDays).NoClassOn(new LocalDate(2026, 10, 12))?.Name is
/// "Thanksgiving".</example>
public sealed class SchoolTime
{
    /// <summary>The longest a no-class range is, in days.</summary>
    public const int LongestRange = 400;

    private readonly Dictionary<LocalDate, NoClassDay> noClass = [];
    private readonly Lazy<(
        List<(LocalDate Date, string Name)> InOrder,
        Dictionary<LocalDate, string> ByDate
    )> cycleDays;
    private readonly Dictionary<LocalDate, BellSchedule> shortened;

    /// <summary>Makes the school's time.</summary>
    /// <param name="zone">The IANA zone of the school's wall clocks.</param>
    /// <param name="firstDayOfWeek">Where a week begins, for week numbers and for "every other week".</param>
    /// <param name="terms">In any order.</param>
    /// <param name="noClassDays">In any order; where two overlap, the earlier in the list names the day.</param>
    /// <param name="bells">The regular bell schedule; none by default.</param>
    /// <param name="cycle">The day cycle, where the school has one.</param>
    /// <param name="otherBells">The other bell schedules, for shortened days.</param>
    /// <param name="shortenedDays">Days with another bell schedule, by its name.</param>
    public SchoolTime(
        DateTimeZone zone,
        IsoDayOfWeek firstDayOfWeek,
        IEnumerable<Term> terms,
        IEnumerable<NoClassDay> noClassDays,
        BellSchedule? bells = null,
        DayCycle? cycle = null,
        IEnumerable<BellSchedule>? otherBells = null,
        IEnumerable<ShortenedDay>? shortenedDays = null
    )
    {
        Zone = zone;
        FirstDayOfWeek = firstDayOfWeek;
        Terms = [.. terms.OrderBy(term => term.First)];
        NoClassDays = [.. noClassDays.OrderBy(day => day.First)];
        Bells = bells ?? BellSchedule.None;
        Cycle = cycle;
        OtherBells = [.. otherBells ?? []];
        ShortenedDays = [.. (shortenedDays ?? []).OrderBy(day => day.Day)];
        shortened = ShortenedDays
            .Where(day => OtherBells.Any(schedule => schedule.Name == day.Bells))
            .ToDictionary(day => day.Day, day => OtherBells.First(schedule => schedule.Name == day.Bells));
        foreach (var range in NoClassDays)
        foreach (var day in range.Days.Take(LongestRange))
            noClass.TryAdd(day, range);
        cycleDays = new(NameCycleDays);
    }

    /// <summary>The zone of the school's wall clocks.</summary>
    public DateTimeZone Zone { get; }

    /// <summary>The day a week begins with.</summary>
    public IsoDayOfWeek FirstDayOfWeek { get; }

    /// <summary>All terms, the earliest first.</summary>
    public ImmutableArray<Term> Terms { get; }

    /// <summary>All no-class days and ranges, the earliest first.</summary>
    public ImmutableArray<NoClassDay> NoClassDays { get; }

    /// <summary>The regular bell schedule; without periods where the school has none.</summary>
    public BellSchedule Bells { get; }

    /// <summary>The day cycle, or null.</summary>
    public DayCycle? Cycle { get; }

    /// <summary>The bell schedules of shortened days.</summary>
    public ImmutableArray<BellSchedule> OtherBells { get; }

    /// <summary>The days with other bells, the earliest first.</summary>
    public ImmutableArray<ShortenedDay> ShortenedDays { get; }

    /// <summary>In figures the month comes first: 10/12 is 12 October. Else it is 10 December.</summary>
    public bool MonthFirst { get; init; }

    /// <summary>The term of that id, or null.</summary>
    public Term? Find(TermId id) => Terms.FirstOrDefault(term => term.Id == id);

    /// <summary>The term that holds the day, or null between terms.</summary>
    public Term? TermOn(LocalDate day) => Terms.FirstOrDefault(term => term.Holds(day));

    /// <summary>The term to show on a day: the one that holds it, else the next to come, else the last. Null where there is none.</summary>
    /// <example>
    /// <code>
    /// school.TermToShow(new LocalDate(2026, 7, 1))!.Name // Autumn
    /// </code>
    /// </example>
    public Term? TermToShow(LocalDate day) =>
        TermOn(day) ?? Terms.FirstOrDefault(term => term.First > day) ?? Terms.LastOrDefault();

    /// <summary>The no-class day that takes in <paramref name="day"/>, or null where classes meet.</summary>
    /// <example>
    /// <code>
    /// school.NoClassOn(new LocalDate(2026, 10, 12))?.Name // Thanksgiving
    /// school.NoClassOn(new LocalDate(2026, 10, 13)) // null
    /// </code>
    /// </example>
    public NoClassDay? NoClassOn(LocalDate day) => noClass.GetValueOrDefault(day);

    /// <summary>The other bells of a shortened day; null on every other day.</summary>
    public BellSchedule? ShortenedOn(LocalDate day) => shortened.GetValueOrDefault(day);

    /// <summary>The bells that ring on a day.</summary>
    /// <example>
    /// <code>
    /// school.BellsOn(new LocalDate(2026, 10, 13)).Periods.Length // 1
    /// </code>
    /// </example>
    public BellSchedule BellsOn(LocalDate day) => ShortenedOn(day) ?? Bells;

    /// <summary>Whether classes usually meet: from Monday to Friday, in a term (where there are terms), and no no-class day.</summary>
    /// <example>
    /// <code>
    /// school.IsClassDay(new LocalDate(2026, 10, 12)) // false
    /// school.IsClassDay(new LocalDate(2026, 10, 13)) // true
    /// </code>
    /// </example>
    public bool IsClassDay(LocalDate day) =>
        day.DayOfWeek is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
        && NoClassOn(day) is null
        && (Terms.IsEmpty || TermOn(day) is not null);

    /// <summary>The name of the day in the cycle ("2"), or null: no cycle, no class, or outside every term.</summary>
    /// <param name="day">Any day. The cycle goes on over no-class days and from term to term: it counts class days alone.</param>
    /// <example>With days 1 to 6 from Tue 8 Sep 2026, Tue 15 Sep is day 6, and Wed 16 Sep day 1 again.</example>
    public string? CycleDayOn(LocalDate day) => cycleDays.Value.ByDate.GetValueOrDefault(day);

    /// <summary>The class days from one day to another, both inclusive, each with its name in the cycle.</summary>
    public IEnumerable<(LocalDate Date, string Name)> CycleDays(LocalDate first, LocalDate last) =>
        cycleDays.Value.InOrder.SkipWhile(day => day.Date < first).TakeWhile(day => day.Date <= last);

    /// <summary>The first day of the week that <paramref name="day"/> lies in.</summary>
    /// <example>
    /// <code>
    /// school.WeekOf(new LocalDate(2026, 10, 14)) // Monday, 12 October 2026
    /// </code>
    /// </example>
    public LocalDate WeekOf(LocalDate day) => day.PlusDays(-(((int)day.DayOfWeek - (int)FirstDayOfWeek + 7) % 7));

    /// <summary>The weeks of a term in order; the first one holds the term's first day.</summary>
    /// <returns>Whole weeks from the school's first day of the week, so the first and last may reach beyond the term.</returns>
    public ImmutableArray<TermWeek> WeeksOf(Term term)
    {
        var weeks = ImmutableArray.CreateBuilder<TermWeek>();
        for (var start = WeekOf(term.First); start <= term.Last; start = start.PlusWeeks(1))
            weeks.Add(new TermWeek(weeks.Count + 1, start));
        return weeks.ToImmutable();
    }

    private (List<(LocalDate, string)>, Dictionary<LocalDate, string>) NameCycleDays()
    {
        var names = new List<(LocalDate Date, string Name)>();
        if (Cycle is not { Names.Length: > 0 } cycle)
            return (names, []);
        foreach (var term in Terms)
            for (var day = term.First; day <= term.Last; day = day.PlusDays(1))
                if (
                    day >= cycle.Start
                    && day.DayOfWeek is not (IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday)
                    && NoClassOn(day) is null
                )
                    names.Add((day, cycle.Names[names.Count % cycle.Names.Length]));
        return (names, names.ToDictionary(day => day.Date, day => day.Name));
    }
}
