using JollyAlmanac.Core.Recurrence;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core.Tests;

/// <summary>The examples of RFC 5545 §3.8.5.3, under their names there: all start in America/New_York, nearly all at 9:00.</summary>
public class RecurrenceExamplesTests
{
    private const string Weekly10 =
        "1997-09-02 1997-09-09 1997-09-16 1997-09-23 1997-09-30 1997-10-07 1997-10-14 1997-10-21 1997-10-28 1997-11-04";

    // Name, day of the start, rule, the dates as the RFC lists them; "…" where it goes on.
    [Theory]
    [InlineData(
        "Daily for 10 occurrences",
        "1997-09-02",
        "FREQ=DAILY;COUNT=10",
        "1997-09-02 1997-09-03 1997-09-04 1997-09-05 1997-09-06 1997-09-07 1997-09-08 1997-09-09 1997-09-10 1997-09-11"
    )]
    [InlineData(
        "Every other day - forever",
        "1997-09-02",
        "FREQ=DAILY;INTERVAL=2",
        "1997-09-02 1997-09-04 1997-09-06 1997-09-08 1997-09-10 1997-09-12 1997-09-14 1997-09-16 1997-09-18 1997-09-20 1997-09-22 1997-09-24 1997-09-26 1997-09-28 1997-09-30 1997-10-02 …"
    )]
    [InlineData(
        "Every 10 days, 5 occurrences",
        "1997-09-02",
        "FREQ=DAILY;INTERVAL=10;COUNT=5",
        "1997-09-02 1997-09-12 1997-09-22 1997-10-02 1997-10-12"
    )]
    [InlineData("Weekly for 10 occurrences", "1997-09-02", "FREQ=WEEKLY;COUNT=10", Weekly10)]
    [InlineData(
        "Weekly until December 24, 1997",
        "1997-09-02",
        "FREQ=WEEKLY;UNTIL=19971224T000000Z",
        Weekly10 + " 1997-11-11 1997-11-18 1997-11-25 1997-12-02 1997-12-09 1997-12-16 1997-12-23"
    )]
    [InlineData(
        "Every other week - forever",
        "1997-09-02",
        "FREQ=WEEKLY;INTERVAL=2;WKST=SU",
        "1997-09-02 1997-09-16 1997-09-30 1997-10-14 1997-10-28 1997-11-11 1997-11-25 1997-12-09 1997-12-23 1998-01-06 1998-01-20 1998-02-03 1998-02-17 …"
    )]
    [InlineData(
        "Weekly on Tuesday and Thursday for five weeks, UNTIL",
        "1997-09-02",
        "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH",
        "1997-09-02 1997-09-04 1997-09-09 1997-09-11 1997-09-16 1997-09-18 1997-09-23 1997-09-25 1997-09-30 1997-10-02"
    )]
    [InlineData(
        "Weekly on Tuesday and Thursday for five weeks, COUNT",
        "1997-09-02",
        "FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH",
        "1997-09-02 1997-09-04 1997-09-09 1997-09-11 1997-09-16 1997-09-18 1997-09-23 1997-09-25 1997-09-30 1997-10-02"
    )]
    [InlineData(
        "Every other week on Monday, Wednesday, and Friday until December 24, 1997",
        "1997-09-01",
        "FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR",
        "1997-09-01 1997-09-03 1997-09-05 1997-09-15 1997-09-17 1997-09-19 1997-09-29 1997-10-01 1997-10-03 1997-10-13 1997-10-15 1997-10-17 1997-10-27 1997-10-29 1997-10-31 1997-11-10 1997-11-12 1997-11-14 1997-11-24 1997-11-26 1997-11-28 1997-12-08 1997-12-10 1997-12-12 1997-12-22"
    )]
    [InlineData(
        "Every other week on Tuesday and Thursday, for 8 occurrences",
        "1997-09-02",
        "FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH",
        "1997-09-02 1997-09-04 1997-09-16 1997-09-18 1997-09-30 1997-10-02 1997-10-14 1997-10-16"
    )]
    [InlineData(
        "Monthly on the first Friday for 10 occurrences",
        "1997-09-05",
        "FREQ=MONTHLY;COUNT=10;BYDAY=1FR",
        "1997-09-05 1997-10-03 1997-11-07 1997-12-05 1998-01-02 1998-02-06 1998-03-06 1998-04-03 1998-05-01 1998-06-05"
    )]
    [InlineData(
        "Monthly on the first Friday until December 24, 1997",
        "1997-09-05",
        "FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR",
        "1997-09-05 1997-10-03 1997-11-07 1997-12-05"
    )]
    [InlineData(
        "Every other month on the first and last Sunday of the month for 10 occurrences",
        "1997-09-07",
        "FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU",
        "1997-09-07 1997-09-28 1997-11-02 1997-11-30 1998-01-04 1998-01-25 1998-03-01 1998-03-29 1998-05-03 1998-05-31"
    )]
    [InlineData(
        "Monthly on the second-to-last Monday of the month for 6 months",
        "1997-09-22",
        "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO",
        "1997-09-22 1997-10-20 1997-11-17 1997-12-22 1998-01-19 1998-02-16"
    )]
    [InlineData(
        "Monthly on the third-to-the-last day of the month, forever",
        "1997-09-28",
        "FREQ=MONTHLY;BYMONTHDAY=-3",
        "1997-09-28 1997-10-29 1997-11-28 1997-12-29 1998-01-29 1998-02-26 …"
    )]
    [InlineData(
        "Monthly on the 2nd and 15th of the month for 10 occurrences",
        "1997-09-02",
        "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15",
        "1997-09-02 1997-09-15 1997-10-02 1997-10-15 1997-11-02 1997-11-15 1997-12-02 1997-12-15 1998-01-02 1998-01-15"
    )]
    [InlineData(
        "Monthly on the first and last day of the month for 10 occurrences",
        "1997-09-30",
        "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1",
        "1997-09-30 1997-10-01 1997-10-31 1997-11-01 1997-11-30 1997-12-01 1997-12-31 1998-01-01 1998-01-31 1998-02-01"
    )]
    [InlineData(
        "Every 18 months on the 10th thru 15th of the month for 10 occurrences",
        "1997-09-10",
        "FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15",
        "1997-09-10 1997-09-11 1997-09-12 1997-09-13 1997-09-14 1997-09-15 1999-03-10 1999-03-11 1999-03-12 1999-03-13"
    )]
    [InlineData(
        "Every Tuesday, every other month",
        "1997-09-02",
        "FREQ=MONTHLY;INTERVAL=2;BYDAY=TU",
        "1997-09-02 1997-09-09 1997-09-16 1997-09-23 1997-09-30 1997-11-04 1997-11-11 1997-11-18 1997-11-25 1998-01-06 1998-01-13 1998-01-20 1998-01-27 1998-03-03 1998-03-10 1998-03-17 1998-03-24 1998-03-31 …"
    )]
    [InlineData(
        "Yearly in June and July for 10 occurrences",
        "1997-06-10",
        "FREQ=YEARLY;COUNT=10;BYMONTH=6,7",
        "1997-06-10 1997-07-10 1998-06-10 1998-07-10 1999-06-10 1999-07-10 2000-06-10 2000-07-10 2001-06-10 2001-07-10"
    )]
    [InlineData(
        "Every other year on January, February, and March for 10 occurrences",
        "1997-03-10",
        "FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3",
        "1997-03-10 1999-01-10 1999-02-10 1999-03-10 2001-01-10 2001-02-10 2001-03-10 2003-01-10 2003-02-10 2003-03-10"
    )]
    [InlineData(
        "Every third year on the 1st, 100th, and 200th day for 10 occurrences",
        "1997-01-01",
        "FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200",
        "1997-01-01 1997-04-10 1997-07-19 2000-01-01 2000-04-09 2000-07-18 2003-01-01 2003-04-10 2003-07-19 2006-01-01"
    )]
    [InlineData(
        "Every 20th Monday of the year, forever",
        "1997-05-19",
        "FREQ=YEARLY;BYDAY=20MO",
        "1997-05-19 1998-05-18 1999-05-17 …"
    )]
    [InlineData(
        "Monday of week number 20, forever",
        "1997-05-12",
        "FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO",
        "1997-05-12 1998-05-11 1999-05-17 …"
    )]
    [InlineData(
        "Every Thursday in March, forever",
        "1997-03-13",
        "FREQ=YEARLY;BYMONTH=3;BYDAY=TH",
        "1997-03-13 1997-03-20 1997-03-27 1998-03-05 1998-03-12 1998-03-19 1998-03-26 1999-03-04 1999-03-11 1999-03-18 1999-03-25 …"
    )]
    [InlineData(
        "Every Thursday, but only during June, July, and August, forever",
        "1997-06-05",
        "FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8",
        "1997-06-05 1997-06-12 1997-06-19 1997-06-26 1997-07-03 1997-07-10 1997-07-17 1997-07-24 1997-07-31 1997-08-07 1997-08-14 1997-08-21 1997-08-28 1998-06-04 1998-06-11 1998-06-18 1998-06-25 1998-07-02 …"
    )]
    [InlineData(
        "Every Friday the 13th, forever (its start is an exception there)",
        "1997-09-02",
        "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13",
        "1998-02-13 1998-03-13 1998-11-13 1999-08-13 2000-10-13 …"
    )]
    [InlineData(
        "The first Saturday that follows the first Sunday of the month, forever",
        "1997-09-13",
        "FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13",
        "1997-09-13 1997-10-11 1997-11-08 1997-12-13 1998-01-10 1998-02-07 1998-03-07 1998-04-11 1998-05-09 1998-06-13 …"
    )]
    [InlineData(
        "Every 4 years, the first Tuesday after a Monday in November, forever",
        "1996-11-05",
        "FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8",
        "1996-11-05 2000-11-07 2004-11-02 …"
    )]
    [InlineData(
        "The third instance into the month of one of Tuesday, Wednesday, or Thursday, for the next 3 months",
        "1997-09-04",
        "FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3",
        "1997-09-04 1997-10-07 1997-11-06"
    )]
    [InlineData(
        "The second-to-last weekday of the month",
        "1997-09-29",
        "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2",
        "1997-09-29 1997-10-30 1997-11-27 1997-12-30 1998-01-29 1998-02-26 1998-03-30 …"
    )]
    [InlineData(
        "An example where the days generated makes a difference because of WKST: MO",
        "1997-08-05",
        "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO",
        "1997-08-05 1997-08-10 1997-08-19 1997-08-24"
    )]
    [InlineData(
        "An example where the days generated makes a difference because of WKST: SU",
        "1997-08-05",
        "FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU",
        "1997-08-05 1997-08-17 1997-08-19 1997-08-31"
    )]
    [InlineData(
        "An example where an invalid date (i.e., February 30) is ignored",
        "2007-01-15",
        "FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5",
        "2007-01-15 2007-01-30 2007-02-15 2007-03-15 2007-03-30"
    )]
    public void Gives_the_days_of_the_RFC(string name, string day, string rule, string days)
    {
        Assert.NotEmpty(name);
        var goesOn = days.EndsWith('…');
        List<LocalDate> expected =
        [
            .. days.TrimEnd('…', ' ').Split(' ').Select(one => LocalDatePattern.Iso.Parse(one).Value),
        ];
        var found = Set(rule, $"{day}T09:00:00").All().Take(expected.Count + 1).ToList();
        Assert.Equal(expected, found.Take(expected.Count).Select(one => one.Date));
        Assert.All(found, one => Assert.Equal(new LocalTime(9, 0), one.Local.TimeOfDay));
        Assert.Equal(goesOn ? expected.Count + 1 : expected.Count, found.Count);
    }

    [Theory]
    [InlineData(
        "Every 3 hours from 9:00 AM to 5:00 PM on a specific day",
        "FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z",
        "09:00 12:00 15:00"
    )]
    [InlineData(
        "Every 15 minutes for 6 occurrences",
        "FREQ=MINUTELY;INTERVAL=15;COUNT=6",
        "09:00 09:15 09:30 09:45 10:00 10:15"
    )]
    [InlineData(
        "Every hour and a half for 4 occurrences",
        "FREQ=MINUTELY;INTERVAL=90;COUNT=4",
        "09:00 10:30 12:00 13:30"
    )]
    [InlineData(
        "Every 20 minutes from 9:00 AM to 4:40 PM every day, DAILY",
        "FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40",
        EveryTwenty
    )]
    [InlineData(
        "Every 20 minutes from 9:00 AM to 4:40 PM every day, MINUTELY",
        "FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16",
        EveryTwenty
    )]
    public void Gives_the_times_of_the_RFC(string name, string rule, string times)
    {
        Assert.NotEmpty(name);
        var found = Set(rule, "1997-09-02T09:00:00").Between(null, new LocalDateTime(1997, 9, 3, 0, 0));
        Assert.Equal(
            times,
            string.Join(
                ' ',
                found.Select(one => LocalTimePattern.CreateWithInvariantCulture("HH:mm").Format(one.Local.TimeOfDay))
            )
        );
    }

    private const string EveryTwenty =
        "09:00 09:20 09:40 10:00 10:20 10:40 11:00 11:20 11:40 12:00 12:20 12:40 13:00 13:20 13:40 14:00 14:20 14:40 15:00 15:20 15:40 16:00 16:20 16:40";

    // "Daily until December 24, 1997" and "Every day in January, for 3 years" (two ways): too long for a list; first, last and number from
    // the RFC.
    [Theory]
    [InlineData("1997-09-02", "FREQ=DAILY;UNTIL=19971224T000000Z", 113, "1997-09-02", "1997-12-23")]
    [InlineData(
        "1998-01-01",
        "FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA",
        93,
        "1998-01-01",
        "2000-01-31"
    )]
    [InlineData("1998-01-01", "FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", 93, "1998-01-01", "2000-01-31")]
    public void Gives_the_long_runs_of_the_RFC(string day, string rule, int count, string first, string last)
    {
        var found = Set(rule, $"{day}T09:00:00").All().Select(one => LocalDatePattern.Iso.Format(one.Date)).ToList();
        Assert.Equal((count, first, last), (found.Count, found[0], found[^1]));
    }

    /// <summary>A set in New York, without more than its rule.</summary>
    private static RecurrenceSet Set(string rule, string start)
    {
        var (parsed, reason) = RuleText.Parse(rule);
        Assert.Null(reason);
        return new RecurrenceSet(
            parsed,
            RecurrenceStart.At(
                LocalDateTimePattern.ExtendedIso.Parse(start).Value,
                DateTimeZoneProviders.Tzdb["America/New_York"]
            )
        );
    }
}
