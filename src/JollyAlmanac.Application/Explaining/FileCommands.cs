using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Explaining;

/// <summary>What is asked of an iCalendar file from a shell, without an installation.</summary>
public static class FileCommands
{
    /// <summary>The largest file that is read, in bytes.</summary>
    public const long Largest = 100L * 1024 * 1024;

    private static readonly JsonWriterOptions Plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>Tells the sessions of a file, a JSON object a line.</summary>
    /// <param name="path">The file.</param>
    /// <param name="zone">The zone to tell times in; null for the one each is written in.</param>
    /// <param name="from">The first day, ISO; null for the first there is.</param>
    /// <param name="to">The day after the last; null for the last there is.</param>
    /// <param name="answers">Where the lines go.</param>
    /// <param name="say">Where words for people go.</param>
    /// <returns>0; 1 where it is no calendar or is cut off; 2 for a question that cannot be.</returns>
    public static int Sessions(
        string path,
        string? zone,
        string? from,
        string? to,
        TextWriter answers,
        Action<string> say
    )
    {
        DateTimeZone? told = null;
        if (zone is not null && (told = DateTimeZoneProviders.Tzdb.GetZoneOrNull(zone)) is null)
        {
            say($"“{zone}” is no zone of the IANA database; write it like America/Halifax.");
            return 2;
        }

        if (Day(from, "--from", say) is not { } first || Day(to, "--to", say) is not { } last)
            return 2;
        if (Read(path, say) is not { } file)
            return 1;
        var found = ICalendarSessions.Of(file, told, first.Day, last.Day);
        foreach (var remark in found.Remarks)
            say(remark);
        foreach (var session in found.Sessions)
            answers.WriteLine(LineOf(session));
        return 0;
    }

    /// <summary>Tells every breach of RFC 5545 in a file: its line, the section, what is wrong and what to do.</summary>
    /// <returns>0 where there is none, else 1.</returns>
    public static int Check(string path, TextWriter answers, Action<string> say)
    {
        if (Bytes(path, say) is not { } bytes)
            return 1;
        var breaches = ICalendarCheck.Of(ICalendarReader.Read(bytes));
        foreach (var breach in breaches)
            answers.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{path}:{breach.Line}: RFC 5545 §{breach.Section}: {breach.Says} {breach.Remedy}"
                )
            );
        if (breaches.Count == 0)
            answers.WriteLine($"{path}: no breach of RFC 5545 was found.");
        return breaches.Count == 0 ? 0 : 1;
    }

    /// <summary>A session as a line of JSON: <c>{"summary","start","end","allDay","status"}</c>.</summary>
    public static string LineOf(FileSession session)
    {
        using var bytes = new MemoryStream();
        using (var json = new Utf8JsonWriter(bytes, Plain))
        {
            json.WriteStartObject();
            json.WriteString("summary", session.Summary.ToWellFormed());
            json.WriteString("start", TextOf(session.Start));
            json.WriteString("end", TextOf(session.End));
            json.WriteBoolean("allDay", session.Start.IsDate);
            json.WriteString("status", session.Status);
            json.WriteEndObject();
        }

        return Encoding.UTF8.GetString(bytes.ToArray());
    }

    // Half of a surrogate pair cannot be written as UTF-8.
    private static string ToWellFormed(this string text) =>
        string.Concat(text.EnumerateRunes().Select(rune => rune.ToString()));

    private static string TextOf(FileTime time)
    {
        if (time.IsDate)
            return LocalDatePattern.Iso.Format(time.Time.Date);
        if (time.Zone is null)
            return time.Time.ToString("uuuu-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);
        var zoned = WallClock.At(time.Time, time.Zone);
        var text = zoned.LocalDateTime.ToString("uuuu-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);
        var seconds = Math.Abs(zoned.Offset.Seconds);
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{text}{(zoned.Offset.Seconds < 0 ? '-' : '+')}{seconds / 3600:00}:{seconds / 60 % 60:00}"
        );
    }

    private static ICalendarFile? Read(string path, Action<string> say)
    {
        if (Bytes(path, say) is not { } bytes)
            return null;
        var file = ICalendarReader.Read(bytes);
        if (file.Calendars.Count == 0)
        {
            say(
                ICalendarReader.IsWebPage(bytes)
                    ? $"{path} is a web page, most likely one to sign in at, and no calendar. Fetch the calendar with its own address."
                    : $"{path} is no iCalendar file: there is no BEGIN:VCALENDAR in it."
            );
            return null;
        }

        if (!file.IsCutOff)
            return file;
        say(
            $"{path} is cut off: {file.Breaches.First(breach => breach.Line == 0).Says} Save or fetch it again; nothing of it is told."
        );
        return null;
    }

    private static byte[]? Bytes(string path, Action<string> say)
    {
        try
        {
            if (Directory.Exists(path))
                say($"{path} is a folder. Name a file.");
            else if (!File.Exists(path))
                say($"There is no file {path}.");
            else if (new FileInfo(path).Length > Largest)
                say($"{path} is larger than {Largest / 1024 / 1024} MB.");
            else
                return File.ReadAllBytes(path);
        }
        catch (Exception failure) when (failure is IOException or UnauthorizedAccessException)
        {
            say($"{path} cannot be read.");
        }

        return null;
    }

    /// <summary>A day of the command line; null, with a word, for what is none.</summary>
    public static (LocalDate? Day, bool IsRead)? Day(string? text, string option, Action<string> say)
    {
        if (text is null)
            return (null, false);
        if (LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var day })
            return (day, true);
        say($"{option} {text} is no day; write it like 2026-11-02.");
        return null;
    }
}
