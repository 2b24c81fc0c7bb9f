using System.Collections.Frozen;
using System.Collections.Immutable;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Rosters;
using NodaTime;

namespace JollyAlmanac.Core.Timetables;

/// <summary>What a column of a table of a school says.</summary>
public enum SchoolColumn
{
    /// <summary>The class.</summary>
    Class,

    /// <summary>Which of several classes of one course: "A", "02".</summary>
    Section,

    /// <summary>The department.</summary>
    Department,

    /// <summary>The teacher.</summary>
    Teacher,

    /// <summary>The weekdays.</summary>
    Days,

    /// <summary>The days of the school's cycle.</summary>
    CycleDays,

    /// <summary>The periods.</summary>
    Period,

    /// <summary>The start.</summary>
    Start,

    /// <summary>The end.</summary>
    End,

    /// <summary>Start and end in one.</summary>
    Time,

    /// <summary>The room.</summary>
    Room,

    /// <summary>The first day.</summary>
    From,

    /// <summary>The last day.</summary>
    Until,

    /// <summary>The address of an online room.</summary>
    Link,

    /// <summary>The weeks: "A" or "B".</summary>
    Weeks,

    /// <summary>A name: of a period, or of days without class.</summary>
    Name,
}

/// <summary>
/// Reads tables of a school by the names of their columns, in any order: timetables with a row for each meeting or for each class, and
/// addresses of online rooms. The names are those that the trade writes (no source).
/// </summary>
public static class TimetableTable
{
    // A title and some remarks may stand above the head.
    private const int DeepestHead = 20;

    private static readonly FrozenDictionary<string, SchoolColumn> Names = new (SchoolColumn Column, string Names)[]
    {
        (
            SchoolColumn.Class,
            "class classname classtitle course coursename coursetitle title subject activity module lesson classcourse"
        ),
        (SchoolColumn.Section, "section sect sec group set sectionnumber"),
        (SchoolColumn.Department, "department dept subjectarea area division learningarea"),
        (
            SchoolColumn.Teacher,
            "teacher teachers teachername teacheremail teachercode instructor instructors staff staffname staffcode taughtby faculty lecturer"
        ),
        (SchoolColumn.Days, "day days weekday weekdays dayofweek daysofweek meetingdays meets pattern daypattern"),
        (SchoolColumn.CycleDays, "cycleday cycledays dayofcycle rotationday rotation"),
        (SchoolColumn.Period, "period periods pd per block blocks slot slots bell hour"),
        (SchoolColumn.Start, "start starts starttime begins begintime begin timestart fromtime"),
        (SchoolColumn.End, "end ends endtime finish finishes timeend totime"),
        (SchoolColumn.Time, "time times meetingtime meetingtimes hours"),
        (SchoolColumn.Room, "room rooms roomname roomnumber location place venue classroom where facility"),
        (SchoolColumn.From, "from firstday startdate datefrom firstdate dates date startson validfrom"),
        (SchoolColumn.Until, "until to lastday enddate dateto lastdate endson validto thru through"),
        (
            SchoolColumn.Link,
            "link joinlink meetinglink url joinurl onlineroom onlinelink videolink address roomaddress web weblink"
        ),
        (SchoolColumn.Weeks, "week weeks weekab abweek abweeks"),
        (SchoolColumn.Name, "name event holiday occasion description reason"),
    }
        .SelectMany(one => one.Names.Split(' ').Select(name => (name, one.Column)))
        .ToFrozenDictionary(one => one.name, one => one.Column);

    /// <summary>The columns of a sheet by its head, which is the row that names most.</summary>
    /// <returns>The row of the head, from 0; -1 where no row names two. Of two columns of one name the first counts.</returns>
    public static (int Row, ImmutableDictionary<SchoolColumn, int> Columns) Head(Sheet sheet)
    {
        var (best, found) = (-1, ImmutableDictionary<SchoolColumn, int>.Empty);
        for (var row = 0; row < Math.Min(sheet.Rows.Length, DeepestHead); row++)
        {
            var columns = ColumnsOf(sheet.Rows[row]);
            if (columns.Count >= 2 && columns.Count > found.Count)
                (best, found) = (row, columns);
        }

        return (best, found);
    }

    private static ImmutableDictionary<SchoolColumn, int> ColumnsOf(ImmutableArray<string> cells)
    {
        var columns = ImmutableDictionary.CreateBuilder<SchoolColumn, int>();
        for (var at = 0; at < cells.Length; at++)
            if (Names.TryGetValue(Plain(cells[at]), out var column) && !columns.ContainsKey(column))
                columns[column] = at;
        return columns.ToImmutable();
    }

    /// <summary>A table in which classes meet: it names the class, and when.</summary>
    public static bool IsTimetable(Sheet sheet)
    {
        var columns = Head(sheet).Columns;
        return (
                columns.ContainsKey(SchoolColumn.Class)
                && (columns.ContainsKey(SchoolColumn.Days) || columns.ContainsKey(SchoolColumn.CycleDays))
                && (
                    columns.ContainsKey(SchoolColumn.Period)
                    || columns.ContainsKey(SchoolColumn.Start)
                    || columns.ContainsKey(SchoolColumn.Time)
                    || columns.ContainsKey(SchoolColumn.From)
                )
            )
            || ByWeekday(sheet).Row >= 0;
    }

    /// <summary>A table of online rooms: it names the class and the address, and no time.</summary>
    public static bool IsRooms(Sheet sheet)
    {
        var columns = Head(sheet).Columns;
        return columns.ContainsKey(SchoolColumn.Class)
            && columns.ContainsKey(SchoolColumn.Link)
            && !columns.ContainsKey(SchoolColumn.Days)
            && !columns.ContainsKey(SchoolColumn.Period);
    }

    /// <summary>Reads a timetable.</summary>
    /// <returns>A row without a class, days or a time is refused with its reason; a row without a text is passed over.</returns>
    public static Timetable Read(Sheet sheet)
    {
        if (ByWeekday(sheet) is { Row: >= 0 } weekly)
            return ReadByWeekday(sheet, weekly.Row, weekly.Class, weekly.Days);
        var (head, columns) = Head(sheet);
        columns = TimesOfDay(sheet, head, columns);
        var meetings = ImmutableArray.CreateBuilder<Meeting>();
        var refused = ImmutableArray.CreateBuilder<RefusedLine>();
        var above = "";
        for (var row = head + 1; row < sheet.Rows.Length; row++)
        {
            string Of(SchoolColumn column) => columns.TryGetValue(column, out var at) ? sheet.At(row, at) : "";
            if (sheet.Rows[row].All(string.IsNullOrWhiteSpace))
                continue;
            var days = Of(SchoolColumn.Days);
            if (Of(SchoolColumn.CycleDays) is { Length: > 0 } cycle)
                days = cycle.Contains("day", StringComparison.OrdinalIgnoreCase) ? cycle : $"days {cycle}";
            var clock =
                Of(SchoolColumn.Start) is { Length: > 0 } start && Of(SchoolColumn.End) is { Length: > 0 } end
                    ? $"{start}-{end}"
                : Of(SchoolColumn.Time) is { Length: > 0 } both ? both
                : Of(SchoolColumn.Start);
            // Bells that change take their periods with them, so a period says more than its times.
            var periods = Of(SchoolColumn.Period);
            var week = WeekOf(Of(SchoolColumn.Weeks));
            var title = Of(SchoolColumn.Class);
            // The class stands once, above its further meetings: as people write it, and as merged cells come. Where the row says whose
            // it is in other ways, its class was forgotten.
            if (
                title.Length == 0
                && (days.Length > 0 || clock.Length > 0 || periods.Length > 0)
                && Of(SchoolColumn.Department).Length == 0
                && Of(SchoolColumn.Section).Length == 0
            )
                title = above;
            else
                title = Titled(title, Of(SchoolColumn.Section));
            above = title;
            var reason =
                title.Length == 0 ? "No class stands in this row."
                : week is null
                    ? $"{Wording.Quote(Of(SchoolColumn.Weeks))} is neither week A nor week B. Give a first and a last day instead."
                : days.Length == 0 && clock.Length == 0 && periods.Length == 0 ? null
                : days.Length == 0 ? "No days stand in this row."
                : clock.Length == 0 && periods.Length == 0 ? "Neither a period nor a time stands in this row."
                : null;
            if (reason is not null)
            {
                refused.Add(new RefusedLine(sheet.Called, row + 1, reason));
                continue;
            }

            meetings.Add(
                new Meeting(
                    title,
                    new MeetingTimes(days, periods, clock)
                    {
                        From = Of(SchoolColumn.From),
                        Until = Of(SchoolColumn.Until),
                        Week = week!,
                    },
                    sheet.Called,
                    row + 1
                )
                {
                    Department = Of(SchoolColumn.Department),
                    Teachers = TeachersOf(Of(SchoolColumn.Teacher)),
                    Room = Of(SchoolColumn.Room),
                    Link = Of(SchoolColumn.Link),
                }
            );
        }

        return new Timetable(meetings.ToImmutable(), refused.ToImmutable());
    }

    /// <summary>Several teachers of one cell: a line each, or with semicolons, ampersands, slashes or "and" between them.</summary>
    /// <example>
    /// <code>
    /// TimetableTable.TeachersOf("Orla Marchbanks / Ines Falk")[1] // Ines Falk
    /// TimetableTable.TeachersOf("Falk, Ines").Length // 1
    /// </code>
    /// </example>
    public static ImmutableArray<string> TeachersOf(string text) =>
        [
            .. text.Replace(" and ", "\n", StringComparison.OrdinalIgnoreCase)
                .Split(
                    ['\n', ';', '&', '/', '+'],
                    StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries
                ),
        ];

    /// <summary>The name of a class with its section, where the name does not hold it.</summary>
    /// <example>
    /// <code>
    /// TimetableTable.Titled("Net Mending", "2") // Net Mending 2
    /// TimetableTable.Titled("Tidepool Biology 9A", "9A") // Tidepool Biology 9A
    /// </code>
    /// </example>
    public static string Titled(string title, string section) =>
        section.Length == 0 || title.Length == 0 || title.Split(' ').Contains(section, StringComparer.OrdinalIgnoreCase)
            ? title
            : $"{title} {section}";

    /// <summary>The week of a cell or a title: "A", "B", "" for every week; null for what is neither.</summary>
    internal static string? WeekOf(string text) =>
        Plain(text) switch
        {
            "" or "all" or "every" or "both" or "ab" or "weekly" => "",
            "a" or "weeka" or "aweek" or "1" or "week1" or "odd" => "A",
            "b" or "weekb" or "bweek" or "2" or "week2" or "even" => "B",
            _ => null,
        };

    // "From" and "to" are times of the day where times stand in them.
    private static ImmutableDictionary<SchoolColumn, int> TimesOfDay(
        Sheet sheet,
        int head,
        ImmutableDictionary<SchoolColumn, int> columns
    )
    {
        if (
            columns.ContainsKey(SchoolColumn.Start)
            || !columns.TryGetValue(SchoolColumn.From, out var from)
            || !columns.TryGetValue(SchoolColumn.Until, out var until)
        )
            return columns;
        var written = Enumerable
            .Range(head + 1, Math.Max(0, Math.Min(sheet.Rows.Length - head - 1, 50)))
            .Select(row => sheet.At(row, from))
            .Where(text => text.Length > 0)
            .ToList();
        return written.Count > 0 && written.TrueForAll(text => text.Contains(':', StringComparison.Ordinal))
            ? columns
                .Remove(SchoolColumn.From)
                .Remove(SchoolColumn.Until)
                .Add(SchoolColumn.Start, from)
                .SetItem(SchoolColumn.End, until)
            : columns;
    }

    // A row a class with a column a weekday, whose cells say the periods or the time.
    private static (int Row, int Class, ImmutableArray<(int Column, string Day)> Days) ByWeekday(Sheet sheet)
    {
        for (var row = 0; row < Math.Min(sheet.Rows.Length, DeepestHead); row++)
        {
            var cells = sheet.Rows[row];
            var title = -1;
            var days = ImmutableArray.CreateBuilder<(int, string)>();
            for (var at = 0; at < cells.Length; at++)
                if (Words.Weekday(Plain(cells[at])) is not IsoDayOfWeek.None and var day)
                    days.Add((at, day.ToString()));
                else if (
                    title < 0
                    && Names.TryGetValue(Plain(cells[at]), out var column)
                    && column == SchoolColumn.Class
                )
                    title = at;
            if (title >= 0 && days.Count >= 3)
                return (row, title, days.ToImmutable());
        }

        return (-1, -1, []);
    }

    private static Timetable ReadByWeekday(
        Sheet sheet,
        int head,
        int title,
        ImmutableArray<(int Column, string Day)> days
    )
    {
        var columns = ColumnsOf(sheet.Rows[head]);
        var meetings = ImmutableArray.CreateBuilder<Meeting>();
        var refused = ImmutableArray.CreateBuilder<RefusedLine>();
        for (var row = head + 1; row < sheet.Rows.Length; row++)
        {
            string Of(SchoolColumn column) => columns.TryGetValue(column, out var at) ? sheet.At(row, at) : "";
            if (sheet.Rows[row].All(string.IsNullOrWhiteSpace))
                continue;
            var name = Titled(sheet.At(row, title), Of(SchoolColumn.Section));
            if (name.Length == 0)
            {
                refused.Add(new RefusedLine(sheet.Called, row + 1, "No class stands in this row."));
                continue;
            }

            Meeting At(string day, string time) =>
                new(
                    name,
                    new MeetingTimes(
                        day,
                        time.Contains(':', StringComparison.Ordinal) ? "" : time,
                        time.Contains(':', StringComparison.Ordinal) ? time : ""
                    )
                    {
                        From = Of(SchoolColumn.From),
                        Until = Of(SchoolColumn.Until),
                    },
                    sheet.Called,
                    row + 1
                )
                {
                    Department = Of(SchoolColumn.Department),
                    Teachers = TeachersOf(Of(SchoolColumn.Teacher)),
                    Room = Of(SchoolColumn.Room),
                    Link = Of(SchoolColumn.Link),
                };
            var said = days.Where(one => sheet.At(row, one.Column).Length > 0).ToList();
            // A class that never meets is a class all the same.
            if (said.Count == 0)
                meetings.Add(At("", ""));
            foreach (var (column, day) in said)
                meetings.Add(At(day, sheet.At(row, column)));
        }

        return new Timetable(meetings.ToImmutable(), refused.ToImmutable());
    }

    internal static string Plain(string name) => new([.. PlainLetters.Fold(name).Where(char.IsAsciiLetterOrDigit)]);
}
