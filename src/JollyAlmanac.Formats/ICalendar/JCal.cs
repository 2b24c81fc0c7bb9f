using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>An iCalendar document as jCal (RFC 7265): the same, in JSON.</summary>
public static class JCal
{
    /// <summary>Its media type (RFC 7265 §6).</summary>
    public const string MediaType = "application/calendar+json";

    private static readonly JsonWriterOptions Plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>The document in UTF-8.</summary>
    public static byte[] Of(Component document)
    {
        using var bytes = new MemoryStream();
        using (var json = new Utf8JsonWriter(bytes, Plain))
            Write(json, document);
        return bytes.ToArray();
    }

    private static void Write(Utf8JsonWriter json, Component part)
    {
        json.WriteStartArray();
        json.WriteStringValue(part.Name.ToLowerInvariant());
        json.WriteStartArray();
        foreach (var line in part.Lines)
            Write(json, line);
        json.WriteEndArray();
        json.WriteStartArray();
        foreach (var one in part.Parts)
            Write(json, one);
        json.WriteEndArray();
        json.WriteEndArray();
    }

    private static void Write(Utf8JsonWriter json, ContentLine line)
    {
        var type = TypeOf(line);
        json.WriteStartArray();
        json.WriteStringValue(line.Name.ToLowerInvariant());
        json.WriteStartObject();
        // VALUE is the third member (§3.4); of several values of a parameter an array is made (§3.5.1).
        foreach (
            var same in line.Parameters.Where(one => one.Name != "VALUE").GroupBy(one => one.Name, one => one.Value)
        )
        {
            json.WritePropertyName(same.Key.ToLowerInvariant());
            if (same.Count() == 1)
            {
                json.WriteStringValue(same.First());
                continue;
            }

            json.WriteStartArray();
            foreach (var value in same)
                json.WriteStringValue(value);
            json.WriteEndArray();
        }

        json.WriteEndObject();
        json.WriteStringValue(type);
        foreach (var value in ValuesOf(line, type))
            Value(json, type, value);
        json.WriteEndArray();
    }

    // The types of RFC 5545 where they are not text; those of the other documents that we write.
    private static string TypeOf(ContentLine line) =>
        line.Parameter("VALUE")?.ToLowerInvariant()
        ?? line.Name switch
        {
            "DTSTART"
            or "DTEND"
            or "DUE"
            or "DTSTAMP"
            or "CREATED"
            or "LAST-MODIFIED"
            or "COMPLETED"
            or "RECURRENCE-ID"
            or "EXDATE"
            or "RDATE" => ICalendarValues.Time(line.Value.Split(',')[0], null) is { IsDate: true }
                ? "date"
                : "date-time",
            "RRULE" or "EXRULE" => "recur",
            "DURATION" or "TRIGGER" or "REFRESH-INTERVAL" => "duration",
            "TZOFFSETFROM" or "TZOFFSETTO" => "utc-offset",
            "ATTACH" or "URL" or "TZURL" or "IMAGE" or "CONFERENCE" or "SOURCE" => "uri",
            "ATTENDEE" or "ORGANIZER" => "cal-address",
            "SEQUENCE" or "PRIORITY" or "PERCENT-COMPLETE" or "REPEAT" => "integer",
            "GEO" => "float",
            "FREEBUSY" => "period",
            _ when line.Name.StartsWith("X-", StringComparison.Ordinal) => "unknown",
            _ => "text",
        };

    private static IEnumerable<string> ValuesOf(ContentLine line, string type) =>
        line.Name is "EXDATE" or "RDATE" or "FREEBUSY" ? line.Value.Split(',')
        : line.Name is "CATEGORIES" or "RESOURCES" ? TextList(line.Value)
        : [type is "text" ? ContentLine.FromText(line.Value) : line.Value];

    /// <summary>The texts of a list, whose commas are escaped where they belong to one.</summary>
    internal static IEnumerable<string> TextList(string value)
    {
        var one = new StringBuilder();
        for (var at = 0; at < value.Length; at++)
        {
            if (value[at] == ',')
            {
                yield return ContentLine.FromText(one.ToString());
                one.Clear();
                continue;
            }

            one.Append(value[at]);
            if (value[at] == '\\' && at + 1 < value.Length)
                one.Append(value[++at]);
        }

        yield return ContentLine.FromText(one.ToString());
    }

    private static void Value(Utf8JsonWriter json, string type, string value)
    {
        switch (type)
        {
            case "date" or "date-time":
                json.WriteStringValue(TimeOf(value));
                break;
            case "period":
                var ends = value.Split('/');
                json.WriteStartArray();
                foreach (var end in ends)
                    json.WriteStringValue(end.StartsWith('P') ? end : TimeOf(end));
                json.WriteEndArray();
                break;
            case "utc-offset":
                var offset = value.Trim();
                json.WriteStringValue($"{offset[..3]}:{offset[3..5]}{(offset.Length == 7 ? ":" + offset[5..] : "")}");
                break;
            case "integer" when long.TryParse(value, CultureInfo.InvariantCulture, out var number):
                json.WriteNumberValue(number);
                break;
            case "float":
                json.WriteStartArray();
                foreach (var part in value.Split(';'))
                    json.WriteNumberValue(decimal.Parse(part, NumberStyles.Float, CultureInfo.InvariantCulture));
                json.WriteEndArray();
                break;
            case "recur":
                Rule(json, value);
                break;
            default:
                json.WriteStringValue(value);
                break;
        }
    }

    // "2026-11-02", "2026-11-02T08:00:00", "2026-11-02T12:00:00Z" (§3.6.4, §3.6.5).
    private static string TimeOf(string value) =>
        ICalendarValues.Time(value, null) is not { } time
            ? value
            : time.Time.ToString(time.IsDate ? "uuuu-MM-dd" : "uuuu-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture)
                + (time.Zone is null ? "" : "Z");

    // §3.6.10: numbers as numbers, lists as arrays, UNTIL in its own form.
    private static void Rule(Utf8JsonWriter json, string value)
    {
        json.WriteStartObject();
        foreach (var part in value.Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var (name, rest) = part.Split('=') is [var key, var text]
                ? (key.ToLowerInvariant(), text)
                : (part.ToLowerInvariant(), "");
            json.WritePropertyName(name);
            var values = name == "until" ? [TimeOf(rest)] : rest.Split(',');
            if (values.Length > 1)
                json.WriteStartArray();
            foreach (var one in values)
            {
                if (
                    name != "until"
                    && int.TryParse(one, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
                )
                    json.WriteNumberValue(number);
                else
                    json.WriteStringValue(one);
            }

            if (values.Length > 1)
                json.WriteEndArray();
        }

        json.WriteEndObject();
    }
}
