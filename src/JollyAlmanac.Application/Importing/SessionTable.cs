using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Rosters;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Importing;

/// <summary>A table of sessions, a row each, as an iCalendar document.</summary>
/// <param name="Calendar">The document.</param>
/// <param name="Remarks">What was noticed, for people.</param>
internal sealed record SessionTable(Component Calendar, IReadOnlyList<string> Remarks)
{
    private enum Column
    {
        Date,
        EndDate,
        Start,
        End,
        Zone,
        Title,
        Place,
        Status,
        Note,
        Series,
        Description,
    }

    // What tables call their columns; a name stands for the first that has it.
    private static readonly (string Name, Column Column)[] Names =
    [
        ("date", Column.Date),
        ("day", Column.Date),
        ("start date", Column.Date),
        ("end date", Column.EndDate),
        ("last day", Column.EndDate),
        ("last date", Column.EndDate),
        ("start", Column.Start),
        ("start time", Column.Start),
        ("from", Column.Start),
        ("begins", Column.Start),
        ("end", Column.End),
        ("end time", Column.End),
        ("to", Column.End),
        ("ends", Column.End),
        ("title", Column.Title),
        ("subject", Column.Title),
        ("summary", Column.Title),
        ("name", Column.Title),
        ("event", Column.Title),
        ("place", Column.Place),
        ("location", Column.Place),
        ("room", Column.Place),
        ("where", Column.Place),
        ("venue", Column.Place),
        ("what", Column.Title),
        ("class", Column.Title),
        ("zone", Column.Zone),
        ("time zone", Column.Zone),
        ("timezone", Column.Zone),
        ("status", Column.Status),
        ("note", Column.Note),
        ("notes", Column.Note),
        ("series", Column.Series),
        ("description", Column.Description),
    ];

    // Numbers follow from the order of sessions; ours are given out, and not read.
    private static readonly string[] Numbers = ["number", "no", "no."];

    private const int MostRemarks = 50;

    private static readonly LocalTimePattern[] Times =
    [
        .. new[] { "H:mm", "H:mm:ss", "h:mm tt", "h:mmtt", "h:mm:ss tt", "h tt", "htt" }.Select(
            LocalTimePattern.CreateWithInvariantCulture
        ),
    ];

    private sealed record Row(
        int Line,
        LocalDate Day,
        LocalDate Last,
        LocalTime? Start,
        LocalTime? End,
        string Title,
        string Place,
        bool IsCancelled,
        string Note,
        string Series,
        string Description,
        DateTimeZone Zone
    );

    /// <summary>The table; null, with the reason, where it is none of sessions.</summary>
    /// <param name="bytes">The file.</param>
    /// <param name="school">The school's time: how days in figures are meant.</param>
    /// <param name="zone">Whose clock its times are by.</param>
    /// <param name="today">Where days without a year lie near.</param>
    public static (SessionTable? Table, string Refusal) Read(
        byte[] bytes,
        SchoolTime school,
        DateTimeZone zone,
        LocalDate today
    )
    {
        Table table;
        try
        {
            table = CsvTable.Read("", bytes);
        }
        catch (FormatException refusal)
        {
            return (null, refusal.Message);
        }

        var columns = new Dictionary<Column, int>();
        foreach (var (name, column) in Names)
            if (
                table.Columns.IndexOf(name, 0, table.Columns.Length, StringComparer.OrdinalIgnoreCase)
                is >= 0
                    and var at
            )
                columns.TryAdd(column, at);
        if (!columns.ContainsKey(Column.Date) || !columns.ContainsKey(Column.Title))
            return (
                null,
                "It is no calendar file, and no table of sessions: that has a first line with names of columns, Date and Title among them. Lines like “Biology MWF 8:00-8:50” go on Paste a timetable."
            );
        var remarks = new List<string>();
        // Whatever is not read is told.
        var unread = table
            .Columns.Where(
                (name, at) =>
                    name.Length > 0
                    && !columns.ContainsValue(at)
                    && table.Rows.Any(row => at < row.Fields.Length && row.Fields[at].Length > 0)
                    && !Numbers.Contains(name, StringComparer.OrdinalIgnoreCase)
            )
            .ToList();
        if (unread.Count > 0)
            remarks.Add(
                $"{(unread.Count == 1 ? "The column" : "The columns")} {Wording.List([.. unread.Take(8).Select(name => Wording.Quote(name))])} {(unread.Count == 1 ? "is" : "are")} not read."
            );
        if (table.Remark.Length > 0)
            remarks.Add(table.Remark);
        var rows = new List<Row>();
        foreach (var row in table.Rows)
        {
            if (row.Fields.All(field => field.Length == 0))
                continue;
            if (RowOf(row, columns, school, zone, today, out var reason) is { } read)
                rows.Add(read);
            else if (remarks.Count < MostRemarks)
                remarks.Add($"Row {row.Line} is left away: {reason}");
        }

        if (rows.Count == 0)
            return (null, $"No row of the table can be read.{(remarks.Count > 0 ? " " + remarks[^1] : "")}");
        var calendar = new Component("VCALENDAR");
        foreach (var same in rows.GroupBy(row => (Name: row.Series.Length > 0 ? row.Series : row.Title, row.Zone)))
            AddSeries(
                calendar,
                same.Key.Name,
                same.Key.Zone.Equals(zone) ? same.Key.Name : $"{same.Key.Name} {same.Key.Zone.Id}",
                [.. same],
                same.Key.Zone,
                remarks
            );
        return (new SessionTable(calendar, remarks), "");
    }

    private static Row? RowOf(
        TableRow row,
        Dictionary<Column, int> columns,
        SchoolTime school,
        DateTimeZone zone,
        LocalDate today,
        out string reason
    )
    {
        string Field(Column column) =>
            columns.TryGetValue(column, out var at) && at < row.Fields.Length ? Unmarked(row.Fields[at].Trim()) : "";
        LocalDate? Day(string text) =>
            QuickEntry.Days(text, school, today) is ({ Length: 1 } spans, null) && spans[0].Length == 1
                ? spans[0].First
                : null;
        LocalTime? Time(string text) =>
            Times.Select(pattern => pattern.Parse(text.ToUpperInvariant())).FirstOrDefault(one => one.Success)?.Value;
        reason = "";
        var (day, start, end) = (Day(Field(Column.Date)), Time(Field(Column.Start)), Time(Field(Column.End)));
        var last = Field(Column.EndDate).Length > 0 ? Day(Field(Column.EndDate)) : day;
        if (day is null)
            reason = $"{Wording.Quote(Field(Column.Date))} is no day.";
        else if (last is null || last < day)
            reason = $"{Wording.Quote(Field(Column.EndDate))} is no last day after {Wording.WithYear(day.Value)}.";
        else if (Field(Column.Start).Length > 0 && start is null)
            reason = $"{Wording.Quote(Field(Column.Start))} is no time.";
        else if (Field(Column.End).Length > 0 && end is null)
            reason = $"{Wording.Quote(Field(Column.End))} is no time.";
        else if (start is null != end is null)
            reason = "It has a start or an end alone. Give both, or neither for the whole day.";
        else if (start is not null && day == last && end <= start)
            reason = "It ends before it begins.";
        else if (Field(Column.Zone).Length > 0 && DateTimeZoneProviders.Tzdb.GetZoneOrNull(Field(Column.Zone)) is null)
            reason = $"{Wording.Quote(Field(Column.Zone))} is no zone. Write it like America/Halifax.";
        else if (Field(Column.Title).Length == 0 && Field(Column.Series).Length == 0)
            reason = "It has no title.";
        if (reason.Length > 0)
            return null;
        return new Row(
            row.Line,
            day!.Value,
            last!.Value,
            start,
            end,
            Field(Column.Title) is { Length: > 0 } title ? title : Field(Column.Series),
            Field(Column.Place),
            Field(Column.Status).StartsWith("cancel", StringComparison.OrdinalIgnoreCase),
            Field(Column.Note),
            Field(Column.Series),
            Field(Column.Description),
            Field(Column.Zone) is { Length: > 0 } named ? DateTimeZoneProviders.Tzdb[named] : zone
        );
    }

    // What we write as text for a spreadsheet, since it would run it as a formula, is read as what it was.
    private static string Unmarked(string field) => field is ['\'', '=' or '+' or '-' or '@', ..] ? field[1..] : field;

    private static void AddSeries(
        Component calendar,
        string name,
        string known,
        List<Row> rows,
        DateTimeZone zone,
        List<string> remarks
    )
    {
        rows.Sort((one, other) => (one.Day, one.Start).CompareTo((other.Day, other.Start)));
        var first = rows[0];
        // Known again by its name, whatever becomes of its days.
        var uid = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(known)))[..32] + "@table";
        var whole = new Component("VEVENT") { Number = first.Line };
        whole.Add("UID", uid);
        whole.Add("SUMMARY", ContentLine.Text(name));
        whole.Add("LOCATION", ContentLine.Text(first.Place));
        if (first.Description.Length > 0)
            whole.Add("DESCRIPTION", ContentLine.Text(first.Description));
        SetTimes(whole, first, zone);
        var used = new HashSet<string>(StringComparer.Ordinal);
        var ids = new List<(Row Row, string Id)>();
        foreach (var row in rows)
        {
            var id = Moment(row.Day, row.Start);
            if (used.Add(id))
                ids.Add((row, id));
            else if (remarks.Count < MostRemarks)
                remarks.Add($"Row {row.Line} is left away: another row has {Wording.Quote(name)} at the same time.");
        }

        if (ids.Count > 1)
            whole.Add("RDATE", string.Join(',', ids.Select(one => one.Id)), FormOf(first, zone));
        calendar.Add(whole);
        foreach (var (row, id) in ids)
        {
            var isPlain =
                row.Title == name
                && row.Place == first.Place
                && row.Note.Length == 0
                && !row.IsCancelled
                && row.Start is null == first.Start is null
                && LengthOf(row, zone) == LengthOf(first, zone);
            if (isPlain)
                continue;
            var own = new Component("VEVENT") { Number = row.Line };
            own.Add("UID", uid);
            own.Add("RECURRENCE-ID", id, FormOf(row, zone));
            own.Add("SUMMARY", ContentLine.Text(row.Title));
            own.Add("LOCATION", ContentLine.Text(row.Place));
            if (row.Note.Length > 0)
                own.Add("DESCRIPTION", ContentLine.Text(row.Note));
            if (row.IsCancelled)
                own.Add("STATUS", "CANCELLED");
            SetTimes(own, row, zone);
            calendar.Add(own);
        }
    }

    // Exact, as the length of all sessions is that of the first (RFC 5545 §3.8.5.3): across a change of the clocks another.
    private static Duration LengthOf(Row row, DateTimeZone zone) =>
        row.Start is { } start && row.End is { } end
            ? (row.Last + end).InZoneLeniently(zone).ToInstant() - (row.Day + start).InZoneLeniently(zone).ToInstant()
            : Duration.FromDays(Period.DaysBetween(row.Day, row.Last));

    private static void SetTimes(Component part, Row row, DateTimeZone zone)
    {
        part.Add("DTSTART", Moment(row.Day, row.Start), FormOf(row, zone));
        part.Add(
            "DTEND",
            row.Start is null ? Moment(row.Last.PlusDays(1), null) : Moment(row.Last, row.End),
            FormOf(row, zone)
        );
    }

    private static (string, string) FormOf(Row row, DateTimeZone zone) =>
        row.Start is null ? ("VALUE", "DATE") : ("TZID", zone.Id);

    private static string Moment(LocalDate day, LocalTime? time) =>
        day.ToString("uuuuMMdd", CultureInfo.InvariantCulture)
        + (time is { } at ? at.ToString("'T'HHmmss", CultureInfo.InvariantCulture) : "");
}
