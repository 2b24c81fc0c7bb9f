using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Who is named, asked for and told: access that comes with a letter, people who are added when a teacher asks, the
/// office.</summary>
public sealed class AskedForTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private string Email(Viewer who) =>
        (string)school.Execute($"select email from people where id = {who.Person!.Value.Value}")!;

    private Viewer Fresh(PersonId id) => school.Database.Read(stores => stores.People.ViewerOf(id));

    private PersonId Added(string name, SchoolRole role) =>
        TestSchool.Done(
            school.People.Add(school.Coordinator, new PersonInput(name, $"{name.Split(' ')[0]}@skerry.example", role))
        );

    [Fact]
    public async Task Who_is_given_access_by_name_is_told_once_and_only_of_more()
    {
        async Task<IReadOnlyList<string>> Told()
        {
            school.Carrier.Letters.Clear();
            await school.Post.Send(Stop);
            return [.. school.Carrier.Letters.Select(letter => $"{letter.ToAddress}: {letter.Subject}")];
        }

        void Give(string level) =>
            TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput(Email(school.Helper), level)));
        Give("full");
        Assert.Equal([$"{Email(school.Helper)}: You have access to Tidepool Biology 9A"], await Told());
        Assert.Contains("/c/tidepool-biology-9a", school.Carrier.Letters[0].Text, StringComparison.Ordinal);
        Give("busy");
        Assert.Empty(await Told());
        Give("editor");
        Assert.Single(await Told());
        Assert.Contains("/calendars/tidepool-biology-9a", school.Carrier.Letters[0].Text, StringComparison.Ordinal);
        // What was taken back before the letter went is told to nobody.
        Give("busy");
        Give("manager");
        TestSchool.Done(school.Share.End(school.Teacher, Slug, $"person {school.Helper.Person!.Value.Value}"));
        Assert.Empty(await Told());
    }

    [Fact]
    public async Task A_teacher_asks_for_somebody_the_school_does_not_know_and_a_coordinator_decides()
    {
        GiveInput For(string who, string level = "full", string until = "") => new(who, level, until);
        Assert.Equal(
            "Who",
            TestSchool.Refused(school.AddRequests.Ask(school.Teacher, Slug, For(Email(school.Student))))[0].Field
        );
        Assert.Equal(
            "Who",
            TestSchool.Refused(school.AddRequests.Ask(school.Teacher, Slug, For("no address")))[0].Field
        );
        Assert.Equal(
            "Level",
            TestSchool
                .Refused(school.AddRequests.Ask(school.Teacher, Slug, For("ines.holm@quillon.example", "editor")))[0]
                .Field
        );
        Assert.Equal(
            "Until",
            TestSchool
                .Refused(
                    school.AddRequests.Ask(school.Teacher, Slug, For("ines.holm@quillon.example", until: "2020-01-01"))
                )[0]
                .Field
        );
        // Asked twice, it waits once, as it was asked last.
        foreach (var level in new[] { "busy", "full" })
            TestSchool.Done(
                school.AddRequests.Ask(school.Teacher, Slug, For("ines.holm@quillon.example", level, "2026-12-18"))
            );
        TestSchool.Done(school.AddRequests.Ask(school.Teacher, Slug, For("odd@quillon.example")));
        var waiting = TestSchool.Done(school.AddRequests.Waiting(school.Coordinator));
        Assert.Equal(
            [("Ines Holm", AccessLevel.Full), ("Odd", AccessLevel.Full)],
            waiting.Select(one => (one.Name, one.Request.Level))
        );
        Assert.Equal(2, school.SchoolDayQuery.Read(school.Coordinator, new LocalDate(2026, 10, 14))!.ToAdd);
        Assert.Equal(
            "Role",
            TestSchool
                .Refused(
                    school.AddRequests.Add(
                        school.Coordinator,
                        waiting[0].Request.Id,
                        "Ines Holm",
                        SchoolRole.Coordinator
                    )
                )[0]
                .Field
        );
        TestSchool.Done(
            school.AddRequests.Add(school.Coordinator, waiting[0].Request.Id, "Ines Holm", SchoolRole.Student)
        );
        Assert.IsType<Outcome<string>.NotFound>(
            school.AddRequests.Add(school.Coordinator, waiting[0].Request.Id, "Ines Holm", SchoolRole.Student)
        );
        TestSchool.Done(school.AddRequests.Decline(school.Coordinator, waiting[1].Request.Id));
        Assert.Empty(TestSchool.Done(school.AddRequests.Waiting(school.Coordinator)));
        Assert.Equal(0L, school.Execute("select count(*) from people where email like 'odd@%'"));
        var ines = new PersonId(
            (long)school.Execute("select id from people where email = 'ines.holm@quillon.example'")!
        );
        Assert.Equal(SchoolRole.Student, Fresh(ines).Role);
        var grant = school
            .Database.Read(stores => stores.Calendars.GrantsOf(stores.Calendars.Find(Slug)!.Id))
            .Single(one => one.To == new Grantee.OnePerson(ines));
        Assert.Equal((AccessLevel.Full, new LocalDate(2026, 12, 18)), (grant.Level, grant.Until));
        await school.Post.Send(Stop);
        Assert.Contains(school.Carrier.Letters, letter =>
            letter.ToAddress == "ines.holm@quillon.example"
            && letter.Text.Contains("welcome/", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void Nobody_is_added_for_who_manages_the_calendar_no_more()
    {
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput(Email(school.Helper), "manager")));
        TestSchool.Done(
            school.AddRequests.Ask(school.Helper, Slug, new GiveInput("ines.holm@quillon.example", "full"))
        );
        TestSchool.Done(school.Share.End(school.Teacher, Slug, $"person {school.Helper.Person!.Value.Value}"));
        var id = TestSchool.Done(school.AddRequests.Waiting(school.Coordinator)).Single().Request.Id;
        Assert.Contains(
            "does not manage",
            TestSchool.Refused(school.AddRequests.Add(school.Coordinator, id, "Ines", SchoolRole.Student))[0].Message,
            StringComparison.Ordinal
        );
        Assert.Equal(0L, school.Execute("select count(*) from people where email = 'ines.holm@quillon.example'"));
    }

    // What the office looks after is the next coordinator's, too, and no longer the one's who is none any more.
    [Fact]
    public void The_group_of_coordinators_is_whoever_has_the_role()
    {
        var (first, second) = (Added("Ada Lunde", SchoolRole.Coordinator), Added("Bo Lunde", SchoolRole.Teacher));
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                school.Calendars.NewForm(school.Teacher) with
                {
                    Title = "Knots",
                    OpenTo = OpenTo.Named,
                }
            )
        );
        bool Manages(PersonId id) =>
            school.TermSheetQuery.Read(Fresh(id), new Slug("knots"), null)?.Level == AccessLevel.Manager;
        Assert.Equal((true, false), (Manages(first), Manages(second)));
        int Version(PersonId id) => (int)(long)school.Execute($"select version from people where id = {id.Value}")!;
        void Become(PersonId id, string name, SchoolRole role) =>
            TestSchool.Done(
                school.People.Change(
                    school.Coordinator,
                    id,
                    new PersonInput(name, $"{name.Split(' ')[0]}@skerry.example", role, Version(id))
                )
            );
        Become(second, "Bo Lunde", SchoolRole.Coordinator);
        Become(first, "Ada Lunde", SchoolRole.Teacher);
        Assert.Equal((false, true), (Manages(first), Manages(second)));
        TestSchool.Done(school.People.End(school.Coordinator, second, Version(second), null));
        Assert.False(Manages(second));
        TestSchool.Done(school.People.BringBack(school.Coordinator, second, Version(second)));
        Assert.True(Manages(second));
        // Nobody is put in or taken out by hand, by a list neither.
        var group = TestSchool.Done(school.Groups.All(school.Coordinator)).Single(one => one.Name == "Coordinators");
        Assert.Contains(
            "has the role",
            TestSchool.Refused(school.Groups.AddMembers(school.Coordinator, group.Id, Email(school.Helper)))[0].Message,
            StringComparison.Ordinal
        );
        TestSchool.Refused(school.Groups.RemoveMember(school.Coordinator, group.Id, second));
        TestSchool.Refused(school.Groups.Remove(school.Coordinator, group.Id, group.Name));
        school.Database.Write(
            stores =>
            {
                stores.Groups.AddMembers(group.Id, [first]);
                stores.Groups.RemoveMembers(group.Id, [second]);
                return true;
            },
            kept => kept
        );
        Assert.Equal((false, true), (Manages(first), Manages(second)));
    }

    [Fact]
    public void Groups_are_named_on_a_calendar_beside_people()
    {
        var group = TestSchool.Done(
            school.AddPeople.AddGroup(school.Coordinator, "Knot tiers", GroupKind.Staff, [school.Student.Person!.Value])
        );
        var form = school.Calendars.NewForm(school.Teacher) with
        {
            Title = "Knots",
            OpenTo = OpenTo.Named,
            CoordinatorsManage = false,
        };
        Assert.Equal(
            "Named",
            TestSchool.Refused(school.Calendars.Create(school.Teacher, form with { Named = "Knot untiers" }))[0].Field
        );
        TestSchool.Done(
            school.Calendars.Create(school.Teacher, form with { Named = $"{Email(school.Helper)}\nknot tiers" })
        );
        AccessLevel LevelOf(Viewer who) =>
            school.Database.Read(stores =>
                AccessRules.LevelOf(
                    stores.People.ViewerOf(who.Person!.Value),
                    stores.Calendars.GrantsOf(stores.Calendars.Find(new Slug("knots"))!.Id)
                )
            );
        Assert.Equal((AccessLevel.Full, AccessLevel.Full), (LevelOf(school.Helper), LevelOf(school.Student)));
        // The form shows it as it is written; saved as it stands it changes nothing, without the line the group is out.
        var stored = school.Calendars.Form(school.Teacher, new Slug("knots"))!;
        Assert.Contains("Knot tiers", stored.Named, StringComparison.Ordinal);
        var saved = TestSchool.Done(school.Calendars.Change(school.Teacher, new Slug("knots"), stored));
        Assert.Equal(AccessLevel.Full, LevelOf(school.Student));
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                new Slug("knots"),
                stored with
                {
                    Named = Email(school.Helper),
                    Version = saved.Version,
                }
            )
        );
        Assert.Equal((AccessLevel.Full, AccessLevel.None), (LevelOf(school.Helper), LevelOf(school.Student)));
        Assert.NotEqual(default, group);
    }

    [Fact]
    public void A_notice_may_lead_to_a_join_link_without_a_session()
    {
        school.Add();
        var link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single();
        var input = new NoticeInput("The room is open all week.", "", "2026-10-20")
        {
            Link = link.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture),
        };
        Assert.Equal(
            "Link",
            TestSchool.Refused(school.Notices.Put(school.Teacher, Slug, null, input with { Link = "999" }))[0].Field
        );
        var notice = TestSchool.Done(school.Notices.Put(school.Teacher, Slug, null, input));
        JoinCode? Way() => school.ClassPageQuery.Read(Viewer.Visitor, Slug, asVisitor: false)!.Notices.Single().Join;
        Assert.Equal(link.Code, Way());
        Assert.Equal(input.Link, NoticeInput.Of(notice).Link);
        // A link that is only for some is told to nobody else.
        school.Execute($"update join_links set only_for = 'g999' where id = {link.Id.Value}");
        Assert.Null(Way());
    }

    [Fact]
    public void A_notice_that_comes_down_with_its_session_says_until_then()
    {
        var series = school.Add();
        var key = TestSchool.Key(series, "2026-10-14T09:50");
        TestSchool.Done(
            school.Notices.Put(
                school.Teacher,
                Slug,
                null,
                new NoticeInput("Boots.", "", "2026-10-21", key.ToString(), EndsWithSession: true)
            )
        );
        var kept = TestSchool.Done(school.Notices.View(school.Teacher, Slug)).Notices.Single();
        Assert.Equal(new LocalDate(2026, 10, 14), kept.Notice.LastUp(kept.About));
        Assert.Equal(new LocalDate(2026, 10, 21), (kept.Notice with { EndsWithSession = false }).LastUp(kept.About));
    }

    [Fact]
    public async Task A_copy_goes_to_addresses_outside_the_school()
    {
        school.Add();
        CopyInput To(string addresses) =>
            new(AccessLevel.Outline, "2026-10-14", "2026-10-20", CopyTo.Others, "For your office.")
            {
                Addresses = addresses,
            };
        Assert.Equal("Addresses", TestSchool.Refused(school.Copies.Send(school.Teacher, Slug, To("")))[0].Field);
        Assert.Contains(
            "20 at most",
            TestSchool
                .Refused(
                    school.Copies.Send(
                        school.Teacher,
                        Slug,
                        To(string.Join('\n', Enumerable.Range(0, 21).Select(at => $"a{at}@quillon.example")))
                    )
                )[0]
                .Message,
            StringComparison.Ordinal
        );
        Assert.Equal(
            2,
            TestSchool.Done(
                school.Copies.Send(
                    school.Teacher,
                    Slug,
                    To("office@quillon.example, Office@quillon.example\nhead@quillon.example")
                )
            )
        );
        // Two went; with five times twenty more it is too much for a day.
        CopyInput Many(int turn) =>
            To(string.Join('\n', Enumerable.Range(0, 20).Select(at => $"a{turn}x{at}@quillon.example")));
        for (var turn = 0; turn < 4; turn++)
            TestSchool.Done(school.Copies.Send(school.Teacher, Slug, Many(turn)));
        Assert.Contains(
            "100 copies",
            TestSchool.Refused(school.Copies.Send(school.Teacher, Slug, Many(4)))[0].Message,
            StringComparison.Ordinal
        );
        school.Execute("delete from letters where about_id > 2");
        await school.Post.Send(Stop);
        Assert.Equal(
            ["head@quillon.example", "office@quillon.example"],
            school.Carrier.Letters.Select(letter => letter.ToAddress).Order(StringComparer.Ordinal)
        );
        Assert.All(school.Carrier.Letters, letter =>
        {
            Assert.StartsWith("Hello,", letter.Text, StringComparison.Ordinal);
            Assert.Contains("sends you", letter.Text, StringComparison.Ordinal);
            Assert.Contains("SUMMARY:Tidepool Biology 9A", letter.File!.Calendar, StringComparison.Ordinal);
            // An outline: no text, no join link.
            Assert.DoesNotContain("Bring boots", letter.File.Calendar, StringComparison.Ordinal);
        });
    }

    [Fact]
    public async Task A_series_without_an_end_ends_with_the_term_by_one_press()
    {
        school.Add(TestSchool.Good with { Extent = "open" });
        var noted = school
            .Switchboard.At(school.Teacher, null, null)!
            .Findings.Single(one => one.Finding.Kind == FindingKind.WithoutEnd);
        var remedy = Assert.Single(noted.Finding.Remedies);
        Assert.IsType<Outcome<string>.NotAllowed>(
            await school.Mend.Do(school.Student, noted.Code, remedy.Key, noted.Version, Stop)
        );
        TestSchool.Done(await school.Mend.Do(school.Teacher, noted.Code, remedy.Key, noted.Version, Stop));
        Assert.DoesNotContain(school.Switchboard.At(school.Teacher, null, null)!.Findings, one =>
            one.Finding.Kind == FindingKind.WithoutEnd
        );
        Assert.Equal(
            "ended Tidepool Biology 9A with the Autumn term",
            school.Execute("select summary from history order by id desc limit 1")
        );
    }

    [Fact]
    public void The_schools_day_tells_the_last_backup_and_what_clashes()
    {
        SchoolDay Day() =>
            school.SchoolDayQuery.Read(Fresh(school.Coordinator.Person!.Value), new LocalDate(2026, 10, 14))!;
        Assert.Null(Day().BackupAt);
        var file = Path.Combine(school.Directory, "..", Path.GetRandomFileName());
        Data.DataDirectory.BackUp(school.Directory, file, school.Clock.GetCurrentInstant());
        File.Delete(file);
        Assert.Equal(school.Clock.GetCurrentInstant(), Day().BackupAt);
        school.Add();
        Assert.Empty(Day().Clashes);
        var link = school
            .TermSheetQuery.Read(school.Teacher, Slug, null)!
            .Links.Single()
            .Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture);
        school.Add(
            TestSchool.Good with
            {
                Title = "Helpers’ hour",
                Link = link,
                Period = "",
                Start = "10:45",
                End = "11:35",
            }
        );
        // Whose calendar it is not is told nothing of it.
        Assert.Empty(Day().Clashes);
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new GiveInput(Email(school.Coordinator), "manager")));
        Assert.Equal([FindingKind.WindowsOverlap], Day().Clashes.Select(one => one.Finding.Kind));
    }
}
