using System.Diagnostics;
using System.Reflection;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using FsCheck.Fluent;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Formats;
using JollyAlmanac.Formats.ICalendar;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>The same calendar in other forms: jCal, JSCalendar, a table, sessions.</summary>
public sealed class FormTests
{
    private static Component Read(string text) =>
        ICalendarReader.Read(Encoding.UTF8.GetBytes(text.ReplaceLineEndings("\r\n"))).Calendars.Single();

    private static void Same(string expected, byte[] actual) =>
        Assert.True(
            JsonNode.DeepEquals(JsonNode.Parse(expected), JsonNode.Parse(actual)),
            $"expected {JsonNode.Parse(expected)!.ToJsonString()}\nfound {Encoding.UTF8.GetString(actual)}"
        );

    /// <summary>RFC 7265, appendix B.1 (from memory).</summary>
    [Fact]
    public void JCal_is_as_the_standard_shows_it() =>
        Same(
            """
            ["vcalendar",
              [["calscale", {}, "text", "GREGORIAN"], ["prodid", {}, "text", "-//Example Inc.//Example Calendar//EN"], ["version", {}, "text", "2.0"]],
              [["vevent",
                [["dtstamp", {}, "date-time", "2008-02-05T19:12:24Z"], ["dtstart", {}, "date", "2008-10-06"],
                 ["summary", {}, "text", "Planning meeting"], ["uid", {}, "text", "4088E990AD89CB3DBB484909"]],
                []]]]
            """,
            JCal.Of(
                Read(
                    """
                    BEGIN:VCALENDAR
                    CALSCALE:GREGORIAN
                    PRODID:-//Example Inc.//Example Calendar//EN
                    VERSION:2.0
                    BEGIN:VEVENT
                    DTSTAMP:20080205T191224Z
                    DTSTART:20081006
                    SUMMARY:Planning meeting
                    UID:4088E990AD89CB3DBB484909
                    END:VEVENT
                    END:VCALENDAR
                    """
                )
            )
        );

    /// <summary>What ical.js 2.2.1 makes of 300 random feeds and of each kind of value is what we make of them.</summary>
    [Fact]
    public async Task JCal_is_what_a_library_makes_of_the_same_feed()
    {
        var token = TestContext.Current.CancellationToken;
        List<string> texts =
        [
            .. FeedTests
                .AllSeries()
                .Generator.Sample(300, 30)
                .Select(series =>
                    (Plan: Planner.PlanOf(series, FeedTests.SchoolTimeOf(series.Pattern.Zone)), series.Pattern.Zone)
                )
                .Where(one => one.Plan.Sessions.Length > 0)
                .Select(one => FeedTests.TextOf(one.Plan, FeedTests.SchoolTimeOf(one.Zone))),
        ];
        texts.Add(
            """
            BEGIN:VCALENDAR
            VERSION:2.0
            BEGIN:VEVENT
            UID:1
            GEO:44.65;-63.57
            PRIORITY:3
            CATEGORIES:a\,b,c
            SUMMARY:Two\nlines\; and more
            RDATE;VALUE=PERIOD:20261103T100000Z/20261103T113000Z,20261104T100000Z/PT30M
            RRULE:FREQ=MONTHLY;INTERVAL=2;BYDAY=-1FR,1MO;BYMONTHDAY=1;COUNT=3
            ATTENDEE;CN="A, B";MEMBER="mailto:a@b.example","mailto:c@d.example":mailto:e@f.example
            URL:https://skerry.example/a,b
            BEGIN:VALARM
            TRIGGER:-PT15M
            END:VALARM
            END:VEVENT
            END:VCALENDAR

            """.ReplaceLineEndings("\r\n")
        );
        var folder = Assembly
            .GetExecutingAssembly()
            .GetCustomAttributes<AssemblyMetadataAttribute>()
            .Single(one => one.Key == "ReferenceFolder")
            .Value!;
        using var node = Process.Start(
            new ProcessStartInfo("node", "jcal.mjs")
            {
                WorkingDirectory = folder,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
            }
        )!;
        var reading = node.StandardOutput.ReadToEndAsync(token);
        foreach (var text in texts)
            await node.StandardInput.WriteLineAsync(JsonSerializer.Serialize(text));
        node.StandardInput.Close();
        var answers = (await reading).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        await node.WaitForExitAsync(token);
        Assert.Equal(texts.Count, answers.Length);
        foreach (var (text, answer) in texts.Zip(answers))
        {
            var (theirs, ours) = (JsonNode.Parse(answer)!, JsonNode.Parse(JCal.Of(Read(text)))!);
            Level(theirs.AsArray(), ours.AsArray());
            Assert.True(
                JsonNode.DeepEquals(theirs, ours),
                $"{text}\ntheirs {theirs.ToJsonString()}\nours   {ours.ToJsonString()}"
            );
        }
    }

    // The library does not know the properties of RFC 7986, and calls their type unknown; what it says of others counts.
    private static void Level(JsonArray theirs, JsonArray ours)
    {
        foreach (var (their, our) in theirs[1]!.AsArray().Zip(ours[1]!.AsArray()))
            if (
                their![2]!.GetValue<string>() == "unknown"
                && their[0]!.GetValue<string>() is "name" or "color" or "description"
            )
                their[2] = our![2]!.DeepClone();
        foreach (var (their, our) in theirs[2]!.AsArray().Zip(ours[2]!.AsArray()))
            Level(their!.AsArray(), our!.AsArray());
    }

    /// <summary>After the example of recurring events with overrides of RFC 8984 §6 (from memory), told from iCalendar.</summary>
    [Fact]
    public void JSCalendar_tells_changed_sessions_as_patches() =>
        Same(
            """
            {"@type": "Group", "uid": "g", "entries": [{
              "@type": "Event", "uid": "1", "updated": "2020-01-01T00:00:00Z", "title": "Calculus I", "start": "2020-01-08T09:00:00",
              "timeZone": "Europe/London", "duration": "PT1H30M",
              "locations": {"1": {"@type": "Location", "name": "Math lab room 1"}},
              "recurrenceRules": [{"@type": "RecurrenceRule", "frequency": "weekly", "until": "2020-06-24T09:00:00"}],
              "recurrenceOverrides": {
                "2020-01-07T14:00:00": {},
                "2020-04-01T09:00:00": {"excluded": true},
                "2020-06-25T09:00:00": {"title": "Calculus I Exam", "start": "2020-06-25T10:00:00", "duration": "PT2H",
                  "locations": {"1": {"@type": "Location", "name": "Big Auditorium"}}}}}]}
            """,
            JSCalendar.Of(
                Read(
                    """
                    BEGIN:VCALENDAR
                    VERSION:2.0
                    BEGIN:VEVENT
                    UID:1
                    DTSTAMP:20200101T000000Z
                    DTSTART;TZID=Europe/London:20200108T090000
                    DTEND;TZID=Europe/London:20200108T103000
                    SUMMARY:Calculus I
                    LOCATION:Math lab room 1
                    RRULE:FREQ=WEEKLY;UNTIL=20200624T080000Z
                    RDATE;TZID=Europe/London:20200107T140000,20200108T090000
                    EXDATE;TZID=Europe/London:20200401T090000
                    END:VEVENT
                    BEGIN:VEVENT
                    UID:1
                    DTSTAMP:20200101T000000Z
                    RECURRENCE-ID;TZID=Europe/London:20200625T090000
                    DTSTART;TZID=Europe/London:20200625T100000
                    DTEND;TZID=Europe/London:20200625T120000
                    SUMMARY:Calculus I Exam
                    LOCATION:Big Auditorium
                    END:VEVENT
                    END:VCALENDAR
                    """
                ),
                "g"
            )
        );

    [Fact]
    public void Dates_and_places_by_number_are_told_as_JSCalendar_has_them() =>
        Same(
            """
            {"@type": "Group", "uid": "g", "entries": [{
              "@type": "Event", "uid": "2", "updated": "2026-01-01T00:00:00Z", "title": "Open day", "start": "2026-11-02T00:00:00",
              "showWithoutTime": true, "duration": "P2D", "status": "tentative", "privacy": "private", "keywords": {"a,b": true, "c": true},
              "recurrenceRules": [{"@type": "RecurrenceRule", "frequency": "monthly", "count": 3, "firstDayOfWeek": "su",
                "byDay": [{"@type": "NDay", "day": "fr", "nthOfPeriod": -1}], "byMonth": ["11"]}]}]}
            """,
            JSCalendar.Of(
                Read(
                    """
                    BEGIN:VCALENDAR
                    BEGIN:VEVENT
                    UID:2
                    DTSTAMP:20260101T000000Z
                    DTSTART;VALUE=DATE:20261102
                    DTEND;VALUE=DATE:20261104
                    SUMMARY:Open day
                    STATUS:TENTATIVE
                    CLASS:PRIVATE
                    CATEGORIES:a\,b,c
                    RRULE:FREQ=MONTHLY;COUNT=3;WKST=SU;BYDAY=-1FR;BYMONTH=11
                    END:VEVENT
                    END:VCALENDAR
                    """
                ),
                "g"
            )
        );

    /// <summary>
    /// A copy holds just the days asked for, at the level asked for, and says in each session that it does not follow changes.
    /// </summary>
    [Theory]
    [InlineData(AccessLevel.Full, "Tidepool Biology 9A", true)]
    [InlineData(AccessLevel.Outline, "Tidepool Biology 9A", false)]
    [InlineData(AccessLevel.Busy, "Busy", false)]
    public void A_copy_says_what_it_is(AccessLevel level, string title, bool hasDetails)
    {
        using var school = new TestSchool();
        var series = school.Add();
        school.Change(series, "2026-10-19T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20")));
        var text = TestSchool.Done(
            school.Copies.Do(
                school.Teacher,
                TestSchool.Slug,
                new CopyInput(level, "2026-10-14", "2026-10-21"),
                TestSchool.Root
            )
        );
        var file = ICalendarReader.Read(Encoding.UTF8.GetBytes(text));
        Assert.Empty(ICalendarCheck.Of(file));
        Assert.Equal(
            ["2026-10-14", "2026-10-16", "2026-10-20", "2026-10-21"],
            ICalendarSessions
                .Of(file, null, null, null)
                .Sessions.Select(session =>
                    session.Start.Time.Date.ToString("uuuu-MM-dd", System.Globalization.CultureInfo.InvariantCulture)
                )
        );
        Assert.All(ICalendarSessions.Of(file, null, null, null).Sessions, session =>
            Assert.Equal(title, session.Summary)
        );
        foreach (var part in file.Calendars[0].Parts.Where(part => part.Name == "VEVENT"))
            Assert.EndsWith(
                "A copy of 14 Oct 2026. It does not follow changes; what is so now stands at https://almanac.example/c/tidepool-biology-9a",
                ContentLine.FromText(part.Find("DESCRIPTION")!.Value),
                StringComparison.Ordinal
            );
        Assert.Equal(hasDetails, text.Contains("Bring boots", StringComparison.Ordinal));
        // What cannot be made is said beside its field, and nothing is written down.
        var rows = school.Rows();
        foreach (
            var (first, last, field) in new[]
            {
                ("", "2026-10-21", "First"),
                ("2026-10-21", "2026-10-14", "Last"),
                ("2027-08-01", "2027-08-02", "First"),
                ("2026-10-14", "soon", "Last"),
            }
        )
            Assert.Contains(
                TestSchool.Refused(
                    school.Copies.Do(
                        school.Teacher,
                        TestSchool.Slug,
                        new CopyInput(level, first, last),
                        TestSchool.Root
                    )
                ),
                problem => problem.Field == field
            );
        Assert.Single(
            TestSchool.Refused(
                school.Copies.Do(
                    school.Teacher,
                    TestSchool.Slug,
                    new CopyInput(AccessLevel.Manager, "2026-10-14", "2026-10-21"),
                    TestSchool.Root
                )
            )
        );
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public async Task A_copy_by_mail_goes_to_whom_it_is_for_and_is_made_when_it_goes()
    {
        using var school = new TestSchool();
        var series = school.Add();
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Student.Person!.Value.Value}, 'full' from calendars where slug = '{TestSchool.Slug}'"
        );
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {school.Helper.Person!.Value.Value}, 'busy' from calendars where slug = '{TestSchool.Slug}'"
        );
        // Anyone may read it: that names nobody.
        var input = new CopyInput(
            AccessLevel.Outline,
            "2026-10-14",
            "2026-10-21",
            CopyTo.Readers,
            "For your holidays."
        );
        Assert.Equal(1, TestSchool.Done(school.Copies.Send(school.Teacher, TestSchool.Slug, input)));
        school.Change(series, "2026-10-19T09:50", new SessionInput("move", new SessionTimeInput("2026-10-20")));
        Assert.Equal(1, await school.Post.Send(TestContext.Current.CancellationToken));
        var letter = Assert.Single(school.Carrier.Letters);
        Assert.Equal("teodor@skerry.example", letter.ToAddress);
        Assert.Contains("Orla Marchbanks sends you Tidepool Biology 9A", letter.Text, StringComparison.Ordinal);
        Assert.Contains("For your holidays.", letter.Text, StringComparison.Ordinal);
        Assert.Contains("does not follow changes", letter.Text, StringComparison.Ordinal);
        Assert.Equal("tidepool-biology-9a-copy.ics", letter.File!.Name);
        var file = ICalendarReader.Read(Encoding.UTF8.GetBytes(letter.File.Calendar));
        Assert.Equal(
            [14, 16, 20, 21],
            ICalendarSessions.Of(file, null, null, null).Sessions.Select(session => session.Start.Time.Day)
        );
        Assert.DoesNotContain("Bring boots", letter.File.Calendar, StringComparison.Ordinal);
        // As a message it is a file beside the words, and nothing that asks to be taken in (RFC 2183, RFC 6047 §2.4).
        using var message = Demo.Mail.MailDrop.MessageOf(
            letter,
            new MimeKit.MailboxAddress("", "almanac@skerry.example")
        );
        var part = Assert.IsType<MimeKit.MimePart>(Assert.Single(message.Attachments));
        Assert.Equal(
            ("tidepool-biology-9a-copy.ics", "text/calendar", null),
            (part.FileName, part.ContentType.MimeType, part.ContentType.Parameters["method"])
        );
        // To oneself; and to nobody who may not read it when it goes, nor from somebody who may not give it.
        Assert.Equal(
            1,
            TestSchool.Done(school.Copies.Send(school.Teacher, TestSchool.Slug, input with { To = CopyTo.Me }))
        );
        Assert.Equal(1, await school.Post.Send(TestContext.Current.CancellationToken));
        Assert.Contains("You asked for", school.Carrier.Letters[1].Text, StringComparison.Ordinal);
        // To some of them alone.
        school.Execute($"update grants set level = 'full' where person_id = {school.Helper.Person!.Value.Value}");
        Assert.Equal(2, TestSchool.Done(school.Copies.Send(school.Teacher, TestSchool.Slug, input)));
        Assert.Equal(
            1,
            TestSchool.Done(
                school.Copies.Send(school.Teacher, TestSchool.Slug, input with { OnlyOthers = "eilidh@skerry.example" })
            )
        );
        Assert.Equal(3, await school.Post.Send(TestContext.Current.CancellationToken));
        Assert.Equal("eilidh@skerry.example", school.Carrier.Letters[^1].ToAddress);
        school.Execute($"update grants set level = 'busy' where person_id = {school.Helper.Person!.Value.Value}");
        school.Execute("delete from grants where grantee = 'anyone'");
        foreach (var taken in new[] { school.Student, school.Teacher })
        {
            TestSchool.Done(school.Copies.Send(school.Teacher, TestSchool.Slug, input));
            // An editor still reads all of it, and gives nothing out.
            school.Execute(
                $"update grants set level = '{(taken == school.Student ? "busy" : "editor")}' where person_id = {taken.Person!.Value.Value}"
            );
            Assert.Equal(0, await school.Post.Send(TestContext.Current.CancellationToken));
            school.Execute(
                $"update grants set level = '{(taken == school.Student ? "full" : "manager")}' where person_id = {taken.Person!.Value.Value}"
            );
        }
    }

    [Fact]
    public void A_copy_by_mail_that_cannot_go_is_told()
    {
        using var school = new TestSchool();
        school.Add();
        var good = new CopyInput(AccessLevel.Full, "2026-10-14", "2026-10-21");
        var rows = school.Rows();
        foreach (
            var (input, field) in new[]
            {
                (good with { To = CopyTo.Readers }, "To"),
                (good with { To = (CopyTo)9 }, "To"),
                (good with { First = "" }, "First"),
                (good with { First = "2027-08-01", Last = "2027-08-02" }, "First"),
                (good with { Says = new string('x', 1001) }, "Says"),
                (good with { To = CopyTo.Readers, OnlyOthers = "stranger@elsewhere.example" }, "Only"),
                (good with { Level = AccessLevel.Manager }, "Level"),
            }
        )
            Assert.Contains(TestSchool.Refused(school.Copies.Send(school.Teacher, TestSchool.Slug, input)), problem =>
                problem.Field == field
            );
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void An_export_says_in_each_form_what_the_term_sheet_says()
    {
        using var school = new TestSchool();
        var series = school.Add();
        school.Change(series, "2026-11-06T09:50", new SessionInput("leave-out"));
        school.Add(TestSchool.Good with { Title = "=HYPERLINK(1)", IsPrivate = true, Days = ["2"], Link = "" });
        byte[] Of(ExportFormat format, LocalDate? from = null, LocalDate? to = null) =>
            school.Database.Read(stores =>
                ExportCalendar.Of(
                    stores,
                    TestSchool.Slug,
                    from,
                    to,
                    format,
                    TestSchool.Root,
                    school.Clock.GetCurrentInstant()
                )
            )!;
        var told = school
            .TermSheetQuery.Read(school.Teacher, TestSchool.Slug, null)!
            .Sheet!.Weeks.SelectMany(week => week.Days)
            .SelectMany(day => day.Sessions)
            .Select(shown => shown.Session)
            .ToList();
        var sessions = Encoding
            .UTF8.GetString(Of(ExportFormat.Sessions))
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(line => JsonNode.Parse(line)!)
            .ToList();
        Assert.Equal(told.Count(session => session.IsVisible), sessions.Count);
        Assert.Equal(
            told.Count(session => session.IsCancelled),
            sessions.Count(one => one["status"]!.GetValue<string>() == "CANCELLED")
        );
        Assert.Equal("2026-09-14T09:50:00-03:00", sessions[0]["start"]!.GetValue<string>());
        // A cell that a spreadsheet would run is text.
        var table = CsvTable.Read("a.csv", Of(ExportFormat.Csv));
        Assert.Equal(sessions.Count, table.Rows.Length);
        Assert.Contains("=HYPERLINK(1)", Encoding.UTF8.GetString(Of(ExportFormat.Csv)), StringComparison.Ordinal);
        Assert.DoesNotMatch("(^|[,\"\n])=HYPERLINK", Encoding.UTF8.GetString(Of(ExportFormat.Csv)));
        Assert.Empty(ICalendarCheck.Of(ICalendarReader.Read(Of(ExportFormat.Ics))));
        Assert.Equal(2, JsonNode.Parse(Of(ExportFormat.JSCalendar))!["entries"]!.AsArray().Count);
        Assert.Equal("vcalendar", JsonNode.Parse(Of(ExportFormat.JCal))![0]!.GetValue<string>());
        // The span is half open.
        var (day, next) = (new LocalDate(2026, 10, 14), new LocalDate(2026, 10, 15));
        Assert.Single(
            Encoding
                .UTF8.GetString(Of(ExportFormat.Sessions, day, next))
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
        );
        Assert.Single(CsvTable.Read("a.csv", Of(ExportFormat.Csv, day, next)).Rows);
        Assert.Null(
            school.Database.Read(stores =>
                ExportCalendar.Of(
                    stores,
                    new Slug("nope"),
                    null,
                    null,
                    ExportFormat.Ics,
                    null,
                    school.Clock.GetCurrentInstant()
                )
            )
        );
        // Without an address of the almanac none is made up.
        Assert.DoesNotContain(
            "almanac.invalid",
            Encoding.UTF8.GetString(
                school.Database.Read(stores =>
                    ExportCalendar.Of(
                        stores,
                        TestSchool.Slug,
                        null,
                        null,
                        ExportFormat.Ics,
                        null,
                        school.Clock.GetCurrentInstant()
                    )
                )!
            ),
            StringComparison.Ordinal
        );
    }
}
