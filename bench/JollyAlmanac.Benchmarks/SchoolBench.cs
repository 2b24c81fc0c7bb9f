using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using JollyAlmanac.Application.Bulk;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using static BenchSchool;

/// <summary>
/// What a whole school costs that comes of its files at once: 1,500 students, 120 teachers, 240 classes, 900 rows of timetable; what
/// changing 300 calendars at once costs, and what a stranger's front page does. All against a server in this process, which answers
/// others' pages meanwhile.
/// </summary>
internal static class SchoolBench
{
    // A page that does not tell of the calendars that are changed.
    private const string Other = "/school-time";
    private const int Students = 1_500;
    private const int Teachers = 120;
    private const int Classes = 240;
    private static readonly string[] Days = ["Mon", "Tue", "Wed", "Thu", "Fri"];
    private static readonly string[] Subjects = ["Marine Science", "Sea Crafts", "Music", "Languages", "Navigation"];

    public static async Task Run()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
        using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance)
        );
        app.MapGet("/empty", context =>
        {
            context.Response.ContentLength = 0;
            return Task.CompletedTask;
        });
        var services = app.Services;
        var coordinator = new Viewer(
            BenchSchool.Create(services.GetRequiredService<CreateSchool>()),
            SchoolRole.Coordinator,
            new HashSet<GroupId>()
        );
        app.Start();
        var root = new Uri(app.Urls.Single());
        var (import, files) = (services.GetRequiredService<SchoolImport>(), Files());
        using var client = await SignedIn(root);

        for (var turn = 0; turn < 30; turn++)
            (await client.GetAsync(Other)).Dispose();
        // Once unmeasured, as far as nothing is kept: the compiler sees what is hot.
        _ = Done(import.Review(coordinator, Done(import.Begin(coordinator, files, null)), new SchoolImportChoices()));
        long id = 0;
        await Say(client, "reviewed", "3 s", () =>
        {
            id = Done(import.Begin(coordinator, files, null));
            var review = Done(import.Review(coordinator, id, new SchoolImportChoices()));
            return $"{review.NewCalendars} calendars, {review.Classes.Sum(one => one.Series.Count)} series, {review.Questions.Count} questions";
        });
        await Say(client, "taken in", "8 s", () =>
        {
            var kept = Done(import.Keep(coordinator, id, new SchoolImportChoices()));
            return $"{kept.Review.NewCalendars} calendars";
        });
        await Say(client, "the same files again, reviewed and taken in", "2 s", () =>
        {
            id = Done(import.Begin(coordinator, files, null));
            var kept = Done(import.Keep(coordinator, id, new SchoolImportChoices()));
            return $"{kept.Review.NewCalendars} calendars";
        });

        var calendars = services.GetRequiredService<SaveCalendar>();
        for (var at = Classes; at < 300; at++)
            Done(
                calendars.Create(
                    coordinator,
                    calendars.NewForm(coordinator) with
                    {
                        Title = $"Club {at}",
                        OpenTo = OpenTo.Everyone,
                    }
                )
            );
        var (bulk, database) = (
            services.GetRequiredService<BulkChange>(),
            services.GetRequiredService<AlmanacDatabase>()
        );
        // A coordinator changes what they manage: all of them, for the measuring.
        database.Write(
            stores =>
            {
                foreach (var calendar in stores.Calendars.All())
                    stores.Calendars.Set(
                        new Grant(calendar.Id, new Grantee.OnePerson(coordinator.Person!.Value), AccessLevel.Manager)
                    );
                return true;
            },
            _ => true
        );
        var slugs = database.Read(stores =>
            string.Join(
                ' ',
                stores
                    .Calendars.All()
                    .Where(calendar => calendar.Kind == CalendarKind.Class)
                    .Take(300)
                    .Select(calendar => calendar.Slug.Value)
            )
        );
        foreach (
            var (name, input) in new[]
            {
                ("opened to who is named", new BulkInput(BulkAction.Open, slugs) { OpenTo = OpenTo.Named }),
                ("opened to anyone", new BulkInput(BulkAction.Open, slugs) { OpenTo = OpenTo.Anyone }),
                ("a feed of each", new BulkInput(BulkAction.Feed, slugs)),
                ("a notice on each", new BulkInput(BulkAction.Notice, slugs) { Text = "Closed.", Last = "2999-01-01" }),
            }
        )
        {
            var shown = input.Action == BulkAction.Notice ? input with { Last = Tomorrow() } : input;
            var review = Done(bulk.Review(coordinator, shown));
            await Say(client, $"300 calendars: {name}", "1.5 s", () =>
                $"{Done(bulk.Do(coordinator, shown with { Seen = review.Seen }).GetAwaiter().GetResult()).Changed} changed"
            );
            if (input.Action != BulkAction.Open)
                await Say(client, $"300 calendars: {name}, taken back", "1.5 s", () => Done(bulk.Undo(coordinator)));
        }

        var time = services.GetRequiredService<SetSchoolTime>();
        var school = database.Read(stores => stores.School.Find()!);
        Done(time.SetSchool(coordinator, SchoolDetails.Of(school) with { FrontPage = true }));
        Console.WriteLine("  " + JoinBench.Ratio(root, "front page, to a stranger", "/", "", "200"));
        await app.StopAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(directory, recursive: true);
    }

    private static string Tomorrow() =>
        SystemClock
            .Instance.GetCurrentInstant()
            .InUtc()
            .Date.PlusDays(2)
            .ToString("uuuu-MM-dd", CultureInfo.InvariantCulture);

    // How long it takes, what it adds to memory at the most, and how long others wait for a page meanwhile.
    private static async Task Say(HttpClient client, string what, string goal, Func<string> act)
    {
        GC.Collect();
        using var process = Process.GetCurrentProcess();
        process.Refresh();
        var (before, most) = (process.WorkingSet64, 0L);
        using var ending = new CancellationTokenSource();
        var waits = new ConcurrentBag<double>();
        var others = Task.Run(async () =>
        {
            while (!ending.IsCancellationRequested)
            {
                var asked = Stopwatch.GetTimestamp();
                using (var answer = await client.GetAsync(Other))
                    answer.EnsureSuccessStatusCode();
                waits.Add(Stopwatch.GetElapsedTime(asked).TotalMilliseconds);
                process.Refresh();
                most = Math.Max(most, process.WorkingSet64);
                await Task.Delay(10);
            }
        });
        var start = Stopwatch.GetTimestamp();
        var said = act();
        var took = Stopwatch.GetElapsedTime(start).TotalSeconds;
        await ending.CancelAsync();
        await others;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {what, -44}{took, 7:0.00} s (goal {goal}); {Math.Max(0, most - before) / 1e6, 4:0} MB more; others' pages: {waits.Order().ElementAt(waits.Count / 2), 4:0} ms median, {waits.Max(), 4:0} ms at most; {said}"
            )
        );
    }

    // A OneRoster 1.1 export in CSV, a timetable and bells; nobody and no room is in two places.
    private static (string Name, byte[] Bytes)[] Files()
    {
        var lines = new Dictionary<string, StringBuilder>(StringComparer.Ordinal);
        void Line(string file, params ReadOnlySpan<string> cells) =>
            (lines.TryGetValue(file, out var text) ? text : lines[file] = new StringBuilder())
                .AppendJoin(',', cells.ToArray())
                .Append('\n');
        Line("manifest.csv", "propertyName", "value");
        Line("manifest.csv", "manifest.version", "1.0");
        Line("manifest.csv", "oneroster.version", "1.1");
        Line("orgs.csv", "sourcedId", "name", "type");
        Line("orgs.csv", "o1", "Skerry Isles School", "school");
        Line("academicSessions.csv", "sourcedId", "title", "type", "startDate", "endDate");
        Line("academicSessions.csv", "a1", "Autumn term", "term", "2026-09-08", "2026-12-18");
        Line(
            "users.csv",
            "sourcedId",
            "enabledUser",
            "orgSourcedIds",
            "role",
            "username",
            "givenName",
            "familyName",
            "email"
        );
        for (var at = 0; at < Teachers; at++)
            Line(
                "users.csv",
                $"t{at}",
                "true",
                "o1",
                "teacher",
                $"t{at}@skerry.example",
                $"Ada{at}",
                $"Cairn{at}",
                $"t{at}@skerry.example"
            );
        for (var at = 0; at < Students; at++)
            Line(
                "users.csv",
                $"s{at}",
                "true",
                "o1",
                "student",
                $"s{at}",
                $"Finn{at}",
                $"Merrow{at}",
                $"s{at}@students.skerry.example"
            );
        Line(
            "classes.csv",
            "sourcedId",
            "title",
            "courseSourcedId",
            "classCode",
            "classType",
            "location",
            "schoolSourcedId",
            "termSourcedIds",
            "subjects"
        );
        Line("enrollments.csv", "sourcedId", "classSourcedId", "schoolSourcedId", "userSourcedId", "role", "primary");
        Line("timetable.csv", "Class", "Day", "Period", "Room", "Teacher", "Department");
        for (var at = 0; at < Classes; at++)
        {
            var title = $"{Subjects[at % Subjects.Length]} {7 + at % 6}{(char)('A' + at / 10)}";
            Line(
                "classes.csv",
                $"c{at}",
                title,
                "",
                $"K{at:000}",
                "scheduled",
                $"R{at % 60}",
                "o1",
                "a1",
                Subjects[at % Subjects.Length]
            );
            Line("enrollments.csv", $"e{at}t", $"c{at}", "o1", $"t{at % Teachers}", "teacher", "true");
            for (var student = 0; student < 25; student++)
                Line(
                    "enrollments.csv",
                    $"e{at}s{student}",
                    $"c{at}",
                    "o1",
                    $"s{(at * 25 + student) % Students}",
                    "student",
                    "false"
                );
            for (var meeting = 0; meeting < (at % 4 == 0 ? 3 : 4); meeting++)
                Line(
                    "timetable.csv",
                    title,
                    Days[(at + meeting) % 5],
                    $"{1 + (at / 5 + meeting + at / Teachers * 3) % 7}",
                    $"R{at}",
                    $"Ada{at % Teachers} Cairn{at % Teachers}",
                    Subjects[at % Subjects.Length]
                );
        }

        Line("bells.csv", "Period", "Start", "End");
        for (var period = 1; period <= 7; period++)
            Line("bells.csv", $"{period}", $"{7 + period}:00", $"{7 + period}:50");
        return [.. lines.Select(file => (file.Key, Encoding.UTF8.GetBytes(file.Value.ToString())))];
    }
}
