using NodaTime;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// All occurrences of a recurring thing: those of a rule, further ones (RDATE), less the exceptions (EXDATE); RFC 5545
/// §3.8.5. Ordered, lazy, without doubles. A window far from the start is sought, not walked to, unless the rule has a COUNT.
/// </summary>
/// <remarks>
/// A start that the rule does not generate is no occurrence and is not counted. A time that the clocks skip is kept and
/// moved by the gap; one that comes twice is the first (§3.3.5). Rules below a day go by elapsed time. COUNT is applied
/// before exceptions. UNTIL is inclusive and compared as an instant; a date takes in that whole day.
/// </remarks>
/// <example>FREQ=MONTHLY;BYDAY=-1FR from Fri 25 Sep 2026, 8:00 in Halifax: 25 Sep, 30 Oct, 27 Nov …</example>
public sealed class RecurrenceSet
{
    private readonly RecurrenceRule? rule;
    private readonly RecurrenceStart start;
    private readonly ZoneClock? clock;
    private readonly long startSeconds;
    private readonly long until;
    private readonly int untilDay;
    private readonly Occurrence[] extra;
    private readonly HashSet<long>? except;
    private readonly HashSet<int>? exceptDays;

    /// <summary>Makes the set.</summary>
    /// <param name="rule">The rule; null where only dates are listed, and the start is the first of them.</param>
    /// <param name="start">DTSTART.</param>
    /// <param name="extra">RDATE.</param>
    /// <param name="except">EXDATE; one that matches nothing changes nothing. A date takes out what falls on it.</param>
    /// <exception cref="ArgumentException">A rule below a day for an all-day start.</exception>
    public RecurrenceSet(
        RecurrenceRule? rule,
        RecurrenceStart start,
        IReadOnlyCollection<RuleMoment>? extra = null,
        IReadOnlyCollection<RuleMoment>? except = null
    )
    {
        if (start.IsDate && rule?.Frequency < Frequency.Daily)
            throw new ArgumentException(
                $"FREQ={rule.Frequency.ToString().ToUpperInvariant()} needs a time to start at, not a date.",
                nameof(rule)
            );
        this.rule = rule;
        this.start = start;
        clock = start.Zone is null ? null : new ZoneClock(start.Zone);
        startSeconds = LocalSeconds.Of(start.Time);
        (until, untilDay) = EndOf(rule?.Until);
        List<Occurrence> further =
        [
            .. (extra ?? []).Select(moment =>
                Place(
                    moment.IsDate && !start.IsDate
                        ? moment with
                        {
                            Time = moment.Time.Date + start.Time.TimeOfDay,
                            IsDate = false,
                        }
                        : moment
                )
            ),
        ];
        if (rule is null)
            further.Add(Resolve(startSeconds));
        this.extra = [.. further.DistinctBy(Instant).OrderBy(Instant)];
        if (except is not { Count: > 0 })
            return;
        this.except =
        [
            .. except.Where(moment => !moment.IsDate || start.IsDate).Select(moment => Instant(Place(moment))),
        ];
        exceptDays = start.IsDate
            ? null
            :
            [
                .. except
                    .Where(moment => moment.IsDate)
                    .Select(moment => LocalSeconds.DayOf(LocalSeconds.Of(moment.Time))),
            ];
    }

    /// <summary>The occurrences from the first on, perhaps without end.</summary>
    /// <example>
    /// <code>
    /// var start = RecurrenceStart.At(new LocalDateTime(2026, 9, 25, 8, 0), zone);
    /// var rule = RuleText.Parse("FREQ=MONTHLY;BYDAY=-1FR").Rule!;
    /// new RecurrenceSet(rule, start).All().Take(3).Select(one =&gt; one.Local.Day) // 25 | 30 | 27
    /// </code>
    /// </example>
    public IEnumerable<Occurrence> All() => Enumerate(long.MinValue, long.MaxValue);

    /// <summary>
    /// The occurrences that really fall at or after <paramref name="from"/> and before <paramref name="to"/>, by local time.
    /// </summary>
    /// <param name="from">Null for the first.</param>
    /// <param name="to">Null for no end.</param>
    public IEnumerable<Occurrence> Between(LocalDateTime? from, LocalDateTime? to) =>
        Enumerate(
            from is { } first ? LocalSeconds.Of(first) : long.MinValue,
            to is { } last ? LocalSeconds.Of(last) : long.MaxValue
        );

    private static long Instant(Occurrence occurrence) => occurrence.LocalSeconds - occurrence.OffsetSeconds;

    // What a moment is on the start's clock.
    private Occurrence Place(RuleMoment moment)
    {
        var seconds = LocalSeconds.Of(start.IsDate ? moment.Time.Date.AtMidnight() : moment.Time);
        if (!moment.IsUtc || clock is null || start.IsDate)
            return Resolve(seconds);
        var offset = clock.OffsetAt(seconds);
        return new Occurrence(seconds + offset, offset);
    }

    private Occurrence Resolve(long local)
    {
        if (clock is null)
            return new Occurrence(local, 0);
        var (real, offset) = clock.Resolve(local);
        return new Occurrence(real, offset);
    }

    private (long Until, int Day) EndOf(RuleMoment? end)
    {
        if (end is not { } moment)
            return (long.MaxValue, CivilDay.Last);
        if (start.IsDate || !moment.IsDate)
            return (Instant(Place(moment)), LocalSeconds.DayOf(LocalSeconds.Of(moment.Time)));
        var last = Resolve(LocalSeconds.Of(moment.Time.PlusDays(1)) - 1);
        return (Instant(last), LocalSeconds.DayOf(last.LocalSeconds));
    }

    private IEnumerable<Occurrence> Enumerate(long from, long to)
    {
        var next = 0;
        if (rule is not null)
        {
            foreach (var occurrence in rule.Count is { } count ? OfRule(from, to).Take(count) : OfRule(from, to))
            {
                var instant = Instant(occurrence);
                for (; next < extra.Length && Instant(extra[next]) <= instant; next++)
                    if (Instant(extra[next]) < instant && IsIn(extra[next], from, to))
                        yield return extra[next];
                if (occurrence.LocalSeconds >= to)
                    break;
                if (IsIn(occurrence, from, to))
                    yield return occurrence;
            }
        }

        for (; next < extra.Length; next++)
            if (IsIn(extra[next], from, to))
                yield return extra[next];
    }

    private bool IsIn(Occurrence occurrence, long from, long to) =>
        from <= occurrence.LocalSeconds
        && occurrence.LocalSeconds < to
        && (except is null || !except.Contains(Instant(occurrence)))
        && (exceptDays is null || !exceptDays.Contains(LocalSeconds.DayOf(occurrence.LocalSeconds)));

    // The occurrences of the rule in order of their instants, each once; some before "from" may come, too.
    private IEnumerable<Occurrence> OfRule(long from, long to)
    {
        // Two days of margin: a time may be moved by a day where a zone changed its side of the date line.
        var lastDay = Math.Min(untilDay, to == long.MaxValue ? CivilDay.Last : LocalSeconds.DayOf(to));
        lastDay = Math.Min(CivilDay.Last, lastDay + 2);
        var seekDay = from == long.MinValue || rule!.Count is not null ? int.MinValue : LocalSeconds.DayOf(from) - 2;
        var source =
            rule!.Frequency >= Frequency.Daily
                ? ByDays(seekDay, lastDay)
                : new ElapsedPeriods(rule, startSeconds, clock).From(seekDay, lastDay);
        var newest = long.MinValue;
        // Times that were moved out of a gap, until what comes after them in order has come.
        List<Occurrence>? moved = null;
        foreach (var nominal in source)
        {
            var occurrence = nominal.OffsetSeconds == int.MinValue ? Resolve(nominal.LocalSeconds) : nominal;
            var instant = Instant(occurrence);
            if (nominal.OffsetSeconds == int.MinValue && occurrence.LocalSeconds != nominal.LocalSeconds)
            {
                if (instant <= until)
                    (moved ??= []).Add(occurrence);
                continue;
            }

            while (moved is [var held, ..] && Instant(held) <= instant)
            {
                moved.RemoveAt(0);
                if (Instant(held) <= newest || Instant(held) == instant)
                    continue;
                newest = Instant(held);
                yield return held;
            }

            if (instant > until)
                break;
            if (instant <= newest)
                continue;
            newest = instant;
            yield return occurrence;
        }

        foreach (var held in moved ?? [])
        {
            if (Instant(held) <= newest)
                continue;
            newest = Instant(held);
            yield return held;
        }
    }

    // Wall-clock times of the days that the rule takes, not yet looked up in the zone (their offset is int.MinValue).
    private IEnumerable<Occurrence> ByDays(int seekDay, int lastDay)
    {
        var periods = new RulePeriods(rule!, LocalSeconds.DayOf(startSeconds));
        var times = TimesOfDay();
        var positions = rule!.Positions;
        // Where nothing is found through a whole turn of the calendar (400 years times the interval), nothing ever is.
        var fruitless = 0.0;
        for (var period = seekDay == int.MinValue ? 0 : periods.PeriodAt(seekDay); periods.Find(period); period++)
        {
            if (periods.Count == 0)
            {
                fruitless += periods.DaysAPeriod;
                if (fruitless > 400 * 366.0 * rule.Interval)
                    yield break;
                // An empty period does not tell how far it is; the next that has a day does, or the end of time.
                if (periods.StartOf(period) > lastDay)
                    yield break;
                continue;
            }

            if (periods.Found[0] > lastDay)
                yield break;
            var all = periods.Count * times.Length;
            var found = false;
            // A period may hold every second of a year: its positions are gone to, not looked for.
            var picked = positions.IsEmpty ? null : Picked(positions, all);
            for (var turn = 0; turn < (picked?.Length ?? all); turn++)
            {
                found = true;
                var at = picked?[turn] ?? turn;
                var local = periods.Found[at / times.Length] * (long)LocalSeconds.Day + times[at % times.Length];
                if (local >= startSeconds)
                    yield return new Occurrence(local, int.MinValue);
            }

            fruitless = found ? 0 : fruitless + periods.DaysAPeriod;
            if (fruitless > 400 * 366.0 * rule.Interval)
                yield break;
        }
    }

    // The places in a set of so many that positions mean, in order; those outside mean none.
    private static int[] Picked(System.Collections.Immutable.ImmutableArray<int> positions, int all) =>
        [
            .. positions
                .Select(position => position > 0 ? position - 1 : all + position)
                .Where(at => at >= 0 && at < all)
                .Distinct()
                .Order(),
        ];

    private int[] TimesOfDay()
    {
        if (start.IsDate)
            return [0];
        var time = start.Time.TimeOfDay;
        IReadOnlyList<int> hours = rule!.Hours.IsEmpty ? [time.Hour] : rule.Hours;
        IReadOnlyList<int> minutes = rule.Minutes.IsEmpty ? [time.Minute] : rule.Minutes;
        IReadOnlyList<int> seconds = rule.Seconds.IsEmpty ? [time.Second] : rule.Seconds;
        return
        [
            .. from hour in hours
            from minute in minutes
            from second in seconds
            select hour * 3600 + minute * 60 + second,
        ];
    }
}
