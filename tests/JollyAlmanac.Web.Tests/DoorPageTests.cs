using System.Net;
using JollyAlmanac.Web.Serving;
using QRCoder;

namespace JollyAlmanac.Web.Tests;

/// <summary>What a visitor finds at a short address, by the hour.</summary>
public sealed class DoorPageTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    // Tidepool room on Wed 14 Oct: 9A 9:50, helpers' hour 11:40, 9C 12:35. It shows its details.
    [Theory]
    [InlineData(14, 9, 20, "Opens at 9:40", false)]
    [InlineData(14, 9, 41, "Open until 10:10", true)]
    [InlineData(14, 10, 20, "Closed to late arrivals since 10:10", false)]
    [InlineData(14, 10, 50, "Opens at 11:30", false)]
    [InlineData(14, 12, 27, "Open until 12:55", true)]
    [InlineData(14, 16, 0, "Over for today", false)]
    [InlineData(15, 9, 41, "Nothing is scheduled today", false)]
    public async Task The_door_says_how_it_stands_and_lets_in_only_while_it_is_open(
        int day,
        int hour,
        int minute,
        string heading,
        bool isOpen
    )
    {
        server.Set(day, hour, minute);
        using var client = server.Client();
        using var answer = await client.GetAsync("/in/tidepool-7k", Stop);
        var html = await answer.Content.ReadAsStringAsync(Stop);
        Assert.Contains($"<h2>{heading}</h2>", html, StringComparison.Ordinal);
        Assert.Contains("no-store", answer.Headers.CacheControl?.ToString(), StringComparison.Ordinal);
        Assert.Equal(isOpen, html.Contains("/enter\"", StringComparison.Ordinal));
        Assert.Equal(isOpen, html.Contains("Passcode", StringComparison.Ordinal));
        using var enter = await client.GetAsync("/in/tidepool-7k/enter", Stop);
        Assert.Equal(HttpStatusCode.Redirect, enter.StatusCode);
        Assert.StartsWith(
            isOpen ? $"{server.Root}rooms/" : "/in/tidepool-7k?look=1",
            enter.Headers.Location?.ToString(),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_link_without_details_leads_straight_in_while_it_is_open_and_looking_never_does()
    {
        using var teacher = await server.SignedIn(DemoServer.Coordinator);
        server.Set(14, 8, 50);
        var html = await teacher.GetStringAsync("/calendars/coastal-weather-10", Stop);
        var at = html.IndexOf("/in/weather-", StringComparison.Ordinal);
        var code = html[at..html.IndexOf('"', at)];
        using var client = server.Client();
        Assert.Equal($"{code}/enter", (await client.GetAsync(code, Stop)).Headers.Location?.ToString());
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync($"{code}?look=1", Stop)).StatusCode);
        server.Set(14, 8, 30);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(code, Stop)).StatusCode);
    }

    // The page is kept for those unknown, so each way it may change is seen at once.
    [Fact]
    public async Task What_is_kept_of_a_door_is_never_old()
    {
        using var own = new DemoServer();
        using var client = own.Client();
        using var teacher = await own.SignedIn(DemoServer.Teacher);
        Task<string> Ask() => client.GetStringAsync("/in/tidepool-7k?look=1", Stop);
        Assert.Contains("Open until 10:10", await Ask(), StringComparison.Ordinal);
        Assert.Equal(await Ask(), await Ask());
        var board = await teacher.GetStringAsync("/join-links/tidepool-7k", Stop);
        Assert.Contains("Tidepool room", board, StringComparison.Ordinal);
        using var shut = await DemoServer.Post(
            teacher,
            "/join-links/tidepool-7k",
            new() { ["act"] = "shut", ["version"] = Version(board) }
        );
        Assert.Equal(HttpStatusCode.Redirect, shut.StatusCode);
        Assert.Contains("Closed by the host", await Ask(), StringComparison.Ordinal);
        own.Set(14, 10, 40, 1);
        Assert.Contains("Opens at 11:30", await Ask(), StringComparison.Ordinal);
        Assert.DoesNotContain("You are a host here", await Ask(), StringComparison.Ordinal);
        Assert.Contains(
            "You are a host here",
            await teacher.GetStringAsync("/in/tidepool-7k", Stop),
            StringComparison.Ordinal
        );
        using var stale = await DemoServer.Post(
            teacher,
            "/join-links/tidepool-7k",
            new() { ["act"] = "open", ["version"] = Version(board) }
        );
        Assert.Equal(HttpStatusCode.Conflict, stale.StatusCode);
    }

    [Fact]
    public async Task The_entry_word_opens_a_door_of_the_school_in_this_browser_alone()
    {
        server.Set(14, 9, 41);
        using var client = server.Client();
        Assert.Contains(
            "This is for people of the school",
            await client.GetStringAsync("/in/marchbanks", Stop),
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "/in/marchbanks",
            (await client.GetAsync("/in/marchbanks/enter", Stop)).Headers.Location?.ToString(),
            StringComparison.Ordinal
        );
        using var wrong = await DemoServer.Post(
            client,
            "/in/marchbanks?look=1",
            new() { ["word"] = "limpet" },
            "/in/marchbanks"
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        using var right = await DemoServer.Post(
            client,
            "/in/marchbanks?look=1",
            new() { ["word"] = "Periwinkle" },
            "/in/marchbanks"
        );
        Assert.Equal("/in/marchbanks?look=1", right.Headers.Location?.ToString());
        var cookie = right
            .Headers.GetValues("Set-Cookie")
            .Single(one => one.StartsWith("almanac-word-", StringComparison.Ordinal));
        Assert.Contains("path=/in/marchbanks", cookie, StringComparison.Ordinal);
        Assert.Contains("httponly", cookie, StringComparison.Ordinal);
        Assert.StartsWith(
            $"{server.Root}rooms/",
            (await client.GetAsync("/in/marchbanks/enter", Stop)).Headers.Location?.ToString(),
            StringComparison.Ordinal
        );
        using var other = server.Client();
        Assert.Contains(
            "This is for people of the school",
            await other.GetStringAsync("/in/marchbanks", Stop),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Guessing_the_entry_word_is_slowed_at_that_door_alone()
    {
        using var own = new DemoServer();
        using var client = own.Client();
        async Task<HttpStatusCode> Guess(string word)
        {
            using var answer = await DemoServer.Post(
                client,
                "/in/marchbanks?look=1",
                new() { ["word"] = word },
                "/in/marchbanks"
            );
            return answer.StatusCode;
        }

        for (var turn = 0; turn < GuessLimiter.WrongWords; turn++)
            Assert.Equal(HttpStatusCode.UnprocessableEntity, await Guess($"word{turn}"));
        Assert.Equal(HttpStatusCode.TooManyRequests, await Guess("periwinkle"));
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/in/tidepool-7k?look=1", Stop)).StatusCode);
    }

    [Fact]
    public async Task A_short_address_comes_as_a_qr_code()
    {
        using var client = server.Client();
        Assert.StartsWith(
            "<svg",
            await client.GetStringAsync("/in/tidepool-7k/qr.svg", Stop),
            StringComparison.Ordinal
        );
        var png = await client.GetByteArrayAsync("/in/tidepool-7k/qr.png", Stop);
        Assert.Equal([0x89, (byte)'P', (byte)'N', (byte)'G'], png[..4]);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/in/no-such-link/qr.svg", Stop)).StatusCode);
        // Module by module as QRCoder 1.8.1 draws it in text, where two letters are a module.
        var address = new Uri("https://almanac.example/in/tidepool-7k");
        using var code = QRCodeGenerator.GenerateQrCode(address.AbsoluteUri, QRCodeGenerator.ECCLevel.M);
        using var text = new AsciiQRCode(code);
        var dark = text.GetLineByLineGraphic(1, "##", "..")
            .SelectMany(
                (line, y) =>
                    Enumerable.Range(0, line.Length / 2).Where(x => line[2 * x] == '#').Select(x => $"M{x} {y}h1v1h-1z")
            );
        Assert.Equal(
            string.Concat(dark),
            System.Text.RegularExpressions.Regex.Match(QrPicture.Svg(address), " d=\"([^\"]+)\"").Groups[1].Value
        );
    }

    private static string Version(string html) =>
        System
            .Text.RegularExpressions.Regex.Match(
                html[html.IndexOf("id=\"chosen\"", StringComparison.Ordinal)..],
                "name=\"version\" value=\"(\\d+)\""
            )
            .Groups[1]
            .Value;
}
