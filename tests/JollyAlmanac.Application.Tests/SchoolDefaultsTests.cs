using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>How join links and feeds begin as the school has it, and a sign-in without what all addresses end with.</summary>
public sealed class SchoolDefaultsTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private SchoolDefaultsInput Form =>
        SchoolDefaultsInput.Of(TestSchool.Done(school.SchoolDefaults.Open(school.Coordinator)));

    private void Set(SchoolDefaultsInput input) => TestSchool.Done(school.SchoolDefaults.Do(school.Coordinator, input));

    private JoinLink Begun => TestSchool.Done(school.Links.Begin(school.Teacher, Slug)).Link;

    [Fact]
    public void A_link_begins_as_the_school_has_it()
    {
        Assert.Equal((EntryRule.Usual, EntryAudience.Anyone), (Begun.Entry, Begun.Audience));
        Set(Form with { LinkEntry = new EntryRuleInput("hours"), LinkAudience = "school" });
        Assert.Equal(
            (new EntryRule.Hours(new LocalTime(8, 0), new LocalTime(18, 0)), EntryAudience.School),
            (Begun.Entry, Begun.Audience)
        );
        // One that is made with its series, too.
        var series = school.Add();
        var link = TestSchool
            .Done(
                school.Links.Open(
                    school.Teacher,
                    school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single().Code
                )
            )
            .Link;
        Assert.Equal((Begun.Entry, Begun.Audience), (link.Entry, link.Audience));
        Assert.Equal(link.Id, series.JoinLink);
    }

    [Fact]
    public void A_department_has_its_own_and_its_classes_begin_so()
    {
        var science = TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                school.Calendars.NewForm(school.Teacher, CalendarKind.Department) with
                {
                    Title = "Science of the shore",
                }
            )
        );
        CalendarInput New(Slug? department) => school.Calendars.NewForm(school.Teacher, CalendarKind.Class, department);
        Set(Form with { FeedReminder = "20" });
        // As the school has it, until it says otherwise.
        Assert.Equal((OpenTo.Anyone, science.Slug.Value), (New(science.Slug).OpenTo, New(science.Slug).Department));
        var own = TestSchool.Done(school.SchoolDefaults.OpenDepartment(school.Teacher, science.Slug));
        Assert.False(own.IsOwn);
        Assert.Equal("20", own.Input.FeedReminder);
        TestSchool.Done(
            school.SchoolDefaults.SetDepartment(
                school.Teacher,
                science.Slug,
                own.Input with
                {
                    NewIsOpenTo = OpenTo.Named,
                    CoordinatorsManage = false,
                    ShowsList = true,
                    LinkEntry = new EntryRuleInput("hours"),
                    FeedReminder = "5",
                    Checklist = "Microscope camera on\nMicroscope camera on\n Sound off ",
                }
            )
        );
        Assert.Equal((OpenTo.Named, false), (New(science.Slug).OpenTo, New(science.Slug).CoordinatorsManage));
        Assert.Equal((OpenTo.Anyone, true), (New(null).OpenTo, New(null).CoordinatorsManage));
        var made = TestSchool.Done(
            school.Calendars.Create(school.Teacher, New(science.Slug) with { Title = "Rock pools" })
        );
        Assert.True(made.ShowsList);
        var link = TestSchool.Done(school.Links.Begin(school.Teacher, made.Slug));
        Assert.IsType<EntryRule.Hours>(link.Link.Entry);
        Assert.Equal(["Microscope camera on", "Sound off"], link.Checklist);
        Assert.Equal(5, TestSchool.Done(school.Outlets.Of(school.Teacher, made.Slug)).Reminder);
        // Others begin as before, and so do these once it is taken back.
        Assert.Equal(EntryRule.Usual, Begun.Entry);
        Assert.NotEqual(link.Checklist, TestSchool.Done(school.Links.Begin(school.Teacher, Slug)).Checklist);
        TestSchool.Done(school.SchoolDefaults.ClearDepartment(school.Teacher, science.Slug));
        Assert.Equal(OpenTo.Anyone, New(science.Slug).OpenTo);
        Assert.NotEqual(link.Checklist, TestSchool.Done(school.Links.Begin(school.Teacher, made.Slug)).Checklist);
        // What cannot be read is the closed way, and links are as usual.
        TestSchool.Done(
            school.SchoolDefaults.SetDepartment(
                school.Teacher,
                science.Slug,
                own.Input with
                {
                    LinkEntry = new EntryRuleInput("hours"),
                }
            )
        );
        school.Execute(
            "update department_defaults set new_open_to = 'nonsense', new_link_entry = '-5 -5', new_link_audience = 'nonsense'"
        );
        Assert.Equal(OpenTo.Named, New(science.Slug).OpenTo);
        Assert.Equal(EntryRule.Usual, TestSchool.Done(school.Links.Begin(school.Teacher, made.Slug)).Link.Entry);
        // Somebody who may not know of the department gets the school's.
        TestSchool.Done(
            school.SchoolDefaults.SetDepartment(
                school.Teacher,
                science.Slug,
                own.Input with
                {
                    NewIsOpenTo = OpenTo.Named,
                }
            )
        );
        school.Execute($"delete from grants where calendar_id = {science.Id.Value} and grantee = 'everyone'");
        Assert.Equal(
            (OpenTo.Anyone, ""),
            (
                school.Calendars.NewForm(school.Student, CalendarKind.Class, science.Slug).OpenTo,
                school.Calendars.NewForm(school.Student, CalendarKind.Class, science.Slug).Department
            )
        );
    }

    [Theory]
    [InlineData("0", "", "PasscodeDays")]
    [InlineData("4000", "", "PasscodeDays")]
    [InlineData("", "two weeks", "AttendanceDays")]
    public void Days_are_numbers(string passcodes, string attendance, string field)
    {
        var before = school.Database.Read(stores => stores.School.Defaults());
        var refused = Assert.IsType<Outcome<int>.Refused>(
            school.SchoolDefaults.Do(
                school.Coordinator,
                Form with
                {
                    PasscodeDays = passcodes,
                    AttendanceDays = attendance,
                }
            )
        );
        Assert.Equal(field, Assert.Single(refused.Problems).Field);
        Assert.Equal(before, school.Database.Read(stores => stores.School.Defaults()));
    }

    // Whom the calendar is closed to, no default lets in.
    [Fact]
    public void A_link_lets_in_no_more_than_its_calendar()
    {
        Set(Form with { LinkAudience = "school" });
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
        Assert.Equal(EntryAudience.PeopleOfTheCalendar, Begun.Audience);
    }

    [Fact]
    public void How_a_room_is_set_goes_on_with_the_next_one()
    {
        TestSchool.Done(
            school
                .Links.Add(
                    school.Teacher,
                    Slug,
                    new LinkInput(
                        "One",
                        Room: new RoomInput(
                            "https://rooms.skerry.example/1",
                            Ticked: ["Chat as agreed", "Waiting area on"]
                        )
                    )
                )
                .Waited()
        );
        Assert.Equal(["Waiting area on", "Chat as agreed"], Begun.Ticked);
    }

    [Theory]
    [InlineData("around", "300", "", "15", "Lead")]
    [InlineData("never", "10", "", "15", "Opens")]
    [InlineData("around", "10", "nobody", "15", "LinkAudience")]
    [InlineData("around", "10", "", "-1", "FeedReminder")]
    [InlineData("around", "10", "", "soon", "FeedReminder")]
    public void What_cannot_be_is_refused(string opens, string lead, string audience, string reminder, string field)
    {
        var before = Form;
        Assert.Equal(
            field,
            Assert
                .Single(
                    TestSchool.Refused(
                        school.SchoolDefaults.Do(
                            school.Coordinator,
                            before with
                            {
                                LinkEntry = new EntryRuleInput(opens, lead),
                                LinkAudience = audience,
                                FeedReminder = reminder,
                            }
                        )
                    )
                )
                .Field
        );
        Assert.Equal(before, Form);
    }

    /// <summary>A feed's form begins with the school's minutes; what rings has the short address in it (RFC 5545 §3.6.6).</summary>
    [Fact]
    public void A_feed_reminds_as_the_school_has_it()
    {
        Assert.Equal(15, TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Reminder);
        Set(Form with { FeedReminder = "5" });
        Assert.Equal(5, TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Reminder);
        Set(Form with { FeedReminder = "" });
        Assert.Null(TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Reminder);
        school.Add();
        var code = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single().Code;
        var feed = TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                Slug,
                PublicationKind.Feed,
                new PublicationInput("", AccessLevel.Full, true, true, true) { Reminder = "15" }
            )
        );
        var text = school
            .ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!
            .Text!.Replace("\r\n ", "", StringComparison.Ordinal);
        Assert.Contains(
            $"BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER:-PT15M\r\nDESCRIPTION:Tidepool Biology 9A\\nhttps://almanac.example/in/{code}\r\n",
            text,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Where_a_school_has_one_domain_it_need_not_be_written()
    {
        var place = new SignInPlace("192.0.2.1", "", "");
        Assert.Equal("skerry.example", school.SignIn.Domain);
        Assert.IsType<SignInAnswer.Welcome>(await school.SignIn.Try("orla", "ten letters", place));
        Assert.IsType<SignInAnswer.Wrong>(await school.SignIn.Try("orla", "another word", place));
        Assert.IsType<SignInAnswer.Wrong>(await school.SignIn.Try("orla@", "ten letters", place));
        Assert.IsType<SignInAnswer.Wrong>(await school.SignIn.Try("", "ten letters", place));
        school.Execute("update people set email = 'teodor@families.example' where email = 'teodor@skerry.example'");
        Assert.Null(school.SignIn.Domain);
        Assert.IsType<SignInAnswer.Wrong>(await school.SignIn.Try("orla", "ten letters", place));
    }
}
