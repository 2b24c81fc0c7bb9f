using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Reading;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>What the documentation of the core gives as examples is so.</summary>
public class DocumentedTests
{
    [Theory]
    [InlineData("Français 8ᵉ", "francais-8")]
    [InlineData("数学", "fallback")]
    public void Slugs(string title, string slug) => Assert.Equal(slug, Slug.Of(title, "fallback"));

    [Theory]
    [InlineData("FREQ=WEEKLY;BYDAY=MO,WE", true)]
    [InlineData("freq=weekly;byday=mo", true)]
    [InlineData("WEEKLY", false)]
    [InlineData("RRULE:FREQ=DAILY", false)]
    [InlineData("FREQ=DAILY;COUNT=3;UNTIL=20261218", false)]
    public void Rules(string text, bool isOne)
    {
        var (rule, reason) = RuleText.Parse(text);
        Assert.Equal((isOne, !isOne), (rule is not null, reason is not null));
    }

    [Theory]
    [InlineData("3 9:50-10:40")]
    [InlineData("Period 3: 9.50 am to 10.40 am")]
    public void Bells(string line) =>
        Assert.Equal((new LocalTime(9, 50), new LocalTime(10, 40)), BellText.Read(line).Period is { } one ? (one.Start, one.End) : default);

    // America/Halifax in 2026, IANA tzdb: forward on 8 Mar at 2:00, back on 1 Nov at 2:00.
    [Fact]
    public void Clocks()
    {
        var halifax = DateTimeZoneProviders.Tzdb["America/Halifax"];
        Assert.Equal(Instant.FromUtc(2026, 3, 8, 6, 30), WallClock.InstantOf(new LocalDateTime(2026, 3, 8, 2, 30), halifax));
        Assert.Equal(Instant.FromUtc(2026, 11, 1, 4, 30), WallClock.InstantOf(new LocalDateTime(2026, 11, 1, 1, 30), halifax));
    }
}
