using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What is done in one go is taken back in one go; a guest may lead; a recording is called what it is.</summary>
public sealed class OneGoTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private IReadOnlyList<Core.Series.Series> All() =>
        [.. school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Select(one => one.Series)];

    [Fact]
    public void A_term_that_was_copied_is_taken_back_in_one_go_and_never_half()
    {
        school.Add();
        school.Add(TestSchool.Good with { Title = "Lab", Days = ["2"], Link = "" });
        var time = school.SchoolQuery.Find()!.Time;
        var (from, to) = (time.Terms[0].Id, time.Terms[1].Id);
        int Copy() =>
            TestSchool.Done(
                school.RollOver.Do(
                    school.Teacher,
                    from,
                    to,
                    [.. All().Where(one => time.Find(to)!.First > one.Pattern.From).Select(one => one.Id)],
                    withMaterials: false,
                    school.SchoolQuery.Find()!.Revision
                )
            );
        TestSchool.Refused(school.RollOver.Undo(school.Teacher));
        Assert.Equal(2, Copy());
        Assert.Equal(
            ["Lab", "Tidepool Biology 9A"],
            school.RollOver.LastCarried(school.Teacher).Order(StringComparer.Ordinal)
        );
        // It is nobody else's to take back.
        TestSchool.Refused(school.RollOver.Undo(school.Coordinator));
        Assert.Equal(2, TestSchool.Done(school.RollOver.Undo(school.Teacher)));
        Assert.Equal(2, All().Count);
        Assert.Empty(school.RollOver.LastCarried(school.Teacher));
        // What was undone here is not undone again on the calendar; the one before it is.
        Assert.Contains("Lab", TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug)), StringComparison.Ordinal);
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    null,
                    TestSchool.Good with
                    {
                        Title = "Lab",
                        Days = ["2"],
                        Link = "",
                    },
                    Materials.MaterialInput.None
                )
                .Waited()
        );
        school.Clock.Advance(Duration.FromMinutes(1));
        Assert.Equal(2, Copy());
        var changed = All().First(one => one.Title == "Lab" && one.Pattern.From == time.Find(to)!.First);
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    changed.Id,
                    TestSchool.FormOf(changed) with
                    {
                        Place = "Net room",
                    },
                    Materials.MaterialInput.None
                )
                .Waited()
        );
        TestSchool.Refused(school.RollOver.Undo(school.Teacher));
        Assert.Equal(4, All().Count);
    }

    [Fact]
    public void The_last_edit_of_the_schools_time_is_undone_and_done_again()
    {
        var series = school.Add();
        SchoolTime Now() => school.SchoolQuery.Find()!.Time;
        int Revision() => school.SchoolQuery.Find()!.Revision;
        var before = Now();
        SchoolTimeInput Form() => TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).Input;
        TestSchool.Done(
            school.SchoolTime.Save(
                school.Coordinator,
                Form() with
                {
                    NoClass =
                    [
                        .. Form().NoClass ?? [],
                        new NoClassRow("2026-11-11", "", "Harbour day", nameof(NoClassKind.Holiday)),
                    ],
                }
            )
        );
        Assert.Equal("Wed 11 Nov becomes a no-class day: Harbour day", school.SchoolTime.LastEdit(school.Coordinator));
        Assert.IsType<Outcome<School>.Stale>(school.SchoolTime.Undo(school.Coordinator, Revision() - 1));
        TestSchool.Done(school.SchoolTime.Undo(school.Coordinator, Revision()));
        Assert.Equal(before.NoClassDays, Now().NoClassDays);
        Assert.Equal(before.Terms, Now().Terms);
        Assert.Equal(series.Pattern.Extent, school.Now(series).Pattern.Extent);
        TestSchool.Done(school.SchoolTime.Undo(school.Coordinator, Revision()));
        Assert.Contains(Now().NoClassDays, day => day.Name == "Harbour day");
        // A term that went is there again.
        TestSchool.Done(school.SchoolTime.Save(school.Coordinator, Form() with { Terms = [Form().Terms![0]] }));
        TestSchool.Done(school.SchoolTime.Undo(school.Coordinator, Revision()));
        Assert.Equal(
            before.Terms.Select(term => (term.Name, term.First, term.Last)),
            Now().Terms.Select(term => (term.Name, term.First, term.Last))
        );
    }

    [Theory]
    [InlineData(false, "09:30", false)]
    [InlineData(true, "09:30", true)] // before the class is let in, at 9:40
    [InlineData(false, "09:45", true)]
    [InlineData(true, "09:45", true)]
    [InlineData(true, "10:20", true)] // late
    [InlineData(false, "10:20", false)]
    [InlineData(true, "10:41", false)] // over
    public async Task A_guest_who_leads_a_session_enters_as_its_host_and_before_the_class(
        bool isHost,
        string at,
        bool enters
    )
    {
        var series = school.Add(TestSchool.Good with { Link = "room" });
        var link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single();
        var guest = TestSchool.Done(
            school.WorkDoor.MakeGuest(school.Teacher, link.Code, TestSchool.Key(series, "2026-10-16T09:50"), isHost)
        );
        Assert.Equal(isHost, school.Switchboard.At(school.Teacher, null, link.Code)!.Chosen!.Guests.Single().IsHost);
        school.Clock.Reset(
            new LocalDate(2026, 10, 16)
                .At(NodaTime.Text.LocalTimePattern.CreateWithInvariantCulture("HH:mm").Parse(at).Value)
                .InZoneStrictly(school.SchoolQuery.Find()!.Time.Zone)
                .ToInstant()
        );
        var entryResult = await school.Doors.EnterAsGuest(guest.Token, Viewer.Visitor, Stop);
        Assert.Equal(enters, entryResult is EntryResult.Through);
        if (entryResult is not EntryResult.Through through)
            return;
        Assert.Equal(isHost, through.To.AbsoluteUri.Contains("host", StringComparison.Ordinal));
    }

    [Fact]
    public void A_recording_that_lies_elsewhere_is_called_a_recording()
    {
        var series = school.Add();
        string Attach(bool isRecording, string title = "")
        {
            TestSchool.Done(
                school.Materials.Attach(
                    school.Teacher,
                    Slug,
                    [new AttachItem(null, TestSchool.Key(series, "2026-10-14T09:50").ToString())],
                    "https://films.example/9a",
                    new MaterialDetails(title) { IsRecording = isRecording }
                )
            );
            return school
                .Database.Read(stores => stores.Materials.Of(series.Calendar))
                .MaxBy(one => one.Id.Value)!
                .Title;
        }

        Assert.Equal("Recording", Attach(isRecording: true));
        Assert.Equal("films.example", Attach(isRecording: false));
        Assert.Equal("Low water", Attach(isRecording: true, "Low water"));
    }

    [Fact]
    public void A_pasted_timetable_is_undone_as_it_came()
    {
        school.Add(TestSchool.Good with { Title = "Before" });
        var nothing = new Dictionary<int, string>();
        TestSchool.Done(
            school.Quick.Save(
                school.Teacher,
                Slug,
                "Lab Tue 9:50-10:40 15 Sep to 18 Dec\nTalk Thu 9:50-10:40 17 Sep to 18 Dec\nWalk Fri 13:00-14:00 18 Sep to 18 Dec",
                nothing
            )
        );
        Assert.Equal(4, All().Count);
        Assert.Equal("added 3 series", school.TermSheetQuery.Read(school.Teacher, Slug, null)!.ToUndo!.Summary);
        Assert.Equal("Undid: added 3 series.", TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug)));
        Assert.Equal(["Before"], All().Select(one => one.Title));
        // One by one what came one by one.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Empty(All());
        // Where one of them was changed since, none of them goes.
        TestSchool.Done(
            school.Quick.Save(
                school.Teacher,
                Slug,
                "Lab Tue 9:50-10:40 15 Sep to 18 Dec\nTalk Thu 9:50-10:40 17 Sep to 18 Dec",
                nothing
            )
        );
        school.Execute(
            "update series set place = 'Elsewhere', version = version + 1 where title = 'Lab' and deleted_at is null"
        );
        Assert.IsType<Outcome<string>.Stale>(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal(2, All().Count);
    }
}
