using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;

namespace JollyAlmanac.Application.Tests;

/// <summary>A series moves to another calendar, whole or from a day on, with all that hangs on it; and back in one undo.</summary>
public sealed class MoveSeriesTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly Series series;
    private readonly Slug other;

    public MoveSeriesTests()
    {
        series = school.Add(
            TestSchool.Good,
            MaterialInput.None with
            {
                Title = "Field book",
                Address = "https://books.skerry.example/field",
            }
        );
        other = Make(school.Teacher, "Reef Club");
        Give(Slug, school.Student, AccessLevel.Full);
    }

    public void Dispose() => school.Dispose();

    private Slug Make(Viewer who, string title) =>
        TestSchool
            .Done(
                school.Calendars.Create(
                    who,
                    school.Calendars.NewForm(school.Teacher) with
                    {
                        Title = title,
                        OpenTo = OpenTo.Named,
                    }
                )
            )
            .Slug;

    private void Give(Slug slug, Viewer to, AccessLevel level) =>
        TestSchool.Done(school.Share.Give(school.Teacher, slug, new Grantee.OnePerson(to.Person!.Value), level));

    private Outcome<string> Move(string? from = "", Slug? to = null, int? version = null, Viewer? who = null) =>
        school.Move.Do(
            who ?? school.Teacher,
            Slug,
            series.Id,
            new MoveInput((to ?? other).Value, from, version ?? school.Now(series).Version)
        );

    private string[] On(Slug slug) =>
        [
            .. school
                .TermSheetQuery.Read(school.Teacher, slug, null)!
                .Series.Select(one => $"{one.Series.Title} {one.Plan.HeldCount} from {one.Series.FirstNumber}"),
        ];

    [Fact]
    public void All_of_it_moves_and_comes_back_in_one_undo()
    {
        school.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring nets."));
        var (before, state) = (
            On(Slug),
            school.Execute("select group_concat(id || key || calendar_id) from materials")
        );
        Assert.Equal("Moved Tidepool Biology 9A to Reef Club.", TestSchool.Done(Move()));
        Assert.Empty(On(Slug));
        Assert.Equal(before, On(other));
        var moved = school.TermSheetQuery.Read(school.Teacher, other, null)!.Series.Single().Series;
        Assert.Equal((series.Id, series.Uid, "Bring nets."), (moved.Id, moved.Uid, moved.Changes.Single().Note));
        Assert.Equal(
            1L,
            school.Execute(
                $"select count(*) from materials m join calendars c on c.id = m.calendar_id where c.slug = '{other}'"
            )
        );
        // Its people of before see it no more.
        Assert.Null(school.ClassPageQuery.Read(school.Student, other, false));
        Assert.Empty(school.ClassPageQuery.Read(school.Student, Slug, false)!.Coming);
        Assert.Equal(
            "Undid: moved Tidepool Biology 9A to Reef Club.",
            TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug))
        );
        Assert.Equal(before, On(Slug));
        Assert.Equal(state, school.Execute("select group_concat(id || key || calendar_id) from materials"));
        Assert.Empty(On(other));
        Assert.Equal(
            [
                "gave Tidepool Biology 9A back to Tidepool Biology 9A",
                "got Tidepool Biology 9A from Tidepool Biology 9A",
            ],
            school.CalendarHistoryQuery.Read(school.Teacher, other, null)!.Lines.Take(2).Select(line => line.Summary)
        );
    }

    [Fact]
    public void From_a_day_on_the_rest_moves_and_goes_on_counting()
    {
        var before = On(Slug);
        var held = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Single().Plan.Held.ToList();
        var earlier = held.Count(session => session.Day < new NodaTime.LocalDate(2026, 11, 3));
        TestSchool.Done(Move("2026-11-03"));
        Assert.Equal([$"Tidepool Biology 9A {earlier} from 1"], On(Slug));
        Assert.Equal([$"Tidepool Biology 9A {held.Count - earlier} from {earlier + 1}"], On(other));
        // What is for all of them is on both.
        Assert.Equal(2L, school.Execute("select count(distinct calendar_id) from materials"));
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal(before, On(Slug));
        Assert.Empty(On(other));
    }

    [Fact]
    public void From_its_first_day_on_is_all_of_it()
    {
        TestSchool.Done(Move("2026-09-01"));
        Assert.Empty(On(Slug));
        Assert.Single(On(other));
    }

    [Fact]
    public void What_was_changed_there_since_is_not_undone_here()
    {
        TestSchool.Done(Move());
        TestSchool.Done(
            school.Sessions.Do(
                school.Teacher,
                other,
                TestSchool.Key(series, "2026-10-19T09:50"),
                new SessionInput("leave-out", Version: series.Version + 1)
            )
        );
        Assert.IsType<Outcome<string>.Stale>(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Single(On(other));
        // An earlier state of it is not brought back where it is not any more, either.
        var line = school
            .CalendarHistoryQuery.Read(school.Teacher, Slug, null)!
            .Lines.First(one => one.Summary.StartsWith("added", StringComparison.Ordinal));
        Assert.Contains(
            "moved to another calendar",
            Assert
                .Single(
                    TestSchool.Refused(
                        school.GoBack.Restore(
                            school.Teacher,
                            Slug,
                            line.Id,
                            school.CalendarHeadQuery.Read(school.Teacher, Slug)!.Calendar.Revision
                        )
                    )
                )
                .Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Two_who_move_it_at_once_do_not_both()
    {
        var version = school.Now(series).Version;
        TestSchool.Done(Move(version: version));
        Assert.IsType<Outcome<string>.NotFound>(Move(version: version));
        Assert.Single(On(other));
    }

    [Theory]
    [InlineData("", "no-such", "To")]
    [InlineData("", "tidepool-biology-9a", "To")]
    [InlineData("2027-03-01", "reef-club", "From")]
    [InlineData("soon", "reef-club", "From")]
    public void What_cannot_be_is_refused_and_changes_nothing(string from, string to, string field)
    {
        var before = school.Rows();
        Assert.Equal(field, Assert.Single(TestSchool.Refused(Move(from, new Slug(to)))).Field);
        Assert.Equal(before, school.Rows());
    }

    // To who may not add there it does not go, and who may not work its door opens it for nobody else.
    [Fact]
    public void It_goes_only_where_its_mover_may_add_and_open_its_door()
    {
        var theirs = Make(school.Coordinator, "Office");
        Assert.Equal("To", Assert.Single(TestSchool.Refused(Move(to: theirs))).Field);
        Give(Slug, school.Helper, AccessLevel.Contributor);
        var own = Make(school.Helper, "Helpers");
        Assert.IsType<Outcome<string>.NotAllowed>(Move(to: own, who: school.Helper));
        school.Execute($"update series set made_by = {school.Helper.Person!.Value.Value}");
        Assert.Contains(
            "door",
            Assert.Single(TestSchool.Refused(Move(to: own, who: school.Helper))).Message,
            StringComparison.Ordinal
        );
        Assert.Single(On(Slug));
    }

    [Fact]
    public void It_is_told_first_what_becomes_of_it()
    {
        Give(other, school.Helper, AccessLevel.Full);
        var told = TestSchool
            .Done(school.MoveQuery.Read(school.Teacher, Slug, series.Id, new MoveInput(other.Value, "2026-11-03")))
            .Told;
        Assert.Collection(
            told,
            one =>
                Assert.Matches(
                    @"^\d+ sessions go to Reef Club, with their numbers, notes and changes; \d+ before stay on Tidepool Biology 9A\.$",
                    one
                ),
            one =>
                Assert.Equal(
                    "1 person sees it no more (Teodor Quill) and 1 person sees it who did not (Eilidh Torrance).",
                    one
                ),
            one => Assert.Equal("Strangers see it no more as they did on Tidepool Biology 9A.", one),
            one => Assert.Equal("1 material goes with them; its address stays.", one),
            one =>
                Assert.Matches(@"^It is joined by /in/\S+ as before; the link stays with Tidepool Biology 9A\.$", one)
        );
        Assert.Empty(TestSchool.Done(school.MoveQuery.Read(school.Teacher, Slug, series.Id, new MoveInput())).Told);
    }

    // Who gets its sessions by e-mail, and not those of the other calendar, is told that they end.
    [Fact]
    public async Task Who_had_it_by_e_mail_is_told_that_it_ends()
    {
        TestSchool.Done(school.ByMail.Begin(school.Student, Slug));
        school.Letters.Look();
        await school.Post.Send(default);
        Assert.Single(school.Carrier.Letters);
        TestSchool.Done(Move());
        school.Letters.Look();
        school.Clock.Advance(NodaTime.Duration.FromMinutes(3));
        await school.Post.Send(default);
        Assert.Contains("taken out of your calendar", school.Carrier.Letters[^1].Subject, StringComparison.Ordinal);
        Assert.Equal(2, school.Carrier.Letters.Count);
    }
}
