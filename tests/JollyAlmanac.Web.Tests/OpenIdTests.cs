using System.Net;
using JollyAlmanac.Core.People;
using JollyAlmanac.Demo.OpenId;
using JollyAlmanac.Storage;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.DependencyInjection;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// Signing in elsewhere, driven through the framework's own handler against the stand-in: OpenID Connect Core 1.0 §3.1 (authorization
/// code), RFC 7636 (PKCE).
/// </summary>
public sealed class OpenIdTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    // The way there: the address at the provider, with all that was asked.
    private static async Task<Uri> Asked(HttpClient client, string next = "/week")
    {
        using var answer = await client.GetAsync($"/sign-in/provider?next={Uri.EscapeDataString(next)}", Stop);
        Assert.Equal(HttpStatusCode.Redirect, answer.StatusCode);
        return answer.Headers.Location!;
    }

    // Chooses who one is there; the address that leads back.
    private static async Task<string> Chosen(HttpClient client, Uri asked, string who)
    {
        using var back = await DemoServer.Post(client, asked.PathAndQuery, new() { ["who"] = who });
        Assert.Equal(HttpStatusCode.Redirect, back.StatusCode);
        return back.Headers.Location!.OriginalString;
    }

    private static async Task<string> Page(HttpClient client, string path) =>
        WebUtility.HtmlDecode(await client.GetStringAsync(new Uri(path, UriKind.RelativeOrAbsolute), Stop));

    [Fact]
    public async Task Somebody_whose_address_is_verified_there_is_signed_in_here_and_led_on()
    {
        using var client = server.Client();
        Assert.Contains("Sign in with your Skerry account", await Page(client, "/sign-in"), StringComparison.Ordinal);
        var asked = await Asked(client);
        var query = QueryHelpers.ParseQuery(asked.Query);
        Assert.Equal(
            ("code", "openid email", "S256", StandInProvider.ClientId),
            (
                query["response_type"].ToString(),
                query["scope"].ToString(),
                query["code_challenge_method"].ToString(),
                query["client_id"].ToString()
            )
        );
        Assert.Equal(new Uri(server.Root, "sign-in/back").AbsoluteUri, query["redirect_uri"].ToString());
        using var back = await client.GetAsync(new Uri(await Chosen(client, asked, "+" + DemoServer.Teacher)), Stop);
        Assert.Equal("/week", back.Headers.Location?.OriginalString);
        Assert.Contains("Orla Marchbanks", await Page(client, "/account"), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("+somebody@elsewhere.example", "Nobody of this school has the address somebody@elsewhere.example")]
    [InlineData("-" + DemoServer.Coordinator, "it has not been seen that the e-mail address is yours")]
    public async Task Who_is_not_known_or_not_verified_stays_outside(string who, string told)
    {
        using var client = server.Client();
        using var back = await client.GetAsync(new Uri(await Chosen(client, await Asked(client), who)), Stop);
        Assert.Equal("/sign-in", back.Headers.Location?.OriginalString);
        Assert.Contains(told, await Page(client, "/sign-in"), StringComparison.Ordinal);
        using var today = await client.GetAsync("/today", Stop);
        Assert.Equal(HttpStatusCode.Redirect, today.StatusCode);
    }

    [Fact]
    public async Task Who_has_left_stays_outside()
    {
        var database = server.Services.GetRequiredService<AlmanacDatabase>();
        database.Write(
            stores =>
            {
                var found = stores.People.FindByEmail(new EmailAddress("corwin.ashby@skerry.example"))!.Person;
                return stores.People.SetEnd(
                    found.Id,
                    NodaTime.SystemClock.Instance.GetCurrentInstant(),
                    "gone",
                    found.Version
                );
            },
            done => done
        );
        using var client = server.Client();
        using var back = await client.GetAsync(
            new Uri(await Chosen(client, await Asked(client), "+corwin.ashby@skerry.example")),
            Stop
        );
        Assert.Equal("/sign-in", back.Headers.Location?.OriginalString);
    }

    [Fact]
    public async Task A_second_factor_is_asked_for_all_the_same()
    {
        server
            .Services.GetRequiredService<AlmanacDatabase>()
            .Write(
                stores =>
                {
                    var found = stores.People.FindByEmail(new EmailAddress("ines.falk@skerry.example"))!.Person;
                    stores.People.SetFactor(found.Id, 1, NodaTime.Instant.FromUtc(2026, 10, 1, 0, 0), 0);
                    return true;
                },
                done => done
            );
        using var client = server.Client();
        using var back = await client.GetAsync(
            new Uri(await Chosen(client, await Asked(client), "+ines.falk@skerry.example")),
            Stop
        );
        Assert.Equal("/sign-in?next=%2Fweek", back.Headers.Location?.OriginalString);
        var form = await Page(client, "/sign-in?next=%2Fweek");
        Assert.Contains("The code that your device shows", form, StringComparison.Ordinal);
        Assert.Contains("name=\"Next\" value=\"/week\"", form, StringComparison.Ordinal);
        using var today = await client.GetAsync("/today", Stop);
        Assert.Equal(HttpStatusCode.Redirect, today.StatusCode);
    }

    // What comes back must be the answer to what this browser asked: another state, another browser, the same code twice.
    [Fact]
    public async Task An_answer_that_was_not_asked_for_signs_nobody_in()
    {
        using var client = server.Client();
        var back = await Chosen(client, await Asked(client), "+" + DemoServer.Coordinator);
        async Task Refused(HttpClient who, string address)
        {
            using var answer = await who.GetAsync(new Uri(address), Stop);
            Assert.Equal("/sign-in", answer.Headers.Location?.OriginalString);
            Assert.Contains("did not work", await Page(who, "/sign-in"), StringComparison.Ordinal);
            using var today = await who.GetAsync("/today", Stop);
            Assert.Equal(HttpStatusCode.Redirect, today.StatusCode);
        }

        using var other = server.Client();
        await Refused(other, back);
        await Refused(client, back[..^3] + "abc");
        await Refused(client, new Uri(server.Root, "sign-in/back?error=access_denied").AbsoluteUri);
        // Somebody else's code in the place of one's own: it is bound to their challenge.
        using var thief = server.Client();
        var own = new Uri(await Chosen(thief, await Asked(thief), "+" + DemoServer.Student));
        var stolen = QueryHelpers.ParseQuery(new Uri(back).Query)["code"].ToString();
        await Refused(thief, new Uri(server.Root, "sign-in/back" + QueryString(own, stolen)).AbsoluteUri);
    }

    private static string QueryString(Uri own, string code) =>
        QueryHelpers.AddQueryString(
            "",
            new Dictionary<string, string?>
            {
                ["code"] = code,
                ["state"] = QueryHelpers.ParseQuery(own.Query)["state"].ToString(),
            }
        );

    [Theory]
    [InlineData("https://evil.example/")]
    [InlineData("//evil.example/")]
    [InlineData("/\\evil.example")]
    [InlineData("")]
    public async Task The_way_back_leads_to_no_other_site(string next)
    {
        using var client = server.Client();
        using var back = await client.GetAsync(
            new Uri(await Chosen(client, await Asked(client, next), "+" + DemoServer.Student)),
            Stop
        );
        Assert.Equal("/today", back.Headers.Location?.OriginalString);
    }

    [Theory]
    [InlineData("client_id", "another")]
    [InlineData("redirect_uri", "https://evil.example/sign-in/back")]
    [InlineData("code_challenge", "short")]
    public async Task The_stand_in_answers_only_its_own_program(string parameter, string value)
    {
        using var client = server.Client();
        var query = QueryHelpers
            .ParseQuery((await Asked(client)).Query)
            .ToDictionary(one => one.Key, one => one.Value.ToString() ?? "");
        query[parameter] = value;
        using var answer = await client.GetAsync(
            QueryHelpers.AddQueryString("/stand-in-provider/authorize", query!),
            Stop
        );
        Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
    }
}
