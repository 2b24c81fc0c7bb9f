using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

public class PlannerTests
{
    private static readonly LocalDate TermStart = new(2026, 9, 14);

    [Fact]
    public void A_term_of_three_days_a_week_leaves_out_its_no_class_days()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Mon Wed Fri",
                new SessionTime.InPeriod("3"),
                TermStart,
                new Extent.WithTerm(Skerry.Autumn.Id)
            )
        );
        Assert.Equal(42, plan.Sessions.Length);
        Assert.Equal(38, plan.HeldCount);
        Assert.Equal(38 * 50, plan.Minutes);
        Assert.Equal(
            ["Thanksgiving", "Teachers’ conference", "Remembrance", "Ferry maintenance"],
            plan.LeftOut.Select(session => session.LeftOut!.Name)
        );
        Assert.Equal(Enumerable.Range(1, 38), plan.Held.Select(session => session.Number!.Value));
    }

    // Common practice, no source: fifteen full weeks of Mon/Wed/Fri × 50 minutes are 45 sessions and 37.5 hours;
    // of Tue/Thu × 75 minutes, 30 sessions and the same 37.5 hours.
    [Theory]
    [InlineData("Mon Wed Fri", 50, 45)]
    [InlineData("Tue Thu", 75, 30)]
    public void Fifteen_full_weeks_add_up_as_schools_count_them(string days, int minutes, int sessions)
    {
        var monday = new LocalDate(2026, 9, 7);
        var end = Skerry.At(9, 0).PlusMinutes(minutes);
        var plan = Skerry.Plan(
            Skerry.Pattern(
                days,
                Skerry.Clock(9, 0, end.Hour, end.Minute),
                monday,
                new Extent.Until(monday.PlusWeeks(15).PlusDays(-1))
            ),
            Skerry.WithoutHolidays
        );
        Assert.Equal(sessions, plan.HeldCount);
        Assert.Equal("37 h 30", Wording.Amount(plan.Minutes));
    }

    [Fact]
    public void So_many_sessions_are_counted_after_no_class_days_are_taken_out()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern("Tue Thu", Skerry.Clock(13, 30, 14, 20), new LocalDate(2026, 10, 20), new Extent.Held(12))
        );
        Assert.Equal(12, plan.HeldCount);
        Assert.Equal(new LocalDate(2026, 10, 22), plan.LeftOut.Single().Start.Date);
        Assert.Equal(new LocalDate(2026, 12, 1), plan.Held.Last().Start.Date);
    }

    // IANA tzdb: in America/Halifax clocks went back on Sun 1 Nov 2026 (UTC−3 to UTC−4) and go forward on 14 Mar 2027.
    [Theory]
    [InlineData("2026-10-30", -3)]
    [InlineData("2026-11-02", -4)]
    [InlineData("2027-03-12", -4)]
    [InlineData("2027-03-15", -3)]
    public void Nine_o_clock_stays_nine_o_clock_through_daylight_saving(string day, int offset)
    {
        var date = NodaTime.Text.LocalDatePattern.Iso.Parse(day).Value;
        var session = Skerry
            .Plan(Skerry.Pattern(date.DayOfWeek.ToString()[..3], Skerry.Clock(9, 0, 9, 50), date, new Extent.Held(1)))
            .Held.Single();
        Assert.Equal(date + Skerry.At(9, 0), session.Start);
        Assert.Equal((date + Skerry.At(9, 0)).WithOffset(Offset.FromHours(offset)).ToInstant(), session.StartsAt);
        Assert.Equal(50, (session.EndsAt - session.StartsAt).TotalMinutes);
    }

    // RFC 5545 §3.3.5: a skipped time takes the offset from before the gap; an ambiguous one is the first.
    // IANA tzdb: gaps and overlaps in Halifax on 14 Mar and 7 Nov 2027, in Dublin on 28 Mar and 31 Oct 2027.
    [Theory]
    [InlineData("America/Halifax", "2027-03-14T02:30", "2027-03-14T06:30Z")]
    [InlineData("America/Halifax", "2027-11-07T01:30", "2027-11-07T04:30Z")]
    [InlineData("Europe/Dublin", "2027-03-28T01:30", "2027-03-28T01:30Z")]
    [InlineData("Europe/Dublin", "2027-10-31T01:30", "2027-10-31T00:30Z")]
    [InlineData("Australia/Lord_Howe", "2027-10-03T02:15", "2027-10-02T15:45Z")]
    public void Gaps_and_overlaps_are_read_as_the_RFC_reads_them(string zone, string local, string utc)
    {
        var time = NodaTime
            .Text.LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm")
            .Parse(local)
            .Value;
        var expected = NodaTime
            .Text.InstantPattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm'Z'")
            .Parse(utc)
            .Value;
        Assert.Equal(expected, WallClock.InstantOf(time, DateTimeZoneProviders.Tzdb[zone]));
    }

    [Fact]
    public void A_period_or_term_that_is_gone_gives_no_session()
    {
        Assert.Empty(
            Skerry
                .Plan(
                    Skerry.Pattern(
                        "Mon",
                        new SessionTime.InPeriod("9"),
                        TermStart,
                        new Extent.WithTerm(Skerry.Autumn.Id)
                    )
                )
                .Sessions
        );
        Assert.Empty(
            Skerry
                .Plan(
                    Skerry.Pattern("Mon", new SessionTime.InPeriod("3"), TermStart, new Extent.WithTerm(new TermId(9)))
                )
                .Sessions
        );
    }

    [Fact]
    public void A_series_of_no_class_days_alone_ends()
    {
        var always = Enumerable
            .Range(2026, 14)
            .Select(year => new NoClassDay(
                new LocalDate(year, 1, 1),
                new LocalDate(year, 12, 31),
                "Closed",
                NoClassKind.Holiday
            ));
        var closed = new SchoolTime(Skerry.Halifax, IsoDayOfWeek.Monday, [Skerry.Autumn], always);
        var plan = Skerry.Plan(Skerry.Pattern("Mon", Skerry.Clock(9, 0, 10, 0), TermStart, new Extent.Held(5)), closed);
        Assert.Equal(0, plan.HeldCount);
        Assert.InRange(plan.Sessions.Length, 1, MeetingPattern.LongestDays / 7 + 1);
    }

    [Theory]
    [InlineData(
        "Mon Wed Fri",
        "3",
        1,
        "term",
        "Tidepool Biology 9A meets Mon, Wed and Fri in period 3, 9:50–10:40, 14 Sep to 18 Dec: 38 sessions, 31 h 40; leaves out 4 no-class days."
    )]
    [InlineData(
        "Tue",
        "",
        2,
        "term",
        "Tidepool Biology 9A meets every other week on Tue, 13:00–14:15, 15 Sep to 8 Dec: 7 sessions, 8 h 45."
    )]
    [InlineData(
        "Thu",
        "",
        3,
        "2026-10-08",
        "Tidepool Biology 9A meets every 3rd week on Thu, 13:00–14:15, 17 Sep to 8 Oct: 2 sessions, 2 h 30."
    )]
    [InlineData(
        "Wed",
        "",
        1,
        "2026-09-16",
        "Tidepool Biology 9A meets Wed, 13:00–14:15, once, on 16 Sep: 1 session, 1 h 15."
    )]
    [InlineData(
        "Mon",
        "",
        1,
        "2026-09-14:2026-09-13",
        "Tidepool Biology 9A would have no session: no such day lies between its start and its end."
    )]
    public void What_will_be_true_is_said_in_a_sentence(
        string days,
        string period,
        int everyWeeks,
        string until,
        string sentence
    )
    {
        var extent =
            until == "term"
                ? (Extent)new Extent.WithTerm(Skerry.Autumn.Id)
                : new Extent.Until(NodaTime.Text.LocalDatePattern.Iso.Parse(until.Split(':')[^1]).Value);
        SessionTime time = period.Length > 0 ? new SessionTime.InPeriod(period) : Skerry.Clock(13, 0, 14, 15);
        var plan = Skerry.Plan(Skerry.Pattern(days, time, TermStart, extent, everyWeeks));
        Assert.Equal(sentence, SayBack.Sentence(plan, Skerry.Time, "Tidepool Biology 9A"));
    }

    [Fact]
    public void The_sentence_names_the_calendar_the_zone_and_a_later_start_where_they_differ()
    {
        var pattern = Skerry.Pattern("Fri", Skerry.Clock(9, 0, 9, 45), TermStart, new Extent.Held(2)) with
        {
            Zone = DateTimeZoneProviders.Tzdb["America/St_Johns"],
        };
        var plan = Skerry.Plan(pattern);
        Assert.Equal(
            "Tidepool Biology 9A on Field Science meets Fri, 9:00–9:45 (America/St_Johns time; 8:30–9:15 at school), 18 Sep to 25 Sep: 2 sessions, 1 h 30.",
            SayBack.Sentence(plan, Skerry.Time, "Field Science")
        );
        Assert.Equal("Mon 14 Sep is not one of its days, so it starts on Fri 18 Sep.", SayBack.LaterStart(plan));
        Assert.Null(SayBack.LaterStart(Skerry.Plan(pattern with { From = new LocalDate(2026, 9, 18) })));
    }
}
