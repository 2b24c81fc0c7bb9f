using System.IO.Compression;
using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using Microsoft.Extensions.DependencyInjection;

namespace JollyAlmanac.Web.Tests;

/// <summary>What the world gets without a sign-in: class page, feed, embed, short address.</summary>
public sealed partial class PublishedTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    [Fact]
    public async Task Class_page_feed_embed_and_term_sheet_agree()
    {
        using var client = server.Client();
        var feed = Ical.Net.Calendar.Load(await client.GetStringAsync(server.Address("feed"), Stop))!;
        // Ical.Net 5.2.4 as the independent reader; local times in the school's zone.
        var fromFeed = feed.GetOccurrences<Ical.Net.CalendarComponents.CalendarEvent>()
            .Take(500)
            .Where(one =>
                ((Ical.Net.CalendarComponents.CalendarEvent)one.Source)
                    is { Status: not "CANCELLED", Transparency: not "TRANSPARENT" }
            )
            .Select(one =>
                one.Period.StartTime.Value.ToString("ddd d MMM", System.Globalization.CultureInfo.InvariantCulture)
            )
            .ToList();
        using var teacher = await server.SignedIn(DemoServer.Teacher);
        var sheet = await teacher.GetStringAsync($"/calendars/{DemoServer.Class}", Stop);
        Assert.Equal(37, fromFeed.Count);
        Assert.Equal(37, SheetSession().Count(sheet));
        Assert.Contains(
            "37 sessions, 30 h 05; leaves out 4 no-class days; 1 cancelled; 1 moved by hand.",
            sheet,
            StringComparison.Ordinal
        );
        using var student = await server.SignedIn(DemoServer.Student);
        var page = await student.GetStringAsync(server.Address("class page"), Stop);
        Assert.Equal(
            fromFeed.SkipWhile(day => day != "Wed 14 Oct").Skip(1).Take(3),
            Days(
                page[
                    page.IndexOf("This week", StringComparison.Ordinal)..page.IndexOf(
                        "Past sessions",
                        StringComparison.Ordinal
                    )
                ]
            )
        );
        Assert.Contains("in 9 minutes", page, StringComparison.Ordinal);
        var embed = await client.GetStringAsync(server.Address("embed"), Stop);
        Assert.Equal(fromFeed.SkipWhile(day => day != "Wed 14 Oct").Skip(1).Take(6), Days(embed));
        Assert.Contains(
            "Open until 10:10",
            await client.GetStringAsync(server.Address("short address"), Stop),
            StringComparison.Ordinal
        );
    }

    /// <summary>The other forms of a feed: their type, an ETag of their own that is known again, and the same events.</summary>
    [Theory]
    [InlineData("jcal", "application/calendar+json")]
    [InlineData("jscalendar", "application/jscalendar+json")]
    public async Task A_feed_is_read_in_other_forms(string suffix, string type)
    {
        using var client = server.Client();
        var address = server.Address("feed");
        var other = address.Replace(".ics", "." + suffix, StringComparison.Ordinal);
        using var plain = await client.GetAsync(address, Stop);
        using var first = await client.GetAsync(other, Stop);
        Assert.Equal((HttpStatusCode.OK, type), (first.StatusCode, first.Content.Headers.ContentType!.MediaType));
        Assert.EndsWith(
            $".{suffix}",
            first.Content.Headers.ContentDisposition!.FileName!.Trim('"'),
            StringComparison.Ordinal
        );
        Assert.NotEqual(plain.Headers.ETag, first.Headers.ETag);
        var text = await first.Content.ReadAsStringAsync(Stop);
        var uid = Regex.Match(await plain.Content.ReadAsStringAsync(Stop), "UID:(\\S+)").Groups[1].Value;
        using var json = System.Text.Json.JsonDocument.Parse(text);
        Assert.Contains(uid, text, StringComparison.Ordinal);
        foreach (
            var (tag, status) in new[]
            {
                (first.Headers.ETag!, HttpStatusCode.NotModified),
                (plain.Headers.ETag!, HttpStatusCode.OK),
            }
        )
        {
            using var again = await client.SendAsync(
                new HttpRequestMessage(HttpMethod.Get, other) { Headers = { IfNoneMatch = { tag } } },
                Stop
            );
            Assert.Equal(status, again.StatusCode);
        }

        using var unknown = await client.GetAsync($"/feeds/00000000000000000000000000.{suffix}", Stop);
        Assert.Equal(HttpStatusCode.NotFound, unknown.StatusCode);
    }

    // Ical.Net 5.2.4 reads a feed of each calendar of the demo: what it finds is what the planner plans.
    [Fact]
    public void Every_calendar_of_the_demo_says_in_its_feed_what_is_on_its_term_sheets()
    {
        var services = server.Services;
        var viewer = services
            .GetRequiredService<AlmanacDatabase>()
            .Read(stores =>
                stores.People.ViewerOf(stores.People.FindByEmail(new EmailAddress(DemoServer.Coordinator))!.Person.Id)
            );
        var termSheetQuery = services.GetRequiredService<TermSheetQuery>();
        var calendars = services.GetRequiredService<CalendarListQuery>().Read(viewer)!;
        Assert.InRange(calendars.Lines.Count, 15, 30);
        foreach (var calendar in calendars.Lines.Select(line => line.Calendar))
        {
            var made = Assert.IsType<Outcome<PublicationWithToken>.Done>(
                services
                    .GetRequiredService<Publications>()
                    .Make(
                        viewer,
                        calendar.Slug,
                        PublicationKind.Feed,
                        new PublicationInput("Check", AccessLevel.Full, true, true, true)
                    )
            );
            var planned = calendars
                .School.Time.Terms.SelectMany(term => termSheetQuery.Read(viewer, calendar.Slug, term.Id)!.Sheet!.Weeks)
                .SelectMany(week => week.Days)
                .SelectMany(day => day.Sessions)
                .Where(shown => shown.Session.IsHeld)
                .Select(shown => (shown.Session.StartsAt, shown.Session.EndsAt))
                .Order();
            var found = Ical
                .Net.Calendar.Load(
                    services.GetRequiredService<ReadFeed>().Do(made.Value.Token, server.Root, _ => false)!.Text!
                )!
                .GetOccurrences<Ical.Net.CalendarComponents.CalendarEvent>()
                .Take(1000)
                .Where(one =>
                    ((Ical.Net.CalendarComponents.CalendarEvent)one.Source)
                        is { Status: not "CANCELLED", Transparency: not "TRANSPARENT" }
                )
                .Select(one =>
                    (
                        NodaTime.Instant.FromDateTimeUtc(one.Period.StartTime.AsUtc),
                        NodaTime.Instant.FromDateTimeUtc(one.Period.EffectiveEndTime!.AsUtc)
                    )
                )
                .Order();
            Assert.Equal(planned, found);
        }
    }

    [Fact]
    public async Task A_feed_is_served_as_calendar_programs_want_it()
    {
        using var client = server.Client();
        using var first = await client.GetAsync(server.Address("feed"), Stop);
        Assert.Equal("text/calendar; charset=utf-8", first.Content.Headers.ContentType?.ToString());
        Assert.Equal("tidepool-biology-9a.ics", first.Content.Headers.ContentDisposition?.FileName?.Trim('"'));
        Assert.NotNull(first.Content.Headers.LastModified);
        Assert.False(first.Headers.ETag!.IsWeak);
        using var again = new HttpRequestMessage(HttpMethod.Get, server.Address("feed"))
        {
            Headers = { IfNoneMatch = { first.Headers.ETag } },
        };
        using var unchanged = await client.SendAsync(again, Stop);
        Assert.Equal(HttpStatusCode.NotModified, unchanged.StatusCode);
        Assert.Empty(await unchanged.Content.ReadAsByteArrayAsync(Stop));
        foreach (
            var (since, status) in new[]
            {
                (first.Content.Headers.LastModified, 304),
                (first.Content.Headers.LastModified!.Value.AddSeconds(-1), 200),
            }
        )
        {
            using var dated = new HttpRequestMessage(HttpMethod.Get, server.Address("feed"))
            {
                Headers = { IfModifiedSince = since },
            };
            using var answer = await client.SendAsync(dated, Stop);
            Assert.Equal(status, (int)answer.StatusCode);
        }

        // Packed where it is asked for, under an ETag of its own (RFC 9110 §8.8.3.3), by which it is known again in any packing.
        foreach (
            var (accept, coding) in new[]
            {
                ("gzip, deflate, br", "br"),
                ("gzip", "gzip"),
                ("br;q=0, gzip;q=0.5", "gzip"),
                ("deflate", null),
                ("br;q=0", null),
            }
        )
        {
            using var ask = new HttpRequestMessage(HttpMethod.Get, server.Address("feed"))
            {
                Headers = { { "Accept-Encoding", accept } },
            };
            using var packed = await client.SendAsync(ask, Stop);
            Assert.Equal(coding, packed.Content.Headers.ContentEncoding.SingleOrDefault());
            Assert.Equal(["Accept-Encoding"], packed.Headers.Vary);
            await using var bytes = await packed.Content.ReadAsStreamAsync(Stop);
            await using var unpacked = coding switch
            {
                "br" => new BrotliStream(bytes, CompressionMode.Decompress),
                "gzip" => new GZipStream(bytes, CompressionMode.Decompress),
                _ => bytes,
            };
            using var text = new StreamReader(unpacked);
            Assert.Equal(await first.Content.ReadAsStringAsync(Stop), await text.ReadToEndAsync(Stop));
            Assert.Equal(coding is null, first.Headers.ETag.Equals(packed.Headers.ETag));
            using var known = new HttpRequestMessage(HttpMethod.Get, server.Address("feed"))
            {
                Headers = { IfNoneMatch = { packed.Headers.ETag! } },
            };
            using var still = await client.SendAsync(known, Stop);
            Assert.Equal(HttpStatusCode.NotModified, still.StatusCode);
        }

        using var head = await client.SendAsync(new HttpRequestMessage(HttpMethod.Head, server.Address("feed")), Stop);
        Assert.Equal(HttpStatusCode.OK, head.StatusCode);
        Assert.Equal(first.Headers.ETag, head.Headers.ETag);
        Assert.Empty(await head.Content.ReadAsByteArrayAsync(Stop));
        Assert.False(first.Headers.Contains("Set-Cookie"));
    }

    [Theory]
    [InlineData("/feeds/00000000000000000000000000.ics")]
    [InlineData("/feeds/x.ics")]
    [InlineData("/embed/00000000000000000000000000")]
    [InlineData("/in/tide-xxxxx")]
    [InlineData("/in/tide-xxxxx/enter")]
    [InlineData("/m/00000000000000000000000000")]
    [InlineData("/c/no-such-class")]
    [InlineData("/c/staff-hour")] // closed to visitors: looks like one that is not there
    public async Task What_is_not_there_and_what_is_closed_look_the_same(string path)
    {
        using var client = server.Client();
        using var answer = await client.GetAsync(path, Stop);
        Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
        Assert.Contains(
            "There is nothing at this address",
            await answer.Content.ReadAsStringAsync(Stop),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_feed_that_was_ended_answers_as_one_that_never_was()
    {
        using var teacher = await new Visitor(await server.SignedInAnew(DemoServer.Teacher)).Open("/");
        await (await (await teacher.Follow("Calendars")).Follow("Coastal Weather 10")).Follow("Publishing");
        var feed = teacher.ValueOf("Address of the feed");
        using var reader = server.Client();
        Assert.Equal(HttpStatusCode.OK, (await reader.GetAsync(feed, Stop)).StatusCode);
        await teacher.Press("Turn off the feed");
        var (gone, never) = (
            await reader.GetAsync(feed, Stop),
            await reader.GetAsync("/feeds/00000000000000000000000000.ics", Stop)
        );
        Assert.Equal(HttpStatusCode.NotFound, gone.StatusCode);
        Assert.Equal(await never.Content.ReadAsStringAsync(Stop), await gone.Content.ReadAsStringAsync(Stop));
    }

    [Fact]
    public async Task An_embed_may_be_framed_by_its_sites_alone_and_needs_no_cookie()
    {
        using var client = server.Client();
        using var answer = await client.GetAsync(server.Address("embed"), Stop);
        var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
        Assert.EndsWith("frame-ancestors 'self' https://www.skerry.example", policy, StringComparison.Ordinal);
        Assert.False(answer.Headers.Contains("Set-Cookie"));
        Assert.False(answer.Headers.Contains("X-Frame-Options"));
        // One small script tells its height to the page around it; all else is there without.
        Assert.Equal(2, (await answer.Content.ReadAsStringAsync(Stop)).Split("<script").Length);
    }

    [Fact]
    public async Task Handouts_open_as_what_they_are()
    {
        using var client = await server.SignedIn(DemoServer.Student);
        var page = await client.GetStringAsync(server.Address("class page"), Stop);
        using var file = await client.GetAsync(MaterialAddress().Match(page).Value, Stop);
        Assert.Equal("application/pdf", file.Content.Headers.ContentType?.ToString());
        Assert.StartsWith("inline", file.Content.Headers.ContentDisposition?.ToString(), StringComparison.Ordinal);
        Assert.Equal("nosniff", file.Headers.GetValues("X-Content-Type-Options").Single());
        Assert.StartsWith("%PDF-", await file.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
    }

    // Every address that a code leads to counts.
    private static readonly string[] GuessedAt = ["", "/enter", "/qr.svg", "/qr.png"];

    [Fact]
    public async Task Guessing_is_slowed()
    {
        using var own = new DemoServer();
        using var client = own.Client();
        for (var turn = 0; turn < Serving.GuessLimiter.Misses; turn++)
            Assert.Equal(
                HttpStatusCode.NotFound,
                (await client.GetAsync($"/in/tide-{turn:00000}{GuessedAt[turn % 4]}", Stop)).StatusCode
            );
        foreach (var address in new[] { "/in/tide-00000", "/in/tide-00000/enter", own.Address("short address") })
            Assert.Equal(HttpStatusCode.TooManyRequests, (await client.GetAsync(address, Stop)).StatusCode);
        // Addresses that nobody can guess, and class pages, go on.
        foreach (var address in new[] { own.Address("feed"), own.Address("embed"), own.Address("open to anyone") })
            Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(address, Stop)).StatusCode);
        // So does a short address that the network has opened before, as a signed-in teacher there does at nine.
        using var teacher = await own.SignedIn(DemoServer.Teacher);
        Assert.Equal(
            HttpStatusCode.OK,
            (await teacher.GetAsync(own.Address("short address") + "?look=1", Stop)).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await client.GetAsync(own.Address("short address") + "?look=1", Stop)).StatusCode
        );
        Assert.Equal(HttpStatusCode.TooManyRequests, (await client.GetAsync("/in/tide-00000", Stop)).StatusCode);
    }

    private static List<string> Days(string html) => [.. DayText().Matches(html).Select(match => match.Value)];

    [GeneratedRegex("(Mon|Tue|Wed|Thu|Fri) \\d{1,2} (Sep|Oct|Nov|Dec)(?=<|, <time)")]
    private static partial Regex DayText();

    [GeneratedRegex(" movable\"")]
    private static partial Regex SheetSession();

    [GeneratedRegex("/m/[0-9a-z]{26}")]
    private static partial Regex MaterialAddress();
}
