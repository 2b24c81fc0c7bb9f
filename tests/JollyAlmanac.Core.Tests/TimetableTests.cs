using System.Collections.Immutable;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Timetables;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// Timetables as schools have them. What they are to mean is written beside each by hand; how schools lay them out is common practice,
/// without a source.
/// </summary>
public sealed class TimetableTests
{
    private static readonly string[] Staff = ["OM", "IF", "Orla Marchbanks", "Ines Falk", "Falk, Ines"];

    private static Sheet SheetOf(string text, string name = "", params MergedCells[] merged) =>
        new(
            "file",
            name,
            [.. text.ReplaceLineEndings("\n").Split('\n').Select(row => row.Split('|').Select(Cell).ToImmutableArray())]
        )
        {
            Merged = [.. merged],
        };

    private static string Cell(string text) => text.Trim().Replace("\\n", "\n", StringComparison.Ordinal);

    private static string Said(Timetable timetable) =>
        string.Join(
            "; ",
            timetable
                .Meetings.Select(one =>
                    string.Join(
                        ' ',
                        new[]
                        {
                            one.Class,
                            one.Times.Days,
                            one.Times.Periods.Length > 0 ? $"p{one.Times.Periods}" : one.Times.Clock,
                            one.Times.Week,
                            one.Times.From,
                            one.Times.Until,
                            one.Room.Length > 0 ? $"@{one.Room}" : "",
                            one.Teachers.IsEmpty ? "" : $"by {string.Join('+', one.Teachers)}",
                            one.Department.Length > 0 ? $"of {one.Department}" : "",
                            one.Link,
                        }.Where(part => part.Length > 0)
                    )
                )
                .Concat(timetable.Refused.Select(line => $"{line.Line}: {line.Reason}"))
        );

    [Theory]
    // A row a meeting, columns in any order.
    [InlineData(
        "Room | Period | Teacher | Day | Class\nTide Room | 3 | OM | Mon | Tidepool 9A",
        "Tidepool 9A Mon p3 @Tide Room by OM"
    )]
    // A row a class, a title above, names of columns as programs write them, a section.
    [InlineData(
        "Autumn term\n\nCourse Title | Section | Days | Start Time | End Time | Location | Instructor\nKnots | 2 | MWF | 08:00 | 08:50 | Loft | Falk, Ines",
        "Knots 2 MWF 08:00-08:50 @Loft by Falk, Ines"
    )]
    // From and to are times where they look like them; else days.
    [InlineData("Class | Day | From | To\nKnots | Tue | 8:00 | 8:50", "Knots Tue 8:00-8:50")]
    [InlineData(
        "Class | Day | Time | From | To\nKnots | Tue | 8:00-8:50 | 2026-10-01 | 2026-11-01",
        "Knots Tue 8:00-8:50 2026-10-01 2026-11-01"
    )]
    // The class stands once, above its further meetings.
    [InlineData("Class | Day | Period\nKnots | Mon | 1\n | Wed | 2", "Knots Mon p1; Knots Wed p2")]
    // A class without meetings is a class; a row without a class, and one without a time, are told.
    [InlineData(
        "Class | Day | Period\nKnots | | \n | | \nChoir | Mon | \n",
        "Knots; 4: Neither a period nor a time stands in this row."
    )]
    [InlineData("Class | Day | Period\n | Mon | 1", "2: No class stands in this row.")]
    [InlineData("Class | Day | Period\nKnots | | 1", "2: No days stand in this row.")]
    // A column a weekday.
    [InlineData(
        "Class | Teacher | Mon | Tue | Wed\nKnots | OM / IF | 3 | | 1,2\nChoir | | | 8:00-8:50 |",
        "Knots Monday p3 by OM+IF; Knots Wednesday p1,2 by OM+IF; Choir Tuesday 8:00-8:50"
    )]
    // Days of a cycle, weeks, a department, a link.
    [InlineData("Class | Cycle Day | Period | Dept\nKnots | 2 | 1 | Sea Crafts", "Knots days 2 p1 of Sea Crafts")]
    [InlineData("Class | Day | Period | Week\nKnots | Mon | 1 | B", "Knots Mon p1 B")]
    [InlineData(
        "Class | Day | Period | Week\nKnots | Mon | 1 | 3-6",
        "2: “3-6” is neither week A nor week B. Give a first and a last day instead."
    )]
    [InlineData(
        "Class | Day | Period | Join link\nKnots | Mon | 1 | https://rooms.skerry.example/7",
        "Knots Mon p1 https://rooms.skerry.example/7"
    )]
    public void A_table_is_read_by_the_names_of_its_columns(string table, string said)
    {
        var sheet = SheetOf(table);
        Assert.True(TimetableTable.IsTimetable(sheet));
        Assert.Equal(said, Said(TimetableTable.Read(sheet)));
    }

    [Theory]
    [InlineData("Email | Name\norla@skerry.example | Orla", false, false)]
    [InlineData("Class | Link\nKnots | https://rooms.skerry.example/7", false, true)]
    [InlineData("Class | Teacher\nKnots | OM", false, false)]
    [InlineData("Thanksgiving 12 Oct\nRemembrance 11 Nov", false, false)]
    public void What_is_no_timetable_is_none(string table, bool isTimetable, bool isRooms)
    {
        var sheet = SheetOf(table);
        Assert.Equal(
            (isTimetable, isRooms, false),
            (TimetableTable.IsTimetable(sheet), TimetableTable.IsRooms(sheet), TimetableGrid.IsGrid(sheet))
        );
    }

    [Theory]
    // Of a form: subjects get its name; what has it, keeps its own.
    [InlineData(
        "9A\nPeriod | Mon | Tue | Wed\n1 | Biology\\nOM\\nTide Room | | Knots 9A\\nIF\n2 | Lunch | Biology\\nOM\\nTide Room | -",
        "",
        "Biology 9A Monday p1 @Tide Room by OM; Knots 9A Wednesday p1 by IF; Biology 9A Tuesday p2 @Tide Room by OM"
    )]
    // Of a teacher, by the sheet's name; times beside the periods.
    [InlineData(
        "| Mon | Tue | Wed\nP1 8:00-8:50 | Biology 9A / Tide Room | |\nP2 8:55-9:45 | | Knots 7 (Loft) |",
        "Orla Marchbanks",
        "Biology 9A Monday p1 @Tide Room by Orla Marchbanks; Knots 7 Tuesday p2 @Loft by Orla Marchbanks"
    )]
    // Of a room, and times alone, in a column beside the names.
    [InlineData(
        "Room B12\n | Time | Mon | Tue | Wed\n A | 8:00-8:50 | Biology 9A, OM | |\n B | 8:55-9:45 | | | Knots 7, IF",
        "",
        "Biology 9A Monday pA @Room B12 by OM; Knots 7 Wednesday pB @Room B12 by IF"
    )]
    // The whole school in one; a row that is no period is left out and told; a club at lunch is one.
    [InlineData(
        "Period | Mon | Tue | Wed\n1 | Biology 9A\\nOM\\nTide Room | |\nAssembly | Song | |\nLunch 11:45-12:35 | Chess club\\nLoft | Lunch | Lunch\n2 | Knots 7 | |",
        "Timetable",
        "Biology 9A Monday p1 @Tide Room by OM; Chess club Monday 11:45-12:35 @Loft; Knots 7 Monday p2; 3: “Assembly” is neither a period nor a time, so “Song” is left out."
    )]
    // Days down and periods across.
    [InlineData(
        "| 1 | 2\nMon | Biology 9A | \nTue | | Knots 7\nWed | Biology 9A |",
        "",
        "Biology 9A Monday p1; Biology 9A Wednesday p1; Knots 7 Tuesday p2"
    )]
    // Two weeks, days of a cycle, two blocks on a sheet.
    [InlineData(
        "9A, Week A\n| Mon | Tue | Wed\n1 | Biology | |\n2 | | |\n9A, Week B\n| Mon | Tue | Wed\n1 | | Knots |\n2 | | |",
        "",
        "Biology 9A Monday p1 A; Knots 9A Tuesday p1 B"
    )]
    [InlineData(
        "9A\n| Day 1 | Day 2 | Day 3\n1 | Biology | |\n2 | | | Knots",
        "",
        "Biology 9A Day 1 p1; Knots 9A Day 3 p2"
    )]
    public void A_grid_is_read_by_its_days_and_periods(string grid, string name, string said)
    {
        var sheet = SheetOf(grid, name);
        Assert.True(TimetableGrid.IsGrid(sheet));
        Assert.Equal(said, Said(new TimetableGrid(Staff.Contains).Read(sheet)));
    }

    [Fact]
    public void Merged_cells_are_one_meeting_over_periods_and_one_each_over_days()
    {
        var sheet = SheetOf(
            "| Mon | Tue | Wed\n1 | Biology 9A | |\n2 | | Knots 7 |\n3 8:00-8:50 | | |",
            "",
            new MergedCells(1, 2, 1, 1),
            new MergedCells(2, 2, 2, 3)
        );
        Assert.Equal(
            "Biology 9A Monday p1-2; Knots 7 Tuesday p2; Knots 7 Wednesday p2",
            Said(new TimetableGrid(Staff.Contains).Read(sheet))
        );
    }

    [Theory]
    [InlineData("MWF", "3", "", "", "Mon, Wed and Fri in period 3")]
    [InlineData("Monday", "P1-P2", "", "", "Mon, 8:00–9:45")]
    [InlineData("Monday", "1 & 2", "", "", "Mon, 8:00–9:45")]
    [InlineData("Monday", "1, 3", "", "", "Mon in period 1 | Mon in period 3")]
    [InlineData("M", "", "9:50-10:40", "", "Mon in period 3")] // a bell's time is that period
    [InlineData("T/Th", "", "09:50:00-10:45:00", "", "Tue and Thu, 9:50–10:45")]
    [InlineData("Day 2", "1", "", "", "days 2 in period 1")]
    [InlineData("Mon", "9", "", "", "No bell is called “9”; they are 1, 2, 3 and 4.")]
    [InlineData("Mon", "1 or so", "", "", "No bell is called “1 or so”; they are 1, 2, 3 and 4.")]
    [InlineData("Someday", "1", "", "", "“Someday” is not understood as days.")]
    [InlineData("Mon", "", "late", "", "“late” is not understood as a time.")]
    [InlineData("Mon", "1", "", "A", "every second week Mon in period 1 from 2026-09-08")]
    [InlineData("Mon", "1", "", "B", "every second week Mon in period 1 from 2026-09-14")]
    public void Its_words_are_read_by_quick_entry_and_the_bells(
        string days,
        string periods,
        string clock,
        string week,
        string said
    )
    {
        var (patterns, problem) = new MeetingReader(Skerry.Time, Skerry.Autumn, Skerry.Autumn.First).Read(
            new MeetingTimes(days, periods, clock) { Week = week }
        );
        var read = string.Join(
            " | ",
            patterns.Select(one =>
                (one.Repeat is Repeat.ByRule { Rule.Interval: 2 } ? "every second week " : "")
                + (
                    one.Repeat is Repeat.OnCycleDays cycle
                        ? $"days {string.Join(' ', cycle.Names)}"
                        : Wording.List([.. one.Repeat.WeeklyDays.Select(day => day.ToString()[..3])])
                )
                + one.Time switch
                {
                    SessionTime.InPeriod named => $" in period {named.Period}",
                    SessionTime.Clock time => $", {Wording.Of(time.Start)}–{Wording.Of(time.End)}",
                    _ => "",
                }
                + (one.From is { } from ? $" from {from:uuuu-MM-dd}" : "")
            )
        );
        Assert.StartsWith(said, problem ?? read, StringComparison.Ordinal);
    }

    [Fact]
    public void First_and_last_day_are_read_and_what_is_none_is_told()
    {
        var reader = new MeetingReader(Skerry.Time, Skerry.Autumn, Skerry.Autumn.First);
        var read = Assert.Single(
            reader.Read(new MeetingTimes("Mon", "1", "") { From = "2026-10-05", Until = "30 Nov" }).Patterns
        );
        Assert.Equal(
            (new LocalDate(2026, 10, 5), new Extent.Until(new LocalDate(2026, 11, 30))),
            (read.From, (Extent.Until)read.Extent!)
        );
        Assert.StartsWith(
            "“after lunch” is not understood as first and last day.",
            reader.Read(new MeetingTimes("Mon", "1", "") { From = "after lunch" }).Problem,
            StringComparison.Ordinal
        );
    }
}
