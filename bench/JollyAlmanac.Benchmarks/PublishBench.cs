using System.Diagnostics;
using System.Globalization;
using System.Text;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using static BenchSchool;

/// <summary>What going out and coming in costs: a large file's review, and the taking in of it.</summary>
internal static class PublishBench
{
    public static void Run()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
        using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance)
        );
        var services = app.Services;
        var id = BenchSchool.Create(services.GetRequiredService<CreateSchool>());
        var coordinator = new Viewer(id, SchoolRole.Coordinator, new HashSet<GroupId>());
        var slug = Done(
            services
                .GetRequiredService<SaveCalendar>()
                .Create(
                    coordinator,
                    new CalendarInput(
                        "Whole school",
                        CalendarKind.School,
                        "",
                        "",
                        MarkColour.Juniper,
                        MarkShape.Disc,
                        OpenTo.Everyone
                    )
                )
        ).Slug;
        var import = services.GetRequiredService<ImportFile>();
        var file = Year();
        var before = GC.GetTotalMemory(forceFullCollection: true);
        var review = 0L;
        Say(
            $"a file of {file.Length / 1024.0 / 1024:0.0} MB with 20,000 events read and kept for its review",
            null,
            Timed(() => review = Done(import.Begin(coordinator, slug, null, "year.ics", file)))
        );
        for (var turn = 0; turn < 3; turn++)
            Say("  its review", 2000, Timed(() => Done(import.Review(coordinator, slug, review, new ImportChoices()))));
        using var process = Process.GetCurrentProcess();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  memory after: {(GC.GetTotalMemory(forceFullCollection: true) - before) / 1024 / 1024} MB more held; {process.PeakWorkingSet64 / 1024 / 1024} MB of the process at most"
            )
        );
        Say("  taken in", null, Timed(() => Done(import.SaveChoices(coordinator, slug, review, new ImportChoices()))));
        review = Done(import.Begin(coordinator, slug, null, "year.ics", file));
        Say(
            "  the same again, its review",
            2000,
            Timed(() => Done(import.Review(coordinator, slug, review, new ImportChoices())))
        );
        Outputs(services, coordinator);
        app.DisposeAsync().AsTask().GetAwaiter().GetResult();
        Directory.Delete(directory, recursive: true);
    }

    // A class of 300 series with four changed sessions each: its feed made anew after a change, its embed, its printed sheet.
    private static void Outputs(IServiceProvider services, Viewer coordinator)
    {
        var slug = Done(
            services
                .GetRequiredService<SaveCalendar>()
                .Create(
                    coordinator,
                    new CalendarInput(
                        "Three hundred",
                        CalendarKind.Class,
                        "",
                        "",
                        MarkColour.Juniper,
                        MarkShape.Disc,
                        OpenTo.Anyone
                    )
                )
        ).Slug;
        var text = new StringBuilder("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Skerry Isles//Year//EN\r\n");
        for (var at = 0; at < 300; at++)
        {
            var start = new LocalDateTime(2026, 9, 14 + at % 5, 8 + at % 7, 0);
            text.Append(
                    CultureInfo.InvariantCulture,
                    $"BEGIN:VEVENT\r\nUID:w{at}@skerry.example\r\nDTSTAMP:20260901T000000Z\r\nSUMMARY:Class {at}\r\n"
                )
                .Append(
                    CultureInfo.InvariantCulture,
                    $"DTSTART;TZID=America/Halifax:{start:uuuuMMdd'T'HHmmss}\r\nDURATION:PT50M\r\nRRULE:FREQ=WEEKLY;COUNT=14\r\nEND:VEVENT\r\n"
                );
            foreach (var week in new[] { 2, 4, 6, 8 })
            {
                var one = start.PlusWeeks(week);
                text.Append(
                        CultureInfo.InvariantCulture,
                        $"BEGIN:VEVENT\r\nUID:w{at}@skerry.example\r\nDTSTAMP:20260901T000000Z\r\nSUMMARY:Another {at}\r\n"
                    )
                    .Append(
                        CultureInfo.InvariantCulture,
                        $"RECURRENCE-ID;TZID=America/Halifax:{one:uuuuMMdd'T'HHmmss}\r\n"
                    )
                    .Append(
                        CultureInfo.InvariantCulture,
                        $"DTSTART;TZID=America/Halifax:{one.PlusHours(1):uuuuMMdd'T'HHmmss}\r\nDURATION:PT50M\r\nEND:VEVENT\r\n"
                    );
            }
        }

        var import = services.GetRequiredService<ImportFile>();
        var id = Done(
            import.Begin(
                coordinator,
                slug,
                null,
                "w.ics",
                Encoding.UTF8.GetBytes(text.Append("END:VCALENDAR\r\n").ToString())
            )
        );
        Done(import.SaveChoices(coordinator, slug, id, new ImportChoices()));
        var publications = services.GetRequiredService<Publications>();
        var input = new PublicationInput("All", AccessLevel.Full, true, true, true, "https://www.skerry.example");
        var (feed, embed) = (
            Done(publications.Make(coordinator, slug, PublicationKind.Feed, input)),
            Done(publications.Make(coordinator, slug, PublicationKind.Embed, input))
        );
        var (readFeed, readEmbed, notices) = (
            services.GetRequiredService<ReadFeed>(),
            services.GetRequiredService<ReadEmbed>(),
            services.GetRequiredService<EditNotices>()
        );
        var root = new Uri("https://almanac.example/");
        var (anew, panels) = (new List<double>(), new List<double>());
        var bytes = 0;
        for (var turn = 0; turn < 100; turn++)
        {
            // Something of the calendar changes each time, so that nothing that is kept can be used.
            Done(notices.Put(coordinator, slug, null, new NoticeInput($"Notice {turn}", "", "2027-01-01")));
            anew.Add(Timed(() => bytes = readFeed.Do(feed.Token, root, _ => false)!.Body!.Plain.Length));
            panels.Add(Timed(() => readEmbed.Do(embed.Token)));
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"a feed of 300 series with 1,200 changed sessions ({bytes / 1024} KB) made anew: {Median(anew):0.0} ms (25 wanted)"
            )
        );
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"its panel put together: {Median(panels):0.0} ms (8 wanted, with its HTML)"
            )
        );
    }

    private static double Median(List<double> of) => of.Order().ElementAt(of.Count / 2);

    private static byte[] Year()
    {
        var text = new StringBuilder("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Skerry Isles//Year//EN\r\n");
        for (var at = 0; at < 20_000; at++)
        {
            var start = new LocalDateTime(2026, 9, 8, 8, 0)
                .PlusDays(at * 7919 % 280)
                .PlusMinutes(at * 104_729 % 100 * 5);
            text.Append(
                    CultureInfo.InvariantCulture,
                    $"BEGIN:VEVENT\r\nUID:{at}@skerry.example\r\nDTSTAMP:20260901T000000Z\r\n"
                )
                .Append(CultureInfo.InvariantCulture, $"SUMMARY:Class {at % 500}\r\nLOCATION:Room {at % 40}\r\n")
                .Append(CultureInfo.InvariantCulture, $"DTSTART;TZID=America/Halifax:{start:uuuuMMdd'T'HHmmss}\r\n")
                .Append(
                    CultureInfo.InvariantCulture,
                    $"DTEND;TZID=America/Halifax:{start.PlusMinutes(50):uuuuMMdd'T'HHmmss}\r\n"
                )
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

    private static void Say(string what, int? wanted, double milliseconds) =>
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{what}: {milliseconds:0} ms{(wanted is { } most ? $" ({most} wanted)" : "")}"
            )
        );
}
