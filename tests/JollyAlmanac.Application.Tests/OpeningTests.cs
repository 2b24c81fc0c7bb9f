using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>A calendar that opens on a day: built in peace before, seen by its people from then, by the school's clock.</summary>
public sealed class OpeningTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;
    private static readonly LocalDate Day = new(2026, 10, 19);

    private readonly TestSchool school = new();
    private readonly Series series;
    private readonly JoinLink link;

    public OpeningTests()
    {
        series = school.Add();
        link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single();
        Give(school.Student, AccessLevel.Full);
        Give(school.Helper, AccessLevel.Contributor);
    }

    public void Dispose() => school.Dispose();

    private void Give(Viewer to, AccessLevel level) =>
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.OnePerson(to.Person!.Value), level));

    private Outcome<Calendar> Set(string? opens) =>
        school.Calendars.Change(
            school.Teacher,
            Slug,
            school.Calendars.Form(school.Teacher, Slug)! with
            {
                Opens = opens,
            }
        );

    private void GoTo(LocalDateTime local)
    {
        school.Clock.Reset(local.InZoneLeniently(DateTimeZoneProviders.Tzdb["America/Halifax"]).ToInstant());
        school.Share.EndWhatIsOver(school.Clock.GetCurrentInstant());
    }

    // How many there are to page through, and the departments to choose from.
    private int Counted(Viewer who) => school.Database.Read(stores => stores.Calendars.CountReached(who).Values.Sum());

    private bool Sees(Viewer who) => school.ClassPageQuery.Read(who, Slug, asVisitor: false) is not null;

    private string Feed(PublicationWithToken feed) =>
        school.ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!.Text!;

    private string Changes(PublicationWithToken feed) =>
        System.Text.Encoding.UTF8.GetString(school.Changes.Do(feed.Token, TestSchool.Root)!);

    private PublicationWithToken Make(PublicationKind kind, PublicationInput? input = null) =>
        TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                Slug,
                kind,
                input ?? new PublicationInput("", AccessLevel.Full, true, true, true)
            )
        );

    [Fact]
    public void Before_its_day_only_those_who_work_on_it_see_it()
    {
        var before = (Counted(school.Student), Counted(Viewer.Visitor), Counted(school.Helper));
        TestSchool.Done(Set("2026-10-19"));
        Assert.Equal(
            (before.Item1 - 1, before.Item2 - 1, before.Item3),
            (Counted(school.Student), Counted(Viewer.Visitor), Counted(school.Helper))
        );
        Assert.False(Sees(school.Student));
        Assert.False(Sees(Viewer.Visitor));
        Assert.True(Sees(school.Helper));
        Assert.True(Sees(school.Teacher));
        Assert.Equal(Day, school.ClassPageQuery.OpensOn(school.Student, Slug));
        Assert.Equal(Day, school.ClassPageQuery.OpensOn(Viewer.Visitor, Slug));
        Assert.Null(school.ClassPageQuery.OpensOn(school.Helper, Slug));
        // Nor is it counted, listed, searched.
        Assert.DoesNotContain(school.CalendarListQuery.Read(school.Student)!.Lines, one => one.Calendar.Slug == Slug);
        Assert.Contains(school.CalendarListQuery.Read(school.Helper)!.Lines, one => one.Calendar.Slug == Slug);
        Assert.Empty(
            school.DayQuery.Read(school.Student, new LocalDate(2026, 10, 14), false, null, default).Waited()!.Sessions
        );
        Assert.NotEmpty(
            school.DayQuery.Read(school.Helper, new LocalDate(2026, 10, 14), false, null, default).Waited()!.Sessions
        );
        // Whom it is closed to are told of no day.
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                Slug,
                school.Calendars.Form(school.Teacher, Slug)! with
                {
                    OpenTo = OpenTo.Named,
                }
            )
        );
        Assert.Null(school.ClassPageQuery.OpensOn(Viewer.Visitor, Slug));
        Assert.Equal(Day, school.ClassPageQuery.OpensOn(school.Student, Slug));
    }

    [Theory]
    [InlineData("2026-10-18T23:59:59", false)]
    [InlineData("2026-10-19T00:00:00", true)]
    [InlineData("2026-10-25T12:00:00", true)]
    public void It_opens_by_the_clock_of_the_school(string at, bool isOpen)
    {
        TestSchool.Done(Set("2026-10-19"));
        GoTo(NodaTime.Text.LocalDateTimePattern.GeneralIso.Parse(at).Value);
        Assert.Equal(isOpen, Sees(school.Student));
        Assert.Equal(isOpen, Sees(Viewer.Visitor));
        var history = school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!;
        Assert.Equal(isOpen, history.Lines.Any(line => line.Summary == "opened Tidepool Biology 9A, as set before"));
    }

    [Fact]
    public void Feeds_and_embeds_tell_when_and_nothing_else()
    {
        var feed = Make(PublicationKind.Feed);
        school.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring nets."));
        var embed = Make(
            PublicationKind.Embed,
            new PublicationInput("", AccessLevel.Full, true, true, true, "https://www.skerry.example")
        );
        TestSchool.Done(Set("2026-10-19"));
        Assert.DoesNotContain("VEVENT", Feed(feed), StringComparison.Ordinal);
        Assert.Contains("opens on 19 Oct 2026", Feed(feed), StringComparison.Ordinal);
        Assert.DoesNotContain("<entry>", Changes(feed), StringComparison.Ordinal);
        Assert.Empty(school.ReadEmbed.Do(embed.Token)!.Coming);
        GoTo(Day.At(new LocalTime(6, 0)));
        Assert.Contains("VEVENT", Feed(feed), StringComparison.Ordinal);
        Assert.Contains("<entry>", Changes(feed), StringComparison.Ordinal);
        Assert.NotEmpty(school.ReadEmbed.Do(embed.Token)!.Coming);
    }

    // Another calendar's feed may tell this one as well.
    [Fact]
    public void Nor_does_a_feed_of_several_tell_it()
    {
        var other = TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                school.Calendars.NewForm(school.Teacher) with
                {
                    Title = "Reef Club",
                    Opens = "2026-10-19",
                }
            )
        );
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    other.Slug,
                    null,
                    TestSchool.Good with
                    {
                        Title = "Reef Club",
                        Link = "",
                    },
                    Materials.MaterialInput.None
                )
                .Waited()
        );
        var feed = Make(
            PublicationKind.Feed,
            new PublicationInput("", AccessLevel.Full, true, true, true) { Others = [other.Slug.Value] }
        );
        Assert.DoesNotContain("Reef Club", Feed(feed), StringComparison.Ordinal);
        GoTo(Day.At(new LocalTime(0, 0)));
        Assert.Contains("Reef Club", Feed(feed), StringComparison.Ordinal);
    }

    [Fact]
    public void Its_doors_stay_shut_for_its_class_and_not_for_its_hosts()
    {
        // In the middle of a session that is before the day.
        GoTo(new LocalDateTime(2026, 10, 14, 9, 55));
        Assert.True(school.Doors.At(link.Code, new AtDoor(school.Student)).Waited()!.Door.IsOpen);
        TestSchool.Done(Set("2026-10-19"));
        Assert.False(school.Doors.At(link.Code, new AtDoor(school.Student)).Waited()!.Door.IsOpen);
        Assert.IsType<EntryResult.Shut>(
            school.Doors.Enter(link.Code, new AtDoor(school.Student), null, default).Waited()
        );
        Assert.True(school.Doors.EnterAsHost(link.Code, school.Teacher, null, "Orla", mayMake: true).Waited().IsDone);
        // The first that it is open for is that of the day itself.
        Assert.Equal(Day, school.Doors.At(link.Code, new AtDoor(school.Teacher)).Waited()!.Sessions.Next!.Session.Day);
        // One that is always open is not, either.
        var always = TestSchool.Done(
            school
                .Links.Add(
                    school.Teacher,
                    Slug,
                    new LinkInput(
                        "Any time",
                        Room: new RoomInput("https://rooms.skerry.example/any"),
                        Entry: new EntryRuleInput("always")
                    )
                )
                .Waited()
        );
        Assert.False(school.Doors.At(always.Code, new AtDoor(school.Student)).Waited()!.Door.IsOpen);
        GoTo(new LocalDateTime(2026, 10, 19, 9, 55));
        Assert.True(school.Doors.At(always.Code, new AtDoor(school.Student)).Waited()!.Door.IsOpen);
        Assert.True(school.Doors.At(link.Code, new AtDoor(school.Student)).Waited()!.Door.IsOpen);
    }

    [Fact]
    public async Task A_notice_goes_up_and_out_on_the_day()
    {
        TestSchool.Done(Set("2026-10-19"));
        Assert.Equal(
            "Last",
            Assert
                .Single(
                    TestSchool.Refused(
                        school.Notices.Put(
                            school.Teacher,
                            Slug,
                            null,
                            new NoticeInput("Welcome.", "2026-10-14", "2026-10-18")
                        )
                    )
                )
                .Field
        );
        TestSchool.Done(
            school.Notices.Put(
                school.Teacher,
                Slug,
                null,
                new NoticeInput("Welcome.", "2026-10-14", "2026-10-30", ByMail: true)
            )
        );
        Assert.Equal("ahead", TestSchool.Done(school.Notices.View(school.Teacher, Slug)).Notices[0].State);
        Assert.Equal(1, TestSchool.Done(school.Notices.Reach(school.Teacher, Slug, new NoticeInput())).People);
        await school.Post.Send(default);
        Assert.Empty(school.Carrier.Letters);
        GoTo(Day.At(new LocalTime(6, 29)));
        await school.Post.Send(default);
        Assert.Empty(school.Carrier.Letters);
        Assert.Single(school.ClassPageQuery.Read(school.Student, Slug, false)!.Notices);
        GoTo(Day.At(new LocalTime(6, 30)));
        await school.Post.Send(default);
        Assert.Contains("Welcome.", Assert.Single(school.Carrier.Letters).Text, StringComparison.Ordinal);
    }

    [Fact]
    public void It_opens_by_hand_at_once()
    {
        var calendar = TestSchool.Done(Set("2026-10-19"));
        Assert.IsType<Outcome<Calendar>.NotAllowed>(school.Calendars.OpenNow(school.Helper, Slug, calendar.Version));
        Assert.IsType<Outcome<Calendar>.Stale>(school.Calendars.OpenNow(school.Teacher, Slug, calendar.Version - 1));
        TestSchool.Done(school.Calendars.OpenNow(school.Teacher, Slug, calendar.Version));
        Assert.True(Sees(school.Student));
    }

    [Theory]
    [InlineData("2026-10-13", "That day is over")]
    [InlineData("2029-01-01", "two years")]
    [InlineData("soon", "")]
    public void A_day_that_cannot_be_is_refused(string opens, string says)
    {
        var problem = Assert.Single(TestSchool.Refused(Set(opens)));
        Assert.Equal("Opens", problem.Field);
        Assert.Contains(says, problem.Message, StringComparison.Ordinal);
        Assert.True(Sees(school.Student));
    }

    /// <summary>Today opens it at once; a form without the field leaves the day as it is.</summary>
    [Theory]
    [InlineData("2026-10-14", false)]
    [InlineData("", false)]
    [InlineData(null, true)]
    public void What_the_form_says_holds(string? then, bool waits)
    {
        TestSchool.Done(Set("2026-10-19"));
        Assert.Equal(waits, TestSchool.Done(Set(then)).OpensOn is not null);
    }

    // Its maker names who is to see it, and what is for some of them, before it opens.
    [Fact]
    public void What_is_for_some_is_set_up_before_it_opens()
    {
        TestSchool.Done(Set("2026-10-19"));
        var note = TestSchool.Done(
            school.Notices.Put(
                school.Teacher,
                Slug,
                null,
                new NoticeInput("For you.", "2026-10-19", "2026-10-30", OnlyOthers: "teodor@skerry.example")
            )
        );
        Assert.Contains(school.Student.Person!.Value, note.OnlyFor!.People);
    }
}
