using System.Collections.Immutable;
using System.Text.RegularExpressions;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Rosters;
using NodaTime;

namespace JollyAlmanac.Core.Timetables;

/// <summary>
/// Reads timetables that are drawn as a grid: days across and periods down, or the other way; a block for each class, teacher or room,
/// with its name above or as the sheet's; in each cell a class, with its teacher and room on lines of their own or parted by a mark.
/// Merged cells are one meeting over several periods or days.
/// </summary>
/// <param name="isTeacher">Knows the teachers of the school, by whatever they are written as.</param>
public sealed partial class TimetableGrid(Func<string, bool> isTeacher)
{
    private enum Owner
    {
        None,
        Class,
        Teacher,
        Room,
    }

    private sealed record Block(
        int Head,
        int End,
        int Label,
        ImmutableArray<(int Column, string Day)> Days,
        string Title
    );

    /// <summary>A grid: a line of three days at least, with periods or times beside it.</summary>
    public static bool IsGrid(Sheet sheet) => Blocks(sheet).Count > 0 || Blocks(Turned(sheet)).Count > 0;

    /// <summary>Reads the blocks of a sheet.</summary>
    /// <returns>The meetings; rows whose label is no period and no time are refused where classes stand in them.</returns>
    public Timetable Read(Sheet sheet)
    {
        var read = sheet;
        var blocks = Blocks(sheet);
        var isTurned = blocks.Count == 0;
        if (isTurned)
            blocks = Blocks(read = Turned(sheet));
        var meetings = ImmutableArray.CreateBuilder<Meeting>();
        var refused = ImmutableArray.CreateBuilder<RefusedLine>();
        foreach (var block in blocks)
        {
            var (title, week) = WeekIn(block.Title.Length > 0 ? block.Title : sheet.Name);
            if (week.Length == 0)
                week = WeekIn(sheet.Name).Week;
            var (owner, name) = OwnerOf(title);
            for (var row = block.Head + 1; row < block.End; row++)
            {
                var label = string.Join(
                        ' ',
                        Enumerable.Range(block.Label, block.Days[0].Column - block.Label).Select(at => read.At(row, at))
                    )
                    .ReplaceLineEndings(" ")
                    .Trim();
                foreach (var (column, day) in block.Days)
                {
                    var text = read.At(row, column);
                    if (text.Length == 0 || IsFree(text))
                        continue;
                    var line = isTurned ? column + 1 : row + 1;
                    var over = read.Merged.FirstOrDefault(one => one.FirstRow == row && one.FirstColumn == column);
                    var last = over is null ? row : Math.Min(over.LastRow, block.End - 1);
                    var (periods, clock) = TimeOf(label);
                    if (periods.Length == 0 && clock.Length == 0)
                    {
                        if (label.Length > 0)
                            refused.Add(
                                new RefusedLine(
                                    sheet.Called,
                                    line,
                                    $"{Wording.Quote(label)} is neither a period nor a time, so {Wording.Quote(FirstLine(text))} is left out."
                                )
                            );
                        continue;
                    }
                    if (last > row)
                        (periods, clock) = Joined(
                            (periods, clock),
                            TimeOf(
                                string.Join(
                                    ' ',
                                    Enumerable
                                        .Range(block.Label, block.Days[0].Column - block.Label)
                                        .Select(at => read.At(last, at))
                                )
                            )
                        );
                    var days = over is null
                        ? [day]
                        : block
                            .Days.Where(one => over.FirstColumn <= one.Column && one.Column <= over.LastColumn)
                            .Select(one => one.Day)
                            .ToList();
                    meetings.AddRange(
                        days.Select(one =>
                            Cell(
                                text,
                                owner,
                                name,
                                new MeetingTimes(one, periods, clock) { Week = week },
                                sheet.Called,
                                line
                            )
                        )
                    );
                }
            }
        }

        return new Timetable(meetings.ToImmutable(), refused.ToImmutable());
    }

    private Meeting Cell(string text, Owner owner, string name, MeetingTimes times, string file, int line)
    {
        var parts = PartsOf(text);
        var (room, link) = (owner == Owner.Room ? name : "", "");
        var teachers = owner == Owner.Teacher ? [name] : ImmutableArray.CreateBuilder<string>().ToImmutable();
        var title = "";
        foreach (var (at, part) in parts.Index())
        {
            if (part.StartsWith("http", StringComparison.OrdinalIgnoreCase))
                link = part;
            // What a cell of a class's own grid begins with may be the room or the teacher alone.
            else if (
                at == 0
                && !(owner == Owner.Class && parts.Count < 3 && (isTeacher(part) || RoomWord().IsMatch(part)))
            )
                title = part;
            else if (isTeacher(part))
                teachers = teachers.Add(part);
            else if (RoomWord().IsMatch(part) || RoomNumber().IsMatch(part))
                room = room.Length > 0 ? room : part;
            else if (TeacherWord().IsMatch(part) || TeacherCode().IsMatch(part))
                teachers = teachers.Add(part);
            else if (room.Length == 0)
                room = part;
            else
                teachers = teachers.Add(part);
        }

        if (owner == Owner.Class)
            title =
                title.Length == 0 || title is "x" or "X" || IsWithin(title, name) ? name
                : IsWithin(name, title) ? title
                : TimetableTable.Titled(title, name);
        return new Meeting(title, times, file, line)
        {
            Teachers = teachers,
            Room = room,
            Link = link,
        };
    }

    private static bool IsWithin(string words, string text) =>
        $" {PlainLetters.Fold(text)} ".Contains($" {PlainLetters.Fold(words)} ", StringComparison.Ordinal);

    // Lines of their own; else what a mark parts: "Knots 7 / Room 4 / OM", "Knots 7 (Room 4)".
    private static List<string> PartsOf(string text)
    {
        var lines = text.ReplaceLineEndings("\n")
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return
        [
            .. (
                lines.Length > 1
                    ? lines
                    : PartMark()
                        .Split(text)
                        .Select(part => part.Trim(' ', '(', ')', ',', ';'))
                        .Where(part => part.Length > 0)
            ),
        ];
    }

    private (Owner Owner, string Name) OwnerOf(string title)
    {
        title = title.Trim();
        if (Prefixed().Match(title) is { Success: true } prefixed)
            return (
                prefixed.Groups["kind"].Value.ToLowerInvariant() switch
                {
                    "teacher" or "staff" or "instructor" => Owner.Teacher,
                    "room" => Owner.Room,
                    _ => Owner.Class,
                },
                prefixed.Groups["kind"].Value.Equals("room", StringComparison.OrdinalIgnoreCase)
                    ? title.Replace(":", "", StringComparison.Ordinal)
                    : prefixed.Groups["name"].Value.Trim()
            );
        return title.Length == 0 || Generic().IsMatch(title) ? (Owner.None, "")
            : isTeacher(title) || TeacherWord().IsMatch(title) ? (Owner.Teacher, title)
            : FormName().IsMatch(title) ? (Owner.Class, title)
            : RoomWord().IsMatch(title) || RoomNumber().IsMatch(title) ? (Owner.Room, title)
            : (Owner.Class, title);
    }

    private static (string Title, string Week) WeekIn(string title) =>
        AbWeek().Match(title) is { Success: true } week
            ? (
                title.Remove(week.Index, week.Length).Trim(' ', ',', '-', '–', '(', ')', ':'),
                (week.Groups["w"].Success ? week.Groups["w"] : week.Groups["v"]).Value.ToUpperInvariant()
            )
            : (title, "");

    private static (string Periods, string Clock) TimeOf(string label)
    {
        if (ClockRange().Match(label) is { Success: true } range)
        {
            var named = label.Remove(range.Index, range.Length).Trim(' ', '(', ')', ',', ':', '-', '–');
            var periods = PeriodName().Match(named) is { Success: true } period ? period.Groups["name"].Value : "";
            return (periods, $"{range.Groups["from"].Value}-{range.Groups["to"].Value}");
        }

        return PeriodName().Match(label) is { Success: true } alone ? (alone.Groups["name"].Value, "") : ("", "");
    }

    private static (string Periods, string Clock) Joined(
        (string Periods, string Clock) first,
        (string Periods, string Clock) last
    ) =>
        (
            first.Periods.Length > 0 && last.Periods.Length > 0 ? $"{first.Periods}-{last.Periods}" : "",
            first.Clock.Length > 0 && last.Clock.Length > 0
                ? $"{first.Clock.Split('-')[0]}-{last.Clock.Split('-')[^1]}"
                : ""
        );

    private static string FirstLine(string text) => text.ReplaceLineEndings("\n").Split('\n')[0];

    private static bool IsFree(string text) => Free().IsMatch(text.Trim());

    private static List<Block> Blocks(Sheet sheet)
    {
        if (sheet.Rows.Length > MostRows)
            return [];
        var heads = new List<(int Row, ImmutableArray<(int Column, string Day)> Days)>();
        for (var row = 0; row < sheet.Rows.Length; row++)
        {
            var days = DaysAcross(sheet, row);
            if (days.Length >= 3 && days[0].Column > 0)
                heads.Add((row, days));
        }

        var blocks = new List<Block>();
        foreach (var (at, (row, days)) in heads.Index())
        {
            var end = at + 1 < heads.Count ? heads[at + 1].Row : sheet.Rows.Length;
            var label = days[0].Column - 1;
            // The periods stand next to the days, and may take two columns: the name, and the times.
            while (
                label > 0
                && Enumerable.Range(row + 1, Math.Max(0, end - row - 1)).Any(one => sheet.At(one, label - 1).Length > 0)
            )
                label--;
            var named = Enumerable
                .Range(row + 1, Math.Max(0, end - row - 1))
                .Count(one =>
                    TimeOf(
                        string.Join(' ', Enumerable.Range(label, days[0].Column - label).Select(c => sheet.At(one, c)))
                    )
                        is not
                        ("", "")
                );
            if (named < 2)
                continue;
            // What stands above it: in the row itself, or in the rows since the block before.
            var above = at > 0 ? heads[at - 1].Row : -1;
            var title = "";
            for (var one = row; one > above && title.Length == 0; one--)
            for (var c = 0; c < (one == row ? days[0].Column : sheet.Rows[one].Length) && title.Length == 0; c++)
                if (
                    sheet.At(one, c) is { Length: > 0 } text
                    && !Corner().IsMatch(text)
                    && (one == row || at == 0 || TimeOf(RowLabel(sheet, one, days[0].Column)) is ("", ""))
                )
                    title = text;
            blocks.Add(new Block(row, TitleRow(sheet, row, end, days, at + 1 < heads.Count), label, days, title));
        }

        return blocks;
    }

    private static string RowLabel(Sheet sheet, int row, int before) =>
        string.Join(' ', Enumerable.Range(0, before).Select(column => sheet.At(row, column))).Trim();

    // The title of the next block is no row of this one.
    private static int TitleRow(
        Sheet sheet,
        int head,
        int end,
        ImmutableArray<(int Column, string Day)> days,
        bool hasNext
    )
    {
        if (!hasNext)
            return end;
        while (
            end - 1 > head
            && TimeOf(RowLabel(sheet, end - 1, days[0].Column)) is ("", "")
            && !Pause().IsMatch(RowLabel(sheet, end - 1, days[0].Column))
        )
            end--;
        return end;
    }

    private static ImmutableArray<(int Column, string Day)> DaysAcross(Sheet sheet, int row)
    {
        var days = ImmutableArray.CreateBuilder<(int, string)>();
        for (var column = 0; column < sheet.Rows[row].Length; column++)
        {
            var text = FirstLine(sheet.At(row, column)).Trim();
            if (Words.Weekday(TimetableTable.Plain(text)) is not IsoDayOfWeek.None and var day)
                days.Add((column, day.ToString()));
            else if (CycleDay().IsMatch(text))
                days.Add((column, text));
        }

        return days.ToImmutable();
    }

    private static Sheet Turned(Sheet sheet) =>
        sheet with
        {
            Rows =
            [
                .. Enumerable
                    .Range(0, Math.Min(sheet.Width, MostTurned))
                    .Select(column =>
                        Enumerable
                            .Range(0, Math.Min(sheet.Rows.Length, MostTurned))
                            .Select(row => sheet.At(row, column))
                            .ToImmutableArray()
                    ),
            ],
            Merged =
            [
                .. sheet.Merged.Select(one => new MergedCells(
                    one.FirstColumn,
                    one.LastColumn,
                    one.FirstRow,
                    one.LastRow
                )),
            ],
        };

    // A grid that is turned has its days down: no sheet of people has so few rows.
    private const int MostTurned = 400;

    // A grid of every class of a large school is some thousand rows; what has more is a table.
    private const int MostRows = 10_000;

    [GeneratedRegex(@"\s+/\s+|\s*\|\s*|\s*·\s*|\s*;\s*|\s*,\s+|\s+[–—-]\s+|\s*\(|\)\s*")]
    private static partial Regex PartMark();

    [GeneratedRegex(
        @"\b(room|rm|lab|laboratory|hall|gym|gymnasium|studio|library|workshop|theatre|theater|auditorium|field|pool|deck|online)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex RoomWord();

    [GeneratedRegex(@"^[A-Z]{0,2}[- ]?\d{1,4}[a-z]?$")]
    private static partial Regex RoomNumber();

    [GeneratedRegex(@"^(mr|mrs|ms|miss|mx|dr|prof)\b\.?", RegexOptions.IgnoreCase)]
    private static partial Regex TeacherWord();

    [GeneratedRegex(@"^[A-Z]{2,4}$")]
    private static partial Regex TeacherCode();

    [GeneratedRegex(
        @"^(?<kind>class|form|group|teacher|staff|instructor|room)\s*[:–-]?\s+(?<name>.+)$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Prefixed();

    [GeneratedRegex(
        @"^(sheet ?\d*|time ?table.*|schedule.*|weekly.*|autumn.*|spring.*|winter.*|summer.*|fall.*|term.*|semester.*|\d{4}.*)$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Generic();

    [GeneratedRegex(@"^((grade|year|form|class)\s*)?\d{1,2}\s?[A-Za-z]?$", RegexOptions.IgnoreCase)]
    private static partial Regex FormName();

    [GeneratedRegex(@"\bweek\s*(?<w>[AB])\b|\b(?<v>[AB])[\s-]*week\b", RegexOptions.IgnoreCase)]
    private static partial Regex AbWeek();

    [GeneratedRegex(
        @"(?<from>\d{1,2}[:.h]\d{2}(\s*[ap]\.?m\.?)?)\s*(-|–|—|to)\s*(?<to>\d{1,2}[:.h]\d{2}(\s*[ap]\.?m\.?)?)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex ClockRange();

    [GeneratedRegex(
        @"^(period|per|pd|p|block|slot|lesson|hour)?\.?\s*(?<name>\d{1,2}|[A-Za-z])(st|nd|rd|th)?\.?(\s*(period|block|lesson|hour))?$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PeriodName();

    [GeneratedRegex(@"^(day\s*\d{1,2}|day\s*[A-H]|[A-H]\s*day)$", RegexOptions.IgnoreCase)]
    private static partial Regex CycleDay();

    [GeneratedRegex(
        @"^(periods?|times?|days?|hours?|blocks?|slots?|lessons?|#|no\.?|time ?/ ?day|day ?/ ?time|period ?/ ?day|bells?)$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Corner();

    [GeneratedRegex(
        @"^([-–—.·]*|free|off|n/?a|lunch( break)?|break|recess|interval|dinner|dismissal)$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Free();

    [GeneratedRegex(@"\b(lunch|break|recess|interval|midday|dinner|dismissal)\b", RegexOptions.IgnoreCase)]
    private static partial Regex Pause();
}
