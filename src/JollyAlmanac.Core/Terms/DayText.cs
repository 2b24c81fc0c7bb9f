using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core.Terms;

/// <summary>Reads days as people write them: "14 Sep", "Sep 14", "Mon 14 September 2026", "2026-09-14". Figures alone ("9/14") are not read: they mean two things.</summary>
public static partial class DayText
{
    /// <summary>A day as a regular expression, for longer texts; without anchors and without names of groups.</summary>
    public const string Pattern = @"\d{4}-\d{2}-\d{2}|(?:" + Weekday + @"\.?,?\s+)?(?:\d{1,2}(?:st|nd|rd|th)?\.?\s+" + Month + @"|" + Month + @"\s+\d{1,2}(?:st|nd|rd|th)?)(?:,?\s+\d{4})?";

    /// <summary>A month's name, whole or by its first three letters.</summary>
    public const string Month = @"(?:jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)\b";

    /// <summary>A weekday's name, whole or shortened.</summary>
    public const string Weekday = @"(?:mon(?:days?)?|tue?s?(?:days?)?|wed(?:s|nesdays?)?|thu(?:rs?)?(?:days?)?|fri(?:days?)?|sat(?:urdays?)?|sun(?:days?)?)\b";

    /// <summary>Reads a day; null for what is none.</summary>
    /// <param name="text">The day.</param>
    /// <param name="near">Where the year is not said: the year that brings the day nearest to this one.</param>
    public static LocalDate? Read(string text, LocalDate near)
    {
        text = text.Trim();
        if (LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var iso }) return iso;
        var match = Whole().Match(text);
        if (!match.Success) return null;
        var month = "janfebmaraprmayjunjulaugsepoctnovdec".IndexOf(match.Groups["month"].Value[..3].ToLowerInvariant(), StringComparison.Ordinal) / 3 + 1;
        var day = int.Parse(match.Groups["day"].Value, CultureInfo.InvariantCulture);
        if (match.Groups["year"].Success) return Make(int.Parse(match.Groups["year"].Value, CultureInfo.InvariantCulture), month, day);
        return new[] { near.Year - 1, near.Year, near.Year + 1 }.Select(year => Make(year, month, day)).OfType<LocalDate>()
            .OrderBy(date => Math.Abs(Period.DaysBetween(near, date))).Cast<LocalDate?>().FirstOrDefault();
    }

    /// <summary>The weekday that a name means; none for what is no name.</summary>
    public static IsoDayOfWeek WeekdayOf(string name) => name.Length < 2 ? IsoDayOfWeek.None : name[..2].ToLowerInvariant() switch
    {
        "mo" => IsoDayOfWeek.Monday,
        "tu" => IsoDayOfWeek.Tuesday,
        "we" => IsoDayOfWeek.Wednesday,
        "th" => IsoDayOfWeek.Thursday,
        "fr" => IsoDayOfWeek.Friday,
        "sa" => IsoDayOfWeek.Saturday,
        "su" => IsoDayOfWeek.Sunday,
        _ => IsoDayOfWeek.None,
    };

    private static LocalDate? Make(int year, int month, int day) =>
        year is >= 1950 and <= 2150 && day >= 1 && day <= CalendarSystem.Iso.GetDaysInMonth(year, month) ? new LocalDate(year, month, day) : null;

    [GeneratedRegex(@"^(?:" + Weekday + @"\.?,?\s+)?(?:(?<day>\d{1,2})(?:st|nd|rd|th)?\.?\s+(?<month>" + Month + @")|(?<month>" + Month + @")\s+(?<day>\d{1,2})(?:st|nd|rd|th)?)(?:,?\s+(?<year>\d{4}))?$", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 2000)]
    private static partial Regex Whole();
}
