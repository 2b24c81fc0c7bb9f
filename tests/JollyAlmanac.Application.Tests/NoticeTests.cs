using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Notices: when they are up, who sees them, who has seen them, and that nothing in them leads past the door.</summary>
public sealed class NoticeTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly Series series;

    public NoticeTests()
    {
        series = school.Add();
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Student.Person!.Value),
                AccessLevel.Full
            )
        );
    }

    public void Dispose() => school.Dispose();

    private Notice Put(NoticeInput input, NoticeId? id = null) =>
        TestSchool.Done(school.Notices.Put(school.Teacher, Slug, id, input));

    private IReadOnlyList<ShownNotice> Seen(Viewer who) =>
        school.ClassPageQuery.Read(who, Slug, asVisitor: false)?.Notices ?? [];

    private NoticeItem Kept() => TestSchool.Done(school.Notices.View(school.Teacher, Slug)).Notices[0];

    private void GoTo(string local) =>
        school.Clock.Reset(
            NodaTime
                .Text.LocalDateTimePattern.GeneralIso.Parse(local)
                .Value.InZoneLeniently(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );

    /// <summary>By the school's clock: up from the first day's beginning to the last day's end, or to the end of its session.</summary>
    [Theory]
    [InlineData("2026-10-15T23:59:59", false, false)]
    [InlineData("2026-10-16T00:00:00", false, true)]
    [InlineData("2026-10-16T10:39:59", true, true)]
    [InlineData("2026-10-16T10:40:00", true, false)]
    [InlineData("2026-10-16T10:40:00", false, true)]
    [InlineData("2026-10-17T23:59:59", false, true)]
    [InlineData("2026-10-18T00:00:00", false, false)]
    public void It_goes_up_and_comes_down_by_itself(string at, bool endsWith, bool isUp)
    {
        Put(
            new NoticeInput(
                "Bring boots.",
                "2026-10-16",
                "2026-10-17",
                TestSchool.Key(series, "2026-10-16T09:50").ToString(),
                endsWith
            )
        );
        GoTo(at);
        Assert.Equal(isUp, Seen(school.Student).Count == 1);
        Assert.Equal(isUp, Seen(Viewer.Visitor).Count == 1);
        Assert.Equal(
            isUp ? "up"
                : at.StartsWith("2026-10-15", StringComparison.Ordinal) ? "ahead"
                : "over",
            Kept().State
        );
    }

    [Fact]
    public void Taken_down_before_it_was_up_it_is_ahead_no_more()
    {
        var notice = Put(new NoticeInput("Bring boots.", "2026-10-16", "2026-10-17"));
        Assert.Single(TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Notices);
        TestSchool.Done(school.Notices.SetDown(school.Teacher, Slug, notice.Id, true, notice.Version));
        Assert.Empty(TestSchool.Done(school.Outlets.Of(school.Teacher, Slug)).Notices);
    }

    [Fact]
    public void A_moved_session_takes_its_notice_along()
    {
        Put(
            new NoticeInput(
                "Bring boots.",
                "2026-10-14",
                "2026-10-30",
                TestSchool.Key(series, "2026-10-16T09:50").ToString(),
                EndsWithSession: true
            )
        );
        school.Change(series, "2026-10-16T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20", "4")));
        GoTo("2026-10-20T11:44:00");
        Assert.Equal(new LocalDate(2026, 10, 20), Assert.Single(Seen(school.Student)).About!.Session.Day);
        GoTo("2026-10-20T11:45:00");
        Assert.Empty(Seen(school.Student));
    }

    /// <summary>The short address where it was chosen and may be seen; never what is behind it, wherever the notice goes.</summary>
    [Fact]
    public async Task Nothing_in_it_leads_past_the_door()
    {
        Put(
            new NoticeInput(
                "Come in.",
                "",
                "2026-10-20",
                TestSchool.Key(series, "2026-10-16T09:50").ToString(),
                ShowsJoin: true,
                ByMail: true
            )
        );
        Assert.NotNull(Assert.Single(Seen(school.Student)).Join);
        await school.Post.Send();
        var letter = Assert.Single(school.Carrier.Letters);
        Assert.Contains("https://almanac.example/in/", letter.Text);
        Assert.DoesNotContain("rooms.skerry.example", letter.Text);
        Assert.DoesNotContain("kelp", letter.Text);
        // Outline sees no notice at all; the session of a private entry is not told.
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.Anyone(), AccessLevel.Outline));
        Assert.Empty(Seen(Viewer.Visitor));
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    series.Id,
                    TestSchool.FormOf(school.Now(series)) with
                    {
                        IsPrivate = true,
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        var shown = Assert.Single(Seen(school.Student));
        Assert.Equal((null, null), (shown.About, shown.Join));
    }

    [Fact]
    public async Task Who_has_seen_it_is_known_and_the_others_are_reminded_once_a_day()
    {
        var notice = Put(new NoticeInput("Bring boots.", "", "2026-10-20"));
        Assert.Equal(["Teodor Quill"], Kept().Readers.Select(reader => reader.Name));
        Assert.Equal(0, Kept().Seen);
        // A coordinator who looks as the student has not seen it for them; neither has a visitor.
        school.Notices.Saw(school.Student with { LookedAtBy = school.Coordinator }, Seen(school.Student));
        school.Notices.Saw(Viewer.Visitor, Seen(Viewer.Visitor));
        Assert.Equal(0, Kept().Seen);
        Assert.Equal(1, TestSchool.Done(school.Notices.Remind(school.Teacher, Slug, notice.Id)));
        Assert.Single(TestSchool.Refused(school.Notices.Remind(school.Teacher, Slug, notice.Id)));
        await school.Post.Send();
        var link = school
            .Carrier.Letters.Single()
            .Text.Split('\n')
            .Single(line => line.Contains("/n/", StringComparison.Ordinal));
        var parts = link[(link.IndexOf("/n/", StringComparison.Ordinal) + 3)..].Split('/');
        var (id, person, token) = (long.Parse(parts[0], null), long.Parse(parts[1], null), parts[2]);
        // The link opens the notice and does not count by itself; another's person or notice is no way in.
        Assert.False(school.Notices.FromLetter(id, person, token)!.Value.HasSeen);
        Assert.Null(school.Notices.FromLetter(id, school.Helper.Person!.Value.Value, token));
        Assert.Null(school.Notices.FromLetter(id + 1, person, token));
        Assert.Null(school.Notices.SawLetter(id, person, new string('0', token.Length)));
        Assert.Equal(Slug, school.Notices.SawLetter(id, person, token));
        Assert.True(Assert.Single(Kept().Readers).ByMail);
        school.Clock.Advance(Duration.FromHours(21));
        Assert.Contains(
            "has no e-mail address",
            Assert.Single(TestSchool.Refused(school.Notices.Remind(school.Teacher, Slug, notice.Id))).Message
        );
        // Once their access is gone, so is the way in by the letter.
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.Anyone(), AccessLevel.Outline));
        TestSchool.Done(school.Share.End(school.Teacher, Slug, $"person {school.Student.Person!.Value.Value}"));
        Assert.Null(school.Notices.FromLetter(id, person, token));
    }

    [Fact]
    public async Task It_is_for_some_alone_and_a_letter_goes_only_while_it_is_up()
    {
        Put(new NoticeInput("For Teodor.", "", "2026-10-20", OnlyOthers: "teodor@skerry.example", ByMail: true));
        Assert.Empty(Seen(Viewer.Visitor));
        Assert.Single(Seen(school.Student));
        // A keeper sees the class page as the class does: who it is not for sees nothing.
        Assert.Empty(Seen(school.Teacher));
        var down = TestSchool.Done(school.Notices.SetDown(school.Teacher, Slug, Kept().Notice.Id, true, 1));
        Assert.Empty(Seen(school.Student));
        Assert.Contains(
            "It is not up",
            Assert.Single(TestSchool.Refused(school.Notices.Remind(school.Teacher, Slug, down.Id))).Message,
            StringComparison.Ordinal
        );
        await school.Post.Send();
        Assert.Empty(school.Carrier.Letters);
        Assert.IsType<Outcome<Notice>.Stale>(school.Notices.SetDown(school.Teacher, Slug, down.Id, false, 1));
        TestSchool.Done(school.Notices.SetDown(school.Teacher, Slug, down.Id, false, 2));
        Assert.Single(Seen(school.Student));
    }

    /// <summary>What cannot be is told beside its field, and changes nothing.</summary>
    public static TheoryData<NoticeInput, string> Bad =>
        new()
        {
            { new NoticeInput("", "", "2026-10-20"), "Text" },
            { new NoticeInput(new string('x', Notice.Longest + 1), "", "2026-10-20"), "Text" },
            { new NoticeInput("a", "2026-10-20", "2026-10-19"), "Last" },
            { new NoticeInput("a", "2026-10-01", "2026-10-13"), "Last" },
            { new NoticeInput("a", "2026-10-14", "2028-10-14"), "Last" },
            { new NoticeInput("a", "soon", "2026-10-20"), "First" },
            { new NoticeInput("a", "", "2026-10-20", "999.2026-10-16T09:50"), "Session" },
            { new NoticeInput("a", "", "2026-10-20", EndsWithSession: true), "Session" },
            { new NoticeInput("a", "", "2026-10-20", Material: "999"), "Material" },
            { new NoticeInput("a", "", "2026-10-20", Only: ["g999"]), "Only" },
        };

    [Theory]
    [MemberData(nameof(Bad))]
    public void What_cannot_be_is_told(NoticeInput input, string field)
    {
        Assert.Equal(
            field,
            Assert.Single(TestSchool.Refused(school.Notices.Put(school.Teacher, Slug, null, input))).Field
        );
        Assert.Empty(TestSchool.Done(school.Notices.View(school.Teacher, Slug)).Notices);
    }

    [Fact]
    public void A_material_in_it_is_there_for_those_alone_who_may_open_it()
    {
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    series.Id,
                    TestSchool.FormOf(school.Now(series)),
                    new MaterialInput(null, "Key", "https://files.skerry.example/key", PeopleOnly: true)
                )
                .Waited()
        );
        var material = school.Database.Read(stores => stores.Materials.Of(series.Calendar)).Single();
        Put(
            new NoticeInput(
                "Here is the key.",
                "",
                "2026-10-20",
                Material: material.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)
            )
        );
        Assert.Equal("Key", Assert.Single(Seen(school.Student)).Material?.Title);
        Assert.Null(Assert.Single(Seen(Viewer.Visitor)).Material);
    }
}
