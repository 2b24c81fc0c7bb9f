using Ical.Net.CalendarComponents;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What is to be done by a day, and materials under headings.</summary>
public sealed class ToBeDoneTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly Series series;

    public ToBeDoneTests()
    {
        series = school.Add();
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Student.Person!.Value.Value}, 'full' from calendars where slug = '{TestSchool.Slug}'"
        );
    }

    public void Dispose() => school.Dispose();

    private string On(string day) => TestSchool.Key(series, $"{day}T09:50").ToString();

    private Outcome<string> Attach(string place, MaterialDetails details) =>
        school.Materials.Attach(
            school.Teacher,
            TestSchool.Slug,
            [new AttachItem(null, place)],
            "https://tides.skerry.example/",
            details
        );

    private IReadOnlyList<Material> All() => school.Database.Read(stores => stores.Materials.Of(series.Calendar));

    private string OnClassPage(Viewer reader) =>
        string.Join(
            "; ",
            school
                .ClassPageQuery.Read(reader, TestSchool.Slug, asVisitor: false)!
                .ToBeDone.Select(one => $"{one.Material.Title} {one.Due.Day:uuuu-MM-dd} {one.Due.Time:HH:mm}".Trim())
        );

    private string OwnOf(Viewer reader) =>
        string.Join(
            "; ",
            school.OwnPageQuery.Read(reader, null)!.Tasks.Select(one => $"{one.Task.Material.Title} {one.IsDone}")
        );

    [Theory]
    [InlineData("", "", false, null)]
    [InlineData("2026-10-21", "", false, null)]
    [InlineData("2026-10-21", "16:00", false, null)]
    [InlineData("", "", true, null)]
    [InlineData("", "16:00", false, "DueDay")]
    [InlineData("21 October", "", false, "DueDay")]
    [InlineData("2026-10-21", "25:00", false, "DueTime")]
    [InlineData("2026-10-21", "", true, "DueDay")]
    [InlineData("1492-10-12", "", false, "DueDay")]
    public void By_when_it_is_to_be_done_is_read(string day, string time, bool withSession, string? wrong)
    {
        var outcome = Attach(On("2026-10-16"), new MaterialDetails("M", Due: new DueInput(day, time, withSession)));
        if (wrong is not null)
        {
            Assert.Equal(wrong, Assert.Single(TestSchool.Refused(outcome)).Field);
            Assert.Empty(All());
            return;
        }

        TestSchool.Done(outcome);
        // What was kept is what the form says again.
        Assert.Equal(new DueInput(day, time, withSession), DueInput.Of(Assert.Single(All()).Due));
    }

    [Fact]
    public void What_is_due_with_a_session_needs_one()
    {
        Assert.Equal(
            "DueDay",
            Assert
                .Single(
                    TestSchool.Refused(
                        Attach(
                            MaterialSpot.Everything,
                            new MaterialDetails("M", Due: new DueInput(DueWithSession: true))
                        )
                    )
                )
                .Field
        );
    }

    [Fact]
    public void It_follows_its_session_and_goes_with_it()
    {
        TestSchool.Done(
            Attach(On("2026-10-16"), new MaterialDetails("Squares", Due: new DueInput(DueWithSession: true)))
        );
        // By a day of its own, and yet for that session alone.
        TestSchool.Done(Attach(On("2026-10-16"), new MaterialDetails("List", Due: new DueInput("2026-10-30"))));
        TestSchool.Done(
            Attach(
                MaterialSpot.Everything,
                new MaterialDetails("Report", PeopleOnly: true, Due: new DueInput("2026-10-15"))
            )
        );
        Assert.Equal("Report 2026-10-15; Squares 2026-10-16 09:50; List 2026-10-30", OnClassPage(school.Student));
        // What is for people only is not told to strangers, even where they may see the class.
        Assert.Equal("Squares 2026-10-16 09:50; List 2026-10-30", OnClassPage(Viewer.Visitor));
        school.Change(
            series,
            "2026-10-16T09:50",
            new SessionInput("move", new SessionTimeInput("2026-10-20", Start: "11:00", End: "11:50"))
        );
        Assert.Equal("Report 2026-10-15; Squares 2026-10-20 11:00; List 2026-10-30", OnClassPage(school.Student));
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        Assert.Equal("Report 2026-10-15", OnClassPage(school.Student));
    }

    // From 16:00 on the day before, once, to who asked for reminders; not to its keeper, and not once it is done, late or another day's.
    [Theory]
    [InlineData("2026-10-15", "", 14, 15, 59, "", 0)]
    [InlineData("2026-10-15", "", 14, 16, 0, "", 1)]
    [InlineData("2026-10-15", "09:00", 14, 16, 0, "", 1)]
    [InlineData("2026-10-15", "09:00", 15, 9, 0, "", 0)] // late
    [InlineData("2026-10-15", "", 14, 16, 0, "done", 0)]
    [InlineData("2026-10-15", "", 14, 16, 0, "not asked", 0)]
    [InlineData("2026-10-15", "", 14, 16, 0, "moved", 0)]
    [InlineData("2026-10-15", "", 14, 16, 0, "no access", 0)]
    public void It_is_told_by_letter_on_the_day_before(
        string day,
        string time,
        int on,
        int hour,
        int minute,
        string but,
        int letters
    )
    {
        TestSchool.Done(Attach(MaterialSpot.Everything, new MaterialDetails("Report", Due: new DueInput(day, time))));
        if (but != "not asked")
            TestSchool.Done(school.ByMail.Remind(school.Student, TestSchool.Slug, "15"));
        TestSchool.Done(school.ByMail.Remind(school.Teacher, TestSchool.Slug, "15"));
        school.Clock.Reset(
            new LocalDateTime(2026, 10, on, hour, minute)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );
        var material = Assert.Single(All());
        if (but == "done")
            TestSchool.Done(school.Marks.Do(school.Student, material.Key, true));
        var due = new DueLetters(school.Database, school.Clock);
        due.Look();
        new DueLetters(school.Database, school.Clock).Look();
        if (but == "moved")
            school.Execute(
                $"update materials set due = '2026-11-20', version = version + 1 where id = {material.Id.Value}"
            );
        if (but == "no access")
            school.Execute("delete from grants where grantee in ('anyone', 'everyone') or level = 'full'");
        school.Post.Send(TestContext.Current.CancellationToken).Waited();
        Assert.Equal(letters, school.Carrier.Letters.Count);
        if (letters == 0)
            return;
        var letter = school.Carrier.Letters[0];
        Assert.StartsWith("Report, by Thu", letter.Subject, StringComparison.Ordinal);
        Assert.Contains("https://tides.skerry.example/", letter.Text, StringComparison.Ordinal);
        Assert.Contains("/by-mail", letter.Text, StringComparison.Ordinal);
    }

    // The day is over at midnight by the school's clock; a time, at that time.
    [Theory]
    [InlineData("2026-10-15", "", 15, 23, 59, true)]
    [InlineData("2026-10-15", "", 16, 0, 0, false)]
    [InlineData("2026-10-15", "16:00", 15, 15, 59, true)]
    [InlineData("2026-10-15", "16:00", 15, 16, 0, false)]
    public void It_stands_until_it_is_late(string day, string time, int on, int hour, int minute, bool stands)
    {
        TestSchool.Done(Attach(MaterialSpot.Everything, new MaterialDetails("Report", Due: new DueInput(day, time))));
        school.Clock.Reset(
            new LocalDateTime(2026, 10, on, hour, minute)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );
        Assert.Equal(stands, OnClassPage(school.Student).Length > 0);
        // On one's own page, what is late stands for two weeks, or until it is done.
        Assert.Equal("Report False", OwnOf(school.Student));
        TestSchool.Done(school.Marks.Do(school.Student, All()[0].Key, true));
        Assert.Equal(stands ? "Report True" : "", OwnOf(school.Student));
        TestSchool.Done(school.Marks.Do(school.Student, All()[0].Key, false));
        school.Clock.AdvanceDays(14);
        Assert.Equal(stands ? "Report False" : "", OwnOf(school.Student));
        school.Clock.AdvanceDays(1);
        Assert.Equal("", OwnOf(school.Student));
    }

    [Fact]
    public void The_mark_is_its_persons_alone()
    {
        TestSchool.Done(
            Attach(MaterialSpot.Everything, new MaterialDetails("Report", Due: new DueInput("2026-10-21")))
        );
        var key = All()[0].Key;
        school.Execute("delete from grants where grantee = 'anyone'");
        var before = school.Rows();
        Assert.IsType<Outcome<string>.NotFound>(school.Marks.Do(school.Helper, key, true));
        Assert.IsType<Outcome<string>.NotAllowed>(school.Marks.Do(Viewer.Visitor, key, true));
        Assert.Equal(before, school.Rows());
        TestSchool.Done(school.Marks.Do(school.Student, key, true));
        TestSchool.Done(school.Marks.Do(school.Student, key, true));
        Assert.Equal("Report True", OwnOf(school.Student));
        // Who looks as them sees what is to be done as if nothing were marked; nor may they mark it.
        var looking = school.Student with { LookedAtBy = school.Coordinator };
        Assert.Equal("Report False", OwnOf(looking));
        Assert.False(school.Marks.Do(looking, key, false).IsDone);
        Assert.Equal("Report True", OwnOf(school.Student));
        Assert.DoesNotContain("MarkDone", school.Rows(), StringComparison.Ordinal);
    }

    [Fact]
    public void A_feed_tells_it_on_its_day_or_as_a_task()
    {
        TestSchool.Done(
            Attach(
                MaterialSpot.Everything,
                new MaterialDetails("Report, drafts", "Two pages.", Due: new DueInput("2026-10-21", "16:00"))
            )
        );
        TestSchool.Done(Attach(On("2026-10-16"), new MaterialDetails("Squares", Due: new DueInput("2026-10-16"))));
        var input = new PublicationInput("F", AccessLevel.Full, true, true, true) { Reminder = "15" };
        var feed = TestSchool.Done(school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Feed, input));
        string Text() => school.ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!.Text!;
        var read = Ical.Net.Calendar.Load(Text())!;
        Assert.Empty(read.Todos);
        var entries = read
            .Events.Where(one => one.Summary!.StartsWith("To be done: ", StringComparison.Ordinal))
            .ToDictionary(one => one.Summary!);
        Assert.Equal(2, entries.Count);
        var report = entries["To be done: Report, drafts"];
        // 16:00 in Halifax in October is 19:00 UTC (IANA tzdb: ADT, -3).
        Assert.Equal(new DateTime(2026, 10, 21, 19, 0, 0, DateTimeKind.Utc), report.Start!.AsUtc);
        Assert.Equal("TRANSPARENT", report.Transparency);
        Assert.Contains("Two pages.", report.Description!, StringComparison.Ordinal);
        // The evening before, at 18:00: 22 hours before 16:00, 6 hours before the day begins.
        Assert.Equal(-22 * 60, Minutes(report));
        var squares = entries["To be done: Squares"];
        Assert.True(squares.IsAllDay);
        Assert.Equal(new DateOnly(2026, 10, 16), squares.Start!.Date);
        Assert.Equal(-6 * 60, Minutes(squares));

        TestSchool.Done(
            school.Outlets.Change(
                school.Teacher,
                TestSchool.Slug,
                feed.Outlet.Id,
                input with
                {
                    Tasks = TaskForm.Tasks,
                },
                feed.Outlet.Version
            )
        );
        read = Ical.Net.Calendar.Load(Text())!;
        Assert.Equal(["Report, drafts", "Squares"], read.Todos.Select(one => one.Summary!).Order());
        Assert.DoesNotContain(read.Events, one => one.Summary!.StartsWith("To be done: ", StringComparison.Ordinal));
        var todo = read.Todos.Single(one => one.Summary == "Report, drafts");
        Assert.Equal(new DateTime(2026, 10, 21, 19, 0, 0, DateTimeKind.Utc), todo.Due!.AsUtc);
        Assert.Equal("NEEDS-ACTION", todo.Status);
        // The other forms of the feed: a task is one, and neither takes anybody's time.
        var body = school.ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!.Body!;
        var js = System.Text.Encoding.UTF8.GetString(body.As(FeedForm.JSCalendar).Plain);
        Assert.Contains("""{"@type":"Task","uid":"due-""", js, StringComparison.Ordinal);
        Assert.Contains("\"due\":\"2026-10-21T19:00:00\"", js, StringComparison.Ordinal);
        TestSchool.Done(
            school.Outlets.Change(school.Teacher, TestSchool.Slug, feed.Outlet.Id, input, feed.Outlet.Version + 1)
        );
        body = school.ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!.Body!;
        var busy = Ical.Net.Calendar.Load(System.Text.Encoding.UTF8.GetString(body.As(FeedForm.Ifb).Plain))!;
        Assert.All(busy.FreeBusy.Single().Entries, taken =>
            Assert.Equal(TimeSpan.FromMinutes(50), taken.Duration!.Value.ToTimeSpanUnspecified())
        );
        // No farther than the feed reaches: to the end of Thursday, 15 October.
        var near = TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                TestSchool.Slug,
                PublicationKind.Feed,
                input with
                {
                    DaysBack = "0",
                    DaysAhead = "2",
                }
            )
        );
        Assert.DoesNotContain(
            "To be done: Report",
            school.ReadFeed.Do(near.Token, TestSchool.Root, _ => false)!.Text!,
            StringComparison.Ordinal
        );
        // No more than the feed shows at all.
        foreach (var less in new[] { input with { Materials = false }, input with { Level = AccessLevel.Outline } })
        {
            var other = TestSchool.Done(
                school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Feed, less)
            );
            Assert.DoesNotContain(
                "To be done",
                school.ReadFeed.Do(other.Token, TestSchool.Root, _ => false)!.Text!,
                StringComparison.Ordinal
            );
        }

        static double Minutes(RecurringComponent part) =>
            Assert.Single(part.Alarms).Trigger!.Duration!.Value.ToTimeSpanUnspecified().TotalMinutes;
    }

    [Fact]
    public void Headings_stand_where_their_first_material_does_and_move_whole()
    {
        foreach (
            var (title, heading) in new[]
            {
                ("a", "Reading"),
                ("b", ""),
                ("c", "To hand in"),
                ("d", "Reading"),
                ("e", "To hand in"),
            }
        )
            TestSchool.Done(Attach(MaterialSpot.Everything, new MaterialDetails(title, Heading: heading)));
        Assert.Equal("b|Reading: a d|To hand in: c e", Said());
        long Id(string title) => All().Single(one => one.Title == title).Id.Value;
        // Two of them change places; the others stay where they stand.
        TestSchool.Done(school.Materials.Order(school.Teacher, TestSchool.Slug, [Id("d"), Id("a")]));
        Assert.Equal("b|Reading: d a|To hand in: c e", Said());
        TestSchool.Done(school.Materials.Order(school.Teacher, TestSchool.Slug, [Id("c"), Id("e"), Id("d"), Id("a")]));
        Assert.Equal("b|To hand in: c e|Reading: d a", Said());

        string Said() =>
            string.Join(
                '|',
                MaterialsOf
                    .ByHeading(school.ClassPageQuery.Read(school.Student, TestSchool.Slug, asVisitor: false)!.Materials)
                    .Select(group =>
                        (group.Heading.Length > 0 ? group.Heading + ": " : "")
                        + string.Join(' ', group.Materials.Select(one => one.Title))
                    )
            );
    }

    [Fact]
    public void A_new_term_takes_no_day_with_it_and_undo_brings_a_day_back()
    {
        TestSchool.Done(
            Attach(
                MaterialSpot.SeriesKey(series.Id),
                new MaterialDetails("Report", Due: new DueInput("2026-10-21"), Heading: "To hand in")
            )
        );
        var material = Assert.Single(All());
        TestSchool.Done(
            school.Materials.Change(
                school.Teacher,
                TestSchool.Slug,
                material.Id.Value,
                null,
                new MaterialDetails("Report"),
                material.Version
            )
        );
        Assert.Equal((null, ""), (All()[0].Due, All()[0].Heading));
        TestSchool.Done(school.GoBack.Undo(school.Teacher, TestSchool.Slug));
        Assert.Equal((material.Due, "To hand in"), (All()[0].Due, All()[0].Heading));
        var preview = TestSchool.Done(school.RollOver.Preview(school.Teacher, new TermId(1), new TermId(2)));
        TestSchool.Done(
            school.RollOver.Do(school.Teacher, new TermId(1), new TermId(2), [series.Id], true, preview.School.Revision)
        );
        Assert.Equal([(material.Due, "To hand in"), (null, "To hand in")], All().Select(one => (one.Due, one.Heading)));
    }
}
