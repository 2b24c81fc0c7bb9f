using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>Finds a first day for a repetition that names none.</summary>
public static class NextFit
{
    private const int MostDays = 400;

    /// <summary>The first day that a repetition falls on and that has class.</summary>
    /// <param name="repeat">The repetition: on weekdays, on days of the month, or on days of the cycle.</param>
    /// <param name="school">The school's time.</param>
    /// <param name="from">The day to begin with.</param>
    /// <returns>Null where no day of the next year fits, and for listed dates and rarer rules, which have their own first day.</returns>
    public static LocalDate? Of(Repeat repeat, SchoolTime school, LocalDate from)
    {
        for (var day = from; day < from.PlusDays(MostDays); day = day.PlusDays(1))
            if (IsOn(repeat, school, day) && school.NoClassOn(day) is null)
                return day;
        return null;
    }

    private static bool IsOn(Repeat repeat, SchoolTime school, LocalDate day) =>
        repeat switch
        {
            Repeat.OnCycleDays cycle => school.CycleDayOn(day) is { } name && cycle.Names.Contains(name),
            Repeat.ByRule { WeeklyDays: { IsEmpty: false } days } => days.Contains(day.DayOfWeek),
            Repeat.ByRule { Rule: { Frequency: Frequency.Monthly, Positions.IsEmpty: true } rule } =>
                rule.MonthDays.Any(number => IsDay(day, number)) || rule.Days.Any(place => IsPlace(day, place)),
            _ => false,
        };

    // Counted from the end where negative: -1 is the last.
    private static bool IsDay(LocalDate day, int number) =>
        day.Day == (number > 0 ? number : LengthOf(day) + number + 1);

    private static bool IsPlace(LocalDate day, WeekdayPlace place) =>
        day.DayOfWeek == place.Day
        && place.Place == (place.Place > 0 ? (day.Day - 1) / 7 + 1 : -((LengthOf(day) - day.Day) / 7 + 1));

    private static int LengthOf(LocalDate day) => CalendarSystem.Iso.GetDaysInMonth(day.Year, day.Month);
}
