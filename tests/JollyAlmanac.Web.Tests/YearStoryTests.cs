using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Web.Serving;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// A school's year, told as <see cref="StoryTests"/> tells it: by what stands on the pages, and looked at where the other person sees it.
/// What comes by e-mail is read in the mail drop, what is subscribed to is asked for again as another program does.
/// </summary>
public sealed class YearStoryTests : IDisposable
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly DemoServer server = new();

    public void Dispose() => server.Dispose();

    private async Task<Visitor> As(string email) => await new Visitor(await server.SignedInAnew(email)).Open("/");

    private async Task<Visitor> Class(string email, string title = "Tidepool Biology 9A") =>
        await (await (await As(email)).Follow("Calendars")).Follow(title);

    // Somebody without a sign-in who opens what they were given.
    private static async Task FindPerson(Visitor coordinator, string name, string role = "all") =>
        await (await coordinator.Follow("People"))
            .Fill("Find people by the first letters of a name", name)
            .Fill("Role", role)
            .Press("Find");

    private async Task<Visitor> Stranger(string address) => await new Visitor(server.Client()).Open(address);

    // The e-mails that have come to an address, the newest first: what a mail program shows of the files in the drop.
    private async Task<IReadOnlyList<string>> Mailbox(string email)
    {
        await server.Services.GetRequiredService<Post>().Send(Stop);
        return
        [
            .. Directory
                .EnumerateFiles(Path.Combine(server.Directory, "mail-drop"), "*.eml")
                .OrderByDescending(File.GetLastWriteTimeUtc)
                .ThenByDescending(file => file, StringComparer.Ordinal)
                .Select(file => MimeKit.MimeMessage.Load(file))
                .Where(message => message.To.Mailboxes.Any(to => to.Address == email))
                .Select(message => $"{message.Subject}\n{message.TextBody}"),
        ];
    }

    private static string LinkIn(string letter, string part) =>
        Regex.Match(letter, $@"https?://\S*{part}\S*").Value is { Length: > 0 } found
            ? found
            : throw new InvalidOperationException($"No link with “{part}” in: {letter}");

    // Row: from nothing: code, school, bells, no-class days, calendar, series, publish.
    [Fact]
    public async Task A_school_is_set_up_from_nothing()
    {
        var directory = Directory.CreateTempSubdirectory("almanac-nothing-").FullName;
        await using var app = AlmanacServer.Build(
            new AlmanacSettings(directory, ["http://127.0.0.1:0"], new Demo.DemoClock(), StandInRooms: true)
        );
        app.Start();
        HttpClient Client() =>
            new(new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false })
            {
                BaseAddress = new Uri(app.Urls.Single()),
            };
        using var first = await new Visitor(Client()).Open("/");
        first
            .Fill("The code from the terminal", app.Services.GetRequiredService<SetUpCode>().Text)
            .Fill("Time zone", "Halifax")
            .Fill("First day", "2026-09-08")
            .Fill("Last day", "2026-12-18")
            .Fill("Your name", "Wendeline Okafor")
            .Fill("E-mail address", "wendeline@skerry.example")
            .Fill("Password", "a long password of the tides");
        first.FillAll("Name", ["Skerry Isles School", "Autumn term"]);
        await first.Press("Set up the school");
        await first.Follow("Enter the bells");
        first
            .FillAll("Periods, one a line", ["1 8:00-8:50\n2 8:55-9:45\n3 9:50-10:40"])
            .Fill(
                "or paste a list, a day or range a line",
                "12 Oct 2026 Thanksgiving\n22-23 Oct 2026 Teachers’ conference"
            );
        await first.Press("Save the school's time");
        await first.Follow("Calendars");
        await first.Follow("Make a calendar");
        await first.Fill("Title", "Tidepool Biology 9A").Press("Make the calendar");
        await first.Follow("Add a series");
        await first.Fill("In one line", "Tidepool Biology 9A MWF p3 14 Sep to 18 Dec").Press("Read it");
        await first.Press("Put it on Tidepool Biology 9A");
        first.Sees("Tidepool Biology 9A meets Mon, Wed and Fri in period 3");
        await first.Follow("Publishing");
        await first.Press("Make the feed");
        // 14 Sep to 18 Dec 2026: 42 dates, of which 12 and 23 October have no class; counted by hand from a calendar.
        var feed = await new Visitor(Client()).Open(first.ValueOf("Address of the feed"));
        Assert.Equal(40, Occurrences(feed.File));
        using var stranger = await new Visitor(Client()).Open("/c/tidepool-biology-9a");
        stranger.Sees("Tidepool Biology 9A").Sees("9:50–10:40");
        await app.StopAsync(Stop);
        await app.DisposeAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(directory, recursive: true);
    }

    // As another reader of the standard counts them (Ical.Net would do; here our own reader of files, which knows nothing of the almanac).
    private static int Occurrences(byte[] feed) =>
        ICalendarSessions
            .Of(
                ICalendarReader.Read(feed),
                NodaTime.DateTimeZoneProviders.Tzdb["America/Halifax"],
                new NodaTime.LocalDate(2026, 8, 1),
                new NodaTime.LocalDate(2027, 8, 1)
            )
            .Sessions.Count(session => session.Status != "CANCELLED");

    // Row: staff list and class list pasted, invited, accepted from the letter.
    [Fact]
    public async Task A_pasted_list_is_invited_and_accepted_from_the_letter()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("People");
        await coordinator.Follow("Import people");
        await coordinator
            .Fill("A column of addresses", "Ida Lunde <ida.lunde@skerry.example>, Per Holt <per.holt@skerry.example>")
            .Press("Look at what it would do");
        coordinator.Sees("Ida Lunde");
        await coordinator
            .Fill("Who are they?", "student")
            .Fill("Into the group", "Knot class, class list")
            .Press("Take it in");
        await coordinator.Follow("People");
        await FindPerson(coordinator, "ida");
        await coordinator.Follow("Ida Lunde");
        await coordinator.Press("Invite");
        var letter = (await Mailbox("ida.lunde@skerry.example"))[0];
        using var ida = await Stranger(LinkIn(letter, "/welcome/"));
        await ida.Fill("Your password", "ropes and knots 41").Press("Come in");
        ida.Sees("Ida Lunde");
        // The same letter lets nobody in twice.
        using var again = await Stranger(LinkIn(letter, "/welcome/"));
        again.DoesNotSee("Come in");
        // The class list has her: what is given to it is hers.
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher.Fill("Share with", "Knot class, class list").Fill("Access", "full").Press("Share");
        (await ida.Follow("Today")).Sees("Tidepool Biology 9A");
    }

    // Row: a pupil whom the school does not know is asked for, added, and comes in by the letter.
    [Fact]
    public async Task A_teacher_asks_for_a_pupil_and_the_coordinator_adds_them()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher
            .Fill("Share with", "signe.dahl@students.skerry.example")
            .Fill("Access", "full")
            .Press("Share", status: HttpStatusCode.UnprocessableEntity);
        await teacher.Press("Ask the coordinators to add");
        teacher.Sees("The coordinators are asked to add signe.dahl@students.skerry.example.");
        using var coordinator = await As(DemoServer.Coordinator);
        coordinator.Sees("3 people are to be added");
        await coordinator.Follow("Answer who asks for people");
        await coordinator.Press("Add and invite", within: "signe.dahl@students.skerry.example");
        using var pupil = await Stranger(LinkIn((await Mailbox("signe.dahl@students.skerry.example"))[0], "/welcome/"));
        await pupil.Fill("Your password", "kelp and wrack 7").Press("Come in");
        pupil.Sees("Tidepool Biology 9A");
    }

    // Row: office hours without end.
    [Fact]
    public async Task Office_hours_go_on_without_an_end()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher.Fill("In one line", "Office hours Thu 15:30-16:30 from 15 Oct without end").Press("Read it");
        await teacher.Press("Put it on Tidepool Biology 9A");
        teacher.Sees("it has no end and goes on with the school's terms");
        await teacher.Follow("Spring term");
        teacher.Sees("Office hours");
        using var student = await Class(DemoServer.Student);
        await student.Follow("Class page");
        await student.Follow("Show all that are coming");
        student.Sees("Office hours");
    }

    // Row: an all-day room.
    [Fact]
    public async Task A_room_is_open_all_day()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        await teacher.Follow("Tidepool room");
        await teacher.Follow("Edit join link");
        await teacher.Tick("All day on days with a session").Press("Save");
        server.Set(14, 6, 30);
        using var student = await As(DemoServer.Student);
        student.Sees("Join");
        using var guest = await Stranger(server.Address("short address") + "?look=1");
        guest.Sees("Open").Sees("Join");
    }

    // Row: a room for every class and where it stands.
    [Fact]
    public async Task A_new_class_gets_its_room_and_the_link_stands_wherever_the_class_looks()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Calendars");
        await teacher.Follow("Make a calendar");
        await teacher.Fill("Title", "Reef Drawing 8").Press("Make the calendar");
        await teacher.Follow("Add a series");
        teacher.Fill("In one line", "Reef Drawing 8 Wed p6 14 Oct to 18 Dec");
        await teacher.Press("Read it");
        await teacher.Fill("Join link", "a new one: School rooms").Press("Put it on Reef Drawing 8");
        await teacher.Follow("Publishing");
        var address = teacher.ValueOf("Short address of Reef Drawing 8");
        await teacher.Press("Make the feed");
        var feed = await Stranger(teacher.ValueOf("Address of the feed"));
        Assert.Contains(
            address.Split("//")[1].Split('/')[^1],
            Encoding.UTF8.GetString(feed.File),
            StringComparison.Ordinal
        );
        server.Set(14, 13, 25);
        using var stranger = await Stranger("/c/reef-drawing-8");
        stranger.Sees("Join");
        await stranger.Open(address);
        // It leads into the room itself.
        Assert.StartsWith("/rooms/", stranger.Path, StringComparison.Ordinal);
    }

    // Row: the link's short address on a slide.
    [Fact]
    public async Task The_short_address_on_a_slide_says_when_and_then_lets_in()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        await teacher.Follow("Tidepool room");
        await teacher.Follow("Join card");
        var typed = teacher.ValueOf("Short");
        var address = Regex.Match(typed, @"\S*/in/\S+").Value.TrimEnd('.', ',');
        server.Set(14, 8, 0);
        using var early = await Stranger(
            new Uri(
                server.Root,
                new Uri(
                    address.StartsWith("http", StringComparison.Ordinal) ? address : "http://" + address
                ).AbsolutePath
            ).ToString()
        );
        early.Sees("Opens at 9:40");
        server.Set(14, 9, 41);
        using var now = await Stranger(early.Path);
        now.Sees("Open until 10:10");
        await now.Follow("Join");
        Assert.StartsWith("/rooms/", now.Path, StringComparison.Ordinal);
    }

    // Row: a numbered weekly series with a file each.
    [Fact]
    public async Task A_numbered_series_has_a_sheet_for_each_session()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher.Fill("In one line", "Knot lab Thu p6 15 Oct to 5 Nov numbered Lab").Press("Read it");
        await teacher.Press("Put it on Tidepool Biology 9A");
        teacher.Sees("Knot lab");
        await teacher.Follow("Materials");
        foreach (
            var (place, name) in new[]
            {
                ("Thu 15 Oct, 13:30", "Lab 1 reef knot.txt"),
                ("Thu 29 Oct, 13:30", "Lab 2 bowline.txt"),
            }
        )
        {
            teacher.Attach("Files", name, Encoding.UTF8.GetBytes($"{name}: tie it three times."));
            teacher.FillChoice("for", place);
            await teacher.Press("Attach", within: "Title, note, and when it is given");
        }

        teacher.Sees("Lab 1 reef knot.txt").Sees("Lab 2 bowline.txt");
        server.Set(15, 13, 31);
        using var student = await As(DemoServer.Student);
        student.Sees("Lab 1 reef knot.txt");
        await student.Follow("Lab 1 reef knot.txt");
        student.Sees("tie it three times");
        using var page = await Stranger($"/c/{DemoServer.Class}");
        Assert.Equal(HttpStatusCode.NotFound, page.Status);
    }

    // Row: Monday, Wednesday, Friday for twelve sessions, one moved, one left out, a week left out.
    [Fact]
    public async Task Twelve_sessions_with_one_moved_one_cancelled_and_a_week_off_arrive_in_every_calendar()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher.Fill("In one line", "Plankton club MWF 15:30-16:15 from 19 Oct 12 sessions").Press("Read it");
        await teacher.Press("Put it on Tidepool Biology 9A");
        await teacher.Follow("Publishing");
        await teacher.Press("Make the feed");
        var address = teacher.ValueOf("Address of the feed");
        IReadOnlyList<string> Days(byte[] feed) =>
            [
                .. ICalendarSessions
                    .Of(
                        ICalendarReader.Read(feed),
                        NodaTime.DateTimeZoneProviders.Tzdb["America/Halifax"],
                        new NodaTime.LocalDate(2026, 10, 1),
                        new NodaTime.LocalDate(2027, 1, 1)
                    )
                    .Sessions.Where(session =>
                        session.Summary.StartsWith("Plankton club", StringComparison.Ordinal)
                        && session.Status != "CANCELLED"
                    )
                    .Select(session =>
                        session.Start.Time.ToString("MMdd HHmm", System.Globalization.CultureInfo.InvariantCulture)
                    )
                    .Order(StringComparer.Ordinal),
            ];
        // By hand: 19, 21 Oct; 23 Oct is the conference; 26, 28, 30 Oct; 2, 4, 6, 9 Nov; 11 Nov Remembrance; 13, 16, 18 Nov: twelve.
        string[] planned =
        [
            "1019",
            "1021",
            "1026",
            "1028",
            "1030",
            "1102",
            "1104",
            "1106",
            "1109",
            "1113",
            "1116",
            "1118",
        ];
        Assert.Equal(planned.Select(day => $"{day} 1530"), Days((await Stranger(address)).File));
        await teacher.Follow("Term sheet");
        await teacher.FollowMark("Plankton club", "2026-10-21");
        await teacher.Fill("to", "2026-10-22").Press("Move");
        await teacher.Press("this session, Wed 21 Oct");
        teacher.Sees("Moved Plankton club, Wed 21 Oct to Thu 22 Oct.");
        await teacher.FollowMark("Plankton club", "2026-10-26");
        await teacher.Press("Cancel session");
        await teacher.Press("this session, Mon 26 Oct");
        teacher.Sees("Cancelled Plankton club, Mon 26 Oct.");
        await teacher
            .Fill("from", "2026-11-02")
            .Fill("to", "2026-11-06")
            .Fill("of", "B Plankton club")
            .Press("Leave them out");
        teacher.Sees("Cancelled 3 sessions of 2–6 Nov.");
        Assert.Equal(
            ["1019 1530", "1022 1530", "1028 1530", "1030 1530", "1109 1530", "1113 1530", "1116 1530", "1118 1530"],
            Days((await Stranger(address)).File)
        );
        using var student = await Class(DemoServer.Student);
        await student.Follow("Class page");
        await student.Follow("Show all that are coming");
        student.Sees("moved from Wed 21 Oct").Sees("cancelled");
        // In one go, and back in one go.
        await teacher.Follow("Term sheet");
        await teacher.Press("Undo");
        Assert.Contains("1102 1530", Days((await Stranger(address)).File));
    }

    // Row: one-off becomes a series.
    [Fact]
    public async Task A_single_meeting_becomes_a_series()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher.Fill("In one line", "Boat talk Tue 20 Oct 15:30-16:15").Press("Read it");
        await teacher.Press("Put it on Tidepool Biology 9A");
        teacher.Sees("once, on Tue 20 Oct");
        await teacher.Follow("Edit series Boat talk");
        await teacher
            .Fill("Meets", "on weekdays")
            .Tick("Tue")
            .Fill("Until", "so many sessions are held")
            .Fill("How many sessions", "4")
            .Press("Save the changes");
        teacher.Sees("Boat talk meets Tue, 15:30–16:15, 20 Oct to 10 Nov: 4 sessions");
        using var student = await Class(DemoServer.Student);
        await student.Follow("Class page");
        await student.Follow("Show all that are coming");
        student.Sees("Tue 27 Oct").Sees("Tue 10 Nov");
    }

    // Row: two groups back to back on one link.
    [Fact]
    public async Task Two_groups_back_to_back_on_one_link_do_not_meet()
    {
        using var teacher = await As(DemoServer.Teacher);
        teacher.Sees("Two groups could meet");
        await teacher.Press("Open it at 12:30");
        (await teacher.Follow("Today")).DoesNotSee("Two groups could meet");
        server.Set(14, 12, 26);
        // 9C is not let in while the helpers are in the room, and is at half past.
        using var early = await Stranger(server.Address("short address") + "?look=1");
        early.Sees("12:30");
        server.Set(14, 12, 31);
        using var now = await Stranger(server.Address("short address") + "?look=1");
        now.Sees("Open until");
    }

    // Row: a guest for one day.
    [Fact]
    public async Task A_guest_comes_for_one_day()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        await teacher.Follow("Tidepool room");
        await teacher.Tick("enters as host").Press("Make a guest link");
        var address = teacher.AddressOf("See it").Replace("?look=1", "", StringComparison.Ordinal);
        using var guest = await Stranger(address + "?look=1");
        guest.Sees("This guest link is good for this session alone.");
        await guest.Follow("Join");
        Assert.Contains("host=", guest.Path, StringComparison.Ordinal);
        server.Set(15, 9, 55);
        using var after = await Stranger(address + "?look=1");
        after.DoesNotSee("Join").Sees("This guest link was for sessions that are over");
    }

    // Row: level busy for a colleague, outline for a school next door.
    [Fact]
    public async Task A_colleague_sees_that_the_time_is_taken_and_a_partner_titles_alone()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher.Fill("Share with", "corwin.ashby@skerry.example").Fill("Access", "busy").Press("Share");
        await teacher.Fill("Share with", "Quillon partner school").Fill("Access", "outline").Press("Share");
        using var colleague = await Class("corwin.ashby@skerry.example");
        colleague.DoesNotSee("Tide Room").DoesNotSee("join link").Sees("busy");
        using var coordinator = await As(DemoServer.Coordinator);
        await FindPerson(coordinator, "yvonne");
        await coordinator.Follow("Yvonne Petrie");
        await coordinator.Press("Make one, to tell them");
        var password = coordinator.Page.QuerySelector(".said code")!.TextContent;
        using var partner = await Stranger("/sign-in");
        await partner
            .Fill("E-mail address", "yvonne.petrie@quillon.example")
            .Fill("Password", password)
            .Press("Sign in");
        await partner.Follow("Calendars");
        await partner.Follow("Tidepool Biology 9A");
        partner.Sees("Tide Room").DoesNotSee("Barnacle count");
    }

    // Row: look as a student, as a stranger.
    [Fact]
    public async Task The_teacher_looks_as_a_student_and_as_a_stranger()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher.Press("Preview as a stranger");
        teacher.DoesNotSee("Barnacle count");
        await teacher.Press("Be yourself again");
        await (await teacher.Follow("Calendars")).Follow("Tidepool Biology 9A");
        await teacher.Follow("People and access");
        await teacher.Press("preview as Tidepool Biology 9A, class list");
        teacher.Sees("Tidepool Biology 9A").DoesNotSee("Barnacle count, answers").DoesNotSee("Add a series");
        await teacher.Press("Be yourself again");
        (await teacher.Follow("Today")).Sees("Start as host");
    }

    // Row: feed in another reader, changed, fetched again.
    [Fact]
    public async Task A_change_arrives_in_a_calendar_that_subscribed()
    {
        using var client = server.Client();
        var address = server.Address("feed");
        using var first = await client.GetAsync(address, Stop);
        var tag = first.Headers.ETag!;
        using (var unchanged = new HttpRequestMessage(HttpMethod.Get, address) { Headers = { IfNoneMatch = { tag } } })
        using (var answer = await client.SendAsync(unchanged, Stop))
            Assert.Equal(HttpStatusCode.NotModified, answer.StatusCode);
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.FollowMark("Tidepool Biology 9A", "2026-10-16");
        await teacher.Fill("Note", "At the slipway.").Press("Save note");
        await teacher.Press("this session, Fri 16 Oct");
        using var again = new HttpRequestMessage(HttpMethod.Get, address) { Headers = { IfNoneMatch = { tag } } };
        using var changed = await client.SendAsync(again, Stop);
        Assert.Equal(HttpStatusCode.OK, changed.StatusCode);
        var text = await changed.Content.ReadAsStringAsync(Stop);
        Assert.Contains(
            "At the slipway.",
            text.Replace("\r\n ", "", StringComparison.Ordinal),
            StringComparison.Ordinal
        );
    }

    // Row: frozen copy by mail.
    [Fact]
    public async Task A_copy_goes_to_the_school_next_door_by_e_mail_and_says_that_it_is_one()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Publishing");
        teacher
            .Fill("From", "2026-10-19")
            .Fill("To", "2026-10-30")
            .Fill("It shows", "titles, times and places")
            .Fill("Or by e-mail to", "these addresses outside the school")
            .Fill("Addresses", "office@quillon.example");
        await teacher.Press("Send it by e-mail");
        var letter = (await Mailbox("office@quillon.example"))[0];
        Assert.Contains("does not follow changes", letter, StringComparison.Ordinal);
        Assert.Contains("Orla Marchbanks sends you", letter, StringComparison.Ordinal);
    }

    // Row: a file from elsewhere in, again, newer, undone.
    [Fact]
    public async Task A_file_from_elsewhere_comes_in_and_again_and_newer_and_is_undone()
    {
        static byte[] File(string at, int sequence) =>
            Encoding.UTF8.GetBytes(
                string.Join(
                    "\r\n",
                    "BEGIN:VCALENDAR",
                    "VERSION:2.0",
                    "PRODID:-//Elsewhere//EN",
                    "BEGIN:VEVENT",
                    "UID:regatta@elsewhere.example",
                    $"SEQUENCE:{sequence}",
                    "DTSTAMP:20261001T120000Z",
                    $"DTSTART;TZID=America/Halifax:{at}",
                    "DURATION:PT45M",
                    "SUMMARY:Regatta briefing",
                    "END:VEVENT",
                    "END:VCALENDAR",
                    ""
                )
            );
        using var teacher = await Class(DemoServer.Teacher);
        async Task Import(string at, int sequence)
        {
            await (await teacher.Follow("Calendars")).Follow("Tidepool Biology 9A");
            await teacher.Follow("Import a file");
            await teacher.Attach("A file", "regatta.ics", File(at, sequence)).Press("Look at what it would do");
        }

        await Import("20261020T153000", 0);
        await teacher.Press("Put 1 entry on the");
        using var student = await Class(DemoServer.Student);
        student.Sees("Regatta briefing");
        await Import("20261020T153000", 0);
        teacher.Sees("All of it is on the calendar already");
        await Import("20261021T160000", 1);
        await teacher.Press("Put 1 entry on the");
        await student.Follow("Class page");
        student.Sees("Wed 21 Oct, 16:00–16:45");
        await (await teacher.Follow("Calendars")).Follow("Tidepool Biology 9A");
        await teacher.Press("Undo it");
        await student.Open(student.Path);
        student.DoesNotSee("16:00–16:45").Sees("Regatta briefing");
    }

    // Row: sheet on paper for a wall.
    [Fact]
    public async Task A_sheet_for_the_wall_says_what_the_page_says()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Publishing");
        await teacher.Follow("The term on one page");
        using var pdf = new MemoryStream(teacher.File);
        var words = Formats.PdfText.Of(pdf, 20_000);
        Assert.Contains("Tidepool Biology 9A", words, StringComparison.Ordinal);
        Assert.Contains("37 sessions, 30 h 05", words, StringComparison.Ordinal);
        Assert.Contains("Made on 14 Oct 2026", words, StringComparison.Ordinal);
    }

    // Row: term carried to the next, and taken back.
    [Fact]
    public async Task A_term_is_copied_to_the_next_and_taken_back()
    {
        using var teacher = await As(DemoServer.Teacher);
        await (await teacher.Follow("Calendars")).Follow("Copy to next term");
        await teacher.Press("Copy them to the Spring term");
        teacher.Sees("copied, with their join links");
        using var student = await Class(DemoServer.Student);
        await student.Follow("Spring term");
        student.Sees("Meets Mon, Wed and Fri in period 3");
        await teacher.Press("Undo all of it");
        await student.Open(student.Path);
        student.Sees("No session in the Spring term yet");
    }

    // Row: a pupil changes class.
    [Fact]
    public async Task A_pupil_changes_class_and_sees_the_other_from_then_on()
    {
        using var pupil = await As(DemoServer.Student);
        pupil.Sees("Tidepool Biology 9A");
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("People");
        await (await coordinator.Follow("Groups")).Follow("Tidepool Biology 9A, class list");
        await coordinator.Press("Remove", within: "Teodor Quill");
        await (await coordinator.Follow("People")).Follow("Groups");
        await coordinator.Follow("Tidepool Biology 9C, class list");
        await coordinator.Fill("Add people", DemoServer.Student).Press("Add them");
        (await pupil.Follow("Today")).Sees("Tidepool Biology 9C").DoesNotSee("Tidepool Biology 9A");
    }

    // Row: a teacher leaves, everything handed on.
    [Fact]
    public async Task A_teacher_leaves_and_everything_is_handed_on()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await FindPerson(coordinator, "orla");
        await coordinator.Follow("Orla Marchbanks");
        await coordinator.Fill("Who takes over", "Ines Falk").Press("Orla Marchbanks has left");
        coordinator.Sees("has left");
        using var gone = await Stranger("/sign-in");
        await gone.Fill("E-mail address", DemoServer.Teacher)
            .Fill("Password", DemoServer.Password)
            .Press("Sign in", status: HttpStatusCode.UnprocessableEntity);
        using var heir = await As("ines.falk@skerry.example");
        heir.Sees("Coastal Weather 10").Sees("Start as host");
        await (await heir.Follow("Calendars")).Follow("Coastal Weather 10");
        await heir.Follow("People and access");
        heir.Sees("Ines Falk owner");
        // The feed that was made by who has left is still read.
        using var feed = await Stranger(server.Address("feed"));
        Assert.Contains("Tidepool Biology 9A", Encoding.UTF8.GetString(feed.File), StringComparison.Ordinal);
    }

    // Row: a calendar put away, deleted, brought back.
    [Fact]
    public async Task A_calendar_is_deleted_and_brought_back()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Settings");
        await teacher.Fill("Write its title", "Tidepool Biology 9A").Press("Delete the calendar");
        using var student = await As(DemoServer.Student);
        student.DoesNotSee("Tidepool Biology 9A");
        await teacher.Follow("Calendars");
        await teacher.Press("Bring it back", within: "Tidepool Biology 9A");
        (await student.Follow("Today")).Sees("Tidepool Biology 9A");
    }

    // Who is away stands on the coordinator's Today, with why; nobody else reads it.
    [Fact]
    public async Task Who_is_away_stands_on_the_coordinators_Today_and_goes_again()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        coordinator.Sees("Maeve Dunphy, fiddle week in Quillon");
        await FindPerson(coordinator, "orla", "teachers");
        await coordinator.Follow("Orla Marchbanks");
        await coordinator
            .Fill("From", "2026-10-15")
            .Fill("To", "2026-10-14")
            .Fill("Why", "a <b>boat</b> & a ferry")
            .Press("Note an absence", status: HttpStatusCode.UnprocessableEntity);
        coordinator.Sees("The last day is before the first.");
        await coordinator.Fill("To", "2026-10-20").Press("Note an absence");
        coordinator.Sees("15–20 Oct");
        await coordinator.Follow("Today");
        coordinator.Sees("Orla Marchbanks, a <b>boat</b> & a ferry");
        foreach (var email in new[] { DemoServer.Teacher, DemoServer.Student })
        {
            using var other = await As(email);
            other.DoesNotSee("<b>boat</b>").DoesNotSee("fiddle week");
        }

        await coordinator.Follow("Open Orla Marchbanks");
        await coordinator.Press("Remove the absence of 15–20 Oct");
        (await coordinator.Follow("Today")).DoesNotSee("<b>boat</b>").Sees("fiddle week");
    }

    // Row: a family with two children.
    [Fact]
    public async Task A_family_has_the_classes_of_both_children()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await FindPerson(coordinator, "quill", "families");
        await coordinator.Follow("Family of Teodor Quill");
        await coordinator
            .Fill("Children", $"{DemoServer.Student}\naoife.abara@students.skerry.example")
            .Press("Save the children");
        using var family = await As("teodor.quill@families.skerry.example");
        family.Sees("Teodor Quill").Sees("Aoife Abara");
        await family.Follow("Teodor Quill");
        family.Sees("Tidepool Biology 9A");
        await coordinator.Fill("Children", DemoServer.Student).Press("Save the children");
        (await family.Follow("Today")).DoesNotSee("Aoife Abara");
    }

    // Row: a person exported, erased.
    [Fact]
    public async Task All_that_is_kept_of_a_person_is_given_to_them_and_erased()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await FindPerson(coordinator, "teodor quill", "students");
        await coordinator.Follow("Teodor Quill");
        var page = coordinator.Path;
        await coordinator.Press("Export all that is kept of them");
        Assert.Contains(DemoServer.Student, Encoding.UTF8.GetString(coordinator.File), StringComparison.Ordinal);
        await coordinator.Open(page);
        await coordinator.Press("Teodor Quill has left");
        await coordinator.Open(page);
        await coordinator
            .Fill("Name, address, lists and access are erased", "Teodor Quill")
            .Press("Erase all that is kept of them");
        await FindPerson(coordinator, "teodor", "who have left");
        coordinator.DoesNotSee(DemoServer.Student);
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("People and access");
        await teacher.Follow("Class list");
        teacher.DoesNotSee("Teodor Quill");
    }

    // Row: second factor.
    [Fact]
    public async Task A_second_factor_is_set_up_and_asked_for()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Your account");
        await teacher.Press("Set up a second factor");
        var key = Regex
            .Match(teacher.Text, @"\b(?:[A-Z2-7]{4} ?){8}\b")
            .Value.Replace(" ", "", StringComparison.Ordinal);
        // RFC 6238, as a device shows it: HMAC-SHA-1, 30 seconds, 6 digits; computed by Otp.NET.
        string Code() =>
            new OtpNet.Totp(OtpNet.Base32Encoding.ToBytes(key)).ComputeTotp(
                server.Services.GetRequiredService<NodaTime.IClock>().GetCurrentInstant().ToDateTimeUtc()
            );
        await teacher.Fill("The code it shows now", Code()).Press("Set it up");
        using var again = await Stranger("/sign-in");
        await again.Fill("E-mail address", DemoServer.Teacher).Fill("Password", DemoServer.Password).Press("Sign in");
        again.Sees("The code that your device shows").DoesNotSee("Wednesday 14 October");
        server.Set(14, 9, 43);
        await again.Fill("The code that your device shows", Code()).Press("Go on");
        again.Sees("Wednesday 14 October");
    }

    // Row: backup, restore elsewhere, sign in there.
    [Fact]
    public async Task A_backup_is_restored_elsewhere_and_serves_there()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Notices");
        await teacher.Fill("It says", "Low water is at noon.").Press("Put it up");
        var (file, elsewhere) = (Path.GetTempFileName(), Path.Combine(Path.GetTempPath(), Path.GetRandomFileName()));
        File.Delete(file);
        Assert.Equal(0, CommandLine.Run(["backup", file, "--data", server.Directory]));
        Assert.Equal(0, CommandLine.Run(["restore", file, "--data", elsewhere]));
        using (var coordinator = await As(DemoServer.Coordinator))
            coordinator.Sees("The last one was made");
        var clock = new Demo.DemoClock();
        clock.Set(server.Services.GetRequiredService<NodaTime.IClock>().GetCurrentInstant());
        await using (
            var app = AlmanacServer.Build(
                new AlmanacSettings(elsewhere, ["http://127.0.0.1:0"], clock, StandInRooms: true)
            )
        )
        {
            app.Start();
            using var there = await new Visitor(
                new HttpClient(
                    new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
                )
                {
                    BaseAddress = new Uri(app.Urls.Single()),
                }
            ).Open("/");
            await there
                .Fill("E-mail address", DemoServer.Student)
                .Fill("Password", DemoServer.Password)
                .Press("Sign in");
            there.Sees("Low water is at noon.");
            await app.StopAsync(Stop);
        }

        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(elsewhere, recursive: true);
        File.Delete(file);
    }

    // Row: a notice before a session, seen by whom, gone after.
    [Fact]
    public async Task A_notice_stands_until_its_session_is_over_and_says_who_has_seen_it()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Notices");
        teacher
            .Fill("It says", "Goggles on the bench.")
            .Fill("About", "Wed 14 Oct")
            .Tick("take it down when that is over");
        await teacher.Press("Put it up");
        teacher.Sees("comes down Wed 14 Oct at 10:40");
        using (var student = await As(DemoServer.Student))
            student.Sees("Goggles on the bench.");
        await teacher.Open(teacher.Path);
        teacher.Sees("Teodor Quill Wed 14 Oct, 9:41");
        server.Set(14, 10, 41);
        using var after = await As(DemoServer.Student);
        after.DoesNotSee("Goggles on the bench.");
    }

    // Row: the recording afterwards, found in the archive.
    [Fact]
    public async Task The_recording_is_there_afterwards_and_found_in_the_archive()
    {
        server.Set(14, 10, 50);
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Materials");
        teacher.Fill("or a link", "https://films.skerry.example/9a-13");
        teacher.FillChoice("for", "Wed 14 Oct");
        await teacher
            .Tick("it is the recording of its session")
            .Press("Attach", within: "Title, note, and when it is given");
        using var student = await Class(DemoServer.Student);
        await student.Follow("Class page");
        student.Sees("Recording");
        await student
            .Fill("Find a session or material", "recording")
            .Press("Find", within: "Find a session or material");
        student.Sees("Recording");
        Assert.Equal("https://films.skerry.example/9a-13", (await student.Follow("Recording")).Path);
    }

    // Row: level of one's own: the same one-off on several classes at once.
    [Fact]
    public async Task The_same_meeting_stands_on_several_calendars_at_once()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher.Fill("In one line", "Harbour walk Tue 20 Oct 15:30-16:15").Press("Read it");
        await teacher.Tick("Tidepool Biology 9C").Tick("Coastal Weather 10").Press("Put it on Tidepool Biology 9A");
        teacher.Sees("Harbour walk is on 3 calendars.");
        foreach (var title in new[] { "Tidepool Biology 9C", "Coastal Weather 10" })
        {
            await (await teacher.Follow("Calendars")).Follow(title);
            teacher.Sees("Harbour walk");
        }
    }
}
