using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Acts that once did too much, too little, or for the wrong people.</summary>
public sealed class MendedTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private Calendar Class => school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Calendar;

    [Fact]
    public void A_week_is_left_out_in_one_go_and_comes_back_in_one_go()
    {
        var first = school.Add();
        var second = school.Add(TestSchool.Good with { Title = "Lab", Days = ["2"], Link = "" });
        school.Change(first, "2026-10-28T09:50", new SessionInput("leave-out"));
        int Held(Series series) => Planner.PlanOf(school.Now(series), school.SchoolQuery.Find()!.Time).HeldCount;
        var (before, lab) = (Held(first), Held(second));
        var range = new RangeInput("2026-10-26", "2026-10-30", "", Class.Revision);
        Assert.Equal(
            "Cancelled 3 sessions of 26–30 Oct.",
            TestSchool.Done(school.LeaveOut.Do(school.Teacher, TestSchool.Slug, range))
        );
        Assert.Equal((before - 2, lab - 1), (Held(first), Held(second)));
        var lines = school.CalendarHistoryQuery.Read(school.Teacher, TestSchool.Slug, null)!.Lines;
        Assert.Equal(["LeaveOutRange", "ChangeSession"], lines.Take(2).Select(line => line.Act));
        // In one go, and what was left out before stays left out.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug));
        Assert.Equal((before, lab), (Held(first), Held(second)));
        Assert.True(
            Planner
                .PlanOf(school.Now(first), school.SchoolQuery.Find()!.Time)
                .Find(new LocalDateTime(2026, 10, 28, 9, 50))!
                .IsCancelled
        );
        // One series alone, and back by the same range.
        TestSchool.Done(
            school.LeaveOut.Do(
                school.Teacher,
                TestSchool.Slug,
                range with
                {
                    Series = second.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture),
                    Revision = Class.Revision,
                }
            )
        );
        Assert.Equal((before, lab - 1), (Held(first), Held(second)));
        Assert.Equal(
            "Brought back 2 sessions of 26–30 Oct.",
            TestSchool.Done(
                school.LeaveOut.BringBack(school.Teacher, TestSchool.Slug, range with { Revision = Class.Revision })
            )
        );
        Assert.Equal((before + 1, lab), (Held(first), Held(second)));
    }

    [Fact]
    public void How_many_students_two_classes_share_is_said_to_those_alone_who_work_with_both_lists()
    {
        var list = TestSchool.Done(
            school.AddPeople.AddGroup(
                school.Coordinator,
                "9A",
                GroupKind.ClassList,
                [school.Student.Person!.Value, school.Helper.Person!.Value]
            )
        );
        TestSchool.Done(
            school.Calendars.Create(
                school.Coordinator,
                new CalendarInput(
                    "Knots",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Juniper,
                    MarkShape.Disc,
                    OpenTo.Anyone
                )
            )
        );
        school.Add();
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Coordinator,
                    new Slug("knots"),
                    null,
                    TestSchool.Good with
                    {
                        Title = "Knots",
                        Place = "Loft",
                        Link = "",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        foreach (
            var (keeper, slug) in new[] { (school.Teacher, TestSchool.Slug), (school.Coordinator, new Slug("knots")) }
        )
            TestSchool.Done(school.Share.Give(keeper, slug, new Grantee.OneGroup(list), AccessLevel.Full));
        IEnumerable<string> Shared(Viewer viewer) =>
            school
                .WeekQuery.Read(
                    viewer with
                    {
                        Groups = new HashSet<GroupId> { list },
                    },
                    null,
                    [TestSchool.Slug, new Slug("knots")]
                )!
                .Sheet.Clashes.Select(clash => clash.Because);
        Assert.Empty(Shared(school.Teacher));
        Assert.Empty(Shared(school.Student));
        TestSchool.Done(
            school.Share.Give(
                school.Coordinator,
                new Slug("knots"),
                new Grantee.OnePerson(school.Teacher.Person!.Value),
                AccessLevel.Contributor
            )
        );
        Assert.Equal("2 students", Assert.Single(Shared(school.Teacher).Distinct()));
        Assert.Empty(Shared(school.Student));
    }

    [Theory]
    [InlineData("", "2026-10-30", "", "LeaveFirst")]
    [InlineData("2026-10-30", "2026-10-26", "", "LeaveLast")]
    [InlineData("2026-10-26", "2028-10-26", "", "LeaveLast")]
    [InlineData("2026-10-24", "2026-10-25", "", "LeaveFirst")]
    [InlineData("2026-10-26", "2026-10-30", "999", "LeaveSeries")]
    public void A_range_that_cannot_be_changes_nothing(string first, string last, string series, string field)
    {
        school.Add();
        var rows = school.Rows();
        var input = new RangeInput(first, last, series, Class.Revision);
        Assert.Equal(
            [field],
            TestSchool
                .Refused(school.LeaveOut.Do(school.Teacher, TestSchool.Slug, input))
                .Select(problem => problem.Field)
        );
        Assert.IsType<Outcome<string>.Stale>(
            school.LeaveOut.Do(
                school.Teacher,
                TestSchool.Slug,
                new RangeInput("2026-10-26", "2026-10-30", "", Class.Revision - 1)
            )
        );
        foreach (var viewer in new[] { school.Student, school.Helper, Viewer.Visitor })
            Assert.IsType<Outcome<string>.NotAllowed>(
                school.LeaveOut.Do(
                    viewer,
                    TestSchool.Slug,
                    new RangeInput("2026-10-26", "2026-10-30", "", Class.Revision)
                )
            );
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void A_calendar_is_put_away_deleted_and_brought_back()
    {
        var series = school.Add();
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("For families", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        Assert.IsType<Outcome<Calendar>.NotAllowed>(
            school.Calendars.Archive(school.Student, TestSchool.Slug, Class.Version)
        );
        Assert.IsType<Outcome<Calendar>.Stale>(school.Calendars.Archive(school.Teacher, TestSchool.Slug, 99));
        var away = TestSchool.Done(school.Calendars.Archive(school.Teacher, TestSchool.Slug, Class.Version));
        Assert.Null(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false));
        Assert.DoesNotContain(school.CalendarListQuery.Read(school.Teacher)!.Lines, line =>
            line.Calendar.Slug == TestSchool.Slug
        );
        Assert.Contains(
            "put away",
            school
                .ReadFeed.Do(token, TestSchool.Root, _ => false)!
                .Text!.Replace("\r\n ", "", StringComparison.Ordinal),
            StringComparison.OrdinalIgnoreCase
        );
        // None of its sessions is told any more.
        Assert.DoesNotContain(
            series.Uid,
            school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Text!,
            StringComparison.Ordinal
        );
        Assert.Single(school.CalendarListQuery.Read(school.Teacher)!.NotInUse);
        Assert.Empty(school.CalendarListQuery.Read(school.Helper)!.NotInUse);
        var back = TestSchool.Done(school.Calendars.BringBack(school.Teacher, TestSchool.Slug, away.Version));
        Assert.Equal(
            "DeleteTitle",
            TestSchool
                .Refused(school.Calendars.Delete(school.Teacher, TestSchool.Slug, "Tidepool", back.Version))
                .Single()
                .Field
        );
        var deleted = TestSchool.Done(
            school.Calendars.Delete(school.Teacher, TestSchool.Slug, "tidepool biology 9a ", back.Version)
        );
        Assert.Null(school.TermSheetQuery.Read(school.Helper, TestSchool.Slug, null));
        school.Clock.Advance(Calendar.Recall - Duration.FromHours(1));
        var again = TestSchool.Done(school.Calendars.BringBack(school.Teacher, TestSchool.Slug, deleted.Version));
        TestSchool.Done(school.Calendars.Delete(school.Teacher, TestSchool.Slug, "Tidepool Biology 9A", again.Version));
        school.Clock.Advance(Calendar.Recall);
        Assert.IsType<Outcome<Calendar>.NotFound>(
            school.Calendars.BringBack(school.Teacher, TestSchool.Slug, again.Version + 1)
        );
        Assert.Empty(school.CalendarListQuery.Read(school.Teacher)!.NotInUse);
    }

    [Fact]
    public void Saving_a_form_keeps_a_level_nobody_asked_to_change_and_names_people()
    {
        TestSchool.Done(school.Share.Give(school.Teacher, TestSchool.Slug, new Grantee.Anyone(), AccessLevel.Busy));
        var form = school.Calendars.Form(school.Teacher, TestSchool.Slug)!;
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                TestSchool.Slug,
                form with
                {
                    Description = "Tides.",
                    Named = "Torrance, Eilidh <eilidh@skerry.example>; TEODOR@skerry.example",
                }
            )
        );
        Assert.Equal(AccessLevel.Busy, school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.Level);
        Assert.Equal(AccessLevel.Full, school.TermSheetQuery.Read(school.Helper, TestSchool.Slug, null)!.Level);
        Assert.Equal(
            "Named",
            TestSchool
                .Refused(
                    school.Calendars.Change(
                        school.Teacher,
                        TestSchool.Slug,
                        school.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                        {
                            Named = "stranger@skerry.example",
                        }
                    )
                )
                .Single()
                .Field
        );
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                TestSchool.Slug,
                school.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                {
                    Named = "",
                }
            )
        );
        Assert.NotEqual(AccessLevel.Full, school.TermSheetQuery.Read(school.Helper, TestSchool.Slug, null)!.Level);
        Assert.All(school.CalendarHistoryQuery.Read(school.Teacher, TestSchool.Slug, null)!.Lines, line =>
            Assert.DoesNotContain("{", line.Summary, StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Closing_a_calendar_tells_of_its_open_links_and_closes_them_where_asked()
    {
        school.Add();
        Assert.Equal(
            "Tidepool room",
            Assert.Single(school.Calendars.LinksForAnyone(school.Teacher, TestSchool.Slug)).Name
        );
        Assert.Empty(school.Calendars.LinksForAnyone(school.Helper, TestSchool.Slug));
        var form = school.Calendars.Form(school.Teacher, TestSchool.Slug)! with { OpenTo = OpenTo.Named };
        TestSchool.Done(school.Calendars.Change(school.Teacher, TestSchool.Slug, form));
        Assert.Single(school.Calendars.LinksForAnyone(school.Teacher, TestSchool.Slug));
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                TestSchool.Slug,
                school.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                {
                    CloseLinks = true,
                }
            )
        );
        Assert.Empty(school.Calendars.LinksForAnyone(school.Teacher, TestSchool.Slug));
        Assert.Equal(
            EntryAudience.PeopleOfTheCalendar,
            school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Audience
        );
    }

    // Whose link it is decides, whatever the way: a contributor's own series, its session's door, going back.
    [Fact]
    public void A_contributor_opens_no_door_that_is_not_theirs()
    {
        var series = school.Add();
        var link = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single();
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Contributor
            )
        );
        var id = link.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture);
        var own = TestSchool.Good with
        {
            Title = "Mine",
            Days = [],
            Meets = "dates",
            Dates = "2026-10-14",
            Period = "",
            Start = "09:00",
            End = "09:30",
            Link = id,
            LinkTarget = "",
            LinkName = "",
        };
        Assert.NotEmpty(
            TestSchool.Refused(
                school.Compose.Save(school.Helper, TestSchool.Slug, null, own, MaterialInput.None).Waited()
            )
        );
        var mine = TestSchool.Done(
            school
                .Compose.Save(school.Helper, TestSchool.Slug, null, own with { Link = "" }, MaterialInput.None)
                .Waited()
        );
        var door = new SessionInput(
            "door",
            Door: new SessionDoorInput(id, "always"),
            Scope: "this",
            Version: mine.Version
        );
        Assert.NotEmpty(
            TestSchool.Refused(
                school.Sessions.Do(school.Helper, TestSchool.Slug, TestSchool.Key(mine, "2026-10-14T09:00"), door)
            )
        );
        Assert.IsType<Outcome<string>.NotAllowed>(
            school.Sessions.Do(
                school.Helper,
                TestSchool.Slug,
                TestSchool.Key(series, "2026-10-14T09:50"),
                door with
                {
                    Door = door.Door with { Link = "" },
                }
            )
        );
        Assert.IsType<EntryResult.Through>(school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null).Waited()); // 9:41: the class's own
        school.Clock.Reset(Instant.FromUtc(2026, 10, 14, 12, 5));
        Assert.IsType<EntryResult.Shut>(school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null).Waited());
    }

    [Fact]
    public void A_door_can_shut_at_the_end()
    {
        school.Add();
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Code;
        var kept = TestSchool.Done(school.Links.Open(school.Teacher, code)).Link;
        var changed = TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    code,
                    LinkInput.Of(kept) with
                    {
                        Entry = new EntryRuleInput(Late: EntryRuleInput.AtTheEnd),
                    }
                )
                .Waited()
        );
        Assert.Equal("opens 10 min before, closes at the end", changed.Entry.InWords);
        Assert.Equal(EntryRuleInput.AtTheEnd, LinkInput.Of(changed).Entry.Late);
        school.Clock.Reset(Instant.FromUtc(2026, 10, 14, 13, 39));
        Assert.IsType<EntryResult.Through>(school.Doors.Enter(code, new AtDoor(Viewer.Visitor), null).Waited());
    }

    [Fact]
    public async Task Sixty_tries_at_once_are_no_more_than_ten_and_the_owner_gets_in()
    {
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 60)
                .Select(_ => Task.Run(() => school.SignIn.Try("orla@skerry.example", "wrong", new("guesser")).Waited()))
        );
        Assert.Equal(SignIn.SignIn.Tries, answers.Count(answer => answer is SignInAnswer.Wrong));
        Assert.IsType<SignInAnswer.TooMany>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("guesser")).Waited()
        );
        var welcome = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("at home")).Waited()
        );
        Assert.NotNull(school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token));
        Assert.Null(school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token + "x"));
        Assert.Null(school.SignIn.Find(school.Student.Person!.Value, welcome.Stamp, welcome.Token));
        school.SignIn.End(welcome.Token);
        Assert.Null(school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token));
        // A long address is no key, and memory stays bounded.
        Assert.IsNotType<SignInAnswer.Welcome>(school.SignIn.Try(new string('a', 4_000_000), "x", new("b")).Waited());
        var tries = new AttemptLimiter(2, TimeSpan.FromMinutes(1));
        for (var at = 0; at < AttemptLimiter.MostKeys + 500; at++)
            tries.Take(at.ToString(System.Globalization.CultureInfo.InvariantCulture) + new string('k', 50));
        Assert.False(
            tries.Take("one more") && tries.Take("another"),
            "beyond the most keys, further ones share one count"
        );
    }

    [Fact]
    public void Rolling_over_carries_a_split_series_once_and_restoring_takes_its_tail_off()
    {
        var series = school.Add();
        var line = school.CalendarHistoryQuery.Read(school.Teacher, TestSchool.Slug, null)!.Lines[0];
        var before = Planner.PlanOf(school.Now(series), school.SchoolQuery.Find()!.Time).HeldCount;
        school.Change(
            series,
            "2026-11-02T09:50",
            new SessionInput("move", new SessionTimeInput(Period: "4"), Scope: "later")
        );
        var preview = TestSchool.Done(school.RollOver.Preview(school.Teacher, new TermId(1), new TermId(2)));
        Assert.Single(preview.Lines, one => one.Series.Title == series.Title && one.Carried is not null);
        TestSchool.Done(school.GoBack.Restore(school.Teacher, TestSchool.Slug, line.Id, Class.Revision));
        var sheet = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!;
        Assert.Equal(before, sheet.Series.Sum(one => one.Plan.HeldCount));
    }

    [Fact]
    public void Later_to_an_earlier_weekday_keeps_the_number_and_the_order()
    {
        var series = school.Add(TestSchool.Good with { Days = ["3"], Extent = "held", Held = "12", Term = "" });
        school.Change(
            series,
            "2026-10-21T09:50",
            new SessionInput("move", new SessionTimeInput("2026-10-20"), Scope: "later")
        );
        var plans = school
            .TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!
            .Series.Select(one => one.Plan)
            .ToList();
        var held = plans.SelectMany(plan => plan.Held).OrderBy(session => session.StartsAt).ToList();
        Assert.Equal(12, held.Count);
        Assert.Equal(Enumerable.Range(1, 12), held.Select(session => session.Number!.Value));
    }

    [Fact]
    public void A_one_off_made_weekly_ends_with_the_term_and_a_rule_keeps_its_week()
    {
        var once = school.Add(TestSchool.Good with { Days = [], Meets = "dates", Dates = "2026-10-15", Link = "" });
        var form = TestSchool.Done(school.Compose.Open(school.Teacher, TestSchool.Slug, once.Id)).Input with
        {
            Meets = "weekly",
            Days = ["4"],
        };
        TestSchool.Done(
            school.Compose.Save(school.Teacher, TestSchool.Slug, once.Id, form, MaterialInput.None).Waited()
        );
        Assert.True(
            Planner.PlanOf(school.Now(once), school.SchoolQuery.Find()!.Time).Held.Last().Day
                <= new LocalDate(2026, 12, 18)
        );
        var typed = school.Add(
            TestSchool.Good with
            {
                Meets = "rule",
                Days = [],
                Rule = "FREQ=WEEKLY;INTERVAL=2;WKST=SU;BYDAY=SU,MO",
                Link = "",
            }
        );
        var again = TestSchool.Done(school.Compose.Open(school.Teacher, TestSchool.Slug, typed.Id)).Input;
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    typed.Id,
                    again with
                    {
                        Place = "Elsewhere",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Equal(IsoDayOfWeek.Sunday, ((Repeat.ByRule)school.Now(typed).Pattern.Repeat).Rule.WeekStart);
    }

    [Fact]
    public void A_material_of_a_moved_session_moves_with_it()
    {
        var series = school.Add();
        school.Change(series, "2026-10-14T09:50", new SessionInput("move", new SessionTimeInput("2026-10-15", "4")));
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    TestSchool.FormOf(school.Now(series)),
                    new MaterialInput(
                        Address: "https://tides.skerry.example",
                        ForSession: TestSchool.Key(series, "2026-10-14T09:50").ToString()
                    )
                )
                .Waited()
        );
        var day = school.DayQuery.Read(school.Teacher, new LocalDate(2026, 10, 15), false).Waited()!;
        Assert.Single(day.Sessions.Single().Shown.Materials);
        Assert.Equal(
            "MaterialForSession",
            TestSchool
                .Refused(
                    school
                        .Compose.Save(
                            school.Teacher,
                            TestSchool.Slug,
                            series.Id,
                            TestSchool.FormOf(school.Now(series)),
                            new MaterialInput(Address: "https://tides.skerry.example", ForSession: "1.2026-10-13T09:50")
                        )
                        .Waited()
                )
                .Single()
                .Field
        );
    }

    [Fact]
    public void Marks_are_used_evenly_from_the_145th_calendar_on()
    {
        var used = new List<Mark>();
        for (var at = 0; at < 300; at++)
            used.Add(Mark.Next(used.TakeLast(Mark.Neighbours)));
        Assert.Equal(144, used.Take(144).Distinct().Count());
        Assert.All(used.CountBy(mark => mark), one => Assert.InRange(one.Value, 2, 3));
    }

    // A clock that jumps back an hour, as one that is set by hand does.
    [Fact]
    public void A_clock_that_jumps_back_loses_nothing()
    {
        var series = school.Add();
        school.Change(series, "2026-10-16T09:50", new SessionInput("tell", Note: "Boots"));
        school.Clock.Advance(Duration.FromHours(-1));
        school.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Nets"));
        Assert.StartsWith(
            "Undid",
            TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug)),
            StringComparison.Ordinal
        );
        Assert.Equal("Boots", Assert.Single(school.Now(series).Changes).Note);
        Assert.Equal(
            3,
            school
                .CalendarHistoryQuery.Read(school.Teacher, TestSchool.Slug, null)!
                .Lines.Count(line => line.Act is "AddSeries" or "ChangeSession")
        );
        Assert.NotNull(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited() as SignInAnswer.Welcome
        );
    }

    [Theory]
    [InlineData(false, "13:30")]
    [InlineData(true, "1:30 pm")]
    public void The_school_says_how_times_are_written(bool twelve, string written)
    {
        var series = school.Add();
        var details = SchoolDetails.Of(school.SchoolQuery.Find()!) with { MonthFirst = true, TwelveHours = twelve };
        Assert.IsType<Outcome<School>.NotAllowed>(school.SchoolTime.SetSchool(school.Teacher, details));
        Assert.IsType<Outcome<School>.Refused>(
            school.SchoolTime.SetSchool(school.Coordinator, details with { Zone = "EST" })
        );
        TestSchool.Done(school.SchoolTime.SetSchool(school.Coordinator, details));
        Assert.IsType<Outcome<School>.Stale>(school.SchoolTime.SetSchool(school.Coordinator, details));
        var now = school.SchoolQuery.Find()!;
        // In another zone what begins at 9:50 begins at 9:50; what stood in a zone of its own stays there.
        TestSchool.Done(
            school.SchoolTime.SetSchool(school.Coordinator, SchoolDetails.Of(now) with { Zone = "America/St_Johns" })
        );
        var moved = school.Now(series);
        Assert.Equal(("America/St_Johns", series.Version + 1), (moved.Pattern.Zone.Id, moved.Version));
        Assert.Equal(
            "America/St_Johns",
            school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Calendar.Zone.Id
        );
        Assert.Equal((twelve, true), (now.TwelveHours, now.Time.MonthFirst));
        var before = System.Globalization.CultureInfo.CurrentCulture;
        System.Globalization.CultureInfo.CurrentCulture = Wording.Culture(now.TwelveHours);
        try
        {
            Assert.Equal(written, Wording.Of(new LocalTime(13, 30)));
        }
        finally
        {
            System.Globalization.CultureInfo.CurrentCulture = before;
        }
    }

    [Fact]
    public void A_line_that_doubles_a_series_is_told_and_a_quoted_line_break_is_read()
    {
        school.Add();
        var review = TestSchool.Done(
            school.Quick.Review(
                school.Teacher,
                TestSchool.Slug,
                "Tidepool Biology 9A MWF p3 14 Sep with the term",
                new Dictionary<int, string>()
            )
        );
        Assert.Contains(review.Lines.Single().Problems.Concat(review.Lines.Single().Assumed), told =>
            told.Contains("already", StringComparison.OrdinalIgnoreCase)
            || told.Contains("there", StringComparison.OrdinalIgnoreCase)
        );
        var table = TestSchool.Done(
            school.Quick.Review(
                school.Teacher,
                TestSchool.Slug,
                "Title,Days,Period\n\"Net\nMending\",MWF,1\nKnots,Tue,4",
                new Dictionary<int, string>()
            )
        );
        Assert.Equal(["Net Mending", "Knots"], table.Lines.Select(line => line.Reading.Title));
        Assert.All(table.Lines, line => Assert.Empty(line.Problems));
    }

    // What held before, and nothing would have noticed had it broken.
    [Fact]
    public void Details_files_and_feeds_are_only_for_those_they_are_meant_for()
    {
        var series = school.Add(
            materials: new MaterialInput(Address: "https://tides.skerry.example/answers", PeopleOnly: true)
        );
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Code;
        var kept = TestSchool.Done(school.Links.Open(school.Teacher, code)).Link;
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    code,
                    LinkInput.Of(kept) with
                    {
                        Audience = new EntryAudienceInput("peopleofthecalendar", ShowsDetails: true),
                        Room = new RoomInput("https://rooms.skerry.example/9a", "881 220", "kelp22"),
                    }
                )
                .Waited()
        );
        Assert.Equal("kelp22", school.Doors.At(code, new AtDoor(school.Teacher)).Waited()!.Link.Details!.Passcode);
        Assert.Null(school.Doors.At(code, new AtDoor(Viewer.Visitor)).Waited()!.Link.Details);
        Assert.IsType<EntryResult.Shut>(school.Doors.Enter(code, new AtDoor(Viewer.Visitor), null).Waited());
        foreach (
            var (viewer, hosts) in new[]
            {
                (school.Teacher, true),
                (school.Helper, false),
                (school.Student, false),
                (Viewer.Visitor, false),
            }
        )
            Assert.Equal(hosts, school.Doors.At(code, new AtDoor(viewer)).Waited()!.Entry.MayHost);
        var key = school.Database.Read(stores => stores.Materials.Of(series.Calendar).Single().Key);
        Assert.Null(school.MaterialQuery.Find(Viewer.Visitor, key));
        Assert.NotNull(school.MaterialQuery.Find(school.Teacher, key));
        Assert.DoesNotContain(
            "answers",
            school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.ToString(),
            StringComparison.Ordinal
        );
        Assert.Empty(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.Materials);
        // A feed is worked only from its own calendar.
        TestSchool.Done(
            school.Calendars.Create(
                school.Helper,
                new CalendarInput(
                    "Other",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Ochre,
                    MarkShape.Triangle,
                    OpenTo.Anyone
                )
            )
        );
        var (feed, _) = TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                TestSchool.Slug,
                PublicationKind.Feed,
                new PublicationInput("For families", AccessLevel.Full, true, true, true)
            )
        );
        Assert.IsType<Outcome<PublicationWithToken>.NotFound>(
            school.Outlets.Renew(school.Helper, new Slug("other"), feed.Id, feed.Version)
        );
        Assert.IsType<Outcome<PublicationWithToken>.NotFound>(
            school.Outlets.Revoke(school.Helper, new Slug("other"), feed.Id, feed.Version)
        );
        Assert.IsType<Outcome<PublicationWithToken>.NotFound>(
            school.Outlets.Offer(school.Helper, new Slug("other"), feed.Id, true, feed.Version)
        );
        Assert.IsType<Outcome<PublicationWithToken>.NotAllowed>(
            school.Outlets.Offer(school.Helper, TestSchool.Slug, feed.Id, true, feed.Version)
        );
        Assert.Null(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.FeedToken);
        TestSchool.Done(school.Outlets.Offer(school.Teacher, TestSchool.Slug, feed.Id, true, feed.Version));
        Assert.NotNull(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.FeedToken);
    }
}
