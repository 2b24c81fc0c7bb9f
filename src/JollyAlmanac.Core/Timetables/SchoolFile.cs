using JollyAlmanac.Core.Rosters;

namespace JollyAlmanac.Core.Timetables;

/// <summary>What a file of a school tells.</summary>
public enum SchoolFileKind
{
    /// <summary>Nothing that is known.</summary>
    Unknown,

    /// <summary>People and classes, as OneRoster has them.</summary>
    Roster,

    /// <summary>A table of people.</summary>
    People,

    /// <summary>A timetable with a row for each meeting or class.</summary>
    Timetable,

    /// <summary>A timetable drawn as a grid.</summary>
    Grid,

    /// <summary>Days without class, as a list.</summary>
    NoClassDays,

    /// <summary>Days without class, as a calendar file.</summary>
    Calendar,

    /// <summary>The bells.</summary>
    Bells,

    /// <summary>Addresses of online rooms.</summary>
    Rooms,
}

/// <summary>A file of a school, or a sheet of one, as it was recognised.</summary>
/// <param name="Name">What people call it.</param>
/// <param name="Kind">What it tells.</param>
/// <param name="Sheet">Its cells, where it is a sheet.</param>
/// <param name="Tables">Its tables by their names, where it is a roster or a table of people.</param>
/// <param name="Text">Its text, where it is a list or a calendar file.</param>
public sealed record SchoolFile(
    string Name,
    SchoolFileKind Kind,
    Sheet? Sheet = null,
    IReadOnlyDictionary<string, Table>? Tables = null,
    string Text = ""
)
{
    /// <summary>What a sheet tells, by what is in it.</summary>
    public static SchoolFileKind KindOf(Sheet sheet)
    {
        if (TimetableTable.IsTimetable(sheet))
            return SchoolFileKind.Timetable;
        if (TimetableGrid.IsGrid(sheet))
            return SchoolFileKind.Grid;
        if (TimetableTable.IsRooms(sheet))
            return SchoolFileKind.Rooms;
        if (sheet.Rows.Take(3).Any(row => PeopleTable.Match(row).ContainsKey(PeopleColumn.Email)))
            return SchoolFileKind.People;
        var (head, columns) = TimetableTable.Head(sheet);
        if (head < 0)
            return SchoolFileKind.Unknown;
        if (
            (columns.ContainsKey(SchoolColumn.Period) || columns.ContainsKey(SchoolColumn.Name))
            && (
                columns.ContainsKey(SchoolColumn.Start) && columns.ContainsKey(SchoolColumn.End)
                || columns.ContainsKey(SchoolColumn.Time)
            )
        )
            return SchoolFileKind.Bells;
        return
            columns.ContainsKey(SchoolColumn.From)
            && (columns.ContainsKey(SchoolColumn.Name) || columns.ContainsKey(SchoolColumn.Class))
            ? SchoolFileKind.NoClassDays
            : SchoolFileKind.Unknown;
    }

    /// <summary>The lines of a list that a table is: the cells of each row below its head, its days before its name.</summary>
    public static IEnumerable<string> LinesOf(Sheet sheet)
    {
        var (head, columns) = TimetableTable.Head(sheet);
        for (var row = head + 1; row < sheet.Rows.Length; row++)
        {
            string Of(SchoolColumn column) => columns.TryGetValue(column, out var at) ? sheet.At(row, at) : "";
            var (first, last) = (Of(SchoolColumn.From), Of(SchoolColumn.Until));
            var name = Of(SchoolColumn.Name) is { Length: > 0 } written ? written : Of(SchoolColumn.Class);
            if (first.Length > 0)
                yield return $"{first}{(last.Length > 0 && last != first ? $" to {last}" : "")} {name}";
        }
    }

    /// <summary>The lines of bells that a table is: "1 8:00-8:50".</summary>
    public static IEnumerable<string> BellsOf(Sheet sheet)
    {
        var (head, columns) = TimetableTable.Head(sheet);
        for (var row = head + 1; row < sheet.Rows.Length; row++)
        {
            string Of(SchoolColumn column) => columns.TryGetValue(column, out var at) ? sheet.At(row, at) : "";
            var time = Of(SchoolColumn.Time) is { Length: > 0 } both
                ? both
                : $"{Of(SchoolColumn.Start)}-{Of(SchoolColumn.End)}";
            var name = Of(SchoolColumn.Period) is { Length: > 0 } period ? period : Of(SchoolColumn.Name);
            if (name.Length > 0 && time.Length > 1)
                yield return $"{name} {time.Replace(":00-", "-", StringComparison.Ordinal)}";
        }
    }
}
