using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>The time of the invented school that examples are told in.</summary>
internal static class Skerry
{
    public static readonly DateTimeZone Halifax = DateTimeZoneProviders.Tzdb["America/Halifax"];

    public static readonly Term Autumn = new(
        new TermId(1),
        "2026–27",
        "Autumn term",
        new LocalDate(2026, 9, 8),
        new LocalDate(2026, 12, 18)
    );

    public static readonly Term Spring = new(
        new TermId(2),
        "2026–27",
        "Spring term",
        new LocalDate(2027, 1, 4),
        new LocalDate(2027, 6, 25)
    );

    public static readonly NoClassDay[] NoClass =
    [
        Off(10, 12, 10, 12, "Thanksgiving"),
        Off(10, 22, 10, 23, "Teachers’ conference"),
        Off(11, 11, 11, 11, "Remembrance"),
        Off(11, 30, 11, 30, "Ferry maintenance"),
    ];

    public static readonly BellSchedule Bells = new(
        "Regular bells",
        [
            new("1", At(8, 0), At(8, 50)),
            new("2", At(8, 55), At(9, 45)),
            new("3", At(9, 50), At(10, 40)),
            new("4", At(10, 55), At(11, 45)),
        ]
    );

    public static readonly SchoolTime Time = new(
        Halifax,
        IsoDayOfWeek.Monday,
        [Spring, Autumn],
        NoClass,
        Bells,
        new DayCycle(["1", "2", "3", "4", "5", "6"], new LocalDate(2026, 9, 8))
    );

    public static readonly SchoolTime WithoutHolidays = new(Halifax, IsoDayOfWeek.Monday, [Autumn], []);

    public static LocalTime At(int hour, int minute) => new(hour, minute);

    public static SessionTime Clock(int hour, int minute, int endHour, int endMinute) =>
        new SessionTime.Clock(At(hour, minute), At(endHour, endMinute));

    public static MeetingPattern Pattern(
        string days,
        SessionTime time,
        LocalDate from,
        Extent extent,
        int everyWeeks = 1
    ) =>
        new(
            Repeat.Weekly(
                days.Split(' ')
                    .Select(day =>
                        Enum.GetValues<IsoDayOfWeek>()
                            .Single(one => one.ToString().StartsWith(day, StringComparison.Ordinal))
                    ),
                everyWeeks,
                IsoDayOfWeek.Monday
            ),
            time,
            Halifax,
            from,
            extent
        );

    public static Series.Series Series(MeetingPattern pattern, string title = "Tidepool Biology 9A") =>
        new(
            new SeriesId(1),
            new CalendarId(1),
            "tidepool@skerry.example",
            title,
            "Bring boots.",
            "Tide Room",
            pattern,
            null,
            new PersonId(1),
            1,
            default,
            default
        );

    public static MeetingPattern Rule(string rule, SessionTime time, LocalDate from, Extent extent) =>
        new(new Repeat.ByRule(RuleText.Parse(rule).Rule!), time, Halifax, from, extent);

    public static Plan Plan(MeetingPattern pattern, SchoolTime? time = null) =>
        Planner.PlanOf(Series(pattern), time ?? Time);

    private static NoClassDay Off(int month, int day, int lastMonth, int lastDay, string name) =>
        new(new LocalDate(2026, month, day), new LocalDate(2026, lastMonth, lastDay), name, NoClassKind.Holiday);
}
