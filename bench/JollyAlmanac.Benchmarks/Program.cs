using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Web;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using static BenchSchool;

if (args is ["scale"])
{
    await ScaleBench.Run();
    return;
}

if (args is ["people"])
{
    await PeopleBench.Run();
    return;
}

if (args is ["school"])
{
    await SchoolBench.Run();
    return;
}

if (args is ["materials"])
{
    await MaterialBench.Run();
    return;
}

if (args is ["publish"])
{
    PublishBench.Run();
    return;
}

if (args is not ["join"])
{
    RecurrenceBench.Run();
    RecurrenceBench.Plans();
    RecurrenceBench.Files();
}

JoinBench.Door();
JoinBench.Lines();
if (args is ["recurrence"])
    return;

// Measures whole requests over loopback against a server in this process: medians and 95th percentiles, warm unless said.
var directory = Directory.CreateTempSubdirectory("almanac-bench-").FullName;
var app = AlmanacServer.Build(new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance));
var services = app.Services;
var manager = Done(
    services
        .GetRequiredService<CreateSchool>()
        .Do(
            new SchoolInput(
                "Skerry Isles School",
                "America/Halifax",
                "Monday",
                "Autumn term",
                "2026-09-08",
                "2026-12-18",
                "Wendeline Okafor",
                "wendeline@skerry.example",
                "a long password"
            )
        )
);
var viewer = new Viewer(manager, SchoolRole.Coordinator, new HashSet<GroupId>());
Done(
    services
        .GetRequiredService<SetSchoolTime>()
        .Do(viewer, time => new SchoolTime(
            time.Zone,
            time.FirstDayOfWeek,
            [
                .. time.Terms,
                new Term(default, "2026–27", "Spring term", new LocalDate(2027, 1, 4), new LocalDate(2027, 6, 25)),
            ],
            [
                new NoClassDay(
                    new LocalDate(2026, 10, 12),
                    new LocalDate(2026, 10, 12),
                    "Thanksgiving",
                    NoClassKind.Holiday
                ),
                new NoClassDay(
                    new LocalDate(2026, 10, 22),
                    new LocalDate(2026, 10, 23),
                    "Conference",
                    NoClassKind.StaffDay
                ),
            ],
            new BellSchedule("Regular bells", [new("1", new LocalTime(8, 0), new LocalTime(8, 50))]),
            new DayCycle(["1", "2", "3", "4", "5", "6"], new LocalDate(2026, 9, 8))
        ))
);
var five = await Fill("Five series", 5);
var fifty = await Fill("Fifty series", 50);

// 200 links, each with a class of its own on the day shown, in the calendar of the fifty and further ones.
for (var turn = 0; turn < 3; turn++)
    await Fill($"Fifty more, {turn}", 50);
app.MapGet("/empty", context =>
{
    context.Response.ContentLength = 0;
    return Task.CompletedTask;
});
app.Start();

using var client = new HttpClient(
    new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
)
{
    BaseAddress = new Uri(app.Urls.Single()),
};
var form = await client.GetStringAsync("/sign-in");
await client.PostAsync(
    "/sign-in",
    new FormUrlEncodedContent(
        new Dictionary<string, string>
        {
            ["Email"] = "wendeline@skerry.example",
            ["Password"] = "a long password",
            ["__RequestVerificationToken"] = Regex
                .Match(form, "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")
                .Groups[1]
                .Value,
        }
    )
);
var coldFeed = await Time(() => client.GetAsync($"/feeds/{fifty.Token}.ics"));
using var feed = await client.GetAsync($"/feeds/{fifty.Token}.ics");
await Measure("term sheet, 5 series", () => client.GetAsync($"/calendars/{five.Slug}"));
await Measure("term sheet, 50 series", () => client.GetAsync($"/calendars/{fifty.Slug}"));
await Measure("today", () => client.GetAsync("/today"));
await Measure("class page, 5 series", () => client.GetAsync($"/c/{five.Slug}"));
Console.WriteLine(
    $"{"feed, 50 series, first ever", -34}{coldFeed, 8:0.00} ms once, {(await feed.Content.ReadAsByteArrayAsync()).Length / 1024} KB"
);
await Measure("feed, 50 series, made anew", () => client.GetAsync($"/feeds/{fifty.Token}.ics"));
await Measure("feed, 50 series, ETag matches", () =>
    client.SendAsync(
        new HttpRequestMessage(HttpMethod.Get, $"/feeds/{fifty.Token}.ics")
        {
            Headers = { IfNoneMatch = { feed.Headers.ETag! } },
        }
    )
);
var code = services.GetRequiredService<Switchboard>().At(viewer, null, null)!.Rows[0].Link.Code;
using var stranger = new HttpClient { BaseAddress = client.BaseAddress };
await Measure("short address, to a stranger", () => stranger.GetAsync($"/in/{code}?look=1"));
await Measure("short address, to its keeper", () => client.GetAsync($"/in/{code}?look=1"));
await Measure(
    $"switchboard, {services.GetRequiredService<Switchboard>().At(viewer, null, null)!.Rows.Count} links",
    () => client.GetAsync("/join-links")
);
JoinBench.Rates(new Uri(app.Urls.Single()), "/empty", $"/in/{code}?look=1");
await Measure("preview of a series", () =>
    client.GetAsync(
        $"/calendars/{five.Slug}/series/new?handler=Preview&Title=x&Days=1&Days=3&EveryWeeks=1&Period=1&From=2026-09-08&Extent=term&Term=1"
    )
);
await app.StopAsync();
Directory.Delete(directory, recursive: true);

async Task<(Slug Slug, string Token)> Fill(string title, int count)
{
    var slug = Done(
        services
            .GetRequiredService<SaveCalendar>()
            .Create(
                viewer,
                new CalendarInput(title, CalendarKind.Class, "", "", MarkColour.Juniper, MarkShape.Disc, OpenTo.Anyone)
            )
    ).Slug;
    for (var turn = 0; turn < count; turn++)
        Done(
            await services
                .GetRequiredService<ComposeSeries>()
                .Save(
                    viewer,
                    slug,
                    null,
                    new SeriesInput
                    {
                        Title = $"Class {turn}",
                        Description = "In the Tide Room, or by join link.",
                        Place = "Tide Room",
                        Days =
                        [
                            (turn % 5 + 1).ToString(CultureInfo.InvariantCulture),
                            ((turn + 2) % 5 + 1).ToString(CultureInfo.InvariantCulture),
                        ],
                        EveryWeeks = "1",
                        Period = "",
                        Start = $"{8 + turn % 7:00}:00",
                        End = $"{8 + turn % 7:00}:50",
                        From = "2026-09-08",
                        Extent = "term",
                        Term = "1",
                        Link = "new",
                        LinkTarget = $"https://rooms.skerry.example/{turn}",
                    },
                    MaterialInput.None
                )
        );
    var token = Done(
        services
            .GetRequiredService<Publications>()
            .Make(viewer, slug, PublicationKind.Feed, new PublicationInput("All", AccessLevel.Full, true, true, true))
    ).Token;
    return (slug, token.Value);
}

static async Task Measure(string what, Func<Task<HttpResponseMessage>> ask)
{
    for (var turn = 0; turn < 200; turn++)
        (await ask()).Dispose();
    var times = new List<double>();
    for (var turn = 0; turn < 300; turn++)
        times.Add(await Time(ask));
    times.Sort();
    Console.WriteLine($"{what, -34}{times[150], 8:0.00} ms median {times[285], 8:0.00} ms 95th percentile");
}

static async Task<double> Time(Func<Task<HttpResponseMessage>> ask)
{
    var start = Stopwatch.GetTimestamp();
    using var answer = await ask();
    if ((int)answer.StatusCode >= 400 || answer.StatusCode == HttpStatusCode.Redirect)
        throw new InvalidOperationException($"The request was answered with {answer.StatusCode}.");
    await answer.Content.ReadAsByteArrayAsync();
    return Stopwatch.GetElapsedTime(start).TotalMilliseconds;
}
