using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// Lines, lists and bells as timetables, newsletters and school websites write them; made up for these tests, no source. What a
/// line means is right, or what is doubtful is told: never a third.
/// </summary>
public sealed class UnderstoodTests
{
    private static readonly LocalDate Today = new(2026, 9, 10);

    private static SchoolTime School(bool monthFirst) =>
        new(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Autumn, Skerry.Spring],
            Skerry.NoClass,
            Skerry.Bells,
            new DayCycle(["1", "2", "3", "4", "5", "6"], new LocalDate(2026, 9, 8))
        )
        {
            MonthFirst = monthFirst,
        };

    // Line | title; days; time; first day; end; left out. Two readings stand after one another.
    [Theory]
    [InlineData("Art M/W/F 9-10", "Art; Mon, Wed, Fri; 9:00–10:00")]
    [InlineData("Art M-F 9-10", "Art; Mon, Tue, Wed, Thu, Fri; 9:00–10:00")]
    [InlineData("Art T/Th p2", "Art; Tue, Thu; p2")]
    [InlineData("Art Mo/We p2", "Art; Mon, Wed; p2")]
    [InlineData("Art MTWThF p2", "Art; Mon, Tue, Wed, Thu, Fri; p2")]
    [InlineData("Art MTWRF p2", "Art; Mon, Tue, Wed, Thu, Fri; p2")]
    [InlineData("Art M T W Th F p2", "Art; Mon, Tue, Wed, Thu, Fri; p2")]
    [InlineData("Art Mon thru Thu p2", "Art; Mon, Tue, Wed, Thu; p2")]
    [InlineData("Art every two weeks Tue p2", "Art; Tue /2; p2")]
    [InlineData("Art every three weeks Tue p2", "Art; Tue /3; p2")]
    [InlineData("Art alternate Fridays p2", "Art; Fri /2; p2")]
    [InlineData("Art Mondays 9-10 thru Dec 7", "Art; Mon; 9:00–10:00; until 2026-12-07")]
    [InlineData("Guitar Wed 17:00 to 17:45 from next week", "Guitar; Wed; 17:00–17:45; from 2026-09-14")]
    [InlineData("Choir Mon 9-10 till 30 Nov", "Choir; Mon; 9:00–10:00; until 2026-11-30")]
    [InlineData("Choir Mon 9-10 ends Dec 7", "Choir; Mon; 9:00–10:00; until 2026-12-07")]
    [InlineData("Council 2nd and 4th Tuesday p1", "Council; MONTHLY 2TU,4TU; p1")]
    [InlineData("Council 1st & 3rd Wed p1", "Council; MONTHLY 1WE,3WE; p1")]
    [InlineData("Trip tomorrow 9-12", "Trip; 2026-09-11; 9:00–12:00; from 2026-09-11")]
    [InlineData("Trip on Nov 5 and Nov 12 9-12", "Trip; 2026-11-05, 2026-11-12; 9:00–12:00; from 2026-11-05")]
    [InlineData("Trip 5, 12 and 19 Nov 9-12", "Trip; 2026-11-05, 2026-11-12, 2026-11-19; 9:00–12:00; from 2026-11-05")]
    [InlineData("Camp 3-5 Nov all day", "Camp; 2026-11-03, 2026-11-04, 2026-11-05; all day; from 2026-11-03")]
    [InlineData("Art Mon 9-9:50 Wed 10-10:50", "Art; Mon; 9:00–9:50 || Art; Wed; 10:00–10:50")]
    [InlineData("Art Mon/Wed 9-9:50, Fri 10-10:50", "Art; Mon, Wed; 9:00–9:50 || Art; Fri; 10:00–10:50")]
    [InlineData("Council 15th of every month p1", "Council; MONTHLY day 15; p1")]
    [InlineData("Sun Science Wed 9-10", "Sun Science; Wed; 9:00–10:00")]
    [InlineData("Friday Club Thu 3pm 45 min", "Friday Club; Thu; 15:00–15:45")]
    [InlineData("Daily drop-in Tue p4", "Daily drop-in; Tue; p4")]
    [InlineData("Art MWF 9-10 Sept. 14 - Dec. 18", "Art; Mon, Wed, Fri; 9:00–10:00; from 2026-09-14; until 2026-12-18")]
    [InlineData(
        "Art MWF 9-10 from 12.10. to 18.12.",
        "Art; Mon, Wed, Fri; 9:00–10:00; from 2026-10-12; until 2026-12-18"
    )]
    [InlineData("Exam Dec 14, 9 a.m.–12 p.m.", "Exam; 2026-12-14; 9:00–12:00; from 2026-12-14")]
    [InlineData("Band Wed. 7:15–7:55 a.m. thru Nov. 25", "Band; Wed; 7:15–7:55; until 2026-11-25")]
    [InlineData("French Mo 18:30-20:00 Uhr", "French; Mon; 18:30–20:00")]
    [InlineData("Lunch Mon noon-12:45", "Lunch; Mon; 12:00–12:45")]
    [InlineData("Art Mon 0800-0850", "Art; Mon; 8:00–8:50")]
    [InlineData("Art Mon 8h00-8h50", "Art; Mon; 8:00–8:50")]
    [InlineData("Film Mon 7pm-9", "Film; Mon; 19:00–21:00")]
    [InlineData("Art Mon 11-1", "Art; Mon; 11:00–13:00")]
    [InlineData("Art Mon 12:30-1:45", "Art; Mon; 12:30–13:45")]
    [InlineData("Art Mon 1-2:15", "Art; Mon; 13:00–14:15")]
    [InlineData("Art Mon 9 for an hour", "Art; Mon; 9:00–10:00")]
    [InlineData("Art Mon 9:00 1h15", "Art; Mon; 9:00–10:15")]
    [InlineData("Art Mon 9:00 2 hours 1 minute", "Art; Mon; 9:00–11:01")]
    [InlineData("Art Mon 9:00 (75 min)", "Art; Mon; 9:00–10:15")]
    [InlineData("Art Mon 3rd period", "Art; Mon; p3")]
    [InlineData("Art Mon pd 4", "Art; Mon; p4")]
    [InlineData("Art Mon p4 until Thanksgiving", "Art; Mon; p4; until 2026-10-12")]
    [InlineData("Art Mon p4 until the end of term", "Art; Mon; p4; term 1")]
    [InlineData("Art Mon p4 x12", "Art; Mon; p4; 12 held")]
    [InlineData("Art Mon p4 except 26-30 Oct", "Art; Mon; p4; not 2026-10-26–2026-10-30")]
    [InlineData("Art Tue p4 not 27 Oct", "Art; Tue; p4; not 2026-10-27")]
    [InlineData("Art Mon p4 no class 9 Nov", "Art; Mon; p4; not 2026-11-09")]
    [InlineData("Art Mon p4 not 12 Oct or 30 Nov", "Art; Mon; p4; not 2026-10-12, 2026-11-30")]
    [InlineData("Career day 20 November 9:00-12:00", "Career day; 2026-11-20; 9:00–12:00; from 2026-11-20")]
    [InlineData("Art Mon p4 Room 12", "Art; Mon; p4; @Room 12")]
    [InlineData("Art Tue 2nd period spring term", "Art; Tue; p2; from 2027-01-04; term 2")]
    [InlineData("Art alt Weds p2", "Art; Wed /2; p2")]
    [InlineData("Art 8 x Wed p2", "Art; Wed; p2; 8 held")]
    [InlineData("Art Mon p4 (not 9 or 16 Nov)", "Art; Mon; p4; not 2026-11-09, 2026-11-16")]
    [InlineData(
        "Exams w/c 16 Nov 9-12",
        "Exams; 2026-11-16, 2026-11-17, 2026-11-18, 2026-11-19, 2026-11-20; 9:00–12:00; from 2026-11-16"
    )]
    [InlineData("Art Mon p4 until further notice", "Art; Mon; p4; open")]
    [InlineData("Art Mon p4 no end", "Art; Mon; p4; open")]
    [InlineData("Art Mon p4 ongoing", "Art; Mon; p4; open")]
    [InlineData("Fri p4 Online learning day", "Online learning day; Fri; p4")]
    [InlineData("Art Mon p4 online", "Art; Mon; p4; @online")]
    [InlineData(
        "Camp 2.-6.11. 9-12",
        "Camp; 2026-11-02, 2026-11-03, 2026-11-04, 2026-11-05, 2026-11-06; 9:00–12:00; from 2026-11-02"
    )]
    [InlineData("Guitar 8 sessions Tue p4", "Guitar; Tue; p4; 8 held")]
    [InlineData("\"Mon petit Tue\" Wed p1", "Mon petit Tue; Wed; p1")]
    public void A_line_means_what_its_writer_meant(string line, string meant) =>
        Assert.Equal(
            meant,
            string.Join(" || ", QuickEntry.ReadAll(line, School(monthFirst: false), Today).Select(InWords))
        );

    // A place behind what is understood, told by its noun; the title stands before.
    [Theory]
    [InlineData("Parent evening 12 Nov 18:00-20:00 Great hall", "Parent evening", "Great hall")]
    [InlineData("Yearbook Mon 15:20-16:20 in the Net room, 19 Oct - 7 Dec", "Yearbook", "Net room")]
    [InlineData("Chess Fri 12:00-12:30 Library", "Chess", "Library")]
    [InlineData("Mon p3 Study hall", "Study hall", "")] // what is left is the title, where nothing else is
    [InlineData("Knots Mon p3 Lab safety", "Knots", "")]
    public void A_place_is_told_by_its_noun(string line, string title, string place)
    {
        var reading = QuickEntry.Read(line, School(false), Today);
        Assert.Equal((title, place), (reading.Title, reading.Place));
    }

    [Theory]
    [InlineData("First day back Mon Nov 30")]
    [InlineData("Students return 4 Jan")]
    public void A_day_with_class_is_no_day_without(string line)
    {
        var (days, problems) = NoClassList.Read(line, Today);
        Assert.Empty(days);
        Assert.Single(problems);
    }

    [Fact]
    public void A_name_in_brackets_is_the_name() =>
        Assert.Equal("PD day", NoClassList.Read("Fri 23 Oct (PD day)", Today).Days.Single().Name);

    [Theory]
    [InlineData("Art Mon 9-9:50 30 Nov to 14 Sep", "before it starts")]
    [InlineData("Art Mon 6:15 45 min", "morning or in the evening")]
    [InlineData("Art Mon p4 purple", "“purple” was not understood")]
    [InlineData("Art Mon p4 Tue 14 Sep", "not")]
    [InlineData("Art Mon p4 31 Feb", "31 Feb")]
    [InlineData("Trip 31 Feb 9-12", "31 Feb")]
    [InlineData("Art every second day p2", "every second day")]
    [InlineData("Art every other school day p2", "every other school day")]
    [InlineData("Art twice a week p2", "twice a week")]
    [InlineData("Art 3 times a week p2", "on which days")]
    [InlineData("Art Mon p4 (odd weeks)", "odd weeks")]
    [InlineData("Art Mon p4 week A", "week A")]
    [InlineData("Year 7 lessons Mon p2", "Year 7 lessons")]
    [InlineData("Trip 5 or 12 Nov 9-12", "leaves open")]
    [InlineData("Camp 20-16 Nov all day", "ends before it begins")]
    public void What_is_doubtful_is_told(string line, string told)
    {
        var readings = QuickEntry.ReadAll(line, School(monthFirst: false), Today);
        Assert.DoesNotContain(readings, reading => reading.IsWhole);
        Assert.Contains(readings.SelectMany(reading => reading.Problems), problem =>
            problem.Contains(told, StringComparison.Ordinal)
        );
    }

    [Theory]
    [InlineData(false, "Art Mon p1 10/12 to 12/12", "Art; Mon; p1; from 2026-12-10; until 2026-12-12")]
    [InlineData(true, "Art Mon p1 10/12 to 12/18", "Art; Mon; p1; from 2026-10-12; until 2026-12-18")]
    public void The_school_says_which_comes_first(bool monthFirst, string line, string meant) =>
        Assert.Equal(meant, string.Join(" || ", QuickEntry.ReadAll(line, School(monthFirst), Today).Select(InWords)));

    // Whatever is written, no word of it is lost: each stands in a part that was read, or in what was not understood.
    [Fact]
    public void Every_word_is_used_or_told()
    {
        string[] words =
        [
            "Art",
            "Mon",
            "Tue/Thu",
            "9-10",
            "p2",
            "14 Sep",
            "to",
            "18 Dec",
            "12 sessions",
            "every",
            "week",
            "except",
            "26 Oct",
            "purple",
            "(75 min)",
            "@Hall",
            "until",
            "numbered",
            "noon",
            "daily",
            "2nd",
            "x4",
            "\"T\"",
            "–",
            "all day",
            "next",
            "term",
        ];
        var random = new Random(7);
        for (var turn = 0; turn < 4000; turn++)
        {
            var line = string.Join(
                ' ',
                Enumerable.Range(0, random.Next(1, 9)).Select(_ => words[random.Next(words.Length)])
            );
            var readings = QuickEntry.ReadAll(line, School(monthFirst: false), Today);
            var told = string.Join(
                ' ',
                readings.SelectMany(reading =>
                    reading
                        .Parts.Select(part => part.Written)
                        .Concat(reading.Problems)
                        .Append(reading.Title)
                        .Append(reading.Place)
                        .Append(reading.NumberLabel)
                )
            );
            if (readings.Any(reading => !reading.IsWhole && reading.Problems.Length > 0))
                continue;
            foreach (
                var word in line.Split([' ', '(', ')', '"', '–', ',', '/'], StringSplitOptions.RemoveEmptyEntries)
                    .Where(word => word.Any(char.IsLetterOrDigit) && word != "to")
            ) // "to" only joins
                Assert.True(
                    told.Contains(word.TrimStart('@'), StringComparison.OrdinalIgnoreCase),
                    $"“{word}” of “{line}” is lost: {told}"
                );
        }
    }

    [Theory]
    [InlineData("Nov 26-27 Thanksgiving", "2026-11-26–2026-11-27 Thanksgiving Holiday")]
    [InlineData("Feb 15 - 19 Winter recess", "2027-02-15–2027-02-19 Winter recess Holiday")]
    [InlineData("November 12th through 13th: Break", "2026-11-12–2026-11-13 Break Holiday")]
    [InlineData("Nov 12, 13 Break", "2026-11-12–2026-11-13 Break Holiday")]
    [InlineData("22-23 Oct Teachers’ conference (staff day)", "2026-10-22–2026-10-23 Teachers’ conference StaffDay")]
    [InlineData("Dec. 21-Jan. 1 Winter Break – no classes", "2026-12-21–2027-01-01 Winter Break Holiday")]
    [InlineData("• 11 November: Remembrance Day (no classes)", "2026-11-11–2026-11-11 Remembrance Day Holiday")]
    [InlineData("Spring Break (April 5-9)", "2027-04-05–2027-04-09 Spring Break Holiday")]
    [InlineData("Good Friday, March 26, 2027", "2027-03-26–2027-03-26 Good Friday Holiday")]
    [InlineData("Exams Jan 25-29", "2027-01-25–2027-01-29 Exams Examination")]
    [InlineData("Sept 7 (Mon) Labour Day", "2026-09-07–2026-09-07 Labour Day Holiday")]
    [InlineData(
        "Easter: Friday March 26 and Monday March 29",
        "2027-03-26–2027-03-26 Easter Holiday; 2027-03-29–2027-03-29 Easter Holiday"
    )]
    [InlineData(
        "Thursday, October 22 & Friday, October 23: Provincial conference",
        "2026-10-22–2026-10-23 Provincial conference StaffDay"
    )]
    [InlineData("Mar 13-21 March Break", "2027-03-13–2027-03-21 March Break Holiday")]
    [InlineData(
        "Christmas Break: Dec 19, 2026 to Jan 3, 2027 inclusive",
        "2026-12-19–2027-01-03 Christmas Break Holiday"
    )]
    [InlineData("Closed week of April 12", "2027-04-12–2027-04-16 Closed Holiday")]
    [InlineData("w/c 16 Nov Study week", "2026-11-16–2026-11-20 Study week Holiday")]
    [InlineData("2.-6.11. Autumn break", "2026-11-02–2026-11-06 Autumn break Holiday")]
    [InlineData("1. Nov 12 Founders’ day", "2026-11-12–2026-11-12 Founders’ day Holiday")]
    [InlineData("12., 13. und 14. Oktober Studientage", "2026-10-12–2026-10-14 Studientage Holiday")]
    [InlineData("Herbstferien 19. Oktober bis 30. Oktober", "2026-10-19–2026-10-30 Herbstferien Holiday")]
    [InlineData("19 Dec to 3 Jan inclusive - Christmas break", "2026-12-19–2027-01-03 Christmas break Holiday")]
    [InlineData("2026-12-19 to 2027-01-03 Winter holiday", "2026-12-19–2027-01-03 Winter holiday Holiday")]
    public void A_day_without_class_is_read_with_both_ends(string line, string days)
    {
        var (read, problems) = NoClassList.Read(
            line,
            Today,
            schoolYear: new DaySpan(Skerry.Autumn.First, Skerry.Spring.Last)
        );
        Assert.Empty(problems);
        Assert.Equal(
            days,
            string.Join("; ", read.Select(day => $"{day.First:uuuu-MM-dd}–{day.Last:uuuu-MM-dd} {day.Name} {day.Kind}"))
        );
    }

    [Theory]
    [InlineData("Fri 27 Nov", "has no name")]
    [InlineData("School year 2026-27", "names no day")]
    [InlineData("Early dismissal at noon Dec 18", "other bells")]
    [InlineData("Nov 11 Veterans Day, Nov 26 Thanksgiving", "second day")]
    [InlineData("Tue 12 Oct Thanksgiving", "Monday")]
    [InlineData("Snow make-up day Feb 12", "day with class")]
    [InlineData("Last day of school June 25", "day with class")]
    [InlineData("School closes for winter Friday December 18", "day with class")]
    [InlineData("31 Feb Nothing", "31 Feb")]
    [InlineData("Term ends 18 Dec", "day with class")]
    [InlineData("20-16 Nov Break", "ends before it begins")]
    public void A_doubtful_day_without_class_is_told(string line, string told)
    {
        var (read, problems) = NoClassList.Read(
            line,
            Today,
            schoolYear: new DaySpan(Skerry.Autumn.First, Skerry.Spring.Last)
        );
        Assert.Empty(read);
        Assert.Contains(told, Assert.Single(problems), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("1 10:00am-10:50am", "1 10:00–10:50")]
    [InlineData("Period 1: 8:00am – 8:50am", "1 8:00–8:50")]
    [InlineData("8:00-8:50 Period 1", "1 8:00–8:50")]
    [InlineData("5 12:35-1:25", "5 12:35–13:25")]
    [InlineData("1st 8:00-8:50", "1 8:00–8:50")]
    [InlineData("P1 0800-0850", "1 8:00–8:50")]
    [InlineData("7 3:00 to 3:50 pm", "7 15:00–15:50")]
    [InlineData("1 8:50-8:00", "not after its start")]
    [InlineData("lunch", "time")]
    public void Bells_are_read_as_the_composer_reads_times(string line, string read)
    {
        var (period, problem) = BellText.Read(line);
        Assert.Contains(
            read,
            period is null ? problem! : $"{period.Name} {Wording.Span(period.Start, period.End)}",
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("St Johns", "America/St_Johns")]
    [InlineData("america/halifax", "America/Halifax")]
    [InlineData("Lord Howe", "Australia/Lord_Howe")]
    [InlineData("Nowhere", null)]
    public void A_zone_is_found_by_its_place(string text, string? zone) => Assert.Equal(zone, ZoneText.Find(text)?.Id);

    // RFC 5545 §3.3.10 has none of these.
    [Fact]
    public void A_rule_with_garbage_in_any_place_is_refused_or_reads_back_as_itself()
    {
        string[] good =
        [
            "FREQ=WEEKLY",
            "INTERVAL=2",
            "BYDAY=MO,WE",
            "WKST=SU",
            "COUNT=5",
            "BYMONTH=9,10",
            "BYMONTHDAY=-1",
            "BYSETPOS=1",
        ];
        string[] bad =
        [
            "",
            "+4",
            "DAILY,WEEKLY",
            "4",
            "-0",
            "0",
            "1e3",
            "0x1",
            "١",
            "MO;",
            "WEEKLY ",
            "weekly\t",
            "99999999999",
            "MO,,WE",
            "1,2,",
            "MO1",
            "--1",
            "+",
            "SU,SU,XX",
            "2147483648",
            "\0",
        ];
        foreach (var part in good.Select(one => one.Split('=')[0]))
        foreach (var value in bad)
        {
            var text = string.Join(
                ';',
                good.Select(one => one.StartsWith(part + "=", StringComparison.Ordinal) ? $"{part}={value}" : one)
            );
            var (rule, reason) = RuleText.Parse(text);
            if (rule is null)
                Assert.False(string.IsNullOrWhiteSpace(reason));
            else
                Assert.Equal(rule.ToString(), RuleText.Parse(rule.ToString()).Rule?.ToString());
        }

        string[] never =
        [
            "FREQ=DAILY,WEEKLY",
            "FREQ=+4",
            "FREQ=4",
            "FREQ=",
            "FREQ",
            "",
            ";",
            "FREQ=DAILY;FREQ=DAILY",
            "FREQ=DAILY;X=1",
            "FREQ=DAILY;;COUNT=2",
        ];
        Assert.All(never, text => Assert.Null(RuleText.Parse(text).Rule));
    }

    private static string InWords(QuickReading reading) =>
        string.Join(
            "; ",
            new[]
            {
                reading.Title,
                reading.Repeat switch
                {
                    Repeat.OnDates dates => string.Join(", ", dates.Dates.Select(day => $"{day:uuuu-MM-dd}")),
                    Repeat.ByRule { Rule.Frequency: Frequency.Monthly } rule => "MONTHLY "
                        + (
                            rule.Rule.MonthDays.IsDefaultOrEmpty
                                ? string.Join(',', rule.Rule.ToString().Split("BYDAY=")[^1].Split(';')[0])
                                : $"day {string.Join(',', rule.Rule.MonthDays)}"
                        ),
                    Repeat.ByRule rule => string.Join(", ", rule.WeeklyDays.Select(Wording.Brief))
                        + (rule.Rule.Interval > 1 ? $" /{rule.Rule.Interval}" : ""),
                    Repeat.OnCycleDays cycle => "cycle " + string.Join(',', cycle.Names),
                    _ => "?",
                },
                reading.Time switch
                {
                    SessionTime.InPeriod period => $"p{period.Period}",
                    SessionTime.Clock clock => Wording.Span(clock.Start, clock.End),
                    SessionTime.AllDay => "all day",
                    _ => "?",
                },
                reading.From is { } from ? $"from {from:uuuu-MM-dd}" : null,
                reading.Extent switch
                {
                    Extent.Until until => $"until {until.Day:uuuu-MM-dd}",
                    Extent.Held held => $"{held.Sessions} held",
                    Extent.Open => "open",
                    Extent.WithTerm with => $"term {with.Term.Value}",
                    _ => null,
                },
                reading.Except.IsEmpty
                    ? null
                    : "not "
                        + string.Join(
                            ", ",
                            reading.Except.Select(span =>
                                span.First == span.Last
                                    ? $"{span.First:uuuu-MM-dd}"
                                    : $"{span.First:uuuu-MM-dd}–{span.Last:uuuu-MM-dd}"
                            )
                        ),
                reading.Place.Length > 0 ? "@" + reading.Place : null,
                reading.Problems.IsEmpty ? null : "PROBLEM " + string.Join(" ", reading.Problems),
            }.Where(part => part is not null)
        );
}
