using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Demo;
using JollyAlmanac.Storage;
using Microsoft.Extensions.DependencyInjection;

namespace JollyAlmanac.Web.Tests;

/// <summary>Each kind of person of the demo on the one class, over HTTP; looking as them; letters and invitations.</summary>
public sealed partial class KindTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static string Email(string kind) => DemoStory.SignIns.People.Single(one => one.Kind == kind).Email;

    // What the term sheet says beyond times: a title of one session, a place, a note, a number; and what the moves and materials of it are.
    private static readonly string[] Details =
    [
        "Barnacle day",
        "Tide Room",
        "Bring boots",
        "no. </span>13",
        "moved from",
        "has a note",
        "has material",
    ];

    [Theory]
    [InlineData("coordinator", 200, true, "Add a series, People and access, Publishing", 200)]
    [InlineData("teacher", 200, true, "Add a series, People and access, Publishing", 200)]
    [InlineData("co-teacher", 200, true, "Add a series", 403)]
    [InlineData("contributor", 200, true, "Add a series", 403)]
    [InlineData("student", 200, true, "", 403)]
    [InlineData("family", 200, true, "", 403)]
    [InlineData("colleague, outline", 200, true, "", 403)]
    [InlineData("colleague, busy", 200, false, "", 403)]
    [InlineData("no access", 404, false, "", 404)]
    public async Task Each_kind_sees_and_may_do_what_its_level_says(
        string kind,
        int sheet,
        bool seesTitles,
        string tools,
        int sharing
    )
    {
        using var client = await server.SignedIn(Email(kind));
        using var answer = await client.GetAsync($"/calendars/{DemoServer.Class}", Stop);
        Assert.Equal(sheet, (int)answer.StatusCode);
        var html = WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync(Stop));
        Assert.Equal(seesTitles, html.Contains("Barnacle day", StringComparison.Ordinal));
        if (!seesTitles)
            Assert.DoesNotContain(Details, detail => html.Contains(detail, StringComparison.Ordinal));
        foreach (var tool in new[] { "Add a series", "People and access", "Publishing" })
            Assert.Equal(
                tools.Split(", ").Contains(tool),
                Regex.IsMatch(html, $"<a (class=\"btn small[^\"]*\" )?href=\"[^\"]*\">{tool}\\s*<")
            );
        Assert.Equal(
            kind is not ("colleague, outline" or "colleague, busy" or "no access"),
            html.Contains("/in/tidepool-7k", StringComparison.Ordinal)
        );
        using var shared = await client.GetAsync($"/calendars/{DemoServer.Class}/sharing", Stop);
        Assert.Equal(sharing, (int)shared.StatusCode);
        using var list = await client.GetAsync($"/calendars/{DemoServer.Class}/class-list", Stop);
        Assert.Equal(
            kind is "coordinator" or "teacher" or "co-teacher" or "contributor" ? 200
                : sheet == 404 ? 404
                : 403,
            (int)list.StatusCode
        );
        foreach (
            var path in new[]
            {
                "/people",
                "/people/1",
                "/people/new",
                "/people/bring-in",
                "/people/groups",
                "/people/groups/1",
                "/mail",
                "/history",
                "/publishing",
            }
        )
        {
            using var kept = await client.GetAsync(path, Stop);
            Assert.Equal((path, kind == "coordinator" ? 200 : 403), (path, (int)kept.StatusCode));
        }

        using var found = await client.GetAsync("/people?handler=Find&who=quill", Stop);
        Assert.Equal(kind is "student" or "family" ? 403 : 200, (int)found.StatusCode);
    }

    // What is not there and what is not theirs are one page, word for word.
    [Fact]
    public async Task Not_there_and_not_for_you_are_the_same_page()
    {
        server.Set(14, 9, 41);
        using var client = await server.SignedIn(Email("no access"));
        async Task<string> Text(string slug)
        {
            using var answer = await client.GetAsync($"/calendars/{slug}", Stop);
            Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
            return (await answer.Content.ReadAsStringAsync(Stop)).Replace(slug, "SLUG", StringComparison.Ordinal);
        }

        Assert.Equal(await Text("no-such-calendar-9"), await Text(DemoServer.Class));
        async Task<string> Asked(string slug)
        {
            using var answer = await DemoServer.Post(
                client,
                $"/ask/{slug}",
                new() { ["level"] = "Full", ["why"] = "please" }
            );
            return Token()
                .Replace(
                    (await answer.Content.ReadAsStringAsync(Stop)).Replace(slug, "SLUG", StringComparison.Ordinal),
                    ""
                );
        }

        Assert.Equal(await Asked("no-such-calendar-9"), await Asked(DemoServer.Class));
    }

    [Theory]
    [InlineData("student")]
    [InlineData("colleague, outline")]
    [InlineData("colleague, busy")]
    [InlineData("no access")]
    public async Task Looking_as_agrees_with_what_each_gets_and_writes_nothing(string kind)
    {
        var email = Email(kind);
        server.Set(14, 9, 41);
        using var own = await server.SignedIn(email);
        using var looker = await server.SignedInAnew(DemoServer.Coordinator);
        var id = server
            .Services.GetRequiredService<AlmanacDatabase>()
            .Read(stores => stores.People.FindByEmail(new EmailAddress(email))!.Person.Id.Value);
        using var begun = await DemoServer.Post(
            looker,
            $"/people/{id}",
            new() { ["who"] = $"person {id}" },
            "/look-as"
        );
        Assert.Equal("/today", begun.Headers.Location?.OriginalString);
        foreach (
            var path in new[]
            {
                "/today?all=1",
                "/calendars",
                "/week",
                $"/calendars/{DemoServer.Class}",
                $"/c/{DemoServer.Class}",
                "/calendars/french-8",
            }
        )
            Assert.Equal(await Page(own, path), await Page(looker, path));
        // Nothing can be written, not even by a form of a page that was open before.
        using var refused = await DemoServer.Post(
            looker,
            "/today",
            new() { ["name"] = "Somebody" },
            "/account?handler=Name"
        );
        Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
        using var room = await looker.GetAsync("/in/tidepool-7k/enter", Stop);
        Assert.DoesNotContain("rooms", room.Headers.Location?.ToString() ?? "", StringComparison.Ordinal);
        using var account = await looker.GetAsync("/account", Stop);
        Assert.Equal(HttpStatusCode.Forbidden, account.StatusCode);
        using var ended = await DemoServer.Post(looker, "/today", [], "/look-as?handler=End");
        Assert.Equal(HttpStatusCode.Redirect, ended.StatusCode);
        Assert.Contains("People</h1>", await looker.GetStringAsync("/people", Stop), StringComparison.Ordinal);
        Assert.Contains("looked as", await looker.GetStringAsync("/history", Stop), StringComparison.Ordinal);

        // The main part of a page, without what is made anew each time.
        static async Task<(HttpStatusCode, string)> Page(HttpClient client, string path)
        {
            using var answer = await client.GetAsync(new Uri(path, UriKind.Relative), Stop);
            var html = await answer.Content.ReadAsStringAsync(Stop);
            var main = html.IndexOf("<main", StringComparison.Ordinal);
            return (
                answer.StatusCode,
                answer.IsSuccessStatusCode ? Token().Replace(main < 0 ? html : html[main..], "") : ""
            );
        }
    }

    // What a page says of the present moment changes with the minute that it shows, not between.
    [Fact]
    public async Task Today_is_one_page_within_a_minute()
    {
        using var client = await server.SignedIn(DemoServer.Coordinator);
        async Task<string> At(int second)
        {
            server.Set(14, 9, 41, second);
            return Token().Replace(await client.GetStringAsync("/today?all=1", Stop), "");
        }

        var early = await At(1);
        Assert.Contains("now 9:41", early, StringComparison.Ordinal);
        Assert.Equal(early, await At(47));
    }

    [Fact]
    public async Task Looking_as_a_stranger_shows_what_strangers_see_and_asks_to_sign_in_elsewhere()
    {
        using var looker = await server.SignedInAnew(DemoServer.Teacher);
        using var begun = await DemoServer.Post(
            looker,
            $"/calendars/{DemoServer.OpenClass}/sharing",
            new() { ["who"] = "stranger", ["slug"] = DemoServer.OpenClass },
            "/look-as"
        );
        Assert.Equal("/look-as", begun.Headers.Location?.OriginalString);
        using var shown = await looker.GetAsync("/look-as", Stop);
        Assert.Equal($"/c/{DemoServer.OpenClass}", shown.Headers.Location?.OriginalString);
        Assert.Contains(
            "You preview as",
            await looker.GetStringAsync($"/c/{DemoServer.OpenClass}", Stop),
            StringComparison.Ordinal
        );
        foreach (
            var (path, status) in new[]
            {
                ("/today", 403),
                ($"/calendars/{DemoServer.OpenClass}", 403),
                ($"/c/{DemoServer.Class}", 404),
            }
        )
        {
            using var answer = await looker.GetAsync(path, Stop);
            Assert.Equal((path, status), (path, (int)answer.StatusCode));
            Assert.Contains(
                "Be yourself again",
                await answer.Content.ReadAsStringAsync(Stop),
                StringComparison.Ordinal
            );
        }
    }

    [Fact]
    public async Task An_invitation_comes_from_the_mail_drop_and_its_altered_or_used_address_is_nothing()
    {
        await server.Services.GetRequiredService<Post>().Send(Stop);
        var letters = Directory.GetFiles(Path.Combine(server.Directory, "mail-drop"), "*.eml");
        using var message = await MimeKit.MimeMessage.LoadAsync(
            letters.Single(file => File.ReadAllText(file).Contains("Your way into", StringComparison.Ordinal)),
            Stop
        );
        Assert.Equal("Marit Sørb", message.To.Mailboxes.Single().Name);
        var way = Regex.Match(message.TextBody!, "/welcome/([0-9a-z]{26})").Value;
        using var guest = server.Client();
        Assert.Contains(
            "Welcome, Marit Sørb",
            WebUtility.HtmlDecode(await guest.GetStringAsync(way, Stop)),
            StringComparison.Ordinal
        );
        using var altered = await guest.GetAsync(way[..^1] + (way[^1] == '0' ? '1' : '0'), Stop);
        Assert.Equal(HttpStatusCode.NotFound, altered.StatusCode);
        using var came = await DemoServer.Post(
            guest,
            way,
            new() { ["Name"] = "Marit Sørb", ["Password"] = "four grey gulls and a boat" }
        );
        Assert.Equal("/calendars", came.Headers.Location?.OriginalString);
        Assert.Contains("Marit Sørb", await guest.GetStringAsync("/account", Stop), StringComparison.Ordinal);
        using var used = await guest.GetAsync(way, Stop);
        Assert.Equal(HttpStatusCode.NotFound, used.StatusCode);
        // A copy of the cookie is worth nothing after the sign-out.
        using var coordinator = await server.SignedIn(DemoServer.Coordinator);
        Assert.Contains("Your way into", await coordinator.GetStringAsync("/mail", Stop), StringComparison.Ordinal);
    }

    /// <summary>A paper for one section: kind of person x in the section or not, on the pages and by its address.</summary>
    [Theory]
    [InlineData("coordinator", false, true)]
    [InlineData("teacher", false, true)]
    [InlineData("co-teacher", false, true)]
    [InlineData("contributor", false, true)]
    [InlineData("student", false, false)]
    [InlineData("student", true, true)]
    [InlineData("family", false, false)]
    [InlineData("family", true, true)]
    [InlineData("colleague, outline", false, false)]
    [InlineData("colleague, busy", false, false)]
    [InlineData("no access", false, false)]
    public async Task What_is_for_a_section_is_there_for_it_alone(string kind, bool isIn, bool sees)
    {
        var database = server.Services.GetRequiredService<AlmanacDatabase>();
        var (crew, person, key) = database.Read(stores =>
            (
                stores.Groups.Named("Tidepool Biology 9A, reef crew")!.Value,
                stores.People.FindByEmail(new EmailAddress(Email(kind)))!.Person.Id,
                stores
                    .Materials.Of(stores.Calendars.Find(new Slug(DemoServer.Class))!.Id)
                    .Single(material => material.Title == "Reef crew")
                    .Key
            )
        );
        using var client = await server.SignedIn(Email(kind));
        if (isIn)
            database.Write(
                stores =>
                {
                    stores.Groups.AddMembers(crew, [person]);
                    return true;
                },
                kept => kept
            );
        try
        {
            // The class page is as the class has it, for those who work on it, too.
            using var answer = await client.GetAsync($"/c/{DemoServer.Class}", Stop);
            Assert.Equal(
                isIn,
                (await answer.Content.ReadAsStringAsync(Stop)).Contains($"/m/{key}", StringComparison.Ordinal)
            );

            using var paper = await client.GetAsync($"/m/{key}", Stop);
            Assert.Equal(sees ? HttpStatusCode.OK : HttpStatusCode.NotFound, paper.StatusCode);
        }
        finally
        {
            database.Write(
                stores =>
                {
                    stores.Groups.RemoveMembers(crew, [person]);
                    return true;
                },
                kept => kept
            );
        }
    }

    /// <summary>
    /// From the button to the letter, and from the answer that somebody's calendar program sends back to the keeper's page.
    /// </summary>
    [Fact]
    public async Task Sessions_go_by_mail_and_the_answer_is_shown()
    {
        server.Set(14, 9, 41);
        var page = $"/calendars/{DemoServer.Class}/by-mail";
        using var student = await server.SignedIn(DemoServer.Student);
        using var begun = await DemoServer.Post(student, page, [], page + "?handler=Begin");
        Assert.Equal(page, begun.Headers.Location?.OriginalString);
        await server.Services.GetRequiredService<Post>().Send(Stop);
        var messages = Directory
            .GetFiles(Path.Combine(server.Directory, "mail-drop"), "*.eml")
            .Select(file => MimeKit.MimeMessage.Load(file));
        var message = messages.Single(one =>
            one.To.ToString().Contains(DemoServer.Student, StringComparison.Ordinal)
            && one.BodyParts.Any(part => part.ContentType.IsMimeType("text", "calendar"))
        );
        var sent = message
            .BodyParts.OfType<MimeKit.TextPart>()
            .Single(part => part.ContentType.IsMimeType("text", "calendar"))
            .Text;
        var uid = Regex.Match(sent.Replace("\r\n ", "").Replace("\n ", ""), "UID:(\\S+)").Groups[1].Value;
        var folder = Directory.CreateDirectory(Path.Combine(server.Directory, "mail-drop", "incoming")).FullName;
        await File.WriteAllTextAsync(
            Path.Combine(folder, "a.eml"),
            $"""
            From: Teodor Quill <{DemoServer.Student}>
            To: almanac@almanac.invalid
            Subject: Yes
            MIME-Version: 1.0
            Content-Type: text/calendar; method=REPLY; charset=utf-8

            BEGIN:VCALENDAR
            METHOD:REPLY
            BEGIN:VEVENT
            UID:{uid}
            DTSTAMP:20261014T124200Z
            ATTENDEE;PARTSTAT=DECLINED:mailto:{DemoServer.Student}
            END:VEVENT
            END:VCALENDAR

            """,
            Stop
        );
        await File.WriteAllBytesAsync(Path.Combine(folder, "b.eml"), [0, 1, 2, 255], Stop);
        Assert.Equal(1, await server.Services.GetRequiredService<ReadAnswers>().Take(Stop));
        Assert.Empty(Directory.GetFiles(folder));
        using var keeper = await server.SignedIn(DemoServer.Teacher);
        Assert.Matches(
            "Teodor Quill</bdi> <span class=\"soft\">does not come",
            await keeper.GetStringAsync(page, Stop)
        );
        using var family = await server.SignedIn(Email("family"));
        Assert.DoesNotContain(
            "Teodor Quill</bdi> <span",
            await family.GetStringAsync(page, Stop),
            StringComparison.Ordinal
        );
        using var ended = await DemoServer.Post(student, page, [], page + "?handler=End");
        Assert.Equal(page, ended.Headers.Location?.OriginalString);
    }

    [GeneratedRegex(
        "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"[^\"]+\"|\\bv=[^\"]+|<time[^>]*>|<aside class=\"looking-as\".*?</aside>",
        RegexOptions.Singleline
    )]
    private static partial Regex Token();
}
