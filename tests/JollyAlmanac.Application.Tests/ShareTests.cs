using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Who is given what, until when, why they have it, and what looking as them shows.</summary>
public sealed class ShareTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public ShareTests()
    {
        school.Add();
        var form = school.Calendars.Form(school.Teacher, Slug)!;
        TestSchool.Done(school.Calendars.Change(school.Teacher, Slug, form with { OpenTo = OpenTo.Named }));
    }

    public void Dispose() => school.Dispose();

    private AccessLevel Level(Viewer viewer) => school.CalendarListQuery.Find(viewer, Slug)?.Level ?? AccessLevel.None;

    private static string Name(Viewer viewer) => $"person {viewer.Person!.Value.Value}";

    [Theory]
    [InlineData("eilidh", "outline", "", null)]
    [InlineData("Torrance <eilidh@skerry.example>", "busy", "2026-10-14", null)]
    [InlineData("nobody there", "full", "", "Who")]
    [InlineData("zoe@skerry.example", "full", "", "Who")]
    [InlineData("", "full", "", "Who")]
    [InlineData("eilidh", "king", "", "Level")]
    [InlineData("eilidh", "none", "", "Level")]
    [InlineData("eilidh", "full", "2026-10-13", "Until")]
    [InlineData("eilidh", "full", "soon", "Until")]
    [InlineData("anyone", "contributor", "", "Level")]
    [InlineData("everyone", "editor", "", "Level")]
    [InlineData("everyone", "contributor", "", null)]
    [InlineData("group 99", "full", "", "Who")]
    [InlineData("orla@skerry.example", "editor", "", "Who")]
    [InlineData("orla@skerry.example", "manager", "2026-10-31", "Who")]
    public void What_the_line_gives_or_why_not(string who, string level, string until, string? field)
    {
        var before = school.Execute("select group_concat(grantee || level) from grants");
        var outcome = school.Share.Give(school.Teacher, Slug, new GiveInput(who, level, until));
        if (field is null)
            TestSchool.Done(outcome);
        else
            Assert.Equal(field, TestSchool.Refused(outcome)[0].Field);
        Assert.Equal(
            field is null,
            !Equals(before, school.Execute("select group_concat(grantee || level) from grants"))
        );
    }

    [Fact]
    public void A_co_teacher_is_one_act_editor_and_host_and_cannot_pass_it_on()
    {
        var said = TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("eilidh", Share.CoHost))).Said;
        Assert.Contains("cannot give access to others", said, StringComparison.Ordinal);
        Assert.Equal(AccessLevel.Editor, Level(school.Helper));
        Assert.Contains(
            school.Helper.Person!.Value,
            school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links[0].Hosts
        );
        Assert.IsType<Outcome<GrantedAccess>.NotAllowed>(
            school.Share.Give(school.Helper, Slug, new GiveInput("teodor@skerry.example", "full"))
        );
        TestSchool.Done(school.Share.End(school.Teacher, Slug, Name(school.Helper)));
        Assert.Equal(AccessLevel.None, Level(school.Helper));
        Assert.DoesNotContain(
            school.Helper.Person!.Value,
            school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links[0].Hosts
        );
    }

    [Fact]
    public void The_last_manager_cannot_go_and_two_who_end_each_other_leave_one()
    {
        TestSchool.Refused(school.Share.End(school.Teacher, Slug, Name(school.Teacher)));
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("eilidh", "manager")));
        // The owner stays until it is handed over.
        TestSchool.Refused(school.Share.End(school.Helper, Slug, Name(school.Teacher)));
        TestSchool.Done(school.Share.HandOver(school.Teacher, Slug, "eilidh"));
        using var other = new TestSchool(school);
        TestSchool.Done(school.Share.End(school.Helper, Slug, Name(school.Teacher)));
        Assert.IsType<Outcome<GrantedAccess>.NotFound>(other.Share.End(school.Teacher, Slug, Name(school.Helper)));
        Assert.Equal((AccessLevel.None, AccessLevel.Manager), (Level(school.Teacher), Level(school.Helper)));
        Assert.Equal(
            "Heir",
            TestSchool.Refused(school.Share.HandOver(school.Helper, Slug, "teodor@skerry.example"))[0].Field
        );
    }

    [Fact]
    public void Access_holds_to_the_end_of_its_last_day_by_the_school_s_clock()
    {
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("eilidh", "full", "2026-10-31")));
        var halifax = DateTimeZoneProviders.Tzdb["America/Halifax"];
        school.Clock.Reset(new LocalDateTime(2026, 10, 31, 23, 59, 59).InZoneStrictly(halifax).ToInstant());
        school.Share.EndWhatIsOver(school.Clock.GetCurrentInstant());
        Assert.Equal(AccessLevel.Full, Level(school.Helper));
        // Another process has kept what it read of the calendar and its link.
        using var other = new TestSchool(school);
        Assert.NotNull(other.TermSheetQuery.Read(school.Helper, Slug, null));
        school.Clock.Advance(Duration.FromSeconds(1));
        school.Share.EndWhatIsOver(school.Clock.GetCurrentInstant());
        Assert.Equal(AccessLevel.None, Level(school.Helper));
        Assert.Null(other.TermSheetQuery.Read(school.Helper, Slug, null));
        Assert.Contains(school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!.Lines, line =>
            line is { Who: "Orla Marchbanks", Act: "EndAccess" }
            && line.Summary.Contains("31 Oct 2026", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Each_level_sees_the_session_as_its_step_shows_it()
    {
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("everyone", "busy")));
        var view = TestSchool.Done(school.Share.View(school.Teacher, Slug));
        Assert.Equal(
            [
                AccessLevel.Manager,
                AccessLevel.Editor,
                AccessLevel.Contributor,
                AccessLevel.Full,
                AccessLevel.Outline,
                AccessLevel.Busy,
                AccessLevel.None,
            ],
            view.Steps.Select(step => step.Level)
        );
        Assert.Equal(
            ["Tidepool Biology 9A Tide Room join", "Tidepool Biology 9A Tide Room ", "Busy  ", ""],
            view.Steps.Skip(3)
                .Select(step =>
                    step.Slip is { } slip ? $"{slip.Title} {slip.Place} {(slip.Join is null ? "" : "join")}" : ""
                )
        );
        // And that is what somebody of that level gets.
        var shown = school
            .TermSheetQuery.Read(school.Student, Slug, null)!
            .Sheet!.Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions);
        Assert.All(shown, one => Assert.True(one.IsBusyOnly));
    }

    [Fact]
    public void Looking_as_shows_what_they_get_and_is_written_down()
    {
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("teodor@skerry.example", "outline")));
        // Teodor is in another class that Orla has no part in.
        var hidden = TestSchool.Done(
            school.Calendars.Create(
                school.Helper,
                new CalendarInput("Knots", CalendarKind.Class, "", "", MarkColour.Rose, MarkShape.Ring, OpenTo.Named)
            )
        );
        TestSchool.Done(
            school.Share.Give(
                school.Helper,
                hidden.Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Full
            )
        );
        var welcome = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited()
        );
        Assert.IsType<Outcome<PreviewIdentity>.NotAllowed>(
            school.PreviewAs.Begin(school.Teacher, welcome.Token, Name(school.Helper), Slug)
        );
        Assert.IsType<Outcome<PreviewIdentity>.NotAllowed>(
            school.PreviewAs.Begin(school.Teacher, welcome.Token, Name(school.Student), null)
        );
        TestSchool.Done(school.PreviewAs.Begin(school.Teacher, welcome.Token, Name(school.Student), Slug));
        var (person, viewer, looking) = school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token)!;
        Assert.Equal(("Orla Marchbanks", "Teodor Quill", true), (person.Name, looking!.Name, looking.IsCut));
        Assert.Equal(AccessLevel.Outline, Level(viewer));
        Assert.Null(school.CalendarListQuery.Find(viewer, hidden.Slug));
        Assert.Equal(
            [Slug],
            school
                .CalendarListQuery.Read(viewer)!
                .Lines.Select(line => line.Calendar.Slug)
                .Where(slug => slug.Value != "skerry-isles-school")
        );
        Assert.Contains(school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!.Lines, line =>
            line.Summary == "looked as Teodor Quill"
        );
        // Nobody keeps the school by looking as one who does.
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("wendeline@skerry.example", "full")));
        TestSchool.Done(school.PreviewAs.Begin(school.Teacher, welcome.Token, Name(school.Coordinator), Slug));
        viewer = school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token)!.Viewer;
        Assert.Equal(SchoolRole.Teacher, viewer.Role);
        Assert.IsType<Outcome<PeoplePage>.NotAllowed>(school.People.Page(viewer, new PeopleFilter()));
        Assert.IsType<Outcome<OutboxView>.NotAllowed>(school.Outbox.View(viewer));
        // A coordinator sees all that Teodor sees.
        var all = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("wendeline@skerry.example", "ten letters", new("a")).Waited()
        );
        TestSchool.Done(school.PreviewAs.Begin(school.Coordinator, all.Token, Name(school.Student), null));
        Assert.NotNull(
            school.CalendarListQuery.Find(school.SignIn.Find(all.Person.Id, all.Stamp, all.Token)!.Viewer, hidden.Slug)
        );
        school.PreviewAs.End(all.Token);
        Assert.Null(school.SignIn.Find(all.Person.Id, all.Stamp, all.Token)!.Looking);
    }

    [Fact]
    public async Task Who_asks_is_answered_and_learns_nothing_of_what_is_not_there()
    {
        Assert.IsType<Outcome<bool>.Done>(
            school.Share.Ask(school.Helper, new Slug("no-such-calendar"), AccessLevel.Full, "please")
        );
        Assert.Equal(0L, school.Execute("select count(*) from access_requests"));
        TestSchool.Done(school.Share.Ask(school.Helper, Slug, AccessLevel.Outline, "boat week"));
        TestSchool.Done(school.Share.Ask(school.Helper, Slug, AccessLevel.Full, "boat week"));
        Assert.Equal(1, await school.Post.Send());
        Assert.Contains(
            "boat week",
            school.Carrier.Letters.Single(letter => letter.ToAddress == "orla@skerry.example").Text,
            StringComparison.Ordinal
        );
        var pendingRequest = Assert.Single(TestSchool.Done(school.Share.View(school.Teacher, Slug)).Asking);
        TestSchool.Refused(school.Share.Answer(school.Teacher, Slug, pendingRequest.Request.Id, AccessLevel.Editor));
        TestSchool.Done(school.Share.Answer(school.Teacher, Slug, pendingRequest.Request.Id, AccessLevel.Outline));
        TestSchool.Refused(school.Share.Answer(school.Teacher, Slug, pendingRequest.Request.Id, AccessLevel.Full));
        Assert.Equal(AccessLevel.Outline, Level(school.Helper));
        TestSchool.Done(school.Share.Ask(school.Student, Slug, AccessLevel.Full, ""));
        pendingRequest = Assert.Single(TestSchool.Done(school.Share.View(school.Teacher, Slug)).Asking);
        TestSchool.Done(school.Share.Answer(school.Teacher, Slug, pendingRequest.Request.Id, AccessLevel.None));
        Assert.Equal(AccessLevel.None, Level(school.Student));
        await school.Post.Send();
        Assert.DoesNotContain(
            "Tidepool",
            school.Carrier.Letters[^1].Text + school.Carrier.Letters[^1].Subject,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_class_list_is_seen_by_those_who_work_with_it_and_by_its_members_where_it_is_shown()
    {
        var list = TestSchool.Done(
            school.AddPeople.AddGroup(school.Coordinator, "9A", GroupKind.ClassList, [school.Student.Person!.Value])
        );
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.OneGroup(list), AccessLevel.Full));
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput("eilidh", "full")));
        var student = school.SchoolQuery.FindPerson(new EmailAddress("teodor@skerry.example"))!;
        Assert.Equal(["Teodor Quill"], Assert.Single(school.Share.ClassLists(school.Teacher, Slug)!).Names);
        Assert.Null(school.Share.ClassLists(student, Slug));
        var version = school.CalendarListQuery.Find(school.Teacher, Slug)!.Value.Calendar.Version;
        TestSchool.Done(school.Share.ShowList(school.Teacher, Slug, true, version));
        Assert.Equal(["Teodor Quill"], Assert.Single(school.Share.ClassLists(student, Slug)!).Names);
        // Not to a colleague who sees all else, nor to a stranger.
        Assert.Null(school.Share.ClassLists(school.Helper, Slug));
        Assert.Null(school.Share.ClassLists(Viewer.Visitor, Slug));
        Assert.IsType<Outcome<Calendar>.Stale>(school.Share.ShowList(school.Teacher, Slug, false, version));
    }
}
