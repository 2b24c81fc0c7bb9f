using System.Text.RegularExpressions;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Nothing lost, nobody let in: what is kept, who gets at it, and what stays secret.</summary>
public sealed partial class KeepingTests : IDisposable
{
    private const string Target = "rooms.skerry.example/9a?passcode=kelp";

    private readonly TestSchool school = new();

    [Fact]
    public void The_first_run_happens_once_and_bad_entries_leave_nothing()
    {
        using var other = new TemporaryDirectory();
        var database = AlmanacDatabase.Open(other.Path);
        var create = new CreateSchool(database, school.Clock, new Passwords(rounds: 1000));
        var good = new SchoolInput(
            "Skerry",
            "America/Halifax",
            "Sunday",
            "Autumn",
            "2026-09-08",
            "2026-12-18",
            "Orla",
            "orla@skerry.example",
            "ten letters"
        );
        foreach (
            var (input, field) in new[]
            {
                (good with { Name = " " }, "Name"),
                (good with { Zone = "Mars/Olympus" }, "Zone"),
                (good with { TermFirst = "" }, "TermFirst"),
                (good with { TermLast = "2026-09-01" }, "TermLast"),
                (good with { TermLast = "2029-09-01" }, "TermLast"),
                (good with { ManagerEmail = "orla" }, "ManagerEmail"),
                (good with { ManagerPassword = "short" }, "ManagerPassword"),
            }
        )
        {
            Assert.Equal(field, TestSchool.Refused(create.Do(input)).Single().Field);
            Assert.False(create.IsDone);
        }

        TestSchool.Done(create.Do(good));
        Assert.IsType<Outcome<PersonId>.NotAllowed>(create.Do(good with { ManagerEmail = "other@skerry.example" }));
        Assert.Equal(IsoDayOfWeek.Sunday, database.Read(stores => stores.School.Find())!.Time.FirstDayOfWeek);
    }

    [Fact]
    public void Signing_in_tells_nobody_who_is_here_and_tires_of_guesses()
    {
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try(" ORLA@skerry.example ", "ten letters", new("a")).Waited()
        );
        Assert.IsType<SignInAnswer.Wrong>(school.SignIn.Try("orla@skerry.example", "wrong", new("a")).Waited());
        Assert.IsType<SignInAnswer.Wrong>(school.SignIn.Try("nobody@skerry.example", "wrong", new("a")).Waited());
        Assert.IsType<SignInAnswer.Wrong>(school.SignIn.Try("teodor@skerry.example", "", new("a")).Waited());
        for (var turn = 0; turn < SignIn.SignIn.Tries; turn++)
            school.SignIn.Try("wendeline@skerry.example", "wrong", new("a")).Waited();
        Assert.IsType<SignInAnswer.TooMany>(
            school.SignIn.Try("wendeline@skerry.example", "ten letters", new("a")).Waited()
        );
        // From elsewhere the right person gets in: a guesser shuts out only the network they guess from.
        Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("wendeline@skerry.example", "ten letters", new("b")).Waited()
        );
        Assert.IsType<SignInAnswer.Welcome>(school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited());
    }

    [Fact]
    public void A_sign_in_ends_when_its_stamp_changes()
    {
        var welcome = Assert.IsType<SignInAnswer.Welcome>(
            school.SignIn.Try("orla@skerry.example", "ten letters", new("a")).Waited()
        );
        Assert.Equal(
            "Orla Marchbanks",
            school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token)?.Person.Name
        );
        school.Execute("update people set stamp = 'other' where email = 'orla@skerry.example'");
        Assert.Null(school.SignIn.Find(welcome.Person.Id, welcome.Stamp, welcome.Token));
    }

    [Fact]
    public void Calendars_are_made_by_those_who_work_here_and_changed_by_their_managers()
    {
        var input = new CalendarInput(
            "Weather",
            CalendarKind.Class,
            "",
            "",
            MarkColour.Ochre,
            MarkShape.Triangle,
            OpenTo.Named
        );
        Assert.IsType<Outcome<Calendar>.NotAllowed>(school.Calendars.Create(school.Student, input));
        Assert.IsType<Outcome<Calendar>.NotAllowed>(school.Calendars.Create(Viewer.Visitor, input));
        foreach (
            var (bad, field) in new[]
            {
                (input with { Title = "" }, "Title"),
                (input with { Title = "tidepool biology 9a" }, "Title"),
                (input with { Title = new string('x', 10_000) }, "Title"),
                (input with { Department = TestSchool.Slug.Value }, "Department"),
                (input with { Kind = (CalendarKind)9 }, "Kind"),
                (input with { Colour = (MarkColour)99 }, "Colour"),
            }
        )
            Assert.Contains(TestSchool.Refused(school.Calendars.Create(school.Teacher, bad)), problem =>
                problem.Field == field
            );
        var weather = TestSchool.Done(school.Calendars.Create(school.Teacher, input));
        Assert.Equal("NotFound", school.Calendars.Change(school.Student, weather.Slug, input).GetType().Name);
        TestSchool.Done(
            school.Calendars.Change(
                school.Teacher,
                weather.Slug,
                input with
                {
                    Title = "Coastal Weather 10",
                    OpenTo = OpenTo.Everyone,
                    Version = 1,
                }
            )
        );
        Assert.IsType<Outcome<Calendar>.Stale>(
            school.Calendars.Change(school.Teacher, weather.Slug, input with { Version = 1 })
        );
        Assert.Equal(
            "NotAllowed",
            school.Calendars.Change(school.Student, weather.Slug, input with { Version = 2 }).GetType().Name
        );
        Assert.Equal(
            "weather",
            school
                .CalendarListQuery.Read(school.Student)!
                .Lines.Single(line => line.Calendar.Title == "Coastal Weather 10")
                .Calendar.Slug.Value
        );
        Assert.Equal("weather-2", TestSchool.Done(school.Calendars.Create(school.Teacher, input)).Slug.Value);
        Assert.Equal(
            "new-2",
            TestSchool.Done(school.Calendars.Create(school.Teacher, input with { Title = "New" })).Slug.Value
        );
    }

    [Fact]
    public void A_closed_class_page_is_no_page_to_a_visitor_and_looking_as_gains_nobody_anything()
    {
        school.Add(materials: new MaterialInput(Address: "https://people.skerry.example", PeopleOnly: true));
        Assert.Empty(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false)!.Materials);
        Assert.Single(school.ClassPageQuery.Read(school.Teacher, TestSchool.Slug, false)!.Materials);
        Assert.Empty(school.ClassPageQuery.Read(school.Teacher, TestSchool.Slug, asVisitor: true)!.Materials);
        var form = school.Calendars.Form(school.Teacher, TestSchool.Slug)!;
        TestSchool.Done(school.Calendars.Change(school.Teacher, TestSchool.Slug, form with { OpenTo = OpenTo.Named }));
        Assert.Null(school.ClassPageQuery.Read(Viewer.Visitor, TestSchool.Slug, false));
        Assert.Null(school.ClassPageQuery.Read(school.Student, TestSchool.Slug, asVisitor: true));
        Assert.Equal(
            AccessLevel.Full,
            school.ClassPageQuery.Read(school.Teacher, TestSchool.Slug, asVisitor: true)!.Level
        );
    }

    [Fact]
    public void A_material_for_people_opens_for_those_alone_who_see_the_calendar_in_full()
    {
        var series = school.Add(
            materials: new MaterialInput(Address: "https://people.skerry.example", PeopleOnly: true)
        );
        var key = TestSchool
            .Done(school.Compose.Open(school.Teacher, TestSchool.Slug, series.Id))
            .Materials.Single()
            .Key;
        Assert.NotNull(school.MaterialQuery.Find(school.Student, key));
        Assert.Null(school.MaterialQuery.Find(Viewer.Visitor, key));
        Assert.Null(
            school.MaterialQuery.Find(
                school.Teacher,
                new MaterialKey(key.Value[..25] + (key.Value[25] == '0' ? "1" : "0"))
            )
        );
        TestSchool.Done(school.TakeOff.Do(school.Teacher, TestSchool.Slug, series.Id, 1));
        Assert.Null(school.MaterialQuery.Find(school.Student, key));
    }

    [Fact]
    public void Outlets_are_made_renewed_and_revoked_by_managers_alone()
    {
        var input = new PublicationInput("For families", AccessLevel.Full, true, true, true, "www.skerry.example");
        Assert.Equal(
            "NotAllowed",
            school.Outlets.Make(school.Student, TestSchool.Slug, PublicationKind.Feed, input).GetType().Name
        );
        Assert.Equal(
            "Level",
            TestSchool
                .Refused(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        PublicationKind.Feed,
                        input with
                        {
                            Level = AccessLevel.Manager,
                        }
                    )
                )
                .Single()
                .Field
        );
        Assert.Equal(
            "Sites",
            TestSchool
                .Refused(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        PublicationKind.Embed,
                        input with
                        {
                            Sites = "",
                        }
                    )
                )
                .Single()
                .Field
        );
        Assert.Equal(
            "Sites",
            TestSchool
                .Refused(
                    school.Outlets.Make(
                        school.Teacher,
                        TestSchool.Slug,
                        PublicationKind.Embed,
                        input with
                        {
                            Sites = "https://a.example;x",
                        }
                    )
                )
                .Single()
                .Field
        );

        var (made, first) = TestSchool.Done(
            school.Outlets.Make(school.Teacher, TestSchool.Slug, PublicationKind.Feed, input)
        );
        Assert.NotNull(Ask(first));
        Assert.Equal("NotAllowed", school.Outlets.Renew(school.Student, TestSchool.Slug, made.Id, 1).GetType().Name);
        var (renewed, second) = TestSchool.Done(school.Outlets.Renew(school.Teacher, TestSchool.Slug, made.Id, 1));
        Assert.Null(Ask(first));
        Assert.NotNull(Ask(second));
        Assert.IsType<Outcome<PublicationWithToken>.Stale>(
            school.Outlets.Revoke(school.Teacher, TestSchool.Slug, made.Id, 1)
        );
        TestSchool.Done(school.Outlets.Revoke(school.Teacher, TestSchool.Slug, made.Id, renewed.Version));
        Assert.Null(Ask(second));
        Assert.Null(Ask(new FeedToken("x")));
        Assert.Null(school.ReadEmbed.Do(second));
    }

    [Fact]
    public void A_feed_knows_when_it_was_last_asked_for()
    {
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("For families", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        Instant? Last() =>
            TestSchool.Done(school.Outlets.Of(school.Teacher, TestSchool.Slug)).Feeds.Single().Outlet.LastFetchedAt;
        Assert.Null(Last());
        Ask(token);
        Assert.Equal(school.Clock.GetCurrentInstant(), Last());
        school.Clock.AdvanceMinutes(7);
        school.ReadFeed.Do(token, TestSchool.Root, _ => true);
        Assert.Equal(school.Clock.GetCurrentInstant(), Last());
    }

    [Fact]
    public void Secrets_stand_in_no_history_and_tokens_in_no_table()
    {
        var series = school.Add();
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    TestSchool.Slug,
                    series.Id,
                    TestSchool.FormOf(series) with
                    {
                        Title = "Rock pools",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    TestSchool.Slug,
                    PublicationKind.Feed,
                    new PublicationInput("For families", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        Assert.True(FeedToken.TryParse(token.Value, null, out _));
        Assert.Equal(
            0L,
            school.Execute(
                $"select count(*) from history where ifnull(before, '') || ifnull(after, '') || summary like '%{Target}%' or ifnull(after, '') like '%kelp%'"
            )
        );
        SqliteConnection.ClearAllPools();
        var bytes = Directory.EnumerateFiles(school.Directory, "almanac.db*").SelectMany(File.ReadAllBytes).ToArray();
        Assert.True(bytes.AsSpan().IndexOf(System.Text.Encoding.ASCII.GetBytes(token.Value)) < 0);
        if (!OperatingSystem.IsWindows())
            Assert.Equal(
                UnixFileMode.UserRead | UnixFileMode.UserWrite,
                File.GetUnixFileMode(Path.Combine(school.Directory, "secret.key"))
            );
    }

    [Fact]
    public void Every_write_leaves_a_line_of_history()
    {
        var series = school.Add();
        TestSchool.Done(school.TakeOff.Do(school.Teacher, TestSchool.Slug, series.Id, 1));
        TestSchool.Done(school.TakeOff.Undo(school.Teacher, TestSchool.Slug, series.Id, 2));
        Assert.Equal(
            [
                "brought Tidepool Biology 9A back",
                "took Tidepool Biology 9A off",
                "added Tidepool Biology 9A",
                "made the join link Tidepool room",
                "made the calendar Tidepool Biology 9A",
            ],
            school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Last.Select(line => line.Summary)
        );
        Assert.Empty(school.TermSheetQuery.Read(school.Student, TestSchool.Slug, null)!.Last);
    }

    [Fact]
    public void Data_of_a_newer_almanac_is_not_touched_and_data_of_this_one_opens_again()
    {
        SqliteConnection.ClearAllPools();
        AlmanacDatabase.Open(school.Directory);
        school.Execute(
            "insert into SchemaVersions (ScriptName, Applied) values ('9999_from_the_future.sql', '2030-01-01')"
        );
        Assert.Contains(
            "newer",
            Assert.Throws<DataDirectoryException>(() => AlmanacDatabase.Open(school.Directory)).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_file_in_the_place_of_the_directory_is_refused_in_one_line()
    {
        using var other = new TemporaryDirectory();
        var file = Path.Combine(other.Path, "file");
        File.WriteAllText(file, "");
        Assert.DoesNotContain('\n', Assert.Throws<DataDirectoryException>(() => AlmanacDatabase.Open(file)).Message);
        File.WriteAllText(Path.Combine(other.Path, AlmanacDatabase.FileName), new string('x', 5000));
        Assert.Throws<DataDirectoryException>(() => AlmanacDatabase.Open(other.Path));
    }

    // The SQL that really runs, taken down while everything is looked at and asked for its plan. Tables that grow with the school are
    // never walked through; what counts over all of it says so here.
    [Fact]
    public void No_reading_walks_through_a_table_that_grows()
    {
        var series = school.Add();
        school.Change(series, "2026-10-19T09:50", new SessionInput("tell", Note: "Bring boots."));
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
        var sheet = school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!;
        using var fresh = new TestSchool(school);
        var taken = new HashSet<string>(StringComparer.Ordinal);
        fresh.Database.Opened = connection =>
            SQLitePCL.raw.sqlite3_trace(connection.Handle, (_, sql) => taken.Add(sql), null);
        foreach (var viewer in new[] { school.Teacher, school.Student, school.Coordinator, Viewer.Visitor })
        {
            _ = fresh.DayQuery.Read(viewer, null, true).Waited();
            _ = fresh.CalendarListQuery.Read(viewer);
            _ = fresh.WeekQuery.Read(viewer, null, []);
            _ = fresh.SchoolQuery.Ribbon(viewer, null);
            _ = fresh.TermSheetQuery.Read(viewer, TestSchool.Slug, null);
            _ = fresh.CalendarHistoryQuery.Read(viewer, TestSchool.Slug, null);
            _ = fresh.ClassPageQuery.Read(viewer, TestSchool.Slug, false);
            _ = fresh.SetUpQuery.Read(viewer);
            _ = fresh.Switchboard.At(viewer, null, null);
            _ = fresh.Compose.Preview(viewer, TestSchool.Slug, null, TestSchool.Good with { Link = "" });
            _ = fresh.Outlets.Of(viewer, TestSchool.Slug);
            _ = fresh.Doors.At(sheet.Links[0].Code, new AtDoor(viewer)).Waited();
        }

        _ = fresh.ReadFeed.Do(feed, TestSchool.Root, _ => false);
        _ = fresh.SignIn.Try("orla@skerry.example", "ten letters", new("network")).Waited();
        _ = fresh.Sessions.Do(
            school.Teacher,
            TestSchool.Slug,
            TestSchool.Key(series, "2026-10-21T09:50"),
            new SessionInput("leave-out", Version: fresh.Now(series).Version)
        );
        Assert.True(taken.Count > 60, $"Only {taken.Count} were taken down.");
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(school.Directory, AlmanacDatabase.FileName)}"
        );
        connection.Open();
        // How many calendars one may see, and which coordinators there are.
        string[] mayWalk =
        [
            "select case kind when 'department'",
            "select count(*) from (select 1 from calendars",
            "select id from people where role = 'coordinator'",
        ];
        var walks = new List<string>();
        foreach (
            var sql in taken.Where(sql =>
                (
                    sql.TrimStart().StartsWith("select", StringComparison.OrdinalIgnoreCase)
                    || sql.TrimStart().StartsWith("with", StringComparison.OrdinalIgnoreCase)
                ) && !mayWalk.Any(start => sql.TrimStart().StartsWith(start, StringComparison.Ordinal))
            )
        )
        {
            using var command = connection.CreateCommand();
            command.CommandText = "explain query plan " + sql;
            using var reader = command.ExecuteReader();
            while (reader.Read())
                if (
                    Scan().Match(reader.GetString(3)) is { Success: true } scan
                    && Growing.Contains(TableOf(sql, scan.Groups[1].Value))
                )
                    walks.Add($"{reader.GetString(3)}: {sql}");
        }

        Assert.True(walks.Count == 0, string.Join("\n\n", walks.Distinct()));
    }

    private static readonly HashSet<string> Growing =
    [
        "series",
        "changes",
        "materials",
        "calendars",
        "grants",
        "join_links",
        "join_targets",
        "join_codes",
        "join_hosts",
        "guest_links",
        "people",
        "groups",
        "group_members",
        "outlets",
        "history",
        "sign_ins",
        "attendance",
    ];

    // The table that a name in a plan stands for.
    private static string TableOf(string sql, string name) =>
        Regex.Match(sql, $@"\b(?:from|join)\s+(\w+)\s+(?:as\s+)?{name}\b") is { Success: true } alias
        && alias.Groups[1].Value != name
            ? alias.Groups[1].Value
            : name;

    // What is walked through along an index that holds only what is asked for is no walk.
    [GeneratedRegex("^SCAN (\\w+)(?! USING (COVERING )?INDEX (grants_to_all|departments))")]
    private static partial Regex Scan();

    public void Dispose() => school.Dispose();

    private FeedAnswer? Ask(FeedToken token) => school.ReadFeed.Do(token, TestSchool.Root, _ => false);

    private sealed class TemporaryDirectory : IDisposable
    {
        public string Path { get; } = Directory.CreateTempSubdirectory("almanac-test-").FullName;

        public void Dispose()
        {
            SqliteConnection.ClearAllPools();
            Directory.Delete(Path, recursive: true);
        }
    }

    [Fact]
    public void A_pattern_says_its_form_and_one_of_a_newer_almanac_is_told_and_kept()
    {
        using var school = new TestSchool();
        var series = school.Add();
        string Told() =>
            string.Join(
                ' ',
                school.TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!.Unreadable.Select(one => one.Reason)
            );
        Assert.Equal(1L, school.Execute("select json_extract(pattern, '$.form') from series"));
        school.Execute("update series set pattern = json_remove(pattern, '$.form')"); // as an older almanac wrote it
        Assert.Equal(
            ("", series.Pattern),
            (
                Told(),
                school.Now(series).Pattern with
                {
                    Zone = series.Pattern.Zone,
                    Repeat = series.Pattern.Repeat,
                    Extra = series.Pattern.Extra,
                }
            )
        );
        school.Execute("update series set pattern = json_set(pattern, '$.form', 2)");
        Assert.Contains("a newer almanac wrote", Told(), StringComparison.Ordinal);
    }
}
