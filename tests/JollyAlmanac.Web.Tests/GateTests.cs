using System.Net;
using System.Text.RegularExpressions;

namespace JollyAlmanac.Web.Tests;

/// <summary>Who gets in, what every answer carries, and that no secret slips out.</summary>
public sealed partial class GateTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    internal static readonly string[] Pages =
    [
        "/today",
        "/today?all=1",
        "/today/2026-10-12",
        "/calendars",
        $"/calendars/{DemoServer.Class}",
        $"/calendars/{DemoServer.Class}?term=2",
        $"/calendars/{DemoServer.Class}/publishing",
        $"/calendars/{DemoServer.Class}/edit",
        "/calendars/new",
        $"/calendars/{DemoServer.Class}/series/new",
        "/calendars/net-mending",
        "/calendars/staff-hour",
        $"/c/{DemoServer.Class}",
        $"/c/{DemoServer.Class}?as=visitor",
        "/week",
        "/week/2026-10-14?on=boat-geometry-10&on=norse-tales-10",
        "/school-time",
        "/school-time/roll-over",
        $"/calendars/{DemoServer.Class}/timetable",
        $"/calendars/{DemoServer.Class}/history",
        $"/calendars/{DemoServer.Class}/notices",
        $"/calendars/{DemoServer.Class}/import",
        $"/calendars/{DemoServer.Class}/by-mail",
        "/join-links",
        "/join-links?day=2026-10-16",
        "/join-links/tidepool-7k",
        "/join-links/tidepool-7k/edit",
        "/join-links/tidepool-7k/card",
        "/join-links/new",
        $"/calendars/{DemoServer.Class}/sharing",
        $"/calendars/{DemoServer.Class}/class-list",
        "/people",
        "/people/2",
        "/people/groups",
        "/people/groups/2",
        "/people/bring-in",
        "/people/habits",
        "/mail",
        "/history",
        "/publishing",
        "/account",
    ];

    [Theory]
    [InlineData("/today")]
    [InlineData("/calendars")]
    [InlineData("/calendars/new")]
    [InlineData($"/calendars/{DemoServer.Class}")]
    [InlineData($"/calendars/{DemoServer.Class}/publishing")]
    public async Task A_visitor_is_led_to_the_sign_in_and_back(string path)
    {
        using var client = server.Client();
        using var answer = await client.GetAsync(path, Stop);
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        Assert.Equal($"/sign-in?next={Uri.EscapeDataString(path)}", answer.Headers.Location?.OriginalString);
        using var back = await DemoServer.Post(
            client,
            answer.Headers.Location!.OriginalString,
            new()
            {
                ["Email"] = DemoServer.Teacher,
                ["Password"] = DemoServer.Password,
                ["Next"] = path,
            },
            "/sign-in"
        );
        Assert.Equal(path, back.Headers.Location?.ToString());
    }

    [Theory]
    [InlineData("https://evil.example/")]
    [InlineData("//evil.example/")]
    [InlineData("/\\evil.example")]
    [InlineData("javascript:alert(1)")]
    public async Task The_sign_in_leads_to_no_other_site(string next)
    {
        using var client = server.Client();
        using var answer = await DemoServer.Post(
            client,
            "/sign-in",
            new()
            {
                ["Email"] = DemoServer.Teacher,
                ["Password"] = DemoServer.Password,
                ["Next"] = next,
            }
        );
        Assert.Equal("/today", answer.Headers.Location?.ToString());
    }

    [Theory]
    [InlineData(DemoServer.Student, "/calendars/new", 403)]
    [InlineData(DemoServer.Student, $"/calendars/{DemoServer.Class}/publishing", 403)]
    [InlineData(DemoServer.Student, $"/calendars/{DemoServer.Class}/edit", 403)]
    [InlineData(DemoServer.Student, $"/calendars/{DemoServer.Class}/series/new", 403)]
    [InlineData(DemoServer.Student, "/calendars/staff-hour", 404)]
    [InlineData(DemoServer.Student, "/calendars/staff-hour/publishing", 404)]
    [InlineData(DemoServer.Teacher, "/calendars/net-mending/series/new", 403)]
    [InlineData(DemoServer.Teacher, $"/calendars/{DemoServer.Class}/series/9999", 404)]
    [InlineData(DemoServer.Teacher, $"/calendars/{DemoServer.Class}/series/abc", 404)]
    [InlineData(DemoServer.Teacher, $"/calendars/{DemoServer.Class}?term=99", 404)]
    [InlineData(DemoServer.Teacher, "/today/yesterday", 404)]
    [InlineData(DemoServer.Teacher, "/today/0001-01-01", 404)]
    [InlineData(DemoServer.Teacher, "/week/0001-01-01", 404)]
    [InlineData(DemoServer.Teacher, "/school-time", 403)]
    [InlineData(DemoServer.Student, "/school-time", 403)]
    [InlineData(DemoServer.Student, "/school-time/roll-over", 403)]
    [InlineData(DemoServer.Student, $"/calendars/{DemoServer.Class}/timetable", 403)]
    [InlineData(DemoServer.Student, $"/calendars/{DemoServer.Class}/history", 404)]
    [InlineData(DemoServer.Student, "/calendars/staff-hour/timetable", 404)]
    [InlineData(DemoServer.Teacher, "/calendars/net-mending/history", 404)]
    [InlineData(DemoServer.Teacher, $"/calendars/{DemoServer.Class}/sessions/9999.2026-10-16T09:50", 404)]
    [InlineData(DemoServer.Student, "/join-links", 403)]
    [InlineData(DemoServer.Student, "/join-links/tidepool-7k", 404)]
    [InlineData(DemoServer.Student, "/join-links/tidepool-7k/edit", 403)]
    [InlineData(DemoServer.Student, "/join-links/tidepool-7k/card", 403)]
    [InlineData(DemoServer.Student, "/join-links/tidepool-7k/enter", 403)]
    [InlineData(DemoServer.Student, "/join-links/new", 403)]
    [InlineData(DemoServer.Teacher, "/join-links/no-such-link", 404)]
    [InlineData(DemoServer.Teacher, "/join-links/no-such-link/enter", 404)]
    public async Task What_is_not_ones_own_stays_shut(string email, string path, int status)
    {
        using var client = await server.SignedIn(email);
        using var answer = await client.GetAsync(path, Stop);
        Assert.Equal(status, (int)answer.StatusCode);
        Assert.Contains("<h1", await answer.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/sign-in", "")]
    [InlineData("/sign-out", "")]
    [InlineData("/calendars/new", "Title=Stolen&Kind=Class&Colour=Juniper&Shape=Disc&OpenTo=Anyone")]
    [InlineData(
        $"/calendars/{DemoServer.Class}/series/new",
        "Title=Stolen&Days=1&EveryWeeks=1&Period=3&From=2026-09-14&Extent=term&Term=1"
    )]
    [InlineData("/people/habits", "NewIsOpenTo=Named")]
    [InlineData("/school-time", "act=save&Pasted=5+Oct+Stolen")]
    [InlineData("/school-time/roll-over", "from=1&to=2&series=1")]
    [InlineData($"/calendars/{DemoServer.Class}/timetable", "act=save&text=Stolen+MWF+p1")]
    [InlineData($"/calendars/{DemoServer.Class}?handler=Undo", "")]
    [InlineData($"/calendars/{DemoServer.Class}/history?handler=Restore", "line=1&revision=1")]
    [InlineData($"/calendars/{DemoServer.Class}/sessions/1.2026-10-16T09:50", "Do=leave-out&Scope=this&Version=1")]
    [InlineData($"/calendars/{DemoServer.Class}/publishing?handler=Make", "kind=Feed&Name=Stolen&Level=Full")]
    [InlineData("/join-links/tidepool-7k", "act=withdraw&version=1")]
    [InlineData("/join-links/tidepool-7k/edit", "Name=Stolen&Opens=always&Version=1")]
    [InlineData("/join-links/new", "Name=Stolen&calendar=tidepool-biology-9a&Address=https://stolen.example")]
    public async Task A_form_without_its_token_does_nothing(string path, string form)
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        using var answer = await client.PostAsync(
            path,
            new StringContent(form, System.Text.Encoding.UTF8, "application/x-www-form-urlencoded"),
            Stop
        );
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.DoesNotContain(
            "Stolen",
            await client.GetStringAsync($"/calendars/{DemoServer.Class}", Stop)
                + await client.GetStringAsync("/calendars", Stop),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Signing_out_ends_the_sign_in()
    {
        using var client = await server.SignedInAnew(DemoServer.Student);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/today", Stop)).StatusCode);
        using var answer = await DemoServer.Post(client, "/today", [], "/sign-out");
        Assert.Equal(HttpStatusCode.Redirect, (await client.GetAsync("/today", Stop)).StatusCode);
    }

    [Fact]
    public async Task Every_answer_carries_a_strict_policy_and_nothing_stands_inline()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        foreach (var path in Pages.Append("/nothing/here").Append("/css/site.css").Append("/sign-in"))
        {
            using var answer = await client.GetAsync(path, Stop);
            var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
            Assert.Contains(
                "default-src 'none'; script-src 'self'; style-src 'self';",
                policy,
                StringComparison.Ordinal
            );
            Assert.EndsWith("frame-ancestors 'none'", policy, StringComparison.Ordinal);
            Assert.DoesNotContain("unsafe", policy, StringComparison.Ordinal);
            Assert.Equal("no-referrer", answer.Headers.GetValues("Referrer-Policy").Single());
            Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
            Assert.False(answer.Headers.Contains("Server"));
            if (answer.Content.Headers.ContentType?.MediaType != "text/html")
                continue;
            // What is there to be copied for another website is text.
            Assert.DoesNotMatch(Inline(), ToBeCopied().Replace(await answer.Content.ReadAsStringAsync(Stop), ""));
        }
    }

    [Fact]
    public async Task Cookies_are_kept_from_scripts_and_other_sites()
    {
        using var client = server.Client();
        using var answer = await DemoServer.Post(
            client,
            "/sign-in",
            new() { ["Email"] = DemoServer.Teacher, ["Password"] = DemoServer.Password }
        );
        var cookie = answer
            .Headers.GetValues("Set-Cookie")
            .Single(one => one.StartsWith("almanac=", StringComparison.Ordinal));
        Assert.Contains("httponly", cookie, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("samesite=lax", cookie, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public async Task Nothing_on_any_page_comes_from_elsewhere()
    {
        using var client = await server.SignedIn(DemoServer.Coordinator);
        foreach (var path in Pages)
            Assert.DoesNotMatch(Elsewhere(), await client.GetStringAsync(path, Stop));
        var css = await client.GetStringAsync("/css/site.css", Stop);
        Assert.DoesNotContain("url(http", css.Replace("\"", "", StringComparison.Ordinal), StringComparison.Ordinal);
        foreach (
            var asset in new[]
            {
                "/lib/htmx.min.js",
                "/lib/bricolage-grotesque.woff2",
                "/lib/atkinson-hyperlegible-next.woff2",
                "/js/almanac.js",
                "/favicon.svg",
            }
        )
            Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(asset, Stop)).StatusCode);
    }

    [GeneratedRegex("(value|data-copy)=\"[^\"]*\"")]
    private static partial Regex ToBeCopied();

    [GeneratedRegex(
        "<[a-z][^>]*\\s(style|on[a-z]+)=|<script(?![^>]*\\ssrc=)(?! type=\"application/ld(\\+|&#x2B;)json\">)|<style|hx-on|javascript:",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex Inline();

    [GeneratedRegex("<(script|link|img|iframe)[^>]*(src|href)=\"(https?:)?//", RegexOptions.IgnoreCase)]
    private static partial Regex Elsewhere();
}
