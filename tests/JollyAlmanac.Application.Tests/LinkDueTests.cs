using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What is due on a link: told by letter and in its keeper's own feed; and when those who work doors are reminded.</summary>
public sealed class LinkDueTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly Series series;

    public LinkDueTests() => series = school.Add();

    public void Dispose() => school.Dispose();

    private JoinLink Link => school.Database.Read(stores => stores.JoinLinks.Get(series.JoinLink!.Value));

    private void Reaches(LinkReachInput reach) =>
        TestSchool.Done(
            school.Links.Change(school.Teacher, Link.Code, LinkInput.Of(Link) with { Reach = reach }).Waited()
        );

    // The school's clock stands on Tue 13 Oct 2026; the class meets on Mondays, Wednesdays and Fridays to 18 December.
    private void At(int month, int day, int hour, int minute) =>
        school.Clock.Reset(
            new LocalDateTime(2026, month, day, hour, minute)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );

    private List<string> Sent()
    {
        new LinkLetters(school.Database, school.Clock).Look();
        school.Post.Send(TestContext.Current.CancellationToken).Waited();
        return [.. school.Carrier.Letters.Select(letter => $"{letter.ToAddress}: {letter.Subject}")];
    }

    [Theory]
    [InlineData("until", "2026-10-20", "", 13, true)]
    [InlineData("until", "2026-10-20", "", 12, false)] // eight days before
    [InlineData("until", "2026-10-20", "", 20, true)]
    [InlineData("until", "2026-10-20", "", 21, false)] // over: no letter helps any more
    [InlineData("until", "2026-12-18", "", 13, false)]
    [InlineData("sessions", "", "3", 13, true)] // 14, 16 and 19 October
    [InlineData("sessions", "", "4", 13, false)] // and 21
    [InlineData("", "", "", 13, false)]
    public void Its_owner_is_written_to_once_a_week_before_its_last_day(
        string reach,
        string day,
        string count,
        int on,
        bool written
    )
    {
        At(10, 13, 9, 0);
        Reaches(new LinkReachInput(reach, day, count));
        At(10, on, 9, 0);
        var sent = Sent();
        Assert.Equal(written, sent.Count == 1);
        // Once for one end, however often it is looked.
        Assert.Equal(sent, Sent());
        if (!written)
            return;
        Assert.Contains("Tidepool room runs out on", sent[0], StringComparison.Ordinal);
        var letter = school.Carrier.Letters[0];
        Assert.Contains($"join-links/{Link.Code}/edit", letter.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("kelp", letter.Text, StringComparison.Ordinal);
    }

    // The test link's room was put there on 13 October with a passcode of its own.
    [Theory]
    [InlineData("14", 20, true)] // to 27 October: a week before
    [InlineData("14", 19, false)]
    [InlineData("14", 28, false)] // too late for a letter; it is a finding
    [InlineData("400", 20, false)]
    [InlineData("", 20, false)]
    public void Its_owner_is_told_when_the_passcode_is_as_old_as_the_school_allows(string days, int on, bool written)
    {
        At(10, 13, 9, 0);
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    Link.Code,
                    LinkInput.Of(Link) with
                    {
                        Room = new RoomInput("https://rooms.skerry.example/9", Passcode: "kelp-22"),
                    }
                )
                .Waited()
        );
        TestSchool.Done(
            school.SchoolDefaults.Do(
                school.Coordinator,
                Schools.SchoolDefaultsInput.Of(TestSchool.Done(school.SchoolDefaults.Open(school.Coordinator))) with
                {
                    PasscodeDays = days,
                }
            )
        );
        At(10, on, 9, 0);
        var sent = Sent();
        Assert.Equal(written ? 1 : 0, sent.Count);
        Assert.Equal(sent, Sent());
        if (written)
        {
            Assert.Contains("Change the passcode of Tidepool room by", sent[0], StringComparison.Ordinal);
            Assert.DoesNotContain("kelp", school.Carrier.Letters[0].Text, StringComparison.Ordinal);
        }

        var found = school
            .Switchboard.At(school.Teacher, null, null)!
            .Findings.Count(one => one.Finding.Kind == Core.Findings.FindingKind.OldPasscode);
        Assert.Equal(days == "14" ? 1 : 0, found);
        var feed = school
            .ReadFeed.Do(
                school.Secrets.TokenOf(TestSchool.Done(school.OwnFeeds.Set(school.Teacher, "10", 0))),
                TestSchool.Root,
                _ => false
            )!
            .Text!;
        Assert.Equal(
            days == "14" && on < 28,
            feed.Contains("SUMMARY:Change the passcode of Tidepool room", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void What_was_mended_before_the_letter_goes_needs_none()
    {
        At(10, 13, 9, 0);
        Reaches(new LinkReachInput("until", "2026-10-20"));
        new LinkLetters(school.Database, school.Clock).Look();
        Reaches(new LinkReachInput());
        school.Post.Send(TestContext.Current.CancellationToken).Waited();
        Assert.Empty(school.Carrier.Letters);
    }

    [Fact]
    public void It_stands_in_the_own_feed_of_who_keeps_it_and_of_nobody_else()
    {
        Reaches(new LinkReachInput("until", "2026-10-20"));
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Student.Person!.Value.Value}, 'full' from calendars where slug = '{TestSchool.Slug}'"
        );
        string Feed(Core.Access.Viewer who) =>
            school
                .ReadFeed.Do(
                    school.Secrets.TokenOf(TestSchool.Done(school.OwnFeeds.Set(who, "10", 0))),
                    TestSchool.Root,
                    _ => false
                )!
                .Text!;
        var (teacher, student) = (Feed(school.Teacher), Feed(school.Student));
        var read = Ical.Net.Calendar.Load(teacher)!;
        var day = read.Events.Single(one => one.Summary!.Contains("runs out", StringComparison.Ordinal));
        Assert.Equal(new DateOnly(2026, 10, 20), day.Start!.Date);
        Assert.DoesNotContain("runs out", student, StringComparison.Ordinal);
        // Ten minutes before the door opens, which is ten minutes before the start; the class ten minutes before the start.
        Assert.Contains("TRIGGER:-PT20M", teacher, StringComparison.Ordinal);
        Assert.Contains("TRIGGER:-PT10M", student, StringComparison.Ordinal);
    }

    [Fact]
    public void Who_works_the_door_is_reminded_before_it_opens()
    {
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Student.Person!.Value.Value}, 'full' from calendars where slug = '{TestSchool.Slug}'"
        );
        TestSchool.Done(school.ByMail.Remind(school.Teacher, TestSchool.Slug, "15"));
        TestSchool.Done(school.ByMail.Remind(school.Student, TestSchool.Slug, "15"));
        List<string> To(int hour, int minute)
        {
            At(10, 14, hour, minute);
            school.Reminders.Look();
            school.Post.Send(TestContext.Current.CancellationToken).Waited();
            return [.. school.Carrier.Letters.Select(letter => letter.ToName)];
        }

        // 9:50, and its door at 9:40.
        Assert.Empty(To(9, 24));
        var first = To(9, 25);
        Assert.Single(first);
        Assert.Equal(first, To(9, 34));
        Assert.Equal(2, To(9, 35).Count);
    }
}
