using System.Diagnostics;
using System.Globalization;
using System.Reflection;
using System.Text.Json;
using FsCheck.Fluent;
using JollyAlmanac.Core.Series;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Tests;

/// <summary>
/// Feeds as others read them: ical.js 2.2.1 (a second reference library, beside Ical.Net in <see cref="FeedTests"/>), and a
/// deliberately naive reader that takes every short cut which common readers take.
/// </summary>
public sealed class FeedReaderTests
{
    private const int Cases = 2000;

    private static readonly LocalDateTimePattern Local = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuuMMdd'T'HHmmss"
    );

    private static readonly LocalDatePattern Day = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");

    private static List<(Series Series, Plan Plan, string Text)> Random { get; } =
    [
        .. FeedTests
            .AllSeries()
            .Generator.Sample(Cases, 30)
            .Select(series => (series, Planner.PlanOf(series, FeedTests.SchoolTimeOf(series.Pattern.Zone))))
            .Where(one => one.Item2.Sessions.Length > 0)
            .Select(one =>
                (one.series, one.Item2, FeedTests.TextOf(one.Item2, FeedTests.SchoolTimeOf(one.series.Pattern.Zone)))
            ),
    ];

    [Fact]
    public async Task A_second_library_finds_what_was_planned()
    {
        var token = TestContext.Current.CancellationToken;
        var folder = Assembly
            .GetExecutingAssembly()
            .GetCustomAttributes<AssemblyMetadataAttribute>()
            .Single(one => one.Key == "ReferenceFolder")
            .Value!;
        using var node = Process.Start(
            new ProcessStartInfo("node", "read.mjs")
            {
                WorkingDirectory = folder,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                Environment = { ["TZ"] = "UTC" },
            }
        )!;
        var reading = node.StandardOutput.ReadToEndAsync(token);
        foreach (var (_, _, text) in Random)
            await node.StandardInput.WriteLineAsync(JsonSerializer.Serialize(new { ics = text, until = "2038-01-01" }));
        node.StandardInput.Close();
        var answers = (await reading).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        await node.WaitForExitAsync(token);
        Assert.Equal(Random.Count, answers.Length);
        var differences = new List<string>();
        foreach (var ((series, plan, text), answer) in Random.Zip(answers))
        {
            // Two at one moment are one to this comparison; which of them is told is no matter of the feed.
            var planned = plan
                .Held.Select(session =>
                    session.IsAllDay
                        ? session.Start.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)
                        : session.StartsAt.ToString("uuuu-MM-dd'T'HH:mm:ss'.000Z'", CultureInfo.InvariantCulture)
                )
                .Distinct()
                .Order(StringComparer.Ordinal)
                .ToList();
            var found = answer.StartsWith('[')
                ? JsonSerializer.Deserialize<List<string>>(answer)!.Distinct().Order(StringComparer.Ordinal).ToList()
                : [answer];
            if (!planned.SequenceEqual(found))
                differences.Add(
                    $"{series.Pattern} {string.Join(' ', series.Changes)}\n planned {string.Join(' ', planned)}\n found   {string.Join(' ', found)}\n{text}"
                );
        }

        Assert.True(
            differences.Count == 0,
            $"{differences.Count} of {Random.Count} differ; the first:\n{differences.FirstOrDefault()}"
        );
    }

    [Fact]
    public void A_naive_reader_finds_what_was_planned()
    {
        var (read, differences) = (0, new List<string>());
        foreach (var (series, plan, text) in Random)
        {
            if (Naive(FeedTests.Unfold(text)) is not { } found)
                continue;
            read++;
            var planned = plan.Held.Select(session => session.Start).Distinct().Order().ToList();
            if (!planned.SequenceEqual(found.Distinct().Order()))
                differences.Add(
                    $"{series.Pattern} {string.Join(' ', series.Changes)}\n planned {string.Join(' ', planned)}\n found   {string.Join(' ', found.Order())}\n{text}"
                );
        }

        Assert.InRange(read, Cases / 2, Cases);
        Assert.True(
            differences.Count == 0,
            $"{differences.Count} of {read} differ; the first:\n{differences.FirstOrDefault()}"
        );
    }

    // The short cuts: UNTIL is taken by the offset of DTSTART, as if clocks never changed; EXDATE and RECURRENCE-ID are compared as
    // text; DTSTART is no occurrence where the rule does not give it, unless an RDATE says so; a week begins on Monday. Monthly
    // rules are not understood: null.
    private static List<LocalDateTime>? Naive(string[] lines)
    {
        var events = new List<Dictionary<string, List<string>>>();
        Dictionary<string, List<string>>? now = null;
        foreach (var line in lines)
        {
            if (line == "BEGIN:VEVENT")
                events.Add(now = []);
            else if (line == "END:VEVENT")
                now = null;
            else if (now is not null)
            {
                var colon = line.IndexOf(':', StringComparison.Ordinal);
                var name = line[..colon].Split(';')[0];
                if (!now.TryGetValue(name, out var values))
                    now[name] = values = [];
                values.AddRange(name is "EXDATE" or "RDATE" ? line[(colon + 1)..].Split(',') : [line[(colon + 1)..]]);
                if (name == "DTSTART" && line.Contains("TZID=", StringComparison.Ordinal))
                    now["TZID"] = [line.Split("TZID=")[1].Split([':', ';'])[0]];
            }
        }

        var found = new List<LocalDateTime>();
        foreach (var master in events.Where(one => !one.ContainsKey("RECURRENCE-ID")))
        {
            var changes = events
                .Where(one => one.ContainsKey("RECURRENCE-ID") && one["UID"][0] == master["UID"][0])
                .ToDictionary(one => one["RECURRENCE-ID"][0]);
            var start = At(master["DTSTART"][0]);
            var given = new HashSet<string>(master.GetValueOrDefault("RDATE") ?? []);
            if (master.TryGetValue("RRULE", out var rule))
            {
                if (Expand(rule[0], start, master.GetValueOrDefault("TZID")?[0]) is not { } dates)
                    return null;
                foreach (var date in dates)
                    given.Add(Text(date, master["DTSTART"][0]));
            }
            else if (given.Count == 0)
            {
                given.Add(master["DTSTART"][0]);
            }

            foreach (var off in master.GetValueOrDefault("EXDATE") ?? [])
                given.Remove(off);
            foreach (var (id, change) in changes)
            {
                if (!given.Remove(id) && !change.ContainsKey("DTSTART"))
                    continue;
                if (change.GetValueOrDefault("STATUS")?[0] != "CANCELLED")
                    found.Add(At(change["DTSTART"][0]));
            }

            if (master.GetValueOrDefault("STATUS")?[0] != "CANCELLED")
                found.AddRange(given.Select(At));
        }

        return found;
    }

    private static List<LocalDateTime>? Expand(string rule, LocalDateTime start, string? zone)
    {
        var parts = rule.Split(';').Select(part => part.Split('=')).ToDictionary(part => part[0], part => part[1]);
        if (parts["FREQ"] is not ("WEEKLY" or "DAILY"))
            return null;
        var every = parts.TryGetValue("INTERVAL", out var interval)
            ? int.Parse(interval, CultureInfo.InvariantCulture)
            : 1;
        var most = parts.TryGetValue("COUNT", out var count)
            ? int.Parse(count, CultureInfo.InvariantCulture)
            : int.MaxValue;
        string[] names = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];
        var days =
            parts.TryGetValue("BYDAY", out var list)
                ? list.Split(',').Select(name => (IsoDayOfWeek)(Array.IndexOf(names, name) + 1)).ToHashSet()
            : parts["FREQ"] == "DAILY" ? null
            : [start.DayOfWeek];
        var offset = zone is null ? Offset.Zero : DateTimeZoneProviders.Tzdb[zone].AtLeniently(start).Offset;
        var last =
            !parts.TryGetValue("UNTIL", out var until) ? start.PlusYears(12)
            : until.EndsWith('Z') ? Local.Parse(until[..^1]).Value.PlusSeconds(offset.Seconds)
            : At(until);
        var found = new List<LocalDateTime>();
        var monday = start.Date.PlusDays(1 - (int)start.DayOfWeek);
        for (var day = start.Date; day.At(start.TimeOfDay) <= last && found.Count < most; day = day.PlusDays(1))
        {
            var isDue =
                parts["FREQ"] == "DAILY"
                    ? Period.DaysBetween(start.Date, day) % every == 0
                    : Period.DaysBetween(monday, day) / 7 % every == 0;
            if (isDue && (days is null || days.Contains(day.DayOfWeek)))
                found.Add(day.At(start.TimeOfDay));
        }

        return found;
    }

    private static LocalDateTime At(string text) =>
        text.Length == 8 ? Day.Parse(text).Value.AtMidnight() : Local.Parse(text).Value;

    private static string Text(LocalDateTime time, string like) =>
        like.Length == 8 ? Day.Format(time.Date) : Local.Format(time);
}
