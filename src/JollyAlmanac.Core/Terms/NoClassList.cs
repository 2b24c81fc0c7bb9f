using System.Collections.Immutable;
using System.Text.RegularExpressions;
using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>
/// Reads a pasted list of no-class days, one a line: "12 Oct Thanksgiving", "22-23 Oct Teachers' conference (staff day)",
/// "19 Dec to 3 Jan: Winter holiday".
/// </summary>
public static partial class NoClassList
{
    /// <summary>Reads the list.</summary>
    /// <param name="text">The lines.</param>
    /// <param name="near">Days without a year are near it.</param>
    /// <returns>The days in order of the lines, and for each line that cannot be read why.</returns>
    public static (ImmutableArray<NoClassDay> Days, ImmutableArray<string> Problems) Read(string text, LocalDate near)
    {
        var days = ImmutableArray.CreateBuilder<NoClassDay>();
        var problems = ImmutableArray.CreateBuilder<string>();
        foreach (var line in text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (line.Length > 300 || Line().Match(line) is not { Success: true } match)
            {
                problems.Add($"“{(line.Length > 60 ? line[..60] + "…" : line)}” does not begin with a day. Write it like “12 Oct Thanksgiving”.");
                continue;
            }

            var last = DayText.Read(match.Groups["last"].Success ? match.Groups["last"].Value : match.Groups["first"].Value, near);
            var first = match.Groups["number"].Success ? last is { } end ? Day(end, match.Groups["number"].Value) : null : DayText.Read(match.Groups["first"].Value, near);
            // A range over New Year: the end is near its begin, not near today.
            if (first is { } begin && last < begin) last = DayText.Read(match.Groups["last"].Value, begin.PlusMonths(3));
            var name = match.Groups["name"].Value.Trim();
            if (first is null || last is null) problems.Add($"“{line}” names a day that no calendar has.");
            else if (last < first) problems.Add($"“{line}” ends before it begins.");
            else if (name.Length == 0) problems.Add($"“{line}” has no name. Write what the day is after it.");
            else days.Add(new NoClassDay(first.Value, last.Value, name, KindOf(match.Groups["kind"].Value)));
        }

        return (days.ToImmutable(), problems.ToImmutable());
    }

    private static LocalDate? Day(LocalDate end, string number)
    {
        var day = int.Parse(number, System.Globalization.CultureInfo.InvariantCulture);
        return day >= 1 && day <= CalendarSystem.Iso.GetDaysInMonth(end.Year, end.Month) ? new LocalDate(end.Year, end.Month, day) : null;
    }

    private static NoClassKind KindOf(string word) => word.ToLowerInvariant() switch
    {
        var text when text.Contains("staff", StringComparison.Ordinal) || text.Contains("conference", StringComparison.Ordinal) => NoClassKind.StaffDay,
        var text when text.Contains("exam", StringComparison.Ordinal) => NoClassKind.Examination,
        var text when text.Contains("weather", StringComparison.Ordinal) || text.Contains("storm", StringComparison.Ordinal) => NoClassKind.Weather,
        _ => NoClassKind.Holiday,
    };

    [GeneratedRegex(@"^(?:(?<number>\d{1,2})\s*(?:-|–|to)\s*(?<last>" + DayText.Pattern + @")|(?<first>" + DayText.Pattern + @")(?:\s*(?:-|–|to|until)\s*(?<last>" + DayText.Pattern + @"))?)\s*[:,;–-]?\s*(?<name>[^()]*?)\s*(?:\((?<kind>[^()]*)\))?\s*$", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, 2000)]
    private static partial Regex Line();
}
