using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Application.Tests;

/// <summary>A new calendar begins like another: its settings and those who work on it, without its class list.</summary>
public sealed class LikeTests : IDisposable
{
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private Outcome<Calendar> Make(Viewer who, string title) =>
        school.Calendars.Create(
            who,
            school.Calendars.FormLike(school.Teacher, TestSchool.Slug)! with
            {
                Title = title,
            }
        );

    private string GrantsOf(Calendar calendar) =>
        (string)
            school.Execute(
                $"select group_concat(coalesce(p.email, gr.kind, g.grantee) || ' ' || g.level || ' ' || coalesce(g.until, ''), '; ') from (select * from grants where calendar_id = {calendar.Id.Value} order by level, person_id, group_id) g left join people p on p.id = g.person_id left join groups gr on gr.id = g.group_id"
            )!;

    [Fact]
    public void People_and_settings_come_along_and_the_class_list_does_not()
    {
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                TestSchool.Slug,
                new GiveInput("eilidh@skerry.example", "editor", "2026-12-18")
            )
        );
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                TestSchool.Slug,
                school.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                {
                    OpenTo = OpenTo.Everyone,
                    Description = "By the slipway",
                    Contact = "The office",
                }
            )
        );
        foreach (
            var (name, kind) in new[]
            {
                ("9A", GroupKind.ClassList),
                ("9A, first", GroupKind.Section),
                ("Biology", GroupKind.Staff),
            }
        )
            TestSchool.Done(
                school.Share.Give(
                    school.Teacher,
                    TestSchool.Slug,
                    new Grantee.OneGroup(
                        TestSchool.Done(
                            school.AddPeople.AddGroup(school.Coordinator, name, kind, [school.Student.Person!.Value])
                        )
                    ),
                    AccessLevel.Full
                )
            );
        var made = TestSchool.Done(Make(school.Teacher, "Tidepool Biology 9D"));
        Assert.Equal(
            "eilidh@skerry.example editor 2026-12-18; everyone full ; staff full ; orla@skerry.example manager ",
            GrantsOf(made)
        );
        Assert.Equal(("By the slipway", "The office"), (made.Description, made.Contact));
        Assert.Equal(Stored(TestSchool.Slug).ShowsList, made.ShowsList);
        Assert.Equal(1, made.Version);
    }

    private Calendar Stored(Slug slug) => school.Database.Read(stores => stores.Calendars.Find(slug)!);

    // What somebody may not change is not theirs to copy, and is not told to be there.
    [Fact]
    public void Nothing_is_copied_of_what_is_not_theirs()
    {
        foreach (var who in new[] { school.Helper, school.Student, Viewer.Visitor })
            Assert.Null(school.Calendars.FormLike(who, TestSchool.Slug));
        Assert.Null(school.Calendars.FormLike(school.Teacher, new Slug("nothing-here")));
        var rows = school.Rows();
        TestSchool.Refused(Make(school.Helper, "Helper’s own"));
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void What_shows_its_list_and_is_the_offices_begins_so_and_who_has_left_stays_away()
    {
        TestSchool.Done(
            school.Share.Give(school.Teacher, TestSchool.Slug, new GiveInput("eilidh@skerry.example", "editor"))
        );
        var stored = Stored(TestSchool.Slug);
        TestSchool.Done(school.Share.ShowList(school.Teacher, TestSchool.Slug, !stored.ShowsList, stored.Version));
        school.Execute("update people set ended_at = 1 where email = 'eilidh@skerry.example'");
        var made = TestSchool.Done(Make(school.Teacher, "Tidepool Biology 9E"));
        Assert.Equal(!stored.ShowsList, made.ShowsList);
        Assert.DoesNotContain("eilidh", GrantsOf(made), StringComparison.Ordinal);
    }
}
