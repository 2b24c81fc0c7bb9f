using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Formats;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Recurrence where clocks change, where a rule is hopeless, and where dates are added and taken out.</summary>
public class RecurrenceSetTests
{
    // Facts of the IANA database (2026f), each beside its row; how a skipped or doubled time is read is RFC 5545 §3.3.5.
    [Theory]
    [InlineData(
        "Halifax goes from UTC-3 to UTC-4 on 1 Nov 2026",
        "America/Halifax",
        "2026-10-31T08:00",
        "FREQ=DAILY",
        "2026-10-31T08:00:00-03:00 2026-11-01T08:00:00-04:00"
    )]
    [InlineData(
        "… and 1:30 comes twice that day: the first of the two",
        "America/Halifax",
        "2026-10-31T01:30",
        "FREQ=DAILY",
        "2026-10-31T01:30:00-03:00 2026-11-01T01:30:00-03:00 2026-11-02T01:30:00-04:00"
    )]
    [InlineData(
        "… and by the hour it is passed through twice",
        "America/Halifax",
        "2026-11-01T00:30",
        "FREQ=HOURLY",
        "2026-11-01T00:30:00-03:00 2026-11-01T01:30:00-03:00 2026-11-01T01:30:00-04:00 2026-11-01T02:30:00-04:00"
    )]
    [InlineData(
        "Halifax skips 2:00 to 3:00 on 14 Mar 2027: moved by the gap",
        "America/Halifax",
        "2027-03-13T02:30",
        "FREQ=DAILY",
        "2027-03-13T02:30:00-04:00 2027-03-14T03:30:00-03:00 2027-03-15T02:30:00-03:00"
    )]
    [InlineData(
        "… and what is moved onto another occurrence counts once",
        "America/Halifax",
        "2027-03-14T00:30",
        "FREQ=DAILY;BYHOUR=2,3;BYMINUTE=30;COUNT=3",
        "2027-03-14T03:30:00-03:00 2027-03-15T02:30:00-03:00 2027-03-15T03:30:00-03:00"
    )]
    [InlineData(
        "St. John's is at UTC-2:30 in summer, UTC-3:30 in winter",
        "America/St_Johns",
        "2026-10-30T09:00",
        "FREQ=WEEKLY;COUNT=2",
        "2026-10-30T09:00:00-02:30 2026-11-06T09:00:00-03:30"
    )]
    [InlineData(
        "Dublin's winter is its daylight saving turned round: UTC+1 is its standard time",
        "Europe/Dublin",
        "2026-10-24T09:00",
        "FREQ=DAILY;COUNT=3",
        "2026-10-24T09:00:00+01:00 2026-10-25T09:00:00+00:00 2026-10-26T09:00:00+00:00"
    )]
    [InlineData(
        "Lord Howe moves by half an hour, on 4 Oct 2026 from UTC+10:30 to UTC+11",
        "Australia/Lord_Howe",
        "2026-10-03T02:15",
        "FREQ=DAILY;COUNT=3",
        "2026-10-03T02:15:00+10:30 2026-10-04T02:45:00+11:00 2026-10-05T02:15:00+11:00"
    )]
    [InlineData(
        "Apia left out 30 Dec 2011 when it crossed the date line",
        "Pacific/Apia",
        "2011-12-29T09:00",
        "FREQ=DAILY",
        "2011-12-29T09:00:00-10:00 2011-12-31T09:00:00+14:00 2012-01-01T09:00:00+14:00"
    )]
    [InlineData(
        "… a Friday meeting of that week is moved by the gap, a day",
        "Pacific/Apia",
        "2011-12-23T09:00",
        "FREQ=WEEKLY",
        "2011-12-23T09:00:00-10:00 2011-12-31T09:00:00+14:00 2012-01-06T09:00:00+14:00"
    )]
    public void Keeps_the_wall_clock_time_through_changes_of_the_clocks(
        string fact,
        string zone,
        string start,
        string rule,
        string occurrences
    )
    {
        Assert.NotEmpty(fact);
        var expected = occurrences.Split(' ');
        var from = StartOf(start, zone);
        Assert.Equal(
            expected,
            new RecurrenceSet(Rule(rule), from)
                .All()
                .Take(expected.Length)
                .Select(one => RecurrenceText.Write(one, from))
        );
    }

    [Theory]
    [InlineData("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30")]
    [InlineData("FREQ=MONTHLY;INTERVAL=12;BYMONTHDAY=31;BYMONTH=4")]
    [InlineData("FREQ=DAILY;BYHOUR=8;BYSETPOS=2")]
    [InlineData("FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31")]
    [InlineData("FREQ=YEARLY;BYDAY=5MO;BYMONTH=2;BYMONTHDAY=1,2")]
    [InlineData("FREQ=YEARLY;INTERVAL=999999999;BYMONTH=2;BYMONTHDAY=30")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO;BYSETPOS=6")]
    [InlineData("FREQ=SECONDLY;INTERVAL=2;BYSECOND=1")]
    [InlineData("FREQ=MINUTELY;BYMONTH=2;BYMONTHDAY=30")]
    [InlineData("FREQ=SECONDLY;BYYEARDAY=366;BYMONTH=1")]
    [InlineData("FREQ=HOURLY;INTERVAL=24;BYHOUR=3")]
    public void Ends_where_a_rule_can_never_be_met(string rule)
    {
        Assert.Empty(new RecurrenceSet(Rule(rule), StartOf("2026-09-14T08:00", "America/Halifax")).All());
    }

    [Theory]
    [InlineData("FREQ=SECONDLY")]
    [InlineData("FREQ=MINUTELY;INTERVAL=7")]
    [InlineData("FREQ=HOURLY;INTERVAL=5;BYDAY=TU")]
    [InlineData("FREQ=DAILY;INTERVAL=3")]
    [InlineData("FREQ=WEEKLY;INTERVAL=3;BYDAY=SU,TU;WKST=SU")]
    [InlineData("FREQ=MONTHLY;INTERVAL=5;BYDAY=-2FR")]
    [InlineData("FREQ=YEARLY;INTERVAL=3;BYWEEKNO=1,53;BYDAY=MO,SU")]
    public void Seeks_to_a_window_and_keeps_in_phase(string rule)
    {
        var set = new RecurrenceSet(Rule(rule), StartOf("2020-01-01T08:00", "America/Halifax"));
        foreach (
            var from in new[]
            {
                new LocalDateTime(2020, 1, 3, 0, 0),
                new(2020, 3, 8, 2, 30),
                new(2020, 12, 31, 12, 0),
                new(2025, 1, 1, 0, 0),
                new(2032, 12, 30, 0, 0),
            }
        )
        {
            var isDense =
                rule.StartsWith("FREQ=SEC", StringComparison.Ordinal)
                || rule.StartsWith("FREQ=MIN", StringComparison.Ordinal);
            if (isDense && from.Year > 2020)
                continue;
            Assert.Equal(set.All().SkipWhile(one => one.Local < from).Take(5), set.Between(from, null).Take(5));
        }

        Assert.Equal(3, set.Between(new LocalDateTime(2990, 1, 1, 0, 0), null).Take(3).Count());
    }

    [Theory]
    [InlineData("a date under a timed start takes in its whole day", "FREQ=DAILY;UNTIL=20260916", 3)]
    [InlineData("UTC is compared as an instant: 8:00 in Halifax is 11:00", "FREQ=DAILY;UNTIL=20260916T110000Z", 3)]
    [InlineData("… and a second before is before", "FREQ=DAILY;UNTIL=20260916T105959Z", 2)]
    [InlineData("a local time is read in the zone of the start", "FREQ=DAILY;UNTIL=20260916T080000", 3)]
    [InlineData("an end before the start gives nothing", "FREQ=DAILY;UNTIL=20260913", 0)]
    public void Until_is_inclusive(string reading, string rule, int count)
    {
        Assert.NotEmpty(reading);
        Assert.Equal(
            count,
            new RecurrenceSet(Rule(rule), StartOf("2026-09-14T08:00", "America/Halifax")).All().Count()
        );
    }

    [Theory]
    [InlineData(
        "an RDATE that equals an occurrence counts once",
        "FREQ=DAILY;COUNT=2",
        "2026-09-15T08:00",
        "",
        "14 15"
    )]
    [InlineData(
        "RDATEs come in order among the rest",
        "FREQ=WEEKLY;COUNT=2",
        "2026-09-30T08:00 2026-09-16T08:00",
        "",
        "14 16 21 30"
    )]
    [InlineData("COUNT is applied before EXDATE", "FREQ=DAILY;COUNT=3", "", "2026-09-15T08:00", "14 16")]
    [InlineData(
        "an EXDATE that matches nothing changes nothing",
        "FREQ=DAILY;COUNT=2",
        "",
        "2026-09-15T09:00",
        "14 15"
    )]
    [InlineData("an EXDATE may come in UTC", "FREQ=DAILY;COUNT=2", "", "2026-09-15T11:00:00Z", "14")]
    [InlineData("an EXDATE may come as a date", "FREQ=DAILY;COUNT=2", "", "2026-09-15", "14")]
    [InlineData(
        "an EXDATE takes out an RDATE, too",
        "FREQ=DAILY;COUNT=1",
        "2026-09-20T08:00",
        "2026-09-20T08:00",
        "14"
    )]
    [InlineData(
        "a start that the rule does not give is no occurrence and is not counted",
        "FREQ=WEEKLY;BYDAY=TU;COUNT=2",
        "",
        "",
        "15 22"
    )]
    public void Adds_and_takes_out_dates(string reading, string rule, string extra, string except, string days)
    {
        Assert.NotEmpty(reading);
        var set = new RecurrenceSet(
            Rule(rule),
            StartOf("2026-09-14T08:00", "America/Halifax"),
            Moments(extra),
            Moments(except)
        );
        Assert.Equal(days, string.Join(' ', set.All().Select(one => one.Date.Day)));
    }

    [Fact]
    public void Lists_dates_without_a_rule_and_days_without_times()
    {
        Assert.Equal(
            2,
            new RecurrenceSet(null, StartOf("2026-09-14T08:00", null), Moments("2026-09-16T10:00")).All().Count()
        );
        var allDay = RecurrenceStart.OnDay(new LocalDate(2024, 2, 29));
        Assert.Equal(
            "2024-02-29 2028-02-29",
            string.Join(
                ' ',
                new RecurrenceSet(Rule("FREQ=YEARLY"), allDay)
                    .All()
                    .Take(2)
                    .Select(one => RecurrenceText.Write(one, allDay))
            )
        );
        Assert.Throws<ArgumentException>(() => new RecurrenceSet(Rule("FREQ=HOURLY"), allDay));
    }

    internal static RecurrenceRule Rule(string text)
    {
        var (rule, reason) = RuleText.Parse(text);
        Assert.Null(reason);
        return rule!;
    }

    internal static RecurrenceStart StartOf(string time, string? zone) =>
        RecurrenceStart.At(
            RecurrenceText.Read(time)!.Value.Time,
            zone is null ? null : DateTimeZoneProviders.Tzdb[zone]
        );

    private static List<RuleMoment> Moments(string texts) =>
        [.. texts.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(text => RecurrenceText.Read(text)!.Value)];
}
