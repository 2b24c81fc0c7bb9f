using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Doors;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>A door that opens once a host is in, and what those who enter are told.</summary>
public sealed class HostFirstTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly Series series;

    public HostFirstTests()
    {
        series = school.Add();
        Change(input => input with { Entry = input.Entry with { WaitsForHost = true } });
        At(9, 45);
    }

    public void Dispose() => school.Dispose();

    private JoinLink Link => school.Database.Read(stores => stores.JoinLinks.Get(series.JoinLink!.Value));

    private void Change(Func<LinkInput, LinkInput> change) =>
        TestSchool.Done(school.Links.Change(school.Teacher, Link.Code, change(LinkInput.Of(Link))).Waited());

    private void At(int hour, int minute, int second = 0) =>
        school.Clock.Reset(
            new LocalDateTime(2026, 10, 14, hour, minute, second)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );

    private ShortAddress Door(Viewer viewer) => school.Doors.At(Link.Code, new AtDoor(viewer)).Waited()!;

    private EntryResult Enter(Viewer viewer) => school.Doors.Enter(Link.Code, new AtDoor(viewer), null).Waited()!;

    private Outcome<Uri?> EnterAsHost(Viewer viewer, bool mayMake = true) =>
        school.Doors.EnterAsHost(Link.Code, viewer, null, "Somebody", mayMake).Waited();

    [Fact]
    public void The_class_waits_and_is_counted_until_a_host_comes()
    {
        var at = Door(Viewer.Visitor);
        Assert.Equal(DoorState.WaitsForHost, at.Door.State);
        Assert.IsType<EntryResult.Shut>(Enter(Viewer.Visitor));
        foreach (var page in new[] { "a", "b", "a", "", new string('x', 41) })
            school.Doors.Waits(at, page);
        // A host who looks at the door waits for nobody; only hosts are told how many wait.
        school.Doors.Waits(Door(school.Teacher), "host");
        Assert.Equal((2, 0), (Door(school.Teacher).Link.Waiting, Door(school.Student).Link.Waiting));
        Assert.Equal(
            [2],
            school.DayQuery.Read(school.Teacher, null, true).Waited()!.Doors.Values.Select(card => card.Room!.Waiting)
        );
        // A page that is not heard of for half a minute is gone.
        At(9, 45, 20);
        school.Doors.Waits(at with { Now = at.Now + Duration.FromSeconds(20) }, "a");
        At(9, 45, 40);
        Assert.Equal(1, Door(school.Teacher).Link.Waiting);

        var rows = school.Rows();
        // Looking at the way in opens nothing; nor may who is no host.
        Assert.Null(TestSchool.Done(EnterAsHost(school.Teacher, mayMake: false)));
        Assert.False(EnterAsHost(school.Student).IsDone);
        Assert.Equal((rows, DoorState.WaitsForHost), (school.Rows(), Door(Viewer.Visitor).Door.State));
        Assert.NotNull(TestSchool.Done(EnterAsHost(school.Teacher)));
        Assert.Equal(DoorState.Open, Door(Viewer.Visitor).Door.State);
        Assert.IsType<EntryResult.Through>(Enter(Viewer.Visitor));
        rows = school.Rows();
        // Once: who comes next writes nothing, and the history says it in one line.
        Assert.NotNull(TestSchool.Done(EnterAsHost(school.Teacher, mayMake: false)));
        Assert.Equal(rows, school.Rows());
        Assert.Equal(
            1L,
            school.Execute("select count(*) from history where summary like 'let the class in by Tidepool room%'")
        );
        // The next session has a host of its own to wait for.
        school.Clock.AdvanceDays(2);
        Assert.Equal(DoorState.WaitsForHost, Door(Viewer.Visitor).Door.State);
    }

    [Fact]
    public void A_guest_who_is_host_lets_the_class_in_too()
    {
        var token = TestSchool
            .Done(
                school.WorkDoor.MakeGuest(
                    school.Teacher,
                    Link.Code,
                    TestSchool.Key(series, "2026-10-14T09:50"),
                    isHost: true,
                    until: ""
                )
            )
            .Token;
        Assert.IsType<EntryResult.Through>(school.Doors.EnterAsGuest(token, Viewer.Visitor).Waited());
        Assert.Equal(DoorState.Open, Door(Viewer.Visitor).Door.State);
    }

    // The day before, a host may look at the room; the class is not let in by that.
    [Fact]
    public void A_host_who_comes_before_the_door_would_open_lets_nobody_in()
    {
        At(8, 0);
        Assert.NotNull(TestSchool.Done(EnterAsHost(school.Teacher)));
        At(9, 45);
        Assert.Equal(DoorState.WaitsForHost, Door(Viewer.Visitor).Door.State);
    }

    [Theory]
    [InlineData("always")]
    [InlineData("hours")]
    public void A_door_without_sessions_cannot_wait(string opens)
    {
        var input = LinkInput.Of(Link);
        Assert.Equal(
            "WaitsForHost",
            Assert
                .Single(
                    TestSchool.Refused(
                        school
                            .Links.Change(
                                school.Teacher,
                                Link.Code,
                                input with
                                {
                                    Entry = input.Entry with { Opens = opens },
                                }
                            )
                            .Waited()
                    )
                )
                .Field
        );
    }

    [Fact]
    public void What_to_do_and_whom_to_ask_stand_where_people_enter()
    {
        Change(input => input with { WhatToDo = "Sound off.\n<b>Your name</b> \u05d0\u05d1\u05d2" });
        var form = school.Calendars.Form(school.Teacher, TestSchool.Slug)!;
        TestSchool.Done(
            school.Calendars.Change(school.Teacher, TestSchool.Slug, form with { Contact = "Orla, room 12" })
        );
        // A form that does not have the field leaves it as it is.
        form = school.Calendars.Form(school.Teacher, TestSchool.Slug)!;
        TestSchool.Done(school.Calendars.Change(school.Teacher, TestSchool.Slug, form with { Contact = null }));
        var door = Door(Viewer.Visitor).Link;
        Assert.Equal(
            ("Sound off.\n<b>Your name</b> \u05d0\u05d1\u05d2", "Orla, room 12"),
            (door.WhatToDo, door.Contact)
        );
        Assert.Equal(
            "Orla, room 12",
            school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, asVisitor: false)!.Contact
        );
        var card = TestSchool
            .Done(
                school.Cards.Of(
                    school.Teacher,
                    Link.Code,
                    TestSchool.Root,
                    CardParts.WhatToDo | CardParts.Contact,
                    "Into the <room>"
                )
            )
            .Card;
        Assert.Contains("Into the <room>: https://almanac.example/in/", card.Text, StringComparison.Ordinal);
        Assert.Contains("What to do: Sound off. <b>Your name</b>", card.Text, StringComparison.Ordinal);
        Assert.Contains("Ask: Orla, room 12", card.Text, StringComparison.Ordinal);
        Assert.Contains(">Into the &lt;room&gt;: ", card.Html, StringComparison.Ordinal);
        Assert.DoesNotContain("<b>", card.Html, StringComparison.Ordinal);
        // Who may not know of a door reads nothing of it.
        Change(input => input with { Audience = input.Audience with { Audience = "peopleofthecalendar" } });
        school.Execute("delete from grants where grantee in ('anyone', 'everyone')");
        Assert.Equal(("", ""), (Door(Viewer.Visitor).Link.WhatToDo, Door(Viewer.Visitor).Link.Contact));
        // Each at its longest, and no longer.
        Change(input => input with { WhatToDo = new string('a', JoinLink.LongestWhatToDo) });
        Assert.False(
            school
                .Links.Change(
                    school.Teacher,
                    Link.Code,
                    LinkInput.Of(Link) with
                    {
                        WhatToDo = new string('a', JoinLink.LongestWhatToDo + 1),
                    }
                )
                .Waited()
                .IsDone
        );
    }

    [Fact]
    public void Letters_say_what_to_do_and_whom_to_ask()
    {
        Change(input => input with { WhatToDo = "Sound off." });
        school.Execute("update calendars set contact = 'Orla, room 12', revision = revision + 1");
        TestSchool.Done(school.ByMail.Remind(school.Teacher, TestSchool.Slug, "15"));
        At(9, 40);
        school.Reminders.Look();
        school.Post.Send(TestContext.Current.CancellationToken).Waited();
        var letter = Assert.Single(school.Carrier.Letters);
        Assert.Contains("What to do:\nSound off.", letter.Text, StringComparison.Ordinal);
        Assert.Contains("Something does not work?\nAsk Orla, room 12", letter.Text, StringComparison.Ordinal);
        // To who sees an outline alone, neither is told, in letters and on the class page alike.
        school.Execute("delete from grants where grantee in ('anyone', 'everyone')");
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Helper.Person!.Value.Value}, 'outline' from calendars where slug = '{TestSchool.Slug}'"
        );
        TestSchool.Done(school.ByMail.Remind(school.Helper, TestSchool.Slug, "15"));
        At(9, 41);
        school.Reminders.Look();
        school.Post.Send(TestContext.Current.CancellationToken).Waited();
        var other = Assert.Single(school.Carrier.Letters, one => one != letter);
        Assert.DoesNotContain("Orla, room 12", other.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("Sound off.", other.Text, StringComparison.Ordinal);
        Assert.Equal("", school.ClassPageQuery.Read(school.Helper, TestSchool.Slug, asVisitor: false)!.Contact);
    }
}
