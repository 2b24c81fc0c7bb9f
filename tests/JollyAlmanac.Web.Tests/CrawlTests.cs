using System.Collections.Concurrent;
using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Storage;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// Before a door opens, nobody finds what is behind it: looked for on every page, feed, embed and log line, as every kind of person.
/// </summary>
public sealed partial class CrawlTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static readonly string[] Endless = ["/today/", "/week/", "/join-links?day="];

    [Theory]
    [InlineData(null)]
    [InlineData(DemoServer.Student)]
    [InlineData(DemoServer.Teacher)]
    [InlineData(DemoServer.Coordinator)]
    public async Task No_page_feed_embed_or_log_holds_what_opens_a_room(string? email)
    {
        server.Set(14, 7, 30);
        using var log = new CaughtLog();
        server.Services.GetRequiredService<ILoggerFactory>().AddProvider(log);
        var secrets = server
            .Services.GetRequiredService<AlmanacDatabase>()
            .Read(stores =>
                stores
                    .JoinLinks.All()
                    .Select(link => stores.JoinLinks.TargetOf(link.Id))
                    .SelectMany(target =>
                        new[]
                        {
                            target.Address.Authority + target.Address.PathAndQuery,
                            target.Passcode,
                            target.PasscodeInside ?? "",
                            target.MeetingId,
                        }
                    )
                    .Where(secret => secret.Length >= 4)
                    .Distinct()
                    .ToList()
            );
        Assert.InRange(secrets.Count, 20, 100);
        using var client = email is null ? server.Client() : await server.SignedIn(email);
        var open = new Queue<string>([
            .. GateTests.Pages,
            server.Address("feed"),
            server.Address("embed"),
            server.Address("short address"),
            server.Address("short address") + "/enter",
        ]);
        var (seen, sessions, people) = (new HashSet<string>(), new HashSet<string>(), 0);
        while (open.TryDequeue(out var path))
        {
            // Days and weeks go on for ever, those named above stand for them; of a series' sessions the first one looked at does. A host's
            // way in is the one page that leads there.
            if (
                Endless.Any(start => path.StartsWith(start, StringComparison.Ordinal))
                && !GateTests.Pages.Contains(path)
            )
                continue;
            if (
                path.StartsWith("/join-links/", StringComparison.Ordinal)
                && path.Contains("/enter", StringComparison.Ordinal)
            )
                continue;
            if (path.Split("/sessions/") is [_, var key] && !sessions.Add(key.Split('.')[0]))
                continue;
            // The hundredth person, group or page of history is like the first.
            if (path.Split('/', '?') is ["", "people" or "mail" or "history", ..] && ++people > 80)
                continue;
            // The one door that is open at any hour leads in at any hour.
            if (path == "/in/marchbanks/enter")
                continue;
            if (!seen.Add(path))
                continue;
            using var answer = await client.GetAsync(path, Stop);
            var text = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Stop)) + answer.Headers.Location;
            Assert.DoesNotContain(secrets, secret => text.Contains(secret, StringComparison.Ordinal));
            foreach (Match link in OwnLink().Matches(text))
                open.Enqueue(WebUtility.HtmlDecode(link.Groups[1].Value));
        }

        Assert.InRange(seen.Count, 10, 1500);
        // An open door leads there, and still no log says where.
        server.Set(14, 9, 45);
        using var through = await client.GetAsync(server.Address("short address") + "/enter", Stop);
        Assert.Contains(secrets, secret =>
            through.Headers.Location!.ToString().Contains(secret, StringComparison.Ordinal)
        );
        Assert.DoesNotContain(log.Lines, line =>
            secrets.Exists(secret => line.Contains(secret, StringComparison.Ordinal))
        );
    }

    [GeneratedRegex("href=\"(/[^\"#]*)\"")]
    private static partial Regex OwnLink();

    private sealed class CaughtLog : ILoggerProvider, ILogger
    {
        public ConcurrentQueue<string> Lines { get; } = new();

        public ILogger CreateLogger(string categoryName) => this;

        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => true;

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        ) => Lines.Enqueue(formatter(state, exception) + exception);

        public void Dispose() { }
    }
}
