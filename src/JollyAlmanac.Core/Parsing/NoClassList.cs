using System.Collections.Immutable;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>
/// Reads a pasted list of no-class days, a line each, the day before its name or behind it: "12 Oct Thanksgiving", "Nov 26-27
/// Thanksgiving", "Winter break: Dec. 19 – Jan. 3", "Teachers' conference (staff day) 22-23 Oct". Several days on a line have the
/// same name.
/// </summary>
public static partial class NoClassList
{
    /// <summary>The most lines that are read.</summary>
    public const int MostLines = 400;

    /// <summary>The longest line.</summary>
    public const int LongestLine = 300;

    private static readonly string[] Empty =
    [
        "no school",
        "no classes",
        "no class",
        "school closed",
        "schools closed",
        "closed",
        "students off",
        "holiday",
        "day off",
    ];

    private static readonly string[] OtherBells =
    [
        "early dismissal",
        "early release",
        "half day",
        "half-day",
        "late start",
        "delayed",
        "minimum day",
        "shortened",
        "noon dismissal",
    ];

    private static readonly string[] WithClass =
    [
        "make-up day",
        "makeup day",
        "make up day",
        "last day of",
        "first day of",
        "school closes for",
        "school begins",
        "school resumes",
        "term ends",
        "term begins",
        "term starts",
        "end of term",
        "start of term",
        "semester ends",
        "semester begins",
        "classes begin",
        "classes resume",
        "back to school",
        "first day back",
        "school reopens",
        "students return",
        "return to school",
    ];

    private static readonly string[] Joining = ["from", "on", "is", "are", "between", "the", "of"];

    /// <summary>Reads the list.</summary>
    /// <param name="text">The lines.</param>
    /// <param name="near">Days without a year are near it.</param>
    /// <param name="monthFirst">In figures the month comes first.</param>
    /// <param name="schoolYear">The school year, where it is known: days without a year lie in it.</param>
    /// <returns>The days in order of the lines, and for each line that cannot be read why.</returns>
    public static (ImmutableArray<NoClassDay> Days, ImmutableArray<string> Problems) Read(
        string text,
        LocalDate near,
        bool monthFirst = false,
        DaySpan? schoolYear = null
    )
    {
        var days = ImmutableArray.CreateBuilder<NoClassDay>();
        var problems = ImmutableArray.CreateBuilder<string>();
        var lines = text.ReplaceLineEndings("\n")
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length > MostLines)
            problems.Add($"These are {lines.Length} lines; {MostLines} are read.");
        foreach (var line in lines.Take(MostLines))
        {
            var (read, problem) =
                line.Length > LongestLine
                    ? ([], "is too long for one line")
                    : ReadLine(line, near, monthFirst, schoolYear);
            if (problem is not null)
                problems.Add($"“{(line.Length > 60 ? line[..60] + "…" : line)}” {problem}.");
            else
                days.AddRange(read);
        }

        return (days.ToImmutable(), problems.ToImmutable());
    }

    private static (ImmutableArray<NoClassDay> Days, string? Problem) ReadLine(
        string line,
        LocalDate near,
        bool monthFirst,
        DaySpan? schoolYear
    )
    {
        // "1. Nov 12 Remembrance": the number of a line of a list, before a day of its own.
        line = ListNumber().Replace(line, "");
        var tokens = Token.Of(line);
        var reader = new DayReader(tokens, near, monthFirst, schoolYear);
        var spans = new List<DaySpan>();
        var rest = new System.Text.StringBuilder();
        var (isRead, wasDay) = (false, false);
        for (var at = 0; at < tokens.Count; )
        {
            // Days stand together: after them the name may hold numbers of its own.
            if (!isRead || (wasDay && IsMore(at)))
            {
                if (reader.Read(isRead ? at + 1 : at, out var read) is > 0 and var next)
                {
                    if (read!.Problems is [var wrong, ..])
                        return ([], "is not right: " + wrong.TrimEnd('.'));
                    spans.AddRange(read.Spans);
                    (isRead, wasDay, at) = (true, true, next);
                    continue;
                }
            }

            // "Sept 7 (Mon) Labour Day": the weekday of what was read.
            if (
                wasDay
                && tokens[at].Sign == '('
                && at + 2 < tokens.Count
                && Words.Weekday(tokens[at + 1].Word) is var weekday
                && weekday != IsoDayOfWeek.None
                && tokens[at + 2].Sign == ')'
            )
            {
                if (spans[^1].Last.DayOfWeek != weekday)
                    return (
                        [],
                        $"is not right: {Wording.WithYear(spans[^1].Last)} is a {spans[^1].Last.DayOfWeek}, not a {weekday}"
                    );
                at += 3;
                continue;
            }

            wasDay = false;
            rest.Append(tokens[at].Stands && rest.Length > 0 ? " " : "")
                .Append(tokens[at].Kind == TokenKind.Quoted ? tokens[at].Text : line[tokens[at].At..tokens[at].End]);
            at++;
        }

        if (spans.Count == 0)
            return ([], "names no day. Write it like “12 Oct Thanksgiving”");
        if (LeftOver(tokens, reader) is { } second)
            return ([], $"holds a second day, “{second}”, and it is not clear what it is for. Write a line for each");
        var (name, kind) = NameOf(rest.ToString());
        if (name.Length == 0 || Words.Month(name.ToLowerInvariant()) > 0)
            return ([], "has no name. Write what the day is beside it");
        // A number that was meant as a day would stay in the name, and its day be lost.
        if (DaysInName().IsMatch(name))
            return ([], "holds numbers that were not understood as days. Write it like “22-23 Oct Conference”");
        if (WithClass.Any(word => name.Contains(word, StringComparison.OrdinalIgnoreCase)))
            return (
                [],
                "sounds like a day with class, so it is left out of this list. If it has none, give it another name"
            );
        if (OtherBells.Any(word => name.Contains(word, StringComparison.OrdinalIgnoreCase)))
            return ([], "sounds like a day with other bells, not one without class. Enter it under Shortened days");
        if (
            Token.Of(name) is var words
            && words
                .Where(
                    (token, at) =>
                        Words.Weekday(token.Word) != IsoDayOfWeek.None
                        && at + 1 < words.Count
                        && words[at + 1].Number is >= 1 and <= 31
                )
                .Any()
        )
            return ([], "holds a day that was not understood. Write it like “22-23 Oct Conference”");
        return ([.. Joined(spans).Select(span => new NoClassDay(span.First, span.Last, name, kind))], null);

        bool IsMore(int at) => reader.IsList(at, out _) && at + 1 < tokens.Count;
    }

    // A day in the name, too: it would be lost.
    private static string? LeftOver(List<Token> tokens, DayReader reader)
    {
        var (groups, ended) = (0, -1);
        for (var at = 0; at < tokens.Count; )
        {
            if (reader.Read(at, out var read) is > 0 and var next)
            {
                if (++groups > 1 && !(ended == at - 1 && reader.IsList(ended, out _)))
                    return Wording.Days(read!.Spans[0].First, read.Spans[^1].Last);
                (at, ended) = (next, next);
            }
            else
                at++;
        }

        return null;
    }

    // Days in a row are one range: "Nov 12, 13 Break".
    private static List<DaySpan> Joined(List<DaySpan> spans)
    {
        var joined = new List<DaySpan>();
        foreach (var span in spans.OrderBy(span => span.First))
        {
            if (joined.Count > 0 && span.First <= joined[^1].Last.PlusDays(1))
                joined[^1] = new DaySpan(joined[^1].First, LocalDate.Max(joined[^1].Last, span.Last));
            else
                joined.Add(span);
        }

        return joined;
    }

    private static (string Name, NoClassKind Kind) NameOf(string rest)
    {
        static string Bare(string text) =>
            text.Trim(' ', ',', ':', ';', '-', '–', '—', '•', '*', '|', '/', '.', '\t', '·');
        // "(PD day)" is called so without its brackets.
        static string Trimmed(string text) =>
            Bare(text) is ['(', .. var within, ')'] && !within.Contains('(', StringComparison.Ordinal)
                ? Bare(within)
                : Bare(text);
        var name = Trimmed(rest);
        // "(staff day)" tells the kind, and is no part of the name where another is left.
        var kind = KindOf(name);
        var open = name.LastIndexOf('(');
        if (
            open > 0
            && name.EndsWith(')')
            && (
                KindOf(name[open..]) != NoClassKind.Holiday
                || Empty.Contains(name[(open + 1)..^1].Trim().ToLowerInvariant())
            )
        )
            name = Trimmed(name[..open]);
        foreach (var empty in Empty)
        {
            if (name.Length <= empty.Length + 2)
                continue;
            if (
                name.StartsWith(empty, StringComparison.OrdinalIgnoreCase)
                && name[empty.Length] is ':' or '-' or '–' or ',' or ';' or ' '
                && Trimmed(name[empty.Length..]) is { Length: > 2 } left
                && name[empty.Length..].TrimStart() is [':' or '-' or '–' or ',' or ';', ..]
            )
                name = left;
            else if (
                name.EndsWith(empty, StringComparison.OrdinalIgnoreCase)
                && name[..^empty.Length].TrimEnd() is [.., ':' or '-' or '–' or ',' or ';' or '.']
                && Trimmed(name[..^empty.Length]) is { Length: > 2 } first
            )
                name = first;
        }

        // Brackets that held the days are empty now.
        name = Trimmed(name.Replace("()", "", StringComparison.Ordinal).Replace("( )", "", StringComparison.Ordinal));
        var words = name.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToList();
        while (words.Count > 1 && words[^1].Trim('(', ')').ToLowerInvariant() is "inclusive" or "incl." or "incl")
            words.RemoveAt(words.Count - 1);
        while (
            words.Count > 1
            && words[0].Trim('(', ')', ',', ':').ToLowerInvariant() is "inclusive" or "incl." or "incl" or "-" or "–"
        )
            words.RemoveAt(0);
        while (words.Count > 1 && Joining.Contains(words[^1].TrimEnd(':', ',').ToLowerInvariant()))
            words.RemoveAt(words.Count - 1);
        while (words.Count > 1 && Joining.Take(5).Contains(words[0].ToLowerInvariant()))
            words.RemoveAt(0);
        name = Trimmed(string.Join(' ', words));
        return (name.Any(char.IsLetter) ? name : "", kind);
    }

    [GeneratedRegex(@"^\s*\d{1,2}[.)]\s+(?=\p{L}{3,9}\.?\s+\d{1,2}(?!\d)[^:.]*\p{L})")]
    private static partial Regex ListNumber();

    [GeneratedRegex(@"^\d{1,2}\.?\s*(,|-|–|und\b|and\b|bis\b)|\b\d{1,2}\.\s*(und|bis)\b|^\d{1,2}\.?$")]
    private static partial Regex DaysInName();

    private static NoClassKind KindOf(string text)
    {
        var name = text.ToLowerInvariant();
        bool Has(params string[] words) => words.Any(word => name.Contains(word, StringComparison.Ordinal));
        return Has(
                "staff",
                "conference",
                "in-service",
                "inservice",
                "professional",
                "teacher work",
                "pd day",
                "planning day"
            )
                ? NoClassKind.StaffDay
            : Has("exam") ? NoClassKind.Examination
            : Has("weather", "storm", "snow", "ferry") ? NoClassKind.Weather
            : NoClassKind.Holiday;
    }
}
