using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Core.Tests;

public class AccessTests
{
    // The whole table: levels None, Busy, Outline, Full, Contributor, Editor, Manager; y may, o may with their own, n may not.
    private static readonly Dictionary<Permission, string> Table = new()
    {
        [Permission.SeeTimes] = "nyyyyyy",
        [Permission.SeeOutline] = "nnyyyyy",
        [Permission.SeeDetails] = "nnnyyyy",
        [Permission.AddSeries] = "nnnnyyy",
        [Permission.ChangeSeries] = "nnnnoyy",
        [Permission.DeleteSeries] = "nnnnoyy",
        [Permission.KeepJoinLinks] = "nnnnnyy",
        [Permission.KeepNotices] = "nnnnnyy",
        [Permission.WorkDoor] = "nnnooyy",
        [Permission.Publish] = "nnnnnny",
        [Permission.ChangeCalendar] = "nnnnnny",
        [Permission.SeeHistory] = "nnnnyyy",
        [Permission.SeeClassList] = "nnnnyyy",
        [Permission.GetSessions] = "nnyyyyy",
        // Asked of the school: no level on a calendar gives them.
        [Permission.MakeCalendar] = "nnnnnnn",
        [Permission.FindPeople] = "nnnnnnn",
        [Permission.KeepOwnAccount] = "nnnnnnn",
        [Permission.KeepSchool] = "nnnnnnn",
    };

    [Fact]
    public void Every_deed_at_every_level_is_as_the_table_says()
    {
        Assert.Equal(Enum.GetValues<Permission>().Order(), Table.Keys.Order());
        foreach (var (permission, row) in Table)
        foreach (var level in Enum.GetValues<AccessLevel>())
        {
            Assert.Equal(
                (permission, level, row[(int)level] == 'y'),
                (permission, level, AccessRules.May(permission, level))
            );
            Assert.Equal(
                (permission, level, row[(int)level] != 'n'),
                (permission, level, AccessRules.May(permission, level, own: true))
            );
        }
    }

    [Fact]
    public void A_person_has_the_highest_level_that_any_grant_gives()
    {
        var (calendar, orla, nines) = (new CalendarId(1), new PersonId(7), new GroupId(3));
        Grant[] grants =
        [
            new(calendar, new Grantee.Anyone(), AccessLevel.Busy),
            new(calendar, new Grantee.Everyone(), AccessLevel.Outline),
            new(calendar, new Grantee.OneGroup(nines), AccessLevel.Full),
            new(calendar, new Grantee.OnePerson(orla), AccessLevel.Editor),
        ];
        AccessLevel Of(long? person, params long[] groups) =>
            AccessRules.LevelOf(
                new Viewer(
                    person is { } id ? new PersonId(id) : null,
                    SchoolRole.Student,
                    groups.Select(group => new GroupId(group)).ToHashSet()
                ),
                grants
            );
        Assert.Equal(AccessLevel.Busy, Of(null));
        Assert.Equal(AccessLevel.Outline, Of(8));
        Assert.Equal(AccessLevel.Full, Of(8, 3));
        Assert.Equal(AccessLevel.Editor, Of(7, 3));
        Assert.Equal(AccessLevel.None, AccessRules.LevelOf(Viewer.Visitor, grants[1..]));
    }

    [Theory]
    [InlineData(SchoolRole.Coordinator, "MakeCalendar FindPeople KeepOwnAccount KeepSchool")]
    [InlineData(SchoolRole.Teacher, "MakeCalendar FindPeople KeepOwnAccount")]
    [InlineData(SchoolRole.Student, "KeepOwnAccount")]
    [InlineData(SchoolRole.Family, "KeepOwnAccount")]
    [InlineData(SchoolRole.Guest, "KeepOwnAccount")]
    [InlineData(null, "")]
    public void Roles_decide_what_is_asked_of_the_school(SchoolRole? role, string may) =>
        Assert.Equal(
            may,
            string.Join(
                ' ',
                Enum.GetValues<Permission>().Where(permission => AccessRules.MayAtSchool(permission, role))
            )
        );

    [Property(MaxTest = 200)]
    public Property Redaction_never_shows_what_the_level_or_the_choices_keep_back() =>
        Prop.ForAll(
            Arb.From(
                from level in Gen.Elements(Enum.GetValues<AccessLevel>())
                from flags in Gen.Choose(0, 15)
                select (level, flags)
            ),
            random =>
            {
                var (level, flags) = random;
                var choices = new ShowChoices((flags & 1) > 0, (flags & 2) > 0, (flags & 4) > 0, (flags & 8) > 0);
                var session = Skerry
                    .Plan(
                        Skerry.Pattern("Tue", Skerry.Clock(9, 0, 10, 0), new LocalDate(2026, 9, 15), new Extent.Held(1))
                    )
                    .Held.Single();
                Material[] materials =
                [
                    Handout("for anyone", MaterialAudience.Anyone),
                    Handout("for people", MaterialAudience.PeopleOfTheCalendar),
                    Handout("elsewhere", MaterialAudience.Anyone) with
                    {
                        Series = new SeriesId(9),
                    },
                ];
                var shown = Redaction.Show(
                    session,
                    level,
                    choices,
                    At(materials),
                    new JoinWay(new JoinCode("tide-23456"))
                );
                if (level == AccessLevel.None)
                    return shown is null;
                var (outline, full) = (level >= AccessLevel.Outline, level >= AccessLevel.Full);
                return shown!.Title == (outline ? "Tidepool Biology 9A" : "Busy")
                    && shown.IsBusyOnly == !outline
                    && shown.Number is null == !outline
                    && shown.Place == (outline ? "Tide Room" : "")
                    && shown.Description == (full && choices.Descriptions ? "Bring boots." : "")
                    && shown.Join is null == !(full && choices.JoinLinks)
                    && shown
                        .Materials.Select(material => material.Title)
                        .SequenceEqual(
                            full && choices.Materials
                                ? choices.Public
                                    ? ["for anyone"]
                                    : ["for anyone", "for people"]
                                : []
                        );
            }
        );

    // What was done to a session, and where it comes from, is no time: a page that draws it cannot tell.
    [Fact]
    public void Who_sees_only_times_sees_nothing_of_what_was_done_to_them()
    {
        var series = Skerry.Series(
            Skerry.Pattern("Tue", Skerry.Clock(9, 0, 10, 0), new LocalDate(2026, 9, 15), new Extent.Held(1))
        ) with
        {
            JoinLink = new JoinLinkId(3),
            NumberLabel = "Lab",
            Changes =
            [
                new Change(
                    new LocalDateTime(2026, 9, 15, 9, 0, 0),
                    SessionStatus.AsPlanned,
                    new LocalDate(2026, 9, 16),
                    null,
                    "Barnacle day",
                    "Shore",
                    "Boots"
                ),
            ],
        };
        var moved = Planner.PlanOf(series, Skerry.Time).Held.Single();
        Assert.True(moved.IsMoved);
        var shown = Redaction
            .Show(
                moved,
                AccessLevel.Busy,
                ShowChoices.SignedIn,
                MaterialsAt.None,
                new JoinWay(new JoinCode("tide-23456"))
            )!
            .Session;
        Assert.Equal((moved.StartsAt, moved.EndsAt, moved.Day), (shown.StartsAt, shown.EndsAt, shown.Day));
        Assert.Equal(
            ("", "", "", "", false, null),
            (shown.Title, shown.Place, shown.Of.Description, shown.Note, shown.IsMoved, shown.Number)
        );
        Assert.Null(shown.Change);
        Assert.Null(shown.JoinLink);
        Assert.Empty(shown.Of.Changes);
    }

    // One's own are those that name one, or whose class list one is on: not those of a staff group, of another class, or open to all.
    [Theory]
    [InlineData("me", true)]
    [InlineData("another", false)]
    [InlineData("my class", true)]
    [InlineData("another class", false)]
    [InlineData("my staff", false)]
    [InlineData("another staff", false)]
    [InlineData("everyone", false)]
    [InlineData("anyone", false)]
    public void A_calendar_is_ones_own_by_name_or_by_class_list(string to, bool isOwn)
    {
        var viewer = new Viewer(new PersonId(7), SchoolRole.Teacher, new HashSet<GroupId> { new(1), new(3) });
        Grantee grantee = to switch
        {
            "me" => new Grantee.OnePerson(new PersonId(7)),
            "another" => new Grantee.OnePerson(new PersonId(8)),
            "my class" => new Grantee.OneGroup(new GroupId(1)),
            "another class" => new Grantee.OneGroup(new GroupId(2)),
            "my staff" => new Grantee.OneGroup(new GroupId(3)),
            "another staff" => new Grantee.OneGroup(new GroupId(4)),
            "everyone" => new Grantee.Everyone(),
            _ => new Grantee.Anyone(),
        };
        Assert.Equal(
            isOwn,
            AccessRules.IsOwn(
                viewer,
                [new Grant(new CalendarId(1), grantee, AccessLevel.Full)],
                new HashSet<GroupId> { new(1), new(2) }
            )
        );
        Assert.False(
            AccessRules.IsOwn(
                Viewer.Visitor,
                [new Grant(new CalendarId(1), grantee, AccessLevel.Full)],
                new HashSet<GroupId> { new(1), new(2) }
            )
        );
    }

    [Theory]
    [InlineData(EntryAudience.Anyone, "yyyy")]
    [InlineData(EntryAudience.School, "nyyy")]
    [InlineData(EntryAudience.PeopleOfTheCalendar, "nnny")]
    public void Who_passes_a_door_is_asked_of_sign_in_and_level(EntryAudience audience, string passes)
    {
        var person = new Viewer(new PersonId(7), SchoolRole.Student, new HashSet<GroupId>());
        var found = new[]
        {
            (Viewer.Visitor, AccessLevel.Manager),
            (person, AccessLevel.None),
            (person, AccessLevel.Outline),
            (person, AccessLevel.Full),
        }.Select(one => AccessRules.Passes(audience, null, one.Item1, one.Item2, default) ? 'y' : 'n');
        Assert.Equal(passes, string.Concat(found));
    }

    // Reader | level | is the entry there | its material | its way in | does its door let them in. The same entry is for one section and
    // one person; no other standard than this project's own words.
    [Theory]
    [InlineData("in the section", AccessLevel.Full, "yyyy")]
    [InlineData("in the section", AccessLevel.Outline, "ynnn")]
    [InlineData("in the section", AccessLevel.Busy, "ynnn")]
    [InlineData("in the section", AccessLevel.None, "nnnn")]
    [InlineData("by name", AccessLevel.Full, "yyyy")]
    [InlineData("in another section", AccessLevel.Busy, "nnnn")]
    [InlineData("in another section", AccessLevel.Outline, "nnnn")]
    [InlineData("in another section", AccessLevel.Full, "nnnn")]
    [InlineData("in another section", AccessLevel.Contributor, "yyyy")]
    [InlineData("in another section", AccessLevel.Editor, "yyyy")]
    [InlineData("in another section", AccessLevel.Manager, "yyyy")]
    [InlineData("stranger", AccessLevel.Full, "nnnn")]
    [InlineData("a feed", AccessLevel.Full, "nnnn")]
    public void What_is_only_for_some_is_there_for_them_and_for_who_works_on_it(
        string who,
        AccessLevel level,
        string expected
    )
    {
        static Viewer Person(long id, long group) =>
            new(new PersonId(id), SchoolRole.Student, new HashSet<GroupId> { new(1), new(group) });
        var reader = who switch
        {
            "in the section" => Person(7, 3),
            "by name" => Person(8, 4),
            "in another section" => Person(9, 4),
            "stranger" => Viewer.Visitor,
            _ => null,
        };
        var only = new Audience([new GroupId(3)], [new PersonId(8)]);
        var open = Skerry.Series(
            Skerry.Pattern("Tue", Skerry.Clock(9, 0, 10, 0), new LocalDate(2026, 9, 15), new Extent.Held(1))
        );
        ShownSession? Show(Core.Series.Series series, Material material, JoinWay way) =>
            Redaction.Show(
                Planner.PlanOf(series, Skerry.Time).Held.Single(),
                level,
                ShowChoices.SignedIn,
                At(material),
                way,
                reader
            );
        var (handout, way) = (Handout("for some", MaterialAudience.Anyone), new JoinWay(new JoinCode("tide-23456")));
        var entry = Show(open with { OnlyFor = only }, handout, way) is not null;
        var beside = Show(open, handout with { OnlyFor = only }, way with { OnlyFor = only });
        var passes = AccessRules.Passes(
            EntryAudience.PeopleOfTheCalendar,
            only,
            reader ?? Viewer.Visitor,
            level,
            default
        );
        Assert.Equal(
            expected,
            string.Concat(
                new[] { entry, beside?.Materials.Length > 0, beside?.Join is not null, passes }.Select(one =>
                    one ? 'y' : 'n'
                )
            )
        );
        // An entry that is for nobody any more is not for all.
        Assert.Equal(
            level >= AccessLevel.Contributor,
            Redaction.LevelOn(open with { OnlyFor = new Audience([], []) }, level, reader) > AccessLevel.None
        );
    }

    private static MaterialsAt At(params Material[] materials) =>
        new(new MaterialsOf(materials), Instant.FromUtc(2026, 9, 1, 0, 0), Skerry.Time.Zone);

    private static Material Handout(string title, MaterialAudience audience) =>
        new(
            default,
            new CalendarId(1),
            new SeriesId(1),
            null,
            new MaterialKey("key"),
            title,
            new MaterialContent.Link(new Uri("https://tides.skerry.example/")),
            audience
        );
}
