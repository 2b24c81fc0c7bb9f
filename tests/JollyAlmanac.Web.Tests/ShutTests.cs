using System.Net;
using System.Net.Sockets;
using System.Text;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Storage;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;

namespace JollyAlmanac.Web.Tests;

/// <summary>What strangers, the signed out, guessers and other users of the machine cannot do.</summary>
public sealed class ShutTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    // Each part of a request in turn: another answer must be kept under another key, or not at all.
    [Fact]
    public void What_is_kept_for_strangers_is_known_by_the_whole_request()
    {
        static DefaultHttpContext Plain()
        {
            var context = new DefaultHttpContext();
            (context.Request.Method, context.Request.Scheme, context.Request.Host, context.Request.Path) = (
                "GET",
                "https",
                new HostString("almanac.example"),
                "/in/tidepool-7k"
            );
            return context;
        }

        ResponseKey? Key(Action<HttpRequest> change, string? stateVersion = "7 1 2")
        {
            var context = Plain();
            change(context.Request);
            return ResponseKey.Of(context.Request, stateVersion);
        }

        var plain = Key(_ => { });
        Assert.NotNull(plain);
        Assert.Equal(plain, Key(request => request.Headers.UserAgent = "another"));
        foreach (
            var change in new Action<HttpRequest>[]
            {
                request => request.Method = "POST",
                request => request.Method = "HEAD",
                request => request.PathBase = "/base",
                request => request.Headers.Cookie = "almanac=x",
                request => request.Headers.Authorization = "Bearer x",
                request => request.Headers.Range = "bytes=0-1",
                request => request.Headers["HX-Request"] = "true",
                request => request.QueryString = new QueryString("?guest=x"),
                request => request.QueryString = new QueryString("?look=1&guest=x"),
                request => request.QueryString = new QueryString("?look=1&failed=1"),
                request => request.QueryString = new QueryString("?look=2"),
                request => request.QueryString = new QueryString("?LOOK=1"),
                request => request.QueryString = new QueryString("?"),
            }
        )
            Assert.Null(Key(change));
        Assert.Null(Key(_ => { }, stateVersion: null));
        var others = new Action<HttpRequest>[]
        {
            request => request.Scheme = "http",
            request => request.Host = new HostString("other.example"),
            request => request.Host = new HostString("almanac.example", 8443),
            request => request.Path = "/in/tidepool-8k",
            request => request.QueryString = new QueryString("?look=1"),
        }
            .Select(change => Key(change))
            .Append(Key(_ => { }, "8 1 2"))
            .Append(plain)
            .ToList();
        Assert.DoesNotContain(null, others);
        Assert.Equal(others.Count, others.Distinct().Count());
        Assert.Equal(others.Count, others.Select(key => key!.ToString()).Distinct().Count());
    }

    [Fact]
    public async Task One_request_of_a_stranger_replaces_no_door_for_others()
    {
        server.Set(14, 7, 30);
        using var stranger = server.Client();
        var before = await stranger.GetStringAsync("/in/tidepool-7k?look=1", Stop);
        foreach (
            var query in new[]
            {
                "?look=1&failed=1",
                "?failed=1&look=1",
                "?look=1&guest=00000000000000000000000000",
                "?guest=x&look=1&code=marchbanks",
                "?look=1&code=marchbanks",
            }
        )
        {
            using var fresh = server.Client();
            await fresh.GetStringAsync("/in/tidepool-7k" + query, Stop);
            using var next = server.Client();
            var after = await next.GetStringAsync("/in/tidepool-7k?look=1", Stop);
            Assert.DoesNotContain("could not be reached", after, StringComparison.Ordinal);
            // The class is not open to strangers, so that nothing of it is told.
            Assert.DoesNotContain("Tidepool Biology", after, StringComparison.Ordinal);
            Assert.Contains("Opens at", after, StringComparison.Ordinal);
        }

        Assert.Contains("Opens at", before, StringComparison.Ordinal);
    }

    // RFC 9112 §3.2: a request must name its host; which names are ours is our own rule.
    [Theory]
    [InlineData("GET", "", 400)]
    [InlineData("GET", "evil.example", 400)]
    [InlineData("GET", "evil:99999", 400)]
    [InlineData("GET", "127.0.0.1:1", 400)]
    [InlineData("GET", "user@127.0.0.1:PORT", 400)]
    [InlineData("GET", "127.0.0.1:PORT/x", 400)]
    [InlineData("GET", "127.0.0.1:PORT", 200)]
    [InlineData("GET", "localhost:PORT", 200)]
    [InlineData("HEAD", "127.0.0.1:PORT", 200)]
    [InlineData("TRACE", "127.0.0.1:PORT", 405)]
    [InlineData("PUT", "127.0.0.1:PORT", 405)]
    [InlineData("DELETE", "127.0.0.1:PORT", 405)]
    [InlineData("OPTIONS", "127.0.0.1:PORT", 405)]
    public async Task Only_its_own_hosts_and_methods_are_answered(string method, string host, int status)
    {
        var text = await Raw(
            $"{method} /sign-in HTTP/1.1\r\nHost: {host.Replace("PORT", server.Root.Port.ToString(System.Globalization.CultureInfo.InvariantCulture), StringComparison.Ordinal)}\r\nConnection: close\r\n\r\n"
        );
        Assert.StartsWith($"HTTP/1.1 {status} ", text, StringComparison.Ordinal);
        Assert.DoesNotContain("evil", text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task After_signing_out_a_copy_of_the_cookie_is_worth_nothing()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        using var signIn = server.Client();
        using var welcome = await DemoServer.Post(
            signIn,
            "/sign-in",
            new() { ["Email"] = DemoServer.Teacher, ["Password"] = DemoServer.Password }
        );
        var cookie = welcome
            .Headers.GetValues("Set-Cookie")
            .Single(one => one.StartsWith("almanac=", StringComparison.Ordinal))
            .Split(';')[0];
        async Task<HttpStatusCode> Ask()
        {
            using var bare = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false })
            {
                BaseAddress = server.Root,
            };
            using var request = new HttpRequestMessage(HttpMethod.Get, "/today");
            request.Headers.Add("Cookie", cookie);
            using var answer = await bare.SendAsync(request, Stop);
            return answer.StatusCode;
        }

        Assert.Equal(HttpStatusCode.OK, await Ask());
        using var gone = await DemoServer.Post(signIn, "/today", [], "/sign-out");
        Assert.Equal(HttpStatusCode.Redirect, await Ask());
        // Other sign-ins of the same person go on.
        using var other = await client.GetAsync("/today", Stop);
        Assert.Equal(HttpStatusCode.OK, other.StatusCode);
    }

    [Fact]
    public async Task Who_is_signed_in_is_no_guesser_and_pages_are_not_stored()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        for (var turn = 0; turn < GuessLimiter.Misses + 20; turn++)
        {
            using var miss = await client.GetAsync($"/m/{turn:00000000000000000000000000}", Stop);
            Assert.Equal(HttpStatusCode.NotFound, miss.StatusCode);
        }

        foreach (
            var path in new[]
            {
                "/today",
                $"/c/{DemoServer.Class}",
                "/in/tidepool-7k?look=1",
                "/set-up",
                $"/calendars/{DemoServer.Class}",
            }
        )
        {
            using var page = await client.GetAsync(path, Stop);
            Assert.Equal((path, HttpStatusCode.OK, true), (path, page.StatusCode, page.Headers.CacheControl?.NoStore));
        }
    }

    [Theory]
    [InlineData("203.0.113.7", "203.0.113.7")]
    [InlineData("::ffff:203.0.113.7", "203.0.113.7")]
    [InlineData("2001:db8:1:2:3:4:5:6", "2001:db8:1:2::/64")]
    [InlineData("2001:db8:1:2:ffff::1", "2001:db8:1:2::/64")]
    [InlineData("2001:db8:1:3::1", "2001:db8:1:3::/64")]
    public void A_network_of_IPv6_is_its_64_bits(string address, string network) =>
        Assert.Equal(network, RequestContext.NetworkOf(IPAddress.Parse(address)));

    [Fact]
    public async Task What_is_long_or_wrong_is_answered_briefly()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        using var stranger = server.Client();
        using var email = await DemoServer.Post(
            stranger,
            "/sign-in",
            new() { ["Email"] = new string('a', 300_000), ["Password"] = "x" }
        );
        Assert.InRange((int)email.StatusCode, 400, 429);
        using var huge = await stranger.PostAsync(
            "/sign-in",
            new FormUrlEncodedContent(new Dictionary<string, string> { ["Email"] = new('a', 900_000) }),
            Stop
        );
        Assert.InRange((int)huge.StatusCode, 400, 429);
        var wrong = string.Join('\n', Enumerable.Range(0, 40_000).Select(at => $"bad {at}"));
        using var dates = await DemoServer.Post(
            client,
            $"/calendars/{DemoServer.Class}/series/new",
            new()
            {
                ["Title"] = "X",
                ["Meets"] = "dates",
                ["Dates"] = wrong,
                ["Start"] = "9:00",
                ["End"] = "9:50",
            }
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, dates.StatusCode);
        Assert.InRange((await dates.Content.ReadAsStringAsync(Stop)).Length, 1_000, 1_100_000); // the field itself, and a few problems
        foreach (
            var path in new[]
            {
                $"/calendars/{DemoServer.Class}/history?before=0",
                $"/calendars/{DemoServer.Class}/history?before=-1",
                $"/calendars/{DemoServer.Class}?term=0",
                $"/calendars/{DemoServer.Class}/sessions/1.9999-12-31T09:50",
                "/today/9999-12-31",
                "/week/0001-01-01",
            }
        )
        {
            using var page = await client.GetAsync(path, Stop);
            Assert.Contains(page.StatusCode, new[] { HttpStatusCode.OK, HttpStatusCode.NotFound });
        }

        foreach (var date in new[] { "9999-12-31", "-9998-01-01", "1949-12-31", "2151-01-01" })
        {
            using var far = await DemoServer.Post(
                client,
                $"/calendars/{DemoServer.Class}/series/new",
                new()
                {
                    ["Title"] = "X",
                    ["Meets"] = "dates",
                    ["Dates"] = date,
                    ["Start"] = "9:00",
                    ["End"] = "9:50",
                }
            );
            Assert.Equal((date, HttpStatusCode.UnprocessableEntity), (date, far.StatusCode));
        }

        using var twice = await DemoServer.Post(
            client,
            $"/calendars/{DemoServer.Class}/timetable",
            new()
            {
                ["text"] = "Lab MWF p1",
                ["act"] = "read",
                ["On.1"] = DemoServer.Class,
                ["On.01"] = DemoServer.Class,
            }
        );
        Assert.Equal(HttpStatusCode.OK, twice.StatusCode);
    }

    [Fact]
    public async Task Looking_makes_no_room_and_a_form_does()
    {
        server.Set(14, 7, 30);
        using var client = await server.SignedIn(DemoServer.Teacher);
        var database = server.Services.GetRequiredService<AlmanacDatabase>();
        string Rooms() =>
            database.Read(stores =>
                string.Join(' ', stores.JoinLinks.All().SelectMany(link => stores.JoinLinks.Past(link.Id, 100)).Count())
            );
        var link = database.Read(stores => stores.JoinLinks.Find(new JoinCode("tidepool-7k"))!);
        var input = LinkInput.Of(link);
        using var changed = await DemoServer.Post(
            client,
            "/join-links/tidepool-7k/edit",
            new()
            {
                ["act"] = "save",
                ["Name"] = input.Name!,
                ["Opens"] = "around",
                ["Lead"] = "10",
                ["Late"] = "20",
                ["Audience"] = "anyone",
                ["Renews"] = "true",
                ["ShowsDetails"] = "true",
                ["Version"] = link.Version.ToString(System.Globalization.CultureInfo.InvariantCulture),
            }
        );
        Assert.Equal(HttpStatusCode.Redirect, changed.StatusCode);
        var before = Rooms();
        using var look = await client.GetAsync("/join-links/tidepool-7k/enter", Stop);
        Assert.Equal((HttpStatusCode.OK, true, before), (look.StatusCode, look.Headers.CacheControl!.NoStore, Rooms()));
        Assert.Contains(
            "Make the room and enter",
            await look.Content.ReadAsStringAsync(Stop),
            StringComparison.Ordinal
        );
        using var enter = await DemoServer.Post(
            client,
            "/join-links/tidepool-7k/enter",
            new() { ["act"] = "enter" },
            "/join-links/tidepool-7k"
        );
        // A browser follows no form to another site: the page leads on by itself, or by its link.
        Assert.Equal(
            (HttpStatusCode.OK, "0;url=/join-links/tidepool-7k/enter"),
            (enter.StatusCode, enter.Headers.GetValues("Refresh").Single())
        );
        Assert.NotEqual(before, Rooms());
        using var through = await client.GetAsync("/join-links/tidepool-7k/enter", Stop);
        Assert.Equal((HttpStatusCode.Redirect, true), (through.StatusCode, through.Headers.CacheControl!.NoStore));
        using var student = await server.SignedIn(DemoServer.Student);
        using var refused = await student.GetAsync("/join-links/tidepool-7k/enter", Stop);
        Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
    }

    [Fact]
    public async Task Files_are_shown_in_a_sandbox_and_licences_go_with_what_ships()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        var page = await client.GetStringAsync($"/c/{DemoServer.Class}", Stop);
        var file = System.Text.RegularExpressions.Regex.Match(page, "href=\"(/m/[^\"]+)\"").Groups[1].Value;
        using var shown = await client.GetAsync(file, Stop);
        var policy = shown.Headers.GetValues("Content-Security-Policy").Single();
        Assert.EndsWith("sandbox", policy, StringComparison.Ordinal);
        Assert.StartsWith("default-src 'none'", policy, StringComparison.Ordinal);
        foreach (var name in new[] { "htmx", "bricolage-grotesque", "atkinson-hyperlegible-next" })
            Assert.True((await client.GetStringAsync($"/lib/{name}.LICENSE.txt", Stop)).Length > 200);
        using var old = await client.GetAsync("/j/tidepool-7k", Stop);
        Assert.Equal(
            (HttpStatusCode.MovedPermanently, "/in/tidepool-7k"),
            (old.StatusCode, old.Headers.Location?.ToString())
        );
    }

    [Fact]
    public async Task Data_is_for_its_user_alone_and_cookies_for_its_host_alone()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-shut-").FullName;
        try
        {
            using var app = AlmanacServer.Build(
                new AlmanacSettings(
                    directory,
                    ["http://127.0.0.1:0"],
                    SystemClock.Instance,
                    new Uri("https://almanac.skerry.example/"),
                    StandInRooms: true
                )
            );
            app.Start();
            await app.Services.GetRequiredService<JollyAlmanac.Demo.Rooms.StandInRooms>().Make("Tide Room", Stop);
            if (!OperatingSystem.IsWindows())
                foreach (var name in new[] { "almanac.db", "rooms.json", "secret.key" })
                    Assert.Equal(
                        (name, UnixFileMode.UserRead | UnixFileMode.UserWrite),
                        (name, File.GetUnixFileMode(Path.Combine(directory, name)))
                    );
            using var client = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false })
            {
                BaseAddress = new Uri(app.Urls.Single()),
            };
            using var page = await client.GetAsync("/first-run", Stop);
            var cookies = page.Headers.GetValues("Set-Cookie").ToList();
            Assert.All(cookies, cookie =>
                Assert.True(
                    cookie.StartsWith("__Host-", StringComparison.Ordinal)
                        && cookie.Contains("; secure", StringComparison.OrdinalIgnoreCase)
                        && cookie.Contains("; path=/;", StringComparison.OrdinalIgnoreCase),
                    cookie
                )
            );
            Assert.NotEmpty(cookies);
            await app.StopAsync(Stop);
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(directory, recursive: true);
        }
    }

    [Fact]
    public async Task Of_two_first_runs_at_once_one_makes_the_school_and_codes_cannot_be_guessed()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-shut-").FullName;
        try
        {
            using var app = AlmanacServer.Build(
                new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance)
            );
            var create = app.Services.GetRequiredService<CreateSchool>();
            var input = new SchoolInput(
                "Skerry Isles School",
                "America/Halifax",
                "Monday",
                "Autumn term",
                "2026-09-08",
                "2026-12-18",
                "Wendeline Okafor",
                "wendeline@skerry.example",
                "a long password"
            );
            var both = await Task.WhenAll(
                Enumerable
                    .Range(0, 4)
                    .Select(at =>
                        Task.Run(() => create.Do(input with { ManagerEmail = $"w{at}@skerry.example" }), Stop)
                    )
            );
            Assert.Equal(1, both.Count(outcome => outcome.IsDone));
            var code = new SetUpCode();
            Assert.NotEqual(code.Text, new SetUpCode().Text);
            Assert.True(code.Is($" {code.Text.ToUpperInvariant().Replace('-', ' ')} "));
            for (var turn = 0; turn < SetUpCode.Tries; turn++)
                Assert.False(code.Is("abc-def-ghj-kmn"));
            Assert.Null(code.Is(code.Text));
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(directory, recursive: true);
        }
    }

    private async Task<string> Raw(string request)
    {
        using var socket = new TcpClient();
        await socket.ConnectAsync(IPAddress.Loopback, server.Root.Port, Stop);
        await using var stream = socket.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes(request), Stop);
        using var reader = new StreamReader(stream);
        return await reader.ReadToEndAsync(Stop);
    }
}
