using System.Collections.Immutable;

namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// The days that a rule of FREQ=DAILY to YEARLY takes in each of its periods: the expand and limit table of RFC 5545
/// §3.3.10. It knows days and nothing of times; the buffers are its own and used again for each period.
/// </summary>
internal sealed class RulePeriods
{
    private readonly RecurrenceRule rule;
    private readonly int start;
    private readonly int startYear;
    private readonly int startMonth;
    private readonly int startDay;
    private readonly int startWeekday;
    private readonly int weekStart;
    private readonly int baseYear;
    private readonly int months;
    private readonly bool[] plainWeekdays = new bool[8];
    private readonly ImmutableArray<WeekdayPlace> places;
    private readonly int[] found = new int[400];

    public RulePeriods(RecurrenceRule rule, int start)
    {
        this.rule = rule;
        this.start = start;
        (startYear, startMonth, startDay) = CivilDay.Parts(start);
        startWeekday = CivilDay.Weekday(start);
        weekStart = (int)rule.WeekStart;
        foreach (var month in rule.Months)
            months |= 1 << month;
        foreach (var day in rule.Days.Where(day => day.Place == 0))
            plainWeekdays[(int)day.Day] = true;
        places = [.. rule.Days.Where(day => day.Place != 0)];
        // Days of week 1 that lie in December belong to their week, so the year of a start among them is the week's.
        baseYear =
            rule.WeekNumbers.IsEmpty ? startYear
            : start >= CivilDay.WeekOne(startYear + 1, weekStart) ? startYear + 1
            : start < CivilDay.WeekOne(startYear, weekStart) ? startYear - 1
            : startYear;
    }

    /// <summary>The days found by the last <see cref="Find"/>, in order.</summary>
    public ReadOnlySpan<int> Found => found.AsSpan(0, Count);

    /// <summary>How many there are.</summary>
    public int Count { get; private set; }

    /// <summary>Roughly how many days a period and the step to the next are; only to tell when a search is hopeless.</summary>
    public double DaysAPeriod =>
        rule.Interval
        * rule.Frequency switch
        {
            Frequency.Yearly => 365.2425,
            Frequency.Monthly => 30.436875,
            Frequency.Weekly => 7,
            _ => 1.0,
        };

    /// <summary>The number of a period that no day on or after <paramref name="day"/> comes before; 0 is the start's own.</summary>
    public long PeriodAt(int day)
    {
        if (day <= start)
            return 0;
        var (year, month, _) = CivilDay.Parts(day);
        var away = rule.Frequency switch
        {
            // A week's days may lie in the year before or after its own.
            Frequency.Yearly => year - baseYear - (rule.WeekNumbers.IsEmpty ? 0 : 1),
            Frequency.Monthly => (year - startYear) * 12L + month - startMonth,
            Frequency.Weekly => (day - FirstWeek) / 7,
            _ => (long)day - start,
        };
        return Math.Max(0, away / rule.Interval);
    }

    /// <summary>A day that no day of the period comes before.</summary>
    public long StartOf(long period)
    {
        var step = period * rule.Interval;
        return rule.Frequency switch
        {
            Frequency.Yearly => CivilDay.Of((int)(baseYear + step), 1, 1) - 7,
            Frequency.Monthly => CivilDay.Of(
                (int)((startYear * 12L + startMonth - 1 + step) / 12),
                (int)((startYear * 12L + startMonth - 1 + step) % 12) + 1,
                1
            ),
            Frequency.Weekly => FirstWeek + step * 7,
            _ => start + step,
        };
    }

    /// <summary>Finds the days of a period.</summary>
    /// <returns>False where the period lies beyond the last year.</returns>
    public bool Find(long period)
    {
        Count = 0;
        var step = period * rule.Interval;
        switch (rule.Frequency)
        {
            case Frequency.Yearly:
                if (baseYear + step > CivilDay.LastYear)
                    return false;
                FindInYear((int)(baseYear + step));
                return true;
            case Frequency.Monthly:
                var month = startYear * 12L + startMonth - 1 + step;
                if (month / 12 > CivilDay.LastYear)
                    return false;
                FindInMonth((int)(month / 12), (int)(month % 12) + 1);
                return true;
            case Frequency.Weekly:
                if (FirstWeek + step * 7 > CivilDay.Last)
                    return false;
                FindInWeek((int)(FirstWeek + step * 7));
                return true;
            default:
                if (start + step > CivilDay.Last)
                    return false;
                if (Passes((int)(start + step)))
                    Add((int)(start + step));
                return true;
        }
    }

    /// <summary>Whether a day passes the parts that limit it under FREQ=DAILY and below.</summary>
    public bool Passes(int day)
    {
        if (months != 0 || !rule.MonthDays.IsEmpty || !rule.YearDays.IsEmpty)
        {
            var (year, month, dayOfMonth) = CivilDay.Parts(day);
            if (!MonthPasses(month))
                return false;
            if (!rule.MonthDays.IsEmpty && !HasMonthDay(year, month, dayOfMonth))
                return false;
            if (!rule.YearDays.IsEmpty && !HasYearDay(year, CivilDay.DayOfYear(year, month, dayOfMonth)))
                return false;
        }

        return rule.Days.IsEmpty || plainWeekdays[CivilDay.Weekday(day)];
    }

    private int FirstWeek => start - (startWeekday - weekStart + 7) % 7;

    private void Add(int day)
    {
        if (day <= CivilDay.Last)
            found[Count++] = day;
    }

    private bool MonthPasses(int month) => months == 0 || (months & (1 << month)) != 0;

    private bool HasMonthDay(int year, int month, int day)
    {
        var fromEnd = day - CivilDay.DaysIn(year, month) - 1;
        foreach (var one in rule.MonthDays)
            if (one == day || one == fromEnd)
                return true;
        return false;
    }

    private bool HasYearDay(int year, int dayOfYear)
    {
        var fromEnd = dayOfYear - (CivilDay.IsLeap(year) ? 367 : 366);
        foreach (var one in rule.YearDays)
            if (one == dayOfYear || one == fromEnd)
                return true;
        return false;
    }

    // Whether the day is among BYDAY, its place counted from first to last, the month or year that it lies in.
    private bool HasWeekday(int day, int first, int last)
    {
        var weekday = CivilDay.Weekday(day);
        if (plainWeekdays[weekday])
            return true;
        foreach (var (place, wanted) in places)
            if ((int)wanted == weekday && (place > 0 ? (day - first) / 7 + 1 == place : (last - day) / 7 + 1 == -place))
                return true;
        return false;
    }

    private void FindInWeek(int firstDay)
    {
        for (var day = firstDay; day < firstDay + 7; day++)
        {
            var weekday = CivilDay.Weekday(day);
            if (rule.Days.IsEmpty ? weekday != startWeekday : !plainWeekdays[weekday])
                continue;
            if (months != 0 && !MonthPasses(CivilDay.Parts(day).Month))
                continue;
            Add(day);
        }
    }

    private void FindInMonth(int year, int month)
    {
        if (!MonthPasses(month))
            return;
        var length = CivilDay.DaysIn(year, month);
        var first = CivilDay.Of(year, month, 1);
        if (rule.MonthDays.IsEmpty && rule.Days.IsEmpty)
        {
            if (startDay <= length)
                Add(first + startDay - 1);
            return;
        }

        for (var day = 1; day <= length; day++)
            if (
                (rule.MonthDays.IsEmpty || HasMonthDay(year, month, day))
                && (rule.Days.IsEmpty || HasWeekday(first + day - 1, first, first + length - 1))
            )
                Add(first + day - 1);
    }

    private void FindInYear(int year)
    {
        if (!rule.WeekNumbers.IsEmpty)
        {
            FindInWeeks(year);
            return;
        }

        var isPlain = rule.YearDays.IsEmpty && rule.MonthDays.IsEmpty && rule.Days.IsEmpty;
        var (firstOfYear, lastOfYear) = (CivilDay.Of(year, 1, 1), CivilDay.Of(year, 12, 31));
        for (var month = 1; month <= 12; month++)
        {
            if (months == 0 && isPlain && month != startMonth)
                continue;
            if (!MonthPasses(month))
                continue;
            var length = CivilDay.DaysIn(year, month);
            var first = CivilDay.Of(year, month, 1);
            if (isPlain)
            {
                if (startDay <= length)
                    Add(first + startDay - 1);
                continue;
            }

            for (var day = 1; day <= length; day++)
            {
                var number = first + day - 1;
                if (!rule.YearDays.IsEmpty && !HasYearDay(year, number - firstOfYear + 1))
                    continue;
                if (!rule.MonthDays.IsEmpty && !HasMonthDay(year, month, day))
                    continue;
                // A weekday's place is counted in the month where BYMONTH is there, else in the year.
                if (
                    !rule.Days.IsEmpty
                    && !(
                        months != 0
                            ? HasWeekday(number, first, first + length - 1)
                            : HasWeekday(number, firstOfYear, lastOfYear)
                    )
                )
                    continue;
                Add(number);
            }
        }
    }

    private void FindInWeeks(int year)
    {
        var weekOne = CivilDay.WeekOne(year, weekStart);
        var count = (CivilDay.WeekOne(year + 1, weekStart) - weekOne) / 7;
        var isPlain = rule.Days.IsEmpty && rule.MonthDays.IsEmpty && rule.YearDays.IsEmpty;
        for (var week = 1; week <= count; week++)
        {
            if (!rule.WeekNumbers.Contains(week) && !rule.WeekNumbers.Contains(week - count - 1))
                continue;
            for (var day = weekOne + (week - 1) * 7; day < weekOne + week * 7; day++)
            {
                var weekday = CivilDay.Weekday(day);
                if (isPlain ? weekday != startWeekday : !rule.Days.IsEmpty && !plainWeekdays[weekday])
                    continue;
                var (ownYear, month, dayOfMonth) = CivilDay.Parts(day);
                if (!MonthPasses(month))
                    continue;
                if (!rule.MonthDays.IsEmpty && !HasMonthDay(ownYear, month, dayOfMonth))
                    continue;
                if (!rule.YearDays.IsEmpty && !HasYearDay(ownYear, CivilDay.DayOfYear(ownYear, month, dayOfMonth)))
                    continue;
                Add(day);
            }
        }
    }
}
