using System.Diagnostics;
using System.Globalization;
using System.Net.Sockets;
using System.Text;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

/// <summary>The state of a door at an instant, and how many doors and empty answers a server gives in a second.</summary>
internal static class JoinBench
{
    /// <summary>A term of four classes on one link, ten sessions a week, asked at instants all over the term; best of many.</summary>
    public static void Door()
    {
        var halifax = DateTimeZoneProviders.Tzdb["America/Halifax"];
        var term = new Term(
            new TermId(1),
            "2026–27",
            "Autumn term",
            new LocalDate(2026, 9, 8),
            new LocalDate(2026, 12, 18)
        );
        var time = new SchoolTime(halifax, IsoDayOfWeek.Monday, [term], []);
        var link = new JoinLink(new JoinLinkId(1), new CalendarId(1), "Room", new JoinCode("room-1"), 1)
        {
            Target = new TargetFacts("", "", "", default, 1, false, false, false, false, null, ""),
        };
        IsoDayOfWeek[][] days =
        [
            [IsoDayOfWeek.Monday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Friday],
            [IsoDayOfWeek.Tuesday, IsoDayOfWeek.Thursday],
            [IsoDayOfWeek.Monday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Friday],
            [IsoDayOfWeek.Tuesday, IsoDayOfWeek.Thursday],
        ];
        var sessions = days.Select(
                (on, index) =>
                    new Series(
                        new SeriesId(index + 1),
                        new CalendarId(1),
                        "",
                        "Class",
                        "",
                        "",
                        new MeetingPattern(
                            Repeat.Weekly(on, 1, IsoDayOfWeek.Monday),
                            new SessionTime.Clock(new LocalTime(8 + 2 * index, 0), new LocalTime(8 + 2 * index, 50)),
                            halifax,
                            term.First,
                            new Extent.WithTerm(term.Id)
                        ),
                        link.Id,
                        new PersonId(1),
                        1,
                        default,
                        default
                    )
            )
            .SelectMany(series => Planner.PlanOf(series, time).Sessions)
            .ToList();
        var schedule = new DoorSchedule(link, sessions, halifax);
        var instants = Enumerable
            .Range(0, 1000)
            .Select(turn => Instant.FromUtc(2026, 9, 8, 0, 0) + Duration.FromMinutes(turn * 145))
            .ToArray();
        var (best, open) = (double.MaxValue, 0);
        for (var round = 0; round < 60; round++)
        {
            var start = Stopwatch.GetTimestamp();
            open = instants.Count(instant => schedule.At(instant).IsOpen);
            best = Math.Min(best, Stopwatch.GetElapsedTime(start).TotalMicroseconds / instants.Length);
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{"state of a door, " + sessions.Count + " sessions", -34}{best, 8:0.00} µs ({open} of {instants.Length} instants open)"
            )
        );
    }

    /// <summary>Quick entry of 300 lines, as a pasted timetable has them; best and worst of many.</summary>
    public static void Lines()
    {
        var term = new Term(
            new TermId(1),
            "2026–27",
            "Autumn term",
            new LocalDate(2026, 9, 8),
            new LocalDate(2026, 12, 18)
        );
        var time = new SchoolTime(
            DateTimeZoneProviders.Tzdb["America/Halifax"],
            IsoDayOfWeek.Monday,
            [term],
            [],
            new BellSchedule(
                "Regular bells",
                [
                    new("1", new LocalTime(8, 0), new LocalTime(8, 50)),
                    new("2", new LocalTime(8, 55), new LocalTime(9, 45)),
                ]
            )
        );
        string[] kinds =
        [
            "Class {0} MWF 8:00-8:50 14 Sep to 18 Dec",
            "Class {0} Tue/Thu 1:30pm 75 min except 26-30 Oct",
            "Class {0} every other Fri p2 12 sessions Room 12",
            "Class {0} Mon 9-9:50, Wed 10-10:50 whenever it rains",
            "Class {0} 2nd and 4th Tuesday 15:30-16:15 until the end of term",
        ];
        var lines = Enumerable
            .Range(0, 300)
            .Select(at => string.Format(CultureInfo.InvariantCulture, kinds[at % kinds.Length], at))
            .ToArray();
        var (best, worst, read) = (double.MaxValue, 0d, 0);
        for (var round = 0; round < 30; round++)
        {
            var start = Stopwatch.GetTimestamp();
            read = lines.Sum(line => QuickEntry.ReadAll(line, time, term.First).Length);
            var took = Stopwatch.GetElapsedTime(start).TotalMilliseconds;
            (best, worst) = (Math.Min(best, took), Math.Max(worst, took));
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{"quick entry of 300 lines", -34}{best, 8:0.0} ms to {worst:0.0} ms, the first one cold ({read} series read)"
            )
        );
    }

    /// <summary>Requests a second over kept-open sockets, by clients that do as little as they can; rounds of both take turns.</summary>
    public static void Rates(Uri root, string empty, string door)
    {
        var (best, rates) = ((Empty: 0.0, Door: 0.0), new List<double>());
        for (var round = 0; round < 5; round++)
        {
            var (one, other) = (Rate(root, empty), Rate(root, door));
            rates.Add(other / one);
            best = (Math.Max(best.Empty, one), Math.Max(best.Door, other));
        }

        rates.Sort();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{"requests a second, 8 sockets", -34}{best.Empty, 8:0} empty endpoint {best.Door, 8:0} short address: {rates[2]:P0} of it (median of 5 rounds, {rates[0]:P0} to {rates[^1]:P0})"
            )
        );
    }

    /// <summary>The rate of an endpoint as a part of that of an empty one, in a line.</summary>
    public static string Ratio(Uri root, string name, string path, string header, string status)
    {
        var rates = new List<(double Empty, double Own)>();
        for (var round = 0; round < 3; round++)
            rates.Add((Rate(root, "/empty"), Rate(root, path, header, status)));
        var parts = rates.ConvertAll(rate => rate.Own / rate.Empty);
        parts.Sort();
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{name, -30}{rates.Max(rate => rate.Own), 8:0} a second, empty {rates.Max(rate => rate.Empty), 8:0}: {parts[1]:P0} of it ({parts[0]:P0} to {parts[^1]:P0})"
        );
    }

    private static double Rate(Uri root, string path, string header = "", string status = "200")
    {
        const int Sockets = 8;
        var until = Stopwatch.GetTimestamp() + 3 * Stopwatch.Frequency;
        var start = Stopwatch.GetTimestamp();
        var counts = new int[Sockets];
        var threads = Enumerable
            .Range(0, Sockets)
            .Select(index => new Thread(() => counts[index] = Ask(root, path, until, header, status)))
            .ToList();
        threads.ForEach(thread => thread.Start());
        threads.ForEach(thread => thread.Join());
        return counts.Sum() / Stopwatch.GetElapsedTime(start).TotalSeconds;
    }

    private static int Ask(Uri root, string path, long until, string header, string status)
    {
        using var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        socket.Connect(root.Host, root.Port);
        var request = Encoding.ASCII.GetBytes($"GET {path} HTTP/1.1\r\nHost: {root.Authority}\r\n{header}\r\n");
        var buffer = new byte[64 * 1024];
        var count = 0;
        while (Stopwatch.GetTimestamp() < until)
        {
            socket.Send(request);
            var (read, whole) = (0, -1);
            while (whole < 0 || read < whole)
            {
                read += socket.Receive(buffer, read, buffer.Length - read, SocketFlags.None);
                if (whole >= 0)
                    continue;
                // Made anew, as once a minute, it comes in chunks.
                if (read > 5 && buffer.AsSpan(read - 5, 5).SequenceEqual("0\r\n\r\n"u8))
                    break;
                var head = Encoding.ASCII.GetString(buffer, 0, read);
                var end = head.IndexOf("\r\n\r\n", StringComparison.Ordinal);
                if (end < 0)
                    continue;
                if (!head.StartsWith($"HTTP/1.1 {status}", StringComparison.Ordinal))
                    throw new InvalidOperationException($"{path} was answered with {head[..head.IndexOf('\r')]}.");
                var length = head.IndexOf("Content-Length: ", StringComparison.OrdinalIgnoreCase);
                if (status == "304")
                    break;
                whole =
                    length >= 0 && length < end
                        ? end
                            + 4
                            + int.Parse(
                                head.AsSpan(length + 16, head.IndexOf('\r', length) - length - 16),
                                CultureInfo.InvariantCulture
                            )
                        : -1;
            }

            count++;
        }

        return count;
    }
}
