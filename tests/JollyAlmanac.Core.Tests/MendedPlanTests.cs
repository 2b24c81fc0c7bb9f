using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Numbers held, extra sessions, other clocks: what the planner once got wrong.</summary>
public sealed class MendedPlanTests
{
    private static readonly DateTimeZone Tokyo = DateTimeZoneProviders.Tzdb["Asia/Tokyo"];

    private static readonly LocalDate TermStart = Skerry.Autumn.First;

    // What comes from elsewhere than a form is asked before it is planned: each limit, at it and past it.
    [Fact]
    public void What_cannot_be_planned_is_told_and_what_is_at_the_limit_can_be()
    {
        MeetingPattern good = new(
            Repeat.Weekly([IsoDayOfWeek.Monday], 1, IsoDayOfWeek.Monday),
            Skerry.Clock(9, 0, 10, 0),
            Skerry.Halifax,
            TermStart,
            new Extent.Held(5)
        );
        Repeat Dates(int count) =>
            new Repeat.OnDates([.. Enumerable.Range(0, count).Select(at => TermStart.PlusDays(at))]);
        Repeat Rule(string text) => new Repeat.ByRule(RuleText.Parse(text).Rule!);
        foreach (
            var (pattern, why) in new (MeetingPattern, string?)[]
            {
                (good, null),
                (good with { From = new LocalDate(1949, 12, 31) }, "the year 1949"),
                (good with { From = new LocalDate(2161, 1, 1) }, "the year 2161"),
                (good with { From = new LocalDate(1950, 1, 1) }, null),
                (good with { Extent = new Extent.Held(0) }, "from 1 to 500"),
                (good with { Extent = new Extent.Held(1) }, null),
                (good with { Extent = new Extent.Held(MeetingPattern.MostHeldSessions) }, null),
                (good with { Extent = new Extent.Held(MeetingPattern.MostHeldSessions + 1) }, "from 1 to 500"),
                (good with { Extent = new Extent.Until(TermStart.PlusDays(MeetingPattern.LongestDays)) }, null),
                (
                    good with
                    {
                        Extent = new Extent.Until(TermStart.PlusDays(MeetingPattern.LongestDays + 1)),
                    },
                    "ten years"
                ),
                (good with { NoClass = (NoClassPolicy)9 }, "no-class days"),
                (good with { Time = Skerry.Clock(9, 0, 9, 0) }, "ends before"),
                (good with { Repeat = Dates(0) }, "none, or more"),
                (good with { Repeat = Dates(MeetingPattern.MostHeldSessions) }, null),
                (good with { Repeat = Dates(MeetingPattern.MostHeldSessions + 1) }, "none, or more"),
                (good with { Repeat = new Repeat.OnDates([TermStart, TermStart]) }, "not in order"),
                (good with { Repeat = new Repeat.OnDates([new LocalDate(2161, 1, 1)]) }, "too far away"),
                (good with { Repeat = new Repeat.OnCycleDays([]) }, "cycle days"),
                (good with { Repeat = Rule("FREQ=HOURLY") }, "times of day"),
                (good with { Repeat = Rule("FREQ=DAILY;BYHOUR=9") }, "times of day"),
                (good with { Repeat = Rule("FREQ=DAILY;COUNT=3") }, "an end of its own"),
            }
        )
        {
            var told = pattern.Unplannable();
            if (why is null)
                Assert.Null(told);
            else
                Assert.Contains(why, told, StringComparison.Ordinal);
        }
    }

    // A plain count, day by day: which days the pattern names, what the school makes of each, until so many are held.
    [Fact]
    public void N_held_means_held_for_every_pattern_policy_and_bell()
    {
        var random = new Random(20260908);
        for (var turn = 0; turn < 400; turn++)
        {
            var days = Enumerable
                .Range(1, 5)
                .Where(_ => random.Next(2) == 0)
                .Select(day => (IsoDayOfWeek)day)
                .DefaultIfEmpty(IsoDayOfWeek.Monday)
                .ToHashSet();
            var policy = (NoClassPolicy)random.Next(3);
            var period = random.Next(2) == 0 ? "1" : "3";
            var wanted = random.Next(1, 30);
            var off = Enumerable
                .Range(0, random.Next(0, 14))
                .Select(_ => TermStart.PlusDays(random.Next(0, 90)))
                .Distinct()
                .Order()
                .Select(day => new NoClassDay(day, day.PlusDays(random.Next(0, 3)), "Off", NoClassKind.Holiday))
                .ToList();
            var isShort = Enumerable
                .Range(0, random.Next(0, 10))
                .Select(_ => TermStart.PlusDays(random.Next(0, 90)))
                .ToHashSet();
            var school = new SchoolTime(
                Skerry.Halifax,
                IsoDayOfWeek.Monday,
                [Skerry.Autumn, Skerry.Spring],
                off,
                Skerry.Bells,
                null,
                [new BellSchedule("Short", [new("1", new LocalTime(8, 0), new LocalTime(8, 30))])],
                isShort.Select(day => new ShortenedDay(day, "Short"))
            );
            var plan = Planner.PlanOf(
                Skerry.Series(
                    new MeetingPattern(
                        Repeat.Weekly(days, 1, IsoDayOfWeek.Monday),
                        new SessionTime.InPeriod(period),
                        Skerry.Halifax,
                        TermStart,
                        new Extent.Held(wanted)
                    )
                    {
                        NoClass = policy,
                    }
                ),
                school
            );
            Assert.Equal((turn, wanted), (turn, plan.HeldCount));
            if (policy == NoClassPolicy.NextClassDay)
                continue;
            var expected = new List<LocalDate>();
            for (var day = TermStart; expected.Count < wanted; day = day.PlusDays(1))
                if (
                    days.Contains(day.DayOfWeek)
                    && (
                        policy == NoClassPolicy.MeetAnyway
                        || !off.Exists(range => range.First <= day && day <= range.Last)
                    )
                    && (period == "1" || !isShort.Contains(day))
                )
                    expected.Add(day);
            Assert.Equal(expected, plan.Held.Select(session => session.Day));
            Assert.Equal(Enumerable.Range(1, wanted), plan.Held.Select(session => session.Number!.Value));
        }
    }

    [Fact]
    public void Five_held_with_moves_are_five_and_short_bells_cost_none()
    {
        var moved = Skerry.Pattern(
            "Mon",
            Skerry.Clock(9, 0, 10, 0),
            new LocalDate(2026, 12, 7),
            new Extent.Held(5)
        ) with
        {
            NoClass = NoClassPolicy.NextClassDay,
        };
        var winter = new SchoolTime(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Autumn, Skerry.Spring],
            [new NoClassDay(new LocalDate(2026, 12, 19), new LocalDate(2027, 1, 3), "Winter", NoClassKind.Holiday)]
        );
        Assert.Equal(5, Planner.PlanOf(Skerry.Series(moved), winter).HeldCount);
    }

    // Thanksgiving, Mon 12 Oct: it goes to Tuesday, and stays there when its time alone is changed.
    [Fact]
    public void A_session_that_was_put_off_keeps_its_day_at_another_time()
    {
        var monday = new LocalDate(2026, 10, 12);
        var series = Skerry.Series(
            Skerry.Pattern("Mon", Skerry.Clock(9, 0, 10, 0), monday, new Extent.Held(1)) with
            {
                NoClass = NoClassPolicy.NextClassDay,
            }
        );
        LocalDateTime StartOf(Series.Series of) => Planner.PlanOf(of, Skerry.Time).Held.First().Start;
        Assert.Equal(monday.PlusDays(1) + Skerry.At(9, 0), StartOf(series));
        var later = new Change(monday + Skerry.At(9, 0), Time: Skerry.Clock(13, 0, 14, 0));
        Assert.Equal(monday.PlusDays(1) + Skerry.At(13, 0), StartOf(series with { Changes = [later] }));
    }

    [Fact]
    public void An_extra_session_keeps_itself_whatever_the_bells_and_days_off_do()
    {
        var onHoliday = new ExtraSession(
            new LocalDate(2026, 10, 12),
            Skerry.Clock(9, 50, 10, 40),
            new LocalDateTime(2026, 10, 12, 9, 50, 1)
        );
        var first = new ExtraSession(
            new LocalDate(2026, 11, 14),
            Skerry.Clock(9, 0, 9, 50),
            new LocalDateTime(2026, 11, 14, 9, 0, 1)
        );
        var second = new ExtraSession(
            new LocalDate(2026, 11, 14),
            Skerry.Clock(11, 0, 11, 50),
            new LocalDateTime(2026, 11, 14, 11, 0, 2)
        );
        var timeless = new ExtraSession(
            new LocalDate(2026, 11, 17),
            new SessionTime.InPeriod("3"),
            new LocalDateTime(2026, 11, 17, 0, 0, 3)
        );
        var pattern = Skerry.Pattern(
            "Mon Wed Fri",
            new SessionTime.InPeriod("3"),
            TermStart,
            new Extent.WithTerm(Skerry.Autumn.Id)
        ) with
        {
            Extra = [onHoliday, first, second, timeless],
        };
        var plain = Skerry.Plan(pattern);
        Assert.Equal(4, plain.Held.Count(session => session.IsExtra));
        Assert.Contains(plain.Held, session => session.Day == onHoliday.Day); // the pattern's own is left out there, the extra one is meant
        // One of two on a day is moved: the other stays where it is.
        var changed = Skerry.Series(pattern) with
        {
            Changes =
            [
                new Change(first.Original, Time: Skerry.Clock(15, 0, 15, 50)),
                new Change(timeless.Original, SessionStatus.Cancelled),
            ],
        };
        var plan = Planner.PlanOf(changed, Skerry.Time);
        Assert.Equal(
            ["11:00", "15:00"],
            plan.Held.Where(session => session.Day == first.Day).Select(session => $"{session.Start:HH:mm}")
        );
        // Its day gets short bells: what was cancelled stays cancelled, and nothing is doubled.
        var shortened = new SchoolTime(
            Skerry.Halifax,
            IsoDayOfWeek.Monday,
            [Skerry.Autumn],
            Skerry.NoClass,
            Skerry.Bells,
            null,
            [new BellSchedule("Short", [new("3", new LocalTime(9, 20), new LocalTime(9, 55))])],
            [new ShortenedDay(timeless.Day, "Short"), new ShortenedDay(first.Day, "Short")]
        );
        var after = Planner.PlanOf(changed, shortened);
        Assert.True(after.Find(timeless.Original)!.IsCancelled);
        Assert.Equal(plan.HeldCount, after.HeldCount);
        Assert.Empty(after.Loose);
    }

    // IANA tzdb: Tokyo is UTC+9 all year; Halifax UTC−3 until 1 Nov 2026, then UTC−4.
    [Fact]
    public void A_series_by_another_clock_stands_on_the_schools_day()
    {
        var pattern = Skerry.Pattern(
            "Tue",
            Skerry.Clock(8, 0, 9, 0),
            TermStart,
            new Extent.WithTerm(Skerry.Autumn.Id)
        ) with
        {
            Zone = Tokyo,
        };
        var plan = Skerry.Plan(pattern);
        var session = plan.Sessions.First(one => one.Start.Date == new LocalDate(2026, 10, 13));
        Assert.Equal(
            (new LocalDate(2026, 10, 12), new LocalTime(20, 0)),
            (session.Day, session.StartAtSchool.TimeOfDay)
        );
        Assert.Equal("20:00–21:00 (Tue 8:00–9:00 in Tokyo)", SayBack.Span(session));
        Assert.False(session.IsMoved);
        Assert.Equal(session.Day, session.PlannedAtSchool);
        // Monday 12 Oct is a day off at the school, so it is left out; by Tokyo's Tuesday it would not be.
        Assert.Equal("Thanksgiving", session.LeftOut?.Name);
        var sheet = TermSheet.Of(
            Skerry.Autumn,
            Skerry.Time,
            [plan],
            one => Redaction.Show(one, AccessLevel.Full, ShowChoices.SignedIn, MaterialsAt.None, null),
            Instant.FromUtc(2026, 9, 1, 0, 0)
        );
        Assert.All(
            sheet
                .Weeks.SelectMany(week => week.Days)
                .SelectMany(day => day.Sessions.Select(shown => (day.Date, shown.Session.Day))),
            pair => Assert.Equal(pair.Date, pair.Day)
        );
    }

    // RFC 5545 §3.3.10: minutes that a rule does not name come from DTSTART. IANA tzdb: Lord Howe's clocks change by half an hour, on 4 Oct
    // 2026.
    [Fact]
    public void Hours_of_a_rule_do_not_drift_where_clocks_change_by_half_an_hour()
    {
        var zone = DateTimeZoneProviders.Tzdb["Australia/Lord_Howe"];
        var start = new LocalDateTime(2026, 9, 28, 9, 0);
        var found = new RecurrenceSet(RuleText.Parse("FREQ=HOURLY;BYHOUR=9").Rule!, RecurrenceStart.At(start, zone))
            .All()
            .Take(14)
            .ToList();
        Assert.All(found, one => Assert.Equal(new LocalTime(9, 0), one.Local.TimeOfDay));
        Assert.Equal(14, found.Select(one => one.Date).Distinct().Count());
    }

    [Theory]
    [InlineData("12.2026-10-14T09:50", true)]
    [InlineData("12.2026-11-14T09:00:01", true)]
    [InlineData("12.2026-10-14T09:50:00", true)]
    [InlineData("12.2026-10-14", false)]
    [InlineData("-1.2026-10-14T09:50", false)]
    [InlineData("x.2026-10-14T09:50", false)]
    [InlineData("12.9999-10-14T09:50", false)]
    [InlineData(" 12.2026-10-14T09:50", false)]
    [InlineData(null, false)]
    public void A_session_has_one_key_and_one_form_of_it(string? text, bool isKey)
    {
        Assert.Equal(isKey, SessionKey.TryRead(text, out var key));
        if (isKey)
            Assert.Equal(text!.Replace(":50:00", ":50", StringComparison.Ordinal), key.ToString());
    }

    // 2026-03-08, 2:30 does not exist in Halifax (IANA tzdb).
    [Fact]
    public void A_session_in_the_spring_gap_keeps_its_minutes()
    {
        var plan = Skerry.Plan(
            new MeetingPattern(
                new Repeat.OnDates([new LocalDate(2026, 3, 8)]),
                Skerry.Clock(2, 30, 3, 20),
                Skerry.Halifax,
                new LocalDate(2026, 3, 8),
                new Extent.Open()
            )
        );
        var session = Assert.Single(plan.Sessions);
        Assert.Equal(
            (Instant.FromUtc(2026, 3, 8, 6, 30), Duration.FromMinutes(50)),
            (session.StartsAt, session.EndsAt - session.StartsAt)
        );
    }
}
