using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Several pasted rooms behind one link: each session the next one, and everybody of a session the same.</summary>
public sealed class RoomsInTurnTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly JoinLink link;

    // Three groups of a day, back to back: at 9:50, 10:40 and 11:30.
    public RoomsInTurnTests()
    {
        link = TestSchool.Done(
            school
                .Links.Add(
                    school.Teacher,
                    Slug,
                    new LinkInput(
                        "Tidepool room",
                        Room: new RoomInput("https://rooms.skerry.example/a?passcode=kelp"),
                        Entry: new EntryRuleInput("around", "0", "end")
                    )
                )
                .Waited()
        );
        foreach (
            var (title, start, end) in new[]
            {
                ("One", "9:50", "10:40"),
                ("Two", "10:40", "11:30"),
                ("Three", "11:30", "12:20"),
            }
        )
            TestSchool.Done(
                school
                    .Compose.Save(
                        school.Teacher,
                        Slug,
                        null,
                        TestSchool.Good with
                        {
                            Title = title,
                            Period = "",
                            Start = start,
                            End = end,
                            Link = $"{link.Id.Value}",
                            LinkName = "",
                            LinkTarget = "",
                        },
                        MaterialInput.None
                    )
                    .Waited()
            );
    }

    public void Dispose() => school.Dispose();

    private Outcome<JoinLink> Turn(string lines, bool ends = false, bool renews = false) =>
        school
            .Links.Change(
                school.Teacher,
                link.Code,
                LinkInput.Of(Now()) with
                {
                    Room = new RoomInput(Renews: renews) { Turn = lines, EndsTurn = ends },
                }
            )
            .Waited();

    private JoinLink Now() => TestSchool.Done(school.Links.Open(school.Teacher, link.Code)).Link;

    private string Enter(int hour, int minute, int day = 14)
    {
        school.Clock.Reset(
            new LocalDateTime(2026, 10, day, hour, minute)
                .InZoneLeniently(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );
        return Assert
            .IsType<EntryResult.Through>(
                school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null, default).Waited()
            )
            .To.AbsolutePath;
    }

    [Fact]
    public void Each_session_has_the_next_room_and_keeps_it()
    {
        TestSchool.Done(Turn("https://rooms.skerry.example/b\nhttps://rooms.skerry.example/c"));
        Assert.Equal(["rooms.skerry.example", "rooms.skerry.example"], Now().RoomsInTurn);
        Assert.Equal("/a", Enter(9, 51));
        Assert.Equal("/a", Enter(10, 39));
        Assert.Equal("/b", Enter(10, 40));
        // A host comes to the same room as the class.
        Assert.Equal(
            "/b",
            TestSchool
                .Done(school.Doors.EnterAsHost(link.Code, school.Teacher, null, "Orla", mayMake: false).Waited())!
                .AbsolutePath
        );
        Assert.Equal("/c", Enter(11, 31));
        // The next day goes on where this one ended; one that nobody came to takes no turn.
        Assert.Equal("/a", Enter(10, 41, day: 16));
        Assert.Equal("/b", Enter(11, 31, day: 16));
    }

    [Fact]
    public void Of_two_at_once_both_come_to_the_same_room()
    {
        TestSchool.Done(Turn("https://rooms.skerry.example/b"));
        school.Clock.Reset(Instant.FromUtc(2026, 10, 14, 12, 55));
        var rooms = Task.WhenAll(
                Enumerable
                    .Range(0, 8)
                    .Select(_ =>
                        Task.Run(() => school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null, default))
                    )
            )
            .Waited()
            .Select(result => Assert.IsType<EntryResult.Through>(result).To.AbsolutePath)
            .Distinct();
        Assert.Equal(["/a"], rooms);
    }

    [Fact]
    public void Other_rooms_take_the_place_of_those_there_are()
    {
        TestSchool.Done(Turn("https://rooms.skerry.example/b"));
        Assert.Equal("/a", Enter(9, 51));
        Assert.Equal("/b", Enter(10, 41));
        TestSchool.Done(Turn("https://rooms.skerry.example/x\nhttps://rooms.skerry.example/y"));
        // What a form says nothing of stays; the session that is on takes its turn anew.
        TestSchool.Done(Turn(""));
        Assert.Equal("/y", Enter(10, 42));
        TestSchool.Done(Turn("", ends: true));
        Assert.Empty(Now().RoomsInTurn);
        Assert.Equal("/a", Enter(10, 43));
        Assert.Equal("/a", Enter(11, 31));
    }

    // A room that is replaced while it is used is entered no more.
    [Fact]
    public void Another_room_behind_the_link_ends_the_turn_of_the_session_that_is_on()
    {
        TestSchool.Done(Turn("https://rooms.skerry.example/b"));
        Assert.Equal("/a", Enter(9, 51));
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    link.Code,
                    LinkInput.Of(Now()) with
                    {
                        Room = new RoomInput("https://rooms.skerry.example/new"),
                    }
                )
                .Waited()
        );
        Assert.Equal("/b", Enter(9, 52));
        Assert.Equal("/new", Enter(10, 41));
    }

    [Theory]
    [InlineData("https://rooms.skerry.example/b\nnothing", false, "Line 2")]
    [InlineData("https://rooms.skerry.example/b\nhttps://rooms.skerry.example/b", false, "the same room")]
    [InlineData("javascript:alert(1)", false, "Line 1")]
    [InlineData("https://rooms.skerry.example/b", true, "room of its own already")]
    public void What_cannot_be_is_refused(string lines, bool renews, string says)
    {
        Assert.Contains(TestSchool.Refused(Turn(lines, renews: renews)), problem =>
            problem.Field == "Turn" && problem.Message.Contains(says, StringComparison.Ordinal)
        );
        Assert.Empty(Now().RoomsInTurn);
    }

    [Fact]
    public void A_hundred_take_turns_and_no_more()
    {
        string Rooms(int count) =>
            string.Join('\n', Enumerable.Range(1, count).Select(at => $"https://rooms.skerry.example/{at}"));
        Assert.Single(TestSchool.Refused(Turn(Rooms(101))));
        Assert.Equal(100, TestSchool.Done(Turn(Rooms(100))).RoomsInTurn.Length);
    }

    // Where there is but one room, and groups follow at once, that is worth knowing; with more there is nothing to say.
    [Fact]
    public void One_room_for_groups_that_follow_each_other_is_noticed()
    {
        IEnumerable<FindingKind> Kinds() =>
            school
                .Switchboard.At(school.Teacher, null, link.Code)!
                .Findings.Select(one => one.Finding.Kind)
                .Intersect([FindingKind.FollowsClosely, FindingKind.WindowsOverlap]);
        Assert.Equal([FindingKind.FollowsClosely], Kinds());
        TestSchool.Done(Turn("https://rooms.skerry.example/b"));
        Assert.Empty(Kinds());
    }

    // An address that takes its turn is as secret as the link's own.
    [Fact]
    public void No_address_of_them_stands_where_anyone_reads_it()
    {
        TestSchool.Done(Turn("https://rooms.skerry.example/b?passcode=wrack"));
        var series = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series[0].Series;
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    series.Id,
                    TestSchool.FormOf(series) with
                    {
                        Description = "Come to https://rooms.skerry.example/b?passcode=wrack",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Contains(school.Switchboard.At(school.Teacher, null, link.Code)!.Findings, finding =>
            finding.Finding.Kind == FindingKind.SecretInPublic
        );
    }
}
