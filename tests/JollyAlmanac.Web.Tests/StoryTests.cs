namespace JollyAlmanac.Web.Tests;

/// <summary>
/// What people do in a school's year, told by what stands on the page: links, labels and buttons by their words, from Today on, and the
/// result where the other person sees it.
/// </summary>
public sealed class StoryTests : IDisposable
{
    private const string Family = "teodor.quill@families.skerry.example";

    private readonly DemoServer server = new();

    public void Dispose() => server.Dispose();

    private async Task<Visitor> As(string email) => await new Visitor(await server.SignedInAnew(email)).Open("/");

    private Visitor Stranger() => new(server.Client());

    private async Task<Visitor> Class(string email) =>
        await (await (await As(email)).Follow("Calendars")).Follow("Tidepool Biology 9A");

    [Fact]
    public async Task A_notice_is_seen_by_the_class_and_taken_down()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Notices");
        teacher.Fill("It says", "Bring the hand lenses on Friday.");
        await teacher.Press("Put it up");
        using var student = await As(DemoServer.Student);
        student.Sees("Bring the hand lenses on Friday.");
        using var family = await As(Family);
        family.Sees("Bring the hand lenses on Friday.");
        await (await teacher.Open("/")).Follow("Calendars");
        await (await teacher.Follow("Tidepool Biology 9A")).Follow("Notices");
        await teacher.Press("Take it down", within: "Bring the hand lenses on Friday.");
        (await student.Follow("Today")).DoesNotSee("Bring the hand lenses on Friday.");
    }

    [Fact]
    public async Task Who_asks_for_access_gets_it_and_who_loses_it_is_out()
    {
        using var asking = await As("corwin.ashby@skerry.example");
        await asking.Open($"/ask/{DemoServer.Class}");
        await asking.Fill("I would like to", "see titles").Fill("Because", "planning the ferry").Press("Ask");
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        teacher.Sees("planning the ferry");
        await teacher.Press("Give outline", within: "planning the ferry");
        await (await asking.Open("/")).Follow("Calendars");
        await asking.Follow("Tidepool Biology 9A");
        asking.Sees("Tide Room").DoesNotSee("or by join link");
        await teacher.Press("remove, the access of Corwin Ashby");
        await (await asking.Open("/")).Follow("Calendars");
        asking.DoesNotSee("Tidepool Biology 9A");
    }

    [Fact]
    public async Task A_coteacher_is_added_and_hosts()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher.Fill("Share with", "corwin.ashby@skerry.example").Fill("Access", "co-teacher").Press("Share");
        using var coteacher = await As("corwin.ashby@skerry.example");
        coteacher.Sees("Start as host");
        await (await coteacher.Follow("Calendars")).Follow("Tidepool Biology 9A");
        coteacher.Sees("Add a series");
    }

    [Fact]
    public async Task A_calendar_is_archived_and_brought_back()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Settings");
        await teacher.Press("Archive");
        using var student = await As(DemoServer.Student);
        student.DoesNotSee("Tidepool Biology 9A");
        await teacher.Follow("Calendars");
        await teacher.Press("Bring it back", within: "Tidepool Biology 9A");
        (await student.Follow("Today")).Sees("Tidepool Biology 9A");
    }

    [Fact]
    public async Task A_family_is_in_as_long_as_its_child_is()
    {
        using var family = await As(Family);
        family.Sees("Tidepool Biology 9A");
        await (await family.Follow("Calendars")).Follow("Tidepool Biology 9A");
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("People");
        await (await coordinator.Follow("Groups")).Follow("Tidepool Biology 9A, class list");
        await coordinator.Press("Remove", within: "Teodor Quill");
        await family.Open("/");
        family.DoesNotSee("Tidepool Biology 9A");
        await family.Open($"/calendars/{DemoServer.Class}");
        Assert.Equal(System.Net.HttpStatusCode.NotFound, family.Status);
    }

    [Fact]
    public async Task A_leaked_room_is_replaced_and_the_join_link_stays()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        await teacher.Follow("Tidepool room");
        await teacher.Press("Replace room now");
        if (teacher.Text.Contains("Replace it all the same", StringComparison.Ordinal))
            await teacher.Press("Replace it all the same");
        using var student = await As(DemoServer.Student);
        student.Sees("Join");
    }

    [Fact]
    public async Task A_series_is_read_from_a_line_and_keeps_what_was_typed()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        teacher
            .Fill("Place", "Weather tower")
            .Fill("About it", "Bring a coat.")
            .Fill("In one line", "Fog watch Thu 8:00-8:50 15 Oct to 18 Dec");
        await teacher.Press("Read it");
        teacher.Sees("Bring a coat.");
        await teacher.Press("Put it on Tidepool Biology 9A");
        teacher.Sees("Fog watch").Sees("Weather tower").DoesNotSee("In one line");
        using var student = await As(DemoServer.Student);
        (await student.Follow("Calendars")).Sees("Tidepool Biology 9A");
        (await student.Follow("Tidepool Biology 9A")).Sees("Fog watch");
    }

    [Fact]
    public async Task An_entry_begins_on_Today_goes_to_another_calendar_and_what_comes_next_stands_there()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Add an entry in period 1");
        teacher.Fill("Title", "Tide tables");
        await teacher.Fill("for the calendar", "Tidepool Biology 9A").Press("Use this calendar");
        Assert.Equal(("Tide tables", "2026-10-14"), (teacher.ValueOf("Title"), teacher.ValueOf("From")));
        // What hangs on the whole class is not the new series' to take off.
        teacher.DoesNotSee("take off");
        await teacher.Press("Put it on Tidepool Biology 9A");
        teacher.Sees("Tide tables is on the calendar.").Sees("Next:");
        await teacher.Follow("Tell them");
        Assert.StartsWith(
            "Tide tables on Tidepool Biology 9A meets Wed in period 1",
            teacher.ValueOf("It says"),
            StringComparison.Ordinal
        );
        await teacher.Press("Put it up");
        using var student = await As(DemoServer.Student);
        student.Sees("Tide tables on Tidepool Biology 9A meets Wed in period 1").DoesNotSee("Add an entry");
        await student.Open("/new-entry?day=2026-10-14&period=1");
        student.Sees("There is no calendar that you may add to");
    }

    [Fact]
    public async Task Whom_to_ask_stands_at_the_door_on_the_class_page_and_where_an_address_leads_nowhere()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await (await coordinator.Follow("School time")).Follow("Name, zone, dates, whom to ask");
        Assert.Contains("Wendeline Okafor", coordinator.ValueOf("Whom to ask"), StringComparison.Ordinal);
        coordinator.Fill("Whom to ask", new string('x', 601));
        await coordinator.Press("Save", status: System.Net.HttpStatusCode.UnprocessableEntity);
        await coordinator.Fill("Whom to ask", "No sound?\nAsk <b>Ondine</b> at the pier.").Press("Save");
        using var stranger = Stranger();
        foreach (
            var (address, status) in new[]
            {
                ("/in/tidepool-7k?look=1", 200),
                ("/c/tidepool-biology-9c", 200),
                ("/in/no-such-link", 404),
            }
        )
        {
            await stranger.Open(address);
            Assert.Equal(status, (int)stranger.Status);
            stranger.Sees("Something does not work?").Sees("Ask <b>Ondine</b> at the pier.");
        }

        await (await coordinator.Follow("School time")).Follow("Name, zone, dates, whom to ask");
        await coordinator.Fill("Whom to ask", "").Press("Save");
        // Whom the calendar names stays.
        (await stranger.Open("/in/tidepool-7k?look=1")).DoesNotSee("Ondine").Sees("Ask Orla Marchbanks");
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Open($"/calendars/{DemoServer.Class}/edit");
        await teacher.Fill("Whom to ask", "").Press("Save");
        teacher.Sees("is changed");
        (await stranger.Open("/in/tidepool-7k?look=1")).DoesNotSee("Something does not work?");
    }

    [Fact]
    public async Task A_form_sent_after_the_sign_in_ended_is_kept_and_sent()
    {
        using var client = await server.SignedInAnew(DemoServer.Teacher);
        client.DefaultRequestHeaders.Add("Sec-Fetch-Site", "same-origin");
        using var teacher = await new Visitor(client).Open("/account");
        // The same sign-in ends from elsewhere.
        using (var elsewhere = await As(DemoServer.Teacher))
        {
            await elsewhere.Follow("Your account");
            await elsewhere.Press("End all others");
        }

        await teacher.Fill("What people call you", "Orla of the Tides").Press("Save the name");
        teacher.Sees("Sign in");
        await teacher.Fill("E-mail", DemoServer.Teacher).Fill("Password", DemoServer.Password).Press("Sign in");
        teacher.Sees("Orla of the Tides");
        // It is nobody else's, whoever has its address.
        using var other = await (await As(DemoServer.Student)).Open(teacher.Path);
        other.Sees("It is not here any more").DoesNotSee("Orla of the Tides");
        await teacher.Press("Send it now");
        teacher.Sees("You are called Orla of the Tides");
    }

    [Fact]
    public async Task Readers_choose_how_times_and_dates_are_written()
    {
        using var student = await As(DemoServer.Student);
        student.Sees("9:50–10:40").Sees("Wednesday 14 October");
        await student.Follow("Your account");
        await student.Fill("Times", "1:30 pm").Fill("Dates", "Sep 14").Press("Save", within: "Times and dates");
        await student.Follow("Today");
        student.Sees("9:50–10:40 am").Sees("Wednesday, October 14");
        using var teacher = await As(DemoServer.Teacher);
        teacher.Sees("12:35–13:25");
    }

    // A second press, or four at once, does what one does.
    [Fact]
    public async Task A_form_that_is_sent_four_times_at_once_is_done_once()
    {
        using var client = await server.SignedInAnew(DemoServer.Teacher);
        var page = $"/calendars/{DemoServer.Class}/notices";
        var visitor = await new Visitor(client).Open(page);
        visitor.Fill("It says", "Once and no more.");
        var fields = Visitor
            .Fields(
                visitor.Pressables().First(one => one.ActionOn("").Contains("handler=Put", StringComparison.Ordinal))
            )
            .ToList();
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ =>
                    client.PostAsync(
                        page + "?handler=Put",
                        new FormUrlEncodedContent(fields),
                        TestContext.Current.CancellationToken
                    )
                )
        );
        Assert.Single(answers.Select(answer => (answer.StatusCode, answer.Headers.Location)).Distinct());
        Assert.Equal(System.Net.HttpStatusCode.Redirect, answers[0].StatusCode);
        using var student = await As(DemoServer.Student);
        Assert.Equal(2, student.Text.Split("Once and no more.").Length);
    }

    [Fact]
    public async Task All_of_a_term_is_on_the_class_page_and_a_stranger_sees_nothing_of_a_closed_room()
    {
        using var stranger = await Stranger().Open($"/c/{DemoServer.OpenClass}");
        await stranger.Follow("Show all that are coming");
        stranger.Sees("18 Dec");
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Settings");
        await teacher.Tick("Only for those who are named on it").Press("Save");
        await stranger.Open($"/c/{DemoServer.Class}");
        Assert.Equal(System.Net.HttpStatusCode.NotFound, stranger.Status);
    }
}
