using System.Globalization;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Entries, materials and links that are only for some of a class: on every page, feed, embed and door.</summary>
public sealed class OnlyForTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();
    private readonly Viewer inside;
    private readonly Viewer outside;
    private readonly Viewer colleague;
    private readonly GroupId section;

    public OnlyForTests()
    {
        var people = TestSchool.Done(
            school.AddPeople.Do(
                school.Coordinator,
                [
                    new("Inge Strand", "inge@skerry.example", SchoolRole.Student),
                    new("Odd Bakken", "odd@skerry.example", SchoolRole.Student),
                    new("Lucette Arseneau", "lucette@skerry.example", SchoolRole.Teacher),
                ]
            )
        );
        section = school.Database.Write(
            stores =>
            {
                var list = stores.Groups.Add("9A, class list", GroupKind.ClassList);
                var part = stores.Groups.Add("9A, section B", GroupKind.Section);
                stores.Groups.AddGroup(list, part);
                stores.Groups.AddMembers(list, [people[1]]);
                stores.Groups.AddMembers(part, [people[0]]);
                stores.Calendars.Set(
                    new Grant(stores.Calendars.Find(Slug)!.Id, new Grantee.OneGroup(list), AccessLevel.Full)
                );
                stores.Calendars.Touch(stores.Calendars.Find(Slug)!.Id, school.Clock.GetCurrentInstant());
                return part;
            },
            _ => true
        );
        Viewer Of(PersonId id) => school.Database.Read(stores => stores.People.ViewerOf(id));
        (inside, outside, colleague) = (Of(people[0]), Of(people[1]), Of(people[2]));
        TestSchool.Done(school.Share.Give(school.Teacher, Slug, new Grantee.OnePerson(people[2]), AccessLevel.Full));
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Contributor
            )
        );
    }

    public void Dispose() => school.Dispose();

    private string Ticked => AudienceInput.KeyOf(section);

    private static SeriesInput Drill =>
        TestSchool.Good with
        {
            Title = "Barnacle drill",
            Description = "",
            Place = "Cold store",
            Days = ["3"],
            Period = "",
            Start = "14:00",
            End = "14:50",
            Link = "",
        };

    // All that somebody gets to read of the class, as one text: titles, places, materials, ways in; and the counts of the ribbon.
    private async Task<string> Read(Viewer viewer)
    {
        var day = await school.DayQuery.Read(
            viewer,
            new LocalDate(2026, 10, 14),
            ownOnly: false,
            null,
            TestContext.Current.CancellationToken
        );
        var sheet = school.TermSheetQuery.Read(viewer, Slug, null);
        var week = school.WeekQuery.Read(viewer, new LocalDate(2026, 10, 14), [Slug]);
        var page = school.ClassPageQuery.Read(viewer, Slug, asVisitor: false);
        var list = school.CalendarListQuery.Read(viewer);
        IEnumerable<ShownSession?> shown =
        [
            .. day?.Sessions.Select(one => one.Shown) ?? [],
            day?.Next?.Shown,
            .. sheet?.Sheet?.Weeks.SelectMany(one => one.Days).SelectMany(one => one.Sessions) ?? [],
            .. week?.Sheet.Rows.SelectMany(row => row.Days).SelectMany(one => one).Select(one => one.Shown) ?? [],
            page?.Top,
            .. page?.Coming ?? [],
            .. page?.Past ?? [],
            .. list?.Lines.Select(line => line.Next) ?? [],
        ];
        return string.Join(
            ' ',
            [
                .. shown
                    .OfType<ShownSession>()
                    .SelectMany(one =>
                        new[] { one.Title, one.Place, one.Join?.Value ?? "" }.Concat(
                            one.Materials.Select(material => material.Title)
                        )
                    ),
                .. sheet?.Series.Select(one => one.Sentence + one.Series.Title) ?? [],
                .. sheet?.Links.Select(one => one.Name) ?? [],
                .. list?.Lines.SelectMany(line => line.Patterns.Append($"{line.HeldInTerm} held")) ?? [],
                .. page?.OpenRooms.Select(room => room.Name) ?? [],
                .. page?.Materials.Select(material => material.Title) ?? [],
                $"{school.SchoolQuery.Ribbon(viewer, Slug)?.Weeks.SelectMany(one => one.Days).Sum(one => one.Sessions)} on the ribbon",
            ]
        );
    }

    [Theory]
    [InlineData("inside", true)]
    [InlineData("outside", false)]
    [InlineData("colleague", false)]
    [InlineData("contributor", true)]
    [InlineData("manager", true)]
    [InlineData("stranger", false)]
    public async Task An_entry_for_a_section_is_nowhere_for_others(string who, bool sees)
    {
        var viewer = Kind(who);
        school.Add();
        var before = await Read(viewer);
        var drill = school.Add(
            Drill with
            {
                Only = [Ticked],
            },
            new MaterialInput(Title: "Ice chart", Address: "https://tides.skerry.example/ice")
        );
        var after = await Read(viewer);
        Assert.Equal(sees, after.Contains("Barnacle drill", StringComparison.Ordinal));
        Assert.Equal(sees, after.Contains("Cold store", StringComparison.Ordinal));
        Assert.Equal(sees, after.Contains("Ice chart", StringComparison.Ordinal));
        // For whom it is not, nothing at all is different: no count, no time, no row.
        Assert.Equal(sees, before != after);
        var key = school.Database.Read(stores => stores.Materials.Of(drill.Calendar).Single().Key);
        Assert.Equal(sees, school.MaterialQuery.Find(viewer, key) is not null);
    }

    [Fact]
    public void Feeds_embeds_and_the_example_of_sharing_have_what_is_for_all()
    {
        school.Add();
        foreach (
            var (level, i) in new[] { AccessLevel.Busy, AccessLevel.Outline, AccessLevel.Full }.Select(
                (one, i) => (one, i)
            )
        )
        {
            var feed = TestSchool.Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Feed,
                    new PublicationInput($"Feed {i}", level, true, true, true)
                )
            );
            var embed = TestSchool.Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Embed,
                    new PublicationInput($"Panel {i}", level, true, true, true, "https://www.skerry.example")
                )
            );
            var (text, panel) = (Text(feed.Token), Panel(embed.Token));
            var drill = school.Add(Drill with { Only = [Ticked] });
            Assert.Equal(text, Text(feed.Token));
            Assert.Equal(panel, Panel(embed.Token));
            Assert.DoesNotContain(
                "Barnacle",
                string.Join(
                    ' ',
                    TestSchool.Done(school.Share.View(school.Teacher, Slug)).Steps.Select(step => step.Slip?.Title)
                ),
                StringComparison.Ordinal
            );
            TestSchool.Done(school.TakeOff.Do(school.Teacher, Slug, drill.Id, drill.Version));
        }

        // Whatever the calendar's own stamps say, no component came or went.
        string Text(FeedToken token) =>
            string.Join(
                '\n',
                school
                    .ReadFeed.Do(token, TestSchool.Root, _ => false)!
                    .Text!.Split("\r\n")
                    .Where(line =>
                        !line.StartsWith("LAST-MODIFIED", StringComparison.Ordinal)
                        && !line.StartsWith("DTSTAMP", StringComparison.Ordinal)
                    )
            );
        string Panel(FeedToken token) =>
            string.Join('|', school.ReadEmbed.Do(token)!.Coming.Select(one => one.Title + one.Session.StartsAt));
    }

    [Theory]
    [InlineData("inside", true)]
    [InlineData("outside", false)]
    [InlineData("colleague", false)]
    [InlineData("manager", true)]
    public async Task A_material_and_a_link_for_one_section_are_shown_and_open_to_it_alone(string who, bool sees)
    {
        var viewer = Kind(who);
        var series = school.Add(
            materials: new MaterialInput(
                Title: "Answer key",
                Address: "https://tides.skerry.example/key",
                Only: new AudienceInput([Ticked])
            )
        );
        var link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single();
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    link.Code,
                    LinkInput.Of(link) with
                    {
                        Audience = new EntryAudienceInput(nameof(EntryAudience.PeopleOfTheCalendar), Only: [Ticked]),
                    }
                )
                .Waited()
        );
        var text = await Read(viewer);
        Assert.Contains("Tidepool Biology 9A", text, StringComparison.Ordinal);
        Assert.Equal(sees, text.Contains("Answer key", StringComparison.Ordinal));
        Assert.Equal(sees, text.Contains(link.Code.Value, StringComparison.Ordinal));
        // A room that is always open stands on the class page for who may pass; a manager sees that page as the class does.
        school.Execute("update join_links set entry = 'always'");
        Assert.Equal(
            sees && who != "manager",
            school.ClassPageQuery.Read(viewer, Slug, asVisitor: false)!.OpenRooms.Any(room => room.Code == link.Code)
        );
        school.Execute("update join_links set entry = '10 20'");
        var key = school.Database.Read(stores => stores.Materials.Of(series.Calendar).Single().Key);
        Assert.Equal(sees, school.MaterialQuery.Find(viewer, key) is not null);
        school.Clock.Reset(Instant.FromUtc(2026, 10, 14, 12, 50));
        Assert.Equal(
            sees,
            school.Doors.At(link.Code, new AtDoor(viewer)).Waited()!.Entry.Decision == EntryDecision.Free
        );
        Assert.Equal(sees, school.Doors.Enter(link.Code, new AtDoor(viewer), null).Waited() is EntryResult.Through);
        Assert.Null(school.Doors.StateVersionOf(link.Code));
    }

    // Hosts work the door of a link that others' entries use, too: they see when, and are not told what.
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Who_works_the_door_is_not_told_what_is_not_theirs_to_read(bool isPrivate)
    {
        school.Add();
        var link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links.Single();
        var host = colleague.Person!.Value.Value.ToString(CultureInfo.InvariantCulture);
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    link.Code,
                    LinkInput.Of(link) with
                    {
                        Audience = new EntryAudienceInput(Hosts: [host]),
                    }
                )
                .Waited()
        );
        var drill = school.Add(
            Drill with
            {
                Link = link.Id.Value.ToString(CultureInfo.InvariantCulture),
                IsPrivate = isPrivate,
                Only = isPrivate ? [] : [Ticked],
            }
        );
        foreach (var (viewer, isTold) in new[] { (colleague, false), (school.Teacher, true) })
        {
            var board = school.Switchboard.At(viewer, new LocalDate(2026, 10, 14), link.Code)!;
            Assert.Equal(isTold ? "Barnacle drill" : "Busy", board.Rows.Single().OnDay[1].Session.Title);
            Assert.Equal(isTold, board.Chosen!.Series.Contains("Barnacle drill"));
            Assert.Equal(isTold, board.Chosen.Coming.Any(session => session.Title == "Barnacle drill"));
            Assert.DoesNotContain(
                "Barnacle",
                TestSchool
                    .Done(school.Cards.Of(viewer, link.Code, TestSchool.Root, CardParts.Title | CardParts.When))
                    .Card.Text,
                StringComparison.Ordinal
            );
        }

        // A guest is let in to it all the same, by its key, and the history does not tell its name.
        var key = school
            .Switchboard.At(colleague, null, link.Code)!
            .Chosen!.Coming.Single(one => one.Key == TestSchool.Key(drill, "2026-10-14T14:00"))
            .Key;
        TestSchool.Done(school.WorkDoor.MakeGuest(colleague, link.Code, key));
        Assert.Equal(
            "made a guest link to Tidepool room for a private entry, Wed 14 Oct",
            school.Execute("select summary from history order by id desc limit 1")
        );
    }

    [Fact]
    public void Persons_by_tick_and_by_address_and_who_sees_nothing_is_refused()
    {
        TestSchool.Done(
            school.AddPeople.Do(school.Coordinator, [new("Far Away", "far@skerry.example", SchoolRole.Student)])
        );
        TestSchool.Done(school.Share.End(school.Teacher, Slug, "anyone"));
        var input = Drill with
        {
            Only = [AudienceInput.KeyOf(outside.Person!.Value)],
            OnlyOthers = "Inge <inge@skerry.example>",
        };
        var drill = school.Add(input);
        Assert.Equal(
            new Audience([], [.. new[] { inside.Person!.Value, outside.Person.Value }.OrderBy(one => one.Value)]),
            school.Now(drill).OnlyFor
        );
        Assert.Equal(
            "Odd Bakken and Inge Strand",
            school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Single().OnlyFor
        );
        foreach (
            var (wrong, told) in new (SeriesInput, string)[]
            {
                // Known at the school, and without any access here.
                (Drill with { OnlyOthers = "far@skerry.example" }, "“far@skerry.example” does not see this calendar"),
                (
                    Drill with
                    {
                        OnlyOthers = "nobody@skerry.example",
                    },
                    "“nobody@skerry.example” does not see this calendar"
                ),
                (
                    Drill with
                    {
                        OnlyOthers = "teodor@skerry.example\nnonsense",
                    },
                    "There is no e-mail address in “nonsense”"
                ),
                (Drill with { Only = ["g999"] }, "has no access to this calendar any more"),
                (Drill with { Only = ["p1"], OnlyOthers = "" }, "has no access to this calendar any more"),
                (Drill with { Only = ["nonsense"] }, "has no access to this calendar any more"),
            }
        )
            Assert.Contains(
                TestSchool.Refused(school.Compose.Save(school.Teacher, Slug, null, wrong, MaterialInput.None).Waited()),
                problem => problem.Field == "Only" && problem.Message.Contains(told, StringComparison.Ordinal)
            );
        // A form that is saved as it was opened changes nothing; for all again by unticking.
        TestSchool.Done(
            school
                .Compose.Save(school.Teacher, Slug, drill.Id, TestSchool.FormOf(school.Now(drill)), MaterialInput.None)
                .Waited()
        );
        Assert.Equal(2, school.Now(drill).OnlyFor!.People.Length);
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    drill.Id,
                    TestSchool.FormOf(school.Now(drill)) with
                    {
                        Only = [],
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Null(school.Now(drill).OnlyFor);
        // Undone, it is for the two again.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal(2, school.Now(drill).OnlyFor!.People.Length);
    }

    [Fact]
    public void A_group_that_something_is_for_is_not_taken_away_and_who_is_gone_leaves_nothing_open()
    {
        var drill = school.Add(Drill with { Only = [Ticked] });
        Assert.Contains(
            "1 entry, material or link is only for 9A, section B",
            TestSchool.Refused(school.Groups.Remove(school.Coordinator, section, "9A, section B")).Single().Message,
            StringComparison.Ordinal
        );
        TestSchool.Done(school.TakeOff.Do(school.Teacher, Slug, drill.Id, drill.Version));
        TestSchool.Done(school.Groups.Remove(school.Coordinator, section, "9A, section B"));
        // Another group never gets the id of one that is gone.
        var next = school.Database.Write(stores => stores.Groups.Add("Choir", GroupKind.Staff), _ => true);
        Assert.True(next.Value > section.Value);
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        var again = school.Database.Read(stores => stores.People.ViewerOf(outside.Person!.Value));
        Assert.Empty(school.TermSheetQuery.Read(again, Slug, null)!.Series);
        Assert.Equal(
            "nobody who is here",
            school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Single().OnlyFor
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("nonsense")]
    [InlineData("g")]
    [InlineData("g-1")]
    public void Spoiled_it_is_for_nobody_rather_than_for_all(string stored)
    {
        var drill = school.Add(Drill with { Only = [Ticked] });
        school.Execute(
            string.Create(
                CultureInfo.InvariantCulture,
                $"update series set only_for = '{stored}', version = version + 1 where id = {drill.Id.Value}"
            )
        );
        Assert.Empty(school.TermSheetQuery.Read(outside, Slug, null)!.Series);
        Assert.Empty(school.TermSheetQuery.Read(inside, Slug, null)!.Series);
    }

    [Fact]
    public void New_calendars_begin_as_the_school_has_it_and_attendance_goes_after_its_days()
    {
        var (coordinator, schoolDefaults) = (school.Coordinator, school.SchoolDefaults);
        // Discard changes before anybody chose.
        Assert.Equal(
            OpenTo.Everyone,
            school.Calendars.NewForm(school.Teacher, Core.Calendars.CalendarKind.Department).OpenTo
        );
        Assert.Equal(
            (OpenTo.Anyone, true),
            (
                school.Calendars.NewForm(school.Teacher).OpenTo,
                school.Calendars.NewForm(school.Teacher).CoordinatorsManage
            )
        );
        TestSchool.Done(schoolDefaults.Do(coordinator, new SchoolDefaultsInput(OpenTo.Named, ShowsList: true)));
        Assert.Equal(
            "set new calendars to be open to those who are named, with the list shown to its members, and attendance to be kept as long as its entry",
            school.Execute("select summary from history order by id desc limit 1")
        );
        Assert.Equal(
            (OpenTo.Named, false),
            (
                school.Calendars.NewForm(school.Teacher).OpenTo,
                school.Calendars.NewForm(school.Teacher).CoordinatorsManage
            )
        );
        Assert.True(
            TestSchool
                .Done(
                    school.Calendars.Create(
                        school.Teacher,
                        school.Calendars.NewForm(school.Teacher) with
                        {
                            Title = "Knots",
                        }
                    )
                )
                .ShowsList
        );
        foreach (var days in new[] { "0", "-3", "3651", "a year" })
            Assert.Equal(
                "AttendanceDays",
                TestSchool
                    .Refused(
                        schoolDefaults.Do(coordinator, new SchoolDefaultsInput(OpenTo.Named, AttendanceDays: days))
                    )
                    .Single()
                    .Field
            );
        var (series, now) = (school.Add(), school.Clock.GetCurrentInstant());
        school.Database.Write(
            stores =>
            {
                stores.JoinLinks.AddAttendance(
                    new SessionKey(series.Id, new LocalDateTime(2026, 9, 14, 9, 50)),
                    [("Inge Strand", now - Duration.FromDays(10), 30), ("Odd Bakken", now - Duration.FromDays(40), 30)]
                );
                return true;
            },
            kept => kept
        );
        Assert.Equal(
            1,
            TestSchool.Done(schoolDefaults.Do(coordinator, new SchoolDefaultsInput(OpenTo.Named, AttendanceDays: "30")))
        );
        Assert.Equal(1L, school.Execute("select count(*) from attendance"));
        // And each night, before anybody looks.
        school.Share.EndWhatIsOver(now);
        school.Clock.Advance(Duration.FromDays(19));
        school.Share.EndWhatIsOver(school.Clock.GetCurrentInstant());
        Assert.Equal(1L, school.Execute("select count(*) from attendance"));
        Assert.Equal(
            1L,
            school.Execute("select count(*) from history where act = 'SetHabits' and summary like 'let go%'")
        );
        school.Clock.Advance(Duration.FromDays(2));
        school.Share.EndWhatIsOver(school.Clock.GetCurrentInstant());
        Assert.Equal(0L, school.Execute("select count(*) from attendance"));
        Assert.Equal(
            2L,
            school.Execute("select count(*) from history where act = 'SetHabits' and summary like 'let go%'")
        );
    }

    private Viewer Kind(string who) =>
        who switch
        {
            "inside" => inside,
            "outside" => outside,
            "colleague" => colleague,
            "contributor" => school.Helper,
            "manager" => school.Teacher,
            _ => Viewer.Visitor,
        };
}
