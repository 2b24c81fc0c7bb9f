using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Authentication;

namespace JollyAlmanac.Web.Tests;

/// <summary>Materials and the class page over HTTP: what is sent in, what is given out, and with which headers.</summary>
public sealed partial class MaterialWebTests(DemoServer server) : IClassFixture<DemoServer>
{
    private const string Slug = "tidepool-biology-9a";
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static async Task<string> KeyOf(HttpClient client, string title) =>
        Regex
            .Match(
                await client.GetStringAsync($"/calendars/{Slug}/materials", Stop),
                $"href=\"/m/([a-z0-9]+)(?:/look)?\"><bdi>{Regex.Escape(title)}</bdi>"
            )
            .Groups[1]
            .Value;

    // The tus resumable upload protocol 1.0.0, tus.io/protocols/resumable-upload: each row is a request of its core or creation
    // extension, and what the text says comes of it. "off" is an offset that is wrong by one.
    [Theory]
    [InlineData(
        "POST",
        "Tus-Resumable: 0.2.2; Upload-Length: 10; Upload-Metadata: filename YS5wZGY=",
        412,
        "Tus-Version: 1.0.0"
    )]
    [InlineData("POST", "Upload-Length: 10; Upload-Metadata: filename YS5wZGY=", 412, "Tus-Version: 1.0.0")]
    [InlineData("POST", "Tus-Resumable: 1.0.0; Upload-Metadata: filename YS5wZGY=", 400, "")]
    [InlineData("POST", "Tus-Resumable: 1.0.0; Upload-Length: -1; Upload-Metadata: filename YS5wZGY=", 400, "")]
    [InlineData("POST", "Tus-Resumable: 1.0.0; Upload-Length: 10", 400, "")]
    [InlineData("POST", "Tus-Resumable: 1.0.0; Upload-Length: 10; Upload-Metadata: filename !!", 400, "")]
    [InlineData("POST", "Tus-Resumable: 1.0.0; Upload-Length: 0; Upload-Metadata: filename YS5wZGY=", 422, "")]
    [InlineData(
        "POST",
        "Tus-Resumable: 1.0.0; Upload-Length: 99999999999; Upload-Metadata: filename YS5wZGY=",
        413,
        ""
    )]
    [InlineData(
        "POST",
        "Tus-Resumable: 1.0.0; Upload-Length: 10; Upload-Metadata: filename YS5wZGY=,kind eA==",
        201,
        "Location: /uploads/"
    )]
    [InlineData("HEAD", "Tus-Resumable: 1.0.0", 200, "Upload-Offset: 0; Upload-Length: 20; Cache-Control: no-store")]
    [InlineData("HEAD", "", 412, "Tus-Version: 1.0.0")]
    [InlineData("PATCH", "Tus-Resumable: 1.0.0; Upload-Offset: 0; Content-Type: text/plain", 415, "")]
    [InlineData("PATCH", "Tus-Resumable: 1.0.0; Content-Type: application/offset+octet-stream", 400, "")]
    [InlineData(
        "PATCH",
        "Tus-Resumable: 1.0.0; Upload-Offset: 1; Content-Type: application/offset+octet-stream",
        409,
        ""
    )]
    [InlineData(
        "PATCH",
        "Tus-Resumable: 1.0.0; Upload-Offset: 0; Content-Type: application/offset+octet-stream",
        204,
        "Upload-Offset: 10"
    )]
    [InlineData("OPTIONS", "", 204, "Tus-Version: 1.0.0; Tus-Extension: creation,termination; Tus-Max-Size: 524288000")]
    [InlineData("DELETE", "Tus-Resumable: 1.0.0", 204, "")]
    public async Task A_file_comes_in_parts_as_the_protocol_says(
        string method,
        string headers,
        int status,
        string answered
    )
    {
        using var client = await server.SignedInAnew(DemoServer.Teacher);
        var token = DemoServer.TokenOf(await client.GetStringAsync("/account", Stop));
        var address = method is "POST" or "OPTIONS" ? $"/uploads/{Slug}" : await Begin(client, token, "a.pdf", 20);
        using var answer = await Ask(client, token, method, address, headers, "%PDF-1.4 a");
        Assert.Equal(status, (int)answer.StatusCode);
        foreach (var (name, value) in Pairs(answered))
        {
            var said = answer.Headers.TryGetValues(name, out var values) ? string.Join(", ", values) : "";
            if (name == "Location")
                Assert.StartsWith(value, said, StringComparison.Ordinal);
            else
                Assert.Equal(value, said);
        }

        // Every answer says which version it is of.
        Assert.Equal("1.0.0", answer.Headers.GetValues("Tus-Resumable").Single());
    }

    [Fact]
    public async Task A_part_needs_its_sender_and_the_forms_token_and_a_refused_file_says_why()
    {
        using var client = await server.SignedInAnew(DemoServer.Teacher);
        var token = DemoServer.TokenOf(await client.GetStringAsync("/account", Stop));
        const string creates = "Tus-Resumable: 1.0.0; Upload-Length: 10; Upload-Metadata: filename YS5wZGY=";
        using (var answer = await Ask(client, "", "POST", $"/uploads/{Slug}", creates, ""))
            Assert.Equal(403, (int)answer.StatusCode);
        using (var answer = await Ask(server.Client(), token, "POST", $"/uploads/{Slug}", creates, ""))
            Assert.Equal(401, (int)answer.StatusCode);
        var address = await Begin(client, token, "a.pdf", 10);
        const string part = "Tus-Resumable: 1.0.0; Upload-Offset: 0; Content-Type: application/offset+octet-stream";
        using var other = await server.SignedInAnew(DemoServer.Coordinator);
        var others = DemoServer.TokenOf(await other.GetStringAsync("/account", Stop));
        using (var answer = await Ask(other, others, "PATCH", address, part, "x"))
            Assert.Equal(404, (int)answer.StatusCode);
        using (var answer = await Ask(other, others, "HEAD", address, "Tus-Resumable: 1.0.0", ""))
            Assert.Equal(404, (int)answer.StatusCode);
        using (var answer = await Ask(client, token, "PATCH", address, part, "not a pdf!"))
        {
            Assert.Equal(422, (int)answer.StatusCode);
            Assert.Contains(
                "does not look inside",
                await answer.Content.ReadAsStringAsync(Stop),
                StringComparison.Ordinal
            );
        }

        using (var answer = await Ask(client, token, "HEAD", address, "Tus-Resumable: 1.0.0", ""))
            Assert.Equal(404, (int)answer.StatusCode);
        // A student keeps no materials.
        using var student = await server.SignedInAnew(DemoServer.Student);
        using (
            var answer = await Ask(
                student,
                DemoServer.TokenOf(await student.GetStringAsync("/account", Stop)),
                "POST",
                $"/uploads/{Slug}",
                creates,
                ""
            )
        )
            Assert.Equal(403, (int)answer.StatusCode);
    }

    private static async Task<string> Begin(HttpClient client, string token, string name, int size)
    {
        using var begun = await Ask(
            client,
            token,
            "POST",
            $"/uploads/{Slug}",
            $"Tus-Resumable: 1.0.0; Upload-Length: {size}; Upload-Metadata: filename {Convert.ToBase64String(Encoding.UTF8.GetBytes(name))}",
            ""
        );
        return begun.Headers.Location!.OriginalString;
    }

    private static async Task<HttpResponseMessage> Ask(
        HttpClient client,
        string token,
        string method,
        string address,
        string headers,
        string body
    )
    {
        using var request = new HttpRequestMessage(new HttpMethod(method), address);
        if (method == "PATCH")
            request.Content = new ByteArrayContent(Encoding.ASCII.GetBytes(body));
        if (token.Length > 0)
            request.Headers.Add("X-Almanac-Form", token);
        foreach (var (name, value) in Pairs(headers))
            if (name == "Content-Type")
                request.Content!.Headers.ContentType = MediaTypeHeaderValue.Parse(value);
            else
                request.Headers.TryAddWithoutValidation(name, value);
        return await client.SendAsync(request, Stop);
    }

    private static IEnumerable<(string Name, string Value)> Pairs(string text) =>
        text.Split("; ", StringSplitOptions.RemoveEmptyEntries)
            .Select(pair => pair.Split(": ", 2))
            .Select(pair => (pair[0], pair[1]));

    // Type, disposition and what nobody may do with a file: not guess its type, not run it, not frame it.
    [Theory]
    [InlineData("13 Barnacle count.pdf", "application/pdf", "inline", "13%20Barnacle%20count.pdf")]
    [InlineData("Field book", "text/markdown", "attachment", "Field%20book.md")]
    [InlineData("Low water, 14 Oct", "image/png", "inline", "Low%20water.png")]
    public async Task A_file_is_given_with_what_keeps_it_harmless(
        string title,
        string type,
        string disposition,
        string name
    )
    {
        using var teacher = await server.SignedIn(DemoServer.Teacher);
        var key = await KeyOf(teacher, title);
        using var answer = await teacher.GetAsync($"/m/{key}", Stop);
        Assert.Equal(type, answer.Content.Headers.ContentType!.MediaType);
        Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
        var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("sandbox", policy, StringComparison.Ordinal);
        Assert.Contains("default-src 'none'", policy, StringComparison.Ordinal);
        var sent = answer.Content.Headers.GetValues("Content-Disposition").Single();
        Assert.StartsWith(disposition, sent, StringComparison.Ordinal);
        Assert.Contains($"filename*=UTF-8''{name}", sent, StringComparison.Ordinal);
        // RFC 9110 §13.1.2 and §14.2: known by its tag, and given in parts.
        var bytes = await answer.Content.ReadAsByteArrayAsync(Stop);
        using var known = new HttpRequestMessage(HttpMethod.Get, $"/m/{key}");
        known.Headers.IfNoneMatch.Add(answer.Headers.ETag!);
        using (var same = await teacher.SendAsync(known, Stop))
            Assert.Equal(HttpStatusCode.NotModified, same.StatusCode);
        using var ranged = new HttpRequestMessage(HttpMethod.Get, $"/m/{key}");
        ranged.Headers.Range = new RangeHeaderValue(5, 9);
        using var part = await teacher.SendAsync(ranged, Stop);
        Assert.Equal(
            (HttpStatusCode.PartialContent, $"bytes 5-9/{bytes.Length}"),
            (part.StatusCode, part.Content.Headers.ContentRange!.ToString())
        );
        Assert.Equal(bytes[5..10], await part.Content.ReadAsByteArrayAsync(Stop));
    }

    [Fact]
    public async Task What_is_not_yet_given_is_not_there_and_what_was_taken_off_is_gone()
    {
        using var teacher = await server.SignedInAnew(DemoServer.Teacher);
        using var student = await server.SignedIn(DemoServer.Student);
        var (waits, off) = (await KeyOf(teacher, "14 Shore walk"), await KeyOf(teacher, "12 Limpets.pdf"));
        Assert.Equal(HttpStatusCode.OK, (await teacher.GetAsync($"/m/{waits}", Stop)).StatusCode);
        foreach (var address in new[] { $"/m/{waits}", $"/m/{waits}/look", $"/m/{waits}/small" })
            Assert.Equal(HttpStatusCode.NotFound, (await student.GetAsync(address, Stop)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await student.GetAsync($"/m/{off}", Stop)).StatusCode);
        var page = await teacher.GetStringAsync($"/calendars/{Slug}/materials", Stop);
        var id = Regex.Match(page, "materials/(\\d+)\" aria-label=\"Edit 12 Limpets.pdf\"").Groups[1].Value;
        var form = await teacher.GetStringAsync($"/calendars/{Slug}/materials/{id}", Stop);
        using (
            var done = await DemoServer.Post(
                teacher,
                $"/calendars/{Slug}/materials/{id}",
                new() { ["version"] = Regex.Match(form, "name=\"version\" value=\"(\\d+)\"").Groups[1].Value },
                $"/calendars/{Slug}/materials/{id}?handler=TakeOff"
            )
        )
            Assert.Equal(HttpStatusCode.Redirect, done.StatusCode);
        using (var gone = await student.GetAsync($"/m/{off}", Stop))
        {
            Assert.Equal(HttpStatusCode.Gone, gone.StatusCode);
            Assert.Contains("was removed", await gone.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
        }

        using (
            await DemoServer.Post(
                teacher,
                $"/calendars/{Slug}/materials",
                [],
                $"/calendars/{Slug}/materials?handler=Undo"
            )
        )
            Assert.Equal(HttpStatusCode.OK, (await student.GetAsync($"/m/{off}", Stop)).StatusCode);
    }

    // A small one stays in memory for a while, a larger one is read from the disk: nobody sees a difference.
    [Theory]
    [InlineData(20_000)]
    [InlineData(SmallFiles.Largest)]
    [InlineData(SmallFiles.Largest + 1)]
    public async Task A_file_of_any_size_is_given_whole_and_in_part_and_no_more_once_it_is_taken_off(int size)
    {
        using var teacher = await server.SignedInAnew(DemoServer.Teacher);
        var (title, text) = ($"Sized {size}.pdf", "%PDF-1.4 " + string.Concat(Enumerable.Range(0, size)));
        var bytes = Encoding.ASCII.GetBytes(text[..size]);
        var sent = await Begin(
            teacher,
            DemoServer.TokenOf(await teacher.GetStringAsync("/account", Stop)),
            title,
            size
        );
        using (
            await Ask(
                teacher,
                DemoServer.TokenOf(await teacher.GetStringAsync("/account", Stop)),
                "PATCH",
                sent,
                "Tus-Resumable: 1.0.0; Upload-Offset: 0; Content-Type: application/offset+octet-stream",
                text[..size]
            )
        ) { }
        using (
            var attached = await DemoServer.Post(
                teacher,
                $"/calendars/{Slug}/materials",
                new() { ["place"] = "all", ["uploads"] = sent.Split('/')[^1] },
                $"/calendars/{Slug}/materials?handler=Attach"
            )
        )
            Assert.Equal(HttpStatusCode.Redirect, attached.StatusCode);
        var address = $"/m/{await KeyOf(teacher, title)}";
        for (var turn = 0; turn < 2; turn++)
        {
            using var whole = await teacher.GetAsync(address, Stop);
            Assert.Equal(bytes, await whole.Content.ReadAsByteArrayAsync(Stop));
            Assert.Null(whole.Content.Headers.LastModified);
            using var ranged = new HttpRequestMessage(HttpMethod.Get, address);
            ranged.Headers.Range = new RangeHeaderValue(size - 10, null);
            using var part = await teacher.SendAsync(ranged, Stop);
            Assert.Equal(bytes[^10..], await part.Content.ReadAsByteArrayAsync(Stop));
            using var head = await teacher.SendAsync(new HttpRequestMessage(HttpMethod.Head, address), Stop);
            Assert.Equal(size, head.Content.Headers.ContentLength);
            using var beyond = new HttpRequestMessage(HttpMethod.Get, address);
            beyond.Headers.Range = new RangeHeaderValue(size, null);
            using var none = await teacher.SendAsync(beyond, Stop);
            Assert.Equal(HttpStatusCode.RequestedRangeNotSatisfiable, none.StatusCode);
        }

        var at = Regex
            .Match(
                await teacher.GetStringAsync($"/calendars/{Slug}/materials", Stop),
                $"(/calendars/{Slug}/materials/\\d+)\" aria-label=\"Edit {title}\""
            )
            .Groups[1]
            .Value;
        using (await DemoServer.Post(teacher, at, new() { ["version"] = "1" }, $"{at}?handler=TakeOff"))
            Assert.Equal(HttpStatusCode.Gone, (await teacher.GetAsync(address, Stop)).StatusCode);
    }

    // By what lies on the disk, whatever a row says of its size.
    [Fact]
    public void Only_small_files_stay_in_memory()
    {
        using var small = new SmallFiles();
        var path = Path.Combine(server.Directory, "sized");
        Assert.Null(small.Find("none", path));
        File.WriteAllBytes(path, new byte[SmallFiles.Largest + 1]);
        Assert.Null(small.Find("large", path));
        File.WriteAllBytes(path, new byte[SmallFiles.Largest]);
        var bytes = small.Find("small", path);
        Assert.Equal(SmallFiles.Largest, bytes!.Length);
        File.Delete(path);
        Assert.Same(bytes, small.Find("small", path));
        Assert.Null(small.Find("other", path));
    }

    // A cookie is opened once while it comes again; a made-up one is never taken for it, and one that was ended is worth nothing.
    [Fact]
    public void A_sealed_cookie_is_opened_once_and_only_what_was_sealed_here_is_kept()
    {
        var (sealing, principal) = (new Sealing(), new System.Security.Claims.ClaimsPrincipal());
        var tickets = new TicketCache(sealing);
        var good = tickets.Protect(new(principal, "x"), "purpose");
        Assert.Same(tickets.Unprotect(good, "purpose"), tickets.Unprotect(good, "purpose"));
        Assert.Equal(1, sealing.Opened);
        foreach (
            var (text, purpose) in new[]
            {
                (good, "other"),
                (good + "x", "purpose"),
                ("made up", "purpose"),
                ("made up", "purpose"),
            }
        )
            Assert.Null(tickets.Unprotect(text, purpose));
        Assert.Equal(5, sealing.Opened);
        Assert.Null(tickets.Unprotect(null, "purpose"));
    }

    private sealed class Sealing : ISecureDataFormat<AuthenticationTicket>
    {
        private AuthenticationTicket? only;

        public int Opened { get; private set; }

        public string Protect(AuthenticationTicket data) => Protect(data, null);

        public string Protect(AuthenticationTicket data, string? purpose)
        {
            only = data;
            return "sealed for " + purpose;
        }

        public AuthenticationTicket? Unprotect(string? protectedText) => Unprotect(protectedText, null);

        public AuthenticationTicket? Unprotect(string? protectedText, string? purpose)
        {
            Opened++;
            return protectedText == "sealed for " + purpose && purpose == "purpose" ? only : null;
        }
    }

    [Theory]
    [InlineData("<script>alert(1)</script>", "<script")]
    [InlineData("[a](javascript:alert(1))", "javascript:")]
    [InlineData("[a](data:text/html,x)", "data:")]
    [InlineData("![x](https://spy.example/p.png)", "<img")]
    [InlineData("<a href='https://x.example' onclick='y()'>z</a>", "<a ")]
    [InlineData("<https://ok.example/\" onmouseover=\"x>", "onmouseover=\"")]
    public void Markdown_does_nothing_but_say(string markdown, string not) =>
        Assert.DoesNotMatch($"<[^<>]*{Regex.Escape(not.TrimStart('<'))}", Html(markdown));

    [Fact]
    public void Markdown_says_what_it_is_to_say()
    {
        var html = Html("# Shore\n**bold** and [tides](https://tides.example)\n\n- a\n- b\n\n|x|y|\n|-|-|\n|1|2|");
        foreach (
            var part in new[]
            {
                "<h2>Shore</h2>",
                "<strong>bold</strong>",
                "<li>a</li>",
                "<td>1</td>",
                "rel=\"noopener noreferrer nofollow\"",
            }
        )
            Assert.Contains(part, html, StringComparison.Ordinal);
    }

    private static string Html(string markdown)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        Serving.MarkdownText.Of(markdown).WriteTo(text, System.Text.Encodings.Web.HtmlEncoder.Default);
        return text.ToString();
    }

    [Fact]
    public async Task A_text_and_a_picture_are_looked_at_on_a_page_and_a_small_picture_is_webp()
    {
        using var student = await server.SignedIn(DemoServer.Student);
        using var teacher = await server.SignedIn(DemoServer.Teacher);
        var book = await student.GetStringAsync($"/m/{await KeyOf(teacher, "Field book")}/look", Stop);
        Assert.Contains("<h2>Field book</h2>", book, StringComparison.Ordinal);
        Assert.Contains("Have it with you whenever we go out.", book, StringComparison.Ordinal);
        var key = await KeyOf(teacher, "Low water, 14 Oct");
        Assert.Contains(
            $"<img class=\"shown\" src=\"/m/{key}\"",
            await student.GetStringAsync($"/m/{key}/look", Stop),
            StringComparison.Ordinal
        );
        using var small = await student.GetAsync($"/m/{key}/small", Stop);
        Assert.Equal("image/webp", small.Content.Headers.ContentType!.MediaType);
        Assert.Equal("RIFF"u8.ToArray(), (await small.Content.ReadAsByteArrayAsync(Stop))[..4]);
        // What only opens by itself has no page.
        using var pdf = await student.GetAsync($"/m/{await KeyOf(teacher, "13 Barnacle count.pdf")}/look", Stop);
        Assert.Equal(HttpStatusCode.Redirect, pdf.StatusCode);
    }

    [Fact]
    public async Task A_class_page_tells_its_sessions_to_programs_and_no_way_in()
    {
        using var stranger = server.Client();
        using var answer = await stranger.GetAsync("/c/tidepool-biology-9c", Stop);
        var page = await answer.Content.ReadAsStringAsync(Stop);
        Assert.Equal("yes", answer.Headers.GetValues("Almanac-Keeps").Single());
        using var told = JsonDocument.Parse(WebUtility.HtmlDecode(LinkedData().Match(page).Groups[1].Value));
        Assert.Equal("https://schema.org", told.RootElement.GetProperty("@context").GetString());
        var first = told.RootElement.GetProperty("@graph")[0];
        Assert.Equal(
            ("Event", "2026-10-14T12:35:00-03:00", "2026-10-14T13:25:00-03:00", "Tide Room"),
            (
                first.GetProperty("@type").GetString(),
                first.GetProperty("startDate").GetString(),
                first.GetProperty("endDate").GetString(),
                first.GetProperty("location").GetProperty("name").GetString()
            )
        );
        Assert.DoesNotContain("/in/", LinkedData().Match(page).Value, StringComparison.Ordinal);
        Assert.Contains("<meta property=\"og:title\" content=\"Tidepool Biology 9C\"", page, StringComparison.Ordinal);
        using var manifest = JsonDocument.Parse(
            await stranger.GetStringAsync("/c/tidepool-biology-9c/app.webmanifest", Stop)
        );
        Assert.Equal(
            ("Tidepool Biology 9C", "/c/tidepool-biology-9c"),
            (
                manifest.RootElement.GetProperty("name").GetString(),
                manifest.RootElement.GetProperty("start_url").GetString()
            )
        );
        // One style sheet, one script.
        Assert.Single(Regex.Matches(page, "rel=\"stylesheet\""));
        Assert.Single(Regex.Matches(page, "<script[^>]* src="));
        // Of who is signed in nothing is kept, and of a class that is not open there is nothing to keep.
        using var student = await server.SignedIn(DemoServer.Student);
        using var own = await student.GetAsync("/c/tidepool-biology-9c", Stop);
        Assert.False(own.Headers.Contains("Almanac-Keeps"));
        Assert.Equal("no-store", own.Headers.CacheControl!.ToString());
        Assert.DoesNotContain(
            "data-keeps=\"yes\"",
            await own.Content.ReadAsStringAsync(Stop),
            StringComparison.Ordinal
        );
        Assert.Equal(HttpStatusCode.NotFound, (await student.GetAsync($"/c/{Slug}/app.webmanifest", Stop)).StatusCode);
    }

    [GeneratedRegex("<script type=\"application/ld(?:\\+|&#x2B;)json\">(.*?)</script>", RegexOptions.Singleline)]
    private static partial Regex LinkedData();

    [Fact]
    public async Task A_form_without_script_deals_files_out_and_keeps_what_was_good_of_several()
    {
        using var teacher = await server.SignedInAnew(DemoServer.Teacher);
        var page = await teacher.GetStringAsync($"/calendars/{Slug}/materials", Stop);
        var deal = Regex.Match(page, "value=\"(deal\\d+)\"").Groups[1].Value;
        async Task<string> Send(params (string Name, string Bytes)[] files)
        {
            using var form = new MultipartFormDataContent
            {
                { new StringContent(DemoServer.TokenOf(page)), "__RequestVerificationToken" },
                { new StringContent(deal), "place" },
            };
            foreach (var (name, bytes) in files)
                form.Add(new ByteArrayContent(Encoding.ASCII.GetBytes(bytes)), "Files", name);
            using var answer = await teacher.PostAsync(
                new Uri($"/calendars/{Slug}/materials?handler=Attach", UriKind.Relative),
                form,
                Stop
            );
            return await answer.Content.ReadAsStringAsync(Stop);
        }

        var review = await Send(("20 kelp.pdf", "%PDF-1"), ("2026-11-04.pdf", "%PDF-2"));
        Assert.Contains("What goes where", review, StringComparison.Ordinal);
        Assert.Contains("by the number in its name", review, StringComparison.Ordinal);
        Assert.Contains("by the day in its name", review, StringComparison.Ordinal);
        var again = await Send(("good.pdf", "%PDF-3"), ("bad.exe", "MZ"));
        Assert.Contains("is not a kind of file that is taken", again, StringComparison.Ordinal);
        Assert.Contains("<bdi>good.pdf</bdi> <span class=\"soft\">is in</span>", again, StringComparison.Ordinal);
        Assert.DoesNotContain(
            "20 kelp.pdf",
            await teacher.GetStringAsync($"/calendars/{Slug}/materials?all=true", Stop),
            StringComparison.Ordinal
        );
    }
}
