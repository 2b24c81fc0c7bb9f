using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Web.Demo;
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

    private readonly string directory = System.IO.Directory.CreateTempSubdirectory("almanac-web-").FullName;
    private readonly WebApplication app;
    private readonly DemoClock clock = new();

    public DemoServer()
    {
        app = AlmanacServer.Build(new AlmanacSettings(directory, ["http://127.0.0.1:0"], clock, Uploads: new(64 * 1024), StandInRooms: true,
            Demo: DemoStory.SignIns));
        DemoData.Ensure(app.Services, directory, clock);
        Set(14, 9, 41);
        app.Start();
        Root = new Uri(app.Urls.Single() + "/");
        Greeting = DemoData.Greeting(app.Services, Root, isNew: true, new LocalDateTime(2026, 10, 14, 9, 41));
    }

    /// <summary>Sets the clock to a moment of October 2026, by the school's clock; it runs on from there.</summary>
    public void Set(int day, int hour, int minute, int second = 0) =>
        clock.Set(new LocalDateTime(2026, 10, day, hour, minute, second).InZoneLeniently(DateTimeZoneProviders.Tzdb[DemoStory.Zone])
            .ToInstant());

    public Uri Root { get; }

    /// <summary>What the command prints.</summary>
    public IServiceProvider Services => app.Services;

    public string Greeting { get; }

    /// <summary>Where its data is.</summary>
    public string Directory => directory;

    public static string Password => DemoStory.SignIns.Password;

    public string Address(string name) => Regex.Match(Greeting, $"^{name} +(\\S+)", RegexOptions.Multiline).Groups[1].Value;

    /// <summary>A browser-like client with cookies of its own that follows nothing by itself.</summary>
    public HttpClient Client() =>
        new(new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }) { BaseAddress = Root };

    public async Task<HttpClient> SignedIn(string email)
    {
        var client = Client();
        using var answer = await Post(client, "/sign-in", new() { ["Email"] = email, ["Password"] = Password });
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return client;
    }

    /// <summary>Posts a form with the token of the page that holds it.</summary>
    public static async Task<HttpResponseMessage> Post(HttpClient client, string page, Dictionary<string, string> fields, string? to = null)
    {
        var html = await client.GetStringAsync(new Uri(page, UriKind.Relative));
        fields["__RequestVerificationToken"] = TokenPattern().Match(html).Groups[1].Value;
        return await client.PostAsync(new Uri(to ?? page, UriKind.Relative), new FormUrlEncodedContent(fields));
    }

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
