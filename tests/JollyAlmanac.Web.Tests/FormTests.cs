using System.Net;
using System.Text;

namespace JollyAlmanac.Web.Tests;

/// <summary>Forms as a browser sends them, good and bad.</summary>
public sealed class FormTests(DemoServer server) : IClassFixture<DemoServer>
{
    private const string New = "/calendars/signal-codes-8/series/new";

    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static Dictionary<string, string> Series =>
        new()
        {
            ["Title"] = "Signal Codes 8",
            ["Days"] = "2",
            ["EveryWeeks"] = "1",
            ["Period"] = "6",
            ["From"] = "2026-10-20",
            ["Extent"] = "term",
            ["Term"] = "1",
            ["Link"] = "",
            ["Version"] = "0",
        };

    [Fact]
    public async Task What_is_wrong_is_said_beside_its_field_and_the_form_keeps_what_was_typed()
    {
        using var client = await server.SignedIn(DemoServer.Coordinator);
        var fields = Series;
        (fields["Title"], fields["Extent"], fields["Until"], fields["Place"]) = (
            new string('x', 10_000),
            "until",
            "2026-01-01",
            "Signal loft"
        );
        using var answer = await DemoServer.Post(client, New, fields);
        var html = await answer.Content.ReadAsStringAsync(Stop);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, answer.StatusCode);
        Assert.Contains("id=\"Title-problem\"", html, StringComparison.Ordinal);
        Assert.Contains("id=\"Until-problem\"", html, StringComparison.Ordinal);
        Assert.Contains("2 things are not right yet. Nothing was saved.", html, StringComparison.Ordinal);
        Assert.Contains("value=\"Signal loft\"", html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_preview_says_what_would_be_true_and_saves_nothing()
    {
        using var client = await server.SignedIn(DemoServer.Coordinator);
        var preview = await client.GetStringAsync(
            $"{New}?handler=Preview&Title=Signal+Codes+8&Days=2&Days=4&EveryWeeks=1&Period=6&From=2026-10-20&Extent=held&Held=12",
            Stop
        );
        Assert.Contains(
            "Signal Codes 8 meets Tue and Thu in period 6, 13:30–14:20, 20 Oct to 1 Dec: 12 sessions, 10 h; leaves out 1 no-class day.",
            preview,
            StringComparison.Ordinal
        );
        Assert.DoesNotContain("<html", preview, StringComparison.Ordinal);
        Assert.Contains(
            "No weekday is chosen",
            await client.GetStringAsync(
                $"{New}?handler=Preview&Title=x&EveryWeeks=1&Period=6&From=2026-10-20&Extent=term&Term=1",
                Stop
            ),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "No session in the Autumn term yet",
            await client.GetStringAsync("/calendars/signal-codes-8", Stop),
            StringComparison.Ordinal
        );
        using var student = await server.SignedIn(DemoServer.Student);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await student.GetAsync($"{New}?handler=Preview&Title=x", Stop)).StatusCode
        );
    }

    [Fact]
    public async Task Of_two_who_save_the_second_sees_both_and_can_go_on()
    {
        async Task<Visitor> Form(string email)
        {
            var visitor = await new Visitor(await server.SignedInAnew(email)).Open("/");
            await (await visitor.Follow("Calendars")).Follow("Tidepool Biology 9C");
            return await visitor.Follow("Edit series Tidepool Biology 9C");
        }

        using var one = await Form(DemoServer.Coordinator);
        using var two = await Form(DemoServer.Teacher);
        await one.Fill("Place", "Weather tower").Press("Save the changes");
        await two.Fill("Title", "Rock pools")
            .Fill("Place", "Slipway")
            .Press("Save the changes", status: HttpStatusCode.Conflict);
        two.Sees("Wendeline Okafor").Sees("Weather tower");
        Assert.Equal(
            (HttpStatusCode.Conflict, "Rock pools", "Slipway"),
            (two.Status, two.ValueOf("Title"), two.ValueOf("Place"))
        );
        await two.Press("Save mine over it");
        two.Sees("Rock pools");
    }

    [Theory]
    [InlineData("page.html", 20, 422, "is not a kind of file that is taken")]
    [InlineData("big.txt", 70 * 1024, 422, "a file may have 64 KB")]
    [InlineData("huge.txt", 3 * 1024 * 1024, 413, "")]
    public async Task A_file_that_cannot_be_taken_is_refused_and_nothing_is_saved(
        string name,
        int size,
        int status,
        string said
    )
    {
        using var client = await server.SignedIn(DemoServer.Coordinator);
        var page = await client.GetStringAsync(New, Stop);
        var token = System
            .Text.RegularExpressions.Regex.Match(
                page,
                "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\""
            )
            .Groups[1]
            .Value;
        using var form = new MultipartFormDataContent { { new StringContent(token), "__RequestVerificationToken" } };
        foreach (var (field, value) in Series)
            form.Add(new StringContent(value), field);
        form.Add(new ByteArrayContent(Encoding.ASCII.GetBytes(new string('x', size))), "MaterialFiles", name);
        HttpStatusCode answered;
        try
        {
            using var answer = await client.PostAsync(New, form, Stop);
            answered = answer.StatusCode;
            Assert.Contains(said, await answer.Content.ReadAsStringAsync(Stop), StringComparison.Ordinal);
        }
        catch (HttpRequestException) when (status == 413)
        {
            // The server may close the line on a body that it will not read to its end.
            answered = HttpStatusCode.RequestEntityTooLarge;
        }

        Assert.Equal(status, (int)answered);
        Assert.Contains(
            "No session in the Autumn term yet",
            await client.GetStringAsync("/calendars/signal-codes-8", Stop),
            StringComparison.Ordinal
        );
    }
}
