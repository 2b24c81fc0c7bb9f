using JollyAlmanac.Application.Bulk;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>One thing is done to several calendars: told first, done where it may be, taken back in one go.</summary>
public sealed class BulkChangeTests : IDisposable
{
    private static readonly string[] Titles = ["Rockpools 8", "Rockpools 9", "Rockpools 10"];

    private static readonly string[] Told =
    [
        "select group_concat(id || ' ' || coalesce(department_id, '') || ' ' || (put_away_at is null) || (deleted_at is null), '; ') from (select * from calendars order by id)",
        "select group_concat(calendar_id || ' ' || coalesce(person_id, '') || ' ' || grantee || ' ' || level || ' ' || coalesce(until, ''), '; ') from (select * from grants order by calendar_id, grantee, person_id)",
        "select group_concat(id || ' ' || entry, '; ') from (select * from join_links where withdrawn_at is null order by id)",
        "select count(*) from join_hosts",
        "select group_concat(id || ' ' || coalesce(join_link_id, '-'), '; ') from (select * from series order by id)",
        "select count(*) from join_links where withdrawn_at is null",
        "select group_concat(calendar_id || kind || (paused_at is null), '; ') from (select * from outlets where revoked_at is null order by id)",
        "select count(*) from notices where withdrawn_at is null",
    ];

    private readonly TestSchool school = new();
    private readonly Calendar[] calendars;
    private readonly Calendar office;
    private readonly Calendar department;

    public BulkChangeTests()
    {
        calendars = [.. Titles.Select(title => Made(school.Teacher, title))];
        office = Made(school.Coordinator, "Office");
        department = Made(school.Coordinator, "Shore sciences", CalendarKind.Department);
        foreach (var calendar in calendars)
            TestSchool.Done(
                school
                    .Links.Add(
                        school.Teacher,
                        calendar.Slug,
                        new LinkInput(
                            calendar.Title,
                            Room: new RoomInput($"https://rooms.skerry.example/{calendar.Slug}"),
                            Entry: new EntryRuleInput("allday")
                        )
                    )
                    .Waited()
            );
    }

    public void Dispose() => school.Dispose();

    private Calendar Made(Viewer who, string title, CalendarKind kind = CalendarKind.Class) =>
        TestSchool.Done(
            school.Calendars.Create(
                who,
                school.Calendars.NewForm(who) with
                {
                    Title = title,
                    Kind = kind,
                    OpenTo = kind == CalendarKind.Class ? OpenTo.Anyone : OpenTo.Everyone,
                    CoordinatorsManage = false,
                }
            )
        );

    private BulkInput Of(BulkAction action, params Calendar[] of) =>
        new(action, string.Join('\n', (of.Length > 0 ? of : calendars).Select(one => one.Slug.Value)));

    private Outcome<BulkReview> Did(Viewer who, BulkInput input) =>
        school.Bulk.Review(who, input) is Outcome<BulkReview>.Done { Value: var review }
            ? school.Bulk.Do(who, input with { Seen = review.Seen, Count = $"{review.Changed}" }).Waited()
            : school.Bulk.Review(who, input);

    private Outcome<BulkReview> Do(BulkInput input) => school.Bulk.Do(school.Teacher, input).Waited();

    // How the calendars stand, but for the versions that every change raises.
    private string State() => string.Join('\n', Told.Select(sql => $"{school.Execute(sql)}"));

    public static TheoryData<string, int> Actions() =>
        new()
        {
            { "open", 3 },
            { "give", 3 },
            { "co-teacher", 3 },
            { "end", 2 },
            { "rooms", 2 },
            { "rule", 3 },
            { "feed", 3 },
            { "embed", 3 },
            { "pause", 1 },
            { "resume", 1 },
            { "notice", 3 },
            { "department", 3 },
            { "archive", 3 },
            { "delete", 3 },
        };

    private BulkInput InputOf(string action)
    {
        switch (action)
        {
            case "end":
                foreach (var calendar in calendars[..2])
                    TestSchool.Done(
                        school.Share.Give(
                            school.Teacher,
                            calendar.Slug,
                            new GiveInput("eilidh@skerry.example", Share.CoHost)
                        )
                    );
                break;
            case "rooms":
                foreach (var calendar in calendars[1..])
                {
                    school.Execute($"update join_links set withdrawn_at = 1 where calendar_id = {calendar.Id.Value}");
                    TestSchool.Done(
                        school
                            .Compose.Save(
                                school.Teacher,
                                calendar.Slug,
                                null,
                                TestSchool.Good with
                                {
                                    Link = "",
                                },
                                MaterialInput.None
                            )
                            .Waited()
                    );
                }

                break;
            case "pause" or "resume":
                var made = TestSchool.Done(
                    school.Outlets.Make(
                        school.Teacher,
                        calendars[1].Slug,
                        PublicationKind.Feed,
                        new PublicationInput("Families", AccessLevel.Full, true, false, false)
                    )
                );
                if (action == "resume")
                    TestSchool.Done(school.Outlets.Pause(school.Teacher, calendars[1].Slug, made.Outlet.Id, true, 1));
                break;
        }

        return action switch
        {
            "open" => Of(BulkAction.Open) with { OpenTo = OpenTo.Named },
            "give" => Of(BulkAction.Give) with
            {
                Who = "eilidh@skerry.example",
                Level = "editor",
                Until = "2026-12-18",
            },
            "co-teacher" => Of(BulkAction.Give) with { Who = "eilidh@skerry.example", Level = Share.CoHost },
            "end" => Of(BulkAction.End) with { Who = "eilidh@skerry.example" },
            "rooms" => Of(BulkAction.Rooms),
            "rule" => Of(BulkAction.Rule) with { Entry = new EntryRuleInput("around", "3", "4") },
            "feed" => Of(BulkAction.Feed) with { Offered = true },
            "embed" => Of(BulkAction.Embed) with { Sites = "https://www.skerry.example", Shape = EmbedShape.Week },
            "pause" => Of(BulkAction.Pause),
            "resume" => Of(BulkAction.Resume),
            "notice" => Of(BulkAction.Notice) with { Text = "Bring boots.", Last = "2026-10-20" },
            "department" => Of(BulkAction.Department) with { Department = department.Slug.Value },
            "archive" => Of(BulkAction.Archive),
            _ => Of(BulkAction.Delete),
        };
    }

    [Theory]
    [MemberData(nameof(Actions))]
    public void It_is_told_first_done_in_one_go_and_taken_back(string action, int changes)
    {
        var input = InputOf(action);
        var before = State();
        var rows = school.Rows();
        var review = TestSchool.Done(school.Bulk.Review(school.Teacher, input));
        Assert.Equal((changes, 3), (review.Changed, review.Lines.Count));
        Assert.Equal((before, rows), (State(), school.Rows()));
        var done = TestSchool.Done(Did(school.Teacher, input));
        Assert.Equal(review.Lines, done.Lines);
        var after = State();
        Assert.NotEqual(before, after);
        // Once more there is nothing left to do, but for a notice, which is another one, and for what is not there any more.
        if (action is not "notice")
            Assert.Equal(0, TestSchool.Done(school.Bulk.Review(school.Teacher, input)).Changed);
        Assert.Equal(done.Summary, TestSchool.Done(school.Bulk.Choices(school.Teacher)).Last);
        // It is nobody else's to take back.
        TestSchool.Refused(school.Bulk.Undo(school.Coordinator));
        Assert.StartsWith(
            Wording.Capital(Wording.Count(changes, "calendar", "calendars")),
            TestSchool.Done(school.Bulk.Undo(school.Teacher)),
            StringComparison.Ordinal
        );
        Assert.Equal(before, State());
        TestSchool.Refused(school.Bulk.Undo(school.Teacher));
    }

    [Fact]
    public void What_is_not_theirs_is_left_and_told()
    {
        var hidden = Made(school.Coordinator, "Heads");
        TestSchool.Done(
            school.Calendars.Change(
                school.Coordinator,
                hidden.Slug,
                school.Calendars.Form(school.Coordinator, hidden.Slug)! with
                {
                    OpenTo = OpenTo.Named,
                }
            )
        );
        var input = Of(BulkAction.Archive, [calendars[0], office, hidden]);
        input = input with { Slugs = input.Slugs + "\nnothing-here" };
        var done = TestSchool.Done(Did(school.Teacher, input));
        Assert.Equal([true, false, false, false], done.Lines.Select(line => line.IsChanged));
        // What they may not know of has no name here, and is told as what is not there.
        Assert.Equal(
            ["Rockpools 8", "Office", hidden.Slug.Value, "nothing-here"],
            done.Lines.Select(line => line.Title)
        );
        Assert.Equal(done.Lines[2].Result, done.Lines[3].Result);
        Assert.Equal(
            0L,
            school.Execute("select count(*) from calendars where put_away_at is not null and title <> 'Rockpools 8'")
        );
    }

    [Fact]
    public void Nothing_is_done_but_what_was_seen()
    {
        var input = Of(BulkAction.Open) with { OpenTo = OpenTo.Everyone };
        var seen = TestSchool.Done(school.Bulk.Review(school.Teacher, input)).Seen;
        TestSchool.Done(Do(input with { Seen = seen }));
        var before = State();
        Assert.IsType<Outcome<BulkReview>.Stale>(Do(input with { Seen = seen }));
        Assert.IsType<Outcome<BulkReview>.Stale>(Do(Of(BulkAction.Archive) with { Seen = "" }));
        Assert.Equal(before, State());
    }

    [Fact]
    public void Deleting_asks_how_many()
    {
        var input = Of(BulkAction.Delete);
        input = input with { Seen = TestSchool.Done(school.Bulk.Review(school.Teacher, input)).Seen };
        foreach (var count in new[] { null, "", "2", "three", "33" })
            Assert.Equal("Count", Assert.Single(TestSchool.Refused(Do(input with { Count = count }))).Field);
        TestSchool.Done(Do(input with { Count = " 3 " }));
    }

    [Fact]
    public void What_somebody_changed_since_stays()
    {
        TestSchool.Done(Did(school.Teacher, InputOf("give")));
        school.Clock.Advance(Duration.FromMinutes(1));
        TestSchool.Done(
            school.Share.Give(school.Teacher, calendars[2].Slug, new GiveInput("eilidh@skerry.example", "contributor"))
        );
        var said = TestSchool.Done(school.Bulk.Undo(school.Teacher));
        Assert.StartsWith("2 calendars are as before. 1 was changed", said, StringComparison.Ordinal);
        Assert.Equal(
            "contributor",
            school.Execute(
                "select group_concat(level) from grants where person_id = (select id from people where email = 'eilidh@skerry.example') and calendar_id > 1"
            )
        );
    }

    // Twelve letters of one kind are eleven too many.
    [Fact]
    public void Who_is_given_several_hears_of_it_once_and_of_a_notice_once()
    {
        TestSchool.Done(
            Did(school.Teacher, Of(BulkAction.Give) with { Who = "teodor@skerry.example", Level = "full" })
        );
        Assert.Equal(1L, school.Execute("select count(*) from letters"));
        school.Post.Send(default).Waited();
        var letter = Assert.Single(school.Carrier.Letters);
        Assert.Contains("Rockpools 8 among them", letter.Text, StringComparison.Ordinal);
        TestSchool.Done(Did(school.Teacher, InputOf("notice") with { ByMail = true }));
        Assert.Equal(
            1L,
            school.Execute(
                "select count(*) from letters where kind = 'notice' and person_id = (select id from people where email = 'teodor@skerry.example')"
            )
        );
    }

    public static TheoryData<string, BulkInput> Wrong() =>
        new()
        {
            { "Slugs", new BulkInput(BulkAction.Archive, " \n ") },
            {
                "Slugs",
                new BulkInput(BulkAction.Archive, string.Join(' ', Enumerable.Range(0, 501).Select(at => $"a{at}")))
            },
            { "Action", new BulkInput((BulkAction)99, "rockpools-8") },
            {
                "OpenTo",
                new BulkInput(BulkAction.Open, "rockpools-8") { OpenTo = (OpenTo)9 }
            },
            {
                "Who",
                new BulkInput(BulkAction.Give, "rockpools-8 rockpools-9")
                {
                    Who = "nobody@skerry.example",
                    Level = "editor",
                }
            },
            {
                "Who",
                new BulkInput(BulkAction.End, "rockpools-8 rockpools-9") { Who = "" }
            },
            {
                "Level",
                new BulkInput(BulkAction.Give, "rockpools-8") { Who = "eilidh@skerry.example", Level = "emperor" }
            },
            {
                "Until",
                new BulkInput(BulkAction.Give, "rockpools-8")
                {
                    Who = "eilidh@skerry.example",
                    Level = "editor",
                    Until = "2020-01-01",
                }
            },
            {
                "Lead",
                new BulkInput(BulkAction.Rule, "rockpools-8") { Entry = new EntryRuleInput("around", "x") }
            },
            {
                "Sites",
                new BulkInput(BulkAction.Embed, "rockpools-8 rockpools-9") { Sites = "ftp://www.skerry.example" }
            },
            {
                "Text",
                new BulkInput(BulkAction.Notice, "rockpools-8 rockpools-9") { Last = "2026-10-20" }
            },
            {
                "Department",
                new BulkInput(BulkAction.Department, "rockpools-8") { Department = "office" }
            },
        };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void What_is_wrong_in_the_form_is_told_at_its_field(string field, BulkInput input)
    {
        var rows = school.Rows();
        Assert.Contains(TestSchool.Refused(school.Bulk.Review(school.Teacher, input)), problem =>
            problem.Field == field
        );
        Assert.Contains(TestSchool.Refused(Do(input)), problem => problem.Field == field);
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void A_line_that_cannot_be_read_is_not_taken_back_and_hides_no_page()
    {
        TestSchool.Done(Did(school.Teacher, InputOf("open")));
        foreach (var spoiled in new[] { "{", "null", "[{\"$type\":\"nothing\"}]", "[{\"Calendar\":1}]" })
        {
            school.Execute($"update history set before = '{spoiled}' where act = 'BulkChange'");
            Assert.Null(TestSchool.Done(school.Bulk.Choices(school.Teacher)).Last);
            TestSchool.Refused(school.Bulk.Undo(school.Teacher));
        }
    }

    // A link of its own stays as open as it was; who closes a class is told.
    [Theory]
    [InlineData(OpenTo.Everyone, "open to everyone of the school; 1 join link lets anyone in who has the address")]
    [InlineData(OpenTo.Named, "open to who is named alone; 1 join link lets anyone in who has the address")]
    [InlineData(OpenTo.Anyone, "open to anyone already")]
    public void Who_may_open_them_is_told_with_the_links_that_stay_open(OpenTo openTo, string said) =>
        Assert.Equal(
            [said],
            TestSchool
                .Done(school.Bulk.Review(school.Teacher, Of(BulkAction.Open, calendars[0]) with { OpenTo = openTo }))
                .Lines.Select(line => line.Result)
        );

    [Fact]
    public void Classes_alone_go_to_a_department_and_outsideof_it()
    {
        TestSchool.Done(
            school.Share.Give(school.Coordinator, department.Slug, new GiveInput("orla@skerry.example", "manager"))
        );
        var input = Of(BulkAction.Department, [.. calendars, department]) with { Department = department.Slug.Value };
        var there = TestSchool.Done(Did(school.Teacher, input));
        Assert.Equal("moved to Shore sciences: 3 calendars at once", there.Summary);
        Assert.Equal("it is no class: only classes belong to a department", there.Lines[3].Result);
        school.Clock.Advance(Duration.FromMinutes(1));
        var outside = TestSchool.Done(Did(school.Teacher, Of(BulkAction.Department)));
        Assert.Equal("took out of their departments 3 calendars at once", outside.Summary);
        TestSchool.Done(school.Bulk.Undo(school.Teacher));
        Assert.Equal(3L, school.Execute($"select count(*) from calendars where department_id = {department.Id.Value}"));
    }

    // One that is paused, shows less or is not offered is another one; one of that kind is enough.
    [Fact]
    public void A_feed_reminds_as_the_school_has_it_and_is_made_once()
    {
        var input = Of(BulkAction.Feed, calendars[0]);
        TestSchool.Done(Did(school.Teacher, input));
        foreach (
            var (another, changes) in new[]
            {
                (input, 0),
                (input with { Offered = true }, 1),
                (input with { Shows = AccessLevel.Busy }, 1),
                (Of(BulkAction.Embed, calendars[0]) with { Sites = "https://www.skerry.example" }, 1),
            }
        )
            Assert.Equal(changes, TestSchool.Done(school.Bulk.Review(school.Teacher, another)).Changed);
        var made = Assert.Single(school.Database.Read(stores => stores.Publications.Of(calendars[0].Id)));
        Assert.Equal((15, AccessLevel.Outline, false), (made.Options.Reminder, made.Level, made.IsOffered));
        TestSchool.Done(
            Did(school.Teacher, Of(BulkAction.Embed, calendars[0]) with { Sites = "https://www.skerry.example" })
        );
        Assert.Null(school.Database.Read(stores => stores.Publications.Of(calendars[0].Id))[1].Options.Reminder);
        TestSchool.Done(Did(school.Teacher, Of(BulkAction.Pause, calendars[0])));
        Assert.Equal(1, TestSchool.Done(school.Bulk.Review(school.Teacher, input)).Changed);
    }

    // Each was changed by hand since, by another act than the one that is taken back.
    [Theory]
    [InlineData("open", "update grants set level = 'outline' where grantee = 'everyone'")]
    [InlineData("rule", "update join_links set entry = 'always'")]
    [InlineData("feed", "update outlets set version = 2")]
    [InlineData("pause", "update outlets set version = version + 1")]
    [InlineData("notice", "update notices set version = 2")]
    [InlineData("department", "update calendars set department_id = null")]
    [InlineData("archive", "update calendars set version = version + 1")]
    [InlineData("rooms", "update join_links set version = version + 1")]
    [InlineData("give", "update people set ended_at = 1 where email = 'eilidh@skerry.example'")]
    public void What_changed_since_is_not_taken_back(string action, string since)
    {
        var input = InputOf(action);
        if (action == "open")
            input = input with { OpenTo = OpenTo.Everyone };
        TestSchool.Done(Did(school.Teacher, input));
        school.Execute(since);
        var before = State();
        Assert.StartsWith(
            "0 calendars are as before.",
            TestSchool.Done(school.Bulk.Undo(school.Teacher)),
            StringComparison.Ordinal
        );
        Assert.Equal(before, State());
    }

    // What is told to stay as it is has no line of history and is not known as changed.
    [Theory]
    [InlineData("eilidh@skerry.example", "editor", "2026-12-18")]
    [InlineData("eilidh@skerry.example", "cohost", "")]
    [InlineData("teodor@skerry.example", "full", "")]
    public void Who_has_it_already_is_left_as_they_are(string who, string level, string until)
    {
        var give = new GiveInput(who, level, until);
        TestSchool.Done(school.Share.Give(school.Teacher, calendars[0].Slug, give));
        object? Stands() =>
            school.Execute(
                $"select revision || ' ' || (select count(*) from history where calendar_id = {calendars[0].Id.Value}) from calendars where id = {calendars[0].Id.Value}"
            );
        var before = Stands();
        var done = TestSchool.Done(
            Did(school.Teacher, Of(BulkAction.Give) with { Who = who, Level = level, Until = until })
        );
        Assert.Equal([false, true, true], done.Lines.Select(line => line.IsChanged));
        Assert.Equal(before, Stands());
    }

    // Nobody manages it but who is to lose it.
    [Fact]
    public void A_calendar_is_never_left_withoutsideits_manager()
    {
        var done = TestSchool.Done(
            school.Bulk.Review(school.Teacher, Of(BulkAction.End) with { Who = "orla@skerry.example" })
        );
        Assert.Equal(0, done.Changed);
        TestSchool.Refused(Did(school.Teacher, Of(BulkAction.End) with { Who = "orla@skerry.example" }));
    }

    [Fact]
    public void They_are_found_by_department_title_and_teacher_where_they_may_be_changed()
    {
        string[] Found(Viewer who, string department = "", string words = "", string teacher = "") =>
            [
                .. TestSchool
                    .Done(school.Bulk.Choices(who, department, words, teacher))
                    .Found.Select(one => one.Calendar.Title),
            ];
        Assert.Equal(["Rockpools 10", "Rockpools 8", "Rockpools 9", "Tidepool Biology 9A"], Found(school.Teacher));
        Assert.Equal(["Rockpools 9"], Found(school.Teacher, words: "pools 9"));
        TestSchool.Done(Did(school.Teacher, InputOf("department")));
        Assert.Equal(["Rockpools 10", "Rockpools 8", "Rockpools 9"], Found(school.Teacher, department.Slug.Value));
        Assert.Equal(["Tidepool Biology 9A"], Found(school.Teacher, "none"));
        Assert.Equal([], Found(school.Teacher, teacher: "nobody of that name"));
        Assert.Equal([], Found(school.Student));
        Assert.DoesNotContain("Rockpools 8", Found(school.Coordinator));
        var name = (string)school.Execute("select name from people where email = 'orla@skerry.example'")!;
        Assert.Equal(4, Found(school.Teacher, teacher: name[..4]).Length);
        Assert.IsType<Outcome<BulkChoices>.NotAllowed>(school.Bulk.Choices(Viewer.Visitor));
    }
}
