using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Sessions over days, splits, and what hangs on them; what forms show is read back as itself.</summary>
public sealed class SpanTests
{
    private static readonly LocalDate Wednesday = new(2026, 10, 14);

    private static Series.Series Camp =>
        Skerry.Series(
            new MeetingPattern(
                new Repeat.OnDates([Wednesday]),
                new SessionTime.Clock(Skerry.At(9, 0), Skerry.At(15, 0), 2),
                Skerry.Halifax,
                Wednesday,
                new Extent.Open()
            ),
            "Camp"
        );

    private static readonly JoinLink Link = new(
        new JoinLinkId(7),
        new CalendarId(1),
        "Tidepool room",
        new JoinCode("tidepool-7k"),
        1
    )
    {
        Target = new TargetFacts(
            "rooms.example",
            "",
            "",
            Instant.FromUtc(2026, 9, 3, 12, 0),
            1,
            false,
            false,
            false,
            false,
            null,
            ""
        ),
    };

    private static Instant At(int day, int hour, int minute = 0) =>
        new LocalDateTime(2026, 10, day, hour, minute).InZoneStrictly(Skerry.Halifax).ToInstant();

    // A day without class that is declared later takes out what was moved onto it; what is moved onto one that is known meets there; a
    // session beside the pattern meets on a holiday, for which it was chosen, and not in bad weather.
    [Fact]
    public void A_day_without_class_counts_whatever_stands_on_it()
    {
        var series = Skerry.Series(
            Skerry.Pattern("Wed", Skerry.Clock(9, 50, 10, 40), Wednesday, new Extent.Until(new(2026, 10, 28))) with
            {
                Extra =
                [
                    new ExtraSession(
                        new LocalDate(2026, 10, 17),
                        Skerry.Clock(9, 0, 9, 50),
                        new LocalDateTime(2026, 10, 17, 9, 0, 1)
                    ),
                ],
            }
        );
        Series.Series Move(LocalDate to) =>
            Alteration
                .Of(
                    Planner.PlanOf(series, Skerry.Time),
                    Planner.PlanOf(series, Skerry.Time).Find(Wednesday + Skerry.At(9, 50))!,
                    new SessionEdit(Day: to),
                    ChangeScope.This,
                    Skerry.Time
                )
                .Altered!.Kept!;
        SchoolTime With(int first, int last, NoClassKind kind) =>
            new(
                Skerry.Halifax,
                IsoDayOfWeek.Monday,
                [Skerry.Spring, Skerry.Autumn],
                [.. Skerry.NoClass, new NoClassDay(new(2026, 10, first), new(2026, 10, last), "Snow", kind)],
                Skerry.Bells
            );
        string Held(Series.Series one, int day, NoClassKind kind) =>
            string.Join(' ', Planner.PlanOf(one, With(day, day, kind)).Held.Select(session => session.Start.Day));
        foreach (var kind in new[] { NoClassKind.Weather, NoClassKind.Holiday })
        {
            Assert.Equal("17 21 28", Held(Move(new(2026, 10, 16)), 16, kind));
            // 12 October is Thanksgiving: whoever moves it there means it.
            Assert.Equal("12 17 21 28", Held(Move(new(2026, 10, 12)), 13, kind));
            Assert.Equal(kind == NoClassKind.Weather ? "14 21 28" : "14 17 21 28", Held(series, 17, kind));
        }

        var moved = Move(new(2026, 10, 16));
        var effect = SchoolTimeEffect.Between(Skerry.Time, With(16, 17, NoClassKind.Weather), [moved]);
        Assert.Equal("2 sessions of 1 series are left out, 2 of them put there by hand.", effect.InWords);
        // Brought back by hand it meets, whatever the day is.
        var snow = With(16, 16, NoClassKind.Weather);
        var plan = Planner.PlanOf(moved, snow);
        var back = Alteration
            .Of(plan, plan.Find(Wednesday + Skerry.At(9, 50))!, new SessionEdit(Meets: true), ChangeScope.This, snow)
            .Altered!.Kept!;
        Assert.Contains(Planner.PlanOf(back, snow).Held, session => session.Start.Date == new LocalDate(2026, 10, 16));
    }

    // "Open all day on days with a session": on each of its days, from midnight to midnight.
    [Fact]
    public void A_door_that_is_open_on_days_with_a_session_is_open_on_each_of_its_days()
    {
        var schedule = new DoorSchedule(
            Link with
            {
                Entry = new EntryRule.AllDay(),
            },
            Planner.PlanOf(Camp, Skerry.Time).Sessions,
            Skerry.Halifax
        );
        foreach (
            var (at, isOpen) in new[]
            {
                (At(13, 23, 59), false),
                (At(14, 0), true),
                (At(15, 12), true),
                (At(16, 8), true),
                (At(16, 23, 59), true),
                (At(17, 0), false),
            }
        )
            Assert.Equal((at, isOpen), (at, schedule.At(at).IsOpen));
    }

    [Fact]
    public void A_group_on_the_third_day_of_a_camp_meets_the_camp()
    {
        var lab = Skerry.Series(
            new MeetingPattern(
                new Repeat.OnDates([new LocalDate(2026, 10, 16)]),
                Skerry.Clock(10, 0, 10, 50),
                Skerry.Halifax,
                Wednesday,
                new Extent.Open()
            ),
            "Lab"
        );
        EntryWindow[] windows =
        [
            .. new[] { Camp, lab }
                .SelectMany(series => Planner.PlanOf(series, Skerry.Time).Held)
                .Select(session => EntryWindow.Of(Link, session)),
        ];
        Assert.Equal(
            [("Camp", "Lab")],
            LinkFindings.Overlaps(Link, windows).Select(pair => (pair.Earlier.Session.Title, pair.Later.Session.Title))
        );
        // Half open: a group whose door opens as the camp ends meets nobody.
        var after = lab with { Pattern = lab.Pattern with { Time = Skerry.Clock(15, 10, 16, 0) } };
        EntryWindow[] apart = [windows[0], EntryWindow.Of(Link, Planner.PlanOf(after, Skerry.Time).Sessions[0])];
        Assert.Empty(LinkFindings.Overlaps(Link, apart));
    }

    [Theory]
    [InlineData("Join with 812 4460 913", true)]
    [InlineData("Join with 8124460913", true)]
    [InlineData("Join with 812-4460-913.", true)]
    [InlineData("Call 812 44 60 91", false)]
    public void A_meeting_id_is_found_however_it_is_spaced(string text, bool isFound)
    {
        var use = new LinkInUse(
            Link,
            new DoorSchedule(Link, [], Skerry.Halifax),
            [],
            [new ReadText(new SeriesId(1), "the class page", text)],
            false
        );
        Assert.Equal(
            isFound,
            LinkFindings
                .Of(use, ["812 4460 913"], At(14, 9), Skerry.Halifax)
                .Any(finding => finding.Kind == FindingKind.SecretInPublic)
        );
    }

    // A door opened by hand before its time says until when it really is open.
    [Fact]
    public void A_door_opened_early_by_hand_says_when_it_really_shuts()
    {
        var series = Skerry.Series(
            Skerry.Pattern(
                "Wed",
                Skerry.Clock(13, 38, 14, 30),
                Skerry.Autumn.First,
                new Extent.WithTerm(Skerry.Autumn.Id)
            )
        );
        var sessions = Planner.PlanOf(series, Skerry.Time).Sessions;
        var hand = new DoorSchedule(Link, sessions, Skerry.Halifax).OpenedAt(At(14, 13, 0));
        var schedule = new DoorSchedule(Link with { Hand = hand }, sessions, Skerry.Halifax);
        var until = schedule.At(At(14, 13, 5)).OpenUntil;
        Assert.Equal(At(14, 13, 58), until);
        // It is open up to that moment, and not at it.
        for (var at = At(14, 13, 5); at < until; at += Duration.FromMinutes(1))
            Assert.True(schedule.At(at).IsOpen);
        Assert.False(schedule.At(until!.Value).IsOpen);
    }

    [Fact]
    public void The_week_shows_a_weekend_day_on_which_a_session_only_goes_on()
    {
        var friday = Camp with
        {
            Pattern = Camp.Pattern with
            {
                Repeat = new Repeat.OnDates([new LocalDate(2026, 10, 16)]),
                From = new LocalDate(2026, 10, 16),
            },
        };
        var session = Planner.PlanOf(friday, Skerry.Time).Sessions[0];
        var shown = new Access.ShownSession(session, "Camp", false, 1, "", "", "", [], null);
        var calendar = new Calendar(
            new CalendarId(1),
            CalendarKind.Class,
            null,
            "Camp",
            new Slug("camp"),
            "",
            default,
            Skerry.Halifax,
            default,
            1,
            1,
            default
        );
        var week = WeekSheet.Of(
            new LocalDate(2026, 10, 12),
            Skerry.Time,
            [new WeekSession(calendar, shown, false, null, [])],
            new Dictionary<People.PersonId, string>()
        );
        Assert.Contains(new LocalDate(2026, 10, 17), week.Days);
        Assert.Contains(new LocalDate(2026, 10, 18), week.Days);
    }

    // Mondays that go on to the next class day, with Thanksgiving (12 Oct): the head's last session stays on Tuesday 13 Oct, where the
    // whole had it, and the tail does not meet there a second time.
    [Theory]
    [InlineData("Mon Tue", 13)]
    [InlineData("Mon", 19)]
    [InlineData("Mon Wed", 14)]
    public void A_split_of_what_goes_on_to_the_next_class_day_meets_on_the_same_days(string days, int from)
    {
        var series = Skerry.Series(
            Skerry.Pattern(
                days,
                Skerry.Clock(9, 0, 9, 50),
                Skerry.Autumn.First,
                new Extent.WithTerm(Skerry.Autumn.Id)
            ) with
            {
                NoClass = NoClassPolicy.NextClassDay,
            }
        );
        var plan = Planner.PlanOf(series, Skerry.Time);
        var session = plan.Sessions.First(one => one.Original.Date == new LocalDate(2026, 10, from));
        var altered = Alteration
            .Of(plan, session, new SessionEdit(Title: "Anew"), ChangeScope.Later, Skerry.Time)
            .Altered!;
        var after = new[] { altered.Kept!, altered.Split! }
            .SelectMany(half => Planner.PlanOf(half, Skerry.Time).Held)
            .Select(one => one.Start)
            .Order()
            .ToList();
        Assert.Equal(plan.Held.Select(one => one.Start).Order(), after);
        Assert.Equal(after.Count, after.Distinct().Count());
    }

    [Fact]
    public void What_is_brought_back_meets_also_on_a_no_class_day()
    {
        var series = Skerry.Series(
            Skerry.Pattern("Mon", Skerry.Clock(9, 0, 9, 50), Skerry.Autumn.First, new Extent.WithTerm(Skerry.Autumn.Id))
        );
        bool Meets() => Find().IsHeld;
        Session Find() => Planner.PlanOf(series, Skerry.Time).Find(new LocalDateTime(2026, 10, 12, 9, 0))!;
        void Do(bool meets) =>
            series = Alteration
                .Of(
                    Planner.PlanOf(series, Skerry.Time),
                    Find(),
                    new SessionEdit(Meets: meets),
                    ChangeScope.This,
                    Skerry.Time
                )
                .Altered!.Kept!;
        Assert.False(Meets());
        foreach (var meets in new[] { true, false, true, false, true })
        {
            Do(meets);
            Assert.Equal(meets, Meets());
        }
    }

    [Fact]
    public void An_extra_session_can_take_the_period_of_the_pattern()
    {
        var pattern = Skerry.Pattern(
            "Mon",
            new SessionTime.InPeriod("3"),
            Skerry.Autumn.First,
            new Extent.WithTerm(Skerry.Autumn.Id)
        );
        var series = Skerry.Series(
            pattern with
            {
                Extra = ExtraSession.Named([(Wednesday, Skerry.Clock(15, 0, 15, 50))], [], Skerry.Bells),
            }
        );
        var plan = Planner.PlanOf(series, Skerry.Time);
        var extra = plan.Sessions.Single(session => session.IsExtra);
        var moved = Alteration
            .Of(plan, extra, new SessionEdit(Time: new SessionTime.InPeriod("3")), ChangeScope.This, Skerry.Time)
            .Altered!.Kept!;
        Assert.Equal(
            Skerry.At(9, 50),
            Planner.PlanOf(moved, Skerry.Time).Sessions.Single(session => session.IsExtra).Start.TimeOfDay
        );
        // And back to its own time leaves no change behind.
        var back = Alteration
            .Of(
                Planner.PlanOf(moved, Skerry.Time),
                Planner.PlanOf(moved, Skerry.Time).Sessions.Single(session => session.IsExtra),
                new SessionEdit(Time: Skerry.Clock(15, 0, 15, 50)),
                ChangeScope.This,
                Skerry.Time
            )
            .Altered!.Kept!;
        Assert.Empty(back.Changes);
    }

    // RFC 5545 §3.3.10 takes what a rule does not name from DTSTART: from another start, the same rule would mean other days.
    [Theory]
    [InlineData("FREQ=WEEKLY", "2026-09-10", "FREQ=WEEKLY;BYDAY=TH")]
    [InlineData("FREQ=MONTHLY", "2026-09-15", "FREQ=MONTHLY;BYMONTHDAY=15")]
    [InlineData("FREQ=YEARLY", "2026-09-15", "FREQ=YEARLY;BYMONTH=9;BYMONTHDAY=15")]
    [InlineData("FREQ=YEARLY;BYMONTH=3", "2026-03-15", "FREQ=YEARLY;BYMONTH=3;BYMONTHDAY=15")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=20", "2026-05-14", "FREQ=YEARLY;BYWEEKNO=20;BYDAY=TH")]
    [InlineData("FREQ=MONTHLY;BYDAY=1MO", "2026-09-07", "FREQ=MONTHLY;BYDAY=1MO")]
    [InlineData("FREQ=DAILY", "2026-09-07", "FREQ=DAILY")]
    public void A_rule_with_its_days_written_out_means_the_same_days(string text, string start, string written)
    {
        var rule = RuleText.Parse(text).Rule!;
        var day = NodaTime.Text.LocalDatePattern.Iso.Parse(start).Value;
        var whole = rule.WithDaysOf(day);
        Assert.Equal(RuleText.Parse(written).Rule!.ToString(), whole.ToString());
        Assert.Equal(
            new RecurrenceSet(rule, RecurrenceStart.OnDay(day)).All().Take(20).Select(one => one.Date),
            new RecurrenceSet(whole, RecurrenceStart.OnDay(day)).All().Take(20).Select(one => one.Date)
        );
    }

    // Elapsed hours: six of them after 20:00+11:00 is 1:30+10:30, half an hour after the clocks of Lord Howe went back (tzdb: at 2:00 on
    // 4 Apr 2027, by half an hour).
    [Fact]
    public void Hours_elapse_across_a_change_of_half_an_hour()
    {
        var zone = DateTimeZoneProviders.Tzdb["Australia/Lord_Howe"];
        var set = new RecurrenceSet(
            RuleText.Parse("FREQ=HOURLY;INTERVAL=6").Rule!,
            RecurrenceStart.At(new LocalDateTime(2027, 4, 3, 20, 0), zone)
        );
        Assert.Equal(
            [
                "2027-04-03T20:00:00+11",
                "2027-04-04T01:30:00+10:30",
                "2027-04-04T07:30:00+10:30",
                "2027-04-04T13:30:00+10:30",
            ],
            set.All().Take(4).Select(one => one.At.InZone(zone).ToOffsetDateTime().ToString())
        );
        // A rule that names hours keeps its minute, which it has from the start.
        var daily = new RecurrenceSet(
            RuleText.Parse("FREQ=HOURLY;BYHOUR=9").Rule!,
            RecurrenceStart.At(new LocalDateTime(2027, 4, 3, 9, 0), zone)
        );
        Assert.All(daily.All().Take(4), one => Assert.Equal(new LocalTime(9, 0), one.At.InZone(zone).TimeOfDay));
    }

    // Every minute of a day that a period may begin and end at, by 24 hours and by 12, under names that look like times and words.
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_line_of_bells_is_read_back_as_the_period_it_shows(bool twelve)
    {
        var before = System.Globalization.CultureInfo.CurrentCulture;
        System.Globalization.CultureInfo.CurrentCulture = Wording.Culture(twelve);
        try
        {
            string[] names =
            [
                "1",
                "E",
                "0",
                "10",
                "HR",
                "1a",
                "Homeroom",
                "P 2",
                "Period 1",
                "at 4",
                "from 3",
                "3-4",
                "8:00",
                "noon",
            ];
            for (var start = 0; start < 1440; start += 5)
                foreach (var length in new[] { 5, 50, 200 })
                {
                    if (start + length > 1439)
                        continue;
                    var period = new BellPeriod(
                        names[start / 5 % names.Length],
                        LocalTime.FromMinutesSinceMidnight(start),
                        LocalTime.FromMinutesSinceMidnight(start + length)
                    );
                    Assert.Equal(
                        (BellText.Of(period), period),
                        (BellText.Of(period), BellText.Read(BellText.Of(period)).Period)
                    );
                }
        }
        finally
        {
            System.Globalization.CultureInfo.CurrentCulture = before;
        }
    }
}
