using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>A room at once: for a class or for nobody in particular, until it ends by itself.</summary>
public sealed class OpenRoomTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private JoinLink Open(string slug, string minutes = "60") =>
        TestSchool.Done(school.RoomAtOnce.Do(school.Teacher, new OpenRoomInput(slug, minutes)).Waited());

    private bool IsOpen(JoinLink link) => school.Doors.At(link.Code, new AtDoor(Viewer.Visitor)).Waited()!.Door.IsOpen;

    private int OnClassPage => school.ClassPageQuery.Read(Viewer.Visitor, Slug, false)!.OpenRooms.Count;

    [Fact]
    public void It_is_open_at_once_and_ends_by_itself()
    {
        var link = Open(Slug.Value);
        Assert.True(IsOpen(link));
        Assert.Equal(1, OnClassPage);
        Assert.IsType<EntryResult.Through>(
            school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null, default).Waited()
        );
        school.Clock.Advance(Duration.FromMinutes(60) - Duration.FromMilliseconds(1));
        Assert.True(IsOpen(link));
        Assert.Equal(0, school.RoomAtOnce.Tidy().Waited());
        school.Clock.Advance(Duration.FromMilliseconds(1));
        // Closed by the clock, and put away by the job that follows.
        Assert.False(IsOpen(link));
        Assert.Equal(0, OnClassPage);
        Assert.Empty(school.RoomAtOnce.Offer(school.Teacher)!.Open);
        Assert.Equal(1, school.RoomAtOnce.Tidy().Waited());
        Assert.Equal(0, school.RoomAtOnce.Tidy().Waited());
        // It stands among the join links no more.
        Assert.DoesNotContain(school.Switchboard.At(school.Teacher, null, null)?.Rows ?? [], row =>
            row.Link.Code == link.Code
        );
        Assert.Equal(
            [
                "let the room Tidepool Biology 9A, now end, as set before",
                "opened a room at once, for the class, until 10:41",
            ],
            school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!.Lines.Take(2).Select(line => line.Summary)
        );
    }

    [Fact]
    public void One_for_nobody_in_particular_stands_on_no_page()
    {
        var link = Open("", "5");
        Assert.True(IsOpen(link));
        Assert.Equal(0, OnClassPage);
        Assert.Equal(link.Code, Assert.Single(school.RoomAtOnce.Offer(school.Teacher)!.Open).Link.Code);
        Assert.Null(school.RoomAtOnce.Offer(school.Student));
        Assert.Null(school.RoomAtOnce.Offer(Viewer.Visitor));
    }

    [Fact]
    public void It_is_ended_by_hand_once()
    {
        var link = Open(Slug.Value);
        var standing = school.Links.Add(
            school.Teacher,
            Slug,
            new LinkInput("Tidepool room") { Room = new RoomInput("https://rooms.skerry.example/9a") }
        );
        TestSchool.Done(school.RoomAtOnce.End(school.Teacher, link.Code, link.Version).Waited());
        Assert.False(IsOpen(link));
        Assert.False(school.RoomAtOnce.End(school.Teacher, link.Code, link.Version).Waited().IsDone);
        // A link that stays is not ended like this.
        var stays = TestSchool.Done(standing.Waited());
        Assert.IsType<Outcome<JoinLink>.NotFound>(
            school.RoomAtOnce.End(school.Teacher, stays.Code, stays.Version).Waited()
        );
    }

    [Theory]
    [InlineData("tidepool-biology-9a", "4", "Minutes")]
    [InlineData("tidepool-biology-9a", "601", "Minutes")]
    [InlineData("tidepool-biology-9a", "soon", "Minutes")]
    [InlineData("no-such-class", "60", "Class")]
    public void What_cannot_be_is_refused(string slug, string minutes, string field)
    {
        var before = school.Rows();
        Assert.Equal(
            field,
            Assert
                .Single(
                    TestSchool.Refused(school.RoomAtOnce.Do(school.Teacher, new OpenRoomInput(slug, minutes)).Waited())
                )
                .Field
        );
        Assert.Equal(before, school.Rows());
    }

    [Fact]
    public void Without_a_provider_its_address_is_pasted()
    {
        Assert.Equal(
            "Address",
            Assert.Single(TestSchool.Refused(school.PastedRoom.Do(school.Teacher, new OpenRoomInput()).Waited())).Field
        );
        var link = TestSchool.Done(
            school
                .PastedRoom.Do(
                    school.Teacher,
                    new OpenRoomInput(Slug.Value, Address: "https://rooms.skerry.example/now?passcode=kelp")
                )
                .Waited()
        );
        Assert.Equal(
            new Uri("https://rooms.skerry.example/now?passcode=kelp"),
            Assert
                .IsType<EntryResult.Through>(
                    school.Doors.Enter(link.Code, new AtDoor(Viewer.Visitor), null, default).Waited()
                )
                .To
        );
    }
}
