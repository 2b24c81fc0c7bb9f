using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>One rule for several links in one go, counted, and taken back.</summary>
public sealed class GiveRuleTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly JoinLink[] links;

    public GiveRuleTests() =>
        links = [
            .. new[] { ("One", "around"), ("Two", "allday"), ("Three", "always") }.Select(one =>
                TestSchool.Done(
                    school
                        .Links.Add(
                            school.Teacher,
                            Slug,
                            new LinkInput(
                                one.Item1,
                                Room: new RoomInput($"https://rooms.skerry.example/{one.Item1}"),
                                Entry: new EntryRuleInput(one.Item2)
                            )
                        )
                        .Waited()
                )
            ),
        ];

    public void Dispose() => school.Dispose();

    private Outcome<int> Give(string opens, params JoinLink[] to) =>
        school.Rules.Do(
            school.Teacher,
            new GiveRuleInput([.. to.Select(link => link.Code.Value)]) { Entry = new EntryRuleInput(opens) }
        );

    private EntryRule[] Rules() =>
        [.. links.Select(link => TestSchool.Done(school.Links.Open(school.Teacher, link.Code)).Link.Entry)];

    [Fact]
    public void Those_that_are_ticked_have_it_and_their_own_again()
    {
        var before = Rules();
        var hours = new EntryRule.Hours(new LocalTime(8, 0), new LocalTime(18, 0));
        Assert.Equal(2, TestSchool.Done(Give("hours", links[0], links[1])));
        Assert.Equal([hours, hours, new EntryRule.Always()], Rules());
        Assert.Equal(2, school.Rules.ToUndo(school.Teacher));
        Assert.Equal(2, TestSchool.Done(school.Rules.Undo(school.Teacher)));
        Assert.Equal(before, Rules());
        Assert.Equal(0, school.Rules.ToUndo(school.Teacher));
        Assert.Single(TestSchool.Refused(school.Rules.Undo(school.Teacher)));
    }

    // One that has it already is not counted, nor told in the history.
    [Fact]
    public void What_has_it_already_stays()
    {
        Assert.Equal(1, TestSchool.Done(Give("always", links[1], links[2])));
        Assert.Equal(0, TestSchool.Done(Give("always", links[1], links[2])));
    }

    [Fact]
    public void What_was_changed_since_stays_as_it_is()
    {
        TestSchool.Done(Give("always", links[0], links[1]));
        school.Clock.Advance(Duration.FromMinutes(1));
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    links[0].Code,
                    LinkInput.Of(TestSchool.Done(school.Links.Open(school.Teacher, links[0].Code)).Link) with
                    {
                        Entry = new EntryRuleInput("around", "3", "3"),
                    }
                )
                .Waited()
        );
        Assert.Equal(1, TestSchool.Done(school.Rules.Undo(school.Teacher)));
        Assert.Equal([new EntryRule.Around(3, 3), new EntryRule.AllDay(), new EntryRule.Always()], Rules());
    }

    // All of them, or none.
    [Fact]
    public void Where_one_is_not_theirs_none_is_changed()
    {
        var before = Rules();
        var office = TestSchool.Done(
            school.Calendars.Create(
                school.Coordinator,
                school.Calendars.NewForm(school.Teacher) with
                {
                    Title = "Office",
                }
            )
        );
        var theirs = TestSchool.Done(
            school
                .Links.Add(
                    school.Coordinator,
                    office.Slug,
                    new LinkInput("Office", Room: new RoomInput("https://rooms.skerry.example/office"))
                )
                .Waited()
        );
        Assert.False(Give("always", links[0], theirs).IsDone);
        Assert.False(Give("always", links[0], links[1] with { Code = new JoinCode("nothing-here") }).IsDone);
        Assert.Equal("Codes", Assert.Single(TestSchool.Refused(Give("always"))).Field);
        Assert.Equal("Opens", Assert.Single(TestSchool.Refused(Give("never", links[0]))).Field);
        Assert.Equal(before, Rules());
    }
}
