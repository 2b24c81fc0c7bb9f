using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using SkiaSharp;
using UglyToad.PdfPig;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// What goes out beside the feed and the panel: other forms, plain HTML, oEmbed, pictures, sheets for paper. PDFs are read back by PdfPig
/// 0.1.16, QR codes by ZXing.Net 0.16.11.
/// </summary>
public sealed class GivenOutTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    /// <summary>RFC 9110 §12.5.1: the form that is asked for, by its quality; iCalendar where nothing there is wanted.</summary>
    [Theory]
    [InlineData("text/calendar", "text/calendar")]
    [InlineData("*/*", "text/calendar")]
    [InlineData("text/html", "text/calendar")]
    [InlineData("application/calendar+json", "application/calendar+json")]
    [InlineData("text/csv;q=0.4, application/jscalendar+json;q=0.8", "application/jscalendar+json")]
    [InlineData("text/csv;q=0, text/calendar;q=0.1", "text/calendar")]
    [InlineData("text/csv", "text/csv")]
    [InlineData("application/atom+xml", "application/atom+xml")]
    public async Task A_feed_without_an_ending_is_in_the_form_that_is_asked_for(string accept, string type)
    {
        using var client = server.Client();
        using var ask = new HttpRequestMessage(
            HttpMethod.Get,
            server.Address("feed").Replace(".ics", "", StringComparison.Ordinal)
        );
        ask.Headers.TryAddWithoutValidation("Accept", accept);
        using var answer = await client.SendAsync(ask, Stop);
        Assert.Equal((HttpStatusCode.OK, type), (answer.StatusCode, answer.Content.Headers.ContentType!.MediaType));
        Assert.Contains("Accept", answer.Headers.Vary);
        using var again = new HttpRequestMessage(HttpMethod.Get, ask.RequestUri)
        {
            Headers = { IfNoneMatch = { answer.Headers.ETag! } },
        };
        again.Headers.TryAddWithoutValidation("Accept", accept);
        using var known = await client.SendAsync(again, Stop);
        Assert.Equal(HttpStatusCode.NotModified, known.StatusCode);
    }

    [Fact]
    public async Task The_ending_for_busy_times_gives_these_alone_and_that_for_news_is_Atom()
    {
        using var client = server.Client();
        using var busy = await client.GetAsync(
            server.Address("feed").Replace(".ics", ".ifb", StringComparison.Ordinal),
            Stop
        );
        Assert.Equal("text/calendar", busy.Content.Headers.ContentType!.MediaType);
        var text = await busy.Content.ReadAsStringAsync(Stop);
        Assert.Contains("FREEBUSY;FBTYPE=BUSY:", text, StringComparison.Ordinal);
        Assert.DoesNotContain("Tidepool", text, StringComparison.Ordinal);
        var news = XDocument.Parse(
            await client.GetStringAsync(server.Address("feed").Replace(".ics", ".atom", StringComparison.Ordinal), Stop)
        );
        Assert.Contains(news.Descendants(), one =>
            one.Name.LocalName == "title" && one.Value.Contains("bring boots", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task An_embed_is_found_by_oEmbed_and_is_there_without_a_frame()
    {
        using var client = server.Client();
        var address = server.Address("embed");
        var page = await client.GetStringAsync(address, Stop);
        var discovered = WebUtility.HtmlDecode(
            Regex.Match(page, "application/json\\+oembed\" href=\"([^\"]+)\"").Groups[1].Value
        );
        using var json = JsonDocument.Parse(
            await client.GetStringAsync(discovered + "&maxwidth=300&maxheight=200", Stop)
        );
        var root = json.RootElement;
        // https://oembed.com §2.3.4.4: what a rich answer must have; no larger than was asked for.
        Assert.Equal(("1.0", "rich"), (root.GetProperty("version").GetString(), root.GetProperty("type").GetString()));
        Assert.Equal((300, 200), (root.GetProperty("width").GetInt32(), root.GetProperty("height").GetInt32()));
        Assert.Contains($"src=\"{address}\"", root.GetProperty("html").GetString(), StringComparison.Ordinal);
        using var xml = await client.GetAsync(discovered + "&format=xml", Stop);
        Assert.Equal(HttpStatusCode.NotImplemented, xml.StatusCode);
        foreach (
            var wrong in new[]
            {
                "/oembed",
                "/oembed?url=https%3A%2F%2Felsewhere.example%2Fembed%2Fx",
                $"/oembed?url={Uri.EscapeDataString(address[..^1] + (address[^1] == '0' ? '1' : '0'))}",
            }
        )
        {
            using var none = await client.GetAsync(wrong, Stop);
            Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
        }

        var plain = await client.GetStringAsync(address + "/plain", Stop);
        Assert.Contains("<li>Wed 14 Oct, 9:50–10:40: Tidepool Biology 9A", plain, StringComparison.Ordinal);
        Assert.Contains("does not follow changes", plain, StringComparison.Ordinal);
        Assert.DoesNotContain("rooms.skerry", plain, StringComparison.Ordinal);
        var svg = XDocument.Parse(await client.GetStringAsync(address + "/picture.svg", Stop));
        Assert.Contains(svg.Descendants(), one =>
            one.Name.LocalName == "text" && one.Value.Contains("Wed 14 Oct", StringComparison.Ordinal)
        );
        using var png = SKBitmap.Decode(await client.GetByteArrayAsync(address + "/picture.png", Stop));
        var box = svg.Root!.Attribute("viewBox")!
            .Value.Split(' ')
            .Select(side => double.Parse(side, System.Globalization.CultureInfo.InvariantCulture))
            .ToArray();
        // Of the same drawing: two dots a point.
        Assert.Equal(((int)Math.Ceiling(box[2] * 2), (int)Math.Ceiling(box[3] * 2)), (png.Width, png.Height));
        Assert.True(page.Length < 20 * 1024, $"the panel has {page.Length} characters");
    }

    private static async Task<string[]> Words(HttpClient client, string path)
    {
        using var answer = await client.GetAsync(path, Stop);
        Assert.Equal("application/pdf", answer.Content.Headers.ContentType?.MediaType);
        using var document = PdfDocument.Open(await answer.Content.ReadAsByteArrayAsync(Stop));
        Assert.Equal(1, document.NumberOfPages);
        return [.. document.GetPage(1).GetWords().Select(word => word.Text)];
    }

    /// <summary>The term sheet of the page and of the paper have the same sessions: each number once, and the same no-class days.</summary>
    [Fact]
    public async Task Sheets_for_paper_say_what_the_pages_say()
    {
        using var client = await server.SignedIn(DemoServer.Student);
        var term = await Words(client, $"/c/{DemoServer.Class}/term.pdf");
        var text = string.Join(' ', term);
        Assert.Contains(
            "37 sessions, 30 h 05 with the class; 4 no-class days left out; 1 cancelled",
            text,
            StringComparison.Ordinal
        );
        foreach (
            var expected in new[]
            {
                "Thanksgiving",
                "Remembrance",
                "Barnacle",
                "Made on 14 Oct 2026; it does not follow changes",
            }
        )
            Assert.Contains(expected, text, StringComparison.Ordinal);
        for (var number = 1; number <= 37; number++)
            Assert.Contains(number.ToString(System.Globalization.CultureInfo.InvariantCulture), term);
        Assert.Contains("Tidepool", await Words(client, $"/c/{DemoServer.Class}/week.pdf"));
        var list = string.Join(' ', await Words(client, $"/c/{DemoServer.Class}/list.pdf"));
        Assert.Contains("Bring boots", list, StringComparison.Ordinal);
        Assert.DoesNotContain("rooms.skerry", text + list, StringComparison.Ordinal);
        using var stranger = server.Client();
        using var none = await stranger.GetAsync($"/c/{DemoServer.Class}/term.pdf", Stop);
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Fact]
    public async Task A_join_card_for_paper_has_the_short_address_as_text_and_as_a_QR_code()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        var words = string.Join(' ', await Words(client, "/join-links/tidepool-7k/card.pdf"));
        Assert.Contains("/in/tidepool-7k", words, StringComparison.Ordinal);
        Assert.DoesNotContain("rooms.skerry", words, StringComparison.Ordinal);
        Assert.Equal(
            new Uri(server.Root, "in/tidepool-7k").AbsoluteUri,
            Decoded(await client.GetByteArrayAsync("/in/tidepool-7k/qr.png", Stop))
        );
    }

    [Fact]
    public async Task A_sheet_on_the_wall_leads_to_the_class_page()
    {
        using var client = await server.SignedIn(DemoServer.Student);
        using var document = UglyToad.PdfPig.PdfDocument.Open(
            await client.GetByteArrayAsync($"/c/{DemoServer.Class}/term.pdf", Stop)
        );
        var page = document.GetPage(1);
        // The head's right end, its black boxes drawn larger on white.
        const int scale = 8;
        using var bitmap = new SKBitmap(80 * scale, 80 * scale);
        using var canvas = new SKCanvas(bitmap);
        canvas.Clear(SKColors.White);
        using var black = new SKPaint { Color = SKColors.Black };
        var (left, top) = (page.Width - 34 - 60, page.Height);
        foreach (var path in page.Paths.Where(path => path.IsFilled && path.FillColor?.ToRGBValues() is (0, 0, 0)))
            if (path.GetBoundingRectangle() is { } box && box.Left > left && box.Bottom > top - 62)
                canvas.DrawRect(
                    (float)(box.Left - left) * scale,
                    (float)(top - box.Top) * scale,
                    (float)box.Width * scale,
                    (float)box.Height * scale,
                    black
                );
        canvas.Flush();
        using var image = SKImage.FromBitmap(bitmap);
        using var png = image.Encode(SKEncodedImageFormat.Png, 100);
        Assert.Equal(new Uri(server.Root, $"c/{DemoServer.Class}").AbsoluteUri, Decoded(png.ToArray()));
    }

    // Another library reads the code back, as a camera would.
    private static string? Decoded(byte[] png)
    {
        using var bitmap = SKBitmap.Decode(png);
        var light = new byte[bitmap.Width * bitmap.Height * 3];
        for (var y = 0; y < bitmap.Height; y++)
        for (var x = 0; x < bitmap.Width; x++)
            light.AsSpan((y * bitmap.Width + x) * 3, 3).Fill(bitmap.GetPixel(x, y).Red);
        return new ZXing.BarcodeReaderGeneric()
            .Decode(new ZXing.RGBLuminanceSource(light, bitmap.Width, bitmap.Height))
            ?.Text;
    }

    /// <summary>A notice is shown where it is up, and whoever was shown it, signed in, has seen it.</summary>
    [Fact]
    public async Task A_notice_stands_where_people_look_and_is_seen()
    {
        using var student = await server.SignedIn(DemoServer.Student);
        Assert.Contains(
            "bring boots and a rain jacket",
            await student.GetStringAsync($"/c/{DemoServer.Class}", Stop),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "bring boots and a rain jacket",
            await student.GetStringAsync("/today", Stop),
            StringComparison.Ordinal
        );
        using var stranger = server.Client();
        Assert.Contains(
            "bring boots and a rain jacket",
            await stranger.GetStringAsync(server.Address("embed"), Stop),
            StringComparison.Ordinal
        );
        using var teacher = await server.SignedIn(DemoServer.Teacher);
        Assert.Matches(
            "Teodor Quill</bdi> <span class=\"soft\">Wed 14 Oct",
            await teacher.GetStringAsync($"/calendars/{DemoServer.Class}/notices", Stop)
        );
    }

    /// <summary>A district's days by their address, into the form of the school's time; asked again, they are the same.</summary>
    [Fact]
    public async Task Days_are_fetched_by_their_address()
    {
        using var coordinator = await server.SignedInAnew(DemoServer.Coordinator);
        using var fetched = await DemoServer.Post(
            coordinator,
            "/school-time?handler=Fetch",
            new() { ["address"] = Demo.Files.StandInFiles.Holidays }
        );
        var shown = await fetched.Content.ReadAsStringAsync(Stop);
        Assert.Contains("value=\"Storm day kept in hand\"", shown, StringComparison.Ordinal);
        Assert.Contains("5 days or ranges are in the list now. Nothing is saved yet", shown, StringComparison.Ordinal);
        var known = System
            .Text.RegularExpressions.Regex.Match(shown, "handler=Fetch\" name=\"known\" value=\"([0-9]+)\"")
            .Groups[1]
            .Value;
        // The address may be a key: the page shows where it leads, and no more.
        Assert.DoesNotContain(
            "skerry.example/no-class",
            await coordinator.GetStringAsync("/school-time", Stop),
            StringComparison.Ordinal
        );
        using var again = await DemoServer.Post(coordinator, "/school-time?handler=Fetch", new() { ["known"] = known });
        Assert.Contains(
            "It is the same file since Wed 14 Oct.",
            await again.Content.ReadAsStringAsync(Stop),
            StringComparison.Ordinal
        );
        using var wrong = await DemoServer.Post(
            coordinator,
            "/school-time?handler=Fetch",
            new() { ["address"] = "https://127.0.0.1/days.ics" }
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        Assert.Contains(
            "where nothing is fetched",
            await wrong.Content.ReadAsStringAsync(Stop),
            StringComparison.Ordinal
        );
    }
}
