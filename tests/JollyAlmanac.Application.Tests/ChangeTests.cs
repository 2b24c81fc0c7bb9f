using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What people do to sessions, to several series at once and to the school's time.</summary>
public sealed class ChangeTests : IDisposable
{
    private readonly TestSchool school = new();

    private static readonly Dictionary<int, string> NothingChosen = [];

    [Fact]
    public void One_session_is_dragged_this_and_later_moves_the_hour_and_undo_brings_both_back()
    {
        var series = school.Add(
            materials: new MaterialInput(Address: "https://tides.skerry.example", ForSession: "2026-10-28T09:50:00")
        );
        var before = Sheet();
        Assert.Equal(
            "Moved Tidepool Biology 9A, Wed 14 Oct to Thu 15 Oct.",
            school.Change(series, "2026-10-14T09:50", new SessionInput("move", new SessionTimeInput("2026-10-15")))
        );
        Assert.Equal(
            "Moved Tidepool Biology 9A from Wed 21 Oct on to period 4.",
            school.Change(
                series,
                "2026-10-21T09:50",
                new SessionInput("move", new SessionTimeInput(Period: "4"), Scope: "later")
            )
        );
        var view = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!;
        Assert.Equal(2, view.Series.Count);
        Assert.Equal(
            (series.Id, series.JoinLink),
            (view.Series[1].Series.Follows!.Value, view.Series[1].Series.JoinLink)
        );
        // The material of a later session went along with it.
        Assert.Contains(view.Sheet!.Weeks.SelectMany(week => week.Days).SelectMany(day => day.Sessions), shown =>
            shown.Session.Start == new LocalDateTime(2026, 10, 28, 10, 55) && shown.Materials.Length == 1
        );
        Assert.StartsWith(
            "Undid: moved Tidepool Biology 9A from Wed 21 Oct on",
            TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug)),
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "Undid: moved Tidepool Biology 9A, Wed 14 Oct",
            TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug)),
            StringComparison.Ordinal
        );
        Assert.Equal(before, Sheet());
    }

    [Fact]
    public void Undo_stops_at_what_somebody_else_changed_since_and_history_leads_back()
    {
        var series = school.Add();
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Editor
            )
        );
        school.Change(series, "2026-10-14T09:50", new SessionInput("leave-out"));
        TestSchool.Done(
            school.Sessions.Do(
                school.Helper,
                TestSchool.Slug,
                TestSchool.Key(series, "2026-10-16T09:50"),
                new SessionInput("tell", Note: "Boots", Version: 2)
            )
        );
        var rows = school.Rows();
        Assert.IsType<Outcome<string>.Stale>(school.GoBack.Undo(school.Teacher, TestSchool.Slug));
        Assert.Equal(rows, school.Rows());
        var history = school.CalendarHistoryQuery.Read(school.Teacher, TestSchool.Slug, null)!;
        Assert.Equal(
            ["ChangeSession", "ChangeSession", "AddSeries"],
            history.Lines.Where(line => line.CanRestore).Select(line => line.Act)
        );
        var line = history.Lines.Single(one => one.Act == "AddSeries");
        Assert.IsType<Outcome<string>.Stale>(
            school.GoBack.Restore(school.Teacher, TestSchool.Slug, line.Id, history.Calendar.Revision - 1)
        );
        TestSchool.Done(school.GoBack.Restore(school.Teacher, TestSchool.Slug, line.Id, history.Calendar.Revision));
        Assert.Empty(school.Now(series).Changes);
        // What was gone back over is not lost either.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug));
        Assert.Equal(2, school.Now(series).Changes.Length);
    }

    // Who | what they may do with a session.
    [Fact]
    public void Only_who_may_change_the_series_changes_its_sessions()
    {
        var series = school.Add();
        var rows = school.Rows();
        foreach (var viewer in new[] { school.Student, Viewer.Visitor, school.Helper })
        {
            Assert.IsType<Outcome<string>.NotAllowed>(
                school.Sessions.Do(
                    viewer,
                    TestSchool.Slug,
                    TestSchool.Key(series, "2026-10-14T09:50"),
                    new SessionInput("leave-out", Version: 1)
                )
            );
            Assert.IsType<Outcome<OpenSession>.NotAllowed>(
                school.Sessions.Open(
                    viewer,
                    TestSchool.Slug,
                    TestSchool.Key(series, "2026-10-14T09:50"),
                    new SessionInput()
                )
            );
            Assert.IsNotType<Outcome<string>.Done>(school.GoBack.Undo(viewer, TestSchool.Slug));
            Assert.IsType<Outcome<QuickSaved>.NotAllowed>(
                school.Quick.Save(viewer, TestSchool.Slug, "Lab MWF p1", NothingChosen)
            );
            Assert.Null(school.CalendarHistoryQuery.Read(viewer, TestSchool.Slug, null));
        }

        Assert.IsType<Outcome<SchoolTimeView>.NotAllowed>(school.SchoolTime.Open(school.Teacher));
        Assert.IsType<Outcome<School>.NotAllowed>(school.SchoolTime.Save(school.Teacher, new SchoolTimeInput()));
        Assert.Equal(rows, school.Rows());
    }

    // A month before the school year's first day (8 Sep) and after its last (25 Jun) is near enough.
    [Theory]
    [InlineData("2026-08-08", "2026-08-08", null)]
    [InlineData("2026-08-07", "2026-08-07", "Day, 7 Aug 2026, lies outside every school year")]
    [InlineData("2026-08-07", "2026-08-08", "Day, 7 Aug 2026 to 8 Aug 2026, lies outside every school year")]
    [InlineData("2027-07-26", "2027-07-26", null)]
    [InlineData("2027-07-26", "2027-07-27", "lies outside every school year")]
    [InlineData("2026-10-06", "2026-10-05", "before it starts")]
    [InlineData("2026-10-05", "2026-10-05", null)]
    public void A_no_class_day_lies_in_a_school_year(string first, string last, string? told)
    {
        var view = TestSchool.Done(school.SchoolTime.Open(school.Coordinator));
        var outcome = school.SchoolTime.Save(
            school.Coordinator,
            view.Input with
            {
                NoClass = [.. view.Input.NoClass!, new NoClassRow(first, last, "Day", "Holiday")],
            }
        );
        if (told is null)
            Assert.Contains(TestSchool.Done(outcome).Time.NoClassDays, day => day.Name == "Day");
        else
            Assert.Contains(told, Assert.Single(TestSchool.Refused(outcome)).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("2026-10-14T09:50", "move", "2026-10-xx", "", "", "no day")]
    [InlineData("2026-10-14T09:50", "move", "", "9", "", "no such period")]
    [InlineData("2026-10-14T09:50", "move", "", "", "10:00-9:00", "not after its start")]
    [InlineData("2026-10-14T09:50", "move", "2026-10-14", "", "", "at that time already")]
    [InlineData("2026-10-14T09:50", "dance", "", "", "", "Choose what to do")]
    public void Bad_input_is_told_and_changes_nothing(
        string original,
        string act,
        string day,
        string period,
        string times,
        string message
    )
    {
        var series = school.Add();
        var rows = school.Rows();
        var clock = times.Split('-');
        var problems = TestSchool.Refused(
            school.Sessions.Do(
                school.Teacher,
                TestSchool.Slug,
                TestSchool.Key(series, original),
                new SessionInput(
                    act,
                    new SessionTimeInput(day, period, clock[0], clock.Length > 1 ? clock[1] : ""),
                    Version: 1
                )
            )
        );
        Assert.Contains(problems, problem => problem.Message.Contains(message, StringComparison.Ordinal));
        Assert.IsType<Outcome<string>.Stale>(
            school.Sessions.Do(
                school.Teacher,
                TestSchool.Slug,
                TestSchool.Key(series, original),
                new SessionInput("leave-out", Version: 7)
            )
        );
        Assert.IsType<Outcome<string>.NotFound>(
            school.Sessions.Do(
                school.Teacher,
                TestSchool.Slug,
                TestSchool.Key(series, "2026-10-15T09:50"),
                new SessionInput("leave-out", Version: 1)
            )
        );
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void A_move_onto_a_no_class_day_is_told_and_allowed()
    {
        var series = school.Add();
        var open = TestSchool.Done(
            school.Sessions.Open(
                school.Teacher,
                TestSchool.Slug,
                TestSchool.Key(series, "2026-10-14T09:50"),
                new SessionInput("move", new SessionTimeInput("2026-10-12"))
            )
        );
        Assert.Contains(open.Told, told => told.Contains("Thanksgiving", StringComparison.Ordinal));
        Assert.Equal(
            [null, "The series meets on Mon already. Move this session alone, or choose another day."],
            open.Choices.Take(2).Select(choice => choice.Reason)
        );
        school.Change(series, "2026-10-14T09:50", new SessionInput("move", new SessionTimeInput("2026-10-12")));
        Assert.Contains(Sheet(), text => text.StartsWith("2026-10-12", StringComparison.Ordinal));
    }

    [Fact]
    public void A_loose_change_is_kept_and_settled_by_hand()
    {
        var series = school.Add();
        school.Change(series, "2026-10-14T09:50", new SessionInput("tell", Note: "Boots"));
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    TestSchool.FormOf(school.Now(series)) with
                    {
                        Days = ["1", "5"],
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        var plan = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Series.Single().Plan;
        Assert.Equal("Boots", Assert.Single(plan.Loose).Note);
        TestSchool.Done(
            school.Sessions.Settle(
                school.Teacher,
                TestSchool.Slug,
                TestSchool.Key(series, "2026-10-14T09:50"),
                TestSchool.Key(series, "2026-10-16T09:50"),
                plan.Of.Version
            )
        );
        plan = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Series.Single().Plan;
        Assert.Empty(plan.Loose);
        Assert.Equal(new LocalDate(2026, 10, 16), plan.Sessions.Single(session => session.Note == "Boots").Start.Date);
    }

    [Fact]
    public void A_pasted_timetable_becomes_series_in_one_go_and_bad_lines_stay()
    {
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "Coastal Weather 10",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Ochre,
                    MarkShape.Triangle,
                    OpenTo.Anyone
                )
            )
        );
        var good = Enumerable
            .Range(1, 27)
            .Select(number => $"Class {number} MWF {7 + number / 4}:{number % 4 * 15:00} 45 min 14 Sep to 18 Dec")
            .Append("Coastal Weather 10 Tue p3");
        string[] bad = ["Lab MWF", "p3 only", "Choir MWF p77"];
        var text = string.Join('\n', good.Concat(bad));
        var rows = school.Rows();
        var review = TestSchool.Done(school.Quick.Review(school.Teacher, TestSchool.Slug, text, NothingChosen));
        Assert.Equal((31, 3), (review.Lines.Count, review.Lines.Count(line => !line.IsGood)));
        Assert.Equal("Coastal Weather 10", review.Lines[27].Calendar!.Title);
        Assert.Contains("with the Autumn term", review.Lines[27].Assumed);
        Assert.Equal(rows, school.Rows());
        var saved = TestSchool.Done(school.Quick.Save(school.Teacher, TestSchool.Slug, text, NothingChosen));
        Assert.Equal((28, string.Join('\n', bad)), (saved.Made.Count, saved.Left));
        Assert.Equal(27, school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Series.Count);
    }

    // A line that says no room takes the class's, and says so before; one that has a room of its own keeps that.
    [Fact]
    public void Lines_take_the_link_of_their_calendar()
    {
        var series = school.Add();
        var text = "Helpers Tue p3\nReef talk Thu p4 https://rooms.skerry.example/reef";
        var review = TestSchool.Done(school.Quick.Review(school.Teacher, TestSchool.Slug, text, NothingChosen));
        var code = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links.Single().Code;
        Assert.Contains($"joined by {code.Path}", review.Lines[0].Assumed);
        Assert.DoesNotContain(review.Lines[1].Assumed, one => one.Contains("joined", StringComparison.Ordinal));
        TestSchool.Done(school.Quick.Save(school.Teacher, TestSchool.Slug, text, NothingChosen));
        var made = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Series;
        Assert.Equal(series.JoinLink, made.Single(one => one.Series.Title == "Helpers").Series.JoinLink);
        Assert.NotEqual(series.JoinLink, made.Single(one => one.Series.Title == "Reef talk").Series.JoinLink);
    }

    [Theory]
    [InlineData(
        "Title,Days,Start,End,From,Until,Room\nTidepool,MWF,8:00,8:50,14 Sep 2026,18 Dec 2026,Tide Room\n\"Weather, coastal\",Tu/Th,13:30,14:45,,,",
        2
    )]
    [InlineData("class;days;period\nChoir;MWF;3", 1)]
    public void A_table_with_a_head_line_is_read_as_lines(string text, int lines)
    {
        var review = TestSchool.Done(school.Quick.Review(school.Teacher, TestSchool.Slug, text, NothingChosen));
        Assert.Equal(lines, review.Lines.Count);
        Assert.All(review.Lines, line => Assert.Empty(line.Problems));
        if (lines == 2)
            Assert.Equal(
                ("Tide Room", "Weather, coastal"),
                (review.Lines[0].Reading.Place, review.Lines[1].Reading.Title)
            );
    }

    [Fact]
    public void School_time_counts_what_it_does_before_it_is_saved()
    {
        school.Add();
        school.Add(TestSchool.Good with { Title = "Lab", Days = ["1"], Link = "", Extent = "held", Held = "13" });
        var view = TestSchool.Done(school.SchoolTime.Open(school.Coordinator));
        var input = view.Input with { Pasted = "26 Oct Harvest day" };
        var preview = TestSchool.Done(school.SchoolTime.Preview(school.Coordinator, input));
        // 26 Oct is a Monday: one session of each; the Lab's 13th Monday then comes after 18 Dec.
        Assert.Equal(
            "2 sessions of 2 series are left out; 1 session of 1 series comes in; 1 series no longer reaches its number of sessions within the term.",
            preview.Effect!.InWords
        );
        Assert.Equal(["Mon 26 Oct becomes a no-class day: Harvest day"], preview.Edits);
        TestSchool.Done(school.SchoolTime.Save(school.Coordinator, input));
        Assert.DoesNotContain(Sheet(), text => text.StartsWith("2026-10-26", StringComparison.Ordinal));
        Assert.IsType<Outcome<School>.Stale>(
            school.SchoolTime.Save(school.Coordinator, input with { Pasted = "27 Oct Another" })
        );
    }

    [Theory]
    [InlineData("term", "overlaps the Autumn term")]
    [InlineData("period", "overlaps period 1")]
    [InlineData("cycle", "a day at least")]
    [InlineData("outside", "outside every school year")]
    [InlineData("list", "names no day")]
    [InlineData("inUse", "Series run with the Autumn term")]
    [InlineData("backwards", "before it starts")]
    public void School_time_that_cannot_be_is_refused(string wrong, string message)
    {
        school.Add();
        var input = TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).Input;
        input = wrong switch
        {
            "term" => input with { Terms = [.. input.Terms!, new TermRow(0, "Extra", "2026-12-01", "2026-12-30")] },
            "period" => input with { Bells = new BellsRow("Regular bells", "1 8:00-8:50\n2 8:40-9:30") },
            "cycle" => input with { CycleNames = "" },
            "outside" => input with { Pasted = "1 May 2031 Far away" },
            "list" => input with { Pasted = "Thanksgiving, some day" },
            "inUse" => input with { Terms = [.. input.Terms!.Select(term => term with { Remove = term.Id == 1 })] },
            _ => input with { NoClass = [new NoClassRow("2026-10-12", "2026-10-10", "Backwards", "Holiday")] },
        };
        var problems = TestSchool.Refused(school.SchoolTime.Save(school.Coordinator, input));
        Assert.Contains(problems, problem => problem.Message.Contains(message, StringComparison.Ordinal));
        Assert.Equal(input.Revision, TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).School.Revision);
    }

    [Fact]
    public void A_term_is_carried_to_the_next_with_its_links()
    {
        var series = school.Add(materials: new MaterialInput(Address: "https://tides.skerry.example"));
        school.Change(series, "2026-10-14T09:50", new SessionInput("leave-out"));
        school.Add(
            TestSchool.Good with
            {
                Title = "Evening",
                Link = "",
                Meets = "dates",
                Dates = "5 Nov 2026",
                Period = "",
                Start = "18:30",
                End = "19:30",
            }
        );
        var preview = TestSchool.Done(school.RollOver.Preview(school.Teacher, new TermId(1), new TermId(2)));
        Assert.Equal([true, false], preview.Lines.Select(line => line.Carried is not null));
        Assert.Equal(
            1,
            TestSchool.Done(
                school.RollOver.Do(
                    school.Teacher,
                    new TermId(1),
                    new TermId(2),
                    [series.Id],
                    withMaterials: true,
                    preview.School.Revision
                )
            )
        );
        var carried = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, new TermId(2))!;
        var made = carried.Series.Single(one => one.Series.Title == series.Title && one.Series.Id != series.Id).Series;
        Assert.Equal((series.JoinLink, 0), (made.JoinLink, made.Changes.Length));
        Assert.All(carried.Sheet!.Weeks.SelectMany(week => week.Days).SelectMany(day => day.Sessions), shown =>
            Assert.Single(shown.Materials)
        );
        Assert.Equal(
            ["meets in the Spring term already"],
            TestSchool
                .Done(school.RollOver.Preview(school.Teacher, new TermId(1), new TermId(2)))
                .Lines.Take(1)
                .Select(line => line.Sentence.Split("9A ")[1].TrimEnd('.'))
        );
        Assert.IsType<Outcome<int>.Stale>(
            school.RollOver.Do(school.Teacher, new TermId(1), new TermId(2), [series.Id], false, 99)
        );
        Assert.IsType<Outcome<RollOverPreview>.NotAllowed>(
            school.RollOver.Preview(school.Student, new TermId(1), new TermId(2))
        );
    }

    public void Dispose() => school.Dispose();

    private List<string> Sheet() =>
        [
            .. school
                .TermSheetQuery.Read(school.Teacher, TestSchool.Slug, new TermId(1))!
                .Sheet!.Weeks.SelectMany(week => week.Days)
                .SelectMany(day => day.Sessions)
                .Select(shown =>
                    $"{shown.Session.Start:uuuu-MM-dd HH:mm} {shown.Title} {shown.Number} {shown.Session.IsHeld}"
                ),
        ];
}
