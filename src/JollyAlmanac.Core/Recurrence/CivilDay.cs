namespace JollyAlmanac.Core.Recurrence;

/// <summary>
/// Days of the Gregorian calendar as numbers: 0 is 1 Jan 1970. The recurrence engine counts with these, because a number
/// costs nothing to step and compare. The conversions are the usual ones over eras of 400 years (common knowledge, no one source).
/// </summary>
internal static class CivilDay
{
    /// <summary>The last year that anything is computed in.</summary>
    public const int LastYear = 9999;

    /// <summary>The day number of 31 Dec 9999.</summary>
    public static readonly int Last = Of(LastYear, 12, 31);

    private static readonly int[] BeforeMonth = [0, 0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334];

    /// <summary>The number of a day.</summary>
    public static int Of(int year, int month, int day)
    {
        var y = month <= 2 ? year - 1 : year;
        var era = (y >= 0 ? y : y - 399) / 400;
        var yearOfEra = y - era * 400;
        var dayOfYear = (153 * (month + (month > 2 ? -3 : 9)) + 2) / 5 + day - 1;
        var dayOfEra = yearOfEra * 365 + yearOfEra / 4 - yearOfEra / 100 + dayOfYear;
        return era * 146_097 + dayOfEra - 719_468;
    }

    /// <summary>Year, month and day of a number.</summary>
    public static (int Year, int Month, int Day) Parts(int number)
    {
        var z = number + 719_468;
        var era = (z >= 0 ? z : z - 146_096) / 146_097;
        var dayOfEra = z - era * 146_097;
        var yearOfEra = (dayOfEra - dayOfEra / 1460 + dayOfEra / 36_524 - dayOfEra / 146_096) / 365;
        var dayOfYear = dayOfEra - (365 * yearOfEra + yearOfEra / 4 - yearOfEra / 100);
        var shifted = (5 * dayOfYear + 2) / 153;
        var month = shifted + (shifted < 10 ? 3 : -9);
        return (yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, dayOfYear - (153 * shifted + 2) / 5 + 1);
    }

    /// <summary>The weekday: 1 is Monday, 7 Sunday.</summary>
    public static int Weekday(int number) => (int)(((long)number + 3) % 7 + 7) % 7 + 1;

    /// <summary>Whether a year has 366 days.</summary>
    public static bool IsLeap(int year) => year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);

    /// <summary>How many days a month has.</summary>
    public static int DaysIn(int year, int month) =>
        month == 2
            ? IsLeap(year)
                ? 29
                : 28
            : month is 4 or 6 or 9 or 11
                ? 30
                : 31;

    /// <summary>The place of a day in its year: 1 is 1 Jan.</summary>
    public static int DayOfYear(int year, int month, int day) =>
        BeforeMonth[month] + day + (month > 2 && IsLeap(year) ? 1 : 0);

    /// <summary>
    /// The first day of week 1 of a year: the first week with four days in the year, weeks beginning on <paramref name="weekStart"/> (RFC
    /// 5545 §3.3.10).
    /// </summary>
    public static int WeekOne(int year, int weekStart)
    {
        var fourth = Of(year, 1, 4);
        return fourth - (Weekday(fourth) - weekStart + 7) % 7;
    }
}
