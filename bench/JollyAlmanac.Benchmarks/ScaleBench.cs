using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;

/// <summary>
/// What pages cost in schools of different size, to one teacher with four classes: medians over loopback against a server in this
/// process, and rates against an endpoint that does nothing, with the same middleware. All figures of one run, so that ratios hold.
/// </summary>
internal static partial class ScaleBench
{
    private static readonly int[] Sizes = [20, 20, 2_000, 5_000];

    private const string Password = "a long password";

    public static async Task Run()
    {
        Dictionary<string, double>? small = null;
        // Once for the compiler to see what is hot; what it says then is not counted.
        foreach (var (turn, size) in Sizes.Index())
        {
            if (turn <= 1)
                small = null;
            var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
            var filling = Stopwatch.GetTimestamp();
            var (slug, token, embed, code, series) = Fill(directory, size);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"\n{(turn == 0 ? "Warming up: a" : "A")} school of {size} calendars, {size * 9 / 10} series, {size * 25 / 2} students (filled in {Stopwatch.GetElapsedTime(filling).TotalSeconds:0.0} s)"
                )
            );
            var starting = Stopwatch.GetTimestamp();
            using var app = AlmanacServer.Build(new AlmanacSettings(directory, ["http://127.0.0.1:0"], new Noon()));
            app.MapGet("/empty", context =>
            {
                context.Response.ContentLength = 0;
                return Task.CompletedTask;
            });
            app.Start();
            var root = new Uri(app.Urls.Single());
            using var client = new HttpClient(
                new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
            )
            {
                BaseAddress = root,
            };
            var form = await client.GetStringAsync("/sign-in");
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  first page after the start of the server     {Stopwatch.GetElapsedTime(starting).TotalMilliseconds, 8:0} ms"
                )
            );
            await client.PostAsync(
                "/sign-in",
                new FormUrlEncodedContent(
                    new Dictionary<string, string>
                    {
                        ["Email"] = "teacher0@skerry.example",
                        ["Password"] = Password,
                        ["__RequestVerificationToken"] = Token().Match(form).Groups[1].Value,
                    }
                )
            );
            var now = new Dictionary<string, double>(StringComparer.Ordinal);
            foreach (
                var (name, path) in new[]
                {
                    ("Today", "/today"),
                    ("Week", "/week"),
                    ("Calendars", "/calendars"),
                    ("Term sheet", $"/calendars/{slug}"),
                    ("Join links", "/join-links"),
                    ("Composer", $"/calendars/{slug}/series/new"),
                    ("Publishing", $"/calendars/{slug}/publishing"),
                    ("History", $"/calendars/{slug}/history"),
                    ("Class page", $"/c/{slug}"),
                    ("New calendar", "/calendars/new"),
                    ("Setting up", "/set-up"),
                }
            )
            {
                var (first, median, bytes) = await Measure(client, path);
                now[name] = median;
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"  {name, -14}{median, 8:0.0} ms median {first, 8:0} ms first {bytes / 1024, 6} KB{(small is null ? "" : $"   {median / small[name]:0.00} times that of 20 calendars")}"
                    )
                );
            }

            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  {"a session moved", -14}{Write(app, slug, series), 8:0.0} ms median, without the page"
                )
            );
            if (turn is 1 or 3)
            {
                using var feed = await client.GetAsync($"/feeds/{token}.ics");
                var tag = feed.Headers.ETag!.ToString();
                using var drawn = await client.GetAsync($"/embed/{embed}/picture.png");
                var picture = drawn.Headers.ETag!.ToString();
                foreach (
                    var (name, path, header, status) in new[]
                    {
                        ("feed, 50 series, ETag matches", $"/feeds/{token}.ics", $"If-None-Match: {tag}\r\n", "304"),
                        ("feed, 50 series", $"/feeds/{token}.ics", "Accept-Encoding: gzip, deflate, br\r\n", "200"),
                        ("feed, 50 series, not packed", $"/feeds/{token}.ics", "", "200"),
                        ("class page, to a stranger", $"/c/{slug}", "", "200"),
                        ("embed", $"/embed/{embed}", "", "200"),
                        ("picture of an embed", $"/embed/{embed}/picture.png", "", "200"),
                        (
                            "picture of an embed, unchanged",
                            $"/embed/{embed}/picture.png",
                            $"If-None-Match: {picture}\r\n",
                            "304"
                        ),
                        ("short address", $"/in/{code}?look=1", "", "200"),
                    }
                )
                    Console.WriteLine("  " + JoinBench.Ratio(root, name, path, header, status));
            }

            if (turn is 1 or 3)
                Console.WriteLine("  " + await UnderGuesses(root, client, now["Today"]));
            Snapshot(app.Services.GetRequiredService<AlmanacDatabase>());
            small ??= now;
            GC.Collect();
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"  memory: {GC.GetTotalMemory(true) / 1e6:0} MB in use, {Process.GetCurrentProcess().WorkingSet64 / 1e6:0} MB of this process with the measuring in it"
                )
            );
            await app.StopAsync();
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(directory, recursive: true);
        }
    }

    // What a page costs while passwords are guessed at from 1,000 networks, 24 at once, as fast as they are answered.
    private static async Task<string> UnderGuesses(Uri root, HttpClient client, double quiet)
    {
        using var ending = new CancellationTokenSource();
        var guesses = 0;
        var guessers = Enumerable
            .Range(0, 24)
            .Select(at =>
                Task.Run(async () =>
                {
                    using var guesser = new HttpClient(
                        new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
                    )
                    {
                        BaseAddress = root,
                    };
                    var token = Token().Match(await guesser.GetStringAsync("/sign-in")).Groups[1].Value;
                    for (var turn = 0; !ending.IsCancellationRequested; turn++)
                    {
                        using var guess = new HttpRequestMessage(HttpMethod.Post, "/sign-in")
                        {
                            Content = new FormUrlEncodedContent(
                                new Dictionary<string, string>
                                {
                                    ["Email"] = $"teacher{turn % 3}@skerry.example",
                                    ["Password"] = $"guess {turn}",
                                    ["__RequestVerificationToken"] = token,
                                }
                            ),
                        };
                        var network = (at * 41 + turn) % 1_000;
                        guess.Headers.Add("X-Forwarded-For", $"2001:db8:{network:x}::{at + 1:x}");
                        using var answer = await guesser.SendAsync(guess);
                        Interlocked.Increment(ref guesses);
                    }
                })
            )
            .ToList();
        await Task.Delay(TimeSpan.FromSeconds(1));
        var start = Stopwatch.GetTimestamp();
        var (_, median, _) = await Measure(client, "/today");
        var seconds = Stopwatch.GetElapsedTime(start).TotalSeconds;
        await ending.CancelAsync();
        await Task.WhenAll(guessers);
        return string.Create(
            CultureInfo.InvariantCulture,
            $"Today under guesses from 1,000 networks {median, 8:0.0} ms median, {median / quiet:0.0} times as long; {guesses / (seconds + 1):0} guesses a second"
        );
    }

    // The other way, weighed against plans kept by calendar: all of the school read and planned at once, to be held in memory.
    private static void Snapshot(AlmanacDatabase database)
    {
        GC.Collect();
        var (before, start) = (GC.GetTotalMemory(true), Stopwatch.GetTimestamp());
        var all = database.Read(stores =>
        {
            var school = stores.School.Find()!;
            return (
                stores.Calendars.Every(),
                stores.JoinLinks.All(),
                stores
                    .Series.All()
                    .SelectMany(group => group)
                    .Select(series => Planner.PlanOf(series, school.Time))
                    .ToList()
            );
        });
        var took = Stopwatch.GetElapsedTime(start).TotalMilliseconds;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  a snapshot of the whole school would take {took:0} ms to make after each write, and {(GC.GetTotalMemory(true) - before) / 1e6:0} MB"
            )
        );
        GC.KeepAlive(all);
    }

    private static async Task<(double First, double Median, int Bytes)> Measure(HttpClient client, string path)
    {
        async Task<(double, int)> Ask()
        {
            var start = Stopwatch.GetTimestamp();
            using var answer = await client.GetAsync(path);
            if (answer.StatusCode != HttpStatusCode.OK)
                throw new InvalidOperationException($"{path} was answered with {answer.StatusCode}.");
            var bytes = await answer.Content.ReadAsByteArrayAsync();
            return (Stopwatch.GetElapsedTime(start).TotalMilliseconds, bytes.Length);
        }

        var (first, size) = await Ask();
        for (var turn = 0; turn < 100; turn++)
            await Ask();
        var times = new List<double>();
        for (var turn = 0; turn < 100; turn++)
            times.Add((await Ask()).Item1);
        times.Sort();
        return (first, times[50], size);
    }

    // One session moved there and back, as its act does it: read, checked, written, with history, in one transaction on disk.
    private static double Write(WebApplication app, Slug slug, SeriesId id)
    {
        var (sessions, database) = (
            app.Services.GetRequiredService<ChangeSession>(),
            app.Services.GetRequiredService<AlmanacDatabase>()
        );
        var viewer = database.Read(stores =>
            stores.People.ViewerOf(stores.People.FindByEmail(new EmailAddress("teacher0@skerry.example"))!.Person.Id)
        );
        var times = new List<double>();
        for (var turn = 0; turn < 60; turn++)
        {
            var version = database.Read(stores => stores.Series.Find(id)!.Version);
            var start = Stopwatch.GetTimestamp();
            var done = sessions.Do(
                viewer,
                slug,
                new SessionKey(id, new LocalDateTime(2026, 10, 26, 9, 0)),
                new SessionInput(
                    "move",
                    new SessionTimeInput(turn % 2 == 0 ? "2026-10-27" : "2026-10-29", Start: "09:00", End: "09:50"),
                    Version: version
                )
            );
            times.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
            if (!done.IsDone)
                throw new InvalidOperationException($"The bench met {done}.");
        }

        times.Sort();
        return times[30];
    }

    // Rows straight into the stores: thousands of acts would take longer than what is measured.
    private static (Slug Slug, FeedToken Feed, FeedToken Embed, JoinCode Code, SeriesId Series) Fill(
        string directory,
        int size
    )
    {
        using var database = AlmanacDatabase.Open(directory);
        var (now, passwords, secrets) = (
            SystemClock.Instance.GetCurrentInstant(),
            new Passwords(),
            Secrets.Of(directory)
        );
        var coordinator = new CreateSchool(database, SystemClock.Instance, passwords).Do(
            new SchoolInput(
                "Skerry",
                "America/Halifax",
                "Monday",
                "Autumn term",
                "2026-09-08",
                "2026-12-18",
                "Wendeline Okafor",
                "wendeline@skerry.example",
                Password
            )
        )
            is Outcome<PersonId>.Done { Value: var made }
            ? made
            : throw new InvalidOperationException();
        var viewer = new Viewer(coordinator, SchoolRole.Coordinator, new HashSet<GroupId>());
        _ = new SetSchoolTime(new Gate(database, SystemClock.Instance)).Do(viewer, time => new SchoolTime(
            time.Zone,
            time.FirstDayOfWeek,
            [.. time.Terms, new Term(default, "2026–27", "Spring term", new(2027, 1, 4), new(2027, 6, 25))],
            [new NoClassDay(new(2026, 10, 12), new(2026, 10, 12), "Thanksgiving", NoClassKind.Holiday)],
            new BellSchedule("Regular bells", [new("1", new(8, 0), new(8, 50)), new("2", new(9, 0), new(9, 50))]),
            new DayCycle(["1", "2", "3", "4", "5", "6"], new(2026, 9, 8))
        ));
        var hash = passwords.Hash(Password);
        return database.Write(
            stores =>
            {
                var zone = DateTimeZoneProviders.Tzdb["America/Halifax"];
                var departments = new List<CalendarId>();
                var teachers = new List<PersonId>();
                (Slug, FeedToken, FeedToken, JoinCode, SeriesId) found = default;
                for (var at = 0; at < Math.Max(4, size / 20); at++)
                    teachers.Add(
                        stores.People.Add(
                            $"Teacher {at}",
                            new EmailAddress($"teacher{at}@skerry.example"),
                            SchoolRole.Teacher,
                            at == 0 ? hash : null,
                            $"stamp{at}",
                            now
                        )
                    );
                for (var at = 0; at < size; at++)
                {
                    // Some twenty departments at most; the first four classes are one teacher's.
                    var isDepartment =
                        departments.Count < Math.Min(25, size / 10)
                        && at % (size / Math.Min(25, Math.Max(1, size / 10))) == 0;
                    var teacher = teachers[at <= 4 ? 0 : at % (teachers.Count - 1) + 1];
                    var calendar = stores.Calendars.Add(
                        new JollyAlmanac.Core.Calendars.Calendar(
                            default,
                            isDepartment ? CalendarKind.Department : CalendarKind.Class,
                            isDepartment ? null : departments[^1],
                            isDepartment ? $"Department {at}" : $"Class {at}",
                            new Slug($"class-{at}"),
                            "",
                            new Mark((MarkColour)(at % 12), (MarkShape)(at / 12 % 12)),
                            zone,
                            teacher,
                            1,
                            1,
                            now
                        )
                    );
                    if (isDepartment)
                        departments.Add(calendar.Id);
                    stores.Calendars.Set(new Grant(calendar.Id, new Grantee.Anyone(), AccessLevel.Full));
                    stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OnePerson(teacher), AccessLevel.Manager));
                    var list = stores.Groups.Add($"Class {at}, list", GroupKind.ClassList);
                    stores.Groups.AddMembers(
                        list,
                        Enumerable
                            .Range(0, 12 + at % 2)
                            .Select(turn =>
                                stores.People.Add(
                                    $"Student {at} {turn}",
                                    new EmailAddress($"s{at}.{turn}@skerry.example"),
                                    SchoolRole.Student,
                                    null,
                                    $"{at}.{turn}",
                                    now
                                )
                            )
                    );
                    stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OneGroup(list), AccessLevel.Full));
                    if (at % 10 == 9)
                        continue;
                    var link = stores.JoinLinks.Add(
                        new JoinLink(default, calendar.Id, $"Room {at}", stores.JoinLinks.FreeCode($"room {at}"), 1)
                        {
                            Target = new TargetFacts("", "", "", default, 0, false, false, false, false, null, ""),
                            Entry = EntryRule.Around.Usual,
                        },
                        JoinTarget.Read($"https://rooms.skerry.example/{at}?pwd=kelp").Target!,
                        teacher,
                        now
                    );
                    Series Meets(int turn) =>
                        stores.Series.Add(
                            new Series(
                                default,
                                calendar.Id,
                                $"{Guid.NewGuid():N}@skerry.example",
                                $"Class {at}{(turn == 0 ? "" : $", {turn}")}",
                                "Bring boots.",
                                $"Room {at}",
                                new MeetingPattern(
                                    new Repeat.ByRule(
                                        RuleText
                                            .Parse($"FREQ=WEEKLY;BYDAY={(turn % 2 == 0 ? "MO,WE,FR" : "TU,TH")}")
                                            .Rule!
                                    ),
                                    new SessionTime.Clock(new(9, 0), new(9, 50)),
                                    zone,
                                    new(2026, 9, 14),
                                    new Extent.WithTerm(new TermId(1))
                                ),
                                link.Id,
                                teacher,
                                1,
                                now,
                                now
                            )
                        );
                    var first = Meets(0);
                    stores.History.Add(
                        now,
                        teacher,
                        calendar.Id,
                        HistorySubject.Series,
                        first.Id.Value,
                        "AddSeries",
                        $"added Class {at}",
                        null,
                        null
                    );
                    if (at != 1)
                        continue;
                    Publication Opened(PublicationKind kind, CalendarId of) =>
                        stores.Publications.Add(
                            new Publication(
                                default,
                                kind,
                                of,
                                "All",
                                AccessLevel.Full,
                                ShowChoices.Anyone,
                                kind == PublicationKind.Embed ? [new SiteOrigin("https://www.skerry.example")] : [],
                                1,
                                1,
                                teacher,
                                null
                            ),
                            one => Secrets.HashOf(secrets.TokenOf(one)),
                            now
                        );
                    // A calendar of fifty series for the feed, apart from those whose pages are measured.
                    var wide = stores.Calendars.Add(
                        calendar with
                        {
                            Title = "Fifty",
                            Slug = new Slug("fifty"),
                            Owner = coordinator,
                        }
                    );
                    for (var turn = 1; turn <= 50; turn++)
                        stores.Series.Add(
                            first with
                            {
                                Id = default,
                                Calendar = wide.Id,
                                Uid = $"{Guid.NewGuid():N}@skerry.example",
                                Title = $"Series {turn}",
                                JoinLink = null,
                            }
                        );
                    found = (
                        calendar.Slug,
                        secrets.TokenOf(Opened(PublicationKind.Feed, wide.Id)),
                        secrets.TokenOf(Opened(PublicationKind.Embed, calendar.Id)),
                        link.Code,
                        first.Id
                    );
                }

                return found;
            },
            _ => true
        );
    }

    // A class day before nine: pages have a next session to show, and doors are about to open.
    private sealed class Noon : IClock
    {
        private readonly long start = Stopwatch.GetTimestamp();

        public Instant GetCurrentInstant() =>
            Instant.FromUtc(2026, 10, 14, 11, 30) + Duration.FromTimeSpan(Stopwatch.GetElapsedTime(start));
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Token();
}
