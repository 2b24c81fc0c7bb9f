using System.Diagnostics;
using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using static BenchSchool;

/// <summary>What people and permissions cost: medians, warm, against a server in this process.</summary>
internal static class PeopleBench
{
    public static async Task Run()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
        using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance)
        );
        var services = app.Services;
        var id = BenchSchool.Create(services.GetRequiredService<CreateSchool>());
        var coordinator = new Viewer(id, SchoolRole.Coordinator, new HashSet<GroupId>());
        Roster(directory);
        var database = services.GetRequiredService<AlmanacDatabase>();
        var (nested, calendars, slug) = Fill(services, database, coordinator);

        Say(
            "level of a person over 500 calendars, 200 nested groups: SQL and rules",
            "2",
            Median(200, () => database.Read(stores =>
                {
                    var viewer = stores.People.ViewerOf(nested);
                    var grants = stores.Calendars.GrantsFor(viewer, calendars);
                    return calendars.Sum(calendar => (int)AccessRules.LevelOf(viewer, grants[calendar]));
                }))
        );
        var (known, all) = database.Read(stores =>
            (stores.People.ViewerOf(nested), stores.Calendars.GrantsOf(calendars))
        );
        Say(
            "  the rules alone",
            "2",
            Median(200, () => calendars.Sum(calendar => (int)AccessRules.LevelOf(known, all[calendar])))
        );
        Redact(database);

        app.Start();
        using var client = await SignedIn(new Uri(app.Urls.Single()));
        foreach (
            var (name, path, most) in new[]
            {
                ("Sharing with 400 people", $"/calendars/{slug}/sharing?all=Full", "50"),
                ("find as you type among 10,000 people", "/people?handler=Find&who=qu+te", "10"),
                ("People, a page of 10,000", "/people?find=an", "50"),
                ("History of the school", "/history", "50"),
            }
        )
            Say(name, most, await Median(60, async () => (await client.GetStringAsync(path)).Length));
        await app.StopAsync();
        Directory.Delete(directory, recursive: true);
    }

    // 5,000 people in 200 classes, in another directory: the first time, and the same again.
    private static void Roster(string directory)
    {
        var (data, files) = (
            Directory.CreateTempSubdirectory("almanac-bench-").FullName,
            Directory.CreateTempSubdirectory("almanac-bench-").FullName
        );
        foreach (var file in Directory.EnumerateFiles(directory))
            File.Copy(file, Path.Combine(data, Path.GetFileName(file)));
        File.WriteAllLines(
            Path.Combine(files, "users.csv"),
            Enumerable
                .Range(0, 5_000)
                .Select(at =>
                    $"u{at},active,true,o1,{(at < 300 ? "teacher" : "student")},Teodor{at},Quill{at},u{at}@skerry.example"
                )
                .Prepend("sourcedId,status,enabledUser,orgSourcedIds,role,givenName,familyName,email")
        );
        File.WriteAllLines(
            Path.Combine(files, "classes.csv"),
            Enumerable.Range(0, 200).Select(at => $"c{at},Class {at}").Prepend("sourcedId,title")
        );
        File.WriteAllLines(
            Path.Combine(files, "enrollments.csv"),
            Enumerable
                .Range(0, 20_000)
                .Select(at => $"c{at % 200},u{300 + at * 7 % 4_700},student")
                .Prepend("classSourcedId,userSourcedId,role")
        );
        foreach (var turn in new[] { "the first time", "the same again" })
        {
            var before = GC.GetTotalMemory(forceFullCollection: true);
            var (start, growth) = (Stopwatch.GetTimestamp(), 0L);
            var done = ServiceRegistration.ImportRosterFromShell(
                data,
                SystemClock.Instance,
                files,
                new RosterImportChoices(),
                isDry: false
            );
            growth = GC.GetTotalMemory(forceFullCollection: false) - before;
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  {$"roster of 5,000 people, {turn} ({done.New} new, {done.Same} same)", -72} {Stopwatch.GetElapsedTime(start).TotalSeconds, 8:0.00} s  of 5, memory {growth / 1_000_000.0:0} MB of 150"
                )
            );
        }

        Directory.Delete(data, recursive: true);
        Directory.Delete(files, recursive: true);
    }

    private static (PersonId Nested, CalendarId[] Calendars, Slug Slug) Fill(
        IServiceProvider services,
        AlmanacDatabase database,
        Viewer coordinator
    )
    {
        string[] first = ["Teodor", "Amara", "Linnea", "Kwame", "Isla", "Anselm", "Ronan", "Pilar"],
            last = ["Quill", "Okonjo", "Sandvik", "Voss", "Haddad"];
        var now = SystemClock.Instance.GetCurrentInstant();
        var people = database.Write(
            stores =>
                Enumerable
                    .Range(0, 10_000)
                    .Select(at =>
                        stores.People.Add(
                            $"{first[at % 8]} {last[at % 5]}{at}",
                            new EmailAddress($"p{at}@skerry.example"),
                            SchoolRole.Student,
                            null,
                            "s",
                            now
                        )
                    )
                    .ToList(),
            _ => true
        );
        var groups = database.Write(
            stores =>
            {
                var made = Enumerable
                    .Range(0, 200)
                    .Select(at => stores.Groups.Add($"Group {at}", GroupKind.Staff))
                    .ToList();
                // Chains of ten, each group in the next.
                for (var at = 0; at < 200; at++)
                    if (at % 10 < 9)
                        stores.Groups.AddGroup(made[at + 1], made[at]);
                foreach (var (at, group) in made.Index())
                    stores.Groups.AddMembers(group, [people[at], people[0]]);
                return made;
            },
            _ => true
        );
        var slug = Done(
            services
                .GetRequiredService<SaveCalendar>()
                .Create(
                    coordinator,
                    new CalendarInput(
                        "Tidepool Biology 9A",
                        CalendarKind.Class,
                        "",
                        "",
                        MarkColour.Juniper,
                        MarkShape.Disc,
                        OpenTo.Named
                    )
                )
        ).Slug;
        var calendars = database.Write(
            stores =>
            {
                var shown = stores.Calendars.Find(slug)!;
                foreach (var person in people.Take(400))
                    stores.Calendars.Set(new Grant(shown.Id, new Grantee.OnePerson(person), AccessLevel.Full));
                return Enumerable
                    .Range(0, 500)
                    .Select(at =>
                    {
                        var calendar = stores.Calendars.Add(
                            shown with
                            {
                                Title = $"Class {at}",
                                Slug = new Slug($"class-{at}"),
                            }
                        );
                        stores.Calendars.Set(
                            new Grant(
                                calendar.Id,
                                new Grantee.OnePerson(coordinator.Person!.Value),
                                AccessLevel.Manager
                            )
                        );
                        stores.Calendars.Set(
                            new Grant(calendar.Id, new Grantee.OneGroup(groups[at % 200]), AccessLevel.Full)
                        );
                        stores.Calendars.Set(new Grant(calendar.Id, new Grantee.Everyone(), AccessLevel.Outline));
                        return calendar.Id;
                    })
                    .ToArray();
            },
            _ => true
        );
        return (people[0], calendars, slug);
    }

    // A month of one class, planned and shown to a student, against planned alone.
    private static void Redact(AlmanacDatabase database)
    {
        var school = database.Read(stores => stores.School.Find())!;
        var series = Enumerable
            .Range(0, 20)
            .Select(at => new Series(
                new SeriesId(at + 1),
                new CalendarId(1),
                $"u{at}",
                "Tidepool Biology",
                "Bring boots.",
                "Tide Room",
                new MeetingPattern(
                    new Repeat.ByRule(JollyAlmanac.Core.Recurrence.RuleText.Parse("FREQ=WEEKLY;BYDAY=MO,WE,FR").Rule!),
                    new SessionTime.Clock(new LocalTime(9, 50), new LocalTime(10, 40)),
                    school.Time.Zone,
                    new LocalDate(2026, 9, 14),
                    new Extent.Until(new LocalDate(2026, 10, 14))
                ),
                null,
                new PersonId(1),
                1,
                default,
                default
            ))
            .ToList();
        double Of(Func<Session, object?> show) =>
            Median(200, () =>
                series.Sum(one => Planner.PlanOf(one, school.Time).Sessions.Count(session => show(session) is not null))
            );
        // Once for the compiler to see what is hot; what it says then is not counted.
        Of(session => session);
        Of(session => Redaction.Show(session, AccessLevel.Full, ShowChoices.SignedIn, MaterialsAt.None, null));
        var plain = Of(session => session);
        foreach (var level in new[] { AccessLevel.Busy, AccessLevel.Full })
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  {$"a month of 20 series planned and redacted to {level.ToString().ToLowerInvariant()}, against planned alone", -72} {Of(session => Redaction.Show(session, level, ShowChoices.SignedIn, MaterialsAt.None, null)) / plain, 8:0.00} x  of 1.3"
                )
            );
    }

    private static void Say(string name, string most, double milliseconds) =>
        Console.WriteLine(
            string.Create(CultureInfo.InvariantCulture, $"  {name, -72} {milliseconds, 8:0.00} ms of {most}")
        );

    private static double Median(int turns, Func<int> work)
    {
        for (var turn = 0; turn < 30; turn++)
            work();
        var times = new double[turns];
        for (var turn = 0; turn < turns; turn++)
        {
            var start = Stopwatch.GetTimestamp();
            work();
            times[turn] = Stopwatch.GetElapsedTime(start).TotalMilliseconds;
        }

        return times.Order().ElementAt(turns / 2);
    }

    private static async Task<double> Median(int turns, Func<Task<int>> work)
    {
        for (var turn = 0; turn < 30; turn++)
            await work();
        var times = new double[turns];
        for (var turn = 0; turn < turns; turn++)
        {
            var start = Stopwatch.GetTimestamp();
            await work();
            times[turn] = Stopwatch.GetElapsedTime(start).TotalMilliseconds;
        }

        return times.Order().ElementAt(turns / 2);
    }
}
