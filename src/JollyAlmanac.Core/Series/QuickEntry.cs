using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>What a part of a quick entry is about.</summary>
public enum QuickField
{
#pragma warning disable CS1591 // The names say it.
    Title, Days, Time, From, End, Numbering, Place, Link, NotUnderstood,
#pragma warning restore CS1591
}

/// <summary>A part of a quick entry: what was written, and what was read of it.</summary>
public sealed record QuickPart(QuickField Field, string Written, string Read);

/// <summary>Something a series needs and a line does not say.</summary>
/// <param name="What">"a title".</param>
/// <param name="Sentence">What to do about it.</param>
public sealed record QuickGap(string What, string Sentence);

/// <summary>What was read of one line. Nothing is guessed in silence: what the line does not say is null here.</summary>
/// <param name="Parts">Each part as it was read, in the order it was written in.</param>
/// <param name="Title">The title; empty where none was written.</param>
/// <param name="Repeat">The days; null where none were written or understood.</param>
/// <param name="Time">The time; null where none was, or only its start.</param>
/// <param name="Start">The start, where how long it takes was not written; else null.</param>
/// <param name="From">The first day; null where none was.</param>
/// <param name="Extent">The end; null where none was.</param>
/// <param name="NumberLabel">What sessions are counted as; empty for none.</param>
/// <param name="Place">The place; empty for none.</param>
/// <param name="Link">The address of a room; empty for none.</param>
/// <param name="Missing">What a series needs and the line does not say. In a form, its fields say it.</param>
/// <param name="Problems">What is doubtful or not understood, each in a sentence.</param>
public sealed record QuickReading(
    ImmutableArray<QuickPart> Parts, string Title, Repeat? Repeat, SessionTime? Time, LocalTime? Start, LocalDate? From, Extent? Extent, string NumberLabel, string Place, string Link,
    ImmutableArray<QuickGap> Missing, ImmutableArray<string> Problems)
{
    /// <summary>Whether it says enough to make a series of, without a doubt.</summary>
    public bool IsWhole => Missing.IsEmpty && Problems.IsEmpty;
}

/// <summary>
/// Understands a line as people write it.
/// </summary>
/// <example>"Tidepool Biology 9A MWF 8:00-8:50 14 Sep to 18 Dec" is a title, three weekdays, a time, a first and a last day.</example>
public static partial class QuickEntry
{
    /// <summary>The longest line that is read.</summary>
    public const int Longest = 400;

    /// <summary>Reads a line.</summary>
    /// <param name="line">The line.</param>
    /// <param name="school">Its bells and cycle, where a period or a cycle day must be.</param>
    /// <param name="today">Days without a year are near it.</param>
    public static QuickReading Read(string line, SchoolTime school, LocalDate today)
    {
        if (line.Length > Longest) return Unread($"The line has {line.Length} characters. It may have {Longest}; shorten it.");
        try
        {
            return new Reader(line, school, today).Read();
        }
        catch (RegexMatchTimeoutException)
        {
            return Unread("The line took too long to read. Write it in fewer words.");
        }

        static QuickReading Unread(string problem) => new([], "", null, null, null, null, null, "", "", "", [], [problem]);
    }

    private sealed class Reader(string line, SchoolTime school, LocalDate today)
    {
        private readonly List<(int At, QuickPart Part)> parts = [];
        private readonly List<string> problems = [];
        private readonly List<QuickGap> missing = [];
        private readonly SortedSet<IsoDayOfWeek> days = [];
        private readonly List<WeekdayPlace> places = [];
        private readonly List<string> cycle = [];
        private char[] rest = [];
        private int interval = 1;
        private bool isWeekly;
        private bool isMonthly;
        private LocalTime? start;
        private LocalTime? end;
        private int? minutes;
        private SessionTime? time;
        private LocalDate? from;
        private Extent? extent;
        private string numbering = "";
        private bool isNumbered;
        private string place = "";
        private string link = "";
        private string title = "";

        public QuickReading Read()
        {
            rest = line.ToCharArray();
            ReadSure();
            ReadDays();
            ReadTimes();
            ReadRest();
            var repeat = RepeatOf();
            var meets = TimeOf();
            if (title.Length == 0) missing.Insert(0, new QuickGap("a title", "No title was found. Write one, before the days."));
            if (isNumbered && numbering.Length == 0) numbering = title;
            return new QuickReading([.. parts.OrderBy(part => part.At).Select(part => part.Part)], title, repeat, meets, meets is null ? start : null, from, extent, numbering, place, link, [.. missing], [.. problems]);
        }

        // What cannot be anything else comes first: quoted titles, addresses, dates, counts.
        private void ReadSure()
        {
            Take(Quoted(), QuickField.Title, match => title = match.Groups[1].Value.Trim());
            Take(Address(), QuickField.Link, match => link = match.Value);
            Take(Range(), QuickField.From, match =>
            {
                from = Day(match.Groups[1].Value, today);
                var last = Day(match.Groups[2].Value, from ?? today);
                if (from is null || last is null) return null;
                if (last < from) last = Day(match.Groups[2].Value, from.Value.PlusMonths(6));
                extent = new Extent.Until(last!.Value);
                if (last < from) problems.Add($"It ends on {Wording.WithYear(last.Value)}, before it starts on {Wording.WithYear(from.Value)}.");
                return $"{Wording.WithYear(from.Value)} to {Wording.WithYear(last.Value)}";
            });
            Take(Until(), QuickField.End, match => Day(match.Groups[1].Value, from ?? today) is { } day ? Say(extent = new Extent.Until(day), $"until {Wording.WithYear(day)}") : null);
            Take(From(), QuickField.From, match => (from = Day(match.Groups[1].Value, today)) is { } day ? $"{Wording.WithWeekday(day)} {day.Year}" : null);
            Take(Count(), QuickField.End, match =>
            {
                var number = int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture);
                if (number is < 1 or > MeetingPattern.MostHeldSessions) return null;
                extent = new Extent.Held(number);
                isWeekly |= match.Groups[2].Value.StartsWith("weekly", StringComparison.OrdinalIgnoreCase);
                return Wording.Count(number, "session", "sessions") + (isWeekly ? ", weekly" : "");
            });
            Take(WithTerm(), QuickField.End, _ => school.TermToShow(from ?? today) is { } term ? Say(extent = new Extent.WithTerm(term.Id), $"with the {term.Name}") : null);
            Take(Room(), QuickField.Place, match => place = match.Value.Trim(' ', '@'));
            Take(Numbered(), QuickField.Numbering, match =>
            {
                isNumbered = true;
                numbering = match.Groups[1].Value.Trim();
                return numbering.Length > 0 ? $"numbered {numbering} 1, 2, 3" : "numbered 1, 2, 3";
            });
        }

        private void ReadDays()
        {
            Take(Monthly(), QuickField.Days, match =>
            {
                foreach (Match one in OrdinalDay().Matches(match.Value))
                {
                    places.Add(new WeekdayPlace(OrdinalOf(one.Groups[1].Value), one.Groups[2].Success ? DayText.WeekdayOf(one.Groups[2].Value) : IsoDayOfWeek.None));
                }

                // "first and third Monday": the weekday stands after the last of them.
                for (var at = places.Count - 2; at >= 0; at--)
                    if (places[at].Day == IsoDayOfWeek.None) places[at] = places[at] with { Day = places[at + 1].Day };
                if (places.Any(one => one.Day == IsoDayOfWeek.None || one.Place is 0 or > 5)) return null;
                isMonthly = true;
                return $"every month on the {Wording.List([.. places.Select(one => $"{(one.Place < 0 ? "last" : Wording.Ordinal(one.Place))} {one.Day}")])}";
            });
            Take(CycleDays(), QuickField.Days, match =>
            {
                List<string> names = [.. CycleName().Matches(match.Groups[1].Value).Select(one => one.Value)];
                if (school.Cycle is null) problems.Add("The school has no day cycle, so cycle days mean nothing here.");
                else if (names.Find(name => !school.Cycle.Names.Contains(name, StringComparer.OrdinalIgnoreCase)) is { } unknown)
                {
                    problems.Add($"The cycle has no day “{unknown}”; its days are {Wording.List(school.Cycle.Names)}.");
                    return null;
                }

                cycle.AddRange(names);
                return $"{(names.Count == 1 ? "Day" : "Days")} {Wording.List(names)} of the cycle";
            });
            Take(EveryOther(), QuickField.Days, match =>
            {
                interval = match.Groups["number"] is { Success: true, Value: var number } ? OrdinalOf(number) : 2;
                isWeekly = true;
                return interval is < 1 or > 52 ? null : interval == 1 ? "every week" : interval == 2 ? "every other week" : $"every {Wording.Ordinal(interval)} week";
            });
            Take(Daily(), QuickField.Days, _ =>
            {
                foreach (var day in Enum.GetValues<IsoDayOfWeek>().Where(day => day is >= IsoDayOfWeek.Monday and <= IsoDayOfWeek.Friday)) days.Add(day);
                return "Monday to Friday";
            });
            Take(DayRange(), QuickField.Days, match =>
            {
                var (first, last) = (DayText.WeekdayOf(match.Groups[1].Value), DayText.WeekdayOf(match.Groups[2].Value));
                if (first > last) return null;
                for (var day = first; day <= last; day++) days.Add(day);
                return $"{Wording.Brief(first)} to {Wording.Brief(last)}";
            });
            Take(DayNames(), QuickField.Days, match =>
            {
                List<IsoDayOfWeek> named = [.. DayName().Matches(match.Value).Select(one => DayText.WeekdayOf(one.Value))];
                days.UnionWith(named);
                return Wording.List([.. named.Order().Select(Wording.Brief)]);
            });
            Take(Letters(), QuickField.Days, match =>
            {
                List<IsoDayOfWeek> named = [.. Letter().Matches(match.Value).Select(one => one.Value switch
                {
                    "M" => IsoDayOfWeek.Monday, "T" or "Tu" => IsoDayOfWeek.Tuesday, "W" => IsoDayOfWeek.Wednesday, "Th" or "R" => IsoDayOfWeek.Thursday,
                    "F" => IsoDayOfWeek.Friday, "Sa" => IsoDayOfWeek.Saturday, _ => IsoDayOfWeek.Sunday,
                })];
                days.UnionWith(named);
                return Wording.List([.. named.Select(Wording.Brief)]);
            });
            Take(Weekly(), QuickField.Days, _ => Say(isWeekly = true, "every week"));
        }

        private void ReadTimes()
        {
            Take(AllDay(), QuickField.Time, _ => Say(time = new SessionTime.AllDay(), "all day"));
            Take(InPeriod(), QuickField.Time, match =>
            {
                var name = match.Groups[1].Value;
                if (school.Bells.Find(name) is { } period) return Say(time = new SessionTime.InPeriod(period.Name), $"period {period.Name}, {Wording.Span(period.Start, period.End)}");
                problems.Add(school.Bells.Periods.IsEmpty ? "The school has no bells, so a period means nothing here." : $"The bells have no period “{name}”.");
                return null;
            });
            Take(Span(), QuickField.Time, match =>
            {
                var late = match.Groups[6].Value;
                end = Clock(match.Groups[4].Value, match.Groups[5].Value, late);
                start = Clock(match.Groups[1].Value, match.Groups[2].Value, match.Groups[3].Value.Length > 0 ? match.Groups[3].Value : late);
                // "11-12:15pm" begins before noon.
                if (match.Groups[3].Length == 0 && late.Length > 0 && start >= end) start = Clock(match.Groups[1].Value, match.Groups[2].Value, "");
                if (start is null || end is null) return null;
                if (start >= end) problems.Add($"It ends at {Wording.Of(end.Value)}, which is not after its start at {Wording.Of(start.Value)}.");
                return Wording.Span(start.Value, end.Value);
            });
            Take(Start(), QuickField.Time, match => start is null && (start = Clock(match.Groups[1].Value, match.Groups[2].Value, match.Groups[3].Value)) is { } begins ? $"at {Wording.Of(begins)}" : null);
            Take(Length(), QuickField.Time, match =>
            {
                minutes = match.Groups["hours"].Success
                    ? (int)Math.Round(double.Parse(match.Groups["hours"].Value, CultureInfo.InvariantCulture) * 60) + (match.Groups["and"].Success ? int.Parse(match.Groups["and"].Value, CultureInfo.InvariantCulture) : 0)
                    : int.Parse(match.Groups["minutes"].Value, CultureInfo.InvariantCulture);
                return minutes is > 0 and <= 24 * 60 ? Wording.Amount(minutes.Value) : null;
            });
        }

        // What is left: the first run of words is the title, unless one was quoted; other words were not understood.
        private void ReadRest()
        {
            foreach (Match match in Words().Matches(new string(rest)))
            {
                var words = match.Value.Trim(' ', ',', ';', '-', '–', '.', ':', '/');
                if (words.Length == 0 || Filler().IsMatch(words)) continue;
                if (title.Length == 0)
                {
                    title = words;
                    parts.Add((match.Index, new QuickPart(QuickField.Title, words, words)));
                }
                else
                {
                    parts.Add((match.Index, new QuickPart(QuickField.NotUnderstood, words, "")));
                    problems.Add($"“{words}” was not understood.");
                }
            }
        }

        private Repeat? RepeatOf()
        {
            var kinds = (cycle.Count > 0 ? 1 : 0) + (isMonthly ? 1 : 0) + (days.Count > 0 ? 1 : 0);
            if (kinds > 1)
            {
                problems.Add("It names days in more than one way. Keep one: weekdays, cycle days or days of the month.");
                return null;
            }

            if (cycle.Count > 0) return new Repeat.OnCycleDays([.. cycle]);
            if (isMonthly) return new Repeat.ByRule(new RecurrenceRule { Frequency = Frequency.Monthly, Interval = interval, Days = [.. places.OrderBy(day => day.Place).ThenBy(day => day.Day)], WeekStart = school.FirstDayOfWeek });
            if (days.Count > 0) return Repeat.Weekly(days, interval, school.FirstDayOfWeek);
            if (from is { } first)
            {
                if (isWeekly || extent is not null) return Repeat.Weekly([first.DayOfWeek], interval, school.FirstDayOfWeek);
                return new Repeat.OnDates([first]);
            }

            missing.Add(new QuickGap("days", "No days were found. Write them like MWF, Tue/Thu, days 2 and 5, or first Monday monthly."));
            return null;
        }

        private SessionTime? TimeOf()
        {
            if (time is not null && start is not null) problems.Add("It has two times. Keep the period or the clock time.");
            if (time is not null) return time;
            if (start is null)
            {
                missing.Add(new QuickGap("a time", "No time was found. Write it like 8:00-8:50, 1:30pm 75 min, or p3."));
                return null;
            }

            if (end is null && minutes is not null) end = start.Value.PlusMinutes(minutes.Value) is var later && later > start ? later : null;
            if (end is null)
            {
                if (minutes is null) missing.Add(new QuickGap("how long it takes", $"It starts at {Wording.Of(start.Value)}, but how long it takes is missing. Add an end, or 50 min."));
                else problems.Add("It would end after midnight. Give an end on the same day.");
                return null;
            }

            if (start.Value.Hour is >= 1 and < 6) problems.Add($"{Wording.Of(start.Value)} is before six in the morning. Write {start.Value.Hour}:{start.Value.Minute:00}pm if the afternoon is meant.");
            return start < end ? new SessionTime.Clock(start.Value, end.Value) : null;
        }

        // "3", "3rd", "third"; -1 for "last".
        private static int OrdinalOf(string word) => char.IsAsciiDigit(word[0])
            ? int.Parse(new string([.. word.TakeWhile(char.IsAsciiDigit)]), CultureInfo.InvariantCulture)
            : word.Equals("last", StringComparison.OrdinalIgnoreCase) ? -1 : Wording.SmallOrdinals.ToList().IndexOf(word.ToLowerInvariant());

        private static string Say<T>(T value, string words) => value is null ? "" : words;

        private LocalDate? Day(string text, LocalDate near)
        {
            if (DayText.Read(text, near) is not { } day) return null;
            var weekday = DayText.WeekdayOf(text);
            if (weekday != IsoDayOfWeek.None && weekday != day.DayOfWeek) problems.Add($"{Wording.WithYear(day)} is a {day.DayOfWeek}, not a {weekday}.");
            return day;
        }

        private static LocalTime? Clock(string hours, string rest, string half)
        {
            var hour = int.Parse(hours, CultureInfo.InvariantCulture);
            var minute = rest.Length == 0 ? 0 : int.Parse(rest, CultureInfo.InvariantCulture);
            if (half.Length > 0)
            {
                if (hour is < 1 or > 12) return null;
                hour = hour % 12 + (half[0] is 'p' or 'P' ? 12 : 0);
            }

            return hour < 24 && minute < 60 ? new LocalTime(hour, minute) : null;
        }

        // Takes what an expression finds out of the line, where it can be read.
        private void Take(Regex expression, QuickField field, Func<Match, string?> read)
        {
            foreach (Match match in expression.Matches(new string(rest)))
            {
                if (read(match) is not { } meaning) continue;
                parts.Add((match.Index, new QuickPart(field, match.Value.Trim(' ', ','), meaning)));
                // A mark stands in the place, so that the words on both sides do not run together.
                for (var at = match.Index; at < match.Index + match.Length; at++) rest[at] = '\u0001';
            }
        }
    }

    private const RegexOptions Loose = RegexOptions.IgnoreCase | RegexOptions.CultureInvariant;

    private const int Limit = 2000;

    [GeneratedRegex("[\"“”]([^\"“”]+)[\"“”]", Loose, Limit)]
    private static partial Regex Quoted();

    [GeneratedRegex(@"https?://\S+", Loose, Limit)]
    private static partial Regex Address();

    [GeneratedRegex(@"\b(?:from\s+)?(" + DayText.Pattern + @")\s*(?:to|until|till|through|-|–)\s*(" + DayText.Pattern + ")", Loose, Limit)]
    private static partial Regex Range();

    [GeneratedRegex(@"\b(?:until|till|through|to|ends?(?:\s+on)?)\s+(" + DayText.Pattern + ")", Loose, Limit)]
    private static partial Regex Until();

    [GeneratedRegex(@"\b(?:(?:from|starting|starts|beginning|on)\s+)?(" + DayText.Pattern + ")", Loose, Limit)]
    private static partial Regex From();

    [GeneratedRegex(@"\b(\d{1,3})\s*(sessions?|meetings?|lessons?|times|weekly(?:\s+sessions?)?)\b", Loose, Limit)]
    private static partial Regex Count();

    [GeneratedRegex(@"\b(?:with|all|for|until the end of|to the end of)\s+(?:the\s+)?term\b", Loose, Limit)]
    private static partial Regex WithTerm();

    [GeneratedRegex(@"\bnumbered(?:\s+(?!from|until|on|at|in)([\p{L}][\p{L} ]{0,30}?))?(?=\s*(?:[,;\u0001]|$))", Loose, Limit)]
    private static partial Regex Numbered();

    [GeneratedRegex(@"\b[Rr]oom\s+[\p{Lu}\d][\p{L}\d.-]*|@\s?[^@\u0001]+?(?:@|(?=\s*(?:[,;\u0001]|$)))", RegexOptions.CultureInvariant, Limit)]
    private static partial Regex Room();

    [GeneratedRegex(@"\b(?:every\s+)?(?:the\s+)?(?:(?:first|second|third|fourth|fifth|last|[1-5](?:st|nd|rd|th))(?:\s+" + DayText.Weekday + @")?(?:\s*(?:,|and|&)\s*)?)+\s*,?\s*(?:monthly|(?:of|in)\s+(?:the|each|every)\s+month|every\s+month|each\s+month)\b", Loose, Limit)]
    private static partial Regex Monthly();

    [GeneratedRegex(@"\b(first|second|third|fourth|fifth|last|[1-5](?:st|nd|rd|th))\b(?:\s+(" + DayText.Weekday + "))?", Loose, Limit)]
    private static partial Regex OrdinalDay();

    [GeneratedRegex(@"\b(?:cycle\s+)?days?\s+((?:\d{1,2}|[A-H])\b(?:\s*(?:,|and|&|/|\+)\s*(?:\d{1,2}|[A-H])\b)*)", Loose, Limit)]
    private static partial Regex CycleDays();

    [GeneratedRegex(@"\d{1,2}|\b[A-H]\b", Loose, Limit)]
    private static partial Regex CycleName();

    [GeneratedRegex(@"\b(?:every\s+other(?:\s+week(?:\s+on)?)?|every\s+(?<number>\d{1,2}|second|third|fourth)\s+weeks?(?:\s+on)?|every\s+(?<number>second|third|fourth|\d{1,2}(?:nd|rd|th))(?:\s+week)?(?:\s+on)?|fortnightly|biweekly)\b", Loose, Limit)]
    private static partial Regex EveryOther();

    [GeneratedRegex(@"\b(?:daily|weekdays|every\s+(?:class\s+)?day)\b", Loose, Limit)]
    private static partial Regex Daily();

    [GeneratedRegex(@"\b(" + DayText.Weekday + @")\s*(?:-|–|to)\s*(" + DayText.Weekday + ")", Loose, Limit)]
    private static partial Regex DayRange();

    [GeneratedRegex(@"\b(?:every\s+|on\s+|each\s+)?" + DayText.Weekday + @"\b(?:\s*(?:,|/|and|&|\+|\s)\s*" + DayText.Weekday + @"\b)*", Loose, Limit)]
    private static partial Regex DayNames();

    [GeneratedRegex(DayText.Weekday, Loose, Limit)]
    private static partial Regex DayName();

    // As they are printed in timetables, in this case only: MWF, TuTh, MTWThF, TR.
    [GeneratedRegex(@"(?<![\p{L}\d])(?=[A-Za-z]{2,})(?:M|Tu|Th|T|W|R|F|Sa|Su){1,7}(?![\p{L}\d])|(?<![\p{L}\d])[MWF](?=\s+(?:\d|p\d))", RegexOptions.CultureInvariant, Limit)]
    private static partial Regex Letters();

    [GeneratedRegex("M|Tu|Th|T|W|R|F|Sa|Su", RegexOptions.CultureInvariant, Limit)]
    private static partial Regex Letter();

    [GeneratedRegex(@"\b(?:weekly|every\s+week)\b", Loose, Limit)]
    private static partial Regex Weekly();

    [GeneratedRegex(@"\ball[ -]day\b", Loose, Limit)]
    private static partial Regex AllDay();

    [GeneratedRegex(@"\b(?:in\s+|at\s+)?(?:p|per|period)\.?\s?(\d{1,2}|[A-H])\b", Loose, Limit)]
    private static partial Regex InPeriod();

    [GeneratedRegex(@"(?<![\d:])(?:from\s+|at\s+)?(\d{1,2})(?:[:.](\d{2}))?\s*([ap]\.?m\.?)?\s*(?:-|–|to|until)\s*(\d{1,2})(?:[:.](\d{2}))?\s*([ap]\.?m\.?)?(?![\d:\p{L}])", Loose, Limit)]
    private static partial Regex Span();

    [GeneratedRegex(@"(?<![\d:])(?:at\s+)?(\d{1,2})(?:[:.](\d{2})|(?=\s*[ap]\.?m))\s*([ap]\.?m\.?)?(?![\d:\p{L}])", Loose, Limit)]
    private static partial Regex Start();

    [GeneratedRegex(@"(?<![\d:.])(?:for\s+)?(?:(?<hours>\d(?:\.\d{1,2})?)\s*(?:h|hrs?|hours?)\b(?:\s*(?:and\s+)?(?<and>\d{1,2})(?:\s*(?:min|minutes|m))?\b)?|(?<minutes>\d{1,3})\s*(?:min|mins|minutes|m)\b)", Loose, Limit)]
    private static partial Regex Length();

    [GeneratedRegex(@"[^\u0001,;]+", Loose, Limit)]
    private static partial Regex Words();

    [GeneratedRegex(@"^(?:(?:and|on|at|in|from|to|the|every|each|for|of|meets|starting|until)\s*)+$", Loose, Limit)]
    private static partial Regex Filler();
}
