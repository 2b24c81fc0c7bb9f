using System.Collections.Immutable;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>
/// Reads a line of quick entry: phrases one after the other, what is left is the title, and what is left then is told. The table
/// of phrases stands in docs/quick-entry.md.
/// </summary>
internal sealed class LineReader : TokenReader
{
    private enum Kind
    {
        Days,
        Every,
        Places,
        MonthDays,
        Yearly,
        Cycle,
        Dates,
        From,
        Until,
        Count,
        Weeks,
        Time,
        Length,
        Period,
        AllDay,
        Except,
        Place,
        Numbered,
        Link,
        Title,
        Doubt,
        Left,
    }

    // A phrase, or a word that is none.
    private sealed record Phrase(Kind Kind, int From, int To, string Read)
    {
        public ImmutableArray<IsoDayOfWeek> Days { get; init; } = [];

        public ImmutableArray<WeekdayPlace> Places { get; init; } = [];

        public ImmutableArray<string> Names { get; init; } = [];

        public ImmutableArray<DaySpan> Spans { get; init; } = [];

        public bool IsRange { get; init; }

        public int Number { get; init; }

        public TimeRead? Time { get; init; }

        public Extent? Extent { get; init; }

        public string Text { get; init; } = "";

        public ImmutableArray<string> Problems { get; init; } = [];
    }

    // Days and times that belong together.
    private sealed class Pattern
    {
        public List<Phrase> Days { get; } = [];

        public Phrase? Time { get; set; }

        public Phrase? Length { get; set; }
    }

    private static readonly string[] Fillers =
    [
        "and",
        "on",
        "at",
        "in",
        "from",
        "to",
        "the",
        "for",
        "of",
        "meets",
        "meet",
        "is",
        "will",
        "be",
        "held",
        "class",
        "classes",
        "session",
        "sessions",
        "time",
        "times",
        "days",
        "day",
        "when",
        "runs",
        "with",
        "a",
    ];

    // What a number in a title belongs to.
    private static readonly string[] Numbered =
    [
        "year",
        "yr",
        "grade",
        "form",
        "level",
        "unit",
        "stage",
        "part",
        "module",
        "block",
        "set",
        "group",
        "class",
        "math",
        "maths",
        "physics",
        "chemistry",
        "biology",
        "science",
        "english",
        "french",
        "german",
        "spanish",
        "history",
        "geography",
        "calculus",
        "algebra",
    ];

    private static readonly string[] TitleTail =
    [
        "on",
        "at",
        "meets",
        "meet",
        "from",
        "is",
        "for",
        "in",
        "the",
        "runs",
        "will",
        "be",
        "held",
    ];

    private readonly string line;
    private readonly SchoolTime school;
    private readonly LocalDate near;
    private readonly DayReader days;
    private readonly TimeReader times;

    public LineReader(string line, SchoolTime school, LocalDate near)
        : base(Token.Of(line))
    {
        (this.line, this.school, this.near) = (line, school, near);
        days = new DayReader(Tokens, near, school.MonthFirst, YearOf(school, near));
        times = new TimeReader(Tokens);
    }

    /// <summary>The school year that a day lies in or comes before; null where no term is known.</summary>
    public static DaySpan? YearOf(SchoolTime school, LocalDate near)
    {
        if (school.TermToShow(near) is not { } term)
            return null;
        var terms = school.Terms.Where(one => one.Year == term.Year).ToList();
        return new DaySpan(terms.Min(one => one.First), terms.Max(one => one.Last));
    }

    private static LocalDate? EndOf(SchoolTime school, LocalDate near) => YearOf(school, near)?.Last;

    public ImmutableArray<QuickReading> Read()
    {
        var phrases = Phrases();
        var title = TitleOf(phrases);
        return Assemble(phrases, title);
    }

    private List<Phrase> Phrases()
    {
        var phrases = new List<Phrase>();
        for (var at = 0; at < Tokens.Count; )
        {
            var token = Tokens[at];
            if (PhraseAt(at, phrases) is { } phrase)
            {
                phrases.Add(phrase);
                at = phrase.To;
            }
            else if (token.Kind == TokenKind.Sign)
            {
                // Signs part what stands on both sides; within a title they are a part of it.
                at++;
            }
            else
            {
                phrases.Add(new Phrase(Kind.Left, at, at + 1, ""));
                at++;
            }
        }

        return phrases;
    }

    private Phrase? PhraseAt(int at, List<Phrase> before)
    {
        var token = Tokens[at];
        if (token.Kind == TokenKind.Address)
            return new Phrase(Kind.Link, at, at + 1, token.Text) { Text = token.Text };
        if (token.Kind == TokenKind.Quoted)
            return new Phrase(Kind.Title, at, at + 1, token.Text) { Text = token.Text };
        return DoubtAt(at)
            ?? ExceptAt(at)
            ?? OpenAt(at)
            ?? EndAt(at)
            ?? FromAt(at)
            ?? PeriodAt(at)
            ?? CycleAt(at)
            ?? EveryAt(at)
            ?? MonthlyAt(at)
            ?? AllDayAt(at)
            ?? DatesAt(at)
            ?? CountAt(at)
            ?? DaysAt(at)
            ?? LengthAt(at)
            ?? TimeAt(at)
            ?? PlaceAt(at, before)
            ?? NumberedAt(at);
    }

    // What means something that no pattern says, or not for certain: "every second day", "twice a week", "odd weeks".
    private Phrase? DoubtAt(int at)
    {
        var next = at;
        if (WordAt(at) is "every" or "each")
        {
            var number =
                NumberAt(at + 1) > 0 ? NumberAt(at + 1)
                : WordAt(at + 1) == "other" ? 2
                : Words.Number(WordAt(at + 1)) > 1 ? Words.Number(WordAt(at + 1))
                : Words.Ordinal(WordAt(at + 1));
            if (number < 2)
                return null;
            next = at + 2;
            if (WordAt(next) is "st" or "nd" or "rd" or "th")
                next++;
            if (WordAt(next) is "school" or "class")
                next++;
            if (WordAt(next) is not ("day" or "days"))
                return null;
            return Doubt(
                at,
                next + 1,
                "counts days, and it is not clear whether weekends and no-class days count. Name the weekdays, or the days of the cycle."
            );
        }

        if (
            WordAt(at) is "twice" or "thrice"
            || (WordAt(at + 1) is "times" && (NumberAt(at) > 0 || Words.Number(WordAt(at)) > 1))
        )
        {
            next = WordAt(at) is "twice" or "thrice" ? at + 1 : at + 2;
            if (
                WordAt(next) is "a" or "each" or "every" or "per"
                && WordAt(next + 1) is "week" or "month" or "day" or "fortnight"
            )
                next += 2;
            else if (WordAt(next) is "weekly" or "monthly")
                next++;
            else
                return null;
            return Doubt(at, next, "does not say on which days. Name them.");
        }

        if (WordAt(at) is "odd" or "even" && WordAt(at + 1) is "week" or "weeks")
            return Doubt(
                at,
                at + 2,
                "counts weeks by their number, which the almanac does not. Write every other week and a first day."
            );
        return WordAt(at) is "week" or "weeks" && Tokens.ElementAtOrDefault(at + 1) is { Text: "A" or "B" } && at > 0
            ? Doubt(
                at,
                at + 2,
                "names weeks of a timetable, which the almanac does not know. Write every other week and a first day."
            )
            : null;
    }

    private Phrase Doubt(int from, int to, string why) =>
        new(Kind.Doubt, from, to, "") { Problems = [$"“{Written(from, to)}” {why}"] };

    // "no end", "until further notice", "open-ended", "ongoing".
    private Phrase? OpenAt(int at)
    {
        var next = WordAt(at) switch
        {
            "no" when WordAt(at + 1) == "end" => WordAt(at + 2) == "date" ? at + 3 : at + 2,
            "without" when WordAt(at + 1) == "end" => at + 2,
            "without" when WordAt(at + 1) is "an" && WordAt(at + 2) == "end" => at + 3,
            "until" or "till" when WordAt(at + 1) == "further" && WordAt(at + 2) == "notice" => at + 3,
            "open" when WordAt(at + 1) == "ended" => at + 2,
            "open" when SignAt(at + 1) == '-' && WordAt(at + 2) == "ended" => at + 3,
            "ongoing" or "indefinitely" => at + 1,
            _ => -1,
        };
        return next < 0 ? null : new Phrase(Kind.Until, at, next, "without an end") { Extent = new Extent.Open() };
    }

    // "except 26-30 Oct", "not 27 Oct", "no class 9 Nov", "except Fridays", "except Thanksgiving".
    private Phrase? ExceptAt(int at)
    {
        var next = WordAt(at) switch
        {
            "except"
            or "excluding"
            or "excl"
            or "without"
            or "skip"
            or "skipping"
            or "skips"
            or "omit"
            or "omitting"
            or "minus" => at + 1,
            "not" => at + 1,
            "but" when WordAt(at + 1) == "not" => at + 2,
            "no"
                when WordAt(at + 1)
                    is "class"
                        or "classes"
                        or "session"
                        or "sessions"
                        or "school"
                        or "meeting"
                        or "meetings" => at + 2,
            _ => -1,
        };
        if (next < 0)
            return null;
        while (WordAt(next) is "on" or "for" or "the" or "during" || SignAt(next) is '.' or ':')
            next++;
        var spans = new List<DaySpan>();
        var problems = new List<string>();
        var end = next;
        while (true)
        {
            if (days.Read(end, out var read) is > 0 and var after)
            {
                spans.AddRange(read!.Spans);
                problems.AddRange(read.Problems);
                end = after;
            }
            else if (NoClassAt(end, out after) is { } noClass)
            {
                spans.Add(new DaySpan(noClass.First, noClass.Last));
                end = after;
            }
            else
            {
                break;
            }

            if (
                (!days.IsList(end, out after) && !(WordAt(end) == "or" && (after = end + 1) > 0))
                || (days.Read(after, out _) < 0 && NoClassAt(after, out _) is null)
            )
                break;
            end = after;
        }

        if (spans.Count > 0)
            return new Phrase(
                Kind.Except,
                at,
                end,
                $"not on {Wording.List([.. spans.Select(span => Wording.Days(span.First, span.Last))])}"
            )
            {
                Spans = [.. spans],
                Problems = [.. problems],
            };
        return DaysAt(next) is { Kind: Kind.Days } off
            ? new Phrase(Kind.Except, at, off.To, $"not on {off.Read}") { Days = off.Days }
            : null;
    }

    // "until 30 Nov", "thru Dec 7", "ends Dec 7", "till Thanksgiving", "until the end of term", "through June".
    private Phrase? EndAt(int at)
    {
        var next = WordAt(at) switch
        {
            "until" or "till" or "til" or "thru" or "through" or "to" => at + 1,
            "ends"
            or "ending"
            or "end"
            or "finishes"
            or "finishing"
            or "last" when WordAt(at + 1) != "of" && Words.Weekday(WordAt(at + 1)) == IsoDayOfWeek.None => at + 1,
            "up" when WordAt(at + 1) == "to" => at + 2,
            _ => -1,
        };
        if (next < 0)
            return TermAt(at);
        while (
            WordAt(next) is "on" or "by" or "with" or "including"
            || (WordAt(next) is "day" or "session" && WordAt(at) == "last")
            || SignAt(next) is ':'
        )
            next++;
        if (days.Read(next, out var read) is > 0 and var after && read!.Spans is [{ Length: 1 } only])
            return Until(at, after, only.First, read.Problems);
        if (TermAt(next) is { } term)
            return term with { From = at };
        if (WordAt(next) == "the" && NoClassAt(next + 1, out after) is { } late)
            return Until(at, after, late.First, []);
        if (NoClassAt(next, out after) is { } noClass)
            return Until(at, after, noClass.First, []);
        return days.Month(next, out var month) is > 0 and var behind ? Until(at, behind, month.Last, []) : null;
    }

    private static Phrase Until(int from, int to, LocalDate day, ImmutableArray<string> problems) =>
        new(Kind.Until, from, to, $"until {Wording.WithYear(day)}")
        {
            Extent = new Extent.Until(day),
            Problems = problems,
        };

    // "with the term", "all term", "until the end of term", "autumn term", "all year".
    private Phrase? TermAt(int at)
    {
        var next = at;
        var isSaid = false;
        while (
            WordAt(next)
                is "with"
                    or "all"
                    or "for"
                    or "whole"
                    or "entire"
                    or "the"
                    or "this"
                    or "end"
                    or "of"
                    or "during"
                    or "throughout"
                    or "in"
        )
            isSaid |= WordAt(next++) is not ("in" or "the" or "of");
        if (isSaid && WordAt(next) == "school" && WordAt(next + 1) == "year")
            next++;
        if (isSaid && WordAt(next) == "year" && EndOf(school, near) is { } last)
            return new Phrase(Kind.Until, at, next + 1, $"the whole school year, until {Wording.WithYear(last)}")
            {
                Extent = new Extent.Until(last),
            };
        foreach (var term in school.Terms.OrderBy(term => term.Last < near))
        {
            if (
                Follows(next, term.Name, out var after)
                || (
                    WordAt(next + 1) is "term" or "semester"
                    && Follows(next, term.Name.Split(' ')[0], out after)
                    && ++after > 0
                )
            )
                return new Phrase(Kind.Until, at, after, $"with the {term.Name}")
                {
                    Extent = new Extent.WithTerm(term.Id),
                };
        }

        return isSaid && WordAt(next) is "term" or "semester" && school.TermToShow(near) is { } now
            ? new Phrase(Kind.Until, at, next + 1, $"with the {now.Name}") { Extent = new Extent.WithTerm(now.Id) }
            : null;
    }

    // "from 14 Sep", "starting Mon 14 Sep", "beginning September", "as of 14 Sep".
    private Phrase? FromAt(int at)
    {
        var next = WordAt(at) switch
        {
            "from"
            or "starting"
            or "starts"
            or "start"
            or "beginning"
            or "begins"
            or "begin"
            or "since"
            or "effective"
            or "commencing" => at + 1,
            "as" when WordAt(at + 1) is "of" or "from" => at + 2,
            "first" when WordAt(at + 1) is "day" or "session" or "class" or "meeting" => at + 2,
            _ => -1,
        };
        if (next < 0)
            return null;
        while (WordAt(next) is "on" or "the" or "is" || SignAt(next) is ':')
            next++;
        if (
            WordAt(next) == "next"
            && WordAt(next + 1) == "week"
            && near.With(DateAdjusters.Next(school.FirstDayOfWeek)) is var week
        )
            return new Phrase(Kind.From, at, next + 2, $"from {Wording.WithWeekday(week)} {week.Year}")
            {
                Spans = [new DaySpan(week, week)],
            };
        if (days.Read(next, out var read) is > 0 and var after && read!.Spans is [var only])
            return new Phrase(Kind.From, at, after, Told(read))
            {
                Spans = [only],
                IsRange = read.IsRange || only.Length > 1,
                Problems = read.Problems,
            };
        return days.Month(next, out var month) is > 0 and var behind && !days.IsRange(behind, out _)
            ? new Phrase(Kind.From, at, behind, $"from {Wording.WithYear(month.First)}")
            {
                Spans = [new DaySpan(month.First, month.First)],
            }
            : null;
    }

    private static string Told(DaysRead read) =>
        read.Spans is [{ Length: 1 } only] ? $"{Wording.WithWeekday(only.First)} {only.First.Year}"
        : read.Spans is [var range] ? $"{Wording.WithYear(range.First)} to {Wording.WithYear(range.Last)}"
        : Wording.List([.. read.Spans.Select(span => Wording.Days(span.First, span.Last))]);

    private Phrase? DatesAt(int at)
    {
        // "5 weeks", "3 weekly", "9 to 10": numbers that are no days are left to others.
        if (days.Read(at, out var read) is not (> 0 and var next))
            return null;
        var isEither = Enumerable.Range(at, next - at).Any(one => WordAt(one) == "or");
        return new Phrase(Kind.Dates, at, next, Told(read!))
        {
            Spans = read!.Spans,
            IsRange = read.IsRange || read.Spans is [{ Length: > 1 }],
            Problems = isEither
                ? [.. read.Problems, $"“{Written(at, next)}” leaves open which day it is. Keep one."]
                : read.Problems,
        };
    }

    // "p3", "period 4", "pd 4", "3rd period".
    private Phrase? PeriodAt(int at)
    {
        if (WordAt(at) is "in" or "at" or "during" && PeriodAt(at + 1) is { } within)
            return within with { From = at };
        var (name, next) = ("", at);
        if (WordAt(at) is "p" or "per" or "pd" or "period" or "prd" && (WordAt(at) != "p" || Tokens[at].Stands))
        {
            next = at + 1;
            if (SignAt(next) is '.' or '#')
                next++;
            if (
                WordAt(at) == "p"
                && next < Tokens.Count
                && Tokens[next].Stands
                && Tokens[next].Kind != TokenKind.Number
            )
                return null;
            (name, next) = (NameAt(next), next + 1);
        }
        else if (
            NumberAt(at) is > 0 and < 20
            && WordAt(at + 1) is "st" or "nd" or "rd" or "th"
            && WordAt(at + 2) is "period" or "pd" or "per"
        )
        {
            (name, next) = (Tokens[at].Text, at + 3);
        }
        else if (Words.Ordinal(WordAt(at)) > 0 && WordAt(at + 1) is "period" or "pd")
        {
            (name, next) = (
                Words.Ordinal(WordAt(at)).ToString(System.Globalization.CultureInfo.InvariantCulture),
                at + 2
            );
        }

        if (name.Length == 0)
            return null;
        if (
            school.Bells.Periods.FirstOrDefault(period =>
                period.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
            ) is
            { } found
        )
            return new Phrase(Kind.Period, at, next, $"period {found.Name}, {Wording.Span(found.Start, found.End)}")
            {
                Text = found.Name,
            };
        return new Phrase(Kind.Period, at, next, $"period {name}")
        {
            Problems =
            [
                school.Bells.Periods.IsEmpty
                    ? "The school has no bells, so a period means nothing here. Write its times, or have the bells set under School time."
                    : $"The bells have no period “{name}”.",
            ],
        };
    }

    // "days 2 and 5", "Day 1/3", "cycle day 4", "A/B days".
    private Phrase? CycleAt(int at)
    {
        var start = WordAt(at) == "cycle" && WordAt(at + 1) is "day" or "days" ? at + 1 : at;
        var names = new List<string>();
        var next = -1;
        // "Open day 10/17/2026" names a date.
        if (
            WordAt(start) is "day" or "days"
            && SignAt(start + 2) == '/'
            && (NumberAt(start + 3) > 12 || SignAt(start + 4) == '/')
        )
            return null;
        // "Career day 20 November" names a date, too.
        if (WordAt(start) is "day" && NumberAt(start + 1) is >= 1 and <= 31 && Words.Month(WordAt(start + 2)) > 0)
            return null;
        if (WordAt(start) is "day" or "days" && NameAt(start + 1).Length > 0)
        {
            next = Names(start + 1, names);
        }
        else if (
            NameAt(at) is { Length: 1 } first
            && char.IsAsciiLetterUpper(first[0])
            && Names(at, names) is > 0 and var after
            && WordAt(after) is "day" or "days"
        )
        {
            next = after + 1;
        }

        if (next < 0)
            return null;
        var read = $"{(names.Count == 1 ? "Day" : "Days")} {Wording.List(names)} of the cycle";
        if (school.Cycle is null)
            return new Phrase(Kind.Cycle, at, next, read)
            {
                Names = [.. names],
                Problems = ["The school has no day cycle, so cycle days mean nothing here."],
            };
        var known = names.ConvertAll(name =>
            school.Cycle.Names.FirstOrDefault(one => one.Equals(name, StringComparison.OrdinalIgnoreCase))
        );
        if (names.Find(name => !school.Cycle.Names.Contains(name, StringComparer.OrdinalIgnoreCase)) is { } unknown)
            return new Phrase(Kind.Cycle, at, next, read)
            {
                Names = [.. names],
                Problems = [$"The cycle has no day “{unknown}”; its days are {Wording.List(school.Cycle.Names)}."],
            };
        return new Phrase(Kind.Cycle, at, next, read) { Names = [.. known!] };
    }

    private int Names(int at, List<string> names)
    {
        if (NameAt(at).Length == 0)
            return -1;
        names.Add(NameAt(at));
        var next = at + 1;
        while (
            (days.IsList(next, out var after) || (SignAt(next) == '/' && (after = next + 1) > 0))
            && NameAt(after).Length > 0
        )
        {
            names.Add(NameAt(after));
            next = after + 1;
        }

        return next;
    }

    // A number of up to two digits, or one letter from A to H: what periods and cycle days are called.
    private string NameAt(int at) =>
        at >= Tokens.Count ? ""
        : Tokens[at] is { Kind: TokenKind.Number, Text.Length: <= 2 } number ? number.Text
        : Tokens[at] is { Kind: TokenKind.Word, Text: [>= 'A' and <= 'H' or >= 'a' and <= 'h'] } letter
        && (Tokens[at].Stands || letter.Text[0] <= 'H')
            ? letter.Text.ToUpperInvariant()
        : "";

    // "every other week", "every two weeks on", "every 3rd week", "alternate", "fortnightly", "weekly", "every second Tuesday".
    private Phrase? EveryAt(int at)
    {
        switch (WordAt(at))
        {
            case "fortnightly" or "biweekly":
                return Every(at, at + 1, 2);
            case "bi" when SignAt(at + 1) == '-' && WordAt(at + 2) == "weekly":
                return Every(at, at + 3, 2);
            case "weekly":
                return Every(at, at + 1, 1);
            case "alternate" or "alternating" or "alt":
                return Every(at, WordAt(at + 1) is "week" or "weeks" ? at + 2 : at + 1, 2);
            case "yearly" or "annually":
                return new Phrase(Kind.Yearly, at, at + 1, "every year");
            case "monthly":
                return MonthlyAt(at) ?? new Phrase(Kind.MonthDays, at, at + 1, "every month");
            case "every" or "each" or "once":
                var next = at + 1;
                if (WordAt(at) == "once" && WordAt(next++) is not ("a" or "every" or "each"))
                    return null;
                if (WordAt(next) is "year")
                    return new Phrase(Kind.Yearly, at, next + 1, "every year");
                if (WordAt(next) is "month")
                    return MonthlyAt(at) ?? new Phrase(Kind.MonthDays, at, next + 1, "every month");
                if (WordAt(next) is "week")
                    return Every(at, next + 1, 1);
                if (WordAt(next) == "other")
                    return WordAt(next + 1) is "month"
                        ? MonthlyAt(at)
                        : Every(at, WordAt(next + 1) is "week" ? next + 2 : next + 1, 2);
                var number =
                    NumberAt(next) > 0 ? NumberAt(next)
                    : Words.Number(WordAt(next)) > 1 ? Words.Number(WordAt(next))
                    : Words.Ordinal(WordAt(next));
                if (number is < 1 or > 52)
                    return null;
                var after = next + 1;
                if (WordAt(after) is "st" or "nd" or "rd" or "th")
                    after++;
                if (WordAt(after) is "week" or "weeks")
                    return Every(at, after + 1, number);
                if (WordAt(after) is "month" or "months")
                    return MonthlyAt(at);
                // "every second Tuesday" is every other week; "every first Monday" is of the month, and so is "… of the month".
                if (
                    number > 1
                    && Words.Weekday(WordAt(after)) != IsoDayOfWeek.None
                    && !(WordAt(after + 1) is "of" or "in" or "monthly")
                    && NumberAt(next) < 0 | WordAt(next + 1) is "nd" or "rd" or "th"
                )
                    return Every(at, after, number);
                return null;
            default:
                return null;
        }
    }

    private Phrase Every(int from, int to, int weeks)
    {
        if (WordAt(to) == "on")
            to++;
        return new Phrase(
            Kind.Every,
            from,
            to,
            weeks switch
            {
                1 => "every week",
                2 => "every other week",
                _ => $"every {Wording.Ordinal(weeks)} week",
            }
        )
        {
            Number = weeks,
        };
    }

    // "first Monday of the month", "2nd and 4th Tuesday", "last Friday monthly"; "15th of every month", "monthly on the 15th".
    // "every second month on the 15th", "every other month, first Monday".
    private Phrase? MonthlyAt(int at)
    {
        var (months, next) = MonthsAt(at);
        while (WordAt(next) is "every" or "each" or "the" or "on" || (months > 1 && SignAt(next) == ','))
            next++;
        var isMonthly = months > 1 || WordAt(next) is "monthly" || (WordAt(next) == "month" && next > at);
        if (isMonthly)
        {
            if (months == 1)
                next++;
            while (WordAt(next) is "on" or "the")
                next++;
        }

        var places = new List<WeekdayPlace>();
        var monthDays = new List<int>();
        var waiting = 0;
        while (OrdinalAt(next, out var after) is not 0 and var ordinal)
        {
            if (Words.Weekday(WordAt(after)) is var day && day != IsoDayOfWeek.None)
            {
                for (var one = places.Count - waiting; one < places.Count; one++)
                    places[one] = places[one] with { Day = day };
                waiting = 0;
                places.Add(new WeekdayPlace(ordinal, day));
                next = after + 1;
            }
            else
            {
                monthDays.Add(ordinal);
                places.Add(new WeekdayPlace(ordinal, IsoDayOfWeek.None));
                waiting++;
                next = after;
            }

            if (!days.IsList(next, out var further) && !(SignAt(next) == '/' && (further = next + 1) > 0))
                break;
            if (WordAt(further) == "the")
                further++;
            if (OrdinalAt(further, out _) == 0)
                break;
            next = further;
        }

        if (places.Count == 0)
            return null;
        var end = OfTheMonth(next);
        isMonthly |= end > next;
        if (waiting > 0)
        {
            // Days of the month by number need the word; ordinals of weekdays do not.
            if (!isMonthly || places.Count != waiting || monthDays.Exists(day => day is 0 or > 31 or < -1))
                return null;
            var told = Wording.List([.. monthDays.Select(day => day < 0 ? "last day" : Wording.Ordinal(day))]);
            return new Phrase(Kind.MonthDays, at, end, $"{EveryMonth(months)} on the {told}")
            {
                Number = months,
                Names = [.. monthDays.Select(day => day.ToString(System.Globalization.CultureInfo.InvariantCulture))],
            };
        }

        if (places.Exists(place => place.Place is 0 or > 5))
            return null;
        return new Phrase(
            Kind.Places,
            at,
            end,
            $"{EveryMonth(months)} on the {Wording.List([.. places.Select(one => $"{(one.Place < 0 ? "last" : Wording.Ordinal(one.Place))} {one.Day}")])}"
        )
        {
            Places = [.. places],
            Number = months,
        };
    }

    private static string EveryMonth(int months) =>
        months switch
        {
            1 => "every month",
            2 => "every other month",
            _ => $"every {Wording.Ordinal(months)} month",
        };

    // How many months apart, and where that ends; 1 where the line does not say.
    private (int Months, int Next) MonthsAt(int at)
    {
        if (WordAt(at) is not ("every" or "each"))
            return (1, at);
        var number =
            WordAt(at + 1) == "other" ? 2
            : NumberAt(at + 1) > 0 ? NumberAt(at + 1)
            : Words.Number(WordAt(at + 1)) > 1 ? Words.Number(WordAt(at + 1))
            : Words.Ordinal(WordAt(at + 1));
        var after = at + 2;
        if (WordAt(after) is "st" or "nd" or "rd" or "th")
            after++;
        return number is >= 2 and <= 12 && WordAt(after) is ("month" or "months") ? (number, after + 1) : (1, at);
    }

    private int OfTheMonth(int at)
    {
        if (SignAt(at) == ',')
            at++;
        if (WordAt(at) == "monthly")
            return at + 1;
        var next = at;
        while (WordAt(next) is "of" or "in" or "the" or "each" or "every")
            next++;
        return next > at && WordAt(next) is "month" ? next + 1 : at;
    }

    private int OrdinalAt(int at, out int next)
    {
        next = at + 1;
        if (Words.Ordinal(WordAt(at)) is not 0 and var ordinal)
            return ordinal;
        if (
            NumberAt(at) is not (>= 1 and <= 31)
            || WordAt(at + 1) is not ("st" or "nd" or "rd" or "th")
            || Tokens[at + 1].Stands
        )
            return 0;
        next = at + 2;
        return NumberAt(at);
    }

    private Phrase? AllDayAt(int at) =>
        WordAt(at) == "all" && (WordAt(at + 1) == "day" || (SignAt(at + 1) == '-' && WordAt(at + 2) == "day"))
            ? new Phrase(Kind.AllDay, at, WordAt(at + 1) == "day" ? at + 2 : at + 3, "all day")
            : null;

    // "12 sessions", "3 weekly", "x12", "12x", "for 6 weeks".
    private Phrase? CountAt(int at)
    {
        var start = WordAt(at) == "for" ? at + 1 : at;
        if (WordAt(start) == "x" && NumberAt(start + 1) > 0)
            return Count(at, start + 2, NumberAt(start + 1));
        if (SignAt(start) == '×' && NumberAt(start + 1) > 0)
            return Count(at, start + 2, NumberAt(start + 1));
        var number = NumberAt(start) > 0 ? NumberAt(start) : Words.Number(WordAt(start));
        if (number < 1 || WordAt(start) is "a" or "an")
            return null;
        // "8 x Wed": a number of them.
        if (WordAt(start + 1) == "x" && Words.Weekday(WordAt(start + 2)) != IsoDayOfWeek.None)
            return Count(at, start + 2, number);
        // "Year 7 lessons", "Grade 8 classes": which year it is, and not how many of them.
        if (
            at == start
            && at > 0
            && Numbered.Contains(WordAt(at - 1))
            && Words.Number(WordAt(start)) < 0
            && WordAt(start + 1)
                is "sessions"
                    or "session"
                    or "meetings"
                    or "meeting"
                    or "lessons"
                    or "lesson"
                    or "classes"
                    or "times"
        )
            return Count(at, start + 2, number) is { } doubtful
                ? doubtful with
                {
                    Problems =
                    [
                        $"It is not clear whether “{Written(at - 1, start + 2)}” is a part of the title or a number of sessions. Put the title in quotes, or write x{number}.",
                    ],
                }
                : null;
        // "ten Tuesdays"
        if (Words.Weekday(WordAt(start + 1)) != IsoDayOfWeek.None && WordAt(start + 1) is [.., 'd', 'a', 'y', 's'])
            return Count(at, start + 1, number);
        return WordAt(start + 1) switch
        {
            "sessions"
            or "session"
            or "meetings"
            or "meeting"
            or "lessons"
            or "lesson"
            or "classes"
            or "times"
            or "occurrences" => Count(at, start + 2, number),
            "x" when !Tokens[start + 1].Stands => Count(at, start + 2, number),
            "weekly" => Count(
                at,
                WordAt(start + 2) is "sessions" or "meetings" or "lessons" or "classes" ? start + 3 : start + 2,
                number
            )
                is { } weekly
                ? weekly with
                {
                    IsRange = true,
                    Read = weekly.Read + ", weekly",
                }
                : null,
            "weeks" or "week" or "wks" when number <= 60 => new Phrase(
                Kind.Weeks,
                at,
                start + 2,
                $"for {Wording.Count(number, "week", "weeks")}"
            )
            {
                Number = number,
            },
            _ => null,
        };
    }

    private static Phrase? Count(int from, int to, int number) =>
        number is >= 1 and <= MeetingPattern.MostHeldSessions
            ? new Phrase(Kind.Count, from, to, Wording.Count(number, "session", "sessions")) { Number = number }
            : null;

    // "MWF", "M-F", "Mon thru Thu", "Tue/Thu", "Mondays and Wednesdays", "daily", "weekdays".
    private Phrase? DaysAt(int at)
    {
        var start = at;
        while (WordAt(start) is "every" or "each" or "on" or "all")
            start++;
        switch (WordAt(start))
        {
            case "daily" or "weekdays" or "weekday":
                return OnWeekdays(at, start + 1);
            case "day" when start > at && WordAt(start - 1) is "every" or "each":
                return OnWeekdays(at, start + 1);
            case "class" or "school" when start > at && WordAt(start + 1) is "day" or "days":
                return OnWeekdays(at, start + 2);
            case "weekends" or "weekend":
                return new Phrase(Kind.Days, at, start + 1, "Sat and Sun")
                {
                    Days = [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday],
                };
        }

        var found = new List<IsoDayOfWeek>();
        var letters = 0;
        var next = start;
        while (NamesOf(next, letters > 0 || found.Count > 0) is { Count: > 0 } named)
        {
            var isLetters = Tokens[next].Word.Length < 3 || Words.Weekday(Tokens[next].Word) == IsoDayOfWeek.None;
            letters += isLetters ? named.Count : 0;
            next++;
            if (SignAt(next) == '.' && next < Tokens.Count && !Tokens[next].Stands)
                next++;
            // A range runs over the end of the week, too.
            if (named.Count == 1 && days.IsRange(next, out var to) && NamesOf(to, true) is [var last])
            {
                for (var day = named[0]; ; day = day == IsoDayOfWeek.Sunday ? IsoDayOfWeek.Monday : day + 1)
                {
                    found.Add(day);
                    if (day == last)
                        break;
                }

                letters += isLetters ? 2 : 0;
                next = to + 1;
            }
            else
            {
                found.AddRange(named);
            }

            var after = next;
            if (days.IsList(next, out var listed) || (SignAt(next) is '/' && (listed = next + 1) > 0))
                after = listed;
            if (NamesOf(after, true).Count == 0)
                break;
            // "Mon, Wed 14 Oct": a weekday that belongs to a date is not one of these.
            if (days.Read(after, out _) > 0)
                break;
            next = after;
        }

        if (found.Count == 0)
            return null;
        // One letter is a day only before a time, or with others.
        if (
            letters == 1
            && found.Count == 1
            && Tokens[start].Word.Length < 3
            && !(
                next >= Tokens.Count
                    ? at > 0
                    : PeriodAt(next) is not null || times.Read(next, out _) > 0 || NumberAt(next) >= 0
            )
        )
            return null;
        ImmutableArray<IsoDayOfWeek> set = [.. found.Distinct().Order()];
        return new Phrase(Kind.Days, at, next, Wording.List([.. set.Select(Wording.Brief)])) { Days = set };
    }

    private static Phrase OnWeekdays(int from, int to) =>
        new(Kind.Days, from, to, "Monday to Friday")
        {
            Days =
            [
                IsoDayOfWeek.Monday,
                IsoDayOfWeek.Tuesday,
                IsoDayOfWeek.Wednesday,
                IsoDayOfWeek.Thursday,
                IsoDayOfWeek.Friday,
            ],
        };

    // The days that a word means: its name, or letters in upper case; two-letter names in any case only among others.
    private IReadOnlyList<IsoDayOfWeek> NamesOf(int at, bool among)
    {
        if (at >= Tokens.Count || Tokens[at].Kind != TokenKind.Word || Words.IsFeast(WordAt(at - 1), WordAt(at)))
            return [];
        var word = Tokens[at].Word;
        if (Words.Weekday(word) is var day && day != IsoDayOfWeek.None && (Words.IsLong(word) || among))
            return [day];
        return char.IsAsciiLetterUpper(Tokens[at].Text[0]) ? Words.Letters(Tokens[at].Text) : [];
    }

    private Phrase? LengthAt(int at) =>
        times.Length(at, out var minutes) is > 0 and var next
            ? new Phrase(Kind.Length, at, next, Wording.Amount(minutes)) { Number = minutes }
            : null;

    private Phrase? TimeAt(int at)
    {
        if (times.Read(at, out var read) is not (> 0 and var next))
            return null;
        return new Phrase(
            Kind.Time,
            at,
            next,
            read!.End is { } end ? Wording.Span(read.Start, end) : $"at {Wording.Of(read.Start)}"
        )
        {
            Time = read,
            Problems = read.Problem is null ? [] : [read.Problem],
        };
    }

    // "Room 12", "rm B4", "@ Tide Room"; "in the Library" behind what was understood.
    private Phrase? PlaceAt(int at, List<Phrase> before)
    {
        if (SignAt(at) == '@')
        {
            var end = at + 1;
            while (end < Tokens.Count && SignAt(end) is not ('@' or ',' or ';') && PhraseBehind(end))
                end++;
            if (end == at + 1)
                return null;
            var text = Written(at + 1, end);
            return new Phrase(Kind.Place, at, SignAt(end) == '@' ? end + 1 : end, text) { Text = text };
        }

        if (WordAt(at) == "in" && before.Exists(one => one.Kind != Kind.Left) && PlaceAt(at + 1, before) is { } within)
            return within with { From = at };
        var isUnderstood = before.Exists(one =>
            one.Kind is Kind.Days or Kind.Time or Kind.Period or Kind.Dates or Kind.Cycle
        );
        if (
            isUnderstood
            && WordAt(at) == "online"
            && (at + 1 >= Tokens.Count || Tokens[at + 1].Kind == TokenKind.Sign || !PhraseBehind(at + 1))
        )
            return new Phrase(Kind.Place, at, at + 1, Tokens[at].Text) { Text = Tokens[at].Text };
        if (
            (
                WordAt(at) is "room" or "rm"
                || (isUnderstood && WordAt(at) is "lab" or "studio" or "building" or "bldg" or "hall" or "gym")
            )
            && at + 1 < Tokens.Count
        )
        {
            var next = at + 1;
            if (SignAt(next) is '.' or '#' or ':')
                next++;
            if (
                next >= Tokens.Count
                || !(
                    Tokens[next].Kind == TokenKind.Number
                    || (
                        Tokens[next].Kind == TokenKind.Word
                        && char.IsUpper(Tokens[next].Text[0])
                        && Words.Weekday(Tokens[next].Word) == IsoDayOfWeek.None
                    )
                )
            )
                return null;
            var end = next + 1;
            while (
                end < Tokens.Count
                && !Tokens[end].Stands
                && (
                    Tokens[end].Kind is TokenKind.Word or TokenKind.Number
                    || (
                        SignAt(end) is '-' or '.'
                        && end + 1 < Tokens.Count
                        && !Tokens[end + 1].Stands
                        && Tokens[end + 1].Kind != TokenKind.Sign
                    )
                )
            )
                end++;
            var text = Written(at, end);
            return new Phrase(Kind.Place, at, end, text) { Text = text };
        }

        // "in the Library", "at the Great Hall": words with capitals, behind days or times.
        if (WordAt(at) is "in" or "at" && isUnderstood)
        {
            var next = WordAt(at + 1) == "the" ? at + 2 : at + 1;
            var end = next;
            while (
                end < Tokens.Count
                && Tokens[end].Kind == TokenKind.Word
                && char.IsUpper(Tokens[end].Text[0])
                && PhraseBehind(end)
            )
                end++;
            if (IsPlaceNoun(end))
                end++;
            if (end > next)
            {
                var text = Written(next, end);
                return new Phrase(Kind.Place, at, end, text) { Text = text };
            }
        }

        // "Great hall", "Library": at the end, behind a title and what was understood.
        if (isUnderstood && char.IsUpper(Tokens[at].Text[0]) && before.Exists(one => one.Kind == Kind.Left))
        {
            var noun = at;
            while (
                noun < Tokens.Count
                && noun - at < 2
                && !IsPlaceNoun(noun)
                && Tokens[noun].Kind == TokenKind.Word
                && char.IsUpper(Tokens[noun].Text[0])
                && PhraseBehind(noun)
            )
                noun++;
            if (IsPlaceNoun(noun) && (noun + 1 >= Tokens.Count || Tokens[noun + 1].Kind == TokenKind.Sign))
                return new Phrase(Kind.Place, at, noun + 1, Written(at, noun + 1)) { Text = Written(at, noun + 1) };
        }

        return null;
    }

    private bool IsPlaceNoun(int at) =>
        WordAt(at)
            is "room"
                or "hall"
                or "gym"
                or "gymnasium"
                or "library"
                or "auditorium"
                or "theatre"
                or "theater"
                or "studio"
                or "lab"
                or "pool"
                or "cafeteria"
                or "canteen"
                or "workshop";

    // A place ends where something else that is understood begins.
    private bool PhraseBehind(int at) =>
        EndAt(at) is null
        && FromAt(at) is null
        && DaysAt(at) is null
        && TimeAt(at) is null
        && PeriodAt(at) is null
        && ExceptAt(at) is null
        && NumberedAt(at) is null
        && DatesAt(at) is null
        && CountAt(at) is null;

    private Phrase? NumberedAt(int at)
    {
        if (WordAt(at) != "numbered")
            return null;
        var end = at + 1;
        if (WordAt(end) == "as")
            end++;
        var first = end;
        while (
            end < Tokens.Count
            && Tokens[end].Kind == TokenKind.Word
            && end - first < 4
            && WordAt(end) is not ("from" or "until" or "on" or "at" or "in" or "and")
            && PhraseBehind(end)
        )
            end++;
        var label = end > first ? Written(first, end) : "";
        return new Phrase(Kind.Numbered, at, end, label.Length > 0 ? $"numbered {label} 1, 2, 3" : "numbered 1, 2, 3")
        {
            Text = label,
        };
    }

    // A no-class day of the school by its name, or by the begin of it: "Thanksgiving", "the winter holiday".
    private NoClassDay? NoClassAt(int at, out int next)
    {
        for (var words = 4; words >= 1; words--)
        {
            next = at + words;
            if (next > Tokens.Count || Enumerable.Range(at, words).Any(one => Tokens[one].Kind != TokenKind.Word))
                continue;
            var text = string.Join(' ', Enumerable.Range(at, words).Select(one => Tokens[one].Word));
            if (text.Length < 4)
                continue;
            var found = school
                .NoClassDays.Where(day => IsCalled(day.Name.ToLowerInvariant().Replace('’', '\''), text))
                .OrderBy(day => day.Last < near)
                .ThenBy(day => Math.Abs(Period.DaysBetween(near, day.First)))
                .FirstOrDefault();
            if (found is null)
                continue;
            if (words < 4 && WordAt(next) is "day" or "break" or "holiday" or "holidays")
                next++;
            return found;
        }

        next = -1;
        return null;
    }

    private static bool IsCalled(string name, string text) =>
        name == text
        || name.StartsWith(text + " ", StringComparison.Ordinal)
        || (name.EndsWith(" " + text, StringComparison.Ordinal) && text.Length > 6)
        || text == name + " day";

    private bool Follows(int at, string name, out int next)
    {
        var words = name.Split(' ');
        next = at + words.Length;
        for (var one = 0; one < words.Length; one++)
            if (
                !(
                    at + one < Tokens.Count
                    && Tokens[at + one].Text.Equals(words[one], StringComparison.OrdinalIgnoreCase)
                )
            )
                return false;
        return true;
    }

    // The title is taken out of the phrases; what they hold of it is gone from there.
    private (string Text, int From, int To) TitleOf(List<Phrase> phrases)
    {
        var quoted = phrases.FindIndex(phrase => phrase.Kind == Kind.Title);
        if (quoted >= 0)
        {
            var phrase = phrases[quoted];
            phrases.RemoveAt(quoted);
            return (phrase.Text, phrase.From, phrase.To);
        }

        // How many phrases from the left are the title's: words, and what looks like days or times but has a word behind it and its
        // like again later ("Sun Science Wed 9-10").
        var taken = 0;
        while (taken < phrases.Count)
        {
            if (phrases[taken].Kind == Kind.Left)
            {
                taken++;
                continue;
            }

            if (
                taken + 1 >= phrases.Count
                || phrases[taken + 1].Kind != Kind.Left
                || Fillers.Contains(WordAt(phrases[taken + 1].From))
            )
                break;
            var kind = phrases[taken].Kind;
            var later = phrases.Skip(taken + 2).ToList();
            var isLike =
                kind is Kind.Days or Kind.Cycle or Kind.Every or Kind.Places or Kind.MonthDays
                    ? later.Exists(one =>
                        one.Kind is Kind.Days or Kind.Cycle or Kind.Places
                        || (one.Kind == Kind.Dates && one.Spans.All(span => span.Length == 1))
                    )
                : kind is Kind.Time or Kind.Period or Kind.Length or Kind.AllDay
                    ? later.Exists(one => one.Kind is Kind.Time or Kind.Period or Kind.AllDay)
                        && kind != Kind.Length | later.Exists(one => one.Kind is Kind.Time or Kind.Length)
                : later.Exists(one => one.Kind == kind);
            if (!isLike)
                break;
            taken += 2;
        }

        var from = 0;
        if (taken == 0)
        {
            // It begins with days or times: one run of words that is left is the title.
            var runs = Runs(phrases);
            if (runs is not [var only])
                return ("", 0, 0);
            (from, taken) = only;
        }

        var (first, last) = (phrases[from].From, phrases[from + taken - 1].To);
        while (
            last - 1 > first
            && Tokens[last - 1].Stands
            && TitleTail.Contains(WordAt(last - 1))
            && from + taken < phrases.Count
        )
            last--;
        // A title keeps the sign that shuts it: "Choir (juniors)".
        if (last < Tokens.Count && SignAt(last) is ')' or '!' or '?' && !Tokens[last].Stands)
            last++;
        phrases.RemoveRange(from, taken);
        return (Written(first, last).Trim(' ', ',', ':', ';', '-', '–', '|', '/', '.'), first, last);
    }

    // Words that are left, without those that only join; each run by its first phrase and its length.
    private List<(int From, int Count)> Runs(List<Phrase> phrases)
    {
        var runs = new List<(int From, int Count)>();
        for (var at = 0; at < phrases.Count; at++)
        {
            if (phrases[at].Kind != Kind.Left)
                continue;
            var count = 1;
            while (
                at + count < phrases.Count
                && phrases[at + count].Kind == Kind.Left
                && phrases[at + count].From - phrases[at + count - 1].To <= 1
            )
                count++;
            // A word that joins joins nothing where the line ends with it.
            var dangles =
                at + count == phrases.Count
                && WordAt(phrases[at + count - 1].From)
                    is "from"
                        or "to"
                        or "for"
                        or "at"
                        or "on"
                        or "in"
                        or "of"
                        or "and"
                        or "with";
            if (dangles || Enumerable.Range(at, count).Any(one => !Fillers.Contains(WordAt(phrases[one].From))))
                runs.Add((at, count));
            at += count - 1;
        }

        return runs;
    }

    private ImmutableArray<QuickReading> Assemble(List<Phrase> phrases, (string Text, int From, int To) title)
    {
        var problems = new List<string>();
        var parts = new List<(int At, QuickPart Part)>();
        if (title.Text.Length > 0)
            parts.Add((title.From, new QuickPart(QuickField.Title, title.Text, title.Text)));
        foreach (var (run, count) in Runs(phrases))
        {
            var words = Written(phrases[run].From, phrases[run + count - 1].To);
            parts.Add((phrases[run].From, new QuickPart(QuickField.NotUnderstood, words, "")));
            problems.Add($"“{words}” was not understood.");
        }

        Phrase? every = null,
            dated = null,
            end = null,
            count_ = null,
            weeks = null,
            numbered = null,
            place = null,
            link = null,
            yearly = null;
        var except = new List<Phrase>();
        var patterns = new List<Pattern> { new() };
        foreach (var phrase in phrases.Where(phrase => phrase.Kind != Kind.Left))
        {
            problems.AddRange(phrase.Problems);
            parts.Add(
                (
                    phrase.From,
                    new QuickPart(FieldOf(phrase.Kind), Written(phrase.From, phrase.To).Trim(' ', ','), phrase.Read)
                )
            );
            var pattern = patterns[^1];
            switch (phrase.Kind)
            {
                case Kind.Days or Kind.Cycle or Kind.Places or Kind.MonthDays:
                    if (
                        pattern.Time is not null
                        && pattern.Days.Exists(one => one.Kind != Kind.MonthDays || !one.Names.IsEmpty)
                    )
                        patterns.Add(pattern = new Pattern());
                    if (
                        pattern.Days.Exists(one =>
                            one.Kind != phrase.Kind && !(one.Kind == Kind.MonthDays && one.Names.IsEmpty)
                        )
                    )
                        problems.Add(
                            "It names days in more than one way. Keep one: weekdays, cycle days or days of the month."
                        );
                    pattern.Days.Add(phrase);
                    break;
                case Kind.Time or Kind.Period or Kind.AllDay:
                    if (pattern.Time is { } had)
                    {
                        if (had.Kind != phrase.Kind)
                            problems.Add("It has two times. Keep the period or the clock time.");
                        else
                            patterns.Add(pattern = new Pattern());
                    }

                    pattern.Time = phrase;
                    break;
                case Kind.Length:
                    Once(ref pattern, phrase);
                    break;
                case Kind.Every:
                    Set(ref every, phrase, "how often");
                    break;
                case Kind.Yearly:
                    Set(ref yearly, phrase, "how often");
                    break;
                case Kind.From:
                    Set(ref dated, phrase, "a first day");
                    break;
                case Kind.Dates when dated is null:
                    dated = phrase;
                    break;
                case Kind.Dates when !phrase.IsRange && !dated.IsRange && dated.Kind == Kind.Dates:
                    dated = dated with { Spans = [.. dated.Spans, .. phrase.Spans], To = phrase.To };
                    break;
                case Kind.Dates:
                    problems.Add(
                        $"“{Written(phrase.From, phrase.To)}” is a second date, and it is not clear what it is for. Write from, until or except before it."
                    );
                    break;
                case Kind.Until:
                    Set(ref end, phrase, "an end");
                    break;
                case Kind.Count:
                    Set(ref count_, phrase, "a number of sessions");
                    break;
                case Kind.Weeks:
                    Set(ref weeks, phrase, "a number of weeks");
                    break;
                case Kind.Except:
                    except.Add(phrase);
                    break;
                case Kind.Place:
                    Set(ref place, phrase, "a place");
                    break;
                case Kind.Numbered:
                    Set(ref numbered, phrase, "numbers");
                    break;
                case Kind.Link:
                    Set(ref link, phrase, "a link");
                    break;
            }
        }

        // A pattern that has no days of its own has those of the one before.
        for (var at = 1; at < patterns.Count; at++)
        {
            if (patterns[at].Days.Count == 0)
                patterns[at].Days.AddRange(patterns[at - 1].Days);
            if (patterns[at].Time is null)
                problems.Add(
                    $"“{Written(patterns[at].Days[0].From, patterns[at].Days[^1].To)}” has no time of its own. Write one behind it."
                );
        }

        var ordered = parts.OrderBy(part => part.At).Select(part => part.Part).ToImmutableArray();
        return [.. patterns.Select(pattern => One(pattern))];

        QuickReading One(Pattern pattern)
        {
            var missing = ImmutableArray.CreateBuilder<QuickGap>();
            var own = new List<string>(problems);
            if (title.Text.Length == 0)
                missing.Add(new QuickGap("a title", "No title was found. Write one, before the days."));
            var first = dated?.Spans is [var begin, ..] ? begin.First : (LocalDate?)null;
            var extent = ExtentOf(own, first, dated, end, count_, weeks);
            var repeat = RepeatOf(own, missing, pattern, every, yearly, dated, end, count_, weeks, except, ref extent);
            var (time, start) = TimeOf(own, missing, pattern);
            var spans = except.SelectMany(one => one.Spans).ToImmutableArray();
            // A term that is still to come begins with its first day.
            if (
                first is null
                && extent is Extent.WithTerm { Term: var coming }
                && school.Find(coming) is { } term
                && term.First > near
            )
                first = term.First;
            return new QuickReading(
                ordered,
                title.Text,
                repeat,
                time,
                time is null ? start : null,
                repeat is Repeat.OnDates listed ? listed.Dates[0] : first,
                repeat is Repeat.OnDates ? null : extent,
                numbered is null ? ""
                    : numbered.Text.Length > 0 ? numbered.Text
                    : title.Text,
                place?.Text ?? "",
                link?.Text ?? "",
                missing.ToImmutable(),
                [.. own.Distinct()]
            )
            {
                Except = spans,
            };
        }

        void Set(ref Phrase? slot, Phrase phrase, string what)
        {
            if (slot is not null && slot.Read != phrase.Read)
                problems.Add(
                    $"It says {what} twice: “{Written(slot.From, slot.To)}” and “{Written(phrase.From, phrase.To)}”. Keep one."
                );
            slot ??= phrase;
        }

        void Once(ref Pattern pattern, Phrase phrase)
        {
            if (pattern.Length is not null && pattern.Length.Number != phrase.Number)
                problems.Add($"It says how long it takes twice: {pattern.Length.Read} and {phrase.Read}. Keep one.");
            pattern.Length ??= phrase;
        }
    }

    private Extent? ExtentOf(
        List<string> problems,
        LocalDate? first,
        Phrase? dated,
        Phrase? end,
        Phrase? count,
        Phrase? weeks
    )
    {
        var ends = new List<Extent>();
        if (dated is { IsRange: true, Spans: [var range] })
            ends.Add(new Extent.Until(range.Last));
        if (end?.Extent is { } said)
            ends.Add(said);
        if (count is not null)
            ends.Add(new Extent.Held(count.Number));
        // So many weeks: the last one is whole.
        if (weeks is not null)
            ends.Add(new Extent.Until((first ?? near).PlusWeeks(weeks.Number).PlusDays(-1)));
        if (ends.Distinct().Count() > 1)
            problems.Add(
                "It says its end in more than one way. Keep one: a last day, a number of sessions, or the term."
            );
        var extent = ends.FirstOrDefault();
        if (extent is Extent.Until until && first is { } begin && until.Day < begin && dated is not { IsRange: true })
        {
            // "until 3 Jan" of a series from September is in the next year, where the school year reaches so far.
            if (
                until.Day.PlusYears(1) is var next
                && EndOf(school, begin) is { } yearEnds
                && next <= yearEnds.PlusDays(62)
            )
                return new Extent.Until(next);
            problems.Add($"It ends on {Wording.WithYear(until.Day)}, before it starts on {Wording.WithYear(begin)}.");
        }

        return extent;
    }

    private static int MonthsOf(Pattern pattern) => Math.Max(1, pattern.Days.Max(one => one.Number));

    private Repeat? RepeatOf(
        List<string> problems,
        ImmutableArray<QuickGap>.Builder missing,
        Pattern pattern,
        Phrase? every,
        Phrase? yearly,
        Phrase? dated,
        Phrase? end,
        Phrase? count,
        Phrase? weeks,
        List<Phrase> except,
        ref Extent? extent
    )
    {
        var interval = every?.Number ?? 1;
        var off = except.SelectMany(one => one.Days).ToHashSet();
        var isListed = dated is { Kind: Kind.Dates, IsRange: false };
        if (pattern.Days.Find(one => one.Kind == Kind.Cycle) is not null)
        {
            if (interval > 1)
                problems.Add("Days of the cycle come in their turn; “every other week” means nothing with them.");
            return new Repeat.OnCycleDays([.. pattern.Days.SelectMany(one => one.Names).Distinct()]);
        }

        if (yearly is not null)
        {
            if (dated?.Spans is not [var day, ..] || pattern.Days.Count > 0)
            {
                problems.Add("It comes every year, but on which day is missing. Write it like yearly on 5 Nov.");
                return null;
            }

            return Rule(
                new RecurrenceRule
                {
                    Frequency = Frequency.Yearly,
                    Months = [day.First.Month],
                    MonthDays = [day.First.Day],
                }
            );
        }

        if (pattern.Days.Find(one => one.Kind == Kind.Places) is not null)
            return Rule(
                new RecurrenceRule
                {
                    Frequency = Frequency.Monthly,
                    Interval = Math.Max(interval, MonthsOf(pattern)),
                    Days =
                    [
                        .. pattern
                            .Days.SelectMany(one => one.Places)
                            .Distinct()
                            .OrderBy(day => day.Place)
                            .ThenBy(day => day.Day),
                    ],
                    WeekStart = school.FirstDayOfWeek,
                }
            );
        if (
            pattern.Days.Find(one => one.Kind == Kind.MonthDays) is not null
            && pattern.Days.TrueForAll(one => one.Kind == Kind.MonthDays)
        )
        {
            var numbers = pattern
                .Days.SelectMany(one => one.Names)
                .Select(name => int.Parse(name, System.Globalization.CultureInfo.InvariantCulture))
                .Distinct()
                .Order()
                .ToImmutableArray();
            if (numbers.IsEmpty && dated?.Spans is [{ Length: 1 } once])
                numbers = [once.First.Day];
            if (numbers.IsEmpty)
                problems.Add(
                    "It comes every month, but on which day is missing. Write it like first Monday of the month, or 15th of every month."
                );
            return numbers.IsEmpty
                ? null
                : Rule(
                    new RecurrenceRule
                    {
                        Frequency = Frequency.Monthly,
                        Interval = MonthsOf(pattern),
                        MonthDays = numbers,
                    }
                );
        }

        var named = pattern
            .Days.SelectMany(one => one.Days)
            .Distinct()
            .Where(day => !off.Contains(day))
            .Order()
            .ToList();
        if (named.Count > 0)
        {
            // A single date beside its own weekday is that one day; beside others it is the first.
            if (isListed && dated!.Spans.Length > 1)
                problems.Add(
                    "It names weekdays and several dates. Keep the weekdays with a first and a last day, or the dates."
                );
            return Repeat.Weekly(named, interval, school.FirstDayOfWeek);
        }

        if (dated is not null)
        {
            var first = dated.Spans[0];
            if (every is not null || count is not null || weeks is not null || (end is not null && !dated.IsRange))
            {
                if (dated.Spans.Length > 1)
                    problems.Add("It lists dates and says that it repeats. Keep one.");
                if (
                    every is null
                    && count is not { IsRange: true }
                    && end is null
                    && weeks is null
                    && dated.Kind == Kind.Dates
                    && count is not { Number: 1 }
                )
                    problems.Add("It names one date and several sessions. Write which days it meets on.");
                return Repeat.Weekly([first.First.DayOfWeek], interval, school.FirstDayOfWeek);
            }

            var dates = dated
                .Spans.SelectMany(span => span.Days.Take(MostDays + 1))
                .Distinct()
                .Order()
                .ToImmutableArray();
            if (dates.Length <= MostDays && !(dated is { IsRange: true, Kind: Kind.From }))
            {
                extent = null;
                return new Repeat.OnDates(dates);
            }
        }

        missing.Add(
            new QuickGap(
                "days",
                "No days were found. Write them like MWF, Tue/Thu, days 2 and 5, or first Monday monthly."
            )
        );
        return null;

        Repeat.ByRule Rule(RecurrenceRule rule) => new(rule);
    }

    // A range without weekdays is so many days in a row, up to two weeks; a longer one wants weekdays.
    private const int MostDays = 14;

    private static (SessionTime? Time, LocalTime? Start) TimeOf(
        List<string> problems,
        ImmutableArray<QuickGap>.Builder missing,
        Pattern pattern
    )
    {
        switch (pattern.Time)
        {
            case { Kind: Kind.AllDay }:
                return (new SessionTime.AllDay(), null);
            case { Kind: Kind.Period, Text.Length: > 0 } period:
                return (new SessionTime.InPeriod(period.Text), null);
            case { Kind: Kind.Period }:
                return (null, null);
            case { Time: { } read }:
                if (
                    read.End is { } end
                    && pattern.Length is { } said
                    && Period.Between(read.Start, end, PeriodUnits.Minutes).Minutes != said.Number
                )
                    problems.Add(
                        $"From {Wording.Span(read.Start, end)} it is not {said.Read}. Keep the end or the length."
                    );
                if (read.End is { } until)
                    return (read.Start < until ? new SessionTime.Clock(read.Start, until) : null, read.Start);
                if (pattern.Length is not { } length)
                {
                    missing.Add(
                        new QuickGap(
                            "how long it takes",
                            $"It starts at {Wording.Of(read.Start)}, but how long it takes is missing. Add an end, or 50 min."
                        )
                    );
                    return (null, read.Start);
                }

                var ends = read.Start.PlusMinutes(length.Number);
                if (length.Number >= 24 * 60 || ends <= read.Start)
                {
                    problems.Add("It would end after midnight. Give an end on the same day.");
                    return (null, read.Start);
                }

                return (new SessionTime.Clock(read.Start, ends), read.Start);
            default:
                missing.Add(
                    new QuickGap("a time", "No time was found. Write it like 8:00-8:50, 1:30pm 75 min, or p3.")
                );
                return (null, null);
        }
    }

    private static QuickField FieldOf(Kind kind) =>
        kind switch
        {
            Kind.Days or Kind.Every or Kind.Places or Kind.MonthDays or Kind.Yearly or Kind.Cycle => QuickField.Days,
            Kind.Dates or Kind.From => QuickField.From,
            Kind.Until or Kind.Count or Kind.Weeks => QuickField.End,
            Kind.Except => QuickField.Except,
            Kind.Place => QuickField.Place,
            Kind.Numbered => QuickField.Numbering,
            Kind.Link => QuickField.Link,
            Kind.Title => QuickField.Title,
            Kind.Doubt => QuickField.NotUnderstood,
            _ => QuickField.Time,
        };

    private string Written(int from, int to) =>
        from >= to ? "" : line[Tokens[from].At..Tokens[Math.Min(to, Tokens.Count) - 1].End];
}
