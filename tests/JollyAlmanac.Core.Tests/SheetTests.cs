using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// Sheets: the week over several calendars with its clashes, what a term sheet shows of sessions that meet elsewhere, the day's rail.
/// </summary>
public sealed class SheetTests
{
    private static readonly LocalDate Monday = new(2026, 10, 12);

    private static readonly Dictionary<PersonId, string> Names = new()
    {
        [new PersonId(1)] = "Orla Marchbanks",
        [new PersonId(2)] = "Halvard Sunde",
    };

    private static SchoolTime School(
        params (string Name, int Hour, int Minute, int EndHour, int EndMinute)[] periods
    ) =>
        new(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Autumn],
            [],
            new BellSchedule(
                "Regular",
                [
                    .. periods.Select(one => new BellPeriod(
                        one.Name,
                        new(one.Hour, one.Minute),
                        new(one.EndHour, one.EndMinute)
                    )),
                ]
            )
        );

    // "9:50-10:40 room teacher students": on a calendar of its own, or on that of the one before it (=); ~ is an empty place or nobody.
    private static List<WeekSession> Sessions(string text, LocalDate day)
    {
        var made = new List<WeekSession>();
        foreach (var part in text.Split(';', StringSplitOptions.TrimEntries))
        {
            var words = part.TrimStart('=').Split(' ');
            var at = part.StartsWith('=') ? made[^1].Calendar.Id.Value : made.Count + 1;
            var times = words[0].Split('-', ':');
            SessionTime time =
                words[0] == "all"
                    ? new SessionTime.AllDay()
                    : Skerry.Clock(
                        int.Parse(times[0], CultureInfo.InvariantCulture),
                        int.Parse(times[1], CultureInfo.InvariantCulture),
                        int.Parse(times[2], CultureInfo.InvariantCulture),
                        int.Parse(times[3], CultureInfo.InvariantCulture)
                    );
            var series = Skerry.Series(
                new MeetingPattern(new Repeat.OnDates([day]), time, Skerry.Halifax, day, new Extent.Open()),
                $"Class {made.Count + 1}"
            ) with
            {
                Id = new SeriesId(made.Count + 1),
                Calendar = new CalendarId(at),
                Place = words[1] == "~" ? "" : words[1],
            };
            var shown = Redaction.Show(
                Planner.PlanOf(series, Skerry.WithoutHolidays).Held.Single(),
                AccessLevel.Full,
                ShowChoices.SignedIn,
                MaterialsAt.None,
                null
            )!;
            var calendar = new Core.Calendars.Calendar(
                new CalendarId(at),
                CalendarKind.Class,
                null,
                $"Class {at}",
                new Slug($"class-{at}"),
                "",
                new Mark(MarkColour.Juniper, MarkShape.Disc),
                Skerry.Halifax,
                new PersonId(1),
                1,
                1,
                default
            );
            made.Add(
                new WeekSession(
                    calendar,
                    shown,
                    true,
                    words[2] == "~" ? null : new PersonId(int.Parse(words[2], CultureInfo.InvariantCulture)),
                    [
                        .. words[3] == "~"
                            ? []
                            : words[3]
                                .Split(',')
                                .Select(one => new PersonId(long.Parse(one, CultureInfo.InvariantCulture))),
                    ]
                )
            );
        }

        return [.. made.OrderBy(one => one.Shown.Session.StartsAt)];
    }

    /// <summary>What takes longer than a day stands on each of its days, and counts once; an evening past midnight on its own.</summary>
    [Theory]
    [InlineData("all 3", "14 Oct|15 Oct|16 Oct")]
    // From Thursday over the weekend: a weekend that only lies within has no column.
    [InlineData("all 5", "15 Oct|16 Oct|19 Oct")]
    [InlineData("15:00 to 13:00 2", "14 Oct|15 Oct|16 Oct")]
    [InlineData("15:00 to 15:00 1", "14 Oct")]
    [InlineData("15:00 to 15:01 1", "14 Oct|15 Oct")]
    [InlineData("22:00 to 02:00 1", "14 Oct")]
    [InlineData("9:00 to 0:00 2", "14 Oct|15 Oct")]
    public void What_takes_several_days_stands_on_each_of_them(string time, string days)
    {
        var words = time.Split(' ');
        var first = new LocalDate(2026, 10, time == "all 5" ? 15 : 14);
        LocalTime At(string text) =>
            NodaTime.Text.LocalTimePattern.CreateWithInvariantCulture("H:mm").Parse(text).Value;
        var series = Skerry.Series(
            new MeetingPattern(
                new Repeat.OnDates([first]),
                words[0] == "all"
                    ? new SessionTime.AllDay(int.Parse(words[1], CultureInfo.InvariantCulture))
                    : new SessionTime.Clock(
                        At(words[0]),
                        At(words[2]),
                        int.Parse(words[3], CultureInfo.InvariantCulture)
                    ),
                Skerry.Halifax,
                first,
                new Extent.Open()
            )
        );
        var plan = Planner.PlanOf(series, Skerry.WithoutHolidays);
        var shown = Redaction.Show(plan.Held.Single(), AccessLevel.Full, ShowChoices.SignedIn, MaterialsAt.None, null)!;
        static string Text(IEnumerable<LocalDate> of) =>
            string.Join('|', of.Select(day => day.ToString("d MMM", CultureInfo.InvariantCulture)));
        var sheet = TermSheet.Of(Skerry.Autumn, Skerry.WithoutHolidays, [plan], _ => shown, default);
        Assert.Equal(
            days,
            Text(
                sheet.Weeks.SelectMany(week => week.Days).Where(day => day.Sessions.Length > 0).Select(day => day.Date)
            )
        );
        Assert.Equal(1, sheet.Weeks.Sum(week => week.Sessions));
        Assert.Equal(plan.Held.Single().Minutes, sheet.Weeks.Sum(week => week.Minutes));
        Assert.Equal(5, sheet.Columns.Length);
        Assert.Equal(1, sheet.Ledger.Sessions);
        var calendar = new Core.Calendars.Calendar(
            new CalendarId(1),
            CalendarKind.Class,
            null,
            "Class",
            new Slug("class"),
            "",
            new Mark(MarkColour.Juniper, MarkShape.Disc),
            Skerry.Halifax,
            new PersonId(1),
            1,
            1,
            default
        );
        var weeks = new[] { Monday, Monday.PlusWeeks(1) }
            .Select(week =>
                WeekSheet.Of(
                    week,
                    School(("1", 8, 0, 23, 0)),
                    [new WeekSession(calendar, shown, true, null, [])],
                    Names
                )
            )
            .ToList();
        // A week shows its weekend where anything goes on there.
        Assert.Equal(
            time == "all 5" ? "15 Oct|16 Oct|17 Oct|18 Oct|19 Oct" : days,
            Text(
                weeks
                    .SelectMany(week =>
                        week.Rows.SelectMany(row => week.Days.Where((_, at) => row.Days[at].Length > 0))
                    )
                    .Order()
            )
        );
        // On the ribbon, too, each weekday of it.
        var ribbon = TermRibbon.Of(Skerry.Autumn, Skerry.WithoutHolidays, [plan], Monday);
        Assert.Equal(
            days,
            Text(ribbon.Weeks.SelectMany(week => week.Days).Where(day => day.Sessions > 0).Select(day => day.Date))
        );
    }

    [Theory]
    [InlineData("9:50-10:40 Loft 1 ~; 10:00-11:00 Hall 1 ~", "1 2 Orla Marchbanks")]
    [InlineData("9:50-10:40 Loft 9 ~; 10:00-11:00 Hall 9 ~", "1 2 the same teacher")]
    [InlineData("9:50-10:40 Loft ~ ~; 10:00-11:00 LOFT ~ ~", "1 2 LOFT|1 2 Loft")]
    [InlineData("9:50-10:40 Loft ~ 5,6,7; 10:00-11:00 Hall ~ 6,7,8", "1 2 2 students")]
    [InlineData("9:50-10:40 Loft ~ 5; 10:00-11:00 Hall ~ 5", "1 2 1 student")]
    [InlineData("9:50-10:40 Loft 1 5; 10:00-11:00 Loft 1 5", "1 2 Orla Marchbanks, Loft and 1 student")]
    [InlineData(
        "9:50-10:40 Loft 1 ~; 10:00-11:00 Loft 2 ~; 10:30-11:30 Loft 1 ~",
        "1 2 Loft;1 3 Orla Marchbanks and Loft;2 3 Loft"
    )]
    // One class that is parted in two rooms has its own students twice.
    [InlineData("9:50-10:40 Loft ~ 5; =10:00-11:00 Hall ~ 5", "")]
    // Nobody in particular, no place, one after the other, all day long: nothing clashes.
    [InlineData("9:50-10:40 ~ ~ ~; 10:00-11:00 ~ ~ ~", "")]
    [InlineData("9:50-10:40 Loft 1 5; 10:40-11:00 Loft 1 5", "")]
    [InlineData("9:50-10:40 Loft 1 ~; 10:00-11:00 Hall 2 ~", "")]
    [InlineData("all Loft 1 5; 10:00-11:00 Loft 1 5", "")]
    public void What_cannot_both_be_is_a_clash(string sessions, string clashes)
    {
        var sheet = WeekSheet.Of(Monday, School(), Sessions(sessions, Monday.PlusDays(1)), Names);
        var found = string.Join(
            ';',
            sheet.Clashes.Select(clash =>
                $"{clash.First.Shown.Session.Of.Id.Value} {clash.Second.Shown.Session.Of.Id.Value} {clash.Because}"
            )
        );
        Assert.Contains(found, clashes.Split('|'));
    }

    [Fact]
    public void A_session_that_is_left_out_clashes_with_nothing()
    {
        var (first, second) = (Sessions("9:50-10:40 Loft 1 ~", Monday)[0], Sessions("9:50-10:40 Loft 1 ~", Monday)[0]);
        var series = first.Shown.Session.Of with
        {
            Changes = [new Change(first.Shown.Session.Original) { Status = SessionStatus.Cancelled }],
        };
        var cancelled = first with
        {
            Shown = Redaction.Show(
                Planner.PlanOf(series, Skerry.WithoutHolidays).Cancelled.Single(),
                AccessLevel.Full,
                ShowChoices.SignedIn,
                MaterialsAt.None,
                null
            )!,
        };
        Assert.Single(WeekSheet.Of(Monday, School(), [first, second], Names).Clashes);
        Assert.Empty(WeekSheet.Of(Monday, School(), [cancelled, second], Names).Clashes);
    }

    // Half open: what begins as a period ends lies behind it. Breaks and evenings have a row of their own, only where one is needed.
    [Theory]
    [InlineData("8:00-8:50 ~ ~ ~", "1")]
    [InlineData("8:49-9:30 ~ ~ ~", "1")]
    [InlineData("8:50-9:30 ~ ~ ~", "other times")]
    [InlineData("8:55-9:30 ~ ~ ~", "2")]
    [InlineData("7:59-9:30 ~ ~ ~", "other times")]
    [InlineData("all ~ ~ ~", "other times")]
    public void A_session_stands_in_the_period_it_begins_in(string session, string row)
    {
        var sheet = WeekSheet.Of(
            Monday,
            School(("1", 8, 0, 8, 50), ("2", 8, 55, 9, 45)),
            Sessions(session, Monday.PlusDays(2)),
            Names
        );
        Assert.Equal(
            row == "other times" ? ["1", "2", "other times"] : ["1", "2"],
            sheet.Rows.Select(one => one.Label)
        );
        var cells = sheet
            .Rows.SelectMany(one => one.Days.Select((cell, at) => (one.Label, At: at, cell.Length)))
            .Where(cell => cell.Length > 0);
        Assert.Equal([(row, 2, 1)], cells);
    }

    [Fact]
    public void A_week_has_a_column_for_a_weekend_day_only_where_something_meets()
    {
        Assert.Equal(5, WeekSheet.Of(Monday, School(), Sessions("9:50-10:40 ~ ~ ~", Monday), Names).Days.Length);
        var days = WeekSheet.Of(Monday, School(), Sessions("9:50-10:40 ~ ~ ~", Monday.PlusDays(6)), Names).Days;
        Assert.Equal(
            [
                Monday,
                Monday.PlusDays(1),
                Monday.PlusDays(2),
                Monday.PlusDays(3),
                Monday.PlusDays(4),
                Monday.PlusDays(6),
            ],
            days
        );
    }

    [Fact]
    public void A_term_sheet_shows_where_a_moved_session_was_and_what_a_no_class_day_takes_out()
    {
        var pattern = Skerry.Pattern(
            "Mon Wed",
            Skerry.Clock(9, 50, 10, 40),
            new LocalDate(2026, 10, 5),
            new Extent.Until(new LocalDate(2026, 10, 21))
        );
        var series = Skerry.Series(pattern) with
        {
            Changes =
            [
                new Change(new LocalDateTime(2026, 10, 14, 9, 50)) { Day = new LocalDate(2026, 10, 15) },
                new Change(new LocalDateTime(2026, 10, 19, 9, 50)) { Time = Skerry.Clock(11, 0, 11, 50) },
            ],
        };
        var sheet = TermSheet.Of(
            Skerry.Autumn,
            Skerry.Time,
            [Planner.PlanOf(series, Skerry.Time)],
            one => Redaction.Show(one, AccessLevel.Full, ShowChoices.SignedIn, MaterialsAt.None, null),
            Instant.FromUtc(2026, 10, 7, 13, 40)
        );
        var days = sheet.Weeks.SelectMany(week => week.Days).ToDictionary(day => day.Date);
        string At(int day) =>
            $"{days[new LocalDate(2026, 10, day)].Sessions.Length} {days[new LocalDate(2026, 10, day)].Away.Length}";
        // Meets; Thanksgiving takes one out; moved away from the 14th to the 15th; later on the same day is not away.
        Assert.Equal(
            "1 0, 1 0, 0 1, 0 1, 1 0, 1 0, 1 0",
            $"{At(5)}, {At(7)}, {At(12)}, {At(14)}, {At(15)}, {At(19)}, {At(21)}"
        );
        // 10:40 in Halifax is 13:40 UTC: what ends at that moment is over.
        Assert.Equal(new Ledger(6, 1, 0, 5, 2, 250), sheet.Ledger);
        var busy = TermSheet.Of(
            Skerry.Autumn,
            Skerry.Time,
            [Planner.PlanOf(series, Skerry.Time)],
            one => Redaction.Show(one, AccessLevel.Busy, ShowChoices.SignedIn, MaterialsAt.None, null),
            default
        );
        Assert.All(busy.Weeks.SelectMany(week => week.Days), day => Assert.Empty(day.Away));
    }

    [Fact]
    public void The_rail_reaches_ten_minutes_beyond_what_stands_on_it_and_stays_within_the_day()
    {
        var late = Sessions("22:30-23:55 ~ ~ ~", Monday)[0].Shown;
        var rail = BellRail.Of(
            [late],
            new BellSchedule("Regular", [new BellPeriod("1", new(0, 5), new(1, 0))]),
            Skerry.Halifax,
            _ => null
        );
        Assert.Equal((new LocalTime(0, 0), new LocalTime(23, 59)), (rail.From, rail.To));
        Assert.Equal(
            (new LocalTime(7, 50), new LocalTime(16, 10)),
            (
                BellRail.Of([], BellSchedule.None, Skerry.Halifax, _ => null).From,
                BellRail.Of([], BellSchedule.None, Skerry.Halifax, _ => null).To
            )
        );
        var usual = BellRail.Of(
            Sessions("9:00-10:00 ~ ~ ~", Monday).ConvertAll(one => one.Shown),
            BellSchedule.None,
            Skerry.Halifax,
            _ => null
        );
        Assert.Equal(
            (new LocalTime(8, 50), new LocalTime(10, 10), 0.5),
            (usual.From, usual.To, usual.Along(new LocalTime(9, 30)))
        );
    }

    [Fact]
    public void The_ribbon_knows_which_weeks_are_past_and_which_is_now()
    {
        TermRibbon At(LocalDate today) => TermRibbon.Of(Skerry.Autumn, Skerry.Time, [], today);
        // Sunday is the week's last day, Monday the next one's first; outside the term no week is now.
        Assert.Equal(
            (1, 0),
            (
                At(new LocalDate(2026, 9, 13)).Now!.Number,
                At(new LocalDate(2026, 9, 13)).Weeks.Count(week => week.IsPast)
            )
        );
        Assert.Equal(
            (2, 1),
            (
                At(new LocalDate(2026, 9, 14)).Now!.Number,
                At(new LocalDate(2026, 9, 14)).Weeks.Count(week => week.IsPast)
            )
        );
        Assert.Null(At(new LocalDate(2026, 9, 6)).Now);
        Assert.Null(At(new LocalDate(2026, 12, 21)).Now);
        Assert.Equal(1, At(new LocalDate(2026, 9, 13)).Busiest);
    }
}
