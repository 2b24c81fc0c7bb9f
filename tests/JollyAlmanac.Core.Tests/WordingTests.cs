using System.Globalization;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>How times and dates are written for whoever reads them.</summary>
public sealed class WordingTests
{
    // Twelve hours and the month first are what the locales en-US and en-GB of Unicode CLDR differ in.
    [Theory]
    [InlineData(
        false,
        false,
        "13:30",
        "9:50–13:30",
        "Mon 14 Sep",
        "Monday 14 September",
        "14 Sep 2026",
        "14–16 Sep",
        "28 Sep–2 Oct"
    )]
    [InlineData(
        true,
        false,
        "1:30 pm",
        "9:50 am–1:30 pm",
        "Mon 14 Sep",
        "Monday 14 September",
        "14 Sep 2026",
        "14–16 Sep",
        "28 Sep–2 Oct"
    )]
    [InlineData(
        false,
        true,
        "13:30",
        "9:50–13:30",
        "Mon Sep 14",
        "Monday, September 14",
        "Sep 14, 2026",
        "Sep 14–16",
        "Sep 28–Oct 2"
    )]
    [InlineData(
        true,
        true,
        "1:30 pm",
        "9:50 am–1:30 pm",
        "Mon Sep 14",
        "Monday, September 14",
        "Sep 14, 2026",
        "Sep 14–16",
        "Sep 28–Oct 2"
    )]
    public void Times_and_dates_are_written_as_their_reader_has_chosen(
        bool twelve,
        bool month,
        string time,
        string span,
        string weekday,
        string full,
        string year,
        string days,
        string over
    )
    {
        var before = CultureInfo.CurrentCulture;
        CultureInfo.CurrentCulture = Wording.Culture(twelve, month);
        try
        {
            LocalDate Day(int number, int of = 9) => new(2026, of, number);
            Assert.Equal(
                (time, span),
                (Wording.Of(new LocalTime(13, 30)), Wording.Span(new LocalTime(9, 50), new LocalTime(13, 30)))
            );
            Assert.Equal(
                (weekday, full, year),
                (Wording.WithWeekday(Day(14)), Wording.InFull(Day(14)), Wording.WithYear(Day(14)))
            );
            Assert.Equal((days, over), (Wording.Days(Day(14), Day(16)), Wording.Days(Day(28), Day(2, 10))));
        }
        finally
        {
            CultureInfo.CurrentCulture = before;
        }
    }

    // In the IANA database (file northamerica) EST is UTC-5 all year, which no school there means; a place has its summer time.
    [Theory]
    [InlineData("EST", null)]
    [InlineData("MST7MDT", null)]
    [InlineData("Etc/GMT+5", null)]
    [InlineData("GMT", null)]
    [InlineData("utc", "UTC")]
    [InlineData("America/Halifax", "America/Halifax")]
    [InlineData("st. john's", "America/St_Johns")]
    [InlineData("Atlantic Standard Time", "America/Halifax")]
    public void A_zone_is_a_place(string typed, string? zone) => Assert.Equal(zone, Parsing.ZoneText.Find(typed)?.Id);
}
