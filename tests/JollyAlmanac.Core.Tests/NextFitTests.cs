using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>A first day for lines that name none; the days from a calendar sheet of 2026, no-class days of the school's autumn.</summary>
public sealed class NextFitTests
{
    // From Thu 8 Oct 2026; Mon 12 is Thanksgiving, 22 and 23 the teachers' conference.
    [Theory]
    [InlineData("Knots Thu p1", "2026-10-08")]
    [InlineData("Knots Mon p1", "2026-10-19")]
    [InlineData("Knots Mon Wed p1", "2026-10-14")]
    [InlineData("Knots every other Tue p1", "2026-10-13")]
    [InlineData("Knots first Monday of the month p1", "2026-11-02")]
    [InlineData("Knots last Friday of the month p1", "2026-10-30")]
    [InlineData("Knots 4th Thursday monthly p1", "2026-11-26")]
    [InlineData("Knots 15th of every month p1", "2026-10-15")]
    [InlineData("Knots every second month on the 15th p1", "2026-10-15")]
    [InlineData("Knots 12 Nov p1", null)]
    public void The_next_day_that_fits_has_class(string line, string? day)
    {
        var today = new LocalDate(2026, 10, 8);
        var reading = QuickEntry.Read(line, Skerry.Time, today);
        Assert.Equal(day, NextFit.Of(reading.Repeat!, Skerry.Time, today)?.ToString("uuuu-MM-dd", null));
    }

    // RFC 5545 §3.3.10: INTERVAL counts months where the frequency is monthly.
    [Theory]
    [InlineData("Knots every second month on the 15th p1", "FREQ=MONTHLY;INTERVAL=2;BYMONTHDAY=15")]
    [InlineData("Knots every other month on the 15th p1", "FREQ=MONTHLY;INTERVAL=2;BYMONTHDAY=15")]
    [InlineData("Knots every 3 months on the 1st p1", "FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=1")]
    [InlineData("Knots every other month on the first Monday p1", "FREQ=MONTHLY;INTERVAL=2;BYDAY=1MO")]
    [InlineData("Knots every month on the 15th p1", "FREQ=MONTHLY;BYMONTHDAY=15")]
    [InlineData("Knots first Monday of the month p1", "FREQ=MONTHLY;BYDAY=1MO")]
    public void Months_between_are_read(string line, string rule)
    {
        var reading = QuickEntry.Read(line, Skerry.Time, new LocalDate(2026, 9, 1));
        Assert.Empty(reading.Problems);
        Assert.Equal(
            rule,
            Assert
                .IsType<Repeat.ByRule>(reading.Repeat)
                .Rule.ToString()
                .Replace(";WKST=MO", "", StringComparison.Ordinal)
        );
    }
}
