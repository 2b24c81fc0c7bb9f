using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>Days from one to another, both inclusive; one day where they are the same.</summary>
public readonly record struct DaySpan(LocalDate First, LocalDate Last)
{
    /// <summary>How many days.</summary>
    public int Length => Period.DaysBetween(First, Last) + 1;

    /// <summary>Each day.</summary>
    public IEnumerable<LocalDate> Days
    {
        get
        {
            for (var day = First; day <= Last; day = day.PlusDays(1))
                yield return day;
        }
    }
}

/// <summary>Days as they were written: "14 Sep", "3-5 Nov", "Nov 5, 12 and 19", "10/12 to 12/18".</summary>
/// <param name="Spans">In the order they were written in.</param>
/// <param name="IsRange">They are one range, whose begin and end were told.</param>
/// <param name="Problems">What is wrong with them, in sentences.</param>
internal sealed record DaysRead(ImmutableArray<DaySpan> Spans, bool IsRange, ImmutableArray<string> Problems);

/// <summary>
/// Reads days out of the pieces of a line. Each reading begins at a piece and gives the place of the one after it, or -1.
/// <code>
/// days    = group { (list | range) group }
/// group   = [weekday [","]] ( iso | figures | relative | number { (list | range) number } ["of"] month [year] | month number { (list |
/// range) number } [year] )
/// list    = "," | "and" | "&amp;" | "+"        range = "-" | "to" | "through" | "thru" | "until" | "till"
/// figures = number "/" number ["/" year] | number "." number "." [year]
/// </code>
/// A day without a year is the one nearest to a day that is given, within the school year if it can; the end of a range is the
/// first such day after its begin.
/// </summary>
internal sealed class DayReader(IReadOnlyList<Token> tokens, LocalDate near, bool monthFirst, DaySpan? schoolYear)
    : TokenReader(tokens)
{
    private const int FirstYear = 1950,
        LastYear = 2150;

    // A day before its year is known; the year of the last of a group counts for all of it.
    private readonly record struct Day(
        int? Year,
        int Month,
        int Number,
        IsoDayOfWeek Weekday,
        LocalDate? Fixed,
        bool EndsRange,
        string? Doubt = null
    );

    /// <summary>A single day, or null.</summary>
    public LocalDate? One(int at, out int next, out ImmutableArray<string> problems)
    {
        next = Read(at, out var read);
        problems = read?.Problems ?? [];
        if (next < 0 || read!.Spans is not [{ Length: 1 } only])
            return null;
        return only.First;
    }

    /// <summary>Days, where they begin at that piece.</summary>
    public int Read(int at, out DaysRead? read)
    {
        read = null;
        var days = new List<Day>();
        var next = Group(at, days);
        if (next < 0)
            return -1;
        var ranged = false;
        while (next < Tokens.Count)
        {
            var isRange = IsRange(next, out var after);
            if (!isRange && !IsList(next, out after))
                break;
            var before = days.Count;
            var further = Group(after, days);
            if (further < 0)
                break;
            if (isRange)
                days[before] = days[before] with { EndsRange = true };
            ranged |= isRange;
            next = further;
        }

        var problems = new List<string>();
        var spans = Spans(days, problems);
        if (spans is null)
            return -1;
        read = new DaysRead([.. spans], spans.Count == 1 && days.Count == 2 && days[1].EndsRange, [.. problems]);
        return next;
    }

    /// <summary>A month alone, "September", as its days; only where a word before it makes sense of it.</summary>
    public int Month(int at, out DaySpan span)
    {
        span = default;
        if (MonthAt(at, out var next) is not (> 0 and var month))
            return -1;
        var year = YearAt(next, out var after);
        if (year is not null)
            next = after;
        var first = Near(year, month, 1);
        span = new DaySpan(first!.Value, first.Value.PlusMonths(1).PlusDays(-1));
        return next;
    }

    /// <summary>Whether a word for "to" stands there.</summary>
    public bool IsRange(int at, out int next)
    {
        next = at + 1;
        if (SignAt(at) == '-')
            return true;
        if (WordAt(at) is "to" or "through" or "thru" or "until" or "till" or "til" or "bis")
        {
            if (WordAt(at) == "through" && WordAt(at + 1) == "to")
                next = at + 2;
            return true;
        }

        return WordAt(at) == "up" && WordAt(at + 1) == "to" && (next = at + 2) > 0;
    }

    /// <summary>Whether a sign or word for "and" stands there.</summary>
    public bool IsList(int at, out int next)
    {
        next = at + 1;
        if (SignAt(at) == ',')
        {
            if (WordAt(at + 1) is "and" or "und" or "or" || SignAt(at + 1) == '&')
                next = at + 2;
            return true;
        }

        return SignAt(at) is '&' or '+' || WordAt(at) is "and" or "und" or "or";
    }

    private int Group(int at, List<Day> days)
    {
        var start = days.Count;
        if (WordAt(at) is "the" or "on" && at + 1 < Tokens.Count)
            at++;
        if (Words.IsFeast(WordAt(at - 1), WordAt(at)))
            return -1;
        var weekday =
            Words.Weekday(WordAt(at)) is var day && day != IsoDayOfWeek.None && Words.IsLong(WordAt(at))
                ? day
                : IsoDayOfWeek.None;
        var from = at;
        if (weekday != IsoDayOfWeek.None)
        {
            from++;
            if (SignAt(from) is '.')
                from++;
            if (SignAt(from) is ',')
                from++;
            if (WordAt(from) == "the")
                from++;
        }

        var next = weekday == IsoDayOfWeek.None ? WeekOf(from, days) : -1;
        if (next < 0)
            next = Iso(from, days);
        if (next < 0)
            next = FiguresInRange(from, days);
        if (next < 0)
            next = Figures(from, days);
        if (next < 0)
            next = DayFirst(from, days);
        if (next < 0)
            next = MonthFirst(from, days);
        if (next < 0 && weekday == IsoDayOfWeek.None)
            next = Relative(at, days);
        // "Mon 9-10 …" is a weekday with a time: a weekday goes with one day, or with a list of them.
        if (
            next > 0
            && weekday != IsoDayOfWeek.None
            && days.Skip(start).Any(one => one.EndsRange && one.Weekday == IsoDayOfWeek.None)
        )
            return Undo(start, days);
        if (next > 0 && weekday != IsoDayOfWeek.None)
            days[start] = days[start] with { Weekday = weekday };
        return next;
    }

    // "week of April 12", "w/c 16 Nov", "week commencing 16 Nov": its five days from Monday on.
    private int WeekOf(int at, List<Day> days)
    {
        var next = WordAt(at) switch
        {
            "week" when WordAt(at + 1) is "of" or "commencing" or "beginning" or "starting" or "from" => at + 2,
            "w" when SignAt(at + 1) == '/' && WordAt(at + 2) is "c" or "b" or "o" && Glued(at + 1) && Glued(at + 2) =>
                at + 3,
            "wc" or "wb" => at + 1,
            _ => -1,
        };
        if (next < 0)
            return -1;
        var start = days.Count;
        var end = Group(next, days);
        if (end < 0 || days.Count != start + 1)
            return Undo(start, days);
        var problems = new List<string>();
        if (Spans([days[start] with { Doubt = null }], problems) is not [var span] || problems.Count > 0)
            return Undo(start, days);
        var monday =
            span.First.DayOfWeek == IsoDayOfWeek.Monday
                ? span.First
                : span.First.With(DateAdjusters.Previous(IsoDayOfWeek.Monday));
        days[start] = new Day(null, 0, 0, IsoDayOfWeek.None, monday, false);
        days.Add(new Day(null, 0, 0, IsoDayOfWeek.None, monday.PlusDays(4), true));
        return end;
    }

    // "2.-6.11.", "2. - 6.11.2026": two days of one month in figures.
    private int FiguresInRange(int at, List<Day> days)
    {
        if (
            NumberAt(at) is not (>= 1 and <= 31 and var first)
            || SignAt(at + 1) != '.'
            || !Glued(at + 1)
            || SignAt(at + 2) != '-'
            || NumberAt(at + 3) is not (>= 1 and <= 31 and var last)
            || SignAt(at + 4) != '.'
            || NumberAt(at + 5) is not (>= 1 and <= 12 and var month)
            || SignAt(at + 6) != '.'
        )
            return -1;
        var next = at + 7;
        int? year = null;
        if (NumberAt(next) is >= 0 and var digits && Glued(next) && Tokens[next].Text.Length is 2 or 4)
            (year, next) = (digits < 100 ? 2000 + digits : digits, next + 1);
        days.Add(new Day(year, month, first, IsoDayOfWeek.None, null, false));
        days.Add(new Day(year, month, last, IsoDayOfWeek.None, null, true));
        return next;
    }

    private int Iso(int at, List<Day> days)
    {
        if (
            NumberAt(at) is not (>= 1000 and <= 9999)
            || Tokens[at].Text.Length != 4
            || SignAt(at + 1) != '-'
            || NumberAt(at + 2) is not (>= 1 and <= 12)
            || SignAt(at + 3) != '-'
            || NumberAt(at + 4) is not (>= 1 and <= 31)
        )
            return -1;
        if (Tokens[at + 1].Stands || Tokens[at + 2].Stands || Tokens[at + 3].Stands || Tokens[at + 4].Stands)
            return -1;
        days.Add(new Day(NumberAt(at), NumberAt(at + 2), NumberAt(at + 4), IsoDayOfWeek.None, null, false));
        return at + 5;
    }

    // 10/12, 10/12/26, 12.10., 12.10.2026: by the school's order, or by the one that can be.
    private int Figures(int at, List<Day> days)
    {
        if (NumberAt(at) is not (>= 1 and <= 31 and var one) || Tokens[at].Text.Length > 2)
            return -1;
        var sign = SignAt(at + 1);
        if (
            sign is not ('/' or '.')
            || Glued(at + 1) == false
            || NumberAt(at + 2) is not (>= 1 and <= 31 and var two)
            || Tokens[at + 2].Text.Length > 2
            || !Glued(at + 2)
        )
            return -1;
        var next = at + 3;
        int? year = null;
        if (SignAt(next) == sign && Glued(next))
        {
            if (NumberAt(next + 1) is >= 0 and var digits && Glued(next + 1) && Tokens[next + 1].Text.Length is 2 or 4)
            {
                year = digits < 100 ? 2000 + digits : digits;
                next += 2;
            }
            else if (sign == '.')
                next++;
            else
                return -1;
        }
        else if (sign == '.')
        {
            return -1;
        }

        // A third number after a slash, or a number on either side of it, is no date.
        if (sign == '/' && SignAt(next) == '/' && Glued(next))
            return -1;
        // Marked by a month of 0 until the whole phrase tells which order can be.
        days.Add(new Day(year, 0, one * 100 + two, IsoDayOfWeek.None, null, false));
        return next;
    }

    private int DayFirst(int at, List<Day> days)
    {
        var start = days.Count;
        var next = NumberOfDay(at, out var number);
        if (next < 0)
            return -1;
        days.Add(new Day(null, 0, number, IsoDayOfWeek.None, null, false));
        while (MonthAfter(next, out _) < 0)
        {
            var isRange = IsRange(next, out var after);
            if (!isRange && !IsList(next, out after))
                return Undo(start, days);
            if (WordAt(after) == "the")
                after++;
            // "Thursday 22 and Friday 23 October"
            var own =
                Words.Weekday(WordAt(after)) is var named && named != IsoDayOfWeek.None && Words.IsLong(WordAt(after))
                    ? named
                    : IsoDayOfWeek.None;
            if (own != IsoDayOfWeek.None)
                after++;
            next = NumberOfDay(after, out number);
            if (next < 0 || (isRange && days[^1].EndsRange))
                return Undo(start, days);
            // "20-16 Nov" ends before it begins, which is told; "Art 9-10 14 Sep" is a time, and a day of its own.
            if (isRange && number <= days[^1].Number && (MonthAfter(next, out _) < 0 || number == days[^1].Number))
                return Undo(start, days);
            days.Add(
                new Day(
                    null,
                    0,
                    number,
                    own,
                    null,
                    isRange,
                    isRange && number < days[^1].Number
                        ? $"{days[^1].Number}-{number} ends before it begins. Write the first day first."
                        : null
                )
            );
        }

        next = MonthAfter(next, out var month);
        // "Chemistry 11 Nov 5", "9-10 Sept. 14": the month belongs to the number behind it, which would lack one.
        if (
            NumberOfDay(next, out var first) is > 0 and var behind
            && !IsTime(next)
            && YearAt(next, out _) is null
            && MonthAt(behind, out _) == 0
            && SignAt(behind) != '/'
        )
        {
            var isList = days.Count - start > 1 && !days.Skip(start).Any(one => one.EndsRange);
            var isSpan = SignAt(behind) == '-' && NumberAt(behind + 1) is >= 1 and <= 12 && first <= 12;
            var named =
                Words.Weekday(WordAt(at - 1)) != IsoDayOfWeek.None
                || (SignAt(at - 1) is ',' && Words.Weekday(WordAt(at - 2)) != IsoDayOfWeek.None);
            if (!isSpan && !(isList && SignAt(behind) == '-'))
                return Undo(start, days);
            // "19 Nov 9-12" may be one day from nine to twelve, or a class 19 on four days.
            if (!isList && !named && NumberAt(behind + 1) > first)
                days[start] = days[start] with
                {
                    Doubt =
                        $"It is not clear whether “{number} {Tokens[next - 1].Text} {first}-{NumberAt(behind + 1)}” is one day with a time, or the days {first} to {NumberAt(behind + 1)}. Write the time as {first}:00-{NumberAt(behind + 1)}:00, or the days first.",
                };
        }

        var year = YearAt(next, out var afterYear);
        if (year is not null)
            next = afterYear;
        for (var one = start; one < days.Count; one++)
            days[one] = days[one] with { Month = month, Year = year };
        return next;
    }

    private int MonthFirst(int at, List<Day> days)
    {
        if (MonthAt(at, out var next) is not (> 0 and var month))
            return -1;
        var start = days.Count;
        next = NumberOfDay(next, out var number);
        if (next < 0)
            return -1;
        days.Add(new Day(null, month, number, IsoDayOfWeek.None, null, false));
        while (true)
        {
            var isRange = IsRange(next, out var after);
            if (!isRange && !IsList(next, out after))
                break;
            if (WordAt(after) == "the")
                after++;
            var further = NumberOfDay(after, out number);
            // Not a number that is a time, a day of another month, or a year.
            // In "Mar 13-21 March Break" the second month is the begin of a name.
            if (
                further < 0
                || IsTime(after)
                || (MonthAfter(further, out var own) > 0 && !(isRange && own == month))
                || SignAt(further) is '/'
                || (isRange && number < days[^1].Number)
            )
                break;
            days.Add(new Day(null, month, number, IsoDayOfWeek.None, null, isRange));
            next = further;
        }

        var year = YearAt(next, out var afterYear);
        if (year is null)
            return next;
        for (var one = start; one < days.Count; one++)
            days[one] = days[one] with { Year = year };
        return afterYear;
    }

    private int Relative(int at, List<Day> days)
    {
        LocalDate? day = WordAt(at) switch
        {
            "today" => near,
            "tomorrow" => near.PlusDays(1),
            _ => null,
        };
        var next = at + 1;
        if (
            WordAt(at) is "next" or "this"
            && Words.Weekday(WordAt(at + 1)) is var weekday
            && weekday != IsoDayOfWeek.None
        )
        {
            // The next one from tomorrow on; "this" one may be today.
            day = WordAt(at) == "this" && near.DayOfWeek == weekday ? near : near.With(DateAdjusters.Next(weekday));
            next = at + 2;
        }

        if (day is null)
            return -1;
        days.Add(new Day(null, 0, 0, IsoDayOfWeek.None, day, false));
        return next;
    }

    // 5, 5th; not a time and not a part of a longer figure.
    private int NumberOfDay(int at, out int number)
    {
        number = NumberAt(at);
        if (number is not (>= 1 and <= 31) || Tokens[at].Text.Length > 2)
            return -1;
        var next = at + 1;
        if (WordAt(next) is "st" or "nd" or "rd" or "th" && Glued(next))
            next++;
        // "12., 13. und 14. Oktober": the mark of an ordinal, before another day or a month.
        else if (
            SignAt(next) == '.'
            && Glued(next)
            && (
                SignAt(next + 1) is ',' or '-'
                || WordAt(next + 1) is "und" or "bis" or "and" or "to"
                || Words.Month(WordAt(next + 1)) > 0
            )
        )
            next++;
        else if (
            next < Tokens.Count
            && Tokens[next].Kind == TokenKind.Word
            && Glued(next)
            && Words.Month(Tokens[next].Word) == 0
        )
            return -1;
        if (SignAt(next) is ':' && Glued(next) && NumberAt(next + 1) >= 0 && Glued(next + 1))
            return -1;
        // "18 Dec 12 sessions": a number of them, not a day.
        if (
            WordAt(next)
            is "sessions"
                or "classes"
                or "meetings"
                or "lessons"
                or "times"
                or "weeks"
                or "students"
                or "min"
                or "mins"
                or "minutes"
                or "hours"
        )
            return -1;
        return next;
    }

    // "Sep", "of September", ". Sep", "-Sep".
    private int MonthAfter(int at, out int month)
    {
        if (SignAt(at) is '.' or '-' && Glued(at))
            at++;
        if (WordAt(at) == "of")
            at++;
        month = MonthAt(at, out var next);
        return month > 0 ? next : -1;
    }

    private int MonthAt(int at, out int next)
    {
        next = at + 1;
        var month = Words.Month(WordAt(at));
        if (month > 0 && SignAt(next) == '.' && Glued(next))
            next++;
        return month;
    }

    private int? YearAt(int at, out int next)
    {
        if (SignAt(at) is ',' or '-' && NumberAt(at + 1) is >= 1000 and <= 9999)
            at++;
        next = at + 1;
        return
            NumberAt(at) is >= 1000 and <= 9999 and var year
            && Tokens[at].Text.Length == 4
            && SignAt(next) is not (':' or '-')
            && year is >= FirstYear and <= LastYear
            ? year
            : null;
    }

    /// <summary>Whether a time begins there rather than a day: 9:00, 6pm, 9-10am, 9h.</summary>
    private bool IsTime(int at)
    {
        if (SignAt(at + 1) is ':' or '.' && NumberAt(at + 2) >= 0 && Glued(at + 2) && Tokens[at + 2].Text.Length == 2)
            return true;
        if (
            WordAt(at + 1) is "am" or "pm" or "h" or "min" or "hours" or "hour" or "o'clock"
            || (WordAt(at + 1) is "a" or "p" && Glued(at + 1))
        )
            return true;
        if (
            SignAt(at + 1) == '-'
            && NumberAt(at + 2) >= 0
            && (
                WordAt(at + 3) is "am" or "pm" or "h"
                || (WordAt(at + 3) is "a" or "p" && Glued(at + 3))
                || (SignAt(at + 3) == ':' && Glued(at + 3))
            )
        )
            return true;
        if (
            WordAt(at + 1) == "to"
            && NumberAt(at + 2) >= 0
            && (WordAt(at + 3) is "am" or "pm" || SignAt(at + 3) == ':')
        )
            return true;
        // A bare "9-10" behind a comma is a time, too.
        return SignAt(at + 1) == '-' && NumberAt(at + 2) is >= 0 and <= 24 && at > 0 && SignAt(at - 1) == ',';
    }

    private List<DaySpan>? Spans(List<Day> days, List<string> problems)
    {
        if (Ordered(days) is not { } ordered)
            return null;
        var spans = new List<DaySpan>();
        foreach (var day in ordered)
        {
            var previous = spans.Count == 0 ? (LocalDate?)null : spans[^1].Last;
            var date = day.Fixed
                ?? (day.EndsRange && previous is { } begin ? After(begin, day) : Near(day.Year, day.Month, day.Number));
            if (date is not { } found)
            {
                if (day.Month is < 1 or > 12)
                    return null;
                problems.Add(
                    $"{day.Number} {new LocalDate(2000, day.Month, 1).ToString("MMMM", System.Globalization.CultureInfo.InvariantCulture)}{(day.Year is { } year ? $" {year}" : "")} is on no calendar."
                );
                spans.Add(new DaySpan(near, near));
                continue;
            }

            if (day.Doubt is { } doubt)
                problems.Add(doubt);
            if (day is { Doubt: not null, EndsRange: true })
                continue;
            if (day.Weekday != IsoDayOfWeek.None && found.DayOfWeek != day.Weekday)
                problems.Add($"{Wording.WithYear(found)} is a {found.DayOfWeek}, not a {day.Weekday}.");
            if (!day.EndsRange || previous is null)
                spans.Add(new DaySpan(found, found));
            else if (found < previous)
                problems.Add(
                    $"It ends on {Wording.WithYear(found)}, before it starts on {Wording.WithYear(previous.Value)}."
                );
            else
                spans[^1] = spans[^1] with { Last = found };
        }

        return spans;
    }

    // Figures get their order: the school's, unless only the other one can be; all of a phrase in the same.
    private List<Day>? Ordered(List<Day> days)
    {
        var figures = days.Where(day => day is { Month: 0, Fixed: null }).ToList();
        if (figures.Count == 0)
            return days;
        foreach (var order in new[] { monthFirst, !monthFirst })
        {
            var read = figures.ConvertAll(day =>
                order
                    ? (Month: day.Number / 100, Number: day.Number % 100)
                    : (Month: day.Number % 100, Number: day.Number / 100)
            );
            if (read.Exists(one => one.Month is < 1 or > 12 || one.Number > DateTime.DaysInMonth(2000, one.Month)))
                continue;
            var at = 0;
            return days.ConvertAll(day =>
                day is { Month: 0, Fixed: null } ? day with { Month = read[at].Month, Number = read[at++].Number } : day
            );
        }

        return null;
    }

    private LocalDate? Near(int? year, int month, int number)
    {
        if (year is { } known)
            return Make(known, month, number);
        return new[] { near.Year - 1, near.Year, near.Year + 1 }
            .Select(one => Make(one, month, number))
            .OfType<LocalDate>()
            .OrderBy(date =>
                schoolYear is { } year && (date < year.First.PlusDays(-45) || date > year.Last.PlusDays(70))
            )
            .ThenBy(date => Math.Abs(Period.DaysBetween(near, date)))
            .Cast<LocalDate?>()
            .FirstOrDefault();
    }

    // The end of a range: in the begin's year, or in the next where the range then stays within a school year.
    private LocalDate? After(LocalDate begin, Day day)
    {
        if (day.Year is { } year)
            return Make(year, day.Month, day.Number);
        var same = Make(begin.Year, day.Month, day.Number);
        if (same >= begin)
            return same;
        var next = Make(begin.Year + 1, day.Month, day.Number);
        var latest = schoolYear is { } span && begin <= span.Last ? span.Last.PlusDays(62) : begin.PlusDays(285);
        return next <= latest ? next : same ?? next;
    }

    private static LocalDate? Make(int year, int month, int day) =>
        year is >= FirstYear and <= LastYear
        && month is >= 1 and <= 12
        && day >= 1
        && day <= CalendarSystem.Iso.GetDaysInMonth(year, month)
            ? new LocalDate(year, month, day)
            : null;

    private static int Undo(int start, List<Day> days)
    {
        days.RemoveRange(start, days.Count - start);
        return -1;
    }
}
