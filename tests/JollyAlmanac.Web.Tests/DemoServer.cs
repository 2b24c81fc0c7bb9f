using System.Collections.Concurrent;
using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Demo;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.Hosting;
using NodaTime;

namespace JollyAlmanac.Web.Tests;

/// <summary>The demo, served in this process on a free port, with its clock at Wed 14 Oct 2026, 9:41.</summary>
public sealed partial class DemoServer : IDisposable
{
    public const string Coordinator = "wendeline.okafor@skerry.example";
    public const string Teacher = "orla.marchbanks@skerry.example";
    public const string Student = "teodor.quill@students.skerry.example";
    public const string Class = "tidepool-biology-9a";

    /// <summary>A class whose page is open to anyone.</summary>
    public const string OpenClass = DemoStory.OpenClass;

    // Told once for all servers of this process; each has a copy.
    private static readonly Lazy<string> Told = new(() =>
    {
        var told = System.IO.Directory.CreateTempSubdirectory("almanac-told-").FullName;
        var clock = new DemoClock();
        using (var app = AlmanacServer.Build(Settings(told, clock)))
            DemoData.Ensure(app.Services, told, clock);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => System.IO.Directory.Delete(told, recursive: true);
        return told;
    });

    private readonly string directory = System.IO.Directory.CreateTempSubdirectory("almanac-web-").FullName;
    private readonly ConcurrentDictionary<string, Task<CookieCollection>> signedIn = new();
    private readonly WebApplication app;
    private readonly DemoClock clock = new();

    public DemoServer()
    {
        foreach (var file in System.IO.Directory.EnumerateFiles(Told.Value, "*", SearchOption.AllDirectories))
        {
            var copy = Path.Combine(directory, Path.GetRelativePath(Told.Value, file));
            System.IO.Directory.CreateDirectory(Path.GetDirectoryName(copy)!);
            File.Copy(file, copy);
        }

        app = AlmanacServer.Build(Settings(directory, clock));
        Set(14, 9, 41);
        app.Start();
        Root = new Uri(app.Urls.Single() + "/");
        Greeting = DemoData.Greeting(app.Services, Root, isNew: true, new LocalDateTime(2026, 10, 14, 9, 41));
    }

    /// <summary>Sets the clock to a moment of October 2026, by the school's clock; it runs on from there.</summary>
    public void Set(int day, int hour, int minute, int second = 0)
    {
        // A sign-in lasts for a school day.
        if (day != setTo)
            signedIn.Clear();
        setTo = day;
        clock.Set(
            new LocalDateTime(2026, 10, day, hour, minute, second)
                .InZoneLeniently(DateTimeZoneProviders.Tzdb[DemoStory.Zone])
                .ToInstant()
        );
    }

    private int setTo;

    public Uri Root { get; }

    /// <summary>What the command prints.</summary>
    public IServiceProvider Services => app.Services;

    public string Greeting { get; }

    /// <summary>Where its data is.</summary>
    public string Directory => directory;

    public static string Password => DemoStory.SignIns.Password;

    public string Address(string name) =>
        Regex.Match(Greeting, $"^{name} +(\\S+)", RegexOptions.Multiline).Groups[1].Value;

    /// <summary>A browser-like client with cookies of its own that follows nothing by itself.</summary>
    public HttpClient Client() => Client(new CookieContainer());

    private HttpClient Client(CookieContainer cookies) =>
        new(new SocketsHttpHandler { CookieContainer = cookies, AllowAutoRedirect = false }) { BaseAddress = Root };

    /// <summary>
    /// A client that is signed in. All of one person share a sign-in: who ends it signs in by <see cref="SignedInAnew"/>.
    /// </summary>
    public async Task<HttpClient> SignedIn(string email)
    {
        var cookies = new CookieContainer();
        cookies.Add(await signedIn.GetOrAdd(email, async _ =>
            {
                var (client, kept) = await Enter(email);
                client.Dispose();
                return kept.GetCookies(Root);
            }));
        return Client(cookies);
    }

    /// <summary>A client with a sign-in of its own.</summary>
    public async Task<HttpClient> SignedInAnew(string email) => (await Enter(email)).Client;

    private async Task<(HttpClient Client, CookieContainer Cookies)> Enter(string email)
    {
        var cookies = new CookieContainer();
        var client = Client(cookies);
        using var answer = await Post(client, "/sign-in", new() { ["Email"] = email, ["Password"] = Password });
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return (client, cookies);
    }

    /// <summary>Posts a form with the token of the page that holds it.</summary>
    public static async Task<HttpResponseMessage> Post(
        HttpClient client,
        string page,
        Dictionary<string, string> fields,
        string? to = null
    )
    {
        var html = await client.GetStringAsync(new Uri(page, UriKind.Relative));
        fields["__RequestVerificationToken"] = TokenOf(html);
        return await client.PostAsync(new Uri(to ?? page, UriKind.Relative), new FormUrlEncodedContent(fields));
    }

    /// <summary>The token of the forms of a page.</summary>
    public static string TokenOf(string html) => TokenPattern().Match(html).Groups[1].Value;

    private static AlmanacSettings Settings(string directory, DemoClock clock) =>
        new(
            directory,
            ["http://127.0.0.1:0"],
            clock,
            Uploads: new(64 * 1024),
            StandInRooms: true,
            Demo: DemoStory.SignIns,
            OpenId: OpenIdSettings.StandIn
        )
        {
            PasswordRounds = 1_000,
        };

    public void Dispose()
    {
        app.StopAsync().GetAwaiter().GetResult();
        ((IDisposable)app).Dispose();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        System.IO.Directory.Delete(directory, recursive: true);
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex TokenPattern();
}
