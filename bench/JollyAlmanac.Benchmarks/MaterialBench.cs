using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.FileProviders;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using static BenchSchool;

/// <summary>What materials cost: a large file sent in, a class page full of them, finding one among many, and giving a file out.</summary>
internal static class MaterialBench
{
    private const string Password = "a long password of mine",
        Mail = "wendeline@skerry.example";

    public static async Task Run()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
        var limit = new UploadLimit(25L * 1024 * 1024) { InParts = 1024L * 1024 * 1024 };
        await using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance, Uploads: limit)
        );
        var services = app.Services;
        var today = SystemClock.Instance.GetCurrentInstant().InUtc().Date;
        var id = Done(
            services
                .GetRequiredService<CreateSchool>()
                .Do(
                    new SchoolInput(
                        "Skerry Isles School",
                        "America/Halifax",
                        "Monday",
                        "This term",
                        Text(today.PlusDays(-120)),
                        Text(today.PlusDays(200)),
                        "Wendeline Okafor",
                        Mail,
                        Password
                    )
                )
        );
        var coordinator = new Viewer(id, SchoolRole.Coordinator, new HashSet<GroupId>());
        var database = services.GetRequiredService<AlmanacDatabase>();
        app.Start();
        var cookies = new CookieContainer();
        using var client = new HttpClient(
            new SocketsHttpHandler { CookieContainer = cookies, AllowAutoRedirect = false }
        )
        {
            BaseAddress = new Uri(app.Urls.Single()),
        };
        await client.PostAsync(
            "/sign-in",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["Email"] = Mail,
                    ["Password"] = Password,
                    ["__RequestVerificationToken"] = TokenOf(await client.GetStringAsync("/sign-in")),
                }
            )
        );
        var slug = await Class(services, coordinator, "Full of materials");
        Fill(database, new Slug(slug), id, 500);
        await Page(client, "class page, 300 sessions and 500 materials, signed in", $"/c/{slug}", 15);
        await Page(client, "  its archive, a word looked for", $"/c/{slug}/archive?q=tides", 15);
        await Page(client, "  its page of materials", $"/calendars/{slug}/materials", 50);
        Many(services, database, coordinator, new Slug(slug), 20_000, 5_000);
        foreach (var words in new[] { "zostera", "tide", "sheet 7", "okafor", "nothing like this" })
            await Page(
                client,
                $"found among 20,000 materials and 5,000 people: “{words}”",
                $"/find?part=true&q={Uri.EscapeDataString(words)}",
                20
            );
        await Upload(client, new Slug(slug));
        await Rates(client, cookies, database, new Slug(slug), directory);
        await app.StopAsync();
        Directory.Delete(directory, recursive: true);
    }

    private static async Task<string> Class(IServiceProvider services, Viewer viewer, string title)
    {
        var slug = Done(
            services
                .GetRequiredService<SaveCalendar>()
                .Create(
                    viewer,
                    new CalendarInput(
                        title,
                        CalendarKind.Class,
                        "",
                        "",
                        MarkColour.Juniper,
                        MarkShape.Disc,
                        OpenTo.Everyone
                    )
                )
        ).Slug;
        var from = SystemClock.Instance.GetCurrentInstant().InUtc().Date.PlusDays(-110);
        Done(
            await services
                .GetRequiredService<ComposeSeries>()
                .Save(
                    viewer,
                    slug,
                    null,
                    new SeriesInput
                    {
                        Title = title,
                        Place = "Tide Room",
                        Days = ["1", "2", "3", "4", "5", "6", "7"],
                        EveryWeeks = "1",
                        Period = "",
                        Start = "09:50",
                        End = "10:40",
                        From = Text(from),
                        Extent = "term",
                        Term = "1",
                    },
                    MaterialInput.None
                )
        );
        return slug.Value;
    }

    private static void Fill(AlmanacDatabase database, Slug slug, PersonId by, int count) =>
        database.Write(
            stores =>
            {
                var calendar = stores.Calendars.Find(slug)!.Id;
                var series = stores.Series.Of(calendar)[0];
                var first = series.Pattern.From;
                for (var at = 0; at < count; at++)
                    stores.Materials.Add(
                        new Material(
                            default,
                            calendar,
                            series.Id,
                            first.PlusDays(at % 300).At(new LocalTime(9, 50)),
                            new MaterialKey($"{slug}-{at:00000}"),
                            $"Sheet {at} of tides",
                            new MaterialContent.Link(new Uri($"https://tides.skerry.example/{at}")),
                            MaterialAudience.Anyone
                        ),
                        by,
                        default
                    );
                return true;
            },
            _ => true
        );

    private static void Many(
        IServiceProvider services,
        AlmanacDatabase database,
        Viewer by,
        Slug slug,
        int materials,
        int people
    )
    {
        for (var from = 0; from < people; from += 500)
            Done(
                services
                    .GetRequiredService<AddPeople>()
                    .Do(
                        by,
                        [
                            .. Enumerable
                                .Range(from, 500)
                                .Select(at => new NewPerson(
                                    $"Person{at % 700} Okafor{at}",
                                    $"p{at}@skerry.example",
                                    SchoolRole.Student
                                )),
                        ]
                    )
            );
        database.Write(
            stores =>
            {
                var model = stores.Calendars.Find(slug)!;
                var series = stores.Series.Of(model.Id)[0];
                string[] words = ["tide", "kelp", "reef", "winds", "harbour", "limpets", "mosses", "chart"];
                for (var calendar = 0; calendar < 200; calendar++)
                {
                    var one = stores.Calendars.Add(
                        model with
                        {
                            Slug = new Slug($"class-{calendar}"),
                            Title = $"Class {calendar}",
                        }
                    );
                    stores.Calendars.Set(new Grant(one.Id, new Grantee.Everyone(), AccessLevel.Full));
                    var of = stores.Series.Add(
                        series with
                        {
                            Calendar = one.Id,
                            Uid = $"s{calendar}@skerry.example",
                            Title = $"Class {calendar}",
                        }
                    );
                    for (var at = 0; at < materials / 200; at++)
                        stores.Materials.Add(
                            new Material(
                                default,
                                one.Id,
                                of.Id,
                                null,
                                new MaterialKey($"m{calendar}-{at}"),
                                $"Sheet {at}: {words[(at + calendar) % words.Length]}{((calendar * 100 + at) % 997 == 0 ? " zostera" : "")}",
                                new MaterialContent.Link(new Uri("https://tides.skerry.example/")),
                                MaterialAudience.Anyone
                            ),
                            by.Person!.Value,
                            default,
                            $"In the text: {words[at % words.Length]} and {words[(at * 3 + 1) % words.Length]} at low water"
                        );
                }

                return true;
            },
            _ => true
        );
    }

    private static async Task Page(HttpClient client, string what, string path, double wanted)
    {
        var cold = await Time(client, path);
        var times = new List<double>();
        for (var turn = 0; turn < 60; turn++)
            await Time(client, path);
        for (var turn = 0; turn < 120; turn++)
            times.Add(await Time(client, path));
        times.Sort();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{what}: {times[60]:0.0} ms median, {times[114]:0.0} ms 95th percentile, {cold:0} ms the first time ({wanted:0} wanted)"
            )
        );
    }

    private static async Task<double> Time(HttpClient client, string path)
    {
        var start = Stopwatch.GetTimestamp();
        using var answer = await client.GetAsync(path);
        if (answer.StatusCode != HttpStatusCode.OK)
            throw new InvalidOperationException($"{path} was answered with {answer.StatusCode}.");
        await answer.Content.ReadAsByteArrayAsync();
        return Stopwatch.GetElapsedTime(start).TotalMilliseconds;
    }

    // As a browser sends it: 2 MB at a time, from a file that is read as it goes.
    private static async Task Upload(HttpClient client, Slug slug)
    {
        const int size = 100 * 1024 * 1024,
            part = 2 * 1024 * 1024;
        var token = TokenOf(await client.GetStringAsync("/account"));
        var bytes = new byte[part];
        new Random(7).NextBytes(bytes);
        foreach (var turn in new[] { "first", "again" })
        {
            GC.Collect();
            GC.WaitForPendingFinalizers();
            using var process = Process.GetCurrentProcess();
            process.Refresh();
            var (before, held, most) = (process.WorkingSet64, GC.GetTotalMemory(true), 0L);
            var start = Stopwatch.GetTimestamp();
            using var begun = await Ask(
                client,
                token,
                HttpMethod.Post,
                $"/uploads/{slug}",
                null,
                ("Upload-Length", $"{size}"),
                ("Upload-Metadata", "filename " + Convert.ToBase64String(Encoding.UTF8.GetBytes("film.mp4")))
            );
            var address = begun.Headers.Location!.OriginalString;
            for (var offset = 0; offset < size; offset += part)
            {
                bytes[0] = (byte)(offset / part);
                using var answer = await Ask(
                    client,
                    token,
                    HttpMethod.Patch,
                    address,
                    bytes,
                    ("Upload-Offset", $"{offset}")
                );
                if (answer.StatusCode != HttpStatusCode.NoContent)
                    throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
                process.Refresh();
                most = Math.Max(most, process.WorkingSet64 - before);
            }

            var seconds = Stopwatch.GetElapsedTime(start).TotalSeconds;
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"100 MB sent in parts, {turn}: {seconds:0.0} s, the process (with who sends) grew by {most / 1024 / 1024} MB at most (20 wanted), {(GC.GetTotalMemory(true) - held) / 1024 / 1024} MB held after"
                )
            );
            using var gone = await Ask(client, token, HttpMethod.Delete, address, null);
        }
    }

    private static async Task<HttpResponseMessage> Ask(
        HttpClient client,
        string token,
        HttpMethod method,
        string address,
        byte[]? body,
        params (string Name, string Value)[] headers
    )
    {
        using var request = new HttpRequestMessage(method, address);
        request.Headers.Add("Tus-Resumable", "1.0.0");
        request.Headers.Add("X-Almanac-Form", token);
        foreach (var (name, value) in headers)
            request.Headers.TryAddWithoutValidation(name, value);
        if (body is not null)
        {
            request.Content = new ByteArrayContent(body);
            request.Content.Headers.ContentType = new("application/offset+octet-stream");
        }

        return await client.SendAsync(request);
    }

    // The same bytes by the framework's own middleware for files, in a server of its own, in turns.
    private static async Task Rates(
        HttpClient client,
        CookieContainer cookies,
        AlmanacDatabase database,
        Slug slug,
        string directory
    )
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        await using var plain = builder.Build();
        var folder = Directory.CreateDirectory(Path.Combine(directory, "plain")).FullName;
        plain.UseStaticFiles(new StaticFileOptions { FileProvider = new PhysicalFileProvider(folder) });
        plain.Urls.Add("http://127.0.0.1:0");
        plain.Start();
        // The same visitor asks both: with their cookies, or with none.
        var address = new Uri(plain.Urls.Single());
        using var signedIn = new HttpClient(new SocketsHttpHandler { CookieContainer = cookies })
        {
            BaseAddress = address,
        };
        using var unknown = new HttpClient { BaseAddress = address };
        var vault = new FileVault(directory);
        foreach (var size in new[] { 100 * 1024, 400 * 1024, 2 * 1024 * 1024 })
        {
            byte[] bytes = [.. "%PDF-1.4"u8, .. new byte[size]];
            File.WriteAllBytes(Path.Combine(folder, $"{size}.pdf"), bytes);
            var key = new MaterialKey($"{size}".PadRight(TokenText.Length, 'x'));
            database.Write(
                stores =>
                {
                    var calendar = stores.Calendars.Find(slug)!;
                    stores.Materials.Add(
                        new Material(
                            default,
                            calendar.Id,
                            null,
                            null,
                            key,
                            "File",
                            new MaterialContent.StoredFile(
                                vault.Add(bytes),
                                "file.pdf",
                                "application/pdf",
                                bytes.Length
                            ),
                            MaterialAudience.Anyone
                        ),
                        calendar.Owner,
                        default
                    );
                    return true;
                },
                _ => true
            );
            using var stranger = new HttpClient { BaseAddress = client.BaseAddress };
            foreach (
                var (who, ours, theirs) in new[] { ("signed in", client, signedIn), ("a stranger", stranger, unknown) }
            )
            {
                // Both are compiled to the end before anything counts.
                for (var turn = 0; turn < 3; turn++)
                    await Rate(ours, $"/m/{key}");
                for (var turn = 0; turn < 3; turn++)
                    await Rate(theirs, $"/{size}.pdf");
                var rounds = new List<(double Own, double Files)>();
                for (var round = 0; round < 9; round++)
                    rounds.Add((await Rate(ours, $"/m/{key}"), await Rate(theirs, $"/{size}.pdf")));
                var parts = rounds.Select(round => round.Own / round.Files * 100).Order().ToList();
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"a file of {size / 1024} KB given out, {who}: {rounds.Select(round => round.Own).Order().ElementAt(4):0}/s, {parts[4]:0} % of the framework's middleware ({parts[0]:0}–{parts[8]:0} in nine rounds, 70 wanted)"
                    )
                );
            }
        }

        await plain.StopAsync();
    }

    private static async Task<double> Rate(HttpClient client, string path)
    {
        var until = Stopwatch.GetTimestamp() + Stopwatch.Frequency;
        var counts = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ =>
                    Task.Run(async () =>
                    {
                        var (count, buffer) = (0, new byte[64 * 1024]);
                        while (Stopwatch.GetTimestamp() < until)
                        {
                            using var answer = await client.GetAsync(path, HttpCompletionOption.ResponseHeadersRead);
                            answer.EnsureSuccessStatusCode();
                            await using var stream = await answer.Content.ReadAsStreamAsync();
                            while (await stream.ReadAsync(buffer) > 0) { }
                            count++;
                        }

                        return count;
                    })
                )
        );
        return counts.Sum();
    }

    private static string TokenOf(string page) =>
        Regex.Match(page, "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"").Groups[1].Value;

    private static string Text(LocalDate day) => NodaTime.Text.LocalDatePattern.Iso.Format(day);
}
