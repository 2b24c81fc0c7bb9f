using System.Net;
using System.Text.RegularExpressions;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// What a term's work asks besides: built in peace, not certain yet, a room at once. Told by what stands on the pages, and looked at
/// where the other person sees it.
/// </summary>
public sealed class WorkStoryTests : IDisposable
{
    private readonly DemoServer server = new();

    public void Dispose() => server.Dispose();

    private async Task<Visitor> As(string email) => await new Visitor(await server.SignedInAnew(email)).Open("/");

    private async Task<Visitor> Stranger(string address) => await new Visitor(server.Client()).Open(address);

    private async Task<Visitor> Class(string email) =>
        await (await (await As(email)).Follow("Calendars")).Follow("Tidepool Biology 9A");

    [Fact]
    public async Task A_calendar_is_built_in_peace_and_opened()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Settings");
        await teacher.Fill("Opens on", "2026-10-19").Press("Save");
        teacher.Sees("Opens on Mon 19 Oct. Until then only those who work on it see it.");
        using var student = await As(DemoServer.Student);
        student.DoesNotSee("Tidepool Biology 9A");
        // Whom it will be closed to then is told nothing of it.
        using (var stranger = await Stranger($"/c/{DemoServer.Class}"))
            stranger.Sees("There is nothing at this address").DoesNotSee("opens on");
        await student.Open($"/c/{DemoServer.Class}");
        Assert.Equal(HttpStatusCode.NotFound, student.Status);
        student.Sees("This opens on Mon 19 Oct").DoesNotSee("ask its keepers");
        // Her co-teacher goes on working.
        using (var other = await Class("ines.falk@skerry.example"))
            other.Sees("Opens on Mon 19 Oct").DoesNotSee("Open it now");
        await teacher.Press("Open it now");
        teacher.Sees("its people see it now").DoesNotSee("Until then only");
        await student.Open($"/c/{DemoServer.Class}");
        Assert.Equal(HttpStatusCode.OK, student.Status);
        // A day that is emptied is none.
        await teacher.Follow("Settings");
        await teacher.Fill("Opens on", "2026-10-19").Press("Save");
        await student.Open($"/c/{DemoServer.Class}");
        Assert.Equal(HttpStatusCode.NotFound, student.Status);
        await teacher.Follow("Settings");
        await teacher.Fill("Opens on", "").Press("Save");
        await student.Open($"/c/{DemoServer.Class}");
        Assert.Equal(HttpStatusCode.OK, student.Status);
    }

    [Fact]
    public async Task A_series_that_is_not_certain_yet_is_settled_in_one_press()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Edit series");
        await teacher.Tick("Not certain yet").Press("Save");
        teacher.Sees("Not certain yet.");
        using var student = await As(DemoServer.Student);
        student.Sees("not certain yet");
        await student.Follow("Week");
        student.Sees("not certain yet");
        await student.Open($"/c/{DemoServer.Class}");
        student.Sees("not certain yet").Sees("It is not certain yet that it takes place.");

        await teacher.Press("It takes place");
        teacher.Sees("Settled that Tidepool Biology 9A takes place.").DoesNotSee("Not certain yet.");
        await student.Open(student.Path);
        student.DoesNotSee("certain");
        // One session by itself, from the sheet.
        await teacher.FollowMark("Tidepool Biology 9A", "2026-10-19");
        await teacher.Press("Not certain yet");
        await teacher.Press("this session, Mon 19 Oct");
        teacher.Sees("Marked Tidepool Biology 9A, Mon 19 Oct as not certain yet.");
        await student.Open(student.Path);
        student.Sees("not certain yet");
        await teacher.FollowMark("Tidepool Biology 9A", "2026-10-19");
        await teacher.Press("It takes place");
        await student.Open(student.Path);
        student.DoesNotSee("certain");
    }

    [Fact]
    public async Task A_room_at_once_is_there_for_the_class_and_ends()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Fill("for", "Tidepool Biology 9A").Press("Open a room");
        var address = Regex.Match(teacher.Text, @"/in/tidepool-\w+(?= is open)").Value;
        using var student = await As(DemoServer.Student);
        student.DoesNotSee("A room now");
        await student.Open($"/c/{DemoServer.Class}");
        student.Sees("Open now").Sees("Tidepool Biology 9A, now until 10:41");
        await student.Open(address + "?look=1");
        student.Sees("Open until 10:41");
        await teacher.Press("End it");
        teacher.Sees("Tidepool Biology 9A, now has ended.");
        await student.Open(student.Path);
        student.DoesNotSee("Open until");
        await student.Open($"/c/{DemoServer.Class}");
        student.DoesNotSee("Open now");
        // For nobody in particular: on no page, whoever has the address enters.
        await teacher.Fill("for", "nobody in particular").Press("Open a room");
        address = Regex.Match(teacher.Text, @"/in/room-\w+(?= is open)").Value;
        await student.Open($"/c/{DemoServer.Class}");
        student.DoesNotSee("Open now");
        using var stranger = await Stranger(address + "?look=1");
        stranger.Sees("Open until 10:41");
    }

    [Fact]
    public async Task A_notice_says_whom_it_goes_to_and_has_a_headline()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Notices");
        teacher.Sees("see it; by e-mail it would go to");
        await teacher.Fill("Headline", "Low water").Fill("It says", "Bring <b>boots</b>.").Press("Put it up");
        using var student = await Class(DemoServer.Student);
        await student.Follow("Class page");
        student.Sees("Low water").Sees("Bring <b>boots</b>.");
        // For one alone and the family that reads along, it is said anew, as the script asks for it while the form is filled.
        await teacher.Open(teacher.Path);
        teacher.Fill("It says", "For you.").Tick("Teodor Quill");
        var press = teacher
            .Pressables()
            .First(one => one.ActionOn("").Contains("handler=Put", StringComparison.Ordinal));
        press.Form.SetAttribute("action", $"/calendars/{DemoServer.Class}/notices?handler=Reach");
        await teacher.Send(press);
        teacher.Sees("2 people see it; by e-mail it would go to all of them.");
    }

    [Fact]
    public async Task A_series_moves_to_another_calendar_from_a_day_on_and_back()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Edit series");
        await teacher.Follow("Move it to another calendar");
        await teacher.Fill("To", "Tidepool Biology 9C").Fill("From", "2026-11-02").Press("See what becomes of it");
        teacher.Sees("sessions go to Tidepool Biology 9C").Sees("It is joined by /in/tidepool-7k as before");
        await teacher.Press("Move it to Tidepool Biology 9C");
        teacher.Sees("Moved Tidepool Biology 9A from Mon 2 Nov on to Tidepool Biology 9C.");
        using var student = await As(DemoServer.Student);
        await student.Open($"/c/{DemoServer.Class}?all=true");
        student.Sees("Fri 30 Oct").DoesNotSee("Mon 2 Nov");
        await teacher.Press("Undo");
        await student.Open(student.Path);
        student.Sees("Mon 2 Nov");
    }

    [Fact]
    public async Task Several_links_have_one_rule_and_their_own_again()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        teacher.Tick("Tidepool room").Tick("Weather tower").Tick("All day on days with a session");
        await teacher.Press("Give them the rule");
        teacher.Sees("2 links have the rule now");
        using var student = await As(DemoServer.Student);
        await student.Open("/in/tidepool-7k?look=1");
        student.Sees("Open until");
        await teacher.Press("Take the rule back");
        teacher.Sees("2 links have their own rule again.").DoesNotSee("Take the rule back");
    }

    [Fact]
    public async Task A_link_has_hours_and_rooms_in_turn()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("Join links");
        await teacher.Follow("Tidepool room");
        await teacher.Follow("Edit join link");
        teacher.Tick("On class days, with sessions or without").Fill("from", "8:00").Fill("to", "18:00");
        await teacher
            .Fill("More rooms", "https://rooms.skerry.example/second\nhttps://rooms.skerry.example/third")
            .Press("Save");
        teacher.Sees("3 rooms in turn").Sees("open on class days, 8:00–18:00");
        using var student = await As(DemoServer.Student);
        await student.Open("/in/tidepool-7k?look=1");
        student.Sees("Open on class days, 8:00–18:00.").Sees("Open until 18:00").DoesNotSee("rooms.skerry.example");
        server.Set(14, 18, 0);
        await student.Open("/in/tidepool-7k?look=1");
        student.DoesNotSee("Open until");
    }

    [Fact]
    public async Task What_is_to_be_done_is_told_and_marked_by_its_reader_alone()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Materials");
        await teacher
            .Fill("or a link", "https://tides.skerry.example/tables")
            .Fill("called", "Tide tables")
            .Fill("under", "To look things up")
            .Fill("to be done by", "2026-10-20")
            .Press("Attach");
        teacher.Sees("Tide tables").Sees("to be done by Tue 20 Oct");
        await teacher.Press("Move the heading To look things up up");
        teacher.Sees("They stand in their new order.");
        using var student = await As(DemoServer.Student);
        student.Sees("To be done").Sees("Tide tables, Tidepool Biology 9A by Tue 20 Oct");
        await student.Press("Mark as done: Tide tables");
        student.Sees("✓ Done");
        // On the class page it is told; the mark is nowhere but with its reader.
        await student.Open($"/c/{DemoServer.Class}");
        student.Sees("by Tue 20 Oct").DoesNotSee("✓ Done");
        using var family = await As("teodor.quill@families.skerry.example");
        family.Sees("Tide tables, Tidepool Biology 9A by Tue 20 Oct").DoesNotSee("✓ Done");
    }

    [Fact]
    public async Task The_class_waits_at_the_door_until_a_host_is_in_and_is_told_what_to_do()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Open("/join-links/tidepool-7k/edit");
        await teacher
            .Fill("Address", "https://rooms.elsewhere.example/9a")
            .Fill("What to do", "Bring the <field> book.")
            .Tick("Once a host is in")
            .Press("Save");
        using var student = await As(DemoServer.Student);
        await student.Open("/in/tidepool-7k");
        student.Sees("Opens once a host is in").Sees("You wait for the host").Sees("Bring the <field> book.");
        await student.Open("/in/tidepool-7k?look=1&waits=one");
        await student.Open($"/c/{DemoServer.Class}");
        student.Sees("Opens once a host is in").Sees("Something does not work?").Sees("Ask Orla Marchbanks");
        await teacher.Open("/today");
        teacher.Sees("The class waits for you");
        await teacher.Press("Start as host · 1 waiting");
        teacher.Sees("You are led into the room.");
        await student.Open("/in/tidepool-7k?look=1");
        student.Sees("Open until 10:10").DoesNotSee("You wait for the host");
        await teacher.Open("/join-links/tidepool-7k/card?part=WhatToDo&words=Into+the+room");
        teacher.Sees("Into the room: ").Sees("What to do: Bring the <field> book.");
    }

    [Fact]
    public async Task A_letter_that_is_pasted_fills_the_form()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Add a series");
        await teacher
            .Fill(
                "The text of the letter",
                "Dear Orla,\ncan we meet Tuesday at ten for half an hour, in the Net room? Bring <b>nets</b>."
            )
            .Press("Read the letter");
        teacher
            .Sees("The form is filled from “can we meet Tuesday at ten")
            .Sees("Not used of the letter:")
            .Sees("Bring <b>nets</b>.");
        await teacher.Press("Save");
        using var student = await As(DemoServer.Student);
        await student.Open($"/c/{DemoServer.Class}");
        student.Sees("Tue 20 Oct, 10:00–10:30");
        await teacher.Open($"/calendars/{DemoServer.Class}/series/new");
        await teacher
            .Fill("The text of the letter", "Thank you for the books.")
            .Press("Read the letter", status: HttpStatusCode.UnprocessableEntity);
        teacher.Sees("No day and no time was found in the letter.");
    }

    [Fact]
    public async Task An_embed_has_a_line_above_and_says_where_it_was_shown()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Publishing");
        teacher.Sees("for www.skerry.example; no page has shown it yet");
        await teacher.Fill("Above it", "Come to the <tide> pools").Fill("Sessions", "2").Press("Save the embed");
        var address = server.Address("embed");
        using (var client = server.Client())
        {
            client.DefaultRequestHeaders.Add("Sec-Fetch-Dest", "iframe");
            client.DefaultRequestHeaders.Referrer = new Uri("https://www.skerry.example/");
            var shown = await client.GetStringAsync(address, TestContext.Current.CancellationToken);
            Assert.Contains("Come to the &lt;tide&gt; pools", shown, StringComparison.Ordinal);
            Assert.Equal(2, Regex.Count(shown, "class=\"tabular\""));
        }

        await teacher.Open(teacher.Path);
        teacher.Sees("shown on www.skerry.example since Wed 14 Oct, last Wed 14 Oct, 9:41");
    }

    [Fact]
    public async Task Free_times_are_shown_by_a_link_that_ends()
    {
        using var teacher = await As(DemoServer.Teacher);
        await teacher.Follow("My times");
        teacher
            .Sees("Fri 16 Octfree 8:00–9:50, 10:40–12:35, 13:25–15:15")
            .Sees(
                "Anyone sees nothing; the school nothing; named there: 4 see all of it, 1 sees its title and place and 2 see that you are busy."
            );
        await teacher.Fill("From", "2026-10-16").Press("Show these days");
        await teacher.Press("Make a link to these days");
        teacher.Sees("The link is made, and stands below.");
        var address = new Uri(teacher.Page.QuerySelector("input.address-box")!.GetAttribute("value")!).AbsolutePath;
        using var stranger = await Stranger(address);
        stranger
            .Sees("When Orla Marchbanks is free")
            .Sees("Fri 16 Oct8:00–9:50, 10:40–12:35, 13:25–15:15")
            .DoesNotSee("Tidepool")
            .DoesNotSee("busy");
        await teacher.Press("End it now");
        await stranger.Open(address);
        Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
        await teacher.Open("/my-times?First=never");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, teacher.Status);
    }

    [Fact]
    public async Task A_class_begins_as_its_department_has_it()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("Calendars");
        await coordinator.Follow("Field Science");
        await coordinator.Follow("Settings");
        await coordinator.Follow("How its classes begin");
        coordinator
            .Sees("A new class of this department begins as the school has it.")
            .DoesNotSee("as the school’s do");
        await coordinator.Fill("A new feed", "soon").Press("Save", status: HttpStatusCode.UnprocessableEntity);
        coordinator.Sees("The minutes before");
        await coordinator
            .Fill("A new feed", "5")
            .Tick("Only for those who are named on it.")
            .Fill("Checklist for rooms", "Microscope camera on")
            .Press("Save");
        coordinator.Sees("The next class of Field Science begins so.");
        await coordinator.Follow("Make one");
        await coordinator.Fill("Title", "Lichen 10F").Press("Make the calendar");
        await coordinator.Follow("Join links");
        coordinator.DoesNotSee("Microscope camera on");
        await coordinator.Open("/join-links/new?calendar=lichen-10f");
        coordinator.Sees("Microscope camera on");
        using (var stranger = await Stranger("/c/lichen-10f"))
            Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
        await coordinator.Open("/calendars/field-science/defaults");
        await coordinator.Press("Begin as the school’s do");
        coordinator.Sees("Classes of Field Science begin as the school’s do.").DoesNotSee("Microscope camera on");
        // A class has no classes, and who teaches one does not decide how others begin.
        await coordinator.Open($"/calendars/{DemoServer.Class}/defaults");
        Assert.Equal(HttpStatusCode.NotFound, coordinator.Status);
        using var teacher = await As("benedikt.osei@skerry.example");
        await teacher.Open("/calendars/field-science/defaults");
        Assert.NotEqual(HttpStatusCode.OK, teacher.Status);
    }

    [Fact]
    public async Task A_school_comes_from_its_files_and_goes_back()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("People");
        await coordinator.Follow("The school from its files");
        await coordinator.Press("Look at what would come of it", status: HttpStatusCode.UnprocessableEntity);
        coordinator.Sees("Choose files, or paste a timetable or a list.");
        const string Timetable =
            "Class\tTeacher\tDay\tPeriod\tRoom\nLichen 10F\tOrla Marchbanks\tMon\t2\tRoom 6\nLichen 10F\tOrla Marchbanks\tThu\t2\tRoom 6\nKelp 9G\tMarchbank\tFri\t19\tRoom 6";
        await coordinator.Fill("Or paste", Timetable).Press("Look at what would come of it");
        coordinator
            .Sees("2 new calendars")
            .Sees("Mon and Thu in period 2")
            .Sees("Nobody who teaches here is called “Marchbank”")
            .Sees("No bell is called “19”")
            .Sees("1 class without meetings");
        await coordinator.Press("Bring in 2 calendars");
        coordinator.Sees("Taken in: 2 new calendars, 1 new series").Sees("Lichen 10F");
        // The one who teaches it has it.
        using (var teacher = await As(DemoServer.Teacher))
        {
            await teacher.Follow("Calendars");
            await teacher.Follow("Lichen 10F");
            teacher.Sees("Settings").Sees("Room 6");
        }

        using (var stranger = await Stranger("/c/lichen-10f"))
            stranger.Sees("Lichen 10F");
        // The same again changes nothing.
        await coordinator.Open("/school-files");
        await coordinator.Fill("Or paste", Timetable).Press("Look at what would come of it");
        coordinator.Sees("0 new calendars").Sees("Taking them in changes nothing.");
        await coordinator.Follow("More files");
        await coordinator
            .Fill("Or paste", "26 Nov 2026 Boat day\n27 Nov 2026 Boat day")
            .Press("Look at what would come of it");
        await coordinator.Open("/school-files");
        await coordinator.Press("Take it back");
        coordinator.Sees("Took back what files of the school had brought: 2 calendars, 1 series.");
        using (var stranger = await Stranger("/c/lichen-10f"))
            Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
        using var other = await As(DemoServer.Teacher);
        await other.Open("/school-files");
        Assert.Equal(HttpStatusCode.Forbidden, other.Status);
    }

    [Fact]
    public async Task Another_calendar_begins_like_one_that_is_there()
    {
        using var teacher = await Class(DemoServer.Teacher);
        await teacher.Follow("Settings");
        await teacher.Follow("Make another like it");
        await teacher.Fill("Title", "Tidepool Biology 9E").Press("Make the calendar");
        teacher.Sees("Tidepool Biology 9E has its calendar.");
        await teacher.Follow("People and access");
        teacher.Sees("Ines Falk").DoesNotSee("Teodor Quill");
        // A manager alone passes it on.
        using var contributor = await As("benedikt.osei@skerry.example");
        await contributor.Open("/calendars/new?like=tidepool-biology-9a");
        contributor.Sees("A new calendar").DoesNotSee("Begin without it");
    }

    [Fact]
    public async Task Several_calendars_are_changed_at_once_and_back_again()
    {
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("Calendars");
        await coordinator.Follow("Change several");
        await coordinator.Fill("A word of its title", "Tidepool").Press("Find");
        coordinator.Sees("Tidepool Biology 9A").Sees("Tidepool Biology 9C").DoesNotSee("Boat Geometry 10");
        // Nothing is ticked.
        await coordinator.Press("Look at what would come of it", status: HttpStatusCode.UnprocessableEntity);
        coordinator.Sees("Tick the calendars that are to be changed.");
        await coordinator
            .Tick("All 2 found")
            .Tick("Put up a notice")
            .Fill("It says", "The slipway is closed.")
            .Fill("up to", "2026-10-20")
            .Press("Look at what would come of it");
        coordinator.Sees("2 calendars would be changed").Sees("Nothing is done yet.");
        using (var before = await Stranger("/c/tidepool-biology-9c"))
            before.DoesNotSee("The slipway is closed.");
        await coordinator.Press("Back to the choice");
        coordinator.Sees("The slipway is closed.");
        await coordinator.Press("Look at what would come of it");
        await coordinator.Press("Do it for 2 calendars");
        coordinator.Sees("Done: you put up a notice on 2 calendars at once.");
        using (var after = await Stranger("/c/tidepool-biology-9c"))
            after.Sees("The slipway is closed.");
        using (var student = await As(DemoServer.Student))
        {
            await student.Open("/c/tidepool-biology-9a");
            student.Sees("The slipway is closed.");
        }

        await coordinator.Press("Take it back");
        coordinator.Sees("2 calendars are as before.");
        using (var again = await Stranger("/c/tidepool-biology-9c"))
            again.DoesNotSee("The slipway is closed.");
        using var reader = await As(DemoServer.Student);
        await reader.Open("/several-calendars");
        reader.Sees("There is no calendar that you may change");
    }

    [Fact]
    public async Task A_family_finds_its_class_on_the_front_page_and_nothing_that_is_for_named_people()
    {
        // As it is at first: who is not signed in is led there.
        using (var stranger = await Stranger("/"))
            stranger.Sees("Password").DoesNotSee("Find your class");
        using var coordinator = await As(DemoServer.Coordinator);
        await coordinator.Follow("School time");
        await coordinator.Open("/school-time/school");
        await coordinator.Tick("Families find their class at the almanac’s first address").Press("Save");
        using var family = await Stranger("/");
        family
            .Sees("Skerry Isles School")
            .Sees("Tidepool Biology 9C")
            .Sees("today, 12:35")
            .Sees("Teachers’ conference")
            .DoesNotSee("Tidepool Biology 9A")
            .DoesNotSee("Field Science");
        // A class is found by who teaches it, where its page says so to anyone.
        await family.Fill("Find your class", "arseneau").Press("Find");
        family.Sees("French 8").Sees("Lucette Arseneau").DoesNotSee("Tidepool Biology 9C");
        await family.Fill("Find your class", "tidepool").Press("Find");
        family.Sees("Tidepool Biology 9C").DoesNotSee("French 8");
        await family.Follow("Tidepool Biology 9C");
        family.Sees("Tidepool Biology 9C");
        await family.Open("/?find=9A");
        family.Sees("No class or teacher of that name is open to anyone").DoesNotSee("Tidepool");
        // What is wrong in the address changes nothing.
        foreach (
            var odd in new[] { "/?within=nowhere", "/?page=-4", "/?within=none&page=99999", "/?find=%25%27%3Cb%3E" }
        )
        {
            await family.Open(odd);
            Assert.Equal(HttpStatusCode.OK, family.Status);
            family.DoesNotSee("Tidepool Biology 9A");
        }

        // Who is signed in goes to their day as before, and sees theirs there alone.
        using var student = await As(DemoServer.Student);
        student.DoesNotSee("Find your class");
        // Its department's own calendar opened, the classes stand under it.
        await coordinator.Open("/calendars/field-science/edit");
        await coordinator.Tick("Open to anyone with its address.").Press("Save");
        await family.Open("/");
        family.Sees("Field Science");
        // Notices for all stand above, once the school's own calendar is open to anyone.
        async Task Do(string action, params (string Label, string Text)[] fields)
        {
            await coordinator.Open("/several-calendars?find=Skerry+Isles");
            coordinator.Tick("All 1 found").Tick(action);
            foreach (var (label, text) in fields)
                coordinator.Fill(label, text);
            await coordinator.Press("Look at what would come of it");
            await coordinator.Press("Do it for 1 calendar");
        }

        await Do("Put up a notice", ("It says", "The ferry goes at five."), ("up to", "2026-10-20"));
        await family.Open("/");
        family.DoesNotSee("The ferry goes at five.");
        await Do("Say who may open them");
        await family.Open("/");
        family.Sees("The ferry goes at five.");
        // Search engines list nothing until the school says so.
        async Task<string> Text(string address)
        {
            using var client = server.Client();
            using var answer = await client.GetAsync(
                new Uri(address, UriKind.Relative),
                TestContext.Current.CancellationToken
            );
            return $"{(int)answer.StatusCode} {await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)}";
        }

        Assert.Equal("200 User-agent: *\nDisallow: /\n", await Text("/robots.txt"));
        Assert.StartsWith("404", await Text("/sitemap.xml"), StringComparison.Ordinal);
        Assert.Contains("noindex", await Text("/c/tidepool-biology-9c"), StringComparison.Ordinal);
        await coordinator.Open("/school-time/school");
        await coordinator
            .Tick("They may list the front page, and the class pages that are open to anyone")
            .Press("Save");
        Assert.Contains("\nAllow: /c/\n", await Text("/robots.txt"), StringComparison.Ordinal);
        var sitemap = await Text("/sitemap.xml");
        Assert.Contains("/c/tidepool-biology-9c</loc>", sitemap, StringComparison.Ordinal);
        Assert.DoesNotContain("tidepool-biology-9a", sitemap, StringComparison.Ordinal);
        Assert.DoesNotContain("noindex", await Text("/c/tidepool-biology-9c"), StringComparison.Ordinal);
        Assert.DoesNotContain("noindex", await Text("/"), StringComparison.Ordinal);
        Assert.Contains("noindex", await Text("/in/tidepool-7k?look=1"), StringComparison.Ordinal);
        await coordinator.Open("/school-time/school");
        await coordinator.Untick("Families find their class at the almanac’s first address").Press("Save");
        await family.Open("/");
        family.Sees("Password").DoesNotSee("Tidepool");
    }
}
