using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What is offered holds where it is used: rooms, letters and days as their readers have them.</summary>
public sealed class InTheHandTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    // A new room lets nobody in who may not open its calendar, and tells them nothing.
    [Fact]
    public void A_room_begins_as_closed_as_its_calendar()
    {
        school.Add();
        EntryAudience Begun() => TestSchool.Done(school.Links.Begin(school.Teacher, TestSchool.Slug)).Link.Audience;
        Assert.Equal(EntryAudience.Anyone, Begun());
        school.Execute("update grants set grantee = 'everyone' where grantee = 'anyone'");
        Assert.Equal(EntryAudience.School, Begun());
        school.Execute("delete from grants where grantee = 'everyone'");
        Assert.Equal(EntryAudience.PeopleOfTheCalendar, Begun());
        var link = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links[0];
        school.Execute($"update join_links set audience = 'peopleofthecalendar' where id = {link.Id.Value}");
        Assert.True(school.Doors.At(link.Code, new AtDoor(Viewer.Visitor)).Waited()!.Entry.IsHidden);
        Assert.False(school.Doors.At(link.Code, new AtDoor(school.Teacher)).Waited()!.Entry.IsHidden);
    }

    [Fact]
    public async Task A_letter_is_written_as_who_gets_it_reads()
    {
        var teodor = school.Student.Person!.Value;
        async Task<string> Letter()
        {
            TestSchool.Done(school.Invitations.Invite(school.Coordinator, [teodor]));
            await school.Post.Send(TestContext.Current.CancellationToken);
            return school.Carrier.Letters[^1].Text;
        }

        Assert.DoesNotMatch(" [ap]m ", await Letter());
        TestSchool.Done(school.Accounts.SetWriting(school.Student, twelveHours: true, monthFirst: true));
        var letter = await Letter();
        Assert.Matches("until [A-Z][a-z]{2} [A-Z][a-z]{2} \\d+, \\d+:\\d\\d [ap]m ", letter);
        Assert.Equal((true, true), school.Accounts.Open(school.Student, "")!.Writing);
        Assert.True(
            System.Globalization.CultureInfo.CurrentCulture.DateTimeFormat.ShortTimePattern.Contains(
                'H',
                StringComparison.Ordinal
            )
        );
    }

    [Fact]
    public void A_coordinator_sees_what_is_not_as_usual_and_nobody_else_does()
    {
        var series = school.Add();
        school.Change(series, "2026-10-14T09:50", new SessionInput("leave-out"));
        school.Change(series, "2026-10-16T09:50", new SessionInput("move", new SessionTimeInput("2026-10-15")));
        school.Change(series, "2026-10-21T09:50", new SessionInput("leave-out"));
        Assert.Null(school.SchoolDayQuery.Read(school.Teacher, new LocalDate(2026, 10, 14)));
        Assert.Null(school.SchoolDayQuery.Read(Viewer.Visitor, new LocalDate(2026, 10, 14)));
        var seen = school.SchoolDayQuery.Read(school.Coordinator, new LocalDate(2026, 10, 14))!;
        Assert.Equal([14, 15], seen.Unusual.Select(one => one.Shown.Session.Day.Day));
        // Of a calendar that is closed to the coordinator nothing is told.
        school.Execute("delete from grants where grantee <> 'person'");
        school.Execute($"delete from grants where person_id = {school.Coordinator.Person!.Value.Value}");
        Assert.Empty(school.SchoolDayQuery.Read(school.Coordinator, new LocalDate(2026, 10, 14))!.Unusual);
    }
}
