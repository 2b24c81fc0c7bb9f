using JollyAlmanac.Core.Sheets;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>When somebody is free: worked out by hand beside each case, no source.</summary>
public sealed class FreeTimesTests
{
    // Wed 14 October 2026, 8:00 to 15:00 in Halifax, where that is 11:00 to 18:00 UTC (IANA tzdb: ADT, -3).
    [Theory]
    [InlineData("", "8:00–15:00", "")]
    [InlineData("9:00-10:00", "8:00–9:00 10:00–15:00", "9:00–10:00")]
    [InlineData("9:00-10:00 10:00-11:00", "8:00–9:00 11:00–15:00", "9:00–11:00")]
    [InlineData("10:00-11:00 9:00-10:30", "8:00–9:00 11:00–15:00", "9:00–11:00")]
    [InlineData("9:00-12:00 10:00-11:00", "8:00–9:00 12:00–15:00", "9:00–12:00")]
    [InlineData("7:00-8:30 14:30-16:00", "8:30–14:30", "8:00–8:30 14:30–15:00")]
    [InlineData("7:00-8:00 15:00-16:00", "8:00–15:00", "")]
    [InlineData("6:00-20:00", "", "8:00–15:00")]
    [InlineData("9:00-10:00 10:14-11:00", "8:00–9:00 11:00–15:00", "9:00–10:00 10:14–11:00")]
    [InlineData("9:00-10:00 10:15-11:00", "8:00–9:00 10:00–10:15 11:00–15:00", "9:00–10:00 10:15–11:00")]
    [InlineData("8:10-14:50", "", "8:10–14:50")]
    public void What_is_not_taken_is_free(string taken, string free, string busy)
    {
        var day = new LocalDate(2026, 10, 14);
        var times = Assert.Single(FreeTimes.Of(Intervals(day, taken), day, day, Hours, Skerry.Halifax));
        Assert.Equal(
            (free, busy),
            (
                string.Join(' ', times.Free.Select(one => Wording.Span(one.From, one.To))),
                string.Join(' ', times.Busy.Select(one => Wording.Span(one.From, one.To)))
            )
        );
    }

    [Fact]
    public void Days_are_weekdays_and_say_it_in_words()
    {
        var friday = new LocalDate(2026, 10, 16);
        var days = FreeTimes.Of(
            Intervals(friday, "9:00-10:00")
                .Append(new Interval(At(friday.PlusDays(3), 0, 0), At(friday.PlusDays(4), 0, 0))),
            friday,
            friday.PlusDays(4),
            Hours,
            Skerry.Halifax
        );
        Assert.Equal(
            ["Fri 16 Oct: free 8:00–9:00, 10:00–15:00", "Mon 19 Oct: not free", "Tue 20 Oct: free 8:00–15:00"],
            days.Select(day => day.InWords)
        );
    }

    // A night's session that reaches into the morning of the next day.
    [Fact]
    public void What_goes_over_midnight_takes_both_days()
    {
        var wednesday = new LocalDate(2026, 10, 14);
        var days = FreeTimes.Of(
            [new Interval(At(wednesday, 14, 0), At(wednesday.PlusDays(1), 9, 0))],
            wednesday,
            wednesday.PlusDays(1),
            Hours,
            Skerry.Halifax
        );
        Assert.Equal(["Wed 14 Oct: free 8:00–14:00", "Thu 15 Oct: free 9:00–15:00"], days.Select(day => day.InWords));
    }

    private static readonly ClockSpan Hours = new(new LocalTime(8, 0), new LocalTime(15, 0));

    private static Instant At(LocalDate day, int hour, int minute) =>
        (day + new LocalTime(hour, minute)).InZoneStrictly(Skerry.Halifax).ToInstant();

    private static IEnumerable<Interval> Intervals(LocalDate day, string taken) =>
        taken
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(one => one.Split('-', ':').Select(int.Parse).ToList())
            .Select(one => new Interval(At(day, one[0], one[1]), At(day, one[2], one[3])));
}
