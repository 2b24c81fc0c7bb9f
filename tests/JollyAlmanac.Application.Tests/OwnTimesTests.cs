using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Publishing;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What others see of one's week, and one's free times for others.</summary>
public sealed class OwnTimesTests : IDisposable
{
    private static readonly OwnTimesInput Week = new("2026-10-14", "2026-10-16", "8:00", "15:00");

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private string Days(Viewer who) =>
        string.Join("; ", TestSchool.Done(school.OwnTimes.View(who, Week, null)).Days.Select(day => day.InWords));

    private string Seen() =>
        string.Join(
            "; ",
            TestSchool
                .Done(school.OwnTimes.View(school.Teacher, Week, new LocalDate(2026, 10, 14)))
                .Week.Select(one =>
                    $"{one.Session.Day:dd} {one.Session.Title}: {one.Strangers} {one.School} {string.Join(' ', one.Named.Select(named => $"{named.Grants}x{named.Level}"))}".Trim()
                )
        );

    private static void Grant(TestSchool school, Viewer who, string level) =>
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {who.Person!.Value.Value}, '{level}' from calendars where slug = '{TestSchool.Slug}'"
        );

    [Fact]
    public void Busy_is_what_one_keeps_or_attends_and_days_away()
    {
        var series = school.Add();
        Assert.Equal(
            "Wed 14 Oct: free 8:00–9:50, 10:40–15:00; Thu 15 Oct: free 8:00–15:00; Fri 16 Oct: free 8:00–9:50, 10:40–15:00",
            Days(school.Teacher)
        );
        // Who only sees that the time is taken, or what it is called, is not there themselves.
        Grant(school, school.Helper, "outline");
        Assert.Equal(
            "Wed 14 Oct: free 8:00–15:00; Thu 15 Oct: free 8:00–15:00; Fri 16 Oct: free 8:00–15:00",
            Days(school.Helper)
        );
        school.Execute("update grants set level = 'full' where level = 'outline'");
        Assert.StartsWith("Wed 14 Oct: free 8:00–9:50, 10:40–15:00;", Days(school.Helper), StringComparison.Ordinal);
        school.Change(series, "2026-10-14T09:50", new Composing.SessionInput("leave-out"));
        Assert.StartsWith("Wed 14 Oct: free 8:00–15:00;", Days(school.Teacher), StringComparison.Ordinal);
        school.Execute(
            $"insert into absences (person_id, first, last, reason, made_by, made_at) values ({school.Teacher.Person!.Value.Value}, '2026-10-15', '2026-10-15', 'secret', 1, 0)"
        );
        Assert.Contains("Thu 15 Oct: not free", Days(school.Teacher), StringComparison.Ordinal);
    }

    [Fact]
    public void What_others_see_is_what_they_see()
    {
        school.Add();
        school.Add(TestSchool.Good with { Title = "Alone", IsPrivate = true, Link = "", Period = "4" });
        Grant(school, school.Helper, "busy");
        Grant(school, school.Student, "full");
        // The class is open to anyone in full, but for what is private.
        Assert.Equal(
            "14 Tidepool Biology 9A: Full Full 1xFull 1xBusy; 14 Alone: Busy Busy 2xBusy; 16 Tidepool Biology 9A: Full Full 1xFull 1xBusy; 16 Alone: Busy Busy 2xBusy",
            Seen()
        );
        school.Execute("delete from grants where grantee in ('anyone', 'everyone')");
        Assert.StartsWith(
            "14 Tidepool Biology 9A: None None 1xFull 1xBusy; 14 Alone: None None 2xBusy",
            Seen(),
            StringComparison.Ordinal
        );
        // A student keeps nothing, and is told so by an empty week.
        Assert.Empty(TestSchool.Done(school.OwnTimes.View(school.Student, Week, null)).Week);
    }

    [Theory]
    [InlineData("2026-10-16", "2026-10-14", "8:00", "15:00", "Last")]
    [InlineData("2026-10-14", "2026-12-15", "8:00", "15:00", "Last")] // 63 days
    [InlineData("2026-10-01", "2026-10-02", "8:00", "15:00", "Last")] // over
    [InlineData("soon", "", "", "", "First")]
    [InlineData("", "", "15:00", "8:00", "To")]
    [InlineData("", "", "8:00", "8:00", "To")]
    [InlineData("", "", "eight", "", "From")]
    public void Bad_days_and_hours_are_told(string first, string last, string from, string to, string field)
    {
        var input = new OwnTimesInput(first, last, from, to);
        var rows = school.Rows();
        Assert.Equal(field, TestSchool.Refused(school.OwnTimes.View(school.Teacher, input, null))[0].Field);
        Assert.Equal(field, TestSchool.Refused(school.OwnTimes.MakeLink(school.Teacher, input))[0].Field);
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void A_link_shows_times_alone_and_ends()
    {
        school.Add();
        var link = TestSchool.Done(school.OwnTimes.MakeLink(school.Teacher, Week));
        FreeTimesPage? Page() => school.OwnTimes.ByToken(link.Token);
        Assert.Equal("Wed 14 Oct: free 8:00–9:50, 10:40–15:00", Page()!.Days[0].InWords);
        Assert.Null(school.OwnTimes.ByToken(new FeedToken(new string('0', 26))));
        // Nobody else ends it, or sees its address.
        Assert.IsType<Outcome<bool>.NotFound>(school.OwnTimes.EndLink(school.Coordinator, link.Link.Id));
        Assert.IsType<Outcome<OwnTimesView>.NotAllowed>(
            school.OwnTimes.View(school.Teacher with { LookedAtBy = school.Coordinator }, Week, null)
        );
        Assert.Empty(TestSchool.Done(school.OwnTimes.View(school.Coordinator, Week, null)).Links);
        // A day that is over is not shown any more; after the last one nothing is.
        school.Clock.Reset(Moment(2026, 10, 16, 23, 59));
        Assert.Equal(["Fri 16 Oct: free 8:00–9:50, 10:40–15:00"], Page()!.Days.Select(day => day.InWords));
        school.Clock.Reset(Moment(2026, 10, 17, 0, 0));
        Assert.Null(Page());
        school.Clock.Reset(Moment(2026, 10, 14, 9, 0));
        Assert.NotNull(Page());
        TestSchool.Done(school.OwnTimes.EndLink(school.Teacher, link.Link.Id));
        Assert.Null(Page());
        Assert.IsType<Outcome<bool>.NotFound>(school.OwnTimes.EndLink(school.Teacher, link.Link.Id));
        // No more than there may be, and none of somebody who has left.
        for (var at = 0; at < OwnTimes.MostLinks; at++)
            link = TestSchool.Done(school.OwnTimes.MakeLink(school.Teacher, Week));
        Assert.Single(TestSchool.Refused(school.OwnTimes.MakeLink(school.Teacher, Week)));
        Assert.NotNull(Page());
        school.Execute($"update people set ended_at = 1 where id = {school.Teacher.Person!.Value.Value}");
        Assert.Null(Page());

        static Instant Moment(int year, int month, int day, int hour, int minute) =>
            new LocalDateTime(year, month, day, hour, minute)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant();
    }
}
