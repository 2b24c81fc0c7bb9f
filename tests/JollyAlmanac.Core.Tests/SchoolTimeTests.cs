using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

public class SchoolTimeTests
{
    [Theory]
    [InlineData("2026-09-08", "1")]
    [InlineData("2026-09-15", "6")]
    [InlineData("2026-09-16", "1")]
    [InlineData("2026-10-09", "6")]
    [InlineData("2026-10-12", null)] // Thanksgiving does not use a day up …
    [InlineData("2026-10-13", "1")] // … so the cycle goes on here.
    [InlineData("2026-10-14", "2")]
    [InlineData("2026-09-12", null)] // Saturday
    [InlineData("2026-12-19", null)] // after the term
    public void The_day_cycle_turns_over_class_days_only(string day, string? name)
    {
        Assert.Equal(name, Skerry.Time.CycleDayOn(Day(day)));
        // From a day to the same day there is that one, where it has class.
        Assert.Equal(name is null ? [] : [name], Skerry.Time.CycleDays(Day(day), Day(day)).Select(one => one.Name));
    }

    [Theory]
    [InlineData("2026-10-14", "Autumn term")]
    [InlineData("2026-08-01", "Autumn term")]
    [InlineData("2026-12-25", "Spring term")]
    [InlineData("2027-08-01", "Spring term")]
    public void The_term_to_show_is_the_one_that_is_on_or_comes_next(string day, string name) =>
        Assert.Equal(name, Skerry.Time.TermToShow(Day(day))?.Name);

    [Theory]
    [InlineData(IsoDayOfWeek.Monday, "2026-09-07", 15)]
    [InlineData(IsoDayOfWeek.Sunday, "2026-09-06", 15)]
    [InlineData(IsoDayOfWeek.Saturday, "2026-09-05", 15)]
    public void Weeks_begin_where_the_school_says(IsoDayOfWeek firstDay, string start, int count)
    {
        var weeks = new SchoolTime(Skerry.Halifax, firstDay, [Skerry.Autumn], []).WeeksOf(Skerry.Autumn);
        Assert.Equal((Day(start), count), (weeks[0].Start, weeks.Length));
        Assert.Equal(Enumerable.Range(1, count), weeks.Select(week => week.Number));
    }

    [Fact]
    public void A_term_sheet_adds_up_by_week_and_in_all()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Mon Wed Fri",
                new SessionTime.InPeriod("3"),
                new LocalDate(2026, 9, 14),
                new Extent.WithTerm(Skerry.Autumn.Id)
            )
        );
        var now = WallClock.InstantOf(new LocalDateTime(2026, 10, 14, 9, 41), Skerry.Halifax);
        var sheet = TermSheet.Of(
            Skerry.Autumn,
            Skerry.Time,
            [plan],
            session => Redaction.Show(session, AccessLevel.Full, ShowChoices.SignedIn, MaterialsAt.None, null),
            now
        );
        Assert.Equal(new Ledger(42, 4, 0, 38, 12, 1900), sheet.Ledger);
        Assert.Equal(5, sheet.Columns.Length);
        Assert.Equal([0, 3, 3, 3, 3, 2, 2, 3, 3, 2, 3, 3, 2, 3, 3], sheet.Weeks.Select(week => week.Sessions));
        Assert.Equal(sheet.Ledger.Minutes, sheet.Weeks.Sum(week => week.Minutes));
        Assert.False(sheet.Weeks[0].Days[0].InTerm);
        Assert.Equal("Thanksgiving", sheet.Weeks[5].Days[0].NoClass?.Name);
    }

    [Fact]
    public void A_weekend_day_has_a_column_only_where_something_meets_on_it()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern("Sat", Skerry.Clock(10, 0, 11, 0), new LocalDate(2026, 9, 12), new Extent.Held(3))
        );
        var sheet = TermSheet.Of(
            Skerry.Autumn,
            Skerry.Time,
            [plan],
            session => Redaction.Show(session, AccessLevel.Busy, ShowChoices.SignedIn, MaterialsAt.None, null),
            default
        );
        Assert.Equal(6, sheet.Columns.Length);
        Assert.Contains(IsoDayOfWeek.Saturday, sheet.Columns);
        Assert.DoesNotContain(IsoDayOfWeek.Sunday, sheet.Columns);
    }

    [Fact]
    public void The_ribbon_counts_held_sessions_and_knows_today()
    {
        var plan = Skerry.Plan(
            Skerry.Pattern(
                "Mon Wed Fri",
                new SessionTime.InPeriod("3"),
                new LocalDate(2026, 9, 14),
                new Extent.WithTerm(Skerry.Autumn.Id)
            )
        );
        var ribbon = TermRibbon.Of(Skerry.Autumn, Skerry.Time, [plan, plan], new LocalDate(2026, 10, 14));
        Assert.Equal(6, ribbon.Now?.Number);
        Assert.Equal(2, ribbon.Busiest);
        Assert.Equal(76, ribbon.Weeks.Sum(week => week.Days.Sum(day => day.Sessions)));
        Assert.True(ribbon.Weeks[5].Days[0].Off);
        Assert.Equal(5, ribbon.Weeks.Count(week => week.IsPast));
    }

    [Theory]
    [InlineData("8:00-8:50 8:55-9:45", "0 0", 1)] // adjacent: one lane
    [InlineData("8:00-9:00 8:30-9:30 9:00-10:00", "0 1 0", 2)] // half open: the third takes the freed lane
    [InlineData("8:00-11:00 8:10-8:20 8:15-8:40", "0 1 2", 3)]
    public void The_bell_rail_keeps_sessions_apart_in_as_few_lanes_as_do(string times, string lanes, int count)
    {
        var sessions = times
            .Split(' ')
            .Select(span =>
            {
                var parts = span.Split('-', ':').Select(int.Parse).ToArray();
                var plan = Skerry.Plan(
                    Skerry.Pattern(
                        "Tue",
                        Skerry.Clock(parts[0], parts[1], parts[2], parts[3]),
                        new LocalDate(2026, 9, 15),
                        new Extent.Held(1)
                    )
                );
                return Redaction.Show(
                    plan.Held.Single(),
                    AccessLevel.Full,
                    ShowChoices.SignedIn,
                    MaterialsAt.None,
                    null
                )!;
            })
            .ToList();
        var rail = BellRail.Of(sessions, Skerry.Bells, Skerry.Halifax, _ => null);
        Assert.Equal(lanes, string.Join(' ', rail.Sessions.Select(session => session.Lane)));
        Assert.Equal(count, rail.Lanes);
        Assert.All(rail.Sessions, session => Assert.InRange(rail.Along(session.Start), 0, 1));
    }

    private static LocalDate Day(string text) => NodaTime.Text.LocalDatePattern.Iso.Parse(text).Value;
}
