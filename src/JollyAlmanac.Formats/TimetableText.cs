namespace JollyAlmanac.Formats;

/// <summary>
/// A pasted timetable as lines of quick entry: plain lines as they are; CSV, known by a head line that names its columns,
/// with each row put into words ("Title,Days,Start,End" and "Choir,MWF,8:00,8:50" become "“Choir” MWF 8:00-8:50").
/// </summary>
public static class TimetableText
{
    private static readonly Dictionary<string, string> Columns = new(StringComparer.OrdinalIgnoreCase)
    {
        ["title"] = "title",
        ["class"] = "title",
        ["course"] = "title",
        ["name"] = "title",
        ["subject"] = "title",
        ["days"] = "days",
        ["day"] = "days",
        ["weekdays"] = "days",
        ["weekday"] = "days",
        ["pattern"] = "days",
        ["start"] = "start",
        ["starts"] = "start",
        ["start time"] = "start",
        ["end"] = "end",
        ["ends"] = "end",
        ["end time"] = "end",
        ["time"] = "time",
        ["times"] = "time",
        ["period"] = "period",
        ["from"] = "from",
        ["first day"] = "from",
        ["start date"] = "from",
        ["until"] = "until",
        ["to"] = "until",
        ["last day"] = "until",
        ["end date"] = "until",
        ["sessions"] = "sessions",
        ["count"] = "sessions",
        ["room"] = "room",
        ["place"] = "room",
        ["link"] = "link",
        ["join link"] = "link",
    };

    private static readonly char[] Separators = [',', ';', '\t'];

    /// <summary>The lines.</summary>
    public static IReadOnlyList<string> Lines(string text)
    {
        text = text.TrimStart('\uFEFF').ReplaceLineEndings("\n");
        var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length < 2)
            return lines;
        var separator = Separators.MaxBy(one => lines[0].Split(one).Length)!;
        var head = lines[0]
            .Split(separator)
            .Select(name => Columns.GetValueOrDefault(name.Trim(' ', '"', '\uFEFF')))
            .ToList();
        if (head.Count < 2 || !head.Contains("title") || head.Count(name => name is not null) < 2)
            return lines;
        return [.. CsvTable.Rows(text, separator).Skip(1).Select(row => InWords(head, row))];
    }

    private static string InWords(List<string?> head, IReadOnlyList<string> fields)
    {
        var row = new Dictionary<string, string>();
        for (var at = 0; at < Math.Min(head.Count, fields.Count); at++)
            if (head[at] is { } name && fields[at].Trim() is { Length: > 0 } value)
                row.TryAdd(name, value);
        var words = new List<string>();
        if (row.TryGetValue("title", out var title))
            words.Add($"“{title.Replace('"', ' ')}”");
        if (row.TryGetValue("days", out var days))
            words.Add(days);
        if (row.TryGetValue("start", out var start))
            words.Add(row.TryGetValue("end", out var end) ? $"{start}-{end}" : start);
        if (row.TryGetValue("time", out var time))
            words.Add(time);
        if (row.TryGetValue("period", out var period))
            words.Add($"p{period.TrimStart('p', 'P', ' ')}");
        if (row.TryGetValue("from", out var from))
            words.Add($"from {from}");
        if (row.TryGetValue("until", out var until))
            words.Add($"until {until}");
        if (row.TryGetValue("sessions", out var sessions))
            words.Add($"{sessions} sessions");
        if (row.TryGetValue("room", out var room))
            words.Add(
                room.StartsWith("room ", StringComparison.OrdinalIgnoreCase)
                || room.Contains(' ', StringComparison.Ordinal)
                    ? $"@{room}@"
                    : $"room {room}"
            );
        if (row.TryGetValue("link", out var link))
            words.Add(link);
        return string.Join(' ', words);
    }
}
