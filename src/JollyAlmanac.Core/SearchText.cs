using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using NodaTime;

namespace JollyAlmanac.Core;

/// <summary>What somebody looks for.</summary>
/// <param name="Words">Words of letters and digits, in lower case; what is found has each of them, or begins with it.</param>
/// <param name="Number">The number of a session: of "no. 12", "#12", and of a bare "12" where it is the only one.</param>
/// <param name="Day">A day: its month and number, and its year where that was said.</param>
public sealed record SearchText(ImmutableArray<string> Words, int? Number, (int? Year, int Month, int Day)? Day)
{
    /// <summary>The longest text that is looked for, in characters.</summary>
    public const int Longest = 100;

    private const int MostWords = 8;

    /// <summary>Nothing is looked for.</summary>
    public bool IsEmpty => Words.IsEmpty && Number is null && Day is null;

    /// <summary>Whether that is the day that is looked for; so it is where none is.</summary>
    public bool IsOn(LocalDate day) =>
        Day is not var (year, month, number)
        || (day.Month == month && day.Day == number && (year is null || year == day.Year));

    /// <summary>Reads what was typed.</summary>
    public static SearchText Read(string? typed)
    {
        var text = typed ?? "";
        if (text.Length > Longest)
            text = text[..Longest];
        var day = DayInText.Find(text, out var rest);
        var numbers = WordsOf(rest).Where(word => word.Length <= 3 && word.All(char.IsAsciiDigit)).ToList();
        int? number = day is null && numbers.Count == 1 ? int.Parse(numbers[0], CultureInfo.InvariantCulture) : null;
        // What says that a number follows says nothing by itself.
        var words = WordsOf(rest)
            .Where(word => number is null || !(numbers[0] == word || word is "no" or "nr" or "number" or "session"));
        return new SearchText([.. words.Distinct().Take(MostWords)], number, day);
    }

    /// <summary>The words of a text, in lower case.</summary>
    /// <example>
    /// <code>
    /// SearchText.WordsOf("Tidepool Biology, 9A") // tidepool | biology | 9a
    /// </code>
    /// </example>
    public static IReadOnlyList<string> WordsOf(string text)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        foreach (var rune in text.ToLowerInvariant().EnumerateRunes())
        {
            if (Rune.IsLetterOrDigit(rune) || Rune.GetUnicodeCategory(rune) is UnicodeCategory.NonSpacingMark)
                word.Append(rune.ToString());
            else if (word.Length > 0)
            {
                words.Add(word.ToString());
                word.Clear();
            }
        }

        if (word.Length > 0)
            words.Add(word.ToString());
        return words;
    }

    /// <summary>Whether a text has each of the words, or words that begin with them; accents apart.</summary>
    public bool IsIn(string text)
    {
        var has = WordsOf(PlainLetters.Fold(text));
        return Words.All(word =>
            PlainLetters.Fold(word) is var plain && has.Any(one => one.StartsWith(plain, StringComparison.Ordinal))
        );
    }
}

/// <summary>A day that is named in a text: "2026-11-02", "20261102", "2 Nov", "Nov 2".</summary>
public static partial class DayInText
{
    private static readonly ImmutableArray<string> Months =
    [
        "jan",
        "feb",
        "mar",
        "apr",
        "may",
        "jun",
        "jul",
        "aug",
        "sep",
        "oct",
        "nov",
        "dec",
    ];

    private const string MonthNames =
        "jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?";

    /// <summary>The first day that a text names; null where it names none.</summary>
    /// <param name="text">The text.</param>
    /// <param name="rest">The text without it.</param>
    /// <example>
    /// <code>
    /// DayInText.Find("barnacles 14 Oct", out var rest) // (, 10, 14)
    /// rest.Trim() // barnacles
    /// </code>
    /// </example>
    public static (int? Year, int Month, int Day)? Find(string text, out string rest)
    {
        rest = text;
        if (
            IsoDay().Match(text) is { Success: true } iso
            && Number(iso, "y") is var year
            && Number(iso, "m") is >= 1 and <= 12 and var month
            && Number(iso, "d") is >= 1 and var day
            && day <= CalendarSystem.Iso.GetDaysInMonth(year, month)
        )
        {
            rest = text.Remove(iso.Index, iso.Length);
            return (year, month, day);
        }

        foreach (var match in new[] { DayMonth().Match(text), MonthDay().Match(text) })
        {
            if (!match.Success || Number(match, "d") is not (>= 1 and <= 31 and var number))
                continue;
            rest = text.Remove(match.Index, match.Length);
            return (null, Months.IndexOf(match.Groups["n"].Value[..3].ToLowerInvariant()) + 1, number);
        }

        return null;
    }

    private static int Number(Match match, string group) =>
        int.Parse(match.Groups[group].ValueSpan, CultureInfo.InvariantCulture);

    [GeneratedRegex(@"(?<!\d)(?<y>20\d\d)[-. ]?(?<m>\d\d)[-. ]?(?<d>\d\d)(?!\d)", RegexOptions.CultureInvariant)]
    private static partial Regex IsoDay();

    [GeneratedRegex(
        @"(?<!\d)(?<d>\d{1,2})\.?[- ]?(?<n>" + MonthNames + @")(?![a-z])",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex DayMonth();

    [GeneratedRegex(
        @"(?<![a-z])(?<n>" + MonthNames + @")[-. ]{0,2}(?<d>\d{1,2})(?!\d)",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex MonthDay();
}
