using System.Diagnostics;
using System.Globalization;
using System.Text;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Serving;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

/// <summary>What going out and coming in costs: a large file's review, and the taking in of it.</summary>
internal static class PublishBench
{
    public static void Run()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
        using var app = AlmanacServer.Build(new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance));
        var services = app.Services;
        var id = Done(services.GetRequiredService<CreateSchool>().Do(new SchoolInput("Skerry Isles School", "America/Halifax", "Monday",
            "Autumn term", "2026-09-08", "2026-12-18", "Wendeline Okafor", "wendeline@skerry.example", "a long password of mine")));
        var coordinator = new Viewer(id, SchoolRole.Coordinator, new HashSet<GroupId>());
        var slug = Done(services.GetRequiredService<SaveCalendar>().Create(coordinator, new CalendarInput("Whole school", CalendarKind.School,
            "", "", MarkColour.Juniper, MarkShape.Disc, OpenTo.Everyone))).Slug;
        var import = services.GetRequiredService<ImportFile>();
        var file = Year();
        var review = 0L;
        Say($"a file of {file.Length / 1024.0 / 1024:0.0} MB with 20,000 events read and kept for its review", null,
            Timed(() => review = Done(import.Begin(coordinator, slug, null, "year.ics", file))));
        GC.Collect();
        var before = GC.GetTotalMemory(forceFullCollection: true);
        for (var turn = 0; turn < 3; turn++)
            Say("  its review", 2000, Timed(() => Done(import.Review(coordinator, slug, review, new ImportChoices()))));
        using var process = Process.GetCurrentProcess();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"  memory after: {(GC.GetTotalMemory(forceFullCollection: true) - before) / 1024 / 1024} MB more held; {process.PeakWorkingSet64 / 1024 / 1024} MB of the process at most"));
        Say("  taken in", null, Timed(() => Done(import.Keep(coordinator, slug, review, new ImportChoices()))));
        review = Done(import.Begin(coordinator, slug, null, "year.ics", file));
        Say("  the same again, its review", 2000, Timed(() => Done(import.Review(coordinator, slug, review, new ImportChoices()))));
        app.DisposeAsync().AsTask().GetAwaiter().GetResult();
        Directory.Delete(directory, recursive: true);
    }

    private static byte[] Year()
    {
        var text = new StringBuilder("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Skerry Isles//Year//EN\r\n");
        for (var at = 0; at < 20_000; at++)
        {
            var start = new LocalDateTime(2026, 9, 8, 8, 0).PlusDays(at * 7919 % 280).PlusMinutes(at * 104_729 % 100 * 5);
            text.Append(CultureInfo.InvariantCulture, $"BEGIN:VEVENT\r\nUID:{at}@skerry.example\r\nDTSTAMP:20260901T000000Z\r\n")
                .Append(CultureInfo.InvariantCulture, $"SUMMARY:Class {at % 500}\r\nLOCATION:Room {at % 40}\r\n")
                .Append(CultureInfo.InvariantCulture, $"DTSTART;TZID=America/Halifax:{start:uuuuMMdd'T'HHmmss}\r\n")
                .Append(CultureInfo.InvariantCulture, $"DTEND;TZID=America/Halifax:{start.PlusMinutes(50):uuuuMMdd'T'HHmmss}\r\n")
                .Append("DESCRIPTION:Bring boots\\, and the field sheet of the week before\r\nEND:VEVENT\r\n");
        }

        return Encoding.UTF8.GetBytes(text.Append("END:VCALENDAR\r\n").ToString());
    }

    private static double Timed(Action act)
    {
        var watch = Stopwatch.StartNew();
        act();
        return watch.Elapsed.TotalMilliseconds;
    }

    private static void Say(string what, int? wanted, double milliseconds) => Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
        $"{what}: {milliseconds:0} ms{(wanted is { } most ? $" ({most} wanted)" : "")}"));

    private static T Done<T>(Outcome<T> outcome) => outcome is Outcome<T>.Done { Value: var value } ? value
        : throw new InvalidOperationException(outcome.ToString());
}
