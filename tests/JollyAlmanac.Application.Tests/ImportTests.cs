using System.Text;
using FsCheck.Fluent;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Files that come in: what they mean is what stands on the calendar; a second time changes nothing, a newer one what it
/// says.</summary>
public sealed class ImportTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;

    private readonly TestSchool school = new();

    public void Dispose() => school.Dispose();

    private static byte[] File(string events, string head = "") => ICalendarFileTests.File(events, head);

    private static string Event(string lines, string uid = "1") => ICalendarFileTests.Event(lines, uid);

    private ImportReview Import(byte[] file, ImportChoices? choices = null, Viewer? who = null, Slug? slug = null)
    {
        var id = TestSchool.Done(school.Import.Begin(who ?? school.Teacher, slug ?? Slug, null, "year.ics", file));
        return TestSchool.Done(
            school.Import.SaveChoices(who ?? school.Teacher, slug ?? Slug, id, choices ?? new ImportChoices())
        );
    }

    private ImportReview Review(byte[] file) =>
        TestSchool.Done(
            school.Import.Review(
                school.Teacher,
                Slug,
                TestSchool.Done(school.Import.Begin(school.Teacher, Slug, null, "year.ics", file)),
                new ImportChoices()
            )
        );

    private static string Counts(ImportReview review) =>
        string.Join(' ', Enum.GetValues<ImportNews>().Select(news => review.Count(news)));

    private byte[] Export(Slug? slug = null, ExportFormat format = ExportFormat.Ics) =>
        school.Database.Read(stores =>
            ExportCalendar.Of(stores, slug ?? Slug, null, null, format, null, school.Clock.GetCurrentInstant())
        )!;

    private static List<string> Sessions(byte[] file) =>
        [
            .. ICalendarFileTests
                .Told(file, "America/Halifax", null, new LocalDate(2027, 9, 30))
                .Order(StringComparer.Ordinal),
        ];

    private Series Only() => school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Single().Series;

    /// <summary>
    /// Shapes that calendars of others have. Each is taken in, and the export of the calendar means the very same sessions; what each
    /// means is held against RFC 5545 in <see cref="ICalendarFileTests"/>.
    /// </summary>
    public static TheoryData<string, string> Shapes =>
        new()
        {
            {
                "a rule that counts",
                "DTSTART;TZID=America/Halifax:20261019T095000\nDTEND;TZID=America/Halifax:20261019T104000\nRRULE:FREQ=WEEKLY;BYDAY=MO,WE;COUNT=12"
            },
            {
                "dates left out",
                "DTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=9\nEXDATE;TZID=America/Halifax:20261026T090000,20261109T090000"
            },
            {
                "every other week from a day that is none of its days",
                "DTSTART;TZID=America/Halifax:20261020T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=MO;COUNT=6"
            },
            {
                "further dates and periods",
                "DTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT1H\nRDATE;TZID=America/Halifax:20261021T090000,20261022T150000\nRDATE;VALUE=PERIOD;TZID=America/Halifax:20261023T100000/PT3H"
            },
            {
                "twice a day",
                "DTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT30M\nRRULE:FREQ=DAILY;BYHOUR=9,14;COUNT=20"
            },
            { "by the hour", "DTSTART:20261019T120000Z\nDURATION:PT20M\nRRULE:FREQ=HOURLY;INTERVAL=5;COUNT=30" },
            {
                "two rules",
                "DTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=4\nRRULE:FREQ=MONTHLY;BYMONTHDAY=3;COUNT=4"
            },
            { "days by the month's end", "DTSTART;VALUE=DATE:20261031\nRRULE:FREQ=MONTHLY;BYDAY=-1SA;COUNT=8" },
            {
                "a rule of UTC through a change of the clocks",
                "DTSTART:20261026T130000Z\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=4"
            },
            { "another zone", "DTSTART;TZID=Europe/Berlin:20261019T140000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=4" },
            {
                "over midnight",
                "DTSTART;TZID=America/Halifax:20261023T220000\nDTEND;TZID=America/Halifax:20261024T020000\nRRULE:FREQ=WEEKLY;COUNT=3"
            },
            { "days long", "DTSTART;TZID=America/Halifax:20261023T150000\nDTEND;TZID=America/Halifax:20261025T130000" },
            { "a break of dates", "DTSTART;VALUE=DATE:20261219\nDTEND;VALUE=DATE:20270104" },
            {
                "a break each year",
                "DTSTART;VALUE=DATE:20261219\nDTEND;VALUE=DATE:20261226\nRRULE:FREQ=YEARLY;COUNT=2"
            },
            // Halifax has 1:30 twice on 1 Nov 2026: 5:30 UTC is the second (IANA tzdb: clocks go back at 5:00 UTC).
            { "once, in UTC, in the hour that comes twice", "DTSTART:20261101T053000Z\nDTEND:20261101T063000Z" },
            { "once, in UTC", "DTSTART:20261102T120000Z\nDTEND:20261102T125000Z" },
            {
                "on a no-class day",
                "DTSTART;TZID=America/Halifax:20261012T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=3"
            },
            {
                "without an end",
                "DTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT1H\nRRULE:FREQ=MONTHLY;BYDAY=1MO\nEXDATE;TZID=America/Halifax:20270301T090000"
            },
            {
                "one of them cancelled, one moved, one renamed",
                """
                    DTSTART;TZID=America/Halifax:20261019T095000
                    DTEND;TZID=America/Halifax:20261019T104000
                    RRULE:FREQ=WEEKLY;BYDAY=MO,WE;COUNT=9
                    END:VEVENT
                    BEGIN:VEVENT
                    UID:1
                    RECURRENCE-ID:20261021T125000Z
                    SUMMARY:x
                    STATUS:CANCELLED
                    DTSTART;TZID=America/Halifax:20261021T095000
                    DTEND;TZID=America/Halifax:20261021T104000
                    END:VEVENT
                    BEGIN:VEVENT
                    UID:1
                    RECURRENCE-ID;TZID=America/Halifax:20261026T095000
                    SUMMARY:x
                    DTSTART;TZID=America/Halifax:20261027T133000
                    DTEND;TZID=America/Halifax:20261027T150000
                    END:VEVENT
                    BEGIN:VEVENT
                    UID:1
                    RECURRENCE-ID;TZID=America/Halifax:20261028T095000
                    SUMMARY:Boat day
                    DTSTART;TZID=America/Halifax:20261028T095000
                    DTEND;TZID=America/Halifax:20261028T104000
                    """
            },
            {
                "from one on another time",
                """
                    DTSTART;TZID=America/Halifax:20261019T095000
                    DURATION:PT50M
                    RRULE:FREQ=WEEKLY;COUNT=8
                    END:VEVENT
                    BEGIN:VEVENT
                    UID:1
                    SUMMARY:Second half
                    RECURRENCE-ID;TZID=America/Halifax;RANGE=THISANDFUTURE:20261116T095000
                    DTSTART;TZID=America/Halifax:20261117T133000
                    DURATION:PT1H
                    """
            },
        };

    [Theory]
    [MemberData(nameof(Shapes))]
    public void What_a_file_means_stands_on_the_calendar(string shape, string lines)
    {
        var file = File(Event(lines.Contains("SUMMARY", StringComparison.Ordinal) ? "SUMMARY:x\n" + lines : lines));
        var first = Import(file);
        Assert.True(first.Count(ImportNews.New) == 1, $"{shape}: {first.ToText(false)}");
        var expected = Sessions(file).Select(line => line.Replace("Without a title", "", StringComparison.Ordinal));
        Assert.Equal(
            expected,
            Sessions(Export()).Select(line => line.Replace(" Without a title", "", StringComparison.Ordinal))
        );
        // A second time, and by another hand that wrote it anew at another time, changes nothing.
        var rows = school.Rows();
        Assert.Equal("0 0 1 0", Counts(Import(file)));
        Assert.Equal(
            "0 0 1 0",
            Counts(
                Import(
                    Encoding.UTF8.GetBytes(
                        Encoding
                            .UTF8.GetString(file)
                            .Replace("DTSTAMP:20260101T000000Z", "DTSTAMP:20260202T000000Z", StringComparison.Ordinal)
                    )
                )
            )
        );
        Assert.Equal(rows, school.Rows());
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Export())));
    }

    /// <summary>120 random series of ours: export, import into another school's calendar, export: the same sessions.</summary>
    [Fact]
    public void An_export_taken_in_elsewhere_means_the_same()
    {
        var (taken, at) = (0, 0);
        foreach (var series in FeedTests.AllSeries().Generator.Sample(120, 30))
        {
            var time = FeedTests.SchoolTimeOf(series.Pattern.Zone);
            var plan = Planner.PlanOf(series, time);
            if (!plan.Held.Any())
                continue;
            var uid = $"{at++}@skerry.example";
            var file = Encoding.UTF8.GetBytes(
                FeedTests.TextOf(plan, time).Replace("one@skerry.example", uid, StringComparison.Ordinal)
            );
            var review = Import(file);
            if (review.Lines is not [{ News: ImportNews.New }])
                Assert.Fail($"{review.ToText(false)}\n{Encoding.UTF8.GetString(file)}");
            taken++;
            // Of this series alone: the others stay beside it.
            var text = Encoding.UTF8.GetString(Export());
            var own =
                "BEGIN:VCALENDAR\r\n"
                + string.Concat(
                    text.Split("BEGIN:VEVENT\r\n")
                        .Skip(1)
                        .Where(part => part.Contains($"UID:{uid}\r\n", StringComparison.Ordinal))
                        .Select(part =>
                            "BEGIN:VEVENT\r\n" + part.Replace("END:VCALENDAR\r\n", "", StringComparison.Ordinal)
                        )
                )
                + "END:VCALENDAR\r\n";
            Assert.Equal(Sessions(file), Sessions(Encoding.UTF8.GetBytes(own)));
            TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        }

        Assert.True(taken > 80, $"only {taken} were taken in");
    }

    [Fact]
    public void At_the_time_of_a_period_it_becomes_the_period_s()
    {
        Import(
            File(
                Event(
                    "DTSTART;TZID=America/Halifax:20261019T095000\nDURATION:PT50M\nRRULE:FREQ=WEEKLY;BYDAY=MO;COUNT=5"
                )
            )
        );
        Assert.Equal(new SessionTime.InPeriod("3"), Only().Pattern.Time);
        Assert.Equal("FREQ=WEEKLY;BYDAY=MO", Assert.IsType<Repeat.ByRule>(Only().Pattern.Repeat).Rule.ToString());
    }

    [Fact]
    public void Whoever_chooses_so_has_its_sessions_left_out_on_no_class_days()
    {
        Import(
            File(Event("DTSTART;TZID=America/Halifax:20261005T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=3")),
            new ImportChoices(LeavesOut: true)
        );
        Assert.Equal(["2026-10-05", "2026-10-19"], Sessions(Export()).Select(line => line[..10]));
        // A newer file does not take that back.
        Import(
            File(
                Event(
                    "SUMMARY:Other\nDTSTART;TZID=America/Halifax:20261005T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=4"
                )
            )
        );
        Assert.Equal(["2026-10-05", "2026-10-19", "2026-10-26"], Sessions(Export()).Select(line => line[..10]));
    }

    private const string Weekly =
        "SUMMARY:Review\nLOCATION:Pier\nDTSTART;TZID=America/Halifax:20261019T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=4";

    /// <summary>What was done by hand here stays, unless the file says of the very same thing something else than before.</summary>
    [Fact]
    public void A_newer_file_changes_what_it_says_and_leaves_what_was_done_by_hand()
    {
        Import(File(Event(Weekly)));
        var series = Only();
        school.Change(series, "2026-10-26T09:00", new SessionInput("tell", Note: "Bring boots."));
        TestSchool.Done(
            school
                .Compose.Save(
                    school.Teacher,
                    Slug,
                    series.Id,
                    TestSchool.FormOf(school.Now(series)) with
                    {
                        Title = "Review of the week",
                    },
                    MaterialInput.None
                )
                .Waited()
        );
        Assert.Equal("0 0 1 0", Counts(Import(File(Event(Weekly)))));
        Assert.Equal(
            "0 1 0 0",
            Counts(
                Import(
                    File(
                        Event(
                            Weekly.Replace("Pier", "Boat house", StringComparison.Ordinal)
                                + "\nEXDATE;TZID=America/Halifax:20261102T090000"
                        )
                    )
                )
            )
        );
        var after = school.Now(series);
        Assert.Equal(("Review of the week", "Boat house", series.Uid), (after.Title, after.Place, after.Uid));
        Assert.Equal("Bring boots.", Assert.Single(after.Changes).Note);
        Assert.Equal(["2026-10-19", "2026-10-26", "2026-11-09"], Sessions(Export()).Select(line => line[..10]));
        // It is still by hand when a third file comes.
        Assert.Equal(
            "0 1 0 0",
            Counts(
                Import(
                    File(
                        Event(
                            Weekly.Replace("Pier", "Slip", StringComparison.Ordinal)
                                + "\nEXDATE;TZID=America/Halifax:20261102T090000"
                        )
                    )
                )
            )
        );
        Assert.Equal(
            ("Review of the week", "Slip", "Bring boots."),
            (school.Now(series).Title, school.Now(series).Place, Assert.Single(school.Now(series).Changes).Note)
        );
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        // Undone in one go.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal(("Review of the week", "Pier"), (school.Now(series).Title, school.Now(series).Place));
        // What was undone comes back from the very file that brought it, and what was done by hand before stays.
        var second = File(
            Event(
                Weekly.Replace("Pier", "Boat house", StringComparison.Ordinal)
                    + "\nEXDATE;TZID=America/Halifax:20261102T090000"
            )
        );
        Assert.Equal("0 1 0 0", Counts(Import(second)));
        Assert.Equal(("Review of the week", "Boat house"), (school.Now(series).Title, school.Now(series).Place));
        Assert.Equal("0 0 1 0", Counts(Import(second)));
        // Undone, and that undone: what the file said counts again.
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        var undone = school.Database.Read(stores => stores.History.Last(series.Calendar, 1)[0].Id);
        Assert.Equal("0 1 0 0", Counts(Review(second)));
        TestSchool.Done(
            school.GoBack.Restore(
                school.Teacher,
                Slug,
                undone - 1,
                school.Database.Read(stores => stores.Calendars.Find(Slug)!.Revision)
            )
        );
        Assert.Equal("0 0 1 0", Counts(Review(second)));
    }

    // 12 Oct 2026 is a no-class day of the school's.
    [Fact]
    public void What_would_have_no_session_is_not_taken_in()
    {
        var file = File(Event("SUMMARY:Feast\nDTSTART;TZID=America/Halifax:20261012T090000\nDURATION:PT1H"));
        Assert.Equal("1 0 0 0", Counts(Review(file)));
        var review = Import(file, new ImportChoices(LeavesOut: true));
        Assert.Equal("0 0 0 1", Counts(review));
        Assert.Contains("would have no session", review.Lines[0].Says, StringComparison.Ordinal);
        Assert.Empty(school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series);
    }

    [Fact]
    public void A_first_import_that_was_undone_comes_again_as_new()
    {
        Import(File(Event(Weekly)));
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Empty(school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series);
        Assert.Equal("1 0 0 0", Counts(Import(File(Event(Weekly)))));
        Assert.Equal("0 0 1 0", Counts(Import(File(Event(Weekly)))));
        Assert.Equal("Pier", Only().Place);
    }

    // A file that comes every night is remembered for a while, and not for ever.
    [Fact]
    public void What_files_said_is_kept_for_twenty_times()
    {
        for (var at = 0; at < 24; at++)
            Import(File(Event(Weekly.Replace("Pier", $"Pier {at}", StringComparison.Ordinal))));
        Assert.Equal(20L, school.Execute("select count(*) from imports"));
        Assert.Equal(
            "0 0 1 0",
            Counts(Import(File(Event(Weekly.Replace("Pier", "Pier 23", StringComparison.Ordinal)))))
        );
    }

    [Fact]
    public void A_material_that_was_removed_by_hand_does_not_come_back_with_a_newer_file()
    {
        const string Attached =
            Weekly + "\nATTACH:https://files.skerry.example/tides.pdf\nATTACH:https://files.skerry.example/rocks.pdf";
        Import(File(Event(Attached)));
        school.Execute("delete from materials where title = 'tides.pdf'");
        Assert.Equal(
            "0 1 0 0",
            Counts(
                Import(
                    File(
                        Event(
                            Attached.Replace("Pier", "Slip", StringComparison.Ordinal)
                                + "\nATTACH:https://files.skerry.example/winds.pdf"
                        )
                    )
                )
            )
        );
        Assert.Equal(
            ["rocks.pdf", "winds.pdf"],
            school
                .Database.Read(stores => stores.Materials.Of(Only().Calendar))
                .Select(material => material.Title)
                .Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public void What_was_taken_off_comes_back_and_a_name_that_is_taken_elsewhere_is_told_apart()
    {
        Import(File(Event(Weekly)));
        var series = Only();
        TestSchool.Done(school.TakeOff.Do(school.Teacher, Slug, series.Id, series.Version));
        Assert.Equal("1 0 0 0", Counts(Import(File(Event(Weekly)))));
        Assert.Equal(series.Id, Only().Id);
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "French 8",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Beet,
                    MarkShape.Ring,
                    OpenTo.Anyone
                )
            )
        );
        // What waits to be reviewed for one calendar is not taken in on another.
        var id = TestSchool.Done(school.Import.Begin(school.Teacher, Slug, null, "year.ics", File(Event(Weekly))));
        Assert.IsType<Outcome<ImportReview>.NotFound>(
            school.Import.SaveChoices(school.Teacher, new Slug("french-8"), id, new ImportChoices())
        );
        Assert.IsType<Outcome<ImportReview>.NotFound>(
            school.Import.Review(school.Teacher, new Slug("french-8"), id, new ImportChoices())
        );
        Assert.Equal("1 0 0 0", Counts(Import(File(Event(Weekly)), slug: new Slug("french-8"))));
        Assert.Equal("0 0 1 0", Counts(Import(File(Event(Weekly)), slug: new Slug("french-8"))));
        Assert.NotEqual(
            series.Uid,
            school.TermSheetQuery.Read(school.Teacher, new Slug("french-8"), null)!.Series.Single().Series.Uid
        );
    }

    [Fact]
    public void Our_own_export_of_a_calendar_changes_nothing_on_it()
    {
        var series = school.Add();
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        school.Change(series, "2026-10-21T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20", "4")));
        school.Change(
            series,
            "2026-10-26T09:50",
            new SessionInput("tell", Title: "Barnacle day", Note: "Bring boots.")
        );
        var rows = school.Rows();
        Assert.Equal("0 0 1 0", Counts(Import(Export())));
        // As a feed has it, with ways in and materials in its descriptions.
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    Core.Publishing.PublicationKind.Feed,
                    new PublicationInput("All", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        var feed = Encoding.UTF8.GetBytes(school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Text!);
        Assert.Equal("0 0 1 0", Counts(Import(feed)));
        Assert.Equal(rows.Split(' ')[..5], school.Rows().Split(' ')[..5]);
    }

    /// <summary>What the almanac has no place for goes out again; what it has a place for is there; what must not be is told and
    /// gone.</summary>
    [Fact]
    public void Unknown_lines_and_alarms_go_out_again_and_attachments_become_materials()
    {
        var file = File(
            Event(
                """
                SUMMARY:Dive
                DTSTART;TZID=America/Halifax:20261019T090000
                DURATION:PT1H
                RRULE:FREQ=WEEKLY;COUNT=4
                X-BERTH;X-SIDE=port:7
                GEO:44.6;-63.6
                PRIORITY:5
                URL:javascript:alert(1)
                ATTENDEE:mailto:somebody@elsewhere.example
                ATTACH:https://files.skerry.example/tides/03%20tides.pdf
                ATTACH;ENCODING=BASE64;VALUE=BINARY;FILENAME=note.txt:Qm9vdHM=
                ATTACH;ENCODING=BASE64;VALUE=BINARY;FILENAME=run.exe:TVqQAA==
                ATTACH:javascript:alert(1)
                BEGIN:VALARM
                ACTION:DISPLAY
                TRIGGER:-PT15M
                DESCRIPTION:Soon
                END:VALARM
                """
            )
        );
        var review = Import(file);
        var text = Encoding.UTF8.GetString(Export()).ReplaceLineEndings("\n");
        foreach (
            var line in new[]
            {
                "X-BERTH;X-SIDE=port:7",
                "GEO:44.6;-63.6",
                "PRIORITY:5",
                "BEGIN:VALARM\nACTION:DISPLAY\nTRIGGER:-PT15M",
            }
        )
            Assert.Contains(line, text);
        foreach (var line in new[] { "javascript", "ATTENDEE", "somebody@" })
            Assert.DoesNotContain(line, text);
        var materials = school.Database.Read(stores => stores.Materials.Of(Only().Calendar));
        Assert.Equal(["03 tides.pdf", "note.txt"], materials.Select(material => material.Title));
        Assert.All(materials, material =>
            Assert.Equal(Core.Materials.MaterialAudience.PeopleOfTheCalendar, material.Audience)
        );
        Assert.Equal(4, review.Lines[0].Remarks.Count);
        // Into an empty calendar and out again: the same lines.
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "French 8",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Beet,
                    MarkShape.Ring,
                    OpenTo.Anyone
                )
            )
        );
        var once = Export();
        Import(once, slug: new Slug("french-8"));
        static string[] Lines(byte[] bytes) =>
            [
                .. Encoding
                    .UTF8.GetString(bytes)
                    .Split("\r\n")
                    .SkipWhile(line => line != "BEGIN:VEVENT")
                    .Where(line => !line.StartsWith("UID", StringComparison.Ordinal))
                    .Order(StringComparer.Ordinal),
            ];
        Assert.Equal(Lines(once), Lines(Export(new Slug("french-8"))));
        // Nothing of it is in a feed.
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    Core.Publishing.PublicationKind.Feed,
                    new PublicationInput("All", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        Assert.DoesNotContain("X-BERTH", school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Text!);
    }

    [Fact]
    public void A_zone_of_the_file_s_own_becomes_one_that_goes_like_it()
    {
        var review = Import(
            File(
                Event("DTSTART;TZID=Own:20261019T090000\nDURATION:PT1H\nRRULE:FREQ=WEEKLY;COUNT=6"),
                ICalendarFileTests.OwnZone
            )
        );
        // The rules of New York from 2007 on: of these there are several, and all of them go alike for these sessions.
        var moment = Instant.FromUtc(2026, 12, 1, 0, 0);
        Assert.Equal(Offset.FromHours(-5), Only().Pattern.Zone.GetUtcOffset(moment));
        Assert.Contains(
            "goes like",
            Assert.Single(review.Lines[0].Remarks, one => one.Contains("Own", StringComparison.Ordinal))
        );
    }

    [Fact]
    public void Private_entries_stay_private_and_somebody_else_s_are_left_alone()
    {
        TestSchool.Done(
            school.Share.Give(
                school.Teacher,
                Slug,
                new Grantee.OnePerson(school.Helper.Person!.Value),
                AccessLevel.Contributor
            )
        );
        Import(File(Event("CLASS:CONFIDENTIAL\n" + Weekly)));
        Assert.True(Only().IsPrivate);
        var rows = school.Rows();
        var review = Import(
            File(Event(Weekly.Replace("Review", "Mine now", StringComparison.Ordinal))),
            who: school.Helper
        );
        Assert.Equal("0 0 0 1", Counts(review));
        Assert.Equal(rows, school.Rows());
        Assert.Equal("1 0 0 0", Counts(Import(File(Event(Weekly, "2")), who: school.Helper)));
        // Another's review is nobody else's to see.
        var id = TestSchool.Done(school.Import.Begin(school.Helper, Slug, null, "a.ics", File(Event(Weekly))));
        Assert.IsType<Outcome<ImportReview>.NotFound>(
            school.Import.Review(school.Teacher, Slug, id, new ImportChoices())
        );
    }

    /// <summary>What is no calendar, or no whole one, is told and changes nothing.</summary>
    public static TheoryData<string, byte[], string> Bad =>
        new()
        {
            {
                "cut off",
                Encoding.UTF8.GetBytes("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20261019T0900"),
                "cut off"
            },
            { "binary", [0, 1, 2, 255, 254, 13, 10, 0], "no text" },
            {
                "a page to sign in at",
                Encoding.UTF8.GetBytes("<!DOCTYPE html><html><body>Sign in</body></html>"),
                "web page"
            },
            { "words", Encoding.UTF8.GetBytes("Biology MWF 8:00-8:50"), "Paste a timetable" },
            { "no event", File(""), "no event" },
            { "too large", new byte[ImportFile.Largest + 1], "larger" },
        };

    [Theory]
    [MemberData(nameof(Bad), DisableDiscoveryEnumeration = true)]
    public void What_is_no_whole_calendar_is_told(string what, byte[] file, string says)
    {
        var rows = school.Rows();
        var problem = Assert.Single(TestSchool.Refused(school.Import.Begin(school.Teacher, Slug, null, "x", file)));
        Assert.True(problem.Message.Contains(says, StringComparison.Ordinal), $"{what}: {problem.Message}");
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void Hostile_events_are_refused_one_by_one_and_the_others_taken_in()
    {
        var deep =
            string.Concat(Enumerable.Repeat("BEGIN:X\n", 400)) + string.Concat(Enumerable.Repeat("END:X\n", 400));
        var review = Import(
            File(
                string.Concat(
                    Event("SUMMARY:second by second\nDTSTART:20261019T090000\nRRULE:FREQ=SECONDLY", "s"),
                    Event("SUMMARY:long ago\nDTSTART;VALUE=DATE:18930101", "l"),
                    Event("SUMMARY:a year long\nDTSTART;VALUE=DATE:20260101\nDTEND;VALUE=DATE:20270101", "y"),
                    Event("SUMMARY:no start", "n"),
                    Event("SUMMARY:cancelled\nSTATUS:CANCELLED\nDTSTART;VALUE=DATE:20261019", "c"),
                    Event("SUMMARY:deep\nDTSTART;VALUE=DATE:20261019\n" + deep, "d"),
                    Event("SUMMARY:<script>alert(1)</script>\nDTSTART;VALUE=DATE:20261019", "h"),
                    string.Concat(
                        Enumerable
                            .Range(0, 10_000)
                            .Select(at =>
                                Event($"SUMMARY:doubled {at}\nSEQUENCE:{at}\nDTSTART;VALUE=DATE:20261019", "u")
                            )
                    )
                )
            )
        );
        Assert.Equal("3 0 0 5", Counts(review));
        Assert.Equal(
            ["deep", "<script>alert(1)</script>", "doubled 9999"],
            school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Series.Select(one => one.Series.Title)
        );
    }

    /// <summary>A table with a row each session, as an export writes it, and as others have it.</summary>
    [Fact]
    public void A_table_is_taken_in_and_known_again()
    {
        var series = school.Add(TestSchool.Good with { Link = "", NumberLabel = "Review", Description = "" });
        school.Change(series, "2026-10-16T09:50", new SessionInput("leave-out"));
        school.Change(series, "2026-10-21T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20", "4")));
        school.Change(
            series,
            "2026-10-26T09:50",
            new SessionInput("tell", Title: "=HYPERLINK(1)", Note: "Bring boots.")
        );
        var table = Export(format: ExportFormat.Csv);
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "French 8",
                    CalendarKind.Class,
                    "",
                    "",
                    MarkColour.Beet,
                    MarkShape.Ring,
                    OpenTo.Anyone
                )
            )
        );
        Assert.Equal("1 0 0 0", Counts(Import(table, slug: new Slug("french-8"))));
        Assert.Equal(Sessions(Export()), Sessions(Export(new Slug("french-8"))));
        Assert.Equal("0 0 1 0", Counts(Import(table, slug: new Slug("french-8"))));
        var others =
            "Subject;Start Date;Start Time;End Date;End Time;Location\nReef trip;23/10/2026;3:00 PM;25/10/2026;1:00 PM;Pier\n"
            + "Open house;14 Nov;;;;\nBad;32/13/2026;;;;\n;1 Nov;;;;\nHalf;1 Nov;9:00;;;\n"
            + "Open house;14 Nov;;;;Hall\nNoon;1 Nov;12:00;;12:00;\n";
        var review = Import(Encoding.UTF8.GetBytes(others), slug: new Slug("french-8"));
        Assert.Equal("2 0 0 0", Counts(review));
        Assert.Equal(["Row 4", "Row 5", "Row 6", "Row 8", "Row 7"], review.Remarks.Select(remark => remark[..5]));
        Assert.Contains(
            "2026-10-23T15:00:00-03:00 2026-10-25T13:00:00-03:00 Reef trip",
            Sessions(Export(new Slug("french-8")))
        );
        Assert.Contains("2026-11-14 2026-11-15 Open house", Sessions(Export(new Slug("french-8"))));
    }

    [Fact]
    public void Holidays_of_a_file_become_rows_to_be_reviewed()
    {
        var form = TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).Input;
        var read = TestSchool.Done(
            school.SchoolTime.FillHolidays(
                school.Coordinator,
                form,
                File(
                    string.Concat(
                        Event("SUMMARY:Thanksgiving\nDTSTART;VALUE=DATE:20261012", "a"),
                        Event("SUMMARY:Winter break\nDTSTART;VALUE=DATE:20261219\nDTEND;VALUE=DATE:20270104", "b"),
                        Event("SUMMARY:Early dismissal\nDTSTART:20261119T160000Z", "c"),
                        Event("SUMMARY:Founders\nDTSTART;VALUE=DATE:20200301\nRRULE:FREQ=YEARLY", "d")
                    )
                )
            )
        );
        var added = read
            .Input.NoClass!.Skip(form.NoClass!.Count)
            .Select(row => $"{row.First} {row.Last} {row.Name}")
            .Order()
            .ToList();
        Assert.Equal(
            [
                "2026-03-01 2026-03-01 Founders",
                "2026-12-19 2027-01-03 Winter break",
                "2027-03-01 2027-03-01 Founders",
                "2028-03-01 2028-03-01 Founders",
                "2029-03-01 2029-03-01 Founders",
            ],
            added
        );
        Assert.Contains(read.Remarks, remark => remark.Contains("1 was in it already", StringComparison.Ordinal));
        Assert.IsType<Outcome<HolidaysRead>.NotAllowed>(school.SchoolTime.FillHolidays(school.Teacher, form, []));
        Assert.Equal(
            form.NoClass!.Count,
            TestSchool.Done(school.SchoolTime.Open(school.Coordinator)).Input.NoClass!.Count
        );
    }
}
