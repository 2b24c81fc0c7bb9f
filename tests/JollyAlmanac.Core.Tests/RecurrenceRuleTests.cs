using JollyAlmanac.Core.Recurrence;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>Rules as text and as a sentence.</summary>
public class RecurrenceRuleTests
{
    // What RFC 5545 §3.3.10 forbids; the words that the reason must have.
    [Theory]
    [InlineData("", "empty")]
    [InlineData("BYDAY=MO", "FREQ is missing")]
    [InlineData("FREQ=FORTNIGHTLY", "FREQ=FORTNIGHTLY")]
    [InlineData("FREQ=3", "FREQ=3")]
    [InlineData("FREQ=DAILY;COUNT=3;UNTIL=20261218", "COUNT and UNTIL")]
    [InlineData("FREQ=DAILY;INTERVAL=0", "INTERVAL=0")]
    [InlineData("FREQ=DAILY;INTERVAL=-1", "INTERVAL=-1")]
    [InlineData("FREQ=DAILY;INTERVAL=1.5", "INTERVAL=1.5")]
    [InlineData("FREQ=DAILY;COUNT=0", "COUNT=0")]
    [InlineData("FREQ=DAILY;COUNT=99999999999", "COUNT=99999999999")]
    [InlineData("FREQ=DAILY;UNTIL=tomorrow", "UNTIL=TOMORROW")]
    [InlineData("FREQ=DAILY;UNTIL=20260230", "UNTIL=20260230")]
    [InlineData("FREQ=WEEKLY;BYDAY=6MO", "BYDAY")]
    [InlineData("FREQ=DAILY;BYDAY=1MO", "BYDAY")]
    [InlineData("FREQ=MONTHLY;BYDAY=54MO", "BYDAY=54")]
    [InlineData("FREQ=MONTHLY;BYDAY=0MO", "BYDAY=0")]
    [InlineData("FREQ=MONTHLY;BYDAY=MON", "BYDAY=ON")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=20;BYDAY=1MO", "BYWEEKNO")]
    [InlineData("FREQ=MONTHLY;BYWEEKNO=20", "BYWEEKNO")]
    [InlineData("FREQ=YEARLY;BYWEEKNO=54", "BYWEEKNO=54")]
    [InlineData("FREQ=WEEKLY;BYMONTHDAY=1", "BYMONTHDAY")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=32", "BYMONTHDAY=32")]
    [InlineData("FREQ=MONTHLY;BYMONTHDAY=0", "BYMONTHDAY=0")]
    [InlineData("FREQ=DAILY;BYYEARDAY=1", "BYYEARDAY")]
    [InlineData("FREQ=YEARLY;BYYEARDAY=367", "BYYEARDAY=367")]
    [InlineData("FREQ=YEARLY;BYMONTH=13", "BYMONTH=13")]
    [InlineData("FREQ=DAILY;BYHOUR=24", "BYHOUR=24")]
    [InlineData("FREQ=DAILY;BYMINUTE=60", "BYMINUTE=60")]
    [InlineData("FREQ=DAILY;BYSECOND=61", "BYSECOND=61")]
    [InlineData("FREQ=MONTHLY;BYSETPOS=1", "BYSETPOS stands alone")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO;BYSETPOS=0", "BYSETPOS=0")]
    [InlineData("FREQ=MONTHLY;BYDAY=MO;BYSETPOS=367", "BYSETPOS=367")]
    [InlineData("FREQ=DAILY;WKST=XX", "WKST=XX")]
    [InlineData("FREQ=DAILY;BYEASTER=0", "BYEASTER")]
    [InlineData("FREQ=DAILY;COUNT=3;COUNT=4", "COUNT stands twice")]
    [InlineData("FREQ=DAILY;;COUNT=3", "empty part")]
    [InlineData("FREQ=DAILY;", "empty part")]
    [InlineData("FREQ=DAILY; COUNT=3", "white space")]
    [InlineData("FREQ=DAILY;COUNT", "NAME=VALUE")]
    [InlineData("FREQ=DAILY;BYHOUR=8,", "BYHOUR=")]
    public void Refuses_what_the_RFC_forbids_and_names_the_part(string rule, string words)
    {
        var (parsed, reason) = RuleText.Parse(rule);
        Assert.Null(parsed);
        Assert.Contains(words, reason);
    }

    [Theory]
    [InlineData("freq=weekly;byday=fr,mo,mo;wkst=mo;interval=1", "FREQ=WEEKLY;BYDAY=MO,FR")]
    [InlineData("FREQ=DAILY;BYHOUR=23,8;BYSECOND=60", "FREQ=DAILY;BYSECOND=59;BYHOUR=8,23")]
    [InlineData(
        "FREQ=MONTHLY;BYDAY=-1FR,+1MO;UNTIL=20261218T135000Z;WKST=SU",
        "FREQ=MONTHLY;UNTIL=20261218T135000Z;BYDAY=-1FR,1MO;WKST=SU"
    )]
    [InlineData(
        "BYSETPOS=-1;FREQ=YEARLY;BYMONTHDAY=-1,31;BYMONTH=2,1;COUNT=4",
        "FREQ=YEARLY;COUNT=4;BYMONTHDAY=-1,31;BYMONTH=1,2;BYSETPOS=-1"
    )]
    public void Prints_one_canonical_form(string rule, string canonical)
    {
        Assert.Equal(canonical, RuleText.Parse(rule).Rule!.ToString());
        Assert.Equal(canonical, RuleText.Parse(canonical).Rule!.ToString());
    }

    [Theory]
    [InlineData(
        "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH;UNTIL=20261218",
        "every other week on Tuesday and Thursday at 8:00, weeks beginning on Monday, until 18 Dec 2026"
    )]
    [InlineData("FREQ=MONTHLY;BYDAY=-1FR", "every month on the last Friday of the month at 8:00, without end")]
    [InlineData(
        "FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13;COUNT=3",
        "every month on the 13th if it is a Friday at 8:00, 3 times"
    )]
    [InlineData("FREQ=YEARLY;BYDAY=20MO", "every year on the 20th Monday of the year at 8:00, without end")]
    [InlineData("FREQ=YEARLY", "every year in September on the 14th at 8:00, without end")]
    [InlineData(
        "FREQ=YEARLY;BYWEEKNO=20",
        "every year in week 20 on Monday at 8:00, weeks beginning on Monday, without end"
    )]
    [InlineData("FREQ=DAILY;BYHOUR=8,12;BYMINUTE=0,30", "every day at 8:00, 8:30, 12:00 and 12:30, without end")]
    [InlineData(
        "FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-2",
        "every month on every Monday and every Tuesday at 8:00, of these only the second last in each month, without end"
    )]
    [InlineData("FREQ=HOURLY;INTERVAL=3;BYDAY=MO", "every 3rd hour if it is a Monday at minute 0, without end")]
    [InlineData("FREQ=DAILY;COUNT=1", "every day at 8:00, once")]
    public void Says_a_rule_in_a_sentence(string rule, string sentence) =>
        Assert.Equal(
            sentence,
            RuleSentence.Of(RuleText.Parse(rule).Rule!, RecurrenceStart.At(new LocalDateTime(2026, 9, 14, 8, 0), null))
        );
}
