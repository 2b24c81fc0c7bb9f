using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Who of the staff is away.</summary>
public sealed class AbsenceTests : IDisposable
{
    private readonly TestSchool school = new();

    private PersonId Teacher => school.Teacher.Person!.Value;

    private LocalDate Today => school.Clock.GetCurrentInstant().InZone(school.SchoolQuery.Find()!.Time.Zone).Date;

    public void Dispose() => school.Dispose();

    private Outcome<Absence> Add(int first, int? last, string reason = "", PersonId? who = null) =>
        school.Absences.Add(
            school.Coordinator,
            who ?? Teacher,
            new AbsenceInput(Iso(first), last is { } day ? Iso(day) : "", reason)
        );

    private string Iso(int ahead) => Today.PlusDays(ahead).ToString("uuuu-MM-dd", null);

    [Theory]
    [InlineData(0, null, null)]
    [InlineData(-3, 0, null)]
    [InlineData(-3, -1, "Last")]
    [InlineData(2, 1, "Last")]
    [InlineData(1, 366, null)]
    [InlineData(1, 367, "Last")]
    [InlineData(8, 9, null)]
    [InlineData(9, 10, "First")]
    [InlineData(12, 12, "First")]
    [InlineData(13, 13, null)]
    public void Days_that_can_be_are_kept_and_others_are_told_at_their_field(int first, int? last, string? field)
    {
        // Away on days 10 to 12 from today already, where that is not what the row itself is about.
        if (first is > 7 and < 14)
            TestSchool.Done(Add(10, 12));
        var outcome = Add(first, last);
        if (field is null)
            Assert.Equal(
                (Today.PlusDays(first), Today.PlusDays(last ?? first)),
                (TestSchool.Done(outcome).First, TestSchool.Done(outcome).Last)
            );
        else
            Assert.Equal(field, TestSchool.Refused(outcome)[0].Field);
    }

    [Fact]
    public async Task A_coordinator_sees_who_is_away_today_or_tomorrow_with_their_sessions_and_nobody_else_does()
    {
        TestSchool.Done(Add(1, 5, "in hospital"));
        TestSchool.Done(Add(7, 7, "later"));
        var (person, absence, sessions) = Assert.Single(school.SchoolDayQuery.Read(school.Coordinator, Today)!.Away);
        Assert.Equal((Teacher, "in hospital"), (person.Id, absence.Reason));
        // As the teacher's own day has them.
        var own = (await school.DayQuery.Read(school.Teacher, Today.PlusDays(1), true))!.Sessions.Count(one =>
            one.Calendar.Owner == Teacher && !one.Shown.Session.IsCancelled
        );
        Assert.Equal(own, sessions);
        Assert.Null(school.SchoolDayQuery.Read(school.Teacher, Today));
        Assert.Empty(school.SchoolDayQuery.Read(school.Coordinator, Today.PlusDays(10))!.Away);
        // Why is told in no line of the history.
        Assert.Equal(0L, school.Execute("select count(*) from history where summary like '%hospital%'"));
    }

    [Fact]
    public void An_absence_goes_with_its_own_number_and_its_person_alone()
    {
        var mine = TestSchool.Done(Add(1, 2));
        Assert.IsType<Outcome<Absence>.NotFound>(
            school.Absences.Remove(school.Coordinator, school.Coordinator.Person!.Value, mine.Id)
        );
        Assert.IsType<Outcome<Absence>.NotFound>(Add(1, 2, who: school.Student.Person));
        TestSchool.Done(school.Absences.Remove(school.Coordinator, Teacher, mine.Id));
        Assert.IsType<Outcome<Absence>.NotFound>(school.Absences.Remove(school.Coordinator, Teacher, mine.Id));
        Assert.Empty(school.SchoolDayQuery.Read(school.Coordinator, Today)!.Away);
    }
}
