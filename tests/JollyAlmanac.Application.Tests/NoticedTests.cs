using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Findings;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Application.Tests;

/// <summary>Small rules whose single edits no test had noticed.</summary>
public sealed class NoticedTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private JoinLink Link => school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links[0];

    private string LinkId => Link.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture);

    private Slug Calendar(string title, OpenTo openTo = OpenTo.Named) =>
        (
            TestSchool
                .Done(
                    school.Calendars.Create(
                        school.Coordinator,
                        new CalendarInput(title, CalendarKind.Class, "", "", MarkColour.Rose, MarkShape.Ring, openTo)
                    )
                )
                .Slug
        );

    private void Give(Slug slug, Viewer who, AccessLevel level, Viewer? by = null) =>
        TestSchool.Done(
            school.Share.Give(by ?? school.Coordinator, slug, new Grantee.OnePerson(who.Person!.Value), level)
        );

    private string Warnings(Viewer viewer, SeriesInput input) =>
        string.Join('|', TestSchool.Done(school.Compose.Preview(viewer, Slug, null, input)).Warnings);

    [Fact]
    public void Sessions_back_to_back_do_not_fall_together()
    {
        school.Add();
        Assert.DoesNotContain(
            "together",
            Warnings(
                school.Teacher,
                TestSchool.Good with
                {
                    Title = "Next",
                    Period = "",
                    Start = "10:40",
                    End = "11:30",
                }
            ),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "together",
            Warnings(
                school.Teacher,
                TestSchool.Good with
                {
                    Title = "Next",
                    Period = "",
                    Start = "10:39",
                    End = "11:30",
                }
            ),
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(
            "together",
            Warnings(
                school.Teacher,
                TestSchool.Good with
                {
                    Title = "Next",
                    Period = "",
                    Start = "9:00",
                    End = "9:50",
                }
            ),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void On_other_days_nothing_falls_together_and_one_of_two_on_a_day_is_enough()
    {
        school.Add();
        var next = TestSchool.Good with { Title = "Next" };
        Assert.DoesNotContain(
            "together",
            Warnings(school.Teacher, next with { Days = ["2", "4"] }),
            StringComparison.Ordinal
        );
        // Twice on one day, of which one is apart: the other still falls together.
        Assert.Contains(
            "together",
            Warnings(
                school.Teacher,
                next with
                {
                    Days = ["2"],
                    Extra = "2026-10-14 9:50-10:40\n2026-10-14 13:00-13:50",
                }
            ),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_new_start_needs_its_end()
    {
        var series = school.Add();
        Assert.Equal(
            "End",
            TestSchool
                .Refused(
                    school.Sessions.Do(
                        school.Teacher,
                        Slug,
                        TestSchool.Key(series, "2026-10-16T09:50"),
                        new SessionInput(
                            "move",
                            new SessionTimeInput("2026-10-16", Start: "09:00"),
                            Version: series.Version
                        )
                    )
                )
                .Single()
                .Field
        );
    }

    [Fact]
    public void Who_has_no_address_is_not_invited()
    {
        var person = TestSchool.Done(
            school.People.Add(school.Coordinator, new PersonInput("Inge Strand", "", SchoolRole.Student))
        );
        Assert.Contains(
            "no e-mail address",
            TestSchool.Refused(school.Invitations.Invite(school.Coordinator, [person]))[0].Message,
            StringComparison.Ordinal
        );
        Assert.Equal(0L, school.Execute("select count(*) from letters"));
    }

    [Fact]
    public void Of_a_long_list_the_first_are_shown_and_all_of_the_level_that_is_asked_for()
    {
        school.Database.Write(
            stores =>
            {
                for (var at = 0; at < Share.Most + 3; at++)
                    stores.Calendars.Set(
                        new Grant(
                            stores.Calendars.Find(Slug)!.Id,
                            new Grantee.OnePerson(
                                stores.People.Add(
                                    $"Person {at}",
                                    new EmailAddress($"p{at}@skerry.example"),
                                    SchoolRole.Teacher,
                                    null,
                                    $"{at}",
                                    school.Clock.GetCurrentInstant()
                                )
                            ),
                            AccessLevel.Outline
                        )
                    );
                return true;
            },
            kept => kept
        );
        foreach (
            var (all, lines, more) in new[]
            {
                ((AccessLevel?)null, Share.Most, 3),
                (AccessLevel.Outline, Share.Most + 3, 0),
                (AccessLevel.Busy, Share.Most, 3),
            }
        )
        {
            var step = TestSchool
                .Done(school.Share.View(school.Teacher, Slug, all: all))
                .Steps.Single(one => one.Level == AccessLevel.Outline);
            Assert.Equal((lines, more), (step.Lines.Count, step.More));
        }
    }

    [Fact]
    public void What_was_made_is_called_what_it_is()
    {
        foreach (var kind in new[] { PublicationKind.Feed, PublicationKind.Embed })
            TestSchool.Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    kind,
                    new PublicationInput(
                        $"Number {kind}",
                        AccessLevel.Full,
                        true,
                        true,
                        true,
                        "https://www.skerry.example"
                    )
                )
            );
        Assert.Equal(
            ["made the embed Number Embed", "made the feed Number Feed"],
            school.CalendarHistoryQuery.Read(school.Teacher, Slug, null)!.Lines.Take(2).Select(line => line.Summary)
        );
        // What is attached is a recording only where somebody says so.
        var series = school.Add(materials: new MaterialInput(Address: "https://tides.skerry.example"));
        Assert.False(school.Database.Read(stores => stores.Materials.Of(series.Calendar).Single().IsRecording));
    }

    [Fact]
    public void Days_left_out_count_from_the_first_to_the_last()
    {
        var series = school.Add(TestSchool.Good with { Except = "2026-10-14 to 2026-10-19" });
        Assert.Equal(
            ["2026-10-14", "2026-10-16", "2026-10-19"],
            school.Now(series).Changes.Select(change => change.Original.Date.ToString("uuuu-MM-dd", null))
        );
    }

    [Theory]
    [InlineData(254, 1L)]
    [InlineData(255, 0L)]
    public void The_longest_address_gets_its_letter(int length, long letters)
    {
        var address =
            new string('a', 60)
            + "@"
            + string.Join('.', Enumerable.Repeat(new string('b', 50), 2))
            + "."
            + new string('c', 63)
            + "."
            + new string('c', length - 60 - 1 - 101 - 1 - 64 - 8)
            + ".example";
        Assert.Equal(length, address.Length);
        school.Database.Write(
            stores =>
                stores.People.Add(
                    "Somebody",
                    new EmailAddress(address),
                    SchoolRole.Teacher,
                    null,
                    "s",
                    school.Clock.GetCurrentInstant()
                ),
            _ => true
        );
        school.Invitations.AskReset(address);
        Assert.Equal(letters, school.Execute("select count(*) from letters"));
    }

    [Fact]
    public async Task A_passcode_of_four_letters_is_taken_out_of_a_text()
    {
        var series = school.Add(TestSchool.Good with { Description = "The code is reef." });
        TestSchool.Done(
            await school.Links.Change(
                school.Teacher,
                Link.Code,
                LinkInput.Of(Link) with
                {
                    Room = new RoomInput("https://rooms.skerry.example/9b", Passcode: "reef"),
                },
                Stop
            )
        );
        var takeOut = school
            .Switchboard.At(school.Teacher, null, null)!
            .Findings.Single(one => one.Finding.Kind == FindingKind.SecretInPublic)
            .Finding.Remedies.Single(one => one.Kind == RemedyKind.TakeOut);
        TestSchool.Done(await school.Mend.Do(school.Teacher, Link.Code, takeOut.Key, Link.Version, Stop));
        Assert.Equal("The code is (see the join link).", school.Now(series).Description);
    }

    // While a session with a room of its own is on, that room is renewed; the standing one stays.
    [Fact]
    public void Renewed_during_a_session_is_the_room_of_that_session()
    {
        var series = school.Add();
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    Link.Code,
                    LinkInput.Of(Link) with
                    {
                        Room = new RoomInput(MakeRoom: true, Renews: true),
                    }
                )
                .Waited()
        );
        school.Clock.Reset(NodaTime.Instant.FromUtc(2026, 10, 14, 12, 55));
        var key = TestSchool.Key(series, "2026-10-14T09:50");
        JoinTarget Target(SessionKey? of) => school.Database.Read(stores => stores.JoinLinks.TargetOf(Link.Id, of));
        Assert.IsType<EntryResult.Through>(school.Doors.Enter(Link.Code, new AtDoor(school.Teacher), null).Waited());
        var (shared, own) = (Target(null).Room, Target(key).Room);
        Assert.NotEqual(shared, own);
        TestSchool.Done(school.Links.Renew(school.Teacher, Link.Code, sure: true, Link.Version).Waited());
        Assert.Equal(shared, Target(null).Room);
        Assert.DoesNotContain(Target(key).Room, new[] { shared, own });
    }

    [Fact]
    public void A_link_begins_on_the_calendar_that_was_asked_for_and_takes_no_address_that_is_taken()
    {
        var second = Calendar("Knots");
        Give(second, school.Teacher, AccessLevel.Manager);
        foreach (var slug in new[] { Slug, second })
            Assert.Equal(slug, TestSchool.Done(school.Links.Begin(school.Teacher, slug)).Calendar.Slug);
        school.Add();
        var other = TestSchool.Done(
            school
                .Links.Add(
                    school.Teacher,
                    second,
                    new LinkInput("Knots", "knots-room", new RoomInput("https://rooms.skerry.example/7"))
                )
                .Waited()
        );
        var refused = TestSchool.Refused(
            school.Links.Change(school.Teacher, Link.Code, LinkInput.Of(Link) with { Code = other.Code.Value }).Waited()
        );
        Assert.Equal(
            ("Code", true),
            (refused.Single().Field, refused.Single().Message.Contains("is taken", StringComparison.Ordinal))
        );
    }

    [Fact]
    public void A_line_that_says_nothing_of_numbers_leaves_them()
    {
        var filled = TestSchool
            .Done(
                school.Quick.Fill(
                    school.Teacher,
                    Slug,
                    "Knots Mon Wed p3, 12 sessions",
                    TestSchool.Good with
                    {
                        NumberLabel = "Lab",
                    }
                )
            )
            .Input;
        Assert.Equal(("Knots", "Lab"), (filled.Title, filled.NumberLabel));
        Assert.Equal(
            "Knots",
            TestSchool
                .Done(
                    school.Quick.Fill(
                        school.Teacher,
                        Slug,
                        "Knots Mon Wed p3, 12 sessions, numbered",
                        TestSchool.Good with
                        {
                            NumberLabel = "Lab",
                        }
                    )
                )
                .Input.NumberLabel
        );
    }

    // A list as long as may be is read; one letter more is not.
    [Theory]
    [InlineData(5_000, "is no website")]
    [InlineData(5_001, "5000 are read")]
    public void The_longest_list_is_read(int length, string told) =>
        Assert.Contains(
            TestSchool.Refused(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Embed,
                    new PublicationInput("Panel", AccessLevel.Full, true, true, true, new string('x', length))
                )
            ),
            problem => problem.Field == "Sites" && problem.Message.Contains(told, StringComparison.Ordinal)
        );

    [Fact]
    public void A_class_in_the_same_room_is_told_of_only_to_who_may_know_of_it()
    {
        var hidden = Calendar("Secret Society");
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Coordinator,
                    hidden,
                    null,
                    TestSchool.Good with
                    {
                        Title = "Hush",
                        Link = "",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.DoesNotContain("Hush", Warnings(school.Teacher, TestSchool.Good), StringComparison.Ordinal);
        Give(hidden, school.Teacher, AccessLevel.Busy);
        Assert.DoesNotContain("Hush", Warnings(school.Teacher, TestSchool.Good), StringComparison.Ordinal);
        Give(hidden, school.Teacher, AccessLevel.Outline);
        Assert.Contains(
            "Hush, Secret Society in Tide Room",
            Warnings(school.Teacher, TestSchool.Good),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_contributor_makes_no_join_link()
    {
        Give(Slug, school.Helper, AccessLevel.Contributor, by: school.Teacher);
        Assert.Equal(
            "Link",
            TestSchool
                .Refused(school.Compose.Save(school.Helper, Slug, null, TestSchool.Good, MaterialInput.None).Waited())[
                    0
                ]
                .Field
        );
        Assert.Equal(0L, school.Execute("select count(*) from join_links"));
    }

    [Fact]
    public async Task What_is_found_about_a_link_is_told_to_who_keeps_it_and_not_to_its_hosts()
    {
        school.Add();
        Give(Slug, school.Helper, AccessLevel.Full, by: school.Teacher);
        TestSchool.Done(
            school
                .Links.Change(
                    school.Teacher,
                    Link.Code,
                    LinkInput.Of(Link) with
                    {
                        Audience = new EntryAudienceInput(
                            Hosts:
                            [
                                school.Helper.Person!.Value.Value.ToString(
                                    System.Globalization.CultureInfo.InvariantCulture
                                ),
                            ]
                        ),
                    }
                )
                .Waited()
        );
        Assert.NotEmpty(school.Switchboard.At(school.Teacher, null, null)!.Findings);
        Assert.NotEmpty((await school.DayQuery.Read(school.Teacher, null, true, null, Stop))!.Findings);
        Assert.NotEmpty(school.Switchboard.At(school.Helper, null, null)!.Rows);
        Assert.Empty(school.Switchboard.At(school.Helper, null, null)!.Findings);
        Assert.Empty((await school.DayQuery.Read(school.Helper, null, true, null, Stop))!.Findings);
    }

    [Fact]
    public async Task A_remedy_on_a_series_of_another_class_is_for_those_who_may_change_it_there()
    {
        school.Add();
        var other = Calendar("Knots");
        Give(other, school.Teacher, AccessLevel.Manager);
        var shared = TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    other,
                    null,
                    TestSchool.Good with
                    {
                        Title = "Knots",
                        Link = LinkId,
                        Period = "",
                        Start = "14:00",
                        End = "14:50",
                        Description = "Use https://rooms.skerry.example/9a?passcode=kelp",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Give(Slug, school.Helper, AccessLevel.Editor, by: school.Teacher);
        var found = school.Switchboard.At(school.Teacher, null, null)!.Findings;
        var takeOut = found
            .Single(one => one.Finding.Kind == FindingKind.SecretInPublic)
            .Finding.Remedies.Single(one => one.Kind == RemedyKind.TakeOut);
        var ownLink = found
            .Single(one => one.Finding.Kind == FindingKind.ClassesApart)
            .Finding.Remedies.Single(one => one.Kind == RemedyKind.OwnLink);
        foreach (var level in new[] { AccessLevel.Busy, AccessLevel.Full })
        {
            Give(other, school.Helper, level);
            Assert.Equal(
                "NotAllowed",
                (await school.Mend.Do(school.Helper, Link.Code, takeOut.Key, Link.Version, Stop)).GetType().Name
            );
        }

        // Who may change the series, and make no links there.
        Give(other, school.Helper, AccessLevel.Contributor);
        school.Execute($"update series set made_by = {school.Helper.Person!.Value.Value} where id = {shared.Id.Value}");
        var links = school.Execute("select count(*) from join_links");
        Assert.Equal(
            "NotAllowed",
            (await school.Mend.Do(school.Helper, Link.Code, ownLink.Key, Link.Version, Stop)).GetType().Name
        );
        Assert.Equal(links, school.Execute("select count(*) from join_links"));
        TestSchool.Done(await school.Mend.Do(school.Helper, Link.Code, takeOut.Key, Link.Version, Stop));
    }

    [Fact]
    public void A_calendar_that_is_put_away_is_there_for_its_managers_alone()
    {
        school.Add();
        Give(Slug, school.Helper, AccessLevel.Editor, by: school.Teacher);
        TestSchool.Done(
            school.Calendars.Archive(
                school.Teacher,
                Slug,
                school.CalendarListQuery.Find(school.Teacher, Slug)!.Value.Calendar.Version
            )
        );
        Assert.Null(school.CalendarListQuery.Find(school.Helper, Slug));
        Assert.Null(school.TermSheetQuery.Read(school.Helper, Slug, null));
        Assert.NotNull(school.TermSheetQuery.Read(school.Teacher, Slug, null));
    }

    [Fact]
    public void A_door_for_people_of_the_class_is_passed_by_those_of_each_class_that_uses_it()
    {
        school.Add();
        var form = school.Calendars.Form(school.Teacher, Slug)!;
        TestSchool.Done(
            school.Calendars.Change(school.Teacher, Slug, form with { OpenTo = OpenTo.Named, CloseLinks = true })
        );
        var other = Calendar("Knots");
        Give(other, school.Teacher, AccessLevel.Manager);
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    other,
                    null,
                    TestSchool.Good with
                    {
                        Title = "Knots",
                        Link = LinkId,
                        Period = "1",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        EntryDecision Of(Viewer who) => school.Doors.At(Link.Code, new AtDoor(who)).Waited()!.Entry.Decision;
        Assert.Equal(EntryDecision.NotForYou, Of(school.Helper));
        Give(other, school.Helper, AccessLevel.Outline);
        Assert.Equal(EntryDecision.NotForYou, Of(school.Helper));
        Give(other, school.Helper, AccessLevel.Full);
        Assert.Equal(EntryDecision.Free, Of(school.Helper));
        Give(Slug, school.Helper, AccessLevel.Busy, by: school.Teacher);
        Assert.Equal(EntryDecision.Free, Of(school.Helper));
    }
}

/// <summary>Private entries: for others, only that the time is taken; everywhere.</summary>
public sealed class PrivateTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    // Level of the reader, whose entry it is, and whether its title may be read.
    [Theory]
    [InlineData(AccessLevel.Busy, false, false)]
    [InlineData(AccessLevel.Outline, false, false)]
    [InlineData(AccessLevel.Full, false, false)]
    [InlineData(AccessLevel.Full, true, true)]
    [InlineData(AccessLevel.Contributor, false, false)]
    [InlineData(AccessLevel.Contributor, true, true)]
    [InlineData(AccessLevel.Editor, false, true)]
    [InlineData(AccessLevel.Manager, false, true)]
    public async Task A_private_entry_is_read_by_its_maker_and_those_who_may_change_everything(
        AccessLevel level,
        bool own,
        bool reads
    )
    {
        var form = school.Calendars.Form(school.Teacher, Slug)!;
        TestSchool.Done(school.Calendars.Change(school.Teacher, Slug, form with { OpenTo = OpenTo.Named }));
        var series = school.Add(TestSchool.Good with { Title = "Talk about grades", IsPrivate = true });
        Assert.True(school.Now(series).IsPrivate);
        TestSchool.Done(
            school.Share.Give(school.Teacher, Slug, new Grantee.OnePerson(school.Helper.Person!.Value), level)
        );
        if (own)
            school.Execute($"update series set made_by = {school.Helper.Person!.Value.Value}");
        var helper = school.Helper;
        var sheet = school.TermSheetQuery.Read(helper, Slug, null)!;
        var day = (await school.DayQuery.Read(helper, null, true, null, TestContext.Current.CancellationToken))!;
        string[] seen =
        [
            .. sheet.Series.Select(one => one.Sentence),
            .. sheet.Links.Select(link => link.Code.Value),
            .. sheet.Sheet!.Weeks.SelectMany(week => week.Days).SelectMany(one => one.Sessions).Select(Text),
            .. sheet.Last.Select(line => line.Summary),
            .. day.Sessions.Select(one => Text(one.Shown)),
            .. school
                .WeekQuery.Read(helper, null, [Slug])!
                .Sheet.Rows.SelectMany(row => row.Days)
                .SelectMany(cell => cell)
                .Select(one => Text(one.Shown)),
            .. school.ClassPageQuery.Read(helper, Slug, false)!.Coming.Select(Text),
            .. school.CalendarHistoryQuery.Read(helper, Slug, null)?.Lines.Select(line => line.Summary) ?? [],
            school.CalendarListQuery.Read(helper)!.Lines.Single(line => line.Calendar.Slug == Slug).Next is { } next
                ? Text(next)
                : "",
        ];
        Assert.Equal(reads, seen.Any(text => text.Contains("grades", StringComparison.Ordinal)));
        Assert.Equal(reads, seen.Any(text => text.Contains("Tide Room", StringComparison.Ordinal)));
        Assert.Contains(day.Sessions, one => one.Shown.Session.IsHeld);
        var warnings =
            level < AccessLevel.Contributor
                ? ""
                : string.Join(
                    ' ',
                    TestSchool
                        .Done(
                            school.Compose.Preview(
                                helper,
                                Slug,
                                null,
                                TestSchool.Good with
                                {
                                    Title = "Next",
                                    Link = "",
                                }
                            )
                        )
                        .Warnings
                );
        Assert.Equal(reads && level >= AccessLevel.Contributor, warnings.Contains("grades", StringComparison.Ordinal));
        // What others read by an address is read by many: it says the time alone.
        var feed = TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                Slug,
                Core.Publishing.PublicationKind.Feed,
                new Publishing.PublicationInput("All", AccessLevel.Full, true, true, true)
            )
        );
        var text = school.ReadFeed.Do(feed.Token, TestSchool.Root, _ => false)!.Text!;
        Assert.Contains("SUMMARY:Busy", text, StringComparison.Ordinal);
        Assert.DoesNotContain("grades", text, StringComparison.Ordinal);
        Assert.DoesNotContain("Tide Room", text, StringComparison.Ordinal);
    }

    private static string Text(ShownSession shown) =>
        $"{shown.Title} {shown.Place} {shown.Description} {shown.Session.Title} {shown.Session.Of.Title} {shown.Session.Place}";
}
