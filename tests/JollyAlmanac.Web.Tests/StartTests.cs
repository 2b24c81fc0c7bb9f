using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Reflection;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Demo;
using JollyAlmanac.Web.Serving;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;

namespace JollyAlmanac.Web.Tests;

/// <summary>Starting: the first run of a real school, wrong calls, and how the projects hang together.</summary>
public sealed class StartTests : IDisposable
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private readonly string directory = Directory.CreateTempSubdirectory("almanac-start-").FullName;

    [Fact]
    public async Task An_empty_school_leads_to_its_first_run_and_then_on_to_setting_up()
    {
        using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance)
        );
        app.Start();
        using var client = new HttpClient(
            new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
        )
        {
            BaseAddress = new Uri(app.Urls.Single()),
        };
        Assert.Equal("/first-run", (await client.GetAsync("/calendars", Stop)).Headers.Location?.ToString());
        // Neither says that nobody has set it up yet.
        Assert.Equal(
            ("alive\n", "ready\n"),
            (await client.GetStringAsync("/healthz", Stop), await client.GetStringAsync("/readyz", Stop))
        );
        var code = app.Services.GetRequiredService<SetUpCode>().Text;
        Dictionary<string, string> Form(string last) =>
            new()
            {
                ["SetUpCode"] = code.ToUpperInvariant(),
                ["Name"] = "Skerry Isles School",
                ["Zone"] = "America/Halifax",
                ["FirstDayOfWeek"] = "Monday",
                ["TermName"] = "Autumn term",
                ["TermFirst"] = "2026-09-08",
                ["TermLast"] = last,
                ["ManagerName"] = "Wendeline Okafor",
                ["ManagerEmail"] = "wendeline@skerry.example",
                ["ManagerPassword"] = "a long password",
            };
        using var wrong = await DemoServer.Post(client, "/first-run", Form("2026-09-01"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        var html = await wrong.Content.ReadAsStringAsync(Stop);
        Assert.Contains("The term ends before it starts", html, StringComparison.Ordinal);
        Assert.DoesNotContain("a long password", html, StringComparison.Ordinal);
        foreach (var guess in new[] { "", "abc", code + "x", "ABC-DEF-GHJ-KMN" })
        {
            var form = Form("2026-12-18");
            form["SetUpCode"] = guess;
            using var refused = await DemoServer.Post(client, "/first-run", form);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
            Assert.Contains(
                "That is not the code",
                await refused.Content.ReadAsStringAsync(Stop),
                StringComparison.Ordinal
            );
        }

        using var right = await DemoServer.Post(client, "/first-run", Form("2026-12-18"));
        Assert.Equal("/set-up", right.Headers.Location?.ToString());
        Assert.Equal("/", (await client.GetAsync("/first-run", Stop)).Headers.Location?.ToString());
        Assert.Contains("0 of 6 done", await client.GetStringAsync("/set-up", Stop), StringComparison.Ordinal);
        Assert.Contains(
            "Skerry Isles School",
            await client.GetStringAsync("/calendars", Stop),
            StringComparison.Ordinal
        );
        await app.StopAsync(Stop);
    }

    [Fact]
    public void A_demo_whose_making_was_broken_off_is_made_anew()
    {
        using (
            var app = AlmanacServer.Build(
                new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance, StandInRooms: true)
            )
        )
            Assert.ThrowsAny<Exception>(() => DemoData.Ensure(app.Services, directory, null!));
        Assert.True(File.Exists(Path.Combine(directory, "almanac.db")));
        DemoData.Check(directory);
        Assert.Empty(Directory.GetFiles(directory, "almanac.db*"));
    }

    [Fact]
    public void The_demo_lets_a_real_school_alone()
    {
        using (AlmanacServer.Build(new AlmanacSettings(directory, ["http://127.0.0.1:0"], SystemClock.Instance))) { }
        Assert.Throws<DataDirectoryException>(() => DemoData.Check(directory));
        Assert.Throws<DataDirectoryException>(() => DemoData.Clear(directory));
        Assert.True(File.Exists(Path.Combine(directory, "almanac.db")));
    }

    [Theory]
    [InlineData("demo", "--port", "70000")]
    [InlineData("demo", "--port", "many")]
    [InlineData("demo", "--at", "yesterday")]
    [InlineData("demo", "--what")]
    [InlineData("serve")]
    [InlineData("serve", "--data", "DIR", "--public-address", "skerry")]
    [InlineData("serve", "--data", "DIR", "--largest-file", "0")]
    [InlineData("demo", "--data", "/proc/nowhere")]
    [InlineData("demo", "--port", "TAKEN", "--data", "DIR/new")]
    [InlineData("backup", "DIR/x.zip")]
    [InlineData("backup", "DIR/x.zip", "--data", "DIR")]
    [InlineData("restore", "DIR/x.zip", "--data", "DIR/new")]
    [InlineData("check-data", "--data", "DIR")]
    [InlineData("dance")]
    public async Task A_wrong_call_is_one_line_and_exit_code_2(params string[] call)
    {
        using var taken = new TcpListener(IPAddress.Loopback, 0);
        taken.Start();
        var arguments = call.Select(word =>
            word.Replace("DIR", directory, StringComparison.Ordinal)
                .Replace(
                    "TAKEN",
                    ((IPEndPoint)taken.LocalEndpoint).Port.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    StringComparison.Ordinal
                )
        );
        using var process = Process.Start(
            new ProcessStartInfo("dotnet", [typeof(AlmanacServer).Assembly.Location, .. arguments])
            {
                RedirectStandardError = true,
                RedirectStandardOutput = true,
            }
        )!;
        var said = (await process.StandardError.ReadToEndAsync(Stop)).Trim();
        await process.WaitForExitAsync(Stop);
        Assert.Equal(CommandLine.Refusal, process.ExitCode);
        Assert.StartsWith("almanac: ", said, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', said);
        Assert.Empty(Directory.EnumerateFileSystemEntries(directory));
    }

    // The checker that htmx.org 4.0.1 ships: attributes and events of earlier versions fail in silence.
    [Fact]
    public async Task Pages_use_htmx_as_its_version_wants_it()
    {
        var root = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(root!.FullName, "JollyAlmanac.slnx")))
            root = root.Parent;
        var start = new ProcessStartInfo(
            "node",
            ["node_modules/htmx.org/dist/scripts/upgrade-check.js", "--ext", ".cshtml", "Pages"]
        )
        {
            WorkingDirectory = Path.Combine(root.FullName, "src", "JollyAlmanac.Web"),
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        using var process = Process.Start(start)!;
        var said = await process.StandardOutput.ReadToEndAsync(Stop) + await process.StandardError.ReadToEndAsync(Stop);
        await process.WaitForExitAsync(Stop);
        Assert.True(process.ExitCode == 0, said);
    }

    // docs/architecture.md: Web → Application → {Storage, Formats} → Core. Nothing points back.
    [Theory]
    [InlineData("Core", "")]
    [InlineData("Formats", "Core")]
    [InlineData("Storage", "Core")]
    [InlineData("Application", "Core Formats Storage")]
    [InlineData("Demo", "Application Core")]
    [InlineData("Web", "Application Core Demo")]
    public void Projects_know_only_those_below_them(string project, string mayKnow)
    {
        var known = Assembly
            .Load($"JollyAlmanac.{project}")
            .GetReferencedAssemblies()
            .Select(one => one.Name!)
            .ToList();
        Assert.Subset(
            mayKnow.Split(' ').ToHashSet(),
            known
                .Where(name => name.StartsWith("JollyAlmanac.", StringComparison.Ordinal))
                .Select(name => name["JollyAlmanac.".Length..])
                .ToHashSet()
        );
        if (project is "Core" or "Formats")
            Assert.DoesNotContain(known, name =>
                name.Contains("Sqlite", StringComparison.Ordinal)
                || name.Contains("AspNetCore", StringComparison.Ordinal)
            );
        if (project is "Application")
            Assert.DoesNotContain(known, name =>
                name.Contains("AspNetCore.Mvc", StringComparison.Ordinal) || name == "Dapper"
            );
        if (project is "Web")
            Assert.DoesNotContain(known, name => name is "Dapper" or "Microsoft.Data.Sqlite");
    }

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(directory, recursive: true);
    }
}
