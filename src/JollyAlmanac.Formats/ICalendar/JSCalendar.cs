using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// The events of an iCalendar document as JSCalendar (RFC 8984): a group of events, changed sessions as patches of theirs.
/// </summary>
public static class JSCalendar
{
    /// <summary>Its media type, for a group (RFC 8984 §3.2.1).</summary>
    public const string MediaType = "application/jscalendar+json;type=group";

    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static readonly Dictionary<string, string> RuleNames = new()
    {
        ["INTERVAL"] = "interval",
        ["COUNT"] = "count",
        ["BYMONTHDAY"] = "byMonthDay",
        ["BYYEARDAY"] = "byYearDay",
        ["BYWEEKNO"] = "byWeekNo",
        ["BYHOUR"] = "byHour",
        ["BYMINUTE"] = "byMinute",
        ["BYSECOND"] = "bySecond",
        ["BYSETPOS"] = "bySetPosition",
    };

    /// <summary>The document in UTF-8.</summary>
    /// <param name="document">A VCALENDAR; its events and tasks are told.</param>
    /// <param name="uid">A UID for the group, which iCalendar has none for.</param>
    public static byte[] Of(Component document, string uid)
    {
        var zones = new FileZones(document);
        var entries = new JsonArray();
        foreach (
            var same in document
                .Parts.Where(part => part.Name == "VEVENT")
                .GroupBy(part => part.Find("UID")?.Value ?? "")
        )
        {
            var master = same.FirstOrDefault(part => part.Find("RECURRENCE-ID") is null) ?? same.First();
            entries.Add((JsonNode)Event(master, [.. same.Where(part => part != master)], zones));
        }

        // RFC 8984 §5.2: what a feed's tasks say is a title, by when, and where more stands.
        foreach (var part in document.Parts.Where(part => part.Name == "VTODO"))
        {
            var task = new JsonObject { ["@type"] = "Task" };
            foreach (var (name, value) in Told(part, zones))
                task[name] = value?.DeepClone();
            if (TimeOf(part.Find("DUE"), zones) is { } due)
            {
                task["due"] = Local(due.Time);
                if (due.IsDate)
                    task["showWithoutTime"] = true;
                if (due.Zone is { } zone)
                    task["timeZone"] = zone == DateTimeZone.Utc ? "Etc/UTC" : zone.Id;
            }

            // Its address is where more stands, not where anybody meets.
            task.Remove("virtualLocations");
            if (part.Find("URL") is { } page)
                task["links"] = new JsonObject
                {
                    ["1"] = new JsonObject { ["@type"] = "Link", ["href"] = page.Value },
                };
            entries.Add((JsonNode)task);
        }

        var group = new JsonObject { ["@type"] = "Group", ["uid"] = uid };
        Set(group, "prodId", TextOf(document, "PRODID"));
        Set(group, "title", TextOf(document, "NAME"));
        Set(group, "description", TextOf(document, "DESCRIPTION"));
        Set(group, "color", document.Find("COLOR")?.Value);
        Set(group, "updated", Utc(document.Find("LAST-MODIFIED")));
        group["entries"] = entries;
        return Encoding.UTF8.GetBytes(group.ToJsonString(Plain));
    }

    private static JsonObject Event(Component master, IReadOnlyList<Component> changed, FileZones zones)
    {
        var told = Told(master, zones);
        var start = TimeOf(master.Find("DTSTART"), zones);
        var single = new JsonObject { ["@type"] = "Event" };
        foreach (var name in told.Select(one => one.Key).ToList())
            single[name] = told[name]!.DeepClone();
        if (master.Find("RRULE") is { } rule && start is { } begins)
            single["recurrenceRules"] = new JsonArray(Rule(rule.Value, begins));
        var overrides = new SortedDictionary<string, JsonObject>(StringComparer.Ordinal);
        foreach (var line in master.Lines.Where(line => line.Name is "RDATE" or "EXDATE"))
        foreach (var value in ICalendarValues.List(line))
            if (
                ICalendarValues.Time(value.Split('/')[0], Zone(line, zones)) is { } time
                && Key(time, start) is var key
                && (line.Name == "EXDATE" || key != Key(start!.Value, start))
            )
                overrides[key] = line.Name == "EXDATE" ? new JsonObject { ["excluded"] = true } : [];
        foreach (var part in changed)
            if (TimeOf(part.Find("RECURRENCE-ID"), zones) is { } id)
                overrides[Key(id, start)] = Patch(told, Told(part, zones), Key(id, start));
        if (overrides.Count > 0)
            single["recurrenceOverrides"] = new JsonObject(
                overrides.Select(one => KeyValuePair.Create(one.Key, (JsonNode?)one.Value))
            );
        return single;
    }

    // What a changed session says otherwise; null takes a thing away (§1.4.9). What cannot be another is left out (§4.3.5).
    private static JsonObject Patch(JsonObject told, JsonObject other, string key)
    {
        var patch = new JsonObject();
        foreach (
            var name in told.Concat(other)
                .Select(one => one.Key)
                .Distinct()
                .Except(["uid", "created", "updated", "sequence", "relatedTo"])
        )
        {
            // Without a patch a session starts where its key says.
            var usual = name == "start" ? JsonValue.Create(key) : told[name];
            if (!JsonNode.DeepEquals(usual, other[name]))
                patch[name] = other[name]?.DeepClone();
        }

        return patch;
    }

    private static JsonObject Told(Component part, FileZones zones)
    {
        var told = new JsonObject();
        Set(told, "uid", TextOf(part, "UID"));
        Set(told, "created", Utc(part.Find("CREATED")));
        Set(told, "updated", Utc(part.Find("LAST-MODIFIED") ?? part.Find("DTSTAMP")));
        if (int.TryParse(part.Find("SEQUENCE")?.Value, CultureInfo.InvariantCulture, out var sequence) && sequence > 0)
            told["sequence"] = sequence;
        Set(told, "title", TextOf(part, "SUMMARY"));
        Set(told, "description", TextOf(part, "DESCRIPTION"));
        Set(told, "color", part.Find("COLOR")?.Value);
        if (part.Find("TRANSP")?.Value == "TRANSPARENT")
            told["freeBusyStatus"] = "free";
        if (TimeOf(part.Find("DTSTART"), zones) is { } start)
        {
            told["start"] = Local(start.Time);
            if (start.IsDate)
                told["showWithoutTime"] = true;
            if (start.Zone is { } zone)
                told["timeZone"] = zone == DateTimeZone.Utc ? "Etc/UTC" : zone.Id;
            told["duration"] = Length(part, start, zones);
        }

        if (part.Find("STATUS")?.Value.ToLowerInvariant() is { } status and ("cancelled" or "tentative"))
            told["status"] = status;
        if (part.Find("CLASS")?.Value == "PRIVATE")
            told["privacy"] = "private";
        if (TextOf(part, "LOCATION") is { } place)
            told["locations"] = new JsonObject
            {
                ["1"] = new JsonObject { ["@type"] = "Location", ["name"] = place },
            };
        if (part.Find("URL") is { } url)
            told["virtualLocations"] = new JsonObject
            {
                ["1"] = new JsonObject { ["@type"] = "VirtualLocation", ["uri"] = url.Value },
            };
        var links = new JsonObject();
        foreach (var line in part.Lines.Where(line => line.Name == "ATTACH"))
        {
            var link = new JsonObject
            {
                ["@type"] = "Link",
                ["href"] = line.Value,
                ["rel"] = "enclosure",
            };
            Set(link, "contentType", line.Parameter("FMTTYPE"));
            links[(links.Count + 1).ToString(CultureInfo.InvariantCulture)] = link;
        }

        if (links.Count > 0)
            told["links"] = links;
        if (part.Find("CATEGORIES") is { } categories)
            told["keywords"] = new JsonObject(
                JCal.TextList(categories.Value)
                    .Distinct()
                    .Select(word => KeyValuePair.Create(word, (JsonNode?)JsonValue.Create(true)))
            );
        if (TextOf(part, "RELATED-TO") is { } before)
            told["relatedTo"] = new JsonObject
            {
                [before] = new JsonObject { ["@type"] = "Relation", ["relation"] = new JsonObject() },
            };
        return told;
    }

    private static string Length(Component part, FileTime start, FileZones zones)
    {
        if (part.Find("DURATION") is { } length)
            return length.Value;
        if (TimeOf(part.Find("DTEND"), zones) is not { } end)
            return start.IsDate ? "P1D" : "PT0S";
        if (start.IsDate)
            return $"P{Period.DaysBetween(start.Time.Date, end.Time.Date)}D";
        // Days are nominal, hours exact (RFC 8984 §1.4.6): whole days by the clock first, then what is left.
        var zone = start.Zone ?? DateTimeZone.Utc;
        var until = end.At.InZone(zone).LocalDateTime;
        var days = Math.Max(0, Period.Between(start.Time, until, PeriodUnits.Days).Days);
        while (days > 0 && (start.Time.PlusDays(days).InZoneLeniently(zone).ToInstant() > end.At))
            days--;
        var rest = end.At - start.Time.PlusDays(days).InZoneLeniently(zone).ToInstant();
        var time = Period.FromSeconds((long)rest.TotalSeconds).Normalize();
        return PeriodPattern.NormalizingIso.Format(
            (Period.FromDays(days) + time).Normalize() is { } whole && (days == 0 || time.Days == 0) ? whole : time
        );
    }

    private static JsonObject Rule(string text, FileTime start)
    {
        var rule = new JsonObject { ["@type"] = "RecurrenceRule" };
        foreach (var part in text.Split(';'))
        {
            if (part.Split('=') is not [var name, var value])
                continue;
            switch (name)
            {
                case "FREQ":
                    rule["frequency"] = value.ToLowerInvariant();
                    break;
                case "WKST":
                    rule["firstDayOfWeek"] = value.ToLowerInvariant();
                    break;
                case "BYMONTH":
                    rule["byMonth"] = new JsonArray([
                        .. value.Split(',').Select(one => (JsonNode)JsonValue.Create(one)),
                    ]);
                    break;
                case "BYDAY":
                    rule["byDay"] = new JsonArray([.. value.Split(',').Select(Day)]);
                    break;
                // By the clock of the event (§4.3.3).
                case "UNTIL" when ICalendarValues.Time(value, null) is { } until:
                    rule["until"] = Local(
                        until.Zone is not null && start.Zone is not null
                            ? until.At.InZone(start.Zone).LocalDateTime
                            : until.Time
                    );
                    break;
                case "INTERVAL" or "COUNT":
                    rule[RuleNames[name]] = int.Parse(value, CultureInfo.InvariantCulture);
                    break;
                default:
                    if (RuleNames.TryGetValue(name, out var own))
                        rule[own] = new JsonArray([
                            .. value
                                .Split(',')
                                .Select(one =>
                                    (JsonNode)JsonValue.Create(int.Parse(one, CultureInfo.InvariantCulture))
                                ),
                        ]);
                    break;
            }
        }

        return rule;
    }

    private static JsonNode Day(string text)
    {
        var day = new JsonObject { ["@type"] = "NDay", ["day"] = text[^2..].ToLowerInvariant() };
        if (text.Length > 2)
            day["nthOfPeriod"] = int.Parse(text[..^2], CultureInfo.InvariantCulture);
        return day;
    }

    // Of a session: where it was planned, by the clock of the event.
    private static string Key(FileTime time, FileTime? start) =>
        Local(
            time.Zone is not null && start?.Zone is { } zone && !zone.Equals(time.Zone)
                ? time.At.InZone(zone).LocalDateTime
                : time.Time
        );

    private static DateTimeZone? Zone(ContentLine line, FileZones zones) =>
        line.Parameter("TZID") is { } id ? zones.Find(id) : null;

    private static FileTime? TimeOf(ContentLine? line, FileZones zones) =>
        line is null ? null : ICalendarValues.Time(line.Value, Zone(line, zones));

    private static string? TextOf(Component part, string name) =>
        part.Find(name) is { } line ? ContentLine.FromText(line.Value) : null;

    private static string Local(LocalDateTime time) =>
        time.ToString("uuuu-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);

    private static string? Utc(ContentLine? line) =>
        line is not null && ICalendarValues.Time(line.Value, null) is { } time ? Local(time.Time) + "Z" : null;

    private static void Set(JsonObject on, string name, string? value)
    {
        if (!string.IsNullOrEmpty(value))
            on[name] = value;
    }
}
