using System.Globalization;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>
/// What is kept in memory shows each change at the next reading, whoever wrote it; and nothing else makes it be read anew.
/// </summary>
public sealed class StandingTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly TestSchool beside;

    public StandingTests() => beside = new TestSchool(school);

    public void Dispose()
    {
        beside.Dispose();
        school.Dispose();
    }

    // Every kind of act, done by another process; each is seen at once in all that this one keeps.
    [Fact]
    public void What_another_process_writes_is_seen_at_the_next_reading()
    {
        var series = beside.Add();
        var code = beside.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links[0].Code;
        var feed = TestSchool
            .Done(
                beside.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("Feed", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        var embed = TestSchool
            .Done(
                beside.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Embed,
                    new PublicationInput("Embed", AccessLevel.Full, true, true, true, "https://www.skerry.example")
                )
            )
            .Token;
        var views = Views(school, code, feed, embed);
        Core.Calendars.Calendar Class() => beside.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Calendar;
        JoinLink Link() => beside.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Links[0];
        LinkInput Form() => LinkInput.Of(TestSchool.Done(beside.Links.Open(school.Teacher, code)).Link);
        foreach (
            var (what, act) in new (string, Action)[]
            {
                ("a session is moved", () =>
                    beside.Change(
                        series,
                        "2026-10-16T09:50",
                        new SessionInput("move", new SessionTimeInput("2026-10-15", "4"))
                    )
                ),
                ("a session gets a note", () =>
                    beside.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring boots."))
                ),
                ("a notice goes up", () =>
                    TestSchool.Done(
                        beside.Notices.Put(
                            school.Teacher,
                            TestSchool.Slug,
                            null,
                            new NoticeInput("Boots.", "", "2026-10-20")
                        )
                    )
                ),
                ("a series is added", () =>
                    beside.Add(TestSchool.Good with { Title = "Lab", Link = "", Days = ["2"] })
                ),
                ("a material is attached", () =>
                    TestSchool.Done(
                        beside
                            .Compose.Save(
                                school.Teacher,
                                TestSchool.Slug,
                                series.Id,
                                SeriesInput.Of(beside.Now(series)),
                                new MaterialInput(null, "Field sheet", "https://files.skerry.example/a")
                            )
                            .Waited()
                    )
                ),
                ("a no-class day comes", () =>
                    TestSchool.Done(
                        beside.SchoolTime.Do(school.Coordinator, time => new SchoolTime(
                            time.Zone,
                            time.FirstDayOfWeek,
                            time.Terms,
                            [
                                .. time.NoClassDays,
                                new NoClassDay(new(2026, 10, 21), new(2026, 10, 21), "Storm", NoClassKind.Weather),
                            ],
                            time.Bells,
                            time.Cycle
                        ))
                    )
                ),
                ("the door is closed by hand", () =>
                    TestSchool.Done(beside.WorkDoor.Do(school.Teacher, code, DoorOperation.Shut, Link().Version))
                ),
                ("the link's rule changes", () =>
                    TestSchool.Done(
                        beside
                            .Links.Change(school.Teacher, code, Form() with { Entry = new EntryRuleInput(Lead: "25") })
                            .Waited()
                    )
                ),
                ("the calendar is renamed", () =>
                    TestSchool.Done(
                        beside.Calendars.Change(
                            school.Teacher,
                            TestSchool.Slug,
                            beside.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                            {
                                Title = "Tidepools",
                            }
                        )
                    )
                ),
                ("the calendar is closed", () =>
                    TestSchool.Done(
                        beside.Calendars.Change(
                            school.Teacher,
                            TestSchool.Slug,
                            beside.Calendars.Form(school.Teacher, TestSchool.Slug)! with
                            {
                                OpenTo = OpenTo.Named,
                            }
                        )
                    )
                ),
                ("the feed shows less", () => school.Execute("update outlets set level = 'busy' where kind = 'feed'")),
                ("a series is taken off", () =>
                    TestSchool.Done(
                        beside.TakeOff.Do(school.Teacher, TestSchool.Slug, series.Id, beside.Now(series).Version)
                    )
                ),
                ("the calendar is put away", () =>
                    TestSchool.Done(beside.Calendars.Archive(school.Teacher, TestSchool.Slug, Class().Version))
                ),
            }
        )
        {
            act();
            var after = Views(school, code, feed, embed);
            Assert.True(after != views, $"Nothing is seen when {what}.");
            // Just what somebody sees who reads all of it for the first time.
            using var fresh = new TestSchool(school);
            Assert.Equal((what, Views(fresh, code, feed, embed)), (what, after));
            views = after;
        }
    }

    // Of a calendar with hundreds of series, one that changed is read and planned anew; the rest is what it was.
    [Fact]
    public void Only_what_changed_of_a_calendar_is_read_anew()
    {
        var (one, other) = (school.Add(), school.Add(TestSchool.Good with { Title = "Lab", Link = "", Days = ["2"] }));
        school.Change(one, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring boots."));
        IReadOnlyList<Core.Series.Series> Series() =>
            [
                .. school
                    .TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!
                    .Series.Select(line => line.Series)
                    .OrderBy(series => series.Id.Value),
            ];
        var before = Series();
        Assert.All(before.Zip(Series()), pair => Assert.Same(pair.First, pair.Second));
        // Whoever writes it, and whatever of it: also by hand, past every version.
        foreach (
            var sql in new[]
            {
                $"update series set title = 'Review' where id = {one.Id.Value}",
                $"update changes set note = 'Bring a hat.' where series_id = {one.Id.Value}",
                $"insert into changes (series_id, original, standing, note) values ({one.Id.Value}, '2026-10-21T09:50', 'cancelled', '')",
                $"delete from changes where series_id = {one.Id.Value} and original = '2026-10-21T09:50'",
                $"update series set made_by = {school.Helper.Person!.Value.Value}, version = version where id = {one.Id.Value}",
                $"update series set number_label = 'Week' where id = {one.Id.Value}",
            }
        )
        {
            school.Execute(sql);
            var now = Series();
            Assert.NotSame(before[0], now[0]);
            Assert.Same(before[1], now[1]);
            before = now;
        }

        Assert.Equal(
            ("Review", "Bring a hat.", school.Helper.Person, "Week"),
            (before[0].Title, Assert.Single(before[0].Changes).Note, before[0].MadeBy, before[0].NumberLabel)
        );
        // Taken off and brought back, it is there as it was stored.
        school.Execute($"update series set deleted_at = 1 where id = {other.Id.Value}");
        Assert.Equal(one.Id, Assert.Single(Series()).Id);
        school.Execute($"update series set deleted_at = null where id = {other.Id.Value}");
        Assert.Equal([one.Id, other.Id], Series().Select(series => series.Id));
    }

    // What cannot be read of a series is told at each reading, also where something else changed.
    [Fact]
    public void What_cannot_be_read_is_told_again_when_something_else_changes()
    {
        var (one, other) = (school.Add(), school.Add(TestSchool.Good with { Title = "Lab", Link = "", Days = ["2"] }));
        school.Change(one, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring boots."));
        school.Execute($"update changes set day = 'someday' where series_id = {one.Id.Value}");
        IEnumerable<Core.Data.UnreadableKind> Told() =>
            school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Unreadable.Select(row => row.Kind);
        Assert.Equal([Core.Data.UnreadableKind.Change], Told());
        school.Execute($"update series set title = 'Laboratory' where id = {other.Id.Value}");
        Assert.Equal([Core.Data.UnreadableKind.Change], Told());
        school.Execute($"update series set pattern = '7' where id = {other.Id.Value}");
        Assert.Equal([Core.Data.UnreadableKind.Series, Core.Data.UnreadableKind.Change], Told().Order());
        school.Execute($"update series set title = 'Review' where id = {one.Id.Value}");
        Assert.Equal([Core.Data.UnreadableKind.Series, Core.Data.UnreadableKind.Change], Told().Order());
    }

    [Fact]
    public void A_sign_in_a_fetched_feed_and_an_empty_writing_change_no_standing()
    {
        school.Add();
        var feed = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("Feed", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        var (before, epoch) = (Standings(), school.Database.Epoch());
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("network")).Waited()
        );
        Assert.NotNull(school.ReadFeed.Do(feed, TestSchool.Root, _ => false));
        Assert.Equal(before, Standings());
        // They are writings all the same.
        Assert.NotEqual(epoch, school.Database.Epoch());
        epoch = school.Database.Epoch();
        _ = Views(school, new JoinCode("none"), feed, feed);
        Assert.Equal(epoch, school.Database.Epoch());
    }

    // Where there are many, one's own come first; the others are found by department or by a word of their title, a page at a time.
    [Fact]
    public void A_long_list_of_calendars_is_folded()
    {
        void Make(string title, CalendarKind kind, string department = "", OpenTo open = OpenTo.Anyone) =>
            TestSchool.Done(
                school.Calendars.Create(
                    school.Coordinator,
                    new CalendarInput(title, kind, department, "", MarkColour.Juniper, MarkShape.Disc, open)
                )
            );
        Make("Field Science", CalendarKind.Department);
        foreach (var at in Enumerable.Range(1, 38))
            Make($"Class {at:00}", CalendarKind.Class, at <= 5 ? "field-science" : "");
        Make("Hidden", CalendarKind.Class, open: OpenTo.Named);
        // The school's own, the department, 38 classes and the teacher's: 41.
        var list = school.CalendarListQuery.Read(school.Teacher)!;
        Assert.Equal((41, true), (list.Total, list.IsFolded));
        Assert.Equal(["Tidepool Biology 9A"], list.Lines.Select(line => line.Calendar.Title));
        Assert.Equal(
            [("Field Science", 6), ("", 35)],
            list.Folds.Select(fold => (fold.Department?.Title ?? "", fold.Count))
        );
        string[] Titles(string? department, string words, int page) =>
            [
                .. school
                    .CalendarListQuery.Read(school.Teacher, department, words, page)!
                    .Lines.Select(line => line.Calendar.Title),
            ];
        Assert.Equal(
            ["Field Science", "Class 01", "Class 02", "Class 03", "Class 04", "Class 05"],
            Titles("field-science", "", 1)
        );
        Assert.Equal(35, Titles("none", "", 1).Length);
        Assert.Equal(["Class 12"], Titles(null, "SS 12", 1));
        Assert.Empty(Titles(null, "%", 1));
        Assert.Empty(Titles(null, "Hidden", 1));
        Make("Class 39", CalendarKind.Class);
        Make("Class 40", CalendarKind.Class);
        Make("Class 41", CalendarKind.Class);
        Assert.True(school.CalendarListQuery.Read(school.Teacher, null, "Class")!.HasMore);
        Assert.Equal(["Class 41"], Titles(null, "Class", 2));
        // The coordinator knows of the hidden one; a visitor's and a student's list is folded alike.
        Assert.Equal(
            ["Hidden"],
            [
                .. school
                    .CalendarListQuery.Read(school.Coordinator, null, "Hidden")!
                    .Lines.Select(line => line.Calendar.Title),
            ]
        );
        Assert.Empty(school.CalendarListQuery.Read(school.Student)!.Lines);
        // Few enough for a week: all are there to choose from. A title that is looked for joins one's own otherwise.
        Assert.Equal(
            (44, false),
            (
                school.WeekQuery.Read(school.Teacher, null, [])!.Calendars.Count,
                school.WeekQuery.Read(school.Teacher, null, [])!.HasMore
            )
        );
        foreach (var at in Enumerable.Range(42, 20))
            Make($"Class {at:00}", CalendarKind.Class);
        var week = school.WeekQuery.Read(school.Teacher, null, [new Slug("class-07")], "class 6")!;
        Assert.True(week.HasMore);
        Assert.Equal(
            ["Tidepool Biology 9A", "Class 07", "Class 60", "Class 61"],
            week.Calendars.Select(calendar => calendar.Title)
        );
        Assert.Equal([new Slug("class-07")], week.Chosen);
    }

    // What each table's rows are shown in: s the school, c the calendar, l the link.
    [Theory]
    [InlineData("update series set title = 'x'", "c l")]
    [InlineData("update series set join_link_id = null", "c l")]
    [InlineData("update series set deleted_at = 1", "c l")]
    [InlineData("update changes set note = 'x'", "c l")]
    [InlineData("delete from changes", "c l")]
    [InlineData(
        "insert into changes (series_id, original, standing, note) values (1, '2026-10-26T09:50:00', 'cancelled', '')",
        "c l"
    )]
    [InlineData("update materials set title = 'x'", "c l")]
    [InlineData("update calendars set title = 'x' where id = 2", "c l")]
    [InlineData("update calendars set put_away_at = 1 where id = 2", "c l")]
    [InlineData("update calendars set revision = revision + 1 where id = 2", "c l")]
    [InlineData("update grants set level = 'busy' where calendar_id = 2", "c l")]
    [InlineData("delete from grants where calendar_id = 2", "c l")]
    [InlineData("update join_links set entry = '5 5'", "c l")]
    [InlineData("update join_links set code = 'other'", "c l")]
    [InlineData("update join_targets set passcode = 'x'", "l")]
    [InlineData("insert into join_hosts (link_id, person_id) values (1, 3)", "l")]
    [InlineData("update outlets set level = 'busy'", "c")]
    [InlineData("update outlets set revoked_at = 1", "c")]
    [InlineData("update outlets set last_fetched_at = 1", "")]
    [InlineData("update outlets set options = '{\"reminder\":5}'", "c")]
    [InlineData("update outlets set others = '1'", "c")]
    [InlineData("update outlets set scope = 'group'", "c")]
    [InlineData("update outlets set paused_at = 1", "c")]
    [InlineData("update notices set text = 'x'", "c")]
    [InlineData("update notices set withdrawn_at = 1", "c")]
    [InlineData("delete from notices", "c")]
    [InlineData("insert into notices_seen (notice_id, person_id, at, by_mail) values (1, 1, 1, 0)", "")]
    [InlineData("insert into fetches (outlet_id, at, program, status, bytes) values (1, 1, 'x', 200, 1)", "")]
    [InlineData("update people set last_sign_in_at = 1", "")]
    [InlineData("update terms set name = 'x'", "s")]
    [InlineData("delete from no_class_days", "s")]
    [InlineData("update bell_periods set name = name || 'x'", "s")]
    [InlineData("update cycle_days set name = name || 'x'", "s")]
    [InlineData("update school set twelve_hours = 1", "s")]
    [InlineData("update school set help = 'x'", "s")]
    public void The_database_counts_by_itself(string sql, string raised)
    {
        var series = school.Add(materials: new MaterialInput(null, "Field sheet", "https://files.skerry.example/a"));
        school.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring boots."));
        TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                TestSchool.Slug,
                PublicationKind.Feed,
                new PublicationInput("Feed", AccessLevel.Full, true, true, true)
            )
        );
        TestSchool.Done(
            school.Notices.Put(school.Teacher, TestSchool.Slug, null, new NoticeInput("Boots.", "", "2026-10-20"))
        );
        var before = Standings().Split(' ');
        school.Execute(sql);
        var after = Standings().Split(' ');
        Assert.Equal(raised, string.Join(' ', "scl".Where((_, at) => before[at] != after[at]).Order()));
    }

    // All that is kept, as texts.
    private static string Views(TestSchool at, JoinCode code, FeedToken feed, FeedToken embed)
    {
        var teacher = at.Teacher;
        var day = at.DayQuery.Read(teacher, new LocalDate(2026, 10, 14), true).Waited()!;
        var sheet = at.TermSheetQuery.Read(teacher, TestSchool.Slug, null);
        var page = at.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false);
        var door = at.Doors.At(code, new AtDoor(Viewer.Visitor)).Waited();
        return string.Create(
            CultureInfo.InvariantCulture,
            $"""
            {string.Join(
                ';',
                day.Sessions.Select(one => $"{one.Shown.Title} {one.Shown.Session.Start}")
            )} {day.Next?.Shown.Session.Start} {day.Findings.Count}
            {string.Join(
                ';',
                at.CalendarListQuery.Read(teacher)!.Lines.Select(line =>
                    $"{line.Calendar.Title} {line.HeldInTerm} {string.Join(',', line.Patterns)}"
                )
            )}
            {sheet?.Calendar.Title} {string.Join(
                ';',
                sheet?.Series.Select(one => one.Sentence) ?? []
            )} {sheet?.Sheet?.Ledger.Held}
            {string.Join(
                ';',
                at.WeekQuery.Read(teacher, null, [])!.Sheet.Rows.SelectMany(row => row.Days).SelectMany(cell =>
                    cell
                ).Select(one => one.Shown.Session.Start)
            )}
            {page?.Level} {page?.Top?.Title} {page?.Top?.Session.Start} {string.Join(
                ';',
                page?.Coming.Select(one => $"{one.Session.Start} {one.Note}") ?? []
            )} {page?.Materials.Length}
            {door?.Calendar.Title} {door?.Door.State} {door?.Door.Changes} {door?.Sessions.About?.Title} {door?.Sessions.Next?.Session.Start}
            {string.Join(
                ';',
                at.Switchboard.At(teacher, null, null)!.Rows.Select(row =>
                    $"{row.Link.Name} {row.Door.State} {row.OnDay.Length} {row.Door.Changes}"
                )
            )}
            {at.ReadFeed.Do(feed, TestSchool.Root, _ => false)?.Text}
            {at.ReadEmbed.Do(embed)?.Calendar.Title} {string.Join(
                ';',
                at.ReadEmbed.Do(embed)?.Coming.Select(one => one.Session.Start) ?? []
            )} {at.ReadEmbed.StateVersionOf(embed)} {at.ClassPageQuery.StateVersionOf(TestSchool.Slug)} {at.Doors.StateVersionOf(
                code
            )}
            {at.SchoolQuery.Ribbon(teacher, null)!.Weeks.Sum(week => week.Days.Sum(one => one.Sessions))}
            """
        );
    }

    /// <summary>What somebody reaches is kept, and read anew once another process gives, changes or ends a grant.</summary>
    [Theory]
    [InlineData("delete from grants where grantee = 'anyone'", AccessLevel.None)]
    [InlineData("update grants set level = 'busy' where grantee = 'anyone'", AccessLevel.Busy)]
    [InlineData(
        "insert into grants (calendar_id, grantee, person_id, level) select 2, 'person', id, 'editor' from people where email = 'teodor@skerry.example'",
        AccessLevel.Editor
    )]
    public void Access_by_another_process_holds_at_the_next_reading(string sql, AccessLevel level)
    {
        AccessLevel Level() =>
            school.Database.Read(stores =>
            {
                var calendar = stores.Calendars.Find(TestSchool.Slug)!.Id;
                return AccessRules.LevelOf(
                    school.Student,
                    stores.Calendars.GrantsFor(school.Student, [calendar])[calendar]
                );
            });
        Assert.Equal((AccessLevel.Full, AccessLevel.Full), (Level(), Level()));
        school.Execute(sql);
        Assert.Equal(level, Level());
    }

    private string Standings() =>
        (string)
            school.Execute(
                "select (select standing from school) || ' ' || (select standing from calendars where id = 2) || ' ' || ifnull((select standing from join_links where id = 1), 0)"
            )!;
}
