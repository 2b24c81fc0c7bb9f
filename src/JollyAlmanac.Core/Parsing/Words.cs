using System.Collections.Frozen;
using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>The words for days, months and small numbers, as they are written in timetables, newsletters and on school websites.</summary>
internal static class Words
{
    private static readonly FrozenDictionary<string, IsoDayOfWeek> Weekdays = new (string Names, IsoDayOfWeek Day)[]
    {
        ("mon mo monday mondays mons", IsoDayOfWeek.Monday),
        ("tue tu tues tuesday tuesdays", IsoDayOfWeek.Tuesday),
        ("wed we weds wednesday wednesdays", IsoDayOfWeek.Wednesday),
        ("thu th thur thurs thursday thursdays", IsoDayOfWeek.Thursday),
        ("fri fr friday fridays fris", IsoDayOfWeek.Friday),
        ("sat sa saturday saturdays sats", IsoDayOfWeek.Saturday),
        ("sun su sunday sundays suns", IsoDayOfWeek.Sunday),
    }
        .SelectMany(one => one.Names.Split(' ').Select(name => (name, one.Day)))
        .ToFrozenDictionary(one => one.name, one => one.Day);

    private static readonly string[] Months =
    [
        "january",
        "february",
        "march",
        "april",
        "may",
        "june",
        "july",
        "august",
        "september",
        "october",
        "november",
        "december",
    ];

    // As German lists have them, which schools abroad and language classes paste.
    private static readonly string[] GermanMonths =
    [
        "januar",
        "februar",
        "märz",
        "april",
        "mai",
        "juni",
        "juli",
        "august",
        "september",
        "oktober",
        "november",
        "dezember",
    ];

    private static readonly string[] Numbers =
    [
        "zero",
        "one",
        "two",
        "three",
        "four",
        "five",
        "six",
        "seven",
        "eight",
        "nine",
        "ten",
        "eleven",
        "twelve",
    ];

    private static readonly string[] Ordinals = ["", "first", "second", "third", "fourth", "fifth"];

    /// <summary>The weekday that a word means; none for another word.</summary>
    public static IsoDayOfWeek Weekday(string word) => Weekdays.GetValueOrDefault(word, IsoDayOfWeek.None);

    /// <summary>Whether a weekday belongs to the name of a feast: Good Friday, Easter Monday.</summary>
    public static bool IsFeast(string before, string weekday) =>
        before
            is "good"
                or "easter"
                or "whit"
                or "ash"
                or "holy"
                or "maundy"
                or "shrove"
                or "pancake"
                or "palm"
                or "black"
        && Weekday(weekday) != IsoDayOfWeek.None;

    /// <summary>A weekday's name of three letters or more: "mo" and "th" mean a day only among others.</summary>
    public static bool IsLong(string word) => word.Length > 2;

    /// <summary>The month that a word means, from 1; 0 for another word. Three letters are enough.</summary>
    public static int Month(string word) =>
        word.Length < 3 ? 0
        : word == "sept" ? 9
        : Array.IndexOf(GermanMonths, word) is >= 0 and var german ? german + 1
        : word switch
        {
            "okt" => 10,
            "dez" => 12,
            "mrz" => 3,
            _ => 0,
        }
            is > 0
                and var brief
            ? brief
        : Array.FindIndex(Months, month =>
            word.Length == 3 ? month.StartsWith(word, StringComparison.Ordinal) : month == word
        ) + 1;

    /// <summary>A small number in words, "a" and "an" too; -1 for another word.</summary>
    public static int Number(string word) => word is "a" or "an" ? 1 : Array.IndexOf(Numbers, word);

    /// <summary>"first" is 1, "last" -1; 0 for another word.</summary>
    public static int Ordinal(string word) => word == "last" ? -1 : Math.Max(0, Array.IndexOf(Ordinals, word));

    /// <summary>
    /// Weekdays by letters, as timetables print them: MWF, TTh, TR, MTWThF, MoWeFr. Upper case, in the order of the week; empty for
    /// anything else, so that few other words are taken for days.
    /// </summary>
    public static IReadOnlyList<IsoDayOfWeek> Letters(string text)
    {
        var days = new List<IsoDayOfWeek>();
        for (var at = 0; at < text.Length; )
        {
            var (day, length) = (text[at], at + 1 < text.Length ? text[at + 1] : ' ') switch
            {
                ('M', 'o' or 'O') => (IsoDayOfWeek.Monday, 2),
                ('M', _) => (IsoDayOfWeek.Monday, 1),
                ('T', 'u' or 'U') => (IsoDayOfWeek.Tuesday, 2),
                ('T', 'h' or 'H') => (IsoDayOfWeek.Thursday, 2),
                ('T', _) => (IsoDayOfWeek.Tuesday, 1),
                ('W', 'e' or 'E') => (IsoDayOfWeek.Wednesday, 2),
                ('W', _) => (IsoDayOfWeek.Wednesday, 1),
                ('R', _) => (IsoDayOfWeek.Thursday, 1),
                ('F', 'r' or 'R') => (IsoDayOfWeek.Friday, 2),
                ('F', _) => (IsoDayOfWeek.Friday, 1),
                ('S', 'a' or 'A') => (IsoDayOfWeek.Saturday, 2),
                ('S', 'u' or 'U') => (IsoDayOfWeek.Sunday, 2),
                _ => (IsoDayOfWeek.None, 1),
            };
            if (day == IsoDayOfWeek.None || (days.Count > 0 && days[^1] >= day))
                return [];
            days.Add(day);
            at += length;
        }

        return days;
    }
}
